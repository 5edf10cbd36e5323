"""A sheet made from nothing: family, section, detail, dimensions, title block, more sheets in order; judged by the PDF."""

from __future__ import annotations

import io
import re
from pathlib import Path

import pikepdf
import pytest
from pdfminer.high_level import extract_pages, extract_text
from pdfminer.layout import LTChar, LTTextLine
from playwright.sync_api import Page, expect

from skalto.core.checks.report import check_pdf
from skalto.demo.solids import block, cut, cylinder, moved
from tests.conftest import write_step
from tests.core.modelled import write_assembly
from tests.reference.second_engine import Page as SecondEngine
from tests.web.hand import asked, still
from tests.web.test_path import SLOW, begin, choose_file, proofed, write_into

MM = 25.4 / 72


def spot(page: Page, x: float, y: float, height: float = 297, width: float = 420) -> tuple[float, float]:
    """Where a point of the sheet, mm, lies on the screen."""
    box = still(page.locator(".desk .paper"))
    return box["x"] + x * box["width"] / width, box["y"] + (height - y) * box["height"] / height


def stroke(page: Page, start: tuple[float, float], end: tuple[float, float]) -> None:
    """Press, draw and let go, at points of the sheet."""
    page.mouse.move(*spot(page, *start))
    page.mouse.down()
    page.mouse.move(*spot(page, (start[0] + end[0]) / 2, (start[1] + end[1]) / 2), steps=4)
    page.mouse.move(*spot(page, *end), steps=4)
    page.mouse.up()


def saved(page: Page) -> None:
    expect(page.get_by_text("All changes saved")).to_be_visible(timeout=SLOW)


def act(page: Page, name: str) -> None:
    page.locator(".acts").get_by_role("button", name=name).click()


def boxes(data: bytes) -> dict[str, list[float]]:
    """The measurement viewports of a one-page file by name, mm."""
    with pikepdf.open(io.BytesIO(data)) as pdf:
        return {str(v.Name): [float(n) * MM for n in v.BBox] for v in pdf.pages[0].VP}


def words(data: bytes) -> set[str]:
    return set(extract_text(io.BytesIO(data)).split())


@pytest.fixture
def flat_plate(tmp_path: Path) -> Path:
    """A plate 120 × 80 × 10 that lies flat, holes Ø30 at (−30, 0) and Ø12 at (25, 15)."""
    holes = [cylinder(30, 40, (-30, 0, -10)), cylinder(12, 40, (25, 15, -10))]
    return write_step(cut(block(120, 80, 10), *holes), tmp_path / "flat plate.step")


def start_with_front(page: Page, path: Path, name: str) -> None:
    """A new job with the front view of a model on a new sheet, its middle at 110, 250."""
    begin(page, name)
    choose_file(page, path)
    expect(page.locator(".scene canvas")).to_be_visible(timeout=SLOW)
    page.get_by_role("radio", name="front", exact=True).click()
    page.get_by_role("banner").get_by_role("button", name="Put on sheet").click()
    expect(page.locator('.view[data-view="front"] path').first).to_be_visible(timeout=SLOW)
    write_into(page, "Position, x", "50")
    write_into(page, "Position, y", "245")
    expect(page.get_by_label("Position, y", exact=True)).to_have_value("245")
    saved(page)


def with_top(page: Page) -> None:
    """The top view pulled down from the front one, its middle at 110, 150."""
    act(page, "Project a view")
    stroke(page, (110, 250), (112, 150))
    expect(page.locator('.view[data-view="top"] path').first).to_be_visible(timeout=SLOW)
    expect(page.get_by_label("Ticket").get_by_role("heading", level=2)).to_have_text("Top view")
    saved(page)


