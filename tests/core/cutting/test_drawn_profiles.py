"""Parts out of drawings."""

from __future__ import annotations

import math
from pathlib import Path
from typing import Any

import pytest

from skalto.core.artwork import Tags
from skalto.core.cutting.drawn_profiles import DrawnParts, parts_of
from skalto.core.geometry.profile import Operation
from tests.core.drawn import dxf, read


def _parts(path: Path, draw: Any, close: float = 0.0) -> DrawnParts:
    def says(tags: Tags) -> Operation | None:
        kinds = {"fold": Operation.SCORE, "name": Operation.ENGRAVE}
        return None if tags.layer == "notes" else kinds.get(tags.layer, Operation.CUT)

    drawing = read(dxf(path / "parts.dxf", lambda document, space: draw(space)))
    return parts_of(drawing.spaces[""], says, close, "Part")


def test_contours_nest_into_parts_openings_and_parts_again(tmp_path: Path) -> None:
    def draw(space: Any) -> None:
        space.add_lwpolyline([(0, 0), (100, 0), (100, 60), (0, 60)], close=True)
        space.add_circle((30, 30), 20)
        space.add_circle((30, 30), 10)
        space.add_circle((80, 30), 5)

    found = _parts(tmp_path, draw)
    assert [round(part.area, 6) for part in found.parts] == [
        pytest.approx(6000 - math.pi * (400 + 25)), pytest.approx(math.pi * 100)
    ]  # fmt: skip
    assert [len(part.openings) for part in found.parts] == [2, 0]
    assert found.corners == (pytest.approx((0, 0)), pytest.approx((20, 20)))
    assert found.open == ()


def test_lines_and_arcs_in_any_order_make_one_contour(tmp_path: Path) -> None:
    def draw(space: Any) -> None:
        space.add_line((40, 20), (0, 20))
        space.add_arc((40, 10), 10, -90, 90)
        space.add_line((0, 0), (40, 0))
        space.add_arc((0, 10), 10, 90, 270)

    (part,) = _parts(tmp_path, draw).parts
    assert part.area == pytest.approx(800 + math.pi * 100, abs=1e-6)
    assert part.cut_length == pytest.approx(80 + math.pi * 20, abs=1e-6)


def test_gaps_are_told_and_closed_up_to_a_length(tmp_path: Path) -> None:
    def draw(space: Any) -> None:
        space.add_line((0, 0), (50, 0))
        space.add_line((50, 0), (50, 30))
        space.add_line((50, 30), (0, 0.4))

    found = _parts(tmp_path, draw)
    assert found.parts == ()
    assert found.open[0].gap == pytest.approx(0.4)
    assert found.open[0].sentence() == "The contour from (0.00, 0.00) to (0.00, 0.40) is open: its ends are 0.400 mm apart."
    assert len(_parts(tmp_path, draw, close=0.5).parts) == 1


def test_where_three_lines_meet_it_says_so(tmp_path: Path) -> None:
    def draw(space: Any) -> None:
        space.add_lwpolyline([(0, 0), (50, 0), (50, 30), (0, 30)], close=True)
        # a second rectangle that shares a side with the first, which is drawn once
        space.add_lwpolyline([(50, 0), (90, 0), (90, 30), (50, 30)])

    found = _parts(tmp_path, draw)
    assert any("3 lines meet" in own.sentence() for own in found.open), [own.sentence() for own in found.open]


def test_marks_go_by_layer_and_what_is_beside_all_parts_is_told(tmp_path: Path) -> None:
    def draw(space: Any) -> None:
        space.add_lwpolyline([(0, 0), (100, 0), (100, 60), (0, 60)], close=True)
        space.add_line((50, 5), (50, 55), dxfattribs={"layer": "fold"})
        space.add_circle((20, 20), 5, dxfattribs={"layer": "name"})
        space.add_line((200, 0), (220, 0), dxfattribs={"layer": "fold"})
        space.add_line((0, 100), (220, 0), dxfattribs={"layer": "notes"})
        space.add_text("A", dxfattribs={"layer": "0"}).set_placement((10, 10))

    found = _parts(tmp_path, draw)
    (part,) = found.parts
    told = sorted((mark.operation.value, round(mark.course.length, 3)) for mark in part.marks)
    assert [row for row in told if row[1] > 9] == [("engrave", round(10 * math.pi, 3)), ("score", 50.0)]
    # the strokes of the letter are not cut, whatever its layer is
    assert {operation for operation, length in told if length <= 9} == {"engrave"}
    assert any("on no part" in note for note in found.notes)


def test_a_contour_that_crosses_itself_is_a_fault(tmp_path: Path) -> None:
    def draw(space: Any) -> None:
        space.add_lwpolyline([(0, 0), (100, 50), (100, 0), (0, 60)], close=True)

    (part,) = _parts(tmp_path, draw).parts
    assert part.faults() == ("The outline crosses itself.",)
