"""A fish held against a person's own table of limits. Nothing here is fact: the local authority decides."""

from __future__ import annotations

import math
from dataclasses import dataclass
from enum import Enum

from plumbbob.core.reason import Measure, Reason, because
from plumbbob.core.tally.find import MONTHS
from plumbbob.core.units import Kind

_SOON_DAYS = 14
_UNSURE_M = 0.005  # a fish can hardly be measured better on the water
_DAYS_BEFORE = (0, 31, 60, 91, 121, 152, 182, 213, 244, 274, 305, 335)  # of a year with its 29 February
_YEAR_DAYS = 366


class Verdict(Enum):
    """What a table of limits says of keeping a fish, the most pressing first."""

    CLOSED = "closed"
    SHORT = "short"
    LONG = "long"
    IN_SLOT = "in slot"
    BAG_FULL = "bag full"
    POSSESSION_FULL = "possession full"
    AT_LIMIT = "at limit"
    LAST_ONE = "last one"
    CLOSES_SOON = "closes soon"
    ROOM = "room"


FORBIDS = frozenset(
    {Verdict.CLOSED, Verdict.SHORT, Verdict.LONG, Verdict.IN_SLOT, Verdict.BAG_FULL, Verdict.POSSESSION_FULL}
)
_ORDER: dict[Enum, int] = {v: k for k, v in enumerate(Verdict)}


@dataclass(frozen=True, slots=True, kw_only=True)
class Rule:
    """One row of the table; None where it says nothing. Days as (month, day)."""

    opens: tuple[int, int] | None = None
    closes: tuple[int, int] | None = None
    least_m: float | None = None
    most_m: float | None = None
    slot_low_m: float | None = None  # within this slot none may be kept
    slot_high_m: float | None = None
    bag: float | None = None
    possession: float | None = None
    own: bool = False


def day_number(day: tuple[int, int]) -> int:
    """Day of a leap year, from 0."""
    return _DAYS_BEFORE[day[0] - 1] + day[1] - 1


def day_words(day: tuple[int, int]) -> str:
    """
    A day that nobody reads the other way round.

    Examples
    --------
    >>> day_words((9, 1))
    '1 Sep'
    """
    return f"{day[1]} {MONTHS[day[0] - 1][:3].title()}"


def is_open(rule: Rule, day: tuple[int, int]) -> bool:
    """
    A season may run over the turn of the year.

    Examples
    --------
    >>> is_open(Rule(opens=(9, 1), closes=(5, 15)), (1, 3)), is_open(Rule(opens=(9, 1), closes=(5, 15)), (7, 1))
    (True, False)
    """
    if rule.opens is None or rule.closes is None:
        return True
    first, last, now = day_number(rule.opens), day_number(rule.closes), day_number(day)
    return first <= now <= last if first <= last else now >= first or now <= last


def closes_in(rule: Rule, day: tuple[int, int]) -> int | None:
    """Days until the season's last; None where there is no season, or it is closed."""
    if rule.opens is None or rule.closes is None or not is_open(rule, day):
        return None
    return (day_number(rule.closes) - day_number(day)) % _YEAR_DAYS


def judge(
    rule: Rule,
    day: tuple[int, int],
    *,
    length_m: float | None = None,
    kept_today: int = 0,
    kept_all: int = 0,
) -> tuple[Reason, ...]:
    """
    What a rule says of keeping one more fish, the most pressing first.

    Parameters
    ----------
    rule : Rule
    day : (int, int)
        Month and day where the fish was caught.
    length_m : float, optional
        As measured; good to half a centimetre.
    kept_today, kept_all : int
        Kept before this fish by the same angler, today and in all that is still held.

    Examples
    --------
    >>> [r.code.name for r in judge(Rule(least_m=0.38, bag=4), (8, 15), length_m=0.37, kept_today=3)]
    ['SHORT', 'LAST_ONE']
    """
    found: list[Reason] = []
    if not is_open(rule, day):
        assert rule.opens is not None
        found.append(because(Verdict.CLOSED, opens=day_words(rule.opens)))
    if length_m is not None and math.isfinite(length_m):
        found += _sizes(rule, length_m)
    if rule.bag is not None:
        if kept_today >= rule.bag:
            found.append(because(Verdict.BAG_FULL, kept=kept_today, bag=rule.bag, own=int(rule.own)))
        elif kept_today + 1 >= rule.bag:
            found.append(because(Verdict.LAST_ONE, kept=kept_today, bag=rule.bag))
        else:
            found.append(because(Verdict.ROOM, kept=kept_today, bag=rule.bag))
    if rule.possession is not None and kept_all >= rule.possession:
        found.append(because(Verdict.POSSESSION_FULL, kept=kept_all, bag=rule.possession))
    left = closes_in(rule, day)
    if left is not None and left <= _SOON_DAYS:
        found.append(because(Verdict.CLOSES_SOON, days=left))
    return tuple(sorted(found, key=lambda r: _ORDER[r.code]))


def _sizes(rule: Rule, length_m: float) -> list[Reason]:
    found = []
    close = False
    if rule.least_m is not None:
        # to the float's own grain: 0.38 measured is 0.38 asked
        if length_m < rule.least_m - 1e-9:
            found.append(because(Verdict.SHORT, by=Measure(rule.least_m - length_m, Kind.FISH),
                                 least=Measure(rule.least_m, Kind.FISH)))  # fmt: skip
        close = abs(length_m - rule.least_m) <= _UNSURE_M
    if rule.most_m is not None:
        if length_m > rule.most_m + 1e-9:
            found.append(because(Verdict.LONG, by=Measure(length_m - rule.most_m, Kind.FISH),
                                 most=Measure(rule.most_m, Kind.FISH)))  # fmt: skip
        close = close or abs(length_m - rule.most_m) <= _UNSURE_M
    low, high = rule.slot_low_m, rule.slot_high_m
    if low is not None and high is not None and low <= length_m <= high:
        found.append(because(Verdict.IN_SLOT, low=Measure(low, Kind.FISH), high=Measure(high, Kind.FISH)))
    if close and not found:
        found.append(because(Verdict.AT_LIMIT))
    return found


def forbids(verdicts: tuple[Reason, ...]) -> bool:
    """Some verdict speaks against keeping the fish."""
    return any(r.code in FORBIDS for r in verdicts)
