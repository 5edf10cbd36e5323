"""Every kind of thing that a PDF page may paint, brought in and put out again, as poppler renders both: placed as it is, and as
strokes.

The measure: of the pixels that either picture paints, the share whose colour is beyond what the other has within two pixels.
"""

from __future__ import annotations

import io
import subprocess
from datetime import UTC, datetime
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from skalto.core.errors import InputError
from skalto.core.output.pdf.metadata import Metadata
from skalto.core.pages.page import SheetContext
from skalto.core.paper import FrameStyle
from skalto.core.recipes import PLAIN
from skalto.core.sheets.content import DrawingContent
from skalto.core.sheets.sheet import SheetSpec, ViewSpec
from skalto.core.sources.drawings.drawing import DrawingFacts
from skalto.core.sources.drawings.excerpt import Excerpt
from skalto.core.sources.reading import read_drawing
from skalto.services.results.drawings import facts_of_drawing
from skalto.services.results.writing import write_and_check
from tests.core.drawn import drawn_excerpt
from tests.reference.pdf_kinds import BEYOND_STROKES, KINDS, page
from tests.reference.test_svg_kinds import Pixels, stray

pytestmark = pytest.mark.long

SIZE, DPI = 100, 203.2
AS_IT_IS, IN_STROKES = 0.001, 0.02
BY_SHAPE = frozenset({"four inks"})
"""What four inks look like on a screen is each program's own affair, where no profile says it: where they lie is not."""


def poppler(path: Path) -> Pixels:
    """A page as poppler paints it, 8 pixels a mm."""
    shot = subprocess.run(["pdftoppm", "-r", str(DPI), "-png", str(path)], capture_output=True, check=True).stdout
    return np.array(Image.open(io.BytesIO(shot)).convert("RGB").resize((800, 800)), np.uint8)


def put_out(path: Path, strokes: bool) -> tuple[Path, DrawingFacts, dict[str, str]]:
    """The page on a sheet of its own size; what was told, and how the proof finds it, by check."""
    drawing = read_drawing(path, path.name)
    excerpt = Excerpt(region=(0, 0, SIZE, SIZE), strokes=strokes)
    middle = (SIZE / 2, SIZE / 2)
    view = ViewSpec(id="v", source="s", name="x", content=DrawingContent(excerpt=excerpt), anchor=middle, place=middle)
    sheet = SheetSpec(
        id="s", name="x", format=f"{SIZE}x{SIZE}mm", frame=FrameStyle.NONE, furniture=frozenset(), clean=True, views=(view,)
    )
    lines = {"v": drawn_excerpt(drawing, path, excerpt)}
    context = SheetContext(sources={"s": facts_of_drawing(drawing.facts)})
    metadata = Metadata("x", created=datetime(2026, 1, 1, tzinfo=UTC))
    made, checked = write_and_check([(sheet, context)], lines, metadata, lambda share, text: None, PLAIN)
    out = path.with_name("out.pdf")
    out.write_bytes(made.data)
    return (
        out,
        drawing.facts,
        {check.code: check.verdict for check in sorted(checked.checks, key=lambda own: own.verdict == "fails")},
    )


@pytest.fixture
def source(request: pytest.FixtureRequest, tmp_path: Path) -> Path:
    path = tmp_path / "in.pdf"
    path.write_bytes(page(request.param))
    return path


SHOWN = [kind for kind in KINDS if kind != "an axial shading"]
"""What paints nothing but a shading has no strokes to be found by."""


@pytest.mark.parametrize(("kind", "source"), [(k, k) for k in SHOWN], indirect=["source"])
def test_a_page_placed_as_it_is_looks_as_it_did(kind: str, source: Path) -> None:
    out, _, checks = put_out(source, strokes=False)
    assert checks["page-placed"] == "holds"
    share = stray(poppler(out), poppler(source))
    assert share <= AS_IT_IS, f"{share:.2%} of the picture lies apart"


@pytest.mark.parametrize(("kind", "source"), [(k, k) for k in SHOWN], indirect=["source"])
def test_strokes_look_as_the_page_did_or_what_they_lack_is_told(kind: str, source: Path) -> None:
    out, facts, checks = put_out(source, strokes=True)
    ours, theirs = poppler(out), poppler(source)
    if kind in BY_SHAPE:
        ours, theirs = (
            np.where(picture < 250, 0, 255).min(axis=2, keepdims=True).astype(np.uint8) for picture in (ours, theirs)
        )
    share = stray(ours, theirs)
    if kind in BEYOND_STROKES:
        told = bool(facts.lost) and checks["page-strokes"] == "mend"
        assert share <= IN_STROKES or told, f"{share:.1%} apart, and nothing is told"
        return
    assert share <= IN_STROKES, f"{share:.1%} of the picture lies apart"
    assert "fails" not in checks.values(), checks
    assert "holds" in (checks.get("strokes"), checks.get("areas"), checks.get("written"), checks.get("painted-pictures"))


@pytest.mark.parametrize("source", ["an axial shading"], indirect=True)
def test_a_page_of_a_shading_alone_is_refused_in_a_sentence(source: Path) -> None:
    with pytest.raises(InputError, match="shows nothing: pick another area"):
        put_out(source, strokes=False)


def test_the_measure_sees_another_colour(tmp_path: Path) -> None:
    path = tmp_path / "in.pdf"
    path.write_bytes(page("a circle"))
    a = poppler(path)
    assert stray(a, a) == 0
    assert stray(np.asarray(255 - (255 - a) // 2, np.uint8), a) > 0.5
