"""What a drafter does at the desk: pull views, cut sections, dimension, align, see what is written, take a newer revision."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from skalto.core.annotation.balloons import RADIUS as BALLOON
from skalto.core.annotation.dimension_inference import choose, shifted
from skalto.core.annotation.dimension_values import Frame, measure
from skalto.core.annotation.edges_in_view import Pickable, pickable
from skalto.core.errors import InputError, NotThere
from skalto.core.geometry import Box
from skalto.core.job import JobDocument
from skalto.core.layout import families
from skalto.core.layout.arrangement import free_place, new_view, offered_scales, room_for_views, shown_box
from skalto.core.layout.format_change import fitted
from skalto.core.layout.sections_3d import PlaneInModel
from skalto.core.output.picture import Picture, to_picture
from skalto.core.pages.composition import compose
from skalto.core.pages.page import Page, ViewLines
from skalto.core.pages.page_annotations import Written, note_box, shown_paths, write
from skalto.core.pages.placed_views import facts_of_view, frame_of, place_view, seen_of
from skalto.core.pens import Pens
from skalto.core.quantities import Scale
from skalto.core.revising import RevisionReport, revised
from skalto.core.scene.views import Cut
from skalto.core.sheets.annotations import Detail, Dimension, DimensionKind, Point, Ref, Section, refuse_short
from skalto.core.sheets.sheet import SheetSpec, ViewSpec
from skalto.core.sources.models.parts import Item, items, uncut_by_custom
from skalto.core.sources.section import SourceRef
from skalto.services.stored import keys
from skalto.services.stored.lines import shade_spec, unpack_lines
from skalto.services.tasks.views import ShadeView, shade_view
from skalto.services.use_cases.studio import Studio, anew, short_id
from skalto.store import jobs as store
from skalto.store.jobs import StoredJob

Alignment = Literal["left", "right", "top", "bottom", "upright middle", "level middle", "spread across", "spread upright"]


@dataclass(frozen=True, eq=False)
class SheetWriting:
    """What is written on a sheet as it is now, for the desk: pictures in sheet mm, boxes, and what is told.

    *pending* are views whose lines are not there yet.
    """

    page: Page
    written: Written
    frame: Picture
    marks: dict[str, Picture]
    pending: tuple[str, ...]


@dataclass(frozen=True)
class Pull:
    """A view that another would give: its name, the direction on the sheet in which it is pulled, whether it stays in line
    with its parent, and the box that it takes about its place, mm."""

    name: str
    toward: Point
    straight: bool
    box: Box


_TITLED = 12.0
"""What a section's title takes beneath it, mm."""
_FAR = 100.0
"""How far views are pulled to see what they would be, mm."""


