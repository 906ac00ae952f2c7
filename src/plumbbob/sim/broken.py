"""Scenes to the sides over any ground: stones, ripples, patches, slopes, ledges, and what a scorer needs to know."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, field, replace

import numpy as np
from scipy import ndimage

from plumbbob.core.geodesy import Position
from plumbbob.core.types import Floats
from plumbbob.sim.scene import Scene, SideSounder, Sounder, Swimmer, path_of
from plumbbob.sim.side import side_power

_CELL_M = 0.1
_LEAST_DB = 10.0  # over the bottom about it: what a person would call a fish


@dataclass(frozen=True, slots=True, kw_only=True)
class Ground:
    """What the bottom of a scene is like."""

    depth_m: float = 8.0
    slope: float = 0.0  # across, deeper to starboard
    ledge_m: float = 0.0  # a drop along the way, to one side
    ledge_aside_m: float = 12.0
    swell_m: float = 0.3  # of slow ups and downs
    stones: float = 0.0  # for each 1,000 m²
    stone_m: tuple[float, float] = (0.45, 1.3)  # radius
    ripple_m: float = 0.0  # height of ripples
    patches_db: float = 2.0  # standard deviation of soft and hard places
    speed_mps: float = 1.4
    roll_deg: float = 0.0
    sounder: SideSounder = field(default_factory=SideSounder)
    fish: int = 36
    seconds: float = 150.0


@dataclass(frozen=True, slots=True, kw_only=True)
class SeenFish:
    """One fish as the fans meet it."""

    index: int  # among those of the scene
    time: float
    side: str
    slant_m: float
    ground_m: float
    on_bottom_m: float  # ground range it would have if it lay on the bottom
    height_m: float
    over_db: float  # its peak over the bottom about it
    pings: float  # in which it shows
    under_boat: bool

    @property
    def clear(self) -> bool:
        """It has to be found."""
        return self.over_db >= _LEAST_DB and self.pings >= 2.5 and not self.under_boat


def broken_scene(ground: Ground, seed: int) -> Scene:
    """A straight pass over a piece of such ground."""
    rng = np.random.default_rng(seed)
    length = ground.seconds * ground.speed_mps + 20.0
    reach = ground.sounder.range_m + 2.0
    rows, columns = int(length / _CELL_M), int(2 * reach / _CELL_M)
    aside = (np.arange(columns) + 0.5) * _CELL_M - reach
    height = ground.swell_m * _noise(rng, (rows, columns), 60.0) + 0.05 * _noise(rng, (rows, columns), 6.0)
    loud = ground.patches_db * _noise(rng, (rows, columns), 25.0)
    if ground.ripple_m > 0:
        along = np.arange(rows)[:, None] * _CELL_M
        turn, wave = rng.uniform(0, math.pi), rng.uniform(0.7, 1.8)
        phase = 2 * math.pi / wave * (along * math.cos(turn) + aside[None, :] * math.sin(turn))
        phase += 2.0 * _noise(rng, (rows, columns), 20.0)
        where = np.clip(_noise(rng, (rows, columns), 50.0) + 0.3, 0, 1.2)
        height += ground.ripple_m * where * np.sin(phase)
    _add_stones(height, loud, ground, rng)
    depth = ground.depth_m + ground.slope * aside[None, :] - height
    depth += ground.ledge_m * (1 / (1 + np.exp(-(aside[None, :] - ground.ledge_aside_m) / 0.4)))
    depth = np.maximum(depth, 1.2).astype(np.float32)
    look = _field(depth, reach)
    shades = _field(loud.astype(np.float32), reach)
    swing = rng.uniform(0, 6.0, 2)
    scene = Scene(
        title=f"broken {seed}",
        origin=Position(44.2048, -40.0572),
        start_time=1786785000.0,
        speed_mps=lambda t: ground.speed_mps * (1 + 0.06 * np.sin(t / 17.0 + swing[0])),
        heading_deg=lambda t: 30.0 + 4.0 * np.sin(t / 21.0 + swing[1]),
        seconds=ground.seconds,
        bottom_m=lambda x: look(x, np.zeros(np.shape(x))),
        roughness_db=lambda x: -27.0 + 0.0 * x,
        fish=tuple(_fish(ground, look, rng)),
        clutter_m=1.0,
        sounder=Sounder(range_m=1.3 * ground.depth_m + 3, samples=200),
        side=ground.sounder,
        floor_m=look,
        bed_db=shades,
        roll_deg=lambda t: ground.roll_deg * np.sin(t / 1.1),
    )
    over = {f.index: f.over_db for f in fish_seen(scene)}
    wanted = {k: rng.uniform(5.0, 21.0) if db < 25.0 else db for k, db in over.items()}
    fish = (
        replace(f, strength_db=f.strength_db + wanted[k] - over[k]) for k, f in enumerate(scene.fish) if k in over
    )
    return replace(scene, fish=tuple(fish))


def _noise(rng: np.random.Generator, shape: tuple[int, int], wide_m: float) -> Floats:
    """Smooth noise of spread one that changes over so many metres."""
    step = max(wide_m / 4, _CELL_M)
    small = rng.normal(size=(int(shape[0] * _CELL_M / step) + 8, int(shape[1] * _CELL_M / step) + 8))
    small = ndimage.gaussian_filter(small, 1.3)
    small /= small.std()
    r = np.arange(shape[0]) * _CELL_M / step + 3
    c = np.arange(shape[1]) * _CELL_M / step + 3
    low_r, low_c = r.astype(int), c.astype(int)
    f, g = (r - low_r)[:, None], (c - low_c)[None, :]
    rows = small[low_r] * (1 - f) + small[low_r + 1] * f
    return np.asarray(rows[:, low_c] * (1 - g) + rows[:, low_c + 1] * g)


def _add_stones(height: Floats, loud: Floats, ground: Ground, rng: np.random.Generator) -> None:
    """Domes that stand on the bottom, louder than it."""
    rows, columns = height.shape
    count = rng.poisson(ground.stones * rows * columns * _CELL_M**2 / 1000.0)
    for _ in range(count):
        radius = rng.uniform(*ground.stone_m)
        r0, c0 = rng.uniform(0, rows), rng.uniform(0, columns)
        n = int(radius / _CELL_M) + 1
        r = np.arange(max(int(r0) - n, 0), min(int(r0) + n + 1, rows))
        c = np.arange(max(int(c0) - n, 0), min(int(c0) + n + 1, columns))
        off = np.hypot((r - r0)[:, None], (c - c0)[None, :]) * _CELL_M / radius
        dome = np.sqrt(np.clip(1 - off**2, 0, 1))
        height[np.ix_(r, c)] += rng.uniform(0.4, 1.1) * radius * dome
        loud[np.ix_(r, c)] += rng.uniform(2.0, 8.0) * (off < 1)


def _field(values: np.ndarray, reach: float) -> Callable[[Floats, Floats], Floats]:
    """A grid as a function of the way and of the distance to starboard, straight between its cells."""

    def at(along: Floats, aside: Floats) -> Floats:
        r = np.clip(np.asarray(along, float) / _CELL_M + 100, 0, values.shape[0] - 1.001)
        c = np.clip((np.asarray(aside, float) + reach) / _CELL_M - 0.5, 0, values.shape[1] - 1.001)
        i, j = r.astype(int), c.astype(int)
        f, g = r - i, c - j
        low = values[i, j] * (1 - g) + values[i, j + 1] * g
        high = values[i + 1, j] * (1 - g) + values[i + 1, j + 1] * g
        return np.asarray(low * (1 - f) + high * f)

    return at


def _fish(ground: Ground, floor: Callable[[Floats, Floats], Floats], rng: np.random.Generator) -> list[Swimmer]:
    out = []
    sizes = (0.15, 0.22, 0.3, 0.4, 0.52, 0.7, 0.95)
    for along in np.sort(rng.uniform(4.0, ground.seconds * ground.speed_mps - 6.0, ground.fish)):
        aside = float(rng.choice([-1, 1]) * rng.uniform(1.0, 0.92 * ground.sounder.range_m))
        depth = float(floor(np.array([along]), np.array([aside]))[0])
        off = float(rng.exponential(1.4)) + 0.25 if rng.random() < 0.6 else float(rng.uniform(0.5, 0.85 * depth))
        off = min(off, 0.85 * depth)
        length = float(rng.choice(sizes))
        strength = 20 * math.log10(length) - 26.0 + float(rng.normal(0, 3.0))
        out.append(
            Swimmer(
                along_m=float(along),
                aside_m=aside,
                depth_m=depth - off,
                strength_db=strength,
                length_m=length,
                thick_m=0.35 * length * float(rng.uniform(0.0, 1.0)),
            )
        )
    return out


def fish_seen(scene: Scene) -> list[SeenFish]:
    """What the fans of a scene meet of its fish, with how much each stands out."""
    sounder = scene.side
    assert sounder is not None
    fine = np.arange(0.0, scene.seconds, 1.0 / sounder.pings_per_s)
    path = path_of(scene, fine)
    ranges: Floats = 0.1 + sounder.range_m / sounder.samples * np.arange(sounder.samples, dtype=np.float64)
    bare = replace(scene, fish=())
    theta = math.radians(sounder.beam_width_along_deg)
    out = []
    for number, fish in enumerate(scene.fish):
        sign = 1.0 if fish.aside_m >= 0 else -1.0
        across, below = abs(fish.aside_m), fish.depth_m - sounder.draft_m
        reach = math.hypot(across, below)
        k = int(np.abs(path.along_m - fish.along_m).argmin())
        if reach > ranges[-1] or not 2 <= k < fine.size - 2:
            continue
        few = path_of(scene, fine[k - 1 : k + 2])
        j = int((reach - ranges[0]) / (ranges[1] - ranges[0]))
        around = side_power(bare, sounder, few, sign, ranges)[1, max(j - 6, 0) : j + 7]
        half = math.radians(sounder.beam_width_across_deg)
        gain = math.exp(-2.8 * ((math.atan2(across, below) - math.radians(60.0)) / half) ** 2)
        peak = (gain * 10 ** ((fish.strength_db + 3.0) / 20) * reach**-2.0) ** 2
        over = 10 * math.log10(peak / (float(around.mean()) + 10 ** (sounder.noise_db / 10)))
        per_ping = abs(float(path.along_m[min(k + 1, fine.size - 1)] - path.along_m[k - 1])) / 2
        bed = float(scene.floor(np.array([fish.along_m]), np.array([fish.aside_m]))[0])
        here = float(scene.floor(np.array([fish.along_m]), np.array([0.0]))[0]) - sounder.draft_m
        out.append(
            SeenFish(
                index=number,
                time=scene.start_time + float(fine[k]),
                side="starboard" if sign > 0 else "port",
                slant_m=reach,
                ground_m=across,
                on_bottom_m=math.sqrt(max(reach**2 - here**2, 0.0)),
                height_m=bed - fish.depth_m,
                over_db=over,
                pings=2.4 * reach * theta / max(per_ping, 1e-3),
                under_boat=across < max(0.35 * below, 1.0),
            )
        )
    return out
