"""The fourth demo job: the workshop's sheet metal, flat patterns with tables of bends, and all of it on a plate."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from skalto.core.artwork import EdgeClass
from skalto.core.cutting.choices import CutChoices, Plate, Turning
from skalto.core.cutting.section import ComponentOrigin, CutList, CutPart, CuttingContent
from skalto.core.geometry import Array
from skalto.core.job import JobDocument
from skalto.core.layout.cutting_sheets import laid_out
from skalto.core.packs import Pack
from skalto.core.quantities import FULL_SIZE, Scale
from skalto.core.sheet_metal.choices import UnfoldChoices
from skalto.core.sheet_metal.facts import PatternFacts
from skalto.core.sheets.annotations import BendTable, Dimension, DimensionKind, HoleTable
from skalto.core.sheets.content import FlatContent, ProjectionContent
from skalto.core.sheets.sheet import SheetSpec, ViewSpec
from skalto.core.sources.models.model import ModelTree
from skalto.core.sources.section import SourceRef
from skalto.core.viewpoint import STANDARD
from skalto.demo.rack import BRACKET, GUARD, TRAY
from skalto.services.use_cases.studio import short_id

_SEEN = (EdgeClass.VISIBLE, EdgeClass.OUTLINE)
_NUMBERS = {TRAY: "EB-210", BRACKET: "EB-211", GUARD: "EB-212"}
_QUANTITY = {TRAY: 2, BRACKET: 6, GUARD: 1}
Middle = Callable[[ViewSpec], Array]


def _sheet(model: SourceRef, tree: ModelTree, row: dict[str, Any], middle: Middle) -> SheetSpec:
    """A part unfolded at full size with its table of bends, and the same folded at half size."""
    facts = PatternFacts.model_validate(row["facts"])
    name, path = row["name"], row["component"]
    place = (34.0 + facts.width / 2, 105.0 + facts.height / 2)
    flat = ViewSpec(
        id=short_id(), source=model.id, name=name, anchor=(facts.width / 2, facts.height / 2), place=place, centres=True,
        content=FlatContent(component=path, grain=True, bends=BendTable(place=(262.0, 282.0))),
        dimensions=(
            Dimension(id="width", kind=DimensionKind.WIDTH, offset=-12.0),
            Dimension(id="height", kind=DimensionKind.HEIGHT, offset=9.0),
        ),
        holes=HoleTable(place=(262.0, 282.0 - 6.0 * (len(facts.bends) + 2))) if len(facts.holes) > 2 else None,
    )  # fmt: skip
    hidden = frozenset(leaf.path for leaf in tree.leaves() if leaf.path != path)
    views = [flat]
    for look, at in (("iso", (372.0, 150.0)), ("top", (298.0, 90.0))):
        seen = STANDARD[look]
        view = ViewSpec(
            id=short_id(), source=model.id, name=look, scale=Scale(1, 2), overrides=frozenset({"scale"}), place=at,
            classes=_SEEN, content=ProjectionContent(look=seen.look, up=seen.up, hidden=hidden), centres=False,
        )  # fmt: skip
        x, y = (seen.axes()[:2] @ middle(view)).tolist()
        views.append(view.model_copy(update={"anchor": (x, y)}))
    return SheetSpec(
        id=short_id(), name=name, format="A3", scale=FULL_SIZE, views=tuple(views),
        title={"number": _NUMBERS[name], "type": "Flat pattern", "revision": "A"},
    )  # fmt: skip


def rack_job(
    model: SourceRef, tree: ModelTree, rows: list[dict[str, Any]], middle: Middle, title: dict[str, str]
) -> JobDocument:
    """The job: a sheet for each part, and a plate on which nothing lies yet.

    :param rows: what was found of the model's parts.
    """
    parts = tuple(
        CutPart(
            id=short_id(), name=row["name"], quantity=_QUANTITY[row["name"]],
            origin=ComponentOrigin(source=model.id, component=row["component"], unfolded=UnfoldChoices()),
        )
        for row in rows
    )  # fmt: skip
    zinc = Plate(width=1000, height=500, thickness=1.5, material="Steel", density=7.85, edge=6)
    cut = CutList(
        id=short_id(), name="Sheet, 1.5 mm", parts=parts, plates=(zinc,),
        choices=CutChoices(gap=3, kerf=0.15, turning=Turning.QUARTER),
    )  # fmt: skip
    sheets = tuple(_sheet(model, tree, row, middle) for row in rows)
    plates = laid_out((), cut, [CuttingContent(cut_list=cut.id)])
    shop = Pack(id="shop", name="For the press brake", sheets=tuple(own.id for own in sheets), pattern="{job}_{title}")
    cutter = Pack(
        id="plates", name="For the cutter", sheets=tuple(own.id for own in plates), recipe="cutter", files="each",
        pattern="{job}_{sheet}", formats=("PDF", "DXF"),
    )  # fmt: skip
    return JobDocument(
        name="Drying rack", sources=(model,), sheets=(*sheets, *plates), cut_lists=(cut,), title=title, packs=(shop, cutter)
    )  # fmt: skip
