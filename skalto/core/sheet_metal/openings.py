"""What goes through a sheet and what does not: contours of both sides that belong to one another, and the shapes between
them."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from skalto.core.geometry import Array
from skalto.core.geometry.contour import Contour
from skalto.core.geometry.segments import Segment
from skalto.core.geometry.stringing import strung
from skalto.core.sheet_metal.development import Bound, Developed, segments_of, tidied
from skalto.core.sheet_metal.faces import SolidFaces, Surface
from skalto.core.sheet_metal.feature_kinds import FeatureKind
from skalto.core.sheet_metal.skins import A, B

EQUAL = 2e-3
"""Contours of both sides that are within this, mm, of one another are one."""
_SLAB = 1e-2
_CHORD = 2e-4


@dataclass(frozen=True)
class Feature:
    """An outline of what is not cut through, in the flat, and the side, 0 for A and 1 for B, that it is on."""

    kind: FeatureKind
    side: int
    outline: Contour


@dataclass(frozen=True)
class Through:
    """What is cut: outline, openings; what is not, and what is to be told of it."""

    outline: Contour
    openings: tuple[Contour, ...]
    features: tuple[Feature, ...]
    notes: tuple[str, ...]
    leaning: bool = False
    """Whether walls lean, so that both sides are not alike."""
    waists: tuple[tuple[Contour, float], ...] = ()
    """Openings that are narrowest within the sheet, and how far under side A, mm."""


class Attached(Exception):
    """Something hangs on the sheet that is none of it: the numbers of its *faces*, and a *place* of it, (3,) mm."""

    def __init__(self, faces: Sequence[int], place: Array) -> None:
        super().__init__()
        self.faces, self.place = tuple(faces), place


@dataclass
class _Wall:
    """Faces between both sides that hang together, and the contours that they end at on each side."""

    faces: list[int]
    ends: tuple[list[Contour], list[Contour]]
    bent: bool = False
    flat: int | None = None
    """The region that all of it is in, where that is one flat."""


def through(flat: Developed, sides: tuple[Sequence[Bound], Sequence[Bound]], thickness: float) -> Through:
    """Which contours are cut through and which are outlines of features.

    :raises Attached: when what is beyond the outline leaves the sheet.
    :raises ValueError: when a side has no contour.
    """
    solid = flat.skins.solid
    walls = _walls(flat, sides, solid)
    if not sides[A] or not sides[B]:
        raise ValueError("no contour")
    material = (_material(sides[A]), _material(sides[B]))
    outer = max((own.contour for own in (*sides[A], *sides[B])), key=lambda own: abs(own.area))
    outline: Contour | None = None
    openings: list[Contour] = []
    features: list[Feature] = []
    notes: list[str] = []
    raised: list[Feature] = []
    waists: list[tuple[Contour, float]] = []
    leaning = drilled = False
    for wall in walls:
        away = _away(flat, wall.faces, thickness)
        if any(own is outer for side in wall.ends for own in side):
            if away is not None:
                raise Attached(wall.faces, away)
            outline, rest, leans = _edge(wall, outer)
            cut, more, leans_here = _opening(flat, rest, material, waists)
            openings += cut
            features += more
            leaning |= leans is not None
            drilled |= leans_here
            if leans is not None:
                features.append(leans)
                notes.append("Its edge is not square all round: the wider side is cut.")
            continue
        if away is not None:
            raised += [Feature(FeatureKind.FORMED, side, own) for side in (A, B) for own in wall.ends[side]]
            continue
        cut, more, leans_here = _opening(flat, wall, material, waists)
        openings += cut
        features += more
        drilled |= leans_here
    if outline is None:
        raise ValueError("no outline")
    features += _raised(raised)
    if any(own.kind is FeatureKind.FORMED for own in features):
        notes.append("It has formed features: they are drawn, not cut.")
    if any(own.kind is FeatureKind.BOSS for own in features):
        notes.append("Something stands on it: that is drawn, not cut.")
    if drilled:
        notes.append("Walls that are not square to the sheet are cut as they are on side A.")
    return Through(outline, tuple(openings), tuple(features), tuple(notes), leaning or drilled, tuple(waists))


def _walls(flat: Developed, sides: tuple[Sequence[Bound], Sequence[Bound]], solid: SolidFaces) -> list[_Wall]:
    skin = {face for region in flat.regions for face in (*region.faces[A], *region.faces[B])}
    up = {n: n for n in range(len(solid.faces)) if n not in skin}

    def root(n: int) -> int:
        while up[n] != n:
            up[n] = up[up[n]]
            n = up[n]
        return n

    for edge in solid.edges:
        own = [n for n in edge.faces if n in up]
        for other in own[1:]:
            up[root(own[0])] = root(other)
    found: dict[int, _Wall] = {}
    members: dict[int, list[int]] = defaultdict(list)
    for n in up:
        members[root(n)].append(n)
    # contours that meet more than one wall, or skins, join what they meet
    for side in (A, B):
        for bound in sides[side]:
            keys = sorted({root(n) for n in bound.beyond if n in up})
            for key in keys[1:]:
                members[keys[0]] += members.pop(key, [])
                up[key] = keys[0]
                moved = found.pop(key, None)
                if moved is not None:
                    into = found.setdefault(keys[0], _Wall([], ([], [])))
                    for s in (A, B):
                        into.ends[s].extend(moved.ends[s])
            wall = found.setdefault(keys[0] if keys else -1, _Wall([], ([], [])))
            first = not (wall.ends[A] or wall.ends[B])
            wall.ends[side].append(bound.contour)
            wall.bent |= bound.bent
            wall.flat = bound.flat if first or wall.flat == bound.flat else None
    for key, wall in found.items():
        wall.faces = members.get(key, [])
    return list(found.values())


def _material(bounds: Sequence[Bound]) -> shapely.Geometry:
    """What a side of the sheet covers in the flat."""
    areas = sorted((_area(own.contour) for own in bounds), key=lambda own: -own.area)
    return areas[0].difference(shapely.union_all(areas[1:])) if areas else shapely.Polygon()


def _away(flat: Developed, faces: Sequence[int], thickness: float) -> Array | None:
    """A place of faces that is outside the sheet, (3,), or None."""
    solid = flat.skins.solid
    edges = [solid.edges[e].points for n in faces for e in solid.faces[n].edges]
    if not edges:
        return None
    # a straight edge may have both ends on the sheet and leave it between
    points = np.concatenate([own if len(own) > 2 else np.linspace(own[0], own[-1], 9) for own in edges])
    far = np.full(len(points), np.inf)
    for region in flat.regions:
        corners = np.concatenate([solid.samples(n) for side in (A, B) for n in region.faces[side]])
        low, high = corners.min(axis=0) - 2 * thickness, corners.max(axis=0) + 2 * thickness
        near = ((points >= low) & (points <= high)).all(axis=1)
        if near.any():
            depth = region.depth(points[near], thickness)
            far[near] = np.minimum(far[near], np.maximum(-depth, depth - thickness))
    worst = int(np.argmax(far))
    return points[worst] if far[worst] > _SLAB else None


def alike(one: Contour, other: Contour) -> bool:
    """Whether two contours run within :data:`EQUAL` of one another."""
    if max(abs(a - b) for a, b in zip(one.box, other.box, strict=True)) > EQUAL:
        return False
    if one.as_circle is not None and other.as_circle is not None:
        # circles of one box are one
        return True
    a, b = one.line(_CHORD), other.line(_CHORD)
    return bool(shapely.hausdorff_distance(a, b) <= EQUAL + 2 * _CHORD) or _close(a, other, b, one)


def _close(a: shapely.LineString, other: Contour, b: shapely.LineString, one: Contour) -> bool:
    # vertices of one may stand far from those of the other though the courses are one
    ends_a = shapely.points(np.array(one.chords(_CHORD)))
    ends_b = shapely.points(np.array(other.chords(_CHORD)))
    return bool(shapely.distance(ends_a, b).max() <= EQUAL and shapely.distance(ends_b, a).max() <= EQUAL)


def _edge(wall: _Wall, outer: Contour) -> tuple[Contour, _Wall, Feature | None]:
    """The outline, what else hangs together with it, and the other side's outline where it is another."""
    on = A if any(own is outer for own in wall.ends[A]) else B
    rest = [own for own in wall.ends[on] if own is not outer]
    others = wall.ends[1 - on]
    twin = max(others, key=lambda own: abs(own.area), default=None)
    beside = [own for own in others if own is not twin]
    left = _Wall(wall.faces, (rest, beside) if on == A else (beside, rest), wall.bent)
    if twin is None or alike(outer, twin):
        return (twin if on == B and twin is not None else outer), left, None
    return outer, left, Feature(FeatureKind.BEVEL, 1 - on, twin)


