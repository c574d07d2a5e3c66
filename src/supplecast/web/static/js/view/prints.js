// Pictures printed on bodies: skins cut to what each covers, drawn right over the body, the later over the earlier.

import {
  BufferAttribute,
  BufferGeometry,
  Color,
  DoubleSide,
  FrontSide,
  LinearFilter,
  LinearMipmapLinearFilter,
  Mesh,
  MeshLambertMaterial,
  MeshStandardMaterial,
  SRGBColorSpace,
  TextureLoader,
} from 'three';

const ROW = 9; // floats a corner: place, normal, place in the picture, stretch
const KEPT = 40;
/** How far a print is stretched, by share, in the colours of the maps. @type {[number, string, string][]} */
export const STRETCHES = [
  [0.01, '#D9C7A3', 'up to 1 %'],
  [0.03, '#9CC3DC', '1 to 3 %'],
  [0.1, '#E3A93F', '3 to 10 %'],
  [Infinity, '#B93623', 'more than 10 %'],
];

const skins = new Map();
const pictures = new Map();

function kept(held, name, make) {
  if (!held.has(name)) {
    for (const old of [...held.keys()].slice(0, -KEPT)) held.delete(old);
    held.set(name, make(name));
  }
  return held.get(name);
}

async function readSkin(name) {
  const response = await fetch(`/api/blobs/${name}`);
  if (!response.ok) throw new Error('The print could not be fetched.');
  const rows = new Float32Array(await response.arrayBuffer());
  const count = rows.length / ROW;
  const [position, normal, uv] = [3, 3, 2].map((width) => new Float32Array(count * width));
  const colour = new Float32Array(count * 3);
  const bands = STRETCHES.map(([, paint]) => new Color(paint));
  for (let i = 0; i < count; i += 1) {
    const row = rows.subarray(i * ROW, (i + 1) * ROW);
    position.set(row.subarray(0, 3), i * 3);
    normal.set(row.subarray(3, 6), i * 3);
    uv.set([row[6], 1 - row[7]], i * 2);
    const band = bands[STRETCHES.findIndex(([upto]) => row[8] <= upto)];
    colour.set([band.r, band.g, band.b], i * 3);
  }
  return { position, normal, uv, colour };
}

async function readPicture(name) {
  const texture = await new TextureLoader().loadAsync(`/api/blobs/${name}`);
  texture.colorSpace = SRGBColorSpace;
  texture.minFilter = LinearMipmapLinearFilter;
  texture.magFilter = LinearFilter;
  texture.anisotropy = 8;
  return texture;
}

// The prints of a body, fetched: null where it has none.
export async function loadPrints(body) {
  return Promise.all(
    (body.prints || []).map(async (print) => ({
      ...print,
      rows: await kept(skins, print.skin, readSkin),
      map: print.strained ? null : await kept(pictures, print.picture, readPicture),
    })),
  );
}

// Meshes of prints, to be put with the body they are on.
export function printed(loaded, studio) {
  return loaded.map(({ rows, map }, index) => {
    const geometry = new BufferGeometry();
    geometry.setAttribute('position', new BufferAttribute(rows.position, 3));
    geometry.setAttribute('normal', new BufferAttribute(rows.normal, 3));
    geometry.setAttribute('uv', new BufferAttribute(rows.uv, 2));
    if (!map) geometry.setAttribute('color', new BufferAttribute(rows.colour, 3));
    const inks = { map, vertexColors: !map, transparent: true, alphaTest: 0.004, depthWrite: false };
    const material = studio ? new MeshStandardMaterial({ ...inks, roughness: 0.5 }) : new MeshLambertMaterial(inks);
    Object.assign(material, { polygonOffset: true, polygonOffsetFactor: -1 - index, polygonOffsetUnits: -1 - index });
    const mesh = new Mesh(geometry, material);
    mesh.renderOrder = 510 + index;
    return mesh;
  });
}

export function dressPrint({ material }, { open, planes }) {
  material.clippingPlanes = planes;
  material.side = open ? DoubleSide : FrontSide;
  material.needsUpdate = true;
}
