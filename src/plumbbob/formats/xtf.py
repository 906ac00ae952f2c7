"""
The view to the sides as XTF, read and written through pyxtf.

Only sonar packets with a port and a starboard channel make a recording; what else a file holds is counted and named.
Files written here keep levels as they are, with their meaning in the header's note; others' samples are amplitudes.
"""

from __future__ import annotations

import math
import os
import re
import tempfile
import warnings
from collections import Counter
from collections.abc import Callable, Iterable
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from plumbbob.core.sonar.recording import EchoArray, Mount, Recording, Side, Track, transducer_at
from plumbbob.core.types import Floats
from plumbbob.core.units import DEEPEST_M
from plumbbob.files.atomic import writing
from plumbbob.files.errors import FileError
from plumbbob.files.kinds import plain_file
from plumbbob.files.text import why

_NOTE = "plumbbob {scale:.4f} {offset:.2f} {tvg} {along:.2f} {across:.1f}"
_KNOT_MPS = 0.514444
_PORT, _STARBOARD = 1, 2  # kinds of channel
_LAT_LON = 3  # units of positions
_SMALLEST_BYTES = 1024  # the header alone
_LEAST_PACKET_BYTES = 14  # its start
_MOST_SAMPLES = 120_000_000  # as they lie in memory while they are read
_ALWAYS_SAMPLES = 1_000_000


def read_xtf(path: Path, *, progress: Callable[[float], None] = lambda _: None) -> Recording:
    """
    The sonar packets of an XTF file as a recording with a view to the sides.

    Raises
    ------
    FileError
        In one line, if it is no XTF file or holds no port and starboard.
    """
    size = plain_file(path)
    if size < _SMALLEST_BYTES:
        raise FileError(path, "", "not an XTF file: too short for its header")
    with tempfile.TemporaryDirectory() as folder:
        # the library would unpickle an index lying beside the file; a link elsewhere has none beside it
        link = Path(folder) / "recording.xtf"
        os.symlink(path.resolve(), link)
        try:
            with warnings.catch_warnings():
                warnings.simplefilter("ignore")
                return _read(path, link, progress)
        except FileError:
            raise
        except Exception as exc:
            # the library raises what it likes on damaged packets
            raise FileError(path, "", f"not an XTF file, or a damaged one: {why(exc)}") from exc


def _read(path: Path, link: Path, progress: Callable[[float], None]) -> Recording:
    import pyxtf

    packets = pyxtf.xtf_read_gen(str(link))
    header = next(packets)
    if header.FileFormat != 0x7B:
        raise FileError(path, "header", "does not begin as XTF does")
    kinds = [int(header.ChanInfo[k].TypeOfChannel) for k in range(min(header.channel_count(), 6))]
    if _PORT not in kinds or _STARBOARD not in kinds:
        raise FileError(path, "header", "has no port and starboard channel")
    which = {_PORT: kinds.index(_PORT), _STARBOARD: kinds.index(_STARBOARD)}
    pings: list[Any] = []
    skipped: Counter[str] = Counter()
    notes: list[str] = []
    samples = 0
    try:
        for packet in packets:
            # the library goes on by this length: with none it would stand at the same packet for ever
            if packet.NumBytesThisRecord < _LEAST_PACKET_BYTES:
                raise ValueError("a packet without a length: damaged")
            kind = int(packet.HeaderType)
            if kind != pyxtf.XTFHeaderType.sonar.value or not isinstance(packet, pyxtf.XTFPingHeader):
                skipped[_packet_name(kind)] += 1
                continue
            if len(packet.data) <= max(which.values()):
                skipped["sonar packets without both sides"] += 1
                continue
            pings.append(packet)
            samples += sum(packet.data[k].size for k in which.values())
            if samples > _MOST_SAMPLES:
                notes.append("only the first part was read: the file is very large")
                break
            if len(pings) % 256 == 0:
                progress(0.5)
    except (RuntimeError, ValueError) as exc:
        if not pings:
            raise FileError(path, "packets", str(exc)) from exc
        notes.append(f"the file breaks off after {len(pings)} pings")
    if len(pings) < 2:
        raise FileError(path, "packets", "holds no sonar pings with a port and a starboard side")
    if skipped:
        notes.append("skipped " + ", ".join(f"{n} {what}" for what, n in sorted(skipped.items())))
    return _recording(path, header, pings, which, notes)


def _packet_name(kind: int) -> str:
    import pyxtf

    try:
        return f"{pyxtf.XTFHeaderType(kind).name} packets"
    except ValueError:
        return f"packets of unknown type {kind}"


def _time(packet: Any) -> float:
    try:
        moment = datetime(
            packet.Year, packet.Month, packet.Day, packet.Hour, packet.Minute, packet.Second, tzinfo=UTC
        )
    except ValueError:
        return math.nan
    return moment.timestamp() + packet.HSeconds / 100.0


