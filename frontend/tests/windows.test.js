import assert from 'node:assert/strict';
import test from 'node:test';

import { touches } from '../../src/supplecast/web/static/js/view/windows.js';

const frame = { left: 10, top: 10, right: 20, bottom: 20 };

test('a window touches what crosses it, holds it or lies in it, and no more', () => {
  const cases = [
    [
      [
        [12, 12],
        [18, 18],
      ],
      true,
    ], // within
    [
      [
        [0, 15],
        [30, 15],
      ],
      true,
    ], // across, no end inside
    [
      [
        [0, 0],
        [40, 0],
        [0, 40],
      ],
      true,
    ], // round it
    [
      [
        [0, 31],
        [31, 0],
      ],
      true,
    ], // cuts a corner off
    [
      [
        [0, 19],
        [19, 0],
      ],
      false,
    ], // past the near corner
    [
      [
        [21, 0],
        [21, 40],
      ],
      false,
    ],
    [
      [
        [22, 22],
        [30, 22],
        [22, 30],
      ],
      false,
    ],
  ];
  for (const [corners, wanted] of cases) assert.equal(touches(corners, frame), wanted, JSON.stringify(corners));
});
