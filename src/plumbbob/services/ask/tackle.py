"""Questions of tackle and rods: what a packet means, where a lure runs, how it falls, what a reel takes in."""

from __future__ import annotations

import math
from dataclasses import fields, replace
from typing import Any

from plumbbob.core.rig import bought, bought_lines, pace
from plumbbob.core.rig.fall import depth_after, fall_speed, time_to_depth
from plumbbob.core.rig.line import Body, tow
from plumbbob.core.rig.methods import run, solve
from plumbbob.core.rig.rod import SLOTS, Method, RigSettings
from plumbbob.core.rig.tackle import BRAID, MONO, LineKind, Lure, Weight
from plumbbob.formats.bought_words import timed
from plumbbob.formats.rig_json import ALL_SLOTS, answer_json, rod_from, slot_kind
from plumbbob.formats.rig_request import ROD_KEYS
from plumbbob.formats.tackle_csv import item_fields
from plumbbob.services.ask.given import Given, Json, packet_from, tackle_of

_SLACK_SLOWER = (1.0, 1.5)  # loops and a spool that drags
TIGHT_SLOWER = (1.2, 2.3)  # on a tight line a fall takes so many times as long


def _spreads(item: Any) -> Json:
    return dict(item.uncertain())


def tackle(value: Any) -> Json:
    """What a packet means in numbers."""
    given = Given(value, "lure line weight diver board timed salt")
    out: Json = {}
    for kind in ("lure", "line", "weight", "diver", "board"):
        if not given.has(kind):
            continue
        timed_lure = kind == "lure" and given.has("timed")
        item = _timed_lure(given) if timed_lure else tackle_of(kind, kind, given.raw(kind), given.rho)
        told: Json = {**item_fields(item), "log_sd": _spreads(item)}
        if isinstance(item, LineKind):
            told["weight_in_water_npm"] = item.weight_npm(given.rho)
        elif isinstance(item, Weight):
            told["weight_in_water_n"] = item.body(given.rho).weight_n
        elif isinstance(item, Lure):
            told["falls_mps"] = fall_speed(item.falling(given.line(usual=BRAID), given.rho), 0.0, rho=given.rho)
        out[kind] = told
    if not out:
        raise ValueError("one of lure, line, weight, diver, board is needed")
    return out


def _timed_lure(given: Given) -> Lure:
    """The lure of a packet, with a fall that was timed in place of what its form would say."""
    told = Given(given.raw("timed"), "depth_m seconds line")
    packet = timed(
        packet_from(given.raw("lure")),
        told.number("depth_m", 0.3, 200.0),
        told.number("seconds", 0.2, 600.0),
        told.line(usual=BRAID),
        rho=given.rho,
    )
    return bought.lure_of(packet, rho=given.rho)


def rod(value: Any) -> Json:
    """Where a rod's lure runs with so much out, or what brings it to a depth."""
    given = Given(value, " ".join((*ROD_KEYS, "line_out_m", "count_s", "salt", "colours")))
    slots: Json = {k: tackle_of(slot_kind(k), k, given.raw(k), given.rho) for k in ALL_SLOTS if given.has(k)}
    plain = {f.name: given.raw(f.name) for f in fields(RigSettings) if given.has(f.name) and f.name not in slots}
    settings = rod_from({**plain, **({"rho": given.rho} if given.flag("salt") else {})})
    settings = replace(settings, **slots)
    if "tip_height_m" not in plain:
        settings = replace(settings, tip_height_m=0.0)  # what is out counts from the water, as on a packet
    asked = [k for k in ("depth_m", "value", "line_out_m", "count_s", "colours") if given.has(k)]
    if len(asked) != 1:
        raise ValueError("one of depth_m, line_out_m, count_s, colours and value is needed")
    if asked[0] == "depth_m":
        answer = solve(settings, given.number("depth_m", 0.0, 1000.0))
    elif asked[0] == "colours":
        out = given.number("colours", 0.1, 40.0) * (settings.core.colour_m or 9.144)
        answer = run(settings, out + settings.leader_m)
    else:
        answer = run(settings, given.number(asked[0], 0.0, 5000.0))
    found = answer_json(answer)
    found.pop("shape", None)
    if found.get("reachable"):
        sd = found["depth_sd_m"]
        found["depth_low_m"], found["depth_high_m"] = found["depth_m"] - 1.28 * sd, found["depth_m"] + 1.28 * sd
        if settings.method is Method.WEIGHTED_LINE and settings.core.colour_m:
            found["colours"] = max(found["value_m"] - settings.leader_m, 0.0) / settings.core.colour_m
    found["uses"] = {slot: getattr(settings, slot).name for slot in SLOTS[settings.method]}
    return found


