"""The day out: its clock, light, rest, what is held, and what a stay leaves behind."""

import itertools
import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from plumbbob.core.geodesy import Position, distance_m
from plumbbob.core.plan.bites import ACTIVE_MARKS, Fishing, Ladder, Lever, first_bite, ladder, still_active
from plumbbob.core.plan.clock import (
    BOAT,
    KAYAK,
    Hour,
    Phase,
    hardest,
    home_by,
    light_factor,
    phases,
    wave_stretches,
    wind_at,
)
from plumbbob.core.plan.day import CannotPlan, Day, Plan, Spot, Visit
from plumbbob.core.plan.draft import Candidate, Usual, fish_range, prior_of, share_of, world_shape
from plumbbob.core.plan.events import DayState, Event
from plumbbob.core.plan.outing import DayAsk, Hold, Why, after_fishing, along, lay_out, solve
from plumbbob.core.plan.rest import AGAIN, LEAST_REST_H, plan_with_rest, recovered
from plumbbob.core.plan.route import plan_day
from plumbbob.core.plan.stay import Prior

H = 3600.0
LAUNCH = Position(44.2, -40.05)


def places(n=6, seed=0):
    rng = np.random.default_rng(seed)
    return [
        Candidate(
            name=f"Hump {i}",
            place=Position(44.2 + rng.uniform(-0.01, 0.01), -40.05 + rng.uniform(-0.008, 0.008)),
            bottom_m=9.0,
            fish_m=float(rng.uniform(2, 8)),
            score=float(rng.uniform(0.3, 0.8)),
        )
        for i in range(n)
    ]


def ask(**changes):
    usual = {"start": 5 * H, "end": 11 * H, "launch": LAUNCH, "hours": (Hour(5 * H, 3.0, 225.0),)}
    return DayAsk(**{**usual, **changes})


def sun(time):
    """A sun that rises at six."""
    return (time / H - 6.0) * 12.0


# -- the clock -------------------------------------------------------------------------------------------------------


def test_the_day_is_cut_into_lights_that_fill_it():
    lights = phases(sun, 4 * H, 12 * H)
    assert [p for _, _, p in lights] == [Phase.NIGHT, Phase.DIM, Phase.DAY, Phase.NOON]
    assert lights[0][0] == 4 * H
    assert lights[-1][1] == 12 * H
    assert all(a[1] == b[0] for a, b in itertools.pairwise(lights))


@given(st.floats(0.2, 40), st.floats(0.5, 15))
def test_the_schools_of_low_light_mirror_each_other(depth, secchi):
    up, down = (light_factor(Phase.DIM, depth, secchi, shallow_when_dim=s) for s in (True, False))
    assert up + down == pytest.approx(2.5)  # 1.6 and 0.9, changing over evenly
    assert 0.6 <= light_factor(Phase.NOON, depth, secchi) <= 1.2
    assert light_factor(Phase.DAY, depth, secchi) == 1.0


def test_wind_holds_from_each_hour_and_sends_home_in_time():
    hours = (Hour(5 * H, 2.0, 200.0), Hour(8 * H, 6.5, 220.0), Hour(10 * H, 9.5, 240.0))
    assert wind_at(hours, 4 * H).wind_mps == 2.0
    assert wind_at(hours, 9.9 * H).wind_mps == 6.5
    assert home_by(hours, BOAT, 5 * H, 12 * H) == 10 * H
    assert home_by(hours, KAYAK, 5 * H, 12 * H) == 8 * H
    assert home_by(hours, BOAT, 5 * H, 9 * H) is None
    assert hardest(hours, 5 * H, 9 * H).wind_mps == 6.5
    with pytest.raises(ValueError, match="no hour"):
        wind_at((), 0.0)


def test_waves_shut_a_place_for_the_hours_that_raise_them():
    hours = (Hour(0.0, 3.0, 0.0), Hour(H, 12.0, 0.0), Hour(2 * H, 3.0, 0.0))
    shut = wave_stretches(hours, (4000.0, 4000.0, 4000.0), BOAT, 5 * H)
    assert [(s.start, s.end, s.factor) for s in shut] == [(H, 2 * H, 0.0)]
    assert not wave_stretches(hours, (50.0, 50.0, 50.0), BOAT, 5 * H)


def test_no_craft_goes_against_the_wind_faster_than_before_it():
    for craft in (BOAT, KAYAK):
        for wind in (0.0, 3.0, 8.0, 20.0):
            assert craft.speed_mps / 3 <= craft.upwind_mps(wind) <= craft.speed_mps <= craft.downwind_mps(wind)


# -- what a place may give -------------------------------------------------------------------------------------------


def test_own_fish_raise_a_place_and_make_it_surer():
    plain = places(1)[0]
    caught = replace(plain, caught=2)
    assert share_of(caught, 0.5) == pytest.approx(2 * share_of(plain, 0.5))
    assert prior_of(caught, 0.5, Usual()).fish > prior_of(plain, 0.5, Usual()).fish
    assert share_of(replace(plain, kind="unseen"), 0.5) == 0.5


