"""
GDAL, held to what is meant: a few drivers, one file at a time, no network and no other file of the machine.

Both libraries that bring a copy of it, pyogrio and rasterio, are imported through here, so that the switches stand
before either registers its drivers. A file is judged by its content first, and then opened through a link in an empty
folder: nothing lies beside it that could be read, and what a driver likes to leave beside a file stays there.
"""

from __future__ import annotations

import os
import re
import sqlite3
import tempfile
from collections.abc import Iterator
from contextlib import closing, contextmanager
from pathlib import Path
from typing import Any

from plumbbob.files.errors import FileError
from plumbbob.files.kinds import plain_file, read_text

ALLOWED = frozenset({"ESRI Shapefile", "GPKG", "GeoJSON", "S57", "GML", "KML", "GTiff", "MEM", "Memory"})
# all others of both copies: there is a switch to leave drivers out, none to name the wanted ones
_OFF = """
AAIGrid, ACE2, ADBC, ADRG, AIG, AIVector, AVCBin, AVCE00, AirSAR, AmigoCloud, BAG, BIGGIF, BLX, BMP, BSB,
BT, BYN, CALS, CEOS, COASP, COG, COSAR, CPG, CSV, CSW, CTG, CTable2, Carto, DAAS, DERIVED, DGN, DIMAP,
DIPEx, DOQ1, DOQ2, DTED, DXF, ECRGTOC, EDIGEO, EEDA, EEDAI, EHdr, EIR, ELAS, ENVI, ERS, ESAT, ESRIC,
ESRIJSON, Elasticsearch, FAST, FIT, FlatGeobuf, GDALG, GFF, GIF, GNMDatabase, GNMFile, GPSBabel, GPX,
GRASSASCIIGrid, GRIB, GS7BG, GSAG, GSBG, GSC, GTFS, GTI, GTX, GXF, GenBin, GeoJSONSeq, GeoRSS, HDF5,
HDF5Image, HF2, HFA, HTTP, ILWIS, IRIS, ISCE, ISG, ISIS2, ISIS3, Idrisi, JAXAPALSAR, JDEM, JML, JP2OpenJPEG,
JPEG, JSONFG, KMLSUPEROVERLAY, KRO, L1B, LAN, LCP, LIBKML, LOSLAS, LVBAG, Leveller, MAP, MBTiles, MFF, MFF2,
MRF, MSGN, MVT, MapInfo File, MapML, MiraMonVector, NDF, NGSGEOID, NGW, NITF, NOAA_B, NSIDCbin, NTv2,
NWT_GRC, NWT_GRD, OAPIF, ODS, OGCAPI, OGR_GMT, OGR_PDS, OGR_VRT, OSM, OZI, OpenFileGDB, PAux, PCIDSK,
PCRaster, PDF, PDS, PDS4, PGDUMP, PLMOSAIC, PLSCENES, PMTiles, PNG, PNM, PRF, R, RIK, RMF, ROI_PAC, RPFTOC,
RRASTER, RS2, RST, Rasterlite, S102, S104, S111, SAFE, SAGA, SAR_CEOS, SDTS, SENTINEL2, SGI, SIGDEM,
SNAP_TIFF, SNODAS, SQLite, SRP, SRTMHGT, STACIT, STACTA, SXF, Selafin, TGA, TIL, TSX, Terragen, TopoJSON,
USGSDEM, VDV, VFK, VICAR, VRT, WAsP, WCS, WEBP, WFS, WMS, WMTS, XLSX, XPM, XYZ, ZMap, Zarr, netCDF
"""
_SWITCHES = {
    "GDAL_SKIP": re.sub(r"\s*,\s*|\n", ",", _OFF.strip()),
    "GDAL_DRIVER_PATH": "disable",
    "CPL_LOG": os.devnull,  # its errors come as exceptions; what it prints may quote the file
    "GDAL_HTTP_PROXY": "none://off",  # no such scheme: every request ends before it leaves
    "PROJ_NETWORK": "OFF",
    "GDAL_PAM_ENABLED": "NO",
    "GDAL_DISABLE_READDIR_ON_OPEN": "EMPTY_DIR",
    "GDAL_CACHEMAX": "64",
    "CPL_VSIL_CURL_ALLOWED_EXTENSIONS": ".none",
    "GML_DOWNLOAD_SCHEMA": "NO",
    "GML_SKIP_RESOLVE_ELEMS": "ALL",
    "GML_PARSER": "EXPAT",
    "OGR_SQLITE_ALLOW_EXTERNAL_ACCESS": "NO",
    "SHAPE_RESTORE_SHX": "NO",
}
MOST_BYTES = 1_000_000_000
MOST_TEXT_BYTES = 100_000_000
_BESIDE = {".shp": (".shx", ".dbf", ".prj", ".cpg")}
_HEADS: dict[str, tuple[tuple[bytes, int], ...]] = {
    ".gpkg": ((b"SQLite format 3\0", 0),),
    ".shp": ((b"\x00\x00\x27\x0a", 0),),
    ".tif": ((b"II*\0", 0), (b"MM\0*", 0), (b"II+\0", 0), (b"MM\0+", 0)),
}
_ROOTS = {".gml": "FeatureCollection", ".kml": "kml"}


