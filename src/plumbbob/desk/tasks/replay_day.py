"""Plays a made-up day against the plan: looks, fish, stay or go, and a new plan wherever one leaves otherwise."""

from __future__ import annotations

from PySide6.QtCore import QObject, QTimer

from plumbbob.core.plan.events import Event
from plumbbob.core.plan.outing import Stay
from plumbbob.desk.models.search_model import LOOK_MIN
from plumbbob.desk.models.session import Session
from plumbbob.desk.tasks.plan_today import DayPlanner
from plumbbob.sim.water_day import HiddenDay, hidden_day

_TICK_MS, _STEP_S = 60, 60.0
_SEED = 3
_LEAST_MIN, _WORTH_MIN = 10.0, 4.0
_DEPTHS = (0.0, 2.0, -2.0, 4.0)  # metres under the planned depth, one look after the other


class DayReplay(QObject):
    """Needs the session and who plans. One step is a minute; while a plan is being made the clock waits."""

    def __init__(self, session: Session, planner: DayPlanner) -> None:
        super().__init__(session)
        self._session, self._planner = session, planner
        self._hidden: HiddenDay | None = None
        self._fished: dict[str, float] = {}  # minutes so far
        self._looked: dict[str, int] = {}
        self._timer = QTimer(self)
        self._timer.setInterval(_TICK_MS)
        self._timer.timeout.connect(self.step)
        session.water_changed.connect(self.stop)

    @property
    def is_on(self) -> bool:
        """It runs."""
        return self._timer.isActive()

    def toggle(self) -> None:
        """Play, pause, and after its end begin again."""
        run = self._session.run
        if self.is_on:
            self.stop()
            return
        if run.plan is None or run.outing is None or run.ask is None:
            self._session.say("Plan the day first: F5.", wrong=True)
            return
        if run.now is None or run.now >= run.plan.back or self._hidden is None:
            priors = {c.name: p for c, p in zip(run.outing.candidates, run.outing.priors, strict=True)}
            self._hidden = hidden_day(priors, run.ask.usual.gone_per_h, _SEED)
            self._fished, self._looked = {}, {}
            run.begin_again()
            run.set_now(run.ask.start)
        self._timer.start()
        self._session.say("A made-up day, a minute every blink. Shift+D pauses.")

    def stop(self) -> None:
        """Stand still."""
        self._timer.stop()

    def step(self) -> None:
        """One minute on."""
        run = self._session.run
        if run.plan is None or run.now is None:
            self.stop()
            return
        if self._planner.is_planning:
            return
        here = run.here
        now = run.now + _STEP_S
        if here is not None and self._hidden is not None:
            self._fish(here, run.now)
            if self._goes(here, now):
                run.set_now(now)
                self._planner.from_now()
                return
        if now >= run.plan.back:
            self.stop()
            caught = sum(e.kind == "bite" for e in run.state.events)
            self._session.say(f"The made-up day is over: {caught} fish, {run.first_hope:.1f} had been expected.")
        run.set_now(min(now, run.plan.back))

    def _fish(self, here: Stay, time: float) -> None:
        """A minute at a place."""
        assert self._hidden is not None
        run, name = self._session.run, here.candidate.name
        before = self._fished.get(name, 0.0)
        self._fished[name] = before + _STEP_S / 60.0
        for bite in self._hidden.between(name, before, before + _STEP_S / 60.0):
            depth = min(max(here.candidate.fish_m - bite.up_m, 0.3), here.candidate.bottom_m)
            run.observe(Event(kind="bite" if bite.takes else "follower", time=time, name=name, depth_m=depth))
            self._looked[name] = 0  # what works is kept
        if int(before + 1.0) % int(LOOK_MIN) == 0:
            last = max((e.time for e in run.state.events if e.name == name), default=0.0)
            if time - last >= LOOK_MIN * 60.0 - 1.0:
                k = self._looked.get(name, 0)
                self._looked[name] = k + 1
                depth = here.candidate.fish_m + _DEPTHS[k % len(_DEPTHS)]
                depth = min(max(depth, 0.5), here.candidate.bottom_m)
                run.observe(Event(kind="nothing", time=time, name=name, depth_m=depth, minutes=LOOK_MIN))

    def _goes(self, here: Stay, now: float) -> bool:
        """Whether one leaves otherwise than planned; a stay that is worth more is drawn out."""
        run = self._session.run
        advice = run.advice
        minutes = (now - here.arrive) / 60.0
        if advice is None or minutes < _LEAST_MIN:
            return False
        if not advice.stay or advice.minutes_more < 0.5:
            return now < here.leave
        if now >= here.leave - _STEP_S and advice.minutes_more > _WORTH_MIN:
            run.stretch(here, _STEP_S * min(advice.minutes_more, 10.0))
            return False
        return now >= here.leave and run.is_stretched(here)
