import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial import cKDTree

from skalto.core.artwork import Artwork, Beziers, EdgeClass, Ellipses, Lines, Tags
from skalto.core.geometry import TAU, Similarity, bezier_at, bezier_bounds
from skalto.core.geometry.curves import arc_beziers, arc_pieces, circle_through, fit_beziers

SEEN = Tags(EdgeClass.VISIBLE, "plate", "0", (1, 2, 3), "wide")


def _arc(radius: float, start: float, sweep: float, pieces: int) -> np.ndarray:
    one = lambda *v: np.array([v], float)  # noqa: E731
    return arc_beziers(one(0, 0), one(radius, 0), one(0, radius), np.array([start]), np.array([sweep]), pieces)[0]


def _radial_error(curves: np.ndarray, radius: float) -> float:
    return float(np.abs(np.linalg.norm(bezier_at(curves, np.linspace(0, 1, 401)), axis=-1) - radius).max())


def test_one_bezier_a_quadrant_is_off_by_the_known_figure() -> None:
    # closed form: 2.73·10⁻⁴ of the radius for k = 0.5522847498
    assert _radial_error(_arc(1, 0, np.pi / 2, 1), 1) == pytest.approx(2.73e-4, rel=5e-3)


def test_halving_the_angle_makes_the_error_64_times_smaller() -> None:
    assert _radial_error(_arc(1, 0, np.pi / 2, 1), 1) / _radial_error(_arc(1, 0, np.pi / 4, 1), 1) == pytest.approx(
        64, rel=0.05
    )


@settings(max_examples=60, deadline=None)
@given(st.floats(0.5, 2000), st.floats(0.05, TAU), st.sampled_from([1e-3, 4.8e-4, 1e-4]))
def test_arcs_take_as_many_beziers_as_needed_and_no_more(radius: float, sweep: float, tolerance: float) -> None:
    pieces = int(arc_pieces(np.array([radius]), np.array([sweep]), tolerance)[0])
    assert _radial_error(_arc(radius, 0.3, sweep, pieces), radius) <= tolerance * (1 + 1e-6)
    least = int(np.ceil(sweep / (np.pi / 2) - 1e-9))
    if pieces > max(1, least):
        assert _radial_error(_arc(radius, 0.3, sweep, pieces - 1), radius) > tolerance


def test_a_whole_circle_closes_to_the_last_bit() -> None:
    curves = _arc(31.7, 0.7, TAU, 7)
    assert np.array_equal(curves[0, 0], curves[-1, 3])


def test_fitted_curves_keep_the_tolerance() -> None:
    def spiral(t: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        r = 10 + 3 * t
        point = np.stack((r * np.cos(t), r * np.sin(t)), 1)
        return point, np.stack((3 * np.cos(t) - r * np.sin(t), 3 * np.sin(t) + r * np.cos(t)), 1)

    for tolerance in (1e-2, 1e-3, 1e-4):
        curves = fit_beziers(spiral, np.array([0.0, 6.0]), tolerance)
        dense, along = spiral(np.linspace(0, 6, 200_001))
        drawn = bezier_at(curves, np.linspace(0, 1, 33)).reshape(-1, 2)
        nearest = cKDTree(dense).query(drawn)[1]
        tangent = along[nearest] / np.linalg.norm(along[nearest], axis=1)[:, None]
        gap = drawn - dense[nearest]
        # the distance square to the curve: along it, the samples are as far apart as the tolerance
        off = np.abs(gap[:, 0] * tangent[:, 1] - gap[:, 1] * tangent[:, 0])
        assert off.max() <= tolerance
        assert np.allclose(curves[1:, 0], curves[:-1, 3])


def test_circles_are_recognised_and_others_are_not() -> None:
    t = np.linspace(0.2, 2.1, 17)
    found = circle_through(np.stack((5 + 3 * np.cos(t), -7 + 3 * np.sin(t)), 1), 1e-6)
    assert found is not None
    assert found[0] == pytest.approx([5, -7])
    assert found[1] == pytest.approx(3)
    assert circle_through(np.stack((5 + 3 * np.cos(t), -7 + 3.001 * np.sin(t)), 1), 1e-6) is None
    assert circle_through(np.stack((t, 2 * t), 1), 1e-6) is None
    assert circle_through(np.zeros((9, 2)), 1e-6) is None


@settings(max_examples=50, deadline=None)
@given(st.lists(st.floats(-100, 100), min_size=8, max_size=8))
def test_bezier_bounds_are_exact(values: list[float]) -> None:
    points = np.array(values).reshape(1, 4, 2)
    sampled = bezier_at(points, np.linspace(0, 1, 2001))[0]
    (low, high) = bezier_bounds(points)[0]
    assert np.all(low <= sampled.min(axis=0) + 1e-9)
    assert np.all(high >= sampled.max(axis=0) - 1e-9)
    assert np.allclose(low, sampled.min(axis=0), atol=1e-3)
    assert np.allclose(high, sampled.max(axis=0), atol=1e-3)


@settings(max_examples=50, deadline=None)
@given(st.floats(0, TAU), st.floats(0.01, TAU), st.floats(0.1, 50), st.floats(0.1, 50), st.floats(0, np.pi))
def test_ellipse_bounds_are_exact(start: float, sweep: float, a: float, b: float, turn: float) -> None:
    major, minor = np.array([[a * np.cos(turn), a * np.sin(turn)]]), np.array([[-b * np.sin(turn), b * np.cos(turn)]])
    arc = Ellipses(SEEN, np.array([[3.0, 4.0]]), major, minor, np.array([start]), np.array([sweep]))
    sampled = arc.at(np.linspace(start, start + sweep, 4001)[None])[0]
    box = arc.bounds()[0]
    assert np.allclose(box[0], sampled.min(axis=0), atol=1e-4)
    assert np.allclose(box[1], sampled.max(axis=0), atol=1e-4)


def test_artwork_survives_being_kept() -> None:
    items = (
        Lines(SEEN, np.arange(8.0).reshape(2, 2, 2)),
        Ellipses(SEEN, np.ones((1, 2)), np.ones((1, 2)), np.ones((1, 2)), np.zeros(1), np.ones(1)),
        Beziers(Tags(EdgeClass.HIDDEN), np.arange(8.0).reshape(1, 4, 2)),
    )
    back = Artwork.from_bytes(Artwork(items).to_bytes())
    assert [item.kind for item in back] == ["lines", "ellipses", "beziers"]
    assert back.items[0].tags == SEEN
    assert np.array_equal(back.items[0].points, items[0].points)  # type: ignore[union-attr]
    assert back.bounds() == Artwork(items).bounds()


def test_placing_scales_first_then_moves() -> None:
    placed = Artwork((Lines(SEEN, np.array([[[1.0, 2.0], [3.0, 4.0]]])),)).placed(Similarity(2.0, 10.0, 20.0))
    assert placed.bounds() == (12, 24, 16, 28)
    assert Artwork().bounds() is None
