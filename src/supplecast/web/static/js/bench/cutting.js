// The section as an instrument: its plane set by axis, face, angles and place; the exact outlines of the cut; walls across it.

import { Vector3 } from 'three';
import { finished, post } from '../api.js';
import { UNITS } from '../facts.js';
import { inUnit } from '../numbers.js';

const AXES = { x: [1, 0, 0], y: [0, 1, 0], z: [0, 0, 1] };
// Which side of each is cut away at first: the one towards the usual view.
const KEPT = { x: -1, y: 1, z: -1, face: -1 };
const number = (text) =>
  Number(
    String(text)
      .replace(',', '.')
      .replace(/[^0-9.+-]/g, ''),
  );
const DEGREE = Math.PI / 180;

export class Cutting {
  constructor(bench) {
    this.__v_skip = true;
    this.bench = bench;
    this.base = new Vector3(0, 1, 0);
    this.side = 1;
    this.serial = 0;
  }

  get normal() {
    const { turn, tilt } = this.bench.cut;
    const n = this.base.clone();
    const upright = Math.abs(n.z) < 0.9;
    const about = upright ? new Vector3(0, 0, 1) : new Vector3(0, 1, 0);
    n.applyAxisAngle(about, turn * DEGREE);
    const across = upright ? new Vector3(0, 0, 1).cross(n).normalize() : new Vector3(1, 0, 0);
    return n.applyAxisAngle(across, tilt * DEGREE).normalize();
  }

  toggle() {
    const { cut } = this.bench;
    cut.on = !cut.on;
    if (cut.on) {
      this.across(cut.axis);
      this.enter();
    } else this.clear();
  }

  enter() {
    this.bench.modes.enter('section', () => this.toggle());
  }

  clear() {
    this.bench.modes.end('section');
    this.serial += 1;
    this.bench.viewer.setSection({ on: false });
    this.bench.viewer.overlay.setCut([]);
    this.bench.viewer.overlay.setLines([]);
    this.bench.cut.wall = '';
  }

  // Lay the plane across an axis, or along the picked face.
  across(axis) {
    const { bench } = this;
    if (axis === 'face') {
      const picked = bench.chosen.find((item) => item.face !== undefined);
      const plane = picked && bench.viewer.picker.planeOf(picked.body, picked.face);
      if (!plane) {
        bench.tell('Section:', 'pick a flat face first, then lay the section along it', 'fault');
        return;
      }
      this.base.copy(plane.normal);
      bench.viewer.overlay.light([]);
      bench.chosen = [];
      Object.assign(bench.cut, { axis, turn: 0, tilt: 0, name: '' });
      this.side = KEPT.face;
      this.range();
      bench.cut.at = Number((plane.normal.dot(plane.point) - 0.01).toFixed(3));
    } else {
      this.base.fromArray(AXES[axis]);
      this.side = KEPT[axis];
      Object.assign(bench.cut, { axis, turn: 0, tilt: 0, name: '' });
      this.range();
      bench.cut.at = Number(((bench.cut.low + bench.cut.high) / 2).toFixed(1));
    }
    this.move();
  }

  range() {
    const [low, high] = this.bench.viewer.picker.spanAlong(this.normal);
    Object.assign(this.bench.cut, { low: Math.floor(low * 10) / 10, high: Math.ceil(high * 10) / 10 });
  }

  angle(which, text) {
    const value = number(text);
    if (Number.isFinite(value)) this.bench.cut[which] = Math.max(-180, Math.min(180, value));
    this.range();
    this.move();
  }

  place(text) {
    const value = number(text);
    if (Number.isFinite(value)) this.bench.cut.at = value * UNITS[this.bench.unit];
    this.move();
  }

  flip() {
    this.side = -this.side;
    this.move();
  }

  wheel(event) {
    const { cut } = this.bench;
    cut.at = Number(Math.max(cut.low, Math.min(cut.high, Number(cut.at) - Math.sign(event.deltaY) * 0.5)).toFixed(2));
    this.move();
  }

  get plane() {
    const n = this.normal;
    const at = Number(this.bench.cut.at);
    return { origin: n.clone().multiplyScalar(at).toArray(), normal: n.toArray() };
  }

