"""STEP, IGES and BREP through the kernel: component tree, names, placements, colours, one shape for repeated parts."""

from __future__ import annotations

import re
import tempfile
import time
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
from OCP.BRep import BRep_Builder
from OCP.BRepTools import BRepTools
from OCP.IFSelect import IFSelect_RetDone
from OCP.IGESCAFControl import IGESCAFControl_Reader
from OCP.Quantity import Quantity_ColorRGBA, Quantity_TOC_sRGB
from OCP.STEPCAFControl import STEPCAFControl_Reader
from OCP.TCollection import TCollection_AsciiString, TCollection_ExtendedString
from OCP.TDataStd import TDataStd_Name, TDataStd_TreeNode
from OCP.TDF import TDF_Label, TDF_LabelSequence, TDF_Tool
from OCP.TDocStd import TDocStd_Document
from OCP.TopAbs import TopAbs_COMPOUND, TopAbs_FACE
from OCP.TopExp import TopExp
from OCP.TopoDS import TopoDS_Shape
from OCP.TopTools import TopTools_IndexedMapOfShape
from OCP.XCAFDoc import XCAFDoc, XCAFDoc_ColorGen, XCAFDoc_ColorSurf, XCAFDoc_DocumentTool, XCAFDoc_Material, XCAFDoc_ShapeTool

from skalto.core.errors import InputError
from skalto.core.geometry import Array
from skalto.core.progress import Lasting, Progress
from skalto.core.sources.models import kernel
from skalto.core.sources.models.brep_text import check_brep
from skalto.core.sources.models.building import Branch, TreeBuilder
from skalto.core.sources.models.elsewhere import alone
from skalto.core.sources.models.extents import extents
from skalto.core.sources.models.model import Model, ShapeFacts, with_cover

_UNIT = 1e-9
_PARSED = 0.55
"""Of the time that reading a file takes, what goes by until its last line: then what refers to what is found."""
_BUILT = 2.5
"""How many times as long the kernel builds shapes as it has read: measured 2.4 to 3.0, of 4 and of 109 MB of STEP."""
_PLACEHOLDER = re.compile(r"(=>)?\[?[\d:]+\]?|NAUO\d*|\d+|SOLID|COMPOUND|SHELL|NONE|Open CASCADE .*|", re.IGNORECASE)
"""Names that writers put where a person gave none."""


def _label_name(label: Any) -> str:
    attribute = TDataStd_Name()
    if label.FindAttribute(TDataStd_Name.GetID_s(), attribute):
        return str(attribute.Get().ToExtString()).strip()
    return ""


def _hex(colour: Any) -> str:
    channels = colour.GetRGB().Values(Quantity_TOC_sRGB)
    return with_cover("#" + "".join(f"{round(max(0.0, min(1.0, c)) * 255):02x}" for c in channels), colour.Alpha())


