"""What a drafter and a reviewer do in 3D: views set by looking, a file reviewed, the model handed on without it."""

from __future__ import annotations

import csv
import io
import math
import re
from collections.abc import Sequence
from pathlib import Path

import numpy as np
import pytest
from playwright.sync_api import Browser, Locator, Page, expect

from skalto.core.checks.report import check_pdf
from skalto.core.checks.solids import FoundView, fields_of_pdf
from skalto.core.output.u3d.reader import read_u3d
from skalto.core.recipes import PLAIN
from skalto.core.scene.views import in_picture
from skalto.demo import parts as p
from tests.api.test_api import bring_in, new_job
from tests.api.test_issues import sheet_of
from tests.conftest import Running
from tests.web.hand import still
from tests.web.test_path import SLOW, download, write_into

pytestmark = pytest.mark.long


def canvas(page: Page) -> Locator:
    return page.locator(".review-canvas[data-drawn] canvas")


def drag(page: Page, on: Locator, dx: float, dy: float) -> None:
    box = still(on)
    x, y = box["x"] + box["width"] * 0.5, box["y"] + box["height"] * 0.6
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + dx / 2, y + dy / 2, steps=3)
    page.mouse.move(x + dx, y + dy, steps=3)
    page.mouse.up()


def pixel(on: Locator, view: FoundView, point: Sequence[float], meant: float | None = None) -> tuple[float, float]:
    """Where a point of the model is seen on the screen in a prepared view, by the core's own rule.

    :param meant: how much wider than high the view is meant to be seen, where it is whole in a picture of another shape.
    """
    box = still(on)
    aspect = box["width"] / box["height"]
    by = max(max(meant, 1) / max(aspect, 1), max(1 / meant, 1) / max(1 / aspect, 1)) if meant else 1.0
    camera = view.camera.model_copy(update={"span": view.camera.span * by})
    x, y, _ = in_picture(camera, np.array([point], float), aspect)[0].tolist()
    return box["x"] + (x + 1) / 2 * box["width"], box["y"] + (1 - y) / 2 * box["height"]


def panel(page: Page, name: str) -> None:
    page.get_by_label("What to do with the model").get_by_text(name, exact=True).click()


def only_the_cheek(page: Page) -> None:
    """The left cheek alone, seen square from the left."""
    panel(page, "Views")
    page.get_by_label("Prepared views").get_by_role("button", name=re.compile("^Left")).click()
    panel(page, "Parts")
    page.get_by_label("Find a part").fill("cheek, l")
    page.get_by_role("button", name="Cheek, left", exact=True).click()
    page.get_by_role("button", name="Only this").click()


def measure_the_cheek(page: Page, left: FoundView, x: float, meant: float | None = None) -> None:
    """The bore's diameter and the distance of its centre to a tie rod's, in the viewer, within what it says."""
    only_the_cheek(page)
    panel(page, "Measure")
    on = canvas(page)
    readings = page.get_by_label("Readings in 3D")

    def at(y: float, z: float) -> tuple[float, float]:
        return pixel(on, left, (x, y, z), meant)

    rim, small = p.BORE / 2, 6.1
    edge = (rim * math.cos(math.radians(30)), p.LOWER_AXIS + rim * math.sin(math.radians(30)))
    page.get_by_role("button", name="Diameter", exact=True).click()
    page.mouse.click(*at(edge[0] + 0.6, edge[1] + 0.4))
    expect(readings).to_contain_text(f"⌀{p.BORE:.3f} mm")
    page.get_by_role("button", name="Point to point").click()
    for (y, z), reach in (((0.0, p.LOWER_AXIS), rim), (p.TIE_RODS[0], small)):
        # past the rim, so that its centre can be taken hold of in the middle of the hole
        page.mouse.move(*at(y + reach * 0.71 + 1.5, z + reach * 0.71 + 1.5))
        page.mouse.move(*at(y, z))
        page.mouse.click(*at(y, z))
    away = math.dist((0.0, p.LOWER_AXIS), p.TIE_RODS[0])
    expect(readings).to_contain_text("centre to centre")
    expect(readings).to_contain_text(f"{away:.3f} mm")
    dy, dz = p.TIE_RODS[0][0], p.TIE_RODS[0][1] - p.LOWER_AXIS
    expect(readings).to_contain_text(f"Δx 0.000 mm  Δy {dy:.3f} mm  Δz {dz:.3f} mm")
    expect(page.locator(".tolerance")).to_contain_text("within 0.2 mm of the part")
    expect(page.locator(".review-marks .length")).to_have_count(2)


