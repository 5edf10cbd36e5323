"""What a hand expects without thinking: a step back by Esc, a field that takes the keyboard, a released sheet that is closed, a
file under the name that was typed, the words that say what is seen."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any

import ezdxf
import pypdfium2 as pdfium
import pytest
from playwright.sync_api import Browser, Page, expect

from skalto.demo.solids import block, cut, cylinder, fuse, mirrored, moved
from tests.api.test_api import bring_in, new_job, wait_for
from tests.api.test_issues import edit, sheet_of
from tests.conftest import Running
from tests.core.modelled import write_assembly
from tests.web.test_path import SLOW, proofed, write_into
from tests.web.test_solids import drag


@pytest.fixture(scope="module")
def hands(running: Running, tmp_path_factory: pytest.TempPathFactory) -> tuple[int, str]:
    """A job of a bracket, its opposite hand and a plate, with a sheet; the job and the sheet."""
    body = cut(fuse(block(40, 30, 4), moved(block(4, 30, 20), (18, 0, 0))), cylinder(5, 20, (-10, 8, -5)))
    parts = {"Ear, left": body, "Ear, right": moved(mirrored(body), (0, 100, 0)), "Plate": moved(block(60, 40, 3), (100, 0, 0))}
    path = write_assembly(parts, tmp_path_factory.mktemp("hands") / "ears.step", "Ears")
    job = new_job(running, "Ears")
    source = bring_in(running, job, path)
    wait_for(lambda: running.client.get(f"/api/jobs/{job}/parts").json()["work"] is None)
    running.client.post(f"/api/jobs/{job}/marks", json={}).raise_for_status()
    return job, sheet_of(running.client, job, "Ears", "A3", source, "front")


def test_a_released_sheet_is_closed_and_says_what_opens_it(hands: tuple[int, str], running: Running, page: Page) -> None:
    job, sheet = hands
    page.goto(f"/jobs/{job}/release")
    page.get_by_role("tab", name="States").click()
    page.get_by_label("Find mark or name").fill("ears")
    rows = page.locator(".ant-table-row")
    expect(rows).to_have_count(2, timeout=SLOW)
    page.get_by_label("Select Ears").first.check()
    page.get_by_role("checkbox", name="Release these files too").uncheck()
    page.get_by_role("button", name="released", exact=True).click()
    expect(rows.first.locator(".part-state")).to_have_text("released", timeout=SLOW)

    page.goto(f"/jobs/{job}/sheets/{sheet}")
    ticket = page.get_by_label("Ticket")
    expect(ticket.get_by_role("link", name="released, rev. A")).to_be_visible(timeout=SLOW)
    expect(page.get_by_label("Sheet scale")).to_be_disabled()
    expect(page.locator(".title-cell")).to_have_count(0)
    # a key that would change it says why it does not
    before = running.client.get(f"/api/jobs/{job}").json()["step"]
    page.locator(".view .grip").first.click(force=True)
    page.keyboard.press("Delete")
    expect(page.get_by_text("Released at revision A, and closed").last).to_be_visible()
    assert running.client.get(f"/api/jobs/{job}").json()["step"] == before
    # the file says the state where the title block has its status
    data = proofed(page)
    assert "released" in pdfium.PdfDocument(data)[0].get_textpage().get_text_range()
    page.goto(f"/jobs/{job}/sheets/{sheet}")
    page.get_by_role("button", name="Begin the next revision").click()
    expect(page.get_by_label("Sheet scale")).to_be_enabled()
    expect(ticket.get_by_role("link", name="in work, rev. B")).to_be_visible()


def test_escape_goes_one_step_back(hands: tuple[int, str], page: Page) -> None:
    job, sheet = hands
    page.goto(f"/jobs/{job}/sheets/{sheet}")
    page.locator(".view .grip").first.click(force=True)
    expect(page).to_have_url(re.compile("view="))
    expect(page.locator(".acts")).to_be_visible()
    page.keyboard.press("d")
    expect(page.locator(".hint strong")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.locator(".hint strong")).to_have_count(0)
    expect(page).to_have_url(re.compile("view="))
    page.keyboard.press("Escape")
    expect(page).to_have_url(re.compile(r"^[^?]*$"))
    proofed(page)
    page.keyboard.press("w")
    # the field to find with has the keyboard
    expect(page.get_by_label("Find in the file")).to_be_focused()
    page.keyboard.type("ears")
    expect(page.get_by_label("Find in the file")).to_have_value("ears")
    page.keyboard.press("Tab")
    page.locator("body").click(position={"x": 700, "y": 780})
    page.keyboard.press("Escape")
    expect(page.get_by_role("heading", name="Measured in the file")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page).to_have_url(re.compile(f"/sheets/{sheet}$"))


def test_a_file_is_called_what_is_typed(hands: tuple[int, str], page: Page) -> None:
    job, sheet = hands
    page.goto(f"/jobs/{job}/sheets/{sheet}")
    proofed(page)
    expect(page.get_by_label("File name", exact=True)).to_have_value("Ears_Ears")
    write_into(page, "File name", "For Ada, 2nd try.pdf")
    with page.expect_download() as waiting:
        page.get_by_role("banner").get_by_role("button", name="Download the PDF").click()
    assert waiting.value.suggested_filename == "For_Ada,_2nd_try.pdf"
    assert Path(waiting.value.path()).read_bytes().startswith(b"%PDF")


def test_the_source_says_what_the_hand_turned_to(hands: tuple[int, str], page: Page) -> None:
    job, _ = hands
    page.goto(f"/jobs/{job}/source")
    scene = page.locator(".scene canvas")
    expect(scene).to_be_visible(timeout=SLOW)
    expect(page.locator(".scene .ant-spin")).to_have_count(0, timeout=SLOW)
    direction = page.get_by_role("textbox", name="View direction")
    expect(direction).to_have_value("iso")
    drag(page, scene, 80, 30)
    expect(direction).to_have_value("turned")
    # a part that is selected stays under the pointer in the tree, and leads to its row and back
    tree = page.get_by_role("tree")
    row = tree.get_by_text("Ear, right", exact=True)
    before = row.bounding_box()
    row.click()
    page.get_by_role("link", name="Show in parts").wait_for()
    assert row.bounding_box() == before
    page.get_by_role("link", name="Show in parts").click()
    expect(page.get_by_role("heading", name="Ear, right")).to_be_visible(timeout=SLOW)
    expect(page.get_by_label("Ticket")).to_contain_text("Opposite hand")
    expect(page.locator(".ant-table-row", has_text="Ear, right")).to_contain_text("opposite hand of P001")
    expect(page.locator(".part-thumb")).to_have_count(3, timeout=SLOW)
    page.keyboard.press("Escape")
    expect(page.get_by_role("heading", name="Parts")).to_be_visible()
    page.locator(".ant-table-row", has_text="Plate").click()
    page.get_by_role("button", name="Unfold").click()
    expect(page.get_by_role("dialog")).to_contain_text("Plate")
    page.keyboard.press("Escape")
    page.get_by_role("link", name="Show in model").click()
    expect(page.get_by_role("heading", name="Plate")).to_be_visible(timeout=SLOW)


def test_a_sheet_from_a_template(hands: tuple[int, str], running: Running, page: Page) -> None:
    job, sheet = hands
    page.goto(f"/jobs/{job}/sheets/{sheet}")
    page.get_by_role("button", name="From a template").click()
    page.get_by_label("Of the part").click()
    page.get_by_label("Of the part").fill("plate")
    page.keyboard.press("Enter")
    page.get_by_role("button", name="Make the sheet").click()
    expect(page.get_by_role("heading", name="S001 Plate")).to_be_visible(timeout=SLOW)
    made = running.client.get(f"/api/jobs/{job}").json()["document"]["sheets"][-1]
    assert made["made_for"]["part"] == "Plate"


def test_what_was_refused_is_not_left_standing(hands: tuple[int, str], running: Running, page: Page) -> None:
    job, _ = hands
    edit(running.client, job, kind="set_parts", parts={"Plate": {"material": "S235"}})
    page.goto(f"/jobs/{job}/parts")
    page.locator(".ant-table-row", has_text="Plate").click()
    field = page.get_by_label("Thickness of the selection")
    expect(field).to_have_value("3", timeout=SLOW)
    write_into(page, "Thickness of the selection", "-4")
    expect(page.locator(".ant-message-notice, .ant-message-error").first).to_be_visible()
    expect(field).to_have_value("3")


def test_a_copy_of_rules_is_what_is_edited(hands: tuple[int, str], page: Page) -> None:
    job, _ = hands
    page.goto(f"/jobs/{job}/release")
    page.get_by_role("button", name="Open", exact=True).click()
    page.get_by_role("button", name="Copy and edit").click()
    expect(page.get_by_label("Name of the rules")).to_be_editable()
    write_into(page, "Name of the rules", "House")
    expect(page.get_by_label("Name of files 1", exact=True)).to_be_editable()
    write_into(page, "Name of files 1", "{mark} {sheet}")
    expect(page.get_by_label("Name of files 1", exact=True)).to_have_value("{mark} {sheet}")


def test_a_narrow_window_gives_the_sheet_all_of_it(hands: tuple[int, str], running: Running, browser: Browser) -> None:
    job, sheet = hands
    context = browser.new_context(viewport={"width": 1024, "height": 700}, base_url=running.address)
    page = context.new_page()
    page.goto(f"/jobs/{job}/sheets/{sheet}")
    expect(page.locator(".view .grip").first).to_be_visible(timeout=SLOW)
    ticket = page.get_by_label("Ticket")
    expect(ticket).to_be_hidden()
    assert (page.locator(".desk").bounding_box() or {})["width"] > 900
    # what is selected has its ticket, over the desk, and what acts on it is in sight beside that
    page.locator(".view .grip").first.click(force=True)
    expect(ticket).to_be_visible()
    acts, card = page.locator(".acts").bounding_box(), ticket.bounding_box()
    assert acts is not None
    assert card is not None
    assert acts["x"] + acts["width"] <= card["x"]
    page.keyboard.press("Escape")
    expect(ticket).to_be_hidden()
    page.keyboard.press("z")
    expect(ticket).to_be_visible()
    context.close()


def _left_of(running: Running, job: int, placed: dict[str, str]) -> float:
    """Where a view begins on its sheet, mm."""
    written = running.client.get(f"/api/jobs/{job}/sheets/{placed['sheet']}/writing").json()
    return float(written["views"][placed["view"]]["box"][0])


def _sheets(running: Running, job: int) -> list[dict[str, Any]]:
    return list(running.client.get(f"/api/jobs/{job}").json()["document"]["sheets"])


def _first_region(running: Running, job: int) -> list[float]:
    return list(_sheets(running, job)[0]["views"][0]["content"]["excerpt"]["region"])


def test_a_job_in_inches_shows_and_reads_inches(running: Running, page: Page, tmp_path: Path) -> None:
    """From its first source, changeable; a bare number is in inches, what has a unit stays what it says."""
    document = ezdxf.new("R2010", units=1)
    document.modelspace().add_lwpolyline([(0, 0), (8.5, 0), (8.5, 11), (0, 11)], close=True)
    path = tmp_path / "cover.dxf"
    document.saveas(path)
    job = new_job(running, "Inches")
    source = bring_in(running, job, path)
    assert running.client.get(f"/api/jobs/{job}").json()["document"]["unit"] == "in"
    wish: dict[str, Any] = {
        "source": source,
        "sheet": None,
        "space": "",
        "region": [0, 0, 215.9, 279.4],
        "declared": False,
        "off": [],
        "name": "Cover",
    }
    placed = running.client.post(f"/api/jobs/{job}/excerpts", json=wish).raise_for_status().json()
    page.goto(f"/jobs/{job}/sheets/{placed['sheet']}?view={placed['view']}")
    across = page.get_by_label("Position, x", exact=True)
    expect(across).to_have_value(re.compile(r"^[\d.]+ in$"), timeout=SLOW)
    # the ruler counts inches
    assert "11" in page.locator(".rulers text").all_text_contents() or "10" in page.locator(".rulers text").all_text_contents()
    write_into(page, "Position, x", "2")
    expect(across).to_have_value("2 in")
    expect(page.get_by_text("All changes saved")).to_be_visible()
    assert _left_of(running, job, placed) == pytest.approx(50.8, abs=0.01)
    write_into(page, "Position, x", "60 mm")
    expect(page.get_by_text("All changes saved")).to_be_visible()
    wait_for(lambda: abs(_left_of(running, job, placed) - 60) < 0.01)
    # lists of lengths, of the drawing and of the sheet
    expect(page.get_by_label("Area of the drawing")).to_have_value("0, 0, 8.5, 11")
    write_into(page, "Area of the drawing", "0, 0, 4.25, 11")
    wait_for(lambda: _first_region(running, job) == pytest.approx([0, 0, 107.95, 279.4]))
    write_into(page, "Area of the drawing", "0, 0, 100 mm, 11")
    wait_for(lambda: _first_region(running, job) == pytest.approx([0, 0, 100, 279.4]))
    page.goto(f"/jobs/{job}/sheets/{placed['sheet']}")
    write_into(page, "Margins", "0.75")
    expect(page.get_by_label("Margins")).to_have_value("0.75, 0.75, 0.75, 0.75")
    wait_for(lambda: _sheets(running, job)[0]["margins"] == pytest.approx([19.05] * 4))
    page.goto(f"/jobs/{job}/sheets/{placed['sheet']}?view={placed['view']}")
    # scales of feet and inches are offered for it
    page.get_by_label("Standard scales").click()
    page.locator(".ant-select-item-option").get_by_text('1/4"=1\'-0"', exact=True).click()
    expect(page.get_by_label("Scale", exact=True).first).to_have_value("1:48")
    # millimetres where a person chose them
    page.goto(f"/jobs/{job}/source")
    page.get_by_label("Lengths in").select_option("mm")
    expect(page.get_by_text("All changes saved")).to_be_visible()
    page.goto(f"/jobs/{job}/sheets/{placed['sheet']}?view={placed['view']}")
    expect(page.get_by_label("Position, x", exact=True)).to_have_value(re.compile(r"^-?[\d.]+( mm)?$"), timeout=SLOW)


def test_a_drawing_goes_to_the_cutter_by_its_layers(running: Running, page: Page, tmp_path: Path) -> None:
    document = ezdxf.new("R2010", units=4)
    for name, colour in (("Sheet", 7), ("Parts", 3), ("Fold", 1)):
        document.layers.add(name, color=colour)
    space = document.modelspace()
    space.add_lwpolyline([(0, 0), (300, 0), (300, 200), (0, 200)], close=True, dxfattribs={"layer": "Sheet"})
    space.add_lwpolyline([(20, 20), (120, 20), (120, 100), (20, 100)], close=True, dxfattribs={"layer": "Parts"})
    space.add_line((30, 30), (110, 30), dxfattribs={"layer": "Fold"})
    space.add_text("Ebba", height=8, dxfattribs={"layer": "Parts"}).set_placement((30, 80))
    path = tmp_path / "plate.dxf"
    document.saveas(path)
    job = new_job(running, "Plate")
    bring_in(running, job, path)
    page.goto(f"/jobs/{job}/source")
    page.get_by_role("button", name="Cut its contours").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("The outermost contour is my plate").check()
    dialog.get_by_label("What is done on Fold").select_option("score")
    expect(dialog.get_by_label("Plate size")).to_have_count(0)
    dialog.get_by_role("button", name="Cut these").click()
    # lettering is told, not dropped
    expect(page.get_by_text("1 text is engraved along the letters.")).to_be_visible(timeout=SLOW)
    (made,) = running.client.get(f"/api/jobs/{job}").json()["document"]["cut_lists"]
    assert (made["plates"][0]["width"], made["plates"][0]["height"]) == (300, 200)
    (part,) = made["parts"]
    assert part["origin"]["score"] == ["Fold"]
    assert part["origin"]["plate"] is True
