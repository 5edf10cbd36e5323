"""Template sheets: any sheet saved as how the sheet of a part is laid out."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from skalto.core.artwork import EdgeClass
from skalto.core.errors import InputError
from skalto.core.ids import ShortId
from skalto.core.sheets.content import ProjectionContent
from skalto.core.sheets.sheet import SheetSpec
from skalto.core.viewpoint import STANDARD, Vector


class TemplateView(BaseModel):
    """A direction that a part is shown along, in the part's own axes, and how."""

    model_config = ConfigDict(frozen=True)

    name: str
    look: Vector
    up: Vector
    classes: tuple[EdgeClass, ...] = (EdgeClass.VISIBLE, EdgeClass.OUTLINE, EdgeClass.WIRE)
    shaded: bool = False
    axes: bool = False


class TemplateSheet(BaseModel):
    """How the sheet of a part is laid out: a *sheet* without views, with its format, frame, title block, notes, pens and
    recipe; the *views* in their arrangement; at the largest preferred *scale* that fits, or at 1:1; with *overall* sizes; and
    of sheet metal the *flat* pattern at its right, with tables of bends and of holes."""

    model_config = ConfigDict(frozen=True)

    id: ShortId
    name: str = Field(min_length=1, max_length=60)
    version: int = Field(default=1, ge=1)
    sheet: SheetSpec
    views: tuple[TemplateView, ...] = Field(min_length=1, max_length=12)
    scale: Literal["largest", "1:1"] = "largest"
    overall: bool = True
    flat: bool = True


def template_of(template_id: str, name: str, sheet: SheetSpec) -> TemplateSheet:
    """A sheet saved as a template: what lies on it is left, the directions of its views are kept, in their order.

    :raises InputError: when no view of it looks at a model along a direction.
    """
    seen = [view for view in sheet.views if isinstance(view.content, ProjectionContent)]
    if not seen:
        raise InputError(f"{sheet.name} has no view of a model: put the views on it that a part's sheet is to have.")
    views = tuple(
        TemplateView(
            name=view.name, look=view.look, up=view.up, classes=view.classes, shaded=view.shaded, axes=view.axes
        )
        for view in seen[:12]
    )  # fmt: skip
    sized = any(view.dimensions for view in sheet.views)
    bare = sheet.model_copy(
        update={
            "id": "template", "name": "Part", "views": (), "annotations_3d": (), "cutting": None, "plates_table": None,
            "drawings_table": None,
            "made_for": None, "title": {key: text for key, text in sheet.title.items() if key not in _OF_THE_PART},
            "parts_list": None,
        }
    )  # fmt: skip
    return TemplateSheet(
        id=template_id, name=name, sheet=bare, views=views, overall=sized,
        flat=any(view.flat is not None for view in sheet.views),
    )  # fmt: skip


_OF_THE_PART = ("title", "number", "material", "mass", "revision", "supplementary")
"""Fields of the title block that the part fills in."""


def _shipped() -> TemplateSheet:
    views = tuple(TemplateView(name=n, look=STANDARD[n].look, up=STANDARD[n].up) for n in ("front", "top", "left", "iso"))
    return TemplateSheet(
        id="part", name="Part, four views", sheet=SheetSpec(id="template", name="Part", format="A3"), views=views
    )


SHIPPED_TEMPLATES = (_shipped(),)
