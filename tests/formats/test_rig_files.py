"""What `plumbbob rig` reads and prints, and the tackle box as CSV: round trips, published cases, bad input."""

import json
import math
from dataclasses import replace

import pytest
from click.testing import CliRunner
from hypothesis import given
from hypothesis import strategies as st

from plumbbob.cli import main
from plumbbob.core.rig import tackle
from plumbbob.core.rig.calibrate import RigNote, Told
from plumbbob.core.rig.rod import Method, RigSettings, default_setup
from plumbbob.core.rig.tackle import DEFAULT_BOX
from plumbbob.files.errors import FileError
from plumbbob.formats.rig_json import note_from, note_json, rod_from, rod_json, slot_kind, uses
from plumbbob.formats.tackle_csv import columns, read_tackle, write_tackle
from plumbbob.services.rig import answer_request

CORE_CASE = {
    "rho_kg_m3": 998.0,
    "line_segments_from_body_up": [
        {"length_m": 8, "diameter_m": 0.0003, "weight_in_water_N_per_m": 9.84332e-05, "Cn": 1.2, "Ct": 0.02},
        {"length_m": 27, "diameter_m": 0.0009, "weight_in_water_N_per_m": 0.0124064, "Cn": 1.3, "Ct": 0.02},
    ],
    "body": {"weight_in_water_N": 0.08, "drag_area_m2": 0.0005, "lift_area_down_m2": 0.0},
    "speed_through_water_m_s": 0.8,
}


@given(st.sampled_from(list(Method)), st.floats(0.0, 3.0), st.integers(1, 6), st.floats(-3, 3))
def test_a_rod_comes_back_from_its_json(method, speed, hooks, aside):
    rod = replace(
        default_setup(RigSettings(), method),
        speed_mps=speed,
        hooks=hooks,
        aside_m=aside,
        current=((0.0, 0.2), (9.0, 0.0)),
    )
    assert rod_from(json.loads(json.dumps(rod_json(rod)))) == rod
    assert all(getattr(rod, slot).kind == slot_kind(slot) for slot in uses(rod))


def test_a_rod_by_name_is_rigged_as_usual_for_its_way():
    rod = rod_from({"method": "side board", "line": "braid 0.18 mm", "speed_mps": 1.2})
    assert rod.method is Method.BOARD
    assert rod.line is tackle.BRAID
    assert rod.lure is tackle.PLUG
    assert rod_from({"method": "CORE"}).leader_m == 6.0


def test_a_note_comes_back_from_its_json():
    note = RigNote(
        rod=default_setup(RigSettings(), Method.CAST), told=Told.TOUCHED, depth_m=7.0, value=9.0, words="shelf"
    )
    back = note_from(json.loads(json.dumps(note_json(note))))
    assert (back.rod, back.told, back.depth_m, back.value, back.words) == (note.rod, note.told, 7.0, 9.0, "shelf")
    assert math.isnan(back.time)


def test_the_box_comes_back_from_its_file(tmp_path):
    path = tmp_path / "tackle.csv"
    assert write_tackle(path, DEFAULT_BOX) == len(DEFAULT_BOX.all())
    assert read_tackle(path) == (DEFAULT_BOX, ())
    assert path.read_text().splitlines()[0].split(",") == columns()
    assert DEFAULT_BOX.find("lure", "spoon 18 g") is tackle.SPOON
    assert DEFAULT_BOX.find("lure", "none such") is None


def test_ratings_stand_in_for_areas(tmp_path):
    path = tmp_path / "mine.csv"
    path.write_text(
        "kind,name,weight_n,drag_area_m2,mass_kg,sink_rate_mps,rated_depth_m,rated_line_m,rated_speed_mps\n"
        "lure,my plug,-0.02,0.0006,0.014,,4.5,30,1.1\n"
        "lure,my spoon,0.15,0.0004,0.02,0.6,,,\n"
        "lure,half a rating,0.1,0.0004,0.02,,4.0,,\n"
        "lure,,0.1,0.0004,0.02,,,,\n"
        "rope,x,,,,,,,\n"
        "lure,worded,heavy,0.0004,0.02,,,,\n"
        "lure,light,0.1,,0.02,,,,\n"
    )
    box, problems = read_tackle(path)
    assert [lure.name for lure in box.lures] == ["my plug", "my spoon"]
    assert box.lures[0].dives
    assert box.lures[1].fall_area_m2 == pytest.approx(2 * 0.15 / (998 * 0.36))
    assert len(problems) == 5
    for line, word in zip(problems, ("rated_line_m", "name", "kind", "number", "drag_area_m2"), strict=True):
        assert word in line
        assert line.startswith("line ")


