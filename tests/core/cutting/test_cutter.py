"""The stand-in cutter: times against kinematics, pieces out of files that others wrote, and what it refuses."""

from __future__ import annotations

import math
from pathlib import Path
from typing import Any

import ezdxf
import numpy as np
import pikepdf
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from reportlab.pdfgen.canvas import Canvas

from skalto.core.cutter.machine import CHART, Machine
from skalto.core.cutter.motion import Motion, corner_speeds, rest_to_rest, times_along
from skalto.core.cutter.pieces import fallen, off_by, reachable
from skalto.core.cutter.running import CutterReport, Run, run
from skalto.core.cutter.tracks import Track, read_for_machine
from skalto.core.cutting.cut_paths import PlacedPart
from skalto.core.errors import InputError
from skalto.core.geometry import Similarity
from skalto.core.geometry.contour import Contour
from skalto.core.geometry.profile import Operation, Profile

MACHINE = Machine()
HAIR = 0.0254
MM = 72 / 25.4


# ---- time


def test_a_trapezoid_by_hand() -> None:
    """v = 100 mm/s, a = 1000 mm/s²: v²/2a = 5 mm to reach the speed; 60 mm take 10 mm of ramps and 50 mm at full speed, 0.1
    + 0.5 + 0.1 s; 2.5 mm never reach it, 2·√(s/a) = 0.1 s (kinematics)."""
    assert float(rest_to_rest(60, 100, 1000)) == pytest.approx(0.7)
    assert float(rest_to_rest(2.5, 100, 1000)) == pytest.approx(0.1)
    motion = Motion(1000, 0.02)
    assert times_along(np.array(((0.0, 0.0), (60.0, 0.0))), 100, motion)[-1] == pytest.approx(0.7)
    assert times_along(np.array(((0.0, 0.0), (2.5, 0.0))), 100, motion)[-1] == pytest.approx(0.1)
    # straight on through a point between makes no difference
    assert times_along(np.array(((0.0, 0.0), (20.0, 0.0), (60.0, 0.0))), 100, motion)[-1] == pytest.approx(0.7)


def test_corner_speed_by_the_formula() -> None:
    # legs at 90°: sin(45°)/(1 − sin(45°)) = 2.414; a·δ = 20, v = 6.949 mm/s
    corner = np.array(((0.0, 0.0), (50.0, 0.0), (50.0, 50.0)))
    (speed,) = corner_speeds(corner, Motion(1000, 0.02)).tolist()
    assert speed == pytest.approx(math.sqrt(20 * math.sin(math.pi / 4) / (1 - math.sin(math.pi / 4))))
    back = np.array(((0.0, 0.0), (50.0, 0.0), (0.0, 0.0)))
    assert corner_speeds(back, Motion(1000, 0.02))[0] == pytest.approx(0, abs=1e-6)


@given(st.lists(st.tuples(st.floats(-50, 50), st.floats(-50, 50)), min_size=2, max_size=12, unique=True), st.floats(5, 300))
@settings(max_examples=60, deadline=None)
def test_no_course_is_quicker_than_its_speed_or_slower_than_stopping(points: list[tuple[float, float]], speed: float) -> None:
    course = np.array(points)
    course = course[np.concatenate(([True], np.hypot(*np.diff(course, axis=0).T) > 1e-3))]
    if len(course) < 2:
        return
    motion = Motion(2000, 0.02)
    times = times_along(course, speed, motion)
    steps = np.hypot(*np.diff(course, axis=0).T)
    assert (np.diff(times) >= 0).all()
    assert times[-1] >= steps.sum() / speed - 1e-9
    assert times[-1] <= float(rest_to_rest(steps, speed, 2000).sum()) + 1e-6


def test_a_circle_is_as_quick_as_its_pull_allows() -> None:
    r, a = 2.0, 1000.0
    angles = np.linspace(0, math.tau, 2000)
    circle = np.stack((r * np.cos(angles), r * np.sin(angles)), axis=1)
    spent = times_along(circle, 500, Motion(a, 0.02))[-1]
    # v = √(a·r) all along but for the ramps
    assert spent == pytest.approx(math.tau * r / math.sqrt(a * r), rel=0.25)
    assert spent >= math.tau * r / math.sqrt(a * r) * 0.999


# ---- pieces


