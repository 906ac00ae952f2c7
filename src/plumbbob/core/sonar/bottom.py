"""
The bottom under every ping, and how hard it is.

The path is found over the whole recording at once: dynamic programming over depth bins, where a bin scores by how
much louder it is than what hangs above it, and where jumping costs. "Lost" is a place on that path like any other,
so a bottom out of range is told as lost instead of guessed. The edge is then measured in the samples themselves.
"""

from __future__ import annotations

from collections.abc import Callable
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from plumbbob.core.sonar.beam import range_to_vertical, slope_under
from plumbbob.core.sonar.blocks import Block
from plumbbob.core.sonar.coarse import Coarse
from plumbbob.core.types import Floats, Levels

_LOST_SCORE_DB = 13.0  # an edge weaker than this is no bottom
_JUMP_COST_DB = 1.2  # per bin and ping
_LOSE_COST_DB = 25.0
_CHUNK = 4096
_RUN = 1024  # pings solved for at a time, with this much
_OVERLAP = 256  # of the neighbours on each side,
_RUNS = 16  # so many runs at once
_ABOVE_WEIGHT = 0.45
_AFTER_M = 0.45
_BEFORE_M = (0.6, 0.15)
_ISLAND_S = 8.0
_LEAP_M, _LEAP_SHARE, _SLOPE_DOUBT = 1.5, 0.15, 0.5  # from ping to ping no bottom leaps so far
_SHALLOWEST_M = 0.8
_TAIL_M, _TAIL_SHARE = (0.5, 1.5), 0.25
_LEAST_REACH_M = 0.5
_STEEPEST_SHOWN = 1.2
_EDGE_BELOW_PLATEAU_DB = 6.0  # an echo has met the bed when half the pulse is in it, about


def _running_means(levels: Levels, first: int, last: int) -> Levels:
    """Mean over bins b+first .. b+last-1 for every b, edge bins repeated."""
    pad_low, pad_high = max(-first, 0), max(last, 0)
    padded = np.pad(levels, ((0, 0), (pad_low, pad_high)), mode="edge")
    total = np.cumsum(padded, axis=1, dtype=np.float32)
    total = np.pad(total, ((0, 0), (1, 0)))
    n = levels.shape[1]
    low = np.arange(n) + first + pad_low
    return (total[:, low + (last - first)] - total[:, low]) / np.float32(last - first)


