"""The words of a review: findings as sentences, what speaks against them, what can't be told, what to try."""

from __future__ import annotations

from collections.abc import Callable
from enum import Enum

from plumbbob.core.tally.asides import Aside
from plumbbob.core.tally.dimensions import Dimension
from plumbbob.core.tally.findings import Finding, Tie
from plumbbob.core.tally.questions import Part
from plumbbob.core.tally.review import Evidence, Review, Silence, Test, hours_to_tell
from plumbbob.core.tally.sidelines import Sideline
from plumbbob.core.units import Kind, System, to_shown, unit_of
from plumbbob.wording import tr

Units = Callable[[Kind], System]  # the system that each kind of quantity is said in

# what a condition is called, alone and in a sentence about a part of it
NAMES = {
    "lure_depth": "depth of the lure", "bottom_depth": "depth of the bottom",
    "height_off_bottom": "height off the bottom",
    "hour_from_sunrise": "hours from sunrise", "light": "light", "wind": "wind", "wind_side": "side of the wind",
    "water_temperature": "warmth of the water", "bait_distance": "distance from bait",
    "layer_distance": "depth under the cold layer's top", "method": "way of fishing", "lure": "lure",
    "lure_kind": "kind of lure", "colour": "colour", "lure_length": "length of the lure",
    "speed": "speed", "spot": "place",
    "month": "month",
}  # fmt: skip
KINDS = {
    "lure_depth": Kind.DEPTH, "bottom_depth": Kind.DEPTH, "height_off_bottom": Kind.DEPTH,
    "layer_distance": Kind.DEPTH,
    "bait_distance": Kind.DISTANCE, "wind": Kind.SPEED, "speed": Kind.SPEED, "water_temperature": Kind.TEMPERATURE,
    "lure_length": Kind.FISH,
}  # fmt: skip
_MONTHS = ("January", "February", "March", "April", "May", "June", "July", "August", "September", "October",
           "November", "December")  # fmt: skip
_PHRASES = {
    "lure_depth": "with the lure at {part}", "bottom_depth": "over {part} of water",
    "height_off_bottom": "{part} off the bottom", "hour_from_sunrise": "{part} after sunrise",
    "light": "{part}", "wind": "in wind of {part}", "wind_side": "with the {part} that shore",
    "water_temperature": "in water of {part}", "bait_distance": "{part} from bait",
    "layer_distance": "{part} under the cold layer's top", "method": "by {part}", "lure": "on the {part}",
    "lure_kind": "on the {part} as a kind", "colour": "on {part}", "lure_length": "on lures of {part}",
    "speed": "at {part}", "spot": "at {part}", "month": "in {part}",
}  # fmt: skip
_LIGHTS = {"night": "at night", "low sun": "in low sun", "day": "by day", "high sun": "under a high sun"}
PHRASES: dict[Enum, str] = {
    Sideline.LARGER_DEEPER: "{species} under {depth} were {by} longer in the middle than those above.",
    Sideline.LARGER_SHALLOWER: "{species} above {depth} were {by} longer in the middle than those below.",
    Sideline.LOST: "Of {hooked:.0f} fish that were hooked {lost:.0f} came off.",
    Sideline.FOLLOWED: "{followed:.0f} fish followed and turned, {landed:.0f} were landed.",
    Sideline.SEEN: "{seen:.0f} fish were seen and noted, {landed:.0f} were landed.",
    Sideline.RELEASED: "{back:.0f} of {fish:.0f} fish went back.",
    Sideline.DEEP_HOOKED: "{deep:.0f} of {fish:.0f} were hooked deep: few of those live, whatever is done.",
}
_SILENCES = {
    Silence.NO_EFFORT: "No effort is written down, so there are no rates: fish without hours don't say how often.",
    Silence.NO_FISH: "No fish yet: the hours stand, what matters can't be told.",
    Silence.ONE_TRIP: "One trip only: what it says may be that day's. A second one makes the first comparison.",
}


def metric(kind: Kind) -> System:
    """All in metres."""
    return System.METRIC


def named(name: str, dimension: Dimension, part: Part, units: Units) -> str:
    """A part as one reads it: a name, or from and to with the unit."""
    if dimension.edges is None:
        value = dimension.names[part.first]
        return tr(_MONTHS[int(value) - 1]) if name == "month" else value
    return span(name, float(dimension.edges[part.first]), float(dimension.edges[part.last + 1]), units)


def span(name: str, low: float, high: float, units: Units) -> str:
    """From and to with the unit once."""
    kind = KINDS.get(name)
    if kind is None:
        return f"{low:g} to {high:g} h"
    system = units(kind)
    digits = 0 if kind is Kind.DEPTH and system is System.US else 2
    first, last = (f"{round(to_shown(v, kind, system), digits):.10g}".replace("-", "−") for v in (low, high))
    return f"{first} to {last} {unit_of(kind, system).symbol}"


def phrase(name: str, part: str) -> str:
    """A part inside a sentence."""
    if name == "light":
        return tr(_LIGHTS.get(part, part))
    return tr(_PHRASES[name]).format(part=part)


def times(ratio: float) -> str:
    """2.6, or 0.35 as such."""
    return f"{ratio:.1f}" if ratio >= 0.95 else f"{ratio:.2f}"


