"""The command line: the same core without a window."""

from __future__ import annotations

import json
import math
import signal
import subprocess
import sys
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from plumbbob.cli.guard import GuardedGroup, Wrong
from plumbbob.files.atomic import check_target, write_text
from plumbbob.files.errors import FileError
from plumbbob.files.text import printable

if TYPE_CHECKING:
    from plumbbob.core.chart.grid import Grid
    from plumbbob.core.geodesy import Plane
    from plumbbob.core.sonar.reading import Reading
    from plumbbob.formats.waters import Water
    from plumbbob.services.waters import Waters


@click.group(cls=GuardedGroup)
@click.version_option(package_name="plumbbob")
def main() -> None:
    """Plumbbob without its window."""


@main.command()
@click.argument("recording", type=click.Path(path_type=Path))
@click.option("--json", "as_json", is_flag=True, help="Print the whole reading as one JSON object.")
@click.option("--as-read", is_flag=True, help="Leave out the corrections that lie beside the recording.")
@click.option(
    "--contacts", "out", type=click.Path(path_type=Path), help="Write fish, bait, structure (.csv, .geojson, .gpx)."
)
def scan(recording: Path, as_json: bool, as_read: bool, out: Path | None) -> None:
    """Read a recording and print what is in it."""
    from plumbbob.formats.corrections import beside
    from plumbbob.formats.reading_json import reading_json
    from plumbbob.services.scan import scan_recording

    if out is not None:
        check_target(out, [recording, beside(recording)])
    with progress_bar("Reading", quiet=as_json) as tick:
        reading = scan_recording(recording, as_read=as_read, progress=tick).reading
    if out is not None:
        from plumbbob.formats.contacts import write_contacts

        write_contacts(out, reading, inputs=[recording, beside(recording)])
    if as_json:
        click.echo(json.dumps(reading_json(reading), separators=(",", ":")))
        return
    for line in _summary(reading):
        click.echo(line)


@main.command()
@click.argument("recording", type=click.Path(path_type=Path))
@click.argument("out", type=click.Path(path_type=Path))
@click.option("--from", "start", type=float, default=0.0, show_default=True, help="Seconds after the first ping.")
@click.option("--to", "end", type=float, default=math.inf, help="Seconds after the first ping; default: the end.")
@click.option("--every", type=int, default=1, show_default=True, help="Keep every so many-th ping.")
def cut(recording: Path, out: Path, start: float, end: float, every: int) -> None:
    """Write a piece of a recording, or a thinned one, with all its views."""
    from plumbbob.formats.recording import read_recording
    from plumbbob.formats.recording_edit import cut as cut_recording
    from plumbbob.formats.recording_edit import thin

    def work() -> int:
        if not (math.isfinite(start) and every >= 1 and not math.isnan(end)):
            raise Wrong("--from, --to and --every take numbers; --every 1 or more")
        if every > 1:
            return thin(recording, out, every)
        opened = read_recording(recording)
        times = opened.down.time if opened.down is not None and len(opened.down) else None
        first, last = (float(times[0]), float(times[-1])) if times is not None else (0.0, 1e12)
        return cut_recording(recording, out, first + start, min(first + end, last + 1.0))

    _edit(out, work)


@main.command()
@click.argument("out", type=click.Path(path_type=Path))
@click.argument("recordings", nargs=-1, type=click.Path(path_type=Path))
def join(out: Path, recordings: tuple[Path, ...]) -> None:
    """Put recordings of one sounder one after the other into OUT."""
    from plumbbob.formats.recording_edit import join as join_recordings

    _edit(out, lambda: join_recordings(recordings, out))


@main.command()
@click.argument("recording", type=click.Path(path_type=Path))
@click.argument("out", type=click.Path(path_type=Path))
def convert(recording: Path, out: Path) -> None:
    """Write a recording in the other format: OUT.xtf holds the view to the sides, OUT.nc all there is."""
    from plumbbob.formats.any_recording import read_any, write_any

    _edit(out, lambda: write_any(out, read_any(recording), inputs=[recording]))


