"""Work of the Rig stage: lines followed in the background, notes kept, the tackle box and tables as files."""

from __future__ import annotations

import csv
import io
import time
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np
from PySide6.QtCore import QObject, QTimer

from plumbbob.core.rig.calibrate import RigNote
from plumbbob.core.rig.chains import HANGING
from plumbbob.core.rig.motion import Run, run_along
from plumbbob.core.rig.rod import CannotReach, Method, RigAnswer, RigSettings
from plumbbob.core.rig.table import CardTable, card_table, speeds_about
from plumbbob.core.rig.tackle import Box, Item, box_of
from plumbbob.core.rig.track import Track, change_track, turn_track
from plumbbob.core.types import Progress
from plumbbob.core.units import Kind, round_shown
from plumbbob.desk.jobs import Job
from plumbbob.desk.models.history import Change
from plumbbob.desk.models.kept_rods import RodSetup
from plumbbob.desk.models.lines_model import Manoeuvre
from plumbbob.desk.models.notes import saved_note
from plumbbob.desk.models.rods_model import is_towed
from plumbbob.desk.models.session import Session
from plumbbob.files.atomic import private_folder, write_text
from plumbbob.files.errors import FileError
from plumbbob.files.text import why
from plumbbob.formats.tackle_csv import read_tackle, write_tackle
from plumbbob.store.errors import StoreError
from plumbbob.wording.rig import rig_words

if TYPE_CHECKING:
    from plumbbob.desk.models.lines_model import Ground

BOX_NAME = "tackle.csv"
_PLAY_MS = 60
_LONGEST_S = 900.0  # of the way ahead that lines are followed over


