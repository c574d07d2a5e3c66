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

python=$(command -v python3.11 || command -v python3 || true)
if [ -z "$python" ]; then apt_need python3 python3-venv; python=$(command -v python3); fi
if ! "$python" -c 'import sys; sys.exit(sys.version_info[:2] != (3, 11))'; then
  echo "Supple Cast needs Python 3.11; found $("$python" --version)." >&2
  exit 1
fi
"$python" -c 'import ensurepip, venv' 2>/dev/null || apt_need python3-venv

has_library() { ldconfig -p 2>/dev/null | grep -q "$1" || ls /usr/lib/*/"$1" >/dev/null 2>&1; }
missing=()
has_library libGL.so.1 || missing+=(libgl1)
has_library libX11.so.6 || missing+=(libx11-6)
if [ "$what" = dev ] && ! command -v chromium >/dev/null; then missing+=(chromium); fi
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
