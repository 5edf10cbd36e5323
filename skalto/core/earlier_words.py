"""Names that fields had before: what was written down by them is still read."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any


def by_todays_names(data: Any, names: Mapping[str, str]) -> Any:
    """What is to be validated, its fields under the names that they have now.

    >>> by_todays_names({"turn": 30, "name": "a"}, {"turn": "rotation"})
    {'rotation': 30, 'name': 'a'}
    >>> by_todays_names({"turn": 30, "rotation": 40}, {"turn": "rotation"})
    {'rotation': 40}

    :param names: what is read under which name; where both are given, today's counts.
    """
    if not isinstance(data, dict):
        return data
    return {names.get(key, key): value for key, value in data.items() if key not in names or names[key] not in data}
