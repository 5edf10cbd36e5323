"""The desk: a drag of a view of 20 000 edges in the browser, a sheet sent out again, and cold views side by side."""

from __future__ import annotations

import asyncio
import json
import math
import statistics
import tempfile
import time
from pathlib import Path

import numpy as np
import trimesh
from playwright.async_api import Page, async_playwright

from bench.served import drawn, job_with, put, served, until
from bench.size import sized
from skalto.core.viewpoint import STANDARD
from skalto.demo.press import write_press

FLAGS = [
    "--no-sandbox", "--disable-background-networking", "--disable-component-update", "--disable-sync", "--disable-quic",
    "--no-first-run",
]  # fmt: skip
WEBGL = ["--use-angle=swiftshader", "--enable-unsafe-swiftshader"]
"""With these the browser puts its frames together by an emulated graphics card too, which is slower than without one."""
FRAMES, EXPORT_SECONDS, PARALLEL = 50.0, 1.0, 1.6
PLAIN = (
    "<p style='user-select:none'>"
    + "a page of plain text " * 400
    + "</p><div id=d style='will-change:transform;position:absolute;left:0;top:0;"
    "width:20px;height:20px;background:green'></div><script>onmousemove = e => {"
    "d.style.transform = `translate3d(${e.clientX}px,${e.clientY}px,0)`}</script>"
)
"""The least that can be dragged over a page with something on it: what this machine's browser can do at all."""
STEPS = sized(400, 120)
DRAGS = sized(3, 1)
SORTS = sized(60, 8)
"""Rows of type sorts, and sorts in each."""
ASKING = 0.2
"""Seconds between one asking how the work goes on and the next; the page asks less often."""


def _many_edges(path: Path) -> None:
    """A tray of type sorts of differing heights: over 20 000 seen edges from the corner."""
    random = np.random.default_rng(3)
    sorts = []
    for i in range(SORTS):
        for j in range(SORTS):
            box = trimesh.creation.box((3.0, 2.6, 4.0 + random.uniform(0, 3)))
            box.apply_translation((i * 4.0, j * 3.6, box.extents[2] / 2))
            sorts.append(box)
    trimesh.util.concatenate(sorts).export(path)


def _frames(trace: bytes) -> tuple[int, float]:
    """How many frames the browser's own trace has drawn, and in how many seconds."""
    events = json.loads(trace)["traceEvents"]
    drawn_at = sorted(e["ts"] for e in events if e["name"] == "DrawFrame")
    return len(drawn_at), (drawn_at[-1] - drawn_at[0]) / 1e6


async def _frames_of_a_drag(page: Page, x: float, y: float) -> float:
    """Frames a second while a hand moves to and fro with the button down, as a mouse of 125 Hz tells of itself."""
    await page.mouse.move(x, y)
    await page.mouse.down()
    await page.mouse.move(x + 10, y + 6)
    browser = page.context.browser
    assert browser is not None
    await browser.start_tracing(page=page, categories=["devtools.timeline", "disabled-by-default-devtools.timeline.frame"])
    begun = time.perf_counter()
    moves = []
    for n in range(STEPS):
        # none waits for the frame of the one before
        moves.append(asyncio.create_task(page.mouse.move(x + 60 * np.sin(n / 20), y + 30 * np.cos(n / 17))))
        await asyncio.sleep(max(0.0, begun + (n + 1) * 0.008 - time.perf_counter()))
    await asyncio.gather(*moves)
    trace = await browser.stop_tracing()
    await page.mouse.up()
    count, seconds = _frames(trace)
    return count / seconds


async def _drags(address: str, flags: list[str]) -> tuple[list[float], float]:
    """Frames a second of drags of the view at an address, and of a small square over plain text in the same browser."""
    async with async_playwright() as playwright:
        browser = await playwright.chromium.launch(executable_path="/usr/bin/chromium", args=flags)
        page = await browser.new_page(viewport={"width": 1280, "height": 800})
        await page.goto(address)
        await page.locator(".desk .view .stroke").first.wait_for()
        await asyncio.sleep(1.0)
        box = await page.locator(".desk .view .grip").first.bounding_box()
        assert box is not None
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        rates = [await _frames_of_a_drag(page, x, y) for _ in range(DRAGS)]
        await page.close()
        page = await browser.new_page(viewport={"width": 1280, "height": 800})
        await page.set_content(PLAIN)
        await asyncio.sleep(0.5)
        plain = max([await _frames_of_a_drag(page, 300.0, 300.0) for _ in range(DRAGS)])
        await browser.close()
    return rates, plain


