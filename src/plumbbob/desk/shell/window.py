"""The window: assembles the parts, opens recordings, keeps nothing of its own."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from PySide6.QtCore import QElapsedTimer, QPoint, QRect, Qt, QTimer
from PySide6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QResizeEvent
from PySide6.QtWidgets import (
    QApplication,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QMainWindow,
    QScrollArea,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from plumbbob.core.sonar.recording import Recording
from plumbbob.desk.commands.actions import Actions
from plumbbob.desk.commands.key_list import KeyList
from plumbbob.desk.kit.file_dialog import ask_to_open, ask_to_save
from plumbbob.desk.kit.images import save_image
from plumbbob.desk.kit.palette import palette_of
from plumbbob.desk.models.display import DEFAULT_TEXT_SIZE
from plumbbob.desk.models.recording_model import Sight
from plumbbob.desk.models.session import Session
from plumbbob.desk.models.settings import bytes_of, text_of
from plumbbob.desk.shell.footer import Footer, Notice
from plumbbob.desk.shell.header import Header
from plumbbob.desk.shell.persistence import Keeper
from plumbbob.desk.tasks.build_chart import Charter
from plumbbob.desk.tasks.follow_lines import Rigger
from plumbbob.desk.tasks.load_picture import PICTURES, Photographer
from plumbbob.desk.tasks.load_recording import RECORDINGS, Opener
from plumbbob.desk.tasks.scan_evidence import Scanner
from plumbbob.desk.theme import Light, style_sheet
from plumbbob.desk.views.chart.panel import DayPanel, SpotWords, WaterPanel
from plumbbob.desk.views.chart.picture import ChartPicture
from plumbbob.desk.views.chart.section import SectionPicture
from plumbbob.desk.views.chart.sheets import all_sheets
from plumbbob.desk.views.log.beads import BeadPicture
from plumbbob.desk.views.log.catch_form import CatchForm
from plumbbob.desk.views.log.mark_sheet import MarkSheet
from plumbbob.desk.views.log.panel import LogPanel
from plumbbob.desk.views.log.tables import LogTables
from plumbbob.desk.views.plumbline import PlumbLine
from plumbbob.desk.views.rig.along_track import OverPicture
from plumbbob.desk.views.rig.depth_time import CoursePicture
from plumbbob.desk.views.rig.panel import AnswerWords, RigPanel, TurnWords
from plumbbob.desk.views.rig.picture import SpreadPicture
from plumbbob.desk.views.rig.sheets import rig_sheets
from plumbbob.desk.views.rig.strip import HEIGHT as RIG_HEIGHT
from plumbbob.desk.views.rig.strip import RigStrip
from plumbbob.desk.views.sonar.down.bottom_words import BedWords
from plumbbob.desk.views.sonar.down.comparison import BesidePicture
from plumbbob.desk.views.sonar.down.echogram import Echogram
from plumbbob.desk.views.sonar.down.panel import ScanPanel
from plumbbob.desk.views.sonar.down.sheets import scan_sheets
from plumbbob.desk.views.sonar.down.timeline import Timeline
from plumbbob.desk.views.sonar.forward.panel import AheadPanel
from plumbbob.desk.views.sonar.forward.picture import AheadPicture
from plumbbob.desk.views.sonar.picture.panel import PhotoPanel
from plumbbob.desk.views.sonar.picture.picture import PhotoPicture
from plumbbob.desk.views.sonar.side.panel import SidePanel
from plumbbob.desk.views.sonar.side.picture import SidePicture
from plumbbob.desk.views.sonar.side.sheets import WidthSheet
from plumbbob.files.errors import FileError

_REPLAY_MS = 33
_TABLES_HEIGHT = 250
_SECTION_HEIGHT = 170
_OVER_HEIGHT = 176
_PANEL_WIDTH, _PLUMB_WIDTH = 226, 212


def _scrolling(panel: QWidget) -> QScrollArea:
    """A panel whose foot can be reached in a low window or with large text."""
    area = QScrollArea()
    area.setWidget(panel)
    area.setWidgetResizable(True)
    area.setFrameShape(QFrame.Shape.NoFrame)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    return area


class MainWindow(QMainWindow):
    """Needs the session; everything in it reads and asks the session."""

    def __init__(self, session: Session, waters: Path, *, demo: bool = False) -> None:
        super().__init__()
        self.setWindowTitle("Plumbbob")
        self.setAcceptDrops(True)
        self.session = session
        self.charter = Charter(session, waters)
        self.charter.ask_profile = self._ask_profile
        self.opener = Opener(session, self.charter, demo)
        self.scanner = Scanner(session, self.charter)
        self.rigger = Rigger(session, waters.parent)
        self.photographer = Photographer(session, waters.parent / "pictures", self._show_photo)
        self.actions_by_id = Actions(session, self, self)
        self.actions_by_id.fill(self.menuBar())
        self._dressed: tuple[Light, float] | None = None
        self._picture = QFrame()
        self.echogram, self.timeline = Echogram(session), Timeline(session)
        self.chart_picture = ChartPicture(session)
        self._whole = self._assemble()
        self.setCentralWidget(self._whole)
        self.notice, self.catch_form = Notice(session, self._picture), CatchForm(session, self._picture)
        self.sheets = (
            *all_sheets(session, self.charter, self._picture),
            *scan_sheets(session, self._picture),
            WidthSheet(session, self._picture),
            *rig_sheets(session, self.rigger, self._picture),
            MarkSheet(session, self._picture),
        )
        self.key_list = KeyList(session, self._whole)
        self._replay = QTimer(self)
        self._replay.setInterval(_REPLAY_MS)
        self._replay.timeout.connect(self._play_on)
        self._since = QElapsedTimer()
        session.look.changed.connect(self._dress)
        session.stage_changed.connect(self._show_stage)
        session.scan.tool_changed.connect(self._place_chart)
        session.scan.sight_changed.connect(self._show_sight)
        session.scan.replay_changed.connect(self._play_or_pause)
        session.pass_picked.connect(self._open_pass)
        session.scan.opened.connect(lambda: self.timeline.set_raster(self.echogram.raster))
        session.jobs.failed.connect(lambda exc: session.say(str(exc), wrong=True))
        self.opener.overview_ready.connect(self._overview_ready)
        self._dress()
        self._show_stage(session.stage)
        geometry = bytes_of(session.settings, "window")
        self.resize(1280, 800)
        if geometry is not None:
            self.restoreGeometry(geometry)
        self.keeper = Keeper(session, self)

    def _assemble(self) -> QWidget:
        session = self.session
        whole = QWidget()
        whole.setObjectName("window")
        column = QVBoxLayout(whole)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(Header(session, self.actions_by_id))
        self._panels, self._pictures, self._feet = QStackedWidget(), QStackedWidget(), QStackedWidget()
        over = QVBoxLayout(self._picture)
        over.setContentsMargins(0, 0, 0, 0)
        over.addWidget(self._pictures)
        # the one chart picture stands in Water, or beside the echogram
        self._water_picture = QWidget()
        self._chart_home = QVBoxLayout(self._water_picture)
        self._chart_home.setContentsMargins(0, 0, 0, 0)
        self._chart_home.addWidget(self.chart_picture)
        stages: dict[str, tuple[QWidget, QWidget, QWidget, int]] = {
            "water": (
                WaterPanel(session, self.actions_by_id),
                self._water_picture,
                self._water_foot(),
                _SECTION_HEIGHT,
            ),
            "scan": (
                self._scan_panels(),
                self._scan_pictures(),
                self._scan_foot(),
                RIG_HEIGHT + self.timeline.height(),
            ),
            "rig": (
                RigPanel(session, self.actions_by_id),
                SpreadPicture(session),
                self._rig_foot(),
                _OVER_HEIGHT,
            ),
            "log": (
                LogPanel(session, self.actions_by_id),
                BeadPicture(session),
                LogTables(session, self.actions_by_id),
                _TABLES_HEIGHT,
            ),
        }
        self._foot_heights = {}
        for name, (panel, picture, foot, height) in stages.items():
            self._panels.addWidget(panel if isinstance(panel, QStackedWidget) else _scrolling(panel))
            self._pictures.addWidget(picture)
            self._feet.addWidget(foot)
            self._foot_heights[name] = height
        self._order = list(stages)
        row = QHBoxLayout()
        row.setSpacing(0)
        row.addWidget(self._panels)
        row.addWidget(self._picture, 1)
        self._plumb = PlumbLine(session)
        row.addWidget(self._plumb)
        column.addLayout(row, 1)
        column.addWidget(self._feet)
        column.addWidget(Footer(session))
        return whole

    def _scan_pictures(self) -> QWidget:
        """The echogram; below it a pass to compare, beside both the chart."""
        both, self._passes = QSplitter(Qt.Orientation.Horizontal), QSplitter(Qt.Orientation.Vertical)
        self._passes.addWidget(self.echogram)
        self._passes.addWidget(BesidePicture(self.session))
        self.side_picture, self.ahead_picture = SidePicture(self.session), AheadPicture(self.session)
        self.photo_picture = PhotoPicture(self.session)
        self._sights = QStackedWidget()
        for picture in (self._passes, self.side_picture, self.ahead_picture, self.photo_picture):
            self._sights.addWidget(picture)
        both.addWidget(self._sights)
        self._split_home = QWidget()
        QVBoxLayout(self._split_home).setContentsMargins(0, 0, 0, 0)
        both.addWidget(self._split_home)
        self._split_home.hide()
        for splitter in (both, self._passes):
            splitter.setChildrenCollapsible(False)
            splitter.setHandleWidth(5)
        for k, share in enumerate((3, 2)):
            both.setStretchFactor(k, share)
            self._passes.setStretchFactor(k, 1)
        session = self.session
        session.scan.compared.connect(lambda: self._passes.setSizes([1000, 1000]))
        return both

    def _scan_panels(self) -> QStackedWidget:
        """One panel for each way of looking."""
        self._sight_panels = QStackedWidget()
        panels: list[QWidget] = [ScanPanel(self.session), SidePanel(self.session), AheadPanel(self.session)]
        for panel in (*panels, PhotoPanel(self.session, self.actions_by_id)):
            self._sight_panels.addWidget(_scrolling(panel))
        return self._sight_panels

    def _show_sight(self) -> None:
        """The picture and panel of the way of looking."""
        i = list(Sight).index(self.session.scan.sight)
        self._sights.setCurrentIndex(i)
        self._sight_panels.setCurrentIndex(i)
        if self.session.stage == "scan":
            self._focused(i).setFocus()

    def _focused(self, i: int) -> QWidget:
        return (self.echogram, self.side_picture, self.ahead_picture, self.photo_picture)[i]

    def _place_chart(self) -> None:
        """Put the chart where it is looked at."""
        session = self.session
        beside = session.stage == "scan" and session.scan.split
        home = self._split_home.layout() if beside else self._chart_home
        if home is not None and home.indexOf(self.chart_picture) < 0:
            home.addWidget(self.chart_picture)
            self.chart_picture.show()
        self._split_home.setVisible(beside)
        if beside:
            boat, chart = session.scan.boat_place(), session.chart.chart
            if boat is not None and chart is not None:
                x, y = chart.plane.to_xy(boat.latitude, boat.longitude)
                session.chart.centre_on(float(x), float(y), closer=True)

    def _water_foot(self) -> QWidget:
        foot = QWidget()
        row = QHBoxLayout(foot)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        self._water_left, self._spot = DayPanel(self.session, self.actions_by_id), SpotWords(self.session)
        row.addWidget(self._water_left)
        row.addWidget(SectionPicture(self.session), 1)
        row.addWidget(self._spot)
        return foot

    def _rig_foot(self) -> QWidget:
        foot = QWidget()
        row = QHBoxLayout(foot)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(_scrolling(AnswerWords(self.session)), 30)
        row.addWidget(TurnWords(self.session, self.actions_by_id), 22)
        # the way over the bottom; while lines are in motion, their depths by time
        self._over = QStackedWidget()
        self._over.addWidget(OverPicture(self.session))
        self._over.addWidget(CoursePicture(self.session))
        self.session.boat.moved.connect(self._show_course)
        row.addWidget(self._over, 76)
        return foot

    def _show_course(self) -> None:
        self._over.setCurrentIndex(int(self.session.boat.frame is not None))

    def _scan_foot(self) -> QWidget:
        foot = QWidget()
        grid = QGridLayout(foot)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setSpacing(0)
        self._foot_left, self._bed = QFrame(), BedWords(self.session)
        self._foot_left.setProperty("role", "panel")
        grid.addWidget(self._foot_left, 0, 0)
        grid.addWidget(self.timeline, 0, 1)
        grid.addWidget(self._bed, 0, 2)
        grid.addWidget(RigStrip(self.session), 1, 0, 1, 3)
        grid.setColumnStretch(1, 1)
        return foot

    # -- what follows the session -------------------------------------------------------------------------------

    def _dress(self) -> None:
        app, look = QApplication.instance(), self.session.look
        assert isinstance(app, QApplication)
        if self._dressed == (look.light, look.text_size):
            return  # other units look alike
        self._dressed = look.light, look.text_size
        app.setPalette(palette_of(look.theme))
        # on the window, not the application: polishing takes a third of the time, and its dialogs have it too
        self.setStyleSheet(style_sheet(look.theme, look.text_size))
        # the columns at both sides widen with the text
        wider = self._wider()
        columns: list[tuple[QWidget, int]] = [(self._panels, _PANEL_WIDTH), (self._foot_left, _PANEL_WIDTH)]
        columns += [(self._plumb, _PLUMB_WIDTH), (self._bed, _PLUMB_WIDTH)]
        columns += [(self._water_left, _PANEL_WIDTH), (self._spot, _PLUMB_WIDTH)]
        for widget, width in columns:
            widget.setFixedWidth(round(width * wider))
        self._feet.setFixedHeight(self._foot_height(self.session.stage))

    def _foot_height(self, stage: str) -> int:
        """What lies under the picture; the words of the rods need more room when they are larger."""
        height = self._foot_heights[stage]
        return round(height * self._wider()) if stage == "rig" else height

    def _wider(self) -> float:
        """How much room grows with the text."""
        return 0.45 + 0.55 * self.session.look.text_size / DEFAULT_TEXT_SIZE

    def _show_stage(self, stage: str) -> None:
        i = self._order.index(stage)
        self._panels.setCurrentIndex(i)
        self._pictures.setCurrentIndex(i)
        self._place_chart()
        self._feet.setFixedHeight(self._foot_height(stage))
        self._feet.setCurrentIndex(i)
        shown = {"water": self.chart_picture, "scan": self._focused(self._sights.currentIndex())}
        picture = shown.get(stage, self._pictures.currentWidget())
        if picture is not None:
            picture.setFocus()

    def _overview_ready(self, overview: Any) -> None:
        raster = self.echogram.raster
        if raster is not None:
            raster.set_overview(overview)
            self.timeline.set_raster(raster)
            self.echogram.update()

    def _play_or_pause(self) -> None:
        if self.session.scan.replaying:
            self._since.start()
            self._replay.start()
        else:
            self._replay.stop()

    def _play_on(self) -> None:
        self.session.scan.advance(self._since.restart() / 1000 * self.session.scan.replay_speed)

    # -- the Asker of the commands ------------------------------------------------------------------------------

    def open_path(self, title: str, pattern: str) -> Path | None:
        """A file to read, chosen by the person."""
        return ask_to_open(self, self.session.look.theme, title, self.opener.folder, pattern)

    def save_path(self, title: str, name: str, pattern: str) -> Path | None:
        """A file to write, chosen by the person."""
        return ask_to_save(self, self.session.look.theme, title, Path(self.opener.folder) / name, pattern)

    def open_recording(self, path: Path) -> None:
        """Open in the background; what is open stays until it is there."""
        self.opener.open(path, screenful=max(self._pictures.width(), 200))

    def _show_photo(self, path: Path, recording: Recording) -> None:
        self.opener.show(path, recording, screenful=max(self._pictures.width(), 200))

    def compare_with(self, path: Path) -> None:
        """Another pass beside the open one."""
        self.scanner.compare_with(path)

    def edit_recording(self, how: str, other: Path, out: Path) -> None:
        """Cut, join or thin into another file."""
        self.scanner.edit_recording(how, other, out)

    def lay_swath(self) -> None:
        """What the fans saw on the chart."""
        self.scanner.lay_swath()

    def open_photo(self, path: Path) -> None:
        """A picture off any screen."""
        self.photographer.open(path)

    def paste_photo(self) -> None:
        """The picture on the clipboard."""
        self.photographer.paste(QApplication.clipboard().image())

    def read_photo(self) -> None:
        """A recording of the open picture."""
        self.photographer.read()

    def write_picture(self) -> None:
        """The pass on screen, its clock and the plumb line, as they are."""
        path = self.save_path("Write the picture", "pass.png", "PNG (*.png)")
        if path is None:
            return
        left = self._sights.mapTo(self._whole, QPoint(0, 0))
        clock = self.timeline.mapTo(self._whole, QPoint(0, self.timeline.height()))
        right = self._plumb.mapTo(self._whole, QPoint(self._plumb.width(), 0))
        whole = self._whole.grab(QRect(left, QPoint(right.x(), clock.y())))
        try:
            save_image(whole, path)
        except FileError as exc:
            self.session.say(f"{exc}.", wrong=True)
            return
        self.session.say(f"Picture written to {path.name}.")

    def _ask_profile(self) -> None:
        path = self.open_path("Read a column", "Column (*.csv *.txt)")
        if path is not None:
            self.charter.read_profile(path)

    def _open_pass(self, name: str, place: tuple[float, float]) -> None:
        """A pass picked on the chart: go there in Scan, opening its recording first if another is open."""
        session = self.session
        recording, chart = session.scan.recording, session.chart.chart
        if recording is None or recording.name != name:
            path = Path(text_of(session.settings, f"passes/{name}"))
            if not path.is_file():
                session.say(f"The recording {name} is not where it was; O opens it by hand.", wrong=True)
                return
            self.open_recording(path)
        elif chart is not None and session.scan.lead is not None:
            spot = chart.plane.place(*place)
            session.scan.go_to_place(spot)
        session.set_stage("scan")

    def close_window(self) -> None:
        """End the program."""
        self.close()

    # -- the window's own events --------------------------------------------------------------------------------

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Keep what lies on top in its place."""
        super().resizeEvent(event)
        self.notice.place()
        self.catch_form.place()
        for sheet in self.sheets:
            if sheet.isVisible():
                sheet.place()
        self.key_list.setGeometry(self._whole.rect())

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        """One file may be dropped."""
        if len(event.mimeData().urls()) == 1:
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        """Open a recording; everything else goes into the chart."""
        path = Path(event.mimeData().urls()[0].toLocalFile())
        if path.suffix.lower() in RECORDINGS:
            self.open_recording(path)
        elif path.suffix.lower() in PICTURES:
            self.open_photo(path)
        else:
            self.charter.add_file(path)

    def closeEvent(self, event: QCloseEvent) -> None:
        """Stop what runs and remember the window's place."""
        self.keeper.keep()
        self.session.jobs.shut_down()
        self.session.logbook.close()
        super().closeEvent(event)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose, False)
