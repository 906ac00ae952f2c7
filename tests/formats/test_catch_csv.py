"""Tables of catches as somebody, somewhere, writes them."""

from datetime import UTC

import pytest
from hypothesis import given
from hypothesis import strategies as st

from plumbbob.core.units import System
from plumbbob.files.errors import FileError
from plumbbob.formats.catch_csv import DateOrder, Into, caught, date_orders, guess, read_sheet


def sheet_of(tmp_path, text, encoding="utf-8"):
    path = tmp_path / "book.csv"
    path.write_bytes(text.encode(encoding))
    return read_sheet(path)


def read(tmp_path, text, order=None, encoding="utf-8", system=System.METRIC):
    sheet = sheet_of(tmp_path, text, encoding)
    mapping = guess(sheet)
    orders = date_orders(sheet, mapping)
    return caught(sheet, mapping, order or (orders[0] if orders else None), system, UTC)


@pytest.mark.parametrize("separator", [",", ";", "\t", "|"])
def test_separators_and_headings_of_many_tongues(tmp_path, separator):
    heads = [("Date", "Species", "Length (cm)", "Kept"), ("Datum", "Fisch", "Länge cm", "Mitgenommen"),
             ("Fecha", "Especie", "Talla cm", "kept")]  # fmt: skip
    for head in heads:
        rows, problems = read(
            tmp_path, "\n".join(separator.join(r) for r in (head, ("2026-08-15", "pike", "71", "yes")))
        )
        assert not problems
        assert (rows[0].species, rows[0].kept) == ("pike", True)
        assert rows[0].length_m == pytest.approx(0.71)


def test_decimal_commas_and_units_beside_numbers(tmp_path):
    rows, _ = read(tmp_path, "fish;length;weight\npike;71,5 cm;3,2 kg\nperch;12 1/2 in;\n")
    assert rows[0].length_m == pytest.approx(0.715)
    assert rows[0].weight_kg == pytest.approx(3.2)
    assert rows[1].length_m == pytest.approx(12.5 * 0.0254)


@pytest.mark.parametrize(
    ("dates", "orders"),
    [
        (("03.04.2026", "05.06.2026"), [DateOrder.DAY_FIRST, DateOrder.MONTH_FIRST]),
        (("03.04.2026", "25.06.2026"), [DateOrder.DAY_FIRST]),
        (("3/4/26", "6/25/26"), [DateOrder.MONTH_FIRST]),
        (("2026-04-03", "2026-06-05"), [DateOrder.YEAR_FIRST]),
        (("31.02.2026",), []),
    ],
)
def test_only_orders_in_which_every_date_makes_sense_are_offered(tmp_path, dates, orders):
    sheet = sheet_of(tmp_path, "date,fish\n" + "\n".join(f"{d},pike" for d in dates))
    assert date_orders(sheet, guess(sheet)) == orders


@pytest.mark.parametrize(
    ("when", "hour"),
    [("2026-08-15 6:30", 6.5), ("2026-08-15 06:30 pm", 18.5), ("2026-08-15", 12.0), ("2026-08-15T21:15", 21.25)],
)
def test_times_of_day(tmp_path, when, hour):
    rows, problems = read(tmp_path, f"date,fish\n{when},pike\n", DateOrder.YEAR_FIRST)
    assert not problems
    assert rows[0].time % 86_400 == hour * 3600


def test_rows_that_make_no_sense_are_told_with_their_line(tmp_path):
    rows, problems = read(
        tmp_path, "fish,kept,lat,length\npike,perhaps,44,1\n,yes,44,1\npike,no,95,1\npike,no,44,x\npike,no,44,9\n"
    )
    assert len(rows) == 1
    assert [p.split(":")[0] for p in problems] == ["row 2", "row 3", "row 4", "row 5"]


def test_a_column_of_released_fish_is_read_the_other_way_round(tmp_path):
    rows, _ = read(tmp_path, "fish,released\npike,no\nperch,yes\n")
    assert [r.kept for r in rows] == [True, False]


@pytest.mark.parametrize("text", ["", "one\ntwo\n", "fish,length\n", "\0\1\2\3" * 30])
def test_what_is_no_table_is_refused(tmp_path, text):
    with pytest.raises(FileError):
        sheet_of(tmp_path, text)


@given(st.lists(st.lists(st.text(max_size=8), min_size=2, max_size=5), min_size=2, max_size=6))
def test_no_table_ends_in_an_accident(tmp_path_factory, cells):
    text = "\n".join(",".join(row) for row in [["fish", "date", "length"], *cells])
    try:
        rows, problems = read(tmp_path_factory.mktemp("t"), text)
    except FileError:
        return
    assert all(p.startswith("row ") for p in problems)
    assert all(r.species for r in rows)
    assert Into.SPECIES.value == "species"
