"""
Words for people, made of what the core answers: one table for each part of the program, ready for translation.

No Qt here: the command line says the same as the window. `tr` takes a catalogue of messages (gettext, domain
`plumbbob`, in the folder `locale` beside this file) where there is one for the language of the session.
"""

from __future__ import annotations

import gettext
from collections.abc import Callable, Iterable, Mapping
from enum import Enum
from pathlib import Path

from plumbbob.core.reason import Measure, Reason
from plumbbob.core.units import Kind, System, quantity

tr = gettext.translation("plumbbob", Path(__file__).parent / "locale", fallback=True).gettext

Say = Callable[[float, Kind], str]  # a quantity in the reader's units
Phrases = Mapping[Enum, str]


def metric(value: float, kind: Kind) -> str:
    """A quantity in metric words."""
    return quantity(value, kind, System.METRIC)


def sentence(reason: Reason, phrases: Phrases, say: Say = metric) -> str:
    """A reason in words: its phrase with its values filled in."""
    values = {name: say(v.value, v.kind) if isinstance(v, Measure) else v for name, v in reason.values}
    return tr(phrases[reason.code]).format(**values)


def joined(reasons: Iterable[Reason], phrases: Phrases, say: Say = metric, by: str = "; ") -> str:
    """Several of them in a row."""
    return by.join(sentence(r, phrases, say) for r in reasons)
