"""Waters of one's own: where files belong, what is done to a whole water, and that nothing is lost by it."""

import json
import os
import zipfile
from datetime import UTC, datetime

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plumbbob.core.chart.soundings import Soundings
from plumbbob.core.extent import MOST_CORNERS, distance_to_outline_m, outline_of_places, size_m
from plumbbob.core.geodesy import Position
from plumbbob.files.errors import FileError
from plumbbob.formats.waters import FILE, Bait, LocalSpecies, Water, read_water, shipped_waters, write_water
from plumbbob.services.archive import backup, restore
from plumbbob.services.waters import Waters

AT = Position(44.3, -41.0)


def soundings(latitude, longitude, depth=5.0):
    n = len(latitude)
    return Soundings(
        latitude=np.asarray(latitude, float),
        longitude=np.asarray(longitude, float),
        depth_m=np.full(n, depth),
        water_level_m=np.zeros(n),
        time=np.full(n, np.nan),
    )


def grid(place=AT, half=0.01, n=12):
    lat, lon = np.meshgrid(
        np.linspace(-half, half, n) + place.latitude, np.linspace(-half, half, n) + place.longitude
    )
    return lat.ravel(), lon.ravel()


@pytest.fixture
def waters(tmp_path):
    return Waters(tmp_path / "waters")


def sounded(waters, name="Mill Pond", place=AT):
    water = waters.create(name, place)
    lat, lon = grid(place)
    waters.folder(water).add("survey", soundings(lat, lon))
    return waters.reach(water, lat, lon)


def everything(folder):
    return {p.relative_to(folder): p.read_bytes() for p in sorted(folder.rglob("*")) if p.is_file()}


# -- outlines -----------------------------------------------------------------------------------------------------


@given(
    st.lists(st.tuples(st.floats(-60, 60), st.floats(-170, 170)), min_size=1, max_size=60), st.floats(0.0001, 0.05)
)
def test_an_outline_holds_all_its_places(places, scale):
    middle = np.array(places[0])
    near = middle + (np.array(places) - middle) * scale / 200
    outline = outline_of_places(near[:, 0], near[:, 1])
    assert 1 <= len(outline) <= MOST_CORNERS
    away = distance_to_outline_m(outline, near[:, 0], near[:, 1])
    assert (away <= 0.05 * max(size_m(outline), 1.0)).all()


def test_an_outline_needs_places():
    assert outline_of_places([np.nan], [3.0]).shape == (0, 2)
    assert np.isinf(distance_to_outline_m(np.zeros((0, 2)), [1.0], [2.0])).all()
    assert size_m(np.zeros((1, 2))) == 0.0


# -- description ---------------------------------------------------------------------------------------------------


def test_a_description_comes_back_as_it_was_written(tmp_path):
    water = Water(
        key="w",
        name="Żółty staw / north",
        place=AT,
        outline=((44.0, -41.0), (44.1, -41.0), (44.1, -41.1)),
        time_zone="Europe/Berlin",
        altitude_m=120.0,
        level_range_m=(-1.5, 0.5),
        inhabitants=(LocalSpecies(name="sandre", species="zan"),),
        baits=(Bait(name="bleak", length_m=0.09),),
        defaults={"secchi_m": 2.0},
    )
    write_water(tmp_path / "w", water)
    assert read_water(tmp_path / "w") == water


def test_summer_time_is_right_also_back_in_time():
    water = Water(time_zone="Europe/Berlin")
    winter, summer, before = (datetime(y, m, 1, tzinfo=UTC).timestamp() for y, m in ((2026, 1), (2026, 7), (1975, 7)))
    assert [water.offset_h(t) for t in (winter, summer, before)] == [1.0, 2.0, 1.0]
    assert Water(time_zone="Nowhere/At_All").offset_h(winter) == 0.0
    assert Water().offset_h(np.nan) == 0.0


@pytest.mark.parametrize(
    "text",
    ["", "[]", '{"name": "x"}', '{"plumbbob_water": 1}', '{"plumbbob_water": 1, "name": "  "}',
     '{"plumbbob_water": 1, "name": "x", "latitude": 99, "longitude": 0}',
     '{"plumbbob_water": 1, "name": "x", "species": 3}', '{"plumbbob_water": 99, "name": "x"}'],
)  # fmt: skip
def test_what_is_no_description_is_one_line(tmp_path, text):
    (tmp_path / FILE).write_text(text)
    with pytest.raises(FileError) as caught:
        read_water(tmp_path)
    assert "\n" not in str(caught.value)


def test_a_clock_that_does_not_exist_falls_back_to_that_of_the_place(tmp_path):
    data = {"plumbbob_water": 1, "name": "x", "latitude": 52.5, "longitude": 13.4, "time_zone": "Mars/Olympus"}
    (tmp_path / FILE).write_text(json.dumps(data))
    assert read_water(tmp_path).time_zone == "Europe/Berlin"


