"""`plumbbob plan`: an answer as the contract says, or one line and nothing else."""

import json

import pytest
from click.testing import CliRunner

from plumbbob.cli import main

HERE = {"latitude": 45.0, "longitude": 10.0}
SPOTS = [
    {"name": "reef", "latitude": 45.01, "longitude": 10.01, "fish": 4, "per_hour": 1.5},
    {"name": "bay", "latitude": 45.02, "longitude": 9.99, "fish": 3, "per_hour": 1.0, "least_min": 15},
    {"name": "far", "latitude": 46.5, "longitude": 10.0, "fish": 9, "per_hour": 1.0},
]
REQUEST = {
    "start": {"time": 0, **HERE}, "end": {"time": 14400, **HERE}, "boat": {"speed_mps": 2.0}, "spots": SPOTS,
}  # fmt: skip
BOW = [[10.0, 45.0], [10.1, 45.1], [10.1, 45.0], [10.0, 45.1], [10.0, 45.0]]  # crosses itself
SQUARE = [[9.999, 44.999], [10.001, 44.999], [10.001, 45.001], [9.999, 45.001], [9.999, 44.999]]


def plan(request):
    return CliRunner().invoke(
        main, ["plan", "-"], input=json.dumps(request) if isinstance(request, dict) else request
    )


def test_the_answer_holds_what_the_contract_says():
    done = plan({**REQUEST, "fixed": ["bay"], "wind": {"from_deg": 225}})
    assert done.exit_code == 0, done.stderr
    answer = json.loads(done.stdout)
    assert set(answer) == {"visits", "back", "fish", "left_out"}
    (visit,) = answer["visits"]
    assert set(visit) == {"name", "arrive", "leave", "fish", "why", "way"}
    assert visit["name"] == "reef"
    assert visit["way"][0] == [45.0, 10.0]
    assert visit["way"][-1] == [45.01, 10.01]
    assert answer["back"] <= 14400 + 1e-6
    assert answer["fish"] == pytest.approx(visit["fish"])
    # what was visited already stands nowhere, what is too far with its reason
    assert [one["name"] for one in answer["left_out"]] == ["far"]
    assert "can't be reached" in answer["left_out"][0]["why"]


def test_no_places_is_a_day_too():
    answer = json.loads(plan({**REQUEST, "spots": []}).stdout)
    assert (answer["visits"], answer["fish"], answer["left_out"]) == ([], 0, [])


def spot(**parts):
    return {**REQUEST, "spots": [{**SPOTS[0], **parts}]}


NONSENSE = {
    "ends before it begins": {**REQUEST, "end": {"time": -1, "latitude": 45.0, "longitude": 10.0}},
    "launch on land": {**REQUEST, "land": {"type": "MultiPolygon", "coordinates": [[SQUARE]]}},
    "wind from nowhere": {**REQUEST, "wind": {}},
    "crosses itself": {**REQUEST, "land": {"type": "MultiPolygon", "coordinates": [[BOW]]}},
    "must out of reach": {**REQUEST, "spots": [{**SPOTS[2], "must": True}]},
    "too many": {**REQUEST, "spots": [{**SPOTS[0], "name": str(k)} for k in range(10_000)]},
    "twice": {**REQUEST, "spots": [SPOTS[0], SPOTS[0]]},
    "no speed": {**REQUEST, "boat": {"speed_mps": 0}},
    "no boat": {k: v for k, v in REQUEST.items() if k != "boat"},
    "strange fixed": {**REQUEST, "fixed": ["moon"]},
    "least over most": spot(least_min=20, most_min=10),
    "window turned round": spot(not_before=10, not_after=5),
    "negative fish": spot(fish=-1),
    "no latitude": spot(latitude=None),
    "pole": spot(latitude=91),
    "must as a word": spot(must="yes"),
    "factor below zero": spot(times=[{"from": 0, "to": 5, "factor": -1}]),
    "unknown key": {**REQUEST, "weather": "fine"},
    "nan": json.dumps(REQUEST).replace("14400", "NaN"),
    "text": "no json",
}


@pytest.mark.parametrize("name", NONSENSE)
def test_what_makes_no_sense_is_refused_in_one_line(name):
    done = plan(NONSENSE[name])
    assert done.exit_code == 2
    assert done.stdout == ""
    assert done.stderr.count("\n") == 1
    assert "Traceback" not in done.stderr
