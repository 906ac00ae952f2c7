"""The picture of a water: depths, window, contours and their figures, marks, passes, places, what was drawn."""

from __future__ import annotations

import math

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, QTimer
from PySide6.QtGui import (
    QColor,
    QFontMetricsF,
    QImage,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPen,
    QPolygonF,
    QResizeEvent,
    QShowEvent,
    QTransform,
    QWheelEvent,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from plumbbob.core.chart.contours import Contour
from plumbbob.core.units import Kind, to_shown
from plumbbob.desk.kit.paint import bead, font, pen, round_steps, shade, text_box
from plumbbob.desk.kit.painted import Painted
from plumbbob.desk.models.chart_model import ChartView, Tool
from plumbbob.desk.models.session import Session
from plumbbob.desk.views.chart.graticule import Graticule, label_spots, paint_labels
from plumbbob.desk.views.chart.raster import ChartRaster, Palette, Sampled, colour, nearest
from plumbbob.desk.views.chart.swath import Swaths
from plumbbob.desk.views.chart.words import cursor_lines, place_title

_PICK_PX = 14.0
_REST_MS = 160
_SHARPEN_MS = 90
_MOST_PLACES = 8


class ChartPicture(Painted):
    """Needs the session; draws the chart and lets one move over it, pick, and draw a line."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("chart")
        self._session = session
        self._raster: ChartRaster | None = None
        self._palette: Palette | None = None
        self._sampled: Sampled | None = None
        self._image: QImage | None = None
        self._dragging = False
        self._stale = False
        self._contours: tuple[Contour, ...] = ()
        self._lines: QImage | None = None
        self._pressed: QPointF | None = None
        self._last: QPointF | None = None
        self._rubber: tuple[QPointF, QPointF] | None = None
        self._swaths = Swaths(session)
        self._blown: tuple[np.ndarray, Sampled, np.ndarray] | None = None
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(_REST_MS)
        self._rest.timeout.connect(self._ask_contours)
        self._sharpen = QTimer(self)
        self._sharpen.setSingleShot(True)
        self._sharpen.setInterval(_SHARPEN_MS)
        self._sharpen.timeout.connect(self._sharp_again)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        chart = session.chart
        chart.opened.connect(self._opened)
        chart.view_changed.connect(self._view_changed)
        chart.shown_changed.connect(self._view_changed)
        session.scan.cursor_changed.connect(self.update)
        session.rig.window_changed.connect(self._moved)
        session.day.changed.connect(self._day_changed)
        session.look.changed.connect(self._themed)
        for signal in (
            chart.cursor_changed,
            chart.drawn_changed,
            chart.swaths_changed,
            session.places.changed,
            session.places.chosen_changed,
            session.logbook.changed,
            session.logbook.chosen_changed,
        ):
            signal.connect(self.update)
        chart.tool_changed.connect(self._tool_changed)
        self._level = session.day.level_m
        self._system = session.look.system

    def sizeHint(self) -> QSize:
        """A comfortable picture."""
        return QSize(840, 560)

    # -- what is stale when -------------------------------------------------------------------------------------

    def _opened(self) -> None:
        """Another chart: taken up at once where it is seen, else when it is shown."""
        self._contours = ()
        self._stale = not self.isVisible()
        if self._stale:
            return
        chart = self._session.chart.chart
        self._raster = None if chart is None else ChartRaster(chart, self._session.chart.slope)
        self._themed()
        self._rest.start()

    def showEvent(self, event: QShowEvent) -> None:
        """Take up what changed while nobody looked."""
        super().showEvent(event)
        if self._stale:
            self._opened()
        elif not self._contours and self._raster is not None:
            self._rest.start()

    def _themed(self) -> None:
        if self._raster is not None:
            deepest = self._raster.deepest + max(self._session.day.level_m, 0.0)
            self._palette = Palette(self._session.look.theme, deepest)
        if self._session.look.system is not self._system:
            self._system = self._session.look.system
            self._rest.start()
        self._view_changed()

    def _view_changed(self) -> None:
        self._sampled = None
        self._lines = None
        self._recolour()

    def _moved(self) -> None:
        """Window, level or wind follow a hand: coarse at once, sharp when it rests."""
        self._dragging = self._sharpen.isActive()
        self._sharpen.start()
        self._recolour()

    def _sharp_again(self) -> None:
        if self._dragging:
            self._dragging = False
            self._recolour()

    def _recolour(self) -> None:
        self._image = None
        self.update()

    def _day_changed(self) -> None:
        if self._session.day.level_m != self._level:
            self._level = self._session.day.level_m
            self._lines = None
            self._contours = ()
            self._rest.start()
        self._moved()

    def _tool_changed(self) -> None:
        line = self._session.chart.tool is Tool.LINE
        self.setCursor(Qt.CursorShape.CrossCursor if line else Qt.CursorShape.ArrowCursor)
        self._rubber = None
        self.update()

    def contour_levels(self) -> tuple[float, list[float]]:
        """Step, and depths at datum of today's contours: round in the unit on screen."""
        chart, look = self._session.chart.chart, self._session.look
        if chart is None:
            return 1.0, []
        deepest = chart.deepest_m + self._session.day.level_m
        step = round_steps(max(deepest, 1.0), Kind.DEPTH, look.system, 22)
        return step, [k * step - self._session.day.level_m for k in range(1, int(deepest / step) + 1)]

    def _ask_contours(self) -> None:
        chart = self._session.chart.chart
        if chart is None or not self.isVisible():
            return
        _, levels = self.contour_levels()

        def work(progress):  # type: ignore[no-untyped-def]
            from plumbbob.core.chart.contours import Contour, contours, simplified

            found = contours(chart.grid.frame, chart.grid.depth_m, levels, progress=progress)
            near = 0.25 * chart.grid.frame.cell_m
            return chart, tuple(Contour(c.depth_m, tuple(simplified(line, near) for line in c.lines)) for c in found)

        self._session.jobs.start("Drawing contours", work, self._take_contours, brief=True)

    def _take_contours(self, result) -> None:  # type: ignore[no-untyped-def]
        if result[0] is self._session.chart.chart:
            self._contours = result[1]
            self._lines = None
            self.update()

    @property
    def contours(self) -> tuple[Contour, ...]:
        """The contours on screen."""
        return self._contours

    # -- places on screen ---------------------------------------------------------------------------------------

    def at(self, x: float, y: float) -> QPointF:
        """Pixel of a place on the plane."""
        v = self._session.chart.view
        return QPointF(self.width() / 2 + (x - v.x) / v.m_per_px, self.height() / 2 - (y - v.y) / v.m_per_px)

    def place_at(self, at: QPointF) -> tuple[float, float]:
        """Easting and northing of a pixel."""
        v = self._session.chart.view
        return v.x + (at.x() - self.width() / 2) * v.m_per_px, v.y - (at.y() - self.height() / 2) * v.m_per_px

    # -- painting -----------------------------------------------------------------------------------------------

    def paint(self, painter: QPainter) -> None:
        """Pixels from the cached picture, lines over them, then what is chosen."""
        theme = self._session.look.theme
        painter.fillRect(self.rect(), QColor(theme.ground))
        if self._raster is None or self._palette is None:
            self._paint_nothing(painter)
            return
        if self._image is None:
            self._image = self._render()
        painter.drawImage(self.rect(), self._image)
        self._swaths.paint(painter, self.at)
        if self._lines is None:
            self._lines = self._render_lines()
        painter.drawImage(0, 0, self._lines)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint_tracks(painter)
        self._paint_features(painter)
        self._paint_drawn(painter)
        self._paint_marks(painter)
        self._paint_places(painter)
        self._paint_boat(painter)
        self._paint_cursor(painter)
        Graticule(session=self._session, picture=self).paint(painter)

    def _paint_boat(self, painter: QPainter) -> None:
        """Where the ping under the echogram's cursor was taken, with the width of the beam's foot to scale."""
        session = self._session
        chart, boat = session.chart.chart, session.scan.boat_place()
        if chart is None or boat is None:
            return
        x, y = chart.plane.to_xy(boat.latitude, boat.longitude)
        at, theme = self.at(float(x), float(y)), session.look.theme
        foot = session.scan.footprint_m / 2 / session.chart.view.m_per_px
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(pen(theme.ground, 4.0, alpha=200))
        painter.drawEllipse(at, 6.0, 6.0)
        painter.setPen(pen(theme.vermilion, 2.0))
        painter.drawEllipse(at, 6.0, 6.0)
        if foot > 8:
            painter.drawEllipse(at, foot, foot)

    def _render(self) -> QImage:
        session = self._session
        assert self._raster is not None
        assert self._palette is not None
        width, height = max(self.width(), 1), max(self.height(), 1)
        if self._sampled is None:
            self._sampled = self._raster.sample(session.chart.view, width, height, session.chart.shown)
        sampled = self._sampled.every(2) if self._dragging else self._sampled
        pixels = colour(
            sampled,
            self._palette,
            level_m=session.day.level_m,
            window=session.rig.window,
            layer=session.day.layer_plane,
            windward=self._windward(2 if self._dragging else 1),
            shown=session.chart.shown,
        )
        self._pixels = np.ascontiguousarray(pixels)  # the image does not own them
        height, width = pixels.shape
        return QImage(self._pixels.data, width, height, 4 * width, QImage.Format.Format_RGB32)

    def _windward(self, step: int) -> np.ndarray | None:
        """Pixels with much open water upwind: the banks that the wind blows onto."""
        day, sampled = self._session.day, self._sampled
        if day.fetch is None or day.fetch_frame is None or sampled is None or day.wind_mps < 2.0:
            return None
        if self._blown is None or self._blown[0] is not day.fetch or self._blown[1] is not sampled:
            from scipy import ndimage  # slow to load

            r, c = nearest(day.fetch_frame, sampled.x, sampled.y)
            # a few cells broader, to reach over to the land
            far = ndimage.binary_dilation(day.fetch > 0.45 * day.fetch.max(), iterations=2)
            self._blown = (day.fetch, sampled, far[r[:, None], c[None, :]])
        return self._blown[2][::step, ::step]

    def _paint_nothing(self, painter: QPainter) -> None:
        look = self._session.look
        painter.setPen(QColor(look.theme.muted_text))
        painter.setFont(font(look.text_size * 1.15))
        busy = bool(self._session.jobs.live)
        text = "Making the chart …" if busy else "No soundings of this water yet.\n\n"
        if not busy:
            text += (
                "Ctrl+I adds soundings or a chart file.  O opens a recording: its bottom becomes soundings by itself."
            )
        painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, text)

    def _transform(self) -> QTransform:
        v = self._session.chart.view
        s = 1.0 / v.m_per_px
        return QTransform(s, 0, 0, -s, self.width() / 2 - v.x * s, self.height() / 2 + v.y * s)

    def _render_lines(self) -> QImage:
        """Contours and their figures on a sheet of their own: they only change with the view."""
        image = QImage(max(self.width(), 1), max(self.height(), 1), QImage.Format.Format_ARGB32_Premultiplied)
        image.fill(Qt.GlobalColor.transparent)
        if not self._contours:
            return image
        look, v = self._session.look, self._session.chart.view
        theme = look.theme
        painter = QPainter(image)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        west, south = self.place_at(QPointF(0, self.height()))
        east, north = self.place_at(QPointF(self.width(), 0))
        step, _ = self.contour_levels()
        level = self._session.day.level_m
        transform = self._transform()
        labels: list[tuple[QPointF, float, str]] = []
        dense = self._crowded(v)
        for contour in self._contours:
            number = round((contour.depth_m + level) / step)
            index = number % 5 == 0
            if dense and not index:
                continue
            colour = QColor(theme.muted if self._session.look.theme.light.value != "day" else theme.ink)
            colour.setAlpha(150 if index else 80)
            painter.setPen(QPen(colour, 1.3 if index else 0.8))
            path = QPainterPath()
            for line in contour.lines:
                low, high = line.min(axis=0), line.max(axis=0)
                if high[0] < west or low[0] > east or high[1] < south or low[1] > north:
                    continue
                if max(high[0] - low[0], high[1] - low[1]) < 5 * v.m_per_px:
                    continue
                points = [QPointF(x, y) for x, y in line.tolist()]
                path.addPolygon(transform.map(QPolygonF(points)))
                if index and len(labels) < 60:
                    text = f"{to_shown(number * step, Kind.DEPTH, look.system):.10g}"
                    labels += [(p, a, text) for p, a in label_spots(self, line)]
            painter.drawPath(path)
        paint_labels(painter, self._session.look, labels)
        painter.end()
        return image

    def _crowded(self, view: ChartView) -> bool:
        """So far out that every contour would be a smear."""
        chart = self._session.chart.chart
        return chart is not None and view.m_per_px > 20.0

    def _paint_tracks(self, painter: QPainter) -> None:
        theme, scan = self._session.look.theme, self._session.scan
        for track in self._session.chart.tracks:
            points = QPolygonF([self.at(x, y) for x, y in track.line.tolist()])
            mine = scan.recording is not None and scan.recording.name == track.name
            painter.setPen(pen(theme.vermilion, 1.8 if mine else 1.0, alpha=220))
            painter.drawPolyline(points)
            if points.size():
                painter.setFont(font(self._session.look.text_size * 0.8))
                painter.setPen(QColor(theme.vermilion_text))
                painter.drawText(points.at(points.size() - 1) + QPointF(6, -4), "pass")

    def _paint_features(self, painter: QPainter) -> None:
        """The chosen place's own outline, roads and channels' bends."""
        theme = self._session.look.theme
        chart, chosen = self._session.chart.chart, self._session.places.chosen
        if chart is None:
            return
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for feature in chart.features:
            if feature.kind == "road":
                painter.setPen(pen(theme.brass, 1.6, alpha=190, style=Qt.PenStyle.DashLine))
                painter.drawPolyline(QPolygonF([self.at(x, y) for x, y in feature.shape.tolist()]))
        if chosen is not None and len(chosen.feature.shape):
            painter.setPen(pen(theme.vermilion, 1.6, style=Qt.PenStyle.DotLine))
            painter.drawPolyline(QPolygonF([self.at(x, y) for x, y in chosen.feature.shape.tolist()]))
        for x, y in chart.hazards:
            bead(painter, self.at(x, y), 5.0, theme.vermilion, kind="hazard")

    def _paint_drawn(self, painter: QPainter) -> None:
        theme, chart = self._session.look.theme, self._session.chart
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if chart.drawn is not None:
            lane = chart.drawn.lane is not None
            painter.setPen(pen(theme.ink if not lane else theme.brass, 2.2))
            painter.drawPolyline(QPolygonF([self.at(x, y) for x, y in chart.drawn.line.tolist()]))
            if chart.drawn.wait is not None:
                wait = self.at(*chart.drawn.wait)
                bead(painter, wait, 7.0, theme.vermilion, kind="place")
                painter.setFont(font(self._session.look.text_size, bold=True))
                painter.setPen(QColor(theme.vermilion_text))
                painter.drawText(wait + QPointF(11, -6), "wait here")
        if chart.holes is not None:
            v = chart.view
            points = [self.at(x, y) for x, y in chart.holes.places.tolist()]
            painter.setPen(pen(theme.teal, 1.0, style=Qt.PenStyle.DotLine))
            painter.drawPolyline(QPolygonF(points))
            radius = chart.holes.footprint_m / 2 / v.m_per_px
            for i, at in enumerate(points):
                painter.setPen(pen(theme.teal, 1.2))
                painter.drawEllipse(at, radius, radius)
                painter.setFont(font(self._session.look.text_size * 0.8, bold=True))
                painter.setPen(QColor(theme.teal_text))
                painter.drawText(at + QPointF(-4, 4), str(i + 1))
        if self._rubber is not None:
            a, b = self._rubber
            painter.setPen(pen(theme.ink, 1.6, style=Qt.PenStyle.DashLine))
            painter.drawLine(a, b)

    def _paint_marks(self, painter: QPainter) -> None:
        """Bead marks: a stroke from surface to bottom with a bead at the relative depth of what was seen."""
        session = self._session
        chart, theme = session.chart.chart, session.look.theme
        if chart is None or not session.logbook.marks:
            return
        caught: dict[int, int] = {}
        for c in session.logbook.catches:
            caught[c.mark_id] = caught.get(c.mark_id, 0) + 1
        chosen = session.logbook.chosen
        painter.setFont(font(session.look.text_size * 0.8, bold=True))
        for mark in session.logbook.marks:
            x, y = chart.plane.to_xy(mark.latitude, mark.longitude)
            foot = self.at(float(x), float(y))
            if not self.rect().adjusted(-40, -40, 40, 40).contains(foot.toPoint()):
                continue
            number = caught.get(mark.id, 0)
            colour = theme.brass if number else theme.ink
            tall = 26.0
            top = QPointF(foot.x(), foot.y() - tall)
            painter.setPen(pen(theme.ground, 4.0, alpha=150))
            painter.drawLine(top, foot)
            painter.setPen(pen(colour, 2.4 if chosen is not None and mark.id == chosen.id else 1.5))
            painter.drawLine(top, foot)
            painter.drawLine(QPointF(foot.x() - 4, foot.y()), QPointF(foot.x() + 4, foot.y()))
            share = 1.0
            if mark.depth_m is not None and mark.bottom_depth_m:
                share = min(max(mark.depth_m / mark.bottom_depth_m, 0.0), 1.0)
            bead(painter, QPointF(foot.x(), top.y() + share * tall), 3.6, colour, kind=mark.kind.value)
            if session.chart.view.m_per_px < 2.5:
                painter.setPen(QColor(theme.ink))
                painter.drawText(QPointF(foot.x() + 7, foot.y() - 8), f"{number}/{mark.seen}")

    def _paint_places(self, painter: QPainter) -> None:
        session = self._session
        look, theme = session.look, session.look.theme
        plain = font(look.text_size * 0.85, bold=True)
        metrics = QFontMetricsF(plain)
        taken: list[QRectF] = []
        ranked = list(enumerate(session.places.places[:_MOST_PLACES], 1))
        chosen = session.places.chosen
        if chosen is not None and all(p is not chosen for _, p in ranked):
            ranked.append((0, chosen))
        # the chosen one last, so that it lies on top
        for number, place in sorted(ranked, key=lambda item: item[1] is chosen):
            at = self.at(place.feature.x, place.feature.y)
            if not self.rect().contains(at.toPoint()):
                continue
            mine = place is chosen
            painter.setPen(pen(theme.vermilion, 2.6 if mine else 1.8))
            r = 7.0 if mine else 5.0
            painter.drawLine(at - QPointF(r, 0), at + QPointF(r, 0))
            painter.drawLine(at - QPointF(0, r), at + QPointF(0, r))
            text = (
                f"{number}  {place_title(look, place.feature, session.day.level_m)}" if number else place.feature.kind
            )
            box = QRectF(at.x() + 10, at.y() - 11, metrics.horizontalAdvance(text) + 12, 20)
            if box.right() > self.width() - 4:
                box.moveRight(at.x() - 10)
            if not mine and any(box.intersects(t) for t in taken):
                text = str(number)
                box = QRectF(at.x() + 10, at.y() - 11, metrics.horizontalAdvance(text) + 12, 20)
                if any(box.intersects(t) for t in taken):
                    continue
            taken.append(box)
            painter.setPen(pen(theme.vermilion) if mine else Qt.PenStyle.NoPen)
            painter.setBrush(shade(theme.panel, 235 if mine else 205))
            painter.drawRoundedRect(box, 3, 3)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setFont(plain)
            painter.setPen(QColor(theme.ink))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)

    def _paint_cursor(self, painter: QPainter) -> None:
        session = self._session
        cursor, look = session.chart.cursor, session.look
        theme = look.theme
        if cursor is None:
            return
        at = self.at(*cursor)
        painter.setPen(pen(theme.ink, 1.2, alpha=220))
        painter.drawLine(at - QPointF(9, 0), at - QPointF(3, 0))
        painter.drawLine(at + QPointF(3, 0), at + QPointF(9, 0))
        painter.drawLine(at - QPointF(0, 9), at - QPointF(0, 3))
        painter.drawLine(at + QPointF(0, 3), at + QPointF(0, 9))
        if not self.underMouse() or (session.places.chosen is not None and self._near_chosen(at)):
            return
        strong, plain = font(look.text_size * 1.1, bold=True), font(look.text_size * 0.95)
        lines = cursor_lines(session)
        shown = [(lines[0], strong, theme.ink)] + [(t, plain, theme.muted_text) for t in lines[1:]]
        text_box(painter, shown, at, QRectF(self.rect()), theme.panel, theme.rule)

    def _near_chosen(self, at: QPointF) -> bool:
        chosen = self._session.places.chosen
        if chosen is None:
            return False
        spot = self.at(chosen.feature.x, chosen.feature.y)
        return math.hypot(spot.x() - at.x(), spot.y() - at.y()) < 12

    # -- hands --------------------------------------------------------------------------------------------------

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Another size: sample anew."""
        self._session.chart.set_size(self.width(), self.height())
        self._view_changed()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Start of a click, a move, or a line."""
        if event.button() == Qt.MouseButton.LeftButton and self._raster is not None:
            self._pressed = self._last = event.position()
            if self._session.chart.tool is Tool.LINE:
                self._rubber = (event.position(), event.position())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Move the cursor, or the chart under a pressed button."""
        at = event.position()
        if self._raster is None:
            return
        if self._rubber is not None:
            self._rubber = (self._rubber[0], at)
            self._draw_line()
            self.update()
        elif self._last is not None and self._pressed is not None:
            moved = at - self._pressed
            if math.hypot(moved.x(), moved.y()) > 4:
                step = self._last - at
                self._session.chart.pan(step.x(), step.y())
            self._last = at
        self._session.chart.set_cursor(*self.place_at(at))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """A click picks; a line is done."""
        pressed, self._pressed, self._last = self._pressed, None, None
        if self._rubber is not None:
            self._draw_line()
            self._rubber = None
            self._session.chart.set_tool(Tool.MOVE)
            self.update()
            return
        if pressed is not None and event.button() == Qt.MouseButton.LeftButton:
            moved = event.position() - pressed
            if math.hypot(moved.x(), moved.y()) <= 4:
                self._pick(event.position())

    def _draw_line(self) -> None:
        assert self._rubber is not None
        chart = self._session.chart
        drawn = chart.line_across(self.place_at(self._rubber[0]), self.place_at(self._rubber[1]))
        if drawn is not None:
            chart.set_drawn(drawn)

    def _pick(self, at: QPointF) -> None:
        session = self._session
        chart = session.chart.chart
        if chart is None:
            return

        def near(x: float, y: float) -> float:
            spot = self.at(x, y)
            return math.hypot(spot.x() - at.x(), spot.y() - at.y())

        places = session.places.places[:_MOST_PLACES]
        best = min(places, key=lambda p: near(p.feature.x, p.feature.y), default=None)
        if best is not None and near(best.feature.x, best.feature.y) <= _PICK_PX:
            session.places.choose(best)
            return
        for mark in session.logbook.marks:
            x, y = chart.plane.to_xy(mark.latitude, mark.longitude)
            if near(float(x), float(y) + 13 * session.chart.view.m_per_px) <= _PICK_PX + 6:
                session.logbook.choose(mark.id)
                return
        if not session.view.points_on_chart:
            # beside the echogram the chart leads to the ping nearest to a place
            session.scan.go_to_place(chart.plane.place(*self.place_at(at)))
            return
        for track in session.chart.tracks:
            away = [near(x, y) for x, y in track.line[::2].tolist()]
            if away and min(away) <= _PICK_PX * 0.7:
                session.open_pass(track.name, self.place_at(at))
                return
        session.places.choose(None)
        session.chart.set_cursor(*self.place_at(at))

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Zoom about the mouse."""
        if self._raster is not None and event.angleDelta().y():
            self._session.chart.zoom(0.9985 ** event.angleDelta().y(), self.place_at(event.position()))
