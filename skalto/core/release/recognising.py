"""What a part is to whoever makes it, by its shape."""

from __future__ import annotations

from typing import Any

import numpy as np

from skalto.core.release.register import FoundKind
from skalto.core.sheet_metal.faces import Face, SolidFaces, Surface
from skalto.core.sheet_metal.pattern import SheetKind
from skalto.core.sources.models import kernel
from skalto.core.sources.models.model import Mesh
from skalto.core.sources.models.parts import PartKind

_OF_SHEET = {
    SheetKind.FLAT: PartKind.PLATE,
    SheetKind.DEPTH: PartKind.PLATE,
    SheetKind.BENT: PartKind.BENT,
    SheetKind.ROLLED: PartKind.ROLLED,
    SheetKind.PROFILE: PartKind.PROFILE,
}
_ROUND = 0.6
"""So much of the surface of a turned part lies about its axis or square to it (common practice, no source): the rest may be
milled after."""


def kind_of(shape: Any, sheet: SheetKind, thickness: float, reason: str = "") -> FoundKind:
    """By what it is as a sheet, and for what is no sheet by whether it is turned.

    :param reason: why it has no flat pattern, '' where it has one.
    """
    if sheet in _OF_SHEET:
        fails = bool(reason) and sheet is not SheetKind.PROFILE
        return FoundKind(kind=_OF_SHEET[sheet], thickness=thickness, unfit=reason if fails else "")
    if isinstance(shape, Mesh) or is_turned(shape):
        return FoundKind(kind=PartKind.MADE if isinstance(shape, Mesh) else PartKind.TURNED)
    return FoundKind(kind=PartKind.MADE, unfit=reason if reason and looks_like_sheet(shape) else "")


_PLAIN = (Surface.PLANE, Surface.CYLINDER)
_FLAT_SHARE, _THIN = 0.9, 10.0
"""So much of the surface of what looks like sheet is flat or round, and so many times as thick as it is it reaches two ways
(our own choice: bent flanges are longer than that, blocks and bars are not)."""


def looks_like_sheet(shape: Any) -> bool:
    """Whether a solid is thin for its size, and of flat and round faces: to whoever looks at it, it is cut and bent.

    How thin it is on the average: twice its volume by its surface (geometry, exact for a plate without edges).
    """
    if kernel.solids(shape) != 1:
        return False
    solid = SolidFaces(shape)
    area = sum(face.area for face in solid.faces)
    if not area or sum(face.area for face in solid.faces if face.surface in _PLAIN) < _FLAT_SHARE * area:
        return False
    thick = 2 * solid.volume / area
    points = np.concatenate([solid.places, *(edge.points for edge in solid.edges)])
    # along its own axes, however it lies
    spread = np.linalg.svd(points - points.mean(axis=0), full_matrices=False)[2]
    reach = np.sort(np.ptp(points @ spread.T, axis=0))
    return bool(reach[1] >= _THIN * thick)


def is_turned(shape: Any) -> bool:
    """Whether a solid is made on a lathe: round about one axis, which nothing sticks out from further than its round
    surfaces."""
    if kernel.solids(shape) != 1:
        return False
    solid = SolidFaces(shape)
    round_ = [own for own in solid.faces if own.surface in (Surface.CYLINDER, Surface.CONE) and own.outer]
    if not round_:
        return False
    main = max(round_, key=lambda own: own.area)

    def about(own: Face) -> bool:
        beside = own.origin - main.origin
        beside = beside - (beside @ main.axis) * main.axis
        return abs(abs(float(own.axis @ main.axis)) - 1) <= 1e-6 and float(np.linalg.norm(beside)) <= 1e-3

    def fits(own: Face) -> bool:
        if own.surface is Surface.PLANE:
            return abs(abs(float(own.axis @ main.axis)) - 1) <= 1e-6
        return own.surface is not Surface.OTHER and about(own)

    def reach(faces: list[Face]) -> float:
        rows = np.concatenate([solid.samples(own.number) for own in faces if own.edges] or [np.empty((0, 3))])
        beside = rows - main.origin
        beside = beside - np.outer(beside @ main.axis, main.axis)
        return float(np.linalg.norm(beside, axis=1).max(initial=0.0))

    total = sum(own.area for own in solid.faces)
    of_axis = sum(own.area for own in solid.faces if fits(own))
    return of_axis >= _ROUND * total and reach(solid.faces) <= reach([own for own in round_ if about(own)]) * (1 + 1e-3)
