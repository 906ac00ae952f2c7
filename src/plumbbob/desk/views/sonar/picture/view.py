"""A picture off any screen."""

from __future__ import annotations

from plumbbob.desk.models.column import Column
from plumbbob.desk.models.picture_model import Step
from plumbbob.desk.views.sonar.down.view import DownView


class PictureView(DownView):
    """What is shown has nothing to do with the open pass until it has been read."""

    name = "picture"
    title = "at a picture"
    hints = "F2 corners   F3 surface   F4 depth   F7 colours   F8 read it   ? keys"
    hides_pass = True
    inputs = frozenset({"scan", "screen_picture"})
    corrects_echoes = False

    @property
    def start_words(self) -> str:
        """It says by itself what it needs."""
        return ""

    @property
    def is_offered(self) -> bool:
        """Never in turn: opening a picture brings it, the next view leaves it."""
        return False

    @property
    def column(self) -> Column:
        """Level with the picture, once it has a scale of depth."""
        return Column.of_photo(self.session.screen_picture)

    @property
    def header(self) -> str:
        """What it is."""
        return "a picture off a screen"

    @property
    def status(self) -> list[str]:
        """It has no place."""
        return []

    @property
    def has_picture(self) -> bool:
        """A picture is open."""
        return self.session.screen_picture.pixels is not None

    def zoom(self, factor: float) -> None:
        """The picture, about its middle."""
        self.session.screen_picture.zoomed.emit(1.0 / factor)

    def show_all(self) -> None:
        """The whole picture."""
        self.session.screen_picture.zoomed.emit(0.0)

    def let_go(self) -> None:
        """No more clicks."""
        self.session.screen_picture.start(Step.NONE)
