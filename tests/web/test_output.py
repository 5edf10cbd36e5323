"""What a drafter does at the last metre: pens, proof and issue."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterator
from ctypes import c_uint
from pathlib import Path

import httpx
import numpy as np
import pikepdf
import pypdfium2 as pdfium
import pypdfium2.raw as raw
import pytest
from pdfminer.high_level import extract_text
from PIL import Image
from playwright.sync_api import Browser, Page, Route, expect

from skalto.core.checks.report import check_pdf
from skalto.core.checks.vectors import read_page
from skalto.demo.workshop import REGIONS, write_workshop
from tests.api.test_api import bring_in, edit, new_job
from tests.api.test_issues import sheet_of
from tests.conftest import Running
from tests.web.hand import still
from tests.web.test_path import SLOW, begin, choose_file, download, proofed, write_into


@pytest.fixture(scope="module")
def workshop(tmp_path_factory: pytest.TempPathFactory) -> Path:
    path = tmp_path_factory.mktemp("workshop") / "Workshop fit-out.dxf"
    write_workshop(str(path))
    return path


def excerpt(client: httpx.Client, job: int, source: str, name: str, format_: str, n: int) -> str:
    """A sheet with a storey of the workshop at 1:100; its id."""
    sheet = name.lower().replace(" ", "-")
    made = {"id": sheet, "name": name, "format": format_, "scale": "1:100"}
    client.post(f"/api/jobs/{job}/edits", json={"kind": "add_sheet", "sheet": made}).raise_for_status()
    wish = {"source": source, "sheet": sheet, "region": REGIONS[n], "name": name}
    client.post(f"/api/jobs/{job}/excerpts", json=wish).raise_for_status()
    return sheet


@pytest.fixture
def own_server(tmp_path: Path) -> Iterator[list[Running]]:
    """A Skalto of its own, which may be killed and started again at the same address."""
    held = [Running(tmp_path / "data")]
    yield held
    held[-1].interrupt()


def test_pens_a_pack_and_an_issue_that_outlives_the_server(
    own_server: list[Running], browser: Browser, workshop: Path, press_step: Path
) -> None:
    first = own_server[0]
    client = first.client
    job = new_job(first)
    drawing, press = bring_in(first, job, workshop), bring_in(first, job, press_step)
    ground = excerpt(client, job, drawing, "Ground floor", "A3", 0)
    excerpt(client, job, drawing, "Upper floor", "A4", 1)
    sheet_of(client, job, "Press top", "A2", press, "top")
    sheet_of(client, job, "Press front", "ANSI-C", press, "front")
    # by the kernel's hidden lines, of which rays find some wrong
    (front,) = [own for own in client.get(f"/api/jobs/{job}").json()["document"]["sheets"] if own["name"] == "Press front"]
    by_kernel = {"sheet": front["id"], "view": front["views"][0]["id"], "fields": {"hidden_lines": "kernel"}}
    edit(first, job, kind="change_view", **by_kernel)
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=first.address)
    page = context.new_page()

    # a pen by source colour, and crossings that blend
    page.goto(f"/jobs/{job}/pens/{ground}")
    expect(page.get_by_label("Rules").get_by_text("strokes").first).to_be_visible(timeout=SLOW)
    page.get_by_role("button", name="Copy and edit").click()
    page.get_by_role("button", name="Add a rule at the top").click()
    colour = "#007fff"  # the workshop's windows
    page.get_by_label(f"Source colour {colour}").click()
    expect(page.get_by_label("Source colour of the rule")).to_have_value(colour)
    page.get_by_role("button", name="1.4 mm").click()
    expect(page.get_by_label("Rules").locator("em").first).to_contain_text("1.4")
    page.get_by_label("Crossing").get_by_text("blend").click()
    page.get_by_role("button", name="Use for all 4 sheets").click()
    expect(page.get_by_text("All changes saved")).to_be_visible()

    # a pack of all four, the last one dragged to the top
    page.get_by_role("link", name="Issue").click()
    page.get_by_role("button", name="New pack").click()
    rows = page.get_by_label("Sheets of the pack").locator("> li")
    expect(rows).to_have_count(4)
    grip = still(rows.nth(3).locator(".grasp"))
    top = still(rows.nth(0).locator(".grasp"))
    page.mouse.move(grip["x"] + 8, grip["y"] + 20)
    page.mouse.down()
    page.mouse.move(grip["x"] + 8, grip["y"] - 40, steps=5)
    page.mouse.move(top["x"] + 8, top["y"] - 12, steps=12)
    page.mouse.up()
    expect(rows.first).to_contain_text("Press front")
    write_into(page, "Pattern of file names", "{pack}_{revision}")
    page.get_by_role("button", name="Change for this issue only").click()
    page.get_by_role("tab", name="Layers").click()
    write_into(page, "Left out", "DOORS")
    write_into(page, "Revision", "D")
    page.get_by_label("Note").fill("for the joiner")
    expect(page.get_by_text("All_sheets_D.pdf")).to_be_visible(timeout=SLOW)
    page.get_by_role("banner").get_by_role("button", name="Issue this pack").click()
    expect(page.locator(".issue em").first).to_have_text("under way", timeout=SLOW)
    assert client.get("/api/issues").json()[0]["state"] == "running"

    # the power goes in the middle
    first.kill()
    own_server.append(Running(first.data, port=first.port))
    page.reload()
    # it asks first
    expect(page.locator(".issue em").first).to_have_text("waits for you", timeout=2 * SLOW)
    expect(page.locator(".issue").first).to_contain_text("Hidden lines")
    page.get_by_role("button", name="Issue all the same").click()
    expect(page.locator(".issue em").first).to_have_text("issued", timeout=SLOW)
    expect(page.locator(".issue").first).to_contain_text("issued with a failing check")
    with page.expect_download() as waiting:
        page.locator(".issue .file a[download]").click()
    assert waiting.value.suggested_filename == "All_sheets_D.pdf"
    data = Path(waiting.value.path()).read_bytes()

    with pikepdf.open(io.BytesIO(data)) as pdf:
        with pdf.open_outline() as outline:
            assert [item.title for item in outline.root] == ["Press front", "Ground floor", "Upper floor", "Press top"]
        sizes = [[round(float(v) / 72 * 25.4) for v in p.MediaBox[2:]] for p in pdf.pages]
        assert sizes == [[559, 432], [420, 297], [297, 210], [594, 420]]
        assert all(str(p.Resources.ExtGState.G0.BM) == "/Multiply" for p in pdf.pages)
        names = {str(group.Name) for group in pdf.Root.OCProperties.OCGs}
        assert "WALLS" in names
        assert "DOORS" not in names
    texts = extract_text(io.BytesIO(data)).split("\f")
    assert "Press room" in texts[1]
    assert "Press room" not in texts[0] + texts[3]
    document = pdfium.PdfDocument(data)
    ground_paths, press_paths = read_page(document, 1).paths, read_page(document, 0).paths
    wide = ground_paths.rows(np.abs(ground_paths.width - 1.4) < 1e-3)
    assert len(wide) > 0
    # what has the colour is drawn 1.4 mm wide, by the file itself

    parts = [c_uint() for _ in range(4)]
    seen = set()
    for item in wide._objects:
        raw.FPDFPageObj_GetStrokeColor(item, *parts)
        seen.add("#{:02x}{:02x}{:02x}".format(*(p.value for p in parts[:3])))
    assert seen == {colour}
    assert np.nanmax(press_paths.width) == pytest.approx(0.7, abs=1e-3)
    del ground_paths, press_paths, wide
    document.close()

    # the register has it, and hands it out again
    page.get_by_role("link", name="Register of issues").click()
    page.get_by_label("Find an issue").fill("joiner")
    row = page.locator(".register tbody tr")
    expect(row).to_have_count(1)
    expect(row).to_contain_text("Press front, Ground floor, Upper floor, Press top")
    with page.expect_download() as waiting:
        row.locator(".file a[download]").click()
    assert Path(waiting.value.path()).read_bytes() == data
    with page.expect_download() as waiting:
        page.get_by_text("Save as CSV").click()
    listed = list(csv.DictReader(io.StringIO(Path(waiting.value.path()).read_text("utf-8-sig"))))
    assert [(r["note"], r["revision"], r["pages"]) for r in listed] == [("for the joiner", "D", "4")]
    context.close()


def seen_from_above(page: Page, job: str, path: Path) -> None:
    """A new job with a model's top view on a sheet, as a person makes one."""
    begin(page, job)
    choose_file(page, path)
    expect(page.locator(".scene canvas")).to_be_visible(timeout=SLOW)
    page.get_by_role("radio", name="top", exact=True).click()
    page.get_by_role("banner").get_by_role("button", name="Put on sheet").click()
    expect(page.locator(".desk .view path").first).to_be_visible(timeout=SLOW)


