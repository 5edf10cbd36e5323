"""The manifest of a release: every file with its hash, what it is of, and what was measured, as CSV and JSON."""

from __future__ import annotations

import hashlib
from datetime import datetime

from pydantic import BaseModel, ConfigDict, ValidationError

from skalto.core.errors import InputError
from skalto.core.spreadsheets import csv_of


class ManifestFile(BaseModel):
    """A file of a release. *thickness* and *cut_length* in mm, *mass* in g; *content* is what it is known again by when the
    next release looks for what has changed."""

    model_config = ConfigDict(frozen=True)

    file: str
    sha256: str
    size: int
    kind: str
    part: str
    mark: str = ""
    revision: str = ""
    state: str = ""
    material: str = ""
    thickness: float | None = None
    quantity: int | None = None
    mass: float | None = None
    cut_length: float | None = None
    pierces: int | None = None
    checks: str = ""
    recipe: str = ""
    recipe_version: int | None = None
    sources: tuple[str, ...] = ()
    content: str = ""
    rules: str = ""
    """The id of the rules that it is of: those alone know whether it is gone."""
    made: bool = True
    """Whether this release made it; else it is as the last one left it."""


class Manifest(BaseModel):
    """What a release left in its outbox."""

    model_config = ConfigDict(frozen=True)

    job: str
    job_number: str = ""
    rules: str
    rules_version: int
    released: datetime
    files: tuple[ManifestFile, ...]

    def hashes(self) -> dict[str, str]:
        """The SHA-256 of every file that the release left, by its path, the manifest's own among them."""
        own = {CSV_NAME: manifest_csv(self), JSON_NAME: manifest_json(self)}
        return {file.file: file.sha256 for file in self.files} | {
            name: hashlib.sha256(data).hexdigest() for name, data in own.items()
        }

    def known(self) -> dict[str, ManifestFile]:
        """The files by their paths."""
        return {file.file: file for file in self.files}


JSON_NAME, CSV_NAME = "manifest.json", "manifest.csv"
_COLUMNS = (
    "file", "sha256", "size", "kind", "part", "mark", "revision", "state", "material", "thickness", "quantity", "mass",
    "cut_length", "pierces", "checks", "recipe", "recipe_version", "sources", "made",
)  # fmt: skip


def manifest_csv(manifest: Manifest) -> bytes:
    """As CSV (RFC 4180), a row a file."""
    rows = []
    for file in manifest.files:
        row = file.model_dump() | {"sources": " ".join(file.sources), "made": "yes" if file.made else "no"}
        rows.append([row[name] for name in _COLUMNS])
    return csv_of((_COLUMNS, *rows)).encode()


def manifest_json(manifest: Manifest) -> bytes:
    return (manifest.model_dump_json(indent=1) + "\n").encode()


def read_manifest(data: bytes) -> Manifest:
    """:raises InputError: when it is no manifest."""
    try:
        return Manifest.model_validate_json(data)
    except ValidationError:
        raise InputError("This is no manifest of a release: name the folder of an earlier release.") from None
