// What a body wears: the materials of its finishes, by face. In plain styles a finish is its colour; finished, it is lit as it
// would be: matt or glossy, clear, frosted, of metal, etched.

import { Color, DoubleSide, FrontSide, MeshLambertMaterial, MeshPhysicalMaterial } from 'three';
import { COLOURS } from '../facts.js';

const PLAIN = { kind: 'solid', gloss: 0.35, tint: 0.2, grain: 'none' };
const SEEN_THROUGH = { clear: 0.26, frosted: 0.62 };
const GRAINS = { fine: [3.2, 0.16], coarse: [1.1, 0.3] }; // waves to a mm, and how far they turn the light

// The finish of all of a body, its own colour or that of its role where it has none.
export function finishOf(body) {
  return body.finish || { ...PLAIN, colour: body.look?.colour || COLOURS[body.role] || COLOURS.part };
}

// Lay the faces of a body's triangles out by finish: the finishes, the first of them that of all the rest.
export function sorted(body, geometry) {
  const { faces, read } = geometry;
  const finishes = [finishOf(body), ...(body.areas || []).map((area) => area.finish)];
  faces.clearGroups();
  if (finishes.length === 1) return finishes;
  const of = new Int32Array(read.faceEnds.length);
  body.areas.forEach((area, index) => area.faces.forEach((face) => (of[face] = index + 1)));
  let start = 0;
  of.forEach((finish, face) => {
    const end = read.faceEnds[face] * 3;
    if (face + 1 < of.length && of[face + 1] === finish) return;
    if (end > start) faces.addGroup(start, end - start, finish);
    start = end;
  });
  return finishes;
}

// The colour that something clear lets through: white, tinted.
function tinted({ colour, tint, kind }) {
  const own = new Color(colour);
  return kind in SEEN_THROUGH ? new Color('#ffffff').lerp(own, Math.min(1, 0.25 + tint)) : own;
}

export function plain(finish) {
  return settle(new MeshLambertMaterial({ color: tinted(finish) }), finish);
}

export function finished(finish) {
  const { kind, gloss, grain } = finish;
  const material = new MeshPhysicalMaterial({
    color: tinted(finish),
    metalness: kind === 'metal' ? 1 : 0,
    roughness: Math.max(0.04, (kind === 'frosted' ? 1.1 : 1) * (1 - gloss) ** 1.2),
    clearcoat: kind === 'solid' && gloss > 0.8 ? (gloss - 0.8) * 3 : 0,
    clearcoatRoughness: 0.08,
  });
  if (grain in GRAINS) etch(material, ...GRAINS[grain]);
  return settle(material, finish);
}

function settle(material, finish) {
  Object.assign(material, { polygonOffset: true, polygonOffsetFactor: 1, polygonOffsetUnits: 1 });
  material.userData.through = SEEN_THROUGH[finish.kind] || 0;
  return material;
}

// Bring a material up to date: `through` is how much of it is seen where all of the body is to be seen through, else 0.
export function dress(material, { through, open, planes }) {
  const share = through || material.userData.through;
  material.transparent = share > 0;
  material.opacity = share || 1;
  material.depthWrite = !share;
  material.side = share || open ? DoubleSide : FrontSide;
  material.clippingPlanes = planes;
  material.needsUpdate = true;
}

// Small waves of the skin, in mm of the model, that turn the light; seen from afar they even out.
function etch(material, waves, depth) {
  material.onBeforeCompile = (shader) => {
    shader.vertexShader = `varying vec3 vSpot;\n${shader.vertexShader}`.replace(
      '#include <begin_vertex>',
      '#include <begin_vertex>\nvSpot = position;',
    );
    shader.fragmentShader = `varying vec3 vSpot;
      vec3 mixed3(vec3 p) {
        p = fract(p * vec3(0.1031, 0.1030, 0.0973));
        p += dot(p, p.yxz + 33.33);
        return fract((p.xxy + p.yxx) * p.zyx) - 0.5;
      }
      vec3 bumps(vec3 p) {
        vec3 cell = floor(p), f = fract(p);
        f = f * f * (3.0 - 2.0 * f);
        vec3 sum = vec3(0.0);
        for (int i = 0; i < 8; i++) {
          vec3 corner = vec3(float(i & 1), float((i >> 1) & 1), float(i >> 2));
          vec3 w = mix(1.0 - f, f, corner);
          sum += mixed3(cell + corner) * w.x * w.y * w.z;
        }
        return sum;
      }
      ${shader.fragmentShader}`.replace(
      '#include <normal_fragment_maps>',
      `#include <normal_fragment_maps>
      vec3 spot = vSpot * ${waves.toFixed(2)};
      float seen = 1.0 - smoothstep(0.35, 1.6, length(fwidth(spot)));
      normal = normalize(normal + ${depth.toFixed(2)} * seen * 2.0 * bumps(spot));
      roughnessFactor = clamp(roughnessFactor + ${(depth * 0.8).toFixed(2)} * (1.0 - seen), 0.0, 1.0);`,
    );
  };
  material.customProgramCacheKey = () => `etched ${waves}`;
}
