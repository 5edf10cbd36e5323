"""Names and folders of files against a table of patterns worked by hand; states and revisions; the outbox."""

from __future__ import annotations

import subprocess
import sys
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from skalto.core.errors import InputError
from skalto.core.release.planning import Subject, planned
from skalto.core.release.recognising import kind_of, looks_like_sheet
from skalto.core.release.register import PartRow
from skalto.core.release.rules import FileKind, FileRule, OnlyIf, ReleaseRules, rules_from_json, rules_to_json
from skalto.core.release.section import PROPERTIES, Identity
from skalto.core.release.states import next_revision
from skalto.core.sheet_metal.flat_writing import FlatWriting, OtherSide
from skalto.core.sheet_metal.pattern import NoSheet, SheetKind
from skalto.core.sheet_metal.unfolding import unfolded
from skalto.core.sources.models.parts import PartKind
from skalto.demo.solids import block, cylinder, fuse
from skalto.store.blobs import content_hash
from skalto.store.outbox import Outbox
from skalto.store.whole import part_name
from tests.core.sheet_metal.shapes import Flat, Turn, box, folded, turned

VALUES = {
    "mark": "S001", "name": "Ink tray, hemmed", "revision": "B", "material": "Steel DX51D", "thickness": "1.5",
    "Shelf": "A/3", "Coat": "", "job": "Drying rack", "assemblies": "A001/A003",
}  # fmt: skip


def _subject(kind: str = "bent sheet", key: str = "Tray", content: str = "c", **values: str) -> Subject:
    blank = dict.fromkeys((*PROPERTIES, *VALUES), "")
    return Subject(kind, key, values.get("name", key), blank | VALUES | values, content, side_b=True, unfolds=True)


def _rules(*files: FileRule, **more: Any) -> ReleaseRules:
    return ReleaseRules(id="r", name="R", files=files, **more)


@pytest.mark.parametrize(
    ("name", "folder", "path"),
    [
        # worked by hand: fields filled, blanks as underscores, marks that part a field that is empty go with it
        ("{mark}", "", "S001.step"),
        ("{mark}_{revision}_{material}_{thickness}", "", "S001_B_Steel_DX51D_1.5.step"),
        ("{mark}_{Coat}_{revision}", "", "S001_B.step"),
        ("{mark} {name}", "models", "models/S001_Ink_tray,_hemmed.step"),
        ("{mark}", "{material}/{thickness} mm", "Steel_DX51D/1.5_mm/S001.step"),
        ("{mark}", "{assemblies}", "A001/A003/S001.step"),
        ("{mark}", "by shelf/{Shelf}", "by_shelf/A-3/S001.step"),
        ("{mark}", "{Coat}/x", "x/S001.step"),
        ("a:b?{mark}", "", "a-b-S001.step"),
        ("{Coat}", "", "Tray.step"),
        ("con", "", "con_.step"),
    ],
)
def test_names_and_folders_as_worked_by_hand(name: str, folder: str, path: str) -> None:
    rule = FileRule(of=("bent sheet",), file=FileKind.STEP, name=name, folder=folder)
    plan = planned(_rules(rule), [_subject()], {}, {})
    assert [file.path for file in plan.files] == [path]
    assert plan.against == ()


def test_letters_that_file_names_may_not_have_are_told() -> None:
    rule = FileRule(of=("bent sheet",), file=FileKind.STEP, name="{mark}?")
    assert planned(_rules(rule), [_subject()], {}, {}).notices == (
        "Tray: file names cannot have ?, so it is written S001.",
    )  # fmt: skip


@pytest.mark.parametrize("pattern", ["{mark", "mark}", "../{mark}", "a/../b"])
def test_patterns_that_cannot_be(pattern: str) -> None:
    with pytest.raises(ValueError, match=r"brace|leads out"):
        FileRule(of=("plate",), file=FileKind.STEP, name="{mark}", folder=pattern)


def test_files_of_one_path_clash_whatever_their_letters_case() -> None:
    rule = FileRule(of=("bent sheet",), file=FileKind.STEP, name="{mark}")
    plan = planned(_rules(rule), [_subject(key="One", mark="a1"), _subject(key="Two", mark="A1")], {}, {})
    (said,) = plan.against
    assert said.startswith("a1.step would be written for One (STEP) and Two (STEP)")


def test_bought_parts_stay_out_unless_they_are_wanted() -> None:
    rule = FileRule(of=("bought",), file=FileKind.STEP)
    bought = _subject("bought")
    assert planned(_rules(rule), [bought], {}, {}).against == (
        "These rules make no file of what is released: choose other rules, or other parts.",
    )  # fmt: skip
    assert len(planned(_rules(rule, bought=True), [bought], {}, {}).files) == 1


