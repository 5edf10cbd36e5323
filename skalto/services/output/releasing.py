"""What a release makes of a job: subjects out of its parts and sheets, the plan, and the work that each file is; the same for
the browser and for the command line."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import UTC, datetime
from typing import Any

from pydantic import BaseModel, ConfigDict

from skalto.core.annotation.title_block import shows_status
from skalto.core.errors import InputError
from skalto.core.job import JobDocument
from skalto.core.layout.annotations_3d import annotation_for, bare_sheet
from skalto.core.plain import short_name
from skalto.core.recipes import PLAIN, Recipe
from skalto.core.release.manifest import ManifestFile
from skalto.core.release.planning import PlannedFile, ReleasePlan, Subject, planned
from skalto.core.release.register import PartRow
from skalto.core.release.rules import FileKind, ReleaseRules
from skalto.core.release.section import PROPERTIES
from skalto.core.release.table import as_table
from skalto.core.scene.choices import SceneChoices, SceneSpec
from skalto.core.sheet_metal.choices import UnfoldChoices
from skalto.core.sheet_metal.facts import PatternFacts
from skalto.core.sheet_metal.flat_writing import FlatWriting
from skalto.core.sheets.sheet import SheetSpec
from skalto.core.shown_content import part_content, sheet_content
from skalto.core.sources.models.model import Component, ModelTree, covered
from skalto.core.sources.models.parts import PartKind
from skalto.services.output.plans import JobAtHand, Planned
from skalto.services.output.sending import FilePlan, SendingPlan
from skalto.services.tasks.releasing import MakePartFile

_UNFOLDED = (PartKind.PLATE, PartKind.BENT, PartKind.ROLLED)


class FileWork(BaseModel):
    """A file of a release and the work that it is: pages that are *sent*, a *part* that is made, or *text* that is there; what
    the manifest says of it beside what is measured."""

    model_config = ConfigDict(frozen=True)

    planned: PlannedFile
    sent: SendingPlan | None = None
    part: MakePartFile | None = None
    text: str | None = None
    about: ManifestFile


@dataclass(frozen=True, eq=False)
class Releasable:
    """A job as a release looks at it: the *rows* of its register, the *trees* of its models by source, what is known of flat
    patterns by the paths of components, and the *states* of parts and sheets, by their ids."""

    at_hand: JobAtHand
    rows: Sequence[PartRow]
    trees: Mapping[str, ModelTree]
    flats: Mapping[tuple[str, str], PatternFacts]
    recipes: Mapping[str, Recipe]
    states: Mapping[str, str] = field(default_factory=dict)
    viewer: str = ""

    @property
    def document(self) -> JobDocument:
        return self.at_hand.document

    def subjects(self) -> list[Subject]:
        """All that files may be made of: parts and assemblies, sheets, packs, the job."""
        rows = [self._of_row(row) for row in self.rows]
        by_key = {key: own for own in rows for key in (own.row.keys if own.row else ())}
        sheets = [self._of_sheet(sheet, n, by_key) for n, sheet in enumerate(self.document.sheets, 1) if not sheet.is_empty]
        contents = {own.id: own.content for own in sheets}
        blank = dict.fromkeys((*PROPERTIES, *(own.name for own in self.document.own_fields), "assemblies"), "")
        job = {"job": self.document.name, "job_number": self.at_hand.number}
        packs = [
            Subject(
                "pack", pack.id, pack.name, blank | job | {"name": pack.name, "sheet": pack.name, "title": pack.name},
                short_name(pack.model_dump(), [contents.get(sheet, "") for sheet in pack.sheets]),
            )
            for pack in self.document.packs
            if pack.sheets
        ]  # fmt: skip
        whole = short_name([row.values() for row in self.rows])
        return [
            *rows,
            *sheets,
            *packs,
            Subject("job", "job", self.document.name, blank | job | {"name": self.document.name}, whole),
        ]

    def _component(self, row: PartRow) -> Component | None:
        tree = self.trees.get(row.source)
        return next((own for own in tree.walk() if own.path == row.component), None) if tree is not None else None

    def _of_row(self, row: PartRow) -> Subject:
        component = self._component(row)
        flat = self.flats.get((row.source, row.component))
        content = part_content(self.trees[row.source], component) if component is not None else row.component
        choices = self.unfolding(row).model_dump() if flat else None
        shown = short_name(content, row.mark, row.name, row.material, row.thickness, choices)
        values = row.values() | {
            "job": self.document.name, "job_number": self.at_hand.number, "assemblies": self._assemblies(row),
        }  # fmt: skip
        return Subject(
            row.kind.value, row.key, row.name, values, shown, row=row,
            side_b=flat is not None and any(own.side == "b" for own in flat.features),
            unfolds=flat is not None and row.kind in _UNFOLDED,
        )  # fmt: skip

    def _assemblies(self, row: PartRow) -> str:
        """The assemblies that a part is in, the outermost first, by their marks or names, with slashes between."""
        of_path = {
            path: own
            for own in self.rows
            if own.kind is PartKind.ASSEMBLY
            for path in own.components
            if own.source == row.source
        }
        steps = row.component.split("/")[:-1]
        above = [of_path["/".join(steps[: n + 1])] for n in range(len(steps)) if "/".join(steps[: n + 1]) in of_path]
        return "/".join((own.mark or own.name).replace("/", "-") for own in above)

    def _of_sheet(self, sheet: SheetSpec, place: int, by_key: Mapping[str, Subject]) -> Subject:
        fields = self.at_hand.fields(sheet, place)
        made_for = by_key.get(sheet.made_for.part) if sheet.made_for else None
        blank = dict.fromkeys((*PROPERTIES, *(own.name for own in self.document.own_fields), "assemblies"), "")
        values = blank | {"name": sheet.name} | dict(made_for.values if made_for else {}) | fields
        values |= {"number": sheet.title.get("number") or self.document.title.get("number", ""), "place": f"{place:02d}"}
        values["revision"] = fields["revision"] or values["revision"]
        recipe = self._recipe(sheet.recipe)
        content = sheet_content(self.document, sheet, self.at_hand.number, self.trees)
        state = self.states.get(f"sheet:{sheet.id}", "")
        said = (state,) if state and shows_status(sheet) else ()
        return Subject(
            "sheet",
            sheet.id,
            sheet.name,
            values,
            short_name(content, _chosen(recipe), *said),
            row=made_for.row if made_for else None,
        )

    def _recipe(self, recipe_id: str) -> Recipe:
        return self.recipes.get(recipe_id, PLAIN)

    def unfolding(self, row: PartRow) -> UnfoldChoices:
        """How a part is unfolded: as a sheet of the job shows it, else as it is by itself."""
        for sheet in self.document.sheets:
            for view in sheet.views:
                if view.flat is not None and view.source == row.source and view.flat.component in row.components:
                    return view.flat.choices
        return UnfoldChoices()

    def plan(self, rules: ReleaseRules, only: Sequence[Subject] | None = None) -> ReleasePlan:
        """What rules make of the job, or of some subjects of it."""
        subjects = self.subjects() if only is None else only
        writings = {key: recipe.flat or FlatWriting() for key, recipe in self.recipes.items()}
        writings[""] = FlatWriting()
        return planned(rules, subjects, writings, {key: _chosen(recipe) for key, recipe in self.recipes.items()})

    def work(self, plan: ReleasePlan) -> list[FileWork]:
        """The work that each file of a plan is."""
        subjects = {(own.kind, own.id): own for own in self.subjects()}
        return [self._work(file, subjects[file.kind, file.subject]) for file in plan.files]

    def _work(self, file: PlannedFile, subject: Subject) -> FileWork:
        about = self._about(file, subject)
        match file.file:
            case FileKind.PDF:
                return FileWork(planned=file, sent=self._sent(file), about=about)
            case FileKind.LIST:
                text = as_table(self.rows, self.document.own_fields)
                return FileWork(planned=file, text=text, about=about)
            case FileKind.PDF_3D:
                return FileWork(planned=file, sent=self._solid_page(file, subject), about=about)
            case _:
                return FileWork(planned=file, part=self._part(file, subject), about=about)

    def _about(self, file: PlannedFile, subject: Subject) -> ManifestFile:
        row, recipe = subject.row, self.recipes.get(file.recipe) if file.recipe else None
        sources: tuple[str, ...] = (row.source,) if row is not None else ()
        if file.kind == "sheet":
            sheet = self.document.sheet(file.subject)
            sources = tuple(sorted(self.document.sources_of(sheet)))
            recipe = recipe or self._recipe(sheet.recipe)
        return ManifestFile(
            file=file.path, sha256="", size=0, kind=file.file.value + (", side B" if file.side_b else ""), part=subject.called,
            mark=subject.values.get("mark", ""), revision=subject.values.get("revision", ""),
            state=self.states.get(f"{'sheet' if file.kind == 'sheet' else 'part'}:{file.subject}", ""),
            material=row.material if row else "", thickness=row.thickness if row else None,
            quantity=row.quantity if row else None, mass=row.mass if row else None, recipe=recipe.name if recipe else "",
            recipe_version=recipe.version if recipe else None, sources=sources, content=file.content,
        )  # fmt: skip

    def _sent(self, file: PlannedFile) -> SendingPlan:
        if file.kind == "pack":
            pack = self.document.pack(file.subject)
            pack = pack.model_copy(update={"files": "one", "formats": ("PDF",)})
            recipes = [self._recipe(file.recipe or pack.recipe or sheet.recipe) for sheet in self.at_hand.sheets_of(pack)]
            problems = self.at_hand.against(pack, recipes, Planned(pack=pack.name))[1]
            if problems:
                raise InputError(problems[0])
            made = self.at_hand.pack(pack, recipes, Planned(pack=pack.name))
            return made.model_copy(update={"files": (made.files[0].model_copy(update={"name": "pack.pdf"}),)})
        sheet = self.document.sheet(file.subject)
        place = [own.id for own in self.document.sheets].index(sheet.id) + 1
        recipe = self._recipe(file.recipe or sheet.recipe)
        page = self.at_hand.page(sheet, recipe, place)
        files = (FilePlan(name="sheet.pdf", pages=(0,)),)
        return SendingPlan(pages=(page,), files=files, recipe=recipe, title=page.title, created=datetime.now(UTC))

    def _solid_page(self, file: PlannedFile, subject: Subject) -> SendingPlan:
        """A page that is nothing but a part, in 3D."""
        assert subject.row is not None, "3D is made of parts"
        row, recipe = subject.row, self._recipe(file.recipe)
        sheet = bare_sheet("part", row.name, "A4")
        field = annotation_for(sheet, "3d", row.source, row.name[:60], whole=True)
        field = field.model_copy(update={"choices": SceneChoices(hidden=self._others(row))})
        sheet = sheet.model_copy(update={"annotations_3d": (field,)})
        document = self.document.model_copy(update={"sheets": (sheet,), "packs": ()})
        page = JobAtHand(document, self.at_hand.number, named=False, machine=self.at_hand.machine).page(sheet, recipe)
        files = (FilePlan(name="part.pdf", pages=(0,)),)
        return SendingPlan(pages=(page,), files=files, recipe=recipe, title=page.title, created=datetime.now(UTC))

    def _others(self, row: PartRow) -> frozenset[str]:
        wanted = frozenset((row.component,))
        return frozenset(leaf.path for leaf in self.trees[row.source].leaves() if not covered(leaf.path, wanted))

    def _part(self, file: PlannedFile, subject: Subject) -> MakePartFile:
        assert subject.row is not None, "it is made of a part"
        row = subject.row
        writing = (self._recipe(file.recipe).flat if file.recipe else None) or FlatWriting()
        scene = file.file in (FileKind.GLTF, FileKind.HTML)
        said = SceneSpec(parts=self.document.parts, colours=self.document.colours)
        return MakePartFile(
            source=row.source, component=row.component, file=file.file,
            called=" ".join(text for text in (row.mark, row.name) if text), choices=self.unfolding(row), writing=writing,
            side_b=file.side_b, said=said if scene else SceneSpec(),
            viewer=self.viewer if scene else "",
        )  # fmt: skip


def _chosen(recipe: Recipe) -> str:
    plain: dict[str, Any] = recipe.model_dump(exclude={"id", "name", "version", "format", "orientation"})
    return short_name(plain)