def _square_profile(x: float, y: float, hole: float = 10.0) -> PlacedPart:
    made = Profile(Contour.rectangle((0, 0, 60, 40)), (Contour.circle((20, 20), hole),), name="Plate")
    return PlacedPart(f"{x:g}", made.placed(Similarity(dx=x, dy=y)))


def _dxf(path: Path, draw: Any, size: tuple[float, float] = (200, 100)) -> Path:
    document = ezdxf.new("R2010")
    document.units = 4
    space = document.modelspace()
    space.reset_limits((0, 0), size)
    for name in ("cut", "score", "engrave"):
        document.layers.add(name)
    draw(space)
    document.saveas(path)
    return path


def _svg(path: Path, body: str, size: tuple[float, float] = (200, 100)) -> Path:
    w, h = size
    head = f'<svg xmlns="http://www.w3.org/2000/svg" width="{w}mm" height="{h}mm" viewBox="0 0 {w} {h}">'
    path.write_text(f'{head}<g fill="none" stroke="#000" stroke-width="{HAIR}">{body}</g></svg>')
    return path


def _pdf(path: Path, draw: Any, size: tuple[float, float] = (200, 100)) -> Path:
    canvas = Canvas(str(path), pagesize=(size[0] * MM, size[1] * MM))
    canvas.scale(MM, MM)
    canvas.setLineWidth(HAIR)
    draw(canvas)
    canvas.showPage()
    canvas.save()
    return path


def _run(path: Path, parts: list[PlacedPart] | None = None, kerf: float = 0.2, machine: Machine = MACHINE) -> Run:
    return run(read_for_machine(path, machine), machine, CHART[0], parts, kerf)


def _report(path: Path, parts: list[PlacedPart] | None = None, kerf: float = 0.2) -> CutterReport:
    return _run(path, parts, kerf).report


def _two(kind: str, path: Path, kerf: float = 0.2, radius: float = 10.0) -> Path:
    """A plate of 60 × 40 with a hole, at (10, 10) and (80, 10), offset by half a kerf, by a program that is not ours."""
    half = kerf / 2
    if kind == "dxf":

        def draw(space: Any) -> None:
            for x in (10, 80):
                space.add_circle((x + 20, 30), radius - half, dxfattribs={"layer": "cut"})
                corners = [(x - half, 10 - half), (x + 60 + half, 10 - half), (x + 60 + half, 50 + half), (x - half, 50 + half)]
                space.add_lwpolyline(corners, close=True, dxfattribs={"layer": "cut"})

        return _dxf(path, draw)
    if kind == "svg":
        body = "".join(
            f'<circle cx="{x + 20}" cy="70" r="{radius - half}"/>'
            f'<rect x="{x - half}" y="{50 - half}" width="{60 + kerf}" height="{40 + kerf}"/>'
            for x in (10, 80)
        )
        return _svg(path, body)

    def paint(canvas: Canvas) -> None:
        for x in (10, 80):
            canvas.circle(x + 20, 30, radius - half)
            canvas.rect(x - half, 10 - half, 60 + kerf, 40 + kerf)

    return _pdf(path, paint)


@pytest.mark.parametrize("kind", ["dxf", "svg", "pdf"])
def test_pieces_of_a_file_that_another_wrote(kind: str, tmp_path: Path) -> None:
    parts = [_square_profile(10, 10), _square_profile(80, 10)]
    report = _report(_two(kind, tmp_path / f"plate.{kind}"), parts)
    assert report.refusals == ()
    assert report.size == pytest.approx((200, 100), abs=1e-3)
    own = [piece for piece in report.pieces if piece.part]
    assert len(own) == 2
    # one Bézier a quarter, as this PDF has circles, is off by 2.73·10⁻⁴ of the radius
    assert max(piece.deviation_um or 0 for piece in own) < (4 if kind == "pdf" else 1.5)
    assert len(report.pieces) == 4
    assert report.pierces == 4
    assert report.cut_length == pytest.approx(2 * (2 * 100.4 + math.tau * 9.9), abs=0.02)
    assert report.seconds.cut > report.cut_length / CHART[0].cut


