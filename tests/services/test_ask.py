"""Questions without a window: each kind answered, each mistake told in a line, the next line read."""

import json
import math

import pytest
from click.testing import CliRunner
from hypothesis import given, settings
from hypothesis import strategies as st

from plumbbob.cli.commands import main
from plumbbob.formats.soundings import write_soundings
from plumbbob.services.ask.answer import QUESTIONS, answer_question, answer_text
from plumbbob.sim.other_waters import carrow_depth, tern_depth, tern_survey

COLUMN = [[0, 22.0, 8.5], [5, 21.0], [7, 12.0, 6.0], [20, 7.0, 3.0]]
TIDE = "2026-08-14 05:10, 0.8\n2026-08-14 11:20, 4.9\n2026-08-14 17:40, 0.9\n2026-08-14 23:50, 4.7"
GOOD = {
    "rod": {"method": "flat line", "lure": "plug 8 cm, 3 m", "line": "0.28 nylon", "depth_m": 2.5, "speed_mps": 1.0},
    "tackle": {"lure": "7 g jig", "line": "0.2 nylon", "weight": "28 g egg", "diver": "disc 8 cm",
               "board": "board 25 cm"},
    "fall": {"lure": {"form": "spoon", "mass_g": 14}, "seconds": 10, "line": {"material": "braid", "strength_kg": 5}},
    "line": {"line": "10 lb nylon", "known_m": 200, "known_diameter_mm": 0.3},
    "reel": {"full_mm": 45, "arbor_mm": 28, "ratio": 6, "capacity_m": 150, "out_m": 60, "speed_mps": 0.8},
    "tow": {"weight_n": 2.0, "drag_area_cm2": 10, "line_m": 20, "speed_mps": 1.0},
    "jig_weight": {"depth_m": 12, "wind_mps": 5, "kayak": True, "temperature_c": 4},
    "drag": {"depth_m": 5, "line_m": 20, "cast_m": 20, "hop_m": 0.5, "lure": "7 g jig", "slope_deg": 8},
    "walker": {"depth_m": 6, "speed_mps": 0.5, "mass_g": 42},
    "floater": {"lure": "floating lure 6 cm", "leader_m": 1.0, "speed_mps": 0.3},
    "drop_rig": {"height_m": 0.3, "depth_m": 8, "away_m": 15},
    "anchored_bait": {"current_mps": 0.4, "depth_m": 8, "sinker": "pyramid", "ground": "sand"},
    "ball": {"speed_mps": 1.1, "slope_deg": 8, "raise_m": 3, "trails_m": 6},
    "school": {"depth_m": 10, "lure": "14 g slab", "passes_mps": 0.3, "length_m": 15},
    "cadence": {"temperature_c": 5, "species": "yep", "ice": True, "lure": "4 g slab"},
    "cast": {"fish_m": 3, "lure": "10 g jig", "wind_mps": 4, "swims_mps": 0.3},
    "plug_cast": {"lure": "plug 8 cm, 3 m", "cast_m": 25},
    "hang": {"fish_m": 8, "species": "burbot", "bottom_m": 8.3, "bait": [[5, 6]]},
    "column": {"latitude": 46, "area_km2": 4, "deepest_m": 20, "date": "2026-07-20", "freezes": "most winters"},
    "comfort": {"species": "walleye", "column": COLUMN},
    "habits": {"species": "pik", "surface_c": 8, "date": "2026-04-20"},
    "light": {"latitude": 44.2, "longitude": -40, "date": "2026-08-14", "time": "06:30", "depth_m": 4, "share": 0.1},
    "tilt": {"column": COLUMN, "wind_mps": 7, "fetch_m": 3000},
    "wind": {"wind_mps": 5, "craft": "boat", "length_m": 5, "drogue": True, "offshore": True},
    "tide": {"table": TIDE, "time": "2026-08-14T08:00", "strongest_mps": 0.8, "utc_offset_h": -2},
    "hooks": {"hooks": 5, "on": 1, "per_hour": 30},
    "ice": {"freezing_degree_days": 100},
    "cold_water": {"water_c": 3},
    "beam": {"beam_deg": 20, "depth_m": 10},
    "dead_zone": {"bottom_m": 15, "slope_deg": 10},
    "shadow": {"altitude_m": 10, "echo_m": 15, "shadow_start_m": 24, "shadow_end_m": 25},
    "scan_speed": {"depth_m": 8, "pings": 6, "ping_hz": 10},
    "detection": {"sweep_m": 8, "way_m": 2000, "area_m2": 32000},
    "sound": {"temperature_c": 10, "salinity": 35, "frequency_khz": 200},
    "lanes": {"spread_m": 5.2, "layback_m": 30, "lane_m": 10},
    "care": {"species": "walleye", "depth_m": 14, "water_c": 25, "fight_s": 600},
    "weight": {"species": "walleye", "length_cm": 50},
    "echo": {"length_cm": 30},
    "bite": {"minutes": 20, "active": 0.5},
    "bait": {"bait": "worm", "temperature_c": 15},
    "anchor": {"depth_m": 6, "wind_mps": 8, "hull": "kayak"},
    "places": {"water": "Tern Pond", "species": "yellow perch", "date": "2026-07-20", "most": 3, "wind_mps": 4},
    "depths": {"species": "kokanee", "column": COLUMN, "date": "2026-08-01", "bottom_m": 18},
    "holes": {"water": "Tern Pond", "most": 5, "season": "late"},
}  # fmt: skip


