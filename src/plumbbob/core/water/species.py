"""Where in the column a species could be comfortable: soft bands from temperature, oxygen and light."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from plumbbob.core.types import Floats
from plumbbob.core.water.light import depth_of_share
from plumbbob.core.water.profile import Profile

_SOFT = 0.05
SLOW = 0.4  # activity under which a species is slow today
_FLAT_PRIOR = 0.25  # mixed in, so that nothing is ever impossible


@dataclass(frozen=True, slots=True, kw_only=True)
class Species:
    """Limits of one species; a person may change all of them."""

    key: str
    name: str
    warm_low_c: float  # preferred from
    warm_high_c: float  # to
    avoid_c: float  # usually avoided from here up
    oxygen_mgl: float  # usually leaves below
    holds: str = ""  # how it often holds, most often first: B along the bottom, E edge, S stacked, O open, H hung
    light: str = ""  # D day, C half light, N night, as letters
    bladder: str = ""  # PS vents gas, PC cannot, 0 has none
    care_m: float | None = None  # depth of capture from which the fish may not survive release
    layer: str = (
        ""  # in summer against the cold layer: > above, = at its upper edge, < below, - none; most often first
    )
    looks: str = ""  # where it looks when it feeds: U up, L level, D down; most often first
    weight_a: float | None = None  # W(g) = a L(cm)^b
    weight_b: float | None = None
    low_m: float = 0.2  # usual least height over the bottom when it feeds


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Comfort:
    """One species in one column."""

    depth_m: Floats
    suitability: Floats  # 0 to 1
    band: tuple[float, float] | None  # depths with at least three quarters of the best; None if nowhere is good
    limit_m: float | None  # under this depth oxygen or temperature rules it out
    activity: float = 1.0  # how well the best of this column suits it: its pace, never its depth
    oxygen_to_m: float | None = None  # oxygen was not measured below this; None where it was, or not at all


def temperature_suitability(species: Species, temperature_c: Floats) -> Floats:
    """
    1 inside the preferred band, falling to 0.1 at the avoided temperature and at 8 degC under the band.

    Examples
    --------
    >>> walleye = Species(key="w", name="w", warm_low_c=18, warm_high_c=23, avoid_c=26, oxygen_mgl=4)
    >>> round(float(temperature_suitability(walleye, np.array([24.5]))[0]), 2)
    0.55
    """
    points = [species.warm_low_c - 8.0, species.warm_low_c, species.warm_high_c, species.avoid_c]
    return np.interp(temperature_c, points, [0.1, 1.0, 1.0, 0.1])


def oxygen_suitability(species: Species, oxygen_mgl: Floats) -> Floats:
    """0 at half the least oxygen, 1 at the least; 1 where oxygen is not known."""
    half = species.oxygen_mgl / 2
    found = np.clip((oxygen_mgl - half) / half, 0.0, 1.0)
    return np.where(np.isfinite(oxygen_mgl), found, 1.0)


def relative_suitability(species: Species, temperature_c: Floats, oxygen_mgl: Floats) -> Floats:
    """
    Suitability of depths relative to the best of the same column, where there is half the oxygen it needs; 0 to 1.

    Notes
    -----
    r = (q + 0.05) / (max q + 0.05) with q the product of both suitabilities (docs/handbook.md, 4.5). In a column
    that is cold all through it is flat: temperature has nothing to say there.

    Examples
    --------
    >>> bass = Species(key="lmb", name="bass", warm_low_c=26, warm_high_c=29, avoid_c=32, oxygen_mgl=3)
    >>> r = relative_suitability(bass, np.array([4.0, 4.2, 4.5]), np.full(3, np.nan))
    >>> r.round(2).tolist()
    [1.0, 1.0, 1.0]
    """
    air = oxygen_suitability(species, oxygen_mgl)
    q = temperature_suitability(species, temperature_c) * air
    breathes = air > 0.0
    best = float(q[breathes].max()) if breathes.any() else 0.0
    return np.where(breathes, np.minimum((q + _SOFT) / (best + _SOFT), 1.0), 0.0)


def comfort(species: Species, profile: Profile, deepest_m: float, secchi_m: float | None = None) -> Comfort:
    """
    The depths at which a species could be comfortable in this water today.

    Parameters
    ----------
    species : Species
    profile : Profile
    deepest_m : float
    secchi_m : float, optional
        With it, species of the half light and the night lose the bright water by day.

    Notes
    -----
    Temperature and oxygen relative to the best that this column offers (`relative_suitability`): fish must be
    somewhere. Food and cover override both. Oxygen below its last reading is taken as there.
    """
    last = min(deepest_m, float(profile.depth_m[-1]))
    depth = np.append(np.arange(0.0, last, 0.25), last)
    warm = np.interp(depth, profile.depth_m, profile.temperature_c)
    oxygen = profile.oxygen_at(depth)
    by_warm, by_air = temperature_suitability(species, warm), oxygen_suitability(species, oxygen)
    total = relative_suitability(species, warm, oxygen)
    if secchi_m is not None and species.light and "D" not in species.light:
        bright = depth_of_share(0.3, secchi_m)
        total = total * np.where(depth < bright, 0.6, 1.0)
    activity = max(0.1, float((by_warm * by_air).max()))
    best = float(total.max())
    band = None
    bearable = (by_air > 0.0) & (warm < species.avoid_c)
    if bearable.any():
        good = np.flatnonzero(total >= 0.75 * best)
        # the run that holds the best depth
        top = int(total.argmax())
        runs = np.split(good, np.flatnonzero(np.diff(good) > 1) + 1)
        run = next(r for r in runs if r[0] <= top <= r[-1])
        band = float(depth[run[0]]), float(depth[run[-1]])
    out = np.flatnonzero((warm >= species.avoid_c) | (by_air <= 0.0))
    limit = None
    if out.size:
        # from here to the bottom nothing is left
        runs = np.split(out, np.flatnonzero(np.diff(out) > 1) + 1)
        if runs[-1][-1] == depth.size - 1 and runs[-1][0] > 0:
            limit = float(depth[runs[-1][0]])
    measured_to = profile.oxygen_to_m
    return Comfort(
        depth_m=depth,
        suitability=(1 - _FLAT_PRIOR) * total + _FLAT_PRIOR * total.mean(),
        band=band,
        limit_m=limit,
        activity=activity,
        oxygen_to_m=measured_to if measured_to < last - 0.1 else None,
    )