def _raised(rows: Sequence[Feature]) -> list[Feature]:
    """What leaves the sheet: formed out of it where both sides do, else standing on it."""
    found = []
    for own in rows:
        both = any(other.side != own.side and _meets(own.outline, other.outline) for other in rows)
        found.append(own if both else Feature(FeatureKind.BOSS, own.side, own.outline))
    return found


def _opening(
    flat: Developed,
    wall: _Wall,
    material: tuple[shapely.Geometry, shapely.Geometry],
    waists: list[tuple[Contour, float]],
) -> tuple[list[Contour], list[Feature], bool]:
    """What one wall, or its contours without faces, cuts; the features that it makes; whether it leans."""
    on_a, on_b = wall.ends
    solid = flat.skins.solid
    if not on_a or not on_b:
        side = A if on_a else B
        blind = [own for own in wall.ends[side] if material[1 - side].intersection(_area(own)).area > 1e-3 * abs(own.area)]
        features = [Feature(FeatureKind.POCKET, side, own) for own in blind]
        return [own for own in wall.ends[side] if not any(own is other for other in blind)], features, False
    cone = any(solid.faces[n].surface is Surface.CONE for n in wall.faces)
    wide = FeatureKind.COUNTERSINK if cone else FeatureKind.COUNTERBORE
    # through a bend a wall that is square to nothing is wider on one side than on the other
    drilled = wall.bent and not cone and _spans(flat, wall.faces)
    waist = _waist(flat, wall) if len(on_a) == len(on_b) == 1 else None
    if waist is not None:
        waists.append(waist)
        return [waist[0]], [Feature(wide, A, on_a[0]), Feature(wide, B, on_b[0])], False
    cut: list[Contour] = []
    features = []
    left_b = list(on_b)
    left_a = []
    for own in on_a:
        twin = next((other for other in left_b if alike(own, other)), None)
        if twin is None:
            left_a.append(own)
        else:
            left_b.remove(twin)
            cut.append(own)
    leans = False
    for own in left_a:
        held = [] if drilled else [other for other in left_b if _holds(own, other)]
        if held:
            features.append(Feature(wide, A, own))
            cut += held
            left_b = [other for other in left_b if other not in held]
            continue
        holder = None if drilled else next((other for other in left_b if _holds(other, own)), None)
        cut.append(own)
        if holder is not None:
            if not any(f.outline is holder for f in features):
                features.append(Feature(wide, B, holder))
            continue
        leans = True
        near = next((other for other in left_b if _meets(own, other)), None)
        if near is not None:
            left_b.remove(near)
    known = [own.outline for own in features]
    rest = [own for own in left_b if not any(own is k for k in known)]
    # what is left of side B is through where nothing of side A is over it but a feature
    cut += [own for own in rest if not any(_meets(own, other) for other in cut)]
    return cut, features, leans


