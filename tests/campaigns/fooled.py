"""Finished files that are altered by another library than wrote them, and measured again: what does harm must fail, what
changes nothing must pass.

``python -m tests.campaigns.fooled --count 200 --data FOLDER`` alters each of the demo's files so often, and ends with status
1 where one was fooled.
"""

from __future__ import annotations

import argparse
import random
import sys
import tempfile
from collections import Counter
from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from skalto.core.checks.verdict import Report
from skalto.core.errors import InputError
from skalto.store.blobs import Blobs
from tests.campaigns import altered_dxf, altered_pdf, altered_svg
from tests.campaigns.subjects import Subject, demo, of_job

Alter = Callable[[bytes, Any, random.Random], bytes | None]
WAYS: dict[str, tuple[Alter, dict[str, Any], dict[str, Any]]] = {
    ".pdf": (altered_pdf.altered, altered_pdf.HARMFUL, altered_pdf.HARMLESS),
    ".dxf": (altered_dxf.altered, altered_dxf.HARMFUL, altered_dxf.HARMLESS),
    ".svg": (altered_svg.altered, altered_svg.HARMFUL, altered_svg.HARMLESS),
}


@dataclass
class Told:
    """How many alterations were made and how many of them fooled the proof, which by name; what right files were failed for."""

    harmful: int = 0
    harmless: int = 0
    passed: Counter[str] = field(default_factory=Counter)
    failed: Counter[str] = field(default_factory=Counter)
    by_code: Counter[str] = field(default_factory=Counter)
    applied: Counter[str] = field(default_factory=Counter)


def failing(check: Callable[[bytes], Report], data: bytes) -> list[str]:
    """The codes that fail; a file that cannot be read is failed too."""
    try:
        report = check(data)
    except InputError:
        return ["not read"]
    return sorted(
        {own.code for own in report.checks if own.verdict == "fails"}
        | {own.code for own in report.findings if own.level == "error"}
    )


def run(subjects: Iterable[Subject], count: int, seed: int, told: Told | None = None, say: bool = False) -> Told:
    """Alter each subject so often, each time in a way by chance; harmless ways a fifth of it."""
    told = told or Told()
    for subject in subjects:
        alter, harmful, harmless = WAYS[subject.suffix]
        chance = random.Random(f"{seed} {subject.name} {subject.suffix}")
        before = failing(subject.check, subject.data)
        if before:
            told.failed[f"{subject.name}{subject.suffix} as it is: {', '.join(before)}"] += 1
            continue
        names = (
            [chance.choice(list(harmful)) for _ in range(count)]
            if count < len(harmful)
            else _spread(list(harmful), count, chance)
        )
        for name in names:
            data = alter(subject.data, harmful[name], chance)
            if data is None:
                continue
            told.harmful += 1
            told.applied[f"{subject.suffix} {name}"] += 1
            codes = failing(subject.check, data)
            told.by_code.update(codes)
            if not codes:
                told.passed[f"{subject.name}{subject.suffix}: {name}"] += 1
                if say:
                    print("PASSED", subject.name, subject.suffix, name, flush=True)
        for name in _spread(list(harmless), max(1, count // 5), chance):
            data = alter(subject.data, harmless[name], chance)
            if data is None:
                continue
            told.harmless += 1
            codes = failing(subject.check, data)
            if codes:
                told.failed[f"{subject.name}{subject.suffix}: {name}: {', '.join(codes)}"] += 1
    return told


def _spread(names: list[str], count: int, chance: random.Random) -> list[str]:
    """Each as often as any, in an order by chance."""
    rows = (names * (count // len(names) + 1))[: max(count, 1)] if count >= len(names) else chance.sample(names, count)
    chance.shuffle(rows)
    return rows


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--count", type=int, default=120)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--data", type=Path)
    parser.add_argument("--suffix", action="append", choices=list(WAYS))
    own = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        data = own.data or Path(folder)
        told = Told()
        for document in demo(data):
            run(of_job(Blobs(str(data / "blobs")), document, tuple(own.suffix or WAYS)), own.count, own.seed, told, say=True)
    passed, failed = sum(told.passed.values()), sum(told.failed.values())
    print(f"{told.harmful} harmful, {passed} passed; {told.harmless} harmless, {failed} failed")
    for rows in (told.passed, told.failed):
        for name, n in rows.most_common():
            print(n, name)
    return 1 if told.passed or told.failed else 0


if __name__ == "__main__":
    sys.exit(main())
