"""Panels that scroll, and columns left and right of the picture that are as wide everywhere."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QHBoxLayout, QScrollArea, QWidget

PANEL_WIDTH, PLUMB_WIDTH = 226, 212
_COLUMN = "column_width"


def scrolling(panel: QWidget) -> QScrollArea:
    """A panel whose foot can be reached in a low window or with large text."""
    area = QScrollArea()
    area.setWidget(panel)
    area.setWidgetResizable(True)
    area.setFrameShape(QFrame.Shape.NoFrame)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    return area


def as_column(widget: QWidget, width: int) -> QWidget:
    """A widget that stands under, over or in a column beside the picture."""
    widget.setProperty(_COLUMN, width)
    return widget


def set_columns(window: QWidget, wider: float) -> None:
    """Columns widen with the text."""
    for widget in window.findChildren(QWidget):
        width = widget.property(_COLUMN)
        if width:
            widget.setFixedWidth(round(width * wider))


def row_of(*widgets: tuple[QWidget, int]) -> QWidget:
    """Widgets beside each other, with how they stretch."""
    holder = QWidget()
    row = QHBoxLayout(holder)
    row.setContentsMargins(0, 0, 0, 0)
    row.setSpacing(0)
    for widget, stretch in widgets:
        row.addWidget(widget, stretch)
    return holder
