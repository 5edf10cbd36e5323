"""The desk through the service: what is written on a sheet, picked, aligned, pulled, shaded; jobs saved and opened."""

from __future__ import annotations

import io
import itertools
from pathlib import Path
from typing import Any

import pytest
from PIL import Image

from skalto.core.job import JobDocument
from tests.api.test_api import bring_in, new_job, put_on, wait_for
from tests.conftest import Running


@pytest.fixture
def desk(running: Running, plate_step: Path) -> tuple[int, str, str, str]:
    """Job, source, sheet and view, drawn."""
    job = new_job(running)
    source = bring_in(running, job, plate_step)
    placed = put_on(running, job, source)
    drawn(running, job, placed["sheet"])
    return job, source, placed["sheet"], placed["view"]


def writing(running: Running, job: int, sheet: str) -> dict[str, Any]:
    answer = running.client.get(f"/api/jobs/{job}/sheets/{sheet}/writing")
    assert answer.status_code == 200, answer.text
    found: dict[str, Any] = answer.json()
    return found


def drawn(running: Running, job: int, sheet: str) -> dict[str, Any]:
    """Ask for every view's lines until all are there; what is written then."""
    document = running.client.get(f"/api/jobs/{job}").json()["document"]
    (spec,) = [s for s in document["sheets"] if s["id"] == sheet]
    for view in spec["views"]:
        running.client.get(f"/api/jobs/{job}/sheets/{sheet}/views/{view['id']}/picture")

    def ready() -> dict[str, Any] | None:
        found = writing(running, job, sheet)
        return None if found["pending"] else found

    found: dict[str, Any] = wait_for(ready)
    return found


def sheet_of(answer: Any, sheet: str) -> dict[str, Any]:
    (found,) = [s for s in answer["document"]["sheets"] if s["id"] == sheet]
    return dict(found)


def test_what_is_written_on_a_sheet(running: Running, desk: tuple[int, str, str, str]) -> None:
    job, _, sheet, view = desk
    found = writing(running, job, sheet)
    assert found["frame_box"] == [20, 10, 410, 287]
    cells = {cell["key"]: cell for cell in found["cells"]}
    assert cells["scale"]["value"] == "1:1"
    assert not cells["scale"]["typed"]
    assert cells["owner"]["typed"]
    # centre marks of three holes: the large one chain-dotted, the small ones drawn through
    strokes = {p["edge_class"]: p["strokes"] for p in found["views"][view]["marks"]["paths"]}
    assert strokes == {"centre line": 4, "dimension": 2}
    assert any(t["code"] == "title-empty" for t in found["notices"])


def test_pulling_aligning_and_spreading(running: Running, desk: tuple[int, str, str, str]) -> None:
    job, _, sheet, view = desk
    address = f"/api/jobs/{job}/sheets/{sheet}/views/{view}"
    place = sheet_of(running.client.get(f"/api/jobs/{job}").json(), sheet)["views"][0]["place"]
    for dx, dy in ((110, 2), (-3, -70)):
        answer = running.client.post(f"{address}/pull", json={"place": [place[0] + dx, place[1] + dy]})
        assert answer.status_code == 201, answer.text
    refused = running.client.post(f"{address}/pull", json={"place": place})
    assert (refused.status_code, "Pull the view away" in refused.json()["detail"]) == (422, True)
    found = drawn(running, job, sheet)
    ids = list(found["views"])
    answer = running.client.post(f"/api/jobs/{job}/sheets/{sheet}/align", json={"views": ids[:1], "how": "left"})
    assert "at least two" in answer.json()["detail"]
    # free views line up by what is drawn of them
    for own in ids[1:]:
        change = {"kind": "change_view", "sheet": sheet, "view": own, "fields": {"overrides": ["place"]}}
        assert running.client.post(f"/api/jobs/{job}/edits", json=change).status_code == 200
    assert running.client.post(f"/api/jobs/{job}/sheets/{sheet}/align", json={"views": ids, "how": "bottom"}).status_code == 200
    boxes = [v["box"] for v in drawn(running, job, sheet)["views"].values()]
    assert {round(box[1], 6) for box in boxes} == {round(min(box[1] for box in boxes), 6)}
    running.client.post(f"/api/jobs/{job}/sheets/{sheet}/align", json={"views": ids, "how": "spread across"})
    boxes = sorted(v["box"] for v in drawn(running, job, sheet)["views"].values())
    gaps = [b[0] - a[2] for a, b in itertools.pairwise(boxes)]
    assert gaps[0] == pytest.approx(gaps[1], abs=1e-4)


