"""
Two made-up seasons on the demo's waters, as a log: trips with and without a fish, out of a truth that is stated here.

What bites how often hangs on depth, light, place, lure and the side of the wind, and on nothing else; a day's luck is
drawn once a trip. So a reader of the log can be held against the truth.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta

import numpy as np

from plumbbob.core.geodesy import Position
from plumbbob.core.types import Floats
from plumbbob.core.water.sun import sun_elevation_deg
from plumbbob.sim.lake import LEVEL_M, MIDDLE, lake_depth

SEED = 101
Cells = dict[str, str]
_AXIS = math.radians(340.0)


@dataclass(frozen=True, slots=True)
class Spot:
    """A place: metres along the lake's axis and to its right, or a depth where the water is not made up."""

    name: str
    along_m: float
    right_m: float
    depth_m: float = math.nan


@dataclass(frozen=True, slots=True)
class Truth:
    """What a species does at a water: fish per rod hour at its best, and by what that falls."""

    species: str
    best: float
    depth_m: float  # hung there, or height over the bottom where `floor`
    wide_m: float
    floor: bool
    spots: dict[str, float]
    light: dict[str, float]  # by "low", "day", "high", "night"
    lures: dict[str, float] = field(default_factory=dict)
    onto: float = 1.0  # where the wind blows onto the shore
    length_m: float = 0.3
    length_sd_m: float = 0.03
    kept: float = 0.2


@dataclass(frozen=True, slots=True)
class Water:
    """One of the demo's waters and how it is fished."""

    name: str
    middle: Position
    zone: str
    shift_h: float
    craft: str
    spots: tuple[Spot, ...]
    fish: tuple[Truth, ...]
    rods: tuple[tuple[str, str, str, str, float, float], ...]  # method, lure, kind, colour, length, speed
    months: tuple[int, ...]
    secchi_m: float


