"""From a solid to its flat pattern: recognised, unfolded, folded back and held against the model."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

import numpy as np
import shapely

from skalto.core.errors import InputError
from skalto.core.geometry import TAU, Array, Similarity
from skalto.core.geometry.segments import Line
from skalto.core.geometry.values import Point
from skalto.core.sheet_metal.allowances import Allowance, allowance_of, source_of
from skalto.core.sheet_metal.choices import UnfoldChoices
from skalto.core.sheet_metal.development import ClosedOn, Developed, bounds, laid_flat
from skalto.core.sheet_metal.faces import SolidFaces, Surface
from skalto.core.sheet_metal.feature_kinds import FeatureKind
from skalto.core.sheet_metal.folding import Folded, Strip, furthest
from skalto.core.sheet_metal.openings import Attached, Through, through
from skalto.core.sheet_metal.pairs import LOOSE, Opposites
from skalto.core.sheet_metal.pattern import Bend, FlatPattern, NoSheet, SheetKind
from skalto.core.sheet_metal.practice import practice
from skalto.core.sheet_metal.reasons import Reasons, conical_bend, in_words, triple
from skalto.core.sheet_metal.skins import A, B, Region, Skins, reachable, skins_of

REFOLDED = 2e-3
"""Contours folded up lie within this, mm, of the model's edges."""
SAME_VOLUME = 1e-4
"""The flat area at K = 0.5 times the thickness is the volume within this share of it (geometry)."""
_ROLLED = 10.0
"""A bend whose inner radius is so many times the thickness is rolled, not folded (common practice, no source)."""
_TRIED, _SOME = 3, 0.1
_MOST_BASES = 12
_LEAST = 0.35
"""A sheet's skins are at least this share of a solid's surface: a thick plate of little width has the least."""


def unfolded(
    shape: Any, choices: UnfoldChoices | None = None, name: str = "", material: str = "", density: float = 0.0
) -> FlatPattern:
    """The flat pattern of a solid, proved by folding it up again.

    :param density: g/cm³, 0 where it is not known.
    :raises NoSheet: with the reason, when it has none.
    :raises InputError: when a choice does not fit the part.
    """
    return Unfolder(shape).pattern(choices or UnfoldChoices(), name, material, density)


