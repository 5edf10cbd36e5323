"""What a review of a model in 3D does to the sheet, through the API: kept things, turns, section views, finished pages."""

from __future__ import annotations

import base64
import gzip
import io
import json
import re
import time
from pathlib import Path
from typing import Any

import httpx
import numpy as np
import pikepdf
import pytest
from reportlab.pdfgen.canvas import Canvas

from skalto.core.scene.annotation_3d import Annotation3d
from skalto.core.scene.views import Cut
from skalto.services.results.writing import page_alone
from tests.api.test_api import bring_in, new_job, wait_for
from tests.api.test_issues import edit, pack
from tests.conftest import Running
from tests.core.output.test_onto import by_pdfium, finished

QUARTER = [[1, 0, 0], [0, 0, -1], [0, 1, 0]]


def put(client: httpx.Client, job: int, source: str, sheet: str | None = None) -> tuple[str, str]:
    answer = client.post(f"/api/jobs/{job}/fields", json={"source": source, "sheet": sheet})
    assert answer.status_code == 200, answer.text
    return answer.json()["sheet"], answer.json()["field"]


def sheet_of(client: httpx.Client, job: int, sheet: str) -> dict[str, Any]:
    document = client.get(f"/api/jobs/{job}").json()["document"]
    found: dict[str, Any] = next(own for own in document["sheets"] if own["id"] == sheet)
    return found


@pytest.fixture
def at_hand(running: Running, plate_step: Path) -> tuple[int, str, str]:
    job = new_job(running)
    source = bring_in(running, job, plate_step)
    return job, *put(running.client, job, source)


def test_what_is_kept_leaves_the_proof_as_it_is(running: Running, at_hand: tuple[int, str, str]) -> None:
    job, sheet, field = at_hand
    client = running.client
    before = client.get(f"/api/jobs/{job}/sheets/{sheet}/proof").json()["key"]
    of = {"sheet": sheet, "annotation": field}
    mark = {"kind": "mark", "id": "m", "name": "Burr", "at": [1, 2, 3], "text": "Break this edge"}
    edit(client, job, kind="keep_in_annotation_3d", **of, item=mark)
    edit(client, job, kind="keep_in_annotation_3d", **of, item=mark | {"name": "Burr at the rim"})
    (kept,) = sheet_of(client, job, sheet)["annotations_3d"][0]["kept"]
    assert kept["name"] == "Burr at the rim"
    assert client.get(f"/api/jobs/{job}/sheets/{sheet}/proof").json()["key"] == before
    edit(client, job, kind="turn_annotation_3d", **of, turn=QUARTER)
    assert sheet_of(client, job, sheet)["annotations_3d"][0]["kept"][0]["at"] == [1, -3, 2]
    assert client.get(f"/api/jobs/{job}/sheets/{sheet}/proof").json()["key"] != before
    client.post(f"/api/jobs/{job}/undo")
    assert client.get(f"/api/jobs/{job}/sheets/{sheet}/proof").json()["key"] == before
    edit(client, job, kind="forget_in_annotation_3d", **of, items=["m", "gone already"])
    assert sheet_of(client, job, sheet)["annotations_3d"][0]["kept"] == []


@pytest.mark.parametrize(
    "bad", [{"at": [1, 2]}, {"at": [1, 2, "nan"]}, {"name": "  "}, {"text": "x" * 501}, {"kind": "scribble"}, {"id": ""}]
)
def test_what_cannot_be_kept_is_refused(running: Running, at_hand: tuple[int, str, str], bad: dict[str, object]) -> None:
    job, sheet, field = at_hand
    item = {"kind": "mark", "id": "m", "name": "Burr", "at": [1, 2, 3]} | bad
    answer = running.client.post(
        f"/api/jobs/{job}/edits",
        json={"kind": "keep_in_annotation_3d", "sheet": sheet, "annotation": field, "item": item},
    )
    assert answer.status_code == 422
    assert sheet_of(running.client, job, sheet)["annotations_3d"][0]["kept"] == []


