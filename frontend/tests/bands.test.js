// Values at corners: even across triangles that run on, as they are where the skin folds or a place is not judged.

import assert from 'node:assert/strict';
import { test } from 'node:test';
import { atCorners, meetings } from '../../src/supplecast/web/static/js/view/bands.js';

const FLAT = [0, 0, 1, 0, 0, 1, 0, 0, 1];
const UPRIGHT = [1, 0, 0, 1, 0, 0, 1, 0, 0];
// Two triangles on one edge, from (0, 0) to (1, 0).
const PAIR = new Float32Array([0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 1, -1, 0]);

test('corners that triangles share have the mean of both', () => {
  const met = meetings(PAIR);
  assert.deepEqual([...met.of], [0, 1, 2, 0, 1, 3]);
  const held = atCorners('wall', new Float32Array([1, 3]), new Float32Array([...FLAT, ...FLAT]), met);
  assert.deepEqual([...held], [2, 2, 1, 2, 2, 3]);
});

test('nothing is evened across a fold, where a place is not judged, or where values jump from face to face', () => {
  const met = meetings(PAIR);
  const folded = atCorners('wall', new Float32Array([1, 3]), new Float32Array([...FLAT, ...UPRIGHT]), met);
  assert.deepEqual([...folded], [1, 1, 1, 3, 3, 3]);
  const rim = atCorners('wall', new Float32Array([-1, 3]), new Float32Array([...FLAT, ...FLAT]), met);
  assert.deepEqual([...rim], [-1, -1, -1, 3, 3, 3]);
  const draft = atCorners('draft', new Float32Array([1, 3]), new Float32Array([...FLAT, ...FLAT]), met);
  assert.deepEqual([...draft], [1, 1, 1, 3, 3, 3]);
});
