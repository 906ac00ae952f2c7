"""Drives the window at random: `./run drive [SECONDS] [SEED]`; says what broke, the longest stall and the memory."""

from __future__ import annotations

import gc
import os
import sys
import tempfile
import time
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
sys.path.insert(0, str(Path(__file__).resolve().parent.parent))

from tests.desk.driver import Driver, settle
from tests.fuzz_seeds import seeds_of

from plumbbob.desk.app import DEMO_RECORDING, make_application, open_window
from plumbbob.formats.waters import data_path

_KINDS = {
    "recording": "nc", "xtf": "xtf", "soundings": "csv", "geojson": "geojson", "geopackage": "gpkg", "raster": "tif",
    "nmea": "nmea", "tackle": "csv", "profile": "csv", "gpx": "gpx", "picture": "png",
}  # fmt: skip


def some_files(folder: Path) -> list[Path]:
    """Good files of every kind, and each with its second half missing."""
    out = []
    for kind, ending in _KINDS.items():
        for k, data in enumerate(seeds_of(kind)):
            for name, content in ((f"{kind}{k}", data), (f"{kind}{k}-cut", data[: len(data) // 2])):
                path = folder / f"{name}.{ending}"
                path.write_bytes(content)
                out.append(path)
    return out


def memory_mb() -> float:
    """What the process holds now."""
    with open("/proc/self/statm", encoding="ascii") as file:
        return int(file.read().split()[1]) * os.sysconf("SC_PAGE_SIZE") / 1e6


def main(seconds: float, seed: int) -> int:
    """Drive for a while; 1 if anything broke."""
    app = make_application()
    folder = Path(tempfile.mkdtemp(prefix="drive-"))
    (folder / "files").mkdir()
    (folder / "out").mkdir()
    files = some_files(folder / "files")
    window = open_window(folder / "data", data_path(DEMO_RECORDING), demo=True)
    window.resize(1280, 800)
    settle(window)
    driver = Driver(window, files, folder / "out", seed)
    begin, marks = time.monotonic(), {}

    def each(k: int) -> None:
        minute = int((time.monotonic() - begin) / 60)
        if minute not in marks:
            gc.collect()
            marks[minute] = memory_mb()
            print(f"minute {minute}: {k} actions, {marks[minute]:.0f} MB, {len(driver.errors)} errors", flush=True)

    count = driver.run(seconds, each=each)
    settle(window)
    driver.close()
    after = [m for minute, m in marks.items() if minute >= 10]
    print(f"seed {seed}: {count} actions in {seconds:.0f} s, {len(driver.errors)} errors")
    for what, took in sorted(driver.stalls.items(), key=lambda pair: -pair[1])[:12]:
        print(f"stall {took:.2f} s: {what}")
    if after:
        print(f"memory from minute 10 on: {min(after):.0f} to {max(after):.0f} MB, at the end {memory_mb():.0f} MB")
    for text in dict.fromkeys(e[e.index("\n") :] for e in driver.errors):
        print(text)
    for text in driver.errors[:3]:
        print(text.splitlines()[0])
    window.close()
    app.processEvents()
    return 1 if driver.errors else 0


if __name__ == "__main__":
    status = main(float(sys.argv[1]) if len(sys.argv) > 1 else 60.0, int(sys.argv[2]) if len(sys.argv) > 2 else 1)
    sys.stdout.flush()
    os._exit(status)