def test_a_view_is_pulled_by_pointing_and_a_click(page: Page, flat_plate: Path) -> None:
    start_with_front(page, flat_plate, "Pointing")
    act(page, "Project a view")
    ghost = page.locator(".pull-ghost")
    # where the hand is, what would lie there shows: its name, and in line with the front view
    page.mouse.move(*spot(page, 113, 150))
    expect(ghost).to_have_attribute("data-view", "top", timeout=SLOW)
    page.mouse.move(*spot(page, 300, 252))
    expect(ghost).to_have_attribute("data-view", "left")
    page.mouse.move(*spot(page, 240, 120))
    expect(ghost).to_have_attribute("data-view", re.compile("iso"))
    page.mouse.click(*spot(page, 113, 150))
    expect(page.locator('.view[data-view="top"] path').first).to_be_visible(timeout=SLOW)
    expect(ghost).to_have_count(0)
    expect(page.get_by_label("Position, x", exact=True)).to_have_value("50")
    # a click on the view itself pulls nothing
    act(page, "Project a view")
    page.mouse.click(*spot(page, 110, 150))
    page.keyboard.press("Escape")
    saved(page)
    ports = boxes(proofed(page))
    assert {"front", "top"} <= set(ports)
    assert len(ports) == 2


def test_a_sheet_from_nothing_to_pdf(page: Page, flat_plate: Path) -> None:
    start_with_front(page, flat_plate, "Plates")
    with_top(page)
    ticket = page.get_by_label("Ticket")
    expect(ticket).to_contain_text("from the front view")
    # pulled a little askew, it lies straight below its parent all the same
    expect(page.get_by_label("Position, x", exact=True)).to_have_value("50")

    # a section through the large hole, seen toward the right
    act(page, "Section")
    stroke(page, (80, 105), (80.4, 195))
    expect(page.locator('.view[data-view="section"] path').first).to_be_visible(timeout=SLOW)
    expect(ticket.get_by_role("heading", level=2)).to_have_text("Section A–A")
    saved(page)

    # Ø12 of the small hole, and the distance of the two holes
    page.locator('.view[data-view="top"]').locator(".grip").click(position={"x": 30, "y": 60})
    expect(ticket.get_by_role("heading", level=2)).to_have_text("Top view")
    act(page, "Dimension")
    overlay = page.locator(".mode-overlay")
    expect(overlay).to_be_visible()
    asked(page, "/edges")
    page.mouse.move(*spot(page, 135 + 6, 165))
    expect(overlay.locator(".pick-over")).to_be_visible(timeout=SLOW)
    page.mouse.click(*spot(page, 135 + 6, 165))
    page.mouse.click(*spot(page, 152, 179))
    expect(ticket.get_by_label("Dimensions")).to_contain_text("Ø12", timeout=SLOW)
    page.mouse.click(*spot(page, 80, 150))
    page.mouse.click(*spot(page, 135, 165))
    page.mouse.click(*spot(page, 110, 100))
    expect(ticket.get_by_label("Dimensions")).to_contain_text("55", timeout=SLOW)
    page.keyboard.press("Escape")
    ticket.get_by_role("button", name=re.compile("^55 ")).click()
    ticket.get_by_label("Dimension tolerance").fill("±0.1")
    ticket.get_by_label("Dimension tolerance").press("Enter")
    expect(ticket.get_by_label("Dimensions")).to_contain_text("55±0.1", timeout=SLOW)
    page.keyboard.press("Escape")

    # the title block, where it stands
    page.get_by_role("button", name="Legal owner: empty").click()
    field = page.locator("input.title-cell")
    field.fill("Verkstan")
    field.press("Enter")
    expect(page.get_by_role("button", name="Legal owner: Verkstan")).to_be_visible(timeout=SLOW)

    # once more, under another name, and first in order
    rows = page.locator(".sheets li")
    page.locator(".strip").get_by_role("button", name="duplicate").click()
    expect(rows).to_have_count(2)
    expect(ticket.get_by_role("heading", level=2)).to_have_text("Sheet 1 (copy)")
    expect(page.locator('.desk .view[data-view="section"] path').first).to_be_visible(timeout=SLOW)
    write_into(page, "Sheet name", "Second")
    expect(rows.nth(1)).to_contain_text("2 Second")
    second, first = still(rows.nth(1)), still(rows.nth(0))
    page.mouse.move(second["x"] + 40, second["y"] + 40)
    page.mouse.down()
    page.mouse.move(second["x"] + 40, second["y"] + 20, steps=4)
    page.mouse.move(first["x"] + 40, first["y"] + 10, steps=8)
    page.mouse.up()
    expect(rows.nth(0)).to_contain_text("1 Second", timeout=SLOW)
    expect(rows.nth(1)).to_contain_text("2 Sheet 1")
    saved(page)

    data = proofed(page)
    places = boxes(data)
    assert set(places) == {"front", "top", "section A–A"}
    assert places["front"] == pytest.approx([50, 245, 170, 255], abs=0.01)
    # first angle: what is seen from above lies below, in line
    assert places["top"][::2] == pytest.approx([50, 170], abs=0.01)
    assert places["top"][3] - places["top"][1] == pytest.approx(80, abs=0.01)
    assert places["top"][3] < places["front"][1]
    # what is seen toward the right lies at the right, as high as its parent
    assert places["section A–A"][1::2] == pytest.approx(places["top"][1::2], abs=0.01)
    assert places["section A–A"][0] > places["top"][2]
    assert places["section A–A"][2] - places["section A–A"][0] == pytest.approx(10, abs=0.01)
    found = words(data)
    assert {"Ø12", "55±0.1", "A–A", "Verkstan", "Second", "1/2", "A3", "1:1"} <= found
    report = check_pdf(data)
    assert report.holds
    # the holes as another engine finds them
    diameters = sorted({round(c[2], 3) for c in SecondEngine(data).circles()})
    assert {12.0, 30.0} <= set(diameters)

    # the other sheet is a sheet of its own
    rows.nth(1).locator("a").click()
    expect(page.get_by_role("heading", level=2).first).to_be_visible()
    page.get_by_role("link", name="Sheets").click()
    expect(page.locator(".sheets a.at")).to_contain_text("2 Sheet 1")


