// Two revisions, or two documents, side by side: one camera for both views, what differs painted and listed.

import { Viewer } from './view/viewer.js';
import { finished, post } from './api.js';
import { inUnit } from './numbers.js';

const root = document.getElementById('compare');
const tell = (lead, say) => {
  document.getElementById('lead').textContent = lead;
  document.getElementById('say').textContent = say;
};
const make = (tag, text = '', css = '') =>
  Object.assign(document.createElement(tag), { textContent: text, className: css });
const ONLY = ['#E0762F', '#0B5D5B'];
const { unit } = root.dataset;

const views = ['first', 'second'].map((id) => new Viewer(document.getElementById(id)));
let busy = false;
views.forEach((view, index) => {
  const other = views[1 - index];
  const changed = view.eye.onChange;
  view.eye.onChange = () => {
    changed();
    if (busy) return;
    busy = true;
    const { yaw, pitch, span, target } = view.eye;
    Object.assign(other.eye, { yaw, pitch, span });
    other.eye.target.copy(target);
    other.eye.apply();
    other.invalidate();
    busy = false;
  };
});
window.compareViews = views;

/** @type {Wire.Comparison} */
let result = null;

async function show() {
  const paint = document.getElementById('paint').checked;
  await Promise.all(
    views.map((view, side) => {
      const bodies = result.sides[side].map((body) => ({
        ...body,
        look: { ...body.look, clear: paint && result.only.some((pair) => pair.some((one) => one.mesh)) },
      }));
      const extra = paint
        ? result.only.flatMap((pair, n) =>
            (pair[side].mesh || []).map((mesh, k) => ({
              ...result.sides[side][0],
              id: `only ${n} ${k}`,
              mesh,
              look: { colour: ONLY[side] },
            })),
          )
        : [];
      return view.show([...bodies.filter((body) => body.mesh), ...extra]);
    }),
  );
}

function list() {
  const figures = document.getElementById('figures');
  figures.replaceChildren(
    ...result.figures.map((row) => {
      const line = make('tr', '', row.change === '–' ? 'text-soft' : '');
      line.append(
        make('td', row.name, 'text-soft py-[2px]'),
        make('td', row.first, 'text-right'),
        make('td', row.second, 'text-right'),
        make(
          'td',
          `${row.change}${row.change === '–' ? '' : ` ${row.unit}`}`,
          'text-right font-medium whitespace-nowrap',
        ),
      );
      return line;
    }),
  );
  const words = {
    moved: (c) => `${c.words}: ${inUnit(Math.abs(c.by), unit)} ${c.by > 0 ? 'further out' : 'further in'}`,
    added: (c) => `${c.words}: only in the second`,
    lost: (c) => `${c.words}: only in the first`,
  };
  const trimmed = result.faces.filter((change) => change.kind === 'resized').length;
  const rows = result.faces
    .filter((change) => change.kind !== 'resized')
    .map((change) => {
      const row = make('li', '', 'row cursor-default');
      row.tabIndex = 0;
      row.append(make('span', words[change.kind](change)));
      if (change.walls)
        row.append(
          make(
            'span',
            `wall ${change.walls.map((wall) => inUnit(wall, unit)).join(' → ')}`,
            'text-soft whitespace-nowrap',
          ),
        );
      const light = (on) =>
        views.forEach((view, side) => {
          const face = [change.first, change.second][side];
          view.overlay.light(on && face !== null ? [{ body: result.pairs[change.pair][side], faces: [face] }] : []);
        });
      for (const [event, on] of [
        ['pointerenter', true],
        ['focus', true],
        ['pointerleave', false],
        ['blur', false],
      ])
        row.addEventListener(event, () => light(on));
      return row;
    });
  if (trimmed)
    rows.push(make('li', `${trimmed} face${trimmed > 1 ? 's' : ''} only trimmed otherwise`, 'row text-soft'));
  document
    .getElementById('faces')
    .replaceChildren(...(rows.length ? rows : [make('li', 'All faces are the same.', 'text-soft')]));
  listSteel();
  const steps = result.steps.map((step) => {
    const row = make('li', '', 'row');
    const change =
      step.first === null
        ? 'only in the second'
        : step.second === null
          ? 'only in the first'
          : `${step.first} → ${step.second}`;
    row.append(make('span', step.what), make('b', change, 'font-medium text-right'));
    return row;
  });
  document
    .getElementById('steps')
    .replaceChildren(...(steps.length ? steps : [make('li', 'The sheets are the same.', 'text-soft')]));
  ['first', 'second'].forEach((id, side) => {
    const volume = result.only.reduce((sum, pair) => sum + pair[side].volume, 0);
    const note = document.getElementById(`only-${id}`);
    note.hidden = volume < 1e-6;
    note.replaceChildren(
      Object.assign(make('i', '', 'swatch mr-2'), {}),
      document.createTextNode(`only here: ${inUnit(volume, unit, 3)}`),
    );
    note.querySelector('i').style.background = ONLY[side];
  });
}

