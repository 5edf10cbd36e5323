"""A model: distinct shapes, and the tree of components that places them."""

from __future__ import annotations

import hashlib
import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from fnmatch import fnmatchcase
from typing import Any, TypeVar

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict

from skalto.core.errors import InputError
from skalto.core.geometry import Array

Size = tuple[float, float, float]


def hex_colour(rgb: Sequence[float] | Array | NDArray[np.uint8]) -> str:
    """Three channels of 0 to 255 as ``#rrggbb``, or four as ``#rrggbbaa``."""
    return "#" + "".join(f"{int(v):02x}" for v in rgb)


def cover_of(colour: str) -> tuple[str, float]:
    """A colour ``#rrggbb``, or ``#rrggbbaa`` for one that is seen through (W3C CSS Color 4, 5.2), as hue and cover, 0 to 1."""
    return colour[:7], int(colour[7:9] or "ff", 16) / 255


def with_cover(colour: str, cover: float) -> str:
    """A colour ``#rrggbb`` with its cover, 0 to 1, behind it where it can be seen through.

    A cover of nothing is taken as whole: what a file says of no part in any other way is a slip, and the part would be lost.
    """
    return colour if not 0 < round(cover * 255) < 255 else f"{colour}{round(cover * 255):02x}"


class Component(BaseModel):
    """One occurrence of a part or an assembly.

    *path* is the occurrence names from the root, joined by ``/``, made unique; *part* the name of what occurs here;
    *shape* the number of its shape in the model, or None for an assembly; *placement* the 4 × 4 matrix to the model's axes,
    row by row; *size* its extents in its own axes, mm; *volume* mm³, 0 where nothing is closed; *opacity* how much its colour
    covers, 0 to 1.
    """

    model_config = ConfigDict(frozen=True)

    name: str
    path: str
    part: str
    shape: int | None
    colour: str
    placement: tuple[float, ...]
    size: Size
    volume: float
    opacity: float = 1.0
    children: tuple[Component, ...] = ()

    def matrix(self) -> Array:
        return np.array(self.placement).reshape(4, 4)

    def walk(self) -> Iterator[Component]:
        """This component and all beneath it, parents first."""
        yield self
        for child in self.children:
            yield from child.walk()


class ShapeFacts(BaseModel):
    """What is known of a distinct shape: its box in its own axes, volume, count of solids, its faces' own colours (see
    :func:`cover_of`); the file's *material* and *density* (g/cm³, 0 for none), numbers that congruent shapes
    share, and a short name for what it is in its own axes: what was changed of it changes that; of a *picture* that lies on it
    the short name, and how much of the picture its triangles take up, 1 for all of it once."""

    model_config = ConfigDict(frozen=True)

    low: Size
    high: Size
    volume: float
    solids: int
    faces: int
    face_colours: dict[int, str] = {}
    material: str = ""
    density: float = 0.0
    fingerprint: tuple[float, ...] = ()
    content: str = ""
    picture: str = ""
    laid: float = 0.0


class FileFacts(BaseModel):
    """What a file says of a part or an assembly beside its shape: number, description, revision, and whatever properties it
    has, by their names."""

    model_config = ConfigDict(frozen=True)

    number: str = ""
    description: str = ""
    revision: str = ""
    properties: dict[str, str] = {}

    def of(self, *names: str) -> str:
        """The value of the first property that has one of some names, whatever their case; '' for none."""
        known = {name.casefold(): value for name, value in self.properties.items()}
        return next((known[name.casefold()] for name in names if name.casefold() in known), "")


_NOTHING = FileFacts()


class ModelTree(BaseModel):
    """All of a model but the geometry itself; small enough to send to a page."""

    model_config = ConfigDict(frozen=True)

    unit: str
    kind: str
    low: Size
    size: Size
    solids: int
    shapes: tuple[ShapeFacts, ...]
    components: tuple[Component, ...]
    told: dict[str, FileFacts] = {}
    file: str = ""
    """The name that the file was read under."""
    origin: Size = (0.0, 0.0, 0.0)
    """The point of the file, mm, from which coordinates count here: a model far out is kept about a local origin."""

    said_unit: float = 1.0
    """What a millimetre of the file is, mm, as somebody said."""

    lost: tuple[str, ...] = ()
    """What the file refers to and does not hold, each in one sentence."""

    def told_of(self, part: str) -> FileFacts:
        """What the file says of a part or an assembly, by its name."""
        return self.told.get(part, _NOTHING)

    def walk(self) -> Iterator[Component]:
        for root in self.components:
            yield from root.walk()

    def middle(self) -> tuple[float, float, float]:
        """The middle of the model's box, mm."""
        x, y, z = (low + size / 2 for low, size in zip(self.low, self.size, strict=True))
        return x, y, z

    def leaves(self) -> list[Component]:
        """The components that carry shapes, in tree order."""
        return [c for c in self.walk() if c.shape is not None]

    def report(self) -> dict[str, Any]:
        """The tree as the command line prints it."""

        def row(c: Component) -> dict[str, Any]:
            return {
                "name": c.name,
                "path": c.path,
                "part": c.part,
                "shape": c.shape,
                "color": c.colour,
                "opacity": round(c.opacity, 4),
                "size": [round(v, 6) for v in c.size],
                "volume": round(c.volume, 6),
                "children": [row(child) for child in c.children],
            }

        return {
            "unit": self.unit,
            "size": [round(v, 6) for v in self.size],
            "solids": self.solids,
            "components": [row(c) for c in self.components],
        }


