"""A file of several pages is checked against the pages that were measured: one that was touched since is found."""

from __future__ import annotations

import io
import random

import pikepdf
import pytest

from skalto.core.checks.joined import Measured, check_joined
from skalto.core.checks.report import check_pdf
from skalto.core.checks.verdict import Report
from skalto.core.output.pdf.document import Written, written
from skalto.core.output.pdf.joining import Part, join
from skalto.core.output.pdf.metadata import Metadata, Passwords
from skalto.core.recipes import PLAIN, Recipe, changed
from tests.campaigns.altered_pdf import HARMFUL, altered
from tests.core.output.test_recipes import sheet


def parts(recipe: Recipe) -> list[tuple[str, Written, Report]]:
    rows = []
    for name in ("Cheek", "Bed"):
        made = written([sheet(name)], Metadata(name), recipe)
        rows.append((name, made, check_pdf(made.data, recipe, made.twin)))
    return rows


def joined(rows: list[tuple[str, Written, Report]], recipe: Recipe, passwords: Passwords | None = None) -> bytes:
    own = [Part(made.twin or made.data, made.glyphs, name) for name, made, _ in rows]
    return join(own, Metadata("All"), recipe, passwords).data


def checked(data: bytes, rows: list[tuple[str, Written, Report]], recipe: Recipe, password: str = "") -> Report:
    return check_joined(data, [Measured(made.data, report) for _, made, report in rows], recipe, password)


@pytest.mark.parametrize("choices", [{}, {"file": "archive", "viewports": False}, {"colour": "grey"}, {"file": "smallest"}])
def test_a_joined_file_holds_when_its_pages_do(choices: dict[str, object]) -> None:
    recipe = changed(PLAIN, **choices)
    rows = parts(recipe)
    report = checked(joined(rows, recipe), rows, recipe)
    assert report.holds, report.findings
    assert len(report.pages) == 2
    assert {check.code for check in report.checks} >= {"format", "fonts", "layers", "colour", "size"}


def test_a_locked_file_is_looked_into_with_its_password() -> None:
    rows = parts(PLAIN)
    data = joined(rows, PLAIN, Passwords(open="ink"))
    assert checked(data, rows, PLAIN, "ink").holds


def test_a_page_that_is_not_the_one_that_was_measured_is_found() -> None:
    rows = parts(PLAIN)
    data = joined(rows, PLAIN)
    with pikepdf.open(io.BytesIO(data)) as pdf:
        page = pdf.pages[1]
        page.Contents = pdf.make_stream(b"0.99 0 0 0.99 0 0 cm\n" + page.Contents.read_bytes())
        out = io.BytesIO()
        pdf.save(out)
    findings = checked(out.getvalue(), rows, PLAIN).findings
    # a matrix over all of a page is none of ours either
    assert [(f.code, f.page) for f in findings if f.level == "error"] == [("page", 2), ("grammar", None)]
    with pikepdf.open(io.BytesIO(data)) as pdf:
        del pdf.pages[1]
        out = io.BytesIO()
        pdf.save(out)
    findings = checked(out.getvalue(), rows, PLAIN).findings
    assert [(f.code, f.page) for f in findings if f.level == "error"] == [("page", 2)]


@pytest.mark.parametrize("way", ["a font's figures", "read as another", "a note on it", "a script", "an action on opening"])
def test_a_joined_file_that_was_altered_fails(way: str) -> None:
    rows = parts(PLAIN)
    data = altered(joined(rows, PLAIN), HARMFUL[way], random.Random(7))
    assert data is not None
    errors = {f.code for f in checked(data, rows, PLAIN).findings if f.level == "error"}
    assert errors == {"glyphs" if way in ("a font's figures", "read as another") else "grammar"}
