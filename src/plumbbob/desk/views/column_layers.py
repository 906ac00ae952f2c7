"""The column of water as painted: layer, light, fish and bait seen, temperature, comfort, bottom, scale, bobs."""

from __future__ import annotations

import math

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import (
    QColor,
    QFontMetricsF,
    QImage,
    QLinearGradient,
    QPainter,
    QPolygonF,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from plumbbob.core.rig.rod import RigAnswer
from plumbbob.core.sonar.evidence import Evidence, Rates, rates
from plumbbob.core.units import Kind
from plumbbob.core.water.light import depth_of_share
from plumbbob.desk.kit.paint import bob_path, depth_ticks, font, pen, shade, sharp_image
from plumbbob.desk.kit.painted import Painted
from plumbbob.desk.kit.plot import Axis
from plumbbob.desk.kit.tags import Tags
from plumbbob.desk.models.column import Column
from plumbbob.desk.models.session import Session

LINE_X = 66.0  # the line itself
BAND_X = 24.0  # the depth window's bracket


class ColumnLayers(Painted):
    """Needs the session. Its depth scale is the picture's beside it."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("plumbline")
        self._session = session
        self._drag = ""
        self._seen: tuple[Evidence, Rates] | None = None
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Expanding)
        self._column: Column | None = None
        self._drawn: tuple[tuple[object, object], tuple[object, ...], QImage] | None = None
        session.column_changed.connect(self._moved)

    def sizeHint(self) -> QSize:
        """A column."""
        return QSize(212, 500)

    def _moved(self) -> None:
        self._column = None
        self.update()

    @property
    def column(self) -> Column:
        """What hangs here, worked out once for every change."""
        if self._column is None:
            self._column = self._session.view.column
        return self._column

    @property
    def depths(self) -> Axis:
        """Its scale of depths."""
        return Axis(self.column.top_m, self.column.base_m, 0.0, self.height())

    def y_of(self, depth_m: float) -> float:
        """Pixel row of a depth: the same as in the picture."""
        return self.depths.px(depth_m)

    def depth_at(self, y: float) -> float:
        """Depth of a pixel row."""
        return self.depths.value(y)

    def paint(self, painter: QPainter) -> None:
        """The column of water as rendered; over it the window and the bobs."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.drawImage(0, 0, self._water(self.devicePixelRatioF()))
        if self.column.live:
            self._paint_window(painter)
            self._paint_bob(painter)

    def _water(self, sharp: float) -> QImage:
        """What hangs in the water: drawn anew where something in it has changed, not for every place of the bob."""
        session = self._session
        day, display = session.conditions, session.display
        seen = (day.secchi_m, day.comfort, day.species, day.profile, session.scan.evidence)
        surface = None if day.profile is not None else self._surface_temperature()
        key = (self.width(), self.height(), sharp, display.theme, display.units, display.text_size, surface)
        if (
            self._drawn is None
            or self._drawn[0] != (key, self.column)
            or any(a is not b for a, b in zip(self._drawn[1], seen, strict=True))
        ):
            image = sharp_image(self, QColor(display.theme.panel))
            painter = QPainter(image)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(pen(display.theme.rule))
            painter.drawLine(0, 0, 0, self.height())
            if self.column.live:
                self._paint_water(painter)
            painter.end()
            self._drawn = ((key, self.column), seen, image)
        return self._drawn[2]

    def _paint_water(self, painter: QPainter) -> None:
        """Layer, light, histograms, temperature, comfort, bottom, scale."""
        column = self.column
        floor = column.floor_m if math.isfinite(column.floor_m) else column.base_m
        tags = Tags(QRectF(LINE_X + 6, 0, self.width() - LINE_X - 24, self.height()))
        self._paint_layer(painter, floor)
        self._paint_light(painter, floor)
        self._paint_seen(painter, floor)
        self._paint_bottom(painter)
        self._paint_temperature(painter, floor, tags)
        self._paint_comfort(painter, floor, tags)
        self._name_layer(painter, floor, tags)
        self._paint_scale(painter, floor)

    def _paint_layer(self, painter: QPainter, floor: float) -> None:
        layer, theme = self.column.layer, self._session.display.theme
        if layer is None or layer[0] > floor:
            return
        top, base = self.y_of(layer[0]), self.y_of(min(layer[1], floor))
        painter.fillRect(QRectF(LINE_X - 8, top, self.width() - LINE_X, base - top), shade(theme.teal, 64))

    def _name_layer(self, painter: QPainter, floor: float, tags: Tags) -> None:
        layer, theme = self.column.layer, self._session.display.theme
        if layer is None or layer[0] > floor:
            return
        base = min(self.y_of(min(layer[1], floor)), float(self.height()))
        painter.setFont(font(self._session.display.text_size * 0.78))
        wide = QFontMetricsF(painter.font()).horizontalAdvance("cold layer")
        tags.paint(painter, QPointF(self.width() - wide - 24, base - 6), "cold layer", theme.teal_text, theme.panel)

    def _paint_light(self, painter: QPainter, floor: float) -> None:
        """A strip at the right edge: bright where light is left, down to the depth that keeps a hundredth."""
        theme, secchi = self._session.display.theme, self._session.conditions.secchi_m
        foot = self.y_of(min(floor, depth_of_share(0.01, secchi)))
        fade = QLinearGradient(0.0, self.y_of(0.0), 0.0, foot)
        for share in (1.0, 0.6, 0.3, 0.1, 0.03, 0.01):
            at = min(depth_of_share(share, secchi) / depth_of_share(0.01, secchi), 1.0)
            fade.setColorAt(at, shade(theme.ink, round(120 * share**0.4)))
        painter.fillRect(QRectF(self.width() - 7, self.y_of(0.0), 4, foot - self.y_of(0.0)), fade)

    def _paint_comfort(self, painter: QPainter, floor: float, tags: Tags) -> None:
        """Where the chosen species could be comfortable: a bracket beside the light."""
        found, species = self._session.conditions.comfort, self._session.conditions.species
        if found is None or found.band is None or species is None or found.band[0] > floor:
            return
        display = self._session.display
        theme = display.theme
        top, base = self.y_of(found.band[0]), self.y_of(min(found.band[1], floor))
        x = self.width() - 13.0
        painter.setPen(pen(theme.lichen, 2.0))
        painter.drawPolyline(
            QPolygonF([QPointF(x - 5, top), QPointF(x, top), QPointF(x, base), QPointF(x - 5, base)])
        )
        painter.setFont(font(display.text_size * 0.78))
        name = self._session.display.species(species.name)
        wide = QFontMetricsF(painter.font()).horizontalAdvance(name)
        tags.paint(painter, QPointF(x - 11 - wide, top + 11), name, theme.lichen_text, theme.panel)

    def _paint_seen(self, painter: QPainter, floor: float) -> None:
        """Fish and bait of the day at each depth that this place has, against the water looked at there."""
        scan, theme = self._session.scan, self._session.display.theme
        evidence = scan.evidence
        if not evidence.passes:
            return
        if self._seen is None or self._seen[0] is not evidence:
            self._seen = (evidence, rates(evidence, "depth", 1))
        found = self._seen[1]
        step, room = found.step_m, self.width() - LINE_X - 34
        # where too little was looked at a rate would be loud by chance: it is drawn no higher than the surest
        sure = found.enough & np.isfinite(found.rate)
        top_rate = float(found.rate[sure].max()) if sure.any() else float(np.nanmax(found.rate, initial=0.0))
        for values, most, colour, alpha in (
            (found.bait_share, float(np.nanmax(found.bait_share, initial=0.0)), theme.lichen, 150),
            (found.rate, top_rate, theme.brass, 255),
        ):
            if not most > 0:
                continue
            for k in np.flatnonzero(np.nan_to_num(values) > 0):
                if k * step > floor:
                    break
                top, base = self.y_of(k * step), self.y_of((k + 1) * step)
                length = 4 + (room * 0.62) * min(float(values[k]) / most, 1.0)
                see = alpha if found.enough[k] else alpha // 2
                painter.fillRect(QRectF(LINE_X + 6, top + 1, length, max(base - top - 2, 1.5)), shade(colour, see))

    def _paint_temperature(self, painter: QPainter, floor: float, tags: Tags) -> None:
        session = self._session
        display, theme = session.display, session.display.theme
        left, right = LINE_X + 22, self.width() - 22.0
        painter.setFont(font(display.text_size * 0.78))
        profile = session.profile
        if profile is None:
            surface = self._surface_temperature()
            if surface is not None:
                text = f"{display.words(surface, Kind.TEMPERATURE)} at the surface"
                spot = QPointF(LINE_X + 10, self.y_of(0) + 14)
                tags.paint(painter, spot, text, theme.vermilion_text, theme.panel)
            return
        depth = np.append(profile.depth_m[profile.depth_m < floor], min(floor, float(profile.depth_m[-1])))
        if depth.size > 2 * self.height():  # a logged column has a level every centimetre
            depth = np.linspace(depth[0], depth[-1], max(2 * self.height(), 2))
        warm = np.interp(depth, profile.depth_m, profile.temperature_c)
        low, high = float(profile.temperature_c.min()), float(profile.temperature_c.max())
        x = left + (warm - low) / max(high - low, 0.5) * (right - left)
        painter.setPen(pen(theme.vermilion, 1.8))
        line = [QPointF(float(a), self.y_of(float(d))) for a, d in zip(x, depth, strict=True)]
        painter.drawPolyline(QPolygonF(line))
        metrics = QFontMetricsF(painter.font())
        for i in (0, len(line) - 1):
            text = display.words(float(warm[i]), Kind.TEMPERATURE, 0)
            left_of = line[i].x() - metrics.horizontalAdvance(text) - 6
            spot = QPointF(max(left_of, LINE_X + 10), line[i].y() + (15 if i == 0 else -6))
            tags.paint(painter, spot, text, theme.vermilion_text, theme.panel)

    def _surface_temperature(self) -> float | None:
        recording = self._session.scan.recording
        track = recording.track if recording else None
        if track is None or not np.isfinite(track.temperature_c).any():
            return None
        good = np.isfinite(track.temperature_c)
        return float(np.interp(self._session.scan.time, track.time[good], track.temperature_c[good]))

    def _paint_bottom(self, painter: QPainter) -> None:
        floor, theme = self.column.floor_m, self._session.display.theme
        if not math.isfinite(floor):
            return
        y = self.y_of(floor)
        painter.fillRect(QRectF(1, y, self.width() - 1, self.height() - y), QColor(theme.land))
        painter.setPen(pen(theme.ink, 1.6))
        painter.drawLine(QPointF(1, y), QPointF(self.width(), y))
        painter.setPen(pen(theme.muted, 1.0))
        for x in range(9, self.width() + 6, 9):
            painter.drawLine(QPointF(x, y), QPointF(x - 6, y + 7))

    def _paint_scale(self, painter: QPainter, floor: float) -> None:
        display, v = self._session.display, self.column
        theme = display.theme
        foot = min(self.y_of(floor), float(self.height()))
        painter.setPen(pen(theme.ink, 2.0))
        painter.drawLine(QPointF(LINE_X, max(self.y_of(0), 0)), QPointF(LINE_X, foot))
        painter.setFont(font(display.text_size * 0.9, bold=True))
        metrics = QFontMetricsF(painter.font())
        for depth, text in depth_ticks(v.top_m, v.base_m, display.system_of(Kind.DEPTH), max(self.height() // 62, 2)):
            y = self.y_of(depth)
            if y > foot + 2:
                break
            if depth < -1e-6:  # over the surface there is nothing to measure
                continue
            painter.setPen(pen(theme.ink, 1.4))
            painter.drawLine(QPointF(LINE_X - 5, y), QPointF(LINE_X, y))
            base = min(max(y + metrics.ascent() / 2 - 1, metrics.ascent()), self.height() - 3.0)
            painter.drawText(QPointF(LINE_X - 9 - metrics.horizontalAdvance(text), base), text)

    def _paint_window(self, painter: QPainter) -> None:
        window, theme = self._session.rig.window, self._session.display.theme
        if window is None:
            return
        top, base = (self.y_of(d) for d in window)
        painter.setPen(pen(theme.brass, 2.0))
        for a, b in (
            ((BAND_X, top), (BAND_X, base)),
            ((BAND_X, top), (BAND_X + 9, top)),
            ((BAND_X, base), (BAND_X + 9, base)),
        ):
            painter.drawLine(QPointF(*a), QPointF(*b))

    def _paint_bob(self, painter: QPainter) -> None:
        display, rig = self._session.display, self._session.rig
        theme = display.theme
        y = min(self.y_of(rig.bob_m), self.height() - 13.0)  # one set deeper than there is water hangs at the foot
        text = f"lure {display.words(rig.bob_m, Kind.DEPTH)}"
        if isinstance(rig.answer, RigAnswer):
            text += f" {display.spread(rig.answer.depth_sd_m, Kind.DEPTH)}"
        self._paint_other_bobs(painter)
        painter.setFont(font(display.text_size * 0.95, bold=True))
        metrics = QFontMetricsF(painter.font())
        flag = QRectF(LINE_X + 12, y - 12, metrics.horizontalAdvance(text) + 14, 24)
        flag.moveRight(min(flag.right(), self.width() - 3.0))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(theme.fill))
        painter.drawRoundedRect(flag, 4, 4)
        painter.drawPath(bob_path(QPointF(LINE_X, y + 3), 13))
        painter.setPen(QColor(theme.on_fill))
        painter.drawText(flag, Qt.AlignmentFlag.AlignCenter, text)

    def _paint_other_bobs(self, painter: QPainter) -> None:
        """Where the other rods' lures are to run, by their numbers."""
        display, rig = self._session.display, self._session.rig
        theme = display.theme
        painter.setFont(font(display.text_size * 0.75, bold=True))
        for i, one in enumerate(rig.sets):
            if i != rig.chosen:
                at = QPointF(LINE_X, self.y_of(one.bob_m))
                painter.setPen(pen(theme.brass, 1.3))
                painter.setBrush(QColor(theme.raised))
                painter.drawEllipse(at, 7.0, 7.0)
                painter.setPen(QColor(theme.ink))
                box = QRectF(at.x() - 7, at.y() - 7, 14, 14)
                painter.drawText(box, Qt.AlignmentFlag.AlignCenter, str(i + 1))
