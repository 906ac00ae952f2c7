"""
What `plumbbob rig` is asked, as one JSON object, and the answer as another: every part is optional (docs/formats.md).

Each part is answered on its own from the rods, the notes and the tackle given. Numbers are SI.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import fields
from functools import partial
from typing import Any

import numpy as np
from numpy.typing import NDArray

from plumbbob.core.geodesy import separation
from plumbbob.core.rig.advice import RigFacts, Vertical, advise, ways_to_reach, where_to_hang
from plumbbob.core.rig.calibrate import Calibration, RigNote, calibrate
from plumbbob.core.rig.casting import swing, time_to_angle
from plumbbob.core.rig.fall import Falling, time_to_depth
from plumbbob.core.rig.knowledge import Knowledge
from plumbbob.core.rig.lane import passage, seconds_to_mark
from plumbbob.core.rig.line import (
    RHO_FRESH,
    Body,
    Piece,
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
from plumbbob.core.rig.tackle import DEFAULT_BOX, Box, box_of
from plumbbob.core.rig.track import Track, change_track, turn_track
from plumbbob.formats.rig_json import answer_json, note_from, number_from, rod_from
from plumbbob.formats.tackle_csv import columns, item_from

Json = dict[str, Any]
PARTS = ("tackle", "notes", "rods", "tables", "weights", "lane", "motion", "hang", "ways", "advice", "problems")
MOST_BYTES = 20_000_000
# what is answered in seconds: beyond it a request is refused before the work begins
MOST_RODS, MOST_NOTES, MOST_PIECES, MOST_PROBLEMS, MOST_CELLS = 40, 200, 2000, 500, 1000
MOST_PLACES, MOST_MOTION_STEPS = 100_000, 100_000
_ROD_KEYS = ("name", "depth_m", "value", *(f.name for f in fields(RigSettings)))
_NOTE_KEYS = ("rod", "told", "depth_m", "value", "time", "words")
_TOW_KEYS = (
    "body", "line_segments_from_body_up", "rho_kg_m3", "stream_profile_depth_m_and_speed_m_s",
    "speed_through_water_m_s", "target_depth_m", "longest_m",
)  # fmt: skip
_BODY_KEYS = ("weight_in_water_N", "drag_area_m2", "lift_area_down_m2")
_LINE_KEYS = ("length_m", "diameter_m", "weight_in_water_N_per_m", "Cn", "Ct")
_FALL_KEYS = (
    "weight_in_water_N", "drag_area_m2", "line_diameter_m", "line_Ct", "line_weight_in_water_N_per_m",
    "effective_mass_kg", "rho_kg_m3",
)  # fmt: skip
_SWING_KEYS = ("line_length_m", "start_angle_below_horizontal_deg", "line_Cn", "times_s")


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
    box = _part("tackle", lambda: _box(request.get("tackle", ())))
    notes = _part("notes", lambda: [_note(n, box) for n in _list(request.get("notes", ()), MOST_NOTES)])
    fit = calibrate(notes)
    rods = _part("rods", lambda: [_rod(r, box, fit.knowledge) for r in _list(request.get("rods", ()), MOST_RODS)])
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
        ("problems", lambda v: [_problem(p) for p in _list(v, MOST_PROBLEMS)]),
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


def _list(value: Any, most: int = MOST_PLACES) -> list[Any]:
    if isinstance(value, str | Mapping) or not isinstance(value, Sequence):
        raise ValueError("a list is needed")
    if len(value) > most:
        raise ValueError(f"{len(value)} are too many: at most {most} are answered")
    return list(value)


def _object(value: Any, known: Sequence[str]) -> Mapping[str, Any]:
    """An object of named values, all of them known: one that is dropped in silence would give another answer."""
    if not isinstance(value, Mapping):
        raise ValueError("an object of named values is needed")
    strange = next((k for k in value if k not in known), None)
    if strange is not None:
        raise ValueError(f"{strange} is not known; {', '.join(known)} are")
    return value


def _within(name: str, value: Any, low: float, high: float) -> float:
    number = number_from(name, value)
    if not low <= number <= high:
        raise ValueError(f"{name} {number:g} is outside {low:g} to {high:g}")
    return number


def _depth(value: Any, name: str = "depth_m") -> float:
    return _within(name, value, 0.0, 1000.0)


def _box(rows: Any) -> Box:
    items = {(i.kind, i.name): i for i in DEFAULT_BOX.all()}
    for row in _list(rows, MOST_PIECES):
        item = item_from(_object(row, columns()))
        items[(item.kind, item.name)] = item
    return box_of(items)


def _note(data: Any, box: Box) -> RigNote:
    given = _object(data, _NOTE_KEYS)
    _object(given.get("rod", {}), _ROD_KEYS)
    return note_from(given, box)


class _Rod:
    """One rod asked for, and its answer."""

    def __init__(self, rod: RigSettings, answer: Any, name: str) -> None:
        self.rod, self.answer, self.name = rod, answer, name


def _rod(data: Mapping[str, Any], box: Box, knowledge: Knowledge) -> _Rod:
    rod = rod_from(_object(data, _ROD_KEYS), box)
    if ("depth_m" in data) == ("value" in data):
        raise ValueError("either depth_m, or value (what is out, cast or counted), is needed")
    if "depth_m" in data:
        answer = solve(rod, _within("depth_m", data["depth_m"], -1000.0, 1000.0), knowledge)
    else:
        answer = run(rod, _within("value", data["value"], -MOST_OUT, MOST_OUT), knowledge)
    return _Rod(rod, answer, str(data.get("name", "")))


def _reached(rods: list[_Rod]) -> list[_Rod]:
    found = [r for r in rods if isinstance(r.answer, RigAnswer)]
    if not found:
        raise ValueError("needs a rod that reaches its depth")
    return found


def _calibration(fit: Calibration) -> Json:
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
        "unusable": [{"depth_m": n.depth_m, "reason": reason} for n, reason in fit.unusable],
    }


def _tables(data: Mapping[str, Any], rods: list[_Rod], knowledge: Knowledge) -> list[Json]:
    data = _object(data, ("depths_m", "speeds_mps"))
    depths = [_depth(d, "depths_m") for d in _list(data["depths_m"])]
    asked = _list(data["speeds_mps"]) if "speeds_mps" in data else None
    if len(depths) * (5 if asked is None else len(asked)) * max(len(rods), 1) > MOST_CELLS:
        raise ValueError(f"at most {MOST_CELLS} values are answered, over all rods")
    out = []
    for r in rods:
        speeds = [_within("speeds_mps", v, 0.0, FASTEST_MPS) for v in asked or speeds_about(r.rod.speed_mps)]
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
    data = _object(data, ("depth_m", "off_vertical_deg"))
    depth = _depth(data["depth_m"])
    off = _within("off_vertical_deg", data.get("off_vertical_deg", 30.0), 1.0, 89.0)
    return [
        {"method": r.rod.method.value, "mass_kg": weight_for_angle(r.rod, depth, off)}
        for r in rods
        if FAMILY[r.rod.method] is Family.VERTICAL
    ]


def _numbers(data: Mapping[str, Any], name: str) -> NDArray[np.float64]:
    return np.array([math.nan if v is None else number_from(name, v) for v in _list(data[name])])


def _lane(data: Mapping[str, Any], rods: list[_Rod], knowledge: Knowledge) -> list[Json]:
    data = _object(data, ("along_m", "bottom_m", "keep_m", "most_m", "boat_m", "mark_m"))
    along, bottom = _numbers(data, "along_m"), _numbers(data, "bottom_m")
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


def track_from(data: Mapping[str, Any], speed_mps: float) -> Track:
    """A turn, a change of speed, or a track as logged: metres, or latitudes and longitudes."""
    if "turn" in data:
        turn = _object(data["turn"], ("radius_m", "degrees"))
        radius = _within("radius_m", turn.get("radius_m", 25.0), 1.0, 5000.0)
        angle = _within("degrees", turn.get("degrees", 180.0), -3600.0, 3600.0)
        if not speed_mps >= 0.05:
            raise ValueError("a turn needs a boat that moves")
        return turn_track(speed_mps, radius_m=radius, turn_deg=angle)
    if "change" in data:
        change = _object(data["change"], ("speed_mps", "for_s"))
        other = _within("speed_mps", change["speed_mps"], 0.0, FASTEST_MPS)
        return change_track(speed_mps, other, for_s=_within("for_s", change.get("for_s", 20.0), 0.0, 7200.0))
    track = _object(data["track"], ("time", "x", "y", "latitude", "longitude", "current_mps"))
    time = _numbers(track, "time")
    if "latitude" in track:
        latitude, longitude = _numbers(track, "latitude"), _numbers(track, "longitude")
        if not len(latitude):
            raise ValueError("a track needs at least two places, with times that rise")
        x, y = separation(latitude[0], longitude[0], latitude, longitude)
    else:
        x, y = _numbers(track, "x"), _numbers(track, "y")
    if not len(time) == len(x) == len(y):
        raise ValueError("a track needs as many times as places")
    current = [_within("current_mps", v, -10.0, 10.0) for v in _list(track.get("current_mps", (0.0, 0.0)))]
    if len(current) != 2:
        raise ValueError("current_mps is east and north")
    return Track(time=time, x=x, y=y, current_mps=(current[0], current[1]))


def _motion(
    data: Mapping[str, Any], rods: list[_Rod], knowledge: Knowledge, progress: Callable[[float], None]
) -> Json:
    data = _object(data, ("turn", "change", "track", "bottom_m", "step_s"))
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


def _facts(data: Mapping[str, Any]) -> RigFacts:
    """The day's facts by name."""
    given = data.get("facts", {})
    if not isinstance(given, Mapping):
        raise ValueError("facts: an object of named values is needed")
    values: Json = {}
    known = {f.name: f for f in fields(RigFacts)}
    for name, value in given.items():
        if name not in known:
            raise ValueError(f"facts: {name} is not one of {', '.join(known)}")
        if name in ("layer", "comfort"):
            values[name] = None if value is None else _pair(name, value)
        elif name == "bait":
            values[name] = tuple(_pair(name, band) for band in _list(value, 1000))
        elif name in ("species", "looks"):
            values[name] = _word(name, value)
        elif name in ("soft_bottom", "fish_chase", "kayak"):
            if not isinstance(value, bool):
                raise ValueError(f"{name} is true or false")
            values[name] = value
        else:
            values[name] = _within(name, value, -1000.0, 1000.0)
    return RigFacts(**values)


