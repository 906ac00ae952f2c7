"""The window to practise in: from an empty program by one press, answered on the picture, kept in the log."""

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLabel, QLineEdit, QPushButton

from plumbbob.core.sonar.corrections import Act, Correction
from plumbbob.core.units import System
from plumbbob.desk.practice.ability import ProgressPicture
from plumbbob.desk.practice.cards import in_units
from plumbbob.desk.practice.model import LIVE, PlayedSet
from plumbbob.desk.practice.window import PracticeWindow
from plumbbob.desk.theme import Light
from plumbbob.services.practice_own import own_items
from plumbbob.services.practice_sets import pack_set, read_set, unpack_set
from plumbbob.sim.lessons import SKILLS, lesson
from plumbbob.store.values import PracticeAnswer
from tests.desk.conftest import press

K = Qt.Key


@pytest.fixture
def window(opened):
    """Practising needs no water and no pass."""
    return opened(None, made_up=False)


@pytest.fixture
def practice(window, qtbot):
    view = PracticeWindow(window.session, window, seed=5)
    view.show()
    qtbot.waitUntil(lambda: view.model.item is not None, timeout=20_000)
    yield view
    view.close()


def says(view, name):
    return view.findChild(QLabel, name).text()


def put(view, skill, qtbot, difficulty=-1.0, seed=3):
    """An item of a skill on screen."""
    before = view.model.item
    view.model.make(skill, difficulty, seed, "for a test")
    qtbot.waitUntil(lambda: view.model.item is not before, timeout=20_000)
    return view.model.item.lesson


def right_answer(one):
    return one.truth


def test_one_press_opens_it_from_an_empty_program(window, qtbot):
    button = window.findChild(QPushButton, "start_practice")
    assert "Practise" in button.text()
    press(window, K.Key_F10)
    view = window.practice
    assert view.isVisible()
    qtbot.waitUntil(lambda: view.model.item is not None, timeout=20_000)
    assert view.model.item.lesson.difficulty < 0  # a first item is easy
    press(window, K.Key_F10)
    assert window.practice is view
    QTest.keyClick(view, K.Key_Escape)
    assert not view.isVisible()


def test_a_click_answers_a_depth_and_the_truth_is_laid_over_it(practice, qtbot):
    one = put(practice, "bottom under weed", qtbot)
    picture = practice.findChild(type(practice.picture))
    at = picture.place_of(one.at_s, one.truth)
    QTest.mouseClick(picture, Qt.MouseButton.LeftButton, pos=at.toPoint())
    assert practice.model.score > 0.8
    assert "off" in says(practice, "practice_told")
    assert "weed" in says(practice, "practice_why")
    kept = practice.session.logbook.all(PracticeAnswer)
    assert len(kept) == 1
    assert kept[0].skill == "bottom under weed"
    assert kept[0].right


def test_a_place_is_clicked_and_a_height_dragged(practice, qtbot):
    one = put(practice, "find the fish", qtbot)
    picture = practice.picture
    QTest.mouseClick(picture, Qt.MouseButton.LeftButton, pos=picture.place_of(*one.truth).toPoint())
    assert practice.model.score > 0.8
    one = put(practice, "height off the bottom", qtbot)
    start, end = picture.place_of(one.at_s, 6.0), picture.place_of(one.at_s, 6.0 + one.truth)
    QTest.mousePress(picture, Qt.MouseButton.LeftButton, pos=start.toPoint())
    QTest.mouseMove(picture, end.toPoint())
    QTest.mouseRelease(picture, Qt.MouseButton.LeftButton, pos=end.toPoint())
    assert practice.model.score > 0.8


def test_a_shadow_is_dragged_from_echo_to_end(practice, qtbot):
    one = put(practice, "height from a shadow", qtbot)
    picture = practice.picture
    high = 8.0 - practice.model.item.recording.side.mount.depth_m
    echo = 12.0
    end = echo * high / (high - one.truth)
    height = picture.height_of(picture.place_of(echo, 5.0), picture.place_of(end, 5.0))
    assert height == pytest.approx(one.truth, abs=0.05)
    across, seconds = picture.value_at(picture.place_of(-9.0, 4.0))
    assert (across, seconds) == (pytest.approx(-9.0), pytest.approx(4.0))


