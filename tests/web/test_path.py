"""What a drafter does, from a file dropped in to a PDF opened."""

from __future__ import annotations

import io
import re
from pathlib import Path

import numpy as np
import pikepdf
import pytest
from playwright.sync_api import Page, expect

from skalto.core.checks.report import check_pdf
from tests.core.sources.bad_models import BAD
from tests.reference.second_engine import Page as SecondEngine
from tests.web.hand import still

SLOW = 60_000


def begin(page: Page, name: str) -> None:
    """A new job, as a person makes one."""
    page.goto("/")
    page.get_by_label("Name of the new job").fill(name)
    page.get_by_role("button", name="New job").click()
    expect(page.get_by_text("Drop a model or a drawing here")).to_be_visible(timeout=SLOW)


def choose_file(page: Page, path: Path) -> None:
    with page.expect_file_chooser() as chooser:
        page.get_by_text("Drop a model or a drawing here").click()
    chooser.value.set_files(path)


def download(page: Page) -> bytes:
    with page.expect_download() as waiting:
        page.get_by_role("banner").get_by_role("button", name="Download the PDF").click()
    return Path(waiting.value.path()).read_bytes()


def write_into(page: Page, label: str, text: str) -> None:
    field = page.get_by_label(label, exact=True)
    field.fill(text)
    field.press("Enter")


def proofed(page: Page) -> bytes:
    """Proof the open sheet and fetch the file."""
    page.get_by_role("button", name="Proof this sheet").click()
    expect(page.get_by_role("heading", name="Measured in the file")).to_be_visible(timeout=SLOW)
    return download(page)


def test_from_a_step_file_to_a_proven_pdf(page: Page, press_step: Path) -> None:
    begin(page, "Cheeks")
    choose_file(page, press_step)
    expect(page.locator(".scene canvas")).to_be_visible(timeout=SLOW)
    ticket = page.get_by_label("Ticket")
    expect(ticket).to_contain_text("462 × 389 × 320 mm")
    expect(ticket).to_contain_text("Components60")

    # the tree tells a part's facts
    page.get_by_label("Find a component").fill("cheek, l")
    page.locator(".ant-tree").get_by_text("Cheek, left").click()
    expect(ticket.get_by_role("heading", level=2)).to_have_text("Cheek, left")
    expect(ticket).to_contain_text("8 × 220 × 262 mm")
    # let go of it again: what is selected would come alone
    page.locator(".ant-tree").get_by_text("Cheek, left").click()
    expect(ticket.get_by_role("heading", level=2)).to_have_text("Ebba.step")
    page.get_by_label("Find a component").fill("")

    # the view from the left, on a new sheet
    page.get_by_role("radio", name="left", exact=True).click()
    page.get_by_role("banner").get_by_role("button", name="Put on sheet").click()
    view = page.locator(".desk .view")
    expect(view.locator("path").first).to_be_visible(timeout=SLOW)
    expect(page.get_by_label("Scale", exact=True)).to_have_value("1:2")  # 389 × 320 mm on A3

    # only the frame stays; then its scale, place and sheet
    page.locator(".acts").get_by_role("button", name="Components").click()
    dialog = page.get_by_role("dialog")
    for name in ("Lower roller set", "Upper roller set", "Bed plate", "Pressure gear", "Crank", "Inking"):
        dialog.get_by_label("Find a component").fill(name)
        row = dialog.locator(".ant-tree-treenode").filter(has=page.get_by_text(name, exact=True))
        row.locator(".ant-tree-checkbox").click()
    dialog.get_by_role("button", name="Done").click()
    expect(ticket).to_contain_text("33 of 60 shown")
    write_into(page, "Scale", "1:1")
    expect(ticket).to_contain_text("230 × 274 mm", timeout=SLOW)
    write_into(page, "Position, x", "40")
    write_into(page, "Position, y", "12.5")
    expect(page.get_by_label("Position, x", exact=True)).to_have_value("40")
    expect(page.get_by_text("All changes saved")).to_be_visible()

    data = proofed(page)
    with pikepdf.open(io.BytesIO(data)) as pdf:
        (viewport,) = pdf.pages[0].VP
        assert str(viewport.Name) == "left"
        assert str(viewport.Measure.R) == "1:1"
        assert [float(v) * 25.4 / 72 for v in viewport.BBox] == pytest.approx([40, 12.5, 270, 286.5], abs=1e-3)
        assert str(pdf.docinfo["/Title"]) == "Cheeks, Sheet 1"
    report = check_pdf(data)
    assert report.holds
    assert (report.pages[0].width_mm, report.pages[0].height_mm) == (420, 297)
    # the Ø62 bore of the cheek, found by an engine that had no part in any of this
    bore = min(SecondEngine(data).circles(), key=lambda c: abs(c[2] - 62))
    assert bore[2] == pytest.approx(62, abs=1e-3)
    assert bore[:2] == pytest.approx((40 + 115, 12.5 + 12 + 92), abs=2e-3)
    expect(page.locator(".readings")).to_contain_text("width 230.0000 for 230 mm")
    expect(page.locator("canvas[data-drawn]")).to_be_visible()


