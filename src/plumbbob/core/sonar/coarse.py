"""A whole recording as one small picture: mean level over the noise in bins of depth, for every ping."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from plumbbob.core.sonar.blocks import noise_floor_db, over_noise, read_block
from plumbbob.core.sonar.recording import Down
from plumbbob.core.types import Bytes, Floats, Levels

BLOCK_PINGS = 512
_MOST_BINS = 256
_FLOOR_DB = -20.0  # also what "not recorded" reads
_PER_DB = 2.0


@dataclass(frozen=True, slots=True, eq=False)
class Coarse:
    """Mean level over the noise in bins of depth; half a decibel a step, so that hours of it stay small."""

    packed: Bytes  # (pings, bins)
    top_m: float  # depth of the first bin's upper edge
    bin_m: float
    floor_db: Floats  # (blocks,) receiver noise of every block of BLOCK_PINGS

    @property
    def depth_m(self) -> Floats:
        """Depth of the middle of each bin, shape (bins,)."""
        return np.asarray(self.top_m + self.bin_m * (np.arange(self.packed.shape[1]) + 0.5), np.float64)

    def levels(self, start: int, stop: int) -> Levels:
        """Decibels over the noise, shape (pings, bins); -20 where nothing was recorded."""
        return np.asarray(self.packed[start:stop] / np.float32(_PER_DB) + np.float32(_FLOOR_DB), np.float32)


def _bin_means(levels: Levels, edges: NDArray[np.intp]) -> Levels:
    sums = np.add.reduceat(levels, edges[:-1], axis=1)
    return np.asarray(sums / np.diff(edges).astype(np.float32)[None, :], np.float32)


def make_coarse(down: Down, tick: Callable[[int], None]) -> Coarse:
    """Read all pings once; `tick` hears how many have been done."""
    n = len(down)
    finest = float(down.range_step_m.min())
    top = float(down.range_start_m.min()) + down.mount.depth_m - finest / 2
    bin_m = max(0.1, finest, (down.deepest_m - top) / _MOST_BINS)
    bins = max(int(np.ceil((down.deepest_m - top) / bin_m)), 1)
    packed = np.zeros((n, bins), np.uint8)
    floors = []
    for start in range(0, n, BLOCK_PINGS):
        block = read_block(down, start, start + BLOCK_PINGS)
        floor = noise_floor_db(down, block)
        floors.append(floor)
        levels = over_noise(down, block, floor)
        depth = block.range_m + down.mount.depth_m
        which = np.clip(((depth - top) / bin_m).astype(np.intp), 0, bins - 1)
        used, edges = np.unique(which, return_index=True)
        means = _bin_means(levels, np.append(edges, depth.size))
        # a bin that is only partly recorded counts as not recorded
        partly = edges[None, :] + np.diff(np.append(edges, depth.size))[None, :] > block.seen[:, None]
        means[partly] = _FLOOR_DB
        values = np.clip((means - _FLOOR_DB) * _PER_DB, 0, 255).astype(np.uint8)
        if used.size == bins:
            packed[start : start + len(values)] = values
        else:
            # steps longer than a bin: each bin takes the sample that covers it
            fill = np.clip(np.searchsorted(used, np.arange(bins), side="right") - 1, 0, None)
            covered = np.arange(bins) <= used[-1]
            packed[start : start + len(values)] = np.where(covered, values[:, fill], 0)
        tick(len(values))
    return Coarse(packed, top, bin_m, np.asarray(floors))
