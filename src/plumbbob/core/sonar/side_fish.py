"""
Fish to the sides: short bright spots that the ground about them does not explain.

A fish is as long along the way as the fan is wide there and its side shines, and one pulse thick; a stone's face is
longer and thicker, and joined to its shadow; patches and ripples come with others like them. Each of these is a
number, and a sum of straight pieces of them is the logarithm of the odds for a fish (`side_judge`).
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from functools import cache

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from plumbbob.core.sonar.reading import SideFish
from plumbbob.core.sonar.shadow_height import ground_range, height_from_shadow, without_shadow
from plumbbob.core.sonar.side_bed import pulse_m
from plumbbob.core.sonar.side_judge import CHANCE, FEATURES, Judgement, could_be_fish, judged
from plumbbob.core.sonar.side_look import Clutter, SideLook, SideScene
from plumbbob.core.stats import running_mean
from plumbbob.core.types import Floats, Levels

_LEAST_EVIDENCE = 18.0
_NEAR_M = 0.6  # nothing is told from the transducer's own ringing nearer than this
_APART_M = 0.5  # spots nearer than that are one
_HOT = 2.6  # times the ground: what counts as a bright thing
_IN_WATER_M = 0.25
_ABOUT_M = 1.3
_STRIP_M = 0.5
_SHAPE = 6  # samples to either side that the shape of an echo is judged in
_SHADOW_SAMPLES = (5, 8, 12, 18)
_SHADOW_LEVEL = 0.5
_SHADOW_EVIDENCE, _BESIDE = 8.0, 12.0  # least evidence of a height, and how much of it darkness beside takes away
_FARTHER = 1.5  # less evidence for each e-fold of distance: there are more places that are dark by themselves
_ALTITUDE_SD_M = 0.1
_UNEVEN = (0.1, 0.12)  # metres, and of the height: what the bottom where a shadow ends differs from the boat's
_LEVEL_SD_DEG = 0.8  # how level a bottom that nobody sounded across the track is taken to be


@dataclass(frozen=True, slots=True)
class Candidate:
    """A bright spot, with what it was judged by."""

    ping: int  # of the recording
    slant_m: float
    in_water: bool
    features: Floats  # as in FEATURES
    shadow_m: float
    shadow_evidence: float
    shadow_beside: float


@dataclass(frozen=True, slots=True, eq=False)
class _Sums:
    """Sums over all rectangles from the corner, so that a mean over any takes four looks."""

    total: Floats

    @staticmethod
    def of(values: NDArray[np.floating]) -> _Sums:
        total = np.zeros((values.shape[0] + 1, values.shape[1] + 1))
        np.cumsum(np.cumsum(values, axis=0, dtype=np.float64), axis=1, out=total[1:, 1:])
        return _Sums(total)

    def mean(self, r0: int, r1: int, c0: int, c1: int) -> float:
        """Over a rectangle, cut to what there is; 0 where that is nothing."""
        r0, c0 = max(r0, 0), max(c0, 0)
        r1, c1 = min(r1, self.total.shape[0] - 1), min(c1, self.total.shape[1] - 1)
        if r1 <= r0 or c1 <= c0:
            return 0.0
        t = self.total
        return float((t[r1, c1] - t[r0, c1] - t[r1, c0] + t[r0, c0]) / ((r1 - r0) * (c1 - c0)))


class _Surroundings:
    """What is about every spot of a look: made once for all of them."""

    def __init__(self, scene: SideScene, look: SideLook) -> None:
        self.scene, self.look = scene, look
        self.per_ping, self.step = scene.per_ping_m, look.step_m
        self.smooth = running_mean(running_mean(look.over, 3, 0), max(look.kernel, 3), 1)
        self.logs = _Sums.of(np.log(np.clip(self.smooth, 0.05, 20.0)))
        hot = self.smooth > _HOT
        self.labels, count = ndimage.label(hot)
        self.sizes = np.bincount(self.labels.ravel(), minlength=count + 1)
        self.boxes = ndimage.find_objects(self.labels)
        self.hot = _Sums.of(hot.astype(np.float32))
        self.log_spot = np.log(np.maximum(look.spot, 1e-2))
        self.wet = running_mean(look.power, 2, 1)


def candidates(
    scene: SideScene,
    look: SideLook,
    clutter: Clutter,
    *,
    has_hope: Callable[[Floats], bool] = lambda features: True,
) -> Iterator[Candidate]:
    """Bright spots of the pings that count; shadows are looked for only behind those that have hope without."""
    around = _Surroundings(scene, look)
    window = (
        2 * max(int(_APART_M / around.per_ping), 3) + 1,
        max(int(_APART_M / around.step) | 1, 3),
    )
    peaks = (look.evidence == ndimage.maximum_filter(look.evidence, window)) & (look.evidence > _LEAST_EVIDENCE)
    peaks[:, : int(np.searchsorted(look.range_m, _NEAR_M))] = False
    peaks[: look.ours.start] = False
    peaks[look.ours.stop :] = False
    for i, j in zip(*np.nonzero(peaks), strict=True):
        yield _measured(around, clutter, int(i), int(j), has_hope)


def _measured(
    around: _Surroundings, clutter: Clutter, i: int, j: int, has_hope: Callable[[Floats], bool]
) -> Candidate:
    look, step = around.look, around.step
    k = look.kernel
    pings = float(look.fish_pings[j])
    width = int(np.clip(round(pings), 2, 12))
    guard, half = int(1.6 * width) + 2, width // 2 + 1
    strip, deep = max(int(_STRIP_M / around.per_ping), 3), max(int(_STRIP_M / step), 4)
    behind_m = float(look.range_m[j]) - float(look.bed_m[i])
    logs, fish = around.logs, (2.2 * pings + 2, 2.0 * k + 1)
    value = dict.fromkeys(FEATURES, 0.0)
    value["spot"] = min(float(around.log_spot[i, j]), 6.0)
    value["beside"] = max(
        logs.mean(i - guard - strip, i - guard + 1, j - k, j + k + 1),
        logs.mean(i + guard, i + guard + strip + 1, j - k, j + k + 1),
    )
    value["before"] = logs.mean(i - half, i + half + 1, j - 2 * k - deep, j - 2 * k)
    value["behind"] = logs.mean(i - half, i + half + 1, j + 2 * k + 1, j + 2 * k + 1 + deep)
    value["about"] = logs.mean(i - guard - strip, i + guard + strip + 1, j - 2 * k - deep, j + 2 * k + deep + 1)
    column = around.smooth[:, max(j - 1, 0) : j + 2].mean(axis=1)
    value["along"] = math.log(_reach(column, i, max(float(column[i]) / 4, 2.0)) / max(fish[0], 1.0))
    first = max(j - 60, 0)
    line = np.convolve(look.over[max(i - half, 0) : i + half + 1, first : j + 61].mean(axis=0), [0.5, 0.5], "same")
    at = j - first
    value["across"] = math.log(_reach(line, at, max(float(line[max(at - 1, 0) : at + 2].max()) / 4, 1.8)) / fish[1])
    part = int(around.labels[i, j])
    value["body"] = value["body_across"] = value["body_along"] = -1.5
    if part:
        box = around.boxes[part - 1]
        value["body"] = math.log(around.sizes[part] / (fish[0] * fish[1]))
        value["body_across"] = math.log((box[1].stop - box[1].start) / fish[1])
        value["body_along"] = math.log((box[0].stop - box[0].start) / fish[0])
    m, q = max(int(_ABOUT_M / around.per_ping), 6), max(int(_ABOUT_M / step), 12)
    area = (2 * m + 1) * (2 * q + 1)
    own = around.hot.mean(i - guard, i + guard + 1, j - k - 2, j + k + 3) * (2 * guard + 1) * (2 * k + 5)
    value["others"] = math.log(
        0.01 + max(around.hot.mean(i - m, i + m + 1, j - q, j + q + 1) * area - own, 0.0) / area
    )
    value["first_return"] = math.exp(-max(behind_m, 0.0) / 0.7) if behind_m > -_IN_WATER_M else 0.0
    bright = float(look.over[max(i - half, 0) : i + half + 1, max(j - k, 0) : j + k + 1].max())
    value["peak"] = math.log(max(bright, 1e-2) / float(look.spot[i, j]))
    _measure_shape(look, value, i, j, pings)
    if behind_m < 0.3:
        _measure_in_water(around, value, i, j, half, guard, -behind_m, fish)
    usual, often, rare = clutter.evidence[:, j]
    found = math.log(max(float(look.evidence[i, j]), 1.0))
    value["evidence"] = min(found, 8.0)
    value["evidence_by_grain"] = min(found - math.log(clutter.grain), 8.0)
    value["grain"] = clutter.grain
    value["over_usual"] = min((found - usual) / max(often - usual, 0.3), 8.0)
    value["over_rare"] = min(found - rare, 5.0)
    there = (slice(max(i - 1, 0), i + 2), slice(max(j - 1, 0), j + 2))
    steady = float(look.steady[there].max())
    value["steady"] = steady
    value["steady_over_usual"] = (steady - clutter.steady[0, j]) / max(
        float(clutter.steady[1, j] - clutter.steady[0, j]), 0.1
    )
    in_water, shadow, evidence, beside = behind_m < -_IN_WATER_M, math.nan, 0.0, 0.0
    if in_water or has_hope(np.array([value[name] for name in FEATURES])):
        shadow, evidence, beside = find_shadow(look, i, j, width)
        value["shadow"], value["shadow_beside"] = min(evidence, 40.0) / 10, min(beside, 4.0)
    return Candidate(
        ping=look.first + i,
        slant_m=float(look.range_m[j]),
        in_water=in_water,
        features=np.array([value[name] for name in FEATURES]),
        shadow_m=shadow,
        shadow_evidence=evidence,
        shadow_beside=beside,
    )


def _measure_shape(look: SideLook, value: dict[str, float], i: int, j: int, pings: float) -> None:
    """
    How much the echo is like one body's: ping after ping alike, and a bell along the range.

    Notes
    -----
    Speckle changes from ping to ping and from cell to cell, however bright: one bright cell carries its spot, and its
    logarithms lie far under the logarithm of their mean. A fish returns one pulse in each ping that meets it.
    """
    wide = int(np.clip(round(pings), 3, 9))
    patch = _cut(look.over, i, wide // 2 + 3, j, _SHAPE)
    # the echo lies where most of it is, within a ping and two samples of where it was taken to be
    run = np.convolve(patch[:, _SHAPE - 2 : _SHAPE + 3].mean(axis=1), np.ones(wide) / wide, "valid")
    top = int(np.argmax(run[2:-2])) + 2 if run.size > 4 else int(np.argmax(run))
    own = patch[top : top + wide]
    line = own.mean(axis=0)
    at = _SHAPE - 2 + int(np.argmax(np.convolve(line, np.ones(3) / 3, "same")[_SHAPE - 2 : _SHAPE + 3]))
    core = own[:, at - 1 : at + 2]
    mean = max(float(core.mean()), 1e-2)
    value["even"] = float(np.log(np.clip(core, 0.02 * mean, None) / mean).mean())
    by_ping = np.sort(core.mean(axis=1))
    value["one_ping"] = math.log(float(by_ping[-1]) / mean)
    value["wide"] = math.log(max(float(line[at - 2] + line[at + 2]), 0.02 * mean) / 2 / mean)
    logs = np.log(0.3 + patch)
    flat = (logs - logs.mean()).ravel()
    value["bell"] = float((_bells(patch.shape[0], wide) @ flat).max() / math.sqrt(float(flat @ flat) + 1e-9))


@cache
def _bells(rows: int, wide: int) -> Floats:
    """Echoes of one body as they would show in a patch: of mean nothing and length one; a narrow and a wide pulse."""
    along = np.arange(rows) - (rows - 1) / 2
    across = np.arange(2 * _SHAPE + 1) - _SHAPE
    out = []
    for samples in (1.2, 2.0):
        for off in (-1, 0, 1):
            for aside in (-1, 0, 1):
                bell = np.exp(-0.5 * (((along - off) / (wide / 2.4)) ** 2)[:, None]) * np.exp(
                    -0.5 * ((across - aside) / samples) ** 2
                )
                bell = np.log(0.3 + 1 + 9 * bell)
                bell -= bell.mean()
                out.append((bell / math.sqrt(float((bell**2).sum()))).ravel())
    return np.array(out)


def _cut(values: Levels, i: int, up: int, j: int, aside: int) -> Levels:
    """A patch about a place; past the ends the last ones repeat."""
    rows = np.clip(np.arange(i - up, i + up + 1), 0, values.shape[0] - 1)
    columns = np.clip(np.arange(j - aside, j + aside + 1), 0, values.shape[1] - 1)
    return values[np.ix_(rows, columns)]


def _measure_in_water(
    around: _Surroundings,
    value: dict[str, float],
    i: int,
    j: int,
    half: int,
    guard: int,
    above_m: float,
    fish: tuple[float, float],
) -> None:
    """Before the first return only fish echo, and what reaches up: how far from the bottom, how large."""
    look, step = around.look, around.step
    rows = slice(max(i - half, 0), i + half + 1)
    end = min(int(look.bed[i]), look.range_m.size - 1)
    to_bottom = 10 * np.log10(look.power[rows, j : max(end - 1, j + 1) + 1])
    to_bottom = to_bottom.mean(axis=0)
    value["gap"] = min(float(to_bottom[:2].max() - to_bottom.min()), 40.0)
    value["above"] = min(max(above_m, 0.0), 4.0)
    wide = int(1.5 / step)
    r0, c0 = max(i - 4 * guard, 0), max(j - wide, 0)
    part = around.wet[r0 : i + 4 * guard + 1, c0 : j + wide + 1]
    labels, _ = ndimage.label(part > max(float(part[i - r0, j - c0]) / 8, 1e-9))
    own = labels == labels[i - r0, j - c0]
    if labels[i - r0, j - c0]:
        along, across = np.flatnonzero(own.any(axis=1)), np.flatnonzero(own.any(axis=0))
        value["water_body"] = math.log(own.sum() / (fish[0] * fish[1]))
        value["water_across"] = math.log((across[-1] - across[0] + 1) / fish[1])
        value["water_along"] = math.log((along[-1] - along[0] + 1) / fish[0])


def _reach(line: NDArray[np.floating], at: int, level: float) -> int:
    """How many in a row about a place are over a level."""
    a = b = at
    while a > 0 and line[a - 1] > level:
        a -= 1
    while b < line.size - 1 and line[b + 1] > level:
        b += 1
    return b - a + 1


def find_shadow(look: SideLook, i: int, j: int, width: int) -> tuple[float, float, float]:
    """
    Where behind an echo its shadow lies, the evidence for it, and how dark it is to both sides as well.

    Notes
    -----
    Speckle has mean one; in a shadow there is little. The evidence of n independent looks with mean D against mean
    one is n (D - 1 - ln D); the largest over windows of some pings and lengths wins, less the logarithm of how far
    behind it lies: the farther, the more places there are that are dark by themselves. A fish's own shadow is as wide
    along the way as the fish is seen; one that goes on to the sides is a stone's or a hollow's.
    """
    step, rows = look.step_m, look.over.shape[0]
    start = max(j + look.kernel + 2, int(np.searchsorted(look.range_m, look.bed_m[i] + 0.3)))
    stop = look.range_m.size - 2
    if stop - start < _SHADOW_SAMPLES[-1] + 2:
        return math.nan, 0.0, 0.0
    independent = step / max(2.0 * step, 0.06)
    highs = sorted({2, 3, max(width, 2)})
    behind = np.log1p(look.range_m[start:stop] - look.range_m[j])
    best: tuple[float, float, float, int, int, int, int] = (0.0, 0.0, math.nan, 0, 0, 0, 2)
    for high in highs:
        for a in {max(i + off - high // 2, 0) for off in (-1, 0, 1)}:
            b = min(a + high, rows)
            mean = np.minimum(look.over[a:b, start:stop], 6.0).mean(axis=0)
            total = np.concatenate(([0.0], np.cumsum(mean, dtype=np.float64)))
            for long in _SHADOW_SAMPLES:
                dark = np.clip((total[long:] - total[:-long]) / long, 0.04, 1.0)
                looks = (b - a) * long * independent
                evidence = np.where(dark < _SHADOW_LEVEL, looks * (dark - 1 - np.log(dark)), 0.0)
                worth = evidence - _FARTHER * behind[: evidence.size]
                k = int(np.argmax(worth))
                if worth[k] > best[0]:
                    end = float(look.range_m[start + k] + (long - 1) * step / 2)
                    best = (float(worth[k]), float(evidence[k]), end, a, start + k, long, high)
    _, found, where, a, c, long, high = best
    if found <= 0:
        return math.nan, 0.0, 0.0
    guard, more = high + 2, max(high, 3)
    low = look.over[max(a - guard - more + high // 2, 0) : max(a - guard + high // 2, 1), c : c + long]
    far = look.over[min(a + high + 2, rows - 1) : a + high + 2 + more, c : c + long]
    beside = sum(max(-math.log(max(float(np.minimum(p, 6.0).mean()), 0.05)), 0.0) for p in (low, far) if p.size)
    return where, found, float(beside)


def find_fish(scene: SideScene, look: SideLook, clutter: Clutter, covered: NDArray[np.bool_]) -> Iterator[SideFish]:
    """The spots of a look that are rather fish than anything else; none where a thing stands (`covered`)."""
    here = clutter.at(look.range_m.size)
    for found in candidates(scene, look, here, has_hope=could_be_fish):
        sample = round((found.slant_m - look.range_m[0]) / look.step_m)
        if not found.in_water and covered[found.ping - look.first, sample]:
            continue
        judgement = judged(found.features, in_water=found.in_water)
        if judgement.chance >= CHANCE:
            yield _fish(scene, look, found, judgement, here.grain)


def _fish(scene: SideScene, look: SideLook, found: Candidate, judgement: Judgement, grain: float) -> SideFish:
    ping, slant = found.ping, found.slant_m
    height = float(scene.altitude_m[ping])
    shadow = found.shadow_m
    # where speckle is coarse, dark places come by themselves; and what is dark beside it too is not its own
    evidence = found.shadow_evidence / grain**2 - _BESIDE * found.shadow_beside
    if evidence < _SHADOW_EVIDENCE or not math.isfinite(height):
        shadow = math.nan
    up = float(height_from_shadow(slant, shadow, height)) if math.isfinite(shadow) else math.nan
    if math.isfinite(up):
        rise, rise_sd = scene.bed.rise_deg(ping, look.which), scene.bed.rise_sd_deg(ping)
        across = float(ground_range(shadow, height, rise)) if shadow > height else 0.0
        across = across if math.isfinite(across) else math.sqrt(max(shadow**2 - height**2, 0.0))
        tilt = math.tan(math.radians(_LEVEL_SD_DEG)) * across * slant / shadow
        edge = height * slant / shadow**2 * 2 * pulse_m(scene.side)
        up_sd = math.hypot(edge, _ALTITUDE_SD_M * up / height, tilt, _UNEVEN[0] + _UNEVEN[1] * up)
        # it lies on the ray to where its shadow ends
        ground = across * slant / shadow
        below = math.sqrt(max(slant**2 - ground**2, 0.0))
        ground_sd = math.hypot(0.1, below / max(ground, 0.5) * math.hypot(up_sd, ground * math.radians(rise_sd)))
    else:
        up_sd = below = math.nan
        ground, ground_sd = _ground_alone(scene, ping, look.which, slant, height)
    latitude, longitude = scene.place(ping, look.which, ground)
    return SideFish(
        time=float(scene.side.time[ping]),
        side=look.which,
        slant_m=slant,
        ground_m=ground,
        ground_sd_m=ground_sd,
        height_m=up,
        height_sd_m=up_sd,
        depth_m=scene.side.mount.depth_m + below,
        shadow_m=shadow,
        altitude_m=height,
        latitude=latitude,
        longitude=longitude,
        position_sd_m=scene.spread_m(ping, ground_sd, ground),
        level_db=10 * math.log10(math.e) * float(found.features[0]),
        in_water=found.in_water,
        chance=judgement.chance,
        why=judgement.why,
    )


def _ground_alone(scene: SideScene, ping: int, which: str, slant: float, height: float) -> tuple[float, float]:
    """Ground range and its spread where no shadow tells the height."""
    fan, rise = scene.side.beam_width_across_deg, scene.bed.rise_deg(ping, which)
    least, most = 0.0, slant
    if math.isfinite(height):
        least, most = without_shadow(slant, height, slope_deg=rise, across_deg=fan)
    return (least + most) / 2, max((most - least) / math.sqrt(12), 0.1)


def without_height(scene: SideScene, fish: SideFish) -> SideFish:
    """A fish whose shadow falls on a bottom that is not the one under the boat: its height is not guessed."""
    ping = min(int(np.searchsorted(scene.side.time, fish.time)), len(scene.side) - 1)
    ground, ground_sd = _ground_alone(scene, ping, fish.side, fish.slant_m, fish.altitude_m)
    latitude, longitude = scene.place(ping, fish.side, ground)
    return replace(
        fish,
        ground_m=ground,
        ground_sd_m=ground_sd,
        height_m=math.nan,
        height_sd_m=math.nan,
        depth_m=math.nan,
        shadow_m=math.nan,
        latitude=latitude,
        longitude=longitude,
        position_sd_m=scene.spread_m(ping, ground_sd, ground),
    )