def _recording(path: Path, header: Any, pings: list[Any], which: dict[int, int], notes: list[str]) -> Recording:
    time = np.array([_time(p) for p in pings])
    bad = ~np.isfinite(time)
    if bad.any():
        notes.append(f"{int(bad.sum())} pings without a time were left out")
    order = np.flatnonzero(~bad)
    order = order[np.argsort(time[order], kind="stable")]
    if order.size < 2:
        raise FileError(path, "packets", "no ping has a usable time")
    pings = [pings[int(k)] for k in order]
    # clocks with hundredths only: spread pings that share one
    time = _spread(time[order])
    note = bytes(header.NoteString).split(b"\0")[0].decode("ascii", "replace")
    ours = re.fullmatch(r"plumbbob (\S+) (\S+) (none|20logR|40logR) (\S+) (\S+)", note.strip())
    longest = max(p.data[k].size for p in pings for k in which.values())
    if 2 * longest * len(pings) > 4 * path.stat().st_size + _ALWAYS_SAMPLES:
        raise FileError(path, "packets", f"one ping of {longest} samples among short ones: damaged")
    raw = {kind: np.zeros((len(pings), longest), np.float32) for kind in which}
    slant = np.zeros(len(pings))
    for i, packet in enumerate(pings):
        for kind, channel in which.items():
            values = np.asarray(packet.data[channel])
            raw[kind][i, : values.size] = values[::-1] if kind == _PORT else values
        slant[i] = float(packet.ping_chan_headers[which[_STARBOARD]].SlantRange)
    if not (np.isfinite(slant).all() and (slant > 0).all()):
        raise FileError(path, "ping channels", "a slant range is missing or not above zero")
    if slant.max() > DEEPEST_M:
        raise FileError(path, "ping channels", "looks farther than there is water anywhere")
    info = header.ChanInfo[which[_STARBOARD]]
    if ours:
        scale, offset, tvg = float(ours[1]), float(ours[2]), ours[3]
        along, across = float(ours[4]), float(ours[5])
        echoes = {kind: np.clip(v, 0, 255).astype(np.uint8) for kind, v in raw.items()}
    else:
        scale, offset, echoes = _from_amplitudes(raw)
        tvg, across = "20logR", 60.0
        along = float(info.HorizBeamAngle) if 0.05 < float(info.HorizBeamAngle) < 10.0 else 1.0
    sound = float(pings[0].SoundVelocity)
    sound = 2 * sound if 600 < sound < 800 else sound  # some write half of it
    sound = sound if 1300 <= sound <= 1700 else 1500.0
    delay = np.array([float(p.ping_chan_headers[which[_STARBOARD]].TimeDelay) for p in pings]) * sound / 2
    delay = np.where(np.isfinite(delay) & (delay > -1.0) & (delay < slant / 2), delay, 0.0)
    step = (slant - delay) / longest
    frequency = float(info.Frequency)
    frequency = frequency * 1000.0 if 0 < frequency < 2000 else frequency
    draft = float(pings[0].SensorDepth)
    return Recording(
        name=path.name,
        title=path.stem,
        views=("side",),
        track=_track(header, pings, time),
        side=Side(
            time=time,
            range_start_m=delay + step / 2,
            range_step_m=step,
            port=EchoArray(echoes[_PORT]),
            starboard=EchoArray(echoes[_STARBOARD]),
            scale_db=scale,
            offset_db=offset,
            frequency_hz=frequency if 1e3 <= frequency <= 1e7 else 455e3,
            tvg=tvg,
            beam_width_along_deg=along,
            beam_width_across_deg=across,
            mount=Mount(depth_m=draft if 0 <= draft < 100 else 0.0),
            sound_speed_mps=sound,
        ),
        notes=tuple(notes),
    )


def _spread(time: Floats) -> Floats:
    """Pings with one clock reading set evenly up to the next."""
    fresh = np.concatenate(([True], np.diff(time) > 1e-6))
    at = np.flatnonzero(fresh)
    return np.interp(np.arange(time.size), at, time[at]) if at.size > 1 else time + 0.1 * np.arange(time.size)


def _from_amplitudes(raw: dict[int, NDArray[np.float32]]) -> tuple[float, float, dict[int, NDArray[np.uint8]]]:
    """Linear samples as decibels in bytes over the range they span."""
    loudest = max(float(np.max(v)) for v in raw.values())
    top = 20.0 * math.log10(max(loudest, 2.0))
    scale = top / 255.0
    with np.errstate(divide="ignore"):
        made = {k: np.clip(20.0 * np.log10(np.maximum(v, 1.0)) / scale, 0, 255) for k, v in raw.items()}
    return scale, -top, {k: np.rint(v).astype(np.uint8) for k, v in made.items()}


