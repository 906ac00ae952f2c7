"""Temperature down the water column: density, the steepest drop, the span of the cold layer."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from plumbbob.core.types import Floats


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Profile:
    """Temperature, and if known oxygen, by depth from the surface down; shape (levels,) each."""

    depth_m: Floats
    temperature_c: Floats
    oxygen_mgl: Floats | None = None  # NaN at levels where it was not measured
    estimated: bool = False  # a guess from season and size, not a measurement
    doubtful: bool = False  # a guess near a turnover: it may be mixed as well

    def __post_init__(self) -> None:
        if self.depth_m.size < 2 or self.depth_m.shape != self.temperature_c.shape:
            raise ValueError("a profile needs at least two depths, each with a temperature")
        if self.oxygen_mgl is not None and self.oxygen_mgl.shape != self.depth_m.shape:
            raise ValueError("oxygen must be given for the same depths as temperature")
        if not bool(np.all(np.diff(self.depth_m) > 0)):
            raise ValueError("depths of a profile must go down from line to line")

    def at(self, depth_m: float) -> float:
        """Temperature at a depth; NaN below the deepest level."""
        return float(np.interp(depth_m, self.depth_m, self.temperature_c, right=np.nan))

    def drop_across(self, depth_m: float, over_m: float) -> float:
        """How much colder it is under a depth than over it, over some metres; NaN below the deepest level."""
        return self.at(depth_m - over_m / 2) - self.at(depth_m + over_m / 2)

    def oxygen_at(self, depth_m: Floats) -> Floats:
        """Oxygen at depths, mg/L, below the last reading as there; NaN where nothing is known."""
        if self.oxygen_mgl is None or not np.isfinite(self.oxygen_mgl).any():
            return np.full(np.shape(depth_m), np.nan)
        good = np.isfinite(self.oxygen_mgl)
        return np.interp(depth_m, self.depth_m[good], self.oxygen_mgl[good])

    @property
    def oxygen_to_m(self) -> float:
        """Depth of the deepest oxygen reading; NaN without any."""
        if self.oxygen_mgl is None or not np.isfinite(self.oxygen_mgl).any():
            return float("nan")
        return float(self.depth_m[np.isfinite(self.oxygen_mgl)][-1])


def fresh_density(temperature_c: ArrayLike) -> Floats:
    """
    Density of fresh water, kg/m3, for 0 to 40 degC.

    Notes
    -----
    Martin & McCutcheon (1999), as used by Read et al. (2011).

    Examples
    --------
    >>> [round(float(fresh_density(t)), 3) for t in (4, 8, 20, 25)]
    [1000.0, 999.877, 998.234, 997.075]
    """
    t = np.asarray(temperature_c, np.float64)
    return np.asarray(1000.0 * (1 - (t + 288.9414) * (t - 3.9863) ** 2 / (508929.2 * (t + 68.12963))))


def thermocline_m(profile: Profile) -> float | None:
    """
    Depth of the steepest rise of density, weighted with its neighbours; None where the water is mixed.

    Notes
    -----
    Read et al. (2011), Environ. Model. Softw. 26, 1325-1336; mixed means less than 1 degC from top to bottom.

    Examples
    --------
    >>> z = np.arange(0.0, 16.0, 2.0)
    >>> t = np.array([22, 22, 21.8, 21, 17, 11, 9, 8.5])
    >>> round(thermocline_m(Profile(depth_m=z, temperature_c=t)), 3)
    8.136
    """
    z, t = profile.depth_m, profile.temperature_c
    if np.ptp(t) < 1.0:
        return None
    rate = np.diff(fresh_density(t)) / np.diff(z)
    i = int(rate.argmax())
    if rate[i] <= 0.0:
        return None
    if i in (0, rate.size - 1):
        return float((z[i] + z[i + 1]) / 2)
    below = -(z[i + 1] - z[i]) / (rate[i + 1] - rate[i])
    above = (z[i] - z[i - 1]) / (rate[i] - rate[i - 1])
    if not (np.isfinite(below) and np.isfinite(above)):
        return float((z[i] + z[i + 1]) / 2)
    return float(z[i + 1] * (below / (below + above)) + z[i] * (above / (below + above)))
