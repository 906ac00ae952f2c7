"""The day on the water: what is asked of it, the plan, what a hand has fixed, where one is, what was seen."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from PySide6.QtCore import QObject, Signal

from plumbbob.core.geodesy import Position
from plumbbob.core.plan.bites import Ladder, Lever
from plumbbob.core.plan.draft import Candidate
from plumbbob.core.plan.events import KINDS, DayState, Event
from plumbbob.core.plan.outing import DayAsk, DayPlan, Fished, Hold, Outing, Stay, after_fishing, along
from plumbbob.core.plan.stay import Prior, StayOrGo, stay_or_go
from plumbbob.desk.models.history import Change, History

# what a change is called, so that those of another day can be forgotten
_WORDS = ("stay held", "stay let go", "place left out", "place put in", *KINDS, "change tried")
LEFT = "left"
_QUICK, _PATIENT = 1.25, 0.8  # what the school makes of the rate elsewhere


class RunModel(QObject):
    """The plan of one water and one day. It asks for a new plan; a task makes it."""

    wanted = Signal(bool)  # a plan is to be made: True if a quick answer is enough
    planned = Signal()  # another plan
    chosen_changed = Signal()
    moved = Signal()  # the boat or the clock
    state_changed = Signal()  # what was decided or seen
    shown_changed = Signal()  # what of it is on the chart

    def __init__(self, history: History, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._history = history
        self.ask: DayAsk | None = None
        self.outing: Outing | None = None
        self.plan: DayPlan | None = None
        self.beside: DayPlan | None = None  # kept to compare with
        self.state = DayState()
        self.now: float | None = None
        self.fished: dict[str, Fished] = {}
        self.past: tuple[Stay, ...] = ()  # stays that are over, as they were
        self.is_played = False  # a made-up day is played against the plan
        self.patient = False  # the school that stays and works
        self.ladder = Ladder.DEPTH_FIRST
        self.shape = 1.5  # how even or clumped the world is: of the Gamma prior
        self.veil = LEFT  # what the threads on the chart show: what is left, one reason alone, or nothing
        self.deep_first = False  # the table down the column
        self.around = ""  # "", "spokes" or "lanes"
        self._chosen = ""
        self._stretched: Stay | None = None
        self._boat: Position | None = None
        self.first_plan: tuple[Outing, DayPlan] | None = None  # of the whole day, before one went out
        self.scale = (0.0, 1.0, 1.0)  # of the picture of the day: surface and foot in pixels, and its whole height

    # -- the plan -----------------------------------------------------------------------------------------------

    def set_ask(self, ask: DayAsk | None, state: DayState | None = None) -> None:
        """Another day, or another water, as it was left: what was planned for the last one goes."""
        self.ask, self.outing, self.plan, self.beside = ask, None, None, None
        self.state, self.now, self.fished, self.past = state or DayState(), None, {}, ()
        self.first_plan, self._stretched, self.is_played = None, None, False
        for words in _WORDS:
            self._history.forget(words)
        self._chosen = ""
        self.planned.emit()
        self.state_changed.emit()
        self.moved.emit()

    def change_ask(self, ask: DayAsk) -> None:
        """The same day asked otherwise: decisions stay, a new plan is wanted."""
        self.ask, self.outing = ask, None
        self.wanted.emit(False)

    def set_plan(self, outing: Outing, plan: DayPlan) -> None:
        """It has been made."""
        self.outing, self.plan = outing, plan
        if not self.past:
            self.first_plan = outing, plan
        if self.chosen is None and plan.stays:
            self._chosen = plan.stays[0].candidate.name
        self.planned.emit()
        self.chosen_changed.emit()

    @property
    def stays(self) -> tuple[Stay, ...]:
        """Of the whole day: those that are over, then those of the plan."""
        return self.past + (self.plan.stays if self.plan is not None else ())

    @property
    def candidates(self) -> tuple[Candidate, ...]:
        """All places of the day."""
        return self.outing.candidates if self.outing is not None else ()

    def keep_beside(self) -> None:
        """Keep this plan to compare others with; again lets go of it."""
        self.beside = self.plan if self.beside is None else None
        self.planned.emit()

    def swap(self) -> None:
        """The plan kept beside becomes the plan, and the other way round."""
        if self.beside is not None and self.plan is not None:
            self.plan, self.beside = self.beside, self.plan
            self.planned.emit()

    # -- what is chosen -----------------------------------------------------------------------------------------

    @property
    def chosen(self) -> Candidate | None:
        """The place that was picked."""
        return next((c for c in self.candidates if c.name == self._chosen), None)

    @property
    def chosen_stay(self) -> Stay | None:
        """Its stay: the one under way, else the first to come."""
        mine = [s for s in self.stays if s.candidate.name == self._chosen]
        now = self.now if self.now is not None else -1e300
        return next((s for s in mine if s.leave > now), mine[-1] if mine else None)

    def choose(self, name: str) -> None:
        """Pick a place by name; empty: none."""
        if name != self._chosen:
            self._chosen = name
            self.chosen_changed.emit()

    def choose_next(self, step: int) -> None:
        """The next stay of the day."""
        names = list(dict.fromkeys(s.candidate.name for s in self.stays))
        if names:
            at = names.index(self._chosen) if self._chosen in names else (-1 if step > 0 else 0)
            self.choose(names[(at + step) % len(names)])

    # -- what a hand decides ------------------------------------------------------------------------------------

    def decide(self, words: str, state: DayState, *, quick: bool = False, replans: bool = True) -> None:
        """Change what was decided or seen, so that it can be taken back."""
        before = self.state
        if state == before:
            return

        def to(one: DayState) -> Callable[[], None]:
            def go() -> None:
                self._set_state(one, replans=replans)

            return go

        self._history.did(Change(words, to(before), to(state)))
        self._set_state(state, quick=quick, replans=replans)

    def _set_state(self, state: DayState, *, quick: bool = False, replans: bool = True) -> None:
        added = state.added != self.state.added
        self.state = state
        if added:
            self.outing = None
        self.state_changed.emit()
        if replans:
            self.wanted.emit(quick)

    def hold(self, name: str, hold: Hold | None) -> None:
        """Fix a place in the plan, anywhere or from when to when; None lets it go."""
        holds = {k: v for k, v in self.state.holds.items() if k != name}
        if hold is not None:
            holds[name] = hold
        self.decide("stay held" if hold else "stay let go", replace(self.state, holds=holds), quick=True)

    def drag(self, name: str, hold: Hold) -> None:
        """While a hand drags: nothing is remembered yet, a quick plan is wanted."""
        self.state = replace(self.state, holds={**self.state.holds, name: hold})
        self.wanted.emit(True)

    def dropped(self, before: DayState) -> None:
        """The hand lets go: the drag becomes one change."""
        after, self.state = self.state, before
        self.decide("stay held", after)

    def ban(self, name: str) -> None:
        """Leave a place out, or let it in again."""
        banned = self.state.banned ^ {name}
        holds = {k: v for k, v in self.state.holds.items() if k != name}
        self.decide("place left out", replace(self.state, banned=banned, holds=holds))

    def add(self, candidate: Candidate) -> None:
        """Put another place in; it is held."""
        self._chosen = candidate.name
        self.decide(
            "place put in",
            replace(
                self.state,
                added=(*self.state.added, candidate),
                holds={**self.state.holds, candidate.name: Hold()},
            ),
        )

    def note(self, event: Event, words: str = "") -> None:
        """Something was seen, or nothing was."""
        self.decide(words or event.kind, replace(self.state, events=(*self.state.events, event)), replans=False)

    def pull(self, name: str, lever: Lever, time: float) -> None:
        """A lever was tried at a place."""
        self.decide(
            "change tried", replace(self.state, tried=(*self.state.tried, (name, lever, time))), replans=False
        )

    def observe(self, event: Event) -> None:
        """As a replay sees it: nothing that a hand could take back."""
        self.state = replace(self.state, events=(*self.state.events, event))
        self.state_changed.emit()

    # -- the clock ----------------------------------------------------------------------------------------------

    def set_now(self, now: float | None) -> None:
        """Another time of day; None before one is out."""
        self.now = now
        self.moved.emit()

    def finish_stay(self, stay: Stay, leave: float) -> None:
        """A stay is over: how it was, and what is left there."""
        over = replace(stay, leave=leave)
        self.past = (*self.past, over)
        if self.ask is not None:
            name = stay.candidate.name
            bites = self.count(name, "bite", stay.arrive)
            hours = max(leave - stay.arrive, 0.0) / 3600.0
            found = after_fishing(self._shaped(stay.prior), bites, hours, self.ask.usual.gone_per_h, leave)
            before = self.fished.get(name)
            # two stays tell more than one: what the first one said of the rate still holds
            self.fished[name] = found if before is None else replace(found, rate=found.rate * before.rate)

    def stretch(self, stay: Stay, seconds: float) -> None:
        """Stay longer than planned; what comes after is planned anew when one leaves."""
        if self.plan is not None and stay in self.plan.stays:
            longer = replace(stay, leave=stay.leave + seconds)
            at = self.plan.stays.index(stay)
            rest = tuple(s for s in self.plan.stays[at + 1 :] if s.arrive >= longer.leave)
            self.plan = replace(self.plan, stays=(*self.plan.stays[:at], longer, *rest))
            self._stretched = longer
            self.planned.emit()

    def is_stretched(self, stay: Stay) -> bool:
        """It lasts longer than was planned."""
        return stay is self._stretched

    def begin_again(self) -> None:
        """The same plan from its start, as if nothing had happened yet, for a made-up day."""
        self.is_played = True
        first = self.first_plan
        if first is not None:
            self.plan, self.outing = first[1], first[0]
        self.past, self.fished = (), {}
        self.state = replace(self.state, events=(), tried=())
        self.state_changed.emit()
        self.planned.emit()

    @property
    def first_hope(self) -> float:
        """Fish that the first plan of the day expected."""
        return self.first_plan[1].fish if self.first_plan is not None else 0.0

    @property
    def here(self) -> Stay | None:
        """The stay under way."""
        now = self.now
        if now is None or self.plan is None:
            return None
        return next((s for s in self.plan.stays if s.arrive <= now < s.leave), None)

    @property
    def boat(self) -> Position | None:
        """Where the boat is, or where it is by the plan, now."""
        if self._boat is not None:
            return self._boat
        return self.place_at(self.now) if self.now is not None and self.plan is not None else None

    def set_boat(self, place: Position | None) -> None:
        """Where it really is; None: by the plan."""
        self._boat = place

    def place_at(self, time: float) -> Position | None:
        """Where the boat is by the plan at a time; None without a day."""
        if self.ask is None:
            return None
        before, left = self.ask.launch, self.ask.start
        for stay in self.stays:
            if time < stay.arrive:
                return along(stay.way, (time - left) / max(stay.arrive - left, 1.0))
            before, left = stay.candidate.place, stay.leave
            if time <= stay.leave:
                return before
        if self.plan is None:
            return before
        return along(self.plan.way_home, (time - left) / max(self.plan.back - left, 1.0))

    def count(self, name: str, kind: str, since: float = -1e300) -> int:
        """Events of a kind at a place."""
        return sum(e.name == name and e.kind == kind and e.time >= since for e in self.state.events)

    @property
    def advice(self) -> StayOrGo | None:
        """Whether to stay, by what came here; None while one is nowhere."""
        here, plan, now = self.here, self.plan, self.now
        if here is None or plan is None or now is None or self.outing is None:
            return None
        later = [s for s in plan.stays if s.arrive >= here.leave]
        following = later[0] if later else None
        end = self.outing.until - self._home_s(here)
        usual = self.outing.ask.usual
        travel = (following.arrive - here.leave) / 3600.0 if following is not None else self._home_s(here) / 3600.0
        school = _PATIENT if self.patient else _QUICK
        there = following.prior if following is not None else Prior(here.prior.fish, here.prior.hours * 1e6)
        bites = self.count(here.candidate.name, "bite", here.arrive)
        return stay_or_go(
            self._shaped(here.prior),
            bites,
            (now - here.arrive) / 3600.0,
            replace(self._shaped(there), hours=self._shaped(there).hours / school),
            gone_per_hour=usual.gone_per_h,
            travel_h=max(travel, 1 / 60),
            left_h=max((end - now) / 3600.0, 0.0),
        )

    def _shaped(self, prior: Prior) -> Prior:
        """As even or as clumped as this water has been."""
        fish = prior.fish - 1.5 + self.shape
        return Prior(fish, prior.hours * fish / prior.fish) if fish > 0 else prior

    def _home_s(self, stay: Stay) -> float:
        assert self.outing is not None
        k = self.outing.candidates.index(stay.candidate)
        return float(self.outing.ways.seconds[k, len(self.outing.candidates) + 1])

    # -- on screen ----------------------------------------------------------------------------------------------

    def show_veil(self, what: str) -> None:
        """What the veil over the chart shows: LEFT, a reason by name, or nothing."""
        if what != self.veil:
            self.veil = what
            self.shown_changed.emit()

    def turn_column(self) -> None:
        """What was tried at a place, from its other end."""
        self.deep_first = not self.deep_first
        self.shown_changed.emit()

    def show_around(self, what: str) -> None:
        """Spokes and rings, lanes, or nothing about the chosen place."""
        if what != self.around:
            self.around = what
            self.shown_changed.emit()

    def set_scale(self, surface_px: float, foot_px: float, height_px: float, deepest_m: float) -> None:
        """Where the picture of the day has its surface and its foot: the plumb line hangs level with it."""
        scale = (surface_px / max(height_px, 1.0), foot_px / max(height_px, 1.0), deepest_m)
        if scale != self.scale:
            self.scale = scale
            self.moved.emit()
