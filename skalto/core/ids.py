"""What names may look like: none of them can be a path."""

from __future__ import annotations

from typing import Annotated

from pydantic import StringConstraints

ContentId = Annotated[str, StringConstraints(pattern=r"^[0-9a-f]{64}$")]
"""Content by its SHA-256, hexadecimal."""

ShortId = Annotated[str, StringConstraints(pattern=r"^[0-9A-Za-z][0-9A-Za-z ._-]{0,63}$")]
"""Anything else that is named by us: a sheet, a view, a note, a recipe; where the kind of source is open, a source too."""
