"""Exact contours and profiles, against closed forms and against chords by an independent library."""

from __future__ import annotations

import math
import random

import numpy as np
import pytest
import shapely
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from skalto.core.artwork import Artwork, Beziers, Contours, EdgeClass, Ellipses, Lines, Tags
from skalto.core.artwork.joining import contour_of, joined
from skalto.core.errors import InputError
from skalto.core.geometry import Similarity
from skalto.core.geometry.contour import Arc, Contour, Cubic, Line, Where
from skalto.core.geometry.offset import offset_course, offset_segment
from skalto.core.geometry.profile import Mark, Operation, Profile, nested, profiles_of

FINE = 1e-4
numbers = st.floats(-500, 500, allow_nan=False, width=32)
points = st.tuples(numbers, numbers)


def _arc(start: tuple[float, float], end: tuple[float, float], bulge: float) -> Arc:
    """A circular arc by its ends and the tangent of a quarter of its angle."""
    (x0, y0), (x1, y1) = start, end
    off = (1 - bulge * bulge) / (4 * bulge)
    centre = ((x0 + x1) / 2 - (y1 - y0) * off, (y0 + y1) / 2 + (x1 - x0) * off)
    return Arc(start, end, centre, 4 * math.atan(bulge))


@st.composite
def star_contours(draw: st.DrawFn) -> Contour:
    """Contours about the origin whose corners are joined by lines, arcs and cubics that stay apart."""
    count = draw(st.integers(3, 9))
    radii = draw(st.lists(st.floats(20, 100), min_size=count, max_size=count))
    corners = [(r * math.cos(math.tau * n / count), r * math.sin(math.tau * n / count)) for n, r in enumerate(radii)]
    segments: list[Line | Arc | Cubic] = []
    for a, b in zip(corners, corners[1:] + corners[:1], strict=True):
        kind = draw(st.sampled_from(("line", "arc", "cubic")))
        if kind == "line":
            segments.append(Line(a, b))
        elif kind == "arc":
            segments.append(_arc(a, b, draw(st.floats(0.02, 0.2)) * draw(st.sampled_from((-1, 1)))))
        else:
            lean = draw(st.floats(-0.15, 0.15))
            dx, dy = b[0] - a[0], b[1] - a[1]
            first = (a[0] + dx / 3 - dy * lean, a[1] + dy / 3 + dx * lean)
            second = (a[0] + dx / 1.5 - dy * lean, a[1] + dy / 1.5 + dx * lean)
            segments.append(Cubic(a, first, second, b))
    contour = Contour(tuple(segments))
    assume(shapely.Polygon(contour.chords(1e-2)).is_valid)
    return contour


@given(star_contours())
@settings(max_examples=120, deadline=None)
def test_area_length_and_box_are_those_of_fine_chords(contour: Contour) -> None:
    ring = shapely.Polygon(contour.chords(FINE))
    assert contour.area == pytest.approx(ring.area, abs=contour.length * FINE)
    assert contour.length == pytest.approx(ring.length, rel=1e-5)
    assert contour.box == pytest.approx(ring.bounds, abs=2 * FINE)


@given(star_contours(), st.lists(points, min_size=5, max_size=5))
@settings(max_examples=120, deadline=None)
def test_inside_is_inside_of_fine_chords(contour: Contour, tried: list[tuple[float, float]]) -> None:
    ring = shapely.Polygon(contour.chords(FINE))
    for x, y in (*tried, (0.0, 0.0), *((x / 8, y / 8) for x, y in tried)):
        point = shapely.Point(x, y)
        assume(ring.boundary.distance(point) > 2 * FINE)
        assert (contour.where((x, y)) is Where.INSIDE) == ring.contains(point)


@given(star_contours(), st.floats(0, 1))
@settings(max_examples=60, deadline=None)
def test_what_is_on_it_is_on_it(contour: Contour, share: float) -> None:
    for segment in contour:
        # a place worked out from an arc or a cubic is on it to a few last bits
        assert contour.where(segment.at(round(share, 2))) is Where.ON


@given(star_contours(), st.floats(-3, 3), points, st.floats(0.1, 10))
@settings(max_examples=80, deadline=None)
def test_placing_reversing_and_mirroring(contour: Contour, turn: float, by: tuple[float, float], scale: float) -> None:
    placed = contour.placed(Similarity(scale, *by, turn))
    assert placed.area == pytest.approx(contour.area * scale**2, rel=1e-9)
    assert placed.length == pytest.approx(contour.length * scale, rel=1e-9)
    assert contour.reversed().area == pytest.approx(-contour.area, rel=1e-12)
    assert contour.mirrored().area == pytest.approx(contour.area, rel=1e-12)
    x0, y0, x1, y1 = contour.box
    assert contour.mirrored().box == pytest.approx((-x1, y0, -x0, y1), abs=1e-9)


