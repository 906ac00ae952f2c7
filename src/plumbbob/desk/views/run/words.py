"""What a plan says, in words: every code of the core has its phrase here."""

from __future__ import annotations

from plumbbob.core.geodesy import bearing_deg, distance_m
from plumbbob.core.live.anchor import moves_by, rode_for
from plumbbob.core.plan.bites import Lever, Rung, ladder
from plumbbob.core.plan.clock import wind_at
from plumbbob.core.plan.outing import DayPlan, Stay, Why
from plumbbob.core.units import Kind
from plumbbob.core.water.wind import WindCaution, wind_caution
from plumbbob.desk.models.boat import own_boat
from plumbbob.desk.models.display import Display
from plumbbob.desk.models.run_model import RunModel
from plumbbob.desk.models.session import Session

_AGAIN_MIN = 15.0
_POINTS = ("N", "NE", "E", "SE", "S", "SW", "W", "NW")

_LEVERS = {
    Lever.DEPTH: "another depth, a lure's height above them",
    Lever.PACE: "another pace: slower, then with stops",
    Lever.LURE: "another lure",
    Lever.SIZE: "a size smaller",
    Lever.COLOUR: "another colour",
    Lever.PLACE: "another side of this place",
}


def point(degrees: float) -> str:
    """One of eight points of the compass."""
    return _POINTS[round(degrees / 45.0) % 8]


def numbers(run: RunModel) -> dict[str, int]:
    """The number of each place, in the order of first visits."""
    names = dict.fromkeys(s.candidate.name for s in run.stays)
    return {name: k for k, name in enumerate(names, 1)}


def figure(run: RunModel, name: str) -> str:
    """What a place is called on the chart: its number; a question mark where nobody has looked."""
    if any(s.candidate.name == name and s.candidate.kind == "unseen" for s in run.stays):
        return "?"
    return str(numbers(run).get(name, "·"))


def why_words(display: Display, why: Why, value: float) -> str:
    """One reason for a stay."""
    if why is Why.LIGHT:
        return f"the light suits its depth, {value:.1f} times as good"
    if why is Why.RECORD:
        return f"{value:.0f} caught here before"
    if why is Why.SEEN:
        return f"{value:.0f} seen here before"
    if why is Why.SCORE:
        return "best of all places" if value < 1.5 else f"{ordinal(round(value))} best of the places"
    if why is Why.RESTED:
        return f"rested {value * 60:.0f} min" if value < 1.5 else f"rested {value:.1f} h"
    if why is Why.HELD:
        return "held by you"
    if why is Why.UNSEEN:
        return "one look where nobody has looked"
    if why is Why.WIND:
        return f"come in from {point(value + 180.0)}, hold into {point(value)}"
    return WHY_NOT[why]


WHY_NOT = {
    Why.BANNED: "left out by you",
    Why.WAVES: "waves too high there all the time that is left",
    Why.FAR: "too far for the time that is left",
    Why.LESS: "brings less than others for its time",
    Why.NO_WAY: "no way over water that was sounded",
}


def ordinal(number: int) -> str:
    """1st, 2nd, 3rd, 4th."""
    return f"{number}{'th' if number % 100 in (11, 12, 13) else {1: 'st', 2: 'nd', 3: 'rd'}.get(number % 10, 'th')}"


def stay_words(session: Session, stay: Stay) -> str:
    """Why one goes there."""
    reasons = [why_words(session.display, why, value) for why, value in stay.why]
    return f"{'; '.join(reasons)}." if reasons else ""


def lying_words(session: Session, stay: Stay) -> str:
    """How to lie there: rope for depth and wind, where to let go, how far a shift moves the boat."""
    run, display = session.run, session.display
    if run.ask is None:
        return ""
    wind = wind_at(run.ask.hours, stay.arrive)
    rode = rode_for(stay.candidate.bottom_m, wind.wind_mps)
    rope, swing = (display.words(v, Kind.DISTANCE, 0) for v in (rode.rope_m, rode.swing_m))
    words = f"At anchor: {rope} of rope"
    if wind.wind_mps > 0.5:
        words += f", let go {swing} to {point(wind.from_deg)} of where you want to lie"
    moved = display.words(moves_by(rode.swing_m, 30.0), Kind.DISTANCE, 0)
    words += f"; a shift of 30° moves you {moved}."
    if own_boat(session.settings).is_kayak:
        words += " Kayak: never anchored from the side."
    return words


def next_words(session: Session) -> str:
    """Under way: where to, how far, which way, when one is there."""
    run, display = session.run, session.display
    boat, now = run.boat, run.now
    following = next((s for s in run.plan.stays if s.arrive > now), None) if run.plan and now is not None else None
    if boat is None or now is None or run.plan is None:
        return ""
    if following is None:
        return f"Home, there by {session.clock(run.plan.back, '%H:%M')}."
    place = following.candidate.place
    far, way = distance_m(boat, place), bearing_deg(boat, place) % 360.0
    there = session.clock(following.arrive, "%H:%M")
    to = f"On to {figure(run, following.candidate.name)}, {following.candidate.name}"
    return f"{to}: {display.words(far, Kind.DISTANCE, 0)} at {way:.0f}°, there by {there}."


