"""Prints a card without a window: `python -m plumbbob.desk.card PLAN OUT PAPER colour|black`."""

from __future__ import annotations

import os
import sys
from importlib.resources import files
from pathlib import Path

from plumbbob.files.atomic import writing
from plumbbob.files.errors import FileError
from plumbbob.formats.day_card import read_card


def main(argv: list[str]) -> int:
    """Write it; status 2 and one line where that can't be done."""
    plan, out, paper, inks = Path(argv[0]), Path(argv[1]), argv[2], argv[3]
    os.environ["QT_QPA_PLATFORM"] = "offscreen"  # paper needs no screen, and there may be none
    from PySide6.QtGui import QFontDatabase, QGuiApplication

    from plumbbob.desk.card.pages import write_pdf

    app = QGuiApplication([sys.argv[0]])
    for name in ("B612-Regular.otf", "B612-Bold.otf"):
        QFontDatabase.addApplicationFont(str(files("plumbbob.desk").joinpath("fonts", name)))
    try:
        card = read_card(plan)
        with writing(out) as fresh:
            write_pdf(card, str(fresh), paper, colour=inks == "colour")
    except FileError as exc:
        print(f"plumbbob: {exc}", file=sys.stderr)
        return 2
    except OSError as exc:
        print(f"plumbbob: {out}: could not be written: {exc}", file=sys.stderr)
        return 2
    del app
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
