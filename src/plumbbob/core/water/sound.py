"""Speed of sound in fresh and salt water, and what a wrong one does to a depth."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike

from plumbbob.core.types import Floats

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


def absorption_db_per_m(
    frequency_hz: ArrayLike, temperature_c: float, salinity: float = 0.0, depth_m: float = 0.0, ph: float = 8.0
) -> Floats:
    """
    Sound lost as heat, dB per metre one way, 0.4 kHz to 1 MHz.

    Notes
    -----
    Francois & Garrison (1982), J. Acoust. Soc. Am. 72, 896 and 1879: boric acid, magnesium sulphate, water.

    Examples
    --------
    >>> [round(1000 * float(absorption_db_per_m(200e3, 10.0, s, 10.0)), 2) for s in (0.0, 35.0)]
    [12.43, 54.38]
    """
    f, t, z = np.asarray(frequency_hz, np.float64) / 1000.0, temperature_c, depth_m
    if t <= 20.0:
        a3 = 4.937e-4 - 2.59e-5 * t + 9.11e-7 * t**2 - 1.50e-8 * t**3
    else:
        a3 = 3.964e-4 - 1.146e-5 * t + 1.45e-7 * t**2 - 6.5e-10 * t**3
    total = a3 * (1.0 - 3.83e-5 * z + 4.9e-10 * z**2) * f**2
    if salinity > 0.0:
        c = 1412.0 + 3.21 * t + 1.19 * salinity + 0.0167 * z
        f1 = 2.8 * np.sqrt(salinity / 35.0) * 10 ** (4.0 - 1245.0 / (273.0 + t))
        f2 = 8.17 * 10 ** (8.0 - 1990.0 / (273.0 + t)) / (1.0 + 0.0018 * (salinity - 35.0))
        total = total + 8.86 / c * 10 ** (0.78 * ph - 5.0) * f1 * f**2 / (f1**2 + f**2)
        a2, p2 = 21.44 * salinity / c * (1.0 + 0.025 * t), 1.0 - 1.37e-4 * z + 6.2e-9 * z**2
        total = total + a2 * p2 * f2 * f**2 / (f2**2 + f**2)
    return np.asarray(total / 1000.0)


def true_range(shown_m: ArrayLike, used_mps: float, depth_m: ArrayLike, speed_mps: ArrayLike) -> Floats:
    """
    Vertical range through layered water of an echo shown with one speed of sound.

    Parameters
    ----------
    shown_m : array_like of shape S
        Ranges as shown, from the transducer down.
    used_mps : float
        Speed of sound they were shown with.
    depth_m, speed_mps : array_like (levels,)
        Speed of sound by depth under the transducer, from 0 down; below the last level as there.

    Returns
    -------
    ndarray of shape S

    Notes
    -----
    The echo's time is that of the way through each layer: dz / c summed up (docs/handbook.md, 1.1). Speeds run
    straight between the levels.

    Examples
    --------
    >>> z, t = [0.0, 5.0, 5.0001, 10.0], np.array([22.0, 22.0, 8.0, 8.0])
    >>> shown = 10.0 * 1500.0 / 1463.34
    >>> round(float(true_range(shown, 1500.0, z, fresh_sound_speed(t))), 2)
    10.0
    """
    z, c = np.asarray(depth_m, np.float64), np.asarray(speed_mps, np.float64)
    shown = np.asarray(shown_m, np.float64)
    deepest = max(2.0 * float(np.max(shown, initial=0.0)), float(z[-1]), 1.0)
    fine = np.unique(np.concatenate([np.linspace(0.0, deepest, 4001), z[(z > 0) & (z < deepest)]]))
    middle = (fine[1:] + fine[:-1]) / 2
    seconds = np.concatenate([[0.0], np.cumsum(np.diff(fine) / np.interp(middle, z, c))])
    return np.interp(shown / used_mps, seconds, fine)
