"""The program's own reader takes the same items: what it would answer, and the cases it gets wrong."""

from __future__ import annotations

import json
import re
import tempfile
import zipfile
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np

from plumbbob.core.plan.grading import PASSES, score_of
from plumbbob.core.sonar.beam import dead_zone_on_axis
from plumbbob.core.sonar.reading import Fish, Reading, SideThing, Trail
from plumbbob.core.sonar.recording import Recording
from plumbbob.core.types import Floats
from plumbbob.files.atomic import writing
from plumbbob.sim.lesson import Lesson
from plumbbob.sim.lessons import lesson
from plumbbob.sim.lessons_lure import CLOSE_M, REACH_M, met_at

_NEAR_S = 4.0
_NEAR_M = 12.0  # what is near to the sides, as the items have it
_RISES_M, _UNDER_M = 1.0, 0.8
_WEED_M = 1.5  # tangles longer than they are high, as the items have them
_QUARTERS = 4
_FALLS = re.compile(r"falls ([\d.]+) m in ([\d.]+) s")
_LATE_S, _STANDS_MPS, _LAGS_M, _ITSELF_M, _LEVEL_M = 5.0, 0.03, 0.25, 0.5, 1.25  # of a lure and what follows it


def reader_answer(one: Lesson, recording: Recording) -> Any | None:
    """What the reader says to an item; None where it was never taught to answer such a question, or sees nothing."""
    from plumbbob.core.sonar.views import read_views

    answers = _ANSWERS.get(one.skill)
    return None if answers is None else answers(one, recording, read_views(recording))


def _at(one: Lesson, recording: Recording) -> float:
    view = recording.down
    start = float(view.time[0]) if view is not None else 0.0
    return start + (one.at_s if one.at_s is not None else 0.0)


def _bottom(one: Lesson, recording: Recording, reading: Reading) -> Any | None:
    depth = float(np.interp(_at(one, recording), reading.bottom.time, reading.bottom.depth_m))
    return depth if np.isfinite(depth) else None


def _below(one: Lesson, recording: Recording, reading: Reading) -> Any | None:
    depth = float(np.interp(_at(one, recording), reading.bottom.time, reading.bottom.below_m))
    return depth if np.isfinite(depth) else None


def _what(one: Lesson, recording: Recording, reading: Reading) -> Any | None:
    at, near = _at(one, recording), []
    near += [(abs(f.time - at), "fish") for f in reading.fish]
    for stand in reading.standing:
        away = max(stand.time_start - at, at - stand.time_end, 0.0)
        is_weed = stand.kind == "weed" or stand.length_m > max(stand.height_m, _WEED_M)
        near.append((away, "weed" if is_weed else "timber"))
    near += [(max(b.time_start - at, at - b.time_end, 0.0), "bait") for b in reading.bait]
    found = min(near, default=None)
    return None if found is None or found[0] > _NEAR_S else found[1]


def _band(one: Lesson, recording: Recording, reading: Reading) -> Any | None:
    if any(s.kind == "weed" for s in reading.standing):
        return "weed"
    if reading.bait:
        return "bait"
    if reading.cold_layer is not None or reading.no_layer is not None:
        return "cold layer"
    return "surface clutter"


def _count(one: Lesson, recording: Recording, reading: Reading) -> Any | None:
    return str(min(max(sum(abs(f.time - _at(one, recording)) < 2 * _NEAR_S for f in reading.fish), 1), 5))


def _strongest(reading: Reading) -> Fish | None:
    return max(reading.fish, key=lambda f: f.level_db, default=None)


def _find(one: Lesson, recording: Recording, reading: Reading) -> Any | None:
    fish, down = _strongest(reading), recording.down
    return None if fish is None or down is None else [fish.time - float(down.time[0]), fish.depth_m]


def _height(one: Lesson, recording: Recording, reading: Reading) -> Any | None:
    at = _at(one, recording)
    near = [f for f in reading.fish if abs(f.time - at) < _NEAR_S]
    fish = min(near, key=lambda f: abs(f.time - at), default=None)
    return None if fish is None else fish.height_above_bottom_m


def _follow(one: Lesson, recording: Recording, reading: Reading) -> Any | None:
    trails = sorted(reading.trails, key=lambda t: t.time[0] - t.time[-1])
    if not trails:
        return None
    lure, others = trails[0], trails[1:]  # the longest is what hangs on the line
    if others:
        other = others[0]
        return "a fish rises to it" if other.depth_m[0] - other.depth_m[-1] > _RISES_M else "a fish stays under it"
    deep = max(lure.depth_m) + _UNDER_M
    return "a fish passes by" if any(f.depth_m > deep for f in reading.fish) else "only the lure"