# -- where files belong --------------------------------------------------------------------------------------------


def test_passes_of_one_lake_make_one_water_and_two_lakes_two(waters):
    water = sounded(waters)
    assert waters.fit([44.3001, 44.3002], [-41.0, -41.0001]).only == water
    far = waters.fit([44.6], [-41.0])
    assert far.is_new
    near = waters.fit([44.33], [-41.0])
    assert near.only is None
    assert near.near[0][0] == water
    assert near.near[0][1] == pytest.approx(2200, rel=0.1)


def test_where_two_lie_over_each_other_nobody_guesses(waters):
    sounded(waters, "One")
    sounded(waters, "Two", Position(44.305, -41.0))
    assert {w.name for w in waters.fit([44.302], [-41.0]).inside} == {"One", "Two"}
    assert waters.fit([44.302], [-41.0]).only is None
    assert waters.fit([np.nan], [np.nan]).is_new


def test_a_water_grows_with_what_is_sounded(waters):
    water = waters.create("Arm")
    assert waters.fit(*grid()).is_new
    wider = waters.reach(water, *grid())
    assert waters.fit(*grid()).only == wider
    assert wider.time_zone == "Etc/GMT+3"
    assert wider.place.latitude == pytest.approx(44.3, abs=1e-6)


def test_names_that_no_folder_could_have_are_names_all_the_same(waters):
    names = ["a/b", "../up", "x" * 3000, "con:aux", "Ünder", "Ünder", "."]
    for name in names[:-1]:
        waters.create(name)
    assert len(waters.all()) == 6
    assert all((waters.root / w.key).parent == waters.root and len(w.name) <= 80 for w in waters.all())
    with pytest.raises(ValueError, match="needs a name"):
        waters.create(names[-1])
    assert {w.name for w in waters.all()} >= {"Ünder", "Ünder 2"}


def test_the_last_visited_comes_first_and_names_may_be_short(waters):
    one, two = sounded(waters, "Alder Lake"), sounded(waters, "Birch Lake", Position(45.0, -41.0))
    waters.visit(two, 100.0)
    waters.visit(one, 200.0)
    assert [w.name for w in waters.all()] == ["Alder Lake", "Birch Lake"]
    assert waters.named("birch") == two
    assert waters.named("birch-lake") == two
    with pytest.raises(ValueError, match="may be Alder Lake, Birch Lake"):
        waters.named("lake")
    with pytest.raises(ValueError, match="there is no water 'cod'"):
        waters.named("cod")


# -- whole waters --------------------------------------------------------------------------------------------------


def test_delete_merge_and_move_can_be_taken_back_to_the_last_byte(waters):
    one, two = sounded(waters), sounded(waters, "Other", Position(44.5, -41.0))
    (waters.root / two.key / "profile.csv").write_text("depth_m,temperature_c\n0,20\n5,18\n")
    before = everything(waters.root)
    for act in (
        lambda: waters.delete(one, "2026"),
        lambda: waters.merge(one, two, "2026"),
        lambda: waters.move_file(waters.root / one.key / "survey.csv", two),
    ):
        moves = act()
        assert everything(waters.root) != before
        moves.take_back()
        assert everything(waters.root) == before


def test_merging_loses_nothing_and_writes_nothing_over(waters):
    one, two = sounded(waters), sounded(waters, "Other", Position(44.31, -41.0))
    waters.merge(one, two, "2026")
    assert [w.key for w in waters.all()] == [one.key]
    assert [p.name for p in waters.folder(one).sources()] == ["survey 2.csv", "survey.csv"]
    wider = waters.outlined(one)
    assert waters.fit([44.319], [-41.0]).only == wider
    with pytest.raises(ValueError, match="with itself"):
        waters.merge(one, one, "x")


def test_a_part_of_a_water_becomes_one_of_its_own(waters):
    water = sounded(waters)
    lat, lon = grid(Position(44.4, -41.0))
    extra = waters.folder(water).add("north", soundings(lat, lon))
    moves = waters.split(waters.outlined(water), [extra], "North")
    made = next(w for w in waters.all() if w.name == "North")
    assert waters.fit(lat, lon).inside[0] == made
    assert [p.name for p in waters.folder(made).sources()] == ["north.csv"]
    moves.take_back()
    assert [p.name for p in waters.folder(water).sources()] == ["north.csv", "survey.csv"]
    assert not (waters.root / made.key).exists()


