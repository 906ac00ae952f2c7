"""
Evidence: what was seen against how much water was looked at.

A depth looked at for an hour and one looked at for a minute can't be compared in fish. So every pass keeps, for each
depth of the bottom and each depth of the water, the volume that the beam really swept where nothing blinded it, and
the fish and bait in it. Passes add up.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from plumbbob.core.sonar.reading import Bait, Reading
from plumbbob.core.sonar.recording import Down, Recording, distance_along, transducer_at
from plumbbob.core.types import Floats

STEP_M = 0.5
PER_M3 = 1000.0  # rates are fish in so much water
_DEEPEST_M = 300.0
_NOMINAL_MPS = 1.0  # where the track tells no speed
_CLEAR_M = 1.0  # a fish floor is about free water: what lies closer to the bottom is left out
_EXPECTED = 3.0  # fish that should have shown: with e^-3 = 5 % of chance alone


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Evidence:
    """Tables over depth of the bottom (rows) and depth (columns) in steps; row 0 is a bottom out of reach."""

    volume_m3: Floats
    fish: Floats
    bait_m3: Floats
    seconds: float = 0.0
    passes: tuple[str, ...] = ()
    step_m: float = STEP_M

    def __add__(self, other: Evidence) -> Evidence:
        rows = max(self.volume_m3.shape[0], other.volume_m3.shape[0])
        columns = max(self.volume_m3.shape[1], other.volume_m3.shape[1])

        def summed(a: Floats, b: Floats) -> Floats:
            out = np.zeros((rows, columns))
            out[: a.shape[0], : a.shape[1]] += a
            out[: b.shape[0], : b.shape[1]] += b
            return out

        return Evidence(
            volume_m3=summed(self.volume_m3, other.volume_m3),
            fish=summed(self.fish, other.fish),
            bait_m3=summed(self.bait_m3, other.bait_m3),
            seconds=self.seconds + other.seconds,
            passes=self.passes + other.passes,
            step_m=self.step_m,
        )


NOTHING = Evidence(volume_m3=np.zeros((1, 1)), fish=np.zeros((1, 1)), bait_m3=np.zeros((1, 1)))


@dataclass(frozen=True, slots=True, eq=False)
class Looked:
    """What the beam of a pass swept, ping by ping; steps of depth as in `Evidence`."""

    down: Down
    way_m: Floats  # (pings,)
    first: NDArray[np.intp]  # step where the water opens under the clutter
    last: NDArray[np.intp]  # and where it closes, over the dead zone or at the end of the range
    width_m: Floats  # (steps,) of the beam

    @staticmethod
    def of(recording: Recording, reading: Reading) -> Looked | None:
        """None where the pass has no view down that was read."""
        down = recording.down
        if down is None or not len(down) or reading.bottom.depth_m.size != len(down):
            return None
        bed, n = reading.bottom.depth_m, len(down)
        way = distance_along(down.time, transducer_at(recording.track, down.mount, down.time).speed_mps)
        if not np.isfinite(way).all():
            way = distance_along(down.time, np.full(n, _NOMINAL_MPS))
        end = np.minimum(
            down.mount.depth_m + down.range_start_m + down.range_step_m * (down.samples - 1), _DEEPEST_M - STEP_M
        )
        dead = reading.bottom.dead_zone_m if reading.bottom.dead_zone_m.size == n else np.zeros(n)
        floor = np.where(np.isfinite(bed), np.minimum(bed - np.nan_to_num(dead), end), end)
        ceiling = reading.ceiling_m if reading.ceiling_m.size == n else np.full(n, down.mount.depth_m)
        ceiling = np.where(np.isfinite(ceiling), ceiling, floor)  # not read yet: nothing of it was looked at
        columns = math.ceil(float(max(floor.max(), ceiling.max(), STEP_M)) / STEP_M) + 1
        first = np.clip(ceiling / STEP_M, 0, columns - 1).astype(np.intp)
        last = np.maximum(np.clip(floor / STEP_M, 0, columns - 1).astype(np.intp), first)
        reach = np.maximum(STEP_M * (np.arange(columns) + 0.5) - down.mount.depth_m, 0.0)
        width = 2.0 * reach * math.tan(math.radians(down.beam_width_deg / 2))
        return Looked(down, way, first, last, np.asarray(width, np.float64))

    def volume_m3(self, rows: NDArray[np.intp]) -> Floats:
        """Water looked at by row, one for each ping, and by step of depth, shape (rows, steps)."""
        step = np.diff(self.way_m, prepend=self.way_m[0])
        columns = self.width_m.size
        # way looked along: up by a step where the water opens, down where it closes
        looked = np.zeros((int(rows.max()) + 1, columns + 1))
        np.add.at(looked, (rows, self.first), step)
        np.add.at(looked, (rows, self.last), -step)
        volume = np.maximum(np.cumsum(looked, axis=1)[:, :-1], 0.0) * self.width_m * STEP_M
        disc = math.pi / 4 * self.width_m**2 * STEP_M
        volume[rows[0], self.first[0] : self.last[0]] += disc[self.first[0] : self.last[0]]
        return volume

    def bait_m3(self, cloud: Bait, time_start: float, time_end: float) -> Floats:
        """What was seen of a cloud in a span of time by step of depth: its length, thickness and the beam's width."""
        a, b = np.searchsorted(self.down.time, (time_start, time_end))
        length = float(self.way_m[min(b, self.way_m.size - 1)] - self.way_m[min(a, self.way_m.size - 1)])
        edges = STEP_M * np.arange(self.width_m.size + 1)
        thick = np.minimum(edges[1:], cloud.depth_bottom_m) - np.maximum(edges[:-1], cloud.depth_top_m)
        return np.asarray(length * np.clip(thick, 0.0, None) * self.width_m)


