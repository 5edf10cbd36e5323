"""From a drawing to the cutter: what layers and colours stand for, lettering that is not lost, a plate that is drawn."""

from __future__ import annotations

import math
from pathlib import Path
from typing import Any

import ezdxf
import pytest
from ezdxf.enums import TextEntityAlignment

from skalto.core.cutting.drawn_profiles import DrawnParts, parts_of
from skalto.core.cutting.section import ContoursOrigin
from skalto.core.errors import InputError
from skalto.core.geometry.profile import Operation
from skalto.core.progress import silent
from skalto.core.sources.reading import read_drawing
from skalto.services.commands.cutting import cut_files
from skalto.services.results.profiles import says_of

PLATE = (300.0, 200.0)


@pytest.fixture(scope="module")
def drawing(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A plate with two parts drawn in it, one with a hole, a line to score in red, and words."""
    document = ezdxf.new("R2010", units=4)
    space = document.modelspace()
    for name, colour in (("Sheet", 7), ("Parts", 3), ("Fold", 1), ("Words", 5)):
        document.layers.add(name, color=colour)
    space.add_lwpolyline([(0, 0), (PLATE[0], 0), PLATE, (0, PLATE[1])], close=True, dxfattribs={"layer": "Sheet"})
    space.add_lwpolyline([(20, 20), (120, 20), (120, 100), (20, 100)], close=True, dxfattribs={"layer": "Parts"})
    space.add_circle((70, 60), 10, dxfattribs={"layer": "Parts"})
    space.add_circle((200, 100), 40, dxfattribs={"layer": "Parts"})
    space.add_line((30, 30), (110, 30), dxfattribs={"layer": "Fold"})
    space.add_text("Ebba", height=8, dxfattribs={"layer": "Words"}).set_placement((30, 80), align=TextEntityAlignment.LEFT)
    path = tmp_path_factory.mktemp("drawn") / "plate.dxf"
    document.saveas(path)
    return path


def _parts(path: Path, **said: Any) -> DrawnParts:
    read = read_drawing(path, path.name)
    return parts_of(read.spaces[""], says_of(ContoursOrigin(source="s", **said)), 0.0, "Part", said.get("plate", False))


def test_without_a_word_the_plate_is_a_part_and_its_parts_are_holes(drawing: Path) -> None:
    # which is what a drawn plate did to its parts
    found = _parts(drawing, score=("Fold",))
    assert [len(part.openings) for part in found.parts] == [2, 1] or len(found.parts) == 2
    assert found.plate is None


def test_the_outermost_contour_is_the_plate(drawing: Path) -> None:
    found = _parts(drawing, plate=True, score=("Fold",))
    assert found.plate is not None
    assert abs(found.plate.outline.area) == pytest.approx(PLATE[0] * PLATE[1])
    assert sorted(round(part.area, 3) for part in found.parts) == pytest.approx(
        sorted((math.pi * 40**2, 100 * 80 - math.pi * 10**2)), abs=1e-2
    )
    square = next(part for part in found.parts if part.openings)
    assert {mark.operation for mark in square.marks} == {Operation.SCORE, Operation.ENGRAVE}


@pytest.mark.parametrize("red", ["Fold", "fold", "F*", "#ff0000"])
def test_a_layer_or_its_colour_says_what_is_done(drawing: Path, red: str) -> None:
    found = _parts(drawing, plate=True, score=(red,))
    scored = [mark for part in found.parts for mark in part.marks if mark.operation is Operation.SCORE]
    assert len(scored) == 1
    assert scored[0].course.length == pytest.approx(80)
    engraved = _parts(drawing, plate=True, engrave=(red,))
    assert not [mark for part in engraved.parts for mark in part.marks if mark.operation is Operation.SCORE]
    out = _parts(drawing, plate=True, out=(red,))
    assert not [mark for part in out.parts for mark in part.marks if mark.course.length == pytest.approx(80)]


def test_lettering_is_engraved_and_told(drawing: Path) -> None:
    found = _parts(drawing, plate=True, score=("Fold",))
    letters = [mark for part in found.parts for mark in part.marks if mark.operation is Operation.ENGRAVE]
    # the strokes of four letters
    assert len(letters) >= 4
    boxes = [mark.course.box for mark in letters]
    assert max(box[3] for box in boxes) - min(box[1] for box in boxes) == pytest.approx(8, rel=0.2)
    assert found.notes == ("1 text is engraved along the letters.",)
    out = _parts(drawing, plate=True, score=("Fold",), out=("Words",))
    assert out.notes == ("1 text lies on what is left out.",)
    assert not [mark for part in out.parts for mark in part.marks if mark.operation is Operation.ENGRAVE]


def test_the_command_line_cuts_from_a_drawn_plate(drawing: Path, tmp_path: Path) -> None:
    out = tmp_path / "cut.pdf"
    said = {"plate": "drawn", "edge": "2mm", "score": ["#ff0000"], "seconds": 1}
    done = cut_files(str(drawing), [], str(out), said, False, silent)
    assert done["holds"]
    assert [row["parts"] for row in done["plates"]] == [2]
    assert any("engraved along the letters" in line for line in done["notices"])
    with pytest.raises(InputError, match="drawn where a drawing"):
        cut_files(str(drawing), [], str(tmp_path / "other.pdf"), {"plate": ""}, False, silent)


def test_a_plate_with_nothing_in_it_says_so(tmp_path: Path) -> None:
    document = ezdxf.new("R2010", units=4)
    document.modelspace().add_circle((0, 0), 30)
    path = tmp_path / "bare.dxf"
    document.saveas(path)
    with pytest.raises(InputError, match="no closed contour"):
        cut_files(str(path), [], str(tmp_path / "cut.pdf"), {"plate": "drawn", "seconds": 1}, False, silent)


def test_holes_beside_words_are_cut_whatever_stands_there(tmp_path: Path) -> None:
    """All on one layer, in one colour: a circle and a slot that lie where a word stands are no letters."""
    document = ezdxf.new("R2010", units=4)
    space = document.modelspace()
    space.add_lwpolyline([(0, 0), (200, 0), (200, 100), (0, 100)], close=True)
    space.add_text("HOLE 4 AND SLOT", height=12).set_placement((20, 40))
    space.add_circle((30, 46), 2)
    space.add_lwpolyline([(60, 44), (66, 44), (66, 48), (60, 48)], close=True)
    path = tmp_path / "one.dxf"
    document.saveas(path)
    (part,) = _parts(path).parts
    assert sorted(round(abs(own.area), 3) for own in part.openings) == [round(math.pi * 4, 3), 24.0]
    assert {mark.operation for mark in part.marks} == {Operation.ENGRAVE}


def test_what_lies_beside_a_drawn_plate_is_told(tmp_path: Path) -> None:
    document = ezdxf.new("R2010", units=4)
    space = document.modelspace()
    space.add_lwpolyline([(0, 0), (200, 0), (200, 100), (0, 100)], close=True)
    space.add_circle((50, 50), 20)
    space.add_circle((300, 50), 20)
    path = tmp_path / "beside.dxf"
    document.saveas(path)
    found = _parts(path, plate=True)
    assert len(found.parts) == 1
    assert found.notes == ("1 contour lies beside the plate: left out.",)
