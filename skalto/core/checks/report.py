"""The check: a finished PDF measured, with the verdict on every reading."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace
from typing import TYPE_CHECKING, Literal

import numpy as np
import pypdfium2 as pdfium

from skalto.core.checks.originals import cut_bounds, original_checks, within_regions
from skalto.core.checks.vectors import PageVectors, Paths, read_page
from skalto.core.checks.verdict import Check, Finding, PageCheck, Reading, Report, Verdict, ViewCheck
from skalto.core.errors import InputError
from skalto.core.geometry import Box, bezier_at
from skalto.core.geometry.curves import circle_through
from skalto.core.pdf_dictionaries import FileRecord, Length, PageRecord, Viewport, ViewRecord, read_dictionaries
from skalto.core.quantities import format_mm
from skalto.core.recipes import PLAIN, PRINTABLE_WIDTH, Recipe

if TYPE_CHECKING:
    from skalto.core.checks.strokes import Asked

Region = tuple[tuple[float, float], ...]

LENGTH_LIMIT_UM = 1.0
"""A length on paper may be off by this much."""

PAGE_LIMIT_UM = 1.0
"""A side of the page may be off from the format that was asked for by this much."""

SCALE_LIMIT = 1e-6
"""Relative: what a viewport's factor may differ from the scale that it names."""


def _circle_near(paths: Paths, centre: tuple[float, float], diameter: float) -> float | None:
    """The diameter of the closed round subpath whose centre lies at *centre*, of several the one nearest in size."""
    found = []
    about = (paths.box[:, :2] <= centre).all(axis=1) & (paths.box[:, 2:] >= centre).all(axis=1)
    for number in np.flatnonzero(about).tolist():
        for sub in paths.subpaths(number):
            if not sub.closed or sub.straight.any():
                continue
            points = bezier_at(sub.curves, np.linspace(0, 1, 9)).reshape(-1, 2)
            circle = circle_through(points, 5e-3)
            if circle is not None and math.dist(circle[0], centre) < 0.05:
                found.append(2 * circle[1])
    return min(found, key=lambda d: abs(d - diameter)) if found else None


def _extent(paths: Paths, axis: int, turn: float = 0.0, region: Region = ()) -> tuple[float, Box] | None:
    """How far paths reach along one of a view's axes, which are turned by *turn* degrees, and their box on the page; within a
    *region* alone where there is one."""
    if region and paths.placed.any():
        found = cut_bounds(paths, region, math.radians(turn))
        box = cut_bounds(paths, region, 0.0) if turn else found
    else:
        found = paths.bounds(math.radians(turn))
        box = paths.bounds() if turn else found
    if found is None or box is None:
        return None
    low, high = box
    return float(found[1][axis] - found[0][axis]), (float(low[0]), float(low[1]), float(high[0]), float(high[1]))


def _reading(length: Length, view: ViewRecord, paths: Paths) -> Reading:
    expected = length.value * float(view.scale)
    measured: float | None = None
    place = None
    if length.kind == "diameter" and length.centre is not None:
        measured = _circle_near(paths, length.centre, expected)
        (x, y), r = length.centre, expected / 2
        place = (x - r, y - r, x + r, y + r)
    elif length.kind in ("width", "height"):
        # what is filled is no edge, and what is hidden shows no outline
        seen = paths.rows(~np.isnan(paths.width) & ~paths.unseen)
        extent = _extent(seen, 0 if length.kind == "width" else 1, view.turn, view.region)
        if extent is not None:
            measured, place = extent
    deviation = None if measured is None else (measured - expected) * 1000
    holds = deviation is not None and abs(deviation) <= LENGTH_LIMIT_UM
    return Reading(
        kind=length.kind,
        model_mm=round(length.value, 9),
        expected_mm=round(expected, 6),
        measured_mm=None if measured is None else round(measured, 6),
        deviation_um=None if deviation is None else round(deviation, 3),
        holds=holds,
        place=place,
    )


