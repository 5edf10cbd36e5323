"""No text of a person's keeps a regular expression busy: each is tried with 100 000 letters that have it go back and forth."""

from __future__ import annotations

import ast
import importlib
import re
import signal
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

ROOT = Path(__file__).parents[3] / "skalto"
LETTERS = 100_000
SECONDS = 2.0
_METHODS = {"match", "fullmatch", "search", "sub", "subn", "findall", "finditer", "split"}


class _TooLong(Exception):
    pass


def _late(signum: int, frame: Any) -> None:
    raise _TooLong


def _sample(tokens: Any) -> str:
    """A short text that a parsed expression takes."""
    out = ""
    for kind, value in tokens:
        name = str(kind)
        if name == "LITERAL":
            out += chr(value)
        elif name == "IN":
            out += next((c for c in " 1a.-/x\"'(" if re.match(_class(value), c)), "a")
        elif name == "ANY":
            out += "a"
        elif name in ("MAX_REPEAT", "MIN_REPEAT", "POSSESSIVE_REPEAT"):
            out += _sample(value[2]) * value[0]
        elif name == "SUBPATTERN":
            out += _sample(value[3])
        elif name == "ATOMIC_GROUP":
            out += _sample(value)
        elif name == "BRANCH":
            out += _sample(value[1][0])
        elif name == "NOT_LITERAL":
            out += "a" if value != ord("a") else "b"
    return out


def _class(rows: Any) -> str:
    """A parsed set of letters, written again."""
    out = ""
    for kind, value in rows:
        name = str(kind)
        if name == "NEGATE":
            out = "^" + out
        elif name == "LITERAL":
            out += re.escape(chr(value))
        elif name == "RANGE":
            out += f"{re.escape(chr(value[0]))}-{re.escape(chr(value[1]))}"
        elif name == "CATEGORY":
            out += {"DIGIT": r"\d", "SPACE": r"\s", "WORD": r"\w"}.get(str(value).split("_")[-1], r"\w")
    return f"[{out}]"


