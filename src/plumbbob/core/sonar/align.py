"""Two passes over the same place, laid along each other by position."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from plumbbob.core.geodesy import separation
from plumbbob.core.sonar.recording import Recording, transducer_at
from plumbbob.core.types import Floats


def matching_pings(recording: Recording, other: Recording, within_m: float = 25.0) -> tuple[NDArray[np.intp], Floats]:
    """
    For each ping of a recording the ping of another that was taken nearest to it.

    Returns
    -------
    pings : ndarray of int (pings,)
        -1 where the other pass never came within reach, or a place is unknown.
    away_m : ndarray (pings,)
        Distance between the two places; NaN with -1.
    """
    if recording.down is None:
        return np.zeros(0, np.intp), np.zeros(0)
    n = len(recording.down)
    pings, away = np.full(n, -1, np.intp), np.full(n, np.nan)
    if other.down is None or not len(other.down) or not n:
        return pings, away
    here = transducer_at(recording.track, recording.down.mount, recording.down.time)
    there = transducer_at(other.track, other.down.mount, other.down.time)
    known, known_there = np.isfinite(here.latitude), np.isfinite(there.latitude)
    if not known.any() or not known_there.any():
        return pings, away
    first = int(np.argmax(known))
    origin = float(here.latitude[first]), float(here.longitude[first])

    def plane(latitude: Floats, longitude: Floats) -> Floats:
        return np.column_stack(separation(*origin, latitude, longitude))

    tree = cKDTree(plane(there.latitude[known_there], there.longitude[known_there]))
    found, index = tree.query(plane(here.latitude[known], here.longitude[known]), distance_upper_bound=within_m)
    near = np.isfinite(found)
    rows = np.flatnonzero(known)[near]
    pings[rows] = np.flatnonzero(known_there)[index[near]]
    away[rows] = found[near]
    return pings, away
