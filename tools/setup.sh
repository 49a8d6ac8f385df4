#!/usr/bin/env bash
# Sets up a virtual environment and the system libraries that Qt needs. Run by `make`.
set -euo pipefail
cd "$(dirname "$0")/.."
PYTHON="${PYTHON:-python3}"
VENV="${VENV:-.venv}"

# What Qt's xcb platform plugin and its offscreen twin load, and a font.
packages=(
  fontconfig fonts-dejavu-core libdbus-1-3 libegl1 libfontconfig1 libgl1 libglib2.0-0
  libx11-xcb1 libxcb-cursor0 libxcb-icccm4 libxcb-image0 libxcb-keysyms1 libxcb-randr0
  libxcb-render-util0 libxcb-render0 libxcb-shape0 libxcb-shm0 libxcb-sync1 libxcb-util1
  libxcb-xfixes0 libxcb-xkb1 libxkbcommon-x11-0 libxkbcommon0
)
# The bare venv of a distribution's Python lacks pip until python3-venv is there.
if ! "$PYTHON" -c 'import ensurepip, venv' 2>/dev/null; then packages+=(python3-venv); fi

missing=()
if command -v dpkg-query >/dev/null; then
  for package in "${packages[@]}"; do
    dpkg-query -W -f='${Status}' "$package" 2>/dev/null | grep -q 'ok installed' || missing+=("$package")
  done
fi
if ((${#missing[@]})); then
  sudo=""
  if [[ $(id -u) -ne 0 ]]; then sudo="sudo -n"; fi
  if command -v apt-get >/dev/null && { [[ -z $sudo ]] || $sudo true 2>/dev/null; }; then
    echo "Installing system packages: ${missing[*]}"
    export DEBIAN_FRONTEND=noninteractive
    $sudo apt-get update -q
    $sudo apt-get install -y -q --no-install-recommends "${missing[@]}"
  else
    echo "These system packages are missing, and this user may not install them:" >&2
    echo "    ${missing[*]}" >&2
    echo "Have an administrator run: apt-get install ${missing[*]}" >&2
    exit 1
  fi
fi

if ! "$PYTHON" -c 'import sys; sys.exit(sys.version_info < (3, 11))'; then
  echo "Python 3.11 or newer is needed; $PYTHON is $("$PYTHON" --version 2>&1). Try: make PYTHON=python3.11" >&2
  exit 1
fi
if [[ ! -x $VENV/bin/python ]]; then
  echo "Making the virtual environment in $VENV"
  "$PYTHON" -m venv "$VENV"
fi
"$VENV/bin/python" -m pip install -q --disable-pip-version-check -c constraints.txt -e '.[dev]'
# Where Python is told to write no byte code, every start would compile the source anew.
"$VENV/bin/python" -m compileall -q src
echo "Compiling the kernels, once (less than a minute on two slow cores)"
"$VENV/bin/python" -m woven_locus.kernel_cache
