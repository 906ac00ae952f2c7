"""A made-up piece of water: bottom, layer, fish, bait, a boat's path over it. Metres east and north of an origin."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from plumbbob.core.geodesy import Position, offset
from plumbbob.core.types import Floats
from plumbbob.sim.side_weed import WeedBed


@dataclass(frozen=True, slots=True, kw_only=True)
class Swimmer:
    """One fish: where it is at the time it is passed, how it swims, how loud it is."""

    along_m: float  # distance along the boat's path where it is met
    aside_m: float  # to starboard of the path
    depth_m: float
    strength_db: float  # target strength
    swims_mps: tuple[float, float] = (0.0, 0.0)  # along and across the path
    tag: str = "fish"
    length_m: float = 0.45
    thick_m: float = 0.0  # how far its echo reaches along the range, as it lies aslant


@dataclass(frozen=True, slots=True, kw_only=True)
class BaitCloud:
    """Many small fish in an ellipsoid."""

    along_m: float
    aside_m: float
    depth_m: float
    length_m: float
    height_m: float
    count: int = 900
    strength_db: float = -56.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Weak:
    """The cold layer as weak scatter: depth along the path, thickness, volume strength."""

    depth_m: Callable[[Floats], Floats]
    thickness_m: float = 1.2
    strength_db: float = -66.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Stand:
    """Weed or timber: from along_m on for length_m, up to height_m over the bottom."""

    along_m: float
    length_m: float
    height_m: float
    kind: str = "weed"


@dataclass(frozen=True, slots=True, kw_only=True)
class Rise:
    """Something that sticks up from the bottom to one side: a trunk, a brush pile, a boulder."""

    along_m: float
    aside_m: float  # to starboard
    length_m: float  # along the path
    width_m: float
    height_m: float
    loud_db: float = 12.0  # over the bottom about it
    kind: str = "timber"


@dataclass(frozen=True, slots=True, kw_only=True)
class ForwardScene:
    """Something seen ahead: where it is from the fan's place at the start, by seconds since then."""

    ahead_m: Callable[[Floats], Floats]
    aside_m: Callable[[Floats], Floats]  # to starboard
    depth_m: Callable[[Floats], Floats]
    strength_db: float = -36.0
    kind: str = "fish"
    start_s: float = 0.0
    end_s: float = 1e9


@dataclass(frozen=True, slots=True, kw_only=True)
class SideSounder:
    """A pair of fans to the sides."""

    frequency_hz: float = 455e3
    beam_width_along_deg: float = 0.9
    beam_width_across_deg: float = 56.0
    pulse_length_s: float = 1.2e-4
    range_m: float = 30.0
    samples: int = 600
    pings_per_s: float = 9.0
    draft_m: float = 0.45
    forward_m: float = -2.4
    starboard_m: float = 0.3
    noise_db: float = -112.0
    bottom_db: float = -27.0
    scale_db: float = 0.34
    tvg: str = "20logR"
    sound_speed_mps: float = 1476.0
    starboard_db: float = 0.0  # how much louder that side is than the other
    flicker_db: float = 0.0  # how much a fish's echo changes from ping to ping
    speckle_share: float = 1.0  # how wide along the range the bottom's speckle is, in widths of a fish's echo
    grain: float = math.inf  # shape of the gamma that the bottom's power follows from cell to cell; infinite: even


