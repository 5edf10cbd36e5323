"""Putting a newer revision of a source in the place of an older one: every view and choice stays, dimensions follow."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, TypeVar

import numpy as np

from skalto.core.annotation.edge_references import SourceFacts, resolve
from skalto.core.cutting.decorations import Decoration
from skalto.core.cutting.section import ComponentOrigin, CutList
from skalto.core.errors import InputError
from skalto.core.scene.annotation_3d import Annotation3d
from skalto.core.sheets.annotations import Dimension, Ref
from skalto.core.sheets.sheet import SheetSpec, ViewSpec
from skalto.core.sources.models.features import PartEdges
from skalto.core.sources.models.model import Component, covered
from skalto.core.sources.models.parts import PartFacts, same_part

if TYPE_CHECKING:
    from skalto.core.job import JobDocument
    from skalto.core.sources.section import SourceRef

_T = TypeVar("_T")
Measured = Callable[[ViewSpec, Dimension], float | None]


@dataclass
class RevisionReport:
    """What a newer revision brought: components that came and went, dimensions that followed a moved edge or lost it."""

    added: list[str] = field(default_factory=list)
    removed: list[str] = field(default_factory=list)
    moved: int = 0
    lost: int = 0

    def text(self) -> str:
        """In words, for the source's ticket."""
        parts = []
        for count, what in ((len(self.added), "came"), (len(self.removed), "went")):
            if count:
                parts.append(f"{count} component{'s' if count > 1 else ''} {what}")
        for count, what in (
            (self.moved, "followed a moved edge"),
            (self.lost, "lost its edge" if self.lost == 1 else "lost their edges"),
        ):
            if count:
                parts.append(f"{count} dimension{'s' if count > 1 else ''} {what}")
        return "; ".join(parts) or "no component came or went, no dimension changed its edge"


def _same_rows(rows: np.ndarray, others: np.ndarray) -> np.ndarray:
    """Which rows (n, k) are among others (m, k), to a micrometre."""
    known = set(map(tuple, np.round(others, 3)))
    return np.array([tuple(row) in known for row in np.round(rows, 3)], bool)


def _only_new(own: PartEdges, before: PartEdges | None) -> PartEdges:
    """The edges of a component that it did not have before: where a moved edge is to be looked for."""
    if before is None:
        return own
    lines = ~_same_rows(own.lines, before.lines) if len(own.lines) else np.zeros(0, bool)
    circles = ~_same_rows(own.circles[:, :7], before.circles[:, :7]) if len(own.circles) else np.zeros(0, bool)
    return PartEdges(own.lines[lines], own.line_edges[lines], own.circles[circles], own.circle_edges[circles])


class _Moved:
    """A source's facts with only the edges that are new, for references whose own edge is gone."""

    def __init__(self, before: SourceFacts, after: SourceFacts) -> None:
        self._before, self._after = before, after
        self.paths = same_components(before, after)
        self._olds = {new: old for old, new in self.paths.items()}
        self._cached: dict[str, PartEdges | None] = {}

    def of(self, path: str) -> PartEdges | None:
        if path not in self._cached:
            own = self._after.of(path)
            self._cached[path] = None if own is None else _only_new(own, self._before.of(self._olds.get(path, "")))
        return self._cached[path]


def same_components(before: SourceFacts, after: SourceFacts) -> dict[str, str]:
    """For every component of the older revision its path in the newer one, where it is still there.

    By path; else by the part's name, or by a congruent shape, and of several the nearest; else, when one is left on each
    side, that one, as a file under another name has it.
    """
    found = {path: path for path in before.leaves if path in after.leaves}
    left, free = [p for p in before.leaves if p not in found], [p for p in after.leaves if p not in found.values()]

    def alike_by_name(a: Component, b: Component) -> bool:
        return a.part == b.part

    def alike_by_shape(a: Component, b: Component) -> bool:
        return same_part(before.tree.shapes[a.shape or 0], after.tree.shapes[b.shape or 0])

    for alike in (alike_by_name, alike_by_shape):
        for path in list(left):
            own = before.leaves[path]
            fit = [other for other in free if alike(own, after.leaves[other])]
            if fit:
                place = own.matrix()[:3, 3]
                found[path] = min(fit, key=lambda o: float(np.linalg.norm(after.leaves[o].matrix()[:3, 3] - place)))
                left.remove(path)
                free.remove(found[path])
    if len(left) == len(free) == 1:
        found[left[0]] = free[0]
    return found