def test_a_wrong_size_a_missing_hole_and_a_scaled_page_are_found(tmp_path: Path) -> None:
    parts = [_square_profile(10, 10), _square_profile(80, 10)]
    small = _report(_two("dxf", tmp_path / "a.dxf", radius=9.97), parts)
    assert any("comes out 30 µm off" in sentence for sentence in small.refusals), small.refusals
    uncompensated = _report(_two("dxf", tmp_path / "b.dxf", kerf=0.0), parts)
    assert any("comes out" in sentence for sentence in uncompensated.refusals)

    def without(space: Any) -> None:
        space.add_lwpolyline([(9.9, 9.9), (70.1, 9.9), (70.1, 50.1), (9.9, 50.1)], close=True, dxfattribs={"layer": "cut"})

    lost = _report(_dxf(tmp_path / "c.dxf", without), parts)
    assert any("does not fall out" in sentence for sentence in lost.refusals)
    assert any("comes out" in sentence for sentence in lost.refusals)


def test_parts_that_hang_together_are_merged(tmp_path: Path) -> None:
    parts = [_square_profile(10, 10, 5), _square_profile(70, 10, 5)]

    def draw(space: Any) -> None:
        space.add_lwpolyline([(9.9, 9.9), (130.1, 9.9), (130.1, 50.1), (9.9, 50.1)], close=True, dxfattribs={"layer": "cut"})

    report = _report(_dxf(tmp_path / "a.dxf", draw), parts)
    assert any("2 × Plate come out as one piece" in sentence for sentence in report.refusals)


def _sentence(path: Path, words: str, parts: list[PlacedPart] | None = None) -> None:
    report = _report(path, parts)
    said = (*report.refusals, *report.notices)
    assert any(words in sentence for sentence in said), said


def test_refusals_in_plain_words(tmp_path: Path) -> None:
    def wide(canvas: Canvas) -> None:
        canvas.setLineWidth(0.5)
        canvas.rect(10, 10, 60, 40)

    _sentence(_pdf(tmp_path / "wide.pdf", wide), "Nothing is cut, in no time")
    _sentence(_pdf(tmp_path / "large.pdf", lambda c: c.rect(10, 10, 60, 40), (1200, 900)), "larger than the bed")

    def doubled(canvas: Canvas) -> None:
        canvas.rect(10, 10, 60, 40)
        canvas.line(20, 10, 50, 10)

    _sentence(_pdf(tmp_path / "doubled.pdf", doubled), "30.00 mm are cut twice")
    _sentence(
        _pdf(tmp_path / "open.pdf", lambda c: c.lines([(10, 10, 60, 10), (60, 10, 60, 50)])),
        "1 cut contour is open, the widest gap is 64.031 mm",
    )

    def clipped(canvas: Canvas) -> None:
        path = canvas.beginPath()
        path.rect(0, 0, 100, 80)
        canvas.clipPath(path, stroke=0, fill=0)
        canvas.rect(10, 10, 60, 40)

    _sentence(_pdf(tmp_path / "clip.pdf", clipped), "clip path")
    body = '<clipPath id="c"><rect width="50" height="50"/></clipPath>'
    body += '<rect x="9" y="9" width="20" height="20" clip-path="url(#c)"/>'
    _sentence(_svg(tmp_path / "clip.svg", body), "clip path")
    _sentence(_dxf(tmp_path / "off.dxf", lambda s: s.add_circle((195, 50), 20, dxfattribs={"layer": "cut"})), "off the plate")

    def too_soon(space: Any) -> None:
        space.add_lwpolyline([(10, 10), (70, 10), (70, 50), (10, 50)], close=True, dxfattribs={"layer": "cut"})
        space.add_circle((30, 30), 10, dxfattribs={"layer": "cut"})

    _sentence(_dxf(tmp_path / "soon.dxf", too_soon), "1 piece falls out before")

    def unknown(canvas: Canvas) -> None:
        canvas.setStrokeColorRGB(0, 0, 1)
        canvas.rect(10, 10, 60, 40)

    _sentence(_pdf(tmp_path / "blue.pdf", unknown), "1 hairlines of colour #0000ff are no code")


def test_a_picture_where_lines_were_meant(tmp_path: Path) -> None:
    from PIL import Image

    def draw(canvas: Canvas) -> None:
        canvas.drawInlineImage(Image.new("RGB", (40, 40), "black"), 10, 10, 50, 50)

    report = _report(_pdf(tmp_path / "picture.pdf", draw))
    assert any("pictures where lines were meant" in sentence for sentence in report.refusals)
    assert report.seconds.engrave > 0


