"""Profiles of parts of a model: of a flat plate, of a face, of what a part covers seen from a direction."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import shapely

from skalto.core.artwork import Artwork, EdgeClass
from skalto.core.artwork.joining import joined, segments_of
from skalto.core.artwork.strokes import Contours
from skalto.core.cutting.flat_plates import CHORD, FlatPlate, PartFaces, covered, plane_axes
from skalto.core.errors import InputError
from skalto.core.geometry import Array, Similarity
from skalto.core.geometry.profile import Mark, Operation, Profile, nested
from skalto.core.geometry.segments import Segment
from skalto.core.geometry.stringing import divided_where_touched, strung
from skalto.core.projection.cutting import Shown
from skalto.core.projection.view import ProjectionSpec, project_shown
from skalto.core.sources.models.model import Component, Model
from skalto.core.viewpoint import Vector

FITTED = 1e-4
"""How near, mm, the Béziers of a profile keep to curves that are neither lines nor arcs."""
_BESIDE = 5
"""So many times as far beside a line as triangles are off one looks for what is covered."""
_ROUGH = 20 * CHORD
_AT = (0.5, 0.21, 0.83)


@dataclass(frozen=True)
class PartProfile:
    """A profile, and what whoever cuts it should know of it, each in a sentence."""

    profile: Profile
    notes: tuple[str, ...] = ()


def plate_profile(
    model: Model, shape: int, plate: FlatPlate, faces: PartFaces, name: str = "", material: str = ""
) -> PartProfile:
    """The profile of a flat plate seen on side A: what goes through is cut, what is sunk into that side is a mark.

    :param shape: the number of the part's shape in the model.
    """
    notes = []
    if plate.sunk_b > 0:
        area = f"{plate.sunk_b:.4g} mm²"
        notes.append(f"{name}: side B has {area} sunk into it, which is not marked: it is machined after it is cut.")
    if plate.sunk_a > 0:
        notes.append(f"{name}: {plate.sunk_a:.4g} mm² of side A do not go through; their edges are scored, not cut.")
    made = _profile_along(model, shape, plate.normal, faces, name, marked=True)
    return PartProfile(replace(made, name=name, material=material, thickness=plate.thickness), tuple(notes))


def silhouette_profile(model: Model, shape: int, normal: Vector, name: str = "", material: str = "") -> PartProfile:
    """What a part covers seen from where *normal* points, for parts that are no flat plates; its thickness is not known."""
    try:
        made = _profile_along(model, shape, normal, PartFaces(model.shapes[shape], _ROUGH), name, marked=False)
    except InputError:
        made = _profile_along(model, shape, normal, PartFaces(model.shapes[shape]), name, marked=False)
    told = f"{name}: its silhouette is cut, for it is no flat plate."
    return PartProfile(replace(made, name=name, material=material), (told,))


def face_profile(model: Model, shape: int, number: int, name: str = "", material: str = "") -> PartProfile:
    """The flat face *number* of a part, in the order in which :class:`PartFaces` has them; its thickness is not known.

    :raises InputError: when there is no such face, or it is not flat.
    """
    from skalto.core.cutting.flat_plates import face_alone

    alone, normal = face_alone(model.shapes[shape], number)
    tree = model.tree.model_copy(update={"shapes": (model.tree.shapes[shape],)})
    made = _profile_along(Model(tree, (alone,)), 0, normal, PartFaces(alone), name, False, f"shape {shape}, face {number}")
    told = f"{name}: one of its faces is cut; how thick it is to be is for you to say."
    return PartProfile(replace(made, name=name, material=material), (told,))


def _profile_along(
    model: Model, shape: int, normal: Vector, faces: PartFaces, name: str, marked: bool, path: str = ""
) -> Profile:
    axes = plane_axes(normal)
    above = [corners[_areas(corners @ axes[:2].T) > 0] for corners in faces.corners]
    shadow = covered(above, axes)
    lines = _lines(model, shape, path or f"shape {shape}", axes)
    segments = divided_where_touched(_segments(lines))
    on_edge = _bounds(segments, shadow, _BESIDE * faces.chord)
    found = strung([s for s, own in zip(segments, on_edge, strict=True) if own], gap=2e-2)
    if found.open or not found.closed:
        raise InputError(f"The outline of {name or 'this part'} does not close: export the model again, as a solid.")
    groups = nested(found.closed)
    if len(groups) > 1:
        groups.sort(key=lambda row: -abs(found.closed[row[0]].area))
        raise InputError(f"{name or 'This part'} is {len(groups)} pieces seen from here: take them as parts of their own.")
    outline, openings = groups[0]
    profile = Profile(found.closed[outline], tuple(found.closed[n] for n in openings))
    if marked:
        rest = strung([s for s, own in zip(segments, on_edge, strict=True) if not own])
        profile = replace(profile, marks=tuple(Mark(own, Operation.SCORE) for own in (*rest.closed, *rest.open)))
    x0, y0, _, _ = profile.box
    return profile.placed(Similarity(dx=-x0, dy=-y0))


def _areas(triangles: Array) -> Array:
    a, b = triangles[:, 1] - triangles[:, 0], triangles[:, 2] - triangles[:, 0]
    found: Array = a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]
    return found


def _lines(model: Model, shape: int, path: str, axes: Array) -> Artwork:
    """A part's visible edges and contours in the plane, in its own axes; what is kept of a model goes by the path."""
    alone = Component(
        name="", path=path, part="", shape=shape, colour="#808080", placement=tuple(np.eye(4).ravel().tolist()),
        size=(0.0, 0.0, 0.0), volume=0.0,
    )  # fmt: skip
    look, up = tuple((-axes[2]).tolist()), tuple(axes[1].tolist())
    spec = ProjectionSpec(look=look, up=up, tolerance=FITTED)
    found = project_shown(model, Shown((alone,), (model.shapes[shape],)), spec)
    return found.only((EdgeClass.VISIBLE, EdgeClass.OUTLINE, EdgeClass.WIRE))


def _segments(lines: Artwork) -> list[Segment]:
    found: list[Segment] = []
    for item in joined(lines, lambda tags: None, by_layer=False):
        if isinstance(item, Contours):
            for number in range(len(item.closed)):
                found += segments_of(item, number)
    return found


def _bounds(segments: list[Segment], shadow: Any, beside: float) -> list[bool]:
    """Which segments have what is covered on one side of them alone."""
    if not segments:
        return []
    places, across = [], []
    for segment in segments:
        for t in _AT:
            x, y = segment.at(t)
            hx, hy = segment.heading(t)
            places.append((x, y))
            across.append((hy, -hx))
    at, by = np.array(places), np.array(across) * beside
    shapely.prepare(shadow)
    right, left = shapely.contains_xy(shadow, at + by), shapely.contains_xy(shadow, at - by)
    votes = (right != left).reshape(-1, len(_AT)).sum(axis=1)
    return [bool(own) for own in votes * 2 > len(_AT)]
