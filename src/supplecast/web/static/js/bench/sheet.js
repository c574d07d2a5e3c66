// The sheet's controls: numbers typed with a live preview, choices, chips and the small tools of each step.

import { preset } from '../numbers.js';

const PROMPTS = {
  length: 'type the length, Enter to keep, Esc to leave as it was',
  angle: 'type the angle, Enter to keep, Esc to leave as it was',
  percent: 'type the percentage, Enter to keep, Esc to leave as it was',
  colour: 'type six digits such as #2F6C76, Enter to keep, Esc to leave as it was',
  words: 'type the text, Enter to keep',
  text: 'type the name, Enter to keep',
};

// What is chosen, as JSON, with one entry put in, or taken out if it was there.
function flipped(chosen, one) {
  const held = JSON.parse(chosen);
  return held.includes(one) ? held.filter((other) => other !== one) : [...held, one];
}

// True while fresh HTML is put in place: the focus then comes back by itself, and says nothing new.
let swapping = false;

export function listenToSheet(sheet, bench) {
  let timer = 0;
  let previewed = false;
  let pressed = false;
  let left = null;

  const editOf = (control) =>
    control.dataset.value !== undefined
      ? { op: 'value', name: control.dataset.value, text: control.value }
      : { op: 'set', step: control.dataset.step, field: control.dataset.field, value: control.value };

  const keep = (control) => {
    clearTimeout(timer);
    if (control.value === control.dataset.kept) {
      if (previewed) {
        previewed = false;
        bench.rebuild();
      }
      return;
    }
    control.dataset.kept = control.value;
    previewed = false;
    bench.edit(
      control.dataset.kind === 'text'
        ? { op: 'rename', step: control.dataset.step, name: control.value }
        : editOf(control),
    );
  };

  sheet.addEventListener('focusin', ({ target }) => {
    if (!target.matches('.number')) return;
    left = null;
    const line = target.closest('.step');
    if (swapping) {
      line?.classList.add('is-active');
      return;
    }
    for (const other of sheet.querySelectorAll('.step')) other.classList.toggle('is-active', other === line);
    target.select();
    if (target.dataset.step) bench.handleStep(target.dataset.step);
    const name = target.getAttribute('aria-label') || target.dataset.value;
    bench.tell(
      `${name}:`,
      PROMPTS[target.dataset.kind] || 'type the value, Enter to keep, Esc to leave as it was; blank removes it',
    );
  });

  sheet.addEventListener('focusout', ({ target }) => {
    if (!target.matches('.number') || !target.isConnected || swapping) return;
    left = target.closest('.step');
    if (!pressed) leave();
    keep(target);
  });

  // A line folds when it is left, and what is below moves up: not before the click that left it has landed.
  const leave = () => {
    left?.classList.remove('is-active');
    left = null;
  };
  sheet.addEventListener('pointerdown', () => {
    pressed = true;
    // A sheet that is laid anew under the pointer would lose the click: it waits until the click has landed.
    bench.landed = new Promise((resolve) => {
      document.addEventListener('pointerup', () => setTimeout(resolve), { once: true });
      document.addEventListener('pointercancel', resolve, { once: true });
    });
  });
  sheet.addEventListener('click', leave, { capture: true });
  for (const kind of ['pointerup', 'pointercancel']) {
    document.addEventListener(kind, () => {
      pressed = false;
      setTimeout(leave);
    });
  }

  sheet.addEventListener('input', ({ target }) => {
    if (!target.matches('.number') || target.dataset.kind === 'text') return;
    target.size = Math.max(target.value.length, 1);
    clearTimeout(timer);
    timer = setTimeout(() => {
      if (bench.picking) return; // the view shows what was there before the step
      if (!target.isConnected || document.activeElement !== target) return;
      if (!target.value.trim()) return;
      previewed = true;
      bench.preview(editOf(target));
    }, 140);
  });

  sheet.addEventListener('keydown', (event) => {
    const { target } = event;
    if (!target.matches('.number')) return;
    // In a number that is marked whole, or blank, a stroke is no sign of division: it asks for a step, and the number stays.
    if (event.key === '/' && target.selectionEnd - target.selectionStart === target.value.length) {
      event.preventDefault();
      document.getElementById('add').focus();
      return;
    }
    if (event.key === 'Enter') {
      keep(target);
      target.select();
      if (bench.picking && bench.pick.step === target.dataset.step) bench.donePicking();
    }
    if (event.key === 'Escape') {
      target.value = target.dataset.kept;
      target.classList.remove('is-wrong');
      target.blur();
      bench.tell('Ready:', 'left as it was');
      event.stopPropagation();
    }
  });

  // A colour from the wheel is tried while one looks for it, and kept when the wheel closes.
  sheet.addEventListener('input', ({ target }) => {
    if (target.type !== 'color') return;
    clearTimeout(timer);
    timer = setTimeout(() => bench.preview(editOf(target)), 140);
  });
  sheet.addEventListener('change', ({ target }) => {
    clearTimeout(timer);
    if (target.type === 'color') bench.edit(editOf(target));
    if (target.type === 'file') bench.bringPicture(target);
  });

  // What an entry of a list does comes along with it: it sets a value, lets one pick in the view, or is the value itself.
  sheet.addEventListener('change', ({ target }) => {
    if (target.tagName !== 'SELECT') return;
    const { step, field } = target.dataset;
    const { set, pick } = target.selectedOptions[0].dataset;
    if (pick) bench.startPicking({ step, field, ...JSON.parse(pick) });
    else bench.edit({ op: 'set', step, field, value: set === undefined ? target.value : JSON.parse(set) });
  });

  // A body that may be used up is lit before it is chosen, so that it is seen what would vanish.
  for (const [kind, on] of [
    ['pointerover', true],
    ['focusin', true],
    ['pointerout', false],
    ['focusout', false],
  ]) {
    sheet.addEventListener(kind, ({ target }) => {
      const chip = target.closest('[data-toggle]');
      if (chip && !swapping) bench.lightBody(on ? chip.dataset.toggle : null, chip.textContent.trim());
    });
  }

  sheet.addEventListener('dblclick', ({ target }) => {
    const draw = !target.closest('input, select, button') && target.closest('.step')?.querySelector('[data-draw]');
    if (draw) bench.draw(draw.dataset.draw);
  });

  sheet.addEventListener('click', ({ target }) => {
    const button = target.closest('button');
    if (!button) return;
    const { step, field } = button.dataset;
    if (button.hasAttribute('data-open')) {
      const line = button.closest('.step');
      for (const other of sheet.querySelectorAll('.step')) {
        const open = other === line && !line.classList.contains('is-open');
        other.classList.toggle('is-open', open);
        other.querySelector('[data-open]').setAttribute('aria-expanded', String(open));
      }
      bench.redraw();
    } else if (button.dataset.pick) {
      if (!bench.picksFor(step, field)) bench.startPicking(bench.wantedBy(button));
    } else if (button.dataset.mend) bench.edit(JSON.parse(button.dataset.mend));
    else if (button.hasAttribute('data-put')) bench.putByClick(step, field);
    else if (button.dataset.mute) bench.edit({ op: 'mute', rule: button.dataset.mute, step });
    else if (button.hasAttribute('data-unmute')) bench.edit({ op: 'mute' });
    else if (button.dataset.set) bench.edit({ op: 'set', step, field, value: JSON.parse(button.dataset.set) });
    else if (button.dataset.turn) {
      const value = flipped(button.dataset.chosen, button.dataset.turn).map((pick) => JSON.parse(pick));
      bench.edit({ op: 'set', step, field, value });
    } else if (button.dataset.toggle) {
      bench.edit({ op: 'set', step, field, value: flipped(button.dataset.chosen, button.dataset.toggle) });
    } else if (button.dataset.do) act(button);
    else if (button.dataset.repair)
      bench.edit({
        op: 'repair',
        step: button.dataset.repair,
        field,
        index: Number(button.dataset.index),
        picks: JSON.parse(button.dataset.picks),
      });
    else if (button.hasAttribute('data-place'))
      bench.edit({ op: 'move', step: button.dataset.step, after: button.dataset.place || null });
    else if (button.dataset.show) bench.showPicks(button.dataset.show, JSON.parse(button.dataset.picks));
    else if (button.dataset.use) bench.edit({ op: 'set', step: button.dataset.use, field, value: button.dataset.fits });
    else if (button.dataset.figureFor) bench.offerFigures(button.dataset.figureFor);
    else if (button.dataset.draw) bench.draw(button.dataset.draw);
    else if (button.dataset.areas) {
      const { sketch, chosen } = button.dataset;
      bench.sketcher.open(sketch, { areas: { step, field, sketch, chosen: JSON.parse(chosen) } });
    } else if (button.dataset.unfigure) bench.edit({ op: 'remove figure', step, figure: button.dataset.unfigure });
    else if (button.dataset.try) {
      bench.tryOut({
        op: 'set',
        step: button.dataset.try,
        field: 'part.revision',
        value: Number(button.dataset.revision),
      });
    } else if (button.dataset.catch !== undefined) bench.catchUp();
    else if (button.dataset.begin) bench.beginWith(button.dataset.begin);
    else if (button.dataset.update) {
      bench.edit({
        op: 'set',
        step: button.dataset.update,
        field: 'part.revision',
        value: Number(button.dataset.revision),
      });
    } else if (button.hasAttribute('data-new-value')) newValue(button);
  });

  function act(button) {
    const { step } = button.dataset;
    switch (button.dataset.do) {
      case 'stand':
        bench.stand(step);
        break;
      case 'move':
        bench.offerPlaces(step);
        break;
      case 'rename':
        rename(button);
        break;
      default:
        bench.edit({ op: button.dataset.do, step });
    }
  }

  // A name is typed where the step stands, not in a box of its own.
  function rename(button) {
    const line = button.closest('.step');
    const field = Object.assign(document.createElement('input'), {
      className: 'number',
      value: button.dataset.name,
      size: 20,
      maxLength: 80,
    });
    Object.assign(field.dataset, {
      step: button.dataset.step,
      field: 'name',
      kind: 'text',
      kept: button.dataset.name,
      key: `${button.dataset.step}/rename`,
    });
    field.setAttribute('aria-label', 'Name of this step');
    const row = document.createElement('div');
    row.className = 'note';
    row.append('Name ', field);
    line.append(row);
    field.focus();
  }

  function newValue(button) {
    const row = document.createElement('form');
    row.className = 'flex gap-2 items-baseline';
    const name = Object.assign(document.createElement('input'), { className: 'field w-24', placeholder: 'name' });
    const text = Object.assign(document.createElement('input'), {
      className: 'field w-28',
      placeholder: `${preset(2.2, bench.unit)} ${bench.unit}`,
    });
    const done = Object.assign(document.createElement('button'), { className: 'button', textContent: 'Add' });
    name.setAttribute('aria-label', 'Name of the value');
    text.setAttribute('aria-label', 'Value');
    row.append(name, ' = ', text, done);
    button.replaceWith(row);
    name.focus();
    row.addEventListener('submit', (event) => {
      event.preventDefault();
      if (name.value.trim() && text.value.trim())
        bench.edit({ op: 'value', name: name.value.trim(), text: text.value.trim() });
    });
  }
}

// Put fresh HTML in place of the sheet without losing what is being typed, the focus or the scroll.
export function swapSheet(sheet, html) {
  const active = document.activeElement;
  const held =
    sheet.contains(active) && active.dataset.key
      ? {
          key: active.dataset.key,
          value: active.value,
          dirty: active.value !== active.dataset.kept,
          at: active.selectionStart,
          to: active.selectionEnd,
        }
      : null;
  const scroll = sheet.scrollTop;
  const opened = sheet.querySelector('.step.is-open')?.dataset.line;
  swapping = true;
  sheet.innerHTML = html;
  sheet.scrollTop = scroll;
  if (opened) sheet.querySelector(`[data-line="${CSS.escape(opened)}"]`)?.classList.add('is-open');
  restore(sheet, held);
  swapping = false;
}

function restore(sheet, held) {
  if (!held) return;
  const again = [...sheet.querySelectorAll('[data-key]')].find((control) => control.dataset.key === held.key);
  if (!again) return;
  again.focus({ preventScroll: true });
  if (held.dirty && again.matches('input')) again.value = held.value;
  if (again.matches('input') && held.at !== null) again.setSelectionRange(held.at, held.to);
}