@pytest.mark.parametrize("turn", [None, QUARTER])
@pytest.mark.parametrize(
    "cut",
    [
        {"along": "x", "offset": 7.5},
        {"along": "x", "offset": 7.5, "flip": True},
        {"along": "y", "offset": -4.0},
        {"along": "z", "offset": 3.0},
        {"along": "x", "offset": 2.0, "tilt": [0, 30]},
        {"along": "y", "offset": 2.0, "tilt": [25, -15]},
    ],
)
def test_a_cut_becomes_a_section_view_where_it_is(
    running: Running, at_hand: tuple[int, str, str], cut: dict[str, Any], turn: Any
) -> None:
    """The section looks against the normal of what is taken away, from the plane itself, whichever way the model is turned."""
    job, sheet, field = at_hand
    client = running.client
    if turn is not None:
        edit(client, job, kind="turn_annotation_3d", sheet=sheet, annotation=field, turn=turn)
    middle = np.array((1.0, 2.0, 3.0))
    answer = client.post(f"/api/jobs/{job}/sheets/{sheet}/fields/{field}/section", json={"cut": cut, "middle": middle.tolist()})
    assert answer.status_code == 200, answer.text
    own = sheet_of(client, job, sheet)
    views = {view["id"]: view for view in own["views"]}
    section = views[answer.json()["view"]]
    parent = views[section["parent"]]
    back = np.array(turn or np.eye(3)).T
    asked = Cut.model_validate(cut)
    normal, point = back @ asked.normal(), back @ asked.point(middle)
    look = np.array(section["content"]["look"]) / np.linalg.norm(section["content"]["look"])
    assert np.allclose(look, -normal, atol=1e-6)
    assert section["content"]["depth"] == pytest.approx(float(look @ point), abs=2e-3)
    seen = np.array(parent["content"]["look"]) / np.linalg.norm(parent["content"]["look"])
    assert abs(seen @ normal) < 1e-6
    assert section["scale"] == own["scale"]
    # one step, with the view that it is taken from
    client.post(f"/api/jobs/{job}/undo")
    assert sheet_of(client, job, sheet)["views"] == []


def test_a_second_section_is_taken_from_the_view_that_is_there(running: Running, at_hand: tuple[int, str, str]) -> None:
    job, sheet, field = at_hand
    for offset in (5.0, -5.0):
        wish = {"cut": {"along": "x", "offset": offset}, "middle": [0, 0, 0]}
        assert running.client.post(f"/api/jobs/{job}/sheets/{sheet}/fields/{field}/section", json=wish).status_code == 200
    views = sheet_of(running.client, job, sheet)["views"]
    assert len(views) == 3
    assert [view["content"]["plane"]["letter"] for view in views if view["content"]["kind"] == "section"] == ["A", "B"]


def test_a_section_that_has_no_room_beside_its_parent_lies_elsewhere_on_the_sheet(
    running: Running, at_hand: tuple[int, str, str]
) -> None:
    job, sheet, field = at_hand
    client = running.client
    wish = {"cut": {"along": "x", "offset": 5.0}, "middle": [0, 0, 0]}
    at = f"/api/jobs/{job}/sheets/{sheet}/fields/{field}/section"
    parent = next(own for own in client.post(at, json=wish).json()["job"]["document"]["sheets"] if own["id"] == sheet)["views"][
        0
    ]
    client.post(f"/api/jobs/{job}/undo")
    wide, high = 420.0, 297.0
    # the parent stands at the edge at which its sections would come to lie
    own = {**parent, "place": [70.0, 150.0]}
    edit(client, job, kind="add_view", sheet=sheet, view=own)
    for flip in (False, True):
        answer = client.post(at, json=wish | {"cut": wish["cut"] | {"flip": flip}})
        section = next(v for v in sheet_of(client, job, sheet)["views"] if v["id"] == answer.json()["view"])
        assert 0 < section["place"][0] < wide
        assert 0 < section["place"][1] < high
        client.post(f"/api/jobs/{job}/undo")


