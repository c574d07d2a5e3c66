import assert from 'node:assert/strict';
import test from 'node:test';

import { BELT, CONSTRAINTS, HANDS } from '../../src/supplecast/web/static/js/sketch/belt.js';

test('every slot has a key of its own, a picture, and hands of its own; what is set for a hand is for one there is', () => {
  assert.equal(new Set(BELT.map(({ row, key }) => `${row} ${key}`)).size, BELT.length);
  const hands = BELT.flatMap((slot) => slot.hands);
  assert.equal(new Set(hands).size, hands.length);
  for (const { id, icon } of BELT) assert.ok(icon, id);
  for (const hand of Object.keys(HANDS)) assert.ok(hand === 'choose' || hands.includes(hand), hand);
  const letters = Object.values(CONSTRAINTS).map(({ key }) => key);
  assert.equal(new Set(letters).size, letters.length);
});

const line = (id) => ({ id, type: 'line', ends: [`${id}a`, `${id}b`] });
const arc = (id) => ({ id, type: 'arc' });
const offered = (points, curves) => Object.keys(CONSTRAINTS).filter((id) => CONSTRAINTS[id].acts(points, curves));

test('only constraints that suit what is chosen are offered', () => {
  assert.deepEqual(offered(['p', 'q'], []), ['coincident', 'horizontal', 'vertical', 'fix']);
  assert.deepEqual(offered(['p'], [line('k')]), ['on', 'midpoint']);
  assert.deepEqual(offered(['p', 'q'], [line('k')]), ['symmetric']);
  assert.deepEqual(offered([], [line('k')]), ['horizontal', 'vertical']);
  assert.deepEqual(offered([], [line('k'), arc('m')]), ['tangent']);
  assert.deepEqual(offered([], [arc('k'), arc('m')]), ['equal', 'tangent', 'concentric']);
  assert.deepEqual(offered(['o'], []), [], 'the origin is fixed already');
});

test('a constraint on many is one act each, tied to the first', () => {
  const curves = [line('k'), line('m'), line('n')];
  assert.deepEqual(CONSTRAINTS.parallel.acts([], curves), [
    { type: 'parallel', on: ['k', 'm'] },
    { type: 'parallel', on: ['k', 'n'] },
  ]);
  assert.deepEqual(CONSTRAINTS.coincident.acts(['p', 'o'], []), [{ type: 'coincident', on: ['o', 'p'] }]);
});
