"""Parts lists: equal parts by their geometry, masses against handbook solids, classes, balloons that do not cross."""

from __future__ import annotations

import math
from pathlib import Path

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from skalto.core.annotation.balloons import RADIUS, place_balloons
from skalto.core.artwork import Artwork, EdgeClass, Lines, Tags
from skalto.core.sources.models.kernel import fingerprint
from skalto.core.sources.models.model import ShapeFacts
from skalto.core.sources.models.parts import Item, PartFacts, items, same_part
from skalto.core.sources.reading import read_model
from skalto.demo.solids import block, cut, cylinder, fuse, mirrored, moved, turned
from tests.conftest import write_step


def _shape(part: object) -> ShapeFacts:
    return ShapeFacts(low=(0, 0, 0), high=(1, 1, 1), volume=1, solids=1, faces=10, fingerprint=fingerprint(part))


def _handed() -> object:
    """A block with three different lugs on it: no plane mirrors it."""
    return fuse(
        block(40, 30, 10),
        moved(block(6, 6, 12), (12, 8, 8)),
        moved(block(4, 8, 20), (-10, -6, 8)),
        moved(block(9, 3, 7), (4, -9, 8)),
    )


def test_equal_parts_are_found_wherever_they_lie() -> None:
    part = _handed()
    assert same_part(_shape(part), _shape(moved(part, (100, -30, 7), ("x", 73))))
    assert same_part(_shape(part), _shape(moved(moved(part, turn=("z", 20)), (3, 4, 5), ("y", -145))))


def test_a_mirrored_part_is_another_part() -> None:
    assert not same_part(_shape(_handed()), _shape(mirrored(_handed())))
    # but what is its own mirror image is the same
    plain = cut(block(40, 30, 10), cylinder(8, 40, (8, 0, -10)))
    assert same_part(_shape(plain), _shape(mirrored(plain)))


def test_a_hole_a_little_larger_is_another_part() -> None:
    first, second = (cut(block(40, 30, 10), cylinder(d, 40, (0, 0, -10))) for d in (8.0, 8.01))
    assert not same_part(_shape(first), _shape(second))


@pytest.mark.parametrize(("side", "hole", "at"), [(200.0, 20.0, 60.0), (1000.0, 3.0, 450.0)])
def test_a_hole_elsewhere_as_far_from_the_middle_is_another_part(side: float, hole: float, at: float) -> None:
    """A square plate has one moment about all axes through its middle: it does not tell where on a circle a hole is."""

    def plate(degrees: float) -> ShapeFacts:
        turn = math.radians(degrees)
        return _shape(cut(block(side, side, 5), cylinder(hole, 20, (at * math.cos(turn), at * math.sin(turn), -10))))

    plain = plate(0)
    assert not same_part(plain, plate(1))
    assert not same_part(plain, plate(30))
    # a quarter turn, and turned over
    assert same_part(plain, plate(90))
    assert same_part(plate(30), plate(60))


def test_a_part_with_a_half_turn_has_a_hand_all_the_same() -> None:
    bar = block(100, 20, 4)
    crank = fuse(bar, moved(block(10, 10, 20), (45, 5, 2)), moved(block(10, 10, 20), (-45, -5, 2)))
    assert not same_part(_shape(crank), _shape(mirrored(crank)))
    assert same_part(_shape(crank), _shape(moved(crank, (5, 6, 7), ("x", 33))))


