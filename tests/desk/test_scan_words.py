"""What Scan says of made-up readings, and the small rules of its state, without a window."""

import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PySide6.QtCore import QSettings

from plumbbob.core.sonar.fish_association import summarise, with_fish
from plumbbob.core.sonar.read import read_down
from plumbbob.core.sonar.reading import Bait, Bottom, LayerReason, StandingObject, Thermocline, Trail
from plumbbob.core.stats import steady_slope
from plumbbob.core.units import System
from plumbbob.core.water.profile import Profile
from plumbbob.desk.models.drawing import DrawTool
from plumbbob.desk.models.echogram_raster import Raster
from plumbbob.desk.models.history import Change, History
from plumbbob.desk.models.session import Session
from plumbbob.desk.models.viewport import Viewport
from plumbbob.desk.views.registry import give_views
from plumbbob.desk.views.sonar.down.words import echo_lines, reasons, span, standing_word
from tests.core.test_evidence import a_fish


@pytest.fixture(scope="module")
def read(passed):
    return read_down(passed[0])


@pytest.fixture
def session(qapp, tmp_path, passed, read):
    made = Session(QSettings(str(tmp_path / "s.ini"), QSettings.Format.IniFormat))
    give_views(made)
    made.display.set_system(System.METRIC)
    made.scan.open(passed[0])
    made.scan.set_reading(read)
    yield made
    made.jobs.shut_down()


def lines_of(session, **changes):
    """What is said of the minute with some parts of its reading changed."""
    scan = session.scan
    scan.set_reading(replace(scan.reading, **changes))
    return [said.text for said in reasons(session, summarise(scan.reading))]


def a_bait(reading, **changes):
    return replace(reading.bait[0], **changes)


def test_too_much_bait_is_said_as_such(session, read):
    first, last = float(read.bottom.time[0]), float(read.bottom.time[-1])
    much = a_bait(read, time_start=first, time_end=last, depth_top_m=2.0, depth_bottom_m=12.0)
    assert any("too much of it" in line for line in lines_of(session, bait=(much,)))
    assert not any("too much of it" in line for line in lines_of(session, bait=read.bait))


def test_a_lost_bottom_and_an_empty_pass_are_said(session, read):
    bed = read.bottom.depth_m.copy()
    bed[:200] = np.nan
    lost = Bottom(time=read.bottom.time, depth_m=bed, hardness=read.bottom.hardness)
    assert any("lost in 35% of the pass; no depth is guessed" in line for line in lines_of(session, bottom=lost))
    empty = lines_of(session, fish=(), bait=(), cold_layer=None)
    assert empty[0].startswith("No single fish stood out")
    assert "No layer keeps its depth here, so none is drawn." in empty


def test_a_tilt_is_said_only_where_it_stands_out_of_its_spread(session, read):
    layer: Thermocline = replace(read.cold_layer, tilt=2.0, tilt_sd=0.3, share=0.9)
    assert any("gets 2.0 m deeper in a kilometre" in line for line in lines_of(session, cold_layer=layer))
    unsure = replace(layer, tilt_sd=1.5)
    assert not any("kilometre" in line for line in lines_of(session, cold_layer=unsure))


def test_a_lure_and_what_follows_it_are_told(session, read):
    start = float(read.bottom.time[0])
    fall = Trail(kind="falling lure", time=(start, start + 9), depth_m=(2.0, 8.0), sink_mps=0.67, level_db=30.0)
    fish = Trail(kind="following fish", time=(start, start + 9), depth_m=(9.0, 5.0), sink_mps=-0.4, level_db=30.0)
    said = " ".join(lines_of(session, trails=(fall, fish)))
    assert "A lure went down to 8.0 m" in said
    assert "Something followed it up from 9.0 m to 5.0 m." in said


def test_fish_floor_is_said_with_its_water(session, read):
    high = tuple(replace(f, depth_m=4.0, height_above_bottom_m=9.0) for f in read.fish) * 3
    said = next(line for line in lines_of(session, fish=high) if line.startswith("No fish in free water below"))
    assert "m³ were looked at" in said
    assert "would have shown" in said


def test_a_group_names_who_may_hold_so_with_reasons(session, read):
    start = float(read.bottom.time[0])
    strung = tuple(a_fish(13.0, time=start + 4.0 * k, up=0.8) for k in range(9))
    said = next(line for line in lines_of(session, fish=strung) if "strung along" in line)
    assert said.startswith("9 fish")
    assert "13 m down, 0.8 m off bottom" in said


def test_every_kind_of_echo_has_its_lines(session, read):
    bait: Bait = a_bait(read, hand="drawn")
    words = echo_lines(session, bait)
    assert words[0] == f"bait {span(session.display, bait.depth_top_m, bait.depth_bottom_m)} down"
    assert words[-1] == "drawn by you"
    pile = StandingObject(time_start=0, time_end=4, height_m=1.4, kind="unknown", detail="brush pile", bottom_m=9.0,
                    length_m=4.0, fish_inside=2, fish_over=1)  # fmt: skip
    assert echo_lines(session, pile) == [
        "brush pile, 1.4 m high",
        "top 7.6 m down",
        "4 m along the pass",
        "fish: 2 in it, 1 over it",
    ]
    fish = read.fish[0]
    near = replace(fish, time=bait.time_end + 2.0, depth_m=5.5)
    assert any("past bait" in line for line in echo_lines(session, near))
    assert standing_word(replace(pile, detail="")) == "something"


