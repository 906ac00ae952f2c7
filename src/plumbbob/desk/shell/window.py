"""The window: assembles the parts, opens recordings, keeps nothing of its own."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from PySide6.QtCore import QElapsedTimer, QEvent, QPoint, QRect, Qt, QTimer
from PySide6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QResizeEvent
from PySide6.QtWidgets import (
    QApplication,
    QFrame,
    QHBoxLayout,
    QMainWindow,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from plumbbob.core.sonar.recording import Recording
from plumbbob.desk.commands.actions import Actions
from plumbbob.desk.kit.file_dialog import ask_to_open, ask_to_open_many, ask_to_save
from plumbbob.desk.kit.images import save_image
from plumbbob.desk.kit.layouts import PANEL_WIDTH, PLUMB_WIDTH, WithChart, as_column, scrolling, set_columns
from plumbbob.desk.kit.palette import palette_of
from plumbbob.desk.models.display import DEFAULT_TEXT_SIZE
from plumbbob.desk.models.session import Session
from plumbbob.desk.models.settings import bytes_of, text_of
from plumbbob.desk.practice.window import PracticeWindow
from plumbbob.desk.shell.footer import Footer, Notice
from plumbbob.desk.shell.header import Header
from plumbbob.desk.shell.long_press import LongPress
from plumbbob.desk.shell.persistence import StateKeeper
from plumbbob.desk.shell.question_bar import QuestionBar
from plumbbob.desk.shell.spoken import Spoken
from plumbbob.desk.shell.start_page import StartPage
from plumbbob.desk.tasks.add_soundings import SoundingsAdder
from plumbbob.desk.tasks.build_chart import ChartBuilder
from plumbbob.desk.tasks.find_water import WaterFinder
from plumbbob.desk.tasks.follow_lines import LineFollower
from plumbbob.desk.tasks.follow_live import LiveFollower
from plumbbob.desk.tasks.grow_chart import LiveChart
from plumbbob.desk.tasks.keep_column import ColumnKeeper
from plumbbob.desk.tasks.keep_efforts import EffortKeeper
from plumbbob.desk.tasks.keep_seen import SeenKeeper
from plumbbob.desk.tasks.keep_tide import TideKeeper
from plumbbob.desk.tasks.keep_waters import WaterKeeper
from plumbbob.desk.tasks.listen import LiveListener
from plumbbob.desk.tasks.live_water import LiveWater
from plumbbob.desk.tasks.load_picture import PictureLoader
from plumbbob.desk.tasks.load_recording import RecordingLoader
from plumbbob.desk.tasks.log_files import LogFiles
from plumbbob.desk.tasks.open_files import FileOpener
from plumbbob.desk.tasks.plan_lanes import LanePlanner
from plumbbob.desk.tasks.plan_today import DayPlanner
from plumbbob.desk.tasks.replay_day import DayReplay
from plumbbob.desk.tasks.review_log import LogReviewer
from plumbbob.desk.tasks.scan_evidence import Edit, EvidenceKeeper
from plumbbob.desk.tasks.sounds import Sounds
from plumbbob.desk.tasks.tasks import Tasks
from plumbbob.desk.theme import Light, style_sheet
from plumbbob.desk.views.chart.kind import ChartHome
from plumbbob.desk.views.kinds import Parts, StageKind, ViewKind
from plumbbob.desk.views.log.catch_form import CatchForm
from plumbbob.desk.views.plumbline import PlumbLine
from plumbbob.desk.views.registry import STAGES, VIEWS, commands_of
from plumbbob.desk.views.shared.kind import shared_sheets
from plumbbob.desk.views.sonar.down.timeline import HEIGHT as TIMELINE_HEIGHT
from plumbbob.files.errors import FileError
from plumbbob.formats.registry import Content, dialog_filter
from plumbbob.services.waters import Waters

_REPLAY_MS = 33
_MOST_FOOT = 0.33  # of the window's height: the picture stays the larger part


class MainWindow(QMainWindow):
    """Needs the session; everything in it reads and asks the session."""

    def __init__(
        self,
        session: Session,
        waters: Waters,
        *,
        demo: bool = False,
        stages: Sequence[StageKind] = STAGES,
        views: Sequence[ViewKind] = VIEWS,
    ) -> None:
        super().__init__()
        self.setWindowTitle("Plumbbob")
        self.setAcceptDrops(True)
        self.session = session
        self.practice: PracticeWindow | None = None
        charter = ChartBuilder(session, waters)
        finder = WaterFinder(session, waters)
        planner = DayPlanner(session, charter)
        LiveWater(session, charter, finder)
        follower = LiveFollower(session, LiveChart(session, charter))
        self.tasks = Tasks(
            charter=charter,
            soundings=SoundingsAdder(session, charter, finder),
            column=ColumnKeeper(session, charter, self._ask_profile),
            tide=TideKeeper(session, charter, self._ask_tide),
            lanes=LanePlanner(session),
            day=planner,
            replay=DayReplay(session, planner),
            listener=LiveListener(session, waters.root.parent / "passes", follower),
            follower=follower,
            sounds=Sounds(session),
            rigger=LineFollower(session, waters.root.parent),
            waters=WaterKeeper(session, charter, finder),
            log_files=LogFiles(session),
            reviewer=LogReviewer(session),
        )
        self.opener = RecordingLoader(session, charter, finder, demo)
        self.efforts = EffortKeeper(session)
        self.tasks.log_files.closed.connect(self.opener.open_log)
        self.scanner = EvidenceKeeper(session, charter)
        SeenKeeper(session, charter)
        self.photographer = PictureLoader(session, waters.root.parent / "pictures", self._show_photo)
        self.files = FileOpener(session, self.tasks, self.open_recording, self.open_photo)
        commands = commands_of(stages, views)
        self.actions_by_id = Actions(session, commands, self, self)
        self.actions_by_id.fill(self.menuBar())
        self._dressed: tuple[Light, float] | None = None
        self._stages = {kind.name: kind for kind in stages}
        self._picture = QFrame()
        parts = Parts(session=session, actions=self.actions_by_id, tasks=self.tasks)
        self._whole = self._assemble(parts, stages, views)
        self.setCentralWidget(self._whole)
        self.notice, self.catch_form = Notice(session, self._picture), CatchForm(session, self._picture)
        self.question = QuestionBar(session, self._picture)
        own = tuple(sheet for kind in views for sheet in kind.sheets(parts, self._picture))
        self.sheets = (*own, *shared_sheets(parts, commands, self, self._picture))
        self.start_page = StartPage(session, self.actions_by_id, self, self._picture)
        self._replay = QTimer(self)
        self._replay.setInterval(_REPLAY_MS)
        self._replay.timeout.connect(self._play_on)
        self._since = QElapsedTimer()
        session.display.changed.connect(self._dress)
        session.view_changed.connect(self._show_view)
        session.scan.opened.connect(self._opened)
        session.scan.comparison.chart_changed.connect(self._place_chart)
        session.scan.replay.changed.connect(self._play_or_pause)
        session.pass_picked.connect(self._open_pass)
        session.jobs.failed.connect(lambda exc: session.say(str(exc), wrong=True))
        self._dress()
        self._show_view()
        geometry = bytes_of(session.settings, "window")
        self.resize(1280, 800)
        if geometry is not None:
            self.restoreGeometry(geometry)
        self.keeper = StateKeeper(session, self)
        self.long_press = LongPress(self._picture, lambda: self.actions_by_id["deck.toggle"].trigger())
        self.spoken = Spoken(session, self._plumb, lambda: self.picture(session.view.name))

    def _assemble(self, parts: Parts, stages: Sequence[StageKind], views: Sequence[ViewKind]) -> QWidget:
        session = self.session
        whole = QWidget()
        whole.setObjectName("window")
        column = QVBoxLayout(whole)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(Header(session, self.actions_by_id, [(s.name, s.title) for s in stages]))
        self._panels, self._pictures, self._feet = QStackedWidget(), QStackedWidget(), QStackedWidget()
        for kind in views:
            self._panels.addWidget(scrolling(kind.panel(parts)))
            self._pictures.addWidget(kind.picture(parts))
        for stage in stages:
            self._feet.addWidget(stage.foot(parts))
        self._chart_home = next((p for k in range(len(views)) if isinstance(p := self._page(k), ChartHome)), None)
        # a picture of a pass may have the chart beside it
        beside, self._split_home = QSplitter(Qt.Orientation.Horizontal), QWidget()
        QVBoxLayout(self._split_home).setContentsMargins(0, 0, 0, 0)
        self._split_home.hide()
        beside.setChildrenCollapsible(False)
        beside.setHandleWidth(5)
        for k, (widget, share) in enumerate(((self._pictures, 3), (self._split_home, 2))):
            beside.addWidget(widget)
            beside.setStretchFactor(k, share)
        over = QVBoxLayout(self._picture)
        over.setContentsMargins(0, 0, 0, 0)
        over.addWidget(beside)
        self._plumb = PlumbLine(session)
        row = QHBoxLayout()
        row.setSpacing(0)
        left = as_column(self._panels, PANEL_WIDTH)
        row.addWidget(left)
        row.addWidget(self._picture, 1)
        row.addWidget(as_column(self._plumb, PLUMB_WIDTH))
        column.addLayout(row, 1)
        column.addWidget(self._feet)
        footer = Footer(session, self.actions_by_id)
        column.addWidget(footer)
        self._edges: tuple[QWidget, ...] = (left, self._plumb, self._feet, footer, self.menuBar())
        return whole

    def _page(self, index: int) -> QWidget:
        page = self._pictures.widget(index)
        assert page is not None
        return page

    def picture(self, name: str) -> QWidget:
        """The picture of a view, as the keys reach it."""
        page = self._page([v.name for v in self.session.views].index(name))
        return page.focusProxy() or page

    def _show_view(self) -> None:
        """The picture and panel of the view on screen, and what its stage has under it."""
        session = self.session
        i = session.views.index(session.view)
        self._panels.setCurrentIndex(i)
        self._pictures.setCurrentIndex(i)
        for edge in self._edges:
            edge.setVisible(not session.view.mode)
        self._place_chart()
        self._feet.setCurrentIndex(list(self._stages).index(session.stage))
        self._feet.setFixedHeight(self._foot_height())
        self._focus()

    def _opened(self) -> None:
        if not (self.session.sheet or self.session.catching):  # somebody may be typing there
            self._focus()

    def _focus(self) -> None:
        """What is on screen takes the arrow keys, and says what is under its cursor."""
        self.picture(self.session.view.name).setFocus()

    def _place_chart(self) -> None:
        """Put the chart where it is looked at."""
        session = self.session
        beside = session.view.can_have_chart and session.scan.comparison.with_chart
        page = self._pictures.currentWidget()
        slot = page.chart_slot if isinstance(page, WithChart) else None
        if self._chart_home is not None:
            self._chart_home.lend(slot or (self._split_home if beside else None))
        self._split_home.setVisible(beside)
        if beside:
            boat, chart = session.scan.boat_place(), session.chart.chart
            if boat is not None and chart is not None:
                x, y = chart.plane.to_xy(boat.latitude, boat.longitude)
                session.chart.centre_on(float(x), float(y), closer=True)

    # -- what follows the session -------------------------------------------------------------------------------

    def _dress(self) -> None:
        app, display = QApplication.instance(), self.session.display
        assert isinstance(app, QApplication)
        if self._dressed == (display.light, display.text_size):
            return  # other units look alike
        self._dressed = display.light, display.text_size
        app.setPalette(palette_of(display.theme))
        # on the window, not the application: polishing takes a third of the time, and its dialogs have it too
        self.setStyleSheet(style_sheet(display.theme, display.text_size))
        set_columns(self, self._wider())
        self._feet.setFixedHeight(self._foot_height())

    def _foot_height(self) -> int:
        """What lies under the picture; words need more room when they are larger."""
        wanted = self._stages[self.session.stage].foot_height * self._wider()
        return round(min(wanted, max(_MOST_FOOT * self.height(), self._stages[self.session.stage].foot_height)))

    def _wider(self) -> float:
        """How much room grows with the text."""
        return 0.4 + 0.6 * self.session.display.text_size / DEFAULT_TEXT_SIZE

    def _play_or_pause(self) -> None:
        if self.session.scan.replay.on:
            self._since.start()
            self._replay.start()
        else:
            self._replay.stop()

    def _play_on(self) -> None:
        self.session.scan.play_on(self._since.restart() / 1000 * self.session.scan.replay.speed)

    # -- the host of the commands -------------------------------------------------------------------------------

    def open_path(self, title: str, pattern: str) -> Path | None:
        """A file to read, chosen by the person."""
        return ask_to_open(self, self.session.display.theme, title, self.opener.folder, pattern)

    def open_files(self, paths: Sequence[Path]) -> None:
        """Whatever they are."""
        self.files.open(paths)

    def open_paths(self, title: str, pattern: str) -> list[Path]:
        """Files to read, chosen by the person."""
        return ask_to_open_many(self, self.session.display.theme, title, self.opener.folder, pattern)

    def save_path(self, title: str, name: str, pattern: str) -> Path | None:
        """A file to write, chosen by the person."""
        return ask_to_save(self, self.session.display.theme, title, Path(self.opener.folder) / name, pattern)

    def open_recording(self, path: Path) -> None:
        """Open in the background; what is open stays until it is there."""
        self.opener.open(path, screenful=max(self._pictures.width(), 200))

    def _show_photo(self, path: Path, recording: Recording) -> None:
        self.opener.show(path, recording, screenful=max(self._pictures.width(), 200))

    def compare_with(self, path: Path) -> None:
        """Another pass beside the open one."""
        self.scanner.compare_with(path)

    def edit_recording(self, how: Edit, other: Path, out: Path) -> None:
        """Cut, join or thin into another file."""
        self.scanner.edit_recording(how, other, out)

    def lay_swath(self) -> None:
        """What the fans saw on the chart."""
        self.scanner.lay_swath()

    def practise(self) -> None:
        """The window to practise in; one is enough."""
        if self.practice is None:
            self.practice = PracticeWindow(self.session, self)
        self.practice.show()
        self.practice.raise_()
        self.practice.activateWindow()

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
        left = self._pictures.mapTo(self._whole, QPoint(0, 0))
        clock = self._feet.mapTo(self._whole, QPoint(0, TIMELINE_HEIGHT))
        right = self._plumb.mapTo(self._whole, QPoint(self._plumb.width(), 0))
        whole = self._whole.grab(QRect(left, QPoint(right.x(), clock.y())))
        try:
            save_image(whole, path)
        except FileError as exc:
            self.session.say(f"{exc}.", wrong=True)
            return
        self.session.say(f"Picture written to {path.name}.")

    def _ask_profile(self) -> None:
        path = self.open_path("Read a column", dialog_filter("Column", Content.COLUMN))
        if path is not None:
            self.tasks.column.read_profile(path)

    def _ask_tide(self) -> None:
        path = self.open_path("Read a tide table", dialog_filter("Tide table", Content.TIDE))
        if path is not None:
            self.tasks.tide.read_file(path)

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

    def snapshot(self) -> str:
        """The window as a picture, and the newest pings, beside the recordings."""
        return self.tasks.listener.snapshot(self.grab())

    def open_made_up(self) -> None:
        """The made-up lake as one more water, with a pass over it."""
        self.opener.open_made_up(lambda path: self.open_recording(path))

    def close_window(self) -> None:
        """End the program."""
        self.close()

    # -- the window's own events --------------------------------------------------------------------------------

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Keep what lies on top in its place."""
        super().resizeEvent(event)
        self.notice.place()
        self.question.place()
        self.catch_form.place()
        for sheet in self.sheets:
            if sheet.isVisible():
                sheet.place()
        self.start_page.place()

    def event(self, event: QEvent) -> bool:
        """A key finds every command as it is now, however shortly before something changed."""
        if event.type() == QEvent.Type.ShortcutOverride:
            self.actions_by_id.refresh()
        return super().event(event)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        """Files may be dropped, as many as there are."""
        if any(url.isLocalFile() for url in event.mimeData().urls()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        """Whatever they are: each is told by what is in it."""
        self.files.open([Path(url.toLocalFile()) for url in event.mimeData().urls() if url.isLocalFile()])

    def closeEvent(self, event: QCloseEvent) -> None:
        """Stop what runs and remember the window's place."""
        self.keeper.keep()
        self.tasks.listener.shut_down()
        self.tasks.sounds.shut_down()
        self.session.jobs.shut_down()
        self.session.logbook.close()
        super().closeEvent(event)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose, False)
