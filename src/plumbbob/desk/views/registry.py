"""All views and the stages they belong to, in the order of the day: a new one is a folder, and a line here."""

from __future__ import annotations

from collections.abc import Sequence

from plumbbob.desk.commands.registry import Command
from plumbbob.desk.commands.table import COMMANDS
from plumbbob.desk.models.session import Session
from plumbbob.desk.views.chart.kind import CHART, WATER
from plumbbob.desk.views.deck.kind import DECK
from plumbbob.desk.views.kinds import StageKind, ViewKind
from plumbbob.desk.views.log.kind import LOG, MARKS
from plumbbob.desk.views.review.kind import REVIEW, REVIEWED
from plumbbob.desk.views.rig.kind import RIG, RODS
from plumbbob.desk.views.run.kind import DAY, RUN
from plumbbob.desk.views.sonar.kind import DOWN, FORWARD, PICTURE, SCAN, SIDE

STAGES: tuple[StageKind, ...] = (WATER, SCAN, RIG, RUN, LOG, REVIEW)
VIEWS: tuple[ViewKind, ...] = (CHART, DOWN, SIDE, FORWARD, PICTURE, RODS, DAY, DECK, MARKS, REVIEWED)


def give_views(session: Session, kinds: Sequence[ViewKind] = VIEWS) -> None:
    """Tell a session what it can show."""
    session.set_views(tuple(kind.view(session) for kind in kinds))


def commands_of(stages: Sequence[StageKind] = STAGES, kinds: Sequence[ViewKind] = VIEWS) -> tuple[Command, ...]:
    """All commands: those of the table, the way to each stage, and what each view brings."""
    out = [*COMMANDS, *(_go(stage, k) for k, stage in enumerate(stages, 1))]
    for command in (c for kind in kinds for c in kind.commands):
        ids = [c.id for c in out]
        out.insert(ids.index(command.before) if command.before else len(out), command)
    return tuple(out)


def _go(stage: StageKind, number: int) -> Command:
    return Command(
        id=f"go.{stage.name}",
        title=stage.title,
        menu="Go",
        keys=(str(number),),
        run=lambda session, host: session.set_stage(stage.name),
        checked=lambda session: session.stage == stage.name,
        help=stage.help,
    )
