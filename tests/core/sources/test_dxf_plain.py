"""Plain strokes read straight off a DXF file, held against ezdxf's own reading of the same file, stroke for stroke."""

from __future__ import annotations

import random
import re
from pathlib import Path
from typing import Any

import ezdxf
import numpy as np
import pytest
from ezdxf.enums import TextEntityAlignment

from skalto.core.artwork import Areas, Artwork, Beziers, Ellipses, Item, Lines, Polylines, Raster, Text
from skalto.core.sources.drawings.drawing import Drawing
from skalto.core.sources.drawings.dxf import loading
from skalto.core.sources.drawings.dxf.plain import Plain, plain_of
from skalto.core.sources.drawings.dxf.reading import read_dxf
from skalto.demo.workshop import write_workshop
from tests.core.drawn import dxf

VERSIONS = ("R12", "R2000", "R2004", "R2010", "R2018")


def both(path: Path, monkeypatch: pytest.MonkeyPatch) -> tuple[Drawing, Drawing, Plain | None]:
    """A file read with the plain strokes apart, however few they are; by the library alone; and what was taken as plain."""
    seen: list[Plain | None] = []

    def taken(data: bytes) -> Plain | None:
        seen.append(plain_of(data, 1))
        return seen[-1]

    monkeypatch.setattr(loading, "plain_of", taken)
    fast = read_dxf(path, path.name, lambda share, text: None)
    monkeypatch.setattr(loading, "plain_of", lambda data: None)
    return fast, read_dxf(path, path.name, lambda share, text: None), seen[0] if seen else None


def _rows(item: Item) -> list[tuple[int, str, Any, np.ndarray]]:
    """The strokes of an item: place in the drawing order, kind, what else tells them apart, numbers."""
    tags = item.tags
    if isinstance(item, Lines):
        numbers: list[Any] = list(item.points.reshape(-1, 4))
    elif isinstance(item, Ellipses):
        fields = (item.centre, item.major, item.minor, item.start[:, None], item.sweep[:, None])
        numbers = list(np.concatenate(fields, axis=1))
    elif isinstance(item, Beziers):
        numbers = list(item.points.reshape(-1, 8))
    elif isinstance(item, Polylines):
        ends = zip(item.first[:-1].tolist(), item.first[1:].tolist(), strict=True)
        numbers = [np.r_[item.points[a:b].ravel(), item.bulge[a:b], item.closed[n]] for n, (a, b) in enumerate(ends)]
    else:
        assert isinstance(item, Text)
        fields = (item.start, item.height[:, None], item.angle[:, None], item.length[:, None])  # type: ignore[assignment]
        assert item.stretch is not None
        assert item.slant is not None
        more = (item.stretch[:, None], item.slant[:, None])
        numbers = list(np.concatenate((*fields, *more), axis=1))
        assert item.order is not None
        return [
            (int(place), "text", (tags, item.face, item.ghost, text), row)
            for place, text, row in zip(item.order, item.texts, numbers, strict=True)
        ]
    assert item.order is not None
    return [(int(place), item.kind, tags, row) for place, row in zip(item.order, numbers, strict=True)]


def told(artwork: Artwork) -> list[Any]:
    """All that is drawn, in order: what covers by itself, strokes and texts between two of these sorted by their places."""
    found: list[Any] = []
    run: list[Any] = []
    for item in artwork:
        if isinstance(item, Areas | Raster):
            found += sorted(run, key=lambda row: row[:2])
            # areas one by one: how many are kept together says nothing
            found += [(0, item.kind, item.tags, box.ravel()) for box in item.bounds()]
            run = []
        else:
            run += _rows(item)
    return found + sorted(run, key=lambda row: row[:2])


def _rounded(drawing: Drawing) -> Any:
    """What is said of a drawing, but for the last figure of its boxes."""
    spaces = [
        space.model_copy(update={"box": space.box and tuple(round(v, 8) for v in space.box)}) for space in drawing.facts.spaces
    ]
    return drawing.facts.model_copy(update={"spaces": tuple(spaces)})


