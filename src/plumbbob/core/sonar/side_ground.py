"""Kinds of bottom to the sides, tile by tile: hard, soft, stony, rippled or grown over, by level and by texture."""

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
from plumbbob.core.sonar.side_weed import against_usual, weed_chances, weed_features
from plumbbob.core.stats import running_mean
from plumbbob.core.types import Floats, Levels, Mask

TILE_M = 5.0
_LEARN_PINGS, _LEARN_STRETCHES = 120, 9
_NEAREST_M = 2.0  # under the boat the fans see little
_STEPS_DB = 3.0  # from the usual bottom of the pass: harder, or softer
_GLINT, _DARK = 2.6, 0.4  # times the usual: faces of stones, and the shadows behind them
_STONY, _STONY_SCALE = 0.03, 0.01  # share of a tile that is both
_RIPPLED, _RIPPLED_SCALE = 6.5, 1.0  # times the usual power that its strongest wave has
_WAVES_M = (0.5, 2.5)
LEAST_CHANCE = 0.6
_BED_TILES = 3
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


@dataclass(frozen=True, slots=True, eq=False)
class Tile:
    """A piece of bottom to one side that is judged as one."""

    part: tuple[slice, slice]  # pings and samples of the look
    middle: int  # ping of the recording
    near_m: float  # ground ranges
    far_m: float
    level_db: float  # over the usual bottom of the pass
    level_sd_db: float
    pings: int  # of a whole tile


def tiles(scene: SideScene, look: SideLook, usual: UsualGround) -> Iterator[Tile]:
    """The bottom of a look in pieces of some metres, those that enough is seen of."""
    curve = usual.level_db.get(look.which)
    if curve is None:
        return
    rows = max(round(TILE_M / scene.per_ping_m), 4)
    away = _behind(look) - curve[np.minimum(np.arange(look.range_m.size), curve.size - 1)][None, :]
    # back to where each sample was
    index = np.arange(look.range_m.size)[None, :] - look.bed[:, None]
    away = np.where(index >= 0, np.take_along_axis(away, np.maximum(index, 0), axis=1), np.nan)
    for first in range(look.ours.start, look.ours.stop - rows // 2, rows):
        last = min(first + rows, look.ours.stop)
        middle = look.first + (first + last) // 2
        height, rise = float(scene.altitude_m[middle]), scene.bed.rise_deg(middle, look.which)
        if not math.isfinite(height):
            continue
        edges = np.arange(_NEAREST_M, look.range_m[-1], TILE_M)
        columns = np.searchsorted(look.range_m, slant_range(edges, height, rise))
        for k in range(edges.size - 1):
            a, b = int(columns[k]), int(columns[k + 1])
            if b - a < 8 or b >= look.range_m.size:
                continue
            part = (slice(first, last), slice(a, b))
            yield Tile(part, middle, float(edges[k]), float(edges[k + 1]), *_level(away[part]), rows)


@dataclass(frozen=True, slots=True, eq=False)
class Looked:
    """A tile with what it is by itself, and what tells of weed once the rest of the pass is known."""

    tile: Tile
    side: str
    time_start: float
    time_end: float
    kind: str
    chance: float
    weed: Floats  # as `side_weed.FEATURES`


def looked_at(scene: SideScene, look: SideLook, usual: UsualGround) -> Iterator[Looked]:
    """The tiles of a look, measured."""
    texture = Texture.of(scene, look)
    for tile in tiles(scene, look, usual):
        kind, chance = _kind(tile, look, texture)
        part, pings = tile.part, tile.part[0]
        yield Looked(
            tile=tile,
            side=look.which,
            time_start=float(scene.side.time[look.first + pings.start]),
            time_end=float(scene.side.time[look.first + pings.stop - 1]),
            kind=kind,
            chance=chance,
            weed=weed_features(look.times[part], texture.smooth[part], tile.level_db, scene.per_ping_m, look.step_m),
        )


def patches(scene: SideScene, looked: list[Looked]) -> Iterator[GroundPatch]:
    """Those tiles of a pass whose bottom is told to be of another kind than the rest of it."""
    grown = _grown_over(looked)
    for one, weed in zip(looked, grown.tolist(), strict=True):
        kind, chance = ("weed", weed) if weed >= LEAST_CHANCE else (one.kind, one.chance)
        if chance < LEAST_CHANCE:
            continue
        tile = one.tile
        latitude, longitude = scene.place(tile.middle, one.side, (tile.near_m + tile.far_m) / 2)
        yield GroundPatch(
            kind=kind,
            chance=chance,
            side=one.side,
            time_start=one.time_start,
            time_end=one.time_end,
            near_m=tile.near_m,
            far_m=tile.far_m,
            level_db=tile.level_db,
            level_sd_db=tile.level_sd_db,
            latitude=latitude,
            longitude=longitude,
        )


def _grown_over(looked: list[Looked]) -> Floats:
    """Chance of weed of each tile; a bed is larger than a tile or two, which a brush pile fills as well."""
    if not looked:
        return np.zeros(0)
    near = np.array([one.tile.near_m for one in looked])
    chance = weed_chances(against_usual(np.array([one.weed for one in looked]), near))
    row = np.array([one.tile.middle // max(one.tile.pings, 1) for one in looked])
    column = np.rint(near / TILE_M).astype(int)
    wide = int(column.max()) + 2
    # starboard beside port, a row of nothing between them
    column = column + np.array([wide if one.side == SIDES[1] else 0 for one in looked])
    likely = np.zeros((int(row.max()) + 1, 2 * wide), bool)
    likely[row, column] = chance >= LEAST_CHANCE
    labels, count = ndimage.label(likely)
    size = np.bincount(labels.ravel(), minlength=count + 1)
    return np.where(size[labels[row, column]] >= _BED_TILES, chance, 0.0)


@dataclass(frozen=True, slots=True, eq=False)
class Texture:
    """A look evened out over as much as a stone's face: where it glints, where it is dark."""

    smooth: Levels
    glint: Mask
    dark: Mask
    per_ping_m: float

    @staticmethod
    def of(scene: SideScene, look: SideLook) -> Texture:
        along = max(round(_SMOOTH_M[0] / scene.per_ping_m), 1)
        across = max(round(_SMOOTH_M[1] / look.step_m), 1)
        smooth = running_mean(running_mean(np.minimum(look.times, 30.0), along, 0), across, 1)
        return Texture(smooth, smooth > _GLINT, smooth < _DARK, scene.per_ping_m)


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


def _kind(tile: Tile, look: SideLook, texture: Texture) -> tuple[str, float]:
    part, step, per_ping = tile.part, look.step_m, texture.per_ping_m
    glint, dark = texture.glint, texture.dark
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
        "hard": _sure((tile.level_db - _STEPS_DB) / tile.level_sd_db),
        "soft": _sure((-tile.level_db - _STEPS_DB) / tile.level_sd_db),
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
