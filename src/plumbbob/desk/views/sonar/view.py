"""What the views of a pass share: one axis of time, one cursor along it."""

from __future__ import annotations

from plumbbob.desk.models.drawing import DrawTool
from plumbbob.desk.models.view import View


class PassView(View):
    """A picture whose one axis is the pass."""

    stage = "scan"
    can_have_chart = True
    inputs = frozenset({"scan", "side", "forward"})

    @property
    def has_next(self) -> bool:
        """There is a fish to choose."""
        return bool(self.session.scan.reading.fish)

    def choose_next(self, step: int) -> None:
        """The next fish along the pass."""
        self.session.scan.choose_next(step)

    @property
    def start_words(self) -> str:
        """While no recording is open."""
        if self.session.scan.recording is not None:
            return ""
        return "Read a recording: Bottom, fish, bait and the cold layer are found in it, each with how sure that is."

    @property
    def has_picture(self) -> bool:
        """A pass is open."""
        return self.session.scan.lead is not None

    @property
    def can_widen(self) -> bool:
        """Depth, or how far one looks."""
        return self.has_picture

    def zoom(self, factor: float) -> None:
        """Time, about the cursor."""
        self.session.scan.zoom_pings(factor, self.session.scan.cursor.ping)

    def widen(self, factor: float) -> None:
        """Depth, about the cursor."""
        self.session.scan.zoom_depth(factor, self.session.scan.cursor.depth_m)

    def show_all(self) -> None:
        """The whole recording, as far as it looks."""
        self.session.scan.show_all()
        self.fit()

    def fit(self) -> None:
        """From the surface to the bottom."""
        self.session.scan.show_water()

    @property
    def step_pings(self) -> int:
        """How many pings a small step is."""
        return max(round(self.session.scan.view.pings / 200), 1)

    def step(self, right: int, down: int) -> None:
        """Along the pass, and down."""
        scan = self.session.scan
        scan.step_cursor(right * self.step_pings, down * (scan.view.base_m - scan.view.top_m) / 100)

    def let_go(self) -> None:
        """The tool in hand, else what is chosen in any view of the pass."""
        session = self.session
        if session.scan.drawing.tool is not DrawTool.LOOK:
            session.scan.drawing.set(DrawTool.LOOK)
            return
        session.scan.choose(None)
        session.side.choose(None)
        session.forward.choose(None)
        session.say("")
