// What stands beside the curves: sizes, how loose points can still move, marks of what is held, open ends.

import { Ground, about, run } from './layout.js';
import { make } from './svg.js';

// Our own marks, drawn in a box of 16 by 12.
const MARKS = {
  horizontal: 'M3 6H13',
  vertical: 'M8 1.5V10.5',
  level: 'M2 6H5M7 6H9M11 6H14',
  plumb: 'M8 1V3.5M8 5V7M8 8.5V11',
  parallel: 'M4 10L8 2M8 10L12 2',
  perpendicular: 'M3 10H13M8 10V2',
  tangent: 'M2 10H14M4 10A5 5 0 0 1 12 4',
  equal: 'M4 4.5H12M4 7.5H12',
  concentric: 'M8 2A4 4 0 1 0 8 10A4 4 0 1 0 8 2M8 5A1 1 0 1 0 8 7A1 1 0 1 0 8 5',
  midpoint: 'M2 9H14M8 3.5L10 7.5H6Z',
  on: 'M2 10L14 2M8 4A2 2 0 1 0 8 8A2 2 0 1 0 8 4',
  symmetric: 'M8 1V11M3.5 3.5V8.5M12.5 3.5V8.5',
  collinear: 'M1.5 6H6M10 6H14.5',
  fix: 'M3 10H13M5 10L8 5L11 10M8 5V2',
  coincident: 'M8 4A2 2 0 1 0 8 8A2 2 0 1 0 8 4',
};

// What is drawn so far, as ground that labels and tags keep off.
export function groundOf(drawing) {
  const ground = new Ground();
  for (const entity of drawing.scene.entities || []) ground.line(run(entity).map((place) => drawing.px(place)));
  return ground;
}

export function drawSizes(drawing, ground) {
  if (drawing.plain || drawing.bare) return;
  const sizes = drawing.scene.sizes || [];
  const wide = (size) => size.text.length * 7.6 + 10;
  const lines = (size, weight) => {
    for (const [x1, y1, x2, y2] of size.lines) ground.line([drawing.px([x1, y1]), drawing.px([x2, y2])], weight);
  };
  for (const size of sizes) lines(size, 1);
  for (const size of sizes) if (size.placed) ground.box(...drawing.px(size.at), wide(size), 20);
  for (const size of sizes) {
    const group = make(
      'g',
      { class: `d-size ${size.driven ? 'is-driven' : ''} ${drawing._state(size.id)}`, 'data-size': size.id },
      drawing.layers.sizes,
    );
    let d = '';
    for (const [x1, y1, x2, y2] of size.lines) d += drawing.path({ kind: 'line', a: [x1, y1], b: [x2, y2] });
    for (const [cx, cy, r, from, to] of size.arcs) {
      const on = (t) => [cx + r * Math.cos(t), cy + r * Math.sin(t)];
      d += drawing.path({ kind: 'arc', a: on(from), b: on(to), r, ccw: true, large: to - from > Math.PI });
    }
    make('path', { d, class: 'd-size-line' }, group);
    for (const [ax, ay, dx, dy] of size.arrows) {
      const [px, py] = drawing.px([ax, ay]);
      const [ux, uy] = [dx, -dy];
      make(
        'path',
        {
          d: `M${px} ${py}L${px - 8 * ux - 3 * uy} ${py - 8 * uy + 3 * ux}L${px - 8 * ux + 3 * uy} ${py - 8 * uy - 3 * ux}Z`,
          class: 'd-arrow',
        },
        group,
      );
    }
    const own = drawing.px(size.at);
    lines(size, -1); // its own go through it
    const [x, y] = size.placed ? own : ground.settle(about(own, 14), wide(size), 20);
    lines(size, 1);
    drawing.stands.set(size.id, [x, y]);
    make('rect', { x: x - wide(size) / 2, y: y - 11, width: wide(size), height: 22, class: 'd-size-back' }, group);
    const text = make('text', { x, y: y + 5, class: 'd-size-text' }, group);
    text.textContent = size.text;
  }
}

