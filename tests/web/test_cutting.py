"""Cutting as a person does it: components chosen, arranged, one pinned, one dragged into another, undone, the cutter played,
issued; and the downloaded files measured by programs that are not ours."""

from __future__ import annotations

import io
import math
from pathlib import Path

import ezdxf
import pikepdf
import pypdfium2 as pdfium
import pytest
import shapely
from playwright.sync_api import Page, expect

from skalto.core.cutter.machine import CHART, Machine
from skalto.core.cutter.running import run
from skalto.core.cutter.tracks import read_for_machine
from skalto.demo.solids import block, cut, cylinder
from tests.core.modelled import write_assembly
from tests.web.hand import still
from tests.web.test_path import SLOW, begin, choose_file, download, write_into


@pytest.fixture(scope="module")
def plates_step(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("cut")
    wide = cut(block(120, 80, 6), cylinder(20, 20, (30, 0, -5)))
    return write_assembly({"Side": wide, "Foot": block(60, 30, 6), "Rod": cylinder(8, 100)}, folder / "stand.step")


def _dragged(page: Page, number: int, by: tuple[float, float]) -> None:
    """Drag a part on the desk by pixels, taken near a corner, where none of these has an opening."""
    box = still(page.locator(".plate-part").nth(number))
    x, y = box["x"] + 8, box["y"] + 8
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + by[0] / 2, y + by[1] / 2, steps=4)
    page.mouse.move(x + by[0], y + by[1], steps=4)


