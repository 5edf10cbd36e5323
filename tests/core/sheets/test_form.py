"""The form of the job document: whoever changes what it holds raises its number."""

from __future__ import annotations

import hashlib
import json
from typing import Any

import pytest
from pydantic import ValidationError

from skalto.core.errors import first_sentence
from skalto.core.job import FORM, JobDocument

FORMS = {2: "39c05cf2971f6019", 3: "5dae7042c2e7a97f"}
"""What names the fields of each form, the last one's checked below."""


def _plain(schema: Any) -> Any:
    """A schema without what is said of it: words may change."""
    if isinstance(schema, dict):
        return {
            key: _plain(value)
            for key, value in schema.items()
            if key not in ("description", "title") or isinstance(value, dict)
        }
    return [_plain(own) for own in schema] if isinstance(schema, list) else schema


def _name() -> str:
    text = json.dumps(_plain(JobDocument.model_json_schema()), sort_keys=True)
    return hashlib.sha256(text.encode()).hexdigest()[:16]


def test_a_change_of_the_document_has_a_new_form() -> None:
    assert max(FORMS) == FORM
    assert FORMS[FORM] == _name(), (
        f"The job document's fields have changed ({_name()}): raise FORM in skalto/core/job.py by one, and note the new name "
        "here. Releases of the old form refuse it then, and lose nothing of it."
    )


def test_another_document_has_another_name() -> None:
    class Larger(JobDocument):
        unheard_of: int = 0

    text = json.dumps(_plain(Larger.model_json_schema()), sort_keys=True)
    assert hashlib.sha256(text.encode()).hexdigest()[:16] != _name()


def test_a_later_form_and_unknown_fields_are_refused() -> None:
    with pytest.raises(ValidationError) as error:
        JobDocument.model_validate({"name": "Later", "form": FORM + 1, "anything": 1})
    assert "“Later” was written by a newer release" in first_sentence(error.value)
    with pytest.raises(ValidationError):
        JobDocument.model_validate({"name": "Odd", "anything": 1})
    # what was written before there was a number is read, and has it from then on
    assert JobDocument.model_validate({"name": "Old"}).form == FORM
    assert JobDocument.model_validate({"name": "Old", "form": 1}).form == FORM
