"""
How a review does on made-up logs whose truth is known, and how quick it is: `./run bench review [LOGS [FIRST]]`.

Logs in which nothing matters, with one planted effect, and with a trap, as the made-up angler's seasons have them.
FIRST is the first seed: those under 100,000 were looked at while the review was made, the others never.
"""

from __future__ import annotations

import json
import os
import subprocess
import sys
import tempfile
import time
from collections import Counter
from dataclasses import dataclass, field
from multiprocessing import Pool
from pathlib import Path

os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
sys.path.insert(0, str(Path(__file__).resolve().parent.parent))

import numpy as np

from plumbbob.core.tally.luck import fit
from plumbbob.core.tally.rates import bin_rates
from plumbbob.core.tally.review import findings_and_same, prepared
from plumbbob.formats.log_archive import TableOut, write_log
from plumbbob.formats.log_frames import frames_of
from plumbbob.services.review_record import record_of
from plumbbob.sim.records import TRAPS, MadeRecord, made_record

EVIDENCE = ("thin", "fair", "plenty")
RATIOS = (4.0, 2.5, 1.6)
EFFORTS, CATCHES = 60_000, 20_000
_OVERLAP = 0.5


@dataclass(frozen=True)
class Case:
    """One log to make."""

    seed: int
    plant: bool = False
    evidence: str = ""
    trap: str = ""
    ratio: float = 0.0


@dataclass
class Score:
    """What came of one."""

    case: Case
    said: int = 0
    hit: bool = False
    fell: bool = False
    oracle: bool = False
    right: list[bool] = field(default_factory=list)
    held: list[bool] = field(default_factory=list)
    bins: list[tuple[bool, bool, bool, float, float]] = field(default_factory=list)


def judge(case: Case) -> Score:
    """Review one log and hold it against its truth."""
    made = made_record(case.seed, plant=case.plant, evidence=case.evidence, trap=case.trap, ratio=case.ratio)
    read = record_of(frames_of(made.tables))
    ready = prepared(read.record)
    score = Score(case)
    if ready.pieces.slice_piece.size != made.rate.size:
        return score  # times in whole seconds made another slice of one
    search = ready.search()
    findings = search.run()
    score.said = len(findings.found)
    inside = _per_piece(ready.pieces.slice_piece, made.effect_slice) if made.effects else None
    for _, found, part in findings_and_same(findings):
        dimension = ready.pieces.dimensions[part.dimension]
        truth = 1.0
        if made.effects and dimension.name == made.effects[0].by:
            effect = made.effects[0]
            here, known = search.questions.indicator(part) > 0, dimension.code >= 0
            times = 1 + (effect.ratio - 1) * inside
            rest = known & ~here
            truth = float(np.average(times[here], weights=ready.pieces.hours[here])
                          / np.average(times[rest], weights=ready.pieces.hours[rest]))  # fmt: skip
            if effect.value:
                near = dimension.names[part.first] == effect.value
            else:
                low, high = float(dimension.edges[part.first]), float(dimension.edges[part.last + 1])
                both = min(high, effect.high) - max(low, effect.low)
                near = both >= _OVERLAP * min(high - low, effect.high - effect.low)
            score.hit |= near and (found.ratio > 1) == (effect.ratio > 1)
        elif made.trapped_by == "lure" and dimension.name in ("lure", "colour", "lure_kind", "lure_length"):
            score.fell = True
        if abs(np.log(truth)) > 0.05:
            score.right.append((found.ratio > 1) == (truth > 1))
        score.held.append(found.low <= truth <= found.high)
    if inside is not None:
        score.oracle = _oracle(ready, made, inside)
    rate = _per_piece(ready.pieces.slice_piece, made.rate)
    for dimension in ready.pieces.dimensions:
        for r in bin_rates(ready.bites, ready.pieces.hours, ready.fish, dimension, ready.plain,
                           ready.schools.mean_size, ready.spread):  # fmt: skip
            here = dimension.code == r.bin
            truth = float(np.average(rate[here], weights=ready.pieces.hours[here]))
            miss = 10 * max(r.low - truth, 0.0) + 10 * max(truth - r.high, 0.0)
            held = r.low <= truth <= r.high
            score.bins.append((r.enough, r.fish >= 10 and r.trips >= 4, held, (r.high - r.low + miss), truth))
    return score


def _per_piece(piece: np.ndarray, values: np.ndarray) -> np.ndarray:
    return np.bincount(piece, values) / np.bincount(piece)


