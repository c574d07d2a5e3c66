import assert from 'node:assert/strict';
import test from 'node:test';

import { Ray, Vector3 } from 'three';
import { alongLine, niceStep } from '../../src/supplecast/web/static/js/view/handles.js';

test('steps are 1, 2 or 5 times a power of ten, the least that is long enough', () => {
  assert.deepEqual(
    [0.03, 0.05, 0.9, 1, 1.01, 3, 7, 12].map((least) => Number(niceStep(least).toPrecision(3))),
    [0.05, 0.05, 1, 1, 2, 5, 10, 20],
  );
});

test('a ray is read where it passes an arrow nearest', () => {
  const up = new Vector3(0, 0, 1);
  const ray = new Ray(new Vector3(5, -100, 17), new Vector3(0, 1, 0));
  assert.ok(Math.abs(alongLine(ray, new Vector3(5, 0, 2), up) - 15) < 1e-9);
  const aslant = new Ray(new Vector3(0, -10, 10), new Vector3(0, Math.SQRT1_2, -Math.SQRT1_2));
  assert.ok(Math.abs(alongLine(aslant, new Vector3(3, 0, 0), up)) < 1e-9);
  assert.equal(alongLine(new Ray(new Vector3(0, 0, 9), new Vector3(0, 0, -1)), new Vector3(), up), null);
});
