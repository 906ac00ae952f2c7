"""Practice beyond a single item: what is remembered, the reader's own answers, settings, sets, progress."""

import json
import zipfile
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plumbbob.core.plan.skill import Answer, abilities, next_item, progress
from plumbbob.files.errors import FileError
from plumbbob.formats.recording import read_recording
from plumbbob.services.practice_memory import recalled
from plumbbob.services.practice_reader import find_cases, is_case, reader_answer, reader_score, write_cases
from plumbbob.services.practice_sets import compared, keep_answers, pack_set, read_set, unpack_set
from plumbbob.sim.down import simulate
from plumbbob.sim.lesson_settings import HeardWith, heard, is_driven
from plumbbob.sim.lessons import SKILLS, lesson

DAY = 86400.0


def made(skill, difficulty=-1.0, seed=3):
    one = lesson(skill, difficulty, seed)
    return one, simulate(one.scene, seed)[0]


# -- what is remembered ------------------------------------------------------------------------------------------


def test_what_was_not_practised_for_long_is_less_at_hand():
    answers = [Answer("a", 0.0, True, k * DAY) for k in range(4)]
    soon, late = (recalled(answers, t * DAY)["a"] for t in (4, 60))
    assert 0.0 <= late < soon <= 1.0
    often = [Answer("a", 0.0, True, k * 6 * DAY) for k in range(8)]
    assert recalled(often, often[-1].at + 20 * DAY)["a"] > recalled(answers, answers[-1].at + 20 * DAY)["a"]


def test_a_clock_that_went_back_breaks_nothing():
    answers = [Answer("a", 0.0, True, t) for t in (10 * DAY, 2 * DAY, 5 * DAY)]
    assert 0.0 <= recalled(answers, 1 * DAY)["a"] <= 1.0
    assert recalled([], 5.0) == {}


def test_what_is_forgotten_comes_next():
    now = 100 * DAY
    answers = [Answer(s, 0.0, k % 2 == 0, now - 5 * DAY) for s in "ab" for k in range(6)]
    able = abilities(answers)
    assert next_item(answers, able, now, {"a": 0.95, "b": 0.3})[0] == "b"
    assert next_item(answers, able, now, {"a": 0.2, "b": 0.95})[0] == "a"


@given(st.lists(st.tuples(st.floats(-2, 2), st.booleans(), st.floats(0, 80)), min_size=1, max_size=40))
def test_progress_knows_only_what_was_known_by_then(rows):
    answers = [Answer("a", hard, right, day * DAY) for hard, right, day in rows]
    weeks = progress(answers)
    assert sum(w.answers for w in weeks) == len(answers)
    assert all(w.ability.low < w.ability.mean < w.ability.high for w in weeks)
    half = [a for a in answers if a.at < weeks[0].start + 7 * DAY]
    assert progress(half)[0].ability == weeks[0].ability


def test_progress_rises_with_a_learner_and_widens_in_a_pause():
    rng = np.random.default_rng(3)
    answers = [
        Answer("a", 0.0, bool(rng.random() < 0.25 + 0.06 * k), 7 * DAY * k + 900.0 * i)
        for k in range(10)
        for i in range(12)
    ]
    weeks = progress(answers)
    assert weeks[-1].ability.mean > weeks[0].ability.mean + 1.0
    paused = progress([*answers, Answer("a", 0.0, True, 7 * DAY * 30)])
    wide = [w.ability.high - w.ability.low for w in paused]
    assert wide[25] > wide[9]


# -- the reader --------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    "skill",
    ["bottom under weed", "find the fish", "one or many", "who follows", "left or right", "where a track goes"],
)
def test_the_reader_takes_the_same_items(skill):
    one, recording = made(skill)
    assert reader_score(one, reader_answer(one, recording)) > 0.7


def test_what_the_reader_was_never_taught_it_leaves():
    one, recording = made("hard or soft")
    assert reader_answer(one, recording) is None
    assert reader_score(one, None) == 0.0
    assert reader_score(replace(one, answer_is="depth", truth=3.0, tolerance=(0.2,)), "deep") == 0.0


def test_cases_are_what_a_person_read_better(tmp_path):
    assert is_case(0.9, 0.2)
    assert not is_case(0.4, 0.2)
    assert not is_case(0.9, 0.8)
    answers = [("bait or layer", -1.5, seed, 1.0) for seed in range(12)]
    answers += [("find the fish", -1.0, 3, 1.0), ("bait or layer", -1.5, 1, 0.0), ("count it down", 0.0, 1, 1.0)]
    cases = find_cases(answers)
    assert all(c.reader_score < 0.5 <= c.score for c in cases)
    assert all(c.item.skill == "bait or layer" for c in cases)
    if cases:
        write_cases(tmp_path / "cases.zip", cases)
        with zipfile.ZipFile(tmp_path / "cases.zip") as archive:
            told = json.loads(archive.read("cases.json"))["cases"]
            archive.extract(told[0]["file"], tmp_path)
        assert len(told) == len(cases)
        assert read_recording(tmp_path / told[0]["file"]).down is not None


