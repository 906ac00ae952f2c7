"""Single rows between the log and its open files."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from plumbbob.formats.log_archive import opened_log, write_log
from plumbbob.formats.log_columns import CHANGED, TABLES, Cell, id_column, meaning, row_meaning, time_of
from plumbbob.services.log_rows import CLASS_OF, cells_of, extra_of, extra_text, fields_of, later, table_of
from plumbbob.services.share_cells import SHARED, Positions, shareable
from plumbbob.store.values import CONTACTS, SIGNS, Catch, Mark, MarkKind, Moment, MomentKind, Trip
from tests.log_files import made_up, read_archive, write_archive


def value_from(table, cells):
    """A row's value, as an import makes it."""
    values, beside = fields_of(table, cells)
    if CLASS_OF[table] is Moment:
        for name in ("water", "trip", "source"):
            values.setdefault(name, "")
    return CLASS_OF[table](extra=extra_text(beside), **values)


@pytest.mark.parametrize("table", [t for t in TABLES if t != "rig_notes"])
@pytest.mark.parametrize("seed", [1, 2, 3])
def test_cells_come_out_exactly_as_they_went_in(table, seed):
    for cells in made_up(seed).get(table, []):
        out = cells_of(table, value_from(table, cells))
        assert {k: v for k, v in out.items() if v} == {k: v for k, v in cells.items() if v}


@pytest.mark.parametrize(
    ("kind", "held"),
    [("fish", MarkKind.FISH), ("tree", MarkKind.PLACE), ("", MarkKind.PLACE), ("Fish", MarkKind.PLACE)],
)
def test_kinds_of_others_are_places_here_and_their_own_there(kind, held):
    mark = value_from("marks", {"mark": "1", "kind": kind})
    assert mark.kind is held
    assert cells_of("marks", mark)["kind"] == kind


def test_a_change_of_the_field_drops_what_stood_beside_it():
    from dataclasses import replace

    mark = value_from("marks", {"mark": "1", "kind": "tree", "seen": "", "depth_m": "8.50"})
    assert (mark.seen, mark.depth_m) == (1, 8.5)
    changed = replace(mark, kind=MarkKind.HAZARD, seen=4, depth_m=9.0)
    cells = cells_of("marks", changed)
    assert (cells["kind"], cells["seen"], cells["depth_m"]) == ("hazard", "4", "9")
    untouched = cells_of("marks", replace(mark, seen=4))
    assert (untouched["kind"], untouched["depth_m"]) == ("tree", "8.50")


@pytest.mark.parametrize(
    ("cells", "field", "value"),
    [
        ({"catch": "1", "kept": ""}, "kept", False),
        ({"catch": "1", "time": ""}, "time", math.nan),
        ({"catch": "1", "length_m": "0.35"}, "length_m", 0.35),
        ({"catch": "1", "latitude": "44.2"}, "latitude", 44.2),
    ],
)
def test_what_is_not_said_is_not_known(cells, field, value):
    held = getattr(value_from("catches", cells), field)
    assert held == value or (held != held and value != value)


def test_every_kind_of_moment_has_its_file():
    for kind in MomentKind:
        table = table_of(Moment(water="", kind=kind, time=0.0))
        assert table == ("contacts" if kind in CONTACTS else "signs" if kind in SIGNS else "moments")
        cells = cells_of(table, Moment(ref="r", water="x", kind=kind, time=5.0, is_open=True))
        assert value_from(table, cells).kind is kind


def test_landed_is_another_word_for_caught():
    contact = value_from("contacts", {"contact": "1", "kind": "landed"})
    assert contact.kind is MomentKind.CAUGHT
    assert cells_of("contacts", contact)["kind"] == "landed"


@pytest.mark.parametrize(
    ("a", "b", "same"),
    [("1", "1.0", True), ("1e3", "1000", True), ("", " ", True), ("1", "1.1", False), ("+4.50", "4.5", True)],
)
def test_numbers_are_equal_by_value(a, b, same):
    spec = next(c for c in TABLES["efforts"] if c.name == "rods")
    assert (meaning(spec, a) == meaning(spec, b)) is same


@pytest.mark.parametrize(
    ("text", "seconds"),
    [
        ("2026-08-15T06:12:00Z", 1786774320.0), ("2026-08-15T06:12:00.500Z", 1786774320.5),
        ("2026-08-15T08:12:00+02:00", 1786774320.0), ("1969-12-31T23:59:59Z", -1.0), ("", None),
    ],
)  # fmt: skip
def test_times(text, seconds):
    assert time_of(text) == seconds


