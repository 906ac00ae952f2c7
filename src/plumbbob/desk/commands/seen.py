"""What passes saw along their way, laid on the chart and said in words."""

from __future__ import annotations

import math

from plumbbob.core.sonar.seen_along import BaitDrift, Stretch
from plumbbob.core.units import Kind
from plumbbob.desk.commands.registry import CommandHost
from plumbbob.desk.kit.when import age_words
from plumbbob.desk.models.session import Session
from plumbbob.wording.compass import compass

_FRESH_S = 48 * 3600.0
UNLUCKY = 0.05  # a stretch that even water shows less often is told


def lay_seen(session: Session, asker: CommandHost) -> None:
    """Lay the passes on the chart, or take them off."""
    if session.seen.passes:
        session.seen.show(not session.seen.shown)
    gone = session.seen.passes and not session.seen.shown
    session.say("Passes taken off the chart." if gone else seen_words(session))


def drift_words(session: Session, drift: BaitDrift) -> str:
    """Where bait went, how fast, and how long ago it was last met."""
    display = session.display
    last = max(b.time for b in drift.after)
    age = session.view.moment - last
    ago = f", seen {age_words(age)} ago" if 0 < age < _FRESH_S else f" on {session.local(last):%-d %b}"
    if not drift.is_known:
        return f"bait met again after {age_words(drift.seconds)}, hardly moved{ago}"
    to = compass(math.degrees(math.atan2(drift.east_m, drift.north_m)) % 360.0)
    far, unsure = (display.words(v, Kind.DISTANCE, 0) for v in (drift.metres, drift.sd_m))
    return f"bait went {far} ±{unsure} to {to} in {age_words(drift.seconds)}{ago}"


def seen_words(session: Session) -> str:
    """What the passes say, in a line or two."""
    display, window = session.display, session.rig.window
    laid = session.seen.laid(session.chart.chart, window)
    passes, drift = laid.passes, laid.drift
    if not passes:
        return "No pass over this water has been read yet."
    volume, fish = sum(float(p.volume_m3.sum()) for p in passes), sum(float(p.fish.sum()) for p in passes)
    where = "all depths"
    if window is not None:
        where = f"{display.figure(window[0], Kind.DEPTH, 0)}–{display.words(window[1], Kind.DEPTH, 0)}"
    passing = "pass" if len(passes) == 1 else "passes"
    line = f"{fish:.0f} fish in {volume:,.0f} m³ along {len(passes)} {passing}, {where}"
    told = [p.stretch for p in passes if p.stretch is not None and p.stretch.luck <= UNLUCKY]
    if told:
        stretch = min(told, key=lambda s: s.luck)
        often = "under 1" if stretch.luck <= 0.01 else f"{100 * stretch.luck:.0f}"
        return f"{line}: {stretch.fish:.0f} between the ticks; luck alone does that in {often} of 100."
    if fish:
        return f"{line}: spread as evenly as luck would."
    return f"{line}." if drift is None else f"{line}; {drift_words(session, drift)}."


def stretch_words(stretch: Stretch) -> str:
    """How much fish is here and how much elsewhere."""
    low, _, high = stretch.rate
    least, _, most = stretch.rate_outside
    return f"{low:.2g}–{high:.2g} fish in 1,000 m³ here, {least:.1g}–{most:.2g} elsewhere"
