// The view: bodies from GLB, drawing styles, section, opening stroke, and picking of faces and edges.

import {
  ArrowHelper, BufferAttribute, BufferGeometry, Color, DirectionalLight, DoubleSide, FrontSide, GreaterDepth, Group,
  HemisphereLight, LessEqualDepth, LineBasicMaterial, LineDashedMaterial, LineSegments, Mesh, MeshBasicMaterial,
  MeshLambertMaterial, Raycaster, Scene, Vector2, Vector3, WebGLRenderer,
} from 'three';
import { MeshBVH, acceleratedRaycast } from 'three-mesh-bvh';
import { readGlb, rangeOf } from './glb.js';
import { crossAt } from './bodies.js';
import { travel } from './opening.js';
import { Eye } from './camera.js';
import { Section } from './section.js';

Mesh.prototype.raycast = acceleratedRaycast;

export const COLOURS = {
  part: '#D9C7A3', linked: '#D9C7A3', shot: '#D9C7A3', block: '#B9C3C0', cavity: '#7A5BB5', core: '#2A8C82',
  molded: '#D9C7A3', 'cavity insert': '#9C84C9', 'core insert': '#57AAA1', slide: '#B4527A', insert: '#8A97A8', ejector: '#5C6B73', feed: '#E0762F', surface: '#7FA8B8',
};
const GROWN = 1.8; // bodies that reach so much farther than the view was fitted to are fitted anew: one would stand within them
const INK = new Color('#12211F');
const AMBER = new Color('#F2A100');
const PETROL = new Color('#0B5D5B');

export class Viewer {
  constructor(holder, { onPick = () => {}, onHover = () => {} } = {}) {
    this.__v_skip = true; // the page's reactive state must not wrap the scene in proxies
    this.holder = holder;
    this.onPick = onPick;
    this.onHover = onHover;
    const smooth = !new URLSearchParams(location.search).has('plain');
    this.renderer = new WebGLRenderer({ antialias: smooth, alpha: true, stencil: true, powerPreference: 'high-performance' });
    this.renderer.localClippingEnabled = true;
    this.renderer.setPixelRatio(Math.min(window.devicePixelRatio, 2));
    this.canvas = this.renderer.domElement;
    this.canvas.tabIndex = -1;
    this.canvas.setAttribute('aria-label', 'View of the model');
    holder.append(this.canvas);
    this.scene = new Scene();
    this.scene.add(new HemisphereLight('#ffffff', '#a9b0ab', 2.3));
    this.lamp = new DirectionalLight('#ffffff', 1.25);
    this.scene.add(this.lamp, this.lamp.target);
    this.eye = new Eye(this.canvas, () => this.invalidate());
    this.section = new Section();
    this.bodies = new Map();
    this.geometries = new Map();
    this.hidden = new Set();
    this.paint = null; // the map of the open gauge, if there is one
    this.mode = 'shaded';
    this.stroke = 0;
    this.wants = null;
    this.lit = [];
    this.hover = null;
    this.sketches = new Group();
    this.marks = new Group();
    this.lines = new Group();
    this.cuts = new Group();
    this.traces = new Group();
    this.scene.add(this.sketches, this.marks, this.lines, this.cuts, this.traces);
    this.frame = 0;
    this.fitted = 0; // how far the bodies reached when the view was last fitted to them, mm
    new ResizeObserver(() => this._resize()).observe(holder);
    this._resize();
    this._listen();
  }

  // Show these bodies: [{id, role, mesh, pull, low, high, stale}]. Meshes already here are kept.
  async show(list, sketches = []) {
    this.wanted = list;
    const loaded = await Promise.all(list.map((body) => this._geometry(body.mesh)));
    if (this.wanted !== list) return;
    for (const body of this.bodies.values()) this._drop(body);
    this.bodies.clear();
    this.hasSlides = list.some((body) => body.role === 'slide');
    list.forEach((body, index) => this._add(body, loaded[index], index));
    for (const name of [...this.geometries.keys()]) {
      if (this.geometries.size <= 80 || list.some((body) => body.mesh === name)) continue;
      this.geometries.get(name).then((g) => { g.faces.dispose(); g.edges.dispose(); });
      this.geometries.delete(name);
    }
    this._drawSketches(sketches);
    this._drawPull();
    this.hover = null;
    this.hoverKey = '';
    this.restyle();
    this._drawLit();
    if ((list.length || sketches.length) && this.reach() > GROWN * this.fitted) this.fit();
  }

