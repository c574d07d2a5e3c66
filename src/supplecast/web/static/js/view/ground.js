// What the model stands on: the axes through the origin, the planes one can draw on, and a bar that tells how large things are.

import { BufferAttribute, BufferGeometry, DoubleSide, Group, Mesh, MeshBasicMaterial, Vector3 } from 'three';
import { UNITS } from '../facts.js';
import { fixed } from '../numbers.js';
import { AMBER, INK, PETROL } from './colours.js';
import { clear, strokes } from './strokes.js';

const FADED = 0.055;
const LIT = 0.3;
const EMPTY = 40; // mm
/** @type {[string, number[]][]} */
const AXES = [
  ['x', [1, 0, 0]],
  ['y', [0, 1, 0]],
  ['z', [0, 0, 1]],
];

// The standard planes: their words, and the two directions that span each, as the documents have them.
export const STANDARD = [
  { name: 'top', words: 'Top plane', u: [1, 0, 0], v: [0, 1, 0] },
  { name: 'front', words: 'Front plane', u: [1, 0, 0], v: [0, 0, 1] },
  { name: 'side', words: 'Side plane', u: [0, 1, 0], v: [0, 0, 1] },
];

// The corners of the quarter of a standard plane that is turned to the eye, from the origin round to it again: the three together
// stand like the inside of a box, and none hides another.
export function cornersOf({ u, v }, reach, way) {
  const side = (direction) => (direction.reduce((sum, c, k) => sum + c * way.getComponent(k), 0) < 0 ? -reach : reach);
  const [su, sv] = [side(u), side(v)];
  return [
    [0, 0],
    [su, 0],
    [su, sv],
    [0, sv],
    [0, 0],
  ].map(([a, b]) => [0, 1, 2].map((k) => a * u[k] + b * v[k]));
}

// The longest of 1, 2, 5 × 10ⁿ of a unit that takes no more than `most` pixels at so many mm a pixel.
export function barOf(mmPerPixel, unit, most = 120) {
  const scale = UNITS[unit] || 1;
  const room = (most * mmPerPixel) / scale;
  const ten = 10 ** Math.floor(Math.log10(room));
  const length = [5, 2, 1].map((step) => step * ten).find((step) => step <= room);
  return { length: Number(length.toPrecision(1)), pixels: (length * scale) / mmPerPixel };
}

export class Ground {
  constructor(view) {
    this.view = view;
    this.axes = new Group();
    this.sheets = new Group();
    view.scene.add(this.axes, this.sheets);
    this.places = [];
    this.bar = document.createElement('div');
    this.bar.className = 'scale-bar';
    this.bar.setAttribute('aria-hidden', 'true');
    view.holder.append(this.bar);
    this.unit = 'mm';
  }

  // How far axes and planes reach from the origin, mm: past the model, or as far as a first part may reach.
  reach() {
    return this.view.bodies.size ? Math.max(0.62 * this.view.reach(), 12) : EMPTY;
  }

  // Draw the axes as long as the model is wide, or put them away.
  drawAxes(shown) {
    clear(this.axes);
    const reach = this.reach();
    if (shown)
      for (const [, way] of AXES) {
        const line = strokes([[[0, 0, 0], way.map((c) => c * reach)]], INK, 0.5);
        line.material.depthTest = true;
        this.axes.add(line);
      }
    this.view.tags.set(
      'axes',
      shown ? AXES.map(([name, way]) => ({ at: way.map((c) => c * reach * 1.04), words: name, kind: 'is-axis' })) : [],
    );
    this.view.invalidate();
  }

  // Planes as faint sheets, each with its word: [{key, words, corners, act}]. With `act` they can be clicked.
  show(places) {
    this.places = places.map((place) => ({ ...place }));
    this.lit = null;
    clear(this.sheets);
    for (const place of this.places) {
      const [a, b, c, d] = place.corners;
      const geometry = new BufferGeometry();
      geometry.setAttribute('position', new BufferAttribute(new Float32Array([...a, ...b, ...c, ...a, ...c, ...d]), 3));
      const sheet = new Mesh(
        geometry,
        new MeshBasicMaterial({
          color: PETROL,
          transparent: true,
          opacity: FADED,
          side: DoubleSide,
          depthWrite: false,
        }),
      );
      sheet.raycast = () => {};
      sheet.renderOrder = 690;
      const rim = strokes([place.corners], PETROL, 0.7);
      rim.material.depthTest = true;
      this.sheets.add(sheet, rim);
      Object.assign(place, { sheet, rim });
    }
    this.view.tags.set(
      'places',
      this.places.map(({ corners, words, act, hint }) => ({
        at: corners[2],
        words: hint ? `${hint} ${words}` : words,
        kind: act ? 'is-place' : 'is-quiet',
        act,
        label: words,
      })),
    );
    this.places.forEach((place, index) => {
      const { element } = this.view.tags.get('places')[index];
      for (const [kind, on] of [
        ['pointerenter', true],
        ['focus', true],
        ['pointerleave', false],
        ['blur', false],
      ])
        element.addEventListener(kind, () => this.light(on ? place : null));
    });
    this.view.invalidate();
  }

  light(lit) {
    if (this.lit === lit) return;
    this.lit = lit;
    this.places.forEach((place, index) => {
      place.sheet.material.opacity = place === lit ? LIT : FADED;
      place.sheet.material.color = place === lit ? AMBER : PETROL;
      this.view.tags.get('places')[index]?.element.classList.toggle('is-lit', place === lit);
    });
    this.view.invalidate();
  }

  // The plane that a ray meets first: {place, distance}; null beside them all.
  at(ray) {
    let best = null;
    for (const place of this.places.filter(({ act }) => act)) {
      const [a, b, , d] = place.corners.map((corner) => new Vector3(...corner));
      const [u, v] = [b.sub(a), d.sub(a)];
      const normal = new Vector3().crossVectors(u, v).normalize();
      const steep = normal.dot(ray.direction);
      if (Math.abs(steep) < 1e-6) continue;
      const distance = normal.dot(a.clone().sub(ray.origin)) / steep;
      const off = ray.at(distance, new Vector3()).sub(a);
      const [s, t] = [off.dot(u) / u.lengthSq(), off.dot(v) / v.lengthSq()];
      if (s < 0 || s > 1 || t < 0 || t > 1 || (best && best.distance <= distance)) continue;
      best = { place, distance };
    }
    return best;
  }

  drawBar() {
    const { length, pixels } = barOf(this.view.eye.unit, this.unit);
    this.bar.hidden = this.view.eye.inDepth; // nothing there is of one size
    this.bar.style.width = `${pixels.toFixed(1)}px`;
    this.bar.textContent = `${fixed(length, 6)} ${this.unit}`;
  }
}
