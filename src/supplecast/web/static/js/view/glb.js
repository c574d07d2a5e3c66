// Reads the GLB files of bodies: plain views on the buffer, with the ranges of faces and edges that the server adds.

export function readGlb(buffer) {
  const head = new DataView(buffer);
  const textLength = head.getUint32(12, true);
  const content = JSON.parse(new TextDecoder().decode(new Uint8Array(buffer, 20, textLength)));
  const start = 20 + textLength + 8;
  const read = (index, Kind, width) => {
    const accessor = content.accessors[index];
    const view = content.bufferViews[accessor.bufferView];
    return new Kind(buffer, start + view.byteOffset, accessor.count * width);
  };
  const arrays = {
    faceEnds: [],
    edgeEnds: [],
    points: null,
    normals: null,
    triangles: null,
    segments: new Float32Array(),
  };
  for (const part of content.meshes[0].primitives) {
    if (part.mode === 1) {
      arrays.segments = read(part.attributes.POSITION, Float32Array, 3);
      arrays.edgeEnds = part.extras.edgeEnds;
    } else {
      arrays.points = read(part.attributes.POSITION, Float32Array, 3);
      arrays.normals = read(part.attributes.NORMAL, Float32Array, 3);
      arrays.triangles = read(part.indices, Uint32Array, 1);
      arrays.faceEnds = part.extras.faceEnds;
    }
  }
  return arrays;
}

// Number of the range that holds `position`, by its ends.
export function rangeOf(ends, position) {
  let low = 0;
  let high = ends.length - 1;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (ends[middle] > position) high = middle;
    else low = middle + 1;
  }
  return low;
}