@pytest.mark.parametrize(("low", "high", "words"), [(3.0, 9.2, "3–9 m"), (11.1, 10.9, "11 m"), (math.nan, 3.0, "–")])
def test_a_span_never_repeats_itself(session, low, high, words):
    assert span(session.display, low, high) == words


def test_fish_in_and_over_a_thing_are_counted_once():
    thing = StandingObject(time_start=100, time_end=110, height_m=2.0, kind="timber", bottom_m=12.0)
    fish = [a_fish(12.0 - up, time=105.0, up=up) for up in (1.0, 1.9, 3.0, 4.9, 6.0)]
    fish.append(a_fish(11.0, time=140.0, up=1.0))
    counted = with_fish(thing, fish)
    assert (counted.fish_inside, counted.fish_over) == (2, 2)


@given(st.floats(-5, 5), st.floats(-50, 50), st.integers(8, 60))
def test_a_steady_slope_forgives_wild_points(slope, start, count):
    x = np.linspace(0.0, 3.0, count)
    y = start + slope * x
    y[:: max(count // 2, 4)] += 40.0
    found, spread = steady_slope(x, y)
    assert found == pytest.approx(slope, abs=1e-6 + 0.35 * (count < 12) * 40.0)
    assert spread >= 0.0


def test_chosen_pings_are_drawn_as_the_view_draws_them(passed):
    raster = Raster(passed[0].down)
    view = Viewport(100.0, 300.0, 1.0, 14.0)
    whole = raster.render(view, 200, 90, 0.0)
    pings = 100 + np.arange(200)
    assert np.array_equal(raster.render_pings(pings, 1.0, 14.0, 90, 0.0), whole)
    gaps = np.where(pings % 3 == 0, -1, pings)
    some = raster.render_pings(gaps, 1.0, 14.0, 90, 0.0)
    assert not some[:, gaps < 0].any()
    assert np.array_equal(some[:, gaps >= 0], whole[:, gaps >= 0])


def test_the_view_goes_where_it_is_sent(session):
    scan = session.scan
    scan.show_depths(6.0, 9.0)
    assert scan.view.top_m < 6.0 < 9.0 < scan.view.base_m < 10.0
    middle = float(scan.down.time[300])
    scan.show_time(middle - 2.0, middle + 2.0)
    assert scan.view.first_ping < 300 < scan.view.last_ping
    assert scan.cursor.ping == pytest.approx(300, abs=2)
    assert scan.document.pings_of([middle])[0] == pytest.approx(300)


def test_tools_say_when_they_change_and_only_then(session):
    heard = []
    session.scan.drawing.changed.connect(lambda: heard.append(session.scan.drawing.tool))
    session.scan.drawing.set(DrawTool.DRAW, "bait")
    session.scan.drawing.set(DrawTool.DRAW, "bait")
    session.scan.comparison.chart_changed.connect(lambda: heard.append("chart"))
    session.scan.comparison.show_chart(True)
    session.scan.comparison.show_chart(True)
    assert heard == [DrawTool.DRAW, "chart"]


@given(st.lists(st.sampled_from(["do", "undo", "redo"]), max_size=30))
def test_history_goes_back_and_forth_without_loss(steps):
    history, value, model, at = History(), [0], [0], 0
    for step in steps:
        if step == "do":
            before, after = value[0], value[0] + len(model)
            value[0] = after
            history.did(
                Change("step", lambda b=before: value.__setitem__(0, b), lambda a=after: value.__setitem__(0, a))
            )
            model, at = [*model[: at + 1], after], at + 1
        elif step == "undo" and history.undo():
            at -= 1
        elif step == "redo" and history.redo():
            at += 1
        assert value[0] == model[at]
        assert (history.can_undo, history.can_redo) == (at > 0, at < len(model) - 1)
    history.forget("step")
    assert not history.can_undo
    assert history.undo() == history.redo() == ""


def test_a_step_that_fails_moves_nothing():
    history = History()

    def fail():
        raise OSError("full")

    history.did(Change("step", fail, fail))
    with pytest.raises(OSError, match="full"):
        history.undo()
    assert history.can_undo
    assert not history.can_redo


def test_a_typed_column_speaks_for_a_layer_or_against_it(session, read):
    layer = read.cold_layer
    assert layer is not None

    def said(temperatures, **changes):
        profile = Profile(
            depth_m=np.array([0.0, layer.depth_m - 1, layer.depth_m + 1, 30.0]), temperature_c=temperatures
        )
        session.conditions.set_profile(profile)
        return lines_of(session, cold_layer=replace(layer, **changes))[-3:]

    drop, none = np.array([22.0, 21.0, 12.0, 8.0]), np.array([22.0, 21.9, 21.8, 21.0])
    assert any("For it: the column falls by 9" in line for line in said(drop))
    assert any("plankton looks alike" in line for line in said(none))
    thick = said(drop, why=((LayerReason.THICKNESS, -1.0), (LayerReason.WAVES, 0.3)))
    assert any("thicker than most" in line and "For it: it rises and falls a little" in line for line in thick)


def test_a_band_that_is_no_cold_layer_says_why(session, read):
    noise = replace(read.cold_layer, depth_m=7.0, why=((LayerReason.RULED, -2.5), (LayerReason.TEMPERATURE, 0.3)))
    said = lines_of(session, cold_layer=None, no_layer=noise)
    assert any("keeps to 7.0 m, but it is no cold layer: it is as straight as a ruled line" in t for t in said)
