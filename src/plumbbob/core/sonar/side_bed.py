"""The bottom under a view to the sides, from the first return on either: how far down, and how it tilts across."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from scipy import ndimage

from plumbbob.core.sonar import bottom as bottoms
from plumbbob.core.sonar.blocks import read_block
from plumbbob.core.sonar.coarse import make_coarse
from plumbbob.core.sonar.reading import Bottom
from plumbbob.core.sonar.recording import SIDES, Down, Side
from plumbbob.core.stats import running_mean
from plumbbob.core.types import Floats

_LEAST_PULSE_M = 0.06
_WITNESS_S = 2.0  # a down ping further away in time says nothing
_SMOOTH_S = 6.0  # along which the tilt is taken as one
_STEEPEST = math.radians(35.0)  # first returns farther apart are of something that stands, or of a ledge
_LEAST_RETURN_SD_M = 0.01
_AGREES_M, _AGREES_SHARE = 0.2, 0.02
_TELLS = 1.5  # spreads from level
_LEAST_SLOPE_SD_DEG, _USUAL_SLOPE_SD_DEG = 0.8, 3.0
_BLOCK_PINGS, _RISE_PINGS = 512, 7
_RISE_M = (0.35, 0.35)  # before and behind the rough one


@dataclass(frozen=True, slots=True, eq=False)
class SideBed:
    """The bottom under the transducer, shape (pings,) each; NaN where nothing tells."""

    altitude_m: Floats  # of the transducer over the bottom straight below
    slope_deg: Floats  # across, positive where it falls away to starboard
    slope_sd_deg: Floats

    def rise_deg(self, ping: int, which: str) -> float:
        """Slope away from the boat on a side, positive where it rises; 0 where it can't be told from level."""
        return rise_deg(self.slope_deg, self.slope_sd_deg, ping, which)

    def rise_sd_deg(self, ping: int) -> float:
        """Spread of that; a little is left where nothing tells."""
        sd = float(self.slope_sd_deg[ping])
        return min(max(sd, _LEAST_SLOPE_SD_DEG), _USUAL_SLOPE_SD_DEG) if math.isfinite(sd) else _USUAL_SLOPE_SD_DEG


def rise_deg(slope_deg: Floats, slope_sd_deg: Floats, ping: int, which: str) -> float:
    """Of a bottom that falls to starboard by so much: how it rises away on a side; 0 where level is as likely."""
    slope, sd = float(slope_deg[ping]), float(slope_sd_deg[ping])
    if not abs(slope) > _TELLS * sd:
        return 0.0
    return -slope if which == "starboard" else slope


def pulse_m(view: Side) -> float:
    """Range resolution: half the pulse in water; where the recording does not tell it, some samples."""
    if math.isfinite(view.pulse_length_s):
        return view.pulse_m
    step = float(np.median(view.range_step_m)) if len(view) else _LEAST_PULSE_M
    return max(2.0 * step, _LEAST_PULSE_M)


def follow_bed(side: Side, bottom: Bottom | None = None) -> SideBed:
    """
    The bottom under a view to the sides.

    Parameters
    ----------
    side : Side
    bottom : Bottom, optional
        Of the down view of the same recording: the better witness of the depth straight below.

    Notes
    -----
    On a plane that tilts by b the side where it rises hears its nearest point, H cos b away; the other hears it
    straight below, at H. So the farther of both first returns is the altitude, and cos b the ratio of the two.
    """
    below = _below(side, bottom)
    left, right = (_first_return(side, which) for which in SIDES)
    port, starboard = (_steady(f, side.typical_interval_s) for f in (left, right))
    if not (np.isfinite(port).any() and np.isfinite(starboard).any()):
        nothing = np.full(len(side), np.nan)
        return SideBed(np.where(np.isfinite(below), below, np.fmax(left, right)), nothing, nothing)
    far, near = np.fmax(port, starboard), np.fmin(port, starboard)
    # the fans' own first return is the finer witness, unless it is of something else than what lies straight below
    own = np.fmax(left, right)
    agrees = np.abs(own - below) < _AGREES_M + _AGREES_SHARE * below
    altitude = np.where(agrees | ~np.isfinite(below), own, below)
    # a side that hears its bottom beyond the sounded depth hears it late, not deeper
    most = np.where(np.isfinite(below), _steady(below, side.typical_interval_s), far)
    ratio = near / np.maximum(most, far)
    spread = _scatter((left, right), (port, starboard), side.typical_interval_s) / np.maximum(far, 0.1)
    lost = np.clip(1.0 - ratio, 0.0, 1.0)
    # what scatter alone would open between two first returns is taken off
    tilt = np.sqrt(np.maximum(2.0 * (lost - spread), 0.0))
    sd = np.where(tilt > np.sqrt(spread / 2), spread / np.maximum(tilt, 1e-6), np.sqrt(2.0 * spread))
    good = np.isfinite(tilt) & (tilt < _STEEPEST)
    slope = np.where(good, np.degrees(tilt) * np.sign(starboard - port), np.nan)
    return SideBed(altitude, slope, np.where(good, np.degrees(sd), np.nan))


