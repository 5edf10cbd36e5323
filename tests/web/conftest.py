"""A browser for the tests: Debian's Chromium, driven by Playwright."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

import pytest
from playwright.sync_api import Browser, ConsoleMessage, Page, expect, sync_playwright

from tests.conftest import Running

FLAGS = [
    "--no-sandbox", "--use-angle=swiftshader", "--enable-unsafe-swiftshader", "--disable-background-networking",
    "--disable-component-update", "--disable-sync", "--disable-quic", "--no-first-run",
    # what a processor would do in place of a graphics card costs a third of the time
    "--disable-gpu-rasterization", "--disable-gpu-compositing",
]  # fmt: skip

REFUSED = (
    "/read/",
    "/try",
    "/edits",
    "/incoming",
    "/open",
    "/issues",
    "/formats/own",
    "/pens/read",
    "/recipes/read",
    "/flat-pattern",
    "/parts.csv",
    "/proof/printed",
)
"""Where a person's words or files go, which may be refused."""

# what is waited for comes at once on a free machine; a busy one is given time
expect.set_options(timeout=20_000)


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        opened = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        yield opened
        opened.close()


@contextmanager
def watched(browser: Browser, address: str, refused: tuple[str, ...] = ()) -> Iterator[Page]:
    """A fresh page in a browser of its own; anything that it complains of fails the test.

    :param refused: parts of addresses that may be refused in any way, or not answer, beside values that cannot be read.
    """
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=address)
    # what was asked for is listed by the browser, 250 addresses of it unless more is wanted
    context.add_init_script("performance.setResourceTimingBufferSize(100000)")
    opened = context.new_page()
    complaints: list[str] = []

    def hear(message: ConsoleMessage) -> None:
        # a value that was typed and cannot be read is refused; nothing else may be
        at = str(message.location.get("url", ""))
        typed = "status of 422" in message.text and any(part in at for part in REFUSED)
        if message.type == "error" and not typed and not any(part in at for part in refused):
            complaints.append(f"{message.text} {at}")

    opened.on("console", hear)
    opened.on("pageerror", lambda error: complaints.append(str(error)))
    outside: list[str] = []
    own = (address, "blob:", "data:")
    opened.on("request", lambda request: None if request.url.startswith(own) else outside.append(request.url))
    yield opened
    context.close()
    assert complaints == []
    assert outside == [], "the page asked for something from elsewhere"


@pytest.fixture
def page(browser: Browser, running: Running) -> Iterator[Page]:
    """A fresh page of the running Skalto."""
    with watched(browser, running.address) as opened:
        yield opened
