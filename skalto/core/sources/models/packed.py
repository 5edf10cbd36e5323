"""Models that come packed: STEP under gzip or ZIP, and archives of several files that name one another."""

from __future__ import annotations

import gzip
import os
import re
import tempfile
import zipfile
import zlib
from collections.abc import Iterable, Mapping
from dataclasses import replace
from pathlib import Path, PurePosixPath

from skalto.core.errors import InputError
from skalto.core.progress import Progress
from skalto.core.sources.models.elsewhere import TAKEN, left_out, told_lost
from skalto.core.sources.models.model import Model
from skalto.core.sources.models.within import Within, pictures_lacking

MOST_BYTES, MOST_FILES = 1_000_000_000, 2_000
"""What an archive may come to when it is unpacked."""
_CHUNK = 1 << 20
_STEP = (".step", ".stp", ".p21")
_BEST = (_STEP, (".iges", ".igs"), (".glb", ".gltf"), (".obj",), (".brep", ".brp"), (".stl",), (".ply",))
"""Which kind of file an archive is read as, where it has several."""
_LOST = "The file refers to {}, which is not in the archive: parts in it are missing."
_KEPT = b"SKALTO_KEPT_HERE"
_DOCUMENT = re.compile(rb"\bDOCUMENT_FILE\s*\(\s*'([^']*)'")


def read_packed_step(path: Path, what: str, progress: Progress) -> Model:
    """Read a STEP file that is packed by gzip, or alone in a ZIP. :raises InputError: when it is neither, or damaged."""
    from skalto.core.sources.models.exchange import read_exchange

    with path.open("rb") as file:
        head = file.read(4)
    if head[:2] != b"\x1f\x8b":
        if head[:2] == b"PK":
            return read_archive(path, what, progress)
        raise InputError(f"{what} is not packed as STEP files are, by gzip or ZIP: add the .step file itself.")
    with tempfile.TemporaryDirectory() as folder:
        out = Path(folder) / "model.step"
        try:
            with gzip.open(path) as packed, out.open("wb") as file:
                _copy(packed, file, what, 0)
        except (OSError, EOFError, zlib.error):
            raise InputError(f"{what} is cut short, or damaged: copy or export it again.") from None
        model = read_exchange(out, "step", _inner(what), progress)
        return _lacking(model, left_out(out, "step"))


def _lacking(model: Model, lost: tuple[str, ...]) -> Model:
    """A model with what its file refers to and does not have."""
    return replace(model, tree=model.tree.model_copy(update={"lost": lost}))


def _inner(what: str) -> str:
    """What a packed file is called without its packing."""
    name = what[: -len(Path(what).suffix)]
    return name if Path(name).suffix.lower() in _STEP else f"{name}.step"


def read_archive(path: Path, what: str, progress: Progress) -> Model:
    """Read the model of a ZIP archive: that which no other file in it names; what it names beside itself is looked for in the
    archive alone.

    :raises InputError: for one that is damaged, too large, without a model, or with several.
    """
    from skalto.core.sources.models.exchange import read_brep, read_exchange
    from skalto.core.sources.models.meshes import read_mesh

    progress(0.01, "Unpacking the files")
    with tempfile.TemporaryDirectory() as place:
        folder = Path(place)
        names = _unpacked(path, folder, what)
        main = _main_of(folder, names, what)
        suffix = main.suffix.lower()
        called = main.name
        if suffix in _STEP:
            lost = told_lost(
                "The file refers to {}, which is not in the archive: parts in it are missing.", _settle(folder, names)
            )
            return _lacking(read_exchange(main, "step", called, progress, follows=True), lost)
        if suffix in (".iges", ".igs"):
            return read_exchange(main, "iges", called, progress)
        if suffix in (".brep", ".brp"):
            return read_brep(main, called, progress)
        model = read_mesh(main, suffix[1:], called, progress, around=folder)
        lost = left_out(main, suffix[1:], Within(folder, main).has)
        if suffix == ".obj":
            plain = [name.replace("\\", "/").rpartition("/")[2] for name in pictures_lacking(main, folder)]
            lost += told_lost("The picture {} is not in the archive: it is left out.", plain)
        return _lacking(model, lost)


def _copy(source: object, target: object, what: str, before: int) -> int:
    """Copy what is unpacked, and count it. :raises InputError: when it comes to more than :data:`MOST_BYTES`."""
    count = before
    while chunk := source.read(_CHUNK):  # type: ignore[attr-defined]
        count += len(chunk)
        if count > MOST_BYTES:
            raise InputError(f"{what} unpacks to more than {MOST_BYTES // 10**6} MB: take out what the model does not need.")
        target.write(chunk)  # type: ignore[attr-defined]
    return count


