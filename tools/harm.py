"""
What a kill or a damaged disk costs: `./run harm kills|logs|recordings [N] [SEED]`.

`kills` lets a process open a log and save marks, kills it with signal 9 at some moment, and looks whether every mark
that it was told was saved is there. `logs` damages the log, its write-ahead log or its copies in every way it knows,
opens it, and looks that nothing is lost which a good file still held, that no good copy is written over by a worse
one, and that the next opening has nothing to mend. `recordings` kills a process that records, likewise.
"""

from __future__ import annotations

import random
import shutil
import signal
import sqlite3
import subprocess
import sys
import tempfile
import time
from collections import Counter
from contextlib import closing
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parent.parent))

from tests.store.test_log import a_catch, a_mark

from plumbbob.store.copies import good_copies
from plumbbob.store.database import is_sound
from plumbbob.store.errors import StoreError
from plumbbob.store.opening import open_log

ROOT = Path(__file__).resolve().parent.parent
_WORKER = """
import sys
from pathlib import Path
from plumbbob.store.opening import open_log
from tests.store.test_log import a_mark
log = open_log(Path(sys.argv[1])).log
print("open", flush=True)
k = 0
while True:
    k += 1
    mark = log.add(a_mark(seen=k, note="x" * (k % 3000)))
    print(mark.id, flush=True)
    if k % 7 == 0:
        log.add(mark)
"""


def kills(number: int, seed: int) -> int:
    """So many kills, each of a process of its own; says how many acknowledged marks were lost."""
    rng, lost, saved, opening = random.Random(seed), 0, 0, 0
    folder = Path(tempfile.mkdtemp(prefix="kills-"))
    path = folder / "log.db"
    for k in range(number):
        if k % 25 == 0:
            shutil.rmtree(folder)
            folder.mkdir()
        worker = subprocess.Popen(
            [sys.executable, "-c", _WORKER, str(path)],
            cwd=ROOT,
            stdout=subprocess.PIPE,
            stderr=subprocess.PIPE,
            text=True,
        )
        assert worker.stdout is not None
        if rng.random() < 0.3:  # while it is opening, or soon after
            time.sleep(rng.uniform(0.15, 0.7))
        else:
            worker.stdout.readline()
            time.sleep(rng.uniform(0.0, 0.12))
        worker.send_signal(signal.SIGKILL)
        told = [int(line) for line in worker.communicate()[0].split() if line.isdigit()]
        opening += not told
        opened = open_log(path)
        there = {m.id for m in opened.log.marks()}
        opened.log.close()
        gone = set(told) - there
        lost += len(gone)
        saved += len(told)
        if gone or opened.note:
            print(f"kill {k}: {len(gone)} lost; {opened.note}")
        if not is_sound(path):
            lost += 1
            print(f"kill {k}: the log is not sound")
    shutil.rmtree(folder)
    print(f"{number} kills ({opening} while opening), {saved} marks acknowledged, {lost} lost")
    return 1 if lost else 0


_RECORDER = """
import sys
import numpy as np
from pathlib import Path
from plumbbob.core.live.fixes import Fix
from plumbbob.formats.recording_append import GrowingRecording
from plumbbob.formats.wire_pings import WirePing, header_of
line = b'{"format": "plumbbob-pings", "version": 1, "view": "%s", "scale_factor": 0.3, "add_offset": -120.0, '
line += b'"sound_speed": 1480.0, "transducer_depth": 0.3, "frequency": 200000.0, "tvg": "40logR", %s}'
more = b'"beam_width_along": 0.9, "beam_width_across": 56.0'
growing = GrowingRecording(Path(sys.argv[1]))
growing.open_view(header_of(line % (b"down", b'"beam_width": 16.0, "pulse_length": 0.00015')))
growing.open_view(header_of(line % (b"side", more)))
rng = np.random.default_rng(3)
print(0, flush=True)
k = 0
while True:
    for i in range(8):
        when = 1e9 + k / 2 + i / 16
        for view, rows in (("down", 1), ("side", 2)):
            echo = rng.integers(0, 255, 800 * rows, dtype=np.uint8).tobytes()
            growing.add_ping(view, WirePing(when, 0.0, 0.02, 800, echo))
    growing.add_fix(Fix(time=1e9 + k / 2, latitude=44.2, longitude=-40.0))
    growing.commit()
    k += 1
    print(k, flush=True)
"""


def recordings(number: int, seed: int) -> int:
    """So many kills of a process that records; says how many pings that were told to be on disk were lost."""
    from plumbbob.files.errors import FileError
    from plumbbob.formats.recording import read_recording

    rng, lost, told = random.Random(seed), 0, 0
    with tempfile.TemporaryDirectory(prefix="kills-") as name:
        for k in range(number):
            path = Path(name) / f"{k}.nc"
            worker = subprocess.Popen([sys.executable, "-c", _RECORDER, str(path)], stdout=subprocess.PIPE, text=True)
            assert worker.stdout is not None
            worker.stdout.readline()
            time.sleep(rng.uniform(0.0, 1.2))
            worker.send_signal(signal.SIGKILL)
            commits = max((int(line) for line in worker.communicate()[0].split() if line.isdigit()), default=0)
            told += 16 * commits
            try:
                back = read_recording(path)
                views = [len(v) if v is not None else 0 for v in (back.down, back.side)]
                fixes = len(back.track) if back.track is not None else 0
            except FileError as exc:
                views, fixes = [0, 0], 0
                print(f"kill {k}: {exc}")
            gone = sum(max(8 * commits - n, 0) for n in views) + max(commits - fixes, 0)
            lost += gone
            if gone:
                print(f"kill {k}: {gone} lost of {commits} commits")
            path.unlink(missing_ok=True)
    print(f"{number} kills, {told} pings told to be on disk, {lost} lost")
    return 1 if lost else 0


