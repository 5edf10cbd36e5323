"""Cutting at the desk: flat parts found, cutting lists made, parts arranged, plates weighed up and run in the stand-in
cutter."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np
import orjson
from pydantic import BaseModel, ConfigDict, Field, field_validator

from skalto.core.cutter.machine import Machine
from skalto.core.cutting.choices import Codes, CutChoices, Plate
from skalto.core.cutting.decorations import Decoration, ExcerptContent
from skalto.core.cutting.drawn_as import DrawnAs
from skalto.core.cutting.parts_list import read_parts_list
from skalto.core.cutting.remnants import remnant_of
from skalto.core.cutting.section import ComponentOrigin, ContoursOrigin, CutList, CutPart
from skalto.core.edits.of_cutting import AddCutList, AddDecoration, ChangeCutList, CutListPatch
from skalto.core.errors import InputError
from skalto.core.job import JobDocument
from skalto.core.packs import safe
from skalto.core.sheet_metal.choices import UnfoldChoices
from skalto.core.sheets.sheet import SheetSpec
from skalto.core.sources.drawings.excerpt import Excerpt
from skalto.core.typed import Text
from skalto.core.viewpoint import STANDARD
from skalto.services.stored.profiles import load_excerpts, load_profiles
from skalto.services.tasks.cutting import (
    ArrangeParts,
    FindFlatParts,
    MakeProfiles,
    RunInCutter,
    arrange_parts,
    find_flat_parts,
    make_profiles,
    run_in_cutter,
)
from skalto.services.use_cases.looking import Look, Looking
from skalto.services.use_cases.studio import short_id
from skalto.store import jobs as store
from skalto.store.cutter import keep_machine, kept_machine
from skalto.store.jobs import StoredJob


def _called(job: JobDocument, plates: Sequence[Plate]) -> str:
    """What a new cutting list is called: by the thickness of its plate, with a number where that is taken."""
    name = f"{plates[0].thickness:g} mm" if plates[0].thickness else "Cutting"
    known = {own.name for own in job.cut_lists}
    return name if name not in known else next(f"{name} ({n})" for n in range(2, 10_000) if f"{name} ({n})" not in known)


class ProfileChoice(BaseModel):
    """What is cut of a part that is no flat plate: its silhouette *seen from* a standard view, or its *face* of a number, or
    what it is *unfolded*, its *bends* scored or not marked."""

    model_config = ConfigDict(frozen=True)

    seen_from: Text = "front"
    face: int | None = Field(default=None, ge=0)
    unfolded: UnfoldChoices | None = None
    bends: bool = False

    @field_validator("seen_from")
    @classmethod
    def _known(cls, name: str) -> str:
        if name not in STANDARD:
            raise ValueError(f"“{name}” is no standard view: choose {', '.join(STANDARD)}.")
        return name


_OF_THE_ROOM = 0.7
"""A drawing that has no room in full size is made so large, of what would just fit."""


class Cutting:
    """The use cases of cutting."""

    def __init__(self, looking: Looking) -> None:
        self.looking = looking
        self.studio = looking.studio

    def machine(self) -> Machine:
        """The cutter's settings."""
        return kept_machine()

    def keep_machine(self, machine: Machine) -> Machine:
        """Keep the cutter's settings, for all jobs. :raises InputError: for a chart without a row."""
        machine.rows()
        keep_machine(machine)
        return machine

    def flat_parts(self, source: str) -> Look:
        """The parts of a model, with those that are flat plates. :raises InputError: for a drawing."""
        if self.studio.facts(source).drawing is not None:
            raise InputError("A drawing has contours, not components: cut its contours.")
        return self.looking.look(find_flat_parts, FindFlatParts(source=source))

    def from_components(
        self,
        job_id: int,
        source: str,
        components: Sequence[str],
        copies: int,
        name: str,
        plates: Sequence[Plate],
        choices: CutChoices,
        how: Mapping[str, ProfileChoice] = {},
        typed: str = "",
    ) -> tuple[StoredJob, str]:
        """A cutting list of components, equal parts counted, each as often as the assembly has it, times *copies*: the job, and
        the list's id.

        :param how: of parts that are no flat plates what of them is cut, by component. :param typed: a list of parts and
            quantities as CSV, instead of the components and their count.
        :raises InputError: when nothing is chosen, a component is not there, or the parts are not known yet.
        """
        look = self.flat_parts(source)
        if look.data is None:
            raise InputError("The flat parts of this model are being looked for: wait a moment.")
        rows = orjson.loads(look.data)
        counts = self._listed(job_id, rows, typed) if typed.strip() else {}
        wanted = {rows[n]["components"][0] for n in counts} if counts else set(components)
        if not wanted:
            raise InputError("No component is chosen: choose what is to be cut.")
        parts: list[CutPart] = []
        thick: dict[float, str] = {}
        for number, row in enumerate(rows):
            own = wanted & set(row["components"])
            wanted -= own
            if not own:
                continue
            choice = next((how[path] for path in row["components"] if path in how), None)
            if row["why_not"] and choice is None:
                raise InputError(f"{row['name']} is no flat plate: {row['why_not']}.")
            own_thickness = row["thickness"] if choice is None else row["unfolds"] if choice.unfolded is not None else 0.0
            if own_thickness:
                thick.setdefault(round(own_thickness, 2), row["name"])
            parts.append(
                CutPart(
                    id=short_id(), name=row["name"], quantity=counts.get(number, len(own)) * copies,
                    origin=self._origin(source, row["component"], choice),
                )
            )  # fmt: skip
        if wanted:
            raise InputError(f"The model has no component {sorted(wanted)[0]}: choose another.")
        if len(thick) > 1:
            told = " and ".join(f"{called} is {own:g} mm thick" for own, called in list(thick.items())[:2])
            raise InputError(f"{told}: a plate has one thickness. Cut them from lists of their own.")
        if thick:
            # a plate of which nobody says how thick it is is as thick as its parts
            known = {"thickness": next(iter(thick))}
            plates = [plate if plate.thickness else plate.model_copy(update=known) for plate in plates]
        return self._added(job_id, name, parts, plates, choices)

    def _listed(self, job_id: int, rows: Sequence[Mapping[str, Any]], typed: str) -> dict[int, int]:
        """Quantities by the place of a part among the flat parts of a model; a line may give its name, or its number."""
        facts = store.get_job(job_id).document.parts
        known: dict[str, str] = {}
        for place, row in enumerate(rows):
            # equal parts are one row, under the name of any
            called = {row["name"], *(path.rsplit("/", 1)[-1] for path in row["components"])}
            called |= {facts[n].number for n in called if n in facts} | {facts[n].name for n in called if n in facts}
            known |= dict.fromkeys(called, str(place))
        return {int(place): count for place, count in read_parts_list(typed, known).items()}

    def _origin(self, source: str, path: str, choice: ProfileChoice | None) -> ComponentOrigin:
        """Where a part's profile comes from; a silhouette is seen from where the assembly is."""
        if choice is None:
            return ComponentOrigin(source=source, component=path)
        if choice.unfolded is not None:
            return ComponentOrigin(source=source, component=path, unfolded=choice.unfolded, bends=choice.bends)
        if choice.face is not None:
            return ComponentOrigin(source=source, component=path, face=choice.face)
        leaf = next(own for own in self.studio.facts(source).tree.leaves() if own.path == path)
        x, y, z = (leaf.matrix()[:3, :3].T @ -np.array(STANDARD[choice.seen_from].look)).tolist()
        return ComponentOrigin(source=source, component=path, silhouette=(x, y, z))

    def from_drawing(
        self, job_id: int, source: str, copies: int, name: str, drawn_as: DrawnAs, plates: Sequence[Plate], choices: CutChoices
    ) -> tuple[StoredJob, str, tuple[str, ...]]:
        """A cutting list of a drawing's closed contours: the job, the list's id, and what is to be known of it.

        :param drawn_as: what its layers and colours stand for. :raises InputError: for open contours, with their gaps, and
            where there is none.
        """
        ref = store.get_job(job_id).document.source(source)
        origin, drawn = self._drawn(job_id, source, drawn_as)
        if drawn.open:
            raise InputError(
                f"{len(drawn.open)} contours are open. {drawn.open[0].sentence()} Close them in the drawing, or by a gap."
            )
        if not drawn.parts:
            raise InputError(
                f"{ref.name} has no contour within its outermost one: there is nothing to cut from that plate."
                if drawn.plate is not None
                else f"{ref.name} has no closed contour: there is nothing to cut."
            )
        if drawn.plate is not None:
            plates = [remnant_of(plates[0], [drawn.plate], ref.name), *plates[1:]]
        parts = [
            CutPart(id=short_id(), name=part.name, quantity=copies, origin=origin.model_copy(update={"number": number}))
            for number, part in enumerate(drawn.parts)
        ]
        return *self._added(job_id, name, parts, plates, choices), tuple(drawn.notes)

    def _added(
        self, job_id: int, name: str, parts: Sequence[CutPart], plates: Sequence[Plate], choices: CutChoices
    ) -> tuple[StoredJob, str]:
        job = store.get_job(job_id).document
        if choices.codes == Codes():
            choices = choices.model_copy(update={"codes": kept_machine().codes})
        made = CutList(
            id=short_id(), name=name or _called(job, plates), parts=tuple(parts), plates=tuple(plates),
            choices=choices,
        )  # fmt: skip
        return self.studio.edit(job_id, AddCutList(kind="add_cut_list", cut_list=made)), made.id

    def _list(self, job_id: int, list_id: str) -> CutList:
        return store.get_job(job_id).document.cut_list(list_id)

    def profiles(self, job_id: int, list_id: str) -> tuple[dict[str, Any] | None, Any, Look]:
        """The profiles of a list's parts, as pictures by part, None until they are made, and those of what is drawn on its
        plates. :raises InputError: when a part has none, saying why."""
        job = store.get_job(job_id).document
        own = job.cut_list(list_id)
        plates = [s.cutting for s in job.sheets if s.cutting is not None and s.cutting.cut_list == list_id]
        drawn = tuple(decoration for plate in plates for decoration in plate.decorations)
        look = self.looking.look(make_profiles, MakeProfiles(cut_list=own, decorations=drawn))
        if look.data is None:
            return None, [], look
        made = orjson.loads(look.data)
        return dict(zip((part.id for part in own.parts), made["parts"], strict=True)), made["on_plates"], look

    def _asked(self, job_id: int, list_id: str, seconds: float, seed: int) -> ArrangeParts:
        job = store.get_job(job_id).document
        own = [s.cutting for s in job.sheets if s.cutting is not None and s.cutting.cut_list == list_id]
        pinned = tuple((number, placed) for number, content in enumerate(own) for placed in content.placed if placed.pinned)
        return ArrangeParts(cut_list=job.cut_list(list_id), pinned=pinned, seconds=seconds, seed=seed)

    def arrange(self, job_id: int, list_id: str, seconds: float, seed: int) -> Look:
        """The arrangement of a list's parts, the best so far while it gets better; pinned parts stay.

        :raises InputError: when nothing can be laid, saying why.
        """
        asked = self._asked(job_id, list_id, seconds, seed)
        look = self.looking.look(arrange_parts, asked)
        if look.data is not None:
            return look
        try:
            return Look(look.key, self.studio.blobs.get(f"{asked.key}.best"), look.work)
        except KeyError:
            return look

    def stop(self, job_id: int, list_id: str, seconds: float, seed: int) -> bytes | None:
        """Stop arranging: the best so far, None where there is none yet."""
        asked = self._asked(job_id, list_id, seconds, seed)
        self.studio.queue.cancel(asked.key)
        for suffix in ("json", "best"):
            try:
                return self.studio.blobs.get(f"{asked.key}.{suffix}")
            except KeyError:
                continue
        return None

    def table(self, job_id: int, list_id: str) -> tuple[str, str]:
        """What is cut from which plate of a list as CSV, with the file's name. :raises InputError: while the profiles are not
        there."""
        from skalto.core.pages.plates_table import plate_rows, rows_as_csv
        from skalto.services.stored.context import plates_of

        stored = store.get_job(job_id)
        asked = plates_of(stored.document, list_id)
        plates = asked.built(self.studio.blobs)
        if any(len(own.page.parts) < len(content.placed) for own, content in zip(plates, asked.contents, strict=True)):
            raise InputError("The profiles of this list are being made: wait a moment.")
        return safe(f"{stored.document.name} {asked.cut_list.name}") + ".csv", rows_as_csv(plate_rows(plates))

    def draw_on(self, job_id: int, sheet_id: str, part_id: str, source: str, view: str) -> tuple[StoredJob, str]:
        """Draw a drawing, or what a drawing *view* shows of it, on a part of a plate's list, or without one on the plate,
        to be engraved: as large as it is, smaller where it has no room. The job, and the decoration's id.

        :raises InputError: when there is nothing to draw, or nothing to draw it on.
        """
        from skalto.core.cutting.decorating import decorated, excerpted
        from skalto.services.results.drawings import load_space
        from skalto.services.use_cases.drawings import unit_of

        sheet, cut_list = self._plate(job_id, sheet_id)
        job = store.get_job(job_id).document
        ref = job.source(source)
        facts = self.studio.drawing(source)
        if view:
            excerpt = next((v.excerpt for own in job.sheets for v in own.views if v.id == view and v.source == source), None)
            if excerpt is None:
                raise InputError("This drawing view is no longer in the job: choose another.")
        else:
            space = facts.spaces[0].name
            excerpt = Excerpt(space=space, unit=unit_of(facts, space, ref.unit_mm, ref.name))
        content = ExcerptContent(source=source, excerpt=excerpt)
        made = Decoration(id=short_id(), content=content)
        drawn = decorated(made, {made.id: excerpted(content, load_space(self.studio.blobs, source, excerpt.space))})
        if drawn.box is None:
            raise InputError(f"{ref.name} has nothing to engrave: choose another drawing.")
        if part_id:
            profile = load_profiles(self.studio.blobs, [cut_list.part(part_id)]).get(part_id)
            if profile is None:
                raise InputError("The profile of this part is being made: wait a moment.")
            x0, y0, x1, y1 = profile.box
        else:
            paper = sheet.paper()
            x0, y0, x1, y1 = 0.0, 0.0, float(paper.width), float(paper.height)
        wide, high = drawn.box[2] - drawn.box[0], drawn.box[3] - drawn.box[1]
        room = min((x1 - x0) / max(wide, 1e-9), (y1 - y0) / max(high, 1e-9))
        scale = 1.0 if room >= 1 else float(f"{max(room * _OF_THE_ROOM, 1e-4):.2g}")
        fields = {"content": content.model_copy(update={"scale": scale}), "x": (x0 + x1) / 2, "y": (y0 + y1) / 2}
        edit = AddDecoration(
            kind="add_decoration", sheet=sheet_id, part=part_id, decoration=made.model_copy(update=fields)
        )  # fmt: skip
        return self.studio.edit(job_id, edit), made.id

    def remnant(self, job_id: int, list_id: str, plate: int, source: str) -> StoredJob:
        """Give a plate of a list the outline of a drawing, with what is cut out of it, '' for a whole plate again.

        :raises InputError: where the drawing has no closed outline.
        """
        own = self._list(job_id, list_id)
        if plate >= len(own.plates):
            raise InputError("This list has no such plate any more: choose another.")
        if source:
            ref = store.get_job(job_id).document.source(source)
            drawn = self._drawn(job_id, source, DrawnAs())[1]
            new = remnant_of(own.plates[plate], drawn.parts, ref.name)
        else:
            new = own.plates[plate].model_copy(update={"remnant": ()})
        plates = tuple(new if n == plate else other for n, other in enumerate(own.plates))
        return self.studio.edit(
            job_id, ChangeCutList(kind="change_cut_list", cut_list=list_id, fields=CutListPatch(plates=plates))
        )  # fmt: skip

    def _drawn(self, job_id: int, source: str, drawn_as: DrawnAs) -> tuple[ContoursOrigin, Any]:
        """The contours of a drawing's first picture, and the parts that they make."""
        from skalto.services.results.profiles import drawn_parts
        from skalto.services.use_cases.drawings import unit_of

        facts = self.studio.drawing(source)
        ref = store.get_job(job_id).document.source(source)
        space = facts.spaces[0]
        unit = unit_of(facts, space.name, ref.unit_mm, ref.name)
        origin = ContoursOrigin(source=source, space=space.name, unit=unit, **drawn_as.model_dump())
        return origin, drawn_parts(self.studio.blobs, origin, ref.name.rsplit(".", 1)[0])

    def _plate(self, job_id: int, sheet_id: str) -> tuple[SheetSpec, CutList]:
        job = store.get_job(job_id).document
        sheet = job.sheet(sheet_id)
        if sheet.cutting is None:
            raise InputError(f"{sheet.name} is no plate: choose a cutting sheet.")
        return sheet, job.cut_list(sheet.cutting.cut_list)

    def plate(self, job_id: int, sheet_id: str) -> dict[str, Any]:
        """What a plate is worth as it lies, and what is wrong on it. :raises InputError: when the sheet is no plate."""
        from skalto.core.pages.cut_pages import cut_page
        from skalto.services.results.cutting import figures

        sheet, cut_list = self._plate(job_id, sheet_id)
        content = sheet.cutting
        assert content is not None, "it is a plate"
        blobs = self.studio.blobs
        drawn = (*content.decorations, *(own for part in cut_list.parts for own in part.decorations))
        excerpts = load_excerpts(blobs, drawn)
        page = cut_page(content, cut_list, load_profiles(blobs, cut_list.parts), excerpts)
        wanted = {own.id for own in drawn if own.sources}
        row, told = kept_machine().nearest(page.plate.material, page.plate.thickness)
        known = {"material": row.material, "thickness": row.thickness, "kerf": row.kerf} if not told else None
        chart = {"chart": known, "other_codes": cut_list.choices.codes != kept_machine().codes}
        return figures(page) | chart | {"ready": len(page.parts) == len(content.placed) and wanted <= set(excerpts)}

    def run(self, job_id: int, sheet_id: str) -> Look:
        """The sheet's finished file in the stand-in cutter. :raises InputError: when the file is not made, or is no plate."""
        sheet, _ = self._plate(job_id, sheet_id)
        file = self.looking.file(job_id, sheet_id)
        job = store.get_job(job_id)
        context = self.studio.context(job, sheet)
        asked = RunInCutter(file=file, suffix=".pdf", page=1, sheet=sheet, context=context)
        return self.looking.look(run_in_cutter, asked)
