"""Who may come in and with what: hosts, origins, the token, ids, sizes, headers.

Sources: Host and origin checks after RFC 9110 (7.2, 7.4: 421 for a host that is not served) and the Fetch standard's metadata
headers; cookies RFC 6265; bearer tokens RFC 6750; the policy after Content Security Policy Level 3.
"""

from __future__ import annotations

import hashlib
import json
import re
import socket
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import httpx
import pytest

from skalto.api.guarding import Signing, Tries, is_loopback, same_origin
from skalto.store.jobs import open_database
from tests.api.test_api import new_job
from tests.conftest import Running

TOKEN = "a token of many letters"


def raw(running: Running, method: str, path: str, **headers: str) -> httpx.Response:
    return running.client.request(method, path, headers={name.replace("_", "-"): value for name, value in headers.items()})


@pytest.mark.parametrize("source", ["../../../etc/passwd", "/etc/passwd", "..", "a" * 63, "A" * 64, "files/x", "x\0y", ""])
def test_a_source_is_named_by_its_content_alone(running: Running, source: str) -> None:
    job = new_job(running)
    row = {"id": source, "name": "plate.step", "size": 1}
    answer = running.client.post(f"/api/jobs/{job}/edits", json={"kind": "add_source", "source": row})
    assert answer.status_code == 422
    assert running.client.get(f"/api/jobs/{job}").json()["document"]["sources"] == []


def test_a_source_needs_its_file(running: Running, plate_step: Path) -> None:
    job = new_job(running)
    never = hashlib.sha256(b"never brought in").hexdigest()
    edit = {"kind": "add_source", "source": {"id": never, "name": "plate.step", "size": 1}}
    for asked in (edit, {"kind": "together", "edits": [{"kind": "rename_job", "name": "Other"}, edit]}):
        answer = running.client.post(f"/api/jobs/{job}/edits", json=asked)
        assert (answer.status_code, answer.json()["detail"]) == (422, "The file of plate.step is not kept here: add it.")
    assert running.client.get(f"/api/jobs/{job}").json()["document"]["name"] != "Other"


@pytest.mark.parametrize(
    "path", ["/api/sources/..%2f..%2fskalto.db/tree", "/api/sources/..%2f/scene.glb", "/api/looks/..%2f..%2fx.png"]
)
def test_no_address_leads_out_of_the_store(running: Running, path: str) -> None:
    assert running.client.get(f"/api/{path}").status_code == 404


@pytest.mark.parametrize(
    "host", ["evil.example", "evil.example:8420", "127.0.0.1.evil.example", "", "10.1.2.3", "[::", "localhost@evil.example"]
)
def test_only_its_own_names_are_answered_to(running: Running, host: str) -> None:
    for path in ("/", "/api/jobs"):
        answer = raw(running, "GET", path, Host=host)
        assert answer.status_code in (400, 421)
        assert "Ebba" not in answer.text


@pytest.mark.parametrize("host", ["localhost", "LOCALHOST", "127.0.0.1", "127.9.9.9", "[::1]"])
def test_this_machine_is_answered_by_each_of_its_names(running: Running, host: str) -> None:
    assert raw(running, "GET", "/api/jobs", Host=f"{host}:{running.port}").status_code == 200


@pytest.mark.parametrize(
    "headers",
    [
        {"Origin": "http://evil.example"},
        {"Origin": "null"},
        {"Origin": "http://127.0.0.1:1"},
        {"Origin": "file://"},
        {"Sec_Fetch_Site": "cross-site"},
        {"Sec_Fetch_Site": "same-site"},
    ],
    ids=lambda headers: " ".join(f"{k} {v}" for k, v in headers.items()),
)
def test_what_another_sites_page_sends_is_not_taken(running: Running, headers: dict[str, str]) -> None:
    job = new_job(running)
    for method, path in (
        ("POST", f"/api/jobs/{job}/undo"),
        ("POST", f"/api/jobs/{job}/incoming?name=a.step"),
        ("DELETE", f"/api/jobs/{job}"),
    ):
        assert raw(running, method, path, **headers).status_code == 403
    assert running.client.get(f"/api/jobs/{job}").status_code == 200


