"""What a page of a PDF says of itself against what was asked for: its size, its rulers with all their factors, the lengths
that it can be measured by, and its fields in 3D."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Any

import pikepdf

from skalto.core.checks.pdf_painted import shows
from skalto.core.checks.verdict import Check
from skalto.core.output.pdf.ink import Ink
from skalto.core.output.pdf.solids import holds_solids
from skalto.core.pages.page import Page, PlacedView
from skalto.core.pdf_dictionaries import PageRecord, ViewRecord
from skalto.core.quantities import PT_PER_MM
from skalto.core.recipes import Recipe
from skalto.core.scene.solid import Solid, SolidFacts

UNIT_MM = float(1 / PT_PER_MM)
SIZE = 2e-3
"""What a page, a ruler's box or a field may be off, mm."""
FACTOR = 1e-8
"""What a ruler's factor may be off, as a share of it."""
_POSTER = re.compile(rb"\s*q\s+([\d.]+)\s+0\s+0\s+([\d.]+)\s+0\s+0\s+cm\s+/P0\s+Do\s+Q\s*")


def says_checks(entry: pikepdf.Page, known: PageRecord, page: Page, recipe: Recipe, number: int) -> list[Check]:
    """Page *number*, from 1.

    :param known: what its own file, or its twin where it had to go without, notes of it.
    """
    unit = float(entry.obj.get("/UserUnit", 1)) * UNIT_MM
    wrong = [*_size(entry, page, unit), *_rulers(entry, page, recipe, unit), *_lengths(known, page)]
    wrong += _fields(entry, page, recipe, unit)
    if wrong:
        told = "; ".join(wrong[:4]) + (f"; and {len(wrong) - 4} more" if len(wrong) > 4 else "")
        return [Check(code="says", title="Says of itself", verdict="fails", reading=told, page=number)]
    views = sum(1 for own in page.views if own.box is not None)
    rulers = f"{views if recipe.viewports else 0} rulers"
    reading = f"its size, {rulers}, {sum(len(own.lengths) for own in page.views)} lengths, each as asked for"
    return [Check(code="says", title="Says of itself", verdict="holds", reading=reading, page=number)]


def _box(value: Any, unit: float) -> tuple[float, ...]:
    return tuple(float(own) * unit for own in value)


def _off(one: tuple[float, ...], other: tuple[float, ...]) -> float:
    return max((abs(a - b) for a, b in zip(one, other, strict=True)), default=0.0)


def _size(entry: pikepdf.Page, page: Page, unit: float) -> Iterator[str]:
    wanted = 0.0, 0.0, float(page.width), float(page.height)
    for name in ("/MediaBox", "/TrimBox"):
        if _off(_box(entry.obj.get(name, ()) or (0,) * 4, unit), wanted) > SIZE:
            yield f"{name[1:]} is not {float(page.width):g} × {float(page.height):g} mm"


def _drawn(page: Page) -> list[PlacedView]:
    return [own for own in page.views if own.box is not None]


def _rulers(entry: pikepdf.Page, page: Page, recipe: Recipe, unit: float) -> Iterator[str]:
    """Measurement viewports (ISO 32000-1, 12.9): where none has one dimension more than another, X is for both, D and A go on
    from what X gives."""
    found = list(entry.obj.get("/VP", ()))
    views = _drawn(page) if recipe.viewports else []
    if len(found) != len(views):
        yield f"{len(found)} rulers for {len(views)} views"
        return
    for own, view in zip(found, views, strict=True):
        box = view.box
        assert box is not None
        if view.region is not None:
            (x0, y0), (x1, y1) = view.region.min(axis=0).tolist(), view.region.max(axis=0).tolist()
            box = x0, y0, x1, y1
        name = view.spec.label
        if str(own.Name) != name or str(own.Measure.R) != str(view.spec.scale):
            yield f"the ruler of {name} is called {own.Name}, {own.Measure.R}"
        if _off(_box(own.BBox, unit), tuple(float(v) for v in box)) > SIZE:
            yield f"the ruler of {name} lies elsewhere"
        factors = {"X": (unit / float(view.spec.scale), "mm"), "D": (1.0, "mm"), "A": (1.0, "mm²")}
        for key, (wanted, called) in factors.items():
            rows = list(own.Measure[f"/{key}"])
            if len(rows) != 1 or abs(float(rows[0].C) / wanted - 1) > FACTOR or str(rows[0].U) != called:
                yield f"the ruler of {name} reads {key} by another factor"