def _below(side: Side, bottom: Bottom | None) -> Floats:
    """Altitude by the down view at each of the side's pings."""
    found = np.full(len(side), np.nan)
    known = np.isfinite(bottom.below_m) if bottom is not None and bottom.below_m.size == bottom.time.size else None
    if bottom is None or known is None or not known.any():
        return found
    times = bottom.time[known]
    i = np.clip(np.searchsorted(times, side.time), 1, max(times.size - 1, 1))
    far = np.minimum(np.abs(side.time - times[i - 1]), np.abs(times[np.minimum(i, times.size - 1)] - side.time))
    found = np.interp(side.time, times, bottom.below_m[known]) - side.mount.depth_m
    found[far > _WITNESS_S] = np.nan
    return found


def _first_return(side: Side, which: str) -> Floats:
    """Slant range of a side's first return, shape (pings,)."""
    as_down = Down(
        time=side.time,
        range_start_m=side.range_start_m,
        range_step_m=side.range_step_m,
        scale_db=side.scale_db,
        offset_db=side.offset_db,
        frequency_hz=side.frequency_hz,
        pulse_length_s=2 * pulse_m(side) / side.sound_speed_mps,
        tvg=side.tvg,
        mount=side.mount,
        sound_speed_mps=side.sound_speed_mps,
        echo=side.echo_of(which),
        beam_width_deg=20.0,
    )
    coarse = make_coarse(as_down, lambda _pings: None)
    rough = bottoms.follow(coarse, side.typical_interval_s, lambda _pings: None) - side.mount.depth_m
    return _sharpened(side, which, rough)


def _sharpened(side: Side, which: str, rough_m: Floats) -> Floats:
    """Where, within some decimetres, some pings together rise halfway from the water to the bottom's own level."""
    out = rough_m.copy()
    for start in range(0, len(side), _BLOCK_PINGS):
        low, high = max(start - _RISE_PINGS, 0), min(start + _BLOCK_PINGS + _RISE_PINGS, len(side))
        block = read_block(side, low, high, side.echo_of(which))
        step, samples = block.step_m, block.raw.shape[1]
        level = running_mean(block.raw.astype(np.float32), _RISE_PINGS, 0)[start - low :][:_BLOCK_PINGS]
        here = rough_m[start : start + len(level)]
        known = np.flatnonzero(np.isfinite(here))
        if not known.size:
            continue
        offsets = np.arange(-int(_RISE_M[0] / step) - 1, int(_RISE_M[1] / step) + 2)
        at = np.rint((here[known] - block.range_m[0]) / step).astype(int)
        columns = np.clip(at[:, None] + offsets[None, :], 0, samples - 1)
        seen = level[known[:, None], columns]
        half = (seen.min(axis=1) + seen.max(axis=1)) / 2
        over = seen >= half[:, None]
        k = np.maximum(over.argmax(axis=1), 1)
        rows = np.arange(known.size)
        before, after = seen[rows, k - 1], seen[rows, k]
        share = np.clip((half - before) / np.maximum(after - before, 1e-3), 0.0, 1.0)
        # the bottom lies where the pulse is loudest, half of it behind where it rises
        out[start + known] = block.range_m[0] + step * (columns[rows, k - 1] + share) + pulse_m(side) / 2
    return out


def _steady(values: Floats, interval_s: float) -> Floats:
    """Running median over the stretch a tilt is taken as one; NaN where nothing is known near."""
    known = np.isfinite(values)
    if known.sum() < 3:
        return np.full(values.size, np.nan)
    window = max(round(_SMOOTH_S / max(interval_s, 1e-3)), 3) | 1
    whole = np.interp(np.arange(values.size), np.flatnonzero(known), values[known])
    smooth = ndimage.median_filter(whole, min(window, values.size), mode="nearest")
    near = ndimage.maximum_filter1d(known.astype(np.uint8), window) > 0
    return np.where(near, smooth, np.nan)


def _scatter(first: tuple[Floats, Floats], smooth: tuple[Floats, Floats], interval_s: float) -> Floats:
    """What the medians of both sides' first returns may be off by, shape (pings,)."""
    window = max(round(_SMOOTH_S / max(interval_s, 1e-3)), 3)
    off = (np.nan_to_num(np.abs(first[0] - smooth[0])) + np.nan_to_num(np.abs(first[1] - smooth[1]))) / 2
    mean = ndimage.uniform_filter1d(off, min(window, off.size), mode="nearest")
    return np.maximum(1.25 * mean * math.sqrt(3.0 / window) * 2.0, _LEAST_RETURN_SD_M)