@pytest.mark.parametrize(
    ("text", "why"),
    [
        ("", "kind and name"),
        ("a,b\n1,2\n", "kind and name"),
        ("kind,name\n", "no tackle"),
        ("kind,name\nrope,x\n", "rope"),
    ],
)
def test_what_is_no_box_is_refused(tmp_path, text, why):
    path = tmp_path / "bad.csv"
    path.write_text(text)
    with pytest.raises(FileError, match=why):
        read_tackle(path)
    with pytest.raises(FileError, match="no such file"):
        read_tackle(tmp_path / "none.csv")


# -- requests ----------------------------------------------------------------------------------------------------


def test_bare_problems_in_the_words_of_the_field():
    floating = {
        "body": {"weight_in_water_N": 0.05, "drag_area_m2": 0.0002},
        "line_segments_from_body_up": [
            {"length_m": None, "diameter_m": 0.0014, "weight_in_water_N_per_m": -0.00147942, "Cn": 1.3, "Ct": 0.02}
        ],
        "target_depth_m": 3.0,
        "speed_through_water_m_s": 0.5,
    }
    ball = {"effective_mass_kg": 0.028, "weight_in_water_N": 0.25, "drag_area_m2": 0.00019, "depth_m": 15.0}
    spoon = {
        "weight_in_water_N": 0.15,
        "drag_area_m2": 0.0007,
        "line_diameter_m": 0.00025,
        "line_Cn": 1.2,
        "line_length_m": 20.0,
        "times_s": [5.0, 30.0],
    }
    inverse = {**CORE_CASE, "target_depth_m": 6.776659}
    asked = [
        ("tow", CORE_CASE),
        ("tow-inverse", floating),
        ("countdown", ball),
        ("pendulum", spoon),
        ("tow", inverse),
    ]
    core, none, fall, swing, back = answer_request({"problems": [{"kind": k, "input": i} for k, i in asked]})[
        "problems"
    ]
    assert core["depth_m"] == pytest.approx(6.776659, rel=1e-3)
    assert core["tension_at_surface_N"] == pytest.approx(0.755626, rel=1e-3)
    assert none == {"length_m": None, "reachable": False, "greatest_depth_m": pytest.approx(0.79682, abs=0.01)}
    assert fall["time_s"] == pytest.approx(9.36343, abs=0.01)
    assert swing["depth_at_5s_m"] == pytest.approx(1.833, abs=0.08)
    assert swing["time_to_80deg_s"] == pytest.approx(96.638, abs=0.2)
    assert back["length_m"] == pytest.approx(27.0, abs=0.1)


def test_one_request_does_all_of_it():
    request = {
        "tackle": [{"kind": "lure", "name": "mine", "weight_n": 0.2, "drag_area_m2": 3e-4}],
        "notes": [{"told": "ran at", "depth_m": 6.1, "value": 30, "rod": {"method": "flat line", "speed_mps": 1.1}}],
        "rods": [
            {"name": "ball", "method": "downrigger", "lure": "mine", "depth_m": 8, "aside_m": -1},
            {"method": "flat line", "value": 30, "speed_mps": 1.1, "aside_m": 1},
            {"method": "flat line", "depth_m": 40},
            {"method": "droppers", "depth_m": 6, "speed_mps": 0.1},
        ],
        "tables": {"depths_m": [3, 5], "speeds_mps": [0.8, 1.0]},
        "weights": {"depth_m": 10},
        "lane": {"along_m": [0, 50, 100, 150, 200], "bottom_m": [12, 11, 6, 9, None], "boat_m": 90, "mark_m": 80},
        "motion": {"turn": {"radius_m": 20, "degrees": 60}, "bottom_m": 15, "step_s": 0.5},
        "hang": {"fish_m": 9, "facts": {"secchi_m": 4, "bait": [[7, 8.5]], "layer": None, "kayak": True}},
        "ways": {"depth_m": 9, "facts": {"wind_mps": 5}},
        "advice": {"depth_m": 9, "facts": {"temperature_c": 8, "species": "kokanee"}},
    }
    heard = []
    found = json.loads(json.dumps(answer_request(request, heard.append), allow_nan=False))
    assert list(found) == ["rods", "notes", *list(request)[3:]]
    ball, flat, lost, drop = found["rods"]
    assert ball["name"] == "ball"
    assert ball["depth_m"] == pytest.approx(8.0, abs=0.01)
    assert "weight_at" in ball
    assert flat["depth_m"] == pytest.approx(6.1, abs=0.25)
    assert not lost["reachable"]
    assert len(drop["hooks"]) == 3
    assert {c["coefficient"] for c in found["notes"]["coefficients"]} == {"cn", "drag", "lift", "fall"}
    assert len(found["tables"]) == 4
    assert found["weights"][0]["method"] == "droppers"
    assert found["lane"][0]["stretches"][0]["trouble"] == "drags"
    assert found["lane"][1]["seconds_to_mark"] > 0
    assert len(found["motion"]["lines"]) == 2
    assert len(found["motion"]["time"]) == len(found["motion"]["lines"][0]["depth_m"])
    assert found["hang"]["depth_m"] >= 8.5
    assert len(found["ways"]) == len(Method)
    assert heard[-1] == 1.0


