"""Sets to practise on: the same bytes from the same seed, the truth graded full, guesses low, broken sets refused."""

import json
import random
import shutil

import numpy as np
import pytest
from click.testing import CliRunner

from plumbbob.cli.commands import main
from plumbbob.core.sonar.beam import dead_zone_on_axis
from plumbbob.files.errors import FileError
from plumbbob.formats.recording import read_recording
from plumbbob.services.practice import grade_set, write_set
from plumbbob.sim.lessons import SKILLS, lesson, lessons

COUNT = 32


@pytest.fixture(scope="module")
def practice(tmp_path_factory):
    folder = tmp_path_factory.mktemp("practice") / "set"
    write_set(folder, COUNT, 3)
    return folder


@pytest.fixture
def own(practice, tmp_path):
    """A copy to be harmed."""
    return shutil.copytree(practice, tmp_path / "own")


def items_of(folder):
    return json.loads((folder / "items.json").read_text())["items"]


def truth_of(folder):
    return {k: v["truth"] for k, v in json.loads((folder / "truth.json").read_text())["truth"].items()}


def graded(folder, answers, tmp_path):
    path = tmp_path / "answers.json"
    path.write_text(json.dumps(answers))
    return grade_set(folder, path)


def test_items_ask_without_telling(practice):
    items = items_of(practice)
    assert len(items) == COUNT
    assert {i["skill"] for i in items} == set(SKILLS)
    assert len(SKILLS) >= 12
    for item in items:
        assert {"id", "skill", "difficulty", "file", "ask", "answer_is"} <= set(item)
        assert "truth" not in item
        assert (practice / item["file"]).is_file()
        assert ("choices" in item) is (item["answer_is"] == "choice")
        assert len(item.get("choices", range(4))) >= 4  # a guess among fewer would score too well
    hard = [i["difficulty"] for i in items]
    assert np.mean(hard[:8]) < np.mean(hard[-8:])


def test_the_truth_is_graded_full_and_guesses_low(practice, tmp_path):
    truth = truth_of(practice)
    full = graded(practice, truth, tmp_path)
    assert all(i["score"] >= 0.99 for i in full["items"])
    assert all(s["score"] >= 0.99 for s in full["skills"].values())
    rng, scores = random.Random(4), []
    for k in range(40):
        guess = {}
        for item in items_of(practice):
            guess[item["id"]] = {
                "choice": lambda i=item, k=k: i["choices"][k % len(i["choices"])],  # each as often as the others
                "depth": lambda: rng.uniform(2, 18),
                "height": lambda: rng.uniform(0.2, 4),
                "count_s": lambda: rng.uniform(2, 40),
                "distance": lambda: rng.uniform(1, 25),
                "time_depth": lambda: [rng.uniform(0, 26), rng.uniform(1, 12)],
            }[item["answer_is"]]()
        scores.append({k: v["score"] for k, v in graded(practice, guess, tmp_path)["skills"].items()})
    for skill in SKILLS:
        assert np.mean([s[skill] for s in scores]) <= 0.3, skill


def test_half_a_score_is_one_tolerance_off(practice, tmp_path):
    item = next(i for i in items_of(practice) if i["skill"] == "height off the bottom")
    truth = truth_of(practice)[item["id"]]
    found = graded(practice, {item["id"]: truth + 0.15}, tmp_path)
    mine = next(i for i in found["items"] if i["id"] == item["id"])
    assert mine["score"] == pytest.approx(0.5)
    assert mine["off"] == pytest.approx(0.15)
    others = [i for i in found["items"] if i["id"] != item["id"]]
    assert all(i["score"] == 0.0 and not i["answered"] for i in others)


def test_the_same_seed_gives_the_same_bytes_and_another_one_others(tmp_path):
    for name, seed in (("a", 9), ("b", 9), ("c", 10)):
        write_set(tmp_path / name, 6, seed)
    a, b, c = ({p.name: p.read_bytes() for p in sorted((tmp_path / n).iterdir())} for n in "abc")
    assert a == b
    assert a["items.json"] != c["items.json"]


