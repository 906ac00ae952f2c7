"""Pictures of what is listed, as a strip; a click goes to the fish."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QImage, QImageReader, QMouseEvent, QPainter
from PySide6.QtWidgets import QSizePolicy

from plumbbob.desk.kit.paint import font, pen
from plumbbob.desk.kit.painted import Painted
from plumbbob.desk.models.log_list import Row
from plumbbob.desk.models.session import Session
from plumbbob.files.errors import FileError
from plumbbob.store.errors import StoreError
from plumbbob.store.values import Catch, KeptFile

_GAP, _MOST = 4.0, 24
_LARGEST_PX = 400


class PictureStrip(Painted):
    """Needs the session."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("pictures")
        self._session = session
        self._images: dict[str, QImage | None] = {}
        self._catches: list[Catch] | None = None
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        for signal in (session.listed.changed, session.trips.chosen_changed):
            signal.connect(self._changed)

    def _changed(self) -> None:
        self._catches = None
        self.update()

    def sizeHint(self) -> QSize:
        """A strip."""
        return QSize(210, 64)

    @property
    def catches(self) -> list[Catch]:
        """Listed fish with a picture, the first of the list first."""
        if self._catches is None:
            listed = self._session.listed
            pictured = {
                i
                for i, p in zip(*(self._session.logbook.catches.cells(n) for n in ("id", "picture")), strict=True)
                if p
            }
            t = listed.table
            rows = [k for k in listed.found.tolist() if t.kind[k] == Row.CATCH and int(t.number[k]) in pictured]
            self._catches = [c for c in (listed.value(k) for k in rows[:_MOST]) if c is not None]
        return self._catches

    def _image(self, name: str) -> QImage | None:
        """A picture, small; None for one that is none or is gone."""
        if name not in self._images:
            self._images[name] = self._read(name)
        return self._images[name]

    def _read(self, name: str) -> QImage | None:
        try:
            log = self._session.logbook.log
            kept = {f.path: f.sha256 for f in log.read(KeptFile)}
            sha256 = kept.get(name) or kept.get(f"pictures/{name}")
            if sha256 is None:
                return None
            reader = QImageReader(str(log.files.path_of(sha256)))
            reader.setAutoTransform(True)
            reader.setDecideFormatFromContent(True)
            size = reader.size()
            if size.isValid():
                reader.setScaledSize(size.scaled(_LARGEST_PX, _LARGEST_PX, Qt.AspectRatioMode.KeepAspectRatio))
            image = reader.read()
        except (StoreError, FileError):
            return None
        return None if image.isNull() else image

    def _boxes(self) -> list[tuple[Catch, QRectF]]:
        high = self.height() - 2.0
        wide = 1.4 * high
        room = max(int((self.width() + _GAP) // (wide + _GAP)), 0)
        return [(c, QRectF(k * (wide + _GAP), 1.0, wide, high)) for k, c in enumerate(self.catches[:room])]

    def paint(self, painter: QPainter) -> None:
        """Thumbnails; the picked one has a rim."""
        display, picked = self._session.display, self._session.trips.picked
        theme = display.theme
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), QColor(theme.panel))
        boxes = self._boxes()
        if not boxes:
            painter.setFont(font(display.text_size * 0.76))
            painter.setPen(QColor(theme.muted_text))
            painter.drawText(QPointF(2, 16), "no pictures among these")
            return
        for catch, box in boxes:
            image = self._image(catch.picture)
            if image is None:
                painter.setPen(pen(theme.rule))
                painter.drawRect(box)
                painter.setFont(font(display.text_size * 0.7))
                painter.setPen(QColor(theme.muted_text))
                painter.drawText(box, Qt.AlignmentFlag.AlignCenter, "not to be shown")
            else:
                ratio = box.width() / box.height()
                cut = QRectF(image.rect())
                if cut.width() / cut.height() > ratio:
                    cut = QRectF(cut.center().x() - cut.height() * ratio / 2, 0, cut.height() * ratio, cut.height())
                else:
                    cut = QRectF(0, cut.center().y() - cut.width() / ratio / 2, cut.width(), cut.width() / ratio)
                painter.drawImage(box, image, cut)
            if isinstance(picked, Catch) and picked.id == catch.id:
                painter.setPen(pen(theme.brass, 3.0))
                painter.drawRect(box.adjusted(1.5, 1.5, -1.5, -1.5))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Go to the fish of a picture."""
        for catch, box in self._boxes():
            if box.contains(event.position()):
                trip = self._session.trips.by_ref(catch.trip)
                if trip is not None:
                    self._session.trips.choose(trip.id)
                self._session.trips.pick(catch)
                return
