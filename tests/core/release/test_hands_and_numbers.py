"""Opposite hands are told and drawn once; numbers are taken out of names by a pattern; marks do not stand twice in file names;
pictures of parts."""

from __future__ import annotations

import re
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from skalto.core.errors import InputError
from skalto.core.layout.part_sheets import titled
from skalto.core.projection.part_picture import HEIGHT, WIDTH, part_picture
from skalto.core.release.numbers_in_names import checked, numbers_of, taken_out
from skalto.core.release.planning import GIVE_MARKS, Subject, once_marked, planned
from skalto.core.release.register import ModelAtHand, PartRow, register
from skalto.core.release.rules import SHIPPED_RULES, FileKind, FileRule, ReleaseRules
from skalto.core.release.section import Identity
from skalto.core.sources.models.model import Model
from skalto.core.sources.models.parts import PartKind
from skalto.core.sources.reading import read_model
from skalto.demo.solids import block, cut, cylinder, fuse, mirrored, moved
from tests.core.modelled import write_assembly


def _bracket() -> object:
    body = fuse(block(40, 30, 4), moved(block(4, 30, 20), (18, 0, 0)))
    return cut(body, cylinder(5, 20, (-10, 8, -5)))


@pytest.fixture(scope="module")
def model(tmp_path_factory: pytest.TempPathFactory) -> Model:
    parts = {
        "Bracket": _bracket(),
        "EB-0012 Twin": moved(mirrored(_bracket()), (0, 100, 0), ("z", 33)),
        "Plate": moved(block(60, 40, 3), (100, 0, 0)),
        "Plate again": moved(mirrored(block(60, 40, 3)), (100, 100, 0), ("x", 20)),
    }
    path = write_assembly(parts, tmp_path_factory.mktemp("hands") / "hands.step")
    return read_model(path, path.name)


def test_the_opposite_hand_of_a_part_is_told(model: Model) -> None:
    rows = {row.key: row for row in register([ModelAtHand("s", "hands.step", model.tree)], {})}
    assert rows["EB-0012 Twin"].opposite == "Bracket"
    # the first is the one that the other is told by, and a plate that is its own mirror picture has none
    assert rows["Bracket"].opposite == ""
    assert rows["Plate"].opposite == ""
    assert rows["Plate"].quantity == 2


def test_numbers_are_taken_out_of_names(model: Model) -> None:
    rows = register([ModelAtHand("s", "hands.step", model.tree)], {})
    assert numbers_of("eb-####", rows) == {"EB-0012 Twin": {"number": "EB-0012", "name": "Twin"}}
    assert numbers_of("EB-###", rows) == {}, "three digits of four are no number"


@pytest.mark.parametrize(
    ("pattern", "name", "found"),
    [
        ("####-@@", "Side (0412-AB)", ("0412-AB", "Side")),
        ("S###", "S002_Side frame", None),
        ("S###", "S002 Side frame", ("S002", "Side frame")),
        ("S###", "Side, S002, left", ("S002", "Side left")),
        ("S###", "XS002 Side", None),
        ("S###", "S0021 Side", None),
        ("S###", "S002", ("S002", "S002")),
        ("S###", "", None),
    ],
)
def test_where_a_pattern_is_found(pattern: str, name: str, found: tuple[str, str] | None) -> None:
    if "_" in name:
        # an underscore is no letter and no digit: what is before it stands alone
        assert taken_out(pattern, name) == ("S002", "Side frame")
    else:
        assert taken_out(pattern, name) == found


@given(st.text(max_size=30), st.integers(0, 9999), st.text(max_size=30))
def test_a_number_that_stands_alone_is_always_found(before: str, number: int, after: str) -> None:
    got = taken_out("QZ-####", f"{before} QZ-{number:04d} {after}")
    assert got is not None
    assert re.fullmatch(r"(?i:qz)-\d{4}", got[0])


def test_a_pattern_without_a_digit_or_a_letter_is_refused() -> None:
    for pattern in ("EB", "", "-" * 50, "#" * 41):
        with pytest.raises(InputError):
            checked(pattern)


