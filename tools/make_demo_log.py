"""Makes the log that ships with the demo: two made-up seasons out of a stated truth, with a few drawn pictures."""

from __future__ import annotations

import io
import math
from collections.abc import Iterator
from contextlib import contextmanager
from functools import partial
from pathlib import Path
from typing import BinaryIO

from PIL import Image, ImageDraw

from plumbbob.formats.log_archive import TableOut, write_log
from plumbbob.formats.waters import data_path
from plumbbob.sim.season import season_log

_PICTURES = 8
_SKINS = {
    "kokanee": "#9FB4B8",
    "sauger": "#8A7A4A",
    "yellow perch": "#B89A3A",
    "burbot": "#5E5A44",
    "pollack": "#6F7A58",
}


def fish_picture(species: str, length_m: float, seed: int) -> bytes:
    """A drawn fish on a measuring board."""
    wide, high = 480, 320
    image = Image.new("RGB", (wide, high), ("#C9C2AE", "#B7C3BE", "#A9AE9F")[seed % 3])
    draw = ImageDraw.Draw(image)
    for k in range(13):
        mark = 30 + 35 * k
        draw.line((mark, 262, mark, 282 if k % 5 else 296), fill="#20292C", width=2)
    draw.line((30, 262, 450, 262), fill="#20292C", width=2)
    long = min(max(length_m * 900.0, 150.0), 400.0)
    deep = long * (0.14 if species == "burbot" else 0.2)
    skin = _SKINS.get(species, "#8899A0")
    shape = [
        (30 + long * (t / 40), 170 + s * deep * math.sin(math.pi * (t / 40) ** 0.8) ** 0.9 / 1.2)
        for s, steps in ((-1, range(41)), (1, range(40, -1, -1)))
        for t in steps
    ]
    draw.polygon(shape, fill=skin, outline="#20292C")
    tail = 30 + long
    draw.polygon(
        [(tail - 8, 170), (tail + 34, 140), (tail + 24, 170), (tail + 34, 200)], fill=skin, outline="#20292C"
    )
    draw.ellipse((30 + long * 0.1, 158, 40 + long * 0.1, 168), fill="#F3F1EA", outline="#20292C")
    if species == "yellow perch":
        for k in range(6):
            x = 30 + long * (0.28 + 0.1 * k)
            draw.line((x, 170 - deep * 0.6, x, 170 + deep * 0.3), fill="#4C5A2E", width=5)
    out = io.BytesIO()
    image.save(out, "JPEG", quality=70)
    return out.getvalue()


@contextmanager
def _opened(data: bytes) -> Iterator[BinaryIO]:
    yield io.BytesIO(data)


def make(out: Path) -> None:
    """Write the archive."""
    made = season_log()
    best = sorted(made.tables["catches"], key=lambda c: -float(c["length_m"]))[:60]
    pictured = [c for species in _SKINS for c in [b for b in best if b["species"] == species][:2]][:_PICTURES]
    files = {}
    for k, catch in enumerate(pictured, 1):
        catch["picture"] = f"pictures/fish-{k}.jpg"
        files[catch["picture"]] = partial(_opened, fish_picture(catch["species"], float(catch["length_m"]), k))
    write_log(out, {}, [TableOut(name, rows) for name, rows in made.tables.items()], files)


if __name__ == "__main__":
    make(data_path("demo.log.zip"))
    data_path("demo.log.zip").chmod(0o644)
