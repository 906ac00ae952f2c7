#!/usr/bin/env bash
# Everything that must hold before a commit. Arguments go to pytest.
set -euo pipefail
cd -- "$(dirname -- "${BASH_SOURCE[0]}")/.."
BIN=.venv/bin
export QT_QPA_PLATFORM=${QT_QPA_PLATFORM:-offscreen} LC_ALL=C.UTF-8 TZ=UTC PYTHONDONTWRITEBYTECODE=1
$BIN/ruff check src tests tools
$BIN/mypy
$BIN/lint-imports --no-cache
exec $BIN/python -m pytest -n 2 --dist loadfile "$@"
