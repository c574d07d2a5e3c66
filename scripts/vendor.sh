#!/usr/bin/env bash
# Rebuilds what is vendored under web/static from pinned npm packages. Only needed when a template or a package changes.
set -euo pipefail
cd "$(dirname "$0")/../frontend"
static=../src/supplecast/web/static
[ -d node_modules ] || npm ci --silent
if [ "${1:-all}" = all ]; then
  bundle() { npx esbuild "$@" --bundle --minify --format=esm --legal-comments=none --log-level=warning; }
  echo 'export * from "three";' > .three.js && bundle .three.js --outfile=$static/vendor/three.js
  echo 'export * from "three-mesh-bvh";' > .bvh.js && bundle .bvh.js --external:three --outfile=$static/vendor/three-mesh-bvh.js
  echo 'export { default } from "@alpinejs/csp";' > .alpine.js && bundle .alpine.js --outfile=$static/vendor/alpine.js
  rm -f .three.js .bvh.js .alpine.js
  for weight in 400 500 600; do
    cp "node_modules/@fontsource/barlow/files/barlow-latin-$weight-normal.woff2" $static/fonts/
    cp "node_modules/@fontsource/barlow-semi-condensed/files/barlow-semi-condensed-latin-$weight-normal.woff2" $static/fonts/
  done
  cp node_modules/three/LICENSE $static/vendor/three.LICENSE
  cp node_modules/three-mesh-bvh/LICENSE $static/vendor/three-mesh-bvh.LICENSE
  cp node_modules/@fontsource/barlow/LICENSE $static/fonts/barlow.LICENSE
fi
npx @tailwindcss/cli --input app.css --output $static/app.css --minify