def gather(recording: Recording, reading: Reading) -> Evidence:
    """
    The evidence of one pass.

    Notes
    -----
    A ping adds the width of the -3 dB cone times the way made since the last one, at each depth from the foot of the
    surface's clutter to the top of the dead zone or the end of its range; the first ping adds its whole disc.
    """
    looked = Looked.of(recording, reading)
    if looked is None:
        return NOTHING
    down, bed = looked.down, reading.bottom.depth_m
    rows = np.where(np.isfinite(bed), np.clip(np.nan_to_num(bed), 0.0, _DEEPEST_M) / STEP_M, 0).astype(np.intp)
    volume = looked.volume_m3(rows)
    shape = volume.shape
    fish, bait = np.zeros(shape), np.zeros(shape)
    for echo in reading.fish:
        row, column = _cell(echo.depth_m + echo.height_above_bottom_m, echo.depth_m, shape)
        fish[row, column] += 1.0
    for cloud in reading.bait:
        row, _ = _cell(reading.bottom.depth_at((cloud.time_start + cloud.time_end) / 2), 0.0, shape)
        bait[row] += looked.bait_m3(cloud, cloud.time_start, cloud.time_end)
    return Evidence(
        volume_m3=volume,
        fish=fish,
        bait_m3=bait,
        seconds=float(down.time[-1] - down.time[0]),
        passes=(recording.name,),
    )


def _cell(bottom_m: float, depth_m: float, shape: tuple[int, int]) -> tuple[int, int]:
    row = int(bottom_m / STEP_M) if math.isfinite(bottom_m) else 0
    return min(max(row, 0), shape[0] - 1), min(max(int(depth_m / STEP_M), 0), shape[1] - 1)


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Rates:
    """Fish and bait in bins, per water looked at. Arrays of shape (bins,)."""

    low_m: Floats  # lower edges of the bins
    step_m: float
    volume_m3: Floats
    fish: Floats
    rate: Floats  # fish in 1000 m3; NaN where nothing was looked at
    rate_low: Floats  # 80 % interval
    rate_high: Floats
    bait_share: Floats  # of the water looked at
    enough: NDArray[np.bool_]  # two fish would have been met here at the rate of all the water


