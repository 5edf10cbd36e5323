"""Filled areas of a finished file against those that were asked for, edge by edge."""

from __future__ import annotations

from skalto.core.checks.paint import ASPECTS
from skalto.core.checks.strokes import Pieces, compare, told_of
from skalto.core.checks.verdict import Check


def area_checks(asked: Pieces, found: Pieces, number: int, side: float) -> list[Check]:
    """The comparison of filled areas as checks; nothing where there are none."""
    differences = compare(asked, found, side)
    rows = (
        ("missing", "Missing areas", differences.missing, "asked for and not filled"),
        ("added", "Added areas", differences.added, "filled, and nobody asked for them"),
        ("doubled", "Doubled areas", differences.doubled, "filled more often than asked for"),
        *((name, f"{ASPECTS[name][0]} of areas", own, ASPECTS[name][1]) for name, own in differences.otherwise.items()),
    )
    checks = [
        Check(
            code=f"areas-{code}", title=title, verdict="fails", reading=f"{told_of(pieces, 'edge')}: {what}", page=number,
            place=pieces.box(),
        )
        for code, title, pieces, what in rows
        if len(pieces)
    ]  # fmt: skip
    if checks or not len(found):
        return checks
    reading = f"{len(found)} edges, each where it was asked for, filled with its colour"
    return [Check(code="areas", title="Filled areas", verdict="holds", reading=reading, page=number)]
