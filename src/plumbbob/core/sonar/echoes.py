"""
Single fish from their arcs.

An echo a pulse thick that stands out from the water above and below it is a ridge. Ridges that run on from ping to
ping along R^2 = R0^2 + v^2 (t - t0)^2, for about as long as the beam needs to pass, are fish (docs/handbook.md
1.6). The range history gives the range at closest approach; how the level falls off along the arc against the
pattern of the beam says how far to the side the fish was, where it says anything at all.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from plumbbob.core.sonar.beam import one_way_gain
from plumbbob.core.sonar.trails import LEAST_S, LONGER_THAN_TRANSIT, Piece, follow_ridge
from plumbbob.core.stats import near_groups, running_mean
from plumbbob.core.types import Floats, Levels, Mask


@dataclass(frozen=True, slots=True, kw_only=True)
class EchoSettings:
    """What counts as a single fish."""

    threshold_db: float = 6.0  # over the background, after averaging speckle
    peak_db: float = 8.8  # the strongest stretch of an arc must reach this
    flank_db: float = 5.0  # and stand out this much from just above and below
    least_pings: int = 6
    least_transit: float = 0.4  # of the time an arc through the beam's axis takes
    half_arc_transit: float = 0.5  # the same, for an arc whose apex is at its end
    clear_of_bottom: float = 2.0  # pulses: nearer its own echo runs into the bottom's
    thickest: float = 2.25  # pulses; speckle averaging makes a point target nearly two of them thick


@dataclass(frozen=True, slots=True, kw_only=True)
class Arc:
    """One arc in a run of pings."""

    time: float  # of closest approach
    time_in: float
    time_out: float
    range_m: float  # at closest approach
    range_sd_m: float
    time_sd: float
    level_db: float
    off_axis_m: float
    off_axis_sd_m: float
    pings: int
    misfit_m: float  # root mean square of the trace about the fitted hyperbola


def smooth_levels(contrast: Levels, pings: int, pulse_samples: int) -> Levels:
    """Average speckle over some pings and part of a pulse, in decibels."""
    out = running_mean(contrast, pings, 0)
    if pulse_samples > 1:
        out = running_mean(out, pulse_samples, 1)
    return out


def ridges(smooth: Levels, open_water: Mask, pulse_samples: int, settings: EchoSettings) -> Mask:
    """Samples that are the loudest within a pulse of themselves along the range, and over the threshold."""
    reach = max(pulse_samples, 2)
    over = smooth > settings.threshold_db
    over &= open_water
    out = np.zeros(smooth.shape, bool)
    rows, cols = _places(over)
    if not rows.size:
        return out
    value = smooth[rows, cols]
    best = np.ones(rows.size, bool)
    top = smooth.shape[1] - 1
    for k in range(1, reach + 1):
        best &= value >= smooth[rows, np.maximum(cols - k, 0)]
        best &= value > smooth[rows, np.minimum(cols + k, top)] - (cols + k > top)
    rows, cols, value = rows[best], cols[best], value[best]
    gap = round(1.5 * pulse_samples) + 1
    quiet = np.maximum(smooth[rows, np.maximum(cols - gap, 0)], smooth[rows, np.minimum(cols + gap, top)])
    keep = value - quiet >= 0.5 * settings.flank_db
    out[rows[keep], cols[keep]] = True
    return out


def _places(mask: Mask) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
    """Rows and columns of what is set; several times faster than asking in two dimensions."""
    rows, cols = np.divmod(np.flatnonzero(mask), mask.shape[1])
    return rows, cols


def trace_components(ridge: Mask) -> list[tuple[NDArray[np.intp], NDArray[np.intp]]]:
    """Ridges joined from ping to ping over small gaps: (pings, samples) of each."""
    rows, cols = _places(ridge)
    if not rows.size:
        return []
    which = near_groups(np.column_stack([rows, cols]), _JOIN, p=np.inf)
    order = np.argsort(which, kind="stable")
    rows, cols, which = rows[order], cols[order], which[order]
    cuts = np.flatnonzero(np.diff(which)) + 1
    return list(zip(np.split(rows, cuts), np.split(cols, cuts), strict=True))


def fit_arc(
    time: Floats, range_m: Floats, level_db: Floats, speed_mps: float, pulse_m: float, beam_width_deg: float
) -> Arc:
    """
    Closest approach of one trace.

    Parameters
    ----------
    time, range_m, level_db : ndarrays of shape (k,)
        One point a ping, in order of time; level over the noise.
    speed_mps : float
        Speed of the boat; NaN if unknown.
    pulse_m, beam_width_deg : float

    Notes
    -----
    R^2 = p0 + p1 t + v^2 t^2 is fitted with v free between standing still and twice the boat's speed, since fish
    swim; the apex is kept inside the trace. R0 = sqrt(p0 - p1^2/(4 v^2)).
    """
    centre = float(np.average(time, weights=10 ** (np.clip(level_db, 0, 40) / 20)))
    t = time - centre
    weight = np.clip(level_db, 1.0, 25.0)
    squared = range_m**2
    boat = speed_mps if np.isfinite(speed_mps) else 1.0
    span = max(float(t[-1] - t[0]), 1e-3)
    curve, apex = boat**2, 0.0
    if t.size >= 5 and boat * span > 0.3:
        p2, p1, _ = np.polyfit(t, squared, 2, w=weight)
        curve = float(np.clip(p2, (0.3 * boat) ** 2, (2.0 * boat) ** 2))
        # with the curve given, what is left of R^2 is a straight line in t
        p1, _ = np.polyfit(t, squared - curve * t**2, 1, w=weight)
        apex = float(np.clip(-p1 / (2 * curve), t[0], t[-1]))
    least = np.average(squared - curve * (t - apex) ** 2, weights=weight**2)
    r0 = float(np.sqrt(max(least, 0.01)))
    model = np.sqrt(r0**2 + curve * (t - apex) ** 2)
    misfit = float(np.sqrt(np.average((range_m - model) ** 2, weights=weight)))
    off, off_sd = off_axis(t - apex, level_db, r0, boat, beam_width_deg)
    loud = np.sort(level_db)[-min(3, level_db.size) :]
    return Arc(
        time=centre + apex,
        time_in=float(time[0]),
        time_out=float(time[-1]),
        range_m=r0,
        range_sd_m=float(np.hypot(pulse_m / 4, misfit / np.sqrt(t.size))),
        time_sd=float(min(span / 4, misfit * r0 / max(boat**2 * span, 1e-3) + 0.1)),
        level_db=float(loud.mean()),
        off_axis_m=off,
        off_axis_sd_m=off_sd,
        pings=int(np.unique(time).size),
        misfit_m=misfit,
    )


def off_axis(
    since_apex: Floats,
    level_db: Floats,
    range_m: float,
    speed_mps: float,
    beam_width_deg: float,
) -> tuple[float, float]:
    """
    Distance to the side from how the level falls off along an arc, and its spread; NaN where it can't be told.

    Notes
    -----
    Each side distance y predicts levels 2 B(theta), theta from y and v (t - t0), plus one unknown strength. A beam
    near its axis is nearly a parabola in decibels, whose width no y changes, and a fish that swims against or with
    the boat stretches it: so the likelihood is summed over speeds of the fish too, and boat roll counts as slow
    noise. Only arcs that reach the steep skirt of the beam tell anything, and the spread says so.
    """
    nothing = (float("nan"), float("nan"))
    if level_db.size < 10 or speed_mps < _STILL_MPS:
        return nothing
    half = np.radians(beam_width_deg / 2)
    y = np.linspace(0.0, range_m * np.sin(min(1.6 * half, 1.2)), 21)
    swim = np.linspace(-2.0, 2.0, 9)
    speed = np.maximum(speed_mps + _SWIM_SD_MPS * swim, 0.2)
    along = speed[:, None] * since_apex[None, :]
    depth = np.sqrt(np.maximum(range_m**2 - y**2, 0.01))
    angle = np.arctan2(np.hypot(y[:, None, None], along[None]), depth[:, None, None])
    gain = np.maximum(20 * np.log10(np.maximum(one_way_gain(angle, beam_width_deg), 1e-3)), _SKIRT_DB)
    rest = level_db[None, None, :] - gain
    square = ((rest - rest.mean(axis=2, keepdims=True)) ** 2).sum(axis=2)
    noise = max(float(square.min()) / level_db.size, _LEVEL_SD_DB**2)
    freedom = max(level_db.size / _PINGS_PER_FREEDOM, 1.0) / level_db.size
    weight = np.exp(-0.5 * (square - square.min()) / noise * freedom - 0.5 * swim[None, :] ** 2).sum(axis=1)
    # areas of a ring grow with its radius: fish are met there in proportion
    weight = weight * (y + 0.1)
    weight /= weight.sum()
    mean = float((weight * y).sum())
    sd = float(np.sqrt((weight * (y - mean) ** 2).sum()))
    if sd > min(0.5 * range_m * np.tan(half), 0.8):
        return nothing
    return mean, _SD_CALIBRATION * max(sd, 0.15)


_SWIM_SD_MPS = 0.15
_LEVEL_SD_DB = 2.0  # speckle and roll that the three-ping mean leaves
_PINGS_PER_FREEDOM = 7.0  # neighbouring pings share both
_SKIRT_DB = -36.0
_SD_CALIBRATION = 1.25  # errors over claimed spreads on 126 fish of known place


def find_arcs(
    contrast: Levels,
    time: Floats,
    range_m: Floats,
    ceiling_m: Floats,
    floor_m: Floats,
    speed_mps: float,
    pulse_m: float,
    beam_width_deg: float,
    settings: EchoSettings,
) -> tuple[list[Arc], list[Piece]]:
    """
    All arcs in a run of pings, and all thin traces too long to be arcs.

    Parameters
    ----------
    contrast : ndarray of float32, shape (pings, samples)
        Decibels over the usual level at that range (noise, steady layers).
    time : (pings,)
    range_m : (samples,)
    ceiling_m, floor_m : (pings,)
        Range where surface clutter ends and where the bottom starts; open water is between.
    speed_mps : float
        The boat's, NaN if unknown.
    pulse_m, beam_width_deg : float
    settings : EchoSettings
    """
    step = float(range_m[1] - range_m[0])
    pulse_m = min(pulse_m, step * range_m.size / 16)  # a pulse longer than the picture resolves nothing
    pulse = max(round(pulse_m / step), 1)
    interval = float(np.median(np.diff(time))) if time.size > 1 else 0.1
    smooth = smooth_levels(
        contrast, _pings_to_average(range_m, interval, speed_mps, beam_width_deg), max(round(pulse / 2), 1)
    )
    water = (range_m[None, :] > ceiling_m[:, None]) & (
        range_m[None, :] < (floor_m - max(settings.clear_of_bottom * pulse_m, _LEAST_CLEAR_M))[:, None]
    )
    boat = speed_mps if np.isfinite(speed_mps) else 1.0
    scene = _Scene(time=time, range_m=range_m, boat_mps=boat, pulse_m=pulse_m, beam_width_deg=beam_width_deg)
    found: list[Arc] = []
    long: list[Piece] = []
    for rows, cols in trace_components(ridges(smooth, water, pulse, settings)):
        found += _arcs_of(smooth, rows, cols, scene, settings)
        long += _long_traces(smooth, rows, cols, scene, settings)
    if boat < _SLOW_MPS:
        # a lure let down crosses a sample or two a ping: averaging pings would smear it out
        quick = smooth_levels(contrast, 2, max(round(pulse / 2), 1))
        for rows, cols in trace_components(ridges(quick, water, pulse, settings)):
            falls = _long_traces(quick, rows, cols, scene, settings, _LEAST_FALL_S)
            long += [p for p in falls if _steepest(p) > _SMEARS_MPS]
    if boat < _STILL_MPS:
        # under a boat that stands still a fish may draw a line that is no hyperbola
        lines = [fit_arc(p.time, p.range_m, p.level_db, boat, pulse_m, beam_width_deg) for p in long]
        found += [a for a, p in zip(lines, long, strict=True) if not _on(p, found)]
    else:
        # a row of fish at one depth is no trail
        long = [p for p in long if sum(a.time_out - a.time_in for a in _on(p, found)) < 0.5 * p.lasts]
    return drop_side_lobes(found, speed_mps, pulse_m), long


def _steepest(piece: Piece) -> float:
    """Fastest change of range over some seconds, metres a second."""
    later = np.interp(piece.time + _LEAST_FALL_S, piece.time, piece.range_m)
    return float(np.abs(later - piece.range_m).max()) / _LEAST_FALL_S


def _on(piece: Piece, arcs: list[Arc]) -> list[Arc]:
    """Arcs that lie on a long trace."""
    return [
        a
        for a in arcs
        if piece.time[0] - 0.5 <= a.time <= piece.time[-1] + 0.5
        and abs(float(np.interp(a.time, piece.time, piece.range_m)) - a.range_m) < _SAME_TRACE_M
    ]


def _long_traces(
    smooth: Levels,
    rows: NDArray[np.intp],
    cols: NDArray[np.intp],
    scene: _Scene,
    settings: EchoSettings,
    least_s: float | None = None,
) -> list[Piece]:
    """Thin traces that last a given time, or longer than anything that stands still stays in the beam."""

    def least(range_m: float) -> float:
        if least_s is not None:
            return least_s
        transit = beam_transit(range_m, max(scene.boat_mps, _SLOWEST_MPS), scene.beam_width_deg)
        return max(LEAST_S, LONGER_THAN_TRANSIT * transit)

    nearest = float(scene.range_m[cols.min()])
    span = int(rows.max() - rows.min()) + 1
    if scene.time[rows.max()] - scene.time[rows.min()] < least(nearest) or rows.size > _MOST_CROWDED * span:
        return []
    order = np.argsort(rows, kind="stable")
    rows, cols = rows[order], cols[order]
    level = smooth[rows, cols].astype(np.float64)
    out = []
    for piece in follow_ridge(rows, cols, level, scene.time, scene.range_m, scene.pulse_m):
        interval = float(np.median(np.diff(piece.time)))
        if (
            piece.time.size * interval < 0.6 * piece.lasts
            or piece.lasts < least(float(np.median(piece.range_m)))
            or np.median(piece.level_db) < settings.peak_db
        ):
            continue
        at = np.searchsorted(scene.time, piece.time)
        where = np.searchsorted(scene.range_m, piece.range_m - 0.5 * scene.step_m)
        if _thickness(smooth, at, where, piece.level_db, scene) <= settings.thickest and (
            _flank(smooth, at, where, piece.level_db, scene) >= settings.flank_db
        ):
            out.append(piece)
    return out


def _pings_to_average(range_m: Floats, interval_s: float, speed_mps: float, beam_width_deg: float) -> int:
    """An odd number of pings, about a third of what a fish in mid-water gives."""
    boat = max(speed_mps, 0.3) if np.isfinite(speed_mps) else 1.0
    transit = beam_transit(0.35 * float(range_m[-1]), boat, beam_width_deg)
    return int(np.clip(2 * round(transit / 3 / max(interval_s, 1e-3) / 2) + 1, 3, 7))


def beam_transit(range_m: float, speed_mps: float, beam_width_deg: float) -> float:
    """Seconds from edge to edge of the -3 dB cone, straight through its axis."""
    return float(2 * range_m * np.tan(np.radians(beam_width_deg / 2)) / speed_mps)


def _arcs_of(
    smooth: Levels,
    rows: NDArray[np.intp],
    cols: NDArray[np.intp],
    scene: _Scene,
    settings: EchoSettings,
) -> list[Arc]:
    """Arcs of one component: the loudest hyperbola is taken out, then the next, until nothing loud is left."""
    if rows.size < settings.least_pings:
        return []
    level = smooth[rows, cols].astype(np.float64)
    left = np.ones(rows.size, bool)
    found: list[Arc] = []
    tolerance = max(0.6 * scene.pulse_m, 2.2 * scene.step_m)
    for _ in range(_MOST_ARCS):
        if left.sum() < settings.least_pings:
            break
        index = np.flatnonzero(left)
        top = index[int(level[index].argmax())]
        if level[top] < settings.peak_db:
            break
        if scene.boat_mps >= _STILL_MPS:
            apex_t, apex_r = scene.time[rows[top]], scene.range_m[cols[top]]
            since = scene.time[rows] - apex_t
            reach = 1.2 * beam_transit(apex_r, scene.boat_mps, scene.beam_width_deg)
            # the loudest ping is near the apex, not on it: the hyperbola may lean either way by a few pings
            on, best = None, -1
            for shift in np.linspace(-0.25, 0.25, 7) * reach:
                r0 = np.sqrt(max(apex_r**2 - (scene.boat_mps * shift) ** 2, 0.01))
                model = np.hypot(r0, scene.boat_mps * (since + shift))
                near = left & (np.abs(scene.range_m[cols] - model) < tolerance) & (np.abs(since + shift) < reach)
                if near.sum() > best:
                    on, best = near, int(near.sum())
            assert on is not None
        else:
            on = left
        arc = _accept(smooth, rows[on], cols[on], level[on], scene, settings)
        left &= ~on
        left[top] = False
        if arc is not None:
            found.append(arc)
    return found


_JOIN = 3  # pings and samples that a ridge may skip
_MOST_ARCS = 40
_STILL_MPS = 0.35
_SAME_TRACE_M = 0.25
_MOST_CROWDED = 2.5  # ridge points a ping: more is weed or bait, no trace
_LEAST_CLEAR_M = 0.15
_SLOW_MPS = 0.6
_SMEARS_MPS, _LEAST_FALL_S = 0.15, 3.0  # nothing at rest under a slow boat changes its range so fast for so long
_SLOWEST_MPS = 0.25  # a boat at anchor still swings


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class _Scene:
    time: Floats
    range_m: Floats
    boat_mps: float
    pulse_m: float
    beam_width_deg: float

    @property
    def step_m(self) -> float:
        return float(self.range_m[1] - self.range_m[0])


def _accept(
    smooth: Levels,
    rows: NDArray[np.intp],
    cols: NDArray[np.intp],
    level: Floats,
    scene: _Scene,
    settings: EchoSettings,
) -> Arc | None:
    """The arc through these points, if it is one."""
    # one point a ping: the loudest
    order = np.lexsort((-level, rows))
    keep = order[np.concatenate(([True], np.diff(rows[order]) > 0))]
    rows, cols, level = rows[keep], cols[keep], level[keep]
    loud = level > level.max() - 15.0
    if loud.sum() < settings.least_pings or np.sort(level)[-3:].mean() < settings.peak_db:
        return None
    if _flank(smooth, rows, cols, level, scene) < settings.flank_db:
        return None
    if _thickness(smooth, rows, cols, level, scene) > settings.thickest:
        return None
    arc = fit_arc(
        scene.time[rows[loud]],
        scene.range_m[cols[loud]],
        level[loud],
        scene.boat_mps,
        scene.pulse_m,
        scene.beam_width_deg,
    )
    # what stays in the beam too briefly for its depth is clutter, weak echoes must show more of their arc, and half
    # an arc is most often the edge of something else: a ledge's lip, a plume, the rim of a cloud
    apex = (arc.time - arc.time_in) / max(arc.time_out - arc.time_in, 1e-6)
    shown = settings.least_transit if arc.level_db > 13.0 else 1.1 * settings.least_transit
    if arc.level_db < 10.0:
        shown = 1.5 * settings.least_transit
    if not 0.04 <= apex <= 0.96:
        shown = max(shown, settings.half_arc_transit)
    least = shown * beam_transit(arc.range_m, max(scene.boat_mps, 0.3), scene.beam_width_deg)
    if arc.time_out - arc.time_in < min(least, 5.0 * shown):
        return None
    if arc.misfit_m > max(0.7 * scene.pulse_m, 2.5 * scene.step_m):
        return None
    return arc


def _flank(smooth: Levels, rows: NDArray[np.intp], cols: NDArray[np.intp], level: Floats, scene: _Scene) -> float:
    """How much the loud part of a trace stands out from the water a pulse or three above and below it."""
    strong = level > level.max() - 6.0
    first = round(1.5 * scene.pulse_m / scene.step_m) + 1
    wide = max(round(1.5 * scene.pulse_m / scene.step_m), 2)
    last = smooth.shape[1] - 1
    around = []
    for side in (-1, 1):
        index = np.clip(cols[strong][:, None] + side * np.arange(first, first + wide)[None, :], 0, last)
        around.append(float(smooth[rows[strong][:, None], index].mean()))
    return float(level[strong].mean()) - max(around)


def _thickness(smooth: Levels, rows: NDArray[np.intp], cols: NDArray[np.intp], level: Floats, scene: _Scene) -> float:
    """
    How thick the loud part of a trace is, in pulses, at 8 dB under its ridge.

    Notes
    -----
    One fish is one pulse thick however loud; bubbles, twigs and the foot of surface clutter are not. The third
    thinnest tenth of its pings counts, since another fish may touch it in the rest.
    """
    strong = level > level.max() - 6.0
    pulse = max(round(scene.pulse_m / scene.step_m), 1)
    reach = 6 * pulse
    index = np.clip(cols[strong][:, None] + np.arange(-reach, reach + 1)[None, :], 0, smooth.shape[1] - 1)
    around = smooth[rows[strong][:, None], index]
    under = around <= (around[:, reach] - np.minimum(8.0, 0.6 * around[:, reach]))[:, None]
    # the ends count as under, so that there always is one
    under[:, 0] = under[:, -1] = True
    above, below = under[:, reach::-1].argmax(axis=1), under[:, reach:].argmax(axis=1)
    return float(np.percentile(above + below - 1, 30)) / pulse


_SLOW_BOAT_MPS = 0.4
_LOBE_DB, _LOBE_SHARE, _LOBE_REACH = 14.0, 0.13, 0.5  # a first side lobe lies some 25 degrees off, two ways
_LONGEST_GAP_S = 45.0
_SAME_DEPTH_M, _DRIFTS_MPS, _MOST_APART_M = 0.15, 0.01, 0.5


def one_fish_once(arcs: Sequence[Arc], time: Floats, way_m: Floats, beam_width_deg: float) -> list[Arc]:
    """
    Arcs with those joined that one fish draws again and again under a boat at anchor or adrift.

    Parameters
    ----------
    arcs : sequence of Arc
    time, way_m : ndarray (pings,)
        The boat's way over ground at each ping.
    beam_width_deg : float

    Notes
    -----
    Where the boat has not moved by the beam's width since an echo was lost, one at the same depth is the same fish
    that turned away. A boat under way leaves each behind: there two echoes are two fish.
    """
    if not arcs or not np.isfinite(way_m).all():
        return list(arcs)
    speed = (np.interp(time + 1.0, time, way_m) - np.interp(time - 1.0, time, way_m)) / 2.0  # clocks may stand
    kept: list[Arc] = []
    for arc in sorted(arcs, key=lambda a: a.time_in):
        for k in range(len(kept) - 1, -1, -1):
            before = kept[k]
            gap = max(arc.time_in - before.time_out, 0.0)
            wide = 2 * arc.range_m * np.tan(np.radians(beam_width_deg / 2))
            moved, slow = np.interp([before.time_out, arc.time_in], time, way_m), np.interp(arc.time, time, speed)
            apart = min(_SAME_DEPTH_M + 0.01 * arc.range_m + _DRIFTS_MPS * gap, _MOST_APART_M)
            if (
                slow < _SLOW_BOAT_MPS
                and gap <= _LONGEST_GAP_S
                and moved[1] - moved[0] <= wide
                and abs(arc.range_m - before.range_m) <= apart
            ):
                best = max(before, arc, key=lambda a: a.level_db)
                kept[k] = replace(
                    best,
                    time_in=before.time_in,
                    time_out=max(before.time_out, arc.time_out),
                    pings=before.pings + arc.pings,
                )
                break
        else:
            kept.append(arc)
    return [a for a in sorted(kept, key=lambda a: a.time) if not _in_side_lobe(a, kept, time, way_m, speed)]


def _in_side_lobe(arc: Arc, others: Sequence[Arc], time: Floats, way_m: Floats, speed: Floats) -> bool:
    """A weak echo a little further off than a loud fish that is, was or will be under the same place."""
    if np.interp(arc.time, time, speed) >= 2 * _SLOW_BOAT_MPS:
        return False
    for other in others:
        further = arc.range_m - other.range_m
        if arc.level_db > other.level_db - _LOBE_DB or not -_SAME_DEPTH_M < further < _LOBE_SHARE * other.range_m:
            continue
        ends = np.interp([arc.time_in, arc.time_out, other.time_in, other.time_out], time, way_m)
        between = max(ends[0] - ends[3], ends[2] - ends[1], 0.0)
        gap = max(arc.time_in - other.time_out, other.time_in - arc.time_out, 0.0)
        if between <= _LOBE_REACH * other.range_m and gap <= _LONGEST_GAP_S:
            return True
    return False


def drop_side_lobes(arcs: list[Arc], speed_mps: float, pulse_m: float) -> list[Arc]:
    """
    Leave out the weaker pieces that a loud fish leaves on its own hyperbola: torn off its arc, or seen by side lobes.

    Notes
    -----
    A piece within the loud arc's own time is part of it. Outside, the beam's first side lobe reaches about as far
    again and lies at least 10 dB under the main one, two ways.
    """
    boat = speed_mps if np.isfinite(speed_mps) else 1.0
    kept: list[Arc] = []
    for arc in sorted(arcs, key=lambda a: -a.level_db):
        for other in kept:
            apart = abs(arc.time - other.time)
            lasts = other.time_out - other.time_in
            if abs(arc.range_m - np.hypot(other.range_m, boat * apart)) > 1.2 * pulse_m:
                continue
            if apart < 0.6 * lasts or (apart < 1.6 * lasts + 0.3 and arc.level_db < other.level_db - 10.0):
                break
        else:
            kept.append(arc)
    return sorted(kept, key=lambda a: a.time)
