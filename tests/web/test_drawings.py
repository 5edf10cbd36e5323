"""What a drafter does with a 2D drawing, from the file dropped in to one PDF of registering sheets."""

from __future__ import annotations

import io
from pathlib import Path
from typing import Any

import ezdxf
import numpy as np
import pikepdf
import pytest
from pdfminer.high_level import extract_text
from playwright.sync_api import Page, expect

from skalto.core.checks.report import check_pdf
from skalto.demo.workshop import REGIONS, SPACING, write_workshop
from tests.reference.second_engine import MM, _Paths
from tests.web.hand import still
from tests.web.test_path import SLOW, begin, choose_file, download, write_into

WALLS = [(0.0, 0.0), (16_000.0, 0.0), (16_000.0, 8_000.0), (0.0, 8_000.0)]


@pytest.fixture(scope="module")
def workshop(tmp_path_factory: pytest.TempPathFactory) -> Path:
    path = tmp_path_factory.mktemp("workshop") / "Workshop fit-out.dxf"
    write_workshop(str(path))
    return path


def closed_paths(data: bytes) -> list[list[np.ndarray]]:
    """Of each page the corners, mm, of its closed straight paths, as pdfminer.six reads them."""
    from pdfminer.pdfinterp import PDFPageInterpreter
    from pdfminer.pdfpage import PDFPage

    pages = []
    for page in PDFPage.get_pages(io.BytesIO(data)):
        device = _Paths()
        PDFPageInterpreter(device.rsrcmgr, device).process_page(page)
        straight = [path for _, path in device.paths if path[-1][0] == "h" and {op for op, *_ in path} <= set("mlh")]
        pages.append([np.array([p for _, *points in path for p in points]) * MM for path in straight])
    return pages


def walls_of(paths: list[np.ndarray]) -> np.ndarray:
    """The house's outer wall at 1:50: 320 × 160 mm."""
    return next(p for p in paths if len(p) == 4 and np.allclose(np.ptp(p, axis=0), (320, 160), atol=0.01))


def sheets(page: Page) -> Any:
    return page.locator(".sheets li")


@pytest.mark.long
def test_two_storeys_register_on_two_sheets_of_one_pdf(page: Page, workshop: Path) -> None:
    begin(page, "Fit-out")
    choose_file(page, workshop)
    ticket = page.get_by_label("Ticket")
    expect(ticket).to_contain_text("mm, from the file", timeout=SLOW)
    expect(page.locator(".drawing-pane .drawn path").first).to_be_attached(timeout=SLOW)
    # the whole of both storeys, then the ground floor's region and scale as typed
    page.get_by_role("banner").get_by_role("button", name="Put on sheet").click()
    expect(page.get_by_role("heading", name="Drawing view 1")).to_be_visible(timeout=SLOW)
    page.get_by_role("button", name="Pick area", exact=True).click()
    overlay = still(page.locator(".mode-overlay"))
    page.mouse.move(overlay["x"] + 150, overlay["y"] + 120)
    page.mouse.down()
    page.mouse.move(overlay["x"] + 400, overlay["y"] + 300, steps=4)
    page.mouse.up()
    region = page.get_by_label("Area of the drawing")
    expect(region).to_be_visible()
    write_into(page, "Area of the drawing", ", ".join(f"{v:g}" for v in REGIONS[0]))
    expect(region).to_have_value("-1000, -1500, 17000, 9500")
    write_into(page, "Scale", "1:50")
    expect(ticket).to_contain_text("360 × 220 mm on paper")
    page.get_by_role("button", name="Centre it on the sheet").or_(page.get_by_label("Move by")).first.click()
    page.keyboard.press("Escape")
    # the upper floor: the same sheet once more, its excerpt a storey further up
    write_distance(page, "Copy sheet, shifted by", f"0, {-SPACING:g}", "Copy sheet")
    expect(sheets(page)).to_have_count(2)
    expect(page.locator(".drawn text[data-text='Bindery']").first).to_be_attached(timeout=SLOW)
    page.get_by_role("button", name="Proof this sheet").click()
    expect(page.get_by_role("heading", name="Measured in the file")).to_be_visible(timeout=SLOW)
    with page.expect_download(timeout=SLOW) as waiting:
        page.get_by_role("button", name="All 2 sheets as one PDF").click()
    data = Path(waiting.value.path()).read_bytes()
    expect(page.get_by_text("2 pages, ")).to_contain_text("all pass")

    report = check_pdf(data)
    assert report.holds
    assert len(report.pages) == 2
    ground, upper = (walls_of(paths) for paths in closed_paths(data))
    assert np.abs(ground - upper).max() < 1e-3
    texts = [extract_text(io.BytesIO(data), page_numbers=[n]) for n in (0, 1)]
    assert "Press room" in texts[0]
    assert "Composing room" in texts[0]
    assert "Bindery" in texts[1]
    assert "Press room" not in texts[1]
    # drawn in strokes, found as text
    assert "Make-ready" in texts[0]
    with pikepdf.open(io.BytesIO(data)) as pdf:
        layers = {str(group.Name) for group in pdf.Root.OCProperties.OCGs}
    assert {"WALLS", "DOORS", "BENCHES", "ROOM NAMES", "DIMENSIONS"} <= layers
    assert "REMARKS" not in layers


