"""Marks: what equal parts go by. They are given once, from series, and stay."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass

from skalto.core.errors import InputError
from skalto.core.release.register import PartRow, likeness, same_identity
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
    alike: dict[object, list[GivenMark]] = {}
    called: dict[str, list[GivenMark]] = {}
    for own in live.values():
        alike.setdefault(likeness(own.identity), []).append(own)
        called.setdefault(own.key, []).append(own)
    of_row: dict[int, str] = {}
    taken: set[str] = set()

    def take(number: int, mark: str) -> None:
        of_row[number] = mark
        taken.add(mark)

    # what did not change, however it is called now: its own name first, so that of two that are equal each keeps its own
    for by_name in (True, False):
        for number, row in enumerate(rows):
            if number in of_row:
                continue
            for own in alike.get(likeness(row.identity), ()):
                if own.mark in taken or (by_name and own.key != row.key):
                    continue
                if same_identity(own.identity, row.identity):
                    take(number, own.mark)
                    break
    kept = [rows[number] for number in sorted(of_row)]
    changed: list[Changed] = []
    for number, row in enumerate(rows):
        if number in of_row:
            continue
        before = next((own for own in called.get(row.key, ()) if own.mark not in taken), None)
        if before is None or before.mark in renew or (before.kind is PartKind.ASSEMBLY) != (row.kind is PartKind.ASSEMBLY):
            continue
        take(number, before.mark)
        if before.mark in keep:
            kept.append(row)
        else:
            changed.append(Changed(row, before.mark))
    waiting = {row.mark for row in changed}
    new = []
    numbers = _Numbers(series, used)
    for number, row in enumerate(rows):
        if number not in of_row:
            of_row[number] = numbers.next(row.kind)
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


class _Numbers:
    """The numbers of series that are still free: after the last that was ever given."""

    def __init__(self, series: Sequence[MarkSeries], used: Collection[str]) -> None:
        self._series, self._last = series, {own.prefix: _last(own, used) for own in series}

    def next(self, kind: PartKind) -> str:
        """The next mark of a kind's series. :raises InputError: when the kind is in none."""
        found = next((own for own in self._series if kind in own.kinds), None)
        if found is None:
            raise InputError(f"No series of marks is for {kind.value}: add the kind to one.")
        last = self._last[found.prefix]
        number = found.start
        if last is not None and last >= found.start:
            number += ((last - found.start) // found.step + 1) * found.step
        self._last[found.prefix] = number
        return found.mark(number)


def _last(series: MarkSeries, used: Collection[str]) -> int | None:
    after = [mark.removeprefix(series.prefix) for mark in used if mark.startswith(series.prefix)]
    return max((int(rest) for rest in after if rest.isdecimal()), default=None)