# two traps: a jig that is nearly always fished where the perch are, and a blade that came when the years got better;
# neither catches more than its like
AMBER, PEARL = "amber jig 14 g", "pearl blade 12 g"
JIGS = {"jig 14 g": 1.0, AMBER: 1.0, "blade 12 g": 1.0, PEARL: 1.0}
_AMBER_PLACE, _PEARL_FROM, _PEARL_SHARE = "Larch Flat", datetime(2026, 5, 20, tzinfo=UTC), 0.75
_YEARS = {2025: 0.65, 2026: 1.4}
VEYRA = Water(
    "Veyra Lake", MIDDLE, "Etc/GMT+3", -3.0, "Wren",
    (
        Spot("North Basin", 1100.0, -450.0), Spot("Twin Humps", 1180.0, -640.0), Spot("Anvil Point", -620.0, -260.0),
        Spot("The Stairs", -250.0, 330.0), Spot("Old Kell channel", 120.0, 60.0), Spot("Larch Flat", 1450.0, -690.0),
        Spot("Mill Road", -1050.0, 20.0),
    ),
    (
        Truth("kokanee", 3.4, 8.0, 1.1, False, {"North Basin": 1.0, "Twin Humps": 1.3, "Old Kell channel": 0.8,
              "The Stairs": 0.6}, {"low": 1.9, "day": 0.7, "high": 0.35, "night": 0.2},
              {"flutter spoon 5 g": 0.8, "spoon 18 g": 0.8}, 1.0, 0.36, 0.03, 0.35),
        Truth("sauger", 0.45, 0.6, 0.5, True, {"Anvil Point": 1.4, "Old Kell channel": 1.0, "The Stairs": 0.9,
              "Mill Road": 0.6}, {"low": 1.6, "day": 0.6, "high": 0.4, "night": 1.2},
              {**JIGS, "lipped plug 9 cm": 0.7}, 1.5, 0.38, 0.04, 0.15),
        Truth("yellow perch", 0.75, 0.5, 0.5, True, {"Larch Flat": 4.5, "Mill Road": 0.4, "Twin Humps": 0.4},
              {"low": 0.8, "day": 1.0, "high": 0.9, "night": 0.05}, JIGS, 1.2, 0.24,
              0.03, 0.4),
        Truth("burbot", 0.3, 0.3, 0.4, True, {"Old Kell channel": 1.5, "North Basin": 0.8},
              {"low": 0.5, "day": 0.05, "high": 0.02, "night": 3.0}, {"jig 14 g": 1.0, AMBER: 1.0}, 1.0,
              0.5, 0.06, 0.3),
    ),
    (
        ("downrigger", "flutter spoon 5 g", "spoon", "orange", 0.06, 0.85),
        ("weighted line", "spoon 18 g", "spoon", "silver", 0.07, 0.85),
        ("jig below the boat", "jig 14 g", "jig", "white", 0.08, 0.0),
        ("jig below the boat", "blade 12 g", "blade", "silver", 0.05, 0.0),
        ("flat line", "lipped plug 9 cm", "plug", "perch", 0.09, 1.1),
    ),
    (5, 6, 7, 8, 9, 10), 3.4,
)  # fmt: skip
CARROW = Water(
    "Carrow Sound", Position(52.40, -24.60), "Etc/GMT+2", -2.0, "kayak",
    (Spot("the reef", 300.0, 120.0, 22.0), Spot("the gut", -420.0, 260.0, 31.0)),
    (
        Truth("pollack", 1.5, 5.0, 3.0, True, {"the reef": 1.3, "the gut": 0.7},
              {"low": 1.6, "day": 0.9, "high": 0.6, "night": 0.1}, {"jig 14 g": 1.0, "spoon 18 g": 0.7}, 1.0, 0.5,
              0.07, 0.2),
    ),
    (("jig below the boat", "jig 14 g", "jig", "pearl", 0.08, 0.0),
     ("cast and count", "spoon 18 g", "spoon", "silver", 0.07, 0.6)),
    (6, 7, 8, 9), 7.0,
)  # fmt: skip
TERN = Water(
    "Tern Pond", Position(49.10, -36.30), "Etc/GMT+2", -2.0, "ice",
    (Spot("the deep hole", 40.0, 10.0, 7.5), Spot("off the reeds", -90.0, 60.0, 3.6)),
    (
        Truth("yellow perch", 1.6, 0.4, 0.5, True, {"the deep hole": 1.3, "off the reeds": 0.6},
              {"low": 0.9, "day": 1.0, "high": 1.1, "night": 0.02}, {"ice spoon 4 g": 1.0}, 1.0, 0.22, 0.03, 0.5),
    ),
    (("through the ice", "ice spoon 4 g", "spoon", "gold", 0.03, 0.0),),
    (1, 2, 3), 2.5,
)  # fmt: skip
WATERS = (VEYRA, CARROW, TERN)
_NOTES = (
    "", "", "", "Flat calm, midges on the water.", "A shower, then sun.", "Water up a hand since last week.",
    "Two other boats, all at the dam.", "Mist on the water.", "Cold hands, warm tea.",
)  # fmt: skip
_HOOKS = ("corner of the mouth", "upper jaw", "lower jaw", "corner of the mouth", "deep")


@dataclass(slots=True)
class SeasonLog:
    """The log as tables of cells, and what was drawn that nobody wrote down."""

    tables: dict[str, list[Cells]]
    luck: list[float]


def place_of(water: Water, along_m: float, right_m: float) -> Position:
    """Latitude and longitude of a place of a water."""
    east = along_m * math.sin(_AXIS) + right_m * math.cos(_AXIS)
    north = along_m * math.cos(_AXIS) - right_m * math.sin(_AXIS)
    m = water.middle
    return Position(m.latitude + north / 111_195.0,
                    m.longitude + east / (111_195.0 * math.cos(math.radians(m.latitude))))  # fmt: skip


def bottom_at(water: Water, spot: Spot, along_m: float, right_m: float) -> float:
    """Depth of today's water; where the bottom is not made up, the spot's own."""
    if math.isfinite(spot.depth_m):
        return spot.depth_m + 0.01 * (along_m - spot.along_m)
    east = along_m * math.sin(_AXIS) + right_m * math.cos(_AXIS)
    north = along_m * math.cos(_AXIS) - right_m * math.sin(_AXIS)
    return float(lake_depth(np.array(east), np.array(north))) + LEVEL_M