  // Draw the outlines and lines anew, the bodies staying as they are.
  redraw(sketches) { this._drawSketches(sketches); this.invalidate(); }

  _geometry(name) {
    if (!this.geometries.has(name)) this.geometries.set(name, this._load(name));
    return this.geometries.get(name);
  }

  async _load(name) {
    const response = await fetch(`/api/blobs/${name}`);
    if (!response.ok) throw new Error('The shape could not be fetched.');
    const read = readGlb(await response.arrayBuffer());
    const faces = new BufferGeometry();
    faces.setAttribute('position', new BufferAttribute(read.points, 3));
    faces.setAttribute('normal', new BufferAttribute(read.normals, 3));
    faces.setIndex(new BufferAttribute(read.triangles, 1));
    faces.boundsTree = new MeshBVH(faces, { indirect: true });
    const edges = new BufferGeometry();
    edges.setAttribute('position', new BufferAttribute(read.segments, 3));
    edges.setAttribute('run', new BufferAttribute(runs(read.segments), 3));
    edges.setAttribute('lineDistance', new BufferAttribute(lengths(read.segments, read.edgeEnds), 1));
    return { faces, edges, read };
  }

  _add(body, geometry, index) {
    const group = new Group();
    const colour = new Color(body.look?.colour || COLOURS[body.role] || COLOURS.part);
    const clip = this.section.planes;
    const mesh = new Mesh(geometry.faces, new MeshLambertMaterial({
      color: colour, polygonOffset: true, polygonOffsetFactor: 1, polygonOffsetUnits: 1, clippingPlanes: clip,
    }));
    const edges = new LineSegments(geometry.edges, withoutDust(new LineBasicMaterial({ color: INK, clippingPlanes: clip })));
    const behind = new LineSegments(geometry.edges, withoutDust(new LineDashedMaterial({
      color: INK, transparent: true, opacity: 0.28, dashSize: 1.6, gapSize: 1.4, depthFunc: GreaterDepth, depthWrite: false,
      clippingPlanes: clip,
    })));
    mesh.renderOrder = 500;
    edges.renderOrder = 600;
    behind.renderOrder = 590;
    group.add(mesh, edges, behind);
    const size = 3 * Math.hypot(...body.high.map((h, i) => h - body.low[i])) + 10;
    const entry = { body, geometry, group, mesh, edges, behind, colour, caps: null, index, size };
    this.scene.add(group);
    this.bodies.set(body.id, entry);
  }

  _drop(entry) {
    this.scene.remove(entry.group);
    for (const part of [entry.mesh, entry.edges, entry.behind]) part.material.dispose();
    this._dropCaps(entry);
  }

  _dropCaps(entry) {
    if (!entry.caps) return;
    for (const part of entry.caps.counters) { entry.group.remove(part); part.material.dispose(); }
    this.scene.remove(entry.caps.cap);
    entry.caps.cap.geometry.dispose();
    entry.caps.cap.material.map.dispose();
    entry.caps.cap.material.dispose();
    entry.caps = null;
  }

