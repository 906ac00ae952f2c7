"""The picture of a small chart with lettered places: depths as shades, contours with their numbers."""

from __future__ import annotations

import io

import numpy as np

from plumbbob.sim.lesson import ChartCard

_ZOOM = 5  # pixels of the picture for each cell
_PALE, _DEEP, _LAND = (198, 214, 196), (24, 54, 66), (214, 205, 182)
_LINE, _INK, _LETTER = (60, 84, 92), (32, 41, 44), (196, 78, 42)
_LABEL_PX, _LETTER_PX = 13, 26
_STEP_M, _STEP_FT = 1.0, 5.0


def chart_png(card: ChartCard, *, feet: bool = False) -> bytes:
    """A PNG of the card; contours every metre, or every five feet."""
    import contourpy
    from PIL import Image, ImageDraw, ImageFont

    from plumbbob.formats.waters import data_path

    unit = 0.3048 if feet else 1.0
    step = _STEP_FT * unit if feet else _STEP_M
    depth = card.depth_m
    share = np.clip(depth / max(float(depth.max()), 1.0), 0.0, 1.0)[..., None]
    rgb = np.asarray(_PALE) * (1 - share) + np.asarray(_DEEP) * share
    rgb = np.where(depth[..., None] < 0, np.asarray(_LAND), rgb).astype(np.uint8)
    small = Image.fromarray(rgb)
    picture = small.resize((small.width * _ZOOM, small.height * _ZOOM), Image.Resampling.BILINEAR)
    pen = ImageDraw.Draw(picture)
    face = ImageFont.truetype(str(data_path("B612-Bold.ttf")), _LABEL_PX)
    large = ImageFont.truetype(str(data_path("B612-Bold.ttf")), _LETTER_PX)
    lines = contourpy.contour_generator(z=depth)
    labels: list[tuple[float, float, str]] = []
    for k in range(round(float(depth.max()) / step) + 1):
        level = k * step
        for line in lines.lines(level):
            points = [(float(x) * _ZOOM, float(y) * _ZOOM) for x, y in np.asarray(line)]
            if len(points) > 1:
                pen.line(points, fill=_INK if k % 5 == 0 else _LINE, width=3 if k % 5 == 0 else 1)
            if k and k % 2 == 0 and len(points) > 40:
                labels.append((*points[len(points) // 3], f"{level / unit:.0f}"))
    for x, y, words in labels:
        box = pen.textbbox((x, y), words, font=face, anchor="mm")
        pen.rectangle(box, fill=_PALE)
        pen.text((x, y), words, fill=_INK, font=face, anchor="mm")
    for letter, east, south in card.places:
        x, y = east / card.cell_m * _ZOOM, south / card.cell_m * _ZOOM
        pen.ellipse((x - 6, y - 6, x + 6, y + 6), fill=_LETTER, outline="white", width=2)
        pen.text((x + 20, y - 16), letter, fill=_LETTER, font=large, anchor="mm", stroke_width=3, stroke_fill="white")
    out = io.BytesIO()
    picture.save(out, "PNG")
    return out.getvalue()
