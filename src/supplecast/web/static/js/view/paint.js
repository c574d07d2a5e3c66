// Maps on bodies: the skin as the server cut it, painted in bands by the values of its small triangles. The skin is fetched once;
// another map, or other bands, only change what its corners hold.

import { BufferAttribute, BufferGeometry, DoubleSide, FrontSide, Mesh, Raycaster, Vector2 } from 'three';
import { MeshBVH } from 'three-mesh-bvh';
import { atCorners, banded, meetings } from './bands.js';

// Told apart by lightness and hatching too, so that no one needs to see the hue: 0 plain, 1 and 2 hatched one way or the other, 3 dotted.
export const PAINTS = {
  fault: ['#B93623', 1],
  doubt: ['#E3A93F', 2],
  good: ['#D9C7A3', 0],
  calm: ['#A9BFBA', 0],
  thin: ['#9CC3DC', 0],
  thinner: ['#5F97B3', 0],
  thick: ['#C9A0C4', 0],
  thicker: ['#8A4F86', 3],
  core: ['#8FC4BD', 0],
  cavity: ['#B9A6DA', 0],
  f0: ['#EDF3F1', 0],
  f1: ['#A9CBD9', 0],
  f2: ['#5F97B3', 0],
  f3: ['#2C5E7E', 0],
};

// The band that a value falls in, by its place among them; -1 beyond all.
export const bandAt = (bands, value) => bands.findIndex((band) => band.upto === null || value <= band.upto);

export class Paint {
  constructor(viewer) {
    this.__v_skip = true;
    this.viewer = viewer;
    this.skins = new Map();
    this.values = new Map();
    this.shown = [];
  }

  get on() {
    return this.shown.length > 0;
  }

  // Paint `map` of each skin, {body, skin, maps}, by bands {upto, paint}; bodies without one stay plain.
  async show(skins, map, bands) {
    const wanted = skins.filter((skin) => skin.maps[map]);
    const serial = (this.serial = (this.serial || 0) + 1);
    const loaded = await Promise.all(
      wanted.map(async (skin) => [skin, await this._skin(skin.skin), await this._values(skin.maps[map])]),
    );
    if (serial !== this.serial) return;
    this._take();
    this.map = map;
    for (const [skin, geometry, values] of loaded) this._put(skin, geometry, values, bands);
    this.viewer.restyle();
  }

  hide() {
    this.serial = (this.serial || 0) + 1;
    this._take();
    this.viewer.restyle();
  }

  // The value of the map under a point of the page, and the body; null beside them.
  at(clientX, clientY) {
    const { canvas, eye, section } = this.viewer;
    const box = canvas.getBoundingClientRect();
    const caster = new Raycaster();
    caster.setFromCamera(
      new Vector2(((clientX - box.left) / box.width) * 2 - 1, 1 - ((clientY - box.top) / box.height) * 2),
      eye.camera,
    );
    let best = null;
    for (const one of this.shown) {
      for (const hit of caster.intersectObject(one.mesh, false)) {
        if (section.on && section.plane.distanceToPoint(hit.point) < 0) continue;
        if (!best || hit.distance < best.distance)
          best = { distance: hit.distance, value: one.values[hit.faceIndex], body: one.body };
      }
    }
    return best;
  }

  async _floats(name) {
    const response = await fetch(`/api/blobs/${name}`);
    if (!response.ok) throw new Error('The map could not be fetched.');
    return new Float32Array(await response.arrayBuffer());
  }

  _skin(name) {
    if (!this.skins.has(name)) {
      for (const old of [...this.skins.keys()].slice(0, -6)) {
        this.skins.get(old).then((g) => g.dispose());
        this.skins.delete(old);
      }
      this.skins.set(
        name,
        this._floats(name).then((rows) => {
          const count = rows.length / 12;
          const position = new Float32Array(count * 9);
          const normal = new Float32Array(count * 9);
          for (let i = 0; i < count; i += 1) {
            position.set(rows.subarray(i * 12, i * 12 + 9), i * 9);
            for (let k = 0; k < 3; k += 1) normal.set(rows.subarray(i * 12 + 9, i * 12 + 12), i * 9 + k * 3);
          }
          const geometry = new BufferGeometry();
          geometry.setAttribute('position', new BufferAttribute(position, 3));
          geometry.setAttribute('normal', new BufferAttribute(normal, 3));
          geometry.setAttribute('value', new BufferAttribute(new Float32Array(count * 3), 1));
          geometry.boundsTree = new MeshBVH(geometry, { indirect: true });
          return geometry;
        }),
      );
    }
    return this.skins.get(name);
  }

  _values(name) {
    if (!this.values.has(name)) {
      for (const old of [...this.values.keys()].slice(0, -24)) this.values.delete(old);
      this.values.set(name, this._floats(name));
    }
    return this.values.get(name);
  }

  _put(skin, geometry, values, bands) {
    const value = geometry.getAttribute('value');
    geometry.userData.meetings ||= meetings(geometry.getAttribute('position').array);
    value.array.set(atCorners(this.map, values, geometry.getAttribute('normal').array, geometry.userData.meetings));
    value.needsUpdate = true;
    const paints = bands.map((band) => ({
      upto: band.upto,
      colour: PAINTS[band.paint][0],
      hatch: PAINTS[band.paint][1],
    }));
    const mesh = new Mesh(geometry, banded(this.map, paints));
    mesh.renderOrder = 500;
    this.shown.push({ body: skin.body, shape: skin.mesh, mesh, values });
    this.viewer.scene.add(mesh);
  }

  // Whether a body as it is shown is painted: a newer shape is not, until its own map has come. A mesh that one is held against
  // gives way to the map, since the two nearly coincide.
  covers(body) {
    if (this.on && this.map === 'mesh' && !body.solid) return true;
    return this.shown.some((one) => one.body === body.id && one.shape === body.mesh);
  }

  // Follow what the view does: section, opening stroke, hidden bodies.
  follow() {
    for (const { body, mesh } of this.shown) {
      const entry = this.viewer.bodies.get(body);
      mesh.visible = Boolean(entry?.group.visible) && this.covers(entry.body) && this.viewer.style !== 'lines';
      if (entry) mesh.position.copy(entry.group.position);
      mesh.material.clippingPlanes = this.viewer.section.planes;
      mesh.material.side = this.viewer.section.on ? DoubleSide : FrontSide;
      mesh.material.needsUpdate = true;
    }
  }

  _take() {
    for (const { mesh } of this.shown) {
      this.viewer.scene.remove(mesh);
      mesh.material.dispose();
    }
    this.shown = [];
  }
}
