// The box 10 × 20 × 30 in $BOX_GLB was written by the program itself; see tests/test_scripts.py.

import assert from 'node:assert/strict';
import { readFileSync } from 'node:fs';
import test from 'node:test';

import { rangeOf, readGlb } from '../../src/supplecast/web/static/js/view/glb.js';

test('a box is read with its faces, edges and corners', () => {
  const bytes = readFileSync(process.env.BOX_GLB);
  const read = readGlb(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength));
  assert.equal(read.faceEnds.length, 6);
  assert.equal(read.faceEnds.at(-1), read.triangles.length / 3);
  assert.equal(read.edgeEnds.length, 12);
  assert.equal(read.edgeEnds.at(-1), read.segments.length / 3);
  const reach = [0, 1, 2].map((axis) => {
    const along = [...read.points].filter((_, i) => i % 3 === axis);
    return Math.max(...along) - Math.min(...along);
  });
  assert.deepEqual(reach, [10, 20, 30]);
  // Every face is flat: its corners have one normal, along one axis.
  let from = 0;
  for (const end of read.faceEnds) {
    const normals = new Set();
    for (const corner of read.triangles.subarray(from * 3, end * 3))
      normals.add([0, 1, 2].map((k) => Math.round(read.normals[corner * 3 + k])).join(' '));
    assert.equal(normals.size, 1);
    from = end;
  }
});

test('a place among ranges is found by their ends', () => {
  const ends = [2, 2, 5, 9]; // the second is empty
  assert.deepEqual(
    [0, 1, 2, 4, 5, 8].map((place) => rangeOf(ends, place)),
    [0, 0, 2, 2, 3, 3],
  );
});
