"""Pages of other PDFs placed as they are: as forms, cut exactly by the excerpt (ISO 32000-1, 8.10)."""

from __future__ import annotations

import io
import math

import numpy as np
import pikepdf
from pikepdf import Array, Dictionary, Name, Pdf

from skalto.core.artwork import Artwork
from skalto.core.geometry import Array as Numbers
from skalto.core.output.pdf.layers import SharedLayers
from skalto.core.output.pdf.paths import number, real
from skalto.core.output.staging import layer_of
from skalto.core.pages.page import PlacedView
from skalto.core.pens import Pens
from skalto.core.pens.drawing import drawn
from skalto.core.recipes import Recipe, named
from skalto.core.sources.drawings.original import content_of, groups_in, layer_names, lying, members

_DECIMALS = 10


def why_strokes(view: PlacedView, pens: Pens, recipe: Recipe) -> str | None:
    """Why a page of a PDF is drawn anew in strokes, in words; '' where it is placed as it is, None for all other views."""
    excerpt = view.spec.excerpt
    if view.original is None or excerpt is None:
        return None
    if not view.original:
        return "its page cannot be taken out of its file"
    reasons = (
        (view.spec.detail is not None, "a detail is cut out of strokes"),
        (excerpt.strokes, "as chosen"),
        (recipe.file == "cutter", "a cutter takes strokes"),
        (recipe.file == "archive", "an archive file may hold only what is known to last"),
        (recipe.colour != "colour", "its colours are changed"),
        (recipe.text == "outlines", "its text goes out as outlines"),
        (bool(excerpt.texts), "some of its texts are written anew"),
        (bool(excerpt.styles), "some of its layers have colours or widths of their own here"),
        (bool(excerpt.off) and bool(layer_names(view.original) & excerpt.off), "some of its layers are off"),
        (_layers_changed(view.artwork, recipe), "the recipe leaves layers out"),
        (_repenned(view.artwork, pens), "the pens change its lines"),
    )
    return next((text for holds, text in reasons if holds), "")


def _repenned(artwork: Artwork, pens: Pens) -> bool:
    return pens.pens.order == "by rule" or any(pens.pen(item.tags) != drawn(item.tags) for item in artwork)


def _layers_changed(artwork: Artwork, recipe: Recipe) -> bool:
    out = recipe.left_out if recipe.writes_layers else recipe.left_out + recipe.start_hidden
    return bool(out) and any(named(out, layer_of(item, recipe) or item.tags.edge_class.value) for item in artwork)


def matrix_of(view: PlacedView) -> Numbers:
    """From upright mm of the page to mm of the sheet, (3, 2), rows for x, y and what is added."""
    excerpt = view.spec.excerpt
    assert excerpt is not None
    turn = math.radians(excerpt.angle)
    cos, sin = math.cos(turn) * excerpt.unit, math.sin(turn) * excerpt.unit
    own = np.array(((cos, sin), (-sin, cos), (0.0, 0.0)))
    by = view.placement
    return np.vstack((by.vectors(own[:2]), by.points(own[2])))


def placed(
    pdf: Pdf, view: PlacedView, name: str, factor: float, layers: SharedLayers, recipe: Recipe
) -> tuple[bytes, pikepdf.Object]:
    """The operators that place a page, named *name* among the resources, at *factor* units a mm; and its form."""
    assert view.original is not None
    with Pdf.open(io.BytesIO(view.original)) as source:
        page = source.pages[0]
        how = lying(page)
        form = source.make_stream(content_of(page))
        form.Type, form.Subtype, form.FormType = Name.XObject, Name.Form, 1
        form.BBox = Array([real(v) for v in how.box])
        form.Resources = page.resources
        if "/Group" in page.obj:
            form.Group = page.obj.Group
        made = pdf.copy_foreign(form)
    adopt(made.Resources, layers, recipe)
    upright = how.to_mm()
    own = matrix_of(view)
    matrix = np.vstack((upright[:2] @ own[:2], upright[2] @ own[:2] + own[2])) * factor
    # ten decimals: a whole point stays one, and a metre is off by less than a nanometre
    words = b" ".join(number(float(v), _DECIMALS) for v in matrix.ravel())
    clip = b""
    if view.region is not None:
        corners = [number(x * factor, 6) + b" " + number(y * factor, 6) for x, y in view.region.tolist()]
        clip = corners[0] + b" m " + b" l ".join(corners[1:]) + b" l h W n\n"
    return b"q\n" + clip + words + b" cm\n/" + name.encode() + b" Do\nQ\n", made


def adopt(resources: pikepdf.Object, layers: SharedLayers, recipe: Recipe) -> None:
    """The layers of placed content become those of this file, by name; in a file without layers all of it shows."""
    for place, key in list(groups_in(resources)):
        groups = members(place[key])
        if not recipe.writes_layers:
            if key == "/OC":
                del place[key]
            else:
                place[key] = Dictionary()
            continue
        own = [layers.group(str(group.get("/Name", "layer"))) for group in groups]
        if place[key].get("/Type") == Name.OCMD:
            place[key].OCGs = Array(own)
        elif own:
            place[key] = own[0]
