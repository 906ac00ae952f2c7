"""Many fish to one side: lines along the bottom, schools that can be counted, balls of bait that can't."""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from plumbbob.core.sonar.reading import SideFish, SideSchool, Strung
from plumbbob.core.sonar.recording import SIDES
from plumbbob.core.sonar.shadow_height import ground_range, height_from_shadow, without_shadow
from plumbbob.core.sonar.side_look import SideLook, SideScene
from plumbbob.core.stats import closed, running_mean

_STRUNG_FISH, _STRUNG_GAP_M, _STRUNG_ASIDE_M, _STRUNG_HEIGHT_M = 4, 15.0, 4.0, 2.0
_SCHOOL_FISH, _SCHOOL_GAP_M = 5, 2.5
_THICK, _SMOOTH_M = 3.0, (0.5, 0.35)  # times the usual level, over so much along and across
_BALL_ALONG_M, _BALL_ACROSS_M, _BALL_M2, _BALL_FILL = 1.3, 0.9, 2.0, 0.45
_BARE = (0.45, 2.2)  # bottom between a ball and its shadow is as loud as bottom goes
_SHADE, _SHADE_M, _SHADE_SHARE, _GAP_M = 0.62, 0.5, 0.5, 0.4
_JOINED_M, _JOINED_SHARE, _HOLES = 0.5, 0.35, 0.1
_EDGE_SD_M = 0.5  # the thin edges of a ball dim nothing
_NEAR_M, _BEHIND_M = 1.0, 1.0  # of the transducer, and of the bottom's own first return
_CLEAR_M = 0.3  # before the first return
_LOUD_WATER = 6.0  # times quiet water
_SAME_BALL_M = 2.0


def strung(fish: list[SideFish], scene: SideScene) -> Iterator[Strung]:
    """Lines of fish near the bottom: each within some metres along and aside of the one before."""
    for which in SIDES:
        line: list[int] = []
        for k, one in enumerate(fish):
            if one.side != which or one.in_water or (math.isfinite(one.height_m) and one.height_m > _STRUNG_HEIGHT_M):
                continue
            if line:
                last = fish[line[-1]]
                a, b = (min(int(np.searchsorted(scene.side.time, f.time)), len(scene.side) - 1) for f in (last, one))
                if scene.way_between(a, b) > _STRUNG_GAP_M or abs(one.ground_m - last.ground_m) > _STRUNG_ASIDE_M:
                    yield from _line(line, fish, which)
                    line = []
            line.append(k)
        yield from _line(line, fish, which)


def _line(line: list[int], fish: list[SideFish], which: str) -> Iterator[Strung]:
    if len(line) >= _STRUNG_FISH:
        yield Strung(side=which, fish=tuple(line), time_start=fish[line[0]].time, time_end=fish[line[-1]].time)


def schools(fish: list[SideFish], scene: SideScene) -> Iterator[SideSchool]:
    """Fish that lie close together in both directions, counted."""
    for which in SIDES:
        mine = [k for k, f in enumerate(fish) if f.side == which]
        if len(mine) < _SCHOOL_FISH:
            continue
        at = [(_way(scene, fish[k].time), fish[k].ground_m) for k in mine]
        group = list(range(len(mine)))
        for a in range(len(mine)):
            for b in range(a + 1, len(mine)):
                if at[b][0] - at[a][0] > _SCHOOL_GAP_M:
                    break
                if math.hypot(at[b][0] - at[a][0], at[b][1] - at[a][1]) <= _SCHOOL_GAP_M:
                    old, new = group[b], group[a]
                    group = [new if g == old else g for g in group]
        for one in sorted(set(group)):
            members = [k for k, g in zip(mine, group, strict=True) if g == one]
            if len(members) >= _SCHOOL_FISH:
                yield _school(members, fish, scene, which)


def _way(scene: SideScene, time: float) -> float:
    return float(np.interp(time, scene.side.time, scene.way_m))


