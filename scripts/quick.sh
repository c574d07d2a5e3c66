#!/usr/bin/env bash
# The everyday loop, under two minutes: lint of what changed, then the tests that need no browser and are quick: the core,
# the API's contract, random documents and the test bed of names. `make test` runs the rest too.
set -euo pipefail
cd "$(dirname "$0")/.."
changed() { git diff --name-only --diff-filter=d HEAD -- "$@"; git ls-files --others --exclude-standard -- "$@"; }
python=$(changed '*.py' | sort -u)
if [ -n "$python" ]; then
  .venv/bin/ruff check $python
  .venv/bin/ruff format --check $python
  .venv/bin/mypy
  .venv/bin/lint-imports
fi
scripts=$(changed 'src/supplecast/web/static/js' 'frontend/tests')
[ -z "$scripts" ] || scripts/lint_frontend.sh
pages=$(changed 'src/supplecast/web/templates')
[ -z "$pages" ] || .venv/bin/djlint --lint --quiet src/supplecast/web/templates
.venv/bin/python -m pytest --numprocesses auto --dist loadfile --no-loadscope-reorder -m "not browser and not slow"
