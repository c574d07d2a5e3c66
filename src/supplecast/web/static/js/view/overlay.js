// What is drawn over the bodies: outlines, datums, lines of the moment, and what is lit.

import {
  ArrowHelper,
  BufferAttribute,
  BufferGeometry,
  DoubleSide,
  LineBasicMaterial,
  LineSegments,
  Mesh,
  MeshBasicMaterial,
  Vector3,
} from 'three';
import { strokes, share, clear } from './strokes.js';
import { AMBER, INK, PETROL } from './colours.js';

export class Overlay {
  constructor(view) {
    this.view = view;
  }

  // Draw the outlines and lines anew, the bodies staying as they are.
  redraw(sketches) {
    this.drawSketches(sketches);
    this.view.invalidate();
  }

  // Lines on the skin that belong to a map, such as where faces turn over, or the gate.
  setTraces(lines) {
    clear(this.view.traces);
    if (lines.length) this.view.traces.add(strokes(lines, PETROL, 1));
    this.view.invalidate();
  }

  // The exact outlines of a section, drawn just before its plane.
  setCut(lines) {
    clear(this.view.cuts);
    if (lines.length) {
      const drawn = strokes(lines, INK, 1);
      drawn.material.depthTest = true;
      drawn.position.copy(this.view.section.plane.normal).multiplyScalar(-0.02 * Math.max(1, this.view.reach() / 100));
      this.view.cuts.add(drawn);
    }
    this.view.invalidate();
  }

  drawSketches(list) {
    clear(this.view.sketches);
    for (const sketch of list) {
      if (sketch.kind) {
        this._drawDatum(sketch);
        continue;
      }
      // What can still move is amber, what is fixed is ink.
      for (const { loose, colour } of [
        { loose: true, colour: AMBER },
        { loose: false, colour: INK },
      ]) {
        const points = [];
        sketch.lines.forEach((line, number) => {
          if (sketch.loose[number] === loose)
            for (let i = 1; i < line.length; i += 1) points.push(...line[i - 1], ...line[i]);
        });
        const geometry = new BufferGeometry();
        geometry.setAttribute('position', new BufferAttribute(new Float32Array(points), 3));
        const lines = new LineSegments(geometry, new LineBasicMaterial({ color: colour, depthTest: false }));
        lines.renderOrder = 700;
        this.view.sketches.add(lines);
      }
    }
  }

  // Planes, axes and points to build on, and lines that steps keep.
  _drawDatum({ kind, lines }) {
    const colour = kind === 'note' ? INK : PETROL;
    this.view.sketches.add(strokes(lines, colour, kind === 'note' ? 1 : 0.75));
    if (kind !== 'plane') return;
    const [a, b, c, d] = lines[0];
    const geometry = new BufferGeometry();
    geometry.setAttribute('position', new BufferAttribute(new Float32Array([...a, ...b, ...c, ...a, ...c, ...d]), 3));
    const sheet = new Mesh(
      geometry,
      new MeshBasicMaterial({ color: PETROL, transparent: true, opacity: 0.07, side: DoubleSide, depthWrite: false }),
    );
    sheet.raycast = () => {};
    sheet.renderOrder = 690;
    this.view.sketches.add(sheet);
  }

  // Lines of the moment, such as a measured distance.
  setLines(lines) {
    clear(this.view.lines);
    if (lines.length) this.view.lines.add(strokes(lines, AMBER, 1));
    this.view.invalidate();
  }

  drawPull() {
    if (this.view.pull) {
      this.view.scene.remove(this.view.pull);
      this.view.pull.dispose();
      this.view.pull = null;
    }
    const list = [...this.view.bodies.values()];
    if (!list.length) return;
    if (!this.view.hasPull) return;
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
    this.view.pull = new ArrowHelper(way, top, reach * 0.16, PETROL, reach * 0.05, reach * 0.025);
    this.view.pull.line.renderOrder = 800;
    this.view.scene.add(this.view.pull);
  }

  // Light picks: [{body, faces: [..], edges: [..]}].
  light(items) {
    this.view.lit = items;
    this.drawLit();
    this.view.invalidate();
  }

  drawLit() {
    clear(this.view.marks, false);
    for (const item of this.view.lit) this._mark(item, 0.85);
    if (this.view.hover) this._mark(this.view.hover, 0.5);
  }

  _mark({ body: id, faces = [], edges = [] }, opacity) {
    const entry = this.view.bodies.get(id);
    if (!entry || !entry.group.visible) return;
    const { read } = entry.geometry;
    for (const face of faces) {
      const from = face ? read.faceEnds[face - 1] : 0;
      const part = share(entry.geometry.faces);
      part.setDrawRange(from * 3, (read.faceEnds[face] - from) * 3);
      const material = new MeshBasicMaterial({
        color: AMBER,
        transparent: true,
        opacity: opacity * 0.75,
        polygonOffset: true,
        polygonOffsetFactor: -1,
        polygonOffsetUnits: -1,
        side: DoubleSide,
        clippingPlanes: this.view.section.planes,
      });
      const mesh = new Mesh(part, material);
      mesh.raycast = () => {};
      mesh.renderOrder = 650;
      mesh.position.copy(entry.group.position);
      this.view.marks.add(mesh);
    }
    for (const edge of edges) {
      const from = edge ? read.edgeEnds[edge - 1] : 0;
      const part = share(entry.geometry.edges);
      part.setDrawRange(from, read.edgeEnds[edge] - from);
      // One pixel is too thin to see: the edge is drawn five times, shifted by a pixel each way on the screen.
      for (const [x, y] of [
        [0, 0],
        [1, 0],
        [-1, 0],
        [0, 1],
        [0, -1],
      ]) {
        const line = new LineSegments(
          part,
          new LineBasicMaterial({ color: AMBER, depthTest: false, transparent: true, opacity }),
        );
        line.renderOrder = 660;
        const { right, up } = this.view.eye.axes();
        line.position
          .copy(entry.group.position)
          .addScaledVector(right, x * this.view.eye.unit)
          .addScaledVector(up, y * this.view.eye.unit);
        this.view.marks.add(line);
      }
    }
  }
}
