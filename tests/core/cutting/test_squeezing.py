"""Strips squeezed: known optima, and what GEOS says of overlaps on whatever is squeezed."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import affinity

from skalto.core.cutting.packing.squeezing import convex_parts, squeezed

L_SHAPE = shapely.Polygon([(0, 0), (30, 0), (30, 10), (10, 10), (10, 30), (0, 30)])


def _after(areas: list[shapely.Polygon], height: float) -> tuple[list[shapely.Polygon], float]:
    by, width = squeezed(areas, height)
    return [affinity.translate(own, *row) for own, row in zip(areas, by.tolist(), strict=True)], width


def _sound(areas: list[shapely.Polygon], height: float, width: float) -> None:
    assert max(own.bounds[2] for own in areas) == pytest.approx(width, abs=1e-6)
    for number, own in enumerate(areas):
        x0, y0, _, y1 = own.bounds
        assert min(x0, y0, height - y1) >= -1e-6
        assert all(own.intersection(other).area < 1e-5 for other in areas[:number])


def test_boxes_in_a_row_close_up() -> None:
    row = [shapely.box(x, 3, x + 20, 9) for x in (5, 40, 90)]
    moved, width = _after(row, 10)
    assert width == pytest.approx(60)
    _sound(moved, 10, width)


def test_what_interlocks_goes_as_far_as_it_can() -> None:
    """Two equal L's, one turned over: in a strip of 30 their arms of 10 leave 40 at best, in a higher one that
    which reaches over the other slides on to 30."""
    other = affinity.translate(affinity.rotate(L_SHAPE, 180, origin=(0, 0)), 95, 30)
    moved, width = _after([L_SHAPE, other], 30)
    assert width == pytest.approx(40)
    taller, width = _after([L_SHAPE, affinity.translate(other, -60, 12)], 45)
    assert width == pytest.approx(30)
    _sound(taller, 45, width)
    _sound(moved, 30, 40)


def test_parts_are_convex_and_make_up_the_whole() -> None:
    bite = shapely.box(0, 0, 40, 30).difference(shapely.Point(20, 30).buffer(12, quad_segs=8))
    parts = [shapely.Polygon(ring) for ring in convex_parts(bite)]
    assert all(own.convex_hull.area == pytest.approx(own.area, rel=1e-6) for own in parts)
    assert shapely.union_all(parts).symmetric_difference(bite).area < 1e-4
    assert len(convex_parts(L_SHAPE)) == 2
    assert len(convex_parts(shapely.box(0, 0, 3, 4))) == 1


def _star(seed: int) -> shapely.Polygon:
    lots = np.random.default_rng(seed)
    angles = np.sort(lots.uniform(0, 2 * math.pi, 7))
    while np.diff(np.concatenate((angles, angles[:1] + 2 * math.pi))).max() > 2.5:
        angles = np.sort(lots.uniform(0, 2 * math.pi, 7))
    r = lots.uniform(4, 20, 7)
    made = shapely.Polygon(np.stack((r * np.cos(angles), r * np.sin(angles)), axis=1))
    return affinity.translate(made, -made.bounds[0], -made.bounds[1])


@given(st.lists(st.integers(0, 10_000), min_size=2, max_size=9), st.floats(0, 12))
@settings(max_examples=40, deadline=None)
def test_whatever_is_squeezed_stays_apart_and_gets_no_longer(seeds: list[int], spare: float) -> None:
    areas, x = [], 0.0
    for number, seed in enumerate(seeds):
        own = _star(seed)
        areas.append(affinity.translate(own, x, 0.0 if number % 2 else 45 - own.bounds[3]))
        x += own.bounds[2] + spare
    before = max(own.bounds[2] for own in areas)
    moved, width = _after(areas, 45)
    assert width <= before + 1e-9
    _sound(moved, 45, width)


def test_it_stops_when_it_is_told_to() -> None:
    row = [shapely.box(x, 0, x + 20, 10) for x in (0, 60, 120)]
    by, width = squeezed(row, 10, lambda: True)
    assert (width, np.abs(by).max()) == (140, 0)
