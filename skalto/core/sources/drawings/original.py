"""A page of a PDF alone, to be placed as it is: every operator kept (ISO 32000-1; clause numbers are its)."""

from __future__ import annotations

import io
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
import pikepdf
from pikepdf import Dictionary, Name, Pdf

from skalto.core.errors import InputError
from skalto.core.geometry import Array
from skalto.core.quantities import PT_PER_MM

MM = float(1 / PT_PER_MM)
NO_LAYER = "page"
"""What stands on no layer of its file is on this one."""


def page_alone(data: bytes, number: int) -> bytes:
    """Page *number*, from 0, of a PDF as a file of its own; what annotations show is part of its content. The same page gives
    the same bytes.

    :raises InputError: when the file or the page cannot be read.
    """
    try:
        with Pdf.open(io.BytesIO(data)) as source, Pdf.new() as made:
            made.pages.append(source.pages[number])
            page = made.pages[0]
            for key in ("/AA", "/PieceInfo", "/Thumb", "/B", "/StructParents", "/Metadata"):
                if key in page.obj:
                    del page.obj[key]
            if "/Annots" in page.obj:
                made.flatten_annotations("screen")
                if "/Annots" in page.obj:
                    del page.obj.Annots
            out = io.BytesIO()
            made.save(out, deterministic_id=True, linearize=False, object_stream_mode=pikepdf.ObjectStreamMode.disable)
            return out.getvalue()
    except (pikepdf.PdfError, IndexError, ValueError, TypeError, KeyError, AttributeError, RuntimeError):
        raise InputError("The page cannot be placed as it is: place its strokes instead.") from None


def content_of(page: pikepdf.Page) -> bytes:
    """All operators of a page: its streams as one (7.8.2)."""
    contents = page.obj.get("/Contents")
    if contents is None:
        return b""
    parts = list(contents.as_list()) if isinstance(contents, pikepdf.Array) else [contents]
    return b"\n".join(part.read_bytes() for part in parts)


@dataclass(frozen=True)
class Lying:
    """How a page lies: its media box, points, its rotation, degrees clockwise, and its UserUnit."""

    box: tuple[float, float, float, float]
    rotation: int
    unit: float

    def upright(self) -> Array:
        """From points of its content to upright points, from the lower left of the page as it is shown: (3, 2), rows for x, y
        and what is added (7.7.3.3)."""
        x0, y0, x1, y1 = self.box
        rows = {
            90: ((0, -1), (1, 0), (-y0, x1)),
            180: ((-1, 0), (0, -1), (x1, y1)),
            270: ((0, 1), (-1, 0), (y1, -x0)),
        }.get(self.rotation, ((1, 0), (0, 1), (-x0, -y0)))
        return np.array(rows, float)

    def to_mm(self) -> Array:
        """The same in mm."""
        return self.upright() * MM * self.unit


def lying(page: pikepdf.Page) -> Lying:
    """How a page lies."""
    box = [float(v) for v in page.mediabox.as_list()]
    x0, x1, y0, y1 = *sorted((box[0], box[2])), *sorted((box[1], box[3]))
    rotation = _inherited(page.obj, "/Rotate")
    return Lying((x0, y0, x1, y1), int(rotation or 0) % 360, float(page.obj.get("/UserUnit", 1)))


def _inherited(entry: pikepdf.Object, key: str) -> pikepdf.Object | None:
    for _ in range(64):
        if key in entry:
            return entry[key]
        if "/Parent" not in entry:
            return None
        entry = entry.Parent
    return None


def groups_in(resources: pikepdf.Object, depth: int = 0) -> Iterator[tuple[pikepdf.Object, str]]:
    """Where a page's resources refer to optional content (8.11): each place as a dictionary and its key. Forms and pictures are
    gone through, patterns too."""
    if depth > 12 or not isinstance(resources, Dictionary):
        return
    for name in list(resources.get("/Properties", {}).keys()):
        if _optional(resources.Properties[name]):
            yield resources.Properties, name
    for kind in ("/XObject", "/Pattern"):
        for name in list(resources.get(kind, {}).keys()):
            part = resources[kind][name]
            if isinstance(part, pikepdf.Stream):
                if "/OC" in part:
                    yield part, "/OC"
                if "/Resources" in part:
                    yield from groups_in(part.Resources, depth + 1)


def _optional(entry: pikepdf.Object) -> bool:
    return isinstance(entry, Dictionary) and entry.get("/Type") in (Name.OCG, Name.OCMD)


def layer_names(data: bytes) -> frozenset[str]:
    """The layers that a page's content refers to, and the one of all that refers to none."""
    with Pdf.open(io.BytesIO(data)) as pdf:
        found = {NO_LAYER}
        for place, key in groups_in(pdf.pages[0].resources):
            for group in members(place[key]):
                found.add(str(group.get("/Name", "")))
        return frozenset(found)


def members(entry: pikepdf.Object) -> list[pikepdf.Object]:
    """The layers of an optional content group, or of a membership of several (8.11.2.2)."""
    if entry.get("/Type") == Name.OCMD:
        groups = entry.get("/OCGs")
        if groups is None:
            return []
        return [group for group in (groups if isinstance(groups, pikepdf.Array) else [groups]) if isinstance(group, Dictionary)]
    return [entry]
