"""Contours for a cutter are cut once, and parts stand apart; figures by hand."""

from __future__ import annotations

import math

import numpy as np
import pytest

from skalto.core.checks.apart import apart_checks
from skalto.core.cutter.machine import ChartRow, Machine
from skalto.core.cutter.overlap import over_one_another
from skalto.core.cutter.tracks import Track
from skalto.core.formats import stroke_format
from skalto.core.geometry.profile import Operation
from skalto.core.output.pdf.metadata import Metadata
from skalto.core.pages.composition import compose
from skalto.core.pages.page import SheetContext
from skalto.core.paper import FrameStyle
from skalto.core.sheets.sheet import SheetSpec
from skalto.core.sources.models.model import Model
from skalto.services.results.writing import write_and_check, write_flat, write_one
from tests.core.projection.test_fooled import CUTTER, lines_of, plate, view

__all__ = ["plate"]


def _rectangle(x: float, y: float, w: float, h: float, turn: float = 0.0) -> Track:
    points = np.array(((x, y), (x + w, y), (x + w, y + h), (x, y + h), (x, y)), float)
    cos, sin = math.cos(turn), math.sin(turn)
    return Track(Operation.CUT, points @ np.array(((cos, sin), (-sin, cos))), True)


def _circle(x: float, y: float, r: float, phase: float = 0.0, steps: int = 400) -> Track:
    t = np.linspace(0, 2 * math.pi, steps + 1) + phase
    return Track(Operation.CUT, np.column_stack((x + r * np.cos(t), y + r * np.sin(t))), True)


def _codes(*cuts: Track, beam: float = 0.15) -> dict[str, str]:
    return {check.code: check.reading for check in apart_checks(cuts, beam, 1)}


@pytest.mark.parametrize("turn", [0.0, 0.3, math.pi / 4, 1e-4])
@pytest.mark.parametrize("off", [0.0, 0.003, -0.003])
def test_a_shared_edge_is_cut_twice(turn: float, off: float) -> None:
    found = _codes(_rectangle(0, 0, 60.3, 40, turn), _rectangle(60.3 + off, 10, 20, 120.6, turn))
    assert list(found) == ["cut-twice"]
    length = float(found["cut-twice"].split()[0])
    # the edges of 40 and 120.6 share 30
    assert length == pytest.approx(30, abs=0.05)


def test_where_it_is_lies_there() -> None:
    (check,) = apart_checks([_rectangle(0, 0, 60, 40), _rectangle(60, 10, 20, 20)], 0.15, 3)
    assert (check.verdict, check.page, check.place) == ("fails", 3, pytest.approx((60, 10, 60, 30), abs=0.02))


def test_arcs_and_whole_contours_on_one_another_are_cut_twice() -> None:
    same = _codes(_circle(0, 0, 30), _circle(0, 0, 30, phase=0.004, steps=371))
    assert float(same["cut-twice"].split()[0]) == pytest.approx(2 * math.pi * 30, rel=1e-3)
    # three at one place
    thrice = _codes(*(_rectangle(0, 0, 10, 10) for _ in range(3)))
    assert float(thrice["cut-twice"].split()[0]) == pytest.approx(80, abs=0.1)


def test_parts_nearer_than_the_beam_fail_and_others_pass() -> None:
    found = _codes(_rectangle(0, 0, 60, 40), _rectangle(60.1, 0, 20, 40))
    assert found == {"cut-near": "2 parts are nearer than the beam is wide, the nearest 0.100 mm"}
    assert list(_codes(_rectangle(0, 0, 60, 40), _rectangle(60.2, 0, 20, 40))) == ["cut-apart"]
    # corner to corner
    assert list(_codes(_rectangle(0, 0, 10, 10), _rectangle(10, 10, 10, 10))) == ["cut-near"]
    # a circle in the corner of another part's opening: by hand 0.05 mm
    frame, hole, inner = _rectangle(0, 0, 50, 50), _rectangle(5, 5, 40, 40), _circle(15.05, 25, 10)
    assert list(_codes(frame, hole, inner)) == ["cut-apart"]


def test_what_crosses_or_meets_is_not_cut_twice() -> None:
    a, b = np.array(((0.0, 0.0), (50.0, 50.0))), np.array(((0.0, 50.0), (50.0, 0.0)))
    cross = [Track(Operation.CUT, points, False) for points in (a, b)]
    assert list(_codes(*cross)) == ["cut-apart"]
    tee = Track(Operation.CUT, np.array(((25.0, 0.0), (25.0, -20.0))), False)
    assert list(_codes(_rectangle(0, 0, 50, 50), tee)) == ["cut-apart"]
    assert _codes() == {}


@pytest.mark.parametrize("offset", [0.002, 0.00199, 0.00201, 0.006, 1234.5679, 0.9980001])
def test_doubled_lines_are_found_wherever_they_fall(offset: float) -> None:
    """Two lines 3 µm apart on both sides of any step that a rounding could have."""
    for nudge in np.linspace(0.0, 0.004, 17):
        y = offset + float(nudge)
        pair = [np.array(((0.0, y), (30.0, y))), np.array(((10.0, y + 0.003), (50.0, y + 0.003)))]
        assert over_one_another(pair)[0] == pytest.approx(20, abs=0.05)


