"""The formats that sheets go out in: the one table that the command line, the services and the page ask.

To add one, write its writer in :mod:`skalto.core.output`, a reader of its plain text that shares nothing with the writer, and
a row here.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from skalto.core.errors import InputError

if TYPE_CHECKING:
    from skalto.core.checks.flat import ReadBack
    from skalto.core.output.flat import Flat
    from skalto.core.output.pixels import PictureKind


@dataclass(frozen=True, kw_only=True)
class OutputFormat:
    """A format: its name, the endings of its files, its media type, and whether a file holds several sheets."""

    name: str
    suffixes: tuple[str, ...]
    media_type: str
    many_sheets: bool = False

    @property
    def suffix(self) -> str:
        """The ending that its files are given."""
        return self.suffixes[0]


@dataclass(frozen=True, kw_only=True)
class DocumentFormat(OutputFormat):
    """Pages with all that a sheet carries."""


@dataclass(frozen=True, kw_only=True)
class StrokeFormat(OutputFormat):
    """The strokes, areas and texts of one sheet or one view: *write* makes the file, *read_back* gives what measures it."""

    write: Callable[[Flat], bytes]
    read_back: Callable[[], ReadBack]


@dataclass(frozen=True, kw_only=True)
class PixelFormat(OutputFormat):
    """Pictures of finished pages."""

    kind: PictureKind = "png"


def _write_dxf(flat: Flat) -> bytes:
    from skalto.core.output.dxf import write_dxf

    return write_dxf(flat)


def _write_svg(flat: Flat) -> bytes:
    from skalto.core.output.svg import write_svg

    return write_svg(flat)


def _dxf_back() -> ReadBack:
    from skalto.core.checks.flat import DXF

    return DXF


def _svg_back() -> ReadBack:
    from skalto.core.checks.flat import SVG

    return SVG


PDF = DocumentFormat(name="PDF", suffixes=(".pdf",), media_type="application/pdf", many_sheets=True)
STROKES = (
    StrokeFormat(name="DXF", suffixes=(".dxf",), media_type="image/vnd.dxf", write=_write_dxf, read_back=_dxf_back),
    StrokeFormat(name="SVG", suffixes=(".svg",), media_type="image/svg+xml", write=_write_svg, read_back=_svg_back),
)
PIXELS = (
    PixelFormat(name="PNG", suffixes=(".png",), media_type="image/png", kind="png"),
    PixelFormat(name="JPEG", suffixes=(".jpg", ".jpeg"), media_type="image/jpeg", kind="jpeg"),
    PixelFormat(name="TIFF", suffixes=(".tiff", ".tif"), media_type="image/tiff", many_sheets=True, kind="tiff"),
)
FORMATS: tuple[DocumentFormat | StrokeFormat | PixelFormat, ...] = (PDF, *STROKES, *PIXELS)
SUFFIXES = tuple(suffix for known in FORMATS for suffix in known.suffixes)
"""The endings of all files that can be written."""


def output_format(name: str) -> DocumentFormat | StrokeFormat | PixelFormat:
    """The format that a file's name asks for by its ending.

    >>> output_format("Cheek.DXF").name
    'DXF'

    :raises InputError: for an ending that is not written.
    """
    suffix = Path(name).suffix.lower()
    for known in FORMATS:
        if suffix in known.suffixes:
            return known
    *rest, last = SUFFIXES
    raise InputError(f"{Path(name).name} does not end in {', '.join(rest)} or {last}, which are the formats that are written.")


def stroke_format(name: str) -> StrokeFormat:
    """The format of strokes of that name. :raises InputError: when there is none."""
    for known in STROKES:
        if known.name.lower() == name.lower():
            return known
    raise InputError(f"{name} is not a format of drawings: choose {' or '.join(known.name for known in STROKES)}.")
