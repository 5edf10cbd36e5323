"""Two drafters at one job, a server that goes away, and signing in."""

from __future__ import annotations

import time
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect

from tests.conftest import Running
from tests.web.conftest import watched
from tests.web.test_path import SLOW, begin

TOKEN = "a token of many letters"


@pytest.fixture
def two(browser: Browser, running: Running) -> Iterator[tuple[Page, Page]]:
    """Two browsers, each its own person."""
    with (
        watched(browser, running.address) as first,
        watched(browser, running.address, refused=("/undo", "/api/events")) as second,
    ):
        yield first, second


def rename(page: Page, name: str) -> None:
    field = page.get_by_label("Job name", exact=True)
    field.fill(name)
    field.press("Enter")
    expect(page.get_by_text("All changes saved")).to_be_visible()


def test_two_drafters_see_each_other_and_undo_their_own(two: tuple[Page, Page]) -> None:
    ann, bo = two
    begin(ann, "Both")
    bo.goto(ann.url)
    expect(bo.get_by_label("Job name", exact=True)).to_have_value("Both")
    rename(ann, "By Ann")
    expect(bo.get_by_label("Job name", exact=True)).to_have_value("By Ann", timeout=1500)
    rename(bo, "By Bo")
    expect(ann.get_by_label("Job name", exact=True)).to_have_value("By Bo", timeout=1500)

    # Ann's undo would take back what Bo did: it asks, and a no leaves it
    ann.get_by_role("button", name="Undo U").click()
    dialog = ann.get_by_role("dialog")
    expect(dialog).to_contain_text("Someone else did this: rename")
    dialog.get_by_role("button", name="Cancel").click()
    expect(dialog).to_be_hidden()
    expect(ann.get_by_label("Job name", exact=True)).to_have_value("By Bo")
    # Bo's own goes back without a word, and both see it
    bo.get_by_role("button", name="Undo U").click()
    expect(ann.get_by_label("Job name", exact=True)).to_have_value("By Ann", timeout=1500)
    # now Bo's next undo is of what Ann did
    bo.get_by_role("button", name="Undo U").click()
    bo.get_by_role("dialog").get_by_role("button", name="Undo it").click()
    expect(ann.get_by_label("Job name", exact=True)).to_have_value("Both", timeout=1500)


@pytest.mark.long
def test_an_undo_of_what_has_moved_is_told(two: tuple[Page, Page]) -> None:
    """Bo's page has not heard yet that Ann changed something; it must not take Ann's change for Bo's."""
    ann, bo = two
    begin(ann, "Both")
    bo.route("**/api/events*", lambda route: route.abort())
    bo.goto(ann.url)
    rename(bo, "By Bo")
    expect(ann.get_by_label("Job name", exact=True)).to_have_value("By Bo", timeout=1500)
    rename(ann, "By Ann")
    bo.get_by_role("button", name="Undo U").click()
    expect(bo.get_by_text("The job was changed meanwhile")).to_be_visible()
    expect(bo.get_by_label("Job name", exact=True)).to_have_value("By Ann")
    assert ann.get_by_label("Job name", exact=True).input_value() == "By Ann"


@pytest.mark.long
def test_a_file_that_another_brings_in_is_seen(two: tuple[Page, Page], running: Running, plate_step: Path) -> None:
    ann, bo = two
    begin(ann, "Both")
    bo.goto(ann.url)
    job = ann.url.split("/")[-2]
    data = plate_step.read_bytes() + b"\n/* of another */\n"
    running.client.post(f"/api/jobs/{job}/incoming", params={"name": "plate.step"}, content=data)
    for page in (ann, bo):
        expect(page.locator(".sources li")).to_have_count(1, timeout=SLOW)


@pytest.mark.long
def test_signing_in_leads_to_where_one_was_going(browser: Browser, tmp_path: Path) -> None:
    guarded = Running(tmp_path, SKALTO_TOKEN=TOKEN, SKALTO_WORKERS="0")
    try:
        with watched(browser, guarded.address, refused=("/sign-in",)) as page:
            page.goto("/register")
            token = page.get_by_label("Token")
            expect(token).to_be_focused()
            token.fill("wrong")
            token.press("Enter")
            expect(page.get_by_role("alert")).to_contain_text("This is not the token")
            page.get_by_label("Token").fill(TOKEN)
            page.get_by_role("button", name="Sign in").click()
            expect(page).to_have_url(f"{guarded.address}/register")
            expect(page.get_by_role("heading", name="Register of issues")).to_be_visible()
            # work waits, and says for what
            begin(page, "Guarded")
            page.keyboard.press("k")
            page.get_by_label("Find an action").fill("sign out")
            page.keyboard.press("Enter")
            expect(page.get_by_label("Token")).to_be_visible()
            page.goto("/")
            expect(page.get_by_label("Token")).to_be_visible()
    finally:
        guarded.interrupt()


@pytest.mark.long
def test_a_server_that_was_away_is_heard_again(browser: Browser, tmp_path: Path) -> None:
    first = Running(tmp_path, SKALTO_WORKERS="0")
    with watched(browser, first.address, refused=("/api/", "/assets/")) as page:
        begin(page, "Before")
        first.kill()
        second = Running(tmp_path, port=first.port, SKALTO_WORKERS="0")
        try:
            job = page.url.split("/")[-2]
            end = time.monotonic() + 15
            while True:
                second.client.post(f"/api/jobs/{job}/edits", json={"kind": "rename_job", "name": f"After {time.monotonic()}"})
                if page.get_by_label("Job name", exact=True).input_value().startswith("After"):
                    break
                assert time.monotonic() < end
                page.wait_for_timeout(300)
        finally:
            second.interrupt()
