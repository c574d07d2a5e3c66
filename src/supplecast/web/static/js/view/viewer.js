// The view: bodies from GLB in their drawing style, cut by the section, moved along the opening stroke.

import { DirectionalLight, Group, HemisphereLight, Mesh, Scene, Vector3, WebGLRenderer } from 'three';
import { crossAt } from './strokes.js';
import { offset } from './opening.js';
import { Eye } from './camera.js';
import { Section } from './section.js';
import { loadBody } from './body.js';
import { Figure } from './figure.js';
import { loadPrints } from './prints.js';
import { Studio } from './studio.js';
import { acceleratedRaycast } from 'three-mesh-bvh';
import { Picker } from './picker.js';
import { Overlay } from './overlay.js';
import { Tags } from './tags.js';
import { Ground } from './ground.js';
import { Windows } from './windows.js';
import { Handles } from './handles.js';

Mesh.prototype.raycast = acceleratedRaycast;

const KEPT = 400; // meshes kept when they are not shown: a tool with its base has a hundred bodies
const SLOW = 90; // ms a finished picture may take before the plain style is offered instead
const GROWN = 1.8; // bodies that reach so much farther than the view was fitted to are fitted anew: one would stand within them

export class Viewer {
  /**
   * @param {HTMLElement} holder
   * @param {{ onPick?: (hit: any, event: MouseEvent) => void, onHover?: (hit: any) => void,
   *   onWindow?: (window: any, touching: boolean) => void, onHandle?: any }} [heard]
   */
  constructor(holder, { onPick = () => {}, onHover = () => {}, onWindow = () => {}, onHandle = {} } = {}) {
    this.__v_skip = true; // the page's reactive state must not wrap the scene in proxies
    this.holder = holder;
    this.onPick = onPick;
    this.onHover = onHover;
    const smooth = !new URLSearchParams(location.search).has('plain');
    this.simple = !smooth;
    this.renderer = new WebGLRenderer({
      antialias: smooth,
      alpha: true,
      stencil: true,
      powerPreference: 'high-performance',
    });
    this.renderer.localClippingEnabled = true;
    this.renderer.setPixelRatio(Math.min(window.devicePixelRatio, 2));
    this.canvas = this.renderer.domElement;
    this.canvas.tabIndex = 0;
    this.canvas.setAttribute('aria-label', 'View of the model: arrow keys go through its faces and edges');
    this.canvas.setAttribute('role', 'application');
    holder.append(this.canvas);
    this.scene = new Scene();
    const sky = new HemisphereLight('#ffffff', '#a9b0ab', 2.3);
    this.lamp = new DirectionalLight('#ffffff', 1.25);
    this.lamps = [sky, this.lamp];
    this.scene.add(sky, this.lamp, this.lamp.target);
    this.studio = new Studio(this);
    this.eye = new Eye(this.canvas, () => this.invalidate());
    this.section = new Section();
    this.bodies = new Map();
    this.geometries = new Map();
    this.hidden = new Set();
    this.paint = null; // the map of the open gauge, if there is one
    this.mode = 'shaded';
    this.atWork = false;
    this.wantsDepth = false;
    this.onSlow = null; // told once if a finished picture takes too long to draw
    this.stroke = 0; // percent
    this.legs = {};
    this.hasPull = true; // an assembly has none
    this.travelling = { travel: null, share: 0 };
    this.wants = null;
    this.lit = [];
    this.hover = null;
    this.sketches = new Group();
    this.marks = new Group();
    this.lines = new Group();
    this.cuts = new Group();
    this.traces = new Group();
    this.grips = new Group();
    this.scene.add(this.sketches, this.marks, this.lines, this.cuts, this.traces, this.grips);
    this.frame = 0;
    this.fitted = 0; // how far the bodies reached when the view was last fitted to them, mm
    this.tags = new Tags(this);
    this.ground = new Ground(this);
    this.overlay = new Overlay(this);
    this.picker = new Picker(this);
    this.windows = new Windows(this, onWindow);
    this.handles = new Handles(this, onHandle);
    new ResizeObserver(() => this._resize()).observe(holder);
    this._resize();
  }

