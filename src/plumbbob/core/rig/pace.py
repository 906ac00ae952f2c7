"""
How to move a lure: pace, lifts and pauses by temperature, by what followers do, by family of way.

All from docs/handbook.md, 5.9: tables of practice, wide by a factor of 0.7 to 1.4. A warm-water fish reads its own
scale; a cold-water one is quick where it is at home.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

from plumbbob.core.water.species import Species

Band = tuple[float, float]
_COLD_TOP_C = 17.0  # preferred temperatures that end here make a cold-water species
_MURKY_M, _CLEAR_M = 1.0, 5.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Cadence:
    """How to move it; bands from least to most, SI."""

    wound_mps: Band
    lifts_min: Band
    lift_m: Band
    rest_s: Band
    drag_mps: Band
    hop_m: Band
    drag_pause_s: Band
    plug_pause_s: Band
    move_bait_min: Band
    row_c: float  # the row's own temperature


# temperatures up to, then trolled and wound, lifts a minute, lift cm, rest, drag, hop cm, pause, plug pause, bait min
_ROWS: tuple[tuple[float, tuple[Band, ...]], ...] = (
    (4.0, ((0.3, 0.6), (4, 10), (5, 20), (5, 20), (0.03, 0.08), (0, 10), (10, 30), (8, 30), (10, 20))),
    (8.0, ((0.4, 0.8), (6, 15), (10, 30), (4, 12), (0.05, 0.12), (5, 15), (6, 20), (4, 15), (8, 15))),
    (13.0, ((0.6, 1.1), (10, 20), (15, 50), (2, 6), (0.08, 0.2), (10, 30), (4, 10), (2, 6), (6, 12))),
    (18.0, ((0.8, 1.5), (15, 30), (20, 70), (1, 4), (0.1, 0.3), (15, 50), (2, 6), (1, 3), (5, 10))),
    (24.0, ((0.9, 1.8), (15, 35), (30, 100), (1, 3), (0.15, 0.4), (20, 60), (1, 4), (0.5, 2), (4, 8))),
    (math.inf, ((0.8, 2.2), (10, 30), (20, 80), (1, 4), (0.1, 0.4), (15, 50), (2, 5), (0.5, 3), (3, 6))),
)
_HOT_ROW, _NOON_ROW = 5, 3


@dataclass(frozen=True, slots=True, kw_only=True)
class Hour:
    """What changes the pace besides temperature; NaN where not known."""

    secchi_m: float = math.nan
    night: bool = False
    noon: bool = False
    cold_front: bool = False
    attacked: bool = False  # a ball of bait under attack
    turned_away: bool = False  # followers did


def row_of(temperature_c: float, species: Species | None = None) -> int:
    """
    Which row of the table speaks: a cold-water species is read two rows warmer until it is at home.

    Examples
    --------
    >>> row_of(6.0), row_of(30.0)
    (1, 5)
    >>> char = Species(key="c", name="c", warm_low_c=7, warm_high_c=12, avoid_c=16, oxygen_mgl=5)
    >>> row_of(6.0, char), row_of(15.0, char)
    (3, 3)
    """
    row = next(i for i, (top, _) in enumerate(_ROWS) if temperature_c < top or i == _HOT_ROW)
    if species is None or species.warm_high_c > _COLD_TOP_C:
        return row
    home = next(i for i, (top, _) in enumerate(_ROWS) if species.warm_high_c < top)
    return min(row + 2, max(home + 1, row)) if temperature_c < species.warm_high_c else max(row, home)


def cadence(temperature_c: float, species: Species | None = None, hour: Hour | None = None) -> Cadence:
    """
    How to move a lure in water of a temperature, at the depth of the fish.

    Parameters
    ----------
    temperature_c : float
    species : Species, optional
    hour : Hour, optional

    Raises
    ------
    ValueError
        For a temperature no water has.
    """
    if not -2.5 <= temperature_c <= 42.0:
        raise ValueError(f"water of {temperature_c:g} degC is outside -2.5 to 42")
    hour = hour or Hour()
    row = row_of(temperature_c, species)
    if row == _HOT_ROW and hour.noon:
        row = _NOON_ROW
    top, (wound, lifts, lift, rest, drag, hop, pause, plug, bait) = _ROWS[row]
    factor = pace_factor(hour, by_sight=species is None or not (set(species.light) & {"N"}))
    return Cadence(
        wound_mps=_times(wound, factor),
        lifts_min=lifts,
        lift_m=_times(lift, 0.01),
        rest_s=rest,
        drag_mps=_times(drag, factor),
        hop_m=_times(hop, 0.01),
        drag_pause_s=pause,
        plug_pause_s=plug,
        move_bait_min=bait,
        row_c=min(top, 30.0),
    )


def pace_factor(hour: Hour, *, by_sight: bool = True) -> float:
    """
    By how much the hour and the water change a pace.

    Examples
    --------
    >>> pace_factor(Hour(secchi_m=0.5)), round(pace_factor(Hour(secchi_m=6.0, night=True)), 2)
    (0.7, 0.72)
    """
    factor = 1.0
    if hour.secchi_m < _MURKY_M:
        factor *= 0.7
    elif hour.secchi_m > _CLEAR_M:
        factor *= 1.2
    if hour.night:
        factor *= 0.6 if by_sight else 0.8
    if hour.cold_front:
        factor *= 0.7
    if hour.attacked:
        factor *= 1.45
    if hour.turned_away:
        factor *= 1.3
    return factor


def _times(band: Band, factor: float) -> Band:
    return round(band[0] * factor, 6), round(band[1] * factor, 6)


def held_to(cadence_: Cadence, walls_mps: Band) -> Cadence:
    """The cadence with its speed inside what a species is fished at; slowest and fastest stay in order."""
    low = min(max(cadence_.wound_mps[0], walls_mps[0]), walls_mps[1])
    high = max(min(cadence_.wound_mps[1], walls_mps[1]), low)
    return replace(cadence_, wound_mps=(low, high))


def turns_a_second(speed_mps: float, turn_m: float) -> float:
    """
    Turns of the handle for a speed of the line.

    Examples
    --------
    >>> round(turns_a_second(0.8, 0.7), 2)
    1.14
    """
    if not turn_m > 0:
        raise ValueError("a turn of the handle takes in some line")
    return speed_mps / turn_m


@dataclass(frozen=True, slots=True, kw_only=True)
class Beat:
    """One lift and fall, in seconds; what is to be heard."""

    lift_s: float
    fall_s: float
    rest_s: float

    @property
    def period_s(self) -> float:
        """From one lift to the next."""
        return self.lift_s + self.fall_s + self.rest_s


def beat_of(lift_m: float, fall_mps: float, rest_s: float, *, lift_mps: float = 1.0, tight: float = 1.0) -> Beat:
    """
    Seconds of a lift, of the fall after it, and of the rest.

    Parameters
    ----------
    lift_m, fall_mps : float
        How far it is lifted, how fast it falls on slack line.
    rest_s : float
    lift_mps : float
    tight : float
        How much longer it takes on a tight line: 1 slack, 1.2 to 2.3 tight.

    Examples
    --------
    >>> beat = beat_of(0.5, 0.3, 2.0)
    >>> round(beat.fall_s, 1), round(beat.period_s, 1)
    (1.7, 4.2)
    """
    if not (lift_m >= 0 and fall_mps > 0 and lift_mps > 0):
        raise ValueError("a lift needs speeds above zero")
    return Beat(lift_s=lift_m / lift_mps, fall_s=tight * lift_m / fall_mps, rest_s=rest_s)


@dataclass(frozen=True, slots=True, kw_only=True)
class Follow:
    """What to do when a fish follows the lure."""

    faster: Band  # by so much, for half a second to one and a half
    lift_m: Band
    burst_mps: Band  # what the fish can do


def answer_follower(temperature_c: float, length_m: float = 0.4, *, by_sight: bool = True) -> Follow:
    """
    How much faster to go before a fish that matches the lure's pace: it has not decided; never stop dead.

    Notes
    -----
    A fish bursts at six to ten lengths a second at 15 degC and at half of that at 5 (Beamish 1978): no hand outruns
    a willing one.

    Examples
    --------
    >>> answer_follower(15.0).burst_mps, answer_follower(4.0).faster
    ((2.4, 4.0), (1.1, 1.3))
    """
    cold = temperature_c < 6.0
    most = 2.5 if by_sight and temperature_c >= 18.0 else 2.0
    share = min(max(0.5 + 0.5 * (temperature_c - 5.0) / 10.0, 0.5), 1.5)
    return Follow(
        faster=(1.1, 1.3) if cold else (1.3, most),
        lift_m=(0.2, 0.5),
        burst_mps=(round(6.0 * length_m * share, 3), round(10.0 * length_m * share, 3)),
    )


def rising_band(temperature_c: float, looks: str) -> float:
    """
    How far over a fish the band begins in which it takes a raised lure, metres.

    Examples
    --------
    >>> rising_band(4.0, "U"), rising_band(4.0, "L"), rising_band(4.0, "D")
    (0.5, 0.25, 0.2)
    """
    up = min(max(0.1 + 0.1 * temperature_c, 0.2), 2.0)
    first = looks[:1] or "U"
    return {"U": up, "L": up / 2.0}.get(first, 0.2)


# raising a lure under ice by who follows it, m/s
_RAISES: tuple[tuple[frozenset[str], Band], ...] = (
    (frozenset({"lkt"}), (0.3, 1.0)),
    (frozenset({"rbt", "brt", "bkt", "acr", "kok", "chi", "coh", "gra", "pow", "lwf"}), (0.1, 0.3)),
)
_HOLE_MIN: tuple[tuple[frozenset[str], Band], ...] = (
    (frozenset({"yep", "per", "wal", "zan", "sau", "blg"}), (5.0, 10.0)),
    (frozenset({"blc", "whc"}), (10.0, 15.0)),
    (frozenset({"lkt"}), (20.0, 30.0)),
    (frozenset({"pik", "mus"}), (30.0, 60.0)),
    (frozenset({"bur"}), (20.0, 40.0)),
)


def raise_speed(species_key: str) -> Band:
    """How fast a lure is raised before a fish of a species under ice, m/s; perch-like where nothing else is known."""
    return next((band for keys, band in _RAISES if species_key in keys), (0.05, 0.1))


def minutes_a_hole(species_key: str) -> Band:
    """How long a hole is given before the next; minutes."""
    return next((band for keys, band in _HOLE_MIN if species_key in keys), (10.0, 15.0))


@dataclass(frozen=True, slots=True, kw_only=True)
class IceRoutine:
    """What to do under ice by what is seen."""

    lifts_min: Band
    pause_s: Band
    move_m: Band
    change_after_s: Band


ICE_ROUTINES: dict[str, IceRoutine] = {
    "nobody": IceRoutine(lifts_min=(10, 25), pause_s=(3, 6), move_m=(0.2, 0.8), change_after_s=(180, 300)),
    "in sight": IceRoutine(lifts_min=(5, 10), pause_s=(4, 10), move_m=(0.05, 0.15), change_after_s=(60, 60)),
    "rising": IceRoutine(lifts_min=(0, 0), pause_s=(0, 0), move_m=(0.01, 0.03), change_after_s=(20, 20)),
    "stopped": IceRoutine(lifts_min=(0, 0), pause_s=(3, 8), move_m=(0.1, 0.3), change_after_s=(20, 20)),
    "dead bait": IceRoutine(lifts_min=(0, 0.5), pause_s=(120, 300), move_m=(0.1, 0.3), change_after_s=(1200, 1800)),
}
