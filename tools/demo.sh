#!/usr/bin/env bash
# Starts the program with the demo plan; without a display it draws the demo offscreen instead.
set -euo pipefail
cd "$(dirname "$0")/.."
bin="${1:-.venv/bin}"
if [[ -n ${DISPLAY:-} || -n ${WAYLAND_DISPLAY:-} ]]; then
  exec "$bin/woven-locus" demo
fi
echo "No display: drawing the demo offscreen."
"$bin/python" tools/screenshots.py --out demo-pictures
