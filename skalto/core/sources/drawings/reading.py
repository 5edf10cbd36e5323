"""Reading any drawing: which reader takes it."""

from __future__ import annotations

from pathlib import Path

from skalto.core.progress import Progress, silent
from skalto.core.sources.drawings.drawing import Drawing
from skalto.core.sources.formats import drawing_format
from skalto.core.sources.models.reading import DEFAULT_SIZE_LIMIT, check_size


def read_drawing(path: Path, name: str, progress: Progress = silent, limit: int = DEFAULT_SIZE_LIMIT) -> Drawing:
    """Read a drawing.

    :param name: the file's own name, whose ending tells the format; *path* may be called otherwise.
    :param progress: is told the share done (0 to 1) and what is being done.
    :raises InputError: with one sentence, when the file cannot be used.
    """
    known = drawing_format(name)
    check_size(name, path.stat().st_size, limit)
    return known.read(path, name, progress)
