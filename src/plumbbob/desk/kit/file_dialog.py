"""Qt's own file dialog in the theme's colours: nothing white at night, nothing blue, arrows that can be seen."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QFileInfo, QPointF, QSize, Qt
from PySide6.QtGui import QAbstractFileIconProvider, QColor, QIcon, QPainter, QPen, QPixmap, QPolygonF
from PySide6.QtWidgets import QFileDialog, QToolButton, QWidget

from plumbbob.desk.theme import Theme

_SIZE = 32


class _Icons(QAbstractFileIconProvider):
    """A folder and a sheet of paper, drawn in outline."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        folder = [(3, 8), (12, 8), (15, 12), (29, 12), (29, 26), (3, 26), (3, 8)]
        self._folder = _drawn(theme.brass, [folder])
        self._file = _drawn(theme.muted, [[(7, 3), (19, 3), (25, 9), (25, 29), (7, 29), (7, 3)]])

    def icon(self, what: object) -> QIcon:
        """Of a file, or of a kind of place."""
        if isinstance(what, QFileInfo):
            return self._folder if what.isDir() else self._file
        return self._file if what is QAbstractFileIconProvider.IconType.File else self._folder


def _drawn(colour: str, strokes: list[list[tuple[int, int]]]) -> QIcon:
    pixmap = QPixmap(_SIZE, _SIZE)
    pixmap.fill(Qt.GlobalColor.transparent)
    painter = QPainter(pixmap)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(QColor(colour), 2.4))
    for points in strokes:
        painter.drawPolyline(QPolygonF([QPointF(x, y) for x, y in points]))
    painter.end()
    return QIcon(pixmap)


# the dialog's own buttons by name, as strokes on a field of 32
_BUTTONS: dict[str, list[list[tuple[int, int]]]] = {
    "backButton": [[(20, 6), (10, 16), (20, 26)]],
    "forwardButton": [[(12, 6), (22, 16), (12, 26)]],
    "toParentButton": [[(6, 18), (16, 8), (26, 18)], [(16, 8), (16, 26)]],
    "newFolderButton": [[(16, 6), (16, 26)], [(6, 16), (26, 16)]],
    "listModeButton": [[(6, y), (26, y)] for y in (9, 16, 23)],
    "detailModeButton": [[(6, y), (12, y)] for y in (9, 16, 23)] + [[(16, y), (26, y)] for y in (9, 16, 23)],
}


def file_dialog(parent: QWidget, theme: Theme, title: str, folder: str, pattern: str) -> QFileDialog:
    """A dialog for files, dressed; not shown yet."""
    dialog = QFileDialog(parent, title, folder, pattern)
    dialog.setOption(QFileDialog.Option.DontUseNativeDialog)
    dialog.icons = _Icons(theme)  # type: ignore[attr-defined]  # the dialog does not keep it alive
    dialog.setIconProvider(dialog.icons)  # type: ignore[attr-defined]
    for button in dialog.findChildren(QToolButton):
        strokes = _BUTTONS.get(button.objectName())
        if strokes is not None:
            button.setIcon(_drawn(theme.ink, strokes))
            button.setIconSize(QSize(20, 20))
    return dialog


def ask_to_open(parent: QWidget, theme: Theme, title: str, folder: str, pattern: str) -> Path | None:
    """A file to read; None if the person leaves."""
    dialog = file_dialog(parent, theme, title, folder, pattern)
    dialog.setFileMode(QFileDialog.FileMode.ExistingFile)
    return next(iter(chosen_files(dialog)), None)


def ask_to_open_many(parent: QWidget, theme: Theme, title: str, folder: str, pattern: str) -> list[Path]:
    """Files to read; none if the person leaves."""
    dialog = file_dialog(parent, theme, title, folder, pattern)
    dialog.setFileMode(QFileDialog.FileMode.ExistingFiles)
    return chosen_files(dialog)


def ask_to_save(parent: QWidget, theme: Theme, title: str, suggested: Path, pattern: str) -> Path | None:
    """A file to write, asked again before one is written over; None if the person leaves."""
    dialog = file_dialog(parent, theme, title, str(suggested.parent), pattern)
    dialog.setAcceptMode(QFileDialog.AcceptMode.AcceptSave)
    dialog.selectFile(suggested.name)
    return next(iter(chosen_files(dialog)), None)


def chosen_files(dialog: QFileDialog) -> list[Path]:
    """What a person chose in a dialog; none if they leave."""
    dialog.resize(760, 460)
    accepted = bool(dialog.exec())
    names = dialog.selectedFiles()
    dialog.deleteLater()
    return [Path(name) for name in names] if accepted else []