def _unpacked(path: Path, folder: Path, what: str) -> list[PurePosixPath]:
    """Unpack an archive; the names of its files, as they are within it."""
    names: list[PurePosixPath] = []
    count = 0
    try:
        with zipfile.ZipFile(path) as archive:
            entries = [own for own in archive.infolist() if not own.is_dir()]
            if len(entries) > MOST_FILES:
                raise InputError(f"{what} holds {len(entries)} files: pack the model's own alone.")
            for entry in entries:
                name = PurePosixPath(entry.filename.replace("\\", "/"))
                if name.is_absolute() or ".." in name.parts or ":" in entry.filename or entry.flag_bits & 1:
                    if entry.flag_bits & 1:
                        raise InputError(f"{what} is locked by a password: pack it without one.")
                    continue
                if name.name.startswith(".") or "__MACOSX" in name.parts:
                    continue
                target = folder / name
                target.parent.mkdir(parents=True, exist_ok=True)
                with archive.open(entry) as packed, target.open("wb") as file:
                    count = _copy(packed, file, what, count)
                names.append(name)
    except (zipfile.BadZipFile, zlib.error, EOFError, OSError, NotImplementedError, ValueError):
        raise InputError(f"{what} is no whole ZIP archive: copy or pack it again.") from None
    return names


def _main_of(folder: Path, names: Iterable[PurePosixPath], what: str) -> Path:
    """The file of an archive that is the model. :raises InputError: when there is none, or several."""
    known = [*names]
    for kinds in _BEST:
        found = [name for name in known if name.suffix.lower() in kinds]
        if not found:
            continue
        named = {PurePosixPath(own).name.casefold() for name in found for own in _names_in(folder / name)}
        tops = [name for name in found if name.name.casefold() not in named] or found
        if len(tops) == 1:
            return folder / tops[0]
        told = ", ".join(sorted(name.name for name in tops)[:4]) + (" …" if len(tops) > 4 else "")
        raise InputError(f"{what} holds several models: {told}. Add them one by one, or with the assembly that names them.")
    raise InputError(f"{what} holds no model: pack STEP, glTF or OBJ with what belongs to it.")


def _names_in(path: Path) -> list[str]:
    """The other models that a file names."""
    if path.suffix.lower() not in _STEP:
        return []
    return [own.decode("utf-8", "replace").replace("\\", "/") for own in _DOCUMENT.findall(path.read_bytes())]


def _settle(folder: Path, names: Iterable[PurePosixPath]) -> list[str]:
    """Have all STEP files of a folder name one another by where they lie in it, whatever the paths were that they had when they
    were packed; what is not there is named no more. The names of what is not there."""
    places: dict[str, PurePosixPath] = {}
    for name in names:
        places.setdefault(name.name.casefold(), name)
    lost: list[str] = []
    for name in names:
        path = folder / name
        if name.suffix.lower() in _STEP:
            data = path.read_bytes()
            if b"DOCUMENT_FILE" in data:
                path.write_bytes(_settled(data, name, places, lost))
    return lost


def _settled(data: bytes, at: PurePosixPath, places: Mapping[str, PurePosixPath], lost: list[str]) -> bytes:
    """A STEP file of an archive, which lies *at* a place in it, with the documents that it names; *lost* gathers the others."""
    moved: dict[bytes, bytes] = {}

    def found(match: re.Match[bytes]) -> bytes:
        raw = match[1]
        told = PurePosixPath(raw.decode("utf-8", "replace").replace("\\", "/")).name
        place = places.get(told.casefold())
        if place is None or place == at:
            lost.append(told or "another file")
            return match[0]
        moved[raw] = os.path.relpath(place, at.parent).replace("\\", "/").encode()
        return match[0].replace(b"DOCUMENT_FILE", _KEPT).replace(raw, moved[raw])

    data = _DOCUMENT.sub(found, data)
    for raw, place in moved.items():
        # where it is assigned to a product it is named once more
        data = data.replace(b"'" + raw + b"'", b"'" + place + b"'")
    # however it is written, a document that was not found leads nowhere
    return data.replace(b"DOCUMENT_FILE", TAKEN).replace(_KEPT, b"DOCUMENT_FILE")