def _edit(out: Path, work: Callable[[], int]) -> None:
    check_target(out)
    pings = work()
    click.echo(printable(f"{out}: {pings} pings"))


@contextmanager
def progress_bar(title: str, *, quiet: bool = False) -> Iterator[Callable[[float], None]]:
    """A bar on standard error, only where a person watches."""
    if quiet or not sys.stderr.isatty():
        yield lambda fraction: None
        return
    from rich.console import Console
    from rich.progress import Progress

    with Progress(console=Console(stderr=True), transient=True) as bar:
        task = bar.add_task(title, total=1.0)
        yield lambda fraction: bar.update(task, completed=fraction)


def _summary(reading: Reading) -> Iterator[str]:
    """The reading in a few lines, metres."""
    from plumbbob.core.sonar.fish_association import summarise

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
    if reading.side is not None:
        yield f"to sides    {len(reading.side.fish)} fish, {len(reading.side.things)} standing"
        for seen in reading.side.fish:
            up = f"{seen.height_m:5.1f} m up" if math.isfinite(seen.height_m) else "no shadow"
            yield f"  {seen.ground_m:5.1f} m ±{seen.ground_sd_m:.1f} to {seen.side:9s}  {up}  at {seen.time:.1f}"
    if reading.ahead is not None:
        tracks = [t for t in reading.ahead.tracks if t.kind == "fish"]
        yield f"ahead       {len(tracks)} fish"
        for track in tracks:
            k = track.best
            where = f"{track.distance_m[k]:5.1f} m ahead  {track.depth_m[k]:5.1f} m down"
            yield f"  {where}  {track.azimuth_deg[k]:+4.0f}°  at {track.time[k]:.1f}"


@main.command()
@click.argument("soundings", type=click.Path(path_type=Path), required=False)
@click.option("--water", "water_name", help="Chart all soundings of this water instead of a file.")
@click.option("--data", type=click.Path(path_type=Path), help="Folder of log and waters (default: the usual place).")
@click.option("--json", "as_json", is_flag=True, help="Print grid and features as one JSON object.")
@click.option(
    "--cell", type=float, default=None, help="Size of a cell, metres; default: from the soundings' spacing."
)
@click.option("--grid", "grid_out", type=click.Path(path_type=Path), help="Write the depths as GeoTIFF.")
@click.option("--contours", "contours_out", type=click.Path(path_type=Path), help="Write contours (.geojson, .gpkg).")
@click.option("--interval", type=float, default=1.0, show_default=True, help="Metres between contours.")
def chart(
    soundings: Path | None,
    water_name: str | None,
    data: Path | None,
    as_json: bool,
    cell: float | None,
    grid_out: Path | None,
    contours_out: Path | None,
    interval: float,
) -> None:
    """Make a chart of soundings: depths with their spread, and the structure found on it."""
    from plumbbob.core.chart.grid import GridSettings, make_grid
    from plumbbob.core.chart.soundings import clean, joined
    from plumbbob.core.chart.structure import find_structure
    from plumbbob.core.chart.track_fit import fit_tracks
    from plumbbob.formats.chart_json import chart_json
    from plumbbob.formats.raster import write_grid
    from plumbbob.formats.soundings import read_soundings

    if cell is not None and not 0.1 <= cell <= 1000.0:
        raise Wrong("--cell must be between 0.1 and 1000 m")
    if not 0.05 <= interval <= 1000.0:
        raise Wrong("--interval must be between 0.05 and 1000 m")
    if (soundings is None) == (water_name is None):
        raise Wrong("name a file of soundings, or a water with --water")
    sources = [soundings] if soundings is not None else _waters(data).folder(_water(data, str(water_name))).sources()
    for out in (grid_out, contours_out):
        if out is not None:
            check_target(out, sources)
    if grid_out is not None and contours_out is not None and grid_out.resolve() == contours_out.resolve():
        raise Wrong("--grid and --contours name the same file")
    if not sources:
        raise Wrong(f"{water_name} has no soundings yet")
    files = [read_soundings(path) for path in sources]
    try:
        read = joined([file.soundings for file in files]) if len(files) > 1 else files[0].soundings
        cleaned = clean(read)
        kept = cleaned.kept
        depth = cleaned.depth_m[kept]
        x, y = fit_tracks(cleaned.x[kept], cleaned.y[kept], depth, read.time[kept])
        grid = make_grid(x, y, depth, GridSettings(cell_m=cell))
    except ValueError as exc:
        raise FileError(sources[0], "", str(exc)) from exc
    found = find_structure(grid)
    if grid_out is not None:
        write_grid(grid_out, cleaned.plane, grid, inputs=sources)
    if contours_out is not None:
        _write_contours(contours_out, cleaned.plane, grid, interval, sources)
    result = chart_json(cleaned, grid, found, sum(file.unusable for file in files))
    if as_json:
        click.echo(json.dumps(result, separators=(",", ":")))
        return
    about = result["grid"]
    click.echo(f"grid       {about['width']} x {about['height']} cells of {about['cell']} m")
    click.echo(f"soundings  {about['soundings_used']} used, {about['soundings_rejected']} left out")
    for what, number in about["rejected"].items():
        click.echo(f"           {number:6d} {what}")
    for feature in result["features"] + result["more_features"]:
        click.echo(
            f"{feature['kind']:12s}{feature['depth_top']:6.1f} to {feature['depth_base']:5.1f} m"
            f"  {feature['latitude']:.5f} {feature['longitude']:.5f}"
        )
    click.echo("Not for navigation.")