def _spans(flat: Developed, faces: Sequence[int]) -> bool:
    """Whether each of some faces goes from side A to side B."""
    solid = flat.skins.solid
    skins = [{n for region in flat.regions for n in region.faces[side]} for side in (A, B)]
    beside = [{m for e in solid.faces[n].edges for m in solid.edges[e].faces} for n in faces]
    return all(own & skins[A] and own & skins[B] for own in beside)


def _waist(flat: Developed, wall: _Wall) -> tuple[Contour, float] | None:
    """The contour within the sheet at which an opening is narrower than on both sides, and how far under side A it is, mm; None
    where it is not."""
    if wall.flat is None:
        return None
    solid, region = flat.skins.solid, flat.skins.regions[wall.flat]
    inside = set(wall.faces)
    loops: list[tuple[Contour, float]] = []
    level: dict[int, list[Segment]] = defaultdict(list)
    for number in {e for n in wall.faces for e in solid.faces[n].edges}:
        edge = solid.edges[number]
        if set(edge.faces) <= inside and np.ptp((edge.points - region.origin) @ region.axes[2]) < EQUAL:
            depth = float(region.depth(edge.points, flat.skins.thickness).mean())
            level[round(depth / EQUAL)] += segments_of(flat, region, region.members[0], edge)
    for depth, segments in level.items():
        loops += [(tidied(own.segments), depth * EQUAL) for own in strung(segments).closed if abs(own.area) > 0]
    ends = [*wall.ends[A], *wall.ends[B]]
    narrow = [own for own in loops if all(_holds(end, own[0]) and not alike(end, own[0]) for end in ends)]
    return min(narrow, key=lambda own: abs(own[0].area), default=None)


def _holds(one: Contour, other: Contour) -> bool:
    return bool(_area(one).buffer(EQUAL).contains(_area(other)))


def _meets(one: Contour, other: Contour) -> bool:
    return bool(_area(one).intersects(_area(other)))


def _area(contour: Contour) -> shapely.Geometry:
    return shapely.make_valid(shapely.Polygon(contour.chords(_CHORD)))
