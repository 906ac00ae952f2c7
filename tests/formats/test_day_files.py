"""Files of a day: the card's plan, hours of wind, the day as it was kept."""

import json
import math

import numpy as np
import pytest

from plumbbob.core.geodesy import Position
from plumbbob.core.plan.bites import Ladder, Lever
from plumbbob.core.plan.clock import KAYAK, Hour
from plumbbob.core.plan.draft import Candidate
from plumbbob.core.plan.events import DayState, Event
from plumbbob.core.plan.outing import DayAsk, Hold
from plumbbob.core.units import System
from plumbbob.files.errors import FileError
from plumbbob.formats.day_card import CardStay, DayCard, RodTable, card_json, card_of, read_card
from plumbbob.formats.kept_day import FILE, KeptDay, read_day, write_day
from plumbbob.formats.wind_hours import parse_wind, read_wind, write_direction
from plumbbob.services.float_plan import float_plan_text

A, B = Position(44.2, -40.05), Position(44.21, -40.04)


def made_card(**changes):
    usual = {
        "water": "Veyra Lake",
        "time_zone": "Etc/GMT+3",
        "units": System.US,
        "start": 1786777200.0,
        "back": 1786798800.0,
        "fish": 2.5,
        "fish_range": (1, 5),
        "stays": (
            CardStay(
                name="Hump 1", arrive=1786778000.0, leave=1786781600.0, fish=1.5, why="light", way=(A, B),
                depth_m=6.0, bottom_m=9.0,
            ),
            CardStay(name="Point 1", arrive=1786782000.0, leave=1786785000.0, fish=1.0, why="", way=(B, A)),
        ),
        "way_home": (A, B),
        "left_out": (("Flat 1", "too far"),),
        "hours": (Hour(1786777200.0, 4.0, 225.0),),
        "lights": {"sunrise": 1786779000.0},
        "wind_limit_mps": 9.0,
        "rods": (RodTable(title="1 Cast", head=("ft", ""), rows=(("10", "8"),), foot="s of count"),),
        "shore": (np.array([[44.1, -40.1], [44.3, -40.1], [44.3, -40.0], [44.1, -40.1]]),),
        "contours": ((5.0, np.array([[44.15, -40.05], [44.2, -40.04]])),),
        "hazards": (B,),
        "float_plan": {"who": "Mira, one more"},
    }  # fmt: skip
    return DayCard(**{**usual, **changes})


def test_a_card_comes_back_from_its_file(tmp_path):
    card = made_card()
    path = tmp_path / "day.json"
    path.write_text(json.dumps(card_json(card)), encoding="utf-8")
    back = read_card(path)
    assert card_json(back) == card_json(card)
    assert back.stays[0].place == B
    assert math.isnan(back.stays[1].depth_m)


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (lambda d: d.pop("visits"), "no visits"),
        (lambda d: d["visits"][0].update(way=[]), "no way"),
        (lambda d: d["visits"][0].update(leave=0.0), "before one comes"),
        (lambda d: d["visits"][1].update(arrive=1786778001.0), "begins before"),
        (lambda d: d["visits"][0].update(way=[[91.0, 0.0]]), "latitude"),
        (lambda d: d.update(back=1.0), "back before"),
        (lambda d: d.update(visits="none"), "list"),
        (lambda d: d["card"].update(units="cubits"), "no units"),
        (lambda d: d["card"].update(time_zone="Nowhere/At all"), "time zone"),
        (lambda d: d["card"].update(wind=[{"time": 0, "mps": 500, "from_deg": 0}]), "outside"),
        (lambda d: d["card"].update(rods=[1]), "object"),
        (lambda d: d["card"].update(contours=[{"line": 3}]), "not a number"),
    ],
)
def test_what_is_no_plan_is_refused_in_one_line(tmp_path, change, words):
    data = card_json(made_card())
    change(data)
    path = tmp_path / "day.json"
    path.write_text(json.dumps(data), encoding="utf-8")
    with pytest.raises(FileError, match=words) as told:
        read_card(path)
    assert "\n" not in str(told.value)


def test_the_answer_of_a_plan_alone_makes_a_card():
    card = card_of({"visits": card_json(made_card())["visits"], "back": 1786798800.0, "fish": 2.5, "left_out": []})
    assert card.start == card.stays[0].arrive
    assert card.way_home == (card.stays[-1].place, A)
    assert card.units is System.METRIC
    empty = card_of({"visits": [], "back": 5.0, "fish": 0, "left_out": []})
    assert not empty.stays


