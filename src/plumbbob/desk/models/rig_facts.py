"""What the day offers advice on the rig."""

from __future__ import annotations

import math

import numpy as np

from plumbbob.core.rig.advice import RigFacts, bait_length_m
from plumbbob.desk.models.boat import own_boat
from plumbbob.desk.models.session import Session
from plumbbob.formats.species import table_name
from plumbbob.formats.waters import Bait

_THICK_M = 0.8  # bait thinner than this is fished through


def facts_of(session: Session) -> RigFacts:
    """What is known of the day for advice on the rig."""
    day, scan = session.conditions, session.scan
    profile, comfort = day.profile, day.comfort
    warm = math.nan
    if profile is not None:
        warm = float(np.interp(session.rig.bob_m, profile.depth_m, profile.temperature_c))
    layer = session.view.column.layer
    time = scan.time
    bait = tuple(
        (b.depth_top_m, b.depth_bottom_m)
        for b in scan.reading.bait
        if b.time_start - 20 <= time <= b.time_end + 20 and b.depth_bottom_m - b.depth_top_m >= _THICK_M
    )
    hardness = scan.hardness
    weed = any(s.kind == "weed" and s.time_start - 5 <= time <= s.time_end + 5 for s in scan.reading.standing)
    sun = day.sun_deg()
    eaten = session.water.baits[0] if session.water.baits else None
    return RigFacts(
        kayak=own_boat(session.settings).is_kayak,
        activity=math.nan if comfort is None else comfort.activity,
        looks=day.species.looks if day.species is not None else "",
        surface_c=float(profile.temperature_c[0]) if profile is not None else math.nan,
        bait_length_m=math.nan if eaten is None else _length(eaten),
        secchi_m=day.secchi_m,
        sun_deg=30.0 if sun is None else sun,
        wind_mps=day.wind_mps,
        temperature_c=warm,
        layer=layer,
        comfort=comfort.band if comfort is not None else None,
        species=table_name(day.species) if day.species is not None else "",
        called=session.display.species(day.species.name) if day.species is not None else "",
        bottom_m=session.lines.bottom_m if session.lines.ground.known else math.nan,
        soft_bottom=weed or (math.isfinite(hardness) and hardness < 0.25),
        bait=bait,
    )


def _length(bait: Bait) -> float:
    """Today's length where somebody measured it, else what is usual for its kind."""
    return bait.length_m if math.isfinite(bait.length_m) else bait_length_m(bait.name)
