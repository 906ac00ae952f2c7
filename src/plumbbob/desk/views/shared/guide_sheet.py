"""The guide, inside: the page of the stage on screen, the others a click away. No network, no other program."""

from __future__ import annotations

from importlib.resources import files

from PySide6.QtCore import QUrl
from PySide6.QtWidgets import QHBoxLayout, QListWidget, QSizePolicy, QTextBrowser, QWidget

from plumbbob.desk.kit.sheet import Sheet
from plumbbob.desk.models.session import Session

PAGES = (
    ("first-day", "The first day"),
    ("water", "Water"),
    ("scan", "Scan"),
    ("rig", "Rig"),
    ("run", "Run"),
    ("listen", "Wiring it up"),
    ("deck", "On deck"),
    ("log", "Log"),
    ("review", "Review"),
    ("practice", "Practice"),
    ("files", "Files and waters"),
)


def page_text(name: str) -> str:
    """A page as Markdown."""
    return files("plumbbob.guide").joinpath(f"{name}.md").read_text(encoding="utf-8")


class GuideSheet(Sheet):
    """Needs the session, for the stage."""

    def __init__(self, session: Session, host: QWidget) -> None:
        super().__init__(session, "guide", "Guide", host, over=True)
        row = QHBoxLayout()
        self._pages = QListWidget()
        self._pages.setObjectName("guide_pages")
        self._pages.setAccessibleName("pages of the guide")
        self._pages.addItems([title for _, title in PAGES])
        self._pages.setSizeAdjustPolicy(QListWidget.SizeAdjustPolicy.AdjustToContents)
        self._pages.setSizePolicy(QSizePolicy.Policy.Maximum, QSizePolicy.Policy.Expanding)
        self._text = QTextBrowser()
        self._text.setObjectName("guide_text")
        self._text.setAccessibleName("the page")
        self._text.setOpenLinks(False)
        self._text.setSearchPaths([str(files("plumbbob.guide"))])
        self._text.anchorClicked.connect(self._follow)
        self._text.setMinimumHeight(360)
        self._pages.currentRowChanged.connect(self._turn)
        row.addWidget(self._pages)
        row.addWidget(self._text, 1)
        self.body.addLayout(row, 1)
        self.finish("Close", lambda: session.ask_sheet(""), cancel=False)

    def fill(self) -> None:
        """The page of the stage; the first day while nothing is open."""
        stage = self.session.stage if self.session.water.key or self.session.scan.recording else "first-day"
        names = [name for name, _ in PAGES]
        row = names.index(stage) if stage in names else 0
        self._pages.setCurrentRow(row)
        self._turn(row)

    def _turn(self, row: int) -> None:
        if 0 <= row < len(PAGES):
            self._text.setMarkdown(page_text(PAGES[row][0]))

    def _follow(self, url: QUrl) -> None:
        name = url.fileName().removesuffix(".md")
        names = [n for n, _ in PAGES]
        if name in names:
            self._pages.setCurrentRow(names.index(name))
