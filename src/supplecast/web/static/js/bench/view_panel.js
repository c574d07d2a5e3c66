// The tools of the view: drawing style, section, opening stroke, unit.

import { UNITS } from '../facts.js';
import { fixed } from '../numbers.js';
import { takeUnit } from './units.js';
import { STROKE, play, stageWords } from '../view/opening.js';

const MODES = ['shaded', 'hidden edges', 'see-through', 'lines'];

const FACING = {
  '0,0,1': ['top', 'bottom'],
  '0,0,-1': ['bottom', 'top'],
  '1,0,0': ['right', 'left'],
  '-1,0,0': ['left', 'right'],
  '0,1,0': ['back', 'front'],
  '0,-1,0': ['front', 'back'],
};

/** @type {ThisType<any> & Record<string, any>} */
export const viewPanel = {
  get modeWords() {
    return this.mode === 'shaded'
      ? 'Shaded'
      : `Shaded, ${this.mode}`.replace('Shaded, see', 'See').replace('Shaded, lines', 'Lines');
  },

  // Which sides of the rosette are the mold's: the core leaves along the pull.
  get moldSides() {
    const sides = { top: '', bottom: '', front: '', back: '', left: '', right: '' };
    const [along, against] = this.fixedAbove ? ['bottom', 'top'] : FACING[this.pullWay] || [];
    if (along && this.kind !== 'assembly') Object.assign(sides, { [along]: 'core', [against]: 'cavity' });
    return sides;
  },

  get strokeWords() {
    if (this.kind === 'assembly') return `${this.stroke} %`;
    return this.stages.length ? stageWords(this.stages, this.stroke) : '';
  },

  get cutPlace() {
    return fixed(this.cut.at / UNITS[this.unit], 4);
  },

  takeUnit(keeps) {
    return takeUnit(this, keeps).catch((problem) => this.fail(problem));
  },

  dropUnit() {
    this.unitAsk = { ...this.unitAsk, on: false };
    const field = document.querySelector('[data-unit-field]');
    field.value = field.dataset.kept;
  },

  cycleMode() {
    this.mode = MODES[(MODES.indexOf(this.mode) + 1) % MODES.length];
    this.viewer.setMode(this.mode);
  },

  toggleSheet() {
    this.sheetOpen = !this.sheetOpen;
  },

  fit() {
    this.viewer.fit();
  },

  toggleSection() {
    this.cutting.toggle();
  },

  setAxis(axis) {
    this.cutting.across(axis);
  },

  moveSection() {
    this.cutting.move();
  },

  wheelSection(event) {
    this.cutting.wheel(event);
  },

  placeSection(event) {
    this.cutting.place(event.target.value);
  },

  turnSection(event) {
    this.cutting.angle('turn', event.target.value);
  },

  tiltSection(event) {
    this.cutting.angle('tilt', event.target.value);
  },

  flipSection() {
    this.cutting.flip();
  },

  keepSection() {
    return this.cutting.keep();
  },

  forgetSection() {
    return this.cutting.forget();
  },

  recallSection(event) {
    this.cutting.recall(event.target.value);
  },

  writeSection(format) {
    return this.cutting.write(format).catch((problem) => this.fail(problem));
  },

  // A finished tool is first shown open, the fixed side above where it hangs in a mold base; of bodies that show the same, one.
  arrange({ stroke }) {
    this.viewer.legs = stroke?.legs || {};
    this.stages = stroke?.stages || [];
    this.canOpen = this.stages.length > 0;
    if (this.arranged || !stroke || this.kind === 'assembly') return;
    this.arranged = true;
    this.stroke = STROKE;
    this.viewer.stroke = STROKE;
    this.fixedAbove = Boolean(stroke.up);
    this.viewer.eye.standUpright(stroke.up || [0, 0, 1]);
    for (const id of stroke.aside) this.aside.add(id);
  },

  moveStroke() {
    this.stopPlay?.();
    this.viewer.setStroke(Number(this.stroke));
  },

  playStroke() {
    this.stopPlay?.();
    this.stopPlay = play((percent) => {
      this.stroke = percent;
      this.viewer.setStroke(percent);
    });
  },
};
