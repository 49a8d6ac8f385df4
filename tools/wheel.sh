#!/usr/bin/env bash
# Builds a wheel in dist/ with the kernels compiled, for this version of Python and this kind of processor. Elsewhere it
# works as well as any other wheel: kernels are compiled there once. Run by `make wheel`.
set -euo pipefail
cd "$(dirname "$0")/.."
bin="$1"
stage="build/wheel"

rm -rf "$stage"
mkdir -p "$stage" dist
git ls-files -z -- src docs/guide docs/screenshots README.md LICENSE pyproject.toml | xargs -0 cp --parents -t "$stage"
echo "Compiling the kernels"
PYTHONPATH="$PWD/$stage/src" "$bin/python" -m woven_locus.kernel_cache --into "$stage/src/woven_locus/compiled_kernels"
"$bin/python" -m pip wheel -q --disable-pip-version-check --no-deps --no-build-isolation -w "$stage/out" "$stage"
wheel="$(echo "$stage"/out/*.whl)"
cp "$wheel" dist/
echo "dist/${wheel##*/}"
