"""Questions of places: ranked for a species and a day, likely depths, holes in the ice."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from typing import TYPE_CHECKING, Any

from plumbbob.core.chart.suits import Cover, Stream
from plumbbob.core.plan.holes import Hole, IceSeason, View, coarse_search, refine, spacing, walk_m
from plumbbob.core.water.column import layering
from plumbbob.core.water.habits import DepthPrior, Season, Spawn, depth_prior
from plumbbob.core.water.profile import Profile
from plumbbob.formats.checked import list_of
from plumbbob.formats.habits import habits_of
from plumbbob.services.ask.given import Given, Json
from plumbbob.services.ask.water import column_for, day_of

if TYPE_CHECKING:
    from plumbbob.core.chart.build import Chart

_MOST_PLACES = 200
_DEMO_SURVEY = 4


@dataclass(frozen=True, slots=True)
class _Known:
    """A made-up water, as far as a column is guessed for it."""

    survey: str
    latitude: float
    altitude_m: float
    area_km2: float
    secchi_m: float

    def usual(self) -> Json:
        out: Json = {"altitude_m": self.altitude_m, "area_km2": self.area_km2, "secchi_m": self.secchi_m}
        return {**out, "freezes": "most winters"}


_WATERS = {
    "veyra lake": _Known("veyra", 44.20, 310.0, 3.0, 3.4),
    "carrow sound": _Known("carrow", 52.40, 0.0, 50.0, 6.0),
    "tern pond": _Known("tern", 49.10, 180.0, 0.2, 2.5),
}
_NEED = "water (one of the made-up waters) or soundings (a file) is needed"


@lru_cache(4)
def _made_chart(key: str) -> Chart:
    from plumbbob.core.chart.build import build_chart
    from plumbbob.sim import lake, other_waters

    survey = {"veyra": lake.survey, "carrow": other_waters.carrow_survey, "tern": other_waters.tern_survey}[key]
    return build_chart([survey(_DEMO_SURVEY)])


@lru_cache(4)
def _read_chart(path: Path) -> Chart:
    from plumbbob.core.chart.build import build_chart
    from plumbbob.formats.soundings import read_soundings

    return build_chart([read_soundings(path).soundings])


def chart_of(given: Given) -> tuple[Chart, float]:
    """The chart that is asked about, and a latitude for its seasons."""
    if given.has("soundings"):
        path = Path(given.text("soundings"))
        chart = _read_chart(path.resolve())
        place = chart.plane.place(chart.grid.frame.x0_m, chart.grid.frame.y0_m)
        return chart, place.latitude
    known = given.text("water", "").lower()
    if known not in _WATERS:
        raise ValueError(f"{_NEED}: {', '.join(_WATERS)}")
    found = _WATERS[known]
    return _made_chart(found.survey), found.latitude


_COLUMN = "column altitude_m area_km2 deepest_m secchi_m freezes climate surface_c salt hindrances"


def places(value: Any) -> Json:
    """Places ranked for a species and a day."""
    from plumbbob.services.places import PlacesAsked, places_for

    given = Given(
        value,
        f"water soundings species date latitude sun_deg level_m wind_mps wind_from_deg ice cover streams most"
        f" {_COLUMN}",
    )
    chart, latitude = chart_of(given)
    species = given.species()
    habits = habits_of(species.key)
    if habits is None:
        raise ValueError(f"nothing is known of the habits of {species.name}")
    most = int(given.number("most", 1, _MOST_PLACES, 8))
    cover, streams = _cover(given, chart), _streams(given, chart)
    asked = PlacesAsked(
        species=species,
        habits=habits,
        profile=_with_defaults(given, latitude, chart.deepest_m),
        day_of_year=day_of(given).timetuple().tm_yday,
        latitude=given.number("latitude", -90.0, 90.0, latitude),
        secchi_m=given.number("secchi_m", 0.05, 60.0, 3.0),
        sun_deg=given.number("sun_deg", -90.0, 90.0, 40.0),
        level_m=given.number("level_m", -60.0, 60.0, 0.0),
        wind_mps=given.number("wind_mps", 0.0, 40.0, 0.0),
        wind_from_deg=given.number("wind_from_deg", 0.0, 360.0, 225.0),
        ice=given.flag("ice"),
        cover=cover,
        streams=streams,
    )
    found = places_for(chart, asked)
    out = []
    for spot in found.spots[:most]:
        f = spot.feature
        place = chart.plane.place(f.x, f.y)
        out.append(
            {
                "kind": f.kind,
                "latitude": place.latitude,
                "longitude": place.longitude,
                "depth_top_m": f.depth_top_m + asked.level_m,
                "depth_base_m": f.depth_base_m + asked.level_m,
                "score": spot.score,
                "terms": {r.term.value: r.score for r in spot.reasons},
            }
        )
    return {
        "season": found.who.season.value,
        "spawning": found.who.spawn.value,
        "likely_m": list(found.window),
        "places": out,
        **_caution(found.who.spawn),
    }


def _with_defaults(given: Given, latitude: float, deepest_m: float) -> Profile:
    if given.has("column"):
        return given.profile()
    known = _WATERS.get(given.text("water", "").lower())
    raw: Json = {} if known is None else known.usual()
    raw |= {k: given.raw(k) for k in (*_COLUMN.split(), "date", "latitude") if given.has(k)}
    return column_for(Given({"latitude": latitude, "deepest_m": deepest_m, **raw}, f"{_COLUMN} date latitude"))


def _caution(spawn: Spawn) -> Json:
    if spawn is not Spawn.SPAWNING:
        return {}
    return {"caution": "It spawns now: leave nests and guarded places alone; local closed times come first."}


def _cover(given: Given, chart: Chart) -> list[Cover]:
    out = []
    for row in list_of(given.raw("cover") or (), 10_000):
        one = Given(row, "latitude longitude kind to_latitude to_longitude")
        x, y = chart.plane.to_xy(one.number("latitude", -90, 90), one.number("longitude", -180, 360))
        end = None
        if one.has("to_latitude"):
            far = chart.plane.to_xy(one.number("to_latitude", -90, 90), one.number("to_longitude", -180, 360))
            end = (float(far[0]), float(far[1]))
        out.append(Cover(x=float(x), y=float(y), kind=one.text("kind").lower(), end=end))
    return out


def _streams(given: Given, chart: Chart) -> list[Stream]:
    out = []
    for row in list_of(given.raw("streams") or (), 10_000):
        one = Given(row, "latitude longitude speed_mps to_deg")
        x, y = chart.plane.to_xy(one.number("latitude", -90, 90), one.number("longitude", -180, 360))
        speed = one.number("speed_mps", 0.0, 6.0)
        out.append(Stream(x=float(x), y=float(y), speed_mps=speed, to_deg=one.number("to_deg", 0.0, 360.0)))
    return out


def depths(value: Any) -> Json:
    """At which depths a species is likely on a day, over the whole water or over one bottom."""
    from plumbbob.core.chart.suits import species_day

    given = Given(value, f"species date latitude bottom_m sun_deg ice season {_COLUMN}")
    species = given.species()
    habits = habits_of(species.key)
    if habits is None:
        raise ValueError(f"nothing is known of the habits of {species.name}")
    profile = column_for(given)
    deepest = given.number("deepest_m", 0.3, 2000.0, float(profile.depth_m[-1]))
    _, layer = layering(profile)
    secchi, sun = given.number("secchi_m", 0.05, 60.0, 3.0), given.number("sun_deg", -90.0, 90.0, 40.0)
    day = species_day(
        species,
        habits,
        profile,
        deepest,
        day_of_year=day_of(given).timetuple().tm_yday if given.has("date") else 200,
        latitude=given.number("latitude", -90.0, 90.0, 45.0),
        secchi_m=secchi,
        sun_deg=sun,
        layer_m=math.nan if layer is None else layer.middle_m,
        ice=given.flag("ice"),
    )
    season = given.choice("season", Season, day.season)
    prior: DepthPrior = depth_prior(
        species,
        habits,
        season,
        profile,
        deepest,
        bottom_m=given.number("bottom_m", 0.3, 2000.0) if given.has("bottom_m") else None,
        secchi_m=secchi,
        sun_deg=sun,
        layer_m=math.nan if layer is None else layer.middle_m,
        spawn=day.spawn,
    )
    return {
        "season": season.value,
        "spawning": day.spawn.value,
        "letters": habits.of(season),
        "likely_m": list(prior.band()),
        "middle_m": prior.middle(),
        "usual_m": [v if math.isfinite(v) else None for v in habits.depths(season)],
        **_caution(day.spawn),
    }


def holes(value: Any) -> Json:
    """Holes to make in the ice: a coarse round, or finer ones about a mark, in walking order."""
    given = Given(value, "water soundings season view most depth_m mark level_m")
    view = given.choice("view", View, View.CONE)
    if given.has("depth_m"):
        deep = given.number("depth_m", 0.5, 200.0)
        return {"spacing_m": spacing(view, deep)}
    chart, _ = chart_of(given)
    depth = chart.grid.depth_m + given.number("level_m", -60.0, 60.0, 0.0)
    if given.has("mark"):
        one = Given(given.raw("mark"), "latitude longitude depth_m")
        x, y = chart.plane.to_xy(one.number("latitude", -90, 90), one.number("longitude", -180, 360))
        deep = chart.grid.frame.nearest(depth, float(x), float(y))
        found = refine(Hole(x=float(x), y=float(y), depth_m=float(deep), why="a mark"), chart.grid.frame, depth)
    else:
        season = given.choice("season", IceSeason, IceSeason.MIDDLE)
        found = coarse_search(
            chart.grid.frame,
            depth,
            season,
            view,
            deepest_m=chart.deepest_m,
            most=int(given.number("most", 1, 200, 16)),
        )
    out = []
    for hole in found:
        place = chart.plane.place(hole.x, hole.y)
        out.append(
            {"latitude": place.latitude, "longitude": place.longitude, "depth_m": hole.depth_m, "why": hole.why}
        )
    return {
        "holes": out,
        "walk_m": walk_m(found),
        "words": "No ice is certain: test it at every hole; under 10 cm of clear ice stay off; local advice first.",
    }
