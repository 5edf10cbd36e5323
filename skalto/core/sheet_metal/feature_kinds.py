"""What a sheet has beside what is cut through it."""

from __future__ import annotations

from enum import StrEnum


class FeatureKind(StrEnum):
    """What is on a sheet that is not cut through."""

    COUNTERSINK = "countersink"
    COUNTERBORE = "counterbore"
    POCKET = "pocket"
    FORMED = "formed"
    BOSS = "boss"
    """What stands on one side alone."""
    BEVEL = "bevel"
    """The other edge of a wall that is not square to the sheet."""
