// What is on the tool belt: slots with their keys and hands, the constraints and their letters, and how hands are set.

import { preset } from '../numbers.js';

const line = 'M3 15L21 3';
const ICONS = {
  line,
  rectangle: 'M4 4H20V14H4Z',
  circle: 'M12 2A7 7 0 1 0 12 16A7 7 0 1 0 12 2',
  arc: 'M3 15C4 6 12 3 21 5',
  spline: 'M2 12C7 -2 12 20 22 5',
  slot: 'M8 4H16A5 5 0 0 1 16 14H8A5 5 0 0 1 8 4',
  size: 'M4 3V15M20 3V15M4 9H20M7 7L4 9L7 11M17 7L20 9L17 11',
  fix: 'M12 3V8M8 15L12 8L16 15Z',
  trim: 'M3 13H9M15 13H21M8 3L16 16',
  offset: 'M3 15C3 8 8 3 15 3M8 15C8 11 11 8 15 8',
  point: 'M12 6A3 3 0 1 0 12 12A3 3 0 1 0 12 6',
  polygon: 'M8 2H16L20 9L16 16H8L4 9Z',
  ellipse: 'M12 3C18 3 22 6 22 9S18 15 12 15S2 12 2 9S6 3 12 3',
  corner: 'M3 15V9C3 5 6 3 10 3H21',
  extend: 'M3 9H12M20 2V16M14 9H17',
  cut: 'M3 9H10M14 9H21M12 4V14',
  mirror: 'M12 1V17M3 4V14L9 9ZM21 4V14L15 9Z',
  copies: 'M3 6H8V12H3ZM10 6H15V12H10ZM17 6H22V12H17Z',
  move: 'M12 2V16M4 9H20M9 5L12 2L15 5M9 13L12 16L15 13M7 6L4 9L7 12M17 6L20 9L17 12',
  take: 'M3 8L9 4L15 8V14L9 17L3 14ZM15 8L21 5M3 8L9 11L15 8M9 11V17',
};

const slot = (row, key, id, label, hands) => ({ row, key, id, label, hands, icon: ICONS[id] });

export const BELT = [
  slot(1, '1', 'line', 'Line', ['line']),
  slot(1, '2', 'rectangle', 'Rectangle', ['rectangle by corners', 'rectangle by centre', 'tilted rectangle']),
  slot(1, '3', 'circle', 'Circle', ['circle by centre', 'circle by two points', 'circle by three points']),
  slot(1, '4', 'arc', 'Arc', ['arc by three points', 'arc by centre', 'tangent arc']),
  slot(1, '5', 'spline', 'Spline', ['spline']),
  slot(1, '6', 'slot', 'Slot', ['slot']),
  slot(1, '7', 'size', 'Size', ['size']),
  slot(1, '8', 'fix', 'Fix', ['fix']),
  slot(1, '9', 'trim', 'Trim', ['trim']),
  slot(1, '0', 'offset', 'Offset', ['offset']),
  slot(2, '1', 'point', 'Point', ['point']),
  slot(2, '2', 'polygon', 'Polygon', ['polygon']),
  slot(2, '3', 'ellipse', 'Ellipse', ['ellipse']),
  slot(2, '4', 'corner', 'Corner', ['round', 'bevel']),
  slot(2, '5', 'extend', 'Extend', ['extend']),
  slot(2, '6', 'cut', 'Cut', ['cut']),
  slot(2, '7', 'mirror', 'Mirror', ['mirror']),
  slot(2, '8', 'copies', 'Copies', ['row', 'ring']),
  slot(2, '9', 'move', 'Move', ['move', 'turn', 'scale']),
  slot(2, '0', 'take', 'Take', ['take', 'section', 'silhouette', 'photo', 'figure']),
];

const lines = (curves) => curves.filter((curve) => curve.type === 'line');
const rounds = (curves) => curves.filter((curve) => curve.type === 'arc' || curve.type === 'circle');
const one = (type, on) => [{ type, on }];
const spread = (type, curves) => curves.slice(1).map((curve) => ({ type, on: [curves[0].id, curve.id] }));
const only = (list, all) => list.length === all.length;

const constraint = (word, key, acts) => ({ word, key, words: `${word} ${key.toUpperCase()}`, acts });

