"""What a measuring tool can hold on to in a finished page: ends, centres and strokes of the file itself, and its viewports."""

from __future__ import annotations

import numpy as np
import pypdfium2 as pdfium

from skalto.core.checks.originals import within_regions
from skalto.core.checks.points import PageScale, SnapPoints
from skalto.core.checks.vectors import read_page
from skalto.core.errors import InputError
from skalto.core.geometry import Array, bezier_at
from skalto.core.geometry.curves import circle_through
from skalto.core.pdf_dictionaries import read_dictionaries

_ROUND = 5e-3
"""How far a circle's points may be from it, mm, so that it counts as one."""

_FLAT = np.linspace(0.0, 1.0, 9)
MOST = 60_000
"""Strokes that are handed on at most."""


def _circle(curves: Array) -> tuple[float, float, float] | None:
    points = bezier_at(curves, _FLAT).reshape(-1, 2)
    found = circle_through(points, _ROUND)
    if found is None:
        return None
    (x, y), radius = found
    return float(x), float(y), float(radius)


def _unique(rows: list[tuple[float, ...]], decimals: int = 5) -> list[tuple[float, ...]]:
    return list(dict.fromkeys(tuple(round(v, decimals) for v in row) for row in rows))


def snap_points(data: bytes, page: int = 0, password: str = "") -> SnapPoints:
    """Read what can be measured from, by pdfium; the viewports by pdfminer.six.

    :param page: its number, from 0.
    :raises InputError: when the file or the page cannot be read.
    """
    record = read_dictionaries(data, password)
    if not 0 <= page < len(record.pages):
        raise InputError("This file has no such page.")
    document = pdfium.PdfDocument(data, password=password or None)
    try:
        vectors = within_regions(read_page(document, page, record.pages[page].user_unit), record.pages[page].views)
        ends: list[tuple[float, ...]] = []
        centres: list[tuple[float, ...]] = []
        strokes: list[tuple[float, ...]] = []
        for number in range(len(vectors.paths)):
            for sub in vectors.paths.subpaths(number):
                curved = ~sub.straight
                circle = _circle(sub.curves) if curved.all() else None
                if circle is not None:
                    centres.append(circle)
                if circle is None or not sub.closed:
                    ends += [tuple(p) for p in sub.curves[:, 0].tolist()] + [tuple(p) for p in sub.curves[-1:, 3].tolist()]
                for curve, straight in zip(sub.curves, sub.straight.tolist(), strict=True):
                    if straight:
                        strokes.append((*curve[0].tolist(), *curve[3].tolist()))
                    else:
                        run = bezier_at(curve[None], _FLAT)[0]
                        strokes += [(*a, *b) for a, b in zip(run[:-1].tolist(), run[1:].tolist(), strict=True)]
    finally:
        document.close()
    viewports = tuple(
        PageScale(name=port.name, ratio=port.ratio, box=port.box, model=1 / port.scale)
        for port in record.pages[page].viewports
        if port.scale
    )
    parts = [_unique(rows) for rows in (ends, centres, strokes)]
    held = [tuple(rows[:MOST]) for rows in parts]
    beyond = sum(len(rows) for rows in parts) - sum(len(rows) for rows in held)
    return SnapPoints.model_construct(ends=held[0], centres=held[1], strokes=held[2], viewports=viewports, beyond=beyond)
