// Draws a sketch's scene into an SVG: areas, curves, points, sizes, marks, guides. Knows nothing of tools; places come in mm.

import { drawGaps, drawMarks, drawMotions, drawSizes, groundOf } from './annotations.js';
import { gapTo, run } from './layout.js';
import { make } from './svg.js';

export class Drawing {
  constructor(svg) {
    this.svg = svg;
    this.photosAt = ''; // the path of the photos' blobs
    this.shifted = null; // a photo under way: {id, at}
    this.showWays = false; // the marks of all directions, not only of what is pointed at
    this.plain = false; // areas are chosen: no sizes, no marks
    this.measure();
    this.unit = 0.25; // mm to a pixel
    this.centre = [0, 0];
    this.layers = {};
    for (const name of [
      'photos',
      'areas',
      'axes',
      'guides',
      'sizes',
      'curves',
      'trial',
      'points',
      'ways',
      'marks',
      'over',
    ])
      this.layers[name] = make('g', { class: `d-${name}` }, svg);
    this.scene = null;
    this.chosen = new Set();
    this.lit = new Set();
    this.hover = null;
    this.clashing = new Set();
    this.fresh = new Set(); // what the last act has made
    this.showTags = false; // all tags, not only those of what is pointed at
    this.bare = false; // no tags, arrows, labels
    this.stands = new Map(); // where the labels of sizes stand, in pixels
  }

  // Asked for only when the sheet changes its size: read while drawing, they would make the browser lay everything out again.
  measure() {
    this.width = this.svg.clientWidth;
    this.height = this.svg.clientHeight;
  }

  // mm to pixels and back.
  px([x, y]) {
    return [this.width / 2 + (x - this.centre[0]) / this.unit, this.height / 2 - (y - this.centre[1]) / this.unit];
  }
  mm(px, py) {
    return [this.centre[0] + (px - this.width / 2) * this.unit, this.centre[1] - (py - this.height / 2) * this.unit];
  }

  zoom(factor, px, py) {
    const before = this.mm(px, py);
    this.unit = Math.max(1e-4, Math.min(50, this.unit * factor));
    const after = this.mm(px, py);
    this.centre = [this.centre[0] + before[0] - after[0], this.centre[1] + before[1] - after[1]];
  }

  fit(low, high) {
    const span = [Math.max(high[0] - low[0], 1), Math.max(high[1] - low[1], 1)];
    this.unit = Math.max(span[0] / Math.max(this.width - 220, 100), span[1] / Math.max(this.height - 170, 100));
    this.centre = [(low[0] + high[0]) / 2, (low[1] + high[1]) / 2];
  }

  // Corners of everything drawn, in mm.
  extent() {
    const places = Object.values(this.scene?.points || {}).slice();
    for (const entity of this.scene?.entities || []) {
      places.push(...run(entity));
    }
    for (const size of this.scene?.sizes || []) places.push(size.at);
    for (const { at, width, pixels, stretch } of places.length > 1 ? [] : this.scene?.photos || []) {
      const half = [width / 2, (width * stretch * pixels[1]) / pixels[0] / 2];
      places.push([at[0] - half[0], at[1] - half[1]], [at[0] + half[0], at[1] + half[1]]);
    }
    if (places.length < 2) return null;
    return [
      [0, 1].map((i) => Math.min(...places.map((p) => p[i]))),
      [0, 1].map((i) => Math.max(...places.map((p) => p[i]))),
    ];
  }

  path(shape, begun = false) {
    const p = (place) =>
      this.px(place)
        .map((v) => v.toFixed(2))
        .join(' ');
    const start = (place) => (begun ? `L${p(place)}` : `M${p(place)}`);
    const r = shape.r ? (shape.r / this.unit).toFixed(3) : 0;
    switch (shape.kind) {
      case 'line':
        return `${start(shape.a)}L${p(shape.b)}`;
      case 'arc':
        return `${start(shape.a)}A${r} ${r} 0 ${shape.large ? 1 : 0} ${shape.ccw ? 0 : 1} ${p(shape.b)}`;
      case 'circle': {
        const [left, right] = [
          [shape.c[0] - shape.r, shape.c[1]],
          [shape.c[0] + shape.r, shape.c[1]],
        ];
        const way = shape.ccw === false ? 1 : 0;
        return `M${p(right)}A${r} ${r} 0 0 ${way} ${p(left)}A${r} ${r} 0 0 ${way} ${p(right)}Z`;
      }
      case 'spline': {
        let d = start(shape.poles[0]);
        for (let i = 1; i < shape.poles.length; i += 3)
          d += `C${p(shape.poles[i])} ${p(shape.poles[i + 1])} ${p(shape.poles[i + 2])}`;
        return d;
      }
      default:
        return shape.points.map((place, i) => (i ? `L${p(place)}` : start(place))).join('');
    }
  }

