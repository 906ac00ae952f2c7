"""A day's plan against trying everything, ways around land against geometry, and what can't be met."""

import itertools
import math

import numpy as np
import pytest
import shapely

from plumbbob.core.geodesy import Position, bearing_deg, distance_m, metres_per_degree
from plumbbob.core.plan.day import CannotPlan, Day, Spot, Stretch
from plumbbob.core.plan.route import plan_day
from plumbbob.core.plan.ways import Boat, find_ways

HOUR = 3600.0
CALM = Boat(2.0, 2.0, 2.0)


def a_day(n, seed, *, hours=5.0, side_m=5000.0, windows=False, musts=0):
    rng = np.random.default_rng(seed)
    xy = rng.uniform(0, side_m, (n + 2, 2))
    seconds = np.hypot(*(xy[:, None] - xy[None]).T)
    spots = []
    for k in range(n):
        times: tuple[Stretch, ...] = ()
        low, high = -math.inf, math.inf
        if windows:
            start = rng.uniform(0, hours * HOUR)
            times = (Stretch(start, start + HOUR, float(rng.uniform(0.2, 3))),)
            low = rng.uniform(0, hours * HOUR / 3)
            high = rng.uniform(hours * HOUR / 2, hours * HOUR)
        fish, rate, least = rng.gamma(2, 2), rng.uniform(0.4, 3), float(rng.choice([0, 900]))
        spots.append(Spot(f"p{k}", fish, rate, least, math.inf, times, k < musts, low, high))
    return Day(tuple(spots), seconds, 0.0, hours * HOUR)


def keeps_to(day, plan):
    """Whether a plan breaks none of its rules."""
    time, at = day.start, day.first
    for visit in plan.visits:
        spot = day.spots[visit.spot]
        assert visit.arrive >= max(time + day.seconds[at, visit.spot], spot.not_before) - 1e-3
        assert visit.leave <= spot.not_after + 1e-3
        assert spot.least_s - 1e-3 <= visit.leave - visit.arrive <= spot.most_s + 1e-3
        assert visit.fish == pytest.approx(spot.gain(visit.arrive, visit.leave))
        time, at = visit.leave, visit.spot
    assert plan.back == pytest.approx(time + day.seconds[at, day.last])
    assert plan.back <= day.end + 1e-3
    assert {k for k, s in enumerate(day.spots) if s.must} <= {v.spot for v in plan.visits}
    assert len({v.spot for v in plan.visits}) == len(plan.visits)


def best_stays(day, order):
    """Fish of an order with the best stays, in closed form; without windows."""
    nodes = [day.first, *order, day.last]
    left = (day.end - day.start - sum(day.seconds[a, b] for a, b in itertools.pairwise(nodes))) / HOUR
    spots = [day.spots[k] for k in order]
    least = np.array([s.least_s / HOUR for s in spots])
    if left < least.sum():
        return -math.inf
    fish, rate = (np.array([getattr(s, name) for s in spots]) for name in ("fish", "per_hour"))

    # equal slopes on all stays that are longer than they must be: by halving the slope (water filling)
    low, high = 1e-12, float((fish * rate).max())
    for _ in range(200):
        slope = math.sqrt(low * high)
        stays = np.maximum(np.log(np.maximum(fish * rate / slope, 1.0)) / rate, least)
        low, high = (slope, high) if stays.sum() > left else (low, slope)
    return float((fish * -np.expm1(-rate * stays)).sum())


@pytest.mark.parametrize("seed", range(4))
def test_few_places_are_planned_as_well_as_by_trying_everything(seed):
    day = a_day(5, seed)
    plan = plan_day(day)
    keeps_to(day, plan)
    tried = max(best_stays(day, order) for many in range(1, 6) for order in itertools.permutations(range(5), many))
    assert plan.fish >= 0.9995 * tried
    assert plan.fish <= 1.0005 * tried


@pytest.mark.parametrize(("n", "seed"), [(4, 1), (9, 2), (14, 3)])
def test_windows_hours_and_musts_are_kept(n, seed):
    day = a_day(n, seed, hours=8.0, windows=True, musts=1)
    plan = plan_day(day)
    keeps_to(day, plan)
    assert plan.fish > 0


def test_a_larger_choice_is_never_worse():
    few, many = a_day(8, 5), a_day(16, 5)
    shared = Day(many.spots[:8], many.seconds[np.ix_([*range(8), 16, 17], [*range(8), 16, 17])], 0.0, many.end)
    assert plan_day(many).fish >= plan_day(shared).fish - 1e-6
    assert len(plan_day(few).visits) >= 1


