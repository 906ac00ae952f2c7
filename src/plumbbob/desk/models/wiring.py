"""What follows from what between the models of a session: one place for every wire from one to another."""

from __future__ import annotations

import time
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer

from plumbbob.core.chart.rank import DayFacts
from plumbbob.core.rig.calibrate import RigNote, TackleCalibration, calibrate
from plumbbob.core.water.sun import sun_elevation_deg
from plumbbob.desk.models.fished_for import FishedFor
from plumbbob.desk.models.lines_model import ground_of_lane, ground_of_pass
from plumbbob.desk.models.notes import note_of
from plumbbob.desk.models.settings import number_of
from plumbbob.desk.theme import Light

if TYPE_CHECKING:
    from plumbbob.desk.models.session import Session

_RANK_MS = 120
_SUN_MS = 60_000
_CLOCK_S = 15.0  # the day's clock moves on so often
_DAY_DEG, _NIGHT_DEG = 6.0, -6.0  # of the sun: above it is day on screen, below it night


class Wiring(QObject):
    """Needs the session, whose models it lets hear of each other."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._session = s = session
        self._tuning: tuple[RigNote, ...] = ()
        self._scale = (0.0, 0.0)
        self._fished = FishedFor(session)
        self._wire_touched()
        s.scan.opened.connect(self._recall_gain)
        s.scan.gain_changed.connect(self._keep_gain)
        self._sun = QTimer(self)  # colours by the sun, where that is wanted
        self._sun.setInterval(_SUN_MS)
        self._sun.timeout.connect(self._follow_sun)
        self._sun.start()
        for signal in (s.display.changed, s.water_changed):
            signal.connect(self._follow_sun)
        s.scan.chosen_changed.connect(self._hang_bob)
        s.side.chosen_changed.connect(self._hang_bob)
        s.forward.chosen_changed.connect(self._hang_bob)
        s.logbook.chosen_changed.connect(self._mark_chosen)
        s.run.chosen_changed.connect(self._fish_at_stay)
        s.live.moved.connect(self._boat_is)
        s.live.changed.connect(lambda: s.deck.come_to(s.live.outing))
        s.scan.opened.connect(s.offer_views)
        s.chart.opened.connect(self._chart_opened)
        s.logbook.notes_changed.connect(self._tune_rig)
        s.spots.chosen_changed.connect(self._stand_at_place)
        for signal in (
            s.chart.drawn_changed,
            s.chart.opened,
            s.scan.opened,
            s.scan.read,
            s.scan.evidence_changed,
            s.conditions.changed,
        ):
            signal.connect(self._lay_ground)
        s.scan.cursor_changed.connect(self._boat_follows)
        # ranking follows the hand a moment later: one redraw for many changes
        self._ranking = QTimer(self)
        self._ranking.setSingleShot(True)
        self._ranking.setInterval(_RANK_MS)
        self._ranking.timeout.connect(self._look_for_places)
        for signal in (
            s.conditions.changed,
            s.logbook.changed,
            s.scan.read,
            s.scan.evidence_changed,
            s.rig.window_changed,
        ):
            signal.connect(self._ranking.start)
        for signal in (
            s.scan.opened,
            s.scan.read,
            s.scan.evidence_changed,
            s.scan.cursor_changed,
            s.view_changed,
            s.forward.span_changed,
            s.screen_picture.span_changed,
            s.lines.span_changed,
            s.lines.changed,
            s.chart.opened,
            s.chart.cursor_changed,
            s.run.planned,
            s.run.chosen_changed,
            s.run.moved,
            s.trips.scale_changed,
            s.trips.chosen_changed,
            s.conditions.changed,
            s.rig.changed,
            s.display.changed,
            s.water_changed,
            s.stage_changed,
            s.review.scale_changed,
        ):
            signal.connect(s.column_changed)
        s.scan.view_changed.connect(self._scale_moved)

    def _wire_touched(self) -> None:
        """Which part of the session may be another now, by the signals that say so."""
        s = self._session
        scan, chart = s.scan, s.chart
        for part, signals in (
            ("display", (s.display.changed,)),
            ("scan", (scan.opened, scan.read, scan.chosen_changed, scan.replay.changed, scan.drawing.changed)),
            ("scan", (scan.read_on,)),
            ("scan", (scan.evidence_changed, scan.comparison.changed, scan.comparison.chart_changed)),
            ("view", (s.view_changed,)),
            ("side", (s.side.changed, s.side.chosen_changed)),
            ("screen_picture", (s.screen_picture.opened, s.screen_picture.changed)),
            ("forward", (s.forward.changed, s.forward.chosen_changed)),
            ("rig", (s.rig.changed,)),
            ("lines", (s.lines.changed,)),
            ("chart", (chart.opened, chart.drawn_changed, chart.shown_changed, chart.tool_changed)),
            ("chart", (chart.swaths_changed,)),
            ("spots", (s.spots.changed, s.spots.chosen_changed)),
            ("conditions", (s.conditions.changed,)),
            ("live", (s.live.changed,)),
            ("deck", (s.deck.changed,)),
            ("run", (s.run.planned, s.run.chosen_changed, s.run.moved, s.run.state_changed, s.run.shown_changed)),
            ("logbook", (s.logbook.changed, s.logbook.chosen_changed)),
            ("trips", (s.trips.changed, s.trips.chosen_changed)),
            ("review", (s.review.changed, s.review.picked_changed)),
            ("history", (s.history.changed,)),
            ("jobs", (s.jobs.changed,)),
            ("water", (s.water_changed,)),
            ("sheet", (s.sheet_asked,)),
            ("catching", (s.catch_asked,)),
        ):
            for signal in signals:
                signal.connect(partial(self._touch, part))

    def _touch(self, part: str, *_: object) -> None:
        self._session.touched.emit(part)

    def _hang_bob(self) -> None:
        """Over what is chosen in the picture on screen, where its depth is known."""
        depth = self._session.view.fish_depth_m
        if depth == depth:
            self._session.rig.hang_over_depth(depth)

    def _boat_is(self) -> None:
        """A boat that is listened to leads the day's clock, where it is on that day's water at that day's hours."""
        live, run = self._session.live, self._session.run
        fix, ask = live.fix, run.ask
        if fix is None or not live.is_on:
            run.set_boat(None)
            return
        if ask is not None and ask.start <= fix.time <= ask.end:
            run.set_boat(fix.place)
            if run.now is None or abs(fix.time - run.now) >= _CLOCK_S:
                run.set_now(fix.time)

    def _fish_at_stay(self) -> None:
        """The bob hangs at the depth that the chosen stay is fished at."""
        place = self._session.run.chosen
        if place is not None and self._session.view.shows_plan:
            self._session.rig.drag_to(place.fish_m)

    def _mark_chosen(self) -> None:
        mark = self._session.logbook.chosen
        if mark is not None:
            self._session.view.mark_chosen(mark)

    def _chart_opened(self) -> None:
        chart = self._session.chart.chart
        self._session.conditions.set_chart(chart)
        self._session.spots.set_features(chart.features if chart is not None else ())
        self._look_for_places()

    def _stand_at_place(self) -> None:
        place = self._session.spots.chosen
        if place is not None:
            self._session.chart.set_cursor(place.feature.x, place.feature.y)

    def _look_for_places(self) -> None:
        """Tell the ranking what is known of the day."""
        chart, day = self._session.chart.chart, self._session.conditions
        if chart is None:
            return
        bait = []
        for cloud in self._session.scan.reading.bait:
            if cloud.latitude == cloud.latitude:
                x, y = chart.plane.to_xy(cloud.latitude, cloud.longitude)
                bait.append((float(x), float(y), cloud.time_end - cloud.time_start))
        side = self._session.scan.reading.side
        for ball in side.schools if side is not None else ():
            if ball.kind == "bait" and ball.latitude == ball.latitude:
                x, y = chart.plane.to_xy(ball.latitude, ball.longitude)
                bait.append((float(x), float(y), ball.time_end - ball.time_start))
        ground = []
        for tile in side.ground if side is not None else ():
            if tile.latitude == tile.latitude:
                x, y = chart.plane.to_xy(tile.latitude, tile.longitude)
                ground.append((float(x), float(y), tile.kind, tile.chance, (tile.far_m - tile.near_m) ** 2))
        book = self._session.logbook
        whose = day.species.name if day.species is not None else ""
        record = book.marks.record_on(chart.plane, book.caught_by_mark(whose), of_one_species=bool(whose))
        who = self._fished.day()
        self._session.spots.set_facts(
            DayFacts(
                who=who,
                cover=self._fished.cover(chart),
                streams=self._fished.streams(chart),
                anglers=self._fished.anglers(chart),
                level_m=day.level_m,
                window=self._session.rig.window,
                layer=day.layer_plane,
                frame=day.fetch_frame,
                fetch_m=day.fetch,
                wind_mps=day.wind_mps,
                secchi_m=day.secchi_m,
                sun_deg=day.sun_deg(),
                bait=tuple(bait),
                record=record,
                ground=tuple(ground),
                evidence=self._session.scan.evidence if self._session.scan.evidence.fish.sum() > 0 else None,
            ),
            self._fished.roaming(who),
        )

    def _tune_rig(self) -> None:
        """The notes in the log tune the tackle; one that can no longer be read is left out and told."""
        notes = []
        for saved in self._session.logbook.notes:
            try:
                notes.append(note_of(saved))
            except ValueError as exc:
                self._session.say(f"A note of the rig can't be used: {exc}.", wrong=True)
        told = tuple(notes)
        self._tuning = told  # the newest answer counts
        if not told:
            self._session.rig.set_notes(told)
            return

        def done(found: TackleCalibration) -> None:
            if self._tuning is told:
                self._session.rig.set_calibration(found)

        self._session.jobs.start("Tuning the tackle", lambda progress: calibrate(told), done)

    def _lay_ground(self) -> None:
        """What the boat goes over: the lane or line on the chart, else the open pass."""
        drawn = self._session.chart.drawn
        if drawn is not None:
            chart = self._session.chart.chart
            start = None if chart is None else chart.plane.place(*drawn.line[0])
            self._session.lines.set_ground(ground_of_lane(drawn, self._session.conditions.level_m, start))
        else:
            self._session.lines.set_ground(ground_of_pass(self._session.scan))
            self._boat_follows()

    def _boat_follows(self) -> None:
        """Over an open pass the boat is where the cursor is."""
        if self._session.lines.ground.of_pass and self._session.scan.lead is not None:
            self._session.lines.set_boat(self._session.lines.ground.at_time(self._session.scan.time))

    def _scale_moved(self) -> None:
        """A picture that is only moved along leaves the column as it is."""
        scale = (self._session.scan.view.top_m, self._session.scan.view.base_m)
        if scale != self._scale:
            self._scale = scale
            self._session.column_changed.emit()

    def _follow_sun(self) -> None:
        """Day, dusk and night as the sun stands over this water now."""
        session = self._session
        place = session.water.place
        if not session.display.by_hour or place is None:
            return
        up = sun_elevation_deg(place, time.time())
        session.display.set_light(Light.DAY if up > _DAY_DEG else Light.NIGHT if up < _NIGHT_DEG else Light.DUSK)

    def _sounder(self) -> str:
        """What tells one sounder from another, as far as recordings say."""
        lead = self._session.scan.lead
        width = getattr(lead, "beam_width_deg", 0.0)
        return "" if lead is None else f"gain/{lead.frequency_hz / 1e3:.0f} kHz {width:.0f} deg"

    def _recall_gain(self) -> None:
        """How much brighter than usual this sounder was wanted last time."""
        key = self._sounder()
        self._session.scan.set_gain(number_of(self._session.settings, key, 0.0, -24.0, 24.0) if key else 0.0)

    def _keep_gain(self) -> None:
        key = self._sounder()
        if key:
            self._session.settings.setValue(key, self._session.scan.gain_db)
