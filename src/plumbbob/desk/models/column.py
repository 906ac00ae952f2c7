"""The column of water under the cursor, whichever picture the cursor is in."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

from plumbbob.desk.models.chart_model import ChartModel
from plumbbob.desk.models.conditions import Conditions
from plumbbob.desk.models.forward_model import ForwardModel
from plumbbob.desk.models.lines_model import LinesModel
from plumbbob.desk.models.picture_model import PictureModel
from plumbbob.desk.models.recording_model import RecordingModel


@dataclass(frozen=True, slots=True, kw_only=True)
class Column:
    """Depths under today's surface; NaN and None where nothing is known."""

    live: bool  # there is something to show
    top_m: float  # of the scale on screen
    base_m: float
    floor_m: float  # the bottom
    layer: tuple[float, float] | None = None  # the cold layer's span

    @staticmethod
    def of_pass(scan: RecordingModel) -> Column:
        """At the ping under the cursor, level with the echogram."""
        layer, view = scan.reading.cold_layer, scan.view
        return Column(
            live=scan.lead is not None,
            top_m=view.top_m,
            base_m=view.base_m,
            floor_m=scan.bottom_m,
            layer=None
            if layer is None
            else (layer.depth_m - layer.thickness_m / 2, layer.depth_m + layer.thickness_m / 2),
        )

    @staticmethod
    def of_ahead(scan: RecordingModel, ahead: ForwardModel) -> Column:
        """Level with the view ahead; the bottom is the one under its fan."""
        here = Column.of_pass(scan)
        top, base = ahead.span
        floor = ahead.bottom_m if math.isfinite(ahead.bottom_m) else here.floor_m
        return replace(here, top_m=top, base_m=base, floor_m=floor)

    @staticmethod
    def of_rig(boat: LinesModel, scan: RecordingModel, day: Conditions) -> Column:
        """Level with the picture of the rods; the bottom is the one under the boat."""
        top, base = boat.span
        layer = Column.of_pass(scan).layer
        if layer is None and day.layer is not None:
            layer = (day.layer.top_m, day.layer.base_m)
        return Column(live=True, top_m=top, base_m=base, floor_m=boat.bottom_m, layer=layer)

    @staticmethod
    def of_photo(photo: PictureModel) -> Column:
        """Level with a picture off a screen, once it has a scale of depth."""
        top, base = photo.span or (0.0, 1.0)
        return Column(live=photo.span is not None, top_m=top, base_m=base, floor_m=math.nan)

    @staticmethod
    def of_chart(chart: ChartModel, day: Conditions) -> Column:
        """At the place under the cursor; the scale changes in steps, so that it does not tremble with the cursor."""
        opened, layer = chart.chart, day.layer
        floor = chart.depth_m + day.level_m
        deepest = 10.0 if opened is None else max(opened.deepest_m + day.level_m, 3.0)
        base = _base_for(floor if floor > 0 else deepest)
        span = None
        if layer is not None and opened is not None:
            middle = day.layer_at(*chart.cursor) if chart.cursor is not None else layer.middle_m
            span = (middle - (layer.middle_m - layer.top_m), middle + (layer.base_m - layer.middle_m))
        return Column(
            live=opened is not None,
            top_m=-0.02 * base,
            base_m=base,
            floor_m=floor if floor > 0 else math.nan,
            layer=span,
        )


def _base_for(floor_m: float) -> float:
    """The foot of a scale, in steps of a quarter: the bottom stands in the last fifth, or little over it."""
    step = math.log(1.25)
    return max(math.exp(math.ceil(math.log(1.07 * floor_m) / step) * step), 2.0)