def _pair(name: str, value: Any) -> tuple[float, float]:
    pair = _list(value, 2)
    if len(pair) != 2:
        raise ValueError(f"{name} is a pair of depths")
    return _within(name, pair[0], 0.0, 1000.0), _within(name, pair[1], 0.0, 1000.0)


def _word(name: str, value: Any) -> str:
    if not isinstance(value, str):
        raise ValueError(f"{name} is a text")
    return value


def _hang(data: Mapping[str, Any]) -> Json:
    data = _object(data, ("fish_m", "above_fish_m", "vertical", "facts"))
    vertical = Vertical(data.get("vertical", "above"))
    setting = _within("above_fish_m", data.get("above_fish_m", 0.7), 0.0, 10.0)
    found = where_to_hang(_depth(data["fish_m"], "fish_m"), _facts(data), setting_m=setting, vertical=vertical)
    return {"depth_m": found.depth_m, "reasons": list(found.reasons), "cautions": list(found.cautions)}


def _ways(data: Mapping[str, Any], rods: list[_Rod], knowledge: Knowledge) -> list[Json]:
    data = _object(data, ("depth_m", "facts"))
    rod = rods[0].rod if rods else RigSettings()
    found = ways_to_reach(_depth(data["depth_m"]), _facts(data), rod, knowledge)
    return [
        {"method": w.method.value, "reaches": w.reaches, "words": w.words, "answer": answer_json(w.answer)}
        for w in found
    ]


