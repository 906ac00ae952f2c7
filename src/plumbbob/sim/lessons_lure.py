"""Items about fish that answer to a lure, or could: what to do next, what to change first, which one to cast to."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import replace

import numpy as np

from plumbbob.core.plan.bites import Lever, ladder
from plumbbob.core.rig.bought import Form, Packet, lure_of
from plumbbob.core.rig.fall import fall_speed
from plumbbob.core.rig.stand_off import aim_ahead
from plumbbob.core.rig.tackle import BRAID
from plumbbob.core.types import Floats
from plumbbob.sim.lesson import Lesson, hardness, quiet_scene
from plumbbob.sim.scene import ForwardScene, ForwardSounder, Hung, Scene

_DEEP_M = 11.0


def _still(rng: np.random.Generator, hard: float) -> Scene:
    """A boat that lies still over even ground."""
    return quiet_scene(rng, hard, speed_mps=lambda t: 0.0 * t, bottom_m=lambda x: _DEEP_M + 0.0 * x)


_ANSWERS = ("keep it rising", "stop a moment for it", "lift it a little", "reel it above the fish")
_RISES_MPS = 0.12


def _follower(rng: np.random.Generator, difficulty: float) -> Lesson:
    """The last seconds tell what a follower does; the answer is the handbook's (5.9)."""
    hard = hardness(difficulty)
    kind = int(rng.integers(4))
    start = float(rng.uniform(7.4, 8.6))
    near = float(rng.uniform(0.35, 0.5))
    lag = 0.14 - 0.06 * hard  # m/s by which a tired fish falls behind
    weak = -36.0 - 4.0 * hard
    turn = float(rng.uniform(10.0, 13.0))

    def rising(t: Floats) -> Floats:
        return start - _RISES_MPS * t

    def stops(t: Floats) -> Floats:
        return np.maximum(rising(t), start - _RISES_MPS * turn)

    lure: Callable[[Floats], Floats] = stops if kind == 2 else rising
    fish: Callable[[Floats], Floats] = {
        0: lambda t: rising(t) + near,
        1: lambda t: rising(t) + near + lag * np.maximum(t - turn, 0.0),
        2: lambda t: stops(t) + near,
        3: lambda t: rising(t) + near - (0.1 + near / 4) * np.maximum(t - turn, 0.0).clip(0.0, 6.0),
    }[kind]
    hung = (
        Hung(start_s=1.0, end_s=25.5, depth_m=lure),
        Hung(start_s=5.0, end_s=25.5, depth_m=lambda t: fish(t + 4.0), aside_m=0.3, strength_db=weak),
    )
    behind = lag * (24.5 - turn) + near
    return Lesson(
        skill="what a follower wants",
        difficulty=difficulty,
        ask="A fish has come up behind the lure, which is lifted slowly. What now, at the end of the picture?",
        answer_is="choice",
        choices=_ANSWERS,
        truth=_ANSWERS[kind],
        why=(
            "it stays as close behind as it was: as long as it follows, the lure goes on up, slowly",
            f"it falls behind, {behind:.1f} m at the end: stop a second or two when it lags more than 0.3 m",
            "both have stopped for more than eight seconds: a lift of a hand's breadth, then smaller or another lure",
            "it has come up past the lure: a lure beneath a fish ends the game, so above it first",
        )[kind],
        scene=replace(_still(rng, hard), hung=hung),
        shows=((24.5, float(lure(np.array(23.5)))), (24.5, float(fish(np.array(23.5))))),
    )


_LEVERS = ("the depth", "the pace", "the size", "the place")
_OF_LEVER = {Lever.DEPTH: _LEVERS[0], Lever.PACE: _LEVERS[1], Lever.SIZE: _LEVERS[2], Lever.PLACE: _LEVERS[3]}


def _change(rng: np.random.Generator, difficulty: float) -> Lesson:
    """What is seen rules levers out; of those left the first of the order depth, pace, size is meant."""
    hard = hardness(difficulty)
    lever = (Lever.DEPTH, Lever.PACE, Lever.SIZE, Lever.PLACE)[int(rng.integers(4))]
    lure_m = float(rng.uniform(4.5, 6.5))
    weak = -35.0 - 5.0 * hard
    hung = [Hung(start_s=1.0, end_s=25.5, depth_m=lambda t: lure_m - 0.3 * np.clip(np.sin(t / 1.4), 0.0, 1.0))]
    off = (3.0 - 1.0 * hard) * (1.0 if rng.random() < 0.6 or lure_m < 5.5 else -1.0)
    if lever is Lever.DEPTH:  # fish, but at another depth
        hung += [_hangs(float(a), lure_m + off + d, weak) for a, d in ((3.0, 0.0), (11.0, 0.4), (17.0, -0.2))]
    elif lever in (Lever.PACE, Lever.SIZE):  # fish at its depth that come up to it and leave it
        for start in (4.0, 14.0):
            hung.append(
                Hung(
                    start_s=start,
                    end_s=start + 8.5,
                    depth_m=lambda t: lure_m + 0.45 + 0.16 * np.abs(t - 4.2),
                    aside_m=0.3,
                    strength_db=weak,
                )
            )
    tried = (Lever.DEPTH, Lever.PACE) if lever is Lever.SIZE else (Lever.DEPTH,) if lever is Lever.PACE else ()
    if lever in (Lever.PACE, Lever.SIZE):
        assert ladder(tried)[0].lever is lever
    told = {0: "nothing", 1: "the depth", 2: "the depth, then the pace"}[
        len(tried) if lever is not Lever.PLACE else int(rng.integers(3))
    ]
    return Lesson(
        skill="change what first",
        difficulty=difficulty,
        ask=f"Twenty minutes here without a touch; the line across is the lure. Changed so far: {told}. What you see "
        "goes first, then depth before pace before size. What next?",
        answer_is="choice",
        choices=_LEVERS,
        truth=_OF_LEVER[lever],
        why={
            Lever.DEPTH: f"there are fish, but {abs(off):.1f} m {'under' if off > 0 else 'over'} the lure's level",
            Lever.PACE: "fish come to the lure's level and turn away: the depth is right, so another pace",
            Lever.SIZE: "fish still come and turn away, at another pace too: so a smaller lure",
            Lever.PLACE: "nothing but the lure in the picture for the whole time: no change of lure shows one",
        }[lever]
        + ("" if lever is Lever.PLACE else ". Others change the lure first"),
        scene=replace(_still(rng, 0.8 * hard), hung=tuple(hung)),
    )


