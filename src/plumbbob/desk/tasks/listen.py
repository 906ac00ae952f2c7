"""Listens in the background: positions and pings into a recording, the boat onto the chart; and the stand-in."""

from __future__ import annotations

import socket
import threading
import time
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QPixmap

from plumbbob.core.live.fixes import Fix
from plumbbob.core.live.growing import since
from plumbbob.core.types import Progress
from plumbbob.desk.kit.images import save_image
from plumbbob.desk.models.session import Session
from plumbbob.desk.models.settings import json_of, keep_json
from plumbbob.desk.tasks.follow_live import LiveFollower
from plumbbob.files.atomic import private_folder
from plumbbob.files.errors import FileError
from plumbbob.formats.waters import data_path
from plumbbob.services.demo import AHEAD, FIRST, SIDES
from plumbbob.services.live import LiveSession, Tape, Wire, wire_of
from plumbbob.services.live_echoes import LiveEchoes

if TYPE_CHECKING:
    from plumbbob.core.sonar.recording import Recording
    from plumbbob.sim.serve import StandIn

_JOIN_S = 4.0
_USUAL_HERE = (("gpsd", "localhost:2947", 2947), ("nmea", "tcp://localhost:10110", 10110))
_ASKED_S = 0.05
_SNAPSHOT_S = 60.0
KINDS = ("nmea", "gpsd", "pings")


