"""What `plumbbob plan` is asked, checked and taken apart, and what it answers; docs/formats.md."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import shapely
from shapely.geometry.base import BaseGeometry

from plumbbob.core.geodesy import Position
from plumbbob.core.plan.day import Day, Plan, Spot, Stretch
from plumbbob.core.plan.ways import Boat, Ways
from plumbbob.formats.checked import list_of, number_from, object_of, within

Json = dict[str, Any]
MOST_BYTES = 50_000_000
MOST_SPOTS, MOST_CORNERS, MOST_TIMES = 300, 200_000, 500
_FASTEST_MPS, _FARTHEST_M, _MOST_MIN = 60.0, 20_000.0, 1e6
_PARTS = ("start", "end", "boat", "wind", "land", "keep_off_m", "spots", "fixed")
_SPOT = (
    "name", "latitude", "longitude", "fish", "per_hour", "least_min", "most_min", "times", "must", "not_before",
    "not_after",
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class PlanRequest:
    """A day to be planned: spots, then start and end among the places."""

    spots: tuple[Spot, ...]
    places: tuple[Position, ...]  # of the spots, the start, the end
    start: float
    end: float
    boat: Boat
    land: BaseGeometry | None
    keep_off_m: float
    fixed: frozenset[str]


def plan_request(value: Any) -> PlanRequest:
    """
    A checked request.

    Raises
    ------
    ValueError
        In one line.
    """
    asked = object_of(value, _PARTS)
    start_time, start = _end_of("start", asked.get("start"))
    end_time, end = _end_of("end", asked.get("end"))
    if end_time < start_time:
        raise ValueError("the plan ends before it begins")
    rows = list_of(asked.get("spots") or (), 10**9)
    if len(rows) > MOST_SPOTS:
        raise ValueError(f"{len(rows)} places are too many: at most {MOST_SPOTS} are planned")
    spots, places = [], []
    for number, row in enumerate(rows):
        spot, place = _spot(number, row)
        spots.append(spot)
        places.append(place)
    names = [spot.name for spot in spots]
    doubled = next((n for n in names if names.count(n) > 1), None)
    if doubled is not None:
        raise ValueError(f"{doubled} stands among the places twice")
    fixed = list_of(asked.get("fixed") or ())
    strange = next((n for n in fixed if not isinstance(n, str) or n not in names), None)
    if strange is not None:
        raise ValueError(f"{strange} is fixed and not among the places")
    keep_off = asked.get("keep_off_m")
    return PlanRequest(
        spots=tuple(spots),
        places=(*places, start, end),
        start=start_time,
        end=end_time,
        boat=_boat(asked.get("boat"), asked.get("wind")),
        land=_land(asked.get("land")),
        keep_off_m=0.0 if keep_off is None else within("keep_off_m", keep_off, 0.0, _FARTHEST_M),
        fixed=frozenset(fixed),
    )


def _place(name: str, asked: Mapping[str, Any]) -> Position:
    return Position(
        within(f"latitude of {name}", asked.get("latitude"), -90.0, 90.0),
        within(f"longitude of {name}", asked.get("longitude"), -180.0, 180.0),
    )


def _end_of(name: str, value: Any) -> tuple[float, Position]:
    asked = object_of(value, ("time", "latitude", "longitude"))
    return number_from(f"time of the {name}", asked.get("time")), _place(name, asked)


def _boat(boat: Any, wind: Any) -> Boat:
    asked = object_of(boat, ("speed_mps", "upwind_mps", "downwind_mps"))
    speeds: list[float] = []
    for key in ("speed_mps", "upwind_mps", "downwind_mps"):
        value = asked.get(key)
        if value is None and speeds:
            speeds.append(speeds[0])
            continue
        speed = number_from(key, value)
        if not 0.0 < speed <= _FASTEST_MPS:
            raise ValueError(f"{key} must be above zero and at most {_FASTEST_MPS:g}")
        speeds.append(speed)
    if wind is None:
        return Boat(speeds[0], speeds[1], speeds[2])
    told = object_of(wind, ("from_deg",))
    if told.get("from_deg") is None:
        raise ValueError("a wind needs from_deg, where it comes from")
    return Boat(speeds[0], speeds[1], speeds[2], within("from_deg", told["from_deg"], -360.0, 720.0))


def _land(value: Any) -> BaseGeometry | None:
    if value is None:
        return None
    if not isinstance(value, Mapping) or value.get("type") not in ("MultiPolygon", "Polygon"):
        raise ValueError("land is a GeoJSON MultiPolygon or null")
    polygons = value.get("coordinates")
    polygons = [polygons] if value["type"] == "Polygon" else polygons
    made, corners = [], 0
    for polygon in list_of(polygons if polygons is not None else "", MOST_CORNERS):
        rings = [_ring(ring) for ring in list_of(polygon, MOST_CORNERS)]
        corners += sum(len(ring) for ring in rings)
        if corners > MOST_CORNERS:
            raise ValueError(f"land has more than {MOST_CORNERS} corners")
        if not rings:
            raise ValueError("a polygon of the land has no outline")
        one = shapely.Polygon(rings[0], rings[1:])
        if not one.is_valid:
            raise ValueError(f"a polygon of the land can't be used: {shapely.is_valid_reason(one)}")
        made.append(one)
    return shapely.union_all(made) if made else None


def _ring(value: Any) -> list[tuple[float, float]]:
    out = []
    for point in list_of(value, MOST_CORNERS):
        pair = list_of(point, 4)
        if len(pair) < 2:
            raise ValueError("a corner of the land needs longitude and latitude")
        out.append(
            (within("longitude of land", pair[0], -180.0, 180.0), within("latitude of land", pair[1], -90.0, 90.0))
        )
    if len(out) < 4 or out[0] != out[-1]:
        raise ValueError("an outline of the land needs four corners and more, the last of them the first again")
    return out


def _spot(number: int, value: Any) -> tuple[Spot, Position]:
    asked = object_of(value, _SPOT)
    name = asked.get("name")
    if not isinstance(name, str) or not name.strip():
        raise ValueError(f"place {number + 1} has no name")
    fish, rate = (number_from(f"{key} of {name}", asked.get(key)) for key in ("fish", "per_hour"))
    if fish < 0.0 or rate < 0.0 or fish > 1e9 or rate > 1e6:
        raise ValueError(f"fish and per_hour of {name} must be zero or more")
    least, most = (
        within(f"{key} of {name}", asked[key], 0.0, _MOST_MIN) if asked.get(key) is not None else none
        for key, none in (("least_min", 0.0), ("most_min", math.inf))
    )
    if most < least:
        raise ValueError(f"most_min of {name} is less than its least_min")
    must = asked.get("must")
    if must is not None and not isinstance(must, bool):
        raise ValueError(f"must of {name} is true or false")
    low, high = (
        number_from(f"{key} of {name}", asked[key]) if asked.get(key) is not None else none
        for key, none in (("not_before", -math.inf), ("not_after", math.inf))
    )
    if high < low:
        raise ValueError(f"not_after of {name} comes before its not_before")
    times = tuple(_stretch(name, one) for one in list_of(asked.get("times") or (), MOST_TIMES))
    spot = Spot(name, fish, rate, 60.0 * least, 60.0 * most, times, bool(must), low, high)
    return spot, _place(name, asked)


def _stretch(name: str, value: Any) -> Stretch:
    asked = object_of(value, ("from", "to", "factor"))
    start, end, factor = (
        number_from(f"{key} of a time of {name}", asked.get(key)) for key in ("from", "to", "factor")
    )
    if end < start:
        raise ValueError(f"a time of {name} ends before it begins")
    if not 0.0 <= factor <= 1e6:
        raise ValueError(f"a factor of {name} must be zero or more")
    return Stretch(start, end, factor)


def plan_json(request: PlanRequest, day: Day, plan: Plan, ways: Ways, why: Mapping[str, str]) -> Json:
    """The answer: visits with their ways, and what was left out, each with its reason."""
    visits, at = [], day.first
    for visit in plan.visits:
        spot = request.spots[visit.spot]
        visits.append(
            {
                "name": spot.name,
                "arrive": visit.arrive,
                "leave": visit.leave,
                "fish": visit.fish,
                "why": why[spot.name],
                "way": [[p.latitude, p.longitude] for p in ways.way(at, visit.spot)],
            }
        )
        at = visit.spot
    taken = {visit["name"] for visit in visits}
    left = [s.name for s in request.spots if s.name not in taken and s.name not in request.fixed]
    return {
        "visits": visits,
        "back": plan.back,
        "fish": plan.fish,
        "left_out": [{"name": name, "why": why[name]} for name in left],
    }
