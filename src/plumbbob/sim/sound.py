"""What every simulated sounder shares: pulses, speckle over a mean power, levels as bytes."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from plumbbob.core.types import Floats

Field = NDArray[np.complex64]


def envelope(width_samples: float) -> Floats:
    """A pulse's shape along range: a raised cosine about so many samples wide."""
    width = max(width_samples, 1.0)
    half = math.ceil(width)
    return np.asarray(np.cos(np.pi / 2 * np.clip(np.arange(-half, half + 1) / (half + 0.5), -1, 1)) ** 2)


def speckle(power: Floats, pulse: Floats, noise_db: float, rng: np.random.Generator) -> Field:
    """Complex echo of random scatter plus receiver noise, as wide along the last axis as the pulse."""
    raw = rng.standard_normal((*power.shape, 2), np.float32).view(np.complex64)[..., 0] * np.float32(math.sqrt(0.5))
    kernel = pulse / np.sqrt((pulse**2).sum())
    smooth = ndimage.convolve1d(raw, kernel.astype(np.float32), axis=-1, mode="reflect")
    noise = 10 ** (noise_db / 10)
    spread = ndimage.convolve1d(power, kernel**2, axis=-1, mode="nearest")
    return (smooth * np.sqrt(spread + noise)).astype(np.complex64)


def to_bytes(field: Field, gain_db: Floats, offset_db: float, scale_db: float) -> NDArray[np.uint8]:
    """Levels as a recorder stores them: `gain_db` is the range correction, along the last axis."""
    power = np.maximum(field.real**2 + field.imag**2, 1e-30)
    level = 10 * np.log10(power) + gain_db.astype(np.float32)
    return np.clip(np.rint((level - offset_db) / scale_db), 0, 255).astype(np.uint8)