def finding(made: Review, found: Finding, part: Part, units: Units) -> str:
    """A finding as a sentence."""
    dimension = made.pieces.dimensions[part.dimension]
    where = phrase(dimension.name, named(dimension.name, dimension, part, units))
    if found.ratio >= 1.0:
        said = tr("{where} you catch {ratio} times as often as otherwise ({low} to {high}).")
        return _first_up(
            said.format(where=where, ratio=times(found.ratio), low=times(found.low), high=times(found.high))
        )
    said = tr("{where} you catch {ratio} times less often than otherwise ({low} to {high}).")
    return _first_up(
        said.format(where=where, ratio=times(1 / found.ratio), low=times(1 / found.high), high=times(1 / found.low))
    )


def against(made: Review, found: Finding, evidence: Evidence, units: Units) -> str:
    """What speaks against it, the weightiest first."""
    said = []

    def of(part: Part) -> str:
        dimension = made.pieces.dimensions[part.dimension]
        return f"{tr(NAMES[dimension.name])} {named(dimension.name, dimension, part, units)}"

    if found.same:
        names = ", ".join(of(p) for p in found.same[:3])
        said.append(tr("nearly the same hours as {names}: they can't be told apart").format(names=names))
    few = evidence.on_best * 2 >= evidence.fish and evidence.fish > 0
    if few and found.ratio >= 1.0:
        words = tr("one trip") if evidence.best_trips == 1 else tr("two trips")
        said.append(tr("{some} of its {fish} fish came on {words}").format(
            some=evidence.on_best, fish=evidence.fish, words=words))  # fmt: skip
    apart = [p for p in found.beside if p not in found.same]
    if apart:
        said.append(tr("it often went along with {other}").format(other=of(apart[0])))
    if found.ratio >= 1.0 and evidence.blank:
        said.append(tr("{blank} of {trips} trips there gave none").format(blank=evidence.blank, trips=evidence.trips))
    if found.ratio < 1.0 and evidence.fish:
        said.append(tr("{fish} fish did come there").format(fish=evidence.fish))
    if not said:
        said.append(tr("{hours:.0f} rod hours on {trips} trips stand behind it").format(
            hours=evidence.hours, trips=evidence.trips))  # fmt: skip
    return tr("But ") + "; ".join(said) + "."


def tie(made: Review, tied: Tie, units: Units) -> str:
    """Two that can't be told apart."""

    def of(part: Part) -> str:
        dimension = made.pieces.dimensions[part.dimension]
        return phrase(dimension.name, named(dimension.name, dimension, part, units))

    said = tr("{one} or {other}: one of them may matter, and they were nearly always fished together.")
    return _first_up(said.format(one=of(tied.one), other=of(tied.other)))


def aside(made: Review, said: Aside, units: Units) -> str:
    """What looks good and is explained."""

    def of(part: Part) -> str:
        dimension = made.pieces.dimensions[part.dimension]
        return phrase(dimension.name, named(dimension.name, dimension, part, units))

    if said.by is None:
        text = tr("{where} you caught {ratio} times as often, but on the days it was fished everything caught more.")
        return _first_up(text.format(where=of(said.part), ratio=times(said.ratio)))
    text = tr("{where} you caught {ratio} times as often, but it was mostly fished {other}: that explains it.")
    return _first_up(text.format(where=of(said.part), ratio=times(said.ratio), other=of(said.by)))


def test(made: Review, trial: Test, units: Units) -> str:
    """What to try next."""
    dimension = made.pieces.dimensions[trial.part.dimension]
    where = phrase(dimension.name, named(dimension.name, dimension, trial.part, units))
    if trial.against is not None:
        other = made.pieces.dimensions[trial.against.dimension]
        apart = phrase(other.name, named(other.name, other, trial.against, units))
        said = tr("Fish {where} but not {apart}, and the other way round: {hours:.0f} rod hours would tell them "
                  "apart seven times in ten.")  # fmt: skip
        return said.format(where=where, apart=apart, hours=trial.hours)
    said = tr("Two like rods at once, one {where}, one otherwise: {hours:.0f} rod hours would show a difference of "
              "{ratio} times seven times in ten.")  # fmt: skip
    return said.format(where=where, hours=trial.hours, ratio=times(trial.ratio))


def silence(why: Silence) -> str:
    """Why nothing is said."""
    return tr(_SILENCES[why])


def untold(made: Review, name: str, units: Units) -> str:
    """That a condition shows nothing yet, and what it would take."""
    rates = made.rates.get(name, [])
    short = [(hours_to_tell(made, r), r) for r in rates if not r.enough and r.hours > 0.0]
    if not short:
        return tr("{name}: nothing stands out.").format(name=_first_up(tr(NAMES[name])))
    hours, rate = min(short, key=lambda s: s[0])
    dimension = made.dimension(name)
    assert dimension is not None
    where = named(name, dimension, Part(0, rate.bin, rate.bin), units)
    return tr("{name}: can't tell yet; about {hours:.0f} more rod hours {where} would.").format(
        name=_first_up(tr(NAMES[name])), hours=hours, where=phrase(name, where))  # fmt: skip


def _first_up(text: str) -> str:
    return text[:1].upper() + text[1:]
