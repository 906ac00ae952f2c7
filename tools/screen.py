"""Draws the demo's photo of a made-up sounder's screen: `python tools/screen.py [FILE.jpg]`."""

from __future__ import annotations

import os
import sys
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import numpy as np
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPen

from plumbbob.desk.app import DEMO_RECORDING, make_application
from plumbbob.desk.kit.paint import font
from plumbbob.desk.tasks.load_picture import pixels_of
from plumbbob.formats.recording import read_recording
from plumbbob.formats.waters import data_path
from plumbbob.sim.screen import colour_ramp, photographed, screen_of

WIDTH, HEIGHT, DEEPEST_M = 1180, 640, 22.0
BAR = (1128, 90, 20, 420)  # the colour bar: left, top, width, height
CORNERS = ((142.0, 96.0), (1418.0, 38.0), (1372.0, 832.0), (84.0, 742.0))


def as_image(pixels: np.ndarray) -> QImage:
    """An image of an array."""
    high, wide = pixels.shape[:2]
    return QImage(pixels.tobytes(), wide, high, 3 * wide, QImage.Format.Format_RGB888).copy()


def draw_screen() -> QImage:
    """The screen: the first pass, a scale in metres, clocks, a colour bar."""
    down = read_recording(data_path(DEMO_RECORDING)).down
    assert down is not None
    image = as_image(screen_of(down, DEEPEST_M, WIDTH, HEIGHT))
    painter = QPainter(image)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setFont(font(13, bold=True))
    painter.setPen(QPen(QColor("#ffffff"), 1.5))
    for metres in range(0, int(DEEPEST_M) + 1, 5):
        y = metres / DEEPEST_M * HEIGHT
        painter.drawLine(0, round(y), 14, round(y))
        painter.drawText(QRectF(20, max(y - 12, 0), 80, 24), Qt.AlignmentFlag.AlignVCenter, f"{metres} m")
    left, top, wide, high = BAR
    ramp = colour_ramp(high)[::-1]
    painter.drawImage(left, top, as_image(np.repeat(ramp[:, None, :], wide, axis=1)))
    painter.end()
    return image


def main(path: Path) -> None:
    """Write the photo."""
    make_application()
    photo = photographed(pixels_of(draw_screen()), CORNERS, (1500, 880), np.random.default_rng(3))
    as_image(photo).save(str(path), quality=88)
    print(path, path.stat().st_size)


if __name__ == "__main__":
    main(Path(sys.argv[1] if len(sys.argv) > 1 else "src/plumbbob/data/veyra_screen.jpg"))