def _dragging(folder: Path) -> None:
    path = folder / "sorts.stl"
    _many_edges(path)
    with served(folder / "many") as client:
        job, source = job_with(client, path)
        sheet, view = put(client, job, source, STANDARD["iso"], None)
        until(lambda: drawn(client, job, sheet, view))
        picture = client.get(f"/api/jobs/{job}/sheets/{sheet}/views/{view}/picture").json()["picture"]
        edges = sum(p["strokes"] for p in picture["paths"] if p["edge_class"] in ("visible", "outline"))
        address = f"{client.base_url}/jobs/{job}/sheets/{sheet}?view={view}"
        rates, plain = asyncio.run(_drags(address, FLAGS))
        emulated, plain_emulated = asyncio.run(_drags(address, FLAGS + sized(WEBGL, [])))
    verdict = "holds" if min(rates) >= FRAMES else "DOES NOT HOLD"
    told = ", ".join(f"{r:.0f}" for r in rates)
    print(f"{f'dragging a view of {edges} edges':<44} {told} frames/s  limit >= {FRAMES:.0f}  {verdict}")
    print(f"{'  a small square over plain text, same browser':<44} {plain:.0f} frames/s  ratio {max(rates) / plain:.2f}")
    told = ", ".join(f"{r:.0f}" for r in emulated)
    verdict = "holds" if min(emulated) >= FRAMES else "DOES NOT HOLD"
    print(f"{'  with an emulated graphics card':<44} {told} frames/s  ratio {max(emulated) / plain_emulated:.2f}  {verdict}")


def _proof(client: object, job: int, sheet: str) -> float:
    """Seconds from asking for a sheet's file to its being there, measured and all."""
    begun = time.perf_counter()
    client.post(f"/api/jobs/{job}/sheets/{sheet}/proof")  # type: ignore[attr-defined]
    until(lambda: client.get(f"/api/jobs/{job}/sheets/{sheet}/proof").json()["ready"], step=ASKING)  # type: ignore[attr-defined]
    return time.perf_counter() - begun


def _sending(folder: Path) -> None:
    path = folder / "Ebba.step"
    write_press(path)
    names = sized(("front", "left", "top", "iso"), ("front", "left"))
    cold = {}
    for workers in sized((1, 2), (2,)):
        with served(folder / f"workers{workers}", workers) as client:
            job, source = job_with(client, path)
            # both start with a worker that has the kernel and the model in hand
            warm = [put(client, job, source, STANDARD[n], None) for n in ("bottom", "rear")[:workers]]
            for sheet, view in warm:
                drawn(client, job, sheet, view)
            until(lambda client=client, job=job, warm=warm: all(drawn(client, job, s, v) for s, v in warm))
            sheet, first = put(client, job, source, STANDARD[names[0]], None)
            views = [first, *(put(client, job, source, STANDARD[n], sheet)[1] for n in names[1:])]
            cold[workers] = _proof(client, job, sheet)
            if workers == 2:
                again = []
                for n in range(sized(4, 1)):
                    edit = {"kind": "move_views", "sheet": sheet, "moves": {views[n]: [1.0, 0.5]}}
                    client.post(f"/api/jobs/{job}/edits", json=edit)
                    again.append(_proof(client, job, sheet))
    verdict = "holds" if statistics.median(again) <= EXPORT_SECONDS else "DOES NOT HOLD"
    told = ", ".join(f"{s:.2f}" for s in again)
    print(f"{'four views of Ebba again, one moved':<44} {told} s  limit <= {EXPORT_SECONDS:g} s  {verdict}")
    cold.setdefault(1, math.nan)  # not asked where little is done
    ratio = cold[1] / cold[2]
    verdict = "holds" if ratio >= PARALLEL else "DOES NOT HOLD"
    told = f"{cold[1]:.2f} s, {cold[2]:.2f} s  ratio {ratio:.2f}"
    print(f"{'four cold views on one worker, on two':<44} {told}  limit >= {PARALLEL}  {verdict}")


def run() -> None:
    with tempfile.TemporaryDirectory() as folder:
        _dragging(Path(folder))
        _sending(Path(folder))
