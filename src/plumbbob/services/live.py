"""Listening: positions and pings from several wires at once, judged, told of each second, recorded as they come."""

from __future__ import annotations

import math
import queue
import socket
import threading
import time
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, Protocol

from plumbbob.core.geodesy import distance_m
from plumbbob.core.live.fixes import Fix, Judge, TalkerChoice, with_age
from plumbbob.files.atomic import NotWritten
from plumbbob.files.errors import FileError
from plumbbob.files.text import printable, why
from plumbbob.formats.recording_append import DiskFull, GrowingRecording
from plumbbob.formats.wire_nmea import WATCH, GpsdScanner, MomentBuilder, SentenceScanner
from plumbbob.formats.wire_pings import PingHeader, PingScanner, WirePing

OnPings = Callable[[PingHeader, list[WirePing]], None]
GOOD_S, RETRY_S, FALL_BACK_S = 3.0, 1.0, 5.0
SAME_S = 0.02
COMMIT_S, TELL_S, _STEP_S = 0.5, 1.0, 0.05
_CONNECT_S, _LISTEN_S, _JOIN_S = 3.0, 0.25, 0.8
_APART_M, _TOGETHER_S = 25.0, 2.0
_PIECE, _MOST_WAITING = 65_536, 400
_APART_EVERY = 10  # times that two talkers have to be apart before it is trouble


@dataclass(frozen=True, slots=True)
class Wire:
    """Where something is listened to: kind "nmea", "gpsd" or "pings"; how "tcp", "udp" or "serial"."""

    kind: str
    how: str
    host: str  # or the device
    port: int  # or the baud rate

    @property
    def name(self) -> str:
        """As it was given."""
        return f"serial:{self.host}:{self.port}" if self.how == "serial" else f"{self.how}://{self.host}:{self.port}"


def wire_of(kind: str, text: str) -> Wire:
    """
    A wire from its address: tcp://H:P, udp://H:P, serial:DEVICE:BAUD, and H:P for gpsd.

    Raises
    ------
    ValueError
        In one line.

    Examples
    --------
    >>> wire_of("nmea", "serial:/dev/ttyUSB0:4800").port, wire_of("gpsd", "localhost:2947").host
    (4800, 'localhost')
    """
    if text.startswith("serial:") and kind == "nmea":
        device, _, baud = text.removeprefix("serial:").rpartition(":")
        if not device or not baud.isdigit() or not 50 <= int(baud) <= 4_000_000:
            raise ValueError(f"{text} is no serial port: serial:/dev/ttyUSB0:4800")
        return Wire(kind, "serial", device, int(baud))
    how, _, rest = text.rpartition("://")
    how = how or ("tcp" if kind == "gpsd" else "")
    host, _, port = rest.rpartition(":")
    host = host.strip("[]")
    if how not in (("tcp", "udp") if kind == "nmea" else ("tcp",)) or not host or not port.isdigit():
        example = {"nmea": "tcp://host:port, udp://host:port, serial:device:baud", "gpsd": "host:port"}
        raise ValueError(f"{text} is no address: {example.get(kind, 'tcp://host:port')}")
    if not 1 <= int(port) <= 65_535:
        raise ValueError(f"{text} has no port between 1 and 65535")
    return Wire(kind, how, host, int(port))


class _Link(Protocol):
    """An open wire."""

    def read(self) -> bytes:
        """What has come; empty where nothing has. Raises OSError or EOFError where it is over."""

    def close(self) -> None:
        """Let go."""


class _Socket:
    """TCP, or UDP bound to a port."""

    def __init__(self, wire: Wire) -> None:
        if wire.how == "udp":
            self._socket = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
            self._socket.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            self._socket.bind((wire.host, wire.port))
        else:
            self._socket = socket.create_connection((wire.host, wire.port), _CONNECT_S)
            if wire.kind == "gpsd":
                self._socket.sendall(WATCH)
        self._streams = wire.how == "tcp"
        self._socket.settimeout(_LISTEN_S)

    def read(self) -> bytes:
        """What has come."""
        try:
            data = self._socket.recv(_PIECE)
        except TimeoutError:
            return b""
        if not data and self._streams:
            raise EOFError("the other end closed it")
        # a datagram ends what it began
        return data if self._streams else data + b"\n"

    def close(self) -> None:
        """Let go."""
        self._socket.close()


