"""The view to the sides read back from a simulated pass, and small made-up ones where it has to keep silent."""

import math
from dataclasses import replace

import numpy as np
import pytest

from plumbbob.core import geodesy as geo
from plumbbob.core.geodesy import Plane, Position, utm_epsg
from plumbbob.core.sonar.corrections import Act, Correction
from plumbbob.core.sonar.mosaic import make_mosaic, usual_levels
from plumbbob.core.sonar.reading import EMPTY, Strung
from plumbbob.core.sonar.recording import EchoArray, Mount, Recording, Side, transducer_at
from plumbbob.core.sonar.side import read_side
from plumbbob.core.sonar.side_bed import follow_bed
from plumbbob.core.sonar.view_corrections import about_view, apply_views
from plumbbob.core.sonar.views import read_views
from plumbbob.sim.broken import Ground, broken_scene
from plumbbob.sim.down import simulate
from plumbbob.sim.scene import path_of
from tests.views import FLOOR_M, SIDE_FISH, side_scene, sides

DRAFT = 0.45


@pytest.fixture(scope="module")
def reading():
    return read_views(sides())


def met(along):
    """When a distance along the path is passed."""
    scene = side_scene()
    fine = np.arange(0.0, scene.seconds, 0.05)
    return scene.start_time + float(np.interp(along, path_of(scene, fine).along_m, fine))


def found_near(fish, along, aside):
    which = "port" if aside < 0 else "starboard"
    near = [
        f for f in fish if f.side == which and abs(f.time - met(along)) < 1.5 and abs(f.ground_m - abs(aside)) < 1.5
    ]
    return near[0] if len(near) == 1 else None


@pytest.mark.parametrize(("along", "aside", "depth"), SIDE_FISH)
def test_each_fish_is_found_once_with_its_height(reading, along, aside, depth):
    fish = found_near(reading.side.fish, along, aside)
    assert fish is not None
    assert fish.height_m == pytest.approx(FLOOR_M - depth, abs=0.4)
    assert fish.depth_m == pytest.approx(depth, abs=0.5)
    assert fish.ground_m == pytest.approx(abs(aside), abs=0.4)


def test_nothing_else_is_called_a_fish(reading):
    assert len(reading.side.fish) == len(SIDE_FISH)


def test_the_first_return_alone_tells_the_altitude():
    recording = sides()
    alone = follow_bed(recording.side).altitude_m
    with_down = read_views(recording).side.altitude_m
    assert np.nanmedian(np.abs(alone - (FLOOR_M - DRAFT))) < 0.15
    assert np.nanmedian(np.abs(with_down - (FLOOR_M - DRAFT))) < 0.15


def test_fish_are_placed_where_they_are_not_where_the_boat_was(reading):
    recording, scene = sides(), side_scene()
    for along, aside, _ in SIDE_FISH:
        fish = found_near(reading.side.fish, along, aside)
        boat = transducer_at(recording.track, recording.side.mount, np.array([fish.time]))
        east, north = geo.separation(boat.latitude[0], boat.longitude[0], fish.latitude, fish.longitude)
        assert math.hypot(float(east), float(north)) == pytest.approx(fish.ground_m, abs=0.05)
        # to the right of a heading of 30 degrees lies 120 degrees
        bearing = math.degrees(math.atan2(float(east), float(north))) % 360
        heading = scene.heading_deg(np.zeros(1))[0] + (90 if aside > 0 else -90)
        assert abs((bearing - heading + 180) % 360 - 180) < 5.0
        assert fish.position_sd_m > fish.ground_sd_m


def test_timber_and_brush_stand_with_their_heights(reading):
    kinds = {t.kind: t for t in reading.side.things}
    assert set(kinds) == {"timber", "brush"}
    assert kinds["timber"].side == "port"
    assert kinds["timber"].height_m == pytest.approx(2.2, abs=0.5)
    assert kinds["brush"].side == "starboard"
    assert kinds["brush"].height_m == pytest.approx(1.0, abs=0.35)
    assert kinds["brush"].length_m == pytest.approx(4.0, abs=1.5)


