"""
Writing files whole or not at all: the one way in which this program puts a file in its place.

The new content is made under a name that nobody can foresee, in a folder of its own beside the target that only its
owner may enter; it is on disk before it takes the target's place, and so is the change of the folder.
"""

from __future__ import annotations

import filecmp
import os
import shutil
import stat
import tempfile
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from pathlib import Path

from plumbbob.files.errors import FileError
from plumbbob.files.kinds import not_plain
from plumbbob.files.text import why

PRIVATE_FILE, PRIVATE_FOLDER = 0o600, 0o700
MAKING = ".making-"


class NotWritten(FileError):
    """A file could not be put in its place; what was there is untouched. `fault`: of the machine, not of the name."""

    def __init__(self, path: Path | str, reason: str, *, fault: bool = False) -> None:
        super().__init__(path, "", reason)
        self.fault = fault


def check_target(target: Path, inputs: Iterable[Path] = ()) -> None:
    """
    Refuse a target that is a link, no plain file, or one of the inputs.

    Raises
    ------
    NotWritten
    """
    if target.name in ("", ".", ".."):
        raise NotWritten(target, "is a folder; name a file")
    try:
        facts = os.lstat(target)
    except FileNotFoundError:
        return
    except (OSError, ValueError) as exc:
        raise NotWritten(target, f"could not be written: {why(exc)}") from exc
    if stat.S_ISLNK(facts.st_mode):
        raise NotWritten(target, "is a link; name the file itself")
    odd = not_plain(facts.st_mode)
    if odd:
        raise NotWritten(target, f"{odd}; it is not written over")
    for source in inputs:
        if _same(source, facts):
            raise NotWritten(target, "would write over a file that is read here; name another")


def _same(source: Path, facts: os.stat_result) -> bool:
    try:
        return os.path.samestat(os.stat(source), facts)
    except (OSError, ValueError):
        return False


@contextmanager
def writing(target: Path, *, inputs: Iterable[Path] = (), private: bool = False) -> Iterator[Path]:
    """
    A path to write to, which becomes `target` when the block ends well, and is gone when it does not.

    Parameters
    ----------
    target : Path
    inputs : iterable of Path, optional
        Files that are read meanwhile and must not be written over.
    private : bool
        Readable by its owner only; else as the target was, or as usual.

    Raises
    ------
    NotWritten
        If the target is a link, no plain file or an input, or the system refuses.
    """
    check_target(target, inputs)
    try:
        making = Path(tempfile.mkdtemp(prefix=MAKING, dir=target.parent))
    except (OSError, ValueError) as exc:
        raise NotWritten(target, f"could not be written: {why(exc)}", fault=_is_fault(exc)) from exc
    try:
        fresh = making / target.name
        yield fresh
        mode = PRIVATE_FILE if private else _mode_of(target)
        if mode is not None:
            os.chmod(fresh, mode)
        sync(fresh)
        check_target(target, inputs)
        os.replace(fresh, target)
        sync(target.parent)
    except OSError as exc:
        raise NotWritten(target, f"could not be written: {why(exc)}", fault=_is_fault(exc)) from exc
    finally:
        shutil.rmtree(making, ignore_errors=True)


def write_text(target: Path, text: str, *, inputs: Iterable[Path] = (), private: bool = False) -> None:
    """Put a text in its place, whole or not at all; raises NotWritten."""
    with writing(target, inputs=inputs, private=private) as fresh:
        fresh.write_text(text, encoding="utf-8", newline="")


def kept_copy(source: Path, folder: Path) -> Path:
    """
    A copy of a file in a private folder, under a name that is free there; one with the same bytes is there already.

    Raises
    ------
    NotWritten
    """
    target, number = folder / source.name, 2
    try:
        private_folder(folder)
        while os.path.lexists(target):
            if target.is_file() and filecmp.cmp(source, target, shallow=False):
                return target
            target, number = folder / f"{source.stem} {number}{source.suffix}", number + 1
    except OSError as exc:
        raise NotWritten(target, f"could not be written: {why(exc)}", fault=_is_fault(exc)) from exc
    with writing(target, inputs=[source], private=True) as fresh:
        shutil.copyfile(source, fresh)
    return target


def private_folder(folder: Path) -> None:
    """
    Make a folder that only its owner may enter, and close one that others may enter. Folders above stay as they are.

    Raises
    ------
    OSError
    """
    folder.parent.mkdir(parents=True, exist_ok=True)
    folder.mkdir(mode=PRIVATE_FOLDER, exist_ok=True)
    if stat.S_IMODE(os.stat(folder).st_mode) & 0o077:
        os.chmod(folder, PRIVATE_FOLDER)


def keep_private(path: Path) -> None:
    """Take from all others what they may do with a file; one that is not ours stays as it is."""
    try:
        if stat.S_IMODE(os.stat(path).st_mode) & 0o077:
            os.chmod(path, PRIVATE_FILE)
    except OSError:
        return


def sync(path: Path) -> None:
    """Have a file's content, or a folder's entries, on disk."""
    handle = os.open(path, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)


def _mode_of(target: Path) -> int | None:
    try:
        return stat.S_IMODE(os.lstat(target).st_mode)
    except OSError:
        return None


def _is_fault(exc: BaseException) -> bool:
    """The machine's fault (a full disk, a broken one) and not a name that can't be."""
    wrong = (FileNotFoundError, NotADirectoryError, IsADirectoryError, PermissionError, ValueError)
    return not isinstance(exc, wrong)