def pyogrio() -> Any:
    """The library for vectors, with the switches set."""
    os.environ.update(_SWITCHES)
    import pyogrio

    pyogrio.set_gdal_config_options({k: v for k, v in _SWITCHES.items() if k != "GDAL_SKIP"})
    return pyogrio


def rasterio() -> Any:
    """The library for rasters, with the switches set."""
    os.environ.update(_SWITCHES)
    import rasterio

    return rasterio


@contextmanager
def held(path: Path) -> Iterator[Path]:
    """
    A link to a file of a kind that GDAL may open, alone in a folder of its own.

    Raises
    ------
    FileError
        If it is no plain file, too large, or not what its ending says.
    """
    kind = {".tiff": ".tif"}.get(path.suffix.lower(), path.suffix.lower())
    size = plain_file(path, MOST_TEXT_BYTES if kind in _ROOTS else MOST_BYTES)
    _check_head(path, kind, size)
    with tempfile.TemporaryDirectory(prefix="plumbbob-") as folder:
        link = Path(folder) / f"chart{kind}"
        if kind in _ROOTS:
            link.write_text(_plain_xml(path, kind), encoding="utf-8")
        else:
            _link(path, link)
        for ending in _BESIDE.get(kind, ()):
            for beside in (path.with_suffix(ending), path.with_suffix(ending.upper())):
                if beside.is_file():
                    _link(beside, link.with_suffix(ending))
                    break
        if kind == ".000":
            # a cell's updates are files of its own beside it
            for update in sorted(path.parent.glob(f"{_literal(path.stem)}.[0-9][0-9][0-9]")):
                if update != path and update.is_file():
                    _link(update, link.with_suffix(update.suffix))
        if kind == ".gpkg":
            _check_tables(path, link)
        yield link


def _link(path: Path, link: Path) -> None:
    os.symlink(path.resolve(), link)


def _literal(name: str) -> str:
    return re.sub(r"([\[\]*?])", r"[\1]", name)


def _check_head(path: Path, kind: str, size: int) -> None:
    with path.open("rb") as file:
        head = file.read(64)
    wanted = _HEADS.get(kind)
    what = "raster" if kind == ".tif" else "vector chart"
    if wanted is not None and not any(head[at : at + len(mark)] == mark for mark, at in wanted):
        raise FileError(path, "", f"is no {what} that can be read, or a damaged one")
    if kind == ".000" and not (
        size >= 24 and head[:5].isdigit() and head[5:7] in (b"3L", b"2L") and head[9:10] == b" "
    ):
        raise FileError(path, "", "is no S-57 cell, or a damaged one")


def _plain_xml(path: Path, kind: str) -> str:
    """The text of an XML file without anything that points out of it."""
    text = read_text(path, MOST_TEXT_BYTES, encoding="utf-8-sig")
    if re.search(r"<!(DOCTYPE|ENTITY)|/vsi", text, re.IGNORECASE):
        raise FileError(path, "", "points to other files, which are not read")
    root = re.search(r"<(?![?!])(?:[\w.-]+:)?([\w.-]+)", text)
    if root is None or root[1] != _ROOTS[kind]:
        raise FileError(path, "", "is no vector chart that can be read, or a damaged one")
    return re.sub(r"\s[\w.-]*:?(noNamespaceS|s)chemaLocation\s*=\s*(\"[^\"]*\"|'[^']*')", " ", text)


def _check_tables(path: Path, link: Path) -> None:
    """
    A GeoPackage whose tables are tables, and end.

    What is computed when it is read could reach anywhere; pages of a damaged one can point in a circle.
    """
    try:
        with closing(sqlite3.connect(f"{link.as_uri()}?immutable=1", uri=True)) as db:
            db.text_factory = lambda raw: raw.decode("utf-8", "replace")
            rows = db.execute("SELECT type, name, sql FROM sqlite_master").fetchall()
            known = {r[0] for r in db.execute("SELECT table_name FROM gpkg_contents LIMIT 100000")}
            sound = db.execute("PRAGMA quick_check(1)").fetchone()[0] == "ok"
    except (sqlite3.Error, UnicodeDecodeError, OverflowError) as exc:
        raise FileError(path, "", "is no GeoPackage, or a damaged one") from exc
    for kind, name, sql in rows:
        text = " ".join(str(sql or "").lower().split())
        virtual = text.startswith("create virtual table") and not re.search(r"using [\"'`\[]?rtree\b", text)
        if virtual or (kind == "view" and name in known) or (kind == "table" and " generated always " in text):
            raise FileError(path, f"table {name}", "is computed, not stored; such charts are not read")
    if not sound:
        raise FileError(path, "", "is a damaged GeoPackage")
