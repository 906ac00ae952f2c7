"""The water now: clocks, what enters, casts to marks, the hole, cautions, tones; closed forms and the handbook."""

import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plumbbob.core.geodesy import Position, bearing_deg, distance_m, offset
from plumbbob.core.live.care import Around, Care, cares
from plumbbob.core.live.clocks import BaitKind, Pump, bait_lasts_s, next_change, pump_for, way_home_s
from plumbbob.core.live.drift import drift_start, off_line
from plumbbob.core.live.drop import entering
from plumbbob.core.live.fixes import Fix
from plumbbob.core.live.growing import between
from plumbbob.core.live.hole import Answer, closing_fish, still_tracks
from plumbbob.core.live.reach import reach_to
from plumbbob.core.live.tones import RATE_HZ, TONES, samples_of
from plumbbob.core.plan.clock import BOAT, KAYAK, Phase
from plumbbob.core.rig.cast import Approach, Throw
from plumbbob.core.rig.fall import Falling
from plumbbob.core.sonar.beam import footprint_diameter
from plumbbob.core.sonar.reading import EMPTY, Bait, Trail
from plumbbob.sim.adrift import hole_in_the_ice
from plumbbob.sim.down import simulate

FIX = Fix(time=1e9, latitude=44.2, longitude=-40.05, speed_mps=0.0, course_deg=0.0)
JIG = Throw(falling=Falling(weight_n=0.08, drag_area_m2=1e-4, line_diameter_m=0.25e-3, line_ct=0.06))


@given(st.sampled_from(BaitKind), st.floats(0, 30), st.floats(0, 30))
def test_bait_lasts_longer_in_colder_water_and_never_longer_when_torn(kind, a, b):
    cold, warm = min(a, b), max(a, b)
    assert bait_lasts_s(kind, cold)[0] >= bait_lasts_s(kind, warm)[0]
    low, high = bait_lasts_s(kind, a)
    assert 0 < low <= high
    assert bait_lasts_s(kind, a, damaged=True)[1] < high


@given(st.floats(0.1, 2), st.floats(0.1, 5), st.floats(0.1, 20), st.floats(0, 200))
def test_a_pump_is_always_in_one_of_its_parts(lift, fall, rest, seconds):
    pump = Pump(lift, fall, rest)
    part, left = pump.at(seconds)
    assert left <= {"lift": lift, "fall": fall, "rest": rest}[part] + 1e-3
    assert pump.at(seconds + left + 1e-2)[0] != part or left == 0.0


def test_cold_water_lifts_less_and_rests_longer():
    cold, warm = pump_for(3.0, 0.5), pump_for(20.0, 0.5)
    assert cold.fall_s < warm.fall_s
    assert cold.rest_s > warm.rest_s


def test_home_is_farther_against_the_wind():
    here, home = Position(44.21, -40.05), Position(44.20, -40.05)
    calm = way_home_s(BOAT, here, home, 0.0, 0.0)
    assert calm == pytest.approx(1111.0 / BOAT.speed_mps, rel=0.01)
    assert way_home_s(KAYAK, here, home, 5.0, 180.0) > way_home_s(KAYAK, here, home, 5.0, 0.0)
    stretches = ((0.0, 60.0, Phase.NIGHT), (60.0, 90.0, Phase.DIM))
    assert next_change(stretches, 30.0) == (60.0, Phase.DIM)
    assert next_change(stretches, 70.0) is None


def school(**changes):
    parts = {"time_start": 96.0, "time_end": 100.0, "depth_top_m": 5.0, "depth_bottom_m": 7.0}
    return Bait(**{**parts, "latitude": 44.2, "longitude": -40.05, "level_db": 20.0, **changes})


def look(reading, speed=1.0, window=None, lure=2.0):
    return entering(
        reading,
        100.0,
        speed_mps=speed,
        beam_width_deg=20.0,
        transducer_m=0.0,
        window=window,
        lure_s=lambda depth: lure * depth / 6.0,
    )


