"""The parts register against assemblies that are made with known counts, mirrored twins and near-twins; marks that stay."""

from __future__ import annotations

import random
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from skalto.core.errors import InputError
from skalto.core.release.marks import numbered
from skalto.core.release.register import FoundKind, ModelAtHand, PartRow, register
from skalto.core.release.section import SHIPPED_SERIES, GivenMark, Identity, MarkSeries, OwnField
from skalto.core.release.table import as_table, from_table, with_values
from skalto.core.sources.models.parts import PartFacts, PartKind
from skalto.core.sources.reading import read_model
from skalto.demo.solids import block, cut, cylinder, fuse, mirrored, moved
from tests.core.modelled import write_assembly


def _bracket(hole: float = 5.0) -> object:
    """A handed bracket: no plane mirrors it."""
    body = fuse(block(40, 30, 4), moved(block(4, 30, 20), (18, 0, 0)))
    return cut(body, cylinder(hole, 20, (-10, 8, -5)))


@pytest.fixture(scope="module")
def generated(tmp_path_factory: pytest.TempPathFactory) -> tuple[ModelAtHand, dict[str, int]]:
    """An assembly whose parts lie anyhow, with how many there are of each."""
    kinds = {"bracket": _bracket(), "twin": mirrored(_bracket()), "near": _bracket(5.02), "plate": block(60, 40, 3)}
    counts = {"bracket": 5, "twin": 3, "near": 2, "plate": 4}
    chance = random.Random(7)
    parts = {}
    order = [name for name, count in counts.items() for _ in range(count)]
    chance.shuffle(order)
    for number, name in enumerate(order):
        turned = moved(kinds[name], (0, 0, 0), (chance.choice("xyz"), chance.uniform(0, 360)))
        parts[f"{name} {number}"] = moved(turned, (100 * number, chance.uniform(-50, 50), 0))
    path = write_assembly(parts, tmp_path_factory.mktemp("generated") / "generated.step")
    return ModelAtHand("s", path.name, read_model(path, path.name).tree), counts


def test_a_row_for_each_distinct_part(generated: tuple[ModelAtHand, dict[str, int]]) -> None:
    model, counts = generated
    rows = register([model], {})
    assert [row.kind for row in rows].count(PartKind.ASSEMBLY) == 1
    found = {row.key.split()[0]: row.quantity for row in rows if row.kind is not PartKind.ASSEMBLY}
    assert found == counts


def test_equal_parts_of_two_files_have_one_row(generated: tuple[ModelAtHand, dict[str, int]]) -> None:
    model, counts = generated
    other = ModelAtHand("t", "again.step", model.tree)
    rows = register([model, other], {})
    assert len(rows) == 5
    assert {row.quantity for row in rows} == {2, *(2 * n for n in counts.values())}
    assert all(row.elsewhere[0].source == "t" for row in rows)


def test_material_finish_and_compared_fields_part_equal_shapes(tmp_path: Path) -> None:
    path = write_assembly({"Left": block(9, 5, 2), "Right": moved(block(9, 5, 2), (20, 0, 0))}, tmp_path / "two.step")
    model = ModelAtHand("s", path.name, read_model(path, path.name).tree)
    assert [row.quantity for row in register([model], {}) if row.kind is PartKind.MADE] == [2]
    for facts in (PartFacts(material="Brass"), PartFacts(finish="black")):
        said = {"Left": PartFacts(material="Steel", finish="zinc"), "Right": facts}
        assert [row.quantity for row in register([model], said) if row.kind is PartKind.MADE] == [1, 1]
    # a field that is compared is in the identity
    own = (OwnField(name="Heat", compared=True),)
    plain, hard = (register([model], {"Left": PartFacts(fields=f)}, own)[1].identity for f in ({}, {"Heat": "hardened"}))
    assert plain != hard