def test_gain_is_the_integral_of_the_rate():
    spot = Spot("a", 4.0, 1.5, times=(Stretch(1000.0, 3000.0, 2.0), Stretch(2000.0, 5000.0, 0.5)))
    t = np.linspace(500.0, 6000.0, 400_001)
    rate = 4.0 * 1.5 / HOUR * np.exp(-1.5 * (t - 500.0) / HOUR)
    factor = np.where((t >= 1000) & (t < 3000), 2.0, 1.0) * np.where((t >= 2000) & (t < 5000), 0.5, 1.0)
    assert spot.gain(500.0, 6000.0) == pytest.approx(float(np.trapezoid(rate * factor, t)), rel=1e-4)


def test_what_cannot_be_met_is_refused_in_a_line():
    day = a_day(4, 1, musts=2, hours=0.3)
    with pytest.raises(CannotPlan):
        plan_day(Day(day.spots, np.full((6, 6), 2000.0), 0.0, 1000.0))
    with pytest.raises(CannotPlan, match="do not fit"):
        plan_day(Day(day.spots, np.full((6, 6), 600.0), 0.0, 1500.0 + day.spots[0].least_s))
    assert plan_day(Day((), np.zeros((2, 2)), 0.0, HOUR)).visits == ()


def test_a_way_round_an_island_is_the_shortest_and_keeps_off():
    west, east = Position(45.0, 9.98), Position(45.0, 10.02)
    north_m, east_m = (float(v) for v in metres_per_degree(45.0))
    island = shapely.box(9.995, 45.0 - 300.0 / north_m, 10.005, 45.0 + 500.0 / north_m)
    ways = find_ways([west, east], CALM, island)
    half, wide = 0.005 * east_m, 0.02 * east_m
    expected = 2 * math.hypot(wide - half, 300.0) + 2 * half
    assert ways.seconds[0, 1] * 2.0 == pytest.approx(expected, rel=1e-3)
    way = ways.way(0, 1)
    assert (way[0], way[-1]) == (west, east)
    line = shapely.LineString([(p.longitude, p.latitude) for p in way])
    assert line.intersection(island).length == 0.0
    far = find_ways([west, east], CALM, island, 80.0)
    metres = shapely.transform(line, lambda c: c * [east_m, north_m])
    assert metres.distance(shapely.transform(island, lambda c: c * [east_m, north_m])) < 1.0
    off = shapely.LineString([(p.longitude * east_m, p.latitude * north_m) for p in far.way(0, 1)])
    assert off.distance(shapely.transform(island, lambda c: c * [east_m, north_m])) >= 79.9
    assert far.seconds[0, 1] > ways.seconds[0, 1]


def test_water_that_is_not_joined_has_no_way_and_a_place_ashore_hangs_on_the_nearest():
    lake = shapely.box(9.9, 44.9, 10.1, 45.1).difference(shapely.box(9.95, 44.95, 10.05, 45.05))
    inside, outside = Position(45.0, 10.0), Position(45.0, 10.2)
    assert math.isinf(find_ways([inside, outside], CALM, lake).seconds[0, 1])
    north_m, _ = metres_per_degree(45.0)
    ashore, inland = (Position(45.05 + m / float(north_m), 10.0) for m in (30.0, 90.0))
    ways = find_ways([inside, ashore, inland], CALM, lake)
    assert ways.seconds[0, 1] * 2.0 == pytest.approx(distance_m(inside, ashore), rel=1e-3)
    assert math.isinf(ways.seconds[0, 2])
    assert len(ways.way(0, 1)) == 3


@pytest.mark.parametrize("course", [0.0, 60.0, 135.0, 225.0])
def test_wind_slows_the_way_against_it_and_helps_before_it(course):
    boat = Boat(2.0, 1.2, 2.4, wind_from_deg=45.0)
    x = math.cos(math.radians(course - 45.0))
    expected = 2.0 + x * (1.2 - 2.0) if x >= 0 else 2.0 - x * (2.4 - 2.0)
    assert float(boat.speed(course)) == pytest.approx(expected)
    there, back = Position(45.0, 10.0), Position(45.02, 10.03)
    seconds = find_ways([there, back], boat, None).seconds
    speed = float(boat.speed(bearing_deg(there, back)))
    assert seconds[0, 1] == pytest.approx(distance_m(there, back) / speed, rel=2e-3)
    assert seconds[0, 1] > seconds[1, 0]