def _advice(data: Mapping[str, Any], rods: list[_Rod]) -> list[Json]:
    data = _object(data, ("depth_m", "facts"))
    given = advise(_depth(data["depth_m"]), _facts(data), [r.rod for r in rods])
    return [{"title": a.title, "text": a.text, "schools": [list(s) for s in a.schools]} for a in given]


# -- bare problems of physics -----------------------------------------------------------------------------------


def _body(data: Mapping[str, Any]) -> Body:
    data = _object(data, _BODY_KEYS)
    return Body(
        weight_n=number_from("weight_in_water_N", data["weight_in_water_N"]),
        drag_area_m2=number_from("drag_area_m2", data["drag_area_m2"]),
        lift_area_m2=number_from("lift_area_down_m2", data.get("lift_area_down_m2", 0.0)),
    )


def _pieces(rows: Any) -> list[Piece]:
    """Lines, and bodies clipped on, from the body up; Ct is on the line's own surface, as in the literature."""
    out: list[Piece] = []
    for row in _list(rows, 200):
        if not isinstance(row, Mapping) or "diameter_m" not in row:
            out.append(_body(row))
            continue
        row = _object(row, _LINE_KEYS)
        length = row.get("length_m")
        out.append(
            Segment(
                length_m=0.0 if length is None else _within("length_m", length, 0.0, 20_000.0),
                diameter_m=number_from("diameter_m", row["diameter_m"]),
                weight_npm=number_from("weight_in_water_N_per_m", row["weight_in_water_N_per_m"]),
                cn=number_from("Cn", row["Cn"]),
                ct=math.pi * number_from("Ct", row["Ct"]),
            )
        )
    return out


