// What the server says once for all pages: units in mm and in g, colours of bodies by their role, and how the reader writes.

const held = globalThis.document?.getElementById('facts');

/**
 * @type {{
 *   units: Record<string, number>, masses: Record<string, number>, colours: Record<string, string>,
 *   decimal: string, mass: string,
 * }}
 */
export const facts = held
  ? JSON.parse(held.textContent)
  : { units: { mm: 1 }, masses: { g: 1 }, colours: {}, decimal: '.', mass: '' };
export const UNITS = facts.units;
export const COLOURS = facts.colours;
