"""What `plumbbob decide` is asked, one JSON object a line, and what it answers; docs/formats.md."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from plumbbob.core.plan.search import OVER_ONE, Cell, Look, searched
from plumbbob.core.plan.skill import Answer, abilities, next_item
from plumbbob.core.plan.stay import Prior, stay_or_go
from plumbbob.formats.checked import list_of, number_from, object_of, within

Json = dict[str, Any]
ASKED = ("search", "stay", "skill")
_MOST = 100_000
_LONG_MIN, _LONG_H, _FISH = 100_000.0, 1e6, 1e6
_USUAL_SKILL = "fish or tree"
_WHY = {
    "weak": "it is the weakest so far",
    "unsure": "too few answers tell how good it is",
    "long ago": "it has not been practised for longest",
}


def answer_line(asked: Any) -> Json:
    """
    The answer to one request.

    Raises
    ------
    ValueError
        In one line, where it makes no sense.
    """
    if not isinstance(asked, Mapping):
        raise ValueError("a request is an object with search, stay or skill")
    named = [key for key in ASKED if key in asked]
    if len(named) != 1 or len(asked) != 1:
        raise ValueError("a request has exactly one of search, stay and skill")
    return {"search": _search, "stay": _stay, "skill": _skill}[named[0]](asked[named[0]])


def _name(value: Any, what: str) -> str | int:
    if isinstance(value, bool) or not isinstance(value, str | int):
        raise ValueError(f"{what} needs a text or a whole number")
    return value


def _share(name: str, value: Any) -> float:
    return within(name, value, 0.0, 1.0)


def _search(value: Any) -> Json:
    asked = object_of(value, ("cells", "looks", "now", "half_life_s", "costs"))
    cells = [_cell(one) for one in list_of(asked.get("cells", ()), _MOST)]
    if not cells:
        raise ValueError("a search needs cells")
    ids = [cell.id for cell in cells]
    known = set(ids)
    if len(known) < len(ids) or len({str(i) for i in ids}) < len(ids):
        raise ValueError("a cell stands there twice")
    if sum(cell.prior for cell in cells) > 1.0 + OVER_ONE:
        raise ValueError("priors sum to more than one")
    half_life = asked.get("half_life_s")
    if half_life is not None:
        half_life = number_from("half_life_s", half_life)
        if half_life <= 0.0:
            raise ValueError("half_life_s must be above zero")
        if asked.get("now") is None:
            raise ValueError("a half-life needs now")
    now = number_from("now", asked["now"]) if asked.get("now") is not None else 0.0
    looks = [_look(one, known, half_life is not None) for one in list_of(asked.get("looks") or (), _MOST)]
    costs = None
    if asked.get("costs") is not None:
        if not isinstance(asked["costs"], Mapping):
            raise ValueError("costs are an object of seconds by cell")
        by_text = {str(cell.id): cell.id for cell in cells}
        costs = {}
        for key, seconds in asked["costs"].items():
            if key not in by_text:
                raise ValueError(f"costs name a cell that is not there: {key}")
            costs[by_text[key]] = number_from("a cost", seconds)
            if costs[by_text[key]] <= 0.0:
                raise ValueError("a cost must be above zero")
    found = searched(cells, looks, now=now, half_life_s=half_life, costs=costs)
    chosen = cells[found.next] if found.next is not None else None
    return {
        "cells": [{"id": c.id, "chance": float(p)} for c, p in zip(cells, found.chance, strict=True)],
        "none": found.none,
        "next": chosen.id if chosen is not None else None,
        "why": _next_words(chosen, found.chance[found.next], found.none, costs)
        if chosen is not None and found.next is not None
        else "no look can find anything more: all is ruled out, or none can be made",
    }


def _next_words(cell: Cell, chance: float, none: float, costs: Any) -> str:
    price = f" for its {costs[cell.id]:g} seconds" if costs is not None else ""
    return (
        f"a look there finds them with {chance * cell.detection:.0%}{price}, the most of all; "
        f"that there are none at all: {none:.0%}"
    )


def _cell(value: Any) -> Cell:
    asked = object_of(value, ("id", "prior", "detection"))
    detection = asked.get("detection")
    return Cell(
        id=_name(asked.get("id"), "a cell's id"),
        prior=_share("prior", asked.get("prior")),
        detection=1.0 if detection is None else _share("detection", detection),
    )


def _look(value: Any, known: set[str | int], fades: bool) -> Look:
    asked = object_of(value, ("cell", "detection", "at"))
    cell = _name(asked.get("cell"), "a look's cell")
    if cell not in known:
        raise ValueError(f"a look at a cell that is not there: {cell}")
    if asked.get("at") is None and fades:
        raise ValueError("with a half-life a look needs its time, at")
    at = number_from("at", asked["at"]) if asked.get("at") is not None else 0.0
    return Look(cell=cell, detection=_share("detection", asked.get("detection")), at=at)


def _prior(name: str, value: Any) -> Prior:
    asked = object_of(value, ("fish", "hours"))
    fish, hours = number_from(f"{name} fish", asked.get("fish")), number_from(f"{name} hours", asked.get("hours"))
    if not (0.0 < fish <= _FISH and 0.0 < hours <= _LONG_H):
        raise ValueError(f"fish and hours of {name} must be above zero")
    return Prior(fish, hours)


def _stay(value: Any) -> Json:
    asked = object_of(
        value,
        ("minutes_here", "fish_here", "prior_here", "per_hour_gone", "travel_min", "prior_next", "minutes_left"),
    )
    gone = number_from("per_hour_gone", asked.get("per_hour_gone"))
    if not 0.0 <= gone < 1.0:
        raise ValueError("per_hour_gone must be from 0 to below 1")
    here, there = _prior("prior_here", asked.get("prior_here")), _prior("prior_next", asked.get("prior_next"))
    fish = within("fish_here", asked.get("fish_here"), 0.0, _FISH)
    if fish != int(fish):
        raise ValueError("fish_here is a whole number")
    spent, travel, left = (
        within(key, asked.get(key), 0.0, _LONG_MIN) / 60.0 for key in ("minutes_here", "travel_min", "minutes_left")
    )
    found = stay_or_go(here, fish, spent, there, gone_per_hour=gone, travel_h=travel, left_h=left)
    if travel >= left:
        why = "there is no time left to go anywhere else"
    elif found.stay:
        why = (
            f"a fish in ten minutes: {found.here:.0%} here, {found.there:.0%} by going on; "
            f"worth {found.minutes_more:.0f} min more without one"
        )
    else:
        why = (
            f"a fish in ten minutes: {found.here:.0%} here, {found.there:.0%} by going on; "
            "to the end of the day more is to be had elsewhere"
        )
    return {
        "advice": "stay" if found.stay else "go",
        "here": found.here,
        "there": found.there,
        "minutes_more": found.minutes_more,
        "why": why,
    }


def _skill(value: Any) -> Json:
    asked = object_of(value, ("answers", "now"))
    answers = [_answer(one) for one in list_of(asked.get("answers", ()), _MOST)]
    now = (
        number_from("now", asked["now"])
        if asked.get("now") is not None
        else max((a.at for a in answers), default=0.0)
    )
    found = abilities(answers)
    coming = next_item(answers, found, now)
    if coming is None:
        coming = (_USUAL_SKILL, 0.0, "unsure")
    return {
        "skills": {name: {"mean": one.mean, "low": one.low, "high": one.high} for name, one in found.items()},
        "next": {"skill": coming[0], "difficulty": coming[1], "why": _WHY[coming[2]]},
    }


def _answer(value: Any) -> Answer:
    asked = object_of(value, ("skill", "difficulty", "right", "at"))
    skill, right = asked.get("skill"), asked.get("right")
    if not isinstance(skill, str) or not skill:
        raise ValueError("an answer needs its skill")
    if not isinstance(right, bool):
        raise ValueError("right is true or false")
    at = number_from("at", asked["at"]) if asked.get("at") is not None else 0.0
    return Answer(skill, within("difficulty", asked.get("difficulty"), -50.0, 50.0), right, at)
