// Numbers as the pages print them.

import { UNITS, facts } from './facts.js';

// So many digits behind the point, or the comma of one who writes it.
export const exactly = (value, digits) => Number(value).toFixed(digits).replace('.', facts.decimal);

// A place of the drawing sheet, mm, as the readout of the pointer says it.
export const placed = ([x, y], unit) => `x ${exactly(x / UNITS[unit], 2)}  y ${exactly(y / UNITS[unit], 2)} ${unit}`;

// At most so many digits behind the point, without noughts at the end.
export const fixed = (value, digits) =>
  Number(value)
    .toFixed(digits)
    .replace(/(\.\d*?)0+$/, '$1')
    .replace(/\.$/, '')
    .replace('.', facts.decimal);

// Grams in the unit that the reader weighs in, else in the one that goes with the document's.
export function weighed(grams, unit) {
  const usual = unit !== 'in' ? 'g' : grams < facts.masses.lb ? 'oz' : 'lb';
  const mass = facts.mass || usual;
  return `${exactly(grams / facts.masses[mass], mass === 'g' ? 1 : 3)} ${mass}`;
}

// A length, an area or a volume (power 1, 2, 3) of the model in words of a unit, to four figures.
export function inUnit(mm, unit, power = 1) {
  const value = mm / UNITS[unit] ** power;
  const shown = Math.abs(value) >= 1000 ? Math.round(value) : Number(value.toPrecision(4));
  return `${fixed(shown, 6)} ${unit}${['', '²', '³'][power - 1]}`;
}

// A length that a tool suggests, as a round number of a unit: 2 mm are 0.08 in.
export function preset(mm, unit) {
  const value = mm / UNITS[unit];
  return fixed(unit === 'in' ? Number(value.toPrecision(1)) : value, 6);
}
