"""What the chart and the day say, in short plain words with their numbers."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

import numpy as np

from plumbbob.core.chart.rank import Contribution, RankedSpot
from plumbbob.core.chart.suits import OPEN_WATER
from plumbbob.core.chart.terms import Term
from plumbbob.core.units import Kind
from plumbbob.core.water.column import Layering, oxygen_saturation, schmidt_stability
from plumbbob.core.water.guess import Guess, NoGuess, State
from plumbbob.core.water.habits import Spawn
from plumbbob.core.water.species import SLOW
from plumbbob.core.water.wind import wind_caution
from plumbbob.desk.models.boat import own_boat
from plumbbob.desk.models.display import Display
from plumbbob.desk.models.session import Session
from plumbbob.wording.compass import POINTS
from plumbbob.wording.water import moon_words, tilt_words, wind_words

if TYPE_CHECKING:
    from plumbbob.core.chart.feature import Feature


TERM_WORDS = {
    Term.WINDOW: "in the depth window",
    Term.DEPTH: "at its likely depths",
    Term.HABIT: "its kind of ground",
    Term.LAYER: "meets the cold layer",
    Term.LIP: "steepness",
    Term.DEEP: "deep water close",
    Term.SPAWN: "close to spawning ground",
    Term.COVER: "cover seen there",
    Term.CURRENT: "current past it",
    Term.WIND: "wind on it",
    Term.LIGHT: "dim enough",
    Term.SHADE: "shade by day",
    Term.BAIT: "bait seen there",
    Term.SEEN: "fish seen at its depth",
    Term.RECORD: "own record there",
    Term.GROUND: "stones or hard bottom there",
    Term.BANK: "room to bank anglers",
}

_NEAR_WORDS = {
    Term.SPAWN: ("spawning ground {} off", "spawning ground only {} off"),
    Term.SHADE: ("shade {} off", "shade only {} off"),
    Term.BANK: ("nobody on the bank within {}", "someone fishes from the bank, {} off"),
}
_LETTER_WORDS = {
    "B": "on the bottom",
    "N": "near the bottom",
    "E": "along edges",
    "C": "inside cover",
    "H": "hung beside or over something",
    "O": "in open water",
}
_DEPTH_WORDS = ("at its likely depths", "partly at its likely depths", "seldom at its depths")
_HABIT_WORDS = (
    "the ground it likes best in this season",
    "ground it often uses in this season",
    "seldom its ground in this season",
)


def parse_compass(text: str) -> float:
    """Degrees from letters or a figure. Raises ValueError with one line."""
    plain = text.strip().upper().rstrip("°")
    if plain in POINTS:
        return POINTS.index(plain) * 22.5
    try:
        value = float(plain)
    except ValueError:
        raise ValueError(f'"{text.strip()}" is no direction; try SW or 225') from None
    if not 0.0 <= value <= 360.0:
        raise ValueError("a direction lies between 0 and 360 degrees")
    return value % 360.0


def place_title(display: Display, feature: Feature, level_m: float) -> str:
    """A feature in a few words, depths of today."""
    top = display.words(max(feature.depth_top_m + level_m, 0.0), Kind.DEPTH, 0)
    plain = display.figure(max(feature.depth_top_m + level_m, 0.0), Kind.DEPTH, 0)
    base = display.words(max(feature.depth_base_m + level_m, 0.0), Kind.DEPTH, 0)
    if feature.kind == "hump":
        return f"Hump, top {top}"
    if feature.kind == "ledge":
        return f"Ledge {plain}→{base}"
    if feature.kind == "point":
        return f"Point {plain}→{base}"
    if feature.kind == "channel":
        return f"Channel, {len(feature.bends)} bends" if len(feature.bends) > 1 else f"Channel to {base}"
    if feature.kind in ("basin", "hole"):
        return f"{feature.kind.capitalize()} to {base}"
    if feature.kind == "saddle":
        middle = (feature.depth_top_m + feature.depth_base_m) / 2 + level_m
        return f"Saddle {display.words(middle, Kind.DEPTH, 0)}"
    if feature.kind == "road":
        return f"Road? {'raised' if feature.rise_m > 0 else 'cut'} {plain}–{base}"
    if feature.kind == "foundation":
        return f"Foundation? {plain}–{base}"
    if feature.kind == OPEN_WATER:
        return f"Open water, {plain}–{base}"
    return f"{feature.kind.capitalize()} {plain}–{base}"


def reason_words(display: Display, reason: Contribution) -> str:
    """Why a place ranks where it does: words and the number behind them."""
    value = reason.value
    if reason.term is Term.WINDOW:
        return (
            "in the window"
            if reason.score > 0.5
            else "partly in the window"
            if reason.score > 0.3
            else "off the window"
        )
    if reason.term is Term.DEPTH:
        return _DEPTH_WORDS[0 if reason.score > 0.7 else 1 if reason.score > 0.35 else 2]
    if reason.term is Term.LAYER:
        depth = display.words(value, Kind.DEPTH, 0)
        return f"meets the cold layer at {depth}" if reason.score > 0.5 else f"clear of the cold layer ({depth})"
    if reason.term is Term.LIP:
        return f"steepest {value:.0f}°"
    if reason.term is Term.DEEP:
        return f"deep water {display.words(value, Kind.DISTANCE, 0)} off"
    if reason.term is Term.WIND:
        return f"wind over {display.words(value, Kind.DISTANCE, 0)} of water"
    if reason.term is Term.LIGHT:
        return f"dim from {display.words(value, Kind.DEPTH, 0)} down"
    if reason.term is Term.BAIT:
        return (
            "bait seen close by"
            if reason.score > 0.3
            else f"no bait seen within {display.words(value, Kind.DISTANCE, 0)}"
        )
    if reason.term is Term.SEEN:
        if value > 1.25 or value < 0.8:
            return f"{value:.1f} times the usual fish at its depth, per water looked at"
        return "as many fish at its depth as at others"
    if reason.term in _NEAR_WORDS:
        near, far = _NEAR_WORDS[reason.term]
        return (near if reason.score > 0.5 else far).format(display.words(value, Kind.DISTANCE, 0))
    if reason.term is Term.HABIT:
        return _HABIT_WORDS[0 if reason.score > 0.9 else 1 if reason.score > 0.5 else 2]
    if reason.term is Term.COVER:
        return f"{value:.0f} pieces of cover seen" if value else "no cover seen close by"
    if reason.term is Term.CURRENT:
        return f"current of {display.words(value, Kind.SPEED, 1)}"
    if reason.term is Term.GROUND:
        return "stones or hard bottom seen there" if reason.score > 0.3 else "soft bottom seen there"
    return f"{value:.0f} caught here before" if value else "seen before, none caught"


def why(display: Display, place: RankedSpot, most: int = 2) -> str:
    """The strongest reasons in a line."""
    good = [r for r in place.reasons if r.score > 0.3 or r.term is Term.WINDOW][:most]
    return " · ".join(reason_words(display, r) for r in good)


def cursor_lines(session: Session) -> list[str]:
    """Depth, spread and slope at the cursor of the chart, and how far the drawn line's start is."""
    display, chart = session.display, session.chart
    depth = chart.depth_m + session.conditions.level_m
    if not math.isfinite(chart.depth_m):
        return ["not sounded", "no depth is guessed here"]
    if depth <= 0:
        return ["above water", f"dry by {display.words(-depth, Kind.DEPTH)} at today's level"]
    lines = [
        f"{display.words(depth, Kind.DEPTH)} {display.spread(chart.depth_sd_m, Kind.DEPTH)}",
        f"slope {chart.slope_at_cursor_deg:.0f}°",
    ]
    if chart.cursor is not None and session.conditions.layer is not None:
        off = depth - session.conditions.layer_at(*chart.cursor)
        side = "under" if off > 0 else "over"
        lines.append(f"bottom {display.words(abs(off), Kind.DEPTH)} {side} the cold layer")
    return lines


