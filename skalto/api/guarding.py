"""Who may ask, from where, and how much: hosts, origins, the token, sizes of bodies, and the headers of every answer.

Host and origin after the Fetch standard's metadata headers and RFC 6454; the token in a cookie (RFC 6265) or as a bearer's
(RFC 6750). A page of another site can make a browser send requests here, by a name that resolves to this machine, too: what it
sends has a foreign ``Host`` or ``Origin``, or ``Sec-Fetch-Site`` says so.
"""

from __future__ import annotations

import hashlib
import hmac
import html
import ipaddress
import secrets
import time
from collections import deque
from pathlib import Path
from urllib.parse import parse_qs, quote, unquote, urlsplit

from starlette.datastructures import Headers
from starlette.responses import HTMLResponse, JSONResponse, PlainTextResponse, RedirectResponse, Response
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from skalto.settings import Settings
from skalto.store.jobs import person
from skalto.store.sessions import end_session, ended_sessions
from skalto.store.states import person_name

BODY_LIMIT = 16_000_000
"""Bytes of a request's body, where a route does not take files as a stream."""

STREAMED = ("/incoming", "/jobs/open")
"""Ends of the addresses that take a file as a stream, and limit it themselves."""

_PAGE = Path(__file__).parent / "sign_in.html"
_COOKIE = "skalto"
_SIGNED_DAYS = 30
_SAFE = ("GET", "HEAD", "OPTIONS")
_TRIES, _WITHIN = 5, 60.0
_ALL_TRIES = 60

POLICY = "; ".join(
    (
        "default-src 'self'",
        "script-src 'self' 'wasm-unsafe-eval'",
        "style-src 'self' 'unsafe-inline'",
        "img-src 'self' data: blob:",
        "font-src 'self' data: blob:",
        "connect-src 'self' data: blob:",
        "worker-src 'self' blob:",
        "object-src 'none'",
        "base-uri 'none'",
        "form-action 'self'",
        "frame-ancestors 'none'",
    )
)
"""What the page may load: its own. Styles are written by the component library, WebAssembly decodes pictures of PDFs."""

HEADERS = {
    "content-security-policy": POLICY,
    "x-content-type-options": "nosniff",
    "x-frame-options": "DENY",
    "referrer-policy": "no-referrer",
    "cross-origin-opener-policy": "same-origin",
    "cross-origin-resource-policy": "same-origin",
}


def is_loopback(host: str) -> bool:
    """Whether a name or an address is this machine, seen from itself."""
    if host in ("localhost", "localhost."):
        return True
    try:
        return ipaddress.ip_address(host.strip("[]")).is_loopback
    except ValueError:
        return False


def _name_of(host: str) -> str:
    """The name in a Host header, without its port."""
    try:
        return (urlsplit(f"//{host}").hostname or "").lower()
    except ValueError:
        return ""


def _with_port(host: str, scheme: str) -> tuple[str, int]:
    parts = urlsplit(f"//{host}")
    return (parts.hostname or "").lower(), parts.port or (443 if scheme == "https" else 80)


def same_origin(origin: str, host: str) -> bool:
    """Whether an Origin header names the host that was asked. A proxy may have taken off TLS: the scheme is the origin's."""
    try:
        parts = urlsplit(origin)
        if parts.scheme not in ("http", "https") or not parts.hostname:
            return False
        return _with_port(parts.netloc, parts.scheme) == _with_port(host, parts.scheme)
    except ValueError:
        return False


class Tries:
    """How often a token was tried in vain: so many a minute from one address, and from all together."""

    def __init__(self, each: int = _TRIES, together: int = _ALL_TRIES, within: float = _WITHIN) -> None:
        self._each, self._together, self._within = each, together, within
        self._by: dict[str, deque[float]] = {}
        self._all: deque[float] = deque()

    def too_many(self, address: str) -> bool:
        now = time.monotonic()
        for row in (self._all, *self._by.values()):
            while row and row[0] < now - self._within:
                row.popleft()
        self._by = {key: row for key, row in self._by.items() if row}
        return len(self._by.get(address, ())) >= self._each or len(self._all) >= self._together

    def failed(self, address: str) -> None:
        now = time.monotonic()
        self._by.setdefault(address, deque()).append(now)
        self._all.append(now)


