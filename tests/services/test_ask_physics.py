"""What questions answer, held against closed forms, against each other and against what cannot be otherwise."""

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from plumbbob.core.rig.bought import DENSITY, Material
from plumbbob.core.rig.bought_weights import Sinker, board_of, disc_of, float_carries_kg
from plumbbob.services.ask.answer import answer_question

G = 9.80665


def ask(name, **question):
    return answer_question({name: question})


def one_weight(shape, grams, **more):
    return ask("tackle", weight={"shape": shape, "mass_g": grams, **more})["weight"]


@given(
    shape=st.sampled_from([s.value for s in Sinker]),
    grams=st.floats(0.5, 5000.0),
    material=st.sampled_from([Material.LEAD, Material.TUNGSTEN, Material.STEEL]),
)
@settings(max_examples=40, deadline=None)
def test_a_weight_in_water_is_its_mass_less_what_it_displaces(shape, grams, material):
    told = one_weight(shape, grams, material=material.value)
    expected = grams / 1000 * G * (1 - 998.6 / DENSITY[material])
    assert told["weight_in_water_n"] == pytest.approx(expected, rel=2e-3)


def test_salt_water_carries_more():
    fresh = ask("tackle", weight="100 g egg")["weight"]["weight_in_water_n"]
    salt = ask("tackle", weight="100 g egg", salt=True)["weight"]["weight_in_water_n"]
    assert 0.99 < salt / fresh < 1.0


@given(
    kg=st.floats(0.5, 40.0), times=st.floats(1.1, 4.0), material=st.sampled_from(["nylon", "fluorocarbon", "braid"])
)
@settings(max_examples=40, deadline=None)
def test_strength_goes_with_the_square_of_the_diameter(kg, times, material):
    thin = ask("line", line={"material": material, "strength_kg": kg})
    thick = ask("line", line={"material": material, "strength_kg": kg * times})
    assert thick["diameter_mm"] / thin["diameter_mm"] == pytest.approx(math.sqrt(times), rel=1e-6)
    assert thick["mass_gpm"] / thin["mass_gpm"] == pytest.approx(times, rel=1e-6)


def test_lines_that_sink_and_float():
    by = {
        m: ask("line", line={"material": m, "diameter_mm": 0.3}) for m in ("nylon", "fluorocarbon", "braid", "wire")
    }
    weights = [by[m]["weight_in_water_npm"] for m in ("braid", "nylon", "fluorocarbon", "wire")]
    assert weights == sorted(weights)
    assert weights[0] < 0 < weights[1]
    measured, by_strength = by["braid"]["log_sd"]["cn"], ask("line", line="9 kg braid")["log_sd"]["cn"]
    assert measured < by_strength


def test_a_spool_holds_length_by_the_square_of_the_line():
    told = ask("line", line={"material": "nylon", "diameter_mm": 0.2}, known_m=150, known_diameter_mm=0.4)
    assert told["capacity_m"] == pytest.approx(600.0)


@given(out=st.floats(0.0, 150.0))
@settings(max_examples=40, deadline=None)
def test_a_reel_takes_in_less_the_more_is_out(out):
    reel = {"full_mm": 45, "arbor_mm": 28, "ratio": 6, "capacity_m": 150}
    turn = ask("reel", **reel, out_m=out)["turn_m"]
    least, most = math.pi * 0.028 * 6, math.pi * 0.045 * 6
    assert least - 1e-9 <= turn <= most + 1e-9
    # the wound area shrinks in step with the line that is out
    assert turn**2 == pytest.approx(most**2 - (most**2 - least**2) * out / 150, rel=1e-9)


@given(depth=st.floats(0.6, 25.0), lure=st.sampled_from(["7 g ball jig", "14 g spoon", "28 g slab", "20 g blade"]))
@settings(max_examples=30, deadline=None)
def test_a_fall_and_its_count_are_each_others_inverse(depth, lure):
    there = ask("fall", lure=lure, line="0.2 nylon", depth_m=depth)
    back = ask("fall", lure=lure, line="0.2 nylon", seconds=there["seconds"])
    assert back["depth_m"] == pytest.approx(depth, rel=0.01, abs=0.02)
    assert there["seconds_low"] < there["seconds"] < there["seconds_high"]
    assert there["on_tight_line_s"][0] > there["seconds"]
    assert there["speed_mps"] <= there["first_speed_mps"] + 1e-9  # line that follows can only slow it