def test_a_school_stays_for_its_length_and_the_beam():
    gone = [
        school(time_start=10.0 * k, time_end=10.0 * k + 5.0, length_m=w) for k, w in ((1, 8.0), (2, 9.0), (3, 20.0))
    ]
    found = look(replace(EMPTY, bait=(*gone, school())))
    assert found.stays_s == pytest.approx(9.0 + float(footprint_diameter(6.0, 20.0)) - 4.0)
    assert found.lure_s == pytest.approx(2.0)
    assert found.in_time
    assert not replace(found, lure_s=30.0).in_time
    assert look(replace(EMPTY, bait=(school(),)), window=(1.0, 4.0)) is None
    assert look(replace(EMPTY, bait=(school(time_start=60.0),))) is None  # it has been there all along
    assert look(replace(EMPTY, bait=(school(time_end=97.0),))) is None  # it has gone
    assert math.isnan(look(replace(EMPTY, bait=(school(),)), speed=0.0).stays_s)


@given(st.floats(3, 60), st.floats(0, 360), st.floats(0, 360))
def test_a_place_is_told_from_the_bow(away, bearing, heading):
    turn = math.radians(bearing)
    latitude, longitude = offset(FIX.latitude, FIX.longitude, away * math.sin(turn), away * math.cos(turn))
    place = Position(float(latitude), float(longitude))
    found = reach_to(FIX, heading, place, math.nan, 2.0, JIG)
    assert found.distance_m == pytest.approx(away, rel=1e-3)
    assert math.cos(math.radians(found.aside_deg - (bearing - heading))) == pytest.approx(1.0, abs=1e-4)
    assert found.sd_m == pytest.approx(2.5)
    assert (found.move_m > 0) == (found.distance_m > JIG.reach_m)


def test_a_cast_lands_beyond_the_fish_and_drift_changes_it():
    latitude, longitude = offset(FIX.latitude, FIX.longitude, 0.0, 20.0)
    place = Position(float(latitude), float(longitude))
    still = reach_to(FIX, 0.0, place, 4.0, 1.0, JIG)
    assert still.plan.land_m > 20.0
    assert still.plan.pass_depth_m < 4.0
    across = reach_to(replace(FIX, speed_mps=0.15, course_deg=90.0), 0.0, place, 4.0, 1.0, JIG)
    assert across.plan.aim_deg != pytest.approx(still.plan.aim_deg, abs=0.2)
    # drifting onto the fish it can't be drawn in fast enough: the other school has a cast
    onto = reach_to(replace(FIX, speed_mps=0.4), 0.0, place, 4.0, 1.0, JIG)
    assert onto.plan.approach is Approach.SWING_DOWN
    floats = replace(JIG, falling=replace(JIG.falling, weight_n=-0.01))
    assert "counted" in reach_to(FIX, 0.0, place, 4.0, 1.0, floats).why_not
    near = reach_to(FIX, None, FIX.place, 4.0, 1.0, JIG)
    assert near.why_not == "under the boat"
    assert (near.clock_hour, still.clock_hour) == (0, 12)


def trail(depth0, rise, n=100):
    time = np.linspace(90.0, 100.0, n)
    depth = depth0 - rise * (time - 90.0)
    return Trail(kind="", time=tuple(time), depth_m=tuple(depth), sink_mps=-rise, level_db=20.0)


@pytest.mark.parametrize(
    ("fish", "answer"),
    [
        (trail(9.0, 0.1), Answer.HOLD),  # a metre below, coming
        (trail(8.2, 0.1), Answer.RAISE),  # close behind
        (trail(9.0, 0.0), Answer.WAIT),
        (trail(6.0, 0.0), Answer.RAISE),  # the lure is beneath it
    ],
)
def test_a_fish_at_the_hole_is_led(fish, answer):
    found = closing_fish((trail(7.0, 0.0), fish), 100.0, 7.1)
    assert found.lure_m == pytest.approx(7.0)
    assert found.answer is answer
    if answer is Answer.HOLD:
        assert found.meets_s == pytest.approx(10.0, rel=0.05)
    assert closing_fish((), 100.0, 3.0) is None
    assert closing_fish((trail(7.0, 0.0),), 100.0, 7.1) is None
    assert closing_fish((trail(7.0, 0.0), trail(12.0, 0.0)), 100.0, 7.1) is None  # too far to mean the lure


