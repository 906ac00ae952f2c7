"""Opens pictures in the background, keeps their scales beside them, and makes recordings of them."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import numpy as np
from PySide6.QtCore import QObject
from PySide6.QtGui import QImage, QImageReader

from plumbbob.core.geodesy import Position
from plumbbob.core.sonar.picture import PictureScale, Pixels, as_recording, fitted, speed_of
from plumbbob.core.sonar.recording import Recording, Track
from plumbbob.core.types import Progress
from plumbbob.desk.kit.images import save_image
from plumbbob.desk.models.session import Session
from plumbbob.desk.models.settings import text_of
from plumbbob.files.atomic import private_folder
from plumbbob.files.errors import FileError
from plumbbob.files.kinds import plain_file
from plumbbob.files.text import why
from plumbbob.formats.picture_scale import beside, read_scale, scale_of, scale_text, write_scale
from plumbbob.wording.sonar import assumed_words, missing_words

_MOST_PIXELS = 100_000_000
_KEPT_PIXELS = 24_000_000  # larger ones are shrunk as they are read: still finer than any screen
_MOST_BYTES = 400_000_000
_HEADS = (b"\x89PNG\r\n\x1a\n", b"\xff\xd8\xff")  # other kinds may name other files, as drawings do
_HALF_DAY_S = 43200.0


def read_pixels(path: Path) -> Pixels:
    """
    A picture as an array of shape (height, width, 3), the way its camera held it.

    Raises
    ------
    FileError
        In one line.
    """
    plain_file(path, _MOST_BYTES)
    with path.open("rb") as file:
        head = file.read(8)
    if not head.startswith(_HEADS):
        raise FileError(path, "", "not a picture that can be read (PNG or JPEG)")
    QImageReader.setAllocationLimit(1024)
    reader = QImageReader(str(path))
    reader.setAutoTransform(True)
    reader.setDecideFormatFromContent(True)
    size = reader.size()
    pixels = size.width() * size.height() if size.isValid() else 0
    if pixels > _MOST_PIXELS:
        raise FileError(path, "", f"has {pixels / 1e6:.0f} megapixels; up to 100 can be read")
    if not pixels or not reader.canRead():
        raise FileError(path, "", "not a picture that can be read (PNG or JPEG)")
    if pixels > _KEPT_PIXELS:
        share = (_KEPT_PIXELS / pixels) ** 0.5
        reader.setScaledSize(size * share)
    image = reader.read()
    if image.isNull():
        raise FileError(path, "", f"damaged: {reader.errorString().lower()}")
    return pixels_of(image)


def pixels_of(image: QImage) -> Pixels:
    """An image's colours as an array of its own."""
    rgb = image.convertToFormat(QImage.Format.Format_RGB888)
    flat = np.frombuffer(rgb.constBits(), np.uint8, rgb.sizeInBytes())
    rows = flat.reshape(rgb.height(), rgb.bytesPerLine())[:, : 3 * rgb.width()]
    return rows.reshape(rgb.height(), rgb.width(), 3).copy()


# path, pixels, when it was taken, its own scale, the one offered, what was wrong
_Opened = tuple[Path, Pixels, float, PictureScale | None, PictureScale | None, str]


class PictureLoader(QObject):
    """Needs the session, a folder for pasted pictures, and what takes a recording that was made of one."""

    def __init__(self, session: Session, folder: Path, show: Callable[[Path, Recording], None]) -> None:
        super().__init__()
        self._session, self._folder, self._show = session, folder, show

    def open(self, path: Path) -> None:
        """Open a picture; what is open stays until it is there."""
        kept = text_of(self._session.settings, "scales/last")

        def work(progress: Progress) -> _Opened:
            pixels = read_pixels(path)
            own, trouble = None, ""
            try:
                own = read_scale(beside(path))
            except FileError as exc:
                trouble = str(exc)
            height, width = pixels.shape[:2]
            if own is not None and (own.width, own.height) != (width, height):
                own, trouble = None, f"{beside(path).name}: belongs to a picture of another size"
            return path, pixels, path.stat().st_mtime, own, _offer(kept, width, height), trouble

        self._session.jobs.start(f"Opening {path.name}", work, self._opened, brief=True)

    def paste(self, image: QImage) -> None:
        """Keep a picture from the clipboard as a file of its own, and open it."""
        if image.isNull():
            self._session.say("There is no picture to paste.", wrong=True)
            return
        path = self._folder / f"pasted {time.strftime('%Y-%m-%d %H.%M.%S')}.png"
        try:
            private_folder(self._folder)
            save_image(image, path, private=True)
        except (FileError, OSError) as exc:
            self._session.say(f"The picture could not be kept: {why(exc)}.", wrong=True)
            return
        self.open(path)

    def _opened(self, result: _Opened) -> None:
        path, pixels, taken, own, offered, trouble = result
        session = self._session
        session.screen_picture.open(path, pixels, taken, own, offered)
        session.set_stage("scan")
        session.show("picture")
        if trouble:
            session.say(f"{trouble}. It is left as it is.", wrong=True)
        elif own is not None:
            session.say("Its scale is known.  F8 reads it.")
        elif offered is not None:
            session.say("Same size as the last picture: its scale is offered.")

    def read(self) -> None:
        """Make a recording of the picture, so that every tool of a pass works on it."""
        session, photo = self._session, self._session.screen_picture
        path, pixels, scale = photo.path, photo.pixels, photo.scale
        if path is None or pixels is None:
            return
        if scale.missing is not None:
            session.say(f"Mark {missing_words(scale.missing)} first.", wrong=True)
            return
        try:
            write_scale(beside(path), scale)
        except FileError as exc:
            session.say(f"Its scale could not be kept beside it: {exc}.", wrong=True)
        session.settings.setValue("scales/last", scale_text(scale))
        start, place, track = photo.time, photo.place, photo.track
        if scale.early is not None and scale.late is not None:
            start = scale.early[1]
        if track is None:
            track = _anchored(place, start, speed_of(scale))

        def work(progress: Progress) -> tuple[Path, Recording]:
            made = as_recording(pixels, scale, path.name, start_time=start, track=track)
            return path, replace(made, notes=(assumed_words(scale.looks),))

        session.jobs.start(f"Reading {path.name}", work, lambda r: self._show(*r), brief=True)


def _offer(kept: str, width: int, height: int) -> PictureScale | None:
    if not kept:
        return None
    try:
        return fitted(scale_of(Path("scales"), kept), width, height)
    except (FileError, ValueError):
        return None


def _anchored(place: Position | None, at: float, speed_mps: float) -> Track | None:
    """A day about one place, at the speed that the picture's marks tell; None where neither is known."""
    if place is None and not speed_mps > 0:
        return None
    time_s = np.arange(at - _HALF_DAY_S, at + _HALF_DAY_S, 5.0)
    unknown = np.full(time_s.size, np.nan)
    return Track(
        time=time_s,
        latitude=unknown if place is None else np.full(time_s.size, place.latitude),
        longitude=unknown if place is None else np.full(time_s.size, place.longitude),
        speed_mps=np.full(time_s.size, speed_mps if speed_mps > 0 else 0.0),
        heading_deg=np.zeros(time_s.size),
        course_deg=np.zeros(time_s.size),
        temperature_c=unknown,
    )
