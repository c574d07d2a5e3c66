// The list of bodies: names, colours, what is hidden or seen through, and pairs that should not be as they are.

import { COLOURS, UNITS } from '../facts.js';
import { fixed, inUnit } from '../numbers.js';

export const PALETTE = ['', '#C97B4A', '#A8443A', '#6F8F3E', '#3E7C8F', '#5B5F97', '#2E3A3A', '#F4F1E8'];

const REACH = 0.2; // mm by which a body is pushed into another that it only touches

const MANY = 3; // bodies of one name and role, told apart by a number only, are listed as one from so many on

// What the list shows of each body, under the assemblies it is in; `open` names the one whose look is being changed, `folded`
// the assemblies whose parts are not listed.
export function bodyRows(result, viewer, open, folded = new Set()) {
  return rowsUnder(result.bodies, [], viewer, open, folded);
}

function rowsUnder(bodies, path, viewer, open, folded) {
  const depth = path.length;
  const groups = new Map();
  for (const body of bodies) {
    const inner = body.group[depth];
    const key = inner === undefined ? `${body.role}/${body.name.replace(/ \d+$/, '')}` : `in ${inner}`;
    groups.set(key, [...(groups.get(key) || []), body]);
  }
  return [...groups.values()].flatMap((some) => {
    const inner = some[0].group[depth];
    if (inner === undefined) return some.length < MANY ? bodyRow(some, viewer, open) : [groupRow(some, viewer)];
    const within = [...path, inner];
    const row = assemblyRow(some, within, viewer, folded);
    return row.folded ? [row] : [row, ...rowsUnder(some, within, viewer, open, folded)];
  });
}

const STEP_IN = 12; // px

function deep(depth) {
  return { depth, indent: { paddingLeft: `${depth * STEP_IN}px` } };
}

function together(bodies, name, viewer) {
  const ids = bodies.map((body) => body.id);
  return {
    ids,
    name,
    shown: ids.some((id) => !viewer.hidden.has(id)),
    open: false,
    clear: false,
    clearWords: '',
    colours: [],
  };
}

// The head of an assembly: it folds, and its parts are shown and hidden with it.
function assemblyRow(bodies, path, viewer, folded) {
  const id = `in ${path.join('/')}`;
  const all = together(bodies, path[path.length - 1], viewer);
  const hidden = folded.has(id);
  const extra = `${bodies.length} ${bodies.length === 1 ? 'part' : 'parts'}`;
  return {
    ...all,
    id,
    head: true,
    folded: hidden,
    sign: hidden ? '▸' : '▾',
    ...deep(path.length - 1),
    style: {},
    extra,
  };
}

function groupRow(alike, viewer) {
  const [first] = alike;
  return {
    ...together(alike, first.name.replace(/ \d+$/, ''), viewer),
    id: `all ${first.id}`,
    ...deep(first.group.length),
    style: { background: first.finish?.colour || COLOURS[first.role] },
    extra: `× ${alike.length}`,
  };
}

// What a body is, where it is not just a solid of this document.
function extraOf(body) {
  if (body.stale) return 'last good shape';
  if (!body.mesh) return 'cannot be drawn';
  if (body.role === 'neighbour') return 'neighbour';
  return body.solid ? '' : body.role === 'surface' ? 'surface' : 'mesh';
}

function bodyRow(bodies, viewer, open) {
  return bodies.map((body) => ({
    ...deep(body.group.length),
    id: body.id,
    name: body.name,
    style: { background: body.finish?.colour || body.look.colour || COLOURS[body.role] },
    wears: body.finish?.step ? `Its colour is of the step “${body.finish.name}”.` : '',
    shown: !viewer.hidden.has(body.id),
    open: body.id === open,
    clear: body.look.clear,
    clearWords: body.look.clear ? 'see solid' : 'see through',
    colours: PALETTE.map((colour) => ({
      colour,
      style: { background: colour || COLOURS[body.role] },
      label: colour || 'its own colour',
    })),
    extra: extraOf(body),
  }));
}

// Pairs of bodies in words, with what would mend them.
export function contactRows(contacts, unit) {
  return contacts.map((contact, index) => {
    const [a, b] = contact.names;
    const at = contact.place.map((c) => fixed(c / UNITS[unit], unit === 'mm' ? 1 : 3)).join(', ');
    const space = contact.kind === 'space';
    const words = space
      ? `${a} and ${b} are in the same space: ${inUnit(contact.volume, unit, 3)} at (${at}).`
      : `${a} and ${b} touch only along ${contact.kind === 'edge' ? 'an edge' : 'a point'} at (${at}).`;
    return {
      key: `${contact.bodies.join()}${index}`,
      index,
      words,
      repair: space ? 'join them' : `overlap them by ${inUnit(REACH, unit)} and join`,
    };
  });
}

// The steps that mend a pair: a union, for mere touching after a small push.
export async function mend(bench, contact) {
  const [first, second] = contact.bodies;
  if (contact.kind !== 'space') {
    const [x, y, z] = contact.direction.map((c) => `${fixed((c * REACH) / UNITS[bench.unit], 6)} ${bench.unit}`);
    await bench.edit({
      op: 'add',
      type: 'move',
      after: bench.standing,
      values: { body: second, how: 'by', x, y, z },
    });
  }
  await bench.edit({
    op: 'add',
    type: 'union',
    after: bench.standing,
    values: { body: first, tools: [second] },
  });
}
