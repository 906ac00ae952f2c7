"""Files made to do harm: nothing goes out, nothing else is read, nothing grows, one line says why."""

import json
import os
import socket
import sqlite3
import subprocess
import sys
import threading
from contextlib import closing

import h5py
import numpy as np
import pytest
import rasterio
import shapely

from plumbbob.files.errors import FileError
from plumbbob.formats import gdal
from plumbbob.formats.any_recording import read_any
from plumbbob.formats.corrections import read_corrections
from plumbbob.formats.gpx import read_track
from plumbbob.formats.nmea import read_nmea
from plumbbob.formats.picture_scale import read_scale
from plumbbob.formats.profile import read_profile
from plumbbob.formats.raster import read_raster
from plumbbob.formats.recording import read_recording
from plumbbob.formats.soundings import read_soundings
from plumbbob.formats.tackle_csv import read_tackle
from plumbbob.formats.vectors import read_vectors, write_shapes

# -- nothing goes out, nothing else is read ----------------------------------------------------------------------


@pytest.fixture(scope="module")
def listener():
    """A server on the loopback that remembers every byte it was sent."""
    heard = []
    with socket.create_server(("127.0.0.1", 0)) as server:
        server.settimeout(0.1)
        stop = threading.Event()

        def listen():
            while not stop.is_set():
                try:
                    peer, _ = server.accept()
                except TimeoutError:
                    continue
                with peer:
                    peer.settimeout(0.5)
                    heard.append(peer.recv(400))

        thread = threading.Thread(target=listen)
        thread.start()
        yield server.getsockname()[1], heard
        stop.set()
        thread.join()


SECRET = "depth_m;latitude;longitude\n77.7;44.2;-40.05\n"
_POINT = '{"type":"Feature","properties":{"depth_m":5},"geometry":{"type":"Point","coordinates":[-40.05,44.2]}}'


def _vrt(source):
    return (
        f'<OGRVRTDataSource><OGRVRTLayer name="secret"><SrcDataSource>{source}</SrcDataSource>'
        "<GeometryType>wkbPoint</GeometryType><LayerSRS>WGS84</LayerSRS>"
        '<GeometryField encoding="PointFromColumns" x="longitude" y="latitude"/></OGRVRTLayer></OGRVRTDataSource>'
    )


def _raster_vrt(source):
    return (
        '<VRTDataset rasterXSize="4" rasterYSize="4"><SRS>EPSG:4326</SRS><GeoTransform>-40,1,0,44,0,-1</GeoTransform>'
        f'<VRTRasterBand dataType="Float32" band="1"><SimpleSource><SourceFilename>{source}</SourceFilename>'
        "<SourceBand>1</SourceBand></SimpleSource></VRTRasterBand></VRTDataset>"
    )


def _wms(url):
    return (
        f'<GDAL_WMS><Service name="TMS"><ServerUrl>{url}/${{z}}/${{x}}/${{y}}.png</ServerUrl></Service><DataWindow>'
        "<UpperLeftX>-1</UpperLeftX><UpperLeftY>1</UpperLeftY><LowerRightX>1</LowerRightX><LowerRightY>-1</LowerRightY>"
        "<TileLevel>1</TileLevel></DataWindow><Projection>EPSG:4326</Projection></GDAL_WMS>"
    )


