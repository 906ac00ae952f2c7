"""Small good files of every kind that is read, for the fuzz bench to break."""

from __future__ import annotations

import json
import tempfile
from pathlib import Path

import numpy as np

from plumbbob.core.cell_grid import CellGrid
from plumbbob.core.chart.grid import Grid
from plumbbob.core.geodesy import Plane
from plumbbob.core.rig.rod import Method, RigSettings, default_setup
from plumbbob.core.rig.tackle import DEFAULT_BOX
from plumbbob.core.sonar.corrections import Act, Correction
from plumbbob.core.sonar.evidence import Evidence
from plumbbob.core.sonar.picture import Looks, PictureScale
from plumbbob.core.water.profile import Profile
from tests.conftest import a_scene

_POINTS = [[-40.05 + 0.0002 * k, 44.2 + 0.0001 * (k % 7)] for k in range(40)]


def _recordings(ending: str) -> list[bytes]:
    from plumbbob.formats.any_recording import write_any
    from plumbbob.sim.down import simulate
    from tests.views import ahead, sides

    recording, _ = simulate(a_scene(seconds=20.0), seed=3)
    made = [recording, sides(), ahead()] if ending == ".nc" else [sides()]
    return [_written(lambda p, r=one: write_any(p, r), f"x{ending}") for one in made]


def _written(write, name: str) -> bytes:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / name
        write(path)
        return path.read_bytes()


def _shapes(path: Path) -> None:
    import shapely

    from plumbbob.formats.vectors import write_shapes

    write_shapes(path, "p", [shapely.Point(*p) for p in _POINTS], {"depth_m": np.arange(40.0)}, "Point")


def _shapefile(path: Path) -> None:
    import shapely

    from plumbbob.formats import gdal

    shapes = shapely.to_wkb(np.array([shapely.Point(*p) for p in _POINTS], object))
    gdal.pyogrio().raw.write(
        path, shapes, [np.arange(40.0)], ["depth_m"], driver="ESRI Shapefile", geometry_type="Point", crs="EPSG:4326"
    )


def _grid() -> Grid:
    shape = (30, 40)
    depth = np.fromfunction(lambda y, x: 3 + 0.1 * x + 0.05 * y, shape).astype(np.float32)
    return Grid(
        frame=CellGrid(416_000.0, 4_894_000.0, 5.0, 40, 30),
        depth_m=depth,
        sd_m=np.full(shape, 0.2, np.float32),
        count=np.ones(shape, np.float32),
        total=depth,
        surface_m=depth,
        spacing_m=20.0,
        reach_m=60.0,
        noise=(0.05, 0.01),
        doubt=(0.1, 0.1, 0.1),
    )


def _kept_grid(path: Path) -> None:
    from plumbbob.formats.chart_cache import Kept, save_grid

    save_grid(path, "key", Kept(32624, _grid(), np.zeros((30, 40), bool), 1200, {}))


def _raster(path: Path) -> None:
    from plumbbob.formats.raster import write_grid

    write_grid(path, Plane(32624), _grid())


def _nmea() -> bytes:
    def sentence(body: str) -> str:
        check = 0
        for c in body:
            check ^= ord(c)
        return f"${body}*{check:02X}\r\n"

    out = ""
    for k in range(30):
        out += sentence(f"GPRMC,0910{k:02d},A,4412.{k:03d},N,04003.000,W,2.1,45.0,150826,,")
        out += sentence(f"GPGGA,0910{k:02d},4412.{k:03d},N,04003.000,W,1,8,1.0,310,M,0,M,,")
        out += (
            sentence(f"SDDPT,{5 + k / 10:.1f},0.3") + sentence("SDDBT,16.4,f,5.0,M,2.7,F") + sentence("YXMTW,18.5,C")
        )
    return out.encode()


def _log(path: Path) -> None:
    from plumbbob.store.opening import open_log
    from tests.store.test_log import a_catch, a_mark

    log = open_log(path).log
    for k in range(30):  # more than a page of them: pages above pages
        mark = log.add(a_mark(seen=k + 1, note="x" * 300))
        log.add(a_catch(mark.id))
    log.close()


def _evidence(path: Path) -> None:
    from plumbbob.formats.evidence import write_evidence

    table = np.ones((4, 5))
    write_evidence(path, Evidence(volume_m3=table, fish=table, bait_m3=table, seconds=60.0, passes=("a",)), 1.7e9)


def _picture(path: Path) -> None:
    from PySide6.QtGui import QColor, QImage

    image = QImage(60, 40, QImage.Format.Format_RGB32)
    image.fill(QColor("#336699"))
    image.save(str(path))


