"""Every kind of thing in an SVG file, as Chromium renders it (Blink and Skia, which had no part in reading it), against our PDF
as pdfium renders it.

The measure: of the pixels that either picture paints, the share whose colour is beyond what the other has within two pixels.
"""

from __future__ import annotations

import io
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from numpy.typing import NDArray
from PIL import Image
from playwright.sync_api import sync_playwright
from scipy import ndimage

from skalto.core import lettering
from tests.reference.svg_kinds import KINDS, document
from tests.reference.test_drawn_kinds import PER_MM, SIZE, rendered
from tests.web.conftest import FLAGS

pytestmark = pytest.mark.long

STRAY, NEAR = 0.02, 40
"""The share of painted pixels that may lie apart, and by how much a colour may differ."""
LOOSE = {
    # lengths along a curve are measured in pieces
    "text along a path": 0.1,
    # where a line under text stands, and how thick, is the program's own affair (CSS Text Decoration 3, 2.6)
    "underlined": 0.4,
}

Pixels = NDArray[np.uint8]


@pytest.fixture(scope="module")
def page() -> Iterator[Any]:
    with sync_playwright() as play:
        browser = play.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        faces = "".join(
            f"@font-face{{font-family:'{face.name.removesuffix(' Bold')}';font-weight:{700 if 'Bold' in face.name else 400};"
            f"src:url({face.path.as_uri()})}}"
            for face in lettering.FACES
            if face.name.startswith("Liberation")
        )
        made = browser.new_page(viewport={"width": SIZE * PER_MM, "height": SIZE * PER_MM})
        made.faces = faces  # type: ignore[attr-defined]
        yield made
        browser.close()


def _theirs(page: Any, body: str, tmp_path: Path) -> Pixels:
    sized = document(body).replace("width='100mm' height='100mm'", f"width='{SIZE * PER_MM}' height='{SIZE * PER_MM}'", 1)
    html = tmp_path / "a.html"
    html.write_text(
        f"<!doctype html><style>{page.faces} body{{margin:0}} text{{text-rendering:geometricPrecision}} "
        f"body>svg{{display:block}}</style>{sized}"
    )
    page.goto(html.as_uri())
    page.evaluate("document.fonts.ready")
    shot = page.screenshot()
    return np.array(Image.open(io.BytesIO(shot)).convert("RGB"), np.uint8)


def stray(ours: Pixels, theirs: Pixels) -> float:
    """The share of painted pixels whose colour the other picture has nowhere near."""
    apart = np.zeros(ours.shape[:2], bool)
    for one, other in ((ours, theirs), (theirs, ours)):
        low, high = ndimage.minimum_filter(other, (5, 5, 1)), ndimage.maximum_filter(other, (5, 5, 1))
        one, low, high = one.astype(int), low.astype(int), high.astype(int)
        apart |= ((one < low - NEAR) | (one > high + NEAR)).any(axis=2)
    painted = (ours.min(axis=2) < 250) | (theirs.min(axis=2) < 250)
    return float(apart.sum() / max(painted.sum(), 1))


@pytest.mark.parametrize("kind", KINDS)
def test_a_kind_looks_as_a_browser_shows_it(kind: str, page: Any, tmp_path: Path) -> None:
    path = tmp_path / "kind.svg"
    path.write_text(document(KINDS[kind]))
    share = stray(rendered(path), _theirs(page, KINDS[kind], tmp_path))
    assert share <= LOOSE.get(kind, STRAY), f"{share:.1%} of the picture lies apart"


def test_the_measure_sees_a_shift_of_a_millimetre(page: Any, tmp_path: Path) -> None:
    path = tmp_path / "kind.svg"
    path.write_text(document(f"<g transform='translate(1 0)'>{KINDS['shapes']}</g>"))
    assert stray(rendered(path), _theirs(page, KINDS["shapes"], tmp_path)) > 0.3