def test_a_course_that_comes_back_over_itself() -> None:
    spur = np.array(((0.0, 0.0), (40.0, 0.0), (40.0, 30.0), (70.0, 30.0), (40.0, 30.003), (0.0, 30.0), (0.0, 0.0)))
    assert over_one_another([spur])[0] == pytest.approx(30, abs=0.05)
    t = np.linspace(0, 4 * math.pi, 900)
    assert over_one_another([np.column_stack((9 * np.cos(t), 9 * np.sin(t)))])[0] == pytest.approx(18 * math.pi, rel=1e-2)
    # one that overruns its start by 1 mm
    square = np.array(((5.0, 0.0), (20.0, 0.0), (20.0, 20.0), (0.0, 20.0), (0.0, 0.0), (6.0, 0.0)))
    assert over_one_another([square])[0] == pytest.approx(1, abs=0.05)


def test_what_is_fine_is_not_doubled() -> None:
    """Small circles in fine chords, sharp corners, slots that are wider than a course, a crossing of itself."""
    for r in (0.06, 0.3, 5.0):
        assert over_one_another([_circle(0, 0, r, steps=2000).points])[0] == 0
    wedge = np.array(((0.0, 0.0), (30.0, 5.0), (0.0, 10.0), (0.0, 0.0)))
    slot = np.array(((0.0, 0.0), (30.0, 0.0), (30.0, 0.02), (0.0, 0.02), (0.0, 0.0)))
    eight = np.array(((0.0, 0.0), (30.0, 20.0), (30.0, 0.0), (0.0, 20.0), (0.0, 0.0)))
    assert [over_one_another([own])[0] for own in (wedge, slot, eight)] == [0, 0, 0]
    assert over_one_another([])[0] == 0
    assert over_one_another([np.zeros((1, 2)), np.zeros((3, 2))])[0] == 0


@pytest.mark.parametrize("suffix", [".pdf", ".dxf", ".svg"])
@pytest.mark.parametrize(("kerf", "wanted"), [(0.4, "cut-near"), (0.2, "cut-apart")])
def test_the_beam_is_that_of_the_cutter_it_is_for(plate: Model, suffix: str, kerf: float, wanted: str) -> None:
    """0.3 mm apart: enough for one cutter's beam, too little for another's; the shipped chart's least is 0.15."""
    first = view(turn=0.0).model_copy(update={"place": (80.0, 100.0)})
    second = first.model_copy(update={"id": "w", "place": (140.3, 100.0)})
    sheet = SheetSpec(id="s", name="Two", format="A3", frame=FrameStyle.NONE, clean=True, furniture=frozenset())
    sheet = sheet.with_views((first, second))
    lines = {"v": lines_of(plate, first), "w": lines_of(plate, second)}
    row = ChartRow(material="Plywood", thickness=3, cut=18, score=120, engrave=400, kerf=kerf)
    context = SheetContext(machine=Machine(chart=(row,)))
    if suffix == ".pdf":
        _, report = write_and_check([(sheet, context)], lines, Metadata("x"), lambda share, text: None, CUTTER)
    else:
        _, report = write_one(sheet, context, lines, stroke_format(suffix[1:]), recipe=CUTTER)
    assert [check.code for check in report.checks if check.code.startswith("cut-")] == [wanted]


@pytest.mark.parametrize("suffix", [".pdf", ".dxf", ".svg"])
@pytest.mark.parametrize(("apart", "wanted"), [(0.0, "cut-twice"), (0.1, "cut-near"), (5.0, "cut-apart")])
def test_two_views_side_by_side_on_a_cutter_s_sheet(plate: Model, suffix: str, apart: float, wanted: str) -> None:
    """The plate is 60 × 40 mm on paper: its two views share an edge where they stand 60 mm apart."""
    first = view(turn=0.0).model_copy(update={"place": (80.0, 100.0)})
    second = first.model_copy(update={"id": "w", "place": (80.0 + 60.0 + apart, 100.0)})
    sheet = SheetSpec(id="s", name="Two", format="A3", frame=FrameStyle.NONE, clean=True, furniture=frozenset())
    sheet = sheet.with_views((first, second))
    lines = {"v": lines_of(plate, first), "w": lines_of(plate, second)}
    if suffix == ".pdf":
        _, report = write_and_check([(sheet, SheetContext())], lines, Metadata("x"), lambda share, text: None, CUTTER)
    else:
        page = compose(sheet, lines, SheetContext())
        _, report = write_flat(page, lines, stroke_format(suffix[1:]), CUTTER)
    codes = {check.code: check for check in report.checks if check.code.startswith("cut-")}
    assert list(codes) == [wanted]
    assert report.holds is (wanted == "cut-apart")
    if wanted == "cut-twice":
        assert float(codes[wanted].reading.split()[0]) == pytest.approx(40, abs=0.05)
