"""One frame of the view ahead as a true-scale array for the screen."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from plumbbob.core.chunk_cache import ChunkCache
from plumbbob.core.sonar.contrast import contrast_of_forward
from plumbbob.core.sonar.recording import Forward
from plumbbob.core.types import Bytes

_CHUNK = 32
_USUAL_FRAMES = 24


class FanRaster:
    """Renders frames of one recording's view ahead to arrays of colour indices, 0 to 255."""

    def __init__(self, view: Forward) -> None:
        self._view = view
        self._chunks: ChunkCache[Bytes] = ChunkCache(
            lambda number: self._view.echo.read(number * _CHUNK, (number + 1) * _CHUNK), lambda chunk: chunk.nbytes
        )
        self._layout: tuple[object, ...] = ()
        self._cells = (np.zeros(0, np.intp), np.zeros(0, np.intp), np.zeros(0, np.float32), np.zeros(0, bool))
        self._learn()

    def _learn(self) -> None:
        """What is usual, by what the view holds by now."""
        view = self._view
        n = self._learned = len(view)
        some = np.unique(np.linspace(0, n - 1, min(_USUAL_FRAMES, n)).astype(int))
        frames = np.stack([self._frame(int(k)) for k in some])
        # what every beam hears at a range is noise or ringing, not a thing
        self._usual = np.median(frames.reshape(-1, view.samples), axis=0).astype(np.float32)
        self._ends = contrast_of_forward(frames, self._usual, view.scale_db)

    def grow(self, view: Forward) -> None:
        """The view has grown, and may have let go of its oldest frames."""
        self._view = view
        self._chunks.clear()
        if len(view) > 1.5 * self._learned or view.samples != self._usual.size:
            self._layout = ()
            self._learn()

    def _frame(self, k: int) -> Bytes:
        return self._chunks[k // _CHUNK][k % _CHUNK]

    def render(
        self, k: int, width: int, height: int, m_per_px: float, surface_px: float, bow_px: float, gain_db: float
    ) -> Bytes:
        """
        Colour indices of a frame, shape (height, width); 0 where the fan does not look.

        Parameters
        ----------
        k : int
            Frame.
        width, height : int
        m_per_px : float
            One scale for both directions.
        surface_px, bow_px : float
            Row of the water's surface, column of the transducer.
        gain_db : float
        """
        view = self._view
        start, step = float(view.range_start_m[k]), float(view.range_step_m[k])
        layout = (width, height, m_per_px, surface_px, bow_px, start, step)
        if layout != self._layout:
            self._cells = self._lay_out(*layout)
            self._layout = layout
        low, high, share, inside = self._cells
        raw = self._frame(k)
        low_db, high_db = self._ends
        per_db = 255.0 / (high_db - low_db)
        level = (raw - self._usual[None, :]) * np.float32(view.scale_db * per_db)
        level += np.float32((gain_db - low_db) * per_db)
        np.clip(level, 0.0, 254.0, out=level)
        flat = level.ravel()
        near, far = flat[low], flat[high]
        near += (far - near) * share
        out = np.zeros(width * height, np.uint8)
        out[inside] = near.astype(np.uint8)
        return out.reshape(height, width)

    def _lay_out(
        self, width: int, height: int, m_per_px: float, surface_px: float, bow_px: float, start: float, step: float
    ) -> tuple[NDArray[np.intp], NDArray[np.intp], NDArray[np.float32], NDArray[np.bool_]]:
        """For each pixel in the fan the two beams it lies between, the sample, and the share of the second."""
        view = self._view
        x = (np.arange(width) + 0.5 - bow_px) * m_per_px
        z = (np.arange(height) + 0.5 - surface_px) * m_per_px - view.mount.depth_m
        ahead, below = np.meshgrid(x, z)
        slant = np.hypot(ahead, below)
        angle = np.degrees(np.arctan2(below, ahead))
        angles, order = np.sort(view.beam_angle_deg), np.argsort(view.beam_angle_deg)
        at = np.interp(angle, angles, np.arange(angles.size))
        sample = np.rint((slant - start) / step).astype(np.intp)
        margin = view.beam_step_deg / 2
        inside = (sample >= 0) & (sample < view.samples)
        inside &= (angle >= angles[0] - margin) & (angle <= angles[-1] + margin)
        first = np.minimum(at.astype(np.intp), angles.size - 1)
        second = np.minimum(first + 1, angles.size - 1)
        share = (at - first).astype(np.float32)
        picked = inside.ravel()
        j = sample.ravel()[picked]
        low = order[first.ravel()[picked]] * view.samples + j
        high = order[second.ravel()[picked]] * view.samples + j
        return low, high, share.ravel()[picked], picked