class Unfolder:
    """A solid whose faces are read once, to be unfolded in several ways."""

    def __init__(self, shape: Any) -> None:
        from skalto.core.sources.models import kernel
        from skalto.core.sources.models.model import Mesh

        if isinstance(shape, Mesh):
            raise NoSheet(SheetKind.NONE, "It is a mesh of triangles: bends are read from exact faces, which a STEP file has.")
        if kernel.solids(shape) != 1:
            count = kernel.solids(shape)
            raise NoSheet(SheetKind.NONE, f"It is {count} solids: a sheet is one." if count else "It is no closed solid.")
        self.solid = SolidFaces(shape)
        if self.solid.volume <= 0:
            raise NoSheet(SheetKind.NONE, "It encloses nothing.")
        self.opposites = Opposites(self.solid)
        self._thicknesses = self.opposites.thicknesses()
        self.thickness = self._thicknesses[0][0] if self._thicknesses else 0.0
        cone = self._reasons().conical()
        if cone is not None and self._reasons().share_of_cones() > 0.5:
            raise conical_bend(cone)
        if not self._thicknesses:
            raise NoSheet(SheetKind.NONE, "No two of its faces are parallel, with the part between them.")

    def _likely(self) -> list[float]:
        """Thicknesses to try, the likeliest first: of a plate with rebates the one of its edge may have less area."""
        most = self._thicknesses[0][1]
        return [value for value, area in self._thicknesses[:_TRIED] if area >= _SOME * most]

    def pattern(self, choices: UnfoldChoices, name: str = "", material: str = "", density: float = 0.0) -> FlatPattern:
        """Unfolded as chosen; see :func:`unfolded`."""
        made = self._first(choices, name, material, density)
        if choices.side == "a":
            return made
        skins = self.skins()
        opposite = self._opposite(skins, made.base)
        if opposite is None:
            raise InputError("The base has no face on side B: choose another base.")
        made = self._made(choices.model_copy(update={"base": opposite}), name, material, density)
        return replace(made, turned_over=True)

    def _first(self, choices: UnfoldChoices, name: str, material: str, density: float) -> FlatPattern:
        reason: NoSheet | None = None
        for value in self._likely():
            self.thickness = value
            try:
                made = self._made(choices, name, material, density)
            except NoSheet as error:
                reason = reason or error
                continue
            if reason is None or made.kind is SheetKind.DEPTH:
                return made
        assert reason is not None, "there is a thickness to try"
        raise reason

    def skins(self) -> Skins:
        """All that may be sheet of the thickness, mm, that is tried."""
        return skins_of(self.solid, self.opposites, self.thickness)

    def _base(self, skins: Skins, chosen: int | None) -> int:
        if chosen is not None:
            if chosen not in skins.of_face:
                raise InputError("That face is not one of the sheet's two sides: choose another base.")
            return chosen
        best: tuple[float, list[int]] = (-1.0, [])
        seen: set[int] = set()
        for region in skins.regions:
            if region.number in seen:
                continue
            own = list(reachable(skins, region.number))
            seen.update(own)
            area = sum(self.solid.faces[f].area for n in own for f in skins.regions[n].members)
            if area > best[0]:
                best = area, own
        faces = [self.solid.faces[f] for n in best[1] for f in skins.regions[n].members]
        if not faces:
            raise NoSheet(SheetKind.NONE, "None of its faces is the side of a sheet.")
        planes = [face for face in faces if face.surface is Surface.PLANE] or faces

        def rank(number: int) -> tuple[float, ...]:
            face = self.solid.faces[number]
            axis = face.axis * (1 if face.surface is Surface.PLANE else (1 if face.outer else -1))
            return round(face.area, 4), *(round(float(v), 6) for v in axis[::-1])

        return max((face.number for face in planes), key=rank)

    def _made(self, choices: UnfoldChoices, name: str, material: str, density: float) -> FlatPattern:
        skins = self.skins()
        base = self._base(skins, choices.base)
        # numbers go by the part, so that a bend keeps its own whichever face stays where it is
        bent = sorted(n for n in reachable(skins, skins.of_face[base]) if skins.regions[n].bend)
        numbers = {region: number for number, region in enumerate(bent, 1)}
        allowances: dict[int, Allowance] = {}

        def neutral(region: Region) -> float:
            number = numbers[region.number]
            angle = region.angle[1] - region.angle[0]
            rule = choices.typed.get(number, choices.rule)
            allowances[region.number] = own = allowance_of(
                rule, angle, _inner(region, self.thickness), self.thickness, material
            )
            return own.allowance / angle

        try:
            flat = laid_flat(skins, base, A, neutral, choices.slit)
            if choices.base is None and _mostly_down(flat):
                opposite = self._opposite(skins, base)
                if opposite is not None:
                    allowances.clear()
                    skins, base = self.skins(), opposite
                    flat = laid_flat(skins, base, A, neutral, choices.slit)
        except ClosedOn as error:
            raise NoSheet(
                SheetKind.PROFILE,
                f"It closes on itself: choose where to slit it, for example at {in_words(error.place)}.",
                triple(error.place),
            ) from None
        self._none_closed(flat)
        cut = self._cut(flat)
        allowances = {key: allowances[key] for key in bent if key in allowances}
        return self._finished(flat, cut, allowances, base, choices, name, material, density)

    def _opposite(self, skins: Skins, base: int) -> int | None:
        known = self.solid.faces[base]
        region = skins.regions[skins.of_face[base]]
        rows = [
            n for n in region.members
            if (self.solid.faces[n].outer != known.outer if region.bend else self.solid.faces[n].axis @ known.axis < 0)
        ]  # fmt: skip
        return max(rows, key=lambda n: self.solid.faces[n].area, default=None)

    def _none_closed(self, flat: Developed) -> None:
        for region in flat.regions:
            if region.bend and region.angle[1] - region.angle[0] > TAU - 0.05:
                raise NoSheet(
                    SheetKind.PROFILE, f"It is a closed tube of R{region.radii[0]:.4g} inside: it would have to be slit.",
                    triple(region.origin),
                )  # fmt: skip

    def _reasons(self) -> Reasons:
        return Reasons(self.solid, self.opposites, self.thickness)

    def _cut(self, flat: Developed) -> Through:
        total = sum(face.area for face in self.solid.faces)
        own = sum(self.solid.faces[n].area for region in flat.regions for side in (A, B) for n in region.faces[side])
        try:
            if own < _LEAST * total:
                raise Attached(self._outside(flat), self.solid.faces[flat.regions[0].members[0]].origin)
            found = (bounds(flat, A, self.solid), bounds(flat, B, self.solid))
            cut = through(flat, found, self.thickness)
        except Attached as error:
            raise self._reasons().attached(flat, error) from None
        except ValueError:
            raise NoSheet(SheetKind.NONE, "The contours of its two sides do not close.") from None
        self._wide_enough(flat, cut)
        return cut

    def _outside(self, flat: Developed) -> list[int]:
        skin = {n for region in flat.regions for side in (A, B) for n in region.faces[side]}
        return [face.number for face in self.solid.faces if face.number not in skin]

    def _wide_enough(self, flat: Developed, cut: Through) -> None:
        if any(region.bend for region in flat.regions):
            return
        x0, y0, x1, y1 = cut.outline.box
        hull = shapely.minimum_rotated_rectangle(cut.outline.line(1e-2).convex_hull)
        ring = shapely.get_coordinates(hull)
        across = min(math.dist(ring[0], ring[1]), math.dist(ring[1], ring[2]), x1 - x0, y1 - y0)
        if self.thickness > across * (1 + 1e-6):
            kind = SheetKind.PROFILE if self._reasons().prismatic() else SheetKind.NONE
            raise NoSheet(kind, f"It is {self.thickness:.4g} mm through and only {across:.4g} mm across.")

    def _finished(
        self, flat: Developed, cut: Through, allowances: Mapping[int, Allowance], base: int, choices: UnfoldChoices,
        name: str, material: str, density: float,
    ) -> FlatPattern:  # fmt: skip
        bends, strips = _bends(flat, allowances, self.thickness, choices), _strips(flat, self.thickness, list(allowances))
        folded = Folded(strips, _base_frame(flat), self.thickness)
        refolded, where = furthest(folded, (cut.outline, *cut.openings), self.solid, cut.waists)
        if refolded > REFOLDED:
            raise NoSheet(
                SheetKind.NONE,
                f"Folded up again, its pattern is {1000 * refolded:.4g} µm off the model at {in_words(where)}.",
                triple(where),
            )  # fmt: skip
        made = FlatPattern(
            name, SheetKind.BENT, "", self.thickness, cut.outline, cut.openings, cut.features, tuple(bends), self.solid.volume,
            density, material, refolded, folded=folded, base=base,
            bases=self._bases(flat), rule=source_of(choices.rule) if bends else "",
        )  # fmt: skip
        half = made.area + sum(
            _turned_area(flat, region) * (_inner(region, self.thickness) + self.thickness / 2 - flat.neutral[region.number])
            for region in flat.regions
            if region.bend
        )
        off = abs(half * self.thickness - self.solid.volume) / self.solid.volume
        notes = [*cut.notes, *(f"Bend {n}: {note}" for n, own in enumerate(allowances.values(), 1) for note in own.notes)]
        depth = bool(cut.features)
        over = _overlaps(strips)
        exact = not depth and not cut.leaning and not over
        least, most = _limits_of_volume(cut, half)
        off = (
            off if exact else max(least - self.solid.volume / self.thickness, self.solid.volume / self.thickness - most) / half
        )
        if (exact or not over) and off > SAME_VOLUME:
            raise NoSheet(
                SheetKind.NONE,
                f"Its volume is {100 * off:.3g} % off its flat area times {self.thickness:.4g} mm: its edges are rounded, "
                "or it is not of one thickness everywhere.",
            )
        kind, reason = self._kind(flat, depth)
        made = replace(
            made, kind=kind, reason=reason, area_at_half=half, exact_volume=exact, notes=tuple(notes),
            warnings=tuple(over),
        )  # fmt: skip
        made = _turned(made, math.radians(choices.turn))
        return replace(made, warnings=(*made.warnings, *practice(made, strips, choices.limits)))

    def _bases(self, flat: Developed) -> tuple[tuple[int, float], ...]:
        """The faces of side A that may stay where they are, the largest first."""
        rows = [(self.solid.faces[n].area, n) for region in flat.regions if not region.bend for n in region.faces[A]]
        return tuple((n, area) for area, n in sorted(rows, reverse=True)[:_MOST_BASES])

    def _kind(self, flat: Developed, depth: bool) -> tuple[SheetKind, str]:
        bends = [region for region in flat.regions if region.bend]
        thick = f"{self.thickness:.4g} mm"
        if not bends:
            if depth:
                return SheetKind.DEPTH, f"Two parallel faces {thick} apart, with features that do not go through."
            return SheetKind.FLAT, f"Two parallel faces {thick} apart, and all walls square to them."
        large = [region for region in bends if _inner(region, self.thickness) >= _ROLLED * self.thickness]
        area = {id(r): sum(self.solid.faces[n].area for side in (A, B) for n in r.faces[side]) for r in flat.regions}
        if 2 * sum(area[id(r)] for r in large) > sum(area.values()):
            radius = max(_inner(region, self.thickness) for region in large)
            return SheetKind.ROLLED, f"Two skins {thick} apart, most of them rolled to R{radius:.4g} inside."
        count = f"{len(bends)} bend" + ("s" if len(bends) > 1 else "")
        return SheetKind.BENT, f"Two skins {thick} apart, joined by {count}."


