"""Changing a sheet's format: what its views and 3D annotations do then."""

from __future__ import annotations

import math
from enum import StrEnum
from fractions import Fraction

import numpy as np

from skalto.core.annotation.furniture import title_box
from skalto.core.errors import InputError
from skalto.core.geometry import Box
from skalto.core.layout.arrangement import room_for_views, usable
from skalto.core.paper import FrameStyle, Orientation, parse_format
from skalto.core.quantities import Scale, largest_preferred
from skalto.core.scene.annotation_3d import LEAST
from skalto.core.sheets.sheet import SheetSpec


class FollowFormat(StrEnum):
    """What views do when their sheet changes its format."""

    KEEP = "keep"
    CENTRE = "centre"
    RESCALE = "rescale"


def reformatted(old: SheetSpec, new: SheetSpec, follow: FollowFormat) -> SheetSpec:
    """The sheet in its new format with its views kept in place, moved with the middle, or brought to the preferred scale
    that fits it as the old one fitted.

    :raises InputError: when no preferred scale is small enough.
    """
    if follow is FollowFormat.KEEP or old.is_empty:
        return new
    before, after = np.array(room_for_views(old)), np.array(room_for_views(new))
    old_middle, new_middle = (before[:2] + before[2:]) / 2, (after[:2] + after[2:]) / 2
    factor = Fraction(1)
    if follow is FollowFormat.RESCALE:
        growth = float(min((after[2:] - after[:2]) / (before[2:] - before[:2])))
        if growth <= 0:
            raise InputError("This format leaves no room for views: take a larger one.")
        scale = old.scale
        factor = largest_preferred(float(scale) * growth * (1 + 1e-9)) / scale
    views = []
    for view in old.views:
        x, y = (new_middle + (np.array(view.place) - old_middle) * float(factor)).tolist()
        ratio = Scale(view.scale * factor)
        views.append(view.model_copy(update={"place": (round(x, 6), round(y, 6)), "scale": ratio}))
    fields = []
    for field in old.annotations_3d:
        x, y = (new_middle + (np.array(field.place) - old_middle) * float(factor)).tolist()
        wide, high = (max(LEAST, round(side * float(factor), 6)) for side in field.size)
        fields.append(field.model_copy(update={"place": (round(x, 6), round(y, 6)), "size": (wide, high)}))
    scaled = Scale(old.scale * factor)
    return new.model_copy(update={"views": tuple(views), "annotations_3d": tuple(fields), "scale": scaled})


def fitted(sheet: SheetSpec, content: Box, margin: float) -> SheetSpec:
    """The sheet cut to its contents: so large that *content* (sheet mm) lies *margin* mm from the edge, or from the frame and
    clear of the title block where it has them; sides are rounded up to 0.001 mm. Everything moves with the paper.

    :raises InputError: when the margin is below zero.
    """
    if margin < 0:
        raise InputError("A margin cannot be below zero: type 0 or more.")
    paper = sheet.paper()
    wide, high = float(paper.width), float(paper.height)
    style = FrameStyle.NONE if sheet.clean else sheet.frame
    margins = (0.0, 0.0, 0.0, 0.0) if sheet.clean else sheet.margins
    x0, y0, x1, y1 = usable(wide, high, style, margins)
    title = title_box(sheet)
    foot = title[1][3] - title[1][1] if title else 0.0
    least = title[1][2] - title[1][0] if title else 0.0
    inner = np.array((content[2] - content[0], content[3] - content[1])) + 2 * margin
    spare = max(least - inner[0], 0.0)
    size = inner + np.array((spare + x0 + wide - x1, foot + y0 + high - y1))
    width, height = (max(math.ceil(round(side * 1000, 3)) / 1000, LEAST) for side in size.tolist())
    by = np.array((x0 + margin + spare / 2 - content[0], y0 + foot + margin - content[1]))
    new = all_moved(sheet, (float(by[0]), float(by[1])))
    lies = Orientation.LANDSCAPE if width > height else Orientation.PORTRAIT
    return new.model_copy(update={"format": parse_format(f"{width:.9g}x{height:.9g}mm").name, "orientation": lies})


def all_moved(sheet: SheetSpec, by: tuple[float, float]) -> SheetSpec:
    """A sheet with all that lies on it moved by so many mm."""

    def there(place: tuple[float, float]) -> tuple[float, float]:
        return round(place[0] + by[0], 6), round(place[1] + by[1], 6)

    views = tuple(view.model_copy(update={"place": there(view.place)}) for view in sheet.views)
    fields = tuple(field.model_copy(update={"place": there(field.place)}) for field in sheet.annotations_3d)
    notes = tuple(note.model_copy(update={"place": there(note.place)}) for note in sheet.notes)
    listed = sheet.parts_list
    if listed is not None:
        listed = listed.model_copy(update={"moved": {number: there(place) for number, place in listed.moved.items()}})
    return sheet.model_copy(update={"views": views, "annotations_3d": fields, "notes": notes, "parts_list": listed})
