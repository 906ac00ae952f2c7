"""A water as one file: a zip archive of its folder, and back. What comes from outside is not trusted."""

from __future__ import annotations

import json
import os
import shutil
import stat
import tempfile
import zipfile
import zlib
from pathlib import Path, PurePosixPath

from plumbbob.core.types import Progress
from plumbbob.files.atomic import MAKING, private_folder, writing
from plumbbob.files.errors import FileError
from plumbbob.files.kinds import plain_file
from plumbbob.files.text import why
from plumbbob.formats.waters import FILE, Water, read_water
from plumbbob.services.waters import Waters

VERSION = 1
MOST_FILES, MOST_BYTES, MOST_RATIO = 10_000, 8 << 30, 200
_ABOUT = "plumbbob-backup.json"
_LEFT_OUT = ("grid.npz",)  # made again
_BLOCK = 1 << 20


def backup(waters: Waters, water: Water, out: Path, progress: Progress = lambda fraction: None) -> int:
    """
    Write a water into an archive, whole or not at all; says how many files.

    Raises
    ------
    FileError
        If a file cannot be read, or the archive cannot be written.
    """
    root = waters.root / water.key
    try:
        files = sorted(p for p in root.rglob("*") if p.is_file() and not p.is_symlink() and p.name not in _LEFT_OUT)
        with writing(out, private=True) as fresh, zipfile.ZipFile(fresh, "w", zipfile.ZIP_DEFLATED) as archive:
            archive.writestr(_ABOUT, json.dumps({"plumbbob_backup": VERSION, "name": water.name}))
            for k, path in enumerate(files):
                archive.write(path, path.relative_to(root).as_posix())
                progress((k + 1) / len(files))
    except (OSError, ValueError, zipfile.BadZipFile) as exc:
        raise FileError(out, "", f"could not be written: {why(exc)}") from exc
    return len(files)


def restore(waters: Waters, path: Path, progress: Progress = lambda fraction: None) -> Water:
    """
    A water from an archive, as a new one beside those that are there.

    Raises
    ------
    FileError
        If it is no archive of a water, is from a newer program, holds paths that lead outside, or would unpack to
        more than a water can be. Nothing is left behind then.
    """
    plain_file(path)
    private_folder(waters.root)
    made = Path(tempfile.mkdtemp(prefix=MAKING, dir=waters.root))
    try:
        with zipfile.ZipFile(path) as archive:
            members = _members(path, archive)
            _check_about(path, archive)
            for k, member in enumerate(members):
                _unpack(path, archive, member, made)
                progress((k + 1) / len(members))
        described = read_water(made)
        water = waters.create(described.name, described.place, like=described)
        target = waters.root / water.key
        (made / FILE).unlink()
        for entry in sorted(made.iterdir()):
            entry.replace(target / entry.name)
        return water
    except (OSError, zipfile.BadZipFile, zlib.error, RuntimeError, EOFError, IndexError, ValueError) as exc:
        raise FileError(path, "", f"is no archive that can be used: {why(exc)}") from exc
    finally:
        shutil.rmtree(made, ignore_errors=True)


def _members(path: Path, archive: zipfile.ZipFile) -> list[zipfile.ZipInfo]:
    """What will be unpacked, checked before a byte of it is."""
    members = [m for m in archive.infolist() if not m.is_dir() and m.filename != _ABOUT]
    if len(members) > MOST_FILES:
        raise FileError(path, "", f"holds {len(members)} files; a water has at most {MOST_FILES}")
    for member in members:
        name = PurePosixPath(member.filename)
        if name.is_absolute() or ".." in name.parts or "\\" in member.filename or ":" in member.filename:
            raise FileError(path, "", "holds a path that leads outside; nothing was unpacked")
        if stat.S_ISLNK(member.external_attr >> 16):
            raise FileError(path, "", "holds a link; nothing was unpacked")
        if member.flag_bits & 1:
            raise FileError(path, "", "is locked with a password")
        if member.file_size > 1 << 20 and member.file_size > MOST_RATIO * max(member.compress_size, 1):
            raise FileError(path, "", "would unpack to far more than it holds; nothing was unpacked")
    if sum(m.file_size for m in members) > MOST_BYTES:
        raise FileError(path, "", f"would unpack to more than {MOST_BYTES >> 30} GB; nothing was unpacked")
    return members


def _check_about(path: Path, archive: zipfile.ZipFile) -> None:
    try:
        info = archive.getinfo(_ABOUT)
        about = json.loads(archive.read(info)) if info.file_size < 10_000 else {}
        version = about.get("plumbbob_backup") if isinstance(about, dict) else None
    except (KeyError, ValueError, RecursionError):
        version = None
    if not isinstance(version, int):
        raise FileError(path, "", "is no backup of a water")
    if version > VERSION:
        raise FileError(path, "", f"was written by a newer program (version {version}, this one reads {VERSION})")


def _unpack(path: Path, archive: zipfile.ZipFile, member: zipfile.ZipInfo, root: Path) -> None:
    """One file, and no more of it than was announced: a header may lie."""
    target = root / member.filename
    private_folder(target.parent)
    left = member.file_size
    with (
        archive.open(member) as source,
        open(os.open(target, os.O_CREAT | os.O_EXCL | os.O_WRONLY, 0o600), "wb") as out,
    ):
        while block := source.read(_BLOCK):
            left -= len(block)
            if left < 0:
                raise FileError(path, "", "unpacks to more than it says; nothing was kept")
            out.write(block)