def test_a_view_that_is_not_full_size_is_told(tmp_path: Path) -> None:
    plain = _pdf(tmp_path / "plain.pdf", lambda c: c.rect(10, 10, 60, 40))
    with pikepdf.open(plain, allow_overwriting_input=True) as pdf:
        number = pikepdf.Dictionary(Type=pikepdf.Name.NumberFormat, U=pikepdf.String("mm"), C=25.4 / 72 * 2)
        measure = pikepdf.Dictionary(Type=pikepdf.Name.Measure, Subtype=pikepdf.Name.RL, X=pikepdf.Array([number]))
        port = pikepdf.Dictionary(Type=pikepdf.Name.Viewport, BBox=pikepdf.Array([0, 0, 100, 100]), Measure=measure)
        pdf.pages[0].obj.VP = pikepdf.Array([port])
        pdf.save(plain)
    _sentence(plain, "at 1:2")


def test_the_film_goes_where_the_report_says(tmp_path: Path) -> None:
    made = _run(_two("svg", tmp_path / "a.svg"))
    film = made.film
    assert (np.diff(film.times) >= -1e-12).all()
    assert film.times[-1] == pytest.approx(made.report.seconds.total)
    steps = np.hypot(*np.diff(film.points, axis=0).T)
    assert steps[film.doing[:-1] == 1].sum() == pytest.approx(made.report.cut_length, abs=1e-6)
    assert film.points[0].tolist() == [0, 100]
    right = _run(_two("svg", tmp_path / "a.svg"), machine=MACHINE.model_copy(update={"corner": "bottom-right"}))
    assert right.film.points[0].tolist() == [200, 0]


def test_pages_of_a_pdf_and_files_of_other_kinds(tmp_path: Path) -> None:
    path = _pdf(tmp_path / "a.pdf", lambda c: c.rect(10, 10, 60, 40))
    with pytest.raises(InputError, match="has 1 pages, and no page 3"):
        read_for_machine(path, MACHINE, page=3)
    with pytest.raises(InputError, match="chart has no Marble"):
        MACHINE.row("Marble")
    assert MACHINE.row("plywood", 5.5).thickness == 6


# ---- the measure itself


def test_the_measure_of_pieces_by_hand() -> None:
    plate = shapely.box(0, 0, 100, 100)
    square = np.array(((20, 20), (60, 20), (60, 60), (20, 60), (20, 20)), float)
    made = fallen(plate, [Track(Operation.CUT, square, True)], 0.2)
    (piece,) = made.pieces
    assert piece.area == pytest.approx(39.8**2, abs=1e-6)
    assert off_by(piece, shapely.box(20.1, 20.1, 59.9, 59.9)) < 1e-6
    assert off_by(piece, shapely.box(20, 20, 60, 60)) == pytest.approx(0.1 * math.sqrt(2), abs=1e-6)
    # without a beam's width it is the square itself
    (whole,) = fallen(plate, [Track(Operation.CUT, square, True)], 0.0).pieces
    assert whole.area == pytest.approx(1600)
    # a dent between two pieces of equal corners is found from the other side
    dented = shapely.Polygon([(0, 0), (10, 0), (10, 10), (5, 9.5), (0, 10)])
    assert off_by(shapely.box(0, 0, 10, 10), dented) == pytest.approx(0.5, abs=1e-2)


def test_inner_corners_keep_the_beams_radius() -> None:
    corner = shapely.Polygon([(0, 0), (20, 0), (20, 10), (10, 10), (10, 20), (0, 20)])
    best = reachable(corner, 0.4)
    # the fillet of radius r in a square corner takes r²·(1 − π/4)
    assert best.area - corner.area == pytest.approx(0.04 * (1 - math.pi / 4), rel=0.02)
    assert off_by(best, corner) == pytest.approx(0.2 * (math.sqrt(2) - 1), rel=0.02)


def test_tracks_keep_the_files_order_and_way(tmp_path: Path) -> None:
    body = (
        '<path d="M10 10 L40 10 A10 10 0 0 0 40 30 L10 30 Z"/><circle cx="100" cy="50" r="5"/><path d="M150 10 l10 0 l0 10 z"/>'
    )
    file = read_for_machine(_svg(tmp_path / "a.svg", body), MACHINE)
    assert [own.closed for own in file.tracks] == [True, True, True]
    assert [round(float(own.points[:, 0].min()), 3) for own in file.tracks] == pytest.approx([10, 95, 150], abs=1e-3)


