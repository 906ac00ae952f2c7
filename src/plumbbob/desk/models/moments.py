"""What the moments of a day say by themselves: so an undo, a kill or a new start changes no clock by mistake."""

from __future__ import annotations

from collections.abc import Sequence

from plumbbob.store.values import Moment, MomentKind

BITES = frozenset({MomentKind.STRUCK, MomentKind.HOOKED, MomentKind.CAUGHT})
TEARS = frozenset({MomentKind.STRUCK, MomentKind.LOST, MomentKind.CAUGHT})  # bait after these is looked at first
ENDS = {
    MomentKind.PASS_BEGINS: MomentKind.PASS_ENDS,
    MomentKind.DRIFT_BEGINS: MomentKind.DRIFT_ENDS,
    MomentKind.SET_BEGINS: MomentKind.SET_ENDS,
}
DAY_S = 16 * 3600.0  # what lies farther back was another outing


def of_today(moments: Sequence[Moment], now: float) -> list[Moment]:
    """Those of this outing, newest first."""
    return [m for m in reversed(moments) if 0.0 <= now - m.time < DAY_S]


def last_bite(moments: Sequence[Moment], now: float) -> float | None:
    """When something bit last today."""
    return next((m.time for m in of_today(moments, now) if m.kind in BITES), None)


def open_span(moments: Sequence[Moment], now: float) -> Moment | None:
    """What was begun today and has not ended."""
    for m in of_today(moments, now):
        if m.kind in ENDS:
            return m
        if m.kind in ENDS.values():
            return None
    return None


def bait_since(moments: Sequence[Moment], now: float) -> tuple[float | None, bool]:
    """When fresh bait was put on today, and whether it has been bitten since."""
    torn = False
    for m in of_today(moments, now):
        if m.kind is MomentKind.BAIT_CHANGED:
            return m.time, torn
        torn = torn or m.kind in TEARS
    return None, torn
