"""The words of the log: what a person's own table says of keeping a fish, and what helps one that goes back."""

from __future__ import annotations

from enum import Enum

from plumbbob.core.tally.fish_care import FishCare
from plumbbob.core.tally.limits import Verdict

PHRASES: dict[Enum, str] = {
    Verdict.CLOSED: "Closed by your table until {opens}.",
    Verdict.SHORT: "Too short by {by}: {least} is the least.",
    Verdict.LONG: "Too long by {by}: {most} is the most.",
    Verdict.IN_SLOT: "In the slot from {low} to {high}: goes back.",
    Verdict.BAG_FULL: "The bag is full: {kept:.0f} of {bag:.0f} kept.",
    Verdict.POSSESSION_FULL: "Possession is full: {kept:.0f} of {bag:.0f} held.",
    Verdict.AT_LIMIT: "Right at the limit: measure again.",
    Verdict.LAST_ONE: "The last one: {kept:.0f} of {bag:.0f} kept so far.",
    Verdict.CLOSES_SOON: "The season closes in {days} days.",
    Verdict.ROOM: "{kept:.0f} of {bag:.0f} kept.",
    FishCare.DEEP_AHEAD: "From below {care} most {species} will not live: keep what comes, or move up.",
    FishCare.DEEP_CLOSED: "From {depth} its gas has grown {times} times and cannot leave: back down quickly with a "
    "weight to where it came from. Venting only where lawful and by the trained. Or keep it, if that is allowed.",
    FishCare.DEEP_VENTS: "From {depth} its gas has grown {times} times: let it burp, release quickly, head down.",
    FishCare.WARM_STOP: "Water {water}: too warm for it to live after a fight. Better stop fishing for it.",
    FishCare.WARM_MIND: "Water {water} is near its limit: short fight, no air, no pictures.",
    FishCare.LOW_OXYGEN: "Little oxygen here: release it where there is more.",
    FishCare.LONG_FIGHT: "{minutes} min of fight: hold it upright in the water until it swims off.",
}
