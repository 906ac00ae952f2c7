"""Pages of a PDF in the program's own dress: one hand for all reports."""

from __future__ import annotations

import logging
from datetime import UTC, datetime
from typing import Any

from plumbbob.formats.waters import data_path

MARGIN, WIDE = 15.0, 180.0  # millimetres
INK, MUTED, BRASS, RULE = (32, 41, 44), (64, 74, 80), (138, 94, 31), (201, 198, 186)


def new_page() -> Any:
    """A document with its first page."""
    from fpdf import FPDF

    logging.getLogger("fpdf").setLevel(logging.ERROR)  # a letter that the font lacks stays blank
    page = FPDF(format="A4")
    page.set_creation_date(datetime(2000, 1, 1, tzinfo=UTC))  # when it was written is nobody's business
    page.set_margins(MARGIN, MARGIN)
    page.set_auto_page_break(True, MARGIN)
    for style, name in (("", "B612-Regular.ttf"), ("B", "B612-Bold.ttf")):
        page.add_font("B612", style, str(data_path(name)))
    page.set_title("Fishing report")
    page.set_producer("Plumbbob")
    page.add_page()
    page.set_font("B612", size=9)
    return page


def line_of(page: Any, text: str, size: float, *, bold: bool = False, colour: tuple[int, int, int] = INK) -> None:
    """A paragraph."""
    page.set_font("B612", "B" if bold else "", size)
    page.set_text_color(*colour)
    page.multi_cell(WIDE, size * 0.52, plain(text), new_x="LMARGIN", new_y="NEXT")
    page.set_text_color(*INK)
    page.set_font("B612", "", 9)


def plain(text: str) -> str:
    """Text without what no page can show."""
    return "".join(c if c.isprintable() or c == "\n" else " " for c in text)
