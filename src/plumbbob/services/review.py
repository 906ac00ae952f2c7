"""A review of a log: from its files or its cells to rates, findings and what to try next."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from plumbbob.core.tally.record import FishingRecord
from plumbbob.core.tally.review import Review, review
from plumbbob.formats.log_frames import LogFrames, frames_of, read_frames
from plumbbob.services.review_record import ReadRecord, record_of


@dataclass(frozen=True, slots=True)
class LogReview:
    """A review with the record it is of."""

    read: ReadRecord
    review: Review

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
    return LogReview(read, review(read.record, lambda made, share: told(LogReview(read, made), share)))


def told_of(made: LogReview) -> dict[str, int]:
    """What was left out, by why."""
    return {why: number for why, number in made.read.left_out.items() if number}


def fish_by_trip(made: LogReview) -> np.ndarray:
    """Fish of each trip, in the order of its names."""
    return np.bincount(made.record.trip[made.record.catch_effort], minlength=made.record.trips)
