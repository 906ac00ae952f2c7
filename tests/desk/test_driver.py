"""A hand that does anything, hundreds of times: no uncaught error, whatever it presses, types, drops or drags."""

import pytest
from tools.drive import some_files

from plumbbob.desk.app import DEMO_RECORDING, open_window
from plumbbob.desk.views.registry import commands_of
from plumbbob.formats.waters import data_path
from tests.desk.driver import Driver, settle


@pytest.mark.parametrize("seed", [20261127, 7])
def test_whatever_a_hand_does_nothing_breaks(qapp, tmp_path, seed):
    for name in ("files", "out"):
        (tmp_path / name).mkdir()
    window = open_window(tmp_path / "data", data_path(DEMO_RECORDING), demo=True)
    window.resize(1280, 800)
    settle(window)
    stale = set()

    def each(k):
        """Commands are looked at again only where something they hang on has changed: none may be missed."""
        if k % 10 == 0:
            for command in commands_of():
                action, session = window.actions_by_id[command.id], window.session
                if action.isEnabled() != command.may(session):
                    stale.add(f"{command.id} is {action.isEnabled()}")
                if command.checked is not None and action.isChecked() != bool(command.checked(session)):
                    stale.add(f"{command.id} checked {action.isChecked()}")

    driver = Driver(window, some_files(tmp_path / "files"), tmp_path / "out", seed)
    try:
        driver.run(float("inf"), most=150, each=each)  # counted in acts: a slow machine tries as much as a fast one
        settle(window)
    finally:
        driver.close()
        window.close()
    assert driver.errors == []
    assert stale == set()
    assert window.session.logbook.is_open is False
