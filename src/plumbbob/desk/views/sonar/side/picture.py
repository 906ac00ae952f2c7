"""The hands on the view to the sides: the cursor, the shadow gauge, picking and widening."""

from __future__ import annotations

from PySide6.QtCore import QPointF
from PySide6.QtGui import QMouseEvent

from plumbbob.core.sonar.reading import SideFish, SideThing
from plumbbob.desk.kit.plot import nearest
from plumbbob.desk.models.drawing import DrawTool
from plumbbob.desk.tasks import apply_corrections as correcting
from plumbbob.desk.views.sonar.side.layers import SideLayers

_PICK_PX = 18.0


class SidePicture(SideLayers):
    """Needs the session; draws both fans and lets one pick, measure, draw, move, pan and zoom."""

    _dragged: SideFish | None = None

    def hover(self, at: QPointF) -> None:
        """The cursor follows."""
        self._session.scan.set_cursor(int(self.ping_at(at.x())), self._session.scan.cursor.depth_m)
        self._session.side.set_cursor(self.across_at(at.y()))

    def pick(self, at: QPointF) -> None:
        """A click measures while the gauge is out; else it picks the nearest echo, or none."""
        session = self._session
        self.hover(at)
        if session.side.clicks is not None:
            which, time, slant = self._spot(at)
            said = session.side.click(time, which, slant)
            if said:
                session.say(said, wrong=True)
            return
        if session.scan.drawing.tool is DrawTool.DRAW:
            correcting.draw_abeam(session, *self._spot(at))
            return
        session.side.choose(self.echo_at(at))

    def _spot(self, at: QPointF) -> tuple[str, float, float]:
        """Side, time and slant range of a place on screen."""
        across, time = self.across_at(at.y()), self.time_at(at.x())
        which = "starboard" if across >= 0 else "port"
        return which, time, self._session.side.slant_of(abs(across), time)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Start of a click, a drag, or of moving the chosen fish."""
        super().mousePressEvent(event)
        chosen = self._session.side.chosen
        looks = self._session.scan.drawing.tool is DrawTool.LOOK and self._session.side.clicks is None
        if self._pressed is not None and looks and isinstance(chosen, SideFish):
            self._dragged = chosen if self.echo_at(event.position()) is chosen else None

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """A chosen fish goes along with the hand; else as in every picture."""
        if self._dragged is None:
            super().mouseMoveEvent(event)
            return
        self._last = event.position()
        self.hover(event.position())

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """A move is done, where it stays on its side."""
        dragged, self._dragged = self._dragged, None
        pressed = self._pressed
        if dragged is None or pressed is None or (event.position() - pressed).manhattanLength() <= 5:
            self._last = pressed if dragged is not None else self._last
            super().mouseReleaseEvent(event)
            return
        self._pressed = None
        which, time, slant = self._spot(event.position())
        if which != dragged.side:
            self._session.say("A fish moves on its own side: take it out here and draw it there.", wrong=True)
            return
        correcting.move_abeam(self._session, dragged, time, slant)

    def echo_at(self, at: QPointF) -> SideFish | SideThing | None:
        """The echo under a place on screen."""
        reading = self._session.side.reading
        echoes: list[SideFish | SideThing] = [*reading.fish, *reading.things]
        return nearest(at, ((echo, self.place_of(echo)) for echo in echoes), _PICK_PX)

    def widen(self, factor: float, at: QPointF) -> None:
        """Nearer or farther to both sides."""
        self._session.side.set_reach(self._session.side.reach_m * factor)
