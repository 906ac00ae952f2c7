"""Things seen in the coarse picture: surface clutter, bait, what stands on the bottom, the cold layer."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from plumbbob.core.sonar.coarse import Coarse
from plumbbob.core.stats import masked_percentile, running_extreme, running_mean
from plumbbob.core.types import Floats, Levels, Mask

_CHUNK = 4096
_OVERLAP = 256  # columns
_FRINGE = 0.25
_LOUD_DB = 8.0  # over the usual: a sample full of echo
_OUTLINE_POINTS = 48
_CLOUD_COLUMN_S = 0.1  # clouds are looked for in columns of about this long


def clutter_depth(coarse: Coarse, bottom_m: Floats, *, over_db: float = 6.0) -> Floats:
    """
    Depth down to which surface clutter hides everything, shape (pings,): measured, not fixed.

    Notes
    -----
    From the surface down as long as the level, averaged over three pings, stays over the noise; half a metre of
    quiet water ends it.
    """
    n = len(coarse.packed)
    out = np.full(n, coarse.top_m)
    quiet_bins = max(round(0.5 / coarse.bin_m), 2)
    for start in range(0, n, _CHUNK):
        low, high = max(start - 2, 0), min(start + _CHUNK + 2, n)
        levels = running_mean(coarse.levels(low, high), 3, 0)
        quiet = levels < over_db
        run = quiet.copy()
        for k in range(1, quiet_bins):
            run[:, :-k] &= quiet[:, k:]
        first = np.where(run.any(axis=1), run.argmax(axis=1), run.shape[1])
        stop = min(start + _CHUNK, n)
        out[start:stop] = coarse.top_m + coarse.bin_m * first[start - low : stop - low]
    # one quiet ping among loud ones is a hole in the clutter, not its end
    out = ndimage.percentile_filter(out, 70, size=5, mode="nearest")
    return np.where(np.isfinite(bottom_m), np.minimum(out, bottom_m), out)


@dataclass(frozen=True, slots=True, kw_only=True)
class Cloud:
    """A region of dense echo in the coarse picture: indices of pings, depths, what it touches."""

    first: int
    last: int  # inclusive
    top_m: float
    base_m: float
    level_db: float
    on_bottom: bool
    height_m: float  # of its top over the bottom, where it stands on it
    fill: float = float("nan")  # share of loud samples inside its outline
    outline: tuple[tuple[int, float, float], ...] = ()  # (ping, top, base) of its columns


def clouds(coarse: Coarse, bottom_m: Floats, clutter_m: Floats, interval_s: float) -> list[Cloud]:
    """
    Dense regions between clutter and bottom: bait, weed, timber.

    Notes
    -----
    Averaged over about half a second and 0.3 m, over the usual level of that depth; a region counts where nearly
    all of it is loud. A single arc is one pulse thick and does not fill such a cell.
    """
    found: list[Cloud] = []
    n = len(coarse.packed)
    group = max(round(_CLOUD_COLUMN_S / max(interval_s, 1e-3)), 1)
    columns = max(round(0.5 / max(interval_s * group, 1e-3)), 3)
    bins = max(round(0.3 / coarse.bin_m), 2)
    chunk = _CHUNK // group * group
    for start in range(0, n, chunk):
        low, high = max(start - _OVERLAP * group, 0), min(start + chunk + _OVERLAP * group, n)
        levels = _grouped_mean(coarse.levels(low, high), group)
        depth = coarse.depth_m[None, :]
        bed = _grouped_least(np.where(np.isfinite(bottom_m[low:high]), bottom_m[low:high], np.inf), group)[:, None]
        ceiling = -_grouped_least(-clutter_m[low:high], group)
        water = (depth > ceiling[:, None]) & (depth < bed - 0.6 * coarse.bin_m)
        contrast = np.where(water, levels - background(levels, water)[None, :], np.float32(-20.0))
        # under the loudest echo near it in the same ping a sample must not fall far: a fish is one pulse thick
        # however loud, a cloud is loud all the way through
        nearby = running_extreme(contrast, 2 * round(0.7 / coarse.bin_m) + 1, 1, largest=True)
        for on_bottom, loud in ((False, contrast > np.maximum(4.0, nearby - 13.0)), (True, contrast > 4.0)):
            body = _dense(loud, water, columns, bins, coarse.bin_m)
            labels, _ = ndimage.label(body, np.ones((3, 3), int))
            for k, where in enumerate(ndimage.find_objects(labels), start=1):
                if where is None:
                    continue
                middle = low + group * (where[0].start + where[0].stop) / 2
                if not start <= middle < start + chunk:
                    continue
                cloud = _cloud(coarse, labels[where] == k, where, contrast[where], bed, ceiling)
                if cloud is not None and cloud.on_bottom == on_bottom:
                    found.append(_in_pings(cloud, low, group, n))
    return found


def _grouped_mean(levels: Levels, group: int) -> Levels:
    """Mean over runs of pings; shape (columns, bins)."""
    if group == 1:
        return levels
    edges = np.arange(0, len(levels), group)
    count = np.diff(np.append(edges, len(levels))).astype(np.float32)
    return np.asarray(np.add.reduceat(levels, edges, axis=0) / count[:, None], np.float32)


def _grouped_least(values: Floats, group: int) -> Floats:
    """Least value of each run of pings."""
    return np.minimum.reduceat(values, np.arange(0, len(values), group))


def _in_pings(cloud: Cloud, low: int, group: int, n: int) -> Cloud:
    """Columns back to pings of the recording."""
    last = min(low + group * (cloud.last + 1) - 1, n - 1)
    half = group // 2
    return replace(
        cloud,
        first=low + group * cloud.first,
        last=last,
        outline=tuple((min(low + group * c + half, n - 1), t, b) for c, t, b in cloud.outline),
    )


def _dense(loud: Mask, water: Mask, pings: int, bins: int, bin_m: float) -> Mask:
    """Where nearly all samples of a cell are loud, and of the cells around it."""
    fill = running_mean(running_mean(loud.astype(np.float32), pings, 0), bins + 1, 1)
    body = (fill > 0.62) & water
    body = _opened(body, (max(pings // 2, 2), max(round(0.4 / bin_m), 2)))
    return ~_opened(~body, (pings, 3)) & water


def _opened(mask: Mask, size: tuple[int, int]) -> Mask:
    """Opening by a rectangle, an axis at a time."""
    out = mask.view(np.uint8)
    for largest in (False, True):
        for axis, width in enumerate(size):
            out = running_extreme(out, width, axis, largest=largest)
    return out.view(bool)


def background(levels: Levels, water: Mask) -> Levels:
    """The usual level at each depth where there is open water, decibels over the noise, shape (bins,)."""
    thin = max(len(levels) // 1000, 1)
    usual = masked_percentile(levels[::thin], water[::thin], 40, max(16, len(levels) // (20 * thin)))
    return np.clip(np.nan_to_num(usual, nan=0.0), -4.0, 30.0).astype(np.float32)


def _cloud(
    coarse: Coarse, body: Mask, where: tuple[slice, slice], contrast: Levels, bed: Floats, ceiling: Floats
) -> Cloud | None:
    """Measure one connected region, in columns; None for the fringe of the surface clutter."""
    thick = body.sum(axis=1)
    # the beam meets a cloud before the boat is over it: the thin fringe at both ends is beam, not cloud
    rows = np.flatnonzero(thick >= max(_FRINGE * thick.max(), 1))
    # cells of half a second widen it by a column or two more, and an opening of even size leans back
    rows = rows[1:-2] if rows.size > 8 else rows
    top = body.argmax(axis=1)[rows]
    base = body.shape[1] - 1 - body[:, ::-1].argmax(axis=1)[rows]
    top_m = coarse.top_m + coarse.bin_m * (where[1].start + top)
    base_m = coarse.top_m + coarse.bin_m * (where[1].start + base)
    ground = bed[where[0].start + rows, 0]
    near_bed = float(np.mean(base_m > ground - max(0.45, 2.5 * coarse.bin_m)))
    late = 0.0 if near_bed > 0.5 else coarse.bin_m  # an echo ends a pulse after its target does
    every = max(len(rows) // _OUTLINE_POINTS, 1)
    hull = (np.arange(body.shape[1]) >= top[:, None]) & (np.arange(body.shape[1]) <= base[:, None])
    at_surface = float(np.mean(top_m < ceiling[where[0].start + rows] + 1.5 * coarse.bin_m))
    if at_surface > 0.5 and near_bed < 0.5:
        return None
    return Cloud(
        first=where[0].start + int(rows[0]),
        last=where[0].start + int(rows[-1]),
        top_m=float(np.percentile(top_m, 10)),
        base_m=float(np.percentile(base_m, 90)) - late,
        level_db=float(contrast[body].mean()),
        on_bottom=near_bed > 0.5,
        height_m=float(np.percentile(ground - top_m, 90)) if np.isfinite(ground).all() else float("nan"),
        fill=float((contrast[rows] > _LOUD_DB)[hull].mean()),
        outline=tuple(
            (where[0].start + int(r), float(t), float(b) - late)
            for r, t, b in zip(rows[::every], top_m[::every], base_m[::every], strict=True)
        ),
    )


_LAYER_WINDOW_S = 12.0
_LAYER_STEP_COST_DB = 0.6  # per bin from window to window
_LAYER_LEAST_DB = 1.0
_LAYER_LEAST_SHARE = 0.5
_LAYER_THICKEST_M = 2.6
_LAYER_PATCHY_DB = 2.2


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Band:
    """A level band of weak echo."""

    depth_m: float
    thickness_m: float
    confidence: float
    depth_sd_m: float
    share: float  # of the windows deep enough for it in which it shows
    pings: NDArray[np.intp]  # middles of those windows
    path_m: Floats  # its depth in each


def find_cold_layer(coarse: Coarse, bottom_m: Floats, clutter_m: Floats, interval_s: float) -> Band | None:
    """
    A level band of weak echo that keeps its depth whatever the bottom does.

    Returns
    -------
    Band or None
        None where nothing stands out: an honest "none".

    Notes
    -----
    Medians over some seconds leave steady weak scatter and drop fish. In each window a band must be louder than the
    water above and below; the best smooth path of such bands through the recording is kept if it is there most of
    the time, is neither thick nor patchy, and does not copy the bottom. Bait fails the last two, surface clutter the
    first (it only ever falls off with depth).
    """
    profiles, bed = _layer_profiles(coarse, bottom_m, clutter_m, interval_s)
    if len(profiles) < 3:
        return None
    score = _band_scores(profiles, coarse.bin_m)
    path = _smooth_path(np.where(np.isfinite(score), score, 0.0))
    along = score[np.arange(len(path)), path]
    known = np.isfinite(along)
    # where the water is too shallow for the layer, nothing can be said
    if known.sum() < max(3, 0.25 * len(path)):
        return None
    there = along[known] > 0.6 * _LAYER_LEAST_DB
    share = float(there.mean())
    if share < _LAYER_LEAST_SHARE:
        return None
    depth = coarse.depth_m[path]
    rows = np.flatnonzero(known)[there]
    strength = float(np.median(along[rows]))
    if strength < _LAYER_LEAST_DB:
        return None
    mean, thickness = _aligned_band(profiles[rows], path[rows], coarse.bin_m)
    if thickness > _LAYER_THICKEST_M or _copies_bottom(depth[rows], bed[rows]):
        return None
    unevenness = float(np.std(along[rows]) / max(strength, 0.1))
    if unevenness > 0.9 or _patchiness_db(coarse, path, rows, _window_pings(interval_s)) > _LAYER_PATCHY_DB:
        return None
    confidence = float(np.clip(share * (1 - np.exp(-strength / 2.0)) * (1.2 - unevenness), 0.0, 0.99))
    middle = float(np.median(depth[rows])) + mean
    sd = float(np.hypot(np.std(depth[rows]) / max(np.sqrt(rows.size), 1.0), coarse.bin_m / 2))
    width = _window_pings(interval_s)
    return Band(
        depth_m=middle,
        thickness_m=thickness,
        confidence=confidence,
        depth_sd_m=sd,
        share=share,
        pings=np.minimum(rows * width + width // 2, len(bottom_m) - 1),
        path_m=depth[rows] + mean,
    )


def _window_pings(interval_s: float) -> int:
    """Pings of one window of the layer's search."""
    return max(round(_LAYER_WINDOW_S / max(interval_s, 1e-3)), 20)


