"""Sun, twilight and moon for a place and a day (through astral)."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, date, datetime, timedelta
from functools import partial

from plumbbob.core.geodesy import Position

_DAY_S = 86400.0
_NAUTICAL_DEG = 12.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Lights:
    """Times of one day at one place, seconds since 1970 UTC; None where the sun does not get there."""

    first_light: float | None  # sun 6 degrees under the horizon
    sunrise: float | None
    noon: float
    sunset: float | None
    last_light: float | None
    nautical_dawn: float | None  # sun 12 degrees under the horizon: shapes at sea begin to show
    nautical_dusk: float | None
    polar: str  # "day" where the sun stays up, "night" where it stays down, else empty
    moonrise: float | None
    moonset: float | None
    moon: float  # 0 new, 0.5 full


def lights_of(place: Position, time_s: float, utc_offset_h: float) -> Lights:
    """The lights of the local day that holds a time."""
    from astral import Observer, moon
    from astral.sun import dawn, dusk, noon, sunrise, sunset

    observer = Observer(place.latitude, (place.longitude + 180.0) % 360.0 - 180.0, 0.0)
    day = (datetime.fromtimestamp(time_s, UTC) + timedelta(hours=utc_offset_h)).date()
    start = datetime(day.year, day.month, day.day, tzinfo=UTC) - timedelta(hours=utc_offset_h)

    def inside(find) -> float | None:  # type: ignore[no-untyped-def]
        # the library counts in days of UTC: the event of the local day may belong to a neighbour
        for shift in (0, -1, 1):
            try:
                found = find(observer, day + timedelta(days=shift), tzinfo=UTC)
            except ValueError:
                continue
            if found is not None and 0.0 <= (found - start).total_seconds() < _DAY_S:
                return float(found.timestamp())
        return None

    return Lights(
        first_light=inside(dawn),
        sunrise=inside(sunrise),
        noon=inside(noon) or start.timestamp() + _DAY_S / 2,
        sunset=inside(sunset),
        last_light=inside(dusk),
        nautical_dawn=inside(partial(dawn, depression=_NAUTICAL_DEG)),
        nautical_dusk=inside(partial(dusk, depression=_NAUTICAL_DEG)),
        polar=_polar(place, start.timestamp()) if inside(sunrise) is None and inside(sunset) is None else "",
        moonrise=inside(moon.moonrise),
        moonset=inside(moon.moonset),
        moon=_phase(day),
    )


def _polar(place: Position, start_s: float) -> str:
    """Whether the sun stays up or down through a day on which it neither rises nor sets."""
    highest = max(sun_elevation_deg(place, start_s + h * 3600.0) for h in range(24))
    return "day" if highest > 0.0 else "night"


def _phase(day: date) -> float:
    from astral import moon

    return moon.phase(day) / 28.0 % 1.0


def sun_elevation_deg(place: Position, time_s: float) -> float:
    """Height of the sun over the horizon."""
    from astral import Observer
    from astral.sun import elevation

    observer = Observer(place.latitude, (place.longitude + 180.0) % 360.0 - 180.0, 0.0)
    return float(elevation(observer, datetime.fromtimestamp(time_s, UTC)))


def moon_eighth(phase: float) -> int:
    """Which eighth of the moon's round: 0 new, 2 first quarter, 4 full, 6 last quarter."""
    return round(phase * 8) % 8


def sun_azimuth_deg(place: Position, time_s: float) -> float:
    """Where the sun stands, degrees from north."""
    from astral import Observer
    from astral.sun import azimuth

    observer = Observer(place.latitude, (place.longitude + 180.0) % 360.0 - 180.0, 0.0)
    return float(azimuth(observer, datetime.fromtimestamp(time_s, UTC)))
