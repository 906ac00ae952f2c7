"""Sharing: what it is, how much of the places goes with it, and what is left out, told before it is written."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtWidgets import QComboBox, QHBoxLayout, QWidget

from plumbbob.desk.kit.file_dialog import ask_to_save
from plumbbob.desk.kit.sheet import Sheet
from plumbbob.desk.kit.widgets import label
from plumbbob.desk.models.session import Session
from plumbbob.desk.tasks.log_files import LogFiles
from plumbbob.services.share_cells import Positions

_KINDS = (
    ("a page to read (PDF)", ".pdf", "PDF (*.pdf)"),
    ("waypoints (GPX)", ".gpx", "GPX (*.gpx)"),
    ("a table (CSV)", ".csv", "CSV (*.csv)"),
    ("places as GeoJSON", ".geojson", "GeoJSON (*.geojson)"),
    ("a log as open files", ".zip", "Log (*.log.zip)"),
)
_HOW = (
    (Positions.NONE, "no places, days without times (usual)"),
    (Positions.AREA, "the middle of a cell of ten kilometres"),
    (Positions.EXACT, "exact places, names and times"),
)


class ShareSheet(Sheet):
    """Needs the session and what writes."""

    def __init__(self, session: Session, files: LogFiles, host: QWidget) -> None:
        super().__init__(session, "share", "Share the log", host, over=True)
        self._files = files
        row = QHBoxLayout()
        row.setSpacing(8)
        self._kind, self._how = QComboBox(), QComboBox()
        for box, name, words in (
            (self._kind, "share_kind", [k[0] for k in _KINDS]),
            (self._how, "share_how", [h[1] for h in _HOW]),
        ):
            box.setObjectName(name)
            box.addItems(words)
        row.addWidget(label("what", "muted"))
        row.addWidget(self._kind, 2)
        row.addWidget(label("places", "muted"))
        row.addWidget(self._how, 3)
        self.body.addLayout(row)
        self._left_out = label("", "why", name="share_left_out")
        self._left_out.setWordWrap(True)
        self.body.addWidget(self._left_out)
        self.finish("Write …", self._write)
        self.first = self._kind
        for box in (self._kind, self._how):
            box.currentIndexChanged.connect(lambda _: self._look())

    def fill(self) -> None:
        """The usual: a page without places."""
        self._how.setCurrentIndex(0)
        self._look()

    def _look(self) -> None:
        if not self.isVisible() and self.session.sheet != self.name:
            return
        self._left_out.setText("Looking what is left out …")
        positions = _HOW[self._how.currentIndex()][0]
        self._files.what_leaves_out(_KINDS[self._kind.currentIndex()][1], positions, self._told)

    def _told(self, taken: tuple[str, ...]) -> None:
        exact = _HOW[self._how.currentIndex()][0] is Positions.EXACT
        words = f"Left out: {'; '.join(taken)}." if taken else "Nothing has to be left out."
        if exact:
            words = f"Exact places, names and times go with it: whoever has the file has your places. {words}"
        self._left_out.setText(words)
        self.place()

    def _write(self) -> None:
        _, ending, pattern = _KINDS[self._kind.currentIndex()]
        positions = _HOW[self._how.currentIndex()][0]
        name = "shared.log.zip" if ending == ".zip" else f"shared{ending}"
        path = ask_to_save(self, self.session.display.theme, "Share the log", Path.home() / name, pattern)
        if path is None:
            return

        def done(taken: tuple[str, ...]) -> None:
            self.session.say(
                f"{path.name} is written, places: {positions.value}; {len(taken)} kinds of things left out."
            )

        self.session.ask_sheet("")
        self._files.share(path, positions, done)
