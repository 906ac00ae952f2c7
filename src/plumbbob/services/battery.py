"""How long this computer's battery lasts, as the kernel tells it."""

from __future__ import annotations

import math
from pathlib import Path

POWER = Path("/sys/class/power_supply")
_PAIRS = (("energy_now", "power_now"), ("charge_now", "current_now"))


def seconds_left(folder: Path = POWER) -> float:
    """
    Until all batteries that are being emptied are empty, seconds; NaN with mains, without a battery, or where untold.

    Parameters
    ----------
    folder : Path
        Where the kernel keeps what it knows of power: a folder for each battery.
    """
    found = []
    for battery in sorted(folder.glob("BAT*")):
        if _text(battery / "status") != "Discharging":
            continue
        for kept, used in _PAIRS:
            holds, takes = _number(battery / kept), _number(battery / used)
            if takes > 0.0 and math.isfinite(holds):
                found.append(3600.0 * holds / takes)
                break
    return max(found, default=math.nan)


def _text(path: Path) -> str:
    try:
        return path.read_text(encoding="ascii", errors="replace").strip()
    except OSError:
        return ""


def _number(path: Path) -> float:
    try:
        return float(_text(path))
    except ValueError:
        return math.nan