def test_the_float_plan_says_who_where_and_when():
    text = float_plan_text(made_card())
    assert "Mira, one more" in text
    assert "Out at 04:00, back by 10:00." in text
    assert "If nothing was heard by 11:00" in text
    assert "UTC-0300" in text
    assert text.count("____") >= 3  # what was not told is left to be filled in
    assert "29.5 ft deep" in text
    assert "Not for navigation" in text


# -- hours of wind ---------------------------------------------------------------------------------------------------


def clock(text):
    hours, _, minutes = text.replace("2026-08-15 ", "").partition(":")
    if not minutes:
        raise ValueError(f"{text} is no time")
    return float(hours) * 3600 + float(minutes) * 60


@pytest.mark.parametrize(
    ("text", "found"),
    [
        ("06:00 10 SW", [(21600, 5.0, 225.0)]),
        ("08:00;4 m/s;230\n06:00, 3 m/s, N", [(21600, 3.0, 0.0), (28800, 4.0, 230.0)]),
        ("time,wind_kmh,from\n2026-08-15 06:00,36,360", [(21600, 10.0, 0.0)]),
        ("# made up\n06:00\t7,2 km/h\tWNW\n", [(21600, 2.0, 292.5)]),
    ],
)
def test_hours_of_wind_are_read_as_people_write_them(tmp_path, text, found):
    (tmp_path / "wind.csv").write_text(text, encoding="utf-8")
    got = read_wind(tmp_path / "wind.csv", clock, 0.5)
    assert [(h.time, pytest.approx(h.wind_mps, rel=1e-3), h.from_deg) for h in got] == found


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "no hour"),
        ("06:00 4", "line 1 needs"),
        ("06:00 4 SW\n07:00 x W", "line 2"),
        ("06:00 400 W", "blows"),
        ("06:00 4 400", "direction"),
        ("06:00 4 W\n06:00 5 W", "twice"),
        ("6 4 W", "no time"),
        ("06:00 nan W", "speed"),
    ],
)
def test_wind_from_nowhere_is_refused_in_one_line(text, words):
    with pytest.raises(ValueError, match=words):
        parse_wind(text, clock, 1.0)


def test_directions_are_written_as_they_are_read():
    for degrees in (0.0, 22.5, 225.0, 230.0, 337.5):
        assert parse_wind(f"06:00 4 {write_direction(degrees)}", clock, 1.0)[0].from_deg == degrees


# -- the kept day ----------------------------------------------------------------------------------------------------


def kept():
    ask = DayAsk(start=10.0, end=9000.0, launch=A, hours=(Hour(10.0, 3.0, 200.0),), craft=KAYAK, rest_h=2.0)
    own = Candidate(name="Own place 1", place=B, bottom_m=8.0, fish_m=5.0, score=0.5, kind="own")
    state = DayState(
        holds={"Hump 1": Hold(), "Own place 1": Hold(20.0, 900.0)},
        banned=frozenset({"Flat 1"}),
        added=(own,),
        events=(Event(kind="nothing", time=30.0, name="Hump 1", depth_m=5.0, minutes=10.0),),
        tried=(("Hump 1", Lever.PACE, 40.0),),
    )
    return KeptDay(ask, state, True, Ladder.LURE_FIRST)


def test_a_day_is_kept_whole(tmp_path):
    assert read_day(tmp_path) is None
    write_day(tmp_path, kept())
    back = read_day(tmp_path)
    assert back.ask == kept().ask
    assert back.state.added == kept().state.added
    assert back.state.events == kept().state.events
    assert back.state.tried == kept().state.tried
    assert math.isnan(back.state.holds["Hump 1"].arrive)
    assert back.state.holds["Own place 1"] == Hold(20.0, 900.0)
    assert (back.patient, back.ladder) == (True, Ladder.LURE_FIRST)


@pytest.mark.parametrize(
    "change",
    [
        lambda d: d.update(plumbbob_day=99),
        lambda d: d.update(end=0.0),
        lambda d: d.update(launch=[200.0, 0.0]),
        lambda d: d.update(events=[["party", 0, "Hump 1", 1, 1]]),
        lambda d: d.pop("craft"),
        lambda d: d.update(tried=[["Hump 1", "luck", 0]]),
    ],
)
def test_a_damaged_day_is_told_in_one_line(tmp_path, change):
    write_day(tmp_path, kept())
    data = json.loads((tmp_path / FILE).read_text(encoding="utf-8"))
    change(data)
    (tmp_path / FILE).write_text(json.dumps(data), encoding="utf-8")
    with pytest.raises(FileError) as told:
        read_day(tmp_path)
    assert "\n" not in str(told.value)
