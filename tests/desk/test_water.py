"""The Water stage in the real window: chart, window, places, lines, lanes, holes, columns, files."""

import json
from dataclasses import replace

import numpy as np
import pytest
import rasterio
from lxml import etree
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QAction, QColor
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QCheckBox, QComboBox, QLabel, QLineEdit, QPlainTextEdit, QPushButton, QSlider

from plumbbob.core.chart.suits import OPEN_WATER
from plumbbob.core.chart.terms import Term
from plumbbob.core.geodesy import Position, distance_m
from plumbbob.core.rig.stand_off import Noise
from plumbbob.core.sonar.reading import GroundPatch, SideReading
from plumbbob.core.units import System
from plumbbob.core.water.habits import Season
from plumbbob.desk.models.chart_model import Shown, Tool
from plumbbob.desk.models.fished_for import FishedFor
from plumbbob.desk.theme import THEMES, Light, luminance, ramp_of
from plumbbob.desk.views.chart.cast_sheet import cast_to
from plumbbob.desk.views.chart.panel import PlaceList
from plumbbob.desk.views.chart.section import SectionPicture
from plumbbob.desk.views.chart.words import parse_compass
from plumbbob.desk.views.plumbline import PlumbLine
from plumbbob.formats.soundings import write_soundings
from plumbbob.sim.veyra import FIRST_PASS
from plumbbob.store.values import Mark, MarkKind
from plumbbob.wording.compass import compass
from tests.desk.conftest import press, settle
from tests.formats.test_small_formats import SCHEMA
from tests.lake import EAST, NORTH, PLANE, as_soundings, bowl, lines_over


def text_of(window, name):
    return window.findChild(QLabel, name).text()


def enter(window, name, text):
    field = window.findChild(QLineEdit, name)
    field.selectAll()
    QTest.keyClicks(field, text)
    QTest.keyClick(field, Qt.Key.Key_Return)


def pixel(window, x, y, dx=0, dy=0):
    at = window.picture("chart").at(EAST + x, NORTH + y) + QPointF(dx, dy)
    return QColor(window.picture("chart").grab().toImage().pixel(at.toPoint()))


def put_cursor(window, x, y):
    window.session.chart.set_cursor(EAST + x, NORTH + y)


def test_the_lake_opens_with_window_layer_and_ranked_places(water):
    session = water.session
    assert session.stage == "water"
    assert session.rig.window is not None
    assert "%" in text_of(water, "window_share")
    assert "ft" in text_of(water, "day_layer")
    assert session.spots.places
    assert water.picture("chart").contours
    assert text_of(water, "water") == "Veyra Lake"


def test_the_cursor_reads_depth_spread_and_slope(water):
    at = water.picture("chart").at(EAST + 400, NORTH + 300).toPoint()
    QTest.mouseMove(water.picture("chart"), at)
    session = water.session
    assert session.chart.depth_m == pytest.approx(float(bowl(400.0, 300.0)), abs=0.3)
    session.display.set_system(System.METRIC)
    assert text_of(water, "spot").startswith(f"{session.chart.depth_m:.1f} m ±")
    assert "slope" in text_of(water, "spot_more")
    assert "44°" in text_of(water, "place")
    put_cursor(water, 5, 5)
    assert text_of(water, "spot") == "not sounded"


def test_only_the_window_is_painted(water):
    session = water.session
    session.rig.set_window((3.0, 6.0))
    ground = THEMES[Light.DUSK].ground
    inside, outside = pixel(water, 700, 430, dx=2, dy=2), pixel(water, 440, 480, dx=3, dy=3)
    assert outside.name().upper() == ground
    assert inside.lightness() > 90
    session.rig.set_window(None)
    assert pixel(water, 440, 480, dx=3, dy=3).name().upper() != ground
    assert text_of(water, "window_share") == "all of it"


def test_a_window_is_typed_in_any_unit_and_says_what_it_leaves(water):
    enter(water, "window_from", "4 m")
    enter(water, "window_to", "8 m")
    assert water.session.rig.window == pytest.approx((4.0, 8.0))
    share = float(text_of(water, "window_share").split()[0])
    # a paraboloid has the same area in every metre of depth
    assert share == pytest.approx(100 * 4 / 11.3, abs=5)


def test_dragging_the_plumb_line_sets_the_window(water):
    line = water.findChild(PlumbLine)
    x = 12
    QTest.mousePress(line, Qt.MouseButton.LeftButton, pos=QPoint(x, int(line.y_of(2.0))))
    QTest.mouseMove(line, QPoint(x, int(line.y_of(5.0))))
    QTest.mouseRelease(line, Qt.MouseButton.LeftButton, pos=QPoint(x, int(line.y_of(5.0))))
    assert water.session.rig.window == pytest.approx((2.0, 5.0), abs=0.1)


