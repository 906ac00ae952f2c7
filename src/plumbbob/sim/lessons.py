"""
Items to practise on: small made-up passes whose truth is known, from easy to cruel by what makes them hard.

Each skill makes a scene from a seed and a difficulty on the logistic scale, -2.5 to 2.5: more noise, weaker or closer
echoes, steeper ground, less water between. The same seed and difficulty give the same item.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import replace
from typing import Any

import numpy as np

from plumbbob.core.rig.bought import Form, Packet, Trailer, lure_of
from plumbbob.core.rig.fall import time_to_depth
from plumbbob.core.rig.tackle import BRAID
from plumbbob.core.sonar.beam import dead_zone_on_axis
from plumbbob.sim.lesson import (
    HARDEST,
    LONG_S,
    SPEED_MPS,
    Drawing,
    Lesson,
    column_sketch,
    hardness,
    middle_s,
    quiet_scene,
)
from plumbbob.sim.lessons_deciding import DECIDING
from plumbbob.sim.lessons_lure import LURE
from plumbbob.sim.lessons_places import PLACES
from plumbbob.sim.lessons_searching import SEARCHING
from plumbbob.sim.lessons_sides import SIDES
from plumbbob.sim.scene import (
    BaitCloud,
    ForwardScene,
    ForwardSounder,
    Hung,
    Stand,
    Swimmer,
    Weak,
)

_PULSE_M = 0.5 * 1476.0 * 1.5e-4


def _bottom(rng: np.random.Generator, difficulty: float) -> Lesson:
    hard = hardness(difficulty)
    scene = quiet_scene(rng, hard)
    x = SPEED_MPS * middle_s(scene)
    weed = Stand(along_m=x - 4.0, length_m=8.0, height_m=0.4 + 1.6 * hard)
    deep = float(scene.bottom_m(np.array([x]))[0])
    return Lesson(
        skill="bottom under weed",
        difficulty=difficulty,
        ask=f"How deep is the ground under the weed {middle_s(scene):.0f} s after the first ping, in metres?",
        answer_is="depth",
        truth=deep,
        tolerance=(0.25,),
        why=f"the ground is the echo that goes on through the weed at {deep:.1f} m; the weed is ragged and above it",
        scene=replace(scene, stands=(weed,)),
        at_s=middle_s(scene),
    )


_WHAT = ("fish", "timber", "weed", "bait")


def _what(rng: np.random.Generator, difficulty: float) -> Lesson:
    hard = hardness(difficulty)
    scene = quiet_scene(rng, hard)
    x = SPEED_MPS * middle_s(scene)
    bottom = float(scene.bottom_m(np.array([x]))[0])
    kind = _WHAT[int(rng.integers(4))]
    up = 2.2 - 0.9 * hard
    every: dict[str, dict[str, Any]] = {
        "fish": {"fish": (Swimmer(along_m=x, aside_m=0.2, depth_m=bottom - up, strength_db=-33.0 - 6.0 * hard),)},
        "timber": {"stands": (Stand(along_m=x - 0.3, length_m=0.6 + 0.5 * hard, height_m=up + 0.4, kind="timber"),)},
        "weed": {"stands": (Stand(along_m=x - 2.5, length_m=5.0, height_m=up),)},
        "bait": {
            "bait": (BaitCloud(along_m=x, aside_m=0.0, depth_m=bottom - up, length_m=4.5, height_m=1.1, count=700),)
        },
    }
    return Lesson(
        skill="what it is",
        difficulty=difficulty,
        ask=f"What is near the bottom {middle_s(scene):.0f} s after the first ping?",
        answer_is="choice",
        choices=_WHAT,
        truth=kind,
        why={
            "fish": "a single thin arch with water under it",
            "timber": "one steep column that stands on the bottom and is thick in range",
            "weed": "a ragged fringe that grows out of the bottom over metres",
            "bait": "a filled cloud with soft edges, wider than it is high",
        }[kind],
        scene=replace(scene, **every[kind]),
        at_s=middle_s(scene),
        shows=((middle_s(scene), bottom - up),),
    )


_BAND = ("bait", "cold layer", "weed", "surface clutter")


def _band(rng: np.random.Generator, difficulty: float) -> Lesson:
    hard = hardness(difficulty)
    kind = _BAND[int(rng.integers(4))]
    scene = quiet_scene(rng, hard, clutter_m=6.5 if kind == "surface clutter" else 1.0)
    middle = 6.2 + float(rng.uniform(-0.5, 0.5))
    x = SPEED_MPS * middle_s(scene)
    every: dict[str, dict[str, Any]] = {
        "bait": {
            "bait": tuple(
                BaitCloud(along_m=x + dx, aside_m=0.0, depth_m=middle, length_m=6.0, height_m=1.6, count=800)
                for dx in (-7.0, 3.0)
            )
        },
        "cold layer": {
            "layer": Weak(depth_m=lambda a: middle + 0.1 * np.sin(a / 9.0), strength_db=-60.0 - 4.0 * hard)
        },
        "weed": {"stands": (Stand(along_m=2.0, length_m=26.0, height_m=3.2),)},
        "surface clutter": {},
    }
    return Lesson(
        skill="bait or layer",
        difficulty=difficulty,
        ask="Which of these makes the largest cloud of echo in this pass?",
        answer_is="choice",
        choices=_BAND,
        truth=kind,
        why={
            "bait": "clouds that begin and end, stronger than the water about them",
            "cold layer": "a thin even band through the whole pass at one depth",
            "weed": "it grows out of the bottom",
            "surface clutter": "it hangs from the surface and changes from ping to ping",
        }[kind],
        scene=replace(scene, **every[kind]),
    )


def _how_many(rng: np.random.Generator, difficulty: float) -> Lesson:
    hard = hardness(difficulty)
    scene = quiet_scene(rng, hard)
    count = int(rng.integers(1, 6))
    x = SPEED_MPS * middle_s(scene)
    apart = 1.6 - 0.9 * hard
    fish = tuple(
        Swimmer(
            along_m=x + (k - (count - 1) / 2) * apart * 1.4,
            aside_m=0.1,
            depth_m=5.0 + apart * ((k * 2) % 5) * 0.5,
            strength_db=-34.0,
        )
        for k in range(count)
    )
    return Lesson(
        skill="one or many",
        difficulty=difficulty,
        ask=f"How many fish are there about {middle_s(scene):.0f} s after the first ping?",
        answer_is="choice",
        choices=("1", "2", "3", "4", "5"),
        truth=str(count),
        why=f"each fish has its own arch; {count} tops can be counted",
        scene=replace(scene, fish=fish),
        at_s=middle_s(scene),
        shows=tuple((f.along_m / SPEED_MPS, f.depth_m) for f in fish),
    )


_GROUND = {"mud": -26.0, "sand": -19.0, "gravel": -13.0, "rock": -7.0}


def _hardness(rng: np.random.Generator, difficulty: float) -> Lesson:
    hard = hardness(difficulty)
    kind = list(_GROUND)[int(rng.integers(4))]
    level = _GROUND[kind] + float(rng.normal(0.0, 0.4 + 1.6 * hard))
    scene = quiet_scene(rng, hard)
    return Lesson(
        skill="hard or soft",
        difficulty=difficulty,
        ask="What is the bottom made of in this pass?",
        answer_is="choice",
        choices=tuple(_GROUND),
        truth=kind,
        why=f"{kind}: its echo and the second below it are {'strong, long' if level > -15 else 'weak, short'}",
        scene=replace(
            scene,
            seconds=12.0,
            roughness_db=lambda x: level + 0.0 * x,
            sounder=replace(scene.sounder, range_m=33.0, samples=560),
        ),
    )


def _find(rng: np.random.Generator, difficulty: float) -> Lesson:
    hard = hardness(difficulty)
    scene = quiet_scene(rng, hard)
    at = float(rng.uniform(6.0, scene.seconds - 6.0))
    deep = float(rng.uniform(3.5, 8.0))
    fish = Swimmer(along_m=SPEED_MPS * at, aside_m=0.1, depth_m=deep, strength_db=-32.0 - 9.0 * hard)
    return Lesson(
        skill="find the fish",
        difficulty=difficulty,
        ask="Where is the one fish: seconds after the first ping, and metres deep?",
        answer_is="time_depth",
        truth=[at, deep],
        tolerance=(1.0, 0.25),
        why=f"the top of its arch lies at {at:.0f} s, {deep:.1f} m",
        scene=replace(scene, fish=(fish,)),
    )


def _height(rng: np.random.Generator, difficulty: float) -> Lesson:
    hard = hardness(difficulty)
    scene = quiet_scene(rng, hard)
    x = SPEED_MPS * middle_s(scene)
    bottom = float(scene.bottom_m(np.array([x]))[0])
    up = float(rng.uniform(0.7, 3.2)) * (1.0 - 0.45 * hard)
    fish = Swimmer(along_m=x, aside_m=0.1, depth_m=bottom - up, strength_db=-33.0 - 4.0 * hard)
    return Lesson(
        skill="height off the bottom",
        difficulty=difficulty,
        ask=f"How high off the bottom is the fish {middle_s(scene):.0f} s after the first ping, in metres?",
        answer_is="height",
        truth=up,
        tolerance=(0.15,),
        why=f"from the top of its arch to the first edge of the bottom's echo: {up:.1f} m",
        scene=replace(scene, fish=(fish,)),
        at_s=middle_s(scene),
        shows=((middle_s(scene), bottom - up),),
    )


def _slope(rng: np.random.Generator, difficulty: float) -> Lesson:
    hard = hardness(difficulty)
    steep = math.radians(4.0 + 20.0 * hard)
    start = float(rng.uniform(4.5, 6.0))
    scene = quiet_scene(rng, 0.3 * hard, bottom_m=lambda x: start + np.clip(x, -5.0, 40.0) * math.tan(steep))
    deep = start + SPEED_MPS * middle_s(scene) * math.tan(steep)
    seconds = middle_s(scene)
    if deep > 17.0:
        seconds = (17.0 - start) / math.tan(steep) / SPEED_MPS
        deep = 17.0
    return Lesson(
        skill="straight below on a slope",
        difficulty=difficulty,
        ask=f"How deep is it straight below the boat {seconds:.1f} s after the first ping, in metres?",
        answer_is="depth",
        truth=deep,
        tolerance=(0.25,),
        why=f"the first echo comes from uphill, too shallow; straight below it is {deep:.1f} m",
        scene=scene,
        at_s=seconds,
    )


_FOLLOW = ("only the lure", "a fish rises to it", "a fish stays under it", "a fish passes by")


def _follow(rng: np.random.Generator, difficulty: float) -> Lesson:
    hard = hardness(difficulty)
    kind = _FOLLOW[int(rng.integers(4))]
    scene = quiet_scene(rng, hard, speed_mps=lambda t: 0.0 * t, bottom_m=lambda x: 11.0 + 0.0 * x)
    lure = Hung(start_s=2.0, end_s=25.0, depth_m=lambda t: 5.5 - 0.25 * np.clip(np.sin(t / 1.5), 0.0, 1.0))
    weak = -36.0 - 5.0 * hard
    paths: dict[str, tuple[Hung, ...]] = {
        "only the lure": (),
        "a fish rises to it": (
            Hung(start_s=8.0, end_s=24.0, depth_m=lambda t: 9.0 - 0.2 * t, aside_m=0.3, strength_db=weak),
        ),
        "a fish stays under it": (
            Hung(start_s=6.0, end_s=24.0, depth_m=lambda t: 7.2 + 0.0 * t, aside_m=0.3, strength_db=weak),
        ),
        "a fish passes by": (
            Hung(start_s=12.0, end_s=14.5, depth_m=lambda t: 7.0 + 0.05 * t, aside_m=0.9, strength_db=weak),
        ),
    }
    return Lesson(
        skill="who follows",
        difficulty=difficulty,
        ask="The boat lies still and the lure is lifted. What happens below it?",
        answer_is="choice",
        choices=_FOLLOW,
        truth=kind,
        why={
            "only the lure": "one line that goes up and down as the rod does",
            "a fish rises to it": "a second line that slopes up to the lure's",
            "a fish stays under it": "a second line, level, for most of the time",
            "a fish passes by": "a short mark that comes and goes within three seconds",
        }[kind],
        scene=replace(scene, hung=(lure, *paths[kind])),
    )


_BLIND = (0.1, 0.3, 0.6, 1.0, 1.6)


def _blind(rng: np.random.Generator, difficulty: float) -> Lesson:
    hard = hardness(difficulty)
    wanted = _BLIND[int(rng.integers(len(_BLIND)))]
    high, width = 11.5, 20.0
    slopes = np.linspace(0.0, 35.0, 351)
    zones = dead_zone_on_axis(high, width, _PULSE_M, slopes)
    steep = float(slopes[int(np.abs(zones - max(wanted, float(zones[0]))).argmin())])
    rise = math.tan(math.radians(steep))
    scene = quiet_scene(
        rng, 0.4 * hard, bottom_m=lambda x: np.maximum(12.0 + rise * (x - SPEED_MPS * 0.5 * LONG_S), 2.0)
    )
    zone = float(dead_zone_on_axis(high, width, _PULSE_M, steep))
    truth = min(_BLIND, key=lambda c: abs(math.log(c / zone)))
    return Lesson(
        skill="what can't be seen",
        difficulty=difficulty,
        ask=f"The beam is {width:.0f} degrees wide. Straight below at {middle_s(scene):.0f} s: below which height "
        "over the bottom are fish drowned in its echo?",
        answer_is="choice",
        choices=tuple(f"{c:.1f} m" for c in _BLIND),
        truth=f"{truth:.1f} m",
        why=f"the slope of {steep:.0f} degrees answers first uphill: blind below {zone:.1f} m",
        scene=replace(scene, sounder=replace(scene.sounder, beam_width_deg=width, range_m=24.0)),
        at_s=middle_s(scene),
    )


_QUARTERS = ("first quarter", "second quarter", "third quarter", "last quarter")


def _densest(rng: np.random.Generator, difficulty: float) -> Lesson:
    hard = hardness(difficulty)
    scene = quiet_scene(rng, hard)
    best = int(rng.integers(4))
    more, few = 6, 1 + round(3 * hard)
    length = SPEED_MPS * scene.seconds
    fish = []
    for q in range(4):
        for k in range(more if q == best else few):
            along = length * (q + (k + 0.5) / (more if q == best else few)) / 4
            fish.append(Swimmer(along_m=along, aside_m=0.1, depth_m=float(rng.uniform(3.0, 8.0)), strength_db=-34.0))
    return Lesson(
        skill="most fish per water",
        difficulty=difficulty,
        ask="Which quarter of the pass holds most fish for the water looked at?",
        answer_is="choice",
        choices=_QUARTERS,
        truth=_QUARTERS[best],
        why=f"{more} arches there against {few} in each other quarter, over the same way and depth",
        scene=replace(scene, fish=tuple(fish)),
        shows=tuple((f.along_m / SPEED_MPS, f.depth_m) for f in fish),
    )


_WAYS = ("comes nearer", "goes away", "crosses to port", "crosses to starboard")


def _ahead(rng: np.random.Generator, difficulty: float) -> Lesson:
    hard = hardness(difficulty)
    kind = int(rng.integers(4))
    speed = 0.35 - 0.2 * hard
    ahead = 9.0 + float(rng.uniform(-1.0, 1.0))
    along = (-speed, speed, 0.0, 0.0)[kind]
    aside = (0.0, 0.0, -speed, speed)[kind]
    scene = quiet_scene(rng, 0.4 * hard, speed_mps=lambda t: 0.0 * t, bottom_m=lambda x: 11.0 + 0.0 * x, seconds=18.0)
    fish = ForwardScene(
        ahead_m=lambda t: ahead + along * (t - 9.0),
        aside_m=lambda t: 0.2 + aside * (t - 9.0),
        depth_m=lambda t: 4.0 + 0.0 * t,
        strength_db=-34.0 - 4.0 * hard,
    )
    sounder = ForwardSounder(
        frames_per_s=4.0, samples=240, range_m=18.0, azimuth_deg=lambda t: 14.0 * np.sin(t / 2.0)
    )
    return Lesson(
        skill="where a track goes",
        difficulty=difficulty,
        ask="Where does the fish ahead swim?",
        answer_is="choice",
        choices=_WAYS,
        truth=_WAYS[kind],
        why=f"its echo {_WAYS[kind]} from frame to frame while the boat lies still",
        scene=replace(scene, ahead=(fish,), forward=sounder),
    )


def _count(rng: np.random.Generator, difficulty: float) -> Lesson:
    hard = hardness(difficulty)
    grams = float(rng.choice([3.5, 5.0, 7.0, 10.0, 14.0, 21.0]))
    tail = rng.random() < 0.4 + 0.5 * hard
    trailer = Trailer.PADDLE if tail else Trailer.NONE
    lure = lure_of(Packet(form=Form.BALL_JIG, mass_kg=grams / 1000, trailer=trailer, trailer_m=0.10))
    deep = float(rng.choice([4.0, 6.0, 8.0, 10.0, 12.0]))
    seconds = time_to_depth(lure.falling(BRAID), deep)[0]
    what = f"{grams:g} g ball jig" + (" with a 10 cm paddle tail" if tail else ", bare")
    return Lesson(
        skill="count it down",
        difficulty=difficulty,
        ask=f"How many seconds on open line does a {what} need to {deep:g} m?",
        answer_is="count_s",
        truth=seconds,
        tolerance=(max(0.12 * seconds, 0.8),),
        why=f"{'the tail brakes it' if tail else 'bare it falls fast'}: {deep / seconds:.2f} m/s, {seconds:.0f} s",
        card=(what, f"to {deep:g} m", "open line, still water"),
        sketch=column_sketch(deep, f"{deep:g} m", ("jig", np.full(2, 1.6 * deep), np.array([0.0, 0.25 * deep]))),
        drawing=Drawing(lines=(("jig", np.array([0.0, seconds]), np.array([0.0, deep])),), along="s", down="m"),
    )


SKILLS: Mapping[str, Callable[[np.random.Generator, float], Lesson]] = {
    "bottom under weed": _bottom,
    "what it is": _what,
    "bait or layer": _band,
    "one or many": _how_many,
    "hard or soft": _hardness,
    "find the fish": _find,
    "height off the bottom": _height,
    "straight below on a slope": _slope,
    "who follows": _follow,
    "what can't be seen": _blind,
    "most fish per water": _densest,
    "height from a shadow": SIDES["height from a shadow"],
    "left or right": SIDES["left or right"],
    "true distance": SIDES["true distance"],
    "where a track goes": _ahead,
    "count it down": _count,
    "where a window meets a lip": PLACES["where a window meets a lip"],
    "inside turns": PLACES["inside turns"],
    "line for a depth": DECIDING["line for a depth"],
    "stay or go": DECIDING["stay or go"],
    "drop on a passing school": DECIDING["drop on a passing school"],
    "fish among stones": SIDES["fish among stones"],
    # an item's seed counts its skill: new ones go to the end
    "edge of a drop": SIDES["edge of a drop"],
    "best stretch of a ledge": PLACES["best stretch of a ledge"],
    "roads and bends": PLACES["roads and bends"],
    **LURE,
    **SEARCHING,
    "what a lure does in a turn": DECIDING["what a lure does in a turn"],
    "keep or release from this depth": DECIDING["keep or release from this depth"],
}


def lesson(skill: str, difficulty: float, seed: int) -> Lesson:
    """
    One item of a skill.

    Raises
    ------
    ValueError
        For a skill that is not practised.
    """
    if skill not in SKILLS:
        raise ValueError(f"skill {skill!r} is not practised; {', '.join(SKILLS)} are")
    known = list(SKILLS).index(skill)
    return SKILLS[skill](np.random.default_rng([seed, known, 71]), difficulty)


def lessons(count: int, seed: int) -> list[Lesson]:
    """So many items, all skills in turn, from easy to cruel."""
    rng = np.random.default_rng([seed, 5])
    names = list(SKILLS)
    order = [names[i] for i in rng.permutation(len(names))]
    out = []
    for k in range(count):
        hard = float(np.clip(-1.5 + 3.0 * (k / max(count - 1, 1)) + rng.normal(0.0, 0.5), -HARDEST, HARDEST))
        out.append(lesson(order[k % len(order)], round(hard, 2), seed * 1000 + k))
    return out
