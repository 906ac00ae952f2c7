"""
A picture taken off a screen, made into numbers: straightened, scaled, its colours turned back into levels.

Pixels are (x to the right, y downwards), places between them count: the middle of the first pixel is 0.5. A picture
of the water below has depth down its height; one of both sides has the boat's line upright in it.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from enum import Enum

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from plumbbob.core.sonar.recording import Down, EchoArray, Mount, Recording, Side, Track
from plumbbob.core.types import Floats
from plumbbob.core.units import DEEPEST_M

Pixels = NDArray[np.uint8]  # (height, width, 3)
Point = tuple[float, float]

CLICK_SD_PX = 0.7  # of one careful click, with a magnifier
MOST_PINGS, MOST_SAMPLES = 6000, 1200
_LEVEL_DB = 50.0 / 255.0  # what one step of the ramp is worth where the picture does not tell
_SPECKLE_DB = 5.57  # standard deviation of speckle in decibels (log of an exponential variable)
_BEAM_DEG, _FREQUENCY_HZ, _PULSE_S = 20.0, 200e3, 1.5e-4  # usual ones; a picture tells none of them
_BAR_NEAR, _BAR_WIDE = 26, 60  # a colour bar is of one colour across, and no wider than this to each side
_STRANGE = 70.0  # so far from every colour of the ramp it is no echo
_CUBE = 32  # colours are looked up in a cube of so many steps a side
_CLOCK_S = 0.2  # of time to a column where the picture tells none


class Missing(Enum):
    """What a picture's scale lacks."""

    SURFACE = "surface"
    BOAT_LINE = "boat line"
    DEPTH = "depth"
    RANGE = "range"


class Looks(Enum):
    """What a picture shows."""

    DOWN = "the water below"
    SIDES = "both sides"


@dataclass(frozen=True, slots=True, kw_only=True)
class PictureScale:
    """
    What was clicked and typed of a picture. Points after `corners` are in the straightened picture.

    `near` and `far` are heights of the surface and of a known depth (pixels, metres) where it looks down; to the
    sides `near` is the column of the boat's line with range 0, `far` a column of known range. `early` and `late` are
    two places along time with a clock each, where given.
    """

    looks: Looks = Looks.DOWN
    width: int
    height: int
    corners: tuple[Point, Point, Point, Point] | None = None  # top left, top right, bottom right, bottom left
    near: Point | None = None  # (pixel, metres)
    far: Point | None = None
    early: Point | None = None  # (pixel, seconds)
    late: Point | None = None
    ramp: tuple[Point, Point] | None = None  # ends of the picture's own colour bar, quiet end first
    apart_m: float | None = None  # way between `early` and `late`, where that is known

    @property
    def missing(self) -> Missing | None:
        """What still has to be given before depths can be read."""
        if self.near is None:
            return Missing.SURFACE if self.looks is Looks.DOWN else Missing.BOAT_LINE
        if self.far is None:
            return Missing.DEPTH if self.looks is Looks.DOWN else Missing.RANGE
        return None


def speed_of(calibration: PictureScale) -> float:
    """The boat's speed by the way and the time between the two marks; NaN where either was not given."""
    early, late, way = calibration.early, calibration.late, calibration.apart_m
    if early is None or late is None or way is None:
        return math.nan
    return way / abs(late[1] - early[1])


def check(calibration: PictureScale) -> None:
    """
    Refuse what can't be.

    Raises
    ------
    ValueError
        In one line for the person.
    """
    near, far = calibration.near, calibration.far
    if calibration.corners is not None:
        straight_size(calibration.corners)
    if near is not None and far is not None:
        if abs(far[1] - near[1]) < 1e-6:
            raise ValueError("two marks of the scale with the same value give no scale")
        if abs(far[0] - near[0]) < 2.0:
            raise ValueError("two marks of the scale at the same place give no scale")
        if calibration.looks is Looks.DOWN and (far[0] - near[0]) * (far[1] - near[1]) < 0:
            raise ValueError("the deeper mark has to lie below the shallower one")
        whole = calibration.height if calibration.looks is Looks.DOWN else calibration.width
        if abs((far[1] - near[1]) / (far[0] - near[0])) * whole > DEEPEST_M:
            raise ValueError("by these marks the picture shows more water than there is anywhere")
    early, late = calibration.early, calibration.late
    if early is not None and late is not None:
        if abs(late[0] - early[0]) < 2.0:
            raise ValueError("two times at the same place give no clock")
        if abs(late[1] - early[1]) < 1e-3:
            raise ValueError("two equal times give no clock")
    if calibration.apart_m is not None and not 0.1 <= calibration.apart_m <= 1e5:
        raise ValueError("the way between two marks has to be above zero")
    if calibration.ramp is not None:
        (x0, y0), (x1, y1) = calibration.ramp
        if math.hypot(x1 - x0, y1 - y0) < 8.0:
            raise ValueError("the colour bar is too short to be read")