// Each gives the acts that suit the chosen points and curves, or null.
export const CONSTRAINTS = {
  coincident: constraint('together', 'c', (p, c) =>
    p.length === 2 && !c.length ? one('coincident', p.includes('o') ? ['o', p.find((id) => id !== 'o')] : p) : null,
  ),
  on: constraint('on it', 'o', (p, c) =>
    p.length === 1 && c.length === 1 && c[0].type !== 'spline' ? one('on', [p[0], c[0].id]) : null,
  ),
  midpoint: constraint('midpoint', 'm', (p, c) =>
    p.length === 1 && c.length === 1 && c[0].type === 'line' ? one('midpoint', [p[0], ...c[0].ends]) : null,
  ),
  horizontal: constraint('horizontal', 'h', (p, c) =>
    p.length === 2 && !c.length
      ? one('level', p)
      : c.length && !p.length && only(lines(c), c)
        ? c.map(({ id }) => ({ type: 'horizontal', on: [id] }))
        : null,
  ),
  vertical: constraint('vertical', 'v', (p, c) =>
    p.length === 2 && !c.length
      ? one('plumb', p)
      : c.length && !p.length && only(lines(c), c)
        ? c.map(({ id }) => ({ type: 'vertical', on: [id] }))
        : null,
  ),
  parallel: constraint('parallel', 'p', (p, c) =>
    !p.length && c.length > 1 && only(lines(c), c) ? spread('parallel', c) : null,
  ),
  perpendicular: constraint('square', 'q', (p, c) =>
    !p.length && c.length === 2 && only(lines(c), c) ? spread('perpendicular', c) : null,
  ),
  collinear: constraint('in one line', 'l', (p, c) =>
    !p.length && c.length > 1 && only(lines(c), c) ? spread('collinear', c) : null,
  ),
  equal: constraint('equal', 'e', (p, c) =>
    !p.length && c.length > 1 && (only(lines(c), c) || only(rounds(c), c)) ? spread('equal', c) : null,
  ),
  tangent: constraint('tangent', 't', (p, c) =>
    !p.length && c.length === 2 && !only(lines(c), c) ? spread('tangent', c) : null,
  ),
  concentric: constraint('concentric', 'n', (p, c) =>
    !p.length && c.length > 1 && only(rounds(c), c) ? spread('concentric', c) : null,
  ),
  symmetric: constraint('symmetric', 'y', (p, c) =>
    p.length === 2 && c.length === 1 && c[0].type === 'line' ? one('symmetric', [...p, c[0].id]) : null,
  ),
  fix: constraint('fixed here', 'x', (p, c) =>
    p.length && !c.length && !p.includes('o') ? p.map((id) => ({ type: 'fix', on: [id] })) : null,
  ),
};

const corner = (act, size, mm) => ({
  fields: [{ name: size, mm }],
  single: ({ point, field }) => (point ? [{ do: act, corner: point, [size]: field(size) }] : null),
});
const step = [
  { name: 'count', value: '4' },
  { name: 'step x', mm: 10 },
  { name: 'step y', mm: 0 },
];

// Short names of variants, where the tool's own is long.
const SHORT = {
  'rectangle by corners': 'by corners',
  'rectangle by centre': 'by centre',
  'tilted rectangle': 'tilted',
  'circle by centre': 'by centre',
  'circle by two points': 'two points',
  'circle by three points': 'three points',
  'arc by three points': 'three points',
  'arc by centre': 'by centre',
  'tangent arc': 'tangent',
  take: 'edges',
  figure: 'typed figure',
  photo: 'tracing photo',
};
export const shortOf = (hand) => SHORT[hand] || hand;

