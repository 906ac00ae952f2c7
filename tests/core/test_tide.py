"""The tide between its turns: the rule of twelfths, order, and what a table may not be."""

import itertools

import pytest
from hypothesis import given
from hypothesis import strategies as st

from plumbbob.core.water.tide import HighOrLow, Stream, TideTable, wait_or_land
from plumbbob.files.errors import FileError
from plumbbob.formats.tide_csv import parse_tide, read_tide

HOUR = 3600.0
DAY = TideTable([HighOrLow(0.0, 1.0), HighOrLow(6 * HOUR, 5.0), HighOrLow(12.2 * HOUR, 0.8)])


def test_twelfths_hour_by_hour():
    levels = [DAY.at(k * HOUR).level_m for k in range(7)]
    steps = [(b - a) / 4.0 * 12.0 for a, b in itertools.pairwise(levels)]
    assert steps == pytest.approx([0.8, 2.2, 3.0, 3.0, 2.2, 0.8], abs=0.06)


@given(st.floats(0.0, 12.2 * HOUR), st.floats(0.1, 3.0))
def test_level_and_stream_stay_within_the_table(time, strongest):
    now = DAY.at(time, strongest)
    assert 0.8 - 1e-9 <= now.level_m <= 5.0 + 1e-9
    assert 0.0 <= now.share <= 1.0 + 1e-9
    assert 0.0 <= now.current_mps <= strongest + 1e-9
    if now.stream is not Stream.SLACK:
        assert (now.stream is Stream.FLOOD) is (now.rises_mph > 0)


def test_the_strong_hours_lie_in_the_middle():
    (flood, ebb) = DAY.runs(-HOUR, 20 * HOUR)
    assert flood[0] < 3 * HOUR < flood[1]
    assert ebb[0] < 9.1 * HOUR < ebb[1]
    assert DAY.at(0.0).stream is Stream.SLACK
    for wrong in (-1.0, 13 * HOUR):
        with pytest.raises(ValueError, match="does not reach"):
            DAY.at(wrong)


def test_a_table_is_read_in_the_waters_clock_or_with_its_offset(tmp_path):
    local = parse_tide("time;level\n2026-08-14 05:00;1,0\n2026-08-14 11:00;4,5\n", -2.0)
    told = parse_tide("2026-08-14T07:00Z,1.0\n2026-08-14T13:00+00:00,4.5")
    assert [t.time for t in local.turns] == [t.time for t in told.turns]
    path = tmp_path / "tide.csv"
    path.write_text("2026-08-14 05:00, 1.0\nhigh water at noon\n")
    with pytest.raises(FileError, match="line 2"):
        read_tide(path)
    for text in ("", "2026-08-14 05:00, 1.0", "2026-08-14 05:00, 1\n2026-08-14 05:05, 2", "x\n2026-13-40 05:00, 1"):
        with pytest.raises(ValueError, match=r"tide|time|turns"):
            parse_tide(text)


@given(st.integers(1, 12), st.floats(0.0, 400.0), st.floats(0.0, 600.0))
def test_waiting_is_worth_more_the_more_bites_there_are(hooks, rate, wait):
    land, by_waiting = wait_or_land(hooks, 1, rate, wait)
    assert land == 1.0
    assert 0.0 <= by_waiting <= hooks
    assert by_waiting <= wait_or_land(hooks, 1, 2 * rate, wait)[1] + 1e-9
    with pytest.raises(ValueError, match="hooks"):
        wait_or_land(hooks, hooks + 1, rate, wait)