@pytest.mark.long
def test_the_lettering_is_where_and_as_large_as_it_should_be(page: Page, flat_plate: Path) -> None:
    start_with_front(page, flat_plate, "Letters")
    act(page, "Overall sizes")
    expect(page.get_by_label("Dimensions")).to_contain_text("120", timeout=SLOW)
    saved(page)
    data = proofed(page)
    lines = [line for box in next(iter(extract_pages(io.BytesIO(data)))) for line in (box if hasattr(box, "__iter__") else ())]
    figure = next(line for line in lines if isinstance(line, LTTextLine) and line.get_text().strip() == "120")
    letters = [c for c in figure if isinstance(c, LTChar)]
    # the middle of the figure over the middle of the view, 12 mm below it, a little above its line
    assert (letters[0].x0 + letters[-1].x1) / 2 * MM == pytest.approx(110, abs=0.5)
    assert letters[0].matrix[5] * MM == pytest.approx(245 - 12 + 0.9, abs=0.05)
    # capitals 3.5 mm high: Routed Gothic's are 736 of 1024
    with pikepdf.open(io.BytesIO(data)) as pdf:
        sizes = {float(i.operands[1]) * MM for i in pikepdf.parse_content_stream(pdf.pages[0]) if str(i.operator) == "Tf"}
    assert any(size == pytest.approx(3.5 * 1024 / 736, rel=1e-4) for size in sizes)


