"""Reading any file that is brought in: which reader takes it, within what size."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from skalto.core.errors import InputError
from skalto.core.locating import FARTHEST
from skalto.core.progress import Progress, silent
from skalto.core.sources.formats import drawing_format, model_format
from skalto.core.sources.said_unit import said_unit_of

if TYPE_CHECKING:
    from skalto.core.sources.drawings.drawing import Drawing
    from skalto.core.sources.models.model import Model

DEFAULT_SIZE_LIMIT = 500_000_000
"""Bytes; larger files are refused unless the settings say otherwise."""

LARGEST = 1e9
"""The most that a model may measure, mm: a thousand kilometres."""


def check_size(name: str, size: int, limit: int = DEFAULT_SIZE_LIMIT) -> None:
    """:raises InputError: for a file of no bytes or of more than *limit*."""
    if size == 0:
        raise InputError(f"{name} is empty: export or copy it again.")
    if size > limit:
        raise InputError(
            f"{name} has {size / 1e6:.0f} MB, over the limit of {limit / 1e6:.0f} MB: simplify it, or raise the limit "
            "in the settings."
        )


def read_model(path: Path, name: str, progress: Progress = silent, limit: int = DEFAULT_SIZE_LIMIT) -> Model:
    """Read a model file.

    :param name: the file's own name, whose ending tells the format; *path* may be called otherwise.
    :param progress: is told the share done (0 to 1) and what is being done.
    :raises InputError: with one sentence, when the file cannot be used.
    """
    known = model_format(name)
    check_size(name, path.stat().st_size, limit)
    from skalto.core.sources.models.elsewhere import left_out
    from skalto.core.sources.models.growing import grown
    from skalto.core.sources.models.locating import localised

    unit, own = said_unit_of(path)
    try:
        with _alone(path, own) as plain:
            model = grown(known.read(plain, name, progress), unit)
        # before anything is worked out from it
        size = max(model.tree.size)
        boxes = (model.tree.low, *(corner for shape in model.tree.shapes for corner in (shape.low, shape.high)))
        reach = max(abs(v) for corner in boxes for v in corner)
        if not size <= LARGEST:
            raise InputError(f"{name} measures {size:.3g} mm: it is damaged, or its unit is not what it was drawn in.")
        if not reach < FARTHEST:
            raise InputError(f"{name} lies {reach:.3g} mm away: it is damaged, or its unit is not what it was drawn in.")
        model = localised(model)
    except Exception as error:
        # the kernel's errors have nothing in common but where they are from
        if not type(error).__module__.startswith("OCP"):
            raise
        raise InputError(f"{name} is damaged: the kernel cannot build it ({_word(error)}); export it again.") from None
    said = () if unit == 1 else (f"A millimetre of the file is {unit:.6g} mm, as somebody said.",)
    told = (*said, *odd_size(size), *model.tree.lost, *left_out(path, known.kind))
    return replace(model, tree=model.tree.model_copy(update={"lost": told, "said_unit": unit}))


@contextmanager
def _alone(path: Path, size: int) -> Iterator[Path]:
    """A file without what is written behind it here: itself, where nothing is."""
    if size == path.stat().st_size:
        yield path
        return
    with tempfile.TemporaryDirectory() as folder:
        plain = Path(folder) / path.name
        plain.write_bytes(path.read_bytes()[:size])
        yield plain


LARGE, SMALL = 20_000.0, 0.5
"""Models larger or smaller than this, mm, are asked about: their unit may not be what they were drawn in (our own choice:
machines are built from parts between a watch's and a ship's)."""


def odd_size(size: float) -> tuple[str, ...]:
    """What is said of a model by its size, mm, where its unit can hardly be right."""
    if SMALL <= size <= LARGE or not size:
        return ()
    shown = f"{size / 1000:.4g} m" if size > LARGE else f"{size:.3g} mm"
    others = [size / by if size > LARGE else size * by for by in (25.4, 1000.0)]
    rather = " or ".join(f"{other:.4g} mm" for other in others)
    return (
        f"The model measures {shown}. If that cannot be right, its file names another unit than it was drawn in (then it is "
        f"{rather}): say what a millimetre of the file is, or export it again in millimetres.",
    )


def _word(error: Exception) -> str:
    """What the kernel calls what went wrong."""
    return type(error).__name__.removeprefix("Standard_").removeprefix("StdFail_")


def read_drawing(path: Path, name: str, progress: Progress = silent, limit: int = DEFAULT_SIZE_LIMIT) -> Drawing:
    """Read a drawing.

    :param name: the file's own name, whose ending tells the format; *path* may be called otherwise.
    :param progress: is told the share done (0 to 1) and what is being done.
    :raises InputError: with one sentence, when the file cannot be used.
    """
    known = drawing_format(name)
    check_size(name, path.stat().st_size, limit)
    return known.read(path, name, progress)
