"""Light sinking into the water through the hours: the ground on which a day is drawn."""

from __future__ import annotations

import numpy as np
from PySide6.QtGui import QImage

from plumbbob.core.types import Floats
from plumbbob.core.water.light import light_share, surface_lux
from plumbbob.desk.kit.paint import indexed_image
from plumbbob.desk.theme import Theme, ramp_of

_DARK_LUX, _BRIGHT_LUX = 1e-2, 1e5
_ROWS = 80


def light_image(theme: Theme, sun_deg: Floats, deepest_m: float, secchi_m: float) -> QImage:
    """
    From surface to the deepest, one column for each height of the sun, darker where less light is left.

    Notes
    -----
    Steps of the logarithm of light, as eyes have it; between the ground of the theme and its teal.
    """
    depth = np.linspace(0.0, deepest_m, _ROWS)
    lux = np.array([surface_lux(float(s)) for s in sun_deg])[None, :] * light_share(depth, secchi_m)[:, None]
    level = np.log(np.maximum(lux, _DARK_LUX) / _DARK_LUX) / np.log(_BRIGHT_LUX / _DARK_LUX)
    shades = (np.clip(level, 0.0, 1.0) * 255).astype(np.uint8)
    dark, bright = (theme.ground, theme.depth[2]) if theme.light.value != "day" else (theme.depth[4], theme.depth[0])
    if theme.light.value == "night":
        bright = theme.rule
    colours = [int(c) for c in ramp_of((dark, bright))]
    return indexed_image(shades, colours)
