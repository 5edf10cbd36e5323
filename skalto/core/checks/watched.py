"""The watch over hidden lines as checks of a page: what rays say of the strokes that are drawn."""

from __future__ import annotations

import numpy as np

from skalto.core.checks.verdict import Check
from skalto.core.pages.page import PlacedView
from skalto.core.projection.watch import Fault, Watch

_KINDS = {
    "unseen": "drawn as seen, and hidden by what lies in front",
    "edge": "sharp edges that are seen, and not drawn",
    "contour": "contours of curved faces that are seen, and not drawn",
}


def _placed(view: PlacedView, fault: Fault) -> tuple[float, float, float, float]:
    x0, y0, x1, y1 = fault.box
    corners = view.placement.points(np.array(((x0, y0), (x1, y0), (x1, y1), (x0, y1))))
    (left, bottom), (right, top) = corners.min(axis=0).tolist(), corners.max(axis=0).tolist()
    return left, bottom, right, top


def _inside(view: PlacedView, fault: Fault) -> bool:
    """Whether a detail shows the place of a fault; any other view shows all."""
    detail = view.spec.detail
    if detail is None:
        return True
    x0, y0, x1, y1 = fault.box
    return bool(np.hypot((x0 + x1) / 2 - detail.centre[0], (y0 + y1) / 2 - detail.centre[1]) <= detail.radius)


def watch_checks(view: PlacedView, watch: Watch, page: int) -> list[Check]:
    """What the rays found in a view: a check for each kind of fault, with the way to the longest, or one that nothing was
    found.

    Lengths are of the model, mm.
    """
    title = f"Hidden lines, {view.spec.title}"
    faults = [fault for fault in watch.of(view.spec.classes) if _inside(view, fault)]
    checks = []
    for kind, what in _KINDS.items():
        own = [fault for fault in faults if fault.kind == kind]
        if not own:
            continue
        places = "1 place" if len(own) == 1 else f"{len(own)} places"
        parts = ", ".join(dict.fromkeys(fault.component.rpartition("/")[2] for fault in own if fault.component))
        whose = f" ({parts[:80]})" if parts else ""
        reading = f"{sum(fault.length for fault in own):.1f} mm at {places} are {what}{whose}"
        checks.append(
            Check(code=f"watch-{kind}", title=title, verdict="fails", reading=reading, page=page, place=_placed(view, own[0]))
        )
    if not checks and watch.samples:
        reading = f"{watch.samples} places on strokes tried by rays, all right"
        checks.append(Check(code="watch", title=title, verdict="holds", reading=reading, page=page))
    return checks