def _limits_of_volume(cut: Through, half: float) -> tuple[float, float]:
    """Between which areas, mm², the volume over the thickness lies, where not everything goes through square: features take
    some, and what stands on the sheet adds what it likes."""
    sunk = sum(abs(own.outline.area) for own in cut.features if own.kind in _SUNK)
    edge = sum(abs(abs(cut.outline.area) - abs(own.outline.area)) for own in cut.features if own.kind is FeatureKind.BEVEL)
    leaning = sum(abs(own.area) for own in cut.openings) if cut.leaning else 0.0
    raised = any(own.kind in (FeatureKind.FORMED, FeatureKind.BOSS) for own in cut.features)
    return half - sunk - edge - leaning, math.inf if raised else half + leaning


_SUNK = (FeatureKind.POCKET, FeatureKind.COUNTERSINK, FeatureKind.COUNTERBORE)


def _inner(region: Region, thickness: float) -> float:
    """The inner radius of a bend, mm; what is left of rounding is none."""
    radius = region.radii[1] - thickness
    return radius if radius > LOOSE else 0.0


def _mostly_down(flat: Developed) -> bool:
    """Whether more of the bends, by their lengths, go away from side A."""
    total = 0.0
    for region in flat.regions:
        if region.bend:
            length = float(np.ptp(_reach(flat, region)))
            total += -length if region.outer_is_a else length
    return total < -1e-6


