"""The rooms of the house: whoever imports what, nothing runs in a circle, at any level of folders."""

from __future__ import annotations

import re
import subprocess
import sys
from pathlib import Path

import grimp
import pytest

GRAPH = grimp.build_graph("skalto")
PACKAGES = sorted(module for module in GRAPH.modules if GRAPH.find_children(module))


def circles(imports: dict[str, set[str]]) -> list[list[str]]:
    """Groups of names that import one another in circles (Tarjan, 1972)."""
    number: dict[str, int] = {}
    low: dict[str, int] = {}
    open_: list[str] = []
    found: list[list[str]] = []

    def visit(name: str) -> None:
        number[name] = low[name] = len(number)
        open_.append(name)
        for other in sorted(imports.get(name, ())):
            if other not in number:
                visit(other)
                low[name] = min(low[name], low[other])
            elif other in open_:
                low[name] = min(low[name], number[other])
        if low[name] == number[name]:
            at = open_.index(name)
            group = open_[at:]
            del open_[at:]
            if len(group) > 1:
                found.append(sorted(group))

    for name in sorted(imports):
        if name not in number:
            visit(name)
    return found


def between(package: str) -> dict[str, set[str]]:
    """Which children of a package import which, with all that is in them."""
    owner = {m: child for child in GRAPH.find_children(package) for m in (child, *GRAPH.find_descendants(child))}
    found: dict[str, set[str]] = {child: set() for child in GRAPH.find_children(package)}
    for module, child in owner.items():
        for other in GRAPH.find_modules_directly_imported_by(module):
            if owner.get(other, child) != child:
                found[child].add(owner[other])
    return found


PAGE = Path(__file__).parents[3] / "web" / "src"
_FROM = re.compile(r"""(?:from|import\()\s*"(\.[^"]+)\"""")


def of_the_page(folders: bool) -> dict[str, set[str]]:
    """Which files of the page import which, or which folders."""
    found: dict[str, set[str]] = {}
    for path in (*PAGE.rglob("*.ts"), *PAGE.rglob("*.tsx")):
        for name in _FROM.findall(path.read_text()):
            target = (path.parent / name).resolve()
            other = next((t for t in (Path(f"{target}.tsx"), Path(f"{target}.ts"), target) if t.is_file()), target)
            a, b = (p.parent if folders else p for p in (path, other))
            if a != b:
                found.setdefault(str(a), set()).add(str(b))
    return found


@pytest.mark.parametrize("folders", [False, True])
def test_nothing_of_the_page_runs_in_a_circle(folders: bool) -> None:
    imports = of_the_page(folders)
    assert len(imports) > 15
    assert circles(imports) == []


def test_the_measure_sees_a_circle() -> None:
    assert circles({"a": {"b"}, "b": {"c"}, "c": {"a"}, "d": {"a"}}) == [["a", "b", "c"]]
    assert circles({"a": {"b", "c"}, "b": {"c"}, "c": set()}) == []


def test_no_files_import_one_another_in_a_circle() -> None:
    assert circles({module: GRAPH.find_modules_directly_imported_by(module) for module in GRAPH.modules}) == []


@pytest.mark.parametrize("package", PACKAGES)
def test_no_rooms_import_one_another_in_a_circle(package: str) -> None:
    assert circles(between(package)) == []


def test_the_web_process_loads_nothing_that_only_work_needs() -> None:
    """The kernel and the numerical libraries are the workers': without them a server starts in half the time."""
    script = "import sys, skalto.api.serving; print({'OCP', 'numba', 'scipy', 'trimesh', 'ezdxf'} & set(sys.modules))"
    assert subprocess.check_output([sys.executable, "-c", script], text=True) == "set()\n"
