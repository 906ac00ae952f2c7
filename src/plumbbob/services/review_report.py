"""A review as a PDF for others: sentences with what speaks against them, rates with their doubt, without places."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from plumbbob.core.tally.questions import Part
from plumbbob.core.tally.review import Review
from plumbbob.files.atomic import writing
from plumbbob.files.errors import FileError
from plumbbob.files.text import why
from plumbbob.services.pages import BRASS, INK, MARGIN, MUTED, RULE, WIDE, line_of, new_page, plain
from plumbbob.services.review import LogReview
from plumbbob.wording import review as words

SECRET = frozenset({"spot"})  # conditions that tell a place
_NAME = 52.0
_ROW, _MOST_BINS = 5.2, 24


def write_review(out: Path, made: LogReview, units: words.Units, *, places: bool) -> list[str]:
    """
    Write the report; says what was left out of it.

    Parameters
    ----------
    out : Path
    made : LogReview
    units : callable
        The system that each kind of quantity is said in.
    places : bool
        Whether names of places may be told.

    Raises
    ------
    FileError
    """
    review = made.review
    page = new_page()
    line_of(page, "What the record says", 20, bold=True)
    line_of(page, f"{review.trips} trips, {review.hours:.0f} rod hours, {review.fish} fish, "
                  f"{review.rate:.2f} a rod hour", 10, colour=MUTED)  # fmt: skip
    page.ln(3)
    hidden = 0
    if review.silence is not None:
        line_of(page, words.silence(review.silence), 11)
    for k, found in enumerate(review.findings.found):
        names = [review.pieces.dimensions[p.dimension].name for p in (found.part, *found.same, *found.beside)]
        if not places and SECRET.intersection(names):
            hidden += 1
            continue
        line_of(page, words.finding(review, found, found.part, units), 12, bold=True)
        line_of(page, words.against(review, found, review.evidence[k], units), 10, colour=MUTED)
        page.ln(1.5)
    if review.silence is None and not review.findings.found:
        line_of(page, "Nothing stands out beyond chance.", 11)
    for aside in review.asides:
        parts = [aside.part, *([aside.by] if aside.by is not None else [])]
        if places or not SECRET.intersection(review.pieces.dimensions[p.dimension].name for p in parts):
            line_of(page, words.aside(review, aside, units), 10)
    page.ln(2)
    for name in review.rates:
        if places or name not in SECRET:
            _rates(page, review, name, units)
    try:
        with writing(out, private=True) as fresh:
            fresh.write_bytes(bytes(page.output()))
    except OSError as exc:
        raise FileError(out, "", f"could not be written: {why(exc)}") from exc
    told = ["rates by place", *([f"{hidden} sentences that tell a place"] if hidden else [])]
    return [] if places else told


def _rates(page: Any, review: Review, name: str, units: words.Units) -> None:
    """A bar a bin: its length the rate, the line where the truth lies eight times in ten."""
    rates = review.rates[name][:_MOST_BINS]
    dimension = review.dimension(name)
    assert dimension is not None
    if page.get_y() + 9 + _ROW * len(rates) > page.eph + page.t_margin - 4:
        page.add_page()
    line_of(page, f"Fish per rod hour by {words.NAMES[name]}", 11, bold=True)
    most = max(max((r.high for r in rates), default=0.1), review.rate, 0.05)
    room = WIDE - _NAME - 34.0

    def x(value: float) -> float:
        return MARGIN + _NAME + min(value / most, 1.0) * room

    page.set_font(size=8.5)
    for r in rates:
        y = page.get_y()
        label = words.named(name, dimension, Part(0, r.bin, r.bin), units)
        page.set_text_color(*INK)
        page.set_xy(MARGIN, y)
        page.cell(_NAME - 2, _ROW, plain(label)[:34], align="R")
        page.set_fill_color(*(BRASS if r.enough else RULE))
        page.rect(x(0.0), y + 1.3, max(x(r.rate) - x(0.0), 0.2), _ROW - 2.6, style="F")
        page.set_draw_color(*INK)
        page.line(x(r.low), y + _ROW / 2, x(r.high), y + _ROW / 2)
        page.set_xy(MARGIN + _NAME + room + 2, y)
        page.set_text_color(*MUTED)
        page.cell(32, _ROW, f"{r.rate:.2f}  {r.hours:.0f} h  {r.fish} fish")
        page.set_y(y + _ROW)
    page.ln(3)
