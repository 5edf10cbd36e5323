"""Layers of a PDF: optional content (ISO 32000-1, 8.11)."""

from __future__ import annotations

import pikepdf
from pikepdf import Array, Dictionary, Name, Pdf, String

from skalto.core.recipes import Recipe, named


class SharedLayers:
    """The layers of a file (optional content groups, 8.11), each once, whatever pages it is on."""

    def __init__(self, pdf: Pdf) -> None:
        self._pdf = pdf
        self._groups: dict[str, pikepdf.Object] = {}

    def group(self, name: str) -> pikepdf.Object:
        if name not in self._groups:
            self._groups[name] = self._pdf.make_indirect(Dictionary(Type=Name.OCG, Name=String(name)))
        return self._groups[name]

    def register(self, recipe: Recipe) -> None:
        """Name the groups in the catalogue (8.11.4): those that the recipe puts first, then the rest by name; switched on, but
        those that start hidden, which neither show nor print; those that are locked keep their state."""
        if not self._groups:
            return
        names = sorted(self._groups, key=lambda name: (_rank(name, recipe.layer_order), name.casefold()))
        groups = [self._groups[name] for name in names]
        off = [self._groups[name] for name in names if named(recipe.start_hidden, name)]
        state = Dictionary(
            Name=String("Layers"), BaseState=Name.ON, Order=Array(groups),
            ON=Array([group for group in groups if group not in off]), OFF=Array(off),
        )  # fmt: skip
        locked = [self._groups[name] for name in names if named(recipe.locked, name)]
        if locked:
            state.Locked = Array(locked)
        self._pdf.Root.OCProperties = Dictionary(OCGs=Array(groups), D=state)


def _rank(name: str, order: tuple[str, ...]) -> int:
    """The place of the first pattern that a name fits."""
    return next((n for n, pattern in enumerate(order) if named((pattern,), name)), len(order))
