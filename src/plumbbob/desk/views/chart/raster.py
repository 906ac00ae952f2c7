"""Pixels of the chart: depths sampled once for a view, coloured anew for every window, level or wind. No Qt here."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from plumbbob.core.cell_grid import CellGrid
from plumbbob.core.types import Singles
from plumbbob.core.water.wind import LayerPlane
from plumbbob.desk.models.chart_model import ChartViewport, Shown
from plumbbob.desk.theme import Theme, ramp_of, rgb

if TYPE_CHECKING:
    from plumbbob.core.chart.build import Chart

Pixels = NDArray[np.uint32]
_SHADES = 24
_SUN_FROM = (-0.6, 0.6)  # east, north: from the north-west, as one is used to


@dataclass(frozen=True, slots=True, eq=False)
class Sampled:
    """What one view shows of a chart, shape (height, width) each; depths at datum, also beyond what is known."""

    x: NDArray[np.float64]  # (width,) eastings of the columns
    y: NDArray[np.float64]  # (height,) northings of the rows
    depth: Singles
    known: NDArray[np.bool_]
    land: NDArray[np.bool_]
    unknown: NDArray[np.bool_]  # neither sounded nor land
    edge: NDArray[np.bool_]  # where knowledge ends
    shade: NDArray[np.uint16]  # of the relief, as rows of a table of 256 colours
    values: Singles | None = None  # slope or spread, where that is shown

    def every(self, step: int) -> Sampled:
        """Every so many pixels: coarse, for a picture that follows a hand."""
        s = np.s_[::step, ::step]
        return Sampled(
            x=self.x[::step],
            y=self.y[::step],
            depth=np.ascontiguousarray(self.depth[s]),
            known=self.known[s],
            land=self.land[s],
            unknown=self.unknown[s],
            edge=self.edge[s],
            shade=np.ascontiguousarray(self.shade[s]),
            values=None if self.values is None else self.values[s],
        )


class ChartRaster:
    """One chart, ready to be sampled."""

    def __init__(self, chart: Chart, slope: NDArray[np.float64]) -> None:
        self.chart = chart
        grid = chart.grid
        self._depth = np.where(grid.known, grid.depth_m, grid.surface_m).astype(np.float32)
        self._known = grid.known.astype(np.float32)
        self._land = chart.land.astype(np.float32)
        self._slope = slope.astype(np.float32)
        dy, dx = np.gradient(self._depth, grid.frame.cell_m)
        # a bottom that falls away from the light is darker: depth grows downwards
        lit = dx * np.float32(-_SUN_FROM[0]) + dy * np.float32(-_SUN_FROM[1])
        steep = np.float32(6.0)
        self._relief = (np.tanh(-lit * steep) * np.float32(0.5) + np.float32(0.5)) * np.float32(_SHADES - 1)
        self.deepest = float(np.nanpercentile(grid.depth_m, 99.8))

    def sample(self, view: ChartViewport, width: int, height: int, shown: Shown) -> Sampled:
        """What a view shows: between cells straight; from so far off that a pixel holds cells, the nearest cell's."""
        frame = self.chart.grid.frame
        x = np.asarray(view.x + (np.arange(width) + 0.5 - width / 2) * view.m_per_px, np.float64)
        y = np.asarray(view.y - (np.arange(height) + 0.5 - height / 2) * view.m_per_px, np.float64)
        r, c = nearest(frame, x, y)
        row, column = frame.row_column(x, y)
        inside = np.outer((row > -0.5) & (row < frame.ny - 0.5), (column > -0.5) & (column < frame.nx - 0.5))
        near = view.m_per_px < frame.cell_m

        def between(field: Singles) -> Singles:
            return _bilinear(field, frame, x, y) if near else field[r[:, None], c[None, :]]

        values = None
        if shown is Shown.SLOPE:
            values = _bilinear(self._slope, frame, x, y)
        elif shown is Shown.SPREAD:
            values = between(np.nan_to_num(self.chart.grid.sd_m).astype(np.float32))
        known = (between(self._known) > 0.5) & inside
        land = between(self._land) > 0.5
        unknown = ~(known | land)
        edge = _border(unknown) & ~land
        edge[::2] = False
        return Sampled(
            x=x,
            y=y,
            depth=_bilinear(self._depth, frame, x, y),
            known=known,
            land=land,
            unknown=unknown,
            edge=edge,
            shade=np.clip(between(self._relief), 0, _SHADES - 1).astype(np.uint16) * np.uint16(256),
            values=values,
        )