def test_the_html_file_has_what_was_kept_and_what_the_parts_weigh(running: Running, at_hand: tuple[int, str, str]) -> None:
    job, sheet, field = at_hand
    client = running.client
    of = {"sheet": sheet, "annotation": field}
    source = sheet_of(client, job, sheet)["annotations_3d"][0]["source"]
    part = client.get(f"/api/sources/{source}/tree").json()["components"][0]["part"]
    edit(client, job, kind="set_part", part=part, facts={"material": "Steel", "density": 7.85})
    item = {"kind": "mark", "id": "m", "name": "Burr", "at": [1, 2, 3], "text": "Break this edge"}
    edit(client, job, kind="keep_in_annotation_3d", **of, item=item)
    client.post(f"/api/jobs/{job}/sheets/{sheet}/proof")
    wait_for(lambda: client.get(f"/api/jobs/{job}/sheets/{sheet}/proof").json()["ready"])
    at = f"/api/jobs/{job}/sheets/{sheet}/proof/solids/0/file"
    wait_for(lambda: client.post(at, params={"suffix": ".html"}).json()["ready"])
    page = client.get(at, params={"suffix": ".html"}).text
    (packed,) = re.findall(r'id="model"[^>]*>([^<]+)<', page)
    data = gzip.decompress(base64.b64decode(packed))
    head = json.loads(data[4 : 4 + int.from_bytes(data[:4], "little")])
    assert [own["text"] for own in head["kept"]] == ["Break this edge"]
    assert set(head["densities"].values()) == {7.85e-3}


def test_earlier_views_with_one_cut_are_read() -> None:
    row = {"id": "v", "name": "Cut", "cut": {"along": "y", "offset": 4}}
    found = Annotation3d.model_validate({"id": "f", "source": "s", "views": [row, {"id": "w", "name": "Whole", "cut": None}]})
    assert [cut.offset for cut in found.views[0].cuts] == [4]
    assert found.views[1].cuts == ()


def page_of(running: Running, folder: Path, data: bytes, name: str = "page.pdf") -> tuple[int, str]:
    (folder / name).write_bytes(data)
    job = new_job(running)
    return job, bring_in(running, job, folder / name)


def test_a_sheet_on_a_finished_page_goes_out_alone(running: Running, plate_step: Path, tmp_path: Path) -> None:
    job, drawing = page_of(running, tmp_path, finished())
    client = running.client
    facts = client.get(f"/api/jobs/{job}/sources/{drawing}/drawing").json()["facts"]
    wish = {"source": drawing, "space": facts["spaces"][1]["name"]}
    answer = client.post(f"/api/jobs/{job}/pages/as-it-is", json=wish)
    assert answer.status_code == 201, answer.text
    sheet = answer.json()["sheet"]
    assert sheet_of(client, job, sheet)["onto"] == {"source": drawing, "page": 2, "signatures": 0}
    source = bring_in(running, job, plate_step)
    put(client, job, source, sheet)
    other, _ = put(client, job, source)
    pack(client, job, [sheet, other], files="one")
    problems = client.post(f"/api/jobs/{job}/issues/preview", json={"pack": "shop"}).json()["problems"]
    assert any("lies on a finished page" in own for own in problems)
    refused = client.post(f"/api/jobs/{job}/whole")
    assert refused.status_code == 422
    assert "write one file per sheet" in refused.json()["detail"]


def test_only_a_page_of_a_pdf_can_be_used_as_it_is(running: Running, plate_step: Path, tmp_path: Path) -> None:
    job, drawing = page_of(running, tmp_path, finished())
    client = running.client
    gone = client.post(f"/api/jobs/{job}/pages/as-it-is", json={"source": drawing, "space": "99"})
    assert gone.status_code == 422
    assert "no page 99" in gone.json()["detail"]
    svg = tmp_path / "plan.svg"
    svg.write_text('<svg xmlns="http://www.w3.org/2000/svg" width="90mm" height="60mm"><path d="M0 0h80v40"/></svg>')
    other = bring_in(running, job, svg)
    refused = client.post(f"/api/jobs/{job}/pages/as-it-is", json={"source": other, "space": ""})
    assert refused.status_code == 422
    assert "is no PDF" in refused.json()["detail"]


def test_the_lines_of_a_page_are_found_to_snap_to(running: Running, tmp_path: Path) -> None:
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(595, 842))
    mm = 72 / 25.4
    canvas.rect(30 * mm, 50 * mm, 100 * mm, 70 * mm)
    canvas.line(10 * mm, 10 * mm, 12 * mm, 10 * mm)  # too short to be meant
    canvas.save()
    _, drawing = page_of(running, tmp_path, out.getvalue())
    for _ in range(100):
        state = running.client.get(f"/api/sources/{drawing}/pages/1").json()
        if state["picture"]:
            break
        time.sleep(0.1)
    assert state["xs"] == pytest.approx([30, 130], abs=0.02)
    assert state["ys"] == pytest.approx([50, 120], abs=0.02)
    assert (state["width"], state["height"]) == pytest.approx((595 / mm, 842 / mm), abs=1e-3)
    assert running.client.get(state["picture"]).content[:4] == b"\x89PNG"
    for _ in range(100):
        answer = running.client.get(f"/api/sources/{drawing}/pages/7")
        if answer.status_code == 422:
            break
        time.sleep(0.1)
    assert "there is no page 7" in answer.json()["detail"]


