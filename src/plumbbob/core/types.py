"""Arrays by what they hold, and how long work says how far it is."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Singles = NDArray[np.float32]
Levels = NDArray[np.float32]  # echo levels, dB unless said otherwise
Mask = NDArray[np.bool_]
Rows = NDArray[np.intp]  # indices
Bytes = NDArray[np.uint8]

Progress = Callable[[float], None]  # called now and then with the share done, 0 to 1
