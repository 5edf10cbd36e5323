"""Opening a DXF file, R12 to 2018, ASCII or binary; damaged ones are recovered where that can be done."""

from __future__ import annotations

import io
import re
import struct
from collections import Counter
from pathlib import Path
from typing import Any

import ezdxf
from ezdxf import recover
from ezdxf.fonts import fonts
from ezdxf.lldxf.const import DXFError, DXFVersionError

from skalto.core import lettering
from skalto.core.errors import InputError
from skalto.core.sources.drawings.dxf.mending import mended
from skalto.core.sources.drawings.dxf.plain import NAMES, Plain, plain_of

RELEASES = {
    "AC1009": "R12",
    "AC1012": "R13",
    "AC1014": "R14",
    "AC1015": "R2000",
    "AC1018": "R2004",
    "AC1021": "R2007",
    "AC1024": "R2010",
    "AC1027": "R2013",
    "AC1032": "R2018",
}
_BINARY = b" Binary DXF\r\n\x1a\x00"
"""How the first line of a binary DXF file ends, 22 bytes from its beginning (DXF reference, Binary DXF Files)."""

_FOREIGN = (
    (b"AC10", "in a closed format that only its maker reads: save it as DXF"),
    (b"%PDF", "a PDF file: give it a name that ends in .pdf"),
    (b"PK\x03\x04", "an archive: unpack it and add the DXF file in it"),
    (b"<?xml", "an XML file: a drawing in SVG has a name that ends in .svg"),
    (b"<svg", "an SVG file: give it a name that ends in .svg"),
    (b"\x89PNG", "a picture of pixels, which has no lines: add a drawing"),
    (b"\xff\xd8\xff", "a picture of pixels, which has no lines: add a drawing"),
    (b"ISO-10303-21", "a STEP file: give it a name that ends in .step"),
)
_CODED = re.compile(r"\\U\+([0-9A-Fa-f]{4})")


def _quiet_fonts() -> None:
    """ezdxf looks for fonts on the machine; what text is drawn with is decided here, the same on every machine."""
    fonts.font_manager.clear()
    fonts.font_manager.build([str(lettering.FOLDER)], support_dirs=False)


def is_binary(head: bytes) -> bool:
    """Whether a file is DXF in its binary form."""
    return _BINARY in head[:22]


def foreign(head: bytes) -> str | None:
    """What a file is that is no DXF file, by how it begins; None where that does not tell."""
    start = head.lstrip(b"\xef\xbb\xbf \r\n\t")
    for mark, what in _FOREIGN:
        if start.startswith(mark):
            return what
    return None


def readable(text: str) -> str:
    """A text with letters for their codes (``\\U+nnnn``, DXF reference); halves of one are joined, or replaced where alone."""
    text = _CODED.sub(lambda match: chr(int(match[1], 16)), text)
    return text.encode("utf-16", "surrogatepass").decode("utf-16", "replace") if not text.isascii() else text


STUMBLES = (
    OSError, ValueError, TypeError, KeyError, IndexError, AttributeError, EOFError, ArithmeticError, AssertionError,
    StopIteration, RecursionError, struct.error,
)  # fmt: skip
"""What ezdxf raises beside its own errors where a file breaks the rules that it counts on."""


def load(path: Path, name: str, plain: bool = True) -> tuple[Any, list[str], Plain | None]:
    """The document; what was mended or lost in opening it, in words; and its plain strokes, where they were taken off it and
    stand by themselves. Without *plain* all of it is the library's.

    :raises InputError: when nothing can be made of the file.
    """
    _quiet_fonts()
    head = path.read_bytes()[:4096] if path.stat().st_size < 4096 else path.open("rb").read(4096)
    what = foreign(head)
    if what is not None:
        raise InputError(f"{name} is {what}.")
    if not is_binary(head) and b"\0" in head[:512].replace(b"\r\n", b""):
        raise InputError(f"{name} is not a DXF file: export the drawing as DXF again.")
    try:
        taken = _without_plain(path, head) if plain else None
        if taken is not None:
            return taken[0], [], taken[1]
        return ezdxf.readfile(path, errors="replace"), [], None
    except DXFVersionError:
        raise InputError(f"{name} is in a DXF version before R12, which is not read: save it as R12 or later.") from None
    except (DXFError, *STUMBLES):
        pass
    return *_recovered(path, name), None


def _without_plain(path: Path, head: bytes) -> tuple[Any, Plain] | None:
    """The document without its plain strokes, and these; None where they are few, or cannot be put back in place."""
    if is_binary(head):
        return None
    found = plain_of(path.read_bytes())
    if found is None:
        return None
    encoding = ezdxf.filemanagement.dxf_file_info(str(path)).encoding
    try:
        document = ezdxf.read(io.TextIOWrapper(io.BytesIO(found.rest), encoding=encoding, errors="replace"))
    except (DXFError, *STUMBLES):
        return None
    space = document.modelspace()
    kinds = [entity.dxftype() for entity in space]
    stay = len(kinds) - found.looks
    if stay < 0 or tuple(kinds[:stay]) != found.kinds or any(kind not in NAMES for kind in kinds[stay:]):
        return None
    return document, found


def _recovered(path: Path, name: str) -> tuple[Any, list[str]]:
    """What ezdxf's recovery makes of a file, mended first where it is text."""
    data = path.read_bytes()
    told: list[str] = []
    if not is_binary(data):
        if b"SECTION" not in data:
            raise InputError(f"{name} is not a DXF file, or too damaged to be recovered: export the drawing again.")
        data, told = mended(data)
    try:
        document, auditor = recover.read(io.BytesIO(data), errors="replace")
    except DXFVersionError:
        raise InputError(f"{name} is in a DXF version before R12, which is not read: save it as R12 or later.") from None
    except DXFError:
        raise InputError(f"{name} is not a DXF file, or too damaged to be recovered: export the drawing again.") from None
    except STUMBLES:
        raise InputError(f"{name} is damaged and cannot be recovered: export the drawing again.") from None
    release = RELEASES.get(document.dxfversion, document.dxfversion)
    faults = Counter(entry.message.split("(")[0].strip()[:80] for entry in (*auditor.errors, *auditor.fixes))
    found = [f"{count} × {message.rstrip('.')}." for message, count in faults.most_common(12)]
    return document, [f"The file was damaged and has been recovered ({release}).", *told, *found]
