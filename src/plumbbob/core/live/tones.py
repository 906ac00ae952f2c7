"""Sounds, made rather than shipped: short sine tones with soft edges, so that each can be told from the others."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

RATE_HZ = 22_050
_EDGE_S = 0.008
_LOUD = 0.6
# each a row of (Hz, seconds); 0 Hz is silence
TONES: dict[str, tuple[tuple[float, float], ...]] = {
    "tick": ((880.0, 0.05),),
    "there": ((1320.0, 0.45),),
    "drop": ((660.0, 0.12), (0.0, 0.05), (990.0, 0.12), (0.0, 0.05), (1320.0, 0.2)),
    "shallow": ((440.0, 0.15), (0.0, 0.08), (440.0, 0.15), (0.0, 0.08), (440.0, 0.15)),
    "lift": ((740.0, 0.07),),
    "time": ((587.0, 0.18), (784.0, 0.28)),
    "kept": ((1047.0, 0.06),),
    "not": ((220.0, 0.25),),
}


def samples_of(name: str) -> NDArray[np.int16]:
    """
    A sound as samples of 16 bits, `RATE_HZ` a second, shape (samples,). Raises KeyError for one that is none.

    Examples
    --------
    >>> samples_of("tick").size == round(0.05 * RATE_HZ)
    True
    """
    parts = []
    for frequency, seconds in TONES[name]:
        n = round(seconds * RATE_HZ)
        t = np.arange(n) / RATE_HZ
        edge = np.clip(np.minimum(t, t[-1] - t) / _EDGE_S, 0.0, 1.0)
        parts.append(np.sin(2 * np.pi * frequency * t) * edge if frequency else np.zeros(n))
    return (np.concatenate(parts) * _LOUD * 32767).astype(np.int16)
