import assert from 'node:assert/strict';
import test from 'node:test';

import { BufferAttribute, BufferGeometry, DoubleSide, Group, Mesh, MeshBasicMaterial, Vector3 } from 'three';
import { Eye } from '../../src/supplecast/web/static/js/view/camera.js';
import { Picker } from '../../src/supplecast/web/static/js/view/picker.js';
import { Section } from '../../src/supplecast/web/static/js/view/section.js';
import { bandAt } from '../../src/supplecast/web/static/js/view/paint.js';
import { crossAt } from '../../src/supplecast/web/static/js/view/strokes.js';

const canvas = () => ({
  addEventListener: () => {},
  getBoundingClientRect: () => ({ left: 0, top: 0, width: 200, height: 100 }),
});

function eye() {
  const made = new Eye(canvas(), () => {});
  made.resize(200, 100);
  return made;
}

const near = (found, wanted) =>
  found.toArray().forEach((value, i) => assert.ok(Math.abs(value - wanted[i]) < 1e-9, `${found.toArray()} ${wanted}`));

test('standard views look along the axes, z upright: top from above', () => {
  const one = eye();
  for (const [name, way, up] of [
    ['front', [0, -1, 0], [0, 0, 1]],
    ['right', [1, 0, 0], [0, 0, 1]],
    ['back', [0, 1, 0], [0, 0, 1]],
    ['top', [0, 0, 1], [0, 1, 0]],
    ['bottom', [0, 0, -1], [0, -1, 0]],
  ]) {
    one.look(name);
    near(one.way, way);
    if (name !== 'bottom') near(one.axes().up, up);
    near(new Vector3().crossVectors(one.axes().right, one.axes().up), one.way.toArray());
  }
});

test('a box is fitted whole, into the middle, at any turn', () => {
  const one = eye();
  const corners = [...Array(8).keys()].map((i) => new Vector3(i & 1 ? 130 : 10, i & 2 ? 80 : -10, i & 4 ? 42 : 0));
  for (const name of ['oblique', 'front', 'top', 'left']) {
    one.look(name);
    one.fit(corners);
    const seen = corners.map((corner) => corner.clone().project(one.camera));
    const reach = Math.max(...seen.flatMap(({ x, y }) => [Math.abs(x), Math.abs(y)]));
    assert.ok(reach < 0.9 && reach > 0.7, `${name} ${reach}`);
  }
});

test('looking straight at a sketch shows its mm at the scale of the sheet, and goes back', () => {
  const one = eye();
  const before = { target: one.target.clone(), span: one.span };
  one.lookStraight({ origin: [5, 6, 7], x: [0, 1, 0], y: [0, 0, 1], normal: [1, 0, 0] }, [10, 20], 0.5);
  assert.equal(one.unit, 0.5);
  near(one.target, [5, 16, 27]);
  one.lookStraight(null);
  assert.deepEqual({ target: one.target, span: one.span }, before);
});

test('turning to what is wrong turns only as far as must be', () => {
  const one = eye();
  const way = one.way.clone();
  one.goTo(new Vector3(1, 2, 3), way, 10);
  near(one.way, way.toArray());
  one.goTo(new Vector3(1, 2, 3), new Vector3(0, 0, -1), 10);
  assert.ok(one.way.dot(new Vector3(0, 0, -1)) > 0.3);
});

test('the section keeps what lies beyond its plane and gives itself back after a sketch', () => {
  const section = new Section();
  section.set({ on: true, normal: new Vector3(0, 0, 1), at: 4 });
  assert.ok(section.plane.distanceToPoint(new Vector3(0, 0, 5)) > 0 && section.planes.length === 1);
  assert.ok(section.plane.distanceToPoint(new Vector3(0, 0, 3)) < 0);
  section.across({ origin: [0, 9, 0], normal: [0, 1, 0] });
  assert.ok(section.plane.distanceToPoint(new Vector3(0, 8, 0)) > 0, 'the half before the sheet is cut away');
  assert.ok(section.plane.distanceToPoint(new Vector3(0, 10, 0)) < 0);
  section.across(null);
  assert.ok(section.plane.distanceToPoint(new Vector3(0, 0, 5)) > 0 && section.plane.constant === -4);
});

