"""Starts the window: `python -m plumbbob.desk [FILE ..]`, or with --demo on the pass that ships with it."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path


def _arguments(argv: list[str]) -> argparse.Namespace:
    parser = argparse.ArgumentParser(prog="plumbbob", description="Plumbbob's window.")
    parser.add_argument("files", nargs="*", type=Path, help="recordings, soundings, charts, GPX, pictures, backups")
    parser.add_argument(
        "--demo", action="store_true", help="open the demo pass over Veyra Lake, with a log of its own"
    )
    parser.add_argument("--fresh", action="store_true", help="with --demo: start with an empty log")
    parser.add_argument("--data", type=Path, help="folder for log and settings (default: the usual place)")
    return parser.parse_args(argv)


def main(argv: list[str] | None = None) -> int:
    """Run the program; returns its exit status."""
    given = _arguments(sys.argv[1:] if argv is None else argv)
    for path in given.files:
        if not path.is_file():
            print(f"plumbbob: {path}: no such file", file=sys.stderr)
            return 2
    from plumbbob.desk.app import run

    return run(files=given.files, demo=given.demo, fresh=given.fresh, data=given.data)


if __name__ == "__main__":
    sys.exit(main())
