"""Killed fifty times at random moments of writing: nothing acknowledged is lost, nothing is there by half."""

import json
import subprocess
import sys
import textwrap
from contextlib import closing

from plumbbob.store.opening import open_log
from plumbbob.store.values import Catch, Mark, Trip

KILLS = 50
SCRIPT = """
import json, os, random, signal, sys, time
from dataclasses import replace
from pathlib import Path
from plumbbob.store.opening import open_log
from plumbbob.store.values import Catch, Mark, MarkKind, Trip

path, kills = Path(sys.argv[1]), int(sys.argv[2])
rng, found = random.Random(5), []
for _ in range(kills):
    told, tell = os.pipe()
    child = os.fork()
    if child == 0:
        log = open_log(path).log
        n = len(log.read(Mark))
        while True:
            mark = Mark(water="x", kind=MarkKind.FISH, time=float(n), latitude=1.0, longitude=2.0,
                        note="y" * (n % 700))
            saved = log.apply([Trip(ref=f"t{n}", water="x", start=float(n)), mark,
                               Catch(mark_id=0, trip=f"t{n}", time=float(n), species="kokanee")])
            if n % 3 == 0:
                log.apply([replace(saved[2], kept=True)])
            n += 1
            os.write(tell, f"{n}\\n".encode())
    os.close(tell)
    first = os.read(told, 64)
    time.sleep(rng.uniform(0.0, 0.03))
    os.kill(child, signal.SIGKILL)
    os.waitpid(child, 0)
    text = first
    while part := os.read(told, 65536):
        text += part
    os.close(told)
    log = open_log(path).log
    found.append([int(text.split()[-1]), *(len(log.read(c)) for c in (Trip, Mark, Catch)), log.unreadable])
    log.close()
print(json.dumps(found))
"""


def test_fifty_kills_while_writing_lose_nothing(tmp_path):
    path = tmp_path / "log.db"
    done = subprocess.run(
        [sys.executable, "-c", textwrap.dedent(SCRIPT), str(path), str(KILLS)],
        capture_output=True, text=True, check=True, timeout=110,
    )  # fmt: skip
    found = json.loads(done.stdout)
    assert len(found) == KILLS
    for acknowledged, trips, marks, catches, unreadable in found:
        assert trips == marks == catches >= acknowledged
        assert unreadable == 0
    with closing(open_log(path).log) as log:
        refs = set(log.read(Trip).cells("ref"))
        assert {c.trip for c in log.read(Catch)} <= refs
        assert {c.mark_id for c in log.read(Catch)} <= set(log.read(Mark).cells("id"))
