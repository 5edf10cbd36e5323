"""Title blocks: two templates, and how their fields fill themselves in (ISO 7200, from memory)."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import date

from pydantic import Field

from skalto.core.job_section import JobSection
from skalto.core.paper import FrameStyle
from skalto.core.quantities import Scale
from skalto.core.sheets.sheet import Arrangement, SheetSpec

LABELS: dict[str, str] = {
    "owner": "Legal owner",
    "number": "Identification number",
    "title": "Title",
    "supplementary": "Supplementary title",
    "type": "Document type",
    "date": "Date of issue",
    "sheet": "Sheet",
    "approval": "Approved by",
    "creator": "Created by",
    "revision": "Rev.",
    "scale": "Scale",
    "format": "Format",
    "material": "Material",
    "mass": "Mass",
    "tolerances": "General tolerances",
    "reference": "Technical reference",
    "department": "Department",
    "status": "Status",
    "language": "Lang.",
    "projection": "Projection",
}
"""The fields of a title block as they are labelled."""

REQUIRED = ("owner", "number", "date", "sheet", "title", "approval", "creator", "type")
"""What must not be empty: ISO 7200, from memory."""

JOB_FIELDS = ("owner", "creator", "approval", "department", "tolerances", "language")
"""What is the same on every sheet of a job unless a sheet says otherwise."""

COMPUTED = ("sheet", "scale", "format", "projection")
"""What nobody types."""


@dataclass(frozen=True)
class Cell:
    """A field's place in a template, mm from the block's lower left corner, and the height of its lettering."""

    key: str
    x: float
    y: float
    width: float
    height: float
    lettering: float = 2.5


@dataclass(frozen=True)
class Template:
    """A title block: its size, mm, and its cells."""

    name: str
    width: float
    height: float
    cells: tuple[Cell, ...]


ISO = Template(
    "ISO style", 180.0, 45.0,
    (
        Cell("tolerances", 0, 36, 50, 9), Cell("material", 50, 36, 56, 9), Cell("mass", 106, 36, 22, 9),
        Cell("projection", 128, 36, 22, 9), Cell("scale", 150, 36, 30, 9, 3.5),
        Cell("department", 0, 27, 30, 9), Cell("reference", 30, 27, 38, 9), Cell("creator", 68, 27, 38, 9),
        Cell("approval", 106, 27, 44, 9), Cell("format", 150, 27, 30, 9),
        Cell("owner", 0, 0, 68, 27, 3.5), Cell("type", 68, 18, 60, 9), Cell("status", 128, 18, 52, 9),
        Cell("title", 68, 9, 64, 9, 3.5), Cell("number", 132, 9, 48, 9, 3.5),
        Cell("supplementary", 68, 0, 44, 9), Cell("revision", 112, 0, 14, 9), Cell("date", 126, 0, 24, 9),
        Cell("language", 150, 0, 10, 9), Cell("sheet", 160, 0, 20, 9),
    ),
)  # fmt: skip
"""At most 180 mm wide, at the lower right (ISO 7200, from memory); the division is our own."""

ASME = Template(
    "ASME style", 165.1, 50.8,
    (
        Cell("owner", 63.5, 38.1, 101.6, 12.7, 3.5), Cell("title", 63.5, 22.86, 101.6, 15.24, 3.5),
        Cell("format", 63.5, 10.16, 16.0, 12.7), Cell("type", 79.5, 10.16, 28.0, 12.7),
        Cell("number", 107.5, 10.16, 44.9, 12.7, 3.5), Cell("revision", 152.4, 10.16, 12.7, 12.7, 3.5),
        Cell("scale", 63.5, 0, 30.48, 10.16, 3.5), Cell("mass", 93.98, 0, 33.02, 10.16),
        Cell("sheet", 127.0, 0, 38.1, 10.16),
        Cell("tolerances", 0, 38.1, 63.5, 12.7), Cell("material", 0, 27.94, 63.5, 10.16),
        Cell("creator", 0, 17.78, 38.1, 10.16), Cell("date", 38.1, 17.78, 25.4, 10.16),
        Cell("approval", 0, 7.62, 38.1, 10.16),
        Cell("projection", 38.1, 0, 25.4, 17.78), Cell("department", 0, 0, 38.1, 7.62),
    ),
)  # fmt: skip
"""Inch proportions (common practice, no source); the division is our own."""

TEMPLATES = {FrameStyle.ISO: ISO, FrameStyle.ASME: ASME}


@dataclass(frozen=True)
class TitleContext:
    """What a sheet's title block is filled from beside the sheet: the job's own fields, which sheet of how many it is, and the
    *state* that somebody brought it into, '' where nobody did."""

    job: Mapping[str, str] = field(default_factory=dict)
    job_name: str = ""
    job_number: str = ""
    number: int = 1
    count: int = 1
    today: date = date(2000, 1, 1)
    materials: tuple[str, ...] = ()
    mass: float | None = None
    state: str = ""


def main_scale(sheet: SheetSpec) -> Scale | None:
    """The scale that the title block states: the sheet's, if any view has it; else that of the first view."""
    scales = [view.scale for view in sheet.views if view.detail is None]
    if not scales:
        return None
    return sheet.scale if sheet.scale in scales else scales[0]


def mass_text(grams: float) -> str:
    """A mass for a title block or parts list: grams below a kilogram, else kilograms, three figures."""
    return f"{grams / 1000:.3g} kg" if grams >= 1000 else f"{grams:.3g} g"


def field_values(sheet: SheetSpec, context: TitleContext) -> dict[str, str]:
    """Every field with what it says: typed on the sheet, else the job's, else from what is known."""
    scale = main_scale(sheet)
    other = sorted({str(view.scale) for view in sheet.views if scale is not None and view.scale != scale})
    automatic = {
        "title": sheet.name,
        "supplementary": context.job_name,
        "number": f"{context.job_number}-{context.number:02d}" if context.job_number else "",
        "date": context.today.isoformat(),
        "type": "Drawing",
        "material": context.materials[0] if len(context.materials) == 1 else ("see parts list" if context.materials else ""),
        "mass": mass_text(context.mass) if context.mass else "",
    }
    computed = {
        "sheet": f"{context.number}/{context.count}",
        "scale": (str(scale) if scale is not None else "") + (f" ({', '.join(other)})" if other else ""),
        "format": sheet.format,
        "projection": sheet.arrangement.value if sheet.arrangement in Arrangement else "",
    }
    if context.state:
        # what the register knows is what the sheet says, whatever was typed before
        computed["status"] = context.state
    values = {key: sheet.title.get(key) or context.job.get(key, "") or automatic.get(key, "") for key in LABELS}
    return values | computed


def shows_status(sheet: SheetSpec) -> bool:
    """Whether a sheet's title block has a cell for its status."""
    template = None if sheet.clean else TEMPLATES.get(sheet.frame)
    return template is not None and any(cell.key == "status" for cell in template.cells)


def missing_fields(values: Mapping[str, str]) -> list[str]:
    """The required fields that are empty, as they are labelled."""
    return [LABELS[key] for key in REQUIRED if not values.get(key)]


class TitleSection(JobSection):
    """Fields of the title block that all sheets of the job share."""

    title: dict[str, str] = Field(default={})
