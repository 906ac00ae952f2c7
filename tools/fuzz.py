"""
Feeds every reader broken files: `./run fuzz [READER ...] [MINUTES]`, in all so many minutes (default 10).

A reader may take a file or refuse it with one line; anything else is a find: another error, more than ten seconds,
more than 2 GB. Coverage-guided where atheris is installed (`./run fuzz` sees to it), else by plain mutation. What is
found is kept in `build/fuzz/READER/`; the smallest of each belongs into `tests/corpus/READER/`, read by the tests.
"""

from __future__ import annotations

import json
import os
import random
import resource
import shutil
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT))
FINDS = ROOT / "build" / "fuzz"
SECONDS_EACH, MOST_BYTES = 10, 2_000_000_000
_ODD = (b"\x00", b"\xff", b"-", b"9" * 40, b"1e999", b"nan", b"\x1b[31m", b"\n", b",,,", b"[" * 300, b"\xe2\x80\xae")


# -- what is read ------------------------------------------------------------------------------------------------


def _recording(path: Path) -> None:
    from plumbbob.core.sonar.views import read_views
    from plumbbob.formats.any_recording import read_any
    from plumbbob.formats.reading_json import reading_json
    from plumbbob.formats.recording import close_recording

    opened = read_any(path)
    try:
        pings = max((len(v) for v in (opened.down, opened.side, opened.forward) if v is not None), default=0)
        if pings <= 700:
            json.dumps(reading_json(read_views(opened)), allow_nan=False)
    finally:
        close_recording(opened)


def _soundings(path: Path) -> None:
    from plumbbob.core.chart.grid import GridSettings, make_grid
    from plumbbob.core.chart.soundings import clean
    from plumbbob.files.errors import FileError
    from plumbbob.formats.soundings import read_soundings

    found = read_soundings(path).soundings
    if len(found) <= 500:
        try:
            cleaned = clean(found)
            kept = cleaned.kept
            make_grid(cleaned.x[kept], cleaned.y[kept], cleaned.depth_m[kept], GridSettings(cell_m=20.0))
        except ValueError as exc:
            raise FileError(path, "", str(exc)) from exc


def _rig(path: Path) -> None:
    from plumbbob.files.errors import FileError
    from plumbbob.files.json_text import read_json
    from plumbbob.services.rig import answer_request

    asked = read_json(path, 100_000)
    try:
        json.dumps(answer_request(asked), allow_nan=False)
    except ValueError as exc:
        raise FileError(path, "", str(exc)) from exc


def _of(module: str, name: str) -> Callable[[Path], None]:
    def read(path: Path) -> None:
        __import__(module)
        getattr(sys.modules[module], name)(path)

    return read


def _shore(path: Path) -> None:
    from plumbbob.formats.water_folder import WaterFolder

    folder = WaterFolder(path.parent)
    folder.shore()
    folder.profile()
    folder.passes()


def _water(path: Path) -> None:
    from plumbbob.formats.waters import read_water

    read_water(path.parent)


def _backup(path: Path) -> None:
    from plumbbob.services.archive import restore
    from plumbbob.services.door import unpacked
    from plumbbob.services.waters import Waters

    with tempfile.TemporaryDirectory() as folder:
        restore(Waters(Path(folder)), path)
        unpacked(path, Path(folder))


def _door(path: Path) -> None:
    from plumbbob.services.door import what_is

    what_is(path)


def _grid(path: Path) -> None:
    from plumbbob.formats.chart_cache import load_grid

    load_grid(path, "key")


def _log(path: Path) -> None:
    """A damaged log opens, or says in one line why not."""
    from plumbbob.files.errors import FileError
    from plumbbob.store.errors import StoreError
    from plumbbob.store.opening import open_log

    try:
        open_log(path).log.close()
    except StoreError as exc:
        raise FileError(path, "", str(exc)) from exc
    finally:
        for extra in path.parent.glob("log*"):
            extra.unlink(missing_ok=True)


def _log_files(path: Path) -> None:
    """A log as open files, read whole and prepared for sharing."""
    from plumbbob.formats.log_archive import opened_log
    from plumbbob.services.share_cells import Positions, shareable

    with opened_log(path) as opened:
        shareable({t: [r.cells for r in raw.rows] for t, raw in opened.raw.tables.items()}, Positions.AREA)
        for name in opened.raw.files:
            with opened.opened(name) as file:
                file.read()


def _catches(path: Path) -> None:
    """A table of catches by its own guesses."""
    from datetime import UTC

    from plumbbob.core.units import System
    from plumbbob.formats.catch_csv import caught, date_orders, guess, read_sheet

    sheet = read_sheet(path)
    mapping = guess(sheet)
    for order in date_orders(sheet, mapping) or [None]:
        caught(sheet, mapping, order, System.METRIC, UTC)


def _picture(path: Path) -> None:
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from plumbbob.desk.tasks.load_picture import read_pixels

    read_pixels(path)


