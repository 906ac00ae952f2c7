"""
What was seen along a pass: piece by piece of its way the water looked at, the fish and the bait in it, by depth.

Where nothing was looked at nothing can be missing: a stretch without fish says something only through the volume
that the beam swept there. So a stretch that holds more than the rest is found by likelihood, with the chance that
even water would show one as strong somewhere; and bait met again by a later pass tells how it drifts.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from plumbbob.core.sonar.evidence import PER_M3, STEP_M, Looked
from plumbbob.core.sonar.reading import Reading
from plumbbob.core.sonar.recording import Recording, transducer_at
from plumbbob.core.types import Floats

PIECE_M = 12.0
_MOST_PIECES = 4000  # a longer pass has longer pieces
_DRAWS = 199
_LEAST_FISH = 4  # fewer make no stretch
_RATIO = 1e-6  # of likelihoods: less is rounding
_WIDEST = 0.7  # of the water: a stretch of nearly all of it is no place
_BAIT_M3 = 0.5  # of bait in a piece: less is its fringe
_GAP_PIECES = 2
_MOST_GROUPS = 150
_MET_AGAIN_M, _FASTEST_MPS = 60.0, 0.12  # bait farther off than that after so long is other bait


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class SeenAlong:
    """One pass in pieces along its way. Arrays (pieces,), tables (pieces, steps of `STEP_M` of depth)."""

    name: str
    time: Floats
    latitude: Floats  # NaN without a position
    longitude: Floats
    volume_m3: Floats
    fish: Floats
    bait_m3: Floats

    def within(self, top_m: float, base_m: float) -> tuple[Floats, Floats, Floats]:
        """Volume, fish and bait of each piece between two depths; a step counts by its middle."""
        middle = STEP_M * (np.arange(self.volume_m3.shape[1]) + 0.5)
        part = (middle >= top_m) & (middle < base_m)
        return (
            self.volume_m3[:, part].sum(axis=1),
            self.fish[:, part].sum(axis=1),
            self.bait_m3[:, part].sum(axis=1),
        )


def seen_along(recording: Recording, reading: Reading) -> SeenAlong | None:
    """A pass in pieces of a dozen metres; None where it has no view down or was not read."""
    looked = Looked.of(recording, reading)
    if looked is None:
        return None
    down, way = looked.down, looked.way_m - looked.way_m[0]
    long = max(PIECE_M, float(way[-1]) / _MOST_PIECES)
    piece = (way / long).astype(np.intp)
    volume = looked.volume_m3(piece)
    count, steps = volume.shape
    fish, bait = np.zeros(volume.shape), np.zeros(volume.shape)
    for echo in reading.fish:
        k = int(np.clip(np.searchsorted(down.time, echo.time), 0, len(down) - 1))
        fish[piece[k], min(max(int(echo.depth_m / STEP_M), 0), steps - 1)] += 1.0
    bounds = np.searchsorted(piece, np.arange(count + 1))
    edges = down.time[np.minimum(bounds, len(down) - 1)]
    for cloud in reading.bait:
        first = max(int(np.searchsorted(edges, cloud.time_start, side="right")) - 1, 0)
        for k in range(first, min(int(np.searchsorted(edges, cloud.time_end)), count)):
            start, end = max(cloud.time_start, edges[k]), min(cloud.time_end, edges[k + 1])
            if end > start:
                bait[k] += looked.bait_m3(cloud, start, end)
    middle = np.clip((bounds[:-1] + bounds[1:]) // 2, 0, len(down) - 1)
    places = transducer_at(recording.track, down.mount, down.time)
    return SeenAlong(
        name=recording.name,
        time=down.time[middle],
        latitude=places.latitude[middle],
        longitude=places.longitude[middle],
        volume_m3=volume,
        fish=fish,
        bait_m3=bait,
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class Stretch:
    """Pieces of a pass that hold more fish for the water looked at than the rest."""

    first: int
    last: int  # inclusive
    fish: float
    volume_m3: float
    rate: tuple[float, float, float]  # low, middle and high of 95 %, fish in 1000 m3
    fish_outside: float
    volume_outside_m3: float
    rate_outside: tuple[float, float, float]
    luck: float  # chance that even water would show as strong a stretch somewhere


def best_stretch(volume_m3: Floats, fish: Floats, *, seed: int = 0) -> Stretch | None:
    """
    The stretch that holds fish against the rest of the way.

    Parameters
    ----------
    volume_m3, fish : array of shape (pieces,)
    seed : int
        Of the draws that tell luck.

    Returns
    -------
    Stretch or None
        None where there are too few fish, or none hold together.

    Notes
    -----
    A scan statistic (Kulldorff 1997): over all runs of pieces the largest Poisson likelihood ratio of one rate inside
    and another outside against one rate for all. Luck is the share of draws, fish strewn by volume alone, whose own
    largest ratio is as large. Rates are Gamma(n + 1/2) / V as elsewhere, told to 95 %: a stretch that was picked for
    being strong is a little weaker than it looks.
    """
    total, water = float(fish.sum()), float(volume_m3.sum())
    if total < _LEAST_FISH or not water > 0:
        return None
    # long passes are looked at in coarser pieces: all runs of so many are enough to find a place
    group = -(-fish.size // _MOST_GROUPS)
    edges = np.arange(0, fish.size, group)
    v, n = np.add.reduceat(volume_m3, edges), np.add.reduceat(fish, edges)
    ratio, a, b = _largest_ratio(v, n[None, :], total)
    if not ratio[0] > _RATIO:
        return None
    draws = np.random.default_rng(seed).multinomial(round(total), v / v.sum(), size=_DRAWS).astype(np.float64)
    others, _, _ = _largest_ratio(v, draws, float(round(total)))
    luck = (1 + int((others >= ratio[0]).sum())) / (_DRAWS + 1)
    first, last = int(a[0]) * group, min((int(b[0]) + 1) * group, fish.size) - 1
    inside = slice(first, last + 1)
    mine, own = float(fish[inside].sum()), float(volume_m3[inside].sum())
    return Stretch(
        first=first,
        last=last,
        fish=mine,
        volume_m3=own,
        rate=_rate(mine, own),
        fish_outside=total - mine,
        volume_outside_m3=water - own,
        rate_outside=_rate(total - mine, water - own),
        luck=luck,
    )


def _rate(fish: float, volume_m3: float) -> tuple[float, float, float]:
    from scipy.special import gammaincinv  # the window must paint before this is loaded

    low, high = (float(gammaincinv(fish + 0.5, q)) for q in (0.025, 0.975))
    per = PER_M3 / max(volume_m3, 1e-9)
    return low * per, fish * per, high * per


def _largest_ratio(volume: Floats, fish: Floats, total: float) -> tuple[Floats, NDArray[np.intp], NDArray[np.intp]]:
    """Over all runs of pieces the largest logarithm of the ratio of likelihoods, for each row of counts."""
    rows = np.arange(len(fish))
    best, first, last = np.zeros(len(fish)), np.zeros(len(fish), np.intp), np.zeros(len(fish), np.intp)
    water = float(volume.sum())
    upto_v = np.concatenate([[0.0], np.cumsum(volume)])
    upto_n = np.concatenate([np.zeros((len(fish), 1)), np.cumsum(fish, axis=1)], axis=1)
    for a in range(volume.size):
        share = (upto_v[a + 1 :] - upto_v[a]) / water
        inside = upto_n[:, a + 1 :] - upto_n[:, a, None]
        expected = total * np.clip(share, 1e-12, 1 - 1e-12)
        outside = total - inside
        with np.errstate(divide="ignore", invalid="ignore"):
            ratio = inside * np.log(inside / expected) + np.where(
                outside > 0, outside * np.log(outside / (total - expected)), 0.0
            )
        good = (inside > expected) & (share[None, :] <= _WIDEST)
        ratio = np.where(good, ratio, 0.0)
        k = ratio.argmax(axis=1)
        found = ratio[rows, k]
        better = found > best
        best[better], first[better], last[better] = found[better], a, a + k[better]
    return best, first, last


@dataclass(frozen=True, slots=True)
class BaitPatch:
    """Bait along one pass: where its middle lies on the chart's plane, when it was met, how much of it."""

    time: float
    x: float
    y: float
    bait_m3: float


