"""Speed and memory as a table: `./run bench`. Makes its one-hour recording once and keeps it in the cache folder."""

from __future__ import annotations

import json
import os
import resource
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from platformdirs import user_cache_path
from rich.console import Console
from rich.progress import Progress
from rich.table import Table

HOUR_MINUTES = 60.0
HOUR_SEED = 11


@dataclass(frozen=True, slots=True)
class Row:
    """One measured number against what was promised."""

    what: str
    measured: float
    limit: float
    unit: str
    at_least: bool = False

    @property
    def kept(self) -> bool:
        return self.measured >= self.limit if self.at_least else self.measured <= self.limit


def hour_recording() -> Path:
    """The one-hour recording: 54,000 pings of 800 samples, made once."""
    path = user_cache_path("plumbbob", ensure_exists=True) / f"bench-hour-{HOUR_SEED}.nc"
    if path.exists():
        return path
    from plumbbob.formats.recording import write_recording
    from plumbbob.sim.down import simulate
    from plumbbob.sim.veyra import long_day

    with Progress(console=Console(stderr=True)) as bar:
        task = bar.add_task("Simulating one hour (once)", total=1.0)
        recording, _ = simulate(
            long_day(HOUR_MINUTES), HOUR_SEED, progress=lambda f: bar.update(task, completed=0.9 * f)
        )
        write_recording(path, recording, progress=lambda f: bar.update(task, completed=0.9 + 0.1 * f))
    return path


def child(part: str, *args: str, one_core: bool = False) -> dict[str, float]:
    """Run one part of this file in a process of its own; what it prints last is its result."""
    env = {**os.environ, "QT_QPA_PLATFORM": "offscreen", "OMP_NUM_THREADS": "1", "OPENBLAS_NUM_THREADS": "1"}
    command = [sys.executable, __file__, "--part", part, *args]
    if one_core and hasattr(os, "sched_setaffinity"):
        env["BENCH_ONE_CORE"] = "1"
    env["BENCH_STARTED"] = repr(time.time())
    done = subprocess.run(command, env=env, capture_output=True, text=True, check=False)
    if done.returncode:
        raise SystemExit(f"bench {part} failed:\n{done.stderr[-2000:]}")
    return json.loads(done.stdout.strip().splitlines()[-1])


# -- parts, each in its own process -----------------------------------------------------------------------------


def _wait(app, what: Callable[[], bool], seconds: float = 120.0) -> None:  # type: ignore[no-untyped-def]
    from PySide6.QtCore import QEventLoop

    end = time.perf_counter() + seconds
    while not what():
        if time.perf_counter() > end:
            raise TimeoutError
        app.processEvents(QEventLoop.ProcessEventsFlag.AllEvents, 2)


def part_start(data: str) -> dict[str, float]:
    """From the start of the process to a painted demo that answers."""
    from plumbbob.desk.app import DEMO_RECORDING, make_application, open_window
    from plumbbob.formats.waters import data_path

    app = make_application()
    window = open_window(Path(data), data_path(DEMO_RECORDING))
    _wait(app, lambda: window.echogram._image is not None)
    started = float(os.environ["BENCH_STARTED"])
    usable = time.time() - started
    _wait(app, lambda: window.session.scan.is_read and not window.session.jobs.live)
    read = time.time() - started
    window.close()
    return {"usable": usable, "read": read}


def part_hour(path: str, data: str) -> dict[str, float]:
    """Open the hour, time the first screenful, pan while it is read, pan and zoom after, weigh the process."""
    from plumbbob.desk.app import make_application, open_window

    app = make_application()
    window = open_window(Path(data), None)
    window.resize(1280, 800)
    _wait(app, lambda: window.session.logbook.is_open)
    began = time.perf_counter()
    window.open_recording(Path(path))
    _wait(app, lambda: window.echogram._image is not None)
    first = time.perf_counter() - began
    scan = window.session.scan
    scan.show_all()
    window.echogram.repaint()
    scan.set_view(type(scan.view)(0.0, 840.0, 0.0, scan.view.base_m))
    busy = []
    while window.session.jobs.live:
        busy.append(_frame(window, app, lambda: scan.pan(9.0, 0.0)))
        if scan.view.last_ping >= len(scan.down) - 1:
            scan.pan(-1e9, 0.0)
    whole = time.perf_counter() - began
    scan.pan(-1e9, 0.0)
    about = float(scan.cursor.ping)
    moves: list[tuple[int, Callable[[], None]]] = [
        (120, lambda: scan.pan(12.0, 0.0)),
        (40, lambda: scan.pan(-30.0, 0.0)),
        (60, lambda: scan.zoom_pings(1.06, about)),
        (60, lambda: scan.zoom_pings(1 / 1.06, about)),
        (40, lambda: scan.zoom_depth(0.96, 9.0)),
        (40, lambda: scan.zoom_depth(1 / 0.96, 9.0)),
        (1, scan.show_all),
        (60, lambda: scan.zoom_pings(0.93, 27_000.0)),
    ]
    frames = [_frame(window, app, move) for count, move in moves for _ in range(count)]
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    result = {
        "first": first,
        "whole": whole,
        "median": statistics.median(frames) * 1e3,
        "p99": _percentile(frames, 0.99) * 1e3,
        "busy_median": statistics.median(busy) * 1e3,
        "busy_p99": _percentile(busy, 0.99) * 1e3,
        "peak": peak,
    }
    window.close()
    return result