def times(session: Session, stay: Stay) -> str:
    """From when to when."""
    return f"{session.clock(stay.arrive, '%H:%M')}–{session.clock(stay.leave, '%H:%M')}"


def depth_words(display: Display, stay: Stay) -> str:
    """At what depth, over what bottom."""
    fish, bottom = (display.words(v, Kind.DEPTH) for v in (stay.candidate.fish_m, stay.candidate.bottom_m))
    return f"{fish} over {bottom}"


def home_words(session: Session, plan: DayPlan) -> str:
    """When and why to turn for home, if the wind says so."""
    if plan.home_by is None:
        return ""
    wind = max(h.wind_mps for h in plan.ask.hours if h.time <= plan.home_by + 1.0)
    blows, by = session.display.words(wind, Kind.SPEED, 0), session.clock(plan.home_by, "%H:%M")
    return f"Back by {by}: {blows} of wind by then is more than this craft should meet."


def beside_words(session: Session) -> str:
    """What two plans cost each other."""
    run = session.run
    if run.beside is None or run.plan is None:
        return ""
    more = run.plan.fish - run.beside.fish
    ways = [_way_minutes(p) for p in (run.plan, run.beside)]
    only = {s.candidate.name for s in run.plan.stays} ^ {s.candidate.name for s in run.beside.stays}
    words = f"Against the plan kept beside: {more:+.1f} fish, {ways[0] - ways[1]:+.0f} min under way"
    return words + (f"; differs in {', '.join(sorted(only)[:3])}." if only else "; the same places.")


def _way_minutes(plan: DayPlan) -> float:
    return (plan.back - plan.start - sum(s.leave - s.arrive for s in plan.stays)) / 60.0


_TERMS = {
    "warmth": "by temperature and oxygen, for the species chosen",
    "window": "by the depth window",
    "layer": "by nearness to the cold layer",
    "bottom": "by nearness to the bottom",
    "structure": "by the places worth a look",
    "record": "by your own marks and catches",
}


def veil_words(what: str) -> str:
    """What the threads on the chart stand for."""
    if not what:
        return "No veil."
    if what == "left":
        return "The veil lies where fish may still be, after all looks."
    return f"Before any look: {_TERMS.get(what, what)}."


def caution_words(session: Session) -> str:
    """What to mind on this day, once, at the top of the plan."""
    run = session.run
    if run.ask is None:
        return ""
    kayak = own_boat(session.settings).is_kayak
    worst = max(h.wind_mps for h in run.ask.hours)
    caution = wind_caution(worst, kayak)
    if caution is WindCaution.ASHORE:
        return "Wind that belongs ashore today; the local forecast comes first."
    if caution is WindCaution.MIND:
        return "Mind the wind today; the local forecast comes first."
    return ""


def advice_words(session: Session) -> tuple[str, str, str]:
    """Stay or go: what to do, the two chances, and the other lever or the reason."""
    run = session.run
    here, advice = run.here, run.advice
    if here is None or advice is None:
        return ("", "", "")
    head = f"{advice.minutes_more:.0f} minutes more" if advice.stay and advice.minutes_more >= 1 else "Go on"
    if advice.stay and advice.minutes_more > 90:
        head = "Stay"
    odds = f"A fish in ten minutes: here {advice.here:.0%}, going on {advice.there:.0%}."
    name = here.candidate.name
    follow, bites = (run.count(name, kind, here.arrive) for kind in ("follower", "bite"))
    rung = next_rung(run)
    again = _touch_again(run, here)
    if again:
        return head, odds, again
    if follow and rung is not None:
        times_ = f"{follow} seen and not taking" if follow > 1 else "One seen and not taking"
        return head, odds, f"{times_}: first try {_LEVERS[rung.lever]} ({rung.minutes:.0f} min)."
    school = "work a place out" if run.patient else "keep moving"
    minutes = (run.now - here.arrive) / 60.0 if run.now is not None else 0.0
    why = f"{minutes:.0f} min here and no fish: it is likelier one of its poorer days. School: {school}."
    if minutes < 5:
        why = f"Just begun: give it one set of depths. School: {school}."
    if bites:
        world = "clumped: a fish makes it worth staying" if run.shape < 2.0 else "even: each fish leaves fewer"
        why = f"{bites} here so far; this water is taken as {world}."
    return head, odds, why


def _touch_again(run: RunModel, here: Stay) -> str:
    """While one fishes about a place: it is touched again every so often, since fish come back to it."""
    if run.around != "spokes" or run.now is None:
        return ""
    last = max([here.arrive, *(e.time for e in run.state.events if e.name == here.candidate.name)])
    minutes = (run.now - last) / 60.0
    return f"{minutes:.0f} min since {here.candidate.name} itself: touch it again." if minutes >= _AGAIN_MIN else ""


def next_rung(run: RunModel) -> Rung | None:
    """What to change next at the place where one is."""
    here = run.here
    if here is None:
        return None
    tried = [lever for name, lever, _ in run.state.tried if name == here.candidate.name]
    rungs = ladder(
        tried,
        school=run.ladder,
        followers=run.count(here.candidate.name, "follower", here.arrive),
        own=run.state.helped,
    )
    return rungs[0] if rungs else None


def lever_words(lever: Lever) -> str:
    """What a lever is."""
    return _LEVERS[lever]