class LineFollower(QObject):
    """Needs the session, and the folder in which the tackle box lies."""

    def __init__(self, session: Session, folder: Path) -> None:
        super().__init__()
        self._session, self._folder = session, folder
        self._job: Job[Any] | None = None
        self._playing = QTimer(self)
        self._playing.setInterval(_PLAY_MS)
        self._playing.timeout.connect(self._play_on)
        self._followed: tuple[tuple[RodSetup, ...], object] = ((), None)  # the rods, and what was known of them
        self._noted: int | None = None  # contradictions before the note that is being worked out
        session.rig.changed.connect(self._let_go)
        session.rig.tuned.connect(self._tuned)
        session.lines.held.connect(self._playing.stop)
        self._open_box()

    # -- the spread ---------------------------------------------------------------------------------------------

    def add_rod(self) -> None:
        """One rod more, rigged as the one in hand; undone with Z."""
        rig = self._session.rig
        sets = rig.added()
        self._change("rod", sets, len(sets) - 1)

    def remove_rod(self) -> None:
        """Take the rod in hand out of the spread."""
        rig = self._session.rig
        sets = tuple(s for i, s in enumerate(rig.sets) if i != rig.chosen)
        if sets:
            self._change("removal of the rod", sets, rig.chosen)

    def _change(self, words: str, sets: tuple[RodSetup, ...], chosen: int) -> None:
        rig = self._session.rig
        before, held = rig.sets, rig.chosen
        rig.set_all(sets, chosen)
        self._session.history.did(Change(words, lambda: rig.set_all(before, held), lambda: rig.set_all(sets, chosen)))

    # -- notes --------------------------------------------------------------------------------------------------

    def save_note(self, note: RigNote) -> bool:
        """Keep a note in the log; it tunes the tackle at once."""
        session = self._session
        when = session.scan.time if session.scan.lead is not None else time.time()
        try:
            session.logbook.add_note(saved_note(replace(note, time=when)))
        except StoreError as exc:
            session.say(str(exc), wrong=True)
            return False
        self._noted = len(session.rig.calibration.contradictions)
        session.say("Noted; the lines are solved with it.  Z takes it back.")
        return True

    def _tuned(self) -> None:
        """What a note has done is told once it is worked out."""
        before, self._noted = self._noted, None
        if before is not None and len(self._session.rig.calibration.contradictions) > before:
            self._session.say(
                "Noted. It contradicts another note: both are kept and shown, the spread is wider.", wrong=True
            )

    def remove_note(self, note_id: int) -> None:
        """Take a note out of the log."""
        try:
            self._session.logbook.remove_note(note_id)
        except StoreError as exc:
            self._session.say(str(exc), wrong=True)

    # -- lines in motion ----------------------------------------------------------------------------------------

    def follow(self, manoeuvre: Manoeuvre) -> None:
        """Follow the lines of all rods that are in the water through a manoeuvre, then show it."""
        session = self._session
        boat, rig = session.lines, session.rig
        boat.choose_manoeuvre(manoeuvre)
        if self._job is not None:
            self._job.cancel()
        try:
            track = _track(manoeuvre, rig.settings.speed_mps, boat.turn_radius_m, boat.ground, boat.boat_m)
        except ValueError as exc:
            session.say(f"{exc}.", wrong=True)
            return
        towed = is_towed(rig.settings)
        rods: list[tuple[int, RigSettings, RigAnswer]] = []
        for i, (one, answer) in enumerate(zip(rig.sets, rig.answers, strict=True)):
            if one.rod.method in HANGING and is_towed(one.rod) == towed and one.rod.method is not Method.ICE:
                if isinstance(answer, CannotReach):
                    session.say(f"Rod {i + 1} is left out: {rig_words(answer.reason, session.display.words)}.")
                else:
                    rods.append((i, rig.knowledge.tuned(one.rod), answer))
        if not rods:
            session.say("No line of these rods is towed: there is nothing to follow.", wrong=True)
            return
        bottom = _bottom(boat.ground, boat.boat_m, boat.bottom_m, manoeuvre)
        self._followed = followed = (rig.sets, rig.calibration)
        indices = tuple(i for i, _, _ in rods)

        def work(progress: Progress) -> Run:
            return run_along(
                [r for _, r, _ in rods], [a for _, _, a in rods], track, bottom=bottom, progress=progress
            )

        def done(run: Run) -> None:
            if followed != (rig.sets, rig.calibration):
                return  # the rods have changed meanwhile
            boat.set_run(run, indices)
            if session.display.motion:
                self._playing.start()
            else:
                boat.set_frame(None)

        self._job = session.jobs.start("Following the lines", work, done)

    @property
    def is_playing(self) -> bool:
        """A followed run is being played."""
        return self._playing.isActive()

    def play(self) -> None:
        """Play the run again, or stop it."""
        boat = self._session.lines
        if self._playing.isActive() and boat.frame is not None:
            self._playing.stop()
            boat.set_frame(None)
        elif boat.run is not None:
            boat.set_frame(0)
            self._playing.start()

    def _play_on(self) -> None:
        boat = self._session.lines
        if boat.run is None or boat.frame is None:
            self._playing.stop()
            return
        last = len(boat.run.time) - 1
        if boat.frame >= last:
            self._playing.stop()
            boat.set_frame(None)
        else:
            boat.set_frame(boat.frame + 2)

    def _let_go(self) -> None:
        """A run is of the rods as they were."""
        rig, boat = self._session.rig, self._session.lines
        if boat.run is not None and self._followed != (rig.sets, rig.calibration):
            self._playing.stop()
            boat.set_run(None)

    # -- files --------------------------------------------------------------------------------------------------

    def _open_box(self) -> None:
        path = self._folder / BOX_NAME
        if not path.is_file():
            return
        try:
            box, problems = read_tackle(path)
        except FileError as exc:
            self._session.say(
                f"The tackle box can't be read: {exc}. The usual one is used; the file is left.", wrong=True
            )
            return
        self._session.rig.set_box(box)
        if problems:
            self._session.say(f"Tackle left out, {problems[0]}.", wrong=True)

    def read_box(self, path: Path) -> None:
        """Take a CSV as the tackle box; what is there stays if it can't be used. Undone with Z."""
        session = self._session
        try:
            box, problems = read_tackle(path)
            self._keep_box(box)
        except (FileError, OSError) as exc:
            session.say(f"Not taken: {why(exc)}.", wrong=True)
            return
        before = session.rig.box
        session.rig.set_box(box)
        session.history.did(Change("tackle box", lambda: self._use_box(before), lambda: self._use_box(box)))
        left = f" {len(problems)} rows were left out, {problems[0]}." if problems else ""
        session.say(f"{len(box.all())} pieces of tackle from {path.name}.{left}", wrong=bool(problems))

    def add_to_box(self, item: Item) -> bool:
        """Put a piece into the tackle box; one of the same kind and name gives way. Undone with Z."""
        session, before = self._session, self._session.rig.box
        kept = {(i.kind, i.name): i for i in before.all()}
        if kept.get((item.kind, item.name)) == item:
            return True
        box = box_of({**kept, (item.kind, item.name): item})
        try:
            self._use_box(box)
        except StoreError as exc:
            session.say(str(exc), wrong=True)
            return False
        session.history.did(Change("tackle box", lambda: self._use_box(before), lambda: self._use_box(box)))
        return True

    def _use_box(self, box: Box) -> None:
        try:
            self._keep_box(box)
        except (FileError, OSError) as exc:
            raise StoreError(f"The tackle box can't be written: {why(exc)}.") from exc
        self._session.rig.set_box(box)

    def _keep_box(self, box: Box) -> None:
        private_folder(self._folder)
        write_tackle(self._folder / BOX_NAME, box)

    def write_box(self, path: Path) -> None:
        """Write the tackle box as CSV."""
        try:
            count = write_tackle(path, self._session.rig.box)
        except FileError as exc:
            self._session.say(f"{exc}.", wrong=True)
            return
        self._session.say(f"{count} pieces of tackle written to {path.name}.")

    def write_tables(self, path: Path) -> None:
        """Write the card's tables as CSV, in SI."""
        out = io.StringIO()
        writer = csv.writer(out, lineterminator="\n")
        writer.writerow(["rod", "method", "lure", "amount", "speed_mps", "depth_m", "value"])
        for i, table in enumerate(tables(self._session), 1):
            rod = table.rod
            for depth, row in zip(table.depths_m, table.values, strict=True):
                for speed, value in zip(table.speeds_mps, row, strict=True):
                    shown = "" if value is None else f"{value:.2f}"
                    writer.writerow(
                        [
                            i,
                            rod.method.value,
                            rod.lure.name,
                            table.amount.value,
                            f"{speed:.3f}",
                            f"{depth:.3f}",
                            shown,
                        ]
                    )
        try:
            write_text(path, out.getvalue())
        except FileError as exc:
            self._session.say(f"{exc}.", wrong=True)
            return
        self._session.say(f"Tables written to {path.name}.")


