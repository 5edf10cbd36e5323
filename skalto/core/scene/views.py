"""Prepared views: from where a reader looks, what is shown, faded and cut, and how it is drawn (ISO 32000-1, 13.6.4)."""

from __future__ import annotations

import math
from collections.abc import Sequence
from enum import StrEnum
from typing import Annotated, Any, Literal

import numpy as np
from pydantic import AfterValidator, BaseModel, ConfigDict, Field, field_validator, model_validator

from skalto.core.colour import HexColour
from skalto.core.geometry import Array
from skalto.core.ids import ShortId
from skalto.core.typed import Line, Text
from skalto.core.viewpoint import STANDARD, Vector, make_viewpoint

MARGIN = 1.08
"""How much more than the model a fitted view shows."""
FIELD_OF_VIEW = 30.0
"""The angle that a perspective view spans unless told otherwise, degrees: that of a lens with little distortion (common
practice, no source)."""


class RenderMode(StrEnum):
    """The render modes of ISO 32000-1, table 307, that a reader offers."""

    SOLID = "Solid"
    SOLID_EDGES = "SolidWireframe"
    TRANSPARENT = "Transparent"
    WIREFRAME = "Wireframe"
    BOXES = "BoundingBox"
    ILLUSTRATION = "Illustration"
    SHADED_ILLUSTRATION = "ShadedIllustration"
    OUTLINE = "SolidOutline"
    HIDDEN_WIREFRAME = "HiddenWireframe"
    TRANSPARENT_EDGES = "TransparentWireframe"


class Lighting(StrEnum):
    """The lighting schemes of ISO 32000-1, table 309."""

    WHITE = "White"
    DAY = "Day"
    NIGHT = "Night"
    HARD = "Hard"
    PRIMARY = "Primary"
    BLUE = "Blue"
    RED = "Red"
    CUBE = "Cube"
    CAD = "CAD"
    HEADLAMP = "Headlamp"
    NONE = "None"


def finite(vector: Vector) -> Vector:
    """A place as it is. :raises ValueError: when it is none."""
    if not all(math.isfinite(v) and abs(v) < 1e9 for v in vector):
        raise ValueError("A place needs three numbers, in mm.")
    return vector


class Camera(BaseModel):
    """Where a view is seen from, model mm: *position*, *target*, *up*; *span* is what the shorter side of the picture takes in:
    degrees of a perspective view, else mm."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    position: Vector
    target: Vector
    up: Vector
    perspective: bool = False
    span: float = Field(gt=0, lt=1e9)

    @field_validator("position", "target", "up")
    @classmethod
    def _numbers(cls, vector: Vector) -> Vector:
        return finite(vector)

    @model_validator(mode="after")
    def _looks(self) -> Camera:
        along = np.subtract(self.target, self.position)
        if np.linalg.norm(along) < 1e-9:
            raise ValueError("The camera stands on the point that it looks at: move it away.")
        if np.linalg.norm(np.cross(along, self.up)) < 1e-9 * np.linalg.norm(along) * max(float(np.linalg.norm(self.up)), 1e-12):
            raise ValueError("Up is parallel to the view direction: choose another up direction.")
        if self.perspective and self.span >= 170:
            raise ValueError("A perspective view spans less than 170 degrees.")
        return self

    @property
    def distance(self) -> float:
        """From the camera to its target, mm."""
        return float(np.linalg.norm(np.subtract(self.target, self.position)))

    def axes(self) -> Array:
        """Rows: right, up, and the direction looked along; unit vectors in the model's axes (3, 3)."""
        look = np.subtract(self.target, self.position)
        look = look / np.linalg.norm(look)
        up = np.asarray(self.up, float)
        up = up - look * (up @ look)
        up /= np.linalg.norm(up)
        return np.array([np.cross(look, up), up, look])

    def roll(self) -> float:
        """By how much the picture is turned from upright, degrees, clockwise: 0 where z, or y for a view straight up or down,
        points up."""
        right, up, look = self.axes()
        upright = np.array((0.0, 0.0, 1.0)) if math.hypot(look[0], look[1]) > 1e-9 else np.array((0.0, 1.0, 0.0))
        upright = upright - look * (upright @ look)
        return float(np.degrees(math.atan2(-(upright @ right), upright @ up))) + 0.0