class Signing:
    """The token, and the cookie that stands for it: its last day, a name drawn by lot, and an HMAC (RFC 2104) of both under the
    token. One whose owner has signed out is known no more."""

    def __init__(self, token: str) -> None:
        self._token = token.encode()
        self.tries = Tries()
        self._over: set[str] | None = None

    def fits(self, token: str) -> bool:
        """In a time that does not tell how much of it was right."""
        return hmac.compare_digest(
            hashlib.sha256(token.encode("utf-8", "surrogateescape")).digest(), hashlib.sha256(self._token).digest()
        )

    def _sealed(self, said: str) -> str:
        return hmac.new(self._token, said.encode(), hashlib.sha256).hexdigest()

    def cookie(self) -> str:
        said = f"{int(time.time()) + _SIGNED_DAYS * 86_400}.{secrets.token_hex(12)}"
        return f"{said}.{self._sealed(said)}"

    def knows(self, cookie: str) -> bool:
        said, _, seal = cookie.rpartition(".")
        until, _, name = said.partition(".")
        if not until.isascii() or not until.isdigit() or len(until) > 12 or int(until) < time.time():
            return False
        if not name or not cookie.isascii() or not hmac.compare_digest(seal.encode(), self._sealed(said).encode()):
            return False
        return name not in self._ended()

    def _ended(self) -> set[str]:
        if self._over is None:
            self._over = ended_sessions()
        return self._over

    def end(self, cookie: str) -> None:
        """End the session of a cookie, for good."""
        if self.knows(cookie):
            until, name, _ = cookie.split(".")
            end_session(name, int(until))
            self._ended().add(name)


def _cookies(headers: Headers) -> list[str]:
    """What the cookies of our name hold (RFC 6265, 5.4): several may come, and what others set for this host beside them, of
    any form, shuts nobody out."""
    pairs = (pair.partition("=") for line in headers.getlist("cookie") for pair in line.split(";"))
    return [value.strip().strip('"') for name, _, value in pairs if name.strip() == _COOKIE]


def _sign_in_page(to: str, told: str = "", status: int = 200) -> Response:
    line = f'<p class="no" role="alert">{html.escape(told)}</p>' if told else ""
    page = _PAGE.read_text().replace("<!-- told -->", line).replace("{to}", html.escape(to, quote=True))
    # a form of a page that tells nobody where it was sent from names no origin either
    return HTMLResponse(page, status_code=status, headers={"referrer-policy": "same-origin"})


def _inside(to: str) -> str:
    """Where to go after signing in: an address of this server, whatever was asked."""
    return to if to.startswith("/") and not to.startswith(("//", "/\\")) and "\\" not in to and to.isprintable() else "/"


class _TooMuch(Exception):
    pass


class _Body:
    """A request's body, counted while it comes."""

    def __init__(self, receive: Receive, headers: Headers) -> None:
        self._receive, self._taken = receive, 0
        self._said = headers.get("content-length", "")
        self.limit = BODY_LIMIT
        self.too_large = False

    def up_to(self, limit: int) -> Receive:
        """Takes so many bytes. :raises _TooMuch: where there are more."""
        self.limit = limit
        return self._counted

    async def _counted(self) -> Message:
        if not (self._said.isdigit() and int(self._said) > self.limit):
            message = await self._receive()
            self._taken += len(message.get("body", b"")) if message["type"] == "http.request" else 0
            if self._taken <= self.limit:
                return message
        self.too_large = True
        raise _TooMuch


