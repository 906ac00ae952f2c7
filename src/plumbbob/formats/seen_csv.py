"""What passes saw along their way: one small CSV each in the water's folder, a line a piece and step of depth."""

from __future__ import annotations

import csv
import math
from pathlib import Path

import numpy as np

from plumbbob.core.sonar.evidence import STEP_M
from plumbbob.core.sonar.seen_along import SeenAlong
from plumbbob.files.atomic import private_folder, writing
from plumbbob.files.errors import FileError
from plumbbob.files.kinds import read_text

_HEAD = ("piece", "time", "latitude", "longitude", "depth_m", "volume_m3", "fish", "bait_m3")
_MOST_BYTES = 100_000_000
_MOST_PIECES, _MOST_STEPS = 10_000, 1000


def write_seen(path: Path, seen: SeenAlong) -> None:
    """Write all cells that were looked at; the name of the pass first."""
    private_folder(path.parent)
    with writing(path, private=True) as fresh, fresh.open("w", newline="", encoding="utf-8") as file:
        file.write(f"# pass {seen.name}\n")
        writer = csv.writer(file)
        writer.writerow(_HEAD)
        rows, columns = np.nonzero((seen.volume_m3 > 0) | (seen.fish > 0) | (seen.bait_m3 > 0))
        for r, c in zip(rows.tolist(), columns.tolist(), strict=True):
            place = (round(float(seen.latitude[r]), 7), round(float(seen.longitude[r]), 7))
            cells = (round(float(t[r, c]), 2) for t in (seen.volume_m3, seen.fish, seen.bait_m3))
            writer.writerow((r, round(float(seen.time[r]), 1), *place, c * STEP_M, *cells))


def read_seen(path: Path) -> SeenAlong:
    """
    One pass as it was kept.

    Raises
    ------
    FileError
        Where the file is damaged.
    """
    try:
        lines = read_text(path, _MOST_BYTES).splitlines()
        name = lines[0].removeprefix("# pass ").strip()
        if tuple(lines[1].split(",")) != _HEAD:
            raise ValueError("other columns")
        cells = np.array([[float(v) for v in row] for row in csv.reader(lines[2:])]).reshape(-1, len(_HEAD))
    except (OSError, ValueError, IndexError) as exc:
        raise FileError(path, "", "is not what a pass saw, or damaged") from exc
    sane = np.isfinite(cells[:, [0, 1, 4, 5, 6, 7]]).all() and (cells[:, [0, 4, 5, 6, 7]] >= 0).all()
    if not sane or (cells.size and (cells[:, 0].max() > _MOST_PIECES or cells[:, 4].max() > _MOST_STEPS * STEP_M)):
        raise FileError(path, "", "is not what a pass saw, or damaged")
    piece, step = cells[:, 0].astype(np.intp), np.rint(cells[:, 4] / STEP_M).astype(np.intp)
    count = int(piece.max()) + 1 if piece.size else 0
    along = np.full((3, count), math.nan)
    along[:, piece] = cells[:, 1:4].T
    tables = np.zeros((3, count, int(step.max()) + 1 if step.size else 1))
    tables[:, piece, step] = cells[:, 5:8].T
    return SeenAlong(
        name=name,
        time=along[0],
        latitude=along[1],
        longitude=along[2],
        volume_m3=tables[0],
        fish=tables[1],
        bait_m3=tables[2],
    )


def all_seen(folder: Path) -> tuple[SeenAlong, ...]:
    """All passes of a folder in order of time; damaged files are left out: another reading makes them anew."""
    found = []
    for path in sorted(folder.glob("*.csv")):
        try:
            seen = read_seen(path)
        except FileError:
            continue
        if seen.time.size:
            found.append(seen)
    return tuple(sorted(found, key=lambda s: float(np.nanmin(s.time))))
