"""Light under water: from clarity to the share of light at a depth, and which depth keeps a given light."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import ArrayLike

from plumbbob.core.types import Floats

SECCHI_FACTOR = 1.7  # K times the depth of disappearance; 1.3 in turbid, 2.3 in stained water
SECCHI_SPREAD = 0.3

_LUX = ((-18.0, 0.0008), (-12.0, 0.008), (-6.0, 3.0), (0.0, 500.0), (5.0, 4000.0), (15.0, 18000.0), (60.0, 100000.0))


def attenuation(secchi_m: float, factor: float = SECCHI_FACTOR) -> float:
    """
    Loss of light with depth, 1/m; the factor is 1.3 in turbid, 2.3 in stained water.

    Notes
    -----
    Poole & Atkins (1929); real waters lie within 30 % of it.

    Examples
    --------
    >>> round(attenuation(3.0), 3)
    0.567
    """
    return factor / max(secchi_m, 0.1)


def light_share(depth_m: ArrayLike, secchi_m: float, factor: float = SECCHI_FACTOR) -> Floats:
    """
    Share of the surface's light left at a depth, 0 to 1.

    Examples
    --------
    >>> round(float(light_share(3.0, 3.0)), 3)
    0.183
    """
    return np.exp(-attenuation(secchi_m, factor) * np.asarray(depth_m, np.float64))


def depth_of_share(share: float, secchi_m: float, factor: float = SECCHI_FACTOR) -> float:
    """
    Depth at which so much of the light is left, metres.

    Examples
    --------
    >>> round(depth_of_share(0.01, 3.0), 2)
    8.13
    """
    return -math.log(share) / attenuation(secchi_m, factor)


def surface_lux(sun_elevation_deg: float) -> float:
    """Light on the surface under a clear sky, lux; good to a factor of two (general tables)."""
    angles, lux = zip(*_LUX, strict=True)
    return float(10 ** np.interp(sun_elevation_deg, angles, np.log10(lux)))


def isolume_depth(
    lux_there: float, sun_elevation_deg: float, secchi_m: float, factor: float = SECCHI_FACTOR
) -> float:
    """
    Depth that keeps so much light, metres, 0 where the surface has less.

    Notes
    -----
    z = ln(I0 / I) / K.
    """
    return max(math.log(max(surface_lux(sun_elevation_deg), 1e-9) / lux_there) / attenuation(secchi_m, factor), 0.0)
