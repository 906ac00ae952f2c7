"""The recipe "a view": a stage and a view of a stranger's own, in one file, found by every shared key and menu."""

import pytest
from PySide6.QtCore import QSettings, Qt
from PySide6.QtGui import QColor
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLabel

from plumbbob.desk.commands.registry import Command
from plumbbob.desk.kit.painted import Painted
from plumbbob.desk.models.session import Session
from plumbbob.desk.models.view import View
from plumbbob.desk.shell.window import MainWindow
from plumbbob.desk.views.kinds import StageKind, ViewKind
from plumbbob.desk.views.registry import STAGES, VIEWS, give_views
from plumbbob.services.waters import Waters


class StoneView(View):
    """Counts stones."""

    name = "stones"
    stage = "stones"
    hints = "S skip a stone"
    stones = 3
    has_next = True

    @property
    def header(self):
        return f"{self.stones} stones"

    def choose_next(self, step):
        self.stones += step

    def let_go(self):
        self.stones = 0


class StonePicture(Painted):
    def paint(self, painter):
        painter.fillRect(self.rect(), QColor("#808080"))


SKIP = Command(
    id="stones.skip", title="Skip a stone", menu="Picture", keys=("S",), stage="stones", help="One goes.",
    run=lambda session, host: session.view.choose_next(-1),
)  # fmt: skip
VIEW = ViewKind(
    view=StoneView, panel=lambda parts: QLabel("stones"), picture=lambda parts: StonePicture(), commands=(SKIP,)
)
STAGE = StageKind(name="stones", title="Stones", help="Count.", foot=lambda parts: QLabel("foot"), foot_height=40)


@pytest.fixture
def window(qapp, tmp_path):
    session = Session(QSettings(str(tmp_path / "s.ini"), QSettings.Format.IniFormat))
    views = (*VIEWS, VIEW)
    give_views(session, views)
    made = MainWindow(session, Waters(tmp_path / "waters"), stages=(*STAGES, STAGE), views=views)
    made.show()
    yield made
    made.close()


def test_a_view_of_ones_own_answers_to_every_shared_key(window, qtbot):
    qtbot.waitExposed(window)
    for key in (Qt.Key.Key_7, Qt.Key.Key_Period, Qt.Key.Key_Period, Qt.Key.Key_Comma):
        QTest.keyClick(window, key)
    view = window.session.view
    assert window.session.stage == "stones"
    assert window.picture("stones").isVisible()
    assert view.stones == 4
    assert "S skip" in window.findChild(QLabel, "hints").text()
    QTest.keyClick(window, Qt.Key.Key_S)
    assert view.stones == 3
    QTest.keyClick(window, Qt.Key.Key_Escape)
    assert view.stones == 0
    assert view.column.live is False
    QTest.keyClick(window, Qt.Key.Key_1)
    assert window.session.stage == "water"
    assert not window.picture("stones").isVisible()
    assert window.actions_by_id["go.water"].isChecked()