def _blind(one: Lesson, recording: Recording, reading: Reading) -> Any | None:
    down, at = recording.down, _at(one, recording)
    below, slope = (
        float(np.interp(at, reading.bottom.time, values))
        for values in (reading.bottom.below_m, reading.bottom.slope_deg)
    )
    if down is None or not np.isfinite(below):
        return None
    high = below - down.mount.depth_m
    zone = float(dead_zone_on_axis(high, down.beam_width_deg, down.pulse_m, slope if np.isfinite(slope) else 0.0))
    return min(one.choices, key=lambda c: abs(np.log(float(c.split()[0]) / max(zone, 1e-3))))


def _densest(one: Lesson, recording: Recording, reading: Reading) -> Any | None:
    from plumbbob.core.sonar.seen_along import seen_along

    seen = seen_along(recording, reading)
    if seen is None:
        return None
    volume, fish, _ = seen.within(0.0, 1e4)
    quarter = (np.arange(fish.size) * _QUARTERS // max(fish.size, 1)).clip(0, _QUARTERS - 1)
    rate = [fish[quarter == q].sum() / max(volume[quarter == q].sum(), 1e-9) for q in range(_QUARTERS)]
    return one.choices[int(np.argmax(rate))]


def _things(reading: Reading) -> Sequence[SideThing]:
    return reading.side.things if reading.side is not None else ()


def _tallest(reading: Reading) -> SideThing | None:
    things = [t for t in _things(reading) if t.kind != "edge"]
    return max(things, key=lambda t: t.height_m, default=None)


def _shadow(one: Lesson, recording: Recording, reading: Reading) -> Any | None:
    thing = _tallest(reading)
    return None if thing is None else thing.height_m


def _side(one: Lesson, recording: Recording, reading: Reading) -> Any | None:
    thing = _tallest(reading)
    return None if thing is None else f"{thing.side}, {'near' if thing.ground_m < _NEAR_M else 'far'}"


def _among(one: Lesson, recording: Recording, reading: Reading) -> Any | None:
    fish = max(reading.side.fish if reading.side is not None else (), key=lambda f: f.chance, default=None)
    return None if fish is None else f"{fish.side}, {'near' if fish.ground_m < _NEAR_M else 'far'}"


def _drop_off(one: Lesson, recording: Recording, reading: Reading) -> Any | None:
    at, edges = _at(one, recording), [t for t in _things(reading) if t.kind == "edge"]
    edge = min(edges, key=lambda t: max(t.time_start - at, at - t.time_end, 0.0), default=None)
    return None if edge is None else edge.height_m


def _distance(one: Lesson, recording: Recording, reading: Reading) -> Any | None:
    thing = _tallest(reading)
    return None if thing is None else thing.ground_m


def _way(one: Lesson, recording: Recording, reading: Reading) -> Any | None:
    tracks = [t for t in reading.ahead.tracks if t.kind == "fish"] if reading.ahead is not None else []
    track = max(tracks, key=lambda t: t.time.size, default=None)
    if track is None or track.time.size < 4:
        return None
    off = np.radians(track.azimuth_deg)
    span = track.time - track.time.mean()
    weight = max(float((span**2).sum()), 1e-9)
    nearer = -float((span * track.distance_m * np.cos(off)).sum()) / weight
    across = float((span * track.distance_m * np.sin(off)).sum()) / weight
    if abs(nearer) > abs(across):
        return "comes nearer" if nearer > 0 else "goes away"
    return "crosses to starboard" if across > 0 else "crosses to port"


def _cast_to(one: Lesson, recording: Recording, reading: Reading) -> Any | None:
    """The fish whose landing place is in reach; its depth names it. What the jig is stands in the sentence."""
    if recording.forward is None:
        return None
    told = _FALLS.search(one.ask)
    if told is None:
        return None
    fall = float(told[1]) / float(told[2])
    found = []
    for track in reading.ahead.tracks if reading.ahead is not None else ():
        if track.kind != "fish" or track.time.size < 4:
            continue
        nearer, away = np.polyfit(track.time - recording.forward.time[-1], track.distance_m, 1)
        deep = float(np.median(track.depth_m))
        lands = met_at(float(away), -float(nearer), deep, fall)
        found.append((max(CLOSE_M - lands, lands - REACH_M), deep))
    if not found:
        return None
    deep = min(found)[1]
    return min(one.choices, key=lambda c: abs(float(c.split()[2]) - deep))


def _depth(trail: Trail, time: Floats) -> Floats:
    return np.interp(time, trail.time, trail.depth_m)


def _wants(one: Lesson, recording: Recording, reading: Reading) -> Any | None:
    """Of the two longest trails the one that is above when both are seen first is the lure."""
    trails = sorted(reading.trails, key=lambda t: t.time[0] - t.time[-1])[:2]
    if len(trails) < 2:
        return None
    both = np.array([max(t.time[0] for t in trails)])
    lure, fish = sorted(trails, key=lambda t: float(_depth(t, both)[0]))
    end = min(lure.time[-1], fish.time[-1])
    late = np.linspace(end - _LATE_S, end, 20)
    gap = _depth(fish, late) - _depth(lure, late)
    rises = -np.polyfit(late - end, _depth(lure, late), 1)[0]
    if gap[-1] < 0:
        return one.choices[3]
    if rises < _STANDS_MPS:
        return one.choices[2]
    return one.choices[1] if gap[-1] - gap[0] > _LAGS_M else one.choices[0]


def _change(one: Lesson, recording: Recording, reading: Reading) -> Any | None:
    trails = sorted(reading.trails, key=lambda t: t.time[0] - t.time[-1])
    if not trails:
        return None
    level = float(np.median(trails[0].depth_m))  # the longest is what hangs on the line
    depths = [f.depth_m for f in reading.fish] + [float(np.median(t.depth_m)) for t in trails[1:]]
    away = [abs(d - level) for d in depths if abs(d - level) > _ITSELF_M]
    if not away:
        return one.choices[3]
    if min(away) > _LEVEL_M:
        return one.choices[0]
    return one.choices[2] if "then the pace" in one.ask else one.choices[1]


_ANSWERS: dict[str, Callable[[Lesson, Recording, Reading], Any | None]] = {
    "bottom under weed": _bottom,
    "what it is": _what,
    "bait or layer": _band,
    "one or many": _count,
    "find the fish": _find,
    "height off the bottom": _height,
    "straight below on a slope": _below,
    "who follows": _follow,
    "what can't be seen": _blind,
    "most fish per water": _densest,
    "height from a shadow": _shadow,
    "left or right": _side,
    "true distance": _distance,
    "fish among stones": _among,
    "where a track goes": _way,
    "edge of a drop": _drop_off,
    "which fish to cast to": _cast_to,
    "what a follower wants": _wants,
    "change what first": _change,
}


@dataclass(frozen=True, slots=True)
class Case:
    """An item that a person read right and the reader did not."""

    item: Lesson
    seed: int
    recording: Recording
    score: float
    reader: Any | None
    reader_score: float


def reader_score(one: Lesson, answer: Any | None) -> float:
    """How good the reader's answer is; 0 where it has none."""
    if answer is None:
        return 0.0
    try:
        return score_of(one.answer_is, answer, one.truth, one.tolerance)[0]
    except ValueError:
        return 0.0


def is_case(score: float, reader: float) -> bool:
    """The person was right where the reader was not."""
    return score >= PASSES > reader


def find_cases(
    answers: Sequence[tuple[str, float, int, float]], progress: Callable[[float], None] = lambda _: None
) -> list[Case]:
    """Of answers (skill, difficulty, seed, score) that were right those whose item the reader gets wrong."""
    from plumbbob.sim.down import simulate

    out = []
    for k, (skill, hard, seed, score) in enumerate(answers):
        if score >= PASSES and skill in _ANSWERS:
            one = lesson(skill, hard, seed)
            assert one.scene is not None
            recording = simulate(one.scene, seed)[0]
            said = reader_answer(one, recording)
            if is_case(score, reader_score(one, said)):
                out.append(Case(one, seed, recording, score, said, reader_score(one, said)))
        progress((k + 1) / len(answers))
    return out


def write_cases(path: Path, cases: Sequence[Case]) -> None:
    """
    Write cases for the reader's makers: each pass as a recording, with what was asked, said and true.

    Raises
    ------
    FileError, OSError
        If it can't be written.
    """
    from plumbbob.formats.recording import write_recording

    rows = []
    with tempfile.TemporaryDirectory() as folder, writing(path) as fresh, zipfile.ZipFile(fresh, "w") as archive:
        for k, case in enumerate(cases, 1):
            one, name = case.item, f"case{k:03d}.nc"
            write_recording(Path(folder) / name, case.recording)
            archive.write(Path(folder) / name, name, zipfile.ZIP_DEFLATED)
            rows.append(
                {
                    "file": name,
                    "skill": one.skill,
                    "difficulty": one.difficulty,
                    "seed": case.seed,
                    "ask": one.ask,
                    "truth": one.truth,
                    "reader": case.reader,
                    "score": case.score,
                    "reader_score": case.reader_score,
                    "why": one.why,
                }
            )
        archive.writestr("cases.json", json.dumps({"version": 1, "cases": rows}, indent=1, sort_keys=True) + "\n")
