"""Dimensions: values from the model whatever the paper does, edges found again, drawing after ISO 129-1."""

from __future__ import annotations

import math
from pathlib import Path

import numpy as np
import pytest

from skalto.core.annotation.dimension_inference import choose, shifted
from skalto.core.annotation.dimension_style import draw, figure
from skalto.core.annotation.dimension_values import Frame, measure
from skalto.core.annotation.edge_references import SourceFacts, resolve
from skalto.core.annotation.edges_in_view import pickable
from skalto.core.annotation.pencil import Pencil
from skalto.core.artwork import Fills, Lines, Text
from skalto.core.errors import InputError
from skalto.core.geometry import Similarity
from skalto.core.lengths import ReferenceLength
from skalto.core.projection.view import ProjectionSpec, project
from skalto.core.sheets.annotations import Dimension, DimensionKind, Ref
from skalto.core.sources.models.features import pack, part_edges, placed_edges, unpack
from skalto.core.sources.reading import read_model
from skalto.core.viewpoint import STANDARD
from skalto.demo.solids import block, cut, cylinder, moved
from tests.conftest import plate_with_holes, write_step


def _facts(shape: object, tmp_path: Path, name: str = "plate.step") -> SourceFacts:
    path = write_step(shape, tmp_path / name)
    model = read_model(path, "plate.step")
    return SourceFacts(model.tree, unpack(pack(part_edges(model))))


@pytest.fixture
def plate(tmp_path: Path) -> SourceFacts:
    return _facts(plate_with_holes(), tmp_path)


def top(scale: float = 1.0, turn: float = 0.0) -> Frame:
    return Frame(STANDARD["top"].axes(), Similarity(scale, 100, 50, math.radians(turn)))


def circle(facts: SourceFacts, x: float, y: float, z: float = 10.0) -> Ref:
    """The rim whose centre lies there."""
    (path,) = facts.leaves
    own = facts.of(path)
    assert own is not None
    n = int(np.argmin(np.linalg.norm(own.circles[:, :3] - np.array((x, y, z)), axis=1)))
    return Ref(component=path, edge=int(own.circle_edges[n]), kind="circle", geometry=tuple(own.circles[n, :7]))


def line(facts: SourceFacts, *middle: float) -> Ref:
    (path,) = facts.leaves
    own = facts.of(path)
    assert own is not None
    middles = own.lines.reshape(-1, 2, 3).mean(axis=1)
    n = int(np.argmin(np.linalg.norm(middles - np.array(middle), axis=1)))
    return Ref(component=path, edge=int(own.line_edges[n]), kind="line", geometry=tuple(own.lines[n]))


def value(facts: SourceFacts, frame: Frame, kind: str, first: Ref, second: Ref | None = None, **more: object) -> float:
    found = measure(Dimension(id="d", kind=DimensionKind(kind), first=first, second=second, **more), frame, facts)  # type: ignore[arg-type]
    assert found is not None
    return found.value


@pytest.mark.parametrize("scale", [1.0, 0.1, 5.0])
@pytest.mark.parametrize("turn", [0.0, 33.0])
def test_values_are_the_models_at_any_scale_and_turn(plate: SourceFacts, scale: float, turn: float) -> None:
    """The plate as the test makes it: 120 × 80, Ø30 at (−30, 0), Ø12 at (25, 15), Ø6.5 at (40, −20)."""
    frame = top(scale, turn)
    large, middle, small = circle(plate, -30, 0), circle(plate, 25, 15), circle(plate, 40, -20)
    assert value(plate, frame, "diameter", large) == pytest.approx(30, abs=1e-9)
    assert value(plate, frame, "radius", small) == pytest.approx(3.25, abs=1e-9)
    assert value(plate, frame, "horizontal", large, middle) == pytest.approx(55, abs=1e-9)
    assert value(plate, frame, "vertical", middle, small) == pytest.approx(35, abs=1e-9)
    assert value(plate, frame, "aligned", large, middle) == pytest.approx(math.hypot(55, 15), abs=1e-9)
    left, right, lower = line(plate, -60, 0, 10), line(plate, 60, 0, 10), line(plate, 0, -40, 10)
    assert value(plate, frame, "aligned", lower) == pytest.approx(120, abs=1e-9)
    assert value(plate, frame, "aligned", left, right) == pytest.approx(120, abs=1e-9)
    # a line and a centre: the square distance
    assert value(plate, frame, "aligned", left, large) == pytest.approx(30, abs=1e-9)
    assert value(plate, frame, "angle", left, lower) == pytest.approx(90, abs=1e-9)


