"""What a reviewer finds in 3D is kept: the model turned by a face, cameras, sections, readings and marks, over a reload and
into the file."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from playwright.sync_api import Locator, Page, expect

from skalto.core.checks.report import check_pdf
from skalto.core.checks.solids import fields_of_pdf
from skalto.core.output.u3d.reader import read_u3d
from skalto.core.recipes import PLAIN
from skalto.core.scene.poster import corners_of
from skalto.core.scene.views import fitted, in_picture
from skalto.core.sources.reading import read_model
from skalto.demo import parts as p
from tests.api.test_api import bring_in, new_job
from tests.api.test_issues import sheet_of
from tests.conftest import Running
from tests.web.hand import still
from tests.web.test_path import SLOW, download
from tests.web.test_solids import canvas, drag, panel

pytestmark = pytest.mark.long


def annotation(running: Running, job: int, sheet: str) -> dict[str, Any]:
    document = running.client.get(f"/api/jobs/{job}").json()["document"]
    found: dict[str, Any] = next(own for own in document["sheets"] if own["id"] == sheet)["annotations_3d"][0]
    return found


def open_studio(page: Page, job: int, sheet: str, field: str) -> Locator:
    page.goto(f"/jobs/{job}/sheets/{sheet}?field={field}&look=")
    expect(canvas(page)).to_be_visible(timeout=SLOW)
    return canvas(page)


def saved(page: Page) -> None:
    page.wait_for_timeout(150)  # a change begins a moment after the hand is lifted
    expect(page.get_by_text("All changes saved")).to_be_visible()


@pytest.fixture
def at_hand(running: Running, press_step: Path) -> tuple[int, str, str]:
    """A job with a sheet of a view and a 3D annotation: job, sheet, annotation."""
    job = new_job(running)
    source = bring_in(running, job, press_step)
    sheet = sheet_of(running.client, job, "Review", "A3", source, "left")
    answer = running.client.post(f"/api/jobs/{job}/fields", json={"source": source, "sheet": sheet})
    assert answer.status_code == 200, answer.text
    return job, sheet, answer.json()["field"]


def test_a_review_keeps_what_was_found(at_hand: tuple[int, str, str], running: Running, press_step: Path, page: Page) -> None:
    job, sheet, field = at_hand
    # the area is dragged larger at its corner
    page.goto(f"/jobs/{job}/sheets/{sheet}?field={field}")
    layer = page.locator(".field-layer")
    expect(layer.locator("img")).to_be_visible(timeout=SLOW)
    was = annotation(running, job, sheet)["size"]
    corner = layer.get_by_label("Pull the field larger").first
    box = still(corner)
    page.mouse.move(box["x"] + 4, box["y"] + 4)
    page.mouse.down()
    page.mouse.move(box["x"] - 30, box["y"] + 30, steps=5)
    page.mouse.up()
    saved(page)
    size = annotation(running, job, sheet)["size"]
    assert size[0] > was[0] + 5

    # a face is turned toward whoever looks: the cheek's outer side becomes the front
    on = open_studio(page, job, sheet, field)
    page.get_by_label("Prepared views").get_by_role("button", name=re.compile("^Left")).click()
    panel(page, "Look")
    page.get_by_role("button", name="Turn a face toward me").click()
    expect(page.locator(".review-hint")).to_contain_text("Click the face")
    place = still(on)
    # by the core's own rule, of all that is shown: a place on the cheek with nothing before it
    scene = shown(running, job, sheet, field)
    camera = fitted((1, 0, 0), (0, 0, 1), corners_of(list(scene.values())), place["width"] / place["height"], False)
    low, high = scene["Cheek, left"]
    point = np.array([(low[0], high[1] - 25, (low[2] + high[2]) / 2 - 60)])
    x, y, _ = in_picture(camera, point, place["width"] / place["height"])[0].tolist()
    before = canvas(page).element_handle()
    page.mouse.click(place["x"] + (x + 1) / 2 * place["width"], place["y"] + (1 - y) / 2 * place["height"])
    saved(page)
    page.wait_for_function("canvas => !canvas.isConnected", arg=before)
    expect(canvas(page)).to_be_visible(timeout=SLOW)
    quarter = [[0, -1, 0], [1, 0, 0], [0, 0, 1]]
    # the panel is where it was
    expect(page.get_by_role("button", name="Turn a face toward me")).to_be_visible()
    assert np.allclose(annotation(running, job, sheet)["choices"]["orientation"], quarter)
    # undone and done again, as everything is
    page.get_by_role("button", name="Undo").click()
    saved(page)
    assert np.allclose(annotation(running, job, sheet)["choices"]["orientation"], np.eye(3))
    turned = canvas(page).element_handle()
    page.get_by_role("button", name="Redo").click()
    saved(page)
    assert np.allclose(annotation(running, job, sheet)["choices"]["orientation"], quarter)
    # the turned model comes in the place of the other
    page.wait_for_function("canvas => !canvas.isConnected", arg=turned)
    expect(canvas(page)).to_be_visible(timeout=SLOW)

    panel(page, "Measure")
    page.get_by_role("button", name="Volume", exact=True).click()
    # the front shows now what the left side showed
    place = still(canvas(page))
    page.mouse.click(place["x"] + (x + 1) / 2 * place["width"], place["y"] + (1 - y) / 2 * place["height"])
    readings = page.get_by_label("Readings in 3D")
    expect(readings).to_contain_text("mm³")
    page.get_by_role("button", name=re.compile("^Keep .* mm³")).click()
    saved(page)

    # the smallest distance of two parts
    page.get_by_role("button", name="Part to part").click()
    wheel = (scene["Crank wheel"][0] + scene["Crank wheel"][1]) / 2
    for at in (point[0], wheel):
        u, v, _ = in_picture(camera, at[None], place["width"] / place["height"])[0].tolist()
        page.mouse.click(place["x"] + (u + 1) / 2 * place["width"], place["y"] + (1 - v) / 2 * place["height"])
    expect(readings).to_contain_text("smallest")
    page.get_by_role("button", name=re.compile("^Keep .* mm$")).click()
    saved(page)

    # a plane cuts, its face toward the viewer, is dragged by its handle, and kept; so is a camera
    panel(page, "Cut")
    page.get_by_role("switch", name="Cut across y").click()
    offset = float(page.get_by_label("Cut at y").input_value())
    handle = page.locator(".plane-handles circle.move")
    grip = still(handle)
    page.mouse.move(grip["x"] + grip["width"] / 2, grip["y"] + grip["height"] / 2)
    page.mouse.down()
    page.mouse.move(grip["x"] + 30, grip["y"] - 40, steps=4)
    page.mouse.up()
    moved = float(page.get_by_label("Cut at y").input_value())
    assert abs(moved - offset) > 1
    page.get_by_role("button", name="Keep this section").click()
    saved(page)
    panel(page, "Kept")
    expect(page.get_by_label("Sections").locator(".row", has_text="Section 1")).to_be_visible()
    drag(page, canvas(page), 60, 20)
    page.get_by_role("button", name="Keep this camera").click()
    saved(page)
    kept = {own["name"]: own for own in annotation(running, job, sheet)["kept"]}
    assert set(kept) == {"Section 1", "Camera 1", "Volume 1", "Part to part 1"}
    assert kept["Section 1"]["cuts"][0]["offset"] == pytest.approx(moved)
    # the volume against the kernel's own
    assert kept["Volume 1"]["parts"] == ["Cheek, left"]
    exact = volume_of(running, job, sheet, field, "Cheek, left")
    assert kept["Volume 1"]["value"] == pytest.approx(exact, rel=0.002)

    gap = kept["Part to part 1"]
    assert gap["value"] == pytest.approx(
        kernel_gap(press_step, *(node_path(running, job, sheet, field, own) for own in gap["parts"])), abs=0.2
    )

    # over a reload all of it is there; a section and a camera become prepared views with one act each
    open_studio(page, job, sheet, field)
    panel(page, "Kept")
    for head, name in (("Cameras", "Camera 1"), ("Sections", "Section 1"), ("Readings", "Volume 1")):
        expect(page.get_by_label(head, exact=True).locator(".row", has_text=name)).to_be_visible()
    for name in ("Section 1", "Camera 1"):
        page.get_by_role("button", name=f"{name} as a prepared view").click()
        saved(page)
    page.get_by_role("button", name="Volume 1 as a note on the sheet").click()
    saved(page)
    page.get_by_role("banner").get_by_role("button", name="Back to the sheet").click()
    page.get_by_role("button", name="Proof this sheet").click()
    expect(page.get_by_role("heading", name="Measured in the file")).to_be_visible(timeout=SLOW)
    data = download(page)
    (solid,) = fields_of_pdf(data)
    views = {view.name: view for view in solid.views}
    assert views["Section 1"].cuts[0].centre[1] == pytest.approx(moved, abs=1e-3)
    assert np.allclose(views["Camera 1"].camera.position, kept["Camera 1"]["camera"]["position"], atol=1e-3)
    # the cheek's outer side is at the front of the file's model
    world = read_u3d(solid.u3d).boxes()["Cheek, left"]
    assert world[1][1] - world[0][1] == pytest.approx(p.CHEEK_THICKNESS, abs=1e-3)
    report = check_pdf(data, PLAIN)
    assert report.holds, report.findings
    assert b"mm\xc2\xb3" in text_of(data)

    # at the proof it is kept too, and the file stays as it is
    page.get_by_role("tab", name="3D").click()
    expect(canvas(page)).to_be_visible(timeout=SLOW)
    panel(page, "Kept")
    expect(page.get_by_label("Readings", exact=True)).to_contain_text("Volume 1")
    page.get_by_role("button", name="Keep this camera").click()
    expect(page.get_by_label("Cameras", exact=True)).to_contain_text("Camera 2")
    assert download(page) == data


def shown(running: Running, job: int, sheet: str, field: str) -> dict[str, tuple[np.ndarray, np.ndarray]]:
    """The boxes of the model's parts, from the block that the viewer has."""
    _, found = pack(running, job, sheet, field)
    return found


