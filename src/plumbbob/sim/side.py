"""
The fans to the side over a scene, from geometry: what each sample of slant range meets, and what stands in its way.

The bottom across the track is a fine row of facets; a facet is hidden where something nearer to the boat reaches a
flatter angle, so shadows are not drawn, they come out. Fish echo by themselves and hide the facets behind them.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from plumbbob.core.sonar.recording import EchoArray, Mount, Side
from plumbbob.core.types import Floats
from plumbbob.sim.scene import Path, Scene, SideSounder, path_of
from plumbbob.sim.side_weed import weed_echo
from plumbbob.sim.sound import envelope, speckle, to_bytes

_FACET_M = 0.05
_FISH_HEIGHT = 0.3  # of its length
_GLINT = 0.12  # so much of its length to either side of its middle returns the same
_BAND = 20  # samples that the fan's width is taken as one for
_IN_SHADOW = 0.01
_UNDER_BAIT = 0.15  # what passes a ball of bait and comes back


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
    wide = sounder.sound_speed_mps * sounder.pulse_length_s / 2 / step
    pulse, fine = envelope(wide), envelope(wide * sounder.speckle_share)
    tvg = {"none": 0.0, "20logR": 20.0, "40logR": 40.0}[sounder.tvg] * np.log10(ranges)
    offset = sounder.noise_db + 6.0 + float(tvg[-1] - 20.0 * np.log10(ranges[-1])) / 2
    sides = []
    for sign in (-1.0, 1.0):
        power = side_power(scene, sounder, path, sign, ranges)
        if math.isfinite(sounder.grain):  # few large scatterers in a cell: K-distributed speckle
            power *= rng.gamma(sounder.grain, 1.0 / sounder.grain, power.shape)
        field = speckle(power, fine, sounder.noise_db, rng)
        _add_fish(field, scene, sounder, path, sign, ranges, pulse, rng)
        louder = tvg + (sounder.starboard_db if sign > 0 else 0.0)
        sides.append(to_bytes(field, louder[None, :], offset, sounder.scale_db))
    return Side(
        time=scene.start_time + time,
        range_start_m=np.full(count, 0.1),
        range_step_m=np.full(count, step),
        scale_db=sounder.scale_db,
        offset_db=offset,
        frequency_hz=sounder.frequency_hz,
        pulse_length_s=sounder.pulse_length_s,
        tvg=sounder.tvg,
        mount=Mount(depth_m=sounder.draft_m, forward_m=sounder.forward_m, starboard_m=sounder.starboard_m),
        sound_speed_mps=sounder.sound_speed_mps,
        port=EchoArray(sides[0]),
        starboard=EchoArray(sides[1]),
        beam_width_along_deg=sounder.beam_width_along_deg,
        beam_width_across_deg=sounder.beam_width_across_deg,
    )


def side_power(scene: Scene, sounder: SideSounder, path: Path, sign: float, ranges: Floats) -> Floats:
    """Mean power of the bottom, of all that rises from it and of the ringing, shape (pings, samples)."""
    power = np.stack([_bottom(scene, sounder, path, k, sign, ranges) for k in range(path.time.size)])
    near = 10 ** ((sounder.noise_db + 52 - 22.0 * ranges) / 10)
    return _along_the_fan(power, sounder, path, ranges) + near[None, :]


def _along_the_fan(power: Floats, sounder: SideSounder, path: Path, ranges: Floats) -> Floats:
    """A fan hears a stretch of the way at once, the longer the farther: each range averaged over its width."""
    if path.time.size < 3:
        return power
    per_ping = max(float(np.median(np.diff(path.along_m))), 1e-3)
    sd = ranges * math.radians(sounder.beam_width_along_deg) / 2.355 / math.sqrt(2) / per_ping
    out = power.copy()
    for first in range(0, ranges.size, _BAND):
        part = slice(first, first + _BAND)
        wide = float(sd[part].mean())
        if wide > 0.3:
            out[:, part] = ndimage.gaussian_filter1d(power[:, part], wide, axis=0, mode="nearest")
    return out


def _bottom(scene: Scene, sounder: SideSounder, path: Path, k: int, sign: float, ranges: Floats) -> Floats:
    """Mean power of the bottom and all that rises from it on one line across, shape (samples,)."""
    along = path.along_m[k]
    across = np.arange(_FACET_M / 2, sounder.range_m, _FACET_M)
    way = np.full(across.size, along)
    depth = scene.floor(way, sign * across) - sounder.draft_m
    loud = np.full(across.size, sounder.bottom_db) + scene.roughness_db(way) + 27.0
    if scene.bed_db is not None:
        loud += scene.bed_db(way, sign * across)
    else:
        loud += 1.5 * np.sin(across / 2.3 + along / 3.1) * np.sin(along / 4.7)
    rising = np.gradient(depth, _FACET_M) if scene.floor_m is not None else np.zeros(across.size)
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
        if sign * fish.aside_m < 0.5 or abs(fish.along_m - along) > fish.length_m / 2:
            continue
        below = fish.depth_m - sounder.draft_m
        reach = math.hypot(fish.aside_m, below)
        at, wide = math.atan2(abs(fish.aside_m), below), _FISH_HEIGHT * fish.length_m / reach
        light = np.where((np.abs(angle - at) < wide) & (np.hypot(across, depth) > reach), _IN_SHADOW, light)
    hidden, bait = _bait(scene, sounder, along, sign, angle, ranges)
    light = light * np.where(np.hypot(across, depth) > hidden, _UNDER_BAIT, 1.0)
    veil, weed_m, weed_angle, weed_db = weed_echo(scene.weed, along, sign * across, depth, angle)
    light = light * veil
    slant = np.hypot(across, depth)
    area = _FACET_M * slant * math.radians(sounder.beam_width_along_deg)
    # loudest square on, then by Lambert's law; a face that is turned to the boat is met more squarely
    face = np.sqrt(1.0 + rising**2)
    grazing = np.clip((depth - across * rising) / slant / face, 0.0, 1.0)
    strength = 10 ** (loud / 10) * (grazing**2 + 0.02) * (1.0 + 8.0 * np.exp(-(((1 - grazing) / 0.02) ** 2)))
    half = math.radians(sounder.beam_width_across_deg)
    roll = math.radians(float(scene.roll_deg(path.time[k : k + 1])[0])) * sign
    pattern = np.exp(-2.8 * ((angle - math.radians(60.0) + roll) / half) ** 2)
    level = strength * area * face * pattern * light * slant**-4.0 * 10 ** (-0.0045 * slant)
    power = _binned(slant, level, ranges)
    if weed_m.size:
        shown = np.exp(-2.8 * ((weed_angle - math.radians(60.0) + roll) / half) ** 2)
        spread = _FACET_M * weed_m * math.radians(sounder.beam_width_along_deg)
        stems = 10 ** ((sounder.bottom_db + weed_db) / 10) * spread * shown * weed_m**-4.0
        power += _binned(weed_m, stems * 10 ** (-0.0045 * weed_m), ranges)
    return power + bait


def _binned(slant_m: Floats, power: Floats, ranges: Floats) -> Floats:
    """Power summed into samples of range."""
    index = np.rint((slant_m - ranges[0]) / (ranges[1] - ranges[0])).astype(int)
    good = (index >= 0) & (index < ranges.size)
    return np.bincount(index[good], power[good], minlength=ranges.size).astype(np.float64)


def _bait(
    scene: Scene, sounder: SideSounder, along: float, sign: float, angle: Floats, ranges: Floats
) -> tuple[Floats, Floats]:
    """Range from which each angle is dimmed by bait, infinite where it is not, and the bait's own mean power."""
    hidden = np.full(angle.size, np.inf)
    power = np.zeros(ranges.size)
    theta = math.radians(sounder.beam_width_along_deg)
    for cloud in scene.bait:
        u = (along - cloud.along_m) / (cloud.length_m / 2)
        if abs(u) >= 1 or sign * cloud.aside_m < -cloud.length_m:
            continue
        part = math.sqrt(1 - u**2)
        y, z = np.meshgrid(np.linspace(-1, 1, 25), np.linspace(-1, 1, 17))
        inside = np.hypot(y, z) < 1
        x = sign * cloud.aside_m + y[inside] * part * cloud.length_m / 2
        below = cloud.depth_m - sounder.draft_m + z[inside] * part * cloud.height_m / 2
        r, a = np.hypot(x, below), np.arctan2(x, below)
        seen = 1.5 * cloud.count * min(float(r.mean()) * theta / cloud.length_m, 1.0) * part**2 / r.size
        gain = np.exp(-2.8 * ((a - math.radians(60.0)) / math.radians(sounder.beam_width_across_deg)) ** 2) ** 2
        power += _binned(r, seen * gain * 10 ** ((cloud.strength_db + 3.0) / 10) * r**-4.0, ranges)
        behind = (angle > a.min()) & (angle < a.max())
        hidden[behind] = np.minimum(hidden[behind], float(r.max()))
    return hidden, power


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
        off = np.sign(off) * np.maximum(np.abs(off) - _GLINT * fish.length_m, 0.0)  # it shines along its side
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
        amplitude *= 10 ** (rng.normal(0, sounder.flicker_db, hit.size) / 20)
        turn = rng.normal(0, 0.15, hit.size)
        phase = np.exp(1j * (2 * np.pi * (2 * r * sounder.frequency_hz / sounder.sound_speed_mps % 1.0) + turn))
        index = np.rint((r - ranges[0]) / step).astype(int)
        parts = max(round(fish.thick_m / step), 1)
        for part in range(parts):
            glint = np.exp(2j * np.pi * rng.random()) if part else 1.0
            for j in range(-half, half + 1):
                at = index + j + part
                good = (at >= 0) & (at < ranges.size)
                field[hit[good], at[good]] += (amplitude * phase * glint * pulse[j + half])[good]