def test_from_components_to_pieces(page: Page, plates_step: Path, tmp_path: Path) -> None:
    begin(page, "Stand")
    choose_file(page, plates_step)
    expect(page.locator(".scene canvas")).to_be_visible(timeout=SLOW)
    page.get_by_role("button", name="Cut flat parts …").click()
    dialog = page.get_by_role("dialog", name="What is cut")
    expect(dialog.get_by_label("What of Rod is cut")).to_be_visible(timeout=SLOW)
    expect(dialog.get_by_role("checkbox", name="Rod")).to_be_disabled()
    expect(dialog.get_by_role("button", name="Cut these")).to_be_disabled()
    dialog.get_by_role("checkbox", name="Side").check()
    dialog.get_by_role("checkbox", name="Foot").check()
    write_into(page, "Copies", "2")
    write_into(page, "Plate size", "300x200")
    dialog.get_by_role("button", name="Cut these").click()

    # it is arranged by itself, and the desk shows it
    expect(page.get_by_role("button", name="Arrange anew")).to_be_visible(timeout=SLOW)
    parts = page.locator(".plate-part")
    expect(parts).to_have_count(4)
    write_into(page, "Kerf", "0.2")
    expect(page.get_by_text("6", exact=True).first).to_be_visible()

    # lettering on one is on its copy too, and dragged there it moves on both
    parts.nth(0).press("Enter")
    expect(page.get_by_role("heading", name="Drawn on each")).to_be_visible()
    page.get_by_role("button", name="Add lettering").first.click()
    write_into(page, "Text", "No. 7")
    write_into(page, "Capitals", "8")
    drawn = page.locator(".plate-drawn")
    expect(drawn).to_have_count(2)
    before = still(drawn.nth(0))
    page.mouse.move(before["x"] + before["width"] / 2, before["y"] + before["height"] / 2)
    page.mouse.down()
    page.mouse.move(before["x"] + before["width"] / 2 + 9, before["y"] + before["height"] / 2, steps=5)
    page.mouse.up()
    expect(page.get_by_role("button", name="“No. 7”")).to_be_visible()
    assert abs(still(drawn.nth(0))["x"] - before["x"] - 9) < 2

    # one is pinned, another dragged into it: told while it is held, and after
    parts.nth(0).press("Enter")
    page.get_by_role("checkbox", name="Pinned").click()
    expect(page.locator(".plate-part.pinned")).to_have_count(1)
    first, second = still(parts.nth(0)), still(parts.nth(1))
    _dragged(page, 1, (first["x"] - second["x"] + 12, first["y"] - second["y"] + 12))
    expect(page.get_by_role("status").filter(has_text="overlaps")).to_be_visible()
    page.mouse.up()
    expect(page.get_by_role("alert").filter(has_text="overlap: move them apart").first).to_be_visible(timeout=SLOW)
    page.get_by_role("button", name="Proof this sheet").click()
    expect(page.get_by_text("fails", exact=True).first).to_be_visible(timeout=SLOW)
    expect(page.get_by_text("overlap: move them apart").first).to_be_visible()

    # undone, it passes, and the cutter shows how
    page.get_by_role("button", name="Undo").click()
    page.get_by_role("button", name="Make the proof").first.click()
    expect(page.get_by_role("heading", name="Measured in the file")).to_be_visible(timeout=SLOW)
    expect(page.get_by_text("4 of 4 fall out")).to_be_visible()
    expect(page.get_by_text("mm² engraved").first).to_be_visible()
    page.get_by_role("tab", name="Cut", exact=True).click()
    expect(page.get_by_text("Whole time")).to_be_visible(timeout=SLOW)
    expect(page.locator(".cut-rows li")).to_have_count(4)
    page.get_by_role("button", name="Play").click()
    expect(page.get_by_role("button", name="Pause")).to_be_visible()
    scrubbed = page.get_by_label("Time of the run")
    scrubbed.fill("0")
    expect(page.get_by_role("button", name="Play")).to_be_visible()

    # the file itself, measured
    data = download(page)
    with pikepdf.open(io.BytesIO(data)) as pdf:
        assert [float(v) / 72 * 25.4 for v in pdf.pages[0].mediabox[2:]] == pytest.approx([300, 200], abs=1e-4)
    own = pdfium.PdfDocument(data)[0]
    boxes = [item.get_bounds() for item in own.get_objects()]
    # letters are narrower
    wide = sorted(w for x0, _, x1, _ in boxes if (w := (x1 - x0) / 72 * 25.4 - 0.0254) > 12)
    # outlines by half the kerf outward, holes inward, whichever way the parts are turned
    assert any(wide[-1] == pytest.approx(side, abs=0.05) for side in (120.2, 80.2))
    assert wide[0] == pytest.approx(19.8, abs=0.05)
    path = tmp_path / "plate.pdf"
    path.write_bytes(data)
    report = run(read_for_machine(path, Machine()), Machine(), CHART[0], None, 0.2).report
    assert report.refusals == ()
    areas = sorted(round(piece.area, 1) for piece in report.pieces if piece.area > 1000)
    assert areas == pytest.approx(sorted([1800, 1800, 9600 - math.pi * 100, 9600 - math.pi * 100]), abs=0.3)

    # and as DXF, by the plate's ticket
    page.get_by_role("link", name="Sheets").click()
    expect(parts).to_have_count(4)
    with page.expect_download() as waiting:
        page.get_by_role("button", name="DXF").click()
    drawn_file = ezdxf.readfile(waiting.value.path())
    rings = [shapely.Polygon([p[:2] for p in e.get_points()]) for e in drawn_file.modelspace().query("LWPOLYLINE") if e.closed]
    assert sorted(round(ring.area, 3) for ring in rings) == pytest.approx(
        sorted([60.2 * 30.2] * 2 + [120.2 * 80.2] * 2), abs=0.01
    )  # fmt: skip
    assert min(a.distance(b) for n, a in enumerate(rings) for b in rings[:n]) >= 1.8 - 2e-3
    assert [e.dxf.radius for e in drawn_file.modelspace().query("CIRCLE")] == pytest.approx([9.9, 9.9])

    assert len(drawn_file.modelspace().query("HATCH")) > 0

    # issued as any sheet is, as PDF and as DXF
    page.get_by_role("link", name="Issue").click()
    page.get_by_role("button", name="New pack").click()
    page.get_by_role("checkbox", name="DXF").check()
    page.get_by_role("banner").get_by_role("button", name="Issue this pack").click()
    expect(page.locator(".issue em").first).to_have_text("issued", timeout=SLOW)
    files = page.locator(".issue .file a[download]")
    expect(files).to_have_count(2)
    with page.expect_download() as waiting:
        files.nth(0).click()
    assert len(pdfium.PdfDocument(Path(waiting.value.path()).read_bytes())) == 1
    with page.expect_download() as waiting:
        files.nth(1).click()
    issued = tmp_path / "issued.dxf"
    issued.write_bytes(Path(waiting.value.path()).read_bytes())
    cut_again = run(read_for_machine(issued, Machine()), Machine(), CHART[0], None, 0.2).report
    assert cut_again.refusals == ()
    assert sorted(round(p.area, 1) for p in cut_again.pieces if p.area > 1000) == pytest.approx(areas, abs=0.3)
    assert cut_again.engraved_area == pytest.approx(report.engraved_area, rel=1e-3)
