// The eye: an orthographic camera that turns about a target, upright, moved by mouse, wheel and standard views.

import { OrthographicCamera, PerspectiveCamera, Vector3 } from 'three';

import { Fingers } from '../fingers.js';

const HOME = { yaw: -0.62, pitch: 0.62 };
const ANGLE = 26; // degrees that a window is high in perspective
const DEEP = 1.22; // how much more a fit needs there: what is near is larger

export class Eye {
  constructor(canvas, onChange) {
    this.even = new OrthographicCamera(-1, 1, 1, -1, -5000, 5000);
    this.deep = new PerspectiveCamera(ANGLE);
    /** @type {OrthographicCamera | PerspectiveCamera} */
    this.camera = this.even;
    this.target = new Vector3();
    this.standUpright([0, 0, 1]);
    this.yaw = HOME.yaw;
    this.pitch = HOME.pitch;
    this.span = 100; // mm over half the shorter side of the window
    this.canvas = canvas;
    this.onChange = onChange;
    this.moved = false;
    this.inDepth = false; // whether what is farther away is smaller
    this.leaves = (_event) => false; // pulls that something else is for
    this._listen();
  }

  // See what is farther away smaller, or everything as large as it is.
  setDepth(on) {
    this.inDepth = on;
    this.apply();
    this.onChange();
  }

  resize(width, height) {
    this.width = width;
    this.height = height;
    this.apply();
  }

  // Which way is up; what is on the right stays there where it can (as `Frame.lying` has it, by which pictures are drawn).
  standUpright(up) {
    const z = new Vector3(...up);
    const x = Math.abs(z.x) > 0.9 ? new Vector3(0, 1, 0) : new Vector3(1, 0, 0);
    x.addScaledVector(z, -x.dot(z)).normalize();
    this.frame = [x, new Vector3().crossVectors(z, x), z];
  }

  // A vector of the frame in which the eye turns.
  _laid(x, y, z) {
    return [x, y, z].reduce((sum, part, k) => sum.addScaledVector(this.frame[k], part), new Vector3());
  }

  get way() {
    if (this.straight) return this.straight.way.clone();
    const c = Math.cos(this.pitch);
    return this._laid(c * Math.sin(this.yaw), -c * Math.cos(this.yaw), Math.sin(this.pitch));
  }

  axes() {
    if (this.straight) return { right: this.straight.right.clone(), up: this.straight.up.clone() };
    const right = this._laid(Math.cos(this.yaw), Math.sin(this.yaw), 0);
    return { right, up: new Vector3().crossVectors(this.way, right) };
  }

  apply() {
    const unit = this.span / (Math.min(this.width, this.height) / 2);
    this.unit = unit;
    const w = (this.width / 2) * unit;
    const h = (this.height / 2) * unit;
    const { right, up } = this.axes();
    this.camera = this.inDepth && !this.straight ? this.deep : this.even;
    let away = 1000;
    if (this.camera === this.deep) {
      away = h / Math.tan((ANGLE * Math.PI) / 360); // so that the target is as large as without depth
      Object.assign(this.deep, { aspect: this.width / this.height, near: away / 60, far: away * 30 });
    } else Object.assign(this.even, { left: -w, right: w, top: h, bottom: -h });
    this.camera.up.copy(up);
    this.camera.position.copy(this.target).addScaledVector(this.way, away);
    this.camera.lookAt(this.target);
    this.camera.updateProjectionMatrix();
    this.camera.updateMatrixWorld();
    this.right = right;
  }

  // Fit a box given by its corners.
  fit(corners) {
    if (!corners.length) return;
    const { right, up } = this.axes();
    const low = [Infinity, Infinity, Infinity];
    const high = [-Infinity, -Infinity, -Infinity];
    const axes = [right, up, this.way];
    for (const corner of corners) {
      axes.forEach((axis, i) => {
        const d = axis.dot(corner);
        low[i] = Math.min(low[i], d);
        high[i] = Math.max(high[i], d);
      });
    }
    this.target.set(0, 0, 0);
    axes.forEach((axis, i) => this.target.addScaledVector(axis, (low[i] + high[i]) / 2));
    const short = Math.min(this.width, this.height);
    const across = ((high[0] - low[0]) / 2) * (short / this.width);
    const along = ((high[1] - low[1]) / 2) * (short / this.height);
    this.span = Math.max(across, along, 1) * 1.28 * (this.inDepth ? DEEP : 1);
    this.apply();
    this.onChange();
  }

