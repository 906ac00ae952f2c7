"""Speed of sound in fresh and salt water, and what a wrong one does to a depth."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike, NDArray

Floats = NDArray[np.float64]
_MARCZAK = (2.787860e-9, -1.398845e-6, 3.287156e-4, -5.799136e-2, 5.038813, 1402.385)


def fresh_sound_speed(temperature_c: ArrayLike, depth_m: ArrayLike = 0.0) -> Floats:
    """
    Speed of sound in fresh water, m/s, 0 to 95 degC, depths under 200 m.

    Notes
    -----
    Marczak (1997), J. Acoust. Soc. Am. 102, 2776, plus 0.016 m/s per metre of depth.

    Examples
    --------
    >>> [round(float(fresh_sound_speed(t)), 2) for t in (4, 10, 20, 25)]
    [1421.63, 1447.29, 1482.38, 1496.73]
    """
    return np.asarray(np.polyval(_MARCZAK, np.asarray(temperature_c, np.float64)) + 0.016 * np.asarray(depth_m))


def sea_sound_speed(temperature_c: ArrayLike, salinity: ArrayLike, depth_m: ArrayLike) -> Floats:
    """
    Speed of sound in sea water, m/s: 2 to 30 degC, salinity 25 to 40.

    Notes
    -----
    Mackenzie (1981), J. Acoust. Soc. Am. 70, 807-812.

    Examples
    --------
    >>> round(float(sea_sound_speed(25.0, 35.0, 1000.0)), 3)
    1550.744
    """
    t, z = np.asarray(temperature_c, np.float64), np.asarray(depth_m, np.float64)
    s = np.asarray(salinity, np.float64) - 35.0
    warm = 1448.96 + t * (4.591 + t * (-5.304e-2 + 2.374e-4 * t))
    return np.asarray(warm + 1.340 * s + z * (1.630e-2 + 1.675e-7 * z) - 1.025e-2 * t * s - 7.139e-13 * t * z**3)
