"""What is known of a stroke beside its shape."""

from __future__ import annotations

from dataclasses import dataclass, replace
from enum import StrEnum

from skalto.core.geometry.placement import Similarity
from skalto.core.geometry.profile import Operation


class EdgeClass(StrEnum):
    """What a stroke is (ISO 128-2 and ISO 128-3 speak of the same kinds of edge)."""

    VISIBLE = "visible"
    OUTLINE = "outline"
    WIRE = "wire"
    """A curve of a model that bounds no face."""
    SMOOTH = "smooth"
    HIDDEN = "hidden"
    FRAME = "frame"
    HATCHING = "hatching"
    CENTRE = "centre line"
    CUTTING = "cutting plane"
    CUTTING_END = "cutting plane end"
    DIMENSION = "dimension"
    TABLE = "table"
    TEXT = "text"
    DRAWN = "drawn"
    """As a 2D source drew it, with a width, colour and line type of its own."""
    CUT = Operation.CUT.value
    SCORE = Operation.SCORE.value
    ENGRAVE = Operation.ENGRAVE.value
    BEND_UP = Operation.BEND_UP.value
    BEND_DOWN = Operation.BEND_DOWN.value
    BEND_LIMIT = Operation.BEND_LIMIT.value

    @property
    def label(self) -> str:
        """What people call it."""
        return "tangent" if self is EdgeClass.SMOOTH else self.value


@dataclass(frozen=True)
class Tags:
    """What is known of a stroke beside its shape.

    Of a drawing: its *layer*, *colour*, *width* (mm on paper) and *dashes*, the lengths of dashes and gaps in the artwork's
    own units, so that they grow with it, and the *phase*, how far on in them a stroke begins; its *opacity*, 0 to 1; and how
    its strokes end and join, ``flat``, ``round`` or ``square``, ``mitre``, ``round`` or ``bevel``, where it says.

    Of a model: the class of an edge that it lies exactly *under*, and is drawn in place of where that class is not.
    """

    edge_class: EdgeClass
    component: str = ""
    layer: str = ""
    colour: tuple[int, int, int] | None = None
    pen: str | None = None
    width: float | None = None
    dashes: tuple[float, ...] = ()
    opacity: float = 1.0
    ends: str = ""
    joins: str = ""
    phase: float = 0.0
    under: EdgeClass | None = None

    def placed(self, by: Similarity) -> Tags:
        """Tags of the same stroke, scaled."""
        if not self.dashes:
            return self
        return replace(self, dashes=tuple(d * by.scale for d in self.dashes), phase=self.phase * by.scale)