class _Serial:
    """A serial port."""

    def __init__(self, wire: Wire) -> None:
        import serial

        try:
            self._port = serial.Serial(wire.host, wire.port, timeout=_LISTEN_S)
        except (serial.SerialException, ValueError) as exc:
            raise OSError(getattr(exc, "errno", 0) or 0, str(exc)) from exc

    def read(self) -> bytes:
        """What has come."""
        import serial

        try:
            return bytes(self._port.read(max(self._port.in_waiting, 1)))
        except (serial.SerialException, TypeError) as exc:
            raise EOFError(f"the port is gone: {exc}") from exc

    def close(self) -> None:
        """Let go."""
        self._port.close()


@dataclass
class SourceState:
    """What is known of one wire."""

    wire: Wire
    was_open: bool = False
    is_open: bool = False
    why: str = ""
    good: int = 0
    last_good: float = -math.inf
    opened: float = -math.inf
    heard: bool = False  # anything at all
    left_out: Counter[str] = field(default_factory=Counter)

    def state(self, now: float) -> str:
        """In one word."""
        if self.is_open:
            if now - self.last_good <= GOOD_S:
                return "connected"
            return "waiting" if self.wire.how == "udp" and not self.heard else "silent"
        return "lost" if self.was_open else "waiting"

    def told(self, now: float) -> dict[str, Any]:
        """For the line of the second."""
        state = self.state(now)
        reason = self.why if state in ("lost", "waiting") else ""
        if state == "silent":
            reason = "open, nothing good" if self.heard else "open, nothing came"
        age = now - self.last_good
        return {
            "name": self.wire.name,
            "kind": self.wire.kind,
            "state": state,
            "why": reason,
            "good": self.good,
            "left_out": {k: v for k, v in sorted(self.left_out.items()) if v},
            "age": round(age, 2) if math.isfinite(age) else None,
        }


_ODD = {"clock": "their clock is off", "jump": "no boat is so fast"}
_Came = tuple[int, float, str, bytes]  # of which source, when, "open", "data", "lost" or "failed", what


class _Listener(threading.Thread):
    """Keeps one wire open and hands on what comes; tries again every second."""

    def __init__(self, number: int, wire: Wire, to: queue.Queue[_Came], stop: threading.Event) -> None:
        super().__init__(name=f"listen {wire.name}", daemon=True)
        self._number, self._wire, self._to, self._stop_ = number, wire, to, stop

    def run(self) -> None:
        """Until told to stop."""
        while not self._stop_.is_set():
            try:
                link: _Link = _Serial(self._wire) if self._wire.how == "serial" else _Socket(self._wire)
            except (OSError, ImportError) as exc:
                self._tell("failed", (why(exc) if isinstance(exc, OSError) else str(exc)).encode())
                self._stop_.wait(RETRY_S)
                continue
            self._tell("open", b"")
            reason = b""
            try:
                while not self._stop_.is_set():
                    data = link.read()
                    if data:
                        self._tell("data", data)
            except (OSError, EOFError) as exc:
                reason = (why(exc) if isinstance(exc, OSError) else str(exc)).encode()
            finally:
                link.close()
            self._tell("lost", reason)
            self._stop_.wait(RETRY_S)

    def _tell(self, what: str, data: bytes) -> None:
        while not self._stop_.is_set():
            try:
                self._to.put((self._number, time.monotonic(), what, data), timeout=0.2)
                return
            except queue.Full:  # the wire waits until there is room: nothing is dropped
                continue