@pytest.mark.parametrize(
    "text", ["2026-08-15", "2026-08-15T06:12", "06:12Z", "2026-13-01T00:00:00Z", "yesterday", "0"]
)
def test_what_is_no_time_in_utc_is_refused(text):
    with pytest.raises(ValueError, match="no time"):
        time_of(text)


def test_the_later_of_two_times():
    a, b = "2026-08-15T06:12:00Z", "2026-08-15T07:12:00Z"
    assert later(a, b) == later(b, a) == b
    assert later(a, "") == later("", a) == a
    assert later("nonsense", a) == a


@given(st.dictionaries(st.text(min_size=1, max_size=6), st.text(max_size=12), max_size=4), st.text(max_size=5))
def test_what_stands_beside_a_row_is_kept_as_text(beside, was):
    mark = Mark(water="", kind=MarkKind.FISH, time=0.0, latitude=0.0, longitude=0.0, extra=extra_text(beside, was))
    found = extra_of(mark)
    assert found.get("cells", {}) == beside
    assert found.get("was", "") == was


def test_damaged_words_beside_a_row_are_no_words():
    assert extra_of(Trip(extra="{half")) == {}
    assert extra_of(Trip(extra="[1]")) == {}


def test_when_a_row_was_changed_goes_out_and_counts_for_nothing_in_comparing():
    catch = Catch(ref="a" * 12, time=5.0, species="kokanee")
    cells = cells_of("catches", catch, changed=1786774320.0)
    assert cells[CHANGED] == "2026-08-15T06:12:00Z"
    assert row_meaning("catches", cells) == row_meaning("catches", cells_of("catches", catch))


def test_tables_name_their_rows():
    assert {t: id_column(t) for t in ("waters", "efforts", "signs")} == {
        "waters": "water",
        "efforts": "effort",
        "signs": "",
    }
    for specs in TABLES.values():
        assert len({c.name for c in specs}) == len(specs)
        assert all(c.of in TABLES for c in specs if c.cell is Cell.REF)


def test_an_archive_that_is_shared_can_be_read_again(tmp_path):
    source = write_archive(tmp_path / "a.log.zip", made_up(9))
    with opened_log(source) as opened:
        found = shareable({t: [r.cells for r in raw.rows] for t, raw in opened.raw.tables.items()}, Positions.NONE)
    for table in SHARED:
        key = id_column(table)
        ids = [row[key] for row in found.tables[table]] if key else []
        assert len(set(ids)) == len(ids)
        assert not any(row.get("latitude") or row.get("note") for row in found.tables[table])
    trips = {row["trip"] for row in found.tables["trips"]}
    assert all(row["trip"] in trips | {""} for row in found.tables["catches"])


def test_names_are_blanked_with_their_words_but_common_words_stay():
    tables = {
        "waters": [{"water": "Veyra Lake"}],
        "efforts": [{"effort": "1", "spot": "Old Kell channel", "lure": lure} for lure in
                    ("lake spoon", "Kell special", "for the old KELL channel", "veyra-fly", "spoon 18 g")],
        "marks": [{"mark": "1", "name": "perch"}],
        "catches": [{"catch": "1", "species": "yellow perch"}],
    }  # fmt: skip
    found = shareable(tables, Positions.NONE).tables
    assert sorted(e["lure"] for e in found["efforts"]) == ["", "", "", "lake spoon", "spoon 18 g"]
    assert found["catches"][0]["species"] == "yellow perch"


@pytest.mark.parametrize("text", ["44.2062, -40.058", "N 44 12.4", "44°12'", "12' 3"])
def test_positions_in_words_are_blanked(text):
    tables = {"catches": [{"catch": "1", "hook_place": text, "species": "burbot"}]}
    assert shareable(tables, Positions.AREA).tables["catches"][0]["hook_place"] == ""


def test_a_log_is_written_whole_into_a_folder_or_not_at_all(tmp_path):
    from plumbbob.files.errors import FileError

    def gone():
        raise FileError("picture", "", "is gone")

    with pytest.raises(FileError):
        write_log(tmp_path / "out", {}, [], {"pictures/a.jpg": gone})
    assert not (tmp_path / "out").exists()
    assert not list(tmp_path.iterdir())
    write_log(tmp_path / "out.log.zip", {"by": "me"}, [], {})
    assert read_archive(tmp_path / "out.log.zip")[1].keys() == {"log.json"}