def test_parts_of_one_name_have_keys_of_their_own(tmp_path: Path) -> None:
    path = write_assembly({"Body": block(9, 5, 2), "Lid": block(3, 2, 1)}, tmp_path / "one.step")
    other = write_assembly({"Body": block(8, 5, 2), "Lid": block(3, 2, 1)}, tmp_path / "other.step")
    models = [
        ModelAtHand(name, f.name, read_model(f, f.name).tree.model_copy(update={"file": f.name}))
        for name, f in (("a", path), ("b", other))
    ]
    rows = register(models, {"Body": PartFacts(number="EB-1")})
    keys = [row.key for row in rows]
    assert len(set(keys)) == len(keys)
    assert [(row.key, row.number) for row in rows if row.name.startswith("Body")] == [
        ("Body", "EB-1"), ("Body@other.step", ""),
    ]  # fmt: skip


def test_equal_assemblies_have_the_same_children_in_the_same_places(press_step: Path) -> None:
    rows = register([ModelAtHand("s", "Ebba.step", read_model(press_step, "Ebba.step").tree)], {})
    assemblies = {row.name: row.quantity for row in rows if row.kind is PartKind.ASSEMBLY}
    assert assemblies == {
        "Ebba press": 1, "Inking": 1, "Crank": 1, "Pressure gear": 1, "Upper roller set": 1, "Lower roller set": 1, "Frame": 1,
    }  # fmt: skip


def test_kinds_are_what_was_found_unless_somebody_says_otherwise(generated: tuple[ModelAtHand, dict[str, int]]) -> None:
    model, _ = generated
    plate = next(leaf.path for leaf in model.tree.leaves() if leaf.part.startswith("plate"))
    found = ModelAtHand("s", "x", model.tree, {plate: FoundKind(kind=PartKind.PLATE, thickness=3)})
    (row,) = [row for row in register([found], {}) if row.key.startswith("plate")]
    assert (row.kind, row.thickness) == (PartKind.PLATE, 3)
    said = {row.key: PartFacts(kind=PartKind.BOUGHT)}
    assert [r.bought for r in register([found], said) if r.key == row.key] == [True]


def _row(key: str, volume: float, kind: PartKind = PartKind.MADE) -> PartRow:
    identity = Identity(faces=6, fingerprint=(volume, volume, 1, 2, 3, 4, 0.0))
    return PartRow(key=key, source="s", component=key, components=(key,), kind=kind, name=key, quantity=1, identity=identity)


def test_marks_stay_and_dropped_ones_are_never_given_again() -> None:
    first = numbered([_row("a", 1), _row("b", 2), _row("c", 3)], (), SHIPPED_SERIES)
    assert first.marks == {"a": "P001", "b": "P002", "c": "P003"}
    # b is gone, d is new: it does not get the mark of b
    second = numbered([_row("d", 4), _row("a", 1), _row("c", 3)], first.given, SHIPPED_SERIES)
    assert second.marks == {"a": "P001", "c": "P003", "d": "P004"}
    assert [own.mark for own in second.gone] == ["P002"]
    # c, the last, is gone too: its number is not free either; and b does not come back to its mark by itself
    third = numbered([_row("a", 1), _row("e", 5)], second.given, SHIPPED_SERIES)
    assert third.marks == {"a": "P001", "e": "P005"}
    assert sorted(own.mark for own in third.gone) == ["P003", "P004"]


def test_what_was_renamed_keeps_its_mark_and_what_changed_is_asked() -> None:
    first = numbered([_row("a", 1), _row("b", 2)], (), SHIPPED_SERIES)
    asked = numbered([_row("renamed", 1), _row("b", 2.5)], first.given, SHIPPED_SERIES)
    assert asked.marks["renamed"] == "P001"
    assert [(own.row.key, own.mark) for own in asked.changed] == [("b", "P002")]
    # nothing is settled before there is an answer
    again = numbered([_row("renamed", 1), _row("b", 2.5)], asked.given, SHIPPED_SERIES)
    assert len(again.changed) == 1
    kept = numbered([_row("renamed", 1), _row("b", 2.5)], asked.given, SHIPPED_SERIES, keep=["P002"])
    assert (kept.marks["b"], kept.changed) == ("P002", ())
    assert numbered([_row("renamed", 1), _row("b", 2.5)], kept.given, SHIPPED_SERIES).changed == ()
    anew = numbered([_row("renamed", 1), _row("b", 2.5)], asked.given, SHIPPED_SERIES, renew=["P002"])
    assert anew.marks["b"] == "P003"
    assert [own.mark for own in anew.gone] == ["P002"]


