#!/usr/bin/env bash
# Starts the program with the demo plan; without a display it draws the demo offscreen instead.
set -euo pipefail
cd "$(dirname "$0")/.."
bin="${1:-.venv/bin}"
if [[ -n ${DISPLAY:-} || -n ${WAYLAND_DISPLAY:-} ]]; then
  exec "$bin/woven-locus" demo
fi
echo "No display: drawing six pictures of the demo offscreen, into demo-pictures/ (about half a minute)."
"$bin/python" tools/screenshots.py --out demo-pictures survey ground build-refused ways-route lanes waves-ghost
echo "All views: make screenshots. On a machine with a display the same command opens the window."
