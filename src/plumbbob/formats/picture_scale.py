"""What was clicked and typed of a picture, kept beside it as JSON."""

from __future__ import annotations

import json
import math
import os
from pathlib import Path
from typing import Any

from plumbbob.core.sonar.picture import Looks, PictureScale, Point
from plumbbob.files.atomic import write_text
from plumbbob.files.errors import FileError
from plumbbob.files.json_text import parse_json
from plumbbob.files.kinds import read_text

FORMAT, VERSION = "plumbbob-picture-scale", 1
_MOST_BYTES = 100_000


def beside(picture: Path) -> Path:
    """Where the scale of a picture is."""
    return picture.with_name(picture.name + ".scale.json")


def scale_text(calibration: PictureScale) -> str:
    """As JSON text."""
    c = calibration
    body: dict[str, Any] = {
        "format": FORMAT,
        "version": VERSION,
        "looks": c.looks.name.lower(),
        "width": c.width,
        "height": c.height,
        "corners": c.corners,
        "near": c.near,
        "far": c.far,
        "early": c.early,
        "late": c.late,
        "ramp": c.ramp,
        "apart": c.apart_m,
    }
    return json.dumps(body, indent=1)


def write_scale(path: Path, calibration: PictureScale) -> None:
    """Write it; the file appears whole or not at all."""
    write_text(path, scale_text(calibration) + "\n")


def read_scale(path: Path) -> PictureScale | None:
    """
    The scale beside a picture; None where there is none.

    Raises
    ------
    FileError
        Where the file is damaged or another one.
    """
    if not os.path.lexists(path):
        return None
    return scale_of(path, read_text(path, _MOST_BYTES))


def scale_of(path: Path, text: str) -> PictureScale:
    """A scale from its text; `path` is for words only."""
    data = parse_json(path, text)
    if not isinstance(data, dict) or data.get("format") != FORMAT:
        raise FileError(path, "format", f"is not {FORMAT}")
    if data.get("version") != VERSION:
        raise FileError(path, "version", f"is {data.get('version')!r}; this program reads {VERSION}")
    try:
        corners, ramp = data.get("corners"), data.get("ramp")
        four = tuple(_point(p) for p in corners) if corners is not None else None
        two = tuple(_point(p) for p in ramp) if ramp is not None else None
        if (four is not None and len(four) != 4) or (two is not None and len(two) != 2):
            raise ValueError("a wrong number of points")
        return PictureScale(
            looks=Looks[str(data["looks"]).upper()],
            width=int(data["width"]),
            height=int(data["height"]),
            corners=four,
            ramp=two,
            apart_m=None if data.get("apart") is None else _point((0.0, data["apart"]))[1],
            **{k: None if data.get(k) is None else _point(data[k]) for k in ("near", "far", "early", "late")},
        )
    except (KeyError, TypeError, ValueError, OverflowError) as exc:
        raise FileError(path, "", f"can't be used: {exc}") from exc


def _point(value: Any) -> Point:
    x, y = (float(v) for v in value)
    if not (math.isfinite(x) and math.isfinite(y)):
        raise ValueError("a number is not finite")
    return x, y
