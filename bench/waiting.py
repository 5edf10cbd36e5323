"""What a hand waits for: a turned view, its proof, the first picture of a proof that takes long to draw, and the way from an
empty folder to the first proven PDF."""

from __future__ import annotations

import statistics
import tempfile
import time
from pathlib import Path
from typing import Any

import httpx
from playwright.sync_api import Browser, sync_playwright

from bench.desk import FLAGS
from bench.issuing import seconds
from bench.served import drawn, job_with, put, served, until
from bench.size import sized
from skalto.core.viewpoint import STANDARD
from skalto.demo.press import write_press

TURNS = sized(5, 1)
LOOKING = 0.04
"""Seconds between one look and the next; the page is told by the server."""
ROUGH, PART, ASSEMBLY, FIRST_PICTURE, FIRST_PDF = 0.3, 0.5, 1.5, 1.0, 8.0


class _Turning:
    """A view that is turned a little again and again, each time where nobody has looked from before."""

    def __init__(self, client: httpx.Client, job: int, sheet: str, view: str) -> None:
        self._client, self._job, self._sheet, self._view = client, job, sheet, view
        self._turns = 0

    def turn(self) -> tuple[float, float, float]:
        """Seconds to the rough lines (or the exact ones, where these are first), to the exact ones, to the measured proof."""
        self._turns += 1
        look = [-1 + 0.03 * self._turns, 1 + 0.02 * self._turns, -1 + 0.01 * self._turns]
        fields = {"look": look, "up": [0, 0, 1]}
        base = f"/api/jobs/{self._job}/sheets/{self._sheet}"
        begun, rough = time.perf_counter(), 0.0
        edit = {"kind": "change_view", "sheet": self._sheet, "view": self._view, "fields": fields}
        self._client.post(f"/api/jobs/{self._job}/edits", json=edit).raise_for_status()
        while True:
            found = self._client.get(f"{base}/views/{self._view}/picture").json()
            now = time.perf_counter() - begun
            rough = rough or (now if found["rough"] or found["picture"] else 0.0)
            if found["picture"]:
                break
            time.sleep(LOOKING)
        self._client.post(f"{base}/proof")
        until(lambda: self._client.get(f"{base}/proof").json()["ready"], step=LOOKING)
        return rough, now, time.perf_counter() - begun


def _turned(client: httpx.Client, path: Path, name: str, hidden: bool) -> tuple[int, str, str]:
    job, source = job_with(client, path)
    sheet, view = put(client, job, source, STANDARD["iso"], None)
    if hidden:
        paths = [c["path"] for c in _leaves(client.get(f"/api/sources/{source}/tree").json()["components"])]
        others = [p for p in paths if not p.endswith("Cheek, left")]
        edit = {"kind": "change_view", "sheet": sheet, "view": view, "fields": {"hidden": others}}
        client.post(f"/api/jobs/{job}/edits", json=edit).raise_for_status()
    until(lambda: drawn(client, job, sheet, view))
    turning = _Turning(client, job, sheet, view)
    turning.turn()
    rough, exact, proof = (statistics.median(column) for column in zip(*(turning.turn() for _ in range(TURNS)), strict=True))
    seconds(f"a turned view of {name}, something to see", rough, ROUGH)
    print(f"{'  its exact lines':<44} {exact:9.2f} s")
    seconds("  its proof, written and measured", proof, PART if hidden else ASSEMBLY)
    return job, sheet, view


def _leaves(components: list[dict[str, Any]]) -> list[dict[str, Any]]:
    return [leaf for c in components for leaf in (_leaves(c["children"]) if c.get("children") else [c])]


def _first_picture(client: httpx.Client, browser: Browser, job: int, sheet: str, view: str) -> None:
    """A shaded assembly at 1:1 and 300 dpi on A1."""
    for edit in (
        {"kind": "change_sheet", "sheet": sheet, "fields": {"format": sized("A1", "A4")}},
        {"kind": "change_view", "sheet": sheet, "view": view, "fields": {"scale": "1:1", "shaded": True, "place": [420, 330]}},
    ):
        client.post(f"/api/jobs/{job}/edits", json=edit).raise_for_status()
    base = f"/api/jobs/{job}/sheets/{sheet}/proof"
    client.post(base)
    until(lambda: client.get(base).json()["ready"])
    page = browser.new_page(viewport={"width": 1280, "height": 800})
    page.goto(f"{client.base_url}/jobs/{job}/sheets/{sheet}")
    page.locator(".desk .view .stroke").first.wait_for()
    page.wait_for_timeout(2000)
    begun = time.perf_counter()
    page.get_by_role("button", name="Proof this sheet").click()
    page.locator(".pdf .tile, .pdf canvas[data-drawn]").first.wait_for()
    loaded = "() => document.querySelector('.pdf canvas[data-drawn]') || document.querySelector('.pdf .tile')?.naturalWidth"
    until(lambda: page.evaluate(loaded))
    first = time.perf_counter() - begun
    page.locator(".pdf canvas[data-drawn]").wait_for()
    seconds("a proof with a large picture, the first of it", first, FIRST_PICTURE)
    print(f"{'  the same, drawn by the page itself':<44} {time.perf_counter() - begun:9.2f} s")
    page.close()


def _first_pdf(folder: Path, path: Path, browser: Browser) -> None:
    """As a person does it: start, a new job, the file chosen, the front on a sheet, proofed."""
    begun = time.perf_counter()
    with served(folder) as client:
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(str(client.base_url))
        page.get_by_label("Name of the new job").fill("First")
        page.get_by_role("button", name="New job").click()
        with page.expect_file_chooser() as chooser:
            page.get_by_text("Drop a model or a drawing here").click()
        chooser.value.set_files(path)
        page.get_by_role("radio", name="front", exact=True).click(timeout=120_000)
        read = time.perf_counter() - begun
        page.get_by_role("banner").get_by_role("button", name="Put on sheet").click()
        page.locator(".desk .view .stroke").first.wait_for(timeout=120_000)
        shown = time.perf_counter() - begun
        page.get_by_role("button", name="Proof this sheet").click()
        page.get_by_role("heading", name="Measured in the file").wait_for(timeout=120_000)
        seconds("an empty folder to the first proven PDF", time.perf_counter() - begun, FIRST_PDF)
        print(f"{'  the model is there, its view':<44} {read:9.2f} s, {shown:.2f} s")
        page.close()


def run() -> None:
    """Print the times."""
    with tempfile.TemporaryDirectory() as name, sync_playwright() as playwright:
        folder = Path(name)
        path = folder / "Ebba.step"
        write_press(path)
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        for number in range(sized(2, 1)):
            _first_pdf(folder / f"first{number}", path, browser)
        with served(folder / "turned") as client:
            if sized(True, False):
                _turned(client, path, "a part", True)
            job, sheet, view = _turned(client, path, "Ebba", False)
            _first_picture(client, browser, job, sheet, view)
        browser.close()
