"""What goes on a sheet is what is selected and seen; areas of drawings; letters that are written are no commands."""

from __future__ import annotations

import io
from pathlib import Path
from typing import Any

import pikepdf
import pytest
from playwright.sync_api import Page, Route, expect

from skalto.core.checks.report import check_pdf
from skalto.demo.solids import block, cylinder, moved
from tests.core.drawn import dxf
from tests.core.modelled import write_assembly
from tests.web.hand import still
from tests.web.test_path import SLOW, begin, choose_file, proofed, write_into
from tests.web.test_sheets import start_with_front


@pytest.fixture(scope="module")
def stand(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A base 60 × 40 × 8 and two posts on it, 20 and 12 mm thick."""
    parts = {
        "Base": block(60, 40, 8),
        "Post": moved(cylinder(20, 40), (-15, 0, 8)),
        "Pin": moved(cylinder(12, 25), (18, 0, 8)),
    }
    return write_assembly(parts, tmp_path_factory.mktemp("stand") / "stand.step")


def tree_row(page: Page, name: str) -> Any:
    return page.locator(".ant-tree-treenode .component").filter(has_text=name)


def readings(data: bytes) -> list[dict[str, float]]:
    return [{r.kind: r.model_mm for r in view.readings} for view in check_pdf(data).pages[0].views]


def test_what_is_selected_comes_alone_and_several_each_in_a_view(page: Page, stand: Path) -> None:
    begin(page, "Selected")
    choose_file(page, stand)
    expect(page.locator(".scene canvas")).to_be_visible(timeout=SLOW)
    page.get_by_role("radio", name="top", exact=True).click()
    tree_row(page, "Post").click()
    expect(page.get_by_text("Post only, in this direction")).to_be_visible()
    # a double click makes one
    page.get_by_role("banner").get_by_role("button", name="Put on sheet").dblclick()
    expect(page.locator(".desk .view")).to_have_count(1, timeout=SLOW)
    data = proofed(page)
    assert readings(data)[0]["width"] == pytest.approx(20)
    # back at the source the sheet that was worked on is the target; two components become a view each in one act
    page.get_by_role("link", name="Source").click()
    expect(page.locator(".scene canvas")).to_be_visible(timeout=SLOW)
    expect(page.locator(".put-on .ant-select")).to_contain_text("Sheet 1")
    page.get_by_role("radio", name="front", exact=True).click()
    tree_row(page, "Base").click()
    tree_row(page, "Pin").click(modifiers=["Control"])
    expect(page.get_by_text("2 components only, in this direction")).to_be_visible()
    page.get_by_role("button", name="one view each").click()
    expect(page.locator(".desk .view")).to_have_count(3, timeout=SLOW)
    page.get_by_role("button", name="Undo").click()
    expect(page.locator(".desk .view")).to_have_count(1)
    page.get_by_role("button", name="Redo").click()
    expect(page.locator(".desk .view")).to_have_count(3)
    data = proofed(page)
    assert sorted(round(row["width"], 6) for row in readings(data)) == [12, 20, 60]
    # each landed where there is room
    assert not [f for f in check_pdf(data).findings if "over one another" in f.message]


def test_what_is_seen_comes_when_the_model_was_turned_by_hand(page: Page, stand: Path) -> None:
    begin(page, "Rotation")
    choose_file(page, stand)
    canvas = page.locator(".scene canvas")
    expect(canvas).to_be_visible(timeout=SLOW)
    page.get_by_role("radio", name="front", exact=True).click()
    page.wait_for_timeout(500)
    box = still(canvas)
    page.mouse.move(box["x"] + 200, box["y"] + 200)
    page.mouse.down()
    page.mouse.move(box["x"] + 290, box["y"] + 250, steps=6)
    page.mouse.up()
    page.get_by_role("banner").get_by_role("button", name="Put on sheet").click()
    expect(page.locator(".desk .view path").first).to_be_visible(timeout=SLOW)
    job = page.url.split("/jobs/")[1].split("/")[0]
    (view,) = page.request.get(f"/api/jobs/{job}").json()["document"]["sheets"][0]["views"]
    assert view["name"] == "turned"
    # neither the front nor the isometric: turned about the upright axis, and seen from a little above
    assert abs(view["content"]["look"][0]) > 0.1
    assert view["content"]["look"][2] < -0.1


def _plan(doc: Any, space: Any) -> None:
    space.add_lwpolyline([(100, 100), (300, 100), (300, 250), (100, 250)], close=True)
    space.add_circle((200, 175), 30)
    space.add_line((1000, 1000), (1100, 1000))


@pytest.mark.long
def test_an_area_of_a_drawing_is_dragged_typed_and_taken_from_the_screen(page: Page, tmp_path: Path) -> None:
    begin(page, "Areas")
    # in inches, far from its origin
    choose_file(page, dxf(tmp_path / "plan.dxf", _plan, units=1))
    pane = page.locator(".drawing-pane")
    expect(pane.locator(".drawn path").first).to_be_attached(timeout=SLOW)
    page.get_by_role("button", name="Pick area").click()
    frame = still(pane.locator("svg"))
    scale, x, y = (float(pane.get_attribute(f"data-{name}") or 0) for name in ("scale", "x", "y"))
    middle = frame["x"] + frame["width"] / 2, frame["y"] + frame["height"] / 2

    def at(px: float, py: float) -> tuple[float, float]:
        return middle[0] + (px - x) * scale, middle[1] - (py - y) * scale

    # near the plot's corner and near the circle's middle, not on them: both are taken exactly
    page.wait_for_timeout(400)
    a, b = at(100, 100), at(200, 175)
    page.mouse.move(a[0] + 4, a[1] - 3)
    page.mouse.down()
    page.mouse.move(b[0] - 4, b[1] + 4, steps=6)
    page.mouse.up()
    low, high = page.get_by_label("Lower left corner"), page.get_by_label("Upper right corner")
    expect(low).to_have_value("100, 100")
    expect(high).to_have_value("200, 175")
    # typed corners are in the drawing's own unit; another unit is taken as such
    write_into(page, "Upper right corner", "300, 6350 mm")
    expect(high).to_have_value("300, 250")
    write_into(page, "Lower left corner", "nonsense")
    expect(page.get_by_text("is not a corner")).to_be_visible()
    expect(low).to_have_value("100, 100")
    page.get_by_role("banner").get_by_role("button", name="Put on sheet").click()
    expect(page.get_by_label("Area of the drawing")).to_have_value("100, 100, 300, 250", timeout=SLOW)
    # an inch drawing goes on an inch sheet
    assert "ANSI-B" in page.locator(".sheets li").first.inner_text()
    page.get_by_role("link", name="Source").click()
    expect(pane.locator(".drawn path").first).to_be_attached(timeout=SLOW)
    page.get_by_role("button", name="What is on the screen").click()
    x0, y0 = (float(v) for v in page.get_by_label("Lower left corner").input_value().split(","))
    x1, y1 = (float(v) for v in page.get_by_label("Upper right corner").input_value().split(","))
    assert x0 < 100 < 1100 < x1
    assert y0 < 100 < 1000 < y1


@pytest.mark.long
def test_after_enter_in_a_field_the_keys_are_commands_again(page: Page, stand: Path) -> None:
    begin(page, "Keys")
    choose_file(page, stand)
    expect(page.locator(".scene canvas")).to_be_visible(timeout=SLOW)
    page.get_by_role("banner").get_by_role("button", name="Put on sheet").click()
    expect(page.locator(".desk .view path").first).to_be_visible(timeout=SLOW)
    write_into(page, "Scale", "1:2")
    page.keyboard.press("Escape")
    page.keyboard.press("w")
    expect(page.get_by_label("Ticket")).to_contain_text("eometry only", timeout=SLOW)
    # a refusal stands at the field, which has its old value back
    page.keyboard.press("w")
    write_into(page, "Format", "A9")
    expect(page.get_by_text("is not a sheet format")).to_be_visible()
    expect(page.get_by_label("Format", exact=True)).to_have_value("A3")
    write_into(page, "Format", "11x17")
    expect(page.get_by_label("Format", exact=True)).not_to_have_value("A3")


@pytest.mark.long
def test_a_view_is_added_on_the_sheet_and_the_sheet_cut_to_its_contents(page: Page, stand: Path) -> None:
    begin(page, "Added")
    choose_file(page, stand)
    expect(page.locator(".scene canvas")).to_be_visible(timeout=SLOW)
    page.get_by_role("radio", name="front", exact=True).click()
    page.get_by_role("banner").get_by_role("button", name="Put on sheet").click()
    expect(page.locator(".desk .view")).to_have_count(1, timeout=SLOW)
    page.keyboard.press("Escape")
    page.get_by_label("Add a view").click()
    page.locator(".ant-select-item-option").get_by_text("top", exact=True).click()
    expect(page.locator(".desk .view")).to_have_count(2, timeout=SLOW)
    expect(page.locator(".desk .view[data-view=top] path").first).to_be_attached(timeout=SLOW)
    page.get_by_role("button", name="Undo").click()
    expect(page.locator(".desk .view")).to_have_count(1)
    page.get_by_role("button", name="geometry only").click()
    write_into(page, "Margin around the contents", "0")
    page.get_by_role("button", name="fit the sheet").click()
    expect(page.get_by_label("Format", exact=True)).to_have_value("60x48mm")
    data = proofed(page)
    with pikepdf.open(io.BytesIO(data)) as pdf:
        box = [float(v) * 25.4 / 72 for v in pdf.pages[0].mediabox]
    assert box[2:] == pytest.approx([60, 48], abs=1e-3)
    assert readings(data) == [{"width": pytest.approx(60), "height": pytest.approx(48)}]


@pytest.mark.long
def test_ticks_quicker_than_the_answers_all_count(page: Page, stand: Path) -> None:
    """The next set of hidden components is worked out from the last wish, not from the last answer."""
    start_with_front(page, stand, "Quick")
    held: list[Route] = []
    page.route("**/edits", lambda route: held.append(route), times=1)
    page.locator(".acts").get_by_role("button", name="Components").click()
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("3 of 3 shown")
    for count, name in ((2, "Base"), (1, "Pin")):
        tick = dialog.locator(".ant-tree-treenode").filter(has_text=name).locator(".ant-tree-checkbox")
        tick.click()
        expect(dialog).to_contain_text(f"{count} of 3 shown")
        if name == "Base":
            page.wait_for_function("() => document.body.innerText.includes('Saving')")
    (first,) = held
    first.continue_()
    dialog.get_by_role("button", name="Done").click()
    expect(page.get_by_label("Ticket")).to_contain_text("1 of 3 shown")
    assert {r["width"] for r in readings(proofed(page))} == {20}