  // Look straight at a plane: x to the right, y up, `centre` of it (mm) in the middle, `unit` mm to a pixel. Null goes back.
  lookStraight(frame, centre, unit) {
    if (!frame) {
      if (this.before) Object.assign(this, this.before);
      this.straight = this.before = null;
      this.apply();
      return;
    }
    if (!this.before) this.before = { target: this.target.clone(), span: this.span };
    const [right, up, way] = [frame.x, frame.y, frame.normal].map((v) => new Vector3(...v));
    this.straight = { right, up, way };
    this.target.fromArray(frame.origin).addScaledVector(right, centre[0]).addScaledVector(up, centre[1]);
    this.span = (unit * Math.min(this.width, this.height)) / 2;
    this.apply();
  }

  // Turn as little as lets the eye see skin that looks along `way` at a target, with `span` mm round it.
  goTo(target, way, span) {
    this.target.copy(target);
    this.span = span;
    this._face(way, 0.35);
    this.apply();
    this.onChange();
  }

  // The same where one stands, if it looks away.
  turnTo(way) {
    this._face(way, 0.05);
    this.apply();
    this.onChange();
  }

  _face(way, least) {
    if (this.way.dot(way) < least) {
      const [x, y, z] = this.frame.map((axis) => axis.dot(way));
      this.pitch = Math.max(
        -1.2,
        Math.min(1.2, Math.asin(Math.max(-1, Math.min(1, z))) * 0.6 + (z < -0.3 ? -0.3 : 0.35)),
      );
      if (Math.hypot(x, y) > 0.05) this.yaw = Math.atan2(x, -y) + 0.4;
    }
  }

  look(name) {
    const views = {
      top: [0, Math.PI / 2],
      bottom: [0, -Math.PI / 2],
      front: [0, 0],
      right: [Math.PI / 2, 0],
      back: [Math.PI, 0],
      left: [-Math.PI / 2, 0],
      oblique: [HOME.yaw, HOME.pitch],
    };
    [this.yaw, this.pitch] = views[name];
    this.apply();
  }

  // Move the model with a hand that went so many px.
  shift(dx, dy) {
    const { right, up } = this.axes();
    this.target.addScaledVector(right, -dx * this.unit).addScaledVector(up, dy * this.unit);
    this.apply();
    this.onChange();
  }

  // See `factor` times as much, what is at a place of the canvas (px) staying there.
  zoom(factor, px, py) {
    const { right, up } = this.axes();
    const x = (px - this.width / 2) * this.unit;
    const y = (this.height / 2 - py) * this.unit;
    this.target.addScaledVector(right, x * (1 - factor)).addScaledVector(up, y * (1 - factor));
    this.span = Math.max(0.05, Math.min(50000, this.span * factor));
    this.apply();
    this.onChange();
  }

  _listen() {
    let held = null;
    const fingers = new Fingers();
    this.held = false; // whether a hand turns or shifts the view just now
    this.canvas.addEventListener('pointerdown', (event) => {
      this.moved = false;
      if (fingers.follow(event)) {
        held = null; // what the first finger began is not meant
        this.moved = true;
        return;
      }
      if (this.leaves(event)) return;
      this.held = true;
      held = { x: event.clientX, y: event.clientY, pan: event.button !== 0 || event.shiftKey };
      this.canvas.setPointerCapture(event.pointerId);
    });
    this.canvas.addEventListener('pointermove', (event) => {
      const two = fingers.follow(event);
      if (two) {
        this.shift(...two.shift);
        this.zoom(two.ratio, ...two.at);
        return;
      }
      if (!held) return;
      const dx = event.clientX - held.x;
      const dy = event.clientY - held.y;
      if (!this.moved && Math.hypot(dx, dy) < 4) return;
      this.moved = true;
      held.x = event.clientX;
      held.y = event.clientY;
      if (held.pan) {
        this.shift(dx, dy);
        return;
      }
      this.yaw -= dx * 0.008;
      this.pitch = Math.max(-Math.PI / 2, Math.min(Math.PI / 2, this.pitch + dy * 0.008));
      this.apply();
      this.onChange();
    });
    const release = (event) => {
      fingers.lift(event);
      this.held = false;
      held = null;
    };
    this.canvas.addEventListener('pointerup', release);
    this.canvas.addEventListener('pointercancel', release);
    this.canvas.addEventListener('contextmenu', (event) => event.preventDefault());
    this.canvas.addEventListener(
      'wheel',
      (event) => {
        event.preventDefault();
        const factor = Math.exp(Math.max(-0.4, Math.min(0.4, event.deltaY * 0.0016)));
        const box = this.canvas.getBoundingClientRect();
        this.zoom(factor, event.clientX - box.left, event.clientY - box.top);
      },
      { passive: false },
    );
  }
}
