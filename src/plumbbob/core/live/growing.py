"""
A pass that grows: the newest pings of every view and the newest fixes, as a recording at any moment.

Only so much is held; the oldest goes. What was handed out never changes afterwards: rows behind it are written to
memory of which it shows nothing, and a full buffer is left to those who still look at it.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from plumbbob.core.live.fixes import Fix
from plumbbob.core.sonar.recording import Down, EchoArray, Forward, Mount, Recording, Side, Track
from plumbbob.core.types import Bytes

HELD_BYTES, HELD_FIXES = 24_000_000, 20_000
_LEAST_PINGS, _MOST_PINGS = 64, 40_000
_FIRST_ROWS = 512
_CLOCK_SET_BACK = 20  # so many late ones in a row: the clock was set back, and what is held is of another one


class GrowingRows:
    """
    Rows of one shape and type, at most so many; the oldest go a quarter at a time.

    Examples
    --------
    >>> rows = GrowingRows((), np.float64, most=4)
    >>> rows.append(np.arange(6.0))
    >>> rows.values.tolist(), rows.dropped
    ([2.0, 3.0, 4.0, 5.0], 2)
    """

    def __init__(self, shape: tuple[int, ...], dtype: type, most: int) -> None:
        self._most = most
        self._held: NDArray[Any] = np.zeros((min(_FIRST_ROWS, most), *shape), dtype)
        self._used = 0
        self.dropped = 0  # rows that have gone

    def __len__(self) -> int:
        return self._used

    @property
    def values(self) -> NDArray[Any]:
        """All that is held, oldest first; shape (rows, ..)."""
        return self._held[: self._used]

    def limit(self, most: int) -> None:
        """Hold at most so many from the next ones on."""
        self._most = most

    def restart(self) -> None:
        """Let go of all: what comes does not go on from it."""
        self.dropped += self._used
        self._held, self._used = np.zeros((min(_FIRST_ROWS, self._most), *self._held.shape[1:]), self._held.dtype), 0

    def append(self, block: NDArray[Any]) -> None:
        """More rows; wider ones than before widen those that are held, with zeros."""
        fits = block[-self._most :]
        need = self._used + len(fits)
        shape = tuple(max(a, b) for a, b in zip(self._held.shape[1:], fits.shape[1:], strict=True))
        if need > min(len(self._held), self._most) or shape != self._held.shape[1:]:
            keep = self._used if need <= self._most else max(min(3 * self._most // 4, self._most - len(fits)), 0)
            kept = self._held[self._used - keep : self._used]
            room = min(max(2 * (keep + len(fits)), _FIRST_ROWS), self._most)
            fresh = np.zeros((room, *shape), self._held.dtype)
            fresh[(slice(keep), *(slice(n) for n in kept.shape[1:]))] = kept
            self.dropped += self._used - keep
            self._held, self._used = fresh, keep
        self.dropped += len(block) - len(fits)
        rows = slice(self._used, self._used + len(fits))
        self._held[(rows, *(slice(n) for n in fits.shape[1:]))] = fits
        self._used += len(fits)


@dataclass(frozen=True, slots=True, kw_only=True)
class Sounder:
    """What is the same for all pings of a view."""

    view: str  # "down", "side" or "forward"
    scale_db: float
    offset_db: float
    sound_speed_mps: float
    mount: Mount
    tvg: str
    frequency_hz: float
    pulse_length_s: float = math.nan
    beam_width_deg: float = math.nan
    beam_width_along_deg: float = math.nan
    beam_width_across_deg: float = math.nan
    beam_angle_deg: tuple[float, ...] = ()  # ahead


@dataclass(frozen=True, slots=True)
class NewPing:
    """One ping as it came; `echo` has shape (sides or beams, samples), one row for a view down."""

    time: float
    range_start_m: float
    range_step_m: float
    echo: Bytes
    azimuth_deg: float = 0.0


class GrowingView:
    """The newest pings of one view, in order of time."""

    def __init__(self, sounder: Sounder, rows: int, samples: int, held_bytes: int) -> None:
        self.sounder, self._rows = sounder, rows
        self._held_bytes, self._samples = held_bytes, samples
        most = self._most
        self._times = GrowingRows((4,), np.float64, most)  # time, range start, range step, azimuth
        self._echo = GrowingRows((rows, samples), np.uint8, most)
        self.late = 0  # pings that came after a later one: in the file, not on screen
        self._late_running = 0

    @property
    def _most(self) -> int:
        """How many pings of this width there is room for."""
        return min(max(self._held_bytes // max(self._rows * self._samples, 1), _LEAST_PINGS), _MOST_PINGS)

    @property
    def dropped(self) -> int:
        """Pings that are held no more."""
        return self._times.dropped

    @property
    def count(self) -> int:
        """Pings that are held."""
        return len(self._times)

    def add(self, pings: Sequence[NewPing]) -> None:
        """More of them."""
        last = float(self._times.values[-1, 0]) if len(self._times) else -math.inf
        taken: list[NewPing] = []
        for ping in pings:
            self._late_running = 0 if ping.time > last else self._late_running + 1
            if self._late_running >= _CLOCK_SET_BACK:
                taken, last, self._late_running = [], -math.inf, 0
                self._times.restart()
                self._echo.restart()
            if ping.time > last:
                taken.append(ping)
                last = ping.time
            else:
                self.late += 1
        if not taken:
            return
        block = np.zeros((len(taken), self._rows, max(p.echo.shape[1] for p in taken)), np.uint8)
        if block.shape[2] > self._samples:
            self._samples = block.shape[2]
            self._times.limit(self._most)
            self._echo.limit(self._most)
        for k, ping in enumerate(taken):
            block[k, :, : ping.echo.shape[1]] = ping.echo
        self._times.append(np.array([(p.time, p.range_start_m, p.range_step_m, p.azimuth_deg) for p in taken]))
        self._echo.append(block)

    def pings(self) -> Down | Side | Forward:
        """What is held, as a view of a recording."""
        s, columns, echo = self.sounder, self._times.values, self._echo.values
        common: dict[str, Any] = {
            "time": columns[:, 0],
            "range_start_m": columns[:, 1],
            "range_step_m": columns[:, 2],
            "scale_db": s.scale_db,
            "offset_db": s.offset_db,
            "frequency_hz": s.frequency_hz,
            "pulse_length_s": s.pulse_length_s,
            "tvg": s.tvg,
            "mount": s.mount,
            "sound_speed_mps": s.sound_speed_mps,
        }
        if s.view == "side":
            return Side(
                **common,
                port=EchoArray(echo[:, 0]),
                starboard=EchoArray(echo[:, 1]),
                beam_width_along_deg=s.beam_width_along_deg,
                beam_width_across_deg=s.beam_width_across_deg,
            )
        if s.view == "forward":
            return Forward(
                **common,
                beam_angle_deg=np.array(s.beam_angle_deg),
                azimuth_deg=columns[:, 3],
                echo=EchoArray(echo),
                beam_width_deg=s.beam_width_deg,
            )
        return Down(**common, echo=EchoArray(echo[:, 0]), beam_width_deg=s.beam_width_deg)


class GrowingPass:
    """All views and fixes of an outing, the newest of them."""

    def __init__(self, name: str, held_bytes: int = HELD_BYTES) -> None:
        self._name, self._held = name, held_bytes
        self._views: dict[str, GrowingView] = {}
        self._fixes = GrowingRows((7,), np.float64, HELD_FIXES)
        self._late_fixes = 0

    def add_fix(self, fix: Fix) -> None:
        """Where the boat is; one that is not later than the last is left."""
        if len(self._fixes) and fix.time <= float(self._fixes.values[-1, 0]):
            self._late_fixes += 1
            if self._late_fixes < _CLOCK_SET_BACK:
                return
            self._fixes.restart()
        self._late_fixes = 0
        row = (
            fix.time,
            fix.latitude,
            fix.longitude,
            fix.speed_mps,
            fix.heading_deg,
            fix.course_deg,
            fix.temperature_c,
        )
        self._fixes.append(np.array([row]))

    def add_pings(self, sounder: Sounder, pings: Sequence[NewPing]) -> None:
        """Of one view; its sounder is the first's."""
        if not pings:
            return
        if sounder.view not in self._views:
            rows, samples = pings[0].echo.shape
            self._views[sounder.view] = GrowingView(sounder, rows, samples, self._held)
        self._views[sounder.view].add(pings)

    @property
    def version(self) -> tuple[int, ...]:
        """Another after anything was added."""
        fixes = self._fixes
        return (len(fixes) + fixes.dropped, *(v.count + v.dropped for v in self._views.values()))

    @property
    def dropped(self) -> Mapping[str, int]:
        """Pings of each view that are held no more."""
        return {name: view.dropped for name, view in self._views.items()}

    def recording(self) -> Recording:
        """All that is held."""
        columns = self._fixes.values
        track = None
        if len(columns):
            time, latitude, longitude, speed, heading, course, temperature = columns.T
            track = Track(
                time=time,
                latitude=latitude,
                longitude=longitude,
                speed_mps=speed,
                heading_deg=heading,
                course_deg=course,
                temperature_c=temperature,
            )
        views: dict[str, Any] = {name: view.pings() for name, view in self._views.items()}
        return Recording(name=self._name, title=self._name, track=track, views=tuple(views), **views)


