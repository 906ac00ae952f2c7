"""The species that is fished for, as places are ranked for it: its season, likely depths, what was seen of cover."""

from __future__ import annotations

import math
import re
from datetime import UTC, datetime, timedelta
from typing import TYPE_CHECKING, TypeVar

from plumbbob.core.chart.suits import Cover, SpeciesDay, Stream, spawn_ground, species_day
from plumbbob.formats.habits import habits_of
from plumbbob.services.places import roaming_places
from plumbbob.wording.compass import POINTS

if TYPE_CHECKING:
    from plumbbob.core.chart.build import Chart
    from plumbbob.core.chart.feature import Feature
    from plumbbob.core.types import Floats
    from plumbbob.desk.models.session import Session

_T = TypeVar("_T")
_ICE_C = 1.0
_BLOWS_MPS = 2.0
_COVER = ("dock", "bridge", "brush", "timber", "weed", "stones", "wood")
_ANGLER = ("bank angler", "angler on the bank", "bank anglers")
_CURRENT = re.compile(r"current\s+(\d+(?:[.,]\d+)?)\s*(?:m/s)?\s*(?:to(?:wards)?\s+)?([a-z]{1,3}|\d+(?:\.\d+)?)\b")


def current_told(words: str) -> tuple[float, float] | None:
    """
    Speed, m/s, and direction of a current as a mark's name tells it; None where it tells none.

    Examples
    --------
    >>> current_told("current 0.4 m/s to NE"), current_told("Current 0,6 to 200"), current_told("old dock")
    ((0.4, 45.0), (0.6, 200.0), None)
    """
    found = _CURRENT.search(words.lower())
    if found is None:
        return None
    speed = float(found[1].replace(",", "."))
    point = found[2].upper()
    if point in POINTS:
        return (speed, 22.5 * POINTS.index(point)) if speed <= 6.0 else None
    try:
        turn = float(found[2])
    except ValueError:
        return None
    return (speed, turn % 360.0) if speed <= 6.0 and turn <= 360.0 else None


_BUILT = re.compile(r"\b(dock|bridge)\s+(\d+(?:[.,]\d+)?)\s*m\s+to\s+(\d+(?:\.\d+)?|[a-z]{1,3})\b")


def built_told(words: str) -> tuple[str, float, float] | None:
    """
    Kind, length in metres and direction of a dock or bridge as a mark's name tells them; None where it tells none.

    Examples
    --------
    >>> built_told("bridge 120 m to 45°"), built_told("Dock 14 m to NE"), built_told("old dock")
    (('bridge', 120.0, 45.0), ('dock', 14.0, 45.0), None)
    """
    found = _BUILT.search(words.lower())
    if found is None:
        return None
    point = found[3].upper()
    turn = 22.5 * POINTS.index(point) if point in POINTS else float(found[3]) if found[3][0].isdigit() else math.nan
    return (found[1], float(found[2].replace(",", ".")), turn % 360.0) if math.isfinite(turn) else None


