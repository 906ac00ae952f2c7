"""
Made-up seasons with a known truth: logs in which nothing matters, or one thing does, fished as people fish.

Trips have a luck of their own and are alike within, schools give several fish at once, favourites are fished most,
cells are missing. In some a trap is laid: something else goes along with what matters, or with the years.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from datetime import UTC, datetime

import numpy as np

from plumbbob.core.types import Floats
from plumbbob.core.water.sun_arrays import sun_elevations_deg

Cells = dict[str, str]
TRAPS = ("lure at the good depth", "late lure in a rising year", "good lure in poor hours")
PLANTS = (
    "lure_depth", "height_off_bottom", "light", "wind", "wind_side", "bait_distance", "layer_distance", "method",
    "lure", "colour", "spot", "water_temperature", "speed", "bottom_depth", "lure_kind", "hour_from_sunrise",
)  # fmt: skip
_LATITUDE, _LONGITUDE = 44.2, -40.05
_METHODS = ("cast and count", "jig below the boat", "downrigger", "flat line", "drift")
_KINDS = ("spoon", "jig", "plug", "soft", "blade")
_COLOURS = ("amber", "silver", "white", "green", "black", "copper")


@dataclass(frozen=True, slots=True)
class Effect:
    """What matters: a condition, the part of it, and how many times better it is there."""

    by: str
    ratio: float
    value: str = ""
    low: float = math.nan
    high: float = math.nan

    def holds(self, conditions: dict[str, Floats | list[str]]) -> Floats:
        """Where it holds, as 0 and 1; unknown is 0."""
        have = conditions[self.by]
        if self.value:
            return np.array([v == self.value for v in have], np.float64)
        x = np.asarray(have, np.float64)
        return ((x >= self.low) & (x < self.high)).astype(np.float64)


@dataclass(slots=True)
class MadeRecord:
    """A log as tables of cells, and its truth: rod hours and fish per rod hour of every ten minutes."""

    tables: dict[str, list[Cells]]
    effects: list[Effect] = field(default_factory=list)
    trap: str = ""
    trapped_by: str = ""  # the condition that only goes along
    evidence: str = ""
    rate: Floats = field(default_factory=lambda: np.zeros(0))  # of each slice, in order of effort and time
    effect_slice: Floats = field(default_factory=lambda: np.zeros(0))  # 1 where the effect holds


@dataclass(slots=True)
class _Way:
    """How this angler fishes."""

    lures: list[tuple[str, str, str, float, str, float]]  # name, kind, colour, length, method, speed
    lure_weight: Floats
    spots: list[tuple[str, float, float, float]]  # name, latitude, longitude, bottom
    spot_weight: Floats
    depth_liked: float
    stick: float
    missing: dict[str, float]


def made_record(seed: int, *, plant: bool, evidence: str = "", trap: str = "", ratio: float = 0.0) -> MadeRecord:
    """
    One log.

    Parameters
    ----------
    seed : int
    plant : bool
        Whether something matters.
    evidence : str
        "thin", "fair" or "plenty": how many trips and fish; drawn where empty.
    trap : str
        One of `TRAPS`, or none.
    ratio : float
        Of the planted effect; drawn from 2.5 and 4, or their inverse, where 0.
    """
    rng = np.random.default_rng([77, seed])
    evidence = evidence or str(rng.choice(["thin", "fair", "plenty"]))
    trips = int(rng.integers(*{"thin": (9, 20), "fair": (20, 45), "plenty": (45, 110)}[evidence]))
    way = _way(rng)
    rows = _rows(rng, way, trips)
    if trap == TRAPS[0]:
        _lure_follows_depth(rng, rows, way)
    for row in rows:
        row["start"], row["end"] = float(round(float(row["start"]))), float(round(float(row["end"])))
    made = MadeRecord({}, trap=trap, evidence=evidence)
    if plant or trap:
        made.effects = [_effect(rng, rows, way, trap, ratio)]
    if trap == TRAPS[1]:
        _late_lure(rng, rows, way, trips)
        made.trapped_by = "lure"
    elif trap == TRAPS[0]:
        made.trapped_by = "lure"
    elif trap == TRAPS[2]:
        _poor_hours(rng, rows, made.effects[0])
        made.trapped_by = "light"
    _catch(rng, made, rows, way, trips)
    return made


def _way(rng: np.random.Generator) -> _Way:
    lures = []
    for k in range(int(rng.integers(4, 9))):
        method = str(rng.choice(_METHODS[: int(rng.integers(2, 6))]))
        kind = str(rng.choice(_KINDS))
        colour = str(rng.choice(_COLOURS))
        speed = {"cast and count": 0.6, "jig below the boat": 0.0, "downrigger": 0.9, "flat line": 1.2, "drift": 0.3}
        lures.append((f"{colour} {kind} {k + 1}", kind, colour, float(rng.choice([0.04, 0.06, 0.08, 0.1, 0.13])),
                      method, speed[method]))  # fmt: skip
    spots = [
        (
            f"place {k + 1}",
            _LATITUDE + float(rng.normal(0, 0.01)),
            _LONGITUDE + float(rng.normal(0, 0.012)),
            float(rng.uniform(5, 28)),
        )
        for k in range(int(rng.integers(4, 10)))
    ]
    return _Way(
        lures, rng.dirichlet(np.full(len(lures), 0.9)) + 0.03, spots, rng.dirichlet(np.full(len(spots), 0.9)) + 0.03,
        float(rng.uniform(3, 12)), float(rng.uniform(0.2, 0.85)),
        {
            "bait_distance": float(rng.choice([0.0, 0.5, 1.0])), "layer_m": float(rng.choice([0.0, 0.3, 1.0])),
            "colour": float(rng.choice([0.0, 0.1])), "wind_mps": float(rng.choice([0.0, 0.2])),
            "lure_depth_m": float(rng.choice([0.0, 0.1])), "water_temperature_c": float(rng.choice([0.0, 0.2])),
        },
    )  # fmt: skip


Row = dict[str, float | str]


def _rows(rng: np.random.Generator, way: _Way, trips: int) -> list[Row]:
    """Stretches of effort in order of time."""
    days = np.sort(rng.choice(2 * 200, trips, replace=trips > 400))
    rows: list[Row] = []
    begin = datetime(2025, 4, 10, tzinfo=UTC).timestamp()
    for t, day in enumerate(days):
        # 200 days of each of two years
        when = begin + (day % 200 + 365 * (day // 200)) * 86400.0
        clock = when + 3 * 3600.0 + float(rng.choice([5.0, 5.0, 14.5, 17.0]) + rng.normal(0, 0.7)) * 3600.0
        season = math.sin(math.pi * (day % 200) / 200)
        weather = {"wind_mps": float(rng.gamma(3, 1.3)), "wind_from_deg": float(rng.uniform(0, 360)),
                   "cloud": float(rng.uniform()), "water_temperature_c": 6 + 14 * season + float(rng.normal(0, 0.8)),
                   "layer_m": 6.0 + 5.0 * (day % 200) / 200 + float(rng.normal(0, 0.4))}  # fmt: skip
        lure = spot = -1
        liked = way.depth_liked + float(rng.normal(0, 1.0))
        for _ in range(int(rng.integers(2, 9))):
            if lure < 0 or rng.random() > way.stick:
                lure = int(rng.choice(len(way.lures), p=way.lure_weight / way.lure_weight.sum()))
            if spot < 0 or rng.random() > way.stick:
                spot = int(rng.choice(len(way.spots), p=way.spot_weight / way.spot_weight.sum()))
            minutes = float(np.clip(rng.gamma(3, 17), 10, 180))
            name, kind, colour, length, method, speed = way.lures[lure]
            place, latitude, longitude, bottom = way.spots[spot]
            bottom = max(bottom + float(rng.normal(0, 1.2)), 2.0)
            depth = (
                bottom - float(rng.gamma(1.5, 0.5))
                if method == "jig below the boat"
                else liked + float(rng.normal(0, 2.5))
            )
            rows.append(
                {
                    "trip": f"t{t + 1}", "start": clock, "end": clock + 60 * minutes,
                    "rods": float(rng.choice([1, 1, 1, 2, 2, 3])), "spot": place, "latitude": latitude,
                    "longitude": longitude, "bottom_m": bottom,
                    "lure_depth_m": float(np.clip(depth, 0.5, bottom - 0.1)),
                    "method": method, "lure": name, "lure_kind": kind, "colour": colour, "lure_length_m": length,
                    "speed_mps": max(speed + (float(rng.normal(0, 0.15)) if speed else 0.0), 0.0),
                    "bait_distance_m": float(rng.gamma(1.2, 70)), **weather,
                }
            )  # fmt: skip
            clock += 60 * minutes + float(rng.uniform(60, 1200))
    return rows


def _conditions(rows: list[Row]) -> dict[str, Floats | list[str]]:
    def number(name: str) -> Floats:
        return np.array([r[name] for r in rows], np.float64)

    def word(name: str) -> list[str]:
        return [str(r[name]) for r in rows]

    north = number("latitude") - _LATITUDE
    east = (number("longitude") - _LONGITUDE) * math.cos(math.radians(_LATITUDE))
    away = (np.degrees(np.arctan2(east, north)) - number("wind_from_deg") - 180.0) % 360.0
    away = np.minimum(away, 360.0 - away)
    return {
        "lure_depth": number("lure_depth_m"), "bottom_depth": number("bottom_m"),
        "height_off_bottom": number("bottom_m") - number("lure_depth_m"), "wind": number("wind_mps"),
        "bait_distance": number("bait_distance_m"), "layer_distance": number("lure_depth_m") - number("layer_m"),
        "water_temperature": number("water_temperature_c"), "speed": number("speed_mps"),
        "method": word("method"), "lure": word("lure"), "lure_kind": word("lure_kind"), "colour": word("colour"),
        "spot": word("spot"),
        "wind_side": ["wind onto" if a < 60 else "wind along" if a < 120 else "wind off" for a in away],
    }  # fmt: skip


def _effect(rng: np.random.Generator, rows: list[Row], way: _Way, trap: str, ratio: float) -> Effect:
    """Something that a tenth to a half of the hours had."""
    value = ratio or float(rng.choice([2.5, 4.0])) ** (1 if rng.random() < 0.8 else -1)
    hours = np.array([(float(r["end"]) - float(r["start"])) * float(r["rods"]) for r in rows])
    have = _conditions(rows)
    for _ in range(200):
        by = {TRAPS[0]: "lure_depth", TRAPS[1]: str(rng.choice(PLANTS)), TRAPS[2]: "lure"}.get(trap) or str(
            rng.choice(PLANTS)
        )
        hidden = {"bait_distance": "bait_distance", "layer_distance": "layer_m"}.get(by)
        if (trap == TRAPS[1] and by == "lure") or (hidden and way.missing[hidden] > 0.6):
            continue
        if by == "light":
            return Effect(by, value, value=str(rng.choice(["low sun", "day", "high sun"])))
        if by == "hour_from_sunrise":
            low = float(rng.choice([0.0, 2.0, 10.0, 12.0]))
            return Effect(by, value, low=low, high=low + 3.0)
        values = have[by]
        if isinstance(values, list):
            found = Effect(by, value, value=str(rng.choice(values)))
        else:
            low, wide = rng.uniform(0.0, 0.7), rng.uniform(0.15, 0.4)
            a, b = np.quantile(values, [low, min(low + wide, 1.0)])
            found = Effect(by, value, low=float(np.round(a, 1)), high=float(np.round(b, 1)))
        share = float((found.holds(have) * hours).sum() / hours.sum())
        if 0.1 <= share <= 0.55:
            return found
    return Effect("light", value, value="low sun")


def _lure_follows_depth(rng: np.random.Generator, rows: list[Row], way: _Way) -> None:
    """One lure is always fished at one depth; the others also there, now and then."""
    k = int(np.argmax(way.lure_weight))
    name, kind, _, length, method, speed = way.lures[k]
    way.lures[k] = (name, kind, "amber", length, method, speed)
    for row in rows:
        if row["lure"] == name:
            row["colour"] = "amber"
            row["bottom_m"] = max(float(row["bottom_m"]), 8.0)
            row["lure_depth_m"] = float(rng.uniform(way.depth_liked, way.depth_liked + 2.0))
            row["bottom_m"] = max(float(row["bottom_m"]), float(row["lure_depth_m"]) + 0.2)


def _late_lure(rng: np.random.Generator, rows: list[Row], way: _Way, trips: int) -> None:
    """One lure is fished only in the last part of the time, and most of it then."""
    late = f"{'white'} jig 99"
    for row in rows:
        if int(str(row["trip"])[1:]) > 0.65 * trips and rng.random() < 0.6:
            row.update({"lure": late, "lure_kind": "jig", "colour": "white", "lure_length_m": 0.07})


def _poor_hours(rng: np.random.Generator, rows: list[Row], effect: Effect) -> None:
    """The good lure is mostly fished at the worst time of the day."""
    for row in rows:
        if row["lure"] == effect.value and rng.random() < 0.75:
            day = math.floor(float(row["start"]) / 86400.0) * 86400.0
            length = float(row["end"]) - float(row["start"])
            row["start"] = float(round(day + (15.0 + float(rng.uniform(-1.5, 1.5))) * 3600.0))
            row["end"] = float(row["start"]) + length


def _catch(rng: np.random.Generator, made: MadeRecord, rows: list[Row], way: _Way, trips: int) -> None:
    """Draw the fish, and write the tables."""
    spread = float(rng.choice([0.15, 0.3, 0.5, 0.9]))
    luck = rng.gamma(1 / spread, spread, trips)
    if made.trap == TRAPS[1]:
        luck *= np.linspace(0.4, 2.2, trips)
    hours = np.array([(float(r["end"]) - float(r["start"])) / 3600 * float(r["rods"]) for r in rows])
    on_trip = np.array([luck[int(str(r["trip"])[1:]) - 1] for r in rows])
    many = {"thin": (25, 60), "fair": (60, 150), "plenty": (150, 450)}[made.evidence]
    school = float(rng.choice([1.0, 1.5, 2.2]))
    wanted = float(rng.uniform(*many)) / school
    have = _conditions(rows)
    slices = [
        (k, s, min(s + 600.0, float(r["end"])))
        for k, r in enumerate(rows)
        for s in np.arange(float(r["start"]), float(r["end"]) - 1e-6, 600.0)
    ]
    of = np.array([k for k, _, _ in slices])
    middle = np.array([(a + b) / 2 for _, a, b in slices])
    long = np.array([(b - a) / 3600 for _, a, b in slices]) * np.array([float(r["rods"]) for r in rows])[of]
    factor = np.ones(len(slices))
    for effect in made.effects:
        made.effect_slice = _in_effect(effect, have, of, middle)
        factor *= effect.ratio**made.effect_slice
    if made.trap == TRAPS[2]:
        sun = sun_elevations_deg(_LATITUDE, _LONGITUDE, middle)
        factor *= np.where(sun > 45.0, 0.3, 1.0)
    base = wanted / hours.sum()
    plain = base * factor / np.average(factor, weights=long)
    rate = plain * on_trip[of]
    made.rate = rate * school
    efforts = [_effort_cells(k, row, way, rng) for k, row in enumerate(rows)]
    catches: list[Cells] = []
    for k in np.repeat(np.arange(of.size), rng.poisson(rate * long)):
        size = 1 if school == 1.0 else int(rng.geometric(1 / school))
        at = slices[k][1] + rng.uniform(0, slices[k][2] - slices[k][1])
        for _ in range(size):
            when = min(at + rng.exponential(90.0) * (size > 1), float(rows[of[k]]["end"]))
            catches.append({"catch": f"c{len(catches) + 1}", "effort": f"e{of[k] + 1}",
                            "trip": str(rows[of[k]]["trip"]),
                            "time": _t(when), "species": "yellow perch",
                            "length_m": f"{rng.normal(0.3, 0.05):.3f}"})  # fmt: skip
    ends: dict[str, tuple[float, float]] = {}
    for row in rows:
        a, b = ends.get(str(row["trip"]), (math.inf, -math.inf))
        ends[str(row["trip"])] = (min(a, float(row["start"])), max(b, float(row["end"])))
    made.tables = {
        "waters": [{"water": "Veyra Lake", "latitude": str(_LATITUDE), "longitude": str(_LONGITUDE),
                    "time_zone": "Etc/GMT+3"}],
        "trips": [{"trip": t, "water": "Veyra Lake", "start": _t(a - 900), "end": _t(b + 900), "anglers": "1"}
                  for t, (a, b) in ends.items()],
        "efforts": efforts, "catches": catches,
    }  # fmt: skip


def _in_effect(effect: Effect, have: dict[str, Floats | list[str]], of: np.ndarray, middle: Floats) -> Floats:
    if effect.by == "light":
        sun = sun_elevations_deg(_LATITUDE, _LONGITUDE, middle)
        low, high = {"night": (-91, -6), "low sun": (-6, 6), "day": (6, 20), "high sun": (20, 91)}[effect.value]
        return ((sun >= low) & (sun < high)).astype(np.float64)
    if effect.by == "hour_from_sunrise":
        from plumbbob.core.water.sun_arrays import sunrises_s

        hour = (middle - sunrises_s(_LATITUDE, _LONGITUDE, middle, -10800.0)) / 3600.0
        return ((hour >= effect.low) & (hour < effect.high)).astype(np.float64)
    return effect.holds(have)[of]


def _t(seconds: float) -> str:
    return datetime.fromtimestamp(round(seconds), UTC).strftime("%Y-%m-%dT%H:%M:%SZ")


_DIGITS = {"latitude": 6, "longitude": 6, "rods": 0, "wind_from_deg": 0, "bait_distance_m": 0, "lure_length_m": 3,
           "speed_mps": 2, "cloud": 2}  # fmt: skip


def _effort_cells(k: int, row: Row, way: _Way, rng: np.random.Generator) -> Cells:
    cells: Cells = {"effort": f"e{k + 1}", "start": _t(float(row["start"])), "end": _t(float(row["end"]))}
    for name, value in row.items():
        if name in ("start", "end"):
            continue
        missing = way.missing.get(name.removesuffix("_m") if name == "bait_distance_m" else name, 0.0)
        empty = rng.random() < missing
        cells[name] = "" if empty else value if isinstance(value, str) else f"{value:.{_DIGITS.get(name, 2)}f}"
    return cells
