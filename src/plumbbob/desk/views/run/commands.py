"""What can be done with a day."""

from __future__ import annotations

import math
from collections.abc import Callable

from plumbbob.core.plan.draft import Candidate
from plumbbob.core.plan.events import Event
from plumbbob.core.plan.outing import Hold
from plumbbob.core.units import Kind
from plumbbob.desk.commands.registry import Command, CommandHost, sheet
from plumbbob.desk.models.run_model import LEFT
from plumbbob.desk.models.search_model import LOOK_MIN
from plumbbob.desk.models.session import Session
from plumbbob.desk.views.run.words import lever_words, next_rung, veil_words

_AROUND = ("", "spokes", "lanes")


def _has_plan(session: Session) -> bool:
    return session.run.plan is not None


def _has_place(session: Session) -> bool:
    return session.run.chosen is not None


def _place(session: Session) -> Candidate:
    chosen = session.run.chosen
    assert chosen is not None
    return chosen


def _time(session: Session) -> float:
    """Now by the day's clock; before one is out, the middle of the chosen stay."""
    run, stay = session.run, session.run.chosen_stay
    if run.now is not None:
        return run.now
    return (stay.arrive + stay.leave) / 2 if stay is not None else session.view.moment


def _join(scene: str) -> Callable[[Session, CommandHost], None]:
    return lambda session, asker: asker.tasks.listener.join_made_up(scene)


def _to_live_edge(session: Session, asker: CommandHost) -> None:
    asker.tasks.follower.to_live_edge()
    session.set_stage("scan")


def _note(kind: str, words: str) -> Callable[[Session, CommandHost], None]:
    def run(session: Session, asker: CommandHost) -> None:
        place = _place(session)
        depth = min(session.rig.bob_m, place.bottom_m)
        minutes = LOOK_MIN if kind == "nothing" else 0.0
        session.run.note(Event(kind=kind, time=_time(session), name=place.name, depth_m=depth, minutes=minutes), kind)
        session.say(f"{words} at {place.name}, {session.display.words(depth, Kind.DEPTH)}.  Z takes it back.")

    return run


def _hold(session: Session, asker: CommandHost) -> None:
    name = _place(session).name
    held = name in session.run.state.holds
    session.run.hold(name, None if held else Hold())
    session.say(f"{name} {'may go' if held else 'stays in the plan'}.  Z takes it back.")


def _ban(session: Session, asker: CommandHost) -> None:
    name = _place(session).name
    session.run.ban(name)
    out = name in session.run.state.banned
    session.say(f"{name} {'left out' if out else 'let in again'}.  Z takes it back.")


def _add(session: Session, asker: CommandHost) -> None:
    """The ranked place or mark that is chosen, else the place under the cursor."""
    chart, cursor = session.chart.chart, session.chart.cursor
    depth = session.chart.depth_m + session.conditions.level_m
    if chart is None or cursor is None or not math.isfinite(depth) or depth < 0.5:
        session.say("Put the cursor on water first: that place is put into the plan.", wrong=True)
        return
    names = {c.name for c in session.run.candidates} | {c.name for c in session.run.state.added}
    number = next(k for k in range(1, 999) if f"Own place {k}" not in names)
    bob = min(session.rig.bob_m, depth - 0.5) if depth > 1.0 else depth / 2
    session.run.add(
        Candidate(
            name=f"Own place {number}",
            place=chart.plane.place(*cursor),
            bottom_m=depth,
            fish_m=max(bob, 0.3),
            score=0.5,
            kind="own",
        )
    )
    session.say(f"Own place {number} put in, {session.display.words(depth, Kind.DEPTH)} deep.  Z takes it back.")


def _keep(session: Session, asker: CommandHost) -> None:
    session.run.keep_beside()
    kept = session.run.beside is not None
    session.say("This plan is kept beside, dashed; change the day and compare." if kept else "No plan beside.")


def _lever(session: Session, asker: CommandHost) -> None:
    rung, here = next_rung(session.run), session.run.here
    if rung is None or here is None:
        return
    session.run.pull(here.candidate.name, rung.lever, _time(session))
    following = next_rung(session.run)
    then = f" Then: {lever_words(following.lever)}." if following is not None else " Then another place."
    session.say(f"Tried {lever_words(rung.lever)} at {here.candidate.name}.{then}  Z takes it back.")


def _veil(session: Session, asker: CommandHost) -> None:
    """What is left, then each reason that was there before the first look, then nothing."""
    search = session.search.search
    shown = [LEFT, *(search.terms if search is not None else ()), ""]
    at = shown.index(session.run.veil) if session.run.veil in shown else -1
    session.run.show_veil(shown[(at + 1) % len(shown)])
    session.say(veil_words(session.run.veil))


def _turn_column(session: Session, asker: CommandHost) -> None:
    session.run.turn_column()
    session.say("Deep first." if session.run.deep_first else "Shallow first.")


def _around(session: Session, asker: CommandHost) -> None:
    at = _AROUND[(_AROUND.index(session.run.around) + 1) % len(_AROUND)]
    session.run.show_around(at)


