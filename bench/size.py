"""How much a benchmark does: all, or so little that it only shows that it still runs."""

from __future__ import annotations

import os
from typing import TypeVar

_Any = TypeVar("_Any")
VARIABLE = "SKALTO_BENCH_SMALL"
"""Set, processes of benchmarks and those that they start do little; the times mean nothing then."""


def sized(full: _Any, small: _Any) -> _Any:
    """The first, or the second where little is to be done."""
    return small if os.environ.get(VARIABLE) else full
