"""What the same key does to whichever picture of a pass is on screen. No widgets here."""

from __future__ import annotations

import numpy as np

from plumbbob.core.rig.cast import Approach
from plumbbob.desk.models.picture_model import Step
from plumbbob.desk.models.recording_model import Hand, Sight
from plumbbob.desk.models.session import Session
from plumbbob.desk.models.side_model import Across


def next_sight(session: Session) -> None:
    """Down, to the sides, ahead: the next that this recording has; from a picture back to the recording."""
    scan = session.scan
    sights = scan.sights
    if not sights:
        return
    at = sights.index(scan.sight) if scan.sight in sights else -1
    scan.set_sight(sights[(at + 1) % len(sights)])
    session.say(f"Looking {scan.sight.value}.")


def choose_next(session: Session, step: int) -> None:
    """The next fish in the picture on screen."""
    sight = session.scan.sight
    if sight is Sight.SIDE:
        session.side.choose_next(step)
    elif sight is Sight.AHEAD:
        session.ahead.choose_next(step)
    else:
        session.scan.choose_next(step)


def has_fish(session: Session) -> bool:
    """There is a next fish."""
    reading, sight = session.scan.reading, session.scan.sight
    if sight is Sight.SIDE:
        return bool(session.side.reading.fish)
    if sight is Sight.AHEAD:
        return bool(session.ahead.reading.tracks)
    return bool(reading.fish)


def widen(session: Session, factor: float) -> None:
    """Show `factor` times as much across the picture: depth, distance to the sides, distance ahead."""
    sight = session.scan.sight
    if sight is Sight.SIDE:
        session.side.set_reach(session.side.reach_m * factor)
    elif sight is Sight.AHEAD:
        session.ahead.set_far(session.ahead.far_m * factor)
    else:
        session.scan.zoom_depth(factor, session.scan.cursor.depth_m)


def zoom(session: Session, factor: float) -> None:
    """Show `factor` times as much along the picture."""
    if session.scan.sight is Sight.PICTURE:
        session.photo.zoomed.emit(1.0 / factor)
    else:
        session.scan.zoom_pings(factor, session.scan.cursor.ping)


def has_picture(session: Session) -> bool:
    """There is something on screen to move about in."""
    if session.scan.sight is Sight.PICTURE:
        return session.photo.pixels is not None
    return session.scan.lead is not None


def show_all(session: Session) -> None:
    """The whole recording, as far as it looks."""
    if session.scan.sight is Sight.PICTURE:
        session.photo.zoomed.emit(0.0)
        return
    session.scan.show_all()
    fit(session)


def fit(session: Session) -> None:
    """Across the picture: the water down, the whole reach to the sides, what the fish need ahead."""
    sight = session.scan.sight
    if sight is Sight.SIDE:
        session.side.set_reach(1e9)
    elif sight is Sight.AHEAD:
        found = session.ahead.advice(840, 520)
        before = session.ahead.far_m
        session.ahead.set_far(found.far_m if found is not None else 1e9)
        if session.ahead.far_m == before:
            session.ahead.set_far(1e9)
    else:
        session.scan.show_water()


def step_cursor(session: Session, pings: int, down: int) -> None:
    """The cursor by small steps: along the pass, and across the picture."""
    scan = session.scan
    per = max(round(scan.view.pings / 200), 1)
    if scan.sight is Sight.SIDE:
        scan.step_cursor(pings * per, 0.0)
        session.side.set_cursor(session.side.cursor_m + down * session.side.reach_m / 60)
    elif scan.sight is Sight.AHEAD:
        view = session.ahead.view
        if view is not None and pings:
            k = min(max(session.ahead.frame + pings, 0), len(view) - 1)
            lead = scan.lead
            assert lead is not None
            # the first ping of the axis at or after the frame, so that the frame is the one shown
            scan.set_cursor(int(np.searchsorted(lead.time, float(view.time[k]) - 1e-6)), scan.cursor.depth_m)
            scan.keep_in_view(scan.cursor.ping)
    else:
        scan.step_cursor(pings * per, down * (scan.view.base_m - scan.view.top_m) / 100)


def let_go(session: Session) -> None:
    """Let go of the tool in hand, else of what is chosen."""
    scan = session.scan
    if scan.sight is Sight.PICTURE:
        session.photo.start(Step.NONE)
    elif scan.sight is Sight.SIDE and session.side.clicks is not None:
        session.side.start_gauge(False)
    elif scan.hand is not Hand.LOOK:
        scan.set_hand(Hand.LOOK)
    else:
        scan.choose(None)
        session.side.choose(None)
        session.ahead.choose(None)
        session.say("")


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
    session.ahead.set_approach(kinds[(kinds.index(session.ahead.approach) + 1) % len(kinds)])
    session.say(f"Cast: {session.ahead.approach.value}.")
