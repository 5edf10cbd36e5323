#!/usr/bin/env bash
# What the tests need of Debian: a browser, second PDF engines, a slow clock, Redis, strace, and the kernel's sample models.
set -euo pipefail
need=()
[ -x /usr/bin/chromium ] || need+=(chromium)
command -v qpdf >/dev/null || need+=(qpdf)
command -v faketime >/dev/null || need+=(faketime)
command -v redis-server >/dev/null || need+=(redis-server)
command -v strace >/dev/null || need+=(strace)
command -v pdftoppm >/dev/null || need+=(poppler-utils)
[ -d /usr/share/opencascade/data/step ] || need+=(occt-misc)
if [ ${#need[@]} -gt 0 ]; then
  root=$([ "$(id -u)" = 0 ] || echo sudo)
  export DEBIAN_FRONTEND=noninteractive
  $root apt-get update -qq
  $root apt-get install -y -qq --no-install-recommends "${need[@]}" >/dev/null
fi