class Desk:
    """The use cases of the desk, on top of a :class:`Studio`."""

    def __init__(self, studio: Studio) -> None:
        self.studio = studio
        self._kept: dict[str, ViewLines] = {}
        studio.replacing = self.replace_source

    def _lines(self, view: ViewSpec) -> ViewLines | None:
        key = keys.view_key(view.source, view.lines())
        if key not in self._kept:
            try:
                lines = unpack_lines(self.studio.blobs.get(f"{key}.lines"))
            except KeyError:
                return None
            if len(self._kept) > 24:
                self._kept.pop(next(iter(self._kept)))
            self._kept[key] = lines
        return self._kept[key]

    def _here(self, job_id: int, sheet_id: str, view_id: str) -> tuple[StoredJob, SheetSpec, ViewSpec]:
        job = store.get_job(job_id)
        sheet = job.document.sheet(sheet_id)
        try:
            return job, sheet, sheet.view(view_id)
        except KeyError:
            raise NotThere("This view is no longer on the sheet: choose another.") from None

    def _drawn(self, job_id: int, sheet_id: str, view_id: str) -> tuple[SheetSpec, ViewSpec, ViewLines] | None:
        """A view with its sheet and lines; None while it is not drawn, or when it was just taken off."""
        try:
            _, sheet, view = self._here(job_id, sheet_id, view_id)
        except InputError:
            return None
        lines = self._lines(view)
        return None if lines is None else (sheet, view, lines)

    def writing(self, job_id: int, sheet_id: str) -> SheetWriting:
        """Everything on a sheet but its views' own lines."""
        job = store.get_job(job_id)
        sheet = job.document.sheet(sheet_id)
        lines = {view.id: own for view in sheet.views if (own := self._lines(view)) is not None}
        context = self.studio.context(job, sheet).built(self.studio.blobs, (view.source for view in sheet.views))
        # views whose lines are on their way are left out, and what hangs on them
        bare = compose(sheet.model_copy(update={"clean": True}), lines)
        bare = replace(bare, pens=context.pens, sources=context.sources, inside=sheet.frame_box())
        page, written = write(bare, sheet, lines, context)
        pens = Pens(page.pens)
        marks = {placed.spec.id: to_picture(placed.marks, pens) for placed in page.views}
        pending = tuple(view.id for view in sheet.views if view.id not in lines)
        return SheetWriting(page, written, to_picture(page.frame, pens), marks, pending)

    def _frame(self, view: ViewSpec) -> tuple[Frame, ViewLines]:
        lines = self._lines(view)
        if lines is None:
            raise InputError("This view is not drawn yet: wait until its lines are there.")
        return frame_of(view, lines), lines

    # Families

    def _add(self, job_id: int, sheet: SheetSpec, view: ViewSpec) -> tuple[StoredJob, str]:
        def make(document: JobDocument) -> JobDocument:
            now = document.sheet(sheet.id)
            return document.with_sheet(families.refreshed(now.with_views((*now.views, view)), self.studio.middle))

        return self.studio.change(job_id, f"add {view.title}", make), view.id

    def pull(self, job_id: int, sheet_id: str, view_id: str, place: Point) -> tuple[StoredJob, str]:
        """Pull a view away from another. :raises InputError: when it was not pulled away, or from a section's detail."""
        _, sheet, parent = self._here(job_id, sheet_id, view_id)
        families.refuse_drawing(parent)
        if parent.detail is not None:
            raise InputError("A detail has no views of its own: pull from the view that it belongs to.")
        return self._add(job_id, sheet, families.pull_view(sheet, parent, short_id(), place, self.studio.middle))

    def pulls(self, job_id: int, sheet_id: str, view_id: str) -> list[Pull]:
        """What views a view would give, pulled to each of eight sides; none from a drawing or a detail."""
        _, sheet, parent = self._here(job_id, sheet_id, view_id)
        found = []
        for eighth in range(8):
            angle = math.radians(45 * eighth + parent.rotation)
            toward = (math.cos(angle), math.sin(angle))
            place = (parent.place[0] + toward[0] * _FAR, parent.place[1] + toward[1] * _FAR)
            try:
                families.refuse_drawing(parent)
                view = families.pull_view(sheet, parent, "pulled", place, self.studio.middle)
            except InputError:
                return []
            box = self.studio.rough_box(view)
            if box is not None and parent.detail is None:
                (x, y), (x0, y0, x1, y1) = view.place, box
                found.append(Pull(view.name, toward, eighth % 2 == 0, (x0 - x, y0 - y, x1 - x, y1 - y)))
        return found

    def section(self, job_id: int, sheet_id: str, view_id: str, start: Point, end: Point) -> tuple[StoredJob, str]:
        """Cut a view by a plane whose trace runs from *start* to *end*, sheet mm; fasteners and shafts stay whole."""
        job, sheet, parent = self._here(job_id, sheet_id, view_id)
        families.refuse_drawing(parent)
        frame, _ = self._frame(parent)
        a, b = (tuple(round(v, 3) for v in frame.by.back(np.array(p)).tolist()) for p in (start, end))
        trial = Section(letter=families.next_letter(sheet.views), start=(a[0], a[1]), end=(b[0], b[1]))
        refuse_short(trial)
        pulled = families.section_pull(trial, sheet.arrangement)
        look, _ = families.pulled_look(frame.axes, pulled, sheet.arrangement)
        tree = self.studio.facts(parent.source).tree
        section = trial.model_copy(update={"uncut": uncut_by_custom(tree, job.document.parts, look)})
        away = self._room_away(sheet, parent, pulled)
        return self._add(job_id, sheet, families.section_view(sheet, parent, short_id(), section, away, self.studio.middle))

    def section_of_3d(
        self, job_id: int, sheet_id: str, annotation_id: str, cut: Cut, middle: tuple[float, float, float]
    ) -> tuple[StoredJob, str]:
        """A section view where a 3D annotation is cut, at the sheet's scale; with it the view that it is taken from, where the
        sheet has none that shows the plane as a line. One step.

        :param middle: of the box of the model as it stands in 3D, mm: planes are tilted about it.
        """
        job = store.get_job(job_id)
        sheet = job.document.sheet(sheet_id)
        annotation = sheet.annotation_3d(annotation_id)
        tree = self.studio.facts(annotation.source).tree
        plane = PlaneInModel.of(annotation, cut, np.asarray(middle, float))
        parent = plane.parent(sheet, annotation.source)
        new: tuple[ViewSpec, ...] = ()
        if parent is None:
            taken = [box for view in sheet.views if (box := self.studio.rough_box(view)) is not None]
            taken += [own.box for own in sheet.annotations_3d]
            hidden = annotation.choices.hidden
            parent, scale = new_view(short_id(), annotation.source, tree, plane.viewpoint(), sheet, taken, hidden)
            sheet = sheet.model_copy(update={"views": (*sheet.views, parent), "scale": scale})
            new = (parent,)
        shown = shown_box(tree, parent.hidden)
        if shown is None:
            raise InputError("Nothing is left of the model in this view: show a part, then cut it.")
        section = plane.section(sheet, parent.axes_of_plane(), *shown)
        pulled = families.section_pull(section, sheet.arrangement)
        look, _ = families.pulled_look(parent.axes_of_plane(), pulled, sheet.arrangement)
        section = section.model_copy(update={"uncut": uncut_by_custom(tree, job.document.parts, look)})
        rough = self.studio.rough_box(parent)
        size = 100.0 if rough is None else (rough[2] - rough[0]) * abs(pulled[0]) + (rough[3] - rough[1]) * abs(pulled[1])
        made = families.section_view(sheet, parent, short_id(), section, round(size + 25.0, 1), self.studio.middle)

        made = self._on_paper(sheet, made)

        def put(document: JobDocument) -> JobDocument:
            now = document.sheet(sheet.id).model_copy(update={"scale": sheet.scale})
            return document.with_sheet(families.refreshed(now.with_views((*now.views, *new, made)), self.studio.middle))

        return self.studio.change(job_id, f"add {made.title}", put), made.id

    def _on_paper(self, sheet: SheetSpec, made: ViewSpec) -> ViewSpec:
        """A view in line with its parent; where that is beyond the room for views, in free room instead."""
        box, within = self.studio.rough_box(made), room_for_views(sheet)
        if box is None or (min(box[0] - within[0], box[1] - within[1], within[2] - box[2], within[3] - box[3]) >= 0):
            return made

        taken = [own for view in sheet.views if (own := self.studio.rough_box(view)) is not None]
        taken += [own.box for own in sheet.annotations_3d]
        place = free_place(np.array((box[2] - box[0], box[3] - box[1] + _TITLED)), taken, within)
        return made.model_copy(update={"place": place, "overrides": made.overrides | {"place"}})

    def _room_away(self, sheet: SheetSpec, parent: ViewSpec, pulled: Point) -> float:
        """How far from its parent a new view clears it, mm."""
        lines = self._lines(parent)
        box = place_view(parent, lines).box if lines else None
        if box is None:
            return 100.0
        size = (box[2] - box[0]) * abs(pulled[0]) + (box[3] - box[1]) * abs(pulled[1])
        return round(size + 25.0, 1)

    def detail(self, job_id: int, sheet_id: str, view_id: str, centre: Point, radius: float) -> tuple[StoredJob, str]:
        """Show a circle of a view, sheet mm, at the next larger preferred scale that makes it at least twice as large."""
        _, sheet, parent = self._here(job_id, sheet_id, view_id)
        if not 0.5 <= radius <= 5000:
            raise InputError("Draw the circle of a detail from its centre outward, at least half a millimetre.")
        frame, _ = self._frame(parent)
        x, y = frame.by.back(np.array(centre)).tolist()
        detail = Detail(
            letter=families.next_letter(sheet.views),
            centre=(round(x, 3), round(y, 3)),
            radius=round(radius / frame.by.scale, 3),
        )
        scale = _enlarged(parent)
        size = 2 * detail.radius * float(scale)
        place = self._free_spot(sheet, size)
        return self._add(job_id, sheet, families.detail_view(sheet, parent, short_id(), detail, scale, place))

    def _free_spot(self, sheet: SheetSpec, size: float) -> Point:

        lines = ((view, self._lines(view)) for view in sheet.views)
        taken = [box for view, own in lines if own is not None and (box := place_view(view, own).box) is not None]
        return free_place(np.array((size, size + 12)), taken, room_for_views(sheet))

    @anew
    def fit(self, job_id: int, sheet_id: str, margin: float) -> StoredJob:
        """Cut a sheet to its contents with *margin* mm around them. :raises InputError: when it is empty, or while views are
        not drawn yet."""
        job = store.get_job(job_id)
        writing = self.writing(job_id, sheet_id)
        if writing.pending:
            raise InputError("Not all views are drawn yet: wait until their lines are there.")
        sheet = job.document.sheet(sheet_id)
        boxes: list[Box] = [
            (*field.place, field.place[0] + field.size[0], field.place[1] + field.size[1]) for field in sheet.annotations_3d
        ]
        for placed in writing.page.views:
            boxes += [box for box in (placed.box, placed.marks.bounds()) if box is not None]
        boxes += [(x - BALLOON, y - BALLOON, x + BALLOON, y + BALLOON) for x, y in (b.place for b in writing.written.balloons)]
        boxes += [note_box(note) for note in sheet.notes if note.always or not sheet.clean]
        if not boxes:
            raise InputError("This sheet is empty: put a view on it first.")
        rows = np.array(boxes)
        (x0, y0), (x1, y1) = rows[:, :2].min(axis=0).tolist(), rows[:, 2:].max(axis=0).tolist()
        made = fitted(sheet, (x0, y0, x1, y1), margin)
        return self.studio.change(job_id, f"fit {sheet.name} to its contents", lambda d: d.with_sheet(made), job)

    def align(self, job_id: int, sheet_id: str, views: tuple[str, ...], how: Alignment) -> StoredJob:
        """Line several views up by their drawn boxes, or spread them evenly. :raises InputError: for fewer than two."""
        job = store.get_job(job_id)
        sheet = job.document.sheet(sheet_id)
        boxes: dict[str, Box] = {}
        for view in sheet.views:
            lines = self._lines(view) if view.id in views else None
            box = place_view(view, lines).box if lines is not None else None
            if box is not None:
                boxes[view.id] = box
        moves = _alignment(boxes, how)
        return self.studio.change(
            job_id, f"align {len(boxes)} views", lambda d: d.with_sheet(families.moved(d.sheet(sheet_id), moves))
        )

    # Dimensions

    def pickable(self, job_id: int, sheet_id: str, view_id: str) -> list[Pickable] | None:
        """The edges of a view that a dimension can be attached to, sheet mm; None while the view is not drawn yet."""
        found = self._drawn(job_id, sheet_id, view_id)
        if found is None:
            return None
        _, view, lines = found
        if view.content.dimensioned != "edges":
            return []
        frame = frame_of(view, lines)
        facts = facts_of_view(view, lines, self.studio.facts(view.source))
        return pickable(frame, facts, shown_paths(view, facts), seen_of(view, lines))

    def dimension(
        self, job_id: int, sheet_id: str, view_id: str, first: Ref, second: Ref | None, at: Point, kind: DimensionKind | None
    ) -> tuple[StoredJob, str]:
        """Attach a dimension to what was picked, its figure at *at*, sheet mm."""
        _, _, view = self._here(job_id, sheet_id, view_id)
        if view.content.dimensioned != "edges":
            raise InputError(f"The {view.title} has no edges of a model to dimension: add its overall sizes instead.")
        frame, lines = self._frame(view)
        facts = facts_of_view(view, lines, self.studio.facts(view.source))
        made = choose(frame, facts, short_id(), first, second, at, kind)
        return self._with_dimensions(job_id, sheet_id, view_id, (made,)), made.id

    def shift_dimension(self, job_id: int, sheet_id: str, view_id: str, dimension_id: str, by: Point) -> StoredJob:
        """Move a dimension's figure by so many mm on the sheet. :raises InputError: when it is not there or lost its edge."""
        _, _, view = self._here(job_id, sheet_id, view_id)
        frame, lines = self._frame(view)
        facts = facts_of_view(view, lines, self.studio.facts(view.source))
        found = next((d for d in view.dimensions if d.id == dimension_id), None)
        measured = measure(found, frame, facts) if found else None
        if found is None or measured is None:
            raise InputError("This dimension has lost its edge: attach it anew or remove it.")
        moved = shifted(found, measured, by)

        def make(document: JobDocument) -> JobDocument:
            sheet = document.sheet(sheet_id)
            own = sheet.view(view_id)
            dimensions = tuple(moved if d.id == dimension_id else d for d in own.dimensions)
            kept = own.model_copy(update={"dimensions": dimensions})
            return document.with_sheet(sheet.with_views(tuple(kept if v.id == view_id else v for v in sheet.views)))

        return self.studio.change(job_id, "move dimension", make)

    def overall(self, job_id: int, sheet_id: str, view_id: str) -> StoredJob:
        """Width and height over all, in one act; those that are there stay. :raises InputError: when nothing is drawn."""
        _, _, view = self._here(job_id, sheet_id, view_id)
        self._frame(view)
        there = {d.kind for d in view.dimensions}
        wanted = overall_dimensions(view)
        return self._with_dimensions(job_id, sheet_id, view_id, tuple(d for d in wanted if d.kind not in there))

    def _with_dimensions(self, job_id: int, sheet_id: str, view_id: str, new: tuple[Dimension, ...]) -> StoredJob:
        def make(document: JobDocument) -> JobDocument:
            sheet = document.sheet(sheet_id)
            views = tuple(
                v.model_copy(update={"dimensions": (*v.dimensions, *new)}) if v.id == view_id else v for v in sheet.views
            )
            return document.with_sheet(sheet.with_views(views))

        return self.studio.change(job_id, "dimension", make)

    # Facts for the ticket

    def scales(self, job_id: int, sheet_id: str, view_id: str) -> tuple[str | None, str, tuple[float, float]] | None:
        """The largest preferred scale at which a view fits the room on its sheet, the largest at all, and its size in the
        model, mm; a view that draws nothing has no size and stays at 1:1. None while the view is not drawn yet."""
        found = self._drawn(job_id, sheet_id, view_id)
        if found is None:
            return None
        sheet, view, lines = found
        box = seen_of(view, lines).bounds()
        if view.excerpt is not None and view.excerpt.region is not None:
            box = view.excerpt.region
        if box is None:
            return None, "1:1", (0.0, 0.0)
        size = np.array((box[2] - box[0], box[3] - box[1]))
        if view.detail is not None:
            size = np.full(2, 2 * view.detail.radius)
        angle = math.radians(view.rotation)
        cos, sin = abs(math.cos(angle)), abs(math.sin(angle))
        turned = np.array((size[0] * cos + size[1] * sin, size[0] * sin + size[1] * cos))
        preferred, exact = offered_scales(turned, room_for_views(sheet))
        return preferred, exact, (float(size[0]), float(size[1]))

    def items(self, job_id: int, source: str) -> list[Item]:
        """The parts of a source with what the job says of them."""
        return items(self.studio.facts(source).tree, store.get_job(job_id).document.parts)

    def shade(self, job_id: int, sheet_id: str, view_id: str) -> tuple[bytes, Box] | None:
        """The shaded picture of a view with its box in the view's plane; None while it is being made, or when the view was
        just taken off."""
        try:
            job, _, view = self._here(job_id, sheet_id, view_id)
        except InputError:
            return None
        asked = ShadeView(source=view.source, spec=shade_spec(view, job.document.colours))
        key = asked.key
        if not self.studio.blobs.exists(f"{key}.json"):
            known = self.studio.queue.state(key)
            if known is not None and known.state == "failed":
                raise InputError(known.error)
            if self.studio.reading(view.source) is None:
                self.studio.queue.submit(shade_view, asked)
            return None
        import orjson

        box = orjson.loads(self.studio.blobs.get(f"{key}.json"))["box"]
        return self.studio.blobs.get(f"{key}.png"), (box[0], box[1], box[2], box[3])

    # Revisions

    def replace_source(self, job_id: int, old: str, new: SourceRef) -> tuple[StoredJob, RevisionReport]:
        """Put a newer revision in the place of a source on every sheet; dimensions find their edges again, and what
        changed or was lost is reported.

        :raises InputError: when either is not in the job, or they are of different kinds.
        """
        before, after = self.studio.facts(old), self.studio.facts(new.id)
        reports: list[RevisionReport] = []

        def make(document: JobDocument) -> JobDocument:
            changed, report = revised(document, old, new, before, after, self._measured)
            reports.append(report)
            return changed.model_copy(
                update={
                    "sources": tuple(
                        s.model_copy(update={"news": report.text()}) if s.id == new.id else s for s in changed.sources
                    )
                }
            )

        job = self.studio.change(job_id, f"new revision of {store.get_job(job_id).document.source(old).name}", make)
        return job, reports[0]

    def _measured(self, view: ViewSpec, dimension: Dimension) -> float | None:
        """A dimension's value as the drawing has it now; None when the view is not drawn or the edge is lost."""
        lines = self._lines(view)
        if lines is None:
            return None
        found = measure(dimension, frame_of(view, lines), self.studio.facts(view.source))
        return None if found is None else found.value