// What becomes of the holes of a body, alike ones told together.
function holes(changes) {
  const words = { drilled: 'to be drilled', 'opened up': 'to be opened up', closed: 'to be closed or sleeved' };
  const size = (change) => `${inUnit(change.diameter, unit, 1)}`;
  const told = Object.keys(words).map((verdict) => {
    const mine = changes.filter((change) => change.verdict === verdict).map(size);
    const sizes = [...new Set(mine)].map((one) => `${mine.filter((other) => other === one).length} × Ø${one}`);
    return mine.length ? `holes ${words[verdict]}: ${sizes.join(', ')}` : '';
  });
  return told.filter(Boolean).join('; ');
}

// What becomes of each body of a tool: first what must be made anew, last how many stay as they are.
function listSteel() {
  const volume = (mm3) => inUnit(mm3, unit, 3);
  const words = {
    'to be made anew': (c) => `to be made anew: ${volume(c.on)} would have to be added`,
    new: () => 'new',
    'steel-safe': (c) => `steel-safe: ${volume(c.off)} to be taken off`,
    'no longer there': () => 'no longer there',
    'could not be compared': () => 'could not be compared',
  };
  const rows = Object.keys(words).flatMap((verdict) =>
    result.steel
      .filter((change) => change.verdict === verdict)
      .flatMap((change) => {
        const row = make('li', '', 'row');
        row.append(make('span', change.name), make('b', words[verdict](change), 'font-medium text-right'));
        row.dataset.verdict = verdict;
        return change.holes.length ? [row, make('li', holes(change.holes), 'text-soft mb-2')] : [row];
      }),
  );
  const same = result.steel.filter((change) => change.verdict === 'unchanged').length;
  if (same) rows.push(make('li', `${same} unchanged`, 'row text-soft'));
  document.getElementById('steel-part').hidden = !rows.length;
  document.getElementById('steel').replaceChildren(...rows);
}

const SAID = 2; // bodies told of in the head line; all of them are in the list

async function compare() {
  const number = (side) => Number(document.querySelector(`[data-side="${side}"]`).value) || null;
  const words = document.getElementById('words');
  words.textContent = 'comparing …';
  delete document.documentElement.dataset.ready;
  try {
    /** @type {Wire.Started_Comparison} */
    const answer = await post(`/api/documents/${root.dataset.document}/compare`, {
      other: root.dataset.other,
      first: number('first'),
      second: number('second'),
    });
    const job = await finished(answer.job, (running) => {
      if (running.at) tell('Comparing:', running.at.label);
    });
    if (job.state !== 'done') {
      words.textContent = [job.message, job.hint].filter(Boolean).join(' ');
      words.classList.add('text-fault');
      return;
    }
    result = job.result;
    words.classList.remove('text-fault');
    const unsure = result.sound ? '' : ' What only one of them has could not be worked out exactly.';
    const more = result.words.length - SAID;
    words.textContent =
      result.words.slice(0, SAID).join(' ') + (more > 0 ? ` And ${more} more bodies, in the list.` : '') + unsure;
    words.title = words.textContent;
    list();
    await show();
    tell('Compare:', 'both views turn together; hover a face in the list to light it');
  } catch (problem) {
    words.textContent = [problem.message, problem.hint].filter(Boolean).join(' ');
  } finally {
    document.documentElement.dataset.ready = 'yes';
  }
}

root.addEventListener('change', ({ target }) => {
  if (target.id === 'paint') {
    if (result) show();
    return;
  }
  const url = new URL(location.href);
  const side = target.dataset.side;
  if (target.value) url.searchParams.set(side, target.value);
  else url.searchParams.delete(side);
  if (side === 'other') {
    url.searchParams.delete('second');
    location.assign(url);
    return;
  }
  history.replaceState(null, '', url);
  compare();
});
document.addEventListener('keydown', (event) => {
  if (event.key === 'f' && !event.target.closest('input, select')) views[0].fit();
});
compare();
