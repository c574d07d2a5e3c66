// One body in the view: its faces in their finishes, its edges before and behind, what is printed on it, and the caps of the cut.

import {
  GreaterDepth,
  Group,
  LessEqualDepth,
  LineBasicMaterial,
  LineDashedMaterial,
  LineSegments,
  Mesh,
  Vector3,
} from 'three';
import { withoutDust } from './body.js';
import { dress, finished, plain, sorted } from './clothes.js';
import { EDGE, INK } from './colours.js';
import { dressPrint, printed } from './prints.js';

export class Figure {
  constructor(body, geometry, prints, index, studio) {
    this.body = body;
    this.geometry = geometry;
    this.index = index;
    this.loaded = prints;
    this.caps = null;
    this.group = new Group();
    this.finishes = sorted(body, geometry);
    this.size = 3 * Math.hypot(...body.high.map((h, i) => h - body.low[i])) + 10;
    this.mesh = new Mesh(geometry.faces);
    this.mesh.renderOrder = 500;
    this.edges = new LineSegments(geometry.edges, withoutDust(new LineBasicMaterial({ color: EDGE })));
    this.edges.renderOrder = 600;
    this.behind = new LineSegments(
      geometry.edges,
      withoutDust(
        new LineDashedMaterial({
          color: EDGE,
          transparent: true,
          opacity: 0.28,
          dashSize: 1.6,
          gapSize: 1.4,
          depthFunc: GreaterDepth,
          depthWrite: false,
        }),
      ),
    );
    this.behind.renderOrder = 590;
    this.prints = [];
    this.group.add(this.mesh, this.edges, this.behind);
    this.wear(studio);
  }

  // Put on materials: those of the studio, or plain ones.
  wear(studio) {
    if (this.studio === studio) return;
    this.studio = studio;
    this._undress();
    this.materials = this.finishes.map(studio ? finished : plain);
    this.mesh.material = this.materials.length > 1 ? this.materials : this.materials[0];
    this.prints = printed(this.loaded, studio);
    if (this.prints.length) this.group.add(...this.prints);
  }

  _undress() {
    for (const material of this.materials || []) material.dispose();
    for (const print of this.prints) {
      this.group.remove(print);
      print.geometry.dispose();
      print.material.dispose();
    }
  }

  get colour() {
    return this.materials[0].color;
  }

  get centre() {
    return new Vector3(...this.body.low)
      .add(new Vector3(...this.body.high))
      .multiplyScalar(0.5)
      .add(this.group.position);
  }

  // Bring materials up to date with what the view shows.
  restyle({ mode, section, painted, hidden }) {
    const { body, mesh, edges, behind } = this;
    this.wear(mode === 'finished');
    const faint = body.role === 'neighbour' || Boolean(body.ghost);
    const seeThrough = mode === 'see-through' || body.stale || body.look?.clear || faint;
    const how = {
      through: faint ? 0.18 : seeThrough ? 0.35 : 0,
      open: section.on || !body.volume,
      planes: section.planes,
    };
    mesh.visible = mode !== 'lines' && !painted;
    for (const material of this.materials) dress(material, how);
    for (const print of this.prints) {
      print.visible = mesh.visible;
      dressPrint(print, how);
    }
    edges.visible = mode !== 'finished' || faint;
    edges.material.depthFunc = LessEqualDepth;
    edges.material.transparent = faint;
    edges.material.opacity = faint ? 0.3 : 1;
    edges.material.color.copy(mode === 'lines' || seeThrough ? INK : EDGE);
    behind.visible = mode === 'hidden edges';
    for (const part of [edges, behind]) {
      part.material.clippingPlanes = section.planes;
      part.material.needsUpdate = true;
    }
    this.group.visible = !hidden;
  }

  // A print shifted, turned or scaled as far as its handle is from where it was when the print was built.
  followPrint(step, handle, value) {
    this.prints.forEach((print, index) => {
      if (this.loaded[index].step !== step) return;
      const [origin, way] = [new Vector3(...handle.origin), new Vector3(...handle.direction)];
      print.position.set(0, 0, 0);
      print.quaternion.identity();
      print.scale.setScalar(1);
      if (handle.kind === 'angle') print.quaternion.setFromAxisAngle(way, value - handle.value);
      else if (handle.rate === 1) print.position.addScaledVector(way, value - handle.value);
      else print.scale.setScalar(Math.max(value, 1e-6) / Math.max(handle.value, 1e-6));
      if (handle.kind === 'angle' || handle.rate !== 1) {
        const moved = origin.clone().multiply(print.scale).applyQuaternion(print.quaternion);
        print.position.copy(origin).sub(moved);
      }
    });
  }

  // Close what the section has opened, in the body's colour.
  cap(section, scene) {
    this.caps = section.caps(this.geometry.faces, this.colour, 10 + this.index * 10, this.size);
    this.group.add(...this.caps.counters);
    section.place(this.caps.cap, this.centre);
    scene.add(this.caps.cap);
  }

  uncap(scene) {
    if (!this.caps) return;
    for (const part of this.caps.counters) {
      this.group.remove(part);
      part.material.dispose();
    }
    scene.remove(this.caps.cap);
    this.caps.cap.geometry.dispose();
    this.caps.cap.material.map.dispose();
    this.caps.cap.material.dispose();
    this.caps = null;
  }

  drop(scene) {
    scene.remove(this.group);
    this._undress();
    for (const part of [this.edges, this.behind]) part.material.dispose();
    this.uncap(scene);
  }
}
