"""A 3D annotation made ready: the model's bytes, its views with their cameras, its poster, and what it is judged by."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict

from skalto.core.geometry import Array
from skalto.core.quantities import MM_PER_INCH
from skalto.core.scene.annotation_3d import Annotation3d
from skalto.core.scene.poster import by_node, camera_of, draw_view, hidden_nodes, poster_size
from skalto.core.scene.scene import Scene, piece_names
from skalto.core.scene.views import Camera, Cut, Lighting, RenderMode
from skalto.core.sources.models.model import ModelTree
from skalto.core.viewpoint import Vector


@dataclass(frozen=True)
class CutPlane:
    """A cutting plane in the words of ISO 32000-1, 13.6.4.6: its centre, and its turns, None for the axis that it begins
    square to; whether cut faces are filled and the other half seen through."""

    centre: Vector
    turns: tuple[float | None, float | None, float | None]
    filled: bool
    ghost: bool


class NodeFact(BaseModel):
    """What a component of the model is, exactly: the name of its node, its placement row by row to the model's axes, and of a
    part its box in its own axes and its volume (0 where it is not closed), mm; of one that a *picture* lies on its short name
    and how much of it is taken up."""

    model_config = ConfigDict(frozen=True)

    name: str
    placement: tuple[float, ...]
    low: Vector | None = None
    high: Vector | None = None
    volume: float = 0.0
    picture: str = ""
    laid: float = 0.0


class ViewFact(BaseModel):
    """A prepared view as it was asked for; *own* when a person set its camera, so that it need not show all; *states*, *drawn*
    and *cuts* as :class:`SolidView` has them. How it is drawn is not known of a file that says no *mode*."""

    model_config = ConfigDict(frozen=True)

    name: str
    own: bool
    camera: Camera
    states: dict[str, float | None] = {}
    drawn: dict[str, str] = {}
    mode: str = ""
    lighting: str = ""
    cuts: tuple[CutPlane, ...] = ()


class SolidFacts(BaseModel):
    """By what a 3D annotation in a finished file is judged: the nodes that it must hold, how far triangles may be from the
    surface (mm), how many there are, each once, its views, its box on the sheet, and the resolution asked of its poster."""

    model_config = ConfigDict(frozen=True)

    name: str
    chord: float
    triangles: int
    groups: tuple[str, ...] = ()
    nodes: tuple[NodeFact, ...]
    views: tuple[ViewFact, ...]
    box: tuple[float, float, float, float]
    dpi: int = 200


@dataclass(frozen=True)
class SolidView:
    """A prepared view by the nodes of the file: those hidden, and the opacity and render mode of those that have their own."""

    id: str
    name: str
    camera: Camera
    background: str
    lighting: Lighting
    mode: RenderMode
    hidden: tuple[str, ...]
    opacity: dict[str, float]
    drawn: dict[str, str]
    cuts: tuple[CutPlane, ...]

    @property
    def states(self) -> dict[str, float | None]:
        """By node: None for a hidden one, the opacity of one that has its own here."""
        return dict.fromkeys(self.hidden) | {name: own for name, own in self.opacity.items() if name not in self.hidden}


@dataclass(frozen=True, eq=False)
class Solid:
    """A 3D annotation with all that is written of it."""

    spec: Annotation3d
    u3d: bytes
    views: tuple[SolidView, ...]
    facts: SolidFacts
    poster: NDArray[np.uint8]


def _facts(annotation: Annotation3d, tree: ModelTree, scene: Scene, views: tuple[SolidView, ...]) -> SolidFacts:
    components = {component.path: component for component in tree.walk()}
    whole = np.eye(4)
    whole[:3, :3] = annotation.choices.orientation

    def placed(matrix: Array) -> tuple[float, ...]:
        return tuple((whole @ matrix).ravel().tolist())

    nodes = []
    for node in scene.nodes:
        component = components.get(scene.paths.get(node.name, ""))
        if component is None:
            continue
        if component.shape is None:
            nodes.append(NodeFact(name=node.name, placement=placed(component.matrix())))
            continue
        shape = tree.shapes[component.shape]
        fact = NodeFact(
            name=node.name, placement=placed(component.matrix()), low=shape.low, high=shape.high, volume=shape.volume
        )  # fmt: skip
        # a part that was given a colour shows that
        shows = any(material.picture for material in node.materials)
        nodes.append(fact.model_copy(update={"picture": shape.picture, "laid": shape.laid}) if shows else fact)
    asked = {view.id: view.camera is not None for view in annotation.views}
    told = tuple(
        ViewFact(
            name=view.name, own=asked[view.id], camera=view.camera, states=view.states, drawn=view.drawn, mode=view.mode,
            lighting=view.lighting, cuts=view.cuts,
        )
        for view in views
    )  # fmt: skip
    return SolidFacts(
        name=annotation.name, chord=scene.chord, triangles=scene.distinct(), groups=scene.groups, nodes=tuple(nodes),
        views=told,
        box=annotation.inner, dpi=annotation.poster_dpi,
    )  # fmt: skip


def _plane(cut: Cut, middle: Array) -> CutPlane:
    turns: list[float | None] = [None, None, None]
    for axis, angle in zip(cut.others(), cut.angles(), strict=True):
        turns[axis] = angle
    x, y, z = cut.point(middle).tolist()
    return CutPlane((x, y, z), (turns[0], turns[1], turns[2]), cut.filled, cut.ghost)


def solid_views(annotation: Annotation3d, scene: Scene) -> tuple[SolidView, ...]:
    """The views of a 3D annotation by the nodes of its scene, in order."""
    box = scene.box()
    middle = (box[0] + box[1]) / 2 if box else np.zeros(3)
    # what is said of a part in pieces is said of each, since a reader may not hand it down
    names = {node.name: list(dict.fromkeys((node.name, *piece_names(node)))) for node in scene.nodes}
    found = []
    for view in annotation.views:
        hidden = {own for name in hidden_nodes(scene, view) for own in names[name]}
        opacity = {own: value for name, value in by_node(scene, view.faded).items() for own in names[name]}
        drawn = {own: mode.value for name, mode in by_node(scene, view.drawn).items() for own in names[name]}
        found.append(
            SolidView(
                view.id, view.name, camera_of(view, scene, annotation.aspect), view.background, view.lighting, view.mode,
                tuple(sorted(hidden)), opacity, drawn, tuple(_plane(cut, middle) for cut in view.cuts),
            )
        )  # fmt: skip
    return tuple(found)


def make_solid(
    annotation: Annotation3d, tree: ModelTree, scene: Scene, u3d: bytes, poster: NDArray[np.uint8] | None = None
) -> Solid:
    """A 3D annotation made ready from the scene that goes into it.

    :param poster: the picture of the view that it opens with, where that has been drawn.
    """
    views = solid_views(annotation, scene)
    if poster is None:
        poster = draw_poster(annotation, scene)
    return Solid(annotation, u3d, views, _facts(annotation, tree, scene, views), poster)


def draw_poster(annotation: Annotation3d, scene: Scene) -> NDArray[np.uint8]:
    """The picture of the view that a 3D annotation opens with, at its resolution, (rows, columns, 4)."""
    view = annotation.opens_with
    columns, rows = poster_size(*annotation.inner_size, annotation.poster_dpi)
    dpi = columns / annotation.inner_size[0] * MM_PER_INCH
    return draw_view(scene, view, camera_of(view, scene, annotation.aspect), columns, rows, dpi)