def _lengths(known: PageRecord, page: Page) -> Iterator[str]:
    views = _drawn(page)
    if known.format_mm is None:
        yield "what it can be measured by is not in it"
        return
    if len(known.views) != len(views):
        yield f"known lengths of {len(known.views)} views are in it, for {len(views)}"
        return
    for own, view in zip(known.views, views, strict=True):
        if own.scale != view.spec.scale or own.name != view.spec.label or abs(own.turn - view.spec.rotation % 360) % 360 > 1e-5:
            yield f"what is noted of {view.spec.label} is of another view"
        elif not _same_lengths(own, view):
            yield f"the known lengths of {view.spec.label} are others"


def _same_lengths(own: ViewRecord, view: PlacedView) -> bool:
    if len(own.lengths) != len(view.lengths):
        return False
    for found, wanted in zip(own.lengths, view.lengths, strict=True):
        if found.kind != wanted.kind or abs(found.value - wanted.value) > 1e-6:
            return False
        if (found.centre is None) is not (wanted.centre is None):
            return False
    return True


def _fields(entry: pikepdf.Page, page: Page, recipe: Recipe, unit: float) -> Iterator[str]:
    """3D annotations (13.6.2): there, where they were put, with their model, their facts and the picture that stands for it."""
    found = list(entry.obj.get("/Annots", ()))
    wanted = page.solids if holds_solids(recipe) else ()
    if len(found) != len(wanted):
        yield f"{len(found)} fields in 3D for {len(wanted)}"
        return
    if not wanted:
        return
    private: Any = entry.obj.get("/PieceInfo", pikepdf.Dictionary())
    for key in ("/Skalto", "/Private"):
        private = private.get(key, pikepdf.Dictionary())
    facts = list(private.get("/Solids", ()))
    if len(facts) != len(wanted):
        yield f"what {len(facts)} fields in 3D are judged by is in it, for {len(wanted)}"
        return
    for own, solid, fact in zip(found, wanted, facts, strict=True):
        yield from (f"{solid.spec.name}: {what}" for what in _field(own, solid, fact, recipe, unit))


def _field(own: Any, solid: Solid, fact: Any, recipe: Recipe, unit: float) -> Iterator[str]:
    spec = solid.spec
    if str(own.get("/NM", "")) != spec.id or _off(_box(own.Rect, unit), tuple(float(v) for v in spec.inner)) > SIZE:
        yield "its field lies elsewhere"
    if own["/3DD"].read_bytes() != solid.u3d:
        yield "its model is another"
    chosen = [view.id for view in solid.views].index(spec.opens_with.id)
    if own["/3DV"] != chosen or chosen != own["/3DD"].DV:
        yield "it opens with another view"
    opening = spec.opening
    active = {
        "/A": "/PO" if opening.start == "page" else "/XA", "/D": "/PC" if opening.leave else "/XD", "/TB": opening.tools,
        "/NP": opening.tree,
    }  # fmt: skip
    if any(own["/3DA"][key] != value for key, value in active.items()):
        yield "it wakes, or goes to sleep, otherwise"
    told = SolidFacts.model_validate_json(fact.read_bytes())
    if told != solid.facts.model_copy(update={"dpi": min(solid.facts.dpi, recipe.picture_dpi)}):
        yield "what it is judged by is another model's"
    appearance = own.AP.N
    drawn = _POSTER.fullmatch(appearance.read_bytes())
    size = tuple((b - a) for a, b in zip(spec.inner[:2], spec.inner[2:], strict=True))
    if drawn is None or _off(tuple(float(v) * unit for v in drawn.groups()), tuple(float(v) for v in size)) > SIZE:
        yield "the picture that stands for it is drawn otherwise"
    elif not shows(appearance.Resources.XObject.P0, solid.poster, Ink(recipe.colour)):
        yield "the picture that stands for it shows something else"
