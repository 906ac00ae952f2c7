"""Speed of the log at its stated size, as a table: `./run bench log`. Also kills and round trips."""

from __future__ import annotations

import os
import random
import signal
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from contextlib import closing
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
sys.path.insert(0, str(Path(__file__).resolve().parent.parent))

import numpy as np
from PySide6.QtCore import QSettings

from plumbbob.core.geodesy import Plane
from plumbbob.desk.app import make_application
from plumbbob.desk.models.logbook import PlacedMarks
from plumbbob.desk.models.session import Session
from plumbbob.formats.gpx import read_gpx
from plumbbob.services.log_archive import export_log, import_log
from plumbbob.sim.season import VEYRA
from plumbbob.store.opening import open_log
from plumbbob.store.refs import new_ref
from plumbbob.store.values import Catch, Effort, Mark, MarkKind, Trip

MARKS, CATCHES, EFFORTS, TRIPS, WAYPOINTS = 100_000, 20_000, 60_000, 4_000, 50_000
_KINDS = tuple(MarkKind)


def large_log(path: Path) -> None:
    """A log of the stated size, all over Veyra Lake."""
    rng = np.random.default_rng(3)
    start = 1.6e9 + np.sort(rng.uniform(0, 1.8e8, TRIPS))
    trips = [Trip(id=k + 1, ref=f"t{k}", water="Veyra Lake", start=t, end=t + 18_000.0) for k, t in enumerate(start)]
    which = rng.integers(0, TRIPS, EFFORTS)
    spots = [s.name for s in VEYRA.spots]
    efforts = [
        Effort(id=k + 1, ref=f"e{k}", trip=f"t{w}", start=start[w] + 600.0, end=start[w] + 4200.0, rods=1.0,
               spot=spots[k % len(spots)], lure="flutter spoon 5 g", method="downrigger", lure_depth_m=8.0,
               bottom_depth_m=16.0)
        for k, w in enumerate(which)
    ]  # fmt: skip
    drawn = (rng.uniform(1.6e9, 1.78e9, MARKS), rng.normal(44.2, 0.012, MARKS), rng.normal(-40.05, 0.006, MARKS),
             rng.uniform(1, 15, MARKS))  # fmt: skip
    marks = [
        Mark(id=k + 1, ref=f"m{k}", water="Veyra Lake", kind=_KINDS[k % 5], time=float(t), latitude=float(a),
             longitude=float(o), depth_m=float(d), bottom_depth_m=16.0, name=f"mark {k}")
        for k, (t, a, o, d) in enumerate(zip(*drawn, strict=True))
    ]  # fmt: skip
    names = ("kokanee", "sauger", "yellow perch", "burbot")
    of = rng.integers(0, EFFORTS, CATCHES)
    catches = [
        Catch(id=k + 1, ref=new_ref(), mark_id=int(m) + 1, effort=f"e{e}", trip=f"t{which[e]}",
              time=float(start[which[e]] + 900.0 + k % 3000), species=names[k % 4], length_m=float(length),
              lure_depth_m=8.0, kept=bool(k % 3 == 0))
        for k, (e, m, length) in enumerate(zip(of, rng.integers(0, MARKS, CATCHES), rng.normal(0.35, 0.04, CATCHES),
                                               strict=True))
    ]  # fmt: skip
    with closing(open_log(path).log) as log:
        log.put_batch({Trip: trips, Effort: efforts, Mark: marks, Catch: catches})


def timed(what: Callable[[], object], times: int = 5) -> float:
    """Median seconds."""
    took = []
    for _ in range(times):
        begun = time.perf_counter()
        what()
        took.append(time.perf_counter() - begun)
    return statistics.median(took)


def row(what: str, value: float, asked: float | None, form: str = "{:.3f} s") -> None:
    """One line of the table."""
    limit = "" if asked is None else f"   asked {form.format(asked)}"
    print(f"{what:<62} {form.format(value):>12}{limit}", flush=True)


def main() -> None:
    """All of it."""
    kills = int(sys.argv[1]) if len(sys.argv) > 1 else 100
    make_application()
    with tempfile.TemporaryDirectory(prefix="plumbbob-") as name:
        folder = Path(name)
        path = folder / "log.db"
        large_log(path)
        print(
            f"{MARKS} marks, {CATCHES} catches, {EFFORTS} efforts, {TRIPS} trips: {path.stat().st_size / 1e6:.0f} MB"
        )
        _desk(path)
        _files(folder, path)
        _waypoints(folder)
        _kills(folder, kills)


