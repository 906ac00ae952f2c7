"""The demo's log: two made-up seasons out of a stated truth."""

import math
from collections import Counter, defaultdict

import pytest

from plumbbob.core.geodesy import Position, distance_m
from plumbbob.core.water.sun import sun_elevation_deg
from plumbbob.formats.log_columns import time_of
from plumbbob.formats.waters import data_path, shipped_waters
from plumbbob.sim.season import VEYRA, WATERS, light_word, rate, season_log
from tests.log_files import meanings, read_archive


@pytest.fixture(scope="module")
def season():
    return season_log().tables


def test_what_ships_is_what_the_script_makes(season):
    tables, files = read_archive(data_path("demo.log.zip"))
    for name, rows in season.items():
        if name == "catches":  # pictures are drawn beside
            rows = [{k: v for k, v in r.items() if k != "picture"} for r in rows]
            tables[name] = [{k: v for k, v in r.items() if k != "picture"} for r in tables[name]]
        assert meanings(name, tables[name]) == meanings(name, rows)
    assert sum(n.startswith("pictures/") for n in files) == 6


def test_all_of_it_lies_in_the_invented_waters_and_hangs_together(season):
    middles = {w.name: w.middle for w in WATERS}
    assert set(middles) == {w.water.name for w in shipped_waters()} == {w["water"] for w in season["waters"]}
    trips = {t["trip"]: t for t in season["trips"]}
    for table in ("efforts", "catches", "contacts"):
        for row in season[table]:
            trip = trips[row["trip"]]
            place = Position(float(row["latitude"]), float(row["longitude"]))
            assert distance_m(place, middles[trip["water"]]) < 5000
            when = time_of(row.get("time") or row["start"])
            assert time_of(trip["start"]) <= when <= time_of(trip["end"])
            depth = row.get("fish_depth_m") or row["lure_depth_m"]
            assert 0 < float(depth) <= float(row["bottom_m"]) + 0.3
    efforts = {e["effort"]: e for e in season["efforts"]}
    assert all(efforts[c["effort"]]["trip"] == c["trip"] for c in season["catches"])
    blank = len(trips) - len({c["trip"] for c in season["catches"]})
    assert 0.2 < blank / len(trips) < 0.5


def test_fish_come_as_often_as_the_truth_says(season):
    """Kokanee of many seeds against the sum of what each stretch should bring."""
    caught: Counter[str] = Counter()
    expected: dict[str, float] = defaultdict(float)
    truth = next(t for t in VEYRA.fish if t.species == "kokanee")
    for seed in range(6):
        tables = season_log(seed, 40).tables
        water = {t["trip"]: t["water"] for t in tables["trips"]}
        for e in tables["efforts"]:
            if water[e["trip"]] != "Veyra Lake":
                continue
            start, end = time_of(e["start"]), time_of(e["end"])
            place = Position(float(e["latitude"]), float(e["longitude"]))
            sun = sun_elevation_deg(place, (start + end) / 2)
            hours = float(e["rods"]) * (end - start) / 3600.0
            per = rate(truth, e["spot"], e["lure"], float(e["lure_depth_m"]), float(e["bottom_m"]), sun, onto=False)
            expected[light_word(sun)] += per * hours
        by_effort = {e["effort"]: e for e in tables["efforts"]}
        for c in tables["catches"]:
            if c["species"] == "kokanee":
                e = by_effort[c["effort"]]
                place = Position(float(e["latitude"]), float(e["longitude"]))
                middle = (time_of(e["start"]) + time_of(e["end"])) / 2
                caught[light_word(sun_elevation_deg(place, middle))] += 1
    for light in ("low", "day"):
        # luck of a trip doubles what chance alone would spread
        assert abs(caught[light] - expected[light]) < 5.0 * math.sqrt(expected[light]) + 3
    assert rate(truth, "Larch Flat", "flutter spoon 5 g", 8.0, 16.0, 0.0, onto=False) < 0.15 * truth.best * 1.7
