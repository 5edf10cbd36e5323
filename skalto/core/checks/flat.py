"""Measuring a DXF or SVG file that was written: it is read again, and its strokes' size and largest circle compared."""

from __future__ import annotations

import tempfile
from pathlib import Path

from skalto.core.checks.report import LENGTH_LIMIT_UM, Finding, PageCheck, Reading, Report, ViewCheck
from skalto.core.drawings.lengths import excerpt_lengths
from skalto.core.drawings.reading import read_drawing
from skalto.core.output.flat import Flat
from skalto.core.quantities import format_mm


def check_flat(data: bytes, suffix: str, flat: Flat) -> Report:
    """Open a finished file with the reader of its kind and measure it against the artwork that it was made from.

    An SVG file is read by a library that did not write it; a DXF file by the one that did, through other code.
    """
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / f"written{suffix}"
        path.write_bytes(data)
        read = read_drawing(path, path.name)
    unit = read.facts.unit_mm or 1.0
    found = {length.kind: length.value * unit for length in excerpt_lengths(read.spaces[""])}
    readings, findings = [], []
    for length in excerpt_lengths(flat.artwork):
        measured = found.get(length.kind)
        deviation = None if measured is None else (measured - length.value) * 1000
        holds = deviation is not None and abs(deviation) <= LENGTH_LIMIT_UM
        readings.append(
            Reading(
                kind=length.kind,
                model_mm=round(length.value, 9),
                expected_mm=round(length.value, 6),
                measured_mm=None if measured is None else round(measured, 6),
                deviation_um=None if deviation is None else round(deviation, 3),
                holds=holds,
                place=None,
            )
        )
        if not holds:
            told = "is not found" if measured is None else f"is {measured:.4f} mm"
            message = f"The {length.kind} of {format_mm(length.value, 4)} mm {told} in the file."
            findings.append(Finding(level="error", code="length", message=message, page=1))
    worst = max(readings, key=lambda r: abs(r.deviation_um or 0.0), default=None)
    view = ViewCheck(
        name=flat.name,
        scale="1:1",
        expected_mm=worst.expected_mm if worst else None,
        measured_mm=worst.measured_mm if worst else None,
        deviation_um=worst.deviation_um if worst else None,
        viewport_scale=None,
        readings=tuple(readings),
    )
    page = PageCheck(
        width_mm=round(flat.width, 4),
        height_mm=round(flat.height, 4),
        min_line_width_mm=None,
        max_line_width_mm=None,
        views=(view,),
    )
    return Report(pages=(page,), findings=tuple(findings))
