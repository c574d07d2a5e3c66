// What lies under the pointer: faces and edges of bodies, places on them and on the cut.

import { Raycaster, Vector2, Vector3 } from 'three';
import { rangeOf } from './glb.js';

export class Picker {
  constructor(view) {
    this.view = view;
    this._listen();
  }

  // The point of a body under a point of the page, mm; null beside them.
  spotAt(clientX, clientY) {
    const box = this.view.canvas.getBoundingClientRect();
    const hit = this.faceAt(clientX - box.left, clientY - box.top, box);
    return hit && hit.point.toArray();
  }

  // How far all that is shown reaches along a direction, for the section's handle.
  spanAlong(way) {
    let low = Infinity;
    let high = -Infinity;
    for (const { body } of this.view.bodies.values()) {
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
    const entry = this.view.bodies.get(id);
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
    const axis = [0, 1, 2].find((k) => Math.abs(Math.abs(normal.getComponent(k)) - 1) < 1e-4);
    if (axis !== undefined) {
      const sign = Math.sign(normal.getComponent(axis));
      normal.set(0, 0, 0).setComponent(axis, sign);
    }
    return { point, normal: normal.normalize() };
  }

  // Where a click meets the plane of the section, if nothing that is shown lies before it; null otherwise.
  spotOnCut(clientX, clientY) {
    if (!this.view.section.on) return null;
    const box = this.view.canvas.getBoundingClientRect();
    const [x, y] = [clientX - box.left, clientY - box.top];
    const ray = this._ray(x, y, box);
    const point = ray.intersectPlane(this.view.section.plane, new Vector3());
    if (!point) return null;
    const hit = this.faceAt(x, y, box);
    return hit && hit.distance < ray.origin.distanceTo(point) - 1e-3 ? null : point.toArray();
  }

  edgesOf(id) {
    return [...(this.view.bodies.get(id)?.geometry.read.edgeEnds || []).keys()];
  }

  // What lies under a point of the page: {body, face} or {body, edge}; null if nothing of the wanted kind does.
  at(clientX, clientY, wants = this.view.wants || 'any') {
    const hit = this._at(clientX, clientY, wants);
    if (hit?.place) return hit;
    return hit && { ...hit, mesh: this.view.bodies.get(hit.body).body.mesh };
  }

  // Whether what was found once is still what is shown: a rebuild may number faces and edges anew.
  holds({ body, mesh }) {
    return this.view.bodies.get(body)?.body.mesh === mesh;
  }

  _at(clientX, clientY, wants) {
    const box = this.view.canvas.getBoundingClientRect();
    const x = clientX - box.left;
    const y = clientY - box.top;
    const hit = this.faceAt(x, y, box);
    // Planes are taken where they stand out: over a body its faces are meant, though a sheet may lie before them.
    const plane = hit ? null : this.view.ground?.at(this._ray(x, y, box));
    if (plane) return { place: plane.place };
    if (wants !== 'faces') {
      const edge = this._edgeAt(x, y, box, hit);
      if (edge) return edge;
      if (wants === 'edges') return null;
    }
    return hit ? { body: hit.body, face: hit.face } : null;
  }

  _ray(x, y, box) {
    const caster = new Raycaster();
    caster.setFromCamera(new Vector2((x / box.width) * 2 - 1, 1 - (y / box.height) * 2), this.view.eye.camera);
    return caster.ray;
  }

  faceAt(x, y, box) {
    const caster = new Raycaster();
    caster.firstHitOnly = false;
    caster.setFromCamera(new Vector2((x / box.width) * 2 - 1, 1 - (y / box.height) * 2), this.view.eye.camera);
    let best = null;
    for (const entry of this.view.bodies.values()) {
      if (!entry.group.visible || entry.body.ghost) continue;
      for (const hit of caster.intersectObject(entry.mesh, false)) {
        if (this.view.section.on && this.view.section.plane.distanceToPoint(hit.point) < 0) continue;
        if (best && hit.distance >= best.distance) continue;
        const face = rangeOf(entry.geometry.read.faceEnds, hit.faceIndex);
        best = {
          body: entry.body.id,
          face,
          distance: hit.distance,
          point: hit.point.clone().sub(entry.group.position),
        };
      }
    }
    return best;
  }

  _edgeAt(x, y, box, hit) {
    const limit = 7;
    let best = null;
    const depth = this.view.eye.way;
    const eye = this.view.eye.camera.position;
    const { right, up } = this.view.eye.axes();
    const scale = 1 / this.view.eye.unit;
    for (const entry of this.view.bodies.values()) {
      if (!entry.group.visible || entry.body.ghost) continue;
      const { segments, edgeEnds } = entry.geometry.read;
      const base = entry.group.position.clone().sub(this.view.eye.target);
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
        if (hit && away > hit.distance + 10 * this.view.eye.unit + 0.4) continue;
        if (this.view.section.on) {
          const point = new Vector3(px, py, pz).add(entry.group.position);
          if (this.view.section.plane.distanceToPoint(point) < 0) continue;
        }
        best = { body: entry.body.id, edge: rangeOf(edgeEnds, i / 3), gap, point: [px, py, pz] };
      }
    }
    return best && { body: best.body, edge: best.edge, point: best.point };
  }

