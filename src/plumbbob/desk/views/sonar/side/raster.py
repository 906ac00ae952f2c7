"""Both fans as a small array for the screen: port above, starboard below, evened out by the usual level."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from plumbbob.core.chunk_cache import ChunkCache
from plumbbob.core.sonar.contrast import contrast_of_side
from plumbbob.core.sonar.mosaic import usual_levels
from plumbbob.core.sonar.recording import SIDES, Side
from plumbbob.core.types import Bytes, Floats

CHUNK = 256
_CHUNKS_A_FRAME = 3
_MOST_PINGS = 4  # looked at for one column of pixels


class SideRaster:
    """Renders parts of one view to the sides to arrays of colour indices, 0 to 255."""

    def __init__(self, side: Side) -> None:
        self._side = side
        self._chunks: ChunkCache[tuple[Bytes, Bytes]] = ChunkCache(self._colours, lambda kept: 2 * kept[0].nbytes)
        self._gain_db = 0.0
        self._altitude = np.zeros(0)
        self._table, self._ends = np.zeros(0, np.float32), (0.0, 0.0)
        self.incomplete = False
        self._start = float(side.range_start_m[0])
        self._step = float(np.median(side.range_step_m))
        self._one_range = bool(np.ptp(side.range_step_m) < 1e-9 and np.ptp(side.range_start_m) < 1e-9)
        self._even_out()

    def grow(self, side: Side) -> None:
        """The view has grown, and may have let go of its oldest pings."""
        dropped = side.time[0] != self._side.time[0]
        before, self._side = len(self._side), side
        newest = slice(before, None)
        if len(side) > before and not dropped:
            steps, starts = side.range_step_m[newest], side.range_start_m[newest]
            self._one_range &= bool(
                (abs(steps - self._step) < 1e-9).all() and (abs(starts - self._start) < 1e-9).all()
            )
        if dropped or self._table.size != side.samples or len(side) > 1.5 * self._learned:
            self._even_out()
        else:
            self._chunks.forget_from(before // CHUNK)

    def set_altitude(self, altitude_m: Floats) -> None:
        """Take the height over the bottom once it has been read."""
        if altitude_m.size == len(self._side) and altitude_m is not self._altitude:
            self._altitude = altitude_m
            self._even_out()

    def set_gain(self, gain_db: float) -> None:
        """Brightness over the usual."""
        if gain_db != self._gain_db:
            self._gain_db = gain_db
            self._chunks.clear()

    def _even_out(self) -> None:
        usual = usual_levels(self._side, self._altitude)
        self._table, self._ends = usual.astype(np.float32), contrast_of_side(self._side, usual)
        self._learned = len(self._side)
        self._chunks.clear()

    def _colours(self, number: int) -> tuple[Bytes, Bytes]:
        """Colours of some pings of both sides."""
        side = self._side
        low, high = self._ends
        per_db = 255.0 / (high - low)
        shift = (side.offset_db - self._table + self._gain_db - low) * per_db
        made = []
        for which in SIDES:
            raw = side.echo_of(which).read(number * CHUNK, (number + 1) * CHUNK)
            level = raw * np.float32(side.scale_db * per_db)
            level += shift.astype(np.float32)[None, :]
            np.clip(level, 0.0, 254.0, out=level)
            level *= raw != 0
            made.append(level.astype(np.uint8))
        return made[0], made[1]

    def _columns(self, pings: NDArray[np.intp]) -> tuple[Bytes, Bytes]:
        """Colours of given pings, ascending, of both sides, shape (pings, samples) each."""
        out = (
            np.zeros((pings.size, self._side.samples), np.uint8),
            np.zeros((pings.size, self._side.samples), np.uint8),
        )
        number = pings // CHUNK
        missing = 0
        for k in np.unique(number):
            if int(k) not in self._chunks:
                missing += 1
                if missing > _CHUNKS_A_FRAME:
                    self.incomplete = True
                    continue
            rows = number == k
            for side in (0, 1):
                out[side][rows] = self._chunks[int(k)][side][pings[rows] - k * CHUNK]
        return out

    def render(self, edges: NDArray[np.intp], slant_of: Floats, height: int) -> Bytes:
        """
        Colour indices, shape (height, columns).

        Parameters
        ----------
        edges : ndarray of shape (columns + 1,)
            First ping of each column of pixels; the last one ends the last.
        slant_of : ndarray of shape (half,) or (columns, half)
            Slant range of each row away from the boat's line, for all columns or for each; NaN shows nothing.
        height : int
            Rows; the boat's line lies in the middle.
        """
        self.incomplete = False
        first = edges[:-1]
        port, starboard = self._columns(first)
        per = int(np.clip(np.median(np.diff(edges)), 1, _MOST_PINGS)) if edges.size > 2 else 1
        for k in range(1, per):
            more = self._columns(np.minimum(first + k, len(self._side) - 1))
            port, starboard = np.maximum(port, more[0]), np.maximum(starboard, more[1])
        half = height // 2
        out = np.zeros((height, first.size), np.uint8)
        samples = self._side.samples
        if slant_of.ndim == 1 and self._one_range:
            index, inside = self._index(slant_of, self._start, self._step)
            lower = np.ascontiguousarray(starboard.T)[np.clip(index, 0, samples - 1)]
            upper = np.ascontiguousarray(port.T)[np.clip(index, 0, samples - 1)]
            lower[~inside] = 0
            upper[~inside] = 0
        else:
            start = self._side.range_start_m[first].astype(np.float32)[:, None]
            step = self._side.range_step_m[first].astype(np.float32)[:, None]
            slant = np.broadcast_to(slant_of, (first.size, half)).astype(np.float32, copy=False)
            index, inside = self._index(slant, start, step)
            np.clip(index, 0, samples - 1, out=index)
            index += (np.arange(first.size, dtype=np.int32) * samples)[:, None]
            lower = (np.take(starboard, index) * inside).T
            upper = (np.take(port, index) * inside).T
        out[half : 2 * half] = lower
        out[:half] = upper[::-1]
        return out

    def _index(self, slant: Any, start: Any, step: Any) -> tuple[NDArray[np.int32], NDArray[np.bool_]]:
        """Samples of slant ranges and which of them were recorded; what is no number was not."""
        with np.errstate(invalid="ignore"):
            index = ((slant - start) / step + 0.5).astype(np.int32)
        return index, (index >= 0) & (index < self._side.samples)
