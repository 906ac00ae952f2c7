"""A finished grid beside its soundings, so that a water opens at once; made anew whenever they have changed."""

from __future__ import annotations

import dataclasses
import hashlib
import json
import logging
from collections.abc import Sequence
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from plumbbob.core.cell_grid import CellGrid
from plumbbob.core.chart.crossings import Crossings
from plumbbob.core.chart.grid import Grid
from plumbbob.core.chart.soundings import CleanSettings, Fault
from plumbbob.files.atomic import writing

NAME = "grid.npz"
_VERSION = 3
_FIELDS = ("depth_m", "sd_m", "count", "total", "surface_m")
_CROSSING = tuple(f.name for f in dataclasses.fields(Crossings))


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
    fields = {n: getattr(grid, n) for n in _FIELDS}
    fields |= {f"crossing_{n}": getattr(grid.crossings, n) for n in _CROSSING}
    with writing(path, private=True) as fresh, fresh.open("wb") as file:
        np.savez(file, about=np.array(json.dumps(about)), land=kept.land, **fields)


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
            crossings = {n: file[f"crossing_{n}"] for n in _CROSSING}
            lengths = {v.shape for v in crossings.values()}
            if (
                len(lengths) != 1
                or len(lengths.pop()) != 1
                or any(v.dtype.kind not in "fi" for v in crossings.values())
            ):
                raise ValueError("crossings of several lengths")
            shape = (about["frame"]["ny"], about["frame"]["nx"])
            if any(v.shape != shape or v.dtype.kind not in "fiu" for v in fields.values()) or land.shape != shape:
                raise ValueError("fields of another shape")
            if land.dtype != np.bool_ or not 32601 <= int(about["epsg"]) <= 32760:
                raise ValueError("no land, or no zone")
        grid = Grid(
            frame=CellGrid(**about["frame"]),
            spacing_m=about["spacing_m"],
            reach_m=about["reach_m"],
            noise=(about["noise"][0], about["noise"][1]),
            doubt=(about["doubt"][0], about["doubt"][1], about["doubt"][2]),
            crossings=Crossings(**crossings),
            **fields,
        )
        left_out = {Fault(int(k)): int(v) for k, v in about["left_out"].items()}
        return Kept(int(about["epsg"]), grid, land, int(about["used"]), left_out)
    except Exception as exc:
        # whatever is wrong with it, and archives can be wrong in many ways: it only saved time, and is made anew
        logging.getLogger(__name__).info("the kept grid %s is not used: %s", path.name, exc)
        return None
