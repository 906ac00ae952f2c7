"""The stand-in that ships: plays a recording as a boat would be heard, with faults that can be switched on."""

from __future__ import annotations

import json
import math
import socket
import threading
import time
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from datetime import UTC, datetime

import numpy as np

from plumbbob.core.sonar.recording import Down, Forward, Pings, Recording, Side, Track
from plumbbob.formats.wire_pings import PingHeader, WirePing, header_line, ping_bytes

_KNOT_MPS = 0.514444
FAULTS = {
    "drop": "connections close every eight seconds",
    "dirt": "bytes that mean nothing between sentences and pings",
    "void": "the receiver has no fix, five seconds of fifteen",
    "jump": "now and then a fix half a kilometre off",
    "clock": "now and then a fix an hour off",
    "checksum": "every fifth sentence and ping has a wrong checksum",
    "talkers": "a second talker, forty metres beside the first",
    "silent": "connections are taken and nothing is said",
    "huge": "now and then a ping of four thousand million samples is announced",
    "cut": "every seventh ping ends in its middle",
    "view": "now and then a ping of another view",
}


@dataclass(frozen=True, slots=True)
class Event:
    """Something that is said at a time."""

    time: float
    what: str  # "fix", or a view
    index: int


@dataclass
class Port:
    """One server and who listens to it."""

    what: str  # "nmea", "gpsd" or a view
    server: socket.socket
    clients: list[socket.socket] = field(default_factory=list)
    lock: threading.Lock = field(default_factory=threading.Lock)
    hello: bytes = b""

    @property
    def number(self) -> int:
        """Where it listens."""
        return int(self.server.getsockname()[1])


def sentence(body: str) -> bytes:
    """
    An NMEA sentence with its checksum.

    Examples
    --------
    >>> sentence("GPHDT,90.0,T")
    b'$GPHDT,90.0,T*0C\\r\\n'
    """
    check = 0
    for byte in body.encode():
        check ^= byte
    return f"${body}*{check:02X}\r\n".encode()


def _angle(value: float, digits: int, sides: str) -> str:
    size = abs(value)
    whole = int(size)
    return f"{whole:0{digits}d}{60 * (size - whole):08.5f},{sides[0] if value >= 0 else sides[1]}"


def fix_sentences(
    track: Track, i: int, when: float, *, talker: str = "GN", void: bool = False, east_deg: float = 0.0
) -> list[bytes]:
    """RMC, GGA, VTG and, where known, MTW of one fix."""
    moment = datetime.fromtimestamp(when, UTC)
    clock = moment.strftime("%H%M%S") + f".{moment.microsecond // 10_000:02d}"
    longitude = float(track.longitude[i]) + east_deg
    place = f"{_angle(float(track.latitude[i]), 2, 'NS')},{_angle(longitude, 3, 'EW')}"
    knots = float(track.speed_mps[i]) / _KNOT_MPS
    course = float(track.course_deg[i]) % 360.0
    knots, course = (v if math.isfinite(v) else 0.0 for v in (knots, course))
    state, good = ("V", "0") if void else ("A", "1")
    out = [
        sentence(f"{talker}RMC,{clock},{state},{place},{knots:.2f},{course:.1f},{moment:%d%m%y},,"),
        sentence(f"{talker}GGA,{clock},{place},{good},09,1.0,310.0,M,0.0,M,,"),
        sentence(f"{talker}VTG,{course:.1f},T,,M,{knots:.2f},N,{knots * 1.852:.2f},K"),
    ]
    if math.isfinite(float(track.temperature_c[i])):
        out.append(sentence(f"YXMTW,{float(track.temperature_c[i]):.1f},C"))
    return out


def _tpv(track: Track, i: int, when: float, *, void: bool) -> bytes:
    moment = datetime.fromtimestamp(when, UTC).isoformat(timespec="milliseconds").replace("+00:00", "Z")
    said = {
        "class": "TPV",
        "mode": 1 if void else 3,
        "time": moment,
        "lat": float(track.latitude[i]),
        "lon": float(track.longitude[i]),
        "speed": float(np.nan_to_num(track.speed_mps[i])),
        "track": float(np.nan_to_num(track.course_deg[i])) % 360.0,
    }
    return json.dumps(said).encode() + b"\n"