@pytest.fixture(scope="module")
def sent(
    running: Running, browser: Browser, press_step: Path, tmp_path_factory: pytest.TempPathFactory
) -> tuple[int, str, Path]:
    """A job with a sheet of a view and a 3D annotation, whose first view was set by looking; its PDF."""
    job = new_job(running)
    source = bring_in(running, job, press_step)
    sheet = sheet_of(running.client, job, "Review", "A3", source, "left")
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=running.address)
    page = context.new_page()
    page.goto(f"/jobs/{job}/source")
    expect(page.locator(".scene canvas")).to_be_visible(timeout=SLOW)
    page.get_by_label("Which sheet").click()
    page.locator(".ant-select-item-option").get_by_text("Review").click()
    page.get_by_role("button", name="Add as 3D").click()
    expect(page.locator(".field-layer img")).to_be_visible(timeout=SLOW)
    expect(page.get_by_label("What it takes")).to_contain_text("60 parts")
    write_into(page, "Field width", "160")
    write_into(page, "Field height", "120")
    # dragged to within half a millimetre of the frame's right side, it comes to lie at it
    write_into(page, "Position, x", "240")
    layer = page.locator(".field-layer")
    box = still(layer)
    x, y, zoom = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2, box["width"] / 160
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 5 * zoom, y, steps=4)
    page.mouse.move(x + 9.6 * zoom, y, steps=4)
    page.mouse.up()
    expect(page.get_by_label("Position, x", exact=True)).to_have_value("250")
    write_into(page, "Position, y", "130")
    # the crank, with all that is in it, is seen through in every view
    page.get_by_label("Opacity").fill("crank")
    page.locator(".ant-select-item-option").get_by_text("Crank", exact=True).click()
    expect(page.get_by_label("Opacity of Crank")).to_have_value("40")
    write_into(page, "Opacity of Crank", "55")
    expect(page.get_by_text("All changes saved")).to_be_visible()

    # a view is set by turning the model, fading a cheek and cutting through
    page.get_by_role("button", name="Edit prepared views").click()
    expect(canvas(page)).to_be_visible(timeout=SLOW)
    drag(page, canvas(page), -90, 40)
    panel(page, "Parts")
    page.get_by_label("Find a part").fill("cheek, l")
    page.get_by_role("button", name="Cheek, left", exact=True).click()
    page.get_by_role("button", name="See-through").click()
    panel(page, "Cut")
    page.get_by_role("switch", name="Cut across y").click()
    write_into(page, "Cut at y", "12.5")
    page.get_by_label("Flip side").check()
    panel(page, "Look")
    page.get_by_label("Roll", exact=True).fill("10")
    page.get_by_label("Roll", exact=True).press("Enter")
    seen = [float(page.get_by_label(f"Camera {axis}", exact=True).input_value()) for axis in "xyz"]
    panel(page, "Views")
    page.get_by_role("button", name="Update Overview").click()
    expect(page.get_by_text("All changes saved")).to_be_visible()
    expect(page.get_by_label("Prepared views").get_by_role("button", name=re.compile("^Overview"))).to_contain_text(
        "cut, faded, set"
    )
    # what the hand turned to is not lost without a word: asked when another view is chosen, and when one goes back
    first = running.client.get(f"/api/jobs/{job}").json()["document"]["sheets"][0]["annotations_3d"][0]["views"][0]
    drag(page, canvas(page), 60, 20)
    page.get_by_label("Prepared views").get_by_role("button", name=re.compile("^Left")).click()
    page.get_by_role("dialog").get_by_role("button", name="Leave it as it was").click()
    expect(page.get_by_label("Prepared views").get_by_role("button", name=re.compile("^Left"))).to_have_attribute(
        "aria-pressed", "true"
    )
    # a quarter turn leaves the panel where it is
    panel(page, "Look")
    page.get_by_role("button", name="Quarter turn about z", exact=True).click()
    expect(page.get_by_text("All changes saved")).to_be_visible()
    expect(page.get_by_role("button", name="Quarter turn back about z", exact=True)).to_be_visible(timeout=SLOW)
    page.get_by_role("button", name="Quarter turn back about z", exact=True).click()
    expect(page.get_by_text("All changes saved")).to_be_visible()
    expect(canvas(page)).to_be_visible(timeout=SLOW)
    panel(page, "Views")
    # what the hand turned to since belongs to no view: that is asked about, too
    drag(page, canvas(page), 40, 10)
    page.get_by_label("Prepared views").get_by_role("button", name=re.compile("^Left")).click()
    asked_for = page.get_by_role("dialog")
    expect(asked_for).to_contain_text("kept in no view")
    asked_for.get_by_role("button", name="Leave it", exact=True).click()
    page.get_by_label("Prepared views").get_by_role("button", name=re.compile("^Overview")).click()
    expect(asked_for).to_have_count(0)
    drag(page, canvas(page), 30, 10)
    page.get_by_role("banner").get_by_role("button", name="Back to the sheet").click()
    page.get_by_role("dialog").get_by_role("button", name="Leave it as it was").click()
    now = running.client.get(f"/api/jobs/{job}").json()["document"]["sheets"][0]["annotations_3d"][0]["views"][0]
    assert now["camera"]["position"] == pytest.approx(first["camera"]["position"], abs=1e-6)
    page.get_by_role("button", name="Proof this sheet").click()
    expect(page.get_by_role("heading", name="Measured in the file")).to_be_visible(timeout=SLOW)
    path = tmp_path_factory.mktemp("sent") / "Review.pdf"
    path.write_bytes(download(page))
    (path.parent / "seen.txt").write_text(" ".join(map(str, seen)))
    context.close()
    return job, sheet, path


