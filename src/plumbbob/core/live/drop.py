"""A fish or a school that comes under the boat now: how long it stays in the beam, and whether a lure gets there."""

from __future__ import annotations

import math
import statistics
from collections.abc import Callable
from dataclasses import dataclass

from plumbbob.core.sonar.beam import footprint_diameter
from plumbbob.core.sonar.reading import Bait, Fish, Reading

FRESH_S = 2.5  # so long ago at most it was still under the boat
_NEW_S = 20.0  # what has been there for longer has been told of
_USUAL_SCHOOL_M = 12.0  # where none has passed yet [C]
_STILL_MPS = 0.1
_OFF_BED_M, _OFF_BED, _BED_S = 0.5, 0.1, 1.5  # so far, or so much of the depth, over the last bottom that was read
_OF_BEAM = 0.5  # a fish is told of about when it is nearest: half the beam is left


@dataclass(frozen=True, slots=True, kw_only=True)
class Entering:
    """What enters, and the two times; NaN where they can't be told."""

    kind: str  # "bait" or "fish"
    time: float  # when it was first seen
    depth_m: float
    lure_s: float  # until a lure let go now is there
    stays_s: float  # until it has left the beam

    @property
    def in_time(self) -> bool:
        """A lure let go now gets there before it has gone."""
        return self.lure_s <= self.stays_s


def entering(
    reading: Reading,
    now: float,
    *,
    speed_mps: float,
    beam_width_deg: float,
    transducer_m: float,
    window: tuple[float, float] | None,
    lure_s: Callable[[float], float],
) -> Entering | None:
    """
    The newest thing that has just come into the beam, within the depth window where there is one.

    Parameters
    ----------
    reading : Reading
        Of a live pass; its end may be preliminary.
    now : float
        Time of the newest ping.
    speed_mps : float
        Of the boat over the ground; about nought stays as long as it likes.
    beam_width_deg, transducer_m : float
    window : (float, float), optional
        Depths that are fished.
    lure_s : callable
        Seconds a lure needs to a depth; NaN where none can be told.

    Notes
    -----
    A school stays for its own length and the beam's width at its depth; its length is the middle of those that
    have passed, since it is not seen before it has gone. A fish stays for half the beam from its nearest point on.
    """
    found: list[Entering] = []
    lengths = [b.length_m for b in reading.bait if b.time_end < now - FRESH_S and math.isfinite(b.length_m)]
    usual = statistics.median(lengths) if lengths else _USUAL_SCHOOL_M
    things: list[Bait | Fish] = [*reading.bait, *reading.fish]
    for thing in things:
        begins, last, depth = _when(thing)
        if not (now - last <= FRESH_S and now - begins <= _NEW_S) or last > now + 1.0:
            continue
        bed = reading.bottom.depth_at(last - _BED_S)
        if isinstance(thing, Bait) and thing.depth_bottom_m > bed - max(_OFF_BED_M, _OFF_BED * bed):
            continue  # a bank that comes up begins like a school
        if window is not None and not window[0] <= depth <= window[1]:
            continue
        stays = math.nan
        if speed_mps > _STILL_MPS:
            beam = float(footprint_diameter(max(depth - transducer_m, 0.1), beam_width_deg))
            if isinstance(thing, Bait):
                stays = max((usual + beam) / speed_mps - (now - begins), 0.0)
            else:
                stays = max(_OF_BEAM * beam / speed_mps - max(now - thing.time, 0.0), 0.0)
        kind = "bait" if isinstance(thing, Bait) else "fish"
        found.append(Entering(kind=kind, time=begins, depth_m=depth, lure_s=lure_s(depth), stays_s=stays))
    return max(found, default=None, key=lambda e: (e.kind == "bait", e.time))


def _when(thing: Bait | Fish) -> tuple[float, float, float]:
    """When it came, when it was there last, how deep."""
    if isinstance(thing, Bait):
        return thing.time_start, thing.time_end, (thing.depth_top_m + thing.depth_bottom_m) / 2
    return thing.time_in, thing.time_out, thing.depth_m
