"""STL, OBJ, PLY and glTF through trimesh."""

from __future__ import annotations

import hashlib
import io
import json
import struct
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import trimesh
from numpy.typing import NDArray
from trimesh.resolvers import Resolver

from skalto.core.errors import InputError
from skalto.core.geometry import Array
from skalto.core.locating import FARTHEST
from skalto.core.progress import Progress
from skalto.core.sources.models.building import Branch, TreeBuilder
from skalto.core.sources.models.model import Mesh, Model, ShapeFacts, cover_of, hex_colour, laid_on, with_cover
from skalto.core.sources.models.textures import Textures, numbered
from skalto.core.sources.models.within import Within, lacking

GLTF_TO_MODEL = np.array(((1000.0, 0, 0, 0), (0, 0, -1000.0, 0), (0, 1000.0, 0, 0), (0, 0, 0, 1)))
"""glTF is in metres with y up (glTF 2.0, 3.4); a model is in mm with z up."""


def _check_stl(path: Path, what: str) -> None:
    size = path.stat().st_size
    with path.open("rb") as file:
        head = file.read(84)
        file.seek(max(0, size - 256))
        tail = file.read()
    if head.lstrip()[:5].lower() == b"solid" and b"\0" not in head:
        if b"endsolid" not in tail.lower():
            raise InputError(f"{what} is cut short: its closing line endsolid is missing; copy or export it again.")
        return
    if size < 84:
        raise InputError(f"{what} is not an STL file: it is shorter than its own heading.")
    (count,) = struct.unpack("<I", head[80:84])
    if size < 84 + 50 * count:
        raise InputError(
            f"{what} is cut short: it names {count} triangles and holds {(size - 84) // 50}; copy or export it again."
        )
    if size != 84 + 50 * count:
        raise InputError(f"{what} is not an STL file: its length does not fit its count of triangles.")


def _check_gltf(path: Path, what: str) -> None:
    data = path.read_bytes()
    if path.suffix == ".glb":
        if data[:4] != b"glTF":
            raise InputError(f"{what} is not a binary glTF file: its heading is not there.")
        if len(data) < 12 or struct.unpack("<I", data[8:12])[0] > len(data):
            raise InputError(f"{what} is cut short: copy or export it again.")
        (length,) = struct.unpack("<I", data[12:16].ljust(4, b"\0"))
        text = data[20 : 20 + length]
    else:
        text = data
    try:
        document = json.loads(text)
    except (ValueError, RecursionError):
        raise InputError(f"{what} is not a glTF file, or is cut short: it is not whole JSON.") from None
    accessors = document.get("accessors") if isinstance(document, dict) else None
    for accessor in accessors if isinstance(accessors, list) else []:
        count = accessor.get("count") if isinstance(accessor, dict) else None
        # an item has a byte at least, and a file that packs its geometry some twenty to the byte
        if isinstance(count, int) and count > 20 * len(data):
            raise InputError(f"{what} names {count} items, and has {len(data)} bytes: it is damaged; export it again.")


def _check_buffers(path: Path, what: str, around: Path | None) -> None:
    """:raises InputError: for geometry in a file that is not there."""
    document = json.loads(path.read_bytes())
    buffers = document.get("buffers", []) if isinstance(document, dict) else []
    if around is not None:
        missing = lacking(path, around)
        if missing:
            raise InputError(f"{what} keeps its geometry in {missing}, which is not in the archive: pack it too.")
    elif any(not str(own.get("uri", "data:")).startswith("data:") for own in buffers if isinstance(own, dict)):
        told = "export it as one file (.glb), or pack both into a ZIP, and add that."
        raise InputError(f"{what} keeps its geometry in another file: {told}")


class _Nowhere(Resolver):  # type: ignore[misc]
    """Finds no file but those *within* an archive: a model is what is in its own. *file_name* names what has no name in it."""

    def __init__(self, file_name: str, within: Within | None = None) -> None:
        self.file_name, self.within = file_name, within

    def get(self, name: str) -> bytes:
        if self.within is not None:
            return self.within.get(name)
        raise FileNotFoundError(name)

    def write(self, name: str, data: bytes) -> None:
        raise PermissionError(name)

    def namespaced(self, namespace: str) -> _Nowhere:
        return self

    def keys(self) -> list[str]:
        return []


def _check_ply(path: Path, what: str) -> None:
    with path.open("rb") as file:
        if file.read(3) != b"ply":
            raise InputError(f"{what} is not a PLY file: it does not begin with ply.")


def _colour(geometry: Any) -> tuple[str | None, NDArray[np.uint8] | None]:
    """One colour for a mesh, and its faces' own where they differ."""
    visual = geometry.visual
    if visual.kind is None:
        return None, None
    try:
        if visual.kind == "texture":
            rgba = np.asarray(visual.material.main_color)
            # glTF 2.0, 3.9.4: only a blended material is seen through
            blended = getattr(visual.material, "alphaMode", None) == "BLEND"
            return _covering(rgba if blended else rgba[:3]), None
        faces = np.asarray(visual.face_colors, np.uint8)
    except (AttributeError, ValueError, IndexError):
        return None, None
    if not len(faces):
        return None, None
    if np.all(faces[:, 3:] == 255):
        faces = faces[:, :3]
    shown = _covering(np.median(faces, axis=0))
    return shown, (faces if np.any(faces != faces[0]) else None)


