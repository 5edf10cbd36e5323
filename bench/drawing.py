"""A DXF drawing of 100 000 mixed entities to a PDF page, against ezdxf's own drawing add-on with its matplotlib back end; its
first picture in the browser, and a second export after a change of scale."""

from __future__ import annotations

import json
import random
import subprocess
import sys
import tempfile
import time
from pathlib import Path
from typing import Any
from unittest import mock

import ezdxf
import httpx
from playwright.sync_api import sync_playwright

from bench.desk import FLAGS
from bench.served import served, until
from bench.size import sized

ENTITIES = sized(100_000, 400)
TIMES_FASTER, TIMES_SMALLER = 8.0, 5.0
PEAK_MB, FIRST_SECONDS, SECOND_SECONDS = 1200.0, 5.0, 4.0
REFERENCE_SECONDS = 1200
"""After so long the reference is called off, and its time is at least that."""


def many_entities(path: Path) -> None:
    """Half lines; a tenth each circles, arcs, polylines with bulges, splines, texts, on twenty layers in seven colours."""
    rng = random.Random(1)
    doc: Any = ezdxf.new("R2010", setup=True, units=4)
    space = doc.modelspace()
    for n in range(20):
        doc.layers.add(f"L{n}", color=n % 7 + 1, lineweight=(13, 18, 25, 35, 50)[n % 5])
    for n in range(ENTITIES):
        with_ = {"layer": f"L{n % 20}"}
        x, y = rng.uniform(0, 40_000), rng.uniform(0, 40_000)
        kind = n % 20
        if kind < 10:
            space.add_line((x, y), (x + rng.uniform(-500, 500), y + rng.uniform(-500, 500)), with_)
        elif kind < 12:
            space.add_circle((x, y), rng.uniform(5, 300), with_)
        elif kind < 14:
            space.add_arc((x, y), rng.uniform(5, 300), rng.uniform(0, 360), rng.uniform(0, 360), dxfattribs=with_)
        elif kind < 16:
            points = [(x + rng.uniform(-300, 300), y + rng.uniform(-300, 300), rng.choice((0, 0, 0.5))) for _ in range(6)]
            space.add_lwpolyline(points, format="xyb", dxfattribs=with_)
        elif kind < 18:
            space.add_open_spline([(x + j * 60, y + rng.uniform(-100, 100)) for j in range(6)], dxfattribs=with_)
        else:
            space.add_text(f"T{n}", height=125, dxfattribs=with_).set_placement((x, y))
    doc.saveas(path)


_REFERENCE = """
import json, resource, sys, time
import ezdxf, matplotlib
matplotlib.use("Agg")
from matplotlib import pyplot
from ezdxf.addons.drawing import Frontend, RenderContext
from ezdxf.addons.drawing.matplotlib import MatplotlibBackend
begun = time.perf_counter()
doc = ezdxf.readfile(sys.argv[1])
read = time.perf_counter() - begun
begun = time.perf_counter()
axes = pyplot.figure().add_axes((0, 0, 1, 1))
Frontend(RenderContext(doc), MatplotlibBackend(axes)).draw_layout(doc.modelspace(), finalize=True)
axes.figure.savefig(sys.argv[2])
peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
print(json.dumps({"read": read, "work": time.perf_counter() - begun, "peak": peak}))
"""


def ours() -> None:
    """In a process of its own: read, drawn as an excerpt, written at two scales and measured; prints times and peak memory."""
    import resource

    from skalto.core.checks.report import check_pdf
    from skalto.core.output.pdf.document import write_pdf
    from skalto.core.output.pdf.metadata import Metadata
    from skalto.core.pages.composition import compose
    from skalto.core.paper import FrameStyle
    from skalto.core.quantities import Scale
    from skalto.core.sheets.content import DrawingContent
    from skalto.core.sheets.sheet import SheetSpec, ViewSpec
    from skalto.core.sources.drawings.dxf import loading, reading
    from skalto.core.sources.drawings.excerpt import Excerpt
    from skalto.services.results.drawings import excerpt_lines

    def peak() -> float:
        return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024

    read = 0.0
    plain = loading.load

    def timed(*arguments: Any) -> Any:
        nonlocal read
        begun = time.perf_counter()
        found = plain(*arguments)
        read = time.perf_counter() - begun
        return found

    with mock.patch.object(reading, "load", timed):
        begun = time.perf_counter()
        drawing = reading.read_dxf(Path(sys.argv[1]), "bench.dxf", lambda share, text: None)
    excerpt = Excerpt(region=(-1000, -1000, 41000, 41000))
    lines = {"v": excerpt_lines(drawing.spaces[""], excerpt)}

    def written(ratio: str) -> bytes:
        view = ViewSpec(
            id="v", source="s", name="all", content=DrawingContent(excerpt=excerpt), scale=Scale.parse(ratio),
            anchor=(20000, 20000), place=(210, 210),
        )  # fmt: skip
        sheet = SheetSpec(id="s", name="all", format="420x420mm", frame=FrameStyle.NONE, furniture=frozenset(), views=(view,))
        return write_pdf([compose(sheet, lines)], Metadata("bench"))

    data = written("1:100")
    work, first_peak = time.perf_counter() - begun - read, peak()
    Path(sys.argv[2]).write_bytes(data)
    begun = time.perf_counter()
    again = written("1:200")
    second = time.perf_counter() - begun
    begun = time.perf_counter()
    holds = check_pdf(again).holds
    measuring = time.perf_counter() - begun
    found = {"read": read, "work": work, "peak": first_peak, "second": second, "measuring": measuring, "holds": holds}
    print(json.dumps(found | {"whole": peak()}))