@given(depth=st.floats(2.0, 12.0), slower=st.floats(0.8, 1.6))
@settings(max_examples=20, deadline=None)
def test_a_timed_fall_is_believed_over_the_form(depth, slower):
    words = "10 g ball jig, 8 cm paddle tail"
    usual = ask("fall", lure=words, line="0.15 braid", depth_m=depth)["seconds"]
    told = {"depth_m": depth, "seconds": usual * slower, "line": "0.15 braid"}
    timed = ask("tackle", lure=words, timed=told)["lure"]
    plain = ask("tackle", lure=words)["lure"]
    assert timed["fall_area_m2"] / plain["fall_area_m2"] == pytest.approx(slower**2, rel=0.15)
    assert timed["log_sd"]["fall"] < plain["log_sd"]["fall"]
    assert (timed["falls_mps"] < plain["falls_mps"]) == (slower > 1.0) or abs(slower - 1.0) < 0.02


@given(depth=st.floats(1.0, 2.6), speed=st.floats(0.7, 1.6))
@settings(max_examples=15, deadline=None)
def test_line_out_and_depth_are_each_others_inverse(depth, speed):
    rod = {"method": "flat line", "lure": "plug 8 cm, 3 m", "line": "0.28 nylon", "speed_mps": speed}
    there = ask("rod", **rod, depth_m=depth)
    assert there["reachable"]
    back = ask("rod", **rod, line_out_m=there["value_m"])
    assert back["depth_m"] == pytest.approx(depth, abs=0.02)
    assert there["depth_low_m"] < depth < there["depth_high_m"]
    assert math.hypot(there["layback_m"], depth) <= there["value_m"] + 0.05


@given(newtons=st.floats(0.2, 50.0), area=st.floats(0.5, 100.0), line=st.floats(2.0, 80.0), speed=st.floats(0.1, 3.0))
@settings(max_examples=40, deadline=None)
def test_a_towed_body_stays_on_its_line_and_rises_with_speed(newtons, area, line, speed):
    body = {"weight_n": newtons, "drag_area_cm2": area, "line_m": line}
    slow, fast = ask("tow", **body, speed_mps=speed), ask("tow", **body, speed_mps=1.3 * speed)
    assert math.hypot(slow["depth_m"], slow["layback_m"]) <= line * 1.001
    assert fast["depth_m"] < slow["depth_m"]
    assert ask("tow", **body, speed_mps=0)["depth_m"] == pytest.approx(line, rel=1e-3)


def test_a_tide_lies_between_its_turns_and_runs_hardest_between_them():
    table = "2026-08-14 05:00, 1.0\n2026-08-14 11:00, 5.0\n2026-08-14 17:00, 1.0"
    told = {h: ask("tide", table=table, time=f"2026-08-14T{h:02d}:00") for h in (5, 6, 8, 10, 11, 14)}
    assert told[5]["level_m"] == pytest.approx(1.0)
    assert told[8]["level_m"] == pytest.approx(3.0)
    assert told[6]["level_m"] == pytest.approx(3.0 - 2.0 * math.cos(math.pi / 6), abs=1e-6)
    assert told[8]["rises_m_per_h"] == pytest.approx(4.0 / 2 * math.pi / 6, rel=1e-3)
    assert told[8]["stream"] == "flood"
    assert told[14]["stream"] == "ebb"
    assert told[8]["share_of_strongest"] > told[10]["share_of_strongest"] > told[11]["share_of_strongest"]


@given(altitude=st.floats(2.0, 30.0), echo=st.floats(1.2, 3.0), lies=st.floats(1.02, 1.5), long_=st.floats(1.02, 1.6))
@settings(max_examples=40, deadline=None)
def test_a_shadow_tells_the_height_by_like_triangles(altitude, echo, lies, long_):
    start = altitude * echo * lies
    told = ask(
        "shadow",
        altitude_m=altitude,
        echo_m=altitude * echo,
        shadow_start_m=start,
        shadow_end_m=start * long_,
    )
    assert told["height_m"] == pytest.approx(altitude * (1 - echo / (echo * lies * long_)), rel=1e-6)
    assert 0 < told["height_m"] < altitude
    assert told["underside_m"] <= told["height_m"]
    assert told["ground_range_m"] < altitude * echo


