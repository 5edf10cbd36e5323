"""A sheet for each part, laid out as a template sheet has it."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np

from skalto.core.errors import InputError
from skalto.core.geometry import Array, Box
from skalto.core.layout.arrangement import GAP, Layout, room_for_views
from skalto.core.layout.family_layout import family_cells, overall_sizes
from skalto.core.plain import ordered, short_name
from skalto.core.quantities import FULL_SIZE, Scale
from skalto.core.release.register import PartRow
from skalto.core.release.templates import TemplateSheet
from skalto.core.sheet_metal.facts import PatternFacts
from skalto.core.sheets.annotations import BendTable, Dimension, DimensionKind, HoleTable
from skalto.core.sheets.content import FlatContent, ProjectionContent
from skalto.core.sheets.sheet import PartOrigin, SheetSpec, ViewSpec
from skalto.core.sources.models.building import turned_box
from skalto.core.sources.models.model import Component, ModelTree, covered
from skalto.core.viewpoint import Viewpoint, make_viewpoint

_SIZES, _TABLES = 22.0, 156.0
"""What overall sizes take below and at the left of views, and tables at the right of a flat pattern, mm."""
_FEW_HOLES = 3


def part_sheet(
    sheet_id: str, template: TemplateSheet, row: PartRow, tree: ModelTree, flat: PatternFacts | None, new_id: Callable[[], str]
) -> SheetSpec:
    """The sheet of a part: only that part, seen along the template's directions in the part's own axes.

    :param flat: what is known of its flat pattern, None where it has none.
    :raises InputError: when nothing of it is there, or when it fits at no preferred scale.
    """
    component = next((own for own in tree.walk() if own.path == row.component), None)
    if component is None:
        raise InputError(f"{row.name} is no longer in its model: number the parts anew.")
    hidden = frozenset(leaf.path for leaf in tree.leaves() if not covered(leaf.path, frozenset((component.path,))))
    low, high = _own_box(tree, component)
    looks = [make_viewpoint(own.name, own.look, own.up) for own in template.views]
    boxes = [_seen(own, low, high) for own in looks]
    sheet = template.sheet
    cells, parents = family_cells(looks, sheet.arrangement)
    shows_flat = template.flat and flat is not None
    if shows_flat and flat is not None:
        boxes.append((0.0, 0.0, flat.width, flat.height))
        cells = [*cells, (max(column for column, _ in cells) + 1, 0)]
    tables = shows_flat and flat is not None and (bool(flat.bends) or len(flat.holes) >= _FEW_HOLES)
    x0, y0, x1, y1 = room_for_views(sheet)
    edge = _SIZES * template.overall
    within = (x0 + edge, y0 + edge, x1 - 4.0 - (_TABLES if tables else 0.0), y1 - 4.0)
    layout = Layout.of(boxes, cells, GAP + edge)
    scale = FULL_SIZE if template.scale == "1:1" else _largest(layout, within, row)
    places = layout.places(scale, within)
    sizes = overall_sizes(looks) if template.overall else [()] * len(looks)
    ids = [new_id() for _ in boxes]
    turn = component.matrix()[:3, :3]
    views = [
        _view(ids[n], row, template, n, looks[n], turn, component.matrix(), boxes[n], places[n], scale, hidden, sizes[n])
        for n in range(len(looks))
    ]
    views = [
        view.model_copy(update={"parent": ids[p]}) if (p := parents[n]) is not None else view for n, view in enumerate(views)
    ]
    views = [_pulled(view, cells, parents[n], n) for n, view in enumerate(views)]
    if shows_flat and flat is not None:
        views.append(_flat_view(ids[-1], row, flat, places[-1], scale, (x1 - _TABLES, y1 - 6.0), template.overall))
    title = sheet.title | {
        key: text for key, text in (("title", row.name), ("number", row.number or row.mark), ("revision", row.revision)) if text
    }
    made = sheet.model_copy(
        update={"id": sheet_id, "name": " ".join(text for text in (row.mark, row.name) if text)[:80], "views": tuple(views),
                "scale": scale, "title": title}
    )  # fmt: skip
    origin = PartOrigin(
        part=row.key,
        template=template.id,
        version=template.version,
        content=row.identity.content or row.identity.children,
        laid=laid_name(made),
    )
    return made.model_copy(update={"made_for": origin})


def laid_name(sheet: SheetSpec) -> str:
    """A short name for how a sheet is laid out, whichever revision of its sources it shows: another one once somebody has
    changed it by hand."""
    plain = ordered(sheet.model_dump(exclude={"id", "made_for"}))
    for number, view in enumerate(plain["views"]):
        view["source"] = ""
        for dimension in view["dimensions"]:
            dimension["was"] = None
        view["id"] = view["parent"] = str(number)
        content = view["content"]
        for name in ("hidden", "component"):
            content.pop(name, None)
    return short_name(plain)


def _own_box(tree: ModelTree, component: Component) -> tuple[Array, Array]:
    """The box of a component in its own axes, (3,) mm each."""
    back = np.linalg.inv(component.matrix())
    rows = [
        turned_box(np.array(tree.shapes[leaf.shape].low), np.array(tree.shapes[leaf.shape].high), back @ leaf.matrix())
        for leaf in component.walk()
        if leaf.shape is not None
    ]
    if not rows:
        raise InputError(f"{component.name} has no shape to draw.")
    return np.min([row[0] for row in rows], axis=0), np.max([row[1] for row in rows], axis=0)


def _seen(look: Viewpoint, low: Array, high: Array) -> Box:
    """A box as it is seen, model mm, about where its middle lies."""
    axes = look.axes()
    middle, half = axes[:2] @ ((low + high) / 2), np.abs(axes[:2]) @ ((high - low) / 2)
    (x0, y0), (x1, y1) = (middle - half).tolist(), (middle + half).tolist()
    return x0, y0, x1, y1


def _largest(layout: Layout, within: Box, row: PartRow) -> Scale:
    try:
        return layout.largest_scale((within[2] - within[0], within[3] - within[1]))
    except InputError:
        raise InputError(
            f"{row.name} does not fit the template's sheet at any preferred scale: take a larger format."
        ) from None


def _view(
    view_id: str, row: PartRow, template: TemplateSheet, number: int, look: Viewpoint, turn: Array, matrix: Array, box: Box,
    place: tuple[float, float], scale: Scale, hidden: frozenset[str], sizes: tuple[Dimension, ...],
) -> ViewSpec:  # fmt: skip
    wanted = template.views[number]
    ahead, up = turn @ np.array(look.look), turn @ np.array(look.up)
    seen = make_viewpoint(look.name, ahead.tolist(), up.tolist())
    # the middle of the part, wherever it is in the model
    middle = matrix[:3, :3] @ (_corner(look, box)) + matrix[:3, 3]
    anchor = seen.axes()[:2] @ middle
    return ViewSpec(
        id=view_id, source=row.source, name=look.name, scale=scale, place=(round(place[0], 3), round(place[1], 3)),
        anchor=(round(float(anchor[0]), 6), round(float(anchor[1]), 6)), classes=wanted.classes, axes=wanted.axes,
        content=ProjectionContent(look=seen.look, up=seen.up, hidden=hidden, shaded=wanted.shaded), dimensions=sizes,
    )  # fmt: skip


def _corner(look: Viewpoint, box: Box) -> Array:
    """The middle of a seen box as a point in the part's own axes; how deep it lies does not matter."""
    axes = look.axes()
    found: Array = axes[0] * (box[0] + box[2]) / 2 + axes[1] * (box[1] + box[3]) / 2
    return found