def header_of(view: Pings) -> PingHeader:
    """What a source says of a view's pings."""
    name, attributes = "down", [("frequency", view.frequency_hz)]
    angles: tuple[float, ...] = ()
    if isinstance(view, Down):
        attributes.append(("beam_width", view.beam_width_deg))
    elif isinstance(view, Side):
        name = "side"
        attributes.append(("beam_width_along", view.beam_width_along_deg))
        attributes.append(("beam_width_across", view.beam_width_across_deg))
    elif isinstance(view, Forward):
        name, angles = "forward", tuple(float(a) for a in view.beam_angle_deg)
        attributes.append(("beam_width", view.beam_width_deg))
    more: list[tuple[str, float | str]] = [*attributes, ("tvg", view.tvg)]
    if math.isfinite(view.pulse_length_s):
        more.append(("pulse_length", view.pulse_length_s))
    return PingHeader(
        name, view.scale_db, view.offset_db, view.sound_speed_mps, view.mount.depth_m, tuple(more), angles
    )


def wire_ping(view: Pings, i: int, when: float) -> WirePing:
    """One of a view's pings as it is sent."""
    azimuth = math.nan
    if isinstance(view, Side):
        echo = view.port.read(i, i + 1)[0].tobytes() + view.starboard.read(i, i + 1)[0].tobytes()
    elif isinstance(view, Forward):
        echo, azimuth = view.echo.read(i, i + 1)[0].tobytes(), float(view.azimuth_deg[i])
    else:
        assert isinstance(view, Down)
        echo = view.echo.read(i, i + 1)[0].tobytes()
    return WirePing(when, float(view.range_start_m[i]), float(view.range_step_m[i]), view.samples, echo, azimuth)


