"""Saved jobs as bytes."""

from __future__ import annotations

import io
import tempfile
from pathlib import Path

from skalto.core.job import JobDocument
from skalto.services.stored.jobfile import pack_job


def packed_job(document: JobDocument, number: str, sources: dict[str, bytes]) -> tuple[str, bytes]:
    """What an archive is called, and its bytes."""
    out = io.BytesIO()
    with tempfile.TemporaryDirectory() as folder:
        files = {}
        for source, data in sources.items():
            files[source] = Path(folder) / source
            files[source].write_bytes(data)
        name = pack_job(document, number, files, out)
    return name, out.getvalue()
