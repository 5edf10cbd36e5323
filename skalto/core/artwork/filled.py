"""What is not stroked: polygons, areas with curved edges, pictures and text."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import ClassVar

import numpy as np
from numpy.typing import NDArray

from skalto.core.artwork.tags import Tags
from skalto.core.geometry import Array, Similarity, bezier_bounds


@dataclass(frozen=True, eq=False)
class Text:
    """Runs of text: each its *texts*, where its baseline starts (n, 2), the height of its capitals (n,) mm, its angle (n,)
    in radians and its length (n,) mm, as :mod:`skalto.core.lettering` measures it.

    *stretch* (n,) widens the letters, mirrored where it is negative; *slant* (n,) is how far they lean, radians. *face* is the
    number of the face asked for first. A *ghost* is not seen, only found: what is seen stands beside it as strokes.
    """

    tags: Tags
    texts: tuple[str, ...]
    start: Array
    height: Array
    angle: Array
    length: Array
    stretch: Array | None = None
    slant: Array | None = None
    face: int = 0
    ghost: bool = False
    order: NDArray[np.int64] | None = None
    kind: ClassVar[str] = "text"

    def placed(self, by: Similarity) -> Text:
        return replace(
            self,
            start=by.points(self.start),
            height=self.height * by.scale,
            angle=self.angle + by.turn,
            length=self.length * by.scale,
        )

    def matrices(self) -> Array:
        """From heights of a capital, along and above the baseline, to mm on the sheet: shape (n, 2, 2), rows the images of
        the two directions."""
        stretch = np.ones(len(self)) if self.stretch is None else self.stretch
        lean = np.zeros(len(self)) if self.slant is None else np.tan(self.slant)
        along = np.stack((np.cos(self.angle), np.sin(self.angle)), axis=1)
        square = np.stack((-along[:, 1], along[:, 0]), axis=1)
        matrices: Array = np.stack((along * stretch[:, None], square + along * lean[:, None]), axis=1)
        return matrices * self.height[:, None, None]

    def corners(self) -> Array:
        """The box of each run's capitals, shape (n, 4, 2)."""
        along = np.stack((np.cos(self.angle), np.sin(self.angle)), axis=1)
        if self.stretch is not None:
            along = along * np.sign(self.stretch)[:, None]
        up = self.matrices()[:, 1]
        end = self.start + along * self.length[:, None]
        return np.stack((self.start, end, end + up, self.start + up), axis=1)

    def bounds(self) -> Array:
        corners = self.corners()
        return np.stack((corners.min(axis=1), corners.max(axis=1)), axis=1)

    def rows(self, chosen: NDArray[np.bool_]) -> Text:
        """Only the runs where *chosen* (n,) is true."""

        def of(array: Array | None) -> Array | None:
            return None if array is None else array[chosen]

        return replace(
            self,
            texts=tuple(text for text, keep in zip(self.texts, chosen.tolist(), strict=True) if keep),
            start=self.start[chosen],
            height=self.height[chosen],
            angle=self.angle[chosen],
            length=self.length[chosen],
            stretch=of(self.stretch),
            slant=of(self.slant),
            order=None if self.order is None else self.order[chosen],
        )

    def __len__(self) -> int:
        return len(self.texts)


@dataclass(frozen=True, eq=False)
class Fills:
    """Filled polygons of as many corners each: *points* of shape (n, k, 2)."""

    tags: Tags
    points: Array
    kind: ClassVar[str] = "fills"

    def placed(self, by: Similarity) -> Fills:
        return replace(self, points=by.points(self.points))

    def bounds(self) -> Array:
        return np.stack((self.points.min(axis=1), self.points.max(axis=1)), axis=1)

    def __len__(self) -> int:
        return len(self.points)


@dataclass(frozen=True, eq=False)
class Areas:
    """Filled areas with straight and curved edges and holes, by the even-odd rule, or where *winding* by the nonzero one.

    *curves* (m, 4, 2) are the edges as cubic Béziers, *straight* (m,) those that are lines; *contour* (m,) numbers the closed
    contour of each, rising from 0, and *area* (c,) the area of each contour, rising too.
    """

    tags: Tags
    curves: Array
    straight: NDArray[np.bool_]
    contour: NDArray[np.int64]
    area: NDArray[np.int64]
    winding: bool = False
    kind: ClassVar[str] = "areas"

    def placed(self, by: Similarity) -> Areas:
        return replace(self, curves=by.points(self.curves))

    def bounds(self) -> Array:
        """Of each area, shape (n, 2, 2)."""
        boxes = bezier_bounds(self.curves)
        owner = self.area[self.contour]
        first = np.flatnonzero(np.concatenate(([True], owner[1:] != owner[:-1])))
        low = np.minimum.reduceat(boxes[:, 0], first, axis=0)
        return np.stack((low, np.maximum.reduceat(boxes[:, 1], first, axis=0)), axis=1)

    def __len__(self) -> int:
        return int(self.area[-1]) + 1 if len(self.area) else 0


@dataclass(frozen=True, eq=False)
class Raster:
    """A picture: *pixels* (rows, columns, 4) red, green, blue and cover of 0 to 255, the first row on top; its lower left
    *corner* (2,) and the vectors *across* and *upward* that span it, (2,) each, mm."""

    tags: Tags
    pixels: NDArray[np.uint8]
    corner: Array
    across: Array
    upward: Array
    kind: ClassVar[str] = "raster"

    def placed(self, by: Similarity) -> Raster:
        return replace(self, corner=by.points(self.corner), across=by.vectors(self.across), upward=by.vectors(self.upward))

    def bounds(self) -> Array:
        corners = self.corner + np.array((0 * self.across, self.across, self.upward, self.across + self.upward))
        return np.stack((corners.min(axis=0), corners.max(axis=0)))[None]

    def __len__(self) -> int:
        return 1
