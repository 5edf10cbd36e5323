"""Two workers look at a model's parts, from both ends: together they see what one alone sees, and nothing twice."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest

from skalto.core.sources.reading import read_model
from skalto.demo.solids import block, cut, cylinder, moved
from skalto.services.results import flat
from skalto.services.results.models import keep_model
from skalto.store.blobs import Blobs
from tests.core.modelled import write_assembly


def kept(folder: Path, count: int, changed: int = -1) -> tuple[Blobs, str]:
    """A model of so many different plates, read and kept; *changed* has another hole."""
    parts = {}
    for number in range(count):
        hole = 5 + number / 2 + (0.2 if number == changed else 0)
        parts[f"Plate {number}"] = moved(cut(block(40, 30, 3), cylinder(hole, 20, (0, 0, -5))), (0, 0, 10 * number))
    path = write_assembly(parts, folder / "plates.step")
    store = Blobs(str(folder / "blobs"))
    source = f"source-{changed}"
    keep_model(store, source, read_model(path, path.name), path.name)
    return store, source


def test_both_ends_meet(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    from skalto.core.sheet_metal import unfolding

    seen: list[str] = []
    plain = unfolding.unfolded

    def counted(shape: Any, choices: Any = None, name: str = "", *more: Any) -> Any:
        seen.append(name)
        return plain(shape, choices, name, *more)

    monkeypatch.setattr(unfolding, "unfolded", counted)
    store, source = kept(tmp_path, flat.MANY)
    flat.look_from_the_end(store, source)
    assert len(seen) == flat.MANY
    rows = flat.sheet_parts(store, source)
    # all was there already
    assert len(seen) == flat.MANY
    assert [row["kind"] for row in rows] == ["flat plate"] * flat.MANY
    (tmp_path / "alone").mkdir()
    other, same = kept(tmp_path / "alone", flat.MANY)
    assert flat.sheet_parts(other, same) == rows
    # whoever comes from the end stops at once where the other has been
    seen.clear()
    flat.look_from_the_end(other, same)
    assert seen == []
    # of a newer revision what has changed is looked at, and nothing else
    store, newer = kept(tmp_path, flat.MANY, changed=3)
    flat.sheet_parts(store, newer)
    assert seen == ["Plate 3"]


def test_a_small_model_needs_no_help(tmp_path: Path) -> None:
    store, source = kept(tmp_path, 3)
    flat.look_from_the_end(store, source)
    assert not list((tmp_path / "blobs").rglob("part-looks*"))