@given(sweep=st.floats(1.0, 30.0), way=st.floats(10.0, 20_000.0), area=st.floats(1e3, 1e6))
@settings(max_examples=40, deadline=None)
def test_a_search_at_random_finds_less_than_lanes_and_they_less_than_at_best(sweep, way, area):
    told = ask("detection", sweep_m=sweep, way_m=way, area_m2=area)
    assert told["coverage"] == pytest.approx(sweep * way / area)
    assert told["at_random"] == pytest.approx(1 - math.exp(-told["coverage"]))
    assert told["at_random"] <= told["in_lanes"] + 1e-9 <= told["at_best"] + 2e-9


def test_sound_is_faster_in_warm_and_in_salt_water_and_dies_sooner_at_high_pitch():
    cold, warm = (ask("sound", temperature_c=t, salinity=0, frequency_khz=200) for t in (4, 20))
    salt = ask("sound", temperature_c=4, salinity=35, frequency_khz=200)
    high = ask("sound", temperature_c=4, salinity=35, frequency_khz=800)
    assert cold["sound_mps"] == pytest.approx(1421.6, abs=1.5)
    assert warm["sound_mps"] == pytest.approx(1482.3, abs=1.5)
    assert salt["sound_mps"] > cold["sound_mps"]
    assert high["loss_db_per_km"] > salt["loss_db_per_km"] > cold["loss_db_per_km"]


def test_gas_grows_by_the_pressure_it_leaves():
    for depth in (5.0, 10.0, 20.0, 30.0):
        told = ask("care", species="walleye", depth_m=depth, water_c=12)
        assert told["gas_grows"] == pytest.approx(1 + depth / 10.33, rel=0.01)
        assert told["barotrauma"] is (depth >= told["barotrauma_from_m"])


def test_a_longer_fish_is_heavier_by_about_its_cube_and_louder():
    small, large = (ask("weight", species="walleye", length_cm=cm) for cm in (30, 60))
    assert 2.8 < math.log2(large["kg"] / small["kg"]) < 3.4
    assert small["low_kg"] < small["kg"] < small["high_kg"]
    quiet, loud = (ask("echo", length_cm=cm)["strength_db"] for cm in (10, 100))
    assert loud - quiet == pytest.approx(20.0, abs=2.0)


def test_a_bite_grows_likelier_with_time_and_an_empty_hour_tells():
    told = [ask("bite", minutes=m, active=0.5) for m in (1, 10, 60)]
    by_now = [t["bite_by_now"] for t in told]
    left = [t["active_without_one"] for t in told]
    assert by_now == sorted(by_now)
    assert left == sorted(left, reverse=True)
    assert left[0] < 0.5


def test_discs_boards_and_floats_go_with_their_size():
    assert disc_of(0.2).area_m2 == pytest.approx(4 * disc_of(0.1).area_m2)
    small, large = board_of(0.2), board_of(0.4)
    assert large.side_area_m2 == pytest.approx(4 * small.side_area_m2)
    assert large.side_area_m2 > large.drag_area_m2
    assert float_carries_kg(1e-5) == pytest.approx(2 * float_carries_kg(5e-6))
    for wrong, size in ((disc_of, 1.0), (board_of, 5.0)):
        with pytest.raises(ValueError, match="outside"):
            wrong(size)


def test_tackle_by_its_numbers_and_by_its_name_is_taken_as_given():
    by_numbers = ask("tackle", lure={"weight_n": 0.2, "drag_area_m2": 4e-4, "fall_area_m2": 5e-4})["lure"]
    assert by_numbers["drag_area_m2"] == 4e-4
    assert by_numbers["falls_mps"] == pytest.approx(math.sqrt(2 * 0.2 / (998.6 * 5e-4)), rel=0.02)
    for wrong in ({"lure": 3}, {"lure": {"form": "brick"}}, {"weight": {"shape": "egg"}}, {"line": {"words": ""}}):
        with pytest.raises(ValueError, match="tackle: "):
            answer_question({"tackle": wrong})
