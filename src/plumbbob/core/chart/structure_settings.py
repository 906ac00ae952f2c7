"""How large a piece of structure has to be."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class StructureSettings:
    """Least sizes; lengths in metres, depths in metres."""

    hump_m: float = 0.8
    hump_share: float = 0.07  # of the depth it stands in
    hump_area_m2: float = 200.0
    basin_area_m2: float = 12_000.0
    ledge_deg: float = 10.0
    ledge_foot_deg: float = 7.0
    ledge_stretch_m: float = 700.0
    flat_deg: float = 1.5
    flat_core_deg: float = 0.8
    most_flats: int = 12
    flat_area_m2: float = 8_000.0
    channel_m: float = 0.7
    channel_length_m: float = 150.0
    point_m: float = 0.8
    point_length_m: float = 60.0
    widths_m: tuple[float, ...] = (25.0, 45.0, 75.0)
