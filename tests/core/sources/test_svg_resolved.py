"""SVG files as they are resolved: letters found again, arcs found again, what a file may not do, what is told."""

from __future__ import annotations

import math
import os
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from skalto.core.artwork import Artwork
from skalto.core.errors import InputError
from skalto.core.lettering import length
from skalto.core.sources.drawings.drawing import Drawing
from skalto.core.sources.drawings.svg import sandbox
from skalto.core.sources.drawings.svg.round import Arc, arc_of, joined
from skalto.core.sources.reading import read_drawing
from tests.core.drawn import of_kind

HEAD = "<svg xmlns='http://www.w3.org/2000/svg' xmlns:xlink='http://www.w3.org/1999/xlink' {}>"
PAGE = "width='100mm' height='100mm' viewBox='0 0 100 100'"


def read(tmp_path: Path, body: str, page: str = PAGE, before: str = "") -> Drawing:
    path = tmp_path / "a.svg"
    path.write_text(before + HEAD.format(page) + body + "</svg>")
    return read_drawing(path, path.name)


def texts(artwork: Artwork) -> list[str]:
    return [text for item in of_kind(artwork, "text") for text in item.texts]


def test_letters_stay_letters_in_the_order_in_which_they_are_read(tmp_path: Path) -> None:
    written = ["Welle \u00d812 \u4f60\u597d", "\u0633\u0644\u0627\u0645 \u0642\u0637\u0631"]
    body = "".join(f"<text x='5' y='{20 + 40 * n}' font-size='8'>{text}</text>" for n, text in enumerate(written))
    assert texts(read(tmp_path, body).spaces[""]) == written


def test_stretches_of_either_direction_stand_where_they_belong(tmp_path: Path) -> None:
    drawing = read(tmp_path, "<text x='5' y='20' font-size='8'>No \u0633\u0644\u0627\u0645 x</text>")
    found = {
        t.strip(): float(x)
        for item in of_kind(drawing.spaces[""], "text")
        for t, (x, _) in zip(item.texts, item.start, strict=True)
    }
    assert set(found) == {"No", "\u0633\u0644\u0627\u0645", "x"}
    assert found["No"] < found["\u0633\u0644\u0627\u0645"] < found["x"]


def test_a_line_of_text_is_as_long_as_its_face_sets_it_and_pairs_stand_close(tmp_path: Path) -> None:
    (item,) = of_kind(
        read(tmp_path, "<text x='5' y='20' font-size='10' font-family='Liberation Sans'>AVATo</text>").spaces[""], "text"
    )
    capital = 10 * 1409 / 2048
    assert item.length[0] == pytest.approx(length("AVATo", capital, 2), rel=1e-6)
    assert item.length[0] < sum(length(c, capital, 2) for c in "AVATo") - 1


def test_a_font_that_does_not_ship_is_told_and_bold_and_italic_are_drawn_so(tmp_path: Path) -> None:
    body = (
        "<g font-family='Some Serif, serif' font-size='9'><text y='20' font-weight='bold'>heavy</text>"
        "<text y='50' font-style='italic'>leaning</text></g>"
    )
    drawing = read(tmp_path, body)
    assert {font.asked: font.used for font in drawing.facts.fonts} == {
        "Some Serif bold": "Liberation Serif Bold",
        "Some Serif italic": "Liberation Serif, leaning",
    }
    lean = {item.texts[0]: float(np.degrees(item.slant[0])) for item in of_kind(drawing.spaces[""], "text")}
    assert lean["heavy"] == pytest.approx(0, abs=1e-6)
    assert lean["leaning"] == pytest.approx(12, abs=0.01)


def test_arcs_and_circles_come_back_as_such_under_any_even_matrix(tmp_path: Path) -> None:
    body = (
        "<g transform='translate(50 50) rotate(33) scale(2)' fill='none' stroke='#000'><circle r='7.25'/>"
        "<path d='M0 0L10 0A10 10 0 0 1 0 10A10 10 0 0 1 -10 0'/><g transform='scale(2 1)'><circle r='5'/></g></g>"
    )
    items = of_kind(read(tmp_path, body).spaces[""], "ellipses")
    rows = [(*item.radii()[n], item.sweep[n]) for item in items for n in range(len(item))]
    assert rows[0] == pytest.approx((14.5, 14.5, math.tau), abs=1e-7)
    assert rows[1] == pytest.approx((20, 20, math.pi), abs=1e-7)
    assert rows[2] == pytest.approx((20, 10, math.tau), abs=1e-7)


@given(
    st.floats(0.01, 80), st.floats(-3, 3), st.floats(0.2, 1.55), st.floats(-500, 500), st.floats(-500, 500), st.booleans()
)  # fmt: skip
@settings(max_examples=200, deadline=None)
def test_the_bezier_of_a_circular_arc_gives_the_arc(
    radius: float, start: float, sweep: float, x: float, y: float, back: bool
) -> None:
    drawn = Arc((x, y), (radius, 0.0), (0.0, -radius if back else radius), start, sweep)
    arm = 4 / 3 * math.tan(sweep / 4)
    a, b = drawn.at(start), drawn.at(start + sweep)
    side = -1 if back else 1
    p1 = a[0] - arm * radius * math.sin(start), a[1] + side * arm * radius * math.cos(start)
    p2 = b[0] + arm * radius * math.sin(start + sweep), b[1] - side * arm * radius * math.cos(start + sweep)
    found = arc_of((a, p1, p2, b))
    assert found is not None
    assert math.dist(found.centre, (x, y)) < 1e-5 * max(radius, 1)
    assert found.sweep == pytest.approx(sweep, abs=1e-5)
    # and finer Béziers of it lie on it
    for cubic in joined([(a, p1, p2, b)])[0].cubics():  # type: ignore[union-attr]
        assert math.dist(cubic[3], (x, y)) == pytest.approx(radius, rel=1e-4)


