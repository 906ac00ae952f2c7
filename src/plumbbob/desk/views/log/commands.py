"""What can be done with trips and with the log as a whole."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from plumbbob.desk.commands.registry import Command, CommandHost, sheet
from plumbbob.desk.models import trip_edit
from plumbbob.desk.models.session import Session
from plumbbob.store.errors import StoreError
from plumbbob.store.refs import new_ref
from plumbbob.store.values import Catch, Effort, Moment, MomentKind

_USUAL_S = 1800.0


def _picked(*kinds: type[Any]) -> Callable[[Session], bool]:
    return lambda session: isinstance(session.trips.picked, kinds)


def _has_trip(session: Session) -> bool:
    return session.trips.chosen is not None


def _step(by: int) -> Callable[[Session, CommandHost], None]:
    return lambda session, host: session.trips.step(by)


def _guarded(act: Callable[[Session], str]) -> Callable[[Session, CommandHost], None]:
    def run(session: Session, host: CommandHost) -> None:
        try:
            said = act(session)
        except StoreError as exc:
            session.say(str(exc), wrong=True)
            return
        session.say(f"{said}  Z takes it back.")

    return run


def _cut(session: Session) -> str:
    picked = session.trips.picked
    assert isinstance(picked, Effort)
    trip_edit.cut(session.logbook, picked, session.trips.cut_at)
    return "Cut in two; each has its own depth and times now."


def _again(session: Session) -> str:
    picked = session.trips.picked
    if isinstance(picked, Effort):
        session.trips.pick(trip_edit.again(session.logbook, picked))
        return "The same again, right behind it."
    assert isinstance(picked, Catch)
    session.trips.pick(trip_edit.catch_again(session.logbook, picked, picked.time + 60.0))
    return "Another one like it: its length is open, V fills it in."


def _may_again(session: Session) -> bool:
    picked = session.trips.picked
    if isinstance(picked, Effort):
        return picked.start is not None and picked.end is not None and picked.end > picked.start
    return isinstance(picked, Catch)


def _stretch(session: Session) -> str:
    """A stretch on the trip: as the rod is rigged, where the hand was last, or at the trip's begin."""
    trips = session.trips
    outing = trips.outing
    assert outing is not None
    start, end = outing.span
    at = trips.cut_at if start <= trips.cut_at <= end else start
    last = outing.efforts[-1] if outing.efforts else None
    made = Effort(
        ref=new_ref(), trip=outing.trip.ref, start=at, end=min(at + _USUAL_S, max(end, at + 600.0)), rods=1.0,
        method=session.rig.settings.method.value, lure=session.rig.settings.lure.name,
        lure_depth_m=round(session.rig.bob_m, 2), speed_mps=session.rig.settings.speed_mps,
        spot=last.spot if last is not None else "",
        bottom_depth_m=last.bottom_depth_m if last is not None else None,
        latitude=last.latitude if last is not None else None,
        longitude=last.longitude if last is not None else None,
    )  # fmt: skip
    trips.pick(session.logbook.edit("stretch", [made])[0])
    return "A stretch as the rod is rigged: drag its ends and its depth."


def _contact(session: Session) -> str:
    """Something of a fish on the picked stretch: what it was is said on the sheet that opens."""
    picked, view = session.trips.picked, session.view
    trip = session.trips.chosen
    assert trip is not None
    effort = picked if isinstance(picked, Effort) else None
    place = view.place if effort is not None else None
    made = Moment(
        water=trip.water, trip=trip.ref, kind=MomentKind.SEEN, time=view.moment if effort is not None else trip.start
        or 0.0, latitude=place.latitude if place is not None else None,
        longitude=place.longitude if place is not None else None,
        lure_depth_m=effort.lure_depth_m if effort is not None else None,
        fish_depth_m=effort.lure_depth_m if effort is not None else None,
        bottom_depth_m=effort.bottom_depth_m if effort is not None else None,
        count=1.0, rig=effort.lure if effort is not None else "",
    )  # fmt: skip
    session.trips.pick(session.logbook.edit("contact", [made])[0])
    session.ask_sheet("record")
    return "A contact: say what it was."


def _remove(session: Session) -> str:
    picked = session.trips.picked
    if picked is None:
        trip = session.trips.chosen
        assert trip is not None
        trip_edit.remove(session.logbook, trip)
        return "The trip is out, with all that belongs to it."
    trip_edit.remove(session.logbook, picked)
    session.trips.pick(None)
    return "Taken out; it lies among what was taken out (Y)."


def _bring(session: Session, host: CommandHost) -> None:
    paths = host.open_paths("A log, or a table of catches", "Logs (*.zip *.db *.csv *.txt *.json)")
    if paths:
        for path in paths:
            host.tasks.log_files.open(path)


def _export(session: Session, host: CommandHost) -> None:
    path = host.save_path("The whole log as open files", "plumbbob.log.zip", "Log (*.log.zip)")
    if path is not None:
        host.tasks.log_files.export(path)


