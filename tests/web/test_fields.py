"""No field hides a part of its value, on any screen, whatever it holds; files that are dropped; a job that cannot be read."""

from __future__ import annotations

import sqlite3
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect

from tests.conftest import Running
from tests.web.conftest import watched
from tests.web.test_path import SLOW
from tests.web.test_sheets import flat_plate, saved, start_with_front

__all__ = ["flat_plate"]

CUT_OFF = """() => {
  const found = [];
  const pen = document.createElement("canvas").getContext("2d");
  const others = ["checkbox", "radio", "file", "range", "color"].map((kind) => `:not([type=${kind}])`).join("");
  const kinds = `input${others}, textarea, select`;
  for (const field of document.querySelectorAll(kinds)) {
    const box = field.getBoundingClientRect();
    const style = getComputedStyle(field);
    if (!box.width || !box.height || style.visibility === "hidden" || style.opacity === "0") continue;
    const name = field.getAttribute("aria-label") ?? field.className;
    if (field.tagName === "SELECT") {
      pen.font = `${style.fontWeight} ${style.fontSize} ${style.fontFamily}`;
      const text = field.selectedOptions[0]?.textContent ?? "";
      const room = field.clientWidth - parseFloat(style.paddingLeft) - parseFloat(style.paddingRight);
      if (pen.measureText(text).width > room + 1) found.push(`${name}: ${text}`);
    } else if (field.value && field.scrollWidth > field.clientWidth + 1) found.push(`${name}: ${field.value}`);
    else if (field.tagName === "TEXTAREA" && field.scrollHeight > field.clientHeight + 2) found.push(`${name}: ${field.value}`);
  }
  for (const chosen of document.querySelectorAll(".ant-select-selection-item, .ant-segmented-item-label"))
    if (chosen.offsetWidth && chosen.scrollWidth > chosen.clientWidth + 1) found.push(`${chosen.textContent}`);
  return found;
}"""


def _cut_off(page: Page) -> list[str]:
    page.wait_for_timeout(400)
    found: list[str] = page.evaluate(CUT_OFF)
    return found


@pytest.mark.parametrize(("width", "height"), [(1024, 700), (1280, 800), (1920, 1080)])
def test_no_field_hides_a_part_of_its_value(
    browser: Browser, running: Running, flat_plate: Path, width: int, height: int
) -> None:
    long = "Cheek of the press, left, drilled for the bearing blocks and the crossbar, second side"
    with watched(browser, running.address) as page:
        page.set_viewport_size({"width": width, "height": height})
        start_with_front(page, flat_plate, long)
        page.locator(".view .grip").first.click(position={"x": 4, "y": 4})
        for scale in ("1:20", "1:200", "1:2000", "1:33333", '1/4"=1\'-0"'):
            field = page.get_by_label("Scale", exact=True).first
            field.fill(scale)
            field.press("Enter")
            expect(page.get_by_label("Scale", exact=True).first).not_to_have_value("1:1")
            assert _cut_off(page) == [], scale
        name = page.get_by_label("Name of the view")
        if name.count():
            name.first.fill(long)
            name.first.press("Enter")
        assert _cut_off(page) == []
        page.keyboard.press("Escape")
        sheet = page.get_by_label("Sheet name")
        if width < 1100:
            # a narrow window gives the sheet all of it
            page.keyboard.press("z")
        sheet.fill(long)
        sheet.press("Enter")
        for size in ("1234.567x890.125mm", "1188.9x840.12mm"):
            paper = page.get_by_label("Format", exact=True).first
            paper.fill(size)
            paper.press("Enter")
            page.wait_for_timeout(600)
            assert _cut_off(page) == [], size
            # what becomes of the views is asked
            page.get_by_text("Keep their position").click()
            expect(page.get_by_label("Format", exact=True).first).not_to_have_value("A3")
            bar, job = page.locator(".bar").bounding_box(), page.get_by_label("Job name").bounding_box()
            assert bar is not None
            assert job is not None
            assert bar["y"] <= job["y"] + 1
            assert job["y"] + job["height"] <= bar["y"] + bar["height"] + 1
        saved(page)
        for stop in ("Source", "Parts", "Sheets", "Pens", "Proof", "Issue", "Release"):
            page.get_by_role("navigation").get_by_role("link", name=stop).click()
            page.wait_for_load_state("networkidle")
            assert _cut_off(page) == [], stop