class _Document:
    """Reads one exchange document into shapes and branches."""

    def __init__(self, document: Any, fallback: str) -> None:
        self._colours = XCAFDoc_DocumentTool.ColorTool_s(document.Main())
        self._tool = XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
        self._fallback = fallback
        self._numbers: dict[str, int | None] = {}
        self.shapes: list[Any] = []
        self.face_colours: list[dict[int, str]] = []
        self._colour_of_part: dict[str, str | None] = {}
        self.materials: list[tuple[str, float]] = []

    def roots(self) -> list[Branch]:
        labels = TDF_LabelSequence()
        self._tool.GetFreeShapes(labels)
        found = [self._branch(labels.Value(i), None) for i in range(1, labels.Length() + 1)]
        return [branch for branch in found if branch is not None]

    def _colour(self, label: Any) -> str | None:
        colour = Quantity_ColorRGBA()
        for kind in (XCAFDoc_ColorSurf, XCAFDoc_ColorGen):
            if self._colours.GetColor_s(label, kind, colour):
                return _hex(colour)
        return None

    def _part(self, label: Any) -> tuple[int | None, str | None]:
        """The shape number of a part's label (None without faces and curves), and its colour."""
        key = _entry(label)
        if key not in self._numbers:
            shape = XCAFDoc_ShapeTool.GetShape_s(label)
            if shape.IsNull() or not (kernel.faces(shape) or kernel.edges(shape)):
                self._numbers[key], self._colour_of_part[key] = None, None
            else:
                colour, faces = self._sub_colours(label, shape)
                self._numbers[key], self._colour_of_part[key] = len(self.shapes), colour
                self.shapes.append(shape)
                self.face_colours.append(faces)
                self.materials.append(_material(label))
        return self._numbers[key], self._colour_of_part[key]

    def _sub_colours(self, label: Any, shape: Any) -> tuple[str | None, dict[int, str]]:
        """A part's own colour, and by face number (from 0) the faces coloured otherwise."""
        own = self._colour(label)
        subs = TDF_LabelSequence()
        XCAFDoc_ShapeTool.GetSubShapes_s(label, subs)
        if not subs.Length():
            return own, {}
        numbers = TopTools_IndexedMapOfShape()
        TopExp.MapShapes_s(shape, TopAbs_FACE, numbers)
        found: dict[int, str] = {}
        coloured = []
        for i in range(1, subs.Length() + 1):
            colour = self._colour(subs.Value(i))
            if colour:
                coloured.append((XCAFDoc_ShapeTool.GetShape_s(subs.Value(i)), colour))
        # bodies first, so that a face's own colour wins over its body's
        for sub, colour in sorted(coloured, key=lambda pair: pair[0].ShapeType() == TopAbs_FACE):
            for face in kernel.sub_shapes(sub, TopAbs_FACE):
                number = numbers.FindIndex(face)
                if number:
                    found[number - 1] = colour
        if own is None and len(found) == numbers.Size() and len(set(found.values())) == 1:
            return next(iter(found.values())), {}
        return own, {number: colour for number, colour in found.items() if colour != own}

    def _branch(self, label: Any, above: Any) -> Branch | None:
        instance, placement = label, np.eye(4)
        if XCAFDoc_ShapeTool.IsReference_s(label):
            placement = kernel.matrix_of(XCAFDoc_ShapeTool.GetLocation_s(label))
            target = TDF_Label()
            XCAFDoc_ShapeTool.GetReferredShape_s(label, target)
            label = target
        part = _label_name(label)
        if _PLACEHOLDER.fullmatch(part):
            part = self._fallback
        name = _label_name(instance)
        if _PLACEHOLDER.fullmatch(name):
            name = part
        colour = self._colour(instance)
        if XCAFDoc_ShapeTool.IsAssembly_s(label):
            parts = TDF_LabelSequence()
            XCAFDoc_ShapeTool.GetComponents_s(label, parts)
            children = [self._branch(parts.Value(i), label) for i in range(1, parts.Length() + 1)]
            kept = [child for child in children if child is not None]
            return Branch(name, part, placement, None, colour or self._colour(label), kept) if kept else None
        shape, part_colour = self._part(label)
        if shape is None:
            return None
        return Branch(name, part, placement, shape, colour or part_colour)


def _material(label: Any) -> tuple[str, float]:
    """The material's name and density, g/cm³, that a part's label refers to; nothing and 0 without one."""
    # the kernel's binding breaks when it is asked for a tree node that is not there
    if not label.IsAttribute(XCAFDoc.MaterialRefGUID_s()):
        return "", 0.0
    node = TDataStd_TreeNode()
    if not label.FindAttribute(XCAFDoc.MaterialRefGUID_s(), node) or not node.HasFather():
        return "", 0.0
    material = XCAFDoc_Material()
    if not node.Father().Label().FindAttribute(XCAFDoc_Material.GetID_s(), material):
        return "", 0.0
    name = material.GetName()
    return (str(name.ToCString()).strip() if name is not None else ""), float(material.GetDensity())


def _entry(label: Any) -> str:
    text = TCollection_AsciiString()
    TDF_Tool.Entry_s(label, text)
    return str(text.ToCString())


