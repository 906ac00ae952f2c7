"""
One water's own folder: its soundings, passes, shore and profile as open files that belong to their owner.

`NAME.csv` soundings and `pass NAME.csv` passes, `shore.geojson` rings, `profile.csv` the column, `tide.csv` the
tides. All of it can be read, copied and mended with other programs.
"""

from __future__ import annotations

import json
import os
import re
from collections.abc import Callable, Sequence
from pathlib import Path

import numpy as np

from plumbbob.core.chart.soundings import Soundings
from plumbbob.core.types import Floats
from plumbbob.core.water.profile import Profile
from plumbbob.core.water.tide import TideTable
from plumbbob.files.atomic import private_folder, write_text
from plumbbob.files.errors import FileError
from plumbbob.files.json_text import read_json
from plumbbob.formats.geojson import read_geojson, rings_and_points
from plumbbob.formats.profile import read_profile, write_profile
from plumbbob.formats.soundings import read_soundings, write_soundings
from plumbbob.formats.tide_csv import read_tide, write_tide

_TRAILS = "trails"
_MOST_BYTES = 100_000_000


_NOT_SOUNDINGS = ("profile.csv", "tide.csv")


class WaterFolder:
    """Reads and writes one water's files; every write is whole or not at all."""

    def __init__(self, path: Path) -> None:
        self.path = path

    def sources(self) -> list[Path]:
        """Files of soundings, in order of name."""
        if not self.path.is_dir():
            return []
        return sorted(p for p in self.path.glob("*.csv") if p.name not in _NOT_SOUNDINGS and p.is_file())

    def read_all(
        self, *, progress: Callable[[float], None] = lambda fraction: None
    ) -> tuple[list[Soundings], list[str]]:
        """All soundings, and a line about each file that could not be read."""
        parts, trouble = [], []
        sources = self.sources()
        for i, path in enumerate(sources):
            try:
                parts.append(read_soundings(path).soundings)
            except FileError as exc:
                trouble.append(str(exc))
            progress((i + 1) / len(sources))
        return parts, trouble

    def add(self, name: str, soundings: Soundings) -> Path:
        """Keep soundings under a name that is free."""
        private_folder(self.path)
        plain = _plain(name)
        path = self.path / f"{plain}.csv"
        number = 2
        while path.exists():
            path = self.path / f"{plain} {number}.csv"
            number += 1
        write_soundings(path, soundings, private=True)
        return path

    def take_out_last(self) -> str:
        """Move the newest file of soundings aside; its name, empty where there is none."""
        newest = max(self.sources(), key=lambda p: (p.stat().st_mtime_ns, p.name), default=None)
        if newest is None:
            return ""
        aside = self.path / "taken out"
        aside.mkdir(exist_ok=True)
        newest.replace(aside / newest.name)
        return newest.name

    def has_pass(self, name: str) -> bool:
        """This recording's bottom is already among the soundings."""
        return (self.path / f"{_pass_name(name)}.csv").exists()

    def passes(self) -> list[tuple[str, Floats, Floats]]:
        """Name, latitudes and longitudes of every pass; one that can't be read is left out, the chart says why."""
        out = []
        for path in self.sources():
            if not path.name.startswith("pass "):
                continue
            try:
                at = np.loadtxt(path, delimiter=",", skiprows=1, usecols=(1, 2), ndmin=2, encoding="utf-8")
            except (OSError, ValueError):
                continue
            if len(at):
                out.append((path.stem.removeprefix("pass "), at[:, 0], at[:, 1]))
        return out

    def soundings_of_pass(self, name: str) -> list[Soundings]:
        """What is kept of a recording's bottom; nothing where there is none, or none that can be read."""
        path = self.path / f"{_pass_name(name)}.csv"
        try:
            return [read_soundings(path).soundings] if path.exists() else []
        except FileError:
            return []

    def add_pass(self, name: str, soundings: Soundings) -> Path:
        """Keep a recording's bottom; once, whatever it is opened."""
        private_folder(self.path)
        path = self.path / f"{_pass_name(name)}.csv"
        write_soundings(path, soundings, private=True)
        return path

    def profile(self) -> Profile | None:
        """The column last measured here."""
        path = self.path / "profile.csv"
        return read_profile(path) if path.exists() else None

    def set_profile(self, profile: Profile | None) -> None:
        """Keep a column, or forget it."""
        path = self.path / "profile.csv"
        if profile is None:
            path.unlink(missing_ok=True)
            return
        private_folder(self.path)
        write_profile(path, profile, private=True)

    def tide(self) -> TideTable | None:
        """High and low waters here."""
        path = self.path / "tide.csv"
        return read_tide(path) if path.exists() else None

    def set_tide(self, table: TideTable | None) -> None:
        """Keep a tide table, or forget it."""
        path = self.path / "tide.csv"
        if table is None:
            path.unlink(missing_ok=True)
            return
        private_folder(self.path)
        write_tide(path, table, private=True)

    def add_trails(self, name: str, ways: Sequence[tuple[str, Floats]]) -> Path:
        """Keep ways of (latitude, longitude) that were gone or are to be gone."""
        private_folder(self.path / _TRAILS)
        features = [
            {
                "type": "Feature",
                "properties": {"name": title},
                "geometry": {"type": "LineString", "coordinates": np.round(line[:, ::-1], 7).tolist()},
            }
            for title, line in ways
        ]
        path = self.path / _TRAILS / f"{_plain(name)}.geojson"
        write_text(path, json.dumps({"type": "FeatureCollection", "features": features}), private=True)
        return path

    def trails(self) -> list[tuple[str, Floats]]:
        """All kept ways; a file that can't be read is left out."""
        out = []
        for path in sorted((self.path / _TRAILS).glob("*.geojson")):
            try:
                features = read_json(path, _MOST_BYTES)["features"]
                for row in features:
                    line = np.array(row["geometry"]["coordinates"], float)[:, 1::-1]
                    if len(line) >= 2 and np.isfinite(line).all():
                        out.append((str(row["properties"].get("name", path.stem)), line))
            except (FileError, KeyError, TypeError, ValueError, IndexError, AttributeError):
                continue
        return out

    def shore(self) -> tuple[list[Floats], list[tuple[float, float]]]:
        """Rings of (latitude, longitude) and hazards."""
        path = self.path / "shore.geojson"
        if not os.path.lexists(path):
            return [], []
        _, shapes, _ = read_geojson(path)
        return rings_and_points(shapes)

    def set_shore(self, rings: list[Floats], hazards: list[tuple[float, float]]) -> None:
        """Keep a shoreline and hazards."""
        private_folder(self.path)
        features = [
            {
                "type": "Feature",
                "properties": {"kind": "shore"},
                "geometry": {"type": "Polygon", "coordinates": [np.asarray(r)[:, ::-1].tolist()]},
            }
            for r in rings
        ]
        features += [
            {
                "type": "Feature",
                "properties": {"kind": "hazard"},
                "geometry": {"type": "Point", "coordinates": [b, a]},
            }
            for a, b in hazards
        ]
        text = json.dumps({"type": "FeatureCollection", "features": features})
        write_text(self.path / "shore.geojson", text, private=True)


def _pass_name(name: str) -> str:
    return "pass " + _plain(name)


def _plain(name: str) -> str:
    """A name that every disk takes."""
    return re.sub(r"[^\w .-]+", "_", name).strip()[:100] or "file"