def test_an_edge_shows_by_a_shadow_that_grows_with_the_drop():
    def floor(x, aside):
        return FLOOR_M + 2.2 / (1 + np.exp(-(np.asarray(aside) - 13.0) / 0.3)) + 0.0 * x

    scene = side_scene(fish=(), rises=(), floor_m=floor)
    found = read_views(simulate(scene, seed=8)[0]).side
    edges = [t for t in found.things if t.kind == "edge"]
    assert edges
    assert {e.side for e in edges} == {"starboard"}
    assert edges[0].ground_m == pytest.approx(13.0, abs=1.5)
    assert edges[0].height_m == pytest.approx(2.2, rel=0.4)
    assert not found.fish


def test_stones_and_soft_ground_are_no_edge_but_a_lip_among_them_is():
    stony = Ground(depth_m=8.0, stones=14.0, patches_db=6.0, fish=0, seconds=60.0)
    bare = read_views(simulate(broken_scene(stony, 4), seed=4)[0]).side
    assert not [t for t in bare.things if t.kind == "edge"]
    lip = broken_scene(replace(stony, ledge_m=2.5, ledge_aside_m=9.0), 4)
    edges = [t for t in read_views(simulate(lip, seed=4)[0]).side.things if t.kind == "edge"]
    assert edges
    assert all(t.side == "starboard" and t.ground_m == pytest.approx(9.0, abs=1.5) for t in edges)


def test_a_line_of_fish_near_the_bottom_is_strung():
    fish = tuple(replace(side_scene().fish[2], along_m=10.0 + 7.0 * i) for i in range(6))
    found = read_views(simulate(side_scene(fish=fish, rises=()), seed=9)[0]).side
    assert len(found.strung) == 1
    assert len(found.strung[0].fish) >= 5
    assert found.strung[0].side == "port"


def test_speckle_alone_holds_nothing():
    rng = np.random.default_rng(2)
    n, samples = 400, 300
    power = rng.exponential(size=(2, n, samples))
    power[:, :, :100] *= 1e-4  # the water over the bottom
    levels = np.clip(60 + 10 * np.log10(power) / 0.3, 0, 255).astype(np.uint8)
    side = a_side(levels[0], levels[1])
    found = read_side(Recording(name="noise", side=side))
    assert found.fish == ()
    assert found.things == ()


def a_side(port, starboard, step=0.05):
    n = len(port)
    return Side(
        time=0.11 * np.arange(n),
        range_start_m=np.full(n, step / 2),
        range_step_m=np.full(n, step),
        scale_db=0.3,
        offset_db=-90.0,
        frequency_hz=455e3,
        tvg="20logR",
        mount=Mount(depth_m=0.3),
        sound_speed_mps=1480.0,
        port=EchoArray(port),
        starboard=EchoArray(starboard),
        beam_width_along_deg=1.0,
        beam_width_across_deg=60.0,
    )


@pytest.mark.parametrize("pings", [0, 1, 5])
def test_hardly_any_pings_are_no_trouble(pings):
    blank = np.zeros((pings, 200), np.uint8)
    found = read_side(Recording(name="short", side=a_side(blank, blank)))
    assert found.altitude_m.size == pings
    assert found.fish == ()


def test_no_side_no_reading():
    assert read_side(Recording(name="none")) is None


