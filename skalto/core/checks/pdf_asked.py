"""A finished PDF against what was asked for: what it is made of, what it paints and writes, and what it says of itself."""

from __future__ import annotations

import io
from collections import Counter
from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np
import pikepdf

from skalto.core.checks.areas import area_checks
from skalto.core.checks.pdf_content import Content, read_content
from skalto.core.checks.pdf_grammar import grammar_check, grammar_of
from skalto.core.checks.pdf_painted import (
    face_of,
    font_faults,
    fonts_of,
    objects_of,
    paints,
    picture_checks,
    said_in,
    said_of,
    text_checks,
)
from skalto.core.checks.pdf_says import UNIT_MM, says_checks
from skalto.core.checks.strokes import Asked, Pieces, of_curves, stroke_checks
from skalto.core.checks.vectors import PageVectors
from skalto.core.checks.verdict import Check
from skalto.core.pdf_dictionaries import PageRecord
from skalto.core.recipes import Recipe


def asked_checks(
    data: bytes,
    known: Sequence[PageRecord],
    drawn: Sequence[PageVectors],
    asked: Sequence[Asked],
    recipe: Recipe,
    password: str = "",
) -> list[Check]:
    """Every page of a file.

    :param known: what the file notes of its pages, or its twin. :param drawn: their paths as pdfium has them, still open.
    """
    if len(drawn) != len(asked):
        reading = f"{len(drawn)} pages for the {len(asked)} that were asked for"
        return [Check(code="pages", title="Pages", verdict="fails", reading=reading)]
    checks: list[Check] = []
    operators = 0
    with pikepdf.open(io.BytesIO(data), password=password) as pdf:
        wrong, count = grammar_of(pdf, recipe)
        used: _Used = {}
        for number, (entry, record, vectors, wanted) in enumerate(zip(pdf.pages, known, drawn, asked, strict=True), 1):
            content = read_content(entry)
            wrong += content.wrong
            operators += content.operators
            if content.wrong:
                # what was not read to its end is not said to lack anything
                checks += _strokes(vectors, wanted, None, number, recipe)
                continue
            unit = float(entry.obj.get("/UserUnit", 1)) * UNIT_MM
            seen = int(np.count_nonzero(~vectors.paths.placed))
            if seen != len(content.paths):
                wrong[f"{len(content.paths)} paths of which {seen} are read"] += 1
                continue
            checks += _strokes(vectors, wanted, content, number, recipe, unit)
            checks += _areas(vectors, wanted, content, number, unit)
            if wrong:
                continue
            fonts = fonts_of(entry)
            checks += text_checks(content, fonts, wanted.texts, unit, number)
            checks += picture_checks(content, objects_of(entry), wanted.pictures, recipe, unit, number)
            if wanted.page is not None:
                checks += says_checks(entry, record, wanted.page, recipe, number)
            _use(used, content, fonts)
        faults = font_faults(used, said_of([text for own in asked for text in own.texts])) if not wrong else Counter()
    return [grammar_check(wrong, count, operators), *checks, *_of_fonts(faults)]


_Used = dict[int, tuple[Any, set[int]]]
"""Fonts by the number of their face, each with the glyphs that are shown."""


def _use(used: _Used, content: Content, fonts: Mapping[str, Any]) -> None:
    for shown in content.texts:
        face = face_of(fonts[shown.font]) if shown.font in fonts else None
        if face is not None:
            used.setdefault(face, (fonts[shown.font], set()))[1].update(shown.glyphs)


def _of_fonts(faults: Counter[str]) -> list[Check]:
    if not faults:
        return []
    reading = "; ".join(list(faults)[:4]) + (f"; and {len(faults) - 4} more" if len(faults) > 4 else "")
    return [Check(code="glyphs", title="Fonts inside", verdict="fails", reading=reading)]


def joined_checks(data: bytes, parts: Sequence[bytes], recipe: Recipe, password: str = "") -> list[Check]:
    """A file of several others' pages, each of which was measured by itself: what the whole is made of, and whether its fonts
    draw and read each glyph as those of the parts do."""
    used: _Used = {}
    says: dict[tuple[int, int], set[str]] = {}
    operators = 0
    with pikepdf.open(io.BytesIO(data), password=password) as pdf:
        wrong, count = grammar_of(pdf, recipe)
        for entry in pdf.pages:
            content = read_content(entry)
            wrong += content.wrong
            operators += content.operators
            _use(used, content, fonts_of(entry))
        for part in parts:
            with pikepdf.open(io.BytesIO(part)) as own:
                there: _Used = {}
                for entry in own.pages:
                    _use(there, read_content(entry), fonts_of(entry))
                for key, texts in said_in(there).items():
                    says.setdefault(key, set()).update(texts)
        faults = font_faults(used, says) if not wrong else Counter()
    return [grammar_check(wrong, count, operators), *_of_fonts(faults)]


def _strokes(
    vectors: PageVectors, asked: Asked, content: Content | None, number: int, recipe: Recipe, unit: float = UNIT_MM
) -> list[Check]:
    """The strokes of a page, with their paint where its content could be read."""
    chosen = ~np.isnan(vectors.paths.width) & ~vectors.paths.placed
    found = _pieces(vectors, chosen, content, unit)
    return stroke_checks(asked, found, number, max(vectors.width, vectors.height), recipe.file == "cutter")


def _pieces(vectors: PageVectors, chosen: Any, content: Content | None, unit: float) -> Pieces:
    """The pieces of the chosen paths; widths of what is filled are none."""
    paths = vectors.paths.rows(chosen)
    curves, owner = paths.curves()
    found = of_curves(curves, np.nan_to_num(paths.width[owner]))
    if content is None:
        return found
    places = (np.cumsum(~vectors.paths.placed) - 1)[chosen]
    return Pieces(found.course, found.width, paints(content, unit).rows(places[owner]))


def _areas(vectors: PageVectors, asked: Asked, content: Content, number: int, unit: float) -> list[Check]:
    """The outlines of what is filled against those asked for."""
    chosen = np.isnan(vectors.paths.width) & ~vectors.paths.placed
    found = _pieces(vectors, chosen, content, unit)
    return area_checks(asked.areas, found, number, max(vectors.width, vectors.height))
