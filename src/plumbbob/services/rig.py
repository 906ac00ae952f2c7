"""
Answers what `plumbbob rig` is asked: each part on its own, from the rods, the notes and the tackle given.

Numbers are SI; the request is docs/formats.md's.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from functools import partial
from typing import Any

import numpy as np

from plumbbob.core.rig.advice import Vertical, advise, ways_to_reach, where_to_hang
from plumbbob.core.rig.calibrate import TackleCalibration, calibrate
from plumbbob.core.rig.casting import swing, time_to_angle
from plumbbob.core.rig.fall import time_to_depth
from plumbbob.core.rig.knowledge import Knowledge
from plumbbob.core.rig.lane import passage, seconds_to_mark
from plumbbob.core.rig.line import (
    RHO_FRESH,
    Segment,
    Tow,
    Unreachable,
    length_between,
    line_for_depth,
    tow,
)
from plumbbob.core.rig.methods import MOST_OUT, run, solve, weight_for_angle
from plumbbob.core.rig.motion import run_along
from plumbbob.core.rig.rod import FAMILY, FASTEST_MPS, Family, RigAnswer, RigSettings
from plumbbob.core.rig.table import card_table, speeds_about
from plumbbob.core.rig.tackle import Box
from plumbbob.formats.checked import list_of, number_from, object_of, within
from plumbbob.formats.rig_json import answer_json, rod_from
from plumbbob.formats.rig_request import (
    FALL_KEYS,
    MOST_CELLS,
    MOST_MOTION_STEPS,
    MOST_NOTES,
    MOST_PROBLEMS,
    MOST_RODS,
    PARTS,
    ROD_KEYS,
    SWING_KEYS,
    TOW_KEYS,
    Json,
    body_from,
    box_from,
    depth_of,
    facts_from,
    falling_from,
    note_of_rod,
    numbers_of,
    pieces_from,
    track_from,
)
from plumbbob.wording.rig import advice_words, rig_words


def answer_request(request: Mapping[str, Any], progress: Callable[[float], None] = lambda f: None) -> Json:
    """
    Everything that is asked.

    Raises
    ------
    ValueError
        With the part and what will not do in it, in one line.
    """
    if not isinstance(request, Mapping):
        raise ValueError("a JSON object is needed")
    strange = [k for k in request if k not in PARTS]
    if strange:
        raise ValueError(f"{strange[0]}: not a part of a request; {', '.join(PARTS)} are")
    box = _part("tackle", lambda: box_from(request.get("tackle", ())))
    notes = _part("notes", lambda: [note_of_rod(n, box) for n in list_of(request.get("notes", ()), MOST_NOTES)])
    fit = calibrate(notes)
    rods = _part("rods", lambda: [_rod(r, box, fit.knowledge) for r in list_of(request.get("rods", ()), MOST_RODS)])
    out: Json = {}
    if rods:
        out["rods"] = [{**({"name": r.name} if r.name else {}), **answer_json(r.answer)} for r in rods]
    if notes:
        out["notes"] = _calibration(fit)
    answered: tuple[tuple[str, Callable[[Any], Any]], ...] = (
        ("tables", lambda v: _tables(v, rods, fit.knowledge)),
        ("weights", lambda v: _weights(v, rods)),
        ("lane", lambda v: _lane(v, rods, fit.knowledge)),
        ("motion", lambda v: _motion(v, rods, fit.knowledge, progress)),
        ("hang", _hang),
        ("ways", lambda v: _ways(v, rods, fit.knowledge)),
        ("advice", lambda v: _advice(v, rods)),
        ("problems", lambda v: [_problem(p) for p in list_of(v, MOST_PROBLEMS)]),
    )
    for name, answer in answered:
        if name in request:
            out[name] = _part(name, partial(answer, request[name]))
    return _finite(out)


def _finite(answer: Any) -> Any:
    """The answer with null where a number is none."""
    if isinstance(answer, dict):
        return {k: _finite(v) for k, v in answer.items()}
    if isinstance(answer, list | tuple):
        return [_finite(v) for v in answer]
    return None if isinstance(answer, float) and not math.isfinite(answer) else answer


def _part(name: str, work: Callable[[], Any]) -> Any:
    try:
        return work()
    except (ValueError, KeyError) as exc:
        what = f"{exc.args[0]} is missing" if isinstance(exc, KeyError) else str(exc)
        raise ValueError(f"{name}: {what}") from exc
    except (TypeError, AttributeError, IndexError) as exc:
        raise ValueError(f"{name}: a value is of the wrong kind ({exc})") from exc
    except ArithmeticError as exc:
        raise ValueError(f"{name}: these numbers cannot be worked with ({exc})") from exc


class _Rod:
    """One rod asked for, and its answer."""

    def __init__(self, rod: RigSettings, answer: Any, name: str) -> None:
        self.rod, self.answer, self.name = rod, answer, name


def _rod(data: Mapping[str, Any], box: Box, knowledge: Knowledge) -> _Rod:
    rod = rod_from(object_of(data, ROD_KEYS), box)
    if ("depth_m" in data) == ("value" in data):
        raise ValueError("either depth_m, or value (what is out, cast or counted), is needed")
    if "depth_m" in data:
        answer = solve(rod, within("depth_m", data["depth_m"], -1000.0, 1000.0), knowledge)
    else:
        answer = run(rod, within("value", data["value"], -MOST_OUT, MOST_OUT), knowledge)
    return _Rod(rod, answer, str(data.get("name", "")))


def _reached(rods: list[_Rod]) -> list[_Rod]:
    found = [r for r in rods if isinstance(r.answer, RigAnswer)]
    if not found:
        raise ValueError("needs a rod that reaches its depth")
    return found


def _calibration(fit: TackleCalibration) -> Json:
    return {
        "coefficients": [
            {
                "kind": m.key[0],
                "name": m.key[1],
                "coefficient": m.key[2],
                "factor": m.factor,
                "log_sd": m.sd,
                "log_sd_before": m.prior_sd,
            }
            for m in fit.moved
        ],
        "judged": [
            {
                "told": j.note.told.value,
                "depth_m": j.note.depth_m,
                "catalogue_m": j.said_before_m,
                "fitted_m": j.says_m,
                "off_sd": j.off_sd,
                "contradicts": j.contradicts,
            }
            for j in fit.judged
        ],
        "unusable": [{"depth_m": n.depth_m, "reason": rig_words(reason)} for n, reason in fit.unusable],
    }


def _tables(data: Mapping[str, Any], rods: list[_Rod], knowledge: Knowledge) -> list[Json]:
    data = object_of(data, ("depths_m", "speeds_mps"))
    depths = [depth_of(d, "depths_m") for d in list_of(data["depths_m"])]
    asked = list_of(data["speeds_mps"]) if "speeds_mps" in data else None
    if len(depths) * (5 if asked is None else len(asked)) * max(len(rods), 1) > MOST_CELLS:
        raise ValueError(f"at most {MOST_CELLS} values are answered, over all rods")
    out = []
    for r in rods:
        speeds = [within("speeds_mps", v, 0.0, FASTEST_MPS) for v in asked or speeds_about(r.rod.speed_mps)]
        table = card_table(r.rod, depths, speeds, knowledge)
        out.append(
            {
                "method": r.rod.method.value,
                "amount": table.amount.value,
                "speeds_mps": list(table.speeds_mps),
                "depths_m": list(table.depths_m),
                "values": [list(row) for row in table.values],
            }
        )
    return out


def _weights(data: Mapping[str, Any], rods: list[_Rod]) -> list[Json]:
    """What keeps the line steep, for each rod below the boat."""
    data = object_of(data, ("depth_m", "off_vertical_deg"))
    depth = depth_of(data["depth_m"])
    off = within("off_vertical_deg", data.get("off_vertical_deg", 30.0), 1.0, 89.0)
    return [
        {"method": r.rod.method.value, "mass_kg": weight_for_angle(r.rod, depth, off)}
        for r in rods
        if FAMILY[r.rod.method] is Family.VERTICAL
    ]


def _lane(data: Mapping[str, Any], rods: list[_Rod], knowledge: Knowledge) -> list[Json]:
    data = object_of(data, ("along_m", "bottom_m", "keep_m", "most_m", "boat_m", "mark_m"))
    along, bottom = numbers_of(data, "along_m"), numbers_of(data, "bottom_m")
    if len(along) != len(bottom):
        raise ValueError("along_m and bottom_m must be of one length")
    if not (len(along) > 1 and (np.diff(along) > 0).all()):
        raise ValueError("along_m must rise, and have two places at least")
    keep = number_from("keep_m", data.get("keep_m", 1.0))
    most = number_from("most_m", data["most_m"]) if "most_m" in data else math.inf
    out = []
    for r in _reached(rods):
        found = passage(r.rod, r.answer, along, bottom, keep_m=keep, most_m=most, knowledge=knowledge)
        item: Json = {
            "method": r.rod.method.value,
            "least_room_m": _or_none(float(np.nanmin(found.room_m))) if np.isfinite(found.room_m).any() else None,
            "stretches": [
                {
                    "trouble": s.trouble.value,
                    "from_m": s.from_m,
                    "to_m": s.to_m,
                    "room_m": s.room_m,
                    "chance_of_touch": s.chance,
                    "change_m": s.change_m,
                    "begin_boat_m": s.begin_boat_m,
                    "back_boat_m": s.back_boat_m,
                }
                for s in found.stretches
            ],
        }
        if "mark_m" in data:
            boat = number_from("boat_m", data.get("boat_m", 0.0))
            mark = number_from("mark_m", data["mark_m"])
            left = seconds_to_mark(mark, boat, r.answer.layback_m, r.rod.speed_mps)
            item["seconds_to_mark"] = _or_none(left)
        out.append(item)
    return out


def _or_none(value: float) -> float | None:
    return value if math.isfinite(value) else None


def _motion(
    data: Mapping[str, Any], rods: list[_Rod], knowledge: Knowledge, progress: Callable[[float], None]
) -> Json:
    data = object_of(data, ("turn", "change", "track", "bottom_m", "step_s"))
    if sum(k in data for k in ("turn", "change", "track")) != 1:
        raise ValueError("one of turn, change and track is needed")
    hanging = [r for r in _reached(rods) if FAMILY[r.rod.method] in (Family.TROLLED, Family.VERTICAL)]
    if not hanging:
        raise ValueError("needs a rod whose line is in the water")
    # a boat trolls or drifts: what is fished as the first rod is
    hanging = [r for r in hanging if FAMILY[r.rod.method] is FAMILY[hanging[0].rod.method]]
    track = track_from(data, hanging[0].rod.speed_mps)
    step = number_from("step_s", data.get("step_s", 0.5))
    if not 0.01 <= step <= 1.0:
        raise ValueError("step_s must be between 0.01 and 1")
    steps = float(track.time[-1] - track.time[0]) / step * len(hanging)
    if steps > MOST_MOTION_STEPS:
        raise ValueError(f"{steps:.0f} steps of all lines are too many: at most {MOST_MOTION_STEPS} are followed")
    depth = number_from("bottom_m", data["bottom_m"]) if "bottom_m" in data else None
    bottom = None if depth is None else (lambda x, y: np.full(np.shape(x), depth))
    found = run_along(
        [knowledge.tuned(r.rod) for r in hanging],
        [r.answer for r in hanging],
        track,
        bottom=bottom,
        step_s=step,
        progress=progress,
    )
    return {
        "time": found.time.tolist(),
        "boat_x": found.boat_x.tolist(),
        "boat_y": found.boat_y.tolist(),
        "nearest_m": [_or_none(v) for v in found.nearest_m.tolist()],
        "lines": [
            {
                "method": r.rod.method.value,
                "depth_m": line.depth_m.tolist(),
                "x": line.x.tolist(),
                "y": line.y.tolist(),
                "speed_mps": line.speed_mps.tolist(),
                "tension_n": line.tension_n.tolist(),
            }
            for r, line in zip(hanging, found.lines, strict=True)
        ],
    }


def _hang(data: Mapping[str, Any]) -> Json:
    data = object_of(data, ("fish_m", "above_fish_m", "vertical", "facts"))
    vertical = Vertical(data.get("vertical", "above"))
    setting = within("above_fish_m", data.get("above_fish_m", 0.7), 0.0, 10.0)
    found = where_to_hang(depth_of(data["fish_m"], "fish_m"), facts_from(data), setting_m=setting, vertical=vertical)
    return {
        "depth_m": found.depth_m,
        "reasons": [rig_words(r) for r in found.reasons],
        "cautions": [rig_words(c) for c in found.cautions],
    }


def _ways(data: Mapping[str, Any], rods: list[_Rod], knowledge: Knowledge) -> list[Json]:
    data = object_of(data, ("depth_m", "facts"))
    rod = rods[0].rod if rods else RigSettings()
    found = ways_to_reach(depth_of(data["depth_m"]), facts_from(data), rod, knowledge)
    return [
        {
            "method": w.method.value,
            "reaches": w.reaches,
            "words": rig_words(w.reason),
            "answer": answer_json(w.answer),
        }
        for w in found
    ]


def _advice(data: Mapping[str, Any], rods: list[_Rod]) -> list[Json]:
    data = object_of(data, ("depth_m", "facts"))
    given = advise(depth_of(data["depth_m"]), facts_from(data), [r.rod for r in rods])
    said = [advice_words(a) for a in given]
    return [{"title": title, "text": text, "schools": [list(s) for s in schools]} for title, text, schools in said]


def _problem(data: Mapping[str, Any]) -> Json:
    """One bare problem: `tow`, `tow-inverse`, `countdown` or `pendulum`, in the names of its input."""
    data = object_of(data, ("kind", "input"))
    kind, given = str(data["kind"]), data["input"]
    if kind.startswith("tow"):
        return _tow(given)
    if kind == "countdown":
        return _countdown(given)
    if kind == "pendulum":
        return _pendulum(given)
    raise ValueError(f"kind {kind!r}: tow, tow-inverse, countdown or pendulum is needed")


def _tow(given: Mapping[str, Any]) -> Json:
    given = object_of(given, TOW_KEYS)
    body, pieces = body_from(given["body"]), pieces_from(given["line_segments_from_body_up"])
    rho = number_from("rho_kg_m3", given.get("rho_kg_m3", RHO_FRESH))
    profile = given.get("stream_profile_depth_m_and_speed_m_s")
    stream = None if profile is None else [(number_from("depth", d), number_from("speed", v)) for d, v in profile]
    speed = number_from("speed_through_water_m_s", given.get("speed_through_water_m_s", 0.0))
    if "target_depth_m" not in given:
        return _tow_json(tow(body, pieces, speed, rho=rho, stream=stream))
    target = number_from("target_depth_m", given["target_depth_m"])
    longest = number_from("longest_m", given.get("longest_m", 1000.0))
    asked = [i for i, row in enumerate(given["line_segments_from_body_up"]) if row.get("length_m", 0.0) is None]
    where = asked[0] if asked else len(pieces) - 1
    try:
        if where == len(pieces) - 1:
            solved = line_for_depth(body, pieces, target, speed, rho=rho, stream=stream, longest_m=longest)
            fixed = sum(p.length_m for p in pieces[:-1] if isinstance(p, Segment))
            length = solved.length_m - fixed
        else:
            length, solved = length_between(
                body, pieces, where, target, speed, rho=rho, stream=stream, longest_m=longest
            )
    except Unreachable as limit:
        return {"length_m": None, "reachable": False, "greatest_depth_m": limit.greatest_depth_m}
    return {**_tow_json(solved), "length_m": length, "reachable": True}


def _tow_json(solved: Tow) -> Json:
    return {
        "depth_m": solved.depth_m,
        "layback_m": solved.layback_m,
        "tension_at_surface_N": solved.tension_n,
        "angle_from_vertical_at_surface_deg": solved.angle_from_vertical_deg,
    }


def _countdown(given: Mapping[str, Any]) -> Json:
    given = object_of(given, (*FALL_KEYS, "depth_m"))
    rho = within("rho_kg_m3", given.get("rho_kg_m3", RHO_FRESH), 900.0, 1100.0)
    seconds, speed = time_to_depth(falling_from(given, ("depth_m",)), depth_of(given["depth_m"]), rho=rho)
    return {"time_s": seconds, "speed_at_depth_m_s": speed}


def _pendulum(given: Mapping[str, Any]) -> Json:
    given = object_of(given, (*FALL_KEYS, *SWING_KEYS))
    rho = within("rho_kg_m3", given.get("rho_kg_m3", RHO_FRESH), 900.0, 1100.0)
    falling = falling_from(given, SWING_KEYS)
    line = within("line_length_m", given["line_length_m"], -1000.0, 1000.0)
    if not line > 0:
        raise ValueError("line_length_m must be above zero")
    start = number_from("start_angle_below_horizontal_deg", given.get("start_angle_below_horizontal_deg", 0.0))
    beta = number_from("line_Cn", given.get("line_Cn", 1.2)) / 1.2
    times = [within("times_s", t, 0.0, 3600.0) for t in list_of(given["times_s"], 500)]
    out: Json = {}
    for t, (depth, far) in zip(times, swing(falling, line, start, times, beta=beta, rho=rho), strict=True):
        out[f"depth_at_{t:g}s_m"], out[f"distance_at_{t:g}s_m"] = depth, far
    out["time_to_80deg_s"] = time_to_angle(falling, line, start, 80.0, beta=beta, rho=rho)
    return out