class Cut(BaseModel):
    """A cutting plane: square to *along*, *offset* mm from the model's origin that way, then tilted by degrees about the two
    other axes, in their order; what lies beyond it is taken away, or with *flip* what lies before it."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    along: Literal["x", "y", "z"] = "x"
    offset: float = Field(default=0.0, gt=-1e7, lt=1e7)
    tilt: tuple[float, float] = (0.0, 0.0)
    flip: bool = False
    filled: bool = True
    ghost: bool = False
    """Whether the half that is taken away is still to be seen through."""
    hatched: bool = False
    """Whether filled cut faces are hatched, in a review and on the poster; readers of PDF fill them in one colour."""

    def others(self) -> tuple[int, int]:
        """The two axes that the plane is tilted about."""
        axis = "xyz".index(self.along)
        first, second = (k for k in range(3) if k != axis)
        return first, second

    def normal(self) -> Array:
        """The unit vector toward what is taken away (3,)."""
        axis = "xyz".index(self.along)
        normal = np.zeros(3)
        normal[axis] = 1.0
        for about, angle in zip(self.others(), self.angles(), strict=True):
            normal = _turn(about, angle) @ normal
        return normal

    def angles(self) -> tuple[float, float]:
        """The turns about the two other axes that bring the plane there, degrees; turned over where it is flipped."""
        first, second = self.tilt
        return (first + 180.0 if self.flip else first), second

    def point(self, middle: Array) -> Array:
        """The point of the plane about which it is tilted: on the axis through the model's middle."""
        point = np.array(middle, float)
        point["xyz".index(self.along)] = self.offset
        return point


def _turn(axis: int, degrees: float) -> Array:
    a, b = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    first, second = (axis + 1) % 3, (axis + 2) % 3
    turn = np.eye(3)
    turn[first, first] = turn[second, second] = a
    turn[first, second], turn[second, first] = -b, b
    return turn


def _one_each(cuts: tuple[Cut, ...]) -> tuple[Cut, ...]:
    if len({cut.along for cut in cuts}) < len(cuts):
        raise ValueError("Two cutting planes begin square to the same axis: give each an axis of its own.")
    return cuts


Cuts = Annotated[tuple[Cut, ...], Field(max_length=3), AfterValidator(_one_each)]
"""Cutting planes, one for an axis at most: what lies beyond any of them is taken away."""


