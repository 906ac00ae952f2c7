"""Places on the WGS 84 ellipsoid: offsets, distances, the UTM plane of a chart, and how a position is written."""

from __future__ import annotations

import math
import re
from dataclasses import dataclass
from functools import lru_cache
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import ArrayLike

from plumbbob.core.types import Floats

if TYPE_CHECKING:
    from pyproj import Transformer


@dataclass(frozen=True, slots=True)
class Position:
    """A place: degrees north and degrees east (WGS 84)."""

    latitude: float
    longitude: float

    def __post_init__(self) -> None:
        if not (-90.0 <= self.latitude <= 90.0 and -360.0 <= self.longitude <= 360.0):
            raise ValueError(f"no such place: latitude {self.latitude:g}, longitude {self.longitude:g}")


def metres_per_degree(latitude: ArrayLike) -> tuple[Floats, Floats]:
    """
    Length of one degree of latitude and of longitude.

    Parameters
    ----------
    latitude : array_like of shape S, degrees

    Returns
    -------
    north, east : ndarrays of shape S
        Metres per degree along the meridian and along the parallel.

    Notes
    -----
    Series for WGS 84, good to centimetres per degree.

    Examples
    --------
    >>> north, east = metres_per_degree(45.0)
    >>> round(float(north), 2), round(float(east), 2)
    (111131.78, 78846.81)
    """
    p = np.radians(np.asarray(latitude, dtype=np.float64))
    north = 111132.954 - 559.822 * np.cos(2 * p) + 1.175 * np.cos(4 * p)
    east = 111412.84 * np.cos(p) - 93.5 * np.cos(3 * p) + 0.118 * np.cos(5 * p)
    return north, east


def offset(latitude: ArrayLike, longitude: ArrayLike, east_m: ArrayLike, north_m: ArrayLike) -> tuple[Floats, Floats]:
    """
    Move positions by metres east and north (up to some kilometres); longitudes come back in -180..180.

    Parameters
    ----------
    latitude, longitude : array_like, broadcast together to shape S, degrees
    east_m, north_m : array_like, broadcast to shape S, metres

    Returns
    -------
    latitude, longitude : ndarrays of shape S, degrees

    Notes
    -----
    East is along the parallel half way. Against the geodesic of the same length and bearing a step of 100 m is off by
    1 mm at 45 degrees and 4 mm at 80, one of 1 km by 8 cm and 44 cm; it grows with the square of the step.
    """
    lat = np.asarray(latitude, dtype=np.float64)
    lon = np.asarray(longitude, dtype=np.float64)
    per_north, _ = metres_per_degree(lat)
    new_lat = lat + np.asarray(north_m) / per_north
    _, per_east = metres_per_degree((lat + new_lat) / 2)
    new_lon = lon + np.asarray(east_m) / per_east
    return new_lat, (new_lon + 180.0) % 360.0 - 180.0


def along_heading(heading_deg: ArrayLike, forward_m: ArrayLike, starboard_m: ArrayLike) -> tuple[Floats, Floats]:
    """
    Turn an offset in the boat's frame into metres east and north.

    Examples
    --------
    >>> east, north = along_heading(30.0, 5.0, 2.0)
    >>> round(float(east), 3), round(float(north), 3)
    (4.232, 3.33)
    """
    h = np.radians(np.asarray(heading_deg, dtype=np.float64))
    f, a = np.asarray(forward_m), np.asarray(starboard_m)
    return f * np.sin(h) + a * np.cos(h), f * np.cos(h) - a * np.sin(h)


def separation(
    latitude_a: ArrayLike, longitude_a: ArrayLike, latitude_b: ArrayLike, longitude_b: ArrayLike
) -> tuple[Floats, Floats]:
    """Metres east and north from a to b, for places some kilometres apart at most."""
    lat_a, lat_b = np.asarray(latitude_a, dtype=np.float64), np.asarray(latitude_b, dtype=np.float64)
    per_north, _ = metres_per_degree((lat_a + lat_b) / 2)
    _, per_east = metres_per_degree((lat_a + lat_b) / 2)
    turn = (np.asarray(longitude_b) - np.asarray(longitude_a) + 180.0) % 360.0 - 180.0
    return turn * per_east, (lat_b - lat_a) * per_north


def distance_m(a: Position, b: Position) -> float:
    """Metres between two places some kilometres apart at most."""
    east, north = separation(a.latitude, a.longitude, b.latitude, b.longitude)
    return math.hypot(float(east), float(north))


def bearing_deg(a: Position, b: Position) -> float:
    """Direction from a to b, degrees clockwise from true north, 0 to 360."""
    east, north = separation(a.latitude, a.longitude, b.latitude, b.longitude)
    return math.degrees(math.atan2(float(east), float(north))) % 360.0