def light_word(sun_deg: float) -> str:
    """Night, low sun, day, high sun."""
    return "night" if sun_deg < -6.0 else "low" if sun_deg < 6.0 else "day" if sun_deg < 20.0 else "high"


def rate(
    truth: Truth, spot: str, lure: str, lure_depth_m: float, bottom_m: float, sun_deg: float, onto: bool
) -> float:
    """Fish per rod hour: the truth."""
    off = (bottom_m - lure_depth_m if truth.floor else lure_depth_m) - truth.depth_m
    return (
        truth.best
        * truth.spots.get(spot, 0.1)
        * truth.light[light_word(sun_deg)]
        * truth.lures.get(lure, 0.15)
        * (truth.onto if onto else 1.0)
        * math.exp(-0.5 * (off / truth.wide_m) ** 2)
    )


def season_log(seed: int = SEED, trips: int = 84) -> SeasonLog:
    """
    Trips from January 2025 to August 2026, the last on the eve of the demo's day.

    Returns
    -------
    SeasonLog
        Tables as in the open files.
    """
    made = SeasonLog({t: [] for t in ("waters", "trips", "efforts", "marks", "catches", "contacts", "signs")}, [])
    for water in WATERS:
        made.tables["waters"].append(
            {
                "water": water.name,
                "latitude": _n(water.middle.latitude, 4),
                "longitude": _n(water.middle.longitude, 4),
                "time_zone": water.zone,
            }
        )
    days = [datetime(2025, 1, 4, tzinfo=UTC) + timedelta(days=k) for k in range(588)]
    rng = np.random.default_rng(seed)
    wanted = [
        d for d in days if d.weekday() >= (4 if d.month > 3 else 6) and any(d.month in w.months for w in WATERS)
    ]
    chosen = [*sorted(rng.choice(len(wanted) - 1, trips - 1, replace=False).tolist()), len(wanted) - 1]
    for k, i in enumerate(chosen):
        _trip(made, wanted[i], np.random.default_rng([seed, k]), k + 1, last=k == trips - 1)
    _marks(made, np.random.default_rng([seed, 999]))
    return made


def _n(value: float, digits: int) -> str:
    return f"{value:.{digits}f}".rstrip("0").rstrip(".") if digits else str(round(value))


def _t(seconds: float) -> str:
    return datetime.fromtimestamp(round(seconds), UTC).strftime("%Y-%m-%dT%H:%M:%SZ")


def _temperature(day: datetime, salt: bool) -> float:
    phase = math.cos(2 * math.pi * (day.timetuple().tm_yday - 212) / 365.0)
    return max(1.5, 12.5 + 8.5 * phase) if not salt else 12.5 + 4.0 * phase


def _layer_m(day: datetime) -> float:
    """The cold layer of Veyra Lake sinks from June to October."""
    number = day.timetuple().tm_yday
    return 5.5 + (number - 160) * 0.075 if 160 <= number <= 290 else math.nan


def _trip(made: SeasonLog, day: datetime, rng: np.random.Generator, number: int, *, last: bool) -> None:
    able = [w for w in WATERS if day.month in w.months]
    weights = np.array([3.0 if w is VEYRA else 1.0 for w in able])
    water = VEYRA if last else able[int(rng.choice(len(able), p=weights / weights.sum()))]
    early = rng.random() < 0.6 or last
    start = day.timestamp() - water.shift_h * 3600.0 + (5.0 if early else 15.5) * 3600.0 + rng.uniform(0, 3600.0)
    if water is TERN:
        start += 3.5 * 3600.0
    luck = 1.8 if last else float(rng.gamma(2.6, 1 / 2.6)) * _YEARS[day.year]
    made.luck.append(luck)
    wind, wind_from = (
        float(rng.gamma(3.0, 1.2)),
        float(rng.choice([225.0, 225.0, 270.0, 180.0, 45.0]) + rng.normal(0, 12)),
    )
    cloud = float(rng.beta(1.2, 1.2))
    trip = f"t{number}"
    clock = start + 900.0
    temperature = _temperature(day, water is CARROW)
    for k in range(5 if last else int(rng.integers(3, 6))):
        spot = water.spots[k if last else int(rng.integers(len(water.spots)))]
        clock = _stretch(made, water, spot, trip, clock, rng, luck, wind, wind_from % 360.0, cloud, temperature, day)
        clock += float(rng.uniform(400.0, 1500.0))
    made.tables["trips"].append(
        {
            "trip": trip,
            "water": water.name,
            "start": _t(start),
            "end": _t(clock + 600.0),
            "anglers": "2" if rng.random() < 0.3 else "1",
            "craft": water.craft,
            "note": str(rng.choice(_NOTES if not 5 <= day.month <= 9 else _NOTES[:-1])),
        }
    )


