"""Colours by role, three themes for three lights, and the one style sheet. No hex anywhere else."""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum
from pathlib import Path

import numpy as np
from numpy.typing import NDArray


class Light(Enum):
    """The light a theme is made for."""

    DAY = "day"
    DUSK = "dusk"
    NIGHT = "night"


@dataclass(frozen=True, slots=True, kw_only=True)
class Theme:
    """Colours of one theme; `*_text` are the shades dark or light enough to read, the others fill and stroke."""

    light: Light
    ground: str
    panel: str
    raised: str
    ink: str
    muted: str
    rule: str
    brass: str
    teal: str
    vermilion: str
    lichen: str
    muted_text: str
    brass_text: str
    teal_text: str
    vermilion_text: str
    lichen_text: str
    fill: str  # of a chosen or main button
    on_fill: str  # text on it
    echo: tuple[str, ...]  # quiet to loud, steadily changing lightness
    depth: tuple[str, ...]  # shallow light to deep dark
    land: str


DUSK = Theme(
    light=Light.DUSK,
    ground="#161D20",
    panel="#1F282B",
    raised="#28343A",
    ink="#E6E8E1",
    muted="#8FA0A4",
    rule="#324046",
    brass="#D9A34A",
    teal="#5FB3B3",
    vermilion="#E36A4B",
    lichen="#9CBF6E",
    muted_text="#A3B2B5",
    brass_text="#E0AE5A",
    teal_text="#74C2C2",
    vermilion_text="#F08A6E",
    lichen_text="#A9CA7E",
    fill="#D9A34A",
    on_fill="#161D20",
    echo=("#10171A", "#173038", "#1E4650", "#4E8F86", "#B9CF9E", "#FFF6D6"),
    depth=("#EBDDB4", "#BFD3B0", "#7DB0A4", "#3E7D8C", "#2A5A72", "#1B3C55"),
    land="#2B2D28",
)
DAY = Theme(
    light=Light.DAY,
    ground="#F3F1EA",
    panel="#E7E4DA",
    raised="#FBFAF5",
    ink="#20292C",
    muted="#56636A",
    rule="#C9C6BA",
    brass="#8A5F1E",
    teal="#1B6670",
    vermilion="#A83A22",
    lichen="#4C6D31",
    muted_text="#404A50",
    brass_text="#624315",
    teal_text="#155057",
    vermilion_text="#812D1A",
    lichen_text="#375024",
    fill="#624315",
    on_fill="#FFFFFF",
    echo=("#F3F1EA", "#CBD6C2", "#93B3A2", "#4A8080", "#22505C", "#0E1B20"),
    depth=("#EBDDB4", "#BFD3B0", "#7DB0A4", "#3E7D8C", "#2A5A72", "#1B3C55"),
    land="#D6D0BE",
)
NIGHT = Theme(
    light=Light.NIGHT,
    ground="#0A0303",
    panel="#120505",
    raised="#1E0808",
    ink="#E0503A",
    muted="#8E3022",
    rule="#3A120D",
    brass="#D0553A",
    teal="#9C3A2A",
    vermilion="#FF6A50",
    lichen="#B04632",
    muted_text="#B54030",
    brass_text="#E0654A",
    teal_text="#C04A38",
    vermilion_text="#FF7A62",
    lichen_text="#C04A38",
    fill="#D0553A",
    on_fill="#140404",
    echo=("#0A0303", "#240807", "#4A100B", "#862115", "#C74B34", "#FF9478"),
    depth=("#8A3020", "#6E2418", "#541A12", "#3C110C", "#290B08", "#180605"),
    land="#1C0705",
)
THEMES = {theme.light: theme for theme in (DAY, DUSK, NIGHT)}


def rgb(colour: str) -> tuple[int, int, int]:
    """The three bytes of a colour."""
    return int(colour[1:3], 16), int(colour[3:5], 16), int(colour[5:7], 16)


def luminance(colour: str) -> float:
    """Relative luminance, 0 black to 1 white (WCAG 2)."""
    parts = [c / 255 for c in rgb(colour)]
    linear = [c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in parts]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


