"""The FastAPI application: routes, errors as sentences, the built page."""

from __future__ import annotations

import asyncio
import errno
import logging
import shutil
from collections.abc import AsyncIterator, Callable
from contextlib import asynccontextmanager, suppress
from typing import Any

from fastapi import Depends, FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import FileResponse, JSONResponse
from peewee import OperationalError
from pydantic import ValidationError
from redis.exceptions import RedisError
from starlette.exceptions import HTTPException

from skalto import __version__
from skalto.api.assets import Assets
from skalto.api.guarding import Guard
from skalto.api.routes import routers
from skalto.api.using import of_a_job
from skalto.core.errors import InputError, Moved, NotThere, StoreFull, TooLarge, first_sentence, raise_if_full
from skalto.jobs.queue import Queue
from skalto.services.use_cases.container import UseCases
from skalto.services.use_cases.desk import Desk
from skalto.services.use_cases.drawing_register import DrawingRegister
from skalto.services.use_cases.issuing import Issuing
from skalto.services.use_cases.news import News
from skalto.services.use_cases.releasing import Releasing
from skalto.services.use_cases.studio import Studio
from skalto.services.use_cases.tidying import Tidying, run_daily
from skalto.settings import Settings
from skalto.store.jobs import open_database

_COLLECT_SECONDS = 0.25
_log = logging.getLogger(__name__)


async def _again_and_again(work: Callable[[], object], what: str, seconds: float = _COLLECT_SECONDS) -> None:
    """Do something over and over, whether a page is open or not."""
    while True:
        try:
            await asyncio.to_thread(work)
        except Exception:
            _log.exception("could not %s", what)
        await asyncio.sleep(seconds)


async def _later(wait: float, work: Callable[[], object], what: str, seconds: float) -> None:
    """The same, the first time not at once: a start has other things to do."""
    await asyncio.sleep(wait)
    await _again_and_again(work, what, seconds)


_SWEEP_AFTER, _SWEEP_EVERY = 120.0, 6 * 3600.0
"""Seconds after the start, and between two looks."""

_ROOM = 1_000_000
"""Bytes without which SQLite's own log and index find no place, and it says no more than that reading or writing failed."""

_STATUS = ((NotThere, 404), (Moved, 409), (TooLarge, 413), (StoreFull, 507))


def _refused(request: Request, error: Exception) -> JSONResponse:
    status = next((number for kind, number in _STATUS if isinstance(error, kind)), 422)
    return JSONResponse({"detail": str(error)}, status_code=status)


def _stuck(request: Request, error: Exception) -> JSONResponse:
    """The database could not: it says why in its own words."""
    text = ""
    cause: BaseException | None = error
    while cause is not None:
        # SQLite takes back by itself what found no room, and then complains that there is nothing to take back
        text, cause = f"{text} {cause}".lower(), cause.__context__
    free = shutil.disk_usage(request.app.state.settings.data).free
    if "full" in text or ("i/o error" in text and free < _ROOM):
        told = "The disk is full: make room on it, and try again. What is there is unharmed."
        return JSONResponse({"detail": told}, status_code=507)
    if "readonly" in text or "unable to open" in text:
        told = "The data folder cannot be written: give this user the right to, and try again."
        return JSONResponse({"detail": told}, status_code=507)
    if "locked" in text or "busy" in text:
        told = "The database is held by something else, a backup perhaps: try again in a moment."
        return JSONResponse({"detail": told}, status_code=503, headers={"Retry-After": "5"})
    _log.error("the database refused: %s", error)
    return JSONResponse({"detail": "The database refused this: look into the server's output."}, status_code=503)


def _not_written(request: Request, error: Exception) -> JSONResponse:
    assert isinstance(error, OSError)
    if error.errno == errno.ENAMETOOLONG:
        return _refused(request, InputError("This name is too long for a file: shorten it."))
    try:
        raise_if_full(error)
    except StoreFull as full:
        return _refused(request, full)
    _log.exception("a file could not be used", exc_info=error)
    return JSONResponse({"detail": "A file of the data folder cannot be used: look into the server's output."}, status_code=503)


def _no_queue(request: Request, error: Exception) -> JSONResponse:
    """Redis does not answer. Nothing that needed it was done."""
    _log.error("the queue does not answer: %s", error)
    told = "The queue of work does not answer: try again in a moment. Nothing was changed."
    return JSONResponse({"detail": told}, status_code=503, headers={"Retry-After": "5"})


def _too_deep(request: Request, error: Exception) -> JSONResponse:
    return JSONResponse({"detail": "This is nested too deeply to be read: nothing here needs that."}, status_code=422)


def _cannot_stand(request: Request, error: Exception) -> JSONResponse:
    """Values that each could stand, and together cannot."""
    assert isinstance(error, ValidationError)
    _log.warning("refused: %s", error)
    return JSONResponse({"detail": first_sentence(error)}, status_code=422)


def _no_such_number(request: Request, error: Exception) -> JSONResponse:
    """A number that the database has no room for names nothing in it."""
    return JSONResponse({"detail": "There is nothing of that number."}, status_code=404)


def _plain(request: Request, error: Exception) -> JSONResponse:
    """What the framework refuses by itself, as a sentence."""
    assert isinstance(error, HTTPException)
    told = {
        400: "The request cannot be read: its body is not what is taken here.",
        404: "There is nothing at this address.",
        405: "This cannot be done at this address.",
    }.get(error.status_code, str(error.detail))
    return JSONResponse({"detail": told}, status_code=error.status_code, headers=error.headers)


