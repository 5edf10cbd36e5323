"""A pack of 40 sheets of the demo, sent on one worker and on two; sent again with nothing changed; how soon its proof shows."""

from __future__ import annotations

import math
import shutil
import tempfile
import time
from pathlib import Path

import httpx
from playwright.sync_api import sync_playwright

from bench.clock import told
from bench.desk import FLAGS
from bench.served import served, until
from bench.size import sized

SHEETS = sized(40, 4)
FASTER, AGAIN, SHOWN = 1.7, 0.10, 1.0


def _demo(data: Path) -> None:
    """A data folder with the demo jobs in it, all their pictures drawn."""
    with served(data, 2, "--demo") as client:
        until(lambda: len(client.get("/api/jobs").json()) == 2)
        if sized(True, False):
            until(lambda: not client.get("/api/preparing").json()["text"])


def _pack(client: httpx.Client, job: int) -> str:
    """The job's sheets of drawings over and over until there are enough, in one pack; its id."""
    document = client.get(f"/api/jobs/{job}").json()["document"]
    sheets = [sheet["id"] for sheet in document["sheets"] if not sheet["annotations_3d"]]
    made = sheets[:SHEETS]
    for number in range(SHEETS - len(sheets)):
        new = f"copy{number}"
        edit = {"kind": "duplicate_sheet", "sheet": sheets[number % len(sheets)], "new": new, "name": f"Copy {number}"}
        client.post(f"/api/jobs/{job}/edits", json=edit).raise_for_status()
        made.append(new)
    pack = {"id": "all", "name": "All", "sheets": made}
    client.post(f"/api/jobs/{job}/edits", json={"kind": "keep_pack", "pack": pack}).raise_for_status()
    return "all"


def _sent(client: httpx.Client, job: int, pack: str) -> tuple[float, float]:
    """How long a sending takes, and when its first progress is seen, seconds."""
    begun = time.perf_counter()
    issue = client.post(f"/api/jobs/{job}/issues", json={"pack": pack}).json()["id"]
    first = [0.0]

    def ended() -> bool:
        state = client.get(f"/api/issues/{issue}").json()
        if state["share"] > 0 and not first[0]:
            first[0] = time.perf_counter() - begun
        assert state["state"] in ("running", "done"), state
        return bool(state["state"] == "done")

    until(ended, 1200, 0.1)
    return time.perf_counter() - begun, first[0]


def _ebba(client: httpx.Client) -> int:
    return int(next(job["id"] for job in client.get("/api/jobs").json() if job["document"]["name"] == "Ebba press"))


_LISTEN = """
const plain = window.fetch;
window.fetch = async (...asked) => {
  const answer = await plain(...asked);
  const address = String(asked[0].url ?? asked[0]);
  if (address.endsWith("/proof")) {
    const found = await answer.clone().json();
    if (found.ready) window.readyAt ??= performance.now();
  }
  return answer;
};
"""


def _shown(client: httpx.Client, job: int) -> float:
    """Seconds from the moment that the page hears that a file is finished to its first page on the screen."""
    sheet = client.get(f"/api/jobs/{job}").json()["document"]["sheets"][1]["id"]
    edit = {"kind": "duplicate_sheet", "sheet": sheet, "new": "fresh", "name": "Not proofed yet"}
    client.post(f"/api/jobs/{job}/edits", json=edit).raise_for_status()
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.add_init_script(_LISTEN)
        page.goto(f"{client.base_url}/jobs/{job}/proof/fresh")
        page.get_by_role("banner").get_by_role("button", name="Make the proof").click()
        page.locator("canvas[data-drawn]").wait_for(timeout=60_000)
        found = float(page.evaluate("(performance.now() - window.readyAt) / 1000"))
        browser.close()
    return found


def seconds(name: str, found: float, limit: float) -> None:
    """One line: a time that has a limit of its own."""
    print(f"{name:<44} {found:9.2f} s   limit {limit:g} s   {'holds' if found <= limit else 'DOES NOT HOLD'}", flush=True)


def run() -> None:
    """Print the ratios."""
    with tempfile.TemporaryDirectory() as folder:
        begin = Path(folder) / "demo"
        begin.mkdir()
        _demo(begin)
        times = {1: math.inf, 2: math.inf}
        # in turns, the better of two: what else the machine does hits both alike
        for turn, workers in enumerate(sized((1, 2, 1, 2), (2,))):
            data = Path(folder) / str(turn)
            shutil.copytree(begin, data)
            with served(data, workers) as client:
                job = _ebba(client)
                pack = _pack(client, job)
                taken, first = _sent(client, job, pack)
                times[workers] = min(times[workers], taken)
                if workers == 2:
                    again, _ = _sent(client, job, pack)
                    shown = _shown(client, job)
        holds = times[1] / times[2] >= FASTER
        told(f"a pack of {SHEETS} sheets, one worker : two", times[1], times[2], f">= {FASTER}", holds)
        told("the same sent again", again, times[2], f"<= {AGAIN}", again <= AGAIN * times[2])
        seconds("first progress after", first, 1.0)
        seconds("proof on the screen after the export", shown, SHOWN)
