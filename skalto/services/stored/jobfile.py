"""The job file: a job as versioned JSON with its sources beside it.

``NAME.skalto.json`` holds an object with ``skalto_job`` (the version of this form, 1), ``number`` (the job's), ``document``
(as :class:`~skalto.core.job.JobDocument` has it) and ``sources``: for each the ``id`` (SHA-256 of its bytes, hex), ``name``
and ``file`` (a path from the job file's folder, always under it). The browser saves and opens both in one zip archive.
"""

from __future__ import annotations

import errno
import hashlib
import json
import lzma
import re
import struct
import tempfile
import zipfile
import zlib
from collections.abc import Callable, Mapping
from pathlib import Path, PurePosixPath
from typing import IO

from pydantic import BaseModel, ConfigDict, ValidationError, field_validator

from skalto import __version__
from skalto.core.errors import InputError, first_sentence
from skalto.core.job import JobDocument
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
                raise InputError(f"{source.name} has changed since the job was saved: add it as a newer revision and save.")
            result[source.id] = file
        wanted = {view.source for sheet in self.document.sheets for view in sheet.views}
        if not wanted <= set(result):
            raise InputError(f"{path.name} lists no file for one of its sources: save the job again.")
        return result


def _parsed(data: bytes, name: str) -> JobFile:
    # its form first: one of another form need not have the fields of this one
    try:
        raw = json.loads(data)
    except (ValueError, RecursionError):
        raw = None
    form = raw.get("skalto_job", FORM) if isinstance(raw, dict) else FORM
    if isinstance(form, int) and form != FORM:
        raise InputError(
            f"{name} is a job file of form {form}; this release ({__version__}) reads form {FORM}: open it with the release "
            "that wrote it."
        )
    try:
        return JobFile.model_validate_json(data)
    except ValidationError as error:
        raise InputError(f"{name} is not a job file: {first_sentence(error)}") from None


def read_job_file(path: Path) -> JobFile:
    """:raises InputError: when it is not a job file of this form."""
    return _parsed(path.read_bytes(), path.name)


def _safe(name: str) -> str:
    return re.sub(r"[^\w. -]+", "_", name).strip() or "job"


def pack_job(document: JobDocument, number: str, sources: Mapping[str, Path], out: IO[bytes]) -> str:
    """Write a job and its sources' files, by id, as a zip archive; what the archive is called."""
    listed = []
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for count, source in enumerate(s for s in document.sources if s.id in sources):
            file = f"sources/{count + 1}-{_safe(source.name)}"
            listed.append(SourceFile(id=source.id, name=source.name, file=file))
            archive.write(sources[source.id], file)
        content = JobFile(number=number, document=document, sources=tuple(listed))
        archive.writestr(f"{_safe(document.name)}{ENDING}", content.model_dump_json(indent=1))
    return f"{_safe(document.name)}.zip"


ENTRIES = 2_000
"""The most files that an archive may hold."""

RATIO, FREE = 200, 20_000_000
"""How many times an archive may grow, beyond so many bytes that it may grow to anyway. Text models shrink to a tenth."""

JOB_LIMIT = 50_000_000
"""Bytes of the job itself."""

_DAMAGED = "This archive is damaged or of an odd kind: save the job again where it came from."


def unpack_job(path: Path, limit: int, keep: Callable[[str, Path], None]) -> JobFile:
    """Take a job and its sources out of what :func:`pack_job` wrote.

    :param limit: bytes of one source; of all together four times as many. :param keep: is given each source's id and its file,
        which is gone after.
    :raises InputError: when it is no such archive, when it is damaged, locked, or over a limit.
    """
    try:
        with zipfile.ZipFile(path) as archive:
            return _unpacked(archive, path.stat().st_size, limit, keep)
    except zipfile.BadZipFile:
        raise InputError("This is not a saved job: choose the .zip that was saved here.") from None
    except (RuntimeError, NotImplementedError) as error:
        locked = "encrypted" in str(error) or "password" in str(error)
        told = "This archive is locked with a password: unlock it first." if locked else _DAMAGED
        raise InputError(told) from None
    except OSError as error:
        # a place before the file's beginning, a stream that is none; a full disk is not the archive's fault
        if error.errno in (None, errno.EINVAL):
            raise InputError(_DAMAGED) from None
        raise
    except (zlib.error, lzma.LZMAError, EOFError, struct.error, UnicodeError, ValueError, OverflowError, IndexError):
        raise InputError(_DAMAGED) from None


def _unpacked(archive: zipfile.ZipFile, size: int, limit: int, keep: Callable[[str, Path], None]) -> JobFile:
    entries = archive.infolist()
    if len(entries) > ENTRIES:
        raise InputError(f"The archive holds {len(entries)} files, more than {ENTRIES}: it was not saved here.")
    allowed = min(4 * limit, max(FREE, RATIO * size))
    if sum(entry.file_size for entry in entries) > allowed:
        raise InputError(f"The archive holds more than {allowed // 1_000_000} MB: remove what the job does not use.")
    names = [entry.filename for entry in entries if entry.filename.endswith(ENDING)]
    if len(names) != 1:
        raise InputError(f"The archive holds no job: it must have one file that ends in {ENDING}.")
    with tempfile.TemporaryDirectory() as folder:
        one = Path(folder) / "one"
        left = allowed - _copied(archive, names[0], one, min(JOB_LIMIT, allowed))
        file = _parsed(one.read_bytes(), names[0])
        beside = PurePosixPath(names[0]).parent
        for source in file.sources:
            try:
                left -= _copied(archive, str(beside / source.file), one, min(limit, left))
            except KeyError:
                raise InputError(f"The archive lacks a source ({source.file}): save the job again.") from None
            with one.open("rb") as opened:
                if hashlib.file_digest(opened, "sha256").hexdigest() != source.id:
                    raise InputError(f"{source.name} in the archive is not what the job was made from: save the job again.")
            keep(source.id, one)
    listed = {source.id for source in file.sources}
    for wanted in file.document.sources:
        if wanted.id not in listed:
            raise InputError(f"The archive lacks {wanted.name}: save the job again.")
    return file


def _copied(archive: zipfile.ZipFile, name: str, to: Path, limit: int) -> int:
    """Write one file of an archive, whatever size it claims; how many bytes.

    :raises InputError: when there are more than *limit*.
    """
    taken = 0
    with archive.open(name) as packed, to.open("wb") as out:
        while piece := packed.read(1 << 20):
            taken += len(piece)
            if taken > limit:
                raise InputError(f"{PurePosixPath(name).name} in the archive has more than {limit // 1_000_000} MB.")
            out.write(piece)
    return taken
