"""Kinds of bottom to the sides, tile by tile: hard, soft, stony or rippled, by level and by texture."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from scipy import ndimage

from plumbbob.core.sonar.reading import GroundPatch
from plumbbob.core.sonar.recording import SIDES
from plumbbob.core.sonar.shadow_height import slant_range
from plumbbob.core.sonar.side_look import SideLook, SideScene, look_at, stretches
from plumbbob.core.stats import running_mean
from plumbbob.core.types import Floats, Levels

TILE_M = 5.0
_LEARN_PINGS, _LEARN_STRETCHES = 120, 9
_NEAREST_M = 2.0  # under the boat the fans see little
_STEPS_DB = 3.0  # from the usual bottom of the pass: harder, or softer
_GLINT, _DARK = 2.6, 0.4  # times the usual: faces of stones, and the shadows behind them
_STONY, _STONY_SCALE = 0.03, 0.01  # share of a tile that is both
_RIPPLED, _RIPPLED_SCALE = 6.5, 1.0  # times the usual power that its strongest wave has
_WAVES_M = (0.5, 2.5)
_LEAST_CHANCE = 0.6
_SMOOTH_M = (0.7, 0.4)
_BARE, _STRIPED_M = 0.02, 1.5
_CELL_M, _MORE_M = 0.2, 1.5  # ripples are looked for in such cells, and a little beyond the tile
_FACES_DB = 1.5  # a tile tilted to the boat or away from it is louder or softer by so much


@dataclass(frozen=True, slots=True, eq=False)
class UsualGround:
    """Usual level of the pass by distance behind the first return, decibels, shape (samples,) for each side."""

    level_db: dict[str, Floats]

    @staticmethod
    def learn(scene: SideScene) -> UsualGround:
        """From stretches all along the pass."""
        side = scene.side
        found: dict[str, Floats] = {}
        for which in SIDES:
            parts = []
            for start in stretches(len(side), _LEARN_PINGS, _LEARN_STRETCHES):
                look = look_at(scene, which, start, _LEARN_PINGS, overlap=0)
                if look is not None:
                    parts.append(_behind(look)[::4])
            if parts:
                width = max(p.shape[1] for p in parts)
                rows = np.vstack(
                    [np.pad(p, ((0, 0), (0, width - p.shape[1])), constant_values=np.nan) for p in parts]
                )
                known = np.isfinite(rows).any(axis=0)
                middle = np.full(width, np.nan)
                middle[known] = np.nanmedian(rows[:, known], axis=0)
                found[which] = ndimage.uniform_filter1d(_filled(middle), 9, mode="nearest")
        return UsualGround(found)


def _behind(look: SideLook) -> Levels:
    """Levels in decibels by samples behind the first return, shape (pings, samples); NaN past the end."""
    decibels = 10 * np.log10(np.maximum(look.power, 1e-3))
    index = look.bed[:, None] + np.arange(look.range_m.size)[None, :]
    inside = index < look.range_m.size
    moved = np.take_along_axis(decibels, np.minimum(index, look.range_m.size - 1), axis=1)
    return np.where(inside, moved, np.nan)


def _filled(values: Floats) -> Floats:
    known = np.flatnonzero(np.isfinite(values))
    if not known.size:
        return np.zeros(values.size)
    return np.asarray(np.interp(np.arange(values.size), known, values[known]))


def patches(scene: SideScene, look: SideLook, usual: UsualGround) -> Iterator[GroundPatch]:
    """Tiles of a look whose bottom is told to be of another kind than the rest of the pass."""
    curve = usual.level_db.get(look.which)
    if curve is None:
        return
    step, per_ping = look.step_m, scene.per_ping_m
    rows = max(round(TILE_M / per_ping), 4)
    away = _behind(look) - curve[np.minimum(np.arange(look.range_m.size), curve.size - 1)][None, :]
    # back to where each sample was
    index = np.arange(look.range_m.size)[None, :] - look.bed[:, None]
    away = np.where(index >= 0, np.take_along_axis(away, np.maximum(index, 0), axis=1), np.nan)
    smooth = running_mean(
        running_mean(np.minimum(look.times, 30.0), max(round(_SMOOTH_M[0] / per_ping), 1), 0),
        max(round(_SMOOTH_M[1] / step), 1),
        1,
    )
    glint, dark = smooth > _GLINT, smooth < _DARK
    for first in range(look.ours.start, look.ours.stop - rows // 2, rows):
        last = min(first + rows, look.ours.stop)
        middle = look.first + (first + last) // 2
        height, rise = float(scene.altitude_m[middle]), scene.bed.rise_deg(middle, look.which)
        if not math.isfinite(height):
            continue
        edges = np.arange(_NEAREST_M, look.range_m[-1], TILE_M)
        slants = slant_range(edges, height, rise)
        columns = np.searchsorted(look.range_m, slants)
        for k in range(edges.size - 1):
            a, b = int(columns[k]), int(columns[k + 1])
            if b - a < 8 or b >= look.range_m.size:
                continue
            part = (slice(first, last), slice(a, b))
            level, level_sd = _level(away[part])
            kind, chance = _kind(level, level_sd, look, glint, dark, part, per_ping, step)
            if chance < _LEAST_CHANCE:
                continue
            ground = float(edges[k] + TILE_M / 2)
            latitude, longitude = scene.place(middle, look.which, ground)
            yield GroundPatch(
                kind=kind,
                chance=chance,
                side=look.which,
                time_start=float(scene.side.time[look.first + first]),
                time_end=float(scene.side.time[look.first + last - 1]),
                near_m=float(edges[k]),
                far_m=float(edges[k + 1]),
                level_db=level,
                level_sd_db=level_sd,
                latitude=latitude,
                longitude=longitude,
            )


def _level(away: Floats) -> tuple[float, float]:
    """Mean level over the usual one and its spread: neighbours are not independent, a tile counts as some dozens."""
    known = away[np.isfinite(away)]
    if known.size < 40:
        return 0.0, math.inf
    own = 1.25 * float(known.std()) / math.sqrt(min(known.size / 12, 60.0))
    return float(np.median(known)), math.hypot(own, _FACES_DB)


def _wider(part: tuple[slice, slice], per_ping: float, step: float) -> tuple[slice, slice]:
    along, across = round(_MORE_M / per_ping), round(_MORE_M / step)
    return (
        slice(max(part[0].start - along, 0), part[0].stop + along),
        slice(max(part[1].start - across, 0), part[1].stop + across),
    )


def _kind(
    level: float,
    level_sd: float,
    look: SideLook,
    glint: np.ndarray,
    dark: np.ndarray,
    part: tuple[slice, slice],
    per_ping: float,
    step: float,
) -> tuple[str, float]:
    wide = _wider(part, per_ping, step)
    both = math.sqrt(float(glint[part].mean()) * float(dark[part].mean()))
    about = math.sqrt(float(glint[wide].mean()) * float(dark[wide].mean()))
    # next to the first return all bottom is striped
    clear = wide[1].start > int(np.median(look.bed[part[0]])) + int(_STRIPED_M / step)
    found = {
        "stony": _sure((both - _STONY) / _STONY_SCALE),
        "rippled": _sure((_wave(look.times[wide], per_ping, step) - _RIPPLED) / _RIPPLED_SCALE)
        if about < _BARE and clear
        else 0.0,
        "hard": _sure((level - _STEPS_DB) / level_sd),
        "soft": _sure((-level - _STEPS_DB) / level_sd),
    }
    # stones are hard as well, and shadows make ripples of a stony tile
    if found["stony"] >= 0.5:
        return "stony", found["stony"]
    kind = max(found, key=lambda name: found[name])
    return kind, found[kind]


def _sure(odds: float) -> float:
    return 1.0 / (1.0 + math.exp(-min(max(odds, -30.0), 30.0)))


def _wave(times: Levels, per_ping: float, step: float) -> float:
    """How many times the usual power the strongest wave of a piece of bottom has, of those as long as ripples are."""
    a, b = max(round(_CELL_M / per_ping), 1), max(round(_CELL_M / step), 1)
    rows, columns = times.shape[0] // a, times.shape[1] // b
    if min(rows, columns) < 8:
        return 0.0
    cells = np.minimum(times[: rows * a, : columns * b], 8.0).reshape(rows, a, columns, b).mean(axis=(1, 3))
    logs = np.log(cells + 0.1)
    logs -= ndimage.uniform_filter(logs, min(15, rows, columns))
    window = np.hanning(rows)[:, None] * np.hanning(columns)[None, :]
    # a wave spreads over a few bins; alone, one bin of speckle can be as strong
    power = ndimage.uniform_filter(np.abs(np.fft.fft2(logs * window)) ** 2, 3, mode="wrap")
    number = np.hypot(np.fft.fftfreq(rows, a * per_ping)[:, None], np.fft.fftfreq(columns, b * step)[None, :])
    ring = power[(number > 1 / _WAVES_M[1]) & (number < 1 / _WAVES_M[0])]
    return float(ring.max() / max(float(np.median(ring)), 1e-12)) if ring.size > 12 else 0.0
