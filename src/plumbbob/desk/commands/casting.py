"""A cast from where the boat is now to what is chosen: an echo, a mark, else the nearest mark in reach of an eye."""

from __future__ import annotations

import math
from dataclasses import dataclass

from plumbbob.core.geodesy import Position
from plumbbob.core.live.reach import Reach, reach_to
from plumbbob.core.rig.cast import Throw
from plumbbob.core.sonar.reading import Bait, Fish, SideFish
from plumbbob.core.units import Kind
from plumbbob.desk.models.session import Session
from plumbbob.store.values import Mark

NEAR_M = 80.0  # so near a mark is meant without being chosen
_USUAL_SD_M = 3.0
TURN_M = 0.7  # of line to a turn of the handle (docs/handbook.md 5.9)


@dataclass(frozen=True, slots=True)
class Aim:
    """What is cast to."""

    words: str
    place: Position
    depth_m: float  # NaN where only the place is known
    sd_m: float


def aim_of(session: Session) -> Aim | None:
    """The chosen echo, else the chosen mark, else the nearest mark."""
    for echo in (session.side.chosen, session.scan.chosen):
        if isinstance(echo, SideFish | Fish) and math.isfinite(echo.latitude):
            return Aim("fish", Position(echo.latitude, echo.longitude), echo.depth_m, echo.position_sd_m)
        if isinstance(echo, Bait) and math.isfinite(echo.latitude):
            depth = (echo.depth_top_m + echo.depth_bottom_m) / 2
            return Aim("bait", Position(echo.latitude, echo.longitude), depth, _USUAL_SD_M)
    here = session.live.place
    mark = session.logbook.chosen
    if mark is None and here is not None:
        mark = session.logbook.nearest(here, NEAR_M)
    return _aim_at(mark) if mark is not None else None


def _aim_at(mark: Mark) -> Aim:
    depth = mark.depth_m if mark.depth_m is not None else math.nan
    sd = mark.position_sd_m if mark.position_sd_m is not None else _USUAL_SD_M
    return Aim(mark.kind.value, Position(mark.latitude, mark.longitude), depth, sd)


def throw_of(session: Session) -> Throw:
    """The cast lure of the rod in hand."""
    rod = session.rig.settings
    return Throw(
        falling=session.rig.cast_lure.falling(rod.line),
        retrieve_mps=session.forward.retrieve_mps,
        clearance_m=max(rod.above_fish_m, 0.2),
        tip_height_m=rod.tip_height_m,
    )


def reach_now(session: Session) -> tuple[Aim, Reach] | None:
    """What is cast to, and what that asks from here and now; None without a boat or anything to cast to."""
    fix, aim = session.live.fix, aim_of(session)
    if fix is None or not session.live.is_on or aim is None:
        return None
    sd = aim.sd_m if math.isfinite(aim.sd_m) else _USUAL_SD_M
    approach = session.forward.approach
    return aim, reach_to(fix, session.live.heading_deg, aim.place, aim.depth_m, sd, throw_of(session), approach)


def where_words(session: Session, found: Reach) -> str:
    """How far and which way."""
    away = session.display.words(found.distance_m, Kind.DISTANCE, 0)
    spread = session.display.spread(found.sd_m, Kind.DISTANCE)
    if not found.clock_hour:
        return f"{away} {spread} at {found.bearing_deg % 360.0:.0f}°"
    side = "right" if found.aside_deg > 0 else "left"
    return f"{away} {spread}, {abs(found.aside_deg):.0f}° {side} of the bow ({found.clock_hour} o'clock)"


def cast_words(session: Session, aim: Aim, found: Reach) -> tuple[str, str]:
    """A head and a sentence."""
    say, where = session.display.words, where_words(session, found)
    what = aim.words if math.isnan(aim.depth_m) else f"{aim.words} at {say(aim.depth_m, Kind.DEPTH)}"
    if found.plan is not None:
        land = say(found.plan.land_m, Kind.DISTANCE, 0)
        lure = session.rig.cast_lure.name
        if found.plan.count_s >= 0.5:
            turns = found.plan.draw_s * session.forward.retrieve_mps / TURN_M
            then = f"count {found.plan.count_s:.0f}, then {turns:.0f} turns: over it in {found.plan.draw_s:.0f} s"
        else:
            then = f"close at the splash: it hangs over it after {found.plan.draw_s:.0f} s"
        return "IN REACH", f"{what}: {where}. {lure.capitalize()}: land it {land} out, {then}."
    if found.move_m > 0:
        nearer = say(found.move_m, Kind.DISTANCE, 0)
        return "NOT IN REACH", f"{what}: {where}. Move {nearer} nearer."
    if found.why_not:
        return "NO CAST", f"{what}: {where}. {found.why_not.capitalize()}."
    return "IN REACH", f"{what}: {where}. How deep is not known: land beyond it and draw it over."
