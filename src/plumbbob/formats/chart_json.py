"""A chart as the JSON object that `plumbbob chart --json` prints (docs/formats.md)."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

from plumbbob.core.chart.feature import Feature
from plumbbob.core.chart.grid import Grid
from plumbbob.core.chart.soundings import FAULT_WORDS, Cleaned
from plumbbob.core.chart.structure import KINDS
from plumbbob.core.geodesy import Plane


def _number(value: float, digits: int) -> float | None:
    return round(float(value), digits) if math.isfinite(value) else None


def feature_json(plane: Plane, feature: Feature) -> dict[str, Any]:
    """One feature, its shape as GeoJSON in degrees."""
    latitude, longitude = plane.to_latlon(feature.x, feature.y)
    lat, lon = plane.to_latlon(feature.shape[:, 0], feature.shape[:, 1])
    ring = [[round(float(b), 7), round(float(a), 7)] for a, b in zip(lat, lon, strict=True)]
    geometry: dict[str, Any] = {"type": "Point", "coordinates": [float(longitude), float(latitude)]}
    if feature.is_line and len(ring) >= 2:
        geometry = {"type": "LineString", "coordinates": ring}
    elif len(ring) >= 4:
        geometry = {"type": "Polygon", "coordinates": [ring if ring[0] == ring[-1] else [*ring, ring[0]]]}
    return {
        "kind": feature.kind,
        "latitude": round(float(latitude), 7),
        "longitude": round(float(longitude), 7),
        "depth_top": _number(feature.depth_top_m, 2),
        "depth_base": _number(feature.depth_base_m, 2),
        "slope_max": _number(feature.slope_max_deg, 1),
        "area": _number(feature.area_m2, 0),
        "chance": _number(feature.chance, 2),
        "distance_to_shore": _number(feature.shore_m, 0),
        "distance_to_deep": _number(feature.deep_m, 0),
        "geometry": geometry,
    }


def chart_json(cleaned: Cleaned, grid: Grid, features: Sequence[Feature], unusable: int) -> dict[str, Any]:
    """Plain lists, dicts and numbers."""
    used = int(cleaned.kept.sum())
    return {
        "grid": {
            "cell": round(grid.frame.cell_m, 3),
            "width": grid.frame.nx,
            "height": grid.frame.ny,
            "soundings_used": used,
            "soundings_rejected": int(cleaned.fault.size) - used + unusable,
            "rejected": {FAULT_WORDS[k]: n for k, n in cleaned.counts().items()} | {"unusable rows": unusable},
            "line_spacing": round(grid.spacing_m, 1),
        },
        "features": [feature_json(cleaned.plane, f) for f in features if f.kind in KINDS],
        "more_features": [feature_json(cleaned.plane, f) for f in features if f.kind not in KINDS],
    }