test('a value falls in the first band that reaches it, and the last takes the rest', () => {
  const bands = [{ upto: 0.8 }, { upto: 3 }, { upto: null }];
  assert.deepEqual(
    [-1, 0.8, 0.81, 3, 1e9].map((value) => bandAt(bands, value)),
    [0, 0, 1, 1, 2],
  );
  assert.equal(bandAt([{ upto: 1 }], 2), -1);
});

test('a cross at a place is three strokes through it', () => {
  assert.deepEqual(crossAt([1, 2, 3], 0.5)[1], [
    [1, 1.5, 3],
    [1, 2.5, 3],
  ]);
});

// Two squares of 20 mm seen from the front, the near one, half as wide, before the far one.
function scene() {
  const square = (id, y, half) => {
    const points = new Float32Array([-half, y, -half, half, y, -half, half, y, half, -half, y, half]);
    const geometry = new BufferGeometry();
    geometry.setAttribute('position', new BufferAttribute(points, 3));
    geometry.setIndex([0, 1, 2, 0, 2, 3]);
    const corners = [0, 1, 2, 3, 0].map((i) => [...points.subarray(i * 3, i * 3 + 3)]);
    const read = {
      points,
      normals: new Float32Array([0, -1, 0, 0, -1, 0, 0, -1, 0, 0, -1, 0]),
      triangles: new Uint32Array([0, 1, 2, 0, 2, 3]),
      faceEnds: [2],
      edgeEnds: [2, 4, 6, 8],
      segments: new Float32Array([0, 1, 2, 3].flatMap((i) => [...corners[i], ...corners[i + 1]])),
    };
    const mesh = new Mesh(geometry, new MeshBasicMaterial({ side: DoubleSide }));
    const body = { id, mesh: `mesh of ${id}`, low: [-half, y, -half], high: [half, y, half] };
    return [id, { body, mesh, group: new Group(), geometry: { read } }];
  };
  const view = {
    canvas: canvas(),
    eye: eye(),
    section: new Section(),
    wants: 'any',
    bodies: new Map([square('far', 10, 20), square('near', -10, 10)]),
  };
  view.eye.look('front');
  view.eye.span = 50; // one mm to a pixel, since the window is 100 high
  view.eye.apply();
  return { view, picker: new Picker(view) };
}

test('what lies nearest is picked; edges within a few pixels go before faces', () => {
  const { picker, view } = scene();
  assert.deepEqual(picker.at(100, 50, 'faces'), { body: 'near', face: 0, mesh: 'mesh of near' });
  assert.deepEqual(picker.at(116, 50, 'faces'), { body: 'far', face: 0, mesh: 'mesh of far' });
  const edge = picker.at(111, 52);
  assert.equal(edge.body, 'near');
  assert.equal(edge.edge, 1);
  near(new Vector3(...edge.point), [10, -10, -2]);
  assert.equal(picker.at(150, 50), null);
  assert.equal(picker.at(100, 50, 'edges'), null);
  view.bodies.get('near').group.visible = false;
  assert.equal(picker.at(100, 50, 'faces').body, 'far');
});

test('what is cut away is not picked, and the cut itself is', () => {
  const { picker, view } = scene();
  view.section.set({ on: true, normal: new Vector3(0, 1, 0), at: 0 });
  assert.equal(picker.at(100, 50, 'faces').body, 'far');
  near(new Vector3(...picker.spotOnCut(104, 47)), [4, 0, 3]);
});

test('a flat face gives its plane, snapped to the axis', () => {
  const { picker } = scene();
  const { point, normal } = picker.planeOf('near', 0);
  assert.equal(point.y, -10);
  near(normal, [0, -1, 0]);
  assert.deepEqual(picker.spanAlong(new Vector3(0, 1, 0)), [-10, 10]);
});
