"""What lies near and what hangs together: the short way of few things gives what the library gives of many."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from skalto.core.geometry import grouping


@settings(deadline=None)
@given(st.lists(st.tuples(*[st.integers(0, 12)] * 3), max_size=60), st.floats(0.4, 3.6))
def test_few_are_paired_as_many_are(rows: list[tuple[int, int, int]], distance: float) -> None:
    points = np.array(rows, float).reshape(-1, 3)
    few = grouping.near_pairs(points, distance)
    with pytest.MonkeyPatch.context() as patched:
        patched.setattr(grouping, "_FEW", -1)
        many = grouping.near_pairs(points, distance) if len(points) else np.empty((0, 2), int)
    assert {tuple(sorted(pair)) for pair in few.tolist()} == {tuple(sorted(pair)) for pair in many.tolist()}


@settings(deadline=None)
@given(st.integers(1, 40), st.data())
def test_few_are_grouped_as_many_are(count: int, data: st.DataObject) -> None:
    index = st.integers(0, count - 1)
    pairs = np.array(data.draw(st.lists(st.tuples(index, index), max_size=50)), int).reshape(-1, 2)
    few = grouping.groups_of(pairs, count)
    with pytest.MonkeyPatch.context() as patched:
        patched.setattr(grouping, "_FEW", -1)
        many = grouping.groups_of(pairs, count)
    assert few.tolist() == many.tolist()
