"""A picture of a screen in the real window: opened, scaled by clicks, straightened, read as a pass."""

import zlib

import numpy as np
import pytest
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent, QImage, QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLabel, QLineEdit, QToolButton

from plumbbob.core.sonar.picture import Looks, metres_at
from plumbbob.core.sonar.read import read_down
from plumbbob.desk.app import open_window
from plumbbob.desk.models.picture_model import Step
from plumbbob.desk.tasks.load_picture import pixels_of, read_pixels
from plumbbob.desk.views.plumbline import PlumbLine
from plumbbob.files.errors import FileError
from plumbbob.formats.picture_scale import beside, read_scale
from plumbbob.sim.screen import photographed, screen_of
from tests.core.test_picture import CORNERS, DEEP, a_pass
from tests.desk.conftest import press, wait_for

WIDE, HIGH = 700, 420


def as_image(pixels):
    high, wide = pixels.shape[:2]
    return QImage(pixels.tobytes(), wide, high, 3 * wide, QImage.Format.Format_RGB888).copy()


@pytest.fixture(scope="module")
def pictures(tmp_path_factory, qapp):
    """A screen as it was drawn, and a photo of it."""
    folder = tmp_path_factory.mktemp("pictures")
    screen = screen_of(a_pass().down, DEEP, WIDE, HIGH)
    as_image(screen).save(str(folder / "screen.png"))
    photo = photographed(screen, CORNERS, (1040, 660), np.random.default_rng(1))
    as_image(photo).save(str(folder / "photo.jpg"), quality=92)
    return folder


@pytest.fixture(scope="module")
def shared(tmp_path_factory, qapp):
    made = open_window(tmp_path_factory.mktemp("desk"), None)
    made.resize(1280, 800)
    made.show()
    wait_for(lambda: made.session.logbook.is_open and not made.session.jobs.live)
    yield made
    made.close()


@pytest.fixture
def window(shared):
    shared.session.settings.remove("scales/last")
    shared.session.set_stage("scan")
    shared.activateWindow()
    wait_for(shared.isActiveWindow)
    return shared


@pytest.fixture
def said(window):
    lines = []

    def hear(line, wrong):
        lines.append((line, wrong))

    window.session.said.connect(hear)
    yield lines
    window.session.said.disconnect(hear)


def show(window, pictures, tmp_path, name):
    """Open a copy of one's own."""
    own = tmp_path / name
    own.write_bytes((pictures / name).read_bytes())
    window.open_photo(own)
    wait_for(lambda: window.session.screen_picture.path == own and window.session.view.name == "picture")
    window.picture("picture").grab()
    return own


def click(window, x, y):
    at = window.picture("picture").at(x, y)
    QTest.mouseClick(window.picture("picture"), Qt.MouseButton.LeftButton, pos=QPoint(round(at.x()), round(at.y())))


def enter(window, name, text):
    field = window.findChild(QLineEdit, name)
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, text)
    QTest.keyClick(field, Qt.Key.Key_Return)
    window.picture("picture").setFocus()


def read_it(window):
    scan = window.session.scan
    before = scan.recording
    press(window, Qt.Key.Key_F8)
    wait_for(lambda: scan.recording is not before and scan.document.is_read)
    wait_for(lambda: not window.session.jobs.live)


def test_a_screenshot_is_read_in_five_actions(window, pictures, tmp_path):
    own = show(window, pictures, tmp_path, "screen.png")
    photo = window.session.screen_picture
    press(window, Qt.Key.Key_F3)  # 1
    assert "surface" in photo.asked
    click(window, 300.0, 0.4)  # 2
    assert photo.step is Step.FAR
    click(window, 300.0, 15.0 / DEEP * HIGH)  # 3
    enter(window, "photo_far_value", "15 m")  # 4
    assert photo.scale.far[1] == pytest.approx(15.0)
    assert "A pixel is" in window.findChild(QLabel, "photo_spread").text()
    read_it(window)  # 5
    scan = window.session.scan
    assert window.session.view.name == "down"
    bottom = scan.reading.bottom.depth_m
    true = read_down(a_pass()).bottom.depth_m
    _, sd = metres_at(photo.scale, 13.0 / DEEP * HIGH)
    assert abs(float(np.nanmedian(bottom)) - float(np.nanmedian(true))) < DEEP / HIGH + 2 * sd
    assert read_scale(beside(own)) == photo.scale
    # marks need no place of the boat to be refused kindly
    press(window, Qt.Key.Key_Space)


