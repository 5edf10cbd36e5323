"""Contours beside contours, against buffers of an independent library (GEOS by shapely)."""

from __future__ import annotations

import math

import pytest
import shapely
from hypothesis import example, given, settings
from hypothesis import strategies as st

from skalto.core.geometry.beside import beside, sharp_corner
from skalto.core.geometry.contour import Arc, Contour, Cubic, Line
from skalto.core.geometry.crossings import crossings
from skalto.core.geometry.stringing import divided_where_touched, nearest_share, part_of, strung
from tests.core.geometry.test_contours import star_contours

FINE = 1e-5


def _area(contours: tuple[Contour, ...]) -> float:
    return math.fsum(own.area for own in contours)


def _filled(area: shapely.Geometry) -> float:
    """The area within outer outlines: what lies inside a hole that the buffer closes up to is not a contour of the same way."""
    return math.fsum(shapely.Polygon(part.exterior).area for part in shapely.get_parts(area).tolist())


_APART = Contour((
    Line((20.0, 0.0), (0.0, 20.0)), Line((0.0, 20.0), (-71.0, 0.0)),
    Cubic((-71.0, 0.0), (-54.05084775460554, -6.7175144212721944), (-37.101695509211076, -13.435028842544398),
          (-20.152543263816607, -20.152543263816604)),
    Cubic((-20.152543263816607, -20.152543263816604), (-10.721509366894335, -24.01313165152781),
          (-4.003994945622134, -30.628950563588944), (0.0, -40.0)),
    Line((0.0, -40.0), (20.0, 0.0)),
))  # fmt: skip
"""Two curves that bend in by so little that what lies beside them meets within a micrometre, and not at one point."""


@given(star_contours(), st.sampled_from((0.075, 0.5, 3.0, -0.075, -0.5, -3.0)))
@example(_APART, 0.075)
@settings(max_examples=20, deadline=None)
def test_a_contour_beside_another_is_the_buffers_outline(contour: Contour, by: float) -> None:
    contour = contour.directed(True)
    judged = shapely.Polygon(contour.chords(FINE)).buffer(by, quad_segs=400)
    made = beside(contour, by)
    assert _area(made) == pytest.approx(_filled(judged), abs=2e-3 * contour.length * max(abs(by), 0.1) / 10 + 2e-3)
    for own in made:
        ring = shapely.LinearRing(own.chords(1e-4))
        assert shapely.hausdorff_distance(ring, judged.boundary) < 5e-3 or len(made) > 1 or by < 0 or judged.interiors


def test_arcs_stay_arcs_and_lines_lines() -> None:
    slot = Contour((Line((0, 0), (40, 0)), Arc((40, 0), (40, 20), (40, 10), math.pi), Line((40, 20), (0, 20)),
                    Arc((0, 20), (0, 0), (0, 10), math.pi)))  # fmt: skip
    (made,) = beside(slot, 0.1)
    kinds = sorted(type(own).__name__ for own in made)
    assert kinds == ["Arc", "Arc", "Line", "Line"]
    assert {round(own.radius, 9) for own in made if isinstance(own, Arc)} == {10.1}
    # a stadium grown by d: A + L·d + π·d² (Steiner)
    assert made.area == pytest.approx(slot.area + slot.length * 0.1 + math.pi * 0.01, abs=1e-9)


def test_inner_offsets_of_openings() -> None:
    hole = Contour.circle((5, 5), 3).directed(False)
    (made,) = beside(hole, 0.1)
    centre, radius = made.as_circle or ((0, 0), 0)
    assert (centre, radius) == ((5, 5), pytest.approx(2.9))
    assert not made.is_counter_clockwise
    assert beside(Contour.circle((5, 5), 0.05).directed(False), 0.1) == ()


