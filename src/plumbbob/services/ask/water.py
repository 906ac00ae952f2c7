"""Questions of water, light, wind and ice."""

from __future__ import annotations

import math
from datetime import UTC, date, datetime, timedelta
from pathlib import Path
from typing import Any

from plumbbob.core.geodesy import Position
from plumbbob.core.plan.clock import BOAT, KAYAK
from plumbbob.core.plan.holes import ice_growth, ice_says, load_kg
from plumbbob.core.water.column import layering
from plumbbob.core.water.guess import Climate, Freezes, Lake, NoGuess, guess_column
from plumbbob.core.water.habits import Season, Spawn, WaterYear, season_of, warming_on
from plumbbob.core.water.light import attenuation, depth_of_share, light_share, surface_lux
from plumbbob.core.water.profile import Profile
from plumbbob.core.water.species import SLOW, comfort
from plumbbob.core.water.sun import lights_of, sun_elevation_deg
from plumbbob.core.water.wind import layer_tilt, wave_height_m
from plumbbob.formats.habits import habits_of
from plumbbob.formats.tide_csv import parse_tide, read_tide
from plumbbob.services.ask.given import Given, Json

_GUESS = "latitude altitude_m area_km2 deepest_m secchi_m freezes climate date surface_c salt hindrances"
_LOCAL = "General guidance; local rules and advice come first."


def day_of(given: Given, name: str = "date") -> date:
    """A day as YYYY-MM-DD."""
    text = given.text(name)
    try:
        return date.fromisoformat(text[:10])
    except ValueError:
        raise ValueError(f"{name} {text!r} is no day: YYYY-MM-DD is needed") from None


def guessed(given: Given, freezes: Freezes | None = None) -> tuple[Any, int]:
    """A guess of the column from place, day and size; and the day of the year."""
    day = day_of(given).timetuple().tm_yday
    hindrances = {NoGuess.SALT} if given.flag("salt") else set()
    for text in given.raw("hindrances") or ():
        hindrances.add(next((n for n in NoGuess if n.value == text), NoGuess.SALT))
    lake = Lake(
        latitude=given.number("latitude", -90.0, 90.0),
        altitude_m=given.number("altitude_m", -430.0, 6000.0, 0.0),
        area_m2=given.number("area_km2", 1e-4, 500_000.0, 1.0) * 1e6,
        deepest_m=given.number("deepest_m", 0.3, 2000.0, math.nan),
        secchi_m=given.number("secchi_m", 0.05, 60.0, 3.5),
        freezes=given.choice("freezes", Freezes) if given.has("freezes") else freezes,
        climate=given.choice("climate", Climate, Climate.USUAL),
        hindrances=frozenset(hindrances),
    )
    surface = given.number("surface_c", -2.0, 42.0) if given.has("surface_c") else None
    return guess_column(lake, day, surface), day


def column_for(given: Given) -> Profile:
    """
    The column given, else a guess; where nobody says whether the water freezes, the middle way is taken.

    Raises
    ------
    ValueError
        Where none can be guessed.
    """
    if given.has("column"):
        return given.profile()
    found, _ = guessed(given)
    if found.profile is None and found.code is NoGuess.UNKNOWN_FREEZE:
        found, _ = guessed(given, Freezes.SOME)
    if found.profile is None:
        raise ValueError(f"the column can't be guessed ({found.code.value if found.code else 'unknown'}); give it")
    profile: Profile = found.profile
    return profile


