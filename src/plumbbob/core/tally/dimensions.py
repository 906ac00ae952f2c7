"""
What a rate can hang on: every condition of a record cut into bins, each piece of effort with its bin.

A piece is the part of one stretch of effort that lies in one bin of the light and one of the hour; all other
conditions hold through a stretch.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from plumbbob.core.tally.record import Codes, FishingRecord
from plumbbob.core.types import Floats
from plumbbob.core.water.sun_arrays import sun_elevations_deg, sunrises_s

SLICE_S = 600.0
LIGHTS = ("night", "low sun", "day", "high sun")
WINDS = ("wind onto", "wind along", "wind off")
_LIGHT_EDGES = (-6.0, 6.0, 20.0)
_WIND_EDGES = (60.0, 120.0)
_BINS, _LEAST_SHARE = 10, 0.03  # of a condition that is a number, and of the hours that make one
_STEPS = (1.0, 2.0, 5.0)
_MOST_NAMES = 40


@dataclass(frozen=True, slots=True)
class Dimension:
    """
    One condition in bins.

    Parameters
    ----------
    name : str
    code : (pieces,) int array
        The bin of each piece, -1 where the condition is not known.
    edges : (bins + 1,) array or None
        Of a condition that is a number; a bin holds from <= x < to.
    names : tuple of str
        Of a condition that is a name.
    """

    name: str
    code: Codes
    edges: Floats | None
    names: tuple[str, ...]

    @property
    def size(self) -> int:
        """How many bins."""
        return len(self.names) if self.edges is None else self.edges.size - 1


@dataclass(frozen=True, slots=True)
class Pieces:
    """
    Effort in pieces, and the fish of each.

    Parameters
    ----------
    effort : (pieces,) int array
    hours : (pieces,) array
        Rod hours.
    dimensions : list of Dimension
        Those of which something is known.
    slice_piece, slice_effort : (slices,) int arrays
        Of every ten minutes of every effort, in order of effort and time.
    first_slice : (efforts + 1,) int array
    """

    effort: Codes
    hours: Floats
    dimensions: list[Dimension]
    slice_piece: Codes
    slice_effort: Codes
    first_slice: Codes

    def of_moment(self, record: FishingRecord, effort: Codes, time_s: Floats) -> Codes:
        """The piece of an effort that holds a moment; the middle one where the time is not known."""
        last = self.first_slice[effort + 1] - 1
        since = np.where(
            np.isfinite(time_s), time_s - record.start_s[effort], 0.5 * (record.end_s - record.start_s)[effort]
        )
        at = self.first_slice[effort] + np.clip(since // SLICE_S, 0, None).astype(np.int64)
        return self.slice_piece[np.minimum(at, last)]


def in_pieces(record: FishingRecord) -> Pieces:
    """Cut a record's efforts by light and hour, and every condition into bins."""
    n = record.start_s.size
    span = record.end_s - record.start_s
    count = np.maximum(np.ceil(span / SLICE_S - 1e-9), 1).astype(np.int64)
    first = np.concatenate([[0], np.cumsum(count)])
    effort = np.repeat(np.arange(n), count)
    within = np.arange(first[-1]) - first[effort]
    begin = record.start_s[effort] + within * SLICE_S
    end = np.minimum(begin + SLICE_S, record.end_s[effort])
    slice_hours = (end - begin) / 3600.0 * record.rods[effort]
    sun, hour = _sun_of(record, effort, (begin + end) / 2)
    hour_edges = _edges(hour, slice_hours, least_step=1.0)
    light = np.where(np.isfinite(sun), np.searchsorted(_LIGHT_EDGES, sun, side="right"), -1)
    hour_code = _coded(hour, hour_edges)
    # pieces: one effort, one light, one hour
    key = (effort * 8 + light + 1) * 64 + hour_code + 1
    starts = np.flatnonzero(np.concatenate([[True], key[1:] != key[:-1]])) if key.size else np.zeros(0, np.int64)
    piece = np.repeat(np.arange(starts.size), np.diff(np.concatenate([starts, [key.size]])))
    hours = np.bincount(piece, slice_hours, starts.size).astype(np.float64)
    of = effort[starts]
    found = [Dimension("light", light[starts], None, LIGHTS)]
    if hour_edges is not None:
        found.append(Dimension("hour_from_sunrise", hour_code[starts], hour_edges, ()))
    for name, values in _numbers(record).items():
        edges = _edges(values, record.hours)
        if edges is not None:
            found.append(Dimension(name, _coded(values, edges)[of], edges, ()))
    for name, (code, names) in _names(record).items():
        found.append(Dimension(name, code[of], None, names))
    known = [d for d in found if (d.code >= 0).any()]
    return Pieces(of, hours, known, piece, effort, first)


def _sun_of(record: FishingRecord, effort: Codes, middle_s: Floats) -> tuple[Floats, Floats]:
    """Height of the sun and hours from sunrise at the middle of each slice."""
    latitude = np.where(np.isfinite(record.latitude), record.latitude, record.water_latitude)[effort]
    longitude = np.where(np.isfinite(record.longitude), record.longitude, record.water_longitude)[effort]
    sun = sun_elevations_deg(latitude, longitude, middle_s)
    rise = sunrises_s(latitude, longitude, middle_s, record.utc_offset_s[effort])
    return sun, (middle_s - rise) / 3600.0


