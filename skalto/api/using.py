"""Use cases as the routes ask for them."""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeVar

from fastapi import Request

from skalto.services.use_cases.container import UseCases

_Kind = TypeVar("_Kind")


def use(kind: type[_Kind]) -> Callable[[Request], _Kind]:
    """What a route depends on to have the use case of a class: ``Here = Annotated[Desk, Depends(use(Desk))]``."""

    def found(request: Request) -> _Kind:
        use_cases: UseCases = request.app.state.use_cases
        return use_cases.of(kind)

    return found
