"""What the view ahead says: fish, the cast to one of them, what a cast did."""

from __future__ import annotations

import math

from plumbbob.core.rig.cast import Approach, CastPlan, Verdict
from plumbbob.core.sonar.reading import ForwardTarget
from plumbbob.core.units import Kind
from plumbbob.desk.models.forward_model import Now
from plumbbob.desk.models.session import Session
from plumbbob.desk.views.rig.words import capital
from plumbbob.desk.views.sonar.down.words import Said
from plumbbob.desk.views.sonar.side.words import place_line

_STILL_MPS = 0.08
_FINE_BELOW = 0.12


def bearing_words(azimuth_deg: float) -> str:
    """A bearing from the bow."""
    if abs(azimuth_deg) < 1.5:
        return "straight ahead"
    return f"{abs(azimuth_deg):.0f}° {'right' if azimuth_deg > 0 else 'left'} of the bow"


def heading_words(session: Session, track: ForwardTarget) -> str:
    """Whether it comes or goes."""
    speed = track.towards_mps
    if not math.isfinite(speed):
        return "seen too briefly to tell which way it swims"
    if abs(speed) < _STILL_MPS:
        return "holds its place"
    word = "comes nearer" if speed > 0 else "swims away"
    return f"{word} at {session.display.words(abs(speed), Kind.SPEED)}"


def echo_lines(session: Session, track: ForwardTarget, now: Now) -> list[str]:
    """What is known of a track, line by line."""
    display = session.display
    lines = [
        f"{display.words(now.depth_m, Kind.DEPTH)} down {display.spread(track.depth_sd_m, Kind.DEPTH)}",
        f"{display.words(now.distance_m, Kind.DISTANCE)} away, {bearing_words(now.azimuth_deg)}"
        f" ±{max(track.azimuth_sd_deg, 0.5):.0f}°",
    ]
    bed = session.forward.bottom_m
    if math.isfinite(bed) and bed > now.depth_m:
        lines.append(f"{display.words(bed - now.depth_m, Kind.DEPTH)} over the depth under the boat")
    if track.kind == "lure":
        lines.append("falls as only a lure does")
    else:
        lines.append(heading_words(session, track))
    k = track.best
    lines.append(place_line(display, float(track.latitude[k]), float(track.longitude[k]), track.position_sd_m))
    return [line for line in lines if line]


def cast_lines(session: Session) -> list[str]:
    """The planned cast as things to do, in their order."""
    ahead, display = session.forward, session.display
    plan = ahead.plan
    if plan is None:
        return [f"No cast with {session.rig.cast_lure.name}: {ahead.no_plan}."] if ahead.no_plan else []
    past = display.words(abs(plan.past_m), Kind.DISTANCE)
    land = display.words(plan.land_m, Kind.DISTANCE)
    beyond = "past" if plan.past_m >= 0 else "short of"
    lure = capital(session.rig.cast_lure.name)
    lines = [f"{lure}: land it {land} out, {bearing_words(plan.aim_deg)}; {past} {beyond} the fish."]
    over = display.words(_over(session, plan), Kind.DEPTH)
    swing = display.words(abs(plan.swing_m), Kind.DISTANCE)
    if plan.approach is Approach.PAST_OVER:
        speed = display.words(ahead.retrieve_mps, Kind.SPEED)
        lines.append(
            f"Count {plan.count_s:.0f} on open line, close at {display.words(plan.close_depth_m, Kind.DEPTH)}."
        )
        lines.append(f"Draw at once at {speed}: {over} over the fish after {plan.draw_s:.0f} s.")
    else:
        lines.append("Close at the splash and hold: it swings down towards the boat.")
        lines.append(f"After {plan.draw_s:.0f} s it hangs {over} above the fish; then draw it on.")
    spread = display.spread(plan.pass_depth_sd_m, Kind.DEPTH)
    unit = display.words(0.0, Kind.DEPTH).split()[-1]
    lines.append(
        f"It comes {swing} nearer on the tight line. Depth {spread} {unit}; {plan.chance_below:.0%} go below it."
    )
    if plan.chance_below > _FINE_BELOW:
        lines.append("That is too much: leave more room over it, or move closer.")
    return lines


def _over(session: Session, plan: CastPlan) -> float:
    track = session.forward.chosen
    return session.forward.now(track).depth_m - plan.pass_depth_m if track is not None else math.nan


def verdict_line(session: Session, verdict: Verdict) -> str:
    """What went wrong with the last cast, or that nothing did."""
    display = session.display
    amount = display.words(verdict.amount, Kind.DISTANCE if verdict.word in ("short", "long") else Kind.DEPTH)
    closest = display.words(verdict.closest_m, Kind.DISTANCE)
    words = {
        "short": f"The last cast stayed {amount} short of the fish: land farther out.",
        "long": f"The last lure turned back {amount} beyond the fish: draw it on, over the fish.",
        "below": f"The last lure passed {amount} below the fish: count less. Fish look up.",
        "high": f"The last lure passed {amount} above the fish: count more.",
        "fast": f"The last lure passed at {display.words(verdict.amount, Kind.SPEED)}: draw it slower.",
        "good": f"The last lure passed {amount} above the fish, as it should.",
    }
    return f"{words[verdict.word]} Closest {closest}."


def reasons(session: Session) -> list[Said]:
    """What the fan showed; each line leads to what it speaks of."""
    display, ahead = session.display, session.forward
    tracks = [t for t in ahead.reading.tracks if t.kind == "fish"]
    lines: list[Said] = []
    if not tracks:
        return [Said("No fish could be followed from frame to frame.")]
    coming = [t for t in tracks if t.towards_mps > _STILL_MPS]
    going = [t for t in tracks if t.towards_mps < -_STILL_MPS]
    if coming:
        lines.append(Said(f"{len(coming)} of {len(tracks)} came nearer.", float(coming[0].time[0])))
    if going:
        lines.append(Said(f"{len(going)} of {len(tracks)} swam away.", float(going[0].time[0])))
    lures = [t for t in ahead.reading.tracks if t.kind == "lure"]
    if lures:
        deepest = display.words(max(float(t.depth_m.max()) for t in lures), Kind.DEPTH)
        lines.append(Said(f"A lure went down to {deepest}.", float(lures[0].time[0])))
    judged = ahead.verdict()
    if judged is not None:
        lines.append(Said(verdict_line(session, judged[1]), judged[1].time))
    return lines


def range_line(session: Session, wide_px: int, high_px: int) -> str:
    """How far and deep to look."""
    found = session.forward.advice(wide_px, high_px)
    if found is None:
        return ""
    display = session.display
    deep, far = display.words(found.deep_m, Kind.DEPTH, 0), display.words(found.far_m, Kind.DISTANCE, 0)
    bottom = "the bottom fits in" if found.with_bottom else "leave the bottom out"
    return f"Look {deep} deep and {far} far: a fish of 35 cm is {found.pixels:.0f} pixels long, {bottom}."
