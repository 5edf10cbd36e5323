"""Measuring a DXF or SVG file that was written: read again from its plain text, and held against lengths of the model, view by
view, and stroke by stroke against what was asked for."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from skalto.core.checks.areas import area_checks
from skalto.core.checks.dxf_grammar import dxf_grammar_checks
from skalto.core.checks.flat_file import FlatFile, read_dxf_text, read_svg_text
from skalto.core.checks.flat_paint import dxf_painted, svg_painted
from skalto.core.checks.flat_pictures import svg_picture_checks
from skalto.core.checks.flat_texts import Words, dxf_words, svg_words, text_checks
from skalto.core.checks.inspection import clip_check, closed_check
from skalto.core.checks.listing import listed
from skalto.core.checks.report import FOUND, LENGTH_LIMIT_UM, PAGE_LIMIT_UM, finding_of, length_findings
from skalto.core.checks.strokes import (
    Asked,
    AskedPicture,
    Painted,
    as_arcs,
    asked_of,
    attributed,
    place_of,
    same_width,
    stroke_checks,
)
from skalto.core.checks.svg_grammar import svg_grammar_checks
from skalto.core.checks.verdict import Check, Finding, PageCheck, Reading, Report, ViewCheck
from skalto.core.errors import InputError
from skalto.core.geometry import Array
from skalto.core.lengths import ReferenceLength
from skalto.core.output.flat import Flat, only_view
from skalto.core.pages.page import Page, PlacedView, ViewLines
from skalto.core.recipes import ColourMode, Recipe

LINE_WEIGHTS = (
    0, 5, 9, 13, 15, 18, 20, 25, 30, 35, 40, 50, 53, 60, 70, 80, 90, 100, 106, 120, 140, 158, 200, 211,
)  # fmt: skip
"""The widths that DXF knows, hundredths of a millimetre (DXF reference, group code 370)."""
_OPEN = 2e-3
"""Ends nearer than this, mm, meet."""


def _dxf_width(found: Array, asked: Array) -> NDArray[np.bool_]:
    """Whether widths found are those that DXF has nearest to those asked for."""
    known = np.array(LINE_WEIGHTS) / 100
    nearest = np.abs(known - np.asarray(asked)[..., None]).min(axis=-1)
    return np.asarray(np.abs(found - asked) <= nearest + 1e-6)


@dataclass(frozen=True)
class ReadBack:
    """How a finished file of strokes is measured: a reader of its plain text that shares nothing with its writer, whether the
    file says its size, or else its unit, which widths it may have for those asked for, and what says whether it is made of
    nothing but what we write, given whether colours are multiplied where they cross, and what reads its texts: where a text of
    several faces stands in *runs*, one of each."""

    read: Callable[[bytes], FlatFile]
    says_size: bool
    same_width: Callable[[Array, Array], NDArray[np.bool_]]
    words: Callable[[bytes, float], Sequence[Words]]
    runs: bool = False
    grammar: Callable[[bytes, bool], list[Check]] = lambda data, blend: []
    painted: Painted = dxf_painted
    pictures: Callable[[bytes, float, Sequence[AskedPicture], ColourMode], list[Check]] = lambda data, height, asked, colour: []


DXF = ReadBack(read_dxf_text, says_size=False, same_width=_dxf_width, words=dxf_words, grammar=dxf_grammar_checks)
SVG = ReadBack(
    read_svg_text, says_size=True, same_width=same_width, words=svg_words, runs=True, grammar=svg_grammar_checks,
    painted=svg_painted, pictures=svg_picture_checks,
)  # fmt: skip


def _box(boxes: Array) -> tuple[float, float, float, float]:
    low, high = boxes[:, 0].min(axis=0).tolist(), boxes[:, 1].max(axis=0).tolist()
    return low[0], low[1], high[0], high[1]


def _extent(
    file: FlatFile, chosen: NDArray[np.bool_], turn: float, axis: int
) -> tuple[float, tuple[float, float, float, float]] | None:
    """How far the chosen pieces reach along an axis turned by *turn* radians, and their box on the page."""
    if not chosen.any():
        return None
    along = _box(file.boxes(turn)[chosen])
    return along[2 + axis] - along[axis], _box(file.boxes()[chosen])


def _reading(
    length: ReferenceLength, view: PlacedView, file: FlatFile, chosen: NDArray[np.bool_], number: str, moved: Array
) -> Reading:
    spec = view.spec
    expected = length.value * float(spec.scale)
    measured: float | None = None
    place = None
    if length.centre is not None:
        x, y = (place_of(spec).points(np.array(length.centre)) - moved).tolist()
        place = (x - expected / 2, y - expected / 2, x + expected / 2, y + expected / 2)
        circles, whose = file.circles()
        own = circles[(whose == number) | (whose == "")]
        near = own[np.hypot(own[:, 0] - x, own[:, 1] - y) < 0.05]
        if len(near):
            measured = float(2 * near[np.argmin(np.abs(2 * near[:, 2] - expected)), 2])
    else:
        extent = _extent(file, chosen, math.radians(spec.rotation), 0 if length.kind == "width" else 1)
        if extent is not None:
            measured, place = extent
    deviation = None if measured is None else (measured - expected) * 1000
    return Reading(
        kind=length.kind, model_mm=round(length.value, 9), expected_mm=round(expected, 6),
        measured_mm=None if measured is None else round(measured, 6),
        deviation_um=None if deviation is None else round(deviation, 3),
        holds=deviation is not None and abs(deviation) <= LENGTH_LIMIT_UM, place=place,
    )  # fmt: skip


def _view(view: PlacedView, number: int, file: FlatFile, owned: NDArray[np.bool_], moved: Array) -> ViewCheck:
    chosen = owned & ~file.unseen
    readings = sorted(
        (_reading(length, view, file, chosen, str(number), moved) for length in view.lengths),
        key=lambda r: -abs(r.deviation_um) if r.deviation_um is not None else -math.inf,
    )
    worst = readings[0] if readings else None
    ratio = view.spec.scale
    return ViewCheck(
        name=view.spec.label, scale=f"{ratio.numerator}:{ratio.denominator}",
        expected_mm=worst.expected_mm if worst else None, measured_mm=worst.measured_mm if worst else None,
        deviation_um=worst.deviation_um if worst else None, viewport_scale=None, readings=tuple(readings),
    )  # fmt: skip


def _owned(file: FlatFile, asked: Asked, side: float, single: bool) -> dict[int, NDArray[np.bool_]]:
    """Which pieces are whose: as the file says, or where it has no groups, as a cutter's, by where they lie."""
    if single:
        return dict(attributed(asked, file.pieces, side))
    return {number: file.view == str(number) for number in asked.views if number is not None}


