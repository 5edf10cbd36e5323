"""What a hand does before it points: it waits until things stand still."""

from __future__ import annotations

from playwright.sync_api import FloatRect, Locator


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
