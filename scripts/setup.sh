#!/usr/bin/env bash
# Sets up the virtual environment, and the few system packages it leans on. Does nothing when all is in place.
#   setup.sh run    what the program needs
#   setup.sh dev    also what tests and checks need
set -euo pipefail
cd "$(dirname "$0")/.."
what=${1:-run}

apt_need() { # apt_need PACKAGE...: install, or say how
  if [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null; then
    echo "Installing $* ..."
    apt-get update -qq || true
    DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "$@" >/dev/null
  else
    echo "Please run once:  sudo apt-get install $*" >&2
    exit 1
  fi
}

# Wheels of the geometry kernel are there for these; tried with all three.
python=$(command -v python3.11 || command -v python3.12 || command -v python3.13 || command -v python3 || true)
if [ -z "$python" ]; then apt_need python3 python3-venv; python=$(command -v python3); fi
if ! "$python" -c 'import sys; sys.exit(not (3, 11) <= sys.version_info[:2] <= (3, 13))'; then
  echo "Supple Cast needs Python 3.11, 3.12 or 3.13; found $("$python" --version)." >&2
  exit 1
fi
"$python" -c 'import ensurepip, venv' 2>/dev/null || apt_need python3-venv

has_library() { ldconfig -p 2>/dev/null | grep -q "$1" || ls /usr/lib/*/"$1" >/dev/null 2>&1; }
missing=()
has_library libGL.so.1 || missing+=(libgl1)
has_library libX11.so.6 || missing+=(libx11-6)
if [ "$what" = dev ]; then
  command -v chromium >/dev/null || missing+=(chromium)
  command -v node >/dev/null || missing+=(nodejs)
fi
if [ ${#missing[@]} -gt 0 ]; then apt_need "${missing[@]}"; fi

lock=requirements.lock
[ "$what" = dev ] && lock=requirements-dev.lock
stamp=.venv/.done-$what
want=$(cat "$lock" pyproject.toml | sha256sum)
if [ "$(cat "$stamp" 2>/dev/null || true)" != "$want" ]; then
  [ -x .venv/bin/python ] || "$python" -m venv .venv
  echo "Installing pinned packages from $lock ..."
  .venv/bin/python -m pip install --quiet --disable-pip-version-check -r "$lock"
  .venv/bin/python -m pip install --quiet --disable-pip-version-check --no-build-isolation --no-deps -e .
  echo "Compiling what lays triangles and searches among them, once ..."
  .venv/bin/python -c 'import supplecast.workers.warm'
  echo "$want" > "$stamp"
fi
