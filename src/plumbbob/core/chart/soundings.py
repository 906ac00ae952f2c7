"""Soundings, and what to leave out of them before they become a chart: counted, switchable, never silent."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from enum import IntEnum

import numpy as np
from numpy.typing import NDArray

from plumbbob.core.cell_grid import CellGrid
from plumbbob.core.geodesy import Plane, Position, utm_epsg
from plumbbob.core.types import Floats


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Soundings:
    """Depths as they were read, in the order they were taken; shape (n,) each."""

    latitude: Floats
    longitude: Floats
    depth_m: Floats  # below the transducer or the surface, as the file says
    water_level_m: Floats  # above the chart's datum when it was taken; 0 where unknown
    time: Floats  # NaN where unknown

    def __len__(self) -> int:
        return int(self.depth_m.size)


def joined(parts: Sequence[Soundings]) -> Soundings:
    """All soundings of several files, one after the other."""
    names = ("latitude", "longitude", "depth_m", "water_level_m", "time")
    empty = [np.zeros(0)]
    return Soundings(**{n: np.concatenate([getattr(p, n) for p in parts] or empty) for n in names})


class Fault(IntEnum):
    """Why a sounding is left out."""

    NONE = 0
    NO_DEPTH = 1
    STRAY = 2
    JUMP = 3
    DOUBLE = 4
    SPIKE = 5
    WEED = 6


FAULT_WORDS = {
    Fault.NO_DEPTH: "no depth",
    Fault.STRAY: "fix far away",
    Fault.JUMP: "fix jumped",
    Fault.DOUBLE: "double echo",
    Fault.SPIKE: "spike",
    Fault.WEED: "weed top",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class CleanSettings:
    """What is looked for, and how a depth as read becomes a depth at datum."""

    look_for: frozenset[Fault] = field(default_factory=lambda: frozenset(FAULT_WORDS))
    draft_m: float = 0.0  # added: soundings were taken from a transducer so deep
    level_m: float = 0.0  # water level over datum of soundings that carry none
    sound_speed_ratio: float = 1.0  # true over assumed


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Cleaned:
    """Soundings on the chart's plane with a verdict on each; shape (n,)."""

    plane: Plane
    x: Floats
    y: Floats
    depth_m: Floats  # at datum
    fault: NDArray[np.uint8]  # of Fault; what is switched off is not looked for

    @property
    def kept(self) -> NDArray[np.bool_]:
        """What goes into the chart."""
        return self.fault == Fault.NONE

    def counts(self) -> dict[Fault, int]:
        """How many were left out, by reason."""
        found = np.bincount(self.fault, minlength=len(Fault))
        return {fault: int(found[fault]) for fault in FAULT_WORDS if found[fault]}


_DEEPEST_M = 2000.0
_ISLE_M = 1500.0  # soundings further apart than about this are another survey
_STIFFNESS_M2 = 9600.0  # of the surface that soundings are held against
_WINDOW = 15  # soundings, for running medians