def _oracle(ready, made: MadeRecord, inside: np.ndarray) -> bool:
    """One who knows where to look: the effect's own band in the same model, at one in twenty."""
    design = np.concatenate([ready.nuisance, inside[:, None]], axis=1)
    fitted = fit(ready.bites, design, np.full(design.shape[1], 1e-3))
    at = ready.nuisance.shape[1]
    z = fitted.coefficients[at] / np.sqrt(fitted.covariance[at, at] * ready.spread)
    return bool(z * np.sign(np.log(made.effects[0].ratio)) > 1.96)


def large_log(out: Path) -> None:
    """A log of the stated size, of many made-up seasons."""
    tables: dict[str, list[dict[str, str]]] = {"waters": [], "trips": [], "efforts": [], "catches": []}
    k = 0
    while len(tables["efforts"]) < EFFORTS:
        made = made_record(40_000 + k, plant=True, evidence="plenty").tables
        tables["waters"] = made["waters"]
        for name, keys in (("trips", ("trip",)), ("efforts", ("effort", "trip")),
                           ("catches", ("catch", "effort", "trip"))):  # fmt: skip
            tables[name] += [{**row, **{key: f"{k}-{row[key]}" for key in keys}} for row in made[name]]
        k += 1
    tables["efforts"] = tables["efforts"][:EFFORTS]
    kept = {row["effort"] for row in tables["efforts"]}
    tables["catches"] = [row for row in tables["catches"] if row["effort"] in kept][:CATCHES]
    write_log(out, {}, [TableOut(name, rows) for name, rows in tables.items()], {})


def _speed() -> None:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "large.log.zip"
        large_log(path)
        for _ in range(3):
            begin = time.perf_counter()
            run = subprocess.run([sys.executable, "-m", "plumbbob.cli", "review", str(path), "--json"],
                                 capture_output=True, check=True, text=True)  # fmt: skip
            took = time.perf_counter() - begin
            found = len(json.loads(run.stdout)["findings"])
            print(f"{EFFORTS} efforts, {CATCHES} catches: {took:.1f} s, {found} findings")


def main() -> None:
    """Make the logs, judge them, print the table."""
    logs = int(sys.argv[1]) if len(sys.argv) > 1 else 120
    first = int(sys.argv[2]) if len(sys.argv) > 2 else 0
    cases = [Case(first + k) for k in range(logs)]
    each = max(logs // 6, 1)
    for i, evidence in enumerate(EVIDENCE):
        for j, ratio in enumerate(RATIOS):
            cases += [Case(first + 5000 + 1000 * i + 300 * j + k, True, evidence, "", ratio) for k in range(each)]
    for i, trap in enumerate(TRAPS):
        cases += [Case(first + 9000 + 200 * i + k, True, "", trap) for k in range(each)]
    with Pool(2) as pool:
        scores = pool.map(judge, cases, chunksize=4)
    quiet = [s for s in scores if not s.case.plant]
    print(f"nothing matters: {np.mean([s.said > 0 for s in quiet]):.3f} of {len(quiet)} logs get a finding")
    planted = [s for s in scores if s.case.plant and not s.case.trap]
    for evidence in EVIDENCE:
        for ratio in RATIOS:
            some = [s for s in planted if (s.case.evidence, s.case.ratio) == (evidence, ratio)]
            print(f"{evidence:>7} {ratio}: found {np.mean([s.hit for s in some]):.2f}, "
                  f"by one who knows where {np.mean([s.oracle for s in some]):.2f}")  # fmt: skip
    found, known = np.mean([s.hit for s in planted]), np.mean([s.oracle for s in planted])
    print(f"all planted: {found:.3f} against {known:.3f}: {found / known:.2f}")
    right, held = [r for s in scores for r in s.right], [h for s in scores for h in s.held]
    print(f"direction right {np.mean(right):.3f}; 95 % interval holds {np.mean(held):.3f} of {len(held)}")
    for trap in TRAPS:
        some = [s for s in scores if s.case.trap == trap]
        print(f"{trap}: not fallen for {1 - np.mean([s.fell for s in some]):.3f}, "
              f"seen through {np.mean([s.hit for s in some]):.3f}")  # fmt: skip
    bins = np.array([b for s in scores for b in s.bins], float)
    told = bins[:, 0] > 0
    score = (bins[told, 3] / bins[told, 4]).mean()
    print(f"bins that can be told: 80 % interval holds {bins[told, 2].mean():.3f}, score over the truth {score:.2f}; "
          f"with 10 fish and 4 trips told {bins[bins[:, 1] > 0, 0].mean():.3f}")  # fmt: skip
    print(Counter(s.said for s in planted))
    _speed()


if __name__ == "__main__":
    main()
