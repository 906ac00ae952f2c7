"""What the deck says: the figures, the banner, the line of the lure, the caution."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np

from plumbbob.core.live.clocks import bait_lasts_s, next_change, way_home_s
from plumbbob.core.live.drop import Entering, entering
from plumbbob.core.live.hole import Answer, Closing
from plumbbob.core.plan.clock import phases, wind_at
from plumbbob.core.rig.methods import solve
from plumbbob.core.rig.rod import FAMILY, Family, RigAnswer
from plumbbob.core.units import Kind, to_shown, unit_of
from plumbbob.core.water.sun import sun_elevation_deg
from plumbbob.desk.models.moments import bait_since, last_bite
from plumbbob.desk.models.session import Session
from plumbbob.desk.views.deck import acts
from plumbbob.desk.views.deck.view import DeckView
from plumbbob.desk.views.run.words import advice_words, next_words
from plumbbob.wording import sentence
from plumbbob.wording.live import PHRASES

_LIGHT_AHEAD_S = 6 * 3600.0
_MINUTE, _SOON_S = 60.0, 5940.0
_SHALLOW_S, _SHALLOW_M = 60.0, 1.2
_LOOK_M, _UNDER_WAY_MPS = 5.0, 0.2
_LEANS_DEG, _MOST_DRIFT_MPS, _NOW_S = 35.0, 2.0, 3.0


@dataclass(frozen=True, slots=True)
class Figure:
    """A large number with its unit; pressed it does something, where a command is named."""

    name: str
    title: str
    value: str
    unit: str = ""
    command: str = ""
    is_late: bool = False


def _quantity(session: Session, value: float, kind: Kind) -> tuple[str, str]:
    if not math.isfinite(value):
        return "–", ""
    unit = unit_of(kind, session.display.system_of(kind))
    return f"{to_shown(value, kind, session.display.system_of(kind)):.{min(unit.decimals, 1)}f}", unit.symbol


def _minutes(seconds: float) -> str:
    return "–" if not math.isfinite(seconds) else f"{max(seconds, 0.0) / _MINUTE:.0f}"


def _hours(seconds: float) -> str:
    late, seconds = seconds < 0, abs(seconds)
    return f"{'−' if late else ''}{int(seconds // 3600)}:{int(seconds % 3600 // 60):02d}"


def figures(session: Session) -> tuple[Figure, ...]:
    """Depth, speed, and the clocks that run."""
    view, deck, live = session.view, session.deck, session.live
    assert isinstance(view, DeckView)
    now, fix = view.moment, live.fix
    out = [Figure("depth", "depth", *_quantity(session, view.bottom_m, Kind.DEPTH))]
    speed = fix.speed_mps if fix is not None and live.is_on else math.nan
    out.append(Figure("speed", "speed", *_quantity(session, speed, Kind.SPEED)))
    stay = session.run.here
    since = deck.here_since if deck.here_since is not None else stay.arrive if stay is not None else None
    here = now - since if since is not None else math.nan
    long = stay is not None and now > stay.leave
    out.append(Figure("here", "here", _minutes(here), "min" if since is not None else "", "deck.here", long))
    bitten = last_bite(session.logbook.moments, now)
    bite = now - bitten if bitten is not None else math.nan
    out.append(Figure("bite", "since a bite", _minutes(bite), "min" if math.isfinite(bite) else ""))
    put_on, torn = bait_since(session.logbook.moments, now)
    if deck.bait is not None and put_on is not None:
        low, _ = bait_lasts_s(deck.bait, acts.temperature_at(session, session.rig.bob_m), damaged=torn)
        left = low - (now - put_on)
        words = f"{deck.bait.value}{', torn' if torn else ''} fresh"
        out.append(Figure("bait", words, _minutes(left), "min", "deck.bait_new", left <= 0))
    elif deck.bait is not None:
        out.append(Figure("bait", deck.bait.value, "fresh?", "", "deck.bait_new"))
    else:
        out.append(Figure("bait", "bait", "none", "", "deck.bait_kind"))
    light = _next_light(session, now)
    if light is not None:
        left, which = light
        value, unit = (_minutes(left), "min") if left < _SOON_S else (_hours(left), "h")
        out.append(Figure("light", f"until {which}", value, unit))
    home = _home_s(session, now)
    if math.isfinite(home):
        out.append(Figure("home", "turn for home", _hours(home), "h", is_late=home < 0))
    return tuple(out)


def _next_light(session: Session, now: float) -> tuple[float, str] | None:
    place = session.view.place or session.water.place
    if place is None:
        return None
    found = next_change(phases(lambda t: sun_elevation_deg(place, t), now, now + _LIGHT_AHEAD_S), now)
    return None if found is None else (found[0] - now, found[1].value.replace("dim", "half light"))


def _home_s(session: Session, now: float) -> float:
    """Until one must turn for home to be back by the end of the day; NaN without a day or a place."""
    ask, place = session.run.ask, session.view.place
    if ask is None or place is None:
        return math.nan
    hour = wind_at(ask.hours, now)
    return ask.end - way_home_s(ask.craft, place, ask.launch, hour.wind_mps, hour.from_deg) - now


def newly_entered(session: Session) -> Entering | None:
    """What comes under the boat just now."""
    scan, live = session.scan, session.live
    if not scan.is_live or scan.down is None or live.fix is None:
        return None
    return entering(
        scan.reading,
        float(scan.down.time[-1]),
        speed_mps=live.fix.speed_mps,
        beam_width_deg=scan.down.beam_width_deg,
        transducer_m=scan.down.mount.depth_m,
        window=session.rig.window,
        lure_s=lambda depth: acts.lure_seconds(session, depth),
    )


@dataclass(frozen=True, slots=True)
class Banner:
    """One thing at a time: a head, a sentence, seconds that run; `is_loud` fills it with brass."""

    head: str
    words: str
    seconds: float = math.nan
    is_loud: bool = False


def drop_banner(session: Session, found: Entering, now: float) -> Banner:
    """A school or a fish enters."""
    depth = session.display.words(found.depth_m, Kind.DEPTH)
    age = max(now - found.time, 0.0)
    what = f"{found.kind} at {depth}"
    if math.isnan(found.lure_s):
        return Banner(f"{found.kind} under the boat".upper(), f"{what}; this lure does not sink there by itself.")
    if math.isnan(found.stays_s):
        return Banner("DROP NOW", f"{what}: lure there in {found.lure_s:.0f} s; you lie still.", found.lure_s, True)
    if found.in_time:
        words = f"{what} enters: lure there in {found.lure_s:.0f} s, gone in about {found.stays_s:.0f} s"
        return Banner("DROP NOW", words, max(found.stays_s, 0.0), True)
    late = f"{what}: a lure needs {found.lure_s:.0f} s, it is gone in {found.stays_s:.0f} s. Come back over it."
    return Banner("TOO LATE FOR A DROP" if age < 8 else "GONE", late)


def closing_banner(session: Session, found: Closing) -> Banner:
    """A fish that comes to the lure."""
    say = session.display.words
    far = say(abs(found.below_m), Kind.DEPTH)
    side = "below" if found.below_m > 0 else "above"
    head = {
        Answer.RAISE: "RAISE SLOWLY",
        Answer.HOLD: "HOLD",
        Answer.WAIT: "IT WAITS: A SMALL MOVE",
    }[found.answer]
    meets = found.meets_s
    comes = f"comes, there in {meets:.0f} s" if math.isfinite(meets) else "does not come nearer"
    words = f"fish {far} {side} the lure at {say(found.lure_m, Kind.DEPTH)}, {comes}"
    if found.answer is Answer.RAISE and found.raise_mps > 0:
        words += f"; raise {say(found.raise_mps, Kind.FISH)} a second"
    if found.answer is Answer.RAISE and found.below_m < 0:
        words = f"the lure is {far} beneath the fish: bring it above"
    return Banner(head, words, meets if math.isfinite(meets) else math.nan, found.answer is not Answer.WAIT)


def lure_line(session: Session, ahead: tuple[float, float] | None) -> str:
    """What the lure meets next, by the chart on the course that is kept; `ahead` is what `rises_ahead` found."""
    fix, say = session.live.fix, session.display.words
    if fix is None or not session.live.is_on or session.chart.chart is None:
        return ""
    fast = drifts_too_fast(session)
    if fast is not None:
        speed, angle = say(fix.speed_mps, Kind.SPEED), f"{fast:.0f}°"
        return f"Drift {speed}: the line stands {angle} off, too fast for this weight. Heavier, or a drogue."
    on_lane = lane_words(session)
    if on_lane:
        return on_lane
    bob = say(session.rig.bob_m, Kind.DEPTH)
    if session.live.heading_deg is None or not fix.speed_mps > _UNDER_WAY_MPS:
        return f"Lure set for {bob}."
    if ahead is None:
        return f"Lure at {bob}: clear for the next {_SHALLOW_S:.0f} s on this course, by the chart."
    seconds, depth = ahead
    if is_shallow(ahead):
        return f"Shallow in {seconds:.0f} s by the chart: {say(depth, Kind.DEPTH)}. Not for navigation."
    return f"Bottom at {say(depth, Kind.DEPTH)} in {seconds:.0f} s on this course: bring the lure up in time."


def lane_words(session: Session) -> str:
    """On a drawn lane: what to do next and when, and how far off it one is; empty off it."""
    on, say = session.lane.now(), session.display.words
    if on is None:
        return ""
    off = f"{say(abs(on.off_m), Kind.DISTANCE, 0)} {'right' if on.off_m > 0 else 'left'} of the lane"
    if on.trouble is None or not math.isfinite(on.in_s):
        return f"{off}; the lure runs clear to its end, {say(on.left_m, Kind.DISTANCE, 0)} on."
    when = "now" if on.in_s < _NOW_S else f"in {on.in_s:.0f} s"
    if on.trouble.change_m is None:
        return f"Shoal {when}: no length clears it, lift the lure out or go round. {off.capitalize()}."
    return (
        f"Take in {say(-on.trouble.change_m, Kind.LENGTH)} {when}: the lure comes over a shoal. {off.capitalize()}."
    )


def drifts_too_fast(session: Session) -> float | None:
    """Degrees the line of a rod that is fished below the boat leans at this drift, where that is too much."""
    fix, rod = session.live.fix, session.rig.settings
    if fix is None or FAMILY[rod.method] is not Family.VERTICAL or not fix.speed_mps > 0.0:
        return None
    answer = solve(replace(rod, speed_mps=min(fix.speed_mps, _MOST_DRIFT_MPS)), session.rig.bob_m)
    lean = answer.angle_deg if isinstance(answer, RigAnswer) else _LEANS_DEG + 45.0
    return lean if lean > _LEANS_DEG else None


def rises_ahead(session: Session) -> tuple[float, float] | None:
    """Seconds until the chart's bottom rises to the lure or to the boat on the course kept, and its depth there."""
    live, chart = session.live, session.chart
    fix, heading = live.fix, live.heading_deg
    if fix is None or heading is None or not live.is_on or not fix.speed_mps > _UNDER_WAY_MPS or chart.chart is None:
        return None
    course = math.radians(fix.course_deg if math.isfinite(fix.course_deg) else heading)
    way = np.arange(_LOOK_M, max(fix.speed_mps * _SHALLOW_S, _LOOK_M) + 0.1, _LOOK_M)
    x, y = chart.chart.plane.to_xy(fix.latitude, fix.longitude)
    grid = chart.chart.grid
    depth = grid.frame.sample(grid.depth_m, float(x) + way * math.sin(course), float(y) + way * math.cos(course))
    depth = depth + session.conditions.level_m
    hits = np.flatnonzero(depth < max(session.rig.bob_m + 0.3, _SHALLOW_M))
    return (float(way[hits[0]]) / fix.speed_mps, float(depth[hits[0]])) if hits.size else None


