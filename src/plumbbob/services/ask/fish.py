"""Questions of fish in the hand, of bites and baits, of lying at a place."""

from __future__ import annotations

import math
from typing import Any

from plumbbob.core.live.anchor import moves_by, rode_for
from plumbbob.core.live.clocks import BaitKind, bait_lasts_s
from plumbbob.core.plan.bites import Fishing, first_bite, still_active
from plumbbob.core.rig.stand_off import wind_force
from plumbbob.core.sonar.target_strength import fish_length_cm, target_strength_db
from plumbbob.core.tally.fish_care import at_catch, expansion, warm_stop_c
from plumbbob.core.tally.weight import weight_of
from plumbbob.core.water.tide import wait_or_land
from plumbbob.services.ask.given import Given, Json
from plumbbob.wording import metric, sentence
from plumbbob.wording.log import PHRASES

_LOCAL = "General guidance; local rules and advice come first."


def care(value: Any) -> Json:
    """Care of a fish by the depth it came from, its kind and the water."""
    given = Given(value, "species depth_m water_c oxygen_mgl fight_s salt")
    species = given.species() if given.has("species") else None
    depth = given.number("depth_m", 0.0, 1000.0, math.nan)
    reasons = at_catch(
        species,
        depth_m=depth,
        water_c=given.number("water_c", -2.0, 42.0, math.nan),
        oxygen_mgl=given.number("oxygen_mgl", 0.0, 30.0, math.nan),
        fight_s=given.number("fight_s", 0.0, 36_000.0, math.nan),
    )
    out: Json = {"mind": [sentence(r, PHRASES, metric) for r in reasons], "words": _LOCAL}
    if math.isfinite(depth):
        out["gas_grows"] = expansion(depth, salt=given.flag("salt"))
    if species is not None:
        deep = species.care_m is not None and species.bladder != "0" and depth > species.care_m
        out |= {
            "barotrauma_from_m": species.care_m,
            "barotrauma": bool(deep),
            "cannot_vent": species.bladder == "PC",
            "stop_at_c": warm_stop_c(species),
        }
    out["air_s"] = [10, 30]
    return out


def weight(value: Any) -> Json:
    """Weight of a fish by its length."""
    given = Given(value, "species length_cm")
    species = given.species()
    if species.weight_a is None or species.weight_b is None:
        raise ValueError(f"no weights are known of {species.name}")
    found = weight_of(given.number("length_cm", 1.0, 400.0) / 100.0, species.weight_a, species.weight_b)
    return {"kg": found.kg, "low_kg": found.kg - 1.28 * found.sd_kg, "high_kg": found.kg + 1.28 * found.sd_kg}


def echo(value: Any) -> Json:
    """Target strength of a fish by length, or the length that an echo could mean: one of six decibels doubles it."""
    given = Given(value, "length_cm strength_db frequency_khz")
    khz = given.number("frequency_khz", 10.0, 2000.0, 200.0)
    if given.has("length_cm"):
        return {"strength_db": target_strength_db(given.number("length_cm", 0.5, 400.0), khz), "sd_db": 6.0}
    level = given.number("strength_db", -90.0, 0.0)
    return {
        "length_cm": fish_length_cm(level, khz),
        "between_cm": [fish_length_cm(level - 6.0, khz), fish_length_cm(level + 6.0, khz)],
    }


def bite(value: Any) -> Json:
    """How likely a first bite has come by now, and that fish are active here if it has not."""
    given = Given(value, "minutes active fishing")
    minutes, active = given.number("minutes", 0.0, 10_000.0), given.number("active", 0.0, 1.0, 0.5)
    way = given.choice("fishing", Fishing, Fishing.CAST)
    return {"bite_by_now": first_bite(minutes, active, way), "active_without_one": still_active(minutes, active, way)}


def hooks(value: Any) -> Json:
    """With several hooks: land what hangs now, or wait for more."""
    given = Given(value, "hooks on per_hour wait_s lost_per_minute")
    count, on = int(given.number("hooks", 1, 50)), int(given.number("on", 0, 50, 1))
    land, wait = wait_or_land(
        count,
        on,
        given.number("per_hour", 0.0, 5000.0),
        given.number("wait_s", 0.0, 3600.0, 60.0),
        given.number("lost_per_minute", 0.0, 5.0, 0.03),
    )
    return {"land_now": land, "by_waiting": wait, "advice": "wait" if wait > land * 1.1 else "land"}


def bait(value: Any) -> Json:
    """How long a bait lasts."""
    given = Given(value, "bait temperature_c current_mps")
    warm, current = given.number("temperature_c", -2.0, 42.0), given.number("current_mps", 0.0, 5.0, 0.0)
    seconds = bait_lasts_s(given.choice("bait", BaitKind), warm, current_mps=current)
    return {"minutes": [s / 60.0 for s in seconds]}


def anchor(value: Any) -> Json:
    """Rope for a depth, how far a boat swings, what pulls at it."""
    given = Given(value, "depth_m wind_mps bow_m shift_deg hull rope_m")
    depth, wind = given.number("depth_m", 0.3, 200.0), given.number("wind_mps", 0.0, 40.0, 3.0)
    rode = rode_for(depth, wind, given.number("bow_m", 0.0, 5.0, 1.0))
    hull = given.text("hull", "boat bow on")
    return {
        "rope_m": rode.rope_m,
        "swing_m": rode.swing_m,
        "pull_deg": rode.pull_deg,
        "moves_m": moves_by(rode.swing_m, given.number("shift_deg", -180.0, 180.0, 30.0)),
        "push_n": wind_force(hull, wind),
        "words": "A kayak is never anchored from its side, and not at all in current over 1 m/s.",
    }
