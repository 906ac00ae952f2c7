"""A pass that grows, and its reading: what was handed out never changes, the pieces tell what the whole tells."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plumbbob.core.live.fixes import Fix
from plumbbob.core.live.growing import GrowingPass, GrowingRows, NewPing, Sounder, since
from plumbbob.core.live.rolling import Growing, reaching, read_on, read_others_on
from plumbbob.core.sonar.evidence import gather
from plumbbob.core.sonar.recording import Mount
from plumbbob.core.sonar.views import read_views
from plumbbob.services.live_echoes import new_ping, sounder_of
from plumbbob.sim.serve import header_of, wire_ping
from tests.views import ahead, sides

DOWN = Sounder(
    view="down",
    scale_db=0.5,
    offset_db=-120.0,
    sound_speed_mps=1480.0,
    mount=Mount(depth_m=0.3),
    tvg="none",
    frequency_hz=2e5,
    pulse_length_s=1e-4,
    beam_width_deg=20.0,
)


def ping(time, samples=4, value=1):
    return NewPing(time, 0.0, 0.1, np.full((1, samples), value, np.uint8))


@given(st.lists(st.integers(0, 9), max_size=30), st.integers(1, 12))
def test_rows_hold_the_newest_and_what_was_shown_stays(blocks, most):
    rows, all_of_them, shown = GrowingRows((), np.float64, most), [], []
    for size in blocks:
        block = np.arange(len(all_of_them), len(all_of_them) + size, dtype=float)
        all_of_them += block.tolist()
        rows.append(block)
        shown.append((rows.values, rows.values.tolist()))
        assert len(rows) <= most
        assert len(rows) + rows.dropped == len(all_of_them)
        assert rows.values.tolist() == all_of_them[rows.dropped :]
    assert all(values.tolist() == kept for values, kept in shown)


def test_a_pass_holds_so_much_and_says_what_went():
    growing = GrowingPass("a.nc", held_bytes=512 * 4)
    for k in range(0, 900, 9):
        growing.add_pings(DOWN, [ping(float(t), value=t % 251) for t in range(k, k + 9)])
        growing.add_fix(Fix(time=float(k), latitude=44.2, longitude=-40.0))
    down = growing.recording().down
    assert len(down) + growing.dropped["down"] == 900
    assert 300 < len(down) <= 512
    assert np.diff(down.time).tolist() == [1.0] * (len(down) - 1)
    assert (down.echo.read(0, len(down))[:, 0] == down.time.astype(int) % 251).all()
    assert len(growing.recording().track) == 100


def test_late_pings_are_left_and_longer_ones_widen():
    growing = GrowingPass("a.nc")
    growing.add_pings(DOWN, [ping(1.0), ping(2.0), ping(1.5), ping(3.0, samples=6, value=7)])
    before = growing.recording().down
    growing.add_pings(DOWN, [ping(2.5), ping(4.0, samples=9)])
    down = growing.recording().down
    assert down.time.tolist() == [1.0, 2.0, 3.0, 4.0]
    assert (before.samples, down.samples) == (6, 9)
    assert down.echo.read(2, 3)[0].tolist() == [7] * 6 + [0] * 3
    version = growing.version
    growing.add_fix(Fix(time=1.0, latitude=44.0, longitude=0.0))
    growing.add_fix(Fix(time=1.0, latitude=45.0, longitude=0.0))
    assert growing.version != version
    assert growing.recording().track.latitude.tolist() == [44.0]


def test_wider_pings_are_held_in_no_more_room():
    growing = GrowingPass("a.nc", held_bytes=100_000)
    growing.add_pings(DOWN, [ping(float(t), samples=10) for t in range(5000)])
    growing.add_pings(DOWN, [ping(float(t), samples=1000) for t in range(5000, 5200)])
    down = growing.recording().down
    assert len(down) * down.samples <= 100_000
    assert len(down) + growing.dropped["down"] == 5200
    assert down.time[-1] == 5199.0
    assert down.echo.read(len(down) - 1, len(down))[0].tolist() == [1] * 1000


def test_a_clock_that_was_set_back_begins_anew():
    growing = GrowingPass("a.nc")
    growing.add_pings(DOWN, [ping(float(t)) for t in range(1000, 1100)])
    growing.add_fix(Fix(time=1000.0, latitude=44.0, longitude=0.0))
    late = [ping(float(t)) for t in range(100, 140)]
    growing.add_pings(DOWN, late[:10])
    assert growing.recording().down.time[-1] == 1099.0
    growing.add_pings(DOWN, late[10:])
    down = growing.recording().down
    assert down.time.tolist() == [float(t) for t in range(119, 140)]
    assert len(down) + growing.dropped["down"] == 121
    for t in range(100, 130):
        growing.add_fix(Fix(time=float(t), latitude=44.0, longitude=0.0))
    assert growing.recording().track.time[-1] == 129.0


def as_it_comes(recording, step_s=1.0):
    """What a listener holds after each second of a recording, over the wire's own words."""
    growing = GrowingPass(recording.name)
    views = [v for v in (recording.down, recording.side, recording.forward) if v is not None]
    start, end = min(v.time[0] for v in views), max(v.time[-1] for v in views)
    track = recording.track
    for now in np.arange(start + step_s, end + step_s, step_s):
        for i in np.flatnonzero((track.time > now - step_s) & (track.time <= now)):
            place = {"latitude": float(track.latitude[i]), "longitude": float(track.longitude[i])}
            moving = {"speed_mps": float(track.speed_mps[i]), "course_deg": float(track.course_deg[i])}
            growing.add_fix(Fix(time=float(track.time[i]), **place, **moving))
        for view in views:
            header = header_of(view)
            low, high = np.searchsorted(view.time, (now - step_s, now))
            came = [wire_ping(view, i, float(view.time[i])) for i in range(low, high)]
            growing.add_pings(sounder_of(header), [new_ping(header, p) for p in came])
        yield growing.recording()


