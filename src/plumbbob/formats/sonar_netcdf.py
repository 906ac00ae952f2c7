"""
Recordings by the open SONAR-netCDF4 convention of ICES for echosounder data, versions 1 and 2 (read only).

`/Sonar/Beam_groupN` holds the pings, `backscatter_r` as arrays or of variable length; `/Platform` where the boat was.
Levels in decibels are taken as they are, others as amplitudes. No range correction is in them.
"""

from __future__ import annotations

import math
import re
from contextlib import suppress
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import h5py
import numpy as np
from numpy.typing import NDArray

from plumbbob.core.geodesy import separation
from plumbbob.core.sonar.recording import Down, EchoArray, Mount, Recording, Track
from plumbbob.files.errors import FileError
from plumbbob.files.kinds import plain_file
from plumbbob.files.text import printable
from plumbbob.formats.hdf5_heap import check_heaps

MOST_BYTES = 8 << 30
_MOST_CELLS = 2_000_000_000
_GROUP = re.compile(r"^Beam_group\d+$")
_LEAST_STEP_DB, _SILENT_DB = 0.25, -160.0
_EPOCH_1601_S = -11_644_473_600.0
# what the library and the numbers in a damaged file may answer with
_DAMAGE = (
    KeyError, ValueError, TypeError, IndexError, AttributeError, OSError, RuntimeError, ArithmeticError, MemoryError,
)  # fmt: skip


def is_sonar_netcdf(path: Path) -> bool:
    """The file follows the convention, by its groups."""
    try:
        with h5py.File(path, "r") as file:
            return "Sonar" in file and any(_GROUP.match(name) for name in file["Sonar"])
    except _DAMAGE:
        return False


def beam_groups(path: Path) -> list[tuple[str, float]]:
    """Names of the beam groups and their frequencies in hertz (NaN where not given), as in the file."""
    plain_file(path, MOST_BYTES)
    check_heaps(path)
    with _hdf5(path) as file:
        try:
            return [(name, _frequency(file["Sonar"][name])) for name in _names(path, file)]
        except _DAMAGE as exc:
            raise FileError(path, "Sonar", f"cannot be used: {printable(str(exc))}") from exc


def read_sonar_netcdf(path: Path, group: str = "") -> Recording:
    """
    The down-looking pings of one beam group.

    Parameters
    ----------
    path : Path
    group : str
        Its name; by default the one with the highest frequency that has pings.

    Raises
    ------
    FileError
        In one line that names group and variable.
    """
    plain_file(path, MOST_BYTES)
    check_heaps(path)
    with _hdf5(path) as file:
        chosen = "Sonar"
        try:
            names = _names(path, file)
            if group and group not in names:
                raise FileError(path, "Sonar", f"has no {printable(group)}; it has {', '.join(names)}")
            by_frequency = sorted(names, key=lambda n: -np.nan_to_num(_frequency(file["Sonar"][n])))
            chosen = group or by_frequency[0]
            down = _down(file, file["Sonar"][chosen])
            track = _track(file, file["Sonar"][chosen], down.time)
        except _DAMAGE as exc:
            raise FileError(path, chosen, f"cannot be used: {printable(str(exc))}") from exc
    others = [n for n in names if n != chosen]
    notes = (f"shown is {chosen}, {down.frequency_hz / 1e3:.0f} kHz; {len(others)} more are in the file",)
    return Recording(
        name=path.name, title=path.stem, track=track, down=down, views=("down",), notes=notes[: len(others)]
    )


def _hdf5(path: Path) -> h5py.File:
    try:
        return h5py.File(path, "r")
    except _DAMAGE as exc:
        raise FileError(path, "", "is damaged or no netCDF-4 file") from exc


def _names(path: Path, file: h5py.File) -> list[str]:
    sonar = file.get("Sonar")
    names = sorted(n for n in sonar if _GROUP.match(n)) if isinstance(sonar, h5py.Group) else []
    if not names:
        raise FileError(path, "Sonar", "holds no beam group")
    return names


def _row(group: h5py.Group, *names: str) -> NDArray[np.float64] | None:
    """The first variable there is, as numbers."""
    for name in names:
        found = group.get(name)
        if isinstance(found, h5py.Dataset) and found.dtype.kind in "fiu":
            return np.asarray(found[()], np.float64)
    return None


def _frequency(group: h5py.Group) -> float:
    ends = [_row(group, name) for name in ("transmit_frequency_start", "transmit_frequency_stop", "frequency")]
    found = [float(np.nanmedian(e)) for e in ends if e is not None and e.size]
    return float(np.mean(found)) if found else math.nan


