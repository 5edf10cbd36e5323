"""A sheet that goes out reduced: every stroke at the factor, measured by readers that wrote nothing, and it says so."""

from __future__ import annotations

import io
from dataclasses import replace

import pikepdf
import pytest
from pdfminer.high_level import extract_text

from skalto.core.checks.verdict import Report
from skalto.core.cutting.section import CuttingContent
from skalto.core.output.pdf.metadata import Metadata
from skalto.core.pages.page import SheetContext
from skalto.core.pages.reducing import reduction
from skalto.core.paper import parse_format
from skalto.core.progress import silent
from skalto.core.recipes import SHIPPED_RECIPES, Recipe
from skalto.core.sheets.sheet import Furniture, SheetSpec
from skalto.services.results.writing import write_and_check
from tests.core.output.test_pdf import _square_with_hole, _view

FURNITURE = frozenset({Furniture.TITLE, Furniture.RULE})


def made(to: str, **sheet: object) -> tuple[bytes, Report]:
    spec = SheetSpec(id="s", name="One", views=(_view(place=(300, 250)),), **({"furniture": FURNITURE} | sheet))  # type: ignore[arg-type]
    recipe = Recipe(id="r", name="Small", reduced_to=to)
    written, checked = write_and_check([(spec, SheetContext())], {"v": _square_with_hole()}, Metadata("One"), silent, recipe)
    return written.data, checked


@pytest.mark.parametrize(
    ("drawn", "to", "factor"), [("A1", "A3", 420 / 841), ("A2", "A4", 0.5), ("600x300mm", "A4", 297 / 600)]
)
def test_all_of_it_is_smaller_and_its_ruler_reads_the_model(drawn: str, to: str, factor: float) -> None:
    small, checked = made(to, format=drawn)
    with pikepdf.open(io.BytesIO(small)) as pdf:
        box = [float(v) / 72 * 25.4 for v in pdf.pages[0].MediaBox]
        port = pdf.pages[0].VP[0]
        per_mm = float(port.Measure.X[0].C) / 25.4 * 72
    assert sorted(box[2:]) == pytest.approx(
        sorted(float(v) for v in (parse_format(to).width, parse_format(to).height)), abs=1e-3
    )
    # a reader's ruler: so many model mm a paper mm
    assert per_mm == pytest.approx(1 / factor, rel=1e-6)
    # the square of 60 mm, read by pdfium
    page = checked.pages[0]
    read = {own.kind: own.measured_mm for own in page.views[0].readings}
    assert read["width"] == pytest.approx(60 * factor, abs=1e-3)
    assert abs(page.views[0].deviation_um or 9) < 1
    full, _ = made("", format=drawn)
    wide, narrow = (Report.model_validate(own).pages[0].max_line_width_mm for own in (made("", format=drawn)[1], checked))
    assert narrow == pytest.approx(wide * factor, rel=1e-3)
    assert len(small) > 0.5 * len(full)


def test_it_says_so_on_the_sheet_and_in_the_checks() -> None:
    data, checked = made("A3", format="A1")
    words = " ".join(extract_text(io.BytesIO(data)).split())
    assert "Reduced to A3, 49.94 % of 1:1 at A1: not to scale, do not measure" in words
    assert "reduced, 1:1 at A1" in words
    assert "100 mm at A1, here 49.94 mm" in words
    (found,) = (check for check in checked.checks if check.code == "reduced")
    assert (found.title, found.verdict) == ("Reduced to A3", "mend")
    # without title block and frame it is said all the same
    assert "Reduced to A3" in extract_text(io.BytesIO(made("A3", format="A1", clean=True)[0]))


def test_what_fits_goes_out_as_it_is() -> None:
    data, checked = made("A1", format="A2")
    assert "Reduced" not in extract_text(io.BytesIO(data))
    assert checked.pages[0].width_mm == pytest.approx(594, abs=1e-3)
    assert not [check for check in checked.checks if check.code == "reduced"]
    assert data == made("", format="A2")[0]


@pytest.mark.parametrize("kind", ["plain", "archive", "smallest"])
def test_files_of_every_kind_go_out_reduced(kind: str) -> None:
    spec = SheetSpec(id="s", name="One", format="A1", views=(_view(place=(300, 250)),), furniture=FURNITURE)
    recipe = Recipe(id="r", name="Small", reduced_to="A4", file=kind, viewports=kind != "archive", least_width=0.02)  # type: ignore[arg-type]
    _, checked = write_and_check([(spec, SheetContext())], {"v": _square_with_hole()}, Metadata("One"), silent, recipe)
    assert checked.holds, [finding.message for finding in checked.findings if finding.level == "error"]


def test_a_plate_is_never_reduced() -> None:
    spec = SheetSpec(id="p", name="Plate", format="600x400mm")
    assert reduction(spec, parse_format("A4")) is not None
    assert reduction(spec.model_copy(update={"cutting": CuttingContent(cut_list="c")}), parse_format("A4")) is None


def test_the_shipped_recipe_reduces_and_a_format_that_is_none_is_refused() -> None:
    shipped = next(recipe for recipe in SHIPPED_RECIPES if recipe.id == "reduced-a3")
    assert shipped.reduced_to == "A3"
    with pytest.raises(ValueError, match="never reduced"):
        Recipe(id="r", name="Small", reduced_to="A4", file="cutter")
    with pytest.raises(ValueError, match="A99"):
        Recipe(id="r", name="Small", reduced_to="A99")
    assert replace(SheetContext(), reduced_to=parse_format("A4")).reduced_to is not None
