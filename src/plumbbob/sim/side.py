"""
The fans to the side over a scene, from geometry: what each sample of slant range meets, and what stands in its way.

The bottom across the track is a fine row of facets; a facet is hidden where something nearer to the boat reaches a
flatter angle, so shadows are not drawn, they come out. Fish echo by themselves and hide the facets behind them.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from plumbbob.core.sonar.recording import EchoArray, Mount, Side
from plumbbob.core.types import Floats
from plumbbob.sim.scene import Path, Scene, SideSounder, path_of
from plumbbob.sim.sound import envelope, speckle, to_bytes

_FACET_M = 0.05
_FISH_LENGTH_M, _FISH_HEIGHT_M = 0.45, 0.14
_IN_SHADOW = 0.01


def simulate_side(scene: Scene, rng: np.random.Generator) -> Side | None:
    """Both sides of one pass; None where the scene has no such sounder."""
    sounder = scene.side
    if sounder is None:
        return None
    count = int(scene.seconds * sounder.pings_per_s)
    time = np.arange(count) / sounder.pings_per_s + rng.normal(0, 0.02 / sounder.pings_per_s, count)
    path = path_of(scene, time)
    step = sounder.range_m / sounder.samples
    ranges: Floats = 0.1 + step * np.arange(sounder.samples, dtype=np.float64)
    pulse = envelope(scene.sounder.sound_speed_mps * sounder.pulse_length_s / 2 / step)
    offset = sounder.noise_db + 6.0
    tvg = 20.0 * np.log10(ranges)
    sides = []
    for sign in (-1.0, 1.0):
        power = np.stack([_bottom(scene, sounder, path, k, sign, ranges) for k in range(count)])
        near = 10 ** ((sounder.noise_db + 52 - 22.0 * ranges) / 10)
        field = speckle(power + near[None, :], pulse, sounder.noise_db, rng)
        _add_fish(field, scene, sounder, path, sign, ranges, pulse, rng)
        sides.append(to_bytes(field, tvg[None, :], offset, sounder.scale_db))
    return Side(
        time=scene.start_time + time,
        range_start_m=np.full(count, 0.1),
        range_step_m=np.full(count, step),
        scale_db=sounder.scale_db,
        offset_db=offset,
        frequency_hz=sounder.frequency_hz,
        pulse_length_s=sounder.pulse_length_s,
        tvg="20logR",
        mount=Mount(depth_m=sounder.draft_m, forward_m=sounder.forward_m, starboard_m=sounder.starboard_m),
        sound_speed_mps=scene.sounder.sound_speed_mps,
        port=EchoArray(sides[0]),
        starboard=EchoArray(sides[1]),
        beam_width_along_deg=sounder.beam_width_along_deg,
        beam_width_across_deg=sounder.beam_width_across_deg,
    )


def _bottom(scene: Scene, sounder: SideSounder, path: Path, k: int, sign: float, ranges: Floats) -> Floats:
    """Mean power of the bottom and all that rises from it, shape (samples,)."""
    along = path.along_m[k]
    across = np.arange(_FACET_M / 2, sounder.range_m, _FACET_M)
    depth = scene.floor(np.full(across.size, along), sign * across) - sounder.draft_m
    loud = np.full(across.size, sounder.bottom_db) + scene.roughness_db(np.full(across.size, along)) + 27.0
    loud += 1.5 * np.sin(across / 2.3 + along / 3.1) * np.sin(along / 4.7)
    for rise in scene.rises:
        here = abs(along - rise.along_m - rise.length_m / 2) < rise.length_m / 2
        if here:
            inside = np.abs(across - sign * rise.aside_m) < rise.width_m / 2
            depth = np.where(inside, depth - rise.height_m, depth)
            loud = np.where(inside, loud + rise.loud_db, loud)
    angle = np.arctan2(across, depth)
    shown = angle >= np.maximum.accumulate(np.concatenate(([-1.0], angle[:-1]))) - 1e-9
    light = np.where(shown, 1.0, _IN_SHADOW)
    for fish in scene.fish:
        if sign * fish.aside_m < 0.5 or abs(fish.along_m - along) > _FISH_LENGTH_M / 2:
            continue
        below = fish.depth_m - sounder.draft_m
        reach = math.hypot(fish.aside_m, below)
        at, wide = math.atan2(abs(fish.aside_m), below), _FISH_HEIGHT_M / reach
        light = np.where((np.abs(angle - at) < wide) & (np.hypot(across, depth) > reach), _IN_SHADOW, light)
    slant = np.hypot(across, depth)
    area = _FACET_M * slant * math.radians(sounder.beam_width_along_deg)
    # loudest square on (near nadir), then by Lambert's law
    grazing = depth / slant
    strength = 10 ** (loud / 10) * (grazing**2 + 0.02) * (1.0 + 8.0 * np.exp(-(((1 - grazing) / 0.02) ** 2)))
    half = math.radians(sounder.beam_width_across_deg)
    pattern = np.exp(-2.8 * ((angle - math.radians(60.0)) / half) ** 2)
    level = strength * area * pattern * light * slant**-4.0 * 10 ** (-0.0045 * slant)
    index = np.rint((slant - ranges[0]) / (ranges[1] - ranges[0])).astype(int)
    good = (index >= 0) & (index < ranges.size)
    return np.bincount(index[good], level[good], minlength=ranges.size).astype(np.float64)


def _add_fish(
    field: NDArray[np.complex64],
    scene: Scene,
    sounder: SideSounder,
    path: Path,
    sign: float,
    ranges: Floats,
    pulse: Floats,
    rng: np.random.Generator,
) -> None:
    half = pulse.size // 2
    step = float(ranges[1] - ranges[0])
    theta = math.radians(sounder.beam_width_along_deg)
    for fish in scene.fish:
        off = path.along_m - fish.along_m
        across = fish.aside_m * sign
        below = fish.depth_m - sounder.draft_m
        reach = math.hypot(across, below)
        # a fan looks a little beyond straight down, so a fish under the boat shows on both sides
        angle = math.atan2(across, below)
        across_gain = math.exp(
            -2.8 * ((angle - math.radians(60.0)) / math.radians(sounder.beam_width_across_deg)) ** 2
        )
        if across < -0.3 * below:
            continue
        along_gain = np.exp(-2.8 * (np.arctan2(off, reach) / theta) ** 2)
        hit = np.flatnonzero(along_gain > 0.05)
        if not hit.size:
            continue
        r = np.hypot(reach, off[hit])
        amplitude = along_gain[hit] * across_gain * 10 ** ((fish.strength_db + 3.0) / 20) * r**-2.0
        turn = rng.normal(0, 0.15, hit.size)
        phase = np.exp(1j * (2 * np.pi * (2 * r * sounder.frequency_hz / 1476.0 % 1.0) + turn))
        index = np.rint((r - ranges[0]) / step).astype(int)
        for j in range(-half, half + 1):
            at = index + j
            good = (at >= 0) & (at < ranges.size)
            field[hit[good], at[good]] += (amplitude * phase * pulse[j + half])[good]