def wind_side_deg(record: FishingRecord) -> Floats:
    """Angle between the bearing from the water's place to the spot and the way the wind blows, 0 to 180."""
    north = record.latitude - record.water_latitude
    east = (record.longitude - record.water_longitude + 180.0) % 360.0 - 180.0
    bearing = np.degrees(np.arctan2(east * np.cos(np.radians(record.water_latitude)), north))
    away = (bearing - record.numbers["wind_from_deg"] - 180.0) % 360.0
    return np.where(np.hypot(north, east) > 1e-7, np.minimum(away, 360.0 - away), np.nan)


def _numbers(record: FishingRecord) -> dict[str, Floats]:
    of = record.numbers
    height = of["bottom_m"] - of["lure_depth_m"]
    return {
        "lure_depth": of["lure_depth_m"],
        "bottom_depth": of["bottom_m"],
        "height_off_bottom": np.where(height >= 0.0, height, np.nan),
        "layer_distance": of["lure_depth_m"] - of["layer_m"],
        "bait_distance": of["bait_distance_m"],
        "wind": of["wind_mps"],
        "water_temperature": of["water_temperature_c"],
        "lure_length": of["lure_length_m"],
        "speed": of["speed_mps"],
    }


def _names(record: FishingRecord) -> dict[str, tuple[Codes, tuple[str, ...]]]:
    side = wind_side_deg(record)
    month = ((record.start_s + record.utc_offset_s).astype("datetime64[s]").astype("datetime64[M]")).astype(
        np.int64
    ) % 12
    made = {
        "wind_side": (np.where(np.isfinite(side), np.searchsorted(_WIND_EDGES, side, side="right"), -1), WINDS),
        "month": (month, tuple(str(k + 1) for k in range(12))),
    }
    for name, words in record.words.items():
        made[name] = _most_fished(words.code, words.names, record.hours)
    return made


def _most_fished(code: Codes, names: tuple[str, ...], hours: Floats) -> tuple[Codes, tuple[str, ...]]:
    """At most so many names, by the hours they were fished; the rest is not looked at one by one."""
    if len(names) <= _MOST_NAMES:
        return code, names
    fished = np.bincount(code[code >= 0], hours[code >= 0], len(names))
    kept = np.sort(np.argsort(-fished, kind="stable")[:_MOST_NAMES])
    new = np.full(len(names) + 1, -1)
    new[kept] = np.arange(kept.size)
    return new[code], tuple(names[k] for k in kept)


def _coded(values: Floats, edges: Floats | None) -> Codes:
    if edges is None:
        return np.full(values.size, -1)
    code = np.searchsorted(edges, values, side="right") - 1
    return np.where(np.isfinite(values), np.clip(code, 0, edges.size - 2), -1)


def _edges(values: Floats, hours: Floats, least_step: float = 0.0) -> Floats | None:
    """
    Round edges, closer where more was fished; bins that hold little are joined to the one beside.

    None where fewer than two different values are known.
    """
    known = np.isfinite(values) & (hours > 0.0)
    if not known.any() or np.ptp(values[known]) <= 0.0:
        return None
    order = np.argsort(values[known], kind="stable")
    x, weight = values[known][order], hours[known][order]
    share = (np.cumsum(weight) - weight / 2) / weight.sum()
    cuts = np.interp(np.arange(1, _BINS) / _BINS, share, x)
    wide = np.maximum(np.gradient(cuts), np.ptp(x) / 30.0)
    edges = [_rounded(float(c), float(w), least_step) for c, w in zip(cuts, wide, strict=True)]
    step = max(_step(float(np.ptp(x)) / 40.0), least_step)
    low, high = math.floor(x[0] / step) * step, (math.floor(x[-1] / step) + 1) * step
    inner = [e for e in sorted(set(edges)) if low < e < high]
    made = np.round(np.array([low, *inner, high]), 10)
    return _joined(made, np.histogram(x, made, weights=weight)[0])


def _step(wish: float) -> float:
    """The largest of 1, 2 and 5 times a power of ten that is no larger."""
    scale = 10.0 ** math.floor(math.log10(wish))
    return max(s * scale for s in _STEPS if s * scale <= wish * (1 + 1e-9))


def _rounded(cut: float, wide: float, least_step: float) -> float:
    step = max(_step(wide), least_step)
    return round(round(cut / step) * step, 10)


def _joined(edges: Floats, held: Floats) -> Floats | None:
    """Edges without bins of less than a share of the hours."""
    inner, weight = list(edges), list(held)
    least = _LEAST_SHARE * sum(weight)
    while len(weight) > 1 and min(weight) < least:
        k = int(np.argmin(weight))
        beside = k - 1 if k and (k == len(weight) - 1 or weight[k - 1] <= weight[k + 1]) else k + 1
        a, b = sorted((k, beside))
        weight[a] += weight.pop(b)
        inner.pop(b)
    return np.array(inner) if len(weight) > 1 else None
