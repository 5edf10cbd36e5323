"""The stream of news: one for each page, in place of asking again and again."""

from __future__ import annotations

from collections.abc import AsyncIterator
from typing import Annotated

from fastapi import APIRouter, Depends, Query
from sse_starlette import EventSourceResponse, ServerSentEvent

from skalto.api.schemas import PROBLEMS
from skalto.api.using import use
from skalto.services.use_cases.news import News

router = APIRouter(prefix="/api", responses=PROBLEMS, tags=["news"])
_PING_SECONDS = 15


@router.get("/events", response_class=EventSourceResponse)
async def events(
    news: Annotated[News, Depends(use(News))], job: Annotated[int | None, Query(ge=1)] = None
) -> EventSourceResponse:
    """What changes of a job, or of all: server-sent events whose data is an object with ``kind`` (job, incoming, issue, work,
    or all: look at everything) and ``job``."""

    async def stream() -> AsyncIterator[ServerSentEvent]:
        async for item in news.heard(job):
            yield ServerSentEvent(item.model_dump_json())

    return EventSourceResponse(stream(), ping=_PING_SECONDS, headers={"X-Accel-Buffering": "no"})
