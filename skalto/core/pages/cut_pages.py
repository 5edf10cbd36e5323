"""The page of a plate: its paths as artwork, each operation by the cutter's codes, and what its maker should know."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import replace

import shapely

from skalto.core.artwork import Artwork, EdgeClass, Item, Tags
from skalto.core.artwork.contour_items import contour_items
from skalto.core.cutting.choices import CutChoices, Plate
from skalto.core.cutting.cut_paths import CutPlan, PlacedPart, cut_plan
from skalto.core.cutting.decorating import Decorated, decorated
from skalto.core.cutting.decorations import Decoration, LetteringContent
from skalto.core.cutting.section import CutList, CuttingContent
from skalto.core.geometry import Similarity
from skalto.core.geometry.profile import Operation, Profile
from skalto.core.pages.page import CutPage, Notice

SLACK = 1e-3
"""So much, mm, parts may come nearer to one another than the gap, or over the edge margin, before it is told."""
_CHORD = 2e-3


def placed_parts(
    content: CuttingContent, cut_list: CutList, profiles: Mapping[str, Profile], excerpts: Mapping[str, Artwork] = {}
) -> list[PlacedPart]:
    """The parts of a cutting sheet where they lie; those whose profile is not there are left out, and so are the decorations of
    parts that are turned over: they are on the other side."""
    names = {part.id: part.name for part in cut_list.parts}
    drawn = {part.id: _decorated(part.decorations, excerpts) for part in cut_list.parts}
    found = []
    for own in content.placed:
        profile = profiles.get(own.part)
        if profile is None:
            continue
        if own.flipped:
            profile = profile.turned_over()
        by = Similarity(dx=own.x, dy=own.y, turn=math.radians(own.turn))
        decorations = () if own.flipped else tuple(one.placed(by) for one in drawn.get(own.part, ()))
        found.append(PlacedPart(own.id, replace(profile.placed(by), name=names.get(own.part, profile.name)), decorations))
    return found


def _decorated(decorations: Sequence[Decoration], excerpts: Mapping[str, Artwork]) -> tuple[Decorated, ...]:
    """Decorations; those whose excerpt is not there yet are left out."""
    ready = (own for own in decorations if isinstance(own.content, LetteringContent) or own.id in excerpts)
    return tuple(decorated(own, excerpts) for own in ready)


_CLASSES = {Operation.CUT: EdgeClass.CUT, Operation.SCORE: EdgeClass.SCORE, Operation.ENGRAVE: EdgeClass.ENGRAVE}


def cut_page(
    content: CuttingContent, cut_list: CutList, profiles: Mapping[str, Profile], excerpts: Mapping[str, Artwork] = {}
) -> CutPage:
    """What is drawn of a plate, and what is wrong on it; *excerpts* is what decorations show of drawings, by decoration."""
    plate = cut_list.plates[content.plate]
    parts = placed_parts(content, cut_list, profiles, excerpts)
    own = _decorated(content.decorations, excerpts)
    plan = cut_plan(parts, cut_list.choices, plate, own)
    page = CutPage(tuple(parts), plan, plate, cut_list.choices, Artwork(), (), own)
    notices = (*_notices(parts, plan, plate, cut_list), *_of_decorations(page, content, cut_list))
    return replace(page, artwork=_artwork(plan, page.engraved, cut_list.choices), notices=notices)


def _of_decorations(page: CutPage, content: CuttingContent, cut_list: CutList) -> Iterator[Notice]:
    """What is wrong with what is drawn on parts and on the plate."""
    for placed in content.placed:
        wanted = cut_list.part(placed.part)
        if placed.flipped and wanted.decorations:
            told = "is turned over: what is engraved on it would be on the other side. Turn it back."
            yield Notice("cut-decoration", f"{wanted.name} {told}", level="error")
    for part in page.parts:
        solid = part.profile.polygon(_CHORD).buffer(SLACK)
        for own in part.decorations:
            yield from (Notice("cut-decoration", f"{part.name}: {note}") for note in own.notes)
            if not solid.covers(_reach(own)):
                told = f"What is drawn on {part.name} reaches over its edge: move it, or make it smaller."
                yield Notice("cut-decoration", told)
    whole = plate_area(page.plate)
    for own in page.decorations:
        yield from (Notice("cut-decoration", note) for note in own.notes)
        if not whole.covers(_reach(own)):
            yield Notice("cut-decoration", "What is drawn on the plate reaches off it: move it in.")


def _reach(own: Decorated) -> shapely.Geometry:
    """How far a decoration reaches: its courses, and the boxes of its areas."""
    lines = [mark.course.line(_CHORD) for mark in own.marks]
    boxes = [shapely.box(*row.ravel().tolist()) for item in own.areas for row in item.bounds()]
    return shapely.union_all([*lines, *boxes])


def _artwork(plan: CutPlan, engraved: Artwork, choices: CutChoices) -> Artwork:
    layer = choices.codes.engrave.layer
    items: list[Item] = [replace(item, tags=Tags(EdgeClass.ENGRAVE, layer=layer)) for item in engraved]
    for operation, edge_class in (
        (Operation.ENGRAVE, EdgeClass.ENGRAVE),
        (None, EdgeClass.SCORE),
        (Operation.CUT, EdgeClass.CUT),
    ):
        rows = [p.course for p in plan.paths if _CLASSES.get(p.operation, EdgeClass.SCORE) is edge_class]
        if rows:
            layer = choices.codes.of(operation or Operation.SCORE).layer
            items.append(contour_items(Tags(edge_class, layer=layer), rows))
    return Artwork(tuple(items))


def _notices(parts: Sequence[PlacedPart], plan: CutPlan, plate: Plate, cut_list: CutList) -> tuple[Notice, ...]:
    found = [Notice("cut-plan", note) for note in plan.notes]
    half = cut_list.choices.kerf / 2 if cut_list.choices.compensated else 0.0
    if parts and plate.edge < half:
        told = f"An edge margin of {plate.edge:g} mm is less than half of the kerf, {half:g} mm: cuts may run off the plate."
        found.append(Notice("cut-edge", told))
    gap = cut_list.choices.gap
    areas = []
    for part in parts:
        faults = part.profile.faults()
        found += [Notice("cut-fault", f"{part.name}: {fault}", level="error") for fault in faults]
        areas.append(part.profile.polygon(_CHORD))
        off = part.profile.thickness - plate.thickness
        if plate.thickness and part.profile.thickness and abs(off) > 0.05:
            found.append(
                Notice(
                    "cut-thickness", 
                    f"{part.name} is {part.profile.thickness:.4g} mm thick, the plate {plate.thickness:.4g} mm.",
                    level="error",
                )
            )  # fmt: skip
    room = plate_area(plate).buffer(SLACK - plate.edge, join_style="mitre")
    for part, area in zip(parts, areas, strict=True):
        if not room.covers(area):
            over = area.difference(plate_area(plate)).area > SLACK**2
            what = "reaches off the plate" if over else f"comes nearer to the plate's edge than {plate.edge:g} mm"
            found.append(Notice("cut-edge", f"{part.name} {what}: move it in.", level="error"))
    tree = shapely.STRtree(areas)
    for number, area in enumerate(areas):
        for other in tree.query(area, predicate="dwithin", distance=max(gap - SLACK, 0.0)).tolist():
            if other <= number:
                continue
            apart = area.distance(areas[other])
            if apart > 0 or area.intersection(areas[other]).area <= SLACK**2:
                if apart < gap - SLACK:
                    told = f"are {apart:.3f} mm apart; {gap:g} mm are asked for"
                    found.append(Notice("cut-gap", f"{parts[number].name} and {parts[other].name} {told}.", level="error"))
            else:
                found.append(
                    Notice(
                        "cut-overlap", f"{parts[number].name} and {parts[other].name} overlap: move them apart.", level="error"
                    )
                )
    return tuple(found)


def plate_area(plate: Plate) -> shapely.Geometry:
    """The plate as an area, (0, 0) at its lower left."""
    if not plate.remnant:
        return shapely.box(0, 0, plate.width, plate.height)
    outline, *holes = plate.remnant
    return shapely.make_valid(shapely.Polygon(outline, holes))
