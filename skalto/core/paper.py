"""Sheet formats, orientation and the frame.

Sizes are exact millimetres. ISO formats: ISO 216 and ISO 5457, trimmed; elongated ones ISO 5457 (from memory). ASME:
Y14.1. Architectural: common practice, no source.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from enum import StrEnum
from fractions import Fraction
from typing import Annotated

from pydantic import Field

from skalto.core.errors import InputError
from skalto.core.quantities import MM_PER_INCH, format_mm, parse_length
from skalto.core.typed import typed

MAX_SIDE_MM = Fraction(20_000)
"""No sheet side is longer: a limit of ours, well over any roll of paper."""


class Orientation(StrEnum):
    """How a named format lies."""

    PORTRAIT = "portrait"
    LANDSCAPE = "landscape"


@dataclass(frozen=True)
class Format:
    """A sheet format: its name and its sides in mm, as it lies."""

    name: str
    width: Fraction
    height: Fraction

    def turned(self, orientation: Orientation) -> Format:
        """The same format lying as asked; a square stays as it is."""
        short, long = sorted((self.width, self.height))
        if orientation is Orientation.PORTRAIT:
            return Format(self.name, short, long)
        return Format(self.name, long, short)

    @property
    def orientation(self) -> Orientation:
        """How it lies; a square counts as portrait."""
        return Orientation.LANDSCAPE if self.width > self.height else Orientation.PORTRAIT


def _iso(name: str, width: int, height: int) -> Format:
    return Format(name, Fraction(width), Fraction(height))


def _inch(name: str, width: str, height: str) -> Format:
    return Format(name, Fraction(width) * MM_PER_INCH, Fraction(height) * MM_PER_INCH)


FORMATS: dict[str, Format] = {
    f.name: f
    for f in (
        _iso("A4", 210, 297),
        _iso("A3", 297, 420),
        _iso("A2", 420, 594),
        _iso("A1", 594, 841),
        _iso("A0", 841, 1189),
        _inch("ANSI-A", "8.5", "11"),
        _inch("ANSI-B", "11", "17"),
        _inch("ANSI-C", "17", "22"),
        _inch("ANSI-D", "22", "34"),
        _inch("ANSI-E", "34", "44"),
        _inch("ANSI-F", "28", "40"),
        _iso("A3x3", 420, 891),
        _iso("A3x4", 420, 1189),
        _iso("A4x3", 297, 630),
        _iso("A4x4", 297, 841),
        _iso("A4x5", 297, 1051),
        _inch("Letter", "8.5", "11"),
        _inch("Legal", "8.5", "14"),
        _inch("Tabloid", "11", "17"),
        _inch("Ledger", "17", "11"),
        _inch("ARCH-A", "9", "12"),
        _inch("ARCH-B", "12", "18"),
        _inch("ARCH-C", "18", "24"),
        _inch("ARCH-D", "24", "36"),
        _inch("ARCH-E", "36", "48"),
        _inch("ARCH-E1", "30", "42"),
    )
}


def _squeezed(text: str) -> str:
    return re.sub(r"[\s_.-]+", "", text.upper().replace("×", "X"))


_BY_TYPED = {_squeezed(name): f for name, f in FORMATS.items()} | {"USLETTER": FORMATS["Letter"], "USLEGAL": FORMATS["Legal"]}
_BEFORE = re.compile(r"^(DIN|ISO|JIS|ASME)(?=A|B)")

_INCH_SIZES = {
    tuple(sorted((f.width / MM_PER_INCH, f.height / MM_PER_INCH)))
    for f in FORMATS.values()
    if (f.width / MM_PER_INCH * 2).denominator == 1 and (f.height / MM_PER_INCH * 2).denominator == 1
}
"""Sides of the formats that are made in inches, the shorter first."""

_EITHER = 60
"""Two bare numbers, both no larger than this, may be inches as well as millimetres, cm: nobody's label is that small without a
unit being worth a word (our own choice)."""

_BY = re.compile(r"[x×X*]")
_UNIT = re.compile(r"(mm|cm|m|in|ft|pt|\"|')$")


def parse_format(text: str) -> Format:
    """Read a format: a name (``A3``, ``ANSI-B``) or ``width x height`` (``90x60mm``, ``11x17in``).

    A unit written once, after the height, holds for both, and stays the one that the format is called by. Without any, the
    sides of a format that is made in inches are inches, others millimetres; two small numbers that may be either are asked
    about. A named format comes as portrait, but for ledger, which is tabloid lying wide; what was typed as width × height lies
    as typed.

    :raises InputError: when it is neither, or a side is not over zero or over :data:`MAX_SIDE_MM`.
    """
    text = typed(text, "a sheet format")
    name = _squeezed(text)
    for squeezed in (name, _BEFORE.sub("", name)):
        if squeezed in _BY_TYPED:
            return _BY_TYPED[squeezed]
    typed_width, *rest = (side.strip() for side in _BY.split(text, maxsplit=1))
    typed_height = rest[0] if rest else ""
    if not typed_width or not typed_height:
        raise InputError(
            f"“{text}” is not a sheet format: name one of {', '.join(FORMATS)}, or write width x height such as 90x60mm."
        )
    unit_match = _UNIT.search(typed_height)
    unit = unit_match[1] if unit_match else _bare_unit(text, typed_width, typed_height)
    width, height = parse_length(typed_width, unit), parse_length(typed_height, unit)
    for side in (width, height):
        if side <= 0 or side > MAX_SIDE_MM:
            raise InputError(
                f"A sheet side of {format_mm(float(side))} mm cannot be made: it must be over 0 and at most {MAX_SIDE_MM} mm."
            )
    unit = {'"': "in", "'": "ft"}.get(unit, unit)
    per = parse_length(f"1{unit}")
    sides = [format_mm(float(side / per), 6) for side in (width, height)]
    return Format(f"{sides[0]}x{sides[1]}{unit}", width, height)


def _bare_unit(text: str, width: str, height: str) -> str:
    """The unit of two sides that were typed without one. :raises InputError: when it has to be asked."""
    sides = sorted((parse_length(width), parse_length(height)))
    if tuple(sides) in _INCH_SIZES:
        return "in"
    if sides[0] > 0 and sides[1] <= _EITHER and not re.search(r"[a-zµ\"']", width):
        plain = f"{width.strip()}x{height.strip()}"
        raise InputError(f"“{text.strip()}” may be inches or millimetres: write {plain}in or {plain}mm.")
    return "mm"


class FrameStyle(StrEnum):
    """What border the sheet carries."""

    NONE = "none"
    ISO = "iso"
    ASME = "asme"


Margin = Annotated[float, Field(ge=0, le=500, allow_inf_nan=False)]
Margins = tuple[Margin, Margin, Margin, Margin]
"""Left, bottom, right, top, mm."""

ISO_FRAME_MARGINS: Margins = (20.0, 10.0, 10.0, 10.0)
"""Left (filing), bottom, right, top, mm: ISO 5457, from memory."""

ASME_FRAME_MARGINS: Margins = (12.7, 12.7, 12.7, 12.7)
"""Half an inch all round: common practice, no source."""

NO_MARGINS: Margins = (0.0, 0.0, 0.0, 0.0)

FRAME_MARGINS: dict[FrameStyle, Margins] = {
    FrameStyle.NONE: NO_MARGINS, FrameStyle.ISO: ISO_FRAME_MARGINS, FrameStyle.ASME: ASME_FRAME_MARGINS
}  # fmt: skip

ISO_FRAME_WIDTH = 0.7
"""Width of the frame line, mm: ISO 5457, from memory."""


def within_margins(width: float, height: float, margins: Margins) -> tuple[float, float, float, float] | None:
    """What margins leave of a sheet, (x0, y0, x1, y1) in mm; None when they leave nothing."""
    left, bottom, right, top = margins
    if width <= left + right or height <= bottom + top:
        return None
    return left, bottom, width - right, height - top


def frame_rectangle(
    width: float, height: float, style: FrameStyle, margins: Margins | None = None
) -> tuple[float, float, float, float] | None:
    """The frame line of a sheet as (x0, y0, x1, y1) in mm, or None without one or where the sheet is too small for it."""
    if style is FrameStyle.NONE:
        return None
    return within_margins(width, height, margins or FRAME_MARGINS[style])
