"""Pages of a file as sheets, placed as they are or in strokes; views copied and pasted; all in reach on a small screen."""

from __future__ import annotations

import io
import re
from pathlib import Path
from typing import Any

import pikepdf
import pytest
from playwright.sync_api import Browser, Page, expect

from skalto.core.checks.report import check_pdf
from skalto.demo.workshop import write_workshop
from tests.api.test_drawings import many_pages
from tests.conftest import Running
from tests.core.drawn import dxf
from tests.web.hand import still
from tests.web.test_path import SLOW, begin, choose_file, proofed, write_into
from tests.web.test_sheets import act, flat_plate, saved, start_with_front, with_top, words

__all__ = ["flat_plate"]


@pytest.mark.long
def test_all_pages_become_sheets_as_they_are_and_one_in_strokes(page: Page, tmp_path: Path) -> None:
    begin(page, "Pages")
    choose_file(page, many_pages(tmp_path / "pages.pdf"))
    pages = page.get_by_label("Pages")
    expect(pages.locator("img").nth(1)).to_be_visible(timeout=SLOW)
    # a lying page lies in its preview
    standing, lying = (pages.locator(".preview").nth(n).bounding_box() for n in (0, 1))
    assert standing is not None
    assert lying is not None
    assert lying["height"] < lying["width"] < standing["height"]
    page.get_by_role("button", name="Use all 3 pages as sheets").dblclick()
    expect(page.locator(".sheets li")).to_have_count(3, timeout=SLOW)
    expect(page.locator(".desk .view path").first).to_be_visible(timeout=SLOW)
    saved(page)
    with pikepdf.open(io.BytesIO(proofed(page))) as pdf:
        assert b" sh" in pdf.pages[0].Resources.XObject.O0.read_bytes()
    expect(page.get_by_text("placed as it is: 1 paths within")).to_be_visible()
    # its strokes alone, as a choice
    page.get_by_role("link", name="Sheets").click()
    page.locator(".view .grip").click(position={"x": 20, "y": 20})
    page.get_by_text("in strokes", exact=True).click()
    saved(page)
    data = proofed(page)
    with pikepdf.open(io.BytesIO(data)) as pdf:
        assert "/XObject" not in pdf.pages[0].Resources
    assert {r.kind: r.model_mm for r in check_pdf(data).pages[0].views[0].readings}["width"] == pytest.approx(100)
    expect(page.get_by_text("these cannot carry")).to_be_visible()


@pytest.mark.long
def test_pages_of_a_drawing_are_seen_with_what_they_show(page: Page, tmp_path: Path) -> None:
    path = tmp_path / "fit-out.dxf"
    write_workshop(str(path))
    begin(page, "Layouts")
    choose_file(page, path)
    preview = page.get_by_label("Pages").locator(".preview")
    expect(preview.locator("img")).to_be_visible(timeout=SLOW)
    # the frames of its excerpts lie on the paper
    paper, frame = still(preview), preview.locator("i").first.bounding_box()
    assert frame is not None
    assert paper["x"] <= frame["x"]
    assert frame["x"] + frame["width"] <= paper["x"] + paper["width"] + 1
    assert frame["width"] > 20
    page.get_by_role("button", name="Use its page as a sheet").click()
    expect(page.locator(".sheets li")).to_have_count(1, timeout=SLOW)
    expect(page.locator(".desk .view path").first).to_be_visible(timeout=SLOW)
    saved(page)
    assert check_pdf(proofed(page)).holds


@pytest.mark.long
def test_views_are_copied_and_pasted_by_key_and_by_word(page: Page, flat_plate: Path) -> None:
    start_with_front(page, flat_plate, "Copies")
    with_top(page)
    # one view, on its own sheet: beside itself
    page.keyboard.press("Control+c")
    page.keyboard.press("Control+v")
    expect(page.locator(".desk .view")).to_have_count(3, timeout=SLOW)
    saved(page)
    expect(page.get_by_label("Position, x", exact=True)).to_have_value("60")
    page.get_by_role("button", name="Undo").click()
    expect(page.locator(".desk .view")).to_have_count(2)
    # two together, on another sheet: in the same place, still a family
    page.locator('.view[data-view="front"] .grip').click(position={"x": 20, "y": 10})
    page.locator('.view[data-view="top"] .grip').click(position={"x": 20, "y": 20}, modifiers=["Shift"])
    page.keyboard.press("Control+c")
    page.keyboard.press("a")
    expect(page.locator(".sheets li")).to_have_count(2, timeout=SLOW)
    page.get_by_role("button", name="Paste 2 views").click()
    expect(page.locator(".desk .view")).to_have_count(2, timeout=SLOW)
    saved(page)
    expect(page.get_by_label("Ticket")).to_contain_text("Front view")
    expect(page.get_by_label("Position, x", exact=True)).to_have_value("50")
    # in a field the keys are the field's own
    page.get_by_label("Position, x", exact=True).press("Control+v")
    page.keyboard.press("Escape")
    expect(page.locator(".desk .view")).to_have_count(2)
    report = check_pdf(proofed(page))
    assert [view.name for view in report.pages[0].views] == ["front", "top"]
    assert report.holds


