"""Files on their way in: a request's body goes to the disk a piece at a time, and no further than the limit."""

from __future__ import annotations

import os
import tempfile
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path
from typing import Any

from fastapi import Request
from starlette.concurrency import run_in_threadpool
from starlette.requests import ClientDisconnect

from skalto.core.errors import InputError, TooLarge, raise_if_full

_PIECE = 1 << 20

FILE_BODY: dict[str, Any] = {
    "requestBody": {
        "required": True,
        "content": {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}},
    }
}
"""What the API's description says of a route that takes a file as its body."""


def _over(name: str, limit: int) -> TooLarge:
    return TooLarge(f"{name} is over the limit of {limit / 1e6:.0f} MB: simplify it, or raise the limit in the settings.")


@asynccontextmanager
async def received(request: Request, folder: Path, name: str, limit: int) -> AsyncIterator[Path]:
    """The body as a file in *folder*, gone afterwards.

    :raises TooLarge: when it is, or says it is, over *limit* bytes. :raises InputError: when it breaks off.
    :raises StoreFull: when there is no room.
    """
    said = request.headers.get("content-length", "")
    if said.isdigit() and int(said) > limit:
        raise _over(name, limit)
    await run_in_threadpool(folder.mkdir, parents=True, exist_ok=True)
    handle, path = tempfile.mkstemp(dir=folder)
    file = os.fdopen(handle, "wb")
    try:
        taken, waiting = 0, bytearray()
        try:
            async for piece in request.stream():
                taken += len(piece)
                if taken > limit:
                    raise _over(name, limit)
                waiting += piece
                if len(waiting) >= _PIECE:
                    await run_in_threadpool(file.write, waiting)
                    waiting = bytearray()
            await run_in_threadpool(file.write, waiting)
            await run_in_threadpool(file.flush)
        except ClientDisconnect:
            raise InputError(f"{name} broke off on its way: send it again.") from None
        except OSError as error:
            raise_if_full(error)
            raise
        yield Path(path)
    finally:
        # what could not be written cannot be written while closing either
        try:
            file.close()
        except OSError:
            pass
        finally:
            Path(path).unlink(missing_ok=True)