# -- straightening --------------------------------------------------------------------------------------------------


def straight_size(corners: tuple[Point, Point, Point, Point]) -> tuple[int, int]:
    """
    Width and height of the straightened picture: the longer of each pair of opposite edges.

    Raises
    ------
    ValueError
        If the corners are out of order, cross, or enclose next to nothing.

    Examples
    --------
    >>> straight_size(((0.0, 0.0), (100.0, 10.0), (100.0, 90.0), (0.0, 100.0)))
    (100, 100)
    """
    turns = []
    for i in range(4):
        (ax, ay), (bx, by), (cx, cy) = (corners[(i + k) % 4] for k in range(3))
        turns.append((bx - ax) * (cy - by) - (by - ay) * (cx - bx))
    if not all(t > 1.0 for t in turns):
        raise ValueError("click the corners in order: top left, top right, bottom right, bottom left")

    def edge(i: int, j: int) -> float:
        return math.hypot(corners[j][0] - corners[i][0], corners[j][1] - corners[i][1])

    wide, high = max(edge(0, 1), edge(3, 2)), max(edge(0, 3), edge(1, 2))
    if wide < 16 or high < 16:
        raise ValueError("the corners enclose next to nothing")
    return round(wide), round(high)


def perspective(source: tuple[Point, ...], target: tuple[Point, ...]) -> Floats:
    """
    The 3 x 3 matrix that takes four points to four others in homogeneous coordinates.

    Notes
    -----
    Eight linear equations in the eight unknowns of a plane projective map with its last element one.

    Examples
    --------
    >>> m = perspective(((0, 0), (2, 0), (2, 2), (0, 2)), ((1, 1), (5, 1), (5, 5), (1, 5)))
    >>> project(m, np.array([1.0]), np.array([1.0]))[0].round(6).tolist()
    [3.0]
    """
    rows, values = [], []
    for (x, y), (u, v) in zip(source, target, strict=True):
        rows.append([x, y, 1, 0, 0, 0, -u * x, -u * y])
        rows.append([0, 0, 0, x, y, 1, -v * x, -v * y])
        values += [u, v]
    solved = np.linalg.solve(np.array(rows, np.float64), np.array(values, np.float64))
    return np.append(solved, 1.0).reshape(3, 3)


def project(matrix: Floats, x: Floats, y: Floats) -> tuple[Floats, Floats]:
    """Points through a projective map; shapes are kept."""
    w = matrix[2, 0] * x + matrix[2, 1] * y + matrix[2, 2]
    return (
        (matrix[0, 0] * x + matrix[0, 1] * y + matrix[0, 2]) / w,
        (matrix[1, 0] * x + matrix[1, 1] * y + matrix[1, 2]) / w,
    )


def straighten(pixels: Pixels, corners: tuple[Point, Point, Point, Point]) -> Pixels:
    """
    The part of a photo inside four corners, as if seen square on; bilinear.

    Parameters
    ----------
    pixels : ndarray of uint8, shape (height, width, 3)
    corners : four points
        Top left, top right, bottom right, bottom left.
    """
    wide, high = straight_size(corners)
    square = ((0.0, 0.0), (float(wide), 0.0), (float(wide), float(high)), (0.0, float(high)))
    matrix = perspective(square, corners)
    out = np.empty((high, wide, 3), np.uint8)
    x: Floats = np.arange(wide, dtype=np.float64)[None, :] + 0.5
    for start in range(0, high, 256):
        y: Floats = np.arange(start, min(start + 256, high), dtype=np.float64)[:, None] + 0.5
        u, v = project(matrix, x, y)
        at = np.stack([v - 0.5, u - 0.5])
        for c in range(3):
            out[start : start + len(y), :, c] = ndimage.map_coordinates(
                pixels[..., c], at, order=1, mode="nearest", output=np.float32
            ).round()
    return out


