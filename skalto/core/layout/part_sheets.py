"""A sheet for each part, laid out as a template sheet has it."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence

import numpy as np

from skalto.core.annotation.flat_marks import bend_table_box
from skalto.core.annotation.parts_table import hole_table_box
from skalto.core.errors import InputError
from skalto.core.geometry import Array, Box
from skalto.core.layout.arrangement import GAP, usable
from skalto.core.layout.family_layout import family_cells, overall_sizes
from skalto.core.layout.fitting_views import CLEAR, Fit, Seat, best_fit, grown, laid, table_places
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

_SIZES = 18.0
"""What an overall size takes below or at the left of its view, mm: its line 12 mm away, its figure, and what stays free."""
_FLAT_SIZES = (
    Dimension(id="overall-width", kind=DimensionKind.WIDTH, offset=-12.0),
    Dimension(id="overall-height", kind=DimensionKind.HEIGHT, offset=12.0),
)
_FEW_HOLES = 3
_TITLE = 120
"""A title of more letters would not stand in its cell."""


def part_sheet(
    sheet_id: str, template: TemplateSheet, row: PartRow, tree: ModelTree, flat: PatternFacts | None, new_id: Callable[[], str],
    hands: Sequence[str] = (),
) -> SheetSpec:  # fmt: skip
    """The sheet of a part: only that part, seen along the template's directions in the part's own axes.

    :param flat: what is known of its flat pattern, None where it has none. :param hands: marks or names of its opposite hands,
        which the title says are drawn with it.
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
    sizes = overall_sizes(looks) if template.overall else [()] * len(looks)
    of_flat = [_FLAT_SIZES if template.overall else ()] if shows_flat else []
    seats = [
        Seat(cell, (box[2] - box[0], box[3] - box[1]), *_edges(own))
        for cell, box, own in zip(cells, boxes, [*sizes, *of_flat], strict=True)
    ]
    told = _tables(flat) if tables and flat is not None else []
    fit = _fit(template, sheet, seats, [size for _, size in told], row)
    scale, places = fit.scale, fit.places
    corners = dict(zip((kind for kind, _ in told), fit.tables, strict=True))
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
        views.append(_flat_view(ids[-1], row, flat, places[-1], scale, corners, template.overall))
    title = sheet.title | {
        key: text
        for key, text in (("title", titled(row, hands)), ("number", row.number or row.mark), ("revision", row.revision))
        if text
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


def titled(row: PartRow, hands: Sequence[str]) -> str:
    """The title of a part's sheet; where both do not stand in it, the name gives way to what is drawn with it."""
    if not hands:
        return row.name
    tail = f"; {', '.join(hands)} opposite hand"
    return row.name[: max(_TITLE - len(tail), 0)] + tail


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


def _edges(sizes: Sequence[Dimension]) -> tuple[float, float]:
    """What dimensions take at the left of a view, and below it, mm."""
    kinds = {own.kind for own in sizes}
    return _SIZES * (DimensionKind.HEIGHT in kinds), _SIZES * (DimensionKind.WIDTH in kinds)


def _tables(flat: PatternFacts) -> list[tuple[str, tuple[float, float]]]:
    """The tables that a flat pattern gets, and their widths and heights, mm."""
    found = []
    if flat.bends:
        found.append(("bends", _size(bend_table_box(flat, (0.0, 0.0)))))
    if len(flat.holes) >= _FEW_HOLES:
        found.append(("holes", _size(hole_table_box(len(flat.holes), (0.0, 0.0)))))
    return found


def _size(box: Box) -> tuple[float, float]:
    return box[2] - box[0], box[3] - box[1]


def _fit(
    template: TemplateSheet, sheet: SheetSpec, seats: Sequence[Seat], tables: Sequence[tuple[float, float]], row: PartRow
) -> Fit:
    from skalto.core.annotation.furniture import title_box

    paper, found = sheet.paper(), title_box(sheet)
    room = usable(float(paper.width), float(paper.height), sheet.frame, sheet.margins)
    title = found[1] if found is not None else None
    if template.scale != "1:1":
        fit = best_fit(seats, tables, room, title, GAP)
        if fit is None:
            raise InputError(f"{row.name} does not fit the template's sheet at any preferred scale: take a larger format.")
        return fit
    # full size, whether it fits or not: what leaves the sheet is told beside it
    fit = best_fit(seats, tables, room, title, GAP, (FULL_SIZE,))
    if fit is not None:
        return fit
    middles, boxes = laid(seats, FULL_SIZE, GAP)
    low, high = boxes[:, :2].min(axis=0), boxes[:, 2:].max(axis=0)
    by = np.array(((room[0] + room[2]) / 2, (room[1] + room[3]) / 2)) - (low + high) / 2
    corners = next(table_places(tables, grown(room, -CLEAR), title), [(room[0], room[3])] * len(tables))
    return Fit(FULL_SIZE, tuple((float(x), float(y)) for x, y in middles + by), tuple(corners))


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
    view_id: str, row: PartRow, flat: PatternFacts, place: tuple[float, float], scale: Scale,
    corners: Mapping[str, tuple[float, float]], overall: bool,
) -> ViewSpec:  # fmt: skip
    return ViewSpec(
        id=view_id, source=row.source, name=row.name, scale=scale, place=(round(place[0], 3), round(place[1], 3)),
        anchor=(flat.width / 2, flat.height / 2),
        content=FlatContent(component=row.component, bends=BendTable(place=corners.get("bends")) if flat.bends else None),
        dimensions=_FLAT_SIZES if overall else (),
        holes=HoleTable(place=corners["holes"]) if "holes" in corners else None,
    )  # fmt: skip