def _hidden(url, secret):
    """Contents that make a driver reach out, whatever the name of the file says."""
    gml = (
        '<ogr:FeatureCollection xmlns:ogr="http://ogr.maptools.org/" xmlns:gml="http://www.opengis.net/gml" '
        'xmlns:xlink="http://www.w3.org/1999/xlink" xmlns:xsi="http://www.w3.org/2001/XMLSchema-instance" {}>'
        '<gml:featureMember><ogr:p fid="1"><ogr:g>{}</ogr:g><ogr:depth_m>4</ogr:depth_m></ogr:p></gml:featureMember>'
        "</ogr:FeatureCollection>"
    )
    point = '<gml:Point srsName="EPSG:4326"><gml:coordinates>-40,44</gml:coordinates></gml:Point>'
    return {
        "virtual layer of a file": _vrt(secret),
        "virtual layer of a page": _vrt(f"/vsicurl/{url}/a.csv"),
        "virtual layer of a relative file": _vrt("secret.csv"),
        "virtual raster of a page": _raster_vrt(f"/vsicurl/{url}/a.tif"),
        "virtual raster of a file": _raster_vrt(secret),
        "tile service": _wms(url),
        "feature service": f"<OGRWFSDataSource><URL>{url}/wfs</URL></OGRWFSDataSource>",
        "coverage service": f"<WCS_GDAL><ServiceURL>{url}/?</ServiceURL><CoverageName>a</CoverageName></WCS_GDAL>",
        "reference system by link": (
            f'{{"type":"FeatureCollection","crs":{{"type":"link","properties":{{"href":"{url}/crs","type":"proj4"}}}},'
            f'"features":[{_POINT}]}}'
        ),
        "reference system by url": (
            f'{{"type":"FeatureCollection","crs":{{"type":"url","properties":{{"url":"{url}/crs"}}}},'
            f'"features":[{_POINT}]}}'
        ),
        "reference system by name of a page": (
            f'{{"type":"FeatureCollection","crs":{{"type":"name","properties":{{"name":"{url}/crs"}}}},'
            f'"features":[{_POINT}]}}'
        ),
        "pipeline": json.dumps(
            {"type": "gdal_streamed_alg", "command_line": f"gdal vector pipeline ! read /vsicurl/{url}/a.json"}
        ),
        "catalogue": json.dumps(
            {"type": "FeatureCollection", "stac_version": "1.0.0", "features": [], "links": [{"href": url}]}
        ),
        "schema from a page": gml.format(f'xsi:schemaLocation="http://ogr.maptools.org/ {url}/a.xsd"', point),
        "schema from a file": gml.format(f'xsi:schemaLocation="http://ogr.maptools.org/ {secret}"', point),
        "linked shape": gml.format("", f'<gml:Point xlink:href="{url}/p.gml"/>'),
        "entity of a file": f'<!DOCTYPE k [<!ENTITY x SYSTEM "file://{secret}">]>' + gml.format("", "&x;"),
        "entity of a page": f'<!DOCTYPE k [<!ENTITY x SYSTEM "{url}/x">]>' + gml.format("", "&x;"),
        "linked places": f"<kml><NetworkLink><Link><href>{url}/b.kml</href></Link></NetworkLink></kml>",
        "page itself": f"/vsicurl/{url}/a.geojson",
    }


_ENDINGS = (".geojson", ".json", ".gpkg", ".kml", ".gml", ".000", ".shp", ".tif")


@pytest.mark.parametrize("ending", _ENDINGS)
def test_no_chart_file_reaches_out_or_reads_another_file(tmp_path, listener, ending):
    """Twenty contents under eight names: no connection, no foreign depth, nothing left beside them."""
    port, heard = listener
    secret = tmp_path / "secret.csv"
    secret.write_text(SECRET)
    heard.clear()
    reader = read_raster if ending == ".tif" else read_vectors
    for name, content in _hidden(f"http://127.0.0.1:{port}", secret).items():
        path = tmp_path / f"{name}{ending}"
        path.write_text(content)
        try:
            found = reader(path)
        except FileError:
            continue
        soundings = found[0] if ending == ".tif" else found.soundings
        assert not np.isin(77.7, soundings.depth_m)
    assert heard == []
    assert {p.name for p in tmp_path.iterdir()} <= {"secret.csv", *(f"{n}{ending}" for n in _hidden("", ""))}


def test_a_package_of_computed_tables_is_refused(tmp_path):
    good = tmp_path / "good.gpkg"
    write_shapes(good, "p", [shapely.Point(-40.05, 44.2)], {"depth_m": np.array([5.0])}, "Point")
    assert len(read_vectors(good).soundings) == 1
    for k, sql in enumerate(
        (
            "CREATE VIRTUAL TABLE leak USING fts5(a)",
            "CREATE VIEW v AS SELECT * FROM p; UPDATE gpkg_contents SET table_name = 'v'",
            "CREATE TABLE g (fid INTEGER PRIMARY KEY, a TEXT GENERATED ALWAYS AS (fid || 'x'))",
        )
    ):
        bad = tmp_path / f"bad{k}.gpkg"
        bad.write_bytes(good.read_bytes())
        with closing(sqlite3.connect(bad)) as db:
            db.execute("PRAGMA ignore_check_constraints = 1")
            db.executescript(sql)
        with pytest.raises(FileError, match="computed, not stored"):
            read_vectors(bad)


