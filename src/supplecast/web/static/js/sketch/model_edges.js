// The model's own edges behind the sheet, laid into its plane: they can be snapped to, sized from and fixed to without being taken
// first. They are taken by themselves when they are used, and held from then on.

import { Problem, finished, post } from '../api.js';
import { gapTo, run } from './layout.js';

const MOST = 4; // bodies

export class ModelEdges {
  constructor(sheet) {
    this.sheet = sheet;
    this.laid = []; // {job, curves} of each body
  }

  // How far the model reaches in the plane of the sheet: an empty one begins as large as that.
  extent() {
    const { frame, sk, bench } = this.sheet;
    if (!frame || sk.plain) return null;
    const at = (corner, axis) => axis.reduce((sum, c, k) => sum + c * (corner.getComponent(k) - frame.origin[k]), 0);
    const places = bench.viewer.corners().map((corner) => [at(corner, frame.x), at(corner, frame.y)]);
    return [Math.min, Math.max].map((pick) => [0, 1].map((k) => pick(...places.map((place) => place[k]))));
  }

  get jobs() {
    return this.laid.map(({ job }) => job);
  }

  get curves() {
    return this.laid.flatMap(({ curves }) => curves);
  }

  async look(bodies) {
    const { step } = this.sheet;
    this.laid = [];
    for (const body of bodies.slice(0, MOST)) {
      try {
        /** @type {Wire.Started_TakenCurves} */
        const answer = await post(this.sheet.path('/take'), { how: 'all', picked: { body } });
        const job = await finished(answer.job);
        if (this.sheet.step !== step || !this.sheet.opened) return;
        if (job.state === 'done' && job.result.curves.length)
          this.laid = [...this.laid, { job: answer.job, curves: job.result.curves }];
      } catch (problem) {
        if (!(problem instanceof Problem)) throw problem; // without them one can draw all the same
      }
    }
  }

  // The pick of a guess. Where it holds to the model, that is taken first, and the pick speaks of what was taken.
  async real({ pick, takes }) {
    if (!takes.length) return pick;
    const made = await this._take(takes.map(([index]) => this.curves[index]));
    const names = new Map(takes.map(([, name], k) => [name, made[k]]));
    const point = this._pointAt([pick.x, pick.y]);
    const known = (id) => (this.sheet.scene.points[id] || this.sheet.entity(id) ? id : names.get(id) || point);
    const snaps = pick.snaps.map((snap) => ({ ...snap, on: snap.on.map(known) }));
    return { ...pick, snaps: snaps.filter((snap) => snap.on.every(Boolean)) };
  }

  async _take(curves) {
    const answer = await this.sheet.act({ do: 'take', curves });
    return answer.refused ? [] : answer.made;
  }

  _pointAt(place) {
    const { points } = this.sheet.scene;
    return Object.keys(points).find((id) => Math.hypot(points[id][0] - place[0], points[id][1] - place[1]) < 1e-5);
  }

  // What of the model lies under a pixel, taken: {point} or {curve}. A corner goes before the edges that meet there.
  async at(px, py) {
    const { drawing } = this.sheet;
    let best = null;
    if (this.sheet.names.length > 1) return null; // once two things are named, a click is for the label
    for (const curve of this.curves) {
      const places = placesOf(curve);
      for (const place of curve.kind === 'circle' ? [] : [places[0], places.at(-1)]) {
        const [x, y] = drawing.px(place);
        const gap = Math.hypot(x - px, y - py) - 9;
        if (gap < 0 && (!best || gap < best.gap)) best = { gap, curve, place };
      }
      const pixels = places.map((place) => drawing.px(place));
      const gap = gapTo(pixels, [px, py]);
      if (gap < 7 && (!best || gap < best.gap)) best = { gap, curve, place: null };
    }
    if (!best) return null;
    const [name] = await this._take([best.curve]);
    const point = best.place && this._pointAt(best.place);
    return point ? { point, id: point } : name ? { curve: name, id: name } : null;
  }
}

// A taken curve as a run of places.
function placesOf({ kind, places, r, ccw }) {
  const [first, second, third] = places;
  if (kind === 'line') return places;
  if (kind === 'circle') return run({ kind, c: first, r });
  if (kind !== 'arc') return places.slice(0, -2);
  const radius = Math.hypot(second[0] - first[0], second[1] - first[1]);
  return run({ kind, c: first, a: second, b: third, r: radius, ccw: ccw !== false });
}