def _reach(flat: Developed, region: Region) -> Array:
    """How far along its axis a bend reaches: from, to, mm."""
    rows = [flat.skins.solid.samples(n) for side in (A, B) for n in region.faces[side]]
    along = region.along(np.concatenate(rows))
    return np.array((along.min(), along.max()))


def _turned_area(flat: Developed, region: Region) -> float:
    """What a bend covers in turns by length, rad·mm: of side A, or of the side that it has."""
    solid = flat.skins.solid
    shown = region.faces[A] or region.faces[B]
    return sum(solid.faces[n].area / solid.faces[n].radius for n in shown)


def _bends(flat: Developed, allowances: Mapping[int, Allowance], thickness: float, choices: UnfoldChoices) -> list[Bend]:
    found = []
    for number, (key, own) in enumerate(allowances.items(), 1):
        region = flat.skins.regions[key]
        low, high = _reach(flat, region).tolist()
        at = [
            _on(flat, region, angle, along)
            for angle in (region.angle[0], sum(region.angle) / 2, region.angle[1])
            for along in (low, high)
        ]
        faces = tuple(n for side in (A, B) for n in region.faces[side])
        found.append(
            Bend(
                number=number, angle=math.degrees(region.angle[1] - region.angle[0]), radius=_inner(region, thickness),
                direction="down" if region.outer_is_a else "up", length=high - low, allowance=own.allowance,
                deduction=own.deduction, k=own.k, line=(at[2], at[3]), limits=((at[0], at[1]), (at[4], at[5])), faces=faces,
                typed=number in choices.typed,
            )
        )  # fmt: skip
    return found


def _on(flat: Developed, region: Region, angle: float, along: float) -> Point:
    """A place of a bend, by its angle and how far along its axis it is, in the flat."""
    matrix, origin, at = flat.charts.at[region.number]
    turned = angle - float(region.angles(origin[None])[0])
    x, y = (
        at
        + (along - float(region.along(origin[None])[0])) * (matrix @ region.axes[2])
        + turned * flat.neutral[region.number] * (matrix @ region.tangent(origin))
    ).tolist()
    return x, y


def _strips(flat: Developed, thickness: float, bends: Sequence[int]) -> list[Strip]:
    """The regions as a fold takes them, from the flat alone; *bends* are in the order of their numbers."""
    numbers = {key: n for n, (key, _) in enumerate(flat.charts.order)}
    found = []
    for key, link in flat.charts.order:
        region = flat.skins.regions[key]
        matrix, origin, at = flat.charts.at[key]
        parent = -1 if link is None else numbers[link.here]
        area = _covered(flat, region)
        if not region.bend:
            along = matrix @ link.way if link is not None else np.array((1.0, 0.0))
            along = along / np.linalg.norm(along)
            found.append(Strip(parent, at, along, np.array((-along[1], along[0])), area))
            continue
        found.append(
            Strip(
                parent, at, matrix @ region.axes[2], matrix @ region.tangent(origin), area, flat.neutral[key],
                _inner(region, thickness) + (thickness if region.outer_is_a else 0.0), not region.outer_is_a,
                bends.index(key) + 1,
            )
        )  # fmt: skip
    return found