  // A place on a face or edge, where it is in the document, mm.
  whereIs({ body, kind, index }) {
    const { read } = this.view.bodies.get(body).geometry;
    return kind === 'edge' ? this._onEdge(read, index) : this._onFace(read, index).toArray();
  }

  // The middle of a face's largest triangle.
  _onFace(read, index) {
    const corner = (triangle, k) => new Vector3().fromArray(read.points, read.triangles[triangle * 3 + k] * 3);
    const point = new Vector3();
    let most = -1;
    for (let triangle = index ? read.faceEnds[index - 1] : 0; triangle < read.faceEnds[index]; triangle += 1) {
      const [a, b, c] = [0, 1, 2].map((k) => corner(triangle, k));
      const area = b.clone().sub(a).cross(c.clone().sub(a)).length();
      if (area > most) {
        most = area;
        point.copy(a).add(b).add(c).divideScalar(3);
      }
    }
    return point;
  }

  // Every face or edge that is shown, body by body: {body, mesh, index}, and of an edge a `point` on it.
  everything(kind) {
    const found = [];
    for (const { body, group, geometry } of this.view.bodies.values()) {
      if (!group.visible || body.ghost) continue;
      const { read } = geometry;
      const ends = kind === 'face' ? read.faceEnds : read.edgeEnds;
      for (let index = 0; index < ends.length; index += 1) {
        const item = { body: body.id, mesh: body.mesh, index };
        found.push(kind === 'face' ? item : { ...item, point: this._onEdge(read, index) });
      }
    }
    return found;
  }

  // The middle of the segment in the middle of an edge.
  _onEdge(read, index) {
    const from = index ? read.edgeEnds[index - 1] : 0;
    const middle = Math.floor((from + read.edgeEnds[index]) / 2);
    const at = Math.min(middle - (middle % 2), read.edgeEnds[index] - 2) * 3;
    return [0, 1, 2].map((k) => (read.segments[at + k] + read.segments[at + 3 + k]) / 2);
  }

  // Light a face or edge as if the pointer were over it, and turn to it where it looks away; null lights none.
  point(item) {
    this.view.hoverKey = item ? `${item.body} ${item.kind} ${item.index}` : '';
    this.view.hover = item && { body: item.body, [item.kind === 'face' ? 'faces' : 'edges']: [item.index] };
    if (item?.kind === 'face') {
      const { read } = this.view.bodies.get(item.body).geometry;
      const from = item.index ? read.faceEnds[item.index - 1] : 0;
      const middle = Math.floor((from + read.faceEnds[item.index]) / 2);
      this.view.eye.turnTo(new Vector3().fromArray(read.normals, read.triangles[middle * 3] * 3).normalize());
    }
    this.view.overlay.drawLit();
    this.view.invalidate();
  }

  _listen() {
    let waiting = false;
    this.view.canvas.addEventListener('pointermove', (event) => {
      if (waiting || event.buttons || !this.view.wants) return;
      waiting = true;
      requestAnimationFrame(() => {
        waiting = false;
        /** @type {any} */ // an edge or a face
        const hit = this.at(event.clientX, event.clientY);
        const key = hit ? `${hit.place?.key} ${hit.body} ${hit.face} ${hit.edge}` : '';
        if (key === this.view.hoverKey) return;
        this.view.hoverKey = key;
        this.view.ground.light(hit?.place || null);
        this.view.hover = hit &&
          !hit.place && {
            body: hit.body,
            faces: 'face' in hit ? [hit.face] : [],
            edges: 'edge' in hit ? [hit.edge] : [],
          };
        this.view.overlay.drawLit();
        this.view.invalidate();
        this.view.onHover(hit);
      });
    });
    this.view.canvas.addEventListener('pointerleave', () => {
      if (!this.view.hover) return;
      this.view.hover = null;
      this.view.hoverKey = '';
      this.view.overlay.drawLit();
      this.view.invalidate();
    });
    this.view.canvas.addEventListener('click', (event) => {
      if (!this.view.eye.moved) this.view.onPick(this.at(event.clientX, event.clientY), event);
    });
    this.view.canvas.addEventListener('webglcontextlost', (event) => event.preventDefault());
    this.view.canvas.addEventListener('webglcontextrestored', () => this.view.invalidate());
  }

  // Middle of an edge, or of a face's largest triangle, on the page, for tests and tooltips.
  project(id, kind, index) {
    const entry = this.view.bodies.get(id);
    const point = new Vector3().fromArray(this.whereIs({ body: id, kind, index }));
    point.add(entry.group.position).project(this.view.eye.camera);
    const box = this.view.canvas.getBoundingClientRect();
    return { x: box.left + ((point.x + 1) / 2) * box.width, y: box.top + ((1 - point.y) / 2) * box.height };
  }
}
