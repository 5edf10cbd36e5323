"""The third demo job: the press's flat parts and its nameplates on plates, engraved, for the cutter."""

from __future__ import annotations

import orjson

from skalto.core.cutting.choices import CutChoices, Plate, Turning
from skalto.core.cutting.decorations import Decoration, ExcerptContent, LetteringContent
from skalto.core.cutting.section import ComponentOrigin, ContoursOrigin, CutList, CutPart, CuttingContent
from skalto.core.edits.of_cutting import LayParts
from skalto.core.job import JobDocument
from skalto.core.layout.cutting_sheets import laid_out
from skalto.core.packs import Pack
from skalto.core.sheets.sheet import SheetSpec
from skalto.core.sources.models.model import ModelTree
from skalto.core.sources.section import SourceRef
from skalto.demo import nameplate
from skalto.demo.hands import Hands, work
from skalto.services.tasks.cutting import ArrangeParts, arrange_parts
from skalto.services.use_cases.studio import Studio, short_id
from skalto.store.jobs import StoredJob

NAME = "Nameplate.dxf"
ORNAMENT = "Ornament.dxf"
SECONDS = 1.0
"""So long is looked for each arrangement at most."""


def _component(tree: ModelTree, source: str, name: str) -> CutPart:
    path = next(leaf.path for leaf in tree.leaves() if leaf.path.endswith(f"/{name}"))
    return CutPart(id=short_id(), name=name, origin=ComponentOrigin(source=source, component=path))


def _nameplate(source: str, ornament: str) -> CutPart:
    middle, high = nameplate.WIDTH / 2, nameplate.HEIGHT
    drawn = (
        Decoration(id="name", content=LetteringContent(text="EBBA", height=11), x=middle - 8, y=high * 0.64),
        Decoration(
            id="maker",
            content=LetteringContent(text="Verkstan print workshop", height=2.5, letters="single strokes"),
            operation="score",
            x=middle - 8,
            y=high * 0.24,
        ),
        Decoration(id="ornament", content=ExcerptContent(source=ornament), x=nameplate.WIDTH - 25, y=high / 2, turn=30),
    )
    return CutPart(id=short_id(), name="Nameplate", origin=ContoursOrigin(source=source), quantity=4, decorations=drawn)


def cut_lists(tree: ModelTree, model: str, plate: str, ornament: str) -> tuple[CutList, ...]:
    """What is cut of 8 mm and of 10 mm plate, and the nameplates."""
    steel = Plate(width=600, height=400, thickness=8, material="Steel", density=7.85, edge=8)
    thicker = steel.model_copy(update={"width": 500.0, "height": 300.0, "thickness": 10.0})
    return (
        CutList(
            id=short_id(), name="Cheeks, 8 mm", choices=CutChoices(gap=4, kerf=0.4, turning=Turning.ANY, lead_in=2),
            parts=tuple(_component(tree, model, name) for name in ("Cheek, left", "Cheek, right")),
            plates=(steel,),
        ),
        CutList(
            id=short_id(), name="Bed, 10 mm", choices=CutChoices(gap=4, kerf=0.45, lead_in=2),
            parts=(_component(tree, model, "Bed plate"),), plates=(thicker,),
        ),
        CutList(
            id=short_id(), name="Nameplates, 3 mm", choices=CutChoices(gap=3, kerf=0.18),
            parts=(_nameplate(plate, ornament),),
            plates=(Plate(width=220, height=110, thickness=3, material="Acrylic", density=1.18),),
        ),
    )  # fmt: skip


def plates_job(model: SourceRef, tree: ModelTree, drawings: tuple[SourceRef, SourceRef], title: dict[str, str]) -> JobDocument:
    """The job, a plate for each list, on which nothing lies yet."""
    lists = cut_lists(tree, model.id, drawings[0].id, drawings[1].id)
    sheets: tuple[SheetSpec, ...] = ()
    for own in lists:
        sheets = laid_out(sheets, own, [CuttingContent(cut_list=own.id)])
    pack = Pack(
        id="plates", name="For the cutter", sheets=tuple(own.id for own in sheets), recipe="cutter", files="each",
        pattern="{job}_{sheet}", formats=("PDF", "DXF"),
    )  # fmt: skip
    return JobDocument(
        name="Ebba plates", sources=(model, *drawings), sheets=sheets, cut_lists=lists, title=title, packs=(pack,)
    )  # fmt: skip


def lay_plates(studio: Studio, hands: Hands, job: StoredJob) -> None:
    """Arrange the lists, side by side."""
    asked = [ArrangeParts(cut_list=own, seconds=SECONDS) for own in job.document.cut_lists]
    hands.done([work(arrange_parts, own) for own in asked])
    for own in asked:
        found = orjson.loads(studio.blobs.get(f"{own.key}.json"))
        contents = tuple(CuttingContent.model_validate(row) for row in found["contents"])
        studio.edit(job.id, LayParts(kind="lay_parts", cut_list=own.cut_list.id, contents=contents))
