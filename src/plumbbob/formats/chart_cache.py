"""A finished grid beside its soundings, so that a water opens at once; made anew whenever they have changed."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Sequence
from dataclasses import asdict
from pathlib import Path
from typing import Any

import numpy as np

from plumbbob.core.chart.frame import Frame
from plumbbob.core.chart.grid import Grid
from plumbbob.core.chart.soundings import CleanSettings, Fault

NAME = "grid.npz"
_VERSION = 1
_FIELDS = ("depth_m", "sd_m", "count", "total", "surface_m")


def key_of(sources: Sequence[Path], cleaning: CleanSettings) -> str:
    """What a grid was made from: names, sizes and times of its files, and how they were cleaned."""
    parts: list[Any] = [_VERSION, sorted(int(f) for f in cleaning.look_for)]
    parts += [cleaning.draft_m, cleaning.level_m, cleaning.sound_speed_ratio]
    for path in sources:
        facts = path.stat()
        parts.append((path.name, facts.st_size, facts.st_mtime_ns))
    return hashlib.sha256(json.dumps(parts).encode()).hexdigest()


def save_grid(path: Path, key: str, epsg: int, grid: Grid, used: int, left_out: dict[Fault, int]) -> None:
    """Keep a grid; whole or not at all."""
    about = {
        "key": key,
        "epsg": epsg,
        "frame": asdict(grid.frame),
        "spacing_m": grid.spacing_m,
        "reach_m": grid.reach_m,
        "noise": grid.noise,
        "doubt": grid.doubt,
        "used": used,
        "left_out": {int(k): v for k, v in left_out.items()},
    }
    partial = path.with_name(path.name + ".part")
    try:
        with partial.open("wb") as file:
            np.savez(file, about=np.array(json.dumps(about)), **{n: getattr(grid, n) for n in _FIELDS})
        partial.replace(path)
    finally:
        partial.unlink(missing_ok=True)


def load_grid(path: Path, key: str) -> tuple[int, Grid, int, dict[Fault, int]] | None:
    """The kept grid with its plane and counts; None if there is none, or one of other soundings."""
    if not path.exists():
        return None
    try:
        with np.load(path, allow_pickle=False) as file:
            about = json.loads(str(file["about"]))
            if about["key"] != key:
                return None
            fields = {n: file[n] for n in _FIELDS}
        grid = Grid(
            frame=Frame(**about["frame"]),
            spacing_m=about["spacing_m"],
            reach_m=about["reach_m"],
            noise=(about["noise"][0], about["noise"][1]),
            doubt=(about["doubt"][0], about["doubt"][1], about["doubt"][2]),
            **fields,
        )
        left_out = {Fault(int(k)): int(v) for k, v in about["left_out"].items()}
        return int(about["epsg"]), grid, int(about["used"]), left_out
    except (OSError, ValueError, KeyError, TypeError, EOFError):
        return None  # a damaged cache is only made anew
