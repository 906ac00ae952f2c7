"""What the view to the sides says, in short plain sentences with its numbers."""

from __future__ import annotations

import math

from plumbbob.core.geodesy import Position, write_position
from plumbbob.core.sonar.reading import SideFish, SideReading, SideThing
from plumbbob.core.units import Kind
from plumbbob.desk.models.display import Display
from plumbbob.desk.models.session import Session
from plumbbob.desk.models.side_model import GAUGE_STEPS
from plumbbob.desk.views.sonar.down.words import Said
from plumbbob.wording.sonar import side_reason

_THING_WORDS = {"timber": "timber", "brush": "brush or stone", "edge": "edge of a drop", "unknown": "something"}
_TELLS, _MOST_REASONS = 0.4, 3  # logarithm of the odds from which a reason is worth saying
_LOW_M = 1.0  # fish lower than this lie near the bottom


def thing_word(thing: SideThing) -> str:
    """What stands there."""
    return _THING_WORDS[thing.kind]


def with_spread(display: Display, value: float, sd: float, kind: Kind) -> str:
    """A number with its unit and its spread."""
    return f"{display.words(value, kind)} {display.spread(sd, kind)}"


def echo_lines(session: Session, echo: SideFish | SideThing) -> list[str]:
    """What is known of an echo, line by line, each number with its spread."""
    display = session.display
    if isinstance(echo, SideThing):
        drop = "drop of " if echo.kind == "edge" else ""
        least = "at least " if echo.at_least else ""
        if not math.isfinite(echo.height_m):
            where = with_spread(display, echo.ground_m, echo.ground_sd_m, Kind.DISTANCE)
            return [f"{thing_word(echo)}, named by hand", f"{where} to {echo.side}"]
        lines = [
            f"{thing_word(echo)}, {drop}{least}{display.words(echo.height_m, Kind.DEPTH)}"
            + ("" if echo.kind == "edge" else " high")
            + f" {display.spread(echo.height_sd_m, Kind.DEPTH)}",
            f"{with_spread(display, echo.ground_m, echo.ground_sd_m, Kind.DISTANCE)} to {echo.side}",
        ]
        if math.isfinite(echo.length_m):
            lines.append(f"{display.words(echo.length_m, Kind.DISTANCE, 0)} along the pass")
        return lines
    if math.isfinite(echo.height_m):
        lines = [
            f"{display.words(echo.height_m, Kind.DEPTH)} off bottom {display.spread(echo.height_sd_m, Kind.DEPTH)}",
            f"{display.words(echo.depth_m, Kind.DEPTH)} down, by its shadow",
        ]
    elif echo.in_water:
        lines = [
            f"hangs at least {display.words(echo.least_height_m, Kind.DEPTH)} off bottom",
            "nearer than the bottom itself; no shadow found",
        ]
    else:
        lines = [
            "no shadow found: its height can't be told",
            "on the bottom it would be nearest, hanging farther out",
        ]
    lines.append(f"{with_spread(display, echo.ground_m, echo.ground_sd_m, Kind.DISTANCE)} to {echo.side}")
    if echo.beside:
        lines.append(f"lies off {_THING_WORDS[echo.beside]}: cast to the fish, not into it")
    lines.append(place_line(display, echo.latitude, echo.longitude, echo.position_sd_m))
    lines += judgement_lines(echo)
    return [line for line in lines if line]


def judgement_lines(fish: SideFish) -> list[str]:
    """How likely it is a fish, what speaks for that and what for a stone; nothing where a person has said so."""
    if fish.hand or not fish.why:
        return []
    for_it = [side_reason(r, speaks_for=True) for r, odds in fish.why if odds > _TELLS][:_MOST_REASONS]
    against = [side_reason(r, speaks_for=False) for r, odds in fish.why if odds < -_TELLS][:_MOST_REASONS]
    lines = [f"a fish: {fish.chance:.0%}"]
    if for_it:
        lines.append(f"for it: {'; '.join(for_it)}")
    if against:
        lines.append(f"for a stone: {'; '.join(against)}")
    return lines


def place_line(display: Display, latitude: float, longitude: float, sd_m: float) -> str:
    """A place with its spread; empty where it is not known."""
    if not math.isfinite(latitude):
        return ""
    unit = display.unit(Kind.DISTANCE)
    return f"{write_position(Position(latitude, longitude))}  {display.spread(sd_m, Kind.DISTANCE)} {unit}"


