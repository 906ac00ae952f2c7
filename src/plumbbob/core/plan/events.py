"""What a person decides and sees on a day: values only."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from plumbbob.core.plan.bites import Lever
from plumbbob.core.plan.draft import Candidate
from plumbbob.core.plan.outing import Hold

HELPED_S = 1200.0  # so soon after a change a fish speaks for it
KINDS = ("bite", "follower", "bait", "other", "nothing")


@dataclass(frozen=True, slots=True, kw_only=True)
class Event:
    """
    Something that happened at a place.

    Its kind is one of KINDS: a fish, one that did not take, bait seen, a fish of another kind that eats the same, or
    minutes without a touch.
    """

    kind: str
    time: float
    name: str
    depth_m: float
    minutes: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class DayState:
    """What a person has decided and seen today; every change of it can be taken back."""

    holds: Mapping[str, Hold] = field(default_factory=dict)
    banned: frozenset[str] = frozenset()
    added: tuple[Candidate, ...] = ()
    events: tuple[Event, ...] = ()
    tried: tuple[tuple[str, Lever, float], ...] = ()  # levers pulled: at which place, which, when

    @property
    def helped(self) -> tuple[Lever, ...]:
        """Levers after which a fish came at the same place soon."""
        return tuple(
            lever
            for name, lever, time in self.tried
            if any(e.kind == "bite" and e.name == name and 0.0 <= e.time - time <= HELPED_S for e in self.events)
        )
