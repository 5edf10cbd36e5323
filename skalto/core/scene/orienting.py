"""Which way up a model stands in 3D: turns of its axes, and what goes with them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from itertools import permutations

import numpy as np

from skalto.core.errors import InputError
from skalto.core.geometry import Array
from skalto.core.scene.kept import Kept, KeptCamera, KeptMark, KeptSection
from skalto.core.scene.scene import Scene
from skalto.core.scene.turns import UPRIGHT, Turn
from skalto.core.scene.views import Camera, Cut, PreparedView
from skalto.core.viewpoint import Vector

_ALONG = 1e-4


def _place(turn: Array, at: Sequence[float]) -> Vector:
    x, y, z = (turn @ np.asarray(at, float) + 0.0).tolist()
    return x, y, z


def turned_scene(scene: Scene, turn: Turn) -> Scene:
    """A scene turned as a whole about the origin of its axes."""
    if turn == UPRIGHT:
        return scene
    whole = np.eye(4)
    whole[:3, :3] = turn
    nodes = tuple(node if node.parent else replace(node, matrix=whole @ node.matrix) for node in scene.nodes)
    return replace(scene, nodes=nodes)


def turned_camera(camera: Camera, turn: Array) -> Camera:
    """A camera that sees the turned model as it saw the model."""
    return camera.model_copy(
        update={"position": _place(turn, camera.position), "target": _place(turn, camera.target), "up": _place(turn, camera.up)}
    )


def cut_through(like: Cut, along: int, normal: Array, point: Array, middle: Array) -> Cut:
    """A cutting plane by its normal (3,), toward what goes, and a point of it, set square to an axis and tilted.

    :param along: 0 to 2. :param middle: of the model, about which planes are tilted. :param like: what else is said of it.
    :raises InputError: when it lies along that axis.
    """
    flip = bool(normal[along] < 0)
    n = -normal if flip else normal
    if n[along] < _ALONG:
        raise InputError("Two cutting planes lie nearly in one another: remove one of them, then turn the model.")
    x, y, z = (float(v) for v in n)
    first, second = {
        0: (np.arcsin(-z), np.arctan2(y, x)),
        1: (np.arcsin(z), np.arctan2(-x, y)),
        2: (np.arcsin(-y), np.arctan2(x, z)),
    }[along]
    others = [k for k in range(3) if k != along]
    offset = (float(n @ point) - sum(float(n[k] * middle[k]) for k in others)) / float(n[along])
    tilt = (round(float(np.degrees(first)), 9) + 0.0, round(float(np.degrees(second)), 9) + 0.0)
    return Cut.model_validate(
        like.model_dump() | {"along": "xyz"[along], "offset": round(offset, 9) + 0.0, "tilt": tilt, "flip": flip}
    )


def turned_cuts(cuts: Sequence[Cut], turn: Array, middle: Array, after: Array) -> tuple[Cut, ...]:
    """Cutting planes that cut the turned model where they cut the model.

    :param middle: of the model's box before it is turned, (3,). :param after: of its box after.
    """
    planes = [(turn @ cut.normal(), turn @ cut.point(middle)) for cut in cuts]
    # each plane has an axis of its own: the one that it is nearest to being square to, as far as that goes for all
    axes = max(
        permutations(range(3), len(cuts)),
        key=lambda some: min((abs(float(normal[k])) for k, (normal, _) in zip(some, planes, strict=True)), default=0.0),
    )
    return tuple(
        cut_through(cut, axis, normal, point, after) for cut, axis, (normal, point) in zip(cuts, axes, planes, strict=True)
    )


def turned_view(view: PreparedView, turn: Array, middle: Array, after: Array) -> PreparedView:
    """A prepared view after its model was turned: with a camera of its own it goes with the model, else it looks the same way
    at what now lies there."""
    camera = None if view.camera is None else turned_camera(view.camera, turn)
    return view.model_copy(update={"camera": camera, "cuts": turned_cuts(view.cuts, turn, middle, after)})


def turned_kept(own: Kept, turn: Array, middle: Array, after: Array) -> Kept:
    """What was kept of a review, after its model was turned."""
    if isinstance(own, KeptCamera):
        return own.model_copy(update={"camera": turned_camera(own.camera, turn)})
    if isinstance(own, KeptSection):
        return own.model_copy(update={"cuts": turned_cuts(own.cuts, turn, middle, after)})
    if isinstance(own, KeptMark):
        return own.model_copy(update={"at": _place(turn, own.at)})
    return own.model_copy(update={"start": _place(turn, own.start), "end": _place(turn, own.end)})
