"""Tasks of sheet metal: the parts of a model recognised, one of them unfolded."""

from __future__ import annotations

import orjson

from skalto.core.progress import Progress
from skalto.core.sheet_metal.choices import FlatSpec
from skalto.core.sheet_metal.flat_writing import FlatWriting
from skalto.jobs.task import TaskArgument, task
from skalto.services.stored import keys
from skalto.store.blobs import Blobs


class FindSheets(TaskArgument):
    """What each part of a model is to whoever bends and cuts."""

    source: str

    @property
    def key(self) -> str:
        return keys.model_key(self.source, "sheet-parts")


class HelpFindSheets(TaskArgument):
    """A second worker for what each part of a model is."""

    source: str

    @property
    def key(self) -> str:
        return keys.model_key(self.source, "sheet-parts-helped")


class DrawParts(TaskArgument):
    """Small pictures of a model's parts."""

    source: str

    @property
    def key(self) -> str:
        return keys.model_key(self.source, "part-pictures")


class FindEdges(TaskArgument):
    """The edges of a component's part."""

    source: str
    component: str

    @property
    def key(self) -> str:
        return f"part-edges/{keys.digest(self.source, self.component)}"


class UnfoldPart(TaskArgument):
    """A component of a model to unfold."""

    source: str
    spec: FlatSpec

    @property
    def key(self) -> str:
        return f"flat/{keys.digest(self.source, keys.plain(self.spec))}"


class WriteFlat(TaskArgument):
    """A component's flat pattern to be written as DXF, of side B mirrored."""

    source: str
    spec: FlatSpec
    writing: FlatWriting
    side_b: bool = False

    @property
    def key(self) -> str:
        return f"flat/{keys.digest(self.source, keys.plain(self))}"


@task(FindSheets, "readying")
def find_sheets(asked: FindSheets, blobs: str, report: Progress) -> None:
    """Each part of a model with its kind, the reason, and what is known of its flat pattern where it has one."""
    from skalto.services.results.flat import sheet_parts

    store = Blobs(blobs)
    store.put(f"{asked.key}.json", orjson.dumps(sheet_parts(store, asked.source, report)))


@task(HelpFindSheets, "readying")
def help_find_sheets(asked: HelpFindSheets, blobs: str, report: Progress) -> None:
    """The parts of a large model from the last one on, until the other worker is met."""
    from skalto.services.results.flat import look_from_the_end

    store = Blobs(blobs)
    look_from_the_end(store, asked.source, report)
    store.put(f"{asked.key}.json", b"[]")


@task(DrawParts, "readying")
def draw_parts(asked: DrawParts, blobs: str, report: Progress) -> None:
    """A picture of each part of a model, for lists."""
    from skalto.services.results.flat import part_pictures

    store = Blobs(blobs)
    store.put(f"{asked.key}.json", orjson.dumps(part_pictures(store, asked.source, report)))


@task(FindEdges, "readying")
def find_edges(asked: FindEdges, blobs: str, report: Progress) -> None:
    """The edges of a part as lines. :raises InputError: when it is not there."""
    from skalto.services.results.flat import part_edges

    store = Blobs(blobs)
    store.put(f"{asked.key}.json", orjson.dumps(part_edges(store, asked.source, asked.component)))


@task(UnfoldPart, "drawing")
def unfold_part(asked: UnfoldPart, blobs: str, report: Progress) -> None:
    """A flat pattern as paths, with what is known of it, and its regions to be folded. :raises InputError: when it has none."""
    from skalto.services.results.flat import flat_pattern, picture_of_pattern

    report(0.1, "Unfolding")
    store = Blobs(blobs)
    made = flat_pattern(store, asked.source, asked.spec)
    store.put(f"{asked.key}.json", orjson.dumps(picture_of_pattern(made)))


@task(WriteFlat, "writing")
def write_flat(asked: WriteFlat, blobs: str, report: Progress) -> None:
    """The file's name and its text, read again and found right. :raises InputError: when it is not, or there is no pattern."""
    from skalto.core.errors import InputError
    from skalto.core.packs import safe
    from skalto.core.sheet_metal.pattern_dxf import other_side, reread, write_pattern
    from skalto.services.results.flat import flat_pattern

    report(0.1, "Unfolding")
    store = Blobs(blobs)
    made, writing = flat_pattern(store, asked.source, asked.spec), asked.writing
    stem = safe(made.name) or "part"
    if asked.side_b:
        made, stem = other_side(made), writing.other_name(stem)
    report(0.6, "Writing")
    written = write_pattern(made, writing)
    wrong = reread(written.data, made, writing)
    if wrong:
        raise InputError(f"The file was read again and is not as it should be: {wrong[0]}")
    store.put(f"{asked.key}.dxf", written.data)
    store.put(f"{asked.key}.json", orjson.dumps({"name": f"{stem}.dxf"}))
