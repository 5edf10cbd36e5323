"""Reading any drawing: which reader takes it."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from skalto.core.drawings.drawing import Drawing
from skalto.core.errors import InputError
from skalto.core.models.reading import DEFAULT_SIZE_LIMIT, check_size

SUFFIXES = {".dxf": "dxf", ".svg": "svg", ".pdf": "pdf"}
"""File name endings of drawings and the format that each means."""

Progress = Callable[[float, str], None]


def is_drawing(name: str) -> bool:
    """Whether a file's name says that it is a drawing."""
    return Path(name).suffix.lower() in SUFFIXES


def read_drawing(
    path: Path, name: str, progress: Progress = lambda share, text: None, limit: int = DEFAULT_SIZE_LIMIT
) -> Drawing:
    """Read a drawing.

    :param name: the file's own name, whose ending tells the format; *path* may be called otherwise.
    :param progress: is told the share done (0 to 1) and what is being done.
    :raises InputError: with one sentence, when the file cannot be used.
    """
    kind = SUFFIXES.get(Path(name).suffix.lower())
    if kind is None:
        raise InputError(f"{name} is not a drawing that can be read: bring in DXF, SVG or PDF.")
    check_size(name, path.stat().st_size, limit)
    if kind == "dxf":
        from skalto.core.drawings.dxf.reading import read_dxf

        return read_dxf(path, name, progress).localised()
    if kind == "svg":
        from skalto.core.drawings.svg.reading import read_svg

        return read_svg(path, name, progress).localised()
    from skalto.core.drawings.pdf import read_pdf

    return read_pdf(path, name, progress)