def alike(fast: Drawing, slow: Drawing) -> None:
    """The same drawing, entity for entity, and the same said of it."""
    assert _rounded(fast) == _rounded(slow)
    assert fast.spaces.keys() == slow.spaces.keys()
    for name, artwork in fast.spaces.items():
        one, other = told(artwork), told(slow.spaces[name])
        assert [row[1:3] for row in one] == [row[1:3] for row in other]
        for a, b in zip(one, other, strict=True):
            np.testing.assert_allclose(a[3], b[3], rtol=1e-11, atol=1e-9)


def some(space: Any, rng: random.Random, count: int, old: bool) -> None:
    """Entities of every kind there is a fast way for, mixed with others, in looks of every sort."""
    for _ in range(count):
        look: dict[str, Any] = {"layer": rng.choice(("0", "Walls", "off", "not listed", "Wände"))}
        if rng.random() < 0.4:
            look["color"] = rng.choice((0, 1, 7, 256, 30))
        if rng.random() < 0.3:
            look["linetype"] = rng.choice(("DASHED", "BYBLOCK", "CENTER"))
        if not old and rng.random() < 0.3:
            look["lineweight"] = rng.choice((13, 50, -1, -3, 0))
        if not old and rng.random() < 0.2:
            look["true_color"] = rng.randrange(1 << 24)
        if not old and rng.random() < 0.1:
            look["invisible"] = 1
        if rng.random() < 0.2:
            look["ltscale"] = 2.5
        if rng.random() < 0.1:
            look["extrusion"] = rng.choice(((0, 0, -1), (0, 0, 1), (0, 1, 0), (0.6, 0, 0.8)))
        x, y = rng.uniform(-500, 500), rng.uniform(-500, 500)
        near = [(x + rng.uniform(-60, 60), y + rng.uniform(-60, 60)) for _ in range(rng.choice((1, 2, 3, 7)))]
        match rng.randrange(14):
            case 0 | 1:
                space.add_line((x, y, rng.choice((0, 3))), near[0], look)
            case 2:
                space.add_circle((x, y), rng.choice((5, 0.01)), look)
            case 3:
                space.add_arc((x, y), 8, rng.choice((0, 350, -20)), rng.choice((0, 90, 710, 350)), dxfattribs=look)
            case 4:
                shape = [(*p, rng.choice((0, 0, 1, -0.3))) for p in near]
                made = space.add_lwpolyline(shape, "xyb", close=rng.random() < 0.5, dxfattribs=look) if not old else None
                if made is not None and rng.random() < 0.2:
                    made.dxf.const_width = 2
            case 5:
                space.add_polyline2d(near, dxfattribs=look)
            case 6 | 7:
                text = rng.choice(
                    ("Gauge 12", "%%c12 ±", "a^b", "\\U+00D8 7", " ", "øre", "%%uline%%u", "100%", "x\tz", "x" * 200)
                )
                put = space.add_text(
                    text, height=rng.choice((3, 0.0005, 250)), rotation=rng.choice((0, 30, -90)), dxfattribs=look
                )
                where = rng.choice((TextEntityAlignment.LEFT, TextEntityAlignment.LEFT, TextEntityAlignment.MIDDLE_CENTER))
                put.set_placement((x, y), align=where)
                put.dxf.width = rng.choice((1, 0.8))
                put.dxf.text_generation_flag = rng.choice((0, 0, 2))
                put.dxf.style = rng.choice(("Standard", "OpenSans", "none such"))
            case 8 if not old:
                around = [(x + rng.uniform(-60, 60), y + rng.uniform(-60, 60)) for _ in range(rng.choice((4, 5, 9)))]
                made = space.add_open_spline(around, degree=rng.choice((2, 3, 3)), dxfattribs=look)
                if rng.random() < 0.3:
                    made.weights = [1.0] * (len(around) - 1) + [2.0]
                elif rng.random() < 0.3 and len(made.knots) > 9:
                    knots = list(made.knots)
                    knots[5] = knots[4]
                    made.knots = knots
            case 9 if not old:
                space.add_hatch(color=3, dxfattribs={"layer": "Walls"}).paths.add_polyline_path(
                    [(x, y), (x + 9, y), (x, y + 9)]
                )
            case 10:
                space.add_blockref("peg", (x, y), look | {"rotation": 30})
            case 11:
                space.add_point((x, y), look)
            case 12 if not old:
                space.add_mtext("two\\Plines", look | {"insert": (x, y), "char_height": 4})
            case _:
                space.add_solid([(x, y), (x + 5, y), (x, y + 5)], look)