@pytest.mark.long
def test_families_keep_in_line_and_turn_with_the_arrangement(page: Page, flat_plate: Path) -> None:
    start_with_front(page, flat_plate, "Families")
    with_top(page)
    # the parent takes its family along
    page.locator('.view[data-view="front"] .grip').click()
    expect(page.get_by_label("Ticket").get_by_role("heading", level=2)).to_have_text("Front view")
    write_into(page, "Move by", "7.5, -3")
    expect(page.get_by_label("Position, x", exact=True)).to_have_value("57.5")
    expect(page.get_by_label("Position, y", exact=True)).to_have_value("242")
    page.locator('.view[data-view="top"] .grip').click(position={"x": 20, "y": 20})
    expect(page.get_by_label("Ticket").get_by_role("heading", level=2)).to_have_text("Top view")
    expect(page.get_by_label("Position, x", exact=True)).to_have_value("57.5")
    # a member moves along its line alone
    write_into(page, "Move by", "20, -5")
    expect(page.get_by_label("Position, y", exact=True)).to_have_value("102")
    expect(page.get_by_label("Position, x", exact=True)).to_have_value("57.5")
    page.mouse.click(*spot(page, 390, 270))
    page.get_by_label("Projection", exact=True).get_by_text("third-angle").click()
    saved(page)
    data = proofed(page)
    places = boxes(data)
    assert places["top"][1] > places["front"][3]
    assert places["top"][::2] == pytest.approx(places["front"][::2], abs=0.01)


@pytest.mark.long
def test_a_newer_revision_moves_a_hole_and_keeps_the_rest(page: Page, flat_plate: Path, tmp_path: Path) -> None:
    start_with_front(page, flat_plate, "Revisions")
    with_top(page)
    act(page, "Dimension")
    asked(page, "/edges")
    page.mouse.move(*spot(page, 80 + 15, 150))
    expect(page.locator(".mode-overlay .pick-over")).to_be_visible(timeout=SLOW)
    page.mouse.click(*spot(page, 80, 150))
    page.mouse.click(*spot(page, 135, 165))
    page.mouse.click(*spot(page, 110, 100))
    dimensions = page.get_by_label("Dimensions")
    expect(dimensions).to_contain_text("55", timeout=SLOW)
    saved(page)
    moved = [cylinder(30, 40, (-30, 0, -10)), cylinder(12, 40, (32, 15, -10))]
    newer = write_step(cut(block(120, 80, 10), *moved), tmp_path / "flat plate B.step")
    page.keyboard.press("Escape")
    page.get_by_role("link", name=re.compile("Source")).click()
    with page.expect_file_chooser() as chooser:
        page.get_by_role("button", name="Replace with a newer revision").click()
    chooser.value.set_files(newer)
    expect(page.get_by_label("Ticket")).to_contain_text("Revision 2 of this source", timeout=SLOW)
    expect(page.get_by_label("Ticket")).to_contain_text("1 dimension followed a moved edge")
    page.get_by_role("link", name=re.compile("Sheets")).click()
    expect(page.get_by_label("Ticket")).to_contain_text("is now 62; it was 55", timeout=SLOW)
    data = proofed(page)
    found = words(data)
    assert "62" in found
    assert "55" not in found
    places = boxes(data)
    assert places["front"] == pytest.approx([50, 245, 170, 255], abs=0.01)
    assert places["top"] == pytest.approx([50, 110, 170, 190], abs=0.6)


@pytest.mark.long
def test_a_clean_sheet_holds_nothing_but_the_parts_edges(page: Page, flat_plate: Path) -> None:
    start_with_front(page, flat_plate, "Clean")
    with_top(page)
    act(page, "Overall sizes")
    expect(page.get_by_label("Dimensions")).to_contain_text("120", timeout=SLOW)
    page.mouse.click(*spot(page, 390, 270))
    page.get_by_role("button", name="geometry only").click()
    saved(page)
    clean = proofed(page)
    engine = SecondEngine(clean)
    # front: its outline and the hidden holes' none; top: four sides and two holes
    assert {round(width, 3) for width in engine.widths} == {0.5}
    assert sorted(round(c[2], 3) for c in engine.circles()) == [12, 30]
    assert len(engine.points) == 4 + 4 + 2
    assert extract_text(io.BytesIO(clean)).strip() == ""
    with pikepdf.open(io.BytesIO(clean)) as pdf:
        assert "/Font" not in pdf.pages[0].Resources
        assert "/XObject" not in pdf.pages[0].Resources
    # and all comes back in one click
    page.get_by_role("link", name=re.compile("Sheets")).click()
    page.get_by_role("button", name="geometry only").click()
    saved(page)
    assert {"120", "A3"} <= words(proofed(page))


