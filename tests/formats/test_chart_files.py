"""Charts in and out: CSV, NMEA, rasters, vectors, columns, a water's folder, the command line."""

import json
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
import rasterio
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from rasterio.transform import from_origin

from plumbbob.core.chart.build import build_chart
from plumbbob.core.chart.contours import contours
from plumbbob.core.chart.grid import make_grid
from plumbbob.core.chart.soundings import CleanSettings, Fault
from plumbbob.core.geodesy import Plane
from plumbbob.core.water.profile import Profile
from plumbbob.files.errors import FileError
from plumbbob.formats.chart_cache import Kept, key_of, load_grid, save_grid
from plumbbob.formats.nmea import read_nmea
from plumbbob.formats.profile import parse_profile, read_profile, write_profile
from plumbbob.formats.raster import read_raster, write_grid
from plumbbob.formats.soundings import Columns, guess_columns, read_header, read_soundings, write_soundings
from plumbbob.formats.vectors import read_vectors, write_contours, write_shapes
from plumbbob.formats.water_folder import WaterFolder
from tests.lake import EAST, NORTH, PLANE, as_soundings, bowl, grid_of, lines_over


def write(path: Path, text: str) -> Path:
    path.write_text(text, encoding="utf-8")
    return path


ROWS = "\n".join(f"2026-08-01T06:00:{i:02d}Z,44.2{i:02d},-40.05,{5 + i / 10},-1.3" for i in range(30))


def test_a_plain_file_is_read_in_order(tmp_path):
    path = write(tmp_path / "a.csv", f"time,latitude,longitude,depth_m,water_level_m\n{ROWS}\n")
    file = read_soundings(path)
    s = file.soundings
    assert len(s) == 30
    assert file.unusable == 0
    assert s.depth_m[3] == pytest.approx(5.3)
    assert s.water_level_m[0] == -1.3
    assert s.time[1] - s.time[0] == pytest.approx(1.0)
    assert s.time[0] == 1785564000.0


def test_feet_fathoms_and_centimetres_are_told_by_the_header_or_the_person(tmp_path):
    feet = write(tmp_path / "f.csv", "latitude,longitude,depth_ft\n44,-40,10\n44.1,-40,20\n")
    assert read_soundings(feet).soundings.depth_m == pytest.approx([3.048, 6.096])
    fathoms = write(tmp_path / "fm.csv", "Lat,Lon,Depth (fathoms)\n44,-40,10\n")
    assert read_soundings(fathoms).soundings.depth_m == pytest.approx([18.288])
    cm = write(tmp_path / "cm.csv", "a,b,c\n44,-40,350\n")
    columns = Columns(latitude="a", longitude="b", depth="c", depth_unit="cm")
    assert read_soundings(cm, columns).soundings.depth_m == pytest.approx([3.5])


def test_a_gap_in_metres_is_filled_from_feet(tmp_path):
    path = write(tmp_path / "both.csv", "latitude,longitude,depth_m,depth_ft\n44,-40,3,\n44,-40,,10\n44,-40,,\n")
    file = read_soundings(path)
    assert file.soundings.depth_m == pytest.approx([3.0, 3.048])
    assert file.unusable == 1
    assert "1 rows" in file.notes[0]


def test_semicolons_and_decimal_commas_are_understood(tmp_path):
    path = write(tmp_path / "eu.csv", "Lat;Long;Tiefe\n44,2;-40,05;6,5\n44,3;-40,05;7,5\n")
    s = read_soundings(path).soundings
    assert s.latitude.tolist() == [44.2, 44.3]
    assert s.depth_m.tolist() == [6.5, 7.5]


