"""How able a person is at reading, skill by skill, from answers to items of known difficulty."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from plumbbob.core.types import Floats

SPREAD = 1.5  # of abilities over people, on the logistic scale
_REACH, _POINTS = 12.0, 4801
_SHARE = 0.8  # of the interval
# chance of a right answer: right more often than not keeps one going, and tells nearly as much as even odds would
_WANTED = 0.65
_WEEK_S = 7 * 86400.0
_COARSE, _WANDER = 1201, 0.25
_FORGOTTEN = 4.0  # what a skill quite forgotten counts, against one spread of weakness


@dataclass(frozen=True, slots=True)
class Answer:
    """One item answered."""

    skill: str
    difficulty: float
    right: bool
    at: float  # seconds


@dataclass(frozen=True, slots=True)
class Ability:
    """Mean and equal-tailed 80 % interval on the logistic scale."""

    mean: float
    low: float
    high: float


def ability(answers: Sequence[Answer]) -> Ability:
    """
    Ability behind some answers of one skill.

    Notes
    -----
    One-parameter logistic model (Rasch 1960), prior normal with spread 1.5, integrated on a fine grid.

    Examples
    --------
    >>> found = ability([])
    >>> abs(round(found.mean, 6)), round(found.high, 3)
    (0.0, 1.922)
    """
    theta = np.linspace(-_REACH, _REACH, _POINTS)
    log = -0.5 * (theta / SPREAD) ** 2
    weight = _told_by(answers, theta, log)
    return _summed_up(theta, weight)


def _told_by(answers: Sequence[Answer], theta: Floats, log: Floats) -> Floats:
    """What answers leave of the logarithm of a prior, as weights that sum to one."""
    for one in answers:
        sign = 1.0 if one.right else -1.0
        log = log - np.logaddexp(0.0, -sign * (theta - one.difficulty))
    weight = np.exp(log - log.max())
    return np.asarray(weight / weight.sum())


def _summed_up(theta: Floats, weight: Floats) -> Ability:
    below = np.cumsum(weight) - weight / 2
    low, high = np.interp([(1 - _SHARE) / 2, (1 + _SHARE) / 2], below, theta)
    return Ability(float(weight @ theta), float(low), float(high))


def abilities(answers: Sequence[Answer]) -> dict[str, Ability]:
    """Of every skill answered, in the order they first came."""
    skills = dict.fromkeys(one.skill for one in answers)
    return {name: ability([one for one in answers if one.skill == name]) for name in skills}


@dataclass(frozen=True, slots=True)
class Week:
    """Ability as it stood at the end of a week, and the answers of that week."""

    start: float  # seconds
    ability: Ability
    answers: int


def progress(answers: Sequence[Answer]) -> list[Week]:
    """
    Ability over weeks, all skills on one scale, from the first answer to the last.

    Notes
    -----
    A filter forward in time: between weeks ability may wander by 0.25 (so what is old counts less and a pause widens
    the interval), in a week its answers tell as in `ability`. Only what was known by then is used: no week is drawn
    surer than it was.
    """
    if not answers:
        return []
    theta = np.linspace(-_REACH, _REACH, _COARSE)
    step = float(theta[1] - theta[0])
    wander = np.exp(-0.5 * (np.arange(-60, 61) * step / _WANDER) ** 2)
    weight = np.exp(-0.5 * (theta / SPREAD) ** 2)
    first, last = (fold(one.at for one in answers) for fold in (min, max))
    out = []
    for k in range(int((last - first) // _WEEK_S) + 1):
        start = first + k * _WEEK_S
        here = [one for one in answers if start <= one.at < start + _WEEK_S]
        if k:
            weight = np.convolve(weight, wander / wander.sum(), "same")
        weight = _told_by(here, theta, np.log(np.maximum(weight, 1e-300)))
        out.append(Week(start, _summed_up(theta, weight), len(here)))
    return out


def next_item(
    answers: Sequence[Answer],
    found: dict[str, Ability],
    now: float,
    recalled: Mapping[str, float] | None = None,
) -> tuple[str, float, str] | None:
    """
    Skill and difficulty to go on with, and which of weak, unsure or long ago made it so; None without answers.

    `recalled` tells the chance that each skill is still at hand; without it time since the last answer stands for it.
    """
    if not found:
        return None
    last = {name: max(one.at for one in answers if one.skill == name) for name in found}
    parts = {
        name: {
            "weak": -one.mean / SPREAD,
            "unsure": (one.high - one.low) / (2 * SPREAD),
            "long ago": math.log1p(max(now - last[name], 0.0) / _WEEK_S)
            if recalled is None
            else _FORGOTTEN * (1.0 - recalled.get(name, 1.0)),
        }
        for name, one in found.items()
    }
    skill = max(parts, key=lambda name: sum(parts[name].values()))
    why = max(parts[skill], key=lambda part: parts[skill][part])
    return skill, found[skill].mean - math.log(_WANTED / (1 - _WANTED)), why