def test_an_end_of_a_line_is_a_point(plate: SourceFacts) -> None:
    lower = line(plate, 0, -40, 10)
    ends = [lower.model_copy(update={"end": n}) for n in (0, 1)]
    assert value(plate, top(), "horizontal", ends[0], ends[1]) == pytest.approx(120)
    assert {round(value(plate, top(), "horizontal", end, circle(plate, -30, 0))) for end in ends} == {30, 90}


def test_a_rim_seen_edge_on_is_a_diameter(plate: SourceFacts) -> None:
    front = Frame(STANDARD["front"].axes(), Similarity(2.0))
    found = measure(Dimension(id="d", kind=DimensionKind.ALIGNED, first=circle(plate, 25, 15)), front, plate)
    assert found is not None
    assert found.value == pytest.approx(12)
    assert figure(Dimension(id="d", kind=DimensionKind.ALIGNED), found) == "Ø12"


def test_overall_sizes_are_the_models_extents(plate: SourceFacts) -> None:
    lengths = (ReferenceLength(kind="width", value=120.00001), ReferenceLength(kind="height", value=80))
    frame = Frame(STANDARD["top"].axes(), Similarity(0.5), (-60, -40, 60, 40), lengths)
    found = measure(Dimension(id="d", kind=DimensionKind.WIDTH), frame, plate)
    assert found is not None
    assert found.value == 120.00001
    assert np.allclose(found.points, [(-30, -20), (30, -20)])


def test_an_edge_is_found_again_when_it_has_moved(plate: SourceFacts, tmp_path: Path) -> None:
    holes = [cylinder(30, 40, (-30, 0, -10)), cylinder(12, 40, (28, 15, -10)), cylinder(6.5, 40, (40, -20, -10))]
    newer = _facts(cut(block(120, 80, 10), *holes), tmp_path, "newer.step")
    ref = circle(plate, 25, 15)
    found = resolve(ref, newer)
    assert found is not None
    assert found[:2] == pytest.approx((28, 15))
    assert value(newer, top(), "horizontal", circle(plate, -30, 0), ref) == pytest.approx(58)
    gone = _facts(cut(block(120, 80, 10), holes[0]), tmp_path, "gone.step")
    assert resolve(ref, gone) is None
    assert resolve(circle(plate, -30, 0), gone) is not None


def test_what_was_picked_and_where_decides_the_kind(plate: SourceFacts) -> None:
    frame = top()
    large, middle = circle(plate, -30, 0), circle(plate, 25, 15)
    where = {"over": (97.0, 120.0), "beside": (190.0, 57.0), "between": (97.0, 58.0)}
    kinds = {word: choose(frame, plate, "d", large, middle, at, None).kind.value for word, at in where.items()}
    assert kinds == {"over": "horizontal", "beside": "vertical", "between": "aligned"}
    made = choose(frame, plate, "d", large, None, (100 - 30 + 40, 50 + 40), None)
    assert made.kind is DimensionKind.DIAMETER
    assert made.angle == pytest.approx(45)
    left, lower = line(plate, -60, 0, 10), line(plate, 0, -40, 10)
    assert choose(frame, plate, "d", left, lower, (60, 30), None).kind is DimensionKind.ANGLE
    assert choose(frame, plate, "d", lower, None, (100, 0), None).offset == pytest.approx(-10)
    with pytest.raises(InputError, match="One point has no length"):
        choose(frame, plate, "d", lower.model_copy(update={"end": 0}), None, (0, 0), None)
    with pytest.raises(InputError, match="nothing in this direction"):
        choose(frame, plate, "d", lower, None, (0, 0), DimensionKind.VERTICAL)


def _drawn(dimension: Dimension, frame: Frame, facts: SourceFacts, asme: bool = False):  # type: ignore[no-untyped-def]
    measured = measure(dimension, frame, facts)
    assert measured is not None
    pencil = Pencil()
    drawn = draw(pencil, dimension, measured, asme)
    return drawn, {item.kind: item for item in pencil.artwork()}


