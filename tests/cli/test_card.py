"""`plumbbob card`: two pages of paper from a plan, and a text to leave ashore."""

import json
import re

import pytest
from click.testing import CliRunner

from plumbbob.cli.commands import main
from plumbbob.formats.day_card import card_json
from tests.formats.test_day_files import made_card


def run(*args):
    return CliRunner().invoke(main, [str(a) for a in args])


@pytest.fixture
def plan(tmp_path):
    path = tmp_path / "day.json"
    path.write_text(json.dumps(card_json(made_card())), encoding="utf-8")
    return path


@pytest.mark.parametrize(("paper", "points"), [("a5", (419.5, 595.3)), ("letter", (612.0, 792.0))])
def test_two_pages_of_the_asked_size(plan, tmp_path, paper, points):
    out, text = tmp_path / "day.pdf", tmp_path / "float.txt"
    done = run("card", plan, out, "--paper", paper, "--float", text)
    assert done.exit_code == 0, done.output
    pdf = out.read_bytes()
    assert pdf.startswith(b"%PDF-")
    assert len(re.findall(rb"/Type\s*/Page\b", pdf)) == 2
    boxes = re.findall(rb"/MediaBox\s*\[\s*0\s+0\s+([\d.]+)\s+([\d.]+)", pdf)
    assert all((float(a), float(b)) == pytest.approx(points, abs=1.0) for a, b in boxes)
    assert boxes
    assert b"FontFile" in pdf  # the font goes with it
    assert "FLOAT PLAN" in text.read_text(encoding="utf-8")


def test_what_is_no_plan_leaves_nothing_behind(plan, tmp_path):
    bad = tmp_path / "bad.json"
    bad.write_text('{"visits": [1]}', encoding="utf-8")
    done = run("card", bad, tmp_path / "out.pdf")
    assert done.exit_code == 2
    assert done.output.count("\n") == 1
    assert not (tmp_path / "out.pdf").exists()
    over = run("card", plan, plan)
    assert over.exit_code == 2
    assert json.loads(plan.read_text(encoding="utf-8"))["visits"]
    nowhere = run("card", plan, tmp_path / "none" / "out.pdf")
    assert nowhere.exit_code == 2
