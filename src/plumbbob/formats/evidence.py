"""Evidence of passes: one small CSV each in the water's folder, cells of bottom depth and depth with their counts."""

from __future__ import annotations

import csv
import math
from pathlib import Path

import numpy as np

from plumbbob.core.sonar.evidence import NOTHING, STEP_M, Evidence
from plumbbob.files.atomic import private_folder, writing
from plumbbob.files.errors import FileError
from plumbbob.files.kinds import read_text

_HEAD = ("bottom_m", "depth_m", "volume_m3", "fish", "bait_m3")
_MOST_BYTES = 100_000_000
_MOST_CELLS = 1000  # steps of depth: half a kilometre


def write_evidence(path: Path, evidence: Evidence, start: float) -> None:
    """Write the cells that were looked at; bottom 0 is one out of reach. `start` tells the day."""
    private_folder(path.parent)
    with writing(path, private=True) as fresh, fresh.open("w", newline="", encoding="utf-8") as file:
        file.write(f"# pass {evidence.passes[0] if evidence.passes else ''}\n")
        file.write(f"# start {start:.1f} seconds {evidence.seconds:.1f} step {evidence.step_m:g}\n")
        writer = csv.writer(file)
        writer.writerow(_HEAD)
        rows, columns = np.nonzero((evidence.volume_m3 > 0) | (evidence.fish > 0) | (evidence.bait_m3 > 0))
        for r, c in zip(rows.tolist(), columns.tolist(), strict=True):
            values = (evidence.volume_m3[r, c], evidence.fish[r, c], evidence.bait_m3[r, c])
            writer.writerow((r * evidence.step_m, c * evidence.step_m, *(round(float(v), 2) for v in values)))


def read_evidence(path: Path) -> tuple[Evidence, float]:
    """
    One pass's evidence and when it began.

    Raises
    ------
    FileError
        Where the file is damaged.
    """
    try:
        lines = read_text(path, _MOST_BYTES).splitlines()
        name = lines[0].removeprefix("# pass ").strip()
        words = lines[1].split()
        start, seconds, step = float(words[2]), float(words[4]), float(words[6])
        if tuple(lines[2].split(",")) != _HEAD or abs(step - STEP_M) > 1e-9:
            raise ValueError("other columns")
        if not all(math.isfinite(v) for v in (start, seconds)):
            raise ValueError("a bad number")
        cells = [tuple(float(v) for v in row) for row in csv.reader(lines[3:])]
        if not all(len(c) == len(_HEAD) and all(math.isfinite(v) and v >= 0 for v in c) for c in cells):
            raise ValueError("a bad number")
    except (OSError, ValueError, IndexError) as exc:
        raise FileError(path, "", "is no evidence of a pass, or damaged") from exc
    if not cells:
        return NOTHING, start
    at = np.array([(round(c[0] / step), round(c[1] / step)) for c in cells])
    if int(at.max()) >= _MOST_CELLS:
        raise FileError(path, "", "is deeper than any water read here")
    tables = np.zeros((3, int(at[:, 0].max()) + 1, int(at[:, 1].max()) + 1))
    for k in range(3):
        tables[k][at[:, 0], at[:, 1]] = [c[2 + k] for c in cells]
    return (
        Evidence(volume_m3=tables[0], fish=tables[1], bait_m3=tables[2], seconds=seconds, passes=(name,)),
        start,
    )


def evidence_of_day(folder: Path, start: float, end: float) -> Evidence:
    """All passes of a folder that began between two times; damaged files are left out."""
    total = NOTHING
    for path in sorted(folder.glob("*.csv")):
        try:
            found, began = read_evidence(path)
        except FileError:
            continue
        if start <= began < end:
            total = total + found
    return total