def write_distance(page: Page, label: str, text: str, act: str) -> None:
    page.get_by_label(label).fill(text)
    page.get_by_role("button", name=act, exact=True).click()


@pytest.mark.long
def test_a_drawing_is_shifted_inside_its_excerpt_by_hand_and_layers_are_switched(page: Page, workshop: Path) -> None:
    begin(page, "Shifted")
    choose_file(page, workshop)
    expect(page.locator(".drawing-pane .drawn path").first).to_be_attached(timeout=SLOW)
    page.get_by_role("button", name="The file’s own limits").click()
    page.get_by_role("banner").get_by_role("button", name="Put on sheet").click()
    region = page.get_by_label("Area of the drawing")
    expect(region).to_have_value("-1000, -1500, 17000, 21500", timeout=SLOW)
    scale = page.get_by_label("Scale", exact=True).input_value()
    # drag the drawing up by so many pixels: its region goes down by as much of the drawing
    page.get_by_role("button", name="Shift the drawing").click()
    overlay = still(page.locator(".mode-overlay"))
    page.mouse.move(overlay["x"] + 300, overlay["y"] + 300)
    page.mouse.down()
    page.mouse.move(overlay["x"] + 300, overlay["y"] + 260, steps=4)
    page.mouse.up()
    expect(region).not_to_have_value("-1000, -1500, 17000, 21500")
    left, bottom, right, top = (float(v) for v in region.input_value().split(","))
    assert (left, right) == (-1000, 17000)
    assert bottom < -1500
    assert top - bottom == pytest.approx(23_000)
    page.get_by_role("button", name="Undo").click()
    expect(region).to_have_value("-1000, -1500, 17000, 21500")
    assert page.get_by_label("Scale", exact=True).input_value() == scale
    page.get_by_label("Find a layer").fill("bench")
    page.get_by_label("Show BENCHES").uncheck()
    expect(page.locator(".view-layer [data-layer='BENCHES']")).to_have_count(0, timeout=SLOW)
    expect(page.get_by_label("Ticket")).to_contain_text("on layers that are off: BENCHES", timeout=SLOW)
    # out again, as DXF: true circles, and no bench
    with page.expect_download(timeout=SLOW) as waiting:
        page.get_by_role("button", name="DXF").click()
    document = ezdxf.readfile(waiting.value.path())
    assert document.units == 4
    assert len(document.modelspace().query("CIRCLE")) >= 6
    assert "BENCHES" not in document.layers


@pytest.mark.long
def test_an_excerpt_is_sized_and_a_detail_of_it_offers_what_it_has(page: Page, workshop: Path) -> None:
    begin(page, "Sized")
    choose_file(page, workshop)
    expect(page.locator(".drawing-pane .drawn path").first).to_be_attached(timeout=SLOW)
    # a layer taken off at the source stays off on the sheet
    page.get_by_label("Find a layer").fill("pipes")
    page.get_by_label("Show PIPES").click()
    page.get_by_role("banner").get_by_role("button", name="Put on sheet").click()
    ticket = page.get_by_label("Ticket")
    expect(ticket).to_contain_text("PIPES", timeout=SLOW)
    page.get_by_role("button", name="Overall sizes").click()
    expect(ticket.get_by_role("button", name="width")).to_contain_text("16886", timeout=SLOW)
    page.get_by_role("button", name="Detail", exact=True).click()
    overlay = still(page.locator(".mode-overlay"))
    page.mouse.move(overlay["x"] + 320, overlay["y"] + 300)
    page.mouse.down()
    page.mouse.move(overlay["x"] + 350, overlay["y"] + 300, steps=4)
    page.mouse.up()
    expect(page.get_by_role("heading", name="Detail A")).to_be_visible(timeout=SLOW)
    acts = page.locator(".acts")
    expect(acts.get_by_role("button", name="Overall sizes")).to_be_visible(timeout=SLOW)
    for absent in ("Area", "Section", "Components", "Dimension"):
        expect(acts.get_by_role("button", name=absent, exact=True)).to_have_count(0)
    expect(ticket.get_by_text("Edges", exact=True)).to_have_count(0)
    page.get_by_role("button", name="Proof this sheet").click()
    expect(page.get_by_role("heading", name="Measured in the file")).to_be_visible(timeout=SLOW)
    assert check_pdf(download(page)).holds


