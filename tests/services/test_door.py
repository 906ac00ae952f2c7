"""Every file is told by what is in it, whatever it is called; what is not known is said."""

import shutil
import zipfile

import numpy as np
import pytest
from PySide6.QtGui import QImage

from plumbbob.core.geodesy import Position
from plumbbob.core.rig.tackle import DEFAULT_BOX
from plumbbob.files.errors import FileError
from plumbbob.formats.gpx import Waypoint, read_gpx, write_gpx
from plumbbob.formats.registry import Content
from plumbbob.formats.tackle_csv import write_tackle
from plumbbob.formats.waters import data_path
from plumbbob.services.archive import backup
from plumbbob.services.door import about_backup, unpacked, what_is
from plumbbob.services.waters import Waters
from plumbbob.store.opening import copied, open_log
from tests.store.test_log import a_mark

GPX = """<?xml version="1.0"?><gpx version="1.1" creator="x" xmlns="http://www.topografix.com/GPX/1/1">
<wpt lat="44.2" lon="-40.05"><name>Stump</name><desc>timber</desc></wpt><wpt lat="999" lon="0"><name>off</name></wpt>
<rte><name>west</name><rtept lat="44.2" lon="-40.05"/><rtept lat="44.21" lon="-40.06"/></rte>
<trk><name>day</name><trkseg><trkpt lat="44.2" lon="-40"/><trkpt lat="44.3" lon="-40.1"/></trkseg></trk></gpx>"""

TEXTS = [
    ("latitude,longitude,depth_m\n44,-40,5\n", Content.SOUNDINGS),
    ("Depth (ft);LON;LAT\n5;-40;44\n", Content.SOUNDINGS),
    ("a,b,c,d\n1,2,3,4\n", Content.SOUNDINGS),
    ("44.2 -40.05 5.1\n44.3 -40.06 6.2\n", Content.SOUNDINGS),
    ("depth_m,temperature_c\n0,20\n5,18\n", Content.COLUMN),
    ("0\t21.5\n4\t21\n", Content.COLUMN),
    ("$SDDPT,5.2,0.3*66\n$GPGGA,1,2\n", Content.CHART),
    (GPX, Content.TRACK),
    ('{"type": "FeatureCollection", "features": []}', Content.CHART),
    ('<kml xmlns="x"></kml>', Content.CHART),
]


@pytest.mark.parametrize(("text", "content"), TEXTS)
def test_text_is_told_by_what_it_says(tmp_path, text, content):
    for name in ("a.bin", "b.csv", "c"):
        (tmp_path / name).write_text(text)
        assert what_is(tmp_path / name).content is content


def test_bytes_are_told_by_how_they_begin(tmp_path):
    picture = tmp_path / "picture.csv"
    image = QImage(4, 4, QImage.Format.Format_RGB32)
    image.fill(0)
    assert image.save(str(tmp_path / "picture.png"))
    (tmp_path / "picture.png").rename(picture)
    shutil.copy(data_path("veyra_first_pass.nc"), tmp_path / "pass.txt")
    write_tackle(tmp_path / "box.txt", DEFAULT_BOX)
    log = open_log(tmp_path / "log").log
    log.add(a_mark())
    log.close()
    waters = Waters(tmp_path / "waters")
    backup(waters, waters.create("Pond", Position(44.0, -40.0)), tmp_path / "pond.bin")
    found = {p: what_is(tmp_path / p).content for p in ("picture.csv", "pass.txt", "box.txt", "log", "pond.bin")}
    assert list(found.values()) == [
        Content.PICTURE, Content.RECORDING, Content.TACKLE, Content.LOG, Content.ARCHIVE,
    ]  # fmt: skip
    assert about_backup(tmp_path / "pond.bin") == "Pond"
    (tmp_path / "aside").mkdir()
    with copied(tmp_path / "log", tmp_path / "aside") as other:
        assert [m.seen for m in other.marks()] == [a_mark().seen]


@pytest.mark.parametrize(
    ("name", "data", "said"),
    [
        ("x.pdf", b"%PDF-1.7 ...", "a PDF document"),
        ("x.nc", b"\x00\x01\x02" * 90, "could be netCDF-4"),
        ("letter.txt", b"Dear all, the fish were there.", "text without a table"),
        ("empty.csv", b"", "is empty"),
        ("noise", bytes(range(1, 255)), "bytes of no kind"),
    ],
)
def test_what_is_not_known_says_what_it_looks_like(tmp_path, name, data, said):
    (tmp_path / name).write_bytes(data)
    with pytest.raises(FileError, match=said) as caught:
        what_is(tmp_path / name)
    assert "\n" not in str(caught.value)


def test_a_zip_is_looked_into_and_a_bomb_is_not(tmp_path):
    with zipfile.ZipFile(tmp_path / "many.zip", "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("../../up.csv", TEXTS[0][0])
        archive.writestr("deep/inside/up.csv", TEXTS[1][0])
        archive.writestr(".hidden", "x")
    (tmp_path / "out").mkdir()
    assert what_is(tmp_path / "many.zip").content is Content.ZIP
    files = unpacked(tmp_path / "many.zip", tmp_path / "out")
    assert len(files) == 2
    assert all((tmp_path / "out") in f.parents for f in files)
    assert not (tmp_path / "up.csv").exists()
    with zipfile.ZipFile(tmp_path / "bomb.zip", "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("big.csv", b"0" * 40_000_000)
    with pytest.raises(FileError, match="far more"):
        unpacked(tmp_path / "bomb.zip", tmp_path / "out")


def test_any_gpx_gives_marks_and_trails(tmp_path):
    (tmp_path / "a.gpx").write_text(GPX)
    found = read_gpx(tmp_path / "a.gpx")
    assert [(p.name, p.desc) for p in found.waypoints] == [("Stump", "timber")]
    assert np.isnan(found.waypoints[0].time)
    assert {name: line.shape for name, line in found.ways} == {"day": (2, 2), "west": (2, 2)}
    own = Waypoint(
        name="fish 0/2", desc="d", latitude=44.2, longitude=-40.0, time=1.7e9, numbers={"kind": "fish", "depth": 6.5}
    )
    write_gpx(tmp_path / "own.gpx", [own])
    (back,) = read_gpx(tmp_path / "own.gpx").waypoints
    assert (back.numbers["kind"], float(back.numbers["depth"]), back.time) == ("fish", 6.5, 1.7e9)
    (tmp_path / "none.gpx").write_text('<gpx version="1.1"></gpx>')
    with pytest.raises(FileError, match="holds no waypoints"):
        read_gpx(tmp_path / "none.gpx")
