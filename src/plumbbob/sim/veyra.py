"""The demo waters of Plumbbob, all invented: the morning pass over Veyra Lake's North Basin, and a long day there."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np

from plumbbob.core.geodesy import Position, offset
from plumbbob.core.types import Floats
from plumbbob.sim.scene import (
    BaitCloud,
    ForwardScene,
    ForwardSounder,
    Hung,
    Rise,
    Scene,
    SideSounder,
    Sounder,
    Stand,
    Swimmer,
    Weak,
)
from plumbbob.sim.side_weed import WeedBed

NORTH_BASIN = Position(44.20612, -40.05834)
FIRST_PASS = 1786785000.0  # 2026-08-15 09:10 UTC, 06:10 at the lake
_SHINER_DB, _KOKANEE_DB, _PERCH_DB, _SAUGER_DB, _BURBOT_DB = -56.0, -36.0, -41.0, -37.0, -36.0


def _bell(x: Floats, at: float, width: float) -> Floats:
    return np.exp(-0.5 * ((x - at) / width) ** 2)


def _step(x: Floats, at: Floats | float, width: float) -> Floats:
    return 0.5 * (1 + np.tanh((x - at) / width))


def _ripple(x: Floats) -> Floats:
    return 0.12 * np.sin(x / 4.1) + 0.09 * np.sin(x / 9.7 + 1.0) + 0.22 * np.sin(x / 37.0 + 0.4)


def basin_bottom(x: Floats, aside: Floats | float = 0.0) -> Floats:
    """Larch Flat, the lip, the Old Kell channel, both Twin Humps; by distance along and off the pass."""
    flat = 11.6 + 0.006 * x
    channel = 7.2 * _step(x, 118.0, 5.5) - 3.1 * _step(x, 196.0, 9.0)
    off = np.asarray(aside, np.float64)
    humps = -7.4 * _bell(x, 318.0, 21.0) * _bell(off, 4.0, 30.0) - 5.6 * _bell(x, 402.0, 17.0) * _bell(
        off, -6.0, 26.0
    )
    return flat + channel + humps + _ripple(x)


def _basin_bottom(x: Floats) -> Floats:
    """Under the boat: straight over the tops."""
    return basin_bottom(x, np.where(x < 360.0, 4.0, -6.0))


def _basin_hardness(x: Floats) -> Floats:
    """Firm flat, soft channel floor, hard humps."""
    return -27.0 - 6.0 * _bell(x, 158.0, 26.0) + 6.0 * (_bell(x, 318.0, 22.0) + _bell(x, 402.0, 18.0))


def _basin_layer(x: Floats) -> Floats:
    return 10.4 + 0.25 * np.sin(x / 31.0) + 0.12 * np.sin(x / 11.0 + 2.0)


def _basin_fish() -> tuple[Swimmer, ...]:
    perch = [
        (14, 0.5, 10.9),
        (22, -0.8, 10.7),
        (31, 0.2, 10.95),
        (43, 1.1, 10.85),
        (58, -0.4, 11.0),
        (71, 0.9, 11.1),
    ]
    sauger = [(106, 0.3, 11.4), (128, -0.6, 16.4), (139, 1.2, 17.9)]
    kokanee = [
        (96, -0.4, 7.7),
        (164, 0.9, 8.6),
        (171, -1.2, 7.9),
        (183, 0.3, 8.9),
        (189, 1.5, 8.2),
        (226, -0.2, 8.8),
        (234, 0.8, 7.6),
        (241, -1.0, 9.1),
        (262, 0.4, 8.4),
        (351, -0.7, 7.9),
        (359, 0.2, 8.7),
        (367, 1.1, 8.1),
        (446, 0.0, 8.5),
        (458, -0.9, 7.8),
    ]
    burbot = [(207, 0.5, 15.9), (285, -0.5, 13.9)]
    swim = ((0.15, 0.0), (-0.1, 0.05), (0.0, 0.1), (0.2, -0.05))
    groups = (
        (perch, _PERCH_DB, "yellow perch"),
        (sauger, _SAUGER_DB, "sauger"),
        (kokanee, _KOKANEE_DB, "kokanee"),
        (burbot, _BURBOT_DB, "burbot"),
    )
    return tuple(
        Swimmer(
            along_m=float(x),
            aside_m=y,
            depth_m=z,
            strength_db=strength + 1.7 * ((i * 7) % 5 - 2) / 2,
            swims_mps=swim[i % 4],
            tag=tag,
        )
        for group, strength, tag in groups
        for i, (x, y, z) in enumerate(group)
    )


def demo_pass() -> Scene:
    """Six minutes at first light, from Larch Flat over the Old Kell channel and the Twin Humps."""
    return Scene(
        title="North Basin, first pass",
        origin=NORTH_BASIN,
        start_time=FIRST_PASS,
        speed_mps=lambda t: 1.3 + 0.06 * np.sin(t / 23.0),
        heading_deg=lambda t: 312.0 + 6.0 * np.sin(t / 60.0),
        seconds=368.0,
        bottom_m=_basin_bottom,
        roughness_db=_basin_hardness,
        fish=_basin_fish(),
        bait=(
            BaitCloud(along_m=148, aside_m=0.4, depth_m=5.6, length_m=7.0, height_m=2.2, count=1300),
            BaitCloud(along_m=251, aside_m=-0.6, depth_m=5.2, length_m=5.0, height_m=1.6, count=800),
        ),
        layer=Weak(depth_m=_basin_layer, thickness_m=1.2, strength_db=-62.5),
        clutter_m=2.2,
        sounder=Sounder(range_m=23.5, samples=600),
    )


def second_pass() -> Scene:
    """
    The same line an hour later, three metres to starboard; over the second hump the boat stops to fish.

    A jig goes down, rests, is lifted; a kokanee comes up under it. The humps are where they were, the fish are not.
    """
    first = demo_pass()
    latitude, longitude = offset(NORTH_BASIN.latitude, NORTH_BASIN.longitude, 2.0, 2.2)
    moved = tuple(
        replace(f, along_m=f.along_m + 9.0 * ((7 * i) % 5 - 2), aside_m=-f.aside_m, depth_m=f.depth_m + 0.3)
        for i, f in enumerate(first.fish)
        if f.along_m < 330.0 and i % 4 != 3
    )

    def jig(t: Floats) -> Floats:
        return np.interp(t, [0.0, 12.0, 24.0, 34.0, 52.0], [1.2, 8.6, 8.6, 5.0, 5.0])

    return replace(
        first,
        title="North Basin, second pass",
        origin=Position(float(latitude), float(longitude)),
        start_time=FIRST_PASS + 3900.0,
        speed_mps=lambda t: 0.12 + 1.18 * (1.0 - _step(t, 285.0, 4.0)),
        seconds=364.0,
        bottom_m=lambda x: basin_bottom(x, np.where(x < 360.0, 7.0, -3.0)),
        fish=moved,
        hung=(
            Hung(start_s=304.0, end_s=356.0, depth_m=jig, strength_db=-38.0),
            Hung(
                start_s=318.0,
                end_s=345.0,
                depth_m=lambda t: jig(t + 14.0) + 0.5 + 1.4 * np.exp(-t / 5.0),
                aside_m=0.5,
                strength_db=-35.0,
            ),
        ),
    )


def flat_floor(x: Floats, aside: Floats) -> Floats:
    """Larch Flat, level along the pass; to starboard its lip, where it drops into the Old Kell channel."""
    level: Floats = 8.4 + 0.05 * np.sin(x / 7.0)
    return level + 2.8 * _step(np.asarray(aside), 19.0 + 1.5 * np.sin(x / 22.0), 0.7)


def side_pass() -> Scene:
    """Three minutes along Larch Flat with the fans out: perch strung to port, timber and brush, kokanee that hang."""
    perch = tuple(
        Swimmer(
            along_m=14.0 + 6.5 * i, aside_m=-13.0 - 0.5 * (i % 3), depth_m=7.9 + 0.12 * (i % 2), strength_db=-37.0
        )
        for i in range(8)
    )
    kokanee = tuple(
        Swimmer(along_m=x, aside_m=y, depth_m=z, strength_db=-33.5, tag="kokanee")
        for x, y, z in (
            (28.0, 9.0, 5.6),
            (66.0, -7.5, 5.0),
            (92.0, 11.0, 5.9),
            (121.0, 8.0, 4.8),
            (150.0, -10.5, 5.4),
            (171.0, 0.6, 5.2),
            (188.0, 12.5, 6.1),
        )
    )
    sauger = tuple(
        Swimmer(along_m=x, aside_m=y, depth_m=8.0, strength_db=-33.0, tag="sauger")
        for x, y in ((78.0, 16.5), (103.5, -13.2), (137.0, -15.5), (162.0, 14.6))
    )
    stones = ((112.0, 9.0, 0.9), (117.5, 13.5, 1.1), (121.0, 7.4, 0.7), (125.5, 11.2, 1.0), (130.0, 15.0, 0.8),
              (119.0, -8.0, 0.9), (126.5, -11.5, 1.0), (133.0, -7.2, 0.7))  # fmt: skip

    def floor(x: Floats, aside: Floats) -> Floats:
        """The flat with a rocky stretch: along, to starboard and radius of each stone."""
        depth = flat_floor(x, aside)
        for along, off, radius in stones:
            away = ((np.asarray(x) - along) ** 2 + (np.asarray(aside) - off) ** 2) / radius**2
            depth = depth - 0.8 * radius * np.sqrt(np.clip(1.0 - away, 0.0, 1.0))
        return depth

    return Scene(
        title="Larch Flat, fans out",
        origin=Position(44.20480, -40.05720),
        start_time=FIRST_PASS + 7200.0,
        speed_mps=lambda t: 1.15 + 0.05 * np.sin(t / 19.0),
        heading_deg=lambda t: 318.0 + 3.0 * np.sin(t / 50.0),
        seconds=176.0,
        bottom_m=lambda x: floor(x, np.zeros(np.shape(x))),
        roughness_db=lambda x: -27.0 + 3.0 * _bell(x, 60.0, 14.0) + 0.0 * x,
        fish=perch + kokanee + sauger,
        bait=(
            BaitCloud(
                along_m=84.0, aside_m=-10.0, depth_m=4.3, length_m=3.4, height_m=1.7, count=4000, strength_db=-48.0
            ),
        ),
        rises=(
            Rise(along_m=100.0, aside_m=-15.5, length_m=1.6, width_m=0.5, height_m=3.2, kind="timber"),
            Rise(along_m=143.0, aside_m=10.5, length_m=4.5, width_m=2.2, height_m=1.1, kind="brush"),
            Rise(along_m=46.0, aside_m=12.0, length_m=3.5, width_m=1.6, height_m=0.9, kind="brush"),
        ),
        weed=(WeedBed(along_m=172.0, aside_m=-13.0, length_m=34.0, width_m=15.0, height_m=1.2, loud_db=5.0, seed=4),),
        clutter_m=1.4,
        sounder=Sounder(range_m=14.0, samples=420),
        side=SideSounder(range_m=28.0, samples=560),
        floor_m=floor,
    )


def ahead_pass() -> Scene:
    """A minute adrift beside a Twin Hump, the fan turned by hand: kokanee ahead, and a jig cast over one of them."""

    def floor(x: Floats, aside: Floats) -> Floats:
        return 9.2 - 2.2 * _bell(x, 19.0, 5.0) + 0.06 * np.sin(x) + 0.0 * np.asarray(aside)

    def still(value: float) -> Callable[[Floats], Floats]:
        return lambda t: np.full(np.shape(t), value)

    def fish(ahead: float, aside: float, depth: float, speed: float = 0.0, rise: float = 0.0) -> ForwardScene:
        return ForwardScene(
            ahead_m=lambda t: ahead + speed * t,
            aside_m=still(aside),
            depth_m=lambda t: depth + rise * np.sin(t / 9.0),
            strength_db=-35.0,
        )

    cast = [12.0, 20.5, 44.0]
    jig = ForwardScene(
        ahead_m=lambda t: np.interp(t, cast, [15.0, 14.6, 2.5]),
        aside_m=lambda t: np.interp(t, cast, [1.9, 1.85, 0.4]),
        depth_m=lambda t: np.interp(t, [*cast[:2], 34.0, cast[2]], [0.6, 5.0, 4.6, 1.5]),
        strength_db=-32.0,
        kind="lure",
        start_s=cast[0],
        end_s=cast[2],
    )
    return Scene(
        title="Twin Humps, looking ahead",
        origin=Position(44.20795, -40.06120),
        start_time=FIRST_PASS + 9000.0,
        speed_mps=lambda t: 0.10 + 0.0 * t,
        heading_deg=lambda t: 300.0 + 2.0 * np.sin(t / 11.0),
        seconds=64.0,
        bottom_m=lambda x: floor(x, np.zeros(np.shape(x))),
        roughness_db=lambda x: -27.0 + 0.0 * x,
        ahead=(
            fish(10.5, 1.2, 5.8),
            fish(7.2, -0.9, 4.4, 0.03),
            fish(13.5, 2.6, 6.1, -0.05, 0.15),
            fish(15.8, -1.4, 3.4, -0.14),
            fish(5.0, 0.9, 6.9, 0.02),
            jig,
        ),
        clutter_m=1.2,
        sounder=Sounder(range_m=12.0, samples=320, forward_m=-2.4),
        forward=ForwardSounder(
            range_m=19.0,
            samples=270,
            beams=52,
            frames_per_s=4.0,
            azimuth_deg=lambda t: 5.0 + 9.0 * np.sin(t / 6.0),
        ),
        floor_m=floor,
    )


def long_day(minutes: float) -> Scene:
    """A long pass back and forth, for measuring speed and memory: 15 pings a second, 800 samples."""
    seconds = minutes * 60.0
    metres = 1.4 * seconds
    rng = np.random.default_rng(5)
    count = int(metres / 18)
    fish = tuple(
        Swimmer(along_m=float(a), aside_m=float(y), depth_m=float(z), strength_db=float(s))
        for a, y, z, s in zip(
            np.sort(rng.uniform(5, metres - 5, count)),
            rng.uniform(-1.5, 1.5, count),
            rng.uniform(4.0, 11.0, count),
            rng.normal(-37, 3, count),
            strict=True,
        )
    )
    bait = tuple(
        BaitCloud(along_m=float(a), aside_m=0.0, depth_m=6.0, length_m=6.0, height_m=2.0, count=250)
        for a in np.arange(150.0, metres, 400.0)
    )
    return Scene(
        title="North Basin, all day",
        origin=NORTH_BASIN,
        start_time=FIRST_PASS,
        speed_mps=lambda t: 1.4 + 0.1 * np.sin(t / 41.0),
        heading_deg=lambda t: 312.0 + 180.0 * _step(np.sin(t / 200.0), 0.0, 0.05),
        seconds=seconds,
        bottom_m=lambda x: 15.0 + 2.5 * np.sin(x / 90.0) + 1.2 * np.sin(x / 31.0) + _ripple(x),
        roughness_db=lambda x: -27.0 + 4.0 * np.sin(x / 150.0),
        fish=fish,
        bait=bait,
        stands=tuple(Stand(along_m=float(a), length_m=14.0, height_m=1.2) for a in np.arange(300.0, metres, 900.0)),
        layer=Weak(depth_m=lambda x: 12.2 + 0.2 * np.sin(x / 40.0), thickness_m=1.0),
        sounder=Sounder(range_m=28.0, samples=800, pings_per_s=15.0),
    )
