"""Flat patterns as DXF, read by ezdxf's own measures and by our reader of drawings."""

from __future__ import annotations

import io
import math
from pathlib import Path
from typing import Any

import ezdxf
import pytest
from ezdxf.path import make_path

from skalto.core.artwork import Tags
from skalto.core.cutting.drawn_profiles import parts_of
from skalto.core.geometry.biarcs import arcs_of, lines_of
from skalto.core.geometry.contour import Contour
from skalto.core.geometry.profile import Operation
from skalto.core.geometry.segments import Arc, Cubic, Line
from skalto.core.sheet_metal.flat_writing import Curves, FlatWriting, LineKind, LineWriting, OtherSide, Version
from skalto.core.sheet_metal.pattern import FlatPattern
from skalto.core.sheet_metal.pattern_dxf import has_other_side, other_side, reread, write_pattern
from skalto.core.sheet_metal.unfolding import unfolded
from skalto.core.sources.reading import read_drawing
from skalto.demo.solids import cut
from tests.core.sheet_metal.shapes import Flat, Turn, cone, folded, rod


def _pattern() -> FlatPattern:
    """An angle with a round hole, a countersunk one, and one through the bend."""
    shape = cut(
        folded([Flat(50), Turn(90, 2), Flat(30)], 2, 100), rod((20, -5, 50), (0, 1, 0), 10, 20),
        rod((50, 4, 20), (1, -1, 0), 2, 9), rod((20, -5, 80), (0, 1, 0), 5, 20), cone((20, 0, 80), (0, 1, 0), 9, 7, 1),
    )  # fmt: skip
    return unfolded(shape, name="Bracket")


@pytest.fixture(scope="module")
def made() -> FlatPattern:
    return _pattern()


def _read(data: bytes) -> Any:
    return ezdxf.read(io.StringIO(data.decode()))


def _area(entity: Any) -> float:
    """By chords of ezdxf's."""
    points = [(p.x, p.y) for p in make_path(entity).flattening(1e-4)]
    return abs(sum(a[0] * b[1] - a[1] * b[0] for a, b in zip(points, [*points[1:], points[0]], strict=True))) / 2


@pytest.mark.parametrize("version", Version)
@pytest.mark.parametrize("curves", Curves)
@pytest.mark.parametrize("joined", [True, False])
def test_every_version_is_read_again_as_it_was(made: FlatPattern, version: Version, curves: Curves, joined: bool) -> None:
    writing = FlatWriting(version=version, curves=curves, joined=joined)
    written = write_pattern(made, writing)
    document = _read(written.data)
    assert document.acad_release == version.value
    assert reread(written.data, made, writing) == ()
    assert written.deviation <= writing.tolerance
    assert not document.audit().errors
    if version is not Version.R12:
        assert document.header["$INSUNITS"] == 4


def test_contours_are_closed_polylines_and_circles(made: FlatPattern) -> None:
    document = _read(write_pattern(made, FlatWriting()).data)
    outline = [e for e in document.modelspace() if e.dxf.layer == "outline"]
    openings = [e for e in document.modelspace() if e.dxf.layer == "openings"]
    assert [e.dxftype() for e in outline] == ["LWPOLYLINE"]
    assert outline[0].closed
    assert sorted(e.dxftype() for e in openings) == ["CIRCLE", "CIRCLE", "LWPOLYLINE"]
    # ezdxf makes a circle of four Béziers, which are wider than it by 2.7e-4 of the radius
    assert _area(outline[0]) - sum(_area(e) for e in openings) == pytest.approx(made.area, abs=0.03)
    assert sum(e.dxftype() == "LINE" for e in document.modelspace()) == 2


def test_lines_are_single_entities_where_that_is_wanted(made: FlatPattern) -> None:
    document = _read(write_pattern(made, FlatWriting(joined=False)).data)
    assert not [e for e in document.modelspace() if "POLYLINE" in e.dxftype()]
    assert sum(e.dxftype() == "LINE" and e.dxf.layer == "outline" for e in document.modelspace()) == 4


def test_each_kind_of_line_has_its_layer_or_is_left_out(made: FlatPattern) -> None:
    lines = {
        LineKind.OUTER: LineWriting(layer="Kontur außen", colour=1, width=0.5),
        LineKind.INNER: LineWriting(layer="Innen", colour=2, on=False),
        LineKind.BEND_UP: LineWriting(layer="Kant", colour=5, line_type="chain"),
        LineKind.BEND_LIMIT: LineWriting(layer="Grenzen", line_type="dotted"),
        LineKind.OTHER_SIDE: LineWriting(layer="Rückseite"),
        LineKind.MARK: LineWriting(layer="Name"),
        LineKind.GRAIN: LineWriting(layer="Walzrichtung"),
    }
    document = _read(write_pattern(made, FlatWriting(lines=lines)).data)
    used = {e.dxf.layer for e in document.modelspace()}
    assert used == {own.layer for own in lines.values()}
    layer = document.layers.get("Kontur außen")
    assert (layer.dxf.color, layer.dxf.lineweight) == (1, 50)
    assert document.layers.get("Innen").is_off()
    assert document.layers.get("Kant").dxf.linetype == "CHAIN"
    none = FlatWriting(lines={kind: LineWriting(layer="x", written=False) for kind in LineKind})
    assert len(_read(write_pattern(made, none).data).modelspace()) == 0