class _Ear(Protocol):
    """Makes sense of the bytes of one source."""

    def data(self, data: bytes, came: float) -> None:
        """More of them."""

    def opened(self) -> None:
        """A new connection."""

    def lost(self, came: float) -> None:
        """It is over."""

    def tick(self, came: float) -> None:
        """Time has passed."""


class _Positions:
    """NMEA and gpsd: fixes, one talker of one source at a time."""

    def __init__(self, state: SourceState, take: Callable[[str, Fix, float], None]) -> None:
        self._state, self._take = state, take
        self._sentences, self._moments, self._gpsd = SentenceScanner(), MomentBuilder(), GpsdScanner()
        self._judges: dict[str, Judge] = {}
        self._clock: tuple[float, float] | None = None  # when, and what it was then
        self.choice = TalkerChoice()
        self.odd = (-math.inf, "")  # when a fix was left out last, and why

    def opened(self) -> None:
        self._sentences, self._gpsd = SentenceScanner(), GpsdScanner()

    def lost(self, came: float) -> None:
        self._settle(came, closed=True)

    def _now(self, came: float) -> float:
        """What the time should be: by the last good fix, before one by this computer."""
        if self._clock is None:
            return time.time()
        return self._clock[1] + came - self._clock[0]

    def data(self, data: bytes, came: float) -> None:
        if self._state.wire.kind == "gpsd":
            for fix in self._gpsd.feed(data):
                self._judge("gpsd", fix, came)
        else:
            for sentence in self._sentences.feed(data):
                for talker, fix in self._moments.take(sentence, came, self._now(came)):
                    self._judge(talker, fix, came)
        self._count()

    def tick(self, came: float) -> None:
        self._settle(came, closed=False)

    def _settle(self, came: float, *, closed: bool) -> None:
        for talker, fix in self._moments.settled(came, self._now(came), closed=closed):
            self._judge(talker, fix, came)
        self._count()

    def _judge(self, talker: str, fix: Fix, came: float) -> None:
        judge = self._judges.setdefault(talker, Judge())
        before = dict(judge.left_out)
        if not judge.take(fix, came):
            reason = next((r for r, n in judge.left_out.items() if n != before.get(r)), "")
            self.odd = (came, reason)
            return
        self._clock = (came, fix.time)
        self._state.last_good = came
        if self.choice.follows(talker, fix, came):
            self._state.good += 1
            self._take(talker, with_age(fix, self._moments.temperature, self._moments.heading, came), came)

    def _count(self) -> None:
        total: Counter[str] = Counter()
        for counted in (
            self._sentences.left_out,
            self._moments.left_out,
            self._gpsd.left_out,
            *(j.left_out for j in self._judges.values()),
        ):
            total += counted
        self._state.left_out = total


class _Pings:
    """A sounder's pings of one view."""

    def __init__(self, state: SourceState, tape: Tape, on_pings: OnPings) -> None:
        self._state, self._tape, self._on_pings = state, tape, on_pings
        self._scanner = PingScanner()
        self._before: Counter[str] = Counter()
        self._fits: bool | None = None

    def opened(self) -> None:
        self._before += self._scanner.left_out
        self._scanner, self._fits = PingScanner(), None

    def data(self, data: bytes, came: float) -> None:
        self._keep(self._scanner.feed(data), came)

    def lost(self, came: float) -> None:
        self._keep(self._scanner.close(), came)
        self._before += self._scanner.left_out
        self._scanner = PingScanner()

    def tick(self, came: float) -> None:
        pass

    def _keep(self, pings: list[WirePing], came: float) -> None:
        header = self._scanner.header
        if header is not None and self._fits is None:
            self._fits = self._tape.open_view(header)
            if not self._fits:
                self._before["another header"] += 1
        if header is not None and pings:
            if self._fits:
                for ping in pings:
                    self._tape.add_ping(header.view, ping)
                self._on_pings(header, pings)
                self._state.good += len(pings)
                self._state.last_good = came
            else:
                self._before["another header"] += len(pings)
        self._state.left_out = self._before + self._scanner.left_out