def test_a_move_that_fails_half_way_is_taken_back(waters, monkeypatch):
    one, two = sounded(waters), sounded(waters, "Other", Position(44.5, -41.0))
    waters.folder(two).add("late", soundings([44.5], [-41.0]))
    before, real, calls = everything(waters.root), type(waters.root).rename, []

    def full(path, target):
        calls.append(path)
        if len(calls) == 2:
            raise OSError(28, "No space left on device")
        return real(path, target)

    monkeypatch.setattr(type(waters.root), "rename", full)
    with pytest.raises(FileError, match="No space left"):
        waters.merge(one, two, "2026")
    assert everything(waters.root) == before


def test_a_water_that_another_program_took_away_is_said(waters):
    water = sounded(waters)
    waters.delete(water, "by somebody")
    assert waters.get(water.key) is None
    with pytest.raises(FileError, match="could not be moved"):
        waters.delete(water, "again")
    assert waters.all() == ()


def test_a_folder_that_cannot_be_written_is_one_line(waters, monkeypatch):
    water = sounded(waters)
    monkeypatch.setattr(os, "mkdir", lambda *a, **k: (_ for _ in ()).throw(PermissionError(13, "Permission denied")))
    with pytest.raises(FileError, match="Permission denied") as caught:
        waters.save(water)
    assert "\n" not in str(caught.value)
    assert waters.get(water.key) == water


def test_old_folders_are_taken_over_without_a_change_to_their_files(waters):
    lat, lon = grid()
    for name in ("water 44.300 -41.000", "unnamed", "veyra-lake"):
        waters.folder(Water(key=name)).add("survey", soundings(lat, lon))
    before = everything(waters.root)
    taken = waters.take_over_old()
    assert {w.name for w in taken} == {"Water at 44.30° N 41.00° W", "Unnamed", "Veyra Lake"}
    after = everything(waters.root)
    assert {k: v for k, v in after.items() if k.name not in (FILE, "profile.csv")} == before
    assert waters.take_over_old() == ()
    assert waters.get("unnamed").outline


def test_what_comes_with_the_program_is_a_water_like_any_other(waters):
    made = [waters.adopt(s) for s in shipped_waters()]
    assert {w.name for w in waters.all()} == {"Veyra Lake", "Carrow Sound", "Tern Pond"}
    assert waters.folder(made[0]).profile() is not None
    renamed = waters.rename(made[0], "My lake")
    assert waters.adopt(shipped_waters()[0]) == renamed


# -- archives ------------------------------------------------------------------------------------------------------


def test_a_backup_brings_everything_back_beside_what_is_there(waters, tmp_path):
    water = sounded(waters)
    out = tmp_path / "pond.zip"
    assert backup(waters, water, out) == 2
    back = restore(waters, out)
    assert back.key != water.key
    assert back.name == "Mill Pond 2"
    here, there = (everything(waters.root / w.key) for w in (water, back))
    assert {k: v for k, v in here.items() if k.name != FILE} == {k: v for k, v in there.items() if k.name != FILE}


def archive_with(path, members, about='{"plumbbob_backup": 1}'):
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        if about is not None:
            archive.writestr("plumbbob-backup.json", about)
        archive.writestr(FILE, '{"plumbbob_water": 1, "name": "x"}')
        for name, data in members:
            archive.writestr(name, data)
    return path


@pytest.mark.parametrize(
    ("members", "about", "said"),
    [
        ([("../out.csv", "x")], '{"plumbbob_backup": 1}', "leads outside"),
        ([("/etc/out.csv", "x")], '{"plumbbob_backup": 1}', "leads outside"),
        ([("a\\b.csv", "x")], '{"plumbbob_backup": 1}', "leads outside"),
        ([("bomb.csv", b"0" * 30_000_000)], '{"plumbbob_backup": 1}', "far more"),
        ([], '{"plumbbob_backup": 99}', "newer program"),
        ([], None, "no backup"),
        ([], "nonsense", "no backup"),
    ],
)
def test_an_archive_that_means_harm_leaves_nothing_behind(waters, tmp_path, members, about, said):
    sounded(waters)
    before = everything(tmp_path)
    path = archive_with(tmp_path / "bad.zip", members, about)
    with pytest.raises(FileError, match=said):
        restore(waters, path)
    path.unlink()
    assert everything(tmp_path) == before


def test_a_link_in_an_archive_is_refused_and_so_is_what_is_none(waters, tmp_path):
    path = archive_with(tmp_path / "link.zip", [])
    with zipfile.ZipFile(path, "a") as archive:
        link = zipfile.ZipInfo("shore.geojson")
        link.external_attr = 0o120777 << 16
        archive.writestr(link, "/etc/passwd")
    with pytest.raises(FileError, match="holds a link"):
        restore(waters, path)
    (tmp_path / "text.zip").write_text("not a zip")
    with pytest.raises(FileError, match="no archive"):
        restore(waters, tmp_path / "text.zip")
    with pytest.raises(FileError, match="no such file"):
        restore(waters, tmp_path / "gone.zip")
