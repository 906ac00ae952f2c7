"""The command line: the same core without a window."""

from __future__ import annotations

import json
import math
import subprocess
import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING

import click

if TYPE_CHECKING:
    from plumbbob.core.sonar.reading import Reading


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


@contextmanager
def _progress(title: str) -> Iterator[Callable[[float], None]]:
    """A bar on standard error, only where a person watches."""
    from rich.console import Console
    from rich.progress import Progress

    with Progress(console=Console(stderr=True), transient=True) as bar:
        task = bar.add_task(title, total=1.0)
        yield lambda fraction: bar.update(task, completed=fraction)


def _summary(reading: Reading) -> Iterator[str]:
    """The reading in a few lines, metres."""
    from plumbbob.core.sonar.holding import summarise

    held = summarise(reading)
    if math.isfinite(held.bottom_deep_m):
        yield f"bottom      {held.bottom_shallow_m:.1f} to {held.bottom_deep_m:.1f} m"
    layer = reading.cold_layer
    if layer is None:
        yield "cold layer  none seen"
    else:
        yield f"cold layer  {layer.depth_m:.1f} m, {layer.thickness_m:.1f} m thick, confidence {layer.confidence:.2f}"
    yield f"bait        {len(reading.bait)}"
    yield f"standing    {len(reading.standing)}"
    yield f"fish        {held.fish} ({held.suspended} hanging free, {held.near_bottom} near the bottom)"
    for fish in reading.fish:
        up = f"{fish.height_above_bottom_m:5.1f} m up" if math.isfinite(fish.height_above_bottom_m) else ""
        yield f"  {fish.depth_m:5.1f} m ±{fish.depth_sd_m:.1f}  {up}  at {fish.time:.1f}"


@main.command()
@click.argument("out", type=click.Path(path_type=Path))
@click.option("--minutes", type=float, default=0.0, help="A long made-up day of so many minutes, not the demo pass.")
@click.option("--seed", type=int, default=7, show_default=True)
def sim(out: Path, minutes: float, seed: int) -> None:
    """Simulate a pass over Veyra Lake; the truth is written beside it as OUT.truth.json."""
    from plumbbob.formats.recording import write_recording
    from plumbbob.sim.down import simulate
    from plumbbob.sim.veyra import demo_pass, long_day

    scene = long_day(minutes) if minutes > 0 else demo_pass()
    try:
        with _progress("Simulating") as tick:
            recording, truth = simulate(scene, seed, progress=tick)
            write_recording(out, recording)
        out.with_suffix(".truth.json").write_text(json.dumps(truth), encoding="utf-8")
    except OSError as exc:
        click.echo(f"plumbbob: {out}: {exc.strerror or exc}", err=True)
        sys.exit(2)
    click.echo(f"{out}: {len(truth['fish'])} fish, {len(truth['bait'])} bait clouds")


@main.command()
@click.argument("recording", type=click.Path(path_type=Path), required=False)
@click.option("--demo", is_flag=True, help="Open the demo pass, with a log of its own.")
def app(recording: Path | None, demo: bool) -> None:
    """Open the window."""
    given = ([str(recording)] if recording else []) + (["--demo"] if demo else [])
    sys.exit(subprocess.call([sys.executable, "-m", "plumbbob.desk", *given]))