@dataclass(frozen=True, slots=True, kw_only=True)
class BaitDrift:
    """How bait went from one pass to a later one."""

    before: tuple[BaitPatch, ...]  # met again, in pairs with `after`
    after: tuple[BaitPatch, ...]
    seen_before: int  # patches of each pass
    seen_after: int
    east_m: float
    north_m: float
    sd_m: float  # of the drift to either side
    seconds: float

    @property
    def metres(self) -> float:
        """How far."""
        return math.hypot(self.east_m, self.north_m)

    @property
    def is_known(self) -> bool:
        """It went farther than it is unsure."""
        return self.metres > 1.5 * self.sd_m


def bait_patches(seen: SeenAlong, x: Floats, y: Floats) -> tuple[BaitPatch, ...]:
    """
    Bait of a pass in one patch each.

    Parameters
    ----------
    seen : SeenAlong
    x, y : array of shape (pieces,)
        Its pieces on a plane, metres; NaN without a position.
    """
    amount = seen.bait_m3.sum(axis=1)
    there = np.flatnonzero((amount > _BAIT_M3) & np.isfinite(x) & np.isfinite(y))
    if not there.size:
        return ()
    parts = np.split(there, np.flatnonzero(np.diff(there) > _GAP_PIECES) + 1)

    def middle(values: Floats, part: NDArray[np.intp]) -> float:
        return float(np.average(values[part], weights=amount[part]))

    return tuple(BaitPatch(middle(seen.time, p), middle(x, p), middle(y, p), float(amount[p].sum())) for p in parts)


