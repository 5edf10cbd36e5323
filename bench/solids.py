"""3D: triangles into U3D a second, size beside STL, a million triangles into a PDF, the review viewer in software WebGL."""

from __future__ import annotations

import subprocess
import sys
import tempfile
import time
from pathlib import Path

import numpy as np
import trimesh
from playwright.sync_api import sync_playwright

from bench.clock import best_of, told
from bench.desk import FLAGS
from bench.size import sized
from skalto.core.output.review import pack_review
from skalto.core.output.u3d.writer import write_u3d
from skalto.core.output.webpage import viewer_files, write_page
from skalto.core.scene.meshing import split, welded
from skalto.core.scene.scene import Material, Node, Scene, SolidMesh
from skalto.settings import Settings

A_SECOND, OF_STL = 300_000, 0.6
SECONDS, GIGABYTES = 15.0, 1.5
TRIANGLES, SHOWN = 200_000, 2.0
LEVEL = sized(6, 2)
"""How often the faces of an icosahedron are divided by four."""
GREY = Material("#9aa7ad")


def _part(level: int, radius: float) -> tuple[SolidMesh, bytes]:
    """A ball of 20·4^level triangles with the normals of a ball, and the same as binary STL."""
    ball = trimesh.creation.icosphere(level, radius)
    corners = np.arange(3 * len(ball.faces)).reshape(-1, 3)
    points = ball.vertices[ball.faces].reshape(-1, 3)
    mesh = welded(points, points / radius, corners, np.zeros(len(ball.faces), np.int64))
    return mesh, bytes(ball.export(file_type="stl"))


def _scene(parts: int, level: int, again: int = 1) -> tuple[Scene, int]:
    """Balls beside each other, *parts* different ones, each *again* times; and how many bytes they take as STL."""
    nodes, meshes, stl = list[Node](), list[SolidMesh](), 0
    for number in range(parts):
        mesh, data = _part(level, 10 + number)
        pieces = split(mesh)
        own = tuple(range(len(meshes), len(meshes) + len(pieces)))
        meshes += pieces
        stl += len(data)
        for copy in range(again):
            matrix = np.eye(4)
            matrix[:2, 3] = 100.0 * number, 100.0 * copy
            nodes.append(Node(f"Part {number}.{copy}", "", matrix, own, (GREY,)))
    return Scene(tuple(nodes), tuple(meshes)), stl


def _million() -> None:
    """In a process of its own: an assembly of a million triangles into a one-page PDF; prints seconds and peak memory."""
    import resource

    from skalto.core.layout.annotations_3d import annotation_for, bare_sheet
    from skalto.core.output.pdf.document import write_pdf
    from skalto.core.output.pdf.metadata import Metadata
    from skalto.core.pages.composition import compose
    from skalto.core.scene.solid import Solid, SolidFacts, draw_poster, solid_views

    write_u3d(_scene(1, 3)[0])
    scene, stl = _scene(13, sized(6, 2))  # 13 · 81 920
    begun = time.perf_counter()
    u3d = write_u3d(scene)
    written = time.perf_counter() - begun
    sheet = bare_sheet("s", "Million")
    field = annotation_for(sheet, "f", "0", "Million", whole=True)
    sheet = sheet.model_copy(update={"annotations_3d": (field,)})
    facts = SolidFacts(name="Million", chord=0, triangles=scene.triangles(), nodes=(), views=(), box=field.inner)
    solid = Solid(field, u3d, solid_views(field, scene), facts, draw_poster(field, scene))
    data = write_pdf([compose(sheet, {}, None, {"f": solid})], Metadata("Million"))
    seconds = time.perf_counter() - begun
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e6
    print(scene.triangles(), written, seconds, peak, len(data) / stl)


def _sizes() -> None:
    scene, stl = _scene(4, LEVEL)
    count = scene.distinct()
    stls = [trimesh.creation.icosphere(LEVEL, 10 + n) for n in range(4)]
    write_u3d(scene)
    ours, reference = best_of(3, lambda: write_u3d(scene), lambda: [ball.export(file_type="stl") for ball in stls])
    told(f"{count} triangles into U3D, beside STL", ours, reference, "300 k/s", count / ours >= A_SECOND)
    print(f"{'':<44} {count / ours:9.0f} triangles a second (limit {A_SECOND})")
    one = len(write_u3d(scene))
    small = "holds" if one <= OF_STL * stl else "DOES NOT HOLD"
    print(f"{'size beside binary STL':<44} {one / stl:9.2f}  limit {OF_STL}  {small}")
    hundred = len(write_u3d(_scene(4, LEVEL, again=25)[0]))
    grown = (hundred - one) / 96
    print(f"{'bytes that one more occurrence takes':<44} {grown:9.0f}  of a part of {one / 4:.0f}")


def _viewer() -> None:
    """A page of 200 000 triangles from disk: when the first picture is there, and how long one takes while it is turned."""
    scene, _ = _scene(10, sized(5, 2), again=1)
    scene = Scene(scene.nodes, scene.meshes, 0.1)
    count = scene.triangles()
    pack = pack_review(scene, "Bench", [], {"unit": "mm", "tolerance": 0.1, "first": 0, "groups": [], "size": 1})
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        page_file = Path(folder) / "bench.html"
        page_file.write_bytes(write_page("Bench", pack, *viewer_files(Settings().web / "viewer")))
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto("about:blank")
        begun = time.perf_counter()
        page.goto(page_file.as_uri(), wait_until="commit")
        page.wait_for_selector(".review-canvas[data-drawn]", timeout=60_000)
        first = time.perf_counter() - begun
        box = page.locator(".review-canvas canvas").bounding_box()
        assert box is not None
        page.mouse.move(box["x"] + 300, box["y"] + 300)
        page.mouse.down()
        drawn = int(page.locator(".review-canvas").get_attribute("data-drawn") or 0)
        begun = time.perf_counter()
        for step in range(40):
            page.mouse.move(box["x"] + 300 + step * 5, box["y"] + 300)
        page.mouse.up()
        page.wait_for_timeout(200)
        frames = int(page.locator(".review-canvas").get_attribute("data-drawn") or 0) - drawn
        seconds = time.perf_counter() - begun
        browser.close()
    holds = "holds" if first <= SHOWN else "DOES NOT HOLD"
    print(f"{f'{count} triangles: first picture in the viewer':<44} {first:9.2f} s  limit {SHOWN} s  {holds}")
    print(f"{'pictures a second while it is turned':<44} {frames / seconds:9.1f}")


def run() -> None:
    _sizes()
    done = subprocess.run(
        [sys.executable, "-c", "from bench.solids import _million; _million()"], capture_output=True, text=True
    )
    assert done.returncode == 0, done.stderr
    count, written, seconds, peak, ratio = map(float, done.stdout.split())
    good = "holds" if seconds <= SECONDS and peak <= GIGABYTES else "DOES NOT HOLD"
    print(
        f"{f'{count:.0f} triangles into a PDF with poster':<44} {seconds:9.1f} s  of it U3D {written:.1f} s, peak {peak:.2f} GB"
    )
    print(f"{'':<44} limits {SECONDS:g} s, {GIGABYTES} GB  {good}; the PDF is {ratio:.2f} of the STL")
    _viewer()