class StandIn:
    """
    Serves recordings until it is told to stop; the first with a track says where the boat is.

    Parameters
    ----------
    recordings : sequence of Recording
        Their views are played together, each from its start, over and over.
    faults : sequence of str
        Of FAULTS.
    speed : float
        Times real time.
    clock : float, optional
        When it begins, s since 1970 UTC; by default now.
    """

    def __init__(
        self,
        recordings: Sequence[Recording],
        *,
        ports: dict[str, int] | None = None,
        faults: Sequence[str] = (),
        speed: float = 1.0,
        host: str = "127.0.0.1",
        seed: int = 0,
        clock: float | None = None,
    ) -> None:
        strange = next((f for f in faults if f not in FAULTS), None)
        if strange is not None:
            raise ValueError(f"{strange} is no fault; {', '.join(FAULTS)} are")
        self._faults, self._speed, self._clock = set(faults), speed, clock
        self._rng = np.random.default_rng(seed)
        self._stop = threading.Event()
        self._views: dict[str, Pings] = {}
        self._track: Track | None = None
        for recording in recordings:
            if self._track is None and recording.track is not None:
                self._track = recording.track
            for name in ("down", "side", "forward"):
                view = getattr(recording, name)
                if view is not None:
                    self._views.setdefault(name, view)
        wanted = ports or {}
        self.ports = {what: self._open(what, host, wanted.get(what, 0)) for what in self._served()}
        for what, port in self.ports.items():
            if what in self._views:
                port.hello = header_line(header_of(self._views[what]))
        self.sent = dict.fromkeys(("fix", *self._views), 0)
        self._threads = [threading.Thread(target=self._accept, args=(p,), daemon=True) for p in self.ports.values()]
        self._threads.append(threading.Thread(target=self._play, daemon=True))

    def _served(self) -> list[str]:
        return (["nmea", "gpsd"] if self._track is not None else []) + list(self._views)

    @staticmethod
    def _open(what: str, host: str, number: int) -> Port:
        server = socket.create_server((host, number))
        server.settimeout(0.2)
        return Port(what, server)

    def start(self) -> None:
        """Begin."""
        for thread in self._threads:
            thread.start()

    def stop(self) -> None:
        """End, and close everything."""
        self._stop.set()
        for thread in self._threads:
            if thread.is_alive():
                thread.join(2.0)
        for port in self.ports.values():
            self._close_clients(port)
            port.server.close()

    def wait(self, seconds: float = math.inf) -> None:
        """Until told to stop, or so long."""
        end = time.monotonic() + seconds
        while time.monotonic() < end and not self._stop.wait(min(0.5, max(end - time.monotonic(), 0.0))):
            pass

    # -- who listens --------------------------------------------------------------------------------------------

    def _accept(self, port: Port) -> None:
        while not self._stop.is_set():
            try:
                client, _ = port.server.accept()
            except (TimeoutError, OSError):
                continue
            client.settimeout(1.0)
            with port.lock:
                if "silent" not in self._faults:
                    self._send(client, port.hello)
                port.clients.append(client)

    @staticmethod
    def _send(client: socket.socket, data: bytes) -> bool:
        try:
            client.sendall(data)
        except OSError:
            return False
        return True

    def _close_clients(self, port: Port) -> None:
        with port.lock:
            for client in port.clients:
                client.close()
            port.clients.clear()

    def _say(self, what: str, data: bytes) -> None:
        port = self.ports.get(what)
        if port is None or "silent" in self._faults:
            return
        if "dirt" in self._faults and self._rng.random() < 0.3:
            data = self._rng.integers(0, 256, int(self._rng.integers(1, 60)), dtype=np.uint8).tobytes() + data
        with port.lock:
            gone = [c for c in port.clients if not self._send(c, data)]
            for client in gone:
                client.close()
                port.clients.remove(client)

    # -- what is said -------------------------------------------------------------------------------------------

    def _events(self) -> Iterator[Event]:
        """Of one round, in order of time from 0."""
        events: list[Event] = []
        if self._track is not None:
            first = float(self._track.time[0])
            events += [Event(float(t) - first, "fix", i) for i, t in enumerate(self._track.time)]
        for name, view in self._views.items():
            first = float(view.time[0])
            events += [Event(float(t) - first, name, i) for i, t in enumerate(view.time)]
        return iter(sorted(events, key=lambda e: e.time))

    def _play(self) -> None:
        clock, began = self._clock if self._clock is not None else time.time(), time.monotonic()
        offset, dropped = 0.0, began
        while not self._stop.is_set():
            last = 0.0
            for event in self._events():
                last = event.time
                due = began + (offset + event.time) / self._speed
                if self._stop.wait(max(due - time.monotonic(), 0.0)):
                    return
                if "drop" in self._faults and time.monotonic() - dropped > 8.0:
                    dropped = time.monotonic()
                    for port in self.ports.values():
                        self._close_clients(port)
                when = clock + offset + event.time
                if event.what == "fix":
                    self._say_fix(event.index, when)
                else:
                    self._say_ping(event.what, event.index, when)
                self.sent[event.what] += 1
            offset += last + 1.0

    def _say_fix(self, i: int, when: float) -> None:
        track = self._track
        assert track is not None
        n = self.sent["fix"]
        void = "void" in self._faults and n % 15 >= 10
        east = 0.006 if "jump" in self._faults and n % 20 == 19 else 0.0
        said = when + 3600.0 if "clock" in self._faults and n % 20 == 9 else when
        sentences = fix_sentences(track, i, said, void=void, east_deg=east)
        if "talkers" in self._faults:
            sentences += fix_sentences(track, i, said, talker="GP", east_deg=0.0005)
        for k, one in enumerate(sentences):
            if "checksum" in self._faults and (n + k) % 5 == 4:
                one = one.replace(b"*", b"*F" if not one.endswith(b"F\r\n") else b"*0")[: len(one)]
            self._say("nmea", one)
        self._say("gpsd", _tpv(track, i, said, void=void))

    def _say_ping(self, name: str, i: int, when: float) -> None:
        view, n = self._views[name], self.sent[name]
        data = ping_bytes(wire_ping(view, i, when), view.beam_angle_deg.size if isinstance(view, Forward) else 0)
        if "checksum" in self._faults and n % 5 == 4:
            data = data[:-1] + bytes([data[-1] ^ 0xFF])
        if "cut" in self._faults and n % 7 == 6:
            data = data[: len(data) // 2]
        if "huge" in self._faults and n % 11 == 10:
            line = {"time": when, "range_start": 0.0, "range_step": 0.01, "samples": 4_000_000_000, "crc32": 0}
            data = json.dumps(line).encode() + b"\n" + data
        if "view" in self._faults and n % 9 == 8:
            other = WirePing(when, 0.0, 0.01, 4, b"\1\2\3\4", 0.0)
            data = ping_bytes(other, 0 if name == "forward" else 2) + data
        self._say(name, data)
