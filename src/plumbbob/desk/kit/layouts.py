"""Panels that scroll, and columns left and right of the picture that are as wide everywhere."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QHBoxLayout, QScrollArea, QSplitter, QVBoxLayout, QWidget

PANEL_WIDTH, PLUMB_WIDTH = 226, 212
_COLUMN = "column_width"
_LEAST_PART = 130
_WIDE, _TALL_SHARE = 1.3, 0.6  # wider waters have it over; else its share of the width


class WithChart(QWidget):
    """A picture with the chart beside it while it is on screen: left of it, or over it for a wide water."""

    def __init__(self, picture: QWidget) -> None:
        super().__init__()
        self.chart_slot = QWidget()
        QVBoxLayout(self.chart_slot).setContentsMargins(0, 0, 0, 0)
        self._parts = QSplitter(Qt.Orientation.Vertical)
        self._parts.setChildrenCollapsible(False)
        self._parts.setHandleWidth(5)
        for widget in (self.chart_slot, picture):
            widget.setMinimumSize(_LEAST_PART, _LEAST_PART)
            self._parts.addWidget(widget)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.addWidget(self._parts)
        self.setFocusProxy(picture)
        self.fit(1.0)

    def fit(self, wide: float) -> None:
        """For a water so many times as wide as it is high."""
        tall = wide < _WIDE
        self._parts.setOrientation(Qt.Orientation.Horizontal if tall else Qt.Orientation.Vertical)
        chart = min(max(round(100 * _TALL_SHARE * wide), 26), 45) if tall else 44
        for k, share in enumerate((chart, 100 - chart)):
            self._parts.setStretchFactor(k, share)
        self._parts.setSizes([10 * chart, 10 * (100 - chart)])


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
