"""Tasks: work that a worker's process does, each a function of one frozen argument."""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Callable
from dataclasses import dataclass
from typing import Generic, TypeVar

from pydantic import BaseModel, ConfigDict

from skalto.core.progress import Progress
from skalto.jobs.limits import Kind


class TaskArgument(BaseModel):
    """All that a task needs to know. Its key names the work, and the blobs that come of it: the same argument is the same
    work."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    @property
    @abstractmethod
    def key(self) -> str:
        """What the work goes by."""


Argument = TypeVar("Argument", bound=TaskArgument)
Do = Callable[[Argument, str, Progress], None]
"""From the argument, the blob store's URL and where to report."""


@dataclass(frozen=True)
class Task(Generic[Argument]):
    """A function that workers do, and the kind of work that it is, which limits it.

    Workers find it by its module and name, load that, and call it with the argument as JSON.
    """

    do: Do[Argument]
    argument: type[Argument]
    kind: Kind

    @property
    def name(self) -> str:
        """``module:function``."""
        return f"{self.do.__module__}:{self.do.__name__}"

    def __call__(self, blobs: str, argument: str, report: Progress) -> None:
        self.do(self.argument.model_validate_json(argument), blobs, report)


def task(argument: type[Argument], kind: Kind) -> Callable[[Do[Argument]], Task[Argument]]:
    """Makes a function of an argument, the blob store's URL and a report a task."""

    def made(do: Do[Argument]) -> Task[Argument]:
        return Task(do, argument, kind)

    return made