def bait_drift(before: Sequence[BaitPatch], after: Sequence[BaitPatch], place_sd_m: float = 6.0) -> BaitDrift | None:
    """
    How the bait of an earlier pass lies in a later one.

    Parameters
    ----------
    before, after : sequence of BaitPatch
    place_sd_m : float
        Of a patch's middle: half a beam, half a piece and the fix.

    Returns
    -------
    BaitDrift or None
        None where no patch was met again: it may have gone, or was not looked for.

    Notes
    -----
    Patches pair with the nearest, each once, within 60 m and what water moves at 0.12 m/s. The drift is the median of
    the pairs; its spread that of the pairs about it, or of one pair's own places.
    """
    ways = sorted(
        (math.hypot(b.x - a.x, b.y - a.y), i, j)
        for i, a in enumerate(before)
        for j, b in enumerate(after)
        if b.time > a.time and math.hypot(b.x - a.x, b.y - a.y) <= _MET_AGAIN_M + _FASTEST_MPS * (b.time - a.time)
    )
    pairs: list[tuple[int, int]] = []
    for _, i, j in ways:
        if all(i != p and j != q for p, q in pairs):
            pairs.append((i, j))
    if not pairs:
        return None
    moved = np.array([(after[j].x - before[i].x, after[j].y - before[i].y) for i, j in pairs])
    east, north = np.median(moved, axis=0)
    own = place_sd_m * math.sqrt(2.0)
    about = 1.25 * np.abs(moved - (east, north)).mean() if len(pairs) > 1 else 0.0
    return BaitDrift(
        before=tuple(before[i] for i, _ in pairs),
        after=tuple(after[j] for _, j in pairs),
        seen_before=len(before),
        seen_after=len(after),
        east_m=float(east),
        north_m=float(north),
        sd_m=max(own, float(about)) / math.sqrt(len(pairs)),
        seconds=float(np.median([after[j].time - before[i].time for i, j in pairs])),
    )
