"""What a log says, without its window."""

from __future__ import annotations

import json
import tempfile
from pathlib import Path
from typing import TYPE_CHECKING

import click

from plumbbob.cli.commands import main
from plumbbob.cli.guard import Wrong
from plumbbob.cli.log_commands import is_own_log, opened_own
from plumbbob.files.errors import FileError
from plumbbob.files.text import printable

if TYPE_CHECKING:
    from plumbbob.services.review import LogReview

_NOTHING: dict[str, object] = {
    "trips": 0,
    "rod_hours": 0.0,
    "fish": 0,
    "rate_per_rod_hour": None,
    "rates": {},
    "findings": [],
}


@main.command()
@click.argument("logs", metavar="LOG...", nargs=-1, type=click.Path(path_type=Path))
@click.option("--json", "as_json", is_flag=True, help="Print one JSON object a line, one a log.")
def review(logs: tuple[Path, ...], as_json: bool) -> None:
    """Say what logs tell: rates with intervals, what stands out, and what speaks against it."""
    from plumbbob.services.review_json import review_json

    failed = []
    for path in logs or (None,):
        try:
            made = _reviewed(path)
        except FileError as exc:
            failed.append(str(exc))
            if as_json:
                # a line for every log, also for one that is none
                click.echo(json.dumps({"log": str(path), **_NOTHING, "why": str(exc)}))
            continue
        if as_json:
            click.echo(json.dumps(review_json(str(path or "own"), made), separators=(",", ":"), allow_nan=False))
            continue
        for line in _told(made, str(path or "")):
            click.echo(printable(line, 2000))
    if failed:
        raise Wrong("; ".join(failed))


def _reviewed(path: Path | None) -> LogReview:
    from plumbbob.services.log_archive import export_log
    from plumbbob.services.review import review_file

    if path is not None and not is_own_log(path):
        return review_file(path)
    with tempfile.TemporaryDirectory(prefix="plumbbob-") as folder:
        out = Path(folder) / "log"
        with opened_own(path, may_be_new=False) as log:
            export_log(log, out)
        return review_file(out)


def _told(made: LogReview, name: str) -> list[str]:
    from plumbbob.core.tally.review import findings_and_same
    from plumbbob.services.review import told_of
    from plumbbob.wording import review as words
    from plumbbob.wording import sentence

    found = made.review
    lines = [f"{name}: {found.trips} trips, {found.hours:.1f} rod hours, {found.fish} fish, "
             f"{found.rate:.2f} a rod hour"]  # fmt: skip
    if found.silence is not None:
        lines.append(words.silence(found.silence))
    for k, finding, part in findings_and_same(found.findings):
        if part is finding.part:
            lines.append("* " + words.finding(found, finding, part, words.metric))
            lines.append("  " + words.against(found, finding, found.evidence[k], words.metric))
    lines += ["? " + words.tie(found, t, words.metric) for t in found.findings.ties]
    lines += ["~ " + words.aside(found, a, words.metric) for a in found.asides]
    if found.silence is None and not found.findings.found:
        lines.append("Nothing stands out beyond chance.")
    lines += [f"- {b.name}: {b.hours:.0f} rod hours on {b.trips} trips, no fish" for b in found.blanks]
    lines += ["- " + sentence(r, words.PHRASES) for r in made.sidelines]
    lines += ["> " + words.test(found, t, words.metric) for t in found.tests]
    lines += [f"left out: {number} {why}" for why, number in told_of(made).items()]
    return lines
