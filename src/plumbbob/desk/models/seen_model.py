"""What the passes over a water saw along their way, and whether it is laid on the chart."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QObject, Signal

from plumbbob.core.sonar.evidence import PER_M3
from plumbbob.core.sonar.seen_along import BaitDrift, SeenAlong, Stretch, bait_drift, bait_patches, best_stretch
from plumbbob.core.types import Floats

if TYPE_CHECKING:
    from plumbbob.core.chart.build import Chart

_LOOKED_M3 = 1.0
_SAME_DAY_S = 12 * 3600.0
_DEEP_M = 1e4
_MOST_STRETCHES = 25  # the latest: each takes some hundredths of a second


@dataclass(frozen=True, slots=True, eq=False)
class LaidPass:
    """One pass on the chart's plane, between two depths."""

    seen: SeenAlong
    x: Floats
    y: Floats
    volume_m3: Floats
    fish: Floats
    bait_m3: Floats
    stretch: Stretch | None

    @property
    def rate(self) -> Floats:
        """Fish in 1000 m3 over three pieces; NaN where too little was looked at."""
        near = np.ones(3)
        volume = np.convolve(self.volume_m3, near, "same")
        fish = np.convolve(self.fish, near, "same")
        known = self.volume_m3 > _LOOKED_M3
        return np.where(known, fish / np.maximum(volume, 1e-9) * PER_M3, np.nan)


@dataclass(frozen=True, slots=True, eq=False)
class Laid:
    """All passes on a chart, and how bait went from one to a later one of the day."""

    passes: tuple[LaidPass, ...] = ()
    drift: BaitDrift | None = None


class SeenModel(QObject):
    """Passes in order of time."""

    changed = Signal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._passes: tuple[SeenAlong, ...] = ()
        self._shown = False
        self._laid: tuple[tuple[object, ...], Laid] = ((), Laid())

    @property
    def passes(self) -> tuple[SeenAlong, ...]:
        """All that are kept with the water."""
        return self._passes

    @property
    def shown(self) -> bool:
        """They lie on the chart."""
        return self._shown and bool(self._passes)

    def set_passes(self, passes: tuple[SeenAlong, ...]) -> None:
        """Another water, or one more pass."""
        self._passes = passes
        self.changed.emit()

    def add(self, passes: tuple[SeenAlong, ...]) -> None:
        """More passes, each in the place of an older reading of the same."""
        new = {one.name for one in passes}
        kept = (*(one for one in self._passes if one.name not in new), *passes)
        self.set_passes(tuple(sorted(kept, key=lambda one: float(np.nanmin(one.time)))))

    def show(self, shown: bool) -> None:
        """Lay them on the chart, or take them off."""
        if shown != self._shown:
            self._shown = shown
            self.changed.emit()

    def laid(self, chart: Chart | None, window: tuple[float, float] | None) -> Laid:
        """The passes on a chart between two depths, worked out once for chart and depths."""
        if chart is None or not self._passes:
            return Laid()
        key = (chart, self._passes, window)
        if self._laid[0] != key:
            self._laid = key, self._lay(chart, *(window if window is not None else (0.0, _DEEP_M)))
        return self._laid[1]

    def _lay(self, chart: Chart, top_m: float, base_m: float) -> Laid:
        passes, patches = [], []
        latest = len(self._passes) - _MOST_STRETCHES
        for k, seen in enumerate(self._passes):
            x, y = chart.plane.to_xy(seen.latitude, seen.longitude)
            volume, fish, bait = seen.within(top_m, base_m)
            stretch = best_stretch(volume, fish) if k >= latest else None
            passes.append(LaidPass(seen, x, y, volume, fish, bait, stretch))
            patches.append(bait_patches(seen, x, y))
        pairs = (
            bait_drift(patches[i], patches[j])
            for j in range(len(passes) - 1, 0, -1)
            for i in range(j - 1, -1, -1)
            if float(passes[j].seen.time[0]) - float(passes[i].seen.time[-1]) <= _SAME_DAY_S
        )
        return Laid(tuple(passes), next((found for found in pairs if found is not None), None))
