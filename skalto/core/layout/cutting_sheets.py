"""The sheets of a cutting list: a sheet a plate, as large as the plate, without a frame."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from skalto.core.cutting.choices import Plate
from skalto.core.cutting.section import CutList, CuttingContent
from skalto.core.paper import FrameStyle, Orientation
from skalto.core.sheets.sheet import SheetSpec

PENS, RECIPE = "hairline", "cutter"
"""What cutting sheets are drawn and written by, of what ships."""


def _format(plate: Plate) -> dict[str, object]:
    way = Orientation.LANDSCAPE if plate.width > plate.height else Orientation.PORTRAIT
    return {"format": f"{plate.width:g}x{plate.height:g}mm", "orientation": way}


def cutting_sheet(sheet_id: str, name: str, cut_list: CutList, content: CuttingContent) -> SheetSpec:
    """A sheet that is a plate."""
    return SheetSpec.model_validate(
        {
            "id": sheet_id, "name": name, "frame": FrameStyle.NONE, "furniture": frozenset(), "clean": True, "pens": PENS,
            "recipe": RECIPE, "cutting": content, **_format(cut_list.plates[content.plate]),
        }
    )  # fmt: skip


def sized(sheet: SheetSpec, cut_list: CutList) -> SheetSpec:
    """A sheet of a cutting list as large as its plate; any other as it is."""
    if sheet.cutting is None or sheet.cutting.cut_list != cut_list.id:
        return sheet
    return sheet.model_copy(update=_format(cut_list.plates[sheet.cutting.plate]))


def laid_out(sheets: Iterable[SheetSpec], cut_list: CutList, contents: Sequence[CuttingContent]) -> tuple[SheetSpec, ...]:
    """Sheets with those of a cutting list laid anew, in order; what is more stands behind the last of them, or at the end."""
    rows = list(sheets)
    own = [n for n, sheet in enumerate(rows) if sheet.cutting is not None and sheet.cutting.cut_list == cut_list.id]
    both = min(len(own), len(contents))
    for number, content in zip(own[:both], contents[:both], strict=True):
        was = rows[number].cutting
        if was is not None and not content.decorations:
            # what is drawn on the plate itself stays
            content = content.model_copy(update={"decorations": was.decorations})
        rows[number] = sized(rows[number].model_copy(update={"cutting": content}), cut_list)
    gone = set(own[len(contents) :])
    known = {sheet.id for sheet in rows}
    more = []
    for number in range(len(own), len(contents)):
        sheet_id = next(name for n in range(number + 1, 10_000) if (name := f"{cut_list.id}-{n}") not in known)
        known.add(sheet_id)
        more.append(cutting_sheet(sheet_id, f"{cut_list.name}, plate {number + 1}", cut_list, contents[number]))
    at = own[-1] + 1 if own else len(rows)
    rows = [*rows[:at], *more, *rows[at:]]
    return tuple(sheet for n, sheet in enumerate(rows) if n not in gone)
