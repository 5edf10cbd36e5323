"""Arrangements: nothing overlaps, gaps and margins hold, by an independent library (GEOS by shapely); jigsaws with a known
optimum; openings; pins; several plates; the same seed gives the same."""

from __future__ import annotations

import math
import random
from typing import Any

import pytest
import shapely
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from shapely import affinity

from bench.cutting import jigsaw
from skalto.core.cutting.packing.filling import filled, queue_of
from skalto.core.cutting.packing.measures import bound, faults, largest_rectangle, plate_yield
from skalto.core.cutting.packing.openings import housed
from skalto.core.cutting.packing.pieces import Arrangement, Blank, Laying, Piece, Placed, grown, simpler
from skalto.core.cutting.packing.regions import Shapes
from skalto.core.cutting.packing.search import _Search, arrangements
from skalto.core.cutting.packing.strips import strips


def _last(laying: Laying, seconds: float, seed: int = 1) -> Arrangement:
    made = list(arrangements(laying, seconds, seed))
    assert made[-1].last
    return made[-1].arrangement


def _rectangle(width: float, height: float) -> Any:
    return shapely.box(0, 0, width, height)


@st.composite
def polygons(draw: st.DrawFn) -> Any:
    """Stars about a middle, with dents, some with an opening."""
    count = draw(st.integers(3, 10))
    radii = draw(st.lists(st.floats(8, 60), min_size=count, max_size=count))
    points = [(r * math.cos(math.tau * n / count), r * math.sin(math.tau * n / count)) for n, r in enumerate(radii)]
    area = shapely.Polygon(points)
    if draw(st.booleans()):
        area = area.difference(shapely.Point(0, 0).buffer(min(radii) * 0.4))
    x0, y0, _, _ = area.bounds
    return affinity.translate(area, -x0, -y0)


@given(
    st.lists(polygons(), min_size=1, max_size=5),
    st.sampled_from((0.0, 0.5, 3.0)),
    st.sampled_from((0.0, 5.0)),
    st.sampled_from((None, (0.0, 90.0, 180.0, 270.0), (0.0,))),
    st.booleans(),
)
@settings(max_examples=25, deadline=None, suppress_health_check=[HealthCheck.too_slow])
def test_pieces_laid_one_by_one_keep_apart(
    areas: list[Any], gap: float, edge: float, turns: tuple[float, ...] | None, flips: bool
) -> None:
    pieces = tuple(Piece(f"p{n}", area, 2, turns, flips) for n, area in enumerate(areas))
    laying = Laying(pieces, (Blank(_rectangle(260, 180)),), gap, edge)
    made = filled(laying, Shapes(laying), queue_of(laying))
    assert faults(laying, made) == []
    assert len(made.placed) + sum(made.left.values()) == 2 * len(areas)
    assert made.left == {}


def test_what_is_not_sound_is_not_taken() -> None:
    laying = Laying((Piece("a", _rectangle(50, 30), 2),), (Blank(_rectangle(200, 100)),), 2.0, 5.0)
    search = _Search(laying, 1.0, 1, lambda: False, 1.0, False)
    for x in (0.0, 40.0):
        assert not search.take(Arrangement((Placed("a", 0, 5, 5), Placed("a", 0, x, 5))))
    assert search.take(Arrangement((Placed("a", 0, 5, 5), Placed("a", 0, 57, 5))))


@pytest.mark.long
@given(st.lists(polygons(), min_size=2, max_size=6), st.sampled_from((0.0, 2.0)))
@settings(max_examples=6, deadline=None, suppress_health_check=[HealthCheck.too_slow])
def test_what_the_search_finds_keeps_apart(areas: list[Any], gap: float) -> None:
    laying = Laying(tuple(Piece(f"p{n}", own, 2) for n, own in enumerate(areas)), (Blank(_rectangle(400, 300)),), gap, 4.0)
    made = _last(laying, 1.5)
    assert faults(laying, made) == []
    assert made.left == {}


def test_faults_sees_what_is_wrong() -> None:
    laying = Laying((Piece("a", _rectangle(50, 30), 2),), (Blank(_rectangle(200, 100)),), 2.0, 5.0)
    good = Arrangement((Placed("a", 0, 5, 5), Placed("a", 0, 57, 5)))
    assert faults(laying, good) == []
    near = Arrangement((Placed("a", 0, 5, 5), Placed("a", 0, 56.5, 5)))
    assert faults(laying, near) == ["a and a are 1.500 mm apart on plate 1."]
    over = Arrangement((Placed("a", 0, 5, 5), Placed("a", 0, 40, 5)))
    assert "overlap" in faults(laying, over)[0]
    out = Arrangement((Placed("a", 0, 4, 5),))
    assert "edge margin" in faults(laying, out)[0]
    one_plate = Laying(laying.pieces, (Blank(_rectangle(200, 100), 1),), 2.0, 5.0)
    assert faults(one_plate, Arrangement((Placed("a", 1, 5, 5),))) == ["There is no plate 2."]


