"""What a sheet's maker should know of a page, as checks of its file: things over one another, off the frame, without room."""

from __future__ import annotations

from skalto.core.checks.verdict import Check, Verdict
from skalto.core.pages.page import Page
from skalto.core.recipes import Recipe

_TITLES = {
    "overlap": "Overlapping",
    "outside": "Outside the frame",
    "parts-list-outside": "Parts list",
    "plates-table-outside": "Table of plates",
    "drawings-table-outside": "Table of drawings",
    "title-no-room": "Title block",
    "frame-no-room": "Frame",
    "letters-missing": "Missing letters",
    "dimension-lost": "Lost dimension",
    "dimension-changed": "Changed dimension",
    "text-small": "Small text",
    "cut-plan": "Cutting",
    "cut-fault": "Contours",
    "cut-thickness": "Thickness",
    "cut-edge": "Edge margin",
    "cut-gap": "Gap",
    "cut-overlap": "Overlapping parts",
}
_CUTS = ("overlap", "outside")
"""What a cutter would cut wrong."""


def sheet_checks(page: Page, number: int, recipe: Recipe) -> list[Check]:
    """What was found when a page was composed. What overlaps or leaves the sheet fails where a cutter is to follow it.

    :param number: the page's, from 1.
    """
    checks = [
        Check(code="title", title="Title block", verdict="mend", reading=notice.message, page=number)
        for notice in page.notices
        if notice.code == "title-empty"
    ]
    boxes = {view.spec.id: view.box for view in page.views}
    for notice in page.notices:
        # how far a view's own lines leave the sheet is measured in the file
        if notice.code not in _TITLES or (notice.code == "outside" and notice.view is not None):
            continue
        fails = notice.level == "error" or (recipe.file == "cutter" and notice.code in _CUTS)
        verdict: Verdict = "fails" if fails else "mend"
        place = boxes.get(notice.view or "")
        checks.append(
            Check(
                code=f"sheet-{notice.code}", title=_TITLES[notice.code], verdict=verdict, reading=notice.message, page=number,
                place=place )
        )  # fmt: skip
    return checks