def test_numbers_choose_and_enter_goes_on(practice, qtbot):
    one = put(practice, "what it is", qtbot)
    QTest.keyClick(practice, K.Key_1 + one.choices.index(one.truth))
    assert practice.model.score == 1.0
    assert says(practice, "practice_told").startswith("Right")
    before = practice.model.item
    qtbot.waitUntil(lambda: practice.model.ready is not None, timeout=20_000)
    QTest.keyClick(practice, K.Key_Return)
    assert practice.model.item is not before
    assert practice.model.item.lesson.skill != before.lesson.skill
    QTest.keyClick(practice, K.Key_Return)  # an open item is not skipped
    assert practice.model.score is None


def test_the_same_scene_made_easier_does_not_count(practice, qtbot):
    one = put(practice, "what it is", qtbot, difficulty=1.0)
    QTest.mouseClick(practice.findChild(QPushButton, "practice_choice_1"), Qt.MouseButton.LeftButton)
    count = len(practice.session.logbook.all(PracticeAnswer))
    QTest.keyClick(practice, K.Key_C)
    qtbot.waitUntil(lambda: practice.model.again and practice.model.score is None, timeout=20_000)
    easier = practice.model.item.lesson
    assert easier.truth == one.truth
    assert easier.difficulty < one.difficulty
    practice.model.give(easier.truth)
    assert len(practice.session.logbook.all(PracticeAnswer)) == count
    assert "Not counted" in says(practice, "practice_told")


def test_typed_numbers_follow_the_units(practice, qtbot):
    practice.session.display.set_system(System.US)
    one = put(practice, "true distance", qtbot)
    field = practice.findChild(QLineEdit, "practice_typed")
    assert field.isVisible()
    QTest.keyClicks(field, "far")
    QTest.keyClick(field, K.Key_Return)
    assert "not a number" in says(practice, "practice_told")
    field.clear()
    QTest.keyClicks(field, f"{one.truth / 0.3048:.1f}")
    QTest.keyClick(field, K.Key_Return)
    assert practice.model.score > 0.95
    assert "metres" not in says(practice, "practice_ask")


@pytest.mark.parametrize("part", range(4))
def test_every_skill_is_shown_by_day_and_dusk(practice, qtbot, part):
    for skill in sorted(SKILLS)[part::4]:
        one = put(practice, skill, qtbot)
        for light in (Light.DAY, Light.DUSK):
            practice.session.display.set_light(light)
            image = practice.grab().toImage()
            assert len({image.pixel(x, y) for x in range(60, 700, 9) for y in range(90, 600, 9)}) > 6, skill
        practice.model.give(right_answer(one))
        assert practice.model.score >= 0.99, skill
        assert not practice.grab().isNull()


def test_what_comes_next_is_every_skill_once_then_what_is_weak(practice):
    model = practice.model
    model.item = None
    seen = []
    for name in SKILLS:
        skill, hard, _ = model.choose()
        seen.append(skill)
        assert hard < 0
        one = lesson(name, hard, 1)
        model.item = None
        model.keep(type("S", (), {"lesson": one, "seed": 1})(), 1.0 if name != "who follows" else 0.0)
    assert seen[0] == next(iter(SKILLS))
    skill, hard, why = model.choose()
    assert skill == "who follows"
    assert why
    assert model.abilities()["who follows"].mean < model.abilities()["what it is"].mean


# -- the reader, settings, sets, the live fish -------------------------------------------------------------------


def test_the_programs_reader_takes_the_same_item(practice, qtbot):
    one = put(practice, "find the fish", qtbot)
    assert says(practice, "practice_reader") == ""
    practice.model.give(list(one.truth))
    qtbot.waitUntil(lambda: practice.model.reader is not None, timeout=20_000)
    assert "The program's reader:" in says(practice, "practice_reader")
    practice.model.reader = ([one.truth[0], one.truth[1] + 4.0], 0.0)
    practice.model.changed.emit()
    assert "You read it better." in says(practice, "practice_reader")
    practice.model.reader = (None, 0.0)
    practice.model.changed.emit()
    assert "no answer" in says(practice, "practice_reader")


@pytest.mark.parametrize(("name", "skill"), [("range", "height off the bottom"), ("speed", "find the fish")])
def test_the_sounder_is_in_the_learners_hand(practice, qtbot, name, skill):
    one = put(practice, skill, qtbot)
    shown = practice.model.item
    practice.findChild(QPushButton, f"practice_{name}_more").click()
    qtbot.waitUntil(lambda: practice.model.item is not shown, timeout=20_000)
    assert says(practice, f"practice_{name}").startswith("×")
    assert practice.model.score is None
    again = practice.model.item.lesson
    if name == "speed":
        assert again.truth[0] == pytest.approx(one.truth[0] / 2)
    practice.model.give(again.truth)
    assert practice.model.score == 1.0


