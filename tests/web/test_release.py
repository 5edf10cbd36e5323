"""From a model to released files as a person goes: marks, own fields, a sheet for each part, rules, the queue, the archive; and
once more after a change."""

from __future__ import annotations

import io
import re
import zipfile
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from skalto.core.checks.report import check_pdf
from skalto.core.release.manifest import read_manifest
from skalto.demo.folded import Flat, Turn, folded
from skalto.demo.solids import block, cut, cylinder, fuse, moved
from skalto.store.blobs import content_hash
from tests.core.modelled import write_assembly
from tests.web.test_path import SLOW, begin, choose_file, write_into


def _stand(folder: Path, side: float) -> Path:
    plate = cut(block(100, side, 5), cylinder(20, 50, (0, 0, -10)))
    parts = {
        "Side": plate,
        "Side, other": moved(plate, (0, 0, 100)),
        "Angle": moved(folded([Flat(50), Turn(90, 2), Flat(30)], 2, 100), (200, 0, 0)),
        "Shaft": moved(fuse(cylinder(20, 120), cylinder(30, 12)), (0, 200, 0)),
        "Hex nut (bought)": moved(cut(cylinder(24, 10), cylinder(12, 40, (0, 0, -10))), (0, -200, 0)),
    }
    return write_assembly(parts, folder / "stand.step", "Stand")


def _stop(page: Page, name: str) -> None:
    page.get_by_role("navigation", name="Stops").get_by_role("link", name=re.compile(name)).click()


def _tick(page: Page, *names: str) -> None:
    for name in names:
        page.get_by_role("checkbox", name=f"Select {name}", exact=True).check()


def _archive(page: Page) -> zipfile.ZipFile:
    """The archive of the release that is shown."""
    expect(page.get_by_role("status").filter(has_text="done")).to_be_visible(timeout=3 * SLOW)
    with page.expect_download() as waiting:
        page.get_by_role("link", name="Download as ZIP").click()
    return zipfile.ZipFile(io.BytesIO(Path(waiting.value.path()).read_bytes()))


