"""Starts the window: `python -m plumbbob.desk [FILE.nc]`, or with --demo on the pass that ships with it."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path


def _arguments(argv: list[str]) -> argparse.Namespace:
    parser = argparse.ArgumentParser(prog="plumbbob", description="Plumbbob's window.")
    parser.add_argument("recording", nargs="?", type=Path, help="a sonar recording (.nc)")
    parser.add_argument(
        "--demo", action="store_true", help="open the demo pass over Veyra Lake, with a log of its own"
    )
    parser.add_argument("--fresh", action="store_true", help="with --demo: start with an empty log")
    parser.add_argument("--data", type=Path, help="folder for log and settings (default: the usual place)")
    return parser.parse_args(argv)


def main(argv: list[str] | None = None) -> int:
    """Run the program; returns its exit status."""
    given = _arguments(sys.argv[1:] if argv is None else argv)
    if given.recording is not None and not given.recording.is_file():
        print(f"plumbbob: {given.recording}: no such file", file=sys.stderr)
        return 2
    from plumbbob.desk.app import run

    return run(recording=given.recording, demo=given.demo, fresh=given.fresh, data=given.data)


if __name__ == "__main__":
    sys.exit(main())
