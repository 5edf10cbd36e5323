"""Marks: what equal parts go by. They are given once, from series, and stay."""

from __future__ import annotations

import re
from collections.abc import Collection, Sequence
from dataclasses import dataclass

from skalto.core.errors import InputError
from skalto.core.release.register import PartRow, same_identity
from skalto.core.release.section import GivenMark, MarkSeries
from skalto.core.sources.models.parts import PartKind


@dataclass(frozen=True)
class Changed:
    """A part that was another when it got its mark: whether it keeps that is asked."""

    row: PartRow
    mark: str


@dataclass(frozen=True)
class Numbering:
    """What a numbering comes to: the *marks* of parts by their keys, what is *given* from now on, and what is new, kept,
    changed and not answered for, and gone since the last."""

    marks: dict[str, str]
    given: tuple[GivenMark, ...]
    new: tuple[PartRow, ...]
    kept: tuple[PartRow, ...]
    changed: tuple[Changed, ...]
    gone: tuple[GivenMark, ...]


def numbered(
    rows: Sequence[PartRow], given: Sequence[GivenMark], series: Sequence[MarkSeries],
    keep: Collection[str] = (), renew: Collection[str] = (),
) -> Numbering:  # fmt: skip
    """Give marks to the rows of a register. What did not change keeps its mark; what did and is in *keep*, by its mark, too;
    what is in *renew* gets another. A changed part that is in neither has no mark of its own until somebody has answered.

    :raises InputError: when a kind of part is in no series, or a mark is in both.
    """
    both = set(keep) & set(renew)
    if both:
        raise InputError(f"{sorted(both)[0]} is to stay and to be given anew: say one.")
    live = {own.mark: own for own in given if not own.dropped}
    used = {own.mark for own in given}
    of_row: dict[int, str] = {}
    # what did not change, however it is called now: its own name first, so that of two that are equal each keeps its own
    for by_name in (True, False):
        for number, row in enumerate(rows):
            if number in of_row:
                continue
            for mark, own in live.items():
                if (
                    mark not in of_row.values()
                    and (own.key == row.key or not by_name)
                    and same_identity(own.identity, row.identity)
                ):
                    of_row[number] = mark
                    break
    kept = [rows[number] for number in sorted(of_row)]
    changed: list[Changed] = []
    for number, row in enumerate(rows):
        if number in of_row:
            continue
        before = next((own for mark, own in live.items() if own.key == row.key and mark not in of_row.values()), None)
        if before is None or before.mark in renew or (before.kind is PartKind.ASSEMBLY) != (row.kind is PartKind.ASSEMBLY):
            continue
        of_row[number] = before.mark
        if before.mark in keep:
            kept.append(row)
        else:
            changed.append(Changed(row, before.mark))
    waiting = {row.mark for row in changed}
    new = []
    for number, row in enumerate(rows):
        if number not in of_row:
            of_row[number] = mark = _next(row.kind, series, used)
            used.add(mark)
            new.append(row)
    made = [
        GivenMark(mark=of_row[number], key=row.key, kind=row.kind, identity=row.identity)
        if of_row[number] not in waiting
        else live[of_row[number]]
        for number, row in enumerate(rows)
    ]
    now = {own.mark for own in made}
    gone = [own for mark, own in live.items() if mark not in now]
    dropped = [own.model_copy(update={"dropped": True}) for own in given if own.mark not in now]
    marks = {key: of_row[number] for number, row in enumerate(rows) for key in row.keys}
    return Numbering(marks, (*dropped, *made), tuple(new), tuple(kept), tuple(changed), tuple(gone))


def _next(kind: PartKind, series: Sequence[MarkSeries], used: Collection[str]) -> str:
    """The next mark of a kind's series: after the last that was ever given."""
    found = next((own for own in series if kind in own.kinds), None)
    if found is None:
        raise InputError(f"No series of marks is for {kind.value}: add the kind to one.")
    numbers = [int(m.group(1)) for mark in used if (m := re.fullmatch(re.escape(found.prefix) + r"(\d+)", mark))]
    if not numbers:
        return found.mark(found.start)
    beyond = max(0, max(numbers) - found.start)
    return found.mark(found.start + (beyond // found.step + 1) * found.step if max(numbers) >= found.start else found.start)
