"""Mending an ASCII DXF file that is broken as text: stray lines, group codes that are none, an end that is missing."""

from __future__ import annotations

import re

_CODE = re.compile(rb"\s*-?\d{1,4}\s*")
_REAL = frozenset((*range(10, 60), *range(110, 150), *range(210, 240), *range(460, 470), *range(1010, 1060)))
"""Group codes whose values are real numbers (DXF reference, Group Code Value Types)."""

_NUMBER = re.compile(rb"\s*[-+]?(\d+(?:\.\d*)?|\.\d+)([eE][-+]?\d+)?\s*")


def mended(data: bytes) -> tuple[bytes, list[str]]:
    """The file with what is broken left out, and what that was, in words."""
    lines = data.replace(b"\r\n", b"\n").replace(b"\r", b"\n").split(b"\n")
    told: list[str] = []
    start = 0
    while start < len(lines) and not lines[start].strip(b"\xef\xbb\xbf \t"):
        start += 1
    if start:
        told.append(f"{start} empty lines before the header were left out.")
    out: list[bytes] = []
    strange = wrong = 0
    at, inside, ended = start, False, False
    while at + 1 < len(lines):
        code, value = lines[at], lines[at + 1]
        if not _CODE.fullmatch(code.strip(b"\xef\xbb\xbf")):
            strange += 1
            # a line too many, or a pair that is spoilt: go on where codes and values are in step again
            at += 1 if _CODE.fullmatch(value) else 2
            continue
        number = int(code.strip(b"\xef\xbb\xbf"))
        if number in _REAL and not _NUMBER.fullmatch(value):
            wrong += 1
            at += 2
            continue
        if number == 0:
            word = value.strip()
            inside = word != b"ENDSEC" and (inside or word == b"SECTION")
            ended = word == b"EOF"
        out += (code, value)
        at += 2
        if ended:
            break
    if strange:
        told.append(f"{strange} × a line where a group code should be: left out.")
    if wrong:
        told.append(f"{wrong} × a value that is no number: left out.")
    if not ended:
        told.append("The file ends too soon: what comes before is here.")
        out += [b"  0", b"ENDSEC"] if inside else []
        out += [b"  0", b"EOF"]
    return b"\n".join(out) + b"\n", told
