"""A report of fishing as a PDF: what was caught, how it was fished, and a map only of places that may be told."""

from __future__ import annotations

import io
import logging
import math
from collections import Counter, defaultdict
from collections.abc import Mapping, Sequence
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from plumbbob.core.units import Kind, System, quantity
from plumbbob.files.atomic import writing
from plumbbob.files.errors import FileError
from plumbbob.files.text import why
from plumbbob.formats.waters import data_path
from plumbbob.services.pictures import plain_picture

Rows = Sequence[Mapping[str, str]]
_MARGIN, _WIDE = 15.0, 180.0
_INK, _MUTED, _BRASS, _RULE = (32, 41, 44), (64, 74, 80), (138, 94, 31), (201, 198, 186)
_MOST_ROWS = 2000
_COLUMNS = (
    ("Day", 26.0, "time"), ("Fish", 42.0, "species"), ("Length", 20.0, "length_m"), ("Weight", 20.0, "weight_kg"),
    ("", 20.0, "kept"), ("Fish at", 18.0, "fish_depth_m"), ("Lure at", 18.0, "lure_depth_m"),
    ("Bottom", 16.0, "bottom_m"),
)  # fmt: skip


def write_report(
    out: Path,
    tables: Mapping[str, Rows],
    *,
    exact: bool,
    pictures: Sequence[Path] = (),
    system: System = System.METRIC,
) -> None:
    """
    Write the report; what may be told was decided before. Pictures are drawn again, without what cameras write into
    them.

    Raises
    ------
    FileError
    """
    page = _page()
    days = sorted({r["time"][:10] for t in ("catches", "contacts") for r in tables[t] if r.get("time")})
    days = sorted({*days, *(r["start"][:10] for r in tables["trips"] if r.get("start"))})
    title = "Fishing report"
    if exact and len({r["water"] for r in tables["trips"] if r.get("water")}) == 1:
        title = f"{tables['trips'][0]['water']}"
    _line(page, title, 20, bold=True)
    when = days[0] if len(days) == 1 else f"{days[0]} to {days[-1]}" if days else ""
    blank = _blank_trips(tables)
    parts = [when, f"{len(tables['trips'])} trips" if len(tables["trips"]) != 1 else "one trip"]
    parts += [f"{blank} without a fish"] if blank else []
    _line(page, ", ".join(p for p in parts if p), 10, colour=_MUTED)
    page.ln(3)
    _totals(page, tables, system)
    placed = [
        r for t in ("catches", "marks", "contacts") for r in tables[t] if r.get("latitude") and r.get("longitude")
    ]
    if placed:
        _map(page, placed, exact=exact)
    _pictures(page, pictures)
    _catches(page, tables["catches"], system)
    if exact:
        notes = [r["note"] for r in tables["trips"] if r.get("note")]
        for note in notes[:6]:
            page.ln(2)
            page.multi_cell(_WIDE, 5, _plain(note))
    page.ln(3)
    place = "Places as noted." if exact else "Places to a cell of ten kilometres." if placed else "Without places."
    _line(
        page, f"{place} Not for navigation. Seasons, sizes and limits: the local authority decides.", 8, colour=_MUTED
    )
    try:
        with writing(out) as fresh:
            fresh.write_bytes(bytes(page.output()))
    except OSError as exc:
        raise FileError(out, "", f"could not be written: {why(exc)}") from exc


def _page() -> Any:
    from fpdf import FPDF

    logging.getLogger("fpdf").setLevel(logging.ERROR)  # a letter that the font lacks stays blank
    page = FPDF(format="A4")
    page.set_creation_date(datetime(2000, 1, 1, tzinfo=UTC))  # when it was written is nobody's business
    page.set_margins(_MARGIN, _MARGIN)
    page.set_auto_page_break(True, _MARGIN)
    for style, name in (("", "B612-Regular.ttf"), ("B", "B612-Bold.ttf")):
        page.add_font("B612", style, str(data_path(name)))
    page.set_title("Fishing report")
    page.set_producer("Plumbbob")
    page.add_page()
    page.set_font("B612", size=9)
    return page


def _line(page: Any, text: str, size: float, *, bold: bool = False, colour: tuple[int, int, int] = _INK) -> None:
    page.set_font("B612", "B" if bold else "", size)
    page.set_text_color(*colour)
    page.multi_cell(_WIDE, size * 0.52, _plain(text), new_x="LMARGIN", new_y="NEXT")
    page.set_text_color(*_INK)
    page.set_font("B612", "", 9)


def _plain(text: str) -> str:
    """Text without what no page can show."""
    return "".join(c if c.isprintable() or c == "\n" else " " for c in text)


def _blank_trips(tables: Mapping[str, Rows]) -> int:
    landed = {r.get("trip") for r in tables["catches"]}
    return sum(1 for r in tables["trips"] if r.get("trip") not in landed)


