"""3D annotations of a finished PDF: read with pdfminer.six and our own U3D reader, and held against the model."""

from __future__ import annotations

import io
import zlib
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from pdfminer.pdfdocument import PDFDocument
from pdfminer.pdfpage import PDFPage
from pdfminer.pdfparser import PDFParser
from pdfminer.pdftypes import PDFStream

from skalto.core.checks.verdict import Check, Place, Verdict
from skalto.core.errors import InputError
from skalto.core.output.u3d.reader import read_u3d
from skalto.core.pdf_dictionaries import resolved, text_of
from skalto.core.quantities import MM_PER_INCH, PT_PER_MM
from skalto.core.scene.poster import corners_of
from skalto.core.scene.scene import Node, Scene
from skalto.core.scene.solid import CutPlane, NodeFact, SolidFacts, ViewFact
from skalto.core.scene.views import Camera, camera_from, in_picture
from skalto.core.sources.models.model import laid_on, picture_name

SINGLE = 3e-6
"""Relative: what a coordinate may be off by, since U3D has single precision; of the model's size."""
MOST_BYTES = 1_000_000_000
"""Bytes of U3D that are unpacked from a file."""
PRINT, HIDDEN = 4, 2
"""Annotation flags (12.5.3)."""


@dataclass(frozen=True)
class FoundView:
    """A prepared view as the file has it; *states* are nodes by name with their opacity, None for those that are hidden;
    *drawn* those that have a render mode of their own."""

    name: str
    id: str
    camera: Camera
    background: str
    lighting: str
    mode: str
    states: dict[str, float | None]
    drawn: dict[str, str]
    cuts: tuple[CutPlane, ...]
    unit: str


@dataclass(frozen=True, eq=False)
class FoundSolid:
    """A 3D annotation as the file has it: page from 1, rectangle in mm, flags, how it opens, the model's bytes, its views,
    which of them is first, the poster's pixels (0, 0 without one), and what the file says it can be judged by."""

    page: int
    box: Place
    flags: int
    opening: dict[str, str]
    words: str
    u3d: bytes
    views: tuple[FoundView, ...]
    first: int
    poster: tuple[int, int]
    facts: SolidFacts | None
    turned: bool = False
    """Whether its page lies on its side."""

    @property
    def shown(self) -> tuple[float, float]:
        """Width and height as a reader shows it, mm."""
        x0, y0, x1, y1 = self.box
        return (y1 - y0, x1 - x0) if self.turned else (x1 - x0, y1 - y0)


def _numbers(value: Any) -> list[float]:
    return [float(resolved(v)) for v in resolved(value) or []]


def _hex(values: Sequence[float]) -> str:
    return "#" + "".join(f"{round(min(max(v, 0.0), 1.0) * 255):02x}" for v in values)


def _cuts(entry: Any) -> tuple[CutPlane, ...]:
    return tuple(_cut(resolved(row)) for row in resolved(entry.get("SA")) or [])


def _cut(plane: Any) -> CutPlane:
    x, y, z = _numbers(plane.get("C")) or (0.0, 0.0, 0.0)
    turns = [None if resolved(v) is None else float(resolved(v)) for v in resolved(plane.get("O")) or [None, 0, 0]]
    return CutPlane((x, y, z), (turns[0], turns[1], turns[2]), bool(resolved(plane.get("SC"))), bool(resolved(plane.get("ST"))))


def _view(entry: Any) -> FoundView:
    entry = resolved(entry)
    projection = resolved(entry.get("P")) or {}
    perspective = text_of(projection.get("Subtype")) == "P"
    span = float(resolved(projection.get("FOV"))) if perspective else 1 / float(resolved(projection.get("OS")))
    camera = camera_from(_numbers(entry.get("C2W")), float(resolved(entry.get("CO"))), perspective, span)
    states: dict[str, float | None] = {}
    drawn: dict[str, str] = {}
    for row in resolved(entry.get("NA")) or []:
        node = resolved(row)
        name = text_of(node.get("N"))
        if "RM" in node:
            drawn[name] = text_of((resolved(node.get("RM")) or {}).get("Subtype"))
        if "RM" in node and "V" not in node and "O" not in node:
            continue  # nothing else is said of it
        visible = resolved(node.get("V"))
        opacity = resolved(node.get("O"))
        states[name] = None if visible is False else float(opacity if opacity is not None else 1.0)
    background = resolved(entry.get("BG")) or {}
    units = resolved(entry.get("Units")) or {}
    return FoundView(
        text_of(entry.get("XN")), text_of(entry.get("IN")), camera, _hex(_numbers(background.get("C")) or [1, 1, 1]),
        text_of((resolved(entry.get("LS")) or {}).get("Subtype")), text_of((resolved(entry.get("RM")) or {}).get("Subtype")),
        states, drawn, _cuts(entry), text_of(units.get("DU")) or "mm",
    )  # fmt: skip


