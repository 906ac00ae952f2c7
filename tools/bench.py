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
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import count, pairwise
from pathlib import Path
from typing import TYPE_CHECKING

from platformdirs import user_cache_path
from rich.console import Console
from rich.progress import Progress
from rich.table import Table

if TYPE_CHECKING:
    from PySide6.QtWidgets import QApplication

    from plumbbob.desk.shell.window import MainWindow

HOUR_MINUTES = 60.0
HOUR_SEED = 11
LONG_HOURS = 8


@dataclass(frozen=True, slots=True)
class Row:
    """One promised number: where it is measured, and how far it may go."""

    what: str
    part: str
    key: str
    limit: float
    unit: str
    at_least: bool = False

    def kept(self, measured: float) -> bool:
        """The promise holds."""
        return measured >= self.limit if self.at_least else measured <= self.limit

    def in_yardsticks(self, measured: float, yardstick_s: float) -> str:
        """A time, or a speed, by the machine's own pace at that hour; empty for what is neither."""
        if self.unit in ("s", "ms"):
            return f"{measured / (1e3 if self.unit == 'ms' else 1.0) / yardstick_s:.3g}"
        return f"{measured * yardstick_s:.3g}" if self.unit == "x" else ""


def yardstick() -> float:
    """Seconds of a set matrix product and a set loop, the quickest of three: how fast the machine is just now."""
    import numpy as np

    square = np.linspace(0.0, 1.0, 600 * 600).reshape(600, 600)
    took = []
    for _ in range(3):
        began = time.perf_counter()
        for _ in range(4):
            square @ square
        total = 0
        for k in range(1_000_000):
            total += k & 7
        took.append(time.perf_counter() - began)
    return min(took)


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


def long_recording(hour: Path) -> Path:
    """Eight hours: the hour eight times over, written a run of pings at a time, made once."""
    path = hour.with_name(f"bench-{LONG_HOURS}-hours-{HOUR_SEED}.nc")
    if path.exists():
        return path
    from dataclasses import replace

    import numpy as np

    from plumbbob.core.types import Bytes, Floats
    from plumbbob.formats.recording import read_recording, write_recording

    one = read_recording(hour)
    down, track = one.down, one.track
    assert down is not None
    assert track is not None
    length, n = float(down.time[-1] - down.time[0]) + 0.1, len(down)

    class Again:
        """Echoes of the hour, over and over."""

        shape = (LONG_HOURS * n, down.samples)

        def read(self, start: int, stop: int) -> Bytes:
            parts = [down.echo.read(max(start - k * n, 0), min(stop - k * n, n)) for k in range(LONG_HOURS)]
            return np.concatenate([p for p in parts if len(p)])

    def times(values: Floats) -> Floats:
        return np.concatenate([values + k * length for k in range(LONG_HOURS)])

    inside = (track.time >= down.time[0]) & (track.time < down.time[0] + length)
    many = {
        name: np.tile(getattr(track, name)[inside], LONG_HOURS)
        for name in ("latitude", "longitude", "speed_mps", "heading_deg", "course_deg", "temperature_c")
    }
    long_down = replace(
        down,
        time=times(down.time),
        range_start_m=np.tile(down.range_start_m, LONG_HOURS),
        range_step_m=np.tile(down.range_step_m, LONG_HOURS),
        echo=Again(),
    )
    long_track = replace(track, time=times(track.time[inside]), **many)
    with Progress(console=Console(stderr=True)) as bar:
        task = bar.add_task(f"Writing {LONG_HOURS} hours (once)", total=1.0)
        write_recording(
            path, replace(one, down=long_down, track=long_track), progress=lambda f: bar.update(task, completed=f)
        )
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


def _wait(app, what: Callable[[], bool], seconds: float = 120.0) -> None:
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
    window = open_window(Path(data), data_path(DEMO_RECORDING), demo=True)
    painted: list[float] = []
    picture = window.picture("chart")
    _wait(app, lambda: window.isVisible() and window.session.logbook is not None)
    app.processEvents()
    started = float(os.environ["BENCH_STARTED"])
    usable = time.time() - started
    _wait(app, lambda: picture.rendered is not None)
    painted.append(time.time() - started)
    _wait(app, lambda: window.session.scan.document.is_read and not window.session.jobs.live)
    read = time.time() - started
    window.close()
    return {"usable": usable, "chart": painted[0], "read": read}


def _opened(path: str, data: str) -> tuple[QApplication, MainWindow, float, float]:
    """The window with a recording chosen and its first screenful painted: when it was chosen, how long that took."""
    from plumbbob.desk.app import make_application, open_window

    app = make_application()
    window = open_window(Path(data), None)
    window.resize(1280, 800)
    window.session.set_stage("scan")
    _wait(app, lambda: window.session.logbook.is_open)
    began = time.perf_counter()
    window.open_recording(Path(path))
    _wait(app, lambda: window.picture("down").is_painted)
    return app, window, began, time.perf_counter() - began


