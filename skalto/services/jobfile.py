"""The job file: a job as versioned JSON with its sources beside it.

``NAME.skalto.json`` holds an object with ``skalto_job`` (the version of this form, 1), ``number`` (the job's), ``document``
(as :class:`~skalto.core.job.JobDocument` has it) and ``sources``: for each the ``id`` (SHA-256 of its bytes, hex), ``name``
and ``file`` (a path from the job file's folder, always under it). The browser saves and opens both in one zip archive.
"""

from __future__ import annotations

import io
import re
import zipfile
from pathlib import Path, PurePosixPath

from pydantic import BaseModel, ConfigDict, ValidationError, field_validator

from skalto.core.errors import InputError
from skalto.core.job import JobDocument, first_sentence
from skalto.store.blobs import content_hash

FORM = 1
ENDING = ".skalto.json"


class SourceFile(BaseModel):
    """A source and where its file lies."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    id: str
    name: str
    file: str

    @field_validator("file")
    @classmethod
    def _beneath(cls, file: str) -> str:
        path = PurePosixPath(file)
        if path.is_absolute() or ".." in path.parts:
            raise ValueError(f"“{file}” does not lie beside the job file.")
        return file


class JobFile(BaseModel):
    """A job with the places of its sources."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    skalto_job: int = FORM
    number: str = ""
    document: JobDocument
    sources: tuple[SourceFile, ...]

    def found(self, path: Path) -> dict[str, Path]:
        """The sources' files by id, for a job file at *path*.

        :raises InputError: when one is missing or is no longer what it was.
        """
        result = {}
        for source in self.sources:
            file = path.parent / source.file
            if not file.is_file():
                raise InputError(f"{source.name} is missing: put it at {source.file} beside the job file.")
            if content_hash(file.read_bytes()) != source.id:
                raise InputError(
                    f"{source.name} has changed since the job was saved: bring it in as a newer revision and save."
                )
            result[source.id] = file
        wanted = {view.source for sheet in self.document.sheets for view in sheet.views}
        if not wanted <= set(result):
            raise InputError(f"{path.name} lists no file for one of its sources: save the job again.")
        return result


def _parsed(data: bytes, name: str) -> JobFile:
    try:
        file = JobFile.model_validate_json(data)
    except ValidationError as error:
        raise InputError(f"{name} is not a job file: {first_sentence(error)}") from None
    if file.skalto_job != FORM:
        raise InputError(f"{name} is a job file of form {file.skalto_job}; this release reads form {FORM}.")
    return file


def read_job_file(path: Path) -> JobFile:
    """:raises InputError: when it is not a job file of this form."""
    return _parsed(path.read_bytes(), path.name)


def _safe(name: str) -> str:
    return re.sub(r"[^\w. -]+", "_", name).strip() or "job"


def pack_job(document: JobDocument, number: str, sources: dict[str, bytes]) -> tuple[str, bytes]:
    """A job and its sources' bytes by id as a zip archive: its file name and its bytes."""
    listed = []
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for count, source in enumerate(s for s in document.sources if s.id in sources):
            file = f"sources/{count + 1}-{_safe(source.name)}"
            listed.append(SourceFile(id=source.id, name=source.name, file=file))
            archive.writestr(file, sources[source.id])
        content = JobFile(number=number, document=document, sources=tuple(listed))
        archive.writestr(f"{_safe(document.name)}{ENDING}", content.model_dump_json(indent=1))
    return f"{_safe(document.name)}.zip", out.getvalue()


def unpack_job(data: bytes, limit: int) -> tuple[JobFile, dict[str, bytes]]:
    """What :func:`pack_job` made. :raises InputError: when it is no such archive, or larger than *limit* bytes."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            if sum(info.file_size for info in archive.infolist()) > limit:
                raise InputError(f"The archive holds more than {limit // 1_000_000} MB: leave out what the job does not use.")
            names = [name for name in archive.namelist() if name.endswith(ENDING)]
            if len(names) != 1:
                raise InputError(f"The archive holds no job: it must have one file that ends in {ENDING}.")
            file = _parsed(archive.read(names[0]), names[0])
            folder = PurePosixPath(names[0]).parent
            found = {}
            for source in file.sources:
                content = archive.read(str(folder / source.file))
                if content_hash(content) != source.id:
                    raise InputError(f"{source.name} in the archive is not what the job was made from: save the job again.")
                found[source.id] = content
            return file, found
    except zipfile.BadZipFile:
        raise InputError("This is not a saved job: choose the .zip that was saved here.") from None
    except KeyError as error:
        raise InputError(f"The archive lacks a source ({error.args[0]}): save the job again.") from None
