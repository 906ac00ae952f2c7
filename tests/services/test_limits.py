"""The log's catches held against a person's own table."""

from datetime import UTC, datetime, timedelta, timezone

import pytest

from plumbbob.core.tally.limits import Verdict, forbids
from plumbbob.services.limits import day_of, judge_fish, kept_on, limits_for, rule_of, tallies
from plumbbob.store.values import Catch, Limit

ZONE = timezone(timedelta(hours=-3))
NOON = datetime(2026, 8, 15, 12, tzinfo=ZONE).timestamp()


def kept(hours=0.0, species="kokanee", **more):
    return Catch(time=NOON + 3600.0 * hours, species=species, kept=True, **more)


def codes(*args, **more):
    usual = {"water": "Veyra Lake", "species": "kokanee", "time": NOON, "zone": ZONE}
    return [r.code for r in judge_fish(*args, **{**usual, **more})]


def test_without_a_row_nothing_is_said():
    assert codes([], []) == []
    assert codes([Limit(species="sauger", bag=1)], [kept()]) == []


def test_the_bag_counts_one_anglers_fish_of_the_waters_own_day():
    table = [Limit(species="kokanee", bag=2)]
    catches = [
        kept(-2),
        kept(-13),
        kept(1, angler="Ann"),
        kept(2, species="sauger"),
        Catch(time=NOON, species="kokanee"),
    ]
    assert kept_on(catches, "kokanee", NOON, ZONE) == (1, 2)  # that of 23:00 the day before is another day's
    assert codes(table, catches) == [Verdict.LAST_ONE]
    assert codes(table, [*catches, kept(0.5)]) == [Verdict.BAG_FULL]
    assert codes(table, [*catches, kept(0.5)], angler="Ann") == [Verdict.LAST_ONE]


def test_a_waters_own_row_stands_before_that_of_every_water():
    table = [Limit(species="kokanee", least_m=0.30), Limit(species="Kokanee", water="Veyra Lake", least_m=0.38)]
    assert [m.least_m for m in limits_for(table, "Veyra Lake", "kokanee")] == [0.38]
    assert [m.least_m for m in limits_for(table, "Tern Pond", "kokanee")] == [0.30]
    assert Verdict.SHORT in codes(table, [], length_m=0.35)
    assert Verdict.SHORT not in codes(table, [], length_m=0.35, water="Tern Pond")


def test_an_own_limit_stands_beside_the_authoritys():
    table = [Limit(species="kokanee", bag=5), Limit(species="kokanee", bag=1, own=True)]
    said = judge_fish(table, [kept(-1)], water="x", species="kokanee", time=NOON, zone=ZONE)
    assert forbids(said)
    assert [r.code for r in said] == [Verdict.BAG_FULL, Verdict.ROOM]


@pytest.mark.parametrize(("text", "day"), [("05-01", (5, 1)), (" 2-29 ", (2, 29)), ("", None)])
def test_days_are_month_and_day(text, day):
    assert day_of(text) == day


@pytest.mark.parametrize("text", ["13-01", "02-30", "5", "1 May", "05-01-2026"])
def test_what_is_no_day_is_refused(text):
    with pytest.raises(ValueError, match=r".+"):
        day_of(text)


def test_a_row_with_a_day_that_is_none_says_nothing_of_a_season():
    assert rule_of(Limit(species="x", opens="99-99", closes="05-01", bag=2)).opens is None


def test_the_table_of_a_day_tells_what_is_used_up_and_what_is_closed():
    table = [
        Limit(species="kokanee", water="Veyra Lake", bag=4),
        Limit(species="sauger", opens="09-01", closes="05-15"),
        Limit(species="perch", water="Tern Pond", bag=9),
        Limit(species="burbot", opens="01-01", closes="08-20"),
    ]
    rows = {t.limit.species: t for t in tallies(table, [kept(-1), kept(-2)], "Veyra Lake", NOON, ZONE)}
    assert set(rows) == {"kokanee", "sauger", "burbot"}
    assert rows["kokanee"].kept == 2
    assert not rows["sauger"].is_open
    assert rows["burbot"].closes_in == 5
    assert kept_on([Catch(time=float("nan"), species="kokanee", kept=True)], "kokanee", NOON, UTC) == (0, 0)