def clean(soundings: Soundings, settings: CleanSettings | None = None, plane: Plane | None = None) -> Cleaned:
    """
    Depths at datum on a plane, and which of them are no bottom.

    Parameters
    ----------
    soundings : Soundings
        In the order they were taken: the running medians stand on that.
    settings : CleanSettings, optional
    plane : Plane, optional
        Default: the UTM zone of the median position.

    Returns
    -------
    Cleaned

    Raises
    ------
    ValueError
        If no sounding has a usable position and depth.

    Notes
    -----
    No depth, stray and jumped fixes come first; then double echoes and spikes against a running median of 15
    soundings (median absolute deviation over 4); then long double echoes and weed against a robust surface
    through the neighbourhood. A weed bed is ragged: there the deep returns count, and ragged tops over them are left
    out. A rock is not: many soundings that agree are bottom, however steep.
    """
    settings = settings or CleanSettings()
    display = settings.look_for
    n = len(soundings)
    fault = np.zeros(n, np.uint8)
    raw = soundings.depth_m
    level = np.where(np.isfinite(soundings.water_level_m), soundings.water_level_m, settings.level_m)
    depth = raw * settings.sound_speed_ratio + settings.draft_m - level
    usable = np.isfinite(raw) & np.isfinite(soundings.latitude) & np.isfinite(soundings.longitude)
    fault[~usable] = Fault.NO_DEPTH
    if Fault.NO_DEPTH in display:
        fault[(raw <= 0.05) | (np.abs(raw) > _DEEPEST_M)] = Fault.NO_DEPTH
    nowhere = (np.abs(soundings.latitude) < 1e-6) & (np.abs(soundings.longitude) < 1e-6)
    off_globe = (np.abs(soundings.latitude) > 90) | (np.abs(soundings.longitude) > 360)
    fault[usable & (nowhere | off_globe)] = Fault.STRAY
    good = fault == 0
    if not good.any():
        raise ValueError("no sounding has a usable position and depth")
    if plane is None:
        middle = Position(float(np.median(soundings.latitude[good])), _middle_longitude(soundings.longitude[good]))
        plane = Plane(utm_epsg(middle))
    x, y = np.full(n, np.nan), np.full(n, np.nan)
    near = good & _within_degrees(soundings, good, 3.0)
    fault[good & ~near] = Fault.STRAY  # off the plane: nothing can be done with them
    x[near], y[near] = plane.to_xy(soundings.latitude[near], soundings.longitude[near])
    fault[near & ~np.isfinite(x)] = Fault.STRAY

    def judge(which: Fault, found: NDArray[np.bool_], at: NDArray[np.intp]) -> None:
        if which in display:
            fault[at[found]] = which

    at = np.flatnonzero(fault == 0)
    judge(Fault.STRAY, _strays(x[at], y[at]), at)
    at = np.flatnonzero(fault == 0)
    judge(Fault.JUMP, _jumps(x[at], y[at]), at)
    at = np.flatnonzero(fault == 0)
    if at.size >= _WINDOW:
        double, spike = _against_neighbours(depth[at])
        judge(Fault.SPIKE, spike, at)
        judge(Fault.DOUBLE, double, at)
        at = np.flatnonzero(fault == 0)
        double, weed = _against_surface(x[at], y[at], depth[at])
        judge(Fault.DOUBLE, double, at)
        judge(Fault.WEED, weed, at)
    return Cleaned(plane=plane, x=x, y=y, depth_m=depth, fault=fault)


def _middle_longitude(longitude: Floats) -> float:
    """Median on the circle: about the mean direction, so that a lake on the date line stays whole."""
    angle = np.radians(longitude)
    mean = np.degrees(np.arctan2(np.median(np.sin(angle)), np.median(np.cos(angle))))
    return float(mean + np.median((longitude - mean + 180.0) % 360.0 - 180.0))


def _within_degrees(soundings: Soundings, good: NDArray[np.bool_], degrees: float) -> NDArray[np.bool_]:
    lat = np.median(soundings.latitude[good])
    lon = _middle_longitude(soundings.longitude[good])
    wide = degrees / max(np.cos(np.radians(lat)), 0.1)
    turn = (soundings.longitude - lon + 180.0) % 360.0 - 180.0
    return (np.abs(soundings.latitude - lat) < degrees) & (np.abs(turn) < wide)


def _strays(x: Floats, y: Floats) -> NDArray[np.bool_]:
    """Small isles of soundings far from the survey."""
    from scipy import ndimage  # slow to load: not before somebody cleans

    if x.size < 2:
        return np.zeros(x.size, bool)
    i = np.floor((x - x.min()) / _ISLE_M).astype(np.intp)
    j = np.floor((y - y.min()) / _ISLE_M).astype(np.intp)
    counts = np.zeros((int(j.max()) + 1, int(i.max()) + 1), np.int64)
    np.add.at(counts, (j, i), 1)
    isle, number = ndimage.label(counts > 0, structure=np.ones((3, 3)))
    sizes = ndimage.sum_labels(counts, isle, np.arange(1, number + 1))
    least = min(max(0.002 * x.size, 20.0), float(sizes.max()))
    return np.asarray(sizes[isle[j, i] - 1] < least)


def _jumps(x: Floats, y: Floats) -> NDArray[np.bool_]:
    """Fixes that leave the track for a few soundings and come back."""
    from scipy import ndimage

    if x.size < _WINDOW:
        return np.zeros(x.size, bool)
    step = float(np.median(np.hypot(np.diff(x), np.diff(y))))
    off = np.hypot(x - ndimage.median_filter(x, 9, mode="nearest"), y - ndimage.median_filter(y, 9, mode="nearest"))
    return np.asarray(off > max(15.0, 8.0 * step))


