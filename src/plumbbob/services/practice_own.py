"""Items from a person's own recording: what they themselves said an echo is, asked again without the answer."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from plumbbob.core.live.growing import between
from plumbbob.core.sonar.corrections import Act, Correction
from plumbbob.core.sonar.recording import Recording
from plumbbob.services.practice_sets import SetItem
from plumbbob.sim.lesson import Lesson

_AROUND_S = 13.0
_CHOICES = ("fish", "timber", "weed", "bait")
_DIFFICULTY = 0.0  # nobody knows how hard one's own echoes are
_MOST = 30
SKILL = "what it is"


def own_items(recording: Recording, corrections: Sequence[Correction]) -> list[SetItem]:
    """
    One item for each echo that was drawn, relabelled or accepted by hand, the latest word on it counting.

    Parameters
    ----------
    recording : Recording
    corrections : sequence of Correction
        Oldest first.
    """
    down = recording.down
    if down is None:
        return []
    said: dict[tuple[float, float], str | None] = {}
    for one in corrections:
        if one.what not in ("fish", "bait", "standing") or one.act not in _TELLS:
            continue
        kind = (one.label or one.what) if one.act is not Act.ACCEPT else one.what
        at = (round(one.time, 1), round(one.depth_m, 1))
        said[at] = None if one.act is Act.REJECT else kind if kind in _CHOICES else None
    out = []
    for k, ((time, depth), told) in enumerate(said.items(), 1):
        start, end = time - _AROUND_S, time + _AROUND_S
        if told is None or not down.time[0] <= time <= down.time[-1]:
            continue
        piece = replace(between(recording, start, end), side=None, forward=None, views=("down",))
        if piece.down is None or len(piece.down) < 8:
            continue
        at_s = time - float(piece.down.time[0])
        item = Lesson(
            skill=SKILL,
            difficulty=_DIFFICULTY,
            ask=f"What is at {depth:.1f} m, {at_s:.0f} s after the first ping of this piece of your own pass?",
            answer_is="choice",
            choices=_CHOICES,
            truth=told,
            why=f"you yourself called it {told}",
            at_s=at_s,
        )
        out.append(SetItem(f"own{k:03d}", item, piece, None))
    return out[-_MOST:]


_TELLS = (Act.ACCEPT, Act.REJECT, Act.RELABEL, Act.DRAW)