def test_names_of_r12_are_made_to_fit(made: FlatPattern) -> None:
    lines = {LineKind.OUTER: LineWriting(layer="cut line 1")}
    writing = FlatWriting(version=Version.R12, lines=lines)
    document = _read(write_pattern(made, writing).data)
    assert "CUT_LINE_1" in {e.dxf.layer for e in document.modelspace()}
    assert reread(write_pattern(made, writing).data, made, writing) == ()


def test_a_layer_has_a_name_that_dxf_allows() -> None:
    for bad in ("a/b", "a*", " ", "x=y"):
        with pytest.raises(ValueError, match=r"name|least"):
            LineWriting(layer=bad)


def test_the_mark_lies_on_the_sheet(made: FlatPattern) -> None:
    lines = {LineKind.MARK: LineWriting(layer="mark")}
    document = _read(write_pattern(made, FlatWriting(lines=lines, mark=50)).data)
    polygon = made.profile.polygon()
    marks = [e for e in document.modelspace() if e.dxf.layer == "mark"]
    assert len(marks) > 6
    import shapely

    for own in marks:
        points = [(p.x, p.y) for p in make_path(own).flattening(0.1)]
        assert polygon.covers(shapely.LineString(points))


def test_what_is_on_the_other_side_is_a_mirrored_file(made: FlatPattern) -> None:
    assert has_other_side(made)
    turned = other_side(made)
    width, _ = made.box
    assert sorted(x for x, _, _ in turned.holes) == pytest.approx(sorted(width - x for x, _, _ in made.holes))
    assert turned.area == pytest.approx(made.area)
    assert turned.bends[0].direction == "down"
    document = _read(write_pattern(turned, FlatWriting()).data)
    assert [e.dxftype() for e in document.modelspace() if e.dxf.layer == "sunk"] == ["CIRCLE"]
    assert FlatWriting(other_side=OtherSide.ALWAYS, affix="B-", before=True).other_name("x") == "B-x"


def test_a_file_that_lost_or_doubled_something_is_found_out(made: FlatPattern) -> None:
    writing = FlatWriting()
    for spoil, told in ((_doubled, "twice"), (_lost, "instead of"), (_moved, "off"), (_opened, "do not close")):
        document = _read(write_pattern(made, writing).data)
        spoil(document.modelspace())
        stream = io.StringIO()
        document.write(stream)
        assert any(told in line for line in reread(stream.getvalue().encode(), made, writing)), told


def _doubled(space: Any) -> None:
    circle = next(e for e in space if e.dxftype() == "CIRCLE")
    space.add_circle(circle.dxf.center, circle.dxf.radius, {"layer": circle.dxf.layer})


def _lost(space: Any) -> None:
    space.delete_entity(next(e for e in space if e.dxftype() == "CIRCLE"))


def _moved(space: Any) -> None:
    next(e for e in space if e.dxftype() == "CIRCLE").dxf.radius += 1e-4


def _opened(space: Any) -> None:
    next(e for e in space if e.dxftype() == "LWPOLYLINE" and e.dxf.layer == "outline").closed = False


@pytest.mark.parametrize("tolerance", [0.1, 0.01, 0.001])
def test_arcs_and_lines_keep_to_their_curve(tolerance: float) -> None:
    """Against samples of the curve that had no part in choosing them."""
    cubic = Cubic((0, 0), (10, 40), (50, -30), (60, 10))
    contour = Contour((cubic, Line((60, 10), (60, -20)), Line((60, -20), (0, 0))))
    for change in (arcs_of, lines_of):
        found, worst = change(contour, tolerance)
        assert worst <= tolerance
        assert not any(isinstance(s, Cubic) for s in found)
        line = found.line(1e-5)
        import shapely

        points = shapely.points([cubic.at(n / 997) for n in range(998)])
        assert shapely.distance(points, line).max() <= tolerance * 1.05
    arcs, _ = arcs_of(contour, tolerance)
    bends = [
        (a, b) for a, b in zip(arcs.segments, arcs.segments[1:], strict=False) if isinstance(a, Arc) and isinstance(b, Arc)
    ]
    assert bends
    assert all(math.dist(a.heading(1), b.heading(0)) < 1e-6 for a, b in bends)


def test_our_own_reader_of_drawings_finds_one_part(tmp_path: Path, made: FlatPattern) -> None:
    """The way that any DXF takes to the cutter: contours by layers, nested."""
    path = tmp_path / "x.dxf"
    path.write_bytes(write_pattern(made, FlatWriting()).data)
    drawing = read_drawing(path, path.name)

    def says(tags: Tags) -> Operation:
        return Operation.SCORE if tags.layer.startswith(("bend", "sunk")) else Operation.CUT

    found = parts_of(drawing.spaces[""], says, 0.0, "x")
    assert len(found.parts) == 1
    assert found.parts[0].area == pytest.approx(made.area, rel=1e-6)
