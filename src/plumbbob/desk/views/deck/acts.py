"""What the targets of the deck do. Each is on disk before it says so; none asks back."""

from __future__ import annotations

import math
import time
from collections.abc import Callable
from dataclasses import replace
from typing import TYPE_CHECKING

from plumbbob.core.geodesy import offset
from plumbbob.core.live.care import Around, Care, cares
from plumbbob.core.live.clocks import bait_lasts_s, pump_for, way_home_s
from plumbbob.core.plan.clock import BOAT, KAYAK, wind_at
from plumbbob.core.plan.events import Event
from plumbbob.core.reason import Reason
from plumbbob.core.rig.fall import fall_speed, time_to_depth
from plumbbob.core.rig.rod import FAMILY, Family
from plumbbob.core.units import Kind
from plumbbob.core.water.sun import sun_elevation_deg
from plumbbob.desk.commands import marking
from plumbbob.desk.commands.casting import reach_now
from plumbbob.desk.commands.registry import CommandHost
from plumbbob.desk.models.boat import own_boat
from plumbbob.desk.models.deck_model import Fall
from plumbbob.desk.models.moments import BITES, ENDS, last_bite, open_span
from plumbbob.desk.models.session import Session
from plumbbob.desk.views.deck import landing
from plumbbob.desk.views.deck.view import DeckView
from plumbbob.desk.views.run.words import advice_words, next_words
from plumbbob.services.battery import seconds_left
from plumbbob.store.errors import StoreError
from plumbbob.store.values import Mark, MarkKind, Moment, MomentKind

if TYPE_CHECKING:
    from plumbbob.core.rig.rod import RigSettings

ASIDE_M = 10.0
_FILLED_IN_LATER = {MomentKind.CAUGHT, MomentKind.LOST}
_HOOKS_S = 45.0  # so long after a bite hooks are what to mind
_USUAL_C = 15.0  # where nothing tells the water's temperature

Act = Callable[[Session, CommandHost], None]


def toggle(session: Session, host: CommandHost) -> None:
    """Onto the deck, or back to the desk."""
    session.set_mode("" if session.view.mode else DeckView.name)
    waiting = len(session.logbook.to_complete)
    if not session.view.mode and waiting:
        session.say(f"{waiting} to complete: Ctrl+J.")


def _deck(session: Session) -> DeckView:
    view = session.view
    assert isinstance(view, DeckView)
    return view


def mark(kind: MarkKind) -> Act:
    """Mark what is under the boat; for some seconds it can be moved aside."""

    def run(session: Session, host: CommandHost) -> None:
        made = _deck(session).mark(kind)
        if made is None:
            session.say("No position: nothing to mark.", wrong=True)
            return
        try:
            saved = session.logbook.add_mark(made)
        except StoreError as exc:
            session.say(str(exc), wrong=True)
            return
        host.tasks.sounds.play("kept")
        session.deck.open_row("aside", time.monotonic(), saved.id)
        session.say(f"{marking.mark_words(session, saved).capitalize()} marked.")

    return run


def aside(right_m: float, ahead_m: float) -> Act:
    """The mark just made lies so far from the boat."""

    def run(session: Session, host: CommandHost) -> None:
        deck, heading = session.deck, session.live.heading_deg
        saved = session.logbook.all(Mark).by_id(deck.marked)
        if saved is None:
            return
        if heading is None:
            session.say("Which way the bow points is not known yet.", wrong=True)
            return
        turn = math.radians(heading)
        east = right_m * math.cos(turn) + ahead_m * math.sin(turn)
        north = ahead_m * math.cos(turn) - right_m * math.sin(turn)
        latitude, longitude = offset(saved.latitude, saved.longitude, east, north)
        moved = replace(saved, latitude=float(latitude), longitude=float(longitude), position_sd_m=ASIDE_M / 2)
        try:
            session.logbook.change_mark(moved)
        except StoreError as exc:
            session.say(str(exc), wrong=True)
            return
        deck.keep_row(time.monotonic())
        way = "right" if right_m > 0 else "left" if right_m < 0 else "ahead"
        far = session.display.words(max(abs(right_m), abs(ahead_m)), Kind.DISTANCE, 0)
        session.say(f"Moved {far} {way}.")

    return run


