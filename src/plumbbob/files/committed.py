"""A file that changes on disk only when it is told to: whatever ends the program, the last commit is whole."""

from __future__ import annotations

import io
import os
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from _typeshed import ReadableBuffer, WriteableBuffer

PAGE = 4096


class CommittedFile(io.RawIOBase):
    """
    A file object whose writes stay in memory until `commit`.

    Commit writes what lies behind the old end first, which nothing on disk points to yet, then what was there before,
    from the end to the beginning: a reader's way in, at the beginning of a file, changes last.

    Raises
    ------
    OSError
        As the system has it; FileExistsError where the file is there.
    """

    def __init__(self, path: Path) -> None:
        super().__init__()
        self._fd = os.open(path, os.O_RDWR | os.O_CREAT | os.O_EXCL, 0o600)
        self._pages: dict[int, bytearray] = {}
        self._size = 0  # with what is not on disk yet
        self._committed = 0  # as it was at the last commit
        self._on_disk = 0  # the longest it ever was there
        self._at = 0

    # -- as the library for HDF5 wants it ------------------------------------------------------------------------

    def readable(self) -> bool:
        """It can be read."""
        return True

    def writable(self) -> bool:
        """It can be written."""
        return True

    def seekable(self) -> bool:
        """One can go to any place."""
        return True

    def tell(self) -> int:
        """Where one is."""
        return self._at

    def seek(self, offset: int, whence: int = os.SEEK_SET) -> int:
        """Go there."""
        start = {os.SEEK_SET: 0, os.SEEK_CUR: self._at, os.SEEK_END: self._size}[whence]
        self._at = max(start + offset, 0)
        return self._at

    def truncate(self, size: int | None = None) -> int:
        """Make it longer or shorter, in memory; on the disk a file that became shorter ends in noughts."""
        size = self._at if size is None else size
        for number in range(size // PAGE, -(-self._size // PAGE)):
            within = max(size - number * PAGE, 0)
            self._own(number)[within:] = bytes(PAGE - within)
        self._size = size
        return size

    def readinto(self, buffer: WriteableBuffer) -> int:
        """What is there, written or not yet."""
        view = memoryview(buffer).cast("B")
        count = max(min(len(view), self._size - self._at), 0)
        done = 0
        while done < count:
            number, within = divmod(self._at, PAGE)
            take = min(PAGE - within, count - done)
            view[done : done + take] = self._page(number)[within : within + take]
            done += take
            self._at += take
        return done

    def write(self, data: ReadableBuffer) -> int:
        """Into memory."""
        view = memoryview(data).cast("B")
        done = 0
        while done < len(view):
            number, within = divmod(self._at, PAGE)
            take = min(PAGE - within, len(view) - done)
            page = self._own(number) if take < PAGE else self._pages.setdefault(number, bytearray(PAGE))
            page[within : within + take] = view[done : done + take]
            done += take
            self._at += take
        self._size = max(self._size, self._at)
        return done

    def flush(self) -> None:
        """Nothing goes to the disk but by `commit`."""

    def _page(self, number: int) -> bytes | bytearray:
        kept = self._pages.get(number)
        if kept is not None:
            return kept
        found = os.pread(self._fd, PAGE, number * PAGE) if number * PAGE < self._on_disk else b""
        return found.ljust(PAGE, b"\0")

    def _own(self, number: int) -> bytearray:
        """A page that may be changed."""
        if number not in self._pages:
            self._pages[number] = bytearray(self._page(number))
        return self._pages[number]

    # -- to the disk --------------------------------------------------------------------------------------------

    @property
    def size(self) -> int:
        """Bytes that are on disk."""
        return self._committed

    @property
    def pending(self) -> int:
        """Bytes that are not on disk yet, at most."""
        return PAGE * len(self._pages)

    def commit(self) -> None:
        """Let the disk have it."""
        numbers = sorted(self._pages)
        first_new = -(-self._on_disk // PAGE)
        for run in _runs([n for n in numbers if n >= first_new]):
            self._put(run)
        for run in reversed(_runs([n for n in numbers if n < first_new])):
            self._put(run)
        self._on_disk = max(self._on_disk, self._size)
        self._committed = self._size
        self._pages.clear()

    def _put(self, run: list[int]) -> None:
        data = b"".join(self._pages[n] for n in run)[: max(self._size, self._on_disk) - run[0] * PAGE]
        at, view = run[0] * PAGE, memoryview(data)
        while view:
            done = os.pwrite(self._fd, view, at)
            view, at = view[done:], at + done

    def forget(self) -> None:
        """Drop what is not on disk."""
        self._pages.clear()
        self._size = self._committed

    def close(self) -> None:
        """Let go of the file; what was not committed is gone."""
        if self._fd >= 0:
            os.close(self._fd)
            self._fd = -1
        super().close()


def _runs(numbers: list[int]) -> list[list[int]]:
    """Numbers that follow each other, together."""
    out: list[list[int]] = []
    for number in numbers:
        if out and out[-1][-1] + 1 == number:
            out[-1].append(number)
        else:
            out.append([number])
    return out