def _problem(data: Mapping[str, Any]) -> Json:
    """One bare problem: `tow`, `tow-inverse`, `countdown` or `pendulum`, in the names of its input."""
    data = _object(data, ("kind", "input"))
    kind, given = str(data["kind"]), data["input"]
    if kind.startswith("tow"):
        return _tow(given)
    if kind == "countdown":
        return _countdown(given)
    if kind == "pendulum":
        return _pendulum(given)
    raise ValueError(f"kind {kind!r}: tow, tow-inverse, countdown or pendulum is needed")


def _tow(given: Mapping[str, Any]) -> Json:
    given = _object(given, _TOW_KEYS)
    body, pieces = _body(given["body"]), _pieces(given["line_segments_from_body_up"])
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


def _falling(given: Mapping[str, Any], more: tuple[str, ...] = ()) -> Falling:
    given = _object(given, (*_FALL_KEYS, *more))
    for name in ("weight_in_water_N", "drag_area_m2"):
        if not number_from(name, given[name]) > 0:
            raise ValueError(f"{name} must be above zero: it would not sink, or never stop")
    if number_from("line_diameter_m", given.get("line_diameter_m", 0.0)) < 0:
        raise ValueError("line_diameter_m must be zero or more")
    return Falling(
        weight_n=number_from("weight_in_water_N", given["weight_in_water_N"]),
        drag_area_m2=number_from("drag_area_m2", given["drag_area_m2"]),
        line_diameter_m=number_from("line_diameter_m", given.get("line_diameter_m", 0.0)),
        line_ct=math.pi * number_from("line_Ct", given.get("line_Ct", 0.0)),
        line_weight_npm=number_from("line_weight", given.get("line_weight_in_water_N_per_m", 0.0)),
        mass_kg=number_from("effective_mass_kg", given.get("effective_mass_kg", 0.0)),
    )


def _countdown(given: Mapping[str, Any]) -> Json:
    given = _object(given, (*_FALL_KEYS, "depth_m"))
    rho = _within("rho_kg_m3", given.get("rho_kg_m3", RHO_FRESH), 900.0, 1100.0)
    seconds, speed = time_to_depth(_falling(given, ("depth_m",)), _depth(given["depth_m"]), rho=rho)
    return {"time_s": seconds, "speed_at_depth_m_s": speed}


def _pendulum(given: Mapping[str, Any]) -> Json:
    given = _object(given, (*_FALL_KEYS, *_SWING_KEYS))
    rho = _within("rho_kg_m3", given.get("rho_kg_m3", RHO_FRESH), 900.0, 1100.0)
    falling = _falling(given, _SWING_KEYS)
    line = _within("line_length_m", given["line_length_m"], -1000.0, 1000.0)
    if not line > 0:
        raise ValueError("line_length_m must be above zero")
    start = number_from("start_angle_below_horizontal_deg", given.get("start_angle_below_horizontal_deg", 0.0))
    beta = number_from("line_Cn", given.get("line_Cn", 1.2)) / 1.2
    times = [_within("times_s", t, 0.0, 3600.0) for t in _list(given["times_s"], 500)]
    out: Json = {}
    for t, (depth, far) in zip(times, swing(falling, line, start, times, beta=beta, rho=rho), strict=True):
        out[f"depth_at_{t:g}s_m"], out[f"distance_at_{t:g}s_m"] = depth, far
    out["time_to_80deg_s"] = time_to_angle(falling, line, start, 80.0, beta=beta, rho=rho)
    return out
