"""
Sonar recordings: netCDF-4 files as docs/formats.md describes them, read and written.

Reading checks the whole contract first and names the group and variable that break it. Echoes are
not loaded: an `EchoFile` fetches the pings that somebody asks for.
"""

from __future__ import annotations

import math
import threading
from collections.abc import Callable, Iterable, Iterator, Mapping
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import Any

import h5py
import numpy as np
from numpy.typing import NDArray

from plumbbob.core.sonar.recording import Down, EchoSource, Forward, Mount, Pings, Recording, Side, Track
from plumbbob.core.types import Bytes, Floats
from plumbbob.core.units import DEEPEST_M
from plumbbob.files.atomic import writing
from plumbbob.files.errors import FileError
from plumbbob.files.kinds import plain_file
from plumbbob.files.text import why
from plumbbob.formats.hdf5_heap import check_heaps

FORMAT = "plumbbob-recording"
FORMAT_VERSION = 1
CHUNK_PINGS = 256
LEAST_STEP_M = 1e-5
MOST_PINGS, MOST_SAMPLES, MOST_PING_BYTES = 10_000_000, 65_536, 1_000_000
_MOST_BLOCK_BYTES = 256_000_000
# echoes with noise pack ten to one, silence some hundred to one
_MOST_PACKED, _ALWAYS_BYTES, _SMALL_BYTES = 300, 32_000_000, 64_000
_FILTERS = frozenset({1, 2, 3})  # deflate, shuffle, checksum
_TIME_UNITS = "seconds since 1970-01-01T00:00:00Z"
_TVGS = ("none", "20logR", "40logR")


@dataclass(frozen=True, slots=True)
class _Group:
    """The contract of one group of echoes: its axes, its numbers a ping, its echoes, its attributes."""

    axes: tuple[str, ...]
    per_ping: tuple[str, ...]
    echoes: tuple[str, ...]
    attributes: tuple[str, ...]


_GROUPS: Mapping[str, _Group] = {
    "down": _Group(
        ("ping", "sample"),
        ("time", "range_start", "range_step"),
        ("echo",),
        ("frequency", "beam_width", "pulse_length"),
    ),
    "side": _Group(
        ("ping", "sample"),
        ("time", "range_start", "range_step"),
        ("port", "starboard"),
        ("frequency", "beam_width_along", "beam_width_across"),
    ),
    "forward": _Group(
        ("ping", "beam", "sample"),
        ("time", "azimuth", "range_start", "range_step"),
        ("echo",),
        ("frequency", "beam_width"),
    ),
}


class EchoFile:
    """Echo bytes of one variable on disk, put into the order of `order` if the file's is another."""

    def __init__(self, path: Path, variable: str, shape: tuple[int, ...], order: NDArray[np.intp] | None) -> None:
        self._path = path
        self._variable = variable
        self._shape = shape
        self._order = order
        self._lock = threading.Lock()
        self._file: Any = None

    @property
    def shape(self) -> tuple[int, ...]:
        """(pings, samples) or (pings, beams, samples)."""
        return self._shape

    def read(self, start: int, stop: int) -> Bytes:
        """Pings start to stop (exclusive) in order of time."""
        start, stop = max(start, 0), min(stop, self._shape[0])
        if stop <= start:
            return np.zeros((0, *self._shape[1:]), np.uint8)
        with self._lock:
            if self._file is None:
                self._file = h5py.File(self._path, "r")
            data = self._file[self._variable]
            try:
                if self._order is None:
                    return np.asarray(data[start:stop], np.uint8)
                rows = self._order[start:stop]
                low, high = int(rows.min()), int(rows.max()) + 1
                if high - low <= 4 * (stop - start):
                    return np.asarray(data[low:high], np.uint8)[rows - low]
                return np.stack([np.asarray(data[int(i)], np.uint8) for i in rows])
            except OSError as exc:
                raise FileError(self._path, self._variable, f"pings {start} to {stop} cannot be read") from exc

    def close(self) -> None:
        """Let go of the file; the next read opens it again."""
        with self._lock:
            if self._file is not None:
                self._file.close()
                self._file = None


