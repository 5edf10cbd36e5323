"""A hidden edge that a tangent edge lies exactly on is drawn where tangent edges are not, and is not where they are."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from skalto.core.artwork import Artwork, EdgeClass
from skalto.core.artwork.joining import pieces_of
from skalto.core.geometry import bezier_at
from skalto.core.pages.page import ViewLines
from skalto.core.pages.placed_views import seen_of
from skalto.core.projection.single import make_single
from skalto.core.projection.strokes import ORDER, Strokes
from skalto.core.projection.view import ProjectionSpec, _shape_strokes, project_shown, shown_in
from skalto.core.sources.reading import read_model
from tests.conftest import SAMPLES
from tests.core.projection.test_fooled import view

RANK = {own: n for n, own in enumerate(ORDER)}
HIDDEN, SMOOTH, VISIBLE = (RANK[EdgeClass(name)] for name in ("hidden", "smooth", "visible"))
WITHOUT = (EdgeClass.VISIBLE, EdgeClass.OUTLINE, EdgeClass.HIDDEN)
WITH = (*WITHOUT, EdgeClass.SMOOTH)


def length(artwork: Artwork, edge_class: EdgeClass) -> float:
    """The length of what a class draws."""
    total = 0.0
    for item in artwork.only((edge_class,)):
        points = bezier_at(pieces_of(item)[0], np.linspace(0, 1, 257))  # type: ignore[arg-type]
        total += float(np.linalg.norm(np.diff(points, axis=1), axis=-1).sum())
    return total


def seen(artwork: Artwork, classes: tuple[EdgeClass, ...]) -> Artwork:
    return seen_of(view(classes=classes), ViewLines(artwork, ()))


def lines(strokes: Strokes) -> None:
    strokes.line((SMOOTH, 0), (0, 0), (10, 0))
    strokes.line((HIDDEN, 0), (-5, 0), (15, 0))
    strokes.line((VISIBLE, 1), (8, 0), (12, 0))


def arcs(strokes: Strokes) -> None:
    strokes.conic((SMOOTH, 0), (0, 0), (10, 0), (0, 10), 0.0, 1.0)
    strokes.conic((HIDDEN, 0), (0, 0), (10, 0), (0, 10), -0.5, 1.5)
    strokes.conic((VISIBLE, 1), (0, 0), (10, 0), (0, 10), 0.8, 1.2)


@pytest.mark.parametrize(("draw", "unit"), [(lines, 1.0), (arcs, 10.0)])
def test_it_shows_where_the_tangent_edge_does_not(draw, unit: float) -> None:  # type: ignore[no-untyped-def]
    strokes = Strokes()
    draw(strokes)
    artwork = make_single(strokes, ["a", "b"])
    beside, under = (8.0, 8.0) if unit == 1 else (0.8 * unit, 0.8 * unit)
    # without them: all of it but what the visible edge lies on; with them: what is beside both
    assert length(seen(artwork, WITHOUT), EdgeClass.HIDDEN) == pytest.approx(beside + under, abs=1e-3)
    assert length(seen(artwork, WITHOUT), EdgeClass.SMOOTH) == 0
    assert length(seen(artwork, WITH), EdgeClass.HIDDEN) == pytest.approx(beside, abs=1e-3)
    assert length(seen(artwork, WITH), EdgeClass.SMOOTH) == pytest.approx(under, abs=1e-3)


def test_free_curves_do_the_same() -> None:
    curve = np.array([[(0, 0), (10, 20), (20, -20), (30, 0)]], float)
    strokes = Strokes()
    for rank in (HIDDEN, SMOOTH):
        strokes.beziers.append(curve)
        strokes.bezier_tags.append((rank, 0))
    artwork = make_single(strokes, ["a"])
    whole = length(seen(artwork, WITH), EdgeClass.SMOOTH)
    assert whole > 30
    assert length(seen(artwork, WITH), EdgeClass.HIDDEN) == 0
    assert length(seen(artwork, WITHOUT), EdgeClass.HIDDEN) == pytest.approx(whole, abs=1e-3)


@pytest.mark.parametrize(("look", "up"), [((0, 1, 0), (0, 0, 1)), ((0, 0, -1), (0, 1, 0))])
def test_a_public_motor_lacks_no_hidden_line(look: tuple[int, int, int], up: tuple[int, int, int]) -> None:
    """Against the same strokes without any tangent edge among them."""
    (path,) = SAMPLES.rglob("Motor-c.brep")
    model = read_model(Path(path), path.name)
    spec = ProjectionSpec(look=look, up=up)
    shown = shown_in(model, spec)
    strokes = _shape_strokes(model, shown, spec, spec.axes())
    for rows, tags in (
        (strokes.lines, strokes.line_tags),
        (strokes.ellipses, strokes.ellipse_tags),
        (strokes.beziers, strokes.bezier_tags),
    ):
        kept = [n for n, tag in enumerate(tags) if tag[0] != SMOOTH]
        rows[:], tags[:] = [rows[n] for n in kept], [tags[n] for n in kept]  # type: ignore[call-overload]
    wanted = length(make_single(strokes, [c.path for c in shown.components], spec.tolerance), EdgeClass.HIDDEN)
    artwork = project_shown(model, shown, spec)
    lost = sum(length(Artwork((item,)), EdgeClass.HIDDEN) for item in artwork if item.tags.under is EdgeClass.SMOOTH)
    assert lost > 50, "a view in which nothing lies so tells nothing"
    assert length(seen(artwork, WITHOUT), EdgeClass.HIDDEN) == pytest.approx(wanted, abs=0.05)
    assert length(seen(artwork, WITH), EdgeClass.HIDDEN) == pytest.approx(wanted - lost, abs=0.05)


def test_it_outlasts_the_store() -> None:
    strokes = Strokes()
    lines(strokes)
    artwork = make_single(strokes, ["a", "b"])
    again = Artwork.from_bytes(artwork.to_bytes())
    assert [item.tags for item in again] == [item.tags for item in artwork]
    assert EdgeClass.SMOOTH in {item.tags.under for item in again}