_LAYERING = {
    Layering.INVERSE: "Colder on top than below, as under ice: no cold layer.",
    Layering.SKIN: "A warm skin of the day, no cold layer.",
    Layering.WEAK: "A weak gradient, no reason to fish by it.",
}

NO_GUESS = {
    NoGuess.SALT: "salt water or tides",
    NoGuess.FLOW: "a river runs through it too fast",
    NoGuess.SPRING: "springs feed it",
    NoGuess.NEVER_MIXES: "its deep water never mixes",
    NoGuess.UNKNOWN_DEPTH: "its depth is not known",
    NoGuess.UNKNOWN_FREEZE: "whether it freezes over is not known: say so above",
    NoGuess.LEVEL_CHANGE: "its level has just changed",
    NoGuess.HIGH: "it lies over 4000 m high",
    NoGuess.HEATED: "it is heated",
}


def guess_words(display: Display, guess: Guess) -> str:
    """What a guess says of itself, or why there is none."""
    warm = Kind.TEMPERATURE
    surface = f"{display.words(guess.surface_c, warm, 0)} {display.spread(guess.surface_sd_c, warm)} at the surface"
    if guess.code is NoGuess.TURNING:
        return f"Guessed, near a turnover: {surface}, mixed or layered. Lower a thermometer at the deepest spot."
    if guess.profile is None:
        why = NO_GUESS[guess.code] if guess.code is not None else "too little is known"
        return f"No guess below the surface ({why}): lower a thermometer at the deepest spot."
    state = {State.OFTEN: "mixes often, no lasting layer"}.get(guess.state, guess.state.value)
    return f"Guessed from the season, the place and the size: {state}, {surface}. A cast is better."


