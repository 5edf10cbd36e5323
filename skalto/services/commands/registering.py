"""The command line's use cases of the parts register: the parts of a model, and the marks of a job."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from skalto.core.errors import InputError
from skalto.core.job import JobDocument
from skalto.core.progress import Progress, silent
from skalto.core.release.marks import numbered
from skalto.core.release.register import ModelAtHand, PartRow
from skalto.core.release.table import as_table
from skalto.core.sources.formats import is_drawing
from skalto.core.sources.section import SourceRef
from skalto.services.commands.files_out import FilesOut
from skalto.services.commands.memory import Workshop, workshop
from skalto.services.results.flat import sheet_parts
from skalto.services.results.register import model_at_hand, rows_of, with_marks
from skalto.services.stored.jobfile import read_job_file


def part_row(row: PartRow) -> dict[str, Any]:
    """What is told of a row, mm and g."""
    return {
        "part": row.key, "mark": row.mark, "name": row.name, "description": row.description, "number": row.number,
        "revision": row.revision, "kind": row.kind.value, "material": row.material, "finish": row.finish,
        "thickness": row.thickness, "quantity": row.quantity, "mass": None if row.mass is None else round(row.mass, 6),
        "size": [round(v, 6) for v in row.size], "fields": row.fields, "components": list(row.components),
    }  # fmt: skip


def models_of(bench: Workshop, document: JobDocument, report: Progress) -> list[ModelAtHand]:
    """The models of a job that were read, looked through."""
    return [
        model_at_hand(bench.blobs, ref.id, ref.name, sheet_parts(bench.blobs, ref.id, report))
        for ref in document.sources
        if not ref.drawing
    ]


def read_models(bench: Workshop, path: Path) -> tuple[JobDocument, str]:
    """The document and number of a job file, its models read. :raises InputError: when it has none, or one is missing."""
    file = read_job_file(path)
    wanted = [ref for ref in file.document.sources if not ref.drawing]
    if not wanted:
        raise InputError(f"{path.name} has no model: bring one in first.")
    found = file.found(path)
    for ref in wanted:
        if ref.id not in found:
            raise InputError(f"{path.name} lists no file for {ref.name}: save the job again.")
        bench.read(found[ref.id], file.document.source(ref.id).named, ref.id)
    return file.document, file.number


def list_parts(path: str, out: str, overwrite: bool, report: Progress) -> dict[str, Any]:
    """The parts register of a model, also as CSV where *out* names a file. :raises InputError: for a file that is no model."""
    file, files = Path(path), FilesOut(overwrite, [path])
    if out:
        files.check(out)
    if is_drawing(file.name):
        raise InputError(f"{file.name} is a drawing, which has no parts: give a model, such as a STEP file.")
    with workshop(report) as bench:
        source = bench.read(file)
        ref = SourceRef(id=source, name=file.name, size=file.stat().st_size)
        document = JobDocument(name=file.stem or "job", sources=(ref,))
        rows = rows_of(document, models_of(bench, document, silent))
    if out:
        files.add(out, as_table(rows, ()).encode())
    return {"parts": [part_row(row) for row in rows], "notices": files.write()}


def list_marks(path: str, report: Progress) -> dict[str, Any]:
    """The parts of a job file as a numbering would mark them: what is new, kept, changed and gone since its last.

    :raises InputError: for a bad job file, and a model that is missing.
    """
    with workshop(report) as bench:
        document, _ = read_models(bench, Path(path))
        rows = rows_of(document, models_of(bench, document, silent))
        made = numbered(rows, document.given_marks, document.series)
        rows = rows_of(with_marks(document, made), models_of(bench, document, silent))
    return {
        "parts": [part_row(row) for row in rows],
        "new": [made.marks[row.key] for row in made.new],
        "kept": [made.marks[row.key] for row in made.kept],
        "changed": [own.mark for own in made.changed],
        "gone": [own.mark for own in made.gone],
    }
