"""Questions of the sounder: beam, dead zone, shadow, how fast to scan, how far apart lanes."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from plumbbob.core.rig import stand_off
from plumbbob.core.sonar.beam import (
    dead_zone,
    dead_zone_on_axis,
    echo_bounds,
    first_echo_range,
    footprint_area,
    footprint_diameter,
)
from plumbbob.core.sonar.shadow_height import ground_range, height_from_shadow, shadow_height, without_shadow
from plumbbob.core.sonar.sounder_setup import SetUp, advise
from plumbbob.core.water.sound import absorption_db_per_m, fresh_sound_speed, sea_sound_speed
from plumbbob.services.ask.given import Given, Json


def beam(value: Any) -> Json:
    """What a round beam covers at a depth, and where an echo at a range can have come from."""
    given = Given(value, "beam_deg depth_m draft_m over_threshold_db")
    width = given.number("beam_deg", 1.0, 90.0, 20.0)
    reach = given.number("depth_m", 0.1, 2000.0) - given.number("draft_m", 0.0, 5.0, 0.0)
    if not reach > 0:
        raise ValueError("depth_m must be under the transducer")
    least, most, aside = (float(v) for v in echo_bounds(reach, width))
    over = given.number("over_threshold_db", 0.0, 80.0, 12.0)
    effective = width / 2 * math.sqrt(over / 6.0)
    return {
        "footprint_m": float(footprint_diameter(reach, width)),
        "footprint_m2": float(footprint_area(reach, width)),
        "effective_half_angle_deg": effective,
        "shows_across_m": 2 * reach * math.tan(math.radians(min(effective, 75.0))),
        "depth_between_m": [least, most],
        "at_most_aside_m": aside,
        "words": "which side it is on, one round beam cannot tell",
    }


def dead(value: Any) -> Json:
    """Height over the bottom in which fish can't be seen."""
    given = Given(value, "beam_deg bottom_m draft_m pulse_ms pulse_m sound_mps slope_deg")
    width, slope = given.number("beam_deg", 1.0, 90.0, 20.0), given.number("slope_deg", 0.0, 75.0, 0.0)
    high = given.number("bottom_m", 0.2, 2000.0) - given.number("draft_m", 0.0, 5.0, 0.0)
    sound = given.number("sound_mps", 1300.0, 1700.0, 1480.0)
    pulse = given.number("pulse_m", 0.0, 5.0, sound * given.number("pulse_ms", 0.0, 10.0, 0.1) / 2000.0)
    return {
        "dead_zone_m": float(dead_zone(high, width, pulse, slope)),
        "straight_below_m": float(dead_zone_on_axis(high, width, pulse, slope)),
        "shown_too_shallow_m": high - float(first_echo_range(high, width, slope)),
        "pulse_m": pulse,
    }


def shadow(value: Any) -> Json:
    """Height of a thing to the side from its shadow; without one, between what its height lies."""
    given = Given(value, "altitude_m echo_m shadow_start_m shadow_end_m slope_deg")
    high, echo = given.number("altitude_m", 0.2, 500.0), given.number("echo_m", 0.2, 1000.0)
    slope = given.number("slope_deg", -40.0, 40.0, 0.0)
    if not given.has("shadow_end_m"):
        least, most = without_shadow(echo, high)
        return {"ground_range_m": [least, most], "height_m": None, "in_the_water": echo < high}
    end = given.number("shadow_end_m", 0.2, 2000.0)
    if given.has("shadow_start_m"):
        found = shadow_height(echo, given.number("shadow_start_m", 0.2, 2000.0), end, high, slope_deg=slope)
        return {
            "height_m": found.top_m,
            "height_sd_m": found.top_sd_m,
            "underside_m": found.underside_m,
            "ground_range_m": found.ground_m,
            "on_bottom": found.on_bottom,
        }
    return {
        "height_m": float(height_from_shadow(echo, end, high)),
        "ground_range_m": float(np.asarray(ground_range(end, high, slope))) * echo / end,
    }


