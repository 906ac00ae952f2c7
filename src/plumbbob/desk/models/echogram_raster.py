"""
Echoes as a small array for the screen: any part of a recording of any length, a pixel a cell.

Near one ping a pixel the pings themselves are fetched, a chunk at a time, and the last ones kept. Further out a
pyramid of loudest-of-so-many pings is used, which is built once in the background and keeps a lone fish visible.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from plumbbob.core.chunk_cache import ChunkCache
from plumbbob.core.sonar.blocks import tvg_db
from plumbbob.core.sonar.contrast import contrast_of_down
from plumbbob.core.sonar.recording import Down
from plumbbob.core.types import Bytes
from plumbbob.desk.models.viewport import Viewport

CHUNK = 256
_OVERVIEW_FACTOR = 4  # pings to a column of the finest kept level
_MOST_OVERVIEW = 40_000_000  # bytes of that level; longer recordings get a coarser one
_CHUNKS_A_FRAME = 1
_CHECKED = 64  # of the newest pings, whether they look as far as the others


@dataclass(frozen=True, slots=True, eq=False)
class Overview:
    """Loudest echo of every so many pings, at several such numbers; coarsest last."""

    factors: tuple[int, ...]
    levels: tuple[Bytes, ...]  # (columns, samples) each


def make_overview(down: Down, progress: Callable[[float], None]) -> Overview:
    """Read the whole recording once, a chunk at a time."""
    n, samples = down.echo.shape[0], down.samples
    factor = _OVERVIEW_FACTOR
    while n // factor * samples > _MOST_OVERVIEW:
        factor *= 2
    chunk = max(CHUNK, factor)
    columns = -(-n // factor)
    finest = np.zeros((columns, samples), np.uint8)
    for start in range(0, n, chunk):
        block = down.echo.read(start, start + chunk)
        edges = np.arange(0, len(block), factor)
        finest[start // factor : start // factor + edges.size] = np.maximum.reduceat(block, edges, axis=0)
        progress(min((start + chunk) / n, 1.0))
    factors, levels = [factor], [finest]
    while len(levels[-1]) > 1500:
        last = levels[-1]
        even = len(last) // 2 * 2
        half = np.maximum(last[0:even:2], last[1:even:2])
        levels.append(np.concatenate([half, last[even:]]) if even < len(last) else half)
        factors.append(factors[-1] * 2)
    return Overview(tuple(factors), tuple(levels))


class Raster:
    """Renders parts of one down recording to arrays of colour indices, 0 to 255."""

    def __init__(self, down: Down) -> None:
        self._down = down
        self._chunks: ChunkCache[Bytes] = ChunkCache(
            lambda number: self._down.echo.read(number * CHUNK, (number + 1) * CHUNK), lambda chunk: chunk.nbytes
        )
        self._overview: Overview | None = None
        self.incomplete = False  # the last picture stood in for one that is still being fetched
        self._learn()

    def _learn(self) -> None:
        """Brightness by what the recording holds by now."""
        down = self._down
        self._contrast, self._learned = contrast_of_down(down), len(down)
        self._one_range = bool(np.ptp(down.range_step_m) < 1e-9 and np.ptp(down.range_start_m) < 1e-9)

    def grow(self, down: Down) -> None:
        """The recording has grown, and may have let go of its oldest pings."""
        self._down = down
        self._chunks.clear()  # they are views of what is in memory anyway
        if len(down) > 1.5 * self._learned:
            self._learn()
        elif self._one_range:
            newest = slice(-_CHECKED, None)
            same = np.abs(down.range_step_m[newest] - down.range_step_m[0]).max() < 1e-9
            self._one_range = bool(same and np.ptp(down.range_start_m[newest]) < 1e-9)

    def set_overview(self, overview: Overview) -> None:
        """Use a finished pyramid."""
        self._overview = overview

    @property
    def has_overview(self) -> bool:
        """The pyramid is there."""
        return self._overview is not None

    def _pings(self, index: NDArray[np.intp]) -> Bytes:
        """Given pings, ascending, each as stored."""
        out = np.empty((index.size, self._down.samples), np.uint8)
        number = index // CHUNK
        for k in np.unique(number):
            rows = number == k
            out[rows] = self._chunks[int(k)][index[rows] - k * CHUNK]
        return out

    def _columns(self, view: Viewport, width: int) -> tuple[Bytes, NDArray[np.intp]]:
        """Echoes for each column of pixels, and a ping that stands for the column's range."""
        n = len(self._down)
        per_pixel = view.pings / width
        edges = view.first_ping + per_pixel * np.arange(width + 1)
        middle = np.clip(((edges[:-1] + edges[1:]) / 2).astype(np.intp), 0, n - 1)
        self.incomplete = False
        if self._overview is not None:
            if per_pixel >= 0.75 * self._overview.factors[0]:
                k = max(i for i, f in enumerate(self._overview.factors) if f <= per_pixel / 0.75)
                return self._from_overview(k, middle), middle
            if not self._fetch_some(int(middle[0]) // CHUNK, int(middle[-1]) // CHUNK):
                # the rest comes with the next frames; until then the finest level stands in
                self.incomplete = True
                return self._from_overview(0, middle), middle
        if per_pixel <= 1.0 or per_pixel > 4.0 * _OVERVIEW_FACTOR:
            # without a pyramid a far view shows every so many pings until it is there
            return self._pings(middle), middle
        first = np.clip(edges[:-1].astype(np.intp), 0, n - 1)
        columns = self._pings(first)
        for step in range(1, int(np.ceil(per_pixel))):
            np.maximum(columns, self._pings(np.clip(first + step, 0, n - 1)), out=columns)
        return columns, middle

    def _from_overview(self, level: int, pings: NDArray[np.intp]) -> Bytes:
        assert self._overview is not None
        kept = self._overview.levels[level]
        return kept[np.clip(pings // self._overview.factors[level], 0, len(kept) - 1)]

    def _fetch_some(self, first: int, last: int) -> bool:
        """Fetch chunks of a run, as many as a frame has time for; True if all are there."""
        missing = [k for k in range(first, last + 1) if k not in self._chunks]
        for k in missing[:_CHUNKS_A_FRAME]:
            self._chunks[k]
        return len(missing) <= _CHUNKS_A_FRAME

    def _row_gain(self, depth_m: NDArray[np.float64], gain_db: float) -> tuple[NDArray[np.float32], float]:
        """Colour index = byte * factor + shift(depth): decibels over the noise on the ramp."""
        down = self._down
        ramp = self._contrast
        per_db = 255.0 / (ramp.high_db - ramp.low_db)
        tvg = tvg_db(down, np.maximum(depth_m - down.mount.depth_m, 0.05))
        shift = (down.offset_db - ramp.floor_db - tvg + gain_db - ramp.low_db) * per_db
        return shift.astype(np.float32), down.scale_db * per_db

    def render(self, view: Viewport, width: int, height: int, gain_db: float) -> Bytes:
        """
        Colour indices of a part of the recording, shape (height, width); 0 where nothing was recorded.
        """
        down = self._down
        columns, pings = self._columns(view, width)
        depth = view.top_m + (view.base_m - view.top_m) * (np.arange(height) + 0.5) / height
        shift, factor = self._row_gain(depth, gain_db)
        if self._one_range:
            return self._rows(columns, depth, down.range_start_m[0], down.range_step_m[0], shift, factor)
        pairs = np.stack([down.range_start_m[pings], down.range_step_m[pings]])
        unique, which = np.unique(pairs, axis=1, return_inverse=True)
        out = np.zeros((height, width), np.uint8)
        for k, (start, step) in enumerate(unique.T):
            at = np.flatnonzero(which.ravel() == k)
            out[:, at] = self._rows(columns[at], depth, start, step, shift, factor)
        return out

    def render_pings(
        self, pings: NDArray[np.intp], top_m: float, base_m: float, height: int, gain_db: float
    ) -> Bytes:
        """Colour indices with a given ping in each column, shape (height, columns); -1 leaves a column empty."""
        down = self._down
        depth = top_m + (base_m - top_m) * (np.arange(height) + 0.5) / height
        shift, factor = self._row_gain(depth, gain_db)
        out = np.zeros((height, pings.size), np.uint8)
        shown = np.flatnonzero(pings >= 0)
        if not shown.size:
            return out
        columns = self._pings(pings[shown])
        pairs = np.stack([down.range_start_m[pings[shown]], down.range_step_m[pings[shown]]])
        unique, which = np.unique(pairs, axis=1, return_inverse=True)
        for k, (start, step) in enumerate(unique.T):
            at = np.flatnonzero(which.ravel() == k)
            out[:, shown[at]] = self._rows(columns[at], depth, start, step, shift, factor)
        return out

    def _rows(
        self,
        columns: Bytes,
        depth: NDArray[np.float64],
        start: float,
        step: float,
        shift: NDArray[np.float32],
        factor: float,
    ) -> Bytes:
        samples = columns.shape[1]
        position = (depth - self._down.mount.depth_m - start) / step
        index = np.rint(position).astype(np.intp)
        inside = (index >= 0) & (index < samples)
        by_sample = np.ascontiguousarray(columns.T)  # whole rows are picked several times faster than columns
        rows = by_sample[np.clip(index, 0, samples - 1)]
        per_pixel = float(position[1] - position[0]) if position.size > 1 else 1.0
        if per_pixel > 1.3:
            # several samples to a pixel: the loudest shows, a thin echo must not fall between rows
            for k in range(1, min(int(np.ceil(per_pixel)), 4)):
                np.maximum(rows, by_sample[np.clip(index + k, 0, samples - 1)], out=rows)
        # fixed point: half the bytes of single floats; as many fractions as the loudest byte leaves room for
        unit = 2 ** min(max(math.floor(math.log2(16_000 / (255 * factor))), 0), 5)
        most = 254 * unit  # 255 is for lines
        level = np.multiply(rows, np.int16(round(factor * unit)), dtype=np.int16)
        level += np.clip(np.rint(shift * unit), -16_000, 16_000).astype(np.int16)[:, None]
        np.clip(level, 0, most, out=level)
        level //= unit
        shown = level.astype(np.uint8)
        shown[~inside] = 0
        shown *= rows != 0  # at or under the recording's floor is silence, whatever the gain
        return shown
