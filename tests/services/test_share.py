"""What is shared tells no place, by default, in any format."""

import io
import json
import re
import zlib
from contextlib import suppress

import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from plumbbob.files.errors import FileError
from plumbbob.services.pictures import plain_picture
from plumbbob.services.share import ENDINGS, share
from plumbbob.services.share_cells import Positions, area_middle
from tests.log_files import read_archive, write_archive

LOG = {
    "waters": [{"water": "Veyra Lake", "latitude": "44.2", "longitude": "-40.05", "time_zone": "Etc/GMT+3"}],
    "trips": [
        {"trip": "anvil-1", "water": "Veyra Lake", "start": "2026-08-15T08:01:02Z", "end": "2026-08-15T14:11:00Z",
         "anglers": "2", "craft": "Wren", "note": "launched at Tollgate"},
    ],
    "efforts": [
        {"effort": "e1", "trip": "anvil-1", "start": "2026-08-15T08:30:00Z", "end": "2026-08-15T09:10:00Z",
         "rods": "2", "metres": "1234.5", "spot": "Anvil Point", "latitude": "44.20617", "longitude": "-40.05813",
         "lure": "Veyra Lake special", "lure_depth_m": "8", "bait_distance_m": "77.7"},
    ],
    "marks": [
        {"mark": "m1", "time": "2026-08-15T08:40:11Z", "kind": "fish",
         "latitude": "44.20619", "longitude": "-40.05817",
         "seen": "8", "caught": "3", "name": "Twin Humps", "note": "44 12.371 N", "secret": "hidden"},
    ],
    "catches": [
        {"catch": f"c{k}", "effort": "e1", "trip": "anvil-1", "time": f"2026-08-15T08:5{k}:13Z", "species": species,
         "length_m": "0.35", "kept": "0", "latitude": "44.20621", "longitude": "-40.05821",
         "picture": "pictures/IMG_4412.jpg",
         "hook_place": hook, "note": "under the old bridge"}
        for k, (species, hook) in enumerate([("kokanee", "jaw"), ("yellow perch", "at Anvil Point"), ("burbot",
        "44.2062,-40.058")])
    ],
    "signs": [
        {"trip": "anvil-1", "time": "2026-08-15T08:20:05Z", "kind": "birds diving",
         "latitude": "44.2063", "longitude": "-40.0583",
         "bearing_deg": "217.5", "distance_m": "431.25"},
    ],
}  # fmt: skip
SECRETS = (
    "44.20", "44.2", "-40.05", "40.05", "Veyra", "Anvil", "Twin Humps", "Tollgate", "old bridge", "IMG_4412", "217.5",
    "431.25", "1234.5", "77.7", "Etc/GMT", "08:", "14:11", "hidden", "secret", "44 12", "anvil-1", "rod 3",
)  # fmt: skip


def a_picture():
    out = io.BytesIO()
    image = Image.new("RGB", (60, 40), "teal")
    exif = Image.Exif()
    exif[0x010E] = "Anvil Point at 44.2062"
    exif.get_ifd(0x8825)[1] = "N"
    image.save(out, "JPEG", exif=exif, comment=b"Veyra Lake")
    return out.getvalue()


@pytest.fixture
def source(tmp_path):
    files = {"pictures/IMG_4412.jpg": a_picture(), "pictures/none.jpg": b"no picture", "tracks.gpx": b"<gpx/>",
             "secret.txt": b"Veyra 44.2"}  # fmt: skip
    return write_archive(tmp_path / "veyra.log.zip", LOG, files)


def all_bytes(path):
    """The file, and all that is packed inside."""
    data = path.read_bytes()
    if path.suffix == ".zip":
        tables, files = read_archive(path)
        data += (
            json.dumps(tables, ensure_ascii=False).encode() + b"".join(files.values()) + repr(list(files)).encode()
        )
    for stream in re.findall(rb"stream\r?\n(.*?)endstream", data, re.DOTALL):
        with suppress(zlib.error):
            data += zlib.decompressobj().decompress(stream)
    return data


@pytest.mark.parametrize("ending", ENDINGS)
@pytest.mark.parametrize("positions", [Positions.NONE, Positions.AREA])
def test_nothing_of_a_place_leaves(tmp_path, source, ending, positions):
    out = tmp_path / f"out{ending}"
    told = share(source, out, positions)
    said = all_bytes(out)
    for secret in SECRETS:
        if positions is Positions.AREA and secret in ("44.20", "44.2", "-40.05", "40.05"):
            continue  # the middle of the cell begins so
        assert secret.encode() not in said, secret
    if ending in (".csv", ".geojson"):
        assert b"yellow perch" in said  # what is no secret stays
        assert b"2026-08-15T00:00:00Z" in said
    assert any("positions" in line for line in told.taken)
    assert any("secret.txt" in line for line in told.taken)


def test_areas_are_the_middles_of_cells_and_none_has_no_geometry(tmp_path, source):
    share(source, tmp_path / "a.geojson", Positions.AREA)
    share(source, tmp_path / "n.geojson")
    area, none = (json.loads((tmp_path / f"{n}.geojson").read_text())["features"] for n in "an")
    middle = area_middle(44.20621, -40.05821)
    assert {tuple(f["geometry"]["coordinates"]) for f in area} == {(round(middle[1], 7), round(middle[0], 7))}
    assert [f["geometry"] for f in none] == [None] * 4
    share(source, tmp_path / "n.gpx")
    assert "<wpt" not in (tmp_path / "n.gpx").read_text()


def test_exact_leaves_what_was_written_and_no_more(tmp_path, source):
    share(source, tmp_path / "e.log.zip", Positions.EXACT)
    tables, files = read_archive(tmp_path / "e.log.zip")
    assert tables["marks"][0]["name"] == "Twin Humps"
    assert "secret" not in tables["marks"][0]
    assert sorted(files) == ["log.json", "pictures/1.jpg"]
    assert {c["picture"] for c in tables["catches"]} == {"pictures/1.jpg"}
    assert tables["catches"][0]["latitude"] == "44.20621"


def test_references_still_hold_among_the_new_numbers(tmp_path, source):
    share(source, tmp_path / "n.log.zip")
    tables, _ = read_archive(tmp_path / "n.log.zip")
    assert {c["trip"] for c in tables["catches"]} == {tables["trips"][0]["trip"]} == {"1"}
    assert tables["trips"][0]["water"] == tables["waters"][0]["water"]
    assert [c["hook_place"] for c in sorted(tables["catches"], key=lambda c: c["species"])] == ["", "jaw", ""]


def test_another_ending_is_refused_and_makes_no_file(tmp_path, source):
    with pytest.raises(FileError):
        share(source, tmp_path / "out.kml")
    assert not (tmp_path / "out.kml").exists()


def test_a_picture_is_drawn_again_the_right_way_up():
    out = io.BytesIO()
    exif = Image.Exif()
    exif[0x0112] = 6  # the camera lay on its side
    Image.new("RGB", (60, 40), "teal").save(out, "JPEG", exif=exif)
    again = Image.open(io.BytesIO(plain_picture(io.BytesIO(out.getvalue()))))
    assert again.size == (40, 60)
    assert not dict(again.getexif())
    assert plain_picture(io.BytesIO(b"nothing")) is None


@given(st.floats(-90, 90), st.floats(-180, 180))
def test_a_place_lies_in_its_cell_and_the_middle_is_the_cells_own(latitude, longitude):
    middle = area_middle(latitude, longitude)
    assert abs(middle[0]) < 90
    assert abs(latitude - middle[0]) <= 0.0901
    assert area_middle(*middle)[0] == pytest.approx(middle[0])