def _waters(data: Path | None) -> Waters:
    """All waters of a person."""
    from platformdirs import user_data_path

    from plumbbob.services.waters import Waters

    return Waters((data or user_data_path("plumbbob", appauthor=False)) / "waters")


def _water(data: Path | None, name: str) -> Water:
    try:
        return _waters(data).named(name)
    except ValueError as exc:
        raise Wrong(str(exc)) from exc


@main.command()
@click.option("--json", "as_json", is_flag=True, help="Print them as one JSON object.")
@click.option("--data", type=click.Path(path_type=Path), help="Folder of log and waters (default: the usual place).")
def waters(as_json: bool, data: Path | None) -> None:
    """List the waters, the last visited first."""
    found = _waters(data)
    rows = [
        {
            "name": water.name,
            "folder": str(found.root / water.key),
            "latitude": None if water.place is None else water.place.latitude,
            "longitude": None if water.place is None else water.place.longitude,
            "time_zone": water.time_zone,
            "files": len(found.folder(water).sources()),
        }
        for water in found.all()
    ]
    trouble = found.unreadable()
    if as_json:
        click.echo(json.dumps({"waters": rows, "unreadable": list(trouble)}, separators=(",", ":")))
        return
    for row in rows:
        where = "" if row["latitude"] is None else f"{row['latitude']:.4f} {row['longitude']:.4f}"
        click.echo(f"{row['name']:30s} {where:20s} {row['time_zone']:20s} {row['files']:4d} files")
    if not rows:
        click.echo("No waters yet: the window makes one of the first file that is opened.")
    for line in trouble:
        click.echo(f"not readable  {line}", err=True)


def _write_contours(path: Path, plane: Plane, grid: Grid, interval: float, sources: list[Path]) -> None:
    import numpy as np

    from plumbbob.core.chart.contours import contours
    from plumbbob.formats.vectors import write_contours

    deepest = float(np.nanmax(grid.depth_m))
    levels = np.arange(interval, deepest, interval)
    write_contours(path, plane, contours(grid.frame, grid.depth_m, levels.tolist()), inputs=sources)