def _size(file: FlatFile, flat: Flat, says_size: bool) -> list[Check]:
    """The size and the unit that the file says it has."""
    if not says_size:
        holds = file.unit_mm == 1.0
        reading = "millimetres" if holds else "no unit" if file.unit_mm is None else f"1 unit is {file.unit_mm:g} mm"
        return [Check(code="unit", title="Unit", verdict="holds" if holds else "fails", reading=reading, limit="millimetres")]
    if file.width is None or file.height is None:
        return [Check(code="format", title="Format", verdict="fails", reading="the file has no physical size")]
    off = max(abs(file.width - flat.width), abs(file.height - flat.height)) * 1000
    reading = f"{file.width:.4f} × {file.height:.4f} mm"
    limit = f"{flat.width:.4f} × {flat.height:.4f} mm"
    return [
        Check(code="format", title="Format", verdict="holds" if off <= PAGE_LIMIT_UM else "fails", reading=reading, limit=limit)
    ]


def _contours(file: FlatFile) -> list[Check]:
    """What a cutter would stumble over: clips, open contours with their gaps."""
    count, loose, gaps = len(file.closed), [], []
    for number in range(count):
        rows = file.run == number
        if file.closed[number] or not rows.any():
            continue
        ends = file.pieces.course[rows]
        gap = float(np.linalg.norm(ends[0, 0] - ends[-1, 2]))
        if rows.sum() == 1 or gap > _OPEN:
            loose.append(
                (float(ends[..., 0].min()), float(ends[..., 1].min()), float(ends[..., 0].max()), float(ends[..., 1].max()))
            )
            gaps.append(gap)
    return [clip_check(file.clips), *closed_check(count, loose, 1, max(gaps, default=None))]