@pytest.mark.parametrize(
    ("shape", "volume"),
    [
        (block(120, 80, 10), 120 * 80 * 10),
        (cylinder(20, 50), math.pi * 10**2 * 50),
        (cut(cylinder(60, 100), cylinder(40, 300, (0, 0, -100))), math.pi * (30**2 - 20**2) * 100),
        (turned([(0, 0), (30, 0), (0, 90)]), math.pi * 30**2 * 90 / 3),
        (turned([(0, 0), (30, 0), (20, 60), (0, 60)]), math.pi * 60 / 3 * (30**2 + 30 * 20 + 20**2)),
    ],
)
def test_masses_are_volume_times_density_of_handbook_solids(shape: object, volume: float, tmp_path: Path) -> None:
    """Volumes in closed form, as any handbook's table of solids has them; steel 7.85 g/cm³."""
    path = write_step(shape, tmp_path / "solid.step")
    model = read_model(path, path.name)
    (item,) = items(model.tree, {"solid": PartFacts(material="Steel", density=7.85)})
    assert item.mass == pytest.approx(volume * 7.85e-3, rel=1e-9)
    assert item.material == "Steel"


def test_the_press_by_its_parts(press_step: Path) -> None:
    model = read_model(press_step, "Ebba.step")
    found = {item.name: item for item in items(model.tree, {"Pressure screw": PartFacts(fastener=False, number="EB-109")})}
    assert sum(item.quantity for item in found.values()) == 60
    # left and right cheek are the same plate, turned over
    assert found["Cheek, left"].quantity == 2
    assert "Cheek, right" not in found
    assert found["Cap screw M5x16"].quantity == 12
    assert found["Cap screw M5x16"].bought
    assert found["Cap screw M5x16"].fastener
    assert not found["Pressure screw"].fastener
    assert found["Pressure screw"].number == "EB-109"
    # what the file says of its material: brass, 8.47 g/cm³ as the demo writes it
    block_ = found["Upper bearing block"]
    assert block_.material == "Brass CuZn39Pb3"
    assert block_.mass == pytest.approx(block_.volume * 8.47e-3)
    # made parts first, fasteners last, numbered through
    order = sorted(found.values(), key=lambda item: item.item)
    assert [item.item for item in order] == list(range(1, len(order) + 1))
    assert [item.fastener for item in order] == sorted(item.fastener for item in order)


def _item(number: int) -> Item:
    return Item(
        item=number, part=str(number), name="", number="", material="", density=0, volume=0, mass=None, bought=False,
        fastener=False, shaft=False, colour="#000000", components=(f"c{number}",),
    )  # fmt: skip


@given(st.lists(st.tuples(st.floats(50, 250), st.floats(50, 200)), min_size=2, max_size=24, unique=True))
@settings(max_examples=60, deadline=None)
def test_no_two_leaders_cross(targets: list[tuple[float, float]]) -> None:
    marks = [
        Lines(Tags(EdgeClass.VISIBLE, f"c{n}"), np.array([[(x - 1.2, y), (x + 0.8, y)]])) for n, (x, y) in enumerate(targets)
    ]
    within, box = (0.0, 0.0, 420.0, 297.0), (48.0, 50.0, 252.0, 200.0)
    placed = place_balloons(
        [_item(n) for n in range(len(targets))], Artwork(tuple(marks)), box, within, [(260, 0, 420, 100)], {}
    )
    assert len(placed) == len(targets)
    leaders = [shapely.LineString((b.place, b.target)) for b in placed]
    for n, one in enumerate(leaders):
        for other in leaders[n + 1 :]:
            assert not one.crosses(other)
    places = np.array([b.place for b in placed])
    gaps = np.linalg.norm(places[:, None] - places[None], axis=2) + 1e9 * np.eye(len(places))
    assert gaps.min() >= 2 * RADIUS
    assert ((places[:, 0] < 260 - RADIUS) | (places[:, 1] > 100 + RADIUS)).all()


def test_a_balloon_that_was_moved_stays() -> None:
    marks = Artwork((Lines(Tags(EdgeClass.VISIBLE, "c1"), np.array([[(100.0, 100.0), (110.0, 100.0)]])),))
    (placed,) = place_balloons([_item(1)], marks, (90, 90, 120, 110), (0, 0, 420, 297), [], {1: (33.0, 44.0)})
    assert placed.place == (33, 44)
    assert placed.target == pytest.approx((104, 100))
