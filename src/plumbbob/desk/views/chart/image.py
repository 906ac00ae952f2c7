"""The picture of a water: where places are on screen; depths and contours, rendered once for each view of them."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, QTimer
from PySide6.QtGui import (
    QColor,
    QImage,
    QPainter,
    QPainterPath,
    QPen,
    QPolygonF,
    QResizeEvent,
    QShowEvent,
    QTransform,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from plumbbob.core.chart.contours import Contour
from plumbbob.core.types import Progress
from plumbbob.core.units import Kind
from plumbbob.desk.kit.paint import round_steps
from plumbbob.desk.kit.painted import Painted
from plumbbob.desk.kit.tags import Tags
from plumbbob.desk.models.chart_model import ChartViewport, Tool
from plumbbob.desk.models.session import Session
from plumbbob.desk.views.chart.graticule import label_spots, paint_labels
from plumbbob.desk.views.chart.raster import ChartRaster, Palette, Sampled, colour, nearest
from plumbbob.desk.views.chart.swath import Swaths

if TYPE_CHECKING:
    from plumbbob.core.chart.build import Chart

_REST_MS = 160
_SHARPEN_MS = 90
_MOST_PIXELS = 1_600_000


class ChartImage(Painted):
    """Needs the session; renders depths, contours and their figures."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("chart")
        self._session = session
        self._raster: ChartRaster | None = None
        self._palette: Palette | None = None
        self.sampled: Sampled | None = None  # the three layers kept between two pictures
        self.rendered: QImage | None = None
        self._dragging = False
        self._stale = False
        self._contours: tuple[Contour, ...] = ()
        self.lines: QImage | None = None
        self._pressed: QPointF | None = None
        self._last: QPointF | None = None
        self._rubber: tuple[QPointF, QPointF] | None = None
        self._swaths = Swaths(session)
        self._tags = Tags(QRectF())  # the words of the picture being painted
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
        session.seen.changed.connect(self.update)
        session.rig.window_changed.connect(self._moved)
        session.conditions.changed.connect(self._day_changed)
        session.display.changed.connect(self._themed)
        for signal in (
            chart.cursor_changed,
            chart.drawn_changed,
            chart.swaths_changed,
            session.spots.changed,
            session.spots.chosen_changed,
            session.logbook.changed,
            session.logbook.chosen_changed,
        ):
            signal.connect(self.update)
        chart.tool_changed.connect(self._tool_changed)
        self._level = session.conditions.level_m
        self._units = session.display.units

    def sizeHint(self) -> QSize:
        """A comfortable picture."""
        return QSize(840, 560)

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
            deepest = self._raster.deepest + max(self._session.conditions.level_m, 0.0)
            self._palette = Palette(self._session.display.theme, deepest)
        if self._session.display.units != self._units:
            self._units = self._session.display.units
            self._rest.start()
        self._view_changed()

    def _view_changed(self) -> None:
        self.sampled = None
        self.lines = None
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
        self.rendered = None
        self.update()

    def _day_changed(self) -> None:
        if self._session.conditions.level_m != self._level:
            self._level = self._session.conditions.level_m
            self.lines = None
            self._contours = ()
            self._rest.start()
        self._moved()

    def _tool_changed(self) -> None:
        moves = self._session.chart.tool is Tool.MOVE
        self.setCursor(Qt.CursorShape.CrossCursor if not moves else Qt.CursorShape.ArrowCursor)
        self._rubber = None
        self.update()

    def contour_levels(self) -> tuple[float, list[float]]:
        """Step, and depths at datum of today's contours: round in the unit on screen."""
        chart, display = self._session.chart.chart, self._session.display
        if chart is None:
            return 1.0, []
        deepest = chart.deepest_m + self._session.conditions.level_m
        step = round_steps(max(deepest, 1.0), Kind.DEPTH, display.system_of(Kind.DEPTH), 22)
        return step, [k * step - self._session.conditions.level_m for k in range(1, int(deepest / step) + 1)]

    def _ask_contours(self) -> None:
        chart = self._session.chart.chart
        if chart is None or not self.isVisible():
            return
        _, levels = self.contour_levels()

        def work(progress: Progress) -> tuple[Chart, tuple[Contour, ...]]:
            from plumbbob.core.chart.contours import Contour, contours, simplified

            found = contours(chart.grid.frame, chart.grid.depth_m, levels, progress=progress)
            near = 0.25 * chart.grid.frame.cell_m
            return chart, tuple(Contour(c.depth_m, tuple(simplified(line, near) for line in c.lines)) for c in found)

        self._session.jobs.start("Drawing contours", work, self._take_contours, brief=True)

    def _take_contours(self, result: tuple[Chart, tuple[Contour, ...]]) -> None:
        if result[0] is self._session.chart.chart:
            self._contours = result[1]
            self.lines = None
            self.update()

    @property
    def contours(self) -> tuple[Contour, ...]:
        """The contours on screen."""
        return self._contours

    @property
    def is_settled(self) -> bool:
        """Sharp, and with the contours of the view."""
        return not (self._rest.isActive() or self._sharpen.isActive())

    def at(self, x: float, y: float) -> QPointF:
        """Pixel of a place on the plane."""
        v = self._session.chart.view
        return QPointF(self.width() / 2 + (x - v.x) / v.m_per_px, self.height() / 2 - (y - v.y) / v.m_per_px)

    def place_at(self, at: QPointF) -> tuple[float, float]:
        """Easting and northing of a pixel."""
        v = self._session.chart.view
        return v.x + (at.x() - self.width() / 2) * v.m_per_px, v.y - (at.y() - self.height() / 2) * v.m_per_px

    def _render(self) -> QImage:
        session = self._session
        assert self._raster is not None
        assert self._palette is not None
        if self.sampled is None:
            view, fine = session.chart.view, self._fineness()
            width, height = max(round(self.width() * fine), 1), max(round(self.height() * fine), 1)
            finer = replace(view, m_per_px=view.m_per_px * self.width() / width)
            self.sampled = self._raster.sample(finer, width, height, session.chart.shown)
        sampled = self.sampled.every(2) if self._dragging else self.sampled
        pixels = colour(
            sampled,
            self._palette,
            level_m=session.conditions.level_m,
            window=session.rig.window,
            layer=session.conditions.layer_plane,
            windward=self._windward(2 if self._dragging else 1),
            shown=session.chart.shown,
        )
        self._pixels = np.ascontiguousarray(pixels)  # the image does not own them
        height, width = pixels.shape
        return QImage(self._pixels.data, width, height, 4 * width, QImage.Format.Format_RGB32)

    def _fineness(self) -> float:
        """Pixels rendered for each point of the window: all that the screen has, as far as that takes no time."""
        points = max(self.width() * self.height(), 1)
        return max(min(self.devicePixelRatioF(), math.sqrt(_MOST_PIXELS / points)), 1.0)

    def _windward(self, step: int) -> np.ndarray | None:
        """Pixels with much open water upwind: the banks that the wind blows onto."""
        day, sampled = self._session.conditions, self.sampled
        if day.fetch is None or day.fetch_frame is None or sampled is None or day.wind_mps < 2.0:
            return None
        if self._blown is None or self._blown[0] is not day.fetch or self._blown[1] is not sampled:
            from scipy import ndimage  # slow to load

            r, c = nearest(day.fetch_frame, sampled.x, sampled.y)
            # a few cells broader, to reach over to the land
            far = ndimage.binary_dilation(day.fetch > 0.45 * day.fetch.max(), iterations=2)
            self._blown = (day.fetch, sampled, far[r[:, None], c[None, :]])
        return self._blown[2][::step, ::step]

    def _transform(self) -> QTransform:
        v = self._session.chart.view
        s = 1.0 / v.m_per_px
        return QTransform(s, 0, 0, -s, self.width() / 2 - v.x * s, self.height() / 2 + v.y * s)

    def _render_lines(self) -> QImage:
        """Contours and their figures on a sheet of their own: they only change with the view."""
        sharp = self.devicePixelRatioF()
        size = QSize(max(round(self.width() * sharp), 1), max(round(self.height() * sharp), 1))
        image = QImage(size, QImage.Format.Format_ARGB32_Premultiplied)
        image.setDevicePixelRatio(sharp)
        image.fill(Qt.GlobalColor.transparent)
        if not self._contours:
            return image
        display, v = self._session.display, self._session.chart.view
        theme = display.theme
        painter = QPainter(image)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        west, south = self.place_at(QPointF(0, self.height()))
        east, north = self.place_at(QPointF(self.width(), 0))
        step, _ = self.contour_levels()
        level = self._session.conditions.level_m
        transform = self._transform()
        labels: list[tuple[QPointF, float, str]] = []
        dense = self._crowded(v)
        round_off = self._raster is not None and v.m_per_px < 0.5 * self._raster.chart.grid.frame.cell_m
        for contour in self._contours:
            number = round((contour.depth_m + level) / step)
            index = number % 5 == 0
            if dense and not index:
                continue
            colour = QColor(theme.muted if self._session.display.theme.light.value != "day" else theme.ink)
            colour.setAlpha(150 if index else 80)
            painter.setPen(QPen(colour, 1.3 if index else 0.8))
            path = QPainterPath()
            for line in contour.lines:
                low, high = line.min(axis=0), line.max(axis=0)
                if high[0] < west or low[0] > east or high[1] < south or low[1] > north:
                    continue
                if max(high[0] - low[0], high[1] - low[1]) < 5 * v.m_per_px:
                    continue
                points = transform.map(QPolygonF([QPointF(x, y) for x, y in line.tolist()]))
                if round_off:
                    _add_rounded(path, points)
                else:
                    path.addPolygon(points)
                if index and len(labels) < 60:
                    text = f"{display.shown(number * step, Kind.DEPTH):.10g}"
                    labels += [(p, a, text) for p, a in label_spots(self, line)]
            painter.drawPath(path)
        paint_labels(painter, self._session.display, labels)
        painter.end()
        return image

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Another size: sample anew."""
        self._session.chart.set_size(self.width(), self.height())
        self._view_changed()

    def _crowded(self, view: ChartViewport) -> bool:
        """So far out that every contour would be a smear."""
        chart = self._session.chart.chart
        return chart is not None and view.m_per_px > 20.0


def _add_rounded(path: QPainterPath, points: QPolygonF) -> None:
    """A line with its corners rounded off: from so near, the cells that it was drawn through would be seen."""
    path.moveTo(points.first())
    for k in range(1, points.size() - 1):
        corner, after = points.at(k), points.at(k + 1)
        path.quadTo(corner, (corner + after) / 2)
    path.lineTo(points.last())
