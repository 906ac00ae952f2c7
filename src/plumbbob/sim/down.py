"""
A down-looking sounder over a scene, from physics: spreading, absorption, beam, pulse, speckle, noise.

Every ping is the sum of what echoes: bottom facets inside the beam, the bottom's second echo, weak layers, weed,
bubbles at the surface (all as random scatter with a mean power) and fish and bait as single targets with a phase.
Arcs, dead zones and thick slopes are not drawn, they come out. The same seed gives the same recording.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from plumbbob.core.geodesy import along_heading
from plumbbob.core.sonar.beam import one_way_gain, piston_ka
from plumbbob.core.sonar.recording import Down, EchoArray, Mount, Recording, Track
from plumbbob.core.types import Floats
from plumbbob.sim.ahead import simulate_forward
from plumbbob.sim.scene import Path, Scene, Sounder, path_of, place_of
from plumbbob.sim.side import simulate_side
from plumbbob.sim.sound import envelope, speckle, to_bytes

_BLOCK = 512
_FIX_INTERVAL_S = 0.5


@dataclass(frozen=True, slots=True, eq=False)
class _Targets:
    """Single targets: places at the time they are met, and their strength."""

    east: Floats
    north: Floats
    depth: Floats
    strength: Floats
    drift_east: Floats
    drift_north: Floats
    met: Floats  # time since start


def simulate(
    scene: Scene, seed: int, *, progress: Callable[[float], None] = lambda fraction: None
) -> tuple[Recording, dict[str, Any]]:
    """
    One pass over a scene.

    Returns
    -------
    recording : Recording
    truth : dict
        What is really there, as plain numbers.
    """
    rng = np.random.default_rng(seed)
    sounder = scene.sounder
    count = int(scene.seconds * sounder.pings_per_s)
    time = np.arange(count) / sounder.pings_per_s + rng.normal(0, 0.02 / sounder.pings_per_s, count)
    path = path_of(scene, time)
    targets = _targets(scene, rng)
    step = sounder.range_m / sounder.samples
    ranges: Floats = 0.1 + step * np.arange(sounder.samples, dtype=np.float64)
    echo = np.empty((count, sounder.samples), np.uint8)
    tilt = np.radians(ndimage.gaussian_filter1d(rng.normal(0, 1, (2, count)), 8, axis=1) * 6.0)
    clutter = _clutter_extent(scene, count, rng)
    for start in range(0, count, _BLOCK):
        rows = slice(start, min(start + _BLOCK, count))
        power = _scatter_power(scene, path, ranges, rows, clutter[rows])
        field = speckle(power, _pulse(sounder, step), sounder.noise_db, rng)
        _add_targets(field, targets, path, tilt, ranges, rows, sounder, step)
        _add_hung(field, scene, path.time[rows], ranges, step)
        echo[rows] = to_bytes(field, _tvg(sounder, ranges)[None, :], _offset_db(sounder), sounder.scale_db)
        progress(rows.stop / count)
    side, forward = simulate_side(scene, rng), simulate_forward(scene, rng)
    recording = Recording(
        name=scene.title,
        title=scene.title,
        views=("down", *(("side",) if side else ()), *(("forward",) if forward else ())),
        side=side,
        forward=forward,
        track=_track(scene, rng),
        down=Down(
            time=scene.start_time + time,
            range_start_m=np.full(count, 0.1),
            range_step_m=np.full(count, step),
            echo=EchoArray(echo),
            scale_db=sounder.scale_db,
            offset_db=_offset_db(sounder),
            frequency_hz=sounder.frequency_hz,
            beam_width_deg=sounder.beam_width_deg,
            pulse_length_s=sounder.pulse_length_s,
            tvg=sounder.tvg,
            mount=Mount(depth_m=sounder.draft_m, forward_m=sounder.forward_m, starboard_m=sounder.starboard_m),
            sound_speed_mps=sounder.sound_speed_mps,
        ),
    )
    return recording, _truth(scene, path)


def _offset_db(sounder: Sounder) -> float:
    return sounder.noise_db + (2.0 if sounder.tvg == "none" else 6.0)


def _tvg(sounder: Sounder, ranges: Floats) -> Floats:
    return {"none": 0.0, "20logR": 20.0, "40logR": 40.0}[sounder.tvg] * np.log10(ranges)


def _spread(sounder: Sounder, ranges: Floats, factor: float) -> Floats:
    """Echo power factor of range: 10^(-(factor log R + 2 alpha R)/10)."""
    return 10 ** (-(factor * np.log10(ranges) + 2 * sounder.absorption_db_per_m * ranges) / 10)


def _clutter_extent(scene: Scene, count: int, rng: np.random.Generator) -> Floats:
    """How deep bubbles reach at each ping: a slowly wandering depth with plumes."""
    slow = ndimage.gaussian_filter1d(rng.normal(0, 1, count), 25) * 5.0
    quick = ndimage.gaussian_filter1d(rng.normal(0, 1, count), 5) * 3.0
    return scene.clutter_m * np.clip(0.75 + 0.18 * slow + 0.2 * quick, 0.35, 2.2)


def _scatter_power(scene: Scene, path: Path, ranges: Floats, rows: slice, clutter: Floats) -> Floats:
    """Mean power of everything that is random scatter, shape (pings, samples)."""
    sounder = scene.sounder
    along = path.along_m[rows]
    depth = ranges + sounder.draft_m
    power = np.zeros((along.size, ranges.size))
    psi = 5.78 / piston_ka(sounder.beam_width_deg) ** 2
    volume = sounder.sound_speed_mps * sounder.pulse_length_s / 2 * psi
    bottom = scene.bottom_m(along)
    open_water = depth[None, :] < bottom[:, None]
    per_volume = _spread(sounder, ranges, 20.0) * volume
    # bubbles: loud at the surface, gone at the plume's foot
    decay = np.exp(-3.0 * depth[None, :] / np.maximum(clutter[:, None], 0.2))
    power += 10 ** (-41 / 10) * per_volume * decay * (depth[None, :] < 1.3 * clutter[:, None])
    if scene.layer is not None:
        off = depth[None, :] - scene.layer.depth_m(along)[:, None]
        shape = np.exp(-0.5 * (off / (0.42 * scene.layer.thickness_m)) ** 2)
        power += 10 ** (scene.layer.strength_db / 10) * per_volume * shape * open_water
    for stand in scene.stands:
        inside = (along > stand.along_m) & (along < stand.along_m + stand.length_m)
        if inside.any():
            ragged = 0.75 + 0.25 * np.sin(7.1 * along) * np.sin(2.3 * along + 1.0)
            over = (bottom[:, None] - depth[None, :]) / np.maximum(stand.height_m * ragged, 0.1)[:, None]
            body = (over > 0) & (over < 1) & inside[:, None]
            power += 10 ** (-47 / 10) * per_volume * body * (1.2 - np.clip(over, 0, 1))
    power += _bottom_power(scene, along, ranges)
    # the transducer rings after its pulse, 90 dB down a metre
    power += 10 ** ((sounder.noise_db + 78 - 90.0 * ranges) / 10)
    return power


def _bottom_power(scene: Scene, along: Floats, ranges: Floats) -> Floats:
    """First and second bottom echo: facets in the beam, put where their ranges fall."""
    sounder = scene.sounder
    step = float(ranges[1] - ranges[0])
    here = scene.bottom_m(along) - sounder.draft_m
    reach = np.tan(np.radians(sounder.beam_width_deg * 1.4))
    offsets = np.linspace(-1.0, 1.0, 33)
    first = np.zeros((along.size, ranges.size))
    second = np.zeros_like(first)
    rows = np.arange(along.size)
    facet = (reach * here * (offsets[1] - offsets[0])) ** 2
    for u in offsets:
        ahead = u * reach * here
        d = scene.bottom_m(along + ahead) - sounder.draft_m
        rough = 10 ** (scene.roughness_db(along + ahead) / 10)
        slope = (scene.bottom_m(along + ahead + 0.2) - scene.bottom_m(along + ahead - 0.2)) / 0.4
        for v in offsets[offsets >= 0]:
            aside = v * reach * here
            r = np.sqrt(ahead**2 + aside**2 + d**2)
            angle = np.arctan2(np.hypot(ahead, aside), d)
            if float(angle.min()) > math.radians(sounder.beam_width_deg * 1.4):
                continue
            gain = one_way_gain(angle, sounder.beam_width_deg) ** 2
            # how squarely the facet faces the beam: a bright lobe about its normal over rough diffuse scatter
            facing = np.clip((d - slope * ahead) / (r * np.sqrt(1 + slope**2)), 0.0, 1.0)
            strength = rough * (facing**2 * 0.15 + np.exp(-((np.arccos(facing) / 0.22) ** 2)))
            level = (1.0 if v == 0 else 2.0) * facet * strength * gain * _spread(sounder, r, 40.0)
            index = ((r - ranges[0]) / step).astype(int)
            good = (index >= 0) & (index < ranges.size)
            first[rows[good], index[good]] += level[good]
            twice = ((2 * r + sounder.draft_m - ranges[0]) / step).astype(int)
            good = (twice >= 0) & (twice < ranges.size)
            second[rows[good], twice[good]] += (0.25 * rough * level)[good]
    # sound goes into the bed and comes back late
    tail = np.exp(-np.arange(0, 1.4, step) / 0.16)
    tail /= tail[0]
    return ndimage.convolve1d(first, tail, axis=1, mode="constant", origin=-(tail.size // 2)) + ndimage.convolve1d(
        second, tail, axis=1, mode="constant", origin=-(tail.size // 2)
    )


def _pulse(sounder: Sounder, step: float) -> Floats:
    return envelope(sounder.sound_speed_mps * sounder.pulse_length_s / 2 / step)


def _targets(scene: Scene, rng: np.random.Generator) -> _Targets:
    columns: list[tuple[float, ...]] = []
    fine = np.arange(0.0, scene.seconds, 0.1)
    path = path_of(scene, fine)

    def add(along: float, aside: float, depth: float, strength: float, swims: tuple[float, float]) -> None:
        met = float(np.interp(along, path.along_m, fine))
        i = min(int(met / 0.1), fine.size - 1)
        east, north = along_heading(path.heading_deg[i], 0.0, aside)
        ahead_e, ahead_n = along_heading(path.heading_deg[i], swims[0], swims[1])
        at_e, at_n = np.interp(met, fine, path.east_m), np.interp(met, fine, path.north_m)
        columns.append(
            (float(at_e + east), float(at_n + north), depth, strength, float(ahead_e), float(ahead_n), met)
        )

    for fish in scene.fish:
        add(fish.along_m, fish.aside_m, fish.depth_m, fish.strength_db, fish.swims_mps)
    for cloud in scene.bait:
        spots = rng.normal(0, 1, (cloud.count, 3))
        spots *= (rng.uniform(0, 1, cloud.count) ** (1 / 3) / np.linalg.norm(spots, axis=1))[:, None]
        for a, b, c in spots:
            add(
                cloud.along_m + a * cloud.length_m / 2,
                cloud.aside_m + b * cloud.length_m / 2,
                cloud.depth_m + c * cloud.height_m / 2,
                cloud.strength_db + float(rng.normal(0, 2)),
                (0.0, 0.0),
            )
    table = np.asarray(columns, np.float64).reshape(-1, 7)
    return _Targets(*table.T)


def _add_targets(
    field: NDArray[np.complex64],
    targets: _Targets,
    path: Path,
    tilt: Floats,
    ranges: Floats,
    rows: slice,
    sounder: Sounder,
    step: float,
) -> None:
    if not targets.met.size:
        return
    time, east, north = path.time[rows], path.east_m[rows], path.north_m[rows]
    envelope = _pulse(sounder, step)
    half = envelope.size // 2
    reach = math.radians(min(2.6 * sounder.beam_width_deg, 60.0))
    wide = math.tan(reach)
    spans = (targets.depth * wide / 0.3) + 2.0
    near = (targets.met > time[0] - spans) & (targets.met < time[-1] + spans)
    for k in np.flatnonzero(near):
        since = time - targets.met[k]
        dx = targets.east[k] + targets.drift_east[k] * since - east
        dy = targets.north[k] + targets.drift_north[k] * since - north
        below = targets.depth[k] - sounder.draft_m
        flat = np.hypot(dx, dy)
        hit = np.flatnonzero(flat < below * wide)
        if not hit.size:
            continue
        r = np.hypot(flat[hit], below)
        heading = np.radians(path.heading_deg[rows][hit])
        ahead = dx[hit] * np.sin(heading) + dy[hit] * np.cos(heading) + below * tilt[0, rows][hit]
        aside = dx[hit] * np.cos(heading) - dy[hit] * np.sin(heading) + below * tilt[1, rows][hit]
        gain = one_way_gain(np.arctan2(np.hypot(ahead, aside), below), sounder.beam_width_deg)
        amplitude = gain * np.sqrt(10 ** (targets.strength[k] / 10) * _spread(sounder, r, 40.0))
        phase = np.exp(2j * np.pi * (2 * r * sounder.frequency_hz / sounder.sound_speed_mps % 1.0))
        index = np.rint((r - ranges[0]) / step).astype(int)
        for j in range(-half, half + 1):
            at = index + j
            good = (at >= 0) & (at < ranges.size)
            field[hit[good], at[good]] += (amplitude * phase * envelope[j + half])[good]


def _add_hung(field: NDArray[np.complex64], scene: Scene, time: Floats, ranges: Floats, step: float) -> None:
    """What stays under the boat: one echo a ping, its level wandering a little as it turns."""
    sounder = scene.sounder
    envelope = _pulse(sounder, step)
    half = envelope.size // 2
    for thing in scene.hung:
        hit = np.flatnonzero((time >= thing.start_s) & (time < thing.end_s))
        if not hit.size:
            continue
        since = time[hit] - thing.start_s
        below = np.maximum(thing.depth_m(since) - sounder.draft_m, 0.2)
        r = np.hypot(below, thing.aside_m)
        gain = one_way_gain(np.arctan2(thing.aside_m, below), sounder.beam_width_deg)
        turn = 10 ** (1.5 * np.sin(1.7 * since) / 20)
        amplitude = turn * gain * np.sqrt(10 ** (thing.strength_db / 10) * _spread(sounder, r, 40.0))
        phase = np.exp(2j * np.pi * (2 * r * sounder.frequency_hz / sounder.sound_speed_mps % 1.0))
        index = np.rint((r - ranges[0]) / step).astype(int)
        for j in range(-half, half + 1):
            at = index + j
            good = (at >= 0) & (at < ranges.size)
            field[hit[good], at[good]] += (amplitude * phase * envelope[j + half])[good]


def _track(scene: Scene, rng: np.random.Generator) -> Track:
    time = np.arange(-1.0, scene.seconds + 1.0, _FIX_INTERVAL_S)
    path = path_of(scene, time)
    sounder = scene.sounder
    # the antenna sits where the transducer is not
    east, north = along_heading(path.heading_deg, -sounder.forward_m, -sounder.starboard_m)
    wander = ndimage.gaussian_filter1d(rng.normal(0, 1, (2, time.size)), 30, axis=1) * 6.0
    latitude, longitude = place_of(scene, path.east_m + east + wander[0], path.north_m + north + wander[1])
    n = time.size
    return Track(
        time=scene.start_time + time,
        latitude=latitude,
        longitude=longitude,
        speed_mps=np.abs(path.speed_mps + rng.normal(0, 0.05, n)),
        heading_deg=(path.heading_deg + rng.normal(0, 1.0, n)) % 360,
        course_deg=(path.heading_deg + rng.normal(0, 2.0, n)) % 360,
        temperature_c=scene.temperature_c + rng.normal(0, 0.03, n),
    )


def _truth(scene: Scene, path: Path) -> dict[str, Any]:
    """What is really there: bottom under each ping, fish and bait with places, the layer."""
    fish = []
    for swimmer in scene.fish:
        met = float(np.interp(swimmer.along_m, path.along_m, path.time))
        heading = float(np.interp(met, path.time, path.heading_deg))
        east, north = along_heading(heading, 0.0, swimmer.aside_m)
        latitude, longitude = place_of(
            scene,
            np.interp(met, path.time, path.east_m) + east,
            np.interp(met, path.time, path.north_m) + north,
        )
        bed = float(scene.bottom_m(np.array([swimmer.along_m]))[0])
        fish.append(
            {
                "time": scene.start_time + met,
                "depth": swimmer.depth_m,
                "apparent_depth": scene.sounder.draft_m
                + math.hypot(swimmer.depth_m - scene.sounder.draft_m, swimmer.aside_m),
                "off_axis": abs(swimmer.aside_m),
                "height_above_bottom": bed - swimmer.depth_m,
                "latitude": float(latitude),
                "longitude": float(longitude),
                "tag": swimmer.tag,
            }
        )
    bait = [
        {
            "time_start": scene.start_time + float(np.interp(c.along_m - c.length_m / 2, path.along_m, path.time)),
            "time_end": scene.start_time + float(np.interp(c.along_m + c.length_m / 2, path.along_m, path.time)),
            "depth_top": c.depth_m - c.height_m / 2,
            "depth_bottom": c.depth_m + c.height_m / 2,
        }
        for c in scene.bait
    ]
    layer = scene.layer
    return {
        "title": scene.title,
        "bottom": {
            "time": (scene.start_time + path.time).tolist(),
            "depth_below": scene.bottom_m(path.along_m).tolist(),
        },
        "fish": fish,
        "bait": bait,
        "standing": [{"kind": s.kind, "height": s.height_m} for s in scene.stands],
        "thermocline": None
        if layer is None
        else {"depth": float(np.median(layer.depth_m(path.along_m))), "thickness": layer.thickness_m},
    }
