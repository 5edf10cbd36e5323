"""Files of one page each to one file of all: fonts and layers once, whatever pages use them."""

from __future__ import annotations

import io
from collections.abc import Sequence
from dataclasses import dataclass

import pikepdf
from pikepdf import Pdf

from skalto.core.output.pdf.finishing import Finished, finished
from skalto.core.output.pdf.layers import SharedLayers
from skalto.core.output.pdf.metadata import Metadata, Passwords
from skalto.core.output.pdf.originals import adopt
from skalto.core.output.pdf.resources import SharedFonts, Used
from skalto.core.recipes import Recipe


@dataclass(frozen=True)
class Part:
    """A written file, the glyphs that it holds, and the name of its page."""

    data: bytes
    glyphs: Used
    name: str


def _share(page: pikepdf.Page, fonts: SharedFonts, layers: SharedLayers, glyphs: Used, recipe: Recipe) -> None:
    """Let a page that came from another file use this file's fonts and layers."""
    resources = page.obj.Resources
    if "/Font" in resources:
        for face in glyphs:
            resources.Font[f"/F{face}"] = fonts.entry(face)
    adopt(resources, layers, recipe)


def join(parts: Sequence[Part], metadata: Metadata, recipe: Recipe, passwords: Passwords | None = None) -> Finished:
    """One PDF of all pages, in order, with bookmarks and page labels. Parts whose files had something left out come as their
    twins.

    :raises InputError: when the choices do not go together.
    """
    pdf = Pdf.new()
    fonts, layers = SharedFonts(pdf), SharedLayers(pdf)
    sources = []
    for part in parts:
        fonts.add(part.glyphs)
        source = Pdf.open(io.BytesIO(part.data))
        sources.append(source)
        for page in source.pages:
            pdf.pages.append(page)
            _share(pdf.pages[-1], fonts, layers, part.glyphs, recipe)
    fonts.embed()
    layers.register(recipe)
    made = finished(pdf, metadata, recipe, [part.name for part in parts], passwords)
    for source in sources:
        source.close()
    return made
