"""Sounds through whatever plays them here: one after the other, so that none hides another."""

from __future__ import annotations

import contextlib
import shutil
import tempfile
import wave
from pathlib import Path

from PySide6.QtCore import QObject, QProcess
from PySide6.QtWidgets import QApplication

from plumbbob.core.live.tones import RATE_HZ, samples_of
from plumbbob.desk.models.session import Session

_PLAYERS = ("pw-play", "paplay", "aplay")  # those of the usual sound servers, the newest first
_MOST_WAITING = 3
_LIGHT = {"tick", "lift"}  # left out where another sound is on its way


class Sounds(QObject):
    """Needs the session, which says whether there are any. Without a player the system's own bell rings."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._session = session
        self._folder: Path | None = None
        self._waiting: list[str] = []
        self._player = next((found for name in _PLAYERS if (found := shutil.which(name))), "")
        self._playing: QProcess | None = None

    def play(self, name: str) -> None:
        """One of the core's tones; nothing while sounds are off."""
        if not self._session.deck.sounds:
            return
        if not self._player:
            if name not in _LIGHT:
                QApplication.beep()
            return
        if (self._waiting or self._playing is not None) and name in _LIGHT:
            return
        self._waiting = [*self._waiting, name][-_MOST_WAITING:]
        self._go_on()

    def _go_on(self) -> None:
        if self._playing is not None or not self._waiting:
            return
        path = self._file(self._waiting.pop(0))
        if path is None:
            return
        self._playing = QProcess(self)
        self._playing.finished.connect(self._over)
        self._playing.errorOccurred.connect(self._over)
        self._playing.start(self._player, [str(path)])

    def _over(self, *_: object) -> None:
        playing, self._playing = self._playing, None
        if playing is not None:
            playing.deleteLater()
            self._go_on()

    def _file(self, name: str) -> Path | None:
        """The tone as a file, written once."""
        with contextlib.suppress(OSError):
            if self._folder is None:
                self._folder = Path(tempfile.mkdtemp(prefix="plumbbob-tones-"))
            path = self._folder / f"{name}.wav"
            if not path.is_file():
                with wave.open(str(path), "wb") as file:
                    file.setnchannels(1)
                    file.setsampwidth(2)
                    file.setframerate(RATE_HZ)
                    file.writeframes(samples_of(name).tobytes())
            return path
        return None

    def shut_down(self) -> None:
        """No more sound; what was written for it goes."""
        self._waiting = []
        if self._playing is not None:
            self._playing.kill()
            self._playing.waitForFinished(200)
        if self._folder is not None:
            shutil.rmtree(self._folder, ignore_errors=True)
