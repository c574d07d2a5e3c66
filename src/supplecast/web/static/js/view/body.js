// A body's triangles and edges made ready for drawing, from the file they came in.

import { BufferAttribute, BufferGeometry } from 'three';
import { MeshBVH } from 'three-mesh-bvh';
import { readGlb } from './glb.js';

export async function loadBody(name) {
  const response = await fetch(`/api/blobs/${name}`);
  if (!response.ok) throw new Error('The shape could not be fetched.');
  const read = readGlb(await response.arrayBuffer());
  const faces = new BufferGeometry();
  faces.setAttribute('position', new BufferAttribute(read.points, 3));
  faces.setAttribute('normal', new BufferAttribute(read.normals, 3));
  faces.setIndex(new BufferAttribute(read.triangles, 1));
  faces.boundsTree = new MeshBVH(faces, { indirect: true });
  const edges = new BufferGeometry();
  edges.setAttribute('position', new BufferAttribute(read.segments, 3));
  edges.setAttribute('run', new BufferAttribute(runs(read.segments), 3));
  edges.setAttribute('lineDistance', new BufferAttribute(lengths(read.segments, read.edgeEnds), 1));
  return { faces, edges, read };
}

// How far each end of a segment is from its other end.
function runs(segments) {
  const towards = new Float32Array(segments.length);
  for (let i = 0; i < segments.length; i += 6) {
    for (let k = 0; k < 3; k += 1) {
      towards[i + k] = segments[i + 3 + k] - segments[i + k];
      towards[i + 3 + k] = -towards[i + k];
    }
  }
  return towards;
}

// Segments seen end-on are no larger than a pixel or two, whose depth the graphics then take from far beyond their ends: specks would
// shine through the faces before them. They are left out.
export function withoutDust(material) {
  material.onBeforeCompile = (shader) => {
    shader.vertexShader = shader.vertexShader
      .replace('#include <common>', '#include <common>\nattribute vec3 run;')
      .replace(
        '#include <project_vertex>',
        `#include <project_vertex>
        vec4 across = modelViewMatrix * vec4(run, 0.0);
        bool endOn = abs(across.z) > 7.0 * length(across.xy) && length((projectionMatrix * across).xy) < 0.006;
        if (endOn) gl_Position = vec4(0.0, 0.0, 2.0, 1.0);`,
      );
  };
  return material;
}

// Running length along each edge, for dashes.
function lengths(segments, ends) {
  const sums = new Float32Array(segments.length / 3);
  let start = 0;
  for (const end of ends) {
    let sum = 0;
    for (let i = start; i < end; i += 2) {
      const a = i * 3;
      sums[i] = sum;
      sum += Math.hypot(
        segments[a + 3] - segments[a],
        segments[a + 4] - segments[a + 1],
        segments[a + 5] - segments[a + 2],
      );
      sums[i + 1] = sum;
    }
    start = end;
  }
  return sums;
}
