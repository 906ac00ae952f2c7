"""What the same key does to whichever picture of a pass is on screen. No widgets here."""

from __future__ import annotations

from plumbbob.core.rig.cast import Approach
from plumbbob.desk.models.session import Session
from plumbbob.desk.models.side_model import Across


def next_view(session: Session) -> None:
    """Down, to the sides, ahead: the next that this recording has; from a picture back to the recording."""
    views = session.offered
    if not views:
        return
    at = views.index(session.view) if session.view in views else -1
    session.show(views[(at + 1) % len(views)].name)
    session.say(f"Looking {session.view.title}.")


def ground_or_slant(session: Session) -> None:
    """True ground range, or slant range as recorded."""
    side = session.side
    side.set_across(Across.SLANT if side.across is Across.GROUND else Across.GROUND)
    session.say(f"Showing {side.across.value}.")


def water_kept_or_cut(session: Session) -> None:
    """The water between boat and first return shown, or cut out."""
    side = session.side
    side.set_across(Across.SLANT if side.across is Across.CUT else Across.CUT)
    session.say(f"Showing {side.across.value}.")


def gauge(session: Session) -> None:
    """Take the shadow gauge, or put it away."""
    session.side.start_gauge(session.side.clicks is None)


def slope_from_chart(session: Session) -> None:
    """Use the chart's slope across the track at the cursor, or a level bottom again."""
    side, scan = session.side, session.scan
    if side.slope_given is not None:
        side.set_slope(None)
        session.say("Bottom taken as level.")
        return
    near = side.place(scan.time, side.cursor_side, 2.0)
    far = side.place(scan.time, side.cursor_side, max(abs(side.cursor_m), 10.0))
    if session.chart.chart is None or near is None or far is None:
        session.say("No chart or no position here: a slope can be typed instead.", wrong=True)
        return
    slope = session.chart.slope_between(near, far)
    if slope != slope:
        session.say("The chart does not know the bottom here: a slope can be typed instead.", wrong=True)
        return
    side.set_slope(slope)
    session.say(f"Slope across the track from the chart: {'rises' if slope >= 0 else 'falls'} {abs(slope):.0f}°.")


def other_approach(session: Session) -> None:
    """Past and over, or swing down."""
    kinds = list(Approach)
    session.forward.set_approach(kinds[(kinds.index(session.forward.approach) + 1) % len(kinds)])
    session.say(f"Cast: {session.forward.approach.value}.")