def _school(members: list[int], fish: list[SideFish], scene: SideScene, which: str) -> SideSchool:
    ours = [fish[k] for k in members]
    heights = np.array([f.height_m for f in ours if math.isfinite(f.height_m)])
    ground = float(np.mean([f.ground_m for f in ours]))
    middle = float(np.mean([f.time for f in ours]))
    ping = min(int(np.searchsorted(scene.side.time, middle)), len(scene.side) - 1)
    latitude, longitude = scene.place(ping, which, ground)
    return SideSchool(
        kind="school",
        side=which,
        time_start=min(f.time for f in ours),
        time_end=max(f.time for f in ours),
        near_m=min(f.slant_m for f in ours),
        far_m=max(f.slant_m for f in ours),
        ground_m=ground,
        ground_sd_m=float(np.mean([f.ground_sd_m for f in ours])),
        length_m=max(_way(scene, f.time) for f in ours) - min(_way(scene, f.time) for f in ours),
        least=len(ours),
        fish=tuple(members),
        low_m=float(heights.min()) if heights.size else math.nan,
        high_m=float(heights.max()) if heights.size else math.nan,
        height_sd_m=float(np.mean([f.height_sd_m for f in ours if math.isfinite(f.height_sd_m)]))
        if heights.size
        else math.nan,
        latitude=latitude,
        longitude=longitude,
        in_water=all(f.in_water for f in ours),
    )


def find_balls(scene: SideScene, look: SideLook) -> tuple[list[SideSchool], NDArray[np.bool_]]:
    """
    Balls of bait of a look, and where no single fish is to be looked for because of them.

    Notes
    -----
    A ball is larger than a fish both ways. Before the first return that is enough; over the bottom it needs a shadow
    as long along the way as itself with bare bottom between: what stands on the bottom touches its shadow.
    """
    step, per_ping = look.step_m, scene.per_ping_m
    rows, columns = max(round(_SMOOTH_M[0] / per_ping), 1) | 1, max(round(_SMOOTH_M[1] / step), 1) | 1
    smooth = running_mean(running_mean(np.minimum(look.times, 12.0), rows, 0), columns, 1)
    samples = np.arange(look.range_m.size)
    water = samples[None, :] < (look.bed - int(_CLEAR_M / step))[:, None]
    near = int(np.searchsorted(look.range_m, _NEAR_M))
    thick = smooth > np.where(water, np.float32(_LOUD_WATER), np.float32(_THICK))
    thick[:, :near] = False
    # the bottom's own first return is no ball
    thick &= water | (samples[None, :] > (look.bed + int(_BEHIND_M / step))[:, None])
    labels, _ = ndimage.label(closed(thick, 3, 3))
    covered = np.zeros(thick.shape, bool)
    found = []
    for k, window in enumerate(ndimage.find_objects(labels), start=1):
        here = labels[window] == k
        along, across = here.shape[0] * per_ping, here.shape[1] * step
        # what smoothing adds is taken off
        along, across = along - _SMOOTH_M[0], across - _SMOOTH_M[1]
        fan = float(look.range_m[window[1]].mean()) * math.radians(scene.side.beam_width_along_deg)
        if along - fan < _BALL_ALONG_M or across < _BALL_ACROSS_M or along * across * here.mean() < _BALL_M2:
            continue
        if here.mean() < _BALL_FILL:
            continue
        ball = _ball(scene, look, here, window, smooth, water)
        if ball is None:
            continue
        covered[window] |= here
        if look.ours.start <= (window[0].start + window[0].stop) // 2 < look.ours.stop:
            found.append(ball)
    return found, covered


def _ball(
    scene: SideScene,
    look: SideLook,
    here: NDArray[np.bool_],
    window: tuple[slice, slice],
    smooth: NDArray[np.float32],
    water: NDArray[np.bool_],
) -> SideSchool | None:
    rows = np.flatnonzero(here.any(axis=1)) + window[0].start
    ends = here.shape[1] - 1 - here[:, ::-1].argmax(axis=1) + window[1].start
    near, far = float(look.range_m[window[1].start]), float(look.range_m[window[1].stop - 1])
    middle = int(np.median(rows))
    ping = min(look.first + middle, len(scene.side) - 1)
    height, rise = float(scene.altitude_m[ping]), scene.bed.rise_deg(ping, look.which)
    hangs = bool(water[window][here].mean() > 0.5)
    shade = _shade(look, rows, ends, smooth)
    if not hangs and (shade is None or _joined(look, here, window, smooth)):
        return None
    low = high = sd = math.nan
    slant = (near + far) / 2
    across, across_sd = _alone(scene, slant, height, rise)
    if shade is not None and math.isfinite(height):
        start, end = shade
        # the ray under the ball lands where its shadow begins, the ray over it where that ends
        low = max(float(height_from_shadow(slant, start, height)), 0.0)
        high = float(height_from_shadow(slant, end, height))
        sd = math.hypot(height * slant / end**2 * _SMOOTH_M[1], 0.1 * high / max(height, 0.1), _EDGE_SD_M)
        on_ray = float(ground_range((start + end) / 2, height, rise))
        if math.isfinite(on_ray):
            across, across_sd = on_ray * slant / ((start + end) / 2), max((far - near) / 4, 0.3)
    latitude, longitude = scene.place(ping, look.which, across)
    return SideSchool(
        kind="bait",
        side=look.which,
        time_start=float(scene.side.time[look.first + int(rows[0])]),
        time_end=float(scene.side.time[look.first + int(rows[-1])]),
        near_m=near,
        far_m=far,
        ground_m=across,
        ground_sd_m=across_sd,
        length_m=scene.way_between(look.first + int(rows[0]), look.first + int(rows[-1])),
        least=0,
        fish=(),
        low_m=low,
        high_m=high,
        height_sd_m=sd,
        latitude=latitude,
        longitude=longitude,
        in_water=hangs,
    )