_RIG = {
    "tackle": [{"kind": "lure", "name": "x", "weight_n": 0.1, "drag_area_m2": 3e-4, "mass_kg": 0.02}],
    "notes": [{"rod": {"method": "downrigger"}, "depth_m": 6.0, "value": 7.0}],
    "rods": [
        {"depth_m": 6.0},
        {"method": "flat line", "value": 30.0, "lure": "lipped plug 9 cm"},
        {"method": "jig below the boat", "depth_m": 5.0, "speed_mps": 0.2, "current": [[0, 0.1], [5, 0.0]]},
        {"method": "cast and count", "depth_m": 3.0},
    ],
    "tables": {"depths_m": [3, 6], "speeds_mps": [0.8]},
    "weights": {"depth_m": 6.0},
    "lane": {"along_m": [0, 50, 100], "bottom_m": [9, None, 7], "mark_m": 40, "boat_m": 10},
    "motion": {"change": {"speed_mps": 0.0, "for_s": 5.0}},
    "hang": {"fish_m": 7.0, "facts": {"bottom_m": 9.0, "bait": [[2, 3]], "layer": [6, 8]}},
    "ways": {"depth_m": 6.0},
    "advice": {"depth_m": 6.0, "facts": {"secchi_m": 2.0}},
    "problems": [
        {"kind": "countdown", "input": {"weight_in_water_N": 0.1, "drag_area_m2": 3e-4, "depth_m": 4.0}},
        {
            "kind": "pendulum",
            "input": {"weight_in_water_N": 0.1, "drag_area_m2": 3e-4, "line_length_m": 9.0, "times_s": [5, 9]},
        },
    ],
}


_WAYPOINTS = (
    '<wpt lat="44.2" lon="-40.05"><time>2026-08-15T09:10:00Z</time><name>a</name><desc>b</desc></wpt>'
    '<rte><name>r</name><rtept lat="44.2" lon="-40"/><rtept lat="44.3" lon="-40"/></rte>'
)


def _water(path: Path) -> None:
    from plumbbob.formats.waters import shipped_waters, write_water

    write_water(path.parent, shipped_waters()[0].water)


def _backup(path: Path) -> None:
    from plumbbob.services.archive import backup
    from plumbbob.services.waters import Waters

    waters = Waters(path.parent / "waters")
    backup(waters, waters.create("Pond"), path)


def _echosounder(path: Path) -> None:
    import h5py

    with h5py.File(path, "w") as file:
        group = file.create_group("Sonar/Beam_group1")
        times = group.create_dataset("ping_time", data=np.arange(6, dtype=np.uint64) * 10**8)
        times.attrs["units"] = "nanoseconds since 1970-01-01 00:00:00Z"
        group.create_dataset("backscatter_r", data=-90.0 + np.arange(240.0).reshape(6, 40)).attrs["units"] = "dB"
        group["sample_interval"] = np.full(6, 1e-4)
        group["transmit_frequency_start"] = np.full(6, 2e5)
        group["platform_latitude"], group["platform_longitude"] = np.linspace(44, 44.1, 6), np.full(6, -40.0)


