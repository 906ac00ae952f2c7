"""
The global heaps of an HDF5 file, walked before the library does: it follows a damaged one for ever.

Texts of attributes lie there. A heap is a row of objects, each with its size; free space counts as object 0 and says
its own whole size, and where that is none, the library stands still on it.
"""

from __future__ import annotations

import mmap
import struct
from pathlib import Path

from plumbbob.files.errors import FileError

_MARK = b"GCOL\x01\0\0\0"  # signature, version, reserved
_HEAD, _OBJECT = 16, 16
_LEAST_BYTES = 4096


def check_heaps(path: Path) -> None:
    """
    Walk every global heap of a file.

    Raises
    ------
    FileError
        If one of them does not end.

    Notes
    -----
    HDF5 file format specification 3.0, III.E: a collection's size at 8, objects from 16 on, each index (2 bytes),
    reference count (2), reserved (4), size (8), then its data up to a multiple of 8.
    """
    if path.stat().st_size < _LEAST_BYTES:
        return
    with path.open("rb") as file, mmap.mmap(file.fileno(), 0, access=mmap.ACCESS_READ) as data:
        at = data.find(_MARK)
        while at >= 0:
            if not _ends(data, at):
                raise FileError(path, "", "damaged: a heap of texts in it has no end")
            at = data.find(_MARK, at + 1)


def _ends(data: mmap.mmap, start: int) -> bool:
    if start + _HEAD > len(data):
        return False
    (size,) = struct.unpack_from("<Q", data, start + 8)
    if not _LEAST_BYTES <= size <= len(data) - start:
        return False
    at = start + _HEAD
    while at + _OBJECT <= start + size:
        index, _, _, own = struct.unpack_from("<HHIQ", data, at)
        step = own if index == 0 else _OBJECT + -(-own // 8) * 8
        if step < _OBJECT or at + step > start + size:
            return False
        at += step
    return True
