import assert from 'node:assert/strict';
import test from 'node:test';

import { bodyRows } from '../../src/supplecast/web/static/js/bench/bodies.js';

const body = (id, name, ...group) => ({
  id,
  name,
  role: 'part',
  solid: true,
  group,
  look: { colour: '', clear: false },
  mesh: 'm',
});
const viewer = { hidden: new Set(['m.1']) };
const said = (rows) => rows.map((row) => `${'·'.repeat(row.depth)}${row.name} ${row.extra}`.trim());

test('parts are listed under their assemblies, alike ones as one, and fold away with them', () => {
  const bodies = [
    body('e1', 'Body'),
    body('m.1', 'Plate', 'Pump'),
    body('m.2', 'Bolt', 'Pump', 'Head'),
    body('m.3', 'Bolt', 'Pump', 'Head'),
    body('m.4', 'Bolt', 'Pump', 'Head'),
  ];
  const rows = bodyRows({ bodies }, viewer, '');
  assert.deepEqual(said(rows), ['Body', 'Pump 4 parts', '·Plate', '·Head 3 parts', '··Bolt × 3']);
  assert.deepEqual(
    rows.map((row) => row.shown),
    [true, true, false, true, true],
  );
  assert.deepEqual(rows[1].ids, ['m.1', 'm.2', 'm.3', 'm.4']);
  assert.deepEqual(said(bodyRows({ bodies }, viewer, '', new Set([rows[3].id]))).slice(3), ['·Head 3 parts']);
  assert.deepEqual(said(bodyRows({ bodies }, viewer, '', new Set([rows[1].id]))), ['Body', 'Pump 4 parts']);
});

test('what is no solid of this document is told apart', () => {
  const bodies = [
    body('a', 'Own'),
    { ...body('b', 'Scan'), role: 'mesh', solid: false },
    { ...body('c', 'Sheet'), role: 'surface', solid: false },
    { ...body('d', 'Lid'), role: 'neighbour' },
  ];
  assert.deepEqual(said(bodyRows({ bodies }, viewer, '')), ['Own', 'Scan mesh', 'Sheet surface', 'Lid neighbour']);
});
