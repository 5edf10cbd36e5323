"""The largest free rectangle against one that is found by trying every corner."""

from __future__ import annotations

import itertools

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from skalto.core.layout.annotations_3d import annotation_for
from skalto.core.layout.free_room import largest_free
from skalto.core.paper import Orientation
from skalto.core.sheets.sheet import SheetSpec

ROOM = (0.0, 0.0, 160.0, 120.0)
BOX = st.tuples(st.integers(0, 150), st.integers(0, 110), st.integers(0, 80), st.integers(0, 80)).map(
    lambda own: (float(own[0]), float(own[1]), float(own[0] + own[2]), float(own[1] + own[3]))
)


def _area(box: tuple[float, float, float, float] | None) -> float:
    return 0.0 if box is None else (box[2] - box[0]) * (box[3] - box[1])


def _meet(a: tuple[float, ...], b: tuple[float, ...]) -> bool:
    return a[0] < b[2] and b[0] < a[2] and a[1] < b[3] and b[1] < a[3]


@settings(max_examples=60, deadline=None)
@given(st.lists(BOX, max_size=4))
def test_it_is_free_and_none_is_larger(boxes: list[tuple[float, float, float, float]]) -> None:
    found = largest_free(ROOM, boxes, gap=0.0)
    solid = [box for box in boxes if box[2] > box[0] and box[3] > box[1]]
    # cells are a millimetre here, and all boxes lie on whole ones: the answer is exact
    if found is not None:
        assert not any(_meet(found, box) for box in solid)
        assert found[0] >= ROOM[0]
        assert found[3] <= ROOM[3]
    xs = sorted({0.0, 160.0, *(v for box in solid for v in (box[0], min(box[2], 160.0)))})
    ys = sorted({0.0, 120.0, *(v for box in solid for v in (box[1], min(box[3], 120.0)))})
    best = max(
        (
            _area((a, b, c, d))
            for a, c in itertools.combinations(xs, 2)
            for b, d in itertools.combinations(ys, 2)
            if not any(_meet((a, b, c, d), box) for box in solid)
        ),
        default=0.0,
    )
    assert abs(_area(found) - best) < 1e-6


def test_nothing_is_free_where_all_is_taken() -> None:
    assert largest_free(ROOM, [ROOM]) is None
    assert largest_free((0, 0, 0, 10), []) is None


def test_a_line_without_width_takes_its_gap() -> None:
    # a level line across the middle: what is left is one half less the gap
    found = largest_free(ROOM, [(0.0, 60.0, 160.0, 60.0)], gap=5.0)
    assert found is not None
    assert _area(found) == 160 * 55


def test_a_3d_annotation_comes_where_nothing_lies() -> None:
    sheet = SheetSpec(id="s", name="S", format="A3", orientation=Orientation.LANDSCAPE)
    taken = np.array([(0, 0, 200, 297), (200, 0, 420, 120)], float)
    made = annotation_for(sheet, "f", "m", "M", False, taken)
    (x, y), (wide, high) = made.place, made.size
    assert x >= 200
    assert y >= 120
    assert min(wide, high) > 60
    # where everything is taken, it lies over something, and is large enough to be taken hold of
    over = annotation_for(sheet, "f", "m", "M", False, np.array([(0, 0, 420, 297)], float))
    assert min(over.size) > 60
