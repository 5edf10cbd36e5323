"""Job files: what was saved opens as it was, and what is damaged, missing or meddled with says so."""

from __future__ import annotations

import io
import json
import tempfile
import zipfile
from collections.abc import Iterator
from contextlib import suppress
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from skalto.core.errors import InputError
from skalto.core.job import JobDocument
from skalto.core.quantities import Scale
from skalto.core.sheets.content import ProjectionContent
from skalto.core.sheets.sheet import SheetSpec, ViewSpec
from skalto.core.sources.section import SourceRef
from skalto.services.stored.jobfile import JobFile, read_job_file, unpack_job
from skalto.store.blobs import content_hash
from tests.saved import packed_job

DATA = b"ISO-10303-21; a plate"
SOURCE = content_hash(DATA)
VIEW = ViewSpec(id="v", source=SOURCE, name="front", content=ProjectionContent(look=(0, 1, 0), up=(0, 0, 1)), scale=Scale(1, 2))
JOB = JobDocument(
    name="Ebba: press / frame",
    sources=(SourceRef(id=SOURCE, name="plate é.step", size=len(DATA)),),
    sheets=(SheetSpec(id="s", name="Plate", format="90x60mm", views=(VIEW,)),),
    title={"owner": "Verkstan"},
)
LIMIT = 10_000_000


def packed() -> bytes:
    return packed_job(JOB, "0042", {SOURCE: DATA})[1]


def again(change: dict[str, bytes | None]) -> bytes:
    """The archive with files replaced, or left out."""
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(packed())) as old, zipfile.ZipFile(out, "w") as new:
        for name in old.namelist():
            kind = "job" if name.endswith(".skalto.json") else "source"
            if kind not in change:
                new.writestr(name, old.read(name))
            elif (content := change[kind]) is not None:
                new.writestr(name, content)
    return out.getvalue()


def content() -> dict[str, object]:
    with zipfile.ZipFile(io.BytesIO(packed())) as archive:
        found = json.loads(archive.read(next(n for n in archive.namelist() if n.endswith(".json"))))
    assert isinstance(found, dict)
    return found


def unpacked(data: bytes, limit: int = LIMIT) -> tuple[JobFile, dict[str, bytes]]:
    """The job in an archive, and its sources' bytes."""
    found: dict[str, bytes] = {}
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "job.zip"
        path.write_bytes(data)
        file = unpack_job(path, limit, lambda source, own: found.update({source: own.read_bytes()}))
    return file, found


def test_what_was_saved_opens_as_it_was() -> None:
    name, data = packed_job(JOB, "0042", {SOURCE: DATA})
    # nothing in the name that a file system would take for a folder
    assert name == "Ebba_ press _ frame.zip"
    file, sources = unpacked(data)
    assert (file.document, file.number, sources) == (JOB, "0042", {SOURCE: DATA})
    assert content()["skalto_job"] == 1


def test_a_job_file_lies_beside_its_sources(tmp_path: Path) -> None:
    with zipfile.ZipFile(io.BytesIO(packed())) as archive:
        archive.extractall(tmp_path)
    (path,) = tmp_path.glob("*.skalto.json")
    file = read_job_file(path)
    assert file.document == JOB
    found = file.found(path)
    assert found[SOURCE].read_bytes() == DATA
    found[SOURCE].write_bytes(b"another plate")
    with pytest.raises(InputError, match="has changed since the job was saved"):
        file.found(path)
    found[SOURCE].unlink()
    with pytest.raises(InputError, match="is missing: put it at sources/"):
        file.found(path)


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"%PDF-1.7", "not a saved job"),
        (again({"job": None}), "holds no job"),
        (again({"source": None}), "lacks a source"),
        (again({"source": b"another plate"}), "not what the job was made from"),
        (again({"job": b"{"}), "not a job file"),
        (again({"job": json.dumps(content() | {"skalto_job": 9}).encode()}), r"form 9; this release \(.+\) reads form 1"),
        (again({"job": json.dumps(content() | {"surprise": 1}).encode()}), "not a job file"),
    ],
    ids=["no archive", "no job", "no source", "other source", "no json", "later form", "unknown field"],
)
def test_what_is_wrong_with_an_archive_is_said(data: bytes, words: str) -> None:
    with pytest.raises(InputError, match=words):
        unpacked(data)


