"""What several kinds of structure are looked for in: one terrain, and the fields they share."""

from __future__ import annotations

import math

import numpy as np
from scipy import ndimage
from scipy.spatial import cKDTree

from plumbbob.core.chart.feature import Feature
from plumbbob.core.chart.outline import outline_of
from plumbbob.core.chart.structure_settings import StructureSettings
from plumbbob.core.chart.terrain import Terrain
from plumbbob.core.types import Floats, Mask

_FLAT_M = 0.5  # what would make a flat none
_SUREST = 0.97  # whatever the numbers say


class StructureFields:
    """A terrain with its settings, and what is known of it already."""

    def __init__(self, terrain: Terrain, settings: StructureSettings) -> None:
        self.terrain, self.settings = terrain, settings
        self.cell = terrain.frame.cell_m
        self.depth = terrain.depth_m
        self.error = float(np.median(terrain.sd_m[terrain.known]))
        self.shore_m = np.full(self.depth.shape, np.nan)
        if terrain.land.any():
            self.shore_m = ndimage.distance_transform_edt(~terrain.land) * self.cell
        # distance to where it is not known how the bottom goes on: what is narrow can't be told there
        closed = np.pad(terrain.whole | terrain.land, 1)
        self.open_m = ndimage.distance_transform_edt(closed)[1:-1, 1:-1] * self.cell
        self.hump_cells = np.zeros(self.depth.shape, bool)

    def xy(self, cell: int) -> tuple[float, float]:
        """Easting and northing of a cell."""
        x, y = self.terrain.frame.xy(cell // self.terrain.frame.nx, cell % self.terrain.frame.nx)
        return float(x), float(y)

    def area_m2(self, region: Mask) -> float:
        """Of a region."""
        return float(region.sum()) * self.cell**2

    def known_near(self, cell: int, region: Mask, sign: float) -> int:
        """The cell itself, or the best known one of its region where it lies in an unsounded patch."""
        if self.terrain.known.flat[cell]:
            return cell
        values = np.where(region & self.terrain.known, sign * self.depth, -np.inf)
        return int(values.argmax()) if np.isfinite(values.max()) else cell

    def part_with(self, mask: Mask, cell: int) -> Mask:
        """The connected part of a mask that holds a cell."""
        labels, _ = ndimage.label(mask, structure=np.ones((3, 3)))
        mine = labels.flat[cell]
        return labels == mine if mine else np.zeros(mask.shape, bool)

    def deeper_m(self, region: Mask, base: float) -> float:
        """Distance from a region to water three metres deeper than its base."""
        rows, columns = np.nonzero(self.terrain.known & (self.depth >= base + 3.0))
        if not rows.size:
            return math.nan
        mine = np.stack(np.nonzero(region), axis=1)
        every = max(mine.shape[0] // 400, 1)
        away, _ = cKDTree(np.stack([rows, columns], axis=1)).query(mine[::every])
        return float(away.min()) * self.cell

    def feature(
        self,
        kind: str,
        cell: int,
        region: Mask,
        top: float,
        base: float,
        *,
        line: Floats | None = None,
        lip: float = math.nan,
        bends: tuple[tuple[float, float], ...] = (),
    ) -> Feature:
        """A piece of structure about a key cell."""
        x, y = self.xy(cell)
        around = ndimage.binary_dilation(region, iterations=2) & self.terrain.known
        steep = self.terrain.slope_deg[around]
        return Feature(
            kind=kind,
            chance=self.chance(region, _FLAT_M if kind == "flat" else base - top),
            x=x,
            y=y,
            depth_top_m=top,
            depth_base_m=base,
            slope_max_deg=float(steep.max()) if steep.size else 0.0,
            area_m2=self.area_m2(region),
            shape=outline_of(self.terrain.frame, region) if line is None else line,
            is_line=line is not None,
            shore_m=float(self.shore_m.flat[cell]),
            deep_m=self.deeper_m(region, base),
            lip_m=lip,
            bends=bends,
        )

    def chance(self, region: Mask, height_m: float) -> float:
        """
        How probable it is that something so high is no error of the chart.

        The chart's spread over it counts as a normal error at its top and at its foot; ground further from any
        sounding than it is wide may hide how it goes on.
        """
        known = region & self.terrain.known
        if not known.any():
            return 0.0
        error = float(np.sqrt(np.mean(self.terrain.sd_m[known] ** 2))) * math.sqrt(2.0)
        real = 0.5 * (1.0 + math.erf(height_m / max(error, 1e-6) / math.sqrt(2.0)))
        reach = max(0.5 * math.sqrt(self.area_m2(region)), 2.0 * self.cell)
        return min(real * float((self.terrain.away_m[region] <= reach).mean()), _SUREST)

    def parts(self, mask: Mask, least_m2: float) -> list[Mask]:
        """The connected parts of a mask, largest first, sixty at most."""
        labels, count = ndimage.label(mask, structure=np.ones((3, 3)))
        if not count:
            return []
        sizes = ndimage.sum_labels(mask, labels, np.arange(1, count + 1)) * self.cell**2
        return [labels == k for k in np.argsort(-sizes)[:60] + 1 if sizes[k - 1] >= least_m2]
