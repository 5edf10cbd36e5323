"""Views of a model on a sheet, as the command line was asked for them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from skalto.core.artwork import EdgeClass
from skalto.core.errors import InputError
from skalto.core.formats import DocumentFormat, output_format
from skalto.core.geometry import Box
from skalto.core.layout.annotations_3d import annotation_for, bare_sheet
from skalto.core.layout.arrangement import GAP, Layout, choose_format, place_to_fit, refuse_unfit, room_for_views
from skalto.core.layout.family_layout import family_cells, overall_sizes
from skalto.core.paper import FrameStyle, Orientation
from skalto.core.projection.methods import HiddenLines
from skalto.core.quantities import Scale
from skalto.core.scene.annotation_3d import Annotation3d
from skalto.core.sheets.annotations import PartsList
from skalto.core.sheets.content import ProjectionContent
from skalto.core.sheets.sheet import Arrangement, SheetSpec, ViewSpec
from skalto.core.sources.models.model import covered, hidden_by_patterns
from skalto.core.sources.models.parts import items
from skalto.core.viewpoint import Viewpoint, parse_viewpoint
from skalto.services.commands.memory import Workshop
from skalto.services.commands.options import ExportOptions, margins_of, title_of
from skalto.services.results.lines import project_lines

DIMENSION_ROOM = 22.0
"""What overall sizes take below and at the left of views, mm."""
BALLOON_ROOM = 40.0
"""What balloons take between and about views, mm."""
ONLY_PDF = "A 3D model goes into a PDF alone: name a file that ends in .pdf, or use skalto u3d."
_ASIDE = 0.45
"""The share of a sheet's width that a 3D annotation takes beside views."""
_CLASSES = {
    "visible": (EdgeClass.VISIBLE, EdgeClass.OUTLINE, EdgeClass.WIRE),
    "hidden": (EdgeClass.HIDDEN,),
    "tangent": (EdgeClass.SMOOTH,),
    "smooth": (EdgeClass.SMOOTH,),
}


def sheet_of_model(bench: Workshop, path: Path, out: str, chosen: ExportOptions) -> tuple[str, SheetSpec]:
    """The id of a model that was read, and the sheet that its views are laid out on.

    :raises InputError: for a bad file or option, and when the views do not fit and *force* is off.
    """
    chosen.refuse_for_models()
    chosen.solid.asked()
    if chosen.solid.where and not isinstance(output_format(out), DocumentFormat):
        raise InputError(ONLY_PDF)
    if chosen.solid.where == "page":
        return _page_of_model(bench, path, chosen)
    asked = _Asked.of(chosen)
    source = bench.read(path, units=chosen.units)
    return source, _laid_out(bench, source, path.stem, chosen, asked)


def _page_of_model(bench: Workshop, path: Path, chosen: ExportOptions) -> tuple[str, SheetSpec]:
    """A page that is nothing but the model, in 3D."""
    source = bench.read(path, units=chosen.units)
    hidden = hidden_by_patterns(bench.facts(source).tree, chosen.show, chosen.hide)
    name = title_of(chosen.title).get("title") or path.stem
    sheet = bare_sheet("0", name, chosen.paper or "A3")
    if chosen.orientation != "auto":
        sheet = sheet.model_copy(update={"orientation": Orientation(chosen.orientation)})
    field = annotation_for(sheet, "3d", source, name[:60], whole=True)
    field = field.model_copy(update={"choices": chosen.solid.choices(hidden)})
    return source, sheet.model_copy(update={"annotations_3d": (field,)})


@dataclass(frozen=True)
class _Asked:
    """What was asked for, read before the file is: what is typed wrong is told at once."""

    viewpoints: list[Viewpoint]
    classes: tuple[EdgeClass, ...]
    title: dict[str, str]
    margins: tuple[float, float, float, float] | None
    scale: Scale | None
    """None for the largest that fits."""
    arrangement: Arrangement

    @classmethod
    def of(cls, chosen: ExportOptions) -> _Asked:
        viewpoints, classes = _viewpoints(chosen.views), _classes(chosen.lines)
        title, margins = title_of(chosen.title), margins_of(chosen.margin)
        scale = None if chosen.scale.strip().lower() == "largest" else Scale.parse(chosen.scale or "1:1")
        if chosen.arrangement not in ("", "first", "third"):
            raise InputError(f"“{chosen.arrangement}” is not an arrangement: write first or third.")
        if chosen.dims not in ("overall", "none"):
            raise InputError(f"“{chosen.dims}” is not a choice of dimensions: write overall or none.")
        choose_format(chosen.paper or "A3", chosen.orientation, Layout.row([(0, 0, 1, 1)]), chosen.frame, scale)
        return cls(viewpoints, classes, title, margins, scale, Arrangement(chosen.arrangement or "first"))


def _classes(text: str) -> tuple[EdgeClass, ...]:
    words = [word.strip() for word in text.split("+")]
    if not words or any(word not in _CLASSES for word in words):
        raise InputError(f"“{text}” is not a choice of lines: write visible, with +hidden or +tangent.")
    return tuple(c for word in words for c in _CLASSES[word])


