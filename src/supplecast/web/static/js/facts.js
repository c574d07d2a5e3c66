// What the server says once for all pages: units in mm, and the colours of bodies by their role.

const held = globalThis.document?.getElementById('facts');

/** @type {{ units: Record<string, number>, colours: Record<string, string> }} */
export const facts = held ? JSON.parse(held.textContent) : { units: { mm: 1 }, colours: {} };
export const UNITS = facts.units;
export const COLOURS = facts.colours;
