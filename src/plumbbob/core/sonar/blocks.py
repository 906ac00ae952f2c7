"""
Levels of a recording, a run of pings at a time.

A sounder may change its range from ping to ping. A `Block` holds some pings on one common grid of ranges,
as decibels over the noise, so that everything after it can forget about ranges, steps and gain.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from plumbbob.core.sonar.recording import Down, EchoSource, Pings
from plumbbob.core.types import Bytes, Floats, Levels

MEAN_OF_LOG_DB = -2.507  # mean of 10 log10 of an exponential variable of mean one: speckle read in decibels
_LEAST_RANGE_M = 0.1


@dataclass(frozen=True, slots=True, eq=False)
class Block:
    """Some pings on one grid of ranges."""

    first: int  # index of the first ping in the recording
    raw: Bytes  # (pings, samples) as stored; 0 where the ping did not look
    range_m: Floats  # (samples,) from the transducer
    seen: NDArray[np.intp]  # (pings,) how many samples of each ping were recorded

    @property
    def step_m(self) -> float:
        """Length of one sample."""
        return float(self.range_m[1] - self.range_m[0]) if self.range_m.size > 1 else 1.0


def read_block(view: Pings, start: int, stop: int, echo: EchoSource | None = None) -> Block:
    """
    Pings start to stop on one grid: their own where they share it, else the finest step to the farthest range.

    Parameters
    ----------
    view : Pings
    start, stop : int
    echo : EchoSource, optional
        Whose levels; by default those of a down view.

    Returns
    -------
    Block
        Nearest samples, never interpolated: speckle stays speckle.
    """
    start, stop = max(start, 0), min(stop, len(view))
    if echo is None:
        assert isinstance(view, Down)
        echo = view.echo
    raw = echo.read(start, stop)
    r0, step = view.range_start_m[start:stop], view.range_step_m[start:stop]
    samples = raw.shape[1]
    if not len(raw) or (np.ptp(step) < 1e-9 and np.ptp(r0) < 1e-9):
        first, width = (float(r0[0]), float(step[0])) if len(raw) else (0.0, 1.0)
        grid: Floats = first + width * np.arange(samples, dtype=np.float64)
        return Block(start, raw, grid, np.full(len(raw), samples, np.intp))
    width = float(step.min())
    low = float(r0.min())
    reach = r0 + step * (samples - 1)
    # a wild ping must not blow up the grid: no more samples than four whole pings' worth
    count = min(int(np.ceil((float(reach.max()) - low) / width)) + 1, 4 * samples)
    width = max(width, (float(reach.max()) - low) / max(count - 1, 1))
    grid = low + width * np.arange(count, dtype=np.float64)
    out = np.zeros((len(raw), count), np.uint8)
    kinds, which = np.unique(np.stack([r0, step]), axis=1, return_inverse=True)
    seen = np.zeros(len(raw), np.intp)
    for k in range(kinds.shape[1]):
        rows = np.flatnonzero(which.ravel() == k)
        index = np.rint((grid - kinds[0, k]) / kinds[1, k]).astype(np.intp)
        inside = (index >= 0) & (index < samples)
        out[np.ix_(rows, np.flatnonzero(inside))] = raw[np.ix_(rows, index[inside])]
        seen[rows] = int(np.flatnonzero(inside)[-1]) + 1 if inside.any() else 0
    return Block(start, out, grid, seen)


def tvg_db(view: Pings, range_m: Floats) -> Floats:
    """The range correction that the levels already carry, decibels."""
    factor = {"none": 0.0, "20logR": 20.0, "40logR": 40.0}[view.tvg]
    return factor * np.log10(np.maximum(range_m, _LEAST_RANGE_M))


def noise_floor_db(down: Down, block: Block) -> float:
    """
    Level of the receiver's noise before range correction: the mean power, decibels.

    Notes
    -----
    Taken as the quietest tenth of the ranges' medians over pings, since echoes only ever add. Ranges where the
    noise lies under the byte scale's floor are left out; where all do, the floor itself is the answer.
    """
    spread = max(block.range_m.size // 160, 1)
    columns = block.raw[:, ::spread].astype(np.float32)
    columns[np.arange(0, block.range_m.size, spread)[None, :] >= block.seen[:, None]] = np.nan
    counts = np.isfinite(columns).sum(axis=0)
    use = counts >= max(8, len(block.raw) // 20)
    if not use.any():
        return down.offset_db
    middle = np.nanmedian(columns[:, use], axis=0)
    levels = middle * down.scale_db + down.offset_db - tvg_db(down, block.range_m[::spread][use])
    audible = middle > 3
    if audible.sum() < 8:
        return float(levels.min())
    # the median of exponential power is ln 2 of its mean: 1.6 dB under it
    return float(np.percentile(levels[audible], 10)) + 1.6


def over_noise(down: Down, block: Block, floor_db: float) -> Levels:
    """Levels of a block in decibels over the noise, shape (pings, samples); unrecorded samples read -20."""
    gain = (down.offset_db - floor_db - tvg_db(down, block.range_m)).astype(np.float32)
    levels = block.raw * np.float32(down.scale_db)
    levels += gain
    np.maximum(levels, np.float32(-12.0), out=levels)
    if (block.seen < block.range_m.size).any():
        levels[np.arange(block.range_m.size)[None, :] >= block.seen[:, None]] = -20.0
    return levels
