"""Values as plain data that is the same for equal values, in every process, and short names for it."""

from __future__ import annotations

import hashlib
import json
from typing import Any


def ordered(value: Any) -> Any:
    """Plain data that is the same for the same sets, whatever their order.

    >>> ordered({"a": {"y", "x"}, 1: (2.5, None)})
    {'a': ['x', 'y'], '1': [2.5, None]}
    """
    if isinstance(value, dict):
        return {str(key): ordered(item) for key, item in value.items()}
    if isinstance(value, set | frozenset):
        return sorted(str(item) for item in value)
    if isinstance(value, list | tuple):
        return [ordered(item) for item in value]
    return value if isinstance(value, bool | int | float | str | None) else str(value)


def short_name(*parts: Any) -> str:
    """A short name for plain data."""
    return hashlib.sha256(json.dumps(ordered(parts), sort_keys=True).encode()).hexdigest()[:32]
