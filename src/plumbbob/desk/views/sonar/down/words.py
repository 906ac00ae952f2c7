"""What a reading says, in short plain sentences with its numbers."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from plumbbob.core.geodesy import Position, write_position
from plumbbob.core.sonar.evidence import fish_floor
from plumbbob.core.sonar.fish_association import FishAssociation
from plumbbob.core.sonar.groups import MUCH_BAIT, Group, likely_species, nearest_bait
from plumbbob.core.sonar.reading import Bait, Fish, LayerReason, Reading, StandingObject, Thermocline, Trail
from plumbbob.core.sonar.sizes import size_class, usual_strength
from plumbbob.core.units import Kind
from plumbbob.core.water.profile import Profile
from plumbbob.desk.models.display import Display
from plumbbob.desk.models.session import Session
from plumbbob.formats.species import species_of


def hardness_word(value: float) -> str:
    """A word for hardness 0 to 1."""
    if not math.isfinite(value):
        return "unknown"
    for limit, word in ((0.25, "soft"), (0.45, "fairly soft"), (0.6, "medium"), (0.8, "firm")):
        if value < limit:
            return word
    return "hard"


def span(display: Display, low: float, high: float) -> str:
    """Two depths with one unit."""
    if not (math.isfinite(low) and math.isfinite(high)):
        return "–"
    first = display.figure(low, Kind.DEPTH, 0)
    if first == display.figure(high, Kind.DEPTH, 0):
        return display.words(high, Kind.DEPTH, 0)
    return f"{first}–{display.words(high, Kind.DEPTH, 0)}"


def layer_words(display: Display, layer: Thermocline | None) -> str:
    """Depth of the cold layer with its spread, or an honest none."""
    if layer is None:
        return "none seen"
    return f"{display.words(layer.depth_m, Kind.DEPTH)} {display.spread(layer.depth_sd_m, Kind.DEPTH)}"


def standing_word(thing: StandingObject) -> str:
    """What stands there."""
    return thing.detail or (thing.kind if thing.kind != "unknown" else "something")


def echo_lines(session: Session, echo: Fish | Bait | StandingObject) -> list[str]:
    """What is known of an echo, line by line, each number with its spread."""
    if isinstance(echo, Fish):
        lines = fish_lines(session.display, echo) + _about_fish(session, echo)
    elif isinstance(echo, Bait):
        lines = _bait_lines(session.display, echo)
    else:
        lines = _standing_lines(session.display, echo)
    if echo.hand:
        lines.append({"accepted": "you said so", "moved": "moved by you", "drawn": "drawn by you"}[echo.hand])
    return lines


def fish_lines(display: Display, fish: Fish) -> list[str]:
    """Place of a fish."""
    depth = f"{display.words(fish.depth_m, Kind.DEPTH)} down {display.spread(fish.depth_sd_m, Kind.DEPTH)}"
    lines = [depth]
    if math.isfinite(fish.height_above_bottom_m):
        lines.append(f"{display.words(fish.height_above_bottom_m, Kind.DEPTH)} off bottom")
    if math.isfinite(fish.off_axis_m):
        aside = display.words(fish.off_axis_m, Kind.DISTANCE)
        lines.append(f"about {aside} {display.spread(fish.off_axis_sd_m, Kind.DISTANCE)} to one side")
    else:
        lines.append("how far to a side can't be told")
    if math.isfinite(fish.position_sd_m) and math.isfinite(fish.latitude):
        unit = display.unit(Kind.DISTANCE)
        place = write_position(Position(fish.latitude, fish.longitude))
        lines.append(f"{place}  {display.spread(fish.position_sd_m, Kind.DISTANCE)} {unit}")
    return lines


def _about_fish(session: Session, fish: Fish) -> list[str]:
    scan, display = session.scan, session.display
    size = size_class(fish, usual_strength(scan.reading.fish))
    lines = []
    if size.word != "unknown":
        low, high = (f"{v:.1f}" for v in (size.factor_low, size.factor_high))
        sure = max(size.chances)
        lines.append(f"{size.word} for this pass, {sure:.0%} sure; {low} to {high} times the usual length")
    near = nearest_bait(fish, scan.reading.bait, scan.document.speed_mps) if scan.document.speed_mps > 0 else None
    if near is not None and near[0] < _BAIT_NEAR_M:
        away, side = near
        lines.append("in bait" if side == "in" else f"{display.words(away, Kind.DISTANCE, 0)} {_SIDES[side]} bait")
    return lines


_BAIT_NEAR_M = 40.0
_SIDES = {"above": "above", "under": "under", "before": "short of", "after": "past"}


def _bait_lines(display: Display, bait: Bait) -> list[str]:
    lines = [f"bait {span(display, bait.depth_top_m, bait.depth_bottom_m)} down"]
    if bait.shape:
        long = f", {display.words(bait.length_m, Kind.DISTANCE, 0)} long" if math.isfinite(bait.length_m) else ""
        lines.append(f"{bait.shape}{long}")
    if math.isfinite(bait.fill):
        dense = "solid" if bait.fill > 0.8 else "tight" if bait.fill > 0.4 else "loose"
        lines.append(f"{dense}: {bait.fill:.0%} of it full of echo, {bait.level_db:.0f} dB over the usual")
    return lines


def _standing_lines(display: Display, thing: StandingObject) -> list[str]:
    lines = [f"{standing_word(thing)}, {display.words(thing.height_m, Kind.DEPTH)} high"]
    lines.append(f"top {display.words(thing.bottom_m - thing.height_m, Kind.DEPTH)} down")
    if math.isfinite(thing.length_m):
        lines.append(f"{display.words(thing.length_m, Kind.DISTANCE, 0)} along the pass")
    if thing.fish_inside or thing.fish_over:
        lines.append(f"fish: {thing.fish_inside} in it, {thing.fish_over} over it")
    return lines


@dataclass(frozen=True, slots=True)
class Said:
    """A sentence, and what on screen it can be followed to."""

    text: str
    goal: Fish | Bait | StandingObject | Group | Trail | float | None = None  # a number: a depth


def reasons(session: Session, held: FishAssociation) -> list[Said]:
    """Why the pass reads as it does; each line leads to what it speaks of."""
    display, reading = session.display, session.scan.reading
    lines: list[Said] = []
    if held.fish == 0:
        lines.append(Said("No single fish stood out. Fish tight to the bottom can't be seen."))
    lines += _floor_lines(session)
    lines += _layer_lines(display, reading, held, session.profile)
    lines += _group_lines(session)
    lines += _trail_lines(display, reading)
    if held.suspended >= 3:
        band = span(display, held.band_top_m, held.band_base_m)
        lines.append(Said(f"Most that hang free are {band} down.", (held.band_top_m + held.band_base_m) / 2))
    lines += _bait_reasons(session, held)
    if reading.standing:
        tallest = max(reading.standing, key=lambda s: s.height_m)
        high, count = display.words(tallest.height_m, Kind.DEPTH), len(reading.standing)
        stands = "One thing stands" if count == 1 else f"{count} things stand"
        lines.append(Said(f"{stands} on the bottom; the tallest, {standing_word(tallest)}, is {high} high.", tallest))
        full = max(reading.standing, key=lambda s: s.fish_inside + s.fish_over)
        if full.fish_inside + full.fish_over:
            words = f"{full.fish_inside} fish in and {full.fish_over} over the {standing_word(full)}."
            lines.append(Said(words, full))
    lost = float(np.mean(~np.isfinite(reading.bottom.depth_m))) if reading.bottom.depth_m.size else 0.0
    if lost > 0.02:
        lines.append(Said(f"The bottom is lost in {lost:.0%} of the pass; no depth is guessed there."))
    return lines


def _floor_lines(session: Session) -> list[Said]:
    display, found = session.display, fish_floor(session.scan.document.evidence)
    if found is None:
        return []
    deep = display.words(found.depth_m, Kind.DEPTH, 0)
    under = f" in {display.words(found.bottom_m, Kind.DEPTH, 0)} of water" if math.isfinite(found.bottom_m) else ""
    text = (
        f"No fish in free water below {deep}{under}, though {found.volume_m3:,.0f} m³ were looked at: "
        f"at the rate above, {found.expected:.0f} would have shown."
    )
    if session.scan.reading.cold_layer is None:
        text += " That speaks for a layer that does not show."
    return [Said(text, found.depth_m)]


def _layer_lines(display: Display, reading: Reading, held: FishAssociation, profile: Profile | None) -> list[Said]:
    layer = reading.cold_layer
    if layer is None:
        band = reading.no_layer
        if band is None:
            return [Said("No layer keeps its depth here, so none is drawn.")]
        deep = display.words(band.depth_m, Kind.DEPTH)
        return [
            Said(f"A band of weak echo keeps to {deep}, but it is no cold layer: {_against(band)}.", band.depth_m)
        ]
    lines = []
    share = f" in {layer.share:.0%} of the water deep enough" if math.isfinite(layer.share) else ""
    thick = display.words(layer.thickness_m, Kind.DEPTH)
    text = f"Cold layer {thick} thick shows{share}, confidence {layer.confidence:.0%}."
    if math.isfinite(layer.tilt) and abs(layer.tilt) > 2 * layer.tilt_sd:
        sign = "deeper" if layer.tilt > 0 else "shallower"
        tilt = display.words(abs(layer.tilt), Kind.DEPTH)
        text += f" It gets {tilt} {sign} in a kilometre."
    lines.append(Said(text + _layer_doubt(display, layer, profile), layer.depth_m))
    if held.fish:
        where = f"{held.over_layer} of {held.fish} fish hang over the cold layer"
        lines.append(Said(where + (f", {held.under_layer} under it." if held.under_layer else "."), layer.depth_m))
        if held.under_layer == 0 and held.seconds_under_layer_seen > 20:
            minutes = held.seconds_under_layer_seen / 60
            lines.append(Said(f"The water under it was looked at for {minutes:.0f} min and is empty."))
    return lines


def _layer_doubt(display: Display, layer: Thermocline, profile: Profile | None) -> str:
    """What else is known for a cold layer and against it: plankton and noise can keep their depth as well."""
    said = ""
    if profile is not None and not profile.estimated:
        drop = profile.drop_across(layer.depth_m, max(layer.thickness_m, _DROP_OVER_M))
        if math.isfinite(drop):
            warm = display.unit(Kind.TEMPERATURE)
            degrees = drop * (display.shown(1.0, Kind.TEMPERATURE) - display.shown(0.0, Kind.TEMPERATURE))
            said = (
                f" For it: the column falls by {degrees:.1f} {warm} across it."
                if drop >= _LEAST_DROP_C
                else f" Against it: the column falls by only {degrees:.1f} {warm} there; plankton looks alike."
            )
    echo_for = [_LAYER_FOR[reason] for reason, odds in layer.why if odds > 0 and reason in _LAYER_FOR]
    if echo_for:
        said += f" For it: {', '.join(echo_for)}."
    if any(odds < 0 for _, odds in layer.why):
        said += f" Against it: {_against(layer)}."
    return said


def _against(band: Thermocline) -> str:
    return ", ".join(_LAYER_AGAINST[reason] for reason, odds in band.why if odds < 0 and reason in _LAYER_AGAINST)


_LEAST_DROP_C, _DROP_OVER_M = 1.0, 2.0
_LAYER_FOR = {
    LayerReason.TEMPERATURE: "the surface is warm",
    LayerReason.BELOW_BOTTOM: "it stops where the bottom is shallower",
    LayerReason.WAVES: "it rises and falls a little, as layers do",
}
_LAYER_AGAINST = {
    LayerReason.TEMPERATURE: "water this cold at the surface holds up no layer",
    LayerReason.THICKNESS: "it is thicker than most",
    LayerReason.ENDS: "it ends in open water, as plankton does",
    LayerReason.BELOW_BOTTOM: "it goes on under the bottom, as noise of the sounder does",
    LayerReason.RULED: "it is as straight as a ruled line, which nothing in water is",
}


def _trail_lines(display: Display, reading: Reading) -> list[Said]:
    """A lure let down, and what came up after it."""
    lines = []
    for trail in reading.trails:
        low, high = display.words(max(trail.depth_m), Kind.DEPTH), display.words(min(trail.depth_m), Kind.DEPTH)
        if trail.kind == "falling lure":
            sink = display.words(trail.sink_mps, Kind.SPEED)
            lines.append(Said(f"A lure went down to {low} at {sink}.", trail))
        elif trail.kind == "following fish":
            lines.append(Said(f"Something followed it up from {low} to {high}.", trail))
    return lines[:_MOST_TRAILS]


_MOST_TRAILS = 4
_HOW_WORDS = {
    "strung": "strung along the bottom",
    "edge": "strung along an edge",
    "stacked": "stacked high",
    "scattered": "scattered in open water",
    "hung": "hung over",
}


def _group_lines(session: Session) -> list[Said]:
    """How the largest groups hold, and who holds like that here: likelihoods with their reasons."""
    display, water = session.display, session.water
    kinds = species_of(water)
    lines = []
    for group in sorted(session.scan.document.groups, key=lambda g: -len(g.fish))[:_MOST_GROUPS]:
        how = _HOW_WORDS[group.how] + (f" {group.over}" if group.how == "hung" else "")
        middle = (group.depth_top_m + group.depth_bottom_m) / 2
        text = f"{len(group.fish)} fish {how}, {span(display, group.depth_top_m, group.depth_bottom_m)} down"
        if math.isfinite(group.height_m):
            text += f", {display.words(group.height_m, Kind.DEPTH)} off bottom"
        likely = likely_species(group.how, middle, kinds, session.profile)[:2]
        if likely:
            chances = ", ".join(f"{display.species(s.species.name)} {s.chance:.0%}" for s in likely)
            why = []
            if likely[0].habit:
                why.append("holds so")
            if math.isfinite(likely[0].temperature_c):
                warm = display.words(likely[0].temperature_c, Kind.TEMPERATURE, 0)
                why.append(f"{warm} there suits it" if likely[0].warm > 0.7 else f"{warm} there")
            text += f". Likely {chances}" + (f" ({', '.join(why)})" if why else "")
        lines.append(Said(text + ".", group))
    return lines


_MOST_GROUPS = 3


def _bait_reasons(session: Session, held: FishAssociation) -> list[Said]:
    reading = session.scan.reading
    if not reading.bait:
        return []
    lines = []
    biggest = max(reading.bait, key=lambda b: (b.time_end - b.time_start) * (b.depth_bottom_m - b.depth_top_m))
    if held.fish:
        lines.append(Said(f"{held.near_bait} of {held.fish} fish are within a short cast of bait.", biggest))
    evidence = session.scan.document.evidence
    share = float(evidence.bait_m3.sum()) / max(float(evidence.volume_m3.sum()), 1.0)
    if share > MUCH_BAIT:
        lines.append(
            Said(
                f"Bait fills {share:.0%} of the water looked at: too much of it. A lure inside is one among "
                "thousands; its edges and holes are where one shows.",
                biggest,
            )
        )
    return lines
