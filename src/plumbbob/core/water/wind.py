"""What a steady wind does: stress, waves, a tilted cold layer, and the banks it blows onto."""

from __future__ import annotations

import math
from dataclasses import dataclass
from enum import Enum

import numpy as np
from numpy.typing import ArrayLike, NDArray

from plumbbob.core.types import Floats
from plumbbob.core.water.column import GRAVITY, Layer
from plumbbob.core.water.profile import Profile, fresh_density

AIR_DENSITY = 1.2
_DRAG = 1.3e-3  # of the wind ten metres up on water


def friction_velocity_squared(wind_mps: float) -> float:
    """u*^2 in the water, m2/s2: the wind's stress over the water's density."""
    return AIR_DENSITY * _DRAG * wind_mps**2 / 1000.0


class TiltState(Enum):
    """How far the cold layer leans, and whether the estimate still holds."""

    HARDLY = "hardly"
    TILTED = "tilted"
    STRONGLY = "strongly"
    SURFACING = "surfacing"


class WindCaution(Enum):
    """How much a wind asks of a small boat."""

    MIND = "mind"
    ASHORE = "ashore"


@dataclass(frozen=True, slots=True, kw_only=True)
class Tilt:
    """How a steady wind tilts the cold layer."""

    end_to_end_m: float  # over the whole fetch: down at the downwind end, up at the upwind; NaN where none holds
    wedderburn: float
    period_h: float  # of the internal swing; the tilt stands after about a quarter of it
    state: TiltState


