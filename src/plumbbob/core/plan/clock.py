"""The clock of a day: its hours of wind, its light, and when the craft should be off the water."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from enum import Enum

from plumbbob.core.plan.day import Stretch
from plumbbob.core.water.wind import wave_height_m

STEP_S = 900.0  # the sun is looked at so often
_LOW_SUN_DEG, _HIGH_SUN_DEG = 4.0, 30.0  # about 45 minutes after sunrise at middle latitudes; the middle of the day
_DARK_DEG = -6.0
_SHALLOW_SECCHI, _DEEP_SECCHI = 1.3, 2.2  # times the depth at which a white disc is lost
_DIM_SHALLOW, _DIM_DEEP, _NOON_SHALLOW, _NOON_DEEP = 1.6, 0.9, 0.6, 1.2  # handbook 7.9: weights of 1.3 to 2


class Phase(Enum):
    """Of the light."""

    NIGHT = "night"
    DIM = "dim"
    DAY = "day"
    NOON = "noon"


@dataclass(frozen=True, slots=True)
class Hour:
    """The wind from a time on, until the next one."""

    time: float
    wind_mps: float
    from_deg: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Craft:
    """How fast it goes and what it should not meet."""

    speed_mps: float
    wind_limit_mps: float  # off the water from here on
    wave_limit_m: float
    slows: float = 0.03  # share of its speed that each m/s of wind against it takes

    def upwind_mps(self, wind_mps: float) -> float:
        """Against the wind; never under a third."""
        return self.speed_mps * max(1.0 - self.slows * wind_mps, 1.0 / 3.0)

    def downwind_mps(self, wind_mps: float) -> float:
        """Before the wind: a little is won, since waves make one slow down too."""
        return self.speed_mps * min(1.0 + 0.3 * self.slows * wind_mps, 1.15)


BOAT = Craft(speed_mps=5.0, wind_limit_mps=9.0, wave_limit_m=0.5)
KAYAK = Craft(speed_mps=1.3, wind_limit_mps=6.0, wave_limit_m=0.3, slows=0.07)


def wind_at(hours: Sequence[Hour], time: float) -> Hour:
    """The hour that holds at a time: the first before it begins. Raises ValueError without any."""
    if not hours:
        raise ValueError("there is no hour of wind")
    return max((h for h in hours if h.time <= time), key=lambda h: h.time, default=hours[0])


def _spans(hours: Sequence[Hour], start: float, end: float) -> list[tuple[Hour, float]]:
    """Hours that touch a day, each with when it begins to."""
    ends = [*(h.time for h in hours[1:]), math.inf]
    return [(h, max(h.time, start)) for h, until in zip(hours, ends, strict=True) if h.time < end and until > start]


def hardest(hours: Sequence[Hour], start: float, end: float) -> Hour:
    """
    The hour of most wind that touches a day.

    Examples
    --------
    >>> hardest((Hour(0.0, 2.0, 10.0), Hour(3600.0, 5.0, 20.0)), 0.0, 3000.0).wind_mps
    2.0
    """
    return max((h for h, _ in _spans(hours, start, end)), key=lambda h: h.wind_mps, default=hours[0])


def home_by(hours: Sequence[Hour], craft: Craft, start: float, end: float) -> float | None:
    """When the wind is first more than the craft should meet, within a day; None: never."""
    return next((since for h, since in _spans(hours, start, end) if h.wind_mps >= craft.wind_limit_mps), None)


def phase(sun_deg: float) -> Phase:
    """
    Of the light, by the height of the sun.

    Examples
    --------
    >>> phase(-10.0), phase(2.0), phase(50.0)
    (<Phase.NIGHT: 'night'>, <Phase.DIM: 'dim'>, <Phase.NOON: 'noon'>)
    """
    if sun_deg < _DARK_DEG:
        return Phase.NIGHT
    if sun_deg < _LOW_SUN_DEG:
        return Phase.DIM
    return Phase.NOON if sun_deg > _HIGH_SUN_DEG else Phase.DAY


def phases(sun_deg: Callable[[float], float], start: float, end: float) -> tuple[tuple[float, float, Phase], ...]:
    """Stretches of one light each, from start to end."""
    out: list[tuple[float, float, Phase]] = []
    time = start
    while time < end:
        until = min(time + STEP_S, end)
        now = phase(sun_deg((time + until) / 2))
        if out and out[-1][2] is now:
            out[-1] = (out[-1][0], until, now)
        else:
            out.append((time, until, now))
        time = until
    return tuple(out)


def light_factor(now: Phase, depth_m: float, secchi_m: float, *, shallow_when_dim: bool = True) -> float:
    """
    Of a place's rate, by its depth and the light: shallow places in low light, deep ones and shade at noon.

    Parameters
    ----------
    depth_m : float
        At which one fishes.
    shallow_when_dim : bool
        The school that sends fish up the banks when light fails; the other sends them down.

    Notes
    -----
    Weights of docs/handbook.md 7.9; between shallow and deep the factor goes over evenly.
    """
    deep = (depth_m / max(secchi_m, 0.3) - _SHALLOW_SECCHI) / (_DEEP_SECCHI - _SHALLOW_SECCHI)
    deep = min(max(deep, 0.0), 1.0)
    if now in (Phase.DIM, Phase.NIGHT):
        shallow, far = (_DIM_SHALLOW, _DIM_DEEP) if shallow_when_dim else (_DIM_DEEP, _DIM_SHALLOW)
        return shallow + deep * (far - shallow)
    if now is Phase.NOON:
        return _NOON_SHALLOW + deep * (_NOON_DEEP - _NOON_SHALLOW)
    return 1.0


def light_stretches(
    lights: Sequence[tuple[float, float, Phase]], depth_m: float, secchi_m: float, *, shallow_when_dim: bool = True
) -> tuple[Stretch, ...]:
    """Stretches of a day with the factor that its light gives a depth; those of one are left out."""
    made = (
        Stretch(a, b, light_factor(now, depth_m, secchi_m, shallow_when_dim=shallow_when_dim)) for a, b, now in lights
    )
    return tuple(s for s in made if abs(s.factor - 1.0) > 1e-9)


def wave_stretches(hours: Sequence[Hour], fetch_m: Sequence[float], craft: Craft, end: float) -> tuple[Stretch, ...]:
    """Hours in which waves at a place are higher than the craft should meet: nothing is fished there."""
    out = []
    for k, (hour, fetch) in enumerate(zip(hours, fetch_m, strict=True)):
        until = hours[k + 1].time if k + 1 < len(hours) else max(end, hour.time)
        if fetch > 0 and until > hour.time and wave_height_m(hour.wind_mps, fetch) > craft.wave_limit_m:
            out.append(Stretch(hour.time, until, 0.0))
    return tuple(out)
