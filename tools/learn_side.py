"""
Learns what makes a bright spot to the sides a fish, from simulated ground: `./run learn [SCENES]`.

Makes scenes of stones, ripples, patches, slopes and ledges, in water of 4 to 22 m, at 0.6 to 2.9 m/s, with all
kinds of beams, pulses, gains, speckle and sizes of fish; two thirds teach, one third only tests. Writes
`core/sonar/side_pieces.py` and prints precision and recall by kind of ground.
"""

from __future__ import annotations

import sys
from dataclasses import replace
from multiprocessing import Pool, get_context
from pathlib import Path
from typing import Any

import numpy as np
from scipy.optimize import minimize

sys.path.insert(0, str(Path(__file__).resolve().parent.parent / "src"))

from plumbbob.core.sonar.recording import SIDES, Recording, distance_along, transducer_at
from plumbbob.core.sonar.side import read_side
from plumbbob.core.sonar.side_bed import follow_bed
from plumbbob.core.sonar.side_fish import candidates
from plumbbob.core.sonar.side_judge import FEATURES
from plumbbob.core.sonar.side_look import SideScene, learn_clutter, look_at
from plumbbob.sim.broken import Ground, SeenFish, broken_scene, fish_seen
from plumbbob.sim.down import simulate
from plumbbob.sim.scene import SideSounder

PIECES = Path(__file__).resolve().parent.parent / "src" / "plumbbob" / "core" / "sonar" / "side_pieces.py"
KINDS = ("even", "stones and ripples", "slope", "ledge and stones", "ripples on a slope", "fast over stones")
OF_WATER = ("gap", "water_body", "water_across", "water_along", "above")
LEARNED = tuple(name for name in FEATURES if name not in OF_WATER)
IN_WATER = (*OF_WATER, "spot", "peak", "even", "one_ping", "bell")
HEADING = '"""Pieces of the judgement of spots to the sides. Written by tools/learn_side.py; do not edit by hand."""'
KIND_OF_PIECES = "tuple[tuple[str, int, tuple[float, ...], tuple[float, ...], float], ...]"
SECONDS, SLANT_M, CLEAR_DB = 1.5, 0.5, 10.0
REGULAR = 3.0  # of the weights squared


def ground_of(seed: int) -> Ground:
    """A piece of ground, and how it is looked at."""
    rng = np.random.default_rng(1000 + seed)
    depth = float(np.exp(rng.uniform(np.log(4), np.log(22))))
    kind = seed % len(KINDS)
    stony = kind in (1, 3, 5) or rng.random() < 0.3
    sounder = SideSounder(
        range_m=float(np.clip(depth * rng.uniform(2.2, 4.5), 18, 45)),
        samples=int(rng.choice([480, 600, 640, 800])),
        pings_per_s=float(rng.uniform(7, 11)),
        beam_width_along_deg=float(rng.uniform(0.7, 1.3)),
        pulse_length_s=float(np.exp(rng.uniform(np.log(0.25e-4), np.log(2.8e-4)))),
        speckle_share=float(rng.choice([1.0, 1.0, 0.6, 0.35])),
        grain=float(rng.choice([np.inf, 6, 3, 2, 1.4, 1.0, 0.8])),
        flicker_db=float(rng.uniform(0.0, 1.5)),
        tvg=str(rng.choice(["20logR", "20logR", "40logR", "none"])),
        starboard_db=float(rng.choice([0.0, 0.0, rng.normal(0, 3)])),
        bottom_db=float(rng.uniform(-32, -24)),
        noise_db=float(rng.uniform(-118, -108)),
        scale_db=float(rng.uniform(0.28, 0.4)),
        draft_m=float(rng.uniform(0.3, 0.7)),
    )
    return Ground(
        depth_m=depth,
        sounder=sounder,
        speed_mps=float(rng.uniform(1.6, 2.9) if kind == 5 else rng.uniform(0.6, 1.9)),
        roll_deg=float(rng.uniform(0, 4)),
        slope=float(rng.uniform(-0.12, 0.12) if kind in (2, 4) else rng.uniform(-0.02, 0.02)),
        ledge_m=float(rng.uniform(1.5, 4)) if kind == 3 else 0.0,
        ledge_aside_m=float(rng.uniform(-15, 15)),
        stones=float(np.exp(rng.uniform(np.log(0.8), np.log(12)))) if stony else float(rng.choice([0.0, 0.8])),
        ripple_m=float(rng.uniform(0.01, 0.05)) if kind in (1, 4) else 0.0,
        patches_db=float(rng.uniform(1, 3.5)),
        swell_m=float(rng.uniform(0.1, 0.6)),
    )