def test_gain_only_changes_the_picture(practice, qtbot):
    put(practice, "find the fish", qtbot)
    item, before = practice.model.item, practice.picture.grab().toImage()
    practice.findChild(QPushButton, "practice_gain_more").click()
    assert practice.picture.grab().toImage() != before
    assert practice.model.item is item
    practice.findChild(QPushButton, "practice_gain_less").click()
    assert practice.picture.grab().toImage() == before
    put(practice, "who follows", qtbot)
    assert not practice.findChild(QPushButton, "practice_speed_more").isEnabled()  # the boat lies still


def test_a_live_fish_is_played_by_key_and_kept(practice, qtbot):
    QTest.keyClick(practice, K.Key_L)
    live = practice.live
    assert live.runs
    live.timer.stop()  # the test's own clock
    QTest.keyPress(live, K.Key_Up)
    live.advance(0.1)
    assert live.hand > 0
    QTest.keyRelease(live, K.Key_Up)
    assert live.hand == 0.0
    QTest.mousePress(live, Qt.MouseButton.LeftButton, pos=live.rect().center() + QPoint(0, 140))
    assert live.hand < 0
    QTest.mouseRelease(live, Qt.MouseButton.LeftButton)
    while live.chase.time_s < 24.9:
        live.hand = 0.35 if live.chase.gap_m < 0.5 else 0.0
        live.advance(0.05)
    assert not live.grab().isNull()
    live.advance(0.2)
    (kept,) = practice.session.logbook.all(PracticeAnswer)
    assert (kept.skill, kept.right) == (LIVE[0], True)
    assert "%" in says(practice, "practice_told")
    assert LIVE[0] in practice.model.abilities()
    QTest.keyClick(practice, K.Key_Return)
    assert live.runs
    QTest.keyClick(practice, K.Key_Escape)
    assert practice.isVisible()
    assert not live.runs
    assert practice.model.item is not None


def test_schools_are_played_by_key_from_one_game_to_the_other_and_kept(practice, qtbot):
    QTest.keyClick(practice, K.Key_L)
    QTest.keyClick(practice, K.Key_K)
    live = practice.school
    assert live.runs
    assert not practice.live.runs
    live.timer.stop()  # the test's own clock
    QTest.keyPress(live, K.Key_Down, Qt.KeyboardModifier.ShiftModifier)
    before = live.passing.jig_m
    live.advance(0.5)
    assert live.passing.jig_m - before == pytest.approx(0.5 * live.passing.fall_mps)
    QTest.keyRelease(live, K.Key_Down)
    while live.passing.time_s < 44.9:
        coming = [s for s in live.passing.schools if s.front_at(live.passing.time_s) + s.length_m > 0]
        off = coming[0].depth_m - live.passing.jig_m if coming else 0.0
        live.hand = -1.0 if off > 0.1 else 1.0 if off < -0.1 else 0.0
        live.advance(0.1)
    assert not live.grab().isNull()
    live.advance(0.2)
    (kept,) = practice.session.logbook.all(PracticeAnswer)
    assert kept.skill == LIVE[1]
    assert kept.score > 0.5
    assert "among fish" in says(practice, "practice_told")
    assert "K to go back" in says(practice, "practice_why")
    QTest.keyClick(practice, K.Key_K)
    assert practice.model.item is not None
    assert "K to go back" not in says(practice, "practice_why")


def test_a_game_ends_with_its_window_and_is_not_scored(practice):
    QTest.keyClick(practice, K.Key_K)
    practice.close()
    assert not practice.school.runs
    assert not practice.session.logbook.all(PracticeAnswer)
    practice.show()
    assert practice.model.skill not in LIVE
    assert not practice.model.live_skill


