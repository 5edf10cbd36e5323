"""3D annotations as they come onto a sheet: beside what is there, or as all that there is."""

from __future__ import annotations

from collections.abc import Sequence

from skalto.core.geometry import Array, Box
from skalto.core.layout.arrangement import room_for_views
from skalto.core.layout.free_room import largest_free
from skalto.core.paper import FrameStyle
from skalto.core.scene.annotation_3d import Annotation3d
from skalto.core.sheets.sheet import SheetSpec

_SHARE = 0.55
"""Of the room on a sheet, how much a 3D annotation takes at first each way, where other things are on it."""
_ALONE = 0.9
_LEAST = 40.0
"""A free place that is smaller, mm, is none."""


def bare_sheet(sheet_id: str, name: str, paper: str = "A4") -> SheetSpec:
    """A sheet without frame and title block, for a page that is nothing but the model."""
    return SheetSpec(id=sheet_id, name=name[:120], format=paper, frame=FrameStyle.NONE, furniture=frozenset(), clean=True)


def annotation_for(
    sheet: SheetSpec, annotation_id: str, source: str, name: str, whole: bool, taken: Array | Sequence[Box] = ()
) -> Annotation3d:
    """A 3D annotation in the free room of a sheet, or with *whole* as large as it.

    :param taken: the boxes (n, 4) of what lies on the sheet already, mm; where nothing large enough is free, it lies over some.
    """
    paper = sheet.paper()
    if whole:
        size = (float(paper.width), float(paper.height))
        return Annotation3d(id=annotation_id, source=source, name=name, place=(0.0, 0.0), size=size, frame=False)
    x0, y0, x1, y1 = room_for_views(sheet)
    wide, high = ((x1 - x0) * _SHARE, (y1 - y0) * _SHARE) if not sheet.is_empty else ((x1 - x0) * _ALONE, (y1 - y0) * _ALONE)
    place = ((x0 + x1 - wide) / 2, (y0 + y1 - high) / 2)
    used = len(taken) > 0 or not sheet.is_empty
    free = largest_free((x0, y0, x1, y1), taken) if len(taken) else None
    if free is not None and free[2] - free[0] >= _LEAST and free[3] - free[1] >= _LEAST:
        wide, high = min(wide, free[2] - free[0]), min(high, free[3] - free[1])
        place = (free[2] - wide, free[3] - high)
    elif used:
        # at the upper right, where sheets of views have room most often
        place = (x1 - wide - 5, y1 - high - 5)
    size = (round(wide, 1), round(high, 1))
    return Annotation3d(id=annotation_id, source=source, name=name, place=(round(place[0], 1), round(place[1], 1)), size=size)