def _poster(annotation: Any) -> tuple[int, int]:
    appearance = resolved((resolved(annotation.get("AP")) or {}).get("N"))
    if not isinstance(appearance, PDFStream):
        return 0, 0
    pictures = resolved((resolved(appearance.attrs.get("Resources")) or {}).get("XObject")) or {}
    for entry in pictures.values():
        picture = resolved(entry)
        if (
            isinstance(picture, PDFStream)
            and text_of(picture.attrs.get("Subtype")) == "Image"
            and b"Do" in appearance.get_data()
        ):
            return int(resolved(picture.attrs["Width"])), int(resolved(picture.attrs["Height"]))
    return 0, 0


def _facts(page: PDFPage) -> list[SolidFacts]:
    piece = resolved((resolved(page.attrs.get("PieceInfo")) or {}).get("Skalto")) or {}
    private = resolved(piece.get("Private")) or {}
    try:
        return [SolidFacts.model_validate_json(resolved(row).get_data()) for row in resolved(private.get("Solids")) or []]
    except (ValueError, AttributeError, TypeError, zlib.error):
        told = "What the 3D of this file is measured by is damaged: write it again."
        raise InputError(told) from None


def read_solids(pages: Sequence[PDFPage]) -> list[FoundSolid]:
    """The 3D annotations of a file that has been opened. :raises InputError: for one that is damaged."""
    found = []
    for number, page in enumerate(pages, 1):
        unit = float(resolved(page.attrs.get("UserUnit")) or 1.0) / float(PT_PER_MM)
        facts = _facts(page)
        for entry in resolved(page.annots) or []:
            annotation = resolved(entry)
            if not isinstance(annotation, dict) or text_of(annotation.get("Subtype")) != "3D":
                continue
            try:
                solid = _solid(annotation, number, unit)
            except (KeyError, TypeError, ValueError, ZeroDivisionError, IndexError, AttributeError, zlib.error):
                raise InputError(f"A 3D annotation on page {number} is damaged: write it again.") from None
            own = next((f for f in facts if _near(f.box, solid.box)), None)
            found.append(replace(solid, facts=own, turned=int(page.rotate or 0) % 180 == 90))
    return found


def fields_of_pdf(data: bytes, password: str = "") -> list[FoundSolid]:
    """The 3D annotations of a PDF file. :raises InputError: for one that cannot be opened, and for a damaged field."""
    try:
        document = PDFDocument(PDFParser(io.BytesIO(data)), password=password)
        pages = list(PDFPage.create_pages(document))
    except Exception:
        raise InputError("The file is not a PDF, or is damaged: no 3D can be read from it.") from None
    return read_solids(pages)


def _near(one: Sequence[float], other: Sequence[float]) -> bool:
    return bool(np.abs(np.subtract(one, other)).max() < 0.01)


def _model(stream: PDFStream) -> bytes:
    """A stream's data, unpacked no further than :data:`MOST_BYTES`. :raises InputError: for more."""
    plain = [str(text_of(name)) for name, _ in stream.get_filters()] == ["FlateDecode"] and stream.decipher is None
    if stream.rawdata is None or not plain:
        data: bytes = stream.get_data()
        return data
    opener = zlib.decompressobj()
    data = opener.decompress(stream.rawdata, MOST_BYTES)
    if opener.unconsumed_tail:
        raise InputError(f"A 3D annotation holds more than {MOST_BYTES // 10**6} MB: it is damaged, or meant to do harm.")
    return data


