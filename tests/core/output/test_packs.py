"""Names of files: fields filled in, made safe, collisions found."""

from __future__ import annotations

import pytest
from pydantic import ValidationError

from skalto.core.errors import InputError
from skalto.core.fields import filled
from skalto.core.packs import LONGEST, Pack, file_names, safe
from skalto.core.recipes import PLAIN, changed

ROW = {"job": "Ebba", "number": "01", "title": "Cheek, left", "revision": "", "sheet": "Cheek"}


@pytest.mark.parametrize(
    ("pattern", "name"),
    [
        ("{number}_{revision}_{title}", "01_Cheek, left"),
        ("{revision}_{title}", "Cheek, left"),
        ("{title}_{revision}", "Cheek, left"),
        ("{job} - {title}", "Ebba - Cheek, left"),
        ("{job} - {revision} - {title}", "Ebba - Cheek, left"),
        ("plan", "plan"),
        ("{revision}", ""),
    ],
)
def test_an_empty_field_takes_its_mark_along(pattern: str, name: str) -> None:
    assert filled(pattern, ROW) == name


@pytest.mark.parametrize(
    ("name", "made"),
    [
        ("a/b\\c:d", "a-b-c-d"), ("  two  words ", "two_words"), ("CON", "CON_"), ("lpt1.old", "lpt1.old_"), ("...", "sheet"),
        ("Übersicht", "Übersicht"), ("x" * 300, "x" * LONGEST), ("..\\..\\etc", "etc"),
    ],
)  # fmt: skip
def test_names_are_made_safe(name: str, made: str) -> None:
    assert safe(name) == made


def test_files_of_one_name_are_found_whatever_their_case() -> None:
    pack = Pack(id="p", name="P", files="each", pattern="{title}")
    rows = [{"title": "Cheek", "sheet": "First"}, {"title": "CHEEK", "sheet": "Second"}]
    with pytest.raises(InputError, match="Sheets 1 First and 2 Second would both be Cheek"):
        file_names(pack, rows, ".pdf")
    assert [f.name for f in file_names(pack, [rows[0], {"title": "Bed"}], ".pdf")] == ["Cheek.pdf", "Bed.pdf"]


@pytest.mark.parametrize("pattern", ["{wings}", "{title", "title}", " "])
def test_a_bad_pattern_is_refused(pattern: str) -> None:
    with pytest.raises(ValidationError):
        Pack(id="p", name="P", pattern=pattern)


def test_a_recipe_s_words_have_the_same_fields() -> None:
    with pytest.raises(InputError, match="is not a field"):
        changed(PLAIN, title="{wings}")
