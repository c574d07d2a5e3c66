// Going through the faces and edges of the model by arrow keys: each is lit, turned to, and said; Space picks it.

import { UNITS } from '../facts.js';
import { exactly } from '../numbers.js';

const PAUSE = 250; // ms that a hand rests before the name is asked for

/** @type {ThisType<any> & Record<string, any>} */
export const walking = {
  // Whether a key is one for the model: while one picks or measures, or where the view has the focus.
  walksBy(event, pressed) {
    if (this.placing || this.onSpot || (pressed && !(this.picking && pressed === this.chipOf()))) return false;
    return this.picking || this.measuring || event.target === this.viewer.canvas;
  },

  // What an arrow or Space does; false for any other key.
  walkKey(key) {
    if (key === 'ArrowRight' || key === 'ArrowLeft') this.walk(key === 'ArrowRight' ? 1 : -1);
    else if (key === 'ArrowUp' || key === 'ArrowDown') this.walkOther();
    else if (key === ' ' && this.walked) this.pickWalked();
    else return false;
    return true;
  },

  get walkKinds() {
    const { wants } = this.viewer;
    if (wants === 'faces') return ['face'];
    return this.picking && this.pick.kind === 'edges' ? ['edge', 'face'] : ['face', 'edge'];
  },

  get walkPurpose() {
    return this.picking ? `${this.pick.step} ${this.pick.field}` : '';
  },

  walk(step) {
    const purpose = this.walkPurpose;
    if (purpose !== this.walkFor || !this.walkKinds.includes(this.walkKind)) {
      [this.walkKind] = this.walkKinds;
      this.walkFor = purpose;
    }
    const items = this.viewer.picker.everything(this.walkKind);
    if (!items.length) return;
    const at = items.findIndex((item) => item.body === this.walked?.body && item.index === this.walked.index);
    const next = at < 0 || this.walked.kind !== this.walkKind ? (step > 0 ? 0 : items.length - 1) : at + step;
    this.walkTo(items, (next + items.length) % items.length);
  },

  // From faces to edges and back.
  walkOther() {
    const kinds = this.walkKinds;
    this.walkKind = kinds[(kinds.indexOf(this.walkKind) + 1) % kinds.length];
    this.walked = null;
    this.walk(1);
  },

  walkTo(items, number) {
    const item = items[number];
    this.walked = { ...item, kind: this.walkKind };
    this.viewer.picker.point(this.walked);
    const spot = this.viewer.picker.whereIs(this.walked).map((length) => exactly(length / UNITS[this.unit], 2));
    const place = `${this.walkKind} ${number + 1} of ${items.length} at ${spot.join(', ')}`;
    const keys = 'Space picks it, ← and → go on' + (this.walkKinds.length > 1 ? ', ↑ to the other kind' : '');
    this.tell('At:', `${place}; ${keys}`);
    clearTimeout(this.walkAsk);
    this.walkAsk = setTimeout(() => {
      if (this.walkFor !== this.walkPurpose) return; // the field is filled meanwhile
      this.nameWalked(this.walked, place, keys).catch((problem) => this.fail(problem));
    }, PAUSE);
  },

  walkAway() {
    this.walked = null;
    this.viewer.picker.point(null);
    this.tell('Ready:', 'no face or edge at hand');
  },

  async nameWalked(walked, place, keys) {
    const { kind, index, ...item } = walked;
    const before = this.picking ? { upto: null, before: this.pick.step } : {};
    const [found] = await this.refer([{ ...item, [kind]: index }], before);
    if (this.walked === walked && this.walkFor === this.walkPurpose)
      this.tell('At:', `${place}: ${found.words}; ${keys}`);
  },

  // As a click there would.
  pickWalked() {
    const { kind, index, ...item } = this.walked;
    if (!this.viewer.picker.holds(item) || (this.cut.on && !this.picking)) return;
    const nowhere = { clientX: -1, clientY: -1 };
    this.picked({ ...item, [kind]: index }, nowhere).catch((problem) => this.fail(problem));
  },
};
