#!/usr/bin/env bash
# Builds a wheel into build/wheel and says its size; it must stay under 6 MB.
set -euo pipefail
rm -rf build/wheel build/lib build/bdist.*
.venv/bin/python -m pip wheel --quiet --disable-pip-version-check --no-deps --no-build-isolation -w build/wheel .
wheel=$(ls build/wheel/*.whl)
size=$(stat -c %s "$wheel")
echo "$wheel: $((size / 1000)) kB"
[ "$size" -lt 6000000 ] || { echo "over 6 MB" >&2; exit 1; }
