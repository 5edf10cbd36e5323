"""The examples in docstrings give what they say."""

from __future__ import annotations

import doctest
import importlib
import pkgutil

import pytest

import skalto.core
import skalto.core.geometry

MODULES = [
    "skalto.core.colour",
    "skalto.core.formats",
    "skalto.core.quantities",
    "skalto.core.sources.formats",
    *(f"skalto.core.geometry.{info.name}" for info in pkgutil.iter_modules(skalto.core.geometry.__path__)),
]


@pytest.mark.parametrize("name", MODULES)
def test_the_examples_hold(name: str) -> None:
    assert doctest.testmod(importlib.import_module(name)).failed == 0


def test_there_are_examples_of_what_is_used_everywhere() -> None:
    tried = {name: doctest.testmod(importlib.import_module(name)).attempted for name in MODULES}
    assert {name.rpartition(".")[2] for name, count in tried.items() if count} >= {
        "colour", "formats", "quantities", "segments", "contour", "profile",
    }  # fmt: skip