def test_lure_and_fish_below_a_still_boat_are_followed_to_the_centimetre():
    scene = hole_in_the_ice()
    recording, _ = simulate(scene, 3)
    lure, first, second = scene.hung
    start, at, errors, seen = float(recording.down.time[0]), 6.1, [], 0
    moments = [t for t in range(8, 170) if any(f.start_s + 2 <= t <= f.end_s for f in (first, second))]
    for second_s in moments:
        now = between(recording, start - 1.0, start + second_s)
        found = closing_fish(still_tracks(now.down, 8.0), float(now.down.time[-1]), at)
        if found is None:
            continue
        fish = first if second_s <= first.end_s else second
        seen += 1
        at = found.lure_m
        errors.append(abs(found.depth_m - float(fish.depth_m(np.array(second_s - fish.start_s)))))
        assert found.lure_m == pytest.approx(float(lure.depth_m(np.array(second_s - lure.start_s))), abs=0.15)
    assert seen >= 0.95 * len(moments)
    assert np.percentile(errors, 90) < 0.05


def test_cautions_by_the_handbook():
    codes = [r.code for r in cares(Around(craft=KAYAK, water_c=9.0, wind_mps=6.5, sun_deg=-10.0, home_in_s=-5.0))]
    assert codes == [Care.WIND_ASHORE, Care.HOME_NOW, Care.COLD_WATER, Care.DARK]
    assert [r.code for r in cares(Around(craft=BOAT, water_c=20.0, wind_mps=2.0, sun_deg=30.0))] == []
    assert [r.code for r in cares(Around(craft=BOAT, water_c=1.0, ice_m=0.09))] == [Care.THIN_ICE]
    assert [r.code for r in cares(Around(craft=BOAT, water_c=1.0, ice_m=math.nan))] == [Care.ICE]
    storm = Around(craft=BOAT, water_c=1.0, thunder_s=100.0)
    assert [r.code for r in cares(storm)] == [Care.THUNDER, Care.COLD_WATER]
    assert Care.THUNDER not in [r.code for r in cares(replace(storm, thunder_s=1801.0))]
    assert [r.code for r in cares(Around(craft=BOAT, battery_s=100.0, way_home_s=90.0))] == [Care.BATTERY]


@pytest.mark.parametrize("name", TONES)
def test_tones_are_told_apart_and_begin_and_end_softly(name):
    made = samples_of(name)
    assert made.size == pytest.approx(sum(s for _, s in TONES[name]) * RATE_HZ, abs=len(TONES[name]))
    assert abs(int(made[0])) < 500
    assert abs(int(made[-1])) < 500
    assert sum(np.array_equal(made, samples_of(other)) for other in TONES) == 1


@given(st.floats(-80, 80), st.floats(5, 95))
def test_off_a_line_is_told_by_side(off, along):
    line = np.array([[0.0, 0.0], [60.0, 0.0], [100.0, 0.0]])  # to the east: right is south
    found = off_line(line, along, -off)
    assert found[0] == pytest.approx(off, abs=1e-6)
    assert found[1] == pytest.approx(along)
    assert found[1] + found[2] == pytest.approx(100.0)


def test_a_drift_begins_up_drift_by_the_handbook():
    aim = Position(52.4, -24.6)
    start = drift_start(aim, 0.3, 200.0, 60.0, setup_s=30.0)
    assert distance_m(aim, start) == pytest.approx(27.0, abs=0.1)
    assert bearing_deg(start, aim) % 360.0 == pytest.approx(200.0, abs=0.5)
    assert distance_m(aim, drift_start(aim, 0.0, 200.0, 60.0, lane_m=40.0)) == pytest.approx(20.0, abs=0.1)