def part_hour(path: str, data: str) -> dict[str, float]:
    """Open the hour, time the first screenful, pan while it is read, pan and zoom after, weigh the process."""
    app, window, began, first = _opened(path, data)
    scan = window.session.scan
    scan.show_all()
    window.picture("down").repaint()
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


def part_long(path: str, data: str) -> dict[str, float]:
    """Open hours of recording with the window: first screenful, read to the end, weighed."""
    app, window, began, first = _opened(path, data)
    scan = window.session.scan
    _wait(app, lambda: scan.document.is_read and not window.session.jobs.live, 1800.0)
    whole = time.perf_counter() - began
    scan.show_all()
    window.picture("down").repaint()
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    window.close()
    return {"first": first, "whole": whole, "peak": peak}


def part_short() -> dict[str, float]:
    """The command line: its start-up with two pings, and how fast it reads the demo pass, that taken off."""
    from plumbbob.formats.recording import read_recording
    from plumbbob.formats.recording_edit import cut
    from plumbbob.formats.waters import data_path

    whole = data_path("veyra_first_pass.nc")
    down = read_recording(whole).down
    assert down is not None
    with tempfile.TemporaryDirectory() as folder:
        piece = Path(folder) / "piece.nc"
        cut(whole, piece, float(down.time[0]), float(down.time[1]))
        took = []
        for path in (piece, whole):
            runs = []
            for _ in range(3):
                began = time.perf_counter()
                command = [sys.executable, "-m", "plumbbob.cli", "scan", str(path), "--json"]
                subprocess.run(command, stdout=subprocess.DEVNULL, check=True)
                runs.append(time.perf_counter() - began)
            took.append(min(runs))
    times = float(down.time[-1] - down.time[0]) / max(took[1] - took[0], 1e-3)
    return {"startup": took[0], "times": times}


def part_views(data: str) -> dict[str, float]:
    """Frames of the views to the sides and ahead in the window, and how fast both are read."""
    from plumbbob.core.sonar.forward import read_forward
    from plumbbob.core.sonar.read import read_down
    from plumbbob.core.sonar.side import read_side
    from plumbbob.desk.app import AHEAD_RECORDING, SIDE_RECORDING
    from plumbbob.desk.models.side_model import Across
    from plumbbob.formats.recording import read_recording
    from plumbbob.services.demo import demo_pass

    app, window, _, _ = _opened(str(demo_pass(Path(data) / "made", SIDE_RECORDING)), data)
    session = window.session
    scan, side = session.scan, session.side
    _wait(app, lambda: scan.reading.side is not None and not session.jobs.live)
    session.show("side")
    out: dict[str, float] = {}
    for name, across in (("slant", Across.SLANT), ("ground", Across.GROUND)):
        side.set_across(across)
        scan.show_time(scan.lead.time[0] + 40, scan.lead.time[0] + 70)
        frames = []
        for k in range(240):
            began = time.perf_counter()
            scan.pan(3.0 if k % 120 < 60 else -3.0, 0.0)
            app.processEvents()
            frames.append((time.perf_counter() - began) * 1e3)
        out[f"{name}_median"], out[f"{name}_p99"] = statistics.median(frames), _percentile(frames, 0.99)
    window.open_recording(demo_pass(Path(data) / "made", AHEAD_RECORDING))
    _wait(app, lambda: scan.reading.ahead is not None and not session.jobs.live)
    session.show("forward")
    ahead = session.forward
    session.forward.choose(ahead.reading.tracks[1])
    view = ahead.view
    frames = []
    spent = time.process_time()
    for k in range(150):
        began = time.perf_counter()
        scan.set_cursor(int(scan.ping_of(float(view.time[20 + k]))) + 1, 0.0)
        app.processEvents()
        frames.append((time.perf_counter() - began) * 1e3)
    out["ahead_frame"] = statistics.median(frames)
    out["ahead_share"] = (time.process_time() - spent) / 150 * 15
    window.close()
    for name, path, read in (
        ("side", demo_pass(Path(data) / "made", SIDE_RECORDING), lambda r: read_side(r, read_down(r).bottom)),
        ("forward", demo_pass(Path(data) / "made", AHEAD_RECORDING), read_forward),
    ):
        recording = read_recording(path)
        began = time.perf_counter()
        read(recording)
        lead = recording.side if name == "side" else recording.forward
        out[f"{name}_times"] = float(lead.time[-1] - lead.time[0]) / (time.perf_counter() - began)
    return out


def _percentile(values: list[float], share: float) -> float:
    return sorted(values)[min(int(share * len(values)), len(values) - 1)]


