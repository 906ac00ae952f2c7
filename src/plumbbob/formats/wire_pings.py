"""Pings as a sounder sends them over a wire: a header line, then lines of JSON with echo bytes; docs/formats.md."""

from __future__ import annotations

import json
import math
import zlib
from collections import Counter
from dataclasses import dataclass
from typing import Any

from plumbbob.files.json_text import loads

FORMAT, VERSION = "plumbbob-pings", 1
LONGEST_HEADER, LONGEST_LINE = 65_536, 4_096
MOST_SAMPLES, MOST_BEAMS, MOST_BYTES = 65_536, 4_096, 16_000_000
VIEWS = ("down", "side", "forward")
_NUMBERS = {
    "down": ("frequency", "beam_width", "pulse_length"),
    "side": ("frequency", "beam_width_along", "beam_width_across"),
    "forward": ("frequency", "beam_width"),
}
_TVGS = ("none", "20logR", "40logR")
_KEYS = {"time", "range_start", "range_step", "samples", "crc32"}
_AHEAD = {"beams", "azimuth"}


@dataclass(frozen=True, slots=True)
class PingHeader:
    """What a source says of all its pings."""

    view: str
    scale_factor: float
    add_offset: float
    sound_speed: float
    transducer_depth: float
    attributes: tuple[tuple[str, float | str], ...]  # of the group in a recording
    beam_angle: tuple[float, ...] = ()

    def agrees(self, other: PingHeader) -> bool:
        """Its pings may stand in one recording with those of another."""
        return (self.scale_factor, self.add_offset, self.attributes, self.beam_angle) == (
            other.scale_factor,
            other.add_offset,
            other.attributes,
            other.beam_angle,
        )


@dataclass(frozen=True, slots=True)
class WirePing:
    """One ping: `samples` bytes down, port then starboard to the sides, beams times samples ahead."""

    time: float
    range_start: float
    range_step: float
    samples: int
    echo: bytes
    azimuth: float = math.nan


def header_of(line: bytes) -> PingHeader:
    """
    A header from its line.

    Raises
    ------
    ValueError
        In one line.
    """
    said = _object(line)
    if said.get("format") != FORMAT:
        raise ValueError("it is no header of pings")
    if said.get("version") != VERSION:
        raise ValueError(f"version {said.get('version')!r:.20} is not read")
    view = said.get("view")
    if view not in VIEWS:
        raise ValueError(f"{view!r:.20} is no view")
    scale, offset = _number(said, "scale_factor"), _number(said, "add_offset")
    if scale <= 0:
        raise ValueError("scale_factor must be above zero")
    speed, depth = _number(said, "sound_speed"), _number(said, "transducer_depth")
    if not 1300.0 <= speed <= 1700.0 or not 0.0 <= depth <= 100.0:
        raise ValueError("sound_speed or transducer_depth is none that can be")
    attributes: list[tuple[str, float | str]] = []
    for name in _NUMBERS[view]:
        value = _number(said, name)
        if value <= 0:
            raise ValueError(f"{name} must be above zero")
        attributes.append((name, value))
    tvg = said.get("tvg")
    if tvg not in _TVGS:
        raise ValueError(f"tvg {tvg!r:.20} is not known")
    attributes.append(("tvg", tvg))
    offsets = ("antenna_to_transducer_forward", "antenna_to_transducer_starboard")
    attributes += [(name, _number(said, name)) for name in offsets if name in said]
    if view != "down" and "pulse_length" in said:
        attributes.append(("pulse_length", _number(said, "pulse_length")))
    angles: tuple[float, ...] = ()
    if view == "forward":
        rows = said.get("beam_angle")
        if not isinstance(rows, list) or not 1 <= len(rows) <= MOST_BEAMS:
            raise ValueError("a header ahead needs its beam_angle")
        angles = tuple(_number({"beam_angle": v}, "beam_angle") for v in rows)
    return PingHeader(view, scale, offset, speed, depth, tuple(attributes), angles)


def _object(line: bytes) -> dict[str, Any]:
    said = loads(line.decode("utf-8"))
    if not isinstance(said, dict):
        raise ValueError("it is no object")
    return said


def _number(said: dict[str, Any], name: str) -> float:
    value = said.get(name)
    if isinstance(value, bool) or not isinstance(value, int | float) or not math.isfinite(value):
        raise ValueError(f"{name} is no number")
    return float(value)


@dataclass(frozen=True, slots=True)
class _Announced:
    """A ping by its line: where its bytes begin and how many they are."""

    ping: WirePing  # without its echo
    start: int
    size: int
    crc: int