MOST_BYTES = 1_000_000_000  # of one file; the next then goes on


class Tape:
    """
    What is recorded to: one file, or one after the other by day and by size where there are names for more.

    Parameters
    ----------
    out : Path
    following : callable, optional
        The next file's name. Without it there is one file, as large as it gets.
    most_bytes : int
    day_of : callable
        The day of now, as anything that can be compared: another day begins another file.
    """

    def __init__(
        self,
        out: Path,
        following: Callable[[], Path] | None = None,
        most_bytes: int = MOST_BYTES,
        day_of: Callable[[], object] = lambda: time.localtime()[:3],
    ) -> None:
        self._file = GrowingRecording(out)
        self._following, self._most, self._day_of = following, most_bytes, day_of
        self._day = day_of()
        self._before: Counter[str] = Counter()  # pings in files that are full
        self.paths = [out]

    def open_view(self, header: PingHeader) -> bool:
        """Pings of a header may come."""
        return self._file.open_view(header)

    def add_ping(self, view: str, ping: WirePing) -> None:
        """One ping of a view that is open."""
        self._file.add_ping(view, ping)

    def add_fix(self, fix: Fix) -> None:
        """One moment."""
        self._file.add_fix(fix)

    @property
    def pings(self) -> dict[str, int]:
        """Of each view, in all files, those on their way included."""
        file = self._file
        return {view: self._before[view] + n + len(file.waiting(view)) for view, n in file.pings.items()}

    def commit(self) -> None:
        """On disk now. Raises DiskFull."""
        self._file.commit()
        if self._following is None or (self._day_of() == self._day and self._file.size < self._most):
            return
        full, headers = self._file, self._file.headers.values()
        try:
            fresh = GrowingRecording(self._following())
        except (FileError, NotWritten, StopIteration):
            self._day = self._day_of()  # this one goes on until the next time
            return
        full.close()
        self._before.update(full.pings)
        self._file, self._day = fresh, self._day_of()
        self.paths.append(fresh.path)
        for header in headers:
            fresh.open_view(header)

    def close(self) -> None:
        """Let go."""
        self._file.close()


