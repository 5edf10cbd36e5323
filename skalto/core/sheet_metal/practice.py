"""Warnings of common practice: what bends badly though it unfolds well."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np
import shapely

from skalto.core.geometry import Array
from skalto.core.geometry.contour import Contour
from skalto.core.geometry.profile import Profile
from skalto.core.sheet_metal.choices import PracticeLimits
from skalto.core.sheet_metal.folding import Strip
from skalto.core.sheet_metal.pattern import Bend, FlatPattern, trimmed

_CHORD = 1e-2
_BESIDE = 0.2


def practice(made: FlatPattern, strips: Sequence[Strip], limits: PracticeLimits) -> list[str]:
    """The warnings of a pattern, each a sentence.

    :param strips: its regions as they were laid flat, before the pattern was placed.
    """
    return [
        *_small_radii(made, limits), *_near_openings(made, limits), *_short_flanges(made, strips, limits),
        *_small_holes(made, limits), *(_reliefs(made) if limits.relief else ()),
    ]  # fmt: skip


def _small_radii(made: FlatPattern, limits: PracticeLimits) -> Iterator[str]:
    small = [bend for bend in made.bends if bend.radius < limits.radius * made.thickness - 1e-6]
    if small:
        names = ", ".join(str(bend.number) for bend in small)
        least = min(bend.radius for bend in small)
        yield (
            f"{'Bends' if len(small) > 1 else 'Bend'} {names}: the inner radius of {trimmed(least)} mm is under "
            f"{trimmed(limits.radius)} t = {trimmed(limits.radius * made.thickness)} mm, and the sheet may crack."
        )


def _near_openings(made: FlatPattern, limits: PracticeLimits) -> Iterator[str]:
    lines = [(bend, shapely.LineString(bend.line)) for bend in made.bends]
    for opening in made.openings:
        area = shapely.make_valid(shapely.Polygon(opening.chords(_CHORD)))
        for bend, line in lines:
            least = bend.radius + limits.opening * made.thickness
            apart = float(shapely.distance(area, line))
            if apart >= least - 1e-3:
                continue
            if apart <= 1e-3 and line.intersection(area).length <= 1e-2:
                # the opening that ends a bend, or that its flange was cut free by
                continue
            if apart <= 1e-3:
                yield f"{_named(opening)} lies on bend {bend.number}: it is drawn out of shape."
                continue
            yield (
                f"{_named(opening)} is {trimmed(apart)} mm from the line of bend {bend.number}: nearer than "
                f"r + {trimmed(limits.opening)} t = {trimmed(least)} mm, it is drawn out of shape."
            )


def _named(opening: Contour) -> str:
    circle = opening.as_circle
    if circle is not None:
        (x, y), radius = circle
        return f"The hole ø{trimmed(2 * radius)} at ({trimmed(x)}, {trimmed(y)})"
    x0, y0, x1, y1 = opening.box
    return f"The opening at ({trimmed((x0 + x1) / 2)}, {trimmed((y0 + y1) / 2)})"


def _short_flanges(made: FlatPattern, strips: Sequence[Strip], limits: PracticeLimits) -> Iterator[str]:
    by_start = {}
    for bend in made.bends:
        by_start[bend.number] = bend
    children: dict[int, list[int]] = {}
    for number, strip in enumerate(strips):
        children.setdefault(strip.parent, []).append(number)
    of_strip = {n: by_start[strip.bend] for n, strip in enumerate(strips) if strip.bend}
    for number, strip in enumerate(strips):
        if strip.neutral or children.get(number) or strip.parent not in of_strip:
            continue
        bend = of_strip[strip.parent]
        beside = shapely.get_coordinates(strip.area) - strip.start
        # the flange begins at the bend's line
        reach = float(np.abs(beside @ strip.across).max()) + bend.allowance / 2
        least = bend.radius + limits.flange * made.thickness
        if reach < least - 1e-3:
            yield (
                f"The flange at bend {bend.number} is {trimmed(reach)} mm from the bend's line: shorter than "
                f"r + {trimmed(limits.flange)} t = {trimmed(least)} mm, it does not lie on the die."
            )


def _small_holes(made: FlatPattern, limits: PracticeLimits) -> Iterator[str]:
    least = limits.hole * made.thickness
    small = [d for _, _, d in made.holes if d < least - 1e-6]
    if small:
        count = f"{len(small)} holes are" if len(small) > 1 else "A hole is"
        yield f"{count} as small as ø{trimmed(min(small))}: under {trimmed(limits.hole)} t = {trimmed(least)} mm."


def _reliefs(made: FlatPattern) -> Iterator[str]:
    """Bends that end beside sheet that stays flat."""
    area = Profile(made.outline, made.openings).polygon()
    shapely.prepare(area)
    by = _BESIDE * made.thickness
    for bend in made.bends:
        (x0, y0), (x1, y1) = bend.line
        along = np.array((x1 - x0, y1 - y0)) / max(bend.length, 1e-9)
        torn = [at for limit in bend.limits for at in _torn(area, bend, limit, along, by)]
        if torn:
            x, y = torn[0]
            yield f"Bend {bend.number} has no relief at ({trimmed(x)}, {trimmed(y)}): the sheet beside its end tears."


def _torn(
    area: object, bend: Bend, limit: tuple[tuple[float, float], tuple[float, float]], along: Array, by: float
) -> Iterator[Array]:
    middle = np.array(bend.line).mean(axis=0)
    ends = np.array(limit)
    out = ends.mean(axis=0) - middle
    size = float(np.linalg.norm(out))
    if size < 1e-9:
        return
    out = out / size
    for end, way in ((ends[0], -along), (ends[1], along)):
        # a strip narrower than the sheet is thick goes along with the bend
        beside, further, in_bend = end + by * (way + out), end + 5 * by * way + by * out, end + by * (way - out)
        if all(shapely.contains_xy(area, *at) for at in (beside, further)) and not shapely.contains_xy(area, *in_bend):
            yield end
