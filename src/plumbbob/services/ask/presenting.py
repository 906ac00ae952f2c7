"""Questions of how to bring a lure to a fish: pace, cast from a mark, where to hang it."""

from __future__ import annotations

import math
from dataclasses import fields
from typing import Any

from plumbbob.core.rig import pace, stand_off
from plumbbob.core.rig.casting import retrieve_path
from plumbbob.core.rig.fall import fall_speed, time_to_depth
from plumbbob.core.rig.rod import Method, RigSettings
from plumbbob.core.rig.tackle import BRAID, MONO
from plumbbob.core.water.habits import sees_from
from plumbbob.formats.habits import habits_of
from plumbbob.services.ask.given import Given, Json
from plumbbob.services.ask.tackle import TIGHT_SLOWER
from plumbbob.wording.rig import rig_words


def cadence(value: Any) -> Json:
    """How to move a lure in water of a temperature: pace, lifts, pauses; what to do with a follower."""
    given = Given(
        value,
        "temperature_c species secchi_m night noon cold_front attacked turned_away turn_m ice fish_m lure line",
    )
    warm = given.number("temperature_c", -2.0, 42.0)
    species = given.species() if given.has("species") else None
    hour = pace.Hour(
        secchi_m=given.number("secchi_m", 0.05, 60.0, math.nan),
        night=given.flag("night"),
        noon=given.flag("noon"),
        cold_front=given.flag("cold_front"),
        attacked=given.flag("attacked"),
        turned_away=given.flag("turned_away"),
    )
    found = pace.cadence(warm, species, hour)
    out: Json = {
        f.name: list(v) if isinstance(v := getattr(found, f.name), tuple) else v
        for f in fields(found)
        if f.name != "row_c"
    }
    turn = given.number("turn_m", 0.05, 3.0, 0.7)
    out["turns_per_s"] = [pace.turns_a_second(v, turn) for v in found.wound_mps]
    habits = habits_of(species.key) if species is not None else None
    follow = pace.answer_follower(
        warm, given.number("fish_m", 0.05, 3.0, 0.4), by_sight=habits is None or "S" in habits.senses
    )
    out["follower"] = {
        "faster": list(follow.faster),
        "lift_m": list(follow.lift_m),
        "burst_mps": list(follow.burst_mps),
        "words": "go faster for a moment or lift it slowly; never stop dead before a fish that sees well",
    }
    if given.flag("ice"):
        key = species.key if species is not None else ""
        out["ice"] = {
            "raise_mps": list(pace.raise_speed(key)),
            "rising_band_m": pace.rising_band(warm, species.looks if species is not None else "U"),
            "minutes_a_hole": list(pace.minutes_a_hole(key)),
            "routines": {
                name: {f.name: list(getattr(r, f.name)) for f in fields(r)} for name, r in pace.ICE_ROUTINES.items()
            },
        }
    if given.has("lure"):
        falling = given.lure().falling(given.line(usual=BRAID))
        middle_lift, middle_rest = (sum(b) / 2 for b in (found.lift_m, found.rest_s))
        beat = pace.beat_of(middle_lift, max(fall_speed(falling, 5.0), 0.01), middle_rest)
        out["beat"] = {"lift_s": beat.lift_s, "fall_s": beat.fall_s, "rest_s": beat.rest_s, "period_s": beat.period_s}
    return out