def rebound(ref: Ref, after: SourceFacts, moved: _Moved) -> tuple[Ref, str]:
    """The reference in the newer revision, and ``same``, ``moved`` or ``lost``.

    An edge that is where it was is itself; else it is looked for among those that are new in its component.
    """
    path = moved.paths.get(ref.component)
    own = after.of(path) if path else None
    if path is None or own is None:
        return ref, "lost"
    ref = ref.model_copy(update={"component": path})
    rows = own.lines if ref.kind == "line" else own.circles[:, :7]
    wanted = np.array(ref.geometry)
    if len(rows):
        off = np.abs(rows - wanted).max(axis=1)
        if ref.kind == "line":
            off = np.minimum(off, np.abs(rows[:, [3, 4, 5, 0, 1, 2]] - wanted).max(axis=1))
        if off.min() <= 1e-6:
            return ref, "same"
    found = resolve(ref, moved)  # type: ignore[arg-type]
    if found is None:
        return ref, "lost"
    new = moved.of(ref.component)
    assert new is not None
    among, numbers = (new.lines, new.line_edges) if ref.kind == "line" else (new.circles[:, :7], new.circle_edges)
    turned = found[[3, 4, 5, 0, 1, 2]] if ref.kind == "line" else found
    at = int(np.argmin(np.minimum(np.abs(among - found).max(axis=1), np.abs(among - turned).max(axis=1))))
    return ref.model_copy(update={"geometry": tuple(found.tolist()), "edge": int(numbers[at])}), "moved"


def _dimension(
    dimension: Dimension, value: float | None, after: SourceFacts, moved: _Moved, report: RevisionReport
) -> Dimension:
    fields: dict[str, object] = {}
    states = []
    for name, ref in (("first", dimension.first), ("second", dimension.second)):
        if ref is not None:
            new, state = rebound(ref, after, moved)
            fields[name] = new
            states.append(state)
    report.lost += "lost" in states
    report.moved += "moved" in states and "lost" not in states
    # what it said until now, so that a change is seen; a mark that nobody has looked at stays
    if value is not None and dimension.was is None:
        fields["was"] = value
    return dimension.model_copy(update=fields)


