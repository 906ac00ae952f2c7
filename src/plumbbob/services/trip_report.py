"""A report of fishing as a PDF: what was caught, how it was fished, and a map only of places that may be told."""

from __future__ import annotations

import io
import math
from collections import Counter, defaultdict
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

from plumbbob.core.units import Kind, System, quantity
from plumbbob.files.atomic import writing
from plumbbob.files.errors import FileError
from plumbbob.files.text import why
from plumbbob.services.pages import BRASS, INK, MARGIN, MUTED, RULE, WIDE, line_of, new_page, plain
from plumbbob.services.pictures import plain_picture

Rows = Sequence[Mapping[str, str]]
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
    page = new_page()
    days = sorted({r["time"][:10] for t in ("catches", "contacts") for r in tables[t] if r.get("time")})
    days = sorted({*days, *(r["start"][:10] for r in tables["trips"] if r.get("start"))})
    title = "Fishing report"
    if exact and len({r["water"] for r in tables["trips"] if r.get("water")}) == 1:
        title = f"{tables['trips'][0]['water']}"
    line_of(page, title, 20, bold=True)
    when = days[0] if len(days) == 1 else f"{days[0]} to {days[-1]}" if days else ""
    blank = _blank_trips(tables)
    parts = [when, f"{len(tables['trips'])} trips" if len(tables["trips"]) != 1 else "one trip"]
    parts += [f"{blank} without a fish"] if blank else []
    line_of(page, ", ".join(p for p in parts if p), 10, colour=MUTED)
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
            page.multi_cell(WIDE, 5, plain(note))
    page.ln(3)
    place = "Places as noted." if exact else "Places to a cell of ten kilometres." if placed else "Without places."
    line_of(
        page, f"{place} Not for navigation. Seasons, sizes and limits: the local authority decides.", 8, colour=MUTED
    )
    try:
        with writing(out) as fresh:
            fresh.write_bytes(bytes(page.output()))
    except OSError as exc:
        raise FileError(out, "", f"could not be written: {why(exc)}") from exc


def _blank_trips(tables: Mapping[str, Rows]) -> int:
    landed = {r.get("trip") for r in tables["catches"]}
    return sum(1 for r in tables["trips"] if r.get("trip") not in landed)


def _totals(page: Any, tables: Mapping[str, Rows], system: System) -> None:
    by_species: dict[str, list[Mapping[str, str]]] = defaultdict(list)
    for row in tables["catches"]:
        by_species[row.get("species") or "unnamed"].append(row)
    if not by_species:
        line_of(page, "No fish, and that was written down too.", 11)
    for species, rows in sorted(by_species.items(), key=lambda item: (-len(item[1]), item[0])):
        sizes = [float(r["length_m"]) for r in rows if r.get("length_m")]
        kept = sum(r.get("kept") == "1" for r in rows)
        words = f"{len(rows)} {species}" + (f", to {quantity(max(sizes), Kind.FISH, system)}" if sizes else "")
        line_of(page, words + (f", {kept} kept" if kept else ", all released"), 11)
    seen = Counter(r.get("kind") or "contact" for r in tables["contacts"])
    if seen:
        line_of(page, ", ".join(f"{n} {kind}" for kind, n in seen.most_common()), 10, colour=MUTED)
    page.ln(3)


def _catches(page: Any, rows: Rows, system: System) -> None:
    if not rows:
        return
    page.set_font("B612", "B", 8)
    for title, wide, name in _COLUMNS:
        page.cell(wide, 6, title, align="L" if name in ("time", "species", "kept") else "R")
    page.ln()
    page.set_draw_color(*RULE)
    page.set_font("B612", "", 8)
    for row in sorted(rows, key=lambda r: r.get("time", ""))[:_MOST_ROWS]:
        page.line(MARGIN, page.get_y(), MARGIN + WIDE, page.get_y())
        for _, wide, name in _COLUMNS:
            page.cell(wide, 5.5, _fitted(page, _words(name, row, system), wide - 1.5),
                      align="L" if name in ("time", "species", "kept") else "R")  # fmt: skip
        page.ln()
    if len(rows) > _MOST_ROWS:
        line_of(page, f"and {len(rows) - _MOST_ROWS} more", 8, colour=MUTED)


def _words(name: str, row: Mapping[str, str], system: System) -> str:
    text = row.get(name, "")
    if name == "kept":
        return "kept" if text == "1" else "released"
    if name == "time":
        return text[:10]
    if name == "species" or not text:
        return plain(text)
    kind = {"length_m": Kind.FISH, "weight_kg": Kind.WEIGHT}.get(name, Kind.DEPTH)
    return quantity(float(text), kind, system)


def _pictures(page: Any, pictures: Sequence[Path]) -> None:
    """Up to three in a row."""
    wide, high, at = WIDE / 3 - 3, 38.0, 0
    for path in pictures:
        if at == 3:
            break
        with path.open("rb") as file:
            again = plain_picture(file)
        if again is not None:
            box = (MARGIN + at * (wide + 4.5), page.get_y(), wide, high)
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
    span = max((max(x) - min(x)) / (WIDE - 20.0), (max(y) - min(y)) / (high - 12.0), (2.0 if exact else 400.0))
    top = page.get_y()
    page.set_draw_color(*RULE)
    page.rect(MARGIN, top, WIDE, high)
    x0, y0 = (max(x) + min(x)) / 2, (max(y) + min(y)) / 2
    page.set_fill_color(*BRASS)
    for a, b in sorted(set(zip(x, y, strict=True))):
        at = (MARGIN + WIDE / 2 + (a - x0) / span, top + high / 2 - (b - y0) / span)
        page.ellipse(at[0] - 1.1, at[1] - 1.1, 2.2, 2.2, style="F")
    bar = 10 ** math.floor(math.log10(span * 40.0))
    page.set_draw_color(*INK)
    page.line(MARGIN + 4, top + high - 4, MARGIN + 4 + bar / span, top + high - 4)
    page.set_xy(MARGIN + 4, top + high - 10)
    page.cell(40, 4, f"{bar / 1000:g} km" if bar >= 1000 else f"{bar:g} m")
    page.set_xy(MARGIN, top + high + 4)