def test_a_file_that_is_dropped_on_the_jobs_makes_one(page: Page, flat_plate: Path) -> None:
    page.goto("/")
    expect(page.get_by_role("button", name="New job")).to_be_visible()
    data = page.evaluate_handle(
        """async ([name, bytes]) => {
            const held = new DataTransfer();
            held.items.add(new File([Uint8Array.from(bytes)], name));
            return held;
        }""",
        ["Dropped plate.step", list(flat_plate.read_bytes())],
    )
    page.dispatch_event(".jobs-page", "drop", {"dataTransfer": data})
    page.wait_for_url("**/source")
    expect(page.get_by_label("Job name")).to_have_value("Dropped plate", timeout=SLOW)
    expect(page.get_by_text("Dropped plate.step").first).to_be_visible(timeout=SLOW)


def test_the_sheet_has_the_whole_window_by_a_key(page: Page, flat_plate: Path) -> None:
    start_with_front(page, flat_plate, "Whole window")
    desk = page.locator(".desk")
    before = desk.bounding_box()
    page.locator(".bar .soft").first.click()
    page.keyboard.press("z")
    back = page.get_by_role("button", name="Show sheets and ticket")
    expect(back).to_be_visible()
    after = desk.bounding_box()
    assert before is not None
    assert after is not None
    assert after["width"] > before["width"] + 400
    back.click()
    expect(back).to_be_hidden()
    assert desk.bounding_box() == before


def test_a_job_that_cannot_be_read_is_told_and_the_others_open(browser: Browser, tmp_path: Path, flat_plate: Path) -> None:
    own = Running(tmp_path / "data")
    try:
        first = own.client.post("/api/jobs", json={"name": "Whole"}).json()["id"]
        own.client.post("/api/jobs", json={"name": "From later on"})
        with sqlite3.connect(tmp_path / "data" / "skalto.db") as database:
            database.execute('UPDATE step SET document = \'{"form": 99, "name": "From later on"}\' WHERE job_id != ?', (first,))
        with watched(browser, own.address) as page:
            page.goto("/")
            expect(page.get_by_role("alert")).to_contain_text("written by a newer release, in form 99")
            page.get_by_text("Whole", exact=True).click()
            page.wait_for_url("**/source")
    finally:
        own.interrupt()


def test_a_proof_goes_when_its_recipe_is_changed(browser: Browser, running: Running, flat_plate: Path) -> None:
    """The recipe is changed by somebody else: the page has no file to hand out any more."""
    # what it asks for of the old file is refused
    with watched(browser, running.address, ("/proof",)) as page:
        _proof_goes(page, running, flat_plate)


def _proof_goes(page: Page, running: Running, flat_plate: Path) -> None:
    start_with_front(page, flat_plate, "Recipe")
    saved(page)
    recipe = next(own for own in running.client.get("/api/recipes").json()["shipped"] if own["id"] == "grey")
    kept = running.client.put("/api/recipes", json=recipe | {"id": "house", "name": "House grey", "version": 1}).json()
    job = int(page.url.split("/jobs/")[1].split("/")[0])
    sheet = page.url.split("/sheets/")[1].split("?")[0]
    edit = {"kind": "change_sheet", "sheet": sheet, "fields": {"recipe": "house"}}
    assert running.client.post(f"/api/jobs/{job}/edits", json=edit).status_code == 200
    page.goto(f"/jobs/{job}/proof/{sheet}")
    page.get_by_role("button", name="Make the proof").first.click()
    expect(page.get_by_role("button", name="Download the PDF").first).to_be_visible(timeout=SLOW)
    key = running.client.get(f"/api/jobs/{job}/sheets/{sheet}/proof").json()["key"]
    there = f"/api/jobs/{job}/sheets/{sheet}/proof.pdf"
    assert running.client.get(there, params={"key": key}).status_code == 200
    running.client.put("/api/recipes", json=kept | {"colour": "black"})
    expect(page.get_by_text("No proof of this sheet as it is now")).to_be_visible(timeout=SLOW)
    expect(page.get_by_role("button", name="Download the PDF")).to_have_count(0)
    answer = running.client.get(there, params={"key": key})
    assert (answer.status_code, "changed since this proof" in answer.json()["detail"]) == (409, True)
