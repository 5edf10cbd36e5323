"""The table of plates: its figures by hand, as CSV, and on a sheet."""

from __future__ import annotations

import csv
import io
import math

import pytest

from skalto.core.artwork import Text
from skalto.core.cutting.choices import CutChoices, PlacedProfile, Plate
from skalto.core.cutting.section import ComponentOrigin, CutList, CutPart, CuttingContent
from skalto.core.geometry.contour import Contour
from skalto.core.geometry.profile import Mark, Operation, Profile
from skalto.core.pages.composition import compose
from skalto.core.pages.cut_pages import cut_page
from skalto.core.pages.page import NamedPlate, SheetContext
from skalto.core.pages.plates_table import plate_rows, rows_as_csv
from skalto.core.sheets.annotations import PlatesTable
from skalto.core.sheets.sheet import SheetSpec

HOLE = Contour.circle((25, 20), 10)
SIDE = Profile(Contour.rectangle((0, 0, 100, 40)), (HOLE,), thickness=5)
FOOT = Profile(
    Contour.rectangle((0, 0, 30, 30)), marks=(Mark(Contour.rectangle((5, 5, 25, 25)), Operation.SCORE),), thickness=5
)  # fmt: skip


def _plates() -> list[NamedPlate]:
    parts = (
        CutPart(id="s", name="Side", origin=ComponentOrigin(source="x", component="/s")),
        CutPart(id="f", name="=Foot", origin=ComponentOrigin(source="x", component="/f")),
    )
    plate = Plate(width=300, height=100, thickness=5, material="Plywood", density=0.7, price=4)
    cut_list = CutList(id="c", name="All", parts=parts, plates=(plate,), choices=CutChoices())
    placed = [PlacedProfile(id=str(n), part="s", x=10 + n * 110, y=10) for n in range(2)]
    first = CuttingContent(cut_list="c", placed=(*placed, PlacedProfile(id="f", part="f", x=240, y=10)))
    second = CuttingContent(cut_list="c", placed=(PlacedProfile(id="g", part="f", x=10, y=10),))
    profiles = {"s": SIDE, "f": FOOT}
    return [NamedPlate(f"Plate {n}", cut_page(own, cut_list, profiles)) for n, own in enumerate((first, second), 1)]


def test_three_cut_lengths_by_hand() -> None:
    """A side is 2 · (100 + 40) = 280 mm about and its hole π · 20 = 62.832; a foot is 120 about and 80 are scored on it."""
    rows = {(row.plate, row.part): row for row in plate_rows(_plates())}
    assert list(rows) == [(1, ""), (1, "=Foot"), (1, "Side"), (2, ""), (2, "=Foot")]
    side = 280 + 20 * math.pi
    assert rows[1, "Side"].cut == pytest.approx(2 * side)
    assert rows[1, ""].cut == pytest.approx(2 * side + 120)
    assert rows[2, ""].cut == pytest.approx(120)
    assert (rows[1, ""].pierces, rows[1, "Side"].pierces, rows[2, ""].pierces) == (5, 4, 1)
    assert rows[1, "=Foot"].scored == pytest.approx(80)
    area = 2 * (4000 - math.pi * 100) + 900
    assert rows[1, ""].area == pytest.approx(area)
    assert rows[1, ""].share == pytest.approx(area / 30_000)
    # 900 mm² × 5 mm at 0.7 g/cm³
    assert rows[2, ""].mass == pytest.approx(3.15)
    assert (rows[1, ""].price, rows[1, "Side"].price) == (4, None)


def test_the_same_as_csv_which_no_spreadsheet_takes_for_a_formula() -> None:
    found = list(csv.DictReader(io.StringIO(rows_as_csv(plate_rows(_plates())))))
    assert [row["part"] for row in found] == ["", "'=Foot", "Side", "", "'=Foot"]
    assert found[0]["cut"] == f"{2 * (280 + 20 * math.pi) + 120:.4f}"
    assert found[1]["price"] == ""


def test_a_sheet_shows_them_as_a_table_and_says_where_it_has_no_room() -> None:
    sheet = SheetSpec(id="t", name="Table", format="A4", plates_table=PlatesTable(cut_list="c"))
    assert not sheet.is_empty
    page = compose(sheet, {}, SheetContext(plates=tuple(_plates())))
    words = [text for item in page.frame if isinstance(item, Text) for text in item.texts]
    assert {"Stock", "300 × 100 × 5 Plywood", "=Foot", "0.806"} <= set(words)
    assert [own.code for own in page.notices if "plates" in own.code] == []
    moved = sheet.model_copy(update={"plates_table": PlatesTable(cut_list="c", place=(200, 100))})
    notices = compose(moved, {}, SheetContext(plates=tuple(_plates()))).notices
    assert any("table of plates leaves the frame" in own.message for own in notices)
