"""Drawings through the API: facts, units, excerpts, saved pages, artwork files, one PDF of all sheets."""

from __future__ import annotations

import base64
import io
from pathlib import Path
from typing import Any

import ezdxf
import pikepdf
import pytest
from PIL import Image
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas

from skalto.core.checks.report import check_pdf
from skalto.demo.workshop import write_workshop
from tests.api.test_api import bring_in, new_job, wait_for
from tests.conftest import Running


def _job_with(running: Running, path: Path) -> tuple[int, str]:
    job = new_job(running, path.stem)
    return job, bring_in(running, job, path)


@pytest.fixture(scope="module")
def workshop(running: Running, tmp_path_factory: pytest.TempPathFactory) -> tuple[int, str]:
    path = tmp_path_factory.mktemp("api") / "fit-out.dxf"
    write_workshop(str(path))
    return _job_with(running, path)


def test_what_a_drawing_holds(running: Running, workshop: tuple[int, str]) -> None:
    job, source = workshop
    found = running.client.get(f"/api/jobs/{job}/sources/{source}/drawing").json()
    assert found["unit_mm"] == 1.0
    assert [space["label"] for space in found["facts"]["spaces"]] == ["Drawing", "Ground floor"]
    state = wait_for(lambda: running.client.get(f"/api/sources/{source}/drawing/picture").json()["picture"])
    assert {path["layer"] for path in state["paths"]} >= {"WALLS", "BENCHES"}


def test_an_excerpt_a_page_and_one_file_of_both(running: Running, workshop: tuple[int, str]) -> None:
    job, source = workshop
    client = running.client
    placed = client.post(f"/api/jobs/{job}/excerpts", json={"source": source, "declared": True}).json()
    page = client.post(f"/api/jobs/{job}/pages", json={"source": source, "space": "Ground floor"}).json()
    (view,) = next(s for s in placed["job"]["document"]["sheets"] if s["id"] == placed["sheet"])["views"]
    assert view["content"]["excerpt"]["region"] == [-1000, -1500, 17000, 21500]
    assert set(view["content"]["excerpt"]["off"]) >= {"REMARKS", "VIEWPORTS"}
    assert page["sheet"] != placed["sheet"]
    wait_for(lambda: client.post(f"/api/jobs/{job}/whole").json()["ready"])
    report = check_pdf(client.get(f"/api/jobs/{job}/whole.pdf").content)
    assert (len(report.pages), report.holds) == (2, True)
    query = {"suffix": "dxf", "view": placed["view"]}
    wait_for(lambda: client.post(f"/api/jobs/{job}/sheets/{placed['sheet']}/artwork", params=query).json()["ready"])
    answer = client.get(f"/api/jobs/{job}/sheets/{placed['sheet']}/artwork", params=query)
    assert answer.headers["content-disposition"].endswith(".dxf")
    assert ezdxf.read(io.StringIO(answer.content.decode())).units == 4


def test_layers_chosen_before_go_with_the_excerpt(running: Running, workshop: tuple[int, str]) -> None:
    job, source = workshop
    placed = running.client.post(f"/api/jobs/{job}/excerpts", json={"source": source, "off": ["BENCHES"]}).json()
    (view,) = next(s for s in placed["job"]["document"]["sheets"] if s["id"] == placed["sheet"])["views"]
    assert view["content"]["excerpt"]["off"] == ["BENCHES"]


def test_a_drawing_is_not_pulled_or_cut(running: Running, workshop: tuple[int, str]) -> None:
    job, source = workshop
    placed = running.client.post(f"/api/jobs/{job}/excerpts", json={"source": source}).json()
    address = f"/api/jobs/{job}/sheets/{placed['sheet']}/views/{placed['view']}"
    answer = running.client.post(f"{address}/pull", json={"place": [300, 100]})
    assert (answer.status_code, "A drawing has one side" in answer.json()["detail"]) == (422, True)
    # nor are its strokes edges of a model
    assert wait_for(lambda: running.client.get(f"{address}/picture").json()["picture"])
    edge = {"component": "", "edge": 0, "kind": "line", "geometry": [0, 0, 0, 1, 0, 0]}
    answer = running.client.post(f"{address}/dimensions", json={"first": edge, "at": [100, 100]})
    assert (answer.status_code, "has no edges of a model to dimension" in answer.json()["detail"]) == (422, True)
    answer = running.client.post(
        f"/api/jobs/{job}/views", json={"source": source, "name": "top", "look": [0, 0, -1], "up": [0, 1, 0]}
    )
    assert (answer.status_code, "goes on a sheet as a drawing view" in answer.json()["detail"]) == (422, True)
    answer = running.client.post(f"/api/jobs/{job}/pages", json={"source": source, "space": "Attic"})
    assert answer.status_code == 422