def test_a_package_whose_pages_point_in_a_circle_is_refused(tmp_path):
    path = tmp_path / "x.gpkg"
    points = [shapely.Point(-40.05, 44.2 + 1e-6 * k) for k in range(2000)]
    write_shapes(path, "p", points, {"depth_m": np.linspace(1.0, 9.0, 2000)}, "Point")
    with closing(sqlite3.connect(path)) as db:
        root = db.execute("SELECT rootpage FROM sqlite_master WHERE name = 'p'").fetchone()[0]
        at = db.execute("PRAGMA page_size").fetchone()[0] * (root - 1)
    data = bytearray(path.read_bytes())
    cell = at + int.from_bytes(data[at + 22 : at + 24], "big")
    data[cell : cell + 4] = root.to_bytes(4, "big")
    path.write_bytes(data)
    with pytest.raises(FileError, match="damaged GeoPackage"):
        read_vectors(path)


def test_only_the_drivers_that_are_meant_are_there():
    code = (
        "from plumbbob.formats import gdal\n"
        "v = set(gdal.pyogrio().list_drivers())\n"
        "r = gdal.rasterio()\n"
        "with r.Env() as env: drivers = set(env.drivers())\n"
        "print(sorted((v | drivers) - gdal.ALLOWED))\n"
        "print(sorted(gdal.ALLOWED & v))"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    strange, there = done.stdout.splitlines()
    assert strange == "[]"
    assert "GPKG" in there
    assert gdal.pyogrio().get_gdal_config_option("GDAL_HTTP_PROXY") == "none://off"


# -- recordings --------------------------------------------------------------------------------------------------


def another(path, tmp_path, change):
    """A copy of a recording with something done to it."""
    made = tmp_path / "made.nc"
    made.write_bytes(path.read_bytes())
    with h5py.File(made, "a") as file:
        change(file)
    return made


def swap(name, make):
    def change(file):
        old = file[name]
        attrs, shape = dict(old.attrs), old.shape
        del file[name]
        make(file, name, shape)
        if isinstance(file.get(name), h5py.Dataset):
            for key in ("units", "scale_factor", "add_offset"):
                if key in attrs:
                    file[name].attrs[key] = attrs[key]

    return change


def _virtual(file, name, shape):
    layout = h5py.VirtualLayout(shape=shape, dtype=np.uint8)
    layout[:] = h5py.VirtualSource("/etc/hostname", "x", shape=shape)
    file.create_virtual_dataset(name, layout)


def _external(file, name, shape):
    file.create_dataset(name, shape, np.uint8, external=[("/etc/passwd", 0, h5py.h5f.UNLIMITED)])


def _never_written(size, samples):
    def make(file, name, shape):
        file.create_dataset(
            name, (size, samples) if samples else (size,), np.uint8 if samples else np.float64, chunks=True
        )

    return make


def _one_block(file, name, shape):
    file.create_dataset(name, (1 << 20, 1 << 20), np.uint8, chunks=(1 << 20, 400), compression="gzip")


@pytest.mark.parametrize(
    ("change", "why"),
    [
        (swap("down/echo", lambda f, n, s: f.__setitem__(n, h5py.SoftLink("/track/time"))), "link to elsewhere"),
        (
            swap("down/time", lambda f, n, s: f.__setitem__(n, h5py.ExternalLink("/etc/x.h5", "/a"))),
            "link to elsewhere",
        ),
        (swap("down/echo", _virtual), "other files"),
        (swap("down/echo", _external), "other files"),
        (swap("track/time", _never_written(10**9, 0)), "never written"),
        (swap("down/echo", _never_written(1 << 20, 1 << 20)), "never written|blocks|next to none"),
        (swap("down/echo", _one_block), "blocks of"),
    ],
)
def test_recordings_that_point_elsewhere_or_say_more_than_they_hold(pass_file, tmp_path, change, why):
    with pytest.raises(FileError, match=why) as caught:
        read_recording(another(pass_file, tmp_path, change))
    assert "\n" not in str(caught.value)


def test_a_whole_group_by_link_and_pings_that_were_never_written_are_refused(pass_file, tmp_path):
    def group(file):
        del file["track"]
        file["track"] = h5py.ExternalLink("/etc/x.h5", "/a")

    with pytest.raises(FileError, match="link to elsewhere"):
        read_recording(another(pass_file, tmp_path, group))

    def silent(file):
        n = 120_000
        for name in ("time", "range_start", "range_step"):
            values = np.arange(n) * 0.1 + 1.0 if name == "time" else np.full(n, 0.02)
            del file[f"down/{name}"]
            file.create_dataset(f"down/{name}", data=values, compression="gzip")
        swap("down/echo", lambda f, name, s: f.create_dataset(name, (n, 100), np.uint8, chunks=(256, 100)))(file)

    with pytest.raises(FileError, match="never written"):
        read_recording(another(pass_file, tmp_path, silent))


# -- sizes and numbers -------------------------------------------------------------------------------------------


def test_a_raster_that_says_more_cells_than_it_holds_is_refused(tmp_path):
    path = tmp_path / "sparse.tif"
    with rasterio.open(
        path, "w", driver="GTiff", height=7000, width=7000, count=1, dtype="float64", tiled=True,
        sparse_ok=True, crs="EPSG:32624", transform=rasterio.transform.from_origin(4e5, 4.9e6, 1, 1),
    ):  # fmt: skip
        pass
    with pytest.raises(FileError, match="next to none"):
        read_raster(path)


def test_contours_round_the_world_and_places_off_it(tmp_path):
    def chart(*features):
        path = tmp_path / "x.geojson"
        path.write_text(json.dumps({"type": "FeatureCollection", "features": list(features)}))
        return path

    def feature(kind, coordinates, **properties):
        return {"type": "Feature", "properties": properties, "geometry": {"type": kind, "coordinates": coordinates}}

    world = [feature("LineString", [[-179, -80], [179, 80]], depth_m=5) for _ in range(9)]
    with pytest.raises(FileError, match="longer than those of any water"):
        read_vectors(chart(*world))
    places = [feature("Point", [-40, lat], depth_m=5) for lat in (44.0, 95.0, 1e300)]
    found = read_vectors(chart(*places, feature("Point", [1], depth_m=1), {"type": 7}, 3))
    assert len(found.soundings) == 1
    assert "nowhere on earth" in found.notes[0]


@pytest.mark.parametrize(
    ("text", "kept"),
    [
        ("latitude,longitude,depth_m\n44,-40,inf\n44.1,-40,5\n44.2,-40,6\n", 2),
        ("latitude,longitude,depth_m\n95,-40,5\n44.1,-40,5\n44.2,-40,6\n", 2),
        ("latitude,longitude,depth_m\n44,-1e9,5\n44.1,-40,1e300\n44.2,-40,6\n", 1),
    ],
)
def test_soundings_that_can_not_be_are_left_out_and_counted(tmp_path, text, kept):
    path = tmp_path / "s.csv"
    path.write_text(text)
    file = read_soundings(path)
    assert len(file.soundings) == kept
    assert file.unusable == 3 - kept


def test_a_short_sentence_or_an_impossible_number_costs_only_itself(tmp_path):
    def sentence(body):
        check = 0
        for c in body:
            check ^= ord(c)
        return f"${body}*{check:02X}\n"

    fix = "GPGGA,{:06d},4412.000,N,04003.000,W,1,8,1.0,310,M,0,M,,"
    lines = [sentence(fix.format(91000 + k)) + sentence("SDDPT,5.0,0.3") for k in range(4)]
    for bad in (
        "SDDBT",
        "SDDBT,1",
        "SDDPT",
        "SDDPT,inf,0",
        "GPRMC",
        "GPGLL,9912.0,N,04003.0,W,1,A",
        "YXMTW",
        "GPGGA,,,,",
    ):
        lines.insert(2, sentence(bad))
    lines.insert(3, "$" + "x" * 100_000 + "\n")
    path = tmp_path / "log.nmea"
    path.write_text("".join(lines))
    found = read_nmea(path)
    assert np.isfinite(found.soundings.depth_m).all()
    assert found.soundings.depth_m.max() < 6.0
    assert (np.abs(found.soundings.latitude) <= 90).all()
    assert found.skipped > 4


def test_a_track_of_the_year_one_and_entities_are_no_track(tmp_path):
    path = tmp_path / "t.gpx"
    point = '<trkpt lat="{}" lon="-40"><time>{}</time></trkpt>'
    body = '<gpx version="1.1" creator="x" xmlns="http://www.topografix.com/GPX/1/1"><trk><trkseg>{}</trkseg></trk></gpx>'
    good = "".join(point.format(44 + k / 1000, f"2026-08-15T10:00:0{k}Z") for k in range(3))
    path.write_text(
        body.format(point.format(44, "0001-01-01T00:00:00+14:00") + point.format(95, "2026-08-15T10:00:09Z") + good)
    )
    assert len(read_track(path)) == 3
    path.write_text('<!DOCTYPE x [<!ENTITY a "b">]>' + body.format(good))
    with pytest.raises(FileError, match="points to other files"):
        read_track(path)


@pytest.mark.parametrize(
    ("reader", "name", "text"),
    [
        (read_scale, "a.scale.json", '{"format": "plumbbob-picture-scale", "version": 1, "width": 1e999}'),
        (read_scale, "a.scale.json", "[" * 5000),
        (read_corrections, "a.json", '{"format": "plumbbob-corrections", "version": 2, "corrections": []}'),
        (
            read_corrections,
            "a.json",
            '{"format": "plumbbob-corrections", "version": 1, "corrections": ' + "9" * 5000 + "}",
        ),
        (read_vectors, "a.geojson", '{"a":' * 3000),
        (read_tackle, "box.csv", "kind,name\n" + "x" * 200_000 + ",y\n"),
        (read_tackle, "box.csv", "x" * 200_000 + ",name\nlure,y\n"),
        (read_profile, "p.csv", "depth_m\n\x00"),
    ],
)
def test_what_is_no_such_file_is_one_line(tmp_path, reader, name, text):
    path = tmp_path / name
    path.write_text(text)
    with pytest.raises(FileError) as caught:
        reader(path)
    assert "\n" not in str(caught.value)
    assert len(str(caught.value)) <= 401


@pytest.mark.parametrize(
    "reader", [read_any, read_soundings, read_raster, read_vectors, read_nmea, read_track, read_profile]
)
@pytest.mark.parametrize("kind", ["pipe", "device", "folder", "nothing"])
def test_only_plain_files_are_opened(tmp_path, reader, kind):
    path = tmp_path / "x.nc"
    {
        "pipe": lambda: os.mkfifo(path),
        "device": lambda: os.symlink("/dev/zero", path),
        "folder": path.mkdir,
        "nothing": lambda: None,
    }[kind]()
    with pytest.raises(FileError, match={"nothing": "no such file"}.get(kind, f"is a {kind}")):
        reader(path)


def test_one_endless_ping_does_not_fill_the_memory(tmp_path):
    import pyxtf

    header = pyxtf.XTFFileHeader()
    header.FileFormat, header.NumberOfSonarChannels = 0x7B, 2
    for k, kind in enumerate((1, 2)):
        header.ChanInfo[k].TypeOfChannel, header.ChanInfo[k].BytesPerSample = kind, 1

    def packet(samples, second):
        ping = pyxtf.XTFPingHeader()
        ping.HeaderType, ping.NumChansToFollow = 0, 2
        ping.Year, ping.Month, ping.Day, ping.Second = 2026, 8, 15, second % 60
        ping.ping_chan_headers, ping.data = [], [np.ones(samples, np.uint8)] * 2
        for channel in (0, 1):
            about = pyxtf.XTFPingChanHeader()
            about.ChannelNumber, about.SlantRange, about.NumSamples = channel, 30.0, samples
            ping.ping_chan_headers.append(about)
        ping.NumBytesThisRecord = -(-len(ping.to_bytes()) // 64) * 64
        return ping.to_bytes().ljust(ping.NumBytesThisRecord, b"\0")

    path = tmp_path / "long.xtf"
    path.write_bytes(header.to_bytes() + packet(2_000_000, 0) + b"".join(packet(8, k) for k in range(2000)))
    with pytest.raises(FileError, match="among short ones"):
        read_any(path)
