"""What can be done with a review."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from plumbbob.core.units import Kind
from plumbbob.desk.commands.registry import Command, CommandHost
from plumbbob.desk.models.session import Session
from plumbbob.desk.views.review.rate_picture import open_trip


def _has(session: Session) -> bool:
    return bool(session.review.dimensions)


def _by(step: int) -> Callable[[Session, CommandHost], None]:
    return lambda session, host: session.review.step_dimension(step)


def best_depth_m(session: Session) -> float | None:
    """The middle of the depth that gave most and can be told."""
    review = session.review.review
    dimension = None if review is None else review.dimension("lure_depth")
    if review is None or dimension is None or dimension.edges is None:
        return None
    told = [r for r in review.rates["lure_depth"] if r.enough]
    if not told:
        return None
    # by the lower end: what is likely at least
    best = max(told, key=lambda r: r.low)
    return float(dimension.edges[best.bin] + dimension.edges[best.bin + 1]) / 2


def _hang(session: Session, host: CommandHost) -> None:
    depth = best_depth_m(session)
    assert depth is not None
    session.rig.drag_to(depth)
    session.say(f"The bob hangs at {session.display.words(depth, Kind.DEPTH)}, where you caught most for your hours.")


def _report(places: bool) -> Callable[[Session, CommandHost], None]:
    def run(session: Session, host: CommandHost) -> None:
        out = host.save_path("Review as pages", "review.pdf", "Pages (*.pdf)")
        if out is not None:
            host.tasks.reviewer.report(out, places=places)

    return run


def _to_run(session: Session, host: CommandHost) -> None:
    review = session.review.review
    assert review is not None
    session.settings.setValue("run/per_h", round(review.rate, 3))
    session.say(f"The day in Run reckons with your own {review.rate:.2f} fish a rod hour from its next plan on.")


def _best_trip(session: Session, host: CommandHost) -> None:
    made = session.review.made
    assert made is not None
    fish = np.bincount(made.record.trip[made.record.catch_effort], minlength=made.record.trips)
    open_trip(session, made.read.trip_names[int(np.argmax(fish))])


# fmt: off
COMMANDS: tuple[Command, ...] = (
    Command(id="review.condition_after", title="Next condition", menu="Go", keys=("Shift+Right",), stage="review",
            group="Review", run=_by(1), enabled=_has, help="Rates by the next condition."),
    Command(id="review.condition_before", title="Condition before", menu="Go", keys=("Shift+Left",), stage="review",
            group="Review", run=_by(-1), enabled=_has, help="Rates by the condition before."),
    Command(id="review.hang", title="Hang the bob at the best depth", menu="Go", keys=("H",), stage="review",
            group="Review", run=_hang, enabled=lambda s: best_depth_m(s) is not None,
            help="Where the rate is surely high, by your own log."),
    Command(id="review.to_run", title="Let Run reckon with this rate", menu="Go", keys=("E",), stage="review",
            group="Review", run=_to_run, enabled=lambda s: s.review.review is not None and s.review.review.fish >= 5,
            help="Fish a rod hour of what is looked at, in place of the usual guess."),
    Command(id="review.report", title="Review as pages …", menu="Go", keys=("J",), stage="review", group="Review",
            run=_report(False), enabled=_has, help="A PDF for others: without any place."),
    Command(id="review.report_places", title="Review as pages, with places …", menu="Go", keys=("Shift+J",),
            stage="review", group="Review", run=_report(True), enabled=_has, help="A PDF with the names of places."),
    Command(id="review.best_trip", title="The best trip", menu="Go", keys=("T",), stage="review", group="Review",
            run=_best_trip, enabled=lambda s: s.review.review is not None and s.review.review.fish > 0,
            help="Opens it in the log."),
)
