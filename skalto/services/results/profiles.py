"""Profiles of parts to cut, made where they are not there, and which parts of a model are flat plates."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from fnmatch import fnmatchcase
from typing import TYPE_CHECKING, Any

import numpy as np
import orjson
from pydantic import BaseModel, ConfigDict

from skalto.core.artwork import Areas, Artwork, Fills, Raster, Tags
from skalto.core.colour import format_colour
from skalto.core.cutting.decorations import Decoration, ExcerptContent
from skalto.core.cutting.section import ComponentOrigin, ContoursOrigin, CutPart
from skalto.core.errors import InputError
from skalto.core.geometry import Array, Similarity
from skalto.core.geometry.profile import Operation
from skalto.core.geometry.svg_paths import svg_path
from skalto.core.progress import Progress, silent
from skalto.core.sheet_metal.choices import FlatSpec
from skalto.services.results.drawings import load_space
from skalto.services.results.flat import flat_profile
from skalto.services.results.models import kept_model
from skalto.services.stored import keys
from skalto.services.stored.context import load_tree
from skalto.services.stored.profiles import KeptProfile, load_profile, pack_profile
from skalto.store.blobs import Blobs

if TYPE_CHECKING:
    from skalto.core.cutting.flat_plates import PartFaces


class FlatFace(BaseModel):
    """A flat face of a shape: its number, its area, mm², and where it looks, in the shape's own axes."""

    model_config = ConfigDict(frozen=True)

    number: int
    area: float
    normal: tuple[float, float, float]


MOST_FACES = 12
"""So many flat faces of a part, the largest, are to choose from."""


class ShapePlate(BaseModel):
    """What was found of a shape of a model: its thickness and the normal of its side A where it is a flat plate; else why
    not."""

    model_config = ConfigDict(frozen=True)

    shape: int
    thickness: float = 0.0
    normal: tuple[float, float, float] = (0.0, 0.0, 1.0)
    low: float = 0.0
    high: float = 0.0
    sunk_a: float = 0.0
    sunk_b: float = 0.0
    why_not: str = ""
    faces: tuple[FlatFace, ...] = ()


def shape_plates(store: Blobs, source: str, shapes: Iterable[int], report: Progress = silent) -> dict[int, ShapePlate]:
    """Which shapes of a model are flat plates; what was found is kept."""
    from skalto.core.cutting.flat_plates import NoPlate, PartFaces, flat_plate

    key = keys.plates_key(source)
    try:
        known = {row["shape"]: ShapePlate.model_validate(row) for row in orjson.loads(store.get(key))}
    except KeyError:
        known = {}
    asked = sorted(set(shapes))
    new = [shape for shape in asked if shape not in known]
    model = kept_model(store, source) if new else None
    for number, shape in enumerate(new):
        report(number / len(new), "Looking for flat plates")
        assert model is not None
        faces = PartFaces(model.shapes[shape])
        try:
            own = flat_plate(faces)
            known[shape] = ShapePlate(
                shape=shape,
                thickness=own.thickness,
                normal=own.normal,
                low=own.low,
                high=own.high,
                sunk_a=own.sunk_a,
                sunk_b=own.sunk_b,
            )
        except NoPlate as error:
            known[shape] = ShapePlate(shape=shape, why_not=str(error), faces=_flat_faces(faces))
    if new:
        store.put(key, orjson.dumps([own.model_dump() for own in known.values()]))
    return {shape: known[shape] for shape in asked}


def _flat_faces(faces: PartFaces) -> tuple[FlatFace, ...]:
    """The largest flat faces of a part, the largest first."""
    rows = sorted(((face.area, n) for n, face in enumerate(faces.faces) if face.is_plane), reverse=True)[:MOST_FACES]
    found = []
    for area, number in rows:
        own = faces.faces[number]
        x, y, z = (own.normals[0] * (-1 if own.inward else 1)).tolist()
        found.append(FlatFace(number=number, area=area, normal=(x, y, z)))
    return tuple(found)


def part_profile(store: Blobs, part: CutPart, report: Progress = silent) -> KeptProfile:
    """A part's profile. :raises InputError: when it has none, saying why."""
    try:
        return load_profile(store, part)
    except KeyError:
        pass
    origin = part.origin
    made = (
        _of_component(store, part, origin, report) if isinstance(origin, ComponentOrigin) else _of_contours(store, part, origin)
    )
    store.put(keys.profile_key(origin), pack_profile(made))
    return made


def make_profiles(store: Blobs, parts: Iterable[CutPart], report: Progress = silent) -> None:
    """Make the profiles that are not there yet."""
    for part in parts:
        part_profile(store, part, report)


def make_excerpts(store: Blobs, decorations: Iterable[Decoration]) -> None:
    """Make what decorations show of drawings where it is not there yet. :raises InputError: where one shows nothing."""
    from skalto.core.cutting.decorating import excerpted

    for own in decorations:
        if not isinstance(own.content, ExcerptContent) or store.exists(key := keys.excerpt_key(own.content)):
            continue
        space = load_space(store, own.content.source, own.content.excerpt.space)
        store.put(key, excerpted(own.content, space).to_bytes())


