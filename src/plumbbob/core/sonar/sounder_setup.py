"""Setting up a sounder for what is sought: range, rate, speed, what the beam sees. docs/handbook.md 1.5 to 1.7."""

from __future__ import annotations

import math
from dataclasses import dataclass

from plumbbob.core.sonar.beam import dead_zone, footprint_diameter

LEAST_PINGS = 3.0  # fewer on a target is no evidence of it
SURE_PINGS = 5.0
PLANING_MPS = 4.0  # from here on most small boats drag bubbles under the transducer
_BELOW_BOTTOM = 1.15  # range shown over the depth of the bottom
_SECOND_ECHO = 2.15
_OVER_THRESHOLD_DB = 12.0  # how far the wanted echo stands over the noise on the axis
_HIGHEST_RATE_HZ = 30.0


@dataclass(frozen=True, slots=True, kw_only=True)
class SetUp:
    """A transducer, and what one wants to see with it."""

    beam_width_deg: float = 20.0
    pulse_m: float = 0.074  # c tau / 2
    sound_speed_mps: float = 1480.0
    draft_m: float = 0.4
    tilt_deg: float = 0.0  # bow up
    depth_m: float = 8.0  # of what is sought
    bottom_m: float = 15.0
    size_m: float = 3.0  # across; 0 is a single fish
    speed_mps: float = 1.3
    ping_rate_hz: float | None = None  # None: as fast as the range allows
    clean_mps: float = PLANING_MPS  # up to here this boat drags no air under it

    def __post_init__(self) -> None:
        for name, low, high in (
            ("beam_width_deg", 1.0, 90.0),
            ("depth_m", 0.3, 1000.0),
            ("bottom_m", 0.5, 1000.0),
            ("size_m", 0.0, 200.0),
            ("speed_mps", 0.0, 30.0),
        ):
            value = getattr(self, name)
            if not low <= value <= high:
                raise ValueError(f"{name} is {value:g}, outside {low:g} to {high:g}")
        if self.depth_m > self.bottom_m:
            raise ValueError("what is sought lies under the bottom: make the bottom deeper")


@dataclass(frozen=True, slots=True, kw_only=True)
class Advice:
    """Numbers for one set-up, SI."""

    range_m: float  # to show
    hardness_range_m: float  # to show for the second echo too
    ping_rate_hz: float
    footprint_m: float  # of the -3 dB cone at the sought depth
    swath_m: float  # in which an echo that stands 12 dB out still shows
    pings: float  # on the thing at this speed; infinite for a boat at rest
    fastest_mps: float  # at which it still gives five pings
    limit_mps: float  # at which it gives three
    closest_m: float  # apart in depth two things are told as two
    dead_zone_m: float
    strip_m: float  # along the way between two pings
    shift_m: float  # of what is seen because of the tilt
    tilt_hides: bool  # the beam's edge no longer looks straight down
    planing: bool


def advise(setup: SetUp) -> Advice:
    """
    What this set-up sees, and how fast one may go.

    Notes
    -----
    An echo M dB over the threshold on the axis is still seen out to phi = (theta / 2) sqrt(M / 6) (Gaussian beam, two
    ways). A thing L across is in the beam for L + chord; pings = rate times that over the speed.

    Examples
    --------
    >>> a = advise(SetUp(depth_m=12.4, bottom_m=20.0, size_m=0.0, speed_mps=1.2, ping_rate_hz=8.0))
    >>> round(a.footprint_m, 2), round(a.pings)
    (4.23, 28)
    """
    reach = setup.depth_m - setup.draft_m
    range_m = _BELOW_BOTTOM * setup.bottom_m
    # one echo must be home before the next pulse leaves, with a tenth for the sounder's own work
    possible = min(0.9 * setup.sound_speed_mps / (2.0 * range_m), _HIGHEST_RATE_HZ)
    rate = possible if setup.ping_rate_hz is None else min(setup.ping_rate_hz, possible)
    footprint = float(footprint_diameter(max(reach, 0.0), setup.beam_width_deg))
    edge = math.radians(setup.beam_width_deg / 2) * math.sqrt(_OVER_THRESHOLD_DB / 6.0)
    swath = 2.0 * max(reach, 0.0) * math.tan(min(edge, 1.3))
    path = footprint + setup.size_m
    tilt = math.radians(setup.tilt_deg)
    return Advice(
        range_m=range_m,
        hardness_range_m=_SECOND_ECHO * setup.bottom_m,
        ping_rate_hz=rate,
        footprint_m=footprint,
        swath_m=swath + setup.size_m,
        pings=rate * path / setup.speed_mps if setup.speed_mps > 0.0 else math.inf,
        fastest_mps=min(rate * path / SURE_PINGS, setup.clean_mps),
        limit_mps=min(rate * path / LEAST_PINGS, setup.clean_mps),
        closest_m=setup.pulse_m,
        dead_zone_m=float(dead_zone(setup.bottom_m - setup.draft_m, setup.beam_width_deg, setup.pulse_m)),
        strip_m=setup.speed_mps / rate,
        shift_m=max(reach, 0.0) * math.tan(tilt),
        tilt_hides=abs(setup.tilt_deg) > setup.beam_width_deg / 2,
        planing=setup.speed_mps >= setup.clean_mps,
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class LookAhead:
    """How deep and how far a forward picture should look."""

    deep_m: float
    far_m: float
    pixels: float  # a fish is long
    with_bottom: bool


def look_ahead(
    deepest_fish_m: float,
    farthest_fish_m: float,
    bottom_m: float,
    *,
    fish_m: float = 0.35,
    wide_px: int = 800,
    high_px: int = 500,
    least_px: float = 12.0,
) -> LookAhead:
    """
    Range of a true-scale forward picture in which each fish keeps enough pixels.

    Parameters
    ----------
    deepest_fish_m, farthest_fish_m, bottom_m : float
        What has to be in the picture, and the bottom's depth (NaN where unknown).
    fish_m, wide_px, high_px, least_px : float
        Length of a fish, size of the picture, pixels a fish should keep.

    Notes
    -----
    One scale for both directions, so the picture shows wide_px / high_px times as far as it is deep. The bottom is
    left out where having it in would cost a fish its pixels: fish that hang high do not need it.

    Examples
    --------
    >>> a = look_ahead(5.0, 10.0, 30.0)
    >>> a.with_bottom, round(a.deep_m, 1), round(a.pixels) > 12
    (False, 7.5, True)
    """
    ratio = wide_px / high_px
    need = max(1.25 * deepest_fish_m, 1.2 * farthest_fish_m / ratio, 2.0)
    with_bottom = math.isfinite(bottom_m) and fish_m * high_px / max(need, 1.1 * bottom_m) >= least_px
    deep = max(need, 1.1 * bottom_m) if with_bottom else need
    return LookAhead(deep_m=deep, far_m=deep * ratio, pixels=fish_m * high_px / deep, with_bottom=with_bottom)