def test_a_view_set_by_looking_is_in_the_file(sent: tuple[int, str, Path]) -> None:
    _, _, path = sent
    data = path.read_bytes()
    (solid,) = fields_of_pdf(data)
    assert solid.box == pytest.approx((250.5, 130.5, 409.5, 249.5), abs=1e-3)
    view = solid.views[0]
    assert view.name == "Overview"
    seen = [float(v) for v in (path.parent / "seen.txt").read_text().split()]
    assert view.camera.position == pytest.approx(seen, abs=0.006)
    assert view.camera.roll() == pytest.approx(10, abs=0.01)
    assert np.linalg.norm(np.subtract(view.camera.position, solid.views[7].camera.position)) > 50
    assert view.states == {"Cheek, left": 0.3}
    assert len(view.cuts) == 1
    assert view.cuts[0].turns == (180, None, 0)
    assert view.cuts[0].centre[1] == 12.5
    assert view.cuts[0].filled
    nodes = {node.name: node for node in read_u3d(solid.u3d).nodes}
    assert {"Cheek, left", "Cheek, right", "Upper roller"} <= set(nodes)
    covers = {name: {round(m.opacity, 2) for m in node.materials} for name, node in nodes.items() if node.meshes}
    in_crank = {name for name, node in nodes.items() if node.parent == "Crank" and node.meshes}
    assert len(in_crank) >= 3
    assert {name for name, own in covers.items() if own == {0.55}} == in_crank
    assert {value for name, own in covers.items() if name not in in_crank for value in own} == {1}
    report = check_pdf(data, PLAIN)
    assert report.holds, report.findings
    solids = [check for check in report.checks if check.code.startswith("solid")]
    assert {check.verdict for check in solids} == {"holds"}
    # the views on paper are still at their scale
    assert any(check.code == "length" and check.verdict == "holds" for check in report.checks)


