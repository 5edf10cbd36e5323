"""A newer revision of a source: every view and choice stays, dimensions follow their edges, what is lost is told."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import pytest
import trimesh

from skalto.core.annotation.dimension_values import measure
from skalto.core.annotation.edge_references import SourceFacts
from skalto.core.errors import InputError
from skalto.core.job import JobDocument
from skalto.core.layout.families import of_model
from skalto.core.pages.placed_views import frame_of
from skalto.core.quantities import Scale
from skalto.core.revising import RevisionReport, revised, same_components
from skalto.core.scene.annotation_3d import Annotation3d
from skalto.core.scene.choices import SceneChoices
from skalto.core.scene.views import PreparedView
from skalto.core.sheets.annotations import Dimension, DimensionKind, Ref, Section
from skalto.core.sheets.content import ProjectionContent, SectionContent
from skalto.core.sheets.sheet import SheetSpec, ViewSpec
from skalto.core.sources.models.parts import PartFacts
from skalto.core.sources.reading import read_model
from skalto.core.sources.section import SourceRef
from skalto.demo.solids import block, cut, cylinder, moved
from skalto.store.blobs import content_hash
from tests.core.modelled import facts_of, lines_of, modelled


def sha(name: str) -> str:
    return content_hash(name.encode())


NEW = SourceRef(id=sha("new"), name="plate-b.step", size=2)


def plate(*holes: tuple[float, float, float], length: float = 120) -> Any:
    """A plate with holes (diameter, x, y)."""
    return cut(block(length, 80, 10), *(cylinder(d, 40, (x, y, -10)) for d, x, y in holes))


BEFORE = ((30, -30, 0), (12, 25, 15), (6.5, 40, -20))


def rim(facts: SourceFacts, x: float, y: float) -> Ref:
    (path,) = facts.leaves
    own = facts.of(path)
    assert own is not None
    n = int(np.argmin(np.linalg.norm(own.circles[:, :3] - np.array((x, y, 10)), axis=1)))
    return Ref(component=path, edge=int(own.circle_edges[n]), kind="circle", geometry=tuple(own.circles[n, :7].tolist()))


def job_with(facts: SourceFacts, *dimensions: Dimension) -> JobDocument:
    view = ViewSpec(
        id="v",
        source=sha("old"),
        name="top",
        content=ProjectionContent(look=(0, 0, -1), up=(0, 1, 0)),
        scale=Scale(1, 2),
        place=(120, 90),
        dimensions=dimensions,
    )
    sheet = SheetSpec(id="s", name="Plate", views=(view,), title={"revision": "A"})
    return JobDocument(name="Job", sources=(SourceRef(id=sha("old"), name="plate.step", size=1),), sheets=(sheet,))


def between(facts: SourceFacts) -> Dimension:
    return Dimension(id="d", kind=DimensionKind.HORIZONTAL, first=rim(facts, -30, 0), second=rim(facts, 25, 15), offset=20)


def values(job: JobDocument, facts: SourceFacts, model: Any) -> list[float | None]:
    view = job.sheet("s").views[0]
    frame = frame_of(view, lines_of(model, view))
    found = [measure(d, frame, facts) for d in view.dimensions]
    return [None if m is None else round(m.value, 6) for m in found]


def change(
    job: JobDocument, before: SourceFacts, after: SourceFacts, value: float | None = 55.0
) -> tuple[JobDocument, RevisionReport]:
    return revised(job, sha("old"), NEW, before, after, lambda view, dimension: value)


def test_a_hole_that_moved_changes_the_value_and_nothing_else(tmp_path: Path) -> None:
    model, before = modelled(plate(*BEFORE), tmp_path)
    newer, after = modelled(plate((30, -30, 0), (12, 28, 15), (6.5, 40, -20)), tmp_path, "plate-b.step")
    job = job_with(before, between(before))
    assert values(job, before, model) == [55]
    done, report = change(job, before, after)
    assert values(done, after, newer) == [58]
    view, old = done.sheet("s").views[0], job.sheet("s").views[0]
    assert view.dimensions[0].was == 55
    kept = ("id", "name", "look", "up", "scale", "place", "anchor", "hidden", "classes", "rotation")
    assert [getattr(view, k) for k in kept] == [getattr(old, k) for k in kept]
    assert done.sheet("s").title == {"revision": "A"}
    assert done.sources == (NEW.model_copy(update={"earlier": (sha("old"),)}),)
    assert (report.moved, report.lost, report.added, report.removed) == (1, 0, [], [])
    assert report.text() == "1 dimension followed a moved edge"


def test_a_hole_that_is_gone_loses_its_dimension(tmp_path: Path) -> None:
    _, before = modelled(plate(*BEFORE), tmp_path)
    newer, after = modelled(plate((30, -30, 0), (6.5, 40, -20)), tmp_path, "plate-b.step")
    diameter = Dimension(id="e", kind=DimensionKind.DIAMETER, first=rim(before, -30, 0))
    done, report = change(job_with(before, between(before), diameter), before, after)
    # a hole of another diameter is not taken for it; the one that stayed is as it was
    assert values(done, after, newer) == [None, 30]
    assert (report.moved, report.lost) == (0, 1)
    assert "lost its edge" in report.text()


def test_a_plate_that_grew_keeps_what_did_not_move(tmp_path: Path) -> None:
    _, before = modelled(plate(*BEFORE), tmp_path)
    newer, after = modelled(plate(*BEFORE, length=160), tmp_path, "plate-b.step")
    wide = Dimension(id="w", kind=DimensionKind.WIDTH, offset=-12)
    done, report = change(job_with(before, between(before), wide), before, after)
    assert values(done, after, newer) == [55, 160]
    assert (report.moved, report.lost) == (0, 0)


def test_a_mark_that_nobody_has_looked_at_stays(tmp_path: Path) -> None:
    _, before = modelled(plate(*BEFORE), tmp_path)
    _, after = modelled(plate((30, -30, 0), (12, 28, 15)), tmp_path, "plate-b.step")
    job = job_with(before, between(before).model_copy(update={"was": 50.0}))
    done, _ = change(job, before, after)
    assert done.sheet("s").views[0].dimensions[0].was == 50
    unknown, _ = change(job_with(before, between(before)), before, after, value=None)
    assert unknown.sheet("s").views[0].dimensions[0].was is None


def test_components_are_found_by_path_by_name_and_by_shape(tmp_path: Path) -> None:
    base, post, pin = block(60, 60, 8), moved(cylinder(20, 40), (0, 0, 8)), moved(cylinder(6, 30), (20, 20, 8))
    _, before = modelled({"Base": base, "Post": post, "Pin": pin}, tmp_path, "a.step")
    wider = block(80, 60, 8)
    _, after = modelled(
        {"Base": wider, "Column": post, "Pin": pin, "Cap": moved(cylinder(24, 4), (0, 0, 48))}, tmp_path, "b.step"
    )
    found = {old.rsplit("/", 1)[-1]: new.rsplit("/", 1)[-1] for old, new in same_components(before, after).items()}
    assert found == {"Base": "Base", "Post": "Column", "Pin": "Pin"}


def test_choices_of_components_go_along_and_what_is_new_stays_out_of_a_part_s_view(tmp_path: Path) -> None:
    base, post, pin = block(60, 60, 8), moved(cylinder(20, 40), (0, 0, 8)), moved(cylinder(6, 30), (20, 20, 8))
    _, before = modelled({"Base": base, "Post": post, "Pin": pin}, tmp_path, "a.step")
    cap = moved(cylinder(24, 4), (0, 0, 48))
    _, after = modelled({"Base": base, "Column": post, "Pin": pin, "Cap": cap}, tmp_path, "b.step")
    paths = {path.rsplit("/", 1)[-1]: path for path in before.leaves}
    news = {path.rsplit("/", 1)[-1]: path for path in after.leaves}
    cutting = Section(letter="A", start=(0, -40), end=(0, 40), uncut=frozenset({paths["Post"]}))
    whole = ViewSpec(
        id="w",
        source=sha("old"),
        name="front",
        content=SectionContent(plane=cutting, look=(0, 1, 0), up=(0, 0, 1), hidden=frozenset({paths["Post"]})),
    )
    plain = whole.model_copy(update={"content": ProjectionContent(**of_model(whole))})
    alone = plain.model_copy(update={"id": "a"}).showing(hidden=frozenset({paths["Post"], paths["Pin"]}))
    other = plain.model_copy(update={"id": "o", "source": sha("another")})
    job = JobDocument(
        name="Job",
        sources=(SourceRef(id=sha("old"), name="a.step", size=1), SourceRef(id=sha("another"), name="c.step", size=1)),
        sheets=(SheetSpec(id="s", name="One", views=(whole, alone, other)),),
        parts={"Post": PartFacts(number="EB-9")},
        colours={paths["Post"]: "#102030"},
    )  # fmt: skip
    done, report = change(job, before, after)
    views = {view.id: view for view in done.sheet("s").views}
    assert views["w"].hidden == {news["Column"]}
    assert views["w"].section is not None
    assert views["w"].section.uncut == {news["Column"]}
    # the cap came: a view that shows the base alone goes on showing it alone
    assert views["a"].hidden == {news["Column"], news["Pin"], news["Cap"]}
    assert views["o"] == other
    assert done.colours == {news["Column"]: "#102030"}
    assert done.parts["Column"].number == "EB-9"
    assert report.added == [news["Cap"]]
    assert "1 component came" in report.text()


def test_a_revision_must_be_newer_and_of_the_same_kind(tmp_path: Path) -> None:
    _, before = modelled(plate(*BEFORE), tmp_path)
    job = job_with(before)
    with pytest.raises(InputError, match="same file as before"):
        revised(job, sha("old"), NEW.model_copy(update={"id": sha("old")}), before, before, lambda view, dimension: None)
    path = tmp_path / "plate.stl"
    trimesh.creation.box((120, 80, 10)).export(path)
    with pytest.raises(InputError, match="not the same kind of model"):
        revised(job, sha("old"), NEW, before, facts_of(read_model(path, path.name)), lambda view, dimension: None)
    with pytest.raises(InputError, match="no longer in the job"):
        revised(job, "gone", NEW, before, before, lambda view, dimension: None)


def test_a_3d_field_keeps_what_its_views_hide_and_fade(tmp_path: Path) -> None:
    """The part that keeps its name stays faded and hidden; the one that left is no longer spoken of."""
    parts = {"Base": block(60, 40, 10), "Pin": cylinder(8, 40, (0, 0, 10)), "Cap": cylinder(20, 5, (0, 0, 50))}
    _, before = modelled(parts, tmp_path)
    newer = {"Base": block(62, 40, 10), "Pin": cylinder(8, 42, (0, 0, 10))}
    _, after = modelled(newer, tmp_path, "plate-b.step")
    view = PreparedView(id="v", name="V", hidden=frozenset({"Assembly/Cap"}), faded={"Assembly/Base": 0.4, "Assembly": 0.9})
    choices = SceneChoices(hidden=frozenset({"Assembly/Pin"}), opacity={"Assembly/Base": 0.5, "Assembly/Cap": 0.5})
    field = Annotation3d(id="f", source=sha("old"), choices=choices, views=(view,))
    sheet = SheetSpec(id="s", name="Stand", annotations_3d=(field,))
    job = JobDocument(name="Job", sources=(SourceRef(id=sha("old"), name="stand.step", size=1),), sheets=(sheet,))
    done, _ = change(job, before, after)
    (kept,) = done.sheet("s").annotations_3d
    assert kept.source == sha("new")
    assert kept.choices.hidden == {"Assembly/Pin"}
    assert kept.choices.opacity == {"Assembly/Base": 0.5}
    assert kept.views[0].hidden == frozenset()
    assert kept.views[0].faded == {"Assembly/Base": 0.4, "Assembly": 0.9}
