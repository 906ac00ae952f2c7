"""What the fuzz bench has found: each of these broke a reader once."""

from pathlib import Path

import pytest
from tools.fuzz import READERS, mutated, read_one, seeds

CORPUS = Path(__file__).parent.parent / "corpus"
FOUND = sorted(p for p in CORPUS.glob("*/*") if p.is_file())


@pytest.mark.parametrize("path", FOUND, ids=lambda p: f"{p.parent.name}/{p.name}")
def test_what_was_found_once_is_read_or_refused_in_one_line(path, tmp_path):
    read_one(path.parent.name, path.read_bytes(), tmp_path)


@pytest.mark.parametrize("name", [n for n in READERS if n not in ("recording", "xtf", "rig", "log")])
def test_good_files_and_a_hundred_broken_ones(name, tmp_path, qapp):
    """A taste of the bench for every reader that takes milliseconds."""
    import random

    good, rng = seeds(name), random.Random(4)
    for data in good:
        read_one(name, data, tmp_path)
    for _ in range(100):
        read_one(name, mutated(rng.choice(good), good, rng), tmp_path)
