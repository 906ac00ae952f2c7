"""Practice on the command line: a set made from a seed, and the grade of answers to one."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import click

from plumbbob.cli.commands import main
from plumbbob.cli.guard import Wrong

_PATH = click.Path(path_type=Path)


@main.command()
@click.option("--items", "count", type=int, help="How many items to make.")
@click.option("--seed", type=int, default=1, show_default=True, help="The same seed gives the same bytes.")
@click.option("--out", type=_PATH, help="A new folder for the set.")
@click.option("--grade", "graded", type=_PATH, help="The folder of a set; ANSWERS are graded against it.")
@click.option("--json", "as_json", is_flag=True, help="The grade as JSON.")
@click.argument("answers", type=_PATH, required=False)
def practice(
    count: int | None, seed: int, out: Path | None, graded: Path | None, as_json: bool, answers: Path | None
) -> None:
    """
    Make a set of passes to practise on, or grade ANSWERS to one.

    items.json asks without telling; the truth lies in truth.json beside it. ANSWERS is {"item001": 7.5, ..}.
    """
    from plumbbob.services.practice import grade_set, write_set

    if graded is not None:
        if answers is None or count is not None or out is not None:
            raise Wrong("--grade DIR needs ANSWERS, and neither --items nor --out")
        _tell(grade_set(graded, answers), as_json)
        return
    if count is None or out is None or answers is not None:
        raise Wrong("--items N and --out DIR make a set; --grade DIR ANSWERS grades one")
    if not 0 <= seed < 2**31:
        raise Wrong("--seed must be 0 to 2147483647")
    try:
        made = write_set(out, count, seed)
    except ValueError as exc:
        raise Wrong(str(exc)) from exc
    click.echo(f"{made} items in {out}")


def _tell(grade: dict[str, Any], as_json: bool) -> None:
    if as_json:
        click.echo(json.dumps(grade))
        return
    for item in grade["items"]:
        off = "" if item["off"] is None else f", off by {item['off']}"
        click.echo(f"{item['id']}: {item['score']:.0%}{off}; {item['why']}")
    for name, skill in grade["skills"].items():
        click.echo(f"{name}: {skill['score']:.0%} of {skill['items']}")