def test_series_have_their_prefix_start_step_and_digits() -> None:
    series = (
        MarkSeries(kinds=(PartKind.PLATE,), prefix="PL-", start=10, step=10, digits=4),
        MarkSeries(kinds=(PartKind.MADE,), prefix="", start=100),
    )
    rows = [_row("a", 1, PartKind.PLATE), _row("b", 2), _row("c", 3, PartKind.PLATE), _row("d", 4)]
    assert numbered(rows, (), series).marks == {"a": "PL-0010", "b": "100", "c": "PL-0020", "d": "101"}
    with pytest.raises(InputError, match="No series of marks is for bought"):
        numbered([_row("x", 1, PartKind.BOUGHT)], (), series)
    with pytest.raises(ValueError, match="ends in a digit"):
        MarkSeries(kinds=(PartKind.MADE,), prefix="P1")


@settings(max_examples=60, deadline=None)
@given(st.lists(st.lists(st.integers(0, 12), unique=True, max_size=9), min_size=1, max_size=8), st.booleans())
def test_no_mark_ever_stands_for_two_parts(stages: list[list[int]], answer: bool) -> None:
    """Whatever comes and goes: within a numbering marks are unique, and a mark that was dropped does not come back."""
    given_marks: tuple[GivenMark, ...] = ()
    dead: set[str] = set()
    for number, stage in enumerate(stages):
        # every other time the parts are changed a little under their names
        rows = [_row(f"p{n}", n + 1 + 0.1 * (number % 2)) for n in stage]
        made = numbered(rows, given_marks, SHIPPED_SERIES)
        marks = [own.mark for own in made.changed]
        made = numbered(rows, given_marks, SHIPPED_SERIES, keep=marks if answer else (), renew=() if answer else marks)
        assert len(set(made.marks.values())) == len(rows)
        assert not dead & set(made.marks.values())
        assert made.changed == ()
        dead |= {own.mark for own in made.given if own.dropped}
        given_marks = made.given


def test_the_table_goes_out_and_comes_in(generated: tuple[ModelAtHand, dict[str, int]]) -> None:
    model, _ = generated
    own = (OwnField(name="Powder coat", kind="yes/no"), OwnField(name="Shelf", kind="choice", choices=("A1", "B2")))
    rows = register([model], {}, own)
    text = as_table(rows, own)
    assert from_table(text, rows, own) == {}
    plate = next(row for row in rows if row.key.startswith("plate"))
    pasted = f"Part\tmaterial\tPowder coat\tShelf\tkind\n{plate.key}\tS235\tYes\tb2\tplate\n"
    (told,) = from_table(pasted, rows, own).values()
    facts = with_values(PartFacts(), told, own)
    assert (facts.material, facts.fields, facts.kind) == ("S235", {"Powder coat": "yes", "Shelf": "B2"}, PartKind.PLATE)


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("part,colour\nx,red\n", "“colour” is no column"),
        ("material\nS235\n", "which part it is"),
        ("part,material\nnobody,S235\n", "no part with the part “nobody”"),
        ("part,Thick\n{plate},1\n", "“Thick” is no column"),
        ("part,thickness\n{plate},thin\n", "Row 2: “thin” is no thickness"),
        ("part,kind\n{plate},cheese\n", "Row 2: “cheese” is no kind"),
        ("part,name\n{plate},x\n{plate},y\n", "again"),
        ("part,name,name\n{plate},x,y\n", "there twice"),
        ("part,name\n{plate},x,y\n", "3 cells for 2 columns"),
    ],
)
def test_a_table_that_does_not_fit_is_refused(text: str, said: str, generated: tuple[ModelAtHand, dict[str, int]]) -> None:
    rows = register([generated[0]], {})
    plate = next(row.key for row in rows if row.key.startswith("plate"))
    with pytest.raises(InputError, match=said.replace("(", r"\(")):
        from_table(text.replace("{plate}", plate), rows, ())