def test_a_linear_dimension_is_drawn_by_iso_129(plate: SourceFacts) -> None:
    """From memory of ISO 129-1: extension lines past the dimension line, figure over it, read from below or the right."""
    lower = line(plate, 0, -40, 10)
    _, items = _drawn(Dimension(id="d", kind=DimensionKind.ALIGNED, first=lower, offset=-10), top(), plate)
    lines, texts, arrows = items["lines"], items["text"], items["fills"]
    assert isinstance(lines, Lines)
    assert isinstance(texts, Text)
    assert isinstance(arrows, Fills)
    levels = sorted({round(float(y), 3) for y in lines.points[:, :, 1].ravel()})
    # the edge lies at 10: the extension lines begin 1 below it and end 2 past the dimension line at 0
    assert levels == [-2, 0, 9]
    assert texts.texts == ("120",)
    assert texts.start[0, 1] == pytest.approx(0.9)
    assert texts.start[0, 0] + texts.length[0] / 2 == pytest.approx(100)
    tips = sorted(arrows.points[:, 0, 0].tolist())
    assert tips == pytest.approx([40, 160])
    side = line(plate, -60, 0, 10)
    _, items = _drawn(Dimension(id="d", kind=DimensionKind.ALIGNED, first=side, offset=10), top(), plate)
    assert math.degrees(items["text"].angle[0]) == pytest.approx(90)
    _, items = _drawn(Dimension(id="d", kind=DimensionKind.ALIGNED, first=side, offset=10), top(), plate, asme=True)
    assert items["text"].angle[0] == 0


def test_tolerances_prefix_and_suffix(plate: SourceFacts) -> None:
    frame, large = top(), circle(plate, -30, 0)

    def text(**more: object) -> tuple[str, ...]:
        return _drawn(Dimension(id="d", kind=DimensionKind.DIAMETER, first=large, **more), frame, plate)[1]["text"].texts  # type: ignore[arg-type]

    assert text(tolerance="H7") == ("Ø30 H7",)
    assert text(tolerance="+/-0.1", prefix="4× ", suffix=" thru") == ("4× Ø30±0.1 thru",)
    assert text(tolerance="+0.2/-0.1") == ("Ø30", "+0.2", "-0.1")
    with pytest.raises(ValueError, match="is not a tolerance"):
        Dimension(id="d", kind=DimensionKind.DIAMETER, tolerance="tight")


def test_a_figure_that_is_dragged_takes_its_line_along(plate: SourceFacts) -> None:
    dimension = Dimension(id="d", kind=DimensionKind.ALIGNED, first=line(plate, 0, -40, 10), offset=-10)
    measured = measure(dimension, top(), plate)
    assert measured is not None
    n = np.array((-measured.along[1], measured.along[0]))
    moved_by = shifted(dimension, measured, (20.0, -5.0))
    assert moved_by.offset == pytest.approx(-15 if n[1] > 0 else 15)
    assert abs(moved_by.along) == pytest.approx(20)
    assert shifted(dimension, measured, (1.0, 0.0)).along == 0
    ring = Dimension(id="d", kind=DimensionKind.DIAMETER, first=circle(plate, -30, 0), angle=0, offset=30)
    found = measure(ring, top(), plate)
    assert found is not None
    turned = shifted(ring, found, (-30.0, 30.0))
    assert (turned.angle, turned.offset) == pytest.approx((90, 30))


def test_only_edges_that_are_drawn_can_be_picked(tmp_path: Path) -> None:
    deep = cut(block(60, 40, 20), cylinder(10, 12, (0, 0, -1)))
    path = write_step(deep, tmp_path / "deep.step")
    model = read_model(path, path.name)
    facts = SourceFacts(model.tree, part_edges(model))
    spec = ProjectionSpec(look=STANDARD["top"].look, up=STANDARD["top"].up)
    seen = project(model, spec).only(["visible", "outline"])
    picks = pickable(Frame(spec.axes(), Similarity()), facts, list(facts.leaves), seen)
    # the blind hole opens below: from above it is not there
    assert {p.shape for p in picks} == {"line"}
    below = STANDARD["bottom"]
    spec = ProjectionSpec(look=below.look, up=below.up)
    picks = pickable(
        Frame(spec.axes(), Similarity(2)), facts, list(facts.leaves), project(model, spec).only(["visible", "outline"])
    )
    assert [p.at[2] for p in picks if p.shape == "circle"] == pytest.approx([10])


def test_edges_are_placed_with_their_component(tmp_path: Path) -> None:
    facts = _facts(moved(cylinder(10, 30), (5, 6, 7), ("y", 90)), tmp_path)
    (path,) = facts.leaves
    own = placed_edges(facts.edges[0], facts.leaves[path])
    assert {tuple(np.round(row[:3], 6)) for row in own.circles} == {(5.0, 6.0, 7.0), (35.0, 6.0, 7.0)}
    # an outer cylinder's rims are no holes
    assert not own.circles[:, 8].any()
