"""Write the reference of the command line into ``docs/cli.md``, from the commands themselves: ``python -m tools.reference``."""

from __future__ import annotations

import sys
from collections.abc import Iterator
from enum import Enum
from pathlib import Path
from typing import Any

import typer.main

from skalto.cli import app

PAPER = Path(__file__).parent.parent / "docs" / "cli.md"
BEGIN, END = "<!-- from the code: make docs -->", "<!-- end -->"


def _commands(command: Any, name: str) -> Iterator[tuple[str, Any]]:
    """All commands beneath one, by the words that call them."""
    below_it = getattr(command, "commands", None)
    if below_it is not None:
        for word, below in below_it.items():
            yield from _commands(below, f"{name} {word}")
    else:
        yield name, command


def _shown(option: Any) -> str:
    words = ", ".join(f"`{word}`" for word in option.opts)
    kind = option.type_descriptor.annotation
    choices = "&#124;".join(str(choice.value) for choice in kind) if isinstance(kind, type) and issubclass(kind, Enum) else ""
    return " ".join(part for part in (words, choices, "…" if option.multiple else "") if part)


def _about(option: Any) -> str:
    said = option.help or ""
    default = option.default
    if not option.is_flag and isinstance(default, str | int) and default != "":
        said = f"{said} Default: {getattr(default, 'value', default)}."
    return said.replace("|", "&#124;")


def reference() -> str:
    """The commands with their arguments and options, as Markdown."""
    parts = []
    for name, command in _commands(typer.main.get_command(app), "skalto"):
        arguments = [p for p in command.params if p.param_type_name == "argument"]
        usage = " ".join([name, *((p.name or "").upper() for p in arguments), "[options]"])
        parts.append(f"### {name}\n\n{command.help}\n\n```\n{usage}\n```\n")
        rows = [f"| {_shown(p)} | {_about(p)} |" for p in command.params if p.param_type_name == "option" and p.name != "help"]
        if rows:
            parts.append("\n".join(["| option | |", "| --- | --- |", *rows]) + "\n")
    return "\n".join(parts)


def written(paper: str) -> str:
    """The paper with its reference made anew."""
    before, rest = paper.split(BEGIN)
    return f"{before}{BEGIN}\n\n{reference()}\n{END}{rest.split(END)[1]}"


if __name__ == "__main__":
    made = written(PAPER.read_text(encoding="utf-8"))
    if "--check" in sys.argv:
        sys.exit(0 if made == PAPER.read_text(encoding="utf-8") else "docs/cli.md is stale: run make docs")
    PAPER.write_text(made, encoding="utf-8")