export function drawMotions(drawing) {
  const arrow = ([x, y], [dx, dy]) => {
    const tip = [x + 22 * dx, y - 22 * dy];
    const [ux, uy] = [dx, -dy];
    const at = (along, aside) => `${tip[0] + along * ux - aside * uy} ${tip[1] + along * uy + aside * ux}`;
    return `M${x + 7 * ux} ${y + 7 * uy}L${at(0, 0)}M${at(4, 0)}L${at(-5, 4)}L${at(-5, -4)}Z`;
  };
  if (drawing.plain || drawing.bare) return;
  for (const { point, along } of drawing.scene.directions || []) {
    if (!drawing.showWays && point !== drawing.hover && !drawing.chosen.has(point)) continue;
    const at = drawing.px(drawing.scene.points[point]);
    const ways = along
      ? [along, along.map((c) => -c)]
      : [
          [1, 0],
          [-1, 0],
          [0, 1],
          [0, -1],
        ];
    make('path', { d: ways.map((way) => arrow(at, way)).join(''), class: 'd-way' }, drawing.layers.ways);
  }
}

// Tags of what is held: quiet by default, they show for what is hovered, chosen, just made or in conflict; all by a key.
export function drawMarks(drawing, ground) {
  if (drawing.plain || drawing.bare) return;
  const near = new Set([...drawing.chosen, ...drawing.lit, ...drawing.fresh, drawing.hover]);
  const parts = new Map((drawing.scene.constraints || []).flatMap((row) => row.ids.map((id) => [id, row.on])));
  const speaks = (id) =>
    near.has(id) || drawing.clashing.has(id) || (parts.get(id) || []).some((part) => near.has(part));
  const places = new Map();
  for (const mark of drawing.scene.marks || []) {
    if (!MARKS[mark.type] || !(drawing.showTags || speaks(mark.id))) continue;
    const key = mark.at.map((c) => Math.round(c / drawing.unit)).join();
    if (!places.has(key)) places.set(key, []);
    places.get(key).push(mark);
  }
  for (const marks of places.values()) {
    const gathered =
      marks.length > 3 && !marks.some((mark) => drawing.hover === mark.id || drawing.clashing.has(mark.id));
    const wide = gathered ? 40 : marks.length * 24 - 2;
    const [x, y] = drawing.px(marks[0].at);
    const [dx, dy] = [marks[0].direction[0], -marks[0].direction[1]];
    const spots = [0, 1, -1, 2, -2].flatMap((k) =>
      [18, -18].map((off) => [x + dx * off - dy * k * 26, y + dy * off + dx * k * 26]),
    );
    const [mx, my] = ground.settle(spots, wide, 18);
    for (const [index, mark] of (gathered ? marks.slice(0, 1) : marks).entries()) {
      const group = make(
        'g',
        {
          class: `d-mark ${drawing._state(mark.id)}`,
          transform: `translate(${(mx - wide / 2 + index * 24).toFixed(1)} ${(my - 9).toFixed(1)})`,
          'data-constraint': mark.id,
        },
        drawing.layers.marks,
      );
      make('rect', { width: gathered ? wide : 22, height: 18, rx: 3 }, group);
      make('path', { d: MARKS[mark.type], transform: 'translate(3 3)' }, group);
      if (gathered) make('text', { x: 29, y: 13, class: 'd-mark-count' }, group).textContent = String(marks.length);
      make('title', {}, group).textContent = gathered ? marks.map((one) => one.type).join(', ') : mark.type;
    }
  }
}

export function drawGaps(drawing) {
  for (const gap of drawing.scene.gaps || []) {
    const [cx, cy] = drawing.px(gap.at);
    make('circle', { cx, cy, r: 8, class: 'd-gap' }, drawing.layers.points);
  }
}