class PreparedView(BaseModel):
    """A view that a reader finds under its name. Without a *camera* it looks along *look* and takes in all that it shows.

    *hidden* are component paths; *faded* the opacity of components, 0 to 1; *drawn* the render mode of those that have their
    own.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")

    id: ShortId
    name: Line = Field(min_length=1, max_length=60)
    look: Vector = (-1.0, 1.0, -1.0)
    up: Vector = (0.0, 0.0, 1.0)
    perspective: bool = False
    camera: Camera | None = None
    background: HexColour = "#ffffff"
    lighting: Lighting = Lighting.CAD
    mode: RenderMode = RenderMode.SOLID
    hidden: frozenset[Text] = frozenset()
    faded: dict[Text, Annotated[float, Field(gt=0, le=1)]] = {}
    drawn: dict[Text, RenderMode] = {}
    cuts: Cuts = ()

    @model_validator(mode="before")
    @classmethod
    def _one_cut(cls, data: Any) -> Any:
        """Views written down when there was one cutting plane, or none."""
        if not isinstance(data, dict) or "cut" not in data:
            return data
        rest = {key: value for key, value in data.items() if key != "cut"}
        return {"cuts": [] if data["cut"] is None else [data["cut"]]} | rest

    @field_validator("name")
    @classmethod
    def _name(cls, name: str) -> str:
        if not name.strip():
            raise ValueError("A view needs a name.")
        return name.strip()

    @model_validator(mode="after")
    def _direction(self) -> PreparedView:
        make_viewpoint(self.name, self.look, self.up)
        return self


def fitted(look: Sequence[float], up: Sequence[float], points: Array, aspect: float, perspective: bool) -> Camera:
    """A camera that looks along *look* at the middle of points (n, 3) and takes all of them in.

    :param aspect: width : height of the picture.
    """
    axes = make_viewpoint("", look, up).axes()
    low, high = points.min(axis=0), points.max(axis=0)
    middle = (low + high) / 2
    radius = max(float(np.linalg.norm(high - low)) / 2, 1e-6)
    wide, tall = max(aspect, 1.0), max(1.0 / aspect, 1.0)  # of the picture, its shorter side being one
    seen = (points - middle) @ axes.T
    # the middle of what is seen becomes the middle of the picture
    centre = (seen[:, :2].min(axis=0) + seen[:, :2].max(axis=0)) / 2
    if not perspective:
        middle = middle + centre @ axes[:2]
        seen = (points - middle) @ axes.T
        half_sizes = np.abs(seen[:, :2]).max(axis=0)
        span = 2 * MARGIN * max(float(half_sizes[0]) / wide, float(half_sizes[1]) / tall, radius * 1e-3)
        away = radius * 3
    else:
        half, span = math.tan(math.radians(FIELD_OF_VIEW) / 2), FIELD_OF_VIEW

        def needed() -> float:
            # each point must lie within the pyramid: what is nearer than the middle needs more room
            sides = np.abs(seen[:, :2]) / (half * np.array((wide, tall))) * MARGIN + seen[:, 2:]
            return max(float(sides.max()), float(seen[:, 2].max()) * 1.05, radius * 0.1)

        for _ in range(4):
            away = needed()
            flat = seen[:, :2] / (away - seen[:, 2:])
            shift = (flat.min(axis=0) + flat.max(axis=0)) / 2 * away
            middle = middle + shift @ axes[:2]
            seen = (points - middle) @ axes.T
        away = needed()
    position = middle + axes[2] * away
    return Camera(
        position=tuple(position.tolist()), target=tuple(middle.tolist()), up=tuple(axes[1].tolist()), perspective=perspective,
        span=span,
    )  # fmt: skip


def standard_views(saved: Sequence[tuple[str, str, Vector, Vector]] = ()) -> tuple[PreparedView, ...]:
    """A sensible set: the default, the six principal views, the pictorial ones, and saved viewpoints (id, name, look, up)."""
    views = [PreparedView(id="default", name="Overview", look=(-1, 1, -1), up=(0, 0, 1), perspective=True)]
    for name, viewpoint in STANDARD.items():
        views.append(
            PreparedView(id=name.replace(" ", "-"), name=name.capitalize(), look=viewpoint.look, up=viewpoint.up)
        )  # fmt: skip
    views += [PreparedView(id=f"saved-{key}"[:40], name=name, look=look, up=up) for key, name, look, up in saved]
    return tuple(views)


def camera_matrix(camera: Camera) -> list[float]:
    """The twelve numbers of C2W (13.6.4.1): left, up and view vectors, then the camera's place, as in formats of the standard.

    Left is up × view; tried against files that readers accept.
    """
    right, up, look = camera.axes()
    return [*(-right).tolist(), *up.tolist(), *look.tolist(), *camera.position]


def camera_from(matrix: Sequence[float], distance: float, perspective: bool, span: float) -> Camera:
    """What :func:`camera_matrix` wrote, read back."""
    rows = np.asarray(matrix, float).reshape(4, 3)
    target = rows[3] + rows[2] * distance
    return Camera(
        position=tuple(rows[3].tolist()), target=tuple(target.tolist()), up=tuple(rows[1].tolist()), perspective=perspective,
        span=span,
    )  # fmt: skip


def in_picture(camera: Camera, points: Array, aspect: float) -> Array:
    """Where points (n, 3) come to lie in the picture, (n, 3): across and up, the picture reaching from −1 to 1 both ways, and
    how far they are along the look, mm; what is behind a perspective camera is not a number."""
    seen = (np.asarray(points, float) - camera.position) @ camera.axes().T
    wide, high = max(aspect, 1.0), max(1.0 / aspect, 1.0)
    if camera.perspective:
        half = math.tan(math.radians(camera.span) / 2)
        depth = np.where(seen[:, 2] > 1e-9, seen[:, 2], np.nan)
        x, y = seen[:, 0] / (depth * half), seen[:, 1] / (depth * half)
    else:
        x, y = seen[:, 0] / (camera.span / 2), seen[:, 1] / (camera.span / 2)
    return np.stack((x / wide, y / high, seen[:, 2]), axis=1)
