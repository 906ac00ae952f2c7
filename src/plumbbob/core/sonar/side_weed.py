"""
Whether a tile of bottom to the sides is grown over.

A few stones glint on bottom that is otherwise even; weed changes all of a tile, stem by stem, in clumps of a metre or
so. How widely the middle half of a tile's levels spreads, how far its tails reach and over what way neighbours are
alike, all against the rest of the pass, tell the two apart; the weights are learned from simulated beds among stones
and ripples (`tools/learn_weed.py`, which writes `side_weed_pieces`).
"""

from __future__ import annotations

import numpy as np

from plumbbob.core.sonar.side_weed_pieces import BIAS, LINEAR, MEAN, SPREAD, SQUARE
from plumbbob.core.types import Floats, Levels

FEATURES = ("spread", "along", "level", "across", "up", "top")
_MOST_TIMES = 12.0
_SHARES = np.array([0.25, 0.5, 0.75, 0.95, 0.99])
_CELL_M = (0.25, 0.2)  # along the way and along the range
_LAGS = (3, 2)  # cells within which clumps are alike
_ALIKE_M = 5.1  # tiles whose distances differ by no more are compared
_LEAST_SPREAD = np.array([0.05, 0.02, 0.7, 0.02, 0.1, 0.1])
_FARTHEST = 4.0  # spreads from the mean beyond which a number tells no more


def weed_features(times: Levels, smooth: Levels, level_db: float, per_ping_m: float, step_m: float) -> Floats:
    """
    What a tile is judged by.

    Parameters
    ----------
    times, smooth : array of shape (pings, samples)
        Times the usual power of the range; the same evened out over a stone's face.
    level_db : float
        Over the usual bottom of the pass.
    per_ping_m, step_m : float

    Returns
    -------
    array of shape (6,)
        As in `FEATURES`: spread of the middle half of the logarithms, likeness along the way, level, likeness along
        the range, how far the louder half reaches, and its last few in a hundred.
    """
    # evened out as it is, every second sample both ways tells the same
    sorted_ = np.sort(smooth[::2, ::2], axis=None)
    low, middle, high, loud, top = np.log(sorted_[(_SHARES * (sorted_.size - 1)).astype(np.intp)] + 0.05)
    a, b = (max(round(cell / size), 1) for cell, size in zip(_CELL_M, (per_ping_m, step_m), strict=True))
    rows, columns = times.shape[0] // a, times.shape[1] // b
    along = across = 0.0
    if rows > _LAGS[0] + 1 and columns > _LAGS[1] + 1:
        part = np.minimum(times[: a * rows, : b * columns], _MOST_TIMES)
        cells = np.log(part.reshape(rows, a, columns, b).mean(axis=(1, 3)) + 0.1)
        cells -= cells.mean()
        along = float((cells[_LAGS[0] :] * cells[: -_LAGS[0]]).mean())
        across = float((cells[:, _LAGS[1] :] * cells[:, : -_LAGS[1]]).mean())
    return np.array([high - low, along, level_db, across, loud - middle, top - loud])


def against_usual(features: Floats, near_m: Floats) -> Floats:
    """
    Features against those of other tiles as far away, in spreads of theirs: what a pass's own bottom does is usual.

    Parameters
    ----------
    features : array of shape (tiles, 6)
    near_m : array of shape (tiles,)
        How far away each tile begins.
    """
    out = np.zeros_like(features)
    for distance in np.unique(near_m):
        alike = features[np.abs(near_m - distance) <= _ALIKE_M]
        alike = alike[np.isfinite(alike).all(axis=1)]
        if not len(alike):
            continue
        middle = np.median(alike, axis=0)
        spread = np.maximum(1.48 * np.median(np.abs(alike - middle), axis=0), _LEAST_SPREAD)
        here = near_m == distance
        out[here] = (features[here] - middle) / spread
    return out


def weed_chances(against: Floats) -> Floats:
    """Chance of each tile to be grown over, by features against the usual ones, shape (tiles, 6)."""
    z = np.clip((np.nan_to_num(against) - np.array(MEAN)) / np.array(SPREAD), -_FARTHEST, _FARTHEST)
    odds = BIAS + z @ np.array(LINEAR) + (z**2) @ np.array(SQUARE)
    return np.asarray(1.0 / (1.0 + np.exp(-np.clip(odds, -30.0, 30.0))))
