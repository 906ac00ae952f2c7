"""
Temperature and oxygen profiles as CSV or as pasted text.

A header with `depth_m` (or `depth_ft`), `temperature_c` (or `temperature_f`) and, if known, `oxygen_mgl`; text that
is pasted or typed may do without a header: depth, temperature, oxygen in the units on screen.
"""

from __future__ import annotations

import math
import re
from pathlib import Path

import numpy as np

from plumbbob.core.units import FOOT_M
from plumbbob.core.water.profile import Profile
from plumbbob.files.atomic import write_text
from plumbbob.files.errors import FileError
from plumbbob.files.kinds import read_text

_MOST_BYTES = 20_000_000


def read_profile(path: Path) -> Profile:
    """
    Read a profile; lines without usable numbers are left out.

    Raises
    ------
    FileError
        In one line.
    """
    text = read_text(path, _MOST_BYTES, encoding="utf-8-sig")
    if not any(name in text.lower() for name in ("depth_m", "depth_ft")):
        raise FileError(path, "header", "needs depth_m (or depth_ft) and temperature_c (or temperature_f)")
    try:
        return parse_profile(text)
    except ValueError as exc:
        raise FileError(path, "", str(exc)) from exc


def parse_profile(text: str, *, feet: bool = False, fahrenheit: bool = False) -> Profile:
    """
    A profile from text: with a header as in the files, or plain lines of depth, temperature and perhaps oxygen.

    Parameters
    ----------
    text : str
    feet, fahrenheit : bool
        Units of lines without a header.

    Raises
    ------
    ValueError
        With one line that says what is missing.

    Examples
    --------
    >>> p = parse_profile(chr(10).join(["0 21.5", "4; 21,3", "8 12 5.5"]))
    >>> p.depth_m.tolist(), p.temperature_c.tolist(), p.oxygen_mgl.tolist()[2]
    ([0.0, 4.0, 8.0], [21.5, 21.3, 12.0], 5.5)
    """
    lines = [line.strip() for line in text.splitlines() if line.strip()]
    if not lines:
        raise ValueError("there is nothing to read")
    head = [h.strip().lower() for h in re.split(r"[,;\t]", lines[0])]
    names = dict.fromkeys(head)
    at = {"depth": 0, "warm": 1, "oxygen": 2}
    has_head = bool(re.search(r"[a-z]{3,}", lines[0].lower()))
    if has_head:
        depth = next((n for n in ("depth_m", "depth_ft") if n in names), None)
        warm = next((n for n in ("temperature_c", "temperature_f") if n in names), None)
        if depth is None or warm is None:
            raise ValueError("the header needs depth_m (or depth_ft) and temperature_c (or temperature_f)")
        feet, fahrenheit = depth == "depth_ft", warm == "temperature_f"
        at = {"depth": head.index(depth), "warm": head.index(warm), "oxygen": -1}
        at["oxygen"] = head.index("oxygen_mgl") if "oxygen_mgl" in names else -1
        lines = lines[1:]
    levels: dict[float, tuple[float, float]] = {}
    for line in lines:
        numbers = _numbers(line, has_head)
        if len(numbers) <= max(at["depth"], at["warm"]):
            continue
        d, t = numbers[at["depth"]], numbers[at["warm"]]
        air = numbers[at["oxygen"]] if 0 <= at["oxygen"] < len(numbers) else math.nan
        if math.isfinite(d) and math.isfinite(t) and 0 <= d < 2000:
            t = (t - 32) / 1.8 if fahrenheit else t
            if -3.0 <= t <= 45.0:
                levels[d * (FOOT_M if feet else 1.0)] = (t, air if 0 <= air < 30 else math.nan)
    if len(levels) < 2:
        raise ValueError("fewer than two lines with a depth and a temperature")
    depths = sorted(levels)
    oxygen = np.array([levels[d][1] for d in depths])
    return Profile(
        depth_m=np.array(depths),
        temperature_c=np.array([levels[d][0] for d in depths]),
        oxygen_mgl=oxygen if np.isfinite(oxygen).any() else None,
    )


def _numbers(line: str, table: bool) -> list[float]:
    """Numbers of a line; a comma parts columns in a table and decimals elsewhere."""
    parts = re.split(r"[,;\t]", line) if table and ";" not in line else re.split(r"[;\t\s]+", line)
    out = []
    for part in parts:
        try:
            out.append(float(part.strip().replace(",", ".").replace("−", "-")))
        except ValueError:
            out.append(math.nan)
    return out


def write_profile(path: Path, profile: Profile, *, private: bool = False) -> None:
    """A profile as CSV, whole or not at all."""
    oxygen = np.full(profile.depth_m.size, np.nan) if profile.oxygen_mgl is None else profile.oxygen_mgl
    rows = ["depth_m,temperature_c,oxygen_mgl"]
    for d, t, o in zip(profile.depth_m, profile.temperature_c, oxygen, strict=True):
        rows.append(f"{d:.2f},{t:.2f},{o:.2f}" if math.isfinite(o) else f"{d:.2f},{t:.2f},")
    write_text(path, "\n".join(rows) + "\n", private=private)