def _covered(flat: Developed, region: Region) -> Any:
    """Where a region lies in the flat, a shapely area."""
    solid = flat.skins.solid
    parts = []
    for face in (*region.faces[A], *region.faces[B]):
        lines = [shapely.LineString(flat.of(region.number, solid.edges[n].points, face)) for n in solid.faces[face].edges]
        snapped = shapely.set_precision(shapely.MultiLineString(lines), 1e-6, mode="pointwise")
        area = shapely.build_area(shapely.GeometryCollection(list(shapely.get_parts(snapped))))
        parts.append(area if not area.is_empty else shapely.MultiLineString(lines).convex_hull)
    made = shapely.union_all(parts)
    return made if made.is_valid else shapely.make_valid(made)


def _base_frame(flat: Developed) -> tuple[Array, Array, Array, Array]:
    """Where the base lies in space: a place on side A, and along, across and out."""
    key, _ = flat.charts.order[0]
    region = flat.skins.regions[key]
    matrix, origin, _ = flat.charts.at[key]
    if not region.bend:
        return origin, matrix[0], matrix[1], region.axes[2]
    tangent = region.tangent(origin)
    beside = origin - region.origin
    beside = beside - (beside @ region.axes[2]) * region.axes[2]
    size = float(np.linalg.norm(beside))
    radius = region.radii[1] if region.outer_is_a else region.radii[1] - flat.skins.thickness
    out = beside / size * (1 if region.outer_is_a else -1)
    return origin + beside / size * (radius - size), region.axes[2], tangent, out


def _overlaps(strips: Sequence[Strip]) -> list[str]:
    """A warning where regions lie over one another in the flat."""
    areas: list[Any] = [strip.area for strip in strips]
    tree = shapely.STRtree(areas)
    for n, area in enumerate(areas):
        for other in tree.query(area, predicate="intersects").tolist():
            if other > n and area.intersection(areas[other]).area > 1e-2:
                x, y = area.intersection(areas[other]).representative_point().coords[0]
                return [f"The pattern lies over itself near ({x:.4g}, {y:.4g}): it cannot be cut from one sheet."]
    return []


def _turned(made: FlatPattern, turn: float) -> FlatPattern:
    """Turned so that most straight lines lie level and the longer way is level too, its lower left at the origin."""
    lengths: dict[float, float] = {}
    lines = [(own.start, own.end) for c in (made.outline, *made.openings) for own in c if isinstance(own, Line)]
    for (x0, y0), (x1, y1) in [*lines, *(bend.line for bend in made.bends)]:
        size = math.hypot(x1 - x0, y1 - y0)
        if size > 1e-6:
            angle = round(math.atan2(y1 - y0, x1 - x0) % (TAU / 4), 7) % round(TAU / 4, 7)
            lengths[angle] = lengths.get(angle, 0.0) + size
    angle = -max(sorted(lengths), key=lambda own: round(lengths[own], 3)) if lengths else 0.0
    exact = [math.atan2(y1 - y0, x1 - x0) for (x0, y0), (x1, y1) in lines]
    near = [a % (TAU / 4) for a in exact if abs(round(a % (TAU / 4), 7) % round(TAU / 4, 7) + angle) < 1e-9]
    if near:
        # rounding is for finding them, not for turning by
        angle = -min(near, key=lambda a: abs(a + angle))
    x0, y0, x1, y1 = made.outline.placed(Similarity(turn=angle)).box
    if y1 - y0 > (x1 - x0) * (1 + 1e-9):
        angle += TAU / 4
    angle += turn
    x0, y0, x1, y1 = made.outline.placed(Similarity(turn=angle)).box
    placed = made.placed(Similarity(dx=-x0, dy=-y0, turn=angle))
    return replace(placed, bends=tuple(_dated(own) for own in placed.bends))


def _dated(bend: Bend) -> Bend:
    """With its distance from the datum edge: the left one for bends that are more upright, the lower one for others."""
    (x0, y0), (x1, y1) = bend.line
    upright = abs(y1 - y0) >= abs(x1 - x0)
    return bend.model_copy(
        update={"distance": (x0 + x1) / 2 if upright else (y0 + y1) / 2, "datum": "left" if upright else "lower"}
    )