  show(scene) {
    this.scene = { ...(this.scene || {}), ...scene };
    this.draw();
  }

  draw() {
    if (!this.scene) return;
    for (const layer of ['areas', 'axes', 'curves', 'sizes', 'points', 'ways', 'marks'])
      this.layers[layer].replaceChildren();
    this._photos();
    this._axes();
    this._areas();
    this._curves();
    this.stands.clear();
    const ground = groundOf(this);
    drawSizes(this, ground);
    this._points();
    drawMotions(this);
    drawMarks(this, ground);
    drawGaps(this);
  }

  _axes() {
    const [x, y] = this.px([0, 0]);
    for (const [id, d] of [
      ['ox', `M0 ${y}H${this.width}`],
      ['oy', `M${x} 0V${this.height}`],
    ])
      make('path', { d, class: `d-axis ${this._state(id)}` }, this.layers.axes);
  }

  // Pictures are kept between drawings, so that they do not flicker.
  _photos() {
    const there = new Map([...this.layers.photos.children].map((node) => [node.dataset.photo, node]));
    for (const photo of this.scene.photos || []) {
      const node =
        there.get(photo.id) ||
        make(
          'image',
          { 'data-photo': photo.id, href: `${this.photosAt}/${photo.asset}`, preserveAspectRatio: 'none' },
          this.layers.photos,
        );
      there.delete(photo.id);
      const [x, y] = this.px(this.shifted?.id === photo.id ? this.shifted.at : photo.at);
      const w = photo.width / this.unit;
      const h = ((w * photo.pixels[1]) / photo.pixels[0]) * photo.stretch;
      for (const [key, value] of Object.entries({
        x: x - w / 2,
        y: y - h / 2,
        width: w,
        height: h,
        opacity: photo.fade,
        transform: `rotate(${-photo.turn} ${x} ${y})`,
      }))
        node.setAttribute(key, value);
    }
    for (const node of there.values()) node.remove();
  }

  // The photo under a pixel.
  photoAt(px, py) {
    const place = this.mm(px, py);
    return (this.scene?.photos || []).findLast((photo) => {
      const turn = (-photo.turn * Math.PI) / 180;
      const [dx, dy] = [place[0] - photo.at[0], place[1] - photo.at[1]];
      const [x, y] = [dx * Math.cos(turn) - dy * Math.sin(turn), dx * Math.sin(turn) + dy * Math.cos(turn)];
      return (
        Math.abs(x) <= photo.width / 2 &&
        Math.abs(y) <= (photo.width * photo.stretch * photo.pixels[1]) / photo.pixels[0] / 2
      );
    });
  }

  _areas() {
    for (const region of this.scene.regions || []) {
      const d = region.loops.map((loop) => `${loop.map((shape, i) => this.path(shape, i > 0)).join('')}Z`).join('');
      make(
        'path',
        {
          d,
          class: `d-area ${region.filled ? '' : 'is-hole'} ${this._state(region.key)}`,
          'fill-rule': 'evenodd',
          'data-region': region.key,
        },
        this.layers.areas,
      );
    }
  }

  _state(id) {
    return [
      this.chosen.has(id) && 'is-chosen',
      this.lit.has(id) && 'is-lit',
      this.hover === id && 'is-hovered',
      this.clashing.has(id) && 'is-clashing',
    ]
      .filter(Boolean)
      .join(' ');
  }

  _curves() {
    for (const entity of this.scene.entities) {
      const d = this.path(entity);
      const is = ['taken', 'construction', 'loose'].filter((one) => entity[one]).map((one) => `is-${one}`);
      const kind = ['d-curve', ...is, this._state(entity.id)].join(' ');
      make('path', { d, class: kind, 'data-curve': entity.id }, this.layers.curves);
      if (
        entity.handles.length &&
        (this.chosen.has(entity.id) ||
          this.hover === entity.id ||
          entity.handles.some((h) => this.chosen.has(h) || this.hover === h))
      ) {
        const at = entity.handles.map((name) => this.scene.points[name]);
        make(
          'path',
          {
            d: this.path({ kind: 'line', a: at[0], b: at[1] }) + this.path({ kind: 'line', a: at[2], b: at[3] }),
            class: 'd-handle',
          },
          this.layers.curves,
        );
      }
    }
  }

  _points() {
    const handles = new Set();
    for (const entity of this.scene.entities) {
      if (entity.handles.length && !this.chosen.has(entity.id) && this.hover !== entity.id) {
        handles.add(entity.handles[1]);
        handles.add(entity.handles[3]);
      }
    }
    for (const entity of this.scene.entities)
      if (entity.taken) for (const id of entity.through.slice(1, -1)) handles.add(id);
    const loose = new Set(this.scene.loose || []);
    for (const [id, place] of Object.entries(this.scene.points)) {
      if (handles.has(id) && !this.chosen.has(id) && this.hover !== id) continue;
      const [cx, cy] = this.px(place);
      const kind = id === 'o' ? 'is-origin' : loose.has(id) ? 'is-loose' : '';
      make(
        'circle',
        { cx, cy, r: id === 'o' ? 3.5 : 4, class: `d-point ${kind} ${this._state(id)}`, 'data-point': id },
        this.layers.points,
      );
    }
  }

