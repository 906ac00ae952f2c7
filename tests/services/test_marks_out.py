"""Marks in the files of others, and their symbols."""

import csv
import json
import math

import pyogrio
import pytest

from plumbbob.files.errors import FileError
from plumbbob.formats.gpx import Waypoint, read_gpx
from plumbbob.services.marks_out import ENDINGS, SYMBOLS, kind_of_symbol, write_marks
from plumbbob.store.values import MarkKind

POINTS = [
    Waypoint(name="the lip", desc="8 m down", latitude=44.2061, longitude=-40.058, time=1786785000.0,
             numbers={"kind": "fish", "seen": 3, "depth": 8.0}, symbol="fish"),
    Waypoint(name="", desc="", latitude=44.2, longitude=-40.05, time=math.nan, numbers={"kind": "hazard", "seen": 1},
             symbol="hazard"),
]  # fmt: skip


@pytest.mark.parametrize("kind", list(MarkKind))
def test_our_own_symbols_come_back_as_what_they_are(kind):
    assert kind_of_symbol(SYMBOLS[kind]) is kind


def test_a_gpx_file_carries_symbols_and_lacks_times_that_are_not_known(tmp_path):
    write_marks(tmp_path / "m.gpx", POINTS)
    found = read_gpx(tmp_path / "m.gpx").waypoints
    assert [p.symbol for p in found] == ["fish", "hazard"]
    assert found[0].time == 1786785000.0
    assert math.isnan(found[1].time)


def test_tables_of_marks_hold_what_the_marks_say(tmp_path):
    for ending in ENDINGS[1:]:
        write_marks(tmp_path / f"m{ending}", POINTS)
    rows = list(csv.DictReader((tmp_path / "m.csv").open()))
    assert [r["depth"] for r in rows] == ["8.0", ""]
    features = json.loads((tmp_path / "m.geojson").read_text())["features"]
    assert features[1]["geometry"]["coordinates"] == [-40.05, 44.2]
    _, _, _, data = pyogrio.raw.read(tmp_path / "m.gpkg")
    assert any("the lip" in column for column in map(list, data))
    with pytest.raises(FileError):
        write_marks(tmp_path / "m.kml", POINTS)


@pytest.mark.parametrize(
    ("time", "stamp"),
    [("2026-08-15T06:00:00Z", 1786773600.0), ("2026-08-15T06:00:00", 1786773600.0),
     ("2026-08-15T08:00:00+02:00", 1786773600.0)],
)  # fmt: skip
def test_a_time_without_a_zone_is_utc_as_the_format_has_it(tmp_path, time, stamp):
    (tmp_path / "t.gpx").write_text(
        '<gpx version="1.1" xmlns="http://www.topografix.com/GPX/1/1"><wpt lat="44" lon="-40">'
        f"<time>{time}</time></wpt></gpx>"
    )
    assert read_gpx(tmp_path / "t.gpx").waypoints[0].time == stamp
