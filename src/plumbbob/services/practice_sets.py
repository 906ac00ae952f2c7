"""A set to practise on as one file: packed for an evening, played item by item, several answers to it compared."""

from __future__ import annotations

import json
import re
import tempfile
import zipfile
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from plumbbob.core.sonar.recording import Recording
from plumbbob.core.types import Progress
from plumbbob.files.atomic import write_text, writing
from plumbbob.files.errors import FileError
from plumbbob.services.practice import ITEMS, MOST_ITEMS, TRUTH, grade_set, write_set
from plumbbob.sim.lesson import Lesson

_MOST_BYTES = 500_000_000
_PLAIN = re.compile(r"[^\w -]")


@dataclass(frozen=True, slots=True)
class SetItem:
    """One item of a set as it lies in its folder."""

    name: str
    item: Lesson  # without a scene: what is shown is the file
    recording: Recording | None
    card: Path | None
    letters: tuple[tuple[str, float, float], ...] = ()  # on the card: which, pixels right and down


def pack_set(path: Path, count: int, seed: int, progress: Progress = lambda _: None) -> int:
    """
    Make a set and pack it into one file.

    Raises
    ------
    FileError, OSError
        If it can't be written.
    """
    with tempfile.TemporaryDirectory() as made:
        folder = Path(made) / "set"
        written = write_set(folder, count, seed, progress)
        with writing(path) as fresh, zipfile.ZipFile(fresh, "w", zipfile.ZIP_DEFLATED) as archive:
            for file in sorted(folder.iterdir()):
                info = zipfile.ZipInfo(file.name, (1980, 1, 1, 0, 0, 0))  # the same seed gives the same bytes
                info.compress_type = zipfile.ZIP_DEFLATED
                archive.writestr(info, file.read_bytes())
    return written


def unpack_set(path: Path, into: Path) -> Path:
    """
    A packed set as a folder.

    Raises
    ------
    FileError
        If it is none, or too large.
    """
    try:
        with zipfile.ZipFile(path) as archive:
            members = archive.infolist()
            names = {m.filename for m in members}
            if not {ITEMS, TRUTH} <= names:
                raise FileError(path, "", "is no set to practise on")
            if len(members) > 2 * MOST_ITEMS or sum(m.file_size for m in members) > _MOST_BYTES:
                raise FileError(path, "", "holds more than a set does")
            into.mkdir(parents=True, exist_ok=True)
            for member in members:
                (into / Path(member.filename).name).write_bytes(archive.read(member))
    except (zipfile.BadZipFile, OSError, NotImplementedError, RuntimeError) as exc:
        raise FileError(path, "", "is no set to practise on, or damaged") from exc
    return into


def read_set(folder: Path) -> list[SetItem]:
    """
    The items of a set in their order, with the truth; what is tampered with is refused.

    Raises
    ------
    FileError
        In one line.
    """
    with tempfile.TemporaryDirectory() as none:
        empty = Path(none) / "answers.json"
        empty.write_text("{}", encoding="utf-8")
        grade_set(folder, empty)  # the same checks as for answers: newer, broken, tampered, missing
    rows = json.loads((folder / ITEMS).read_text(encoding="utf-8"))["items"]
    truth = json.loads((folder / TRUTH).read_text(encoding="utf-8"))["truth"]
    try:
        return [_set_item(folder, row, truth[row["id"]]) for row in rows]
    except (
        KeyError,
        TypeError,
        ValueError,
        AttributeError,
    ) as exc:  # nothing vouches for the truth
        raise FileError(folder / TRUTH, "", "is broken") from exc


def _set_item(folder: Path, row: Mapping[str, Any], told: Mapping[str, Any]) -> SetItem:
    from plumbbob.formats.recording import read_recording

    file = folder / Path(row["file"]).name
    item = Lesson(
        skill=str(row["skill"]),
        difficulty=float(row["difficulty"]),
        ask=str(row["ask"]),
        answer_is=str(row["answer_is"]),
        truth=told["truth"],
        why=str(told["why"]),
        choices=tuple(str(c) for c in row.get("choices", ())),
        tolerance=tuple(float(t) for t in told["tolerance"]),
        at_s=row.get("at_s"),
        shows=tuple((float(a), float(b)) for a, b in told.get("shows", ())),
        is_drop=bool(row.get("is_drop")),
    )
    letters = tuple((str(a), float(x), float(y)) for a, x, y in row.get("letters", ()))
    is_pass = file.suffix == ".nc"
    return SetItem(row["id"], item, read_recording(file) if is_pass else None, None if is_pass else file, letters)


def keep_answers(path: Path, who: str, answers: Mapping[str, Any]) -> Path:
    """
    Write a person's answers beside a packed set, as `plumbbob practice --grade` reads them.

    Raises
    ------
    FileError, OSError
        If they can't be written.
    """
    plain = _PLAIN.sub("", who).strip() or "somebody"
    out = path.with_name(f"{path.stem} answers {plain}.json")
    write_text(out, json.dumps(dict(answers), indent=1, sort_keys=True) + "\n")
    return out


def compared(path: Path, folder: Path) -> list[tuple[str, float, int]]:
    """Who answered a packed set, how well of 1 and how many items were answered, the best first."""
    out = []
    begin = f"{path.stem} answers "
    for file in sorted(path.parent.glob("*.json")):
        if not file.name.startswith(begin):
            continue
        try:
            grade = grade_set(folder, file)
        except FileError:
            continue
        answered = sum(bool(i["answered"]) for i in grade["items"])
        out.append((file.stem.removeprefix(begin), float(grade["score"]), answered))
    return sorted(out, key=lambda row: -row[1])
