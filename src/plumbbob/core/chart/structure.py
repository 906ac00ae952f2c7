"""
Structure found on a grid: humps, holes, basins, saddles, ledges, flats, channels, points, and what else there is.

Everything is measured in metres on the terrain, never in cells, and at several scales. Definitions: docs/physics.md.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from scipy import ndimage
from scipy.spatial import cKDTree

from plumbbob.core.chart.feature import Feature
from plumbbob.core.chart.grid import Grid
from plumbbob.core.chart.outline import longest_path, outline_of
from plumbbob.core.chart.peaks import OUTSIDE, Peak, find_peaks
from plumbbob.core.chart.terrain import Terrain, narrow_deep, narrow_shallow, plan_curvature, slope_deg, terrain_of
from plumbbob.core.types import Floats, Mask

_ROOT_M = 110.0  # a point may begin so far from what looks like land
KINDS = ("hump", "hole", "point", "saddle", "ledge", "flat", "channel", "basin")
MORE_KINDS = ("inside turn", "road")


@dataclass(frozen=True, slots=True, kw_only=True)
class StructureSettings:
    """Least sizes; lengths in metres, depths in metres."""

    hump_m: float = 0.8
    hump_share: float = 0.07  # of the depth it stands in
    hump_area_m2: float = 200.0
    basin_area_m2: float = 12_000.0
    ledge_deg: float = 10.0
    ledge_foot_deg: float = 7.0
    ledge_stretch_m: float = 700.0
    flat_deg: float = 1.5
    flat_core_deg: float = 0.8
    most_flats: int = 12
    flat_area_m2: float = 8_000.0
    channel_m: float = 0.7
    channel_length_m: float = 150.0
    point_m: float = 0.8
    point_length_m: float = 60.0
    widths_m: tuple[float, ...] = (25.0, 45.0, 75.0)


def find_structure(
    grid: Grid,
    settings: StructureSettings | None = None,
    *,
    progress: Callable[[float], None] = lambda fraction: None,
) -> tuple[Feature, ...]:
    """
    All structure of a grid.

    Parameters
    ----------
    grid : Grid
    settings : StructureSettings, optional
    progress : callable
        Hears the share done; may raise to stop.

    Returns
    -------
    tuple of Feature
        The kinds of `KINDS` and `MORE_KINDS`, largest of a kind first.
    """
    look = _Look(terrain_of(grid), settings or StructureSettings())
    found: list[Feature] = []
    parts = (look.highs, look.lows, look.ledges, look.flats, look.channels, look.points, look.turns)
    for i, part in enumerate(parts):
        found += part()
        progress((i + 1) / (len(parts) + 1))
    from plumbbob.core.chart.roads import find_roads  # it looks at finer cells

    found += find_roads(grid)
    progress(1.0)
    return tuple(found)


class _Look:
    """One terrain, and the fields that several kinds of structure need."""

    def __init__(self, terrain: Terrain, settings: StructureSettings) -> None:
        self.t, self.s = terrain, settings
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
        self.high_peaks: list[Peak] = []

    # -- helpers ------------------------------------------------------------------------------------------------

    def xy(self, cell: int) -> tuple[float, float]:
        x, y = self.t.frame.xy(cell // self.t.frame.nx, cell % self.t.frame.nx)
        return float(x), float(y)

    def known_near(self, cell: int, region: Mask, sign: float) -> int:
        """The cell itself, or the best known one of its region where it lies in an unsounded patch."""
        if self.t.known.flat[cell]:
            return cell
        values = np.where(region & self.t.known, sign * self.depth, -np.inf)
        return int(values.argmax()) if np.isfinite(values.max()) else cell

    def part_with(self, mask: Mask, cell: int) -> Mask:
        """The connected part of a mask that holds a cell."""
        labels, _ = ndimage.label(mask, structure=np.ones((3, 3)))
        mine = labels.flat[cell]
        return labels == mine if mine else np.zeros(mask.shape, bool)

    def deeper_m(self, region: Mask, base: float) -> float:
        """Distance from a region to water three metres deeper than its base."""
        rows, columns = np.nonzero(self.t.known & (self.depth >= base + 3.0))
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
        notes: tuple[str, ...] = (),
    ) -> Feature:
        x, y = self.xy(cell)
        around = ndimage.binary_dilation(region, iterations=2) & self.t.known
        steep = self.t.slope_deg[around]
        return Feature(
            kind=kind,
            x=x,
            y=y,
            depth_top_m=top,
            depth_base_m=base,
            slope_max_deg=float(steep.max()) if steep.size else 0.0,
            area_m2=float(region.sum()) * self.cell**2,
            shape=outline_of(self.t.frame, region) if line is None else line,
            is_line=line is not None,
            shore_m=float(self.shore_m.flat[cell]),
            deep_m=self.deeper_m(region, base),
            lip_m=lip,
            bends=bends,
            notes=notes,
        )

    # -- highs and lows -----------------------------------------------------------------------------------------

    def highs(self) -> list[Feature]:
        """Humps, and the saddles between two of them."""
        out = []
        good: dict[int, Mask] = {}
        peaks = find_peaks(-self.depth, self.t.whole, min(0.5, self.s.hump_m))
        for peak in peaks:
            top, base = -peak.height, -peak.col_height
            least = max(self.s.hump_m, self.s.hump_share * base, 2.0 * self.error)
            if peak.prominence < least or top < 0.0:
                continue
            found = self._hump_region(peak)
            if found is None:
                continue
            region, base = found
            cell = self.known_near(peak.cell, region, -1.0)
            good[peak.cell] = region
            self.hump_cells |= region
            self.high_peaks.append(peak)
            out.append(self.feature("hump", cell, region, top, base))
        out.sort(key=lambda f: -f.area_m2)
        return out + self._saddles(peaks, set(good))

    def _hump_region(self, peak: Peak) -> tuple[Mask, float] | None:
        """The ground that stands out, and its foot: all of it, or its upper part where it is most of the water."""
        top = -peak.height
        largest = 0.35 * float(self.t.known.sum()) * self.cell**2
        for share in (0.98, 0.7, 0.5):
            base = top + share * peak.prominence
            region = self.part_with(self.t.whole & (self.depth < base), peak.cell)
            area = float(region.sum()) * self.cell**2
            if area < self.s.hump_area_m2:
                return None
            if area <= largest:
                return region, top + peak.prominence if share > 0.9 else base
        return None

    def _saddles(self, peaks: list[Peak], good: set[int]) -> list[Feature]:
        """Where a hump meets a neighbour that stands at least a metre over the same saddle."""
        out = []
        humps = [p for p in peaks if p.cell in good]
        for peak in humps:
            saddle = self._towards_neighbour(peak, humps)
            if saddle is None:
                continue
            cell, depth = saddle
            rise = min(1.0, 0.5 * peak.prominence)
            flat = np.abs(self.depth - depth) < max(rise, 0.4)
            y, x = np.divmod(cell, self.t.frame.nx)
            near = np.zeros(self.depth.shape, bool)
            r = max(round(60.0 / self.cell), 2)
            near[max(y - r, 0) : y + r + 1, max(x - r, 0) : x + r + 1] = True
            region = self.part_with(flat & near & self.t.whole, cell)
            out.append(self.feature("saddle", cell, region, depth - rise, depth + rise))
        return out

    def _towards_neighbour(self, peak: Peak, humps: list[Peak]) -> tuple[int, float] | None:
        """The lowest place on the best way to the nearest hump within 500 m, if both stand a metre over it."""
        nx = self.t.frame.nx
        y, x = divmod(peak.cell, nx)
        best: tuple[float, int, float] | None = None
        for other in humps:
            apart = math.hypot(other.cell // nx - y, other.cell % nx - x) * self.cell
            if other is peak or not 40.0 <= apart <= 500.0 or (other.height, other.cell) < (peak.height, peak.cell):
                continue
            found = self._pass_between(peak.cell, other.cell)
            if found is None:
                continue
            cell, depth = found
            stands = min(depth + peak.height, depth + other.height)
            if stands >= 0.9 and self._is_own_pass(peak, depth) and (best is None or apart < best[0]):
                best = (apart, cell, depth)
        return None if best is None else best[1:]

    def _is_own_pass(self, peak: Peak, depth: float) -> bool:
        """The way over is not much lower than the peak's lowest way to anywhere: else other ground lies between."""
        return depth <= -peak.col_height + max(0.25 * peak.prominence, 0.5)

    def _pass_between(self, a: int, b: int) -> tuple[int, float] | None:
        """Cell and depth of the lowest place on the highest way between two cells, found in a window about both."""
        ny, nx = self.depth.shape
        pad = round(150.0 / self.cell)
        (ya, xa), (yb, xb) = divmod(a, nx), divmod(b, nx)
        rows = slice(max(min(ya, yb) - pad, 0), min(max(ya, yb) + pad, ny))
        columns = slice(max(min(xa, xb) - pad, 0), min(max(xa, xb) + pad, nx))
        depth = np.where(self.t.whole & ~self.t.land, self.depth, np.inf)[rows, columns]
        start, goal = (ya - rows.start, xa - columns.start), (yb - rows.start, xb - columns.start)
        low, high = max(depth[start], depth[goal]), float(np.max(depth[np.isfinite(depth)]))
        for _ in range(24):
            middle = (low + high) / 2
            labels, _ = ndimage.label(depth <= middle, structure=np.ones((3, 3)))
            low, high = (low, middle) if labels[start] == labels[goal] != 0 else (middle, high)
        labels, _ = ndimage.label(depth <= high - 1e-3, structure=np.ones((3, 3)))
        mine, other = labels == labels[start], labels == labels[goal]
        if not (labels[start] and labels[goal]):
            return None
        away = ndimage.distance_transform_edt(~mine) + ndimage.distance_transform_edt(~other)
        level = np.where(np.abs(depth - high) < 0.3, away, np.inf)
        cell = np.unravel_index(int(level.argmin()), level.shape)
        return int((cell[0] + rows.start) * nx + cell[1] + columns.start), high

    def lows(self) -> list[Feature]:
        """Basins and holes, and the sills between two basins."""
        out: list[Feature] = []
        water = float(self.t.known.sum()) * self.cell**2
        lows = find_peaks(self.depth, self.t.whole, min(0.5, self.s.hump_m))
        kept: list[Peak] = []
        for low in lows:
            deepest, spill = low.height, max(low.col_height, 0.0)
            if low.prominence < max(self.s.hump_m, 0.03 * deepest, 2.0 * self.error):
                continue
            closed = self.part_with(self.t.whole & (self.depth > spill + 0.02 * low.prominence), low.cell)
            area = float(closed.sum()) * self.cell**2
            if area < self.s.hump_area_m2:
                continue
            top = max(spill, 0.65 * deepest)
            inner = self.part_with(closed & (self.depth >= top), low.cell)
            basin = float(inner.sum()) * self.cell**2 >= max(self.s.basin_area_m2, 0.002 * water)
            cell = self.known_near(low.cell, closed, 1.0)
            kept.append(low)
            if basin:
                out.append(self.feature("basin", cell, inner, top, deepest))
            else:
                out.append(self.feature("hole", cell, closed, spill, deepest))
        sills = []
        for low in kept:
            if low.parent == OUTSIDE or low.prominence < 1.0:
                continue
            row, column = divmod(low.col, self.t.frame.nx)
            r = max(round(60.0 / self.cell), 2)
            near = np.zeros(self.depth.shape, bool)
            near[max(row - r, 0) : row + r + 1, max(column - r, 0) : column + r + 1] = True
            region = self.part_with(near & self.t.whole & (np.abs(self.depth - low.col_height) < 0.5), low.col)
            sills.append(self.feature("saddle", low.col, region, low.col_height - 0.5, low.col_height + 0.5))
        return sorted(out, key=lambda f: -f.area_m2) + sills

    # -- ledges and flats ---------------------------------------------------------------------------------------

    def ledges(self) -> list[Feature]:
        """Steep stretches: grown from where it is plainly steep to where it still is."""
        slope = self.t.slope_deg
        inside = self.t.known & (ndimage.distance_transform_edt(self.t.known) * self.cell > 8.0)
        usual = float(np.percentile(slope[inside], 80)) if inside.any() else 0.0
        steep = inside & (slope >= max(self.s.ledge_foot_deg, min(usual, 12.0)))
        labels, _ = ndimage.label(steep, structure=np.ones((3, 3)))
        seeds = np.unique(labels[inside & (slope >= self.s.ledge_deg)])
        out = []
        boxes = ndimage.find_objects(labels)
        for k in seeds[seeds > 0]:
            box = boxes[k - 1]
            if box is None:
                continue
            region = labels == k
            here = slope[region]
            area = float(region.sum()) * self.cell**2
            length = math.hypot(box[0].stop - box[0].start, box[1].stop - box[1].start) * self.cell
            if area < 600.0 or length < 30.0 or np.percentile(here, 90) < self.s.ledge_deg:
                continue
            if (self.hump_cells & region).sum() > 0.6 * region.sum():
                continue  # a hump's own flank
            if length < 3.0 * area / length and length < 120.0:
                continue
            for piece in self._pieces(region):
                top, base = np.percentile(self.depth[piece], [5, 95])
                if base - top < 0.8 or np.percentile(slope[piece], 90) < self.s.ledge_deg:
                    continue
                cell, lip = self._lip(piece, float(top), float(base))
                out.append(self.feature("ledge", cell, piece, float(top), float(base), lip=lip))
        return sorted(out, key=lambda f: -f.area_m2)[:40]

    def _pieces(self, region: Mask) -> list[Mask]:
        """A long ledge in stretches that one can fish, cut across its own line."""
        path = longest_path(self.t.frame, region)
        if path is None or _length(path) < 1.3 * self.s.ledge_stretch_m:
            return [region]
        along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(path, axis=0).T))])
        count = math.ceil(along[-1] / self.s.ledge_stretch_m)
        stretch = np.minimum((along / along[-1] * count).astype(np.intp), count - 1)
        rows, columns = np.nonzero(region)
        x, y = self.t.frame.xy(rows, columns)
        nearest = stretch[cKDTree(path).query(np.stack([x, y], axis=1))[1]]
        out = []
        for k in range(count):
            piece = np.zeros(region.shape, bool)
            piece[rows[nearest == k], columns[nearest == k]] = True
            if piece.any():
                out.append(piece)
        return out

    def _lip(self, region: Mask, top: float, base: float) -> tuple[int, float]:
        """The steepest stretch of a ledge's upper half, and the depth of its upper edge there."""
        middle = np.median(self.depth[region])
        average = ndimage.gaussian_filter(self.t.slope_deg, 12.0 / self.cell)
        upper = region & (self.depth <= middle)
        cell = int(np.where(upper if upper.any() else region, average, -1.0).argmax())
        row, column = divmod(cell, self.t.frame.nx)
        r = max(round(40.0 / self.cell), 2)
        near = np.s_[max(row - r, 0) : row + r + 1, max(column - r, 0) : column + r + 1]
        here = self.depth[near][region[near]]
        return cell, float(np.percentile(here, 5)) if here.size else top

    def flats(self) -> list[Feature]:
        """Wide level ground that is no basin's floor, seen from its edge nearest to deep water."""
        slope = slope_deg(self.depth, self.cell, 16.0)
        size = max(round(10.0 / self.cell), 1)
        level = ndimage.binary_opening(self.t.known & (slope <= self.s.flat_deg), iterations=size)
        core = level & (slope <= self.s.flat_core_deg)
        deepest = float(np.percentile(self.depth[self.t.known], 98))
        out: list[Feature] = []
        for _ in range(4 * self.s.most_flats):
            labels, count = ndimage.label(core)
            if not count or len(out) >= self.s.most_flats:
                break
            sizes = ndimage.sum_labels(core, labels, np.arange(1, count + 1)) * self.cell**2
            if sizes.max() < 0.6 * self.s.flat_area_m2:
                break
            heart = labels == int(sizes.argmax()) + 1
            # ground that keeps falling is no flat, however gently: keep to a span of depth
            middle = float(np.median(self.depth[heart]))
            span = np.abs(self.depth - middle) <= max(1.0, 0.12 * middle)
            region, _ = ndimage.label(level & span)
            mine = np.bincount(region[heart & span]).argmax() if (heart & span).any() else 0
            region = region == mine if mine else heart & span
            core &= ~region & ~(heart & span)
            if float(region.sum()) * self.cell**2 >= self.s.flat_area_m2:
                found = self._flat(region, deepest)
                if found is not None:
                    out.append(found)
        return out

    def _flat(self, region: Mask, deepest: float) -> Feature | None:
        top, base = (float(v) for v in np.percentile(self.depth[region], [3, 97]))
        inner = ndimage.distance_transform_edt(region) * self.cell
        heart = region & (inner >= min(30.0, 0.8 * float(inner.max())))
        deep = self.t.known & (self.depth > base + max(1.0, 0.15 * base))
        if deep.any():
            edge = ndimage.distance_transform_edt(~deep)
            cell = int(np.where(heart, -edge, -np.inf).argmax())
        elif (top + base) / 2 > 0.8 * deepest:
            return None  # the floor of it all
        else:
            cell = int(np.where(heart, inner, -1.0).argmax())
        return self.feature("flat", cell, region, top, base)

    # -- long and narrow ----------------------------------------------------------------------------------------

    def channels(self) -> list[Feature]:
        """Long narrow deeps with banks on both sides."""
        best = np.zeros(self.depth.shape)
        for width in self.s.widths_m:
            found = narrow_deep(self.depth, width / self.cell)
            best = np.maximum(best, np.where(self.open_m > 0.8 * width, found, 0.0))
        sunk = self.t.known & (best > self.s.channel_m)
        out = []
        for region in self._parts(sunk, 0.5 * self.s.channel_length_m * 2 * self.cell):
            path = longest_path(self.t.frame, region, prefer=best)
            if path is None:
                continue
            length = _length(path)
            width = float(region.sum()) * self.cell**2 / max(length, 1.0)
            if length < self.s.channel_length_m or length < 2.5 * width:
                continue
            depths = self.t.frame.sample(self.depth, path[:, 0], path[:, 1])
            if np.nanmedian(self.t.frame.sample(best, path[:, 0], path[:, 1])) < 1.2 * self.s.channel_m:
                continue
            bends = _bends(path)
            cell = self._outer_bend(bends, path)
            top, base = (float(v) for v in np.nanpercentile(depths, [5, 95]))
            rise = float(np.median(best[region]))
            out.append(
                self.feature("channel", cell, region, max(top - rise, 0.0), base, line=path, bends=tuple(bends))
            )
        return sorted(out, key=lambda f: -f.area_m2)

    def _outer_bend(self, bends: list[tuple[float, float]], path: Floats) -> int:
        """The bend whose bank is steepest, else the deepest place of the path."""
        frame = self.t.frame
        if bends:
            points = np.array(bends)
            steep = ndimage.maximum_filter(self.t.slope_deg, max(round(25.0 / self.cell), 1))
            at = points[int(np.nanargmax(frame.sample(steep, points[:, 0], points[:, 1])))]
        else:
            at = path[int(np.nanargmax(frame.sample(self.depth, path[:, 0], path[:, 1])))]
        return int(frame.cells(at[0], at[1])[0])

    def points(self) -> list[Feature]:
        """Narrow rises that run out from land or from shallower ground and lose depth outwards on three sides."""
        best = np.zeros(self.depth.shape)
        filled = np.where(self.t.land, np.minimum(self.depth, 0.0), self.depth)
        for width in self.s.widths_m:
            found = narrow_shallow(filled, width / self.cell)
            best = np.maximum(best, np.where(self.open_m > 0.8 * width, found, 0.0))
        raised = self.t.known & (best > self.s.point_m) & ~self.hump_cells
        out = []
        for region in self._parts(raised, 0.5 * self.s.point_length_m * 2 * self.cell):
            point = self._point(region)
            if point is not None:
                out.append(point)
        return sorted(out, key=lambda f: -f.area_m2)

    def _point(self, region: Mask) -> Feature | None:
        near_land = self.shore_m[region]
        if not np.isfinite(near_land).any() or float(near_land.min()) > _ROOT_M:
            return None
        root = region & (self.shore_m <= float(near_land.min()) + 1.5 * self.cell)
        path = longest_path(self.t.frame, region, start=root)
        if path is None:
            return None
        length = _length(path)
        width = float(region.sum()) * self.cell**2 / max(length, 1.0)
        depths = self.t.frame.sample(self.depth, path[:, 0], path[:, 1])
        shore = self.t.frame.sample(self.shore_m, path[:, 0], path[:, 1])
        if length < self.s.point_length_m or length < 0.8 * width or not np.isfinite(depths).all():
            return None
        # outwards: further from land and deeper, most of the way
        if shore[-1] - shore[0] < 0.5 * length or depths[-1] - depths[0] < self.s.point_m:
            return None
        falls = np.gradient(ndimage.gaussian_filter1d(depths, 1.5))
        falls[: len(falls) // 3] = -np.inf
        tip = path[int(falls.argmax())]
        cell = int(self.t.frame.cells(tip[0], tip[1])[0])
        top, base = (float(v) for v in np.percentile(self.depth[region], [3, 97]))
        return self.feature("point", cell, region, max(top, 0.0), base)

    def turns(self) -> list[Feature]:
        """Inside turns: where the contours of a break bend into the shallow."""
        bend = plan_curvature(self.depth, self.cell, 22.0)
        slope = slope_deg(self.depth, self.cell, 12.0)
        inside = (
            self.t.known & (self.open_m > 60.0) & (ndimage.distance_transform_edt(self.t.known) * self.cell > 30.0)
        )
        hollow = inside & (bend < -1.0 / 70.0) & (slope >= 3.0)
        out = []
        for region in self._parts(hollow, 400.0):
            depths = self.depth[region]
            if np.ptp(depths) < 1.5:
                continue
            top, base = (float(v) for v in np.percentile(depths, [5, 95]))
            upper = region & (self.depth <= np.percentile(depths, 30))
            cell = int(np.where(upper, -bend, -np.inf).argmax())
            out.append(self.feature("inside turn", cell, region, top, base))
        return sorted(out, key=lambda f: -(f.depth_base_m - f.depth_top_m))[:25]

    def _parts(self, mask: Mask, least_m2: float) -> list[Mask]:
        labels, count = ndimage.label(mask, structure=np.ones((3, 3)))
        if not count:
            return []
        sizes = ndimage.sum_labels(mask, labels, np.arange(1, count + 1)) * self.cell**2
        return [labels == k for k in np.argsort(-sizes)[:60] + 1 if sizes[k - 1] >= least_m2]


def _length(path: Floats) -> float:
    return float(np.hypot(*np.diff(path, axis=0).T).sum())


def _bends(path: Floats, over_m: float = 160.0, least_deg: float = 40.0) -> list[tuple[float, float]]:
    """Places where a path turns by so much within some channel widths, the sharpest of each turn."""
    steps = np.hypot(*np.diff(path, axis=0).T)
    along = np.concatenate([[0.0], np.cumsum(steps)])
    even = np.arange(0.0, along[-1], 5.0)
    if even.size < 8:
        return []
    smooth = [ndimage.gaussian_filter1d(np.interp(even, along, path[:, i]), 3.0) for i in (0, 1)]
    heading = np.unwrap(np.arctan2(np.gradient(smooth[1]), np.gradient(smooth[0])))
    n = max(round(over_m / 2 / 5.0), 1)
    turn = np.zeros(even.size)
    turn[n:-n] = np.degrees(np.abs(heading[2 * n :] - heading[: -2 * n]))
    peaks = (turn >= least_deg) & (turn >= ndimage.maximum_filter1d(turn, 2 * n + 1))
    return [(float(smooth[0][i]), float(smooth[1][i])) for i in np.flatnonzero(peaks)]