def _frame(window, app, change: Callable[[], None]) -> float:
    began = time.perf_counter()
    change()
    app.processEvents()
    took = time.perf_counter() - began
    if not window.picture("down").is_painted:
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


def _median_ms(act: Callable[[], object], times: int = 200) -> float:
    took = []
    for _ in range(times):
        began = time.perf_counter()
        act()
        took.append(time.perf_counter() - began)
    return statistics.median(took) * 1e3


def part_rig() -> dict[str, float]:
    """Milliseconds of a steady solution, its inverse, each way's answer; seconds of lines in motion; errors."""
    from dataclasses import replace

    import numpy as np

    from plumbbob.core.rig.line import line_for_depth, tow
    from plumbbob.core.rig.methods import solve
    from plumbbob.core.rig.motion import run_along
    from plumbbob.core.rig.rod import Method, RigSettings, default_setup
    from plumbbob.core.rig.tackle import BALL, BRAID, CORE, DISC, FLUTTER, JIG, MONO, PLUG, WIRE
    from plumbbob.core.rig.track import Track

    lines = (
        (BALL.body(), [WIRE.segment(40.0)]),
        (PLUG.body(), [MONO.segment(40.0)]),
        (FLUTTER.body(), [MONO.segment(8.0), CORE.segment(60.0)]),
        (FLUTTER.body(), [MONO.segment(2.0), DISC.body(), MONO.segment(30.0)]),
        (JIG.body(), [BRAID.segment(25.0)]),
    )
    shear = [(0.0, 1.1), (10.0, 0.9), (20.0, 0.7)]
    depths = (20.0, 4.0, 5.0, 8.0, 5.0)
    out = {
        "tow": statistics.median(_median_ms(lambda b=b, p=p: tow(b, p, 0.9)) for b, p in lines),
        "sheared": _median_ms(lambda: tow(*lines[0], 0.9, stream=shear), 60),
        "inverse": statistics.median(
            _median_ms(lambda b=b, p=p, d=d: line_for_depth(b, p, d, 0.6))
            for (b, p), d in zip(lines, depths, strict=True)
        ),
    }
    answers = []
    for method in Method:
        rod = default_setup(RigSettings(), method)
        depth = 2.0 if method in (Method.CLIP, Method.WALKER, Method.RETRIEVE) else 5.0
        answers.append(_median_ms(lambda r=rod, d=depth: solve(r, d), 60))
    out["answer"], out["answer_worst"] = statistics.median(answers), max(answers)
    # ten minutes with turns both ways, stops and bursts, six lines
    ways = (Method.DOWNRIGGER, Method.FLAT_LINE, Method.WEIGHTED_LINE, Method.CLIP, Method.DIVER, Method.BOARD)
    rods = [
        replace(default_setup(RigSettings(), m), aside_m=a)
        for m, a in zip(ways, (-1.0, 1.0, -1.6, 1.6, -0.4, 2.2), strict=True)
    ]
    solved = [solve(r, d) for r, d in zip(rods, (8.0, 4.0, 5.0, 2.5, 5.0, 3.0), strict=True)]
    t = np.arange(0.0, 600.5, 0.5)
    speed = 0.9 + 0.5 * np.sin(t / 45.0) * (t > 60)
    heading = np.cumsum(np.where(t > 30, 0.04 * np.sign(np.sin(t / 60.0)), 0.0)) * 0.5
    x, y = (np.cumsum(speed * f(heading)) * 0.5 for f in (np.sin, np.cos))
    track = Track(time=t, x=x, y=y)
    began = time.perf_counter()
    found = run_along(rods, solved, track)
    out["motion"] = time.perf_counter() - began
    fine = run_along(rods, solved, track, step_s=0.125)
    n = min(len(found.time), len(fine.time))
    off = [np.abs(a.depth_m[:n] - b.depth_m[:n]) for a, b in zip(found.lines, fine.lines, strict=True)]
    deep = [np.maximum(b.depth_m[:n], 1.0) for b in fine.lines]
    out["motion_off"] = float(np.sqrt(np.mean(np.concatenate(off) ** 2)))
    out["motion_share"] = 100 * float(np.median(np.concatenate([o / d for o, d in zip(off, deep, strict=True)])))
    out["motion_worst"] = max(float(o.max()) for o in off)
    out.update(_worst_of_closed_forms())
    return out


