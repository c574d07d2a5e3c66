// What can be dragged in the step that is being edited: arrows for lengths, arcs for angles, each with a knob that keys move too.

import { Raycaster, Vector2, Vector3 } from 'three';
import { AMBER } from './colours.js';
import { clear, strokes } from './strokes.js';

const STEP_PX = 5; // a step of the value is at least so long on the screen
const FINE = 10; // so much finer with Shift
const DEGREE = Math.PI / 180;
const ARC = 24; // chords of an arc

// The least of 1, 2, 5 × 10ⁿ that is no less than a length.
export function niceStep(least) {
  const ten = 10 ** Math.floor(Math.log10(least));
  return [1, 2, 5, 10].map((step) => step * ten).find((step) => step >= least * (1 - 1e-9));
}

const rounded = (value, step) => Number((Math.round(value / step) * step).toPrecision(12));

// How far along a line through `origin` the place lies that a ray passes nearest to.
export function alongLine(ray, origin, way) {
  const between = new Vector3().subVectors(origin, ray.origin);
  const b = way.dot(ray.direction);
  const denominator = 1 - b * b;
  if (denominator < 1e-6) return null; // one looks along the line: it has no length on the screen
  return (b * between.dot(ray.direction) - between.dot(way)) / denominator;
}

export class Handles {
  /**
   * @param view the viewer
   * @param heard `try` is told each value while it is dragged, `keep` the last, `leave` that it is given up
   */
  constructor(view, heard) {
    this.view = view;
    this.heard = heard;
    this.list = [];
    this.held = null;
  }

  // Draw handles as the server tells them, each with its `words`, `said` to write a value, and `scale`: mm or rad that make one of its
  // unit.
  show(list) {
    if (this.held) return;
    this.list = list.map((handle) => ({ ...handle, now: handle.value }));
    this.draw();
  }

  draw() {
    clear(this.view.grips);
    const tags = [];
    this.list.forEach((handle, index) => {
      const lines = handle.kind === 'length' ? this._arrow(handle) : this._arc(handle);
      // The outline goes along at once, the shape follows.
      const by = new Vector3(...handle.direction).multiplyScalar(handle.now * handle.rate);
      const ghost =
        handle.now === handle.value
          ? []
          : handle.ghost.map((line) => line.map((place) => new Vector3(...place).add(by).toArray()));
      this.view.grips.add(strokes([...lines, ...ghost], AMBER, 0.95));
      tags.push({
        at: this._tip(handle),
        words: this.held?.index === index ? handle.said(handle.now) : '',
        kind: `is-grip${this.held?.index === index ? ' is-held' : ''}`,
        act: () => {},
        label: `${handle.words}: drag, or the arrow keys`,
      });
    });
    if (this.held) this._moveKnobs(tags);
    else {
      this.view.tags.set('handles', tags);
      this.view.tags.get('handles').forEach(({ element }, index) => this._listen(element, index));
    }
    this.view.invalidate();
  }

  _moveKnobs(tags) {
    const knobs = this.view.tags.get('handles');
    tags.forEach((tag, index) => {
      knobs[index].at = tag.at;
      knobs[index].element.textContent = tag.words;
      knobs[index].element.classList.toggle('is-held', tag.kind.includes('is-held'));
    });
    this.view.tags.place();
  }

  // The knob stands at the value, but never so near to where it begins that the two could not be told apart.
  _tip(handle) {
    if (handle.kind === 'angle') return this._onArc(handle, handle.now).toArray();
    const away = handle.now * handle.rate;
    const least = 16 * this.view.eye.unit;
    const shown = Math.abs(away) < least ? (away < 0 ? -least : least) : away;
    return new Vector3(...handle.origin).addScaledVector(new Vector3(...handle.direction), shown).toArray();
  }

  _arrow(handle) {
    const tip = this._tip(handle);
    const way = new Vector3(...tip).sub(new Vector3(...handle.origin)).normalize();
    const size = 9 * this.view.eye.unit;
    const aside = new Vector3().crossVectors(way, this.view.eye.way).normalize();
    const back = new Vector3(...tip).addScaledVector(way, -size);
    const wings = [0.4, -0.4].map((share) =>
      back
        .clone()
        .addScaledVector(aside, share * size)
        .toArray(),
    );
    return [
      [[...handle.origin], tip],
      [wings[0], tip, wings[1]],
    ];
  }

  _onArc(handle, angle) {
    return new Vector3(...handle.arm)
      .applyAxisAngle(new Vector3(...handle.direction), angle)
      .add(new Vector3(...handle.origin));
  }

