"""Pictures of items that are no pass: a small chart with lettered places, or a card with words, bars or a sketch."""

from __future__ import annotations

import io
import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from plumbbob.core.types import Floats
from plumbbob.sim.lesson import Bar, ChartCard, Drawing, Lesson

if TYPE_CHECKING:
    from PIL.Image import Image
    from PIL.ImageDraw import ImageDraw as Pen
    from PIL.ImageFont import FreeTypeFont

ZOOM = 5  # pixels of a chart's picture for each cell
_LABEL_PX, _LETTER_PX, _WIND_PX = 13, 26, 46
_STEP_FT = 5.0  # where contours stand a metre apart
_THICK = 5  # every so many contours a thick one
_DARK_FROM = 0.42  # of the way down, from where contours are drawn pale
_LABELLED = 40  # points of a contour that has a number
_SPARE = 1.12  # room under what is lowest in a drawing
_CARD_CHARS = 31.0  # width of a card in heights of its text


@dataclass(frozen=True, slots=True)
class Palette:
    """Colours as #rrggbb: depths from shallow to deep, then the rest of a card."""

    depth: tuple[str, ...] = ("#E3ECDF", "#B4CEBE", "#6E9FA0", "#3C6E7A", "#23475A", "#132A3A")
    land: str = "#D6CDB6"
    ground: str = "#EDEBE2"
    ink: str = "#20292C"
    mark: str = "#C44E2A"
    bar: str = "#B07A22"
    rule: str = "#C9C5B6"


_Box = tuple[float, float, float, float]
PAPER = Palette()
_PALE, _DARK = "#F1F2EA", "#20292C"  # lines and letters over deep and over shallow water


def _rgb(colour: str) -> tuple[int, ...]:
    return tuple(int(colour[k : k + 2], 16) for k in (1, 3, 5))


def _face(size: float, *, bold: bool = False) -> FreeTypeFont:
    from PIL import ImageFont

    from plumbbob.formats.waters import data_path

    return ImageFont.truetype(str(data_path("B612-Bold.ttf" if bold else "B612-Regular.ttf")), round(size))


def _shades(depth_m: Floats, palette: Palette) -> tuple[NDArray[np.uint8], Floats]:
    """Colours of the cells, and how far down the ramp each is: between the shallowest and the deepest water."""
    wet = depth_m >= 0
    low, high = (float(depth_m[wet].min()), float(depth_m[wet].max())) if wet.any() else (0.0, 1.0)
    share = np.clip((depth_m - low) / max(high - low, 1e-6), 0.0, 1.0)
    stops = np.linspace(0.0, 1.0, len(palette.depth))
    ramp = np.array([_rgb(c) for c in palette.depth], float)
    rgb = np.stack([np.interp(share, stops, ramp[:, k]) for k in range(3)], axis=-1)
    return np.where(wet[..., None], rgb, np.array(_rgb(palette.land), float)).astype(np.uint8), share


