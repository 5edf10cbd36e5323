"""A view's lines as they lie in the store, and what its shaded picture is made by."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING

import numpy as np
import orjson

from skalto.core.artwork import Artwork
from skalto.core.lengths import ReferenceLength
from skalto.core.pages.page import ViewLines
from skalto.core.projection.cutting import CutFace
from skalto.core.sheet_metal.facts import PatternFacts
from skalto.core.sheets.content import DrawingContent, FlatContent
from skalto.core.sheets.sheet import ViewSpec

if TYPE_CHECKING:
    from skalto.core.projection.view import ShadeSpec


def pack_lines(lines: ViewLines) -> bytes:
    """A projected view as bytes: length of the JSON (4 bytes, big end first), reference lengths and cut faces, the artwork."""
    head = orjson.dumps(
        {
            "lengths": [length.model_dump() for length in lines.lengths],
            "flat": lines.flat.model_dump() if lines.flat else None,
            "faces": [[face.component, face.area, [ring.tolist() for ring in face.rings]] for face in lines.faces],
        }
    )
    head += b" " * (-(len(head) + 4) % 8)  # the numbers behind stand where a processor likes them
    return len(head).to_bytes(4, "big") + head + lines.artwork.to_bytes()


def unpack_lines(data: bytes) -> ViewLines:
    """What :func:`pack_lines` wrote."""
    size = int.from_bytes(data[:4], "big")
    head = orjson.loads(data[4 : 4 + size])
    lengths = tuple(ReferenceLength.model_validate(row) for row in head["lengths"])
    faces = tuple(
        CutFace(component, area, tuple(np.array(ring, float).reshape(-1, 2) for ring in rings))
        for component, area, rings in head["faces"]
    )
    flat = PatternFacts.model_validate(head["flat"]) if head.get("flat") else None
    return ViewLines(Artwork.from_bytes(data[4 + size :]), lengths, faces, flat=flat)


def shade_spec(view: ViewSpec, colours: Mapping[str, str]) -> ShadeSpec:
    """What decides a view's shaded picture, at its resolution on paper."""
    from skalto.core.projection.view import ProjectionSpec, ShadeSpec

    whole, spec = view.whole, view.lines()
    assert not isinstance(whole, DrawingContent | FlatContent), "a drawing is not shaded"
    assert isinstance(spec, ProjectionSpec), "a drawing is not shaded"
    dots = round(whole.shade_dpi / 25.4 * float(view.scale), 6)
    return ShadeSpec(view=spec, dots=dots, colours=dict(colours))
