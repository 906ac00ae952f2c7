"""A reading as the JSON object that `plumbbob scan --json` prints (docs/formats.md)."""

from __future__ import annotations

import math
from typing import Any

from plumbbob.core.sonar.groups import find_groups
from plumbbob.core.sonar.reading import ForwardReading, Reading, SideReading, Thermocline
from plumbbob.core.sonar.sizes import size_class, usual_strength
from plumbbob.core.types import Floats


def _one(value: float, digits: int = 3) -> float | None:
    return round(value, digits) if math.isfinite(value) else None


def _many(values: Floats, digits: int = 3) -> list[float | None]:
    return [_one(v, digits) for v in values.tolist()]


def reading_json(reading: Reading) -> dict[str, Any]:
    """Plain lists, dicts and numbers; what is not known is null."""
    layer, usual = reading.cold_layer, usual_strength(reading.fish)
    return {
        "bottom": {
            "time": _many(reading.bottom.time, 4),
            "depth": _many(reading.bottom.depth_m),
            "hardness": _many(reading.bottom.hardness, 2),
            "depth_below": _many(reading.bottom.below_m),
            "slope": _many(reading.bottom.slope_deg, 1),
            "dead_zone": _many(reading.bottom.dead_zone_m, 2),
        },
        "fish": [
            {
                "time": _one(f.time),
                "depth": _one(f.depth_m),
                "depth_sd": _one(f.depth_sd_m),
                "height_above_bottom": _one(f.height_above_bottom_m),
                "latitude": _one(f.latitude, 8),
                "longitude": _one(f.longitude, 8),
                "position_sd": _one(f.position_sd_m, 1),
                "off_axis": _one(f.off_axis_m, 2),
                "off_axis_sd": _one(f.off_axis_sd_m, 2),
                "level_db": _one(f.level_db, 1),
                "pings": f.pings,
                "strength_db": _one(f.strength_db, 1),
                "strength_sd_db": _one(f.strength_sd_db, 1),
                "size": size_class(f, usual).word,
                "hand": f.hand,
            }
            for f in reading.fish
        ],
        "bait": [
            {
                "time_start": _one(b.time_start),
                "time_end": _one(b.time_end),
                "depth_top": _one(b.depth_top_m, 2),
                "depth_bottom": _one(b.depth_bottom_m, 2),
                "latitude": _one(b.latitude, 8),
                "longitude": _one(b.longitude, 8),
                "level_db": _one(b.level_db, 1),
                "shape": b.shape,
                "length": _one(b.length_m, 1),
                "fill": _one(b.fill, 2),
                "outline": [[_one(t), _one(top, 2), _one(base, 2)] for t, top, base in b.outline],
                "hand": b.hand,
            }
            for b in reading.bait
        ],
        "standing": [
            {
                "time_start": _one(s.time_start),
                "time_end": _one(s.time_end),
                "height": _one(s.height_m, 2),
                "kind": s.kind,
                "detail": s.detail,
                "length": _one(s.length_m, 1),
                "bottom_depth": _one(s.bottom_m, 2),
                "latitude": _one(s.latitude, 8),
                "longitude": _one(s.longitude, 8),
                "fish_inside": s.fish_inside,
                "fish_over": s.fish_over,
                "hand": s.hand,
            }
            for s in reading.standing
        ],
        "thermocline": _layer(layer),
        "level_band": _layer(reading.no_layer),
        "groups": [
            {
                "how": g.how,
                "over": g.over,
                "fish": len(g.fish),
                "time_start": _one(g.time_start),
                "time_end": _one(g.time_end),
                "depth_top": _one(g.depth_top_m, 2),
                "depth_bottom": _one(g.depth_bottom_m, 2),
                "height_above_bottom": _one(g.height_m, 2),
                "along": _one(g.along_m, 1),
            }
            for g in find_groups(reading)
        ],
        "trails": [
            {
                "kind": t.kind,
                "sink": _one(t.sink_mps, 2),
                "time": [_one(v) for v in t.time],
                "depth": [_one(v, 2) for v in t.depth_m],
            }
            for t in reading.trails
        ],
        "side": _side(reading.side),
        "forward": _forward(reading.ahead),
    }


def _layer(layer: Thermocline | None) -> dict[str, Any] | None:
    if layer is None:
        return None
    return {
        "depth": _one(layer.depth_m, 2),
        "depth_sd": _one(layer.depth_sd_m, 2),
        "thickness": _one(layer.thickness_m, 2),
        "confidence": _one(layer.confidence, 2),
        "tilt_m_per_km": _one(layer.tilt, 2),
        "tilt_sd": _one(layer.tilt_sd, 2),
        "share": _one(layer.share, 2),
        "why": {reason.name.lower(): _one(odds, 2) for reason, odds in layer.why},
    }