def test_a_section_and_a_detail(running: Running, desk: tuple[int, str, str, str]) -> None:
    job, _, sheet, view = desk
    address = f"/api/jobs/{job}/sheets/{sheet}/views/{view}"
    box = writing(running, job, sheet)["views"][view]["box"]
    x = box[0] + 30  # through the large hole
    answer = running.client.post(f"{address}/section", json={"start": [x, box[1] - 5], "end": [x, box[3] + 5]})
    assert answer.status_code == 201, answer.text
    made = answer.json()["view"]
    found = drawn(running, job, sheet)
    hatching = [p for p in found["views"][made]["marks"]["paths"] if p["edge_class"] == "hatching"]
    assert hatching
    assert [t["text"] for t in found["views"][made]["marks"]["texts"]] == ["A–A"]
    assert sorted(t["text"] for t in found["views"][view]["marks"]["texts"]) == ["A", "A"]
    answer = running.client.post(f"{address}/detail", json={"centre": [x, (box[1] + box[3]) / 2], "radius": 20})
    assert answer.status_code == 201, answer.text
    detail = answer.json()["view"]
    found = drawn(running, job, sheet)
    own = sheet_of(answer.json()["job"], sheet)["views"][-1]
    assert (own["scale"], own["content"]["circle"]["letter"], own["content"]["circle"]["radius"]) == ("2:1", "B", 20)
    x0, y0, x1, y1 = found["views"][detail]["box"]
    assert (x1 - x0, y1 - y0) == pytest.approx((80, 80))


def test_edges_are_picked_and_dimensioned(running: Running, desk: tuple[int, str, str, str]) -> None:
    job, _, sheet, view = desk
    address = f"/api/jobs/{job}/sheets/{sheet}/views/{view}"
    edges = running.client.get(f"{address}/edges").json()
    circles = {round(2 * e["at"][2], 3): e for e in edges if e["shape"] == "circle"}
    assert set(circles) == {30, 12, 6.5}
    assert sum(e["shape"] == "line" for e in edges) == 4
    large, small = circles[30], circles[6.5]
    made = {"first": large["ref"], "second": small["ref"], "at": [large["at"][0], large["at"][1] + 60]}
    assert running.client.post(f"{address}/dimensions", json=made).status_code == 201
    (dimension,) = writing(running, job, sheet)["views"][view]["dimensions"]
    assert (dimension["text"], dimension["value"]) == ("70", pytest.approx(70))
    shift = running.client.post(f"{address}/dimensions/{dimension['id']}/shift", json={"place": [0, 5]})
    assert shift.status_code == 200
    (moved,) = writing(running, job, sheet)["views"][view]["dimensions"]
    assert moved["corners"][0][1] - dimension["corners"][0][1] == pytest.approx(5, abs=1e-3)
    assert running.client.post(f"{address}/dimensions/none/shift", json={"place": [0, 5]}).status_code == 422
    running.client.post(f"{address}/overall")
    assert running.client.post(f"{address}/overall").status_code == 201
    assert len(writing(running, job, sheet)["views"][view]["dimensions"]) == 3


def test_scales_are_offered_with_what_they_give(running: Running, desk: tuple[int, str, str, str]) -> None:
    job, _, sheet, view = desk
    found = running.client.get(f"/api/jobs/{job}/sheets/{sheet}/views/{view}/scales").json()
    assert (found["width"], found["height"], found["preferred"]) == (pytest.approx(120), pytest.approx(80), "2:1")
    paper, model = map(int, found["largest"].split(":"))
    assert 2 < paper / model < 3