@pytest.mark.long
def test_a_saved_page_becomes_a_sheet(page: Page, workshop: Path) -> None:
    begin(page, "Page")
    choose_file(page, workshop)
    expect(page.locator(".drawing-pane .drawn path").first).to_be_attached(timeout=SLOW)
    page.get_by_label("Pages").get_by_role("button", name="Ground floor").click()
    page.get_by_role("banner").get_by_role("button", name="Use as a sheet").click()
    expect(page.get_by_role("heading", name="Ground floor")).to_be_visible(timeout=SLOW)
    expect(page.locator(".view-layer .drawn text[data-text='Press room']").first).to_be_attached(timeout=SLOW)
    page.get_by_role("button", name="Proof this sheet").click()
    expect(page.get_by_role("heading", name="Measured in the file")).to_be_visible(timeout=SLOW)
    data = download(page)
    report = check_pdf(data)
    assert report.holds
    assert (report.pages[0].width_mm, report.pages[0].height_mm) == (420.0, 297.0)
    assert [view.scale for view in report.pages[0].views] == ["1:50", "1:1"]


@pytest.mark.long
def test_a_drawing_without_a_unit_asks_once(page: Page, tmp_path: Path) -> None:
    doc: Any = ezdxf.new("R2010", units=0)
    doc.modelspace().add_lwpolyline([(0, 0), (17, 0), (17, 11), (0, 11)], close=True)
    path = tmp_path / "guard.dxf"
    doc.saveas(path)
    begin(page, "Unit")
    choose_file(page, path)
    question = page.get_by_role("group", name="Unit of the drawing")
    expect(question).to_contain_text("431.8 mm × 279.4 mm", timeout=SLOW)
    put = page.get_by_role("banner").get_by_role("button", name="Put on sheet")
    expect(put).to_be_disabled()
    question.get_by_role("button", name="in 431.8").click()
    expect(question).to_have_count(0)
    expect(page.get_by_label("Ticket")).to_contain_text("431.8 × 279.4 mm")
    put.click()
    expect(page.get_by_role("heading", name="Drawing view 1")).to_be_visible(timeout=SLOW)
    expect(page.get_by_label("Ticket")).to_contain_text(
        "431.8 × 279.4 mm on paper".replace("431.8 × 279.4", "215.9 × 139.7"), timeout=SLOW
    )


@pytest.mark.long
def test_a_pdf_with_a_scale_comes_in_at_it_and_one_without_is_measured(page: Page, workshop: Path, tmp_path: Path) -> None:
    from reportlab.lib.units import mm
    from reportlab.pdfgen.canvas import Canvas

    from skalto.core.sources.drawings.excerpt import Excerpt
    from tests.core.drawn import pdf_of, read, sheet_of

    scaled = tmp_path / "plan.pdf"
    scaled.write_bytes(pdf_of(read(workshop), sheet_of(Excerpt(region=REGIONS[0]), "A3", "1:50")))
    begin(page, "PDF")
    choose_file(page, scaled)
    expect(page.get_by_label("Scale of the page")).to_have_value("1:50", timeout=SLOW)
    expect(page.locator(".drawing-pane .drawn path").first).to_be_attached(timeout=SLOW)
    page.get_by_role("banner").get_by_role("button", name="Put on sheet").click()
    expect(page.get_by_label("Scale", exact=True)).to_have_value("1:50", timeout=SLOW)

    foreign = tmp_path / "foreign.pdf"
    canvas = Canvas(str(foreign), pagesize=(200 * mm, 100 * mm))
    canvas.line(20 * mm, 50 * mm, 180 * mm, 50 * mm)
    canvas.rect(20 * mm, 20 * mm, 160 * mm, 60 * mm)
    canvas.save()
    page.get_by_role("link", name="Source").click()
    with page.expect_file_chooser() as chooser:
        page.get_by_role("button", name="+ Add a file").click()
    chooser.value.set_files(foreign)
    page.locator(".sources").get_by_role("button", name="foreign.pdf").click(timeout=SLOW)
    expect(page.get_by_text("This page gives no scale.")).to_be_visible()
    expect(page.locator(".drawing-pane .drawn path").first).to_be_attached(timeout=SLOW)
    page.get_by_role("button", name="Click two points").click()
    line = still(page.locator(".drawing-pane .drawn path").first)
    for x in (line["x"], line["x"] + line["width"]):
        page.mouse.move(x, line["y"] + line["height"] / 2)
        page.mouse.down()
        page.mouse.up()
    # 160 mm on the page are 8 m: 1:50, since what is picked is the line's own ends
    write_into(page, "Its real length", "8 m")
    expect(page.get_by_label("Scale of the page")).to_have_value("1:50")
    # a scale near one of the standard is told
    write_into(page, "Scale of the page", "1:50.6")
    expect(page.get_by_text("the nearest of ISO 5455")).to_be_visible()
    page.get_by_role("button", name="Take 1:50").click()
    expect(page.get_by_label("Scale of the page")).to_have_value("1:50")
    expect(page.get_by_label("Ticket")).to_contain_text("8000 × 3000 mm")
