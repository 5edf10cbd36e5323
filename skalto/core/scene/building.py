"""From a model to a scene: which components go in, what their nodes are called, and what hangs on what."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from fnmatch import fnmatchcase

import numpy as np

from skalto.core.errors import InputError
from skalto.core.geometry import Array
from skalto.core.scene.choices import Grouping, SceneSpec
from skalto.core.scene.meshing import PartMesh
from skalto.core.scene.orienting import turned_scene
from skalto.core.scene.scene import PIECE, Material, Node, Scene, SolidMesh
from skalto.core.sources.models.model import Component, ModelTree, cover_of, covered, nearest
from skalto.core.sources.models.parts import Item, items

CLASSES = ("Made parts", "Bought parts", "Fasteners")
NO_MATERIAL = "Material not known"


def class_of(item: Item) -> str:
    """Which of :data:`CLASSES` a part belongs to."""
    return CLASSES[2] if item.fastener else CLASSES[1] if item.bought else CLASSES[0]


def _own_group(component: Component, spec: SceneSpec) -> str | None:
    for group in spec.choices.groups:
        if any(_names(pattern.lower(), component) for pattern in group.patterns):
            return group.name
    return None


def _names(pattern: str, component: Component) -> bool:
    """Whether a pattern names a component itself: by its name or its part's, not by what it is in, unless it gives the way
    there with a slash."""
    if "/" in pattern:
        return fnmatchcase(component.path.lower(), pattern)
    return any(fnmatchcase(text.lower(), pattern) for text in (component.name, component.part))


def classes_of(tree: ModelTree, spec: SceneSpec) -> dict[str, str]:
    """The class of every leaf by path, in the order in which classes are listed: own groups, then by the grouping."""
    found = items(tree, spec.parts)
    item_of = {path: item for item in found for path in item.components}
    classes: dict[str, str] = {}
    for leaf in tree.leaves():
        own = _own_group(leaf, spec)
        item = item_of[leaf.path]
        if own is not None:
            classes[leaf.path] = own
        elif spec.choices.grouping is Grouping.MATERIAL:
            classes[leaf.path] = item.material or NO_MATERIAL
        elif spec.choices.grouping is Grouping.COLOUR:
            classes[leaf.path] = f"Colour {nearest(leaf.path, spec.colours) or leaf.colour}"
        else:
            classes[leaf.path] = class_of(item)
    return classes


def class_names(classes: Mapping[str, str], spec: SceneSpec) -> list[str]:
    """The classes that occur, own groups first, then made parts, bought ones and fasteners, or by name."""
    order = [group.name for group in spec.choices.groups] + list(CLASSES)
    return sorted(set(classes.values()), key=lambda name: (order.index(name) if name in order else len(order), name))


def going_in(tree: ModelTree, spec: SceneSpec) -> list[Component]:
    """The leaves that go in. :raises InputError: when none is left."""
    classes = classes_of(tree, spec)
    left_out = set(spec.choices.left_out)
    shown = [
        leaf for leaf in tree.leaves() if not covered(leaf.path, spec.choices.hidden) and classes[leaf.path] not in left_out
    ]
    if not shown:
        raise InputError("Nothing is left to put into the 3D model: show at least one component, or leave out fewer classes.")
    return shown


def unique(name: str, taken: set[str]) -> str:
    """The name, with a number behind it where it is taken; noted as taken."""
    # what a node is called may not read as a piece of another, nor be nothing
    base = made = name.strip().replace(PIECE, PIECE.replace("·", "-")) or "unnamed"
    number = 2
    while made in taken:
        made, number = f"{base} ({number})", number + 1
    taken.add(made)
    return made


def node_names(tree: ModelTree, spec: SceneSpec, shown: Sequence[Component]) -> dict[str, str]:
    """The name of the node of every component that goes in or holds one that does, by path; unique."""
    wanted = {"/".join(c.path.split("/")[: k + 1]) for c in shown for k in range(len(c.path.split("/")))}
    taken: set[str] = set()
    names: dict[str, str] = {}
    numbers: dict[str, str] = {}
    if spec.choices.names == "items":
        for item in items(tree, spec.parts, shown):
            for n, path in enumerate(item.components, 1):
                numbers[path] = f"{item.item}.{n}" if item.quantity > 1 else str(item.item)
    assemblies = 0
    for component in tree.walk():
        if component.path not in wanted:
            continue
        name = component.name
        if spec.choices.names == "items":
            assemblies += component.shape is None
            name = numbers.get(component.path, f"Assembly {assemblies}")
        names[component.path] = unique(name, taken)
    return names


def _materials(component: Component, part: PartMesh, spec: SceneSpec, picture: str) -> tuple[Material, ...]:
    """By shading. What was given to the component, or to an assembly above it, comes before a face's own, that before the
    component's; a picture stays where no colour was given."""
    hue, cover = nearest(component.path, spec.colours), nearest(component.path, spec.choices.opacity)
    materials = []
    for colour in part.colours:
        own, covers = cover_of(colour) if colour else (component.colour, component.opacity)
        materials.append(Material((hue or own).lower(), covers if cover is None else cover, "" if hue else picture))
    return tuple(materials)


