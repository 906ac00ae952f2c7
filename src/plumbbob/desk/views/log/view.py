"""Marks and catches."""

from __future__ import annotations

from plumbbob.desk.views.sonar.down.view import DownView
from plumbbob.store.values import Mark


class LogView(DownView):
    """The log; the cursor is that of the open pass, and goes to where a chosen mark was seen."""

    name = "log"
    stage = "log"
    title = "at the log"
    hints = "S show in the picture   + − seen   Del remove   Z undo   ? keys"
    corrects_echoes = False
    can_have_chart = False
    is_offered = True

    @property
    def start_words(self) -> str:
        """While nothing was marked."""
        if self.session.logbook.marks:
            return ""
        how = "Space marks what is chosen in Scan or on the chart, C notes a catch. Marks of any GPX come in too."
        return f"Keep what was seen: {how}"

    def mark_chosen(self, mark: Mark) -> None:
        """The plumb line hangs where it was seen."""
        scan = self.session.scan
        if scan.recording is not None and mark.source == scan.recording.name:
            scan.set_cursor(round(scan.ping_of(mark.time)), mark.depth_m or 0.0)
