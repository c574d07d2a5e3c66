#!/usr/bin/env bash
# Changes a module in many small ways, one at a time, and names every change that no test notices: the survivors.
#   mutate.sh supplecast.molding.estimates tests/test_formulas.py
# What stands in functions is changed by mutmut; tables and constants of the module by scripts/constants.py.
set -euo pipefail
cd "$(dirname "$0")/.."
module=$1 tests=${2:-tests/test_formulas.py}
root=$PWD
work=build/mutate
rm -rf "$work"
mkdir -p "$work"
cp -r src tests "$work/"
cat >"$work/pyproject.toml" <<END
[tool.mutmut]
source_paths = ["src/"]
only_mutate = ["src/${module//./\/}.py"]
pytest_add_cli_args = ["-p", "no:cacheprovider", "--noconftest"]
pytest_add_cli_args_test_selection = ["$tests"]
also_copy = ["src", "tests"]
END
cd "$work"
"$root/.venv/bin/mutmut" run --max-children 2 >mutmut.log 2>&1 || { tail -20 mutmut.log; exit 1; }
tr '\r' '\n' <mutmut.log | grep -E '[0-9]+/[0-9]+' | tail -1
"$root/.venv/bin/mutmut" results | sed 's/ *\(.*\): \(.*\)/\1 \2/' | while read -r name state; do
  echo "--- $name: $state"
  "$root/.venv/bin/mutmut" show "$name" 2>/dev/null | grep '^[-+] ' || true
done
PYTHONPATH="$PWD/src:$PWD" "$root/.venv/bin/python" "$root/scripts/constants.py" "$module" "$tests"