def _worst_of_closed_forms() -> dict[str, float]:
    """Largest error in depth against the closed form and against a tight integration, in per cent."""
    import math

    import numpy as np
    from scipy.integrate import solve_ivp

    from plumbbob.core.rig.line import Body, Segment, tow, weightless_depth_m

    rng = np.random.default_rng(1)
    closed, tight = 0.0, 0.0
    for _ in range(200):
        body = Body(weight_n=float(10 ** rng.uniform(-1.5, 1.8)), drag_area_m2=float(10 ** rng.uniform(-4.5, -2.3)))
        speed, length, d = float(rng.uniform(0.2, 2.5)), float(rng.uniform(1, 90)), float(10 ** rng.uniform(-4, -2.8))
        bare = Segment(length_m=length, diameter_m=d, weight_npm=0.0, ct=0.0)
        exact = weightless_depth_m(body, bare, speed)[0]
        closed = max(closed, abs(tow(body, [bare], speed).depth_m - exact) / max(exact, 0.2))
        w = float(rng.choice([1e-4, 0.0124, 0.07, -1e-3, -5e-6]))
        line = Segment(length_m=length, diameter_m=d, weight_npm=w, cn=1.25, ct=0.05)
        q = 0.5 * 998.0 * speed**2
        kn, kt = q * d * line.cn, q * d * line.ct

        def rates(_: float, y: Sequence[float], w: float = w, kn: float = kn, kt: float = kt) -> list[float]:
            s, c = math.sin(y[1]), math.cos(y[1])
            return [w * s + kt * c * abs(c), (w * c - kn * s * abs(s)) / y[0], s]

        start = [
            math.hypot(q * body.drag_area_m2, body.weight_n),
            math.atan2(body.weight_n, q * body.drag_area_m2),
            0.0,
        ]
        true = solve_ivp(rates, (0, length), start, method="DOP853", rtol=1e-10, atol=1e-12).y[2, -1]
        tight = max(tight, abs(tow(body, [line], speed).depth_m - true) / max(abs(true), 0.2))
    return {"closed": 100 * closed, "tight": 100 * tight}


def part_spread(data: str) -> dict[str, float]:
    """A spread of eight rods in the Rig stage, re-solved and redrawn while the speed and a lure are dragged."""

    from plumbbob.core.rig.rod import Method, RigSettings, default_setup
    from plumbbob.desk.app import DEMO_RECORDING, make_application, open_window
    from plumbbob.desk.models.kept_rods import RodSetup
    from plumbbob.desk.views.rig.picture import SpreadPicture
    from plumbbob.formats.waters import data_path

    app = make_application()
    window = open_window(Path(data), data_path(DEMO_RECORDING), demo=True)
    window.resize(1280, 800)
    session = window.session
    while not (session.scan.document.is_read and session.logbook.is_open and not session.jobs.live):
        app.processEvents()
    ways = (
        Method.DOWNRIGGER,
        Method.DOWNRIGGER,
        Method.WEIGHTED_LINE,
        Method.WEIGHTED_LINE,
        Method.CLIP,
        Method.DIVER,
        Method.BOARD,
        Method.BOARD,
    )
    depths = (8.0, 6.0, 5.0, 6.0, 2.5, 6.0, 3.0, 4.0)
    base = RigSettings()
    session.rig.set_all(tuple(RodSetup(default_setup(base, m), d) for m, d in zip(ways, depths, strict=True)), 0)
    session.set_stage("rig")
    app.processEvents()
    picture = window.findChild(SpreadPicture)
    frames: dict[str, list[float]] = {"all": [], "one": []}
    for k in range(60):
        for name, act in (
            ("all", lambda k=k: session.rig.set(speed_mps=0.8 + 0.004 * k)),
            ("one", lambda k=k: session.rig.drag_to(7.0 + 0.02 * k, 0)),
        ):
            began = time.perf_counter()
            act()
            picture.repaint()
            frames[name].append(time.perf_counter() - began)
            app.processEvents()
    window.close()
    return {
        "all": statistics.median(frames["all"]) * 1e3,
        "all_p99": sorted(frames["all"])[-1] * 1e3,
        "one": statistics.median(frames["one"]) * 1e3,
    }


def _big_lake():
    """400,000 soundings of a made-up lake with a ledge, humps and a channel, along a hundred lines, and its truth."""
    import numpy as np

    rng = np.random.default_rng(0)
    along = np.linspace(0, 3900, 4040)
    xs, ys = [], []
    for k in range(99):
        xs.append(along + rng.normal(0, 0.3, along.size))
        ys.append(20 + k * 39.4 + 3 * np.sin(along / 90 + k) + rng.normal(0, 0.3, along.size))
    x, y = np.concatenate(xs), np.concatenate(ys)

    def depth(x, y):
        d = 14 + 6 * np.sin(x / 400) * np.cos(y / 530) + 8 / (1 + np.exp(-(y - 2000 - 300 * np.sin(x / 700)) / 14))
        d = d + 3.0 * np.exp(-(((x - 2600 - 250 * np.sin(y / 300)) / 26) ** 2))
        for hx, hy, rise, wide in ((900, 900, 7, 60), (3100, 3300, 5, 80), (500, 2900, 6, 45), (2000, 600, 4, 50)):
            d = d - rise * np.exp(-((x - hx) ** 2 + (y - hy) ** 2) / (2 * wide**2))
        return d

    return x, y, depth(x, y) + rng.normal(0, 0.06, x.size), depth


