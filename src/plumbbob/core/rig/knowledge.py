"""How well the coefficients of the tackle are known: priors, and what notes from the water made of them."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from plumbbob.core.rig.rod import RigSettings

Key = tuple[str, str, str]  # kind of tackle, its name, the coefficient


def keys_of(settings: RigSettings) -> dict[Key, float]:
    """The uncertain coefficients a way uses, each with the standard deviation of its logarithm before any note."""
    out: dict[Key, float] = {}
    for item in settings.items().values():
        for coefficient, sd in item.uncertain().items():
            out[(item.kind, item.name, coefficient)] = sd
    return out


def scaled(settings: RigSettings, factors: Mapping[Key, float]) -> RigSettings:
    """The rod with coefficients of its tackle times factors; those it does not use are left aside."""
    changes: dict[str, Any] = {}
    for slot, item in settings.items().items():
        made: Any = item
        for coefficient in item.uncertain():
            factor = factors.get((item.kind, item.name, coefficient), 1.0)
            if factor != 1.0:
                made = made.scaled(coefficient, factor)
        if made is not item:
            changes[slot] = made
    return replace(settings, **changes) if changes else settings


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Knowledge:
    """Logarithms of factors on the tackle's coefficients: their means and how they vary together."""

    keys: tuple[Key, ...] = ()
    mean: NDArray[np.float64] = field(default_factory=lambda: np.zeros(0))
    covariance: NDArray[np.float64] = field(default_factory=lambda: np.zeros((0, 0)))

    def tuned(self, settings: RigSettings) -> RigSettings:
        """The rod with its tackle as the notes say it is."""
        if not self.keys:
            return settings
        return scaled(settings, {key: math.exp(m) for key, m in zip(self.keys, self.mean.tolist(), strict=True)})

    def factor(self, key: Key) -> tuple[float, float]:
        """A coefficient's factor and the standard deviation of its logarithm; 1 and NaN where no note spoke of it."""
        if key not in self.keys:
            return 1.0, math.nan
        i = self.keys.index(key)
        return math.exp(float(self.mean[i])), math.sqrt(max(float(self.covariance[i, i]), 0.0))

    def variance(self, slopes: Mapping[Key, float], priors: Mapping[Key, float]) -> float:
        """
        Variance of a number that changes by `slopes` for each unit of a coefficient's logarithm.

        Parameters
        ----------
        slopes : mapping of Key to float
        priors : mapping of Key to float
            Standard deviations of the coefficients no note has spoken of.
        """
        known = {key: i for i, key in enumerate(self.keys)}
        total = sum((slope * priors[key]) ** 2 for key, slope in slopes.items() if key not in known)
        pairs = [(known[key], slope) for key, slope in slopes.items() if key in known]
        for i, a in pairs:
            for j, b in pairs:
                total += a * b * float(self.covariance[i, j])
        return max(total, 0.0)


PRIOR = Knowledge()
