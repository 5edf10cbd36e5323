"""A finished file of a plate run in the stand-in cutter, and what falls out held against the parts that were asked for."""

from __future__ import annotations

import math
import tempfile
from collections.abc import Sequence
from pathlib import Path
from typing import Any

import shapely

from skalto.core.checks.apart import apart_checks
from skalto.core.checks.verdict import OF_DRAWINGS, Check, Finding, Place, Report, Verdict
from skalto.core.cutter.machine import Machine
from skalto.core.cutter.pieces import PIECE_LIMIT_UM
from skalto.core.cutter.running import Run, run
from skalto.core.cutter.tracks import filled, read_for_machine
from skalto.core.errors import InputError
from skalto.core.geometry.profile import Operation
from skalto.core.pages.cut_pages import plate_area
from skalto.core.pages.page import CutPage, Page

_ROUNDED = 0.15
"""What the length of an uncut stretch may be more than that of its tabs, mm: it is measured in steps."""
_FLAT = 2e-3
SIZE_LIMIT_UM = 20.0
"""What a page may be off its plate before it counts as scaled, µm: what a piece may be off."""


def run_page(data: bytes, suffix: str, cut: CutPage, number: int = 1) -> Run:
    """Run a page of a finished file in the cutter that its plate is for; *suffix* is the ending that its format has, *number*
    the page's, from 1."""
    machine = cut.machine
    row, told = machine.nearest(cut.plate.material, cut.plate.thickness)
    with tempfile.TemporaryDirectory(prefix="skalto-cutter-") as folder:
        path = Path(folder) / f"plate{suffix}"
        path.write_bytes(data)
        file = read_for_machine(path, machine, page=number)
    # a driver that offsets contours cuts them at nominal: as if its beam had no width
    kerf = cut.choices.kerf if cut.choices.compensated else 0.0
    return run(file, machine, row, cut.parts, kerf, plate_area(cut.plate), _held(cut), told)


def _held(cut: CutPage) -> dict[str, float]:
    """Parts that tabs may hold, and how much of each stays uncut for them: at both ends of a tab the beam is round."""
    tabs = cut.choices.tabs
    if not tabs.count:
        return {}
    kerf = cut.choices.kerf if cut.choices.compensated else 0.0
    each = tabs.count * (tabs.width + cut.choices.kerf + (0.0 if kerf else _ROUNDED)) + _ROUNDED
    return {part.id: each for part in cut.parts if not tabs.below or part.profile.area < tabs.below}


def of_plates(checked: Report, pages: Sequence[Page]) -> Report:
    """A report without what is not asked of pages that are plates."""
    plates = {number for number, page in enumerate(pages, 1) if page.cut is not None}

    def kept(own: Check | Finding) -> bool:
        return own.code not in OF_DRAWINGS or (own.page or 1) not in plates

    checks, findings = (tuple(own for own in rows if kept(own)) for rows in (checked.checks, checked.findings))
    return checked.model_copy(update={"checks": checks, "findings": findings})


def cut_checks(data: bytes, suffix: str, pages: Sequence[Page]) -> list[Check]:
    """What the stand-in cutter says of each page that is a plate."""
    found = []
    for number, page in enumerate(pages, 1):
        if page.cut is not None and page.cut.parts:
            found += _checks(run_page(data, suffix, page.cut, number), page.cut, number)
    return found


def sheet_cut_checks(data: bytes, suffix: str, pages: Sequence[Page], machines: Sequence[Machine]) -> list[Check]:
    """Of pages for a cutter that are no plates, read as each of *machines* takes its own: whether contours are cut once, and
    parts stand apart."""
    found: list[Check] = []
    with tempfile.TemporaryDirectory(prefix="skalto-cutter-") as folder:
        path = Path(folder) / f"sheet{suffix}"
        for number, (page, machine) in enumerate(zip(pages, machines, strict=True), 1):
            if page.cut is not None:
                continue
            if not path.exists():
                path.write_bytes(data)
            try:
                cuts = read_for_machine(path, machine, page=number).cuts
            except InputError as error:
                found.append(Check(code="cut-read", title="Stand-in cutter", verdict="fails", reading=str(error), page=number))
                continue
            found += apart_checks(cuts, machine.least_kerf, number)
    return found


MARK_LIMIT = 0.05
"""What is engraved may be off what was asked for, and what is scored longer or shorter, mm."""


