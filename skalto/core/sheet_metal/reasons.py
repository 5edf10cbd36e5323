"""Why a solid has no flat pattern, in sentences."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from skalto.core.geometry import Array
from skalto.core.sheet_metal.development import Developed
from skalto.core.sheet_metal.faces import SolidFaces, Surface
from skalto.core.sheet_metal.openings import Attached
from skalto.core.sheet_metal.pairs import LOOSE, Opposites, flat_axes
from skalto.core.sheet_metal.pattern import NoSheet, SheetKind, trimmed
from skalto.core.sheet_metal.skins import A, B

_SECOND = 0.05
"""Another thickness is one where it has this share of a solid's surface, or a conical bend."""


@dataclass(frozen=True, eq=False)
class Reasons:
    """What is found of a solid, to say why it is no sheet of a *thickness*, mm."""

    solid: SolidFaces
    opposites: Opposites
    thickness: float

    def attached(self, flat: Developed, attached: Attached) -> NoSheet:
        """Why what hangs on the sheet is none of it."""
        solid = self.solid
        faces = set(attached.faces)
        skin = {n for region in flat.regions for side in (A, B) for n in region.faces[side]}
        cone = self.conical()
        if cone is not None:
            return conical_bend(cone)
        second = self._second(faces)
        profile = (
            self.prismatic()
            and not any(region.bend for region in flat.regions)
            and not any(
                solid.faces[n].surface is Surface.CYLINDER and solid.faces[n].outer and solid.faces[n].radius > self.thickness
                for n in faces
            )
        )
        if second is not None:
            value, place = second
            kind = SheetKind.PROFILE if profile else SheetKind.NONE
            return NoSheet(
                kind,
                f"It has two thicknesses, {self.thickness:.4g} and {value:.4g} mm: see {in_words(place)}.",
                triple(place),
            )
        sharp = self._sharp(flat, skin)
        if sharp is not None and not profile:
            return NoSheet(
                SheetKind.NONE,
                f"Walls meet without a bend at {in_words(sharp)}: model the bends, or part the walls there.",
                triple(sharp),
            )
        if profile:
            return NoSheet(
                SheetKind.PROFILE, "It is a profile of one section along its length, whose walls do not meet in bends.",
                triple(attached.place),
            )  # fmt: skip
        free = self._free(faces, skin)
        if free is not None:
            return NoSheet(
                SheetKind.NONE,
                f"At {in_words(free)} a conical bend goes on, or one along a curve: only bends of one radius along a line are "
                "unfolded.",
                triple(free),
            )
        total = sum(face.area for face in solid.faces)
        own = sum(solid.faces[n].area for n in skin)
        if own < 0.5 * total:
            return NoSheet(SheetKind.NONE, "It is no sheet: most of its surface is not two sides one thickness apart.")
        return NoSheet(
            SheetKind.NONE,
            f"At {in_words(attached.place)} something hangs on the sheet of {self.thickness:.4g} mm that is none of it.",
            triple(attached.place),
        )

    def _free(self, faces: set[int], skin: set[int]) -> Array | None:
        """Where a free or conical surface that is no wall goes on from a side of the sheet."""
        for edge in self.solid.edges:
            beyond = [n for n in edge.faces if n in faces and self.solid.faces[n].surface in (Surface.OTHER, Surface.CONE)]
            if beyond and any(n in skin for n in edge.faces) and self.solid.faces[beyond[0]].area > 2 * self.thickness**2:
                long = edge.points[0] - edge.points[-1]
                if float(np.linalg.norm(long)) > 2 * self.thickness and self._bends_on(beyond[0]):
                    at: Array = edge.points.mean(axis=0)
                    return at
        return None

    def _bends_on(self, face: int) -> bool:
        """Whether a face has another one beside it that runs the thickness from it: the other side of a bend, not a wall."""
        area = self.solid.faces[face].area
        alike = [
            own for own in self.solid.faces
            if own.number != face and own.surface is self.solid.faces[face].surface and 0.3 < own.area / area < 3.0
        ]  # fmt: skip
        away = (self.solid.samples(own.number).mean(axis=0) - self.solid.samples(face).mean(axis=0) for own in alike)
        return any(float(np.linalg.norm(own)) < 3 * self.thickness for own in away)

    def _sharp(self, flat: Developed, skin: set[int]) -> Array | None:
        """Where a side of the sheet meets that of another sheet as thick, without a bend between."""
        for edge in self.solid.edges:
            mine = [n for n in edge.faces if n in skin]
            other = [n for n in edge.faces if n not in skin and n in flat.skins.of_face]
            if mine and other and edge.is_straight():
                at: Array = edge.points.mean(axis=0)
                return at
        return None

    def conical(self) -> Array | None:
        """A place of a conical bend: of two cones about one axis, one within the other, that are a good share of the
        surface."""
        cones = [face for face in self.solid.faces if face.surface is Surface.CONE]
        total = sum(face.area for face in self.solid.faces)
        for n, one in enumerate(cones):
            for other in cones[n + 1 :]:
                beside = other.origin - one.origin
                beside = beside - (beside @ one.axis) * one.axis
                coaxial = abs(abs(float(one.axis @ other.axis)) - 1) <= 1e-6 and np.linalg.norm(beside) <= LOOSE
                parallel = abs(one.radius - other.radius) <= 1e-6 and one.outer != other.outer
                if coaxial and parallel and one.area + other.area > _SECOND * total:
                    at: Array = self.solid.samples(max((one, other), key=lambda face: face.area).number)[0]
                    return at
        return None

    def share_of_cones(self) -> float:
        total = sum(face.area for face in self.solid.faces)
        return sum(face.area for face in self.solid.faces if face.surface is Surface.CONE) / total

    def _second(self, faces: set[int]) -> tuple[float, Array] | None:
        """Another thickness among some faces, and where."""
        total = sum(face.area for face in self.solid.faces)
        for pair in sorted((*self.opposites.planes, *self.opposites.cylinders), key=lambda own: -own.area):
            beside = (pair.one in faces or pair.other in faces) and abs(pair.distance - self.thickness) > LOOSE
            if beside and pair.area > _SECOND * total / 2 and pair.distance < 6 * self.thickness:
                at: Array = self.solid.samples(pair.one).mean(axis=0)
                return pair.distance, at
        return None

    def prismatic(self) -> bool:
        """Whether every face is square to one direction or along it, and the part longer that way than across."""
        solid = self.solid
        for pair in sorted(self.opposites.planes, key=lambda own: -own.distance)[:6]:
            way = solid.faces[pair.one].axis
            straight = all(
                abs(
                    abs(float(face.axis @ way))
                    - (1 if face.surface is Surface.CYLINDER else round(abs(float(face.axis @ way))))
                )
                < 1e-6
                for face in solid.faces
                if face.surface in (Surface.PLANE, Surface.CYLINDER)
            ) and not any(face.surface in (Surface.CONE, Surface.OTHER) for face in solid.faces)
            axes = flat_axes(way)
            beside = (solid.places - solid.places.mean(axis=0)) @ axes[:2].T
            whole = (
                abs(min(solid.faces[n].area for n in (pair.one, pair.other)) * pair.distance - solid.volume)
                <= 0.01 * solid.volume
            )
            if straight and whole and pair.distance > np.ptp(beside, axis=0).max():
                return True
        return False


def conical_bend(at: Array) -> NoSheet:
    return NoSheet(
        SheetKind.NONE, f"It has a conical bend at {in_words(at)}: only bends of one radius are unfolded.",
        triple(at),
    )  # fmt: skip


def in_words(at: Array) -> str:
    return "(" + ", ".join(trimmed(v) for v in (np.round(at, 2) + 0.0).tolist()) + ")"


def triple(at: Array) -> tuple[float, float, float]:
    x, y, z = at.tolist()
    return x, y, z
