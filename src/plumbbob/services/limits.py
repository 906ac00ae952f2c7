"""The log's catches held against a person's own table of limits. The local authority decides."""

from __future__ import annotations

import math
import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, tzinfo

from plumbbob.core.reason import Reason
from plumbbob.core.tally.limits import Rule, closes_in, day_words, forbids, is_open, judge
from plumbbob.store.values import Catch, Limit

_DAY = re.compile(r"(\d{1,2})-(\d{1,2})")


@dataclass(frozen=True, slots=True)
class Tally:
    """One row of the table with how much of it is used up on a day."""

    limit: Limit
    kept: int
    is_open: bool
    closes_in: int | None


def day_of(text: str) -> tuple[int, int] | None:
    """
    Month and day of 05-01; None where nothing is said.

    Raises
    ------
    ValueError
    """
    text = text.strip()
    if not text:
        return None
    found = _DAY.fullmatch(text)
    if not found:
        raise ValueError(f'"{text[:20]}" is no day: write month and day, 05-01')
    month, day = int(found[1]), int(found[2])
    datetime(2024, month, day, tzinfo=UTC)  # a leap year: 02-29 is a day
    return month, day


def opens_words(limit: Limit) -> str:
    """The first day of its season."""
    opens = rule_of(limit).opens
    return day_words(opens) if opens is not None else ""


def rule_of(limit: Limit) -> Rule:
    """The rule of a row; days that are none say nothing."""
    try:
        opens, closes = day_of(limit.opens), day_of(limit.closes)
    except ValueError:
        opens = closes = None
    return Rule(
        opens=opens, closes=closes, least_m=limit.least_m, most_m=limit.most_m, slot_low_m=limit.slot_low_m,
        slot_high_m=limit.slot_high_m, bag=limit.bag, possession=limit.possession, own=limit.own,
    )  # fmt: skip


def limits_for(limits: Iterable[Limit], water: str, species: str) -> list[Limit]:
    """Rows that speak of a fish: those of the water before those of every water, the authority's before own ones."""
    name = species.casefold().strip()
    found = [m for m in limits if m.species.casefold().strip() == name and m.water in ("", water)]
    special = {m.own for m in found if m.water}
    found = [m for m in found if m.water or m.own not in special]
    return sorted(found, key=lambda m: m.own)


def kept_on(
    catches: Sequence[Catch], species: str, time: float, zone: tzinfo, *, angler: str = "", but: int | None = None
) -> tuple[int, int]:
    """How many of a species one angler has kept on the day of a time before this fish, and in all of the year."""
    day = datetime.fromtimestamp(time, UTC).astimezone(zone)
    today = year = 0
    for catch in catches:
        if not catch.kept or catch.species != species or catch.angler != angler or catch.id == but:
            continue
        if not math.isfinite(catch.time):
            continue
        when = datetime.fromtimestamp(catch.time, UTC).astimezone(zone)
        today += when.date() == day.date()
        year += when.year == day.year
    return today, year


def judge_fish(
    limits: Iterable[Limit],
    catches: Sequence[Catch],
    *,
    water: str,
    species: str,
    time: float,
    zone: tzinfo,
    length_m: float | None = None,
    angler: str = "",
) -> tuple[Reason, ...]:
    """What the table says of keeping a fish, the most pressing first; nothing where no row speaks of it."""
    rules = limits_for(limits, water, species)
    if not rules:
        return ()
    day = datetime.fromtimestamp(time, UTC).astimezone(zone)
    today, year = kept_on(catches, species, time, zone, angler=angler)
    said: list[Reason] = []
    for limit in rules:
        said += judge(rule_of(limit), (day.month, day.day), length_m=length_m, kept_today=today, kept_all=year)
    return tuple(sorted(said, key=lambda r: not forbids((r,))))


def tallies(
    limits: Iterable[Limit], catches: Sequence[Catch], water: str, time: float, zone: tzinfo, angler: str = ""
) -> list[Tally]:
    """The whole table of a water on a day."""
    day = datetime.fromtimestamp(time, UTC).astimezone(zone)
    made = []
    for limit in limits:
        if limit.water not in ("", water):
            continue
        rule, when = rule_of(limit), (day.month, day.day)
        kept, _ = kept_on(catches, limit.species, time, zone, angler=angler)
        made.append(Tally(limit, kept, is_open(rule, when), closes_in(rule, when)))
    return sorted(made, key=lambda t: (t.limit.species, t.limit.own))
