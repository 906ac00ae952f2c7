"""
Reading a pass while it grows: the newest seconds again and again, a longer stretch now and then.

What the last seconds tell is preliminary: an arc may not be over, a bottom may be found again. The longer look has
what came before and after, so what it says of all but its end is kept; the end stays preliminary until the next one.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Any, TypeVar

import numpy as np

from plumbbob.core.live.growing import since
from plumbbob.core.sonar.read import read_down
from plumbbob.core.sonar.reading import EMPTY, Bottom, ForwardReading, Reading, SideReading
from plumbbob.core.sonar.recording import Recording
from plumbbob.core.sonar.views import read_others
from plumbbob.core.types import Floats

LONG_S, SIDES_LONG_S = 120.0, 45.0
LEAD_IN_S, UNSURE_S = 8.0, 6.0
_UNDER_WAY_S = 40.0

_T = TypeVar("_T")


@dataclass(frozen=True, slots=True)
class Growing:
    """A reading whose end is preliminary."""

    reading: Reading = EMPTY
    sure_until: float = -math.inf  # s since 1970: what is later may still change
    others_until: float = -math.inf  # as far as the views to the sides and ahead are sure


def read_on(recording: Recording, before: Growing, *, long: bool) -> Growing:
    """
    What the view down tells now, given what was told before; the other views stay as they were.

    Parameters
    ----------
    recording : Recording
        All that is held.
    before : Growing
        The last answer, of a recording that this one continues.
    long : bool
        Look at a longer stretch, and take what it says of all but its end for sure.
    """
    down = recording.down
    if down is None or not len(down):
        return replace(before, reading=reaching(before.reading, recording))
    end = float(down.time[-1])
    start, sure = _stretch(end, before.sure_until, LONG_S, long=long)
    # a school that is still under the boat is looked at from before its beginning
    spans = [(t.time_start, t.time_end) for t in before.reading.bait]
    spans += [(t.time_start, t.time_end) for t in before.reading.standing]
    under_way = [first for first, last in spans if last > sure]
    start = min(start, max(min(under_way, default=end) - UNSURE_S, end - _UNDER_WAY_S))
    found = read_down(since(recording, start))
    old, first, was = before.reading, float(down.time[0]), before.sure_until
    ends, begins = _of("time_end"), _of("time_start")
    reading = replace(
        old,
        bottom=_bottom(down.time, old.bottom, found.bottom, was),
        fish=_after(old.fish, found.fish, _of("time"), was, first),
        bait=_after(old.bait, found.bait, ends, was, first, begins),
        standing=_after(old.standing, found.standing, ends, was, first, begins),
        cold_layer=found.cold_layer if long else old.cold_layer or found.cold_layer,
        trails=_after(old.trails, found.trails, lambda t: t.time[-1], was, first, lambda t: t.time[0]),
        ceiling_m=_column(down.time, (old.bottom.time, old.ceiling_m), (found.bottom.time, found.ceiling_m), was),
    )
    return replace(before, reading=reaching(reading, recording), sure_until=sure)


def read_others_on(recording: Recording, before: Growing, *, long: bool) -> Growing:
    """What the views to the sides and ahead tell now, given what was told before of them and of the view down."""
    views = [v for v in (recording.side, recording.forward) if v is not None and len(v)]
    if not views:
        return before
    end = max(float(v.time[-1]) for v in views)
    start, sure = _stretch(end, before.others_until, SIDES_LONG_S, long=long)
    old, was = before.reading, before.others_until
    bottom = old.bottom if recording.down is not None and old.bottom.time.size else None
    side, ahead = read_others(since(recording, start), bottom)
    reading = replace(old, side=_side(recording, old.side, side, was), ahead=_ahead(recording, old.ahead, ahead, was))
    return replace(before, reading=reading, others_until=sure)


def _stretch(end: float, sure: float, longest_s: float, *, long: bool) -> tuple[float, float]:
    """From when on to look, and until when it is sure afterwards."""
    if long:
        return end - longest_s, max(sure, end - UNSURE_S)
    return max(sure - LEAD_IN_S, end - longest_s), sure


def _of(name: str) -> Callable[[Any], float]:
    return lambda value: float(getattr(value, name))


def _after(
    old: Sequence[_T],
    found: Sequence[_T],
    ends: Callable[[_T], float],
    sure: float,
    first: float,
    begins: Callable[[_T], float] | None = None,
) -> tuple[_T, ...]:
    """What ended before it was sure, as it was; what ended later, as it is found now, each thing once."""
    kept = [v for v in old if first <= ends(v) <= sure]
    last = max((ends(v) for v in kept), default=-math.inf)
    fresh = [v for v in found if ends(v) > sure and (begins is None or begins(v) > last - UNSURE_S)]
    return (*kept, *sorted(fresh, key=ends))


def _column(time: Floats, old: tuple[Floats, Floats], found: tuple[Floats, Floats], sure: float) -> Floats:
    """Values by ping: those that are sure, then those just found; NaN where none are."""
    out = np.full(time.size, np.nan)
    for (at, values), late in ((old, False), (found, True)):
        if not at.size or values.size != at.size:
            continue
        index = np.searchsorted(time, at)
        good = (index < time.size) & ((at > sure) if late else np.isfinite(at))
        good[good] = time[index[good]] == at[good]
        out[index[good]] = values[good]
    return out


def _bottom(time: Floats, old: Bottom, found: Bottom, sure: float) -> Bottom:
    names = ("depth_m", "hardness", "below_m", "slope_deg", "dead_zone_m")
    columns: dict[str, Any] = {
        n: _column(time, (old.time, getattr(old, n)), (found.time, getattr(found, n)), sure) for n in names
    }
    return Bottom(time=time, **columns)


def reaching(reading: Reading, recording: Recording) -> Reading:
    """A reading whose values by ping reach as far as a recording that has grown since: NaN where nothing is read."""
    down, side = recording.down, recording.side
    changes: dict[str, Any] = {}
    if down is not None and reading.bottom.time.size != len(down):
        nothing = Bottom(time=np.zeros(0), depth_m=np.zeros(0), hardness=np.zeros(0))
        changes["bottom"] = _bottom(down.time, reading.bottom, nothing, math.inf)
        at = (reading.bottom.time, reading.ceiling_m)
        changes["ceiling_m"] = _column(down.time, at, (np.zeros(0), np.zeros(0)), math.inf)
    if side is not None and reading.side is not None:
        changes["side"] = _lengthened_side(recording, reading.side)
    return replace(reading, **changes) if changes else reading


def _lengthened_side(recording: Recording, side: SideReading | None) -> SideReading | None:
    view = recording.side
    if side is None or view is None or side.time.size == len(view):
        return side
    return _side_columns(view.time, side, None, math.inf)


def _side_columns(time: Floats, old: SideReading | None, found: SideReading | None, sure: float) -> SideReading:
    nothing = (np.zeros(0), np.zeros(0))
    columns: dict[str, Any] = {}
    for name in ("altitude_m", "slope_deg", "slope_sd_deg"):
        pair = [(r.time, getattr(r, name)) if r is not None else nothing for r in (old, found)]
        columns[name] = _column(time, pair[0], pair[1], sure)
    base = found or old
    assert base is not None
    return replace(base, time=time, **columns)


def _side(
    recording: Recording, old: SideReading | None, found: SideReading | None, sure: float
) -> SideReading | None:
    view = recording.side
    if view is None or found is None:
        return old
    first = float(view.time[0])
    columns = _side_columns(view.time, old, found, sure)
    was = old or SideReading(time=np.zeros(0), altitude_m=np.zeros(0))
    fish = _after(was.fish, found.fish, _of("time"), sure, first)
    number = {id(f): i for i, f in enumerate(fish)}

    def again(group: Any, of: SideReading) -> Any:
        """Its fish by their places in the joined list."""
        here = tuple(number[id(of.fish[i])] for i in group.fish if id(of.fish[i]) in number)
        return replace(group, fish=here)

    ends, begins = _of("time_end"), _of("time_start")
    groups: dict[str, Any] = {}
    for name in ("strung", "schools"):
        of = {id(g): was for g in getattr(was, name)} | {id(g): found for g in getattr(found, name)}
        kept = _after(getattr(was, name), getattr(found, name), ends, sure, first, begins)
        groups[name] = tuple(again(g, of[id(g)]) for g in kept)
    return replace(
        columns,
        fish=fish,
        things=_after(was.things, found.things, ends, sure, first, begins),
        ground=_after(was.ground, found.ground, ends, sure, first),
        **groups,
    )


def _ahead(
    recording: Recording, old: ForwardReading | None, found: ForwardReading | None, sure: float
) -> ForwardReading | None:
    view = recording.forward
    if view is None or found is None:
        return old
    first = float(view.time[0])
    was = old or ForwardReading(time=np.zeros(0), bottom_depth_m=np.zeros(0))
    return ForwardReading(
        time=view.time,
        bottom_depth_m=_column(view.time, (was.time, was.bottom_depth_m), (found.time, found.bottom_depth_m), sure),
        tracks=_after(was.tracks, found.tracks, lambda t: float(t.time[-1]), sure, first, lambda t: float(t.time[0])),
    )