def build_scene(tree: ModelTree, parts: Sequence[PartMesh], spec: SceneSpec) -> Scene:
    """The scene of a model whose shapes are meshed: a part that occurs again is one mesh with several nodes.

    :raises InputError: when nothing is left to show.
    """
    shown = going_in(tree, spec)
    names = node_names(tree, spec, shown)
    meshes: list[SolidMesh] = []
    numbers: dict[int, tuple[int, ...]] = {}
    nodes: list[Node] = []
    paths: dict[str, str] = {}
    grouped = spec.choices.grouping is not Grouping.ASSEMBLY or bool(spec.choices.groups)
    groups: dict[str, str] = {}
    identity = np.eye(4)
    if grouped:
        classes, taken = classes_of(tree, spec), set(names.values())
        own = {group.name for group in spec.choices.groups}
        everything = spec.choices.grouping is not Grouping.ASSEMBLY
        for name in class_names({leaf.path: classes[leaf.path] for leaf in shown}, spec):
            if everything or name in own:
                groups[name] = unique(name, taken)
                nodes.append(Node(groups[name], "", identity))

    def meshes_of(shape: int) -> tuple[int, ...]:
        if shape not in numbers:
            numbers[shape] = tuple(range(len(meshes), len(meshes) + len(parts[shape].pieces)))
            meshes.extend(parts[shape].pieces)
        return numbers[shape]

    files: dict[bytes, str] = {}

    def picture_of(shape: int) -> str:
        own = parts[shape].picture
        return files.setdefault(own, f"picture {len(files) + 1}") if own else ""

    def materials_of(component: Component) -> tuple[Material, ...]:
        if component.shape is None:
            return ()
        return _materials(component, parts[component.shape], spec, picture_of(component.shape))

    shown_paths = {leaf.path for leaf in shown}

    def add(component: Component, parent: str, above: Array) -> None:
        if component.path not in names:
            return
        name, world = names[component.path], component.matrix()
        group = groups.get(classes[component.path]) if grouped and component.path in shown_paths else None
        if component.shape is None:
            if grouped and spec.choices.grouping is not Grouping.ASSEMBLY:
                for child in component.children:
                    add(child, "", identity)
                return
        elif not parts[component.shape].pieces:
            return
        if group is not None:
            parent, above = group, identity
        local: Array = np.asarray(np.linalg.solve(above, world), float) if parent else world
        shape_meshes = meshes_of(component.shape) if component.shape is not None else ()
        nodes.append(Node(name, parent, local, shape_meshes, materials_of(component)))
        paths[name] = component.path
        for child in component.children:
            add(child, name, world)

    for root in tree.components:
        add(root, "", identity)
    kept = _without_empty(nodes)
    if not meshes:
        raise InputError("Nothing is left to put into the 3D model: its components have no surface.")
    chord = max((part.chord for n, part in enumerate(parts) if n in numbers), default=0.0)
    used = {material.picture for node in kept for material in node.materials}
    pictures = {name: own for own, name in files.items() if name in used}
    made = Scene(tuple(kept), tuple(meshes), chord, paths, tuple(groups.values()), pictures)
    return turned_scene(made, spec.choices.orientation)


def _without_empty(nodes: Sequence[Node]) -> list[Node]:
    """Without nodes that hold no mesh, nor any below them."""
    used: set[str] = set()
    for node in reversed(nodes):
        if node.meshes or node.name in used:
            used |= {node.name, node.parent}
    return [node for node in nodes if node.name in used]
