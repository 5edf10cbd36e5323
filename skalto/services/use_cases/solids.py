"""3D annotations at the desk and the proof: put on sheets, looked at, reviewed, and handed on as files of their own."""

from __future__ import annotations

import json
from typing import Any

from skalto.core.edits.of_annotations_3d import AddAnnotation3d
from skalto.core.errors import InputError, NotThere
from skalto.core.layout.annotations_3d import annotation_for, bare_sheet
from skalto.core.packs import safe
from skalto.core.scene.annotation_3d import Annotation3d
from skalto.core.scene.turns import UPRIGHT
from skalto.core.scene.views import standard_views
from skalto.core.sheets.sheet import SheetSpec
from skalto.services.results.scenes import densities_of
from skalto.services.stored import keys
from skalto.services.stored.annotations_3d import KINDS, spec_of
from skalto.services.stored.context import ContextSpec
from skalto.services.tasks.scenes import (
    MakePoster,
    ReviewFile,
    ReviewSource,
    WriteSceneFile,
    make_poster,
    review_file,
    review_source,
    write_scene_file,
)
from skalto.services.use_cases.looking import Look, Looking
from skalto.services.use_cases.studio import short_id
from skalto.store import jobs as store
from skalto.store.jobs import StoredJob


class Solids:
    """The use cases of 3D annotations."""

    def __init__(self, looking: Looking) -> None:
        self.looking = looking
        self.proofing = looking.proofing
        self.studio = looking.studio

    def put(self, job_id: int, source: str, sheet_id: str | None, whole: bool = False) -> tuple[StoredJob, str, str]:
        """Put a 3D annotation on a sheet (a new one where *sheet_id* is None), with a sensible set of views; with *whole* it
        takes all of a sheet of its own: the job, the sheet's and the annotation's id.

        :raises InputError: when source or sheet are not there, or the source is a drawing.
        """
        job = store.get_job(job_id).document
        ref = job.source(source)
        if ref.drawing:
            raise InputError("A 3D annotation shows a model: choose one, or put the drawing on the sheet as a drawing view.")
        self.studio.tree(source)
        name = ref.name.rsplit(".", 1)[0][:60]
        if whole:
            sheet = bare_sheet(short_id(), f"{name} in 3D")
        elif sheet_id is None:
            sheet = SheetSpec(id=short_id(), name=f"Sheet {len(job.sheets) + 1}")
        else:
            sheet = job.sheet(sheet_id)
        saved = [(v.id, v.name, v.look, v.up) for v in job.viewpoints]
        taken = () if whole else self.studio.taken_on(sheet)
        annotation = annotation_for(sheet, short_id(), source, name, whole, taken)
        annotation = annotation.model_copy(update={"views": standard_views(saved)})
        if sheet_id is None or whole:
            new = sheet.model_copy(update={"annotations_3d": (annotation,)})
            label = f"add {annotation.title}"
            changed = self.studio.change(job_id, label, lambda d: d.model_copy(update={"sheets": (*d.sheets, new)}))
            return changed, sheet.id, annotation.id
        return (
            self.studio.edit(job_id, AddAnnotation3d(kind="add_annotation_3d", sheet=sheet.id, annotation=annotation)),
            sheet.id,
            annotation.id,
        )

    def _annotation(self, job_id: int, sheet_id: str, annotation_id: str) -> tuple[Annotation3d, ContextSpec]:
        job = store.get_job(job_id)
        annotation = job.document.sheet(sheet_id).annotation_3d(annotation_id)
        return annotation, ContextSpec(parts=job.document.parts, colours=job.document.colours)

    def review(self, job_id: int, sheet_id: str, annotation_id: str) -> Look:
        """Its model for the viewer, from the source. :raises InputError: when nothing is left to show."""
        annotation, context = self._annotation(job_id, sheet_id, annotation_id)
        spec = spec_of(annotation, context)
        # its views are not in it, nor how it is turned: whoever sets them has them, and the model stays as it is
        as_it_is = spec.model_copy(update={"choices": spec.choices.model_copy(update={"orientation": UPRIGHT})})
        return self.looking.look(review_source, ReviewSource(source=annotation.source, spec=as_it_is, name=annotation.name))

    def facts(self, job_id: int, sheet_id: str, annotation_id: str) -> dict[str, Any] | None:
        """What is known of its scene: triangles, bytes, classes; None until it is made."""
        annotation, context = self._annotation(job_id, sheet_id, annotation_id)
        key = keys.scene_key(annotation.source, spec_of(annotation, context))
        try:
            found: dict[str, Any] = json.loads(self.studio.blobs.get(f"{key}.json"))
        except KeyError:
            return None
        return found

    def poster(self, job_id: int, sheet_id: str, annotation_id: str) -> Look:
        """Its picture for the desk. :raises InputError: when nothing is left to show."""
        annotation, context = self._annotation(job_id, sheet_id, annotation_id)
        return self.looking.look(make_poster, MakePoster(annotation=annotation, spec=spec_of(annotation, context)))

    def poster_picture(self, key: str) -> bytes:
        """Its picture. :raises InputError: when there is none."""
        try:
            return self.studio.blobs.get(f"posters/{key}.png")
        except KeyError:
            raise NotThere("There is no such picture.") from None

    def proof(self, job_id: int, sheet_id: str) -> Look:
        """The 3D annotations of a sheet's finished file, decoded from it. :raises InputError: when it is not made."""
        file = self.looking.file(job_id, sheet_id)
        return self.looking.look(review_file, ReviewFile(file=file))

    def paths(self, job_id: int, sheet_id: str) -> tuple[dict[str, str], ...]:
        """The components by the names of their nodes, for each 3D annotation of a sheet."""
        fields = store.get_job(job_id).document.sheet(sheet_id).annotations_3d
        known = (self.facts(job_id, sheet_id, annotation.id) for annotation in fields)
        return tuple(dict(found["paths"]) if found else {} for found in known)

    def densities(self, job_id: int, sheet_id: str) -> tuple[dict[str, float], ...]:
        """What the parts of each 3D annotation of a sheet are made of, g/mm³, by the names of their nodes."""
        found = []
        for annotation, paths in zip(
            store.get_job(job_id).document.sheet(sheet_id).annotations_3d, self.paths(job_id, sheet_id), strict=True
        ):
            _, context = self._annotation(job_id, sheet_id, annotation.id)
            found.append(densities_of(self.studio.tree(annotation.source), spec_of(annotation, context), paths))
        return tuple(found)

    def pack(self, key: str) -> bytes:
        """A block for the viewer. :raises InputError: when there is none."""
        try:
            return self.studio.blobs.get(f"looks/{key}.pack")
        except KeyError:
            raise NotThere("There is no such 3D model: make the proof anew.") from None

    def file(self, job_id: int, sheet_id: str, number: int, suffix: str) -> Look:
        """A 3D annotation of a sheet's finished file as a file of its own. :raises InputError: when the proof is not made."""
        if suffix not in KINDS:
            raise InputError(f"{suffix} is not a kind of 3D file: choose one of {', '.join(KINDS)}.")
        file = self.looking.file(job_id, sheet_id)
        viewer = str(self.studio.settings.web / "viewer")
        fields = store.get_job(job_id).document.sheet(sheet_id).annotations_3d
        kept = fields[number].kept if number < len(fields) else ()
        known = self.densities(job_id, sheet_id)
        densities = known[number] if number < len(known) else {}
        asked = WriteSceneFile(
            file=file, suffix=suffix, number=number, viewer=viewer, kept=kept, densities=densities
        )  # fmt: skip
        return self.looking.look(write_scene_file, asked)

    def written(self, job_id: int, sheet_id: str, number: int, suffix: str) -> tuple[str, bytes]:
        """File name and bytes of what :meth:`file` made. :raises InputError: when it is not made yet."""
        look = self.file(job_id, sheet_id, number, suffix)
        if look.data is None:
            raise InputError("This file is not made yet: ask for it first.")
        name = json.loads(look.data)["name"]
        return safe(f"{store.get_job(job_id).document.name} {name}") + suffix, self.studio.blobs.get(f"{look.key}.bin")
