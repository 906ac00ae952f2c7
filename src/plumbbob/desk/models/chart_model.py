"""The open chart: which part of it is shown and how, where the cursor stands, what has been drawn on it."""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from enum import Enum
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QObject, Signal

from plumbbob.core.geodesy import Position
from plumbbob.core.sonar.mosaic import Mosaic
from plumbbob.core.types import Floats

if TYPE_CHECKING:
    from plumbbob.core.chart.build import Chart
    from plumbbob.core.chart.lanes import HolePlan, Lane

FINEST_M, COARSEST_M = 0.15, 60.0  # metres a pixel


class Shown(Enum):
    """What the chart's colours say."""

    DEPTH = "depth"
    SLOPE = "slope"
    SPREAD = "uncertainty"


class Tool(Enum):
    """What the mouse does on the chart."""

    MOVE = "move"
    LINE = "line"
    CURRENT = "current"
    BUILT = "built"


@dataclass(frozen=True, slots=True)
class ChartViewport:
    """The part on screen: its middle on the plane and metres a pixel."""

    x: float
    y: float
    m_per_px: float


@dataclass(frozen=True, slots=True, eq=False)
class Drawn:
    """A line across the chart, or a lane, with its profile; shape (n, 2) and (n,)."""

    title: str
    line: Floats
    along_m: Floats
    depth_m: Floats  # at datum
    lane: Lane | None = None
    note: str = ""
    wait: tuple[float, float] | None = None  # where to wait on it


@dataclass(frozen=True, slots=True, eq=False)
class PassTrack:
    """Where a recording went, or a trail from elsewhere; shape (n, 2)."""

    name: str
    line: Floats = field(default_factory=lambda: np.zeros((0, 2)))
    recorded: bool = True  # it can be opened