def _view(view: ViewRecord, viewport: Viewport | None, vectors: PageVectors) -> ViewCheck:
    paths = vectors.paths.rows(vectors.paths.view == view.mark)
    readings = sorted(
        (_reading(length, view, paths) for length in view.lengths),
        key=lambda r: -abs(r.deviation_um) if r.deviation_um is not None else -math.inf,
    )
    worst = readings[0] if readings else None
    return ViewCheck(
        name=view.name,
        scale=str(view.scale),
        expected_mm=worst.expected_mm if worst else None,
        measured_mm=worst.measured_mm if worst else None,
        deviation_um=worst.deviation_um if worst else None,
        viewport_scale=viewport.scale if viewport else None,
        readings=tuple(readings),
    )


def length_findings(number: int, view: ViewCheck) -> list[Finding]:
    """Lengths of a view that are not found, or are off by more than they may be."""
    found = []
    for reading in view.readings:
        if reading.measured_mm is None:
            message = (
                f"{view.name}: the {reading.kind} of {format_mm(reading.expected_mm or 0.0, 4)} mm is not found in the drawing."
            )
            found.append(Finding(level="error", code="length-missing", message=message, page=number, place=reading.place))
        elif not reading.holds:
            message = (
                f"{view.name}: {reading.kind} {reading.measured_mm:.4f} mm for {reading.expected_mm:.4f} mm, "
                f"off by {reading.deviation_um:.1f} µm; the limit is {LENGTH_LIMIT_UM:g} µm."
            )
            found.append(Finding(level="error", code="length", message=message, page=number, place=reading.place))
    if not view.readings:
        message = f"{view.name}: no edge of a known length is drawn, so nothing on it tells its scale."
        found.append(Finding(level="info", code="no-length", message=message, page=number))
    return found


def _view_findings(number: int, view: ViewCheck, exact: float, viewport: Viewport | None) -> list[Finding]:
    found = length_findings(number, view)
    if viewport is None:
        message = f"{view.name}: the file has no measurement viewport for it."
        found.append(Finding(level="error", code="viewport-missing", message=message, page=number))
    elif not exact or abs(viewport.scale / exact - 1) > SCALE_LIMIT:
        message = f"{view.name}: its viewport measures at {viewport.scale:.6f}, its scale is {exact:.6f}."
        found.append(Finding(level="error", code="viewport-scale", message=message, page=number))
    return found


def _page(record: PageRecord, vectors: PageVectors, number: int, recipe: Recipe) -> tuple[PageCheck, list[Finding]]:
    vectors = within_regions(vectors, record.views)
    findings = _format(record, vectors, number)
    views = []
    # the viewports stand in the order of the views
    ports: list[Viewport | None] = [*record.viewports, *([None] * len(record.views))]
    for view, port in zip(record.views, ports[: len(record.views)], strict=True):
        own = _view(view, port, vectors)
        views.append(own)
        findings += [
            finding
            for finding in _view_findings(number, own, float(view.scale), port)
            if recipe.viewports or not finding.code.startswith("viewport")
        ]
    if not record.views:
        views = [
            ViewCheck(name=v.name, scale=v.ratio, expected_mm=None, measured_mm=None, deviation_um=None, viewport_scale=v.scale)
            for v in record.viewports
        ]
        what = "has measurement viewports but no known lengths" if views else "has no measurement viewport"
        findings.append(Finding(level="info", code="no-known-scale", message=f"Page {number} {what}.", page=number))
    widths = vectors.paths.width[~np.isnan(vectors.paths.width)].tolist()
    thinnest = min(widths, default=None)
    least, place = recipe.least_width, None
    if thinnest is not None and thinnest < least - 2e-5:
        x0, y0, x1, y1 = vectors.paths.box[int(np.nanargmin(vectors.paths.width))].tolist()
        place = (x0, y0, x1, y1)
        limit = f"the narrowest of ISO 128-2 is {least} mm" if least == PRINTABLE_WIDTH else f"the limit is {least:g} mm"
        message = f"Page {number} has lines of {thinnest:.4f} mm; {limit}."
        findings.append(Finding(level="warning", code="thin-line", message=message, page=number, place=place))
    if (vectors.paths.view != "").any():
        findings += _outside(vectors, number, record.frame_mm, "error" if recipe.file == "cutter" else "warning")
    findings += _cut_by_edge(vectors, number)
    check = PageCheck(
        width_mm=round(vectors.width, 4),
        height_mm=round(vectors.height, 4),
        min_line_width_mm=None if thinnest is None else round(thinnest, 4),
        max_line_width_mm=round(max(widths), 4) if widths else None,
        views=tuple(views),
        least_width_mm=least,
        thinnest_place=place,
    )
    return check, findings


