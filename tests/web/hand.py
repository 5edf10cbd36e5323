"""What a hand does before it points: it waits until things stand still."""

from __future__ import annotations

from playwright.sync_api import FloatRect, Locator, Page


def still(on: Locator) -> FloatRect:
    """Where an element is on the screen, once it has stayed there for a while; on a busy machine the page is still settling
    when the element is first there."""
    last = None
    for _ in range(100):
        box = on.bounding_box()
        if box is not None and box == last:
            return box
        last = box
        on.page.wait_for_timeout(60)
    raise AssertionError(f"{on} does not come to rest: {last}")


def asked(page: Page, part: str) -> None:
    """Wait until the page has asked for an address that *part* is in. The page's own policy lets no text be run as a script, so
    that waiting is done from outside."""
    for _ in range(300):
        if page.evaluate("part => performance.getEntriesByType('resource').some(e => e.name.includes(part))", part):
            return
        page.wait_for_timeout(100)
    raise AssertionError(f"{part} was never asked for")
