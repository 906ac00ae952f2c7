"""`plumbbob decide -`: one answer a line, whatever the line holds."""

import json

import pytest
from click.testing import CliRunner

from plumbbob.cli import main

SEARCH = {"search": {"cells": [{"id": "a", "prior": 0.6}, {"id": "b", "prior": 0.4}], "looks": []}}
STAY = {
    "stay": {
        "minutes_here": 30, "fish_here": 1, "prior_here": {"fish": 1, "hours": 1}, "per_hour_gone": 0.4,
        "travel_min": 12, "prior_next": {"fish": 1, "hours": 1}, "minutes_left": 240,
    }
}  # fmt: skip


def decide(text):
    done = CliRunner().invoke(main, ["decide", "-"], input=text)
    assert done.exit_code == 0
    return [json.loads(line) for line in done.stdout.splitlines()]


def changed(request, **parts):
    (name, body), *_ = request.items()
    return json.dumps({name: {**body, **parts}})


def test_each_line_has_its_answer_and_the_last_needs_no_end():
    lines = [json.dumps(SEARCH), json.dumps(STAY), json.dumps({"skill": {"answers": [], "now": 5}})]
    first, second, third = decide("\n".join(lines))
    assert [c["chance"] for c in first["cells"]] == [0.6, 0.4]
    assert (first["none"], first["next"]) == (0.0, "a")
    assert second["advice"] == "stay"
    assert second["minutes_more"] > 0
    assert third["skills"] == {}
    assert third["next"]["skill"]


NONSENSE = [
    "nonsense", "[]", "{}", "3", '{"stay": 1}', '{"search": {"cells": []}}', '{"search": {}, "stay": {}}', "",
    changed(SEARCH, cells=[{"id": "a", "prior": 0.7}, {"id": "b", "prior": 0.4}]),
    changed(SEARCH, cells=[{"id": "a", "prior": 0.1}, {"id": "a", "prior": 0.1}]),
    changed(SEARCH, cells=[{"id": "a", "prior": -0.1}]), changed(SEARCH, cells=[{"id": None, "prior": 0.1}]),
    changed(SEARCH, half_life_s=60), changed(SEARCH, half_life_s=0, now=1),
    changed(SEARCH, looks=[{"cell": "z", "detection": 0.5, "at": 0}]),
    changed(SEARCH, looks=[{"cell": "a", "detection": 1.5, "at": 0}]),
    changed(SEARCH, costs={"a": 0}), changed(SEARCH, costs={"z": 1}),
    changed(STAY, per_hour_gone=1), changed(STAY, minutes_left=-1), changed(STAY, fish_here=0.5),
    changed(STAY, prior_here={"fish": 1, "hours": 0}), changed(STAY, minutes_here="soon"),
    '{"stay": {"minutes_here": NaN}}', '{"skill": {"answers": [{"skill": "a", "difficulty": 0, "right": 1}]}}',
]  # fmt: skip


@pytest.mark.parametrize("line", NONSENSE)
def test_a_line_that_makes_no_sense_is_answered_by_its_error_and_the_next_is_read(line):
    wrong, right = decide(f"{line}\n{json.dumps(SEARCH)}\n")
    assert list(wrong) == ["error"]
    assert "\n" not in wrong["error"]
    assert right["next"] == "a"
