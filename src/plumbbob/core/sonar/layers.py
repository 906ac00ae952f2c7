"""Things seen in the coarse picture: surface clutter, bait, what stands on the bottom."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
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