def heights(data: bytes) -> set[float]:
    """The heights of capitals in a one-page file, mm: Routed Gothic's are 736 of 1024."""
    with pikepdf.open(io.BytesIO(data)) as pdf:
        runs = [i for i in pikepdf.parse_content_stream(pdf.pages[0]) if str(i.operator) == "Tf"]
    return {round(float(run.operands[1]) * MM * 736 / 1024, 2) for run in runs}


@pytest.mark.long
def test_notes_and_the_columns_of_a_parts_list(page: Page, tmp_path: Path) -> None:
    parts = {"Base": block(60, 60, 8), "Post": moved(cylinder(20, 40), (0, 0, 8))}
    start_with_front(page, write_assembly(parts, tmp_path / "stand.step"), "Stand")
    ticket = page.get_by_label("Ticket")
    page.mouse.click(*spot(page, 350, 200))
    expect(ticket.get_by_role("heading", level=2)).to_have_text("Sheet 1")
    for count, (text, x) in enumerate((("Glued", 200), ("Waxed", 240)), 1):
        page.keyboard.press("n")
        page.mouse.click(*spot(page, x, 200))
        # what is typed goes into it, on the paper, and no letter of it is a command
        expect(page.get_by_label("Words of the note")).to_be_focused()
        page.keyboard.type(text)
        page.keyboard.press("Enter")
        expect(ticket.get_by_label("Note", exact=True)).to_have_count(count, timeout=SLOW)
        saved(page)
    # one that is begun and left with Escape is none; a double click on the paper edits
    page.keyboard.press("n")
    page.mouse.click(*spot(page, 280, 150))
    page.keyboard.type("no")
    page.keyboard.press("Escape")
    page.get_by_label("Note: Waxed").dblclick()
    page.keyboard.press("Control+A")
    page.keyboard.type("Oiled")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Note: Oiled")).to_be_attached(timeout=SLOW)
    expect(ticket.get_by_label("Note", exact=True)).to_have_count(2)
    height = ticket.get_by_label("Height of the note").last
    height.fill("900")
    height.press("Enter")
    expect(ticket.get_by_text("Lettering is from 0.5 to 100 mm high. Still 3.5.")).to_be_visible()
    height.fill("7")
    height.press("Enter")
    expect(height).to_have_value("7")
    turn = ticket.get_by_label("Rotation of the note").last
    turn.fill("90")
    turn.press("Enter")
    expect(turn).to_have_value("90°")
    ticket.get_by_role("button", name="parts list", exact=True).click()
    ticket.get_by_role("button", name="part number", exact=True).click()
    ticket.get_by_role("button", name="mass", exact=True).click()
    expect(ticket.get_by_role("button", name="mass", exact=True)).to_have_attribute("aria-pressed", "false")
    saved(page)
    data = proofed(page)
    assert 7 in heights(data)
    lines = [line for box in next(iter(extract_pages(io.BytesIO(data)))) for line in (box if hasattr(box, "__iter__") else ())]
    upright = [line.get_text().strip() for line in lines if isinstance(line, LTTextLine) and not next(iter(line)).upright]
    # what stands upright is read letter by letter, from below
    assert "".join(upright) in ("Oiled", "deliO")
    said = words(data)
    assert {"Glued", "Item", "Qty", "Name", "Material", "Base", "Post", "1", "2"} <= said
    # with the title block's own field for it, mass stands on the sheet once and not as a column
    assert "Part" not in said
    assert check_pdf(data).holds