@main.command()
@click.argument("profile", type=click.Path(path_type=Path))
@click.option("--wind", type=float, default=0.0, help="Steady wind, m/s.")
@click.option("--fetch", type=float, default=1000.0, show_default=True, help="Length of the water along the wind, m.")
def water(profile: Path, wind: float, fetch: float) -> None:
    """What a temperature profile says: the cold layer, its tilt in a wind."""
    from plumbbob.formats.profile import read_profile
    from plumbbob.services.water import column_report
    from plumbbob.wording.water import tilt_words

    if not 0.0 <= wind <= 60.0:
        raise Wrong("--wind must be between 0 and 60 m/s")
    if not 1.0 <= fetch <= 1e6:
        raise Wrong("--fetch must be between 1 m and 1000 km")
    found = column_report(read_profile(profile), wind, fetch)
    layer, tilt = found.layer, found.tilt
    if layer is None:
        click.echo("cold layer  none: less than 1 degree from top to bottom")
        return
    click.echo(f"cold layer  {layer.top_m:.1f} to {layer.base_m:.1f} m, steepest at {layer.middle_m:.1f} m")
    if tilt is not None:
        click.echo(
            f"tilt        {tilt.end_to_end_m:.1f} m end to end, W {tilt.wedderburn:.1f}: {tilt_words(tilt.state)}"
        )


@main.command()
@click.argument("request", type=click.Path(path_type=Path, allow_dash=True))
def rig(request: Path) -> None:
    """
    Solve rods: REQUEST is a JSON file (or - for standard input), the answer is one JSON object.

    Depths to lengths and back, notes, tables, a lane, motion in a turn: docs/formats.md says what may be asked.
    """
    from plumbbob.formats.rig_request import MOST_BYTES
    from plumbbob.services.rig import answer_request

    asked = _request(request, MOST_BYTES)
    try:
        with progress_bar("Following the lines") as tick:
            answer = json.dumps(answer_request(asked, tick), separators=(",", ":"), allow_nan=False)
    except ValueError as exc:
        raise FileError(request, "", str(exc)) from exc
    click.echo(answer)


@main.command()
@click.argument("request", type=click.Path(path_type=Path, allow_dash=True))
def plan(request: Path) -> None:
    """
    Plan a day: REQUEST is a JSON file (or - for standard input), the answer is one JSON object.

    Places with their fish and hours, boat, wind and land in; order, stays and ways out: docs/formats.md.
    """
    from plumbbob.formats.plan_json import MOST_BYTES
    from plumbbob.services.plan import answer_plan

    asked = _request(request, MOST_BYTES)
    try:
        answer = json.dumps(answer_plan(asked), separators=(",", ":"), allow_nan=False)
    except ValueError as exc:
        raise FileError(request, "", str(exc)) from exc
    click.echo(answer)


def _request(request: Path, most_bytes: int) -> Any:
    """What a request file, or standard input, holds."""
    from plumbbob.files.json_text import parse_json
    from plumbbob.files.kinds import read_text

    if str(request) != "-":
        return parse_json(request, read_text(request, most_bytes))
    raw = sys.stdin.buffer.read(most_bytes + 1)
    if len(raw) > most_bytes:
        raise Wrong(f"-: a request has at most {most_bytes // 1_000_000} MB")
    return parse_json(request, raw.decode("utf-8", "replace"))


@main.command()
@click.argument("plan_file", metavar="PLAN", type=click.Path(path_type=Path))
@click.argument("out", type=click.Path(path_type=Path))
@click.option("--paper", type=click.Choice(["a5", "a4", "letter"]), default="a5", show_default=True)
@click.option("--black", is_flag=True, help="Black on white, no fills.")
@click.option("--float", "float_out", type=click.Path(path_type=Path), help="Write the float plan as text, too.")
def card(plan_file: Path, out: Path, paper: str, black: bool, float_out: Path | None) -> None:
    """
    Print a planned day: PLAN is what `plan` answers or the window keeps, OUT a PDF of two pages.

    Places with their maps, the day's band, tables of the rods, cautions, a strip for notes. Not for navigation.
    """
    from plumbbob.formats.day_card import read_card
    from plumbbob.services.float_plan import float_plan_text

    check_target(out, [plan_file])
    if float_out is not None:
        check_target(float_out, [plan_file, out])
    told = read_card(plan_file)
    inks = "black" if black else "colour"
    status = subprocess.call([sys.executable, "-m", "plumbbob.desk.card", str(plan_file), str(out), paper, inks])
    if status:
        sys.exit(status)
    if float_out is not None:
        write_text(float_out, float_plan_text(told))