# -- scales ---------------------------------------------------------------------------------------------------------


def metres_at(calibration: PictureScale, pixel: float) -> tuple[float, float]:
    """
    Depth (or range) at a row (or column), with its standard deviation.

    Notes
    -----
    A line through two clicks; three clicks' spreads add up in squares with the line's own weights, and the pixel's
    own width counts as evenly spread (1 / sqrt(12)).

    Examples
    --------
    >>> c = PictureScale(width=800, height=600, near=(100.0, 0.0), far=(500.0, 20.0))
    >>> value, sd = metres_at(c, 300.0)
    >>> value, round(sd, 3)
    (10.0, 0.045)
    """
    if calibration.near is None or calibration.far is None:
        return math.nan, math.nan
    (a, va), (b, vb) = calibration.near, calibration.far
    per = (vb - va) / (b - a)
    share = (pixel - a) / (b - a)
    own = CLICK_SD_PX**2 + 1.0 / 12.0
    spread = math.sqrt(own + CLICK_SD_PX**2 * ((1 - share) ** 2 + share**2))
    return va + per * (pixel - a), abs(per) * spread


def seconds_at(calibration: PictureScale, pixel: float) -> float:
    """Clock at a place along time; NaN where none was given."""
    if calibration.early is None or calibration.late is None:
        return math.nan
    (a, ta), (b, tb) = calibration.early, calibration.late
    return ta + (tb - ta) * (pixel - a) / (b - a)


# -- colours --------------------------------------------------------------------------------------------------------


def lightness(pixels: Pixels) -> NDArray[np.float32]:
    """Lightness 0 to 255 of colours, shape without the last axis (ITU-R BT.709 weights)."""
    return (pixels @ np.array([0.2126, 0.7152, 0.0722], np.float32)).astype(np.float32)


def ramp_along(pixels: Pixels, ends: tuple[Point, Point], steps: int = 256) -> Pixels:
    """Colours along a line across the picture's own colour bar, shape (steps, 3), quiet end first."""
    (x0, y0), (x1, y1) = ends
    share = np.linspace(0.0, 1.0, steps)
    at = np.stack([y0 + share * (y1 - y0) - 0.5, x0 + share * (x1 - x0) - 0.5])
    columns = [ndimage.map_coordinates(pixels[..., c], at, order=1, mode="nearest") for c in range(3)]
    return np.stack(columns, axis=1).astype(np.uint8)


def without_bar(pixels: Pixels, ends: tuple[Point, Point]) -> NDArray[np.bool_]:
    """Where a picture shows its own colour bar: across the marked line as far as the colour stays, shape (h, w)."""
    (x0, y0), (x1, y1) = ends
    high, wide = pixels.shape[:2]
    covered = np.zeros((high, wide), bool)
    upright = abs(y1 - y0) >= abs(x1 - x0)
    n = int(max(abs(x1 - x0), abs(y1 - y0))) + 1
    share = np.linspace(0.0, 1.0, n)
    xs = np.clip(x0 + share * (x1 - x0), 0, wide - 1).astype(int)
    ys = np.clip(y0 + share * (y1 - y0), 0, high - 1).astype(int)
    before, after = [], []
    for x, y in zip(xs, ys, strict=True):
        line, at = (pixels[y], x) if upright else (pixels[:, x], y)
        near = line[max(at - _BAR_WIDE, 0) : at + _BAR_WIDE].astype(np.int16)
        same = np.abs(near - line[at]).max(axis=1) < _BAR_NEAR
        middle = min(at, _BAR_WIDE)
        before.append(int(np.argmin(same[: middle + 1][::-1])) if not same[: middle + 1].all() else middle)
        after.append(int(np.argmin(same[middle:])) if not same[middle:].all() else same.size - middle)
    # where the bar's end is of the ground's own colour its width can't be seen: most rows tell it
    a, b = int(np.median(before)), int(np.median(after))
    for x, y in zip(xs, ys, strict=True):
        if upright:
            covered[y, max(x - a, 0) : x + b] = True
        else:
            covered[max(y - a, 0) : y + b, x] = True
    return ndimage.binary_dilation(covered, iterations=3)


