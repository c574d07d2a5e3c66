// What the list at the view's left holds besides bodies: outlines, planes, axes, points and notes.

import { STANDARD, cornersOf } from '../view/ground.js';

const GROUPS = [
  ['sketches', 'Sketches'],
  ['places', 'Planes, axes'],
  ['notes', 'Notes'],
];

// Everything a document can show besides bodies, by its key: what it is called, how it is drawn, whether it usually is seen.
export function thingsOf(result, steps) {
  const things = result.sketches.map((sketch) => ({
    key: `sketch/${sketch.id}`,
    group: 'sketches',
    name: sketch.name,
    usual: !sketch.used || !result.bodies.length,
    drawn: sketch,
  }));
  for (const { name, words } of STANDARD)
    things.push({ key: `plane/${name}`, group: 'places', name: words, usual: false, drawn: null });
  things.push({ key: 'axes', group: 'places', name: 'Origin, axes', usual: !result.bodies.length, drawn: null });
  for (const datum of result.datums)
    things.push({ key: `datum/${datum.id}`, group: 'places', name: datum.name, usual: true, drawn: datum });
  const inPlace = !result.bodies.some((body) => body.role === 'molded'); // copies at other places have left the line behind
  for (const step of result.steps) {
    const lines = result.lines[step.id];
    if (!lines || !(step.type === 'measure' || (step.type === 'parting line' && inPlace))) continue;
    things.push({
      key: `note/${step.id}`,
      group: 'notes',
      name: steps.get(step.id) || 'Note',
      usual: true,
      drawn: { kind: 'note', lines },
    });
  }
  return things;
}

// The rows of the list: the head of each group that has any, and its things unless it is folded.
export function thingRows(things, seen) {
  return GROUPS.flatMap(([group, name]) => {
    const some = things.filter((thing) => thing.group === group);
    if (!some.length) return [];
    const open = seen.shown(`open/${group}`, false);
    const shown = some.filter((thing) => seen.shown(thing.key, thing.usual));
    const head = {
      key: group,
      head: true,
      name,
      open,
      sign: open ? '▾' : '▸',
      shown: shown.length > 0,
      extra: shown.length === some.length || !shown.length ? `${some.length}` : `${shown.length} of ${some.length}`,
      keys: some.map((thing) => thing.key),
    };
    const rows = some.map(({ key, name: words, usual }) => ({
      key,
      head: false,
      name: words,
      shown: seen.shown(key, usual),
      extra: '',
      keys: [key],
    }));
    return open ? [head, ...rows] : [head];
  });
}

// The standard planes that are to be seen, as sheets.
export function shownPlanes(seen, reach, way) {
  return STANDARD.filter(({ name }) => seen.shown(`plane/${name}`, false)).map((plane) => ({
    key: `plane/${plane.name}`,
    words: plane.words,
    corners: cornersOf(plane, reach, way),
  }));
}
