// The tools of the view: drawing style, section, opening stroke, unit.

import { UNITS } from '../facts.js';
import { fixed } from '../numbers.js';
import { takeUnit } from './units.js';
import { STROKE, play, stageWords } from '../view/opening.js';
import { BACKGROUNDS } from '../view/studio.js';

const MODES = ['shaded', 'hidden edges', 'see-through', 'lines', 'finished'];

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
      : `Shaded, ${this.mode}`.replace(
          /Shaded, (see|lines|finished)/,
          (_, word) => word[0].toUpperCase() + word.slice(1),
        );
  },

  // A document with finishes is first seen in them, where the machine is quick enough.
  firstStyle({ bodies }) {
    if (this.styled || this.kind === 'tool') return; // of tools the steel counts, and it is a lot
    const finished = bodies.some((body) => body.finish || body.areas.length || body.prints.length);
    if (!finished) return;
    this.styled = true;
    if (this.viewer.simple || this.mode !== 'shaded' || !this.seen.shown('style/finished')) return;
    this.viewer.onSlow = (ms) => {
      this.setMode('shaded');
      this.seen.set(['style/finished'], false);
      this.tell('Ready:', `shown plain, since finished a picture takes ${Math.round(ms)} ms here; V shows it finished`);
    };
    this.setMode('finished');
  },

  setMode(mode) {
    this.mode = mode;
    this.viewer.setMode(mode);
  },

  setBackground(name) {
    this.background = name;
    for (const one of BACKGROUNDS) document.getElementById('view').classList.toggle(`on-${one}`, one === name);
  },

  // Where one looks from is kept for pictures: they are made from there.
  rememberEye() {
    const { yaw, pitch } = this.viewer.eye;
    try {
      localStorage.setItem(`supplecast.eye.${this.id}`, JSON.stringify({ yaw, pitch, background: this.background }));
    } catch {
      // a browser that keeps nothing still makes pictures from the usual side
    }
  },

  toggleDepth() {
    this.depth = !this.depth;
    this.viewer.setDepth(this.depth);
    this.viewer.fit(); // what is near is larger now, or no longer
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
    this.viewer.onSlow = null;
    this.styled = true;
    this.setMode(MODES[(MODES.indexOf(this.mode) + 1) % MODES.length]);
    this.seen.set(['style/finished'], this.mode === 'finished');
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
  arrange({ stroke, bodies }) {
    this.firstStyle({ bodies });
    this.strained = bodies.some((body) => body.prints.some((print) => print.strained));
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