class PingScanner:
    """
    Takes bytes as they come and gives pings; what does not agree is counted by its reason and searched on after.

    Nothing that is announced is allocated: bytes are kept as they come, at most what one ping may need.
    """

    def __init__(self) -> None:
        self.header: PingHeader | None = None
        self.left_out: Counter[str] = Counter()
        self._buffer = bytearray()
        self._refused = False  # the header is none: nothing behind it can be read

    def feed(self, data: bytes) -> list[WirePing]:
        """More bytes; the pings they complete."""
        self._buffer += data
        return self._scan(closed=False)

    def close(self) -> list[WirePing]:
        """The connection is over: what is left is searched too."""
        out = self._scan(closed=True)
        self._buffer.clear()
        return out

    # -- searching ----------------------------------------------------------------------------------------------

    def _scan(self, *, closed: bool) -> list[WirePing]:
        if self._refused:
            self._buffer.clear()
            return []
        if self.header is None and not self._take_header(closed):
            return []
        out: list[WirePing] = []
        at = 0
        while True:
            brace = self._buffer.find(b"{", at)
            if brace < 0:
                at = len(self._buffer)
                break
            found = self._announced(brace)
            if found is None:  # may be one, not all of its line has come
                if not closed:
                    at = brace
                    break
                at = brace + 1
                continue
            if isinstance(found, str):
                if found:
                    self.left_out[found] += 1
                at = brace + 1
                continue
            if len(self._buffer) < found.start + found.size:
                later = self._whole_ping_after(brace + 1)
                if later is None and not closed:
                    at = brace
                    break
                self.left_out["cut short"] += 1
                at = brace + 1
                continue
            echo = bytes(self._buffer[found.start : found.start + found.size])
            if zlib.crc32(echo) != found.crc:
                self.left_out["checksum"] += 1
                at = brace + 1
                continue
            p = found.ping
            out.append(WirePing(p.time, p.range_start, p.range_step, p.samples, echo, p.azimuth))
            at = found.start + found.size
        del self._buffer[:at]
        return out

    def _take_header(self, closed: bool) -> bool:
        end = self._buffer.find(b"\n", 0, LONGEST_HEADER + 1)
        if end < 0:
            if len(self._buffer) > LONGEST_HEADER or (closed and self._buffer):
                self._refuse("no header")
            return False
        line = bytes(self._buffer[:end])
        try:
            self.header = header_of(line)
        except (ValueError, UnicodeDecodeError, RecursionError):
            self._refuse("no header")
            return False
        del self._buffer[: end + 1]
        return True

    def _refuse(self, reason: str) -> None:
        self.left_out[reason] += 1
        self._refused = True
        self._buffer.clear()

    @property
    def is_refused(self) -> bool:
        """Its header was none."""
        return self._refused

    def _announced(self, brace: int) -> _Announced | str | None:
        """What a brace begins: a ping, a reason against it (empty: no line at all), or None while more is needed."""
        end = self._buffer.find(b"\n", brace, brace + LONGEST_LINE)
        if end < 0:
            return None if len(self._buffer) - brace < LONGEST_LINE else ""
        try:
            said = _object(bytes(self._buffer[brace:end]))
        except (ValueError, UnicodeDecodeError, RecursionError):
            return ""
        return self._ping(said, end + 1)

    def _ping(self, said: dict[str, Any], start: int) -> _Announced | str:
        header = self.header
        assert header is not None
        if said.get("format") == FORMAT:
            return "another header"
        if not said.keys() >= _KEYS:
            return "keys" if said.keys() & _KEYS else ""
        ahead = header.view == "forward"
        if (ahead and not said.keys() >= _AHEAD) or (not ahead and said.keys() & _AHEAD):
            return "another view"
        if said.keys() - _KEYS - (_AHEAD if ahead else set()):
            return "keys"
        try:
            numbers = [_number(said, name) for name in ("time", "range_start", "range_step")]
            azimuth = _number(said, "azimuth") if ahead else math.nan
        except ValueError:
            return "numbers"
        samples, crc = said["samples"], said["crc32"]
        if isinstance(samples, bool) or not isinstance(samples, int) or not 1 <= samples <= MOST_SAMPLES:
            return "samples"
        if isinstance(crc, bool) or not isinstance(crc, int):
            return "checksum"
        if numbers[1] < 0 or numbers[2] <= 0:
            return "range"
        size = samples * (2 if header.view == "side" else 1)
        if ahead:
            beams = said["beams"]
            if isinstance(beams, bool) or beams != len(header.beam_angle):
                return "beams"
            size = samples * len(header.beam_angle)
        if size > MOST_BYTES:
            return "samples"
        time, range_start, range_step = numbers
        return _Announced(WirePing(time, range_start, range_step, samples, b"", azimuth), start, size, crc)

    def _is_whole(self, found: _Announced) -> bool:
        """All its bytes have come, and they are right."""
        if len(self._buffer) < found.start + found.size:
            return False
        return zlib.crc32(self._buffer[found.start : found.start + found.size]) == found.crc

    def _whole_ping_after(self, at: int) -> int | None:
        """Where a ping lies that has come whole, after one that announces more than has come."""
        while True:
            brace = self._buffer.find(b"{", at)
            if brace < 0:
                return None
            found = self._announced(brace)
            if isinstance(found, _Announced) and self._is_whole(found):
                return brace
            at = brace + 1


def header_line(header: PingHeader) -> bytes:
    """A header as it is sent."""
    said: dict[str, Any] = {
        "format": FORMAT,
        "version": VERSION,
        "view": header.view,
        "scale_factor": header.scale_factor,
        "add_offset": header.add_offset,
        "sound_speed": header.sound_speed,
        "transducer_depth": header.transducer_depth,
        **dict(header.attributes),
    }
    if header.beam_angle:
        said["beam_angle"] = list(header.beam_angle)
    return json.dumps(said).encode() + b"\n"


def ping_bytes(ping: WirePing, beams: int = 0) -> bytes:
    """A ping as it is sent."""
    said: dict[str, Any] = {
        "time": ping.time,
        "range_start": ping.range_start,
        "range_step": ping.range_step,
        "samples": ping.samples,
    }
    if beams:
        said |= {"beams": beams, "azimuth": ping.azimuth}
    said["crc32"] = zlib.crc32(ping.echo)
    return json.dumps(said).encode() + b"\n" + ping.echo
