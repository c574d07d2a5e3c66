// Dragging in the view what the step being edited is made of: the number in its sentence, the view and the arrow are one.

import { UNITS } from '../facts.js';
import { fixed } from '../numbers.js';

const UNIT_AT_END = /(mm|cm|m|in|deg|°)\s*$/;
const DEGREE = Math.PI / 180;

/** @type {ThisType<any> & Record<string, any>} */
export const handling = {
  // Show what can be dragged of a step, or of the one there was; null puts it away.
  handleStep(step) {
    this.handled = step;
    this.showHandles();
  },

  showHandles() {
    const step = this.result?.steps.find(({ id }) => id === this.handled);
    this.showWay(this.picking || this.sk.on ? null : step);
    const shown = step && !this.picking && !this.sk.on ? step.handles : [];
    this.viewer.handles.show(
      shown.flatMap((handle) => {
        const control = this.fieldOf(handle.field);
        if (!control) return [];
        const unit = UNIT_AT_END.exec(control.dataset.kept)?.[1] || '';
        const scale = handle.kind === 'angle' ? DEGREE : UNITS[unit || this.unit];
        const said = (value) => `${fixed(value / scale, 6)}${unit === '°' ? '°' : unit && ` ${unit}`}`;
        return [{ ...handle, scale, said, words: handle.field.split('.').pop().replaceAll('_', ' ') }];
      }),
    );
  },

  fieldOf(field) {
    return this.sheet.querySelector(
      `input[data-step="${CSS.escape(this.handled)}"][data-field="${CSS.escape(field)}"]`,
    );
  },

  // A handle as it was when what is shown was built.
  builtHandle(field) {
    const step = this.result?.steps.find(({ id }) => id === this.handled);
    return step?.handles.find((handle) => handle.field === field);
  },

  // What the handles tell while they are dragged.
  get heardHandles() {
    return {
      take: (handle) => {
        for (const line of this.sheet.querySelectorAll('.step'))
          line.classList.toggle('is-active', line.dataset.line === this.handled);
        this.tell(`${handle.words}:`, 'drag, Shift goes finer; type a number instead; Esc puts it back');
        this.modes.enter('dragging', () => this.viewer.handles.leave());
      },
      try: (handle, value) => {
        const control = this.fieldOf(handle.field);
        if (control) control.value = handle.said(value);
        this.viewer.followPrint(this.handled, this.builtHandle(handle.field), value);
        this.tryNext({ op: 'set', step: this.handled, field: handle.field, value: handle.said(value) });
      },
      keep: (handle, value) => {
        this.modes.end('dragging');
        this.waiting = null;
        const control = this.fieldOf(handle.field);
        const text = handle.said(value);
        if (control) control.dataset.kept = control.value = text;
        if (Math.abs(value - handle.value) < 1e-12) this.rebuild();
        else this.edit({ op: 'set', step: this.handled, field: handle.field, value: text });
      },
      leave: (handle) => {
        this.modes.end('dragging');
        this.waiting = null;
        const control = this.fieldOf(handle.field);
        if (control) control.value = control.dataset.kept;
        this.tell('Ready:', 'left as it was');
        this.rebuild();
      },
      type: (handle, key) => {
        const control = this.fieldOf(handle.field);
        if (!control) return;
        control.focus();
        control.value = key;
        control.setSelectionRange(1, 1);
        control.dispatchEvent(new Event('input', { bubbles: true }));
      },
      blur: () => this.handleStep(null),
    };
  },

  // One trial at a time: while one is built only the newest waits.
  async tryNext(edit) {
    this.waiting = edit;
    if (this.trial) return;
    this.trial = true;
    try {
      while (this.waiting) {
        const next = this.waiting;
        this.waiting = null;
        await this.preview(next);
      }
    } finally {
      this.trial = false;
    }
  },
};