def test_parts_are_numbered_drawn_and_released_and_a_change_makes_its_own_files(page: Page, tmp_path: Path) -> None:
    begin(page, "Stand")
    choose_file(page, _stand(tmp_path, 60))
    expect(page.locator(".scene canvas")).to_be_visible(timeout=SLOW)

    _stop(page, "Parts")
    rows = page.locator(".ant-table-row")
    expect(rows).to_have_count(5, timeout=SLOW)
    expect(rows.filter(has_text="bent sheet")).to_have_count(1, timeout=SLOW)
    # one own field, said of two parts at once
    page.get_by_role("button", name="Fields and series").click()
    dialog = page.get_by_role("dialog", name="Fields and series")
    dialog.get_by_role("button", name="Add a field").click()
    expect(dialog.get_by_label("Name of field 1")).to_be_visible()
    write_into(page, "Name of field 1", "Coat")
    dialog.get_by_label("Kind of field 1").select_option("choice")
    write_into(page, "Choices of field 1", "red, blue")
    page.keyboard.press("Escape")
    expect(dialog).to_have_count(0)
    _tick(page, "Side", "Angle")
    expect(page.get_by_role("heading", name="2 parts")).to_be_visible()
    page.get_by_role("complementary", name="Ticket").get_by_label("Coat of the selection").select_option("red")
    write_into(page, "Material of the selection", "S235")
    expect(rows.filter(has_text="S235")).to_have_count(2)
    # a table is pasted
    page.get_by_role("button", name="Take in a table").click()
    table = page.get_by_role("dialog", name="Take in a table of parts")
    table.get_by_label("Table").fill("part\tmaterial\nShaft\tC45\nNobody\tx\n")
    table.get_by_role("button", name="Take in").click()
    expect(table.get_by_text("Row 3: there is no part with the part “Nobody”")).to_be_visible()
    table.get_by_label("Table").fill("part\tmaterial\nShaft\tC45\n")
    table.get_by_role("button", name="Take in").click()
    expect(rows.filter(has_text="C45")).to_have_count(1)
    # marks
    page.get_by_role("button", name="Give marks").click()
    marks = page.get_by_role("dialog", name="Marks of this job's parts")
    expect(marks.get_by_text("5 parts are new")).to_be_visible()
    marks.get_by_role("button", name="Give marks").click()
    expect(rows.filter(has_text="S002")).to_have_count(1)
    # a sheet for each made part
    _tick(page, "Shaft")
    page.get_by_role("button", name="Make 3 sheets").click()
    expect(page.get_by_text("3 new.")).to_be_visible(timeout=SLOW)

    _stop(page, "Release")
    tree = page.get_by_role("group", name="Files")
    expect(tree.get_by_text("S001_Side.pdf", exact=False)).to_have_count(0)
    page.get_by_role("button", name="Open", exact=True).click()
    page.get_by_role("dialog", name="Rules: For the shop").get_by_role("button", name="Copy and edit").click()
    write_into(page, "Name of the rules", "For the stand")
    rules = page.get_by_role("dialog", name="Rules: For the stand")
    write_into(page, "Name of files 1", "{mark}_{name}")
    write_into(page, "Folder of files 2", "cut/{Coat}")
    rules.get_by_role("listitem", name="Files 4").get_by_role("button", name="Remove").click()
    expect(rules.get_by_role("listitem", name=re.compile("^Files"))).to_have_count(3)
    page.keyboard.press("Escape")
    expect(rules).to_have_count(0)
    wanted = {
        "drawings/S001_Angle.pdf", "drawings/S002_Side.pdf", "drawings/P001_Shaft.pdf", "cut/red/S001_S235_2.dxf",
        "cut/red/S002_S235_5.dxf", "models/S001_Angle.step", "models/S002_Side.step", "models/P001_Shaft.step",
    }  # fmt: skip
    paths = page.locator("[data-path]")
    expect(paths).to_have_count(len(wanted), timeout=SLOW)
    shown = {path.get_attribute("data-path") for path in paths.all()}
    # which of the two sheets is the first goes by the model
    swapped = {p.replace("S001", "#").replace("S002", "S001").replace("#", "S002") for p in wanted}
    assert shown in (wanted, swapped)
    write_into(page, "Your name", "Ada")
    page.locator("header").get_by_role("button", name="Release", exact=True).click()
    page.get_by_role("button", name="Pause").click()
    expect(page.get_by_role("status").filter(has_text="paused")).to_be_visible()
    page.get_by_role("button", name="Go on").click()
    archive = _archive(page)
    manifest = read_manifest(archive.read("manifest.json"))
    assert {own.file for own in manifest.files} == shown
    assert all(content_hash(archive.read(own.file)) == own.sha256 for own in manifest.files)
    assert {own.material for own in manifest.files} == {"S235", "C45"}
    for name in archive.namelist():
        if name.endswith(".pdf"):
            assert check_pdf(archive.read(name)).holds

    # a wider side comes in: its mark is asked for, its sheet is laid out anew, its three files are made
    _stop(page, "Source")
    newer = tmp_path / "newer"
    newer.mkdir()
    with page.expect_file_chooser() as chooser:
        page.get_by_role("button", name=re.compile("newer revision", re.IGNORECASE)).click()
    chooser.value.set_files(_stand(newer, 61))
    expect(page.get_by_text(re.compile("revision 2", re.IGNORECASE)).first).to_be_visible(timeout=SLOW)
    _stop(page, "Parts")
    expect(rows.filter(has_text="bent sheet")).to_have_count(1, timeout=SLOW)
    page.get_by_role("button", name="Give marks").click()
    expect(marks.get_by_text("Changed since they were marked")).to_be_visible(timeout=SLOW)
    marks.get_by_role("button", name="All keep theirs").click()
    marks.get_by_role("button", name="Give marks").click()
    expect(marks).to_have_count(0)
    _tick(page, "Side", "Angle", "Shaft")
    page.get_by_role("button", name="Make 3 sheets").click()
    expect(page.get_by_text("1 laid out anew")).to_be_visible(timeout=SLOW)
    _stop(page, "Release")
    page.get_by_label("Release rules").select_option(label="For the stand (5)")
    expect(page.locator("[data-path].kept")).to_have_count(len(wanted) - 3, timeout=SLOW)
    page.locator("header").get_by_role("button", name="Release", exact=True).click()
    again = read_manifest(_archive(page).read("manifest.json"))
    made = {own.file for own in again.files if own.made}
    assert made == {path for path in shown if path is not None and ("Side" in path or path.endswith("_5.dxf"))}

    # released, it is locked until its next revision
    page.get_by_role("tab", name="States").click()
    _tick(page, "Shaft")
    page.get_by_label("Release these files too").uncheck()
    page.get_by_role("button", name="released", exact=True).click()
    # the part and its drawing are one row with two states
    expect(page.locator(".part-state.released")).to_have_count(2, timeout=SLOW)
    _stop(page, "Parts")
    expect(page.get_by_role("button", name="Give marks")).to_be_visible()
    page.locator(".parts-desk").get_by_text("Shaft", exact=True).click()
    write_into(page, "Finish of the selection", "black")
    expect(page.get_by_text("Shaft is released at revision A and locked: begin its next revision first.")).to_be_visible()


@pytest.fixture
def page(page: Page) -> Page:
    page.set_default_timeout(30_000)
    return page
