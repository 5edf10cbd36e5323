"""Use cases as the routes ask for them."""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeVar

from fastapi import Request

from skalto.core.errors import NotThere
from skalto.services.use_cases.container import UseCases
from skalto.store.keeping import has_source

_Kind = TypeVar("_Kind")


def use(kind: type[_Kind]) -> Callable[[Request], _Kind]:
    """What a route depends on to have the use case of a class: ``Here = Annotated[Desk, Depends(use(Desk))]``."""

    def found(request: Request) -> _Kind:
        use_cases: UseCases = request.app.state.use_cases
        return use_cases.of(kind)

    return found


def of_a_job(request: Request) -> None:
    """What every route depends on: a source is asked for by one who sees a job that has it, not by whoever knows its hash.

    :raises NotThere: when no job has it.
    """
    source = request.path_params.get("source")
    if source is not None and not has_source(source):
        raise NotThere("No job here has this source: add the file to one.")
