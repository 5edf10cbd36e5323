"""Models as scenes: meshed once for each quality, kept as U3D."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Mapping, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import orjson

from skalto.core.checks.solids import FoundSolid, fields_of_pdf
from skalto.core.errors import InputError
from skalto.core.output.review import pack_review, plain_view
from skalto.core.output.u3d.reader import read_u3d
from skalto.core.output.u3d.writer import write_u3d
from skalto.core.projection.shading import unpack_picture
from skalto.core.scene.annotation_3d import Annotation3d
from skalto.core.scene.building import build_scene, class_names, classes_of
from skalto.core.scene.choices import SceneChoices, SceneSpec
from skalto.core.scene.kept import Kept
from skalto.core.scene.meshing import PartMesh, Quality, part_meshes
from skalto.core.scene.poster import to_png
from skalto.core.scene.scene import Scene
from skalto.core.scene.solid import Solid, draw_poster, make_solid
from skalto.core.sheets.sheet import SheetSpec
from skalto.core.sources.models.model import Model, ModelTree
from skalto.core.sources.models.parts import items
from skalto.services.results.models import kept_model
from skalto.services.stored import keys
from skalto.services.stored.annotations_3d import spec_of
from skalto.services.stored.context import ContextSpec, load_tree
from skalto.store.blobs import Blobs

_KEPT = 4
_parts: OrderedDict[tuple[str, str], list[PartMesh]] = OrderedDict()
_scenes: OrderedDict[str, tuple[Scene, bytes]] = OrderedDict()


def meshed(model: Model, name: str, quality: Quality) -> list[PartMesh]:
    """A model's parts as triangles, kept in memory under its name."""
    key = (name, quality.value)
    if key not in _parts:
        _parts[key] = part_meshes(model, quality)
        while len(_parts) > _KEPT:
            _parts.popitem(last=False)
    _parts.move_to_end(key)
    return _parts[key]


def _known(scene: Scene, u3d: bytes, classes: list[str]) -> dict[str, Any]:
    """What is told of a scene beside its bytes."""
    return {
        "paths": scene.paths,
        "groups": list(scene.groups),
        "chord": scene.chord,
        "triangles": scene.triangles(),
        "distinct": scene.distinct(),
        "bytes": len(u3d),
        "parts": sum(1 for node in scene.nodes if node.meshes),
        "classes": classes,
    }


def load_scene(store: Blobs, source: str, spec: SceneSpec) -> tuple[Scene, bytes]:
    """The scene of a source and its U3D, from memory, from the store, or made now and kept.

    The scene is the one that is read back from the U3D, so that all that is shown of it is what a reader has.

    :raises InputError: when nothing is left to show.
    """
    key = keys.scene_key(source, spec)
    if key not in _scenes:
        try:
            known = orjson.loads(store.get(f"{key}.json"))
            u3d = store.get(f"{key}.u3d")
        except KeyError:
            model = kept_model(store, source)
            made = build_scene(model.tree, meshed(model, source, spec.choices.quality), spec)
            u3d = write_u3d(made)
            known = _known(made, u3d, class_names(classes_of(model.tree, spec), spec))
            store.put(f"{key}.u3d", u3d)
            store.put(f"{key}.json", orjson.dumps(known))
        _scenes[key] = with_known(read_u3d(u3d), known), u3d
        while len(_scenes) > _KEPT:
            _scenes.popitem(last=False)
    _scenes.move_to_end(key)
    return _scenes[key]


def with_known(scene: Scene, known: dict[str, Any]) -> Scene:
    """A scene that was read back, with what only its maker knows."""
    return replace(scene, chord=known["chord"], paths=known["paths"], groups=tuple(known["groups"]))


def solids_of(store: Blobs, sheet: SheetSpec, context: ContextSpec) -> dict[str, Solid]:
    """The 3D annotations of a sheet made ready, by id. :raises InputError: when one of them has nothing left to show."""
    found = {}
    for annotation in sheet.annotations_3d:
        spec = spec_of(annotation, context)
        try:
            scene, u3d = load_scene(store, annotation.source, spec)
            poster = unpack_picture(load_poster(store, annotation, spec))
            found[annotation.id] = make_solid(annotation, load_tree(store, annotation.source), scene, u3d, poster)
        except InputError as error:
            raise InputError(f"{annotation.name}: {error}") from None
    return found