def test_the_level_moves_depths_and_shoreline(water, qtbot):
    put_cursor(water, 400, 400)
    session = water.session
    session.display.set_system(System.METRIC)
    before = session.chart.depth_m
    slider = water.findChild(QSlider, "level_slider")
    slider.setValue(-300)
    assert session.conditions.level_m == -3.0
    assert text_of(water, "spot").startswith(f"{before - 3.0:.1f} m")
    put_cursor(water, 775, 400)
    assert text_of(water, "spot") == "above water"
    assert pixel(water, 775, 400, dx=5, dy=5).name().upper() == THEMES[Light.DUSK].land
    enter(water, "level", "1 m")
    assert session.conditions.level_m == pytest.approx(1.0)
    assert slider.value() == 100
    settle(water, qtbot)
    assert water.picture("chart").contours[0].depth_m == pytest.approx(water.picture("chart").contour_levels()[1][0])


def test_wind_tilts_the_layer_under_the_chart(water, qtbot):
    session = water.session
    level = session.conditions.layer_at(EAST + 100, NORTH + 400)
    enter(water, "wind", "9 m/s")
    enter(water, "wind_from", "W")
    assert session.conditions.wind_from_deg == 270.0
    assert (
        session.conditions.layer_at(EAST + 700, NORTH + 400)
        > level
        > session.conditions.layer_at(EAST + 100, NORTH + 400)
    )
    assert "downwind" in text_of(water, "day_words")
    qtbot.waitUntil(lambda: any(r.term is Term.WIND for r in session.spots.places[0].reasons))
    enter(water, "wind_from", "sideways")
    assert "no direction" in water.notice.text
    assert session.conditions.wind_from_deg == 270.0


def test_places_are_walked_by_key_and_picked_by_mouse(water):
    session = water.session
    press(water, Qt.Key.Key_Period)
    first = session.spots.chosen
    assert first is session.spots.places[0]
    assert session.chart.cursor == pytest.approx((first.feature.x, first.feature.y))
    assert text_of(water, "spot_more").startswith("1  ")
    press(water, Qt.Key.Key_Period)
    assert session.spots.chosen is session.spots.places[1]
    press(water, Qt.Key.Key_Escape)
    assert session.spots.chosen is None
    session.chart.show_all()
    at = water.picture("chart").at(first.feature.x, first.feature.y).toPoint()
    QTest.mouseClick(water.picture("chart"), Qt.MouseButton.LeftButton, pos=at)
    assert session.spots.chosen is first
    QTest.mouseClick(water.findChild(PlaceList), Qt.MouseButton.LeftButton, pos=QPoint(40, 60))
    assert session.spots.chosen is session.spots.places[1]
    assert session.chart.view.m_per_px <= 2.2


def test_space_marks_the_structure_and_the_mark_stands_on_the_chart(water):
    session = water.session
    press(water, Qt.Key.Key_Period)
    press(water, Qt.Key.Key_Space)
    (mark,) = session.logbook.marks
    assert mark.kind is MarkKind.STRUCTURE
    x, y = PLANE.to_xy(mark.latitude, mark.longitude)
    assert (float(x), float(y)) == pytest.approx(session.chart.cursor, abs=0.1)
    assert mark.bottom_depth_m == pytest.approx(session.chart.depth_m, abs=0.01)
    session.spots.choose(None)
    foot = water.picture("chart").at(float(x), float(y)) + QPointF(0, -10)
    QTest.mouseClick(water.picture("chart"), Qt.MouseButton.LeftButton, pos=foot.toPoint())
    assert session.logbook.chosen == mark
    press(water, Qt.Key.Key_Z)
    assert not session.logbook.marks


def test_one_key_finds_the_place_to_wait_between_bait_and_deep_water(water):
    session, said = water.session, []
    session.said.connect(lambda line, wrong: said.append((line, wrong)))
    put_cursor(water, 110.0, 400.0)
    press(water, Qt.Key.Key_B, Qt.KeyboardModifier.ShiftModifier)
    assert "Wait at the lip" in said[-1][0]
    drawn = session.chart.drawn
    assert drawn.wait is not None
    # the way leads from deep to shallow, and the place lies on it
    assert drawn.depth_m[0] > drawn.depth_m[-1] + 2.5
    away = np.hypot(drawn.line[:, 0] - drawn.wait[0], drawn.line[:, 1] - drawn.wait[1])
    assert away.min() < 5.0
    water.picture("chart").grab()
    press(water, Qt.Key.Key_B, Qt.KeyboardModifier.ShiftModifier)
    assert session.chart.drawn is None
    put_cursor(water, 520.0, 335.0)  # the hole: nothing deeper to come up from
    press(water, Qt.Key.Key_B, Qt.KeyboardModifier.ShiftModifier)
    assert said[-1][1]
    assert session.chart.drawn is None


