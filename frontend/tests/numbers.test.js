import assert from 'node:assert/strict';
import test from 'node:test';

import { fixed } from '../../src/supplecast/web/static/js/numbers.js';
import { STROKE, travel } from '../../src/supplecast/web/static/js/view/opening.js';

test('numbers drop the noughts behind the point and no others', () => {
  assert.deepEqual(
    [fixed(2.5, 3), fixed(2, 3), fixed(100, 2), fixed(0.0004, 3), fixed('1.20', 2), fixed(-0.75, 1)],
    ['2.5', '2', '100', '0', '1.2', '-0.8'],
  );
});

test('the mold opens in order: core, then slides, then parts; the cavity stands', () => {
  const at = (stroke, slides = true) =>
    ['cavity', 'core', 'slide', 'part'].map((role) => Number(travel(role, stroke, slides).toFixed(6)));
  assert.deepEqual(at(0), [0, 0, 0, 0]);
  assert.deepEqual(at(0.2 * STROKE), [0, 32, 0, 0]);
  const [, core, slide, part] = at(0.5 * STROKE);
  assert.ok(core === 80 && slide > 0 && part === 0);
  assert.ok(at(STROKE)[3] > 0 && at(STROKE)[3] < at(STROKE)[1]);
  assert.ok(at(0.1 * STROKE, false)[3] > 0, 'without slides the part moves from the beginning');
});
