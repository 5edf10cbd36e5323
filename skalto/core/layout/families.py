"""Views that belong together: those pulled from a principal view, sections and details of it (ISO 128-3, ISO 5456-2).

A view pulled straight from its parent is what one sees who walks round the part that way. In first-angle arrangement it
lies on the far side, so that what is seen from the left lies at the right; in third-angle on the near side.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable
from typing import Any

import numpy as np

from skalto.core.errors import InputError
from skalto.core.geometry import Array, Point
from skalto.core.quantities import Scale
from skalto.core.sheets.annotations import Detail, Section, refuse_short
from skalto.core.sheets.content import OF_MODEL, DetailContent, ProjectionContent, SectionContent
from skalto.core.sheets.sheet import Arrangement, SheetSpec, ViewSpec
from skalto.core.viewpoint import STANDARD, Vector, make_viewpoint

Middle = Callable[[ViewSpec], Array]
"""The middle, model mm (3,), of what a view shows."""

_STRAIGHT = math.cos(math.radians(30))


def direction_of_pull(dx: float, dy: float) -> Point:
    """The nearest of eight directions on the sheet: straight ones, and diagonals for pictorial views.

    :raises InputError: for no direction at all.
    """
    size = math.hypot(dx, dy)
    if size < 1e-9:
        raise InputError("Pull the view away to one side, or on a diagonal for a pictorial one.")
    x, y = dx / size, dy / size
    if max(abs(x), abs(y)) >= _STRAIGHT:
        return (math.copysign(1.0, x), 0.0) if abs(x) > abs(y) else (0.0, math.copysign(1.0, y))
    return math.copysign(math.sqrt(0.5), x), math.copysign(math.sqrt(0.5), y)


def pulled_look(axes: Array, pulled: Point, arrangement: Arrangement) -> tuple[Vector, Vector]:
    """Look and up of a view pulled straight from one with *axes* (rows right, up, toward the viewer).

    The direction on the sheet in which one looks is that of the pull, or its opposite in third angle; what was toward
    the viewer then lies that way.
    """
    sign = 1.0 if arrangement is Arrangement.FIRST else -1.0
    cos, sin = sign * pulled[0], sign * pulled[1]
    look = cos * axes[0] + sin * axes[1]
    aside = -sin * axes[0] + cos * axes[1]
    return _clean(look), _clean(sin * axes[2] + cos * aside)


def pictorial_look(axes: Array, pulled: Point, arrangement: Arrangement) -> tuple[Vector, Vector]:
    """Look and up of an isometric view (ISO 5456-3) pulled on a diagonal: from the corner on that side in third angle, from
    the opposite one in first."""
    sign = -1.0 if arrangement is Arrangement.FIRST else 1.0
    x, y = (math.copysign(1.0, sign * v) for v in pulled)
    return _clean(-(x * axes[0] + y * axes[1] + axes[2])), _clean(axes[1])


def _clean(vector: Array) -> Vector:
    """Without the dust of turning: whole numbers where they are meant."""
    rounded = np.where(np.abs(vector - np.round(vector)) < 1e-12, np.round(vector), vector) + 0.0
    x, y, z = (float(v) for v in rounded)
    return x, y, z


def view_name(look: Vector, up: Vector) -> str:
    """What the field calls a direction: front, top …, iso …, or auxiliary."""
    axes = make_viewpoint("", look, up).axes()
    for name, viewpoint in STANDARD.items():
        if np.abs(viewpoint.axes() - axes).max() < 1e-9:
            return name
    return "auxiliary"


def _is_diagonal(pulled: Point) -> bool:
    return min(abs(pulled[0]), abs(pulled[1])) > 1e-9


def _on_sheet(pulled: Point, turn: float) -> Array:
    """A direction of the parent's plane as it lies on the sheet."""
    cos, sin = math.cos(math.radians(turn)), math.sin(math.radians(turn))
    return np.array((pulled[0] * cos - pulled[1] * sin, pulled[0] * sin + pulled[1] * cos))


def _anchored(view: ViewSpec, parent: ViewSpec, middle: Array) -> Point:
    """The child's anchor: the same point of the model as the parent's, so that the two stay in line."""
    axes = parent.axes_of_plane()
    point = axes[0] * parent.anchor[0] + axes[1] * parent.anchor[1] + axes[2] * (axes[2] @ middle)
    x, y = (view.axes_of_plane()[:2] @ point).tolist()
    return x, y