def _track(header: Any, pings: list[Any], time: Floats) -> Track | None:
    if int(header.NavUnits) != _LAT_LON:
        return None
    longitude = np.array([p.SensorXcoordinate or p.ShipXcoordinate for p in pings])
    latitude = np.array([p.SensorYcoordinate or p.ShipYcoordinate for p in pings])
    good = (np.abs(latitude) <= 90) & (np.abs(longitude) <= 360) & ~((latitude == 0) & (longitude == 0))
    if good.sum() < 2:
        return None
    heading = np.array([p.SensorHeading or p.ShipGyro for p in pings], np.float64)
    speed = np.array([p.SensorSpeed or p.ShipSpeed for p in pings], np.float64) * _KNOT_MPS
    warm = np.array([p.WaterTemperature for p in pings], np.float64)
    return Track(
        time=time[good],
        latitude=latitude[good],
        longitude=longitude[good],
        speed_mps=np.where((speed >= 0) & (speed < 60), speed, np.nan)[good],
        heading_deg=np.where(np.abs(heading) <= 720, heading, np.nan)[good] % 360.0,
        course_deg=np.where(np.abs(heading) <= 720, heading, np.nan)[good] % 360.0,
        temperature_c=np.where((warm > 0) & (warm < 60), warm, np.nan)[good],
    )


def write_xtf(
    path: Path,
    recording: Recording,
    *,
    inputs: Iterable[Path] = (),
    progress: Callable[[float], None] = lambda _: None,
) -> int:
    """
    Write the view to the sides of a recording; the file appears whole or not at all.

    Returns
    -------
    int
        Pings written.

    Raises
    ------
    FileError
        If the recording has no view to the sides, or the file could not be written.
    """
    import pyxtf

    side = recording.side
    if side is None or not len(side):
        raise FileError(path, "", f"{recording.name} has no view to the sides to write")
    header = pyxtf.XTFFileHeader()
    header.FileFormat, header.SystemType = 0x7B, 1
    header.RecordingProgramName, header.NavUnits = b"plumbbob", _LAT_LON
    header.NumberOfSonarChannels, header.SonarType = 2, 1
    header.NoteString = _NOTE.format(
        scale=side.scale_db,
        offset=side.offset_db,
        tvg=side.tvg,
        along=side.beam_width_along_deg,
        across=side.beam_width_across_deg,
    ).encode()
    for k, (kind, name) in enumerate(((_PORT, b"PORT"), (_STARBOARD, b"STBD"))):
        channel = header.ChanInfo[k]
        channel.TypeOfChannel, channel.SubChannelNumber, channel.BytesPerSample = kind, k, 1
        channel.ChannelName, channel.Frequency = name, side.frequency_hz / 1000.0
        channel.HorizBeamAngle = side.beam_width_along_deg
    places = transducer_at(recording.track, side.mount, side.time)
    with writing(path, inputs=inputs) as fresh, fresh.open("wb") as out:
        out.write(header.to_bytes())
        for start in range(0, len(side), 256):
            port, starboard = side.port.read(start, start + 256), side.starboard.read(start, start + 256)
            for i in range(len(port)):
                packet = _ping(pyxtf, side, places, start + i, port[i], starboard[i])
                out.write(packet.to_bytes().ljust(packet.NumBytesThisRecord, b"\0"))
            progress(min((start + 256) / len(side), 1.0))
    return len(side)


def _ping(pyxtf: Any, side: Side, places: Any, k: int, port: NDArray[np.uint8], starboard: NDArray[np.uint8]) -> Any:
    ping = pyxtf.XTFPingHeader()
    ping.HeaderType, ping.NumChansToFollow = pyxtf.XTFHeaderType.sonar.value, 2
    moment = datetime.fromtimestamp(float(side.time[k]), UTC)
    ping.Year, ping.Month, ping.Day = moment.year, moment.month, moment.day
    ping.Hour, ping.Minute, ping.Second = moment.hour, moment.minute, moment.second
    ping.HSeconds, ping.JulianDay = moment.microsecond // 10_000, moment.timetuple().tm_yday
    ping.PingNumber, ping.SoundVelocity = k + 1, side.sound_speed_mps
    ping.SensorDepth = side.mount.depth_m
    if math.isfinite(places.latitude[k]):
        ping.SensorYcoordinate = ping.ShipYcoordinate = float(places.latitude[k])
        ping.SensorXcoordinate = ping.ShipXcoordinate = float(places.longitude[k])
    if math.isfinite(places.heading_deg[k]):
        ping.SensorHeading = ping.ShipGyro = float(places.heading_deg[k])
    if math.isfinite(places.speed_mps[k]):
        ping.SensorSpeed = ping.ShipSpeed = float(places.speed_mps[k]) / _KNOT_MPS
    # samples run outwards from the boat's line on starboard, inwards to it on port
    reach = float(side.range_start_m[k] - side.range_step_m[k] / 2 + side.range_step_m[k] * side.samples)
    ping.ping_chan_headers, ping.data = [], [port[::-1].copy(), starboard.copy()]
    for channel in (0, 1):
        about = pyxtf.XTFPingChanHeader()
        about.ChannelNumber, about.SlantRange, about.NumSamples = channel, reach, side.samples
        about.TimeDelay = 2 * (reach - side.range_step_m[k] * side.samples) / side.sound_speed_mps
        about.TimeDuration = 2 * side.range_step_m[k] * side.samples / side.sound_speed_mps
        about.Frequency = round(side.frequency_hz / 1000.0)
        ping.ping_chan_headers.append(about)
    size = len(ping.to_bytes())
    ping.NumBytesThisRecord = -(-size // 64) * 64  # records are multiples of 64 bytes
    return ping
