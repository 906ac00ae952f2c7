"""Items about where to look: beliefs as bars, what a look costs, how well it finds; the search's own sums know."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence

import numpy as np

from plumbbob.core.plan.search import Cell, Look, searched
from plumbbob.core.types import Floats
from plumbbob.sim.lesson import Bar, Lesson, hardness

_TRIES = 400
_KINDS = ("the point", "the ledge", "the hump", "the basin", "the weed edge", "the old channel")


def _worths(cells: Sequence[Cell], looks: Sequence[Look], minutes: Sequence[float]) -> tuple[Floats, Floats]:
    """Chances of all cells, and what a minute of looking at each is worth."""
    found = searched(cells, looks)
    detection = np.array([c.detection for c in cells])
    return found.chance, found.chance * detection / np.array(minutes)


def _margin(worth: Floats) -> float:
    """By how much the best is above the second."""
    low, high = np.sort(worth)[-2:]
    return float(high / max(low, 1e-9))


def _wanted_margin(hard: float) -> float:
    return 2.2 - 1.0 * hard


def _scan(rng: np.random.Generator, difficulty: float) -> Lesson:
    hard = hardness(difficulty)
    best: tuple[float, list[Cell], list[float]] | None = None
    for _ in range(_TRIES):
        prior = rng.dirichlet(np.full(4, 2.5)) * 0.9
        seen = rng.choice([0.3, 0.5, 0.7, 0.9], 4)
        minutes = [float(m) for m in rng.choice([5, 8, 10, 15, 20, 30], 4)]
        cells = [Cell(k, round(float(p), 2), float(d)) for k, (p, d) in enumerate(zip(prior, seen, strict=True))]
        _, worth = _worths(cells, (), minutes)
        first = int(worth.argmax())
        # cruel: the likeliest place is not the one to begin with
        tempts = 0.0 if (int(np.argmax([c.prior for c in cells])) != first) == (hard > 0.4) else 1.0
        score = abs(_margin(worth) - _wanted_margin(hard)) + tempts
        if best is None or score < best[0]:
            best = (score, cells, minutes)
    assert best is not None
    _, cells, minutes = best
    names = [_KINDS[int(k)] for k in rng.permutation(len(_KINDS))[:4]]
    _, worth = _worths(cells, (), minutes)
    found = searched(cells, (), costs={k: 60 * m for k, m in enumerate(minutes)})
    assert found.next is not None
    rows = [
        Bar(name, c.prior, f"shows {c.detection:.0%} of them, {m:.0f} min")
        for name, c, m in zip(names, cells, minutes, strict=True)
    ]
    by_minute = ", ".join(f"{n} {100 * w:.1f}" for n, w in zip(names, worth, strict=True))
    return Lesson(
        skill="what to scan first",
        difficulty=difficulty,
        ask="The bars say how likely the fish are there; beside them how many of them a pass shows, and how long it "
        "takes with the way. Which place first?",
        answer_is="choice",
        choices=tuple(names),
        truth=names[found.next],
        why=f"chance times what a pass shows, for each minute: {by_minute} in a hundred",
        bars=tuple(rows),
    )


_TIMES = ("", "once", "twice", "three times")


def _rule_out(rng: np.random.Generator, difficulty: float) -> Lesson:
    hard = hardness(difficulty)
    best: tuple[float, list[Cell], list[int]] | None = None
    found_share = 0.6
    for _ in range(_TRIES):
        prior = rng.dirichlet(np.full(4, 3.0)) * 0.95
        times = [int(n) for n in rng.choice([0, 0, 1, 1, 2, 3], 4)]
        cells = [Cell(k, round(float(p), 2), found_share) for k, p in enumerate(prior)]
        chance, worth = _worths(cells, _looks(times, found_share), (1.0,) * 4)
        tempts = 0.0 if (int(np.argmax(prior)) != int(chance.argmax())) == (hard > 0.3) else 1.0
        score = abs(_margin(worth) - _wanted_margin(hard)) + tempts
        if best is None or score < best[0]:
            best = (score, cells, times)
    assert best is not None
    _, cells, times = best
    top = float(rng.choice([1.0, 2.0, 3.0]))
    high = float(rng.choice([2.0, 3.0]))
    names = [f"{top + k * high:.0f} m to {top + (k + 1) * high:.0f} m" for k in range(4)]
    found = searched(cells, _looks(times, found_share))
    assert found.next is not None
    rows = [
        Bar(name, c.prior, f"tried {_TIMES[n]}, nothing" if n else "not tried")
        for name, c, n in zip(names, cells, times, strict=True)
    ]
    left = ", ".join(f"{n} {p:.0%}" for n, p in zip(names, found.chance, strict=True))
    return Lesson(
        skill="which depth to rule out next",
        difficulty=difficulty,
        ask="The bars are what you believed of each depth this morning. Half an hour at a depth finds six of ten "
        "fish that bite there, if that is where they are. Which depth next?",
        answer_is="choice",
        choices=tuple(names),
        truth=names[found.next],
        why=f"each fruitless try leaves 0.4 of a bar; shared out anew: {left}, and {found.none:.0%} that none bite",
        bars=tuple(rows),
    )


def _looks(times: Sequence[int], detection: float) -> list[Look]:
    return [Look(k, detection) for k, n in enumerate(times) for _ in range(n)]


SEARCHING: Mapping[str, Callable[[np.random.Generator, float], Lesson]] = {
    "what to scan first": _scan,
    "which depth to rule out next": _rule_out,
}