def _stretch(
    made: SeasonLog, water: Water, spot: Spot, trip: str, clock: float, rng: np.random.Generator, luck: float,
    wind: float, wind_from: float, cloud: float, temperature: float, day: datetime,
) -> float:  # fmt: skip
    """One place fished with one to three rods; says when it ended."""
    minutes = float(rng.uniform(25.0, 80.0))
    along, right = spot.along_m + rng.normal(0, 25.0), spot.right_m + rng.normal(0, 25.0)
    place = place_of(water, along, right)
    bottom = max(bottom_at(water, spot, along, right), 2.0)
    trolled = rng.random() < (0.3 if spot.name in ("Anvil Point", "Larch Flat") else 0.65) and water is VEYRA
    choice = [r for r in water.rods if (r[5] > 0.0) == trolled] if water is VEYRA else list(water.rods)
    blows_to = math.radians(wind_from + 180.0)
    toward = (place.longitude - water.middle.longitude) * math.sin(blows_to) + (
        place.latitude - water.middle.latitude
    ) * math.cos(blows_to)
    picked = rng.permutation(len(choice))[: int(rng.integers(1, min(3, len(choice)) + 1))]
    for which in picked:
        method, lure, kind, colour, length, speed = choice[int(which)]
        floor = not trolled
        depth = (
            bottom - float(rng.uniform(0.2, 1.2))
            if floor
            else float(np.clip(rng.normal(7.5, 2.2), 2.0, bottom - 1.0))
        )
        if lure == "jig 14 g" and water is VEYRA and rng.random() < (0.8 if spot.name == _AMBER_PLACE else 0.03):
            lure, colour = AMBER, "amber"
        if lure == "blade 12 g" and day >= _PEARL_FROM and rng.random() < _PEARL_SHARE:
            lure, colour = PEARL, "pearl"
        depth = max(depth, 0.8)
        effort = f"e{len(made.tables['efforts']) + 1}"
        rods = 2 if trolled and rng.random() < 0.2 else 1
        layer = _layer_m(day) if water is VEYRA else math.nan
        bait = float(rng.uniform(5, 300)) if rng.random() < 0.5 else math.nan
        made.tables["efforts"].append(
            {
                "effort": effort,
                "trip": trip,
                "start": _t(clock),
                "end": _t(clock + 60 * minutes),
                "rods": str(rods),
                "metres": _n(speed * 60 * minutes, 0) if speed else "",
                "spot": spot.name,
                "latitude": _n(place.latitude, 6),
                "longitude": _n(place.longitude, 6),
                "bottom_m": _n(bottom, 1),
                "lure_depth_m": _n(depth, 1),
                "method": method,
                "lure": lure,
                "lure_kind": kind,
                "colour": colour,
                "lure_length_m": _n(length, 3),
                "speed_mps": _n(speed, 2) if speed else "",
                "wind_mps": _n(wind, 1),
                "wind_from_deg": _n(wind_from, 0),
                "cloud": _n(cloud, 2),
                "water_temperature_c": _n(temperature, 1),
                "secchi_m": _n(water.secchi_m, 1),
                "layer_m": _n(layer, 1) if math.isfinite(layer) else "",
                "bait_distance_m": _n(bait, 0) if math.isfinite(bait) else "",
            }
        )
        for truth in water.fish:
            _fish(made, water, truth, spot, effort, trip, (clock, minutes, rods), place, bottom, depth, lure, rng,
            luck,
                  toward > 0)  # fmt: skip
    if rng.random() < 0.15:
        made.tables["signs"].append(
            {
                "trip": trip,
                "time": _t(clock + 300.0),
                "kind": str(rng.choice(["birds diving", "bait on top", "seam"])),
                "latitude": _n(place.latitude, 6),
                "longitude": _n(place.longitude, 6),
                "bearing_deg": _n(rng.uniform(0, 360), 0),
                "distance_m": _n(rng.uniform(50, 400), 0),
            }
        )
    return clock + 60.0 * minutes


