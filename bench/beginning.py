"""From nothing: when the server answers, when the demo jobs are there and drawn, what the page weighs and when it is seen."""

from __future__ import annotations

import tempfile
import time
from pathlib import Path
from typing import Any

from playwright.sync_api import sync_playwright

from bench.desk import FLAGS
from bench.issuing import seconds
from bench.served import served, until
from bench.size import sized

ANSWERS, DEMO, SEEN = 2.0, 15.0, 1.0
WEIGHT = 250_000


def _cold(address: str, path: str) -> tuple[float, float, int]:
    """Seconds to the first paint with something in it, to a sheet on the desk, and bytes of the page's files until then."""
    weights: dict[str, int] = {}
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        page = browser.new_page(viewport={"width": 1280, "height": 800})

        def heard(response: Any) -> None:
            if "/assets/" in response.url and not response.url.endswith("woff2"):
                weights[response.url] = int(response.headers.get("content-length", 0))

        page.on("response", heard)
        begun = time.perf_counter()
        page.goto(f"{address}{path}", wait_until="commit")
        page.locator("rect.paper").first.wait_for(state="attached")
        desk, weight = time.perf_counter() - begun, sum(weights.values())
        painted = "() => performance.getEntriesByName('first-contentful-paint')[0]?.startTime"
        first = until(lambda: page.evaluate(painted)) / 1000
        browser.close()
    return first, desk, weight


def run() -> None:
    """Print the times."""
    with tempfile.TemporaryDirectory() as folder:
        begun = time.perf_counter()
        with served(Path(folder) / "empty") as client:
            seconds("a server with an empty folder answers after", time.perf_counter() - begun, ANSWERS)
        begun = time.perf_counter()
        with served(Path(folder) / "demo", 2, "--demo") as client:
            until(lambda: len(client.get("/api/jobs").json()) == 2)
            seconds("the demo jobs can be opened after", time.perf_counter() - begun, DEMO)
            if sized(True, False):
                until(lambda: not client.get("/api/preparing").json()["text"])
            seconds("all their views are drawn after", time.perf_counter() - begun, DEMO)
            press = next(job for job in client.get("/api/jobs").json() if job["document"]["name"] == "Ebba press")
            path = f"/jobs/{press['id']}/sheets/{press['document']['sheets'][1]['id']}"
            cold = [_cold(str(client.base_url), path) for _ in range(sized(3, 1))]
        seconds("first paint of the desk, cold", min(first for first, _, _ in cold), SEEN)
        seconds("  its sheet", min(desk for _, desk, _ in cold), 2.0)
        weight = min(weight for _, _, weight in cold)
        print(f"{'files of the page by then, packed':<44} {weight / 1000:9.0f} kB")
