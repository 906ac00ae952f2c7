"""A review of a log: from its files or its cells to rates, findings and what to try next."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from plumbbob.core.reason import Reason
from plumbbob.core.tally.record import FishingRecord
from plumbbob.core.tally.review import Review, review
from plumbbob.core.tally.sidelines import of_care, of_contacts, size_by_depth
from plumbbob.formats.log_frames import LogFrames, frames_of, numbers, read_frames
from plumbbob.services.review_record import ReadRecord, record_of

_MOST_KINDS = 6  # of fish whose size is looked at


@dataclass(frozen=True, slots=True)
class LogReview:
    """A review with the record it is of."""

    read: ReadRecord
    review: Review
    sidelines: tuple[Reason, ...] = ()

    @property
    def record(self) -> FishingRecord:
        """Efforts and catches."""
        return self.read.record


Told = Callable[[LogReview, float], None]


def review_file(path: Path) -> LogReview:
    """
    Review a log as open files.

    Raises
    ------
    FileError
        Where it is no log at all.
    """
    return review_frames(read_frames(path))


def review_cells(
    cells: Mapping[str, Sequence[Mapping[str, str]]], told: Told = lambda made, share: None
) -> LogReview:
    """Review a log at hand as cells by table."""
    return review_frames(frames_of(cells), told)


def review_frames(frames: LogFrames, told: Told = lambda made, share: None) -> LogReview:
    """Review a log's tables."""
    read = record_of(frames)
    sides = sidelines_of(frames)
    made = review(read.record, lambda so_far, share: told(LogReview(read, so_far, sides), share))
    return LogReview(read, made, sides)


def sidelines_of(frames: LogFrames) -> tuple[Reason, ...]:
    """What a log says beside how often."""
    catches, contacts = frames.tables["catches"], frames.tables["contacts"]
    species = catches["species"].str.strip()
    length, depth = numbers(catches["length_m"]), numbers(catches["lure_depth_m"])
    made = []
    for name in species[species != ""].value_counts().index[:_MOST_KINDS]:
        mine = (species == name).to_numpy()
        found = size_by_depth(str(name), length[mine], depth[mine])
        made += [found] if found is not None else []
    each = np.maximum(np.nan_to_num(numbers(contacts["count"]), nan=1.0), 1.0)
    kinds = {str(k): float(each[(contacts["kind"].str.strip() == k).to_numpy()].sum()) for k in set(contacts["kind"])}
    deep = int(catches["hook_place"].str.contains("deep|gill|throat|gullet", case=False).sum())
    return (*made, *of_contacts(kinds, len(catches)), *of_care(numbers(catches["kept"]), deep))


def told_of(made: LogReview) -> dict[str, int]:
    """What was left out, by why."""
    return {why: number for why, number in made.read.left_out.items() if number}


def fish_by_trip(made: LogReview) -> np.ndarray:
    """Fish of each trip, in the order of its names."""
    return np.bincount(made.record.trip[made.record.catch_effort], minlength=made.record.trips)


@dataclass(frozen=True, slots=True)
class Cut:
    """A part of a log to look at: each empty or 0 takes all."""

    water: str = ""
    year: int = 0
    species: str = ""
    lure: str = ""
    anglers: str = ""

    @property
    def is_all(self) -> bool:
        """Nothing is left out."""
        return self == Cut()


@dataclass(frozen=True, slots=True)
class Choices:
    """What a log can be cut by."""

    waters: tuple[str, ...] = ()
    years: tuple[int, ...] = ()
    species: tuple[str, ...] = ()
    lures: tuple[str, ...] = ()
    anglers: tuple[str, ...] = ()


def choices_of(frames: LogFrames) -> Choices:
    """Waters, years, species, lures and anglers that are in a log."""

    def names(table: str, column: str) -> tuple[str, ...]:
        return tuple(sorted({str(v).strip() for v in frames.tables[table][column]} - {""}))

    years = tuple(sorted({int(t[:4]) for t in names("trips", "start") if t[:4].isdigit()}))
    return Choices(names("trips", "water"), years, names("catches", "species"), names("efforts", "lure"),
                   names("trips", "anglers"))  # fmt: skip


def cut_frames(frames: LogFrames, cut: Cut) -> LogFrames:
    """The tables of a part of a log; effort stays whole where only some fish are asked for."""
    if cut.is_all:
        return LogFrames(dict(frames.tables), dict(frames.left_out))
    tables = dict(frames.tables)
    trips = tables["trips"]
    keep = np.ones(len(trips), bool)
    if cut.water:
        keep &= (trips["water"] == cut.water).to_numpy()
    if cut.year:
        keep &= trips["start"].str.startswith(str(cut.year)).to_numpy(bool)
    if cut.anglers:
        keep &= (trips["anglers"].str.strip() == cut.anglers).to_numpy()
    tables["trips"] = trips[keep]
    refs = set(tables["trips"]["trip"])
    for name in ("efforts", "catches", "contacts"):
        tables[name] = tables[name][tables[name]["trip"].isin(refs)] if not keep.all() else tables[name]
    if cut.lure:
        tables["efforts"] = tables["efforts"][tables["efforts"]["lure"].str.strip() == cut.lure]
    if cut.species:
        tables["catches"] = tables["catches"][tables["catches"]["species"].str.strip() == cut.species]
    return LogFrames({n: t.reset_index(drop=True) for n, t in tables.items()}, dict(frames.left_out))
