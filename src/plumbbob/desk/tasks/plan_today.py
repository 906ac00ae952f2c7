"""Plans the day in the background: once with all ways, then again after every change, the newest change first."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import timedelta
from typing import TYPE_CHECKING, Any

import numpy as np

from plumbbob.core.geodesy import Position
from plumbbob.core.plan.clock import BOAT, KAYAK, Hour, wind_at
from plumbbob.core.plan.day import CannotPlan
from plumbbob.core.plan.draft import Usual, world_shape
from plumbbob.core.plan.events import DayState
from plumbbob.core.plan.outing import DayAsk, DayPlan, Fished, Outing, lay_out, solve
from plumbbob.core.plan.veil import Sight, seen_by_pass, seen_to_sides, sign
from plumbbob.core.types import Progress
from plumbbob.core.units import Kind
from plumbbob.desk.jobs import Job
from plumbbob.desk.models.boat import own_boat
from plumbbob.desk.models.session import Session
from plumbbob.desk.models.settings import json_of, keep_json, number_of
from plumbbob.desk.tasks.build_chart import ChartBuilder
from plumbbob.files.errors import FileError
from plumbbob.formats.kept_day import KeptDay, read_day, write_day
from plumbbob.services.outing import Facts, Search, candidates_of, land_of, search_of, sun_of, unseen_of

if TYPE_CHECKING:
    from shapely.geometry.base import BaseGeometry

_HOURS = 7.0
_BEFORE_LIGHT_S, _ROUND_S = 1200.0, 900.0
_BEAM_DEG, _NADIR_M = 20.0, 3.0
_OLDEST_PASS_S = 12 * 3600.0


Looks = Callable[[Search], tuple[Sight, ...]]


@dataclass(frozen=True, slots=True)
class _Wish:
    """What waits until the plan that is being made is done."""

    quick: bool
    at: Position | None
    undo: Callable[[], None]


@dataclass(frozen=True, slots=True, kw_only=True)
class _Given:
    """All that a plan is made from, as values; None for what has to be worked out first."""

    facts: Facts
    state: DayState
    fished: dict[str, Fished]
    outing: Outing | None
    at: Position | None
    now: float | None
    near: list[str] | None
    land: BaseGeometry | None
    search: Search | None
    sights: tuple[Sight, ...]
    looks: Looks


@dataclass(frozen=True, slots=True)
class _Made:
    """A plan, and what it was worked out from."""

    outing: Outing
    plan: DayPlan
    search: Search
    land: BaseGeometry


def _make(given: _Given, progress: Progress) -> _Made | Exception:
    """The plan; what can't be planned is an answer, not a failure."""
    facts, outing = given.facts, given.outing
    try:
        land = given.land if given.land is not None else land_of(facts.chart, facts.level_m)
        search = given.search if given.search is not None else search_of(facts)
        if outing is None or given.at is not None:
            if outing is None:
                places = list(candidates_of(facts))
                seen = given.sights or given.looks(search)
                unseen = unseen_of(facts, search, seen, facts.ask.start, places)
                places += [unseen] if unseen is not None else []
            else:
                places = list(outing.candidates)
            outing = lay_out(facts.ask, places, sun_of(facts.ask.launch), land, at=given.at, now=given.now)
        state = given.state
        plan = solve(
            outing, holds=state.holds, banned=state.banned, fished=given.fished, near=given.near, progress=progress
        )
    except (CannotPlan, ValueError) as exc:
        return exc
    return _Made(outing, plan, search, land)


