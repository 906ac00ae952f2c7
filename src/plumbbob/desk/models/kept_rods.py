"""The rods as they were rigged last, remembered between starts."""

from __future__ import annotations

import logging
from dataclasses import dataclass
from typing import Any

from PySide6.QtCore import QSettings

from plumbbob.core.rig.rod import RigSettings
from plumbbob.desk.models.settings import json_of, keep_json
from plumbbob.formats.rig_json import kept_rod, rod_json

LEAST_DEPTH_M, MOST_DEPTH_M = 0.5, 300.0
MOST_RODS = 8
SETTING = "rods"


@dataclass(frozen=True, slots=True)
class RodSetup:
    """One rod as rigged, and the depth its lure should run at."""

    rod: RigSettings
    bob_m: float = 6.0


def keep_rods(settings: QSettings, rods: tuple[RodSetup, ...], chosen: int) -> None:
    """Remember the rods, and which is in hand."""
    rows = [{"bob_m": s.bob_m, **rod_json(s.rod)} for s in rods]
    keep_json(settings, SETTING, {"rods": rows, "chosen": chosen})


def recall_rods(settings: QSettings) -> tuple[tuple[RodSetup, ...], int]:
    """The remembered rods that still make sense, none if there are none, and which was in hand."""
    kept = json_of(settings, SETTING)
    if not isinstance(kept, dict) or not isinstance(rows := kept.get("rods"), list):
        return (), 0
    rods = tuple(one for row in rows[:MOST_RODS] if (one := _kept_rod(row)) is not None)
    chosen = kept.get("chosen", 0)
    return rods, min(max(chosen, 0), max(len(rods) - 1, 0)) if isinstance(chosen, int) else 0


def _kept_rod(row: Any) -> RodSetup | None:
    """One remembered rod; None for one that makes no sense, which keeps none of the others."""
    try:
        bob = float(row["bob_m"])
        return RodSetup(kept_rod(row), min(max(bob, LEAST_DEPTH_M), MOST_DEPTH_M)) if bob == bob else None
    except (ValueError, KeyError, TypeError, ArithmeticError, AttributeError) as exc:
        logging.getLogger(__name__).warning("a remembered rod could not be used: %s", exc)
        return None