def _aligned(view: ViewSpec, parent: ViewSpec, place: Point) -> Point:
    """The place nearest to *place* on the line of the pull through the parent."""
    if not view.is_aligned or view.projected is None:
        return place
    along = _on_sheet(view.projected, parent.rotation)
    away = float(np.subtract(place, parent.place) @ along)
    x, y = (np.array(parent.place) + along * away).tolist()
    return round(x, 6), round(y, 6)


def derived(view: ViewSpec, parent: ViewSpec, arrangement: Arrangement, middle: Middle) -> ViewSpec:
    """A member of a family as its parent wants it: direction, scale, components and line, but for what is its own."""
    if isinstance(view.content, DetailContent):
        content = view.content.taken_from(parent.whole)
        return view.model_copy(update={"content": content, "anchor": content.circle.centre, "rotation": parent.rotation})
    if "components" not in view.overrides and view.of_model:
        view = view.showing(hidden=parent.hidden)
    fields: dict[str, object] = {} if "scale" in view.overrides else {"scale": parent.scale}
    if view.projected is None:
        return view.model_copy(update=fields)
    pulled: Point = view.projected
    if view.section is not None:
        pulled = section_pull(view.section, arrangement)
    axes = parent.axes_of_plane()
    diagonal = _is_diagonal(pulled) and view.section is None
    look, up = (pictorial_look if diagonal else pulled_look)(axes, pulled, arrangement)
    fields |= {"projected": pulled}
    if view.section is None:
        fields["name"] = view_name(look, up)
    if not diagonal:
        fields["rotation"] = parent.rotation
    changed = view.showing(look=look, up=up).model_copy(update=fields)
    if view.section is not None:
        sx, sy = view.section.start
        changed = changed.showing(depth=float(np.array(look) / np.linalg.norm(look) @ (axes[0] * sx + axes[1] * sy)))
    return changed.model_copy(
        update={"anchor": _anchored(changed, parent, middle(changed)), "place": _aligned(changed, parent, view.place)}
    )


def refreshed(sheet: SheetSpec, middle: Middle) -> SheetSpec:
    """The sheet with every member of a family as its parent wants it, parents first; roots take the sheet's scale."""
    done: dict[str, ViewSpec] = {}
    known = {view.id for view in sheet.views}
    waiting = list(sheet.views)
    while waiting:
        rest = []
        for view in waiting:
            if view.parent is None or view.parent not in known:
                fields: dict[str, object] = {} if "scale" in view.overrides else {"scale": sheet.scale}
                if view.parent is not None:
                    fields |= {"parent": None}
                done[view.id] = view.model_copy(update=fields)
            elif view.parent in done:
                done[view.id] = derived(view, done[view.parent], sheet.arrangement, middle)
            else:
                rest.append(view)
        if len(rest) == len(waiting):
            raise InputError("Views cannot be each other's parents.")
        waiting = rest
    return sheet.with_views(tuple(done[view.id] for view in sheet.views))


def descendants(sheet: SheetSpec, view_id: str) -> set[str]:
    """All views pulled from a view, and from those."""
    found: set[str] = set()
    edge = {view_id}
    while edge:
        edge = {view.id for view in sheet.views if view.parent in edge} - found
        found |= edge
    return found


def moved(sheet: SheetSpec, moves: dict[str, Point]) -> SheetSpec:
    """Views moved by so many mm each: a parent takes its family along, a member stays in line with its parent."""
    wanted = dict(moves)
    for view_id, by in moves.items():
        for child in descendants(sheet, view_id):
            wanted.setdefault(child, by)
    views: dict[str, ViewSpec] = {}
    for view in sheet.views:
        own_move = wanted.get(view.id)
        if own_move is None:
            views[view.id] = view
            continue
        # nanometres: sums of tenths stay tenths
        place = (round(view.place[0] + own_move[0], 6), round(view.place[1] + own_move[1], 6))
        views[view.id] = view.model_copy(update={"place": place})
    for view in sheet.views:
        own = views[view.id]
        if view.id in moves and view.parent in views:
            views[view.id] = own.model_copy(update={"place": _aligned(own, views[view.parent], own.place)})
    return sheet.with_views(tuple(views[view.id] for view in sheet.views))