def test_a_rolling_reading_tells_what_the_whole_tells():
    growing = Growing()
    for second, recording in enumerate(as_it_comes(sides()), 1):
        growing = read_on(recording, growing, long=second % 12 == 0)
        if second % 12 == 0:
            growing = read_others_on(recording, growing, long=True)
        assert growing.reading.bottom.depth_m.size == len(recording.down)
    growing = read_others_on(recording, growing, long=False)
    whole = read_views(recording)
    found = growing.reading
    assert np.nanmean(np.abs(found.bottom.depth_m - whole.bottom.depth_m) < 0.1) > 0.98
    assert [f.depth_m for f in found.fish] == pytest.approx([f.depth_m for f in whole.fish], abs=0.3)
    matched = [any(abs(f.time - g.time) < 1.0 and f.side == g.side for g in whole.side.fish) for f in found.side.fish]
    assert matched.count(True) >= len(whole.side.fish) - 1 > 0
    assert growing.sure_until < recording.down.time[-1] - 5.0
    # pings that came since have no bottom yet, and count for no water that was looked at
    part = since(recording, float(recording.down.time[0]) - 1.0)
    longer = reaching(found, part)
    assert longer.bottom.depth_m.size == len(part.down)
    half = reaching(read_on(recording, Growing(), long=True).reading, recording)
    assert gather(recording, half).volume_m3.sum() > 0


def test_ahead_rolls_too():
    growing = Growing()
    for second, recording in enumerate(as_it_comes(ahead(), 2.0), 1):
        growing = read_others_on(recording, growing, long=second % 6 == 0)
    tracks = growing.reading.ahead.tracks
    assert 1 <= sum(t.kind == "fish" for t in tracks) <= 4
    assert growing.reading.ahead.bottom_depth_m.size == len(recording.forward)
