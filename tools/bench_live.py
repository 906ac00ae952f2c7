"""
Listening measured: `./run bench live [--soak SECONDS] [--speed TIMES]`.

The window with all views open while a sounder of 15 pings a second and 800 samples plays; then a long soak without a
window, whose recording is held against what was sent. The stand-in is a process of its own.
"""

from __future__ import annotations

import argparse
import json
import os
import resource
import subprocess
import sys
import tempfile
import time
from dataclasses import replace
from pathlib import Path

import numpy as np
from rich.console import Console
from rich.table import Table

from plumbbob.core.geodesy import offset
from plumbbob.core.sonar.recording import Track

SOAK_S, SOAK_SPEED = 60.0, 50.0
_PRESSES, _RADIUS_M = 200, 40.0


def _rss_mb() -> float:
    pages = int(Path("/proc/self/statm").read_text().split()[1])
    return pages * os.sysconf("SC_PAGE_SIZE") / 1e6


def _cpu_s() -> float:
    used = resource.getrusage(resource.RUSAGE_SELF)
    return used.ru_utime + used.ru_stime


def _stand_in(folder: Path, speed: float, *, views: bool) -> tuple[subprocess.Popen[str], dict[str, str]]:
    """A stand-in in another process, and where it is heard."""
    code = f"""
import json, sys
from pathlib import Path
from plumbbob.formats.recording import read_recording
from plumbbob.sim.serve import StandIn
played = [read_recording(Path(p)) for p in {[str(p) for p in sorted(folder.glob("play*.nc"))]!r}]
stand_in = StandIn(played if {views} else played[:1], speed={speed})
stand_in.start()
print(json.dumps({{w: p.number for w, p in stand_in.ports.items()}}), flush=True)
sys.stdin.read()
stand_in.stop()
print(json.dumps(stand_in.sent), flush=True)
"""
    process = subprocess.Popen(
        [sys.executable, "-c", code], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True, bufsize=1
    )
    assert process.stdout is not None
    return process, json.loads(process.stdout.readline())


def _end(process: subprocess.Popen[str]) -> dict[str, int]:
    out, _ = process.communicate("\n", timeout=30)
    return json.loads(out.strip().splitlines()[-1])


def make_played(folder: Path) -> None:
    """What is played: down as fast as is asked for, to the sides and ahead as the demo has them."""
    from plumbbob.formats.recording import write_recording
    from plumbbob.sim import veyra
    from plumbbob.sim.down import simulate

    for k, scene in enumerate((veyra.long_day(3.0), veyra.side_pass(), veyra.ahead_pass())):
        recording, _ = simulate(scene, 7)
        if k:  # the first one's view down is the one that counts
            recording = replace(recording, down=None, track=None)
        elif recording.track is not None:
            recording = replace(recording, track=_round(recording.track))
        write_recording(folder / f"play{k}.nc", recording)


def _round(track: Track) -> Track:
    """The boat goes round, so that it is played over and over without a jump."""
    span = float(track.time[-1] - track.time[0]) + 1.0
    turn = 2.0 * np.pi * (track.time - track.time[0]) / span
    speed = 2.0 * np.pi * _RADIUS_M / span
    latitude, longitude = offset(44.21, -40.06, _RADIUS_M * np.sin(turn), _RADIUS_M * np.cos(turn))
    course = (90.0 + np.degrees(turn)) % 360.0
    speeds = np.full(len(track), speed)
    return replace(track, latitude=latitude, longitude=longitude, speed_mps=speeds, course_deg=course)


def window_part(folder: Path) -> dict[str, float]:
    """All views over one window: work, delays, the time of a key to the disk."""
    from PySide6.QtCore import Qt
    from PySide6.QtTest import QTest

    from plumbbob.desk.app import make_application, open_window

    process, ports = _stand_in(folder, 1.0, views=True)
    app = make_application()
    window = open_window(folder / "data", None)
    window.resize(1280, 800)
    window.show()
    session, scan = window.session, window.session.scan

    def spin(seconds: float, until=lambda: False) -> None:
        end = time.monotonic() + seconds
        while time.monotonic() < end and not until():
            app.processEvents()
            time.sleep(0.004)

    spin(30.0, lambda: session.logbook.is_open)
    spin(3.0)
    began, at = time.monotonic(), _cpu_s()
    spin(10.0)
    rest = (_cpu_s() - at) / (time.monotonic() - began)
    # the loop that lets the window run is not the window's own
    kinds = [("nmea" if w == "nmea" else "gpsd" if w == "gpsd" else "pings", p) for w, p in ports.items()]
    wires = [(k, f"127.0.0.1:{p}" if k == "gpsd" else f"tcp://127.0.0.1:{p}") for k, p in kinds]
    window.tasks.listener.begin(wires)
    session.set_stage("scan")
    spin(30.0, lambda: scan.is_live and scan.document.is_read)
    spin(25.0)
    shown: list[float] = []
    read: list[float] = []
    picture = window.picture("down")
    paint = picture.paint

    def painted(painter) -> None:
        paint(painter)
        if scan.lead is not None:
            shown.append(time.time() - float(scan.lead.time[-1]))

    picture.paint = painted
    scan.read_on.connect(
        lambda: read.append(time.time() - float(scan.lead.time[np.flatnonzero(np.isfinite(scan.document.beds))[-1]]))
    )
    found: dict[str, float] = {"rest": rest}
    began, at = time.monotonic(), _cpu_s()
    spin(30.0)
    found["scan"] = (_cpu_s() - at) / (time.monotonic() - began)
    QTest.keyClick(window, Qt.Key.Key_F11)
    spin(3.0)
    began, at = time.monotonic(), _cpu_s()
    spin(20.0)
    found["deck"] = (_cpu_s() - at) / (time.monotonic() - began)
    took = []
    for _ in range(_PRESSES):
        spin(0.02)
        one = time.perf_counter()
        QTest.keyClick(window.focusWidget() or window, Qt.Key.Key_Space)
        took.append(1e3 * (time.perf_counter() - one))
    found["key_ms"] = float(np.percentile(took, 99))
    found["marks"] = len(session.logbook.marks)
    found["echo_ms"] = 1e3 * float(np.percentile(shown, 95))
    found["read_ms"] = 1e3 * float(np.median(read))
    window.tasks.listener.end()
    spin(10.0, lambda: not session.live.is_on)
    window.close()
    _end(process)
    return found


