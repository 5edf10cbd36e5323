"""3D annotations as they come onto a sheet: beside what is there, or as all that there is."""

from __future__ import annotations

from skalto.core.layout.arrangement import room_for_views
from skalto.core.paper import FrameStyle
from skalto.core.scene.annotation_3d import Annotation3d
from skalto.core.sheets.sheet import SheetSpec

_SHARE = 0.55
"""Of the room on a sheet, how much a 3D annotation takes at first each way, where other things are on it."""
_ALONE = 0.9


def bare_sheet(sheet_id: str, name: str, paper: str = "A4") -> SheetSpec:
    """A sheet without frame and title block, for a page that is nothing but the model."""
    return SheetSpec(id=sheet_id, name=name[:120], format=paper, frame=FrameStyle.NONE, furniture=frozenset(), clean=True)


def annotation_for(sheet: SheetSpec, annotation_id: str, source: str, name: str, whole: bool) -> Annotation3d:
    """A 3D annotation in the free room of a sheet, or with *whole* as large as it."""
    paper = sheet.paper()
    if whole:
        size = (float(paper.width), float(paper.height))
        return Annotation3d(id=annotation_id, source=source, name=name, place=(0.0, 0.0), size=size, frame=False)
    x0, y0, x1, y1 = room_for_views(sheet)
    wide, high = ((x1 - x0) * _SHARE, (y1 - y0) * _SHARE) if not sheet.is_empty else ((x1 - x0) * _ALONE, (y1 - y0) * _ALONE)
    place = ((x0 + x1 - wide) / 2, (y0 + y1 - high) / 2)
    if not sheet.is_empty:
        # at the upper right, where sheets of views have room most often
        place = (x1 - wide - 5, y1 - high - 5)
    size = (round(wide, 1), round(high, 1))
    return Annotation3d(id=annotation_id, source=source, name=name, place=(round(place[0], 1), round(place[1], 1)), size=size)