  // What a tool would draw, the guides it follows, and the word for it.
  trial(shapes, guides = [], at = null, kind = '') {
    this.layers.trial.replaceChildren();
    this.layers.guides.replaceChildren();
    for (const shape of shapes)
      make(
        'path',
        { d: this.path(shape), class: `d-trial ${shape.construction ? 'is-construction' : ''} ${kind}` },
        this.layers.trial,
      );
    for (const guide of guides) {
      make('path', { d: this.path({ kind: 'line', a: guide.a, b: guide.b }), class: 'd-guide' }, this.layers.guides);
      if (!guide.words) continue;
      const [x, y] = this.px([(guide.a[0] + guide.b[0]) / 2, (guide.a[1] + guide.b[1]) / 2]);
      make('text', { x, y: y - 5, class: 'd-guide-text' }, this.layers.guides).textContent = guide.words;
    }
    if (at) {
      const [cx, cy] = this.px(at);
      make('circle', { cx, cy, r: 3.5, class: 'd-aim' }, this.layers.trial);
    }
  }

  // A box drawn over the sheet to choose what lies in it.
  frame(from, to) {
    this.layers.over.replaceChildren();
    if (!from) return;
    make(
      'rect',
      {
        x: Math.min(from[0], to[0]),
        y: Math.min(from[1], to[1]),
        width: Math.abs(to[0] - from[0]),
        height: Math.abs(to[1] - from[1]),
        class: 'd-frame',
      },
      this.layers.over,
    );
  }

  // The path of a pointer that trims what it crosses.
  stroke(places) {
    this.layers.over.replaceChildren();
    if (places)
      make(
        'path',
        { d: places.map(([x, y], i) => `${i ? 'L' : 'M'}${x} ${y}`).join(''), class: 'd-stroke' },
        this.layers.over,
      );
  }

  // What lies under a pixel: {point} before {size}, {constraint} and {curve}; with `regions`, only {region}.
  at(px, py, { curves = true, sizes = true, regions = false, marks = true, points = true, axes = false } = {}) {
    if (regions) {
      const box = this.svg.getBoundingClientRect();
      const under = document
        .elementsFromPoint(box.left + px, box.top + py)
        .find((node) => node.dataset?.region && this.svg.contains(node));
      return under ? { region: under.dataset.region, id: under.dataset.region } : null;
    }
    let best = null;
    for (const [id, place] of points ? Object.entries(this.scene?.points || {}) : []) {
      const [x, y] = this.px(place);
      const gap = Math.hypot(x - px, y - py);
      if (gap < 9 && (!best || gap < best.gap)) best = { point: id, id, gap };
    }
    if (best) return best;
    const [x0, y0] = this.px([0, 0]);
    if (axes && !this._nearCurve(px, py)) {
      const id = Math.abs(py - y0) < 6 ? 'ox' : Math.abs(px - x0) < 6 ? 'oy' : null;
      if (id) return { axis: id, id };
    }
    const box = this.svg.getBoundingClientRect();
    const under = document.elementsFromPoint(box.left + px, box.top + py);
    const has = (name) =>
      under.map((node) => node.closest?.(`[data-${name}]`)).find((node) => node && this.svg.contains(node));
    const label = sizes && under.find((node) => node.matches?.('.d-size-back, .d-size-text'))?.closest('[data-size]');
    if (label) return { size: label.dataset.size, id: label.dataset.size };
    const mark = marks && has('constraint');
    if (mark) return { constraint: mark.dataset.constraint, id: mark.dataset.constraint };
    if (curves) {
      const curve = this._nearCurve(px, py);
      if (curve) return { curve, id: curve };
    }
    return null;
  }

  _nearCurve(px, py, limit = 7) {
    let best = null;
    for (const node of this.layers.curves.querySelectorAll('[data-curve]')) {
      const box = node.getBBox();
      if (px < box.x - limit || px > box.x + box.width + limit || py < box.y - limit || py > box.y + box.height + limit)
        continue;
      const gap = distance(node, px, py, limit);
      if (gap <= limit && (!best || gap < best.gap)) best = { id: node.dataset.curve, gap };
    }
    return best?.id || null;
  }
}

// Least distance from a pixel to a path, near enough for pointing.
function distance(path, px, py, limit) {
  const length = path.getTotalLength();
  const steps = Math.max(2, Math.min(200, Math.ceil(length / limit)));
  const places = Array.from({ length: steps + 1 }, (_, i) => path.getPointAtLength((length * i) / steps));
  return gapTo(
    places.map(({ x, y }) => [x, y]),
    [px, py],
  );
}
