"""GPX, profiles, waters, the JSON of a reading."""

import json
import math
from importlib.resources import files
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from lxml import etree

from plumbbob.core.sonar.read import read_down
from plumbbob.core.water.profile import Profile
from plumbbob.core.water.species import comfort
from plumbbob.files.errors import FileError
from plumbbob.formats.gpx import NAMESPACE, Waypoint, gpx_text, write_gpx
from plumbbob.formats.profile import read_profile
from plumbbob.formats.reading_json import reading_json
from plumbbob.formats.species import known_species, read_species, species_here, species_names, species_of, table_name
from plumbbob.formats.waters import LocalSpecies, Water, shipped_waters, time_zone_at

SCHEMA = etree.XMLSchema(etree.parse(str(Path(__file__).parent / "gpx-1.1.xsd")))
words = st.text(st.characters(codec="utf-8", exclude_categories=["Cc", "Cs"], exclude_characters="￾￿"), max_size=30)


@given(
    words,
    words,
    st.floats(-90, 90),
    st.floats(-360, 360),
    st.floats(0, 4e9),
    st.dictionaries(st.sampled_from(["depth", "seen", "kind"]), st.floats(-1e3, 1e3)),
)
def test_any_waypoint_makes_a_valid_file(name, desc, latitude, longitude, time, numbers):
    point = Waypoint(name=name, desc=desc, latitude=latitude, longitude=longitude, time=time, numbers=numbers)
    document = etree.fromstring(gpx_text([point, point]).encode())
    SCHEMA.assertValid(document)
    found = document.findall(".//{*}extensions/*")
    assert {element.tag for element in found} <= {f"{{{NAMESPACE}}}{key}" for key in numbers}


def test_depth_is_readable_and_a_number(tmp_path):
    path = tmp_path / "marks.gpx"
    point = Waypoint(
        name="fish 0/1", desc="25.0 ft down", latitude=44.2, longitude=-40.05, time=0.0, numbers={"depth": 7.62}
    )
    write_gpx(path, [point])
    document = etree.parse(str(path))
    assert document.findtext(".//{*}wpt/{*}desc") == "25.0 ft down"
    assert float(document.findtext(f".//{{{NAMESPACE}}}depth")) == 7.62
    assert document.find(".//{*}wpt").get("lon") == "-40.05"


def test_a_failed_export_leaves_the_old_file(tmp_path, monkeypatch):
    path = tmp_path / "marks.gpx"
    path.write_text("old")

    def full(source, target):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr("os.replace", full)
    with pytest.raises(FileError, match="No space"):
        write_gpx(path, [])
    assert path.read_text() == "old"
    assert list(tmp_path.iterdir()) == [path]


def test_profiles_in_either_unit(tmp_path):
    path = tmp_path / "p.csv"
    path.write_text("depth_ft,temperature_f,note\n0,68,top\nbad,1,\n32.808,50,deep\n")
    profile = read_profile(path)
    assert profile.depth_m.tolist() == pytest.approx([0.0, 10.0], abs=1e-3)
    assert profile.temperature_c.tolist() == pytest.approx([20.0, 10.0])
    assert profile.at(5.0) == pytest.approx(15.0, abs=1e-3)
    assert math.isnan(profile.at(12.0))


@pytest.mark.parametrize(
    "text", ["", "depth,temp\n1,2\n", "depth_m,temperature_c\n1,2\n", "depth_m,temperature_c\nx,y\n"]
)
def test_what_is_no_profile_is_refused(tmp_path, text):
    path = tmp_path / "p.csv"
    path.write_text(text)
    with pytest.raises(FileError, match=r"p\.csv"):
        read_profile(path)


def test_the_made_up_waters_have_a_clock_of_their_own_and_species_of_the_table():
    for shipped in shipped_waters():
        water = shipped.water
        assert water.place is not None
        assert water.time_zone == time_zone_at(water.place)
        assert [s.name for s in species_of(water)] == list(water.species)
        assert shipped.profile is None or read_profile(shipped.profile).depth_m[0] == 0


def test_a_species_is_called_as_people_call_it_there():
    water = Water(inhabitants=(LocalSpecies(name="sandre", species="zan"), LocalSpecies(name="unheard of")))
    (here,) = species_of(water)
    assert (here.name, here.key) == ("sandre", "zan")
    assert species_here("sandre", water) == here
    assert species_here("walleye", water).key == "wal"
    assert species_here("unheard of", water) is None


def test_species_have_names_in_other_languages():
    names = species_names()
    assert list(names) == ["scientific", "Deutsch", "français", "español"]
    assert set(names["scientific"]) == {s.name for s in known_species()}
    for name, there in names.items():
        assert len(set(there.values())) == len(there), f"two species of one name in {name}"
    assert names["Deutsch"]["zander"] == "Zander"
    water = Water(inhabitants=(LocalSpecies(name="sandre", species="zan"),))
    assert table_name(species_of(water)[0]) == "zander"


def test_a_reading_as_json_has_every_part_and_no_nan(passed):
    made = json.loads(json.dumps(reading_json(read_down(passed[0])), allow_nan=False))
    assert set(made) >= {"bottom", "fish", "bait", "standing", "thermocline", "side", "forward"}
    assert len(made["bottom"]["time"]) == len(made["bottom"]["depth"]) == len(made["bottom"]["hardness"]) == 576
    for key in ("time", "depth", "height_above_bottom", "latitude", "longitude", "off_axis", "level_db"):
        assert key in made["fish"][0]
    assert set(made["thermocline"]) >= {"depth", "thickness", "confidence"}


def test_a_species_of_ones_own_is_a_row():
    """The recipe "a species"."""
    table = files("plumbbob.data").joinpath("species.csv").read_text(encoding="utf-8")
    row = "stn,stone loach,8,14,20,5,B,D,NB,,0.005,3.1,>,L,0.3"
    known = read_species(f"{table.rstrip()}\n{row}\n")
    assert [s.key for s in known[:-1]] == [s.key for s in known_species()]
    assert (known[-1].name, known[-1].warm_high_c, known[-1].care_m) == ("stone loach", 14.0, None)
    column = Profile(depth_m=np.array([0.0, 10.0, 20.0]), temperature_c=np.array([22.0, 12.0, 5.0]))
    found = comfort(known[-1], column, 20.0)
    assert found.band is not None
    assert found.band[0] < 10.0 < found.band[1] < 20.0  # never where it avoids the water