@contextmanager
def _opened(path: Path) -> Iterator[Any]:
    plain_file(path)
    check_heaps(path)
    try:
        file = h5py.File(path, "r")
    except Exception as exc:
        # the HDF5 library raises what it likes on a damaged header
        raise FileError(path, "", "not a netCDF-4 file, or a damaged one") from exc
    try:
        yield file
    except FileError:
        raise
    except Exception as exc:
        raise FileError(path, "", f"damaged: {why(exc)}") from exc
    finally:
        with suppress(Exception):
            file.close()


class _Checker:
    """Fetches attributes and variables of one file and refuses what breaks the contract."""

    def __init__(self, path: Path, file: Any) -> None:
        self.path = path
        self.file = file
        self.bytes = path.stat().st_size

    def refuse(self, where: str, reason: str) -> FileError:
        return FileError(self.path, where, reason)

    def attribute(self, where: str, name: str) -> Any:
        place = self.file if not where else self.file[where]
        try:
            value = place.attrs[name]
        except KeyError:
            raise self.refuse(where or "root", f"attribute {name} is missing") from None
        value = value.item() if isinstance(value, np.ndarray | np.generic) and np.size(value) == 1 else value
        return value.decode("utf-8", "replace") if isinstance(value, bytes) else value

    def has_group(self, name: str) -> bool:
        return isinstance(self._own(self.file, name, name), h5py.Group)

    def _own(self, place: Any, name: str, where: str) -> Any:
        """What lies in this file under a name: links to elsewhere, in it or out of it, are not followed."""
        link = place.get(name, getlink=True, default=None)
        if link is not None and not isinstance(link, h5py.HardLink):
            raise self.refuse(where, "is a link to elsewhere, which is not followed")
        return place.get(name)

    def variable(self, group: str, name: str) -> Any:
        where = f"{group}/{name}"
        found = self._own(self.file[group], name, where)
        if not isinstance(found, h5py.Dataset):
            raise self.refuse(where, "variable is missing")
        if found.is_virtual or found.external:
            raise self.refuse(where, "lies in other files, which are not read")
        self._check_storage(where, found)
        return found

    def _check_storage(self, where: str, found: Any) -> None:
        """What a variable says it holds against what the file can hold, before anything is read."""
        kept, size = int(found.id.get_storage_size()), int(found.id.get_type().get_size())
        said = math.prod(found.shape or (0,)) * size
        if found.chunks is not None:
            block = math.prod(found.chunks) * size
            if block > _MOST_BLOCK_BYTES:
                raise self.refuse(where, f"is stored in blocks of {block / 1e6:.0f} MB, too large to read")
            filters = found.id.get_create_plist()
            known = {filters.get_filter(k)[0] for k in range(filters.get_nfilters())} <= _FILTERS
            if not known:
                raise self.refuse(where, "is packed in a way that is not read")
            blocks = math.prod(-(-n // c) for n, c in zip(found.shape, found.chunks, strict=True))
            if said > _SMALL_BYTES and found.id.get_num_chunks() * 2 < blocks:
                raise self.refuse(where, f"says {_sizes(found.shape)}, and most of it was never written")
        if kept > self.bytes or said > (_MOST_PACKED * kept + _ALWAYS_BYTES if kept else _SMALL_BYTES):
            raise self.refuse(where, f"says {_sizes(found.shape)}, and the file holds next to none of it")

    def number(self, where: str, name: str, low: float, high: float, default: float | None = None) -> float:
        place = self.file if not where else self.file[where]
        if default is not None and name not in place.attrs:
            return default
        try:
            value = float(self.attribute(where, name))
        except (TypeError, ValueError):
            raise self.refuse(where or "root", f"attribute {name} is not a number") from None
        if not low <= value <= high:
            raise self.refuse(where or "root", f"attribute {name} is {value:g}, outside {low:g} to {high:g}")
        return value

    def column(self, group: str, name: str, length: int | None) -> Floats:
        where = f"{group}/{name}"
        variable = self.variable(group, name)
        if variable.dtype.kind not in "fiu":
            raise self.refuse(where, "is not numeric")
        if len(variable.shape) != 1 or (length is not None and variable.shape[0] != length):
            raise self.refuse(where, f"has shape {variable.shape}, not ({length or 'n'},)")
        if variable.shape[0] > MOST_PINGS:
            raise self.refuse(where, f"has {variable.shape[0]:,} values; at most {MOST_PINGS:,} are read")
        if name == "time":
            units = variable.attrs.get("units", _TIME_UNITS)
            units = units.decode("utf-8", "replace") if isinstance(units, bytes) else str(units)
            if units.replace(" UTC", "").rstrip("Z").replace(" 00:00", "T00:00").strip() not in (
                "seconds since 1970-01-01T00:00:00",
                "seconds since 1970-01-01",
            ):
                raise self.refuse(where, f'units are "{units}", not "{_TIME_UNITS}"')
        return np.asarray(variable[:], dtype=np.float64)

    def echo(self, group: str, name: str, axes: int, pings: int) -> tuple[tuple[int, ...], float, float]:
        where = f"{group}/{name}"
        variable = self.variable(group, name)
        if variable.dtype != np.uint8:
            raise self.refuse(where, f"is {variable.dtype}, not unsigned byte")
        if len(variable.shape) != axes:
            raise self.refuse(where, f"has {len(variable.shape)} dimensions, not {axes}")
        if variable.shape[0] != pings:
            raise self.refuse(where, f"has {variable.shape[0]} pings where time has {pings}")
        if 0 in variable.shape[1:]:
            raise self.refuse(where, "has no samples")
        if variable.shape[-1] > MOST_SAMPLES or math.prod(variable.shape[1:]) > MOST_PING_BYTES:
            raise self.refuse(where, f"says {_sizes(variable.shape)}: more than a ping can hold")
        scale = self.number(where, "scale_factor", 1e-6, 100.0)
        return variable.shape, scale, self.number(where, "add_offset", -1e4, 1e4)


def _sizes(shape: tuple[int, ...]) -> str:
    return " x ".join(str(n) for n in shape)


def _time_order(time: Floats) -> NDArray[np.intp] | None:
    return None if bool(np.all(np.diff(time) >= 0)) else np.argsort(time, kind="stable")


def _track(check: _Checker, notes: list[str]) -> Track | None:
    if not check.has_group("track"):
        return None
    time = check.column("track", "time", None)
    got = {n: check.column("track", n, time.size) for n in ("latitude", "longitude", "speed", "course")}
    group = check.file["track"]
    for name in ("heading", "water_temperature"):
        here = name in group
        got[name] = check.column("track", name, time.size) if here else np.full(time.size, np.nan)
    with np.errstate(invalid="ignore"):
        good = np.isfinite(time) & (np.abs(got["latitude"]) <= 90.0) & (np.abs(got["longitude"]) <= 360.0)
    if not good.all():
        notes.append(f"{int((~good).sum())} of {time.size} fixes have no usable position")
    index = np.flatnonzero(good)
    index = index[np.argsort(time[index], kind="stable")]
    index = index[np.concatenate(([True], np.diff(time[index]) > 0))] if index.size else index

    def sane(name: str, low: float, high: float) -> Floats:
        values = got[name][index]
        with np.errstate(invalid="ignore"):
            return np.where((values >= low) & (values <= high), values, np.nan)

    return Track(
        time=time[index],
        latitude=got["latitude"][index],
        longitude=got["longitude"][index],
        speed_mps=sane("speed", 0.0, 60.0),
        heading_deg=sane("heading", -720.0, 720.0),
        course_deg=sane("course", -720.0, 720.0),
        temperature_c=sane("water_temperature", -5.0, 60.0),
    )


def _check_views(check: _Checker) -> tuple[str, ...]:
    """Hold every group of echoes against the contract, also those that no view shows yet."""
    views = []
    for name, contract in _GROUPS.items():
        if not check.has_group(name):
            continue
        views.append(name)
        pings = check.column(name, contract.per_ping[0], None).size
        for column in contract.per_ping[1:]:
            check.column(name, column, pings)
        shapes = {check.echo(name, e, len(contract.axes), pings)[0] for e in contract.echoes}
        if len(shapes) > 1:
            raise check.refuse(f"{name}/{contract.echoes[1]}", f"differs in shape from {contract.echoes[0]}")
        if "beam" in contract.axes:
            check.column(name, "beam_angle", next(iter(shapes))[1])
        for attribute in contract.attributes:
            check.number(name, attribute, 1e-9, 1e9)
        if "tvg" not in check.file[name].attrs:
            raise check.refuse(name, "attribute tvg is missing")
        if str(check.attribute(name, "tvg")) not in _TVGS:
            raise check.refuse(name, f"attribute tvg is {check.attribute(name, 'tvg')!r}, not one of {_TVGS}")
    return tuple(views)


def _mount(check: _Checker, group: str) -> Mount:
    def one(name: str, low: float, high: float, default: float | None) -> float:
        if name in check.file[group].attrs:
            return check.number(group, name, low, high)
        return check.number("", name, low, high, default)

    return Mount(
        depth_m=one("transducer_depth", -5.0, 100.0, None),
        forward_m=one("antenna_to_transducer_forward", -500.0, 500.0, 0.0),
        starboard_m=one("antenna_to_transducer_starboard", -500.0, 500.0, 0.0),
    )


def _pings(check: _Checker, group: str, notes: list[str]) -> tuple[dict[str, Any], NDArray[np.intp] | None]:
    """What every view has, and the order that sorts its pings by time if the file's is another."""
    time = check.column(group, "time", None)
    start, step = (check.column(group, n, time.size) for n in ("range_start", "range_step"))
    for name, bad, what in (
        ("time", ~np.isfinite(time), "is not a time"),
        (
            "range_step",
            ~(np.isfinite(step) & (step > LEAST_STEP_M) & (step < 100)),
            "is not a positive length",
        ),
        ("range_start", ~(np.isfinite(start) & (start >= -10) & (start < DEEPEST_M)), "is not a range"),
    ):
        if bad.any():
            raise check.refuse(f"{group}/{name}", f"value {int(np.argmax(bad))} {what}")
    order = _time_order(time)
    if order is not None:
        notes.append(
            "pings were out of order of time and have been sorted"
            if group == "down"
            else f"{group} pings were out of order of time and have been sorted"
        )
        time, start, step = time[order], start[order], step[order]
    echoes = _GROUPS[group].echoes[0]
    _, scale, offset = check.echo(group, echoes, len(_GROUPS[group].axes), time.size)
    if time.size and float((start + step * check.file[group][echoes].shape[-1]).max()) > DEEPEST_M:
        raise check.refuse(f"{group}/range_step", "looks farther than there is water anywhere")
    pulse = check.file[group].attrs
    return {
        "time": time,
        "range_start_m": start,
        "range_step_m": step,
        "scale_db": scale,
        "offset_db": offset,
        "frequency_hz": check.number(group, "frequency", 1e3, 1e7),
        "pulse_length_s": check.number(group, "pulse_length", 1e-7, 1.0) if "pulse_length" in pulse else math.nan,
        "tvg": str(check.attribute(group, "tvg")),
        "mount": _mount(check, group),
        "sound_speed_mps": check.number("", "sound_speed", 1300.0, 1700.0),
    }, order


def _echo_file(check: _Checker, group: str, name: str, order: NDArray[np.intp] | None) -> EchoFile:
    return EchoFile(check.path, f"{group}/{name}", check.variable(group, name).shape, order)


def _down(check: _Checker, notes: list[str]) -> Down | None:
    if not check.has_group("down"):
        return None
    common, order = _pings(check, "down", notes)
    return Down(
        **common,
        echo=_echo_file(check, "down", "echo", order),
        beam_width_deg=check.number("down", "beam_width", 0.1, 120.0),
    )


def _side(check: _Checker, notes: list[str]) -> Side | None:
    if not check.has_group("side"):
        return None
    common, order = _pings(check, "side", notes)
    scales = [check.echo("side", n, 2, common["time"].size)[1:] for n in ("port", "starboard")]
    if scales[0] != scales[1]:
        raise check.refuse("side/starboard", "has another scale than port")
    return Side(
        **common,
        port=_echo_file(check, "side", "port", order),
        starboard=_echo_file(check, "side", "starboard", order),
        beam_width_along_deg=check.number("side", "beam_width_along", 0.01, 120.0),
        beam_width_across_deg=check.number("side", "beam_width_across", 0.1, 180.0),
    )


def _forward(check: _Checker, notes: list[str]) -> Forward | None:
    if not check.has_group("forward"):
        return None
    common, order = _pings(check, "forward", notes)
    pings = common["time"].size
    azimuth = check.column("forward", "azimuth", pings)
    echo = _echo_file(check, "forward", "echo", order)
    angle = check.column("forward", "beam_angle", echo.shape[1])
    if not (np.isfinite(angle).all() and bool((np.abs(angle) <= 180.0).all())):
        raise check.refuse("forward/beam_angle", "has values that are no angles")
    if angle.size > 1 and not (bool((np.diff(angle) > 0).all()) or bool((np.diff(angle) < 0).all())):
        raise check.refuse("forward/beam_angle", "neither rises nor falls from beam to beam")
    if not np.isfinite(azimuth).all():
        notes.append(
            f"{int((~np.isfinite(azimuth)).sum())} forward pings have no azimuth and count as straight ahead"
        )
        azimuth = np.nan_to_num(azimuth, posinf=0.0, neginf=0.0)
    return Forward(
        **common,
        beam_angle_deg=angle,
        azimuth_deg=azimuth if order is None else azimuth[order],
        echo=echo,
        beam_width_deg=check.number("forward", "beam_width", 0.05, 120.0),
    )


def read_recording(path: Path | str) -> Recording:
    """
    Open a recording and hold it against the contract.

    Raises
    ------
    FileError
        One line naming file, group and variable.
    """
    path = Path(path)
    with _opened(path) as file:
        check = _Checker(path, file)
        kind = check.attribute("", "format")
        if kind != FORMAT:
            raise check.refuse("root", f"attribute format is {kind!r}, not {FORMAT!r}")
        version = check.number("", "format_version", 0, 1e6)
        if version != FORMAT_VERSION:
            raise check.refuse("root", f"attribute format_version is {version:g}; this program reads 1")
        check.number("", "sound_speed", 1300.0, 1700.0)
        check.number("", "transducer_depth", -5.0, 100.0)
        notes: list[str] = []
        return Recording(
            name=path.name,
            title=str(check.attribute("", "title")) if "title" in file.attrs else "",
            views=_check_views(check),
            track=_track(check, notes),
            down=_down(check, notes),
            side=_side(check, notes),
            forward=_forward(check, notes),
            notes=tuple(notes),
        )


def close_recording(recording: Recording) -> None:
    """Let go of the files behind a recording."""
    side = recording.side
    views = (recording.down, recording.forward)
    sources = [v.echo for v in views if v is not None] + ([] if side is None else [side.port, side.starboard])
    for source in sources:
        if isinstance(source, EchoFile):
            source.close()


def write_recording(
    path: Path | str,
    recording: Recording,
    *,
    source: str = "simulated",
    inputs: Iterable[Path] = (),
    progress: Callable[[float], None] = lambda fraction: None,
) -> None:
    """Write track and views of a recording; the file appears whole or not at all."""
    import h5netcdf  # only writing needs it

    path = Path(path)
    with writing(path, inputs=inputs) as fresh, h5netcdf.File(fresh, "w") as file:
        _write(file, recording, source, progress)


def _write(file: Any, recording: Recording, source: str, progress: Callable[[float], None]) -> None:
    track = recording.track
    views: dict[str, Pings] = {
        name: view
        for name, view in (("down", recording.down), ("side", recording.side), ("forward", recording.forward))
        if view is not None
    }
    file.attrs.update(
        Conventions="CF-1.11",
        format=FORMAT,
        format_version=FORMAT_VERSION,
        title=recording.title,
        source=source,
    )
    if views:
        first = next(iter(views.values()))
        file.attrs.update(sound_speed=first.sound_speed_mps, **_mount_attributes(first.mount))
    if track is not None:
        group = file.create_group("track")
        group.dimensions = {"fix": len(track)}
        for name, values, units in (
            ("time", track.time, _TIME_UNITS),
            ("latitude", track.latitude, "degrees_north"),
            ("longitude", track.longitude, "degrees_east"),
            ("speed", track.speed_mps, "m s-1"),
            ("course", track.course_deg, "degree"),
            ("heading", track.heading_deg, "degree"),
            ("water_temperature", track.temperature_c, "degree_Celsius"),
        ):
            _column(group, name, ("fix",), values, units)
    total, done = max(sum(len(v) for v in views.values()), 1), 0
    for name, view in views.items():
        _write_view(file.create_group(name), view, first.mount, partial(_share, progress, done, total))
        done += len(view)


def _share(progress: Callable[[float], None], before: int, total: int, pings: int) -> None:
    progress((before + pings) / total)


def _mount_attributes(mount: Mount) -> dict[str, float]:
    return {
        "transducer_depth": mount.depth_m,
        "antenna_to_transducer_forward": mount.forward_m,
        "antenna_to_transducer_starboard": mount.starboard_m,
    }


def _write_view(group: Any, view: Pings, usual: Mount, progress: Callable[[int], None]) -> None:
    axes: tuple[str, ...] = ("ping", "sample")
    echoes: dict[str, EchoSource] = {}
    group.dimensions = {"ping": len(view), "sample": view.samples}
    group.attrs.update(frequency=view.frequency_hz, tvg=view.tvg)
    if math.isfinite(view.pulse_length_s):
        group.attrs["pulse_length"] = view.pulse_length_s
    if view.mount != usual:
        group.attrs.update(_mount_attributes(view.mount))
    _column(group, "time", ("ping",), view.time, _TIME_UNITS)
    _column(group, "range_start", ("ping",), view.range_start_m, "m")
    _column(group, "range_step", ("ping",), view.range_step_m, "m")
    if isinstance(view, Down):
        group.attrs["beam_width"] = view.beam_width_deg
        echoes = {"echo": view.echo}
    elif isinstance(view, Side):
        group.attrs.update(beam_width_along=view.beam_width_along_deg, beam_width_across=view.beam_width_across_deg)
        echoes = {"port": view.port, "starboard": view.starboard}
    elif isinstance(view, Forward):
        axes = ("ping", "beam", "sample")
        group.dimensions["beam"] = view.beam_angle_deg.size
        group.attrs["beam_width"] = view.beam_width_deg
        _column(group, "beam_angle", ("beam",), view.beam_angle_deg, "degree")
        _column(group, "azimuth", ("ping",), view.azimuth_deg, "degree")
        echoes = {"echo": view.echo}
    for name, source in echoes.items():
        variable = group.create_variable(
            name,
            axes,
            np.uint8,
            # a chunk of many beams holds fewer pings, about as many bytes
            chunks=(min(CHUNK_PINGS if len(axes) == 2 else CHUNK_PINGS // 8, max(len(view), 1)), *source.shape[1:]),
            compression="gzip",
            compression_opts=4,
            shuffle=False,
        )
        variable.attrs.update(scale_factor=view.scale_db, add_offset=view.offset_db, units="dB")
        for start in range(0, len(view), CHUNK_PINGS):
            block = source.read(start, start + CHUNK_PINGS)
            variable[start : start + len(block)] = block
            progress(start + len(block))


def _column(group: Any, name: str, axes: tuple[str, ...], values: Floats, units: str) -> None:
    variable = group.create_variable(name, axes, np.float64, data=np.asarray(values, np.float64))
    variable.attrs["units"] = units