def test_what_its_own_page_sends_is_taken(running: Running) -> None:
    own = {"Origin": running.address, "Sec_Fetch_Site": "same-origin"}
    assert raw(running, "DELETE", f"/api/jobs/{new_job(running)}", **own).status_code == 204
    # an address that was typed, and a link from elsewhere to the page itself
    assert raw(running, "GET", "/api/jobs", Sec_Fetch_Site="none").status_code == 200
    assert raw(running, "GET", "/", Sec_Fetch_Site="cross-site").status_code == 200
    assert raw(running, "GET", "/api/jobs", Sec_Fetch_Site="cross-site").status_code == 403


def test_every_answer_says_what_it_may_be_used_for(running: Running) -> None:
    for path in ("/", "/api/jobs", "/api/nothing", "/mark.svg", "/assets/none.js"):
        headers = running.client.get(path).headers
        policy = headers["content-security-policy"]
        assert "frame-ancestors 'none'" in policy
        assert "default-src 'self'" in policy
        script = re.search(r"script-src ([^;]*)", policy)
        assert script is not None
        assert "unsafe-inline" not in script[1]
        assert headers["x-content-type-options"] == "nosniff"
        assert headers["referrer-policy"] == "no-referrer"
        assert "server" not in headers
    assert running.client.get("/api/jobs").headers["cache-control"] == "no-store"


def test_an_address_of_the_interface_that_is_not_there_is_not_the_page(running: Running) -> None:
    answer = running.client.get("/api/nothing")
    assert (answer.status_code, answer.json()["detail"]) == (404, "There is nothing at this address.")
    assert running.client.post("/jobs").status_code == 405


def test_a_file_is_limited_while_it_comes(running: Running) -> None:
    """Without a length beforehand; and nothing of it is left."""
    job = new_job(running)

    def endless() -> Iterator[bytes]:
        for _ in range(60):
            yield bytes(1_000_000)

    answer = running.client.post(f"/api/jobs/{job}/incoming", params={"name": "a.stl"}, content=endless())
    assert answer.status_code == 413
    assert "over the limit of 20 MB" in answer.json()["detail"]
    assert list((running.data / "coming").iterdir()) == []


def test_a_file_that_breaks_off_leaves_nothing(running: Running) -> None:
    job = new_job(running)
    with socket.create_connection(("127.0.0.1", running.port)) as plain:
        head = f"POST /api/jobs/{job}/incoming?name=a.stl HTTP/1.1\r\nHost: localhost\r\nContent-Length: 1000000\r\n\r\n"
        plain.sendall(head.encode() + bytes(10_000))
    assert running.client.get(f"/api/jobs/{job}/incoming").json() == []
    assert list((running.data / "coming").iterdir()) == []


def test_a_request_is_limited(running: Running) -> None:
    for content in (bytes(17_000_000), iter([bytes(1_000_000)] * 17)):
        answer = running.client.post("/api/jobs", content=content, headers={"Content-Type": "application/json"})
        assert answer.status_code == 413
        assert "16000 kB" in answer.json()["detail"]


@pytest.mark.parametrize("depth", [100, 900, 5_000, 200_000])
def test_what_is_nested_without_end_ends_in_a_sentence(running: Running, depth: int) -> None:
    nested = "[" * depth + "]" * depth
    deep = '{"kind": "change_sheet", "sheet": "x", "fields": {"name": ' + nested + "}}"
    for path, body in ((f"/api/jobs/{new_job(running)}/edits", deep), ("/api/jobs", nested), ("/api/recipes/read", nested)):
        answer = running.client.post(path, content=body, headers={"Content-Type": "application/json"})
        assert answer.status_code in (400, 404, 422)
        assert answer.json()["detail"].endswith(".")


