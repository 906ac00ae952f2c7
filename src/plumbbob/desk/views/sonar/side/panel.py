"""Left of the view to the sides: what was read from it, and why."""

from __future__ import annotations

from plumbbob.core.units import Kind
from plumbbob.desk.models.session import Session
from plumbbob.desk.views.sonar.down.words import Said
from plumbbob.desk.views.sonar.reading_panel import ReadingPanel
from plumbbob.desk.views.sonar.side.words import reasons


class SidePanel(ReadingPanel):
    """Needs the session."""

    def __init__(self, session: Session) -> None:
        rows = (("altitude", "Over bottom"), ("fish", "Fish"), ("heights", "With height"), ("things", "Standing"))
        super().__init__(session, "sides", "READ TO THE SIDES", rows)
        for signal in (session.side.changed, session.scan.read, session.scan.read_on, session.display.changed):
            signal.connect(self.refresh)
        self.refresh()

    def figures(self) -> dict[str, str]:
        """Numbers of the whole pass, and the height at the cursor."""
        session = self.session
        side, display = session.side, session.display
        reading = side.reading
        if not reading.altitude_m.size:
            return {}
        return {
            "altitude": display.words(side.altitude_at(session.scan.time), Kind.DEPTH),
            "fish": str(len(reading.fish)),
            "heights": str(sum(f.height_m == f.height_m for f in reading.fish)),
            "things": str(len(reading.things)),
        }

    def said(self) -> list[Said]:
        """Sentences that lead to what they speak of."""
        side = self.session.side
        if side.view is None:
            return []
        return reasons(self.session) if side.reading.altitude_m.size else [Said("Reading the sides …")]
