"""The FastAPI application: routes, errors as sentences, the built page."""

from __future__ import annotations

import asyncio
import logging
from collections.abc import AsyncIterator, Callable
from contextlib import asynccontextmanager, suppress
from typing import Any

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import FileResponse, JSONResponse
from starlette.staticfiles import StaticFiles

from skalto import __version__
from skalto.api.desk_routes import router as desk_router
from skalto.api.drawing_routes import router as drawing_router
from skalto.api.output_routes import router as output_router
from skalto.api.pen_routes import router as pen_router
from skalto.api.proof_routes import router as proof_router
from skalto.api.routes import router
from skalto.api.solid_routes import router as solid_router
from skalto.core.errors import InputError
from skalto.jobs.queue import Queue
from skalto.services.desk import Desk
from skalto.services.drawings import Drawings
from skalto.services.issuing import Issuing
from skalto.services.looking import Looking
from skalto.services.penning import Penning
from skalto.services.proofing import Proofing
from skalto.services.solids import Solids
from skalto.services.studio import Studio
from skalto.settings import Settings
from skalto.store.jobs import open_database

_COLLECT_SECONDS = 0.25
_log = logging.getLogger(__name__)


async def _again_and_again(work: Callable[[], None], what: str) -> None:
    """Do something over and over, whether a page is open or not."""
    while True:
        try:
            await asyncio.to_thread(work)
        except Exception:
            _log.exception("could not %s", what)
        await asyncio.sleep(_COLLECT_SECONDS)


def _refused(request: Request, error: Exception) -> JSONResponse:
    return JSONResponse({"detail": str(error)}, status_code=422)


def _invalid(request: Request, error: Exception) -> JSONResponse:
    assert isinstance(error, RequestValidationError)
    first = error.errors()[0]
    where = next((str(part) for part in reversed(first.get("loc", ())) if isinstance(part, str)), "the request")
    if first["type"] == "value_error":
        # our own sentence
        message = str(first["msg"]).removeprefix("Value error, ")
        return JSONResponse({"detail": message if message.startswith("“") else f"{where}: {message}"}, status_code=422)
    return JSONResponse({"detail": f"{where}: {_kind_of(str(first['type']), first.get('ctx') or {})}"}, status_code=422)


def _kind_of(kind: str, context: dict[str, Any]) -> str:
    """What a validation found, in a sentence of our own."""
    limits = {
        "greater_than": ("gt", "more than"), "greater_than_equal": ("ge", "at least"), "less_than": ("lt", "less than"),
        "less_than_equal": ("le", "at most"), "string_too_long": ("max_length", "at most that many letters:"),
        "string_too_short": ("min_length", "at least that many letters:"), "too_long": ("max_length", "at most that many:"),
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
            asyncio.create_task(_again_and_again(app.state.studio.collect, "put a read file into its job")),
            asyncio.create_task(_again_and_again(app.state.issuing.advance_all, "bring an issue forward")),
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
        docs_url=None,
        redoc_url=None,
        separate_input_output_schemas=False,
    )
    open_database(settings.data / "skalto.db")
    app.state.studio = Studio(settings, Queue(settings.data, settings.redis))
    app.state.desk = Desk(app.state.studio)
    app.state.drawings = Drawings(app.state.studio)
    app.state.penning = Penning(app.state.desk)
    app.state.proofing = Proofing(app.state.studio)
    app.state.looking = Looking(app.state.proofing)
    app.state.solids = Solids(app.state.looking)
    app.state.issuing = Issuing(app.state.proofing)
    app.include_router(router)
    app.include_router(desk_router)
    app.include_router(drawing_router)
    app.include_router(pen_router)
    app.include_router(output_router)
    app.include_router(proof_router)
    app.include_router(solid_router)
    app.add_exception_handler(InputError, _refused)
    app.add_exception_handler(RequestValidationError, _invalid)
    _serve_page(app, settings)
    return app


def _serve_page(app: FastAPI, settings: Settings) -> None:
    """The built page; any path that is not a file of it is one of its own addresses."""
    if not (settings.web / "index.html").exists():
        return
    app.mount("/assets", StaticFiles(directory=settings.web / "assets"), name="assets")

    @app.get("/{path:path}", include_in_schema=False)
    def page(path: str) -> FileResponse:
        file = (settings.web / path).resolve()
        if path and file.is_file() and file.is_relative_to(settings.web.resolve()):
            return FileResponse(file)
        return FileResponse(settings.web / "index.html", headers={"Cache-Control": "no-cache"})
