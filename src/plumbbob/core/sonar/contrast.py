"""How dark and how bright a picture of echoes is drawn, from the recording's own levels."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from plumbbob.core.sonar.blocks import noise_floor_db, read_block, tvg_db
from plumbbob.core.sonar.recording import SIDES, Down, Side
from plumbbob.core.types import Floats

_SHALLOW_M = 2.0  # above it the transmission rings and bubbles scatter: no measure of the water
_BLOCKS, _PINGS = 12, 24
_LEAST_SPAN_DB, _MOST_SPAN_DB = 26.0, 72.0
_SHADOW_PERCENT, _BRIGHT_PERCENT = 18.0, 99.6  # to the sides: what is black, what is white, about the usual level
_NEAR_WHITE_PERCENT = 99.5  # ahead
_FISH_DB = 2.0  # what the water's loudest is kept under white by


@dataclass(frozen=True, slots=True)
class Contrast:
    """The ends of the colour ramp: decibels over the noise, as received."""

    floor_db: float
    low_db: float
    high_db: float


def contrast_of(level_db: NDArray[np.floating], range_m: Floats) -> tuple[float, float]:
    """
    The ends of the ramp for levels over the noise.

    Parameters
    ----------
    level_db : ndarray, shape (pings, samples)
        Over the noise, before range correction; NaN where nothing was recorded.
    range_m : ndarray, shape (samples,)

    Returns
    -------
    low, high : float
        Low where the water's own background lies, so that noise and clutter are dark and single fish are not; high
        where the usual bottom is, but never so low that more than a hundredth of the water is white.

    Notes
    -----
    The loudest sample of a ping beyond two metres is taken as its bottom, and the water as what lies above four
    fifths of that; what is to stay under white counts nearly down to it, since a slope echoes before its depth.
    """
    deep = range_m > _SHALLOW_M
    if not deep.any() or not np.isfinite(level_db).any():
        return -1.0, 50.0
    part, ranges = np.where(np.isfinite(level_db), level_db, -np.inf)[:, deep], range_m[deep]
    loudest = part.max(axis=1)
    bottom = ranges[part.argmax(axis=1)]
    open_water = (ranges[None, :] < 0.8 * bottom[:, None]) & np.isfinite(part)
    down_to_it = (ranges[None, :] < 0.96 * bottom[:, None]) & np.isfinite(part)
    strong = float(np.percentile(loudest[np.isfinite(loudest)], 95)) if np.isfinite(loudest).any() else 50.0
    middle = float(np.median(part[open_water])) if open_water.any() else 0.0
    top = float(np.percentile(part[down_to_it], 98.5)) if down_to_it.any() else 0.0
    low = max(middle - 1.0, -1.0)
    high = max(strong, top + _FISH_DB, low + _LEAST_SPAN_DB)
    return low, min(high, low + _MOST_SPAN_DB)


def contrast_of_down(down: Down) -> Contrast:
    """The ramp of a view down, from a few hundred pings all along it."""
    n = len(down)
    starts = np.unique(np.linspace(0, max(n - _PINGS, 0), _BLOCKS).astype(int))
    blocks = [read_block(down, int(s), int(s) + _PINGS) for s in starts]
    floor = float(np.median([noise_floor_db(down, block) for block in blocks]))
    ends = []
    for block in blocks:
        level = block.raw.astype(np.float32) * np.float32(down.scale_db) + np.float32(down.offset_db - floor)
        level -= tvg_db(down, block.range_m).astype(np.float32)[None, :]
        silent = (block.raw == 0) | (np.arange(block.range_m.size)[None, :] >= block.seen[:, None])
        level[silent] = np.nan
        ends.append(contrast_of(level, block.range_m))
    low, high = np.median([a for a, _ in ends]), np.percentile([b for _, b in ends], 95)
    return Contrast(floor, float(low), float(max(high, low + _LEAST_SPAN_DB)))


def contrast_of_side(side: Side, usual_db: Floats) -> tuple[float, float]:
    """
    The ends of the ramp of both sides, in decibels about the usual level of each range.

    Parameters
    ----------
    side : Side
    usual_db : ndarray, shape (samples,)

    Notes
    -----
    Black is what the darkest shadows have, white what only the brightest faces have: the spread of speckle differs
    from one sounder to the next, and so does how far above its noise it hears the bottom.
    """
    rows = np.unique(np.linspace(0, max(len(side) - _PINGS, 0), _BLOCKS).astype(int))
    parts = []
    for which in SIDES:
        for first in rows.tolist():
            raw = side.echo_of(which).read(first, first + _PINGS)
            level = raw * side.scale_db + side.offset_db - usual_db[None, :]
            parts.append(level[raw != 0].astype(np.float32))
    return _between(np.concatenate(parts), _SHADOW_PERCENT, _BRIGHT_PERCENT, (-14.0, 20.0))


def contrast_of_forward(
    frames: NDArray[np.uint8], usual_raw: NDArray[np.floating], scale_db: float
) -> tuple[float, float]:
    """
    The ends of the ramp of a view ahead, in decibels over what every beam hears at a range.

    Parameters
    ----------
    frames : ndarray, shape (frames, beams, samples)
        Stored values of some frames all along the recording.
    usual_raw : ndarray, shape (samples,)
    scale_db : float
        Of one stored step.
    """
    heard = frames != 0
    level = (frames.astype(np.float32) - usual_raw.astype(np.float32)) * np.float32(scale_db)
    strong = np.where(heard, level, -np.inf).max(axis=-1)
    strong = strong[np.isfinite(strong)]
    low, high = _between(level[heard], 50.0, _NEAR_WHITE_PERCENT, (0.0, 42.0))
    bottom = float(np.percentile(strong, 60)) if strong.size else high
    return low + 1.0, float(min(max(high, bottom, low + _LEAST_SPAN_DB), low + _MOST_SPAN_DB))


def _between(level: NDArray[np.floating], low: float, high: float, empty: tuple[float, float]) -> tuple[float, float]:
    """Two percentiles, so far apart that speckle is not all there is to see."""
    if not level.size:
        return empty
    black, white = (float(v) for v in np.percentile(level, (low, high)))
    return black, min(max(white, black + _LEAST_SPAN_DB), black + _MOST_SPAN_DB)
