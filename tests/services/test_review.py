"""Reviews of logs as they come: odd rows are counted and left out, and every log gets an answer."""

import json

import numpy as np
import pytest

from plumbbob.core.units import System
from plumbbob.files.errors import FileError
from plumbbob.formats.log_frames import frames_of, read_frames
from plumbbob.services.review import (
    Cut,
    choices_of,
    cut_frames,
    fish_by_trip,
    review_cells,
    review_file,
    review_frames,
)
from plumbbob.services.review_json import review_json
from plumbbob.services.review_record import record_of
from plumbbob.services.review_report import write_review
from plumbbob.sim.records import made_record
from plumbbob.sim.season import season_log
from plumbbob.wording import review as words

ABOUT = '{"format": "plumbbob-log", "version": 1}'
WATERS = "water,latitude,longitude,time_zone\nVeyra Lake,44.2,-40.05,Etc/GMT+3\n"
TRIPS = "trip,water,start,end\nt1,Veyra Lake,2026-06-01T08:00:00Z,2026-06-01T12:00:00Z\n" \
        "t2,Veyra Lake,2026-06-03T08:00:00Z,2026-06-03T12:00:00Z\n"  # fmt: skip
EFFORTS = "effort,trip,start,end,rods,lure_depth_m,bottom_m,spot\n" \
          "e1,t1,2026-06-01T08:00:00Z,2026-06-01T10:00:00Z,1,5,9,a\n" \
          "e2,t1,2026-06-01T10:00:00Z,2026-06-01T11:00:00Z,2,7,9,b\n" \
          "e3,t2,2026-06-03T08:00:00Z,2026-06-03T11:00:00Z,1,5,9,a\n"  # fmt: skip
CATCHES = "catch,effort,trip,time,species,length_m\nc1,e1,t1,2026-06-01T09:00:00Z,kokanee,0.3\n" \
          "c2,e3,t2,2026-06-03T09:00:00Z,kokanee,0.31\n"  # fmt: skip


def a_log(folder, **tables):
    """A log as a folder; tables by name as text, None leaves one out."""
    out = folder / "log"
    out.mkdir()
    (out / "log.json").write_text(ABOUT)
    given = {"waters": WATERS, "trips": TRIPS, "efforts": EFFORTS, "catches": CATCHES} | tables
    for name, text in given.items():
        if text is not None:
            (out / f"{name}.csv").write_bytes(text if isinstance(text, bytes) else text.encode())
    return out


def answer(path):
    """The JSON of a review, through JSON and back."""
    return json.loads(json.dumps(review_json(str(path), review_file(path)), allow_nan=False))


def test_a_plain_log_is_counted_rightly(tmp_path):
    said = answer(a_log(tmp_path))
    assert (said["trips"], said["rod_hours"], said["fish"], said["left_out"]) == (2, 7.0, 2, {})
    assert said["rate_per_rod_hour"] == pytest.approx(2 / 7, abs=1e-4)
    spots = {b["value"]: b for b in said["rates"]["spot"]}
    assert (spots["a"]["rod_hours"], spots["a"]["fish"], spots["a"]["trips"]) == (5.0, 2, 2)
    for bins in said["rates"].values():
        for b in bins:
            assert b["low"] <= b["rate"] <= b["high"]
            assert b["enough"] or b["more_rod_hours"] > 0
            assert ("value" in b) != ("from" in b and "to" in b)
    assert said["findings"] == []