def rearranged(sheet: SheetSpec, arrangement: Arrangement, middle: Middle) -> SheetSpec:
    """The sheet in the other arrangement: every family is turned about its middle, no direction of looking changes."""
    if arrangement is sheet.arrangement:
        return sheet
    views = {view.id: view for view in sheet.views}
    for root in (view for view in sheet.views if view.parent is None):
        family = [root, *(views[child] for child in descendants(sheet, root.id))]
        if len(family) == 1:
            continue
        places = np.array([view.place for view in family])
        twice = places.min(axis=0) + places.max(axis=0)
        for view in family:
            x, y = (twice - view.place).tolist()
            pulled = None if view.projected is None else (-view.projected[0], -view.projected[1])
            views[view.id] = view.model_copy(update={"place": (round(x, 6), round(y, 6)), "projected": pulled})
    turned = sheet.model_copy(update={"arrangement": arrangement, "views": tuple(views[view.id] for view in sheet.views)})
    return refreshed(turned, middle)


def refuse_drawing(view: ViewSpec) -> None:
    """:raises InputError: for an excerpt or a flat pattern, which have no other sides."""
    if view.flat is not None:
        raise InputError("A flat pattern has one side here: turn it over in its panel, or draw a detail of it.")
    if view.excerpt is not None:
        raise InputError("A drawing has one side: views and sections are made from models. Draw a detail of it instead.")


def of_model(view: ViewSpec) -> dict[str, Any]:
    """How a view of a model is looked at and drawn, by field. :raises InputError: for a view of a drawing."""
    refuse_drawing(view)
    return {name: getattr(view.whole, name) for name in OF_MODEL}


def pull_view(sheet: SheetSpec, parent: ViewSpec, view_id: str, place: Point, middle: Middle) -> ViewSpec:
    """A view pulled from *parent* to *place* on the sheet. :raises InputError: when it was not pulled away."""
    away = _on_sheet((place[0] - parent.place[0], place[1] - parent.place[1]), -parent.rotation).tolist()
    pulled = direction_of_pull(*away)
    base = parent.model_copy(
        update={
            "id": view_id, "parent": parent.id, "projected": pulled, "place": place, "overrides": frozenset(),
            "content": ProjectionContent.model_validate(of_model(parent)), "dimensions": (), "holes": None, "viewpoint": None,
            "rotation": 0.0,
        }
    )  # fmt: skip
    return derived(base, parent, sheet.arrangement, middle)


def section_pull(section: Section, arrangement: Arrangement) -> Point:
    """Where a section lies from its parent: in the direction of its arrows in first angle, against it in third."""
    (x0, y0), (x1, y1) = section.start, section.end
    size = math.hypot(x1 - x0, y1 - y0)
    sign = 1.0 if arrangement is Arrangement.FIRST else -1.0
    # the arrows point to the right of the trace's direction
    return sign * (y1 - y0) / size, -sign * (x1 - x0) / size


def next_letter(views: Iterable[ViewSpec]) -> str:
    """The first capital that no section or detail has; without I and O, which read as figures (ISO 128-3, from memory)."""
    taken = {view.content.letter for view in views}
    letters = [c for c in "ABCDEFGHJKLMNPQRSTUVWXYZ" if c not in taken]
    return letters[0] if letters else "ZZ"


def section_view(sheet: SheetSpec, parent: ViewSpec, view_id: str, section: Section, away: float, middle: Middle) -> ViewSpec:
    """A section of *parent*, *away* mm from it on the sheet.

    :raises InputError: for a plane without length, and on a pictorial view or a detail.
    """
    if parent.detail or (parent.projected and _is_diagonal(parent.projected) and parent.section is None):
        raise InputError("A section is cut on a principal view or on another section: choose one.")
    pulled = section_pull(refuse_short(section), sheet.arrangement)
    x, y = (np.array(parent.place) + _on_sheet(pulled, parent.rotation) * away).tolist()
    base = parent.model_copy(
        update={
            "id": view_id, "parent": parent.id, "projected": pulled, "place": (x, y), "overrides": frozenset(),
            "name": "section",
            "content": SectionContent(plane=section, depth=0.0, **of_model(parent)),
            "dimensions": (), "holes": None, "viewpoint": None,
        }
    )  # fmt: skip
    return derived(base, parent, sheet.arrangement, middle)


def detail_view(sheet: SheetSpec, parent: ViewSpec, view_id: str, detail: Detail, scale: Scale, place: Point) -> ViewSpec:
    """A detail of *parent* at its own scale. :raises InputError: on a detail."""
    if parent.detail:
        raise InputError("A detail is taken from a view, not from another detail: choose the view.")
    return parent.model_copy(
        update={
            "id": view_id, "parent": parent.id, "projected": None, "place": place, "overrides": frozenset({"scale"}),
            "content": DetailContent(circle=detail, of=parent.whole), "name": "detail", "scale": scale, "anchor": detail.centre,
            "dimensions": (), "holes": None, "viewpoint": None, "centres": parent.centres,
        }
    )  # fmt: skip
