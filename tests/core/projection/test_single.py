"""No line twice: strokes on one line, circle or curve are cut against each other."""

import numpy as np

from skalto.core.artwork import Artwork, EdgeClass
from skalto.core.geometry import TAU
from skalto.core.projection.single import make_single, subtract, unite
from skalto.core.projection.strokes import ORDER, Strokes

VISIBLE, OUTLINE, HIDDEN = (ORDER.index(c) for c in (EdgeClass.VISIBLE, EdgeClass.OUTLINE, EdgeClass.HIDDEN))


def _rows(artwork: Artwork) -> list[tuple[str, str, int]]:
    return [(item.tags.edge_class.value, item.kind, len(item)) for item in artwork]


def test_intervals() -> None:
    assert unite([(3, 4), (0, 1), (1, 2)], 0) == [(0, 2), (3, 4)]
    assert subtract((0, 10), [(2, 3), (5, 20)], 0) == [(0, 2), (3, 5)]
    assert subtract((0, 1), [(0, 1)], 0) == []


def test_a_hidden_edge_behind_a_visible_one_is_dropped() -> None:
    strokes = Strokes()
    strokes.line((HIDDEN, 0), (10.0, 0.0), (0.0, 0.0))
    strokes.line((VISIBLE, 0), (0.0, 0.0), (10.0, 0.0))
    assert _rows(make_single(strokes, ["a"])) == [("visible", "lines", 1)]


def test_only_what_is_not_covered_stays() -> None:
    strokes = Strokes()
    strokes.line((VISIBLE, 0), (0.0, 0.0), (6.0, 8.0))
    strokes.line((HIDDEN, 0), (3.0, 4.0), (12.0, 16.0))
    hidden = make_single(strokes, ["a"]).items[0]
    assert np.allclose(np.sort(hidden.points[0], axis=0), [[6, 8], [12, 16]])  # type: ignore[union-attr]


def test_pieces_of_one_edge_become_one_and_parallel_ones_do_not() -> None:
    strokes = Strokes()
    strokes.line((VISIBLE, 0), (0.0, 0.0), (5.0, 0.0))
    strokes.line((VISIBLE, 0), (5.0, 0.0), (9.0, 0.0))
    strokes.line((VISIBLE, 0), (0.0, 0.01), (9.0, 0.01))
    assert len(make_single(strokes, ["a"])) == 2


def test_zero_length_strokes_go() -> None:
    strokes = Strokes()
    strokes.line((VISIBLE, 0), (1.0, 1.0), (1.0, 1.0))
    strokes.curve((VISIBLE, 0), np.full((1, 4, 2), 3.0))
    assert len(make_single(strokes, ["a"])) == 0


def test_arcs_join_to_a_whole_circle_over_the_seam() -> None:
    strokes = Strokes()
    centre, x, y = (1.0, 2.0), (5.0, 0.0), (0.0, 5.0)
    for first, last in ((0.5, 2.0), (2.0, 4.0), (4.0, 0.5 + TAU)):
        strokes.conic((VISIBLE, 0), centre, x, y, first, last)
    strokes.conic((HIDDEN, 1), centre, y, (-5.0, 0.0), 0.0, TAU)
    (circle,) = make_single(strokes, ["a", "b"]).items
    assert circle.sweep.tolist() == [TAU]  # type: ignore[union-attr]
    assert circle.is_circle().all()  # type: ignore[union-attr]


def test_a_circle_seen_edge_on_is_one_straight_line() -> None:
    strokes = Strokes()
    strokes.conic((VISIBLE, 0), (0.0, 0.0), (4.0, 0.0), (0.0, 0.0), 0.0, TAU)
    strokes.conic((VISIBLE, 0), (0.0, 0.0), (4.0, 0.0), (0.0, 0.0), 0.3, 2.0)
    (line,) = make_single(strokes, ["a"]).items
    assert np.allclose(np.sort(line.points[0, :, 0]), [-4, 4])  # type: ignore[union-attr]


def test_the_axes_of_an_ellipse_are_found_from_any_half_diameters() -> None:
    strokes = Strokes()
    cos, sin = np.cos(0.7), np.sin(0.7)
    strokes.conic((VISIBLE, 0), (0.0, 0.0), (3.0, 0.0), (0.0, 1.0), 0, TAU)
    strokes.conic((OUTLINE, 0), (0.0, 0.0), (3 * cos, sin), (-3 * sin, cos), 0, TAU)
    (only,) = make_single(strokes, ["a"]).items
    assert only.tags.edge_class is EdgeClass.VISIBLE
    assert np.allclose(sorted(only.radii()[0]), [1, 3])  # type: ignore[union-attr]


def test_the_same_curve_of_two_parts_is_drawn_once() -> None:
    curve = np.array([[[0.0, 0], [1, 3], [4, 3], [6, 0]]])
    strokes = Strokes()
    strokes.curve((HIDDEN, 1), curve[:, ::-1])
    strokes.curve((VISIBLE, 0), curve)
    assert _rows(make_single(strokes, ["a", "b"])) == [("visible", "beziers", 1)]