def test_a_unit_and_a_measured_length(running: Running, tmp_path: Path) -> None:
    doc: Any = ezdxf.new("R2010", units=0)
    doc.modelspace().add_line((0, 0), (40, 0))
    doc.saveas(tmp_path / "guard.dxf")
    job, source = _job_with(running, tmp_path / "guard.dxf")
    client = running.client
    found = client.get(f"/api/jobs/{job}/sources/{source}/drawing").json()
    assert found["unit_mm"] is None
    assert {row["name"]: row["width"] for row in found["candidates"]}["in"] == pytest.approx(40 * 25.4)
    refused = client.post(f"/api/jobs/{job}/excerpts", json={"source": source})
    assert (refused.status_code, "does not say its unit" in refused.json()["detail"]) == (422, True)
    measured = client.post(f"/api/jobs/{job}/sources/{source}/measured", json={"measured": 40, "length_mm": 1990}).json()
    assert (measured["nearest"], measured["unit_mm"]) == ("1:50", pytest.approx(49.75))
    placed = client.post(f"/api/jobs/{job}/excerpts", json={"source": source}).json()
    assert placed["view"]
    # inches after all: the excerpt shows the same part of the drawing
    edit = {"kind": "set_unit", "source": source, "unit_mm": 25.4}
    after = client.post(f"/api/jobs/{job}/edits", json=edit).json()
    (view,) = after["document"]["sheets"][0]["views"]
    assert view["content"]["excerpt"]["unit"] == 25.4
    assert view["anchor"] == pytest.approx([508.0, 0.0])


def many_pages(path: Path, count: int = 3) -> Path:
    """A PDF of A4 pages, the second one lying, each with a rectangle of 100 × 50 mm and a gradient."""
    canvas = Canvas(str(path), pagesize=(210 * mm, 297 * mm))
    for number in range(count):
        canvas.setPageSize((297 * mm, 210 * mm) if number == 1 else (210 * mm, 297 * mm))
        canvas.linearGradient(20 * mm, 20 * mm, 60 * mm, 20 * mm, ((1, 0, 0), (0, 0, 1)), extend=False)
        canvas.rect(30 * mm, 60 * mm, 100 * mm, 50 * mm)
        canvas.showPage()
    canvas.save()
    return path


def test_all_pages_of_a_pdf_are_sheets_in_one_step_and_go_out_as_they_are(running: Running, tmp_path: Path) -> None:
    client = running.client
    job, source = _job_with(running, many_pages(tmp_path / "pages.pdf"))
    preview = wait_for(lambda: client.get(f"/api/sources/{source}/drawing/preview", params={"space": "2"}).json()["png"])
    with Image.open(io.BytesIO(base64.b64decode(preview))) as picture:
        assert picture.size == (320, 227)
    made = client.post(f"/api/jobs/{job}/pages/all", json={"source": source}).json()
    sheets = made["job"]["document"]["sheets"]
    assert [(s["format"], s["orientation"], s["scale"]) for s in sheets] == [
        ("A4", "portrait", "1:1"), ("A4", "landscape", "1:1"), ("A4", "portrait", "1:1"),
    ]  # fmt: skip
    wait_for(lambda: client.post(f"/api/jobs/{job}/whole").json()["ready"])
    data = client.get(f"/api/jobs/{job}/whole.pdf").content
    report = check_pdf(data)
    assert (len(report.pages), report.holds) == (3, True)
    # the page itself is in the file, gradient and all
    with pikepdf.open(io.BytesIO(data)) as pdf, pikepdf.open(tmp_path / "pages.pdf") as own:
        for page, original in zip(pdf.pages, own.pages, strict=True):
            assert page.Resources.XObject.O0.read_bytes() == original.Contents.read_bytes()
    client.post(f"/api/jobs/{job}/undo")
    assert client.get(f"/api/jobs/{job}").json()["document"]["sheets"] == []


def test_a_page_that_is_not_there_has_no_preview(running: Running, workshop: tuple[int, str]) -> None:
    _, source = workshop
    answer = running.client.get(f"/api/sources/{source}/drawing/preview", params={"space": "Roof"})
    assert answer.status_code == 422
    assert "choose another" in answer.text