  // Show these bodies: [{id, role, mesh, pull, low, high, stale}]. Meshes already here are kept.
  async show(list, sketches = []) {
    this.wanted = list;
    const loaded = await Promise.all(list.map((body) => Promise.all([this._geometry(body.mesh), loadPrints(body)])));
    if (this.wanted !== list) return;
    const seen = this.bodies.size > 0 && this.sees(this.corners()); // a hand that has gone near wants to stay there
    for (const figure of this.bodies.values()) figure.drop(this.scene);
    this.bodies.clear();
    list.forEach((body, index) => this._add(body, ...loaded[index], index));
    for (const name of [...this.geometries.keys()]) {
      if (this.geometries.size <= KEPT || list.some((body) => body.mesh === name)) continue;
      this.geometries.get(name).then((g) => {
        g.faces.dispose();
        g.edges.dispose();
      });
      this.geometries.delete(name);
    }
    this.overlay.drawSketches(sketches);
    this.overlay.drawPull();
    this.hover = null;
    this.hoverKey = '';
    this.restyle();
    this.overlay.drawLit();
    if ((list.length || sketches.length) && this.reach() > GROWN * this.fitted) this.fit();
    else if (seen && !this.eye.held && !this.handles.held && !this.sees(this.corners())) this.fit();
  }

  // Whether places of the model all lie within the window.
  sees(corners) {
    return corners.every((corner) => {
      const { x, y } = corner.clone().project(this.eye.camera);
      return Math.max(Math.abs(x), Math.abs(y)) < 1;
    });
  }

  // Fit places (mm) that the window does not hold.
  fitIfSmall(places) {
    const corners = places.map((place) => new Vector3(...place));
    if (this.sees(corners)) return;
    this.eye.fit([...corners, ...this.corners()]);
    this.invalidate();
  }

  _geometry(name) {
    if (!this.geometries.has(name)) this.geometries.set(name, loadBody(name));
    return this.geometries.get(name);
  }

  _add(body, geometry, prints, index) {
    const figure = new Figure(body, geometry, prints, index, this.style === 'finished');
    this.scene.add(figure.group);
    this.bodies.set(body.id, figure);
  }

  // Bring materials, section, stroke and visibility up to date.
  restyle() {
    const { style: mode, section } = this;
    const studio = mode === 'finished';
    this.studio.set(studio);
    if (this.eye.inDepth !== (studio && this.wantsDepth)) this.eye.setDepth(studio && this.wantsDepth);
    for (const figure of this.bodies.values()) {
      const { body, group } = figure;
      figure.restyle({ mode, section, painted: this.paint?.covers(body), hidden: this.hidden.has(body.id) });
      this._stand(figure);
      figure.uncap(this.scene);
      if (section.on && mode !== 'lines' && group.visible && body.volume) figure.cap(section, this.scene);
    }
    this.paint?.follow();
    this.overlay.drawLit();
    this.studio.ground();
    this.invalidate();
  }

  // Where a body stands: lifted as the stroke says, or on its way.
  _stand({ body, group }) {
    group.position.copy(this._lift(body));
    group.quaternion.identity();
    const { travel, share } = this.travelling;
    if (travel?.body !== body.id) return;
    const direction = new Vector3(...travel.direction);
    if (travel.kind === 'slide') group.position.addScaledVector(direction, share * travel.far);
    else {
      const origin = new Vector3(...travel.origin);
      group.quaternion.setFromAxisAngle(direction, share * travel.far);
      group.position.add(origin).sub(origin.clone().applyQuaternion(group.quaternion));
    }
  }

  // Show a body at a share of its way; null puts it back.
  setTravel(travel, share) {
    this.travelling = { travel, share };
    this.restyle();
  }

  _lift(body) {
    return new Vector3(...offset(this.legs[body.id], this.stroke));
  }

  setMode(mode) {
    this.mode = mode;
    this.restyle();
  }

  // While one picks, measures or draws, shapes count and not how they look.
  setAtWork(on) {
    this.atWork = on;
    this.restyle();
  }

