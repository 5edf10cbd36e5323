"""The command line's use cases: straight from a file to a result, run in a process of their own."""

from __future__ import annotations

import os
import sys
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from datetime import UTC, datetime
from fractions import Fraction
from pathlib import Path
from typing import Any

from pydantic import BaseModel, ConfigDict

from skalto.core.artwork import EdgeClass
from skalto.core.errors import InputError
from skalto.core.models.model import hidden_by_patterns
from skalto.core.models.reading import read_model
from skalto.core.output.pdf.document import Metadata
from skalto.core.paper import FrameStyle, Orientation
from skalto.core.projection.view import ProjectionSpec, tolerance_for
from skalto.core.quantities import format_scale, parse_scale
from skalto.core.sheets.arranging import choose_format, largest_scale, refuse_unfit, row_places, row_size, usable
from skalto.core.sheets.compose import Box, ViewLines
from skalto.core.sheets.sheet import SheetSpec, ViewSpec
from skalto.core.viewpoint import Viewpoint, parse_viewpoint
from skalto.services.tasks import project_model, write_and_check
from skalto.settings import environment_settings

ReportProgress = Callable[[float, str], None]


class ExportOptions(BaseModel):
    """What ``skalto export`` was asked for, as typed."""

    model_config = ConfigDict(frozen=True)

    views: tuple[str, ...] = ("front",)
    scale: str = "1:1"
    paper: str = "A3"
    orientation: str = "auto"
    show: tuple[str, ...] = ()
    hide: tuple[str, ...] = ()
    lines: str = "visible"
    frame: FrameStyle = FrameStyle.NONE
    force: bool = False


@contextmanager
def _quiet() -> Iterator[None]:
    """Keep what libraries print by themselves off standard output."""
    sys.stdout.flush()
    kept, nowhere = os.dup(1), os.open(os.devnull, os.O_WRONLY)
    os.dup2(nowhere, 1)
    try:
        yield
    finally:
        os.dup2(kept, 1)
        os.close(kept)
        os.close(nowhere)


def tree_of(path: str, report: ReportProgress) -> dict[str, Any]:
    """The component tree of a model file, as ``skalto tree --json`` prints it. :raises InputError: for a bad file."""
    with _quiet():
        model = read_model(Path(path), Path(path).name, report, environment_settings().size_limit)
    return model.tree.report()


def _classes(text: str) -> tuple[EdgeClass, ...]:
    words = [word.strip() for word in text.split("+")]
    known = {"visible": (EdgeClass.VISIBLE, EdgeClass.OUTLINE), "hidden": (EdgeClass.HIDDEN,), "smooth": (EdgeClass.SMOOTH,)}
    if not words or any(word not in known for word in words):
        raise InputError(f"“{text}” is not a choice of lines: write visible, or visible+hidden.")
    return tuple(c for word in words for c in known[word])


def _fitted_exactly(model: Any, views: Sequence[Viewpoint], hidden: frozenset[str], scale: Fraction) -> list[ViewLines]:
    return [
        project_model(model, ProjectionSpec(look=v.look, up=v.up, hidden=hidden, tolerance=tolerance_for(scale))) for v in views
    ]


def _boxes(lines: Sequence[ViewLines], classes: Sequence[EdgeClass], names: Sequence[str]) -> list[Box]:
    boxes = []
    for own, name in zip(lines, names, strict=True):
        box = own.artwork.only(classes).bounds()
        if box is None:
            raise InputError(f"The {name} view shows no line: show more components or more edges.")
        boxes.append(box)
    return boxes


def export_file(path: str, out: str, options: dict[str, Any], report: ReportProgress) -> dict[str, Any]:
    """Read a model, lay its views side by side on one sheet, write the PDF, measure it; the report as plain data.

    :raises InputError: for a bad file or option, and when the views do not fit and *force* is off.
    """
    chosen = ExportOptions.model_validate(options)
    viewpoints = [parse_viewpoint(text) for text in chosen.views]
    classes = _classes(chosen.lines)
    fixed = None if chosen.scale.strip().lower() == "largest" else parse_scale(chosen.scale)
    choose_format(chosen.paper, chosen.orientation, [(0, 0, 1, 1)], chosen.frame, fixed)
    with _quiet():
        model = read_model(Path(path), Path(path).name, report, environment_settings().size_limit)
        hidden = hidden_by_patterns(model.tree, chosen.show, chosen.hide)
        lines = _fitted_exactly(model, viewpoints, hidden, fixed or Fraction(1))
        boxes = _boxes(lines, classes, [v.name for v in viewpoints])
        paper = choose_format(chosen.paper, chosen.orientation, boxes, chosen.frame, fixed)
        within = usable(float(paper.width), float(paper.height), chosen.frame)
        room = (within[2] - within[0], within[3] - within[1])
        scale = fixed or largest_scale(boxes, room)
        if not chosen.force:
            where = f"the sheet {paper.name}" if chosen.frame is FrameStyle.NONE else f"the frame of the sheet {paper.name}"
            refuse_unfit(row_size(boxes, scale), room, where)
        if tolerance_for(scale) < tolerance_for(fixed or Fraction(1)):
            lines = _fitted_exactly(model, viewpoints, hidden, scale)
        views = tuple(
            ViewSpec(
                id=str(number),
                source="",
                name=viewpoint.name,
                look=viewpoint.look,
                up=viewpoint.up,
                scale=format_scale(scale),
                anchor=((box[0] + box[2]) / 2, (box[1] + box[3]) / 2),
                place=place,
                hidden=hidden,
                classes=classes,
            )
            for number, (viewpoint, box, place) in enumerate(
                zip(viewpoints, boxes, row_places(boxes, scale, within), strict=True)
            )
        )
        way = Orientation.LANDSCAPE if paper.width > paper.height else Orientation.PORTRAIT
        sheet = SheetSpec(id="0", name=Path(path).stem, format=paper.name, orientation=way, frame=chosen.frame, views=views)
        by_id = {view.id: own for view, own in zip(views, lines, strict=True)}
        data, checked = write_and_check([sheet], by_id, Metadata(Path(path).stem, created=datetime.now(UTC)), report)
    try:
        Path(out).write_bytes(data)
    except OSError as error:
        raise InputError(f"{out} cannot be written: {error.strerror or error}.") from None
    return checked.model_dump(mode="json") | {"holds": checked.holds, "scale": format_scale(scale), "format": paper.name}
