"""A cast from where the boat is now to a place that was marked: bearing, distance, landing, or where to go first."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

from plumbbob.core.geodesy import Position, bearing_deg, distance_m
from plumbbob.core.live.fixes import Fix
from plumbbob.core.rig.cast import Approach, CannotCast, CastPlan, Target, Throw, plan_cast

FIX_SD_M = 1.5  # a good consumer receiver, open sky
_LEAST_M = 1.5


@dataclass(frozen=True, slots=True, kw_only=True)
class Reach:
    """Where a place lies from the boat, and what a cast to it asks."""

    distance_m: float
    bearing_deg: float
    aside_deg: float  # from the bow, to starboard over 0; NaN where no heading is known
    sd_m: float  # of where it is from the boat
    plan: CastPlan | None = None
    why_not: str = ""
    move_m: float = 0.0  # nearer by so much (below 0: farther off) before it is in reach

    @property
    def clock_hour(self) -> int:
        """
        Where it lies as hours from the bow, 12 straight ahead; 0 where no heading is known.

        Examples
        --------
        >>> [Reach(distance_m=9.0, bearing_deg=0.0, aside_deg=a, sd_m=1.0).clock_hour for a in (0.0, 95.0, -30.0)]
        [12, 3, 11]
        """
        if not math.isfinite(self.aside_deg):
            return 0
        return round(self.aside_deg / 30.0) % 12 or 12


def reach_to(
    fix: Fix,
    heading_deg: float | None,
    place: Position,
    depth_m: float,
    sd_m: float,
    throw: Throw,
    approach: Approach = Approach.PAST_OVER,
) -> Reach:
    """
    What a cast to a marked place asks from here.

    Parameters
    ----------
    fix : Fix
        Where the boat is; its speed and course are its drift.
    heading_deg : float or None
        Where the bow points.
    place : Position
    depth_m : float
        Of the fish; NaN where only the place is known: then nothing is planned beyond the distance.
    sd_m : float
        Of the place, one standard deviation.
    throw : Throw
    approach : Approach
        The school one follows; where it has no cast the other's is told.
    """
    away, bearing = distance_m(fix.place, place), bearing_deg(fix.place, place)
    aside = math.nan if heading_deg is None else (bearing - heading_deg + 180.0) % 360.0 - 180.0
    spread = math.hypot(sd_m, FIX_SD_M)
    found = Reach(distance_m=away, bearing_deg=bearing, aside_deg=aside, sd_m=spread)
    if away > throw.reach_m:
        return replace(found, why_not="too far", move_m=away - 0.85 * throw.reach_m)
    if away < _LEAST_M:
        return replace(found, why_not="under the boat", move_m=0.0)
    if not (math.isfinite(depth_m) and depth_m > 0):
        return found
    ahead = across = 0.0
    if math.isfinite(fix.speed_mps) and math.isfinite(fix.course_deg):
        off = math.radians(fix.course_deg - bearing)
        ahead, across = fix.speed_mps * math.cos(off), fix.speed_mps * math.sin(off)
    drifting = replace(throw, drift_ahead_mps=ahead, drift_aside_mps=across)
    target = Target(
        distance_m=away,
        depth_m=depth_m,
        azimuth_deg=0.0 if math.isnan(aside) else aside,
        distance_sd_m=spread,
    )
    other = Approach.SWING_DOWN if approach is Approach.PAST_OVER else Approach.PAST_OVER
    try:
        plan = plan_cast(target, drifting, approach)
    except CannotCast as exc:
        try:
            plan = plan_cast(target, drifting, other)
        except CannotCast:
            return replace(found, why_not=str(exc))
    if plan.land_m > throw.reach_m:
        return replace(found, why_not="it has to land farther than you cast", move_m=plan.land_m - throw.reach_m)
    return replace(found, plan=plan)
