"""Sheet metal as a person does it: a bent part brought in, unfolded by another rule, its DXF written with layers of one's own
and read by a program that is not ours; put on a sheet, with its bends."""

from __future__ import annotations

import math
import re
from pathlib import Path

import ezdxf
import pypdfium2 as pdfium
import pytest
from ezdxf.path import make_path
from playwright.sync_api import Page, expect

from skalto.core.checks.report import check_pdf
from skalto.demo.solids import block, cut, moved
from tests.core.modelled import write_assembly
from tests.core.sheet_metal.shapes import Flat, Turn, folded, rod
from tests.web.test_path import SLOW, begin, choose_file, proofed, write_into


@pytest.fixture(scope="module")
def angle_step(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """An angle of 2 mm, 50 and 30 flat, R2, 100 wide, with a hole; and a block."""
    folder = tmp_path_factory.mktemp("bent")
    angle = cut(folded([Flat(50), Turn(90, 2), Flat(30)], 2, 100), rod((20, -5, 50), (0, 1, 0), 10, 20))
    tube = moved(cut(block(44, 44, 60, 4), moved(block(40, 40, 80, 2), (0, 0, -10))), (0, 0, 200))
    return write_assembly({"Angle": angle, "Lump": block(20, 20, 20), "Tube": tube}, folder / "angle.step")


def _flat(k: float) -> str:
    """80 and the allowance, worked by hand: α·(r + K·t)."""
    return f"{80 + math.pi / 2 * (2 + k * 2):.3f}".rstrip("0")


@pytest.mark.long
def test_from_a_bent_part_to_a_flat_pattern(page: Page, angle_step: Path) -> None:
    begin(page, "Bent")
    choose_file(page, angle_step)
    expect(page.locator(".scene canvas")).to_be_visible(timeout=SLOW)
    rows = page.get_by_role("list", name="Sheet metal")
    expect(rows.get_by_text("bent sheet 2 mm, 1 bend")).to_be_visible(timeout=SLOW)
    expect(rows.get_by_text("Lump")).to_have_count(0)
    # none but sheet metal in the tree
    expect(page.get_by_role("tree").get_by_text("Lump")).to_be_visible()
    page.get_by_role("checkbox", name="Only sheet metal").check()
    expect(page.get_by_role("tree").get_by_text("Lump")).to_have_count(0)

    # what comes round to itself is slit along an edge that is picked
    page.get_by_role("checkbox", name="Only sheet metal").uncheck()
    page.get_by_role("tree").get_by_text("Tube").click()
    expect(rows.get_by_text("It closes on itself")).to_be_visible()
    rows.get_by_role("button", name="Unfold").click()
    tube = page.get_by_role("dialog", name="Unfold Tube")
    expect(tube.locator(".part-place")).to_be_visible(timeout=SLOW)
    expect(tube.locator(".slit-edge")).to_have_count(16)
    # a line that stands upright has no width that could be clicked by its name
    edge = tube.locator(".slit-edge .pattern-grip").last.bounding_box()
    assert edge is not None
    page.mouse.click(edge["x"] + edge["width"] / 2, edge["y"] + edge["height"] / 2)
    around = 4 * 36 + 4 * math.pi / 2 * (2 + 0.44 * 2)
    expect(tube.get_by_label("Size")).to_have_text(f"{around:.3f} × 60 mm", timeout=SLOW)
    tube.get_by_role("button", name="Undo the slit").click()
    expect(tube.locator(".slit-edge")).to_have_count(16)
    page.keyboard.press("Escape")
    page.get_by_role("tree").get_by_text("Angle").click()

    rows.get_by_role("button", name="Unfold").click()
    dialog = page.get_by_role("dialog", name="Unfold Angle")
    expect(dialog.get_by_label("Size")).to_have_text(f"100 × {_flat(0.44)} mm", timeout=SLOW)
    # another K, and the pattern is longer by what that comes to
    write_into(page, "K-factor", "0.3")
    expect(dialog.get_by_label("Size")).to_have_text(f"100 × {_flat(0.3)} mm", timeout=SLOW)
    write_into(page, "K-factor", "3")
    expect(dialog.get_by_text("is no K-factor")).to_be_visible()
    write_into(page, "K-factor", "0.3")
    # one bend typed
    write_into(page, "Allowance of bend 1", "5mm")
    expect(dialog.get_by_label("Size")).to_have_text("100 × 85 mm", timeout=SLOW)
    write_into(page, "Allowance of bend 1", "")
    expect(dialog.get_by_label("Size")).to_have_text(f"100 × {_flat(0.3)} mm", timeout=SLOW)
    # a bend that is picked is lit in both
    dialog.locator(".bend-rows tbody tr").first.click()
    expect(dialog.locator(".pattern-bend.lit")).to_have_count(1)

    # a recipe of one's own, R12 and other layers
    dialog.get_by_role("button", name="Open").click()
    recipe = page.get_by_role("dialog", name=re.compile("^Recipe:"))
    recipe.get_by_role("button", name="Copy and edit").click()
    expect(recipe.get_by_label("Name of the recipe")).to_be_visible()
    recipe.get_by_role("tab", name="Flat patterns").click()
    recipe.get_by_label("DXF version").select_option("R12")
    write_into(page, "Layer of outer contour", "KONTUR")
    write_into(page, "Layer of bend up", "KANT")
    page.keyboard.press("Escape")
    expect(recipe).to_have_count(0)
    with page.expect_download() as waiting:
        dialog.get_by_role("button", name="Write DXF").click()
    assert waiting.value.suggested_filename == "Angle.dxf"
    document = ezdxf.readfile(waiting.value.path())
    assert document.acad_release == "R12"
    by_layer = {e.dxf.layer: e for e in document.modelspace()}
    assert {"KONTUR", "KANT"} <= set(by_layer)
    points = [(p.x, p.y) for p in make_path(by_layer["KONTUR"]).flattening(0.01)]
    size = [max(axis) - min(axis) for axis in zip(*points, strict=True)]
    assert size == pytest.approx([100, 80 + math.pi / 2 * (2 + 0.3 * 2)], abs=1e-6)

    # on a sheet: its lines, its table, and the file at true scale
    dialog.get_by_role("button", name="Put on sheet").click()
    expect(page.get_by_role("heading", name="Angle")).to_be_visible(timeout=SLOW)
    expect(page.get_by_role("button", name="bend table", pressed=True)).to_be_visible()
    page.get_by_role("button", name="bend limits").click()
    expect(page.locator('.view path[data-edges="bend limit"]').first).to_be_attached(timeout=SLOW)
    pdf = proofed(page)
    assert check_pdf(pdf).holds
    text = pdfium.PdfDocument(pdf)[0].get_textpage().get_text_range()
    assert "UP 90° R2" in text
    assert "Allowance" in text
