"""What a reading says, in short plain sentences with its numbers."""

from __future__ import annotations

import math

from plumbbob.core.sonar.holding import Holding
from plumbbob.core.sonar.reading import ColdLayer, Reading
from plumbbob.core.units import Kind, unit_of
from plumbbob.desk.session.look import Look


def hardness_word(value: float) -> str:
    """A word for hardness 0 to 1."""
    if not math.isfinite(value):
        return "unknown"
    for limit, word in ((0.25, "soft"), (0.45, "fairly soft"), (0.6, "medium"), (0.8, "firm")):
        if value < limit:
            return word
    return "hard"


def span(look: Look, low: float, high: float) -> str:
    """Two depths with one unit."""
    if not (math.isfinite(low) and math.isfinite(high)):
        return "–"
    return f"{look.figure(low, Kind.DEPTH, 0)}–{look.words(high, Kind.DEPTH, 0)}"


def layer_words(look: Look, layer: ColdLayer | None) -> str:
    """Depth of the cold layer with its spread, or an honest none."""
    if layer is None:
        return "none seen"
    return f"{look.words(layer.depth_m, Kind.DEPTH)} {look.spread(layer.depth_sd_m, Kind.DEPTH)}"


def reasons(look: Look, reading: Reading, held: Holding) -> list[str]:
    """Why the pass reads as it does."""
    lines = []
    if held.fish == 0:
        lines.append("No single fish stood out. Fish tight to the bottom can't be seen.")
    elif math.isfinite(held.deepest_fish_m) and held.bottom_deep_m - held.deepest_fish_m > 3.0:
        deepest = look.words(held.deepest_fish_m, Kind.DEPTH, 0)
        lines.append(f"No fish below {deepest} in {look.words(held.bottom_deep_m, Kind.DEPTH, 0)} of water.")
    if reading.cold_layer is not None and held.fish:
        where = f"{held.over_layer} of {held.fish} fish hang over the cold layer"
        if held.under_layer:
            where += f", {held.under_layer} under it"
        lines.append(where + ".")
        if held.under_layer == 0 and held.seconds_under_layer_seen > 20:
            minutes = held.seconds_under_layer_seen / 60
            lines.append(f"The water under it was looked at for {minutes:.0f} min and is empty.")
    elif reading.cold_layer is None:
        lines.append("No layer keeps its depth here, so none is drawn.")
    if held.suspended >= 3:
        band = span(look, held.band_top_m, held.band_base_m)
        lines.append(f"Most that hang free are {band} down.")
    if reading.bait and held.fish:
        lines.append(f"{held.near_bait} of {held.fish} fish are within a short cast of bait.")
    if reading.standing:
        tallest = max(reading.standing, key=lambda s: s.height_m)
        word = tallest.kind if tallest.kind != "unknown" else "something"
        high = look.words(tallest.height_m, Kind.DEPTH)
        lines.append(f"{len(reading.standing)} things stand on the bottom; the tallest, {word}, is {high} high.")
    return lines


def unit_word(look: Look) -> str:
    """The unit of depths."""
    return unit_of(Kind.DEPTH, look.system).symbol
