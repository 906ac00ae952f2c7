"""A made-up day on the water: where fish really are and when they bite, for a plan to be played against."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from plumbbob.core.plan.stay import Prior

_EMPTY = 0.35  # of the places: nobody at home today
_FOLLOWS = 0.5  # fish that are seen and do not take, for each that does
_MOST = 60


@dataclass(frozen=True, slots=True)
class Bite:
    """A fish, by the minutes one has fished at the place."""

    minute: float
    takes: bool
    up_m: float  # over the planned depth


@dataclass(frozen=True, slots=True)
class HiddenDay:
    """What each place holds; drawn once, the same for a seed."""

    bites: Mapping[str, tuple[Bite, ...]]

    def between(self, name: str, start_min: float, end_min: float) -> tuple[Bite, ...]:
        """Of a place, while one fishes there from one minute of it to another."""
        return tuple(b for b in self.bites.get(name, ()) if start_min <= b.minute < end_min)


def hidden_day(priors: Mapping[str, Prior], gone_per_h: float, seed: int) -> HiddenDay:
    """
    A day drawn from what is believed of its places.

    Notes
    -----
    Rates are Gamma as the priors have them, some places are empty; fish come as a Poisson process whose rate falls
    by a share of itself with every hour of fishing.
    """
    c = -math.log1p(-gone_per_h) if gone_per_h < 1.0 else 5.0
    made: dict[str, tuple[Bite, ...]] = {}
    for k, (name, prior) in enumerate(sorted(priors.items())):
        rng = np.random.default_rng([seed, k])
        rate = 0.0 if rng.random() < _EMPTY else rng.gamma(prior.fish) / prior.hours / (1.0 - _EMPTY)
        bites: list[Bite] = []
        worth = 0.0  # fresh hours
        while rate > 0 and len(bites) < _MOST:
            worth += rng.exponential(1.0 / (rate * (1.0 + _FOLLOWS)))
            if c * worth >= 1.0 - 1e-9:
                break
            hours = -math.log1p(-c * worth) / c if c > 1e-9 else worth
            takes = bool(rng.random() < 1.0 / (1.0 + _FOLLOWS))
            bites.append(Bite(60.0 * hours, takes, float(rng.normal(0.0, 0.5))))
        made[name] = tuple(bites)
    return HiddenDay(made)