def test_the_range_of_fish_is_that_of_its_counts():
    plan = Plan((Visit(0, 0.0, H, 2.0), Visit(1, H, 2 * H, 1.5)), 3 * H, 3.5)
    low, high = fish_range(plan, (1.5, 1.5))
    rng = np.random.default_rng(1)
    drawn = sum(rng.poisson(fish * rng.gamma(1.5, 1 / 1.5, 40_000)) for fish in (2.0, 1.5))
    assert 0.75 <= np.mean((drawn >= low) & (drawn <= high)) <= 0.9
    assert np.mean(drawn < low) < 0.13 > np.mean(drawn > high)
    assert fish_range(plan, (1e12, 1e12))[1] <= high


# -- rest ------------------------------------------------------------------------------------------------------------


@given(st.floats(0, 20), st.floats(0, 1), st.floats(0.1, 24))
def test_a_place_comes_back_and_never_over_fresh(hours, left, rest):
    now = recovered(hours, left, rest)
    assert left - 1e-12 <= now <= 1.0
    assert recovered(hours + 1.0, left, rest) >= now


def test_second_visits_rest_and_bring_more_than_none():
    rng = np.random.default_rng(2)
    xy = rng.uniform(0, 800, (6, 2))
    seconds = np.hypot(*(xy[:, None] - xy[None]).transpose(2, 0, 1)) / 4
    spots = tuple(Spot(f"s{i}", 1.0 + 0.3 * i, 1.2, 600.0, 5400.0) for i in range(4))
    day = Day(spots, seconds, 0.0, 6 * H)
    once = plan_day(day)
    wide, twice = plan_with_rest(day, dict.fromkeys(range(4), 1.0), once)
    assert twice.fish > once.fish * 1.1
    left = {}
    for visit in twice.visits:
        name = wide.spots[visit.spot].name
        if name.endswith(AGAIN):
            before = left[name.removesuffix(AGAIN)]
            assert visit.arrive - before.leave >= LEAST_REST_H * H - 1.0
            # what it brings is what has come back by then
            rate = 1.2 / H
            share = math.exp(-rate * (before.leave - before.arrive))
            fresh = wide.spots[visit.spot].fish
            first = spots[[s.name for s in spots].index(name.removesuffix(AGAIN))]
            assert fresh == pytest.approx(
                first.fish * recovered((visit.arrive - before.leave) / H, share, 1.0), rel=1e-6
            )
        else:
            left[name] = visit
    assert plan_with_rest(day, {}, once)[1] is once


# -- the plan of it all ----------------------------------------------------------------------------------------------


def test_a_day_is_within_its_hours_and_says_why():
    plan = solve(lay_out(ask(), places(), sun, None))
    assert plan.stays
    assert plan.start == 5 * H
    assert plan.back <= 11 * H + 1e-6
    for stay, after in zip(plan.stays, plan.stays[1:], strict=False):
        assert stay.leave <= after.arrive
        assert stay.minutes >= Usual().least_min - 0.1
    assert plan.low <= plan.fish <= plan.high
    assert all(any(why is Why.SCORE for why, _ in s.why) for s in plan.stays)
    assert {why for _, why in plan.left_out} <= {Why.LESS, Why.FAR}


def test_a_hard_wind_ends_the_day_and_may_leave_none():
    windy = ask(hours=(Hour(5 * H, 3.0, 225.0), Hour(8 * H, 15.0, 225.0)))
    plan = solve(lay_out(windy, places(), sun, None))
    assert plan.home_by == 8 * H
    assert plan.back <= 8 * H + 1e-6
    with pytest.raises(CannotPlan, match="wind"):
        lay_out(ask(hours=(Hour(0.0, 15.0, 0.0),)), places(), sun, None)
    with pytest.raises(ValueError, match="ends before"):
        ask(end=4 * H)
    with pytest.raises(ValueError, match="hour of wind"):
        ask(hours=())


def test_what_a_hand_holds_is_in_and_what_it_bans_is_out():
    outing = lay_out(ask(), places(), sun, None)
    free = solve(outing)
    names = [s.candidate.name for s in free.stays]
    held = solve(outing, holds={names[0]: Hold(8 * H, 9 * H)}, banned={names[1]})
    stay = next(s for s in held.stays if s.candidate.name == names[0])
    assert stay.arrive >= 8 * H - 1
    assert stay.leave <= 9 * H + 1
    assert stay.minutes == pytest.approx(60.0, abs=1.1)
    assert any(why is Why.HELD for why, _ in stay.why)
    assert names[1] not in [s.candidate.name for s in held.stays]
    assert (Why.BANNED, names[1]) in [(why, c.name) for c, why in held.left_out]
    quick = solve(outing, holds={names[0]: Hold(8 * H, 9 * H)}, near=names)
    assert quick.fish >= 0.9 * solve(outing, holds={names[0]: Hold(8 * H, 9 * H)}).fish
    with pytest.raises(CannotPlan):
        solve(outing, holds={names[0]: Hold(12 * H, 13 * H)})


