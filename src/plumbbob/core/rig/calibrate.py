"""
Notes from the water - "it ticked bottom at 5.8 m with 31 m out" - turned into what is known of lures and lines.

Coefficients are log-normal about their catalogue values. Notes are fitted together by Bayesian least squares (maximum
a posteriori, Gauss-Newton); the curvature there is how well each coefficient is known afterwards, and how two vary
together. What two notes cannot both say is told, not averaged away: the spread is widened by it.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import Enum

import numpy as np

from plumbbob.core.reason import Reason
from plumbbob.core.rig.chains import HANGING
from plumbbob.core.rig.knowledge import PRIOR, Key, Knowledge, keys_of, scaled
from plumbbob.core.rig.methods import depth_of, run
from plumbbob.core.rig.rod import Amount, CannotReach, RigSettings, amount_of
from plumbbob.core.types import Floats

_STEP = 0.03
_ROUNDS = 12
_CONTRADICTS = 2.5  # standard deviations a note lies from what all the others say
_SD_M, _SD_SHARE = 0.2, 0.04  # of a depth as noted (docs/handbook.md 5.5)
_FURTHEST = 1.5  # a coefficient's logarithm is not taken beyond this by one round


class Told(Enum):
    """What a note says of the depth."""

    TOUCHED = "touched bottom"  # it ran at least as deep as the bottom there
    CLEAR = "no touch"  # it ran less deep than the bottom
    AT = "ran at"  # it was seen at that depth: on the sonar, or a count to a known shelf


@dataclass(frozen=True, slots=True, kw_only=True)
class RigNote:
    """What happened with a rod as it was rigged then."""

    id: int = 0  # 0 until saved
    time: float = math.nan  # seconds since 1970
    rod: RigSettings
    told: Told = Told.AT
    depth_m: float
    value: float  # what was out, cast or counted, as the way of fishing measures it
    words: str = ""

    def __post_init__(self) -> None:
        if not (math.isfinite(self.depth_m) and self.depth_m > 0):
            raise ValueError("a note needs a depth above zero")
        if not (math.isfinite(self.value) and self.value > 0):
            raise ValueError("a note needs what was out, or counted, above zero")


@dataclass(frozen=True, slots=True, kw_only=True)
class Moved:
    """How one coefficient moved."""

    key: Key
    factor: float  # on its catalogue value
    sd: float  # of its logarithm, now
    prior_sd: float  # and before any note


@dataclass(frozen=True, slots=True, kw_only=True)
class Judged:
    """One note beside what the fit says."""

    note: RigNote
    said_before_m: float  # the depth the catalogue gives
    says_m: float  # the depth the notes together give
    off_sd: float  # how far the note lies from what the others say, in standard deviations
    contradicts: bool


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class TackleCalibration:
    """What the notes together say."""

    knowledge: Knowledge = PRIOR
    moved: tuple[Moved, ...] = ()
    judged: tuple[Judged, ...] = ()
    unusable: tuple[tuple[RigNote, Reason], ...] = ()  # notes that say nothing a rod could do, and why

    @property
    def contradictions(self) -> tuple[Judged, ...]:
        """Notes that the others speak against."""
        return tuple(j for j in self.judged if j.contradicts)


def note_sd(note: RigNote) -> float:
    """Standard deviation of the depth a note tells, without the coefficients': eye, line-out, speed or count, m."""
    rod = note.rod
    own = max(_SD_M, _SD_SHARE * note.depth_m)
    if amount_of(rod.method) is Amount.COUNT:
        return _counted(note, own)
    longer = depth_of(rod, note.value * (1 + rod.line_sd))
    here = depth_of(rod, note.value)
    faster = depth_of(replace(rod, speed_mps=min(rod.speed_mps + rod.speed_sd_mps, 6.0)), note.value)
    parts = [own] + [v - here for v in (longer, faster) if math.isfinite(v - here)]
    return math.hypot(*parts)


def _counted(note: RigNote, own: float) -> float:
    """A count is off by its seconds times how fast the lure then falls."""
    here, later = depth_of(note.rod, note.value), depth_of(note.rod, note.value + note.rod.count_sd_s)
    return math.hypot(own, later - here) if math.isfinite(later - here) else own


def calibrate(notes: Sequence[RigNote]) -> TackleCalibration:
    """
    What notes together say of the coefficients of all the tackle in them.

    Parameters
    ----------
    notes : sequence of RigNote

    Returns
    -------
    TackleCalibration

    Notes
    -----
    Minimises sum((said - told)^2 / sd^2) + sum(log factor^2 / prior sd^2); a touch counts only where the lure would
    run shallower than the bottom, a miss only where it would run deeper. Where notes contradict each other by more
    than their own spread, the covariance is widened by chi squared over the notes' number.
    """
    good: list[RigNote] = []
    bad: list[tuple[RigNote, Reason]] = []
    for note in notes:
        found = run(note.rod, note.value)
        if isinstance(found, CannotReach):
            bad.append((note, found.reason))
        else:
            good.append(note)
    if not good:
        return TackleCalibration(unusable=tuple(bad))
    priors: dict[Key, float] = {}
    for note in good:
        priors.update(keys_of(note.rod))
    keys = tuple(sorted(priors))
    fit = _fit(good, keys, priors)
    knowledge = Knowledge(keys=keys, mean=fit.mean, covariance=fit.covariance)
    moved = tuple(
        Moved(key=key, factor=math.exp(m), sd=math.sqrt(v), prior_sd=priors[key])
        for key, m, v in zip(keys, fit.mean.tolist(), np.diag(fit.covariance).tolist(), strict=True)
    )
    return TackleCalibration(knowledge=knowledge, moved=moved, judged=_judge(good, keys, fit), unusable=tuple(bad))


