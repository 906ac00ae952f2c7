"""The command table, the themes, jobs: rules that need no window."""

import gc
import itertools
import subprocess
import sys
import threading
import weakref
from typing import ClassVar

import numpy as np
import pytest

from plumbbob.desk import jobs
from plumbbob.desk.commands.table import MENUS
from plumbbob.desk.jobs import JobRunner
from plumbbob.desk.kit.painted import Painted
from plumbbob.desk.models.echogram_raster import Raster, make_overview
from plumbbob.desk.models.viewport import Viewport
from plumbbob.desk.theme import THEMES, Light, contrast, luminance, ramp, style_sheet
from plumbbob.desk.views.registry import STAGES, commands_of

COMMANDS = commands_of()


def test_commands_have_one_id_a_menu_and_a_sentence():
    ids = [c.id for c in COMMANDS]
    assert len(ids) == len(set(ids))
    for command in COMMANDS:
        assert command.menu in MENUS
        assert command.help.endswith(".")
        assert command.title


def test_no_two_commands_share_a_key():
    for stage, mode in [*((s.name, "") for s in STAGES), ("run", "deck")]:
        heard = [c for c in COMMANDS if c.stage in ("", stage) and (c.in_modes or c.mode == mode)]
        keys = [k for c in heard for k in c.keys]
        assert len(keys) == len(set(keys)), stage
    assert (
        "Space" in dict(zip(("mark",), [next(c for c in COMMANDS if c.id == "mark.mark").keys], strict=True))["mark"]
    )


TEXTS = ("ink", "muted_text", "brass_text", "teal_text", "vermilion_text", "lichen_text")


@pytest.mark.parametrize(("text", "ground"), list(itertools.product(TEXTS, ("ground", "panel", "raised"))))
def test_day_text_can_be_read_in_the_sun(text, ground):
    day = THEMES[Light.DAY]
    assert contrast(getattr(day, text), getattr(day, ground)) >= 7.0
    assert contrast(day.on_fill, day.fill) >= 7.0


@pytest.mark.parametrize("light", [Light.DUSK, Light.NIGHT])
def test_other_lights_stay_readable(light):
    theme = THEMES[light]
    assert contrast(theme.ink, theme.panel) >= 4.5
    assert contrast(theme.on_fill, theme.fill) >= 4.5


@pytest.mark.parametrize("light", list(Light))
def test_echo_colours_change_lightness_one_way(light):
    steps = np.diff([luminance(f"#{c & 0xFFFFFF:06x}") for c in ramp(THEMES[light]).tolist()])
    assert (steps >= 0).all() or (steps <= 0).all()
    assert np.abs(steps).sum() > 0.3 or light is Light.NIGHT


def test_night_is_red_only():
    theme = THEMES[Light.NIGHT]
    for name in theme.__dataclass_fields__:
        value = getattr(theme, name)
        for colour in value if name == "echo" else [value]:
            if isinstance(colour, str):
                red, green, blue = (int(colour[k : k + 2], 16) for k in (1, 3, 5))
                assert red >= 1.5 * max(green, blue)


def test_the_style_sheet_names_no_colour_that_the_theme_does_not():
    theme = THEMES[Light.DUSK]
    known = {getattr(theme, n).upper() for n in theme.__dataclass_fields__ if isinstance(getattr(theme, n), str)}
    import re

    assert set(re.findall(r"#[0-9A-Fa-f]{6}", style_sheet(theme, 10.0))) <= known


def test_jobs_report_progress_results_failures_and_stop(qtbot):
    runner = JobRunner()
    results, trouble, gate = [], [], threading.Event()
    runner.failed.connect(trouble.append)

    def good(progress):
        progress(0.5)
        progress(1.0)
        return 42

    def bad(progress):
        raise ValueError("no")

    def endless(progress):
        gate.set()
        while True:
            progress(0.1)

    runner.start("good", good, results.append)
    runner.start("bad", bad, results.append)
    qtbot.waitUntil(lambda: not runner.live)
    assert results == [42]
    assert [str(t) for t in trouble] == ["no"]
    job = runner.start("endless", endless, results.append)
    assert gate.wait(5)
    job.cancel()
    qtbot.waitUntil(lambda: not runner.live)
    assert results == [42]
    runner.shut_down()


def test_a_job_that_has_ended_holds_nothing(qtbot):
    """What work was given, and what came of it, may be tens of megabytes: neither outlives its job."""

    class Load:
        pass

    runner, told = JobRunner(), []
    held = []
    for fail in (False, True):
        given, made = Load(), Load()
        held += [weakref.ref(given), weakref.ref(made)]

        def work(progress, given=given, made=made, fail=fail):
            progress(0.5)
            if fail:
                raise ValueError("no")
            return made

        job = runner.start("load", work, lambda result: None)
        job.then(lambda: told.append(len(runner.live)))
        held.append(weakref.ref(job))
    del given, made, work, job
    qtbot.waitUntil(lambda: not runner.live)
    gc.collect()
    assert told == [1, 0]
    assert [ref() for ref in held] == [None] * 6
    runner.shut_down()