def _viewpoints(texts: Sequence[str]) -> list[Viewpoint]:
    """Viewpoints as typed: one an option, or several names between commas."""
    found = []
    for text in texts:
        # a direction has commas of its own
        parts = [text] if text.strip().lower().startswith("dir:") else text.split(",")
        found += [parse_viewpoint(part) for part in parts]
    return found


def _boxes(bench: Workshop, source: str, contents: Sequence[ProjectionContent], asked: _Asked) -> list[Box]:
    """The box of each view, model mm in its plane."""
    boxes = []
    for content, viewpoint in zip(contents, asked.viewpoints, strict=True):
        lines = project_lines(bench.blobs, source, content.lines(asked.scale or Scale(1, 1)))
        box = lines.artwork.only(asked.classes).bounds()
        if box is None:
            raise InputError(f"The {viewpoint.name} view shows no line: show more components or more edges.")
        boxes.append(box)
    return boxes


def _inset(box: Box, left: float, bottom: float, right: float, top: float) -> Box:
    return box[0] + left, box[1] + bottom, box[2] - right, box[3] - top


def _laid_out(bench: Workshop, source: str, name: str, chosen: ExportOptions, asked: _Asked) -> SheetSpec:
    tree = bench.facts(source).tree
    if tree.kind == "mesh" and chosen.hidden_lines is HiddenLines.KERNEL:
        raise InputError("--hidden-lines kernel is for solids: a mesh has a way of its own, without the kernel.")
    hidden = hidden_by_patterns(tree, chosen.show, chosen.hide)
    contents = [
        ProjectionContent(look=v.look, up=v.up, hidden=hidden, hidden_lines=chosen.hidden_lines) for v in asked.viewpoints
    ]
    boxes = _boxes(bench, source, contents, asked)
    sized = chosen.dims == "overall"
    gap = GAP + DIMENSION_ROOM * sized + BALLOON_ROOM * chosen.parts_list
    cells, _parents = family_cells(asked.viewpoints, asked.arrangement) if chosen.arrangement else ([], [])
    layout = Layout.of(boxes, cells, gap) if cells else Layout.row(boxes, gap)
    sheet = _sheet(name, chosen, asked, layout)
    count = len(items(tree, {}, [leaf for leaf in tree.leaves() if not covered(leaf.path, hidden)])) if chosen.parts_list else 0
    edge = DIMENSION_ROOM * sized + BALLOON_ROOM / 2 * chosen.parts_list
    within = _inset(room_for_views(sheet, count), edge, edge, edge * chosen.parts_list, edge * chosen.parts_list)
    fields: tuple[Annotation3d, ...] = ()
    if chosen.solid.where:
        # the model at the right, the views at its left
        aside = (within[2] - within[0]) * _ASIDE
        place, size = (within[2] - aside, within[1] + 2), (aside - 2, within[3] - within[1] - 4)
        choices = chosen.solid.choices(hidden)
        fields = (Annotation3d(id="3d", source=source, name=sheet.name[:60], place=place, size=size, choices=choices),)
        within = _inset(within, 0, 0, aside + GAP, 0)
    scale = _fitting_scale(layout, within, sheet, asked, chosen.force)
    dimensions = overall_sizes(asked.viewpoints) if sized else [()] * len(contents)
    views = tuple(
        ViewSpec(
            id=str(number), source=source, name=viewpoint.name, content=content, scale=scale,
            anchor=((box[0] + box[2]) / 2, (box[1] + box[3]) / 2), place=place, classes=asked.classes,
            dimensions=dimensions[number], centres=chosen.frame is not FrameStyle.NONE or sized,
        )
        for number, (viewpoint, content, box, place) in enumerate(
            zip(asked.viewpoints, contents, boxes, layout.places(scale, within), strict=True)
        )
    )  # fmt: skip
    # nothing was asked for but the part
    clean = chosen.frame is FrameStyle.NONE and not sized and not chosen.parts_list
    return sheet.model_copy(update={"views": views, "annotations_3d": fields, "scale": scale, "clean": clean})


def _sheet(name: str, chosen: ExportOptions, asked: _Asked, layout: Layout) -> SheetSpec:
    # views and a model side by side want width
    orientation = "landscape" if chosen.solid.where and chosen.orientation == "auto" else chosen.orientation
    paper = choose_format(chosen.paper or "A3", orientation, layout, chosen.frame, asked.scale, asked.margins)
    return SheetSpec(
        id="0", name=asked.title.get("title") or name, format=paper.name,
        orientation=Orientation.LANDSCAPE if paper.width > paper.height else Orientation.PORTRAIT,
        frame=chosen.frame, margins=asked.margins, arrangement=asked.arrangement, title=asked.title,
        parts_list=PartsList(view="0") if chosen.parts_list else None,
    )  # fmt: skip


def _fitting_scale(layout: Layout, within: Box, sheet: SheetSpec, asked: _Asked, force: bool) -> Scale:
    """The scale that was asked for, or the largest that fits. :raises InputError: when it does not and *force* is off."""
    room = (within[2] - within[0], within[3] - within[1])
    scale = asked.scale or layout.largest_scale(room)
    if not force:
        refuse_unfit(layout.size(scale), room, place_to_fit(sheet))
    return scale
