"""What is heard, as a pass that grows: the wire's words for a sounder and its pings turned into the core's."""

from __future__ import annotations

import math
import threading
from collections.abc import Mapping, Sequence

import numpy as np

from plumbbob.core.live.fixes import Fix
from plumbbob.core.live.growing import GrowingPass, NewPing, Sounder
from plumbbob.core.sonar.recording import Mount, Recording
from plumbbob.formats.wire_pings import PingHeader, WirePing


def sounder_of(header: PingHeader) -> Sounder:
    """What a source says of all its pings."""
    said = dict(header.attributes)

    def number(name: str, missing: float = math.nan) -> float:
        return float(said.get(name, missing))

    return Sounder(
        view=header.view,
        scale_db=header.scale_factor,
        offset_db=header.add_offset,
        sound_speed_mps=header.sound_speed,
        mount=Mount(
            depth_m=header.transducer_depth,
            forward_m=number("antenna_to_transducer_forward", 0.0),
            starboard_m=number("antenna_to_transducer_starboard", 0.0),
        ),
        tvg=str(said["tvg"]),
        frequency_hz=number("frequency"),
        pulse_length_s=number("pulse_length"),
        beam_width_deg=number("beam_width"),
        beam_width_along_deg=number("beam_width_along"),
        beam_width_across_deg=number("beam_width_across"),
        beam_angle_deg=header.beam_angle,
    )


def new_ping(header: PingHeader, ping: WirePing) -> NewPing:
    """A ping as it came."""
    rows = {"down": 1, "side": 2}.get(header.view, len(header.beam_angle))
    echo = np.frombuffer(ping.echo, np.uint8).reshape(rows, ping.samples)
    azimuth = ping.azimuth if math.isfinite(ping.azimuth) else 0.0
    return NewPing(ping.time, ping.range_start, ping.range_step, echo, azimuth)


class LiveEchoes:
    """Written to from the thread that listens, looked at from another."""

    def __init__(self, name: str) -> None:
        self._pass, self._lock = GrowingPass(name), threading.Lock()

    def take_pings(self, header: PingHeader, pings: Sequence[WirePing]) -> None:
        """As they were recorded."""
        with self._lock:
            self._pass.add_pings(sounder_of(header), [new_ping(header, p) for p in pings])

    def take_fix(self, fix: Fix) -> None:
        """Where the boat is."""
        with self._lock:
            self._pass.add_fix(fix)

    @property
    def version(self) -> tuple[int, ...]:
        """Another after anything came."""
        return self._pass.version

    def look(self) -> tuple[Recording, Mapping[str, int]]:
        """All that is held now, and how many pings of each view are held no more."""
        with self._lock:
            return self._pass.recording(), dict(self._pass.dropped)
