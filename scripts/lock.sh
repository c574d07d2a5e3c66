#!/usr/bin/env bash
# Writes the lock files from requirements*.in: every release with its hashes, for Python 3.11 to 3.13, and no host.
set -euo pipefail
cd "$(dirname "$0")/.."
for name in requirements requirements-dev requirements-load; do
  .venv/bin/uv pip compile --quiet --universal --python-version 3.11 --generate-hashes \
    --no-header --no-annotate --no-emit-index-url --no-emit-find-links "$name.in" --output-file "$name.lock"
done
.venv/bin/python -m scripts.licences