def part_chart() -> dict[str, float]:
    """400,000 soundings to a grid of a million cells, its structure, new soundings, beside scipy's triangles."""
    import numpy as np
    from scipy.interpolate import LinearNDInterpolator

    from plumbbob.core.chart.grid import GridSettings, make_grid, merge
    from plumbbob.core.chart.structure import find_structure

    x, y, d, depth = _big_lake()
    settings = GridSettings(cell_m=3.98)
    make_grid(x[:4000], y[:4000], d[:4000])  # imports apart
    began = time.perf_counter()
    grid = make_grid(x, y, d, settings)
    gridded = time.perf_counter() - began
    began = time.perf_counter()
    find_structure(grid)
    found = time.perf_counter() - began
    nx, ny = np.linspace(300, 1100, 1000), np.linspace(500, 900, 1000)
    merging = []
    for _ in range(3):
        began = time.perf_counter()
        merge(grid, nx, ny, depth(nx, ny))
        merging.append(time.perf_counter() - began)
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    block = np.round(np.stack([x, y], axis=1) / 4.0)
    order = np.lexsort((block[:, 0], block[:, 1]))
    starts = np.flatnonzero(np.any(np.diff(block[order], axis=0, prepend=-9.0) != 0, axis=1))
    groups = np.split(order, starts[1:])
    mx, my, md = (np.array([np.median(v[g]) for g in groups]) for v in (x, y, d))
    began = time.perf_counter()
    gx, gy = np.meshgrid(grid.frame.x, grid.frame.y)
    flat = LinearNDInterpolator(np.stack([mx, my], axis=1), md)(gx, gy)
    triangles = time.perf_counter() - began
    real = depth(gx, gy)
    good = grid.known & np.isfinite(flat)
    ours, theirs = (float(np.sqrt(((z - real)[good] ** 2).mean())) for z in (grid.depth_m, flat))
    return {
        "cells": float(grid.depth_m.size),
        "grid": gridded,
        "structure": found,
        "merge": statistics.median(merging),
        "peak": peak,
        "triangles": triangles,
        "error": ours,
        "share": ours / theirs,
    }


def part_csv(path: str) -> dict[str, float]:
    """Reading and cleaning 400,000 soundings from a CSV file."""
    from plumbbob.core.chart.soundings import clean
    from plumbbob.formats.soundings import read_soundings

    began = time.perf_counter()
    file = read_soundings(Path(path))
    clean(file.soundings)
    return {"csv": time.perf_counter() - began}


def part_lake(data: str) -> dict[str, float]:
    """Dragging window, level and wind over Veyra Lake in the real window; contours after rest; memory."""
    from plumbbob.desk.app import DEMO_RECORDING, make_application, open_window
    from plumbbob.formats.waters import data_path

    app = make_application()
    window = open_window(Path(data), data_path(DEMO_RECORDING), demo=True)
    window.resize(1280, 800)
    session = window.session
    _wait(app, lambda: session.chart.chart is not None and bool(session.chart.chart.features))
    _wait(app, lambda: not session.jobs.live and bool(window.picture("chart").contours))
    session.chart.centre_on(*session.chart.cursor, closer=True)
    app.processEvents()

    def frames(change: Callable[[int], None], count: int = 40) -> float:
        took = []
        for k in range(count):
            began = time.perf_counter()
            change(k)
            window.picture("chart").repaint()
            took.append(time.perf_counter() - began)
        return statistics.median(took) * 1e3

    out = {
        "window": frames(lambda k: session.rig.set_window((4.0 + 0.05 * k, 9.0 + 0.05 * k))),
        "level": frames(lambda k: session.conditions.set_number("level_m", -1.3 - 0.01 * k)),
        "tilt": frames(lambda k: session.conditions.set_number("wind_mps", 4.0 + 0.1 * k)),
    }
    _wait(app, lambda: not session.jobs.live and window.picture("chart").is_settled)
    began = time.perf_counter()
    session.conditions.set_number("level_m", -0.6)
    _wait(app, lambda: bool(window.picture("chart").contours))
    out["contours"] = time.perf_counter() - began
    out["pan"] = frames(lambda k: session.chart.pan(6.0, 2.0))
    out["peak"] = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    window.close()
    return out


