"""Tasks of 3D: posters, what the viewer takes, files of their own."""

from __future__ import annotations

from pathlib import Path

import orjson
from pydantic import Field

from skalto.core.progress import Progress
from skalto.core.scene.annotation_3d import Annotation3d
from skalto.core.scene.choices import SceneSpec
from skalto.core.scene.kept import Kept
from skalto.jobs.task import TaskArgument, task
from skalto.services.stored import keys
from skalto.services.tasks.looking import LookArgument
from skalto.store.blobs import Blobs


class MakePoster(TaskArgument):
    """A field, and what decides its scene."""

    annotation: Annotation3d
    spec: SceneSpec

    @property
    def key(self) -> str:
        return keys.poster_key(self.annotation.source, self.spec, self.annotation)


class ReviewSource(TaskArgument):
    """A model for the review viewer, under a name, without views."""

    source: str
    spec: SceneSpec
    name: str

    @property
    def key(self) -> str:
        return f"looks/{keys.digest('ReviewSource', keys.scene_key(self.source, self.spec), self.name)}"


class ReviewFile(LookArgument):
    """Every 3D annotation of a finished PDF, decoded from the file."""


class WriteSceneFile(LookArgument):
    """A 3D annotation of a finished PDF, by its number, as a file of its own; where the *viewer* for a web page is,
    and what that page shows beside the model: what was kept of it, and what its parts are made of."""

    suffix: str
    number: int
    viewer: str
    kept: tuple[Kept, ...] = ()
    densities: dict[str, float] = Field(default={})

    @property
    def key(self) -> str:
        told = self.model_dump(mode="json", include={"kept", "densities"}) if self.suffix == ".html" else {}
        return f"looks/{keys.digest('WriteSceneFile', self.file, self.suffix, self.number, told)}"


@task(MakePoster, "scene")
def make_poster(asked: MakePoster, blobs: str, report: Progress) -> None:
    """The poster of a field for the desk. :raises InputError: when nothing is left to show."""
    from skalto.services.results.scenes import load_poster

    report(0.1, "Making the 3D model")
    load_poster(Blobs(blobs), asked.annotation, asked.spec)


@task(ReviewSource, "scene")
def review_source(asked: ReviewSource, blobs: str, report: Progress) -> None:
    """A model as the review viewer takes it. :raises InputError: when nothing is left to show."""
    from skalto.core.output.review import pack_review
    from skalto.services.results.scenes import densities_of, load_scene
    from skalto.services.stored.context import load_tree

    report(0.1, "Making the 3D model")
    store = Blobs(blobs)
    scene, u3d = load_scene(store, asked.source, asked.spec)
    report(0.6, "Finding edges and faces")
    told = {
        "unit": "mm",
        "tolerance": scene.chord,
        "first": 0,
        "groups": list(scene.groups),
        "size": len(u3d),
        "densities": densities_of(load_tree(store, asked.source), asked.spec, scene.paths),
    }
    store.put(f"{asked.key}.pack", pack_review(scene, asked.name, [], told))
    store.put(f"{asked.key}.json", orjson.dumps({"fields": [asked.name]}))


@task(ReviewFile, "scene")
def review_file(asked: ReviewFile, blobs: str, report: Progress) -> None:
    """Every 3D annotation of a finished PDF as the viewer takes it."""
    from skalto.core.checks.solids import fields_of_pdf
    from skalto.services.results.scenes import name_of, pack_of

    report(0.1, "Reading the 3D model out of the file")
    store = Blobs(blobs)
    found = fields_of_pdf(store.get(asked.file))
    for number, solid in enumerate(found):
        store.put(f"{asked.key}.{number}.pack", pack_of(solid))
    store.put(f"{asked.key}.json", orjson.dumps({"fields": [name_of(solid) for solid in found]}))


@task(WriteSceneFile, "scene")
def write_scene_file(asked: WriteSceneFile, blobs: str, report: Progress) -> None:
    """A 3D annotation of a finished PDF as a file of its own."""
    from skalto.services.results.scenes import scene_file

    report(0.2, "Writing the 3D model")
    store = Blobs(blobs)
    name, data = scene_file(store.get(asked.file), asked.suffix, Path(asked.viewer), asked.number, asked.kept, asked.densities)
    store.put(f"{asked.key}.bin", data)
    store.put(f"{asked.key}.json", orjson.dumps({"name": name, "size": len(data)}))