WAVE = np.array([[[0.0, 0], [10, 20], [20, -20], [30, 0]]])


def _total(artwork: Artwork, kind: str, *classes: EdgeClass) -> float:
    """The length of an artwork's curves by fine chords."""
    from skalto.core.geometry import bezier_at

    found = 0.0
    for item in artwork:
        if item.kind == kind and item.tags.edge_class in classes:
            curves = item.points if kind == "beziers" else None  # type: ignore[union-attr]
            assert curves is not None
            chords = np.diff(bezier_at(curves, np.linspace(0, 1, 2001)), axis=1)
            found += float(np.linalg.norm(chords, axis=-1).sum())
    return found


def _stretch(low: float, high: float, back: bool = False) -> np.ndarray:
    """A part of the wave, whichever way round."""
    from skalto.core.artwork.crop_to_box import bezier_part

    part = bezier_part(WAVE[0], low, high)
    return np.array([part[::-1] if back else part])


def test_splines_that_lie_partly_on_one_another_are_drawn_once() -> None:
    strokes = Strokes()
    strokes.curve((VISIBLE, 0), _stretch(0.0, 0.7))
    strokes.curve((VISIBLE, 1), _stretch(0.3, 1.0, back=True))
    strokes.curve((HIDDEN, 2), WAVE)
    single = make_single(strokes, ["a", "b", "c"])
    whole = Strokes()
    whole.curve((VISIBLE, 0), WAVE)
    length = _total(make_single(whole, ["a"]), "beziers", EdgeClass.VISIBLE)
    assert abs(_total(single, "beziers", EdgeClass.VISIBLE) - length) < 1e-4
    assert _total(single, "beziers", EdgeClass.HIDDEN) == 0


def test_a_hidden_spline_stays_where_no_other_covers_it() -> None:
    strokes = Strokes()
    strokes.curve((VISIBLE, 0), _stretch(0.0, 0.4))
    strokes.curve((HIDDEN, 1), WAVE)
    single = make_single(strokes, ["a", "b"])
    rest = _total(single, "beziers", EdgeClass.HIDDEN)
    alone = Strokes()
    alone.curve((HIDDEN, 0), _stretch(0.4, 1.0))
    assert abs(rest - _total(make_single(alone, ["a"]), "beziers", EdgeClass.HIDDEN)) < 1e-4


def test_splines_that_cross_or_touch_stay() -> None:
    strokes = Strokes()
    strokes.curve((VISIBLE, 0), WAVE)
    strokes.curve((VISIBLE, 0), WAVE * np.array((1.0, -1.0)))
    strokes.curve((VISIBLE, 0), WAVE + np.array((0.0, 0.01)))
    assert sum(len(item) for item in make_single(strokes, ["a"])) == 3


def test_a_spline_seen_edge_on_is_a_line_and_cut_against_lines() -> None:
    strokes = Strokes()
    strokes.line((VISIBLE, 0), (0.0, 0.0), (10.0, 0.0))
    strokes.curve((VISIBLE, 1), np.array([[[5.0, 0], [12, 0], [3, 0], [20, 0]]]))
    single = make_single(strokes, ["a", "b"])
    assert {item.kind for item in single} == {"lines"}
    ends = np.concatenate([item.points.reshape(-1, 4) for item in single])  # type: ignore[union-attr]
    assert np.allclose(sorted(map(sorted, ends[:, [0, 2]].tolist())), [[0, 10], [10, 20]])


def test_a_fitted_curve_on_a_line_or_an_arc_is_drawn_once() -> None:
    """Two of one curve, fitted apart, differ by the fit's tolerance."""
    strokes = Strokes()
    strokes.line((VISIBLE, 0), (0.0, 0.0), (30.0, 0.0))
    strokes.curve((VISIBLE, 1), np.array([[[5.0, 1e-4], [10, 3e-4], [15, -3e-4], [20, 1e-4]]]))
    strokes.conic((VISIBLE, 0), (0.0, 50.0), (10.0, 0.0), (0.0, 10.0), 0.0, TAU)
    k = 10 * 0.5522847498
    strokes.curve((HIDDEN, 1), np.array([[[10.0, 50], [10, 50 + k * 1.0], [k, 60], [0, 60]]]))
    single = make_single(strokes, ["a", "b"], 2e-3)
    assert [(item.kind, item.tags.component) for item in single if item.kind != "ellipses"] == [("lines", "a")]
    # what is nearer than the tolerance only there is not taken for the same
    assert any(item.kind == "beziers" for item in make_single(_with_gap(), ["a", "b"], 5e-4))


def _with_gap() -> Strokes:
    strokes = Strokes()
    strokes.line((VISIBLE, 0), (0.0, 0.0), (30.0, 0.0))
    strokes.curve((VISIBLE, 1), np.array([[[5.0, 0.02], [10, 0.05], [15, -0.05], [20, 0.02]]]))
    return strokes
