"""A question in one line over the foot of the picture, with its answers as buttons and keys."""

from __future__ import annotations

from PySide6.QtCore import QEvent, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QBoxLayout, QFrame, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from plumbbob.desk.kit.widgets import Button, label
from plumbbob.desk.models.session import Session

_EDGE_PX, _INSIDE_PX = 12, 28


class QuestionBar(QFrame):
    """Needs the session, whose question it shows. Keys: a figure, Enter for the name, Escape for not now."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("question")
        self.setProperty("role", "panel")
        self._session = session
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 8, 14, 8)
        self._text = label("", "value", name="question_text")
        self._text.setWordWrap(True)
        column.addWidget(self._text)
        self._row = QHBoxLayout()
        self._row.setSpacing(8)
        column.addLayout(self._row)
        self._name: QLineEdit | None = None
        session.questions.changed.connect(self._show)
        session.view_changed.connect(self._wait)
        self.hide()

    def _wait(self) -> None:
        """On deck nothing asks: it comes back at the desk."""
        self.setVisible(self._session.questions.open is not None and not self._session.view.mode)
        self.place()

    def _show(self) -> None:
        while (item := self._row.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.deleteLater()
        self._name = None
        asked = self._session.questions.open
        if asked is None:
            had = self.isAncestorOf(self.focusWidget()) if self.focusWidget() else False
            self.hide()
            parent = self.parentWidget()
            if had and parent is not None:
                parent.setFocus()
            return
        self._text.setText(asked.text)
        for k, (words, _) in enumerate(asked.answers):
            button = Button(f"{k + 1}  {words}")
            button.setObjectName(f"answer_{k + 1}")
            button.clicked.connect(lambda _=False, k=k: self._session.questions.answer(k))
            self._row.addWidget(button)
        if asked.name is not None:
            self._row.addWidget(label(asked.name_label, "muted"))
            self._name = QLineEdit(asked.name)
            self._name.setObjectName("answer_name")
            self._name.setAccessibleName(asked.name_label or "name")
            self._name.setMinimumWidth(180)
            self._name.returnPressed.connect(lambda: self._answer_name())
            go = Button("Enter")
            go.setObjectName("answer_go")
            go.clicked.connect(lambda: self._answer_name())
            self._row.addWidget(self._name, 1)
            self._row.addWidget(go)
        later = Button("Not now")
        later.setObjectName("answer_later")
        later.clicked.connect(lambda: self._session.questions.ask(None))
        self._row.addWidget(later)
        self._row.addStretch(1)
        if self._session.view.mode:
            return
        self.show()
        self.place()
        self.raise_()
        if not asked.takes_keys:
            return
        if self._name is not None and not asked.answers:
            self._name.setFocus()
            self._name.selectAll()
        else:
            self.setFocus()

    def _answer_name(self) -> None:
        if self._name is not None:
            self._session.questions.answer_name(self._name.text())

    def place(self) -> None:
        """Over the foot of what it lies on."""
        parent = self.parentWidget()
        if parent is not None and self._session.questions.open is not None:
            wide = parent.width() - 2 * _EDGE_PX
            self._row.setDirection(QBoxLayout.Direction.LeftToRight)
            fits = self._row.sizeHint().width() <= wide - _INSIDE_PX
            self._row.setDirection(QBoxLayout.Direction.LeftToRight if fits else QBoxLayout.Direction.TopToBottom)
            high = max(self.heightForWidth(wide), self.sizeHint().height())
            self.setGeometry(_EDGE_PX, parent.height() - high - _EDGE_PX, wide, high)

    def event(self, event: QEvent) -> bool:
        """Its keys are its own while it is asked: figures would go to another stage."""
        if event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent):
            asked = self._session.questions.open
            count = len(asked.answers) if asked is not None else 0
            if event.key() == Qt.Key.Key_Escape or Qt.Key.Key_1 <= event.key() < Qt.Key.Key_1 + count:
                event.accept()
                return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """A figure answers, Escape leaves it for later."""
        asked = self._session.questions.open
        figure = event.key() - Qt.Key.Key_1
        if event.key() == Qt.Key.Key_Escape:
            self._session.questions.ask(None)
        elif asked is not None and 0 <= figure < len(asked.answers):
            self._session.questions.answer(figure)
        else:
            super().keyPressEvent(event)