class ChartModel(QObject):
    """One chart at a time. None until a water has soundings."""

    opened = Signal()  # another chart, or the same with more in it
    view_changed = Signal()
    cursor_changed = Signal()
    drawn_changed = Signal()
    shown_changed = Signal()
    tool_changed = Signal()
    swaths_changed = Signal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._swaths: tuple[Mosaic, ...] = ()
        self._swaths_shown = False
        self._chart: Chart | None = None
        self._slope: NDArray[np.float64] | None = None
        self._view = ChartViewport(0.0, 0.0, 5.0)
        self._size = (840, 560)
        self._cursor: tuple[float, float] | None = None
        self._drawn: Drawn | None = None
        self._holes: HolePlan | None = None
        self._shown = Shown.DEPTH
        self._tool = Tool.MOVE
        self._tracks: tuple[PassTrack, ...] = ()

    @property
    def chart(self) -> Chart | None:
        """The chart."""
        return self._chart

    @property
    def slope(self) -> NDArray[np.float64]:
        """Slope in degrees on the grid's frame, worked out when first asked for; empty without a chart."""
        if self._chart is None:
            return np.zeros((0, 0))
        if self._slope is None:
            from plumbbob.core.chart.terrain import slope_deg  # slow to load

            grid = self._chart.grid
            self._slope = slope_deg(grid.surface_m.astype(np.float64), grid.frame.cell_m, 6.0)
        return self._slope

    def open(self, chart: Chart | None) -> None:
        """Show a chart; the view stays if it is the same water."""
        before = self._chart
        self._chart = chart
        self._slope = None
        if chart is not None:
            if before is None or before.plane != chart.plane:
                self.show_all()
                self._cursor = self._deepest()
        else:
            self._cursor = None
        if chart is None or before is None or before.plane != chart.plane:
            self._drawn, self._holes = None, None
        self.opened.emit()
        self.view_changed.emit()
        self.cursor_changed.emit()
        self.drawn_changed.emit()

    def _deepest(self) -> tuple[float, float] | None:
        if self._chart is None:
            return None
        grid = self._chart.grid
        at = int(np.nanargmax(grid.depth_m))
        x, y = grid.frame.xy(at // grid.frame.nx, at % grid.frame.nx)
        return float(x), float(y)

    # -- view ---------------------------------------------------------------------------------------------------

    @property
    def view(self) -> ChartViewport:
        """The part on screen."""
        return self._view

    @property
    def size(self) -> tuple[int, int]:
        """Width and height of the picture, pixels."""
        return self._size

    def set_size(self, width: int, height: int) -> None:
        """The picture has another size; a chart that fitted still fits."""
        if (width, height) != self._size and width > 10 and height > 10:
            fits = self._chart is not None and self._view == self._fitting()
            self._size = (width, height)
            if fits:
                self.show_all()
            self.view_changed.emit()

    def set_view(self, view: ChartViewport) -> None:
        """Show another part."""
        scale = min(max(view.m_per_px, FINEST_M), COARSEST_M)
        x, y = view.x, view.y
        if self._chart is not None:
            frame = self._chart.grid.frame
            x = min(max(x, frame.x0_m), frame.x0_m + frame.nx * frame.cell_m)
            y = min(max(y, frame.y0_m), frame.y0_m + frame.ny * frame.cell_m)
        new = ChartViewport(x, y, scale)
        if new != self._view:
            self._view = new
            self.view_changed.emit()

    def _fitting(self) -> ChartViewport:
        assert self._chart is not None
        frame, known = self._chart.grid.frame, self._chart.grid.known
        rows, columns = np.flatnonzero(known.any(axis=1)), np.flatnonzero(known.any(axis=0))
        x, y = frame.xy([rows[0], rows[-1]], [columns[0], columns[-1]])
        scale = max(float(np.ptp(x)) / (0.92 * self._size[0]), float(np.ptp(y)) / (0.92 * self._size[1]), FINEST_M)
        return ChartViewport(float(x.mean()), float(y.mean()), scale)

    def show_all(self) -> None:
        """The whole water."""
        if self._chart is not None:
            self.set_view(self._fitting())

    def zoom(self, factor: float, about: tuple[float, float] | None = None) -> None:
        """Show `factor` times as much, keeping a place where it is."""
        v = self._view
        x, y = about or self._cursor or (v.x, v.y)
        scale = min(max(v.m_per_px * factor, FINEST_M), COARSEST_M)
        ratio = scale / v.m_per_px
        self.set_view(ChartViewport(x + (v.x - x) * ratio, y + (v.y - y) * ratio, scale))

    def pan(self, right_px: float, down_px: float) -> None:
        """Move the view by pixels."""
        v = self._view
        self.set_view(ChartViewport(v.x + right_px * v.m_per_px, v.y - down_px * v.m_per_px, v.m_per_px))

    def centre_on(self, x: float, y: float, *, closer: bool = False) -> None:
        """Bring a place to the middle; closer in if the whole water was on screen."""
        scale = min(self._view.m_per_px, 2.2) if closer else self._view.m_per_px
        self.set_view(ChartViewport(x, y, scale))

    # -- cursor -------------------------------------------------------------------------------------------------

    @property
    def cursor(self) -> tuple[float, float] | None:
        """Easting and northing of the cursor."""
        return self._cursor

    def set_cursor(self, x: float, y: float) -> None:
        """Move the cursor."""
        if self._chart is not None and (x, y) != self._cursor:
            self._cursor = (x, y)
            self.cursor_changed.emit()

    def step_cursor(self, right: float, up: float) -> None:
        """Move the cursor by pixels."""
        if self._cursor is not None:
            scale = self._view.m_per_px
            self.set_cursor(self._cursor[0] + right * scale, self._cursor[1] + up * scale)

    def cursor_place(self) -> Position | None:
        """Where the cursor is on the earth."""
        if self._chart is None or self._cursor is None:
            return None
        return self._chart.plane.place(*self._cursor)

    def _sample(self, values: NDArray[np.floating]) -> float:
        if self._chart is None or self._cursor is None:
            return math.nan
        return float(self._chart.grid.frame.sample(values, *self._cursor))

    @property
    def depth_m(self) -> float:
        """Depth at datum under the cursor; NaN where unknown."""
        return self._sample(self._chart.grid.depth_m) if self._chart else math.nan

    def depth_at(self, place: Position) -> float:
        """Depth at datum at a place; NaN where unknown."""
        if self._chart is None:
            return math.nan
        x, y = self._chart.plane.to_xy(place.latitude, place.longitude)
        return float(self._chart.grid.frame.sample(self._chart.grid.depth_m, float(x), float(y)))

    @property
    def depth_sd_m(self) -> float:
        """Its standard deviation."""
        return self._sample(self._chart.grid.sd_m) if self._chart else math.nan

    @property
    def slope_at_cursor_deg(self) -> float:
        """Slope there."""
        return self._sample(self.slope) if self._chart else math.nan

    # -- drawn on it --------------------------------------------------------------------------------------------

    @property
    def drawn(self) -> Drawn | None:
        """The line across, or the lane."""
        return self._drawn

    @property
    def holes(self) -> HolePlan | None:
        """Holes through the ice."""
        return self._holes

    def set_drawn(self, drawn: Drawn | None) -> None:
        """Draw a line or lane, or wipe it."""
        self._drawn = drawn
        self.drawn_changed.emit()

    def set_holes(self, holes: HolePlan | None) -> None:
        """Plan holes, or wipe them."""
        self._holes = holes
        self.drawn_changed.emit()

    def line_across(self, start: tuple[float, float], end: tuple[float, float]) -> Drawn | None:
        """The bottom along a straight line."""
        if self._chart is None:
            return None
        length = math.hypot(end[0] - start[0], end[1] - start[1])
        if length < 1.0:
            return None
        n = min(max(int(length / 1.5), 20), 1500)
        line = np.linspace(start, end, n)
        grid = self._chart.grid
        return Drawn(
            title="across",
            line=line,
            along_m=np.linspace(0.0, length, n),
            depth_m=grid.frame.sample(grid.depth_m, line[:, 0], line[:, 1]),
        )

    @property
    def shown(self) -> Shown:
        """What the colours say."""
        return self._shown

    def set_shown(self, shown: Shown) -> None:
        """Let the colours say something else."""
        if shown != self._shown:
            self._shown = shown
            self.shown_changed.emit()

    @property
    def tool(self) -> Tool:
        """What the mouse does."""
        return self._tool

    def set_tool(self, tool: Tool) -> None:
        """Take another tool."""
        if tool != self._tool:
            self._tool = tool
            self.tool_changed.emit()

    @property
    def tracks(self) -> tuple[PassTrack, ...]:
        """Passes of recordings."""
        return self._tracks

    def set_tracks(self, tracks: tuple[PassTrack, ...]) -> None:
        """Show these passes."""
        self._tracks = tracks
        self.drawn_changed.emit()

    # -- swaths of the view to the sides ------------------------------------------------------------------------

    @property
    def swaths(self) -> tuple[Mosaic, ...]:
        """One for each recording laid on this chart, the newest last."""
        return self._swaths

    @property
    def swaths_shown(self) -> bool:
        """They are on screen."""
        return self._swaths_shown

    def add_swath(self, mosaic: Mosaic) -> None:
        """Lay one more on the chart; another of the same recording goes."""
        self._swaths = (*(m for m in self._swaths if m.name != mosaic.name), mosaic)
        self.swaths_changed.emit()

    def show_swaths(self, on: bool) -> None:
        """Show them, or not."""
        if on != self._swaths_shown:
            self._swaths_shown = on
            self.swaths_changed.emit()

    def slope_between(self, near: Position, far: Position) -> float:
        """How the bottom rises from one place to another, degrees; NaN where the chart does not know."""
        if self._chart is None:
            return math.nan
        x, y = self._chart.plane.to_xy([near.latitude, far.latitude], [near.longitude, far.longitude])
        depth = self._chart.grid.frame.sample(self._chart.grid.depth_m, x, y)
        away = math.hypot(float(x[1] - x[0]), float(y[1] - y[0]))
        return math.degrees(math.atan2(float(depth[0] - depth[1]), away)) if away > 0.5 else math.nan