def moment_now(session: Session, kind: MomentKind, note: str = "") -> Moment:
    """A moment as far as it is known by itself."""
    view = _deck(session)
    place, live = view.place, session.live
    echo = view.just_seen(MarkKind.FISH)
    return Moment(
        water=session.water.name,
        kind=kind,
        time=view.moment,
        latitude=place.latitude if place is not None else None,
        longitude=place.longitude if place is not None else None,
        fish_depth_m=getattr(echo, "depth_m", None),
        bottom_depth_m=marking.known(view.bottom_m),
        lure_depth_m=marking.known(marking.lure_depth(session)),
        rig=marking.rig_words(session),
        source=live.recording.name if live.is_on and live.recording is not None else "",
        note=note,
        is_open=kind in _FILLED_IN_LATER,
    )


def note(kind: MomentKind, words: str = "") -> Act:
    """Note that it happened."""

    def run(session: Session, host: CommandHost) -> None:
        deck, made = session.deck, moment_now(session, kind, words)
        try:
            with session.history.as_one(kind.value):
                saved = session.logbook.add_moment(made)
                stay = session.run.here
                if stay is not None and (kind in BITES or kind is MomentKind.FOLLOWED):
                    word = "bite" if kind in BITES else "follower"
                    depth = made.lure_depth_m if made.lure_depth_m is not None else session.rig.bob_m
                    session.run.note(Event(kind=word, time=made.time, name=stay.candidate.name, depth_m=depth))
        except StoreError as exc:
            session.say(str(exc), wrong=True)
            return
        host.tasks.sounds.play("kept")
        deck.close_row()
        if kind is MomentKind.CAUGHT:
            landing.begin(session, saved)
        deck.changed.emit()
        later = "  Details later, at the desk: Ctrl+J." if made.is_open else ""
        session.say(f"{kind.value.capitalize()} noted.{later}")

    return run


def row(name: str) -> Act:
    """Show its choices; again closes them."""

    def run(session: Session, host: CommandHost) -> None:
        if session.deck.row == name:
            session.deck.close_row()
        else:
            session.deck.open_row(name, time.monotonic())

    return run


def begin_or_end(session: Session, host: CommandHost) -> None:
    """End what was begun; else choose what begins."""
    begun = open_span(session.logbook.moments, _deck(session).moment)
    if begun is None:
        row("begin")(session, host)
    else:
        note(ENDS[begun.kind])(session, host)


def begin(kind: MomentKind) -> Act:
    """Something begins here and now."""

    def run(session: Session, host: CommandHost) -> None:
        session.deck.here_since = _deck(session).moment
        note(kind)(session, host)

    return run


def _sinking(session: Session) -> tuple[RigSettings, float] | None:
    """The rod in hand, else the first whose lure falls freely, and the lure's speed of fall."""
    rods = [session.rig.settings, *(s.rod for s in session.rig.sets)]
    for rod in rods:
        falling = rod.lure.falling(rod.line, rod.rho)
        speed = fall_speed(falling, 0.0, rho=rod.rho)
        if speed > 0.0:
            return rod, speed
    return None


def lure_seconds(session: Session, depth_m: float) -> float:
    """How long a lure needs to a depth on open line; NaN where it never gets there."""
    found = _sinking(session)
    if found is None:
        return math.nan
    rod = found[0]
    try:
        return time_to_depth(rod.lure.falling(rod.line, rod.rho), depth_m, rho=rod.rho)[0]
    except ValueError:
        return math.nan


def let_fall(session: Session, host: CommandHost) -> None:
    """Count a lure down to the bob; again ends the count."""
    deck = session.deck
    if deck.fall is not None:
        deck.fall = None
        deck.changed.emit()
        return
    depth = session.rig.bob_m
    seconds = lure_seconds(session, depth)
    if not math.isfinite(seconds):
        session.say("This lure does not sink on open line: nothing to count.", wrong=True)
        return
    deck.fall, deck.pump = Fall(time.monotonic(), seconds, depth), None
    deck.changed.emit()


def temperature_at(session: Session, depth_m: float) -> float:
    """Of the water at a depth, as far as it is known."""
    profile, fix = session.profile, session.live.fix
    if profile is not None:
        return float(profile.at(depth_m))
    return fix.temperature_c if fix is not None and math.isfinite(fix.temperature_c) else _USUAL_C


def pump(session: Session, host: CommandHost) -> None:
    """Lift, fall, rest, by the water's temperature; again ends it."""
    deck = session.deck
    if deck.pump is not None:
        deck.pump = None
    else:
        found = _sinking(session)
        speed = found[1] if found is not None else 0.3
        deck.pump = time.monotonic(), pump_for(temperature_at(session, session.rig.bob_m), speed)
        deck.fall = None
    deck.changed.emit()


def bait_changed(session: Session, host: CommandHost) -> None:
    """Fresh bait from now on."""
    deck = session.deck
    if deck.bait is None:
        next_bait(session, host)
        return
    note(MomentKind.BAIT_CHANGED, deck.bait.value)(session, host)


