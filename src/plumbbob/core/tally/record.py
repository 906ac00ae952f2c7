"""What a log says of fishing, as arrays: stretches of effort with their conditions, and the fish of them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from plumbbob.core.types import Floats

Codes = NDArray[np.int64]
# conditions that are numbers, and those that are names
NUMBERS = (
    "bottom_m", "lure_depth_m", "lure_length_m", "speed_mps", "wind_mps", "wind_from_deg", "water_temperature_c",
    "layer_m", "bait_distance_m",
)  # fmt: skip
WORDS = ("spot", "method", "lure", "lure_kind", "colour")


@dataclass(frozen=True, slots=True)
class Words:
    """A condition that is a name: a code an effort (-1 where unknown), and the names."""

    code: Codes
    names: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class FishingRecord:
    """
    Efforts and catches of one log.

    Parameters
    ----------
    trip, water : (n,) int arrays
        Codes of an effort's trip, 0 to `trips`, and of its water.
    start_s, end_s : (n,) arrays
        Seconds since 1970 UTC.
    rods : (n,) array
    utc_offset_s : (n,) array
        Of the water's clock at the start.
    latitude, longitude : (n,) arrays
        Where it was fished, NaN where unknown.
    water_latitude, water_longitude : (n,) arrays
        The water's own place, NaN where unknown.
    numbers : mapping
        (n,) arrays by the names of `NUMBERS`, SI, NaN where unknown.
    words : mapping
        By the names of `WORDS`.
    catch_effort : (k,) int array
        The effort that caught it.
    catch_s : (k,) array
        NaN where unknown.
    trips : int
        All trips, also those without an effort.
    """

    trip: Codes
    water: Codes
    start_s: Floats
    end_s: Floats
    rods: Floats
    utc_offset_s: Floats
    latitude: Floats
    longitude: Floats
    water_latitude: Floats
    water_longitude: Floats
    numbers: Mapping[str, Floats]
    words: Mapping[str, Words]
    catch_effort: Codes
    catch_s: Floats
    trips: int

    @property
    def hours(self) -> Floats:
        """Rod hours of each effort."""
        return (self.end_s - self.start_s) / 3600.0 * self.rods