def test_what_a_pull_would_give_is_what_it_gives(running: Running, desk: tuple[int, str, str, str]) -> None:
    job, _, sheet, view = desk
    address = f"/api/jobs/{job}/sheets/{sheet}/views/{view}"
    pulls = running.client.get(f"{address}/pulls").json()
    assert [p["straight"] for p in pulls] == [True, False] * 4
    parent = sheet_of(running.client.get(f"/api/jobs/{job}").json(), sheet)["views"][0]
    for pull in pulls:
        place = [parent["place"][n] + 90 * pull["toward"][n] for n in (0, 1)]
        made = running.client.post(f"{address}/pull", json={"place": place}).json()
        new = sheet_of(made["job"], sheet)["views"][-1]
        assert new["name"] == pull["name"]
        if not pull["straight"]:
            continue
        x0, y0, x1, y1 = drawn(running, job, sheet)["views"][new["id"]]["box"]
        found = [v - new["place"][n % 2] for n, v in enumerate((x0, y0, x1, y1))]
        # a straight view of a plate fills the model's box
        assert found == pytest.approx(pull["box"], abs=1e-6)


def test_a_sheet_is_cut_to_its_contents(running: Running, desk: tuple[int, str, str, str]) -> None:
    job, _, sheet, view = desk
    address = f"/api/jobs/{job}/sheets/{sheet}"

    def fit(margin: float) -> dict[str, Any]:
        answer = running.client.post(f"{address}/fit", json={"margin": margin})
        assert answer.status_code == 200, answer.text
        return sheet_of(answer.json(), sheet)

    # a framed sheet keeps its title block, 180 × 45, below the view
    framed = fit(10)
    assert framed["format"] == "210x165mm"
    inside = writing(running, job, sheet)
    assert inside["frame_box"] == [20, 10, 200, 155]
    assert inside["views"][view]["box"] == pytest.approx([50, 65, 170, 145])
    # nothing but the part: the paper is the part's own size, and once more changes nothing
    edit = {"kind": "change_sheet", "sheet": sheet, "fields": {"clean": True}}
    assert running.client.post(f"/api/jobs/{job}/edits", json=edit).status_code == 200
    for _ in range(2):
        bare = fit(0)
        assert (bare["format"], bare["orientation"]) == ("120x80mm", "landscape")
        assert writing(running, job, sheet)["views"][view]["box"] == pytest.approx([0, 0, 120, 80], abs=1e-6)
    # a note that stays on for the cutter is part of the contents and moves with them
    note = {"id": "n1", "text": "M6", "place": [10, -5], "height": 5, "always": True}
    edit = {"kind": "add_note", "sheet": sheet, "note": note}
    assert running.client.post(f"/api/jobs/{job}/edits", json=edit).status_code == 200
    noted = fit(2)
    assert noted["format"] == "124x94mm"
    assert noted["notes"][0]["place"] == pytest.approx([12, 7])
    assert running.client.post(f"{address}/fit", json={"margin": -1}).status_code == 422


def test_an_empty_sheet_is_not_cut(running: Running) -> None:
    job = new_job(running)
    edit = {"kind": "add_sheet", "sheet": {"id": "s1", "name": "Sheet 1"}}
    running.client.post(f"/api/jobs/{job}/edits", json=edit)
    answer = running.client.post(f"/api/jobs/{job}/sheets/s1/fit", json={"margin": 5})
    assert answer.status_code == 422
    assert "empty" in answer.json()["detail"]