def next_bait(session: Session, host: CommandHost) -> None:
    """Another kind of bait."""
    kind = session.deck.next_bait()
    if kind is None:
        session.say("A lure: nothing to change by the clock.")
        return
    low, high = bait_lasts_s(kind, temperature_at(session, session.rig.bob_m))
    lasts = f"{low / 60:.0f} to {high / 60:.0f} min"
    session.say(f"{kind.value.capitalize()}: change it after {lasts}. B when it is fresh.")


def stay_or_go(session: Session, host: CommandHost) -> None:
    """What the day's plan says of staying."""
    head, odds, why = advice_words(session)
    session.say(f"{head}. {odds}" if head else why or "No stay is under way: F5 at the desk plans the day.")


def next_place(session: Session, host: CommandHost) -> None:
    """Where the plan goes from here, how far and which way."""
    run = session.run
    session.say(next_words(session) if run.plan is not None else "No plan: F5 at the desk makes one.")


def cast_to(session: Session, host: CommandHost) -> None:
    """Show the cast to the nearest mark from here, until it is pressed again."""
    deck = session.deck
    if deck.aiming:
        deck.aiming = False
    elif reach_now(session) is None:
        session.say("Nothing to cast to: no mark within sight, or no position.", wrong=True)
        return
    else:
        deck.aiming = True
    deck.changed.emit()


def snapshot(session: Session, host: CommandHost) -> None:
    """The window as a picture beside the recordings, and the moment in the log."""
    name = host.snapshot()
    if name:
        note(MomentKind.SNAPSHOT, name)(session, host)
        session.say(f"Snapshot {name}: the picture, and the last minute of pings.")


def here_again(session: Session, host: CommandHost) -> None:
    """The clock of this place begins anew."""
    session.deck.here_since = _deck(session).moment
    session.deck.changed.emit()


def sounds(session: Session, host: CommandHost) -> None:
    """Sounds on or off."""
    session.deck.set_sounds(not session.deck.sounds)
    session.say("Sounds on." if session.deck.sounds else "Sounds off.")


def thunder(session: Session, host: CommandHost) -> None:
    """Heard: the caution stands for half an hour."""
    session.deck.thunder_at = _deck(session).moment
    session.deck.put_away.discard(Care.THUNDER.name)
    session.deck.changed.emit()


def put_away(session: Session, host: CommandHost) -> None:
    """The caution on screen has been read."""
    now = cares_now(session)
    if now:
        session.deck.put_away.add(now[0].code.name)
        session.deck.changed.emit()


def learn(session: Session, host: CommandHost) -> None:
    """Teach a key of a remote: the key, then its target."""
    deck = session.deck
    if deck.learning:
        deck.learning, deck.learned = False, None
        deck.changed.emit()
    else:
        deck.learn_next()
    session.say("Press the remote's key, then the target it is for." if deck.learning else "Nothing learned.")


def cares_now(session: Session) -> tuple[Reason, ...]:
    """What to mind now, most pressing first, without what has been put away."""
    view, ask = session.view, session.run.ask
    place, now = view.place, view.moment
    craft = ask.craft if ask is not None else (KAYAK if own_boat(session.settings).is_kayak else BOAT)
    wind, wind_from = session.conditions.wind_mps, session.conditions.wind_from_deg
    if ask is not None:
        hour = wind_at(ask.hours, now)
        wind, wind_from = hour.wind_mps, hour.from_deg
    fix = session.live.fix
    water_c = fix.temperature_c if fix is not None else math.nan
    if not math.isfinite(water_c) and session.profile is not None:
        water_c = float(session.profile.at(0.0))
    home = way = math.nan
    if ask is not None and place is not None:
        way = way_home_s(craft, place, ask.launch, wind, wind_from)
        home = ask.end - way - now
    bitten = last_bite(session.logbook.moments, now)
    around = Around(
        craft=craft,
        water_c=water_c,
        ice_m=math.nan if FAMILY[session.rig.settings.method] is Family.ICE else None,
        wind_mps=wind,
        sun_deg=sun_elevation_deg(place, now) if place is not None else math.nan,
        home_in_s=home,
        way_home_s=way,
        battery_s=seconds_left(),
        thunder_s=now - session.deck.thunder_at if session.deck.thunder_at is not None else math.inf,
        fish_on_deck=bitten is not None and now - bitten < _HOOKS_S,
    )
    return tuple(r for r in cares(around) if r.code.name not in session.deck.put_away)
