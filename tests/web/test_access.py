"""Every screen by axe-core (Deque Systems' rules for WCAG 2.2): nothing serious, contrast included."""

from __future__ import annotations

import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Browser, Page, expect

from tests.conftest import Running
from tests.web.conftest import watched

AXE = Path(__file__).resolve().parents[2] / "web" / "node_modules" / "axe-core" / "axe.min.js"
TAGS = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"]


@pytest.fixture(scope="module")
def demo(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Running]:
    started = Running(tmp_path_factory.mktemp("demo"), "--demo")
    end = time.monotonic() + 180
    while len(started.client.get("/api/jobs").json()) < 2 or started.client.get("/api/preparing").json()["text"]:
        assert time.monotonic() < end, "the demo was not made"
        time.sleep(0.5)
    yield started
    started.interrupt()


@pytest.fixture(scope="module")
def page(browser: Browser, demo: Running) -> Iterator[Page]:
    with watched(browser, demo.address) as opened:
        yield opened


def findings(page: Page) -> list[str]:
    """What axe finds that is serious or worse: the rule, and where."""
    page.evaluate(AXE.read_text())
    found: dict[str, Any] = page.evaluate(
        "tags => axe.run(document, { runOnly: { type: 'tag', values: tags }, resultTypes: ['violations'] })", TAGS
    )
    return [
        f"{own['id']}: {node['target']} {node['html'][:120]} {node.get('failureSummary', '')[:200]}"
        for own in found["violations"]
        if own["impact"] in ("serious", "critical")
        for node in own["nodes"]
        # a cell of the title block is as large as it is on the sheet (2.5.8, essential)
        if not (own["id"] == "target-size" and "title-cell" in node["html"])
        # the keys of its field move through the list of a select (WAI-ARIA APG, combobox)
        if not (own["id"] == "scrollable-region-focusable" and "ant-select-dropdown-list" in node["html"])
    ]


def _job(demo: Running, name: str) -> dict[str, Any]:
    found: dict[str, Any] = next(job for job in demo.client.get("/api/jobs").json() if job["document"]["name"] == name)
    return found


def _address(demo: Running, screen: str) -> str:
    press, rooms = _job(demo, "Ebba press"), _job(demo, "Workshop fit-out")
    sheet = press["document"]["sheets"][0]
    field = next(own for own in press["document"]["sheets"] if own["annotations_3d"])
    return {
        "jobs": "/",
        "register": "/register",
        "source": f"/jobs/{press['id']}/source",
        "drawing": f"/jobs/{rooms['id']}/source",
        "sheet": f"/jobs/{press['id']}/sheets/{sheet['id']}",
        "view": f"/jobs/{press['id']}/sheets/{sheet['id']}?view={sheet['views'][0]['id']}",
        "excerpt": (
            f"/jobs/{rooms['id']}/sheets/{rooms['document']['sheets'][0]['id']}"
            f"?view={rooms['document']['sheets'][0]['views'][0]['id']}"
        ),
        "field": f"/jobs/{press['id']}/sheets/{field['id']}?field={field['annotations_3d'][0]['id']}",
        "pens": f"/jobs/{press['id']}/pens/{sheet['id']}",
        "proof": f"/jobs/{press['id']}/proof/{sheet['id']}",
        "issue": f"/jobs/{press['id']}/issue",
        "parts": f"/jobs/{press['id']}/parts",
        "release": f"/jobs/{press['id']}/release",
    }[screen]


SCREENS = [
    "jobs", "register", "source", "parts", "drawing", "sheet", "view", "excerpt", "field", "pens", "proof", "issue", "release",
]  # fmt: skip


@pytest.mark.parametrize("screen", SCREENS)
def test_a_screen_is_open_to_all(page: Page, demo: Running, screen: str) -> None:
    page.goto(_address(demo, screen))
    expect(page.locator("main, h1").first).to_be_visible()
    page.wait_for_load_state("networkidle") if screen in ("jobs", "register") else page.wait_for_timeout(1500)
    assert findings(page) == []


def test_the_rules_see_what_is_wrong(page: Page, demo: Running) -> None:
    page.goto(_address(demo, "jobs"))
    expect(page.locator("main, h1").first).to_be_visible()
    page.evaluate(
        "() => { const p = document.createElement('p'); p.textContent = 'Too light to read'; p.style.color = '#bbb';"
        " p.style.background = '#fff'; document.querySelector('main')?.append(p) ?? document.body.append(p);"
        " const b = document.createElement('button'); document.body.append(b); }"
    )
    rules = {row.partition(":")[0] for row in findings(page)}
    assert {"color-contrast", "button-name"} <= rules


DIALOGS = ["palette", "guide", "recipe", "components", "formats", "studio"]


def _open(page: Page, demo: Running, dialog: str) -> None:
    """Open what stands over a screen."""
    if dialog == "studio":
        page.goto(f"{_address(demo, 'field')}&look=")
        expect(page.locator("canvas")).to_be_visible(timeout=60_000)
        return
    page.goto(_address(demo, {"recipe": "issue", "components": "view"}.get(dialog, "sheet")))
    expect(page.get_by_label("Ticket").first).to_be_visible(timeout=20_000)
    if dialog == "palette":
        page.keyboard.press("k")
    elif dialog == "guide":
        page.keyboard.press("?")
        expect(page.locator(".guide")).to_be_visible(timeout=20_000)
    elif dialog == "recipe":
        page.goto(_address(demo, "proof"))
        page.get_by_role("button", name="Open", exact=True).first.click(timeout=60_000)
    elif dialog == "components":
        page.keyboard.press("c")
    else:
        page.get_by_label("Standard sizes").click()
    expect(page.locator(".ant-modal, .ant-drawer, .ant-select-dropdown").first).to_be_visible(timeout=20_000)
    page.wait_for_timeout(600)


@pytest.mark.parametrize("dialog", DIALOGS)
def test_what_stands_over_a_screen_is_open_to_all(page: Page, demo: Running, dialog: str) -> None:
    _open(page, demo, dialog)
    assert findings(page) == []


def test_the_guide_leads_from_page_to_page(page: Page, demo: Running) -> None:
    elsewhere: list[str] = []
    page.on("request", lambda request: elsewhere.append(request.url) if not request.url.startswith(demo.address) else None)
    page.goto(_address(demo, "sheet"))
    expect(page.get_by_label("Ticket").first).to_be_visible(timeout=20_000)
    page.keyboard.press("?")
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("Put views on a sheet", timeout=20_000)
    assert page.locator(".guide img").first.evaluate("picture => picture.decode().then(() => picture.naturalWidth)") >= 1000
    dialog.get_by_role("button", name="All pages").click()
    dialog.get_by_role("link", name="Sections and details").click()
    expect(dialog).to_contain_text("reverse the direction")
    page.keyboard.press("Escape")
    expect(dialog).to_have_count(0)
    assert [url for url in elsewhere if not url.startswith(("data:", "blob:"))] == []


def test_the_api_describes_itself_without_a_network(page: Page, demo: Running) -> None:
    elsewhere: list[str] = []
    page.on("request", lambda request: elsewhere.append(request.url) if not request.url.startswith(demo.address) else None)
    page.goto("/api/docs")
    expect(page.get_by_text("sheets and views")).to_be_visible(timeout=20_000)
    page.get_by_text("sheets and views").click()
    expect(page.get_by_text("/api/jobs/{job_id}/sheets/{sheet}/fit").first).to_be_visible(timeout=20_000)
    assert [url for url in elsewhere if not url.startswith(("data:", "blob:"))] == []