def volume_of(running: Running, job: int, sheet: str, field: str, part: str) -> float:
    """The kernel's volume of a component by its node's name, mm³."""
    head, _ = pack(running, job, sheet, field)
    path = next(node["path"] for node in head["nodes"] if node["name"] == part)
    source = annotation(running, job, sheet)["source"]
    tree = running.client.get(f"/api/sources/{source}/tree").json()
    rows = [*tree["components"]]
    while rows:
        row = rows.pop()
        if row["path"] == path:
            return float(tree["shapes"][row["shape"]]["volume"])
        rows += row.get("children", [])
    raise AssertionError(path)


def node_path(running: Running, job: int, sheet: str, field: str, part: str) -> str:
    head, _ = pack(running, job, sheet, field)
    return next(node["path"] for node in head["nodes"] if node["name"] == part)


def kernel_gap(step: Path, one: str, other: str) -> float:
    """The kernel's smallest distance of two components' own shapes, mm."""
    from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
    from OCP.BRepExtrema import BRepExtrema_DistShapeShape
    from OCP.gp import gp_Trsf

    model = read_model(step, "Ebba.step")
    by_path = {leaf.path: leaf for leaf in model.tree.leaves()}

    def shape(path: str) -> Any:
        leaf, turn = by_path[path], gp_Trsf()
        turn.SetValues(*leaf.matrix()[:3].ravel().tolist())
        assert leaf.shape is not None
        return BRepBuilderAPI_Transform(model.shapes[leaf.shape], turn, True).Shape()

    return float(BRepExtrema_DistShapeShape(shape(one), shape(other)).Value())


