"""The water column: where the cold layer begins and ends, how stable it is, how much oxygen it could hold."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from plumbbob.core.water.profile import Floats, Profile, fresh_density, thermocline_m

GRAVITY = 9.81
_STEEP_KGPM4 = 0.1  # density gradient that bounds the cold layer (Read et al. 2011)


@dataclass(frozen=True, slots=True)
class Layer:
    """The cold layer of a profile: from where it begins to where it ends."""

    top_m: float
    middle_m: float
    base_m: float


def cold_layer(profile: Profile) -> Layer | None:
    """
    Thermocline and the span in which density climbs by more than 0.1 kg/m3 a metre; None where the water is mixed.

    Notes
    -----
    Read et al. (2011), Environ. Model. Softw. 26, 1325-1336: gradients at the middles of the steps, interpolated
    linearly from the steepest outwards.

    Examples
    --------
    >>> z = np.arange(0.0, 16.0, 2.0)
    >>> p = Profile(depth_m=z, temperature_c=np.array([22, 22, 21.8, 21, 17, 11, 9, 8.5]))
    >>> layer = cold_layer(p)
    >>> round(layer.top_m, 2), round(layer.middle_m, 2), round(layer.base_m, 2)
    (5.08, 8.14, 10.93)
    """
    middle = thermocline_m(profile)
    if middle is None:
        return None
    z = profile.depth_m
    rate = np.diff(fresh_density(profile.temperature_c)) / np.diff(z)
    at = (z[:-1] + z[1:]) / 2
    i = int(rate.argmax())
    if rate[i] <= _STEEP_KGPM4:
        return Layer(middle, middle, middle)

    def crossing(steps: range, edge: float) -> float:
        last = i
        for k in steps:
            if rate[k] <= _STEEP_KGPM4:
                share = (rate[last] - _STEEP_KGPM4) / (rate[last] - rate[k])
                return float(at[last] + share * (at[k] - at[last]))
            last = k
        return edge

    top = crossing(range(i - 1, -1, -1), float(z[0]))
    base = crossing(range(i + 1, rate.size), float(z[-1]))
    return Layer(min(top, middle), middle, max(base, middle))


def schmidt_stability(profile: Profile, depth_m: ArrayLike, area_m2: ArrayLike) -> float:
    """
    Work that a mixing wind would have to do, J/m2 of surface.

    Parameters
    ----------
    profile : Profile
    depth_m, area_m2 : array_like (n,)
        The water's area at each depth, from the surface down.

    Notes
    -----
    Idso (1973); St = g / A0 * integral (z - zv) rho A dz with zv the depth of the volume's centre.

    Examples
    --------
    >>> z = np.linspace(0, 20, 4001)
    >>> box = Profile(depth_m=z, temperature_c=np.where(z < 8, 22.0, 8.0))
    >>> round(schmidt_stability(box, [0, 20], [1e6, 1e6]))
    978
    """
    d, a = np.asarray(depth_m, np.float64), np.asarray(area_m2, np.float64)
    deepest = min(float(d.max()), float(profile.depth_m[-1]))
    z = np.linspace(0.0, deepest, 2000)
    area = np.interp(z, d, a)
    rho = fresh_density(np.interp(z, profile.depth_m, profile.temperature_c))
    volume = np.trapezoid(area, z)
    if area[0] <= 0 or volume <= 0:
        return 0.0
    centre = np.trapezoid(z * area, z) / volume
    return float(GRAVITY / area[0] * np.trapezoid((z - centre) * rho * area, z))


def pressure_atm(altitude_m: float) -> float:
    """
    Air pressure at a height over the sea, standard atmosphere.

    Examples
    --------
    >>> round(pressure_atm(500.0), 4)
    0.9421
    """
    return (1.0 - 2.25577e-5 * altitude_m) ** 5.25588


def oxygen_saturation(temperature_c: ArrayLike, salinity: float = 0.0, altitude_m: float = 0.0) -> Floats:
    """
    Oxygen that water in touch with the air holds, mg/L.

    Notes
    -----
    Benson & Krause (1984), L&O 29, 620-632; 0 to 40 degC, salinity 0 to 40.

    Examples
    --------
    >>> [round(float(oxygen_saturation(t)), 3) for t in (0, 10, 20)]
    [14.621, 11.288, 9.092]
    >>> round(float(oxygen_saturation(20.0, 35.0)), 3), round(float(oxygen_saturation(20.0, 0.0, 1500.0)), 3)
    (7.396, 7.553)
    """
    t = np.asarray(temperature_c, np.float64)
    k = t + 273.15
    log_c = -139.34411 + 1.575701e5 / k - 6.642308e7 / k**2 + 1.243800e10 / k**3 - 8.621949e11 / k**4
    log_c -= salinity * (1.7674e-2 - 10.754 / k + 2140.7 / k**2)
    p = pressure_atm(altitude_m)
    u = np.exp(11.8571 - 3840.70 / k - 216961 / k**2)
    th = 0.000975 - 1.426e-5 * t + 6.436e-8 * t**2
    return np.asarray(np.exp(log_c) * p * (1 - u / p) * (1 - th * p) / ((1 - u) * (1 - th)))


def estimated_profile(
    surface_c: float, day_of_year: int, latitude: float, fetch_m: float, secchi_m: float, deepest_m: float
) -> Profile:
    """
    A guess at the profile of a temperate lake that nobody has measured: to be shown as a guess.

    Parameters
    ----------
    surface_c : float
        Surface temperature today, degC.
    day_of_year : int
    latitude : float
        Degrees; the seasons turn south of the equator.
    fetch_m : float
        Longest open stretch: a larger lake mixes deeper.
    secchi_m : float
        Clarity: clear water lets the layer sink.
    deepest_m : float

    Notes
    -----
    Late-summer depth between Gorham & Boyce (1989) for a weak wind and Hanna (1990): they bracket it by a third.
    Before late summer the layer lies higher; a surface under 9 degC counts as mixed. Bottom water keeps what spring
    left: 4 to 7 degC, more in a shallow lake.
    """
    day = (day_of_year + (182.6 if latitude < 0 else 0.0)) % 365.25
    fetch = max(fetch_m, 100.0)
    depth = np.linspace(0.0, max(deepest_m, 2.0), 60)
    cold = min(4.0 + 60.0 / max(deepest_m, 5.0) * 0.5, surface_c)
    if surface_c < 9.0 or deepest_m < 4.0:
        return Profile(depth_m=depth, temperature_c=np.full(depth.size, surface_c), estimated=True)
    drop = max(float(fresh_density(cold) - fresh_density(surface_c)), 0.1)
    wind = 2.0 * math.sqrt(0.04 / (GRAVITY * drop)) * math.sqrt(fetch)
    size = 10 ** (0.336 * math.log10(fetch) - 0.245)
    late = math.sqrt(wind * size) * min(max((secchi_m / 3.5) ** 0.25, 0.75), 1.35)
    # sinks through the summer, and quickly in autumn
    share = np.interp(day, [120, 165, 225, 270, 320], [0.35, 0.6, 1.0, 1.45, 2.5])
    middle = min(late * float(share), 0.9 * deepest_m)
    thick = max(1.2, 0.22 * middle)
    warm = cold + (surface_c - cold) / (1.0 + np.exp((depth - middle) / (0.45 * thick)))
    warm += (surface_c - warm[0]) * np.exp(-depth / max(middle, 1.0))
    return Profile(depth_m=depth, temperature_c=warm, estimated=True)
