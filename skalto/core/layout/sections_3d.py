"""A cutting plane of a 3D annotation as a section view: which view it is taken from, and where its trace lies there."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from skalto.core.geometry import Array
from skalto.core.layout.families import next_letter
from skalto.core.scene.annotation_3d import Annotation3d
from skalto.core.scene.views import Cut
from skalto.core.sheets.annotations import Section
from skalto.core.sheets.sheet import SheetSpec, ViewSpec
from skalto.core.viewpoint import PRINCIPAL, Viewpoint, make_viewpoint

_SQUARE = 1e-6
_BEYOND = 1.1
"""How much longer a trace is than the model, so that its ends clear the outline."""


@dataclass(frozen=True)
class PlaneInModel:
    """A plane in the model's own axes, mm: a point of it, and its normal toward what is taken away."""

    point: Array
    normal: Array

    @classmethod
    def of(cls, annotation: Annotation3d, cut: Cut, middle: Array) -> PlaneInModel:
        """:param middle: of the turned model's box, (3,)."""
        back = np.asarray(annotation.choices.orientation, float).T
        return cls(back @ cut.point(middle), back @ cut.normal())

    def is_seen_edge_on(self, axes: Array) -> bool:
        """Whether a view, by its axes (3, 3), shows the plane as a line."""
        return abs(float(axes[2] @ self.normal)) < _SQUARE

    def parent(self, sheet: SheetSpec, source: str) -> ViewSpec | None:
        """The first view of the sheet that shows it as a line and of which a section can be taken."""
        for view in sheet.views:
            plain = view.of_model and not (view.section or view.detail) and view.source == source
            if plain and self.is_seen_edge_on(view.axes_of_plane()) and _is_straight(view):
                return view
        return None

    def viewpoint(self) -> Viewpoint:
        """A viewpoint that shows it as a line: a principal one where one does."""
        for own in PRINCIPAL.values():
            if self.is_seen_edge_on(own.axes()):
                return own
        # along the plane, as near to the front as it goes
        look = np.array((0.0, 1.0, 0.0)) - self.normal * self.normal[1]
        x, y, z = (look / np.linalg.norm(look)).tolist()
        return make_viewpoint(f"dir:{x:.9g},{y:.9g},{z:.9g}", (x, y, z))

    def section(self, sheet: SheetSpec, axes: Array, low: Array, high: Array) -> Section:
        """Its trace in a view, by the view's axes: across the box *low* to *high* of what the view shows, (3,) model mm."""
        right, up = axes[0], axes[1]
        toward = -np.array((right @ self.normal, up @ self.normal))
        toward = toward / np.linalg.norm(toward)
        # arrows point to the right of the trace's direction
        along = np.array((-toward[1], toward[0]))
        middle = (low + high) / 2
        flat = np.array((right @ middle, up @ middle))
        on = np.array((right @ self.point, up @ self.point))
        foot = flat + toward * float(toward @ (on - flat))
        corners = np.array([[(low, high)[(n >> k) & 1][k] for k in range(3)] for n in range(8)])
        reach = np.abs((np.stack((corners @ right, corners @ up), axis=1) - foot) @ along).max() * _BEYOND
        a, b = (np.round(foot + along * side * reach, 3).tolist() for side in (-1, 1))
        return Section(letter=next_letter(sheet.views), start=(a[0], a[1]), end=(b[0], b[1]))


def _is_straight(view: ViewSpec) -> bool:
    """Whether a section can be taken of it: no view along a diagonal."""
    return not view.projected or 0.0 in (round(view.projected[0], 9), round(view.projected[1], 9))