def test_closed_forms() -> None:
    circle = Contour.circle((10, -4), 3)
    assert circle.area == pytest.approx(9 * math.pi, rel=1e-14)
    assert circle.length == pytest.approx(6 * math.pi, rel=1e-14)
    assert circle.as_circle == ((10, -4), 3)
    assert circle.box == pytest.approx((7, -7, 13, -1))
    # a slot: two half circles and two straights
    slot = Contour((Line((0, -5), (40, -5)), _arc((40, -5), (40, 5), 1), Line((40, 5), (0, 5)), _arc((0, 5), (0, -5), 1)))
    assert slot.area == pytest.approx(400 + 25 * math.pi, rel=1e-14)
    assert slot.as_circle is None
    # the parabola y = x² from 0 to 1 as a cubic: under it is a third (Archimedes)
    curve = Cubic((0, 0), (1 / 3, 0), (2 / 3, 1 / 3), (1, 1))
    under = Contour((Line((0, 0), (1, 0)), Line((1, 0), (1, 1)), curve.reversed()))
    assert under.area == pytest.approx(1 / 3, rel=1e-14)
    # its length: √5/2 + asinh(2)/4
    assert curve.length == pytest.approx(math.sqrt(5) / 2 + math.asinh(2) / 4, rel=1e-11)


def test_segments_that_do_not_meet_are_refused() -> None:
    with pytest.raises(ValueError, match=r"Segment 1 of the contour ends 0\.5 mm off"):
        Contour((Line((0, 0), (1, 0)), Line((1, 0.5), (0, 0))))
    with pytest.raises(ValueError, match="Segment 2"):
        Contour((Line((0, 0), (1, 0)), Line((1, 0), (1, 1))))
    Contour((Line((0, 0), (1, 0)), Line((1, 0), (1, 1))), closed=False)


@given(star_contours(), st.randoms(use_true_random=False))
@settings(max_examples=60, deadline=None)
def test_strokes_in_any_order_and_direction_join_to_the_same_contour(contour: Contour, chance: random.Random) -> None:
    tags = Tags(EdgeClass.VISIBLE)
    items: list[Lines | Ellipses | Beziers] = []
    for segment in contour:
        own = segment.reversed() if chance.random() < 0.5 else segment
        match own:
            case Line():
                items.append(Lines(tags, np.array([[own.start, own.end]])))
            case Cubic():
                items.append(Beziers(tags, np.array([[own.start, own.first, own.second, own.end]])))
            case Arc():
                angle = math.atan2(own.start[1] - own.centre[1], own.start[0] - own.centre[0])
                r, way = own.radius, math.copysign(1, own.sweep)
                items.append(
                    Ellipses(
                        tags, np.array([own.centre]), np.array([[r * math.cos(angle), r * math.sin(angle)]]),
                        np.array([[-r * math.sin(angle) * way, r * math.cos(angle) * way]]), np.zeros(1),
                        np.array([abs(own.sweep)]),
                    )
                )  # fmt: skip
    # one is drawn twice: it is cut once
    items.append(items[0])
    chance.shuffle(items)
    (found,) = joined(Artwork(tuple(items)), lambda tags: tags).items
    assert isinstance(found, Contours)
    assert len(found) == 1
    again = contour_of(found, 0)
    assert again.closed
    assert abs(again.area) == pytest.approx(abs(contour.area), rel=1e-6)
    assert sum(isinstance(s, Arc) for s in again) == sum(isinstance(s, Arc) for s in contour)


@given(st.lists(st.floats(0.5, 2.5), min_size=3, max_size=8), st.floats(0.1, 30))
@settings(max_examples=80, deadline=None)
def test_a_convex_body_grows_by_steiners_formula(steps: list[float], by: float) -> None:
    # A(d) = A + L·d + π·d² (J. Steiner, 1840)
    angles = np.cumsum(steps) / sum(steps) * math.tau
    contour = Contour.polygon((50 * math.cos(a), 50 * math.sin(a)) for a in angles)
    assume(contour.area > 100)
    grown = offset_course(contour, by)
    assert grown is not None
    assert grown.area == pytest.approx(contour.area + contour.length * by + math.pi * by * by, rel=1e-9)