def test_depths_given_as_heights_are_turned_round_and_said(tmp_path):
    path = write(tmp_path / "neg.csv", "latitude,longitude,depth_m\n44,-40,-5\n44,-40,-6\n44,-40,-7\n")
    file = read_soundings(path)
    assert file.soundings.depth_m.tolist() == [5.0, 6.0, 7.0]
    assert "turned round" in file.notes[0]


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "is empty"),
        ("a,b,c\n1,2,3\n", "no column for latitude and longitude and depth"),
        ("latitude,longitude\n44,-40\n", "needs columns"),
        ("latitude,longitude,depth_m\nx,y,z\n", "none with a usable"),
        ("latitude,longitude,depth_m\n-140.05,44.2,5\n-140.06,44.2,5\n", "swapped"),
        ("latitude,longitude,depth_m\n4894000,416000,5\n4894010,416000,5\n", "projection"),
        ("latitude,longitude,depth_m\n44,-40,50000\n44,-40,50000\n", "thousands"),
    ],
)
def test_what_can_not_be_a_chart_is_refused_in_one_line(tmp_path, text, says):
    path = write(tmp_path / "bad.csv", text)
    with pytest.raises(FileError, match=says) as caught:
        read_soundings(path)
    assert str(caught.value).startswith("bad.csv: ")
    assert "\n" not in str(caught.value)


def test_binary_and_missing_files_are_refused(tmp_path):
    path = tmp_path / "b.csv"
    path.write_bytes(bytes(range(256)) * 20)
    with pytest.raises(FileError, match="UTF-8"):
        read_soundings(path)
    with pytest.raises(FileError):
        read_soundings(tmp_path / "none.csv")
    good = write(tmp_path / "g.csv", "latitude,longitude,depth_m\n44,-40,5\n")
    with pytest.raises(FileError, match="no column deep"):
        read_soundings(good, Columns(latitude="latitude", longitude="longitude", depth="deep"))


def test_headers_of_other_programs_are_guessed(tmp_path):
    path = write(tmp_path / "h.csv", "Timestamp\tLAT\tLNG\tWater Depth\tTemp\n")
    header = read_header(path)
    assert header.mark == "\t"
    columns = guess_columns(path, header.names)
    assert (columns.latitude, columns.longitude, columns.depth) == ("LAT", "LNG", "Water Depth")
    assert columns.time == "Timestamp"


PLACES = [(44.2048 + 0.00013 * k, -140.0572 + 0.00017 * (k % 7), 3.0 + (k % 5) * 0.7) for k in range(60)]


@pytest.mark.parametrize(
    "line",
    [
        "{0:.6f},{1:.6f},{2:.1f}",
        "{1:.6f};{0:.6f};{2:.1f}",
        "{2:.2f}\t{1:.6f}\t{0:.6f}",
        "{3} {0:.6f} {1:.6f} {2:.1f}",
        "2026-06-01T10:{3:02d}:00Z,{1:.6f},{0:.6f},{2:.1f}",
    ],
)
def test_a_table_without_names_is_told_by_its_numbers(tmp_path, line):
    path = write(tmp_path / "n.xyz", "".join(line.format(*row, k) + "\n" for k, row in enumerate(PLACES)))
    found = read_soundings(path)
    lat, lon, depth = (np.array(v) for v in zip(*PLACES, strict=True))
    np.testing.assert_allclose(found.soundings.latitude, lat, atol=1e-6)
    np.testing.assert_allclose(found.soundings.longitude, lon, atol=1e-6)
    np.testing.assert_allclose(found.soundings.depth_m, depth, atol=0.051)
    assert "names no columns" in found.notes[0]
    assert np.isfinite(found.soundings.time).all() == line.startswith("2026")


def test_blanks_and_commas_in_numbers_are_told_apart(tmp_path):
    path = write(tmp_path / "c.txt", "".join(f"{a:.6f} {b:.6f} {z:.1f}\n".replace(".", ",") for a, b, z in PLACES))
    np.testing.assert_allclose(read_soundings(path).soundings.depth_m, [r[2] for r in PLACES], atol=0.051)
    with pytest.raises(FileError, match="Name them by hand"):
        read_soundings(write(tmp_path / "d.txt", "1 2 3\n2 3 4\n"))


