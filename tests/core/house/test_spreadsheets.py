"""Tables that come in and go out, against the csv module of the standard library and spreadsheets' own rules."""

from __future__ import annotations

import csv
import io
import re
from pathlib import Path

import openpyxl
import pytest
from hypothesis import given
from hypothesis import strategies as st

from skalto.core.cutting.parts_list import read_parts_list
from skalto.core.errors import InputError
from skalto.core.sheet_metal.allowances import BendRule, BendWay, TableRow, table_as_csv, table_from_csv
from skalto.core.spreadsheets import csv_of, harmless, plain, read_csv

CELL = st.text(st.characters(codec="utf-8", exclude_characters="\0\r"), max_size=12)


@given(st.lists(st.lists(CELL, min_size=2, max_size=4), min_size=1, max_size=4))
def test_what_goes_out_is_read_by_the_standard_library(rows: list[list[str]]) -> None:
    found = list(csv.reader(io.StringIO(csv_of(rows), newline="")))
    assert found == [[str(harmless(cell)) for cell in row] for row in rows]
    for row in found:
        for cell in row:
            assert not re.match(r"\s*[=+\-@＝＋－＠]", cell)


@given(st.lists(st.lists(CELL.map(str.strip), min_size=3, max_size=3), min_size=2, max_size=5))
def test_what_goes_out_comes_in_again(rows: list[list[str]]) -> None:
    rows = [["a", "b", "c"], *rows]
    wanted = [tuple(cell.strip() for cell in row) for row in rows[1:] if any(row) and not row[0].startswith("#")]
    if any(plain(cell) != cell for row in rows for cell in row):
        return
    assert [row.cells for row in read_csv(csv_of(rows), "the table").rows] == wanted


@pytest.mark.parametrize("end", ["\n", "\r\n", "\r"])
@pytest.mark.parametrize("between", [",", ";", "\t"])
def test_lines_end_and_cells_are_parted_in_any_way(end: str, between: str) -> None:
    text = end.join(("# a remark", between.join("abc"), "", between.join("123"), between.join("456"), ""))
    table = read_csv(text, "the table")
    assert (table.heads, [row.cells for row in table.rows]) == (("a", "b", "c"), [("1", "2", "3"), ("4", "5", "6")])
    assert [row.number for row in table.rows] == [4, 5]


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ("thickness,radius,angle,k\n1,5,1,90,0.42", "Row 2 of the bend table has 5 cells for 4 columns"),
        ("thickness,radius,angle,k\n1.5,1,90,0.42\n1.5,1,90", "Row 3 of the bend table has 3 cells for 4 columns"),
        ("thickness;radius;angle;k\n1,5;1;90;0,42;", "Row 2 of the bend table has 5 cells for 4 columns"),
        ("thickness,radius,angle,k\n1.5,1,90,90", "Row 2 of the bend table: K is 90, and lies between 0 and 1"),
        ("thickness,radius,angle,k\n1.5,1,90,-0.1", "K is -0.1"),
        ("thickness,radius,angle,k\n1.5,1,90,x", "Row 2 of the bend table has what is no number: 1.5,1,90,x"),
        ("thickness,radius,angle,k\n1.5,1,90,nan", "no number"),
        ("thickness,radius,angle,k,k\n1.5,1,90,0.4,0.5", "the column k twice"),
        ('thickness,radius,angle,k\n1.5,1,90,"0.4', "quotation mark|no number|cells"),
        ("thickness,radius,angle,k\n1.5,1,90," + "4" * 200_000, "more than 10000 letters|cannot be read"),
        ("thickness,radius,angle,k\n1.5,1,90,0.4\0", "no text"),
        ("", "is empty"),
    ],
)
def test_a_bend_table_that_is_not_one_is_refused_with_its_row(text: str, told: str) -> None:
    with pytest.raises(InputError, match=told) as found:
        table_from_csv(text)
    assert str(found.value).endswith(".")


def test_decimal_commas_between_semicolons_are_read() -> None:
    rule = table_from_csv("material;thickness;radius;angle;k\nSteel;1,5;1;90;0,42\r\n;2;3,5;45,5;0,4\r\n")
    assert rule.rows == (
        TableRow(material="Steel", thickness=1.5, radius=1, angle=90, value=0.42),
        TableRow(thickness=2, radius=3.5, angle=45.5, value=0.4),
    )


def test_a_material_is_no_formula(tmp_path: Path) -> None:
    rule = BendRule(way=BendWay.TABLE, rows=(TableRow(material="=1+1", thickness=1, radius=1, angle=90, value=0.4),))
    text = table_as_csv(rule)
    book = openpyxl.Workbook()
    assert book.active is not None
    for row in csv.reader(io.StringIO(text)):
        book.active.append(row)
    # the library takes a cell that begins with = for a formula, as spreadsheets do
    assert [cell.data_type for cell in book.active[2]] == ["s"] * 6
    assert table_from_csv(text).rows == rule.rows


@pytest.mark.parametrize(("text", "told"), [("Cheek;2;3", "Line 1 of the list has 3 cells"), ("Cheek;1,5", "is no quantity")])
def test_a_list_of_parts_with_more_is_refused(text: str, told: str) -> None:
    with pytest.raises(InputError, match=told):
        read_parts_list(text, {"Cheek": "cheek"})


def test_only_one_place_writes_and_reads_tables() -> None:
    root = Path(__file__).parents[3] / "skalto"
    users = [path.name for path in root.rglob("*.py") if re.search(r"^\s*import csv|from csv import", path.read_text(), re.M)]
    assert users == ["spreadsheets.py"]
