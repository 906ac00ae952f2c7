"""One piece of structure on the chart: values only."""

from __future__ import annotations

import math
from dataclasses import dataclass

from plumbbob.core.types import Floats


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Feature:
    """One piece of structure, on the chart's plane."""

    kind: str
    x: float  # of the key spot: the top, the deepest place, the lip's steepest stretch, the tip, the bend
    y: float
    depth_top_m: float
    depth_base_m: float
    slope_max_deg: float
    area_m2: float
    shape: Floats  # (n, 2) eastings and northings: an outline, or a line for channels and roads
    is_line: bool = False
    shore_m: float = math.nan  # distance to land
    deep_m: float = math.nan  # distance to water deeper than the base by 3 m
    lip_m: float = math.nan  # depth of a ledge's upper edge
    bends: tuple[tuple[float, float], ...] = ()  # of a channel: where it swings
    chance: float = 1.0  # that it is there, by its height against the chart's spread and how near it was sounded
    rise_m: float = math.nan  # of a road over the ground beside it; under zero where it is cut in
