"""Beds of weed as the fans to the sides meet them: stems that echo over their height and veil what lies behind."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from plumbbob.core.types import Floats

_LAYERS = 8  # heights at which a stem echoes
_CLUMP_M = 0.9
_VEIL = 1.2  # of the logarithm of power for a metre of full weed, there and back


@dataclass(frozen=True, slots=True, kw_only=True)
class WeedBed:
    """A bed of weed to one side of the pass, or across it: an ellipse over the bottom."""

    along_m: float  # its middle
    aside_m: float
    length_m: float
    width_m: float
    height_m: float
    loud_db: float = 5.0  # over the bottom, of a full stand seen flatly
    cover: float = 0.75  # share of it that is grown over
    seed: int = 0

    def grown(self, along_m: float, aside_m: Floats) -> Floats:
        """Height of the weed at places on a line across, shape as given; 0 where nothing grows."""
        inside = self._out(along_m, aside_m)
        clumps = _clumps(along_m, aside_m, self.seed)
        edge = np.clip((1.0 - inside) / 0.15, 0.0, 1.0)
        return np.where(clumps < self.cover, self.height_m * edge * (0.55 + 0.45 * (1 - clumps / self.cover)), 0.0)

    def covers(self, along_m: float, aside_m: float) -> bool:
        """Whether a place lies within it, grown over or in a gap."""
        return bool(self._out(along_m, np.array([aside_m]))[0] < 1.0)

    def _out(self, along_m: float, aside_m: Floats) -> Floats:
        """How far out from its middle, 1 at its edge."""
        along = (along_m - self.along_m) / (self.length_m / 2)
        return np.asarray(np.hypot(along, (aside_m - self.aside_m) / (self.width_m / 2)))


def _clumps(along_m: float, aside_m: Floats, seed: int) -> Floats:
    """Evenly spread numbers of 0 to 1 that change over a clump's width, the same wherever they are asked."""
    x, y = along_m / _CLUMP_M, aside_m / _CLUMP_M
    i, j = math.floor(x), np.floor(y).astype(np.int64)
    f, g = x - i, y - j
    f, g = f * f * (3 - 2 * f), g * g * (3 - 2 * g)
    low = _hash(i, j, seed) * (1 - g) + _hash(i, j + 1, seed) * g
    high = _hash(i + 1, j, seed) * (1 - g) + _hash(i + 1, j + 1, seed) * g
    mixed = low * (1 - f) + high * f
    return np.asarray(np.clip(0.5 + 1.5 * (mixed - 0.5), 0.0, 1.0))


def _hash(i: int, j: NDArray[np.int64], seed: int) -> Floats:
    mixed = (i * 374761393 + j * 668265263 + seed * 2246822519) & 0xFFFFFFFF
    mixed = (mixed ^ (mixed >> 13)) * 1274126177 & 0xFFFFFFFF
    return np.asarray((mixed ^ (mixed >> 16)) & 0xFFFF, np.float64) / 0xFFFF


def weed_echo(
    beds: tuple[WeedBed, ...], along_m: float, aside_m: Floats, depth_m: Floats, angle: Floats
) -> tuple[Floats, Floats, Floats, Floats]:
    """
    Weed on one line across the way.

    Parameters
    ----------
    beds : tuple of WeedBed
    along_m : float
    aside_m : array of shape (facets,)
        To starboard, as the beds are; growing or falling evenly away from the boat.
    depth_m, angle : array of shape (facets,)
        Under the transducer, and from straight down.

    Returns
    -------
    light : array of shape (facets,)
        What is left of the sound behind the weed before each facet.
    slant_m, angle : array of shape (echoes,)
    strength_db : array of shape (echoes,)
        Over the bottom's own, for as wide a piece.
    """
    height = np.zeros(aside_m.size)
    loud = np.zeros(aside_m.size)
    for bed in beds:
        own = bed.grown(along_m, aside_m)
        loud = np.where(own > height, bed.loud_db, loud)
        height = np.maximum(height, own)
    light = np.ones(aside_m.size)
    where = np.flatnonzero(height > 0.05)
    if not where.size:
        return light, np.zeros(0), np.zeros(0), np.zeros(0)
    across = np.abs(aside_m)
    wide = float(np.median(np.abs(np.diff(across)))) if across.size > 1 else 0.05
    depth = np.maximum(depth_m[where] - height[where], 0.1)
    behind = np.searchsorted(np.maximum.accumulate(angle), np.arctan2(across[where], depth))
    thick = np.zeros(aside_m.size + 1)
    np.add.at(thick, np.minimum(where + 1, aside_m.size), _VEIL * wide)
    np.add.at(thick, np.clip(behind, where + 1, aside_m.size), -_VEIL * wide)
    light = np.exp(-np.maximum(np.cumsum(thick)[:-1], 0.0))
    share = (np.arange(_LAYERS) + 0.5) / _LAYERS
    up = height[where][:, None] * share[None, :]
    below = np.maximum(depth_m[where][:, None] - up, 0.1)
    flat = np.broadcast_to(across[where][:, None], below.shape)
    turned = np.arctan2(flat, below)
    # weed before it on the same ray veils it, as it veils the bottom there
    at = np.minimum(np.searchsorted(np.maximum.accumulate(angle), turned), angle.size - 1)
    nearer = np.where(at > where[:, None], light[at] / np.maximum(light[where][:, None], 1e-6), 1.0)
    veiled = 10 * np.log10(np.clip(light[where][:, None] * np.sqrt(np.minimum(nearer, 1.0)), 1e-4, 1.0))
    strength = loud[where][:, None] - 10 * math.log10(_LAYERS) + veiled
    return light, np.hypot(flat, below).ravel(), turned.ravel(), strength.ravel()