def part_day(data: str) -> dict[str, float]:
    """The day planned over Veyra Lake in the real window, and planned again under a dragged stay."""
    from plumbbob.core.plan.outing import Hold, solve
    from plumbbob.desk.app import DEMO_RECORDING, make_application, open_window
    from plumbbob.formats.waters import data_path

    app = make_application()
    window = open_window(Path(data), data_path(DEMO_RECORDING), demo=True)
    window.resize(1280, 800)
    session, run = window.session, window.session.run
    _wait(app, lambda: session.chart.chart is not None and bool(session.spots.places))
    _wait(app, lambda: session.scan.document.is_read and not session.jobs.live)
    began = time.perf_counter()
    window.tasks.day.plan_today()
    _wait(app, lambda: run.plan is not None)
    out = {"plan": time.perf_counter() - began}
    _wait(app, lambda: not window.tasks.day.is_planning)
    near = [s.candidate.name for s in run.plan.stays if not s.again]
    stay = run.plan.stays[1]
    took = []
    for k in range(8):
        hold = Hold(stay.arrive + 300.0 * k, stay.leave + 300.0 * k)
        began = time.perf_counter()
        solve(run.outing, holds={stay.candidate.name: hold}, near=near)
        took.append(time.perf_counter() - began)
    out["drag"] = max(took)
    window.close()
    return out


def part_search() -> dict[str, float]:
    """A veil of a quarter of a million cells after many looks; a decision to stay or go."""
    import numpy as np

    from plumbbob.core.cell_grid import CellGrid
    from plumbbob.core.plan import veil
    from plumbbob.core.plan.stay import Prior, stay_or_go

    frame = CellGrid(0.0, 0.0, 2.0, 2000, 1500)
    x, y = np.meshgrid(frame.x, frame.y)
    grid = veil.search_grid(frame, 30.0 - ((x - 2000) ** 2 + (y - 1500) ** 2) / 9e4)
    prior = veil.prior_weights(grid, {}, 0.6)
    places = np.random.default_rng(0).uniform((1000, 800), (3000, 2200), (60, 2))
    sights = [veil.fished(grid, (float(a), float(b)), 30.0, 8.0, 0.5, 60.0 * k) for k, (a, b) in enumerate(places)]
    sights += [veil.seen_by_pass(grid, np.array([a, b]), 20.0, 0.0) for a, b in pairwise(places)]
    sights += [veil.sign(grid, (float(a), float(b)), 8.0, 8.0, 0.0) for a, b in places[:10]]
    out = {"cells": float(prior.size), "looks": float(len(sights))}
    out["veil"] = _median_ms(lambda: veil.chances(veil.thinned(grid, prior, sights, 4000.0), prior), 20)
    turn = count()

    def decide() -> object:
        k = next(turn)  # never the same twice: what was worked out is kept
        here, there = Prior(1.5, 2.0), Prior(1.5, 1.8 + 1e-6 * k)
        return stay_or_go(here, k % 4, 0.6, there, gone_per_hour=0.6, travel_h=0.2, left_h=5.0)

    out["decide"] = _median_ms(decide, 40)
    return out


def part_waters(data: str) -> dict[str, float]:
    """Fifty waters with four passes each: listed, gone to; and a chart from 100,000 soundings of one's own."""
    import numpy as np

    from plumbbob.core.chart.soundings import Soundings
    from plumbbob.core.geodesy import Position
    from plumbbob.desk.app import make_application, open_window
    from plumbbob.formats.soundings import write_soundings
    from plumbbob.services.waters import Waters

    def sounded(latitude: float, longitude: float, side: int) -> Soundings:
        lat, lon = np.meshgrid(np.linspace(0, 0.012, side) + latitude, np.linspace(0, 0.016, side) + longitude)
        x, y = np.meshgrid(np.linspace(-1, 1, side), np.linspace(-1, 1, side))
        depth = 12.0 - 10.0 * np.minimum(x**2 + y**2, 1.1)
        zero = np.zeros(side * side)
        return Soundings(
            latitude=lat.ravel(), longitude=lon.ravel(), depth_m=depth.ravel(), water_level_m=zero, time=zero
        )

    folder = Path(data)
    waters = Waters(folder / "waters")
    for k in range(50):
        water = waters.create(f"Water {k}", Position(40.0 + 0.2 * k, -40.0))
        for n in range(4):
            part = sounded(40.0 + 0.2 * k + 0.003 * n, -40.0, 40)
            waters.folder(water).add_pass(f"pass {n}", part)
            water = waters.reach(water, part.latitude, part.longitude)
    began = time.perf_counter()
    listed = waters.all()
    listing = time.perf_counter() - began
    app = make_application()
    window = open_window(folder, None)
    window.resize(1280, 800)
    session = window.session
    _wait(app, lambda: session.logbook.is_open and not session.jobs.live)
    window.tasks.waters.go(listed[0])  # once, so that libraries are there
    _wait(app, lambda: session.chart.chart is not None and not session.jobs.live)
    took = []
    for water in (listed[1], listed[0], listed[1]):  # the first time its chart is made, then it is kept
        began = time.perf_counter()
        window.tasks.waters.go(water)
        _wait(app, lambda: session.chart.chart is not None and window.picture("chart").rendered is not None)
        took.append(time.perf_counter() - began)
        _wait(app, lambda: not session.jobs.live)
    own = folder / "own lake.csv"
    write_soundings(own, sounded(20.0, -30.0, 317))
    before = session.chart.chart
    began = time.perf_counter()
    window.open_files([own])
    _wait(app, lambda: session.questions.open is not None)
    session.questions.answer_name("Own lake")
    _wait(app, lambda: session.chart.chart not in (None, before) and window.picture("chart").rendered is not None)
    first = time.perf_counter() - began
    window.close()
    return {"list": listing, "new": took[0], "switch": max(took[1:]), "own": first}