@pytest.mark.parametrize("path", ["/etc/passwd", "../../plate.step", "sources/../../x"])
def test_a_source_lies_beneath_the_job_file(path: str) -> None:
    listed = content()["sources"]
    assert isinstance(listed, list)
    wrong = content() | {"sources": [listed[0] | {"file": path}]}
    with pytest.raises(InputError, match="does not lie beside the job file"):
        unpacked(again({"job": json.dumps(wrong).encode()}))


def test_an_archive_has_a_largest_size() -> None:
    with pytest.raises(InputError, match="remove what the job does not use"):
        unpacked(packed(), 10)


def test_an_archive_that_grows_without_end_is_refused_early() -> None:
    """A gigabyte of nothing in a megabyte, and sizes that lie."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("a.skalto.json", b"{}")
        with archive.open("sources/1-a.stl", "w") as file:
            for _ in range(100):
                file.write(bytes(1_000_000))
    data = out.getvalue()
    with pytest.raises(InputError, match="remove what the job does not use"):
        unpacked(data, 500_000_000)
    # the same, with a directory that claims ten bytes
    lying = data.replace((100_000_000).to_bytes(4, "little"), (10).to_bytes(4, "little"))
    assert lying != data
    with pytest.raises(InputError):
        unpacked(lying, 500_000_000)
    many = io.BytesIO()
    with zipfile.ZipFile(many, "w") as archive:
        for number in range(2_001):
            archive.writestr(str(number), b"")
    with pytest.raises(InputError, match="holds 2001 files"):
        unpacked(many.getvalue())


def odd_archives() -> Iterator[tuple[str, bytes]]:
    data = packed()
    central = data.index(b"PK\x01\x02")
    for name, at, value in (
        ("locked", 8, 0x801),
        ("unknown method", 10, 99),
        ("zstd", 10, 93),
        ("lzma", 10, 14),
        ("bzip2", 10, 12),
    ):
        changed = bytearray(data)
        changed[central + at : central + at + 2] = value.to_bytes(2, "little")
        changed[at - 2 : at] = value.to_bytes(2, "little")
        yield name, bytes(changed)
    for share in (0.01, 0.1, 0.5, 0.97):
        yield f"cut at {share:.0%}", data[: int(len(data) * share)]
    yield "twice", data + data
    yield "empty", b""


@pytest.mark.parametrize(("name", "data"), list(odd_archives()), ids=[name for name, _ in odd_archives()])
def test_odd_archives_end_in_a_sentence(name: str, data: bytes) -> None:
    if name == "twice":
        unpacked(data)
        return
    words = "locked with a password" if name == "locked" else r"\.$"
    with pytest.raises(InputError, match=words):
        unpacked(data)


@settings(max_examples=300, deadline=None)
@given(st.lists(st.tuples(st.integers(0, len(packed()) - 1), st.integers(0, 255)), min_size=1, max_size=6))
def test_any_damage_ends_in_a_sentence(changes: list[tuple[int, int]]) -> None:
    data = bytearray(packed())
    for at, value in changes:
        data[at] = value
    with suppress(InputError):
        file, sources = unpacked(bytes(data))
        assert sources == {SOURCE: DATA}
        assert file.sources[0].id == SOURCE


def test_a_source_that_no_file_is_listed_for_is_told(tmp_path: Path) -> None:
    path = tmp_path / "job.skalto.json"
    path.write_text(json.dumps(content() | {"sources": []}))
    with pytest.raises(InputError, match="lists no file for one of its sources"):
        read_job_file(path).found(path)
