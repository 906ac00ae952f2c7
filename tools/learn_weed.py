"""
Learns what makes a tile of bottom to the sides weed, from simulated beds: `./run learn weed [SCENES]`.

Beds of weed of all heights and covers over even, stony and rippled bottom in 2.5 to 12 m of water, and stony scenes
without any; two thirds teach, one third only tests. Writes `core/sonar/side_weed_pieces.py` and prints how well.
"""

from __future__ import annotations

import sys
from dataclasses import replace
from multiprocessing import Pool
from pathlib import Path

import numpy as np
from scipy.optimize import minimize

sys.path.insert(0, str(Path(__file__).resolve().parent.parent / "src"))

from plumbbob.core.sonar.recording import SIDES, distance_along, transducer_at
from plumbbob.core.sonar.side_bed import follow_bed
from plumbbob.core.sonar.side_ground import LEAST_CHANCE, UsualGround, looked_at
from plumbbob.core.sonar.side_look import SideScene, look_at
from plumbbob.core.sonar.side_weed import against_usual
from plumbbob.sim.broken import Ground, broken_scene
from plumbbob.sim.down import simulate
from plumbbob.sim.scene import Scene, SideSounder, path_of
from plumbbob.sim.side_weed import WeedBed

PIECES = Path(__file__).resolve().parent.parent / "src" / "plumbbob" / "core" / "sonar" / "side_weed_pieces.py"
HEADING = '"""Weights of the judgement of weed to the sides. Written by tools/learn_weed.py; do not edit by hand."""'
KINDS = ("even", "stones", "ripples", "stones, no weed")
INSIDE, OUTSIDE = 0.9, 0.1  # share of a tile in a bed: between them it is neither


def weedy_scene(seed: int) -> Scene:
    """A pass over beds of weed; every fourth has stones and none."""
    rng = np.random.default_rng(500 + seed)
    depth, kind = float(np.exp(rng.uniform(np.log(2.5), np.log(12)))), seed % len(KINDS)
    sounder = SideSounder(
        range_m=float(np.clip(depth * rng.uniform(2.5, 5), 15, 40)),
        samples=int(rng.choice([480, 600, 800])),
        pings_per_s=float(rng.uniform(7, 11)),
        pulse_length_s=float(np.exp(rng.uniform(np.log(0.3e-4), np.log(2e-4)))),
        speckle_share=float(rng.choice([1.0, 0.6])),
        grain=float(rng.choice([np.inf, 6, 3, 1.5])),
        tvg=str(rng.choice(["20logR", "40logR", "none"])),
        bottom_db=float(rng.uniform(-32, -24)),
        beam_width_along_deg=float(rng.uniform(0.7, 1.3)),
    )
    ground = Ground(
        depth_m=depth,
        sounder=sounder,
        speed_mps=float(rng.uniform(0.7, 2.2)),
        stones=float(rng.uniform(2, 14)) if kind in (1, 3) else float(rng.choice([0.0, 0.8])),
        ripple_m=float(rng.uniform(0.01, 0.05)) if kind == 2 else 0.0,
        patches_db=float(rng.uniform(1, 3.5)),
        slope=float(rng.uniform(-0.06, 0.06)),
        fish=12,
        seconds=110.0,
    )
    way = ground.seconds * ground.speed_mps
    beds = tuple(
        WeedBed(
            along_m=float(rng.uniform(0.1, 0.9) * way),
            aside_m=float(rng.uniform(-0.7, 0.7) * sounder.range_m),
            length_m=float(rng.uniform(15, 60)),
            width_m=float(rng.uniform(8, 25)),
            height_m=float(min(rng.uniform(0.4, 2.2), 0.6 * depth)),
            loud_db=float(rng.uniform(1, 8)),
            cover=float(rng.uniform(0.5, 0.95)),
            seed=seed * 7 + k,
        )
        for k in range(0 if kind == 3 else int(rng.integers(1, 4)))
    )
    return replace(broken_scene(ground, seed + 9000), weed=beds)


def examples(seed: int) -> list[tuple[float, ...]]:
    """Of each tile the seed, the share of it that lies in a bed, and its features against the usual ones."""
    drawn = weedy_scene(seed)
    recording, _ = simulate(drawn, seed)
    side = recording.side
    assert side is not None
    places = transducer_at(recording.track, side.mount, side.time)
    scene = SideScene(side, follow_bed(side), places, distance_along(side.time, places.speed_mps))
    usual, way = UsualGround.learn(scene), path_of(drawn, side.time - drawn.start_time).along_m
    shares, near, features = [], [], []
    for start in range(0, len(side), 512):
        for which in SIDES:
            look = look_at(scene, which, start, 512)
            if look is None:
                continue
            for one in looked_at(scene, look, usual):
                tile = one.tile
                ground = (tile.near_m + tile.far_m) / 2 * (1 if which == "starboard" else -1)
                spots = [(way[tile.middle] + u, ground + v) for u in (-1.8, 0, 1.8) for v in (-1.8, 0, 1.8)]
                shares.append(np.mean([any(bed.covers(u, v) for bed in drawn.weed) for u, v in spots]))
                near.append(tile.near_m)
                features.append(one.weed)
    against = against_usual(np.array(features), np.array(near))
    return [(seed, float(share), *row) for share, row in zip(shares, against.tolist(), strict=True)]


def main(scenes: int) -> None:
    """Learn from two thirds, test on the rest."""
    with Pool() as pool:
        rows = np.array([row for part in pool.map(examples, range(scenes), chunksize=1) for row in part])
    seed, inside, features = rows[:, 0].astype(int), rows[:, 1], rows[:, 2:]
    told = np.isfinite(features).all(axis=1) & ((inside >= INSIDE) | (inside <= OUTSIDE))
    weed, teach = inside > 0.5, told & (seed % 12 < 8)
    mean, spread = features[teach].mean(axis=0), features[teach].std(axis=0)
    z = np.clip((features - mean) / spread, -4, 4)
    design = np.c_[np.ones(len(z)), z, z**2]

    def cost(weights: np.ndarray) -> tuple[float, np.ndarray]:
        odds = design[teach] @ weights
        loss = np.logaddexp(0, odds).sum() - odds[weed[teach]].sum() + 0.5 * (weights[1:] ** 2).sum()
        return float(loss), design[teach].T @ (1 / (1 + np.exp(-odds)) - weed[teach]) + np.r_[0.0, weights[1:]]

    found = minimize(cost, np.zeros(design.shape[1]), jac=True, method="L-BFGS-B").x
    count = features.shape[1]
    parts = {"MEAN": mean, "SPREAD": spread, "LINEAR": found[1 : count + 1], "SQUARE": found[count + 1 :]}
    lines = [f"{name} = {tuple(round(float(v), 4) for v in values)}" for name, values in parts.items()]
    PIECES.write_text("\n".join([HEADING, "", f"BIAS = {found[0]:.4f}", *lines, ""]), encoding="utf-8")
    chance = 1 / (1 + np.exp(-(design @ found)))
    print("| tiles of scenes that taught nothing | in weed | precision | recall |")
    test = told & ~teach
    for kind, name in enumerate((*KINDS, "all")):
        of = test & ((seed % len(KINDS) == kind) | (kind == len(KINDS)))
        said = of & (chance >= LEAST_CHANCE)
        right = int((said & weed).sum())
        print(
            f"| {name} | {int((of & weed).sum())} of {int(of.sum())} | {right / max(int(said.sum()), 1):.2f} "
            f"| {right / max(int((of & weed).sum()), 1):.2f} |"
        )


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 96)
