"""Views beside title block and tables: the largest preferred scale that really fits, against a search that tries all places."""

from __future__ import annotations

import itertools
import random

import numpy as np
import pytest
import shapely

from skalto.core.geometry import Box
from skalto.core.layout.arrangement import GAP
from skalto.core.layout.fitting_views import CLEAR, Seat, best_fit, free_offset, grown, laid, table_places
from skalto.core.quantities import PREFERRED_SCALES

A3: Box = (20.0, 10.0, 410.0, 287.0)
TITLE: Box = (230.0, 10.0, 410.0, 65.0)


def _cases() -> list[tuple[list[Seat], list[tuple[float, float]]]]:
    """Thirty parts by chance: three views in line, half of them with a flat pattern and its tables."""
    chance = random.Random(7)
    found = []
    for number in range(30):
        x, y, z = (round(10 ** chance.uniform(0.7, 3.2), 2) for _ in range(3))
        seats = [Seat((0, 1), (x, z), 18, 18), Seat((0, 0), (x, y), 18), Seat((1, 1), (y, z), 0, 0)]
        tables = []
        if number % 2:
            seats.append(Seat((2, 0), (x + 2 * z, y + z), 18, 18))
            tables = [(143.0, 6.0 * chance.randint(2, 7)), (68.0, 6.0 * chance.randint(4, 12))][: chance.randint(1, 2)]
        found.append((seats, tables))
    return found


def _tried(seats: list[Seat], tables: list[tuple[float, float]], scale: float) -> bool:
    """Whether some place does, by trying them a millimetre apart, with shapely's own geometry."""
    _, boxes = laid(seats, scale, GAP)
    within = grown(A3, -CLEAR)
    low, high = boxes[:, :2].min(axis=0), boxes[:, 2:].max(axis=0)
    room = np.array(within[2:]) - np.array(within[:2]) - (high - low)
    if (room < 0).any():
        return False
    for corners in table_places(tables, within, TITLE):
        stand = [shapely.box(x, y - h, x + w, y) for (x, y), (w, h) in zip(corners, tables, strict=True)]
        taken = shapely.union_all([shapely.box(*TITLE), *stand]).buffer(CLEAR, join_style="mitre")
        views = shapely.union_all([shapely.box(*box) for box in boxes])
        for dx, dy in itertools.product(np.arange(0, room[0] + 1e-9, 1.0), np.arange(0, room[1] + 1e-9, 1.0)):
            moved = shapely.transform(views, lambda p, by=(dx, dy): p + (np.array(within[:2]) - low + by))
            if moved.intersection(taken).area < 1e-6:
                return True
    return False


@pytest.mark.parametrize("number", range(30))
def test_the_largest_preferred_scale_that_fits_is_found(number: int) -> None:
    seats, tables = _cases()[number]
    fit = best_fit(seats, tables, A3, TITLE, GAP)
    if fit is None:
        assert not _tried(seats, tables, float(PREFERRED_SCALES[-1]))
        return
    # it does fit: nothing on anything else, all within the frame
    _, boxes = laid(seats, fit.scale, GAP)
    middles, _ = laid(seats, fit.scale, GAP)
    views = [shapely.box(*box) for box in boxes + np.tile(np.array(fit.places[0]) - middles[0], 2)]
    stand = [shapely.box(x, y - h, x + w, y) for (x, y), (w, h) in zip(fit.tables, tables, strict=True)]
    everything = [*views, *stand, shapely.box(*TITLE)]
    for one, other in itertools.combinations(everything, 2):
        assert one.intersection(other).area < 1e-6
    for own in everything[:-1]:
        assert shapely.box(*A3).buffer(1e-6).contains(own)
    # and no larger one does
    larger = [scale for scale in PREFERRED_SCALES if scale > fit.scale]
    assert not any(_tried(seats, tables, float(scale)) for scale in larger[-2:])


def test_a_plate_of_300_by_200_on_a3_is_drawn_at_a_half() -> None:
    """Three views of 300 × 200 × 2: at 1:2 they take 150 + 18 + 10 + 100 by 100 + 10 + 1 and their sizes, by hand."""
    seats = [Seat((0, 1), (300, 2), 18, 18), Seat((0, 0), (300, 200), 18), Seat((1, 1), (200, 2))]
    fit = best_fit(seats, [], A3, TITLE, GAP)
    assert fit is not None
    assert str(fit.scale) == "1:2"


def test_where_nothing_is_free_there_is_no_place() -> None:
    boxes = np.array(((0.0, 0.0, 10.0, 10.0),))
    assert free_offset(boxes, [(0, 0, 30, 30)], (0, 0, 30, 30), (15, 15)) is None
    assert free_offset(boxes, [], (0, 0, 9, 30), (5, 15)) is None
    # exactly between two
    assert free_offset(boxes, [(0, 0, 10, 30), (20, 0, 30, 30)], (0, 0, 30, 30), (0, 15)) == pytest.approx((10, 10))
