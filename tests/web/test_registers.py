"""The registers as a person uses them: drawings of two jobs are found, proofed, printed on the stand-in, issued, taken as a
workbook; their issue is opened at the proof and taken as an archive."""

from __future__ import annotations

import io
import re
import zipfile
from pathlib import Path

import openpyxl
from playwright.sync_api import Page, expect

from skalto.core.checks.report import check_pdf
from tests.api.test_api import bring_in, new_job
from tests.api.test_issues import edit, sheet_of
from tests.conftest import Running
from tests.web.test_path import SLOW

WORDS = "for the registers"


def _jobs(running: Running, plate: Path) -> list[str]:
    numbers = []
    for name in ("Feed table", "Delivery board"):
        job = new_job(running, name)
        sheet = sheet_of(running.client, job, "Top", "A3", bring_in(running, job, plate), "top")
        edit(running.client, job, kind="set_title", sheet=sheet, fields={"title": f"{name} {WORDS}", "revision": "B"})
        numbers.append(running.client.get(f"/api/jobs/{job}").json()["number"])
    return numbers


def _saved(page: Page, name: str) -> bytes:
    with page.expect_download() as waiting:
        page.get_by_role("link", name=name, exact=True).first.click()
    return Path(waiting.value.path()).read_bytes()


def test_drawings_of_all_jobs(page: Page, running: Running, plate_step: Path) -> None:
    numbers = _jobs(running, plate_step)
    page.goto("/")
    page.get_by_role("link", name="Drawings").click()
    expect(page.get_by_role("heading", name="Register of drawings")).to_be_visible(timeout=SLOW)
    rows = page.locator(".ant-table-row")
    page.get_by_label("Find").fill(WORDS)
    expect(rows).to_have_count(2)
    page.locator("th", has_text="Title").click()
    expect(rows.first).to_contain_text("Delivery board")
    page.get_by_role("button", name="Select all 2").click()
    expect(page.get_by_text("2 drawings selected")).to_be_visible()

    # nothing is printed of what is not made
    page.get_by_role("button", name="Print on the stand-in").click()
    dialog = page.get_by_role("dialog", name="The stand-in printer")
    expect(dialog.get_by_text("is not made yet")).to_have_count(2)
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Make proofs").click()
    expect(rows.filter(has_text="never")).to_have_count(2)
    expect(rows.first.get_by_role("link", name=re.compile(r"\d\d:\d\d"))).to_be_visible(timeout=SLOW)
    expect(page.get_by_text("being made")).to_have_count(0, timeout=SLOW)
    page.get_by_role("button", name="Print on the stand-in").click()
    # A3 on A4 with margins of 5 mm: (210 − 10) / 297
    expect(dialog.get_by_text("67.3401 %")).to_have_count(2, timeout=SLOW)
    expect(dialog.get_by_text("not to scale")).to_have_count(2)
    page.keyboard.press("Escape")

    page.get_by_role("button", name="Issue", exact=False).filter(has_text="…").click()
    asked = page.get_by_role("dialog", name="Issue 2 drawings")
    expect(asked.get_by_text("They are of 2 jobs")).to_be_visible()
    asked.get_by_label("Purpose").select_option("for manufacture")
    asked.get_by_label("Recipe").select_option(label="Reduced to A3, for reading")
    asked.get_by_role("button", name="Issue", exact=True).dblclick()
    expect(page.get_by_text("2 issues are on their way")).to_be_visible()
    expect(rows.filter(has_text="for manufacture")).to_have_count(2, timeout=SLOW)
    book = openpyxl.load_workbook(io.BytesIO(_saved(page, "Save as XLSX")))
    heading, *cells = book.active.iter_rows(values_only=True)
    told = [dict(zip(heading, line, strict=True)) for line in cells]
    assert [(row["job number"], row["purpose"], row["changed since issue"]) for row in told] == [
        (number, "for manufacture", "no") for number in reversed(numbers)
    ]

    page.get_by_role("link", name="Issues", exact=True).click()
    issue = page.locator("tr", has_text="Delivery board").first
    issue.get_by_role("link", name="at the proof").click()
    expect(page.get_by_text("as it was sent").first).to_be_visible(timeout=SLOW)
    expect(page.locator("canvas[data-drawn]")).to_be_visible(timeout=SLOW)
    expect(page.locator("[data-check]").first).to_be_visible()
    with page.expect_download() as waiting:
        page.get_by_role("button", name="Download the PDF").click()
    assert check_pdf(Path(waiting.value.path()).read_bytes()).holds
    page.get_by_role("link", name="Register of issues").click()
    expect(issue).to_be_visible()


def test_an_issue_of_several_files_comes_as_one_archive(page: Page, running: Running, plate_step: Path) -> None:
    job = new_job(running, "Two files")
    sheet = sheet_of(running.client, job, "Top", "A4", bring_in(running, job, plate_step), "top")
    edit(running.client, job, kind="keep_pack", pack={"id": "p", "name": "Both", "sheets": [sheet], "formats": ["PDF", "DXF"]})
    page.goto(f"/jobs/{job}/issue")
    page.get_by_role("button", name="Issue this pack", exact=True).click()
    archive = zipfile.ZipFile(io.BytesIO(_saved(page, "All as ZIP")))
    assert archive.testzip() is None
    assert sorted(Path(name).suffix for name in archive.namelist()) == [".dxf", ".pdf"]