def _solid(annotation: Any, number: int, unit: float) -> FoundSolid:
    stream = resolved(annotation["3DD"])
    if text_of(stream.attrs.get("Subtype")) != "U3D":
        raise InputError(f"The 3D annotation on page {number} holds no U3D: Skalto reads no other kind.")
    activation = resolved(annotation.get("3DA")) or {}
    opening = {key: text_of(activation[key]) for key in ("A", "D") if key in activation}
    opening |= {key: "yes" if resolved(activation.get(key)) else "no" for key in ("TB", "NP")}
    x0, y0, x1, y1 = (v * unit for v in _numbers(annotation["Rect"]))
    first = resolved(annotation.get("3DV"))
    return FoundSolid(
        number, (x0, y0, x1, y1), int(resolved(annotation.get("F")) or 0), opening, text_of(annotation.get("Contents")),
        _model(stream), tuple(_view(view) for view in resolved(stream.attrs.get("VA")) or []),
        first if isinstance(first, int) else 0, _poster(annotation), None,
    )  # fmt: skip


def _pair(count: int, what: str) -> str:
    return f"{count} {what}" if count == 1 else f"{count} {what}s"


class _Judge:
    """Holds one field against its facts; gathers checks."""

    def __init__(self, solid: FoundSolid, scene: Scene) -> None:
        self.solid, self.scene = solid, scene
        self.facts = solid.facts
        self.checks: list[Check] = []
        self.tolerance = 0.0
        box = scene.box()
        if box is not None:
            reach = float(np.linalg.norm(box[1] - box[0])) + float(np.abs(np.concatenate(box)).max())
            self.tolerance = SINGLE * reach

    def tell(self, code: str, title: str, verdict: Verdict, reading: str, limit: str = "") -> None:
        name = f"{self.facts.name if self.facts else '3D'}, {title}"
        self.checks.append(
            Check(
                code=f"solid-{code}", title=name, verdict=verdict, reading=reading, limit=limit, page=self.solid.page,
                place=self.solid.box,
            )
        )  # fmt: skip

    def nodes(self, facts: SolidFacts) -> None:
        """Names and counts equal the model's."""
        wanted, here = Counter(n.name for n in facts.nodes), Counter(n.name for n in self.scene.nodes)
        here -= Counter(facts.groups)
        lost, strange = list((wanted - here).elements()), list((here - wanted).elements())
        parts = sum(1 for n in facts.nodes if n.low is not None)
        if lost or strange:
            told = [f"lacks {', '.join(lost[:3])}"] * bool(lost) + [f"has {', '.join(strange[:3])} too many"] * bool(strange)
            self.tell("nodes", "components", "fails", " and ".join(told), f"{len(wanted)} nodes")
        else:
            self.tell("nodes", "components", "holds", f"{_pair(parts, 'part')}, all names as in the model")

    def places(self, facts: SolidFacts) -> None:
        """Each component's placement, and its box in its own axes, equal the model's within the tolerance."""
        worlds = self.scene.worlds()
        nodes = {node.name: node for node in self.scene.nodes}
        turn, box, where = 0.0, 0.0, ""
        reach = self.tolerance
        for fact in facts.nodes:
            node = nodes.get(fact.name)
            if node is None:
                continue
            turn = max(turn, float(np.abs(worlds[fact.name] - np.reshape(fact.placement, (4, 4))).max()))
            off = self._box_off(fact, node.meshes)
            if off > box:
                box, where = off, fact.name
        limit = facts.chord + reach
        holds: Verdict = "holds" if turn <= max(reach, 1e-5) else "fails"
        self.tell("placement", "placements", holds, f"off by {turn * 1000:.2f} µm at most", f"{max(reach, 1e-5) * 1000:.1f} µm")
        reading = f"off by {box:.4f} mm at most" + (f", {where}" if where and box > limit else "")
        self.tell("box", "boxes of parts", "holds" if box <= limit else "fails", reading, f"{limit:.4f} mm")

    def _box_off(self, fact: NodeFact, meshes: tuple[int, ...]) -> float:
        if fact.low is None or fact.high is None:
            return 0.0
        if not meshes:
            return float("inf")
        points = np.concatenate([self.scene.meshes[m].positions for m in meshes])
        low, high = points.min(axis=0), points.max(axis=0)
        return float(max(np.abs(low - fact.low).max(), np.abs(high - fact.high).max()))

    def volume(self, facts: SolidFacts) -> None:
        """The total volume within what the tolerance allows: the surface, moved by no more than the chord."""
        nodes = {node.name: node for node in self.scene.nodes}
        total = wanted = area = 0.0
        for fact in facts.nodes:
            node = nodes.get(fact.name)
            if node is None or not fact.volume:
                continue
            wanted += fact.volume
            total += sum(self.scene.meshes[m].volume() for m in node.meshes)
            area += sum(self.scene.meshes[m].area() for m in node.meshes)
        if not wanted:
            return  # no closed part: there is nothing to hold it against
        off, limit = abs(total - wanted), area * (facts.chord + self.tolerance)
        reading = f"{total / 1000:.2f} for {wanted / 1000:.2f} cm³, off {off / wanted:.3%}"
        self.tell("volume", "volume", "holds" if off <= limit else "fails", reading, f"{limit / wanted:.3%}")

    def pictures(self, facts: SolidFacts) -> None:
        """On each part lies the picture that it came with, and as much of it."""
        asked = [fact for fact in facts.nodes if fact.picture]
        if not asked:
            return
        nodes = {node.name: node for node in self.scene.nodes}
        wrong = [fact.name for fact in asked if fact.name not in nodes or not self._pictured(fact, nodes[fact.name])]
        if wrong:
            told = ", ".join(wrong[:3])
            self.tell("pictures", "textures", "fails", f"not as in the model: {told}", f"{_pair(len(asked), 'part')}")
        else:
            files = len({fact.picture for fact in asked})
            self.tell("pictures", "textures", "holds", f"{_pair(files, 'picture')} on {_pair(len(asked), 'part')}")

    def _pictured(self, fact: NodeFact, node: Node) -> bool:
        meshes = [self.scene.meshes[number] for number in node.meshes]
        names = {material.picture for material in node.materials}
        laid = sum(laid_on(mesh.uv[mesh.uvs]) for mesh in meshes if len(mesh.uv))
        same = {picture_name(self.scene.pictures.get(name, b"")) for name in names} == {fact.picture}
        return same and abs(laid - fact.laid) <= 1e-4 * max(fact.laid, 1.0)

    def views(self, facts: SolidFacts) -> None:
        """Every prepared view is there as it was asked for, and shows the whole of what it should."""
        wide, high = self.solid.shown
        aspect = wide / max(high, 1e-9)
        asked = {view.name: view for view in facts.views}
        lost = [name for name in asked if name not in {view.name for view in self.solid.views}]
        partial, wrong = [], []
        boxes = self.scene.boxes()
        for view in self.solid.views:
            hidden = {name for name, state in view.states.items() if state is None}
            shown = [box for name, box in boxes.items() if name not in hidden] or list(boxes.values())
            where = in_picture(view.camera, corners_of(shown), aspect)
            whole = bool(np.isfinite(where).all()) and float(np.abs(where[:, :2]).max()) <= 1 + 1e-5
            want = asked.get(view.name)
            same = want is None or (
                _same_camera(view.camera, want.camera, self.tolerance + 1e-6)
                and _same_states(view.states, want.states)
                and _drawn_alike(view, want, self.tolerance + 1e-6)
            )
            if not same or (not whole and (want is None or not want.own)):
                wrong.append(view.name)
            elif not whole:
                partial.append(view.name)
        if lost or wrong:
            told = [f"{name} is missing" for name in lost] + [f"{name} does not show what it should" for name in wrong]
            self.tell("views", "prepared views", "fails", "; ".join(told[:3]), f"{len(asked)} views")
            return
        reading = f"{_pair(len(self.solid.views), 'view')}, each shows all that it should"
        if partial:
            reading = f"{_pair(len(self.solid.views), 'view')}; set by hand to show a part: {', '.join(partial[:3])}"
        self.tell("views", "prepared views", "holds", reading)

    def annotation(self) -> None:
        """Poster present and fine enough, printed with its page, the field that it stands in."""
        columns, rows = self.solid.poster
        if not columns:
            self.tell("poster", "poster", "fails", "there is none: readers without 3D, and paper, show nothing")
        else:
            wide, high = self.solid.shown
            dpi = min(columns / wide, rows / high) * MM_PER_INCH
            wanted = self.facts.dpi if self.facts else 72
            verdict: Verdict = "holds" if dpi >= wanted * 0.97 else "mend"
            self.tell("poster", "poster", verdict, f"{columns} × {rows} pixels, {dpi:.0f} dpi", f"{wanted} dpi")
        flags = self.solid.flags
        good = flags & PRINT and not flags & HIDDEN
        told = "prints with its page" if good else "does not print" if not flags & PRINT else "is hidden"
        starts = {"PO": "opens with its page", "XA": "opens on a click"}.get(self.solid.opening.get("A", ""), "")
        why = "no archive file, which may hold no 3D (ISO 19005-2)"
        self.tell("annotation", "field", "holds" if good else "fails", ", ".join(filter(None, (told, starts, why))))

    def size(self, facts: SolidFacts) -> None:
        """As many triangles as were written; how large that is."""
        triangles, wanted = self.scene.distinct(), facts.triangles
        reading = f"{len(self.solid.u3d) / 1e6:.2f} MB, {triangles} triangles kept, {self.scene.triangles()} shown"
        self.tell("size", "3D data", "holds" if triangles == wanted else "fails", reading, f"{wanted} triangles")


