"""Edits: the changes that a person makes to a job, each a value that knows what it does and what it is called."""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, ClassVar, TypeVar

import numpy as np
from pydantic import BaseModel, ConfigDict, ValidationError

from skalto.core.errors import InputError, NotThere, first_sentence
from skalto.core.geometry import Array
from skalto.core.job import JobDocument
from skalto.core.sheets.sheet import SheetSpec, ViewSpec
from skalto.core.sources.drawings.drawing import DrawingFacts
from skalto.core.typed import Text

Middle = Callable[[ViewSpec], Array]
"""The middle, model mm (3,), of what a view shows."""
Drawings = Callable[[str], DrawingFacts]
"""The facts of a drawing by its source's id."""


def at_origin(view: ViewSpec) -> Array:
    return np.zeros(3)


def no_drawing(source: str) -> DrawingFacts:
    raise InputError("This drawing is not read yet: wait a moment.")


@dataclass(frozen=True)
class Around:
    """What edits may ask beside the job: about its sources."""

    middle: Middle = at_origin
    drawings: Drawings = no_drawing


class Edit(BaseModel):
    """A change of a job: a new one comes of it, the one that was stays as it is."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    kind: str

    @property
    def singles(self) -> tuple[Edit, ...]:
        """The single edits that it is made of: itself, unless it is several."""
        return (self,)

    @abstractmethod
    def apply(self, job: JobDocument, around: Around) -> JobDocument:
        """The job after it. :raises InputError: when it does not fit the job, with the sentence that says why."""

    @abstractmethod
    def label(self, job: JobDocument) -> str:
        """What it does to a job, for the undo button: few words, lower case."""


class SheetEdit(Edit):
    """A change of one sheet."""

    sheet: Text

    def apply(self, job: JobDocument, around: Around) -> JobDocument:
        return job.with_sheet(self.changed(job.sheet(self.sheet), job, around))

    def changed(self, sheet: SheetSpec, job: JobDocument, around: Around) -> SheetSpec:
        """The sheet after it."""
        raise NotImplementedError


class ViewEdit(SheetEdit):
    """A change of one view of a sheet."""

    view: Text

    def title(self, job: JobDocument) -> str:
        """What the view is called."""
        return view_on(job.sheet(self.sheet), self.view).title


Value = TypeVar("Value", bound=BaseModel)


def _bare(schema: dict[str, Any]) -> None:
    """What is not given stays as it is: a schema must not say what it would be."""
    for own in schema.get("properties", {}).values():
        own.pop("default", None)


class Patch(BaseModel):
    """Some fields of a value; those that are not given stay as they are."""

    model_config = ConfigDict(frozen=True, extra="forbid", json_schema_extra=_bare)

    words: ClassVar[dict[str, str]] = {}
    """What a change of a field is called, the more telling field first: a change of scale may carry a move with it."""

    @property
    def word(self) -> str:
        return next((word for name, word in self.words.items() if name in self.model_fields_set), "change")

    def given(self) -> dict[str, Any]:
        """The fields that are given."""
        return self.model_dump(exclude_unset=True)

    def on(self, value: Value) -> Value:
        """A value with the given fields in place of its own."""
        return replaced(value, self.given())


UNGIVEN: Any = None
"""Stands for a field that a patch need not give; it is never looked at."""


def replaced(value: Value, fields: dict[str, Any]) -> Value:
    """A value with some fields replaced, validated anew. :raises InputError: for what does not fit."""
    try:
        return type(value).model_validate(value.model_dump() | fields)
    except ValidationError as error:
        raise InputError(first_sentence(error)) from None


def view_on(sheet: SheetSpec, view_id: str) -> ViewSpec:
    """:raises NotThere: when the sheet has no such view."""
    try:
        return sheet.view(view_id)
    except KeyError:
        raise NotThere("This view is no longer on the sheet: choose another.") from None


def without(items: tuple[Any, ...], item_id: str) -> tuple[Any, ...]:
    """Items but for the one of an id."""
    return tuple(item for item in items if item.id != item_id)


def among(items: tuple[Any, ...], item_id: str, what: str) -> Any:
    """The item of an id. :raises NotThere: when there is none."""
    for item in items:
        if item.id == item_id:
            return item
    raise NotThere(f"This {what} is no longer there: choose another.")


def exchanged(items: tuple[Any, ...], new: Any) -> tuple[Any, ...]:
    """Items with a new one in place of the one of its id."""
    return tuple(new if item.id == new.id else item for item in items)


def kept(items: tuple[Any, ...], new: Any) -> tuple[Any, ...]:
    """With a new item at the end, or in the place of the one of its id."""
    return exchanged(items, new) if any(item.id == new.id for item in items) else (*items, new)