def test_an_hourglass_falls_apart() -> None:
    waist = Contour.polygon([(0, 0), (20, 0), (20, 8), (11, 10), (20, 12), (20, 20), (0, 20), (0, 12), (9, 10), (0, 8)])
    made = beside(waist, -1.5)
    assert len(made) == 2
    judged = shapely.Polygon(waist.chords(1e-3)).buffer(-1.5, quad_segs=200)
    assert _area(made) == pytest.approx(judged.area, abs=1e-3)


def test_corners_round_or_sharp() -> None:
    square = Contour.rectangle((0, 0, 10, 10))
    assert _area(beside(square, 1, "sharp")) == pytest.approx(144, abs=1e-9)
    assert _area(beside(square, 1, "round")) == pytest.approx(140 + math.pi, abs=1e-9)
    # a needle's tip is cut off instead of reaching far away
    needle = Contour.polygon([(0, 0), (100, 1), (0, 2)])
    (made,) = beside(needle, 1, "sharp")
    assert made.box[2] < 100 + 5
    assert len(sharp_corner((0, 0), (0, -1), (0.1, 0.995), 1)) == 3


@given(star_contours())
@settings(max_examples=25, deadline=None)
@example(Contour.rectangle((0, 0, 5, 5)))
def test_there_and_back_is_where_it_was(contour: Contour) -> None:
    contour = contour.directed(True)
    out = beside(contour, 0.2)
    assert len(out) == 1
    back = beside(out[0], -0.2)
    assert len(back) == 1
    # rounded inner corners are all that there-and-back may change
    assert back[0].area == pytest.approx(contour.area, abs=0.02 * len(contour.segments) + 1e-3)


def test_crossings_by_closed_forms() -> None:
    circle = Arc.circle((0, 0), 5)
    hits = crossings(Line((-10, 3), (10, 3)), circle)
    assert sorted(round(-10 + 20 * t, 9) for t, _ in hits) == [-4, 4]
    assert crossings(Line((-10, 6), (10, 6)), circle) == []
    other = Arc.circle((6, 0), 5)
    assert sorted(tuple(round(v, 9) for v in circle.at(t)) for t, _ in crossings(circle, other)) == [(3, -4), (3, 4)]
    assert crossings(Line((0, 0), (1, 0)), Line((0, 1), (1, 1))) == []


def test_crossings_of_cubics_lie_on_both() -> None:
    cubic = Cubic((0, 0), (10, 20), (20, -20), (30, 0))
    hits = crossings(cubic, Line((-1, 0), (31, 0)))
    assert len(hits) == 3
    for t, u in hits:
        assert math.dist(cubic.at(t), Line((-1, 0), (31, 0)).at(u)) < 1e-5


def test_parts_of_segments() -> None:
    cubic = Cubic((0, 0), (10, 20), (20, -20), (30, 5))
    middle = part_of(cubic, 0.25, 0.6)
    for t in (0, 0.3, 1):
        assert math.dist(middle.at(t), cubic.at(0.25 + 0.35 * t)) < 1e-9
    arc = part_of(Arc.circle((0, 0), 2), 0.25, 0.5)
    assert isinstance(arc, Arc)
    assert arc.sweep == pytest.approx(math.pi / 2)
    assert nearest_share(cubic, cubic.at(0.37)) == pytest.approx(0.37, abs=1e-6)


def test_segments_are_strung_and_gaps_closed() -> None:
    square = [Line((0, 0), (10, 0)), Line((10, 10), (10, 0)), Line((10, 10), (0, 10)), Line((0, 10), (0, 0.3))]
    assert len(strung(square).closed) == 0
    found = strung(square, gap=0.5)
    assert len(found.closed) == 1
    assert abs(found.closed[0].area) == pytest.approx(100, abs=1e-9)
    assert strung(square, gap=0.2).open != ()


def test_segments_are_cut_where_others_end_on_them() -> None:
    made = divided_where_touched([Line((0, 0), (10, 0)), Line((4, 0), (4, 5))])
    assert sorted(own.length for own in made) == pytest.approx([4, 5, 6])
