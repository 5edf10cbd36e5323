"""The parts register of a job, from models that were read and looked through."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from skalto.core.job import JobDocument
from skalto.core.release.marks import Numbering
from skalto.core.release.register import FoundKind, ModelAtHand, PartRow, register
from skalto.core.sources.models.parts import PartFacts
from skalto.services.stored.context import load_tree
from skalto.store.blobs import Blobs


def model_at_hand(store: Blobs, source: str, name: str, looked: Iterable[Mapping[str, Any]]) -> ModelAtHand:
    """A model with what was found of its parts; *looked* are the rows that looking for sheet metal gave."""
    found = {
        path: FoundKind.model_validate(row["found"]) for row in looked for path in row["components"] if "found" in row
    }  # fmt: skip
    return ModelAtHand(source, name, load_tree(store, source), found)


def rows_of(document: JobDocument, models: Iterable[ModelAtHand]) -> list[PartRow]:
    """The register of a job."""
    return register(tuple(models), document.parts, document.own_fields)


def with_marks(document: JobDocument, made: Numbering) -> JobDocument:
    """A job in which parts have their marks."""
    nothing = PartFacts()
    parts = {key: document.parts.get(key, nothing).model_copy(update={"mark": mark}) for key, mark in made.marks.items()}
    return document.model_copy(update={"parts": document.parts | parts, "given_marks": made.given})
