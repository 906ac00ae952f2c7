"""What speaks for a place today, lanes that a boat can turn in, holes through the ice, contours, whole charts."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from plumbbob.core.cell_grid import CellGrid
from plumbbob.core.chart.build import build_chart, pass_soundings, with_soundings, with_structure
from plumbbob.core.chart.contours import contours, simplified, smoothed, window_share
from plumbbob.core.chart.feature import Feature
from plumbbob.core.chart.lanes import LaneSettings, curvature, hole_plan, lane_along, lane_through
from plumbbob.core.chart.rank import (
    DEFAULT_WEIGHTS,
    Approaches,
    BaitRelation,
    DayFacts,
    LowLight,
    Part,
    Term,
    WindSide,
    rank,
)
from plumbbob.core.chart.soundings import Fault
from plumbbob.core.sonar.evidence import Evidence
from plumbbob.core.sonar.read import read_down
from plumbbob.core.water.wind import LayerPlane
from tests.lake import EAST, NORTH, PLANE, as_soundings, bowl, grid_of, lines_over


def a_feature(**changes):
    parts = {
        "kind": "hump",
        "x": 100.0,
        "y": 100.0,
        "depth_top_m": 6.0,
        "depth_base_m": 9.0,
        "slope_max_deg": 8.0,
        "area_m2": 2000.0,
        "shape": np.zeros((0, 2)),
        "deep_m": 50.0,
    }
    return Feature(**{**parts, **changes})


def reason(place, term):
    return next((r for r in place.reasons if r.term is term), None)


def test_what_lies_in_the_window_comes_first():
    shallow, deep = a_feature(), a_feature(depth_top_m=14.0, depth_base_m=17.0)
    first, _ = rank([deep, shallow], DayFacts(window=(6.0, 9.0)))
    assert first.feature is shallow
    first, _ = rank([shallow, deep], DayFacts(window=(13.0, 18.0)))
    assert first.feature is deep


def test_the_level_moves_structure_through_the_window():
    facts = DayFacts(window=(4.0, 7.0))
    high = rank([a_feature()], replace(facts, level_m=-2.0))[0]
    low = rank([a_feature()], replace(facts, level_m=3.0))[0]
    assert reason(high, Term.WINDOW).score > reason(low, Term.WINDOW).score


def test_what_nobody_knows_does_not_count():
    (place,) = rank([a_feature(deep_m=float("nan"))], DayFacts())
    assert {r.term for r in place.reasons} == {Term.LIP}
    assert place.score == pytest.approx(8.0 / 15.0)


def test_a_weight_of_nothing_silences_a_reason():
    weights = {**DEFAULT_WEIGHTS, Term.LIP: 0.0}
    (place,) = rank([a_feature()], DayFacts(), weights)
    assert reason(place, Term.LIP) is None
    none = rank([a_feature()], DayFacts(), dict.fromkeys(Term, 0.0))
    assert none[0].score == 0.0


@given(st.floats(0, 30), st.floats(0, 30), st.floats(0.05, 3.0))
def test_scores_stay_between_a_tenth_and_one(top, layer, weight):
    feature = a_feature(depth_top_m=top, depth_base_m=top + 2)
    facts = DayFacts(window=(5.0, 8.0), layer=LayerPlane(middle_m=layer), secchi_m=3.0, sun_deg=20.0)
    (place,) = rank([feature], facts, dict.fromkeys(Term, weight))
    assert 0.1 - 1e-9 <= place.score <= 1.0


def test_the_cold_layer_counts_where_it_cuts_the_slope():
    for depth, meets in ((7.5, True), (8.9, True), (15.0, False)):
        (place,) = rank([a_feature()], DayFacts(layer=LayerPlane(middle_m=depth)))
        assert (reason(place, Term.LAYER).score > 0.9) is meets


def test_windward_and_lee_are_two_schools():
    frame = CellGrid(0.0, 0.0, 10.0, 40, 40)
    fetch = np.tile(np.linspace(0, 1000, 40), (40, 1))
    facts = DayFacts(frame=frame, fetch_m=fetch, wind_mps=6.0)
    west, east = a_feature(x=20.0), a_feature(x=380.0)
    assert rank([west, east], facts)[0].feature is east
    assert rank([west, east], facts, approaches=Approaches(wind_side=WindSide.LEE))[0].feature is west
    assert reason(rank([west], replace(facts, wind_mps=0.5))[0], Term.WIND) is None


def test_in_the_half_light_schools_differ_about_the_shallows():
    shallow = a_feature(depth_top_m=1.0, depth_base_m=1.6)
    facts = DayFacts(secchi_m=4.0, sun_deg=2.0)
    up = rank([shallow], facts, approaches=Approaches(low_light=LowLight.SHALLOW))[0]
    stay = rank([shallow], facts, approaches=Approaches(low_light=LowLight.DEEP))[0]
    assert reason(up, Term.LIGHT).score > reason(stay, Term.LIGHT).score


def test_bait_draws_or_drives_away_by_school():
    near, off = a_feature(x=105.0), a_feature(x=180.0)
    facts = DayFacts(bait=((100.0, 100.0, 40.0),))
    assert rank([near, off], facts, approaches=Approaches(bait=BaitRelation.ON))[0].feature is near
    assert rank([near, off], facts, approaches=Approaches(bait=BaitRelation.AWAY))[0].feature is off
    deep, far = a_feature(x=150.0, deep_m=10.0), a_feature(x=150.0, deep_m=900.0)
    assert rank([far, deep], facts, approaches=Approaches(bait=BaitRelation.INTERCEPT))[0].feature is deep


def test_the_part_of_the_structure_is_a_school_too():
    facts = DayFacts(window=(5.5, 7.0))
    top = rank([a_feature()], facts, approaches=Approaches(part=Part.TOP))[0]
    off = rank([a_feature()], facts, approaches=Approaches(part=Part.OFF))[0]
    assert reason(top, Term.WINDOW).score > reason(off, Term.WINDOW).score


def test_own_catches_speak_for_a_place():
    facts = DayFacts(record=((110.0, 100.0, 6, 3),))
    here, there = rank([a_feature(x=900.0), a_feature()], facts)
    assert here.feature.x == 100.0
    assert reason(here, Term.RECORD).value == 3
    assert reason(there, Term.RECORD).score == 0.0


# -- lanes and holes --------------------------------------------------------------------------------------------


@pytest.fixture(scope="module")
def grid():
    return grid_of(bowl)


def lane(grid, **changes):
    settings = LaneSettings(**{"depth_m": 6.0, "turn_m": 15.0, **changes})
    land = ~grid.known
    return lane_along(grid.frame, grid.depth_m, grid.sd_m, land, (EAST + 680.0, NORTH + 400.0), settings)


def test_a_lane_keeps_its_depth_and_can_be_turned(grid):
    found = lane(grid)
    assert np.nanmax(np.abs(found.depth_m - 6.0)) < 0.6
    assert np.nanmedian(np.abs(found.depth_m - 6.0)) < 0.1
    assert curvature(found.line).max() <= 1 / 15.0 * 1.05
    assert np.isfinite(found.sd_m).all()


def test_a_wide_turn_smooths_what_a_tight_one_follows(grid):
    tight, wide = lane(grid, depth_m=9.5, turn_m=8.0), lane(grid, depth_m=9.5, turn_m=60.0)
    assert curvature(wide.line).max() < 1 / 55.0
    assert np.nanstd(tight.depth_m) <= np.nanstd(wide.depth_m) + 1e-6


def test_a_lane_keeps_off_the_shore_and_hazards_and_says_when_it_is_close(grid):
    assert lane(grid, depth_m=1.5, shore_m=60.0) is None
    close = lane(grid, depth_m=2.0, shore_m=10.0)
    assert close.close_to_shore
    assert not lane(grid, depth_m=9.0).close_to_shore
    settings = LaneSettings(depth_m=6.0, hazard_m=80.0)
    hazard = (EAST + 683.0, NORTH + 400.0)
    land = ~grid.known
    found = lane_along(grid.frame, grid.depth_m, grid.sd_m, land, hazard, settings, [hazard])
    assert np.hypot(found.line[:, 0] - hazard[0], found.line[:, 1] - hazard[1]).min() >= 79.0


def test_a_lane_is_as_long_as_asked_and_none_where_there_is_no_such_depth(grid):
    assert lane(grid, longest_m=300.0).length_m == pytest.approx(300.0, abs=10.0)
    assert lane(grid, depth_m=40.0) is None


@pytest.mark.parametrize(("holes", "depth"), [(7, 6.0), (19, 9.0), (37, 4.0)])
def test_holes_stand_as_far_apart_as_the_cone_sees(grid, holes, depth):
    plan = hole_plan(
        grid.frame, grid.depth_m, (EAST + 400.0, NORTH + 400.0), of_interest_m=depth, beam_width_deg=20.0, holes=holes
    )
    assert len(plan.places) == holes
    assert plan.footprint_m == pytest.approx(2 * depth * np.tan(np.radians(10)))
    gaps = [np.sort(np.hypot(*(plan.places - p).T))[1] for p in plan.places]
    assert np.min(gaps) == pytest.approx(plan.spacing_m, rel=1e-6)
    assert plan.walk_m <= 1.35 * plan.spacing_m * (holes - 1)


def test_no_hole_over_land_or_shallows(grid):
    plan = hole_plan(
        grid.frame,
        grid.depth_m,
        (EAST + 60.0, NORTH + 400.0),
        of_interest_m=8.0,
        beam_width_deg=20.0,
        holes=60,
        shallowest_m=2.0,
    )
    depth = grid.frame.sample(grid.depth_m, plan.places[:, 0], plan.places[:, 1])
    assert (depth >= 2.0).all()


# -- contours and shares ----------------------------------------------------------------------------------------


def test_contours_lie_on_their_depth_and_stop_where_knowledge_does(grid):
    found = contours(grid.frame, grid.depth_m, [3.0, 6.0, 99.0])
    assert [c.depth_m for c in found] == [3.0, 6.0, 99.0]
    assert found[2].lines == ()
    for c in found[:2]:
        for line in c.lines:
            at = grid.frame.sample(grid.depth_m, line[:, 0], line[:, 1])
            assert np.nanmax(np.abs(at - c.depth_m)) < 0.05


def test_simpler_and_rounder_lines_stay_close():
    turn = np.linspace(0, 2 * np.pi, 200)
    circle = 100.0 * np.stack([np.cos(turn), np.sin(turn)], axis=1)
    few = simplified(circle, 1.0)
    assert len(few) < 60
    assert np.abs(np.hypot(few[:, 0], few[:, 1]) - 100.0).max() < 1.0
    again = smoothed(few, 2)
    assert len(again) > len(few)
    assert np.abs(np.hypot(again[:, 0], again[:, 1]) - 100.0).max() < 2.0
    assert np.allclose(again[0], again[-1])


@example(0.095, 0.0, 0.5)  # cells that lie on the border exactly
@given(st.floats(-4.0, 4.0), st.floats(0.0, 8.0), st.floats(0.5, 8.0))
def test_shares_of_neighbouring_windows_add_up(level, top, span):
    grid = grid_of(bowl, cell_m=20.0)
    whole = window_share(grid.depth_m, 20.0, level, (top, top + 2 * span)).share
    parts = [
        window_share(grid.depth_m, 20.0, level, w).share for w in ((top, top + span), (top + span, top + 2 * span))
    ]
    assert whole == pytest.approx(sum(parts), abs=2e-3)
    assert window_share(grid.depth_m, 20.0, level, (0.0, 99.0)).share == pytest.approx(1.0)
    assert window_share(np.full((3, 3), np.nan, np.float32), 1.0, 0.0, (0, 1)).share == 0.0


# -- whole charts -----------------------------------------------------------------------------------------------


def test_a_chart_out_of_nothing_but_soundings():
    x, y, d = lines_over(bowl)
    d = d.copy()
    d[300] = 0.0
    heard = []
    chart = build_chart([as_soundings(x, y, d, level_m=-0.8)], progress=heard.append)
    assert chart.plane == PLANE
    assert chart.left_out[Fault.NO_DEPTH] >= 1
    assert any(f.kind == "hump" for f in chart.features)
    assert chart.deepest_m == pytest.approx(float(bowl(520.0, 330.0)), abs=1.0)
    assert heard[-1] == pytest.approx(1.0)
    with pytest.raises(ValueError, match="no soundings"):
        build_chart([])


def test_a_shoreline_cuts_the_water_and_holds_it_at_nothing():
    turn = np.linspace(0, 2 * np.pi, 60)
    lat, lon = PLANE.to_latlon(EAST + 400 + 385 * np.cos(turn), NORTH + 400 + 385 * np.sin(turn))
    isle = PLANE.to_latlon(EAST + 400 + 40 * np.cos(turn), NORTH + 200 + 40 * np.sin(turn))
    rings = [np.stack([lat, lon], axis=1), np.stack(isle, axis=1)]
    hazard = PLANE.to_latlon(EAST + 500.0, NORTH + 500.0)
    chart = build_chart(
        [as_soundings(*lines_over(bowl))],
        shore=rings,
        hazards=[(float(hazard[0]), float(hazard[1]))],
        structure=False,
    )
    x, y = np.meshgrid(chart.grid.frame.x - EAST, chart.grid.frame.y - NORTH)
    assert not (chart.grid.known & (np.hypot(x - 400, y - 400) > 386)).any()
    assert not (chart.grid.known & (np.hypot(x - 400, y - 200) < 38)).any()
    assert chart.land[np.hypot(x - 400, y - 200) < 30].all()
    assert chart.hazards[0] == pytest.approx((EAST + 500.0, NORTH + 500.0), abs=0.01)
    assert not chart.features
    assert with_structure(chart).features


def test_a_chart_takes_more_soundings_without_starting_over():
    chart = build_chart([as_soundings(*lines_over(bowl))])
    nx, ny = EAST + np.linspace(250, 550, 300), NORTH + np.linspace(300, 500, 300)
    more = with_soundings(chart, as_soundings(nx, ny, bowl(nx - EAST, ny - NORTH)))
    assert more.used == chart.used + 300
    assert more.plane == chart.plane


def test_the_bottom_of_a_pass_becomes_soundings(passed):
    recording, truth = passed
    reading = read_down(recording)
    part = pass_soundings(recording, reading, level_m=-1.3)
    assert 60 < len(part) < 200
    assert (part.water_level_m == -1.3).all()
    real = np.interp(part.time, truth["bottom"]["time"], truth["bottom"]["depth_below"])
    assert np.median(np.abs(part.depth_m - real)) < 0.15
    step = np.diff(part.latitude) * 111_000
    assert np.median(np.abs(step)) < 1.2


def test_fish_seen_per_water_lift_the_places_at_their_depth():
    volume, fish = np.full((1, 40), 500.0), np.zeros((1, 40))
    fish[0, 12:18] = 5.0  # six to nine metres
    seen = Evidence(volume_m3=volume, fish=fish, bait_m3=0 * fish, passes=("a",))
    right = a_feature(depth_top_m=6.0, depth_base_m=9.0)
    wrong = a_feature(depth_top_m=14.0, depth_base_m=17.0)
    first = rank([wrong, right], DayFacts(evidence=seen))[0]
    assert first.feature is right
    why = next(r for r in first.reasons if r.term is Term.SEEN)
    assert why.value > 3.0
    assert not [r for r in rank([right], DayFacts())[0].reasons if r.term is Term.SEEN]


def test_stones_speak_for_a_place_and_soft_bottom_does_not():
    here, there = a_feature(x=100.0, y=100.0), a_feature(x=400.0, y=100.0)
    stones = tuple((100.0 + 5 * k, 100.0, "stony", 0.9, 25.0) for k in range(5))
    mud = tuple((400.0 + 5 * k, 100.0, "soft", 0.9, 25.0) for k in range(5))
    places = rank([there, here], DayFacts(ground=stones + mud))
    assert places[0].feature is here
    by = {p.feature.x: {r.term: r for r in p.reasons} for p in places}
    assert by[100.0][Term.GROUND].score > 0.3 > by[400.0][Term.GROUND].score
    assert Term.GROUND not in {r.term for p in rank([here], DayFacts()) for r in p.reasons}


def trough(bearing_deg, wide_m=120.0):
    """A deep trough on a bearing through the middle of shallow water, and that middle."""
    frame = CellGrid(0.0, 0.0, 5.0, 240, 240)
    x, y = np.meshgrid(frame.x - 600.0, frame.y - 600.0)
    turn = np.radians(bearing_deg)
    off = np.abs(x * np.cos(turn) - y * np.sin(turn))
    return frame, np.where(off < wide_m / 2, 20.0, 6.0).astype(np.float32), (600.0, 600.0)


def through(frame, depth, at, hazards=(), **more):
    settings = LaneSettings(depth_m=12.0, longest_m=800.0)
    flat, land = np.full(depth.shape, 0.1, np.float32), np.zeros(depth.shape, bool)
    return lane_through(frame, depth, flat, land, at, settings, hazards, **more)


@pytest.mark.parametrize("bearing", [0.0, 37.5, 90.0, 150.0])
@pytest.mark.parametrize("with_it", [True, False])
def test_a_lane_through_open_water_runs_along_the_deep_in_the_winds_sense(bearing, with_it):
    frame, depth, at = trough(bearing)
    to = bearing if with_it else bearing + 180.0
    lane = through(frame, depth, at, wind_to_deg=to)
    assert lane.length_m == pytest.approx(800.0, abs=10.0)
    assert np.all(lane.depth_m >= 12.0)
    gone = lane.line[-1] - lane.line[0]
    made_good = np.degrees(np.arctan2(gone[0], gone[1]))
    assert abs((made_good - to + 180.0) % 360.0 - 180.0) < 8.0
    assert np.hypot(*(lane.line - at).T).min() <= 3.0


def test_a_lane_through_open_water_keeps_clear_and_is_none_where_there_is_no_room():
    frame, depth, at = trough(90.0)
    clear = through(frame, depth, at, hazards=[(850.0, 600.0)])
    assert np.hypot(clear.line[:, 0] - 850.0, clear.line[:, 1] - 600.0).min() >= 29.0
    hole = np.full(depth.shape, 6.0, np.float32)
    hole[115:125, 115:125] = 20.0
    assert through(frame, hole, at) is None