def _hangs(start_s: float, depth_m: float, strength_db: float) -> Hung:
    return Hung(
        start_s=start_s,
        end_s=start_s + 6.0,
        depth_m=lambda t: depth_m + 0.0 * t,
        aside_m=0.4,
        strength_db=strength_db,
    )


_FLIGHT_S, _END_S, _FALLS_M = 1.5, 18.0, 5.0
REACH_M, CLOSE_M = 14.0, 3.0


def met_at(away_m: float, nearer_mps: float, fish_m: float, fall_mps: float) -> float:
    """How far off a cast must land to meet a fish that swims straight to or from the boat."""
    return away_m - aim_ahead(nearer_mps, fish_m, fall_mps, _FLIGHT_S)


def _cast_to(rng: np.random.Generator, difficulty: float) -> Lesson:
    """Four fish ahead, of which only one will be in reach when the jig is down to it."""
    hard = hardness(difficulty)
    grams = float(rng.choice([5.0, 7.0, 10.0]))
    fall = fall_speed(lure_of(Packet(form=Form.BALL_JIG, mass_kg=grams / 1000)).falling(BRAID), 5.0)
    depths = [2.0 + 1.6 * k + float(rng.uniform(0.0, 0.3)) for k in range(4)]
    order = [int(k) for k in rng.permutation(4)]
    margin = 3.0 - 1.8 * hard  # how far outside of reach the others are
    ahead, whys, shows = [], [], []
    for place, deep in enumerate(depths):
        kind = order[place]
        seconds = _FLIGHT_S + deep / fall
        nearer = float(rng.uniform(0.12, 0.3))
        if kind == 0:  # comes into the cast
            lands = float(rng.uniform(CLOSE_M + 2.5, REACH_M - 3.5))
            nearer *= float(rng.choice([-1.0, 1.0]))
            whys.append(f"{lands:.0f} m off when the jig is there")
        elif kind == 1:  # swims away out of reach
            nearer, lands = -max(nearer, 0.2), REACH_M + margin
            whys.append("out of reach by then")
        elif kind == 2:  # will be under the boat
            nearer = max(nearer, (margin + 1.0) / seconds)
            lands = CLOSE_M - margin
            whys.append("under the boat by then")
        else:  # too far from the first
            nearer, lands = 0.05 * float(rng.choice([-1.0, 1.0])), REACH_M + margin + 0.5
            whys.append("beyond the cast")
        at_end = lands + nearer * seconds
        ahead.append(
            ForwardScene(
                ahead_m=_straight(at_end, nearer),
                aside_m=lambda t: 0.1 + 0.0 * t,
                depth_m=_level(deep),
                strength_db=-33.0 - 3.0 * hard,
            )
        )
        shows.append((at_end, deep))
    best = order.index(0)
    scene = quiet_scene(
        rng, 0.4 * hard, speed_mps=lambda t: 0.0 * t, bottom_m=lambda x: _DEEP_M + 0.0 * x, seconds=_END_S
    )
    sounder = ForwardSounder(frames_per_s=4.0, samples=300, range_m=22.0, azimuth_deg=lambda t: 2.0 * np.sin(t / 2.0))
    choices = tuple(f"the one {deep:.1f} m deep" for deep in depths)
    return Lesson(
        skill="which fish to cast to",
        difficulty=difficulty,
        ask=f"You cast a {grams:g} g jig to {REACH_M:.0f} m; it falls {_FALLS_M:.0f} m in {_FALLS_M / fall:.1f} s. "
        f"Nearer than {CLOSE_M:.0f} m a fish sees the boat. Thrown at the end of the picture, which can it meet?",
        answer_is="choice",
        choices=choices,
        truth=choices[best],
        why="; ".join(f"{deep:.1f} m: {why}" for deep, why in zip(depths, whys, strict=True)),
        scene=replace(scene, ahead=tuple(ahead), forward=sounder),
        shows=(shows[best],),
    )


def _straight(at_end_m: float, nearer_mps: float) -> Callable[[Floats], Floats]:
    return lambda t: at_end_m - nearer_mps * (t - _END_S)


def _level(depth_m: float) -> Callable[[Floats], Floats]:
    return lambda t: depth_m + 0.0 * t


LURE: Mapping[str, Callable[[np.random.Generator, float], Lesson]] = {
    "which fish to cast to": _cast_to,
    "what a follower wants": _follower,
    "change what first": _change,
}