def rates(evidence: Evidence, by: str = "depth", group: int = 2) -> Rates:
    """
    Rates by depth, by height above bottom or by depth of the bottom.

    Parameters
    ----------
    by : {"depth", "height", "bottom"}
    group : int
        Steps of the table to a bin.

    Notes
    -----
    Counts are Poisson in the volume; with Jeffreys' prior a rate is Gamma(n + 1/2) / V, so that nothing seen in
    little water still leaves room for much.
    """
    from scipy.special import gammaincinv  # the window must paint before this is loaded

    volume, fish, bait = (_along(t, by) for t in (evidence.volume_m3, evidence.fish, evidence.bait_m3))
    bins = -(-volume.size // group)

    def grouped(values: Floats) -> Floats:
        return np.pad(values, (0, bins * group - values.size)).reshape(bins, group).sum(axis=1)

    volume, fish, bait = grouped(volume), grouped(fish), grouped(bait)
    safe = np.maximum(volume, 1e-9)
    looked = volume > 1.0
    low, high = (np.where(looked, gammaincinv(fish + 0.5, q) / safe * PER_M3, np.nan) for q in (0.1, 0.9))
    overall = fish.sum() / max(float(volume.sum()), 1e-9)
    return Rates(
        low_m=evidence.step_m * group * np.arange(bins, dtype=np.float64),
        step_m=evidence.step_m * group,
        volume_m3=volume,
        fish=fish,
        rate=np.where(looked, fish / safe * PER_M3, np.nan),
        rate_low=low,
        rate_high=high,
        bait_share=np.where(looked, np.minimum(bait / safe, 1.0), np.nan),
        enough=volume * overall >= 2.0,
    )


def _along(table: Floats, by: str) -> Floats:
    if by == "depth":
        return np.asarray(table.sum(axis=0))
    if by == "bottom":
        out = np.asarray(table.sum(axis=1))
        out[0] = 0.0
        return out
    if by != "height":
        raise ValueError(f'by is "{by}", not depth, height or bottom')
    rows, columns = np.nonzero(table)
    up = rows - columns
    known = (rows > 0) & (up >= 0)
    # as long for each of the three tables, whichever has something highest over the bottom
    return np.bincount(up[known], weights=table[rows[known], columns[known]], minlength=len(table)).astype(np.float64)


@dataclass(frozen=True, slots=True, kw_only=True)
class FishFloor:
    """No fish in free water under a depth, though so much of it was looked at."""

    depth_m: float
    volume_m3: float  # looked at under it
    expected: float  # fish that would have shown there at the rate above it
    chance: float  # of none at that rate
    bottom_m: float  # deepest bottom under that water


def fish_floor(evidence: Evidence) -> FishFloor | None:
    """
    The depth under which free water held no fish, where that says something.

    Returns
    -------
    FishFloor or None
        None where so little water was looked at under the deepest fish that none there may be chance (5 %).

    Notes
    -----
    Water and fish within a metre of the bottom are left out. Evidence for a layer that keeps fish up even where the
    layer itself does not show.
    """
    volume, fish = evidence.volume_m3.copy(), evidence.fish.copy()
    rows, columns = np.indices(volume.shape)
    near = (rows > 0) & (rows - columns <= round(_CLEAR_M / evidence.step_m))
    volume[near] = fish[near] = 0.0
    seen = np.flatnonzero(fish.sum(axis=0))
    if not seen.size:
        return None
    foot = int(seen[-1]) + 1
    above, below = float(volume[:, :foot].sum()), float(volume[:, foot:].sum())
    if above <= 0.0 or below <= 0.0:
        return None
    expected = float(fish.sum()) / above * below
    if expected < _EXPECTED:
        return None
    deep = np.flatnonzero(volume[:, foot:].sum(axis=1))
    return FishFloor(
        depth_m=foot * evidence.step_m,
        volume_m3=below,
        expected=expected,
        chance=math.exp(-expected),
        bottom_m=float(deep.max() + 1) * evidence.step_m if deep.size and deep.max() > 0 else float("nan"),
    )


def chance_of_depth(evidence: Evidence, top_m: float, base_m: float) -> tuple[float, float]:
    """
    How a span of depth compares with all water looked at: rate over the mean rate, and the fish behind it.

    Both shrink to the mean where little was looked at: one fish's worth of prior at the mean rate.
    """
    volume, fish = evidence.volume_m3.sum(axis=0), evidence.fish.sum(axis=0)
    total, count = float(volume.sum()), float(fish.sum())
    if total <= 0.0 or count <= 0.0:
        return 1.0, 0.0
    low = int(max(top_m, 0.0) / evidence.step_m)
    high = max(math.ceil(base_m / evidence.step_m), low + 1)
    here, seen = float(volume[low:high].sum()), float(fish[low:high].sum())
    return (seen + 1.0) / (here * count / total + 1.0), seen
