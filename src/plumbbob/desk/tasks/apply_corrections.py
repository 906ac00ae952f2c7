"""Saying what an echo is: every correction is kept beside the recording at once and can be taken back."""

from __future__ import annotations

from collections.abc import Sequence

from plumbbob.core.sonar.corrections import LABELS, Act, Correction, about, middle_of
from plumbbob.core.sonar.reading import Bait, Fish, ForwardTarget, SideFish, SideThing, StandingObject
from plumbbob.core.sonar.view_corrections import AHEAD, AHEAD_LABELS, SIDE_LABELS, about_view, moved_ahead, side_label
from plumbbob.desk.models.history import Change
from plumbbob.desk.models.session import Session
from plumbbob.files.errors import FileError
from plumbbob.files.text import why
from plumbbob.formats.corrections import beside, write_corrections

WORDS = "correction"


def _label_of(echo: Fish | Bait | StandingObject) -> str:
    if isinstance(echo, StandingObject):
        return echo.detail or echo.kind
    return "fish" if isinstance(echo, Fish) else "bait"


def correct(session: Session, said: Correction, words: str) -> bool:
    """Say something of the reading; False if it could not be kept."""
    scan = session.scan
    if scan.recording is None or not scan.document.is_read:
        session.say("The pass is still being read.", wrong=True)
        return False
    before, name = scan.document.corrections, scan.recording.name
    after = (*before, said)
    try:
        _keep(session, after)
    except (FileError, OSError) as exc:
        session.say(f"The correction could not be kept beside the recording: {why(exc)}.", wrong=True)
        return False

    def put(corrections: Sequence[Correction]) -> None:
        if scan.recording is not None and scan.recording.name == name:
            _keep(session, corrections)

    session.history.did(Change(WORDS, lambda: put(before), lambda: put(after)))
    session.say(f"{words}  Z takes it back.")
    return True


def _keep(session: Session, corrections: Sequence[Correction]) -> None:
    if session.scan.path is not None:
        write_corrections(beside(session.scan.path), corrections)
    session.scan.set_corrections(corrections)


def accept(session: Session) -> None:
    """The chosen echo is right."""
    other = session.view.other_fish
    if other is not None:
        correct(session, about_view(other, Act.ACCEPT), "Yes, fish.")
        return
    echo = session.scan.chosen
    if echo is not None and correct(session, about(echo, Act.ACCEPT), f"Yes, {_label_of(echo)}."):
        _choose_again(session, echo)


def reject(session: Session) -> None:
    """The chosen echo is nothing; without a choice, the cold layer if the cursor stands in it."""
    scan = session.scan
    other = session.view.other_fish
    if other is not None:
        session.side.choose(None)
        session.forward.choose(None)
        correct(session, about_view(other, Act.REJECT), "Not a fish: taken out.")
        return
    if not session.view.corrects_echoes:
        session.say("Pick a fish first.")
        return
    echo = scan.chosen
    layer = scan.reading.cold_layer
    if echo is not None:
        scan.choose(None)
        correct(session, about(echo, Act.REJECT), f"Not {_label_of(echo)}: taken out.")
    elif layer is not None and abs(scan.cursor.depth_m - layer.depth_m) <= max(layer.thickness_m, 0.5):
        correct(session, about(layer, Act.REJECT), "No cold layer: taken out.")
    else:
        session.say("Pick an echo first, or put the cursor on the cold layer.")


def relabel(session: Session) -> None:
    """The chosen echo is the next thing on the list."""
    other = session.view.renamed
    if isinstance(other, ForwardTarget):
        _relabel_ahead(session, other)
        return
    if other is not None:
        _relabel_abeam(session, other)
        return
    echo = session.scan.chosen
    if echo is None:
        return
    now = _label_of(echo)
    label = LABELS[(LABELS.index(now) + 1) % len(LABELS)] if now in LABELS else LABELS[0]
    if correct(session, about(echo, Act.RELABEL, label=label), f"Now {label}, not {now}."):
        _choose_again(session, echo)


def _relabel_abeam(session: Session, echo: SideFish | SideThing) -> None:
    now = side_label(echo)
    after = SIDE_LABELS[(SIDE_LABELS.index(now) + 1) % len(SIDE_LABELS)] if now in SIDE_LABELS else SIDE_LABELS[0]
    said = about_view(echo, Act.RELABEL, label=after)
    if correct(session, said, f"Now {_PLAIN.get(after, after)}, not {_PLAIN.get(now, now)}."):
        session.side.choose_at(echo.side, echo.time, echo.slant_m)