def _alone(scene: SideScene, slant: float, height: float, rise: float) -> tuple[float, float]:
    """Ground range and its spread where no shadow tells more."""
    if not math.isfinite(height):
        return slant / 2, slant / math.sqrt(12)
    least, most = without_shadow(slant, height, slope_deg=rise, across_deg=scene.side.beam_width_across_deg)
    return (least + most) / 2, max((most - least) / math.sqrt(12), 0.2)


def _shade(
    look: SideLook, rows: NDArray[np.intp], ends: NDArray[np.intp], smooth: NDArray[np.float32]
) -> tuple[float, float] | None:
    """Slant ranges between which a shadow lies behind a ball, bare bottom before it; None where there is none."""
    step = look.step_m
    start = max(int(ends.max()) + 1, int(np.median(look.bed[rows])) + int(0.3 / step))
    if start >= look.range_m.size - int(_SHADE_M / step) - 2:
        return None
    part = smooth[rows[0] : rows[-1] + 1, start:]
    usual = np.median(part, axis=0)
    dark = usual < _SHADE
    labels, count = ndimage.label(dark)
    best: tuple[int, int] | None = None
    for n in range(1, count + 1):
        at = np.flatnonzero(labels == n)
        if at.size * step < _SHADE_M or (best is not None and at.size <= best[1] - best[0]):
            continue
        wide = float((part[:, at[0] : at[-1] + 1].mean(axis=1) < _SHADE).mean())
        if wide >= _SHADE_SHARE:
            best = int(at[0]), int(at[-1]) + 1
    if best is None or best[0] * step < _GAP_M:
        return None
    bare = float(np.median(part[:, : best[0]]))
    if not _BARE[0] <= bare <= _BARE[1]:
        return None
    return float(look.range_m[start + best[0]]), float(look.range_m[min(start + best[1], look.range_m.size - 1)])


def _joined(
    look: SideLook, here: NDArray[np.bool_], window: tuple[slice, slice], smooth: NDArray[np.float32]
) -> bool:
    """Whether it is bright faces with their own shadows close behind: stones, not a cloud with bare bottom behind."""
    behind = max(int(_JOINED_M / look.step_m), 2)
    rows = np.flatnonzero(here.any(axis=1))
    ends = here.shape[1] - here[rows, ::-1].argmax(axis=1) + window[1].start
    first = here[rows].argmax(axis=1) + window[1].start
    dark = [
        float(smooth[r + window[0].start, e : e + behind].mean()) < _SHADE
        or float((smooth[r + window[0].start, a:e] < 1.0).mean()) > _HOLES
        for r, a, e in zip(rows.tolist(), first.tolist(), ends.tolist(), strict=True)
    ]
    return float(np.mean(dark)) > _JOINED_SHARE


def one_ball_once(balls: list[SideSchool]) -> list[SideSchool]:
    """One report a ball: the longest of those that overlap."""
    kept: list[SideSchool] = []
    for one in sorted(balls, key=lambda b: -b.length_m):
        if not any(
            k.side == one.side
            and one.time_start <= k.time_end
            and k.time_start <= one.time_end
            and one.near_m < k.far_m + _SAME_BALL_M
            and k.near_m < one.far_m + _SAME_BALL_M
            for k in kept
        ):
            kept.append(one)
    return kept
