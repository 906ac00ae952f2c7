"""The sheet of practice in the docs, asked question by question: the page is the test."""

import json
from functools import cache
from pathlib import Path

import pytest

from plumbbob.services.ask.answer import answer_question

SHEET = Path(__file__).parents[2] / "docs" / "practice.md"
INSIDE = 57


def rows():
    for line in SHEET.read_text(encoding="utf-8").splitlines():
        cells = [c.strip() for c in line.strip().strip("|").split("|")]
        if len(cells) == 7 and cells[0].isdigit():
            yield cells


def value_of(answer, path):
    for step in path.split("."):
        answer = answer[int(step)] if step.isdigit() else answer[step]
    return answer


def is_inside(value, low, high):
    if isinstance(value, bool):
        return value is (low == "true")
    if isinstance(value, str):
        return value in {low, high} or value in low.split()
    return float(low) <= value <= float(high)


@cache
def asked():
    found = []
    for number, words, question, path, low, high, _ in rows():
        value = value_of(answer_question(json.loads(question.strip("`"))), path)
        found.append((int(number), words, value, low, high, is_inside(value, low, high)))
    return found


@pytest.mark.timeout(240)
def test_practice_agrees():
    outside = [row for row in asked() if not row[-1]]
    assert len(asked()) == 60
    assert len(asked()) - len(outside) >= INSIDE, outside


def test_every_question_is_numbered_once_and_its_range_is_one():
    numbers = [int(cells[0]) for cells in rows()]
    assert numbers == list(range(1, 61))
    for cells in rows():
        low, high = cells[4], cells[5]
        if low.replace(".", "").isdigit():
            assert 0 <= float(low) < float(high)
