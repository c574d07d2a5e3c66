// Lines drawn in the view, and putting them away.

import { BufferAttribute, BufferGeometry, LineBasicMaterial, LineSegments } from 'three';

// A cross at a place of the model.
export function crossAt(place, size) {
  return [0, 1, 2].map((axis) => [-1, 1].map((sign) => place.map((c, i) => (i === axis ? c + sign * size : c))));
}

export function strokes(lines, color, opacity) {
  const points = lines.flatMap((line) => line.slice(1).flatMap((point, i) => [...line[i], ...point]));
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', new BufferAttribute(new Float32Array(points), 3));
  const drawn = new LineSegments(
    geometry,
    new LineBasicMaterial({ color, depthTest: false, transparent: true, opacity }),
  );
  drawn.renderOrder = 700;
  return drawn;
}

export function share(geometry) {
  const part = new BufferGeometry();
  for (const [name, attribute] of Object.entries(geometry.attributes)) part.setAttribute(name, attribute);
  part.setIndex(geometry.index);
  return part;
}

export function clear(group, withGeometry = true) {
  for (const part of [...group.children]) {
    group.remove(part);
    part.material.dispose();
    if (withGeometry) part.geometry.dispose();
  }
}