def on_paper(page: Page, x: float, y: float) -> tuple[float, float]:
    """Where a place of the sheet, mm from its lower left, is on the screen."""
    box = still(page.locator(".measuring"))
    zoom = box["width"] / 420
    return box["x"] + x * zoom, box["y"] + box["height"] - y * zoom


def test_the_proof_measures_finds_prints_and_draws_the_file(page: Page, plate_step: Path) -> None:
    seen_from_above(page, "Proof tools", plate_step)
    write_into(page, "Scale", "2:1")
    proofed(page)
    ticket = page.get_by_label("Ticket")

    # the plate is 120 × 80 and lies in the middle: from corner to corner, and from hole to hole
    page.get_by_role("tab", name="Measure").click()
    expect(ticket).to_contain_text("Point at two places")
    expect(page.locator(".measuring")).to_be_visible(timeout=SLOW)
    job = int(page.url.split("/jobs/")[1].split("/")[0])
    sheet = page.url.split("/proof/")[1].split("?")[0]
    points = page.request.get(f"/api/jobs/{job}/sheets/{sheet}/proof/points").json()["points"]
    (port,) = points["viewports"]
    x0, y0, x1, y1 = port["box"]
    for spot in ((x0, y0), (x1, y0)):
        page.mouse.move(*on_paper(page, *spot))
        expect(page.locator(".measuring .over")).to_have_attribute("data-kind", "end")
        page.mouse.down()
        page.mouse.up()
    measured = page.get_by_label("Measured length")
    expect(measured).to_contain_text("120.000 mm")
    expect(measured).to_contain_text("240.000 mm")
    expect(measured).to_contain_text("the top viewport, 2:1")
    # bores Ø30 at (−30, 0) and Ø6.5 at (40, −20): 72.801 mm apart
    middle = ((x0 + x1) / 2, (y0 + y1) / 2)
    for dx, dy in ((-60, 0), (80, -40)):
        page.mouse.move(*on_paper(page, middle[0] + dx, middle[1] + dy))
        expect(page.locator(".measuring .over")).to_have_attribute("data-kind", "centre")
        page.mouse.down()
        page.mouse.up()
    expect(measured).to_contain_text("72.801 mm")

    # a word of the title block, by the file's own text
    page.get_by_role("tab", name="Find").click()
    page.get_by_label("Find in the file").fill("scale")
    expect(page.locator(".found").first).to_be_visible()
    page.get_by_label("Find in the file").fill("brass")
    expect(ticket).to_contain_text("not found")

    # the stand-in printer: A3 onto A4 loses the scale, onto A3 at full size it holds
    page.get_by_role("tab", name="Print").click()
    out = page.get_by_label("Printed", exact=True)
    expect(out).to_contain_text("2:1 comes out at", timeout=SLOW)
    expect(ticket).to_contain_text("Not to scale")
    write_into(page, "Paper of the printer", "A3")
    expect(out).to_contain_text("2:1 comes out at 1.9", timeout=SLOW)
    page.get_by_label("Scaling").get_by_text("none").click()
    expect(out).to_contain_text("2:1 comes out at 2:1", timeout=SLOW)
    expect(ticket).to_contain_text("To scale")
    expect(ticket).to_contain_text("5 mm at the bottom, 5 mm at the right")

    # a picture, its size told before
    page.get_by_role("tab", name="Picture").click()
    write_into(page, "Resolution of the picture", "254")
    expect(page.get_by_label("Size of the picture")).to_have_text("4200 × 2970 pixels")
    page.get_by_label("Kind of picture").get_by_text("TIFF").click()
    page.get_by_label("Colours of the picture").get_by_text("1 bit").click()
    with page.expect_download(timeout=SLOW) as waiting:
        page.get_by_role("button", name="Save the picture").click()
    picture = Image.open(waiting.value.path())
    assert (picture.size, picture.mode) == ((4200, 2970), "1")


