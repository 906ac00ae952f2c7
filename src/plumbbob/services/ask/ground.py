"""Questions of fishing on the bottom and below the boat."""

from __future__ import annotations

from typing import Any

from plumbbob.core.rig import floor
from plumbbob.core.rig.fall import fall_speed, time_to_depth
from plumbbob.core.rig.line import Body
from plumbbob.core.rig.tackle import BRAID, FLUORO, MONO
from plumbbob.services.ask.given import Given, Json
from plumbbob.services.ask.tackle import TIGHT_SLOWER


def jig_weight(value: Any) -> Json:
    """Weight of a jig below the boat."""
    given = Given(
        value,
        "depth_m drift_mps wind_mps line tail tail_area_cm2 fall_s off_vertical_deg kayak moving_school "
        "temperature_c salt",
    )
    kayak, wind = given.flag("kayak"), given.number("wind_mps", 0.0, 40.0, 0.0)
    drift = given.number("drift_mps", 0.0, 4.0, wind * (0.045 if kayak else 0.03))
    cold = given.number("temperature_c", -2.0, 40.0, 15.0) < 6.0
    usual = 25.0 if cold else 8.0 if given.flag("moving_school") else 15.0
    found = floor.jig_weight(
        given.number("depth_m", 0.3, 300.0),
        drift,
        given.line(usual=BRAID),
        given.number("tail_area_cm2", 0.0, 100.0, 2.5) * 1e-4,
        wind_mps=wind,
        fall_s=given.number("fall_s", 1.0, 600.0, usual),
        off_vertical_deg=given.number("off_vertical_deg", 5.0, 80.0, 30.0),
        kayak=kayak,
        rho=given.rho,
    )
    return {
        "mass_g": 1000 * found.mass_kg,
        "need": found.need.value,
        "angle_g": 1000 * found.angle_kg,
        "fall_g": 1000 * found.fall_kg,
        "feel_g": 1000 * found.feel_kg,
        "line_off_vertical_deg": found.line_deg,
        "fall_s": found.fall_s,
        "why": {
            "angle": "the line has to stay steep enough",
            "fall": "it has to be down in time",
            "feel": "lighter would not be felt",
        }[found.need.value]
        + ("; lighter is taken better in water this cold" if cold else ""),
    }


def drag(value: Any) -> Json:
    """Cast and drag on the bottom: lightest lead, fastest hand, depth at the touch, time on the bottom."""
    given = Given(
        value,
        "depth_m line_m speed_mps line lure lure_area_cm2 wind_mps kayak cast_m slope_deg lean_deg hop_m "
        "lift_mps rest_s salt",
    )
    depth, line, rho = given.number("depth_m", 0.3, 100.0), given.line(usual=BRAID), given.rho
    out: Json = {}
    if given.has("line_m"):
        length = given.number("line_m", 0.5, 200.0)
        area = given.number("lure_area_cm2", 0.0, 200.0, 3.0) * 1e-4
        speed = given.number("speed_mps", 0.01, 3.0, 0.3)
        least = floor.lightest_lead(depth, length, speed, line, area, rho=rho)
        felt = floor.felt_mass_kg(
            depth, given.number("wind_mps", 0.0, 40.0, 3.0), line.diameter_m, kayak=given.flag("kayak")
        )
        out |= {
            "lightest_g": 1000 * least,
            "felt_g": 1000 * felt,
            "choose_g": 1000 * max(2.5 * least, felt),
            "why": "what lifts it is line and speed; two to three times the lightest is felt and stays down in wind",
        }
        if given.has("lure"):
            lure = given.lure()
            hold = floor.hold_speed(
                Body(weight_n=lure.weight_n, drag_area_m2=lure.drag_area_m2), depth, length, line, rho=rho
            )
            out["hold_speed_mps"] = hold
    if given.has("cast_m"):
        touch, back = floor.touch_depth(
            depth,
            given.number("cast_m", 1.0, 100.0),
            given.number("slope_deg", -60.0, 60.0, 0.0),
            given.number("lean_deg", 0.0, 60.0, 15.0),
        )
        out |= {"touch_depth_m": touch, "lands_nearer_m": back}
        if given.has("lure"):
            falling = given.lure().falling(line, rho)
            seconds = time_to_depth(falling, max(touch, 0.05), rho=rho)[0]
            out["count_s"] = [seconds, seconds * TIGHT_SLOWER[0], seconds * TIGHT_SLOWER[1]]
    if given.has("hop_m"):
        falling = given.lure().falling(line, rho)
        out["contact_share"] = floor.contact_share(
            given.number("hop_m", 0.0, 5.0),
            given.number("lift_mps", 0.05, 5.0, 1.0),
            fall_speed(falling, depth, rho=rho),
            given.number("rest_s", 0.0, 120.0, 3.0),
        )
    if not out:
        raise ValueError("line_m, cast_m or hop_m is needed")
    return out


