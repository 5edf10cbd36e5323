"""The pictures of an SVG file against those that were asked for: where each lies, and every dot of it."""

from __future__ import annotations

import base64
import binascii
import io
from collections.abc import Sequence

import numpy as np
from PIL import Image, UnidentifiedImageError

from skalto.core.checks.strokes import AskedPicture
from skalto.core.checks.verdict import Check
from skalto.core.output.pdf.ink import Ink
from skalto.core.recipes import ColourMode

PLACE = 2e-3
"""What a picture's corners may be off, mm."""
_BEGINS = "data:image/png;base64,"


def svg_picture_checks(data: bytes, height: float, asked: Sequence[AskedPicture], colour: ColourMode) -> list[Check]:
    """Each picture lies where it was asked for, and shows what was; nothing where there are none.

    :param height: of the sheet, mm, from whose top the file counts.
    """
    from defusedxml.ElementTree import fromstring

    drawn = list(fromstring(data).iter("{http://www.w3.org/2000/svg}image"))
    if len(drawn) != len(asked):
        return [_check("fails", f"{len(drawn)} for the {len(asked)} that were asked for")]
    for own, wanted in zip(drawn, asked, strict=True):
        item = wanted.item
        text = own.attrib.get("transform", "").strip().removeprefix("matrix(").removesuffix(")").replace(",", " ")
        matrix = np.array([float(value) for value in text.split()])
        (a, b), (c, d), (x, y) = item.across.tolist(), item.upward.tolist(), (item.corner + item.upward).tolist()
        there = np.array((a, -b, -c, d, x, height - y))
        x0, y0, x1, y1 = (float(v) for v in item.bounds()[0].ravel())
        off = float(np.abs(matrix - there).max()) if matrix.shape == there.shape else float("inf")
        if off > PLACE:
            return [_check("fails", f"a picture is {off:.3f} mm off", (x0, y0, x1, y1))]
        try:
            found = np.asarray(
                Image.open(io.BytesIO(base64.b64decode(own.attrib.get("href", "")[len(_BEGINS) :]))).convert("RGBA")
            )
        except (UnidentifiedImageError, binascii.Error, OSError, SyntaxError):
            return [_check("fails", "a picture cannot be read", (x0, y0, x1, y1))]
        pixels = np.dstack((np.asarray(Ink(colour).pixels(item.pixels[..., :3]).convert("RGB")), item.pixels[..., 3]))
        if found.shape != pixels.shape or not np.array_equal(found, pixels):
            return [_check("fails", "a picture shows something else", (x0, y0, x1, y1))]
    if not drawn:
        return []
    return [_check("holds", f"{len(drawn)}, each where it was asked for, dot by dot")]


def _check(verdict: str, reading: str, place: tuple[float, float, float, float] | None = None) -> Check:
    facts = {"code": "painted-pictures", "title": "What pictures show", "verdict": verdict, "reading": reading}
    return Check.model_validate(facts | {"page": 1, "place": place})