def layered() -> bytes:
    """A page with a black square on a layer that is off, and a form field, by another library."""
    with pikepdf.open(io.BytesIO(finished())) as pdf:
        page = pdf.pages[1]
        off = pdf.make_indirect(pikepdf.Dictionary(Type=pikepdf.Name.OCG, Name="Notes"))
        pdf.Root.OCProperties = pikepdf.Dictionary(OCGs=[off], D=pikepdf.Dictionary(OFF=[off]))
        page.Resources.Properties = pikepdf.Dictionary(L0=off)
        page.contents_add(pdf.make_stream(b"/OC /L0 BDC 0 g 300 500 200 200 re f EMC"))
        out = io.BytesIO()
        pdf.save(out)
    return out.getvalue()


def test_a_layer_that_is_off_is_not_seen_on_the_desk_either() -> None:
    """By pdfium: the page alone shows what the page without the square does, its form field too."""
    bare = by_pdfium(finished(), 1)
    assert np.array_equal(by_pdfium(layered(), 1), bare)
    assert np.array_equal(by_pdfium(page_alone(layered(), 2), 0), bare)


def test_an_empty_page_can_be_used_as_it_is(running: Running, tmp_path: Path) -> None:
    """Such as a sheet of headed paper before anything is on it; what a page of it shows alone is told to be nothing."""
    out = io.BytesIO()
    with pikepdf.new() as pdf:
        pdf.add_blank_page(page_size=(595, 842))
        pdf.save(out)
    job, drawing = page_of(running, tmp_path, out.getvalue(), "empty.pdf")
    facts = running.client.get(f"/api/jobs/{job}/sources/{drawing}/drawing").json()["facts"]
    assert facts["lost"] == ["Its pages are empty: use them as they are, and put something on them."]
    answer = running.client.post(f"/api/jobs/{job}/pages/as-it-is", json={"source": drawing, "space": ""})
    assert answer.status_code == 201, answer.text
    assert sheet_of(running.client, job, answer.json()["sheet"])["onto"]["page"] == 1


def test_a_page_that_nothing_can_be_put_onto_is_refused_at_once(running: Running, tmp_path: Path) -> None:
    data = finished()
    kids = re.search(rb"/Kids \[ (\d+) 0 R (\d+) 0 R", data)
    assert kids
    twice = data.replace(kids[0], kids[0].replace(kids[1] + b" 0 R", kids[2].ljust(len(kids[1])) + b" 0 R", 1))
    job, drawing = page_of(running, tmp_path, twice, "twice.pdf")
    answer = running.client.post(f"/api/jobs/{job}/pages/as-it-is", json={"source": drawing, "space": ""})
    assert answer.status_code == 422
    assert "kept as one with page 2" in answer.json()["detail"]


def test_a_newer_page_takes_the_place_of_the_finished_one(running: Running, tmp_path: Path) -> None:
    job, drawing = page_of(running, tmp_path, finished())
    client = running.client
    name = client.get(f"/api/jobs/{job}/sources/{drawing}/drawing").json()["facts"]["spaces"][1]["name"]
    answer = client.post(f"/api/jobs/{job}/pages/as-it-is", json={"source": drawing, "space": name})
    sheet = answer.json()["sheet"]
    (tmp_path / "newer.pdf").write_bytes(finished(Rotate=0))
    data = (tmp_path / "newer.pdf").read_bytes()
    client.post(f"/api/jobs/{job}/incoming", params={"name": "newer.pdf", "replaces": drawing}, content=data)
    for _ in range(200):
        (source,) = client.get(f"/api/jobs/{job}").json()["document"]["sources"]
        if source["id"] != drawing:
            break
        time.sleep(0.1)
    assert source["id"] != drawing
    assert sheet_of(client, job, sheet)["onto"]["source"] == source["id"]