def test_a_shaded_view_in_colours_of_ones_own(running: Running, desk: tuple[int, str, str, str]) -> None:
    job, _, sheet, view = desk
    edit = {"kind": "change_view", "sheet": sheet, "view": view, "fields": {"shaded": True, "shade_dpi": 72}}
    assert running.client.post(f"/api/jobs/{job}/edits", json=edit).status_code == 200
    colour = {"kind": "set_colour", "component": "plate", "colour": "#cc2211"}
    assert running.client.post(f"/api/jobs/{job}/edits", json=colour).status_code == 200
    address = f"/api/jobs/{job}/sheets/{sheet}/views/{view}/shade"

    def ready() -> dict[str, Any] | None:
        found = running.client.get(address).json()
        return found if found["url"] else None

    found = wait_for(ready)
    assert found["box"][:2] == pytest.approx([-60, -40])
    image = Image.open(io.BytesIO(running.client.get(found["url"]).content)).convert("RGBA")
    # 120 mm at 72 dots an inch
    assert image.width == pytest.approx(120 / 25.4 * 72, abs=2)
    red, green, blue, cover = image.getpixel((image.width - 20, 20))
    assert cover == 255
    assert red > 3 * max(green, blue)
    # the hole shows the paper
    assert image.getpixel((image.width // 4, image.height // 2))[3] == 0


def test_a_job_is_saved_and_opened_with_its_sources(running: Running, desk: tuple[int, str, str, str]) -> None:
    job, source, sheet, _ = desk
    saved = running.client.get(f"/api/jobs/{job}/file.zip")
    assert saved.headers["content-type"] == "application/zip"
    answer = running.client.post("/api/jobs/open", content=saved.content)
    assert answer.status_code == 201, answer.text
    opened = answer.json()
    assert opened["id"] != job
    # what is in no order may come in another
    documents = opened["document"], running.client.get(f"/api/jobs/{job}").json()["document"]
    first, second = (JobDocument.model_validate(document) for document in documents)
    assert first == second
    assert drawn(running, opened["id"], sheet)["cells"]
    refused = running.client.post("/api/jobs/open", content=b"no archive")
    assert (refused.status_code, "not a saved job" in refused.json()["detail"]) == (422, True)
    items = running.client.get(f"/api/jobs/{job}/sources/{source}/items").json()
    assert [(i["name"], len(i["components"])) for i in items] == [("plate", 1)]


def test_formats_are_kept_under_a_name(running: Running) -> None:
    assert running.client.put("/api/formats/own", json={"name": "Shelf label", "size": "90x60"}).status_code == 204
    assert running.client.get("/api/formats/own").json()["Shelf label"] == "90x60mm"
    assert running.client.post("/api/read/format", json={"text": "shelf LABEL"}).json()["name"] == "90x60mm"
    assert running.client.put("/api/formats/own", json={"name": "A3", "size": "90x60"}).status_code == 422
    running.client.delete("/api/formats/own", params={"name": "Shelf label"})
    assert "Shelf label" not in running.client.get("/api/formats/own").json()


def test_lettering_is_served(running: Running) -> None:
    assert running.client.get("/api/fonts/0").content[:4] in (b"\x00\x01\x00\x00", b"true")
    assert running.client.get("/api/fonts/9").status_code == 404


def test_a_job_says_what_follows_from_its_sheets(running: Running, desk: tuple[int, str, str, str]) -> None:
    job, _, sheet, view = desk
    address = f"/api/jobs/{job}"

    def after(edit: dict[str, Any]) -> dict[str, Any]:
        answer = running.client.post(f"{address}/edits", json={"sheet": sheet} | edit)
        assert answer.status_code == 200, answer.text
        said: dict[str, Any] = answer.json()["sheets"][sheet]
        return said

    def moved(**fields: object) -> str:
        return str(after({"kind": "change_view", "view": view, "fields": fields})["views"][view]["lines"])

    said = after({"kind": "change_sheet", "fields": {"format": "600x400mm", "orientation": "landscape", "frame": "iso"}})
    assert said["paper"] == [600, 400]
    assert said["frame"] == [20, 10, 590, 390]
    key = said["views"][view]["lines"]
    assert said["views"][view]["title"] == f"{said['views'][view]['label']} view"
    assert moved(place=[100, 100]) == key
    assert moved(look=[1, 1, -1], up=[0, 0, 1]) != key
    assert after({"kind": "change_sheet", "fields": {"clean": True}})["frame"] is None