  _arc(handle) {
    const arc = [...Array(ARC + 1).keys()].map((i) => this._onArc(handle, (handle.now * i) / ARC).toArray());
    return [[[...handle.origin], arc[0]], arc, [[...handle.origin], arc[ARC]]];
  }

  _listen(element, index) {
    element.addEventListener('pointerdown', (event) => {
      event.preventDefault();
      event.stopPropagation();
      element.setPointerCapture(event.pointerId);
      element.focus({ preventScroll: true });
      const handle = this.list[index];
      this.held = { index, start: this._read(handle, event), from: handle.now, id: event.pointerId, keys: false };
      this.heard.take(handle);
    });
    element.addEventListener('pointermove', (event) => {
      if (this.held?.index !== index || this.held.id !== event.pointerId) return;
      const handle = this.list[index];
      const read = this._read(handle, event);
      if (read === null || this.held.start === null) return;
      this._set(handle, this.held.from + read - this.held.start, event.shiftKey);
    });
    const done = () => {
      if (this.held?.index !== index || this.held.keys) return;
      const handle = this.list[index];
      this.held = null;
      this.heard.keep(handle, handle.now);
    };
    element.addEventListener('pointerup', done);
    element.addEventListener('pointercancel', () => this.leave());
    element.addEventListener('keydown', (event) => {
      const handle = this.list[index];
      const way = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1 }[event.key];
      if (way) {
        if (!this.held) this.heard.take(handle);
        this.held ??= { index, start: 0, from: handle.now, id: null, keys: true };
        const step = this._step(handle, event.shiftKey);
        this._set(handle, (Math.round(handle.now / handle.scale / step) + way) * step * handle.scale, event.shiftKey);
      } else if (event.key === 'Enter' && this.held) {
        this.held = null;
        this.heard.keep(handle, handle.now);
      } else if (event.key === 'Escape') {
        if (this.held) this.leave();
        else this.heard.blur();
      } else if (/^[-.\d]$/.test(event.key)) {
        this.leave();
        this.heard.type(handle, event.key);
      } else return;
      event.preventDefault();
      event.stopPropagation();
    });
  }

  leave() {
    if (!this.held) return;
    const handle = this.list[this.held.index];
    handle.now = this.held.from;
    this.held = null;
    this.draw();
    this.heard.leave(handle);
  }

  _step(handle, fine) {
    const least =
      handle.kind === 'angle'
        ? (STEP_PX * this.view.eye.unit) / Math.max(new Vector3(...handle.arm).length(), 1e-9) / DEGREE
        : (STEP_PX * this.view.eye.unit) / (Math.abs(handle.rate) * handle.scale);
    return niceStep(least) / (fine ? FINE : 1);
  }

  _set(handle, value, fine) {
    const step = this._step(handle, fine);
    let next = rounded(value / handle.scale, step) * handle.scale;
    if (handle.least !== 'any') next = Math.max(next, handle.least === 'positive' ? step * handle.scale : 0);
    if (Math.abs(next - handle.now) < 1e-12) return;
    handle.now = next;
    this.draw();
    this.heard.try(handle, next);
  }

  // The value that a place of the page stands for: along the arrow, or round the arc.
  _read(handle, event) {
    const box = this.view.canvas.getBoundingClientRect();
    const caster = new Raycaster();
    const at = new Vector2(
      ((event.clientX - box.left) / box.width) * 2 - 1,
      1 - ((event.clientY - box.top) / box.height) * 2,
    );
    caster.setFromCamera(at, this.view.eye.camera);
    const [origin, way] = [new Vector3(...handle.origin), new Vector3(...handle.direction)];
    if (handle.kind === 'length') {
      const along = alongLine(caster.ray, origin, way);
      return along === null ? null : along / handle.rate;
    }
    const steep = way.dot(caster.ray.direction);
    if (Math.abs(steep) < 0.05) return null; // one looks along the plane of the arc
    const spot = caster.ray.at(way.dot(origin.clone().sub(caster.ray.origin)) / steep, new Vector3()).sub(origin);
    const arm = new Vector3(...handle.arm);
    const turn = Math.atan2(new Vector3().crossVectors(arm, spot).dot(way), arm.dot(spot));
    // The turn that lies nearest to where it is: a whole one is not lost.
    return turn + 2 * Math.PI * Math.round((handle.now - turn) / (2 * Math.PI));
  }
}