def test_the_neighbour_of_an_arc_is_an_arc() -> None:
    quarter = _arc((10, 0), (0, 10), math.tan(math.pi / 8))
    (outer,) = offset_segment(quarter, 2)
    assert isinstance(outer, Arc)
    assert (outer.radius, outer.centre) == (pytest.approx(12), pytest.approx((0, 0), abs=1e-12))
    assert offset_segment(quarter, -10) == ()
    # what is on the right of a curve that goes the other way round is inside
    (inner,) = offset_segment(quarter.reversed(), 2)
    assert isinstance(inner, Arc)
    assert inner.radius == pytest.approx(8)
    hole = offset_course(Contour.circle((0, 0), 5).reversed(), 1)
    assert hole is not None
    assert hole.as_circle == (pytest.approx((0, 0)), pytest.approx(4))
    assert offset_course(Contour.circle((0, 0), 5), -5) is None


@given(st.tuples(points, points, points, points), st.floats(-20, 20))
@settings(max_examples=25, deadline=None)
def test_the_neighbour_of_a_cubic_keeps_its_distance(four: tuple[tuple[float, float], ...], by: float) -> None:
    assume(math.dist(four[0], four[3]) > 200)
    curve = Cubic(four[0], *_arms(four[0], four[3]), four[3])
    course = offset_segment(curve, by, 1e-3)
    line = shapely.LineString([curve.at(n / 4000) for n in range(4001)])
    away = [line.distance(shapely.Point(piece.at(t))) for piece in course for t in (0.1, 0.5, 0.9)]
    assert away == pytest.approx([abs(by)] * len(away), abs=2e-3)


def _arms(a: tuple[float, float], b: tuple[float, float]) -> tuple[tuple[float, float], tuple[float, float]]:
    dx, dy = b[0] - a[0], b[1] - a[1]
    return (a[0] + dx / 3 - dy / 5, a[1] + dy / 3 + dx / 5), (a[0] + dx / 1.5 - dy / 5, a[1] + dy / 1.5 + dx / 5)


def test_a_profile_knows_which_way_its_contours_run() -> None:
    outline = Contour.rectangle((0, 0, 100, 60)).reversed()
    plate = Profile(outline, (Contour.circle((30, 30), 10), Contour.circle((70, 30), 5).reversed()), thickness=3)
    assert plate.outline.is_counter_clockwise
    assert not any(own.is_counter_clockwise for own in plate.openings)
    assert plate.area == pytest.approx(6000 - 125 * math.pi)
    assert plate.cut_length == pytest.approx(320 + 30 * math.pi)
    assert plate.faults() == ()
    with pytest.raises(ValueError, match="outline of a profile is closed"):
        Profile(Contour((Line((0, 0), (1, 0)),), closed=False))


def test_turned_over_a_bend_up_is_a_bend_down() -> None:
    line = Contour((Line((10, 0), (10, 60)),), closed=False)
    sheet = Profile(Contour.rectangle((0, 0, 100, 60)), marks=(Mark(line, Operation.BEND_UP), Mark(line, Operation.ENGRAVE)))
    other = sheet.turned_over()
    assert [mark.operation for mark in other.marks] == [Operation.BEND_DOWN, Operation.ENGRAVE]
    assert other.box == (-100, 0, 0, 60)
    assert other.turned_over() == sheet
    with pytest.raises(ValueError, match="outline or an opening"):
        Mark(line, Operation.CUT)


def test_what_cannot_be_cut_is_said() -> None:
    bow = Contour.polygon(((0, 0), (10, 10), (10, 0), (0, 6)))
    assert Profile(bow).faults() == ("The outline crosses itself.",)
    plate = Contour.rectangle((0, 0, 100, 60))
    apart = Profile(plate, (Contour.circle((30, 30), 10), Contour.circle((45, 30), 10), Contour.circle((99, 30), 5)))
    assert apart.faults() == ("Openings 1 and 2 overlap.", "Opening 3 is not inside the outline.")


def test_contours_nest_to_parts_with_openings() -> None:
    ring, hole, core, apart = (
        Contour.circle((0, 0), 50),
        Contour.circle((0, 0), 30),
        Contour.circle((5, 0), 10),
        Contour.circle((200, 0), 8),
    )
    assert nested([core, apart, hole, ring]) == [(0, []), (1, []), (3, [2])]
    engraved = Mark(Contour((Line((38, 0), (42, 0)),), closed=False), Operation.ENGRAVE)
    astray = Mark(Contour((Line((300, 0), (320, 0)),), closed=False), Operation.SCORE)
    parts = profiles_of([core, apart, hole, ring], [engraved, astray], "Rings", "S235", 4)
    assert [round(part.area) for part in parts] == [314, 201, round(math.pi * 1600)]
    assert [len(part.marks) for part in parts] == [0, 0, 1]
    assert parts[2].thickness == 4
    with pytest.raises(InputError, match="Contour 1 is not closed"):
        profiles_of([Contour((Line((0, 0), (1, 0)),), closed=False)])
