"""Parts and assemblies of a model as STEP files of their own (ISO 10303-21, AP214), and these read again."""

from __future__ import annotations

import tempfile
from pathlib import Path
from typing import Any

import numpy as np
from OCP.BRepGProp import BRepGProp
from OCP.GProp import GProp_GProps
from OCP.IFSelect import IFSelect_RetDone
from OCP.Interface import Interface_Static
from OCP.Quantity import Quantity_Color, Quantity_TOC_sRGB
from OCP.STEPCAFControl import STEPCAFControl_Writer
from OCP.STEPControl import STEPControl_AsIs, STEPControl_Reader
from OCP.TCollection import TCollection_ExtendedString, TCollection_HAsciiString
from OCP.TDataStd import TDataStd_Name
from OCP.TDocStd import TDocStd_Document
from OCP.TopAbs import TopAbs_SOLID
from OCP.TopLoc import TopLoc_Location
from OCP.XCAFDoc import XCAFDoc_ColorSurf, XCAFDoc_DocumentTool

from skalto.core.errors import InputError
from skalto.core.sources.models import kernel
from skalto.core.sources.models.model import Component, Mesh, Model

SAME_VOLUME = 1e-4
"""Relative: what is read again has the volume that was written. Free surfaces are integrated otherwise once they are written
anew: of the public samples that were tried one is 2e-5 off."""


def step_file(model: Model, component: Component, name: str) -> bytes:
    """A component of a model as a STEP file in mm: a part in its own axes, an assembly with its structure.

    :param name: what its product is called; the parts of an assembly are called as they are.
    :raises InputError: for a mesh, and when the kernel cannot write it.
    """
    if any(isinstance(model.shapes[leaf.shape], Mesh) for leaf in component.walk() if leaf.shape is not None):
        raise InputError(f"{component.name} is a mesh of triangles: a STEP file holds exact faces.")
    writer = _Writer(model)
    shape = component.shape
    label = writer.assembly(component, name) if shape is None else writer.part(shape, name, component)
    if label is None:
        raise InputError(f"{component.name} has no shape to write.")
    writer.tool.UpdateAssemblies()
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "part.step"
        out = STEPCAFControl_Writer()
        out.SetNameMode(True)
        out.SetColorMode(True)
        out.SetMaterialMode(True)
        Interface_Static.SetCVal_s("write.step.unit", "MM")
        if not out.Transfer(writer.document, STEPControl_AsIs) or int(out.Write(str(path)).value) != 1:
            raise InputError(f"{component.name} cannot be written as STEP: its shape is damaged.")
        return path.read_bytes()


class _Writer:
    """A document of the kernel that is filled with parts and assemblies, each distinct one once."""

    def __init__(self, model: Model) -> None:
        self.model = model
        self.document = TDocStd_Document(TCollection_ExtendedString("XmlXCAF"))
        self.tool = XCAFDoc_DocumentTool.ShapeTool_s(self.document.Main())
        self.colours = XCAFDoc_DocumentTool.ColorTool_s(self.document.Main())
        self.materials = XCAFDoc_DocumentTool.MaterialTool_s(self.document.Main())
        self._parts: dict[tuple[int, str, str], Any] = {}

    def part(self, shape: int, name: str, component: Component) -> Any:
        """The label of a shape under a name."""
        key = (shape, name, component.colour)
        if key not in self._parts:
            facts = self.model.tree.shapes[shape]
            label = self.tool.AddShape(kernel.unscaled(self.model.shapes[shape]), False)
            _call(label, name)
            red, green, blue = (int(component.colour[n : n + 2], 16) / 255 for n in (1, 3, 5))
            self.colours.SetColor(label, Quantity_Color(red, green, blue, Quantity_TOC_sRGB), XCAFDoc_ColorSurf)
            if facts.material:
                words = (facts.material, "", "density measure", "POSITIVE_RATIO_MEASURE")
                called, about, measure, unit = (TCollection_HAsciiString(word) for word in words)
                self.materials.SetMaterial(label, called, about, facts.density, measure, unit)
            self._parts[key] = label
        return self._parts[key]

    def assembly(self, component: Component, name: str) -> Any:
        """The label of an assembly, None for one that holds nothing."""
        label = self.tool.NewShape()
        _call(label, name)
        back = np.linalg.inv(component.matrix())
        filled = False
        for child in component.children:
            own = self.part(child.shape, child.part, child) if child.shape is not None else self.assembly(child, child.part)
            if own is not None:
                placed = self.tool.AddComponent(label, own, TopLoc_Location(kernel.transform(back @ child.matrix())))
                _call(placed, child.name)
                filled = True
        return label if filled else None


def _call(label: Any, name: str) -> None:
    TDataStd_Name.Set_s(label, TCollection_ExtendedString(name, True))


def against_step(data: bytes, volume: float, name: str) -> str:
    """What is wrong with a STEP file that was written, '' where nothing is: it is read again, and its solids have the
    *volume*, mm³, and its product the *name*.

    The reader is the kernel's plain one, which has no part in the document that was written.
    """
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "again.step"
        path.write_bytes(data)
        reader = STEPControl_Reader()
        if reader.ReadFile(str(path)) != IFSelect_RetDone or not reader.TransferRoots():
            return "The STEP file cannot be read again."
        found, solids = 0.0, kernel.sub_shapes(reader.OneShape(), TopAbs_SOLID)
        for solid in solids:
            measured = GProp_GProps()
            BRepGProp.VolumeProperties_s(solid, measured)
            found += abs(float(measured.Mass()))
    if abs(found - volume) > SAME_VOLUME * max(volume, 1.0):
        return f"The STEP file has {found:.6g} mm³, the model {volume:.6g} mm³."
    if _product(name) not in data.decode("latin-1"):
        return f"The STEP file's product is not called {name}."
    return ""


def _product(name: str) -> str:
    """How a product's name stands in the file: quotes doubled, what is not ASCII as ISO 10303-21 encodes it."""
    text = name.replace("\\", "\\\\").replace("'", "''")
    if text.isascii():
        return f"'{text}'"
    # what is within ASCII is enough to know it by
    return max(("".join(c if c.isascii() else "\0" for c in text)).split("\0"), key=len)
