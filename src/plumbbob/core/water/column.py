"""The water column: where the cold layer begins and ends, how stable it is, how much oxygen it could hold."""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum

import numpy as np
from numpy.typing import ArrayLike

from plumbbob.core.types import Floats
from plumbbob.core.water.profile import Profile, fresh_density, thermocline_m

GRAVITY = 9.81
_STEEP_KGPM4 = 0.1  # density gradient that bounds the cold layer (Read et al. 2011)
_EDGE_SHARE = 0.2  # of the steepest: warm water passes the gradient above with a third of a degree a metre
_LEAST_DROP_KGPM3, _LEAST_DROP_C = 0.25, 1.0
_SKIN_M = 1.5
_GUESSED_DROP_C, _GUESSED_DROP_WARM_C, _WARM_BOTTOM_C = 3.0, 1.5, 20.0


@dataclass(frozen=True, slots=True)
class Layer:
    """The cold layer of a profile: from where it begins to where it ends."""

    top_m: float
    middle_m: float
    base_m: float


class Layering(Enum):
    """What a column of temperatures is."""

    MIXED = "mixed"  # too little difference to speak of
    LAYERED = "layered"
    WEAK = "weak"  # a gradient, but too slight for a layer
    SKIN = "skin"  # only the day's warm skin
    INVERSE = "inverse"  # colder on top, as under ice


def layering(profile: Profile) -> tuple[Layering, Layer | None]:
    """
    What a column is, and its cold layer where it has one.

    Notes
    -----
    A layer needs a metre in which density climbs by 0.1 kg/m3, a climb of 0.25 kg/m3 over all of it, and a degree of
    cooling (docs/handbook.md, 3.6); a guess must show more: 3 degrees (1.5 in warm water), and a centre well off
    the bottom. A step whose centre lies in the top metre and a half is the day's skin; what lies below it counts.
    """
    t = profile.temperature_c
    if np.ptp(t) < _LEAST_DROP_C:
        return Layering.MIXED, None
    if float(t[0]) < 4.0 and float(t[0]) < float(t[-1]):
        return Layering.INVERSE, None
    layer = _layer_of(profile)
    if layer is None:
        return Layering.WEAK, None
    if layer.middle_m >= _SKIN_M:
        return (Layering.LAYERED, layer) if _may_be_told(profile, layer) else (Layering.WEAK, None)
    below = _below_skin(profile)
    deeper = _layer_of(below) if below is not None else None
    return (Layering.SKIN, None) if deeper is None else (Layering.LAYERED, deeper)


def cold_layer(profile: Profile) -> Layer | None:
    """
    The cold layer of a column; None where there is none worth the name (see `layering`).

    Notes
    -----
    Its middle is the thermocline; it reaches as far as density climbs by more than 0.1 kg/m3 a metre, in warm water
    by a fifth of its steepest. Read et al. (2011), Environ. Model. Softw. 26, 1325-1336: gradients at the middles of
    the steps, interpolated linearly from the steepest outwards.

    Examples
    --------
    >>> z = np.arange(0.0, 16.0, 2.0)
    >>> p = Profile(depth_m=z, temperature_c=np.array([22, 22, 21.8, 21, 17, 11, 9, 8.5]))
    >>> layer = cold_layer(p)
    >>> round(layer.top_m, 2), round(layer.middle_m, 2), round(layer.base_m, 2)
    (5.08, 8.14, 10.93)
    """
    return layering(profile)[1]


def _layer_of(profile: Profile) -> Layer | None:
    middle = thermocline_m(profile)
    if middle is None or not _steep_enough(profile):
        return None
    z = profile.depth_m
    rate = np.diff(fresh_density(profile.temperature_c)) / np.diff(z)
    at = (z[:-1] + z[1:]) / 2
    i = int(rate.argmax())
    least = max(_STEEP_KGPM4, _EDGE_SHARE * float(rate[i]))
    if rate[i] <= least:
        return None

    def crossing(steps: range, edge: float) -> float:
        last = i
        for k in steps:
            if rate[k] <= least:
                share = (rate[last] - least) / (rate[last] - rate[k])
                return float(at[last] + share * (at[k] - at[last]))
            last = k
        return edge

    top = crossing(range(i - 1, -1, -1), float(z[0]))
    base = crossing(range(i + 1, rate.size), float(z[-1]))
    return Layer(min(top, middle), middle, max(base, middle))


def _steep_enough(profile: Profile) -> bool:
    """A metre, a climb and a cooling that make a layer."""
    z, t = profile.depth_m, profile.temperature_c
    fine = np.arange(float(z[0]), float(z[-1]) + 1e-9, 0.1)
    rho = fresh_density(np.interp(fine, z, t))
    metre = min(10, fine.size - 1)
    if metre < 1:
        return False
    steepest = float((rho[metre:] - rho[:-metre]).max()) / (0.1 * metre)
    cooling = float(t.max() - t[int(t.argmax()) :].min())
    drop = float(rho.max() - rho.min())
    return steepest >= _STEEP_KGPM4 and drop >= _LEAST_DROP_KGPM3 and cooling >= _LEAST_DROP_C


def _may_be_told(profile: Profile, layer: Layer) -> bool:
    """A guess cannot carry as little as a cast."""
    if not profile.estimated:
        return True
    t = profile.temperature_c
    drop, bottom = float(t.max() - t[-1]), float(t[-1])
    least = _GUESSED_DROP_WARM_C if bottom > _WARM_BOTTOM_C else _GUESSED_DROP_C
    return not profile.doubtful and drop >= least and layer.middle_m < 0.85 * float(profile.depth_m[-1])


def _below_skin(profile: Profile) -> Profile | None:
    """The column from under the day's skin on."""
    z, t = profile.depth_m, profile.temperature_c
    deeper = z > _SKIN_M
    if deeper.sum() < 2:
        return None
    first = float(np.interp(_SKIN_M, z, t))
    return Profile(
        depth_m=np.append(_SKIN_M, z[deeper]),
        temperature_c=np.append(first, t[deeper]),
        estimated=profile.estimated,
    )


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