def _totals(page: Any, tables: Mapping[str, Rows], system: System) -> None:
    by_species: dict[str, list[Mapping[str, str]]] = defaultdict(list)
    for row in tables["catches"]:
        by_species[row.get("species") or "unnamed"].append(row)
    if not by_species:
        _line(page, "No fish, and that was written down too.", 11)
    for species, rows in sorted(by_species.items(), key=lambda item: (-len(item[1]), item[0])):
        sizes = [float(r["length_m"]) for r in rows if r.get("length_m")]
        kept = sum(r.get("kept") == "1" for r in rows)
        words = f"{len(rows)} {species}" + (f", to {quantity(max(sizes), Kind.FISH, system)}" if sizes else "")
        _line(page, words + (f", {kept} kept" if kept else ", all released"), 11)
    seen = Counter(r.get("kind") or "contact" for r in tables["contacts"])
    if seen:
        _line(page, ", ".join(f"{n} {kind}" for kind, n in seen.most_common()), 10, colour=_MUTED)
    page.ln(3)


def _catches(page: Any, rows: Rows, system: System) -> None:
    if not rows:
        return
    page.set_font("B612", "B", 8)
    for title, wide, name in _COLUMNS:
        page.cell(wide, 6, title, align="L" if name in ("time", "species", "kept") else "R")
    page.ln()
    page.set_draw_color(*_RULE)
    page.set_font("B612", "", 8)
    for row in sorted(rows, key=lambda r: r.get("time", ""))[:_MOST_ROWS]:
        page.line(_MARGIN, page.get_y(), _MARGIN + _WIDE, page.get_y())
        for _, wide, name in _COLUMNS:
            page.cell(wide, 5.5, _fitted(page, _words(name, row, system), wide - 1.5),
                      align="L" if name in ("time", "species", "kept") else "R")  # fmt: skip
        page.ln()
    if len(rows) > _MOST_ROWS:
        _line(page, f"and {len(rows) - _MOST_ROWS} more", 8, colour=_MUTED)


def _words(name: str, row: Mapping[str, str], system: System) -> str:
    text = row.get(name, "")
    if name == "kept":
        return "kept" if text == "1" else "released"
    if name == "time":
        return text[:10]
    if name == "species" or not text:
        return _plain(text)
    kind = {"length_m": Kind.FISH, "weight_kg": Kind.WEIGHT}.get(name, Kind.DEPTH)
    return quantity(float(text), kind, system)


def _pictures(page: Any, pictures: Sequence[Path]) -> None:
    """Up to three in a row."""
    wide, high, at = _WIDE / 3 - 3, 38.0, 0
    for path in pictures:
        if at == 3:
            break
        with path.open("rb") as file:
            again = plain_picture(file)
        if again is not None:
            box = (_MARGIN + at * (wide + 4.5), page.get_y(), wide, high)
            page.image(io.BytesIO(again), *box, keep_aspect_ratio=True)
            at += 1
    if at:
        page.ln(high + 4)


def _fitted(page: Any, text: str, wide: float) -> str:
    while text and page.get_string_width(text) > wide:
        text = text[:-2].rstrip() + "…" if len(text) > 2 else ""
    return text


def _map(page: Any, rows: Rows, *, exact: bool) -> None:
    """Where it was, as beads on a plain sheet with a scale; middles of cells where places are only told so."""
    latitude = [float(r["latitude"]) for r in rows]
    middle = sum(latitude) / len(latitude)
    # about the first place, so that no map is torn at the date line
    first = float(rows[0]["longitude"])
    longitude = [first + ((float(r["longitude"]) - first + 180.0) % 360.0 - 180.0) for r in rows]
    shrink = math.cos(math.radians(middle))
    x = [v * shrink * 111_195.0 for v in longitude]
    y = [v * 111_195.0 for v in latitude]
    high = 60.0
    span = max((max(x) - min(x)) / (_WIDE - 20.0), (max(y) - min(y)) / (high - 12.0), (2.0 if exact else 400.0))
    top = page.get_y()
    page.set_draw_color(*_RULE)
    page.rect(_MARGIN, top, _WIDE, high)
    x0, y0 = (max(x) + min(x)) / 2, (max(y) + min(y)) / 2
    page.set_fill_color(*_BRASS)
    for a, b in sorted(set(zip(x, y, strict=True))):
        at = (_MARGIN + _WIDE / 2 + (a - x0) / span, top + high / 2 - (b - y0) / span)
        page.ellipse(at[0] - 1.1, at[1] - 1.1, 2.2, 2.2, style="F")
    bar = 10 ** math.floor(math.log10(span * 40.0))
    page.set_draw_color(*_INK)
    page.line(_MARGIN + 4, top + high - 4, _MARGIN + 4 + bar / span, top + high - 4)
    page.set_xy(_MARGIN + 4, top + high - 10)
    page.cell(40, 4, f"{bar / 1000:g} km" if bar >= 1000 else f"{bar:g} m")
    page.set_xy(_MARGIN, top + high + 4)
