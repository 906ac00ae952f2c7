"""Questions on the command line, one JSON line each: `decide` and `ask`."""

from __future__ import annotations

import json
import sys
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import Any

import click

from plumbbob.cli.commands import main
from plumbbob.files.errors import FileError
from plumbbob.files.text import why


@main.command()
@click.argument("requests", type=click.Path(path_type=Path, allow_dash=True))
def decide(requests: Path) -> None:
    """
    Answer one JSON request a line: where to look next, stay or go, what to practise; - is standard input.

    A line that makes no sense is answered by its error, and the next one is read: docs/formats.md.
    """
    from plumbbob.services.decide import answer_text

    _answer_lines(requests, answer_text)


@main.command()
@click.argument("questions", type=click.Path(path_type=Path, allow_dash=True))
def ask(questions: Path) -> None:
    """
    Answer one JSON question a line, as the window's calculators would: rods, falls, weights, water, places, care.

    - is standard input; {"questions": {}} lists what can be asked, docs/formats.md tells each.
    """
    from plumbbob.services.ask.answer import answer_text

    _answer_lines(questions, answer_text)


def _answer_lines(requests: Path, answer: Callable[[bytes], Any]) -> None:
    """A line asked, a line answered, until they end."""

    def answer_all(lines: Iterable[bytes]) -> None:
        for line in lines:
            click.echo(json.dumps(answer(line), separators=(",", ":"), allow_nan=False))
            sys.stdout.flush()

    if str(requests) == "-":
        answer_all(sys.stdin.buffer)
        return
    try:
        with requests.open("rb") as lines:
            answer_all(lines)
    except OSError as exc:
        raise FileError(requests, "", f"can't be read: {why(exc)}") from exc