def chart_png(card: ChartCard, *, feet: bool = False, palette: Palette = PAPER) -> bytes:
    """A PNG of a small chart: shades, contours at round depths, letters, and the wind where it is told."""
    import contourpy
    from PIL import Image, ImageDraw

    unit = 0.3048 if feet else 1.0
    step = unit * max(_STEP_FT * card.step_m, 1.0) if feet else card.step_m
    depth = card.depth_m
    rgb, share = _shades(depth, palette)
    small = Image.fromarray(rgb)
    picture = small.resize((small.width * ZOOM, small.height * ZOOM), Image.Resampling.BILINEAR)
    pen = ImageDraw.Draw(picture)
    face = _face(_LABEL_PX, bold=True)
    lines = contourpy.contour_generator(z=depth)
    labels: list[tuple[float, float, str]] = []
    for k in range(math.floor(max(float(depth.min()), 0.0) / step), round(float(depth.max()) / step) + 1):
        level = k * step
        at = float(share.flat[int(np.abs(depth - level).argmin())])
        colour, thick = (_PALE if at > _DARK_FROM else _DARK), k % _THICK == 0
        for line in lines.lines(level):
            points = [(float(x) * ZOOM, float(y) * ZOOM) for x, y in np.asarray(line)]
            if len(points) > 1:
                pen.line(points, fill=colour, width=3 if thick else 1)
            if k and len(points) > _LABELLED and (k % 2 == 0 or step < unit):
                labels.append((*points[len(points) // 3], f"{level / unit:.{0 if step >= unit else 2}f}"))
    taken: list[tuple[float, float, float, float]] = []
    for x, y, words in labels:
        box = pen.textbbox((x, y), words, font=face, anchor="mm")
        if not any(box[0] < r and left < box[2] and box[1] < b and t < box[3] for left, t, r, b in taken):
            taken.append(box)  # no number over another
            pen.rectangle(box, fill=_PALE)
            pen.text((x, y), words, fill=_DARK, font=face, anchor="mm")
    large = _face(_LETTER_PX, bold=True)
    for letter, east, south in card.places:
        x, y = pixel_of(card, east, south)
        pen.ellipse((x - 6, y - 6, x + 6, y + 6), fill=palette.mark, outline="white", width=2)
        pen.text(
            (x + 20, y - 16), letter, fill=palette.mark, font=large, anchor="mm", stroke_width=3, stroke_fill="white"
        )
    if card.wind_from_deg is not None:
        _wind(pen, card.wind_from_deg, palette)
    return _png(picture)


def pixel_of(card: ChartCard, east_m: float, south_m: float) -> tuple[float, float]:
    """Where a place is on the picture of a chart."""
    return east_m / card.cell_m * ZOOM, south_m / card.cell_m * ZOOM


def _wind(pen: Pen, from_deg: float, palette: Palette) -> None:
    """An arrow with the wind, in a corner."""
    x = y = _WIND_PX + 8.0
    way = math.radians(from_deg + 180.0)
    dx, dy = 0.55 * _WIND_PX * math.sin(way), -0.55 * _WIND_PX * math.cos(way)
    pen.ellipse((x - _WIND_PX, y - _WIND_PX, x + _WIND_PX, y + _WIND_PX), fill=palette.ground, outline=palette.rule)
    pen.line((x - dx, y - dy, x + dx, y + dy), fill=palette.ink, width=5)
    for turn in (2.6, -2.6):
        end = (x + dx + 14 * math.sin(way + turn), y + dy - 14 * math.cos(way + turn))
        pen.line((x + dx, y + dy, *end), fill=palette.ink, width=5)
    pen.text(
        (x, y + _WIND_PX + 4),
        "wind",
        fill=palette.mark,
        font=_face(16, bold=True),
        anchor="ma",
        stroke_width=3,
        stroke_fill="white",
    )


def card_png(
    one: Lesson, *, size: float = 26.0, words: Callable[[str], str] = str, palette: Palette = PAPER
) -> bytes:
    """
    A PNG of a card: its words, its bars, its sketch.

    Parameters
    ----------
    one : Lesson
    size : float
        Pixels of its text.
    words : callable
        A sentence of the item in the units of whoever reads it.
    palette : Palette
    """
    from PIL import Image, ImageDraw

    line = 2.0 * size
    tall = line * len(one.card) + 2.6 * size * len(one.bars) + (10.0 * size if one.sketch is not None else 0.0)
    wide = _CARD_CHARS * size
    picture = Image.new("RGB", (round(wide), round(tall + 2 * size)), palette.ground)
    pen, y = ImageDraw.Draw(picture), size
    for text in one.card:
        pen.text((size, y), words(text), fill=palette.ink, font=_face(size))
        y += line
    if one.bars:
        _bars(pen, one.bars, y, wide, size, words, palette)
        y += 2.6 * size * len(one.bars)
    if one.sketch is not None:
        _sketch(pen, one.sketch, (size, y + 0.5 * size, wide - size, tall + size), 0.7 * size, palette, words)
    return _png(picture)


def _bars(
    pen: Pen, bars: Sequence[Bar], top: float, wide: float, size: float, words: Callable[[str], str], palette: Palette
) -> None:
    left = max(_face(size).getlength(words(bar.words)) for bar in bars) + 1.6 * size
    right = left + 0.29 * wide
    most = max(max(b.share for b in bars), 1e-6)
    for k, bar in enumerate(bars):
        y = top + 2.6 * size * k
        pen.text(
            (left - 0.6 * size, y + 0.8 * size), words(bar.words), fill=palette.ink, font=_face(size), anchor="rm"
        )
        pen.rectangle((left, y, right, y + 1.6 * size), fill=palette.rule)
        end = left + (right - left) * bar.share / most
        pen.rectangle((left, y, end, y + 1.6 * size), fill=palette.bar)
        pen.text(
            (right + 0.5 * size, y + 0.8 * size),
            f"{bar.share:.0%}",
            fill=palette.ink,
            font=_face(size, bold=True),
            anchor="lm",
        )
        pen.text(
            (right + 3.0 * size, y + 0.8 * size),
            words(bar.note),
            fill=palette.ink,
            font=_face(0.72 * size),
            anchor="lm",
        )


def drawing_png(
    one: Drawing, *, width: int, height: int, size: float, feet: bool = False, palette: Palette = PAPER
) -> bytes:
    """A PNG of the small drawing that goes with the truth; what is in metres can be shown in feet."""
    from PIL import Image, ImageDraw

    picture = Image.new("RGB", (width, height), palette.ground)
    if feet:
        one = Drawing(
            lines=tuple((n, _in_feet(one.along) * x, _in_feet(one.down) * y) for n, x, y in one.lines),
            along="ft" if one.along == "m" else one.along,
            down="ft" if one.down == "m" else one.down,
        )
    _plot(ImageDraw.Draw(picture), one, (3.6 * size, size, width - 4 * size, height - 2.2 * size), size, palette)
    return _png(picture)


def _in_feet(axis: str) -> float:
    return 1.0 / 0.3048 if axis == "m" else 1.0


def _plot(pen: Pen, one: Drawing, box: _Box, size: float, palette: Palette) -> None:
    """Lines of a drawing over axes from 0, in a box of left, top, right, bottom."""
    left, top, right, bottom = box
    most_x = max(float(x.max()) for _, x, _ in one.lines)
    most_y = max(float(y.max()) for _, _, y in one.lines)
    kx, ky = (right - left) / max(most_x, 1e-6), (bottom - top) / max(_SPARE * most_y, 1e-6)
    face = _face(size)
    pen.line((left, top, right, top), fill=palette.rule, width=2)
    pen.line((left, top, left, bottom), fill=palette.rule, width=2)
    for value, words in _ticks(most_x, one.along):
        pen.text((left + value * kx, bottom + 0.4 * size), words, fill=palette.ink, font=face, anchor="ma")
    for value, words in _ticks(most_y, one.down):
        pen.text((left - 0.4 * size, top + value * ky), words, fill=palette.ink, font=face, anchor="rm")
    for k, (name, x, y) in enumerate(one.lines):
        _line(pen, name, left + kx * x, top + ky * y, size, (palette.mark, palette.bar)[k % 2])


def _sketch(pen: Pen, one: Drawing, box: _Box, size: float, palette: Palette, words: Callable[[str], str]) -> None:
    """Lines of a drawing with a metre as long both ways, in a box of left, top, right, bottom."""
    left, top, right, bottom = box
    across = np.concatenate([x for _, x, _ in one.lines])
    deep = np.concatenate([y for _, _, y in one.lines])
    names = max(_face(size).getlength(words(name)) for name, _, _ in one.lines) + size
    k = min(
        (right - names - left) / max(float(np.ptp(across)), 1e-6), (bottom - top) / max(float(np.ptp(deep)), 1e-6)
    )
    colours = (palette.ink, palette.bar, palette.mark)
    for n, (name, x, y) in enumerate(one.lines):
        places = left + k * (x - across.min()), top + k * (y - deep.min())
        _line(pen, words(name), *places, size, colours[min(n, len(colours) - 1)])


def _line(pen: Pen, name: str, x: Floats, y: Floats, size: float, colour: str) -> None:
    points = list(zip(x.tolist(), y.tolist(), strict=True))
    pen.line(points, fill=colour, width=max(round(size / 6), 2), joint="curve")
    pen.text((points[-1][0] + 0.4 * size, points[-1][1]), name, fill=colour, font=_face(size), anchor="lm")


def _ticks(most: float, unit: str) -> list[tuple[float, str]]:
    """Three to six round numbers from 0 up, the last one with its unit."""
    step = 10.0 ** math.floor(math.log10(max(most, 1e-6)))
    step = next(s for s in (0.2 * step, 0.5 * step, step, 2 * step) if most / s <= 5.0)
    values = [round(k * step, 6) for k in range(int(most / step) + 1)]
    return [(v, f"{v:g} {unit}" if v == values[-1] else f"{v:g}") for v in values]


def _png(picture: Image) -> bytes:
    out = io.BytesIO()
    picture.save(out, "PNG")
    return out.getvalue()