@dataclass(frozen=True, slots=True, kw_only=True)
class ForwardSounder:
    """A fan of beams at the bow, turned by hand."""

    frequency_hz: float = 900e3
    beam_width_deg: float = 1.8
    fan_width_deg: float = 18.0
    beams: int = 64
    pulse_length_s: float = 8e-5
    range_m: float = 20.0
    samples: int = 320
    frames_per_s: float = 5.0
    draft_m: float = 0.4
    forward_m: float = 1.6
    starboard_m: float = 0.2
    noise_db: float = -114.0
    bottom_db: float = -28.0
    scale_db: float = 0.3
    lobe: float = 1e-4  # two-way power that leaks into all other beams
    second_echo_db: float = -math.inf  # of the bottom, by way of the surface
    azimuth_deg: Callable[[Floats], Floats] = lambda t: 4.0 + 13.0 * np.sin(t / 7.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class Hung:
    """Something that stays under the boat for a while: a lure on its line, a fish that follows it."""

    start_s: float  # since the pass began
    end_s: float
    depth_m: Callable[[Floats], Floats]  # by seconds since its start
    aside_m: float = 0.2
    strength_db: float = -40.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Sounder:
    """A transducer and how it is run."""

    frequency_hz: float = 200e3
    beam_width_deg: float = 16.0
    pulse_length_s: float = 1.5e-4
    tvg: str = "40logR"
    range_m: float = 24.0
    samples: int = 600
    pings_per_s: float = 9.0
    sound_speed_mps: float = 1476.0
    absorption_db_per_m: float = 0.010
    source_db: float = 0.0  # relative; the noise is what matters
    noise_db: float = -112.0
    draft_m: float = 0.45
    forward_m: float = -2.4
    starboard_m: float = 0.3
    scale_db: float = 0.36


@dataclass(frozen=True, slots=True, kw_only=True)
class Scene:
    """Everything that one pass meets."""

    title: str
    origin: Position
    start_time: float
    speed_mps: Callable[[Floats], Floats]  # by time since start
    heading_deg: Callable[[Floats], Floats]
    seconds: float
    bottom_m: Callable[[Floats], Floats]  # depth by distance along the path
    roughness_db: Callable[[Floats], Floats]  # bottom strength along the path: mud -22, rock -8
    fish: tuple[Swimmer, ...] = ()
    bait: tuple[BaitCloud, ...] = ()
    stands: tuple[Stand, ...] = ()
    hung: tuple[Hung, ...] = ()
    rises: tuple[Rise, ...] = ()
    weed: tuple[WeedBed, ...] = ()  # to the sides
    ahead: tuple[ForwardScene, ...] = ()
    layer: Weak | None = None
    clutter_m: float = 2.5
    temperature_c: float = 20.8
    sounder: Sounder = Sounder()
    side: SideSounder | None = None
    forward: ForwardSounder | None = None
    floor_m: Callable[[Floats, Floats], Floats] | None = None  # depth by distance along and to starboard
    bed_db: Callable[[Floats, Floats], Floats] | None = None  # how much louder than usual the bottom is there
    roll_deg: Callable[[Floats], Floats] = lambda t: 0.0 * t  # starboard down, by seconds

    def floor(self, along_m: Floats, aside_m: Floats) -> Floats:
        """Depth of the bottom along and aside of the path."""
        if self.floor_m is not None:
            return self.floor_m(along_m, aside_m)
        return np.broadcast_to(self.bottom_m(along_m), np.broadcast_shapes(np.shape(along_m), np.shape(aside_m)))


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Path:
    """The transducer's path at given times."""

    time: Floats  # since start
    along_m: Floats
    east_m: Floats
    north_m: Floats
    heading_deg: Floats
    speed_mps: Floats


def path_of(scene: Scene, time: Floats) -> Path:
    """Dead reckoning on a fine clock, read off at the given times (since start)."""
    fine = np.arange(-2.0, scene.seconds + 2.0, 0.05)
    speed, heading = scene.speed_mps(fine), scene.heading_deg(fine)
    step = 0.05 * speed
    bearing = np.radians(heading)
    along, east, north = np.cumsum(step), np.cumsum(step * np.sin(bearing)), np.cumsum(step * np.cos(bearing))
    along -= np.interp(0.0, fine, along)
    return Path(
        time=time,
        along_m=np.interp(time, fine, along),
        east_m=np.interp(time, fine, east),
        north_m=np.interp(time, fine, north),
        heading_deg=np.interp(time, fine, heading),
        speed_mps=np.interp(time, fine, speed),
    )


def place_of(scene: Scene, east_m: Floats, north_m: Floats) -> tuple[Floats, Floats]:
    """Latitude and longitude of places in the scene."""
    return offset(scene.origin.latitude, scene.origin.longitude, east_m, north_m)
