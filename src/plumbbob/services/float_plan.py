"""The float plan: who goes where and is back by when, to be left ashore; plain text."""

from __future__ import annotations

from datetime import UTC, datetime

from plumbbob.core.geodesy import write_position
from plumbbob.core.units import Kind, quantity
from plumbbob.formats.day_card import DayCard
from plumbbob.formats.waters import clock_of

_BLANK = "____________________"
_LATE_S = 3600.0  # so long after the time of return somebody ashore begins to ask


def float_plan_text(card: DayCard) -> str:
    """
    The plan as text, a page of it; what is not known is left as a line to fill in.

    Times are those of the water's own clock, places in degrees and minutes.
    """

    def clock(time: float) -> str:
        return datetime.fromtimestamp(time, UTC).astimezone(clock_of(card.time_zone)).strftime("%H:%M")

    def told(key: str) -> str:
        return card.float_plan.get(key) or _BLANK

    day = datetime.fromtimestamp(card.start, UTC).astimezone(clock_of(card.time_zone))
    lines = [
        f"FLOAT PLAN   {card.water}".rstrip(),
        f"{day:%A} {day.day} {day:%B %Y}, times are UTC{day:%z}",
        "",
        f"Who, how many:   {told('who')}",
        f"Phone on board:  {told('phone')}",
        f"Craft, colour:   {told('craft')}",
        "",
        f"Out at {clock(card.start)}, back by {clock(card.back)}.",
        f"If nothing was heard by {card.float_plan.get('call_at') or clock(card.back + _LATE_S)}: "
        f"call {told('call')},",
        f"then the rescue: {told('emergency')}",
        "",
        "WHERE",
    ]
    if card.stays:
        lines.append(f"  launch            {write_position(card.stays[0].way[0])}")
    for number, stay in enumerate(card.stays, 1):
        deep = f", {quantity(stay.bottom_m, Kind.DEPTH, card.units)} deep" if stay.bottom_m == stay.bottom_m else ""
        when = f"{clock(stay.arrive)}-{clock(stay.leave)}"
        lines.append(f"  {number:>2}  {when}   {write_position(stay.place)}   {stay.name}{deep}")
    lines += [
        "",
        "The plan may change on the water; the way back and its time do not.",
        "Not for navigation. Local forecasts, rules and rescue services come first.",
        "",
    ]
    return "\n".join(lines)