@pytest.mark.long
def test_a_jigsaw_goes_onto_a_plate_of_a_third_more() -> None:
    pieces = jigsaw(12, 5)
    side = math.sqrt(1 / 0.75)
    blank = Blank(_rectangle(300 * side, 200 * side))
    laying = Laying(tuple(Piece(str(n), own, 1, None) for n, own in enumerate(pieces)), (blank,), 0.0, 0.0)
    made = _last(laying, 12)
    assert made.left == {}
    assert made.plates == 1
    assert faults(laying, made) == []
    assert plate_yield(laying, made, 0) == pytest.approx(0.75, abs=1e-3)


def _frames(open_: bool) -> Laying:
    frame = _rectangle(120, 120).difference(shapely.box(12, 12, 108, 108))
    if not open_:
        frame = _rectangle(120, 120)
    pieces = (
        Piece("frame", frame, 6),
        Piece("small", _rectangle(45, 40), 12),
        Piece("disc", shapely.Point(20, 20).buffer(20), 6),
    )
    return Laying(pieces, (Blank(_rectangle(800, 400)),), 2.0, 5.0)


def test_small_pieces_go_into_openings() -> None:
    laying = _frames(True)
    made = _last(laying, 3)
    assert faults(laying, made) == []
    hosts = [own.of(laying.by_key["frame"].area) for own in made.placed if own.key == "frame"]
    inside = [own for own in made.placed if own.key != "frame"
              and any(shapely.Polygon(h.exterior).contains(own.of(laying.by_key[own.key].area)) for h in hosts)]  # fmt: skip
    assert len(inside) >= 12
    used = {key: max(p.of(lay.by_key[p.key].area).bounds[2] for p in arr.placed) for key, lay, arr in (
        ("open", laying, made), ("closed", _frames(False), _last(_frames(False), 3)))}  # fmt: skip
    size = math.fsum(laying.by_key[own.key].area.area for own in made.placed)
    # of the length of plate that is taken: ten points more at least
    assert size / (used["open"] * 400) - size / (used["closed"] * 400) > 0.10


def test_guests_turn_with_their_host() -> None:
    frame = _rectangle(100, 60).difference(shapely.box(10, 10, 90, 50))
    laying = Laying(
        (Piece("frame", frame, 1), Piece("bar", _rectangle(70, 30), 1, (0.0, 180.0))), (Blank(_rectangle(300, 200)),)
    )
    house = housed(laying)
    ((name, host),) = house.hosts.items()
    assert set(host.piece.turns or ()) == {0.0, 180.0}
    rows = house.apart(Placed(name, 0, 150, 100, 180.0))
    made = Arrangement(tuple(rows))
    assert {row.key for row in rows} == {"frame", "bar"}
    assert faults(laying, made) == []


def test_guests_and_host_keep_to_the_grain() -> None:
    frame = _rectangle(100, 60).difference(shapely.box(10, 10, 90, 50))
    across = (90.0, 270.0)
    laying = Laying(
        (Piece("frame", frame, 2, across), Piece("bar", _rectangle(70, 30), 2, across)), (Blank(_rectangle(300, 200)),)
    )
    house = housed(laying)
    assert len(house.hosts) == 2
    made = _last(laying, 1.5)
    assert made.left == {}
    assert {round(own.turn % 360, 6) for own in made.placed} <= set(across)
    assert faults(laying, made) == []


def test_pins_and_remnants_are_laid_around() -> None:
    remnant = _rectangle(500, 300).difference(shapely.Point(150, 150).buffer(60)).difference(shapely.box(400, 200, 500, 300))
    pieces = (Piece("a", _rectangle(90, 50), 5), Piece("b", shapely.Polygon([(0, 0), (80, 0), (0, 80)]), 4))
    pinned = (Placed("a", 0, 300, 20, 15, False, True, "kept"),)
    laying = Laying(pieces, (Blank(remnant, 1), Blank(_rectangle(300, 200))), 2.0, 5.0, pinned)
    made = _last(laying, 4)
    assert made.placed[0] == pinned[0]
    assert sum(own.key == "a" for own in made.placed) == 5
    assert made.left == {}
    assert faults(laying, made) == []


