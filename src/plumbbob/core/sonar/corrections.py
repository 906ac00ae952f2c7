"""
What a person says of a reading, kept apart from it.

A correction remembers what it was said of by kind, time and depth, never by number, so it still finds its echo after
a better reading: the nearest of that kind within reach. What was accepted, moved or drawn is put in by hand where the
new reading lacks it; what was rejected stays out.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from enum import Enum
from typing import TypeVar

import numpy as np

from plumbbob.core.sonar.fish_association import with_fish
from plumbbob.core.sonar.reading import Bait, Fish, Other, Reading, StandingObject, Thermocline
from plumbbob.core.sonar.recording import Recording, transducer_at
from plumbbob.core.types import Floats

LABELS = ("fish", "bait", "weed", "timber", "brush pile", "lure", "bubbles", "other")
STANDING_LABELS = ("weed", "timber", "brush pile")
_REACH_S, _REACH_M = 2.0, 0.6
_BY_HAND_SD_M = 0.3
_HALF_DRAWN_S, _HALF_DRAWN_M = 1.5, 0.5
Echo = Fish | Bait | StandingObject | Other
E = TypeVar("E", Fish, Bait, StandingObject)


class Act(Enum):
    """What is said."""

    ACCEPT = "accept"
    REJECT = "reject"
    RELABEL = "relabel"
    MOVE = "move"
    DRAW = "draw"
    BOTTOM = "bottom"  # the bottom runs along these points
    LOST = "lost"  # there is no bottom to be seen between these points


@dataclass(frozen=True, slots=True, kw_only=True)
class Correction:
    """One thing said. Times in seconds, depths in metres."""

    act: Act
    what: str = "fish"  # fish, bait, standing, layer, bottom; port, starboard, ahead for the other views
    time: float = 0.0  # middle of the echo that is meant
    depth_m: float = 0.0
    span_s: float = 0.0  # of an area: half its length and height about the middle
    span_m: float = 0.0
    to_time: float = 0.0  # MOVE: where its middle belongs
    to_depth_m: float = 0.0
    distance_m: float = 0.0  # ahead: horizontal, from the transducer
    to_distance_m: float = 0.0
    label: str = ""  # RELABEL and DRAW: what it is
    level_db: float = 0.0
    points: tuple[tuple[float, float], ...] = ()  # BOTTOM and LOST


def middle_of(echo: Echo | Thermocline) -> tuple[str, float, float, float, float]:
    """(what, time, depth, half length, half height) of an echo: what a correction remembers of it."""
    if isinstance(echo, Fish):
        return "fish", echo.time, echo.depth_m, 0.0, 0.0
    if isinstance(echo, Bait):
        return (
            "bait",
            (echo.time_start + echo.time_end) / 2,
            (echo.depth_top_m + echo.depth_bottom_m) / 2,
            (echo.time_end - echo.time_start) / 2,
            (echo.depth_bottom_m - echo.depth_top_m) / 2,
        )
    if isinstance(echo, StandingObject):
        half = echo.height_m / 2
        return "standing", (echo.time_start + echo.time_end) / 2, echo.bottom_m - half, _half(echo), half
    if isinstance(echo, Other):
        return "other", echo.time, echo.depth_m, 0.0, 0.0
    return "layer", 0.0, echo.depth_m, 0.0, 0.0


def _half(echo: StandingObject) -> float:
    return (echo.time_end - echo.time_start) / 2


def about(echo: Echo | Thermocline, act: Act, *, label: str = "", to: tuple[float, float] = (0.0, 0.0)) -> Correction:
    """A correction of one echo."""
    what, time, depth, span_s, span_m = middle_of(echo)
    return Correction(
        act=act,
        what=what,
        time=time,
        depth_m=depth,
        span_s=span_s,
        span_m=span_m,
        to_time=to[0],
        to_depth_m=to[1],
        label=label,
        level_db=0.0 if isinstance(echo, StandingObject | Other | Thermocline) else echo.level_db,
    )


def apply(reading: Reading, corrections: Sequence[Correction], recording: Recording) -> Reading:
    """
    A reading with everything that was said of it, in the order it was said.

    Parameters
    ----------
    reading : Reading
        As read; it is not changed.
    corrections : sequence of Correction
    recording : Recording
        For places and depths of what is put in by hand.
    """
    if not corrections:
        return reading
    return _Desk(reading, recording).run(corrections)


class _Desk:
    """The lists of a reading while corrections go through them."""

    def __init__(self, reading: Reading, recording: Recording) -> None:
        self._reading, self._recording = reading, recording
        self._fish, self._bait = list(reading.fish), list(reading.bait)
        self._standing, self._others = list(reading.standing), list(reading.others)
        self._layer = reading.cold_layer
        self._bed = reading.bottom.depth_m

    def run(self, corrections: Iterable[Correction]) -> Reading:
        for said in corrections:
            if said.act in (Act.BOTTOM, Act.LOST):
                self._bed = _with_bottom(self._bed, self._reading.bottom.time, said)
            elif said.what == "layer":
                if said.act is Act.REJECT:
                    self._layer = None
            else:
                self._echo(said)
        bottom = self._reading.bottom
        if self._bed is not bottom.depth_m:
            edited = ~((self._bed == bottom.depth_m) | (np.isnan(self._bed) & np.isnan(bottom.depth_m)))
            below = bottom.below_m
            if below.size:
                below = np.where(edited, self._bed, below)
            bottom = replace(bottom, depth_m=self._bed, below_m=below)
            self._fish = [
                f
                if not edited[_ping(bottom.time, f.time)]
                else replace(f, height_above_bottom_m=bottom.depth_at(f.time) - f.depth_m)
                for f in self._fish
            ]
        return replace(
            self._reading,
            bottom=bottom,
            fish=tuple(sorted(self._fish, key=lambda f: f.time)),
            bait=tuple(sorted(self._bait, key=lambda b: b.time_start)),
            standing=tuple(with_fish(s, self._fish) for s in sorted(self._standing, key=lambda s: s.time_start)),
            others=tuple(sorted(self._others, key=lambda o: o.time)),
            cold_layer=self._layer,
        )

    def _echo(self, said: Correction) -> None:
        if said.act is Act.DRAW:
            self._put(said, said.label or said.what, said.time, said.depth_m, "drawn")
            return
        found = self._take(said)
        if said.act is Act.REJECT:
            return
        if said.act is Act.RELABEL:
            self._put(said, said.label, said.time, said.depth_m, "accepted", found)
        elif said.act is Act.MOVE:
            self._put(said, said.what, said.to_time, said.to_depth_m, "moved", found)
        else:
            self._put(said, said.what, said.time, said.depth_m, "accepted", found)

    def _take(self, said: Correction) -> Echo | None:
        """Take the echo that is meant out of its list; None if this reading has none there."""
        if said.what == "other":
            near = [o for o in self._others if abs(o.time - said.time) < _REACH_S]
            if near:
                self._others.remove(near[0])
                return near[0]
            return None
        if said.what == "fish":
            return _take_nearest(self._fish, said)
        if said.what == "bait":
            return _take_nearest(self._bait, said)
        return _take_nearest(self._standing, said) if said.what == "standing" else None

    def _put(
        self, said: Correction, label: str, time: float, depth: float, hand: str, was: Echo | None = None
    ) -> None:
        """Put an echo in: the one that was there with new values, or one made by hand."""
        if label in ("standing", ""):
            label = _label_of(was) if was is not None else "unknown"
        bed = _at(self._reading.bottom.time, self._bed, time)
        latitude, longitude = self._place(time)
        if label == "fish":
            base = was if isinstance(was, Fish) else _hand_fish(said, time, depth)
            self._fish.append(
                replace(
                    base,
                    time=time,
                    time_in=base.time_in + time - base.time,
                    time_out=base.time_out + time - base.time,
                    depth_m=depth,
                    height_above_bottom_m=bed - depth,
                    latitude=latitude,
                    longitude=longitude,
                    hand=hand,
                )
            )
            return
        half_s, half_m = said.span_s or _HALF_DRAWN_S, said.span_m or _HALF_DRAWN_M
        if label == "bait":
            if isinstance(was, Bait) and hand == "accepted":
                self._bait.append(replace(was, hand=hand))
                return
            shift_s, shift_m = time - said.time, depth - said.depth_m
            outline = was.outline if isinstance(was, Bait) else ()
            self._bait.append(
                Bait(
                    time_start=time - half_s,
                    time_end=time + half_s,
                    depth_top_m=depth - half_m,
                    depth_bottom_m=depth + half_m,
                    latitude=latitude,
                    longitude=longitude,
                    level_db=said.level_db,
                    shape=was.shape if isinstance(was, Bait) else "",
                    outline=tuple((t + shift_s, a + shift_m, b + shift_m) for t, a, b in outline),
                    hand=hand,
                )
            )
            return
        if label in (*STANDING_LABELS, "unknown"):
            detail = "brush pile" if label == "brush pile" else ""
            kind = "unknown" if detail else label
            if isinstance(was, StandingObject) and hand == "accepted":
                self._standing.append(replace(was, kind=kind, detail=detail, hand=hand))
                return
            # what stands reaches from the bottom up to the top of what was drawn
            top = depth - half_m
            self._standing.append(
                StandingObject(
                    time_start=time - half_s,
                    time_end=time + half_s,
                    height_m=max(bed - top, 0.1) if math.isfinite(bed) else 2 * half_m,
                    kind=kind,
                    detail=detail,
                    bottom_m=bed if math.isfinite(bed) else depth + half_m,
                    latitude=latitude,
                    longitude=longitude,
                    hand=hand,
                )
            )
            return
        self._others.append(Other(time=time, depth_m=depth, label=label))

    def _place(self, time: float) -> tuple[float, float]:
        down = self._recording.down
        if down is None:
            return math.nan, math.nan
        at = transducer_at(self._recording.track, down.mount, np.array([time]))
        return float(at.latitude[0]), float(at.longitude[0])


def _take_nearest(echoes: list[E], said: Correction) -> E | None:
    """Take the echo nearest to what is meant out of a list; None if none lies within reach."""

    def off(echo: E) -> float:
        _, time, depth, span_s, span_m = middle_of(echo)
        reach_s, reach_m = _REACH_S + max(said.span_s, span_s), _REACH_M + max(said.span_m, span_m)
        return math.hypot((time - said.time) / reach_s, (depth - said.depth_m) / reach_m)

    best = min(echoes, key=off, default=None)
    if best is None or not off(best) < 1.0:
        return None
    echoes.remove(best)
    return best


def _label_of(echo: Echo) -> str:
    if isinstance(echo, StandingObject):
        return echo.detail or echo.kind
    return "fish" if isinstance(echo, Fish) else "bait" if isinstance(echo, Bait) else echo.label


def _hand_fish(said: Correction, time: float, depth: float) -> Fish:
    return Fish(
        time=time,
        time_in=time - _HALF_DRAWN_S,
        time_out=time + _HALF_DRAWN_S,
        depth_m=depth,
        depth_sd_m=_BY_HAND_SD_M,
        height_above_bottom_m=math.nan,
        off_axis_m=math.nan,
        off_axis_sd_m=math.nan,
        latitude=math.nan,
        longitude=math.nan,
        position_sd_m=3.0,
        level_db=said.level_db,
        pings=0,
    )


def _ping(time: Floats, at: float) -> int:
    return min(max(int(np.searchsorted(time, at)), 0), max(time.size - 1, 0))


def _at(time: Floats, values: Floats, at: float) -> float:
    return float(values[_ping(time, at)]) if time.size else math.nan


def _with_bottom(bed: Floats, time: Floats, said: Correction) -> Floats:
    """The bottom drawn through points in order of time, or lost between the first and the last."""
    if len(said.points) < 2 or bed.size != time.size:
        return bed
    points = np.array(sorted(said.points), np.float64)
    low, high = np.searchsorted(time, points[0, 0]), np.searchsorted(time, points[-1, 0], side="right")
    out = bed.copy()
    out[low:high] = math.nan if said.act is Act.LOST else np.interp(time[low:high], points[:, 0], points[:, 1])
    return out