def revised(
    job: JobDocument, old: str, new: SourceRef, before: SourceFacts, after: SourceFacts, measured: Measured
) -> tuple[JobDocument, RevisionReport]:
    """The job with *new* where *old* was, and what that brought.

    :param measured: the value that a dimension of a view has now, if it can be told.
    :raises InputError: when the new one is of another kind of file, or is the old one.
    """
    ref = job.source(old)
    if new.id == old:
        raise InputError(f"{new.name} is the same file as before: choose the newer one.")
    if (before.tree.kind == "mesh") != (after.tree.kind == "mesh"):
        raise InputError(f"{new.name} is not the same kind of model as {ref.name}: add it as a source of its own.")
    if (before.drawing is None) != (after.drawing is None):
        raise InputError(f"{new.name} and {ref.name} are a model and a drawing: add it as a source of its own.")
    report = RevisionReport()
    moved = _Moved(before, after)
    kept_paths = moved.paths
    report.added = [path for path in after.leaves if path not in kept_paths.values()]
    report.removed = [path for path in before.leaves if path not in kept_paths]

    def view(own: ViewSpec) -> ViewSpec:
        if own.source != old:
            return own
        hidden = frozenset(new for old_path, new in kept_paths.items() if covered(old_path, own.hidden))
        # a view that shows chosen parts goes on showing those: what is new stays out of it
        if own.hidden:
            hidden |= frozenset(path for path in report.added if _left_out(path, own, before))
        dimensions = tuple(_dimension(d, measured(own, d), after, moved, report) for d in own.dimensions)
        moved_on = own.model_copy(update={"source": new.id, "dimensions": dimensions})
        if own.flat is not None:
            return moved_on.showing(component=kept_paths.get(own.flat.component, own.flat.component))
        if own.excerpt is not None:
            return moved_on
        if own.section is not None:
            uncut = frozenset(n for o, n in kept_paths.items() if covered(o, own.section.uncut))
            moved_on = moved_on.showing(plane=own.section.model_copy(update={"uncut": uncut}))
        return moved_on.showing(hidden=hidden)

    def field(own: Annotation3d) -> Annotation3d:
        if own.source != old:
            return own

        def hidden(paths: frozenset[str]) -> frozenset[str]:
            return frozenset(n for o, n in kept_paths.items() if covered(o, paths))

        def by_path(values: dict[str, _T]) -> dict[str, _T]:
            return {n: values[o] for o, n in kept_paths.items() if o in values} | {
                path: value for path, value in values.items() if path in assemblies
            }

        choices = own.choices.model_copy(update={"hidden": hidden(own.choices.hidden), "opacity": by_path(own.choices.opacity)})
        views = tuple(
            v.model_copy(update={"hidden": hidden(v.hidden), "faded": by_path(v.faded), "drawn": by_path(v.drawn)})
            for v in own.views
        )
        return own.model_copy(update={"source": new.id, "choices": choices, "views": views})

    assemblies = {c.path for c in after.tree.walk() if c.shape is None}

    def sheet(own: SheetSpec) -> SheetSpec:
        fields = tuple(field(f) for f in own.annotations_3d)
        content = own.cutting
        if content is not None:
            content = content.model_copy(update={"decorations": _redrawn(content.decorations, old, new.id)})
        onto = own.onto
        if onto is not None and onto.source == old:
            onto = onto.model_copy(update={"source": new.id})
        moved = {"annotations_3d": fields, "cutting": content, "onto": onto}
        return own.with_views(tuple(view(v) for v in own.views)).model_copy(update=moved)

    kept = new.model_copy(update={"earlier": (*ref.earlier, old), "unit_mm": ref.unit_mm})
    # the newer file may have come in as a source of its own first
    sources = tuple(kept if s.id == old else s for s in job.sources if s.id not in (new.id,) or s.id == old)
    fields = {
        "sources": sources,
        "sheets": tuple(sheet(s) for s in job.sheets),
        "parts": _renamed_parts(job.parts, kept_paths, before, after),
        "colours": {kept_paths.get(path, path): colour for path, colour in job.colours.items()},
        "cut_lists": tuple(_recut(own, old, new.id, kept_paths) for own in job.cut_lists),
    }
    return job.model_copy(update=fields), report


def _redrawn(decorations: tuple[Decoration, ...], old: str, new: str) -> tuple[Decoration, ...]:
    """Decorations that show the newer revision of a drawing."""

    def moved(own: Decoration) -> Decoration:
        if old not in own.sources:
            return own
        return own.model_copy(update={"content": own.content.model_copy(update={"source": new})})

    return tuple(moved(own) for own in decorations)


def _recut(cut_list: CutList, old: str, new: str, paths: dict[str, str]) -> CutList:
    """A cutting list whose parts are of the newer revision, a component by the name that it has there."""
    parts = []
    for part in cut_list.parts:
        origin = part.origin
        if origin.source == old:
            changes = {"source": new}
            if isinstance(origin, ComponentOrigin):
                changes["component"] = paths.get(origin.component, origin.component)
            part = part.model_copy(update={"origin": origin.model_copy(update=changes)})
        parts.append(part.model_copy(update={"decorations": _redrawn(part.decorations, old, new)}))
    return cut_list.model_copy(update={"parts": tuple(parts)})


def _renamed_parts(
    parts: dict[str, PartFacts], paths: dict[str, str], before: SourceFacts, after: SourceFacts
) -> dict[str, PartFacts]:
    """What was said of parts, also under the names that they have in the newer revision."""
    said = dict(parts)
    for old, new in paths.items():
        facts = parts.get(before.leaves[old].part)
        if facts is not None:
            said.setdefault(after.leaves[new].part, facts)
    return said


def _left_out(path: str, view: ViewSpec, before: SourceFacts) -> bool:
    """Whether a new component stays out of a view: where most of what was there is hidden."""
    hidden = sum(covered(leaf, view.hidden) for leaf in before.leaves)
    return hidden * 2 > len(before.leaves)
