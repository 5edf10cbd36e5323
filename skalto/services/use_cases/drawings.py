"""Drawings in a job: what they hold, how large they are, and putting excerpts and saved pages on sheets."""

from __future__ import annotations

import json
import math
from pathlib import Path
from typing import Any

from skalto.core.artwork import Artwork
from skalto.core.edits.of_sheets import AddSheet, AddSheets
from skalto.core.edits.of_sources import SetUnit
from skalto.core.errors import InputError, NotThere
from skalto.core.formats import stroke_format
from skalto.core.geometry import Array, Box
from skalto.core.layout.drawing_views import finished_sheet, first_sheet, new_excerpt, page_sheet, whole_page_sheet
from skalto.core.output.pdf.onto import place_of, signatures_of, sound_for
from skalto.core.quantities import PREFERRED_SCALES, Scale
from skalto.core.sheets.content import DrawingContent
from skalto.core.sheets.finished_page import FinishedPage
from skalto.core.sheets.sheet import ViewSpec
from skalto.core.sources.drawings.drawing import UNITS, DrawingFacts
from skalto.core.sources.drawings.excerpt import Excerpt
from skalto.core.sources.drawings.retexting import Written, texts_of
from skalto.core.sources.drawings.snapping import snap_places
from skalto.core.sources.section import SourceRef
from skalto.jobs.queue import WorkState
from skalto.services.stored import keys
from skalto.services.tasks.reading import DrawFinishedPage, DrawPreview, draw_finished_page, draw_preview
from skalto.services.tasks.writing import WriteArtwork, write_artwork
from skalto.services.use_cases.recipes import recipe_of
from skalto.services.use_cases.studio import Awaited, Studio, anew, short_id
from skalto.store import jobs as store
from skalto.store.jobs import StoredJob

MOST_TEXTS = 4000
MOST_POINTS = 30_000
"""So many places of a drawing are sent to a page to snap to; of more, the first ones drawn."""