@pytest.mark.long
def test_a_recipe_of_one_s_own_and_what_the_resolution_refuses(page: Page, plate_step: Path) -> None:
    seen_from_above(page, "Recipes", plate_step)
    proofed(page)
    page.get_by_label("Ticket").get_by_role("button", name="Open", exact=True).click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_role("button", name="Copy and edit").click()
    name = "For the bench"
    write_into(page, "Name of the recipe", name)
    expect(dialog.get_by_text(f"Recipe: {name}")).to_be_visible()
    dialog.get_by_label("Colour", exact=True).get_by_text("greys").click()
    dialog.get_by_role("tab", name="Text and pictures").click()
    field = dialog.get_by_label("Resolution of pictures and gradients")
    field.fill("900")
    field.press("Enter")
    expect(dialog.get_by_role("alert")).to_contain_text("finer than the line work at 600 dpi")
    field.press("Escape")
    expect(field).to_have_value("300")
    dialog.get_by_label("Text", exact=True).get_by_text("as outlines").click()
    expect(dialog.get_by_text(re.compile("version [345], shared"))).to_be_visible()
    page.keyboard.press("Escape")
    expect(dialog).to_have_count(0)
    # the sheet was given the copy; its file is made anew
    page.get_by_role("banner").get_by_role("button", name="Make the proof").click()
    expect(page.get_by_label("Checks")).to_contain_text("greys alone", timeout=SLOW)
    data = download(page)
    assert "Recipes" not in extract_text(io.BytesIO(data))
    with pikepdf.open(io.BytesIO(data)) as pdf:
        used = {str(operator) for _, operator in pikepdf.parse_content_stream(pdf.pages[0])}
    assert used & {"RG", "rg"} == set()


