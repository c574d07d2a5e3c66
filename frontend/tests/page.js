// Lets node load the pages' own modules as a browser does: with the import map of the base page.

import { register } from 'node:module';

const STATIC = new URL('../../src/supplecast/web/static/', import.meta.url).href;
const MAP = { three: 'vendor/three.js', 'three-mesh-bvh': 'vendor/three-mesh-bvh.js', alpine: 'vendor/alpine.js' };

const hooks = `
const STATIC = ${JSON.stringify(STATIC)};
const MAP = ${JSON.stringify(MAP)};
export async function resolve(specifier, context, next) {
  if (Object.hasOwn(MAP, specifier)) return { url: STATIC + MAP[specifier], format: 'module', shortCircuit: true };
  const found = await next(specifier, context);
  return found.url.startsWith(STATIC) ? { ...found, format: 'module' } : found;
}`;

register(`data:text/javascript,${encodeURIComponent(hooks)}`);
