"""Two pages over one another: what is on both, what only the earlier one has, what only the later."""

from __future__ import annotations

import io
from dataclasses import dataclass

import numpy as np
import pypdfium2 as pdfium
from numpy.typing import NDArray
from PIL import Image

BOTH = (60, 66, 70)
GONE = (196, 100, 0)
CAME = (18, 110, 200)
"""Tints of what is on both, what is gone, and what came: apart in lightness too, for eyes that do not tell colours apart."""

DPI = 120
_DARK = 40
"""How much darker than paper a pixel is, of 255, that counts as drawn."""


@dataclass(frozen=True)
class Compared:
    """The overlay as a PNG at :data:`DPI`, and the boxes, mm, of what is gone and what came, joined where they are near."""

    png: bytes
    gone: tuple[tuple[float, float, float, float], ...]
    came: tuple[tuple[float, float, float, float], ...]


def _ink(data: bytes, page: int, dpi: int) -> NDArray[np.bool_]:
    document = pdfium.PdfDocument(data)
    grey = np.asarray(document[page].render(scale=dpi / 72).to_pil().convert("L"))
    document.close()
    return grey < 255 - _DARK


def _near(mask: NDArray[np.bool_], other: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """What of a mask is more than a pixel from the other."""
    from scipy.ndimage import binary_dilation

    found: NDArray[np.bool_] = mask & ~binary_dilation(other, np.ones((3, 3), bool))
    return found


def _boxes(mask: NDArray[np.bool_], height: int, dpi: int) -> tuple[tuple[float, float, float, float], ...]:
    from scipy.ndimage import binary_dilation, find_objects, label

    step = 25.4 / dpi
    labels, _ = label(binary_dilation(mask, np.ones((5, 5), bool), iterations=4))
    found = []
    for rows, columns in find_objects(labels):
        found.append((columns.start * step, (height - rows.stop) * step, columns.stop * step, (height - rows.start) * step))
    return tuple(found[:200])


def compare(before: bytes, after: bytes, page_before: int = 0, page_after: int = 0, dpi: int = DPI) -> Compared:
    """Lay a page over an earlier one, lower left on lower left."""
    old, new = _ink(before, page_before, dpi), _ink(after, page_after, dpi)
    rows, columns = max(old.shape[0], new.shape[0]), max(old.shape[1], new.shape[1])

    def filled(ink: NDArray[np.bool_]) -> NDArray[np.bool_]:
        return np.pad(ink, ((rows - ink.shape[0], 0), (0, columns - ink.shape[1])))

    old, new = filled(old), filled(new)
    gone, came = _near(old, new), _near(new, old)
    picture = np.full((rows, columns, 3), 255, np.uint8)
    picture[old | new] = BOTH
    picture[gone] = GONE
    picture[came] = CAME
    out = io.BytesIO()
    Image.fromarray(picture, "RGB").save(out, "PNG", dpi=(dpi, dpi))
    return Compared(out.getvalue(), _boxes(gone, rows, dpi), _boxes(came, rows, dpi))