class LiveSession:
    """
    All wires of one outing into one recording.

    `run` goes on until it is told to stop, and gives a status as a program has it: 0, or 1 where the disk is full.
    """

    def __init__(
        self,
        out: Path,
        wires: list[Wire],
        tell: Callable[[dict[str, Any]], None],
        *,
        on_fix: Callable[[Fix], None] = lambda fix: None,
        on_pings: OnPings = lambda header, pings: None,
        tape: Tape | None = None,
    ) -> None:
        self._tape = tape if tape is not None else Tape(out)
        self._tell, self._on_fix = tell, on_fix
        self._queue: queue.Queue[_Came] = queue.Queue(_MOST_WAITING)
        self._stop = threading.Event()
        self.states = [SourceState(wire) for wire in wires]
        self._last_time = -math.inf
        self._places: dict[int, tuple[float, Fix]] = {}
        self._apart: Counter[tuple[int, int]] = Counter()
        self._followed = (-math.inf, -1)  # when the last fix came, and of which source
        self._ears: list[_Ear] = []
        self.fixes = 0
        for number, state in enumerate(self.states):
            ear: _Ear
            if state.wire.kind == "pings":
                ear = _Pings(state, self._tape, on_pings)
            else:
                ear = _Positions(state, self._fix_of(number))
            self._ears.append(ear)
        self._full = False

    def _fix_of(self, number: int) -> Callable[[str, Fix, float], None]:
        def take(talker: str, fix: Fix, came: float) -> None:
            """The first source given is preferred; a later one only after a while without it."""
            self._compare(number, fix, came)
            last, of = self._followed
            if of not in (-1, number) and number > of and came - last < FALL_BACK_S:
                return
            if self._last_time - FALL_BACK_S < fix.time <= self._last_time + SAME_S:
                return  # a moment that another source has told already
            self._followed, self._last_time = (came, number), fix.time
            self._tape.add_fix(fix)
            self.fixes += 1
            self._on_fix(fix)

        return take

    def _compare(self, number: int, fix: Fix, came: float) -> None:
        """Sources that are apart are told of."""
        for other, (then, place) in self._places.items():
            near = other == number or came - then > _TOGETHER_S or abs(place.time - fix.time) > _TOGETHER_S
            if not near and distance_m(place.place, fix.place) > _APART_M:
                self._apart[min(other, number), max(other, number)] += 1
        self._places[number] = (came, fix)

    def stop(self) -> None:
        """From a signal, or another thread."""
        self._stop.set()

    def run(self, seconds: float = math.inf) -> int:
        """Listen, record, tell."""
        listeners = [_Listener(k, s.wire, self._queue, self._stop) for k, s in enumerate(self.states)]
        for listener in listeners:
            listener.start()
        began = time.monotonic()
        commit, tell = began + COMMIT_S, began + TELL_S
        while not self._stop.is_set() and not self._full:
            now = time.monotonic()
            if now - began >= seconds:
                break
            self._take(min(commit, tell, now + _STEP_S) - now)
            now = time.monotonic()
            for ear in self._ears:
                ear.tick(now)
            if now >= commit:
                self._commit()
                commit = now + COMMIT_S
            if now >= tell:
                self._tell(self.told(now))
                tell += TELL_S * max(1, math.floor((now - tell) / TELL_S) + 1)
        self._stop.set()
        until = time.monotonic() + _JOIN_S
        for listener in listeners:
            listener.join(max(until - time.monotonic(), 0.0))  # one that still connects is left to itself
        now = time.monotonic()
        self._take(0.0)
        for ear in self._ears:
            ear.lost(now)
        if not self._full:
            self._commit()
        self._tape.close()
        self._tell(self.told(now))
        return 1 if self._full else 0

    def _take(self, wait: float) -> None:
        """All that has come by now, and what comes within a moment."""
        deadline = time.monotonic() + max(wait, 0.0)
        for _ in range(_MOST_WAITING):
            try:
                left = deadline - time.monotonic()
                number, came, what, data = self._queue.get(left > 0, left if left > 0 else None)
            except queue.Empty:
                return
            state, ear = self.states[number], self._ears[number]
            if what == "data":
                state.heard = True
                ear.data(data, came)
            elif what == "open":
                state.is_open = state.was_open = True
                state.opened = came
                ear.opened()
            else:
                if state.is_open:
                    ear.lost(came)
                state.is_open = False
                state.why = printable(data.decode("utf-8", "replace"), 120)

    def _commit(self) -> None:
        try:
            self._tape.commit()
        except DiskFull:
            self._full = True

    def told(self, now: float) -> dict[str, Any]:
        """The line of this second."""
        trouble = []
        if self._full:
            trouble.append("the disk is full: recording has stopped, what was recorded is whole")
        for state, ear in zip(self.states, self._ears, strict=True):
            if isinstance(ear, _Positions):
                if now - ear.odd[0] <= GOOD_S:
                    trouble.append(f"{state.wire.name}: fixes are left out, {_ODD.get(ear.odd[1], ear.odd[1])}")
                for pair, times in ear.choice.apart.items():
                    if times >= _APART_EVERY:
                        trouble.append(f"{state.wire.name}: talkers {pair} are more than 25 m apart")
        for (a, b), times in self._apart.items():
            if times >= _APART_EVERY:
                names = f"{self.states[a].wire.name} and {self.states[b].wire.name}"
                trouble.append(f"{names} are more than 25 m apart")
        return {
            "time": time.time(),
            "recording": not self._full,
            "fixes": self.fixes,
            "pings": self._tape.pings,
            "sources": [state.told(now) for state in self.states],
            "trouble": trouble,
        }