def _desk(path: Path) -> None:
    session = Session(QSettings(str(path.with_name("s.ini")), QSettings.Format.IniFormat))
    book, listed = session.logbook, session.listed

    def opened() -> None:
        book.attach(open_log(path).log)

    took = []
    for _ in range(3):
        begun = time.perf_counter()
        opened()
        took.append(time.perf_counter() - begun)
        book.close()
    row("open the log, so that marks can be seen and saved", statistics.median(took), 1.0)
    opened()
    row("the list, the first time", timed(lambda: (listed.look_again(), listed.found), 3), None)
    for text in ("kokanee aug > 14 in", "twin humps", "mark 777", "kept 2024 lure > 7 m"):
        row(
            f"filter: {text}",
            timed(lambda text=text: (listed.set_text(""), listed.set_text(text), listed.found)),
            0.05,
        )
    listed.set_text("")
    listed.found  # noqa: B018
    row("filter: a range of lengths", timed(lambda: (listed.set_range("length_m", (0.3, 0.4)), listed.found)), 0.05)
    listed.clear()
    marks = book.marks
    row("marks in sight of a chart, found among all", timed(lambda: _in_sight(marks)), 0.033)
    row("one more mark, saved and shown", timed(lambda: book.add_mark(_fresh(book.marks[0]))), None)
    book.close()


def _fresh(mark: Mark) -> Mark:
    from dataclasses import replace

    return replace(mark, id=0, ref="", time=mark.time + 1.0)


def _in_sight(marks: PlacedMarks) -> int:
    """What a frame of the chart asks of them."""
    x, y = marks.on(Plane(32624))
    return int(((x > 416_000) & (x < 417_000) & (y > 4_894_000) & (y < 4_895_000)).sum())


def _files(folder: Path, path: Path) -> None:
    out = folder / "all.log.zip"
    with closing(open_log(path).log) as log:
        row("write all of it as open files", timed(lambda: export_log(log, out), 1), None)
    with closing(open_log(folder / "second.db").log) as log:
        row("read all of it into an empty log", timed(lambda: import_log(log, out), 1), None)
        export_log(log, folder / "again.log.zip")
    import zipfile

    same = 0
    with zipfile.ZipFile(out) as a, zipfile.ZipFile(folder / "again.log.zip") as b:
        for member in a.namelist():
            same += sorted(a.read(member).splitlines()) == sorted(b.read(member).splitlines())
        row("tables that come out otherwise than they went in", len(a.namelist()) - same, 0, "{:.0f}")


def _waypoints(folder: Path) -> None:
    rng = np.random.default_rng(5)
    path = folder / "many.gpx"
    points = "".join(
        f'<wpt lat="{a:.6f}" lon="{o:.6f}"><time>2026-08-15T08:00:00Z</time><name>w{k}</name></wpt>'
        for k, (a, o) in enumerate(
            zip(rng.uniform(44.1, 44.3, WAYPOINTS), rng.uniform(-40.2, -40.0, WAYPOINTS), strict=True)
        )
    )
    path.write_text(f'<gpx version="1.1" creator="x" xmlns="http://www.topografix.com/GPX/1/1">{points}</gpx>')
    session = Session(QSettings(str(folder / "w.ini"), QSettings.Format.IniFormat))
    session.logbook.attach(open_log(folder / "w.db").log)

    def bring() -> None:
        found = read_gpx(path)
        marks = [
            Mark(water="", kind=MarkKind.PLACE, time=p.time, latitude=p.latitude, longitude=p.longitude, name=p.name)
            for p in found.waypoints
        ]
        session.logbook.add_marks(marks)

    row(f"{WAYPOINTS} waypoints of a GPX file", timed(bring, 1), 10.0)
    session.logbook.close()


_WRITER = """
import sys, time
from pathlib import Path
from plumbbob.store.opening import open_log
from plumbbob.store.values import Catch, Effort, Mark, MarkKind, Trip
from tools.bench import yardstick
log = open_log(Path(sys.argv[1])).log
n = len(log.read(Mark))
while True:
    mark = Mark(water="x", kind=MarkKind.FISH, time=float(n), latitude=1.0, longitude=2.0, note="x" * (n % 900))
    log.apply([Trip(water="x", start=float(n)), mark, Catch(mark_id=0, time=float(n), species="k")])
    n += 1
    print(n, flush=True)
"""


def _kills(folder: Path, times: int) -> None:
    """Killed at random moments of writing: what was acknowledged is there, and whole."""
    path, rng, lost = folder / "kills.db", random.Random(8), 0
    for _ in range(times):
        run = subprocess.Popen([sys.executable, "-c", _WRITER, str(path)], stdout=subprocess.PIPE, text=True)
        assert run.stdout is not None
        first = run.stdout.readline()
        time.sleep(rng.uniform(0.0, 0.05))
        run.send_signal(signal.SIGKILL)
        said = [line for line in (first + run.communicate()[0]).split("\n") if line]
        acknowledged = int(said[-1]) if said and said[-1].isdigit() else 0
        with closing(open_log(path).log) as log:
            counts = {len(log.read(c)) for c in (Trip, Mark, Catch)}
            lost += len(counts) != 1 or min(counts) < acknowledged
    row(f"{times} kills while writing: losses", lost, 0, "{:.0f}")


if __name__ == "__main__":
    main()