_C = Command
# fmt: off
COMMANDS: tuple[Command, ...] = (
    _C(id="run.today", title="Plan the day", menu="Run", keys=("F5",),
       run=lambda s, a: a.tasks.day.plan_today(), enabled=lambda s: s.chart.chart is not None,
       help="Where first, how long, what next: from first light on."),
    _C(id="run.now", title="Plan from now", menu="Run", keys=("E",), stage="run",
       run=lambda s, a: a.tasks.day.from_now(), enabled=_has_plan,
       help="What is left of the day, from where one is; what was fished rests."),
    _C(id="run.day", title="The day …", menu="Run", keys=("T",), stage="run",
       run=sheet("day"), checked=lambda s: s.sheet == "day",
       help="Hours, launch, wind through the day, rest of a place, schools."),
    _C(id="run.hold", title="Hold", menu="Run", keys=("H",), stage="run",
       run=_hold, enabled=_has_place,
       checked=lambda s: s.run.chosen is not None and s.run.chosen.name in s.run.state.holds,
       help="The chosen place has to be in the plan, or may go again."),
    _C(id="run.ban", title="Leave out", menu="Run", keys=("X",), stage="run",
       run=_ban, enabled=_has_place,
       checked=lambda s: s.run.chosen is not None and s.run.chosen.name in s.run.state.banned,
       help="The chosen place is not visited; again lets it in."),
    _C(id="run.add", title="Put in the place under the cursor", menu="Run", keys=("D",), stage="run",
       run=_add, enabled=_has_plan,
       help="One more place for the plan, held."),
    _C(id="run.bite", title="Bite", menu="Run", keys=("G",), stage="run",
       run=_note("bite", "A fish"), enabled=_has_place,
       help="A fish came at the bob's depth: it raises this place and those like it."),
    _C(id="run.follower", title="Seen, not taking", menu="Run", keys=("Y",), stage="run",
       run=_note("follower", "One that did not take"), enabled=_has_place,
       help="A follower or fish in view that do not take: another lever comes first."),
    _C(id="run.nothing", title="Nothing", menu="Run", keys=("J",), stage="run",
       run=_note("nothing", "Ten minutes without a touch"), enabled=_has_place,
       help="Ten minutes without a touch at the bob's depth: the band thins out."),
    _C(id="run.bait", title="Bait seen", menu="Run", keys=("Shift+Y",), stage="run",
       run=_note("bait", "Bait"), enabled=_has_place,
       help="Bait at the bob's depth: it raises this place a little, and those like it."),
    _C(id="run.other", title="Another kind caught", menu="Run", keys=("Shift+X",), stage="run",
       run=_note("other", "A fish of another kind"), enabled=_has_place,
       help="A fish that eats the same, caught at the bob's depth: it says where the food is."),
    _C(id="run.lever", title="Changed", menu="Run", keys=("Shift+L",), stage="run",
       run=_lever, enabled=lambda s: next_rung(s.run) is not None,
       help="What was advised has been changed; says what comes next."),
    _C(id="run.replay", title="Play a made-up day", menu="Run", keys=("Shift+D",), stage="run",
       run=lambda s, a: a.tasks.replay.toggle(), enabled=_has_plan,
       help="Looks, fish, stay or go against this plan; nothing of it goes into the log."),
    _C(id="run.keep", title="Keep this plan beside", menu="Run", keys=("K",), stage="run",
       run=_keep, enabled=_has_plan, checked=lambda s: s.run.beside is not None,
       help="Dashed under the day, with what the two cost each other."),
    _C(id="run.swap", title="Take the plan beside", menu="Run", keys=("Shift+K",), stage="run",
       run=lambda s, a: s.run.swap(), enabled=lambda s: s.run.beside is not None,
       help="The plan kept beside becomes the plan."),
    _C(id="run.veil", title="Veil: what is not ruled out, and why", menu="Run", keys=("V",), stage="run",
       run=_veil, enabled=_has_plan, checked=lambda s: bool(s.run.veil),
       help="Threads over the chart, thick where fish may still be; then by each reason alone; then none."),
    _C(id="run.turn", title="Column from the other end", menu="Run", keys=("Shift+V",), stage="run",
       run=_turn_column, enabled=_has_place, checked=lambda s: s.run.deep_first,
       help="What was tried, from the deep end up or from the surface down."),
    _C(id="run.around", title="Around this place", menu="Run", keys=("Shift+A",), stage="run",
       run=_around, enabled=_has_place, checked=lambda s: bool(s.run.around),
       help="Spokes and rings over the deeper water; lanes back and forth; nothing."),
    _C(id="live.listen", title="Listen to position and sounder …", menu="Run", keys=("Ctrl+L",),
       run=sheet("listen"), checked=lambda s: s.live.is_on,
       help="Receivers and sounders over the network, a serial line or gpsd: recorded, the boat on the chart."),
    _C(id="live.edge", title="To the newest ping", menu="Run", keys=("End",),
       run=_to_live_edge, enabled=lambda s: s.live.is_on,
       help="The pass that is being recorded, in Scan, and on with it as it grows."),
    _C(id="live.made_up", title="Join a made-up boat", menu="Run", keys=("Shift+F5",),
       run=lambda s, a: a.tasks.listener.join_made_up(),
       enabled=lambda s: not s.live.is_on or s.live.is_made_up,
       checked=lambda s: s.live.is_on and s.live.is_made_up,
       help="A boat on Veyra Lake over real sockets, to try listening with; again lets go."),
    *(
        _C(id=f"live.made_up_{scene}", title=title, menu="Run", run=_join(scene), help=f"{words}; again lets go.",
           enabled=lambda s: not s.live.is_on or s.live.is_made_up)
        for scene, title, words in (
            ("drift", "Join a made-up drift at sea", "A kayak adrift over a reef of Carrow Sound"),
            ("hole", "Join a made-up hole in the ice", "A hole in Tern Pond: a lure, a fish that comes up to it"),
        )
    ),
    _C(id="run.card", title="Card and float plan …", menu="Run", keys=("Ctrl+K",), stage="run",
       run=sheet("card"), enabled=_has_plan, checked=lambda s: s.sheet == "card",
       help="Two pages to take along, one text to leave ashore."),
)
# fmt: on
