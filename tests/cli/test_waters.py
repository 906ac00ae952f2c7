"""Waters on the command line."""

import json

from click.testing import CliRunner

from plumbbob.cli.commands import main
from plumbbob.services.waters import Waters
from tests.services.test_waters import grid, soundings


def ran(*args):
    return CliRunner().invoke(main, [str(a) for a in args])


def test_waters_are_listed_and_one_is_charted_by_name(tmp_path):
    assert "No waters yet" in ran("waters", "--data", tmp_path).output
    waters = Waters(tmp_path / "waters")
    water = waters.create("Mill Pond")
    lat, lon = grid(n=30)
    for k in range(2):
        depth = 5.0 + k
        waters.folder(water).add(f"part {k}", soundings(lat + 0.0002 * k, lon, depth))
    waters.reach(water, lat, lon)
    (waters.root / "broken").mkdir()
    (waters.root / "broken" / "water.json").write_text("{")
    listed = ran("waters", "--data", tmp_path)
    assert listed.exit_code == 0
    assert "Mill Pond" in listed.output
    assert "2 files" in listed.output
    found = json.loads(ran("waters", "--json", "--data", tmp_path).output)
    assert found["waters"][0]["time_zone"] == "Etc/GMT+3"
    assert len(found["unreadable"]) == 1
    charted = ran("chart", "--water", "mill", "--json", "--data", tmp_path)
    assert charted.exit_code == 0
    about = json.loads(charted.output)["grid"]
    assert about["soundings_used"] + about["soundings_rejected"] == 1800


def test_what_names_no_water_is_one_line(tmp_path):
    for args in (("--water", "cod", "--data", tmp_path), (), ("x.csv", "--water", "y")):
        done = ran("chart", *args)
        assert done.exit_code == 2
        assert len(done.stderr.strip().splitlines()) == 1