def test_a_curve_that_is_no_arc_stays_a_curve() -> None:
    for curve in (((0, 0), (1, 2), (3, 2), (4, 1)), ((0, 0), (0, 3), (4, 3), (4, 0)), ((0, 0), (1, 0), (2, 0), (3, 0))):
        assert not any(isinstance(piece, Arc) for piece in joined([curve]))  # type: ignore[list-item]


@pytest.mark.parametrize(
    ("body", "told"),
    [
        ("<image xlink:href='/etc/passwd' width='9' height='9'/>", "1 × picture in a file of its own"),
        ("<use xlink:href='/etc/passwd#a'/>", "1 × part in a file of its own"),
        ("<foreignObject width='9' height='9'><p/></foreignObject>", "1 × embedded web page"),
        ("<defs><mask id='m'><path d='M0 0H9V9'/></mask></defs><g mask='url(#m)'><rect width='9' height='9'/></g>", "1 × mask"),
        ("<defs><filter id='f'><feOffset dx='3'/></filter></defs><rect filter='url(#f)' width='9' height='9'/>", "1 × filter"),
        ("<rect style='mix-blend-mode:multiply' width='9' height='9'/>", "1 × way of blending"),
        ("<rect display='none' width='9' height='9'/>", "1 × hidden element"),
        (
            "<defs><linearGradient id='g'><stop stop-color='red'/><stop offset='1'/></linearGradient></defs><path d='M0 0H9V9' "
            "stroke='url(#g)'/>",
            "1 × stroke",
        ),
        ("<g transform='scale(4 1)'><circle cx='5' cy='5' r='3' stroke='#000'/></g>", "1 × curved stroke of uneven width"),
    ],
)  # fmt: skip
def test_what_cannot_come_along_is_told(body: str, told: str, tmp_path: Path) -> None:
    drawing = read(tmp_path, body + "<rect width='50' height='50'/>")
    assert any(told in line for line in drawing.facts.lost), drawing.facts.lost


def test_names_for_texts_as_old_exporters_have_them_are_written_out(tmp_path: Path) -> None:
    before = '<!DOCTYPE svg [\n<!ENTITY red "fill:#cc0000">\n]>'
    (item,) = of_kind(read(tmp_path, "<rect width='9' height='9' style='&red;'/>", before=before).spaces[""], "areas")
    assert item.tags.colour == (204, 0, 0)


def test_what_repeats_itself_without_end_is_refused_in_time(tmp_path: Path) -> None:
    repeated = "".join(f"<g id='a{n + 1}'>" + f"<use xlink:href='#a{n}'/>" * 10 + "</g>" for n in range(9))
    with pytest.raises(InputError, match="repeats itself"):
        read(tmp_path, f"<defs><path id='a0' d='M0 0L1 1V9'/>{repeated}</defs><use xlink:href='#a9'/>")


def test_a_thousand_groups_in_one_another_are_refused_in_a_sentence(tmp_path: Path) -> None:
    with pytest.raises(InputError, match="ungroup"):
        read(tmp_path, "<g>" * 1000 + "<path d='M0 0L1 1V9'/>" + "</g>" * 1000)


def test_the_normaliser_sees_its_own_folder_alone(tmp_path: Path) -> None:
    secret = tmp_path / "secret.svg"
    secret.write_text(HEAD.format(PAGE) + "<rect width='9' height='9'/></svg>")
    with pytest.raises(sandbox.SandboxError):
        sandbox.run("usvg", [os.fspath(secret), "/w/out.svg"], {"in.svg": secret.read_bytes()}, "out.svg")


@pytest.mark.parametrize(
    ("page", "size"),
    [
        ("width='100mm' height='50mm' viewBox='0 0 200 200'", 25),
        ("width='100mm' height='50mm' viewBox='0 0 200 200' preserveAspectRatio='xMidYMid slice'", 50),
        ("width='10in' viewBox='0 0 1000 500'", 25.4),
        ("width='96' height='96'", None),
        ("width='25.4mm' height='25.4mm'", 100 * 25.4 / 96),
    ],
)
def test_the_unit_of_the_root(page: str, size: float | None, tmp_path: Path) -> None:
    drawing = read(tmp_path, "<rect width='100' height='100'/>", page)
    box = drawing.spaces[""].bounds()
    assert box is not None
    assert drawing.facts.unit_mm == (None if size is None else 1.0)
    assert box[2] - box[0] == pytest.approx(size or 100, rel=1e-9)


def test_a_root_that_stretches_does_so_in_each_direction(tmp_path: Path) -> None:
    drawing = read(
        tmp_path, "<rect width='10' height='10'/>", "width='100mm' height='50mm' viewBox='0 0 10 10' preserveAspectRatio='none'"
    )
    assert drawing.spaces[""].bounds() == pytest.approx((0, 0, 100, 50))
