"""Sets to practise on as a folder: items without the truth, the truth beside them, and the grade of answers."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from plumbbob.core.plan.grading import score_of
from plumbbob.core.types import Progress
from plumbbob.files.atomic import write_text, writing
from plumbbob.files.errors import FileError
from plumbbob.files.json_text import read_json
from plumbbob.services.practice_cards import card_png, chart_png, pixel_of
from plumbbob.sim.lesson import Lesson
from plumbbob.sim.lessons import lessons

Json = dict[str, Any]
VERSION = 1
ITEMS, TRUTH = "items.json", "truth.json"
MOST_ITEMS = 500
_MOST_BYTES = 20_000_000
_KINDS = ("depth", "time_depth", "choice", "height", "count_s", "distance")


def write_set(folder: Path, count: int, seed: int, progress: Progress = lambda _: None) -> int:
    """
    Make a set of items in a new folder; the same seed gives the same bytes.

    Raises
    ------
    FileError
        If the folder holds something already, or can't be written.
    """
    if not 1 <= count <= MOST_ITEMS:
        raise ValueError(f"{count} items are outside 1 to {MOST_ITEMS}")
    if folder.exists() and (not folder.is_dir() or any(folder.iterdir())):
        raise FileError(folder, "", "is there already; a new folder is needed")
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as exc:
        raise FileError(folder, "", f"can't be made: {exc.strerror}") from exc
    items, truth = [], {}
    for k, one in enumerate(lessons(count, seed)):
        name = f"item{k + 1:03d}"
        file = _write_shown(folder, name, one, seed * 1000 + k)
        items.append(_item(name, one, file))
        truth[name] = {
            "truth": one.truth,
            "tolerance": list(one.tolerance),
            "why": one.why,
            "shows": [[round(a, 3), round(b, 3)] for a, b in one.shows],
            "sha256": _digest(folder / file),
        }
        progress((k + 1) / count)
    write_text(folder / ITEMS, _text({"version": VERSION, "seed": seed, "items": items}))
    whole = {"version": VERSION, "items_sha256": _digest(folder / ITEMS), "truth": truth}
    write_text(folder / TRUTH, _text(whole))
    return len(items)


def _item(name: str, one: Lesson, file: str) -> Json:
    item: Json = {
        "id": name,
        "skill": one.skill,
        "difficulty": one.difficulty,
        "file": file,
        "ask": one.ask,
        "answer_is": one.answer_is,
    }
    if one.choices:
        item["choices"] = list(one.choices)
    if one.at_s is not None:
        item["at_s"] = round(one.at_s, 3)
    if one.is_drop:
        item["is_drop"] = True
    if one.chart is not None:
        pixels = ((letter, *pixel_of(one.chart, east, south)) for letter, east, south in one.chart.places)
        item["letters"] = [[letter, round(x), round(y)] for letter, x, y in pixels]
    return item


def _write_shown(folder: Path, name: str, one: Lesson, seed: int) -> str:
    """The pass or the card of an item; the name of its file."""
    if one.scene is None:
        with writing(folder / f"{name}.png") as fresh:
            fresh.write_bytes(chart_png(one.chart) if one.chart is not None else card_png(one))
        return f"{name}.png"
    from plumbbob.formats.recording import write_recording
    from plumbbob.sim.down import simulate

    recording, _ = simulate(one.scene, seed)
    write_recording(folder / f"{name}.nc", recording)
    return f"{name}.nc"


def _text(value: Json) -> str:
    return json.dumps(value, indent=1, sort_keys=True) + "\n"


def _digest(path: Path) -> str:
    return hashlib.sha256(path.read_bytes()).hexdigest()


# -- grading ----------------------------------------------------------------------------------------------------


def grade_set(folder: Path, answers: Path) -> Json:
    """
    The grade of answers to a set.

    Raises
    ------
    FileError
        In one line: a set that is of a newer version, broken, tampered with or without its truth; answers of the
        wrong kind.
    """
    items = _read(folder / ITEMS)
    truth = _read(folder / TRUTH)
    for name, part in ((ITEMS, items), (TRUTH, truth)):
        if not isinstance(part.get("version"), int):
            raise FileError(folder / name, "", "is no set to practise on")
        if part["version"] > VERSION:
            raise FileError(folder / name, "", f"is of a newer version ({part['version']}) than this program knows")
    if truth.get("items_sha256") != _digest(folder / ITEMS):
        raise FileError(folder / ITEMS, "", "is not the one its truth was made for")
    given = _read(answers)
    known = truth.get("truth")
    rows = items.get("items")
    if not isinstance(known, Mapping) or not isinstance(rows, list):
        raise FileError(folder / TRUTH, "", "is broken")
    ids = [row.get("id") for row in rows if isinstance(row, Mapping)]
    strange = next((k for k in given if k not in ids), None)
    if strange is not None:
        raise FileError(answers, str(strange)[:40], "is no item of this set")
    out: list[Json] = []
    by_skill: dict[str, list[float]] = {}
    for row in rows:
        found = _graded(folder, answers, row, known, given)
        out.append(found)
        by_skill.setdefault(row["skill"], []).append(found["score"])
    skills = {name: {"score": sum(v) / len(v), "items": len(v)} for name, v in sorted(by_skill.items())}
    return {"items": out, "skills": skills, "score": sum(i["score"] for i in out) / max(len(out), 1)}


def _graded(folder: Path, answers: Path, row: Any, known: Mapping[str, Any], given: Mapping[str, Any]) -> Json:
    try:
        name, kind, skill = str(row["id"]), str(row["answer_is"]), row["skill"]
        told = known[name]
        truth, why, digest = told["truth"], str(told["why"]), told["sha256"]
        tolerance = [float(t) for t in told["tolerance"]]
        file = folder / Path(str(row["file"])).name
    except (KeyError, TypeError, ValueError) as exc:
        raise FileError(folder / ITEMS, "", "is broken") from exc
    if kind not in _KINDS or not skill:
        raise FileError(folder / ITEMS, name, f"asks for {kind!r}, which is not known")
    if not file.is_file() or _digest(file) != digest:
        raise FileError(file, "", "is missing, or not the one the item was made with")
    answer = given.get(name)
    if answer is None:
        return {"id": name, "score": 0.0, "off": None, "truth": truth, "why": why, "answered": False}
    try:
        score, off = score_of(kind, answer, truth, tolerance)
    except ValueError as exc:
        raise FileError(answers, name, str(exc)) from exc
    return {"id": name, "score": score, "off": off, "truth": truth, "why": why, "answered": True}


def _read(path: Path) -> Json:
    value = read_json(path, _MOST_BYTES)
    if not isinstance(value, dict):
        raise FileError(path, "", "is no object of named values")
    return value