_WHOLE = frozenset({"body", "query", "path", "header", "cookie"})
"""Where a request has a value, which is nobody's word for it."""


def _invalid(request: Request, error: Exception) -> JSONResponse:
    assert isinstance(error, RequestValidationError)
    first = error.errors()[0]
    named = [str(part) for part in first.get("loc", ()) if isinstance(part, str) and part not in _WHOLE]
    where = named[-1] if named else "the request"
    if first["type"] == "value_error":
        # our own sentence, which says what it is about where it is about the whole
        message = str(first["msg"]).removeprefix("Value error, ")
        return JSONResponse(
            {"detail": message if message.startswith("“") or not named else f"{where}: {message}"}, status_code=422
        )
    return JSONResponse({"detail": f"{where}: {_kind_of(str(first['type']), first.get('ctx') or {})}"}, status_code=422)


def _kind_of(kind: str, context: dict[str, Any]) -> str:
    """What a validation found, in a sentence of our own."""
    limits = {
        "greater_than": ("gt", "more than"), "greater_than_equal": ("ge", "at least"), "less_than": ("lt", "less than"),
        "less_than_equal": ("le", "at most"), "string_too_long": ("max_length", "at most that many letters:"),
        "string_too_short": ("min_length", "at least that many letters:"), "too_long": ("max_length", "no longer than"),
    }  # fmt: skip
    if kind in limits:
        key, words = limits[kind]
        return f"it has to be {words} {context.get(key)}."
    if kind == "missing":
        return "it is missing."
    if kind == "extra_forbidden":
        return "nothing of that name is taken here."
    if kind.startswith(("float", "int", "decimal", "finite")):
        return "a number is wanted here."
    return "this is not a value that can stand here."


def create_app(settings: Settings) -> FastAPI:
    """The application over one data folder. Workers are started apart (see :mod:`skalto.api.serving`)."""

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        running = [
            asyncio.create_task(use_cases.of(News).run()),
            asyncio.create_task(_again_and_again(use_cases.of(Studio).collect, "put a read file into its job")),
            asyncio.create_task(_again_and_again(use_cases.of(Issuing).advance_all, "bring an issue forward")),
            asyncio.create_task(_again_and_again(use_cases.of(Releasing).advance_all, "bring a release forward")),
            asyncio.create_task(_again_and_again(use_cases.of(DrawingRegister).advance_all, "bring proofs forward")),
            asyncio.create_task(_again_and_again(queue.attend, "look after the workers", queue.beats_every)),
            asyncio.create_task(_later(_SWEEP_AFTER, lambda: run_daily(tidying), "tidy the data folder", _SWEEP_EVERY)),
        ]
        yield
        for task in running:
            task.cancel()
            with suppress(asyncio.CancelledError):
                await task

    app = FastAPI(
        title="Skalto",
        version=__version__,
        lifespan=lifespan,
        openapi_url="/api/openapi.json",
        docs_url=None,
        redoc_url=None,
        separate_input_output_schemas=False,
    )
    open_database(settings.data / "skalto.db")
    queue = Queue(settings.data, settings.redis, blobs=settings.blob_url, limits=settings.limits, lost=settings.lost_seconds)
    use_cases = UseCases(Studio(settings, queue), News(queue))
    # files that replace a source come in whether anybody is at a desk or not
    use_cases.of(Desk)
    tidying = use_cases.of(Tidying)
    app.state.use_cases = use_cases
    app.state.settings = settings
    for router in routers():
        app.include_router(router, dependencies=[Depends(of_a_job)])
    app.add_exception_handler(InputError, _refused)
    app.add_exception_handler(StoreFull, _refused)
    app.add_exception_handler(OperationalError, _stuck)
    app.add_exception_handler(OSError, _not_written)
    app.add_exception_handler(RedisError, _no_queue)
    app.add_exception_handler(RecursionError, _too_deep)
    app.add_exception_handler(ValidationError, _cannot_stand)
    app.add_exception_handler(OverflowError, _no_such_number)
    app.add_exception_handler(HTTPException, _plain)
    app.add_exception_handler(RequestValidationError, _invalid)
    _serve_page(app, settings)
    app.add_middleware(Guard, settings=settings)
    return app


def _serve_page(app: FastAPI, settings: Settings) -> None:
    """The built page; any path that is not a file of it is one of its own addresses."""
    if not (settings.web / "index.html").exists():
        return
    app.mount("/assets", Assets(directory=settings.web / "assets"), name="assets")

    @app.get("/api/docs", include_in_schema=False)
    def api_docs() -> FileResponse:
        return FileResponse(settings.web / "api-docs" / "api-docs.html", headers={"Cache-Control": "no-cache"})

    @app.get("/{path:path}", include_in_schema=False)
    def page(path: str) -> FileResponse:
        if path == "api" or path.startswith("api/") or not path.isprintable():
            raise HTTPException(404)
        with suppress(OSError):
            # an address may be longer than any file's name
            file = (settings.web / path).resolve()
            if path and file.is_file() and file.is_relative_to(settings.web.resolve()):
                return FileResponse(file)
        return FileResponse(settings.web / "index.html", headers={"Cache-Control": "no-cache"})
