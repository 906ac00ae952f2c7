"""A minute of a hand that does anything: no uncaught error, whatever is pressed, typed, dropped or dragged."""

import pytest
from tools.drive import some_files

from plumbbob.desk.app import DEMO_RECORDING, data_path, open_window
from tests.desk.driver import Driver, settle


@pytest.mark.parametrize("seed", [20261127, 7])
def test_whatever_a_hand_does_nothing_breaks(qapp, tmp_path, seed):
    for name in ("files", "out"):
        (tmp_path / name).mkdir()
    window = open_window(tmp_path / "data", data_path(DEMO_RECORDING), demo=True)
    window.resize(1280, 800)
    settle(window)
    driver = Driver(window, some_files(tmp_path / "files"), tmp_path / "out", seed)
    try:
        count = driver.run(30.0)
        settle(window)
    finally:
        driver.close()
        window.close()
    assert driver.errors == []
    assert count > 100
    assert window.session.logbook.is_open is False
