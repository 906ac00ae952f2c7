"""Left of a picture: what to mark of it, in the order of marking, what was typed, and reading it."""

from __future__ import annotations

from datetime import datetime, tzinfo

from PySide6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QLineEdit, QToolButton, QVBoxLayout

from plumbbob.core.geodesy import parse_position, write_position
from plumbbob.core.sonar.picture import Looks, metres_at
from plumbbob.core.units import Kind
from plumbbob.desk.commands.actions import Actions
from plumbbob.desk.kit.widgets import Button, Field, WordField, label, panel_column
from plumbbob.desk.models.picture_model import Step
from plumbbob.desk.models.session import Session
from plumbbob.formats.waters import clock_of, time_zone_at
from plumbbob.wording.sonar import missing_words

_STEPS = (
    (Step.CORNERS, "photo.corners", "Corners"),
    (Step.NEAR, "photo.near", "Surface"),
    (Step.FAR, "photo.far", "A depth"),
    (Step.EARLY, "photo.clock", "Clocks"),
    (Step.RAMP, "photo.ramp", "Colours"),
)


class ScreenPicturePanel(QFrame):
    """Needs the session and the actions its buttons share."""

    def __init__(self, session: Session, actions: Actions) -> None:
        super().__init__()
        self._session = session
        photo, display = session.screen_picture, session.display
        column = panel_column(self, (16, 16, 14, 12), 7)
        column.addWidget(label("A PICTURE", "head"))
        self._name = label("", "value", name="photo_name")
        self._name.setWordWrap(True)
        column.addWidget(self._name)
        kinds = QHBoxLayout()
        self._kinds = {}
        for looks, words in ((Looks.DOWN, "down"), (Looks.SIDES, "to sides")):
            button = QToolButton()
            button.setText(words)
            button.setCheckable(True)
            button.setObjectName(f"photo_{looks.name.lower()}")
            button.clicked.connect(lambda _=False, k=looks: photo.set_looks(k))
            kinds.addWidget(button)
            self._kinds[looks] = button
        column.addLayout(kinds)
        self._offer = Button("Use the last picture's scale")
        self._offer.setObjectName("photo_offer")
        self._offer.clicked.connect(photo.take_offer)
        column.addWidget(self._offer)
        grid = QGridLayout()
        grid.setVerticalSpacing(5)
        grid.setColumnStretch(1, 1)
        self._steps = {}
        for row, (step, command, words) in enumerate(_STEPS):
            action = actions[command]
            button = QToolButton()
            button.setText(words)
            button.setToolTip(action.toolTip())
            button.setCheckable(True)
            button.setFixedWidth(92)
            button.setObjectName(command.replace(".", "_"))
            button.clicked.connect(action.trigger)
            grid.addWidget(button, row, 0)
            self._steps[step] = button
        self._far = Field(display, Kind.DEPTH, "photo_far_value")
        self._far.entered.connect(lambda v: self._say(photo.set_far_value(v)))
        self._far.refused.connect(self._say)
        self._far.fit("000.0 ft")
        grid.addWidget(self._far, 2, 1)
        clocks = QVBoxLayout()
        self._clocks = []
        for which in (0, 1):
            field = WordField(self._clock, self._read_clock, f"photo_clock_{which}")
            field.setFixedWidth(84)
            field.entered.connect(lambda v, k=which: self._say(photo.set_time(k, v)))
            field.refused.connect(self._say)
            clocks.addWidget(field)
            self._clocks.append(field)
        self._apart = Field(display, Kind.DISTANCE, "photo_apart")
        self._apart.fit("000.0 ft")
        self._apart.setPlaceholderText("apart")
        self._apart.setToolTip("How far the two marked places lie apart along the pass, if you know.")
        self._apart.entered.connect(lambda v: self._say(photo.set_apart(v)))
        self._apart.refused.connect(self._say)
        clocks.addWidget(self._apart)
        grid.addLayout(clocks, 3, 1)
        column.addLayout(grid)
        column.addWidget(label("Where it was taken", "muted"))
        self._place = QLineEdit()
        self._place.setObjectName("photo_place")
        self._place.setPlaceholderText("44.2061 N 40.0583 W")
        self._place.editingFinished.connect(self._typed_place)
        column.addWidget(self._place)
        track = QToolButton()
        track.setDefaultAction(actions["photo.track"])
        column.addWidget(track)
        self._spread = label("", "small", name="photo_spread")
        self._spread.setWordWrap(True)
        column.addWidget(self._spread)
        go = QToolButton()
        go.setDefaultAction(actions["photo.read"])
        go.setProperty("role", "main")
        column.addWidget(go)
        column.addStretch(1)
        column.addWidget(label("Not for navigation.", "small"))
        for signal in (photo.opened, photo.changed, display.changed, session.water_changed):
            signal.connect(self._show)
        self._show()

    def _say(self, line: str) -> None:
        if line:
            self._session.say(line, wrong=True)

    def _show(self) -> None:
        session = self._session
        photo, display = session.screen_picture, session.display
        scale = photo.scale
        self._name.setText(photo.path.name if photo.path is not None else "none open")
        for looks, button in self._kinds.items():
            button.setChecked(scale.looks is looks)
        down = scale.looks is Looks.DOWN
        self._steps[Step.NEAR].setText("Surface" if down else "Boat's line")
        self._steps[Step.FAR].setText("A depth" if down else "A range")
        marked = {
            Step.CORNERS: scale.corners,
            Step.NEAR: scale.near,
            Step.FAR: scale.far,
            Step.EARLY: scale.late,
            Step.RAMP: scale.ramp,
        }
        for step, button in self._steps.items():
            words = button.text().removesuffix(" ✓")
            button.setText(f"{words} ✓" if marked[step] is not None else words)
            button.setEnabled(photo.pixels is not None)
            button.setChecked(step is photo.step or (step is Step.EARLY and photo.step is Step.LATE))
        self._offer.setVisible(photo.offered is not None)
        self._far.set_value(photo.far_value)
        for which, field in enumerate(self._clocks):
            field.set_value(photo.times[which])
        self._apart.set_value(scale.apart_m)
        if not self._place.hasFocus():
            self._place.setText(write_position(photo.place) if photo.place is not None else "")
        if scale.missing is not None:
            self._spread.setText(f"Mark {missing_words(scale.missing)}." if photo.path is not None else "")
            return
        assert scale.near is not None
        assert scale.far is not None
        _, sd = metres_at(scale, (scale.near[0] + scale.far[0]) / 2)
        per = abs((scale.far[1] - scale.near[1]) / (scale.far[0] - scale.near[0]))
        kind = Kind.DEPTH
        unit = display.words(0.0, kind).split()[-1]
        text = (
            f"A pixel is {display.figure(per, kind, 2)} {unit}; readings ±{display.figure(2 * sd, kind, 2)} {unit}."
        )
        if photo.track is not None:
            text += f" Track of {len(photo.track)} points."
        self._spread.setText(text)

    # -- clocks and places as typed -----------------------------------------------------------------------------

    def _zone(self) -> tzinfo:
        """Clocks on a screen are those of the place it was taken at, else of the water."""
        place = self._session.screen_picture.place
        return self._session.water.clock if place is None else clock_of(time_zone_at(place))

    def _offset(self) -> float:
        """Seconds that the clock is ahead of UTC on the day the picture was taken."""
        shift = datetime.fromtimestamp(self._session.screen_picture.time, self._zone()).utcoffset()
        return 0.0 if shift is None else shift.total_seconds()

    def _clock(self, seconds: float) -> str:
        return datetime.fromtimestamp(seconds, self._zone()).strftime("%H:%M:%S")

    def _read_clock(self, text: str) -> float:
        """A time of day, on the day the picture was taken, in the water's own zone."""
        parts = text.strip().replace(".", ":").split(":")
        try:
            numbers = [int(p) for p in parts]
            hour, minute, second = [*numbers, 0, 0][:3]
            zone = self._zone()
            day = datetime.fromtimestamp(self._session.screen_picture.time, zone)
            return datetime(day.year, day.month, day.day, hour, minute, second, tzinfo=zone).timestamp()
        except (ValueError, IndexError) as exc:
            raise ValueError(f"{text!r} is no time of day: write 06:12:30") from exc

    def _typed_place(self) -> None:
        text = self._place.text().strip()
        if not self._place.isModified():
            return
        self._place.setModified(False)
        try:
            place = parse_position(text) if text else None
        except ValueError as exc:
            self._say(f"{exc}.")
            return
        before = self._offset()
        self._session.screen_picture.set_place(place)
        # typed clocks keep their digits when the place says another zone
        self._session.screen_picture.shift_times(before - self._offset())
