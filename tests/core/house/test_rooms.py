"""The rooms of the house: whoever imports what, nothing runs in a circle, at any level of folders."""

from __future__ import annotations

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


def test_the_measure_sees_a_circle() -> None:
    assert circles({"a": {"b"}, "b": {"c"}, "c": {"a"}, "d": {"a"}}) == [["a", "b", "c"]]
    assert circles({"a": {"b", "c"}, "b": {"c"}, "c": set()}) == []


def test_no_files_import_one_another_in_a_circle() -> None:
    assert circles({module: GRAPH.find_modules_directly_imported_by(module) for module in GRAPH.modules}) == []


@pytest.mark.parametrize("package", PACKAGES)
def test_no_rooms_import_one_another_in_a_circle(package: str) -> None:
    assert circles(between(package)) == []
