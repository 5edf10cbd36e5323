"""Lengths, units and scales as drafters write them.

Scales are exact ratios, paper : model; lengths are millimetres.
"""

from __future__ import annotations

import re
from fractions import Fraction
from typing import TYPE_CHECKING, Any

from skalto.core.errors import InputError
from skalto.core.typed import LONGEST_VALUE, typed

if TYPE_CHECKING:
    from pydantic import GetCoreSchemaHandler, GetJsonSchemaHandler
    from pydantic_core import CoreSchema

MM_PER_INCH = Fraction(254, 10)
"""Exact since the international inch of 1959."""

PT_PER_MM = Fraction(72) / MM_PER_INCH
"""PDF default user space units a millimetre (ISO 32000-1, 8.3.2.3: 1/72 inch)."""

_LEAST, _MOST = Fraction(1, 1_000_000), Fraction(1_000_000)
"""Scales beyond these are slips of the hand."""

_UNITS: dict[str, Fraction] = {
    "mm": Fraction(1),
    "cm": Fraction(10),
    "m": Fraction(1000),
    "in": MM_PER_INCH,
    '"': MM_PER_INCH,
    "ft": MM_PER_INCH * 12,
    "'": MM_PER_INCH * 12,
    "pt": MM_PER_INCH / 72,
    "um": Fraction(1, 1000),
    "µm": Fraction(1, 1000),
}
_NUMBER = r"(?:\d+\s+\d+/\d+|\d+/\d+|\d+(?:[.,]\d*)?|[.,]\d+)"
_FACTOR = re.compile(_NUMBER)
_LENGTH = re.compile(rf"\s*(?:(?P<sign>[-+])\s*)?(?P<number>{_NUMBER})(?:\s*(?P<unit>mm|cm|m|in|ft|pt|µm|um|\"|'))?\s*")


def _number(text: str) -> Fraction:
    """A decimal, a fraction or a whole with a fraction (``8 1/2``), exactly."""
    return sum((Fraction(part.replace(",", ".")) for part in text.split()), Fraction(0))


def parse_length(text: str, unit: str = "mm") -> Fraction:
    """Read one length such as ``90``, ``0.001in``, ``8 1/2"`` or ``1'-0"``.

    :param unit: the unit of a bare number.
    :return: millimetres, exact.
    :raises InputError: when the text is not a length.
    """
    text = typed(text, "a length")
    rest, total, seen = text.replace("’", "'").replace("″", '"'), Fraction(0), 0
    while rest:
        match = _LENGTH.match(rest)
        if not match or (seen and not match["unit"]):
            raise InputError(f"“{text}” is not a length: write a number and a unit, such as 90 mm or 3.5in.")
        try:
            value = _number(match["number"]) * _UNITS[match["unit"] or unit]
        except ZeroDivisionError:
            raise InputError(f"“{text}” divides by zero.") from None
        total += -value if match["sign"] == "-" and not seen else value
        rest, seen = rest[match.end() :], seen + 1
    if not seen:
        raise InputError("A length is missing: write a number and a unit, such as 90 mm.")
    return total


class Scale(Fraction):
    """An exact scale, paper : model, that reads and writes itself as ISO 5455 does.

    >>> Scale.parse("1:2"), str(Scale(5, 2)), str(Scale.parse("50 %"))
    (Scale(1, 2), '5:2', '1:2')

    In a job document and in the interface it is its text.
    """

    __slots__ = ()

    @classmethod
    def parse(cls, text: str) -> Scale:
        """Read a scale such as ``1:2``, ``2:1``, ``5:2`` or ``1/4"=1'-0"``; also a factor: ``2``, ``1/2``, ``0.5``, ``50 %``.

        :raises InputError: when the text is not a scale, or is zero or without end.
        """
        text = typed(text, "a scale")
        percent = text.endswith("%")
        number = text[:-1].rstrip() if percent else text
        if _FACTOR.fullmatch(number):
            try:
                ratio = _number(number) / (100 if percent else 1)
            except ZeroDivisionError:
                ratio = Fraction(0)
            if _LEAST <= ratio <= _MOST:
                return cls(ratio)
        for sign in (":", "="):
            left, found, right = text.partition(sign)
            if not found:
                continue
            try:
                paper, model = parse_length(left), parse_length(right)
            except InputError:
                break
            if paper > 0 and model > 0 and _LEAST <= paper / model <= _MOST:
                return cls(paper / model)
            break
        raise InputError(f'“{text}” is not a scale: write paper : model, such as 1:2, 2:1 or 1/4"=1\'-0".')

    def __str__(self) -> str:
        return f"{self.numerator}:{self.denominator}"

    @property
    def is_preferred(self) -> bool:
        """Whether ISO 5455 prefers it."""
        return self in PREFERRED_SCALES

    @classmethod
    def __get_pydantic_core_schema__(cls, source: Any, handler: GetCoreSchemaHandler) -> CoreSchema:
        from pydantic_core import core_schema

        written = core_schema.to_string_ser_schema()
        return core_schema.no_info_before_validator_function(
            cls._validated, core_schema.is_instance_schema(cls), serialization=written
        )

    @classmethod
    def __get_pydantic_json_schema__(cls, schema: CoreSchema, handler: GetJsonSchemaHandler) -> dict[str, Any]:
        return {"type": "string", "maxLength": LONGEST_VALUE}

    @classmethod
    def _validated(cls, value: object) -> Scale:
        if isinstance(value, Scale):
            return value
        if isinstance(value, str):
            try:
                return cls.parse(value)
            except InputError as error:
                raise ValueError(str(error)) from None
        if isinstance(value, Fraction) and value > 0:
            return cls(value)
        raise ValueError("A scale is a text such as 1:2.")


FULL_SIZE = Scale(1)
"""1:1, as large as life."""

PREFERRED_SCALES: tuple[Scale, ...] = tuple(
    [Scale(n) for n in (50, 20, 10, 5, 2, 1)]
    + [Scale(1, n) for n in (2, 5, 10, 20, 50, 100, 200, 500, 1000, 2000, 5000, 10000)]
)
"""The scales that ISO 5455 prefers, largest first."""


ARCHITECTURAL_SCALES = tuple(
    f'{inches}"=1\'-0"' for inches in ("3", "1 1/2", "1", "3/4", "1/2", "3/8", "1/4", "3/16", "1/8", "3/32", "1/16")
)
"""Scales of drawings in feet and inches, largest first, as they are written (common practice, no source)."""


def largest_preferred(limit: Fraction | float) -> Scale:
    """The largest scale of ISO 5455 that is at most *limit*.

    :raises InputError: when even the smallest is larger than the limit.
    """
    for scale in PREFERRED_SCALES:
        if scale <= limit:
            return scale
    raise InputError("No scale of ISO 5455 is small enough: take a larger sheet, or type a scale of your own.")


def ratio_near(value: float) -> Scale:
    """A scale of ISO 5455 within a millionth of a value, else a ratio of whole numbers, else the value itself."""
    for scale in PREFERRED_SCALES:
        if abs(value / float(scale) - 1) < 1e-6:
            return scale
    near = Fraction(value).limit_denominator(100_000) if value < 1 else 1 / Fraction(1 / value).limit_denominator(100_000)
    return Scale(near if near > 0 else Fraction(value).limit_denominator(10**9))


def format_mm(value: float, digits: int = 3) -> str:
    """A length for a person: at most *digits* decimals, no trailing zeros."""
    text = f"{value:.{digits}f}".rstrip("0").rstrip(".")
    return "0" if text in ("-0", "") else text