  // The style drawn in: maps and picks win over finishes.
  get style() {
    return this.mode === 'finished' && (this.atWork || this.paint?.on) ? 'shaded' : this.mode;
  }

  setDepth(on) {
    this.wantsDepth = on;
    this.restyle();
  }

  setStroke(percent) {
    this.stroke = percent;
    this.restyle();
  }

  setSection(change) {
    this.section.set(change);
    this.restyle();
  }

  setHidden(ids, hide) {
    for (const id of ids) hide ? this.hidden.add(id) : this.hidden.delete(id);
    this.restyle();
  }

  look(name) {
    this.eye.look(name);
    this.fit();
  }

  lookStraight(frame, centre, unit) {
    this.eye.lookStraight(frame, centre, unit);
    this.invalidate();
  }

  // Cut away what lies in front of a plane; null shows everything again.
  cutAt(frame) {
    this.section.across(frame);
    this.restyle();
  }

  // The corners of the boxes of all bodies that are shown.
  corners() {
    const corners = [];
    for (const { body, group } of this.bodies.values()) {
      if (!group.visible) continue;
      for (let i = 0; i < 8; i += 1) {
        const pick = (axis) => ((i >> axis) & 1 ? body.high : body.low)[axis];
        corners.push(new Vector3(pick(0), pick(1), pick(2)).add(group.position));
      }
    }
    return corners;
  }

  fit() {
    const corners = this.corners();
    if (!corners.length) {
      this.sketches.traverse((/** @type {any} */ line) => {
        const at = line.geometry?.getAttribute('position');
        for (let i = 0; at && i < at.count; i += 1) corners.push(new Vector3().fromBufferAttribute(at, i));
      });
    }
    this.fitted = this.bodies.size ? this.reach() : 0; // while there are only outlines, each new one is fitted
    this.eye.fit(corners);
  }

  // Look at a place from where its skin can be seen, near enough to tell what is there.
  goTo(place, way) {
    this.eye.goTo(new Vector3(...place), new Vector3(...way), Math.max(8, Math.min(this.reach() * 0.16, 40)));
    this.overlay.setLines(crossAt(place, this.reach() * 0.02));
  }

  // How far the model reaches, mm.
  reach() {
    return Math.max(10, ...[...this.bodies.values()].map(({ size }) => (size - 10) / 3));
  }

  _resize() {
    const { clientWidth: width, clientHeight: height } = this.holder;
    if (!width || !height) return;
    this.renderer.setSize(width, height);
    this.eye.resize(width, height);
    this.invalidate();
  }

  // A print goes with the hand that drags one of its handles, until its step has been tried.
  followPrint(step, handle, value) {
    if (!handle) return;
    for (const figure of this.bodies.values()) figure.followPrint(step, handle, value);
    this.invalidate();
  }

  // How long the third finished picture takes, the first ones having made ready what is needed; told where that is too long.
  _time(began) {
    const gl = this.renderer.getContext();
    gl.readPixels(0, 0, 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, new Uint8Array(4)); // waits until all is drawn
    this.timed = (this.timed || 0) + 1;
    if (this.timed < 3) {
      this.invalidate();
      return;
    }
    const { onSlow } = this;
    this.onSlow = null;
    if (performance.now() - began > SLOW) onSlow(performance.now() - began);
  }

  // Draw once, at the next frame.
  invalidate() {
    if (this.pending) return;
    this.pending = true;
    requestAnimationFrame(() => {
      this.pending = false;
      this.lamp.position
        .copy(this.eye.camera.position)
        .addScaledVector(this.eye.axes().up, 700)
        .addScaledVector(this.eye.right, -500);
      this.lamp.target.position.copy(this.eye.target);
      this.studio.follow(this.eye);
      const began = performance.now();
      this.renderer.render(this.scene, this.eye.camera);
      if (this.onSlow && this.style === 'finished' && this.bodies.size) this._time(began);
      this.tags.place();
      this.ground.drawBar();
      this.frame += 1;
      this.holder.dataset.frame = String(this.frame);
    });
  }
}