def test_a_letter_of_a_chart_is_clicked_and_the_truth_is_ringed(practice, qtbot):
    one = put(practice, "best stretch of a ledge", qtbot)
    assert "Click its letter" in says(practice, "practice_how")
    picture = practice.picture
    places = {letter: picture.letter_place((letter, x, y)) for letter, x, y in picture.letters}
    QTest.mouseClick(picture, Qt.MouseButton.LeftButton, pos=QPoint(3, 3))
    assert practice.model.score is None  # far from every letter
    wrong = next(letter for letter in places if letter != one.truth)
    before = picture.grab().toImage()
    QTest.mouseClick(picture, Qt.MouseButton.LeftButton, pos=places[wrong].toPoint())
    assert practice.model.answer == wrong
    assert practice.model.score == 0.0
    after = picture.grab().toImage()
    changed = [
        letter
        for letter, at in places.items()
        if any(
            before.pixel(at.toPoint() + QPoint(dx, 0)) != after.pixel(at.toPoint() + QPoint(dx, 0))
            for dx in range(-26, -12)
        )
    ]
    assert sorted(changed) == sorted([wrong, one.truth])


@pytest.mark.parametrize("light", [Light.DAY, Light.NIGHT])
def test_cards_and_charts_take_the_colours_of_the_screen(practice, qtbot, light):
    practice.session.display.set_light(light)
    theme = practice.session.display.theme
    for skill in ("what to scan first", "what a lure does in a turn"):
        put(practice, skill, qtbot)
        assert practice.picture.drawn.pixelColor(1, 1).name().upper() == theme.ground.upper()
    one = put(practice, "keep or release from this depth", qtbot)
    before = practice.picture.grab().toImage()
    practice.model.give(one.truth)
    assert practice.picture.grab().toImage() != before  # how its gas grew is drawn


@pytest.mark.parametrize(
    ("text", "us", "metric"),
    [
        ("a ball of 4.5 kg at 8 m", "a ball of 9.9 lb at 26.2 ft", "a ball of 4.5 kg at 8.0 m"),
        ("a 7 g jig with a 10 cm tail", "a 1/4 oz jig with a 3.9 in tail", "a 7.0 g jig with a 10 cm tail"),
        ("towed at 1.2 m/s in 16 °C", "towed at 2.7 mph in 60.8 °F", "towed at 4.3 km/h in 16.0 °C"),
        ("of ten metres, 5 min, 30 m", "of ten metres, 5 min, 98.4 ft", "of ten metres, 5 min, 30.0 m"),
    ],
)
def test_sentences_are_in_the_units_of_the_screen(practice, text, us, metric):
    display = practice.session.display
    display.set_system(System.US)
    assert in_units(text, display) == us
    display.set_system(System.METRIC)
    assert in_units(text, display) == metric


def test_a_drop_is_dragged_over_its_shadow(practice, qtbot):
    one = put(practice, "edge of a drop", qtbot)
    assert "lip" in says(practice, "practice_how")
    (near, at_s), (far, _) = one.shows
    start, end = (practice.picture.place_of(value, at_s) for value in (near, far))
    assert practice.picture.height_of(start, end) == pytest.approx(one.truth, rel=0.02)
    QTest.mousePress(practice.picture, Qt.MouseButton.LeftButton, pos=start.toPoint())
    QTest.mouseMove(practice.picture, end.toPoint())
    QTest.mouseRelease(practice.picture, Qt.MouseButton.LeftButton, pos=end.toPoint())
    assert practice.model.score > 0.8


def test_long_choices_stand_in_two_rows_and_the_window_keeps_its_width(practice, qtbot):
    wide = practice.width()
    put(practice, "keep or release from this depth", qtbot)
    buttons = [practice.findChild(QPushButton, f"practice_choice_{k}") for k in (1, 2, 3, 4)]
    assert len({b.y() for b in buttons}) == 2
    assert practice.width() == wide
    put(practice, "inside turns", qtbot)
    assert len({b.y() for b in buttons}) == 1
    practice.session.display.set_text_size(20)
    put(practice, "keep or release from this depth", qtbot)
    qtbot.waitUntil(lambda: len({b.y() for b in buttons}) == 4)
    assert practice.width() == wide
    practice.model.give("stop fishing for it")
    assert not any(b.isVisible() for b in buttons)  # the truth takes their room


def test_a_set_is_made_played_through_and_compared(practice, qtbot, tmp_path):
    path = tmp_path / "evening.zip"
    pack_set(path, 3, 5)
    practice.files.who = "Wren"
    practice.files.play_from(path)
    qtbot.waitUntil(lambda: practice.model.playing is not None, timeout=20_000)
    assert "of 3 of the set" in says(practice, "practice_how").lower()
    assert not practice.picture.grab().isNull()
    for _ in range(3):
        practice.model.give(practice.model.item.lesson.truth)
        QTest.keyClick(practice, K.Key_Return)
    assert says(practice, "practice_told") == "Wren   100%"
    assert (tmp_path / "evening answers Wren.json").is_file()
    QTest.keyClick(practice, K.Key_Return)
    qtbot.waitUntil(lambda: practice.model.item is not None, timeout=20_000)
    assert practice.model.playing is None