@dataclass(frozen=True, slots=True, eq=False)
class _Fit:
    mean: Floats
    covariance: Floats
    sharp: Floats  # the covariance, not widened
    weight: Floats  # of each note
    says: Floats  # depth of each note at the mean
    jacobian: Floats
    sds: Floats


def _depths(notes: Sequence[RigNote], keys: tuple[Key, ...], logs: Floats) -> Floats:
    factors = {key: math.exp(v) for key, v in zip(keys, logs.tolist(), strict=True)}
    return np.array([depth_of(scaled(n.rod, factors), n.value) for n in notes])


def _off(note: RigNote, says: float) -> float:
    """What is left of a note, in metres: nothing where a bound holds."""
    gap = note.depth_m - says
    if (note.told is Told.TOUCHED and gap < 0) or (note.told is Told.CLEAR and gap > 0):
        return 0.0
    return gap


def _fit(notes: Sequence[RigNote], keys: tuple[Key, ...], priors: dict[Key, float]) -> _Fit:
    mean = np.zeros(len(keys))
    weight = np.array([1 / priors[k] ** 2 for k in keys])
    sds = np.array([note_sd(n) for n in notes])
    says = _depths(notes, keys, mean)
    jacobian = np.zeros((len(notes), len(keys)))
    curvature = np.diag(weight)

    def cost(at: Floats, depths: Floats) -> float:
        off = np.array([_off(n, d) for n, d in zip(notes, depths.tolist(), strict=True)]) / sds
        return float((off**2).sum() + (weight * at**2).sum())

    best = cost(mean, says)
    touches = [[i for i, n in enumerate(notes) if key in keys_of(n.rod) and _matters(n, key)] for key in keys]
    scaled_by = 1 / sds**2
    for _ in range(_ROUNDS):
        for j, touched in enumerate(touches):
            moved = mean.copy()
            moved[j] += _STEP
            jacobian[touched, j] = (_depths([notes[i] for i in touched], keys, moved) - says[touched]) / _STEP
        jacobian = np.nan_to_num(jacobian)
        off = np.array([_off(n, d) for n, d in zip(notes, says.tolist(), strict=True)])
        tells = np.array([_tells(n, d, sd) for n, d, sd in zip(notes, says.tolist(), sds.tolist(), strict=True)])
        scaled_by = tells / sds**2
        curvature = np.diag(weight) + jacobian.T @ (scaled_by[:, None] * jacobian)
        step = np.linalg.solve(curvature, jacobian.T @ (scaled_by * off) - weight * mean)
        step *= min(1.0, _FURTHEST / max(float(np.abs(step).max()), 1e-12))
        for _ in range(6):
            there = _depths(notes, keys, mean + step)
            if np.isfinite(there).all() and (now := cost(mean + step, there)) <= best:
                mean, says, best = mean + step, there, now
                break
            step = step / 2
        else:
            break
        if float(np.abs(step).max()) < 1e-3:
            break
    off = np.array([_off(n, d) for n, d in zip(notes, says.tolist(), strict=True)]) / sds
    # notes that cannot all be right make nothing surer
    wider = max(float((off**2).sum()) / len(notes), 1.0)
    sharp = np.linalg.inv(curvature)
    return _Fit(mean, sharp * wider, sharp, scaled_by, says, jacobian, sds)


def _matters(note: RigNote, key: Key) -> bool:
    """How a lure falls says nothing of how it tows."""
    return key[2] != "fall" or note.rod.method not in HANGING


def _tells(note: RigNote, says: float, sd: float) -> float:
    """How much a bound tells of the depth: all of it where it is broken, little where it holds with room."""
    if note.told is Told.AT:
        return 1.0
    room = says - note.depth_m if note.told is Told.TOUCHED else note.depth_m - says
    return 1.0 if room <= 0 else math.exp(-((room / sd) ** 2))


def _judge(notes: Sequence[RigNote], keys: tuple[Key, ...], fit: _Fit) -> tuple[Judged, ...]:
    """Each note beside what the others say: the fit without it, linear about the fit with it (one rank taken off)."""
    before = _depths(notes, keys, np.zeros(len(keys)))
    n, out = len(notes), []
    for i, note in enumerate(notes):
        row = fit.jacobian[i]
        lean = fit.sharp @ row
        lever = min(float(fit.weight[i] * (row @ lean)), 1 - 1e-6)
        # where the coefficients would be without it, and what every note would then be said to be
        back = lean * (fit.weight[i] * _off(note, float(fit.says[i])) / (1 - lever))
        says = fit.says - fit.jacobian @ back
        others = [(_off(o, float(says[k])) / fit.sds[k]) ** 2 for k, o in enumerate(notes) if k != i]
        wider = max(sum(others) / max(n - 1, 1), 1.0)
        spread = math.sqrt(wider * float(row @ lean) / (1 - lever))
        off = _off(note, float(says[i])) / math.hypot(spread, float(fit.sds[i]))
        out.append(
            Judged(
                note=note,
                said_before_m=float(before[i]),
                says_m=float(fit.says[i]),
                off_sd=off,
                contradicts=n > 1 and abs(off) > _CONTRADICTS,
            )
        )
    return tuple(out)