def load_poster(store: Blobs, annotation: Annotation3d, spec: SceneSpec) -> bytes:
    """The poster of a field as PNG, from the store, or drawn now and kept."""
    key = keys.poster_key(annotation.source, spec, annotation)
    try:
        return store.get(f"{key}.png")
    except KeyError:
        scene, _ = load_scene(store, annotation.source, spec)
        png = to_png(draw_poster(annotation, scene))
        store.put(f"{key}.png", png)
        store.put(f"{key}.json", b"{}")
        return png


def name_of(solid: FoundSolid) -> str:
    return solid.facts.name if solid.facts else "3D model"


def densities_of(tree: ModelTree, spec: SceneSpec, paths: Mapping[str, str]) -> dict[str, float]:
    """What the parts of a scene are made of, g/mm³, by the names of their nodes; those that are not known are left out.

    :param paths: the components by the names of their nodes.
    """
    known = {path: item.density / 1000 for item in items(tree, spec.parts) for path in item.components if item.density}
    return {name: known[path] for name, path in paths.items() if path in known}


def pack_of(solid: FoundSolid, kept: Sequence[Kept] = (), densities: Mapping[str, float] | None = None) -> bytes:
    """The viewer's block of a field that was found in a file.

    :param kept: what a review has kept of it. :param densities: as :func:`densities_of` has them.
    """
    scene, facts = read_u3d(solid.u3d), solid.facts
    told = {
        "unit": solid.views[0].unit if solid.views else "mm",
        "tolerance": facts.chord if facts else 0.0,
        "first": solid.first,
        "groups": list(facts.groups) if facts else [],
        "size": len(solid.u3d),
        "aspect": solid.shown[0] / max(solid.shown[1], 1e-9),
        "page": solid.page,
        "box": solid.box,
        "kept": [own.model_dump(mode="json") for own in kept],
        "densities": dict(densities or {}),
    }
    return pack_review(scene, name_of(solid), [plain_view(view) for view in solid.views], told)


def scene_file(
    data: bytes, suffix: str, viewer: Path, number: int = 0, kept: Sequence[Kept] = (),
    densities: Mapping[str, float] | None = None,
) -> tuple[str, bytes]:  # fmt: skip
    """A 3D annotation of a finished PDF as a file of its own (.u3d, .glb or .html): its name, and the bytes.

    :raises InputError: when the PDF has no such field, or is damaged.
    """
    found = fields_of_pdf(data)
    if number >= len(found):
        raise InputError("The file has no 3D annotation: put one on the sheet first.")
    solid = found[number]
    name = name_of(solid)
    if suffix == ".u3d":
        return name, solid.u3d
    if suffix == ".html":
        from skalto.core.output.webpage import viewer_files, write_page

        return name, write_page(name, pack_of(solid, kept, densities), *viewer_files(viewer))
    from skalto.core.output.glb import write_glb

    return name, write_glb(read_u3d(solid.u3d))


def model_file(
    store: Blobs, source: str, suffix: str, choices: SceneChoices, name: str, viewer: Path, said: SceneSpec = SceneSpec()
) -> bytes:
    """A model, or what the choices leave of it, as a 3D file of its own (.u3d, .glb or .html).

    :param said: what the job says of parts and colours. :raises InputError: when nothing is left to show.
    """
    scene, u3d = load_scene(store, source, said.model_copy(update={"choices": choices}))
    if suffix == ".u3d":
        return u3d
    if suffix == ".glb":
        from skalto.core.output.glb import write_glb

        return write_glb(read_u3d(u3d))
    from skalto.core.output.webpage import viewer_files, write_page

    # the page draws for itself: nobody sees a poster
    poster = np.zeros((1, 1, 4), np.uint8)
    field = Annotation3d(id="3d", source=source, name=name, choices=choices)
    made = make_solid(field, load_tree(store, source), scene, u3d, poster)
    told = {"unit": "mm", "tolerance": made.facts.chord, "first": 0, "groups": list(made.facts.groups), "size": len(u3d)}
    told["aspect"] = field.aspect
    pack = pack_review(read_u3d(u3d), name, [plain_view(view) for view in made.views], told)
    return write_page(name, pack, *viewer_files(viewer))