def pack(running: Running, job: int, sheet: str, field: str) -> tuple[dict[str, Any], dict[str, tuple[np.ndarray, np.ndarray]]]:
    """The viewer's block: its head, and the boxes of its nodes."""
    import json

    state = running.client.get(f"/api/jobs/{job}/sheets/{sheet}/fields/{field}/review").json()
    data = running.client.get(state["pack"]).content
    size = int.from_bytes(data[:4], "little")
    head = json.loads(data[4 : 4 + size])
    numbers = np.frombuffer(data[4 + size :], "<f4")
    worlds: dict[str, np.ndarray] = {"": np.eye(4)}
    boxes = {}
    for node in head["nodes"]:
        worlds[node["name"]] = worlds[node["parent"]] @ np.array(node["matrix"]).reshape(4, 4)
        for number in node["meshes"]:
            at, count = head["meshes"][number]["positions"]
            start = at // 4
            points = (
                numbers[start : start + count].reshape(-1, 3) @ worlds[node["name"]][:3, :3].T + worlds[node["name"]][:3, 3]
            )
            boxes[node["name"]] = points.min(axis=0), points.max(axis=0)
    return head, boxes


def text_of(data: bytes) -> bytes:
    from io import BytesIO

    from pdfminer.high_level import extract_text

    return extract_text(BytesIO(data)).encode()