def _seconds(variable: h5py.Dataset) -> NDArray[np.float64]:
    """Times as seconds since 1970, by their units: 'UNIT since DATE'."""
    units = variable.attrs.get("units", b"")
    text = units.decode() if isinstance(units, bytes) else str(units)
    unit, _, since = text.partition(" since ")
    per = {"nanoseconds": 1e-9, "microseconds": 1e-6, "milliseconds": 1e-3, "seconds": 1.0, "days": 86400.0}
    if since.startswith("1601-01-01"):
        origin = _EPOCH_1601_S
    else:
        stamp = datetime.fromisoformat(since.strip().replace("Z", "+00:00").replace(" +", "+") or "1970-01-01")
        origin = (stamp if stamp.tzinfo else stamp.replace(tzinfo=UTC)).timestamp()
    scale = per.get(unit.strip(), 1e-9)
    raw = np.asarray(variable[()])
    if raw.dtype.kind in "iu" and scale < 1e-3:  # nanoseconds since 1601 are beyond exact floats
        whole = round(1.0 / scale)
        return (raw // whole).astype(np.float64) + (raw % whole).astype(np.float64) * scale + origin
    return raw.astype(np.float64) * scale + origin


def _levels(group: h5py.Group) -> tuple[NDArray[np.float32], NDArray[np.intp]]:
    """Levels in decibels, shape (pings, samples), of the first beam, and how many samples each ping has."""
    real = group["backscatter_r"]
    if real.size == 0:
        raise ValueError("backscatter_r is empty")
    imaginary = group.get("backscatter_i")
    rows_r, rows_i = _pings_of(real), _pings_of(imaginary) if imaginary is not None else None
    lengths = np.array([len(r) for r in rows_r], np.intp)
    if int(lengths.max()) * len(rows_r) > _MOST_CELLS:
        raise ValueError("it holds more samples than can be read")
    out = np.full((len(rows_r), max(int(lengths.max()), 1)), np.nan, np.float32)
    units = real.attrs.get("units", b"")
    text = units.decode() if isinstance(units, bytes) else str(units)
    for k, row in enumerate(rows_r):
        value = np.asarray(row, np.float32)
        if "db" not in text.lower():
            power = value.astype(np.float64) ** 2
            if rows_i is not None and len(rows_i[k]) == len(row):
                power += np.asarray(rows_i[k], np.float64) ** 2
            with np.errstate(divide="ignore"):
                value = (10.0 * np.log10(power)).astype(np.float32)
        out[k, : len(value)] = value
    return out, lengths


def _pings_of(variable: h5py.Dataset) -> list[NDArray[Any]]:
    """Samples ping by ping: (ping, beam) of variable length, (ping, beam, sample), or (ping, sample)."""
    data = variable[()]
    if data.dtype == object:
        flat = data if data.ndim == 1 else data[:, 0]
        return [np.asarray(row) for row in flat]
    if data.ndim == 3:
        data = data[:, 0, :]
    if data.ndim != 2:
        raise ValueError("backscatter_r has no pings and samples")
    return list(data)


def _per_ping(group: h5py.Group, n: int, *names: str) -> NDArray[np.float64] | None:
    """A value a ping: given as one, a ping, or a ping and beam."""
    found = _row(group, *names)
    if found is None or not found.size:
        return None
    if found.ndim > 1:
        found = found[:, 0] if found.shape[0] == n else found.ravel()[:1]
    return np.broadcast_to(found.ravel() if found.size == n else found.ravel()[:1], (n,)).astype(np.float64)


def _down(file: h5py.File, group: h5py.Group) -> Down:
    time = _seconds(group["ping_time"])
    level, lengths = _levels(group)
    n = min(len(time), len(level))
    time, level, lengths = time[:n], level[:n], lengths[:n]
    order = np.argsort(time, kind="stable")
    interval = _per_ping(group, n, "sample_interval")
    if interval is None or not (np.isfinite(interval) & (interval > 1e-9) & (interval < 1.0)).all():
        raise ValueError("sample_interval is missing or no time")
    sound = _per_ping(group, n, "sound_speed_at_transducer")
    if sound is None and isinstance(file.get("Environment"), h5py.Group):
        sound = _per_ping(file["Environment"], n, "sound_speed_indicative")
    speed = float(np.nanmedian(sound)) if sound is not None and 1300 < np.nanmedian(sound) < 1700 else 1480.0
    late = _per_ping(group, n, "sample_time_offset", "blanking_interval")
    start = np.zeros(n) if late is None else np.nan_to_num(late)
    pulse = _per_ping(group, n, "transmit_duration_nominal")
    widths = [
        _row(group, *(f"beamwidth_{way}_{axis}", f"beam_width_{way}_{axis}"))
        for way in ("receive", "transmit")
        for axis in ("major", "minor")
    ]
    known = [float(np.nanmedian(w)) for w in widths if w is not None and w.size and np.nanmedian(w) > 0]
    finite = np.isfinite(level) & (level > _SILENT_DB)
    if not finite.any():
        raise ValueError("backscatter_r holds no levels")
    low, high = (float(v) for v in np.percentile(level[finite], [0.5, 100.0]))
    scale = max((high - low) / 253.0, _LEAST_STEP_DB)
    raw = np.where(finite, np.clip(np.rint((level - low) / scale) + 1.0, 0.0, 255.0), 0.0)
    return Down(
        time=time[order],
        range_start_m=(start[order] * speed / 2.0),
        range_step_m=interval[order] * speed / 2.0,
        echo=EchoArray(np.nan_to_num(raw).astype(np.uint8)[order]),
        scale_db=scale,
        offset_db=low - scale,
        frequency_hz=float(np.nan_to_num(_frequency(group), nan=200e3)),
        beam_width_deg=min(max(known[0] if known else 10.0, 1.0), 90.0),
        pulse_length_s=float(np.nanmedian(pulse)) if pulse is not None else 0.3e-3,
        tvg="none",
        mount=_mount(file),
        sound_speed_mps=speed,
    )


def _mount(file: h5py.File) -> Mount:
    platform = file.get("Platform")
    if not isinstance(platform, h5py.Group):
        return Mount(depth_m=0.0)
    offset = [_row(platform, f"transducer_offset_{axis}") for axis in "xyz"]
    ahead, right, down = (float(v.ravel()[0]) if v is not None and v.size else 0.0 for v in offset)
    vertical = _row(platform, "water_level")
    depth = down - (float(np.nanmedian(vertical)) if vertical is not None and vertical.size else 0.0)
    values = [v if math.isfinite(v) and abs(v) < 100.0 else 0.0 for v in (depth, ahead, right)]
    return Mount(depth_m=max(values[0], 0.0), forward_m=values[1], starboard_m=values[2])


def _track(file: h5py.File, group: h5py.Group, ping_time: NDArray[np.float64]) -> Track | None:
    """Positions of version 1 (`/Platform`), or of version 2 (in the beam group, a place for each ping)."""
    platform = file.get("Platform")
    time, lat, lon, heading = None, None, None, None
    if isinstance(platform, h5py.Group):
        lat, lon = _row(platform, "latitude"), _row(platform, "longitude")
        with suppress(KeyError, ValueError, TypeError):
            time = _seconds(platform[next((n for n in ("time1", "time", "time2") if n in platform), "time1")])
        heading = _row(platform, "heading")
    if lat is None or lon is None or time is None or len(time) != len(lat):
        lat, lon = _row(group, "platform_latitude"), _row(group, "platform_longitude")
        heading = _row(group, "platform_heading")
        time = ping_time
    if lat is None or lon is None or not len(lat) == len(lon) == len(time):
        return None
    good = np.isfinite(lat) & np.isfinite(lon) & (np.abs(lat) <= 90.0) & (np.abs(lon) <= 360.0) & np.isfinite(time)
    order = np.argsort(time[good], kind="stable")
    t, la, lo = (v[good][order] for v in (time, lat, lon))
    fresh = np.concatenate(([True], np.diff(t) > 0)) if t.size else np.zeros(0, bool)
    t, la, lo = t[fresh], la[fresh], lo[fresh]
    if t.size < 2:
        return None
    east, north = separation(la[:-1], lo[:-1], la[1:], lo[1:])
    speed = np.hypot(east, north) / np.maximum(np.diff(t), 1e-3)
    course = np.degrees(np.arctan2(east, north)) % 360.0
    turned = course if heading is None or len(heading) != len(good) else heading[good][order][fresh][:-1]
    return Track(
        time=t,
        latitude=la,
        longitude=lo,
        speed_mps=np.append(speed, speed[-1]),
        heading_deg=np.append(turned, turned[-1]),
        course_deg=np.append(course, course[-1]),
        temperature_c=np.full(t.size, np.nan),
    )
