"""Where results are kept: each under a key of what it was made from, so that nothing is made twice."""

from __future__ import annotations

import hashlib
import json

from skalto.core.projection.view import ProjectionSpec
from skalto.core.sheets.sheet import SheetSpec

VERSION = 3
"""Counts up when the same inputs give other results than before."""


def digest(*parts: object) -> str:
    """A short name for a set of inputs."""
    text = json.dumps([VERSION, *parts], sort_keys=True, separators=(",", ":"))
    return hashlib.sha256(text.encode()).hexdigest()[:40]


def file_key(source: str) -> str:
    """The file itself, under the hash of its content."""
    return f"files/{source}"


def model_key(source: str, part: str) -> str:
    """A part of a model that was read: ``tree.json``, ``shapes.bin``, ``scene.glb``."""
    return f"models/v{VERSION}/{source}/{part}"


def view_key(source: str, spec: ProjectionSpec) -> str:
    """The lines of a view."""
    plain = spec.model_dump(mode="json") | {"hidden": sorted(spec.hidden)}
    return f"views/{digest(source, plain)}"


def proof_key(sheet: SheetSpec, title: str) -> str:
    """The finished file of a sheet."""
    plain = sheet.model_dump(mode="json")
    for view in plain["views"]:
        view["hidden"] = sorted(view["hidden"])
    return f"proofs/{digest(plain, title)}"