LATE = """
const asked = window.fetch;
window.fetch = async (input, init) => {
  const request = input instanceof Request ? input : new Request(input, init);
  const path = `${request.method} ${new URL(request.url, location.href).pathname}`;
  const answer = await asked(input, init);
  if (window.late && new RegExp(window.late).test(path)) await new Promise((done) => setTimeout(done, 1500));
  return answer;
};
"""


@pytest.mark.long
def test_an_answer_that_comes_late_does_not_unmake_a_proof(page: Page, plate_step: Path) -> None:
    """How a busy server answers: what the page asked before the proof was ordered arrives after the order's own answer."""
    page.add_init_script(LATE)
    seen_from_above(page, "Late", plate_step)
    expect(page.get_by_text("All changes saved")).to_be_visible()
    page.evaluate("window.late = '^GET .*/proof$'")
    page.get_by_role("button", name="Proof this sheet").click()
    expect(page.get_by_role("heading", name="Measured in the file")).to_be_visible(timeout=SLOW)
    page.wait_for_timeout(2000)
    expect(page.get_by_role("heading", name="Measured in the file")).to_be_visible()
    assert check_pdf(download(page)).holds


@pytest.mark.long
def test_a_file_that_takes_long_is_seen_in_tiles_meanwhile(page: Page, plate_step: Path) -> None:
    seen_from_above(page, "Tiles", plate_step)
    held: list[Route] = []
    page.route("**/proof.pdf?*", lambda route: held.append(route))
    page.get_by_role("button", name="Proof this sheet").click()
    tile = page.locator(".pdf .tile")
    expect(tile).to_have_count(1, timeout=SLOW)
    expect(page.get_by_text("Drawing the file")).to_be_visible()
    # the page in sight has lines on it
    for _ in range(100):
        picture = Image.open(io.BytesIO(tile.screenshot())).convert("L")
        if np.asarray(picture).min() < 100:
            break
        page.wait_for_timeout(100)
    assert np.asarray(picture).min() < 100
    assert not page.locator(".pdf canvas[data-drawn]").count()
    for route in held:
        route.continue_()
    expect(page.locator(".pdf canvas[data-drawn]")).to_be_visible(timeout=SLOW)
    expect(tile).to_have_count(0)
    # larger: what was drawn grows with it, and is drawn anew in its place
    canvas = page.get_by_role("img", name="The file's page")
    before, drawn = still(canvas), str(canvas.get_attribute("data-drawn"))
    page.keyboard.press("+")
    expect(canvas).not_to_have_attribute("data-drawn", drawn, timeout=SLOW)
    after = still(canvas)
    assert after["x"] == pytest.approx(before["x"], abs=2)
    assert after["width"] > before["width"]