  // Bring materials, section, stroke and visibility up to date.
  restyle() {
    const clip = this.section.planes;
    for (const entry of this.bodies.values()) {
      const { mesh, edges, behind, body } = entry;
      const seeThrough = this.mode === 'see-through' || body.stale || body.look?.clear;
      mesh.visible = this.mode !== 'lines' && !this.paint?.covers(body);
      mesh.material.transparent = seeThrough;
      mesh.material.opacity = seeThrough ? 0.35 : 1;
      mesh.material.depthWrite = !seeThrough;
      mesh.material.side = seeThrough || this.section.on || body.role === 'surface' ? DoubleSide : FrontSide;
      edges.material.depthFunc = LessEqualDepth;
      behind.visible = this.mode === 'hidden edges';
      for (const part of [mesh, edges, behind]) {
        part.material.clippingPlanes = clip;
        part.material.needsUpdate = true;
      }
      entry.group.visible = !this.hidden.has(body.id);
      entry.group.position.copy(this._lift(body));
      this._dropCaps(entry);
      if (this.section.on && this.mode !== 'lines' && entry.group.visible && body.role !== 'surface') {
        entry.caps = this.section.caps(entry.geometry.faces, entry.colour, 10 + entry.index * 10, entry.size);
        entry.group.add(...entry.caps.counters);
        this.section.place(entry.caps.cap, this._centre(entry));
        this.scene.add(entry.caps.cap);
      }
    }
    this.paint?.follow();
    this._drawLit();
    this.invalidate();
  }

  _lift(body) {
    const pull = new Vector3(...(body.pull || [0, 0, 1]));
    return pull.multiplyScalar(travel(body.role, this.stroke, this.hasSlides));
  }

  _centre({ body, group }) {
    return new Vector3(...body.low).add(new Vector3(...body.high)).multiplyScalar(0.5).add(group.position);
  }

  setMode(mode) { this.mode = mode; this.restyle(); }
  setStroke(mm) { this.stroke = mm; this.restyle(); }
  setSection(change) { this.section.set(change); this.restyle(); }
  setHidden(id, hide) { hide ? this.hidden.add(id) : this.hidden.delete(id); this.restyle(); }
  look(name) { this.eye.look(name); this.fit(); }
  lookStraight(frame, centre, unit) { this.eye.lookStraight(frame, centre, unit); this.invalidate(); }

  // Cut away what lies in front of a plane; null shows everything again.
  cutAt(frame) { this.section.across(frame); this.restyle(); }

