"""A finished grid beside its soundings, so that a water opens at once; made anew whenever they have changed."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Sequence
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from plumbbob.core.chart.frame import Frame
from plumbbob.core.chart.grid import Grid
from plumbbob.core.chart.soundings import CleanSettings, Fault

NAME = "grid.npz"
_VERSION = 2
_FIELDS = ("depth_m", "sd_m", "count", "total", "surface_m")


@dataclass(frozen=True, slots=True, eq=False)
class Kept:
    """A finished grid with its plane, land and counts."""

    epsg: int
    grid: Grid
    land: NDArray[np.bool_]
    used: int
    left_out: dict[Fault, int]


def key_of(sources: Sequence[Path], cleaning: CleanSettings) -> str:
    """What a grid was made from: names, sizes and times of its files, and how they were cleaned."""
    parts: list[Any] = [_VERSION, sorted(int(f) for f in cleaning.look_for)]
    parts += [cleaning.draft_m, cleaning.level_m, cleaning.sound_speed_ratio]
    for path in sources:
        facts = path.stat()
        parts.append((path.name, facts.st_size, facts.st_mtime_ns))
    return hashlib.sha256(json.dumps(parts).encode()).hexdigest()


def save_grid(path: Path, key: str, kept: Kept) -> None:
    """Keep a grid; whole or not at all."""
    grid = kept.grid
    about = {
        "key": key,
        "epsg": kept.epsg,
        "frame": asdict(grid.frame),
        "spacing_m": grid.spacing_m,
        "reach_m": grid.reach_m,
        "noise": grid.noise,
        "doubt": grid.doubt,
        "used": kept.used,
        "left_out": {int(k): v for k, v in kept.left_out.items()},
    }
    partial = path.with_name(path.name + ".part")
    try:
        with partial.open("wb") as file:
            fields = {n: getattr(grid, n) for n in _FIELDS}
            np.savez(file, about=np.array(json.dumps(about)), land=kept.land, **fields)
        partial.replace(path)
    finally:
        partial.unlink(missing_ok=True)


def load_grid(path: Path, key: str) -> Kept | None:
    """The kept grid; None if there is none, or one of other soundings."""
    if not path.exists():
        return None
    try:
        with np.load(path, allow_pickle=False) as file:
            about = json.loads(str(file["about"]))
            if about["key"] != key:
                return None
            fields = {n: file[n] for n in _FIELDS}
            land = file["land"]
        grid = Grid(
            frame=Frame(**about["frame"]),
            spacing_m=about["spacing_m"],
            reach_m=about["reach_m"],
            noise=(about["noise"][0], about["noise"][1]),
            doubt=(about["doubt"][0], about["doubt"][1], about["doubt"][2]),
            **fields,
        )
        left_out = {Fault(int(k)): int(v) for k, v in about["left_out"].items()}
        return Kept(int(about["epsg"]), grid, land, int(about["used"]), left_out)
    except (OSError, ValueError, KeyError, TypeError, EOFError):
        return None  # a damaged cache is only made anew