def _percentile(values: list[float], share: float) -> float:
    return sorted(values)[min(int(share * len(values)), len(values) - 1)]


def _frame(window, app, change: Callable[[], None]) -> float:  # type: ignore[no-untyped-def]
    began = time.perf_counter()
    change()
    app.processEvents()
    took = time.perf_counter() - began
    if window.echogram._image is None:
        raise SystemExit("a frame was not painted")
    return took


def part_read(path: str) -> dict[str, float]:
    """A whole reading on one core, imports apart."""
    if os.environ.get("BENCH_ONE_CORE"):
        os.sched_setaffinity(0, {0})
    from plumbbob.core.sonar.read import read_down
    from plumbbob.formats.recording import read_recording

    recording = read_recording(path)
    began = time.perf_counter()
    read_down(recording)
    took = time.perf_counter() - began
    down = recording.down
    assert down is not None
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    return {"took": took, "times": float(down.time[-1] - down.time[0]) / took, "peak": peak}


def part_rig() -> dict[str, float]:
    """Median milliseconds of one tow solution, and of one answer of each way to fish."""
    from plumbbob.core.rig.line import line_for_depth, tow
    from plumbbob.core.rig.methods import Method, RigSettings, solve
    from plumbbob.core.rig.tackle import BALL, MONO, PLUG, WIRE

    def median_ms(act: Callable[[], object]) -> float:
        times = []
        for _ in range(200):
            began = time.perf_counter()
            act()
            times.append(time.perf_counter() - began)
        return statistics.median(times) * 1e3

    out = {
        "tow": max(
            median_ms(lambda: tow(PLUG.body(), [MONO.segment(40.0)], 0.9)),
            median_ms(lambda: tow(BALL.body(), [WIRE.segment(40.0)], 0.9)),
        ),
        "inverse": median_ms(lambda: line_for_depth(PLUG.body(), [MONO.segment(0.0)], 5.0, 0.9)),
    }
    for method in Method:
        out[method.name.lower()] = median_ms(lambda m=method: solve(RigSettings(method=m), 5.0))
    return out


PARTS = {"start": part_start, "hour": part_hour, "read": part_read, "rig": part_rig}


def main() -> int:
    """Measure everything and print the table."""
    path = hour_recording()
    with tempfile.TemporaryDirectory() as data:
        child("start", data)  # once to warm the disk
        start = child("start", data)
        hour = child("hour", str(path), data)
    read = child("read", str(path), one_core=True)
    rig = child("rig")
    rows = [
        Row("usable window after a warm start of the demo", start["usable"], 2.5, "s"),
        Row("one hour: first screenful after choosing the file", hour["first"], 0.5, "s"),
        Row("one hour: pan and zoom, median frame", hour["median"], 16.0, "ms"),
        Row("one hour: pan and zoom, 99th percentile", hour["p99"], 33.0, "ms"),
        Row("one hour: panning while it is being read, median frame", hour["busy_median"], 16.0, "ms"),
        Row("one hour: panning while it is being read, 99th percentile", hour["busy_p99"], 33.0, "ms"),
        Row("one hour: read, overview and all, with the window open", hour["whole"], 30.0, "s"),
        Row("one hour: peak memory with it open and read", hour["peak"], 500.0, "MB"),
        Row("one hour: read on one core, times recorded time", read["times"], 200.0, "x", at_least=True),
        Row("one hour: peak memory of the reading alone", read["peak"], 500.0, "MB"),
        Row("one tow solution", rig["tow"], 1.0, "ms"),
        Row("line for a depth", rig["inverse"], 1.5, "ms"),
        Row("downrigger answer with its spread", rig["downrigger"], 4.0, "ms"),
        Row("flat line answer with its spread", rig["flat_line"], 4.0, "ms"),
        Row("count with its spread", rig["cast"], 4.0, "ms"),
    ]
    table = Table(title="Plumbbob bench")
    for head, side in (("what", "left"), ("measured", "right"), ("limit", "right"), ("", "left")):
        table.add_column(head, justify=side)  # type: ignore[arg-type]
    for row in rows:
        sign = "≥" if row.at_least else "≤"
        verdict = "kept" if row.kept else "NOT KEPT"
        table.add_row(row.what, f"{row.measured:.2f} {row.unit}", f"{sign} {row.limit:g} {row.unit}", verdict)
    Console(width=110).print(table)
    return 0 if all(row.kept for row in rows) else 1


if __name__ == "__main__":
    if len(sys.argv) > 2 and sys.argv[1] == "--part":
        print(json.dumps(PARTS[sys.argv[2]](*sys.argv[3:])))
        sys.exit(0)
    sys.exit(main())