  move() {
    const { viewer, cut } = this.bench;
    cut.wall = '';
    viewer.setSection({ on: true, normal: this.normal.multiplyScalar(this.side), at: Number(cut.at) * this.side });
    viewer.overlay.setCut([]);
    viewer.overlay.setLines([]);
    clearTimeout(this.timer);
    this.timer = setTimeout(() => this.outline().catch((problem) => this.bench.fail(problem)), 250);
  }

  get hidden() {
    return [...this.bench.viewer.hidden];
  }

  /** @returns {Promise<Wire.Started_Section & Wire.Started_WrittenFile>} with a format the latter, else the former */
  begin(extra = {}) {
    const { bench } = this;
    return post(bench.path('sections'), {
      plane: this.plane,
      hidden: this.hidden,
      upto: bench.standing,
      ...extra,
    });
  }

  async ask(extra = {}) {
    /** @type {Wire.Started_Section} */
    const answer = await this.begin(extra);
    return finished(answer.job);
  }

  // The exact outlines take the place of the drawn cut's jagged rim as soon as the plane rests.
  async outline() {
    const { bench } = this;
    if (!bench.cut.on || bench.stroke > 0) return;
    const serial = (this.serial += 1);
    const job = await this.ask();
    if (serial !== this.serial || !bench.cut.on) return;
    bench.viewer.overlay.setCut(job.state === 'done' ? job.result.bodies.flatMap((body) => body.lines) : []);
  }

  // A click on the cut measures the wall there; true if it did.
  async measure(event) {
    const { bench } = this;
    const spot = bench.viewer.picker.spotOnCut(event.clientX, event.clientY);
    if (!spot || bench.stroke > 0) return false;
    const job = await this.ask({ spot });
    const wall = job.state === 'done' && job.result.wall;
    if (!wall) return false;
    bench.cut.wall = inUnit(wall.wall, bench.unit);
    bench.viewer.overlay.setLines([wall.ends]);
    bench.tell('Wall here:', `${bench.cut.wall} across ${wall.body}; click another place, Esc puts the section away`);
    return true;
  }

  async keep() {
    const { bench } = this;
    const name = bench.cut.name.trim();
    if (!name) {
      bench.tell('Section:', 'type a name to keep it by', 'fault');
      document.getElementById('cut-name').focus();
      return;
    }
    await bench.edit({ op: 'cut', name, ...this.plane });
    bench.cut.kept = [...bench.cut.kept.filter((one) => one.name !== name), { name, ...this.plane }];
  }

  async forget() {
    const { bench } = this;
    const { name } = bench.cut;
    if (!bench.cut.kept.some((one) => one.name === name)) return;
    await bench.edit({ op: 'cut', name });
    bench.cut.kept = bench.cut.kept.filter((one) => one.name !== name);
    bench.cut.name = '';
  }

  recall(name) {
    const { bench } = this;
    const kept = bench.cut.kept.find((one) => one.name === name);
    if (!kept) return;
    this.base.fromArray(kept.normal).normalize();
    const axis = Object.keys(AXES).find((key) => this.base.distanceTo(new Vector3(...AXES[key])) < 1e-9) || 'face';
    this.side = KEPT[axis];
    Object.assign(bench.cut, { on: true, axis, turn: 0, tilt: 0, name });
    this.enter();
    this.range();
    bench.cut.at = Number(this.base.dot(new Vector3(...kept.origin)).toFixed(4));
    this.move();
  }

  async write(format) {
    const { origin, normal } = this.plane;
    const towards = normal.map((share) => -this.side * share); // the one who looks at the cut: from where it was cut away
    /** @type {Wire.Started_WrittenFile} */
    const answer = await this.begin({ format, plane: { origin, normal: towards } });
    const job = await finished(answer.job);
    if (job.state !== 'done') {
      this.bench.tell('Not written:', [job.message, job.hint].filter(Boolean).join(' '), 'fault');
      return;
    }
    const link = document.createElement('a');
    link.href = `/api/blobs/${job.result.blob}?as=${encodeURIComponent(job.result.name)}`;
    link.download = job.result.name;
    link.click();
    this.bench.tell('Written:', job.result.name);
  }
}
