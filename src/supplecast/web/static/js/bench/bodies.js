// The list of bodies: names, colours, what is hidden or seen through, and pairs that should not be as they are.

import { COLOURS } from '../facts.js';
import { fixed } from '../numbers.js';

export const PALETTE = ['', '#C97B4A', '#A8443A', '#6F8F3E', '#3E7C8F', '#5B5F97', '#2E3A3A', '#F4F1E8'];

const REACH = 0.2; // mm by which a body is pushed into another that it only touches

const MANY = 3; // bodies of one name and role, told apart by a number only, are listed as one from so many on

// What the list shows of each body; `open` names the one whose look is being changed.
export function bodyRows(result, viewer, open) {
  const groups = new Map();
  for (const body of result.bodies) {
    const key = `${body.role}/${body.name.replace(/ \d+$/, '')}`;
    groups.set(key, [...(groups.get(key) || []), body]);
  }
  return [...groups.values()].flatMap((alike) =>
    alike.length < MANY ? bodyRow(alike, viewer, open) : [groupRow(alike, viewer)],
  );
}

function groupRow(alike, viewer) {
  const [first] = alike;
  const ids = alike.map((body) => body.id);
  return {
    id: `all ${ids[0]}`,
    ids,
    name: first.name.replace(/ \d+$/, ''),
    style: { background: COLOURS[first.role] },
    shown: ids.some((id) => !viewer.hidden.has(id)),
    open: false,
    clear: false,
    clearWords: '',
    colours: [],
    extra: `× ${ids.length}`,
  };
}

function bodyRow(bodies, viewer, open) {
  return bodies.map((body) => ({
    id: body.id,
    name: body.name,
    style: { background: body.look.colour || COLOURS[body.role] },
    shown: !viewer.hidden.has(body.id),
    open: body.id === open,
    clear: body.look.clear,
    clearWords: body.look.clear ? 'see solid' : 'see through',
    colours: PALETTE.map((colour) => ({
      colour,
      style: { background: colour || COLOURS[body.role] },
      label: colour || 'its own colour',
    })),
    extra: body.stale ? 'last good shape' : body.role === 'surface' ? 'surface' : body.mesh ? '' : 'cannot be drawn',
  }));
}

// Pairs of bodies in words, with what would mend them.
export function contactRows(contacts) {
  return contacts.map((contact, index) => {
    const [a, b] = contact.names;
    const at = contact.place.map((c) => fixed(c, 1)).join(', ');
    const space = contact.kind === 'space';
    const words = space
      ? `${a} and ${b} are in the same space: ${fixed(contact.volume, 2)} mm³ at (${at}).`
      : `${a} and ${b} touch only along ${contact.kind === 'edge' ? 'an edge' : 'a point'} at (${at}).`;
    return {
      key: `${contact.bodies.join()}${index}`,
      index,
      words,
      repair: space ? 'join them' : `overlap them by ${REACH} mm and join`,
    };
  });
}

// The steps that mend a pair: a union, for mere touching after a small push.
export async function mend(bench, contact) {
  const [first, second] = contact.bodies;
  if (contact.kind !== 'space') {
    const [x, y, z] = contact.direction.map((c) => `${Number((c * REACH).toFixed(4))} mm`);
    await bench.edit({ op: 'add', type: 'move', after: bench.standing, values: { body: second, how: 'by', x, y, z } });
  }
  await bench.edit({ op: 'add', type: 'union', after: bench.standing, values: { body: first, tools: [second] } });
}