_OURS = "from bench.drawing import ours; ours()"


def _process(script: str, *arguments: Path, seconds: int = REFERENCE_SECONDS) -> dict[str, float] | None:
    command = [sys.executable, "-c", script, *map(str, arguments)]
    try:
        done = subprocess.run(command, capture_output=True, text=True, timeout=seconds, check=True)
    except subprocess.TimeoutExpired:
        return None
    found: dict[str, float] = json.loads(done.stdout.strip().splitlines()[-1])
    return found


def _verdict(holds: bool) -> str:
    return "holds" if holds else "DOES NOT HOLD"


def first_picture(client: httpx.Client, path: Path) -> tuple[float, float]:
    """Seconds from the end of reading until the drawing is seen in the browser, and until a second file is there after a
    change of scale; both as a person has them, through the page and the queue."""
    job = client.post("/api/jobs", json={"name": "bench"}).json()["id"]
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        page = browser.new_page(viewport={"width": 1280, "height": 800}, base_url=str(client.base_url))
        page.goto(f"/jobs/{job}/source")
        client.post(f"/api/jobs/{job}/incoming", params={"name": path.name}, content=path.read_bytes())
        until(lambda: client.get(f"/api/jobs/{job}").json()["document"]["sources"], step=0.1)
        begun = time.perf_counter()
        page.reload()
        page.locator(".drawing-pane .drawn path").first.wait_for(state="attached", timeout=120_000)
        # a frame more, so that it is painted and not only there
        page.evaluate("() => new Promise(done => requestAnimationFrame(() => requestAnimationFrame(done)))")
        first = time.perf_counter() - begun
        browser.close()
    source = client.get(f"/api/jobs/{job}").json()["document"]["sources"][0]["id"]
    placed = client.post(f"/api/jobs/{job}/excerpts", json={"source": source}).json()
    sheet, view = placed["sheet"], placed["view"]

    def proofed() -> bool:
        return bool(client.get(f"/api/jobs/{job}/sheets/{sheet}/proof").json()["ready"])

    client.post(f"/api/jobs/{job}/sheets/{sheet}/proof")
    until(proofed, step=0.1)
    edit = {"kind": "change_view", "sheet": sheet, "view": view, "fields": {"scale": "1:500"}}
    client.post(f"/api/jobs/{job}/edits", json=edit)
    begun = time.perf_counter()
    client.post(f"/api/jobs/{job}/sheets/{sheet}/proof")
    until(proofed, step=0.1)
    return first, time.perf_counter() - begun


def run() -> None:
    with tempfile.TemporaryDirectory() as folder:
        place = Path(folder)
        path = place / "bench.dxf"
        many_entities(path)
        own = _process(_OURS, path, place / "ours.pdf")
        assert own is not None
        with served(place / "data") as client:
            first, second = first_picture(client, path)
        reference = _process(_REFERENCE, path, place / "reference.pdf")
        work = reference["work"] if reference else float(REFERENCE_SECONDS)
        ratio = work / own["work"]
        least = "" if reference else "at least "
        print(
            f"{ENTITIES} entities, DXF to PDF: {own['work']:.1f} s after {own['read']:.1f} s of reading; reference {least}"
            f"{work:.1f} s; {least}{ratio:.1f} times faster  limit {TIMES_FASTER:g}  {_verdict(ratio >= TIMES_FASTER)}",
            flush=True,
        )
        size = (place / "ours.pdf").stat().st_size / 1e6
        if reference:
            other = (place / "reference.pdf").stat().st_size / 1e6
            smaller = other / size
            compared = f"{size:.2f} MB, reference {other:.2f} MB, {smaller:.1f} times smaller"
            print(f"{'':6}the file: {compared}  limit {TIMES_SMALLER:g}  {_verdict(smaller >= TIMES_SMALLER)}")
        peak = own["whole"]
        other_peak = f", reference {reference['peak']:.0f} MB" if reference else ""
        print(f"{'':6}peak memory: {peak:.0f} MB{other_peak}  limit {PEAK_MB:g}  {_verdict(peak <= PEAK_MB)}")
        print(f"{'':6}first picture in the browser: {first:.1f} s  limit {FIRST_SECONDS:g}  {_verdict(first <= FIRST_SECONDS)}")
        print(
            f"{'':6}a second export at another scale: {own['second']:.1f} s written, {own['measuring']:.1f} s measured; "
            f"through the queue {second:.1f} s  limit {SECOND_SECONDS:g}  {_verdict(second <= SECOND_SECONDS)}"
        )