@pytest.mark.parametrize("where", [".drop", ".desk-row"])
def test_a_file_dropped_on_the_page_comes_in_once(where: str, page: Page, plate_step: Path) -> None:
    begin(page, "Dropping")
    # a file of its own, so that it has to be read
    data = plate_step.read_text() + f"\n/* {where} */\n"
    transfer = page.evaluate_handle(
        """text => {
            const transfer = new DataTransfer();
            transfer.items.add(new File([text], "dropped.step"));
            return transfer;
        }""",
        data,
    )
    target = page.locator(where).first
    with page.expect_request(lambda request: request.method == "POST" and "/incoming?" in request.url):
        target.dispatch_event("drop", {"dataTransfer": transfer})
    expect(page.locator(".scene canvas")).to_be_visible(timeout=SLOW)
    expect(page.locator(".sources li")).to_have_count(1)
    expect(page.locator(".incoming li")).to_have_count(0)


def test_drag_undo_redo_and_the_palette(page: Page, plate_step: Path) -> None:
    begin(page, "Dragging")
    choose_file(page, plate_step)
    expect(page.locator(".scene canvas")).to_be_visible(timeout=SLOW)
    page.get_by_role("radio", name="top", exact=True).click()
    page.keyboard.press("p")
    grip = page.locator(".desk .view .grip")
    expect(grip).to_be_visible(timeout=SLOW)
    x = page.get_by_label("Position, x", exact=True)
    before = float(x.input_value())
    box = still(grip)
    paper = still(page.locator(".desk .paper"))
    middle = (box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.mouse.move(*middle)
    page.mouse.down()
    page.mouse.move(middle[0] + 40, middle[1] - 20, steps=5)
    page.mouse.up()
    moved = 40 / paper["width"] * 420
    expect(x).not_to_have_value(f"{before:g}")
    assert float(x.input_value()) == pytest.approx(before + moved, abs=0.15)

    after = x.input_value()
    page.keyboard.press("Escape")  # what is selected keeps no letter from its act
    page.keyboard.press("u")
    expect(page.get_by_role("button", name=re.compile("^Redo"))).to_be_enabled()
    grip.click()
    expect(x).to_have_value(f"{before:g}")
    page.keyboard.press("Shift+U")
    expect(x).to_have_value(after)
    page.locator("body").press("ArrowRight")
    expect(x).to_have_value(f"{float(after) + 1:g}")

    page.keyboard.press("k")
    page.get_by_label("Find an action").fill("add sheet")
    page.keyboard.press("Enter")
    expect(page.locator(".sheets li")).to_have_count(2)
    expect(page.get_by_label("Ticket")).to_contain_text("This sheet is empty")
    page.reload()
    expect(page.locator(".sheets li")).to_have_count(2)  # it was saved at once
    expect(page.get_by_role("button", name="Proof this sheet")).to_be_visible()


@pytest.mark.long
def test_edges_formats_and_what_leaves_the_sheet(page: Page, plate_step: Path) -> None:
    begin(page, "Formats")
    choose_file(page, plate_step)
    expect(page.locator(".scene canvas")).to_be_visible(timeout=SLOW)
    page.get_by_role("radio", name="front", exact=True).click()
    page.get_by_role("banner").get_by_role("button", name="Put on sheet").click()
    strokes = page.locator(".desk .view .stroke")
    expect(strokes.first).to_be_visible(timeout=SLOW)
    hidden = page.locator('.desk .view .stroke[data-edges="hidden"]')
    expect(hidden).to_have_count(0)
    page.get_by_role("button", name="hidden", exact=True).click()
    expect(hidden).to_have_count(1)

    ticket = page.get_by_label("Ticket")
    write_into(page, "Scale", "five")
    expect(ticket).to_contain_text("“five” is not a scale")
    expect(ticket).to_contain_text("Still 1:1")
    write_into(page, "Scale", "4:1")
    expect(ticket).to_contain_text("4:1 is not a preferred scale")
    expect(ticket).to_contain_text("leaves the sheet by")
    write_into(page, "Position, x", "-30")
    expect(ticket).to_contain_text("30 mm at the left")
    ticket.get_by_role("button", name="Centre it on the sheet").click()
    expect(page.get_by_label("Position, x", exact=True)).to_have_value("-30")  # 480 on 420 is 30 over on either side
    write_into(page, "Scale", "1:2")

    page.keyboard.press("Escape")
    page.locator(".desk").click(position={"x": 10, "y": 500})
    write_into(page, "Format", "90x60mm")
    page.get_by_role("dialog").get_by_role("button", name="Keep their position").click()
    expect(ticket.locator("header")).to_contain_text("90 × 60 mm")
    ticket.get_by_text("none", exact=True).click()
    # the list moves as what the sheet carries changes
    expect(page.get_by_text("All changes saved")).to_be_visible()
    page.locator(".view-list button").click()
    expect(ticket.get_by_role("heading", level=2)).to_have_text("Front view")
    page.keyboard.press("m")
    expect(page.get_by_label("Position, x", exact=True)).to_have_value("15")

    data = proofed(page)
    file = SecondEngine(data)
    assert (file.width, file.height) == pytest.approx((90, 60), abs=1e-4)
    assert file.extent() == pytest.approx((60, 5), abs=1e-3)
    assert sorted({round(w, 3) for w in file.widths}) == [0.25, 0.5]
    points = np.concatenate(file.points)
    assert points.min(axis=0) == pytest.approx((15, 27.5), abs=1e-3)


@pytest.mark.long
def test_real_size_after_calibrating_with_a_card(page: Page, plate_step: Path) -> None:
    begin(page, "Real size")
    choose_file(page, plate_step)
    expect(page.locator(".scene canvas")).to_be_visible(timeout=SLOW)
    page.get_by_role("radio", name="top", exact=True).click()
    page.get_by_role("banner").get_by_role("button", name="Put on sheet").click()
    expect(page.locator(".desk .view .grip")).to_be_visible(timeout=SLOW)
    page.locator("body").press("k")
    page.get_by_label("Find an action").fill("bank card")
    page.keyboard.press("Enter")
    slider = page.get_by_role("slider", name="Width of the card")
    slider.focus()
    for _ in range(22):
        slider.press("ArrowRight")
    card = page.get_by_test_id("card").evaluate("element => element.offsetWidth")
    page.get_by_role("button", name="It fits").click()
    expect(page.locator(".ant-modal-wrap:visible")).to_have_count(0)
    page.locator("body").press("r")
    expect(page.locator(".desk .hint")).to_contain_text("shown at 1.00 of real size")
    paper = still(page.locator(".desk .paper"))
    # ISO/IEC 7810 ID-1: the card is 85.60 mm wide, the sheet 420
    assert paper["width"] / card == pytest.approx(420 / 85.6, rel=5e-3)
    page.locator("body").press("f")
    expect(page.locator(".desk .hint")).not_to_contain_text("shown at 1.00")


@pytest.mark.parametrize(
    "kind",
    ["no model at all", "STEP cut short", *(pytest.param(kind, marks=pytest.mark.long) for kind in (
        "empty", "not STEP", "STEP without solids", "IGES cut short", "BREP cut short", "STL cut short", "glb cut short",
        "PLY cut short", "OBJ without faces",
    ))],
)  # fmt: skip
def test_a_bad_file_is_told_on_the_page(kind: str, page: Page, plate_step: Path, tmp_path: Path) -> None:
    make, words = BAD[kind]
    path = make(tmp_path, plate_step)
    begin(page, kind)
    choose_file(page, path)
    told = page.locator(".incoming [role=alert], .ant-message-notice").first
    expect(told).to_contain_text(re.compile(words), timeout=SLOW)
    expect(page.get_by_text("Drop a model or a drawing here")).to_be_visible(timeout=SLOW)  # the job is as it was