def _side(side: SideReading | None) -> dict[str, Any]:
    if side is None:
        return {"fish": []}
    return {
        "fish": [
            {
                "time": _one(f.time),
                "side": f.side,
                "ground_range": _one(f.ground_m, 2),
                "ground_range_sd": _one(f.ground_sd_m, 2),
                "slant_range": _one(f.slant_m, 2),
                "height_above_bottom": _one(f.height_m, 2),
                "height_sd": _one(f.height_sd_m, 2),
                "depth": _one(f.depth_m, 2),
                "shadow_range": _one(f.shadow_m, 2),
                "in_water": f.in_water,
                "beside": f.beside or None,
                "latitude": _one(f.latitude, 8),
                "longitude": _one(f.longitude, 8),
                "position_sd": _one(f.position_sd_m, 1),
                "level_db": _one(f.level_db, 1),
                "chance": _one(f.chance, 2),
                "why": {reason.name.lower(): _one(odds, 2) for reason, odds in f.why},
                "hand": f.hand,
            }
            for f in side.fish
        ],
        "standing": [
            {
                "kind": t.kind,
                "time_start": _one(t.time_start),
                "time_end": _one(t.time_end),
                "side": t.side,
                "ground_range": _one(t.ground_m, 2),
                "height": _one(t.height_m, 2),
                "height_sd": _one(t.height_sd_m, 2),
                "height_at_least": t.at_least,
                "length": _one(t.length_m, 1),
                "latitude": _one(t.latitude, 8),
                "longitude": _one(t.longitude, 8),
            }
            for t in side.things
        ],
        "strung": [
            {"side": s.side, "fish": list(s.fish), "time_start": _one(s.time_start), "time_end": _one(s.time_end)}
            for s in side.strung
        ],
        "schools": [
            {
                "kind": s.kind,
                "side": s.side,
                "time_start": _one(s.time_start),
                "time_end": _one(s.time_end),
                "slant_near": _one(s.near_m, 2),
                "slant_far": _one(s.far_m, 2),
                "ground_range": _one(s.ground_m, 2),
                "ground_range_sd": _one(s.ground_sd_m, 2),
                "length": _one(s.length_m, 1),
                "fish_at_least": s.least or None,
                "height_low": _one(s.low_m, 2),
                "height_high": _one(s.high_m, 2),
                "height_sd": _one(s.height_sd_m, 2),
                "in_water": s.in_water,
                "latitude": _one(s.latitude, 8),
                "longitude": _one(s.longitude, 8),
            }
            for s in side.schools
        ],
        "ground": [
            {
                "kind": g.kind,
                "chance": _one(g.chance, 2),
                "side": g.side,
                "time_start": _one(g.time_start),
                "time_end": _one(g.time_end),
                "ground_near": _one(g.near_m, 1),
                "ground_far": _one(g.far_m, 1),
                "level_db": _one(g.level_db, 1),
                "level_sd": _one(g.level_sd_db, 1),
                "latitude": _one(g.latitude, 8),
                "longitude": _one(g.longitude, 8),
            }
            for g in side.ground
        ],
        "slope": {
            "time": _many(side.time[::9]),
            "degrees": _many(side.slope_deg[::9], 1),
            "sd": _many(side.slope_sd_deg[::9], 1),
        },
    }


def _forward(ahead: ForwardReading | None) -> dict[str, Any]:
    if ahead is None:
        return {"fish": []}
    return {
        "fish": [
            {
                "time": _one(t.time[t.best]),
                "azimuth": _one(t.azimuth_deg[t.best], 1),
                "azimuth_sd": _one(t.azimuth_sd_deg, 1),
                "distance": _one(t.distance_m[t.best], 2),
                "depth": _one(t.depth_m[t.best], 2),
                "depth_sd": _one(t.depth_sd_m, 2),
                "latitude": _one(t.latitude[t.best], 8),
                "longitude": _one(t.longitude[t.best], 8),
                "position_sd": _one(t.position_sd_m, 1),
                "level_db": _one(t.level_db[t.best], 1),
                "towards": _one(t.towards_mps, 2),
                "hand": t.hand,
                "track": {
                    "time": _many(t.time),
                    "distance": _many(t.distance_m, 2),
                    "depth": _many(t.depth_m, 2),
                    "azimuth": _many(t.azimuth_deg, 1),
                },
            }
            for t in ahead.tracks
            if t.kind == "fish"
        ]
    }