def layer_tilt(profile: Profile, layer: Layer, wind_mps: float, fetch_m: float, deepest_m: float) -> Tilt:
    """
    Two-layer estimate of the cold layer's tilt.

    Parameters
    ----------
    profile : Profile
    layer : Layer
    wind_mps : float
        Steady for at least a quarter of the period.
    fetch_m : float
        Length of the water along the wind.
    deepest_m : float

    Notes
    -----
    Spigel & Imberger (1980), Imberger & Hamblin (1982): dz = L u*^2 / (g' h1), W = h1 / dz. Holds for W over about 3;
    below,
    the real layer breaks up and mixes, and under 1 no figure is given. Rotation, shores and a changing wind are not
    in it. It is cut at the thickness of the upper layer.

    Examples
    --------
    >>> z = np.linspace(0, 20, 201)
    >>> box = Profile(depth_m=z, temperature_c=np.where(z < 8, 22.0, 8.0))
    >>> tilt = layer_tilt(box, Layer(8.0, 8.0, 8.0), 8.0, 5000.0, 20.0)
    >>> round(tilt.end_to_end_m, 2), round(tilt.wedderburn, 2), round(tilt.period_h, 2)
    (3.06, 2.61, 8.88)
    """
    h1 = max(layer.middle_m, 0.5)
    h2 = max(deepest_m - h1, 0.5)
    above = profile.depth_m < layer.middle_m
    warm = float(fresh_density(profile.temperature_c[above]).mean()) if above.any() else 998.0
    cold = float(fresh_density(profile.temperature_c[~above]).mean()) if (~above).any() else warm
    reduced = GRAVITY * max(cold - warm, 1e-3) / cold
    dz = fetch_m * friction_velocity_squared(wind_mps) / (reduced * h1)
    number = h1 / dz if dz > 0 else math.inf
    period = 2 * fetch_m / math.sqrt(reduced * h1 * h2 / (h1 + h2)) / 3600.0
    if number > 10:
        state = TiltState.HARDLY
    elif number > 3:
        state = TiltState.TILTED
    elif number > 1.0:
        state = TiltState.STRONGLY
    else:
        state = TiltState.SURFACING
    return Tilt(
        end_to_end_m=min(dz, 2 * h1) if number >= 1.0 else math.nan, wedderburn=number, period_h=period, state=state
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class LayerPlane:
    """The cold layer over a chart's plane: level, or tilted by a wind."""

    middle_m: float
    east_per_m: float = 0.0  # deeper by so much a metre eastwards
    north_per_m: float = 0.0
    x_m: float = 0.0  # where it has its middle depth
    y_m: float = 0.0

    def at(self, x: ArrayLike, y: ArrayLike) -> Floats:
        """Depth at places, metres; never above the surface."""
        east, north = np.asarray(x, np.float64) - self.x_m, np.asarray(y, np.float64) - self.y_m
        return np.maximum(self.middle_m + self.east_per_m * east + self.north_per_m * north, 0.0)


def tilted_layer(middle_m: float, tilt_m: float, x: Floats, y: Floats, wind_from_deg: float) -> LayerPlane:
    """
    The cold layer as a plane tilted about the water's middle: deeper downwind, shallower upwind.

    Parameters
    ----------
    middle_m, tilt_m : float
        Depth where nothing blows, and the tilt end to end.
    x, y : ndarray
        Eastings and northings of the water's cells.
    wind_from_deg : float
        Where the wind comes from.

    Examples
    --------
    >>> plane = tilted_layer(8.0, 2.0, np.array([0.0, 1000.0]), np.array([0.0, 0.0]), 270.0)
    >>> [round(float(plane.at(x, 0.0)), 3) for x in (0.0, 500.0, 1000.0)]
    [7.0, 8.0, 9.0]
    """
    to = math.radians(wind_from_deg + 180.0)
    east, north = math.sin(to), math.cos(to)
    along = x * east + y * north
    low, high = float(along.min()), float(along.max())
    per_m = tilt_m / max(high - low, 1.0)
    middle = (low + high) / 2
    return LayerPlane(
        middle_m=middle_m,
        east_per_m=per_m * east,
        north_per_m=per_m * north,
        x_m=middle * east,
        y_m=middle * north,
    )


def fetch_field(water: NDArray[np.bool_], cell_m: float, wind_from_deg: float) -> Floats:
    """
    Open water upwind of each cell, metres; 0 on land.

    Parameters
    ----------
    water : ndarray of bool (ny, nx)
        Rows from south to north.
    cell_m : float
    wind_from_deg : float
    """
    from scipy import ndimage  # slow to load, and only wanted once there is a chart

    # turned so that the wind runs down the rows: then the fetch is a running count
    ny, nx = water.shape
    pad = math.ceil(math.hypot(ny, nx) / 2) + 1
    size = 2 * pad + 1
    a = math.radians(wind_from_deg)
    up = np.array([math.cos(a), math.sin(a)])  # (row, column) steps towards the wind
    side = np.array([-math.sin(a), math.cos(a)])
    r, c = np.mgrid[-pad : pad + 1, -pad : pad + 1]
    centre = np.array([(ny - 1) / 2, (nx - 1) / 2])
    rows = centre[0] + r * -up[0] + c * side[0]
    columns = centre[1] + r * -up[1] + c * side[1]
    turned = ndimage.map_coordinates(water.astype(np.float32), [rows, columns], order=0, cval=0.0) > 0.5
    run = np.zeros(size)
    fetch = np.zeros((size, size), np.float32)
    for i in range(size):
        run = np.where(turned[i], run + cell_m, 0.0)
        fetch[i] = run
    back_r, back_c = np.mgrid[:ny, :nx]
    dr, dc = back_r - centre[0], back_c - centre[1]
    along, across = -(dr * up[0] + dc * up[1]), dr * side[0] + dc * side[1]
    found = ndimage.map_coordinates(fetch, [along + pad, across + pad], order=0)
    return np.where(water, np.maximum(found, cell_m / 2), 0.0)


def wave_height_m(wind_mps: float, fetch_m: float) -> float:
    """
    Significant height of waves after a long steady wind over deep water.

    Notes
    -----
    CERC (1977), the SMB curves.

    Examples
    --------
    >>> round(wave_height_m(10.0, 5000.0), 3), round(wave_height_m(8.0, 3000.0), 2)
    (0.482, 0.3)
    """
    if wind_mps <= 0.0:
        return 0.0
    scale = wind_mps**2 / GRAVITY
    return 0.283 * scale * math.tanh(0.0125 * (fetch_m / scale) ** 0.42)


def wind_caution(wind_mps: float, kayak: bool = False) -> WindCaution | None:
    """What to mind at a mean wind; gusts are half as strong again. Local advice comes first."""
    watch, off = (4.0, 7.0) if kayak else (6.5, 10.0)
    if wind_mps >= off:
        return WindCaution.ASHORE
    if wind_mps >= watch:
        return WindCaution.MIND
    return None