class LiveListener(QObject):
    """Needs the session, and the folder where passes are kept."""

    _told = Signal(object)
    _fixed = Signal(object)
    _ended = Signal(int)

    def __init__(self, session: Session, passes: Path, follower: LiveFollower) -> None:
        super().__init__(session)
        self._session, self._passes, self._follower = session, passes, follower
        self._live: LiveSession | None = None
        self._thread: threading.Thread | None = None
        self._stand_in: StandIn | None = None
        # sent from the listening thread, so they wait for this one
        self._told.connect(lambda told: session.live.take_told(*told))
        self._fixed.connect(session.live.take_fix)
        self._ended.connect(self._over)

    # -- wires --------------------------------------------------------------------------------------------------

    @property
    def addresses(self) -> list[tuple[str, str]]:
        """As they were given last: kind and address."""
        kept = json_of(self._session.settings, "live/wires")
        if not isinstance(kept, list):
            return []
        return [(str(a), str(b)) for row in kept if isinstance(row, list) and len(row) == 2 for a, b in [row]]

    def keep(self, addresses: Sequence[tuple[str, str]]) -> None:
        """Remember them."""
        keep_json(self._session.settings, "live/wires", [list(row) for row in addresses])

    @staticmethod
    def serial_ports() -> list[str]:
        """Devices that this computer has."""
        from serial.tools import list_ports

        return sorted(port.device for port in list_ports.comports())

    @staticmethod
    def heard_here() -> list[tuple[str, str]]:
        """What answers on this computer at the usual ports; the network around is not asked."""
        return [(kind, address) for kind, address, port in _USUAL_HERE if _answers(port)]

    # -- on and off ---------------------------------------------------------------------------------------------

    def begin(self, addresses: Sequence[tuple[str, str]]) -> None:
        """Listen to these. Raises ValueError in one line for an address that is none."""
        wires = [wire_of(kind, text) for kind, text in addresses]
        if not wires:
            raise ValueError("there is nothing to listen to yet: type an address")
        self._begin(wires)

    def _begin(self, wires: list[Wire], made_up: str = "") -> None:
        if self._live is not None:
            return
        out = self._name(bool(made_up))
        try:
            private_folder(self._passes)
            echoes = LiveEchoes(out.name)

            def take_fix(fix: Fix) -> None:
                echoes.take_fix(fix)
                self._fixed.emit(fix)

            tape = Tape(out, following=lambda: self._name(bool(made_up)))  # a file a day, and none too large

            def tell(told: dict[str, Any]) -> None:
                self._told.emit((told, tape.paths[-1]))

            live = LiveSession(out, wires, tell, on_fix=take_fix, on_pings=echoes.take_pings, tape=tape)
        except FileError as exc:
            self._session.say(f"{exc}.", wrong=True)
            return
        self._live = live
        self._thread = threading.Thread(target=lambda: self._ended.emit(live.run()), daemon=True, name="live")
        self._session.live.begin(out, made_up=made_up)
        self._follower.begin(echoes)
        self._thread.start()

    def _name(self, made_up: bool) -> Path:
        """A name that nothing has yet: the day and the hour."""
        stem = f"{'made-up ' if made_up else ''}{time.strftime('%Y-%m-%d %H%M%S')}"
        names = (f"{stem}.nc", *(f"{stem} {k}.nc" for k in range(2, 100)))
        return next(self._passes / n for n in names if not (self._passes / n).exists())

    def end(self) -> None:
        """Stop; the recording is closed and may be opened."""
        if self._live is not None:
            self._live.stop()
        if self._stand_in is not None:
            self._stand_in.stop()
            self._stand_in = None

    def shut_down(self) -> None:
        """The window goes: nothing of the recording is lost."""
        self.end()
        if self._thread is not None:
            self._thread.join(_JOIN_S)

    def _over(self, status: int) -> None:
        session = self._session
        self._live, self._thread = None, None
        path = session.live.recording
        session.live.end()
        self._follower.end()
        if status:
            session.say("The disk is full: recording has stopped; what was recorded is whole.", wrong=True)
        elif path is not None:
            session.say(f"Recorded to {path.name}. O opens it.")

    def snapshot(self, picture: QPixmap) -> str:
        """A picture and the last minute of pings beside the recordings; the name, empty where it failed."""
        scan = self._session.scan
        stem = f"snapshot {time.strftime('%Y-%m-%d %H%M%S')}"
        try:
            private_folder(self._passes)
            save_image(picture, self._passes / f"{stem}.png")
        except FileError as exc:
            self._session.say(f"{exc}.", wrong=True)
            return ""
        recording, lead = scan.recording, scan.lead
        if scan.is_live and recording is not None and lead is not None:
            last = since(recording, float(lead.time[-1]) - _SNAPSHOT_S)

            def work(progress: Progress) -> None:
                from plumbbob.formats.recording import write_recording

                write_recording(self._passes / f"{stem}.nc", last, source="recorded live")

            self._session.jobs.start("Keeping the snapshot", work, lambda _: None, brief=True)
        return stem

    # -- the stand-in -------------------------------------------------------------------------------------------

    def join_made_up(self, scene: str = "lake") -> None:
        """A made-up boat on Veyra Lake or elsewhere, listened to over real sockets; again lets go of it."""
        session = self._session
        if session.live.is_on:
            self.end()
            return

        def work(progress: Progress) -> list[Recording]:
            from plumbbob.formats.recording import read_recording
            from plumbbob.sim.outings import outing

            if scene != "lake":
                return outing(scene, progress)
            # the pass that ships; to the sides and ahead where they have been made
            made = [path for name in (SIDES, AHEAD) if (path := self._passes / name).is_file()]
            return [read_recording(path) for path in (data_path(FIRST), *made)]

        session.jobs.start("Making a boat up", work, lambda made: self._serve(made, scene))

    def _serve(self, recordings: list[Recording], scene: str) -> None:
        from plumbbob.sim.serve import StandIn

        run = self._session.run
        clock = run.now if run.now is not None else run.ask.start if run.ask is not None else None
        stand_in = self._stand_in = StandIn(recordings, clock=clock)
        stand_in.start()
        wires = [
            Wire(what if what in KINDS else "pings", "tcp", "127.0.0.1", port.number)
            for what, port in stand_in.ports.items()
        ]
        self._begin(wires, scene)
        self._session.say("Listening to a made-up boat. Shift+F5 lets go of it.")


def _answers(port: int) -> bool:
    """Something on this computer takes connections there."""
    try:
        with socket.create_connection(("127.0.0.1", port), _ASKED_S):
            return True
    except OSError:
        return False