def soak_part(folder: Path, seconds: float, speed: float) -> dict[str, float]:
    """Hours in minutes: nothing good is missing, none invented, memory stays."""
    import threading

    from plumbbob.formats.recording import read_recording
    from plumbbob.services.live import LiveSession, Wire
    from plumbbob.services.live_echoes import LiveEchoes

    process, ports = _stand_in(folder, speed, views=False)
    wires = [Wire("pings" if w == "down" else w, "tcp", "127.0.0.1", p) for w, p in ports.items() if w != "gpsd"]
    out = folder / "soak.nc"
    echoes = LiveEchoes(out.name)
    session = LiveSession(out, wires, lambda told: None, on_fix=echoes.take_fix, on_pings=echoes.take_pings)
    runner = threading.Thread(target=session.run)
    runner.start()
    time.sleep(min(seconds / 4, 120.0))
    early, at, began = _rss_mb(), _cpu_s(), time.monotonic()
    time.sleep(seconds - min(seconds / 4, 120.0))
    late, share = _rss_mb(), (_cpu_s() - at) / (time.monotonic() - began)
    sent = _end(process)
    time.sleep(2.0)
    session.stop()
    runner.join()
    recording = read_recording(out)
    down, track = recording.down, recording.track
    assert down is not None
    assert track is not None
    played = read_recording(folder / "play0.nc").down
    assert played is not None
    # every ping on disk is one that was sent, and follows the one that was sent before it
    number = {row.tobytes(): k for k, row in enumerate(played.echo.read(0, len(played)))}
    came: list[int] = []
    for start in range(0, len(down), 4096):
        came += [number.get(row.tobytes(), -1) for row in down.echo.read(start, start + 4096)]
    steps = np.diff(np.array(came)) % len(played)
    return {
        "hours": seconds * speed / 3600.0,
        "grew_mb": late - early,
        "cpu": share,
        "missing": float(sent["down"] - len(down)),
        "fixes_missing": float(sent["fix"] - len(track)),
        "gaps": float((steps != 1).sum()),
        "invented": float(came.count(-1)),
    }


def main() -> int:
    """Measure and print."""
    given = argparse.ArgumentParser(prog="./run bench live")
    given.add_argument("--soak", type=float, default=SOAK_S, help="seconds of the soak; 864 at 50 times are 12 hours")
    given.add_argument("--speed", type=float, default=SOAK_SPEED)
    given.add_argument("--only", choices=("window", "soak"))
    asked = given.parse_args()
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    for name in ("OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS"):
        os.environ.setdefault(name, "1")
    table = Table(title="Plumbbob bench: live")
    for head in ("what", "measured", "limit", ""):
        table.add_column(head)
    good = True

    def row(what: str, value: float, limit: float, form: str) -> None:
        nonlocal good
        good = good and value <= limit
        table.add_row(what, form.format(value), "≤ " + form.format(limit), "kept" if value <= limit else "NOT KEPT")

    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        make_played(folder)
        if asked.only != "soak":
            found = window_part(folder)
            row("at rest, nothing listened to: of a core", 100 * found["rest"], 3.0, "{:.1f} %")
            row("Scan, 15 pings a second, all views heard: of a core", 100 * found["scan"], 40.0, "{:.0f} %")
            row("on deck, the same: of a core", 100 * found["deck"], 40.0, "{:.0f} %")
            row("echo to screen, 95 %", found["echo_ms"], 150.0, "{:.0f} ms")
            row("echo to preliminary reading, median", found["read_ms"], 1000.0, "{:.0f} ms")
            row(f"key to mark on disk, 99 % of {_PRESSES}", found["key_ms"], 50.0, "{:.1f} ms")
            row("marks that are missing", _PRESSES - found["marks"], 0.0, "{:.0f}")
        if asked.only != "window":
            found = soak_part(folder, asked.soak, asked.speed)
            row(f"soak of {found['hours']:.1f} hours: memory grew", found["grew_mb"], 50.0, "{:.1f} MB")
            row("pings missing (those before the wire was open are)", found["missing"], 200.0, "{:.0f}")
            row("fixes missing", found["fixes_missing"], 20.0, "{:.0f}")
            row("pings that do not follow the one before", found["gaps"], 0.0, "{:.0f}")
            row("pings that were not sent", found["invented"], 0.0, "{:.0f}")
            row("work at that speed: of a core", 100 * found["cpu"], 100.0, "{:.0f} %")
    Console(width=110).print(table)
    return 0 if good else 1


if __name__ == "__main__":
    sys.exit(main())