def made(seed: int) -> tuple[Recording, list[SeenFish]]:
    """A pass over it; its beam and pulse are not always told as they are."""
    scene = broken_scene(ground_of(seed), seed)
    recording, _ = simulate(scene, seed)
    rng = np.random.default_rng(seed + 77)
    side = recording.side
    assert side is not None
    told = replace(
        side,
        beam_width_along_deg=side.beam_width_along_deg / float(rng.uniform(1.0, 1.4)),
        pulse_length_s=float(rng.choice([side.pulse_length_s, np.nan])),
    )
    return replace(recording, side=told), fish_seen(scene)


def _meets(fish: SeenFish, side: str, time: float, slant: float, wider: float = 1.0) -> bool:
    return (
        fish.side == side and abs(fish.time - time) < SECONDS * wider and abs(fish.slant_m - slant) < SLANT_M * wider
    )


def examples(seed: int) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Features of the spots, whether each is a fish and in the water; those that may be either are left out."""
    recording, seen = made(seed)
    side = recording.side
    assert side is not None
    places = transducer_at(recording.track, side.mount, side.time)
    scene = SideScene(side, follow_bed(side), places, distance_along(side.time, places.speed_mps))
    clutter = learn_clutter(scene)
    spots = []
    for start in range(0, len(side), 512):
        for which in SIDES:
            look = look_at(scene, which, start, 512)
            if look is not None:
                spots += [(which, c) for c in candidates(scene, look, clutter.at(look.range_m.size))]
    kind = np.zeros(len(spots), int)
    for fish in seen:
        near = [n for n, (w, c) in enumerate(spots) if _meets(fish, w, float(side.time[c.ping]), c.slant_m, 1.3)]
        for n in near:
            if kind[n] == 0:
                kind[n] = -1
        if near:
            best = max(near, key=lambda n: spots[n][1].features[0])
            if fish.clear or (fish.over_db >= CLEAR_DB and spots[best][1].in_water):
                kind[best] = 1
    keep = [n for n in range(len(spots)) if kind[n] >= 0]
    features = np.array([spots[n][1].features for n in keep]).reshape(-1, len(FEATURES))
    return features, kind[keep], np.array([spots[n][1].in_water for n in keep], bool)


def learn(features: np.ndarray, fish: np.ndarray, names: tuple[str, ...], prefix: str) -> list[str]:
    """The lines of a set of pieces: a logistic regression on straight pieces of each feature."""
    columns, pieces = [np.ones(len(features))], []
    for name in names:
        values = features[:, FEATURES.index(name)]
        shares = np.r_[
            np.percentile(values[fish == 1], [2, 15, 50, 85, 98]), np.percentile(values[fish == 0], [5, 50, 95])
        ]
        knots = np.unique(np.round(shares, 2))
        if knots.size < 2:
            continue
        spread = float(values.std()) + 1e-6
        x = np.clip(values, knots[0], knots[-1])
        basis = [(x - knots[0]) / spread, *(np.maximum(x - k, 0.0) / spread for k in knots[1:-1])]
        pieces.append((name, knots, spread, len(columns), len(basis)))
        columns += basis
    design = np.stack(columns, axis=1)

    def cost(weights: np.ndarray) -> tuple[float, np.ndarray]:
        z = design @ weights
        error = 1 / (1 + np.exp(-z)) - fish
        penalty = REGULAR * np.r_[0.0, weights[1:]]
        return float(
            (np.logaddexp(0, z) - fish * z).sum() + (penalty * weights).sum()
        ), design.T @ error + 2 * penalty

    found = minimize(cost, np.zeros(design.shape[1]), jac=True, method="L-BFGS-B", options={"maxiter": 800}).x
    lines = ["", f"{prefix}BIAS = {found[0]:.4f}", f"{prefix}PIECES: {KIND_OF_PIECES} = ("]
    for name, knots, spread, first, count in pieces:
        weights = found[first : first + count] / spread
        usual = float((design[:, first : first + count] @ found[first : first + count]).mean())
        lines += [
            "    (",
            f'        "{name}",',
            f"        {FEATURES.index(name)},",
            f"        {tuple(float(k) for k in knots)},",
            f"        {tuple(round(float(w), 4) for w in weights)},",
            f"        {usual:.3f},",
            "    ),",
        ]
    return [*lines, ")"]


def score(seed: int) -> tuple[int, int, int, list[tuple[float, float]]]:
    """Fish found, false ones, fish there, and errors of height with their spreads."""
    recording, seen = made(seed)
    reading = read_side(recording)
    assert reading is not None
    clear = [f for f in seen if f.clear]
    pairs = sorted(
        (abs(r.time - f.time), n, k)
        for n, f in enumerate(clear)
        for k, r in enumerate(reading.fish)
        if _meets(f, r.side, r.time, r.slant_m)
    )
    hit: dict[int, int] = {}
    for _, n, k in pairs:
        if n not in hit and k not in hit.values():
            hit[n] = k
    false = [
        r
        for k, r in enumerate(reading.fish)
        if k not in hit.values() and not any(_meets(f, r.side, r.time, r.slant_m, 1.3) for f in seen)
    ]
    heights = [(reading.fish[k].height_m - clear[n].height_m, reading.fish[k].height_sd_m) for n, k in hit.items()]
    return len(hit), len(false), len(clear), [h for h in heights if np.isfinite(h[0])]


def table(seeds: list[int], rows: list[Any]) -> None:
    """Precision and recall by kind of ground."""
    for kind, name in enumerate((*KINDS, "all")):
        of = [r for s, r in zip(seeds, rows, strict=True) if kind == len(KINDS) or s % len(KINDS) == kind]
        if not of:
            continue
        found, false, there = (sum(r[k] for r in of) for k in range(3))
        errors = np.array([h for r in of for h in r[3]]).reshape(-1, 2)
        height = f"{np.median(np.abs(errors[:, 0])):.2f} m, {np.mean(np.abs(errors[:, 0]) < 2 * errors[:, 1]):.2f}"
        print(
            f"| {name} | {there} | {found / max(found + false, 1):.2f} | {found / max(there, 1):.2f} "
            f"| {height if len(errors) else '-'} |"
        )


def main(scenes: int, *, only_score: bool) -> None:
    """Learn from two thirds, test on the rest."""
    teach = [s for s in range(scenes) if s % 9 < 6]
    test = [s for s in range(scenes) if s % 9 >= 6]
    with Pool() as pool:
        if not only_score:
            taught = pool.map(examples, teach, chunksize=1)
            features, fish, wet = (np.concatenate([t[n] for t in taught]) for n in range(3))
            lines = [
                HEADING,
                *learn(features[~wet], fish[~wet], LEARNED, ""),
                *learn(features[wet], fish[wet], IN_WATER, "WATER_"),
            ]
            PIECES.write_text("\n".join([*lines, ""]), encoding="utf-8")
            print(PIECES)
    with get_context("spawn").Pool() as pool:  # anew: it reads the pieces that were just written
        print("| ground, scenes that taught nothing | fish | precision | recall | height, within twice its spread |")
        table(test, pool.map(score, test, chunksize=1))


if __name__ == "__main__":
    given = sys.argv[1:]
    numbers = [int(g) for g in given if g.isdigit()]
    main(numbers[0] if numbers else 90, only_score="--score" in given)