def levels(pixels: Pixels, ramp: Pixels | None = None, hidden: NDArray[np.bool_] | None = None) -> NDArray[np.uint8]:
    """
    Levels 0 to 255 of a picture: places along its ramp, else lightness.

    Parameters
    ----------
    pixels : ndarray of uint8, shape S + (3,)
    ramp : ndarray of uint8, shape (n, 3), optional
        The picture's own colours, quiet end first.
    hidden : ndarray of bool, shape S, optional
        What is known not to be echo, such as the colour bar.

    Notes
    -----
    What is far from all colours of the ramp is writing on the picture; it and what is hidden take the level beside
    them. Every colour takes the level of the nearest one of the ramp, so a ramp of any colours works; looked up in a
    cube of 32 steps a side. Without a ramp a light ground (ink on paper) is told from a dark one by the median.
    """
    if ramp is None:
        light = lightness(pixels)
        if float(np.median(light)) > 150.0:
            light = 255.0 - light
        return np.clip(np.rint(light), 0, 255).astype(np.uint8)
    axis = (np.arange(_CUBE) + 0.5) * 256 / _CUBE
    cube = np.stack(np.meshgrid(axis, axis, axis, indexing="ij"), axis=-1).reshape(-1, 3)
    colours = ramp.astype(np.float64)
    nearest, away = np.empty(len(cube), np.intp), np.empty(len(cube))
    for start in range(0, len(cube), 4096):
        part = cube[start : start + 4096]
        apart = ((part[:, None, :] - colours[None, :, :]) ** 2).sum(axis=2)
        nearest[start : start + 4096] = apart.argmin(axis=1)
        away[start : start + 4096] = apart.min(axis=1)
    table = np.rint(nearest * 255.0 / max(len(ramp) - 1, 1)).astype(np.uint8)
    index = (pixels // (256 // _CUBE)).astype(np.intp)
    index = (index[..., 0] * _CUBE + index[..., 1]) * _CUBE + index[..., 2]
    found = table[index]
    other = ndimage.binary_dilation((away > _STRANGE**2)[index], iterations=2)
    if hidden is not None:
        other |= hidden
    if other.any() and not other.all():
        # along time, where echoes go on; writing is wider than it is high
        beside = ndimage.distance_transform_edt(
            other, sampling=(4.0, 1.0), return_distances=False, return_indices=True
        )
        found = found[tuple(beside)]
    return found


# -- a recording of it ----------------------------------------------------------------------------------------------


def as_recording(
    pixels: Pixels,
    calibration: PictureScale,
    name: str,
    *,
    start_time: float,
    track: Track | None = None,
) -> Recording:
    """
    A straightened picture as a recording, so that every tool of a pass works on it.

    Parameters
    ----------
    pixels : ndarray of uint8, shape (height, width, 3)
        Straightened already where corners were given.
    calibration : PictureScale
    name : str
    start_time : float
        Seconds since 1970 of the picture's first column, where it tells no clock.
    track : Track, optional
        Where the boat was.

    Raises
    ------
    ValueError
        In one line, where the scale can't be used.
    """
    check(calibration)
    if calibration.missing:
        raise ValueError(f"not marked yet: {calibration.missing.value}")
    if calibration.ramp is not None:
        hidden = without_bar(pixels, calibration.ramp)
        level = levels(pixels, ramp_along(pixels, calibration.ramp), hidden)
    else:
        level = levels(pixels)
    if calibration.looks is Looks.SIDES:
        return _sides(level, calibration, name, start_time, track)
    assert calibration.near is not None
    assert calibration.far is not None
    (a, va), (b, vb) = calibration.near, calibration.far
    per = (vb - va) / (b - a)
    surface = a - va / per  # the row of depth zero
    first = max(math.ceil(surface), 0)
    if level.shape[0] - first < 16:
        raise ValueError("the surface lies at the foot of the picture: nothing is left below it")
    body = level[first:]
    every, wide = -(-body.shape[0] // MOST_SAMPLES), -(-body.shape[1] // MOST_PINGS)
    body = _thinned(body, every, wide)
    n = body.shape[1]
    time = _times(calibration, n, wide, level.shape[1], start_time)
    if n > 1 and time[1] < time[0]:
        body, time = body[:, ::-1], time[::-1]
    step = per * every
    return Recording(
        name=name,
        title=name,
        views=("picture",),
        track=track,
        down=Down(
            time=time,
            range_start_m=np.full(n, (first + every / 2 - surface) * per),
            range_step_m=np.full(n, step),
            echo=EchoArray(np.ascontiguousarray(body.T)),
            scale_db=_LEVEL_DB,
            offset_db=-100.0,
            frequency_hz=_FREQUENCY_HZ,
            beam_width_deg=_BEAM_DEG,
            pulse_length_s=max(_PULSE_S, 2 * step / 1480.0),
            tvg="20logR",  # screens correct for range by no rule one could know: half way between the usual two
            mount=Mount(depth_m=0.0),
            sound_speed_mps=1480.0,
        ),
    )


def _sides(
    level: NDArray[np.uint8], calibration: PictureScale, name: str, start_time: float, track: Track | None
) -> Recording:
    assert calibration.near is not None
    assert calibration.far is not None
    (a, va), (b, vb) = calibration.near, calibration.far
    per = abs((vb - va) / (b - a))
    middle = a - va / ((vb - va) / (b - a))
    centre = round(middle)
    reach = min(centre, level.shape[1] - centre)
    if reach < 32:
        raise ValueError("the boat's line lies at the edge of the picture: one side is missing")
    every, tall = -(-reach // MOST_SAMPLES), -(-level.shape[0] // MOST_PINGS)
    port = _thinned(np.ascontiguousarray(level[:, centre - reach : centre][:, ::-1].T), every, tall).T
    starboard = _thinned(np.ascontiguousarray(level[:, centre : centre + reach].T), every, tall).T
    n = port.shape[0]
    time = _times(calibration, n, tall, level.shape[0], start_time)
    if calibration.early is None or calibration.late is None:
        # most screens let the newest line come in at the top
        time = time[0] + time[-1] - time
    if n > 1 and time[1] < time[0]:
        port, starboard, time = port[::-1], starboard[::-1], time[::-1]
    return Recording(
        name=name,
        title=name,
        views=("picture",),
        track=track,
        side=Side(
            time=time,
            range_start_m=np.full(n, (every / 2) * per),
            range_step_m=np.full(n, per * every),
            port=EchoArray(np.ascontiguousarray(port)),
            starboard=EchoArray(np.ascontiguousarray(starboard)),
            scale_db=_level_db(np.concatenate([port, starboard], axis=1)),
            offset_db=-100.0,
            frequency_hz=455e3,
            pulse_length_s=max(_PULSE_S, 2 * per * every / 1480.0),
            beam_width_along_deg=1.0,
            beam_width_across_deg=60.0,
            tvg="20logR",
            mount=Mount(depth_m=0.0),
            sound_speed_mps=1480.0,
        ),
    )


def _level_db(level: NDArray[np.uint8]) -> float:
    """
    Decibels to one step of the ramp, by the speckle between neighbouring pings, levels of shape (pings, samples).

    Speckle spreads by 5.6 dB whatever the gain, so the difference of two pings by the square root of two of that; a
    screen that smooths shows less, hence the bounds.
    """
    a, b = level[:-1].astype(np.float32), level[1:].astype(np.float32)
    use = (a > 12) & (b > 12) & (a < 243) & (b < 243)
    if use.sum() < 500:
        return _LEVEL_DB
    spread = 1.4826 * float(np.median(np.abs((a - b)[use])))
    return float(np.clip(math.sqrt(2) * _SPECKLE_DB / max(spread, 1.0), 0.6 * _LEVEL_DB, 2.0 * _LEVEL_DB))


def _thinned(level: NDArray[np.uint8], rows: int, columns: int) -> NDArray[np.uint8]:
    """The loudest of so many rows and columns."""
    high, wide = level.shape[0] // rows * rows, level.shape[1] // columns * columns
    part = level[:high, :wide]
    if rows == 1 and columns == 1:
        return part
    return part.reshape(high // rows, rows, wide // columns, columns).max(axis=(1, 3))


def _times(calibration: PictureScale, n: int, every: int, whole: int, start_time: float) -> Floats:
    middle: Floats = (np.arange(n, dtype=np.float64) + 0.5) * every
    if calibration.early is None or calibration.late is None:
        return start_time + _CLOCK_S * np.arange(n, dtype=np.float64)
    (a, ta), (b, tb) = calibration.early, calibration.late
    return np.asarray(ta + (tb - ta) * (middle - a) / (b - a), np.float64)


def fitted(calibration: PictureScale, width: int, height: int) -> PictureScale:
    """A calibration of another picture of the same size, for this one: everything but its clock."""
    if (width, height) != (calibration.width, calibration.height):
        raise ValueError("the pictures differ in size")
    return replace(calibration, early=None, late=None)
