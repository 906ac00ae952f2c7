"""A recording that grows: whole on disk after every commit, for any reader of netCDF-4, whatever ends the program."""

from __future__ import annotations

import math
import os
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path
from typing import Any

import numpy as np

from plumbbob.core.live.fixes import Fix
from plumbbob.files.atomic import NotWritten
from plumbbob.files.committed import CommittedFile
from plumbbob.files.errors import FileError
from plumbbob.files.text import why
from plumbbob.formats.recording import CHUNK_PINGS, FORMAT, FORMAT_VERSION
from plumbbob.formats.wire_pings import PingHeader, WirePing

_TIME_UNITS = "seconds since 1970-01-01T00:00:00Z"
_NO_SOUND_MPS, _NO_DEPTH_M = 1450.0, 0.0
_COLUMNS = (
    ("time", _TIME_UNITS),
    ("latitude", "degrees_north"),
    ("longitude", "degrees_east"),
    ("speed", "m s-1"),
    ("course", "degree"),
    ("heading", "degree"),
    ("water_temperature", "degree_Celsius"),
)
_CHUNK_FIXES = 512
_SPARE_BYTES = 500_000  # of the disk, left alone
_ROOM = 256  # samples a ping may grow to are made in steps of so many


class DiskFull(Exception):
    """There is no room for more: the file is as it was committed last."""


def _free_bytes(path: Path) -> int:
    found = os.statvfs(path)
    return found.f_bavail * found.f_frsize


