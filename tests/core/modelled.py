"""Facts and lines of models that tests make, as the application has them."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import Any

from OCP.gp import gp_Trsf, gp_Vec
from OCP.IFSelect import IFSelect_RetDone
from OCP.Interface import Interface_Static
from OCP.STEPCAFControl import STEPCAFControl_Writer
from OCP.STEPControl import STEPControl_AsIs
from OCP.TCollection import TCollection_ExtendedString
from OCP.TDataStd import TDataStd_Name
from OCP.TDocStd import TDocStd_Document
from OCP.TopLoc import TopLoc_Location
from OCP.XCAFDoc import XCAFDoc_DocumentTool

from skalto.core.annotation.edge_references import SourceFacts
from skalto.core.pages.page import ViewLines
from skalto.core.projection.view import ProjectionSpec
from skalto.core.sheets.sheet import ViewSpec
from skalto.core.sources.models.features import pack, part_edges, unpack
from skalto.core.sources.models.kernel import compound
from skalto.core.sources.models.model import Model
from skalto.core.sources.reading import read_model
from skalto.demo.solids import block, cut, cylinder
from skalto.services.results.lines import project_model
from tests.conftest import write_step


def _assembly(name: str) -> tuple[Any, Any, Any]:
    """A new document, its shapes' tool and its top label."""
    document = TDocStd_Document(TCollection_ExtendedString("XmlXCAF"))
    tool = XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
    top = tool.NewShape()
    TDataStd_Name.Set_s(top, TCollection_ExtendedString(name))
    return document, tool, top


def _write(document: Any, tool: Any, path: Path) -> Path:
    tool.UpdateAssemblies()
    writer = STEPCAFControl_Writer()
    Interface_Static.SetCVal_s("write.step.unit", "MM")
    assert writer.Transfer(document, STEPControl_AsIs)
    assert writer.Write(str(path)) == IFSelect_RetDone
    return path


def write_assembly(parts: Mapping[str, Any], path: Path, name: str = "Assembly") -> Path:
    """Write shapes, where they are, as the named parts of one assembly."""
    document, tool, top = _assembly(name)
    for part, shape in parts.items():
        label = tool.AddShape(shape, False)
        TDataStd_Name.Set_s(label, TCollection_ExtendedString(part))
        placed = tool.AddComponent(top, label, TopLoc_Location())
        TDataStd_Name.Set_s(placed, TCollection_ExtendedString(part))
    return _write(document, tool, path)


def write_placed(shape: Any, at: tuple[float, float, float], path: Path) -> Path:
    """Write a shape as the part of an assembly that places it at (x, y, z) mm, its own geometry where it is."""
    document, tool, top = _assembly("Assembly")
    label = tool.AddShape(shape, False)
    move = gp_Trsf()
    move.SetTranslation(gp_Vec(*at))
    tool.AddComponent(top, label, TopLoc_Location(move))
    return _write(document, tool, path)


def together(*shapes: Any) -> Any:
    """Shapes in one compound."""
    return compound(shapes)


def pin_in_plate(play: float) -> Any:
    """A pin that stands out of a plate's hole at both sides; *play* is how much thinner it is, mm."""
    return together(cut(block(60, 40, 10), cylinder(20, 40, (0, 0, -10))), cylinder(20 - play, 30, (0, 0, -5)))


def facts_of(model: Model) -> SourceFacts:
    """What is known of a model without its geometry, through the form in which it is kept."""
    return SourceFacts(model.tree, unpack(pack(part_edges(model))))


def modelled(shape: Any, folder: Path, name: str = "part.step") -> tuple[Model, SourceFacts]:
    """A shape, or shapes by part name, written as STEP and read again."""
    path = write_assembly(shape, folder / name) if isinstance(shape, Mapping) else write_step(shape, folder / name)
    model = read_model(path, path.name)
    return model, facts_of(model)


def lines_of(model: Model, view: ViewSpec) -> ViewLines:
    """A view's lines as they are projected."""
    spec = view.lines()
    assert isinstance(spec, ProjectionSpec)
    return project_model(model, spec)
