#!/usr/bin/env bash
# Make the virtual environment; where Debian's Python came without its venv package, install that first.
set -euo pipefail
python=$1 folder=$2
command -v "$python" >/dev/null || python=python3
"$python" -c 'import sys; sys.exit(sys.version_info[:2] != (3, 11))' || { echo "Python 3.11 is needed" >&2; exit 1; }
if ! "$python" -c 'import ensurepip' 2>/dev/null; then
  root=$([ "$(id -u)" = 0 ] || echo sudo)
  $root apt-get update -qq && $root apt-get install -y -qq python3.11-venv
fi
[ -x "$folder/bin/python" ] || "$python" -m venv "$folder"
"$folder/bin/python" -m pip install --quiet --disable-pip-version-check --require-hashes -r requirements/build.lock
