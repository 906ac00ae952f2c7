"""Draws the program's font in the outlines that pages in PDF need: quadratic curves, from the font that ships."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from fontTools.pens.cu2quPen import Cu2QuPen
from fontTools.pens.ttGlyphPen import TTGlyphPen
from fontTools.ttLib import TTFont, newTable

ROOT = Path(__file__).resolve().parent.parent / "src" / "plumbbob"
_WITHIN = 1.0  # units of a thousand to the letter
_NO_PROGRAMS = (
    "maxTwilightPoints", "maxStorage", "maxFunctionDefs", "maxInstructionDefs", "maxStackElements",
    "maxSizeOfInstructions", "maxComponentElements",
)  # fmt: skip


def convert(source: Path, target: Path) -> None:
    """One font, cubic to quadratic."""
    font: Any = TTFont(source)
    order, drawn = font.getGlyphOrder(), font.getGlyphSet()
    glyphs = {}
    for name in order:
        pen = TTGlyphPen(drawn)
        drawn[name].draw(Cu2QuPen(pen, _WITHIN, reverse_direction=True))
        glyphs[name] = pen.glyph()
    font["loca"] = newTable("loca")
    outlines = font["glyf"] = newTable("glyf")
    outlines.glyphOrder, outlines.glyphs = order, glyphs
    for table in ("CFF ", "VORG"):
        if table in font:
            del font[table]
    outlines.compile(font)
    most = font["maxp"]
    most.tableVersion, most.maxZones = 0x00010000, 1
    for name in _NO_PROGRAMS:
        setattr(most, name, 0)
    most.compile(font)
    post = font["post"]
    post.formatType, post.extraNames, post.mapping, post.glyphOrder = 2.0, [], {}, order
    font.sfntVersion = "\000\001\000\000"
    font.save(target)


if __name__ == "__main__":
    for style in ("Regular", "Bold"):
        convert(ROOT / "desk" / "fonts" / f"B612-{style}.otf", ROOT / "data" / f"B612-{style}.ttf")