class FishedFor:
    """Works out the species' day for a session; what takes a moment is kept until chart, species or level change."""

    def __init__(self, session: Session) -> None:
        self._session = session
        self._ground: tuple[object, Floats] = ((), _nothing())
        self._roaming: tuple[object, tuple[Feature, ...]] = ((), ())

    def day(self) -> SpeciesDay | None:
        """The species in its season; None without species, column or chart."""
        session, day = self._session, self._session.conditions
        chart, species, profile, place = session.chart.chart, day.species, day.profile, session.water.place
        habits = None if species is None else habits_of(species.key)
        if chart is None or species is None or habits is None or profile is None:
            return None
        when = datetime.fromtimestamp(day.time_s if math.isfinite(day.time_s) else 0.0, UTC)
        sun = day.sun_deg()
        return species_day(
            species,
            habits,
            profile,
            max(chart.deepest_m + day.level_m, 0.5),
            day_of_year=(when + timedelta(hours=day.offset_h)).timetuple().tm_yday,
            latitude=45.0 if place is None else place.latitude,
            secchi_m=day.secchi_m,
            sun_deg=40.0 if sun is None else sun,
            layer_m=math.nan if day.layer is None else day.layer.middle_m,
            ice=float(profile.temperature_c[0]) < _ICE_C,
            ground=self._spawn_ground(chart, species.key, habits.spawn_m),
        )

    def _spawn_ground(self, chart: Chart, key: str, spawn_m: tuple[float, float]) -> Floats | None:
        if not math.isfinite(spawn_m[0]):
            return None
        level = self._session.conditions.level_m
        of = (id(chart), key, round(level, 1))
        if self._ground[0] != of:
            self._ground = of, spawn_ground(chart.grid.frame, chart.grid.depth_m, spawn_m, level)
        return self._ground[1]

    def roaming(self, who: SpeciesDay | None) -> tuple[Feature, ...]:
        """Places over open water, for those that roam."""
        session, day, chart = self._session, self._session.conditions, self._session.chart.chart
        if who is None or who.prior is None or chart is None:
            return ()
        to = (day.wind_from_deg + 180.0) % 360.0 if day.wind_mps >= _BLOWS_MPS else None
        of = (id(chart), who.habits.key, who.season, who.prior.band(), round(day.level_m, 1), to, session.water.key)
        if self._roaming[0] != of:
            self._roaming = of, roaming_places(chart, who, chart.features, day.level_m, to)
        return self._roaming[1]

    def cover(self, chart: Chart) -> tuple[Cover, ...]:
        """Timber, brush and weed of the open pass, and marks that are named so."""
        reading = self._session.scan.reading
        side = reading.side
        seen = [(t.latitude, t.longitude, t.detail or t.kind) for t in reading.standing]
        seen += [(t.latitude, t.longitude, t.kind) for t in (side.things if side is not None else ())]
        seen += [
            (g.latitude, g.longitude, g.kind) for g in (side.ground if side is not None else ()) if g.kind == "weed"
        ]
        seen = [one for one in seen if one[2] not in ("edge", "unknown")]
        named = []
        for name, latitude, longitude in self._named():
            kind = next((c for c in _COVER if c in name), None)
            if kind is not None:
                named.append((latitude, longitude, (kind, built_told(name))))
        found = [Cover(x=x, y=y, kind=kind) for x, y, kind in _on(chart, seen)]
        for x, y, (kind, built) in _on(chart, named):
            end = None
            if built is not None:
                kind, long, turn = built[0], built[1], math.radians(built[2])
                end = (x + long * math.sin(turn), y + long * math.cos(turn))
            found.append(Cover(x=x, y=y, kind=kind, end=end))
        return tuple(found)

    def streams(self, chart: Chart) -> tuple[Stream, ...]:
        """Current where a mark is named after it: "current 0.4 m/s to NE"."""
        told = [(lat, lon, found) for name, lat, lon in self._named() if (found := current_told(name)) is not None]
        return tuple(Stream(x=x, y=y, speed_mps=v, to_deg=to) for x, y, (v, to) in _on(chart, told))

    def anglers(self, chart: Chart) -> tuple[tuple[float, float], ...]:
        """People on the bank, where a mark says so."""
        said = [(lat, lon, None) for name, lat, lon in self._named() if any(word in name for word in _ANGLER)]
        return tuple((x, y) for x, y, _ in _on(chart, said))

    def _named(self) -> list[tuple[str, float, float]]:
        """Names of marks in small letters, with their places; those of many marks are only looked through."""
        marks = self._session.logbook.marks
        if not len(marks):
            return []
        latitude, longitude = marks.numbers("latitude"), marks.numbers("longitude")
        return [
            (name.lower(), float(latitude[i]), float(longitude[i]))
            for i, name in enumerate(marks.cells("name"))
            if isinstance(name, str) and name
        ]


def _on(chart: Chart, seen: list[tuple[float, float, _T]]) -> list[tuple[float, float, _T]]:
    """On the chart's plane; what has no place is left out."""
    out = []
    for latitude, longitude, what in seen:
        if latitude == latitude and longitude == longitude:
            x, y = chart.plane.to_xy(latitude, longitude)
            out.append((float(x), float(y), what))
    return out


def _nothing() -> Floats:
    import numpy as np

    return np.zeros((0, 2))