PARTS = {"short": part_short, "start": part_start, "hour": part_hour, "read": part_read, "rig": part_rig}
PARTS |= {
    "day": part_day,
    "search": part_search,
    "spread": part_spread,
    "views": part_views,
    "chart": part_chart,
    "csv": part_csv,
    "lake": part_lake,
    "waters": part_waters,
    "long": part_long,
}


def write_csv(path: Path) -> None:
    """The big lake's soundings as a file."""
    import numpy as np

    from plumbbob.core.chart.soundings import Soundings
    from plumbbob.core.geodesy import Plane
    from plumbbob.formats.soundings import write_soundings

    x, y, d, _ = _big_lake()
    latitude, longitude = Plane(32624).to_latlon(416_000.0 + x, 4_894_000.0 + y)
    seconds = 1.7867e9 + np.arange(x.size) * 0.5
    write_soundings(
        path, Soundings(latitude=latitude, longitude=longitude, depth_m=d, water_level_m=0 * d, time=seconds)
    )


ROWS = (
    Row("window painted and answering after a warm start of the demo", "start", "usable", 2.5, "s"),
    Row("chart of Veyra Lake on screen after a warm start", "start", "chart", 2.5, "s"),
    Row("one hour: first screenful after choosing the file", "hour", "first", 0.5, "s"),
    Row("one hour: pan and zoom, median frame", "hour", "median", 16.0, "ms"),
    Row("one hour: pan and zoom, 99th percentile", "hour", "p99", 33.0, "ms"),
    Row("one hour: panning while it is being read, median frame", "hour", "busy_median", 16.0, "ms"),
    Row("one hour: panning while it is being read, 99th percentile", "hour", "busy_p99", 33.0, "ms"),
    Row("one hour: read, overview and all, with the window open", "hour", "whole", 30.0, "s"),
    Row("one hour: peak memory with it open and read", "hour", "peak", 500.0, "MB"),
    Row("one hour: read on one core, times recorded time", "read", "times", 300.0, "x", at_least=True),
    Row("scan of a two-ping file, start-up and all", "short", "startup", 0.6, "s"),
    Row(
        "demo pass by the command line, without start-up, times recorded time",
        "short",
        "times",
        150.0,
        "x",
        at_least=True,
    ),
    Row("eight hours: first screenful after choosing the file", "long", "first", 0.5, "s"),
    Row("eight hours: peak memory with it open and read", "long", "peak", 600.0, "MB"),
    Row("eight hours: read, overview and all, with the window open", "long", "whole", 480.0, "s"),
    Row("one hour: peak memory of the reading alone", "read", "peak", 500.0, "MB"),
    Row("400,000 soundings to a grid of a million cells with spread", "chart", "grid", 5.0, "s"),
    Row("structure on that grid", "chart", "structure", 5.0, "s"),
    Row("1,000 new soundings merged", "chart", "merge", 0.3, "s"),
    Row("peak memory of grid and structure", "chart", "peak", 1000.0, "MB"),
    Row("error over that of scipy's linear triangles, same soundings", "chart", "share", 0.8, ""),
    Row("(scipy's triangles took)", "chart", "triangles", 99.0, "s"),
    Row("400,000 soundings read from CSV and cleaned", "csv", "csv", 3.0, "s"),
    Row("chart: window dragged, median frame", "lake", "window", 33.0, "ms"),
    Row("chart: level dragged, median frame", "lake", "level", 33.0, "ms"),
    Row("chart: wind (tilt) dragged, median frame", "lake", "tilt", 33.0, "ms"),
    Row("chart: panned with contours, median frame", "lake", "pan", 100.0, "ms"),
    Row("chart: contours after rest", "lake", "contours", 0.6, "s"),
    Row("chart: peak memory of the window on Veyra Lake", "lake", "peak", 1000.0, "MB"),
    Row("the day over Veyra Lake: first plan after one key", "day", "plan", 3.0, "s"),
    Row("the day: first answer after a drag, slowest of eight", "day", "drag", 0.3, "s"),
    Row("the veil: cells times bands", "search", "cells", 200_000.0, "", at_least=True),
    Row("the veil: 129 looks on them", "search", "veil", 100.0, "ms"),
    Row("stay or go, a decision", "search", "decide", 5.0, "ms"),
    Row("fifty waters of four passes: listed", "waters", "list", 0.2, "s"),
    Row("another water, chart kept: usable picture", "waters", "switch", 1.0, "s"),
    Row("another water for the first time: usable picture", "waters", "new", 3.0, "s"),
    Row("100,000 soundings of one's own: a named water with its chart", "waters", "own", 10.0, "s"),
    Row("sides: scrolled, median frame", "views", "slant_median", 16.7, "ms"),
    Row("sides: scrolled, 99th percentile", "views", "slant_p99", 33.0, "ms"),
    Row("sides: scrolled in ground range, median frame", "views", "ground_median", 16.7, "ms"),
    Row("ahead: a frame with a cast planned, median", "views", "ahead_frame", 66.0, "ms"),
    Row("ahead: share of a core at 15 frames a second", "views", "ahead_share", 0.5, ""),
    Row("sides: read with the view down, times recorded time", "views", "side_times", 20.0, "x", at_least=True),
    Row("ahead: read, times recorded time", "views", "forward_times", 10.0, "x", at_least=True),
    Row("rods: a steady solution, median", "rig", "tow", 0.5, "ms"),
    Row("rods: in a sheared current", "rig", "sheared", 1.5, "ms"),
    Row("rods: line for a depth, median", "rig", "inverse", 1.5, "ms"),
    Row("rods: an answer with its spread, median of all ways", "rig", "answer", 4.0, "ms"),
    Row("rods: an answer with its spread, slowest way", "rig", "answer_worst", 8.0, "ms"),
    Row("rods: eight solved and drawn while the speed is dragged, median", "spread", "all", 16.0, "ms"),
    Row("rods: one of eight solved, all drawn while its lure is dragged", "spread", "one", 16.0, "ms"),
    Row("rods: ten minutes of six lines in motion", "rig", "motion", 5.0, "s"),
    Row("rods: motion against a four times smaller step, depth rms", "rig", "motion_off", 0.1, "m"),
    Row("rods: motion against a four times smaller step, median share", "rig", "motion_share", 1.0, "%"),
    Row("rods: closed form of a weightless line, largest error in depth", "rig", "closed", 0.1, "%"),
    Row("rods: tight integration, largest error in depth", "rig", "tight", 0.5, "%"),
)