def fall(value: Any) -> Json:
    """Seconds of a fall to a depth, or the depth after a count; slack, and what a tight line makes of it."""
    given = Given(value, "lure line depth_m seconds salt timed")
    lure, line, rho = given.lure(), given.line(usual=BRAID), given.rho
    falling = lure.falling(line, rho)
    if given.has("depth_m") == given.has("seconds"):
        raise ValueError("either depth_m or seconds is needed")
    if given.has("seconds"):
        seconds = given.number("seconds", 0.0, 3600.0)
        deep = depth_after(falling, seconds, rho=rho)
        return {
            "depth_m": deep,
            "depth_low_m": depth_after(falling, seconds / _SLACK_SLOWER[1], rho=rho),
            "on_tight_line_m": [depth_after(falling, seconds / f, rho=rho) for f in reversed(TIGHT_SLOWER)],
            "speed_mps": fall_speed(falling, deep, rho=rho),
        }
    depth = given.number("depth_m", 0.05, 1000.0)
    seconds, speed = time_to_depth(falling, depth, rho=rho)
    sd = 0.5 * lure.fall_sd  # time goes with the root of the area
    return {
        "seconds": seconds,
        "seconds_low": seconds * math.exp(-1.28 * sd),
        "seconds_high": seconds * math.exp(1.28 * sd) * 1.1,
        "on_tight_line_s": [seconds * f for f in TIGHT_SLOWER],
        "first_speed_mps": fall_speed(falling, 0.0, rho=rho),
        "speed_mps": speed,
    }


def line(value: Any) -> Json:
    """A line's diameter by strength, its weight in water, what fits a spool."""
    given = Given(value, "line known_m known_diameter_mm salt")
    found = given.line()
    out: Json = {
        "diameter_mm": 1000 * found.diameter_m,
        "weight_in_water_npm": found.weight_npm(given.rho),
        "mass_gpm": 1000 * found.mass_a_metre(),
        "log_sd": _spreads(found),
    }
    if given.has("known_m"):
        known = given.number("known_diameter_mm", 0.02, 5.0) / 1000.0
        out["capacity_m"] = bought_lines.capacity_m(given.number("known_m", 1.0, 10_000.0), known, found.diameter_m)
    return out


def reel(value: Any) -> Json:
    """Line a turn of the handle with so much out, and turns a second for a speed."""
    given = Given(value, "full_mm arbor_mm ratio capacity_m out_m speed_mps turn_m")
    if given.has("turn_m"):
        turn = given.number("turn_m", 0.05, 3.0)
    else:
        turn = bought_lines.retrieve_a_turn(
            given.number("full_mm", 10.0, 500.0) / 1000.0,
            given.number("arbor_mm", 5.0, 499.0) / 1000.0,
            given.number("ratio", 0.5, 15.0),
            given.number("capacity_m", 1.0, 5000.0),
            given.number("out_m", 0.0, 5000.0, 0.0),
        )
    out: Json = {"turn_m": turn}
    if given.has("speed_mps"):
        out["turns_per_s"] = pace.turns_a_second(given.number("speed_mps", 0.0, 5.0), turn)
    return out


def towed(value: Any) -> Json:
    """A bare line: depth and layback of a body on so much line at a speed."""
    given = Given(value, "weight_n drag_area_cm2 lift_area_cm2 line line_m speed_mps salt")
    body = Body(
        weight_n=given.number("weight_n", -100.0, 1000.0),
        drag_area_m2=given.number("drag_area_cm2", 0.0, 5000.0) * 1e-4,
        lift_area_m2=given.number("lift_area_cm2", 0.0, 5000.0, 0.0) * 1e-4,
    )
    piece = given.line(usual=MONO).segment(given.number("line_m", 0.1, 2000.0), rho=given.rho)
    found = tow(body, [piece], given.number("speed_mps", 0.0, 6.0), rho=given.rho)
    return {
        "depth_m": found.depth_m,
        "layback_m": found.layback_m,
        "angle_from_vertical_deg": found.angle_from_vertical_deg,
    }