def test_a_track_may_be_logged_in_degrees_or_metres():
    rods = [{"method": "clip weight", "depth_m": 2.5}]
    time = list(range(40))
    metres = {"time": time, "x": [0.0] * 40, "y": [0.9 * t for t in time], "current_mps": [0.0, 0.0]}
    degrees = {"time": time, "latitude": [44.2 + 0.9 * t / 111100.0 for t in time], "longitude": [-40.05] * 40}
    a, b = (answer_request({"rods": rods, "motion": {"track": t}})["motion"] for t in (metres, degrees))
    assert a["lines"][0]["depth_m"][-1] == pytest.approx(b["lines"][0]["depth_m"][-1], abs=0.02)
    stop = answer_request({"rods": rods, "motion": {"change": {"speed_mps": 0.0, "for_s": 10}}})["motion"]
    assert max(stop["lines"][0]["depth_m"]) > 3.0


@pytest.mark.parametrize(
    ("request_", "why"),
    [
        ([], "a JSON object"),
        ({"rodds": []}, "rodds: not a part"),
        ({"rods": {}}, "rods: a list"),
        ({"rods": [{"method": "kite", "depth_m": 3}]}, "rods: method 'kite'"),
        ({"rods": [{}]}, "either depth_m, or value"),
        ({"rods": [{"depth_m": "deep"}]}, "depth_m 'deep' is not a number"),
        ({"rods": [{"depth_m": 3, "speed_mps": -1}]}, "speed -1"),
        ({"rods": [{"depth_m": 3, "lure": "a stone"}]}, "not in the tackle box"),
        ({"rods": [{"depth_m": 3, "line": {"name": "x", "diameter_m": 0.001}}]}, "no line is weightless"),
        ({"rods": [{"depth_m": 3, "current": 7}]}, "current is a list"),
        ({"notes": [{"depth_m": 3, "value": 9}]}, "notes: a note is an object"),
        ({"notes": [{"rod": {}, "depth_m": 3, "value": 9, "told": "felt"}]}, "told 'felt'"),
        ({"tables": {}}, "tables: depths_m is missing"),
        ({"lane": {"along_m": [0, 0], "bottom_m": [1, 1]}}, "lane: along_m must rise"),
        ({"lane": {"along_m": [0, 9], "bottom_m": [1, 1]}}, "lane: needs a rod"),
        ({"motion": {"turn": {}}}, "motion: needs a rod"),
        ({"rods": [{"depth_m": 3}], "motion": {"turn": {}, "step_s": 9}}, "step_s must be"),
        ({"rods": [{"depth_m": 3}], "motion": {"track": {"time": [0, 1], "x": [0], "y": [0, 1]}}}, "as many times"),
        ({"hang": {"fish_m": 9, "facts": {"moon": 1}}}, "facts: moon"),
        ({"problems": [{"kind": "kite", "input": {}}]}, "problems: kind 'kite'"),
        ({"problems": [{"kind": "tow", "input": {"body": {}}}]}, "weight_in_water_N is missing"),
        (
            {"problems": [{"kind": "countdown", "input": {"weight_in_water_N": 1, "drag_area_m2": 0, "depth_m": 3}}]},
            "drag_area_m2 must be above zero",
        ),
        (
            {
                "problems": [
                    {
                        "kind": "pendulum",
                        "input": {"weight_in_water_N": 1, "drag_area_m2": 1, "line_length_m": 0, "times_s": [1]},
                    }
                ]
            },
            "line_length_m must be above zero",
        ),
    ],
)
def test_bad_requests_are_one_line_with_the_part(request_, why):
    with pytest.raises(ValueError, match=why) as caught:
        answer_request(request_)
    assert "\n" not in str(caught.value)


def test_the_command_reads_a_file_and_prints_one_object(tmp_path):
    path = tmp_path / "ask.json"
    path.write_text(json.dumps({"rods": [{"method": "downrigger", "depth_m": 8}]}))
    result = CliRunner().invoke(main, ["rig", str(path)])
    assert result.exit_code == 0
    assert json.loads(result.stdout)["rods"][0]["amount"] == "wire out"
    again = CliRunner().invoke(main, ["rig", "-"], input=path.read_text())
    assert again.stdout == result.stdout
    for bad in ("{", json.dumps({"rods": [{"depth_m": -2, "speed_mps": 99}]})):
        path.write_text(bad)
        result = CliRunner().invoke(main, ["rig", str(path)])
        assert result.exit_code == 2
        assert result.stdout == ""
        assert len(result.stderr.strip().splitlines()) == 1