def tables(session: Session) -> list[CardTable]:
    """A table for each rod, about its bob's depth, in steps that are round on screen."""
    rig, system = session.rig, session.display.system
    out = []
    for one in rig.sets:
        step = round_shown(max(one.bob_m / 6, 0.5), Kind.DEPTH, system)
        low = max(round(one.bob_m / step) - 3, 1)
        depths = [step * k for k in range(low, low + 7)]
        out.append(card_table(one.rod, depths, speeds_about(one.rod.speed_mps), rig.knowledge))
    return out


def _track(manoeuvre: Manoeuvre, speed: float, radius: float, ground: Ground, boat_m: float) -> Track:
    """
    The boat's way for a manoeuvre.

    Raises
    ------
    ValueError
        If it does not move, or no way lies ahead.
    """
    if speed < 0.05:
        raise ValueError("The boat does not move: set a speed first")
    if manoeuvre in (Manoeuvre.STARBOARD, Manoeuvre.PORT):
        turn = 180.0 if manoeuvre is Manoeuvre.STARBOARD else -180.0
        return turn_track(speed, radius_m=radius, turn_deg=turn)
    if manoeuvre is Manoeuvre.STOP:
        return change_track(speed, 0.0, for_s=20.0)
    if manoeuvre is Manoeuvre.BURST:
        return change_track(speed, 1.8 * speed, for_s=15.0)
    ahead = ground.along_m >= boat_m
    if ground.known and ahead.sum() > 2:
        along = ground.along_m[ahead]
        end = min(float(along[-1]), float(along[0]) + speed * _LONGEST_S)
        way = np.arange(float(along[0]), end, speed)
        if len(way) > 2:
            x, y = (np.interp(way, ground.along_m, v) for v in (ground.x, ground.y))
            return Track(time=np.arange(len(way), dtype=float), x=x, y=y)
    raise ValueError("No way lies ahead of the boat: lay a lane in Water, or move the boat back")


def _bottom(
    ground: Ground, boat_m: float, here_m: float, manoeuvre: Manoeuvre
) -> Callable[[np.ndarray, np.ndarray], np.ndarray] | None:
    """Depth of the bottom at places: along the way where the boat keeps to it, else level as under the boat."""
    if manoeuvre is Manoeuvre.LANE and ground.known:
        keep = slice(None, None, max(len(ground.x) // 400, 1))
        gx, gy, depth = ground.x[keep], ground.y[keep], ground.bottom_m[keep]

        def below(x: np.ndarray, y: np.ndarray) -> np.ndarray:
            near = ((x[:, None] - gx) ** 2 + (y[:, None] - gy) ** 2).argmin(axis=1)
            return depth[near]

        return below
    if np.isfinite(here_m):
        return lambda x, y: np.full(np.shape(x), here_m)
    return None