def nearest(
    frame: CellGrid, x: NDArray[np.float64], y: NDArray[np.float64]
) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
    """Row and column of the nearest cells; beyond the frame its rim, so that land goes on."""
    row, column = frame.row_column(x, y)
    r, c = np.floor(row + 0.5).astype(np.intp), np.floor(column + 0.5).astype(np.intp)
    return np.clip(r, 0, frame.ny - 1), np.clip(c, 0, frame.nx - 1)


def _bilinear(field: Singles, frame: CellGrid, x: NDArray[np.float64], y: NDArray[np.float64]) -> Singles:
    """Between cells straight, first down the rows, then across: the picture's axes are the chart's."""
    row, column = frame.row_column(x, y)
    r = np.clip(np.floor(row).astype(np.intp), 0, max(frame.ny - 2, 0))
    c = np.clip(np.floor(column).astype(np.intp), 0, max(frame.nx - 2, 0))
    f = np.clip(row - r, 0.0, 1.0).astype(np.float32)[:, None]
    g = np.clip(column - c, 0.0, 1.0).astype(np.float32)[None, :]
    low, high = int(c[0]), int(c[-1]) + 2
    band = field[:, low:high]
    lines = band[r] * (1 - f) + band[np.minimum(r + 1, frame.ny - 1)] * f
    found = lines[:, c - low] * (1 - g) + lines[:, np.minimum(c + 1, frame.nx - 1) - low] * g
    return np.asarray(found, np.float32)


class Palette:
    """Tables of colours for one theme and one chart."""

    def __init__(self, theme: Theme, deepest_m: float) -> None:
        self.theme = theme
        self.deepest = max(deepest_m, 1.0)
        self.depth = _lit(ramp_of(theme.depth), theme)
        self.slope = _lit(ramp_of((theme.ground, theme.teal, theme.brass, theme.vermilion)), theme)
        self.spread = _lit(ramp_of((theme.lichen, theme.brass, theme.vermilion)), theme)
        self.ground = _solid(theme.ground)
        self.land = _solid(theme.land)
        self.dots = _mixed(theme.ground, theme.muted, 0.35)
        self.edge = _solid(theme.brass)
        self.shore = _solid(theme.ink)
        self.layer = _solid(theme.teal)


def _solid(colour: str) -> np.uint32:
    r, g, b = rgb(colour)
    return np.uint32(0xFF000000 | r << 16 | g << 8 | b)


def _mixed(a: str, b: str, share: float) -> np.uint32:
    parts = [round(p + (q - p) * share) for p, q in zip(rgb(a), rgb(b), strict=True)]
    return np.uint32(0xFF000000 | parts[0] << 16 | parts[1] << 8 | parts[2])


def _lit(colours: Pixels, theme: Theme) -> Pixels:
    """Each colour in so many lights, shape (shades, 256)."""
    out = np.empty((_SHADES, colours.size), np.uint32)
    channels = [(colours >> np.uint32(s)) & np.uint32(255) for s in (16, 8, 0)]
    for k in range(_SHADES):
        light = 0.74 + 0.36 * k / (_SHADES - 1)
        r, g, b = (np.clip(c * light, 0, 255).astype(np.uint32) for c in channels)
        out[k] = np.uint32(0xFF000000) | r << np.uint32(16) | g << np.uint32(8) | b
    return out