def edge_scores(levels: Levels, bin_m: float, first_depth_m: float) -> Levels:
    """
    How much each bin looks like the top of the bottom, decibels, shape (pings, bins).

    Loud for half a metre from here on, and quieter above: an echo that starts. What is above weighs half, so that
    weed or bait on the bottom does not hide it. Surface clutter that is there all the time is taken off first.
    """
    after = max(round(_AFTER_M / bin_m), 1)
    before = (-max(round(_BEFORE_M[0] / bin_m), 2), -max(round(_BEFORE_M[1] / bin_m), 1))
    if before[0] >= before[1]:
        before = (before[1] - 1, before[1])
    usual = np.percentile(levels[:: max(len(levels) // 256, 1)], 60, axis=0)
    clutter = np.minimum.accumulate(np.maximum(usual, 0.0)).astype(np.float32)
    above = _running_means(levels, *before)
    score = _running_means(levels - clutter, 0, after) - _ABOVE_WEIGHT * np.maximum(above - clutter, 0.0)
    score[:, first_depth_m + bin_m * np.arange(levels.shape[1]) < _SHALLOWEST_M] -= 20.0
    return score


def best_path(scores: Levels) -> NDArray[np.intp]:
    """
    The bin of the bottom in every ping, -1 where it is lost.

    Parameters
    ----------
    scores : ndarray of float32, shape (runs, pings, bins)
        Several runs of pings, each solved for itself, all at once.

    Returns
    -------
    ndarray of int, shape (runs, pings)

    Notes
    -----
    Viterbi over bins plus one lost state. A move of k bins costs k times a fixed price, so the best way to every bin
    is a running maximum from above and one from below.
    """
    runs, n, bins = scores.shape
    rows = np.arange(bins, dtype=np.int16)
    price = (_JUMP_COST_DB * rows).astype(np.float32)
    came_from = np.zeros((n, runs, bins), np.int16)  # bin of the ping before; -1 means "was lost"
    back_lost = np.full((n, runs), -1, np.int16)  # bin it was in before it was lost; -1 means "was lost already"
    total = scores[:, 0].copy()
    lost = np.full(runs, _LOST_SCORE_DB, np.float32)
    for i in range(1, n):
        above, above_from = _running_best(total + price, rows)
        below, below_from = _running_best((total - price)[:, ::-1], rows)
        above -= price
        below = below[:, ::-1] + price
        best = np.maximum(above, below)
        source = np.where(above >= below, above_from, bins - 1 - below_from[:, ::-1])
        from_lost = (lost - np.float32(_LOSE_COST_DB))[:, None]
        came_from[i] = np.where(from_lost > best, np.int16(-1), source)
        top = total.argmax(axis=1)
        lost_from_bottom = np.take_along_axis(total, top[:, None], axis=1)[:, 0] - np.float32(_LOSE_COST_DB)
        back_lost[i] = np.where(lost_from_bottom > lost, top, -1)
        lost = np.maximum(lost, lost_from_bottom) + np.float32(_LOST_SCORE_DB)
        total = np.maximum(best, from_lost) + scores[:, i]
    path = np.full((runs, n), -1, np.intp)
    at = np.where(total.max(axis=1) >= lost, total.argmax(axis=1), -1)
    every = np.arange(runs)
    for i in range(n - 1, -1, -1):
        path[:, i] = at
        at = np.where(at < 0, back_lost[i], came_from[i, every, np.maximum(at, 0)])
    return path


def _running_best(values: Levels, rows: NDArray[np.int16]) -> tuple[Levels, NDArray[np.int16]]:
    """Largest value so far along each row, and where it was."""
    best = np.maximum.accumulate(values, axis=1)
    return best, np.maximum.accumulate(np.where(values >= best, rows, np.int16(0)), axis=1)


def follow(coarse: Coarse, interval_s: float, tick: Callable[[int], None]) -> Floats:
    """Depth of the bottom in every ping to about a bin, NaN where lost; shape (pings,)."""
    n = len(coarse.packed)
    path = np.full(n, -1, np.intp)
    length = min(_RUN + 2 * _OVERLAP, n)
    for group in range(0, n, _RUN * _RUNS):
        starts = list(range(group, min(group + _RUN * _RUNS, n), _RUN))
        lows = [min(max(s - _OVERLAP, 0), n - length) for s in starts]
        scores = np.stack([edge_scores(coarse.levels(low, low + length), coarse.bin_m, coarse.top_m) for low in lows])
        for start, low, piece in zip(starts, lows, best_path(scores), strict=True):
            stop = min(start + _RUN, n)
            path[start:stop] = piece[start - low : stop - low]
            tick(stop - start)
    depth = np.where(path >= 0, coarse.top_m + coarse.bin_m * path, np.nan)
    island = max(round(_ISLAND_S / max(interval_s, 1e-3)), 3)
    return without_islands(_under_what_hangs(coarse, depth, island), island)


def _under_what_hangs(coarse: Coarse, depth_m: Floats, most_pings: int) -> Floats:
    """
    Follow the bottom again under short leaps into the water: bait or fish over a cliff whose own echo is weak.

    Where nothing shows underneath, it stays: a pillar hides what is below.
    """
    out = depth_m.copy()
    known = np.flatnonzero(np.isfinite(depth_m))
    if known.size < 4:
        return out
    step = np.diff(depth_m[known])
    leaps = np.abs(step) > np.maximum(_LEAP_M, _LEAP_SHARE * depth_m[known[:-1]])
    edges = np.concatenate([[0], np.flatnonzero(leaps) + 1, [known.size]])
    for a, b in pairwise(edges[1:-1]):
        first, last = int(known[a]), int(known[b - 1])
        before, after = float(depth_m[known[a - 1]]), float(depth_m[known[b]])
        if last - first > most_pings or float(np.nanmax(depth_m[first : last + 1])) > min(before, after) - _LEAP_M:
            continue
        low, high = max(first - most_pings, 0), min(int(known[b]) + most_pings, depth_m.size)
        scores = edge_scores(coarse.levels(low, high), coarse.bin_m, coarse.top_m)
        least = np.interp(np.arange(low, high), [first, int(known[b])], [before, after]) - _SLOPE_DOUBT * abs(
            after - before
        )
        least = np.minimum(least, min(before, after)) - _LEAP_M / 2
        bins = coarse.top_m + coarse.bin_m * np.arange(scores.shape[1])
        scores[bins[None, :] < least[:, None]] = -40.0
        again = best_path(scores[None])[0]
        piece = slice(first, int(known[b]))
        found = again[first - low : int(known[b]) - low]
        if (found >= 0).mean() > 0.3:
            out[piece] = np.where(found >= 0, coarse.top_m + coarse.bin_m * found, np.nan)
    return out


def without_islands(depth_m: Floats, least_pings: int) -> Floats:
    """Leave out short stretches of bottom in lost water: bait and fish echo too, but pass; a bottom goes on."""
    out = depth_m.copy()
    known = np.isfinite(depth_m)
    for run in np.split(np.arange(depth_m.size), np.flatnonzero(np.diff(known)) + 1):
        if run.size < min(least_pings, depth_m.size):
            out[run] = np.nan
    return out


def measure_edge(block: Block, levels: Levels, coarse_range_m: Floats, bin_m: float, pulse_m: float) -> Floats:
    """
    Range at which the bottom's echo starts, measured in the samples.

    Parameters
    ----------
    block, levels : the pings and their levels over the noise, (pings, samples)
    coarse_range_m : ndarray (pings,)
        Where the path says it is; NaN stays NaN.
    bin_m : float
        How coarse that is.
    pulse_m : float
        c tau / 2: the edge of an echo rises over about this length.

    Notes
    -----
    Speckle is averaged over three pings, then the first sample is taken that reaches half way (in decibels)
    between what is above and the echo's own plateau.
    """
    step = block.step_m
    found = np.isfinite(coarse_range_m)
    if not found.any():
        return np.full(coarse_range_m.shape, np.nan)
    half = int(np.ceil((2.5 * bin_m + 0.3) / step))
    length = int(np.ceil(max(0.35, 2 * pulse_m) / step))
    centre = np.where(found, (np.nan_to_num(coarse_range_m) - block.range_m[0]) / step, 0).astype(np.intp)
    index = centre[:, None] + np.arange(-half, half + length)[None, :]
    index = np.clip(index, 0, block.range_m.size - 1)
    window = np.take_along_axis(levels, index, axis=1)
    # the three-ping mean follows the path, so a slope is not smeared
    smooth = window.copy()
    smooth[1:-1] = (window[:-2] + window[1:-1] + window[2:]) / 3
    smooth = _running_means(smooth, -1, 2)
    plateau = np.percentile(smooth[:, half:], 80, axis=1)
    above = np.maximum(np.percentile(smooth[:, : max(half // 2, 1)], 50, axis=1), 0.0)
    threshold = np.maximum(plateau - _EDGE_BELOW_PLATEAU_DB, (plateau + above) / 2)
    over = smooth >= threshold[:, None]
    # the edge is the last rise that then stays up for half a pulse
    stay = max(round(0.5 * pulse_m / step), 1)
    steady = over.copy()
    for k in range(1, stay + 1):
        steady[:, :-k] &= over[:, k:]
    first = steady.argmax(axis=1)
    edge = block.range_m[np.take_along_axis(index, first[:, None], axis=1)[:, 0]]
    return np.where(found & steady.any(axis=1), edge, np.where(found, coarse_range_m, np.nan))


def lie_of_the_bottom(range_m: Floats, along_m: Floats, beam_width_deg: float) -> tuple[Floats, Floats]:
    """
    Vertical distance straight down and the slope along the pass, from the first echo's ranges.

    Parameters
    ----------
    range_m : ndarray (pings,)
        Range to the first bottom echo; NaN where lost.
    along_m : ndarray (pings,)
        Way made, never falling.
    beam_width_deg : float

    Returns
    -------
    vertical_m, slope_deg : ndarrays (pings,)
        NaN where the bottom is lost. Only a slope beyond its own spread counts, so roughness makes no depth.
        A slope across the pass can't be seen by one round beam and stays in.

    Notes
    -----
    A line through the ranges over the width of the beam's footprint gives the shown slope; docs/handbook.md 1.7
    turns it into the true one.
    """
    good = np.isfinite(range_m)
    r = np.where(good, range_m, 0.0)
    reach = np.maximum(r * np.tan(np.radians(beam_width_deg / 2)), _LEAST_REACH_M)
    low = np.searchsorted(along_m, along_m - reach)
    high = np.searchsorted(along_m, along_m + reach, side="right")
    x0 = along_m - along_m[0] if along_m.size else along_m

    def total(values: Floats) -> Floats:
        sums = np.concatenate(([0.0], np.cumsum(np.where(good, values, 0.0))))
        return np.asarray(sums[high] - sums[low])

    n = np.maximum(total(np.ones(r.size)), 1.0)
    mx, mr = total(x0) / n, total(r) / n
    sxx = np.maximum(total(x0**2) - n * mx**2, 0.0)
    sxr, srr = total(x0 * r) - n * mx * mr, np.maximum(total(r**2) - n * mr**2, 0.0)
    enough = good & (n >= 5) & (sxx > (0.15 * reach) ** 2 * n)
    slope = np.where(enough, sxr / np.maximum(sxx, 1e-9), 0.0)
    spread = np.sqrt(np.maximum(srr - slope * sxr, 0.0) / np.maximum(n - 2, 1) / np.maximum(sxx, 1e-9))
    sure = np.minimum(np.maximum(np.abs(slope) - spread, 0.0), _STEEPEST_SHOWN)
    true = slope_under(sure, beam_width_deg)
    vertical = np.where(good, range_to_vertical(range_m, true, beam_width_deg), np.nan)
    return vertical, np.where(good, np.degrees(true) * np.sign(slope), np.nan)


def hardness(coarse: Coarse, depth_m: Floats) -> Floats:
    """
    Hardness from the second bottom echo and from the first echo's tail, 0 to 1; NaN where the bottom is lost.

    Notes
    -----
    The second echo has met the bottom twice: the level it lost against the first is the bottom's loss (Orlowski
    1984; Chivers et al. 1990). The tail of the first echo, half a metre to a metre and a half under its edge, comes
    from the rim of the beam and grows with roughness; it counts a quarter. Where the range does not reach the second
    echo, level and tail of the first must do. All are put on the recording's own scale, so this compares within one
    recording only.
    """
    n = len(coarse.packed)
    first, second, tail = np.full(n, np.nan), np.full(n, np.nan), np.full(n, np.nan)
    bins = coarse.packed.shape[1]
    for start in range(0, n, _CHUNK):
        levels = coarse.levels(start, start + _CHUNK)
        d = depth_m[start : start + _CHUNK]
        good = np.isfinite(d)
        if not good.any():
            continue
        rows = np.flatnonzero(good)

        def loudest(at_m: Floats, rows: NDArray[np.intp], levels: Levels, reach_m: float) -> Floats:
            wide = max(round(reach_m / coarse.bin_m), 2)
            index = ((at_m - coarse.top_m) / coarse.bin_m).astype(np.intp)[:, None] + np.arange(wide)[None, :]
            inside = index < bins
            values = np.take_along_axis(levels[rows], np.clip(index, 0, bins - 1), axis=1)
            values = np.where(inside & (values > -15.0), values, np.nan)
            out = np.full(len(rows), np.nan)
            some = np.isfinite(values).sum(axis=1) >= 2
            out[some] = np.nanmax(values[some], axis=1)
            return out

        tail[start + rows] = loudest(d[rows] + _TAIL_M[0], rows, levels, _TAIL_M[1] - _TAIL_M[0])
        first[start + rows] = loudest(d[rows] - coarse.bin_m, rows, levels, 0.8)
        # the image under the bed lies at twice the depth: the draft counts twice in both
        second[start + rows] = loudest(2 * d[rows] - coarse.bin_m, rows, levels, 1.2)
    level = _freed_of_depth(_smoothed(first, 31), depth_m)
    after = _freed_of_depth(_smoothed(tail, 31), depth_m)
    return _scaled(level, after, _smoothed(second, 31) - _smoothed(first, 31), _smoothed(second, 31))


def _smoothed(values: Floats, width: int) -> Floats:
    good = np.isfinite(values)
    kernel = np.ones(min(width, max(values.size, 1)))
    total = np.convolve(np.where(good, values, 0.0), kernel, mode="same")
    count = np.convolve(good.astype(float), kernel, mode="same")
    return np.where(good & (count > 0), total / np.maximum(count, 1), np.nan)


def _freed_of_depth(level: Floats, depth_m: Floats) -> Floats:
    """Spreading and absorption left in the levels: a straight line in log depth takes them off; median 0."""
    good = np.isfinite(level)
    if not good.any():
        return level
    span = np.log10(np.maximum(depth_m, 0.5))
    if good.sum() > 50 and np.ptp(span[good]) > 0.08:
        slope = np.polyfit(span[good], level[good], 1)[0]
        level = level - np.clip(slope, -40.0, 10.0) * (span - np.median(span[good]))
    return np.asarray(level - np.median(level[good]))


def _scaled(first: Floats, tail: Floats, ratio: Floats, second: Floats) -> Floats:
    """0.5 at the recording's median; 15 dB from soft to hard, as the losses of mud and rock lie apart."""
    good = np.isfinite(first)
    if not good.any():
        return np.full(first.shape, np.nan)
    strength = np.where(np.isfinite(tail), (1.0 - _TAIL_SHARE) * first + _TAIL_SHARE * tail, first)
    both = good & np.isfinite(second) & (second > 8.0)
    # a second echo that comes and goes at the end of the range would make hardness jump: all of it, or none
    if both.sum() > max(50, 0.7 * good.sum()):
        strength = np.where(both, 0.5 * strength + 0.5 * (ratio - np.median(ratio[both])), strength)
    return np.where(good, np.clip(0.5 + strength / 15.0, 0.0, 1.0), np.nan)