def cast(value: Any) -> Json:
    """From a mark to a cast: how far to stay off, where to land, what to count."""
    given = Given(
        value,
        "fish_m bottom_m secchi_m height_m surface noise lure line cast_m night hard_fished sun_deg "
        "away_m wind_mps swims_mps wind_in_m lean_deg salt",
    )
    fish = given.number("fish_m", 0.1, 200.0)
    lure = given.lure() if given.has("lure") else None
    reach = stand_off.cast_reach(lure.mass_kg / 1.3) if lure is not None else (20.0, 30.0)
    longest = given.number("cast_m", 2.0, 100.0, reach[1])
    off = stand_off.stand_off(
        fish,
        given.number("bottom_m", 0.1, 500.0, max(fish, 3.0)),
        given.number("secchi_m", 0.05, 60.0, 3.0),
        height_m=given.number("height_m", 0.3, 10.0, stand_off.SEATED_M),
        surface=given.choice("surface", stand_off.Surface, stand_off.Surface.RIPPLE),
        noise=given.choice("noise", stand_off.Noise, stand_off.Noise.QUIET),
        cast_m=longest,
        night=given.flag("night"),
        hard_fished=given.flag("hard_fished"),
        sun_deg=given.number("sun_deg", -90.0, 90.0, 40.0),
    )
    away = given.number("away_m", 0.5, 100.0, off.distance_m)
    out: Json = {
        "stand_off_m": off.distance_m,
        "seen_m": off.seen_m,
        "hull_seen_m": off.hull_m,
        "heard_m": off.heard_m,
        "right_above_is_fine": off.over_it,
        "shadow_m": off.shadow_m,
        "cast_reach_m": list(reach),
        "land_dragged_m": stand_off.land_dragged(away),
    }
    if lure is not None and lure.dives:
        settings = RigSettings(method=Method.RETRIEVE, lure=lure, line=given.line(usual=MONO), retrieve_mps=0.8)
        deep, left = stand_off.deepest_on(lambda cast: retrieve_path(settings, cast), longest)
        out |= {"deepest_m": deep, "deepest_with_line_m": left, "land_m": stand_off.land_dived(away, longest, left)}
    elif lure is not None and lure.weight_n > 0:
        falling = lure.falling(given.line(usual=BRAID), given.rho)
        seconds = time_to_depth(falling, fish, rho=given.rho)[0]
        lean = given.number("lean_deg", 0.0, 60.0, 15.0)
        out |= {
            "land_m": stand_off.land_counted(
                away, fish, lean_deg=lean, wind_in_m=given.number("wind_in_m", 0.0, 20.0, 2.5)
            ),
            "count_s": seconds,
            "count_tight_s": [seconds * f for f in TIGHT_SLOWER],
        }
        if given.has("wind_mps"):
            out["blown_aside_m"] = stand_off.blown_aside(
                lure.mass_kg / 1.3, given.number("wind_mps", 0.0, 40.0), out["land_m"]
            )
        if given.has("swims_mps"):
            out["aim_ahead_m"] = stand_off.aim_ahead(
                given.number("swims_mps", 0.0, 5.0), fish, fish / max(seconds, 0.1)
            )
    return out


def plug_cast(value: Any) -> Json:
    """How deep a dived plug gets on a cast, and with how much line left."""
    given = Given(value, "lure line cast_m retrieve_mps salt")
    settings = RigSettings(
        method=Method.RETRIEVE,
        lure=given.lure(),
        line=given.line(usual=MONO),
        retrieve_mps=given.number("retrieve_mps", 0.05, 4.0, 0.8),
        cast_m=given.number("cast_m", 2.0, 100.0),
        rho=given.rho,
    )
    deep, left = stand_off.deepest_on(lambda cast: retrieve_path(settings, cast), settings.cast_m)
    return {"deepest_m": deep, "line_left_m": left, "stand_from_fish_m": left}


def hang(value: Any) -> Json:
    """Where to hang the lure for a fish: over it, level or under, by species, light and bottom."""
    from plumbbob.core.rig.advice import RigFacts, Vertical, where_to_hang

    given = Given(
        value,
        "fish_m species bottom_m secchi_m sun_deg school soft_bottom bait temperature_c setting_m",
    )
    species = given.species() if given.has("species") else None
    bait = tuple((float(a), float(b)) for a, b in (given.raw("bait") or ()))
    facts = RigFacts(
        secchi_m=given.number("secchi_m", 0.05, 60.0, 3.0),
        sun_deg=given.number("sun_deg", -90.0, 90.0, 40.0),
        bottom_m=given.number("bottom_m", 0.1, 1000.0, math.nan),
        soft_bottom=given.flag("soft_bottom"),
        species=species.name if species is not None else "",
        looks=species.looks if species is not None else "",
        bait=bait,
        temperature_c=given.number("temperature_c", -2.0, 42.0, math.nan),
    )
    fish = given.number("fish_m", 0.1, 1000.0)
    found = where_to_hang(
        fish,
        facts,
        setting_m=given.number("setting_m", 0.0, 5.0, 0.7),
        vertical=given.choice("school", Vertical, Vertical.ABOVE),
    )
    habits = habits_of(species.key) if species is not None else None
    out: Json = {
        "depth_m": found.depth_m,
        "above_fish_m": fish - found.depth_m,
        "reasons": [rig_words(r) for r in found.reasons],
        "cautions": [rig_words(c) for c in found.cautions],
    }
    if habits is not None:
        night = facts.sun_deg < -6.0
        out["senses"] = habits.senses
        out["sees_lure_from_m"] = sees_from(habits.senses, facts.secchi_m, night=night)
        if habits.by_smell:
            out["reasons"].append("it finds bait by its nose: on the bottom, up-current, and give it time")
    return out