class GrowingRecording:
    """
    Takes fixes and pings; `commit` puts them on disk, whole or not at all.

    Nothing is packed while it grows: a block that is packed anew would move, and what lay there before with it.

    Raises
    ------
    FileError
        If the file is there already or can't be made.
    NotWritten
        If there is no room for it from the start on.
    """

    def __init__(self, path: Path, free: Callable[[Path], int] = _free_bytes) -> None:
        import h5netcdf
        import h5py

        self.path, self._free = path, free
        self.fixes = 0
        self.pings = {"down": 0, "side": 0, "forward": 0}
        self.headers: dict[str, PingHeader] = {}
        self._new_fixes: list[Fix] = []
        self._new_pings: dict[str, list[WirePing]] = {}
        self._full = False
        self._sets: dict[str, Any] = {}
        try:
            self._disk = CommittedFile(path)
        except FileExistsError as exc:
            raise FileError(path, "", "is there already; a recording is never written over") from exc
        except OSError as exc:
            raise FileError(path, "", f"could not be written: {why(exc)}") from exc
        self._plain = h5py.File(self._disk, "w", track_order=True)
        self._file: Any = h5netcdf.File(self._plain, "w")
        self._hold_metadata()
        self._file.attrs.update(
            Conventions="CF-1.11",
            format=FORMAT,
            format_version=FORMAT_VERSION,
            title=path.stem,
            source="recorded live",
            sound_speed=_NO_SOUND_MPS,
            transducer_depth=_NO_DEPTH_M,
        )
        track = self._file.create_group("track")
        track.dimensions = {"fix": None}
        for name, units in _COLUMNS:
            variable = track.create_variable(name, ("fix",), np.float64, chunks=(_CHUNK_FIXES,))
            variable.attrs["units"] = units
        try:
            self.commit()
        except DiskFull as exc:
            self.close()
            with suppress(OSError):
                path.unlink()
            raise NotWritten(path, "there is no room for it on the disk", fault=True) from exc

    def _hold_metadata(self) -> None:
        """The library keeps what describes the file until it is flushed: only whole states go down."""
        config = self._plain.id.get_mdc_config()
        config.evictions_enabled = False
        config.incr_mode = config.flash_incr_mode = config.decr_mode = 0
        self._plain.id.set_mdc_config(config)

    # -- taking -------------------------------------------------------------------------------------------------

    def add_fix(self, fix: Fix) -> None:
        """One moment."""
        self._new_fixes.append(fix)

    def open_view(self, header: PingHeader) -> bool:
        """Pings of a header may come; False where they would not fit those that are there."""
        kept = self.headers.get(header.view)
        if kept is not None:
            return kept.agrees(header)
        if not self.headers:
            self._file.attrs["sound_speed"] = header.sound_speed
            self._file.attrs["transducer_depth"] = header.transducer_depth
        self.headers[header.view] = header
        return True

    def _make_view(self, header: PingHeader) -> None:
        """Its place in the file, made with its first ping: a view without any is none."""
        group = self._file.create_group(header.view)
        group.dimensions = {"ping": None, "sample": None}
        group.attrs.update(dict(header.attributes))
        first = next(iter(self.headers.values()))
        if header.transducer_depth != first.transducer_depth:
            group.attrs["transducer_depth"] = header.transducer_depth
        columns = [("time", _TIME_UNITS), ("range_start", "m"), ("range_step", "m")]
        if header.view == "forward":
            group.dimensions["beam"] = len(header.beam_angle)
            beams = group.create_variable("beam_angle", ("beam",), np.float64, data=np.array(header.beam_angle))
            beams.attrs["units"] = "degree"
            columns.append(("azimuth", "degree"))
        for name, units in columns:
            variable = group.create_variable(name, ("ping",), np.float64, chunks=(_CHUNK_FIXES,))
            variable.attrs["units"] = units

    def add_ping(self, view: str, ping: WirePing) -> None:
        """One ping of a view that is open."""
        self._new_pings.setdefault(view, []).append(ping)

    def waiting(self, view: str) -> list[WirePing]:
        """Pings of a view that are not on disk yet."""
        return self._new_pings.get(view, [])

    # -- to the disk --------------------------------------------------------------------------------------------

    @property
    def size(self) -> int:
        """Bytes on disk."""
        return self._disk.size

    def commit(self) -> None:
        """
        All that was taken, on disk.

        Raises
        ------
        DiskFull
            There is no room: nothing of it was written, and nothing more will be.
        """
        if self._full:
            raise DiskFull
        if self._new_fixes:
            self._write_fixes(self._new_fixes)
        for view, pings in self._new_pings.items():
            if pings:
                self._write_pings(view, pings)
        self._file.flush()
        self._plain.flush()  # the layer above does not reach down to here by itself
        try:
            if self._disk.pending + _SPARE_BYTES > self._free(self.path.parent):
                raise DiskFull
            self._disk.commit()
        except (DiskFull, OSError) as exc:
            self._full = True
            raise DiskFull from exc
        self.fixes += len(self._new_fixes)
        for view, pings in self._new_pings.items():
            self.pings[view] += len(pings)
        self._new_fixes, self._new_pings = [], {}

    def _write_fixes(self, fixes: list[Fix]) -> None:
        start = self.fixes
        self._set("track", "fix").resize((start + len(fixes),))
        rows = np.array(
            [
                (f.time, f.latitude, f.longitude, f.speed_mps, f.course_deg, f.heading_deg, f.temperature_c)
                for f in fixes
            ]
        )
        for k, (name, _) in enumerate(_COLUMNS):
            self._put("track", name, start, rows[:, k])

    def _put(self, group: str, name: str, start: int, block: Any) -> None:
        """Rows of a variable from one on; it grows along all its axes."""
        values = self._set(group, name)
        shape = (start + len(block), *block.shape[1:])
        if values.shape != shape:
            values.resize(shape)
        values[start:] = block

    def _set(self, group: str, name: str) -> Any:
        """A variable, or the scale of a dimension, looked for once: the library takes its time over names."""
        path = f"{group}/{name}"
        if path not in self._sets:
            self._sets[path] = self._plain[path]
        return self._sets[path]

    def _write_pings(self, view: str, pings: list[WirePing]) -> None:
        header, start = self.headers[view], self.pings[view]
        if f"{view}/ping" not in self._sets:
            self._make_view(header)
        beams = len(header.beam_angle)
        widest = max(p.samples for p in pings)
        names = ("port", "starboard") if view == "side" else ("echo",)
        if f"{view}/{names[0]}" not in self._sets:
            group = self._file[view]
            samples = -(-widest // _ROOM) * _ROOM if widest > _ROOM else widest
            axes = ("ping", "beam", "sample") if view == "forward" else ("ping", "sample")
            shape = (beams, samples) if view == "forward" else (samples,)
            held = max(min(CHUNK_PINGS, 4_000_000 // max(math.prod(shape), 1)), 1)
            group.resize_dimension("sample", widest)
            for name in names:
                variable = group.create_variable(name, axes, np.uint8, chunks=(held, *shape), fillvalue=0)
                variable.attrs.update(scale_factor=header.scale_factor, add_offset=header.add_offset, units="dB")
            for name in names:
                self._set(view, name)
        elif widest > self._set(view, "sample").shape[0]:
            self._set(view, "sample").resize((widest,))
        self._set(view, "ping").resize((start + len(pings),))
        wide = self._set(view, "sample").shape[0]
        rows = np.array([(p.time, p.range_start, p.range_step, p.azimuth) for p in pings])
        for k, name in enumerate(("time", "range_start", "range_step", "azimuth")):
            if name != "azimuth" or view == "forward":
                self._put(view, name, start, rows[:, k])
        many = 2 if view == "side" else max(beams, 1)
        block = np.zeros((len(pings), many, wide), np.uint8)
        for i, ping in enumerate(pings):
            block[i, :, : ping.samples] = np.frombuffer(ping.echo, np.uint8).reshape(many, ping.samples)
        if view == "forward":
            self._put(view, "echo", start, block)
            return
        for k, name in enumerate(names):
            self._put(view, name, start, block[:, k])

    def close(self) -> None:
        """Commit what is left, if there is room, and let go."""
        if not self._full:
            try:
                self.commit()
            except DiskFull:
                self._disk.forget()
        # the library writes its last words into memory only; what is on disk was whole before
        self._file.close()
        self._plain.close()
        if not self._full:
            try:
                self._disk.commit()
            except OSError:
                self._disk.forget()
        self._disk.close()