def contrast(a: str, b: str) -> float:
    """Contrast of two colours, 1 to 21 (WCAG 2)."""
    high, low = sorted((luminance(a), luminance(b)), reverse=True)
    return (high + 0.05) / (low + 0.05)


def ramp(theme: Theme, steps: int = 256) -> NDArray[np.uint32]:
    """The theme's echo colours as 0xAARRGGBB, quiet to loud."""
    return ramp_of(theme.echo, steps)


def ramp_of(colours: tuple[str, ...], steps: int = 256) -> NDArray[np.uint32]:
    """Colours between stops as 0xAARRGGBB, shape (steps,)."""
    stops = np.array([rgb(c) for c in colours], np.float64)
    at = np.linspace(0, len(stops) - 1, steps)
    channels = [np.interp(at, np.arange(len(stops)), stops[:, k]).round().astype(np.uint32) for k in range(3)]
    return np.uint32(0xFF000000) | channels[0] << np.uint32(16) | channels[1] << np.uint32(8) | channels[2]


_MOST_BIG_PT = 27.0  # large enough to be read from the helm; with larger text it would crowd out what it is about


def style_sheet(theme: Theme, point_size: float) -> str:
    """The one style sheet of the program."""
    t, icons = theme, (Path(__file__).parent / "icons").as_posix()
    big, small = min(point_size * 1.9, _MOST_BIG_PT), point_size * 0.82
    return f"""
    * {{ font-family: "B612"; font-size: {point_size:.1f}pt; color: {t.ink}; }}
    QDialog, QMessageBox {{ background: {t.panel}; }}
    QFileDialog QToolButton {{ padding: 2px; }}
    QListView, QTreeView {{ background: {t.ground}; border: 1px solid {t.rule}; outline: 0;
        selection-background-color: {t.fill}; selection-color: {t.on_fill}; }}
    QListView::item, QTreeView::item {{ padding: 3px; }}
    QListView::item:selected, QTreeView::item:selected {{ background: {t.fill}; color: {t.on_fill}; }}
    QWidget#window, QWidget#stage {{ background: {t.ground}; }}
    QWidget[role="panel"], QFrame[role="panel"] {{ background: {t.panel}; }}
    QLabel {{ background: transparent; }}
    QLabel[role="head"] {{ color: {t.muted_text}; font-size: {small:.1f}pt; font-weight: bold;
        letter-spacing: 0.5px; }}
    QLabel[role="muted"] {{ color: {t.muted_text}; }}
    QLabel[role="small"] {{ color: {t.muted_text}; font-size: {small:.1f}pt; }}
    QLabel[role="value"] {{ font-weight: bold; }}
    QLabel[role="big"] {{ font-size: {big:.1f}pt; font-weight: bold; }}
    QLabel[role="title"] {{ font-size: {point_size * 1.25:.1f}pt; font-weight: bold; }}
    QLabel[role="warn_small"] {{ color: {t.vermilion_text}; font-size: {small:.1f}pt; }}
    QLabel[role="alarm"] {{ color: {t.vermilion_text}; border: 2px solid {t.vermilion}; border-radius: 5px;
        font-size: {point_size * 1.25:.1f}pt; font-weight: bold; padding: 4px 10px; }}
    QLabel[role="warn"] {{ color: {t.vermilion_text}; }}
    QLabel[role="why"] {{ font-size: {point_size * 0.92:.1f}pt; }}
    QPushButton, QToolButton {{ background: {t.raised}; border: 1px solid {t.rule}; border-radius: 4px;
        padding: 3px 10px; }}
    QPushButton:hover, QToolButton:hover {{ border-color: {t.muted}; }}
    QPushButton:focus, QToolButton:focus, QLineEdit:focus, QComboBox:focus, QTableView:focus
        {{ border: 1px solid {t.brass}; }}
    QPushButton:checked, QToolButton:checked {{ background: {t.fill}; color: {t.on_fill};
        border-color: {t.fill}; }}
    QPushButton:disabled, QToolButton:disabled {{ color: {t.muted}; }}
    QPushButton[role="main"] {{ background: {t.fill}; color: {t.on_fill}; border-color: {t.fill};
        font-weight: bold; }}
    QLineEdit, QComboBox {{ background: {t.raised}; border: 1px solid {t.rule}; border-radius: 4px; padding: 3px 5px;
        selection-background-color: {t.fill}; selection-color: {t.on_fill}; }}
    QLineEdit[wrong="true"] {{ border: 1px solid {t.vermilion}; }}
    QComboBox::drop-down {{ border: none; width: 20px; }}
    QComboBox::down-arrow {{ image: url("{icons}/down-{t.light.value}.svg"); width: 12px; height: 12px; }}
    QAbstractSpinBox::up-button, QAbstractSpinBox::down-button {{ border: none; width: 18px;
        background: transparent; }}
    QAbstractSpinBox::up-arrow {{ image: url("{icons}/up-{t.light.value}.svg"); width: 12px; height: 12px; }}
    QAbstractSpinBox::down-arrow {{ image: url("{icons}/down-{t.light.value}.svg"); width: 12px; height: 12px; }}
    QComboBox QAbstractItemView {{ background: {t.raised}; selection-background-color: {t.fill};
        selection-color: {t.on_fill}; border: 1px solid {t.rule}; }}
    QMenuBar, QMenu {{ background: {t.panel}; }}
    QMenuBar::item {{ background: transparent; padding: 3px 9px; }}
    QMenuBar::item:selected, QMenu::item:selected {{ background: {t.fill}; color: {t.on_fill}; }}
    QMenu {{ border: 1px solid {t.rule}; padding: 4px; }}
    QMenu::item {{ padding: 5px 26px 5px 22px; }}
    QMenu::item:disabled {{ color: {t.muted}; }}
    QMenu::separator {{ height: 1px; background: {t.rule}; margin: 4px 8px; }}
    QToolTip {{ background: {t.raised}; color: {t.ink}; border: 1px solid {t.rule}; padding: 4px; }}
    QTableView {{ background: {t.ground}; alternate-background-color: {t.panel}; gridline-color: transparent;
        border: 1px solid {t.rule}; selection-background-color: {t.rule}; selection-color: {t.ink}; outline: 0; }}
    QTableView::item {{ padding: 0 6px; border: none; }}
    QHeaderView {{ background: {t.panel}; }}
    QHeaderView::section {{ background: {t.panel}; color: {t.muted_text}; border: none; padding: 6px;
        font-size: {small:.1f}pt; font-weight: bold; }}
    QToolButton[role="quiet"] {{ background: transparent; border: none; color: {t.brass_text};
        font-size: {small:.1f}pt; padding: 1px 2px; }}
    QToolButton[role="quiet"]:hover {{ color: {t.ink}; }}
    QSlider::groove:horizontal {{ background: {t.rule}; height: 4px; border-radius: 2px; }}
    QSlider::sub-page:horizontal {{ background: {t.brass}; border-radius: 2px; }}
    QSlider::handle:horizontal {{ background: {t.ink}; width: 12px; margin: -5px 0; border-radius: 6px; }}
    QCheckBox {{ background: transparent; spacing: 8px; }}
    QCheckBox::indicator {{ width: 13px; height: 13px; border: 1px solid {t.muted}; border-radius: 3px;
        background: {t.raised}; }}
    QCheckBox::indicator:checked {{ background: {t.fill}; border: 1px solid {t.fill};
        image: url("{icons}/check-{t.light.value}.svg"); }}
    QPlainTextEdit, QAbstractSpinBox {{ background: {t.raised}; border: 1px solid {t.rule}; border-radius: 4px;
        padding: 3px; selection-background-color: {t.fill}; selection-color: {t.on_fill}; }}
    QAbstractSpinBox {{ padding: 1px 3px; }}
    QAbstractSpinBox QLineEdit, QAbstractSpinBox QLineEdit:focus {{ border: none; background: transparent; }}
    QAbstractSpinBox:focus {{ border-color: {t.brass}; }}
    QScrollBar:vertical {{ background: {t.panel}; width: 12px; }}
    QScrollBar::handle:vertical {{ background: {t.rule}; border-radius: 5px; min-height: 30px; margin: 2px; }}
    QScrollBar:horizontal {{ background: {t.panel}; height: 12px; }}
    QScrollBar::handle:horizontal {{ background: {t.rule}; border-radius: 5px; min-width: 30px; margin: 2px; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
    """