class _SimGroup(click.Group):
    """`sim OUT` makes a pass; `sim serve` plays one. What is no other command is where to write."""

    def parse_args(self, ctx: click.Context, args: list[str]) -> list[str]:
        """A pass is made unless something else is asked."""
        if args and args[0] not in self.commands and args[0] not in ("--help",):
            args = ["make", *args]
        return super().parse_args(ctx, args)


@main.group(cls=_SimGroup)
def sim() -> None:
    """Simulate: OUT writes a pass over Veyra Lake with its truth, `serve` plays one as a boat is heard."""


@sim.command("serve")
@click.option("--fault", "faults", multiple=True, help="Switch a fault on (`list` tells all); may be given again.")
@click.option("--recording", type=click.Path(path_type=Path), help="Play this; by default a made-up boat.")
@click.option(
    "--scene",
    type=click.Choice(["lake", "drift", "hole"]),
    default="lake",
    show_default=True,
    help="Which: a boat on Veyra Lake, a drift on Carrow Sound, a hole in Tern Pond.",
)
@click.option("--speed", type=float, default=1.0, show_default=True, help="Times real time.")
@click.option("--host", default="127.0.0.1", show_default=True)
@click.option("--nmea", type=int, default=0, help="Port; by default any that is free.")
@click.option("--gpsd", type=int, default=0)
@click.option("--down", type=int, default=0)
@click.option("--side", type=int, default=0)
@click.option("--forward", type=int, default=0)
@click.option("--for", "seconds", type=float, default=math.inf, help="Seconds; by default until it is stopped.")
def sim_serve(
    faults: tuple[str, ...],
    recording: Path | None,
    scene: str,
    speed: float,
    host: str,
    seconds: float,
    **ports: int,
) -> None:
    """Play a boat as NMEA, gpsd and pings; the addresses are printed as JSON."""
    from plumbbob.formats.any_recording import read_any
    from plumbbob.sim.outings import outing
    from plumbbob.sim.serve import FAULTS, StandIn

    if "list" in faults:
        for name, words in FAULTS.items():
            click.echo(f"{name:10} {words}")
        return
    if not 0.1 <= speed <= 1000.0:
        raise Wrong("--speed must be between 0.1 and 1000")
    if recording is not None:
        played = [read_any(recording)]
    else:
        with progress_bar("Simulating") as tick:
            played = outing(scene, tick)
    try:
        stand_in = StandIn(played, ports=ports, faults=faults, speed=speed, host=host)
    except ValueError as exc:
        raise Wrong(str(exc)) from exc
    click.echo(json.dumps({what: f"{host}:{port.number}" for what, port in stand_in.ports.items()}))
    sys.stdout.flush()
    stand_in.start()
    try:
        stand_in.wait(seconds)
    finally:
        stand_in.stop()