@settings(max_examples=40)
@given(st.binary(max_size=300))
def test_no_bytes_make_reading_fall_over(tmp_path_factory, data):
    path = tmp_path_factory.mktemp("fuzz") / "f.csv"
    path.write_bytes(b"latitude,longitude,depth_m\n" + data)
    said = ""
    try:
        depth = read_soundings(path).soundings.depth_m
    except FileError as exc:
        said, depth = str(exc), np.zeros(0)
    assert "\n" not in said
    assert np.isfinite(depth).all()


def test_soundings_come_back_from_our_own_csv(tmp_path):
    s = as_soundings(*lines_over(bowl), level_m=-0.4)
    write_soundings(tmp_path / "s.csv", s)
    back = read_soundings(tmp_path / "s.csv").soundings
    assert back.latitude == pytest.approx(s.latitude, abs=1e-7)
    assert back.depth_m == pytest.approx(s.depth_m, abs=1e-3)
    assert back.water_level_m == pytest.approx(s.water_level_m)
    assert back.time == pytest.approx(s.time, abs=0.11)
    assert [p.name for p in tmp_path.iterdir()] == ["s.csv"]


# -- NMEA -------------------------------------------------------------------------------------------------------


def sentence(body: str) -> str:
    check = 0
    for c in body:
        check ^= ord(c)
    return f"${body}*{check:02X}"


def log(depths, minutes=12.0):
    lines = []
    for i, depth in enumerate(depths):
        lines.append(
            sentence(f"GPRMC,0910{i:02d}.00,A,44{minutes + i / 1000:07.4f},N,04003.0000,W,3.0,0.0,150826,,,A")
        )
        lines.append(sentence(depth))
    lines.append(sentence(f"GPRMC,0911{30}.00,A,44{minutes + 1:07.4f},N,04003.0000,W,3.0,0.0,150826,,,A"))
    return "\n".join(lines)


def test_an_nmea_log_becomes_soundings(tmp_path):
    text = log([f"SDDPT,{5 + i / 10:.1f},0.4" for i in range(20)]) + "\n" + sentence("YXMTW,20.9,C") + "\nnonsense\n"
    found = read_nmea(write(tmp_path / "a.nmea", text))
    assert len(found.soundings) == 20
    assert found.soundings.depth_m[0] == pytest.approx(5.4)
    assert found.soundings.latitude[0] == pytest.approx(44.2, abs=1e-3)
    assert found.soundings.longitude[0] == pytest.approx(-40.05)
    assert found.soundings.time[0] == pytest.approx(1786785000.0, abs=5)
    assert found.temperature_c == 20.9


def test_a_keel_offset_is_not_added_and_other_depths_are_read(tmp_path):
    keel = read_nmea(write(tmp_path / "k.nmea", log(["SDDPT,5.0,-0.8"] * 5)))
    assert keel.soundings.depth_m[0] == 5.0
    dbt = read_nmea(write(tmp_path / "t.nmea", log(["SDDBT,16.4,f,5.0,M,2.7,F"] * 5)))
    assert dbt.soundings.depth_m[0] == 5.0
    assert "transducer" in " ".join(dbt.notes)
    feet = read_nmea(write(tmp_path / "s.nmea", log(["SDDBS,16.404,f,,M,,F"] * 5)))
    assert feet.soundings.depth_m[0] == pytest.approx(5.0, abs=1e-3)


def test_wrong_checksums_are_counted_and_logs_without_depth_refused(tmp_path):
    text = log(["SDDPT,5.0,0.0"] * 6).replace("SDDPT,5.0,0.0*", "SDDPT,9.0,0.0*", 1)
    found = read_nmea(write(tmp_path / "c.nmea", text))
    assert found.skipped == 1
    assert (found.soundings.depth_m == 5.0).all()
    with pytest.raises(FileError, match="no position"):
        read_nmea(write(tmp_path / "p.nmea", sentence("SDDPT,5.0,0.0")))
    with pytest.raises(FileError, match="no depth"):
        read_nmea(write(tmp_path / "d.nmea", log([])))


# -- rasters ----------------------------------------------------------------------------------------------------


