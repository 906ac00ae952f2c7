"""What passes saw, laid on the chart: kept with the water, brought back, told in words and drawn."""

from dataclasses import replace

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QImage

from plumbbob.core.sonar.seen_along import SeenAlong
from plumbbob.core.units import System
from plumbbob.desk.commands.seen import seen_words, stretch_words
from plumbbob.formats.seen_csv import write_seen
from tests.desk.conftest import press, settle
from tests.lake import EAST, NORTH


def a_pass(chart, *, east=0.0, start=1786785000.0, bait_at=None, name="one"):
    """A kilometre to the north over the bowl: fish in its middle, bait where it is wanted."""
    count = 80
    x, y = np.full(count, EAST + 400.0 + east), NORTH + 200.0 + 8.0 * np.arange(count)
    latitude, longitude = chart.plane.to_latlon(x, y)
    fish, bait = np.zeros((count, 20)), np.zeros((count, 20))
    fish[35:45, 8] = 1.0
    if bait_at is not None:
        bait[bait_at : bait_at + 3, 6] = 5.0
    volume = np.full((count, 20), 20.0)
    volume[70:] = 0.0  # nothing was looked at there
    return SeenAlong(name=name, time=start + 8.0 * np.arange(count), latitude=latitude, longitude=longitude,
                     volume_m3=volume, fish=fish, bait_m3=bait)  # fmt: skip


def bright(window):
    """Pixels of the chart that have the colour of fish."""
    image = window.picture("chart").grab().toImage().convertToFormat(QImage.Format.Format_RGB32)
    pixels = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), image.width(), 4)
    wanted = window.session.display.theme.brass.lstrip("#")
    blue, green, red = (int(wanted[k : k + 2], 16) for k in (4, 2, 0))
    return int((np.abs(pixels[:, :, :3].astype(int) - (blue, green, red)).sum(axis=2) < 40).sum())


def test_passes_are_laid_on_the_chart_with_the_stretch_that_held_fish(water, qtbot):
    session = water.session
    session.display.set_system(System.METRIC)
    session.rig.set_window(None)
    press(water, Qt.Key.Key_S, Qt.KeyboardModifier.ShiftModifier)
    assert water.notice.text == "No pass over this water has been read yet."
    assert not session.seen.shown
    session.seen.set_passes((a_pass(session.chart.chart),))
    settle(water, qtbot)
    bare = bright(water)
    session.seen.show(True)
    assert bright(water) > bare + 30
    laid = session.seen.laid(session.chart.chart, None)
    stretch = laid.passes[0].stretch
    assert (stretch.first, stretch.last) == (35, 44)
    assert stretch_words(stretch).startswith("1.")
    assert "10 between the ticks; luck alone does that in under 1 of 100" in seen_words(session)
    assert np.isnan(laid.passes[0].rate[75])
    press(water, Qt.Key.Key_S, Qt.KeyboardModifier.ShiftModifier)
    assert bright(water) == bare


def test_only_the_depths_of_the_window_count(water):
    session = water.session
    chart = session.chart.chart
    session.seen.set_passes((a_pass(chart),))
    assert session.seen.laid(chart, (0.0, 3.0)).passes[0].fish.sum() == 0
    assert session.seen.laid(chart, (3.0, 6.0)).passes[0].fish.sum() == 10
    session.rig.set_window((0.0, 3.0))
    assert seen_words(session).startswith("0 fish in")


@pytest.mark.parametrize(("east", "says"), [(90.0, "bait went"), (2.0, "hardly moved")])
def test_bait_of_two_passes_tells_its_way(water, east, says):
    session = water.session
    session.rig.set_window(None)
    chart = session.chart.chart
    first = a_pass(chart, bait_at=20)
    later = a_pass(chart, east=east, start=1786785000.0 + 5400.0, bait_at=20, name="two")
    quiet = tuple(replace(p, fish=0 * p.fish) for p in (first, later))
    session.seen.set_passes(quiet)
    assert says in seen_words(session)
    if east > 50:
        assert " to E in 90 min" in seen_words(session) or " to E in 2 h" in seen_words(session)
    session.seen.show(True)
    assert not water.picture("chart").grab().isNull()


def test_a_pass_is_kept_with_its_water_and_comes_back_with_it(window, qtbot):
    session = window.session
    qtbot.waitUntil(lambda: bool(session.seen.passes) and not session.jobs.live, timeout=20_000)
    folder = window.tasks.charter.folder
    kept = list((folder.path / "seen").glob("*.csv"))
    assert [p.stem for p in kept] == [session.scan.recording.name]
    assert session.seen.passes[0].fish.sum() == len(session.scan.reading.fish)
    write_seen(folder.path / "seen" / "other.csv", replace(session.seen.passes[0], name="other"))
    session.water_changed.emit()
    qtbot.waitUntil(lambda: len(session.seen.passes) == 2, timeout=20_000)
