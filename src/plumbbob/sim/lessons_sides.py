"""Items to the sides: heights by shadows, sides and distances, a fish among stones."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import replace
from typing import Any

import numpy as np

from plumbbob.core.types import Floats
from plumbbob.sim.lesson import LONG_S, SPEED_MPS, Lesson, hardness, quiet_scene
from plumbbob.sim.scene import Rise, Scene, SideSounder, Swimmer

SIDE_BOTTOM_M = 8.0  # under the boat where one looks to the sides


def _side_scene(rng: np.random.Generator, hard: float, rises: tuple[Rise, ...], **changes: Any) -> Scene:
    scene = quiet_scene(rng, 0.3 * hard, bottom_m=lambda x: SIDE_BOTTOM_M + 0.0 * x)
    sounder = SideSounder(noise_db=-114.0 + 8.0 * hard, range_m=28.0, samples=420, flicker_db=2.0 * hard)
    return replace(scene, side=sounder, rises=rises, **changes)


def _beside(aside_m: float, up_m: float, along_m: float) -> tuple[float, float]:
    """Slant range, to port under 0, and seconds of something so far aside and so high over the bottom."""
    slant = math.hypot(aside_m, SIDE_BOTTOM_M - up_m - SideSounder().draft_m)
    return math.copysign(slant, aside_m), along_m / SPEED_MPS


def _shadow(rng: np.random.Generator, difficulty: float) -> Lesson:
    hard = hardness(difficulty)
    up = float(rng.uniform(0.8, 2.6))
    away = float(rng.uniform(8.0, 13.0)) * (1 if rng.random() < 0.5 else -1)
    x = SPEED_MPS * 0.5 * LONG_S
    rise = Rise(along_m=x, aside_m=away, length_m=1.6, width_m=0.5, height_m=up, loud_db=13.0 - 5.0 * hard)
    return Lesson(
        skill="height from a shadow",
        difficulty=difficulty,
        ask="How high is the one thing that stands on the bottom, in metres? Its shadow tells.",
        answer_is="height",
        truth=up,
        tolerance=(0.3,),
        why=f"height over the bottom times (end of shadow less echo) over the end of shadow: {up:.2f} m",
        scene=_side_scene(rng, hard, (rise,)),
        shows=(_beside(rise.aside_m, rise.height_m, rise.along_m + rise.length_m / 2),),
        at_s=0.5 * LONG_S,
    )


_SIDES = ("port, near", "port, far", "starboard, near", "starboard, far")


def _which_side(rng: np.random.Generator, difficulty: float) -> Lesson:
    hard = hardness(difficulty)
    kind = int(rng.integers(4))
    away = (1 if kind >= 2 else -1) * float(rng.uniform(5.0, 8.0) if kind % 2 == 0 else rng.uniform(16.0, 21.0))
    rise = Rise(
        along_m=SPEED_MPS * 0.5 * LONG_S,
        aside_m=away,
        length_m=1.4,
        width_m=0.6,
        height_m=1.4,
        loud_db=12.0 - 5.0 * hard,
    )
    return Lesson(
        skill="left or right",
        difficulty=difficulty,
        ask="On which side is the thing that stands up, and is it within 12 m or beyond?",
        answer_is="choice",
        choices=_SIDES,
        truth=_SIDES[kind],
        why=f"its echo and shadow lie in the {_SIDES[kind].split(',')[0]} fan, {abs(away):.0f} m off",
        scene=_side_scene(rng, hard, (rise,)),
        shows=(_beside(rise.aside_m, rise.height_m, rise.along_m + rise.length_m / 2),),
    )


def _distance(rng: np.random.Generator, difficulty: float) -> Lesson:
    hard = hardness(difficulty)
    away = float(rng.uniform(6.0, 20.0))
    rise = Rise(
        along_m=SPEED_MPS * 0.5 * LONG_S,
        aside_m=away,
        length_m=1.5,
        width_m=0.5,
        height_m=0.8,
        loud_db=13.0 - 5.0 * hard,
    )
    return Lesson(
        skill="true distance",
        difficulty=difficulty,
        ask="How far to starboard along the ground is the thing that stands up, in metres?",
        answer_is="distance",
        truth=away,
        tolerance=(0.8,),
        why=f"slant range is too long: the root of its square less the height's square gives {away:.1f} m",
        scene=_side_scene(rng, hard, (rise,)),
        shows=(_beside(rise.aside_m, rise.height_m, rise.along_m + rise.length_m / 2),),
        at_s=0.5 * LONG_S,
    )


def _among(rng: np.random.Generator, difficulty: float) -> Lesson:
    hard = hardness(difficulty)
    kind = int(rng.integers(4))
    stones, fish = [], []
    for k in range(4):
        away = (1 if k >= 2 else -1) * float(rng.uniform(5.5, 9.0) if k % 2 == 0 else rng.uniform(14.5, 20.0))
        x = SPEED_MPS * float(rng.uniform(7.0, 19.0))
        if k == kind:
            fish.append(
                Swimmer(
                    along_m=x,
                    aside_m=away,
                    depth_m=SIDE_BOTTOM_M - 1.6 + 0.7 * hard,
                    strength_db=(-16.0 if k % 2 == 0 else -22.0) - 4.0 * hard,  # the near ground is louder
                    length_m=1.0,
                )
            )
        else:
            size = float(rng.uniform(1.0, 1.6))
            stones.append(
                Rise(
                    along_m=x - size / 2,
                    aside_m=away,
                    length_m=size,
                    width_m=0.7 * size,
                    height_m=0.6 * size,
                    loud_db=12.0 + float(rng.uniform(0.0, 3.0)),
                )
            )
    return Lesson(
        skill="fish among stones",
        difficulty=difficulty,
        ask="Three of the bright spots are stones on the bottom, one is a fish over it. Where is the fish?",
        answer_is="choice",
        choices=_SIDES,
        truth=_SIDES[kind],
        why="between its echo and its shadow there is bottom; a stone's shadow is joined to its face",
        scene=replace(_side_scene(rng, hard, tuple(stones)), fish=tuple(fish)),
        shows=tuple(_beside(f.aside_m, SIDE_BOTTOM_M - f.depth_m, f.along_m) for f in fish),
    )


def _drop_off(rng: np.random.Generator, difficulty: float) -> Lesson:
    """A shelf at the depth below the boat breaks off to one side; what lies under its lip is dark."""
    hard = hardness(difficulty)
    side = 1.0 if rng.random() < 0.5 else -1.0
    lip, fall = float(rng.uniform(7.0, 12.0)), float(rng.uniform(0.8, 1.6) if hard > 0.5 else rng.uniform(1.4, 2.6))
    bend, wave = (0.2 + 1.0 * hard) * float(rng.uniform(0.6, 1.0)), float(rng.uniform(0.0, 6.0))

    def lip_at(along: Floats) -> Floats:
        return lip + bend * np.sin(along / 6.0 + wave)

    def floor(along: Floats, aside: Floats) -> Floats:
        beyond = (side * aside - lip_at(along)) / 0.08
        return SIDE_BOTTOM_M + fall / (1.0 + np.exp(-np.clip(beyond, -40.0, 40.0)))

    middle = SPEED_MPS * 0.5 * LONG_S
    stones = []
    for _ in range(round(9 * hard)):
        size = float(rng.uniform(0.6, 1.3))
        stones.append(
            Rise(
                along_m=float(rng.uniform(0.0, SPEED_MPS * LONG_S)),
                aside_m=side * float(rng.uniform(4.0, lip + 6.0)),
                length_m=size,
                width_m=0.7 * size,
                height_m=0.5 * size,
                loud_db=10.0,
            )
        )
    scene = _side_scene(rng, hard, tuple(stones))
    high = SIDE_BOTTOM_M - SideSounder().draft_m
    near = math.hypot(high, float(lip_at(np.array(middle))))
    far = near * (high + fall) / high
    where = "starboard" if side > 0 else "port"
    return Lesson(
        skill="edge of a drop",
        difficulty=difficulty,
        ask=f"To {where} the bottom breaks off. How deep is the drop, in metres, at {0.5 * LONG_S:.0f} s? "
        "Its shadow tells.",
        answer_is="height",
        truth=fall,
        tolerance=(0.45 - 0.15 * hard,),
        why=f"height over the lip times the shadow's length ({far - near:.2f} m) over the range of the lip "
        f"({near:.2f} m): {fall:.2f} m",
        scene=replace(scene, floor_m=floor),
        shows=((side * near, 0.5 * LONG_S), (side * far, 0.5 * LONG_S)),
        at_s=0.5 * LONG_S,
        is_drop=True,
    )


SIDES: Mapping[str, Callable[[np.random.Generator, float], Lesson]] = {
    "height from a shadow": _shadow,
    "left or right": _which_side,
    "true distance": _distance,
    "fish among stones": _among,
    "edge of a drop": _drop_off,
}
