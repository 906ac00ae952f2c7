"""
All kinds of file, a row each: what it is called, its endings, how it begins, what reads and what writes it.

Readers and writers are named, not imported: the libraries behind them take longer to load than most commands to run.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from enum import Enum
from importlib import import_module
from pathlib import Path
from typing import TYPE_CHECKING, Any

from plumbbob.core.types import Floats, Progress
from plumbbob.files.errors import FileError
from plumbbob.files.kinds import plain_file

if TYPE_CHECKING:
    from plumbbob.core.chart.soundings import Soundings
    from plumbbob.core.sonar.recording import Recording


class Content(Enum):
    """What a file is for."""

    RECORDING = "recordings"
    SOUNDINGS = "soundings"  # a table of places and depths, whose columns may have to be asked for
    CHART = "charts"
    PICTURE = "pictures"
    COLUMN = "columns"
    TIDE = "tide tables"
    TRACK = "tracks"
    TACKLE = "tackle"
    ARCHIVE = "backups of a water"
    LOG = "logs"
    OPEN_LOG = "logs as open files"
    CATCHES = "tables of catches"
    ZIP = "packed files"


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class ChartPart:
    """What a file brings to a chart."""

    soundings: Soundings
    shore: Sequence[Floats] = ()
    hazards: Sequence[tuple[float, float]] = ()
    notes: Sequence[str] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Format:
    """
    One format.

    `read(path, progress)` gives a Recording or a ChartPart, by its content; `write(path, value, inputs)` takes it.
    `begins` are the first bytes where they tell it whatever the ending says.
    """

    name: str
    content: Content
    endings: tuple[str, ...]
    begins: tuple[bytes, ...] = ()
    read: Callable[[Path, Progress], Any] | None = None
    write: Callable[[Path, Any, Iterable[Path]], int] | None = None


def _of(module: str, function: str) -> Callable[..., Any]:
    def call(*args: Any, **more: Any) -> Any:
        return getattr(import_module(f"plumbbob.formats.{module}"), function)(*args, **more)

    return call


def _raster(path: Path, progress: Progress) -> ChartPart:
    soundings, note = _of("raster", "read_raster")(path)
    return ChartPart(soundings=soundings, notes=[note] if note else [])


def _vectors(path: Path, progress: Progress) -> ChartPart:
    found = _of("vectors", "read_vectors")(path)
    return ChartPart(soundings=found.soundings, shore=found.shore, hazards=found.hazards, notes=found.notes)


def _log(path: Path, progress: Progress) -> ChartPart:
    found = _of("nmea", "read_nmea")(path, progress=progress)
    return ChartPart(soundings=found.soundings, notes=found.notes)


def _table(path: Path, progress: Progress) -> ChartPart:
    found = _of("soundings", "read_soundings")(path, progress=progress)
    return ChartPart(soundings=found.soundings, notes=found.notes)


def _write_recording(path: Path, recording: Recording, inputs: Iterable[Path]) -> int:
    _of("recording", "write_recording")(path, recording, source="converted", inputs=inputs)
    return max((len(v) for v in (recording.down, recording.side, recording.forward) if v is not None), default=0)


def _read_recording(path: Path, progress: Progress) -> Recording:
    if _of("sonar_netcdf", "is_sonar_netcdf")(path):
        found: Recording = _of("sonar_netcdf", "read_sonar_netcdf")(path)
        return found
    recording: Recording = _of("recording", "read_recording")(path)
    return recording


def _read_xtf(path: Path, progress: Progress) -> Recording:
    recording: Recording = _of("xtf", "read_xtf")(path, progress=progress)
    return recording


def _write_xtf(path: Path, recording: Recording, inputs: Iterable[Path]) -> int:
    return int(_of("xtf", "write_xtf")(path, recording, inputs=inputs))


def _row(content: Content, name: str, endings: str, *begins: bytes, **more: Any) -> Format:
    return Format(name=name, content=content, endings=tuple(endings.split()), begins=begins, **more)


# a list, so that a program of one's own can add to it
FORMATS: list[Format] = [
    _row(Content.RECORDING, "netCDF-4", ".nc", b"\x89HDF\r\n\x1a\n", read=_read_recording, write=_write_recording),
    _row(Content.RECORDING, "XTF", ".xtf", read=_read_xtf, write=_write_xtf),
    _row(Content.SOUNDINGS, "table of soundings", ".csv .txt .tsv .xyz", read=_table),
    _row(Content.CHART, "NMEA 0183", ".nmea .log .nma", b"$", b"!", read=_log),
    _row(Content.CHART, "GeoTIFF", ".tif .tiff", b"II*\0", b"MM\0*", read=_raster),
    _row(Content.CHART, "GeoPackage", ".gpkg", b"SQLite format 3\0", read=_vectors),
    _row(Content.CHART, "Shapefile", ".shp", read=_vectors),
    _row(Content.CHART, "GeoJSON", ".geojson .json", read=_vectors),
    _row(Content.CHART, "S-57", ".000", read=_vectors),
    _row(Content.CHART, "GML", ".gml", read=_vectors),
    _row(Content.CHART, "KML", ".kml", read=_vectors),
    _row(Content.PICTURE, "PNG", ".png", b"\x89PNG\r\n\x1a\n"),
    _row(Content.PICTURE, "JPEG", ".jpg .jpeg", b"\xff\xd8\xff"),
    _row(Content.COLUMN, "table of a column", ".csv .txt"),
    _row(Content.TIDE, "table of high and low water", ".csv .txt"),
    _row(Content.TRACK, "GPX", ".gpx"),
    _row(Content.TACKLE, "table of tackle", ".csv"),
    _row(Content.ARCHIVE, "backup of a water", ".zip"),
    _row(Content.OPEN_LOG, "log as open files", ".zip"),
    _row(Content.CATCHES, "table of catches", ".csv .txt .tsv"),
    _row(Content.ZIP, "packed files", ".zip"),
]


def formats_of(*contents: Content) -> tuple[Format, ...]:
    """The formats that hold one of these."""
    return tuple(f for f in FORMATS if f.content in contents)


def endings_of(*contents: Content) -> tuple[str, ...]:
    """Their endings."""
    return tuple(dict.fromkeys(e for f in formats_of(*contents) for e in f.endings))


def dialog_filter(title: str, *contents: Content) -> str:
    """As a file dialog takes it: a title and its patterns."""
    return f"{title} ({' '.join('*' + e for e in endings_of(*contents))})"


def format_of(path: Path, *contents: Content) -> Format:
    """
    What a file is: by how it begins where that tells, else by its ending.

    Raises
    ------
    FileError
        If it is none of these; it names the endings that would do.
    """
    among = formats_of(*contents)
    plain_file(path)
    try:
        with path.open("rb") as file:
            head = file.read(16)
    except OSError:
        head = b""  # whoever reads it says what is wrong
    ending = path.suffix.lower()
    by_head = [f for f in among if f.begins and head.startswith(f.begins)]
    by_ending = [f for f in among if ending in f.endings]
    for found in ([f for f in by_head if f in by_ending], by_head, by_ending):
        if found:
            return found[0]
    kinds = ", ".join(endings_of(*contents))
    raise FileError(path, "", f"is none of the files that can be read here ({kinds})")