def test_a_value_typed_last_is_in_the_proof(page: Page, plate_step: Path) -> None:
    """A place that is still being read when "Proof this sheet" is pressed: the file is made with it, and is the sheet's."""
    page.add_init_script(LATE)
    seen_from_above(page, "Last", plate_step)
    expect(page.get_by_text("All changes saved")).to_be_visible()
    page.evaluate("window.late = '/api/read/length$'")
    page.get_by_label("Position, x", exact=True).fill("55")
    page.get_by_role("button", name="Proof this sheet").click()
    expect(page.get_by_text("Saving …")).to_be_visible()
    expect(page.get_by_role("heading", name="Measured in the file")).to_be_visible(timeout=SLOW)
    with pikepdf.open(io.BytesIO(download(page))) as pdf:
        (viewport,) = pdf.pages[0].VP
        assert float(viewport.BBox[0]) * 25.4 / 72 == pytest.approx(55, abs=1e-3)


@pytest.mark.long
def test_a_stroke_tells_which_rule_draws_it_and_what_changed_since_the_issue(page: Page, plate_step: Path) -> None:
    seen_from_above(page, "Rules", plate_step)
    page.get_by_role("link", name="Pens").click()
    expect(page.get_by_label("Rules").get_by_text("7 strokes")).to_be_visible(timeout=SLOW)
    path = still(page.locator(".desk [data-edges='visible'][data-rule]"))
    page.mouse.click(path["x"] + path["width"] / 2, path["y"] + path["height"])
    expect(page.get_by_text("Rule 1 draws this.")).to_be_visible()
    expect(page.locator(".rules li.drew")).to_contain_text("Visible edges")
    # sent once, drawn otherwise since: the proof shows what is gone and what came
    page.get_by_role("link", name="Issue").click()
    page.get_by_role("button", name="New pack").click()
    page.get_by_role("banner").get_by_role("button", name="Issue this pack").click()
    expect(page.locator(".issue em").first).to_have_text("issued", timeout=SLOW)
    page.get_by_role("link", name="Sheets").click()
    page.locator(".desk .view").click()
    write_into(page, "Scale", "2:1")
    proofed(page)
    page.get_by_role("tab", name="Compare").click()
    expect(page.get_by_label("Differences")).to_contain_text("gone", timeout=SLOW)
    expect(page.get_by_label("Differences")).to_contain_text("new")
    expect(page.locator("img.overlay")).to_be_visible()