def _same_camera(one: Camera, other: Camera, tolerance: float) -> bool:
    return (
        one.perspective == other.perspective
        and abs(one.span / other.span - 1) < 1e-5
        and float(np.abs(np.subtract(one.position, other.position)).max()) <= tolerance
        and float(np.abs(one.axes() - other.axes()).max()) < 1e-6
    )


def _same_states(one: dict[str, float | None], other: dict[str, float | None]) -> bool:
    """Whether the same parts are hidden and faded, by as much."""
    if one.keys() != other.keys():
        return False
    return all((a is None) == (b is None) and abs((a or 0) - (b or 0)) < 1e-3 for a, b in ((one[n], other[n]) for n in one))


def _drawn_alike(one: FoundView, other: ViewFact, tolerance: float) -> bool:
    """Whether faces, edges and light are as they were asked for, and the same planes cut."""
    if not other.mode:
        return True  # a file of before says nothing of it
    if (one.mode, one.lighting, one.drawn, len(one.cuts)) != (other.mode, other.lighting, other.drawn, len(other.cuts)):
        return False
    return all(_same_plane(a, b, tolerance) for a, b in zip(one.cuts, other.cuts, strict=True))


def _same_plane(one: CutPlane, other: CutPlane, tolerance: float) -> bool:
    turns = [
        (a is None) == (b is None) and abs((a or 0) - (b or 0)) < 1e-4 for a, b in zip(one.turns, other.turns, strict=True)
    ]
    near = float(np.abs(np.subtract(one.centre, other.centre)).max()) <= tolerance
    return all(turns) and near and (one.filled, one.ghost) == (other.filled, other.ghost)


def solid_checks(pages: Sequence[PDFPage]) -> list[Check]:
    """What is found of every 3D annotation of a file, each with its reading."""
    try:
        found = read_solids(pages)
    except InputError as error:
        return [Check(code="solid", title="3D annotation", verdict="fails", reading=str(error))]
    checks: list[Check] = []
    for solid in found:
        try:
            scene = read_u3d(solid.u3d)
        except InputError as error:
            checks.append(
                Check(
                    code="solid", title="3D annotation", verdict="fails", reading=str(error), page=solid.page, place=solid.box
                )
            )
            continue
        judge = _Judge(solid, scene)
        if solid.facts is not None:
            judge.nodes(solid.facts)
            judge.places(solid.facts)
            judge.volume(solid.facts)
            judge.pictures(solid.facts)
            judge.views(solid.facts)
            judge.size(solid.facts)
        judge.annotation()
        checks += judge.checks
    return checks
