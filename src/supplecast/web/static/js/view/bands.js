// Maps drawn in bands: values at the corners of triangles, even across them, cut into bands by the graphics, with a thin line
// where one band ends.

import { Color, MeshLambertMaterial } from 'three';

const MOST = 10; // bands of a map
const SAME = 1e4; // corners no farther apart than 1/SAME mm are one
const CREASE = 0.87; // cosine: skin that turns by more than 30° is looked at by itself
const STEPS = new Set(['draft', 'spare', 'undercut']); // maps whose values jump from face to face, or only name kinds
const UNJUDGED = { mesh: -99 }; // what places have that are not judged; -1 in all other maps

// How triangles hang together, worked out once for a skin: `of` is the place of each corner, `first` and `at` list the triangles
// round each place.
export function meetings(position) {
  const count = position.length / 3;
  const of = new Int32Array(count);
  const size = 2 ** Math.ceil(Math.log2(count * 2 + 2));
  const slots = new Int32Array(size).fill(-1);
  const keys = new Int32Array(count * 3);
  let places = 0;
  for (let i = 0; i < count; i += 1) {
    const [x, y, z] = [0, 1, 2].map((k) => Math.round(position[i * 3 + k] * SAME));
    let slot = ((x * 73856093) ^ (y * 19349663) ^ (z * 83492791)) & (size - 1);
    for (;;) {
      const held = slots[slot];
      if (held < 0) {
        slots[slot] = places;
        keys.set([x, y, z], places * 3);
        of[i] = places;
        places += 1;
        break;
      }
      if (keys[held * 3] === x && keys[held * 3 + 1] === y && keys[held * 3 + 2] === z) {
        of[i] = held;
        break;
      }
      slot = (slot + 1) & (size - 1);
    }
  }
  const first = new Int32Array(places + 1);
  for (let i = 0; i < count; i += 1) first[of[i] + 1] += 1;
  for (let p = 0; p < places; p += 1) first[p + 1] += first[p];
  const next = first.slice();
  const at = new Int32Array(count);
  for (let i = 0; i < count; i += 1) {
    at[next[of[i]]] = (i / 3) | 0;
    next[of[i]] += 1;
  }
  return { of, first, at };
}

// Values at corners: the mean of the triangles round them, as far as the skin runs on there and they are judged.
export function atCorners(map, values, normals, { of, first, at }) {
  const corners = new Float32Array(values.length * 3);
  const none = UNJUDGED[map] ?? -1;
  const judged = (value) => map === 'heat' || value !== none;
  for (let t = 0; t < values.length; t += 1) {
    const [x, y, z] = [normals[t * 9], normals[t * 9 + 1], normals[t * 9 + 2]];
    for (let k = t * 3; k < t * 3 + 3; k += 1) {
      let sum = 0;
      let shares = 0;
      for (let j = first[of[k]]; !STEPS.has(map) && judged(values[t]) && j < first[of[k] + 1]; j += 1) {
        const other = at[j];
        const along = x * normals[other * 9] + y * normals[other * 9 + 1] + z * normals[other * 9 + 2];
        if (along < CREASE || !judged(values[other])) continue;
        sum += values[other];
        shares += 1;
      }
      corners[k] = shares ? sum / shares : values[t];
    }
  }
  return corners;
}

// A material that draws the attribute `value` in bands {upto, colour, hatch}; with lines between them where a map runs evenly.
export function banded(map, bands) {
  const material = new MeshLambertMaterial({ polygonOffset: true, polygonOffsetFactor: 1, polygonOffsetUnits: 1 });
  const kept = bands.slice(0, MOST);
  const pad = (list, blank) => [...list, ...Array(MOST - list.length).fill(blank)];
  const uniforms = {
    limits: {
      value: pad(
        kept.map((band) => band.upto ?? 1e30),
        1e30,
      ),
    },
    paints: {
      value: pad(
        kept.map((band) => new Color(band.colour)),
        new Color(),
      ),
    },
    hatches: {
      value: pad(
        kept.map((band) => band.hatch),
        0,
      ),
    },
    count: { value: kept.length },
    lined: { value: STEPS.has(map) ? 0 : 1 },
  };
  material.onBeforeCompile = (shader) => {
    Object.assign(shader.uniforms, uniforms);
    shader.vertexShader = `attribute float value;\nvarying float vValue;\n${shader.vertexShader}`.replace(
      '#include <begin_vertex>',
      '#include <begin_vertex>\nvValue = value;',
    );
    // Strokes over the colour, in pixels of the screen, so that they keep their width.
    shader.fragmentShader =
      `uniform float limits[${MOST}]; uniform vec3 paints[${MOST}]; uniform float hatches[${MOST}]; uniform int count;
      uniform float lined; varying float vValue;\n${shader.fragmentShader}`.replace(
        '#include <color_fragment>',
        `#include <color_fragment>
        vec3 paint = paints[0];
        float hatch = hatches[0];
        float off = 1e9;
        for (int i = 0; i < ${MOST - 1}; i++) {
          if (i >= count - 1) break;
          off = min(off, abs(vValue - limits[i]));
          if (vValue > limits[i]) { paint = paints[i + 1]; hatch = hatches[i + 1]; }
        }
        diffuseColor.rgb = paint;
        float across = hatch > 1.5 ? gl_FragCoord.x - gl_FragCoord.y : gl_FragCoord.x + gl_FragCoord.y;
        bool stroke = mod(across, 8.0) < 2.6;
        if (hatch > 2.5) stroke = distance(mod(gl_FragCoord.xy, 6.0), vec2(3.0)) < 1.4;
        if (hatch > 0.5 && stroke) diffuseColor.rgb *= 0.66;
        float line = 1.0 - smoothstep(0.4, 1.2, off / max(fwidth(vValue), 1e-9));
        diffuseColor.rgb *= 1.0 - 0.35 * lined * line;`,
      );
  };
  material.customProgramCacheKey = () => 'banded';
  return material;
}