@pytest.mark.parametrize(
    ("value", "wanted", "made"),
    [("yes", "", True), ("no", "", False), ("", "", False), ("Red", "red", True), ("red", "blue", False)],
)
def test_only_what_a_property_says(value: str, wanted: str, made: bool) -> None:
    rule = FileRule(of=("bent sheet",), file=FileKind.STEP, only_if=OnlyIf(field="coat", value=wanted))
    assert bool(planned(_rules(rule), [_subject(Coat=value)], {}, {}).files) is made


@pytest.mark.parametrize(
    ("when", "coat", "count"),
    [
        (OtherSide.NEVER, "yes", 1), (OtherSide.ALWAYS, "", 2), (OtherSide.NEEDED, "", 2), (OtherSide.SAID, "yes", 2),
        (OtherSide.SAID, "no", 1), (OtherSide.SAID, "", 1),
    ],
)  # fmt: skip
def test_the_other_side_goes_by_the_recipe(when: OtherSide, coat: str, count: int) -> None:
    rule = FileRule(of=("bent sheet",), file=FileKind.FLAT, name="{mark}", recipe="r")
    writing = FlatWriting(other_side=when, said_by="Coat", affix="b-", before=True)
    plan = planned(_rules(rule), [_subject(Coat=coat)], {"r": writing}, {"r": "x"})
    assert [file.path for file in plan.files] == ["S001.dxf", "b-S001.dxf"][:count]


def test_a_file_is_known_again_by_what_it_shows_and_by_its_recipe() -> None:
    rule = FileRule(of=("bent sheet",), file=FileKind.FLAT, name="{mark}", recipe="r")

    def content(shown: str, recipe: str) -> str:
        return planned(_rules(rule), [_subject(content=shown)], {}, {"r": recipe}).files[0].content

    assert content("a", "x") == content("a", "x")
    assert len({content("a", "x"), content("b", "x"), content("a", "y")}) == 3


def test_a_recipe_that_is_gone_stands_against_it() -> None:
    rule = FileRule(of=("bent sheet",), file=FileKind.FLAT, recipe="gone")
    assert "no longer there" in planned(_rules(rule), [_subject()], {}, {}).against[0]


def test_rules_as_a_file() -> None:
    rules = _rules(FileRule(of=("plate",), file=FileKind.STEP, only_if=OnlyIf(field="Coat")))
    assert rules_from_json(rules_to_json(rules)) == rules
    for bad, said in (
        (b"{", "not JSON"),
        (b"{}", "no release rules"),
        (b'{"kind": "skalto.rules", "rules": {}}', "cannot be used"),
    ):
        with pytest.raises(InputError, match=said):
            rules_from_json(bad)


@given(st.integers(0, 2000))
def test_revisions_go_on_and_on(count: int) -> None:
    seen = [""]
    for _ in range(count % 60):
        seen.append(next_revision(seen[-1], "letters"))
    assert len(set(seen)) == len(seen)
    assert not set("IOQSXZ") & set("".join(seen))
    assert next_revision(str(count), "numbers") == str(count + 1)


def test_the_outbox_moves_earlier_files_aside_and_writes_nothing_twice(tmp_path: Path) -> None:
    outbox = Outbox(str(tmp_path / "out"))
    outbox.put("a/b.txt", b"one", "earlier/1")
    outbox.put("a/b.txt", b"one", "earlier/2")
    assert not (tmp_path / "out/earlier").exists()
    outbox.put("a/b.txt", b"two", "earlier/3")
    outbox.put("a/b.txt", b"three", "earlier/3")
    found = sorted(path.relative_to(tmp_path / "out").as_posix() for path in (tmp_path / "out").rglob("*.txt"))
    assert found == ["a/b.txt", "earlier/3/a/b-2.txt", "earlier/3/a/b.txt"]
    assert (outbox.get("a/b.txt"), outbox.hash("a/b.txt")) == (b"three", content_hash(b"three"))
    # what is known by its hash may be replaced; what somebody else put there is moved aside all the same
    outbox.put("a/b.txt", b"four", "earlier/4", replaced=content_hash(b"three"))
    assert len(list((tmp_path / "out").rglob("*.txt"))) == 3
    (tmp_path / "out/a/b.txt").write_bytes(b"by hand")
    assert outbox.unknown({"a/b.txt": content_hash(b"four"), "none.txt": ""}) == ["a/b.txt"]
    outbox.put("a/b.txt", b"five", "earlier/5", replaced=content_hash(b"four"))
    assert outbox.get("earlier/5/a/b.txt") == b"by hand"
    for path in ("", "../x", "a//b", "/x"):
        with pytest.raises(InputError, match="no file of an outbox"):
            outbox.put(path, b"x", "earlier")