def picture_of_decoration(own: Decoration, excerpts: Mapping[str, Artwork]) -> dict[str, Any]:
    """A decoration for the page: its strokes and its areas as paths of SVG, y up, and notes."""
    from skalto.core.cutting.decorating import decorated

    made = decorated(own, excerpts)
    areas: list[str] = []
    pictures: list[str] = []
    for item in made.areas:
        if isinstance(item, Areas):
            areas.append(_area_path(item))
        elif isinstance(item, Fills):
            areas += [_ring_path(points) for points in item.points]
        elif isinstance(item, Raster):
            corners = np.array((0 * item.across, item.across, item.across + item.upward, item.upward))
            pictures.append(_ring_path(item.corner + corners))
    return {
        "id": own.id, "operation": own.operation, "strokes": " ".join(svg_path(mark.course) for mark in made.marks),
        "areas": " ".join(areas), "pictures": " ".join(pictures), "box": made.box, "notes": list(made.notes),
    }  # fmt: skip


def _ring_path(points: Array) -> str:
    return "M" + "L".join(f"{x:.3f} {y:.3f}" for x, y in points.tolist()) + "Z"


def _area_path(item: Areas) -> str:
    out: list[str] = []
    last = -1
    for curve, straight, contour in zip(item.curves.tolist(), item.straight.tolist(), item.contour.tolist(), strict=True):
        if contour != last:
            out.append(f"{'Z' if out else ''}M{curve[0][0]:.3f} {curve[0][1]:.3f}")
            last = contour
        if straight:
            out.append(f"L{curve[3][0]:.3f} {curve[3][1]:.3f}")
        else:
            out.append("C" + " ".join(f"{v:.3f}" for point in curve[1:] for v in point))
    return "".join(out) + ("Z" if out else "")


def _of_component(store: Blobs, part: CutPart, origin: ComponentOrigin, report: Progress) -> KeptProfile:
    from skalto.core.cutting.flat_plates import FlatPlate, PartFaces
    from skalto.core.cutting.model_profiles import face_profile, plate_profile, silhouette_profile

    tree = load_tree(store, origin.source)
    component = next((own for own in tree.leaves() if own.path == origin.component), None)
    if component is None or component.shape is None:
        raise InputError(f"{part.name}: the model has no component {origin.component} any more.")
    material = tree.shapes[component.shape].material
    model = kept_model(store, origin.source)
    if origin.face is not None:
        found = face_profile(model, component.shape, origin.face, part.name, material)
        return KeptProfile(found.profile, found.notes)
    if origin.silhouette is not None:
        found = silhouette_profile(model, component.shape, origin.silhouette, part.name, material)
        return KeptProfile(found.profile, found.notes)
    if origin.unfolded is not None:
        spec = FlatSpec(component=origin.component, choices=origin.unfolded)
        return flat_profile(store, origin.source, spec, origin.bends)
    own = shape_plates(store, origin.source, [component.shape], report)[component.shape]
    if own.why_not:
        raise InputError(
            f"{part.name} is no flat plate: {own.why_not}. Take its flat pattern, its silhouette, or one of its faces."
        )
    plate = FlatPlate(own.normal, own.thickness, own.low, own.high, own.sunk_a, own.sunk_b)
    found = plate_profile(model, component.shape, plate, PartFaces(model.shapes[component.shape]), part.name, material)
    return KeptProfile(found.profile, found.notes)


def says_of(origin: ContoursOrigin) -> Any:
    """What is done along a stroke of a drawing, by its layer or its colour."""

    def fits(tags: Tags, patterns: tuple[str, ...]) -> bool:
        named = [tags.layer.casefold(), *([format_colour(tags.colour)] if tags.colour is not None else [])]
        return any(fnmatchcase(name, pattern.casefold()) for pattern in patterns for name in named)

    def says(tags: Tags) -> Operation | None:
        if fits(tags, origin.out):
            return None
        if fits(tags, origin.engrave):
            return Operation.ENGRAVE
        return Operation.SCORE if fits(tags, origin.score) else Operation.CUT

    return says


def drawn_parts(store: Blobs, origin: ContoursOrigin, name: str) -> Any:
    """All parts of a drawing's contours."""
    from skalto.core.cutting.drawn_profiles import parts_of

    artwork = load_space(store, origin.source, origin.space)
    if origin.unit != 1.0:
        artwork = artwork.placed(Similarity(origin.unit))
    return parts_of(artwork, says_of(origin), origin.close, name, origin.plate)


def _of_contours(store: Blobs, part: CutPart, origin: ContoursOrigin) -> KeptProfile:
    found = drawn_parts(store, origin, part.name)
    if origin.number >= len(found.parts):
        raise InputError(
            f"{part.name}: the drawing has {len(found.parts)} closed outlines, and no number {origin.number + 1} any more."
        )
    return KeptProfile(found.parts[origin.number])


def picture_of(kept: KeptProfile, part: CutPart, excerpts: Mapping[str, Artwork]) -> dict[str, Any]:
    """A profile for the page: paths as SVG writes them, y up, what is known of it, and what is drawn on it."""
    profile = kept.profile
    return {
        "cut": " ".join(svg_path(own) for own in profile.contours),
        "marks": [{"operation": own.operation.value, "path": svg_path(own.course)} for own in profile.marks],
        "box": list(profile.box), "area": profile.area, "thickness": profile.thickness, "material": profile.material,
        "faults": list(profile.faults()), "notes": list(kept.notes),
        "decorations": [picture_of_decoration(own, excerpts) for own in part.decorations],
    }  # fmt: skip