@pytest.mark.parametrize(
    ("origin", "host", "same"),
    [
        ("http://localhost:8420", "localhost:8420", True),
        ("https://skalto.example", "skalto.example", True),
        ("https://skalto.example", "skalto.example:443", True),
        ("http://skalto.example", "SKALTO.example:80", True),
        ("http://skalto.example:81", "skalto.example", False),
        ("null", "skalto.example", False),
        ("ftp://skalto.example", "skalto.example", False),
        ("http://skalto.example:x", "skalto.example", False),
    ],
)
def test_origins(origin: str, host: str, same: bool) -> None:
    assert same_origin(origin, host) is same


def test_loopback() -> None:
    assert [is_loopback(h) for h in ("localhost", "127.0.0.1", "::1", "127.1.2.3")] == [True] * 4
    assert [is_loopback(h) for h in ("0.0.0.0", "::", "192.168.1.2", "skalto", "")] == [False] * 5


def test_a_cookie_is_sealed_and_ends(tmp_path: Path) -> None:
    open_database(tmp_path / "skalto.db")
    signing = Signing(TOKEN)
    cookie = signing.cookie()
    assert signing.knows(cookie)
    until, name, seal = cookie.split(".")
    assert not signing.knows(f"{int(until) + 1}.{name}.{seal}")
    assert not signing.knows(f"{until}.{name[:-1]}.{seal}")
    assert not signing.knows(f"1.{name}.{signing._sealed(f'1.{name}')}")
    assert not signing.knows(f"{until}.{signing._sealed(until)}")
    assert not Signing("another token, as long").knows(cookie)
    for odd in ("", ".", "x.y", "²." + seal, until, "9" * 5000 + "." + seal):
        assert not signing.knows(odd)


def test_tries_are_counted_by_address_and_together(monkeypatch: pytest.MonkeyPatch) -> None:
    tries = Tries(each=2, together=3, within=60)
    tries.failed("a")
    assert not tries.too_many("a")
    tries.failed("a")
    assert (tries.too_many("a"), tries.too_many("b")) == (True, False)
    tries.failed("b")
    assert tries.too_many("c")


@pytest.fixture(scope="module")
def guarded(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Running]:
    started = Running(tmp_path_factory.mktemp("guarded"), SKALTO_TOKEN=TOKEN, SKALTO_HOSTS="skalto.example", SKALTO_WORKERS="0")
    yield started
    started.interrupt()


def test_a_token_keeps_everyone_else_out(guarded: Running) -> None:
    with httpx.Client(base_url=guarded.address) as client:
        assert client.get("/api/jobs").status_code == 401
        assert client.post("/api/jobs", json={"name": "x"}).status_code == 401
        assert client.get("/api/events").status_code == 401
        page = client.get("/jobs/3?x=1")
        assert (page.status_code, page.headers["location"]) == (303, "/sign-in?to=/jobs/3%3Fx%3D1")
        assert client.get("/assets/index.js").status_code == 303
        assert client.get("/api/jobs", headers={"Authorization": f"Bearer {TOKEN}"}).status_code == 200
        assert (
            client.get("/api/jobs", headers={"Host": "skalto.example", "Authorization": f"Bearer {TOKEN}"}).status_code == 200
        )
        assert client.get("/api/jobs", headers={"Authorization": "Bearer wrong"}).status_code == 401


