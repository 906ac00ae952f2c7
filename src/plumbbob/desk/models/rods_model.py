"""The rods in the water: how each is rigged, where its bob hangs, and what brings its lure there."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from PySide6.QtCore import QObject, QSettings, QTimer, Signal

from plumbbob.core.rig.calibrate import RigNote, TackleCalibration, calibrate
from plumbbob.core.rig.knowledge import Knowledge
from plumbbob.core.rig.methods import run
from plumbbob.core.rig.rod import FAMILY, CannotReach, Family, Method, RigAnswer, RigSettings, default_setup
from plumbbob.core.rig.tackle import DEFAULT_BOX, Box, Item, Lure
from plumbbob.core.sonar.reading import Bait, Fish, StandingObject
from plumbbob.desk.models.kept_rods import (
    LEAST_DEPTH_M,
    MOST_DEPTH_M,
    MOST_RODS,
    SETTING,
    RodSetup,
    keep_rods,
    recall_rods,
)
from plumbbob.desk.models.rod_solver import RodSolver
from plumbbob.wording.rig import rig_words

_REST_MS = 120
_OF_THE_BOAT = frozenset({"speed_mps", "speed_sd_mps", "current", "rho"})  # one boat, one speed
_ASIDE_M = (0.0, -1.0, 1.0, -1.6, 1.6, -2.2, 2.2, -0.5)  # where the next rod stands


class RodsModel(QObject):
    """The spread of rods; one of them is in hand. Solved anew on every change."""

    changed = Signal()
    window_changed = Signal()
    rods_changed = Signal()  # how many there are, or which is in hand
    tuned = Signal()  # notes have said something else of the tackle
    box_changed = Signal()

    def __init__(self, settings: QSettings | None = None, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._store = settings
        self._sets: tuple[RodSetup, ...] = (RodSetup(RigSettings()),)
        self._chosen = 0
        self._target_m: float | None = None
        self._window: tuple[float, float] | None = None
        self._calibration = TackleCalibration()
        self._solver = RodSolver()
        self._box = DEFAULT_BOX
        self._resting = QTimer(self)
        self._resting.setSingleShot(True)
        self._resting.setInterval(_REST_MS)
        self._resting.timeout.connect(self._rested)
        self._began_new = settings is None or not settings.contains(SETTING)
        if settings is not None and (kept := recall_rods(settings))[0]:
            self._sets, self._chosen = kept
        self._answers: tuple[RigAnswer | CannotReach, ...] = ()
        self._shown: tuple[RigAnswer | None, ...] = ()
        self._solve_all()

    # -- the rod in hand ----------------------------------------------------------------------------------------

    @property
    def settings(self) -> RigSettings:
        """How the rod in hand is rigged."""
        return self._sets[self._chosen].rod

    @property
    def bob_m(self) -> float:
        """Depth its lure should run at."""
        return self._sets[self._chosen].bob_m

    @property
    def target_m(self) -> float | None:
        """Depth of the fish the bob was hung over; None once it has been dragged."""
        return self._target_m

    @property
    def answer(self) -> RigAnswer | CannotReach:
        """What to do."""
        return self._answers[self._chosen]

    @property
    def shown(self) -> RigAnswer | None:
        """What the picture of the rig shows: the answer, or the nearest that can be had."""
        return self._shown[self._chosen]

    # -- the spread ---------------------------------------------------------------------------------------------

    @property
    def sets(self) -> tuple[RodSetup, ...]:
        """All rods, in the order of their numbers."""
        return self._sets

    @property
    def chosen(self) -> int:
        """Which rod is in hand, from 0."""
        return self._chosen

    @property
    def answers(self) -> tuple[RigAnswer | CannotReach, ...]:
        """What to do with each."""
        return self._answers

    @property
    def shown_all(self) -> tuple[RigAnswer | None, ...]:
        """What is drawn of each."""
        return self._shown

    def choose(self, index: int) -> None:
        """Take another rod in hand."""
        index = min(max(index, 0), len(self._sets) - 1)
        if index != self._chosen:
            self._chosen, self._target_m = index, None
            self.rods_changed.emit()
            self.changed.emit()

    def added(self, method: Method | None = None) -> tuple[RodSetup, ...]:
        """The spread with one rod more, rigged as the one in hand or another way."""
        here = self._sets[self._chosen]
        rod = here.rod if method is None else default_setup(here.rod, method)
        rod = replace(rod, aside_m=_ASIDE_M[len(self._sets) % len(_ASIDE_M)])
        return (*self._sets, replace(here, rod=rod))

    def set_all(self, sets: tuple[RodSetup, ...], chosen: int) -> None:
        """Another spread, as when one is opened, added to or taken back."""
        self._sets = sets[:MOST_RODS] or (RodSetup(RigSettings()),)
        self._chosen = min(max(chosen, 0), len(self._sets) - 1)
        self._target_m = None
        self._solve_all()
        self.rods_changed.emit()
        self.changed.emit()

    # -- hands --------------------------------------------------------------------------------------------------

    def fish_depth_of(self, echo: Fish | Bait | StandingObject) -> float:
        """The depth over which the bob is hung: a fish, the top of what stands; under bait, where its hunters are."""
        if isinstance(echo, Fish):
            return echo.depth_m
        if isinstance(echo, StandingObject):
            return echo.bottom_m - echo.height_m
        return echo.depth_bottom_m + self.settings.above_fish_m

    def hang_over(self, echo: Fish | Bait | StandingObject) -> None:
        """Hang the bob over an echo: above, since fish look up."""
        self.hang_over_depth(self.fish_depth_of(echo))

    def hang_over_depth(self, depth_m: float) -> None:
        """Hang the bob over a fish of which only the depth is known."""
        self._target_m = depth_m
        self._hang(self._chosen, depth_m - self.settings.above_fish_m)

    def hang_at(self, depth_m: float, target_m: float) -> None:
        """Hang the bob where advice puts it for a fish."""
        self._target_m = target_m
        self._hang(self._chosen, depth_m)

    def drag_to(self, depth_m: float, index: int | None = None) -> None:
        """Hang a bob at a depth by hand: of the rod in hand, or of another."""
        which = self._chosen if index is None else index
        if which == self._chosen:
            self._target_m = None
        self._hang(which, depth_m)

    def let_out(self, value: float) -> str:
        """Line in, depth out: the bob goes where the lure runs with so much out. Says why where it can't."""
        found = run(self.settings, value, self.knowledge)
        if isinstance(found, CannotReach):
            return rig_words(found.reason)
        self.drag_to(found.depth_m)
        return ""

    def _hang(self, index: int, depth_m: float) -> None:
        sets = list(self._sets)
        sets[index] = replace(sets[index], bob_m=min(max(depth_m, LEAST_DEPTH_M), MOST_DEPTH_M))
        self._sets = tuple(sets)
        self._solve(index)
        self.changed.emit()

    def set(self, **changes: Any) -> None:
        """
        Change the rod in hand by name; the bob keeps its distance over the fish it hangs over.

        The boat's speed is that of all rods which are fished alike.
        """
        method = changes.pop("method", self.settings.method)
        new = self.settings if method is self.settings.method else default_setup(self.settings, method)
        new = replace(new, **changes)
        if new == self.settings:
            return
        shared = {k: v for k, v in changes.items() if k in _OF_THE_BOAT}
        family = FAMILY[new.method]
        sets = []
        for i, one in enumerate(self._sets):
            rod = one.rod
            if i == self._chosen:
                rod = new
            elif shared and FAMILY[rod.method] is family:
                rod = replace(rod, **shared)
            sets.append(replace(one, rod=rod))
        if "above_fish_m" in changes and self._target_m is not None:
            bob = max(self._target_m - new.above_fish_m, LEAST_DEPTH_M)
            sets[self._chosen] = replace(sets[self._chosen], bob_m=bob)
        self._sets = tuple(sets)
        if shared:
            self._solve_quickly()
        else:
            self._solve(self._chosen)
        self.changed.emit()

    def next_method(self, among: tuple[Method, ...] = tuple(Method)) -> None:
        """The next way to bring the lure down."""
        here = self.settings.method
        at = among.index(here) + 1 if here in among else 0
        self.set(method=among[at % len(among)])

    @property
    def window(self) -> tuple[float, float] | None:
        """The chosen depth window."""
        return self._window

    def set_window(self, window: tuple[float, float] | None) -> None:
        """Choose the depth window."""
        if window is not None:
            window = (max(min(window), 0.0), max(window))
        if window != self._window:
            self._window = window
            self.window_changed.emit()
            self.changed.emit()

    # -- what is known of the tackle ----------------------------------------------------------------------------

    @property
    def box(self) -> Box:
        """The tackle one owns."""
        return self._box

    def set_box(self, box: Box) -> None:
        """Use another tackle box; rods keep what they are rigged with."""
        self._box = box
        self.box_changed.emit()

    def use(self, slot: str, item: Item) -> None:
        """Put a piece of tackle on the rod in hand."""
        self.set(**{slot: item})

    @property
    def calibration(self) -> TackleCalibration:
        """What the notes say."""
        return self._calibration

    @property
    def knowledge(self) -> Knowledge:
        """How well the tackle is known."""
        return self._calibration.knowledge

    def set_notes(self, notes: tuple[RigNote, ...]) -> None:
        """Let notes tune the tackle."""
        self.set_calibration(calibrate(notes))

    def set_calibration(self, calibration: TackleCalibration) -> None:
        """What notes say of the tackle, worked out."""
        self._calibration = calibration
        self._solver = RodSolver(calibration.knowledge)
        self._solve_all()
        self.tuned.emit()
        self.changed.emit()

    @property
    def cast_lure(self) -> Lure:
        """What is cast to a fish ahead: what is tied on the rod in hand."""
        return self.settings.lure

    # -- solving ------------------------------------------------------------------------------------------------

    def _solve_all(self) -> None:
        self._answers = tuple(self._solver.answer(s.rod, s.bob_m) for s in self._sets)
        self._shown = tuple(self._drawable(i) for i in range(len(self._sets)))

    def _solve_quickly(self) -> None:
        """All rods, with the spreads of those not in hand as they were: they follow once the hand rests."""
        answers: list[RigAnswer | CannotReach] = []
        for i, (one, before) in enumerate(zip(self._sets, self._answers, strict=True)):
            if i == self._chosen:
                answers.append(self._solver.answer(one.rod, one.bob_m))
            else:
                answers.append(self._solver.quickly(one.rod, one.bob_m, before))
        self._answers = tuple(answers)
        self._shown = tuple(self._drawable(i, quick=i != self._chosen) for i in range(len(self._sets)))
        self._resting.start(_REST_MS)

    def _rested(self) -> None:
        """One rod between two frames: eight with their spreads would hold the window up."""
        at = next((s for s in self._sets if not self._solver.knows(s.rod, s.bob_m)), None)
        if at is not None:
            self._solver.answer(at.rod, at.bob_m)
            self._resting.start(0)
            return
        self._solve_all()
        self.changed.emit()

    def _solve(self, index: int) -> None:
        answers, shown = list(self._answers), list(self._shown)
        one = self._sets[index]
        answers[index] = self._solver.answer(one.rod, one.bob_m)
        self._answers = tuple(answers)
        shown[index] = self._drawable(index)
        self._shown = tuple(shown)

    def _drawable(self, index: int, *, quick: bool = False) -> RigAnswer | None:
        return self._solver.drawable(self._sets[index].rod, self._answers[index], quick=quick)

    # -- remembered between starts ------------------------------------------------------------------------------

    def keep(self) -> None:
        """Remember the rods."""
        if self._store is not None:
            keep_rods(self._store, self._sets, self._chosen)

    @property
    def is_new(self) -> bool:
        """No rods were remembered when the program began."""
        return self._began_new


def is_towed(rod: RigSettings) -> bool:
    """The boat pulls it."""
    return FAMILY[rod.method] is Family.TROLLED