def is_shallow(ahead: tuple[float, float] | None) -> bool:
    """Too thin for the boat."""
    return ahead is not None and ahead[1] < _SHALLOW_M


def care_words(session: Session) -> str:
    """The most pressing caution that has not been put away."""
    found = acts.cares_now(session)
    return sentence(found[0], PHRASES, session.display.words) if found else ""


def source_line(session: Session) -> str:
    """How old what is heard is, and what is recorded."""
    live = session.live
    if not live.is_on:
        return "Nothing is listened to: Ctrl+L at the desk, or Shift+F5 for a made-up boat."
    scan = session.scan
    parts = [live.words]
    pings = [s for s in live.sources if s["kind"] == "pings"]
    ages = [float(s["age"]) for s in pings if s["age"] is not None]
    if pings:
        parts.append(f"pings {max(min(ages), 0.0):.1f} s old" if ages else "no pings yet")
    if scan.is_live and scan.lead is not None and len(scan.lead) > 1:
        parts.append(f"{1 / max(scan.lead.typical_interval_s, 1e-3):.0f} a second")
    parts.extend(live.trouble[:1])
    parts.append("recording" if live.recording is not None else "not recorded")
    return " · ".join(parts)


def idle_words(session: Session) -> str:
    """While nothing happens: what the plan says, else what to do."""
    head, odds, _ = advice_words(session)
    if head:
        return f"{head}. {odds}"
    words = next_words(session)
    return words or "Press what you see: each press is kept with place, depth and time. Z takes the last one back."
