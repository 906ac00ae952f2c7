"""The hands on the view to the sides: the cursor, the shadow gauge, picking and widening."""

from __future__ import annotations

from PySide6.QtCore import QPointF

from plumbbob.core.sonar.reading import SideFish, SideThing
from plumbbob.desk.kit.plot import nearest
from plumbbob.desk.views.sonar.side.layers import SideLayers

_PICK_PX = 18.0


class SidePicture(SideLayers):
    """Needs the session; draws both fans and lets one pick, measure, pan and zoom."""

    def hover(self, at: QPointF) -> None:
        """The cursor follows."""
        self._session.scan.set_cursor(int(self.ping_at(at.x())), self._session.scan.cursor.depth_m)
        self._session.side.set_cursor(self.across_at(at.y()))

    def pick(self, at: QPointF) -> None:
        """A click measures while the gauge is out; else it picks the nearest echo, or none."""
        session, across = self._session, self.across_at(at.y())
        self.hover(at)
        if session.side.clicks is not None:
            which = "starboard" if across >= 0 else "port"
            time = self.time_at(at.x())
            said = session.side.click(time, which, session.side.slant_of(abs(across), time))
            if said:
                session.say(said, wrong=True)
            return
        session.side.choose(self.echo_at(at))

    def echo_at(self, at: QPointF) -> SideFish | SideThing | None:
        """The echo under a place on screen."""
        reading = self._session.side.reading
        echoes: list[SideFish | SideThing] = [*reading.fish, *reading.things]
        return nearest(at, ((echo, self.place_of(echo)) for echo in echoes), _PICK_PX)

    def widen(self, factor: float, at: QPointF) -> None:
        """Nearer or farther to both sides."""
        self._session.side.set_reach(self._session.side.reach_m * factor)