@pytest.mark.parametrize("version", VERSIONS)
@pytest.mark.parametrize("seed", range(3))
def test_every_stroke_is_what_the_library_makes_of_it(
    seed: int, version: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    rng = random.Random(f"{seed} {version}")

    def draw(doc: Any, space: Any) -> None:
        doc.layers.add("Walls", color=5, linetype="DASHED")
        doc.layers.add("Wände", color=3)
        doc.layers.add("off", color=2).off()
        peg = doc.blocks.new("peg")
        some(peg, rng, 6, True)
        some(space, rng, 200, version == "R12")
        if version != "R12":
            some(doc.layout("Layout1"), rng, 20, False)

    fast, slow, taken = both(dxf(tmp_path / "some.dxf", draw, version), monkeypatch)
    assert taken is not None
    assert taken.count > 20
    alike(fast, slow)


def test_the_workshops_rooms(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = tmp_path / "plan.dxf"
    write_workshop(str(path))
    fast, slow, taken = both(path, monkeypatch)
    assert taken is not None
    alike(fast, slow)


def _lines(path: Path, monkeypatch: pytest.MonkeyPatch, change: Any) -> tuple[Drawing, Drawing, Plain | None]:
    """Twelve lines and circles and a hatch between them, changed as text."""

    def draw(doc: Any, space: Any) -> None:
        for n in range(6):
            space.add_line((n, 0), (n, 10))
        space.add_hatch(color=3).paths.add_polyline_path([(0, 0), (9, 0), (0, 9)])
        for n in range(6):
            space.add_circle((n, 5), 2)

    data = dxf(path, draw).read_bytes()
    path.write_bytes(change(data))
    return both(path, monkeypatch)


CHANGES: dict[str, Any] = {
    "as it is": lambda data: data,
    "lines end as on other machines": lambda data: data.replace(b"\n", b"\r\n"),
    "codes without blanks": lambda data: re.sub(rb"(?m)^ +(\d+)$", rb"\1", data),
    "a remark": lambda data: data.replace(b"\nAcDbLine\n", b"\nAcDbLine\n999\nby hand\n", 1),
    "a width that is not known": lambda data: data.replace(b"\nAcDbLine\n", b"\nAcDbLine\n 39\n2.5\n", 2),
    "a code that is not known": lambda data: data.replace(b"\nAcDbCircle\n", b"\nAcDbCircle\n 94\n7\n", 2),
    "an x that stands twice": lambda data: data.replace(b"\nAcDbCircle\n", b"\nAcDbCircle\n 10\n7.0\n", 2),
    "on the page": lambda data: data.replace(b"\nAcDbEntity\n", b"\nAcDbEntity\n 67\n1\n", 1),
    "out of reach": lambda data: data.replace(b" 21\n10.0\n", b" 21\n1e300\n", 1),
    "further text": lambda data: data + b"0\nENTITIES\n",
}


@pytest.mark.parametrize("what", CHANGES)
def test_files_that_are_written_in_other_ways(what: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    fast, slow, taken = _lines(tmp_path / "lines.dxf", monkeypatch, CHANGES[what])
    assert (taken is None) == (what == "a remark")
    alike(fast, slow)


def test_a_number_that_is_none_is_the_librarys(tmp_path: Path) -> None:
    path = dxf(tmp_path / "one.dxf", lambda doc, space: [space.add_line((0, 0), (3, 4)) for _ in range(3)])  # type: ignore[arg-type]
    data = path.read_bytes()
    assert plain_of(data, 1) is not None
    assert plain_of(data.replace(b"\n 11\n3.0\n", b"\n 11\nthree\n"), 1) is None
    assert plain_of(data.replace(b"\n 11\n3.0\n", b"\n eleven\n3.0\n"), 1) is None
    assert plain_of(data.replace(b"ENTITIES", b"ENTITLES"), 1) is None
    assert plain_of(data[: data.index(b"ENDSEC", data.index(b"ENTITIES"))], 1) is None


def test_an_order_of_drawing_of_its_own_is_kept(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    def draw(doc: Any, space: Any) -> None:
        made = [space.add_line((n, 0), (n, 9)) for n in range(5)]
        space.set_redraw_order({entity.dxf.handle: f"{100 - n:X}" for n, entity in enumerate(made)})

    fast, slow, taken = both(dxf(tmp_path / "order.dxf", draw), monkeypatch)
    assert taken is None
    alike(fast, slow)
    found = [item for item in fast.spaces[""] if isinstance(item, Lines)]
    assert [row[0, 0] for item in found for row in item.points] == [4, 3, 2, 1, 0]


def test_what_is_drawn_later_stays_on_top(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """A hatch between two lines covers the one and is crossed by the other."""
    fast, _, _ = _lines(tmp_path / "lines.dxf", monkeypatch, CHANGES["as it is"])
    assert [item.kind for item in fast.spaces[""]] == ["lines", "areas", "ellipses"]


def test_strokes_before_a_block_on_a_frozen_layer_keep_their_own(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """A hatch within the block has what waits put down while the block's strokes are taken for the frozen layer's."""

    def draw(doc: Any, space: Any) -> None:
        doc.layers.add("Cold").freeze()
        block = doc.blocks.new("plate")
        block.add_line((0, 0), (5, 5))
        block.add_hatch(color=3).paths.add_polyline_path([(0, 0), (9, 0), (0, 9)])
        for n in range(4):
            space.add_line((n, 0), (n, 9))
        space.add_text("before", height=2)
        space.add_blockref("plate", (50, 50), {"layer": "Cold"})
        space.add_circle((3, 3), 2)

    fast, slow, taken = both(dxf(tmp_path / "frozen.dxf", draw), monkeypatch)
    assert taken is not None
    alike(fast, slow)
    assert {item.tags.layer for item in fast.spaces[""]} == {"0", "Cold"}


def test_few_strokes_are_left_where_they_are(tmp_path: Path) -> None:
    path = dxf(tmp_path / "few.dxf", lambda doc, space: [space.add_line((0, 0), (n, 4)) for n in range(20)])  # type: ignore[arg-type]
    assert plain_of(path.read_bytes()) is None
    assert plain_of(path.read_bytes(), 19) is not None
    assert plain_of(path.read_bytes(), 20) is None


def test_a_file_by_another_hand_is_read_by_the_library_too(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """ezdxf writes its own file without the strokes: what stays is still a DXF file by itself."""
    path = dxf(tmp_path / "one.dxf", lambda doc, space: [space.add_line((0, 0), (n, 4), {"color": n % 3}) for n in range(30)])  # type: ignore[arg-type]
    taken = plain_of(path.read_bytes(), 1)
    assert taken is not None
    assert taken.looks == 3
    (tmp_path / "rest.dxf").write_bytes(taken.rest)
    assert len(ezdxf.readfile(tmp_path / "rest.dxf").modelspace()) == 3
