"""How large a piece of structure has to be."""

from __future__ import annotations

from dataclasses import dataclass, replace


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
    smooth_m: float = 6.0  # of the bottom that is looked at; also its finest cell
    point_root_m: float = 110.0  # a point may begin so far from what looks like land


_LARGE_M = 500.0  # side of a water from which on sizes are as they stand
_SMALLEST = 0.35


def settings_for(area_m2: float) -> StructureSettings:
    """
    Sizes that count on a water of some area: what is a hump in a pond is a ripple in a reservoir.

    Examples
    --------
    >>> settings_for(2_000_000.0) == StructureSettings()
    True
    >>> round(settings_for(40_000.0).point_length_m, 1)
    24.0
    """
    usual = StructureSettings()
    s = min(max(area_m2**0.5 / _LARGE_M, _SMALLEST), 1.0)
    lower = 0.5 + 0.5 * s  # heights shrink less than lengths
    return replace(
        usual,
        hump_m=lower * usual.hump_m,
        hump_area_m2=s * s * usual.hump_area_m2,
        basin_area_m2=s * s * usual.basin_area_m2,
        ledge_stretch_m=s * usual.ledge_stretch_m,
        flat_area_m2=s * s * usual.flat_area_m2,
        channel_m=lower * usual.channel_m,
        channel_length_m=s * usual.channel_length_m,
        point_m=lower * usual.point_m,
        point_length_m=s * usual.point_length_m,
        widths_m=tuple(s * w for w in usual.widths_m),
        smooth_m=s * usual.smooth_m,
        point_root_m=s * usual.point_root_m,
    )