def test_libraries_that_keep_state_by_thread_live_through_a_thousand_jobs():
    """In a process of its own: where they do not, it is the machine that ends it."""
    code = """
import time
import numpy as np
from PySide6.QtCore import QCoreApplication
from plumbbob.core.geodesy import Plane
from plumbbob.desk.jobs import JobRunner
app, runner, off = QCoreApplication([]), JobRunner(), []
lat = np.linspace(30.0, 50.0, 50)
def there_and_back(epsg):
    x, y = Plane(epsg).to_xy(lat, np.full(50, 6.0 * (epsg % 100) - 182.0))
    return abs(Plane(epsg).to_latlon(x, y)[0] - lat).max()
for k in range(1000):
    runner.start("turn", lambda progress, k=k: there_and_back(32601 + k % 60), off.append)
end = time.monotonic() + 60
while runner.live and time.monotonic() < end:
    app.processEvents()
    time.sleep(0.001)
print(len(off), max(off) < 1e-9)
runner.shut_down()
"""
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, timeout=100, check=False)
    assert (done.returncode, done.stdout.split()) == (0, ["1000", "True"]), done.stderr[-500:]


def test_brief_work_goes_before_all_that_waits(qtbot):
    runner, order, gate = JobRunner(), [], threading.Event()
    for _ in range(2):
        runner.start("long", lambda progress: gate.wait(5), lambda result: None)
    for name in ("first", "second"):
        runner.start(name, lambda progress: None, lambda result, name=name: order.append(name))
    runner.start("brief", lambda progress: order.append("brief"), lambda result: None, brief=True)
    gate.set()
    qtbot.waitUntil(lambda: not runner.live)
    assert order[0] == "brief"
    assert sorted(order[1:]) == ["first", "second"]
    runner.shut_down()


def test_memory_a_job_has_freed_goes_back_to_the_system(qtbot, monkeypatch):
    trimmed = []

    class Libc:
        @staticmethod
        def malloc_trim(pad):
            trimmed.append(pad)

    monkeypatch.setattr(jobs.ctypes, "CDLL", lambda name: Libc)
    runner = JobRunner()
    runner.start("load", lambda progress: None, lambda result: None)
    qtbot.waitUntil(lambda: trimmed == [0])
    runner.start("load", lambda progress: None, lambda result: None)  # not after each of many
    qtbot.waitUntil(lambda: not runner.live)
    runner.shut_down()
    assert trimmed == [0]


def test_an_error_while_painting_leaves_the_window_standing(qtbot, qtlog):
    class Broken(Painted):
        seen: ClassVar = []

        def paint(self, painter):
            self.seen.append(painter)  # as the traceback of an error does
            raise ValueError("no")

    widget = Broken()
    qtbot.addWidget(widget)
    with qtbot.captureExceptions() as caught:
        widget.show()
        for times in (1, 2):
            qtbot.waitUntil(lambda times=times: len(widget.seen) >= times)
            widget.update()
        widget.hide()
    assert len(caught) == len(widget.seen)
    assert not any(painter.isActive() for painter in widget.seen)
    assert not [r.message for r in qtlog.records if "active painter" in r.message]


@pytest.mark.parametrize("span", [(0, 576), (100, 180), (300, 540)])
def test_the_picture_shows_a_lone_loud_ping_at_any_zoom(passed, span):
    down = passed[0].down
    raster = Raster(down)
    raster.set_overview(make_overview(down, lambda f: None))
    fish = passed[1]["fish"][0]
    ping = int(np.searchsorted(down.time, fish["time"]))
    view = Viewport(float(span[0]), float(span[1]), 0.0, down.deepest_m)
    while True:
        pixels = raster.render(view, 300, 400, 0.0)
        if not raster.incomplete:
            break
    assert pixels.shape == (400, 300)
    if span[0] <= ping < span[1]:
        x = int((ping - span[0]) / (span[1] - span[0]) * 300)
        y = int(fish["depth"] / down.deepest_m * 400)
        around = pixels[y - 6 : y + 7, max(x - 3, 0) : x + 4].max()
        assert around > pixels[y - 40 : y - 20, max(x - 3, 0) : x + 4].max() + 30


def test_core_and_cli_load_without_qt():
    code = (
        "import sys, pkgutil, importlib, plumbbob.core as core, plumbbob.cli, plumbbob.store.log, plumbbob.sim.down\n"
        "for m in pkgutil.walk_packages(core.__path__, 'plumbbob.core.'): importlib.import_module(m.name)\n"
        "sys.exit(any(n.startswith('PySide6') for n in sys.modules))"
    )
    assert subprocess.run([sys.executable, "-c", code], check=False).returncode == 0
