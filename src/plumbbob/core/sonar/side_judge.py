"""
Whether a bright spot to the sides is a fish: straight pieces over each of its numbers, summed to the log of the odds.

The pieces are learned from simulated ground of all kinds (`tools/learn_side.py`, which writes `side_pieces`), so
every part of a judgement can be said: how much its length, its thickness, its shadow speak for a fish.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from plumbbob.core.sonar.reading import SideReason
from plumbbob.core.sonar.side_pieces import BIAS, PIECES, WATER_BIAS, WATER_PIECES
from plumbbob.core.types import Floats

CHANCE = 0.5  # from which a spot is said to be a fish
_ELSEWHERE = 0.4  # of the odds are lost on ground that nobody made up: what it threw that the simulator does not
FEATURES = (
    "spot", "beside", "before", "behind", "about", "along", "across", "body", "body_across", "body_along", "shadow",
    "shadow_beside", "first_return", "others", "peak", "gap", "water_body", "water_across", "water_along",
    "above", "over_usual", "over_rare", "evidence", "evidence_by_grain", "grain", "steady",
    "steady_over_usual", "even", "one_ping", "wide", "bell",
)  # fmt: skip
_REASON = {
    "spot": SideReason.STANDS_OUT, "evidence": SideReason.STANDS_OUT, "evidence_by_grain": SideReason.STANDS_OUT,
    "over_usual": SideReason.STANDS_OUT, "over_rare": SideReason.STANDS_OUT, "steady": SideReason.STANDS_OUT,
    "steady_over_usual": SideReason.STANDS_OUT, "peak": SideReason.STANDS_OUT,
    "even": SideReason.EVEN, "one_ping": SideReason.EVEN, "wide": SideReason.EVEN, "bell": SideReason.EVEN,
    "grain": SideReason.STANDS_OUT, "along": SideReason.LENGTH, "body_along": SideReason.LENGTH,
    "across": SideReason.THICKNESS, "body_across": SideReason.THICKNESS, "body": SideReason.THICKNESS,
    "beside": SideReason.SURROUNDINGS, "before": SideReason.SURROUNDINGS, "behind": SideReason.SURROUNDINGS,
    "about": SideReason.SURROUNDINGS, "others": SideReason.SURROUNDINGS,
    "shadow": SideReason.SHADOW, "shadow_beside": SideReason.SHADOW, "first_return": SideReason.FIRST_RETURN,
    "gap": SideReason.IN_WATER, "above": SideReason.IN_WATER, "water_body": SideReason.THICKNESS,
    "water_across": SideReason.THICKNESS, "water_along": SideReason.LENGTH,
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Piece:
    """One number's part: its knots, the weights of the first slope and of each change, its mean over candidates."""

    name: str
    index: int  # among the features
    knots: tuple[float, ...]
    weights: tuple[float, ...]
    usual: float  # mean over candidates: what neither speaks for nor against

    def part(self, value: float) -> float:
        """Its part of the log of the odds."""
        knots, weights = self.knots, self.weights
        x = min(max(value, knots[0]), knots[-1])
        total = weights[0] * (x - knots[0])
        for k in range(1, len(weights)):
            if x <= knots[k]:
                break
            total += weights[k] * (x - knots[k])
        return total

    @property
    def most(self) -> float:
        """The most it can speak for a fish: straight pieces have that at a knot."""
        return max(self.part(k) for k in self.knots)


@dataclass(frozen=True, slots=True)
class Judgement:
    """The chance that it is a fish, and what speaks for (over 0) and against it, the strongest first."""

    chance: float
    why: tuple[tuple[SideReason, float], ...]


_ALL = tuple(Piece(*piece) for piece in PIECES)
_IN_WATER = tuple(Piece(*piece) for piece in WATER_PIECES)


def could_be_fish(features: Floats) -> bool:
    """Whether it may still be judged a fish, whatever its shadow says: looking for shadows takes the most time."""
    total = BIAS - _ELSEWHERE
    for piece in _ALL:
        total += piece.most if piece.name in ("shadow", "shadow_beside") else piece.part(float(features[piece.index]))
    return total > math.log(CHANCE / (1 - CHANCE))


def judged(features: Floats, *, in_water: bool) -> Judgement:
    """
    Judge a spot by its features (`FEATURES`).

    Notes
    -----
    Before the first return there is no ground to be mistaken for a fish, only what reaches up from it, rings or hums:
    there other numbers tell, how dark the water is between it and the bottom before all.
    """
    parts: dict[SideReason, float] = {}
    total = WATER_BIAS if in_water else BIAS - _ELSEWHERE
    for piece in _IN_WATER if in_water else _ALL:
        part = piece.part(float(features[piece.index]))
        total += part
        reason = _REASON[piece.name]
        parts[reason] = parts.get(reason, 0.0) + part - piece.usual
    chance = 1.0 / (1.0 + math.exp(-min(max(total, -30.0), 30.0)))
    return Judgement(chance, tuple(sorted(parts.items(), key=lambda item: -abs(item[1]))))
