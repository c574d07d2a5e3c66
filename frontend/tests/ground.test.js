import assert from 'node:assert/strict';
import test from 'node:test';

import { Vector3 } from 'three';
import { STANDARD, barOf, cornersOf } from '../../src/supplecast/web/static/js/view/ground.js';
import { thingRows, thingsOf } from '../../src/supplecast/web/static/js/bench/things.js';
import { Seen } from '../../src/supplecast/web/static/js/bench/seen.js';

test('standard planes stand towards the eye like the inside of a box', () => {
  const far = STANDARD.map((plane) => cornersOf(plane, 10, new Vector3(-0.5, -0.7, 0.5))[2].map((c) => c + 0));
  assert.deepEqual(far, [
    [-10, -10, 0],
    [-10, 0, 10],
    [0, -10, 10],
  ]);
  assert.deepEqual(cornersOf(STANDARD[0], 4, new Vector3(1, -1, 0))[2], [4, -4, 0]);
});

test('the bar is the longest of 1, 2, 5 times a power of ten that fits', () => {
  assert.deepEqual(barOf(0.5, 'mm'), { length: 50, pixels: 100 });
  assert.deepEqual(barOf(0.1, 'mm'), { length: 10, pixels: 100 });
  assert.deepEqual(barOf(0.003, 'mm'), { length: 0.2, pixels: 0.2 / 0.003 });
});

test('used outlines and planes are out of sight once there is a body, until the person says otherwise', () => {
  const held = new Map();
  globalThis.localStorage = { getItem: (key) => held.get(key) ?? null, setItem: (key, value) => held.set(key, value) };
  const seen = new Seen('d1');
  const outline = (id, used) => ({ id, name: id, used, lines: [], loose: [] });
  const result = {
    bodies: [{ role: 'part' }],
    sketches: [outline('s1', true), outline('s2', false)],
    datums: [],
    steps: [],
    lines: {},
  };
  const things = thingsOf(result, new Map());
  const shown = () => things.filter(({ key, usual }) => seen.shown(key, usual)).map(({ key }) => key);
  assert.deepEqual(shown(), ['sketch/s2']);
  seen.set(['sketch/s1'], true);
  assert.deepEqual(shown(), ['sketch/s1', 'sketch/s2']);
  assert.equal(new Seen('d1').shown('sketch/s1', false), true);
  assert.equal(new Seen('d2').shown('sketch/s1', false), false);
  assert.deepEqual(
    thingRows(things, seen).map(({ name, extra }) => [name, extra]),
    [
      ['Sketches', '2'],
      ['Planes, axes', '4'],
    ],
  );
});