def damage(path: Path, rng: random.Random) -> str:
    """Damage a file in one of many ways; says how."""
    data = bytearray(path.read_bytes())
    how = rng.choice(("gone", "empty", "cut", "bit", "bits", "zeros", "noise", "page", "head", "swap"))
    if how == "gone":
        path.unlink()
        return how
    at = rng.randrange(max(len(data), 1))
    if how == "empty":
        data.clear()
    elif how == "cut":
        del data[at:]
    elif how in ("bit", "bits"):
        for _ in range(1 if how == "bit" else 40):
            data[rng.randrange(len(data))] ^= 1 << rng.randrange(8)
    elif how == "zeros":
        size = min(rng.choice((16, 512, 4096, 20_000)), len(data) - at)
        data[at : at + size] = bytes(size)
    elif how == "noise":
        size = min(rng.choice((16, 512, 4096, 20_000)), len(data) - at)
        data[at : at + size] = rng.randbytes(size)
    elif how == "page":
        page = 4096 * rng.randrange(max(len(data) // 4096, 1))
        data[page : page + 4096] = data[: len(data[page : page + 4096])]
    elif how == "head":
        data[:100] = rng.randbytes(100)
    elif how == "swap" and len(data) >= 12_288:
        a, b = rng.sample(range(1, len(data) // 4096), 2) if len(data) // 4096 > 2 else (0, 1)
        first, second = data[4096 * a : 4096 * a + 4096], data[4096 * b : 4096 * b + 4096]
        data[4096 * a : 4096 * a + 4096], data[4096 * b : 4096 * b + 4096] = second, first
    path.write_bytes(bytes(data))
    return how


def _made(folder: Path, rng: random.Random) -> tuple[Path, set[int], set[int]]:
    """A log of some days with its copies: its path, the marks in the newest copy, and all marks."""
    path = folder / "log.db"
    log = open_log(path).log
    for k in range(rng.randrange(3, 60)):
        mark = log.add(a_mark(seen=k + 1, note="x" * rng.choice((0, 20, 900))))
        log.add(a_catch(mark.id))
    log.close()
    log = open_log(path).log
    copied = {m.id for m in log.marks()}
    for k in range(rng.randrange(0, 12)):
        log.add(a_mark(seen=k + 1))
    everything = {m.id for m in log.marks()}
    if rng.random() < 0.3:
        # as a kill leaves it: the newest marks only in the write-ahead log
        for tail in ("", "-wal", "-shm"):
            shutil.copy(f"{path}{tail}", folder / f"kept{tail}")
        log.close()
        for tail in ("", "-wal", "-shm"):
            shutil.move(folder / f"kept{tail}", f"{path}{tail}")
    else:
        log.close()
    return path, copied, everything


def logs(number: int, seed: int) -> int:
    """So many damaged logs; says what was lost that need not have been."""
    rng, bad, what = random.Random(seed), 0, Counter[str]()
    for k in range(number):
        folder = Path(tempfile.mkdtemp(prefix="logs-"))
        path, copied, everything = _made(folder, rng)
        how = damage(path, rng)
        also = rng.random() < 0.25
        if also:
            how += f" and copy {damage(good_copies(path)[0], rng)}"
        good = [p.name for p in good_copies(path) if is_sound(p)]
        trouble = ""
        try:
            opened = open_log(path)
            found = {m.id for m in opened.log.marks()}
            unread = opened.log.unreadable
            opened.log.close()
            if good and not found >= copied and len(found) + unread < len(copied):
                trouble = f"{len(copied - found)} marks of the good copy are gone"
            if not found <= everything and not how.startswith(("bit", "bits", "noise", "zeros", "page", "swap")):
                trouble = "marks that never were"
            before = sorted(p.name for p in folder.glob("*damaged*"))
            again = open_log(path)
            if "damaged" in again.note or {m.id for m in again.log.marks()} != found:
                trouble = f"the second opening differs: {again.note}"
            again.log.close()
            if sorted(p.name for p in folder.glob("*damaged*")) != before:
                trouble = "set aside again"
            if not any(_rows(p) >= len(found) for p in good_copies(path) if is_sound(p)):
                trouble = "no good copy of what is open"
            what["mended" if opened.note else "opened"] += 1
        except StoreError as exc:
            # only a version number that was hit may stop it: a newer program's log is left alone
            if "newer" not in str(exc):
                trouble = str(exc)
            what["refused as newer"] += 1
        if trouble:
            bad += 1
            print(f"log {k} ({how}): {trouble}")
        shutil.rmtree(folder)
    print(f"{number} damaged logs: {dict(what)}; {bad} wrong")
    return 1 if bad else 0


def _rows(path: Path) -> int:
    with closing(sqlite3.connect(path)) as db:
        return int(db.execute("SELECT count(*) FROM mark").fetchone()[0])


if __name__ == "__main__":
    given = sys.argv[1:] or ["logs"]
    act = {"kills": kills, "logs": logs, "recordings": recordings}.get(given[0])
    if act is None:
        sys.exit("kills, logs or recordings")
    sys.exit(act(int(given[1]) if len(given) > 1 else 100, int(given[2]) if len(given) > 2 else 1))