# ---- tabs, lead-ins


def _tabbed(path: Path, gap: float = 0.7, radius: float = 9.9, shift: float = 0.0) -> Path:
    """A plate of 60 × 40 at (10, 10) with a hole, offset by half a kerf of 0.2, its lower side interrupted by *gap* mm."""

    def draw(space: Any) -> None:
        space.add_circle((30, 30), radius, dxfattribs={"layer": "cut"})
        middle = 40.0
        points = [
            (middle + gap / 2, 9.9),
            (70.1 + shift, 9.9),
            (70.1 + shift, 50.1),
            (9.9, 50.1),
            (9.9, 9.9),
            (middle - gap / 2, 9.9),
        ]
        space.add_lwpolyline(points, dxfattribs={"layer": "cut"})

    return _dxf(path, draw)


def _held(path: Path, allowed: float = 0.8) -> CutterReport:
    part = _square_profile(10, 10)
    file = read_for_machine(path, MACHINE)
    return run(file, MACHINE, CHART[0], [part], 0.2, None, {part.id: allowed}).report


def test_what_hangs_by_a_tab_is_measured_all_the_same(tmp_path: Path) -> None:
    good = _held(_tabbed(tmp_path / "a.dxf"))
    assert good.refusals == ()
    (part,) = [own for own in good.pieces if own.part]
    # the beam's round ends reach into the gap of 0.7 as far as √(2·r·20 µm) each
    assert part.uncut_mm == pytest.approx(0.7 - 2 * math.sqrt(2 * 0.1 * 0.02), abs=0.12)
    assert (part.deviation_um or 0) < 2
    wide = _held(_tabbed(tmp_path / "b.dxf", gap=5.0))
    assert any("is not cut along" in sentence for sentence in wide.refusals)
    hole = _held(_tabbed(tmp_path / "c.dxf", radius=9.8))
    assert any("is not cut along" in sentence for sentence in hole.refusals)
    short = _held(_tabbed(tmp_path / "d.dxf", shift=-0.05))
    assert any("comes out 50 µm off" in sentence for sentence in short.refusals), short


def test_a_tab_where_none_was_wanted_fails(tmp_path: Path) -> None:
    report = _report(_tabbed(tmp_path / "a.dxf"), [_square_profile(10, 10)])
    assert any("does not fall out" in sentence for sentence in report.refusals)
    assert any("is open" in sentence for sentence in report.refusals)


def test_a_lead_in_is_no_open_contour(tmp_path: Path) -> None:
    def draw(space: Any) -> None:
        points = [(40, 5), (40, 9.9), (70.1, 9.9), (70.1, 50.1), (9.9, 50.1), (9.9, 9.9), (40, 9.9)]
        space.add_lwpolyline(points, dxfattribs={"layer": "cut"})
        space.add_circle((30, 30), 9.9, dxfattribs={"layer": "cut"})

    report = _report(_dxf(tmp_path / "a.dxf", draw))
    assert report.refusals == ()
    assert len(report.pieces) == 2


def test_rows_are_engraved_where_something_is_filled_and_passed_over_between(tmp_path: Path) -> None:
    """Two bars of 10 × 4 mm, 3 mm apart: a row of 23 mm is engraved along 20 of them, and takes as long as 23 do."""
    bars = (
        '<rect x="20" y="20" width="10" height="4" fill="#b86e00"/><rect x="33" y="20" width="10" height="4" fill="#b86e00"/>'
    )
    cutline = '<rect x="10" y="10" width="60" height="40" fill="none" stroke="#000" stroke-width="0.0254"/>'
    made = _run(_svg(tmp_path / "bars.svg", bars + cutline))
    film, row = made.film, CHART[0]
    steps = np.hypot(*np.diff(film.points, axis=0).T)
    engraved = steps[film.doing[:-1] == 3]
    rows = int(4 * row.dpi / 25.4)
    assert engraved.sum() == pytest.approx(rows * 20, rel=1e-3)
    assert engraved.max() == pytest.approx(10, abs=1e-3)
    turn = 2 * row.engrave / MACHINE.row_acceleration
    assert made.report.seconds.engrave == pytest.approx(rows * (23 / row.engrave + turn), rel=1e-3)
    assert made.report.engraved_area == pytest.approx(80, rel=1e-3)
