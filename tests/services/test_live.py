"""Listening over real sockets and a real terminal line: recorded, told every second, whatever the wires do."""

import json
import os
import pty
import signal
import socket
import subprocess
import sys
import threading
import time
import tty
from dataclasses import replace

import numpy as np
import pytest

from plumbbob.core.live.fixes import Fix
from plumbbob.formats.recording import read_recording
from plumbbob.services.live import LiveSession, SourceState, Tape, Wire, wire_of
from plumbbob.sim.serve import FAULTS, StandIn, fix_sentences, header_of, wire_ping
from tests.views import ahead, sides


@pytest.fixture(scope="module")
def played():
    """A pass with a track, fans to the sides and ahead."""
    return [sides(), replace(ahead(), track=None)]


def listen(tmp_path, wires, seconds, name="day.nc"):
    """What was told, and the status."""
    told = []
    session = LiveSession(tmp_path / name, wires, told.append)
    status = session.run(seconds)
    return told, status, tmp_path / name


def wires_of(stand_in):
    kinds = {"nmea": "nmea", "gpsd": "gpsd"}
    return [Wire(kinds.get(w, "pings"), "tcp", "127.0.0.1", p.number) for w, p in stand_in.ports.items()]


def served(played, **how):
    stand_in = StandIn(played, **how)
    stand_in.start()
    return stand_in


def test_all_views_and_positions_go_into_one_recording(played, tmp_path):
    stand_in = served(played, speed=4.0)
    told, status, path = listen(tmp_path, wires_of(stand_in), 3.2)
    stand_in.stop()
    assert status == 0
    assert all(s["state"] == "connected" for s in told[-1]["sources"])
    assert not told[-1]["trouble"]
    back = read_recording(path)
    assert told[-1]["fixes"] == len(back.track.time) > 4
    for view in stand_in.ports.keys() & {"down", "side", "forward"}:
        assert told[-1]["pings"][view] == len(getattr(back, view)) > 3
    assert np.all(np.diff(back.track.time) > 0)
    truth = played[0].track
    near = np.interp(back.track.time - back.track.time[0], truth.time - truth.time[0], truth.latitude)
    assert np.abs(near - back.track.latitude).max() < 2e-4
    # every second one line
    times = [t["time"] for t in told[:-1]]
    assert np.all(np.abs(np.diff(times) - 1.0) < 0.4)


@pytest.mark.parametrize(
    "faults", [("dirt", "checksum", "cut"), ("void", "jump", "clock"), ("huge", "view", "talkers")]
)
def test_faults_are_counted_and_the_good_goes_on(played, tmp_path, faults):
    stand_in = served(played, faults=faults, speed=8.0)
    told, status, path = listen(tmp_path, wires_of(stand_in), 3.2)
    stand_in.stop()
    assert status == 0
    counted = {reason for s in told[-1]["sources"] for reason in s["left_out"]}
    assert {"checksum", "void", "jump", "clock"} & set(faults) <= counted
    back = read_recording(path)
    truth = played[0].track
    spread = np.abs(back.track.latitude - truth.latitude.mean()).max()
    assert spread < np.abs(truth.latitude - truth.latitude.mean()).max() + 1e-4
    assert np.abs(back.track.longitude - truth.longitude.mean()).max() < 0.004  # no jump of half a kilometre
    assert np.all(np.diff(back.track.time) > 0)
    if "talkers" in faults:
        assert "25 m apart" in told[-1]["trouble"][0]
    for view in ("side", "forward"):
        if getattr(back, view) is not None:
            assert len(getattr(back, view)) > 3


def test_states_say_what_a_wire_does(tmp_path):
    silent = socket.create_server(("127.0.0.1", 0))
    nobody = socket.create_server(("127.0.0.1", 0))
    number = nobody.getsockname()[1]
    nobody.close()
    told, _, _ = listen(
        tmp_path,
        [Wire("nmea", "tcp", "127.0.0.1", silent.getsockname()[1]), Wire("pings", "tcp", "127.0.0.1", number)],
        1.3,
    )
    silent.close()
    assert [s["state"] for s in told[-1]["sources"]] == ["silent", "waiting"]
    assert told[-1]["sources"][1]["why"]
    assert told[-1]["sources"][0]["age"] is None
    state = SourceState(Wire("nmea", "tcp", "h", 1), was_open=True, is_open=True, last_good=10.0)
    assert [state.state(t) for t in (12.0, 14.0)] == ["connected", "silent"]
    state.is_open = False
    assert state.state(12.0) == "lost"


def test_a_lost_wire_is_found_again(played, tmp_path):
    stand_in = served(played, speed=4.0)
    ports = {what: port.number for what, port in stand_in.ports.items()}
    again = []

    def restart():
        time.sleep(1.2)
        stand_in.stop()
        time.sleep(0.6)
        again.append(served(played, ports=ports, speed=4.0))

    helper = threading.Thread(target=restart)
    helper.start()
    told, _, path = listen(tmp_path, wires_of(stand_in)[:1], 5.0)
    helper.join()
    again[0].stop()
    assert "lost" in [t["sources"][0]["state"] for t in told]
    assert told[-1]["sources"][0]["state"] == "connected"
    assert len(read_recording(path).track.time) == told[-1]["fixes"]


