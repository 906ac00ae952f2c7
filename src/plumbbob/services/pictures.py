"""Pictures as they may leave: drawn again, with nothing in them but what is seen."""

from __future__ import annotations

import io
import warnings
from typing import BinaryIO

_MOST_PIXELS = 200_000_000


def plain_picture(file: BinaryIO) -> bytes | None:
    """A picture drawn again, the right way up, with nothing in it but what is seen; None if it is none."""
    from PIL import Image, ImageOps

    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            with Image.open(io.BytesIO(file.read())) as opened:
                if opened.width * opened.height > _MOST_PIXELS:
                    return None
                turned = ImageOps.exif_transpose(opened)
                plain = Image.new("RGB", turned.size, "white")
                shown = turned.convert("RGBA")
                plain.paste(shown, mask=shown.getchannel("A"))
    except (OSError, ValueError, SyntaxError, EOFError, Image.DecompressionBombError, Image.DecompressionBombWarning):
        return None
    out = io.BytesIO()
    plain.save(out, "JPEG", quality=90)
    return out.getvalue()