_PLAIN = {"unknown": "something else", "brush": "brush or stone", "edge": "the edge of a drop"}


def _relabel_ahead(session: Session, track: ForwardTarget) -> None:
    after = AHEAD_LABELS[1 - AHEAD_LABELS.index(track.kind)]
    if correct(session, about_view(track, Act.RELABEL, label=after), f"Now {after}, not {track.kind}."):
        session.forward.choose_at(float(track.time[track.best]), float(track.depth_m[track.best]))


def draw_ahead(session: Session, distance_m: float, depth_m: float) -> None:
    """A fish ahead, in the frame on screen, that the reading missed."""
    if not (distance_m > 0.0 and depth_m > 0.0):
        session.say("A fish hangs in the water, ahead of the bow.", wrong=True)
        return
    time = session.forward.frame_time
    said = Correction(act=Act.DRAW, what=AHEAD, label="fish", time=time, depth_m=depth_m, distance_m=distance_m)
    if correct(session, said, "Drawn: fish."):
        session.forward.choose_at(time, depth_m)


def move_ahead(session: Session, track: ForwardTarget, distance_m: float, depth_m: float) -> None:
    """A fish ahead belongs elsewhere; all of its track goes along."""
    k = int(abs(track.time - session.forward.frame_time).argmin())
    if correct(session, moved_ahead(track, k, max(distance_m, 0.1), max(depth_m, 0.0)), "Moved the fish."):
        session.forward.choose_at(float(track.time[k]), max(depth_m, 0.0))


def move_abeam(session: Session, echo: SideFish, time: float, slant_m: float) -> None:
    """A fish to one side belongs elsewhere on that side."""
    if correct(session, about_view(echo, Act.MOVE, to=(time, slant_m)), "Moved the fish."):
        session.side.choose_at(echo.side, time, slant_m)


def draw_abeam(session: Session, side: str, time: float, slant_m: float) -> None:
    """A fish to one side that the reading missed."""
    if correct(
        session, Correction(act=Act.DRAW, what=side, label="fish", time=time, depth_m=slant_m), "Drawn: fish."
    ):
        session.side.choose_at(side, time, slant_m)


def move(session: Session, echo: Fish | Bait | StandingObject, time: float, depth_m: float) -> None:
    """The echo belongs elsewhere."""
    if isinstance(echo, StandingObject):
        depth_m = middle_of(echo)[2]  # what stands on the bottom moves along it
    said = about(echo, Act.MOVE, to=(time, max(depth_m, 0.0)))
    if correct(session, said, f"Moved the {_label_of(echo)}."):
        _choose_at(session, time, depth_m)


def draw(session: Session, label: str, time: float, depth_m: float, half_s: float, half_m: float) -> None:
    """Something that the reading missed."""
    what = "fish" if label == "fish" else "bait" if label == "bait" else "standing"
    said = Correction(act=Act.DRAW, what=what, label=label, time=time, depth_m=depth_m, span_s=half_s, span_m=half_m)
    if correct(session, said, f"Drawn: {label}."):
        _choose_at(session, time, depth_m)


def draw_bottom(session: Session, points: Sequence[tuple[float, float]]) -> None:
    """The bottom runs here."""
    correct(session, Correction(act=Act.BOTTOM, what="bottom", points=tuple(points)), "The bottom runs there now.")


def forget_all(session: Session) -> None:
    """Back to what was read; one step takes all of it back again."""
    scan = session.scan
    before = scan.document.corrections
    if not before:
        return
    _keep(session, ())
    session.history.did(Change(WORDS, lambda: _keep(session, before), lambda: _keep(session, ())))
    session.say(f"{len(before)} corrections taken out.  Z brings them back.")


def _choose_again(session: Session, echo: Fish | Bait | StandingObject) -> None:
    _, time, depth, _, _ = middle_of(echo)
    _choose_at(session, time, depth)


def _choose_at(session: Session, time: float, depth_m: float) -> None:
    reading = session.scan.reading
    near: list[tuple[float, int, Fish | Bait | StandingObject]] = []
    echoes: list[Fish | Bait | StandingObject] = [*reading.fish, *reading.bait, *reading.standing]
    for echo in echoes:
        _, t, d, half_s, half_m = middle_of(echo)
        if abs(t - time) <= half_s + 0.6 and abs(d - depth_m) <= half_m + 0.4:
            near.append((abs(t - time) + abs(d - depth_m), id(echo), echo))
    session.scan.choose(min(near)[2] if near else None)
