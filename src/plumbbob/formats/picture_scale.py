"""What was clicked and typed of a picture, kept beside it as JSON."""

from __future__ import annotations

import json
import math
from pathlib import Path
from typing import Any

from plumbbob.core.sonar.picture import Calibration, Looks, Point
from plumbbob.formats.errors import FormatError

FORMAT = "plumbbob-picture-scale"
_MOST_BYTES = 100_000


def beside(picture: Path) -> Path:
    """Where the scale of a picture is."""
    return picture.with_name(picture.name + ".scale.json")


def scale_text(calibration: Calibration) -> str:
    """As JSON text."""
    c = calibration
    body: dict[str, Any] = {
        "format": FORMAT,
        "version": 1,
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


def write_scale(path: Path, calibration: Calibration) -> None:
    """Write it; the file appears whole or not at all."""
    partial = path.with_name(path.name + ".part")
    try:
        partial.write_text(scale_text(calibration) + "\n", encoding="utf-8")
        partial.replace(path)
    finally:
        partial.unlink(missing_ok=True)


def read_scale(path: Path) -> Calibration | None:
    """
    The scale beside a picture; None where there is none.

    Raises
    ------
    FormatError
        Where the file is damaged or another one.
    """
    if not path.is_file():
        return None
    try:
        if path.stat().st_size > _MOST_BYTES:
            raise FormatError(path, "", "far too large for a picture's scale")
        return scale_of(path, path.read_text(encoding="utf-8"))
    except (OSError, UnicodeDecodeError) as exc:
        raise FormatError(path, "", "not readable") from exc


def scale_of(path: Path, text: str) -> Calibration:
    """A scale from its text; `path` is for words only."""
    try:
        data = json.loads(text)
    except (ValueError, RecursionError) as exc:
        raise FormatError(path, "", "not readable as JSON") from exc
    if not isinstance(data, dict) or data.get("format") != FORMAT:
        raise FormatError(path, "format", f"is not {FORMAT}")
    try:
        corners, ramp = data.get("corners"), data.get("ramp")
        four = tuple(_point(p) for p in corners) if corners is not None else None
        two = tuple(_point(p) for p in ramp) if ramp is not None else None
        if (four is not None and len(four) != 4) or (two is not None and len(two) != 2):
            raise ValueError("a wrong number of points")
        return Calibration(
            looks=Looks[str(data["looks"]).upper()],
            width=int(data["width"]),
            height=int(data["height"]),
            corners=four,
            ramp=two,
            apart_m=None if data.get("apart") is None else _point((0.0, data["apart"]))[1],
            **{k: None if data.get(k) is None else _point(data[k]) for k in ("near", "far", "early", "late")},
        )
    except (KeyError, TypeError, ValueError) as exc:
        raise FormatError(path, "", f"can't be used: {exc}") from exc


def _point(value: Any) -> Point:
    x, y = (float(v) for v in value)
    if not (math.isfinite(x) and math.isfinite(y)):
        raise ValueError("a number is not finite")
    return x, y