def scan_speed(value: Any) -> Json:
    """How fast to go for enough pings on what is sought, and how far apart to run lanes."""
    given = Given(value, "depth_m bottom_m beam_deg size_m speed_mps ping_hz draft_m covers_m coverage pings")
    depth = given.number("depth_m", 0.3, 1000.0)
    setup = SetUp(
        beam_width_deg=given.number("beam_deg", 1.0, 90.0, 20.0),
        draft_m=given.number("draft_m", 0.0, 5.0, 0.4),
        depth_m=depth,
        bottom_m=given.number("bottom_m", 0.5, 1000.0, max(depth * 1.3, depth + 1.0)),
        size_m=given.number("size_m", 0.0, 200.0, 0.0),
        speed_mps=given.number("speed_mps", 0.0, 30.0, 1.3),
        ping_rate_hz=given.number("ping_hz", 0.1, 200.0) if given.has("ping_hz") else None,
    )
    found = advise(setup)
    out: Json = {
        "fastest_mps": found.fastest_mps,
        "limit_mps": found.limit_mps,
        "pings": found.pings if math.isfinite(found.pings) else None,
        "ping_hz": found.ping_rate_hz,
        "footprint_m": found.footprint_m,
        "shows_across_m": found.swath_m,
        "range_m": found.range_m,
        "hardness_range_m": found.hardness_range_m,
        "dead_zone_m": found.dead_zone_m,
    }
    if given.has("pings"):
        path = found.footprint_m + setup.size_m
        out["speed_for_pings_mps"] = found.ping_rate_hz * path / given.number("pings", 1.0, 1000.0)
    covers = given.number("covers_m", 0.1, 500.0, found.swath_m)
    out["lanes_m"] = covers / given.number("coverage", 0.05, 3.0, 0.8)
    return out


def detection(value: Any) -> Json:
    """How likely something in an area is met by a search."""
    given = Given(value, "sweep_m way_m area_m2 lanes")
    covered = (
        given.number("sweep_m", 0.01, 1000.0) * given.number("way_m", 0.0, 1e7) / given.number("area_m2", 1.0, 1e10)
    )
    return {
        "coverage": covered,
        "at_random": 1.0 - math.exp(-covered),
        "in_lanes": math.erf(math.sqrt(math.pi) / 2 * covered),
        "at_best": min(1.0, covered),
    }


def sound(value: Any) -> Json:
    """Speed of sound and its loss, fresh or salt."""
    given = Given(value, "temperature_c salinity depth_m frequency_khz")
    warm, salt = given.number("temperature_c", -2.0, 42.0), given.number("salinity", 0.0, 45.0, 0.0)
    depth = given.number("depth_m", 0.0, 8000.0, 0.0)
    speed = fresh_sound_speed(warm, depth) if salt < 1.0 else sea_sound_speed(warm, salt, depth)
    out: Json = {"sound_mps": float(speed)}
    if given.has("frequency_khz"):
        loss = absorption_db_per_m(given.number("frequency_khz", 1.0, 3000.0) * 1e3, warm, salt, depth)
        out["loss_db_per_km"] = 1000.0 * float(loss)
    return out


def lanes(value: Any) -> Json:
    """Spacing of trolled lanes, least radius of turns, way of a turn."""
    given = Given(value, "spread_m seen_from_m coverage layback_m radius_m lane_m")
    out: Json = {}
    if given.has("spread_m"):
        seen = given.number("seen_from_m", 0.0, 20.0, 1.4)
        out["spacing_m"] = stand_off.lane_spacing(
            given.number("spread_m", 0.0, 200.0), seen, given.number("coverage", 0.05, 1.0, 0.8)
        )
    if given.has("layback_m"):
        out["turn_radius_m"] = stand_off.turn_radius(given.number("layback_m", 0.0, 500.0))
    if given.has("lane_m"):
        radius = given.number("radius_m", 0.5, 1000.0, out.get("turn_radius_m", 20.0))
        out["turn_m"] = stand_off.turn_length(radius, given.number("lane_m", 0.0, 1000.0))
    if not out:
        raise ValueError("spread_m, layback_m or lane_m is needed")
    return out
