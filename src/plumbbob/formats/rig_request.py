"""What `plumbbob rig` is asked: the parts of one JSON object, checked and taken apart. SI; docs/formats.md."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import fields
from typing import Any

import numpy as np
from numpy.typing import NDArray

from plumbbob.core.geodesy import separation
from plumbbob.core.rig.advice import RigFacts
from plumbbob.core.rig.calibrate import RigNote
from plumbbob.core.rig.fall import Falling
from plumbbob.core.rig.line import (
    Body,
    Piece,
    Segment,
)
from plumbbob.core.rig.rod import FASTEST_MPS, RigSettings
from plumbbob.core.rig.tackle import DEFAULT_BOX, Box, box_of
from plumbbob.core.rig.track import Track, change_track, turn_track
from plumbbob.formats.checked import list_of, number_from, object_of, within
from plumbbob.formats.rig_json import note_from
from plumbbob.formats.tackle_csv import columns, item_from

Json = dict[str, Any]
PARTS = ("tackle", "notes", "rods", "tables", "weights", "lane", "motion", "hang", "ways", "advice", "problems")
MOST_BYTES = 20_000_000
# what is answered in seconds: beyond it a request is refused before the work begins
MOST_RODS, MOST_NOTES, MOST_PIECES, MOST_PROBLEMS, MOST_CELLS = 40, 200, 2000, 500, 1000
MOST_PLACES, MOST_MOTION_STEPS = 100_000, 100_000
ROD_KEYS = ("name", "depth_m", "value", *(f.name for f in fields(RigSettings)))
_NOTE_KEYS = ("rod", "told", "depth_m", "value", "time", "words")
TOW_KEYS = (
    "body", "line_segments_from_body_up", "rho_kg_m3", "stream_profile_depth_m_and_speed_m_s",
    "speed_through_water_m_s", "target_depth_m", "longest_m",
)  # fmt: skip
_BODY_KEYS = ("weight_in_water_N", "drag_area_m2", "lift_area_down_m2")
_LINE_KEYS = ("length_m", "diameter_m", "weight_in_water_N_per_m", "Cn", "Ct")
FALL_KEYS = (
    "weight_in_water_N", "drag_area_m2", "line_diameter_m", "line_Ct", "line_weight_in_water_N_per_m",
    "effective_mass_kg", "rho_kg_m3",
)  # fmt: skip
SWING_KEYS = ("line_length_m", "start_angle_below_horizontal_deg", "line_Cn", "times_s")


def depth_of(value: Any, name: str = "depth_m") -> float:
    return within(name, value, 0.0, 1000.0)


def box_from(rows: Any) -> Box:
    items = {(i.kind, i.name): i for i in DEFAULT_BOX.all()}
    for row in list_of(rows, MOST_PIECES):
        item = item_from(object_of(row, columns()))
        items[(item.kind, item.name)] = item
    return box_of(items)


def note_of_rod(data: Any, box: Box) -> RigNote:
    given = object_of(data, _NOTE_KEYS)
    object_of(given.get("rod", {}), ROD_KEYS)
    return note_from(given, box)


def numbers_of(data: Mapping[str, Any], name: str) -> NDArray[np.float64]:
    return np.array([math.nan if v is None else number_from(name, v) for v in list_of(data[name])])


def track_from(data: Mapping[str, Any], speed_mps: float) -> Track:
    """A turn, a change of speed, or a track as logged: metres, or latitudes and longitudes."""
    if "turn" in data:
        turn = object_of(data["turn"], ("radius_m", "degrees"))
        radius = within("radius_m", turn.get("radius_m", 25.0), 1.0, 5000.0)
        angle = within("degrees", turn.get("degrees", 180.0), -3600.0, 3600.0)
        if not speed_mps >= 0.05:
            raise ValueError("a turn needs a boat that moves")
        return turn_track(speed_mps, radius_m=radius, turn_deg=angle)
    if "change" in data:
        change = object_of(data["change"], ("speed_mps", "for_s"))
        other = within("speed_mps", change["speed_mps"], 0.0, FASTEST_MPS)
        return change_track(speed_mps, other, for_s=within("for_s", change.get("for_s", 20.0), 0.0, 7200.0))
    track = object_of(data["track"], ("time", "x", "y", "latitude", "longitude", "current_mps"))
    time = numbers_of(track, "time")
    if "latitude" in track:
        latitude, longitude = numbers_of(track, "latitude"), numbers_of(track, "longitude")
        if not len(latitude):
            raise ValueError("a track needs at least two places, with times that rise")
        x, y = separation(latitude[0], longitude[0], latitude, longitude)
    else:
        x, y = numbers_of(track, "x"), numbers_of(track, "y")
    if not len(time) == len(x) == len(y):
        raise ValueError("a track needs as many times as places")
    current = [within("current_mps", v, -10.0, 10.0) for v in list_of(track.get("current_mps", (0.0, 0.0)))]
    if len(current) != 2:
        raise ValueError("current_mps is east and north")
    return Track(time=time, x=x, y=y, current_mps=(current[0], current[1]))


def facts_from(data: Mapping[str, Any]) -> RigFacts:
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
            values[name] = None if value is None else pair_of(name, value)
        elif name == "bait":
            values[name] = tuple(pair_of(name, band) for band in list_of(value, 1000))
        elif name in ("species", "looks"):
            values[name] = word_of(name, value)
        elif name in ("soft_bottom", "fish_chase", "kayak"):
            if not isinstance(value, bool):
                raise ValueError(f"{name} is true or false")
            values[name] = value
        else:
            values[name] = within(name, value, -1000.0, 1000.0)
    return RigFacts(**values)


def pair_of(name: str, value: Any) -> tuple[float, float]:
    pair = list_of(value, 2)
    if len(pair) != 2:
        raise ValueError(f"{name} is a pair of depths")
    return within(name, pair[0], 0.0, 1000.0), within(name, pair[1], 0.0, 1000.0)


def word_of(name: str, value: Any) -> str:
    if not isinstance(value, str):
        raise ValueError(f"{name} is a text")
    return value


def body_from(data: Mapping[str, Any]) -> Body:
    data = object_of(data, _BODY_KEYS)
    return Body(
        weight_n=number_from("weight_in_water_N", data["weight_in_water_N"]),
        drag_area_m2=number_from("drag_area_m2", data["drag_area_m2"]),
        lift_area_m2=number_from("lift_area_down_m2", data.get("lift_area_down_m2", 0.0)),
    )


def pieces_from(rows: Any) -> list[Piece]:
    """Lines, and bodies clipped on, from the body up; Ct is on the line's own surface, as in the literature."""
    out: list[Piece] = []
    for row in list_of(rows, 200):
        if not isinstance(row, Mapping) or "diameter_m" not in row:
            out.append(body_from(row))
            continue
        row = object_of(row, _LINE_KEYS)
        length = row.get("length_m")
        out.append(
            Segment(
                length_m=0.0 if length is None else within("length_m", length, 0.0, 20_000.0),
                diameter_m=number_from("diameter_m", row["diameter_m"]),
                weight_npm=number_from("weight_in_water_N_per_m", row["weight_in_water_N_per_m"]),
                cn=number_from("Cn", row["Cn"]),
                ct=math.pi * number_from("Ct", row["Ct"]),
            )
        )
    return out


def falling_from(given: Mapping[str, Any], more: tuple[str, ...] = ()) -> Falling:
    given = object_of(given, (*FALL_KEYS, *more))
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
