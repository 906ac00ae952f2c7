"""All waters of a person, a folder each: which one a file belongs to, and what is done to a whole water."""

from __future__ import annotations

import json
import os
import re
import shutil
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path

import numpy as np
from numpy.typing import ArrayLike

from plumbbob.core.extent import distance_to_outline_m, outline_of_places, size_m
from plumbbob.core.geodesy import Position
from plumbbob.files.atomic import MAKING, private_folder, write_text
from plumbbob.files.errors import FileError
from plumbbob.files.json_text import read_json
from plumbbob.files.text import why
from plumbbob.formats.water_folder import WaterFolder
from plumbbob.formats.waters import (
    FILE,
    ShippedWater,
    Water,
    plain_name,
    read_water,
    shipped_waters,
    time_zone_at,
    write_water,
)

TRASH = "trash"
_VISITED = "visited.json"
_MARGIN_M, _MARGIN_SHARE = 250.0, 0.05  # beyond what was sounded a water goes on a little
_NEAR_M = 8_000.0  # a water so near may be the same one: somebody has to say
_MOST_SAMPLES = 400
_OLD_PLACE = re.compile(r"^water (-?\d+\.\d+) (-?\d+\.\d+)$")


@dataclass(frozen=True, slots=True)
class Fit:
    """Which waters places lie in, and which are near: nearest first, with how far off the places are."""

    inside: tuple[Water, ...]
    near: tuple[tuple[Water, float], ...]

    @property
    def only(self) -> Water | None:
        """The water, where there is no doubt."""
        return self.inside[0] if len(self.inside) == 1 else None

    @property
    def is_new(self) -> bool:
        """No water is anywhere near."""
        return not self.inside and not self.near


@dataclass(slots=True)
class Moves:
    """Files and folders that were moved, to be taken back; what cannot be finished is taken back at once."""

    done: list[tuple[Path, Path]] = field(default_factory=list)
    made: Path | None = None  # a water that was made to move things to

    def move(self, source: Path, target: Path) -> None:
        """
        Move one thing within the folder of all waters.

        Raises
        ------
        FileError
            After everything that was moved before has been put back.
        """
        try:
            private_folder(target.parent)
            if os.path.lexists(target):
                raise FileExistsError(17, "something of that name is there already")
            source.rename(target)
        except OSError as exc:
            self.take_back()
            raise FileError(source, "", f"could not be moved: {why(exc)}") from exc
        self.done.append((source, target))

    def take_back(self) -> None:
        """Put everything back where it was, the last first; what is gone stays gone."""
        while self.done:
            source, target = self.done.pop()
            try:
                private_folder(source.parent)
                if not os.path.lexists(source):
                    target.rename(source)
            except OSError:
                continue
        if self.made is not None and _is_bare(self.made):
            shutil.rmtree(self.made, ignore_errors=True)


