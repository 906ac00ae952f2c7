"""The command line: the same core without a window."""

from __future__ import annotations

import json
import math
import sys
from pathlib import Path
from typing import Any

import click


def _tidy(value: Any, digits: int = 4) -> Any:
    """NaN becomes null and numbers lose digits that nobody measured."""
    if isinstance(value, float):
        return None if not math.isfinite(value) else round(value, digits)
    return value


@click.group()
@click.version_option(package_name="plumbbob")
def main() -> None:
    """Plumbbob without its window."""


@main.command()
@click.argument("recording", type=click.Path(path_type=Path))
@click.option("--json", "as_json", is_flag=True, help="Print the whole reading as one JSON object.")
def scan(recording: Path, as_json: bool) -> None:
    """Read a recording and print what is in it."""
    from plumbbob.core.sonar.read import read_down
    from plumbbob.formats.errors import FormatError
    from plumbbob.formats.reading_json import reading_json
    from plumbbob.formats.recording import read_recording

    try:
        opened = read_recording(recording)
        if as_json:
            reading = read_down(opened)
        else:
            with _progress("Reading") as tick:
                reading = read_down(opened, progress=tick)
    except FormatError as exc:
        click.echo(f"plumbbob: {exc}", err=True)
        sys.exit(2)
    if as_json:
        click.echo(json.dumps(reading_json(reading), separators=(",", ":")))
        return
    for line in _summary(reading):
        click.echo(line)