def test_what_is_asked_is_what_is_shown(practice):
    """The passes hold what their truth says, seen with the plainest of measures."""
    for item in items_of(practice):
        if item["skill"] != "find the fish":
            continue
        down = read_recording(practice / item["file"]).down
        levels = down.echo.read(0, len(down)).astype(float)
        time, depth = truth_of(practice)[item["id"]]
        ping = int(np.abs(down.time - down.time[0] - time).argmin())
        first, step = down.range_start_m[ping], down.range_step_m[ping]
        at = int((depth - down.mount.depth_m - first) / step)
        near = levels[ping - 2 : ping + 3, at - 4 : at + 12].max()
        assert near > np.median(levels[:, at]) + 3 * levels[:, at].std() or item["difficulty"] > 1.0


@pytest.mark.parametrize("skill", sorted(SKILLS))
def test_every_skill_goes_from_easy_to_cruel(skill):
    for difficulty in (-2.5, 0.0, 2.5):
        one = lesson(skill, difficulty, 5)
        assert one.skill == skill
        assert one.why
        assert one.answer_is == "choice" or one.tolerance
        if one.answer_is == "choice":
            assert one.truth in one.choices
    assert lesson(skill, 0.5, 6) is not None
    with pytest.raises(ValueError, match="not practised"):
        lesson("juggling", 0.0, 1)


def test_a_steeper_slope_hides_more(practice):
    assert dead_zone_on_axis(11.5, 20.0, 0.11, 25.0) > dead_zone_on_axis(11.5, 20.0, 0.11, 5.0)
    assert len(lessons(40, 1)) == 40


@pytest.mark.parametrize(
    ("harm", "says"),
    [
        (lambda d: (d / "truth.json").unlink(), "truth.json"),
        (lambda d: (d / "items.json").write_text("{"), "items.json"),
        (lambda d: (d / "items.json").write_text((d / "items.json").read_text() + " "), "not the one"),
        (lambda d: next(d.glob("item001.*")).write_bytes(b"x"), "missing, or not"),
        (lambda d: (d / "truth.json").write_text('{"version": 99}'), "newer version"),
        (lambda d: (d / "truth.json").write_text("[]"), "no object"),
    ],
)  # fmt: skip
def test_broken_sets_are_refused_in_a_line(own, tmp_path, harm, says):
    harm(own)
    with pytest.raises(FileError) as told:
        graded(own, {}, tmp_path)
    assert says in str(told.value)
    assert "\n" not in str(told.value)


def test_answers_of_the_wrong_kind_are_refused_in_a_line(practice, tmp_path):
    kinds = {i["answer_is"]: i["id"] for i in items_of(practice)}
    for answers in (
        {kinds["choice"]: 4}, {kinds["depth"]: "deep"}, {kinds["depth"]: True}, {kinds["time_depth"]: 3.0},
        {kinds["time_depth"]: [1, 2, 3]}, {"nobody": 1},
    ):  # fmt: skip
        with pytest.raises(FileError, match=r"needs|no item"):
            graded(practice, answers, tmp_path)


def test_the_command_line_makes_and_grades(tmp_path):
    run = CliRunner().invoke
    made = run(main, ["practice", "--items", "3", "--seed", "2", "--out", str(tmp_path / "set")])
    assert made.exit_code == 0
    assert "3 items" in made.output
    assert run(main, ["practice", "--items", "3", "--out", str(tmp_path / "set")]).exit_code != 0
    answers = tmp_path / "a.json"
    answers.write_text(json.dumps(truth_of(tmp_path / "set")))
    told = run(main, ["practice", "--grade", str(tmp_path / "set"), str(answers), "--json"])
    assert json.loads(told.output)["score"] == pytest.approx(1.0)
    assert "100%" in run(main, ["practice", "--grade", str(tmp_path / "set"), str(answers)]).output
    for wrong in (["--items", "0", "--out", str(tmp_path / "n")], [], ["--grade", str(tmp_path / "set")]):
        assert run(main, ["practice", *wrong]).exit_code != 0