def gauge_lines(session: Session) -> list[str]:
    """What to click next, or what was measured."""
    side, display = session.side, session.display
    if side.clicks is None:
        return []
    found = side.gauged
    if found is None:
        return [f"Click {GAUGE_STEPS[len(side.clicks)]}."] if len(side.clicks) < len(GAUGE_STEPS) else []
    lines = [f"top {with_spread(display, found.top_m, found.top_sd_m, Kind.DEPTH)} off bottom"]
    if found.on_bottom:
        lines.append("its shadow starts at its echo: it stands on the bottom or lies close to it")
    else:
        lines.append(
            f"underside {with_spread(display, found.underside_m, found.underside_sd_m, Kind.DEPTH)} off bottom"
        )
        lines.append(f"{with_spread(display, found.size_m, found.size_sd_m, Kind.DEPTH)} from underside to top")
    lines.append(f"{with_spread(display, found.ground_m, found.ground_sd_m, Kind.DISTANCE)} to {side.clicks[0].side}")
    rise = side.rise_on(side.clicks[0].time, side.clicks[0].side)
    told = "" if side.slope_given is not None else ", by the first returns of both sides"
    lines.append(f"bottom {_slope_words(rise)}{told}" if rise else "bottom taken as level")
    place = side.place(side.clicks[0].time, side.clicks[0].side, found.ground_m)
    if place is not None:
        sd = side.place_sd(side.clicks[0].time, found.ground_m, found.ground_sd_m)
        lines.append(place_line(display, place.latitude, place.longitude, sd))
    return lines


def _slope_words(slope_deg: float) -> str:
    return f"{'rises' if slope_deg >= 0 else 'falls'} {abs(slope_deg):.0f}° away from the boat"


def reasons(session: Session) -> list[Said]:
    """What the fans showed; each line leads to what it speaks of."""
    display, reading = session.display, session.side.reading
    lines: list[Said] = []
    if not reading.fish:
        lines.append(Said("No fish stood out to the sides. One that lies on hard rough ground can't be seen."))
    low = [f for f in reading.fish if math.isfinite(f.height_m) and f.height_m <= _LOW_M]
    high = [f for f in reading.fish if math.isfinite(f.height_m) and f.height_m > _LOW_M]
    if low:
        within = display.words(_LOW_M, Kind.DEPTH, 0)
        text = f"{len(low)} lie within {within} of the bottom: bright dot, shadow close by."
        lines.append(Said(text, low[0].time))
    if high:
        top = max(high, key=lambda f: f.height_m)
        most = display.words(top.height_m, Kind.DEPTH)
        lines.append(Said(f"{len(high)} hang up to {most} over it: the further the shadow, the higher.", top.time))
    unknown = len(reading.fish) - len(low) - len(high)
    if unknown:
        lines.append(Said(f"{unknown} without a shadow in reach: their height is not guessed."))
    for line in reading.strung:
        first = reading.fish[line.fish[0]]
        away = display.words(sum(reading.fish[k].ground_m for k in line.fish) / len(line.fish), Kind.DISTANCE, 0)
        lines.append(Said(f"{len(line.fish)} fish strung along the bottom {away} to {line.side}.", first.time))
    for school in reading.schools:
        away = display.words(school.ground_m, Kind.DISTANCE, 0)
        if school.kind == "bait":
            what, long = "Bait in a ball", display.words(school.length_m, Kind.DISTANCE, 0)
            what += f", {long} long"
        else:
            what = f"A school of at least {school.least}"
        if math.isfinite(school.high_m):
            what += f", up to {display.words(school.high_m, Kind.DEPTH)} over the bottom"
        elif school.in_water:
            what += ", clear of the bottom"
        lines.append(Said(f"{what}, {away} to {school.side}.", school.time))
    lines += _ground_lines(display, reading)
    for thing in sorted(reading.things, key=lambda t: -t.height_m)[:_MOST_THINGS]:
        near = sum(1 for f in reading.fish if f.beside == thing.kind and abs(f.time - thing.time) < 15.0)
        fish = f", {near} fish off it" if near else ""
        away = display.words(thing.ground_m, Kind.DISTANCE, 0)
        tall = display.words(thing.height_m, Kind.DEPTH)
        least = "at least " if thing.at_least else ""
        what = (
            f"An edge drops {tall}"
            if thing.kind == "edge"
            else f"{thing_word(thing).capitalize()} {least}{tall} high"
        )
        lines.append(Said(f"{what}, {away} to {thing.side}{fish}.", thing.time))
    return lines


_GROUND_WORDS = {
    "weed": "weed",
    "stony": "stones",
    "hard": "hard bottom",
    "rippled": "ripples",
    "soft": "soft bottom",
}
_LEAST_TILES = 4


def _ground_lines(display: Display, reading: SideReading) -> list[Said]:
    """How much of another kind of bottom was seen, kind by kind, led to where most of it lies together."""
    lines = []
    for kind, word in _GROUND_WORDS.items():
        tiles = [g for g in reading.ground if g.kind == kind]
        if len(tiles) < _LEAST_TILES:
            continue
        area = sum((g.far_m - g.near_m) ** 2 * g.chance for g in tiles)
        middle = sorted(g.time_start for g in tiles)[len(tiles) // 2]
        sides = {g.side for g in tiles}
        where = "both sides" if len(sides) == 2 else sides.pop()
        wide = display.words(math.sqrt(area), Kind.DISTANCE, 0)
        lines.append(Said(f"{word.capitalize()} on as much as {wide} by {wide}, {where}.", middle))
    return lines


_MOST_THINGS = 4