def _texts(name: str) -> list[bytes]:
    line = {"type": "LineString", "coordinates": [[-40.05, 44.2, 3], [-40.04, 44.21, 4]]}
    ring = {"type": "Polygon", "coordinates": [[[-40.1, 44.1], [-40.0, 44.1], [-40.0, 44.3], [-40.1, 44.1]]]}
    features = [
        {
            "type": "Feature",
            "properties": {"depth_m": 5, "name": "a"},
            "geometry": {"type": "Point", "coordinates": p},
        }
        for p in _POINTS[:6]
    ]
    features += [{"type": "Feature", "properties": {"depth_ft": 12}, "geometry": line}]
    features += [{"type": "Feature", "properties": {}, "geometry": ring}]
    geojson = json.dumps({"type": "FeatureCollection", "features": features}).encode()
    rows = "".join(
        f"2026-08-15T09:10:{k:02d}Z,{44.2 + k / 1e4},{-40.05 + k / 2e4},{4 + k / 9:.2f},0.1\n" for k in range(60)
    )
    soundings = ("time,latitude,longitude,depth_m,water_level_m\n" + rows).encode()
    track = "".join(
        f'<trkpt lat="{44.2 + k / 1e4}" lon="-40.05"><time>2026-08-15T09:10:{k:02d}Z</time></trkpt>'
        for k in range(20)
    )
    gpx = f'<gpx version="1.1" creator="x" xmlns="http://www.topografix.com/GPX/1/1"><trk><trkseg>{track}</trkseg></trk></gpx>'
    kml = (
        '<?xml version="1.0"?><kml xmlns="http://www.opengis.net/kml/2.2"><Document><Placemark><name>5</name><Point>'
        "<coordinates>-40.05,44.2,-5</coordinates></Point></Placemark></Document></kml>"
    )
    gml = (
        '<ogr:FeatureCollection xmlns:ogr="http://ogr.maptools.org/" xmlns:gml="http://www.opengis.net/gml">'
        '<gml:featureMember><ogr:p fid="1"><ogr:g><gml:Point srsName="EPSG:4326"><gml:coordinates>-40.05,44.2'
        "</gml:coordinates></gml:Point></ogr:g><ogr:depth_m>4</ogr:depth_m></ogr:p></gml:featureMember>"
        "</ogr:FeatureCollection>"
    )
    texts: dict[str, list[bytes]] = {
        "geojson": [geojson],
        "shore": [geojson],
        "soundings": [soundings, soundings.replace(b",", b";").replace(b"depth_m", b"depth_ft")],
        "gpx": [gpx.encode()],
        "waypoints": [gpx.replace("<trk>", _WAYPOINTS + "<trk>").encode()],
        "door": [geojson, soundings, gpx.encode(), kml.encode(), _nmea()],
        "kml": [kml.encode()],
        "gml": [gml.encode()],
        "nmea": [_nmea()],
        "rig": [
            json.dumps(_RIG).encode(),
            *(json.dumps({k: v, "rods": _RIG["rods"]}).encode() for k, v in _RIG.items()),
        ],
        # a leader of the kind that cells have, with nothing behind it: none can be made here
        "s57": [b"012433LE1 0900073   6604" + b"0000000019000000014800019" + b"\x1e" + b"0" * 200],
    }
    return texts.get(name, [])


def seeds_of(name: str) -> list[bytes]:
    """Good files for a reader of the fuzz bench."""
    from plumbbob.formats.corrections import write_corrections
    from plumbbob.formats.picture_scale import write_scale
    from plumbbob.formats.profile import write_profile
    from plumbbob.formats.rig_json import rod_json
    from plumbbob.formats.tackle_csv import write_tackle
    from tests.log_files import made_up, write_archive

    found = _texts(name)
    if found:
        if name == "rig":
            found.append(
                json.dumps(
                    {"rods": [{**rod_json(default_setup(RigSettings(), m)), "depth_m": 4} for m in Method]}
                ).encode()
            )
        return found
    if name in ("recording", "xtf"):
        return _recordings(".nc" if name == "recording" else ".xtf")
    corrections = [
        Correction(act=Act.DRAW, what="bait", label="bait", time=1.7e9, depth_m=4.0, span_s=3.0, span_m=0.8),
        Correction(act=Act.BOTTOM, what="bottom", points=((1.7e9, 5.0), (1.7e9 + 9, 6.0))),
    ]
    column = Profile(
        depth_m=np.array([0.0, 4, 8]), temperature_c=np.array([20.0, 19, 9]), oxygen_mgl=np.array([9, 8, 2.0])
    )
    scale = PictureScale(looks=Looks.DOWN, width=60, height=40, corners=((1, 1), (58, 2), (57, 38), (2, 39)))
    writers = {
        "raster": (_raster, "x.tif"),
        "water": (_water, "water.json"),
        "backup": (_backup, "x.zip"),
        "echosounder": (_echosounder, "x.nc"),
        "geopackage": (_shapes, "x.gpkg"),
        "shapefile": (_shapefile, "x.shp"),
        "profile": (lambda p: write_profile(p, column), "x.csv"),
        "tackle": (lambda p: write_tackle(p, DEFAULT_BOX), "x.csv"),
        "corrections": (lambda p: write_corrections(p, corrections), "x.json"),
        "scale": (lambda p: write_scale(p, scale), "x.json"),
        "evidence": (_evidence, "x.csv"),
        "grid": (_kept_grid, "grid.npz"),
        "log": (_log, "log.db"),
        "log_files": (lambda p: write_archive(p, made_up(1, 4), {"pictures/a.jpg": b"x" * 90}), "x.log.zip"),
        "catches": (
            lambda p: p.write_text(
                "date;fish;length (cm);kept;lat\n3.4.2026;pike;71,5;yes;44,2\n2026-05-01;perch;;no;\n"
            ),
            "x.csv",
        ),
        "picture": (_picture, "x.png"),
    }
    write, file_name = writers[name]
    return [_written(write, file_name)]
