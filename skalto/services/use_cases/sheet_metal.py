"""The use cases of sheet metal: parts recognised and unfolded, flat patterns on sheets and as DXF."""

from __future__ import annotations

import orjson

from skalto.core.errors import InputError
from skalto.core.layout.flat_views import first_flat_sheet, new_flat
from skalto.core.recipes import Recipe
from skalto.core.sheet_metal.choices import FlatSpec, UnfoldChoices
from skalto.core.sheet_metal.facts import PatternFacts
from skalto.core.sheet_metal.flat_writing import FlatWriting
from skalto.core.sheets.content import FlatContent
from skalto.services.tasks.sheet_metal import (
    DrawParts,
    FindEdges,
    UnfoldPart,
    WriteFlat,
    draw_parts,
    find_edges,
    unfold_part,
    write_flat,
)
from skalto.services.use_cases.looking import Look, Looking
from skalto.services.use_cases.studio import short_id
from skalto.store import jobs as store
from skalto.store.jobs import StoredJob


class SheetMetal:
    """Sheet metal of a job's models."""

    def __init__(self, looking: Looking) -> None:
        self.looking = looking
        self.studio = looking.studio

    def parts(self, source: str) -> Look:
        """The parts of a model with what each is. :raises InputError: for a drawing."""
        self._model(source)
        return self.looking.sheet_parts(source)

    def edges(self, source: str, component: str) -> Look:
        """The edges of a component's part. :raises InputError: for a drawing, or a component that is not there."""
        self._component(source, component)
        return self.looking.look(find_edges, FindEdges(source=source, component=component))

    def pictures(self, source: str) -> Look:
        """Small pictures of the parts of a model. :raises InputError: for a drawing."""
        self._model(source)
        return self.looking.look(draw_parts, DrawParts(source=source))

    def pattern(self, source: str, spec: FlatSpec) -> Look:
        """A component unfolded. :raises InputError: for a drawing, or a component that is not there."""
        self._component(source, spec.component)
        return self.looking.look(unfold_part, UnfoldPart(source=source, spec=spec))

    def put(
        self, job_id: int, source: str, component: str, sheet_id: str | None, choices: UnfoldChoices
    ) -> tuple[StoredJob, str, str]:
        """Put a flat pattern on a sheet, a new one where *sheet_id* is None: the job, the sheet's and the view's id.

        :raises InputError: when the component has no flat pattern, or is not unfolded yet.
        """
        job = store.get_job(job_id)
        job.document.source(source)
        look = self.pattern(source, FlatSpec(component=component, choices=choices))
        if look.data is None:
            if look.work is not None and look.work.error:
                raise InputError(look.work.error)
            raise InputError("The part is being unfolded: wait a moment.")
        facts = PatternFacts.model_validate(orjson.loads(look.data)["facts"])
        content = FlatContent(component=component, choices=choices)
        number = len(job.document.sheets) + 1
        sheet = job.document.sheet(sheet_id) if sheet_id is not None else first_flat_sheet(short_id(), f"Sheet {number}", facts)
        taken = [box for view in sheet.views if (box := self.studio.rough_box(view)) is not None]
        view, scale = new_flat(short_id(), source, content, facts, sheet, taken)
        return self.studio.added(job, sheet, view, scale, sheet_id is None), sheet.id, view.id

    def dxf(self, source: str, spec: FlatSpec, recipe: Recipe | None, side_b: bool) -> tuple[Look, bytes]:
        """A component's flat pattern as DXF by a recipe, of the other side where that is asked for: the file's name and
        the file, b"" until it is there.

        :raises InputError: when it has none, or the file is not as it should be.
        """
        self._model(source)
        writing = (recipe.flat if recipe else None) or FlatWriting()
        look = self.looking.look(write_flat, WriteFlat(source=source, spec=spec, writing=writing, side_b=side_b))
        return look, self.studio.blobs.get(f"{look.key}.dxf") if look.data is not None else b""

    def _component(self, source: str, path: str) -> None:
        self._model(source)
        if not any(leaf.path == path for leaf in self.studio.facts(source).tree.leaves()):
            raise InputError(f"The model has no component {path}: choose another.")

    def _model(self, source: str) -> None:
        if self.studio.facts(source).drawing is not None:
            raise InputError("A drawing has contours, not bends: sheet metal is read from models.")