def _pulled(view: ViewSpec, cells: Sequence[tuple[int, int]], parent: int | None, number: int) -> ViewSpec:
    """A view beside its parent is pulled from it: it stays in line when either is moved."""
    if parent is None:
        return view
    (a, b), (c, d) = cells[parent], cells[number]
    return view.model_copy(update={"projected": (float(np.sign(c - a)), float(np.sign(d - b)))})


def _flat_view(
    view_id: str, row: PartRow, flat: PatternFacts, place: tuple[float, float], scale: Scale, corner: tuple[float, float],
    overall: bool,
) -> ViewSpec:  # fmt: skip
    below = corner[1] - 6.0 * (len(flat.bends) + 2) if flat.bends else corner[1]
    sizes = (
        Dimension(id="overall-width", kind=DimensionKind.WIDTH, offset=-12.0),
        Dimension(id="overall-height", kind=DimensionKind.HEIGHT, offset=12.0),
    )
    return ViewSpec(
        id=view_id, source=row.source, name=row.name, scale=scale, place=(round(place[0], 3), round(place[1], 3)),
        anchor=(flat.width / 2, flat.height / 2),
        content=FlatContent(component=row.component, bends=BendTable(place=corner) if flat.bends else None),
        dimensions=sizes if overall else (),
        holes=HoleTable(place=(corner[0], below)) if len(flat.holes) >= _FEW_HOLES else None,
    )  # fmt: skip