@dataclass(frozen=True, eq=False)
class Texture:
    """A picture on a mesh: its file, PNG or JPEG, and where the corners of each triangle lie on it, (m, 3, 2), from 0 to 1 to
    the right and up; beyond that it repeats."""

    picture: bytes
    at: Array

    @property
    def name(self) -> str:
        """A short name for the picture's bytes."""
        return picture_name(self.picture)


def picture_name(picture: bytes) -> str:
    """A short name for a picture's bytes."""
    return hashlib.sha256(picture).hexdigest()[:16]


def laid_on(at: Array) -> float:
    """How much of a picture triangles (m, 3, 2) take up, 1 for all of it once."""
    one, other = at[:, 1] - at[:, 0], at[:, 2] - at[:, 0]
    return float(np.abs(one[:, 0] * other[:, 1] - one[:, 1] * other[:, 0]).sum() / 2)


@dataclass(frozen=True, eq=False)
class Mesh:
    """A triangle mesh: *vertices* (n, 3) mm, *faces* (m, 3) indices, *colours* (m, 3) uint8, (m, 4) where some
    are seen through, or None."""

    vertices: Array
    faces: NDArray[np.int64]
    colours: NDArray[np.uint8] | None = None
    texture: Texture | None = None


@dataclass(frozen=True, eq=False)
class Model:
    """A model with its geometry: *shapes* are kernel shapes, or meshes for a mesh source; numbered as in the tree."""

    tree: ModelTree
    shapes: Sequence[Any] = field(default_factory=tuple)

    def shown(self, hidden: frozenset[str]) -> list[Component]:
        """The leaves that are neither hidden nor beneath a hidden component."""
        return [c for c in self.tree.leaves() if not covered(c.path, hidden)]


def covered(path: str, hidden: frozenset[str]) -> bool:
    """Whether *path* or a component above it is in *hidden*."""
    parts = path.split("/")
    return any("/".join(parts[: i + 1]) in hidden for i in range(len(parts)))


T = TypeVar("T")


def nearest(path: str, given: Mapping[str, T]) -> T | None:
    """What was given to a component or to the nearest assembly above it."""
    parts = path.split("/")
    for count in range(len(parts), 0, -1):
        found = given.get("/".join(parts[:count]))
        if found is not None:
            return found
    return None


def _matches(component: Component, pattern: str) -> bool:
    plain = "/".join(re.sub(r" \(\d+\)$", "", part) for part in component.path.split("/"))
    return any(fnmatchcase(text.lower(), pattern.lower()) for text in (component.path, plain, component.part))


def hidden_by_patterns(tree: ModelTree, show: Sequence[str], hide: Sequence[str]) -> frozenset[str]:
    """The leaf paths that stay out when *show* and *hide* patterns are applied.

    Patterns are globs without regard to case, on component paths and part names; a pattern that names an assembly
    takes what is in it. With *show*, only what it names is shown; *hide* then takes away.

    :raises InputError: for a pattern that names nothing, or when nothing is left.
    """
    for pattern in (*show, *hide):
        if not any(_matches(c, pattern) for c in tree.walk()):
            names = sorted({c.part for c in tree.leaves()})
            raise InputError(
                f"“{pattern}” names no component; parts are {', '.join(names[:12])}{' …' if len(names) > 12 else ''}."
            )
    named_show = frozenset(c.path for c in tree.walk() if any(_matches(c, p) for p in show))
    named_hide = frozenset(c.path for c in tree.walk() if any(_matches(c, p) for p in hide))
    hidden = frozenset(
        leaf.path for leaf in tree.leaves() if covered(leaf.path, named_hide) or (show and not covered(leaf.path, named_show))
    )
    if len(hidden) == len(tree.leaves()):
        raise InputError("No component is left to show: hide fewer, or show more.")
    return hidden