def test_signing_in_and_out(guarded: Running) -> None:
    with httpx.Client(base_url=guarded.address) as client:
        form = client.get("/sign-in?to=/jobs/3")
        assert 'value="/jobs/3"' in form.text
        wrong = client.post("/sign-in", data={"token": "wrong", "to": "/"})
        assert (wrong.status_code, "not the token" in wrong.text) == (403, True)
        answer = client.post("/sign-in", data={"token": TOKEN, "to": "//evil.example"})
        assert (answer.status_code, answer.headers["location"]) == (303, "/")
        cookie = answer.headers["set-cookie"].lower()
        assert "httponly" in cookie
        assert "samesite=strict" in cookie
        assert TOKEN not in cookie
        assert client.get("/api/jobs").status_code == 200
        held = client.cookies["skalto"]
        with httpx.Client(base_url=guarded.address) as other:
            assert other.post("/sign-in", data={"token": TOKEN}).status_code == 303
            out = client.post("/sign-out")
            assert (out.status_code, out.headers["location"]) == (303, "/sign-in")
            assert client.get("/api/jobs").status_code == 401
            # what was kept of the cookie is worth nothing, and another's session goes on
            assert client.get("/api/jobs", headers={"Cookie": f"skalto={held}"}).status_code == 401
            assert other.get("/api/jobs").status_code == 200
            ours = other.cookies["skalto"]
        for before in ("odd={[(;]", 'x="', "skalto=foreign", "a=1,2", "=", "skalto", "{"):
            assert client.get("/api/jobs", headers={"Cookie": f"{before}; skalto={ours}"}).status_code == 200, before
            assert client.get("/api/jobs", headers={"Cookie": f"skalto={ours}; {before}"}).status_code == 200, before
            assert client.get("/api/jobs", headers={"Cookie": f"{before}; skalto={held}"}).status_code == 401, before
        script = client.get('/sign-in?to="><script>')
        assert "<script>" not in script.text


def test_guessing_is_slowed_down(guarded: Running) -> None:
    with httpx.Client(base_url=guarded.address) as client:
        answers = [client.post("/sign-in", data={"token": f"guess {n}"}).status_code for n in range(8)]
        assert answers[-1] == 429
        assert client.get("/api/jobs", headers={"Authorization": "Bearer guess"}).status_code == 429
        # whoever has the right one is not turned away for it
        assert client.get("/api/jobs", headers={"Authorization": f"Bearer {TOKEN}"}).status_code == 200
        assert client.post("/sign-in", data={"token": TOKEN}).status_code == 303


def test_who_signed_out_stays_out_over_a_restart(tmp_path: Path) -> None:
    first = Running(tmp_path, SKALTO_TOKEN=TOKEN, SKALTO_WORKERS="0")
    with httpx.Client(base_url=first.address) as client:
        client.post("/sign-in", data={"token": TOKEN})
        held = client.cookies["skalto"]
        client.post("/sign-out")
    first.interrupt()
    second = Running(tmp_path, SKALTO_TOKEN=TOKEN, SKALTO_WORKERS="0")
    try:
        answer = httpx.get(f"{second.address}/api/jobs", headers={"Cookie": f"skalto={held}"})
        assert answer.status_code == 401
    finally:
        second.interrupt()


def test_from_other_machines_it_takes_a_token_made_for_it(tmp_path: Path) -> None:
    started = Running(tmp_path, "--host", "0.0.0.0", SKALTO_WORKERS="0")
    try:
        made = re.search(r"This one holds until it ends: (\S+)", started.said)
        assert made is not None
        assert started.client.get("/api/jobs").status_code == 401
        assert started.client.get("/api/jobs", headers={"Authorization": f"Bearer {made[1]}"}).status_code == 200
    finally:
        started.interrupt()


def test_a_token_that_is_guessed_at_once_is_refused(tmp_path: Path) -> None:
    from skalto.api.serving import with_token
    from skalto.core.errors import InputError
    from skalto.settings import Settings

    with pytest.raises(InputError, match="too short"):
        with_token(Settings(token="short", data=tmp_path))
    assert with_token(Settings(data=tmp_path)).token == ""
    assert len(with_token(Settings(data=tmp_path, host="0.0.0.0")).token) > 20
    assert len(with_token(Settings(data=tmp_path, hosts="skalto.example")).token) > 20


def test_the_description_says_what_may_come_back(running: Running) -> None:
    described = running.client.get("/api/openapi.json").json()
    for path, methods in described["paths"].items():
        for method, facts in methods.items():
            assert {"404", "409", "413", "422"} <= set(facts["responses"]), (path, method)
    assert json.dumps(described)