READERS: dict[str, tuple[str, Callable[[Path], None]]] = {
    "recording": ("x.nc", _recording),
    "xtf": ("x.xtf", _recording),
    "soundings": ("x.csv", _soundings),
    "nmea": ("x.nmea", _of("plumbbob.formats.nmea", "read_nmea")),
    "raster": ("x.tif", _of("plumbbob.formats.raster", "read_raster")),
    "geojson": ("x.geojson", _of("plumbbob.formats.vectors", "read_vectors")),
    "geopackage": ("x.gpkg", _of("plumbbob.formats.vectors", "read_vectors")),
    "shapefile": ("x.shp", _of("plumbbob.formats.vectors", "read_vectors")),
    "gml": ("x.gml", _of("plumbbob.formats.vectors", "read_vectors")),
    "kml": ("x.kml", _of("plumbbob.formats.vectors", "read_vectors")),
    "s57": ("x.000", _of("plumbbob.formats.vectors", "read_vectors")),
    "gpx": ("x.gpx", _of("plumbbob.formats.gpx", "read_track")),
    "waypoints": ("x.gpx", _of("plumbbob.formats.gpx", "read_gpx")),
    "echosounder": ("x.nc", _of("plumbbob.formats.sonar_netcdf", "read_sonar_netcdf")),
    "water": ("water.json", _water),
    "backup": ("x.zip", _backup),
    "door": ("x", _door),
    "profile": ("x.csv", _of("plumbbob.formats.profile", "read_profile")),
    "tackle": ("x.csv", _of("plumbbob.formats.tackle_csv", "read_tackle")),
    "corrections": ("x.json", _of("plumbbob.formats.corrections", "read_corrections")),
    "scale": ("x.json", _of("plumbbob.formats.picture_scale", "read_scale")),
    "evidence": ("x.csv", _of("plumbbob.formats.evidence", "read_evidence")),
    "shore": ("shore.geojson", _shore),
    "grid": ("grid.npz", _grid),
    "rig": ("x.json", _rig),
    "log": ("log.db", _log),
    "log_files": ("x.log.zip", _log_files),
    "catches": ("x.csv", _catches),
    "picture": ("x.png", _picture),
}


def read_one(name: str, data: bytes, folder: Path) -> None:
    """Give a reader some bytes as a file; anything but a refusal in one line is raised."""
    from plumbbob.files.errors import FileError

    file_name, read = READERS[name]
    path = folder / file_name
    path.write_bytes(data)
    try:
        read(path)
    except FileError as exc:
        line = str(exc)
        if not line.isprintable() or len(line) > 400:
            raise AssertionError(f"the refusal is no single line: {line!r}") from exc


# -- what is good ------------------------------------------------------------------------------------------------


def seeds(name: str) -> list[bytes]:
    """Good files to begin with."""
    from tests.fuzz_seeds import seeds_of

    return seeds_of(name)


# -- one reader for a while --------------------------------------------------------------------------------------


def mutated(data: bytes, others: list[bytes], rng: random.Random) -> bytes:
    """A good file with some of it broken."""
    made = bytearray(data)
    for _ in range(rng.choice((1, 1, 1, 2, 4, 16))):
        at = rng.randrange(len(made) + 1)
        what = rng.randrange(8)
        if what == 0 and made:
            made[at % len(made)] ^= 1 << rng.randrange(8)
        elif what == 1 and made:
            made[at % len(made)] = rng.randrange(256)
        elif what == 2:
            made[at:at] = rng.choice(_ODD)
        elif what == 3:
            del made[at : at + rng.choice((1, 4, 64, 4096))]
        elif what == 4:
            del made[at:]
        elif what == 5 and made:
            size = rng.choice((1, 4, 64, 512))
            other = rng.choice(others)
            start = rng.randrange(len(other) + 1)
            made[at : at + size] = other[start : start + size]
        elif what == 6 and made:
            made[at : at + 4] = rng.choice((b"\xff\xff\xff\xff", b"\xff\xff\xff\x7f", b"\0\0\0\0", b"\0\0\0\x80"))
        elif what == 7:
            made[at:at] = made[at : at + rng.choice((8, 128, 2048))]
    return bytes(made)