def overall_dimensions(view: ViewSpec) -> tuple[Dimension, ...]:
    """Width below and height at the left, 12 mm away."""
    return (
        Dimension(id=short_id(), kind=DimensionKind.WIDTH, offset=-12.0),
        Dimension(id=short_id(), kind=DimensionKind.HEIGHT, offset=12.0),
    )


def _enlarged(parent: ViewSpec) -> Scale:
    from skalto.core.quantities import PREFERRED_SCALES

    larger = [s for s in PREFERRED_SCALES if s >= parent.scale * 2]
    return min(larger) if larger else Scale(parent.scale * 2)


def _alignment(boxes: dict[str, Box], how: Alignment) -> dict[str, Point]:
    """By how many mm each view moves, (dx, dy)."""
    if len(boxes) < 2:
        raise InputError("Select at least two views that are drawn: press Shift and click them.")
    every = np.array(list(boxes.values()))
    low, high = every[:, :2].min(axis=0), every[:, 2:].max(axis=0)
    moves: dict[str, Point] = {}
    if how in ("spread across", "spread upright"):
        axis = 0 if how == "spread across" else 1
        order = sorted(boxes, key=lambda v: boxes[v][axis] + boxes[v][axis + 2])
        sizes = [boxes[v][axis + 2] - boxes[v][axis] for v in order]
        gap = (high[axis] - low[axis] - sum(sizes)) / (len(order) - 1)
        at = low[axis]
        for view, size in zip(order, sizes, strict=True):
            by = float(at - boxes[view][axis])
            moves[view] = (by, 0.0) if axis == 0 else (0.0, by)
            at += size + gap
        return moves
    for view, (x0, y0, x1, y1) in boxes.items():
        across = {"left": low[0] - x0, "right": high[0] - x1, "upright middle": (low[0] + high[0] - x0 - x1) / 2}.get(how, 0.0)
        up = {"bottom": low[1] - y0, "top": high[1] - y1, "level middle": (low[1] + high[1] - y0 - y1) / 2}.get(how, 0.0)
        moves[view] = (float(across), float(up))
    return moves