def test_a_line_across_shows_its_section_length_and_bearing(water):
    press(water, Qt.Key.Key_D)
    session = water.session
    assert session.chart.tool is Tool.LINE
    a, b = (water.picture("chart").at(EAST + x, NORTH + 400).toPoint() for x in (150, 650))
    QTest.mousePress(water.picture("chart"), Qt.MouseButton.LeftButton, pos=a)
    QTest.mouseMove(water.picture("chart"), b)
    QTest.mouseRelease(water.picture("chart"), Qt.MouseButton.LeftButton, pos=b)
    drawn = session.chart.drawn
    assert session.chart.tool is Tool.MOVE
    assert drawn.along_m[-1] == pytest.approx(500, abs=5)
    middle = np.interp(250.0, drawn.along_m, drawn.depth_m)
    assert middle == pytest.approx(float(bowl(400.0, 400.0)), abs=0.4)
    section = water.findChild(SectionPicture)
    # a grid line runs a degree off the true east here
    assert "89° (E)" in section.line_words(drawn, drawn.depth_m)
    QTest.mouseMove(section, QPoint(section.width() // 2, 60))
    assert session.chart.cursor[0] == pytest.approx(EAST + 400, abs=40)
    press(water, Qt.Key.Key_D)
    assert session.chart.drawn is None


def test_a_lane_follows_the_depth_and_goes_out_as_a_route(water, qtbot, tmp_path, monkeypatch):
    put_cursor(water, 640, 400)
    depth = water.session.chart.depth_m
    press(water, Qt.Key.Key_E)
    settle(water, qtbot)
    drawn = water.session.chart.drawn
    assert drawn.lane is not None
    assert np.nanmedian(drawn.depth_m) == pytest.approx(depth, abs=0.2)
    monkeypatch.setattr(water, "save_path", lambda *a: tmp_path / "lane.gpx")
    press(water, Qt.Key.Key_G, Qt.KeyboardModifier.ControlModifier)
    doc = etree.parse(str(tmp_path / "lane.gpx"))
    assert SCHEMA.validate(doc), SCHEMA.error_log
    points = doc.findall(".//{*}rtept")
    assert len(points) > 20
    assert "not for navigation" in doc.find(".//{*}rte/{*}desc").text
    put_cursor(water, 5, 5)
    press(water, Qt.Key.Key_E)
    assert "cursor on a depth" in water.notice.text


def test_holes_through_the_ice_come_with_a_caution_and_go_again(water):
    water.session.rig.set_window((6.0, 8.0))
    put_cursor(water, 400, 400)
    press(water, Qt.Key.Key_H)
    plan = water.session.chart.holes
    assert len(plan.places) == 19
    assert plan.footprint_m == pytest.approx(2 * 7.0 * np.tan(np.radians(10)))
    assert "ice" in water.notice.text
    press(water, Qt.Key.Key_H)
    assert water.session.chart.holes is None


def test_colours_say_depth_slope_or_uncertainty(water):
    water.session.rig.set_window(None)
    shades = set()
    for shown in (Shown.SLOPE, Shown.SPREAD, Shown.DEPTH):
        press(water, Qt.Key.Key_V)
        assert water.session.chart.shown is shown
        shades.add(pixel(water, 600, 520, dx=4, dy=4).name())
    assert len(shades) == 3


def test_zoom_pan_and_walk_by_key_and_wheel(water, qtbot):
    chart = water.session.chart
    put_cursor(water, 400, 400)
    wide = chart.view.m_per_px
    press(water, Qt.Key.Key_I)
    assert chart.view.m_per_px < wide
    x = chart.cursor[0]
    press(water, Qt.Key.Key_Right)
    assert chart.cursor[0] > x
    press(water, Qt.Key.Key_A)
    assert chart.view.m_per_px == pytest.approx(wide)
    start = QPoint(300, 200)
    chart.zoom(0.3)
    before = water.picture("chart").place_at(QPointF(300, 200))
    QTest.mousePress(water.picture("chart"), Qt.MouseButton.LeftButton, pos=start)
    for x in (320, 350, 380):
        QTest.mouseMove(water.picture("chart"), QPoint(x, 240))
    QTest.mouseRelease(water.picture("chart"), Qt.MouseButton.LeftButton, pos=QPoint(380, 240))
    assert water.picture("chart").place_at(QPointF(380, 240)) == pytest.approx(before, abs=3)


def test_a_column_is_typed_and_kept_and_a_guess_is_marked(water):
    press(water, Qt.Key.Key_T)
    text = water.findChild(QPlainTextEdit, "profile_text")
    assert text.isVisible()
    text.setPlainText("0 70\n20 69\n26 52\n40 46")
    water.findChild(QPushButton, "sheet_profile_go").click()
    session = water.session
    assert not text.isVisible()
    assert session.conditions.profile.depth_m[-1] == pytest.approx(12.19, abs=0.01)
    assert session.conditions.layer.middle_m == pytest.approx(7.0, abs=0.8)
    assert water.tasks.charter.folder.profile() is not None
    press(water, Qt.Key.Key_T)
    text.setPlainText("nothing")
    water.findChild(QPushButton, "sheet_profile_go").click()
    assert "Not used" in water.notice.text
    enter(water, "profile_surface", "70")
    water.findChild(QPushButton, "profile_guess").click()
    assert "freezes over is not known" in water.notice.text
    water.findChild(QComboBox, "profile_freezes").setCurrentText("most winters")
    water.findChild(QPushButton, "profile_guess").click()
    assert session.conditions.profile.estimated
    assert text_of(water, "day_layer").endswith("?")
    assert "guess" in text_of(water, "day_words")


def test_what_counts_can_be_moved_and_schools_switched(water):
    press(water, Qt.Key.Key_K)
    session = water.session
    water.findChild(QSlider, "weight_lip").setValue(20)
    assert session.spots.weights[Term.LIP] == 2.0
    box = water.findChild(QComboBox, "school_wind_side")
    box.setCurrentText("lee")
    assert session.spots.approach("wind_side").value == "lee"
    assert any("cool water" in w.text() for w in water.findChildren(QLabel))
    press(water, Qt.Key.Key_Escape)
    assert session.sheet == ""


def test_cleaning_is_counted_and_can_be_switched(water, qtbot):
    used = water.session.chart.chart.used
    press(water, Qt.Key.Key_X)
    assert f"{used:,} soundings used, " in text_of(water, "cleaning_counts")
    enter(water, "clean_draft", "0.5 m")
    water.findChild(QPushButton, "sheet_cleaning_go").click()
    deepest = water.session.chart.chart.deepest_m
    qtbot.waitUntil(lambda: water.session.chart.chart.deepest_m > deepest + 0.4, timeout=60_000)


def _in_august(session):
    session.conditions.set_when(session.water.place, FIRST_PASS, -3.0)


def test_a_species_shows_where_it_could_be_comfortable(water, qtbot):
    _in_august(water.session)
    water.findChild(QComboBox, "day_species").setCurrentText("kokanee")
    found = water.session.conditions.comfort
    assert found.band is not None
    qtbot.waitUntil(lambda: "likely" in text_of(water, "day_words"))
    assert "summer" in text_of(water, "day_words")


def test_the_list_of_places_is_another_one_for_another_species(water, qtbot):
    session, first = water.session, {}
    _in_august(session)
    for name, habit in (("kokanee", "O"), ("burbot", "B"), ("yellow perch", "NE")):
        water.findChild(QComboBox, "day_species").setCurrentText(name)
        key = session.conditions.species.key
        qtbot.waitUntil(lambda k=key: session.spots.facts.who is not None and session.spots.facts.who.habits.key == k)
        assert session.spots.facts.who.habits.of(Season.SUMMER) == habit
        first[name] = [p.feature.kind for p in session.spots.places[:6]]
        terms = {r.term for p in session.spots.places[:6] for r in p.reasons}
        assert {Term.DEPTH, Term.HABIT} <= terms
    assert "open water" not in first["burbot"]
    assert first["kokanee"] != first["burbot"] != first["yellow perch"]
    water.findChild(QComboBox, "day_species").setCurrentIndex(0)
    qtbot.waitUntil(lambda: session.spots.facts.who is None)
    assert all(p.feature.kind != "open water" for p in session.spots.places)


def test_marks_named_after_current_cover_and_people_count(water, qtbot):
    session = water.session
    x, y = session.spots.places[0].feature.x, session.spots.places[0].feature.y
    place = session.chart.chart.plane.place(x, y)
    for name in ("Current 0.4 m/s to NE", "old dock", "bank angler", "nothing of note"):
        session.logbook.add_mark(
            Mark(
                water=session.water.name, kind=MarkKind.STRUCTURE, time=session.view.moment, name=name,
                latitude=place.latitude, longitude=place.longitude,
            )
        )  # fmt: skip
    qtbot.waitUntil(lambda: len(session.spots.facts.streams) == 1)
    facts = session.spots.facts
    assert (facts.streams[0].speed_mps, facts.streams[0].to_deg) == (0.4, 45.0)
    assert any(c.kind == "dock" for c in facts.cover)
    assert len(facts.anglers) == 1
    here = next(p for p in session.spots.places if (p.feature.x, p.feature.y) == (x, y))
    assert {Term.CURRENT, Term.COVER, Term.BANK} <= {r.term for r in here.reasons}


def test_soundings_are_added_and_the_chart_grows(water, qtbot, tmp_path):
    nx = EAST + np.linspace(810, 1000, 200)
    y = np.full(200, NORTH + 400.0)
    write_soundings(tmp_path / "east arm.csv", as_soundings(nx, y, np.full(200, 3.0)))
    chart = water.session.chart.chart
    water.tasks.soundings.add_file(tmp_path / "east arm.csv")
    qtbot.waitUntil(lambda: water.session.chart.chart is not chart, timeout=60_000)
    assert water.session.chart.chart.used == chart.used + 200
    assert "200 soundings added" in water.notice.text
    assert (water.tasks.charter.folder.path / "east arm.csv").exists()


@pytest.mark.parametrize(
    ("name", "text", "says"),
    [
        ("swap.csv", "latitude,longitude,depth_m\n-140.05,44.2,5\n-140.05,44.2,5\n", "swapped"),
        ("bad.tif", "no", "no raster"),
        ("x.docx", "no", "none of the files"),
        ("y.gpkg", "no", "no vector chart"),
    ],
)
def test_bad_files_are_one_line_and_the_chart_stays(water, qtbot, tmp_path, name, text, says):
    chart = water.session.chart.chart
    (tmp_path / name).write_text(text)
    water.tasks.soundings.add_file(tmp_path / name)
    qtbot.waitUntil(lambda: bool(water.notice.text) and not water.session.jobs.live, timeout=60_000)
    assert any(part in water.notice.text for part in says.split("|"))
    assert "\n" not in water.notice.text
    assert water.session.chart.chart is chart
    assert not (water.tasks.charter.folder.path / name).exists()


def test_a_strange_header_asks_which_column_is_what(water, qtbot, tmp_path):
    s = as_soundings(*lines_over(bowl, spacing_m=200.0))
    columns = zip(s.latitude, s.longitude, s.depth_m / 0.3048, strict=True)
    rows = "\n".join(f"{a:.7f};{b:.7f};{d:.2f}" for a, b, d in columns)
    (tmp_path / "odd.csv").write_text(f"north;east;how deep\n{rows}\n")
    water.tasks.soundings.add_file(tmp_path / "odd.csv")
    assert water.session.sheet == "columns"
    for name, column in (("latitude", "north"), ("longitude", "east"), ("depth", "how deep")):
        assert water.findChild(QComboBox, f"column_{name}").currentText() == column  # in the usual order
    water.findChild(QComboBox, "column_depth").setCurrentText("east")
    water.findChild(QPushButton, "sheet_columns_go").click()
    assert "a column of their own" in water.notice.text
    assert water.session.sheet == "columns"
    water.findChild(QComboBox, "column_depth").setCurrentText("how deep")
    water.findChild(QComboBox, "column_unit").setCurrentText("ft")
    chart = water.session.chart.chart
    water.findChild(QPushButton, "sheet_columns_go").click()
    qtbot.waitUntil(lambda: water.session.chart.chart is not chart, timeout=60_000)
    put_cursor(water, 400, 400)
    assert water.session.chart.depth_m == pytest.approx(float(bowl(400.0, 400.0)), abs=0.4)


@pytest.mark.parametrize(
    ("command", "name"), [("file.grid", "g.tif"), ("file.contours", "c.gpkg"), ("file.soundings", "s.csv")]
)
def test_the_chart_belongs_to_its_owner_in_open_files(water, qtbot, tmp_path, monkeypatch, command, name):
    monkeypatch.setattr(water, "save_path", lambda *_: tmp_path / name)
    water.actions_by_id[command].trigger()
    settle(water, qtbot)
    assert (tmp_path / name).stat().st_size > 500
    if name == "g.tif":
        with rasterio.open(tmp_path / name) as file:
            assert file.crs.to_epsg() == 32624
    assert name in water.notice.text


def test_closing_and_opening_shows_the_same_chart_at_once(water, opened, qtbot):
    folder = water.tasks.charter.folder.path.parent.parent
    used = water.session.chart.chart.used
    water.session.conditions.set_number("level_m", -0.7)
    water.close()
    again = opened(None, folder)
    qtbot.waitUntil(lambda: again.session.chart.chart is not None, timeout=60_000)
    assert again.session.chart.chart.used == used
    assert again.session.conditions.level_m == -0.7


def test_a_water_is_made_from_nothing_but_a_recording_and_its_pass_opens_in_scan(window, qtbot):
    session = window.session
    qtbot.waitUntil(lambda: session.chart.chart is not None and not session.jobs.live, timeout=60_000)
    assert session.chart.chart.used > 50
    (track,) = session.chart.tracks
    press(window, Qt.Key.Key_1)
    assert session.stage == "water"
    x, y = track.line[len(track.line) // 2]
    session.chart.centre_on(float(x), float(y), closer=True)
    session.spots.choose(None)
    at = window.picture("chart").at(float(x), float(y))
    away = [window.picture("chart").at(p.feature.x, p.feature.y) - at for p in session.spots.places[:8]]
    assert all(max(abs(d.x()), abs(d.y())) > 15 for d in away)
    QTest.mouseClick(window.picture("chart"), Qt.MouseButton.LeftButton, pos=at.toPoint())
    assert session.stage == "scan"
    assert 0.3 < session.scan.cursor.ping / len(session.scan.down) < 0.7
    depth = session.scan.bottom_m
    session.set_stage("water")
    session.chart.set_cursor(float(x), float(y))
    assert session.chart.depth_m + session.conditions.level_m == pytest.approx(depth, abs=0.4)


def test_dragging_the_window_keeps_up_with_the_hand(water):
    """No timing here, only that a drag draws again without contours or sampling."""
    picture, rig = water.picture("chart"), water.session.rig
    picture.grab()
    sampled, lines = picture.sampled, picture.lines
    for k in range(5):
        rig.set_window((2.0 + 0.1 * k, 5.0))
        picture.grab()
    assert picture.sampled is sampled
    assert picture.lines is lines


def test_directions_are_read_and_written():
    assert [compass(d) for d in (0, 44, 225, 359)] == ["N", "NE", "SW", "N"]
    assert parse_compass("ssw") == 202.5
    assert parse_compass("225°") == 225.0
    for text in ("", "up", "400"):
        with pytest.raises(ValueError, match="direction"):
            parse_compass(text)


@pytest.mark.parametrize("light", list(Light))
def test_depth_colours_darken_one_way(light):
    steps = np.diff([luminance(f"#{c & 0xFFFFFF:06x}") for c in ramp_of(THEMES[light].depth).tolist()])
    assert (steps <= 1e-12).all()


def test_a_damaged_shore_file_is_said_and_the_chart_stays(water, qtbot):
    (water.tasks.charter.folder.path / "shore.geojson").write_text(json.dumps({"features": [{"geometry": 3}]}))
    water.tasks.charter.build()
    qtbot.waitUntil(lambda: "shore.geojson" in water.notice.text, timeout=60_000)
    assert water.session.chart.chart is not None  # drawn without the shore


def test_species_are_named_in_the_language_one_likes(water):
    box, session = water.findChild(QComboBox, "day_species"), water.session
    box.setCurrentText("kokanee")
    water.session.ask_sheet("settings")
    languages = water.findChild(QComboBox, "settings_language")
    languages.setCurrentText("français")
    languages.activated.emit(languages.currentIndex())
    assert box.currentText() == "kokani"
    assert session.conditions.species.name == "kokanee"  # what is kept stays the same in every language
    session.ask_catch(True)
    form = water.findChild(QComboBox, "catch_species")
    assert "kokani" in [form.itemText(k) for k in range(form.count())]
    assert session.display.species_typed("Kokani") == "kokanee"
    assert session.display.species_typed("mein Fisch") == "mein Fisch"
    languages.setCurrentIndex(0)
    languages.activated.emit(0)
    assert box.currentText() == "kokanee"


def test_a_persons_own_limits_of_a_species_are_kept_and_can_go_back(water):
    water.findChild(QComboBox, "day_species").setCurrentText("kokanee")
    session = water.session
    press(water, Qt.Key.Key_J)
    assert text_of(water, "species_name") == "kokanee"
    before = session.conditions.comfort.band
    enter(water, "species_warm_low_c", "17 C")
    enter(water, "species_warm_high_c", "19 C")
    enter(water, "species_avoid_c", "21 C")
    water.findChild(QPushButton, "sheet_species_go").click()
    assert session.conditions.species.warm_low_c == pytest.approx(17.0)
    assert session.conditions.comfort.band[0] < before[0]
    press(water, Qt.Key.Key_J)
    enter(water, "species_avoid_c", "5 C")
    water.findChild(QPushButton, "sheet_species_go").click()
    assert "Not kept" in water.notice.text
    water.findChild(QPushButton, "species_back").click()
    assert session.conditions.species.warm_high_c == 14.0


def test_the_last_soundings_can_be_taken_out_again(water, qtbot, tmp_path):
    nx = EAST + np.linspace(810, 1000, 200)
    write_soundings(tmp_path / "extra.csv", as_soundings(nx, np.full(200, NORTH + 400.0), np.full(200, 3.0)))
    used = water.session.chart.chart.used
    water.tasks.soundings.add_file(tmp_path / "extra.csv")
    qtbot.waitUntil(lambda: water.session.chart.chart.used == used + 200, timeout=60_000)
    water.findChild(QAction, "file.take_out").trigger()
    qtbot.waitUntil(lambda: water.session.chart.chart.used == used, timeout=60_000)
    assert (water.tasks.charter.folder.path / "taken out" / "extra.csv").exists()


def test_ranked_places_go_out_as_waypoints_with_their_reasons(water, tmp_path, monkeypatch):
    monkeypatch.setattr(water, "save_path", lambda *a: tmp_path / "places.gpx")
    water.findChild(QAction, "file.places").trigger()
    doc = etree.parse(str(tmp_path / "places.gpx"))
    assert SCHEMA.validate(doc), SCHEMA.error_log
    points = doc.findall(".//{*}wpt")
    assert len(points) == min(len(water.session.spots.places), 30)
    assert points[0].find("{*}name").text.startswith("1 ")
    assert "window" in points[0].find("{*}desc").text
    assert float(points[0].find(".//{*}depth_top").text) == pytest.approx(
        water.session.spots.places[0].feature.depth_top_m, abs=1e-3
    )


def test_the_column_tells_its_stability_and_oxygen(water):
    tip = water.findChild(QLabel, "day_layer").toolTip()
    assert "J/m²" in tip
    assert "mg/L" in tip


def test_what_is_dragged_is_coarse_and_sharp_again_at_rest(water, qtbot):
    picture = water.picture("chart")
    for k in range(3):
        water.session.rig.set_window((2.0 + 0.1 * k, 5.0))
        picture.grab()
    assert picture.rendered.width() == (picture.width() + 1) // 2
    qtbot.waitUntil(lambda: picture.rendered is not None and picture.rendered.width() == picture.width())


def test_holes_in_the_ice_are_marked_in_walking_order_and_taken_back(water, qtbot):
    session = water.session
    before = len(session.logbook.marks)
    press(water, Qt.Key.Key_H, Qt.KeyboardModifier.ShiftModifier)
    qtbot.waitUntil(lambda: len(session.logbook.marks) > before)
    holes = [m for m in session.logbook.marks if m.name.startswith("hole ")]
    assert len(holes) == len(session.logbook.marks) - before >= 4
    assert all(m.bottom_depth_m > 0.5 for m in holes)
    assert "No ice is certain" in water.notice.text
    session.logbook.choose(holes[0].id)
    press(water, Qt.Key.Key_H, Qt.KeyboardModifier.ShiftModifier)
    qtbot.waitUntil(lambda: any(m.name.startswith("near hole") for m in session.logbook.marks))
    near = [m for m in session.logbook.marks if m.name.startswith("near hole")]
    first = Position(holes[0].latitude, holes[0].longitude)
    assert all(distance_m(Position(m.latitude, m.longitude), first) < 12.0 for m in near)
    session.history.undo()
    session.history.undo()
    assert len(session.logbook.marks) == before


def test_a_cast_to_the_chosen_mark_is_told_and_drawn(water):
    session = water.session
    place = session.chart.chart.plane.place(EAST + 300.0, NORTH + 300.0)
    session.conditions.set_number("wind_mps", 3.0)
    made = session.logbook.add_mark(
        Mark(
            water=session.water.name, kind=MarkKind.FISH, time=FIRST_PASS, latitude=place.latitude,
            longitude=place.longitude, depth_m=3.0, bottom_depth_m=6.0,
        )
    )  # fmt: skip
    session.logbook.choose(made.id)
    press(water, Qt.Key.Key_C, Qt.KeyboardModifier.ShiftModifier)
    assert session.sheet == "cast"
    assert "off" in text_of(water, "cast_head")
    assert "count" in text_of(water, "cast_words").lower()
    quiet = text_of(water, "cast_head")
    water.findChild(QComboBox, "cast_noise").setCurrentIndex(3)
    assert text_of(water, "cast_head") != quiet
    landed = cast_to(session, made, Noise.QUIET).land_m
    drag = water.findChild(QCheckBox, "cast_drag")
    assert not drag.isChecked()
    drag.click()
    assert "until it touches in" in text_of(water, "cast_words")
    assert cast_to(session, made, Noise.QUIET, drag=True).land_m != pytest.approx(landed)
    session.logbook.change_mark(replace(made, depth_m=None))
    session.logbook.choose(made.id)
    water.findChild(QComboBox, "cast_noise").setCurrentIndex(0)
    assert "no depth" in text_of(water, "cast_words")


def test_a_fish_on_the_bottom_is_offered_a_lure_dragged_over_it(water):
    session = water.session
    place = session.chart.chart.plane.place(EAST + 300.0, NORTH + 300.0)
    low = Mark(
        water=session.water.name, kind=MarkKind.FISH, time=FIRST_PASS, latitude=place.latitude,
        longitude=place.longitude, depth_m=5.7, bottom_depth_m=6.0,
    )  # fmt: skip
    session.logbook.choose(session.logbook.add_mark(low).id)
    press(water, Qt.Key.Key_C, Qt.KeyboardModifier.ShiftModifier)
    assert water.findChild(QCheckBox, "cast_drag").isChecked()
    assert "the line lifts it" in text_of(water, "cast_words")


def test_a_current_is_drawn_as_an_arrow_and_counts(water, qtbot):
    session, chart = water.session, water.picture("chart")
    press(water, Qt.Key.Key_A, Qt.KeyboardModifier.ShiftModifier)
    assert session.chart.tool is Tool.CURRENT
    start = QPoint(320, 260)
    QTest.mousePress(chart, Qt.MouseButton.LeftButton, pos=start)
    for x in (340, 362, 376):
        QTest.mouseMove(chart, QPoint(x, 260))
    assert not chart.grab().isNull()  # the arrow under the hand, with its speed
    QTest.mouseRelease(chart, Qt.MouseButton.LeftButton, pos=QPoint(376, 260))
    assert session.chart.tool is Tool.MOVE
    (mark,) = session.logbook.marks
    assert mark.name == "current 0.4 m/s to E"
    qtbot.waitUntil(lambda: bool(session.spots.facts.streams))
    stream = session.spots.facts.streams[0]
    assert (stream.speed_mps, stream.to_deg) == (0.4, 90.0)
    assert (stream.x, stream.y) == pytest.approx(chart.place_at(QPointF(start)), abs=1.0)
    press(water, Qt.Key.Key_Z)
    assert not session.logbook.marks
    press(water, Qt.Key.Key_A, Qt.KeyboardModifier.ShiftModifier)
    QTest.mouseClick(chart, Qt.MouseButton.LeftButton, pos=start)  # too short to be meant
    assert not session.logbook.marks


def test_a_dock_and_a_bridge_are_drawn_and_their_shade_counts(water, qtbot):
    session, chart = water.session, water.picture("chart")
    made = session.chart.chart

    def drag(start, end):
        press(water, Qt.Key.Key_R, Qt.KeyboardModifier.ShiftModifier)
        assert session.chart.tool is Tool.BUILT
        QTest.mousePress(chart, Qt.MouseButton.LeftButton, pos=start)
        QTest.mouseMove(chart, (start + end) / 2)
        QTest.mouseMove(chart, end)
        assert not chart.grab().isNull()  # the deck under the hand, with its length
        QTest.mouseRelease(chart, Qt.MouseButton.LeftButton, pos=end)
        assert session.chart.tool is Tool.MOVE

    middle = chart.at(*made.plane.to_xy(*_middle_of(made)))
    start = middle.toPoint()
    drag(start, start + QPoint(60, 0))
    (mark,) = session.logbook.marks
    long = 60 * session.chart.view.m_per_px
    assert mark.name == f"dock {long:.0f} m to 90°"
    qtbot.waitUntil(lambda: any(c.end is not None for c in session.spots.facts.cover))
    (cover,) = (c for c in session.spots.facts.cover if c.end is not None)
    assert cover.kind == "dock"
    assert cover.end == pytest.approx((cover.x + round(long), cover.y), abs=0.01)
    assert chart.place_at(chart.at(*cover.end))[0] - chart.place_at(QPointF(start))[0] == pytest.approx(long, abs=2)
    press(water, Qt.Key.Key_Z)
    assert not session.logbook.marks
    session.chart.zoom(0.3, (0.0, 0.0))
    drag(QPoint(4, chart.height() // 2), QPoint(chart.width() - 4, chart.height() // 2))
    (mark,) = session.logbook.marks
    assert mark.name.startswith("bridge ")  # from land to land
    press(water, Qt.Key.Key_Z)
    press(water, Qt.Key.Key_R, Qt.KeyboardModifier.ShiftModifier)
    QTest.mouseClick(chart, Qt.MouseButton.LeftButton, pos=start)  # too short to be meant
    assert not session.logbook.marks


def _middle_of(made):
    row, column = np.unravel_index(np.nanargmax(made.grid.depth_m), made.grid.depth_m.shape)
    place = made.plane.place(float(made.grid.frame.x[column]), float(made.grid.frame.y[row]))
    return place.latitude, place.longitude


def test_a_lane_runs_through_a_chosen_place_over_open_water(water, qtbot):
    session = water.session
    chart = session.chart.chart
    row, column = np.unravel_index(np.nanargmax(chart.grid.depth_m), chart.grid.depth_m.shape)
    x, y = float(chart.grid.frame.x[column]), float(chart.grid.frame.y[row])
    at = {"x": x, "y": y, "depth_top_m": 2.0, "depth_base_m": 4.0, "shape": np.array([[x, y]]), "deep_m": 0.0}
    open_water = replace(chart.features[0], kind=OPEN_WATER, **at)
    session.spots.set_facts(session.spots.facts, (open_water,))
    place = next(p for p in session.spots.places if p.feature is open_water)
    session.spots.choose(place)
    press(water, Qt.Key.Key_E)
    qtbot.waitUntil(lambda: "through" in water.notice.text, timeout=20_000)
    drawn = session.chart.drawn
    assert np.all(drawn.depth_m >= open_water.depth_base_m + 1.9)
    assert np.hypot(drawn.line[:, 0] - x, drawn.line[:, 1] - y).min() <= 3.0
    assert "for lures at" in water.notice.text
    session.spots.set_facts(session.spots.facts, (replace(open_water, depth_base_m=60.0),))
    session.spots.choose(next(p for p in session.spots.places if p.feature.kind == OPEN_WATER))
    press(water, Qt.Key.Key_E)
    qtbot.waitUntil(lambda: "No lane through here" in water.notice.text, timeout=20_000)


def test_weed_that_the_fans_saw_counts_as_cover(water):
    session, chart = water.session, water.session.chart.chart
    place = chart.plane.place(EAST + 300.0, NORTH + 300.0)
    tile = {"side": "port", "time_start": 0.0, "time_end": 4.0, "near_m": 7.0, "far_m": 12.0, "level_db": 2.0}
    patches = tuple(
        GroundPatch(
            kind=kind, chance=0.9, level_sd_db=1.8, latitude=place.latitude, longitude=place.longitude, **tile
        )
        for kind in ("weed", "stony")
    )
    document = session.scan.document
    sides = SideReading(time=np.zeros(0), altitude_m=np.zeros(0), ground=patches)
    document.reading = replace(document.reading, side=sides)
    (cover,) = FishedFor(session).cover(chart)
    assert cover.kind == "weed"
    assert (cover.x, cover.y) == pytest.approx((EAST + 300.0, NORTH + 300.0), abs=0.5)