def work(name: str, seconds: float, seed: int) -> None:
    """In a process of its own: mutate and read until the time is over. A find ends it with its bytes on disk."""
    resource.setrlimit(resource.RLIMIT_AS, (4 * MOST_BYTES, 4 * MOST_BYTES))
    folder = Path(tempfile.mkdtemp(prefix="fuzz-", dir="/dev/shm" if Path("/dev/shm").is_dir() else None))
    here = FINDS / name
    here.mkdir(parents=True, exist_ok=True)
    good, rng, tried = seeds(name), random.Random(seed), 0
    current = here / f"current-{os.getpid()}"
    try:
        end = time.monotonic() + seconds
        for data in good:
            read_one(name, data, folder)
        while time.monotonic() < end:
            data = mutated(rng.choice(good), good, rng)
            current.write_bytes(data)  # a crash of a library leaves it behind
            start = time.monotonic()
            read_one(name, data, folder)
            took = time.monotonic() - start
            if took > SECONDS_EACH:
                raise AssertionError(f"took {took:.0f} s")
            tried += 1
        grown = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss * 1024
        if grown > MOST_BYTES:
            raise AssertionError(f"took {grown / 1e9:.1f} GB")
        current.unlink(missing_ok=True)
    finally:
        shutil.rmtree(folder, ignore_errors=True)
        print(f"tried {tried}", flush=True)


def guided(name: str, seconds: float) -> None:
    """The same with coverage as the guide; never returns."""
    import atheris

    with atheris.instrument_imports(include=["plumbbob"], enable_loader_override=False):
        import plumbbob.formats.any_recording
        import plumbbob.formats.corrections
        import plumbbob.formats.evidence
        import plumbbob.formats.gpx
        import plumbbob.formats.nmea
        import plumbbob.formats.picture_scale
        import plumbbob.formats.rig_request
        import plumbbob.formats.soundings
        import plumbbob.formats.vectors
        import plumbbob.formats.water_folder
        import plumbbob.services.rig  # noqa: F401

    here = FINDS / name
    corpus = here / "corpus"
    corpus.mkdir(parents=True, exist_ok=True)
    for k, data in enumerate(seeds(name)):
        (corpus / f"seed-{k}").write_bytes(data)
    folder = Path(tempfile.mkdtemp(prefix="fuzz-"))

    def one(data: bytes) -> None:
        read_one(name, data, folder)

    flags = [
        f"-max_total_time={max(int(seconds), 1)}",
        f"-artifact_prefix={here}/",
        "-max_len=300000",
        "-verbosity=0",
    ]
    flags += [f"-timeout={SECONDS_EACH}", f"-rss_limit_mb={MOST_BYTES // 1_000_000}", "-print_final_stats=1"]
    atheris.Setup([sys.argv[0], *flags, str(corpus)], one)
    atheris.Fuzz()


# -- all of them -------------------------------------------------------------------------------------------------


def _has_guide() -> bool:
    try:
        import atheris  # noqa: F401
    except ImportError:
        return False
    return True


def run(names: list[str], minutes: float) -> int:
    """Every reader its share of the time, guided and plain by turns; says what was tried and found."""
    finds = 0
    share = 60.0 * minutes / len(names)
    for name in names:
        modes: list[tuple[str, float]] = [("plain", share)]
        if _has_guide() and name not in ("log", "picture", "grid"):
            modes = [("plain", share / 2), ("guided", share / 2)]
        tried, end = 0, ""
        for mode, seconds in modes:
            left = time.monotonic() + seconds
            seed = 1
            while (rest := left - time.monotonic()) > 1.0:
                call = [sys.executable, __file__, f"--{mode}", name, f"{rest:.0f}", str(seed)]
                done = subprocess.run(call, capture_output=True, text=True, errors="replace", timeout=rest + 120)
                tried += _count(done.stdout + done.stderr)
                if done.returncode:
                    finds += 1
                    lines = (done.stderr.strip() or done.stdout.strip()).splitlines()
                    telling = [x for x in lines if "Error" in x or "timeout" in x.lower()] or lines
                    end = telling[-1][:150]
                    _keep(name, finds)
                    print(f"FIND {name} ({mode}): {end}", flush=True)
                seed += 1
        print(f"{name:12s} {tried:9d} inputs in {share:.0f} s", flush=True)
    print(f"{finds} finds")
    return 1 if finds else 0


def _count(said: str) -> int:
    total = 0
    for line in said.splitlines():
        words = line.split()
        if line.startswith(("tried ", "stat::number_of_executed_units:")):
            total += int(words[-1])
    return total


def _keep(name: str, number: int) -> None:
    for left in (FINDS / name).glob("current-*"):
        left.rename(left.with_name(f"find-{number}-{time.time():.0f}"))


def main(given: list[str]) -> int:
    """Readers by name and minutes, in any order."""
    if given and given[0] in ("--plain", "--guided"):
        mode, name, seconds, seed = given
        work(name, float(seconds), int(seed)) if mode == "--plain" else guided(name, float(seconds))
        return 0
    names: list[str] = []
    minutes = 10.0
    for word in given:
        if word in READERS:
            names.append(word)
            continue
        try:
            minutes = float(word)
        except ValueError:
            print(f"{word}: neither a reader nor minutes; readers are {', '.join(READERS)}", file=sys.stderr)
            return 2
    return run(names or list(READERS), minutes)


if __name__ == "__main__":
    arguments: Any = sys.argv[1:]
    sys.exit(main(arguments))