def main() -> int:
    """Measure everything and print the table."""
    path = hour_recording()
    found: dict[str, dict[str, float]] = {}
    with tempfile.TemporaryDirectory() as data:
        child("start", data)  # once to warm the disk
        found["start"] = child("start", data)
        with tempfile.TemporaryDirectory() as other:
            found["hour"] = child("hour", str(path), other)
        csv = Path(data) / "soundings.csv"
        write_csv(csv)
        found["csv"] = child("csv", str(csv))
        child("lake", data)  # once to make the lake's soundings
        for part in ("lake", "day", "views", "spread"):
            found[part] = child(part, data)
    found["chart"] = child("chart")
    found["read"] = child("read", str(path), one_core=True)
    with tempfile.TemporaryDirectory() as data:
        found["waters"] = child("waters", data)
    with tempfile.TemporaryDirectory() as data:
        found["long"] = child("long", str(long_recording(path)), data)
    for part in ("short", "rig", "search"):
        found[part] = child(part)
    table = Table(title="Plumbbob bench")
    heads = ("what", "left"), ("measured", "right"), ("limit", "right"), ("yardsticks", "right"), ("", "left")
    for head, side in heads:
        table.add_column(head, justify=side)
    good = True
    for row in ROWS:
        measured = found[row.part][row.key]
        sign, kept = "≥" if row.at_least else "≤", row.kept(measured)
        good = good and kept
        pace = row.in_yardsticks(measured, found[row.part]["yardstick"])
        numbers = f"{measured:.2f} {row.unit}", f"{sign} {row.limit:g} {row.unit}", pace
        table.add_row(row.what, *numbers, "kept" if kept else "NOT KEPT")
    console = Console(width=116)
    console.print(table)
    sticks = sorted(f["yardstick"] * 1e3 for f in found.values())
    console.print(
        f"Yardstick (a set matrix product and a set loop, beside each part): {sticks[0]:.0f} to {sticks[-1]:.0f} ms."
    )
    return 0 if good else 1


if __name__ == "__main__":
    if len(sys.argv) > 2 and sys.argv[1] == "--part":
        measured = PARTS[sys.argv[2]](*sys.argv[3:])
        print(json.dumps({**measured, "yardstick": yardstick()}))
        sys.exit(0)
    sys.exit(main())