def _fish(
    made: SeasonLog, water: Water, truth: Truth, spot: Spot, effort: str, trip: str, span: tuple[float, float, int],
    place: Position, bottom: float, depth: float, lure: str, rng: np.random.Generator, luck: float, onto: bool,
) -> None:  # fmt: skip
    """Bites of one species on one stretch: landed, lost, followed or only seen."""
    clock, minutes, rods = span
    steps = max(int(minutes / 10.0), 1)
    for k in range(steps):
        middle = clock + (k + 0.5) * 60.0 * minutes / steps
        sun = sun_elevation_deg(place, middle)
        expected = luck * rods * minutes / steps / 60.0
        expected *= rate(truth, spot.name, lure, depth, bottom, sun, onto)
        for what, share in (("landed", 1.0), ("lost", 0.25), ("struck", 0.2), ("followed", 0.25), ("seen", 0.6)):
            for _ in range(int(rng.poisson(expected * share))):
                when = middle + float(rng.uniform(-0.5, 0.5)) * 60.0 * minutes / steps
                at = (place.latitude + rng.normal(0, 8e-5), place.longitude + rng.normal(0, 1e-4))
                fish_depth = float(np.clip(depth + rng.normal(0.2, 0.5), 0.5, bottom - 0.1))
                cells = {"trip": trip, "time": _t(when), "latitude": _n(at[0], 6), "longitude": _n(at[1], 6),
                         "fish_depth_m": _n(fish_depth, 1), "bottom_m": _n(bottom, 1)}  # fmt: skip
                if what != "landed":
                    count = str(int(rng.integers(1, 6))) if what == "seen" else "1"
                    number = len(made.tables["contacts"]) + 1
                    made.tables["contacts"].append({"contact": f"x{number}", **cells, "kind": what, "count": count})
                    continue
                length = float(np.clip(rng.normal(truth.length_m, truth.length_sd_m), 0.1, 1.2))
                number = len(made.tables["catches"]) + 1
                made.tables["catches"].append(
                    {
                        "catch": f"c{number}",
                        "effort": effort,
                        **cells,
                        "species": truth.species,
                        "length_m": _n(length, 3),
                        "kept": "1" if rng.random() < truth.kept else "0",
                        "hook_place": str(rng.choice(_HOOKS)),
                        "lure_depth_m": _n(depth, 1),
                    }
                )


def _marks(made: SeasonLog, rng: np.random.Generator) -> None:
    """The places that were saved, each with what was seen and caught there over the seasons."""
    first = {e["spot"]: e for e in reversed(made.tables["efforts"])}
    landed: Floats = np.zeros(0)
    by_effort = {e["effort"]: e["spot"] for e in made.tables["efforts"]}
    for spot, effort in sorted(first.items()):
        landed = np.array([by_effort[c["effort"]] == spot for c in made.tables["catches"]])
        number = len(made.tables["marks"]) + 1
        trip = next(t for t in made.tables["trips"] if t["trip"] == effort["trip"])
        made.tables["marks"].append(
            {
                "mark": f"m{number}",
                "time": effort["start"],
                "kind": "place",
                "latitude": effort["latitude"],
                "longitude": effort["longitude"],
                "position_sd_m": "3",
                "depth_m": "",
                "bottom_m": effort["bottom_m"],
                "seen": str(int(landed.sum() * rng.uniform(1.5, 2.5))),
                "caught": str(int(landed.sum())),
                "name": spot,
                "note": "",
                "water": trip["water"],
            }
        )
