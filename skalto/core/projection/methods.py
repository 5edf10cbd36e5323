"""What finds hidden lines."""

from __future__ import annotations

from enum import StrEnum


class HiddenLines(StrEnum):
    """Facets with exact ends, or the kernel's own algorithm."""

    FACETS = "facets"
    KERNEL = "kernel"
