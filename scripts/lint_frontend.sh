#!/usr/bin/env bash
# Checks the pages' scripts: faults (eslint), form (prettier), and types against what goes over the wire (tsc).
# Needs node and npm; where they are missing, or npm can fetch nothing, it says so and goes on: running needs neither.
set -euo pipefail
cd "$(dirname "$0")/.."
if ! command -v npm >/dev/null; then
  echo "Not checked: the pages' scripts, since npm is not on this machine."
  exit 0
fi
stamp=frontend/node_modules/.done
want=$(sha256sum <frontend/package-lock.json)
if [ "$(cat "$stamp" 2>/dev/null || true)" != "$want" ]; then
  if ! (cd frontend && npm ci --silent --no-progress); then
    echo "Not checked: the pages' scripts, since npm could not fetch what checks them."
    exit 0
  fi
  echo "$want" >"$stamp"
fi
tools=frontend/node_modules/.bin
scripts="src/supplecast/web/static/js frontend/tests"
"$tools/eslint" --config frontend/eslint.config.js $scripts
"$tools/prettier" --config frontend/.prettierrc.json --log-level warn --check $scripts
"$tools/tsc" --project frontend
