"""Edits of the register that do not fit are refused, and nothing is changed."""

from __future__ import annotations

from typing import Any

import pytest
from pydantic import TypeAdapter, ValidationError

from skalto.core.edits import AnyEdit, Around, apply
from skalto.core.errors import InputError
from skalto.core.job import JobDocument
from skalto.core.release.section import OwnField
from skalto.core.sources.models.parts import PartFacts, PartKind

JOB = JobDocument(
    name="Press", parts={"Cheek": PartFacts(number="EB-101")},
    own_fields=(OwnField(name="Coat", kind="choice", choices=("red", "blue")), OwnField(name="Height", kind="number")),
)  # fmt: skip
ALL = [kind.value for kind in PartKind]


def _applied(**fields: Any) -> JobDocument:
    return apply(JOB, TypeAdapter(AnyEdit).validate_python(fields), Around())


@pytest.mark.parametrize(
    ("fields", "said"),
    [
        ({"kind": "set_parts", "parts": {"Cheek": {"mass": "3"}}}, "“mass” is not typed"),
        ({"kind": "set_parts", "parts": {"Cheek": {"Coat": "green"}}}, "“green” is not a choice of Coat: choose red, blue"),
        ({"kind": "set_parts", "parts": {"Cheek": {"Height": "tall"}}}, "“tall” is no number for Height"),
        ({"kind": "set_parts", "parts": {"Cheek": {"thickness": "-1"}}}, "“-1” is no thickness"),
        ({"kind": "set_parts", "parts": {"Cheek": {"revision": "far too long a word"}}}, "revision: "),
        ({"kind": "set_own_fields", "fields": [{"name": "A"}, {"name": "a"}]}, "Two fields are called"),
        ({"kind": "set_series", "series": [{"kinds": ALL[:-1]}]}, "Assembly is in no series"),
        ({"kind": "set_series", "series": [{"kinds": ALL}, {"kinds": ALL[:1], "prefix": "X"}]}, "Plate is in 2 series"),
        ({"kind": "set_series", "series": [{"kinds": ALL[:1]}, {"kinds": ALL[1:]}]}, "their marks would be the same"),
    ],
)
def test_what_does_not_fit_is_refused(fields: dict[str, Any], said: str) -> None:
    with pytest.raises(InputError) as told:
        _applied(**fields)
    assert said in str(told.value)


@pytest.mark.parametrize("name", ["mass", "Part", "a{b", "a/b", "  "])
def test_names_that_no_field_may_have(name: str) -> None:
    with pytest.raises(ValidationError):
        OwnField(name=name)


def test_what_is_emptied_is_as_the_model_has_it() -> None:
    facts = _applied(kind="set_parts", parts={"Cheek": {"kind": "bought", "Coat": "RED", "thickness": "2,5 mm"}}).parts["Cheek"]
    assert (facts.kind, facts.bought, facts.fields, facts.thickness) == (PartKind.BOUGHT, True, {"Coat": "red"}, 2.5)
    assert facts.number == "EB-101"
    made = JOB.model_copy(update={"parts": {"Cheek": facts}})
    emptied = {"kind": "", "Coat": "", "thickness": ""}
    after = apply(made, TypeAdapter(AnyEdit).validate_python({"kind": "set_parts", "parts": {"Cheek": emptied}}), Around())
    assert after.parts["Cheek"] == PartFacts(number="EB-101")