def test_an_item_still_in_the_making_does_not_come_between_those_of_a_set(practice, qtbot, tmp_path):
    path = tmp_path / "evening.zip"
    pack_set(path, 2, 5)
    items = read_set(unpack_set(path, tmp_path / "set"))
    practice.model.make("find the fish", 0.0, 9, "for a test")
    practice.model.play(PlayedSet(path, tmp_path / "set", items))
    first = practice.model.item
    qtbot.waitUntil(lambda: practice.model.ready is not None, timeout=20_000)
    assert practice.model.item is first
    practice.model.leave_set()
    assert practice.model.item.lesson.skill == "find the fish"


def test_what_is_no_set_is_one_line(practice, qtbot, tmp_path, window):
    (tmp_path / "x.zip").write_bytes(b"nothing")
    practice.files.play_from(tmp_path / "x.zip")
    qtbot.waitUntil(lambda: "is no set to practise on" in window.notice.text, timeout=20_000)
    assert practice.model.playing is None


def test_sets_and_cases_are_written_in_the_background(practice, qtbot, tmp_path, window):
    practice.files.pack_to(tmp_path / "new.zip", 7)
    qtbot.waitUntil(lambda: "20 items in new.zip" in window.notice.text, timeout=100_000)
    practice.files.write_cases_to(tmp_path / "cases.zip")
    qtbot.waitUntil(lambda: "misread none" in window.notice.text, timeout=20_000)
    practice.session.logbook.write(
        [
            PracticeAnswer(time=1.0, skill="bait or layer", difficulty=-1.5, right=True, score=1.0, seed=seed)
            for seed in range(1, 6)
        ]
    )
    practice.files.write_cases_to(tmp_path / "cases.zip")
    qtbot.waitUntil(lambda: "cases.zip" in window.notice.text or "Of 5 items" in window.notice.text, timeout=60_000)
    assert (tmp_path / "cases.zip").is_file() == ("written to" in window.notice.text)


def test_the_way_over_the_weeks_is_drawn_from_the_second_on(practice):
    picture = practice.findChild(ProgressPicture)
    bare = picture.grab().toImage()
    answers = [
        PracticeAnswer(
            time=1e9 + 7 * 86400.0 * k, skill="find the fish", difficulty=0.0, right=k > 2, score=0.7, seed=k + 1
        )
        for k in range(6)
    ]
    practice.session.logbook.write(answers)
    practice.model.changed.emit()
    assert picture.grab().toImage() != bare


def test_ones_own_corrected_pass_becomes_items(opened, pass_file, qtbot):
    window = opened(pass_file)
    practice = PracticeWindow(window.session, window, seed=5)
    practice.show()
    qtbot.waitUntil(lambda: practice.model.item is not None, timeout=20_000)
    QTest.mouseClick(practice.findChild(QPushButton, "practice_own"), Qt.MouseButton.LeftButton)
    assert "drawn or named by hand" in window.notice.text
    scan = window.session.scan
    fish = scan.reading.fish[2]
    said = [
        Correction(act=Act.RELABEL, what="fish", time=fish.time, depth_m=fish.depth_m, label="timber"),
        Correction(act=Act.DRAW, what="fish", time=fish.time + 6.0, depth_m=4.0),
        Correction(act=Act.REJECT, what="fish", time=fish.time + 9.0, depth_m=4.0),
        Correction(act=Act.BOTTOM, what="bottom", time=fish.time, depth_m=4.0),
        Correction(act=Act.DRAW, what="fish", time=fish.time + 1e6, depth_m=4.0),
    ]
    items = own_items(scan.recording, said)
    assert [i.item.truth for i in items] == ["timber", "fish"]
    assert items[0].recording.down.time[0] <= fish.time <= items[0].recording.down.time[-1]
    scan.document.set_corrections(tuple(said))
    practice.files.play_own()
    assert "your own pass" in says(practice, "practice_ask")
    assert not practice.picture.grab().isNull()
    practice.findChild(QPushButton, "practice_choice_2").click()  # timber
    QTest.keyClick(practice, K.Key_Return)
    practice.model.give("weed")
    QTest.keyClick(practice, K.Key_Return)
    assert "50%" in says(practice, "practice_told")