def _format(record: PageRecord, vectors: PageVectors, number: int) -> list[Finding]:
    """Whether the page is as large as the format that it was made for, where the file says which that was."""
    if record.format_mm is None:
        return []
    width, height = record.format_mm
    off = max(abs(vectors.width - width), abs(vectors.height - height)) * 1000
    if off <= PAGE_LIMIT_UM:
        return []
    message = (
        f"Page {number} is {vectors.width:.4f} x {vectors.height:.4f} mm for a format of "
        f"{format_mm(width, 4)} x {format_mm(height, 4)} mm; the limit is {PAGE_LIMIT_UM:g} µm."
    )
    return [Finding(level="error", code="format", message=message, page=number)]


HALF = 0.05
"""By so much, mm, a line may reach over the page's edge before it is told of: a hairline's half is less."""


def _cut_by_edge(vectors: PageVectors, number: int) -> list[Finding]:
    """Lines that lie on the page's edge, so that half of their width is lost, as a border does that has no margin."""
    paths = vectors.paths
    stroked = ~np.isnan(paths.width)
    over = np.stack(
        (-paths.box[:, 0], -paths.box[:, 1], paths.box[:, 2] - vectors.width, paths.box[:, 3] - vectors.height), axis=1
    )
    worst = over.max(axis=1, initial=-1.0)
    # those further out than half of their width leave the sheet as a whole, which is told by the view
    cut = np.flatnonzero(stroked & (worst > HALF) & (worst <= paths.width / 2 + 0.01))
    if not len(cut):
        return []
    first = int(cut[np.argmax(worst[cut])])
    x0, y0, x1, y1 = paths.box[first].tolist()
    what = "1 line lies" if len(cut) == 1 else f"{len(cut)} lines lie"
    message = f"Page {number}: {what} on the page's edge, and {worst[first]:.2f} mm of the width are cut off."
    return [Finding(level="warning", code="edge-cut", message=message, page=number, place=(x0, y0, x1, y1))]


def _outside(
    vectors: PageVectors, number: int, frame: Box | None, level: Literal["error", "warning"] = "warning"
) -> list[Finding]:
    """What of the views leaves the sheet, or the frame where there is one."""
    box = _extent(vectors.paths.rows(vectors.paths.view != ""), 0)
    if box is None:
        return []
    x0, y0, x1, y1 = box[1]
    for code, what, (left, bottom, right, top) in (
        ("outside", "sheet", (0.0, 0.0, vectors.width, vectors.height)),
        *((("margin", "frame", frame),) if frame else ()),
    ):
        over = {"left": left - x0, "bottom": bottom - y0, "right": x1 - right, "top": y1 - top}
        told = ", ".join(f"{by:.2f} mm at the {side}" for side, by in over.items() if by > 1e-3)
        if told:
            message = f"Page {number}: lines leave the {what} by {told}."
            return [Finding(level=level, code=code, message=message, page=number, place=box[1])]
    return []


def file_findings(record: FileRecord) -> list[Finding]:
    """Whether the file asks to be printed as it is."""
    found = []
    if record.print_scaling != "None":
        message = "The file does not ask to be printed without scaling, so a printer may shrink it to its margins."
        found.append(Finding(level="warning", code="print-scaling", message=message))
    elif not record.tray_by_size:
        message = "The file does not ask for paper by the page's size, so a printer may take another."
        found.append(Finding(level="warning", code="print-tray", message=message))
    return found


