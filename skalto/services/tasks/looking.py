"""Tasks of the proof's tools: a finished file measured, printed, compared, drawn."""

from __future__ import annotations

import io
import zipfile

import orjson

from skalto.core.checks.printing import Printer
from skalto.core.output.pixels import PictureRequest
from skalto.core.progress import Progress
from skalto.jobs.task import TaskArgument, task
from skalto.services.stored import keys
from skalto.store.blobs import Blobs

_LOOK_DPI = 100
"""The resolution of pictures that are only looked at."""


class LookArgument(TaskArgument):
    """What is done with a finished *file*, a blob's key: the result has a key of its own."""

    file: str

    @property
    def key(self) -> str:
        return f"looks/{keys.digest(type(self).__name__, self.model_dump(mode='json'))}"


class FindPoints(LookArgument):
    """What can be measured from."""


class PrintPage(LookArgument):
    """On a stand-in printer."""

    printer: Printer


class ComparePages(LookArgument):
    """Over a page, from 0, of an earlier file."""

    before: str
    page: int


class DrawTile(LookArgument):
    """A tile of its page."""

    level: int
    column: int
    row: int


class DrawPictures(LookArgument):
    """As a picture."""

    wish: PictureRequest


@task(FindPoints, "reading")
def find_points(asked: FindPoints, blobs: str, report: Progress) -> None:
    """What can be measured from in a finished file, as JSON."""
    from skalto.core.checks.snapping import snap_points

    report(0.2, "Reading the file's ends and centres")
    store = Blobs(blobs)
    store.put(f"{asked.key}.json", snap_points(store.get(asked.file)).model_dump_json().encode())


@task(PrintPage, "looking")
def print_page(asked: PrintPage, blobs: str, report: Progress) -> None:
    """A finished file on a stand-in printer: what came out as JSON, and its picture."""
    from skalto.core.checks.printer import printed, printed_pdf
    from skalto.core.output.pixels import draw_pages

    report(0.2, "Printing")
    store = Blobs(blobs)
    data = store.get(asked.file)
    found = printed(data, asked.printer)
    report(0.6, "Drawing the printed sheet")
    (picture,) = draw_pages(printed_pdf(data, asked.printer), PictureRequest(kind="png", dpi=_LOOK_DPI))
    store.put(f"{asked.key}.png", picture)
    store.put(f"{asked.key}.json", found.model_dump_json().encode())


@task(ComparePages, "looking")
def compare_pages(asked: ComparePages, blobs: str, report: Progress) -> None:
    """A finished file over a page of an earlier one: the overlay, and the boxes of what differs."""
    from skalto.core.checks.comparing import compare

    report(0.2, "Laying one over the other")
    store = Blobs(blobs)
    found = compare(store.get(asked.before), store.get(asked.file), page_before=asked.page)
    store.put(f"{asked.key}.png", found.png)
    store.put(f"{asked.key}.json", orjson.dumps({"gone": found.gone, "came": found.came}))


@task(DrawTile, "looking")
def draw_tile(asked: DrawTile, blobs: str, report: Progress) -> None:
    """A tile of a finished file's page, as PNG."""
    from skalto.core.output import tiles

    store = Blobs(blobs)
    tile = tiles.draw_tile(lambda: store.get(asked.file), asked.level, asked.column, asked.row, f"{blobs}#{asked.file}")
    store.put(f"{asked.key}.png", tile)
    store.put(f"{asked.key}.json", b"{}")


@task(DrawPictures, "looking")
def draw_pictures(asked: DrawPictures, blobs: str, report: Progress) -> None:
    """A finished file as a picture; several pages as a zip of one a page, or as one TIFF."""
    from skalto.core.output.pixels import draw_pages

    report(0.1, "Drawing the pixels")
    store = Blobs(blobs)
    drawn = draw_pages(store.get(asked.file), asked.wish)
    data = drawn[0]
    if len(drawn) > 1:
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w") as archive:
            for number, picture in enumerate(drawn, 1):
                archive.writestr(f"{number:02d}.{asked.wish.kind}", picture)
        data = out.getvalue()
    store.put(f"{asked.key}.bin", data)
    store.put(f"{asked.key}.json", orjson.dumps({"pages": len(drawn), "size": len(data)}))