def _covering(rgba: NDArray[Any]) -> str:
    return with_cover(hex_colour(rgba[:3]), float(rgba[3]) / 255 if len(rgba) > 3 else 1.0)


class _Scene:
    """A trimesh scene as branches and meshes; a geometry that occurs again is one shape."""

    def __init__(self, scene: Any, what: str, textures: Textures) -> None:
        self._scene = scene
        self._textures = textures
        self._what = what
        self._numbers: dict[str, int | None] = {}
        self.meshes: list[Mesh] = []
        self.closed: list[bool] = []
        self.volumes: list[float] = []
        self._colours: dict[str, str | None] = {}

    def _shape(self, name: str) -> int | None:
        if name not in self._numbers:
            geometry = self._scene.geometry[name]
            if not isinstance(geometry, trimesh.Trimesh) or not len(geometry.faces):
                self._numbers[name] = None
                return None
            corners, faces = np.asarray(geometry.vertices), np.asarray(geometry.faces)
            if corners.ndim != 2 or corners.shape[1] != 3 or faces.ndim != 2 or faces.shape[1] != 3:
                raise InputError(f"{self._what} has points without three coordinates: it is damaged; export it again.")
            if faces.min() < 0 or faces.max() >= len(corners):
                raise InputError(f"{self._what} names corners that it does not hold: it is damaged; export it again.")
            if not np.isfinite(corners).all():
                raise InputError(f"{self._what} holds points without a place (not a number): repair it and export it again.")
            far = float(np.abs(corners).max())
            if far > FARTHEST:
                raise InputError(
                    f"{self._what} holds a point {far:.3g} mm away: it is damaged, or its unit is not what it was drawn in."
                )
            self._colours[name], painted = _colour(geometry)
            textured = self._textures.of(geometry)
            if textured is not None:
                _, cover = cover_of(self._colours[name] or textured[1])
                self._colours[name] = with_cover(textured[1], cover)
            welded = trimesh.Trimesh(corners, faces, process=False)
            welded.merge_vertices(merge_tex=True, merge_norm=True)
            self._numbers[name] = len(self.meshes)
            texture = textured[0] if textured is not None else None
            self.meshes.append(Mesh(np.array(welded.vertices), np.array(welded.faces), painted, texture))
            self.closed.append(bool(welded.is_watertight))
            self.volumes.append(abs(float(welded.volume)) if welded.is_watertight else 0.0)
        return self._numbers[name]

    def branch(self, node: str, depth: int = 0) -> Branch | None:
        if depth > 200:
            raise InputError(f"{self._what} nests its parts too deeply, or in a ring: export it again.")
        graph = self._scene.graph
        parent = graph.transforms.parents.get(node)
        placement = np.array(graph.transforms.edge_data[(parent, node)].get("matrix", np.eye(4))) if parent else np.eye(4)
        children = [self.branch(child, depth + 1) for child in sorted(graph.transforms.children.get(node, []))]
        kept = [child for child in children if child is not None]
        geometry = graph.transforms.node_data.get(node, {}).get("geometry")
        shape = self._shape(geometry) if geometry else None
        if shape is None:
            return Branch(node, node, placement, None, None, kept) if kept else None
        own = Branch(node, str(geometry), placement, shape, self._colours.get(geometry))
        if not kept:
            return own
        own.placement = np.eye(4)
        return Branch(node, node, placement, None, None, [own, *kept])


def _simplified(branch: Branch) -> Branch:
    """Without the world node and others that hold one thing and place it nowhere."""
    while branch.shape is None and len(branch.children) == 1 and np.array_equal(branch.placement, np.eye(4)):
        branch = branch.children[0]
    return branch


def read_mesh(path: Path, suffix: str, what: str, progress: Progress, around: Path | None = None) -> Model:
    """Read a mesh file (*suffix* ``stl``, ``obj``, ``ply``, ``gltf``, ``glb``). All but glTF have no unit, and mm are meant.

    :param around: a folder of files that it may name; without, what it names is not opened.
    :raises InputError: when it is not such a file, is cut short, or holds no triangle.
    """
    checks = {"stl": _check_stl, "ply": _check_ply, "gltf": _check_gltf, "glb": _check_gltf}
    if suffix in checks:
        checks[suffix](path, what)
    if suffix == "gltf":
        _check_buffers(path, what, around)
    progress(0.05, "Reading the file")
    try:
        options = {"split_object": True, "group_material": False} if suffix == "obj" else {}
        # from its bytes alone: what it names beside itself is not opened, but for what came with it
        resolver = _Nowhere(what, Within(around, path) if around is not None else None)
        with np.errstate(over="ignore", invalid="ignore"):
            # places without end are refused below
            data, placed = numbered(path.read_bytes()) if suffix in ("gltf", "glb") else (path.read_bytes(), {})
            scene = trimesh.load_scene(io.BytesIO(data), file_type=suffix, resolver=resolver, **options)
    except InputError:
        raise
    except Exception:
        raise InputError(f"{what} cannot be read as {suffix.upper()}, or is cut short: export it again.") from None
    content = _Scene(scene, what, Textures(placed))
    progress(0.5, "Making the component tree")
    root = content.branch(scene.graph.base_frame)
    if root is None:
        raise InputError(f"{what} holds no surface: export the parts as triangles and add that file.")
    root = _simplified(root)
    if suffix in ("gltf", "glb"):
        root.placement = GLTF_TO_MODEL @ root.placement
    elif root.shape is not None:
        root.name = root.part = Path(what).stem
    return _finish(content, root, what)