class _Scales:
    """Takes scales out of placements and into shapes of their own, so that sizes and lines are those of what is placed."""

    def __init__(
        self, shapes: list[Any], face_colours: list[dict[int, str]], materials: list[tuple[str, float]] | None
    ) -> None:
        self._shapes, self._colours, self._materials = shapes, face_colours, materials
        self._numbers: dict[tuple[int, float], int] = {}

    def _scaled(self, number: int, scale: float) -> int:
        if abs(scale - 1) < _UNIT:
            return number
        key = (number, float(f"{scale:.9g}"))
        if key not in self._numbers:
            self._numbers[key] = len(self._shapes)
            self._shapes.append(kernel.scaled(self._shapes[number], scale))
            self._colours.append(self._colours[number])
            if self._materials is not None:
                self._materials.append(self._materials[number])
        return self._numbers[key]

    def settle(self, branches: Sequence[Branch], scale: float = 1.0) -> None:
        for branch in branches:
            linear = branch.placement[:3, :3]
            own = float(np.cbrt(abs(np.linalg.det(linear))))
            if abs(own - 1) >= _UNIT or abs(scale - 1) >= _UNIT:
                placement = branch.placement.copy()
                placement[:3, :3] = linear / own
                placement[:3, 3] *= scale
                branch.placement = placement
            if branch.shape is not None:
                branch.shape = self._scaled(branch.shape, scale * own)
            self.settle(branch.children, scale * own)


def finish(
    shapes: list[Any],
    face_colours: list[dict[int, str]],
    roots: list[Branch],
    kind: str,
    what: str,
    progress: Progress,
    materials: list[tuple[str, float]] | None = None,
) -> Model:
    """Measure the shapes and make the model; *materials* are names and densities by shape, where the file has them.

    :raises InputError: when neither surfaces nor curves were found.
    """
    if not roots or not shapes:
        raise InputError(f"{what} holds no solids, surfaces or curves: export the parts as solids and add that file.")
    _Scales(shapes, face_colours, materials).settle(roots)
    facts = []
    for number, shape in enumerate(shapes):
        progress(0.7 + 0.2 * number / len(shapes), "Measuring the parts")
        kernel.mark_smooth_edges(shape)
        box = extents(shape)
        if box is None:
            raise InputError(f"{what} holds a part without extent: repair it where it was made and export again.")
        fingerprint = kernel.fingerprint(shape)
        low, high = (tuple(float(v) for v in corner) for corner in box)
        facts.append(
            ShapeFacts(
                low=low,  # type: ignore[arg-type]
                high=high,  # type: ignore[arg-type]
                # the first of its numbers, integrated once
                volume=fingerprint[0] if fingerprint else 0.0,
                material=materials[number][0] if materials else "",
                density=materials[number][1] if materials else 0.0,
                fingerprint=fingerprint,
                content=kernel.content_name(shape),
                solids=kernel.solids(shape),
                faces=kernel.faces(shape),
                face_colours=face_colours[number],
            )
        )

    def box_of(number: int, matrix: Array) -> tuple[Array, Array]:
        found = extents(kernel.placed(shapes[number], matrix))
        assert found is not None
        return found

    tree = TreeBuilder(facts, box_of).build(roots, "mm", kind)
    return Model(tree, tuple(shapes))


def _check_step(path: Path, what: str) -> None:
    """STEP's own marks (ISO 10303-21, 5.2): without them the kernel would read part of a file and say nothing."""
    with path.open("rb") as file:
        head = file.read(4096)
        file.seek(max(0, path.stat().st_size - 4096))
        tail = file.read()
    if b"ISO-10303-21" not in head:
        raise InputError(f"{what} is not a STEP file: it does not begin with ISO-10303-21.")
    if b"END-ISO-10303-21" not in tail:
        raise InputError(f"{what} is cut short: its closing line END-ISO-10303-21 is missing; copy or export it again.")


def _check_iges(path: Path, what: str) -> None:
    """IGES: 80 columns a line, section letter in column 73, T the last (IGES 5.3, 2.2)."""
    lines = [line for line in path.read_bytes().splitlines() if line.strip()]
    letters = [line[72:73] for line in lines[:3]]
    if not lines or not any(letter in (b"S", b"G") for letter in letters):
        raise InputError(f"{what} is not an IGES file: its lines carry no section letters in column 73.")
    if lines[-1][72:73] != b"T":
        raise InputError(f"{what} is cut short: its closing T line is missing; copy or export it again.")