def write_position(place: Position) -> str:
    """
    Degrees and decimal minutes, the way sailors write them.

    Examples
    --------
    >>> write_position(Position(44.2053, -40.0658))
    "44°12.318'N  40°03.948'W"
    """

    def part(value: float, letters: str, width: int) -> str:
        minutes = round(abs(value) * 60.0, 3)
        degrees, minutes = divmod(minutes, 60.0)
        return f"{int(degrees):0{width}d}°{minutes:06.3f}'{letters[value < 0]}"

    return f"{part(place.latitude, 'NS', 2)}  {part(place.longitude, 'EW', 2)}"


def parse_position(text: str) -> Position:
    """
    A place as people write it: degrees, or degrees and minutes, with letters or signs; latitude first.

    Raises
    ------
    ValueError
        In one line, with an example.

    Examples
    --------
    >>> p = parse_position("44°12.318'N  40°03.948'W")
    >>> round(p.latitude, 4), round(p.longitude, 4)
    (44.2053, -40.0658)
    >>> parse_position("44.2053, -40.0658").longitude
    -40.0658
    """
    marks = re.sub(r"[°'′\",;]", " ", text.upper())
    found = re.fullmatch(
        r"\s*(-?\d+(?:\.\d+)?)(?:\s+(\d+(?:\.\d+)?))?\s*([NS])?\s+(-?\d+(?:\.\d+)?)(?:\s+(\d+(?:\.\d+)?))?\s*([EW])?\s*",
        marks,
    )
    if found is None:
        raise ValueError(f"{text!r} is no position: write 44.2053 N 40.0658 W")
    lat, lat_min, ns, lon, lon_min, ew = found.groups()

    def part(degrees: str, minutes: str | None, letter: str | None, negative: str) -> float:
        value = abs(float(degrees)) + (float(minutes) / 60.0 if minutes else 0.0)
        return -value if degrees.startswith("-") or letter == negative else value

    place = Position(part(lat, lat_min, ns, "S"), part(lon, lon_min, ew, "W"))
    if abs(place.latitude) > 90.0 or abs(place.longitude) > 180.0:
        raise ValueError(f"{text!r} lies nowhere on earth: latitude comes first")
    return place


def utm_epsg(place: Position) -> int:
    """
    EPSG code of the UTM zone (WGS 84) around a place.

    Examples
    --------
    >>> utm_epsg(Position(44.2, -40.05)), utm_epsg(Position(-23.5, 151.2))
    (32624, 32756)
    """
    zone = math.floor((place.longitude + 180.0) / 6.0) % 60 + 1
    return (32600 if place.latitude >= 0 else 32700) + zone


@lru_cache(120)
def _projection(epsg: int) -> Transformer:
    from pyproj import Transformer  # a sixth of a second that reading a sounding or solving a rod does without

    half = "+south " if epsg >= 32700 else ""
    return Transformer.from_pipeline(
        f"+proj=pipeline +step +proj=unitconvert +xy_in=deg +xy_out=rad +step +proj=utm +zone={epsg % 100} {half}"
        "+ellps=WGS84"
    )


@dataclass(frozen=True, slots=True)
class Plane:
    """
    One UTM zone; eastings and northings in metres.

    Notes
    -----
    Transverse Mercator by PROJ, good to a micrometre within a zone.

    Examples
    --------
    >>> x, y = Plane(32624).to_xy(44.2, -40.05)
    >>> round(float(x), 3), round(float(y), 3)
    (416100.345, 4894622.781)
    """

    epsg: int

    def __post_init__(self) -> None:
        if not (32601 <= self.epsg <= 32660 or 32701 <= self.epsg <= 32760):
            raise ValueError(f"EPSG:{self.epsg} is no UTM zone")

    def to_xy(self, latitude: ArrayLike, longitude: ArrayLike) -> tuple[Floats, Floats]:
        """Eastings and northings of places, metres; NaN places give NaN."""
        x, y = _projection(self.epsg).transform(np.asarray(longitude, np.float64), np.asarray(latitude, np.float64))
        return np.asarray(x), np.asarray(y)

    def to_latlon(self, x: ArrayLike, y: ArrayLike) -> tuple[Floats, Floats]:
        """Latitudes and longitudes of points, degrees."""
        longitude, latitude = _projection(self.epsg).transform(
            np.asarray(x, np.float64), np.asarray(y, np.float64), direction="INVERSE"
        )
        return np.asarray(latitude), (np.asarray(longitude) + 180.0) % 360.0 - 180.0

    def place(self, x: float, y: float) -> Position:
        """One place."""
        latitude, longitude = self.to_latlon(x, y)
        return Position(float(latitude), float(longitude))