  fit() {
    const corners = [];
    for (const { body, group } of this.bodies.values()) {
      if (!group.visible) continue;
      for (let i = 0; i < 8; i += 1) {
        const pick = (axis) => ((i >> axis) & 1 ? body.high : body.low)[axis];
        corners.push(new Vector3(pick(0), pick(1), pick(2)).add(group.position));
      }
    }
    if (!corners.length) {
      this.sketches.traverse((line) => {
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
    this.setLines(crossAt(place, this.reach() * 0.02));
  }

  // The point of a body under a point of the page, mm; null beside them.
  spotAt(clientX, clientY) {
    const box = this.canvas.getBoundingClientRect();
    const hit = this._faceAt(clientX - box.left, clientY - box.top, box);
    return hit && hit.point.toArray();
  }

  // How far all that is shown reaches along a direction, for the section's handle.
  spanAlong(way) {
    let low = Infinity;
    let high = -Infinity;
    for (const { body } of this.bodies.values()) {
      for (let i = 0; i < 8; i += 1) {
        const d = [0, 1, 2].reduce((sum, k) => sum + ((i >> k) & 1 ? body.high : body.low)[k] * way.getComponent(k), 0);
        low = Math.min(low, d);
        high = Math.max(high, d);
      }
    }
    return low < high ? [low, high] : [-50, 50];
  }

  // The plane of a flat face, from the triangles that draw it; null for others.
  planeOf(id, face) {
    const entry = this.bodies.get(id);
    if (!entry) return null;
    const { read } = entry.geometry;
    const from = face ? read.faceEnds[face - 1] : 0;
    const point = new Vector3().fromArray(read.points, read.triangles[from * 3] * 3);
    const normal = new Vector3();
    for (let i = from * 3; i < read.faceEnds[face] * 3; i += 1) {
      const way = new Vector3().fromArray(read.normals, read.triangles[i] * 3).normalize();
      if (i === from * 3) normal.copy(way);
      else if (way.dot(normal) < 0.9995) return null;
    }
    for (const k of [0, 1, 2]) if (Math.abs(Math.abs(normal.getComponent(k)) - 1) < 1e-4) normal.set(0, 0, 0).setComponent(k, Math.sign(normal.getComponent(k)) || 1);
    return { point, normal: normal.normalize() };
  }

  // Lines on the skin that belong to a map, such as where faces turn over, or the gate.
  setTraces(lines) {
    clear(this.traces);
    if (lines.length) this.traces.add(strokes(lines, PETROL, 1));
    this.invalidate();
  }

  // The exact outlines of a section, drawn just before its plane.
  setCut(lines) {
    clear(this.cuts);
    if (lines.length) {
      const drawn = strokes(lines, INK, 1);
      drawn.material.depthTest = true;
      drawn.position.copy(this.section.plane.normal).multiplyScalar(-0.02 * Math.max(1, this.reach() / 100));
      this.cuts.add(drawn);
    }
    this.invalidate();
  }

  // Where a click meets the plane of the section, if nothing that is shown lies before it; null otherwise.
  spotOnCut(clientX, clientY) {
    if (!this.section.on) return null;
    const box = this.canvas.getBoundingClientRect();
    const caster = new Raycaster();
    const [x, y] = [clientX - box.left, clientY - box.top];
    caster.setFromCamera(new Vector2((x / box.width) * 2 - 1, 1 - (y / box.height) * 2), this.eye.camera);
    const point = caster.ray.intersectPlane(this.section.plane, new Vector3());
    if (!point) return null;
    const hit = this._faceAt(x, y, box);
    return hit && hit.distance < caster.ray.origin.distanceTo(point) - 1e-3 ? null : point.toArray();
  }

  _drawSketches(list) {
    clear(this.sketches);
    for (const sketch of list) {
      if (sketch.kind) { this._drawDatum(sketch); continue; }
      // What can still move is amber, what is fixed is ink.
      for (const [loose, colour] of [[true, AMBER], [false, INK]]) {
        const points = [];
        sketch.lines.forEach((line, number) => {
          if (sketch.loose[number] === loose) for (let i = 1; i < line.length; i += 1) points.push(...line[i - 1], ...line[i]);
        });
        const geometry = new BufferGeometry();
        geometry.setAttribute('position', new BufferAttribute(new Float32Array(points), 3));
        const lines = new LineSegments(geometry, new LineBasicMaterial({ color: colour, depthTest: false }));
        lines.renderOrder = 700;
        this.sketches.add(lines);
      }
    }
  }

  // Planes, axes and points to build on, and lines that steps keep.
  _drawDatum({ kind, lines }) {
    const colour = kind === 'note' ? INK : PETROL;
    this.sketches.add(strokes(lines, colour, kind === 'note' ? 1 : 0.75));
    if (kind !== 'plane') return;
    const [a, b, c, d] = lines[0];
    const geometry = new BufferGeometry();
    geometry.setAttribute('position', new BufferAttribute(new Float32Array([...a, ...b, ...c, ...a, ...c, ...d]), 3));
    const sheet = new Mesh(geometry, new MeshBasicMaterial({ color: PETROL, transparent: true, opacity: 0.07, side: DoubleSide, depthWrite: false }));
    sheet.raycast = () => {};
    sheet.renderOrder = 690;
    this.sketches.add(sheet);
  }

  // Lines of the moment, such as a measured distance.
  setLines(lines) {
    clear(this.lines);
    if (lines.length) this.lines.add(strokes(lines, AMBER, 1));
    this.invalidate();
  }

  edgesOf(id) { return [...(this.bodies.get(id)?.geometry.read.edgeEnds || []).keys()]; }

  // How far the model reaches, mm.
  reach() { return Math.max(10, ...[...this.bodies.values()].map(({ size }) => (size - 10) / 3)); }

  _drawPull() {
    if (this.pull) { this.scene.remove(this.pull); this.pull.dispose(); this.pull = null; }
    const list = [...this.bodies.values()];
    if (!list.length) return;
    const way = new Vector3(...(list.find(({ body }) => body.pull)?.body.pull || [0, 0, 1]));
    const top = new Vector3();
    let reach = 0;
    for (const entry of list) {
      const high = new Vector3(...entry.body.high);
      const low = new Vector3(...entry.body.low);
      reach = Math.max(reach, high.distanceTo(low));
      const centre = high.clone().add(low).multiplyScalar(0.5);
      const half = Math.abs(high.clone().sub(low).dot(way)) / 2;
      if (centre.dot(way) + half >= top.dot(way)) top.copy(centre).addScaledVector(way, half);
    }
    this.pull = new ArrowHelper(way, top, reach * 0.16, '#0B5D5B', reach * 0.05, reach * 0.025);
    this.pull.line.renderOrder = 800;
    this.scene.add(this.pull);
  }

  // Light picks: [{body, faces: [..], edges: [..]}].
  light(items) { this.lit = items; this._drawLit(); this.invalidate(); }

  _drawLit() {
    clear(this.marks, false);
    for (const item of this.lit) this._mark(item, 0.85);
    if (this.hover) this._mark(this.hover, 0.5);
  }

  _mark({ body: id, faces = [], edges = [] }, opacity) {
    const entry = this.bodies.get(id);
    if (!entry || !entry.group.visible) return;
    const { read } = entry.geometry;
    for (const face of faces) {
      const from = face ? read.faceEnds[face - 1] : 0;
      const part = share(entry.geometry.faces);
      part.setDrawRange(from * 3, (read.faceEnds[face] - from) * 3);
      const material = new MeshBasicMaterial({
        color: AMBER, transparent: true, opacity: opacity * 0.75, polygonOffset: true, polygonOffsetFactor: -1,
        polygonOffsetUnits: -1, side: DoubleSide, clippingPlanes: this.section.planes,
      });
      const mesh = new Mesh(part, material);
      mesh.raycast = () => {};
      mesh.renderOrder = 650;
      mesh.position.copy(entry.group.position);
      this.marks.add(mesh);
    }
    for (const edge of edges) {
      const from = edge ? read.edgeEnds[edge - 1] : 0;
      const part = share(entry.geometry.edges);
      part.setDrawRange(from, read.edgeEnds[edge] - from);
      // One pixel is too thin to see: the edge is drawn five times, shifted by a pixel each way on the screen.
      for (const [x, y] of [[0, 0], [1, 0], [-1, 0], [0, 1], [0, -1]]) {
        const line = new LineSegments(part, new LineBasicMaterial({ color: AMBER, depthTest: false, transparent: true, opacity }));
        line.renderOrder = 660;
        const { right, up } = this.eye.axes();
        line.position.copy(entry.group.position).addScaledVector(right, x * this.eye.unit).addScaledVector(up, y * this.eye.unit);
        this.marks.add(line);
      }
    }
  }

  // What lies under a point of the page: {body, face} or {body, edge}; null if nothing of the wanted kind does.
  at(clientX, clientY, wants = this.wants || 'any') {
    const found = this._at(clientX, clientY, wants);
    return found && { ...found, mesh: this.bodies.get(found.body).body.mesh };
  }

  // Whether what was found once is still what is shown: a rebuild may number faces and edges anew.
  holds({ body, mesh }) { return this.bodies.get(body)?.body.mesh === mesh; }

  _at(clientX, clientY, wants) {
    const box = this.canvas.getBoundingClientRect();
    const x = clientX - box.left;
    const y = clientY - box.top;
    const hit = this._faceAt(x, y, box);
    if (wants !== 'faces') {
      const edge = this._edgeAt(x, y, box, hit);
      if (edge) return edge;
      if (wants === 'edges') return null;
    }
    return hit ? { body: hit.body, face: hit.face } : null;
  }

  _faceAt(x, y, box) {
    const caster = new Raycaster();
    caster.firstHitOnly = false;
    caster.setFromCamera(new Vector2((x / box.width) * 2 - 1, 1 - (y / box.height) * 2), this.eye.camera);
    let best = null;
    for (const entry of this.bodies.values()) {
      if (!entry.group.visible) continue;
      for (const hit of caster.intersectObject(entry.mesh, false)) {
        if (this.section.on && this.section.plane.distanceToPoint(hit.point) < 0) continue;
        if (best && hit.distance >= best.distance) continue;
        const face = rangeOf(entry.geometry.read.faceEnds, hit.faceIndex);
        best = { body: entry.body.id, face, distance: hit.distance, point: hit.point.clone().sub(entry.group.position) };
      }
    }
    return best;
  }

  _edgeAt(x, y, box, hit) {
    const limit = 7;
    let best = null;
    const depth = this.eye.way;
    const eye = this.eye.camera.position;
    const { right, up } = this.eye.axes();
    const scale = 1 / this.eye.unit;
    for (const entry of this.bodies.values()) {
      if (!entry.group.visible) continue;
      const { segments, edgeEnds } = entry.geometry.read;
      const base = entry.group.position.clone().sub(this.eye.target);
      const bx = base.dot(right) * scale + box.width / 2;
      const by = box.height / 2 - base.dot(up) * scale;
      const far = eye.clone().sub(entry.group.position).dot(depth);
      for (let i = 0; i < segments.length; i += 6) {
        const ax = bx + (segments[i] * right.x + segments[i + 1] * right.y + segments[i + 2] * right.z) * scale;
        const ay = by - (segments[i] * up.x + segments[i + 1] * up.y + segments[i + 2] * up.z) * scale;
        const cx = bx + (segments[i + 3] * right.x + segments[i + 4] * right.y + segments[i + 5] * right.z) * scale;
        const cy = by - (segments[i + 3] * up.x + segments[i + 4] * up.y + segments[i + 5] * up.z) * scale;
        const dx = cx - ax;
        const dy = cy - ay;
        const t = Math.max(0, Math.min(1, ((x - ax) * dx + (y - ay) * dy) / (dx * dx + dy * dy || 1)));
        const gap = Math.hypot(ax + t * dx - x, ay + t * dy - y);
        if (gap > limit || (best && gap >= best.gap)) continue;
        const px = segments[i] + t * (segments[i + 3] - segments[i]);
        const py = segments[i + 1] + t * (segments[i + 4] - segments[i + 1]);
        const pz = segments[i + 2] + t * (segments[i + 5] - segments[i + 2]);
        const away = far - (px * depth.x + py * depth.y + pz * depth.z);
        if (hit && away > hit.distance + 10 * this.eye.unit + 0.4) continue;
        if (this.section.on) {
          const point = new Vector3(px, py, pz).add(entry.group.position);
          if (this.section.plane.distanceToPoint(point) < 0) continue;
        }
        best = { body: entry.body.id, edge: rangeOf(edgeEnds, i / 3), gap, point: [px, py, pz] };
      }
    }
    return best && { body: best.body, edge: best.edge, point: best.point };
  }

  _listen() {
    let waiting = false;
    this.canvas.addEventListener('pointermove', (event) => {
      if (waiting || event.buttons || !this.wants) return;
      waiting = true;
      requestAnimationFrame(() => {
        waiting = false;
        const found = this.at(event.clientX, event.clientY);
        const key = found ? `${found.body} ${found.face} ${found.edge}` : '';
        if (key === this.hoverKey) return;
        this.hoverKey = key;
        this.hover = found && { body: found.body, faces: 'face' in found ? [found.face] : [], edges: 'edge' in found ? [found.edge] : [] };
        this._drawLit();
        this.invalidate();
        this.onHover(found);
      });
    });
    this.canvas.addEventListener('pointerleave', () => {
      if (!this.hover) return;
      this.hover = null;
      this.hoverKey = '';
      this._drawLit();
      this.invalidate();
    });
    this.canvas.addEventListener('click', (event) => {
      if (!this.eye.moved) this.onPick(this.at(event.clientX, event.clientY), event);
    });
    this.canvas.addEventListener('webglcontextlost', (event) => event.preventDefault());
    this.canvas.addEventListener('webglcontextrestored', () => this.invalidate());
  }

  _resize() {
    const { clientWidth: width, clientHeight: height } = this.holder;
    if (!width || !height) return;
    this.renderer.setSize(width, height);
    this.eye.resize(width, height);
    this.invalidate();
  }

  // Draw once, at the next frame.
  invalidate() {
    if (this.pending) return;
    this.pending = true;
    requestAnimationFrame(() => {
      this.pending = false;
      this.lamp.position.copy(this.eye.camera.position).addScaledVector(this.eye.axes().up, 700).addScaledVector(this.eye.right, -500);
      this.lamp.target.position.copy(this.eye.target);
      this.renderer.render(this.scene, this.eye.camera);
      this.frame += 1;
      this.holder.dataset.frame = this.frame;
    });
  }

  // Middle of an edge, or of a face's largest triangle, on the page, for tests and tooltips.
  project(id, kind, index) {
    const entry = this.bodies.get(id);
    const { read } = entry.geometry;
    const ends = kind === 'face' ? read.faceEnds : read.edgeEnds;
    const from = index ? ends[index - 1] : 0;
    const middle = Math.floor((from + ends[index]) / 2);
    const point = new Vector3();
    if (kind === 'face') {
      const corner = (triangle, k) => new Vector3().fromArray(read.points, read.triangles[triangle * 3 + k] * 3);
      let most = -1;
      for (let triangle = from; triangle < ends[index]; triangle += 1) {
        const [a, b, c] = [0, 1, 2].map((k) => corner(triangle, k));
        const area = b.clone().sub(a).cross(c.clone().sub(a)).length();
        if (area > most) { most = area; point.copy(a).add(b).add(c).divideScalar(3); }
      }
    } else {
      const at = Math.min(middle - (middle % 2), ends[index] - 2) * 3;
      point.set(read.segments[at] + read.segments[at + 3], read.segments[at + 1] + read.segments[at + 4], read.segments[at + 2] + read.segments[at + 5]).multiplyScalar(0.5);
    }
    point.add(entry.group.position).project(this.eye.camera);
    const box = this.canvas.getBoundingClientRect();
    return { x: box.left + ((point.x + 1) / 2) * box.width, y: box.top + ((1 - point.y) / 2) * box.height };
  }
}

function strokes(lines, color, opacity) {
  const points = lines.flatMap((line) => line.slice(1).flatMap((point, i) => [...line[i], ...point]));
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', new BufferAttribute(new Float32Array(points), 3));
  const drawn = new LineSegments(geometry, new LineBasicMaterial({ color, depthTest: false, transparent: true, opacity }));
  drawn.renderOrder = 700;
  return drawn;
}

function share(geometry) {
  const part = new BufferGeometry();
  for (const [name, attribute] of Object.entries(geometry.attributes)) part.setAttribute(name, attribute);
  part.setIndex(geometry.index);
  return part;
}

function clear(group, withGeometry = true) {
  for (const part of [...group.children]) {
    group.remove(part);
    part.material.dispose();
    if (withGeometry) part.geometry.dispose();
  }
}

// How far each end of a segment is from its other end.
function runs(segments) {
  const found = new Float32Array(segments.length);
  for (let i = 0; i < segments.length; i += 6) {
    for (let k = 0; k < 3; k += 1) {
      found[i + k] = segments[i + 3 + k] - segments[i + k];
      found[i + 3 + k] = -found[i + k];
    }
  }
  return found;
}

// Segments seen end-on are no larger than a pixel or two, whose depth the graphics then take from far beyond their ends: specks would
// shine through the faces before them. They are left out.
function withoutDust(material) {
  material.onBeforeCompile = (shader) => {
    shader.vertexShader = shader.vertexShader
      .replace('#include <common>', '#include <common>\nattribute vec3 run;')
      .replace('#include <project_vertex>', `#include <project_vertex>
        vec4 across = modelViewMatrix * vec4(run, 0.0);
        bool endOn = abs(across.z) > 7.0 * length(across.xy) && length((projectionMatrix * across).xy) < 0.006;
        if (endOn) gl_Position = vec4(0.0, 0.0, 2.0, 1.0);`);
  };
  return material;
}

// Running length along each edge, for dashes.
function lengths(segments, ends) {
  const found = new Float32Array(segments.length / 3);
  let start = 0;
  for (const end of ends) {
    let sum = 0;
    for (let i = start; i < end; i += 2) {
      const a = i * 3;
      found[i] = sum;
      sum += Math.hypot(segments[a + 3] - segments[a], segments[a + 4] - segments[a + 1], segments[a + 5] - segments[a + 2]);
      found[i + 1] = sum;
    }
    start = end;
  }
  return found;
}
