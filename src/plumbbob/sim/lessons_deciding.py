"""Items about depth and deciding: a card with numbers; the program's own solvers know."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import replace

import numpy as np

from plumbbob.core.plan.stay import Prior, stay_or_go
from plumbbob.core.rig.bought import Form, Packet, lure_of
from plumbbob.core.rig.fall import fall_speed
from plumbbob.core.rig.floor import drop_on_school
from plumbbob.core.rig.line import Body, tow
from plumbbob.core.rig.methods import solve
from plumbbob.core.rig.motion import run_along
from plumbbob.core.rig.rod import CannotReach, Method, RigSettings, default_setup
from plumbbob.core.rig.tackle import BRAID
from plumbbob.core.rig.track import turn_track
from plumbbob.core.tally.fish_care import FishCare, at_catch, expansion, warm_stop_c
from plumbbob.formats.species import known_species
from plumbbob.sim.lesson import Drawing, Lesson, column_sketch, hardness


def _line_out(rng: np.random.Generator, difficulty: float) -> Lesson:
    hard = hardness(difficulty)
    grams = float(rng.choice([60.0, 85.0, 110.0, 170.0]))
    speed = float(rng.choice([0.6, 0.8, 1.0, 1.2]))
    body = Body(weight_n=9.81 * grams / 1000 * 0.91, drag_area_m2=4e-4 * (grams / 60.0) ** (2 / 3))
    deep = float(rng.choice([4.0, 5.0, 6.0, 8.0] if hard > 0.4 else [3.0, 4.0]))

    def depth_with(line_m: float) -> float:
        return float(tow(body, [BRAID.segment(line_m)], speed).depth_m)

    share = np.linspace(0.0, 0.8, 12)
    low, high = deep, deep
    while depth_with(high) < deep and high < 200.0:
        high *= 1.5
    for _ in range(40):
        middle = 0.5 * (low + high)
        low, high = (middle, high) if depth_with(middle) < deep else (low, middle)
    return Lesson(
        skill="line for a depth",
        difficulty=difficulty,
        ask=f"How much braid must be out for a {grams:.0f} g weight to run at {deep:.0f} m, towed at {speed:g} m/s?",
        answer_is="distance",
        truth=high,
        tolerance=((0.32 - 0.17 * hard) * high,),
        why=f"{high:.1f} m: the line hangs in a bow, {high / deep:.1f} times the depth at this weight and speed",
        card=(f"{grams:.0f} g weight, thin braid", f"to run at {deep:.0f} m", f"towed at {speed:g} m/s"),
        sketch=column_sketch(deep, f"{deep:.0f} m", ("how long?", (2.9 - 0.6 * share) * deep, deep * share**1.5)),
        drawing=_hanging_line(body, high, speed),
    )


def _hanging_line(body: Body, line_m: float, speed_mps: float) -> Drawing:
    """The bow of a towed line, and where it would be if it were straight down."""
    shape = tow(body, [BRAID.segment(line_m)], speed_mps)
    back, down = np.array(shape.x_m[::-1]), np.array(shape.z_m[::-1])
    return Drawing(lines=(("line", back, down),), along="m", down="m")


_STAY = ("go now", "stay up to 20 min", "stay up to an hour", "stay longer")
_STAY_MIN = (0.0, 20.0, 60.0)


def _stay(rng: np.random.Generator, difficulty: float) -> Lesson:
    hard = hardness(difficulty)
    usual = Prior(fish=2.0, hours=2.0 / float(rng.uniform(0.6, 1.6)))
    travel, left = float(rng.choice([0.25, 0.4, 0.6])), float(rng.choice([2.0, 3.0, 4.0]))
    wanted = int(rng.integers(len(_STAY)))
    best: tuple[float, int, int, str] | None = None
    for _ in range(120):
        minutes, fish = int(rng.integers(1, 10)) * 10, int(rng.poisson(3.0 if wanted else 0.7))
        answer = stay_or_go(usual, fish, minutes / 60, usual, gone_per_hour=0.5, travel_h=travel, left_h=left)
        more = answer.minutes_more if answer.stay else 0.0
        kind = next((k for k, most in enumerate(_STAY_MIN) if more <= most), len(_STAY) - 1)
        # a clear case lies in the middle of its span, a cruel one near where the next begins
        low, high = (*_STAY_MIN, 120.0)[max(kind - 1, 0)], (*_STAY_MIN, 120.0)[kind]
        clear = answer.gain if not answer.stay else min(more - low, max(high - more, 0.0)) / max(high - low, 1.0)
        score = abs(clear - 0.45 * (1.0 - hard)) + (0.0 if kind == wanted else 10.0)
        if best is None or score < best[0]:
            best = (score, minutes, fish, _STAY[kind])
    assert best is not None
    _, minutes, caught, truth = best
    mean = usual.fish / usual.hours
    return Lesson(
        skill="stay or go",
        difficulty=difficulty,
        ask=f"{caught} fish in {minutes} minutes here; such places give {mean:.1f} an hour fresh, half that an hour "
        f"later. The next is {60 * travel:.0f} minutes away, {left:.0f} hours are left. If no fish comes?",
        answer_is="choice",
        choices=_STAY,
        truth=truth,
        why="what was caught here, shrunk to what is usual, against a fresh place less the way there: " + truth,
        card=(
            f"{caught} fish in {minutes} min",
            f"usual {mean:.1f} an hour",
            f"{60 * travel:.0f} min to the next place",
        ),
    )


_DROP = ("too late", "just its tail", "its second half", "nearly all of it")


def _drop(rng: np.random.Generator, difficulty: float) -> Lesson:
    hard = hardness(difficulty)
    kind = int(rng.integers(len(_DROP)))
    grams = float(rng.choice([5.0, 7.0, 10.0, 14.0]))
    lure = lure_of(Packet(form=Form.BALL_JIG, mass_kg=grams / 1000))
    deep = float(rng.choice([5.0, 7.0, 9.0, 12.0]))
    fall = fall_speed(lure.falling(BRAID), deep)
    passes = float(rng.choice([0.15, 0.25, 0.4]))
    # a third of the school for each answer: in its middle when easy, near its edge when cruel
    share = (kind - 1) / 3 + 1 / 6 + float(rng.choice([-1.0, 1.0])) * hard * 0.14
    turn = np.linspace(0.25, 2.25, 40) * np.pi
    seconds = drop_on_school(deep, fall, passes, 10.0).seconds
    length = passes * seconds / (1.0 - share)
    found = drop_on_school(deep, fall, passes, length)
    truth = _DROP[0] if found.share <= 0 else _DROP[min(1 + int(found.share * 3), 3)]
    return Lesson(
        skill="drop on a passing school",
        difficulty=difficulty,
        ask=f"A school enters the beam at {deep:.0f} m: {length:.1f} m long, it passes at {passes:g} m/s. "
        f"Your {grams:g} g jig is at the surface. Dropped now, what of the school does it meet?",
        answer_is="choice",
        choices=_DROP,
        truth=truth,
        why=f"the jig is there in {found.seconds:.0f} s, the school is gone in {length / passes:.0f} s",
        card=(f"{grams:g} g jig to {deep:.0f} m", f"a school {length:.1f} m long", f"passes at {passes:g} m/s"),
        sketch=column_sketch(
            deep,
            f"{deep:.0f} m",
            ("school", deep + length * (0.5 + 0.5 * np.cos(turn)), deep + 0.12 * length * np.sin(turn)),
            ("jig", np.full(2, deep), np.array([0.0, 0.1 * deep])),
        ),
        drawing=Drawing(
            lines=(
                ("jig", np.array([0.0, found.seconds - deep / fall, found.seconds]), np.array([0.0, 0.0, deep])),
                ("school", np.array([0.0, length / passes]), np.array([deep, deep])),
            ),
            along="s",
            down="m",
        ),
    )


_TURNS = ("rises by more than 0.5 m", "stays within 0.5 m", "sinks 0.5 m to 2.0 m", "sinks by more than 2.0 m")
_TURN_M = (-0.5, 0.5, 2.0)  # deeper by so much: from one answer to the next
_INNER, _OUTER = 5.0, -5.0  # of the rod from the middle of the boat, which turns to starboard
# what stands for each answer, the plain cases first: way, depth, rod, radius of the turn
_TURN_CASES: tuple[tuple[tuple[Method, float, float, float], ...], ...] = (
    (
        (Method.WEIGHTED_LINE, 5.0, _OUTER, 15.0),
        (Method.CLIP, 5.0, _OUTER, 15.0),
        (Method.FLAT_LINE, 3.0, _INNER, 14.0),
    ),
    (
        (Method.DIVER, 5.0, _OUTER, 30.0),
        (Method.DOWNRIGGER, 8.0, _INNER, 32.0),
        (Method.FLAT_LINE, 3.0, _OUTER, 15.0),
    ),
    (
        (Method.DOWNRIGGER, 8.0, _INNER, 15.0),
        (Method.WEIGHTED_LINE, 5.0, _INNER, 30.0),
        (Method.DIVER, 5.0, _INNER, 14.0),
    ),
    ((Method.CLIP, 5.0, _INNER, 16.0), (Method.WEIGHTED_LINE, 5.0, _INNER, 16.0), (Method.CLIP, 3.0, _INNER, 16.0)),
)
_TURN_WORDS = {
    Method.WEIGHTED_LINE: "a spoon on weighted line",
    Method.CLIP: "a spoon behind a clip weight",
    Method.FLAT_LINE: "a plug that floats and dives",
    Method.DOWNRIGGER: "a spoon behind a ball of 4.5 kg",
    Method.DIVER: "a spoon behind a diving disc",
}
_TURN_WHY = (
    "{lure} meets faster water on the outer side, or floats up where it slows: {least:.1f} m at the least",
    "what weighs or dives against its own speed keeps its depth: between {least:.1f} m and {most:.1f} m",
    "the inner rod slows to {slow:.1f} m/s and {lure} sinks to {most:.1f} m",
    "the inner rod all but stops, {slow:.1f} m/s, and {lure} sinks to {most:.1f} m",
)


def _in_turn(rng: np.random.Generator, difficulty: float) -> Lesson:
    hard = hardness(difficulty)
    cases = _TURN_CASES[int(rng.integers(len(_TURN_CASES)))]
    method, deep, aside, radius = cases[min(int(rng.uniform(0.0, 1.0 + 2.0 * hard)), len(cases) - 1)]
    radius = round(radius * float(rng.uniform(0.95, 1.1)))
    speed = float(rng.choice([0.8, 0.9, 1.0]))
    rod = replace(default_setup(RigSettings(speed_mps=speed), method), aside_m=aside)
    out = solve(rod, deep)
    assert not isinstance(out, CannotReach)
    track = turn_track(speed, radius_m=radius, turn_deg=180.0, run_in_s=15.0, run_out_s=45.0)
    line = (found := run_along([rod], [out], track)).lines[0]
    least, most = float(line.depth_m.min()), float(line.depth_m.max())
    change = most - deep if most - deep >= deep - least else least - deep
    kind = int(np.searchsorted(_TURN_M, change))
    lure, side = _TURN_WORDS[method], "inner" if aside > 0 else "outer"
    start = found.boat_y[0]
    return Lesson(
        skill="what a lure does in a turn",
        difficulty=difficulty,
        ask=f"{lure[:1].upper()}{lure[1:]} runs at {deep:.0f} m on the {side} rod. The boat turns about, "
        f"{radius:.0f} m of radius, at {speed:g} m/s. What does the lure do?",
        answer_is="choice",
        choices=_TURNS,
        truth=_TURNS[kind],
        why=_TURN_WHY[kind].format(lure=lure, least=least, most=most, slow=float(line.speed_mps.min())),
        card=(lure, f"{deep:.0f} m deep, on the {side} rod", f"a turn of {radius:.0f} m radius at {speed:g} m/s"),
        sketch=Drawing(
            lines=(
                ("the boat's way", found.boat_x, start - found.boat_y),
                ("its line", np.array([aside, line.x[0]]), np.array([0.0, start - line.y[0]])),
            ),
            along="",
            down="",
        ),
        drawing=Drawing(lines=(("lure", found.time, line.depth_m),), along="s", down="m"),
    )


_CARE = (
    "let it go as usual, head first",
    "let it go at once, it burps by itself",
    "back down on a weight",
    "stop fishing for it",
)
_CARE_OF = {FishCare.DEEP_VENTS: _CARE[1], FishCare.DEEP_CLOSED: _CARE[2], FishCare.WARM_STOP: _CARE[3]}
_CLOSED, _VENTS = ("per", "yep", "wal", "zan", "bur"), ("lkt", "bkt", "kok")


def _care(rng: np.random.Generator, difficulty: float) -> Lesson:
    hard = hardness(difficulty)
    kind = int(rng.integers(4))
    keys = _CLOSED if kind == 2 else _VENTS if kind == 1 else _CLOSED + _VENTS
    species = {s.key: s for s in known_species()}[str(rng.choice(keys))]
    limit, stop = species.care_m or 0.0, warm_stop_c(species)
    margin = 1.7 - 0.5 * hard  # how clearly it is so
    depth = round(limit * margin) if kind in (1, 2) else round(limit / margin)
    water = round(stop + 2.5 - 1.5 * hard) if kind == 3 else round(stop - 5.0 + 2.5 * hard)
    told = at_catch(species, depth_m=depth, water_c=water)
    code = next((r.code for r in told if r.code in _CARE_OF), None)
    truth = _CARE[0] if code is None else _CARE_OF[FishCare(code)]
    times = expansion(depth)
    bladder = "its swim bladder is closed" if species.bladder == "PC" else "it can burp its gas"
    down = np.linspace(0.0, float(depth), 40)
    return Lesson(
        skill="keep or release from this depth",
        difficulty=difficulty,
        ask=f"A {species.name} took at {depth:.0f} m, the water on top is {water:.0f} °C. If the rules let you "
        "release it, what gives it the best chance?",
        answer_is="choice",
        choices=_CARE,
        truth=truth,
        why=f"{bladder}, from {depth:.0f} m its gas is {times:.1f} times as large; it is at risk from {limit:.0f} m, "
        f"and over {stop:.0f} °C. Local rules come first: where it may not be released alive with a chance, keep it",
        card=(species.name, f"hooked at {depth:.0f} m", f"surface {water:.0f} °C"),
        sketch=column_sketch(
            float(depth), f"{depth} m", ("brought up", np.full(2, 1.6 * depth), np.array([1.0, 0.35]) * depth)
        ),
        drawing=Drawing(
            lines=(("its gas, times", 1.0 + (depth - down) / (10.33 + down), down),), along="times", down="m"
        ),
    )


DECIDING: Mapping[str, Callable[[np.random.Generator, float], Lesson]] = {
    "line for a depth": _line_out,
    "stay or go": _stay,
    "drop on a passing school": _drop,
    "what a lure does in a turn": _in_turn,
    "keep or release from this depth": _care,
}