@main.command()
@click.option("--out", required=True, type=click.Path(path_type=Path), help="The recording; never written over.")
@click.option("--nmea", multiple=True, help="tcp://H:P, udp://H:P or serial:DEVICE:BAUD; may be given again.")
@click.option("--gpsd", multiple=True, help="H:P; may be given again.")
@click.option("--pings", multiple=True, help="tcp://H:P; may be given again.")
@click.option("--for", "seconds", type=float, default=math.inf, help="Seconds; by default until it is stopped.")
@click.option("--json", "as_json", is_flag=True, help="One JSON object a second instead of words.")
def live(
    out: Path, nmea: tuple[str, ...], gpsd: tuple[str, ...], pings: tuple[str, ...], seconds: float, as_json: bool
) -> None:
    """Record what position receivers and sounders say: docs/formats.md. The first source given is preferred."""
    from plumbbob.services.live import LiveSession, wire_of

    given = (("nmea", nmea), ("gpsd", gpsd), ("pings", pings))
    try:
        wires = [wire_of(kind, text) for kind, texts in given for text in texts]
    except ValueError as exc:
        raise Wrong(str(exc)) from exc
    if not wires:
        raise Wrong("nothing to listen to: give --nmea, --gpsd or --pings")
    if not seconds > 0:
        raise Wrong("--for needs seconds above zero")
    session = LiveSession(out, wires, _tell_json if as_json else _tell_words)
    with _told_to_stop(session.stop):
        status = session.run(seconds)
    if status:
        sys.exit(status)


def _tell_json(told: dict[str, Any]) -> None:
    click.echo(json.dumps(told, separators=(",", ":"), allow_nan=False))
    sys.stdout.flush()


def _tell_words(told: dict[str, Any]) -> None:
    words = [f"{told['fixes']} fixes", *(f"{n} pings {view}" for view, n in told["pings"].items() if n)]
    for source in told["sources"]:
        age = "" if source["age"] is None else f", {source['age']:.1f} s old"
        words.append(printable(f"{source['name']} {source['state']}{age}"))
    click.echo("; ".join([*words, *told["trouble"]]))
    sys.stdout.flush()


@contextmanager
def _told_to_stop(stop: Callable[[], None]) -> Iterator[None]:
    """A signal ends the work in its order."""

    def told(number: int, frame: Any) -> None:
        stop()

    if threading.current_thread() is not threading.main_thread():
        yield
        return
    before = {n: signal.signal(n, told) for n in (signal.SIGTERM, signal.SIGINT)}
    try:
        yield
    finally:
        for number, handler in before.items():
            signal.signal(number, handler)


@sim.command("make")
@click.argument("out", type=click.Path(path_type=Path))
@click.option("--minutes", type=float, default=0.0, help="A long made-up day of so many minutes, not a demo pass.")
@click.option("--pass", "which", type=click.Choice(["first", "second", "side", "ahead"]), default="first")
@click.option("--seed", type=int, default=7, show_default=True)
def sim_make(out: Path, minutes: float, which: str, seed: int) -> None:
    """Simulate a pass over Veyra Lake; the truth is written beside it as OUT.truth.json."""
    from plumbbob.formats.recording import write_recording
    from plumbbob.sim import veyra
    from plumbbob.sim.down import simulate

    passes = {
        "first": veyra.demo_pass,
        "second": veyra.second_pass,
        "side": veyra.side_pass,
        "ahead": veyra.ahead_pass,
    }
    if minutes and not 1.0 <= minutes <= 1440.0:
        raise Wrong("--minutes must be between 1 and 1440")
    if seed < 0:
        raise Wrong("--seed must be zero or more")
    beside = out.with_suffix(".truth.json")
    check_target(out)
    check_target(beside)
    scene = veyra.long_day(minutes) if minutes > 0 else passes[which]()
    with progress_bar("Simulating") as tick:
        recording, truth = simulate(scene, seed, progress=tick)
        write_recording(out, recording)
    write_text(beside, json.dumps(truth))
    click.echo(printable(f"{out}: {len(truth['fish'])} fish, {len(truth['bait'])} bait clouds"))


@main.command()
@click.argument("recording", type=click.Path(path_type=Path), required=False)
@click.option("--demo", is_flag=True, help="Open the demo pass, with a log of its own.")
def app(recording: Path | None, demo: bool) -> None:
    """Open the window."""
    given = ([str(recording)] if recording else []) + (["--demo"] if demo else [])
    sys.exit(subprocess.call([sys.executable, "-m", "plumbbob.desk", *given]))