def colour(
    sampled: Sampled,
    palette: Palette,
    *,
    level_m: float,
    window: tuple[float, float] | None,
    layer: LayerPlane | None,
    shown: Shown,
    windward: NDArray[np.bool_] | None = None,
) -> Pixels:
    """
    Pixels of a view, 0xAARRGGBB, shape (height, width).

    Parameters
    ----------
    sampled : Sampled
    palette : Palette
    level_m : float
        Water level over datum: moves depths and shoreline.
    window : (float, float), optional
        Only this band is painted, the rest falls back to the ground colour.
    layer : LayerPlane, optional
        Where the bottom meets it a broken line is drawn.
    shown : Shown
    windward : ndarray of bool, optional
        Where the wind comes over much water: the shore there is drawn broad.
    """
    depth = sampled.depth
    wet = depth > np.float32(-level_m)
    wet &= sampled.known
    if shown is Shown.DEPTH or sampled.values is None:
        table, value, low, most = palette.depth, depth, level_m, palette.deepest
    elif shown is Shown.SLOPE:
        table, value, low, most = palette.slope, sampled.values, 0.0, 25.0
    else:
        table, value, low, most = palette.spread, sampled.values, 0.0, 1.0
    index = value * np.float32(255.0 / most)
    index += np.float32(low * 255.0 / most)
    np.maximum(index, 0.0, out=index)
    np.minimum(index, 255.0, out=index)
    out = table.ravel().take(index.astype(np.uint16) + sampled.shade)
    dry = sampled.known & ~wet
    dry |= sampled.land
    if window is not None:
        painted = depth >= np.float32(window[0] - level_m)
        painted &= depth <= np.float32(window[1] - level_m)
        painted &= wet
        np.copyto(out, palette.ground, where=wet & ~painted)
    np.copyto(out, palette.land, where=dry)
    np.copyto(out, palette.ground, where=sampled.unknown)
    # not sounded: dots on a lattice, so that it never reads as shallow or deep
    out[::7, ::7][sampled.unknown[::7, ::7]] = palette.dots
    if layer is not None:
        x = (sampled.x - layer.x_m).astype(np.float32) * np.float32(layer.east_per_m)
        y = (sampled.y - layer.y_m).astype(np.float32) * np.float32(layer.north_per_m)
        under = depth - x[None, :] < (y + np.float32(layer.middle_m - level_m))[:, None]
        _stroke(out, under, wet & _dashes(wet.shape), palette.layer, _BROAD)
    if window is not None:
        _stroke(out, painted, wet, palette.edge, _BROAD)
    land = ~sampled.unknown
    if windward is not None:
        _stroke(out, dry, land & windward, palette.layer, _BROADEST)
    _stroke(out, dry, land, palette.shore, _THIN)
    np.copyto(out, palette.dots, where=sampled.edge)
    return out


@lru_cache(maxsize=4)
def _dashes(shape: tuple[int, int]) -> NDArray[np.bool_]:
    """Two thirds of every slanted stripe: what a broken line keeps."""
    return ((np.arange(shape[1])[None, :] + np.arange(shape[0])[:, None]) % 9) < 6


def _border(mask: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """Pixels whose right or lower neighbour is on the other side."""
    out = np.zeros(mask.shape, bool)
    np.not_equal(mask[:, :-1], mask[:, 1:], out=out[:, :-1])
    out[:-1] |= mask[:-1] != mask[1:]
    return out


def _opacity(sharp: float) -> NDArray[np.uint8]:
    """How strongly a pixel takes a line's colour, by how much of what is about it, of 256, lies on one side."""
    share = np.arange(257) / 256.0
    return np.round(np.clip(sharp * (4 * share * (1 - share) - 1) + 1, 0, 1) * 255).astype(np.uint8)


_WEIGHTS = (1, 4, 6, 4, 1)  # their products sum to 256
_THIN, _BROAD, _BROADEST = _opacity(2.6), _opacity(1.5), _opacity(1.03)


def _stroke(
    out: Pixels, side: NDArray[np.bool_], where: NDArray[np.bool_], colour: np.uint32, opacity: NDArray[np.uint8]
) -> None:
    """Draw the border of a mask without stairs: a pixel near it counts for as much as it is halved."""
    near = _near(_border(side)) & where
    at = np.flatnonzero(near)
    row, column = np.divmod(at, side.shape[1])
    around = np.pad(side.view(np.uint8), 2, mode="edge")
    flat, wide = around.ravel(), around.shape[1]
    first = row * wide + column
    halved = np.zeros(at.size, np.intp)
    for k, up in enumerate(_WEIGHTS):
        for m, across in enumerate(_WEIGHTS):
            halved += up * across * flat.take(first + (k * wide + m))
    share = opacity.take(halved).astype(np.int64)
    under = out.ravel()[at].astype(np.int64)
    mixed = np.full(at.size, 0xFF000000, np.int64)
    for shift in (16, 8, 0):
        ground, ink = (under >> shift) & 255, (int(colour) >> shift) & 255
        mixed |= (ground + (ink - ground) * share // 255) << shift
    out.ravel()[at] = mixed.astype(np.uint32)


def _near(line: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """A line with two pixels on either side."""
    wide = line.copy()
    for shift in (1, 2):
        wide[:, shift:] |= line[:, :-shift]
        wide[:, :-shift] |= line[:, shift:]
    out = wide.copy()
    for shift in (1, 2):
        out[shift:] |= wide[:-shift]
        out[:-shift] |= wide[shift:]
    return out
