"""All that can be done on deck: one key each, and a target each."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from plumbbob.core.units import Kind
from plumbbob.desk.commands.registry import Command
from plumbbob.desk.models.moments import ENDS, open_span
from plumbbob.desk.models.session import Session
from plumbbob.desk.views.deck import acts, landing
from plumbbob.store.values import MarkKind, MomentKind

_GROUP = "On deck"


@dataclass(frozen=True, slots=True)
class Target:
    """A command as a target: its words, and the bead it shows."""

    command: str
    words: str
    bead: str = ""  # of `paint.bead`; empty: none
    is_caught: bool = False  # in brass


def _deck(
    name: str,
    title: str,
    key: str,
    act: acts.Act,
    help_: str,
    *,
    enabled: Callable[[Session], bool] = lambda s: True,
    checked: Callable[[Session], bool] | None = None,
) -> Command:
    """A command of this mode; an empty key is none."""
    return Command(
        id=f"deck.{name}",
        title=title,
        menu="Run",
        group=_GROUP,
        mode="deck",
        keys=(key,) if key else (),
        run=act,
        help=help_,
        enabled=enabled,
        checked=checked,
    )


def _can_move(session: Session) -> bool:
    return session.deck.row == "aside"


_MARKS = (
    ("fish", "Space", MarkKind.FISH),
    ("bait", "1", MarkKind.BAIT),
    ("structure", "2", MarkKind.STRUCTURE),
    ("hazard", "3", MarkKind.HAZARD),
)
_CONTACTS = (
    ("seen", "S", MomentKind.SEEN),
    ("followed", "F", MomentKind.FOLLOWED),
    ("struck", "D", MomentKind.STRUCK),
    ("hooked", "H", MomentKind.HOOKED),
    ("lost", "X", MomentKind.LOST),
    ("caught", "C", MomentKind.CAUGHT),
)
_SIGNS = (
    ("bait_on_top", "W", MomentKind.BAIT_ON_TOP),
    ("fish_breaking", "E", MomentKind.FISH_BREAKING),
    ("seam", "R", MomentKind.SEAM),
    ("wind_turned", "T", MomentKind.WIND_TURNED),
)
_BIRDS = (
    ("birds_circling", "", MomentKind.BIRDS_CIRCLING),
    ("birds_diving", "", MomentKind.BIRDS_DIVING),
    ("birds_passing", "", MomentKind.BIRDS_PASSING),
)
_BEGINS = (
    ("begin_pass", "", MomentKind.PASS_BEGINS),
    ("begin_drift", "", MomentKind.DRIFT_BEGINS),
    ("begin_set", "", MomentKind.SET_BEGINS),
)
_STEP = acts.ASIDE_M
_ASIDE = (("left", "Left", -_STEP, 0.0), ("right", "Right", _STEP, 0.0), ("ahead", "Up", 0.0, _STEP))

COMMANDS: tuple[Command, ...] = (
    Command(
        id="deck.toggle",
        title="On deck: few large targets",
        menu="Run",
        keys=("F11",),
        in_modes=True,
        run=acts.toggle,
        checked=lambda s: s.view.mode == "deck",
        help="For wet hands and sun: marks, strikes and signs by one key each; a press of two seconds does it too.",
    ),
    *(
        _deck(name, f"Mark {kind.value}", key, acts.mark(kind), f"Mark {kind.value} where the boat is.")
        for name, key, kind in _MARKS
    ),
    *(
        _deck(name, f"A fish {kind.value}", key, acts.note(kind), f"Note it: {kind.value}. Details can come later.")
        for name, key, kind in _CONTACTS
    ),
    _deck("birds", "Birds", "Q", acts.row("birds"), "Then: circling, diving or passing."),
    *(
        _deck(name, kind.value.capitalize(), key, acts.note(kind), f"Note the sign: {kind.value}.")
        for name, key, kind in (*_BIRDS, *_SIGNS)
    ),
    _deck(
        "begin", "Begin or end a pass, drift or set", "Y", acts.begin_or_end, "Ends what was begun; else asks what."
    ),
    *(
        _deck(name, kind.value.capitalize(), key, acts.begin(kind), f"Note it: {kind.value}.")
        for name, key, kind in _BEGINS
    ),
    *(
        _deck(
            name,
            f"The mark is {name}",
            key,
            acts.aside(right, ahead),
            f"Move the mark just made {name}.",
            enabled=_can_move,
        )
        for name, key, right, ahead in _ASIDE
    ),
    *(
        _deck(
            f"choice_{k + 1}",
            f"The {word} of what is offered",
            f"Alt+{k + 1}",
            landing.choose(k),
            "Of a fish that was just caught: which, how long, kept or not.",
            enabled=landing.offers(k),
        )
        for k, word in enumerate(("first", "second", "third", "fourth", "fifth", "sixth", "seventh", "eighth"))
    ),
    _deck(
        "fall", "Let it fall", "V", acts.let_fall, "Counts the lure down to the bob: a tick a second, then a tone."
    ),
    _deck("pump", "Lift, fall, rest", "U", acts.pump, "A beat for lifting, by the water's temperature."),
    _deck("bait_new", "Fresh bait", "B", acts.bait_changed, "The bait's clock begins anew."),
    _deck("bait_kind", "Another bait", "N", acts.next_bait, "Which bait the clock is for; a lure has none."),
    _deck("here", "The clock of this place anew", "A", acts.here_again, "Counts the minutes here from now on."),
    _deck("stay", "Stay or go", "G", acts.stay_or_go, "What the day's plan says now."),
    _deck("next", "Next place", "J", acts.next_place, "Where the plan goes from here: how far, which way."),
    _deck("cast", "Cast to the mark", "M", acts.cast_to, "To the nearest mark: which way, how far, the count."),
    _deck("snapshot", "Snapshot", "P", acts.snapshot, "The window as a picture, and the last minute of pings."),
    _deck("sounds", "Sounds", "O", acts.sounds, "On or off.", checked=lambda s: s.deck.sounds),
    _deck("care", "Put the caution away", "I", acts.put_away, "It has been read."),
    _deck("thunder", "Thunder heard", "0", acts.thunder, "Off the water for half an hour after the last."),
    _deck("learn", "Teach a remote's key", "K", acts.learn, "The remote's key, then the target it is for."),
    _deck("desk", "Back to the desk", "Esc", acts.toggle, "To the view before."),
)

MAIN = (
    *(Target(f"deck.{name}", name.capitalize(), name) for name, _, _ in _MARKS),
    *(Target(f"deck.{n}", n.capitalize(), "fish", is_caught=n == "caught") for n, _, _ in _CONTACTS),
)
SIGNS = (
    Target("deck.birds", "birds"),
    Target("deck.bait_on_top", "bait on top"),
    Target("deck.fish_breaking", "fish breaking"),
    Target("deck.seam", "seam"),
    Target("deck.wind_turned", "wind turned"),
    Target("deck.thunder", "thunder"),
    Target("deck.begin", "begin …"),
)
FOOT = (
    Target("deck.desk", "desk"),
    Target("mark.undo", "undo"),
    Target("deck.fall", "let fall"),
    Target("deck.stay", "stay or go"),
    Target("deck.next", "next place"),
    Target("deck.cast", "cast to mark"),
    Target("deck.pump", "pump"),
    Target("deck.snapshot", "snapshot"),
    Target("look.light", "light"),
)


def row_of(session: Session) -> tuple[Target, ...]:
    """What stands in the row of signs now."""
    deck = session.deck
    if deck.row == "aside":
        far = session.display.words(_STEP, Kind.DISTANCE, 0)
        ways = (("left", f"{far} left"), ("ahead", f"{far} ahead"), ("right", f"{far} right"))
        return tuple(Target(f"deck.{name}", words) for name, words in ways)
    if deck.row in landing.ROWS:
        return tuple(Target(f"deck.choice_{k + 1}", words) for k, words in enumerate(landing.choices(session)))
    if deck.row == "birds":
        return tuple(Target(f"deck.{name}", kind.value) for name, _, kind in _BIRDS)
    if deck.row == "begin":
        return tuple(Target(f"deck.{name}", kind.value) for name, _, kind in _BEGINS)
    begun = open_span(session.logbook.moments, session.view.moment)
    last = SIGNS[-1] if begun is None else Target("deck.begin", ENDS[begun.kind].value)
    return (*SIGNS[:-1], last)