// Hands that are no drawing tools: what they say, their fields and choices, and the acts they come to.
export const HANDS = {
  choose: {
    lead: 'Sketch:',
    say: 'take a tool by its number, or click what is to be fixed, sized or dragged; ? shows keys and help',
  },
  fix: { lead: 'Fix:', say: 'click what belongs together, then take a constraint by its letter' },
  size: { lead: 'Size:', say: 'click a line, a round, or two things, then where the label is to stand' },
  trim: { lead: 'Trim:', say: 'click the piece that is to go, or drag across several' },
  extend: {
    lead: 'Extend:',
    say: 'click an open curve near the end that is to grow',
    single: ({ curve, place }) => (curve ? [{ do: 'extend', entity: curve, at: place }] : null),
  },
  cut: {
    lead: 'Cut:',
    say: 'click a curve where it is to be parted',
    single: ({ curve, place }) => (curve ? [{ do: 'cut', entity: curve, at: place }] : null),
  },
  round: { lead: 'Corner:', say: 'type the radius, then click corners', ...corner('fillet', 'radius', 3) },
  bevel: { lead: 'Corner:', say: 'type the setback, then click corners', ...corner('chamfer', 'setback', 2) },
  mirror: {
    lead: 'Mirror:',
    say: 'choose curves, then the line or axis to mirror about last',
    ready: 'Enter keeps the mirrored copies',
    build: ({ names, sketcher }) =>
      names.length > 1 && (/^o[xy]$/.test(names.at(-1)) || sketcher.entity(names.at(-1)).type === 'line')
        ? [{ do: 'mirror', names: names.slice(0, -1), axis: names.at(-1) }]
        : null,
  },
  offset: {
    lead: 'Offset:',
    say: 'click a chain (Shift for single curves), type the distance, choose the side',
    ready: 'Enter keeps the offset',
    fields: [{ name: 'distance', mm: 2 }],
    options: { side: 'out', ends: 'open' },
    choices: { side: ['out', 'in', 'left', 'right', 'both'], ends: ['open', 'flat', 'round'] },
    build: ({ names, field, options, sketcher }) => {
      if (!names.length || !field('distance')) return null;
      const ends = names.flatMap((id) => sketcher.entity(id).ends);
      const open = ends.some((point) => ends.filter((other) => other === point).length === 1);
      const side =
        open && ['in', 'out'].includes(options.side) ? (options.side === 'in' ? 'left' : 'right') : options.side;
      return [{ do: 'offset', names, distance: field('distance'), side, ends: options.ends }];
    },
  },
  row: {
    lead: 'Row:',
    say: 'choose curves, type how many in all and the step',
    ready: 'Enter keeps the row',
    fields: step,
    build: ({ names, field }) =>
      names.length && Number(field('count')) > 1
        ? [
            {
              do: 'row',
              names,
              count: Math.round(Number(field('count'))),
              dx: field('step x') || '0',
              dy: field('step y') || '0',
            },
          ]
        : null,
  },
  ring: {
    lead: 'Ring:',
    say: 'choose curves, and a point for the centre (else the origin); type how many in all',
    ready: 'Enter keeps the ring',
    fields: [
      { name: 'count', value: '6' },
      { name: 'step', value: '', hint: 'even' },
    ],
    build: ({ names, points, field }) =>
      names.length && Number(field('count')) > 1
        ? [
            {
              do: 'ring',
              names,
              count: Math.round(Number(field('count'))),
              centre: points[0] || 'o',
              step: field('step'),
            },
          ]
        : null,
  },
  move: {
    lead: 'Move:',
    say: 'choose curves, type how far',
    ready: 'Enter keeps it',
    fields: [
      { name: 'x', mm: 10 },
      { name: 'y', mm: 0 },
    ],
    options: { as: '' },
    choices: { as: ['copy'] },
    build: ({ names, field, options }) =>
      names.length
        ? [{ do: 'move', names, dx: field('x') || '0', dy: field('y') || '0', copy: options.as === 'copy' }]
        : null,
  },
  turn: {
    lead: 'Turn:',
    say: 'choose curves, and a point to turn about (else the origin); type the angle',
    ready: 'Enter keeps it',
    fields: [{ name: 'angle', value: '90' }],
    options: { as: '' },
    choices: { as: ['copy'] },
    build: ({ names, points, field, options, sketcher }) =>
      names.length
        ? [
            {
              do: 'turn',
              names,
              angle: field('angle') || '0',
              about: sketcher.scene.points[points[0] || 'o'],
              copy: options.as === 'copy',
            },
          ]
        : null,
  },
  scale: {
    lead: 'Scale:',
    say: 'choose curves, and a point to scale about (else the origin); type the factor',
    ready: 'Enter keeps it',
    fields: [{ name: 'factor', value: '1.5' }],
    options: { as: '' },
    choices: { as: ['copy'] },
    build: ({ names, points, field, options, sketcher }) =>
      names.length
        ? [
            {
              do: 'scale',
              names,
              factor: field('factor') || '1',
              about: sketcher.scene.points[points[0] || 'o'],
              copy: options.as === 'copy',
            },
          ]
        : null,
  },
  take: {
    lead: 'Take:',
    say: 'click an edge or a face of the body behind the sheet: it is laid in the plane and stays linked',
    takes: 'edge',
  },
  section: {
    lead: 'Section:',
    say: 'click a body behind the sheet: its cut with the plane is taken and stays linked',
    takes: 'section',
  },
  silhouette: {
    lead: 'Silhouette:',
    say: 'click a body behind the sheet: the outline of its curved faces is taken and stays linked',
    takes: 'silhouette',
  },
  photo: {
    lead: 'Tracing photo:',
    say: 'click two places a known distance apart on it, type the distance, Enter; drag moves it',
    fields: [
      { name: 'distance', value: '' },
      { name: 'across', value: '' },
      { name: 'up', value: '' },
      { name: 'turn', value: '', hint: '0°' },
      { name: 'fade %', value: '', hint: '50' },
    ],
    options: {},
    choices: { photo: ['find the outline', 'lock', 'unlock', 'remove'] }, // one of lock and unlock is shown
    build: ({ field, sketcher }) => sketcher.bringing.photoActs(field),
  },
  figure: { lead: 'Typed figure:', say: 'choose which; its sizes are then typed in the panel', figures: true },
};

const SIZES = {
  rectangle: { width: 20, height: 10 },
  circle: { diameter: 10 },
  polygon: { diameter: 12 },
  slot: { length: 12, width: 4 },
};

// A typed figure with the sizes it begins with, in a unit.
export function figuresOf(kind, unit) {
  const sizes = Object.entries(SIZES[kind]).map(([name, mm]) => [name, `${preset(mm, unit)} ${unit}`]);
  return { kind, ...Object.fromEntries(sizes) };
}