class Drawings:
    """The use cases of 2D sources, on top of a :class:`Studio`."""

    def __init__(self, studio: Studio) -> None:
        self.studio = studio

    def facts(self, job_id: int, source: str) -> tuple[DrawingFacts, float | None]:
        """What a drawing holds, and the mm of its unit in this job; None while nobody has said it."""
        known = store.get_job(job_id).document.source(source)
        facts = self.studio.drawing(source)
        return facts, known.unit_mm or facts.unit_mm

    def candidates(self, source: str) -> list[tuple[str, float, tuple[float, float]]]:
        """For a drawing without a unit: each candidate, its mm, and how large the drawing would be, mm."""
        facts = self.studio.drawing(source)
        box = facts.spaces[0].box or (0.0, 0.0, 0.0, 0.0)
        width, height = box[2] - box[0], box[3] - box[1]
        return [(name, mm, (width * mm, height * mm)) for name, mm in UNITS.items()]

    def unit(self, ref: SourceRef, space: str = "") -> float:
        """The mm of a drawing's unit. :raises InputError: while nobody has said it."""
        return unit_of(self.studio.drawing(ref.id), space, ref.unit_mm, ref.name)

    def set_scale(self, job_id: int, source: str, measured: float, length_mm: float) -> tuple[StoredJob, str, float]:
        """Say how long a distance on the drawing really is: the job, the nearest standard scale of a drawing on paper, and the
        exact mm of a unit.

        :param measured: the distance between two picked points, in the drawing's own units. :param length_mm: its length.
        :raises InputError: for no distance.
        """
        if not measured > 0 or not length_mm > 0:
            raise InputError("Pick two points apart, and type the length between them.")
        unit = length_mm / measured
        job = self.studio.edit(job_id, SetUnit(kind="set_unit", source=source, unit_mm=unit))
        return job, str(nearest_scale(unit)), unit

    def picture(self, source: str, space: str, again: bool = False) -> bytes | Awaited:
        """One picture of the file, all layers, in its own units; or the work that makes it."""
        facts = self.studio.drawing(source)
        excerpt = Excerpt(space=space)
        try:
            facts.space(space)
        except KeyError:
            raise InputError(f"The drawing has no page {space}: choose another.") from None
        view = ViewSpec(id="source", source=source, name="", content=DrawingContent(excerpt=excerpt))
        return self.studio.view_picture(view, again)

    def preview(self, source: str, space: str) -> tuple[bytes | None, WorkState | None]:
        """A page of the file as a small PNG; or how far the work is that draws it.

        :raises InputError: when there is no such page.
        """
        page = next((own for own in self.studio.drawing(source).spaces if own.name == space), None)
        if page is None or page.paper is None:
            raise InputError(f"The drawing has no page {space}: choose another.")
        asked = DrawPreview(source=source, space=space)
        try:
            return self.studio.blobs.get(asked.key), None
        except KeyError:
            pass
        known = self.studio.queue.state(asked.key)
        if known is not None and known.state in ("failed", "cancelled"):
            return None, known
        return None, self.studio.queue.submit(draw_preview, asked)

    def points(self, source: str, space: str) -> tuple[Array, Array]:
        """What can be snapped to on one picture of a drawing, in its own units: ends (n, 2) and centres (m, 2), at most
        :data:`MOST_POINTS` each.

        :raises InputError: when the drawing has no such page.
        """
        names = [own.name for own in self.studio.drawing(source).spaces]
        if space not in names:
            raise InputError(f"The drawing has no page {space}: choose another.")
        artwork = Artwork.from_bytes(self.studio.blobs.get(keys.model_key(source, f"space-{names.index(space)}.art")))
        ends, centres = snap_places(artwork)
        return ends[:MOST_POINTS], centres[:MOST_POINTS]

    def texts(self, job_id: int, sheet_id: str, view_id: str) -> list[tuple[Written, str | None]]:
        """The texts of an excerpt's drawing that lie in its region, on layers that are on, at most :data:`MOST_TEXTS`, each
        with the words that stand in its place here.

        :raises InputError: for a view that is no excerpt.
        """
        try:
            view = store.get_job(job_id).document.sheet(sheet_id).view(view_id)
        except KeyError:
            raise NotThere("This view is no longer on the sheet: choose another.") from None
        if view.excerpt is None:
            raise InputError("Only a drawing view has texts: choose one.")
        excerpt = view.excerpt
        number = [own.name for own in self.studio.drawing(view.source).spaces].index(excerpt.space)
        artwork = Artwork.from_bytes(self.studio.blobs.get(keys.model_key(view.source, f"space-{number}.art")))
        found = []
        for own in texts_of(artwork):
            if own.layer in excerpt.off or not excerpt.covers(own.place):
                continue
            found.append((own, excerpt.texts.get(own.key)))
        # those that were written anew first, whatever else there is
        return sorted(found, key=lambda row: row[1] is None)[:MOST_TEXTS]

    @anew
    def put_excerpt(
        self,
        job_id: int,
        source: str,
        sheet_id: str | None,
        space: str = "",
        region: Box | None = None,
        name: str = "",
        off: frozenset[str] | None = None,
    ) -> tuple[StoredJob, str, str]:
        """Put an excerpt on a sheet (a new one where *sheet_id* is None): the job, the sheet's and the view's id.

        :param region: mm of the drawing; None for everything drawn. :param off: layers; None for those that the file would not
            print.
        :raises InputError: when source, page or sheet are not there, or the unit is not known.
        """
        job = store.get_job(job_id)
        ref = job.document.source(source)
        facts = self.studio.drawing(source)
        try:
            facts.space(space)
        except KeyError:
            raise InputError(f"The drawing has no page {space}: choose another.") from None
        unit = self.unit(ref, space)
        excerpt = Excerpt(space=space, unit=unit, region=region, off=facts.hidden_layers() if off is None else off)
        sheet = (
            job.document.sheet(sheet_id)
            if sheet_id is not None
            else first_sheet(short_id(), f"Sheet {len(job.document.sheets) + 1}", facts.unit)
        )
        taken = [box for view in sheet.views if (box := self.studio.rough_box(view)) is not None]
        label = name.strip() or str(1 + sum(view.excerpt is not None for view in sheet.views))
        view, scale = new_excerpt(short_id(), source, label, facts, excerpt, sheet, taken)
        return self.studio.added(job, sheet, view, scale, sheet_id is None), sheet.id, view.id

    def put_page(self, job_id: int, source: str, space: str, off: frozenset[str] | None = None) -> tuple[StoredJob, str]:
        """Make a sheet of a page saved in the file: the job and the sheet's id."""
        ref = store.get_job(job_id).document.source(source)
        facts = self.studio.drawing(source)
        try:
            page = facts.space(space)
        except KeyError:
            raise InputError(f"The drawing has no page {space}: choose another.") from None
        sheet = page_sheet(short_id(), source, facts, page, self.unit(ref), facts.hidden_layers() if off is None else off)
        return self.studio.edit(job_id, AddSheet(kind="add_sheet", sheet=sheet)), sheet.id

    def put_finished(self, job_id: int, source: str, space: str) -> tuple[StoredJob, str]:
        """Make a sheet that lies on a page of a PDF, which stays as it is: the job and the sheet's id.

        :raises InputError: for a drawing that is no PDF, a page that is not there, and a file that nothing can be added to.
        """
        ref = store.get_job(job_id).document.source(source)
        facts = self.studio.drawing(source)
        if facts.kind != "pdf":
            raise InputError(f"{ref.name} is no PDF: what is finished can be added to in a PDF alone.")
        names = [own.name for own in facts.spaces if own.paper is not None]
        if space not in names:
            raise InputError(f"The drawing has no page {space}: choose another.")
        number = names.index(space) + 1
        data = self.studio.blobs.get(keys.file_key(source))
        place = place_of(data, number)
        sound_for(data, number)
        page = FinishedPage(source=source, page=number, signatures=signatures_of(data))
        sheet = finished_sheet(short_id(), f"{Path(ref.name).stem}, page {number}", page, (place.width, place.height))
        return self.studio.edit(job_id, AddSheet(kind="add_sheet", sheet=sheet)), sheet.id

    def finished_page(self, source: str, number: int) -> tuple[dict[str, Any] | None, WorkState | None]:
        """A page of a PDF, from 1, as a picture of the desk and with the lines that an area on it snaps to; or how far the
        work is.

        :raises InputError: when there is no such page.
        """
        asked = DrawFinishedPage(source=source, number=number)
        if self.studio.blobs.exists(f"{asked.key}.json"):
            return json.loads(self.studio.blobs.get(f"{asked.key}.json")), None
        known = self.studio.queue.state(asked.key)
        if known is not None and known.state in ("failed", "cancelled"):
            self.studio.queue.forget(asked.key)
            if known.state == "failed":
                raise InputError(known.error)
        return None, self.studio.queue.submit(draw_finished_page, asked)

    def finished_picture(self, source: str, number: int) -> bytes:
        """Its picture, a PNG. :raises NotThere: when it is not made."""
        try:
            return self.studio.blobs.get(f"{DrawFinishedPage(source=source, number=number).key}.png")
        except KeyError:
            raise NotThere("There is no such picture.") from None

    def put_pages(self, job_id: int, source: str, off: frozenset[str] | None = None) -> tuple[StoredJob, tuple[str, ...]]:
        """Make sheets of all pages of a file, in order, in one step: the job and the sheets' ids.

        :raises InputError: when the file has no page with a size.
        """
        ref = store.get_job(job_id).document.source(source)
        facts = self.studio.drawing(source)
        hidden = facts.hidden_layers() if off is None else off
        pages = [page for page in facts.spaces if page.paper is not None and (page.name or facts.kind == "pdf")]
        sheets = []
        for page in pages:
            if facts.kind == "pdf":
                # a page that says no scale is as large as it is
                scale = float(1 / Scale.parse(page.scale)) if page.scale else 1.0
                sheets.append(whole_page_sheet(short_id(), source, page, ref.unit_mm or scale, hidden))
            else:
                sheets.append(page_sheet(short_id(), source, facts, page, self.unit(ref), hidden))
        if not sheets:
            raise InputError(f"{ref.name} has no pages of its own: put the drawing on a sheet of yours.")
        changed = self.studio.edit(job_id, AddSheets(kind="add_sheets", sheets=tuple(sheets)))
        return changed, tuple(sheet.id for sheet in sheets)

    def declared(self, job_id: int, source: str, space: str) -> Box:
        """The area that the file declares, mm of the drawing. :raises InputError: when it declares none."""
        ref = store.get_job(job_id).document.source(source)
        box = self.studio.drawing(source).space(space).declared
        if box is None:
            raise InputError(f"{ref.name} declares no area: take everything, or pick a region.")
        unit = self.unit(ref, space)
        x0, y0, x1, y1 = (v * unit for v in box)
        return x0, y0, x1, y1

    # Artwork files

    def _artwork(self, job_id: int, sheet_id: str, view_id: str, name: str) -> WriteArtwork:
        wanted = stroke_format(name)
        job = store.get_job(job_id)
        sheet = job.document.sheet(sheet_id)
        if not sheet.views and not (sheet.cutting and sheet.cutting.placed):
            raise InputError(f"{sheet.name} is empty: put a view on it first.")
        if view_id and view_id not in {view.id for view in sheet.views}:
            raise NotThere("This view is no longer on the sheet: choose another.")
        context = self.studio.context(job, sheet)
        return WriteArtwork(sheet=sheet, context=context, recipe=recipe_of(sheet.recipe), format=wanted.name, view=view_id)

    def artwork(self, job_id: int, sheet_id: str, view_id: str, name: str) -> tuple[str, WorkState | None]:
        """A sheet, or one view of it, in a format of strokes by its *name*: its key, and how far the work is; None once it is
        there.

        :raises InputError: when there is nothing to write, or the writing failed.
        """
        asked = self._artwork(job_id, sheet_id, view_id, name)
        if self.studio.blobs.exists(f"{asked.key}.json"):
            return asked.key, None
        known = self.studio.queue.state(asked.key)
        if known is not None and known.state in ("failed", "cancelled"):
            self.studio.queue.forget(asked.key)
            if known.state == "failed":
                raise InputError(known.error)
        return asked.key, self.studio.queue.submit(write_artwork, asked)

    def artwork_file(self, job_id: int, sheet_id: str, view_id: str, format_name: str) -> tuple[str, bytes]:
        """File name and bytes of a finished artwork file. :raises InputError: when it is not made yet."""
        key, suffix = self._artwork(job_id, sheet_id, view_id, format_name).key, stroke_format(format_name).suffix
        if not self.studio.blobs.exists(f"{key}.json"):
            raise InputError("This file is not made yet: ask for it first.")
        job = store.get_job(job_id)
        sheet = job.document.sheet(sheet_id)
        parts = [job.document.name, sheet.name, *([sheet.view(view_id).title] if view_id else [])]
        safe = "".join(c if c.isalnum() or c in " -_" else "_" for c in " ".join(parts))
        return f"{safe.strip().replace(' ', '_')}{suffix}", self.studio.blobs.get(f"{key}{suffix}")


def unit_of(facts: DrawingFacts, space: str, said: float | None, name: str) -> float:
    """The mm of the drawing that a unit of one of its pictures is: a saved page's paper, what a person *said*, the scale that a
    page carries, or what the file says.

    :raises InputError: while nobody has said it.
    """
    known = facts.space(space)
    if facts.kind == "dxf" and space:
        return known.unit
    unit = said or (float(1 / Scale.parse(known.scale)) if known.scale else facts.unit_mm)
    if unit is None:
        what = "its scale: pick two points and type the length between them" if facts.kind == "pdf" else "its unit: choose it"
        raise InputError(f"{name} does not say {what} on the Source stop first.")
    return unit


def nearest_scale(unit: float) -> Scale:
    """The scale of ISO 5455 nearest to that of a drawing whose paper millimetre is *unit* mm."""
    return min(PREFERRED_SCALES, key=lambda scale: abs(math.log(float(scale) * unit)))
