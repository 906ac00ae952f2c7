"""The log without its window: out, in, and for others."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from contextlib import closing, contextmanager
from pathlib import Path
from typing import TYPE_CHECKING

import click

from plumbbob.cli.commands import main, progress_bar
from plumbbob.cli.guard import Wrong
from plumbbob.files.atomic import check_target
from plumbbob.files.text import printable

if TYPE_CHECKING:
    from plumbbob.store.log import Log


@main.command()
@click.option(
    "--export",
    "out",
    type=click.Path(path_type=Path),
    help="Write the log as open files: NAME.log.zip or a new folder.",
)
@click.option("--import", "source", type=click.Path(path_type=Path), help="Bring in a log, all of it or nothing.")
@click.option("--log", "path", type=click.Path(path_type=Path), help="Another log than your own.")
@click.option("--skip-bad", is_flag=True, help="Leave out rows that can't be used, and count them.")
def log(out: Path | None, source: Path | None, path: Path | None, skip_bad: bool) -> None:
    """Say what the log holds, write it as open files, or bring another one in."""
    from plumbbob.services.log_archive import export_log, import_log

    if out is not None and source is not None:
        raise Wrong("--export and --import are two steps")
    if source is not None:
        _refuse_early(source, skip_bad)
    if out is not None:
        check_target(out.parent / f"{out.name}.")
    with opened_own(path, may_be_new=source is not None) as opened:
        if source is not None:
            with progress_bar("Importing") as tick:
                lines = import_log(opened, source, skip_bad=skip_bad, progress=tick).lines()
        elif out is not None:
            with progress_bar("Exporting") as tick:
                counts = export_log(opened, out, tick)
            lines = [f"{table}: {number}" for table, number in counts.items() if number] or ["the log is empty"]
        else:
            lines = _held(opened)
    for line in lines:
        click.echo(printable(line, 2000))


@main.command()
@click.argument("log_file", metavar="LOG", type=click.Path(path_type=Path))
@click.argument("out", type=click.Path(path_type=Path))
@click.option("--positions", type=click.Choice(["none", "area", "exact"]), default="none", show_default=True)
def share(log_file: Path, out: Path, positions: str) -> None:
    """Write a log for others (.gpx, .zip, .geojson, .csv, .pdf), by default without any place."""
    from plumbbob.services.log_archive import export_log
    from plumbbob.services.share import prepared
    from plumbbob.services.share_cells import Positions

    with tempfile.TemporaryDirectory(prefix="plumbbob-") as folder:
        source = log_file
        if is_own_log(log_file):
            source = Path(folder) / "log"
            with opened_own(log_file, may_be_new=False) as opened:
                export_log(opened, source)
        with prepared(source, out, Positions(positions)) as (write, shared):
            # told before it is written
            for line in shared.taken:
                click.echo(printable(line, 2000))
            write()
    click.echo(printable(f"{out}: {shared.rows} rows, positions: {positions}"))


def _refuse_early(source: Path, skip_bad: bool) -> None:
    """A log that can't be read is refused before a log of one's own is made."""
    from plumbbob.formats.log_archive import opened_log

    with opened_log(source, skip_bad=skip_bad):
        return


def is_own_log(path: Path) -> bool:
    """Whether a path is a log as the program itself keeps it."""
    from plumbbob.store.database import is_database

    return path.is_file() and is_database(path)


@contextmanager
def opened_own(path: Path | None, *, may_be_new: bool) -> Iterator[Log]:
    """The log of a path, or one's own."""
    from platformdirs import user_data_path

    from plumbbob.store.errors import StoreError
    from plumbbob.store.opening import LOG_NAME, open_log

    where = path or user_data_path("plumbbob", appauthor=False) / LOG_NAME
    if not may_be_new and not where.exists():
        raise Wrong(f"{where}: no such log")
    try:
        opened = open_log(where)
        if opened.note:
            click.echo(printable(opened.note), err=True)
        with closing(opened.log) as log:
            yield log
    except StoreError as exc:
        raise Wrong(str(exc)) from exc


def _held(log: Log) -> list[str]:
    from plumbbob.services.log_archive import cells_by_table

    counts = {table: len(rows) for table, rows in cells_by_table(log).items()}
    return [f"{table}: {number}" for table, number in counts.items() if number] or ["the log is empty"]