def read_exchange(path: Path, kind: str, what: str, progress: Progress, follows: bool = False) -> Model:
    """Read a STEP or IGES file (*kind* ``step`` or ``iges``); lengths come in as mm whatever the file's unit.

    :param what: what the file is called to the person. :param follows: whether files that it names are read, too.
    :raises InputError: when it is not such a file, is cut short, or holds no surface.
    """
    (_check_step if kind == "step" else _check_iges)(path, what)
    document = TDocStd_Document(TCollection_ExtendedString("skalto"))
    reader = STEPCAFControl_Reader() if kind == "step" else IGESCAFControl_Reader()
    reader.SetNameMode(True)
    reader.SetColorMode(True)
    reader.SetLayerMode(False)
    if kind == "step":
        # what is not used costs a third of the time
        reader.SetPropsMode(False)
        reader.SetGDTMode(False)
        reader.SetMatMode(True)
        reader.SetViewMode(False)
    with tempfile.TemporaryDirectory() as folder:
        own = alone(path) if kind == "step" and not follows else None
        if own is not None:
            path = Path(folder) / "alone.step"
            path.write_bytes(own)
        begun = time.monotonic()
        progress(0.02, Lasting("Reading the file", 0.3 / 0.02, file=str(path.resolve()), part=_PARSED))
        if reader.ReadFile(str(path)) != IFSelect_RetDone:
            raise InputError(f"{what} cannot be read: it breaks the rules of {kind.upper()}; export it again.")
    progress(0.3, Lasting("Building the shapes", 0.65 / 0.3, expected=_BUILT * (time.monotonic() - begun)))
    if not reader.Transfer(document):
        raise InputError(f"{what} holds no solids, surfaces or curves: export the parts as solids and add that file.")
    progress(0.65, "Making the component tree")
    content = _Document(document, Path(what).stem)
    roots = content.roots()
    made = finish(content.shapes, content.face_colours, roots, kind, what, progress, content.materials)
    if kind != "step":
        return made
    from skalto.core.sources.models.step_properties import materials_of, products_of

    session = reader.Reader().WS()
    named = materials_of(session)
    part_of = {leaf.shape: leaf.part for leaf in made.tree.leaves()}
    shapes = tuple(_of_material(own, named.get(part_of.get(n, ""))) for n, own in enumerate(made.tree.shapes))
    return replace(made, tree=made.tree.model_copy(update={"told": products_of(session), "shapes": shapes}))


def _of_material(shape: ShapeFacts, named: str | None) -> ShapeFacts:
    """A shape with the material that the file names, None where it names none: then as the kernel has it."""
    if named is None or named == shape.material:
        return shape
    return shape.model_copy(update={"material": named, "density": shape.density if named else 0.0})


def _pieces(shape: Any) -> list[Any]:
    """What a compound holds, through compounds within compounds; any other shape itself."""
    if shape.ShapeType() != TopAbs_COMPOUND:
        return [shape]
    return [piece for child in kernel.children(shape) for piece in _pieces(child)]


def read_brep(path: Path, what: str, progress: Progress) -> Model:
    """Read a BREP file: one component for each shape of a top compound; the format has no unit, and mm are meant.

    :raises InputError: when it is not such a file or holds no surface.
    """
    with path.open("rb") as file:
        head = file.read(400)
    if b"DBRep_DrawableShape" not in head and b"CASCADE Topology" not in head:
        raise InputError(f"{what} is not a BREP file: its heading is not there.")
    check_brep(path.read_bytes(), what)
    progress(0.05, "Reading the file")
    shape = TopoDS_Shape()
    if not BRepTools.Read_s(shape, str(path), BRep_Builder()) or shape.IsNull():
        raise InputError(f"{what} is cut short or damaged: copy or export it again.")
    name = Path(what).stem
    shape = kernel.unscaled(shape)
    pieces = [piece for piece in _pieces(shape) if kernel.faces(piece) or kernel.edges(piece)]
    if len(pieces) <= 1:
        roots = [Branch(name, name, np.eye(4), number) for number in range(len(pieces))]
    else:
        children = [Branch(f"{name} {n + 1}", f"{name} {n + 1}", np.eye(4), n) for n in range(len(pieces))]
        roots = [Branch(name, name, np.eye(4), None, None, children)]
    return finish(pieces, [{} for _ in pieces], roots, "brep", what, progress)
