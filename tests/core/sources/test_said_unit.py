"""A model whose unit cannot be right: what a millimetre of it is, is said, and all of it follows."""

from __future__ import annotations

import math
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from OCP.BRepGProp import BRepGProp
from OCP.GProp import GProp_GProps

from skalto.core.checks.report import check_pdf
from skalto.core.errors import InputError
from skalto.core.progress import silent
from skalto.core.recipes import PLAIN
from skalto.core.sources.models.parts import items, same_part
from skalto.core.sources.reading import read_drawing, read_model
from skalto.core.sources.said_unit import said_unit_of, unit_said, with_unit
from skalto.demo.solids import block, cut, cylinder, moved
from skalto.services.commands.exporting import export_file
from tests.core.modelled import write_assembly


@pytest.fixture
def hammer(tmp_path: Path) -> Path:
    """Two equal plates and a pin, turned and moved."""
    plate = cut(block(60, 40, 3), cylinder(10, 20, (5, 0, -5)))
    parts = {"Left": plate, "Right": moved(plate, (0, 120, 7), ("x", 30)), "Pin": moved(cylinder(8, 50), (100, 0, 0))}
    return write_assembly(parts, tmp_path / "hammer.step", "Hammer")


def _said(path: Path, unit: float) -> Path:
    made = path.with_name(f"said {unit!r}{path.suffix}")
    made.write_bytes(with_unit(path.read_bytes(), unit))
    return made


@pytest.mark.parametrize("unit", [25.4, 1000.0, 0.001])
def test_all_lengths_follow(hammer: Path, unit: float) -> None:
    plain, model = read_model(hammer, "hammer.step"), read_model(_said(hammer, unit), "hammer.step")
    assert model.tree.size == pytest.approx([v * unit for v in plain.tree.size], rel=1e-9)
    assert model.tree.said_unit == unit
    assert any(f"is {unit:.6g} mm" in line for line in model.tree.lost)
    for shape, facts, before in zip(model.shapes, model.tree.shapes, plain.tree.shapes, strict=True):
        measured = GProp_GProps()
        BRepGProp.VolumeProperties_s(shape, measured)
        # the kernel measures the shape itself: the facts are what it has
        assert measured.Mass() == pytest.approx(before.volume * unit**3, rel=1e-6)
        assert facts.volume == pytest.approx(measured.Mass(), rel=1e-6)
    for one, other in zip(model.tree.leaves(), plain.tree.leaves(), strict=True):
        assert one.matrix()[:3, 3] == pytest.approx(other.matrix()[:3, 3] * unit)
        assert np.allclose(one.matrix()[:3, :3], other.matrix()[:3, :3])
    # equal parts are equal still, and not the same as before: what was made of the old ones is not taken for them
    assert [item.quantity for item in items(model.tree, {})] == [item.quantity for item in items(plain.tree, {})]
    assert not same_part(model.tree.shapes[0], plain.tree.shapes[0])
    assert {own.content for own in model.tree.shapes}.isdisjoint(own.content for own in plain.tree.shapes)


def test_it_is_taken_back(hammer: Path) -> None:
    data = hammer.read_bytes()
    assert with_unit(with_unit(data, 25.4), 1) == data
    assert with_unit(with_unit(data, 25.4), 1000) == with_unit(data, 1000)


@given(st.binary(max_size=300), st.floats(1e-6, 1e6))
def test_whatever_the_file_is(data: bytes, unit: float) -> None:
    import tempfile

    with tempfile.NamedTemporaryFile() as file:
        file.write(with_unit(data, unit))
        file.flush()
        got, size = said_unit_of(Path(file.name))
        assert (got, size) == (unit, len(data)) or (unit == 1 and size == len(data))


def test_a_mesh_follows_too(tmp_path: Path) -> None:
    path = tmp_path / "tooth.obj"
    path.write_text("v 0 0 0\nv 3 0 0\nv 0 4 0\nv 0 0 5\nf 1 3 2\nf 1 2 4\nf 2 3 4\nf 3 1 4\n")
    model = read_model(_said(path, 25.4), path.name)
    assert model.tree.size == pytest.approx((3 * 25.4, 4 * 25.4, 5 * 25.4))


@pytest.mark.parametrize("text", ["", "0", "-3", "x", "nan", "1e9m", "inf"])
def test_what_is_no_unit_is_refused(text: str) -> None:
    with pytest.raises(InputError):
        with_unit(b"x", unit_said(text))


def test_units_by_name_and_by_length() -> None:
    assert [unit_said(text) for text in ("in", "m", "2.54mm", " MM ")] == [25.4, 1000.0, 2.54, 1.0]


def test_at_the_command_line_a_file_in_inches_is_drawn_in_them(hammer: Path, tmp_path: Path) -> None:
    out = tmp_path / "hammer.pdf"
    done = export_file(str(hammer), str(out), {"views": ("top",), "scale": "1:100", "units": "in"}, False, silent)
    assert check_pdf(out.read_bytes(), PLAIN).holds
    wide = [check for check in done["checks"] if check["code"] == "length"]
    assert wide


@pytest.mark.parametrize(
    "change",
    [
        ('viewBox="0 0 120 80"', 'viewBox="0 0 inf 80"'), ('viewBox="0 0 120 80"', 'viewBox="nan 0 120 80"'),
        ('width="120mm"', 'width="1e999mm"'), ('stroke="#000"', 'stroke="#000" stroke-width="inf"'),
        ('stroke="#000"', 'stroke="#000" stroke-dasharray="nan 2"'), ('stroke="#000"', 'stroke="#000" opacity="nan"'),
        ('stroke="#000"', 'stroke="#000" transform="scale(inf)"'), ('font-size="4"', 'font-size="inf"'),
    ],
)  # fmt: skip
def test_a_number_that_is_none_in_an_svg_is_left_out(change: tuple[str, str], tmp_path: Path) -> None:
    text = (
        '<svg xmlns="http://www.w3.org/2000/svg" width="120mm" height="80mm" viewBox="0 0 120 80">'
        '<rect x="1" y="1" width="50" height="40" fill="none" stroke="#000"/><path d="M0 0L9 9" stroke="#111"/>'
        '<text x="10" y="60" font-size="4">Cheek</text></svg>'
    )
    path = tmp_path / "odd.svg"
    path.write_text(text.replace(*change))
    facts = read_drawing(path, path.name).facts
    # what is told of it can be kept and read again: no number in it is infinite
    again = type(facts).model_validate_json(facts.model_dump_json())
    assert again == facts
    assert all(math.isfinite(v) for v in facts.spaces[0].declared or ())
