"""The table of habits: where species hold by season, and where and when they spawn."""

from __future__ import annotations

import csv
import math
from functools import cache
from importlib.resources import files

from plumbbob.core.water.habits import Group, Habits


@cache
def known_habits() -> dict[str, Habits]:
    """Habits by the key of the species."""
    text = files("plumbbob.data").joinpath("habits.csv").read_text(encoding="utf-8")
    return {row["key"]: _habits(row) for row in csv.DictReader(text.splitlines())}


def habits_of(key: str) -> Habits | None:
    """Of one species, by its key; None for one a person made up."""
    return known_habits().get(key)


def _habits(row: dict[str, str]) -> Habits:
    seasons = ("winter", "spring", "summer", "autumn")
    return Habits(
        key=row["key"],
        letters=(row["winter"], row["spring"], row["summer"], row["autumn"]),
        depths_m=tuple(_pair(row, f"{s}_top_m", f"{s}_base_m") for s in seasons),
        senses=row["senses"],
        low_feed_m=float(row["low_feed_m"]),
        low_rest_m=float(row["low_rest_m"]),
        bait=row["bait"],
        group=Group(row["group"]),
        spawn_c=_pair(row, "spawn_low_c", "spawn_high_c"),
        spawn_falling=bool(row["spawn_falling"]),
        spawn_m=_pair(row, "spawn_top_m", "spawn_base_m"),
        notes=row["notes"],
    )


def _pair(row: dict[str, str], low: str, high: str) -> tuple[float, float]:
    if not (row[low] and row[high]):
        return math.nan, math.nan
    return float(row[low]), float(row[high])