def test_a_person_can_take_a_fish_out_and_say_yes_to_one(reading):
    bare = Recording(name="none")
    fish = reading.side.fish[1]
    without = apply_views(reading, [about_view(fish, Act.REJECT)], bare)
    assert fish not in without.side.fish
    assert len(without.side.fish) == len(reading.side.fish) - 1
    said = apply_views(reading, [about_view(fish, Act.ACCEPT)], bare)
    assert [f.hand for f in said.side.fish].count("accepted") == 1
    # a correction of another side's fish finds nothing here
    other = replace(fish, side="port" if fish.side == "starboard" else "starboard")
    assert apply_views(reading, [about_view(other, Act.REJECT)], bare).side.fish == reading.side.fish
    assert apply_views(EMPTY, [about_view(fish, Act.REJECT)], bare).side is None


def test_the_swath_lies_where_the_fans_looked(reading):
    recording, plane = sides(), _plane()
    mosaic = make_mosaic(recording, reading.side.altitude_m, plane)
    timber = next(t for t in reading.side.things if t.kind == "timber")
    boat = transducer_at(recording.track, recording.side.mount, np.array([timber.time]))
    height = FLOOR_M - DRAFT

    def level_at(slant):
        """Mean level about the place on the bottom that a slant range abeam of the timber means."""
        ground = math.sqrt(slant**2 - height**2)
        east, north = geo.along_heading(boat.heading_deg[0], 0.0, -ground)
        x, y = plane.to_xy(*geo.offset(boat.latitude[0], boat.longitude[0], east, north))
        r, c = (int(v) for v in mosaic.frame.row_column(float(x), float(y)))
        return float(np.nanmean(mosaic.level_db[r - 1 : r + 2, c - 1 : c + 2]))

    assert level_at((timber.slant_m + timber.shadow_m) / 2) < -6.0  # its shadow
    assert level_at(timber.slant_m - 3.0) > -4.0  # the bottom before it
    known = np.isfinite(mosaic.level_db)
    # as much bottom as two swaths of the pass are long and wide
    reach = math.sqrt(recording.side.reach_m**2 - height**2)
    area = known.sum() * mosaic.frame.cell_m**2
    assert area == pytest.approx(2 * reach * 1.2 * 56.0, rel=0.15)


def _plane():
    return Plane(utm_epsg(Position(44.2048, -40.0572)))


def test_without_positions_there_is_no_swath(reading):
    recording = replace(sides(), track=None)
    assert make_mosaic(recording, reading.side.altitude_m, _plane()) is None


def test_usual_levels_even_the_bottom_out():
    recording = sides()
    heights = read_views(recording).side.altitude_m
    usual = usual_levels(recording.side, heights)
    raw = recording.side.port.read(0, 400).astype(float) * recording.side.scale_db + recording.side.offset_db
    far = slice(220, 460)
    flat = np.median(raw[:, far] - usual[far], axis=0)
    assert np.quantile(np.abs(flat), 0.95) < 1.5


def test_what_is_drawn_stands_in_its_order_and_lines_of_fish_stay_the_same(reading):
    bare, side = Recording(name="none"), reading.side
    first, *_, last = side.fish
    lined = replace(side, strung=(Strung(side=last.side, fish=(0, 1, 2), time_start=first.time, time_end=last.time),))
    draw = Correction(act=Act.DRAW, what=first.side, label="fish", time=first.time - 1.0, depth_m=first.slant_m + 2.0)
    made = apply_views(replace(reading, side=lined), [draw], bare).side
    assert made.fish[0].hand == "drawn"
    assert [made.fish[i] for i in made.strung[0].fish] == [side.fish[i] for i in (0, 1, 2)]
    # a reading that finds it by itself does not have it twice
    there = replace(draw, time=first.time, depth_m=first.slant_m)
    assert len(apply_views(reading, [there], bare).side.fish) == len(side.fish)
    # what was moved stays where a person put it, though a new reading lacks it
    gone = replace(about_view(first, Act.MOVE, to=(first.time, first.slant_m + 4.0)), depth_m=first.slant_m + 60.0)
    assert apply_views(reading, [gone], bare).side.fish[0].time == first.time
    assert len(apply_views(reading, [gone], bare).side.fish) == len(side.fish) + 1