class Waters:
    """Needs the folder of all waters."""

    def __init__(self, root: Path) -> None:
        self.root = root

    # -- what there is ------------------------------------------------------------------------------------------

    def all(self) -> tuple[Water, ...]:
        """Every water that can be read, last visited first, then by name."""
        found = []
        for key in self._keys():
            try:
                found.append(read_water(self.root / key))
            except FileError:
                continue
        visited = self.visited()
        return tuple(sorted(found, key=lambda w: (-visited.get(w.key, 0.0), w.name.lower())))

    def unreadable(self) -> tuple[str, ...]:
        """A line about each folder whose description can't be used."""
        out = []
        for key in self._keys():
            try:
                read_water(self.root / key)
            except FileError as exc:
                out.append(f"{key}: {exc.reason}")
        return tuple(out)

    def _keys(self) -> list[str]:
        try:
            with os.scandir(self.root) as entries:
                return sorted(
                    e.name for e in entries if e.name != TRASH and os.path.lexists(os.path.join(e.path, FILE))
                )
        except OSError:
            return []

    def folder(self, water: Water) -> WaterFolder:
        """A water's files."""
        return WaterFolder(self.root / water.key)

    def get(self, key: str) -> Water | None:
        """The water of a folder."""
        try:
            return read_water(self.root / key) if key and Path(key).name == key else None
        except FileError:
            return None

    def named(self, name: str) -> Water:
        """
        The water of a name, of its beginning, or of a folder.

        Raises
        ------
        ValueError
            If there is none or more than one, in one line that says which there are.
        """
        waters = self.all()
        wanted = name.strip().lower()
        for test in (
            lambda w: wanted in (w.name.lower(), w.key),
            lambda w: w.name.lower().startswith(wanted),
            lambda w: wanted in w.name.lower(),
        ):
            found = [w for w in waters if wanted and test(w)]
            if len(found) == 1:
                return found[0]
            if found:
                raise ValueError(f"{name!r} may be {', '.join(w.name for w in found[:6])}")
        there = ", ".join(w.name for w in waters[:6]) or "none yet"
        raise ValueError(f"there is no water {name!r}; there are: {there}")

    def visited(self) -> dict[str, float]:
        """When each water was gone to last, by folder."""
        try:
            data = read_json(self.root / _VISITED, 1_000_000)
        except FileError:
            return {}
        rows = data.items() if isinstance(data, dict) else ()
        return {str(k): float(v) for k, v in rows if isinstance(v, int | float) and not isinstance(v, bool)}

    def visit(self, water: Water, time_s: float) -> None:
        """Remember that a water was gone to; a full disk costs only the order of the list."""
        visited = {k: v for k, v in self.visited().items() if (self.root / k).is_dir()}
        visited[water.key] = time_s
        try:
            private_folder(self.root)
            write_text(self.root / _VISITED, json.dumps(visited), private=True)
        except (FileError, OSError):
            return

    # -- where things belong ------------------------------------------------------------------------------------

    def fit(self, latitude: ArrayLike, longitude: ArrayLike) -> Fit:
        """
        Which waters places belong to.

        Notes
        -----
        They lie in a water if most of them are within its outline, or so little outside that it may well go on there.
        """
        lat, lon = np.asarray(latitude, float).ravel(), np.asarray(longitude, float).ravel()
        good = np.isfinite(lat) & np.isfinite(lon)
        every = max(int(good.sum()) // _MOST_SAMPLES, 1)
        lat, lon = lat[good][::every], lon[good][::every]
        inside: list[tuple[float, Water]] = []
        near: list[tuple[float, Water]] = []
        for water in self.all() if lat.size else ():
            outline = np.array(water.outline).reshape(-1, 2)
            if not len(outline) and water.place is not None:
                outline = np.array([[water.place.latitude, water.place.longitude]])
            away = distance_to_outline_m(outline, lat, lon)
            if float(np.median(away)) <= _MARGIN_M + _MARGIN_SHARE * size_m(outline):
                inside.append((float(np.median(away)), water))
            elif float(away.min()) <= _NEAR_M:
                near.append((float(away.min()), water))
        inside.sort(key=lambda pair: pair[0])
        near.sort(key=lambda pair: pair[0])
        return Fit(tuple(w for _, w in inside), tuple((w, d) for d, w in near))

    # -- one water ----------------------------------------------------------------------------------------------

    def create(self, name: str, place: Position | None = None, *, like: Water | None = None) -> Water:
        """
        A new water with a folder of its own; its clock is that of its place.

        Raises
        ------
        FileError, ValueError
        """
        name = plain_name(name)
        zone = time_zone_at(place) if place is not None else "UTC"
        water = replace(
            like or Water(time_zone=zone), key=self._free_key(name), name=self._free_name(name), place=place
        )
        self.save(water)
        return water

    def save(self, water: Water) -> None:
        """Write a water's description. Raises FileError."""
        try:
            write_water(self.root / water.key, water)
        except OSError as exc:
            raise FileError(self.root / water.key, "", f"could not be written: {why(exc)}") from exc

    def rename(self, water: Water, name: str) -> Water:
        """Another name; its folder keeps its own, so that nothing that points there is lost."""
        named = replace(water, name=plain_name(name))
        self.save(named)
        return named

    def reach(self, water: Water, latitude: ArrayLike, longitude: ArrayLike) -> Water:
        """A water with its outline so wide that it holds these places too; with the first it gets place and clock."""
        lat, lon = np.asarray(latitude, float).ravel(), np.asarray(longitude, float).ravel()
        old = np.array(water.outline).reshape(-1, 2)
        outline = outline_of_places(np.concatenate([old[:, 0], lat]), np.concatenate([old[:, 1], lon]))
        if not len(outline):
            return water
        wider = replace(water, outline=tuple((round(float(a), 6), round(float(b), 6)) for a, b in outline))
        if water.place is None:
            middle = Position(*(round(float(v), 7) for v in outline.mean(axis=0)))
            wider = replace(wider, place=middle, time_zone=time_zone_at(middle))
        if wider != water:
            self.save(wider)
        return wider

    def delete(self, water: Water, stamp: str) -> Moves:
        """Move a water into the trash; the moves can be taken back."""
        moves = Moves()
        moves.move(self.root / water.key, self._in_trash(f"{water.key} {stamp}"))
        return moves

    def move_file(self, path: Path, target: Water) -> Moves:
        """Move one file of soundings to another water, under a name that is free there."""
        moves = Moves()
        moves.move(path, free_path(self.root / target.key / path.name))
        return moves

    def merge(self, target: Water, other: Water, stamp: str) -> Moves:
        """
        Put everything of another water into one; what is left of the other goes to the trash.

        A shoreline or column that both have is kept under another name, never written over.
        """
        if target.key == other.key:
            raise ValueError("a water cannot be merged with itself")
        moves = Moves()
        here, there = self.root / target.key, self.root / other.key
        for path in sorted(there.iterdir()):
            if path.is_file() and path.name not in (FILE, "grid.npz"):
                moves.move(path, free_path(here / path.name))
        moves.move(there, self._in_trash(f"{other.key} {stamp}"))
        return moves

    def split(self, water: Water, sources: Sequence[Path], name: str) -> Moves:
        """Some files of a water become a water of their own; taken back, that water is gone again."""
        if not sources:
            raise ValueError("choose the files that are to be a water of their own")
        made = self.create(name, like=replace(water, outline=(), place=None))
        moves = Moves(made=self.root / made.key)
        for path in sources:
            moves.move(path, self.root / made.key / path.name)
        self.outlined(water)
        self.outlined(made)
        return moves

    def outlined(self, water: Water) -> Water:
        """A water with its outline worked out anew from all its files."""
        parts, _ = self.folder(water).read_all()
        lat = np.concatenate([p.latitude for p in parts]) if parts else np.zeros(0)
        lon = np.concatenate([p.longitude for p in parts]) if parts else np.zeros(0)
        return self.reach(replace(water, outline=()), lat, lon)

    # -- what comes with the program, and what older versions left ----------------------------------------------

    def adopt(self, shipped: ShippedWater) -> Water:
        """A made-up water as an ordinary one: its folder is made where there is none."""
        found = self.get(shipped.water.key)
        if found is not None:
            return found
        water = replace(shipped.water, outline=_round(shipped.water.place, shipped.radius_m))
        self.save(water)
        if shipped.profile is not None and not (self.root / shipped.water.key / "profile.csv").exists():
            try:
                shutil.copyfile(shipped.profile, self.root / shipped.water.key / "profile.csv")
            except OSError as exc:
                raise FileError(shipped.profile, "", f"could not be copied: {why(exc)}") from exc
        folder = self.folder(water)
        if shipped.tidal and folder.tide() is None:
            from plumbbob.sim.other_waters import TIDES_FROM, carrow_tide

            folder.set_tide(carrow_tide(TIDES_FROM))
        return water

    def has_old(self) -> bool:
        """There are folders that an older version left, without a description."""
        return bool(self._old_folders())

    def _old_folders(self) -> list[Path]:
        try:
            folders = sorted(p for p in self.root.iterdir() if p.is_dir() and p.name != TRASH)
            return [
                f for f in folders if not (f / FILE).exists() and not f.name.startswith(MAKING) and any(f.iterdir())
            ]
        except OSError:
            return []

    def take_over_old(self) -> tuple[Water, ...]:
        """Folders of an older version get a description; nothing in them is moved or changed."""
        known = {s.water.key: s for s in shipped_waters()}
        out = []
        for folder in self._old_folders():
            place = _OLD_PLACE.match(folder.name)
            if folder.name in known:
                out.append(self.adopt(known[folder.name]))
                continue
            if place is not None:
                at = Position(float(place[1]), float(place[2]))
                name = self._free_name(_named_after(at))
                water = Water(key=folder.name, name=name, place=at, time_zone=time_zone_at(at))
            else:
                water = Water(key=folder.name, name=self._free_name(folder.name.capitalize()))
            try:
                self.save(water)
                out.append(self.outlined(water))
            except FileError:
                continue
        return tuple(out)

    # -- names --------------------------------------------------------------------------------------------------

    def _free_key(self, name: str) -> str:
        plain = re.sub(r"[^\w-]+", "-", name.lower()).strip("-_")[:48] or "water"
        return free_path(self.root / plain).name

    def _free_name(self, name: str) -> str:
        taken = {w.name for w in self.all()}
        number, free = 2, name
        while free in taken:
            free, number = f"{name} {number}", number + 1
        return free

    def _in_trash(self, name: str) -> Path:
        return free_path(self.root / TRASH / name)


def _is_bare(folder: Path) -> bool:
    """Nothing lies there but what a water is described by and what is worked out anew."""
    try:
        return all(p.name in (FILE, "grid.npz") for p in folder.iterdir())
    except OSError:
        return False


def free_path(path: Path) -> Path:
    """This path, or one with a number, where nothing lies yet."""
    number, free = 2, path
    while os.path.lexists(free):
        free, number = path.with_name(f"{path.stem} {number}{path.suffix}"), number + 1
    return free


def _round(place: Position | None, radius_m: float) -> tuple[tuple[float, float], ...]:
    """Eight corners about a place."""
    if place is None:
        return ()
    turns = np.arange(8) * np.pi / 4
    north = np.degrees(radius_m * np.cos(turns) / 6_371_000.0)
    east = np.degrees(radius_m * np.sin(turns) / 6_371_000.0) / np.cos(np.radians(place.latitude))
    corners = zip(place.latitude + north, place.longitude + east, strict=True)
    return tuple((round(float(a), 6), round(float(b), 6)) for a, b in corners)


def _named_after(place: Position) -> str:
    ns, ew = "NS"[place.latitude < 0], "EW"[place.longitude < 0]
    return f"Water at {abs(place.latitude):.2f}° {ns} {abs(place.longitude):.2f}° {ew}"


@dataclass(frozen=True, slots=True)
class Settled:
    """Where a file belongs: the water, or none where somebody has to say."""

    water: Water | None
    fit: Fit
    is_new: bool = False


def settle(waters: Waters, path: Path, latitude: ArrayLike, longitude: ArrayLike, here: Water) -> Settled:
    """
    The water of a file by where its places lie; one far from all others makes a water of its own.

    A water that was made and has nothing in it yet takes what comes first.
    """
    fit = waters.fit(latitude, longitude)
    if here.key and not here.outline and here.place is None:
        return Settled(here, fit)
    if fit.only is not None:
        return Settled(fit.only, fit)
    if not fit.is_new:
        return Settled(None, fit)
    place = middle_of(latitude, longitude)
    if place is None:
        return Settled(here if here.key else None, fit)
    return Settled(waters.create(name_for(path, place), place), fit, is_new=True)


def middle_of(latitude: ArrayLike, longitude: ArrayLike) -> Position | None:
    """The middle of places; None where there are none."""
    lat, lon = np.asarray(latitude, float).ravel(), np.asarray(longitude, float).ravel()
    good = np.isfinite(lat) & np.isfinite(lon)
    if not good.any():
        return None
    return Position(round(float(np.median(lat[good])), 7), round(float(np.median(lon[good])), 7))


def name_for(path: Path, place: Position) -> str:
    """
    What a water may be called until somebody says better: its file's name where that is a word, else its place.

    Examples
    --------
    >>> name_for(Path("mill_pond.csv"), Position(44.0, -41.0)), name_for(Path("0612_1.nc"), Position(44.0, -41.0))
    ('Mill pond', 'Water at 44.00° N 41.00° W')
    """
    words = re.sub(r"[\W_]+", " ", path.stem).strip()
    if len(words) >= 3 and sum(c.isalpha() for c in words) > 0.7 * len(words):
        return words[:1].upper() + words[1:]
    return _named_after(place)