ODD = {
    "ends before it starts": ({"efforts": EFFORTS + "e4,t1,2026-06-01T12:00:00Z,2026-06-01T11:00:00Z,1,5,9,a\n"}, 1),
    "rods below 0": ({"efforts": EFFORTS + "e4,t2,2026-06-03T11:00:00Z,2026-06-03T12:00:00Z,-1,5,9,a\n"}, 1),
    "rods by the hundred": ({"efforts": EFFORTS + "e4,t2,2026-06-03T11:00:00Z,2026-06-03T12:00:00Z,300,5,9,a\n"}, 1),
    "no times": ({"efforts": EFFORTS + "e4,t2,,yesterday,1,5,9,a\n"}, 1),
    "a week long": ({"efforts": EFFORTS + "e4,t2,2026-06-03T11:00:00Z,2026-06-13T12:00:00Z,1,5,9,a\n"}, 1),
    "the same row twice": ({"efforts": EFFORTS + EFFORTS.splitlines()[1] + "\n"}, 1),
    "an id that is taken": ({"efforts": EFFORTS + "e1,t2,2026-06-03T11:00:00Z,2026-06-03T12:00:00Z,1,5,9,b\n"}, 1),
    "overlaps its like": ({"efforts": EFFORTS + "e4,t1,2026-06-01T08:30:00Z,2026-06-01T09:30:00Z,1,5,9,a\n"}, 1),
    "a negative depth": ({"efforts": EFFORTS.replace(",1,5,9,a\n", ",1,-5,9,a\n", 1)}, 1),
    "a depth that is none": ({"efforts": EFFORTS.replace(",1,5,9,a\n", ",1,deep,9,a\n", 1)}, 1),
    "a fish outside any effort": ({"catches": CATCHES + "c3,,t2,2026-06-03T20:00:00Z,kokanee,0.3\n"}, 1),
    "a fish of no known effort": ({"catches": CATCHES + "c3,e99,t2,2026-06-03T09:30:00Z,kokanee,0.3\n"}, 1),
    "a fish hours beside its effort": ({"catches": CATCHES + "c3,e1,t1,2026-06-02T09:30:00Z,kokanee,0.3\n"}, 1),
    "a zone that is none": ({"waters": WATERS.replace("Etc/GMT+3", "Nowhere/Atall")}, 1),
    "a zone that leads out": ({"waters": WATERS.replace("Etc/GMT+3", "../../etc/passwd")}, 1),
    "a latitude beyond the pole": ({"waters": WATERS.replace("44.2", "144.2")}, 0),
    "cells beyond the columns": ({"efforts": EFFORTS + "e4,t2,2026-06-03T11:00:00Z,x,1,5,9,a,b,c\n"}, 1),
    "a mark of the order of bytes and nuls": ({"efforts": b"\xef\xbb\xbf" + EFFORTS.encode() + b"\0\n"}, 0),
    "bytes that are no UTF-8": ({"trips": TRIPS.encode().replace(b"Veyra", b"V\xe9yra")}, 0),
    "an open quote": ({"trips": TRIPS + 't3,"Veyra Lake\n'}, 0),
    "no trips": ({"trips": None}, 0), "no waters": ({"waters": None}, 0), "empty trips": ({"trips": ""}, 0),
    "no catches": ({"catches": None}, 0), "only heads": ({"efforts": EFFORTS.splitlines()[0] + "\n"}, 2),
    "columns there twice": ({"efforts": EFFORTS.replace("spot\n", "spot,spot\n", 1)}, 0),
}  # fmt: skip


@pytest.mark.parametrize("odd", ODD)
def test_odd_logs_are_answered_and_what_is_left_out_is_counted(tmp_path, odd):
    tables, counted = ODD[odd]
    said = answer(a_log(tmp_path, **tables))
    assert sum(said["left_out"].values()) == counted, said["left_out"]
    assert said["rod_hours"] in (0.0, 7.0)  # what is left is as before
    assert said["rod_hours"] > 0 or said["why"]


def test_like_rods_at_the_same_time_are_two_rods(tmp_path):
    twin = "e4,t1,2026-06-01T08:00:00Z,2026-06-01T10:00:00Z,1,5,9,a\n"
    assert answer(a_log(tmp_path, efforts=EFFORTS + twin))["rod_hours"] == 9.0


def test_a_fish_that_names_no_effort_goes_to_the_one_that_ran_at_its_depth(tmp_path):
    efforts = EFFORTS + "e4,t1,2026-06-01T08:00:00Z,2026-06-01T10:00:00Z,1,12,19,b\n"
    catches = "catch,effort,trip,time,species,lure_depth_m\nc1,,t1,2026-06-01T09:00:00Z,kokanee,11.5\n"
    spots = {
        b["value"]: b["fish"] for b in answer(a_log(tmp_path, efforts=efforts, catches=catches))["rates"]["spot"]
    }
    assert spots == {"a": 0, "b": 1}


def test_clocks_that_change_are_those_of_the_day(tmp_path):
    waters = WATERS.replace("Etc/GMT+3", "Europe/Berlin")
    efforts = EFFORTS.replace("2026-06-03", "2026-12-03")
    read = record_of(read_frames(a_log(tmp_path, waters=waters, efforts=efforts)))
    assert read.record.utc_offset_s.tolist() == [7200.0, 7200.0, 3600.0]


