"""What a PDF uses against the version that it claims: a reader of that version knows no more (ISO 32000-1, 7.5.2 and 7.7.2)."""

from __future__ import annotations

import io
from collections.abc import Iterator
from typing import Any

import pikepdf

from skalto.core.checks.verdict import Check

SINCE = {
    "transparency": (1, 4), "layers": (1, 5), "object streams": (1, 5), "units of pages": (1, 6),
    "measurement viewports": (1, 6), "3D": (1, 6), "encryption with 256 bits": (1, 7),
}  # fmt: skip
"""The version with which each came (ISO 32000-1, at their tables; from memory)."""


def claimed(pdf: pikepdf.Pdf, data: bytes) -> tuple[int, int]:
    """The later of the versions that the head of a file and its catalog say."""
    said = []
    begin = data.find(b"%PDF-", 0, 1024)
    head = data[begin + 5 : begin + 8].decode("ascii", "replace") if begin >= 0 else ""
    for text in (head, str(pdf.Root.get("/Version", "")).lstrip("/")):
        major, _, minor = text.partition(".")
        if major.isdigit() and minor.isdigit():
            said.append((int(major), int(minor)))
    return max(said, default=(1, 0))


def _of(own: Any) -> Iterator[str]:
    """What an object uses."""
    if own.get("/Subtype") == "/3D" or own.get("/Type") in ("/3D", "/3DView"):
        yield "3D"
    if own.get("/Type") == "/Page":
        if "/VP" in own:
            yield "measurement viewports"
        if "/UserUnit" in own:
            yield "units of pages"
    if own.get("/Type") in ("/ObjStm", "/XRef"):
        yield "object streams"
    if own.get("/BM", "/Normal") not in ("/Normal", "/Compatible") or own.get("/SMask", "/None") != "/None":
        yield "transparency"
    if any(isinstance(value := own.get(key), (int, float)) and value < 1 for key in ("/ca", "/CA")):
        yield "transparency"


def used(pdf: pikepdf.Pdf) -> set[str]:
    """What a file uses, as :data:`SINCE` names it."""
    found: set[str] = set()
    if "/OCProperties" in pdf.Root:
        found.add("layers")
    if pdf.is_encrypted and pdf.encryption.bits > 128:
        found.add("encryption with 256 bits")
    for own in pdf.objects:
        if isinstance(own, pikepdf.Dictionary | pikepdf.Stream):
            found |= set(_of(own))
    return found


def version_check(data: bytes, password: str = "") -> Check:
    """Whether a file claims the version of all that it uses."""
    with pikepdf.open(io.BytesIO(data), password=password) as pdf:
        claims, uses = claimed(pdf, data), used(pdf)
    late = sorted(name for name in uses if SINCE[name] > claims)
    reading = f"claims PDF {claims[0]}.{claims[1]}"
    if late:
        reading += f", and uses {', '.join(late)}"
        limit = f"PDF {'.'.join(map(str, max(SINCE[name] for name in late)))}"
        return Check(code="version", title="Version", verdict="fails", reading=reading, limit=limit)
    return Check(code="version", title="Version", verdict="holds", reading=reading)
