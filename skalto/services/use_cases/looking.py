"""What is done with a finished file at the proof: measured, printed on the stand-in, compared, drawn as pixels."""

from __future__ import annotations

import json
from contextlib import suppress
from dataclasses import dataclass

from skalto.core.checks.printing import Printed, Printer
from skalto.core.errors import InputError, NotThere
from skalto.core.output.pixels import PictureRequest, pixel_size
from skalto.core.packs import safe
from skalto.jobs.queue import PASSING, WorkState
from skalto.jobs.task import Argument, Task
from skalto.services.output.sending import SendingPlan
from skalto.services.tasks.looking import (
    ComparePages,
    DrawPictures,
    DrawTile,
    FindPoints,
    PrintPage,
    compare_pages,
    draw_pictures,
    draw_tile,
    find_points,
    print_page,
)
from skalto.services.tasks.sheet_metal import FindSheets, HelpFindSheets, find_sheets, help_find_sheets
from skalto.services.use_cases.proofing import Proofing
from skalto.store import issues
from skalto.store import jobs as store
from skalto.store.issues import StoredFile, StoredIssue


@dataclass(frozen=True)
class Look:
    """A result under its key, or how far the work on it is."""

    key: str
    data: bytes | None
    work: WorkState | None


@dataclass(frozen=True)
class Sent:
    """The last issue that a sheet went out with: the issue, the file, and the page in it, from 0."""

    issue: StoredIssue
    file: StoredFile
    page: int


class Looking:
    """The use cases of the proof's tools."""

    def __init__(self, proofing: Proofing) -> None:
        self.proofing = proofing
        self.studio = proofing.studio

    def file(self, job_id: int, sheet_id: str) -> str:
        """The blob of a sheet's proof; of one that lies on a finished page, that page alone. :raises InputError: when it is not
        made."""
        state = self.proofing.proof(job_id, sheet_id)
        if not state.ready:
            raise InputError("The file of this sheet is not made yet: make the proof first.")
        alone = f"{state.key}.page.pdf"
        return alone if self.studio.blobs.exists(alone) else f"{state.key}.pdf"

    def look(self, task: Task[Argument], asked: Argument) -> Look:
        """The result of a task, or how far it is. :raises InputError: when the task refused its input."""
        key = asked.key
        if self.studio.blobs.exists(f"{key}.json"):
            return Look(key, self.studio.blobs.get(f"{key}.json"), None)
        known = self.studio.queue.state(key)
        if known is not None and known.state == "failed":
            if known.error in PASSING:
                self.studio.queue.forget(key)
            # a part that cannot be unfolded is not tried over and over by a page that asks
            raise InputError(known.error)
        if known is not None and known.state == "cancelled":
            self.studio.queue.forget(key)
        source = getattr(asked, "source", "") or getattr(getattr(asked, "annotation", None), "source", "")
        reading = self.studio.reading(source) if source else None
        if reading is not None:
            return Look(key, None, reading)
        return Look(key, None, self.studio.queue.submit(task, asked))

    def sheet_parts(self, source: str) -> Look:
        """What each part of a model is to whoever bends and cuts; two workers look. :raises InputError: when it cannot be
        looked through."""
        look = self.look(find_sheets, FindSheets(source=source))
        if look.data is None:
            with suppress(InputError):
                self.look(help_find_sheets, HelpFindSheets(source=source))
        return look

    def points(self, job_id: int, sheet_id: str) -> Look:
        """Ends, centres, strokes and viewports of a proof. :raises InputError: when it is not made."""
        file = self.file(job_id, sheet_id)
        return self.look(find_points, FindPoints(file=file))

    def printed(self, job_id: int, sheet_id: str, printer: Printer) -> tuple[Look, Printed | None]:
        """A proof as the stand-in printer prints it. :raises InputError: for margins that leave nothing."""
        printer.printable()
        file = self.file(job_id, sheet_id)
        look = self.look(print_page, PrintPage(file=file, printer=printer))
        return look, None if look.data is None else Printed.model_validate_json(look.data)

    def last_sent(self, job_id: int, sheet_id: str) -> Sent | None:
        """Where a sheet went out last; a locked file cannot be looked into."""
        for issue in issues.list_issues(job_id, "done"):
            plan = SendingPlan.model_validate_json(issue.plan)
            for number, file in enumerate(plan.files):
                for place, page in enumerate(file.pages):
                    sheet = plan.pages[page].sheet
                    if sheet.id == sheet_id and number < len(issue.files) and file.strokes is None:
                        # one that lies on a finished page went out with that page's whole file
                        return Sent(issue, issue.files[number], place if sheet.onto is None else sheet.onto.page - 1)
        return None

    def compared(self, job_id: int, sheet_id: str) -> tuple[Look, Sent]:
        """A proof over what was sent last. :raises InputError: when the sheet was never sent."""
        sent = self.last_sent(job_id, sheet_id)
        if sent is None:
            raise InputError("This sheet has not been issued yet: there is nothing to compare it with.")
        before, after = f"{sent.file.key}.pdf", self.file(job_id, sheet_id)
        return self.look(compare_pages, ComparePages(file=after, before=before, page=sent.page)), sent

    def picture_size(self, job_id: int, sheet_id: str, wish: PictureRequest) -> tuple[int, int]:
        """How many pixels a sheet's picture has. :raises InputError: when these are too many."""
        paper = store.get_job(job_id).document.sheet(sheet_id).paper()
        return pixel_size(float(paper.width), float(paper.height), wish)

    def picture(self, job_id: int, sheet_id: str, wish: PictureRequest, whole: bool = False) -> Look:
        """A proof as a picture, or with *whole* all sheets of the job. :raises InputError: when it is too large."""
        self.picture_size(job_id, sheet_id, wish)
        if whole:
            key, progress = self.proofing.whole(job_id)
            if not progress.done:
                return Look(key, None, WorkState(state="running", share=progress.share, text="Writing the sheets"))
            file = f"{key}.pdf"
        else:
            file = self.file(job_id, sheet_id)
        return self.look(draw_pictures, DrawPictures(file=file, wish=wish))

    def picture_file(self, job_id: int, sheet_id: str, wish: PictureRequest, whole: bool = False) -> tuple[str, bytes]:
        """File name and bytes of a picture. :raises InputError: when it is not made yet."""
        look = self.picture(job_id, sheet_id, wish, whole)
        if look.data is None:
            raise InputError("This picture is not made yet: ask for it first.")
        job = store.get_job(job_id)
        suffix = "zip" if json.loads(look.data)["pages"] > 1 and wish.kind != "tiff" else wish.kind
        name = safe(job.document.name if whole else f"{job.document.name} {job.document.sheet(sheet_id).name}")
        return f"{name}.{suffix}", self.studio.blobs.get(f"{look.key}.bin")

    def tile(self, job_id: int, sheet_id: str, proof: str, level: int, column: int, row: int) -> Look:
        """A tile of a sheet's *proof* (its key). :raises NotThere: when the sheet has another by now."""
        file = self.file(job_id, sheet_id)
        if file not in (f"{proof}.pdf", f"{proof}.page.pdf"):
            raise NotThere("The sheet has another proof by now.")
        return self.look(draw_tile, DrawTile(file=file, level=level, column=column, row=row))

    def png(self, key: str) -> bytes:
        """The picture of a look. :raises InputError: when there is none."""
        try:
            return self.studio.blobs.get(f"looks/{key}.png")
        except KeyError:
            raise NotThere("There is no such picture.") from None
