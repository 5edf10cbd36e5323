"""The page of a plate: its paths as artwork, each operation by the cutter's codes, and what its maker should know."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import replace

import shapely

from skalto.core.artwork import Artwork, EdgeClass, Item, Tags
from skalto.core.artwork.contour_items import contour_items
from skalto.core.cutting.choices import CutChoices, Plate
from skalto.core.cutting.cut_paths import CutPlan, PlacedPart, cut_plan
from skalto.core.cutting.section import CutList, CuttingContent
from skalto.core.geometry import Similarity
from skalto.core.geometry.profile import Operation, Profile
from skalto.core.pages.page import CutPage, Notice

SLACK = 1e-3
"""So much, mm, parts may come nearer to one another than the gap, or over the edge margin, before it is told."""
_CHORD = 2e-3


def placed_parts(content: CuttingContent, cut_list: CutList, profiles: Mapping[str, Profile]) -> list[PlacedPart]:
    """The parts of a cutting sheet where they lie; those whose profile is not there are left out."""
    names = {part.id: part.name for part in cut_list.parts}
    found = []
    for own in content.placed:
        profile = profiles.get(own.part)
        if profile is None:
            continue
        if own.flipped:
            profile = profile.turned_over()
        by = Similarity(dx=own.x, dy=own.y, turn=math.radians(own.turn))
        found.append(PlacedPart(own.id, replace(profile.placed(by), name=names.get(own.part, profile.name))))
    return found


_CLASSES = {Operation.CUT: EdgeClass.CUT, Operation.SCORE: EdgeClass.SCORE, Operation.ENGRAVE: EdgeClass.ENGRAVE}


def cut_page(content: CuttingContent, cut_list: CutList, profiles: Mapping[str, Profile]) -> CutPage:
    """What is drawn of a plate, and what is wrong on it."""
    plate = cut_list.plates[content.plate]
    parts = placed_parts(content, cut_list, profiles)
    plan = cut_plan(parts, cut_list.choices, plate)
    return CutPage(
        tuple(parts), plan, plate, cut_list.choices, _artwork(plan, cut_list.choices), _notices(parts, plan, plate, cut_list)
    )


def _artwork(plan: CutPlan, choices: CutChoices) -> Artwork:
    items: list[Item] = []
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
    gap = cut_list.choices.gap
    areas = []
    for part in parts:
        faults = part.profile.faults()
        found += [Notice("cut-fault", f"{part.name}: {fault}", level="error") for fault in faults]
        rings = [own.chords(_CHORD) for own in part.profile.contours]
        areas.append(shapely.make_valid(shapely.Polygon(rings[0], [ring for ring in rings[1:] if len(ring) > 2])))
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