def column(value: Any) -> Json:
    """The column of a place on a day, guessed, or what a given one says."""
    given = Given(value, f"{_GUESS} column")
    if given.has("column"):
        return _column_says(given.profile())
    found, _ = guessed(given)
    out: Json = {
        "state": found.state.value,
        "surface_c": found.surface_c,
        "surface_sd_c": found.surface_sd_c,
        "bottom_sd_c": found.bottom_sd_c,
        "layer_m": found.layer_m if math.isfinite(found.layer_m) else None,
        "cannot": found.code.value if found.code is not None else None,
    }
    if found.profile is not None:
        out |= _column_says(found.profile)
        step = max(found.profile.depth_m.size // 40, 1)
        out["column"] = [
            [float(z), round(float(t), 2)]
            for z, t in zip(found.profile.depth_m[::step], found.profile.temperature_c[::step], strict=True)
        ]
    return out


def _column_says(profile: Profile) -> Json:
    kind, layer = layering(profile)
    return {
        "kind": kind.value,
        "surface_c": float(profile.temperature_c[0]),
        "bottom_c": float(profile.temperature_c[-1]),
        "layer": None
        if layer is None
        else {"top_m": layer.top_m, "middle_m": layer.middle_m, "base_m": layer.base_m},
    }


def comfort_of(value: Any) -> Json:
    """Where a species could be comfortable in a column, given or guessed, and how lively it is."""
    given = Given(value, f"species column deepest_m {_GUESS.replace('deepest_m ', '')}")
    species = given.species()
    profile = column_for(given)
    deepest = given.number("deepest_m", 0.3, 2000.0, float(profile.depth_m[-1]))
    at = comfort(species, profile, deepest, given.number("secchi_m", 0.05, 60.0) if given.has("secchi_m") else None)
    return {
        "species": species.name,
        "band_m": list(at.band) if at.band is not None else None,
        "limit_m": at.limit_m,
        "activity": at.activity,
        "slow_today": at.activity < SLOW,
        "words": "relative to the best this column offers today; food and cover override temperature",
    }


def habits(value: Any) -> Json:
    """What the table knows of a species: limits, habits by season, senses, spawning."""
    given = Given(value, "species season surface_c date latitude ice")
    species = given.species()
    found = habits_of(species.key)
    out: Json = {
        "species": species.name,
        "prefers_c": [species.warm_low_c, species.warm_high_c],
        "avoids_c": species.avoid_c,
        "leaves_oxygen_mgl": species.oxygen_mgl,
        "light": species.light,
        "looks": species.looks,
        "layer": species.layer,
        "bladder": species.bladder,
        "barotrauma_m": species.care_m,
    }
    if found is None:
        return out
    out |= {
        "senses": found.senses,
        "bait": found.bait,
        "least_height_m": [found.low_feed_m, found.low_rest_m],
        "spawns_c": [v if math.isfinite(v) else None for v in found.spawn_c],
        "spawns_falling": found.spawn_falling,
        "spawns_m": [v if math.isfinite(v) else None for v in found.spawn_m],
        "seasons": {
            s.value: {
                "letters": found.of(s),
                "depth_m": [v if math.isfinite(v) else None for v in found.depths(s)],
            }
            for s in Season
        },
        "notes": found.notes,
        "letters": "B bottom, N near it, E edge, C cover, H hung beside or over something, O open water",
    }
    if given.has("surface_c"):
        warming = warming_on(day_of(given).timetuple().tm_yday, given.number("latitude", -90.0, 90.0, 45.0))
        year = WaterYear(surface_c=given.number("surface_c", -2.0, 42.0), warming=warming, ice=given.flag("ice"))
        season, spawn = season_of(found, year)
        out["season"], out["spawning"] = season.value, spawn.value
        if spawn is Spawn.SPAWNING:
            out["caution"] = f"it spawns now: leave nests and guarded places alone. {_LOCAL}"
    return out


def light(value: Any) -> Json:
    """Light under water, and the sun's day at a place."""
    given = Given(value, "depth_m secchi_m factor sun_deg latitude longitude date time utc_offset_h share")
    secchi, factor = given.number("secchi_m", 0.05, 60.0, 3.0), given.number("factor", 0.5, 4.0, 1.7)
    out: Json = {"attenuation_per_m": attenuation(secchi, factor)}
    sun = given.number("sun_deg", -90.0, 90.0) if given.has("sun_deg") else None
    if given.has("latitude"):
        place = Position(given.number("latitude", -90.0, 90.0), given.number("longitude", -180.0, 360.0))
        offset = given.number("utc_offset_h", -14.0, 14.0, round(place.longitude / 15.0))
        noon = datetime.combine(day_of(given), datetime.min.time(), UTC) + timedelta(hours=12.0 - offset)
        lights = lights_of(place, noon.timestamp(), offset)

        def clock(seconds: float | None) -> str | None:
            if seconds is None:
                return None
            return (datetime.fromtimestamp(seconds, UTC) + timedelta(hours=offset)).strftime("%H:%M")

        out |= {
            "first_light": clock(lights.first_light),
            "sunrise": clock(lights.sunrise),
            "noon": clock(lights.noon),
            "sunset": clock(lights.sunset),
            "last_light": clock(lights.last_light),
            "moon": lights.moon,
            "utc_offset_h": offset,
        }
        if given.has("time"):
            h, m = (int(p) for p in given.text("time").split(":")[:2])
            at = noon.timestamp() + (h - 12) * 3600.0 + m * 60.0
            sun = sun_elevation_deg(place, at)
            out["sun_deg"] = sun
    if given.has("share"):
        out["depth_of_share_m"] = depth_of_share(given.number("share", 1e-6, 0.999), secchi, factor)
    if given.has("depth_m"):
        share = float(light_share(given.number("depth_m", 0.0, 1000.0), secchi, factor))
        out["share"] = share
        if sun is not None:
            out["lux"] = share * surface_lux(sun)
    return out


def tilt(value: Any) -> Json:
    """How a steady wind tilts the cold layer."""
    given = Given(value, "column wind_mps fetch_m deepest_m")
    profile = given.profile()
    _, layer = layering(profile)
    if layer is None:
        return {"layer_m": None, "why": "there is no cold layer in this column"}
    deepest = given.number("deepest_m", 0.5, 2000.0, float(profile.depth_m[-1]))
    found = layer_tilt(
        profile, layer, given.number("wind_mps", 0.0, 40.0), given.number("fetch_m", 10.0, 500_000.0), deepest
    )
    whole = found.end_to_end_m
    return {
        "layer_m": layer.middle_m,
        "end_to_end_m": whole if math.isfinite(whole) else None,
        "downwind_m": layer.middle_m + whole / 2 if math.isfinite(whole) else None,
        "upwind_m": max(layer.middle_m - whole / 2, 0.0) if math.isfinite(whole) else None,
        "wedderburn": found.wedderburn if math.isfinite(found.wedderburn) else None,
        "period_h": found.period_h,
        "state": found.state.value,
    }


_CRAFT = {
    # caution and off the water at m/s, and waves, m (docs/handbook.md, section 8)
    "kayak": (4.0, 7.0, 0.3),
    "canoe": (4.0, 7.0, 0.3),
    "float tube": (3.0, 6.0, 0.2),
    "boat": (6.5, 10.0, 0.55),
}


def wind(value: Any) -> Json:
    """What a wind asks of a craft: caution, off the water, waves, drift, push."""
    from plumbbob.core.rig.stand_off import wind_force

    given = Given(value, "wind_mps craft fetch_m water_c offshore against_current length_m drogue")
    speed, craft = given.number("wind_mps", 0.0, 60.0), given.text("craft", "boat").lower()
    if craft not in _CRAFT:
        raise ValueError(f"craft {craft!r}: {', '.join(_CRAFT)} are known")
    mind, off, wave_limit = _CRAFT[craft]
    harder = sum(
        (
            given.flag("offshore"),
            given.flag("against_current"),
            given.number("water_c", -2.0, 42.0, 20.0) < 15.0,
        )
    )
    if harder:  # one step stricter
        mind, off, wave_limit = 0.75 * mind, 0.75 * off, 0.75 * wave_limit
    small = craft != "boat"
    waves = wave_height_m(speed, given.number("fetch_m", 10.0, 500_000.0, 1000.0))
    if given.has("length_m"):
        wave_limit = min(wave_limit, 0.15 * given.number("length_m", 1.0, 30.0)) if not small else wave_limit
    over = speed >= off or waves > wave_limit
    drift = [speed * f for f in ((0.03, 0.06) if small else (0.02, 0.04))]
    if given.flag("drogue"):
        drift = [0.4 * drift[0], 0.6 * drift[1]]
    return {
        "verdict": "stay ashore"
        if over
        else "mind it"
        if speed >= mind or waves > 0.7 * wave_limit
        else "no warning by wind",
        "caution_from_mps": mind,
        "off_from_mps": off,
        "gusts_mps": [1.3 * speed, 1.6 * speed],
        "wave_m": waves,
        "wave_limit_m": wave_limit,
        "drift_mps": drift,
        "push_n": wind_force("kayak" if small else "boat bow on", speed),
        "plan_limit_mps": (KAYAK if small else BOAT).wind_limit_mps,
        "words": f"Never a promise that it is safe; gusts count. {_LOCAL}",
    }


def tide(value: Any) -> Json:
    """Level and stream of a tide at a time, from high and low waters typed or in a file."""
    given = Given(value, "table file utc_offset_h time strongest_mps")
    offset = given.number("utc_offset_h", -14.0, 14.0, 0.0)
    if given.has("file"):
        table = read_tide(Path(given.text("file")), offset)
    else:
        table = parse_tide(given.text("table"), offset)
    at = _moment(given.text("time"), offset)
    now = table.at(at, given.number("strongest_mps", 0.0, 6.0, math.nan))
    runs = table.runs(at - 12 * 3600.0, at + 12 * 3600.0)
    return {
        "level_m": now.level_m,
        "rises_m_per_h": now.rises_mph,
        "stream": now.stream.value,
        "share_of_strongest": now.share,
        "current_mps": now.current_mps if math.isfinite(now.current_mps) else None,
        "strong_from_to": [[_written(a, offset), _written(b, offset)] for a, b in runs],
        "words": f"From a table between its turns; in narrows the stream turns later. {_LOCAL}",
    }


def _moment(text: str, offset_h: float) -> float:
    try:
        when = datetime.fromisoformat(text.replace("Z", "+00:00"))
    except ValueError:
        raise ValueError(f"time {text!r} is no moment: YYYY-MM-DDTHH:MM is needed") from None
    if when.tzinfo is None:
        when = when.replace(tzinfo=UTC) - timedelta(hours=offset_h)
    return when.timestamp()


def _written(time_s: float, offset_h: float) -> str:
    return (datetime.fromtimestamp(time_s, UTC) + timedelta(hours=offset_h)).strftime("%Y-%m-%dT%H:%M")


def ice(value: Any) -> Json:
    """What practice says of an ice; never that it is safe."""
    given = Given(value, "clear_cm white_cm late river freezing_degree_days frost_c")
    if not given.has("clear_cm"):
        days = given.number("freezing_degree_days", 0.0, 5000.0)
        return {
            "thickness_cm": 100 * ice_growth(days),
            "thickness_range_cm": [100 * ice_growth(days, 1.7), 100 * ice_growth(days, 2.4)],
            "words": f"A rule of thumb: measure, and again every few metres. {_LOCAL}",
        }
    clear, white = given.number("clear_cm", 0.0, 300.0) / 100, given.number("white_cm", 0.0, 300.0, 0.0) / 100
    found = ice_says(
        clear,
        white,
        late=given.flag("late"),
        river=given.flag("river"),
        frost_c=given.number("frost_c", 0.0, 60.0, 0.0),
    )
    return {
        "counts_cm": 100 * found.counts_m,
        "stay_off": found.stay_off,
        "usual_load": found.usual_load or None,
        "load_without_margin_kg": [load_kg(found.counts_m), load_kg(found.counts_m, 4.0)],
        "growth_cm_a_day": 100 * found.growth_m_a_day,
        "words": "No thickness is certain: under 10 cm of new clear ice stay off; rivers, inlets, springs, snow and "
        f"late ice are weaker. Measure every few metres. {_LOCAL}",
    }


def cold_water(value: Any) -> Json:
    """What cold water does to a person, and what to wear."""
    given = Given(value, "water_c")
    warm = given.number("water_c", -2.0, 42.0)
    cold = warm < 15.0
    return {
        "cold": cold,
        "cold_shock_min": 1.0 if warm < 20.0 else None,
        "useful_movement_min": (10.0 if warm >= 5.0 else 5.0) if cold else None,
        "hypothermia_min": ([30.0, 60.0] if warm >= 5.0 else [15.0, 45.0]) if cold else None,
        "wear": "a life jacket worn, and a dry or wet suit" if cold else "a life jacket worn",
        "words": f"Dress for the water, not the air; get breathing under control in the first minute. {_LOCAL}",
    }
