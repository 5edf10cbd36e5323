"""The unit of a model as a person says it: what a millimetre of the file is in truth. It is kept in a line behind the file's
own bytes, so that the content, which names a source, says it too."""

from __future__ import annotations

import math
import os
import re
from pathlib import Path

from skalto.core.errors import InputError
from skalto.core.quantities import parse_length
from skalto.core.sources.drawings.drawing import UNITS

WRITTEN_UNITS = {**UNITS, "pt": 25.4 / 72, "px": 25.4 / 96}
"""Units by their names, mm."""

_MARK = b"\n%skalto: a millimetre of this file is "
_LINE = re.compile(rb"\n%skalto: a millimetre of this file is ([0-9.e+-]{1,40}) mm\n\Z")
_TAIL = len(_MARK) + 60
LEAST, MOST = 1e-6, 1e6


def checked_unit(millimetres: float) -> float:
    """:raises InputError: for what is no unit that anybody draws in."""
    if not (math.isfinite(millimetres) and LEAST <= millimetres <= MOST):
        raise InputError(f"A unit of {millimetres:.6g} mm is none that anybody draws in: write one such as in, m or 25.4mm.")
    return millimetres


def said_unit_of(path: Path) -> tuple[float, int]:
    """What a millimetre of a file is, mm, and how many of its bytes are its own. 1 where nobody has said anything."""
    size = path.stat().st_size
    with path.open("rb") as file:
        file.seek(max(0, size - _TAIL), os.SEEK_SET)
        tail = file.read()
    found = _LINE.search(tail)
    if found is None:
        return 1.0, size
    try:
        unit = float(found[1])
    except ValueError:
        return 1.0, size
    return (unit if math.isfinite(unit) and LEAST <= unit <= MOST else 1.0), size - (len(tail) - found.start())


def with_unit(data: bytes, millimetres: float) -> bytes:
    """A file with what a millimetre of it is; what was said before is gone, and of 1 nothing is said.

    :raises InputError: for what is no unit.
    """
    checked_unit(millimetres)
    found = _LINE.search(data[-_TAIL:])
    own = data if found is None else data[: len(data) - (len(data[-_TAIL:]) - found.start())]
    return own if millimetres == 1 else b"%b%b%b mm\n" % (own, _MARK, repr(float(millimetres)).encode())


def unit_said(text: str) -> float:
    """A unit as it is typed, by its name or its length, in mm. :raises InputError: for what is none."""
    name = text.strip().lower()
    if name in WRITTEN_UNITS:
        return WRITTEN_UNITS[name]
    try:
        unit = float(parse_length(text))
    except InputError:
        unit = 0.0
    if unit <= 0:
        raise InputError(f"“{text}” is not a unit: write one of {', '.join(WRITTEN_UNITS)}, or its length, such as 2.54mm.")
    return unit
