"""`plumbbob review` from the command line."""

import json

from click.testing import CliRunner

from plumbbob.cli import main
from plumbbob.formats.waters import data_path
from plumbbob.services.log_archive import import_log
from plumbbob.store.opening import open_log
from tests.services.test_review import a_log

KEYS = {"trips", "rod_hours", "fish", "rate", "low", "high", "enough"}


def run(*arguments):
    return CliRunner().invoke(main, ["review", *map(str, arguments)])


def test_one_object_a_line_one_a_log(tmp_path):
    first = a_log(tmp_path)
    (tmp_path / "b").mkdir()
    second = a_log(tmp_path / "b", efforts=None)
    made = run(first, second, "--json")
    assert made.exit_code == 0, made.output
    one, two = map(json.loads, made.stdout.splitlines())
    assert (one["log"], two["log"]) == (str(first), str(second))
    for bins in one["rates"].values():
        assert all(set(b) >= KEYS for b in bins)
    assert (two["rates"], two["findings"], two["fish"]) == ({}, [], 2)
    assert "effort" in two["why"]


def test_what_is_no_log_is_said_and_the_others_are_still_answered(tmp_path):
    other = tmp_path / "x"
    other.mkdir()
    made = run(other, a_log(tmp_path), "--json")
    assert made.exit_code == 2
    lines = [json.loads(line) for line in made.stdout.splitlines()]
    assert "log.json" in lines[0]["why"]
    assert lines[1]["trips"] == 2
    assert made.stderr.count("\n") == 1
    assert run(tmp_path / "none.log.zip").exit_code == 2


def test_a_log_of_ones_own_says_the_same_as_its_open_files(tmp_path):
    log = open_log(tmp_path / "own.db").log
    import_log(log, data_path("demo.log.zip"))
    log.close()
    own, files = (json.loads(run(p, "--json").stdout) for p in (tmp_path / "own.db", data_path("demo.log.zip")))
    assert {k: v for k, v in own.items() if k != "log"} == {k: v for k, v in files.items() if k != "log"}


def test_sentences_for_a_reader():
    made = run(data_path("demo.log.zip"))
    assert made.exit_code == 0
    assert "At Larch Flat you catch" in made.output
    assert "amber jig 14 g" in made.output
    assert "nan" not in made.output
