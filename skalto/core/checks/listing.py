"""All that was measured in a file as one list of checks, each with its reading and its limit."""

from __future__ import annotations

from collections.abc import Sequence

from skalto.core.checks.verdict import Check, Finding, PageCheck, Reading, Verdict, ViewCheck
from skalto.core.quantities import format_mm

_SHOWN_ELSEWHERE = (
    "length", "length-missing", "viewport-scale", "viewport-missing", "print-scaling", "print-tray", "format", "thin-line",
)  # fmt: skip
_TITLES = {"outside": "Outside the sheet", "margin": "Outside the frame", "edge-cut": "Page edge"}
_LEVELS: dict[str, Verdict] = {"error": "fails", "warning": "mend", "info": "told"}


def _called(view: str) -> str:
    """What a view of the file is called: sections and details by their letters."""
    return view if view.casefold().startswith(("section ", "detail ")) else f"{view} view"


def _capital(text: str) -> str:
    return text[:1].upper() + text[1:]


def _off(micrometres: float) -> str:
    size = abs(micrometres)
    return f"off {size:.2f} µm" if 0 < size < 0.1 else f"off {size:.1f} µm"


def _reading(view: ViewCheck, reading: Reading, page: int) -> Check:
    title = f"{_capital(_called(view.name))}, {view.scale}"
    sign = "⌀" if reading.kind == "diameter" else f"{reading.kind} "
    if reading.measured_mm is None:
        text = f"{sign}{reading.expected_mm:.4f} not found"
        return Check(code="length-missing", title=title, verdict="fails", reading=text, page=page, place=reading.place)
    return Check(
        code="length",
        title=title,
        verdict="holds" if reading.holds else "fails",
        reading=f"{sign}{reading.measured_mm:.4f} for {format_mm(reading.expected_mm, 4)} mm",
        limit=_off(reading.deviation_um or 0.0),
        page=page,
        place=reading.place,
    )


def _ruler(view: ViewCheck, page: int) -> Check:
    title = f"Ruler, {_called(view.name)}"
    paper, _, model = view.scale.partition(":")
    found = view.viewport_scale
    exact = float(paper) / float(model or 1)
    if found is None:
        return Check(code="viewport", title=title, verdict="fails", reading="no viewport", page=page)
    shown = f"{format_mm(found, 6)}:1" if found >= 1 else f"1:{format_mm(1 / found, 6) if found else 0}"
    holds: Verdict = "holds" if exact and abs(found / exact - 1) <= 1e-6 else "fails"
    return Check(code="viewport", title=title, verdict=holds, reading=f"a reader measures at {shown}", page=page)


def listed(pages: Sequence[PageCheck], findings: Sequence[Finding], viewports: bool = True) -> list[Check]:
    """The checks of scale, format, lines and printing.

    :param viewports: whether views are to have measurement viewports.
    """
    checks = []
    for number, page in enumerate(pages, 1):
        own = {finding.code: finding for finding in findings if finding.page == number}
        size = f"{page.width_mm:.4f} × {page.height_mm:.4f} mm"
        name = "Format" if len(pages) == 1 else f"Page {number}, format"
        checks.append(
            Check(code="format", title=name, verdict="fails" if "format" in own else "holds", reading=size, page=number)
        )
        checks += [_reading(view, reading, number) for view in page.views for reading in view.readings]
        if viewports:
            checks += [_ruler(view, number) for view in page.views]
        if page.min_line_width_mm is not None:
            thin = own.get("thin-line")
            checks.append(
                Check(
                    code="thin-line",
                    title="Lines",
                    verdict="mend" if thin else "holds",
                    reading=f"thinnest {page.min_line_width_mm:g} mm",
                    limit=f"limit {page.least_width_mm:g}, thickest {page.max_line_width_mm:g}",
                    page=number,
                    place=page.thinnest_place,
                )
            )
    printing = next((f for f in findings if f.code in ("print-scaling", "print-tray")), None)
    told = printing.message if printing else "no scaling, tray by size"
    checks.append(Check(code="printing", title="Printing", verdict="mend" if printing else "holds", reading=told))
    for finding in findings:
        if finding.code not in _SHOWN_ELSEWHERE:
            checks.append(
                Check(
                    code=finding.code,
                    title=_TITLES.get(finding.code, "Note"),
                    verdict=_LEVELS[finding.level],
                    reading=finding.message,
                    page=finding.page,
                    place=finding.place,
                )
            )
    return checks