@pytest.mark.long
def test_every_act_is_in_reach_on_a_small_screen_and_covers_no_other_view(page: Page, flat_plate: Path) -> None:
    page.set_viewport_size({"width": 1024, "height": 700})
    start_with_front(page, flat_plate, "Small screen")
    with_top(page)
    for view in ("front", "top"):
        page.locator(f'.view[data-view="{view}"] .grip').click(position={"x": 8, "y": 4})
        bar = still(page.locator(".acts"))
        ticket = page.get_by_label("Ticket").bounding_box()
        assert ticket is not None
        assert bar["x"] >= 0
        assert bar["x"] + bar["width"] <= ticket["x"]
        assert bar["y"] + bar["height"] <= 700
        for name in ("Project a view", "Section", "Detail", "Dimension", "Overall sizes", "Components", "Copy", "Remove"):
            button = page.locator(".acts").get_by_role("button", name=name, exact=True).bounding_box()
            assert button is not None, name
            at = (button["x"] + button["width"] / 2, button["y"] + button["height"] / 2)
            # the act itself lies uppermost there, nothing over it
            over = page.evaluate("([x, y]) => document.elementFromPoint(x, y)?.closest('.acts button')?.textContent", at)
            assert over == name
        other = still(page.locator(f'.view[data-view="{"top" if view == "front" else "front"}"]'))
        wide = min(bar["x"] + bar["width"], other["x"] + other["width"]) - max(bar["x"], other["x"])
        high = min(bar["y"] + bar["height"], other["y"] + other["height"]) - max(bar["y"], other["y"])
        assert min(wide, high) <= 1, f"the acts of the {view} view lie over the other"
    act(page, "Overall sizes")
    saved(page)
    assert "120" in words(proofed(page))


def test_what_is_grey_says_why_and_sliders_have_names(page: Page, flat_plate: Path) -> None:
    begin(page, "Grey")
    choose_file(page, flat_plate)
    expect(page.locator(".scene canvas")).to_be_visible(timeout=SLOW)
    page.get_by_role("link", name="Sheets").click()
    expect(page.get_by_text("No sheet yet.")).to_be_visible()
    page.get_by_role("button", name="Add a sheet").click()
    main = page.get_by_role("button", name="Proof this sheet")
    expect(main).to_be_disabled(timeout=SLOW)
    expect(main).to_have_attribute("title", "There is nothing on this sheet yet: put a view on it")
    page.locator("body").press("k")
    page.get_by_label("Find an action").fill("bank card")
    page.keyboard.press("Enter")
    slider = page.get_by_role("slider")
    expect(slider).to_have_attribute("aria-label", "Width of the card", timeout=SLOW)


@pytest.mark.long
def test_a_length_stays_in_the_unit_that_was_typed(page: Page, flat_plate: Path) -> None:
    start_with_front(page, flat_plate, "Inches")
    field = page.get_by_label("Position, x", exact=True)
    expect(field).to_have_value("50")
    # no hand types the next value before the last one has been drawn
    page.wait_for_timeout(800)
    write_into(page, "Position, x", "2 1/2 in")
    expect(field).to_have_value("2 1/2 in")
    saved(page)
    expect(field).to_have_value("2 1/2 in")
    # moved by hand, it is told in the same unit
    page.locator(".view .grip").click(position={"x": 20, "y": 4})
    page.keyboard.press("ArrowRight")
    expect(field).to_have_value("2.5394 in")
    page.reload()
    expect(field).to_have_value("2.5394 in", timeout=SLOW)
    # millimetres said are millimetres again
    write_into(page, "Position, x", "50")
    expect(field).to_have_value("50")
    saved(page)
    page.keyboard.press("ArrowRight")
    expect(field).to_have_value("51")


@pytest.mark.long
def test_a_title_of_a_drawing_is_written_anew_and_back(page: Page, tmp_path: Path) -> None:
    def titled(doc: Any, msp: Any) -> None:
        msp.add_lwpolyline([(0, 0), (100, 0), (100, 60), (0, 60)], close=True)
        msp.add_text("OLD TITLE", height=5).set_placement((10, 10))
        msp.add_text("EB-1", height=5).set_placement((10, 30))

    begin(page, "Titles")
    choose_file(page, dxf(tmp_path / "titled.dxf", titled, units=4))
    page.get_by_role("banner").get_by_role("button", name="Put on sheet").click()
    expect(page.locator(".desk .view .grip")).to_be_visible(timeout=SLOW)
    finder = page.get_by_label("A text of the drawing")
    finder.click()
    finder.fill("old")
    page.get_by_title("OLD TITLE").click()
    write_into(page, "Instead of OLD TITLE", "Ebba, cheek")
    saved(page)
    expect(page.get_by_role("button", name="Restore")).to_be_visible(timeout=SLOW)
    found = words(proofed(page))
    assert "Ebba," in found
    assert "OLD" not in found
    page.get_by_role("link", name="Sheets").click()
    page.locator(".view .grip").click(position={"x": 20, "y": 20})
    page.get_by_role("button", name="Restore").click()
    saved(page)
    assert "OLD" in words(proofed(page))


@pytest.mark.long
def test_a_part_of_the_page_that_does_not_arrive_is_told(browser: Browser, running: Running) -> None:
    """The stops come as files of their own: one that is lost on the way leaves no empty page."""
    context = browser.new_context(base_url=running.address)
    try:
        page = context.new_page()
        page.route("**/assets/IssueStop-*.js", lambda route: route.abort())
        begin(page, "On the way")
        page.get_by_role("link", name="Issue").click()
        told = page.get_by_role("alert").filter(has_text="A part of the page did not arrive")
        expect(told).to_contain_text("What was saved is safe.")
        page.unroute("**/assets/IssueStop-*.js")
        told.get_by_role("button", name="Load the page again").click()
        expect(told).to_have_count(0)
        expect(page.get_by_label("Job name")).to_be_visible(timeout=SLOW)
        expect(page).to_have_url(re.compile("/issue$"))
    finally:
        context.close()
