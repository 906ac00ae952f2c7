"""What holds where, in counts: the numbers behind the sentences a person reads."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace

import numpy as np

from plumbbob.core.sonar.reading import Fish, Reading, StandingObject

NEAR_BOTTOM_M = 2.0  # suspended means clear of the bottom by more than this ...
_BESIDE_S, _OVER_M = 1.0, 3.0
SUSPENDED_SHARE = 0.2  # ... and by more than this share of the depth


@dataclass(frozen=True, slots=True, kw_only=True)
class FishAssociation:
    """Counts of one reading. Depths are NaN where there is nothing to tell."""

    fish: int
    suspended: int
    near_bottom: int
    over_layer: int  # fish above the cold layer, where there is one
    under_layer: int
    near_bait: int  # fish within 25 m along the track and 4 m of depth of bait
    deepest_fish_m: float
    deepest_suspended_m: float
    band_top_m: float  # the middle eight tenths of suspended fish lie between
    band_base_m: float
    bottom_shallow_m: float
    bottom_deep_m: float
    hardness: float  # median
    seconds_under_layer_seen: float


def is_suspended(fish: Fish) -> bool:
    """Clear of the bottom by more than two metres and a fifth of the depth; unknown bottom counts as clear."""
    up = fish.height_above_bottom_m
    return not (up <= NEAR_BOTTOM_M or up <= SUSPENDED_SHARE * (fish.depth_m + up))


def summarise(reading: Reading) -> FishAssociation:
    """Count what a reading holds."""
    fish, layer, bottom = reading.fish, reading.cold_layer, reading.bottom
    hung = [f for f in fish if is_suspended(f)]
    depths = np.array([f.depth_m for f in hung])
    band = np.percentile(depths, [10, 90]) if depths.size else (np.nan, np.nan)
    known = bottom.depth_m[np.isfinite(bottom.depth_m)]
    span = np.percentile(known, [1, 99]) if known.size else (np.nan, np.nan)
    hard = bottom.hardness[np.isfinite(bottom.hardness)]
    interval = float(np.median(np.diff(bottom.time))) if bottom.time.size > 1 else 0.0
    under = 0.0
    if layer is not None:
        under = float((known > layer.depth_m + layer.thickness_m / 2 + 1.0).sum()) * interval
    return FishAssociation(
        fish=len(fish),
        suspended=len(hung),
        near_bottom=len(fish) - len(hung),
        over_layer=sum(layer is not None and f.depth_m <= layer.depth_m for f in fish),
        under_layer=sum(layer is not None and f.depth_m > layer.depth_m for f in fish),
        near_bait=sum(
            any(
                b.time_start - 20 <= f.time <= b.time_end + 20
                and b.depth_top_m - 4 <= f.depth_m <= b.depth_bottom_m + 4
                for b in reading.bait
            )
            for f in fish
        ),
        deepest_fish_m=max((f.depth_m for f in fish), default=float("nan")),
        deepest_suspended_m=float(depths.max()) if depths.size else float("nan"),
        band_top_m=float(band[0]),
        band_base_m=float(band[1]),
        bottom_shallow_m=float(span[0]),
        bottom_deep_m=float(span[1]),
        hardness=float(np.median(hard)) if hard.size else float("nan"),
        seconds_under_layer_seen=under,
    )


def with_fish(thing: StandingObject, fish: Iterable[Fish]) -> StandingObject:
    """A standing thing with the fish counted that are in it, and over it within three metres."""
    near = [f for f in fish if thing.time_start - _BESIDE_S <= f.time <= thing.time_end + _BESIDE_S]
    inside = sum(f.height_above_bottom_m < thing.height_m for f in near)
    over = sum(f.height_above_bottom_m < thing.height_m + _OVER_M for f in near) - inside
    return replace(thing, fish_inside=inside, fish_over=over)


def together(reading: Reading, chosen: Fish, *, seconds: float = 5.0, depth_m: float = 1.2) -> int:
    """How many fish were read close to this one, itself included."""
    return sum(
        abs(f.time - chosen.time) <= seconds and abs(f.depth_m - chosen.depth_m) <= depth_m for f in reading.fish
    )