def test_the_file_is_reviewed_and_measured(sent: tuple[int, str, Path], page: Page) -> None:
    job, sheet, path = sent
    (solid,) = fields_of_pdf(path.read_bytes())
    scene = read_u3d(solid.u3d)
    low, high = scene.boxes()["Cheek, left"]
    x = float(low[0])
    assert high[0] - low[0] == pytest.approx(p.CHEEK_THICKNESS, abs=1e-4)
    left = next(view for view in solid.views if view.name == "Left")
    page.goto(f"/jobs/{job}/proof/{sheet}")
    page.get_by_role("tab", name="3D").click(timeout=SLOW)
    expect(canvas(page)).to_be_visible(timeout=SLOW)
    measure_the_cheek(page, left, x)
    with page.expect_download() as waiting:
        page.get_by_role("button", name="Save as CSV").click()
    table = list(csv.DictReader(io.StringIO(Path(waiting.value.path()).read_text())))
    assert [row["measure"] for row in table] == ["diameter", "points"]
    # the readings against the shape that was drawn
    assert float(table[0]["value"]) == pytest.approx(p.BORE, abs=1e-3)
    assert float(table[1]["dz"]) == pytest.approx(p.TIE_RODS[0][1] - p.LOWER_AXIS, abs=1e-3)
    page.get_by_label("Unit").get_by_text("thou").click()
    expect(page.get_by_label("Readings in 3D")).to_contain_text(f"⌀{p.BORE / 25.4 * 1000:.1f} thou")
    page.get_by_label("Unit").get_by_text("inch").click()
    expect(page.get_by_label("Readings in 3D")).to_contain_text(f"⌀{p.BORE / 25.4:.4f} in")

    # what is clicked on the sheet's view is chosen in 3D, and marked; and the other way round
    page.get_by_role("button", name="In its place on the sheet").click()
    panel(page, "Views")
    page.get_by_label("Prepared views").get_by_role("button", name=re.compile("^Front")).click()
    panel(page, "Parts")
    page.get_by_label("Find a part").fill("")
    marks = page.locator(".on-views")
    page.get_by_role("button", name="Crank wheel", exact=True).click()
    expect(marks).to_have_attribute("aria-label", "Crank wheel marked on 1 view")
    points = marks.locator("polygon").get_attribute("points") or ""
    outline = np.array([pair.split(",") for pair in points.split()], float)
    sheet_box = still(marks)
    # the wheel in the view from the left, at the scale of that view
    spec = next(s for s in running_job(page, job)["document"]["sheets"] if s["id"] == sheet)
    paper, model = map(int, spec["views"][0]["scale"].split(":"))
    wheel = scene.boxes()["Crank wheel"]
    wide = (wheel[1][1] - wheel[0][1]) * paper / model * sheet_box["width"] / 420
    assert np.ptp(outline[:, 0]) == pytest.approx(wide, abs=0.5)
    page.mouse.click(sheet_box["x"] + outline[:, 0].mean(), sheet_box["y"] + outline[:, 1].min() - 4)
    expect(marks).not_to_have_attribute("aria-label", "Crank wheel marked on 1 view")


def running_job(page: Page, job: int) -> dict[str, object]:
    found: dict[str, object] = page.request.get(f"/api/jobs/{job}").json()
    return found


def test_the_model_goes_on_without_the_pdf(sent: tuple[int, str, Path], page: Page, browser: Browser, tmp_path: Path) -> None:
    job, sheet, path = sent
    (solid,) = fields_of_pdf(path.read_bytes())
    left = next(view for view in solid.views if view.name == "Left")
    x = float(read_u3d(solid.u3d).boxes()["Cheek, left"][0][0])
    page.goto(f"/jobs/{job}/proof/{sheet}")
    expect(page.get_by_role("tab", name="3D")).to_be_visible(timeout=SLOW)
    page.keyboard.press("t")
    files = {}
    for word in ("U3D", "HTML"):
        with page.expect_download(timeout=SLOW) as waiting:
            page.get_by_role("button", name=word, exact=True).click()
        files[word] = tmp_path / waiting.value.suggested_filename
        waiting.value.save_as(files[word])
    assert files["U3D"].read_bytes() == solid.u3d
    assert files["HTML"].suffix == ".html"

    # from disk, with the network off
    context = browser.new_context(viewport={"width": 1280, "height": 800}, offline=True)
    alone = context.new_page()
    wrong: list[str] = []
    alone.on("pageerror", lambda error: wrong.append(str(error)))
    alone.on("console", lambda message: wrong.append(message.text) if message.type == "error" else None)
    alone.on(
        "request", lambda request: None if request.url.startswith(("file:", "data:", "blob:")) else wrong.append(request.url)
    )
    alone.goto(files["HTML"].as_uri())
    expect(canvas(alone)).to_be_visible(timeout=SLOW)
    expect(alone.get_by_label("Prepared views").get_by_role("button", name=re.compile("^Overview"))).to_be_visible()
    panel(alone, "Cut")
    expect(alone.get_by_label("Cut at y")).to_have_value("12.5")
    before = canvas(alone).screenshot()
    measure_the_cheek(alone, left, x, solid.shown[0] / solid.shown[1])
    assert canvas(alone).screenshot() != before
    context.close()
    assert wrong == []