# -- settings ----------------------------------------------------------------------------------------------------


def test_settings_have_notches_and_ends():
    usual = HeardWith()
    assert usual.step("range", 1).range > 1.0
    assert usual.step("pulse", -9) == usual.step("pulse", -1).step("pulse", -1)
    assert usual.step("speed", 1).step("speed", -1) == usual


def test_a_faster_boat_meets_the_same_fish_sooner():
    one, _ = made("find the fish")
    fast = heard(one, HeardWith(speed=2.0))
    assert fast.truth == [one.truth[0] / 2, one.truth[1]]
    slow = heard(one, HeardWith(speed=0.5))
    for other in (fast, slow):
        down = simulate(other.scene, 3)[0].down
        levels = down.echo.read(0, len(down))
        k = int(np.abs(down.time - down.time[0] - other.truth[0]).argmin())
        deep = down.range_start_m[k] + down.range_step_m[k] * np.arange(down.samples) + down.mount.depth_m
        j = int(np.abs(deep - other.truth[1]).argmin())
        assert levels[k - 1 : k + 2, j - 2 : j + 3].max() > levels[:, j - 2 : j + 3].mean() + 15
    asked = heard(lesson("bottom under weed", 0.0, 4), HeardWith(speed=2.0))
    assert f"{asked.at_s:.0f} s" in asked.ask
    assert not is_driven(lesson("who follows", 0.0, 1))
    assert not is_driven(lesson("count it down", 0.0, 1))


def test_range_and_pulse_change_the_picture_and_not_the_truth():
    one, recording = made("height off the bottom")
    for settings in (HeardWith(range=0.8), HeardWith(pulse=4.0)):
        other = heard(one, settings)
        assert other.truth == one.truth
        heard_as = simulate(other.scene, 3)[0]
        assert heard_as.down.samples == round(recording.down.samples * settings.range)
        assert heard_as.down.pulse_length_s == pytest.approx(recording.down.pulse_length_s * settings.pulse)
    assert heard(lesson("count it down", 0.0, 1), HeardWith(range=2.0)).scene is None


# -- sets --------------------------------------------------------------------------------------------------------


@pytest.fixture(scope="module")
def packed(tmp_path_factory):
    path = tmp_path_factory.mktemp("evening") / "evening.zip"
    pack_set(path, 6, 11)
    return path


def test_two_people_get_the_very_same(packed, tmp_path):
    pack_set(tmp_path / "again.zip", 6, 11)
    assert (tmp_path / "again.zip").read_bytes() == packed.read_bytes()


def test_a_set_is_played_kept_and_compared(packed, tmp_path):
    folder = unpack_set(packed, tmp_path / "set")
    items = read_set(folder)
    assert len(items) == 6
    assert {i.item.skill for i in items} <= set(SKILLS)
    assert all((i.recording is None) != (i.card is None) for i in items)
    keep_answers(packed, "Ana/..", {i.name: i.item.truth for i in items})
    keep_answers(packed, "Bo", {items[0].name: items[0].item.truth})
    (packed.parent / f"{packed.stem} answers broken.json").write_text("[]", encoding="utf-8")
    rows = compared(packed, folder)
    assert [(who, answered) for who, _, answered in rows] == [("Ana", 6), ("Bo", 1)]
    assert rows[0][1] == pytest.approx(1.0)


def test_places_of_echoes_that_are_none_are_refused_in_a_line(packed, tmp_path):
    folder = unpack_set(packed, tmp_path / "set")
    assert all(len(spot) == 2 for one in read_set(folder) for spot in one.item.shows)
    truth = json.loads((folder / "truth.json").read_text(encoding="utf-8"))
    next(iter(truth["truth"].values()))["shows"] = [5]
    (folder / "truth.json").write_text(json.dumps(truth), encoding="utf-8")
    with pytest.raises(FileError, match="is broken"):
        read_set(folder)


def test_what_is_no_set_or_was_tampered_with_is_refused(packed, tmp_path):
    (tmp_path / "no.zip").write_bytes(b"PK nothing")
    with pytest.raises(FileError):
        unpack_set(tmp_path / "no.zip", tmp_path / "a")
    with zipfile.ZipFile(tmp_path / "other.zip", "w") as archive:
        archive.writestr("x.txt", "x")
    with pytest.raises(FileError, match="no set"):
        unpack_set(tmp_path / "other.zip", tmp_path / "b")
    folder = unpack_set(packed, tmp_path / "c")
    items = json.loads((folder / "items.json").read_text(encoding="utf-8"))
    items["items"][0]["ask"] = "Something else?"
    (folder / "items.json").write_text(json.dumps(items), encoding="utf-8")
    with pytest.raises(FileError, match="not the one"):
        read_set(folder)
