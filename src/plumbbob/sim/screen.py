"""What a screen would show of a pass, and a photo of that screen held at a tilt."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from plumbbob.core.sonar.blocks import noise_floor_db, over_noise, read_block
from plumbbob.core.sonar.picture import Pixels, Point, perspective, project
from plumbbob.core.sonar.recording import Down

# a made-up sounder's colours, quiet to loud
COLOURS = ((18, 10, 38), (58, 26, 84), (118, 44, 104), (186, 78, 84), (236, 146, 62), (255, 236, 170))
_LOW_DB, _HIGH_DB = 2.0, 48.0


def colour_ramp(steps: int = 256) -> Pixels:
    """The screen's colours, shape (steps, 3)."""
    at = np.linspace(0.0, len(COLOURS) - 1.0, steps)
    columns = np.array(COLOURS, np.float64)
    return np.stack([np.interp(at, np.arange(len(COLOURS)), columns[:, c]) for c in range(3)], axis=1).astype(
        np.uint8
    )


def screen_of(down: Down, deepest_m: float, width: int, height: int) -> Pixels:
    """
    The whole of a down view as a screen shows it, the surface at its upper edge, shape (height, width, 3).

    Parameters
    ----------
    down : Down
    deepest_m : float
        Depth at the lower edge.
    width, height : int
    """
    block = read_block(down, 0, len(down))
    shown = over_noise(down, block, noise_floor_db(down, block))
    index = np.clip(((shown - _LOW_DB) / (_HIGH_DB - _LOW_DB) * 255), 0, 255).astype(np.uint8)
    depth = (np.arange(height) + 0.5) / height * deepest_m
    sample = np.rint((depth - down.mount.depth_m - block.range_m[0]) / block.step_m).astype(int)
    inside = (sample >= 0) & (sample < block.range_m.size)
    pings = np.clip(((np.arange(width) + 0.5) / width * len(down)).astype(int), 0, len(down) - 1)
    levels = index[pings][:, np.clip(sample, 0, block.range_m.size - 1)].T
    levels[~inside] = 0
    return colour_ramp()[levels]


def photographed(
    pixels: Pixels, corners: tuple[Point, Point, Point, Point], size: tuple[int, int], rng: np.random.Generator
) -> Pixels:
    """
    A photo in which the screen's corners lie at four places: perspective, a dark surround, a little noise.

    Parameters
    ----------
    pixels : ndarray of uint8, shape (height, width, 3)
    corners : top left, top right, bottom right, bottom left, in the photo's pixels
    size : (width, height) of the photo
    rng : numpy Generator
    """
    high, wide = pixels.shape[:2]
    flat: tuple[Point, ...] = ((0.0, 0.0), (float(wide), 0.0), (float(wide), float(high)), (0.0, float(high)))
    back = perspective(corners, flat)
    x: NDArray[np.float64] = np.arange(size[0], dtype=np.float64)[None, :] + 0.5
    y: NDArray[np.float64] = np.arange(size[1], dtype=np.float64)[:, None] + 0.5
    u, v = project(back, x, y)
    inside = (u >= 0) & (u < wide) & (v >= 0) & (v < high)
    photo = np.full((size[1], size[0], 3), 46, np.uint8)
    photo[inside] = pixels[np.clip(v[inside], 0, high - 1).astype(int), np.clip(u[inside], 0, wide - 1).astype(int)]
    noise = rng.normal(0.0, 2.0, photo.shape)
    return np.clip(photo + noise, 0, 255).astype(np.uint8)