def hostile(pattern: str) -> Iterator[str]:
    """Texts that make an expression go back: what comes before each part that may repeat for ever, then a long run, then what
    fits nothing; and the same again and again."""
    parser: Any = re._parser  # type: ignore[attr-defined]

    def walk(tokens: Any, before: str) -> Iterator[str]:
        for kind, value in tokens:
            name = str(kind)
            if name in ("MAX_REPEAT", "MIN_REPEAT"):
                if value[1] >= 1000:
                    yield before
                yield from walk(value[2], before)
                before += _sample(value[2]) * value[0]
            elif name == "SUBPATTERN":
                yield from walk(value[3], before)
                before += _sample(value[3])
            elif name == "BRANCH":
                for branch in value[1]:
                    yield from walk(branch, before)
                before += _sample(value[1][0])
            else:
                before += _sample([(kind, value)])

    for before in dict.fromkeys(walk(parser.parse(pattern), "")):
        for letter in " 1a.,-x/'\"([\\\t":
            yield before + letter * LETTERS + "\0"
        for again in (before, before + " ", before + "1", before + "a"):
            if again:
                yield again * (LETTERS // len(again)) + "\0"


def slow(expression: re.Pattern[Any], method: str) -> str:
    """The beginning of a text on which an expression takes too long, '' where there is none."""
    source = expression.pattern
    text = isinstance(source, str)
    for attack in hostile(source if text else source.decode("latin-1")):
        given = attack if text else attack.encode("latin-1", "replace")
        call = getattr(expression, method)
        old = signal.signal(signal.SIGVTALRM, _late)
        signal.setitimer(signal.ITIMER_VIRTUAL, SECONDS)
        try:
            if method in ("sub", "subn"):
                call("" if text else b"", given)
            elif method == "finditer":
                for _ in call(given):
                    pass
            else:
                call(given)
        except _TooLong:
            return repr(attack[:60])
        finally:
            signal.setitimer(signal.ITIMER_VIRTUAL, 0)
            signal.signal(signal.SIGVTALRM, old)
    return ""


def _expressions() -> Iterator[tuple[str, str, str]]:
    """Where an expression stands, its text in Python, and how it is used."""
    every = {path: path.read_text() for path in sorted(ROOT.rglob("*.py"))}
    for path, source in every.items():
        module = ".".join(("skalto", *path.relative_to(ROOT).with_suffix("").parts))
        tree = ast.parse(source)
        kept = {
            id(node.value): target.id
            for node in ast.walk(tree)
            if isinstance(node, ast.Assign)
            for target in node.targets
            if isinstance(target, ast.Name)
        }
        for node in ast.walk(tree):
            if not (
                isinstance(node, ast.Call) and isinstance(node.func, ast.Attribute) and isinstance(node.func.value, ast.Name)
            ):
                continue
            if node.func.value.id != "re" or node.func.attr not in _METHODS | {"compile"} or not node.args:
                continue
            methods = {node.func.attr}
            if node.func.attr == "compile":
                own = kept.get(id(node), "")
                uses = re.compile(rf"\b{own}\.({'|'.join(_METHODS)})\(") if own else None
                methods = {found for text in every.values() for found in uses.findall(text)} if uses else set()
                methods = methods or {"search"}
            flags = next((k.value for k in node.keywords if k.arg == "flags"), None)
            if flags is None and node.func.attr in ("compile", "match", "fullmatch", "search") and len(node.args) > 1:
                flags = node.args[-1] if "re." in ast.unparse(node.args[-1]) else None
            made = f"re.compile({ast.unparse(node.args[0])}{', ' + ast.unparse(flags) if flags is not None else ''})"
            for method in sorted(methods):
                yield module, made, method


EXPRESSIONS = list(_expressions())


def test_all_of_them_are_looked_at() -> None:
    assert len(EXPRESSIONS) > 60
    assert any(module == "skalto.core.quantities" for module, _, _ in EXPRESSIONS)


@pytest.mark.parametrize("module", sorted({module for module, _, _ in EXPRESSIONS}))
def test_no_expression_goes_back_and_forth(module: str) -> None:
    names = vars(importlib.import_module(module)) | {"re": re}
    for own, made, method in EXPRESSIONS:
        if own != module:
            continue
        try:
            expression = eval(made, dict(names))
        except NameError as error:
            pytest.fail(f"{made}: {error}: keep what it is made of in the module, so that it can be tried")
        assert not slow(expression, method), f"{made}.{method}: {slow(expression, method)}"


@pytest.mark.parametrize("pattern", [r"\s*(.+?)\s*[x×X*]\s*(.+?)\s*", r"\s*(\d+\.?\d*)\s*(%?)\s*", r"^.*?[\d.]+[a-z]+\s+"])
def test_what_goes_back_and_forth_is_found(pattern: str) -> None:
    assert slow(re.compile(pattern), "fullmatch")


READ = """
import sys
from skalto.core.errors import InputError
from skalto.core.paper import parse_format
from skalto.core.quantities import Scale, parse_length
from skalto.core.viewpoint import parse_viewpoint
long = (" " * {n} + "z", "1" * {n}, "1x" * {n}, "9" * 20_000, "1:" + "9" * 20_000, " 1" * {n}, "1/" * {n}, "dir:" + "1," * {n})
for text in long:
    for read in (parse_format, parse_length, Scale.parse, parse_viewpoint):
        try:
            read(text)
        except InputError as error:
            assert len(str(error)) < 600 and str(error).endswith("."), str(error)[:80]
        else:
            raise SystemExit(f"{{read.__name__}} took {{text[:20]}}")
"""


def test_values_that_are_typed_end_in_a_sentence_at_once() -> None:
    subprocess.run([sys.executable, "-c", READ.format(n=LETTERS)], check=True, timeout=20)
