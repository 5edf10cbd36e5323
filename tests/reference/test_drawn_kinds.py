"""Every kind of entity, as ezdxf's own drawing add-on renders it with matplotlib, against our PDF as pdfium renders it.

The measure: of the ink of either picture, the share that has no ink of the other within two pixels, at 8 pixels a
millimetre. Text is set in the same face in both.
"""

from __future__ import annotations

import io
from datetime import UTC, datetime
from pathlib import Path

import ezdxf
import matplotlib
import numpy as np
import pypdfium2 as pdfium
import pytest
from ezdxf.addons.drawing import Frontend, RenderContext
from ezdxf.addons.drawing.config import BackgroundPolicy, Configuration
from ezdxf.addons.drawing.matplotlib import MatplotlibBackend
from numpy.typing import NDArray
from PIL import Image
from scipy import ndimage

from skalto.core import lettering
from skalto.core.output.pdf.document import write_pdf
from skalto.core.output.pdf.metadata import Metadata
from skalto.core.pages.composition import compose
from skalto.core.paper import FrameStyle
from skalto.core.sheets.content import DrawingContent
from skalto.core.sheets.sheet import SheetSpec, ViewSpec
from skalto.core.sources.drawings.excerpt import Excerpt
from skalto.core.sources.reading import read_drawing
from skalto.services.results.drawings import excerpt_lines
from tests.reference.drawn_kinds import KINDS, build

SIZE, PER_MM = 100, 8
STRAY = 0.02
"""The share of ink that may lie apart."""

Ink = NDArray[np.bool_]


def rendered(path: Path) -> NDArray[np.uint8]:
    drawing = read_drawing(path, path.name)
    excerpt = Excerpt(region=(0, 0, SIZE, SIZE))
    view = ViewSpec(
        id="v",
        source="s",
        name="x",
        content=DrawingContent(excerpt=excerpt),
        anchor=(SIZE / 2, SIZE / 2),
        place=(SIZE / 2, SIZE / 2),
    )
    sheet = SheetSpec(
        id="s", name="x", format=f"{SIZE}x{SIZE}mm", frame=FrameStyle.NONE, furniture=frozenset(), clean=True, views=(view,)
    )
    lines = {"v": excerpt_lines(drawing.spaces[""], excerpt)}
    data = write_pdf([compose(sheet, lines)], Metadata("x", created=datetime(2026, 1, 1, tzinfo=UTC)))
    picture = pdfium.PdfDocument(data)[0].render(scale=PER_MM * 25.4 / 72).to_pil().convert("RGB")
    return np.array(picture.resize((SIZE * PER_MM, SIZE * PER_MM)), np.uint8)


def _theirs(path: Path) -> NDArray[np.uint8]:
    matplotlib.use("Agg")
    from ezdxf.fonts import fonts
    from matplotlib import pyplot

    fonts.font_manager.clear()
    fonts.font_manager.build([str(lettering.FOLDER)], support_dirs=False)
    doc = ezdxf.readfile(path)
    figure = pyplot.figure(figsize=(SIZE / 25.4, SIZE / 25.4), dpi=PER_MM * 25.4)
    axes = figure.add_axes((0, 0, 1, 1))
    context = RenderContext(doc)
    context.document_dir = path.parent
    # matplotlib's line widths are points
    config = Configuration(
        background_policy=BackgroundPolicy.WHITE, infinite_line_length=1e4, lineweight_scaling=72 / 25.4, min_lineweight=0.01
    )
    out = MatplotlibBackend(axes, adjust_figure=False)
    Frontend(context, out, config=config).draw_layout(doc.modelspace(), finalize=True)
    axes.set_xlim(0, SIZE)
    axes.set_ylim(0, SIZE)
    axes.set_aspect("auto")
    axes.axis("off")
    buffer = io.BytesIO()
    figure.savefig(buffer, dpi=PER_MM * 25.4, facecolor="white")
    pyplot.close(figure)
    return np.array(Image.open(buffer).convert("RGB").resize((SIZE * PER_MM, SIZE * PER_MM)), np.uint8)


def _ink(picture: NDArray[np.uint8]) -> Ink:
    return np.asarray(picture.min(axis=2) < 160)


def stray(a: Ink, b: Ink) -> float:
    """The share of the ink of *a* that has none of *b* within two pixels."""
    near = ndimage.binary_dilation(b, iterations=2)
    return float((a & ~near).sum() / max(a.sum(), 1))


@pytest.mark.parametrize("kind", KINDS)
def test_a_kind_is_drawn_as_the_reference_draws_it(kind: str, tmp_path: Path) -> None:
    path = build(kind, tmp_path)
    ours, theirs = rendered(path), _theirs(path)
    a, b = _ink(ours), _ink(theirs)
    assert b.sum() > 300, "the reference draws something"
    assert stray(a, b) <= STRAY
    assert stray(b, a) <= STRAY


def test_the_measure_sees_what_is_missing(tmp_path: Path) -> None:
    path = build("circles, arcs, ellipses", tmp_path)
    a = _ink(rendered(path))
    b = a.copy()
    b[:, 400:] = False
    assert stray(b, a) == 0
    assert stray(a, b) > 0.3
