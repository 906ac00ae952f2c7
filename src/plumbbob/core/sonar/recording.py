"""What a sonar recording holds, as values. Echoes stay where they are until somebody asks for some pings."""

from __future__ import annotations

import math
from abc import ABC, abstractmethod
from dataclasses import dataclass, field
from functools import cached_property
from typing import Protocol

import numpy as np

from plumbbob.core import geodesy as geo
from plumbbob.core.types import Bytes, Floats


class EchoSource(Protocol):
    """Echo levels of many pings, fetched in runs so that hours of them need no memory."""

    @property
    def shape(self) -> tuple[int, ...]:
        """(pings, samples), or (pings, beams, samples) for a forward view."""

    def read(self, start: int, stop: int) -> Bytes:
        """Pings start to stop (exclusive), in file order, as stored bytes."""


@dataclass(frozen=True, slots=True)
class EchoArray:
    """An `EchoSource` over an array in memory."""

    values: Bytes

    @property
    def shape(self) -> tuple[int, ...]:
        """Shape of the array."""
        return self.values.shape

    def read(self, start: int, stop: int) -> Bytes:
        """Pings start to stop (exclusive)."""
        return self.values[start:stop]


@dataclass(frozen=True, slots=True, kw_only=True)
class Mount:
    """Where a transducer sits, seen from the position antenna; depth below the surface. Metres."""

    depth_m: float
    forward_m: float = 0.0
    starboard_m: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Track:
    """Position fixes in order of time, without gaps of value: shape (fixes,) each."""

    time: Floats
    latitude: Floats
    longitude: Floats
    speed_mps: Floats
    heading_deg: Floats
    course_deg: Floats
    temperature_c: Floats

    def __len__(self) -> int:
        return int(self.time.size)


@dataclass(frozen=True, kw_only=True, eq=False)
class Pings(ABC):
    """What every view has: when it looked, how far, and what its bytes mean. In order of time."""

    time: Floats  # (pings,)
    range_start_m: Floats  # (pings,) centre of the first sample
    range_step_m: Floats  # (pings,)
    scale_db: float
    offset_db: float
    frequency_hz: float
    pulse_length_s: float = math.nan  # not every recording of a side or forward view tells it
    tvg: str
    mount: Mount
    sound_speed_mps: float

    def __len__(self) -> int:
        return int(self.time.size)

    @property
    @abstractmethod
    def samples(self) -> int:
        """Samples a ping."""

    @property
    def pulse_m(self) -> float:
        """Half the pulse's length in water: what range resolution is at best (c tau / 2)."""
        return self.sound_speed_mps * self.pulse_length_s / 2

    @cached_property
    def reach_m(self) -> float:
        """Range of the last sample of the farthest-looking ping."""
        if not len(self):
            return 0.0
        return float((self.range_start_m + self.range_step_m * (self.samples - 1)).max())

    @property
    def deepest_m(self) -> float:
        """Depth of the last sample of the farthest-looking ping."""
        return self.reach_m + self.mount.depth_m

    @cached_property
    def typical_interval_s(self) -> float:
        """Median time between pings."""
        gaps = np.diff(self.time)
        gaps = gaps[gaps > 0]
        return float(np.median(gaps)) if gaps.size else 0.1


@dataclass(frozen=True, kw_only=True, eq=False)
class Down(Pings):
    """Pings of a round beam that looks straight down."""

    echo: EchoSource  # (pings, samples)
    beam_width_deg: float

    @property
    def samples(self) -> int:
        """Samples a ping."""
        return self.echo.shape[1]


SIDES = ("port", "starboard")


@dataclass(frozen=True, kw_only=True, eq=False)
class Side(Pings):
    """Pings of two fans, thin along the track and wide across it; ranges are slant ranges."""

    port: EchoSource  # (pings, samples)
    starboard: EchoSource
    beam_width_along_deg: float
    beam_width_across_deg: float

    @property
    def samples(self) -> int:
        """Samples a ping and side."""
        return self.port.shape[1]

    def echo_of(self, side: str) -> EchoSource:
        """Echoes of one of `SIDES`."""
        return self.port if side == "port" else self.starboard


