import assert from 'node:assert/strict';
import test from 'node:test';

import { fixed } from '../../src/supplecast/web/static/js/numbers.js';
import { STROKE, offset, stageWords } from '../../src/supplecast/web/static/js/view/opening.js';

test('numbers drop the noughts behind the point and no others', () => {
  assert.deepEqual(
    [fixed(2.5, 3), fixed(2, 3), fixed(100, 2), fixed(0.0004, 3), fixed('1.20', 2), fixed(-0.75, 1)],
    ['2.5', '2', '100', '0', '1.2', '-0.8'],
  );
});

test('a body goes each of its legs in its share of the stroke, and what happens is said', () => {
  const legs = [
    { begin: 0, end: 0.5, by: [0, 0, 80] },
    { begin: 0.25, end: 1, by: [30, 0, 0] },
  ];
  assert.deepEqual(offset(legs, 0), [0, 0, 0]);
  assert.deepEqual(offset(legs, 0.25 * STROKE), [0, 0, 40]);
  assert.deepEqual(offset(legs, 0.5 * STROKE), [10, 0, 80]);
  assert.deepEqual(offset(legs, STROKE), [30, 0, 80]);
  assert.deepEqual(offset(undefined, STROKE), [0, 0, 0]);
  const stages = [
    { words: 'core side', until: 0.6 },
    { words: 'ejectors', until: 1 },
  ];
  assert.deepEqual(
    [0, 1, 60, 61, '100'].map((share) => stageWords(stages, share)),
    ['shut', 'core side', 'core side', 'ejectors', 'ejectors'],
  );
});