def since(recording: Recording, start: float) -> Recording:
    """What came from a time on, all views; fixes from ten seconds before it."""
    return between(recording, start, math.inf)


def between(recording: Recording, start: float, end: float) -> Recording:
    """What came after a time, up to another, all views; fixes from ten seconds more on either side."""
    changes: dict[str, Any] = {}
    for name in ("down", "side", "forward"):
        view = getattr(recording, name)
        if view is None:
            continue
        first, stop = np.searchsorted(view.time, (start, end), side="right")
        cut: dict[str, Any] = {
            "time": view.time[first:stop],
            "range_start_m": view.range_start_m[first:stop],
            "range_step_m": view.range_step_m[first:stop],
        }
        if isinstance(view, Side):
            cut["port"] = EchoArray(view.port.read(first, stop))
            cut["starboard"] = EchoArray(view.starboard.read(first, stop))
        else:
            cut["echo"] = EchoArray(view.echo.read(first, stop))
        if isinstance(view, Forward):
            cut["azimuth_deg"] = view.azimuth_deg[first:stop]
        changes[name] = replace(view, **cut)
    track = recording.track
    if track is not None:
        first, stop = np.searchsorted(track.time, (start - 10.0, end + 10.0))
        columns = ("time", "latitude", "longitude", "speed_mps", "heading_deg", "course_deg", "temperature_c")
        changes["track"] = Track(**{name: getattr(track, name)[first:stop] for name in columns})
    return replace(recording, **changes)
