"""What is listened to: a row for each wire with its state in words; addresses typed, serial ports found."""

from __future__ import annotations

from PySide6.QtWidgets import QComboBox, QGridLayout, QHBoxLayout, QLabel, QLineEdit, QVBoxLayout, QWidget

from plumbbob.desk.kit.sheet import Sheet
from plumbbob.desk.kit.widgets import Button, clear, label, set_role
from plumbbob.desk.models.session import Session
from plumbbob.desk.tasks.listen import KINDS, LiveListener

_KIND_WORDS = {"nmea": "position, NMEA 0183", "gpsd": "position, gpsd", "pings": "pings of a sounder"}
_STATE_WORDS = {"connected": "good", "silent": "silent", "lost": "lost, tried again", "waiting": "no answer yet"}
_EXAMPLES = {
    "nmea": "tcp://host:10110, udp://0.0.0.0:10110 or serial:/dev/ttyUSB0:4800",
    "gpsd": "localhost:2947",
    "pings": "tcp://host:port",
}


def source_words(source: dict[str, object]) -> str:
    """A wire's state in a line."""
    words = _STATE_WORDS.get(str(source["state"]), str(source["state"]))
    age = source.get("age")
    if isinstance(age, int | float):
        words += f", last good {max(age, 0.0):.1f} s ago"
    if source["state"] in ("lost", "waiting", "silent") and source.get("why"):
        words += f" ({source['why']})"
    left = source.get("left_out")
    if isinstance(left, dict) and left:
        words += "; left out: " + ", ".join(f"{n} {reason}" for reason, n in left.items())
    return words


class ListenSheet(Sheet):
    """Needs the session and who listens."""

    def __init__(self, session: Session, listener: LiveListener, parent: QWidget) -> None:
        super().__init__(session, "listen", "Listen to position and sounder", parent, over=True)
        self._listener = listener
        self._rows: list[tuple[str, str]] = []
        self._grid = QGridLayout()
        self._grid.setHorizontalSpacing(14)
        self._grid.setColumnStretch(2, 1)
        self.body.addLayout(self._grid)
        adding = QHBoxLayout()
        self._kind, self._address = QComboBox(), QLineEdit()
        self._kind.setObjectName("listen_kind")
        self._address.setObjectName("listen_address")
        for kind in KINDS:
            self._kind.addItem(_KIND_WORDS[kind], kind)
        self._kind.currentIndexChanged.connect(self._show_example)
        self._address.returnPressed.connect(self._add)
        add = Button("Add")
        add.setObjectName("listen_add")
        add.clicked.connect(self._add)
        adding.addWidget(self._kind)
        adding.addWidget(self._address, 1)
        adding.addWidget(add)
        self.body.addLayout(adding)
        self._ports = QVBoxLayout()
        self.body.addLayout(self._ports)
        self._told = label("", "small", name="listen_told")
        self._told.setWordWrap(True)
        self.body.addWidget(self._told)
        self.finish("Listen", self._go, cancel=False)
        self.first = self._address
        self._go_button = self.findChild(Button, "sheet_listen_go")
        self._states: list[QLabel] = []
        session.live.changed.connect(self._show_states)

    def fill(self) -> None:
        """The wires of last time."""
        self._rows = self._listener.addresses
        clear(self._ports)
        known = {text for _, text in self._rows}
        for kind, address in self._listener.heard_here() if not self.session.live.is_on else ():
            if address not in known:
                button = Button(f"Add {address}, which answers on this computer")
                button.setObjectName(f"listen_here_{kind}")
                button.clicked.connect(lambda _=False, k=kind, a=address: self._take(k, a))
                self._ports.addWidget(button)
        for device in self._listener.serial_ports()[:4]:
            address = f"serial:{device}:4800"
            if address not in known:
                button = Button(f"Add {device}, 4800 baud")
                button.clicked.connect(lambda _=False, a=address: self._take("nmea", a))
                self._ports.addWidget(button)
        self._show_example()
        self._show_rows()

    def _show_example(self) -> None:
        self._address.setPlaceholderText(_EXAMPLES[str(self._kind.currentData())])

    def _add(self) -> None:
        text = self._address.text().strip()
        if text:
            self._take(str(self._kind.currentData()), text)

    def _take(self, kind: str, text: str) -> None:
        from plumbbob.services.live import wire_of

        try:
            wire_of(kind, text)
        except ValueError as exc:
            self.session.say(f"{exc}.", wrong=True)
            return
        if (kind, text) not in self._rows:
            self._rows.append((kind, text))
        self._address.clear()
        self._listener.keep(self._rows)
        self._show_rows()
        self.place()

    def _drop(self, row: tuple[str, str]) -> None:
        self._rows.remove(row)
        self._listener.keep(self._rows)
        self._show_rows()
        self.place()

    def _show_rows(self) -> None:
        clear(self._grid)
        self._states = []
        live = self.session.live
        rows = [(s["kind"], s["name"]) for s in live.sources] if live.is_on else self._rows
        for k, (kind, text) in enumerate(rows):
            self._grid.addWidget(label(_KIND_WORDS.get(kind, kind), "muted"), k, 0)
            self._grid.addWidget(label(text, "value"), k, 1)
            state = label("", "why", name=f"listen_state_{k}")
            state.setWordWrap(True)
            self._states.append(state)
            self._grid.addWidget(state, k, 2)
            if not live.is_on:
                away = Button("Remove")
                away.clicked.connect(lambda _=False, row=(kind, text): self._drop(row))
                self._grid.addWidget(away, k, 3)
        if not rows:
            words = "Nothing yet: type an address below. The first one is preferred."
            self._grid.addWidget(label(words, "muted"), 0, 0)
        self._show_states()

    def _show_states(self) -> None:
        live = self.session.live
        if self._go_button is not None:
            self._go_button.setText("Stop listening" if live.is_on else "Listen")
        if not self.isVisible():
            return
        if live.is_on and len(live.sources) != len(self._states):
            self._show_rows()
            self.place()
            return
        for state, source in zip(self._states, live.sources if live.is_on else (), strict=False):
            state.setText(source_words(source))
            set_role(state, "why" if source["state"] == "connected" else "warn")
        pings = ", ".join(f"{n} {view}" for view, n in live.pings.items() if n)
        words = f"{live.fixes} fixes" + (f"; pings: {pings}" if pings else "")
        name = live.recording.name if live.recording is not None else ""
        self._told.setText("; ".join([f"Recording {name}: {words}", *live.trouble]) if live.is_on else "")

    def _go(self) -> None:
        if self.session.live.is_on:
            self._listener.end()
            return
        try:
            self._listener.begin(self._rows)
        except ValueError as exc:
            self.session.say(f"{exc}.", wrong=True)
            return
        self._show_rows()