class DayPlanner:
    """Needs the session; keeps what of a chart needs not be made again."""

    def __init__(self, session: Session, charter: ChartBuilder) -> None:
        self._session, self._charter = session, charter
        self._land: tuple[tuple[int, float], BaseGeometry] | None = None
        self._job: Job[Any] | None = None
        self._waiting: _Wish | None = None
        self._is_quick = False  # the answer that is being made is a first one
        self._reminded: DayPlan | None = None
        session.run.wanted.connect(self.plan)
        session.run.state_changed.connect(self._follow_events)
        session.run.state_changed.connect(self._keep)
        session.run.moved.connect(self._follow_clock)
        session.water_changed.connect(lambda: session.run.set_ask(None))

    # -- the day as it was left ---------------------------------------------------------------------------------

    def _kept(self) -> KeptDay | None:
        folder = self._charter.folder
        if folder is None:
            return None
        try:
            return read_day(folder.path)
        except FileError as exc:
            self._session.say(f"{exc}; the day begins anew.", wrong=True)
            return None

    def _keep(self) -> None:
        """Decisions and what was seen survive the program; a replay's do not."""
        run, folder = self._session.run, self._charter.folder
        if run.ask is None or folder is None or run.is_played:
            return
        try:
            write_day(folder.path, KeptDay(run.ask, run.state, run.patient, run.ladder))
        except FileError as exc:
            self._session.say(f"{exc}.", wrong=True)

    # -- the day as asked ---------------------------------------------------------------------------------------

    def plan_today(self) -> None:
        """One key: the plan of this water for the day on screen."""
        session = self._session
        if session.chart.chart is None:
            session.say("A plan needs a chart: add soundings or open a recording first.", wrong=True)
            return
        session.set_stage("run")
        if session.run.ask is None or session.run.is_played:
            asked = self.usual_day()
            kept = self._kept()
            if kept is not None and session.local(kept.ask.start).date() == session.local(asked.start).date():
                session.run.patient, session.run.ladder = kept.patient, kept.ladder
                session.run.set_ask(kept.ask, kept.state)
            else:
                session.run.set_ask(asked)
        self.plan()

    def usual_day(self) -> DayAsk:
        """From a little before first light, as long as was asked last, from where one launched last."""
        session = self._session
        water, day = session.water, session.conditions
        moment = session.view.moment if session.scan.lead is None else float(session.scan.lead.time[0])
        local = session.local(moment)
        midnight = (local - timedelta(hours=local.hour, minutes=local.minute, seconds=local.second)).timestamp()
        lights = day.lights
        start = (
            lights.first_light - _BEFORE_LIGHT_S if lights is not None and lights.first_light else midnight + 6 * 3600
        )
        start = round(start / _ROUND_S) * _ROUND_S
        kayak = own_boat(session.settings).is_kayak
        craft = KAYAK if kayak else BOAT
        return DayAsk(
            start=start,
            end=start + _HOURS * 3600.0,
            launch=self._launch() or water.place or Position(0.0, 0.0),
            hours=self._winds(start),
            craft=craft,
            usual=Usual(per_h=number_of(session.settings, "run/per_h", Usual().per_h, 0.01, 60.0)),
            rest_h=number_of(session.settings, "run/rest_h", 1.5, 0.1, 72.0),
            secchi_m=day.secchi_m,
        )

    def _winds(self, start: float) -> tuple[Hour, ...]:
        """As typed for this water, hours after the start; else the day's one wind, rising towards noon as it does."""
        day = self._session.conditions
        kept = json_of(self._session.settings, f"run/wind/{self._session.water.key}")
        if isinstance(kept, list) and kept:
            try:
                return tuple(Hour(start + float(a), float(b), float(c)) for a, b, c in kept)
            except (TypeError, ValueError):
                pass
        return (Hour(start, day.wind_mps, day.wind_from_deg),)

    def keep(self, ask: DayAsk) -> None:
        """Remember how days are asked here."""
        session = self._session
        session.settings.setValue("run/per_h", ask.usual.per_h)
        session.settings.setValue("run/rest_h", ask.rest_h)
        rows = [[h.time - ask.start, h.wind_mps, h.from_deg] for h in ask.hours]
        keep_json(session.settings, f"run/wind/{session.water.key}", rows)
        place = [ask.launch.latitude, ask.launch.longitude]
        keep_json(session.settings, f"run/launch/{session.water.key}", place)

    def _launch(self) -> Position | None:
        """Where one launched last; else the water's edge nearest to its shallow end of the first pass."""
        session = self._session
        kept = json_of(session.settings, f"run/launch/{session.water.key}")
        if isinstance(kept, list) and len(kept) == 2 and all(isinstance(v, int | float) for v in kept):
            return Position(float(kept[0]), float(kept[1]))
        track = session.scan.recording.track if session.scan.recording is not None else None
        chart = session.chart.chart
        if chart is None:
            return None
        about = None
        if track is not None and len(track.time):
            good = np.flatnonzero(np.isfinite(track.latitude))
            if good.size:
                x, y = chart.plane.to_xy(float(track.latitude[good[0]]), float(track.longitude[good[0]]))
                about = float(x), float(y)
        frame = chart.grid.frame
        depth = chart.grid.depth_m + np.float32(session.conditions.level_m)
        rows, columns = np.nonzero((depth > 0.8) & (depth < 2.5))
        if not rows.size:
            rows, columns = np.nonzero(depth > 0.8)
        if not rows.size:
            return None
        x, y = frame.xy(rows, columns)
        middle = about or (float(np.median(x)), float(np.median(y)))
        near = int(np.hypot(x - middle[0], y - middle[1]).argmin())
        return chart.plane.place(float(x[near]), float(y[near]))

    @property
    def is_planning(self) -> bool:
        """A plan is being made."""
        return self._job is not None

    # -- planning -----------------------------------------------------------------------------------------------

    def facts(self) -> Facts | None:
        """What is known now, as values."""
        session = self._session
        chart, ask = session.chart.chart, session.run.ask
        if chart is None or ask is None:
            return None
        day, book = session.conditions, session.logbook
        comfort = day.comfort
        x0, y0 = chart.grid.frame.x0_m, chart.grid.frame.y0_m
        x1 = x0 + chart.grid.frame.nx * chart.grid.frame.cell_m
        y1 = y0 + chart.grid.frame.ny * chart.grid.frame.cell_m
        xs, ys = book.marks.on(chart.plane)
        inside = (xs >= x0) & (xs <= x1) & (ys >= y0) & (ys <= y1)
        marks = [(m, book.caught_at(m)) for m in (book.marks[int(k)] for k in np.flatnonzero(inside))]
        session.run.shape = world_shape([caught for _, caught in marks])
        return Facts(
            chart=chart,
            level_m=day.level_m,
            ask=ask,
            places=session.spots.places[:14],
            marks=tuple(marks),
            added=session.run.state.added,
            window=session.rig.window,
            layer=day.layer_plane,
            warmth=None if comfort is None else (comfort.depth_m, comfort.suitability),
        )

    def plan(self, quick: bool = False, at: Position | None = None, undo: Callable[[], None] = lambda: None) -> None:
        """
        Make or mend the plan; while one is being made the newest wish waits.

        Parameters
        ----------
        quick : bool
            A first answer soon, the better one after it.
        at : Position, optional
            Where one is: the ways are laid from there.
        undo : callable
            What to take back where no such day can be planned.
        """
        session, run = self._session, self._session.run
        facts = self.facts()
        if facts is None:
            return
        if self._job is not None:
            if quick and not self._is_quick and at is None:
                self._job.cancel()  # a hand is waiting: the better answer to the old wish is not
            before = self._waiting
            quick = quick and (before is None or before.quick)
            self._waiting = _Wish(quick, at or (before.at if before is not None else None), undo)
            return
        quick = quick or run.plan is None
        self._is_quick = quick
        stays = run.plan.stays if run.plan is not None else ()
        key = (id(facts.chart), round(facts.level_m, 2))
        known = self._land is not None and self._land[0] == key
        given = _Given(
            facts=facts,
            state=run.state,
            fished=dict(run.fished),
            outing=run.outing,
            at=at,
            now=run.now,
            near=[s.candidate.name for s in stays if not s.again] if quick else None,
            land=self._land[1] if self._land is not None and known else None,
            search=session.search.search if known else None,
            sights=session.search.sights,
            looks=self._passes(facts),
        )

        def done(made: _Made | Exception) -> None:
            if isinstance(made, Exception):
                undo()
                session.say(f"No such day: {made}.", wrong=True)
                run.planned.emit()
                return
            if session.chart.chart is not facts.chart or run.ask is not facts.ask:
                return  # another water or another day meanwhile
            self._land = (key, made.land)
            if made.search is not session.search.search:
                time = run.now if run.now is not None else facts.ask.start
                session.search.open(made.search, facts.chart.plane, given.looks(made.search), time)
            run.set_plan(made.outing, made.plan)
            self._keep()
            self._follow_events()
            if quick and self._waiting is None:
                self._waiting = _Wish(False, None, lambda: None)

        self._job = session.jobs.start("Planning the day", lambda progress: _make(given, progress), done, brief=True)
        self._job.then(self._ended)

    def _ended(self) -> None:
        self._job = None
        wish, self._waiting = self._waiting, None
        if wish is not None:
            self.plan(wish.quick, wish.at, wish.undo)

    def _passes(self, facts: Facts) -> Looks:
        """What the open pass has looked at, as sights of a grid: water without fish thins, fish raise."""
        session = self._session
        scan, chart = session.scan, facts.chart
        track = scan.recording.track if scan.recording is not None else None
        lead = scan.lead
        if track is None or lead is None or not len(track.time):
            return lambda found: ()
        good = np.isfinite(track.latitude)
        x, y = chart.plane.to_xy(track.latitude[good][::5], track.longitude[good][::5])
        line = np.stack([x, y], axis=1)
        fish = []
        for one in scan.reading.fish:
            if one.latitude == one.latitude:
                a, b = chart.plane.to_xy(one.latitude, one.longitude)
                fish.append(((float(a), float(b)), one.depth_m, one.time))
        side = scan.recording.side if scan.recording is not None else None
        reach = side.reach_m if side is not None else 0.0
        beam = float(getattr(lead, "beam_width_deg", 0.0)) or _BEAM_DEG
        time = min(float(lead.time[-1]), facts.ask.start)

        def looks(found: Search) -> tuple[Sight, ...]:
            out = [seen_by_pass(found.grid, line, beam, time)] if len(line) > 1 else []
            if reach > 0 and len(line) > 1:
                out.append(seen_to_sides(found.grid, line, _NADIR_M, reach, time))
            # a shoal is one sign: of fish close together the first speaks for all
            spoken: list[tuple[float, float]] = []
            for place, depth, when in fish:
                if all(np.hypot(place[0] - a, place[1] - b) > 60.0 for a, b in spoken):
                    spoken.append(place)
                    out.append(sign(found.grid, place, depth, 5.0, min(when, time), lasts_s=_OLDEST_PASS_S))
            return tuple(out)

        return looks

    # -- what follows -------------------------------------------------------------------------------------------

    def _follow_events(self) -> None:
        session = self._session
        session.search.set_events(session.run.state.events, session.run.candidates)

    def _follow_clock(self) -> None:
        run = self._session.run
        if run.now is not None:
            self._session.search.set_now(run.now)
        self._remind_of_home()

    def _remind_of_home(self) -> None:
        """Once, when it is time to turn for home: by the wind where it says so."""
        session, run = self._session, self._session.run
        plan, now = run.plan, run.now
        if plan is None or now is None or not plan.stays or self._reminded is plan:
            return
        if plan.stays[-1].leave <= now < plan.back:
            self._reminded = plan
            wind = wind_at(plan.ask.hours, plan.back)
            against = " before the wind gets too much" if plan.home_by is not None else ""
            session.say(
                f"Turn for home{against}: there by {session.clock(plan.back, '%H:%M')}, wind "
                f"{session.display.words(wind.wind_mps, Kind.SPEED, 0)}.",
                wrong=plan.home_by is not None,
            )

    def from_now(self) -> None:
        """Plan what is left from where one is: what was fished rests, what is over stays as it was."""
        _session, run = self._session, self._session.run
        if run.plan is None or run.ask is None:
            self.plan_today()
            return
        now = run.now if run.now is not None else run.ask.start
        before = run.past, dict(run.fished), run.state, run.now
        here = run.here
        for stay in run.plan.stays:
            if stay.leave <= now:
                run.finish_stay(stay, stay.leave)
        if here is not None:
            run.finish_stay(here, now)
        at = self._session.live.place or run.place_at(now)
        passed = {n for n, h in run.state.holds.items() if h.arrive == h.arrive and h.arrive < now}
        if passed:
            run.state = replace(run.state, holds={n: h for n, h in run.state.holds.items() if n not in passed})
        run.set_now(now)

        def undo() -> None:
            run.past, run.fished, run.state, run.now = before

        self.plan(at=at, undo=undo)