class Guard:
    """An ASGI application before the application: what may not come in, does not."""

    def __init__(self, app: ASGIApp, settings: Settings) -> None:
        self.app = app
        self.signing = Signing(settings.token) if settings.token else None
        self.hosts = {_name_of(host) for host in settings.allowed_hosts}

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        answered = False
        body = _Body(receive, headers)

        async def with_headers(message: Message) -> None:
            nonlocal answered
            if body.too_large and not answered:
                # whatever the application made of a body that broke off: this is why
                answered = True
                told = f"More than {body.limit // 1_000} kB in one request: this is taken in smaller ones only."
                await JSONResponse({"detail": told}, status_code=413, headers=HEADERS)(scope, receive, send)
            if body.too_large:
                return
            if message["type"] == "http.response.start":
                answered = True
                have = {name.lower() for name, _ in message["headers"]}
                message["headers"] = [
                    *message["headers"],
                    *((k.encode(), v.encode()) for k, v in HEADERS.items() if k.encode() not in have),
                ]
                if scope["path"].startswith("/api/") and b"cache-control" not in have:
                    message["headers"].append((b"cache-control", b"no-store"))
            await send(message)

        person.set(headers.get("skalto-person", "")[:40])
        person_name.set(unquote(headers.get("skalto-name", ""))[:60])
        refusal = self._unfit(scope, headers)
        if refusal is not None:
            await refusal(scope, receive, with_headers)
            return
        if self.signing is not None:
            if scope["path"] in ("/sign-in", "/sign-out"):
                answer = await self._sign(scope, headers, body.up_to(10_000))
                await answer(scope, receive, with_headers)
                return
            wanted = self._unsigned(scope, headers)
            if wanted is not None:
                await wanted(scope, receive, with_headers)
                return
        if not scope["path"].endswith(STREAMED):
            receive = body.up_to(BODY_LIMIT)
        try:
            await self.app(scope, receive, with_headers)
        except _TooMuch:
            await with_headers({"type": "http.response.body"})

    def _unfit(self, scope: Scope, headers: Headers) -> Response | None:
        """The refusal of a request that names another host, or that another site's page sent."""
        host = headers.get("host", "")
        name = _name_of(host)
        arrived = (scope.get("server") or ("", 0))[0]
        if not is_loopback(name) and name not in self.hosts and (not name or name != arrived.lower()):
            told = f"Skalto does not answer to the name {name[:80]}: the one who runs it can add it to SKALTO_HOSTS."
            return JSONResponse({"detail": told}, status_code=421)
        path, method = scope["path"], scope["method"]
        site = headers.get("sec-fetch-site", "none")
        origin = headers.get("origin")
        changes = method not in _SAFE
        foreign = site not in ("same-origin", "none") and (changes or path.startswith("/api/"))
        if foreign or (changes and origin is not None and not same_origin(origin, host)):
            return JSONResponse({"detail": "This came from a page of another site, and is not taken."}, status_code=403)
        return None

    def _unsigned(self, scope: Scope, headers: Headers) -> Response | None:
        """What is answered to one who has not signed in."""
        assert self.signing is not None
        if self._signed(headers):
            return None
        scheme, _, token = headers.get("authorization", "").partition(" ")
        if scheme.lower() == "bearer":
            # a right one is never turned away for what others at its address do: behind a proxy all have the same
            if self.signing.fits(token.strip()):
                return None
            address = (scope.get("client") or ("", 0))[0]
            if self.signing.tries.too_many(address):
                return JSONResponse({"detail": "Too many tries: wait a minute."}, 429, {"Retry-After": str(int(_WITHIN))})
            self.signing.tries.failed(address)
        if scope["path"] == "/mark.svg":
            return None
        if scope["path"].startswith("/api/") or scope["method"] not in _SAFE:
            return JSONResponse({"detail": "Sign in first."}, 401, {"WWW-Authenticate": "Bearer"})
        query = scope.get("query_string", b"").decode("latin-1")
        to = scope["path"] + (f"?{query}" if query else "")
        return RedirectResponse(f"/sign-in?to={quote(to, safe='/')}", status_code=303)

    def _signed(self, headers: Headers) -> bool:
        assert self.signing is not None
        return any(self.signing.knows(cookie) for cookie in _cookies(headers))

    async def _sign(self, scope: Scope, headers: Headers, receive: Receive) -> Response:
        """Signing in and out."""
        assert self.signing is not None
        secure = scope.get("scheme") == "https"
        if scope["path"] == "/sign-out":
            if scope["method"] != "POST":
                return PlainTextResponse("POST", status_code=405, headers={"Allow": "POST"})
            for cookie in _cookies(headers):
                self.signing.end(cookie)
            out = RedirectResponse("/sign-in", status_code=303)
            out.delete_cookie(_COOKIE, httponly=True, samesite="strict", secure=secure)
            return out
        if scope["method"] in _SAFE:
            query = parse_qs(scope.get("query_string", b"").decode("latin-1"))
            return _sign_in_page(_inside(query.get("to", ["/"])[0]))
        if scope["method"] != "POST":
            return PlainTextResponse("GET, POST", status_code=405, headers={"Allow": "GET, POST"})
        address = (scope.get("client") or ("", 0))[0]
        try:
            form = parse_qs((await _whole(receive)).decode("utf-8", "replace"))
        except _TooMuch:
            form = {}
        to = _inside(form.get("to", ["/"])[0])
        if not self.signing.fits(form.get("token", [""])[0].strip()):
            if self.signing.tries.too_many(address):
                late = _sign_in_page(to, "Too many tries: wait a minute.", 429)
                late.headers["Retry-After"] = str(int(_WITHIN))
                return late
            self.signing.tries.failed(address)
            return _sign_in_page(to, "This is not the token: take it from the server's output.", 403)
        answer = RedirectResponse(to, status_code=303)
        answer.set_cookie(
            _COOKIE, self.signing.cookie(), max_age=_SIGNED_DAYS * 86_400, httponly=True, samesite="strict", secure=secure
        )
        return answer


async def _whole(receive: Receive) -> bytes:
    parts = []
    while True:
        message = await receive()
        if message["type"] != "http.request":
            break
        parts.append(message.get("body", b""))
        if not message.get("more_body"):
            break
    return b"".join(parts)