def test_a_grid_is_a_geotiff_that_says_what_it_is(tmp_path):
    grid = grid_of(bowl)
    write_grid(tmp_path / "g.tif", PLANE, grid)
    with rasterio.open(tmp_path / "g.tif") as file:
        assert file.count == 1
        assert file.dtypes == ("float32",)
        assert file.crs.to_epsg() == 32624
        assert np.isnan(file.nodata)
        band = file.read(1)
        spot = next(file.sample([(EAST + 402.0, NORTH + 398.0)]))[0]
    assert np.array_equal(band[::-1], grid.depth_m, equal_nan=True)
    assert spot == pytest.approx(float(bowl(402.0, 398.0)), abs=0.1)


def test_rasters_come_back_as_soundings_heights_too(tmp_path):
    grid = grid_of(bowl, cell_m=20.0)
    write_grid(tmp_path / "g.tif", PLANE, grid)
    s, note = read_raster(tmp_path / "g.tif")
    assert len(s) == int(grid.known.sum())
    assert note == ""
    x, y = PLANE.to_xy(s.latitude, s.longitude)
    assert s.depth_m == pytest.approx(bowl(x - EAST, y - NORTH), abs=0.02)
    band = -np.abs(grid.depth_m[::-1])
    with rasterio.open(
        tmp_path / "h.tif", "w", driver="GTiff", height=40, width=40, count=1, dtype="float32", crs="EPSG:32624",
        transform=from_origin(EAST, NORTH + 800, 20, 20), nodata=float("nan"),
    ) as file:  # fmt: skip
        file.write(band, 1)
    turned, note = read_raster(tmp_path / "h.tif")
    assert turned.depth_m == pytest.approx(s.depth_m)
    assert "heights" in note


def test_rasters_without_a_place_or_that_are_none_are_refused(tmp_path):
    with rasterio.open(tmp_path / "n.tif", "w", driver="GTiff", height=4, width=4, count=1, dtype="float32") as file:
        file.write(np.ones((4, 4), np.float32), 1)
    with pytest.raises(FileError, match="coordinate system"):
        read_raster(tmp_path / "n.tif")
    with pytest.raises(FileError, match="no raster"):
        read_raster(write(tmp_path / "x.tif", "no"))


# -- vectors ----------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("ending", [".gpkg", ".geojson"])
def test_contours_go_out_and_come_back_as_soundings(tmp_path, ending):
    grid = grid_of(bowl)
    found = contours(grid.frame, grid.depth_m, [4.0, 8.0])
    path = tmp_path / f"c{ending}"
    write_contours(path, PLANE, found)
    back = read_vectors(path)
    assert set(np.unique(back.soundings.depth_m)) == {4.0, 8.0}
    x, y = PLANE.to_xy(back.soundings.latitude, back.soundings.longitude)
    assert bowl(x - EAST, y - NORTH) == pytest.approx(back.soundings.depth_m, abs=0.15)
    assert [p.name for p in tmp_path.iterdir()] == [path.name]


def ring(r=300.0, closed=True):
    turn = np.linspace(0, 2 * np.pi, 50)[: None if closed else -10]
    lat, lon = PLANE.to_latlon(EAST + 400 + r * np.cos(turn), NORTH + 400 + r * np.sin(turn))
    return np.stack([lon, lat], axis=1)


def test_polygons_are_shoreline_and_points_with_depth_are_soundings(tmp_path):
    write_shapes(tmp_path / "shore.gpkg", "lake", [shapely.Polygon(ring())], {"name": np.array(["Veyra"])}, "Polygon")
    chart = read_vectors(tmp_path / "shore.gpkg")
    assert len(chart.shore) == 1
    assert len(chart.soundings) == 0
    points = [shapely.Point(*c) for c in ring()[:20]]
    write_shapes(tmp_path / "p.geojson", "p", points, {"depth_ft": np.arange(20.0)}, "Point")
    assert read_vectors(tmp_path / "p.geojson").soundings.depth_m == pytest.approx(np.arange(20.0) * 0.3048)


