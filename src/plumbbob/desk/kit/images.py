"""Pictures to disk, whole or not at all."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtGui import QImage, QPixmap

from plumbbob.files.atomic import NotWritten, writing


def save_image(image: QImage | QPixmap, path: Path, *, private: bool = False) -> None:
    """Write what the name's ending says, a PNG without one; raises NotWritten."""
    if not path.suffix:
        path = path.with_suffix(".png")
    with writing(path, private=private) as fresh:
        if not image.save(str(fresh)):
            raise NotWritten(path, "could not be written as a picture", fault=True)