@pytest.mark.parametrize("odd", ["%00", "%ff", "%0a", "x" * 300, "a/" * 2000, "%c3%a4" * 300, "%2e%2e/%00"])
def test_no_odd_address_is_a_fault_of_the_server(guarded: Running, odd: str) -> None:
    with httpx.Client(base_url=guarded.address, headers={"Authorization": f"Bearer {TOKEN}"}) as client:
        for place in ("/{}", "/assets/{}", "/api/{}", "/api/sources/{}/tree", "/api/looks/{}.png", "/api/posters/{}.png"):
            answer = client.get(place.format(odd))
            assert answer.status_code in (200, 404, 422), (place, answer.status_code, answer.text)
            if answer.headers["content-type"].startswith("application/json"):
                assert answer.json()["detail"].endswith(".")


def test_every_text_that_comes_in_has_a_limit() -> None:
    """In every request: a text without one is taken at any length, and kept in the job for ever."""
    from skalto.api.openapi import document

    told: Any = document()
    schemas: Any = told["components"]["schemas"]
    lacking: list[str] = []
    seen: set[str] = set()

    def look(schema: object, where: str) -> None:
        if isinstance(schema, list):
            for own in schema:
                look(own, where)
            return
        if not isinstance(schema, dict):
            return
        if "$ref" in schema:
            name = schema["$ref"].rpartition("/")[2]
            if name not in seen:
                seen.add(name)
                look(schemas[name], name)
            return
        bounded = {"maxLength", "enum", "const", "pattern", "format", "contentMediaType"} & schema.keys()
        if schema.get("type") == "string" and not bounded:
            lacking.append(where)
        for key, own in schema.items():
            if key == "properties":
                for field, value in own.items():
                    look(value, f"{where}.{field}")
            elif key != "default":
                look(own, where)

    for path, methods in told["paths"].items():
        for method, route in methods.items():
            for parameter in route.get("parameters", []):
                look(parameter["schema"], f"{method} {path} {parameter['name']}")
            look(route.get("requestBody", {}).get("content", {}), f"{method} {path}")
    assert lacking == []


def test_what_is_too_long_is_said(running: Running) -> None:
    job = new_job(running)
    long = {"kind": "rename_job", "name": "x" * 20_000}
    answer = running.client.post(f"/api/jobs/{job}/edits", json=long)
    assert (answer.status_code, answer.json()["detail"]) == (422, "name: it has to be at most that many letters: 120.")
    # a table may be longer than other texts
    table = "part,material\n" + "#" * 30_000 + "\nx,y\n"
    answer = running.client.post(f"/api/jobs/{job}/parts.csv", json={"text": table})
    assert "there is no part" in answer.json()["detail"]
    # control characters go where they come in
    running.client.post(f"/api/jobs/{job}/edits", json={"kind": "rename_job", "name": "Che\u0007ek\n1"})
    assert running.client.get(f"/api/jobs/{job}").json()["document"]["name"] == "Cheek 1"


def test_a_queue_that_is_away_keeps_nothing(tmp_path: Path, plate_step: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    from redis.exceptions import ConnectionError as Away
    from starlette.testclient import TestClient

    from skalto.api.app import create_app
    from skalto.jobs.queue import Queue
    from skalto.settings import Settings
    from skalto.store import jobs

    def away(*arguments: object) -> None:
        raise Away("Connection refused.")

    client = TestClient(create_app(Settings(data=tmp_path)), base_url="http://127.0.0.1", raise_server_exceptions=False)
    job = client.post("/api/jobs", json={"name": "One"}).json()["id"]
    monkeypatch.setattr(Queue, "submit", away)
    for _ in range(2):
        answer = client.post(f"/api/jobs/{job}/incoming", params={"name": "plate.step"}, content=plate_step.read_bytes())
        assert (answer.status_code, answer.json()["detail"]) == (
            503, "The queue of work does not answer: try again in a moment. Nothing was changed.",
        )  # fmt: skip
    assert jobs.incoming_of(job) == []
    assert client.get(f"/api/jobs/{job}").json()["document"]["sources"] == []