@pytest.mark.parametrize(("name", "text"), [("log.json", "{}"), ("log.json", "["), ("x", "")])
def test_what_is_no_log_is_refused_in_one_line(tmp_path, name, text):
    (tmp_path / name).write_text(text)
    with pytest.raises(FileError) as refused:
        review_file(tmp_path)
    assert "\n" not in str(refused.value)


@pytest.fixture(scope="module")
def seasons():
    return frames_of(season_log().tables)


@pytest.fixture(scope="module")
def reviewed(seasons):
    return review_frames(seasons)


def test_the_demo_holds_three_truths_and_two_traps_that_are_named(reviewed):
    said = review_json("demo", reviewed)
    found = {f["by"]: f for f in said["findings"]}
    assert found["spot"]["value"] == "Larch Flat"
    assert found["spot"]["ratio"] > 2
    assert found["light"]["value"] == "night"
    assert found["light"]["ratio"] < 0.6
    assert 6.0 <= found["lure_depth"]["from"] < 8.0 < found["lure_depth"]["to"] <= 10.5
    assert set(found) == {"spot", "light", "lure_depth"}
    for finding in said["findings"]:
        assert finding["sentence"].endswith(".")
        assert finding["against"].startswith("But ")
    explained = {e.get("value"): e["sentence"] for e in said["explained"]}
    assert "Larch Flat" in explained["amber jig 14 g"]
    assert "everything caught more" in explained["pearl blade 12 g"]


def test_a_part_of_a_log_holds_only_that(seasons, reviewed):
    choices = choices_of(seasons)
    assert choices.years == (2025, 2026)
    assert "Tern Pond" in choices.waters
    whole = reviewed.review
    parts = [record_of(cut_frames(seasons, Cut(water=w))) for w in choices.waters]
    assert sum(p.record.hours.sum() for p in parts) == pytest.approx(whole.hours)
    years = [record_of(cut_frames(seasons, Cut(year=y))) for y in choices.years]
    assert sum(y.record.catch_effort.size for y in years) == whole.fish
    perch = record_of(cut_frames(seasons, Cut(species="yellow perch")))
    assert perch.record.hours.sum() == pytest.approx(whole.hours)  # effort for all fish is effort for this one
    assert 0 < perch.record.catch_effort.size < whole.fish
    spoon = record_of(cut_frames(seasons, Cut(lure="spoon 18 g")))
    assert set(spoon.record.words["lure"].names) == {"spoon 18 g"}
    assert fish_by_trip(reviewed).sum() == whole.fish


def test_rates_come_before_findings_and_the_share_grows():
    heard = []
    made = made_record(3, plant=True, evidence="fair")
    review_cells(made.tables, lambda so_far, share: heard.append((share, len(so_far.review.rates))))
    shares = [share for share, _ in heard]
    assert shares == sorted(shares)
    assert heard[0][1] == 1


def test_most_planted_effects_with_plenty_of_evidence_are_found_and_their_intervals_hold():
    found, held = 0, []
    for seed in range(600_000, 600_012):
        made = made_record(seed, plant=True, evidence="plenty", ratio=4.0)
        said = review_json("x", review_cells(made.tables))
        effect = made.effects[0]
        here = [f for f in said["findings"] if f["by"] == effect.by]
        found += bool(here)
        held += [f["low"] <= 4.0 * 1.05 and f["high"] > 1.0 for f in here if f["ratio"] > 1]
    assert found >= 7
    assert np.mean(held) > 0.8


def test_sidelines_say_what_else_the_log_holds(reviewed, seasons):
    catches = seasons.tables["catches"]
    said = " ".join(review_json("demo", reviewed)["sidelines"])
    assert f"of {len(catches)} fish went back" in said
    lost = (seasons.tables["contacts"]["kind"] == "lost").sum()
    assert f"Of {lost + len(catches)} fish that were hooked {lost} came off." in said


def test_pages_tell_no_place_unless_asked(tmp_path, reviewed):
    left = write_review(tmp_path / "a.pdf", reviewed, words.metric, places=False)
    assert left[0] == "rates by place"
    assert write_review(tmp_path / "b.pdf", reviewed, lambda kind: System.US, places=True) == []
    small, large = ((tmp_path / n).stat().st_size for n in ("a.pdf", "b.pdf"))
    assert (tmp_path / "a.pdf").read_bytes().startswith(b"%PDF")
    assert small < large
    with pytest.raises(FileError):
        write_review(tmp_path / "no" / "c.pdf", reviewed, words.metric, places=False)
