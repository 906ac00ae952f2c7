"""The card's tables: what to let out, or count, for depths by the speeds of the day."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from plumbbob.core.rig.knowledge import PRIOR, Knowledge
from plumbbob.core.rig.methods import solve
from plumbbob.core.rig.rod import FAMILY, FASTEST_MPS, Amount, Family, RigAnswer, RigSettings, amount_of


@dataclass(frozen=True, slots=True, kw_only=True)
class CardTable:
    """One rod's table."""

    rod: RigSettings
    amount: Amount
    speeds_mps: tuple[float, ...]  # one NaN-free column each; a cast has one only
    depths_m: tuple[float, ...]
    values: tuple[tuple[float | None, ...], ...]  # by depth, then speed; None: out of reach


def card_table(
    rod: RigSettings, depths_m: Sequence[float], speeds_mps: Sequence[float], knowledge: Knowledge = PRIOR
) -> CardTable:
    """
    What to let out for each depth at each speed.

    A cast and a rod through the ice know no boat speed: they get one column.
    """
    one = FAMILY[rod.method] in (Family.CAST, Family.ICE)
    speeds = (rod.speed_mps,) if one else tuple(speeds_mps)
    rows = []
    for depth in depths_m:
        row: list[float | None] = []
        for speed in speeds:
            # the card has no room for spreads, and they take most of the time
            answer = solve(replace(rod, speed_mps=speed), depth, knowledge, depth_sd_m=0.0)
            row.append(answer.value if isinstance(answer, RigAnswer) else None)
        rows.append(tuple(row))
    return CardTable(
        rod=rod,
        amount=amount_of(rod.method),
        speeds_mps=speeds,
        depths_m=tuple(depths_m),
        values=tuple(rows),
    )


def speeds_about(speed_mps: float) -> tuple[float, ...]:
    """The day's speed, slower and faster by a fifth and two; none faster than a rod can be pulled."""
    speeds = (min(speed_mps * share, FASTEST_MPS) for share in (0.6, 0.8, 1.0, 1.2, 1.4))
    return tuple(dict.fromkeys(speeds))