def test_an_unclosed_shoreline_is_left_out_and_said(tmp_path):
    lines = [shapely.LineString(ring(closed=False)), shapely.LineString(ring(200.0))]
    write_shapes(tmp_path / "l.gpkg", "shore", lines, {"name": np.array(["a", "b"])}, "LineString")
    chart = read_vectors(tmp_path / "l.gpkg")
    assert len(chart.shore) == 1
    assert any("not closed" in note for note in chart.notes)


def test_vectors_that_say_nothing_are_refused_in_words(tmp_path):
    write_shapes(tmp_path / "e.geojson", "e", [shapely.Point(-40, 44)], {"name": np.array(["x"])}, "Point")
    with pytest.raises(FileError, match="nothing was added"):
        read_vectors(tmp_path / "e.geojson")
    with pytest.raises(FileError, match="no vector chart"):
        read_vectors(write(tmp_path / "x.gpkg", "no"))
    with pytest.raises(FileError, match="ends neither"):
        write_shapes(tmp_path / "x.dxf", "x", [], {}, "Point")
    with pytest.raises(FileError, match="has no layer"):
        read_vectors(tmp_path / "e.geojson", layer="other")


# -- columns, folders, caches -----------------------------------------------------------------------------------


def test_a_column_typed_in_feet_and_fahrenheit():
    profile = parse_profile("0\t70\n10 69.8\n32.8 50 6.1", feet=True, fahrenheit=True)
    assert profile.depth_m == pytest.approx([0.0, 3.048, 9.997], abs=1e-3)
    assert profile.temperature_c == pytest.approx([21.11, 21.0, 10.0], abs=0.01)
    assert profile.oxygen_mgl[2] == 6.1


@pytest.mark.parametrize("text", ["", "0 21", "hello\nworld", "depth_m,temp\n1,2\n2,3", "5 99\n6 99"])
def test_a_column_that_can_not_be_read_says_why(text):
    with pytest.raises(ValueError, match=r"fewer than two|nothing|header"):
        parse_profile(text)


def test_columns_come_back_from_their_file(tmp_path):
    given_one = Profile(
        depth_m=np.array([0.0, 4.0, 9.0]),
        temperature_c=np.array([20.0, 19.5, 8.0]),
        oxygen_mgl=np.array([9.0, np.nan, 2.0]),
    )
    write_profile(tmp_path / "p.csv", given_one)
    back = read_profile(tmp_path / "p.csv")
    assert back.temperature_c == pytest.approx(given_one.temperature_c)
    assert back.oxygen_mgl == pytest.approx(given_one.oxygen_mgl, nan_ok=True)


def test_a_water_keeps_its_own_open_files(tmp_path):
    folder = WaterFolder(tmp_path / "w")
    assert folder.sources() == []
    s = as_soundings(*lines_over(bowl))
    folder.add("survey", s)
    folder.add("survey", s)
    folder.add_pass("first: pass?", s)
    assert folder.has_pass("first: pass?")
    assert not folder.has_pass("second")
    write(tmp_path / "w" / "broken.csv", "nothing here\n")
    parts, trouble = folder.read_all()
    assert len(parts) == 3
    assert len(trouble) == 1
    assert "broken.csv" in trouble[0]
    folder.set_profile(Profile(depth_m=np.array([0.0, 5.0]), temperature_c=np.array([20.0, 9.0])))
    assert folder.profile().at(5.0) == 9.0
    folder.set_profile(None)
    assert folder.profile() is None
    folder.set_shore([ring()[:, ::-1]], [(44.2, -40.05)])
    rings, hazards = folder.shore()
    assert rings[0] == pytest.approx(ring()[:, ::-1])
    assert hazards == [(44.2, -40.05)]
    write(tmp_path / "w" / "shore.geojson", "{}")
    with pytest.raises(FileError, match="GeoJSON"):
        folder.shore()