def _marks(made: Run, cut: CutPage, number: int) -> list[Check]:
    """What the file engraves and scores, held against what was asked for."""
    scored = math.fsum(own.length for op in _SCORED for own in (p.course for p in cut.plan.paths if p.operation is op))
    wanted = engraving(cut)
    if not scored and wanted.is_empty:
        return []
    told, short = [], False
    if scored:
        off = made.report.score_length - scored
        told.append(f"{made.report.score_length:.2f} mm scored")
        short |= abs(off) > max(MARK_LIMIT, 1e-4 * scored)
    got = made.engraved
    if not wanted.is_empty:
        told.append(f"{got.area:.2f} mm² engraved")
    missing = wanted.difference(got.buffer(MARK_LIMIT)).area
    beyond = got.difference(wanted.buffer(MARK_LIMIT + cut.choices.codes.engrave.width / 2)).area
    if missing > MARK_LIMIT**2:
        told.append(f"{missing:.2f} mm² of what is asked for are missing")
    if beyond > MARK_LIMIT**2:
        told.append(f"{beyond:.2f} mm² are too much")
    verdict: Verdict = "fails" if short or missing > MARK_LIMIT**2 or beyond > MARK_LIMIT**2 else "holds"
    limit = ", ".join(
        [*([f"{scored:.2f} mm scored"] if scored else []), *([f"{wanted.area:.2f} mm² engraved"] if wanted.area else [])]
    )
    return [Check(code="cut-marks", title="Marks", verdict=verdict, reading=", ".join(told), limit=limit, page=number)]


_SCORED = (Operation.SCORE, Operation.BEND_UP, Operation.BEND_DOWN, Operation.BEND_LIMIT)


def engraving(cut: CutPage) -> Any:
    """The area that a plate asks to be engraved: its filled areas, its pictures' boxes, its strokes as wide as their code."""
    half = cut.choices.codes.engrave.width / 2
    rows = [own.course for own in cut.plan.paths if own.operation is Operation.ENGRAVE]
    lines = [own.line(_FLAT) for own in rows]
    return shapely.union_all([*shapely.buffer(lines, half, cap_style="flat"), *filled(cut.engraved)])


def _checks(made: Run, cut: CutPage, number: int) -> list[Check]:
    report = made.report
    found = []
    rows = [own for own in report.pieces if own.deviation_um is not None]
    worst = max(rows, key=lambda own: own.deviation_um or 0.0, default=None)
    whole = {own.part for own in rows}
    short = [part for part in cut.parts if part.id not in whole]
    hang = sum(own.uncut_mm > 0 for own in rows)
    verdict: Verdict = "fails" if short or (worst and (worst.deviation_um or 0.0) > PIECE_LIMIT_UM) else "holds"
    reading = f"{len(rows) - hang} of {len(cut.parts)} fall out"
    if hang:
        reading += f", {hang} {'hangs by its' if hang == 1 else 'hang by their'} tabs"
    place: Place | None = None
    if worst is not None:
        reading += f", {worst.name} is the furthest off, {worst.deviation_um:.2f} µm"
        place = worst.box if verdict == "fails" else None
    found.append(
        Check(
            code="cut-pieces", title="Pieces", verdict=verdict, reading=reading, limit=f"all, within {PIECE_LIMIT_UM:g} µm",
            page=number, place=place,
        )
    )  # fmt: skip
    if report.size is not None:
        off = max(abs(report.size[0] - cut.plate.width), abs(report.size[1] - cut.plate.height)) * 1000
        if off > SIZE_LIMIT_UM:
            share = report.size[0] / cut.plate.width
            found.append(
                Check(
                    code="cut-scaled", title="Page and plate", verdict="fails", page=number,
                    reading=f"the page is {report.size[0]:.4f} × {report.size[1]:.4f} mm, {share:.4f} of the plate",
                    limit=f"{cut.plate.width:g} × {cut.plate.height:g} mm",
                )
            )  # fmt: skip
    found += _marks(made, cut, number)
    for sentence in report.refusals:
        found.append(Check(code="cut-refused", title="Stand-in cutter", verdict="fails", reading=sentence, page=number))
    corners = max((own.corner_um for own in rows), default=0.0)
    if corners > PIECE_LIMIT_UM:
        told = f"the beam's radius of {report.kerf / 2:.3g} mm stays in inner corners, {corners:.0f} µm off"
        found.append(Check(code="cut-corners", title="Inner corners", verdict="holds", reading=told, page=number))
    return found
