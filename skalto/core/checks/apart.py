"""What a cutter needs between contours: none drawn over another, and room for its beam between one part and the next."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from skalto.core.checks.verdict import Check, Place
from skalto.core.cutter.overlap import NEAR, over_one_another
from skalto.core.cutter.tracks import Track


def _box(rows: Sequence[shapely.Geometry]) -> Place:
    x0, y0, x1, y1 = shapely.total_bounds(np.array(rows, object)).tolist()
    return x0, y0, x1, y1


def _outer(areas: Sequence[shapely.Polygon]) -> list[int]:
    """The areas that lie in no other: the outlines of parts."""
    tree = shapely.STRtree(areas)
    inner, around = tree.query([area.representative_point() for area in areas], predicate="within")
    within = {a for a, b in zip(inner.tolist(), around.tolist(), strict=True) if a != b and areas[b].area > areas[a].area}
    return [n for n in range(len(areas)) if n not in within]


def _too_near(cuts: Sequence[Track], gap: float) -> list[tuple[float, shapely.Geometry]]:
    """Outlines of parts that are nearer than a gap, mm: how near, and the shortest way between them."""
    closed = [own for own in cuts if own.closed and len(own.points) > 3]
    areas = [area for own in closed if (area := shapely.Polygon(own.points)).is_valid and area.area > 0]
    if len(areas) < 2:
        return []
    outer = [areas[n] for n in _outer(areas)]
    tree = shapely.STRtree(outer)
    first, second = tree.query(outer, predicate="dwithin", distance=gap * (1 - 1e-9))
    found = []
    for a, b in zip(first.tolist(), second.tolist(), strict=True):
        if a < b:
            way = shapely.shortest_line(outer[a].exterior, outer[b].exterior)
            found.append((float(way.length), way))
    return sorted(found, key=lambda row: row[0])


def apart_checks(cuts: Sequence[Track], beam: float, number: int) -> list[Check]:
    """Whether contours are cut once, and parts stand apart; nothing of a page on which nothing is cut.

    :param beam: the least that a cutter's beam takes, mm. :param number: the page's, from 1.
    """
    if not cuts:
        return []
    checks = []
    length, rows = over_one_another([own.points for own in cuts])
    if rows:
        reading = f"{length:.2f} mm of contours lie on others, and are cut twice"
        checks.append(
            Check(code="cut-twice", title="Cut twice", verdict="fails", reading=reading, page=number, place=_box(rows))
        )
    # what lies on another has been told
    near = [row for row in _too_near(cuts, beam) if not rows or row[0] > NEAR]
    if near:
        least, way = near[0]
        what = "2 parts are" if len(near) == 1 else f"{len(near)} pairs of parts are"
        reading = f"{what} nearer than the beam is wide, the nearest {least:.3f} mm"
        middle = way.centroid
        place = (middle.x - 1.0, middle.y - 1.0, middle.x + 1.0, middle.y + 1.0)
        checks.append(
            Check(
                code="cut-near", title="Gap", verdict="fails", reading=reading, limit=f"{beam:g} mm", page=number, place=place
            )
        )
    if not checks:
        what = "1 contour, cut once" if len(cuts) == 1 else f"{len(cuts)} contours, each cut once, parts apart"
        checks.append(Check(code="cut-apart", title="Apart", verdict="holds", reading=what, page=number))
    return checks
