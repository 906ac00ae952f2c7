"""Temperature profiles as CSV: a header with `depth_m` (or `depth_ft`) and `temperature_c` (or `temperature_f`)."""

from __future__ import annotations

import csv
import math
from pathlib import Path

import numpy as np

from plumbbob.core.units import FOOT_M
from plumbbob.core.water.profile import Profile
from plumbbob.formats.errors import FormatError


def read_profile(path: Path) -> Profile:
    """
    Read a profile; lines without usable numbers are left out.

    Raises
    ------
    FormatError
        In one line.
    """
    try:
        with path.open(newline="", encoding="utf-8-sig") as file:
            rows = list(csv.DictReader(file))
    except (OSError, UnicodeDecodeError, csv.Error) as exc:
        raise FormatError(path, "", f"cannot be read: {exc}") from exc
    names = set(rows[0]) if rows else set()
    depth_name = next((n for n in ("depth_m", "depth_ft") if n in names), None)
    warm_name = next((n for n in ("temperature_c", "temperature_f") if n in names), None)
    if depth_name is None or warm_name is None:
        raise FormatError(path, "header", "needs depth_m (or depth_ft) and temperature_c (or temperature_f)")
    levels: dict[float, float] = {}
    for row in rows:
        try:
            depth, warm = float(row[depth_name]), float(row[warm_name])
        except (TypeError, ValueError):
            continue
        if math.isfinite(depth) and math.isfinite(warm) and depth >= 0:
            levels[depth * (FOOT_M if depth_name == "depth_ft" else 1.0)] = (
                (warm - 32) / 1.8 if warm_name == "temperature_f" else warm
            )
    if len(levels) < 2:
        raise FormatError(path, "", "has fewer than two usable lines")
    depths = sorted(levels)
    return Profile(depth_m=np.array(depths), temperature_c=np.array([levels[d] for d in depths]))