def numbers_in(answer):
    if isinstance(answer, dict):
        return [n for v in answer.values() for n in numbers_in(v)]
    if isinstance(answer, list):
        return [n for v in answer for n in numbers_in(v)]
    return [answer] if isinstance(answer, int | float) else []


@pytest.mark.timeout(240)
@pytest.mark.parametrize("name", sorted(QUESTIONS))
def test_every_question_is_answered(name):
    answer = answer_question({name: GOOD[name]})
    assert answer
    assert "error" not in answer
    assert all(math.isfinite(n) for n in numbers_in(answer))
    json.dumps(answer, allow_nan=False)


def test_the_list_of_questions_tells_each_in_a_sentence():
    told = answer_question({"questions": {}})
    assert set(told) == set(QUESTIONS) == set(GOOD)
    assert all(words.endswith((".", "..")) for words in told.values())


@pytest.mark.parametrize(
    ("asked", "says"),
    [
        ("{", "line 1"),
        ("[]", "one name"), ('{"beam": {}}', "depth_m is missing"), ('{"beam": {"deep": 1}}', "deep is not"),
        ('{"rod": {"method": "magic", "depth_m": 3}}', "method"),
        ('{"fall": {"lure": "brick", "depth_m": 3}}', "no lure"),
        ('{"fall": {"lure": "floating lure", "depth_m": 3}}', "floats"),
        ('{"care": {"species": "dragon"}}', "not in the table"),
        ('{"care": {"species": "bass"}}', "may be"),
        ('{"comfort": {"species": "wal", "column": [[0, 20]]}}', "two at least"),
        ('{"light": {"latitude": 1, "longitude": 2, "date": "soon"}}', "YYYY"),
        ('{"wind": {"wind_mps": "much"}}', "number"),
        ('{"places": {"water": "the sea", "species": "wal", "date": "2026-01-01"}}', "veyra lake"),
        ('{"places": {"soundings": "/no/such.csv", "species": "wal", "date": "2026-01-01"}}', "such.csv"),
        ('{"rod": {"method": "cast and count", "lure": "7 g jig"}}', "one of depth_m"),
        ('{"nothing": 1}', "can't be asked"),
        ('{"drop_rig": {"height_m": 1e9, "depth_m": 1}}', "outside"), ('{"fall": 3}', "object"),
    ],
)  # fmt: skip
def test_what_makes_no_sense_is_told_in_a_line(asked, says):
    answer = answer_text(asked.encode())
    assert says in answer["error"]
    assert "\n" not in answer["error"]


@given(
    name=st.sampled_from(sorted(set(QUESTIONS) - {"places", "holes", "column"})),
    value=st.dictionaries(
        st.sampled_from(["depth_m", "species", "lure", "line", "speed_mps", "fish_m", "water_c", "column", "x"]),
        st.one_of(
            st.none(),
            st.booleans(),
            st.floats(allow_nan=False),
            st.text(max_size=8),
            st.lists(st.integers(), max_size=3),
        ),
        max_size=4,
    ),
)
@settings(max_examples=150, deadline=None)
def test_no_question_breaks_it(name, value):
    answer = answer_text(json.dumps({name: value}).encode())
    assert isinstance(answer, dict)
    json.dumps(answer, allow_nan=False)


def test_lines_are_answered_to_the_last_without_its_end(tmp_path):
    told = CliRunner().invoke(
        main, ["ask", "-"], input='{"beam": {"depth_m": 10}}\nnonsense\n{"ice": {"clear_cm": 8}}'
    )
    first, second, third = (json.loads(line) for line in told.output.splitlines())
    assert told.exit_code == 0
    assert first["footprint_m"] == pytest.approx(3.527, abs=0.001)
    assert "error" in second
    assert third["stay_off"] is True
    assert CliRunner().invoke(main, ["ask", str(tmp_path / "none")]).exit_code != 0


def test_places_of_ones_own_soundings(tmp_path):
    path = tmp_path / "pond.csv"
    write_soundings(path, tern_survey(5))
    question = {
        "soundings": str(path),
        "species": "yep",
        "date": "2026-02-01",
        "ice": True,
        "freezes": "most winters",
    }
    winter = answer_question({"places": {**question, "most": 4}})
    assert winter["season"] == "winter"
    assert winter["places"][0]["depth_base_m"] > 5.0
    mark = winter["places"][0]
    near = answer_question(
        {"holes": {"soundings": str(path), "mark": {"latitude": mark["latitude"], "longitude": mark["longitude"]}}}
    )
    assert 1 <= len(near["holes"]) <= 8
    at = {"latitude": mark["latitude"], "longitude": mark["longitude"]}
    seen = {"cover": [{**at, "kind": "timber"}], "streams": [{**at, "speed_mps": 0.3, "to_deg": 90}]}
    guided = answer_question({"places": {**question, "ice": False, "date": "2026-06-20", **seen}})
    assert any("cover" in p["terms"] for p in guided["places"])


def test_the_other_waters_are_as_they_are_told():
    assert carrow_depth(0.0, -260.0) > 30.0
    assert carrow_depth(420.0, -60.0) < 6.0
    assert carrow_depth(0.0, 690.0) < 1.0
    assert 11.0 < tern_depth(-150.0, 20.0) < 13.5
    assert tern_depth(400.0, 0.0) <= 0.0
