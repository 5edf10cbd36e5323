"""What STEP files say of their products beside shapes: files as another writer would write them, after ISO 10303-21 and -41."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

from skalto.core.release.register import ModelAtHand, register
from skalto.core.release.section import OwnField
from skalto.core.sources.models.model import FileFacts, ModelTree
from skalto.core.sources.models.parts import PartFacts
from skalto.core.sources.reading import read_model
from skalto.demo.solids import block, cylinder
from tests.core.modelled import write_assembly

SAMPLES = Path("/usr/share/opencascade/data/step")


def _of(text: str, kind: str, words: str) -> str:
    """The number of the entity of a kind that has some words."""
    found = re.search(rf"#(\d+)\s*=\s*{kind}\([^;]*{re.escape(words)}[^;]*;", text)
    assert found is not None, (kind, words)
    return found[1]


def _told(folder: Path, *entities: str, **products: str) -> ModelTree:
    """Two parts, *products* written anew by their names, with more *entities*, in which ``{definition}`` is the side's."""
    path = write_assembly({"Side": block(20, 30, 4), "Peg": cylinder(8, 30)}, folder / "told.step", "Stand")
    text = path.read_text()
    product = _of(text, "PRODUCT", "'Side','Side'")
    formation = _of(text, "PRODUCT_DEFINITION_FORMATION", f"#{product})")
    definition = _of(text, "PRODUCT_DEFINITION", f"#{formation},")
    text = re.sub(rf"(#{formation}\s*=\s*PRODUCT_DEFINITION_FORMATION\()'[^']*'", r"\1'C'", text)
    for name, written in products.items():
        text = text.replace(f"PRODUCT('{name}','{name}',''", f"PRODUCT({written}")
    lines = "".join(f"{own.format(definition=definition)}\n" for own in entities)
    path.write_text(text.replace("ENDSEC;\nEND-ISO", f"{lines}ENDSEC;\nEND-ISO"))
    return read_model(path, path.name).tree


def _property(n: int, name: str, item: str, called: str = "user defined attribute") -> tuple[str, ...]:
    return (
        f"#{n}=PROPERTY_DEFINITION('{called}',$,#{{definition}});",
        f"#{n + 1}=PROPERTY_DEFINITION_REPRESENTATION(#{n},#{n + 2});",
        f"#{n + 2}=REPRESENTATION('',(#{n + 3}),#{n + 4});",
        f"#{n + 3}={item.format(name=name)};",
        f"#{n + 4}=REPRESENTATION_CONTEXT('','');",
    )


TEXT = "DESCRIPTIVE_REPRESENTATION_ITEM('{{name}}','{value}')"


def test_number_description_version_and_properties_are_read(tmp_path: Path) -> None:
    tree = _told(
        tmp_path,
        *_property(90000, "Material", TEXT.format(value="S355")),
        *_property(90010, "Surface finish", TEXT.format(value="zinc \\X2\\00FC\\X0\\")),
        *_property(90020, "", TEXT.format(value="yes"), called="Painted"),
        *_property(90030, "Count", "INTEGER_REPRESENTATION_ITEM('{name}',7)"),
        *_property(90040, "Area", TEXT.format(value="99"), called="geometric validation property"),
        Side="'EB-77','Side','Side plate of the stand'",
    )
    own = tree.told_of("Side")
    assert (own.number, own.description, own.revision) == ("EB-77", "Side plate of the stand", "C")
    assert own.properties["Material"] == "S355"
    assert own.properties["Surface finish"] == "zinc ü"
    assert own.of("painted") == "yes"
    assert own.of("COUNT") == "7"
    assert "Area" not in own.properties
    assert tree.told_of("Peg") == FileFacts()


def test_entities_that_lack_what_they_should_have_are_passed_over(tmp_path: Path) -> None:
    tree = _told(
        tmp_path,
        "#91000=PROPERTY_DEFINITION_REPRESENTATION($,$);",
        "#91001=PROPERTY_DEFINITION($,$,$);",
        "#91002=PROPERTY_DEFINITION_REPRESENTATION(#91001,#91003);",
        "#91003=REPRESENTATION($,$,$);",
        "#91004=PROPERTY_DEFINITION('Length',$,#{definition});",
        "#91005=PROPERTY_DEFINITION_REPRESENTATION(#91004,#91006);",
        "#91006=REPRESENTATION('',(#91007,#91008,$),$);",
        "#91007=MEASURE_REPRESENTATION_ITEM('Length',LENGTH_MEASURE(12.5),$);",
        "#91008=DESCRIPTIVE_REPRESENTATION_ITEM($,$);",
        "#91009=PRODUCT_DEFINITION_FORMATION($,$,$);",
        "#91010=PRODUCT($,$,$,$);",
    )
    assert tree.told_of("Side").of("length") == "12.5"
    assert len(tree.leaves()) == 2


def test_the_register_takes_what_the_file_says_unless_somebody_says_otherwise(tmp_path: Path) -> None:
    tree = _told(
        tmp_path,
        *_property(90000, "Material", TEXT.format(value="S355")),
        *_property(90010, "Painted", TEXT.format(value="Yes")),
        *_property(90020, "Hours", TEXT.format(value="plenty")),
        Side="'EB-77','Side','Side plate of the stand'",
    )
    fields = (OwnField(name="painted", kind="yes/no"), OwnField(name="hours", kind="number"))
    rows = {row.key: row for row in register([ModelAtHand("s", "told.step", tree)], {}, fields)}
    side = rows["Side"]
    assert (side.number, side.description, side.revision, side.material) == ("EB-77", "Side plate of the stand", "C", "S355")
    # what does not fit a field is left out
    assert side.fields == {"painted": "yes", "hours": ""}
    said = {"Side": PartFacts(number="1-1", material="Oak", revision="D", fields={"painted": "no"})}
    side = {row.key: row for row in register([ModelAtHand("s", "told.step", tree)], said, fields)}["Side"]
    assert (side.number, side.material, side.revision, side.fields["painted"]) == ("1-1", "Oak", "D", "no")


def test_equal_shapes_of_two_materials_are_two_parts(tmp_path: Path) -> None:
    path = write_assembly({"Side": block(20, 30, 4), "Back": block(20, 30, 4)}, tmp_path / "two.step", "Stand")
    tree = read_model(path, path.name).tree
    assert len(register([ModelAtHand("s", "two.step", tree)], {})) == 2
    told = {"Back": FileFacts(properties={"MATERIAL": "Oak"})}
    assert len(register([ModelAtHand("s", "two.step", tree.model_copy(update={"told": told}))], {})) == 3


@pytest.mark.parametrize("name", ["linkrods.step", "screw.step"])
def test_fillers_of_public_samples_say_nothing(name: str) -> None:
    if not (SAMPLES / name).exists():
        pytest.skip("Debian's occt-misc is not installed")
    tree = read_model(SAMPLES / name, name).tree
    assert all(own.description != "void" for own in tree.told.values())