def _report(session: Session, host: CommandHost) -> None:
    path = host.save_path("The trip as a page, with its places", "trip.pdf", "PDF (*.pdf)")
    if path is not None:
        host.tasks.log_files.report(path)


def _has_log(session: Session) -> bool:
    return session.logbook.is_open


COMMANDS: tuple[Command, ...] = (
    Command(id="log.find", title="Find in the log", menu="Mark", keys=("Q", "Ctrl+F"), stage="log", group="Log",
            run=lambda s, h: s.listed.asked.emit(),
            help="Species, place, lure, month, words, sizes such as > 14 in."),
    Command(id="log.past_trip", title="A past trip …", menu="Mark", keys=("T",), stage="log", group="Log",
            run=sheet("past_trip"), enabled=_has_log, checked=lambda s: s.sheet == "past_trip",
            help="From, to, rods and fish of a trip that is over, with or without a fish."),
    Command(id="log.stretch", title="One more stretch", menu="Mark", keys=("E",), stage="log", group="Log",
            run=_guarded(_stretch), enabled=_has_trip, help="A stretch of fishing on this trip, to be dragged."),
    Command(id="log.contact", title="One more contact …", menu="Mark", keys=("Shift+N",), stage="log", group="Log",
            run=_guarded(_contact), enabled=_has_trip,
            help="A fish seen, turned, struck or lost on the picked stretch, where it was clicked."),
    Command(id="log.again", title="The same again", menu="Mark", keys=("G",), stage="log", group="Log",
            run=_guarded(_again), enabled=_may_again, help="The picked stretch or fish once more."),
    Command(id="log.cut", title="Cut the stretch", menu="Mark", keys=("X",), stage="log", group="Log",
            run=_guarded(_cut), enabled=_picked(Effort), help="In two, where it was clicked."),
    Command(id="log.right", title="Put it right …", menu="Mark", keys=("V",), stage="log", group="Log",
            run=sheet("record"), checked=lambda s: s.sheet == "record",
            enabled=lambda s: s.trips.chosen is not None or s.logbook.chosen is not None,
            help="What is picked, field by field, and what became of it before."),
    Command(id="log.remove", title="Take out what is picked", menu="Mark", keys=("Shift+Del",), stage="log",
            group="Log", run=_guarded(_remove), enabled=lambda s: _has_trip(s) or _picked(Effort, Catch, Moment)(s),
            help="The picked stretch or fish, else the whole trip."),
    Command(id="log.trip_before", title="The trip before", menu="Mark", keys=("Shift+Left",), stage="log",
    group="Log",
            run=_step(-1), enabled=_has_trip, help="An earlier trip."),
    Command(id="log.trip_after", title="The trip after", menu="Mark", keys=("Shift+Right",), stage="log", group="Log",
            run=_step(1), enabled=_has_trip, help="A later trip."),
    Command(id="log.limits", title="Table of limits …", menu="Mark", keys=("K",), stage="log", group="Log",
            run=sheet("limits"), enabled=_has_log, checked=lambda s: s.sheet == "limits",
            help="Seasons, sizes and bags as you have read them, and your own."),
    Command(id="log.twice", title="Marked twice …", menu="Mark", keys=("D",), stage="log", group="Log",
            run=sheet("twice"), enabled=lambda s: len(s.logbook.marks) > 1, checked=lambda s: s.sheet == "twice",
            help="Marks that may be one thing, to be made one."),
    Command(id="log.trash", title="What was taken out …", menu="Mark", keys=("Y",), stage="log", group="Log",
            run=sheet("trash"), enabled=_has_log, checked=lambda s: s.sheet == "trash",
            help="Everything that was taken out, to be put back."),
    Command(id="log.copies", title="Put a good copy back …", menu="Mark", keys=("Shift+Y",), stage="log", group="Log",
            run=sheet("copies"), enabled=_has_log, checked=lambda s: s.sheet == "copies",
            help="The log as it was on one of the last days."),
    Command(id="log.share", title="Share …", menu="Mark", keys=("J",), stage="log", group="Log", run=sheet("share"),
            enabled=_has_log, checked=lambda s: s.sheet == "share",
            help="For others, without the places unless you say so."),
    Command(id="log.report", title="Trip as a page …", menu="Mark", keys=("H",), stage="log", group="Log",
            run=_report, enabled=_has_trip, help="This trip on one page, with its places, as PDF."),
    Command(id="log.bring", title="Bring a log in …", menu="Mark", keys=("Shift+O",), stage="log", group="Log",
            run=_bring, enabled=_has_log,
            help="A log as open files, another machine's log, or any table of catches."),
    Command(id="log.export", title="Whole log as open files …", menu="Mark", keys=("Shift+E",), stage="log",
            group="Log", run=_export, enabled=_has_log, help="Everything in it, to be kept or to go elsewhere."),
)  # fmt: skip
