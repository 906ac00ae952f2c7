"""Left of the view ahead: the cast to the chosen fish, what was followed, how far to look."""

from __future__ import annotations

from PySide6.QtWidgets import QLabel

from plumbbob.core.rig.cast import Approach
from plumbbob.core.units import Kind
from plumbbob.desk.kit.widgets import Field, Stepper, label
from plumbbob.desk.models.session import Session
from plumbbob.desk.views.sonar.down.words import Said
from plumbbob.desk.views.sonar.forward.words import cast_lines, range_line, reasons
from plumbbob.desk.views.sonar.reading_panel import ReadingPanel

_SPEED_STEP = 0.1


class ForwardPanel(ReadingPanel):
    """Needs the session."""

    def __init__(self, session: Session) -> None:
        rows = (("fish", "Fish there now"), ("all", "In the pass"), ("bottom", "Bottom below"))
        super().__init__(session, "ahead", "READ AHEAD", rows)
        self._head = label("", "head")
        self._steps = QLabel()
        self._steps.setObjectName("cast_steps")
        self._steps.setWordWrap(True)
        self._speed = Field(session.display, Kind.SPEED, "retrieve_speed")
        self._speed.entered.connect(session.forward.set_retrieve)
        self._speed.refused.connect(lambda said: session.say(said, wrong=True))
        self._stepper = Stepper(
            "Drawn in at",
            "retrieve",
            lambda: session.forward.set_retrieve(session.forward.retrieve_mps - _SPEED_STEP),
            lambda: session.forward.set_retrieve(session.forward.retrieve_mps + _SPEED_STEP),
            self._speed,
        )
        self._range = label("", "small", name="look_range")
        self._range.setWordWrap(True)
        for widget in (self._head, self._steps, self._stepper):
            self.extras.addWidget(widget)
        self.extras.addSpacing(8)
        self.body.insertWidget(self.body.count() - 1, self._range)
        for signal in (session.forward.changed, session.scan.read, session.display.changed, session.rig.changed):
            signal.connect(self.refresh)
        self.refresh()

    def figures(self) -> dict[str, str]:
        """Numbers at the cursor's frame."""
        session = self.session
        ahead, display = session.forward, session.display
        if not ahead.reading.time.size:
            return {}
        return {
            "fish": str(sum(t.kind == "fish" for t, _ in ahead.present())),
            "all": str(sum(t.kind == "fish" for t in ahead.reading.tracks)),
            "bottom": display.words(ahead.bottom_m, Kind.DEPTH),
        }

    def said(self) -> list[Said]:
        """Sentences that lead to what they speak of."""
        if self.session.forward.view is None:
            return []
        return reasons(self.session) if self.session.forward.reading.time.size else [Said("Reading ahead …")]

    def refresh(self) -> None:
        """The cast comes first."""
        super().refresh()
        ahead = self.session.forward
        lines = cast_lines(self.session)
        shown = bool(lines)
        self._head.setText(f"CAST: {ahead.approach.value.upper()}")
        self._steps.setText("\n".join(f"{k}. {line}" if ahead.plan else line for k, line in enumerate(lines, 1)))
        for widget in (self._head, self._steps):
            widget.setVisible(shown)
        self._stepper.setVisible(shown and ahead.approach is Approach.PAST_OVER)
        self._speed.set_value(ahead.retrieve_mps)
        self._range.setText(range_line(self.session, 840, 520))
