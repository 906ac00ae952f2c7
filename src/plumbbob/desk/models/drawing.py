"""What the hand holds over a picture: it looks, draws an echo, or draws the bottom."""

from __future__ import annotations

from enum import Enum

from PySide6.QtCore import QObject, Signal


class DrawTool(Enum):
    """What a press in the picture does."""

    LOOK = "look"
    DRAW = "draw"
    BOTTOM = "bottom"


class Drawing(QObject):
    """The tool in hand, and what is drawn with it."""

    changed = Signal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._tool, self._label = DrawTool.LOOK, "fish"

    @property
    def tool(self) -> DrawTool:
        """What a press in the picture does."""
        return self._tool

    @property
    def label(self) -> str:
        """What is drawn."""
        return self._label

    def switch(self, tool: DrawTool) -> None:
        """Take a tool in hand, or put it away."""
        self.set(DrawTool.LOOK if self._tool is tool else tool)

    def set(self, tool: DrawTool, label: str | None = None) -> None:
        """Take another tool, or draw something else."""
        label = self._label if label is None else label
        if (tool, label) != (self._tool, self._label):
            self._tool, self._label = tool, label
            self.changed.emit()