def test_as_few_plates_as_it_takes_and_no_more_than_there_are() -> None:
    laying = Laying((Piece("a", _rectangle(90, 90), 9),), (Blank(_rectangle(200, 200)),), 2.0, 5.0)
    made = _last(laying, 2)
    assert made.plates == 3
    few = Laying(laying.pieces, (Blank(_rectangle(200, 200), 2),), 2.0, 5.0)
    short = _last(few, 2)
    assert (short.plates, short.left) == (2, {"a": 1})
    assert faults(few, short) == []


def test_what_is_too_large_is_left_and_the_rest_is_laid() -> None:
    laying = Laying((Piece("large", _rectangle(500, 50), 1), Piece("a", _rectangle(50, 30), 2)), (Blank(_rectangle(300, 200)),))
    made = _last(laying, 1)
    assert made.left == {"large": 1}
    assert len(made.placed) == 2


def test_the_same_seed_gives_the_same() -> None:
    lots = random.Random(2)
    pieces = tuple(Piece(str(n), _rectangle(lots.uniform(20, 90), lots.uniform(20, 90)), 1) for n in range(10))
    laying = Laying(pieces, (Blank(_rectangle(300, 250)),), 2.0, 5.0)
    one, other, another = (list(arrangements(laying, 120 + n, 7 + n // 2, work=60)) for n in range(3))
    assert one[-1].arrangement.placed == other[-1].arrangement.placed
    assert len(one) > 1
    assert another[-1].arrangement.placed != one[-1].arrangement.placed


def test_a_stop_ends_it_with_the_best_so_far() -> None:
    lots = random.Random(2)
    pieces = tuple(Piece(str(n), _rectangle(lots.uniform(20, 90), lots.uniform(20, 90)), 1) for n in range(10))
    laying = Laying(pieces, (Blank(_rectangle(300, 250)),), 2.0, 5.0)
    said: list[bool] = []
    found = []
    for own in arrangements(laying, 60, 1, lambda: bool(said)):
        found.append(own)
        said.append(True)
    assert found[-1].last
    assert faults(laying, found[-1].arrangement) == []


def test_the_bound_is_never_passed() -> None:
    laying = Laying((Piece("a", _rectangle(38, 38), 16),), (Blank(_rectangle(170, 170)),), 2.0, 5.0)
    made = _last(laying, 2)
    assert made.left == {}
    limit = bound(laying, made.placed, 0)
    # by hand: squares of 38 grown by 1 take 1600 less the corners, in 162 × 162, of a plate of 170 × 170
    corners = 4 - math.pi
    assert limit == pytest.approx(162**2 / (1600 - corners) * 38**2 / 170**2, rel=1e-3)
    assert plate_yield(laying, made, 0) == pytest.approx(16 * 38**2 / 170**2, rel=1e-3)
    assert plate_yield(laying, made, 0) <= limit


def test_the_largest_rectangle_that_is_left() -> None:
    laying = Laying((Piece("a", _rectangle(100, 200), 1),), (Blank(_rectangle(400, 200)),), 0.0, 0.0)
    box = largest_rectangle(laying, Arrangement((Placed("a", 0, 0, 0),)), 0)
    assert box == pytest.approx((100, 0, 400, 200), abs=2)
    assert largest_rectangle(laying, Arrangement((Placed("a", 9, 0, 0),)), 0) == pytest.approx((0, 0, 400, 200))


def test_simpler_and_grown_areas_hold_the_whole() -> None:
    wavy = shapely.Polygon([(50 + (20 + math.sin(9 * a)) * math.cos(a), 50 + (20 + math.sin(9 * a)) * math.sin(a))
                            for a in (math.tau * n / 400 for n in range(400))])  # fmt: skip
    small = simpler(wavy, 0.3)
    assert small.covers(wavy)
    assert len(small.exterior.coords) < 200
    wide = grown(_rectangle(10, 10), 1.0)
    assert wide.covers(_rectangle(10, 10).buffer(1.0, quad_segs=64))


def test_strips_end_when_they_are_told_to() -> None:
    from skalto.core.cutting.packing.strips import StripItem

    items = [StripItem(str(n), _rectangle(20 + n, 30), _rectangle(20 + n, 30), 2, (0.0, 90.0)) for n in range(6)]
    rows = list(strips(items, 100, 30, 20, 1))
    assert rows[-1].step <= 60
    widths = [own.width for own in rows]
    assert widths == sorted(widths, reverse=True)
