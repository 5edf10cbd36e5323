"""3D from the command line: pages and fields, files of their own, and what is in them."""

from __future__ import annotations

import io
import json
from pathlib import Path

import numpy as np
import pytest
import trimesh

from skalto.core.checks.report import check_pdf
from skalto.core.checks.solids import fields_of_pdf
from skalto.core.output.u3d.reader import read_u3d
from skalto.core.recipes import PLAIN
from skalto.demo.solids import block, cylinder
from tests.conftest import Ran
from tests.core.modelled import write_assembly


@pytest.fixture(scope="module")
def stand(tmp_path_factory: pytest.TempPathFactory) -> Path:
    parts = {"Base": block(60, 40, 10), "Hex bolt": cylinder(8, 40, (0, 0, 10)), "Knob (bought)": cylinder(20, 15, (0, 0, 50))}
    return write_assembly(parts, tmp_path_factory.mktemp("stand") / "stand.step", "Stand")


def test_a_page_and_a_field(skalto_here: Ran, stand: Path, tmp_path: Path) -> None:
    page, field = tmp_path / "page.pdf", tmp_path / "field.pdf"
    status, _, told = skalto_here("export", stand, "--out", page, "--3d", "page", "--paper", "A4", "--quality", "draft")
    assert status == 0, told
    (solid,) = fields_of_pdf(page.read_bytes())
    assert solid.box == pytest.approx((0, 0, 297, 210), abs=1e-3)
    assert {node.name for node in read_u3d(solid.u3d).nodes} == {"Stand", "Base", "Hex bolt", "Knob (bought)"}
    status, out, told = skalto_here(
        "export", stand, "--out", field, "--3d", "field", "--view", "front,top", "--arrangement", "first", "--frame", "iso",
        "--classes", "made,bought",
    )  # fmt: skip
    assert status == 0, told
    assert "front 1:1" in out
    (solid,) = fields_of_pdf(field.read_bytes())
    assert [node.name for node in read_u3d(solid.u3d).nodes] == ["Made parts", "Bought parts", "Base", "Knob (bought)"]
    report = check_pdf(field.read_bytes(), PLAIN)
    assert report.holds
    assert {check.verdict for check in report.checks if check.code.startswith("solid")} == {"holds"}


def test_files_of_their_own_and_what_is_in_them(skalto_here: Ran, stand: Path, tmp_path: Path) -> None:
    u3d, glb, page = tmp_path / "a.u3d", tmp_path / "a.glb", tmp_path / "a.html"
    for out in (u3d, glb, page):
        status, _, told = skalto_here("u3d", stand, "--out", out, "--quality", "draft")
        assert status == 0, told
    assert len(read_u3d(u3d.read_bytes()).nodes) == 4
    scene = trimesh.load(io.BytesIO(glb.read_bytes()), file_type="glb")
    # glTF is in metres with y up
    assert np.allclose(sorted(scene.extents), [0.04, 0.06, 0.065])
    assert page.read_bytes().count(b"</script>") == 2
    status, out, _ = skalto_here("u3d", "--inspect", u3d, "--json")  # type: ignore[assignment]
    assert status == 0
    (found,) = json.loads(out)  # type: ignore[arg-type]
    base = next(node for node in found["nodes"] if node["name"] == "Base")
    assert base["faces"] == 12
    assert base["parent"] == "Stand"
    assert base["volume"] == pytest.approx(24_000)
    assert np.ptp(np.array(base["box"]), axis=0).tolist() == pytest.approx([60, 40, 10], abs=1e-5)
    status, out, _ = skalto_here("u3d", "--inspect", u3d)  # type: ignore[assignment]
    assert "  Base  12 faces" in out


def test_a_pdf_gives_its_model_back_and_tells_its_views(skalto_here: Ran, stand: Path, tmp_path: Path) -> None:
    pdf, again = tmp_path / "a.pdf", tmp_path / "again.u3d"
    assert skalto_here("export", stand, "--out", pdf, "--3d", "page", "--quality", "draft")[0] == 0
    assert skalto_here("u3d", pdf, "--out", again)[0] == 0
    assert again.read_bytes() == fields_of_pdf(pdf.read_bytes())[0].u3d
    status, out, _ = skalto_here("u3d", "--inspect", pdf, "--json")
    assert status == 0
    (found,) = json.loads(out)
    assert found["page"] == 1
    assert [view["name"] for view in found["views"]][:2] == ["Overview", "Front"]
    assert found["opening"]["A"] == "XA"


@pytest.mark.parametrize(
    ("arguments", "told"),
    [
        (("export", "{model}", "--out", "{folder}/a.pdf", "--3d", "wall"), "write page or field"),
        (("export", "{model}", "--out", "{folder}/a.pdf", "--quality", "fine"), "--3d page or --3d field"),
        (("export", "{model}", "--out", "{folder}/a.pdf", "--3d", "page", "--quality", "best"), "draft, normal or fine"),
        (("export", "{model}", "--out", "{folder}/a.pdf", "--3d", "page", "--classes", "nails"), "not a class"),
        (("export", "{model}", "--out", "{folder}/a.svg", "--3d", "field"), "into a PDF alone"),
        (("export", "{model}", "--out", "{folder}/a.png", "--3d", "page"), "into a PDF alone"),
        (("export", "{model}", "--out", "{folder}/a.pdf", "--3d", "page", "--archive"), "may not hold a 3D model"),
        (("u3d", "{model}"), "either --out FILE"),
        (("u3d", "{model}", "--out", "{folder}/a.stl"), "does not end in"),
        (("u3d", "--inspect", "{model}"), "not a U3D file"),
        (("u3d", "{folder}/none.u3d", "--inspect"), "There is no file"),
    ],
)
def test_what_cannot_be_is_refused(
    skalto_here: Ran, stand: Path, tmp_path: Path, arguments: tuple[str, ...], told: str
) -> None:
    status, _, complaint = skalto_here(*(a.format(model=stand, folder=tmp_path) for a in arguments))
    assert status == 2
    assert told in complaint
    assert complaint.count("\n") == 1
