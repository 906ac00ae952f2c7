"""Where the soundings of a water lie: an outline, and how far places are from it."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike, NDArray

from plumbbob.core.geodesy import separation
from plumbbob.core.types import Floats

MOST_CORNERS = 32
_MOST_PLACES = 20_000


def outline_of_places(latitude: ArrayLike, longitude: ArrayLike) -> Floats:
    """
    The convex outline of places.

    Parameters
    ----------
    latitude, longitude : array_like, shape (n,)
        Degrees; places that are no numbers are left out.

    Returns
    -------
    ndarray, shape (corners, 2)
        Latitudes and longitudes, at most `MOST_CORNERS`; one or two places where all lie there; none for none.
    """
    from scipy.spatial import ConvexHull, QhullError

    lat, lon = np.asarray(latitude, float).ravel(), np.asarray(longitude, float).ravel()
    good = np.isfinite(lat) & np.isfinite(lon)
    lat, lon = lat[good], lon[good]
    if not lat.size:
        return np.zeros((0, 2))
    every = max(lat.size // _MOST_PLACES, 1)
    ends = [int(v.argmin()) for v in (lat, -lat, lon, -lon)]  # thinning must not lose these
    lat, lon = np.concatenate([lat[::every], lat[ends]]), np.concatenate([lon[::every], lon[ends]])
    places = np.unique(np.stack([lat, lon], axis=1), axis=0)
    if len(places) < 3:
        return places
    try:
        hull = places[ConvexHull(places * [1.0, np.cos(np.radians(lat.mean()))]).vertices]
    except QhullError:  # all on a line
        along = places[:, int(np.ptp(places, axis=0).argmax())]
        return places[[int(along.argmin()), int(along.argmax())]]
    while len(hull) > MOST_CORNERS:  # the corner that matters least goes first
        before, after = np.roll(hull, 1, axis=0), np.roll(hull, -1, axis=0)
        (ay, ax), (by, bx) = (hull - before).T, (after - before).T
        lost = np.abs(ax * by - ay * bx)  # twice the triangle
        hull = np.delete(hull, int(lost.argmin()), axis=0)
    return hull


def distance_to_outline_m(outline: Floats, latitude: ArrayLike, longitude: ArrayLike) -> Floats:
    """
    How far places are from an outline; 0 inside.

    Parameters
    ----------
    outline : ndarray, shape (corners, 2)
        As `outline_of_places` gives it.
    latitude, longitude : array_like, shape (n,)

    Returns
    -------
    ndarray, shape (n,)
        Metres; infinite from an outline without corners.

    Examples
    --------
    >>> square = np.array([[44.0, -40.0], [44.0, -39.9], [44.1, -39.9], [44.1, -40.0]])
    >>> distance_to_outline_m(square, [44.05, 44.2], [-39.95, -39.95]).round(-2).tolist()
    [0.0, 11100.0]
    """
    lat, lon = np.atleast_1d(np.asarray(latitude, float)), np.atleast_1d(np.asarray(longitude, float))
    if not len(outline):
        return np.full(lat.shape, np.inf)
    middle = outline.mean(axis=0)
    corners = _metres(middle, outline[:, 0], outline[:, 1])
    places = _metres(middle, lat, lon)
    starts, ends = corners, np.roll(corners, -1, axis=0)
    way = ends - starts
    length = np.maximum((way**2).sum(axis=1), 1e-9)
    share = np.clip(((places[:, None] - starts) * way).sum(axis=2) / length, 0.0, 1.0)
    away = np.linalg.norm(places[:, None] - (starts + share[..., None] * way), axis=2).min(axis=1)
    return np.where(_inside(corners, places), 0.0, away)


def size_m(outline: Floats) -> float:
    """The longest way across an outline; 0 for fewer than two corners."""
    if len(outline) < 2:
        return 0.0
    corners = _metres(outline.mean(axis=0), outline[:, 0], outline[:, 1])
    return float(np.linalg.norm(corners[:, None] - corners, axis=2).max())


def _metres(middle: Floats, lat: Floats, lon: Floats) -> Floats:
    east, north = separation(middle[0], middle[1], lat, lon)
    return np.stack([np.asarray(east, float), np.asarray(north, float)], axis=1)


def _inside(corners: Floats, places: Floats) -> NDArray[np.bool_]:
    """Even-odd rule."""
    x, y = places[:, 0:1], places[:, 1:2]
    x0, y0 = corners[:, 0], corners[:, 1]
    x1, y1 = np.roll(x0, -1), np.roll(y0, -1)
    spans = (y0 > y) != (y1 > y)
    with np.errstate(divide="ignore", invalid="ignore"):
        crosses = x < (x1 - x0) * (y - y0) / (y1 - y0) + x0
    return np.asarray((spans & crosses).sum(axis=1) % 2 == 1)