def _with_twin(record: FileRecord, twin: FileRecord | None) -> list[PageRecord]:
    """The pages' records; known lengths from the twin, where the file itself had to go without."""
    if twin is None:
        return list(record.pages)
    return [
        replace(page, views=other.views, format_mm=other.format_mm, frame_mm=other.frame_mm)
        for page, other in zip(record.pages, twin.pages, strict=True)
    ]


def check_pdf(
    data: bytes,
    recipe: Recipe | None = None,
    twin: bytes | None = None,
    password: str = "",
    asked: Sequence[Asked] = (),
) -> Report:
    """Open a finished PDF with pdfium (its vectors) and pdfminer.six (its dictionaries), measure, and judge.

    :param recipe: what it is held against beside its scale; :param twin: the same file with what it is measured by, where that
        had to be left out; :param password: that opens it; :param asked: what each page was to show, stroke by stroke.
    :raises InputError: when the file is not a PDF, is damaged or needs another password.
    """
    from skalto.core.checks.inspection import inspect, opened
    from skalto.core.checks.listing import listed
    from skalto.core.checks.pdf_asked import asked_checks
    from skalto.core.checks.solids import solid_checks

    try:
        document = pdfium.PdfDocument(data, password=password or None)
    except pdfium.PdfiumError as error:
        why = "needs a password" if "assword" in str(error) else "is not a PDF, or is damaged"
        raise InputError(f"The file {why}, so it cannot be measured.") from None
    try:
        try:
            record = read_dictionaries(data, password)
            known = _with_twin(record, None if twin is None else read_dictionaries(twin))
        except Exception:
            raise InputError("The file's structure is damaged, so it cannot be measured: write it again.") from None
        pages, findings = [], file_findings(record)
        drawn = []
        for number, page_record in enumerate(known):
            vectors = read_page(document, number, page_record.user_unit)
            page, found = _page(page_record, vectors, number + 1, recipe or PLAIN)
            pages.append(page)
            findings += found
            drawn.append(vectors)
        checks = listed(pages, findings, recipe is None or recipe.viewports)
        strokes = asked_checks(data, known, drawn, asked, recipe or PLAIN, password) if asked else []
        found_again = opened(data, document, password)
        more = inspect(found_again, drawn, recipe, password) if recipe is not None else solid_checks(found_again.pages)
        originals = zip(drawn, found_again.pages, asked, strict=False) if asked else ()
        for number, (own, page, wanted) in enumerate(originals, 1):
            strokes += original_checks(page, own, wanted.originals, number) + wanted.redrawn(number)
        more = strokes + more
        checks += more
        findings = [_of_solids(finding, pages, more) for finding in findings]
        findings += [finding_of(check) for check in more if check.verdict in FOUND]
        drawn.clear()
    finally:
        document.close()
    return Report(pages=tuple(pages), findings=tuple(findings), checks=tuple(checks))


def _of_solids(finding: Finding, pages: Sequence[PageCheck], checks: Sequence[Check]) -> Finding:
    """A page without a line that shows its model in 3D lacks no scale: that is said instead."""
    if finding.code != "no-known-scale" or finding.page is None or pages[finding.page - 1].min_line_width_mm is not None:
        return finding
    if pages[finding.page - 1].views or not any(c.code.startswith("solid") and c.page == finding.page for c in checks):
        return finding
    message = f"Page {finding.page} shows its model in 3D alone: nothing on it is drawn to a scale."
    return finding.model_copy(update={"message": message})


FOUND: tuple[Verdict, ...] = ("mend", "fails")
"""The verdicts of checks that are findings too."""


def finding_of(check: Check) -> Finding:
    """A check that does not hold, as a sentence."""
    level: Literal["error", "warning"] = "error" if check.verdict == "fails" else "warning"
    limit = f" (wanted: {check.limit})" if check.limit else ""
    message = f"{check.title}: {check.reading}{limit}".rstrip(".") + "."
    return Finding(level=level, code=check.code, message=message, page=check.page, place=check.place)