def test_a_photo_is_straightened_by_four_corners(window, pictures, tmp_path):
    show(window, pictures, tmp_path, "photo.jpg")
    photo, picture = window.session.screen_picture, window.picture("picture")
    press(window, Qt.Key.Key_F2)
    for k, corner in enumerate(CORNERS):
        assert ("top left", "top right", "bottom right", "bottom left")[k] in photo.asked
        click(window, *corner)
        picture.grab()  # with its magnifier
    assert photo.scale.corners is not None
    assert photo.step is Step.NEAR
    high, wide = photo.pixels.shape[:2]
    click(window, wide / 2, 0.5)
    photo.set_far_value(15.0)
    click(window, wide / 2, 15.0 / DEEP * high)
    # the cursor reads depth with its spread, and the plumb line hangs level with the picture
    photo.set_cursor((wide / 2, 9.0 / DEEP * high))
    value, sd, _ = photo.read_at(photo.cursor)
    assert value == pytest.approx(9.0, abs=3 * sd + DEEP / high)
    picture.grab()
    assert picture.at(0.0, 9.0 / DEEP * high).y() == pytest.approx(window.findChild(PlumbLine).y_of(value), abs=2.0)
    read_it(window)
    true = read_down(a_pass()).bottom.depth_m
    found = window.session.scan.reading.bottom.depth_m
    assert abs(float(np.nanmedian(found)) - float(np.nanmedian(true))) < 0.15


def test_a_scale_is_offered_for_the_next_picture_of_the_same_size(window, pictures, tmp_path, said):
    show(window, pictures, tmp_path, "screen.png")
    photo = window.session.screen_picture
    press(window, Qt.Key.Key_F3)
    click(window, 200.0, 0.4)
    photo.set_far_value(15.0)
    click(window, 200.0, 15.0 / DEEP * HIGH)
    read_it(window)
    first = photo.scale
    second = tmp_path / "next"
    second.mkdir()
    show(window, pictures, second, "screen.png")
    assert photo.offered is not None
    assert "offered" in said[-1][0]
    window.findChild(QToolButton, "photo_near")  # the panel is there
    photo.take_offer()
    assert (photo.scale.near, photo.scale.far) == (first.near, first.far)
    show(window, pictures, tmp_path, "photo.jpg")  # another size: nothing is offered
    assert photo.offered is None
    show(window, pictures, tmp_path, "screen.png")
    window.session.screen_picture.set_looks(Looks.DOWN)


def test_what_was_kept_beside_a_picture_is_taken_up_again(window, pictures, tmp_path, said):
    own = show(window, pictures, tmp_path, "screen.png")
    press(window, Qt.Key.Key_F3)
    click(window, 200.0, 0.4)
    click(window, 200.0, 300.0)
    read_it(window)
    kept = window.session.screen_picture.scale
    window.open_photo(own)
    wait_for(lambda: any("scale is known" in line for line, _ in said))
    assert window.session.screen_picture.scale == kept
    beside(own).write_text("{")
    window.open_photo(own)
    wait_for(lambda: any("left as it is" in line and wrong for line, wrong in said))
    assert beside(own).read_text() == "{"


def test_wrong_clicks_get_a_line_and_lose_nothing(window, pictures, tmp_path, said):
    show(window, pictures, tmp_path, "screen.png")
    photo = window.session.screen_picture
    press(window, Qt.Key.Key_F3)
    click(window, 200.0, 300.0)
    click(window, 200.0, 100.0)  # a depth above the surface
    assert said[-1] == ("The deeper mark has to lie below the shallower one.", True)
    assert photo.scale.near is not None
    assert photo.scale.far is None
    click(window, 200.0, 400.0)
    assert photo.scale.far is not None
    enter(window, "photo_far_value", "0")
    assert "same value" in said[-1][0]
    enter(window, "photo_clock_0", "25:99")
    assert "no time of day" in said[-1][0]
    enter(window, "photo_place", "somewhere")
    assert "no position" in said[-1][0]
    press(window, Qt.Key.Key_F2)
    for corner in (CORNERS[1], CORNERS[0], CORNERS[2], CORNERS[3]):
        photo.click(corner[0] / 2, corner[1] / 2)
    assert photo.scale.corners is None
    press(window, Qt.Key.Key_Escape)
    assert photo.step is Step.NONE


def test_clocks_and_a_place_give_marks_a_time_and_a_place(window, pictures, tmp_path, said):
    show(window, pictures, tmp_path, "screen.png")
    session = window.session
    press(window, Qt.Key.Key_F3)
    click(window, 200.0, 0.4)
    click(window, 200.0, 300.0)
    enter(window, "photo_clock_0", "06:10:00")
    enter(window, "photo_clock_1", "06:11:00")
    press(window, Qt.Key.Key_F6)
    assert session.screen_picture.step is Step.EARLY
    click(window, 2.0, 50.0)
    assert session.screen_picture.step is Step.LATE
    click(window, 698.0, 50.0)
    assert session.screen_picture.scale.late is not None
    enter(window, "photo_clock_1", "06:10:00")
    assert "two equal times" in said[-1][0].lower()
    assert window.findChild(QLineEdit, "photo_clock_1").text() == "06:11:00"
    assert session.screen_picture.times[1] - session.screen_picture.times[0] == 60.0
    enter(window, "photo_place", "44.2061 N 40.0583 W")
    assert session.screen_picture.place.latitude == pytest.approx(44.2061)
    read_it(window)
    assert session.clock(session.scan.lead.time[0]).startswith(("06:09:59", "06:10:00"))
    session.scan.set_cursor(100, 5.0)
    press(window, Qt.Key.Key_Space)
    mark = max(session.logbook.marks, key=lambda m: m.id)
    assert (mark.latitude, mark.longitude) == (pytest.approx(44.2061, abs=1e-4), pytest.approx(-40.0583, abs=1e-4))
    # a picture is no survey: the chart and the day's evidence are left alone
    assert not window.tasks.charter.folder.has_pass("screen.png")