def _leaving(
    views: Sequence[PlacedView], file: FlatFile, owned: Mapping[int, NDArray[np.bool_]], flat: Flat, cutter: bool
) -> list[Check]:
    """Views whose lines leave the sheet."""
    checks = []
    for number, view in enumerate(views):
        chosen = owned.get(number)
        if chosen is None or not chosen.any():
            continue
        x0, y0, x1, y1 = box = _box(file.boxes()[chosen])
        over = {"left": -x0, "bottom": -y0, "right": x1 - flat.width, "top": y1 - flat.height}
        told = ", ".join(f"{by:.2f} mm at the {side}" for side, by in over.items() if by > 1e-3)
        if told:
            checks.append(
                Check(
                    code="outside", title="Outside the sheet", verdict="fails" if cutter else "mend",
                    reading=f"The {view.spec.title} leaves the sheet by {told}", page=1,
                    place=box,
                )
            )  # fmt: skip
    return checks


def check_flat(
    data: bytes, back: ReadBack, flat: Flat, page: Page, lines: Mapping[str, ViewLines], recipe: Recipe, view: str | None = None
) -> Report:
    """Open a finished file by its plain text and measure it.

    :param flat: what was written, for its size and where on the page its lower left corner lies. :param page: the composed
    page, of which *view* alone was written where one is named. :param lines: the model's lines by view.
    """
    shown = page if view is None else only_view(page, view)
    try:
        file = back.read(data)
    except (ValueError, KeyError, IndexError, SyntaxError, TypeError, ArithmeticError):
        raise InputError("The file's structure is damaged, so it cannot be measured: write it again.") from None
    side, single = max(flat.width, flat.height), recipe.file == "cutter"
    moved = np.array(flat.origin)
    asked = asked_of(shown, lines, recipe, as_arcs, back.painted).moved(-moved)
    drawn = [own for own in shown.views if own.box is not None]
    owned = _owned(file, asked, side, single)
    nothing = np.zeros(len(file.pieces), bool)
    views = [_view(own, n, file, owned.get(n, nothing), moved) for n, own in enumerate(drawn)]
    findings: list[Finding] = [finding for own in views for finding in length_findings(1, own)]
    widths = file.pieces.width
    check = PageCheck(
        width_mm=round(file.width or flat.width, 4), height_mm=round(file.height or flat.height, 4),
        min_line_width_mm=round(float(widths.min()), 4) if len(widths) else None,
        max_line_width_mm=round(float(widths.max()), 4) if len(widths) else None,
        views=tuple(views), least_width_mm=recipe.least_width,
    )  # fmt: skip
    more = _size(file, flat, back.says_size)
    more += back.grammar(data, flat.blend)
    more += text_checks(data, flat.height, asked.texts, back.words, back.runs)
    more += stroke_checks(asked, file.pieces, 1, side, single, back.same_width)
    more += back.pictures(data, flat.height, asked.pictures, flat.colour)
    more += area_checks(asked.areas, file.areas, 1, side)
    if view is None:
        more += _leaving(drawn, file, owned, flat, single)
    if single:
        more += _contours(file)
    checks = [c for c in listed([check], findings, viewports=False) if c.code not in ("format", "printing")] + more
    findings += [finding_of(own) for own in more if own.verdict in FOUND]
    return Report(pages=(check,), findings=tuple(findings), checks=tuple(checks))