def test_udp_and_a_serial_line(played, tmp_path):
    """A datagram needs no line end; a line is a pseudo terminal, as real as the system has without a cable."""
    track = played[0].track
    main, far = pty.openpty()
    tty.setraw(main)
    device = os.ttyname(far)
    free = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
    free.bind(("127.0.0.1", 0))
    number = free.getsockname()[1]
    free.close()
    stop = threading.Event()

    def say():
        out = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
        k = 0
        while not stop.wait(0.2):
            sentences = fix_sentences(track, k % len(track.time), time.time())
            out.sendto(sentences[0].rstrip(b"\r\n"), ("127.0.0.1", number))
            os.write(main, b"".join(sentences))
            k += 1
        out.close()

    helper = threading.Thread(target=say)
    helper.start()
    wires = [wire_of("nmea", f"udp://127.0.0.1:{number}"), wire_of("nmea", f"serial:{device}:4800")]
    told, _, _ = listen(tmp_path, wires, 2.6)
    stop.set()
    helper.join()
    os.close(main)
    os.close(far)
    assert [s["state"] for s in told[-1]["sources"]] == ["connected", "connected"]
    assert all(s["good"] > 3 for s in told[-1]["sources"])
    assert told[-1]["fixes"] > 3


@pytest.mark.parametrize(
    ("kind", "text"),
    [
        ("nmea", "serial:/dev/x"),
        ("nmea", "tcp://host"),
        ("nmea", "host:99"),
        ("pings", "udp://h:1"),
        ("gpsd", "h:70000"),
        ("nmea", "tcp://:12"),
    ],
)
def test_an_address_that_is_none_is_said_in_one_line(kind, text):
    with pytest.raises(ValueError, match=r"address|port"):
        wire_of(kind, text)


def test_the_command_records_until_it_is_told_to_stop(played, tmp_path):
    stand_in = served(played, speed=4.0)
    address = f"tcp://127.0.0.1:{stand_in.ports['nmea'].number}"
    out = tmp_path / "day.nc"
    command = [sys.executable, "-m", "plumbbob.cli", "live", "--out", str(out), "--nmea", address, "--json"]
    running = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
    first = json.loads(running.stdout.readline())
    running.stdout.readline()
    running.send_signal(signal.SIGTERM)
    rest = running.stdout.read().splitlines()
    stand_in.stop()
    assert running.wait(10) == 0
    assert {"time", "recording", "fixes", "pings", "sources", "trouble"} <= first.keys()
    assert json.loads(rest[-1])["fixes"] == len(read_recording(out).track.time)
    twice = subprocess.run(command, capture_output=True, text=True, timeout=30)
    assert twice.returncode == 2
    assert twice.stderr.count("\n") == 1
    nothing = subprocess.run([*command[:6], "--json"], capture_output=True, text=True, timeout=30)
    assert nothing.returncode == 2


def test_faults_that_are_none_are_refused(played):
    with pytest.raises(ValueError, match="no fault"):
        StandIn(played, faults=("rain",))
    assert len(FAULTS) >= 10


def test_a_tape_goes_on_in_another_file_by_size_and_by_day(tmp_path):
    recording, days, names = sides(), ["one"], iter(tmp_path / f"{k}.nc" for k in range(1, 9))
    tape = Tape(tmp_path / "0.nc", lambda: next(names), most_bytes=250_000, day_of=lambda: days[-1])
    header = header_of(recording.down)
    assert tape.open_view(header)
    told = []
    for i in range(400):
        tape.add_ping("down", wire_ping(recording.down, i, float(recording.down.time[i])))
        if i % 40 == 39:
            tape.commit()
            told.append(tape.pings["down"])
    by_size = len(tape.paths)
    assert by_size >= 2
    days.append("two")
    tape.add_fix(Fix(time=1e9, latitude=44.0, longitude=-40.0))
    tape.commit()
    assert len(tape.paths) == by_size + 1
    tape.close()
    assert told == list(range(40, 440, 40))
    back = [read_recording(path) for path in tape.paths]
    times = [float(t) for r in back if r.down is not None for t in r.down.time]
    assert times == recording.down.time[:400].tolist()
    assert sum(len(r.track) for r in back if r.track is not None) == 1


def test_a_tape_without_another_name_goes_on_as_it_is(tmp_path):
    (tmp_path / "1.nc").write_bytes(b"mine")
    tape = Tape(tmp_path / "0.nc", lambda: tmp_path / "1.nc", most_bytes=1)
    tape.add_fix(Fix(time=1e9, latitude=44.0, longitude=-40.0))
    tape.commit()
    tape.add_fix(Fix(time=1e9 + 1, latitude=44.0, longitude=-40.0))
    tape.commit()
    tape.close()
    assert (tmp_path / "1.nc").read_bytes() == b"mine"
    assert len(read_recording(tmp_path / "0.nc").track) == 2