def test_a_known_way_between_two_marks_gives_lengths_along_the_pass(window, pictures, tmp_path, said):
    show(window, pictures, tmp_path, "screen.png")
    session = window.session
    press(window, Qt.Key.Key_F3)
    click(window, 200.0, 0.4)
    click(window, 200.0, 300.0)
    press(window, Qt.Key.Key_F6)
    click(window, 100.0, 50.0)
    click(window, 600.0, 50.0)
    enter(window, "photo_apart", "0")
    assert "above zero" in said[-1][0]
    enter(window, "photo_apart", "90 m")
    read_it(window)
    early, late = session.screen_picture.scale.early, session.screen_picture.scale.late
    assert session.scan.document.speed_mps == pytest.approx(90.0 / (late[1] - early[1]))
    assert session.scan.boat_place() is None
    # beside the picture itself nothing of the pass is told as if it were the picture's
    assert window.findChild(QLabel, "clock").text()
    session.show("picture")
    assert window.findChild(QLabel, "when").text() == "a picture off a screen"
    assert not any(window.findChild(QLabel, name).text() for name in ("clock", "place", "bed"))


def test_pictures_are_dropped_and_pasted(window, pictures, tmp_path, said):
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(pictures / "photo.jpg"))])
    at = QPointF(500, 300)
    dropped = QDropEvent(
        at, Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    )
    window.dropEvent(dropped)
    wait_for(
        lambda: (
            window.session.screen_picture.path is not None and window.session.screen_picture.path.name == "photo.jpg"
        )
    )
    QApplication.clipboard().setImage(QImage(str(pictures / "screen.png")))
    press(window, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
    wait_for(lambda: window.session.screen_picture.path.name.startswith("pasted"))
    assert window.session.screen_picture.path.is_file()
    QApplication.clipboard().clear()
    press(window, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
    assert said[-1] == ("There is no picture to paste.", True)


def test_the_picture_zooms_about_the_mouse_and_is_dragged(window, pictures, tmp_path):
    show(window, pictures, tmp_path, "screen.png")
    picture = window.picture("picture")
    about = QPointF(300.0, 200.0)
    before = picture.pixel_at(about)
    wheel = QWheelEvent(
        about, about, QPoint(), QPoint(0, 240), Qt.MouseButton.NoButton, Qt.KeyboardModifier.NoModifier,
        Qt.ScrollPhase.NoScrollPhase, False,
    )  # fmt: skip
    picture.wheelEvent(wheel)
    after = picture.pixel_at(about)
    assert after == (pytest.approx(before[0], abs=0.01), pytest.approx(before[1], abs=0.01))
    wide = picture.frame.width()
    press(window, Qt.Key.Key_I)
    assert picture.frame.width() > wide
    at = picture.pixel_at(about)
    QTest.mousePress(picture, Qt.MouseButton.LeftButton, pos=QPoint(300, 200))
    QTest.mouseMove(picture, QPoint(260, 200))
    QTest.mouseRelease(picture, Qt.MouseButton.LeftButton, pos=QPoint(260, 200))
    assert picture.pixel_at(about)[0] > at[0]
    press(window, Qt.Key.Key_A)
    assert picture.frame.width() <= picture.width() + 1


@pytest.mark.parametrize(
    "content", [b"", b"not a picture", b"\x89PNG\r\n\x1a\n" + b"\0" * 60, b"\xff\xd8\xff\xe0" + b"x" * 90]
)
def test_broken_files_get_a_line_and_leave_what_is_open(window, tmp_path, said, content):
    path = tmp_path / "broken.png"
    path.write_bytes(content)
    before = window.session.screen_picture.path
    window.open_photo(path)
    wait_for(lambda: any(wrong and "broken.png" in line for line, wrong in said))
    assert window.session.screen_picture.path == before
    with pytest.raises(FileError):
        read_pixels(path)


def test_pixels_are_the_image(tmp_path, qapp):
    pixels = np.random.default_rng(0).integers(0, 255, (37, 53, 3)).astype(np.uint8)
    image = as_image(pixels)
    assert np.array_equal(pixels_of(image), pixels)
    image.save(str(tmp_path / "a.png"))
    assert np.array_equal(read_pixels(tmp_path / "a.png"), pixels)


def test_far_too_many_pixels_are_refused_before_they_are_read(tmp_path, qapp):
    def chunk(kind, data):
        return len(data).to_bytes(4, "big") + kind + data + zlib.crc32(kind + data).to_bytes(4, "big")

    path = tmp_path / "huge.png"
    size = (20_000).to_bytes(4, "big") * 2
    path.write_bytes(
        b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", size + b"\x08\x02\0\0\0") + chunk(b"IDAT", zlib.compress(bytes(99)))
    )
    with pytest.raises(FileError, match="400 megapixels"):
        read_pixels(path)