def test_a_kept_grid_is_used_only_for_the_same_soundings(tmp_path):
    x, y, d = lines_over(bowl)
    grid = make_grid(x, y, d)
    source = write(tmp_path / "a.csv", "one")
    key = key_of([source], CleanSettings())
    save_grid(tmp_path / "grid.npz", key, Kept(32624, grid, ~grid.known, 55, {Fault.WEED: 3}))
    back = load_grid(tmp_path / "grid.npz", key)
    assert (back.epsg, back.used, back.left_out) == (32624, 55, {Fault.WEED: 3})
    assert back.grid.frame == grid.frame
    assert np.array_equal(back.grid.depth_m, grid.depth_m, equal_nan=True)
    assert np.array_equal(back.land, ~grid.known)
    assert key_of([source], CleanSettings(draft_m=0.3)) != key
    source.write_text("other")
    assert load_grid(tmp_path / "grid.npz", key_of([source], CleanSettings())) is None
    (tmp_path / "grid.npz").write_bytes(b"broken")
    assert load_grid(tmp_path / "grid.npz", key) is None
    assert load_grid(tmp_path / "none.npz", key) is None


# -- the command ------------------------------------------------------------------------------------------------


def plumbbob(*args):
    return subprocess.run([sys.executable, "-m", "plumbbob.cli", *map(str, args)], capture_output=True, text=True)


def test_the_chart_command_keeps_its_contract(tmp_path):
    x, y, d = lines_over(bowl)
    path = tmp_path / "s.csv"
    write_soundings(path, as_soundings(x, y, d))
    done = plumbbob("chart", path, "--json", "--grid", tmp_path / "g.tif", "--contours", tmp_path / "c.geojson")
    assert done.returncode == 0, done.stderr
    doc = json.loads(done.stdout)
    assert set(doc["grid"]) >= {"cell", "width", "height", "soundings_used", "soundings_rejected"}
    assert doc["grid"]["soundings_used"] + doc["grid"]["soundings_rejected"] == x.size
    hump = next(f for f in doc["features"] if f["kind"] == "hump")
    place = PLANE.to_xy(hump["latitude"], hump["longitude"])
    assert np.hypot(place[0] - EAST - 330, place[1] - NORTH - 430) < 20
    assert shapely.from_geojson(json.dumps(hump["geometry"])).is_valid
    with rasterio.open(tmp_path / "g.tif") as file:
        assert (file.width, file.height) == (doc["grid"]["width"], doc["grid"]["height"])
    assert json.loads((tmp_path / "c.geojson").read_text())["features"]
    coarse = json.loads(plumbbob("chart", path, "--json", "--cell", 20).stdout)
    assert coarse["grid"]["cell"] == 20
    assert "Not for navigation" in plumbbob("chart", path).stdout


@pytest.mark.parametrize(
    "args", [("none.csv", "--json"), ("bad.csv", "--json"), ("few.csv", "--json", "--cell", "-3")]
)
def test_bad_soundings_are_one_line_and_status_two(tmp_path, args):
    write(tmp_path / "bad.csv", "what,is,this\n1,2,3\n")
    write(tmp_path / "few.csv", "latitude,longitude,depth_m\n44,-40,5\n")
    done = plumbbob("chart", tmp_path / args[0], *args[1:])
    assert done.returncode == 2
    assert done.stdout == ""
    assert len(done.stderr.strip().splitlines()) == 1


def test_the_water_command_tells_layer_and_tilt(tmp_path):
    z = np.arange(0.0, 20.0, 1.0)
    write_profile(tmp_path / "p.csv", Profile(depth_m=z, temperature_c=7 + 14 / (1 + np.exp(z - 9))))
    done = plumbbob("water", tmp_path / "p.csv", "--wind", 7, "--fetch", 5000)
    assert "cold layer" in done.stdout
    assert "tilt" in done.stdout
    assert plumbbob("water", tmp_path / "none.csv").returncode == 2


def test_two_files_of_one_water_share_a_plane():
    x, y, d = lines_over(bowl)
    half = x.size // 2
    parts = [as_soundings(x[:half], y[:half], d[:half]), as_soundings(x[half:], y[half:], d[half:])]
    assert build_chart(parts, structure=False).plane == Plane(32624)
