"""What is to be written of a job: a page, all sheets as one file, the files of a pack. The same for the browser and for the
command line."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, field
from datetime import UTC, date, datetime

from skalto.core.cutter.machine import Machine
from skalto.core.errors import InputError
from skalto.core.job import JobDocument
from skalto.core.packs import Pack, file_names, safe, shared_fields
from skalto.core.recipes import Recipe, against_joining, onto_finished_page, shared_recipe, words_of
from skalto.core.sheets.sheet import SheetSpec
from skalto.services.output.sending import FilePlan, PagePlan, SendingPlan
from skalto.services.stored.context import ContextSpec


def today() -> date:
    return datetime.now(UTC).date()


@dataclass(frozen=True)
class Planned:
    """What a page or a pack of a job is sent out as: the *revision* that goes into title blocks, '' for the sheets' own, the
    *pack* and the *purpose*."""

    revision: str = ""
    pack: str = ""
    purpose: str = ""


def _of_their_own(sheets: Sequence[SheetSpec]) -> list[str]:
    """Why sheets that lie on finished pages cannot be one file with others: each is the whole of the file of its page."""
    whose = [sheet.name for sheet in sheets if sheet.onto is not None]
    if not whose or len(sheets) == 1:
        return []
    return [f"{', '.join(whose)} lies on a finished page and goes out as that page's file: write one file per sheet."]


@dataclass(frozen=True)
class JobAtHand:
    """A job's document and number, wherever it is kept; one that was made for a single sheet is not *named* on it.
    *machine* is the cutter that its plates are for, *states* what parts and sheets were brought into, by ``sheet:`` and id.
    Sheets are dated *on* a day, or today."""

    document: JobDocument
    number: str = ""
    named: bool = True
    machine: Machine | None = None
    states: Mapping[str, str] = field(default_factory=dict)
    on: date | None = None

    @property
    def day(self) -> date:
        return self.on or today()

    def fields(self, sheet: SheetSpec, place: int, sent: Planned = Planned()) -> dict[str, str]:
        """What may stand in braces in names and titles, of one sheet: the *place*th that is sent, from 1."""
        title = self._title(sheet, sent)
        return {
            "job": self.document.name,
            "job_number": self.number,
            "pack": sent.pack,
            "number": f"{place:02d}",
            "sheet": sheet.name,
            "title": title.get("title") or sheet.name,
            "revision": title.get("revision", ""),
            "purpose": sent.purpose,
            "format": sheet.format,
            "date": self.day.isoformat(),
        }

    def _title(self, sheet: SheetSpec, sent: Planned) -> Mapping[str, str]:
        return self.document.title | sheet.title | ({"revision": sent.revision} if sent.revision else {})

    def page(self, sheet: SheetSpec, recipe: Recipe, place: int = 1, sent: Planned = Planned()) -> PagePlan:
        """What a sheet's page is made from, as the job is now."""
        state = self.states.get(f"sheet:{sheet.id}", "")
        context = ContextSpec.of(self.document, self.number, sheet.id, self.day, self.machine, state)
        if recipe.file == "cutter":
            # its contours are held against the beam that will cut them
            context = context.model_copy(update={"machine": self.machine})
        title = self._title(sheet, sent)
        if not self.named:
            context = context.model_copy(update={"job_name": ""})
        called = f"{self.document.name}, {sheet.name}" if self.named else sheet.name
        words = words_of(recipe, self.fields(sheet, place, sent), called, title.get("creator", ""))
        if sent.revision:
            sheet = sheet.model_copy(update={"title": sheet.title | {"revision": sent.revision}})
        if sheet.onto is not None:
            recipe = onto_finished_page(recipe)
        return PagePlan(sheet=sheet, context=context, recipe=recipe, **asdict(words))

    def whole(self, sheets: Sequence[SheetSpec], recipes: Sequence[Recipe]) -> SendingPlan:
        """Sheets, in order, as one file, each by its own recipe. :raises InputError: when they cannot be one file."""
        for problem in (*against_joining([sheet.name for sheet in sheets], recipes), *_of_their_own(sheets)):
            raise InputError(problem)
        name = self.document.name
        recipe = shared_recipe(recipes)
        pages = tuple(self.page(sheet, own, place) for place, (sheet, own) in enumerate(zip(sheets, recipes, strict=True), 1))
        files = (FilePlan(name=safe(name) + ".pdf", pages=tuple(range(len(pages)))),)
        fields = shared_fields([self.fields(sheet, place) for place, sheet in enumerate(sheets, 1)])
        title = words_of(recipe, fields | {"title": name}, name, "").title
        return SendingPlan(pages=pages, files=files, recipe=recipe, title=title, created=datetime.now(UTC))

    def sheets_of(self, pack: Pack) -> list[SheetSpec]:
        return [self.document.sheet(sheet) for sheet in pack.sheets]

    def names(self, pack: Pack, sent: Planned) -> tuple[FilePlan, ...]:
        """The files of a pack. :raises InputError: when two would have one name."""
        fields = [self.fields(sheet, place, sent) for place, sheet in enumerate(self.sheets_of(pack), 1)]
        files = []
        for wanted in pack.formats:
            own = pack if wanted == "PDF" else pack.model_copy(update={"files": "each"})
            files += [FilePlan(name=file.name, pages=file.sheets) for file in file_names(own, fields, f".{wanted.lower()}")]
        return tuple(files)

    def against(self, pack: Pack, recipes: Sequence[Recipe], sent: Planned) -> tuple[tuple[str, ...], list[str]]:
        """The names of a pack's files, and what stands against sending it."""
        sheets = self.sheets_of(pack)
        problems = [] if sheets else [f"{pack.name} has no sheet: add one."]
        problems += [
            f"{sheet.name} is empty: put a view or a 3D annotation on it, or remove it from the pack."
            for sheet in sheets
            if sheet.is_empty
        ]
        names: tuple[str, ...] = ()
        try:
            names = tuple(file.name for file in self.names(pack, sent))
        except InputError as error:
            problems.append(str(error))
        if pack.files == "one" and "PDF" in pack.formats:
            problems += [*against_joining([sheet.name for sheet in sheets], recipes), *_of_their_own(sheets)]
        for sheet, recipe in zip(sheets, recipes, strict=True):
            if sheet.onto is not None and recipe.file != "plain":
                problems.append(f"{sheet.name} lies on a finished page: give it a recipe that writes plain files.")
        return names, problems

    def pack(self, pack: Pack, recipes: Sequence[Recipe], sent: Planned, apart: str = "") -> SendingPlan:
        """The files of a pack. :raises InputError: when two would have one name."""
        sheets = self.sheets_of(pack)
        recipe = shared_recipe(recipes)
        pages = tuple(
            self.page(sheet, own, place, sent) for place, (sheet, own) in enumerate(zip(sheets, recipes, strict=True), 1)
        )
        fields = shared_fields([self.fields(sheet, place, sent) for place, sheet in enumerate(sheets, 1)])
        title = words_of(recipe, fields | {"title": pack.name}, pack.name, "").title
        files = self.names(pack, sent)
        return SendingPlan(pages=pages, files=files, recipe=recipe, title=title, created=datetime.now(UTC), apart=apart)
