"""Damaged files by the thousand, each read and exported: none may hang, swell, reach outside or end in more than a sentence.

``python -m tests.campaigns.mutants [--count N] [--first N] [--formats step,dxf] [--keep FOLDER] [--seconds S]`` prints a row a
format, and how far it is at every thousand; what went wrong is kept in FOLDER. ``--reduce FILE`` makes a kept file as small as
it can be with the same outcome.
"""

from __future__ import annotations

import argparse
import random
import re
import tempfile
import time
from collections import Counter
from pathlib import Path

from tests.campaigns.seeds import FORMATS, all_seeds
from tests.campaigns.trying import MEGABYTES, SECONDS, Outcome, Tried

NUMBERS = (
    b"0",
    b"-1",
    b"1e308",
    b"-1e308",
    b"nan",
    b"inf",
    b"1e-320",
    b"4294967295",
    b"2147483648",
    b"99999999999999999999",
    b"",
)
_NUMBER = re.compile(rb"-?\d+\.?\d*(?:[eE][-+]?\d+)?")
_BAD = ("broken",)
"""A limit that stops the work is what limits are for: such files are counted, and kept to be looked at."""

_ENDINGS = {"recipe": ".recipe", "pens": ".pens"}


def mutant(seed: bytes, other: bytes, chance: random.Random) -> bytes:
    """A damaged copy: bytes, stretches, numbers or lines of it are changed, one to four times."""
    data = bytearray(seed)
    for _ in range(chance.randint(1, 4)):
        if not data:
            break
        kind = chance.randrange(9)
        at = chance.randrange(len(data))
        length = min(len(data) - at, 1 + int(chance.expovariate(1 / 40)))
        if kind == 0:
            data[at] = chance.randrange(256)
        elif kind == 1:
            data[at] ^= 1 << chance.randrange(8)
        elif kind == 2:
            del data[at : at + length]
        elif kind == 3:
            data[at:at] = data[at : at + length] * chance.randint(1, 20)
        elif kind == 4:
            data = data[:at]
        elif kind == 5:
            numbers = list(_NUMBER.finditer(bytes(data)))
            if numbers:
                found = chance.choice(numbers)
                data[found.start() : found.end()] = chance.choice(NUMBERS)
        elif kind == 6:
            lines = bytes(data).split(b"\n")
            if len(lines) > 2:
                a, b = chance.randrange(len(lines)), chance.randrange(len(lines))
                lines[a], lines[b] = lines[b], lines[a]
                data = bytearray(b"\n".join(lines))
        elif kind == 7:
            start = chance.randrange(len(other))
            data[at : at + length] = other[start : start + length]
        else:
            data[at : at + 4] = chance.choice((b"\xff\xff\xff\xff", b"\0\0\0\0", b"\xff\xff\xff\x7f", b"\0\0\0\x80"))
    return bytes(data)


def wrong(outcome: Outcome) -> str:
    """What an outcome breaks of what is promised; '' for nothing."""
    if outcome.kind in _BAD:
        return outcome.kind
    said = outcome.said.strip()
    if outcome.kind == "refused" and ("\n" in said or len(said) > 500 or not said.endswith((".", ")"))):
        return "no sentence"
    if outcome.seconds > SECONDS + 5:
        return "slow"
    return ""


def run(format_: str, count: int, seeds: dict[str, bytes], keep: Path, seconds: float, first: int = 0) -> Counter[str]:
    """Try so many mutants of a format, from number *first* on, or as many as *seconds* allow; how they ended."""
    ended: Counter[str] = Counter()
    slowest = most = 0.0
    ending = _ENDINGS.get(format_, f".{format_}")
    end = time.monotonic() + seconds
    with tempfile.TemporaryDirectory() as folder:
        path, out = Path(folder) / f"mutant{ending}", Path(folder) / "out.pdf"
        child = Tried()
        try:
            for number in range(first, first + count):
                if time.monotonic() > end:
                    break
                if number > first and number % 1000 == 0:
                    print(f"{format_:7} {number}: {dict(ended)}", flush=True)
                chance = random.Random(f"{format_} {number}")
                data = mutant(seeds[format_], seeds[chance.choice(FORMATS)], chance)
                path.write_bytes(data)
                child.warm()
                outcome = child.file(path, out)
                ended[outcome.kind] += 1
                slowest, most = max(slowest, outcome.seconds), max(most, outcome.megabytes)
                fault = wrong(outcome)
                if fault:
                    ended[f"! {fault}"] += 1
                if fault or outcome.kind.startswith("over"):
                    fault = fault or outcome.kind
                    keep.mkdir(parents=True, exist_ok=True)
                    kept = keep / f"{format_}-{number}-{fault.replace(' ', '-')}{ending}"
                    kept.write_bytes(data)
                    kept.with_suffix(".txt").write_text(outcome.said)
        finally:
            child.close()
    total = sum(value for kind, value in ended.items() if not kind.startswith("!"))
    rest = ", ".join(f"{kind} {value}" for kind, value in sorted(ended.items()))
    print(f"{format_:7} {total:6} mutants: {rest}; slowest {slowest:.1f} s, most {most:.0f} MB", flush=True)
    return ended


def reduced(path: Path) -> bytes:
    """The smallest part of a file that was found to end in the same way."""
    with tempfile.TemporaryDirectory() as folder:
        trial, out = Path(folder) / f"trial{path.suffix}", Path(folder) / "out.pdf"
        child = Tried()

        def what(data: bytes) -> tuple[str, str]:
            trial.write_bytes(data)
            child.warm()
            outcome = child.file(trial, out)
            return outcome.kind, outcome.said.strip().rpartition("\n")[2][:60] if outcome.kind == "broken" else ""

        data = path.read_bytes()
        same = what(data)
        size = len(data) // 2
        while size >= 1:
            at = 0
            while at < len(data):
                shorter = data[:at] + data[at + size :]
                if shorter and what(shorter) == same:
                    data = shorter
                else:
                    at += size
            size //= 2
        child.close()
    return data


def main() -> None:
    ask = argparse.ArgumentParser()
    ask.add_argument("--count", type=int, default=10_000)
    ask.add_argument("--formats", default=",".join(FORMATS))
    ask.add_argument("--keep", type=Path, default=Path(tempfile.gettempdir()) / "skalto-mutants")
    ask.add_argument("--seconds", type=float, default=float("inf"), help="at most so long for each format")
    ask.add_argument("--first", type=int, default=0, help="the number of the first, to go on where a run was stopped")
    ask.add_argument("--reduce", type=Path)
    given = ask.parse_args()
    if given.reduce:
        data = reduced(given.reduce)
        given.reduce.with_stem(given.reduce.stem + "-small").write_bytes(data)
        print(f"{len(data)} bytes")
        return
    print(f"limits {SECONDS:g} s, {MEGABYTES:g} MB; what goes wrong is kept in {given.keep}")
    seeds = all_seeds()
    faults = sum(
        value
        for format_ in given.formats.split(",")
        for kind, value in run(format_, given.count, seeds, given.keep, given.seconds, given.first).items()
        if kind.startswith("!")
    )
    print(f"{faults} broke what is promised")
    raise SystemExit(1 if faults else 0)


if __name__ == "__main__":
    main()
