"""The day on the water: level, wind, clarity, the column of temperature, whose fish one is after."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import TYPE_CHECKING, Any

import numpy as np
from PySide6.QtCore import QObject, QSettings, Signal

from plumbbob.core.cell_grid import CellGrid
from plumbbob.core.geodesy import Position
from plumbbob.core.types import Floats
from plumbbob.core.water.column import Layer, Layering, layering
from plumbbob.core.water.profile import Profile
from plumbbob.core.water.species import Comfort, Species, comfort
from plumbbob.core.water.sun import Lights, lights_of, sun_elevation_deg
from plumbbob.core.water.tide import TideNow, TideTable
from plumbbob.core.water.wind import LayerPlane, Tilt, fetch_field, layer_tilt, tilted_layer
from plumbbob.desk.models.settings import number_of

if TYPE_CHECKING:
    from plumbbob.core.chart.build import Chart

_FETCH_CELLS = 40_000
LIMITS = ("warm_low_c", "warm_high_c", "avoid_c", "oxygen_mgl")
_BOUNDS = {
    "level_m": (-60.0, 60.0),
    "wind_mps": (0.0, 40.0),
    "wind_from_deg": (0.0, 360.0),
    "secchi_m": (0.1, 40.0),
}
_NUMBERS = tuple(_BOUNDS)
_TIDE_STEP_S, _TIDE_STEP_M = 300.0, 0.02


class Conditions(QObject):
    """What is known of today; everything that follows from it is computed when it changes."""

    changed = Signal()

    def __init__(self, settings: QSettings, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._settings = settings
        self._key = ""
        self._chart: Chart | None = None
        self._profile: Profile | None = None
        self._species: Species | None = None
        self._place: Position | None = None
        self._time = math.nan
        self._offset_h = 0.0
        self._values = {"level_m": 0.0, "wind_mps": 0.0, "wind_from_deg": 225.0, "secchi_m": 3.5}
        self._tide: TideTable | None = None
        self._moment = math.nan  # of the tide: it goes on while the day stays the same
        self._strongest_mps = math.nan
        self._by_hand = False
        self._layer: Layer | None = None
        self._layering = Layering.MIXED
        self._tilt: Tilt | None = None
        self._layer_plane: LayerPlane | None = None
        self._fetch: Floats | None = None
        self._fetch_frame: CellGrid | None = None
        self._fetch_of: tuple[int, float] | None = None
        self._lights: Lights | None = None
        self._comfort: Comfort | None = None

    def come_to(self, key: str, defaults: dict[str, float]) -> None:
        """Another water: its numbers of last time, or what is usual there."""
        self._key = key
        for name in _NUMBERS:
            usual = defaults.get(name, {"wind_from_deg": 225.0, "secchi_m": 3.5}.get(name, 0.0))
            self._values[name] = number_of(self._settings, f"day/{key}/{name}", usual, *_BOUNDS[name])
        self._strongest_mps = number_of(self._settings, f"day/{key}/strongest_stream_mps", math.nan, 0.0, 10.0)
        self._by_hand = bool(number_of(self._settings, f"day/{key}/level_by_hand", 0.0, 0.0, 1.0))
        self._tide = None
        self._fetch_of = None
        self._work_out()

    def set_chart(self, chart: Chart | None) -> None:
        """The chart over which wind and layer lie."""
        self._chart = chart
        self._fetch_of = None
        self._work_out()

    def set_profile(self, profile: Profile | None) -> None:
        """Another column."""
        self._profile = profile
        self._work_out()

    def own_limits(self, species: Species) -> Species:
        """A species with the limits that the person gave it."""
        changes: dict[str, Any] = {}
        for name in LIMITS:
            usual = getattr(species, name)
            changes[name] = number_of(self._settings, f"species/{species.key}/{name}", usual, -2.0, 45.0)
        if not changes["warm_low_c"] < changes["warm_high_c"] < changes["avoid_c"]:
            return species
        return replace(species, **changes)

    def set_limits(self, species: Species, limits: dict[str, float] | None) -> None:
        """Keep a person's own limits of a species, or go back to the table's. Raises ValueError in one line."""
        if limits is None:
            self._settings.remove(f"species/{species.key}")
        else:
            if not limits["warm_low_c"] < limits["warm_high_c"] < limits["avoid_c"]:
                raise ValueError("the preferred band must rise, and the avoided temperature lie over it")
            if not 0.0 < limits["oxygen_mgl"] < 20.0:
                raise ValueError("oxygen lies between 0 and 20 mg/L")
            for name, value in limits.items():
                self._settings.setValue(f"species/{species.key}/{name}", value)
        self._species = None
        self.set_species(species)

    def set_species(self, species: Species | None) -> None:
        """Whose comfort is shown, with the person's own limits."""
        species = self.own_limits(species) if species is not None else None
        if species != self._species:
            self._species = species
            self._work_out()

    def set_when(self, place: Position | None, time_s: float, offset_h: float) -> None:
        """Place and time that sun and moon are reckoned for."""
        self._place, self._time, self._offset_h = place, time_s, offset_h
        self._moment = math.nan
        self._lights = None
        self._work_out()

    def set_number(self, name: str, value: float) -> None:
        """Level over datum, wind, or clarity."""
        if value != value:
            return
        low, high = _BOUNDS[name]
        value = value % 360.0 if name == "wind_from_deg" else min(max(value, low), high)
        if value == (self.level_m if name == "level_m" else self._values[name]):
            return
        if name == "level_m" and self.follows_tide:
            self._keep_by_hand(True)
        self._values[name] = value
        self._settings.setValue(f"day/{self._key}/{name}", value)
        self._work_out()

    @property
    def level_m(self) -> float:
        """Water level over the chart's datum: the tide's where a table tells it, unless it was set by hand."""
        now = self.tide_now
        return self._values["level_m"] if now is None or self._by_hand else now.level_m

    # -- the tide -----------------------------------------------------------------------------------------------

    def set_tide(self, table: TideTable | None) -> None:
        """Another table of high and low water, which the level follows; None: there is none."""
        if table is not None and self._tide is not None:
            self._keep_by_hand(False)  # a new table is given to be used
        self._tide = table
        self._work_out()

    def follow_tide(self, follows: bool) -> None:
        """Let the level go with the table, or stay where it is."""
        if not follows:
            self._values["level_m"] = self.level_m
        self._keep_by_hand(not follows)
        self._work_out()

    def set_strongest_stream(self, speed_mps: float) -> None:
        """How fast the water runs at the strongest run of the table."""
        self._strongest_mps = speed_mps
        self._settings.setValue(f"day/{self._key}/strongest_stream_mps", speed_mps)
        self.changed.emit()

    def set_moment(self, time_s: float) -> None:
        """The clock goes on; the tide with it, in steps that matter to a chart."""
        if self._tide is None or abs(time_s - self.moment_s) < _TIDE_STEP_S:
            return
        before = self.level_m
        self._moment = time_s
        if abs(self.level_m - before) >= _TIDE_STEP_M:
            self._work_out()
        else:
            self.changed.emit()

    def _keep_by_hand(self, by_hand: bool) -> None:
        self._by_hand = by_hand
        self._settings.setValue(f"day/{self._key}/level_by_hand", float(by_hand))

    @property
    def moment_s(self) -> float:
        """The moment the tide is told for."""
        return self._moment if math.isfinite(self._moment) else self._time

    @property
    def tide(self) -> TideTable | None:
        """High and low water, where a table is known."""
        return self._tide

    @property
    def tide_now(self) -> TideNow | None:
        """Level and stream of the moment; None without a table that reaches it."""
        if self._tide is None or not math.isfinite(self.moment_s):
            return None
        try:
            return self._tide.at(self.moment_s, self._strongest_mps)
        except ValueError:
            return None

    @property
    def follows_tide(self) -> bool:
        """The level goes with the table."""
        return self.tide_now is not None and not self._by_hand

    @property
    def strongest_stream_mps(self) -> float:
        """At the strongest run; NaN where nobody said."""
        return self._strongest_mps

    @property
    def wind_mps(self) -> float:
        """Steady wind."""
        return self._values["wind_mps"]

    @property
    def wind_from_deg(self) -> float:
        """Where it comes from."""
        return self._values["wind_from_deg"]

    @property
    def secchi_m(self) -> float:
        """Clarity: depth at which a white disc is lost."""
        return self._values["secchi_m"]

    @property
    def profile(self) -> Profile | None:
        """Temperature by depth."""
        return self._profile

    @property
    def layer(self) -> Layer | None:
        """The cold layer where nothing blows."""
        return self._layer

    @property
    def layering(self) -> Layering:
        """What the column is; mixed without one."""
        return self._layering

    @property
    def tilt(self) -> Tilt | None:
        """What the wind does to it; None without wind or layer."""
        return self._tilt

    @property
    def layer_plane(self) -> LayerPlane | None:
        """The layer over the chart, tilted by the wind."""
        return self._layer_plane

    @property
    def fetch(self) -> Floats | None:
        """Open water upwind, on `fetch_frame`; None in a calm."""
        return self._fetch

    @property
    def fetch_frame(self) -> CellGrid | None:
        """The coarse cells of `fetch`."""
        return self._fetch_frame

    @property
    def species(self) -> Species | None:
        """Whose fish one is after."""
        return self._species

    @property
    def time_s(self) -> float:
        """The moment sun and season are reckoned for; NaN without one."""
        return self._time

    @property
    def offset_h(self) -> float:
        """Hours of the water's clock ahead of UTC."""
        return self._offset_h

    @property
    def comfort(self) -> Comfort | None:
        """Where that species could be comfortable."""
        return self._comfort

    @property
    def lights(self) -> Lights | None:
        """Sun and moon of the day; worked out when first asked for, since its library takes a moment."""
        if self._lights is None and self._place is not None and self._time == self._time:
            self._lights = lights_of(self._place, self._time, self._offset_h)
        return self._lights

    def sun_deg(self) -> float | None:
        """Height of the sun now."""
        if self._place is None or self._time != self._time:
            return None
        return sun_elevation_deg(self._place, self._time)

    def layer_at(self, x: float, y: float) -> float:
        """Depth of the layer at a place; NaN without one."""
        return math.nan if self._layer_plane is None else float(self._layer_plane.at(x, y))

    def _work_out(self) -> None:
        chart, profile = self._chart, self._profile
        self._layering, self._layer = layering(profile) if profile is not None else (Layering.MIXED, None)
        self._tilt, self._layer_plane = None, None
        if self._layer is not None:
            self._layer_plane = LayerPlane(middle_m=self._layer.middle_m)
        if chart is None or self.wind_mps <= 0:
            self._fetch, self._fetch_of = None, None
        else:
            self._blow(chart)
        self._comfort = None
        if self._species is not None and profile is not None:
            deepest = chart.deepest_m + self.level_m if chart else float(profile.depth_m[-1])
            self._comfort = comfort(self._species, profile, deepest, self.secchi_m)
        self.changed.emit()

    def _blow(self, chart: Chart) -> None:
        """Fetch and tilt, on cells coarse enough to follow a hand on the wheel."""
        grid = chart.grid
        k = max(round(math.sqrt(grid.depth_m.size / _FETCH_CELLS)), 1)
        water = grid.depth_m[k // 2 :: k, k // 2 :: k] + np.float32(self.level_m) > 0
        if not water.any():
            self._fetch, self._fetch_of = None, None
            return
        frame = grid.frame
        key = (id(chart), round(self.wind_from_deg, 1))
        if key != self._fetch_of:
            coarse = CellGrid(frame.x0_m, frame.y0_m, k * frame.cell_m, water.shape[1], water.shape[0])
            self._fetch = fetch_field(water, coarse.cell_m, self.wind_from_deg)
            self._fetch_frame, self._fetch_of = coarse, key
        if self._layer is None or self._profile is None or self._fetch is None or self._fetch_frame is None:
            return
        deepest = chart.deepest_m + self.level_m
        longest = float(self._fetch.max())
        self._tilt = layer_tilt(self._profile, self._layer, self.wind_mps, longest, deepest)
        if not math.isfinite(self._tilt.end_to_end_m):
            return  # no figure holds: the layer is drawn level, and the words say why
        x, y = np.meshgrid(self._fetch_frame.x, self._fetch_frame.y)
        self._layer_plane = tilted_layer(
            self._layer.middle_m, self._tilt.end_to_end_m, x[water], y[water], self.wind_from_deg
        )
