"""Changing a sheet's format: what its views and 3D fields do then."""

from __future__ import annotations

from enum import StrEnum
from fractions import Fraction

import numpy as np

from skalto.core.errors import InputError
from skalto.core.quantities import format_scale, largest_preferred, parse_scale
from skalto.core.sheets.arranging import room_for_views
from skalto.core.sheets.field import LEAST
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
        scale = parse_scale(old.scale)
        factor = largest_preferred(float(scale) * growth * (1 + 1e-9)) / scale
    views = []
    for view in old.views:
        x, y = (new_middle + (np.array(view.place) - old_middle) * float(factor)).tolist()
        ratio = format_scale(view.ratio * factor)
        views.append(view.model_copy(update={"place": (round(x, 6), round(y, 6)), "scale": ratio}))
    fields = []
    for field in old.fields:
        x, y = (new_middle + (np.array(field.place) - old_middle) * float(factor)).tolist()
        wide, high = (max(LEAST, round(side * float(factor), 6)) for side in field.size)
        fields.append(field.model_copy(update={"place": (round(x, 6), round(y, 6)), "size": (wide, high)}))
    scaled = format_scale(parse_scale(old.scale) * factor)
    return new.model_copy(update={"views": tuple(views), "fields": tuple(fields), "scale": scaled})