@dataclass(frozen=True, kw_only=True, eq=False)
class Forward(Pings):
    """Frames of a fan of beams in an upright plane that looks ahead, turned to an azimuth."""

    beam_angle_deg: Floats  # (beams,) below the horizontal
    azimuth_deg: Floats  # (pings,) clockwise from the bow
    echo: EchoSource  # (pings, beams, samples)
    beam_width_deg: float

    @property
    def samples(self) -> int:
        """Samples a beam."""
        return self.echo.shape[2]

    @property
    def beam_step_deg(self) -> float:
        """Median angle between beams."""
        return float(np.median(np.abs(np.diff(self.beam_angle_deg)))) if self.beam_angle_deg.size > 1 else 1.0


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Recording:
    """One recording: where the boat went and what its transducers heard."""

    name: str
    title: str = ""
    track: Track | None = None
    down: Down | None = None
    side: Side | None = None
    forward: Forward | None = None
    views: tuple[str, ...] = ()  # names of all groups of echoes in the file
    notes: tuple[str, ...] = field(default=())  # what the reader had to leave out, for people


def _unwrapped(degrees: Floats) -> Floats:
    good = np.isfinite(degrees)
    out = np.full(degrees.shape, np.nan)
    out[good] = np.unwrap(degrees[good], period=360.0)
    return out


def _interpolated(time: Floats, known_time: Floats, values: Floats) -> Floats:
    good = np.isfinite(values)
    if not good.any():
        return np.full(np.shape(time), np.nan)
    return np.interp(time, known_time[good], values[good])


def _running_mean(time: Floats, values: Floats, width_s: float) -> Floats:
    good = np.isfinite(values)
    total = np.concatenate(([0.0], np.cumsum(np.where(good, values, 0.0))))
    count = np.concatenate(([0], np.cumsum(good)))
    first = np.searchsorted(time, time - width_s / 2)
    last = np.searchsorted(time, time + width_s / 2, side="right")
    n = count[last] - count[first]
    return np.where(n > 0, (total[last] - total[first]) / np.maximum(n, 1), np.nan)


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class TransducerTrack:
    """Where a transducer was at given times: shape S each; NaN where the track does not reach."""

    latitude: Floats
    longitude: Floats
    heading_deg: Floats
    speed_mps: Floats


def transducer_at(track: Track | None, mount: Mount, time: Floats, *, max_gap_s: float = 10.0) -> TransducerTrack:
    """
    Position of a transducer, antenna offset applied, at the given times.

    Parameters
    ----------
    track : Track or None
    mount : Mount
    time : ndarray of shape S, seconds
    max_gap_s : float
        No position further than this from the nearest fix.

    Returns
    -------
    TransducerTrack of shape S; all NaN without a track.

    Notes
    -----
    The heading turns the offset; where it is missing the course does, and where the boat is too slow
    for a course the last known one. Speed is a mean over 5 s, since one fix's speed is noise.
    """
    time = np.asarray(time, dtype=np.float64)
    nothing = np.full(time.shape, np.nan)
    if track is None or len(track) == 0:
        return TransducerTrack(latitude=nothing, longitude=nothing, heading_deg=nothing, speed_mps=nothing)
    points = np.where(np.isfinite(track.heading_deg), track.heading_deg, track.course_deg)
    heading = _interpolated(time, track.time, _unwrapped(points))
    latitude = _interpolated(time, track.time, track.latitude)
    longitude = _interpolated(time, track.time, _unwrapped(track.longitude))
    speed = _interpolated(time, track.time, _running_mean(track.time, track.speed_mps, 5.0))
    east, north = geo.along_heading(np.nan_to_num(heading), mount.forward_m, mount.starboard_m)
    latitude, longitude = geo.offset(latitude, longitude, east, north)
    i = np.clip(np.searchsorted(track.time, time), 1, max(len(track) - 1, 1))
    nearest = np.minimum(np.abs(time - track.time[i - 1]), np.abs(time - track.time[np.minimum(i, len(track) - 1)]))
    far = nearest > max_gap_s
    return TransducerTrack(
        latitude=np.where(far, np.nan, latitude),
        longitude=np.where(far, np.nan, longitude),
        heading_deg=heading % 360.0,
        speed_mps=np.where(far, np.nan, speed),
    )


def distance_along(time: Floats, speed_mps: Floats, *, longest_gap_s: float = 3.0) -> Floats:
    """
    Distance travelled since the first ping, metres, never falling; all NaN where no speed is known.

    Gaps in time count for no more than `longest_gap_s`, since nothing was looked at in them.
    """
    known = np.isfinite(speed_mps)
    if not known.any():
        return np.full(time.shape, np.nan)
    if time.size < 2:
        return np.zeros(time.shape)
    speed = np.where(known, speed_mps, np.interp(time, time[known], speed_mps[known]))
    step = np.clip(np.diff(time), 0.0, longest_gap_s) * 0.5 * (speed[1:] + speed[:-1])
    return np.concatenate(([0.0], np.cumsum(step)))