def _against_neighbours(depth: Floats) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
    """Double echoes and spikes, by a running median of the soundings before and after."""
    from scipy import ndimage

    middle = ndimage.median_filter(depth, _WINDOW, mode="nearest")
    off = depth - middle
    ordinary = 1.4826 * ndimage.median_filter(np.abs(off), _WINDOW, mode="nearest")
    out = np.abs(off) > np.maximum(0.35 + 0.04 * np.abs(middle), 4.0 * ordinary)
    ratio = depth / np.maximum(middle, 0.1)
    double = out & (ratio > 1.8) & (ratio < 2.25)
    return double, out & ~double & _leaps_out(depth, off, out)


def _leaps_out(depth: Floats, off: Floats, out: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """Runs that leap away from the track and back: a rock's own crest climbs instead, sounding by sounding."""
    from scipy import ndimage

    leap = np.abs(np.diff(depth, prepend=depth[:1]))
    runs, count = ndimage.label(out)
    if not count:
        return out
    labels = np.arange(1, count + 1)
    entry = ndimage.maximum(np.where(np.diff(runs, prepend=0) != 0, leap, 0.0), runs, labels)
    exits = np.append(leap[1:], 0.0)
    leaving = ndimage.maximum(np.where(np.diff(runs, append=0) != 0, exits, 0.0), runs, labels)
    most = ndimage.maximum(np.abs(off), runs, labels)
    sharp = np.maximum(entry, leaving) > 0.6 * np.asarray(most)
    return out & np.concatenate([[False], sharp])[runs]


def _blocks(x: Floats, y: Floats, size: float) -> tuple[CellGrid, NDArray[np.intp]]:
    frame = CellGrid(
        float(x.min()) - 3 * size,
        float(y.min()) - 3 * size,
        size,
        int(np.ptp(x) / size) + 7,
        int(np.ptp(y) / size) + 7,
    )
    return frame, frame.cells(x, y)[0]


def raggedness(depth: Floats) -> Floats:
    """How much depths leap from sounding to sounding: a running median of second differences, shape (n,)."""
    from scipy import ndimage

    leap = np.zeros(depth.size)
    leap[1:-1] = np.abs(depth[1:-1] - (depth[:-2] + depth[2:]) / 2)
    return np.asarray(ndimage.median_filter(leap, _WINDOW, mode="nearest"))


def _against_surface(x: Floats, y: Floats, depth: Floats) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
    """What stands off a robust surface through blocks of some ten metres: long double echoes, ragged tops."""
    from scipy import ndimage

    from plumbbob.core.chart.surface import Surface

    size = max(8.0, float(np.sqrt(np.ptp(x) * np.ptp(y) / 60_000.0)))
    frame, cell = _blocks(x, y, size)
    ragged = raggedness(depth)
    usual = np.maximum(np.median(ragged) + 0.006 * np.abs(depth), 0.02)
    leaps = ragged > 3.0 * usual
    order = np.lexsort((depth, cell))
    sorted_cell = cell[order]
    starts = np.flatnonzero(np.diff(sorted_cell, prepend=-1))
    count = np.diff(np.append(starts, sorted_cell.size))
    # in a ragged block the deep returns are the bottom
    wild = np.add.reduceat(leaps[order].astype(np.float64), starts) / count > 0.3
    rank = np.where(wild, np.floor(0.85 * (count - 1)), (count - 1) // 2).astype(np.intp)
    value = np.zeros(frame.shape)
    weight = np.zeros(frame.shape)
    value.flat[sorted_cell[starts]] = depth[order][starts + rank]
    scale = 0.1 + 0.01 * np.abs(value)
    weight.flat[sorted_cell[starts]] = np.minimum(count, 8) / 8.0
    weight /= scale**2
    doubt = np.ones(frame.shape)
    for _ in range(3):
        surface = Surface(weight * doubt, _STIFFNESS_M2 / size**2).solve(value, most=4)
        slope = np.hypot(*np.gradient(surface, size))
        tolerance = 3.0 * scale + 0.5 * size * slope
        off = value - surface
        # a block that is too shallow is doubted sooner than one that is too deep: weed, fish and bait hang over it
        limit = np.where(off < 0, tolerance, 1.6 * tolerance)
        doubt = np.where(np.abs(off) > limit, 0.02, 1.0)
    bed = frame.sample(surface, x, y)
    off = depth - bed
    steep = frame.sample(ndimage.maximum_filter(slope, 3), x, y)
    double = (np.abs(depth / np.maximum(bed, 0.1) - 2.0) < 0.2) & (off > 1.0 + 3.0 * size * steep)
    weed = leaps & (off < -np.maximum(0.25 + 0.02 * np.abs(depth), size * steep))
    return double, weed
