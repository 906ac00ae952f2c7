"""What the rods say, without a window: amounts, notes, turns, shoals, clocks, in every system of units."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest
from PySide6.QtCore import QSettings

from plumbbob.core.rig import tackle
from plumbbob.core.rig.calibrate import Judged, RigNote, Told, calibrate
from plumbbob.core.rig.lane import Stretch, Trouble
from plumbbob.core.rig.methods import solve
from plumbbob.core.rig.motion import LineRun, Run
from plumbbob.core.rig.rod import Method, RigAnswer, RigSettings, default_setup
from plumbbob.core.units import System
from plumbbob.desk.models import rod_solver
from plumbbob.desk.models.kept_rods import RodSetup
from plumbbob.desk.models.notes import note_of, saved_note
from plumbbob.desk.models.rig_facts import facts_of
from plumbbob.desk.models.rods_model import RodsModel
from plumbbob.desk.models.session import Session
from plumbbob.desk.tasks.load_recording import _rig_the_wren
from plumbbob.desk.views.registry import give_views
from plumbbob.desk.views.rig.words import (
    amount_words,
    apart_words,
    bait_words,
    clock_words,
    countdown_words,
    more_words,
    motion_words,
    moved_words,
    note_words,
    stretch_words,
)
from plumbbob.store.opening import open_log


@pytest.fixture
def session(qapp, tmp_path):
    made = Session(QSettings(str(tmp_path / "s.ini"), QSettings.Format.IniFormat))
    give_views(made)
    made.logbook.attach(open_log(tmp_path / "log.db").log)
    yield made
    made.logbook.close()


@pytest.fixture
def display(session):
    session.display.set_system(System.METRIC)
    return session.display


def answered(method, depth=4.0, **changes) -> RigAnswer:
    answer = solve(replace(default_setup(RigSettings(), method), **changes), depth)
    assert isinstance(answer, RigAnswer)
    return answer


@pytest.mark.parametrize(
    ("method", "words"),
    [
        (Method.DOWNRIGGER, "m wire out"),
        (Method.FLAT_LINE, "m line out"),
        (Method.BOARD, "m line behind the board"),
        (Method.CAST, "count "),
        (Method.RETRIEVE, "cast "),
    ],
)
def test_amounts_are_said_in_the_words_of_the_way(display, method, words):
    answer = answered(method, 2.5)
    assert words in amount_words(display, answer)
    display.set_system(System.US)
    assert (" ft" in amount_words(display, answer)) == (method is not Method.CAST)


@pytest.mark.parametrize(
    ("method", "words"),
    [
        (Method.DOWNRIGGER, ("behind", "blown back", "below its ball")),
        (Method.WEIGHTED_LINE, ("off the vertical", "colours")),
        (Method.CLIP, ("below its weight",)),
        (Method.BOARD, ("board aside",)),
        (Method.DROPPERS, ("hooks ",)),
        (Method.CAST, ("free line from the splash", "reel to hold")),
        (Method.PUMP, ("pause after a pump", "rise ")),
        (Method.RETRIEVE, ("deepest after reeling", "reel at")),
        (Method.ICE, ("never go below them",)),
    ],
)
def test_how_it_hangs_is_told_for_every_way(display, method, words):
    said = more_words(display, answered(method, 2.5))
    assert all(word in said for word in words), said


def test_a_disc_set_aside_tells_its_side(display):
    assert "to port" in more_words(display, answered(Method.DIVER, setting=-2))
    assert "to starboard" in more_words(display, answered(Method.DIVER, setting=2))


@pytest.mark.parametrize(
    ("says", "off", "words"),
    [
        (6.0, False, "as the catalogue has it"),
        (6.9, False, "15 % deeper"),
        (5.1, False, "15 % shallower"),
        (6, True, "otherwise"),
    ],
)
def test_a_note_tells_what_it_did(display, says, off, words):
    note = RigNote(rod=default_setup(RigSettings(), Method.FLAT_LINE), told=Told.TOUCHED, depth_m=6.0, value=31.0)
    said = note_words(display, Judged(note=note, said_before_m=6.0, says_m=says, off_sd=0.0, contradicts=off))
    assert words in said
    assert "ticked bottom at 6.0 m with 31.0 m out" in said


def test_how_coefficients_moved_is_told_for_the_rod_in_hand_only(session):
    plug = default_setup(RigSettings(speed_mps=1.1), Method.FLAT_LINE)
    session.rig.set_notes((RigNote(rod=plug, depth_m=6.1, value=30.0),))
    assert all(tackle.PLUG.name not in line for line in moved_words(session))
    session.rig.set(method=Method.FLAT_LINE)
    lines = moved_words(session)
    assert any(line.startswith("lip's pull of lipped plug") and "was ±20 %" in line for line in lines)


def a_run(depths, room=math.nan, nearest=math.inf) -> Run:
    n = len(depths)
    line = LineRun(
        depth_m=np.array(depths),
        x=np.zeros(n),
        y=np.zeros(n),
        speed_mps=np.ones(n),
        tension_n=np.ones(n),
        room_m=np.full(n, room),
        shape=np.zeros((n, 3, 3)),
        lure_node=2,
    )
    time = 10.0 * np.arange(n)
    return Run(time=time, boat_x=time, boat_y=time, lines=(line,), nearest_m=np.full(n, nearest))


@pytest.mark.parametrize(
    ("depths", "room", "words"),
    [
        ([5.0, 5.05, 5.0], math.nan, "2 keeps 5.0 m"),
        ([5.0, 5.5, 6.5], math.nan, "2 sinks 1.5 m in 20 s"),
        ([5.0, 4.0, 5.0], math.nan, "2 rises 1.0 m"),
        ([5.0, 7.0, 7.0], 0.0, "on the bottom after 0 s"),
    ],
)
def test_a_turn_is_told_lure_by_lure(display, depths, room, words):
    run = a_run(depths, room)
    assert words in motion_words(display, 2, run.lines[0], run)


def test_lines_that_may_cross_are_told(display):
    assert apart_words(display, a_run([5.0, 5.0])) == ""
    assert "keep 6 m apart" in apart_words(display, a_run([5.0, 5.0], nearest=6.0))
    assert "turn wider" in apart_words(display, a_run([5.0, 5.0], nearest=0.4))


def a_stretch(**changes) -> Stretch:
    usual_one = {
        "trouble": Trouble.DRAGS,
        "from_m": 100.0,
        "to_m": 140.0,
        "room_m": -0.5,
        "chance": 0.9,
        "change_m": -8.0,
        "begin_boat_m": 100.0,
        "back_boat_m": 170.0,
    }
    return Stretch(**{**usual_one, **changes})


def test_what_to_do_about_a_shoal(display):
    assert stretch_words(display, 2, a_stretch()) == (
        "2 drags from 100 to 140 m: take in 8.0 m as the boat comes over it, back out 30 m past it."
    )
    assert "comes close" in stretch_words(display, 2, a_stretch(trouble=Trouble.CLOSE, room_m=0.4))
    assert "lift it out or go round" in stretch_words(display, 2, a_stretch(change_m=None))
    high = a_stretch(trouble=Trouble.HIGH, room_m=7.0, change_m=9.0)
    assert stretch_words(display, 2, high).endswith("let 9.0 m out.")


def test_when_the_lure_is_there(display):
    assert countdown_words(display, 2, a_stretch(), 60.0, 30.0, 1.0) == "lure 2 there in 1 min 10 s: 0.5 m too deep"
    assert "under lure 2 now" in countdown_words(display, 2, a_stretch(room_m=0.4), 150.0, 30.0, 1.0)
    assert "shoal ahead" in countdown_words(display, 2, a_stretch(), 60.0, 30.0, 0.0)
    assert [clock_words(s) for s in (0.4, 59.0, 61.0)] == ["0 s", "59 s", "1 min 1 s"]


def test_old_bait_is_told(session):
    assert bait_words(session) == ""
    session.rig.set(method=Method.WALKER)
    assert "fresh 0 min ago" in bait_words(session)


def test_the_days_facts_are_those_of_the_session(session):
    facts = facts_of(session)
    assert facts.secchi_m == session.conditions.secchi_m
    assert math.isnan(facts.bottom_m)
    assert facts.bait == ()


def test_the_demo_stands_with_five_rods_of_which_two_are_calibrated(session, qtbot):
    _rig_the_wren(session)
    rig = session.rig
    qtbot.waitUntil(lambda: bool(rig.calibration.judged))
    ways = [Method.DOWNRIGGER, Method.WEIGHTED_LINE, Method.CLIP, Method.BOARD, Method.CAST]
    assert [s.rod.method for s in rig.sets] == ways
    assert all(isinstance(a, RigAnswer) for a in rig.answers)
    told = {j.note.rod.method for j in rig.calibration.judged}
    assert told == {Method.DOWNRIGGER, Method.WEIGHTED_LINE}
    assert not rig.calibration.contradictions
    core = rig.sets[1]
    tuned, plain = rig.answers[1], solve(core.rod, core.bob_m)
    assert tuned.depth_sd_m < plain.depth_sd_m
    assert tuned.value < plain.value
    assert not RodsModel(session.settings).is_new
    assert not session.history.can_undo


def test_notes_live_in_the_log_with_the_rod_as_it_was(session, qtbot):
    rod = replace(
        default_setup(RigSettings(), Method.WEIGHTED_LINE), lure=replace(tackle.FLUTTER, name="one that was sold")
    )
    saved = session.logbook.add_note(
        saved_note(RigNote(rod=rod, depth_m=7.0, value=40.0, time=12.0, words="by the lip"))
    )
    assert note_of(saved).rod == rod
    qtbot.waitUntil(lambda: [j.note.words for j in session.rig.calibration.judged] == ["by the lip"])
    session.logbook.remove_note(saved.id)
    assert session.rig.calibration.judged == ()
    session.history.undo()
    assert session.logbook.notes == (saved,)
    with pytest.raises(ValueError, match="method"):
        note_of(replace(saved, rod='{"method": "kite"}'))
    with pytest.raises(ValueError, match="felt"):
        note_of(replace(saved, told="felt"))
    assert calibrate([note_of(saved)]).knowledge.keys


def test_eight_rods_are_solved_one_between_two_frames_once_the_hand_rests(session, qtbot, monkeypatch):
    rig = session.rig
    rods = [RodSetup(default_setup(RigSettings(), m), 4.0 + k) for k, m in enumerate(list(Method)[:8])]
    rig.set_all(tuple(rods), 0)
    told, solved = [], []
    real = rod_solver.solve
    monkeypatch.setattr(rod_solver, "solve", lambda *a, **k: solved.append(k) or real(*a, **k))
    rig.set_all(tuple(rods[:7]), 0)
    rig.set_all(tuple(rods), 0)
    assert solved == []  # what was solved lately is not solved again
    rig.changed.connect(lambda: told.append(len(solved)))
    rig.set(speed_mps=1.1)
    at_once = [k for k in solved if not k]
    assert len(at_once) == 1  # with its spread: the rod in hand
    qtbot.waitUntil(lambda: len(told) == 2)
    alone = RodsModel()
    for index, one in enumerate(rig.sets):
        alone.set_all((one,), 0)
        assert rig.answers[index] == alone.answer
