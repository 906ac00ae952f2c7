"""
Practising measured: `./run bench practice [ITEMS] [SAMPLES]`.

How long an item of each skill takes to be made, and how well the program's own reader answers so many of each from
easy to cruel. With a folder of recordings and their truths: whether its grade on items cut from them, one at every
fish, agrees with its reading of them whole.
"""

from __future__ import annotations

import json
import sys
import time
from pathlib import Path

import numpy as np
from rich.console import Console
from rich.table import Table

sys.path.insert(0, str(Path(__file__).resolve().parent.parent / "src"))

from plumbbob.core.sonar.corrections import Act, Correction
from plumbbob.core.sonar.views import read_views
from plumbbob.formats.recording import read_recording
from plumbbob.services.practice_own import own_items
from plumbbob.services.practice_reader import reader_answer, reader_score
from plumbbob.sim.down import simulate
from plumbbob.sim.lesson import HARDEST
from plumbbob.sim.lessons import SKILLS, lesson

ITEMS, SEED = 30, 100
SECONDS, DEEP_M = 1.5, 0.4  # as near is the same fish


def by_skill(items: int) -> Table:
    """A row a skill: seconds to make an item, and the reader's mean grade where there is a pass to be read."""
    table = Table(title=f"{items} items of each skill, easy to cruel")
    for head in ("skill", "made in, s", "the longest", "read in, s", "reader's grade"):
        table.add_column(head, justify="left" if head == "skill" else "right")
    lesson("what it is", 0.0, 1)  # whatever is loaded once
    for skill in SKILLS:
        made, read, grades, taught = [], [], [], False
        for k, hard in enumerate(np.linspace(-HARDEST, HARDEST, items)):
            start = time.perf_counter()
            one = lesson(skill, float(hard), SEED + k)
            recording = simulate(one.scene, SEED + k)[0] if one.scene is not None else None
            made.append(time.perf_counter() - start)
            if recording is not None:
                start = time.perf_counter()
                said = reader_answer(one, recording)
                taught |= said is not None
                grades.append(reader_score(one, said))
                read.append(time.perf_counter() - start)
        told = [f"{np.median(read):.2f}", f"{np.mean(grades):.2f}"] if taught else ["", ""]
        table.add_row(skill, f"{np.median(made):.2f}", f"{max(made):.2f}", *told)
    return table


def against_reading(folder: Path) -> Table:
    """A row a recording: fish there, how many the reading of the whole finds, and the grade on items cut from it."""
    table = Table(title="Items at every fish of recordings whose truth is known")
    for head in ("recording", "fish", "found in the whole", "grade on items"):
        table.add_column(head, justify="left" if head == "recording" else "right")
    total = np.zeros(3)
    for path in sorted(folder.glob("*.nc")):
        truth = json.loads(path.with_suffix(".truth.json").read_text(encoding="utf-8")).get("down") or {}
        fish = [(f["time"], f["apparent_depth"]) for f in truth.get("fish", ()) if f.get("detectable")]
        if not fish:
            continue
        recording = read_recording(path)
        there = [(f.time, f.depth_m) for f in read_views(recording).fish]
        found = sum(any(abs(t - a) < SECONDS and abs(d - b) < DEEP_M for a, b in there) for t, d in fish)
        said = [Correction(act=Act.DRAW, what="fish", time=t, depth_m=d) for t, d in fish]
        items = [i for k in range(len(said)) for i in own_items(recording, said[k : k + 1])]
        grade = sum(reader_score(i.item, reader_answer(i.item, i.recording)) for i in items if i.recording)
        table.add_row(path.stem, str(len(fish)), f"{found / len(fish):.2f}", f"{grade / max(len(items), 1):.2f}")
        total += (len(fish), found, grade)
    if total[0]:
        table.add_row("all", f"{total[0]:.0f}", f"{total[1] / total[0]:.3f}", f"{total[2] / total[0]:.3f}")
    return table


def main(given: list[str]) -> None:
    """Both tables, the second where a folder is named."""
    console = Console()
    console.print(by_skill(next((int(g) for g in given if g.isdigit()), ITEMS)))
    for folder in (Path(g) for g in given if not g.isdigit()):
        console.print(against_reading(folder))


if __name__ == "__main__":
    main(sys.argv[1:])
