"""An empty stage is a start: what it is for, and what begins it, each one press."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QWidget

from plumbbob.desk.commands.actions import Actions
from plumbbob.desk.commands.registry import CommandHost
from plumbbob.desk.kit.widgets import Button, label, panel_column
from plumbbob.desk.models.session import Session

_WIDE_PX = 460


class StartPage(QFrame):
    """Needs the session; lies over a picture that has nothing to show."""

    def __init__(self, session: Session, actions: Actions, asker: CommandHost, parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("start")
        self._session = session
        column = panel_column(self, (24, 20, 24, 20), 10)
        self._title = label("", "title", name="start_title")
        self._words = label("", "muted", name="start_words")
        self._words.setWordWrap(True)
        self._words.setAlignment(Qt.AlignmentFlag.AlignTop)
        column.addWidget(self._title)
        column.addWidget(self._words)
        self._actions = actions
        self._main = Button("")
        self._main.setObjectName("start_main")
        self._main.setProperty("role", "main")
        self._main.setMinimumHeight(40)
        self._main.clicked.connect(self._begin)
        column.addWidget(self._main)
        self._others: list[Button] = []
        for name, words, act in (
            ("own", "Open your own files", actions["file.open"].trigger),
            ("made_up", "Try it on a made-up lake", asker.open_made_up),
            ("practice", "Practise reading, five minutes", asker.practise),
            ("column", "Type a temperature column", lambda: session.ask_sheet("profile")),
        ):
            button = Button(words)
            button.setObjectName(f"start_{name}")
            button.setMinimumHeight(40)
            button.clicked.connect(lambda _=False, act=act: act())
            self._others.append(button)
            column.addWidget(button)
        column.addWidget(label("Files may also be dropped anywhere.  F1 guide   / search   F9 waters", "small"))
        for signal in (
            session.view_changed,
            session.run.planned,
            session.chart.opened,
            session.scan.opened,
            session.logbook.changed,
            session.water_changed,
            session.jobs.changed,
            session.sheet_asked,
            session.questions.changed,
            session.screen_picture.opened,
        ):
            signal.connect(self._show)
        self._show()

    def _show(self) -> None:
        session = self._session
        busy = session.jobs.live or session.sheet or session.questions.open is not None
        words = "" if busy else session.view.start_words
        self.setVisible(bool(words))
        if words:
            title, _, rest = words.partition(": ")
            self._title.setText(title)
            self._words.setText(rest)
            begin = session.view.start_command
            self._main.setVisible(bool(begin))
            for button in self._others:  # what is there already need not be begun again
                button.setVisible(not begin)
            if begin:
                action = self._actions[begin]
                self._main.setText(f"{action.text()}   {action.shortcut().toString()}")
            self.place()

    def _begin(self) -> None:
        if self._session.view.start_command:
            self._actions[self._session.view.start_command].trigger()

    def place(self) -> None:
        """In the middle of what it lies on."""
        parent = self.parentWidget()
        if parent is not None:
            wide = min(round(_WIDE_PX * self._session.display.text_size / 10.0), parent.width() - 24)
            high = max(self.heightForWidth(wide), self.sizeHint().height())
            self.setGeometry((parent.width() - wide) // 2, max((parent.height() - high) // 2, 8), wide, high)
