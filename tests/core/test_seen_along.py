"""What a pass saw along its way: nothing lost, stretches that are no luck, bait that drifts."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from plumbbob.core.sonar.evidence import gather
from plumbbob.core.sonar.read import read_down
from plumbbob.core.sonar.seen_along import BaitPatch, bait_drift, bait_patches, best_stretch, seen_along
from plumbbob.files.errors import FileError
from plumbbob.formats.seen_csv import all_seen, read_seen, write_seen
from tests.views import sides


@pytest.fixture(scope="module")
def seen(a_pass):
    return seen_along(*a_pass)


@pytest.fixture(scope="module")
def a_pass(passed):
    return passed[0], read_down(passed[0])


def test_nothing_is_lost_between_pieces(a_pass, seen):
    whole = gather(*a_pass)
    assert seen.volume_m3.sum() == pytest.approx(whole.volume_m3.sum(), rel=1e-6)
    assert seen.fish.sum() == whole.fish.sum() == len(a_pass[1].fish)
    assert seen.bait_m3.sum() == pytest.approx(whole.bait_m3.sum(), rel=0.15)
    assert np.all(np.diff(seen.time) > 0)
    volume, fish, _ = seen.within(0.0, 5.0)
    below, deeper, _ = seen.within(5.0, 1e4)
    assert volume.sum() + below.sum() == pytest.approx(seen.volume_m3.sum())
    assert fish.sum() + deeper.sum() == seen.fish.sum()


def test_a_pass_without_a_view_down_saw_nothing():
    recording = replace(sides(), down=None)
    assert seen_along(recording, read_down(recording)) is None


def test_it_is_kept_and_read_back_and_a_damaged_file_is_left_out(seen, tmp_path):
    write_seen(tmp_path / "a.csv", seen)
    again = read_seen(tmp_path / "a.csv")
    assert again.name == seen.name
    for name in ("volume_m3", "fish", "bait_m3"):
        ours, theirs = getattr(seen, name), getattr(again, name)
        rows, columns = (slice(0, n) for n in theirs.shape)
        assert np.allclose(ours[rows, columns], theirs, atol=0.006)
    text = (tmp_path / "a.csv").read_text(encoding="utf-8")
    for name, broken in (("b", text[:300] + "x"), ("c", text.replace("piece", "part")), ("d", "")):
        (tmp_path / f"{name}.csv").write_text(broken, encoding="utf-8")
        with pytest.raises(FileError):
            read_seen(tmp_path / f"{name}.csv")
    assert [s.name for s in all_seen(tmp_path)] == [seen.name]


def test_a_planted_stretch_is_found_and_its_rates_hold_the_truth():
    held, off, lucks = [], [], []
    for seed in range(20):
        rng = np.random.default_rng(seed)
        volume = rng.uniform(200, 800, 120)
        truth = np.where((np.arange(120) >= 60) & (np.arange(120) < 75), 2.0, 0.1)
        found = best_stretch(volume, rng.poisson(truth * volume / 1000).astype(float))
        off += [abs(found.first - 60), abs(found.last - 74)]
        lucks.append(found.luck)
        held += [found.rate[0] < 2.0 < found.rate[2], found.rate_outside[0] < 0.1 < found.rate_outside[2]]
    assert np.mean(held) >= 0.85
    assert np.median(off) <= 1
    assert np.mean(np.array(lucks) <= 0.05) >= 0.85
    assert np.mean(np.array(off) <= 5) >= 0.85


def test_even_water_shows_a_stretch_no_more_often_than_it_says():
    lucks = []
    for seed in range(60):
        rng = np.random.default_rng(seed)
        volume = rng.uniform(200, 800, 60)
        found = best_stretch(volume, rng.poisson(0.8 * volume / 1000).astype(float), seed=seed)
        lucks.append(1.0 if found is None else found.luck)
    assert np.mean(np.array(lucks) <= 0.05) <= 0.12
    assert np.mean(np.array(lucks) <= 0.5) <= 0.66


@given(st.lists(st.integers(0, 3), min_size=1, max_size=40), st.integers(1, 700))
@settings(max_examples=40)
def test_a_stretch_never_loses_a_fish(counts, longer):
    fish = np.resize(np.array(counts, float), longer)
    volume = np.full(longer, 300.0)
    found = best_stretch(volume, fish)
    if found is not None:
        assert found.fish + found.fish_outside == fish.sum()
        assert found.fish == fish[found.first : found.last + 1].sum()
        assert 0 <= found.first <= found.last < longer
        assert found.fish / found.volume_m3 > found.fish_outside / found.volume_outside_m3


def patch(time, x, y):
    return BaitPatch(time, x, y, 5.0)


def test_bait_that_is_met_again_tells_its_drift():
    rng = np.random.default_rng(1)
    before = [patch(0.0, *p) for p in rng.uniform(0, 2000, (6, 2))]
    after = [patch(3600.0, b.x + 80 + rng.normal(0, 5), b.y - 40 + rng.normal(0, 5)) for b in before]
    found = bait_drift(before, [*after[1:], patch(3600.0, 9000.0, 9000.0)])
    assert (found.east_m, found.north_m) == pytest.approx((80, -40), abs=10)
    assert len(found.before) == 5
    assert (found.seen_before, found.seen_after) == (6, 6)
    assert found.is_known
    assert found.sd_m < 10
    assert bait_drift(before, [patch(3600.0, 9000.0, 9000.0)]) is None
    assert bait_drift(after, before) is None  # time goes one way
    still = bait_drift([patch(0.0, 0.0, 0.0)], [patch(60.0, 4.0, 3.0)])
    assert not still.is_known


def test_bait_of_a_pass_is_one_patch_each(seen):
    bait = np.zeros_like(seen.bait_m3)
    few = min(len(seen.time) - 1, 9)
    bait[1, 3], bait[few, 4] = 4.0, 2.0
    with_bait = replace(seen, bait_m3=bait)
    x = 12.0 * np.arange(len(seen.time))
    found = bait_patches(with_bait, x, 0 * x)
    assert [p.x for p in found] == [12.0, 12.0 * few]
    assert [p.bait_m3 for p in found] == [4.0, 2.0]
    assert bait_patches(with_bait, np.full(x.size, np.nan), x) == ()
