"""The fan that looks ahead over a scene: bottom and surface along its plane, fish and a lure in it."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from plumbbob.core.sonar.recording import EchoArray, Forward, Mount
from plumbbob.core.types import Floats
from plumbbob.sim.scene import Path, Scene, path_of
from plumbbob.sim.sound import envelope, speckle, to_bytes

_FACET_M = 0.05


def simulate_forward(scene: Scene, rng: np.random.Generator) -> Forward | None:
    """Frames of one pass; None where the scene has no such sounder."""
    sounder = scene.forward
    if sounder is None:
        return None
    count = int(scene.seconds * sounder.frames_per_s)
    time: Floats = np.arange(count, dtype=np.float64) / sounder.frames_per_s
    path = path_of(scene, time)
    angles = np.linspace(1.0, 89.0, sounder.beams)
    step = sounder.range_m / sounder.samples
    ranges: Floats = 0.3 + step * np.arange(sounder.samples, dtype=np.float64)
    pulse = envelope(scene.sounder.sound_speed_mps * sounder.pulse_length_s / 2 / step)
    azimuth = sounder.azimuth_deg(time)
    offset = sounder.noise_db + 6.0
    tvg = 20.0 * np.log10(ranges)
    echo = np.empty((count, sounder.beams, sounder.samples), np.uint8)
    for k in range(count):
        power = _scatter(scene, path, k, float(azimuth[k]), angles, ranges)
        field = speckle(power, pulse, sounder.noise_db, rng)
        _add_targets(field, scene, path, k, float(azimuth[k]), angles, ranges, pulse, rng)
        echo[k] = to_bytes(field, tvg[None, :], offset, sounder.scale_db)
    return Forward(
        time=scene.start_time + time,
        range_start_m=np.full(count, 0.3),
        range_step_m=np.full(count, step),
        scale_db=sounder.scale_db,
        offset_db=offset,
        frequency_hz=sounder.frequency_hz,
        pulse_length_s=sounder.pulse_length_s,
        tvg="20logR",
        mount=Mount(depth_m=sounder.draft_m, forward_m=sounder.forward_m, starboard_m=sounder.starboard_m),
        sound_speed_mps=scene.sounder.sound_speed_mps,
        beam_angle_deg=angles,
        azimuth_deg=azimuth,
        echo=EchoArray(echo),
        beam_width_deg=sounder.beam_width_deg,
    )


def _gain(off_deg: Floats, width_deg: float) -> Floats:
    """Two-way power of a Gaussian beam."""
    return np.exp(-4 * math.log(2) * (off_deg / width_deg) ** 2 * 2)


def _scatter(scene: Scene, path: Path, k: int, azimuth: float, angles: Floats, ranges: Floats) -> Floats:
    """Mean power of bottom, surface and ringing, shape (beams, samples)."""
    sounder = scene.forward
    assert sounder is not None
    ahead = np.arange(_FACET_M / 2, sounder.range_m, _FACET_M)
    turned = math.radians(azimuth)
    depth = scene.floor(path.along_m[k] + ahead * math.cos(turned), ahead * math.sin(turned)) - sounder.draft_m
    power = np.zeros((angles.size, ranges.size))
    step = float(ranges[1] - ranges[0])
    faces = [(depth, sounder.bottom_db), (np.full(ahead.size, -sounder.draft_m), -52.0)]
    if math.isfinite(sounder.second_echo_db):
        faces.append((2 * depth + sounder.draft_m, sounder.bottom_db + sounder.second_echo_db))
    for below, loud in faces:
        slant = np.hypot(ahead, below)
        down = np.degrees(np.arctan2(below, ahead))
        facing = np.clip(np.abs(below) / slant, 0.02, 1.0)
        area = _FACET_M * slant * math.radians(sounder.fan_width_deg)
        level = 10 ** (loud / 10) * facing**1.5 * area * slant**-4.0
        index = np.rint((slant - ranges[0]) / step).astype(int)
        good = (index >= 0) & (index < ranges.size)
        gain = _gain(angles[:, None] - down[None, good], sounder.beam_width_deg) + sounder.lobe
        for b in range(angles.size):
            power[b] += np.bincount(index[good], gain[b] * level[good], minlength=ranges.size)
    return power + 10 ** ((sounder.noise_db + 48 - 26.0 * ranges) / 10)


def _add_targets(
    field: NDArray[np.complex64],
    scene: Scene,
    path: Path,
    k: int,
    azimuth: float,
    angles: Floats,
    ranges: Floats,
    pulse: Floats,
    rng: np.random.Generator,
) -> None:
    sounder = scene.forward
    assert sounder is not None
    now = np.array([path.time[k]])
    half, step = pulse.size // 2, float(ranges[1] - ranges[0])
    for target in scene.ahead:
        if not target.start_s <= now[0] <= target.end_s:
            continue
        ahead = float(target.ahead_m(now)[0]) - float(path.along_m[k])
        aside, below = float(target.aside_m(now)[0]), float(target.depth_m(now)[0]) - sounder.draft_m
        flat = math.hypot(ahead, aside)
        r = math.hypot(flat, below)
        off = math.degrees(math.atan2(aside, ahead)) - azimuth
        level = target.strength_db + rng.normal(0, 1.5)
        side = float(_gain(np.array([off]), sounder.fan_width_deg)[0])
        up = _gain(angles - math.degrees(math.atan2(below, flat)), sounder.beam_width_deg) + sounder.lobe
        amplitude = np.sqrt(10 ** (level / 10) * side * up) * r**-2.0
        phase = np.exp(2j * np.pi * rng.uniform())
        index = round((r - ranges[0]) / step)
        for j in range(-half, half + 1):
            if 0 <= index + j < ranges.size:
                field[:, index + j] += amplitude * phase * pulse[j + half]