def _patchiness_db(coarse: Coarse, path: NDArray[np.intp], rows: NDArray[np.intp], width: int) -> float:
    """
    How much the band's level wanders from ping to ping, decibels: speckle alone gives 1 to 2, bait more.

    Notes
    -----
    Mean over half a metre and seven pings; half the span between the 15th and the 85th percentile of each window,
    median over windows. A fish now and then does not move percentiles; clouds of bait in a row do.
    """
    half = max(round(0.25 / coarse.bin_m), 1)
    spans = []
    for i in rows.tolist():
        low = max(int(path[i]) - half, 0)
        band = coarse.levels(i * width, (i + 1) * width)[:, low : int(path[i]) + half + 1].mean(axis=1)
        spans.append(np.ptp(np.percentile(ndimage.uniform_filter1d(band, 7), [15, 85])) / 2)
    return float(np.median(spans))


def _layer_profiles(coarse: Coarse, bottom_m: Floats, clutter_m: Floats, interval_s: float) -> tuple[Floats, Floats]:
    """Median level of each window and bin (NaN where it is not open water), and each window's least bottom depth."""
    n = len(coarse.packed)
    width = _window_pings(interval_s)
    depth = coarse.depth_m
    profiles, beds = [], []
    for start in range(0, n - width // 2, width):
        levels = coarse.levels(start, start + width)
        bed = bottom_m[start : start + width]
        ground = np.where(np.isfinite(bed), bed, coarse.depth_m[-1])[:, None] - 0.5
        water = (depth[None, :] > clutter_m[start : start + width, None]) & (depth[None, :] < ground)
        water &= levels > -15.0
        profiles.append(masked_percentile(levels, water, 50, int(0.4 * len(levels)) + 1))
        beds.append(float(np.nanmin(bed)) if np.isfinite(bed).any() else np.nan)
    return np.asarray(profiles).reshape(-1, depth.size), np.asarray(beds)


def _shifted(profile: Floats, low: int, high: int) -> Floats:
    """Mean over bins +low .. +high of each bin; NaN if any is unknown."""
    n = profile.shape[1]
    total = np.zeros(profile.shape)
    for k in range(low, high + 1):
        if k >= 0:
            total[:, : n - k] += profile[:, k:]
            total[:, n - k :] = np.nan
        else:
            total[:, -k:] += profile[:, : n + k]
            total[:, :-k] = np.nan
    return total / (high - low + 1)


def _band_scores(profiles: Floats, bin_m: float) -> Floats:
    """How much louder each bin's band is than the louder of its two flanks, best over three thicknesses."""
    best = np.full(profiles.shape, np.nan)
    for thickness in (0.4, 0.8, 1.5):
        half = max(round(thickness / 2 / bin_m), 0)
        gap = max(round(0.3 / bin_m), 1)
        wide = max(round(0.5 / bin_m), 2)
        centre = _shifted(profiles, -half, half)
        above = _shifted(profiles, -half - gap - wide, -half - gap)
        below = _shifted(profiles, half + gap, half + gap + wide)
        best = np.fmax(best, centre - np.maximum(above, below))
    return best


def _smooth_path(score: Floats) -> NDArray[np.intp]:
    n, bins = score.shape
    reach = min(4, bins - 1)
    moves = np.arange(-reach, reach + 1)
    total = score[0].copy()
    back = np.zeros((n, bins), np.intp)
    for i in range(1, n):
        padded = np.pad(total, reach, constant_values=-1e9)
        options = np.lib.stride_tricks.sliding_window_view(padded, 2 * reach + 1)
        options = options - _LAYER_STEP_COST_DB * np.abs(moves)
        back[i] = options.argmax(axis=1)
        total = options.max(axis=1) + score[i]
    path = np.zeros(n, np.intp)
    path[-1] = int(total.argmax())
    for i in range(n - 1, 0, -1):
        path[i - 1] = path[i] + moves[back[i, path[i]]]
    return path


def _aligned_band(profiles: Floats, path: NDArray[np.intp], bin_m: float) -> tuple[float, float]:
    """Offset of the band's centre from the path and its width at half its height, from profiles laid on the path."""
    reach = max(round(2.5 / bin_m), 4)
    index = path[:, None] + np.arange(-reach, reach + 1)[None, :]
    inside = (index >= 0) & (index < profiles.shape[1])
    values = np.where(inside, np.take_along_axis(profiles, np.clip(index, 0, profiles.shape[1] - 1), axis=1), np.nan)
    count = np.isfinite(values).sum(axis=0)
    mean = np.where(count > 0, np.nansum(values, axis=0) / np.maximum(count, 1), np.nan)
    base = np.nanpercentile(mean, 25)
    peak = np.nanmax(mean[reach - 2 : reach + 3])
    half = (base + peak) / 2
    low = high = reach
    # outwards from the middle until half way down, or until something else begins to rise there
    while low > 0 and half <= mean[low - 1] <= mean[low] + 0.3:
        low -= 1
    while high < 2 * reach and half <= mean[high + 1] <= mean[high] + 0.3:
        high += 1
    weights = np.clip(mean[low : high + 1] - base, 0.0, None)
    if not weights.sum() > 0:
        return 0.0, bin_m
    offset = float(np.average(np.arange(low, high + 1) - reach, weights=weights)) * bin_m
    return offset, (high - low + 1) * bin_m


def _copies_bottom(depth: Floats, bed: Floats) -> bool:
    good = np.isfinite(bed)
    if good.sum() < 4 or np.std(bed[good]) < 0.4:
        return False
    return bool(abs(np.polyfit(bed[good], depth[good], 1)[0]) > 0.4)