def comfort_words(session: Session) -> str:
    """Where the chosen species could be comfortable; empty without one."""
    display, day = session.display, session.conditions
    found, species = day.comfort, day.species
    if species is None:
        return ""
    if found is None:
        return "Comfort needs a temperature profile (T)."
    if found.band is None:
        return "Nowhere comfortable today: fish may sit at inflows, or suffer."
    warm = Kind.TEMPERATURE
    likes = f"{display.figure(species.warm_low_c, warm, 0)}–{display.words(species.warm_high_c, warm, 0)}"
    low, high = display.figure(found.band[0], Kind.DEPTH, 0), display.words(found.band[1], Kind.DEPTH, 0)
    text = f"{low}–{high} comfortable, likes {likes}"
    if found.limit_m is not None:
        text += f", ruled out under {display.words(found.limit_m, Kind.DEPTH, 0)}"
    if found.activity < SLOW:
        text += "; slow in water so far from it"
    if found.oxygen_to_m is not None:
        text += f". Oxygen not measured below {display.words(found.oxygen_to_m, Kind.DEPTH, 0)}"
    return text + "."


def season_words(session: Session) -> str:
    """Where the chosen species is likely in this season, and by what it is ranked; empty without one."""
    who, display = session.spots.facts.who, session.display
    if who is None or who.prior is None or session.conditions.species is None:
        return ""
    low, high = who.prior.band()
    depths = f"{display.figure(low, Kind.DEPTH, 0)}–{display.words(high, Kind.DEPTH, 0)}"
    ground = " or ".join(_LETTER_WORDS[c] for c in who.habits.of(who.season)[:2])
    name = display.species(session.conditions.species.name)
    text = f"{name[:1].upper()}{name[1:]} in {who.season.value}: {ground}, likely at {depths}."
    if who.spawn is Spawn.SPAWNING:
        text += " It spawns now: leave nests and guarded places alone, local closed times first."
    elif who.spawn is Spawn.GATHERING:
        text += " It gathers to spawn."
    return text


def species_lines(session: Session) -> list[str]:
    """What there is room for beside a chosen species: its season, and what is to be minded."""
    out = [season_words(session) or comfort_words(session)]
    found = session.conditions.comfort
    if found is not None and found.activity < SLOW:
        out.append("Slow in water so far from what it likes.")
    return [*out, *_cautions(session)]


def _cautions(session: Session) -> list[str]:
    day = session.conditions
    out = [wind_words(wind_caution(day.wind_mps, own_boat(session.settings).is_kayak))]
    if day.profile is not None and float(day.profile.temperature_c[0]) < 15.0:
        out.append("Cold water: dress for it, jacket worn.")
    return [line for line in out if line]


def day_lines(session: Session) -> list[str]:
    """Season, comfort, cautions, tilt, sun and moon."""
    display, day = session.display, session.conditions
    out = [season_words(session), comfort_words(session), *_cautions(session)]
    if day.profile is not None and day.layering in _LAYERING:
        out.append(_LAYERING[day.layering])
    if day.profile is not None and day.profile.estimated:
        out.append("The column is guessed from season and size.")
    if day.tilt is not None:
        deep = display.words(day.tilt.end_to_end_m, Kind.DEPTH)
        known = math.isfinite(day.tilt.end_to_end_m)
        out.append(f"Cold layer {tilt_words(day.tilt.state)}" + (f": {deep} deeper downwind." if known else "."))
    lights = day.lights
    if lights is not None:

        def clock(t: float | None) -> str:
            return "–" if t is None else session.clock(t, "%H:%M")

        sun = {"day": "The sun does not set", "night": "The sun does not rise"}.get(
            lights.polar, f"Sun {clock(lights.sunrise)}–{clock(lights.sunset)}"
        )
        out.append(f"{sun}, {moon_words(lights.moon)}.")
    return [line for line in out if line]


def column_words(session: Session) -> str:
    """How stable the column is, and how much oxygen its surface could hold."""
    profile, chart = session.conditions.profile, session.chart.chart
    if profile is None or chart is None:
        return ""
    today = chart.grid.depth_m[chart.grid.known] + session.conditions.level_m
    depths = np.linspace(0.0, max(float(today.max()), 0.5), 24)
    areas = np.array([float((today >= d).sum()) for d in depths]) * chart.grid.frame.cell_m**2
    stability = schmidt_stability(profile, depths, areas)
    air = float(oxygen_saturation(float(profile.temperature_c[0]), 0.0, session.water.altitude_m))
    work = f"Stability {stability:.0f} J/m²: the work a wind must do to mix it."
    return f"{work} The surface holds at most {air:.1f} mg/L of oxygen."