def _with_area(mesh: Mesh) -> NDArray[np.bool_]:
    """Which triangles have three different corners in single precision, which is what goes out."""
    a, b, c = (mesh.vertices.astype(np.float32)[mesh.faces[:, k]] for k in range(3))
    flat: NDArray[np.bool_] = (a == b).all(axis=1) | (b == c).all(axis=1) | (a == c).all(axis=1)
    return ~flat


class _Sizes:
    """Takes every scale out of the placements and into the meshes, so that sizes in own axes are mm; one that differs by axis
    too."""

    def __init__(self, content: _Scene, what: str) -> None:
        self._content = content
        self._what = what
        self._numbers: dict[tuple[int, bytes], int] = {}
        self.meshes: list[Mesh] = []
        self.facts: list[ShapeFacts] = []

    def _shape(self, number: int, scale: Array) -> int:
        key = (number, np.round(scale, 9).tobytes())
        if key not in self._numbers:
            self._numbers[key] = len(self.meshes)
            mesh = self._content.meshes[number]
            vertices = mesh.vertices @ scale.T
            turned = np.linalg.det(scale) < 0
            texture = mesh.texture
            if texture is not None and turned:
                texture = replace(texture, at=texture.at[:, ::-1])
            self.meshes.append(Mesh(vertices, mesh.faces[:, ::-1] if turned else mesh.faces, mesh.colours, texture))
            low, high = (tuple(float(v) for v in corner) for corner in (vertices.min(axis=0), vertices.max(axis=0)))
            volume = self._content.volumes[number] * abs(float(np.linalg.det(scale)))
            closed = int(self._content.closed[number])
            name = hashlib.sha256(np.round(vertices, 5).tobytes() + self.meshes[-1].faces.tobytes())
            if texture is not None:
                name.update(texture.picture + np.round(texture.at, 5).tobytes())
            content = name.hexdigest()[:32]
            facts = ShapeFacts(low=low, high=high, volume=volume, solids=closed, faces=len(mesh.faces), content=content)  # type: ignore[arg-type]
            if texture is not None:
                facts = facts.model_copy(
                    update={"picture": texture.name, "laid": laid_on(texture.at[_with_area(self.meshes[-1])])}
                )
            self.facts.append(facts)
        return self._numbers[key]

    def settle(self, branch: Branch, scale: Array | None = None) -> None:
        """*scale* (3, 3) is what the placements above leave to be applied."""
        above = np.eye(3) if scale is None else scale
        linear = above @ branch.placement[:3, :3]
        with np.errstate(invalid="ignore"):
            size = abs(float(np.linalg.det(linear)))
        factor = float(np.cbrt(size))
        if not np.isfinite(linear).all() or not np.isfinite(branch.placement).all():
            raise InputError(f"{self._what} places “{branch.name}” by what are no numbers: export it again.")
        if factor <= 0:
            raise InputError(f"{self._what} flattens “{branch.name}” to nothing: give it a size and export again.")
        if np.abs(linear @ linear.T / factor**2 - np.eye(3)).max() <= 1e-9:
            turn, rest = linear / factor, np.eye(3) * factor
        else:
            # what turns, and what is left: a stretch along three axes (polar decomposition)
            u, stretch, v = np.linalg.svd(linear)
            turn, rest = u @ v, v.T @ np.diag(stretch) @ v
        placement = np.eye(4)
        placement[:3, :3] = turn
        placement[:3, 3] = above @ branch.placement[:3, 3]
        branch.placement = placement
        if branch.shape is not None:
            branch.shape = self._shape(branch.shape, rest)
        for child in branch.children:
            self.settle(child, rest)


def _finish(content: _Scene, root: Branch, what: str) -> Model:
    sizes = _Sizes(content, what)
    sizes.settle(root)
    meshes = sizes.meshes

    def box_of(number: int, matrix: Array) -> tuple[Array, Array]:
        points = meshes[number].vertices @ matrix[:3, :3].T + matrix[:3, 3]
        return points.min(axis=0), points.max(axis=0)

    return Model(TreeBuilder(sizes.facts, box_of).build([root], "mm", "mesh"), tuple(meshes))
