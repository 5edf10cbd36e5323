"""B-splines against the kernel's own evaluation, and against SciPy's."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st
from OCP.Geom import Geom_BSplineCurve, Geom_BSplineSurface
from OCP.gp import gp_Pnt, gp_Vec
from OCP.TColgp import TColgp_Array1OfPnt, TColgp_Array2OfPnt
from OCP.TColStd import TColStd_Array1OfInteger, TColStd_Array1OfReal, TColStd_Array2OfReal
from scipy.interpolate import BSpline

from skalto.core.projection.splines import Table, spline_of_curve, spline_of_surface
from skalto.core.sources.models.extents import xyz

TURN, MOVE = np.array(((0.0, -1, 0), (1, 0, 0), (0, 0, 1))), np.array((3.0, -2, 5))


def _array(kind: Any, values: Any) -> Any:
    made = kind(1, len(values))
    for n, value in enumerate(values, 1):
        made.SetValue(n, value)
    return made


def _knots(chance: np.random.Generator, degree: int, inner: int, periodic: bool) -> tuple[list[float], list[int]]:
    # some lie close together, as the kernel writes them where it lofts through sections that were knotted apart
    steps = np.where(chance.random(inner + 2) < 0.2, 1e-3, chance.uniform(0.2, 2, inner + 2))
    many = [int(chance.integers(1, degree + 1)) for _ in range(inner)]
    end = int(chance.integers(1, degree + 1))
    return np.cumsum(steps).tolist(), ([end, *many, end] if periodic else [degree + 1, *many, degree + 1])


def _count(many: list[int], degree: int, periodic: bool) -> int:
    return sum(many[:-1]) if periodic else sum(many) - degree - 1


@settings(max_examples=80, deadline=None)
@given(st.integers(0, 10_000), st.integers(1, 9), st.integers(0, 5), st.booleans())
def test_curves_are_the_kernel_s(seed: int, degree: int, inner: int, periodic: bool) -> None:
    chance = np.random.default_rng(seed)
    rational = bool(chance.random() < 0.5)
    inner += 2 * degree if periodic else 0
    knots, many = _knots(chance, degree, inner, periodic)
    count = _count(many, degree, periodic)
    poles = chance.uniform(-20, 20, (count, 3))
    weights = (chance.uniform(0.3, 3, count) if rational else np.ones(count)).tolist()
    curve = Geom_BSplineCurve(
        _array(TColgp_Array1OfPnt, [gp_Pnt(*p) for p in poles.tolist()]),
        _array(TColStd_Array1OfReal, weights), _array(TColStd_Array1OfReal, knots),
        _array(TColStd_Array1OfInteger, many), degree, periodic,
    )  # fmt: skip
    table = Table()
    table.add(spline_of_curve(curve), np.eye(3), np.zeros(3))
    number = table.add(spline_of_curve(curve), TURN, MOVE)
    reach = (knots[-1] - knots[0]) * (2 if periodic else 0)
    t = np.concatenate((chance.uniform(knots[0] - reach, knots[-1] + reach, 20), (knots[0], knots[-1])))
    found = table.on_curves(np.full(len(t), number), t)
    point, slope = gp_Pnt(), gp_Vec()
    for n, u in enumerate(t.tolist()):
        curve.D1(u, point, slope)
        assert found[0, n] == pytest.approx(TURN @ xyz(point) + MOVE, abs=1e-9)
        if np.abs(np.array(knots) - u).min() > 1e-9:  # at a knot the slope may leap
            assert found[1, n] == pytest.approx(TURN @ xyz(slope), abs=1e-8 * (1 + np.abs(xyz(slope)).max()))


@example(725, 1, 6, 0, False)
@settings(max_examples=60, deadline=None)
@given(st.integers(0, 10_000), st.integers(1, 6), st.integers(1, 6), st.integers(0, 4), st.booleans())
def test_surfaces_are_the_kernel_s(seed: int, p: int, q: int, inner: int, periodic: bool) -> None:
    chance = np.random.default_rng(seed)
    rational = bool(chance.random() < 0.5)
    ku, mu = _knots(chance, p, inner + (2 * p if periodic else 0), periodic)
    kv, mv = _knots(chance, q, inner, False)
    rows, columns = _count(mu, p, periodic), _count(mv, q, False)
    poles, weights = TColgp_Array2OfPnt(1, rows, 1, columns), TColStd_Array2OfReal(1, rows, 1, columns)
    for i in range(1, rows + 1):
        for j in range(1, columns + 1):
            poles.SetValue(i, j, gp_Pnt(*chance.uniform(-20, 20, 3).tolist()))
            weights.SetValue(i, j, float(chance.uniform(0.3, 3)) if rational else 1.0)
    surface = Geom_BSplineSurface(
        poles, weights, _array(TColStd_Array1OfReal, ku), _array(TColStd_Array1OfReal, kv),
        _array(TColStd_Array1OfInteger, mu), _array(TColStd_Array1OfInteger, mv), p, q, periodic, False,
    )  # fmt: skip
    table = Table()
    number = table.add(spline_of_surface(surface), TURN, MOVE)
    uv = np.column_stack((chance.uniform(ku[0], ku[-1], 20), chance.uniform(kv[0], kv[-1], 20)))
    found = table.on_surfaces(np.full(len(uv), number), uv)
    made = gp_Pnt(), *(gp_Vec() for _ in range(5))
    for n, (u, v) in enumerate(uv.tolist()):
        surface.D2(u, v, *made)
        # a rational derivative is a difference of terms as large as the others are, and may come to nothing
        largest = max(float(np.abs(xyz(vector)).max()) for vector in made)
        for k, vector in enumerate(made):
            expected = TURN @ xyz(vector) + (MOVE if k == 0 else 0)
            assert found[k, n] == pytest.approx(expected, abs=1e-8 * (1 + largest)), k


def test_a_curve_is_scipy_s() -> None:
    knots, poles = np.array((0, 0, 0, 0, 1, 2.5, 4, 4, 4, 4)), np.random.default_rng(1).uniform(-9, 9, (6, 3))
    curve = Geom_BSplineCurve(
        _array(TColgp_Array1OfPnt, [gp_Pnt(*p) for p in poles.tolist()]), _array(TColStd_Array1OfReal, [0, 1, 2.5, 4]),
        _array(TColStd_Array1OfInteger, [4, 1, 1, 4]), 3,
    )  # fmt: skip
    table, theirs, t = Table(), BSpline(knots, poles, 3), np.linspace(0, 4, 41)
    table.add(spline_of_curve(curve), np.eye(3), np.zeros(3))
    found = table.on_curves(np.zeros(41, np.int64), t)
    assert found[0] == pytest.approx(theirs(t), abs=1e-12)
    assert found[1] == pytest.approx(theirs.derivative()(t), abs=1e-11)