def _row(unfit: str) -> PartRow:
    return PartRow(
        key="Lug", source="a" * 64, component="Lug", components=("Lug",), kind=PartKind.MADE, name="Lug", quantity=1,
        identity=Identity(), unfit=unfit,
    )  # fmt: skip


def test_what_looks_like_sheet_and_is_not_recognised_holds_the_release() -> None:
    flat, step = FileRule(of=("bent sheet", "plate"), file=FileKind.FLAT), FileRule(of=("part",), file=FileKind.STEP)
    rules = ReleaseRules(id="r", name="R", files=(flat, step))
    lug = Subject("part", "Lug", "Lug", dict.fromkeys((*PROPERTIES, *VALUES), ""), "c", row=_row("Walls meet without a bend."))
    plan = planned(rules, [_subject(), lug], {}, {})
    # its STEP file is made all the same
    assert [own.file for own in plan.files] == [FileKind.FLAT, FileKind.STEP]
    assert plan.held == ("Lug looks like sheet, and has no flat pattern: Walls meet without a bend.",)
    assert "accept that it has none" in plan.stops(accepted=False)
    assert plan.stops(accepted=True) == ""
    # one that looks like none, and rules that make no flat patterns
    told = replace(lug, row=_row(""))
    assert planned(rules, [_subject(), told], {}, {}).held == ()
    assert planned(ReleaseRules(id="r", name="R", files=(step,)), [lug], {}, {}).held == ()


@pytest.mark.parametrize(
    ("shape", "like"),
    [
        (folded([Flat(50), Turn(90, 2), Flat(30), Turn(90, 2), Flat(40)], 1, 100), True),
        (fuse(block(100, 60, 1), box((0, 0, 0), (1, 60, 40))), True),
        (block(100, 60, 2), True),
        (turned(block(100, 60, 2), (1, 2, 3), 33), True),
        (block(100, 60, 12), False),
        (block(20, 20, 20), False),
        (block(10, 10, 200), False),
        (cylinder(20, 100), False),
    ],
)
def test_what_looks_like_sheet(shape: Any, like: bool) -> None:
    assert looks_like_sheet(shape) is like


def test_walls_without_a_bend_are_told_with_their_reason() -> None:
    shape = fuse(block(100, 60, 1), box((0, 0, 0), (1, 60, 40)))
    with pytest.raises(NoSheet) as error:
        unfolded(shape)
    found = kind_of(shape, error.value.kind, 0.0, error.value.reason)
    assert (found.kind, found.unfit) == (PartKind.MADE, error.value.reason)
    assert kind_of(block(20, 20, 20), SheetKind.NONE, 0.0, "It is no sheet.").unfit == ""


def test_only_what_a_dead_process_of_ours_was_writing_is_swept(tmp_path: Path) -> None:
    outbox = Outbox(str(tmp_path / "out"))
    dead = subprocess.run([sys.executable, "-c", "from skalto.store.whole import part_name; print(part_name('a.pdf'))"],
                          capture_output=True, text=True, check=True).stdout.strip()  # fmt: skip
    mine = part_name("b.pdf")
    machine = mine.split("-")[1]
    elsewhere = mine.replace(machine, "0" * 8)
    reused = mine.replace(mine.split("-")[3], "17")
    strangers = ("body.part", "a.0123.part", f"a.{'0' * 32}.part", "model.step.part")
    for name in (dead, mine, elsewhere, reused, *strangers):
        (tmp_path / "out" / name).write_bytes(b"half")
    (tmp_path / "out" / "kept.part").mkdir()
    outbox.sweep_parts()
    left = {path.name for path in (tmp_path / "out").iterdir()}
    assert left == {mine, elsewhere, *strangers, "kept.part"}


def test_the_outbox_is_any_address() -> None:
    outbox = Outbox("memory://outbox-of-a-test")
    outbox.put("a/b.txt", b"one", "earlier/0")
    outbox.put("a/b.txt", b"two", "earlier/1")
    assert (outbox.get("a/b.txt"), outbox.get("earlier/1/a/b.txt")) == (b"two", b"one")
    with pytest.raises(InputError, match=r"cannot be reached|not installed"):
        Outbox("nonsense://x")
