"""A model onto a page that is finished, in the browser: the page is used as it is, the area dragged to a frame on it, the file
sent whole."""

from __future__ import annotations

import io
from pathlib import Path

import numpy as np
import pikepdf
import pytest
from playwright.sync_api import Page, expect
from reportlab.pdfgen.canvas import Canvas

from skalto.core.checks.onto import onto_checks
from skalto.core.checks.solids import fields_of_pdf
from skalto.core.output.u3d.reader import read_u3d
from tests.api.test_api import bring_in, new_job
from tests.api.test_issues import ended, file_of, pack, send
from tests.conftest import Running
from tests.core.output.test_onto import by_poppler, finished
from tests.web.hand import still
from tests.web.test_path import SLOW, download
from tests.web.test_solids import canvas

pytestmark = pytest.mark.long
FRAME = (60.0, 100.0, 140.0, 90.0)
"""An empty box on the second page: left, bottom, width, height, mm."""


def framed() -> bytes:
    """Two pages by another library, with fonts, a gradient and a form field, the second with an empty box on it."""
    box = io.BytesIO()
    drawn = Canvas(box, pagesize=(595, 842))
    drawn.rect(*(v * 72 / 25.4 for v in FRAME))
    drawn.save()
    with pikepdf.open(io.BytesIO(finished())) as pdf, pikepdf.open(box) as other:
        pdf.pages[1].add_overlay(other.pages[0], None)
        out = io.BytesIO()
        pdf.save(out, static_id=True)
    return out.getvalue()


def test_a_model_goes_onto_a_page_that_is_finished(running: Running, plate_step: Path, tmp_path: Path, page: Page) -> None:
    before = framed()
    path = tmp_path / "Assembly.pdf"
    path.write_bytes(before)
    job = new_job(running)
    bring_in(running, job, plate_step)
    drawing = bring_in(running, job, path)
    page.goto(f"/jobs/{job}/source?source={drawing}")
    page.get_by_label("Pages", exact=True).get_by_role("button").nth(1).click(timeout=SLOW)
    page.get_by_role("button", name="Use this page as it is").click()
    expect(page.locator(".base image.finished-page")).to_have_count(1, timeout=SLOW)
    expect(page.get_by_label("Ticket")).to_contain_text("page 2 of Assembly.pdf")
    document = running.client.get(f"/api/jobs/{job}").json()["document"]
    (sheet,) = (own["id"] for own in document["sheets"])

    # the model is put there, and its area drawn over the empty box: near a line it comes to lie at it
    source = next(own["id"] for own in document["sources"] if own["id"] != drawing)
    field = running.client.post(f"/api/jobs/{job}/fields", json={"source": source, "sheet": sheet}).json()["field"]
    # it comes where the page shows nothing
    placed = running.client.get(f"/api/jobs/{job}").json()["document"]["sheets"][0]["annotations_3d"][0]
    drawn = by_poppler(before, 1, tmp_path)
    fine, foot = drawn.shape[1] / 210.0, drawn.shape[0]
    (x, y), (wide, high) = placed["place"], placed["size"]
    band = slice(round(foot - (y + high) * fine), round(foot - y * fine))
    within = drawn[band, round(x * fine) : round((x + wide) * fine)]
    assert np.abs(within.astype(int) - within[0, 0]).max() < 40, "the ground of the page alone, a slow gradient"
    assert min(wide, high) >= 40
    fields = {"place": [FRAME[0] - 10, FRAME[1] - 10], "size": [60, 40], "frame": False}
    running.client.post(
        f"/api/jobs/{job}/edits", json={"kind": "change_annotation_3d", "sheet": sheet, "annotation": field, "fields": fields}
    )
    page.goto(f"/jobs/{job}/sheets/{sheet}?field={field}")
    layer = page.locator(".field-layer")
    expect(layer.locator("img")).to_be_visible(timeout=SLOW)
    zoom = still(layer)["width"] / 60
    # drawn with one stroke from corner to corner, a little beside them; the stroke begins where the field lies itself
    box = still(layer)
    left, foot = box["x"] + 10 * zoom, box["y"] + box["height"] - 10 * zoom
    page.get_by_role("button", name="Draw its area").click()
    page.mouse.move(left - 0.5 * zoom, foot + 0.4 * zoom)
    page.mouse.down()
    page.mouse.move(left + 60 * zoom, foot - 40 * zoom, steps=4)
    page.mouse.move(left + (FRAME[2] + 0.4) * zoom, foot - (FRAME[3] - 0.5) * zoom, steps=4)
    page.mouse.up()
    for label, value in (
        ("Position, x", FRAME[0]),
        ("Position, y", FRAME[1]),
        ("Field width", FRAME[2]),
        ("Field height", FRAME[3]),
    ):
        expect(page.get_by_label(label, exact=True)).to_have_value(f"{value:g}")
    expect(page.get_by_text("All changes saved")).to_be_visible()
    placed = running.client.get(f"/api/jobs/{job}").json()["document"]["sheets"][0]["annotations_3d"][0]
    assert (*placed["place"], *placed["size"]) == pytest.approx(FRAME, abs=0.02)

    page.get_by_role("button", name="Proof this sheet").click()
    expect(page.get_by_role("heading", name="Measured in the file")).to_be_visible(timeout=SLOW)
    data = download(page)
    # all of the old file is there, byte by byte; what is new comes behind it
    assert data.startswith(before)
    assert {check.verdict for check in onto_checks(before, data, 2)} == {"holds"}
    assert len(pikepdf.open(io.BytesIO(data)).pages) == 2
    (solid,) = fields_of_pdf(data)
    assert solid.page == 2
    assert solid.box == pytest.approx((FRAME[0], FRAME[1], FRAME[0] + FRAME[2], FRAME[1] + FRAME[3]), abs=0.03)
    assert read_u3d(solid.u3d).distinct() > 100
    # drawn by poppler: the same outside the area, the model's picture within
    was, now = (by_poppler(own, 1, tmp_path) for own in (before, data))
    rows, columns = np.nonzero((was != now).any(axis=-1))
    scale = was.shape[1] / 210.0
    assert columns.min() >= FRAME[0] * scale - 2
    assert columns.max() <= (FRAME[0] + FRAME[2]) * scale + 2
    assert rows.min() >= was.shape[0] - (FRAME[1] + FRAME[3]) * scale - 2
    assert rows.max() <= was.shape[0] - FRAME[1] * scale + 2

    # the proof shows that page, and decodes the model from it
    page.get_by_role("tab", name="3D").click()
    expect(canvas(page)).to_be_visible(timeout=SLOW)

    # it is issued as the whole file; with another sheet in one file it cannot be
    issue = ended(running.client, send(running.client, job, pack=pack(running.client, job, [sheet])))
    assert issue["state"] == "done", issue
    assert file_of(running.client, issue).startswith(before)
    # the source stays while the sheet lies on it
    gone = running.client.post(f"/api/jobs/{job}/edits", json={"kind": "remove_source", "source": drawing})
    assert gone.status_code == 422
    assert "take what shows it off first" in gone.json()["detail"]
