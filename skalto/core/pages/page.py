"""A composed page as values: what it is made from, what is on it, what its maker should know."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from skalto.core.annotation.dimension_style import DrawnDimension
from skalto.core.annotation.edge_references import SourceFacts
from skalto.core.annotation.title_block import TitleContext
from skalto.core.artwork import Artwork
from skalto.core.cutter.machine import Machine
from skalto.core.cutting.choices import CutChoices, Plate
from skalto.core.cutting.cut_paths import CutPlan, PlacedPart
from skalto.core.cutting.decorating import Decorated
from skalto.core.cutting.section import CutList
from skalto.core.geometry import Array, Box, Similarity
from skalto.core.geometry.profile import Profile
from skalto.core.lengths import ReferenceLength
from skalto.core.paper import Format
from skalto.core.pens import DEFAULT, Pens, PenSet
from skalto.core.projection.cutting import CutFace
from skalto.core.projection.watch import Watch
from skalto.core.quantities import Scale
from skalto.core.scene.solid import Solid
from skalto.core.sheet_metal.facts import PatternFacts
from skalto.core.sheets.listed import ListedDrawing
from skalto.core.sheets.sheet import ViewSpec
from skalto.core.sources.models.parts import PartFacts


@dataclass(frozen=True, eq=False)
class ViewLines:
    """A projected view: its artwork in the view's plane, model mm, lengths of the model to judge it by, cut faces, for a shaded
    one its picture with the box that it fills in the plane, what rays say of its hidden lines, where they were asked, for an
    excerpt of a PDF its page alone, as a file, empty where it cannot be had, and of a flat pattern what is known of it."""

    artwork: Artwork
    lengths: tuple[ReferenceLength, ...]
    faces: tuple[CutFace, ...] = ()
    pixels: NDArray[np.uint8] | None = None
    pixel_box: Box | None = None
    watch: Watch | None = None
    original: bytes | None = None
    flat: PatternFacts | None = None


@dataclass(frozen=True, eq=False)
class SheetContext:
    """What a sheet is composed from beside itself: facts of its sources by id, what people said of parts, the job's fields for
    the title block, the sheet's pens, and of a cutting sheet its cutting list with the profiles of the list's parts by id, what
    decorations show of drawings, by decoration, and the cutter that it is for; of tables of plates and of drawings these;
    and the format that it is reduced to."""

    sources: Mapping[str, SourceFacts] = field(default_factory=dict)
    parts: Mapping[str, PartFacts] = field(default_factory=dict)
    title: TitleContext = field(default_factory=TitleContext)
    pens: PenSet = DEFAULT
    cut_list: CutList | None = None
    profiles: Mapping[str, Profile] = field(default_factory=dict)
    excerpts: Mapping[str, Artwork] = field(default_factory=dict)
    machine: Machine = field(default_factory=Machine)
    plates: tuple[NamedPlate, ...] = ()
    drawings: tuple[ListedDrawing, ...] = ()
    reduced_to: Format | None = None


@dataclass(frozen=True, eq=False)
class PlacedView:
    """A view on a page: artwork in sheet mm, the box of its lines, its scale, and where the plane's origin went.

    *marks* is what is written on it: dimensions, centre lines, hatching, captions. *region* is the part of the sheet that an
    excerpt takes, (4, 2), whether anything is drawn to its edge or not. *original* is the page of a PDF that it shows, alone.
    """

    spec: ViewSpec
    artwork: Artwork
    box: Box | None
    scale: Scale
    placement: Similarity
    lengths: tuple[ReferenceLength, ...]
    marks: Artwork = field(default_factory=Artwork)
    dimensions: tuple[DrawnDimension, ...] = ()
    region: Array | None = None
    original: bytes | None = None


@dataclass(frozen=True)
class Notice:
    """Something that a sheet's maker should know: a *code*, a sentence with the figure, and the view that it is about."""

    code: str
    message: str
    view: str | None = None
    level: str = "warning"


@dataclass(frozen=True, eq=False)
class CutPage:
    """What is cut of a plate: the parts where they lie, the paths in order, the plate, the choices, all of it as artwork,
    what its maker should know, the decorations on the plate itself, and the cutter that it is for."""

    parts: tuple[PlacedPart, ...]
    plan: CutPlan
    plate: Plate
    choices: CutChoices
    artwork: Artwork
    notices: tuple[Notice, ...] = ()
    decorations: tuple[Decorated, ...] = ()
    machine: Machine = field(default_factory=Machine)

    @property
    def engraved(self) -> Artwork:
        """The areas and pictures to engrave."""
        rows = [*self.decorations, *(own for part in self.parts for own in part.decorations)]
        return sum((own.areas for own in rows), Artwork())


@dataclass(frozen=True, eq=False)
class NamedPlate:
    """A plate of a cutting list, and the name of its sheet."""

    name: str
    page: CutPage


@dataclass(frozen=True, eq=False)
class Page:
    """One page to be written: size in mm, what lies under the views, the views in drawing order, the frame and tables; *inside*
    is where its views belong, within the frame. *reduced_to* is the format that it was reduced to, '' for none, by the factor
    *reduction*."""

    name: str
    width: Fraction
    height: Fraction
    frame: Artwork
    views: tuple[PlacedView, ...]
    under: Artwork = field(default_factory=Artwork)
    notices: tuple[Notice, ...] = ()
    pens: PenSet = DEFAULT
    sources: Mapping[str, SourceFacts] = field(default_factory=dict)
    inside: Box | None = None
    solids: tuple[Solid, ...] = ()
    cut: CutPage | None = None
    reduced_to: str = ""
    reduction: Fraction = Fraction(1)

    def drawn(self, pens: PenSet | None = None) -> Iterator[tuple[PlacedView | None, Artwork, Pens]]:
        """All that is drawn, in drawing order, with the pens that draw it: the view whose own lines it is, or None.

        :param pens: instead of the sheet's own.
        """
        factor = float(self.reduction)
        own = Pens(pens or self.pens, reduction=factor)
        yield None, self.under, own
        for view in self.views:
            facts = self.sources.get(view.spec.source)
            yield view, view.artwork, Pens(own.pens, float(view.scale) / factor, facts.naming if facts else _nameless, factor)
            yield None, view.marks, own
        if self.cut is not None:
            # operations are drawn by the cutter's codes, whatever the pens are for all else
            yield None, self.cut.artwork, Pens(self.cut.choices.codes.pens(own.pens))
        yield None, self.frame, own


def _nameless(component: str) -> tuple[str, ...]:
    return (component,)
