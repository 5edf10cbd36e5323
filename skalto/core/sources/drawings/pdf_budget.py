"""How much a PDF may grow to while its streams are unpacked: a few hundred bytes can hold gigabytes, packed over and over."""

from __future__ import annotations

import io
import zlib
from typing import Any

import pikepdf

from skalto.core.errors import InputError

FREE, RATIO, MOST = 256_000_000, 200, 2_000_000_000
"""Bytes that the streams of a file may have unpacked: so many anyway, or so many times the file, but never more than the last
(our own choice: line work shrinks to a tenth, white paper to a thousandth)."""

_RUNS = 64
"""A run of two bytes stands for 128 (ISO 32000-1, 7.4.5)."""


def budget_of(size: int) -> int:
    """What the streams of a file of so many bytes may have unpacked."""
    return min(MOST, max(FREE, RATIO * size))


def unpacked_size(data: bytes, filters: list[str], limit: int) -> int:
    """How many bytes a stream has once its filters are undone, one after another, but no more than a *limit* and one of them
    are made; what a filter that is not undone here may grow to at most counts."""
    for number, name in enumerate(filters):
        if name in ("/FlateDecode", "/Fl"):
            try:
                data = zlib.decompressobj().decompress(data, limit + 1)
            except zlib.error:
                return len(data)
            if len(data) > limit:
                return len(data)
        elif name in ("/RunLengthDecode", "/RL"):
            rest = filters[number + 1 :]
            return len(data) * _RUNS if not rest else limit + 1
        else:
            # others shrink, or grow by little; what they hold is packed no further in files that people make
            return len(data) if len(filters) - number < 3 else limit + 1
    return len(data)


def _filters(stream: Any) -> list[str]:
    found = stream.get("/Filter")
    if found is None:
        return []
    return [str(own) for own in found] if isinstance(found, pikepdf.Array) else [str(found)]


def refuse_swelling(data: bytes, name: str) -> None:
    """:raises InputError: for a PDF whose streams would unpack to more than its budget. Pictures, which have limits of their
    own, and files that cannot be opened, are passed over."""
    left = budget = budget_of(len(data))
    told = (
        f"{name} unpacks to more than {budget / 1e6:.0f} MB, which no drawing of {len(data) / 1e3:.1f} kB does: it is "
        "damaged, or made to overwhelm. Print it to a new PDF."
    )
    try:
        with pikepdf.open(io.BytesIO(data), suppress_warnings=True) as pdf:
            for own in pdf.objects:
                if not isinstance(own, pikepdf.Stream) or own.get("/Subtype") == "/Image":
                    continue
                left -= unpacked_size(own.read_raw_bytes(), _filters(own), max(left, 0))
                if left < 0:
                    raise InputError(told)
    except (pikepdf.PdfError, pikepdf.PasswordError, ValueError, RuntimeError, OverflowError):
        return
