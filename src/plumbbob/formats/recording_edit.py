"""
Cutting, joining and thinning recordings, with all their groups: what no view shows yet goes along too.

Pings and fixes are chosen by time and copied a run at a time, attributes and all, so hours need no memory.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from contextlib import ExitStack
from pathlib import Path
from typing import Any

import h5netcdf
import numpy as np
from numpy.typing import NDArray

from plumbbob.core.types import Rows
from plumbbob.files.atomic import writing
from plumbbob.files.errors import FileError
from plumbbob.formats.recording import CHUNK_PINGS, read_recording

_GROUPS = ("track", "down", "side", "forward")
_FREE_ATTRIBUTES = ("title", "source", "history", "Conventions")


def cut(
    source: Path,
    out: Path,
    start: float,
    end: float,
    *,
    progress: Callable[[float], None] = lambda fraction: None,
) -> int:
    """
    Keep what lies between two times, seconds; fixes a little beyond, so that the ends keep their places.

    Returns
    -------
    int
        Pings kept, over all groups.

    Raises
    ------
    FileError
        Where nothing lies between, or a file breaks the contract.
    """
    if not (math.isfinite(start) and math.isfinite(end) and start < end):
        raise FileError(source, "", "a piece must end after it begins")

    def choose(group: str, time: NDArray[np.float64]) -> Rows:
        beyond = 5.0 if group == "track" else 0.0
        return np.flatnonzero((time >= start - beyond) & (time <= end + beyond))

    return _write([source], out, choose, f"cut from {source.name}", progress)


def thin(source: Path, out: Path, every: int, *, progress: Callable[[float], None] = lambda fraction: None) -> int:
    """Keep every so many-th ping of each group, and all fixes."""
    if not 2 <= every <= 1000:
        raise FileError(source, "", "thinning keeps every 2nd to every 1000th ping")

    def choose(group: str, time: NDArray[np.float64]) -> Rows:
        return np.arange(0, time.size, 1 if group == "track" else every)

    return _write([source], out, choose, f"every {every}. ping of {source.name}", progress)


def join(sources: Sequence[Path], out: Path, *, progress: Callable[[float], None] = lambda fraction: None) -> int:
    """
    Put recordings of one sounder, set up alike, one after the other in order of time.

    Raises
    ------
    FileError
        Where they differ in a way that a reader could not tell any more, naming it.
    """
    if len(sources) < 2:
        raise FileError(out, "", "joining needs two recordings or more")
    names = " and ".join(p.name for p in sources)
    return _write(sources, out, lambda group, time: np.arange(time.size), f"joined from {names}", progress)


def _write(
    sources: Sequence[Path],
    out: Path,
    choose: Callable[[str, NDArray[np.float64]], Rows],
    history: str,
    progress: Callable[[float], None],
) -> int:
    for path in sources:
        read_recording(path)  # the whole contract, before anything is written
    with writing(out, inputs=sources) as fresh, ExitStack() as stack:
        files = [stack.enter_context(h5netcdf.File(p, "r")) for p in sources]
        for path, file in zip(sources[1:], files[1:], strict=True):
            _same(path, "root", files[0], file)
        files.sort(key=_first_time)
        new = stack.enter_context(h5netcdf.File(fresh, "w"))
        new.attrs.update(dict(files[0].attrs))
        new.attrs["history"] = history
        kept = 0
        present = [g for g in _GROUPS if any(g in f.groups for f in files)]
        for k, group in enumerate(present):
            kept += _group(sources, files, new, group, choose, _share(progress, k, len(present)))
        if not kept:
            raise FileError(sources[0], "", "nothing lies in that piece")
    return kept


def _share(progress: Callable[[float], None], part: int, parts: int) -> Callable[[float], None]:
    """Progress of one part of several."""
    return lambda fraction: progress((part + fraction) / parts)


def _first_time(file: Any) -> float:
    firsts = [float(np.nanmin(file.groups[g].variables["time"][:])) for g in _GROUPS if _has_rows(file, g)]
    return min(firsts, default=math.inf)


def _has_rows(file: Any, group: str) -> bool:
    return group in file.groups and file.groups[group].variables["time"].shape[0] > 0


def _same(path: Path, where: str, first: Any, other: Any) -> None:
    """The attributes that give echoes their meaning must agree."""
    for name in sorted(set(first.attrs) | set(other.attrs)):
        if name in _FREE_ATTRIBUTES:
            continue
        a, b = first.attrs.get(name), other.attrs.get(name)
        if not np.array_equal(np.asarray(a), np.asarray(b)):
            raise FileError(path, where, f"attribute {name} is {b}, not {a} as in the first: can't be joined")


def _group(
    sources: Sequence[Path],
    files: Sequence[Any],
    new: Any,
    name: str,
    choose: Callable[[str, NDArray[np.float64]], Rows],
    progress: Callable[[float], None],
) -> int:
    """Copy the chosen rows of one group; returns the pings among them."""
    parts = [f.groups[name] for f in files if name in f.groups]
    first = parts[0]
    rows = [choose(name, np.asarray(p.variables["time"][:], np.float64)) for p in parts]
    axis = first.variables["time"].dimensions[0]
    total = int(sum(r.size for r in rows))
    for path, part in zip(sources[1:], parts[1:], strict=False):
        _same(path, name, first, part)
        _alike(path, name, axis, first, part)
    group = new.create_group(name)
    group.dimensions = {d: total if d == axis else s.size for d, s in first.dimensions.items()}
    group.attrs.update(dict(first.attrs))
    for variable_name, variable in first.variables.items():
        along = bool(variable.dimensions) and variable.dimensions[0] == axis
        options: dict[str, Any] = {}
        if along and len(variable.shape) > 1 and total:
            chunk = (min(CHUNK_PINGS, total), *variable.shape[1:])
            options = {"chunks": chunk, "compression": "gzip", "compression_opts": 4, "shuffle": False}
        made = group.create_variable(variable_name, variable.dimensions, variable.dtype, **options)
        made.attrs.update(dict(variable.attrs))
        if not along:
            made[...] = variable[...]
            continue
        at = 0
        for part, chosen in zip(parts, rows, strict=True):
            for low in range(0, chosen.size, CHUNK_PINGS):
                run = chosen[low : low + CHUNK_PINGS]
                block = np.asarray(part.variables[variable_name][int(run[0]) : int(run[-1]) + 1])
                made[at : at + run.size] = block[run - run[0]]
                at += run.size
                progress(at / max(total, 1))
    return 0 if name == "track" else total


def _alike(path: Path, name: str, axis: str, first: Any, part: Any) -> None:
    for variable, there in first.variables.items():
        here = part.variables.get(variable)
        if here is None:
            raise FileError(path, f"{name}/{variable}", "is missing here: can't be joined")
        if here.shape[1:] != there.shape[1:] or (not here.dimensions or here.dimensions[0] != axis) != (
            not there.dimensions or there.dimensions[0] != axis
        ):
            raise FileError(path, f"{name}/{variable}", f"has shape {here.shape}, not like the first's {there.shape}")
        _same(path, f"{name}/{variable}", there, here)