@settings(max_examples=20, deadline=None)
@given(st.integers(0, 6), st.floats(0.2, 2.0))
def test_silence_lowers_a_place_and_fish_raise_it(fish, hours):
    left = after_fishing(Prior(1.5, 2.0), fish, hours, 0.6, 7.0)
    assert left.left == pytest.approx(0.4**hours)
    assert (left.rate < 1.0) == (fish < 0.75 * (1 - 0.4**hours) / -math.log(0.4))


def test_from_now_on_what_was_emptied_comes_last():
    outing = lay_out(ask(), places(), sun, None)
    first = solve(outing).stays[0].candidate.name
    gone = after_fishing(Prior(1.5, 2.0), 0, 2.0, 0.6, 5 * H)
    later = solve(outing, fished={first: gone})
    assert all(s.candidate.name != first or s.arrive >= 5 * H + LEAST_REST_H * H for s in later.stays)
    assert later.fish < solve(outing).fish


def test_a_place_on_a_way_lies_on_it():
    way = (Position(44.2, -40.05), Position(44.21, -40.05), Position(44.21, -40.03))
    total = distance_m(way[0], way[1]) + distance_m(way[1], way[2])
    half = along(way, 0.5)
    assert distance_m(way[0], way[1]) + distance_m(way[1], half) == pytest.approx(total / 2, rel=2e-3)
    assert along(way, 2.0) == way[-1]
    assert along(way[:1], 0.3) == way[0]


# -- bites and levers ------------------------------------------------------------------------------------------------


@given(st.floats(0.05, 0.95), st.sampled_from(list(Fishing)))
def test_first_bites_come_sooner_where_fish_are_active(active, fishing):
    times = np.linspace(0.5, 120, 40)
    chance = [first_bite(t, active, fishing) for t in times]
    assert np.all(np.diff(chance) > 0)
    assert chance[5] >= first_bite(times[5], 0.5 * active, fishing)
    # silence never speaks for active fish, and the whole is a chance
    assert still_active(30.0, active, fishing) <= active
    assert first_bite(1e6, active, fishing) == pytest.approx(1.0)


def test_the_ladder_follows_the_school_and_own_notes():
    assert [r.lever for r in ladder()][:2] == [Lever.DEPTH, Lever.PACE]
    assert ladder(school=Ladder.LURE_FIRST)[0].lever is Lever.LURE
    assert ladder(own=(Lever.COLOUR, Lever.COLOUR))[0].lever is Lever.COLOUR
    assert ladder(own=(Lever.COLOUR,))[0].lever is Lever.DEPTH  # one note is none
    assert ladder(followers=2)[0].minutes < ladder()[0].minutes
    assert not ladder(tuple(Lever))
    assert first_bite(20.0, ACTIVE_MARKS) == pytest.approx(0.662, abs=5e-4)


def test_one_short_look_at_unseen_water_is_in_where_there_is_room():
    unseen = replace(places(1)[0], name="Unseen water", kind="unseen", score=0.0)
    outing = lay_out(ask(), [*places(), unseen], sun, None)
    look = next(s for s in solve(outing).stays if s.candidate.kind == "unseen")
    assert look.minutes == pytest.approx(15.0, abs=0.1)
    assert look.why[0][0] is Why.UNSEEN
    assert all(s.candidate.kind != "unseen" for s in solve(outing, banned={"Unseen water"}).stays)
    without = replace(outing, ask=ask(explore=False))
    assert all(s.candidate.kind != "unseen" for s in solve(without).stays)
    far = replace(unseen, place=Position(45.5, -40.05))
    assert solve(lay_out(ask(), [*places(), far], sun, None)).stays


@given(st.lists(st.integers(0, 12), min_size=6, max_size=60))
def test_the_more_clumped_the_counts_the_smaller_the_shape(counts):
    shape = world_shape(counts)
    assert 0.3 <= shape <= 6.0
    pooled = [sum(counts), *[0] * (len(counts) - 1)]  # all fish at one place
    assert world_shape(pooled) <= shape + 1e-9


def test_a_change_after_which_a_fish_came_has_helped():
    state = DayState(
        tried=(("a", Lever.PACE, 100.0), ("a", Lever.SIZE, 2000.0), ("b", Lever.DEPTH, 100.0)),
        events=(
            Event(kind="bite", time=400.0, name="a", depth_m=5.0),
            Event(kind="follower", time=150.0, name="b", depth_m=5.0),
            Event(kind="bite", time=4000.0, name="a", depth_m=5.0),
        ),
    )
    assert state.helped == (Lever.PACE,)
    assert ladder(own=state.helped * 2)[0].lever is Lever.PACE
