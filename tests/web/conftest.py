"""A browser for the tests: Debian's Chromium, driven by Playwright."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from playwright.sync_api import Browser, ConsoleMessage, Page, expect, sync_playwright

from tests.conftest import Running

FLAGS = [
    "--no-sandbox", "--use-angle=swiftshader", "--enable-unsafe-swiftshader", "--disable-background-networking",
    "--disable-component-update", "--disable-sync", "--disable-quic", "--no-first-run",
]  # fmt: skip

REFUSED = ("/read/", "/try", "/edits", "/incoming", "/open", "/issues", "/formats/own", "/pens/read", "/recipes/read")
"""Where a person's words or files go, which may be refused."""

# what is waited for comes at once on a free machine; a busy one is given time
expect.set_options(timeout=20_000)


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        opened = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        yield opened
        opened.close()


@pytest.fixture
def page(browser: Browser, running: Running) -> Iterator[Page]:
    """A fresh page of the running Skalto; anything that the page itself complains of fails the test."""
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=running.address)
    opened = context.new_page()
    complaints: list[str] = []

    def hear(message: ConsoleMessage) -> None:
        # a value that was typed and cannot be read is refused; nothing else may be
        address = str(message.location.get("url", ""))
        if message.type == "error" and not ("status of 422" in message.text and any(part in address for part in REFUSED)):
            complaints.append(f"{message.text} {address}")

    opened.on("console", hear)
    opened.on("pageerror", lambda error: complaints.append(str(error)))
    outside: list[str] = []
    own = (running.address, "blob:", "data:")
    opened.on("request", lambda request: None if request.url.startswith(own) else outside.append(request.url))
    yield opened
    context.close()
    assert complaints == []
    assert outside == [], "the page asked for something from elsewhere"
