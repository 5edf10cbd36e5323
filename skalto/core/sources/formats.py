"""The formats that files are brought in by: the one table that every other place asks."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from skalto.core.errors import InputError
from skalto.core.progress import Progress

if TYPE_CHECKING:
    from skalto.core.sources.drawings.drawing import Drawing
    from skalto.core.sources.models.model import Model

ReadModel = Callable[[Path, str, Progress], "Model"]
ReadDrawing = Callable[[Path, str, Progress], "Drawing"]


@dataclass(frozen=True)
class ModelFormat:
    """A format of models: its name, the endings of its files, and its reader, loaded when it is used."""

    name: str
    suffixes: tuple[str, ...]
    read: ReadModel

    @property
    def kind(self) -> str:
        return self.name.lower()


@dataclass(frozen=True)
class DrawingFormat:
    """A format of drawings: its name, the endings of its files, and its reader, loaded when it is used."""

    name: str
    suffixes: tuple[str, ...]
    read: ReadDrawing

    @property
    def kind(self) -> str:
        return self.name.lower()


def _exchange(kind: str) -> ReadModel:
    def read(path: Path, name: str, report: Progress) -> Model:
        from skalto.core.sources.models.exchange import read_exchange

        return read_exchange(path, kind, name, report)

    return read


def _brep(path: Path, name: str, report: Progress) -> Model:
    from skalto.core.sources.models.exchange import read_brep

    return read_brep(path, name, report)


def _archive(path: Path, name: str, report: Progress) -> Model:
    from skalto.core.sources.models.packed import read_archive

    return read_archive(path, name, report)


def _packed_step(path: Path, name: str, report: Progress) -> Model:
    from skalto.core.sources.models.packed import read_packed_step

    return read_packed_step(path, name, report)


def _mesh(kind: str) -> ReadModel:
    def read(path: Path, name: str, report: Progress) -> Model:
        from skalto.core.sources.models.meshes import read_mesh

        return read_mesh(path, kind, name, report)

    return read


def _dxf(path: Path, name: str, report: Progress) -> Drawing:
    from skalto.core.sources.drawings.dxf.reading import read_dxf

    return read_dxf(path, name, report).localised()


def _svg(path: Path, name: str, report: Progress) -> Drawing:
    from skalto.core.sources.drawings.svg.reading import read_svg

    return read_svg(path, name, report).localised()


def _pdf(path: Path, name: str, report: Progress) -> Drawing:
    from skalto.core.sources.drawings.pdf import read_pdf

    return read_pdf(path, name, report)


MODELS = (
    ModelFormat("STEP", (".step", ".stp", ".p21"), _exchange("step")),
    ModelFormat("IGES", (".iges", ".igs"), _exchange("iges")),
    ModelFormat("BREP", (".brep", ".brp"), _brep),
    ModelFormat("STL", (".stl",), _mesh("stl")),
    ModelFormat("OBJ", (".obj",), _mesh("obj")),
    ModelFormat("PLY", (".ply",), _mesh("ply")),
    ModelFormat("glTF", (".gltf",), _mesh("gltf")),
    ModelFormat("GLB", (".glb",), _mesh("glb")),
    ModelFormat("packed STEP", (".stpz", ".gz"), _packed_step),
    ModelFormat("ZIP of these", (".zip",), _archive),
)
DRAWINGS = (
    DrawingFormat("DXF", (".dxf",), _dxf),
    DrawingFormat("SVG", (".svg",), _svg),
    DrawingFormat("PDF", (".pdf",), _pdf),
)
SUFFIXES = tuple(suffix for known in (*MODELS, *DRAWINGS) for suffix in known.suffixes)
"""The endings of all files that can be brought in."""


def _names(formats: tuple[ModelFormat, ...] | tuple[DrawingFormat, ...]) -> str:
    # GLB is glTF in one file
    return ", ".join(known.name for known in formats if known.name != "GLB")


def is_drawing(name: str) -> bool:
    """Whether a file's name says that it is a drawing.

    >>> is_drawing("Plan.DXF"), is_drawing("Ebba.step")
    (True, False)
    """
    return any(Path(name).suffix.lower() in known.suffixes for known in DRAWINGS)


def model_format(name: str) -> ModelFormat:
    """The format of models that a file's name says. :raises InputError: for an ending that no reader takes."""
    suffix = Path(name).suffix.lower()
    for known in MODELS:
        if suffix in known.suffixes:
            return known
    raise InputError(
        f"{name} is not a file that can be read: add a model ({_names(MODELS)}) or a drawing ({_names(DRAWINGS)})."
    )


def drawing_format(name: str) -> DrawingFormat:
    """The format of drawings that a file's name says. :raises InputError: for an ending that no reader takes."""
    suffix = Path(name).suffix.lower()
    for known in DRAWINGS:
        if suffix in known.suffixes:
            return known
    raise InputError(f"{name} is not a drawing that can be read: add DXF, SVG or PDF.")