def test_a_mark_does_not_stand_twice_in_a_name() -> None:
    values = {"mark": "S002", "name": "S002 Side", "sheet": "s002_Side sheet", "title": "S0021 other", "revision": "A"}
    got = once_marked("{mark}_{name}", values)
    assert (got["name"], got["sheet"], got["title"]) == ("Side", "Side sheet", "S0021 other")
    # where the pattern has no mark, the name keeps its own
    assert once_marked("{name}", values) is values


def _row(key: str, mark: str = "") -> PartRow:
    return PartRow(key=key, source="s", component=key, components=(key,), kind=PartKind.MADE, name="Side", mark=mark,
                   quantity=1, identity=Identity())  # fmt: skip


def _subject(key: str, mark: str) -> Subject:
    row = _row(key, mark)
    return Subject("part", key, row.name, row.values(), key, row=row)


def test_files_by_the_shipped_rule_have_their_mark_once() -> None:
    rows = ReleaseRules(id="r", name="R", files=(FileRule(of=("part",), file=FileKind.STEP, name="{mark}_{name}_{revision}"),))
    row = _row("a", "P001").model_copy(update={"name": "P001 Side"})
    plan = planned(rows, [Subject("part", "a", row.name, row.values(), "a", row=row)], {}, {})
    assert [file.path for file in plan.files] == ["P001_Side.step"]
    assert "{mark}_{sheet}_{revision}" in [rule.name for rule in SHIPPED_RULES[0].files]


def test_parts_that_collide_for_want_of_marks_are_told_to_be_marked() -> None:
    rules = ReleaseRules(id="r", name="R", files=(FileRule(of=("part",), file=FileKind.STEP, name="{mark}_{name}"),))
    plan = planned(rules, [_subject("a", ""), _subject("b", "")], {}, {})
    assert len(plan.against) == 1
    assert plan.against[0].endswith(GIVE_MARKS)
    assert planned(rules, [_subject("a", "P1"), _subject("b", "P2")], {}, {}).against == ()
    # marks that are there and do not stand in the name: it is the name that wants them
    bare = ReleaseRules(id="r", name="R", files=(FileRule(of=("part",), file=FileKind.STEP, name="{name}"),))
    assert "{mark}" in planned(bare, [_subject("a", "P1"), _subject("b", "P2")], {}, {}).against[0]


def test_pictures_of_parts_fill_their_box(model: Model) -> None:
    for leaf in model.tree.leaves():
        path = part_picture(model, leaf)
        numbers = np.array([float(n) for n in re.findall(r"-?\d+(?:\.\d+)?", path)]).reshape(-1, 2)
        low, high = numbers.min(axis=0), numbers.max(axis=0)
        assert (low >= 0).all()
        assert high[0] <= WIDTH
        assert high[1] <= HEIGHT
        # it touches its room on two sides, in the one way or the other
        assert min(WIDTH - 2 - (high - low)[0], HEIGHT - 2 - (high - low)[1]) < 0.3
        assert path.startswith("M")


def test_twins_are_shown_apart(model: Model) -> None:
    pictures = {leaf.name: part_picture(model, leaf) for leaf in model.tree.leaves()}
    assert pictures["Bracket"] != pictures["EB-0012 Twin"]


def test_a_mesh_has_a_picture(tmp_path: Path) -> None:
    path = tmp_path / "cube.obj"
    corners = [(x, y, z) for x in (0, 10) for y in (0, 10) for z in (0, 10)]
    faces = ["1 2 4 3", "5 7 8 6", "1 5 6 2", "3 4 8 7", "1 3 7 5", "2 6 8 4"]
    path.write_text("".join(f"v {x} {y} {z}\n" for x, y, z in corners) + "".join(f"f {face}\n" for face in faces))
    mesh = read_model(path, path.name)
    assert part_picture(mesh, mesh.tree.leaves()[0]).count("M") >= 9, "nine edges of a cube are seen"


def test_a_title_never_loses_the_opposite_hand() -> None:
    row = _row("a", "S001").model_copy(update={"name": "x" * 200})
    assert titled(row, ["S002"]).endswith("; S002 opposite hand")
    assert len(titled(row, ["S002"])) == 120
    assert titled(_row("a"), []) == "Side"
