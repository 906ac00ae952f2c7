"""
How commands end: well (0), with one line for a wrong input (2) or a fault of the machine (1), or told to stop.

SIGTERM and SIGINT unwind like an error, so that nothing half written stays behind, and end with 143 and 130.
"""

from __future__ import annotations

import errno
import os
import signal
import sys
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from types import FrameType
from typing import Any

import click

from plumbbob.files.atomic import NotWritten
from plumbbob.files.errors import FileError
from plumbbob.files.text import printable, why

_WRONG_INPUT = frozenset(
    getattr(errno, name)
    for name in ("ENOENT", "ENOTDIR", "EISDIR", "EACCES", "EPERM", "ENAMETOOLONG", "ELOOP", "EINVAL")
)


class Stopped(BaseException):
    """Told to stop by a signal."""

    def __init__(self, number: int) -> None:
        self.number = number


class Wrong(Exception):
    """A wrong input, said in one line."""


class GuardedGroup(click.Group):
    """A group of commands in which nothing ends with a traceback."""

    def main(self, *args: Any, **kwargs: Any) -> Any:
        """Run, and leave with a status."""
        with _signals():
            sys.exit(self._run(args, kwargs))

    def _run(self, args: tuple[Any, ...], kwargs: dict[str, Any]) -> int:
        try:
            super().main(*args, **{**kwargs, "standalone_mode": False})
            sys.stdout.flush()
        except Stopped as stopped:
            return 128 + stopped.number
        except (click.Abort, KeyboardInterrupt):
            return 130
        except click.ClickException as exc:
            return _say(exc.format_message(), 2)
        except click.exceptions.Exit as exc:
            return exc.exit_code
        except BrokenPipeError:
            _silence(sys.stdout)  # who reads has gone; there is nobody to tell
            return 1
        except MemoryError:
            return _say("there is not enough memory for this", 1)
        except (NotWritten, FileError, Wrong) as exc:
            return _say(str(exc), 1 if isinstance(exc, NotWritten) and exc.fault else 2)
        except OSError as exc:
            _silence(sys.stdout)
            name = f"{os.path.basename(exc.filename)}: " if isinstance(exc.filename, str) and exc.filename else ""
            return _say(f"{name}{why(exc)}", 2 if exc.errno in _WRONG_INPUT else 1)
        except Exception as exc:
            if os.environ.get("PLUMBBOB_TRACE"):
                raise
            return _say(f"something went wrong inside ({type(exc).__name__}: {exc}); please report it", 1)
        return 0


def _say(line: str, status: int) -> int:
    try:
        click.echo(f"plumbbob: {printable(line)}", err=True)
    except OSError:
        _silence(sys.stderr)
    return status


def _silence(stream: Any) -> None:
    """Send what is still held back to nowhere, so that the end of the program says nothing of it."""
    try:
        os.dup2(os.open(os.devnull, os.O_WRONLY), stream.fileno())
    except (OSError, ValueError, AttributeError):
        return


@contextmanager
def _signals() -> Iterator[None]:
    """Signals become an error where the program stands."""

    def stop(number: int, frame: FrameType | None) -> None:
        raise Stopped(number)

    if threading.current_thread() is not threading.main_thread():
        yield
        return
    before = {n: signal.signal(n, stop) for n in (signal.SIGTERM, signal.SIGINT)}
    try:
        yield
    finally:
        for number, handler in before.items():
            signal.signal(number, handler)
