"""The words of rigs: why a depth cannot be had, where to hang a lure, which way reaches, what to tie on."""

from __future__ import annotations

from enum import Enum

from plumbbob.core.reason import Reason
from plumbbob.core.rig.advice import Advice, Noise, Pace, Size
from plumbbob.core.rig.reasons import HangReason, RigCaution, SchoolReason, Tip, Topic, WayReason, WhyNot
from plumbbob.wording import Say, joined, metric, sentence, tr

PHRASES: dict[Enum, str] = {
    WhyNot.ABOVE_WATER: "a lure runs below the surface",
    WhyNot.BEYOND_ALL_LINE: "no line is let out so deep",
    WhyNot.NEGATIVE_OUT: "what is let out must be zero or more",
    WhyNot.TOO_MUCH_OUT: "that is more than anybody lets out, casts or counts",
    WhyNot.NOTHING_IN_WATER: "with so little out nothing is in the water yet",
    WhyNot.FLOATS_AT_SURFACE: "{lure} floats at the surface so",
    WhyNot.LIP_TOO_SLOW: "a lip needs way on: at so slow a speed the plug floats up",
    WhyNot.DISC_TOO_SLOW: "a disc needs way on: at so slow a speed it pulls nothing",
    WhyNot.BOARD_TOO_SLOW: "a board needs way on: at so slow a speed it pulls nothing",
    WhyNot.FLOATS_WITHOUT_LIP: "{lure} floats and has no lip: put weight or a disc ahead of it",
    WhyNot.FLOATS_WITHOUT_WEIGHT: "{lure} floats: it takes a weight below or above it",
    WhyNot.LOWER_END_OUT: "the lower end would be out of the water",
    WhyNot.WIRE_BLOWN_BACK: "the wire is blown back too far at this speed",
    WhyNot.LURE_TRAILS: "more line only trails further back, the lure goes no deeper",
    WhyNot.LINE_LIES_FLAT: "more line lies flatter and pulls no deeper at this speed",
    WhyNot.WEIGHT_TOO_LIGHT: "this weight goes no deeper at this speed",
    WhyNot.DISC_TRAILS: "more line only trails further back, the disc pulls no deeper",
    WhyNot.DRIFT_LIFTS: "the drift carries this weight up as fast as line goes out",
    WhyNot.NO_MORE_LINE: "there is no more line",
    WhyNot.RIG_TOO_LONG: "the rig itself is longer than that",
    WhyNot.SINKS_ON_LEAD: "the lure sinks this far on its lead with the ball just under the surface",
    WhyNot.RUNS_ON_LEADER: "the lure runs deeper than that on its leader alone",
    WhyNot.WEIGHT_NOT_IN: "its weight would not be in the water yet",
    WhyNot.DISC_NOT_IN: "the disc would not be in the water yet",
    WhyNot.NO_LIP: "{lure} has no lip",
    WhyNot.REEL_FASTER: "a lip needs way on: reel faster",
    WhyNot.CAST_TOO_SHORT: "even the longest cast is too short for it to dive so deep",
    WhyNot.DIVES_DEEPER: "it dives deeper than that at once",
    WhyNot.LINE_HOLDS_UP: "its line floats and holds it up before that",
    WhyNot.FLOATS_NO_COUNT: "{lure} floats: nothing to count",
    RigCaution.LINE_OFF_VERTICAL: "The line stands {angle_deg:.0f}° off the vertical: a heavier weight, a thinner "
    "line or a slower drift.",
    RigCaution.WALKER_STEEP: "The line stands {angle_deg:.0f}° off the vertical; {steepest_deg:.0f} to "
    "{flattest_deg:.0f}: less weight or more line.",
    RigCaution.WALKER_FLAT: "The line stands {angle_deg:.0f}° off the vertical; {steepest_deg:.0f} to "
    "{flattest_deg:.0f}: more weight or less speed.",
    RigCaution.WEIGHT_NOT_ON_LINE: "Its weight is not on the line yet: more line first, then the weight.",
    RigCaution.UNDER_LAYER: "It hangs under the cold layer, where few feed.",
    RigCaution.IN_LAYER: "It hangs in the cold layer.",
    RigCaution.UNDER_COMFORT: "That is under the depths that suit {species} best today: it may be another fish.",
    RigCaution.OVER_COMFORT: "That is over the depths that suit {species} best today: it may be another fish.",
    HangReason.ON_BOTTOM: "the fish is on the bottom: contact with it comes first, then lift a hand's breadth",
    HangReason.OWN_DEPTH: "at the fish's own depth: deep, cold or sluggish fish rise little",
    HangReason.LEVEL: "level with it: {species} looks ahead and up or down only a little",
    HangReason.JUST_UNDER: "just under it: {species} looks down when it feeds",
    HangReason.OVER_KNOWN: "over it: {species} looks up",
    HangReason.OVER: "over the fish: most look up",
    HangReason.UNDER_BAIT: "not inside the bait: under it",
    HangReason.OVER_BAIT: "not inside the bait: over it",
    HangReason.CLEAR_OF_WEED: "floated clear of weed and mud",
    HangReason.CLEAR_OF_BOTTOM: "just clear of the bottom",
    HangReason.CLEAR_WATER: "clear water",
    HangReason.FAIRLY_CLEAR_WATER: "fairly clear water",
    HangReason.COLOURED_WATER: "coloured water",
    HangReason.LITTLE_LIGHT: "little light left",
    WayReason.REACHES: "reaches it",
    WayReason.NOT_SURELY: "reaches it, but not surely",
    WayReason.DRIFTS_AWAY: "the drift carries it {angle_deg:.0f}° off the vertical; about {grams:.0f} g holds it",
    WayReason.NO_WEIGHT_HOLDS: "no weight up to 20 kg keeps the line within {angle_deg:g} degrees at this speed",
    WayReason.NO_ICE: "there is no ice today",
    WayReason.ICE_UNCERTAIN: "only where the ice bears: no thickness is certain, ask locally",
    WayReason.TOO_MUCH_LINE: "it would take {line} of line",
    WayReason.TOO_LONG_A_COUNT: "it would take a count of {seconds:.0f} s",
    WayReason.WALKS_AT: "reaches it where the bottom lies at {bottom}",
    WayReason.WALKS: "reaches it, its weight on the bottom",
    WayReason.WALKS_OVER: "its weight would be {off} over the bottom: it walks on it",
    WayReason.WALKS_UNDER: "its weight would be {off} under the bottom: it walks on it",
    Topic.LIGHT: "Light",
    Topic.PACE: "Pace",
    Topic.SIZE: "Size",
    Topic.BEFORE_LEAVING: "Before you leave",
    Topic.BAIT: "Bait",
    Topic.NOISE: "Noise",
    Tip.GLOW: "Next to no light there ({share} of the surface's): glow, or the strongest dark outline.",
    Tip.CONTRAST: "Little light there ({share}): contrast, dark against pale; glow is worth a try.",
    Tip.REDS_GREY: "{share} of the surface's light: reds are grey there, blue and green last.",
    Tip.BLUE_GONE: "{share} of the surface's light: blue is gone, green and yellow last.",
    Tip.ONLY_WARM_COLOURS: "{share} of the surface's light: only yellow, orange and red last in coloured water.",
    Tip.ALL_COLOURS: "{share} of the surface's light: all colours still show.",
    Tip.BRIGHT_COLOURS: "{share} of the surface's light: bright colours show.",
    Tip.CHASE: "They chase: faster, and let it flee.",
    Tip.COLD: "Cold water ({temperature}): slow and small.",
    Tip.WARM: "Warm water ({temperature}): faster is worth a try.",
    Tip.MIDDLING: "Middling water: try both ends of the usual speeds.",
    Tip.LIFTS: "At {temperature}: {few} to {many} lifts a minute, {low} to {high} high.",
    Tip.LIFTS_MIDDLING: "In water of middling warmth: {few} to {many} lifts a minute, {low} to {high} high.",
    Tip.MATCH_BAIT: "Match what the bait is.",
    Tip.CHANGE_IN_ORDER: "Fish that are there and do not take: change speed, then depth a little, then the lure, and "
    "only then the place.",
    Tip.FRESH_BAIT: "Fresh natural bait every {minutes:.0f} minutes: scent washes out.",
    Tip.RATTLE: "Coloured water: rattle and vibration are found first.",
    Tip.QUIET: "Clear water: keep it quiet.",
    SchoolReason.MATCH: "{low} to {high}: what they look for and can swallow",
    SchoolReason.BIG: "{low} to {high}: fewer, larger fish",
    SchoolReason.LOUD: "hearing and the side line reach further than eyes in turbid water",
    SchoolReason.QUIET: "in clear calm water noise puts fish off",
    SchoolReason.SLOW: "{low} to {high}: cold, pressed or resting fish",
    SchoolReason.SLOW_FOR: "{low} to {high} for {species}: cold, pressed or resting fish",
    SchoolReason.FAST: "{low} to {high}: they strike before they look",
    SchoolReason.FAST_FOR: "{low} to {high} for {species}: they strike before they look",
    SchoolReason.SLOW_LIFTS: "{lifts} lifts a minute of {height}, rests of {rest} s: cold, pressed or resting fish",
    SchoolReason.FAST_LIFTS: "{lifts} lifts a minute of {height}, rests of {rest} s: to call them from afar",
    Pace.SLOW: "slow",
    Pace.FAST: "fast",
    Size.MATCH: "match",
    Size.BIG: "big",
    Noise.LOUD: "loud",
    Noise.QUIET: "quiet",
}


def rig_words(reason: Reason, say: Say = metric) -> str:
    """One reason, caution or tip of a rig."""
    return sentence(reason, PHRASES, say)


def hang_words(reasons: tuple[Reason, ...], say: Say = metric) -> str:
    """Why a lure hangs where it does, in one line."""
    return joined(reasons, PHRASES, say)


def advice_words(advice: Advice, say: Say = metric) -> tuple[str, str, list[tuple[str, str]]]:
    """A piece of advice: its title, its text, and each school with why."""
    schools = [(tr(PHRASES[school]), rig_words(why, say)) for school, why in advice.schools]
    return tr(PHRASES[advice.topic]), rig_words(advice.tip, say), schools