def walker(value: Any) -> Json:
    """A walker on the bottom: line and angle for a weight, or the weight for an angle."""
    given = Given(value, "depth_m speed_mps mass_g line angle_deg salt")
    depth, speed = given.number("depth_m", 0.3, 100.0), given.number("speed_mps", 0.0, 3.0)
    line, rho = given.line(usual=MONO), given.rho
    low = floor.walker_mass(depth, speed, line, angle_deg=35.0, rho=rho)
    high = floor.walker_mass(depth, speed, line, angle_deg=50.0, rho=rho)
    out: Json = {
        "usual_g": [1000 * low, 1000 * high],
        "mass_g": 1000
        * floor.walker_mass(depth, speed, line, angle_deg=given.number("angle_deg", 18.0, 80.0, 42.0), rho=rho),
    }
    mass = given.number("mass_g", 0.1, 5000.0, out["mass_g"]) / 1000.0
    found = floor.walk_on(mass, depth, speed, line, rho=rho)
    if found is None:
        return {**out, "reaches": False}
    return {
        **out,
        "reaches": True,
        "line_out_m": found.line_m,
        "angle_at_rod_deg": found.angle_deg,
        "angle_from_vertical_deg": 90.0 - found.angle_deg,
        "goes": found.walk.value,
    }


def floater(value: Any) -> Json:
    """Height of a floating lure over its sinker."""
    given = Given(value, "buoyancy_n lure lure_area_cm2 leader_m leader speed_mps salt")
    lure = given.lure() if given.has("lure") else None
    up = given.number("buoyancy_n", 0.0, 5.0, -lure.weight_n if lure is not None else 0.01)
    area = given.number("lure_area_cm2", 0.01, 200.0, lure.drag_area_m2 * 1e4 if lure is not None else 1.0)
    leader_m = given.number("leader_m", 0.05, 10.0)
    height = floor.floater_height(
        up, area * 1e-4, leader_m, given.line("leader", FLUORO), given.number("speed_mps", 0.0, 3.0), rho=given.rho
    )
    return {"height_m": height, "share_of_leader": height / leader_m}


def drop_rig(value: Any) -> Json:
    """Height of a lure tied over its weight, on a tight line from some way off."""
    given = Given(value, "over_weight_m depth_m away_m height_m")
    depth, away = given.number("depth_m", 0.1, 200.0), given.number("away_m", 0.0, 200.0, 0.0)
    if given.has("height_m"):
        return {"over_weight_m": floor.tied_over(given.number("height_m", 0.01, 5.0), depth, away)}
    return {"height_m": floor.drop_height(given.number("over_weight_m", 0.01, 5.0), depth, away)}


def anchored_bait(value: Any) -> Json:
    """Lead that holds a bait in a current."""
    given = Given(value, "current_mps depth_m line bait_area_cm2 sinker ground upward_n mu fall_mps salt")
    hold = floor.hold_of(
        given.text("sinker", "round").lower(), given.choice("ground", floor.Ground, floor.Ground.SAND)
    )
    if given.has("mu"):
        mu = given.number("mu", 0.05, 20.0)
        hold = (mu, mu)
    current, depth = given.number("current_mps", 0.0, 5.0), given.number("depth_m", 0.3, 300.0)
    found = floor.holding_mass(
        current,
        depth,
        given.line(usual=MONO),
        given.number("bait_area_cm2", 0.1, 1000.0, 6.0) * 1e-4,
        hold,
        upward_n=given.number("upward_n", 0.0, 20.0, 0.0),
        rho=given.rho,
    )
    return {
        "mass_g": 1000 * found.mass_kg,
        "mass_low_g": 1000 * found.mass_low_kg,
        "mass_high_g": 1000 * found.mass_high_kg,
        "side_pull_n": found.side_pull_n,
        "hold": list(hold),
        "lands_downstream_m": current * depth / given.number("fall_mps", 0.05, 5.0, 0.8),
    }


def ball(value: Any) -> Json:
    """A trolled ball over a bottom that rises."""
    given = Given(value, "clearance_m slope_deg speed_mps raise_m trails_m turn_m rate_mps rough notice_s")
    speed, rough = given.number("speed_mps", 0.05, 5.0), given.flag("rough")
    clear = given.number("clearance_m", 0.0, 50.0, 2.5 if rough else 1.25)
    out: Json = {"keep_m": [2.0, 3.0] if rough else [1.0, 1.5]}
    if given.has("slope_deg"):
        out["seconds_to_touch"] = floor.seconds_to_touch(clear, given.number("slope_deg", 0.0, 89.0), speed)
    if given.has("raise_m"):
        up = floor.raise_ball(
            given.number("raise_m", 0.0, 100.0),
            given.number("trails_m", 0.0, 200.0, 5.0),
            speed,
            turn_m=given.number("turn_m", 0.05, 3.0, 0.4),
            rate_mps=given.number("rate_mps", 0.05, 3.0, 0.4),
            notice_s=given.number("notice_s", 0.0, 60.0, 3.0),
        )
        out |= {"turns": up.turns, "seconds": up.seconds, "begin_ahead_m": up.begin_ahead_m}
        out["way_made_m"] = up.seconds * speed
    return out


def school(value: Any) -> Json:
    """A drop on a school that passes."""
    given = Given(value, "depth_m fall_mps lure line passes_mps length_m salt")
    depth = given.number("depth_m", 0.3, 200.0)
    if given.has("fall_mps"):
        speed = given.number("fall_mps", 0.02, 5.0)
    else:
        falling = given.lure().falling(given.line(usual=BRAID), given.rho)
        speed = depth / time_to_depth(falling, depth, rho=given.rho)[0]
    found = floor.drop_on_school(
        depth, speed, given.number("passes_mps", 0.0, 5.0), given.number("length_m", 0.1, 500.0, 12.0)
    )
    advice = (
        "heavier, drop ahead, or cast"
        if found.share < 0.3
        else "lighter is fine"
        if found.share > 0.7
        else "drop now"
    )
    return {"seconds": found.seconds, "lead_m": found.lead_m, "share_left": found.share, "advice": advice}
