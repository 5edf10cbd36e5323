"""3D annotations in PDF files: written, read back by other engines, judged, and what is wrong with one found."""

from __future__ import annotations

import io
import subprocess
from collections.abc import Callable
from dataclasses import replace
from decimal import Decimal
from pathlib import Path

import numpy as np
import pikepdf
import pypdfium2 as pdfium
import pytest

from skalto.core.checks.report import check_pdf
from skalto.core.checks.solids import FoundSolid, fields_of_pdf
from skalto.core.checks.verdict import Report
from skalto.core.errors import InputError
from skalto.core.output.pdf.document import write_pdf, written
from skalto.core.output.pdf.joining import Part, join
from skalto.core.output.pdf.metadata import Metadata, Passwords
from skalto.core.output.review import plain_view
from skalto.core.output.u3d.reader import read_u3d
from skalto.core.output.u3d.writer import write_u3d
from skalto.core.pages.composition import compose
from skalto.core.pages.page import SheetContext
from skalto.core.recipes import PLAIN, SHIPPED_RECIPES, Recipe
from skalto.core.scene.annotation_3d import Annotation3d, Opening
from skalto.core.scene.building import build_scene
from skalto.core.scene.choices import SceneChoices, SceneSpec
from skalto.core.scene.meshing import Quality, part_meshes
from skalto.core.scene.solid import Solid, make_solid
from skalto.core.scene.views import Camera, Cut, Lighting, PreparedView, RenderMode, standard_views
from skalto.core.sheets.sheet import SheetSpec
from skalto.core.sources.models.model import Model
from skalto.demo.solids import block, cylinder
from tests.conftest import plate_with_holes
from tests.core.modelled import modelled

SET = PreparedView(
    id="set", name="From the corner", camera=Camera(position=(300, -200, 250), target=(0, 0, 5), up=(0.2, 0, 1), span=90),
    background="#e9e6df", lighting=Lighting.DAY, mode=RenderMode.SOLID_EDGES, hidden=frozenset({"Assembly/Pin"}),
    faded={"Assembly/Plate": 0.4}, cuts=(Cut(along="y", offset=12.5, tilt=(0, 30), flip=True, filled=True, ghost=True),),
)  # fmt: skip


@pytest.fixture(scope="module")
def model(tmp_path_factory: pytest.TempPathFactory) -> Model:
    parts = {"Plate": plate_with_holes(), "Pin": cylinder(12, 60, (25, 15, -10)), "Foot": block(20, 20, 20)}
    return modelled(parts, tmp_path_factory.mktemp("solids"))[0]


def solid_of(model: Model, **fields: object) -> Solid:
    field = Annotation3d.model_validate(
        {"id": "f", "source": "0", "name": "Ebba", "place": (30, 80), "size": (200, 120), "poster_dpi": 100} | fields
    )
    choices = field.choices.model_copy(update={"quality": Quality.DRAFT})
    scene = build_scene(model.tree, part_meshes(model, Quality.DRAFT), SceneSpec(choices=choices))
    return make_solid(field, model.tree, scene, write_u3d(scene))


def pdf_of(solid: Solid, recipe: Recipe = PLAIN, **sheet: object) -> bytes:
    spec = SheetSpec.model_validate({"id": "s", "name": "Sheet", "annotations_3d": (solid.spec,)} | sheet)
    return write_pdf([compose(spec, {}, SheetContext(), {"f": solid})], Metadata("Sheet"), recipe)


@pytest.fixture(scope="module")
def whole(model: Model) -> bytes:
    return pdf_of(solid_of(model, views=(*standard_views(), SET)))


def verdicts(report: Report) -> dict[str, str]:
    return {check.code.removeprefix("solid-"): check.verdict for check in report.checks if check.code.startswith("solid")}


def test_all_that_is_promised_of_a_field_holds(whole: bytes) -> None:
    report = check_pdf(whole, PLAIN)
    found = verdicts(report)
    assert set(found) == {"nodes", "placement", "box", "volume", "views", "poster", "annotation", "size"}
    assert set(found.values()) == {"holds"}, report.checks
    assert report.holds


def test_a_prepared_view_is_read_back_as_it_was_set(whole: bytes) -> None:
    (solid,) = fields_of_pdf(whole)
    assert [view.name for view in solid.views][:3] == ["Overview", "Front", "Top"]
    view = solid.views[-1]
    assert SET.camera is not None
    assert len(SET.cuts) == 1
    assert np.allclose(view.camera.position, SET.camera.position)
    assert np.allclose(view.camera.target, SET.camera.target)
    assert view.camera.span == pytest.approx(90)
    assert view.camera.roll() == pytest.approx(SET.camera.roll(), abs=1e-6)
    assert (view.background, view.lighting, view.mode) == ("#e9e6df", "Day", "SolidWireframe")
    assert view.states == {"Pin": None, "Plate": 0.4}
    assert len(view.cuts) == 1
    assert view.cuts[0].turns == (180, None, 30)
    assert view.cuts[0].centre[1] == 12.5
    assert view.cuts[0].filled
    assert view.cuts[0].ghost
    # the camera's place, point and span, whatever the projection
    assert solid.views[0].camera.perspective
    assert not solid.views[1].camera.perspective


def test_the_dictionaries_are_the_standard_s(whole: bytes) -> None:
    """ISO 32000-1, 13.6: names and types, by an engine that neither wrote nor checked them as such."""
    with pikepdf.open(io.BytesIO(whole)) as pdf:
        (annotation,) = pdf.pages[0].Annots
        assert annotation.Subtype == "/3D"
        assert int(annotation.F) == 4
        mm = [float(v) * 25.4 / 72 for v in annotation.Rect]
        assert mm == pytest.approx([30.5, 80.5, 229.5, 199.5], abs=1e-4)
        assert annotation["/3DD"].Subtype == "/U3D"
        assert annotation["/3DD"].read_bytes()[:4] == b"U3D\0"
        assert int(annotation["/3DD"].DV) == 0
        view = annotation["/3DD"].VA[-1]
        assert view.Type == "/3DView"
        assert view.MS == "/M"
        assert len(view.C2W) == 12
        assert view.P.Subtype == "/O"
        assert float(view.P.OS) == pytest.approx(1 / 90)
        assert view.SA[0].O[1] is None
        assert view.NR is True
        assert {str(row.N) for row in view.NA} == {"Pin", "Plate"}
        activation = annotation["/3DA"]
        assert (activation.A, activation.D, activation.TB, activation.NP) == ("/XA", "/PC", True, False)


def test_qpdf_finds_nothing_and_paper_shows_the_poster(whole: bytes, tmp_path: Path) -> None:
    path = tmp_path / "solid.pdf"
    path.write_bytes(whole)
    run = subprocess.run(["qpdf", "--check", str(path)], capture_output=True, text=True, check=False)
    assert run.returncode == 0, run.stdout + run.stderr
    drawn = np.asarray(pdfium.PdfDocument(whole)[0].render(scale=1).to_pil().convert("L"))
    height = drawn.shape[0]
    x0, y0, x1, y1 = (round(v * 72 / 25.4) for v in (40, 90, 220, 190))
    assert (drawn[height - y1 : height - y0, x0:x1] < 200).mean() > 0.1


def test_how_it_opens_and_measures_is_written(model: Model) -> None:
    opening = Opening(start="page", leave=False, tools=False, tree=True, unit="in")
    (solid,) = fields_of_pdf(pdf_of(solid_of(model, opening=opening, default="top")))
    assert solid.opening == {"A": "PO", "D": "XD", "TB": "no", "NP": "yes"}
    assert solid.first == 2
    assert {view.unit for view in solid.views} == {"in"}


def test_the_same_choices_give_the_same_bytes(model: Model, whole: bytes) -> None:
    assert pdf_of(solid_of(model, views=(*standard_views(), SET))) == whole


def test_a_very_long_page_keeps_the_field_where_it_is(model: Model) -> None:
    data = pdf_of(solid_of(model, place=(5_000, 100)), format="6000x700mm", frame="none")
    (solid,) = fields_of_pdf(data)
    assert solid.box == pytest.approx((5_000.5, 100.5, 5_199.5, 219.5), abs=1e-3)
    assert set(verdicts(check_pdf(data, PLAIN)).values()) == {"holds"}


def test_an_archive_refuses_and_a_cutter_leaves_it_out(model: Model) -> None:
    by_id = {recipe.id: recipe for recipe in SHIPPED_RECIPES}
    with pytest.raises(InputError, match="may not hold a 3D model"):
        pdf_of(solid_of(model), by_id["archive"])
    assert fields_of_pdf(pdf_of(solid_of(model), by_id["cutter"])) == []
    grey = pdf_of(solid_of(model), by_id["grey"])
    drawn = np.asarray(pdfium.PdfDocument(grey)[0].render(scale=1).to_pil()).astype(int)
    assert np.ptp(drawn, axis=2).max() <= 2


def test_locked_and_joined_files_keep_their_fields(model: Model) -> None:
    from skalto.core.checks.joined import Measured, check_joined

    solid = solid_of(model)
    spec = SheetSpec(id="s", name="Sheet", annotations_3d=(solid.spec,))
    made = written([compose(spec, {}, SheetContext(), {"f": solid})], Metadata("Sheet"))
    report = check_pdf(made.data, PLAIN)
    secret = Passwords(open="press")
    both = join([Part(made.data, made.glyphs, "one"), Part(made.data, made.glyphs, "two")], Metadata("Both"), PLAIN, secret)
    whole = check_joined(both.data, [Measured(made.data, report)] * 2, PLAIN, "press")
    assert whole.holds
    assert sum(check.code == "solid-nodes" for check in whole.checks) == 2
    assert len(fields_of_pdf(both.data, "press")) == 2
    with pytest.raises(InputError, match="not a PDF, or is damaged"):
        fields_of_pdf(both.data)


def _changed(data: bytes, change: Callable[[pikepdf.Object], None]) -> Report:
    with pikepdf.open(io.BytesIO(data)) as pdf:
        change(pdf.pages[0].Annots[0])
        out = io.BytesIO()
        pdf.save(out)
    return check_pdf(out.getvalue(), PLAIN)


def _with_u3d(data: bytes, make: Callable[[FoundSolid], bytes]) -> Report:
    other = make(fields_of_pdf(data)[0])
    return _changed(data, lambda annotation: annotation["/3DD"].write(other))


def test_what_is_wrong_with_a_field_is_found(whole: bytes) -> None:
    def renamed(solid: FoundSolid) -> bytes:
        scene = read_u3d(solid.u3d)
        nodes = tuple(replace(n, name="Bolt") if n.name == "Pin" else n for n in scene.nodes)
        return write_u3d(replace(scene, nodes=nodes))

    def shifted(solid: FoundSolid) -> bytes:
        scene = read_u3d(solid.u3d)
        move = np.eye(4)
        move[0, 3] = 0.01
        return write_u3d(replace(scene, nodes=tuple(replace(n, matrix=n.matrix @ move) for n in scene.nodes)))

    def swollen(solid: FoundSolid) -> bytes:
        scene = read_u3d(solid.u3d)
        return write_u3d(replace(scene, meshes=tuple(replace(m, positions=m.positions * 1.05) for m in scene.meshes)))

    assert verdicts(_with_u3d(whole, renamed))["nodes"] == "fails"
    assert verdicts(_with_u3d(whole, shifted))["placement"] == "fails"
    found = verdicts(_with_u3d(whole, swollen))
    assert (found["box"], found["volume"]) == ("fails", "fails")
    short = verdicts(_with_u3d(whole, lambda solid: solid.u3d[:-900]))
    assert short == {"solid": "fails"}

    def looks_away(annotation: pikepdf.Object) -> None:
        annotation["/3DD"].VA[1].C2W[9] = 5_000

    def lost(annotation: pikepdf.Object) -> None:
        del annotation["/3DD"].VA[2]

    def bare(annotation: pikepdf.Object) -> None:
        del annotation["/AP"]

    def unprinted(annotation: pikepdf.Object) -> None:
        annotation.F = 0

    assert verdicts(_changed(whole, looks_away))["views"] == "fails"
    assert verdicts(_changed(whole, lost))["views"] == "fails"
    assert verdicts(_changed(whole, bare))["poster"] == "fails"
    assert verdicts(_changed(whole, unprinted))["annotation"] == "fails"
    report = _changed(whole, unprinted)
    assert not report.holds
    assert any("does not print" in finding.message for finding in report.findings)


@pytest.mark.parametrize(
    "damage",
    [
        lambda a: a.__delitem__("/3DD"),
        lambda a: a["/3DD"].VA[0].__delitem__("/C2W"),
        lambda a: a["/3DD"].VA[0].__setitem__("/C2W", pikepdf.Array([1, 2, 3])),
        lambda a: a["/3DD"].VA[1].P.__setitem__("/OS", 0),
        lambda a: a.__setitem__("/Rect", pikepdf.Array([1, 2])),
        lambda a: a["/3DD"].__setitem__("/Subtype", pikepdf.Name("/PRC")),
    ],
)
def test_a_damaged_annotation_is_told(whole: bytes, damage: Callable[[pikepdf.Object], None]) -> None:
    report = _changed(whole, damage)
    assert verdicts(report) == {"solid": "fails"}
    assert not report.holds


@pytest.mark.parametrize(
    ("fields", "told"),
    [
        ({"size": (5, 100)}, "10 mm or more"),
        ({"views": ()}, "at least 1"),
        ({"views": (SET, SET)}, "same id"),
        ({"views": (SET, SET.model_copy(update={"id": "b"}))}, "give one another name"),
        ({"poster_dpi": 5}, "greater than or equal to 36"),
        ({"choices": {"opacity": {"a": 0}}}, "more than 0"),
    ],
)
def test_a_field_that_cannot_be_is_refused(fields: dict[str, object], told: str) -> None:
    with pytest.raises(ValueError, match=told):
        Annotation3d.model_validate({"id": "f", "source": "0"} | fields)


def test_a_field_outside_its_frame_is_told(model: Model) -> None:
    spec = SheetSpec(id="s", name="Sheet", annotations_3d=(solid_of(model, place=(350, 80)).spec,))
    told = compose(spec, {}, SheetContext(), {}).notices
    assert any("3D annotation Ebba leaves the sheet by 130 mm at the right" in row.message for row in told)


def test_choices_of_a_field_change_what_goes_in(model: Model) -> None:
    solid = solid_of(model, choices=SceneChoices(hidden=frozenset({"Assembly/Pin"}), names="items"))
    names = {node.name for node in read_u3d(solid.u3d).nodes}
    assert names == {"Assembly 1", "1", "2"}


def test_a_check_without_a_recipe_looks_at_the_3d_too(whole: bytes) -> None:
    assert set(verdicts(check_pdf(whole)).values()) == {"holds"}
    assert not _changed(whole, lambda annotation: annotation.__delitem__("/AP")).holds


def test_a_stream_that_unpacks_without_end_is_refused(whole: bytes, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("skalto.core.checks.solids.MOST_BYTES", 2_000)
    with pytest.raises(InputError, match="meant to do harm"):
        fields_of_pdf(whole)


def test_what_is_said_of_a_part_in_pieces_is_said_of_each(tmp_path: Path) -> None:
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeSphere

    ball = modelled(BRepPrimAPI_MakeSphere(25).Shape(), tmp_path)[0]
    faded = PreparedView(id="v", name="Faded", faded={"part": 0.5})
    field = Annotation3d(id="f", source="0", choices=SceneChoices(quality=Quality.FINE), views=(faded,), poster_dpi=36)
    scene = build_scene(ball.tree, part_meshes(ball, Quality.FINE), SceneSpec(choices=field.choices))
    (solid,) = fields_of_pdf(pdf_of(make_solid(field, ball.tree, scene, write_u3d(scene))))
    count = len(scene.nodes[0].meshes)
    assert count > 1
    assert solid.views[0].states == dict.fromkeys(("part", *(f"part · piece {n}" for n in range(1, count + 1))), 0.5)


def test_a_view_that_fades_another_part_is_found(whole: bytes) -> None:
    def fade(annotation: pikepdf.Object, name: str, opacity: str) -> None:
        for view in annotation["/3DD"].VA:
            for row in view.get("/NA", []):
                if str(row.N) == "Plate":
                    row.N, row.O = pikepdf.String(name), Decimal(opacity)

    assert verdicts(_changed(whole, lambda a: fade(a, "Plate", "0.4")))["views"] == "holds"
    assert verdicts(_changed(whole, lambda a: fade(a, "Plate", "0.9")))["views"] == "fails"
    assert verdicts(_changed(whole, lambda a: fade(a, "Foot", "0.4")))["views"] == "fails"


def test_a_part_with_a_display_of_its_own_is_written_read_and_judged(model: Model) -> None:
    drawn = {"Assembly/Pin": RenderMode.WIREFRAME, "Assembly/Foot": RenderMode.TRANSPARENT}
    whole = pdf_of(solid_of(model, views=(SET.model_copy(update={"drawn": drawn, "hidden": frozenset()}),)))
    (found,) = fields_of_pdf(whole)
    (view,) = found.views
    assert view.drawn == {"Pin": "Wireframe", "Foot": "Transparent"}
    # a node of which nothing else is said is neither hidden nor faded
    assert view.states == {"Plate": 0.4}
    assert verdicts(check_pdf(whole, PLAIN))["views"] == "holds"
    assert plain_view(view)["drawn"] == view.drawn

    def otherwise(annotation: pikepdf.Object) -> None:
        for node in annotation["/3DD"].VA[0].NA:
            if node.N == "Pin":
                node.RM.Subtype = pikepdf.Name.Solid

    def unsaid(annotation: pikepdf.Object) -> None:
        for node in annotation["/3DD"].VA[0].NA:
            if node.N == "Foot":
                del node["/RM"]

    assert verdicts(_changed(whole, otherwise))["views"] == "fails"
    assert verdicts(_changed(whole, unsaid))["views"] == "fails"


def test_triangles_that_are_lost_are_found(whole: bytes) -> None:
    def fewer(solid: FoundSolid) -> bytes:
        scene = read_u3d(solid.u3d)
        first = scene.meshes[0]
        thin = replace(first, corners=first.corners[1:], turns=first.turns[1:], shading=first.shading[1:])
        return write_u3d(replace(scene, meshes=(thin, *scene.meshes[1:])))

    found = verdicts(_with_u3d(whole, fewer))
    assert found["size"] == "fails"
    assert found["nodes"] == "holds"


def test_damaged_facts_are_told(whole: bytes) -> None:
    with pikepdf.open(io.BytesIO(whole)) as pdf:
        pdf.pages[0].PieceInfo.Skalto.Private.Solids[0].write(b'{"name": 3}')
        out = io.BytesIO()
        pdf.save(out)
    report = check_pdf(out.getvalue())
    assert verdicts(report) == {"solid": "fails"}
    assert any("is damaged" in finding.message for finding in report.findings)


def test_a_drawing_beside_the_model_is_not_said_to_be_without_scale(model: Model) -> None:
    """Lines on the page whose known lengths the file does not tell."""
    with pikepdf.open(io.BytesIO(pdf_of(solid_of(model, frame=False), clean=True))) as pdf:
        page = pdf.pages[0]
        page.contents_add(b"q 1 w 100 100 m 300 100 l S Q")
        out = io.BytesIO()
        pdf.save(out)
    (told,) = [finding for finding in check_pdf(out.getvalue()).findings if finding.code == "no-known-scale"]
    assert told.message == "Page 1 has no measurement viewport."


def test_a_page_of_nothing_but_the_model_lacks_no_scale(model: Model) -> None:
    bare = pdf_of(solid_of(model, frame=False), clean=True)
    (told,) = [finding for finding in check_pdf(bare).findings if finding.code == "no-known-scale"]
    assert told.level == "info"
    assert told.message == "Page 1 shows its model in 3D alone: nothing on it is drawn to a scale."


def test_the_printer_prints_the_poster(whole: bytes) -> None:
    from skalto.core.checks.printer import printed_pdf
    from skalto.core.checks.printing import Printer

    def dark(data: bytes) -> float:
        drawn = np.asarray(pdfium.PdfDocument(data)[0].render(scale=1).to_pil().convert("L"))
        return float((drawn < 200).mean())

    printed = printed_pdf(whole, Printer(width=420, height=297))
    assert dark(printed) == pytest.approx(dark(whole), rel=0.1)
    assert dark(whole) > 0.03


def test_a_recipe_that_allows_fewer_dots_is_not_complained_of(model: Model) -> None:
    small = next(recipe for recipe in SHIPPED_RECIPES if recipe.id == "small")
    assert small.picture_dpi < 300
    report = check_pdf(pdf_of(solid_of(model, poster_dpi=300), small), small)
    assert verdicts(report)["poster"] == "holds"


def test_fields_that_lie_over_one_another_are_told(model: Model) -> None:
    one, other = solid_of(model).spec, solid_of(model, id="g", name="Other", place=(200, 150)).spec
    told = compose(SheetSpec(id="s", name="Sheet", annotations_3d=(one, other)), {}, SheetContext(), {}).notices
    assert any(
        "The 3D annotation Ebba and the 3D annotation Other lie over one another by 30 × 50 mm" in t.message for t in told
    )
    clean = SheetSpec(id="s", name="Sheet", clean=True, annotations_3d=(other.model_copy(update={"place": (400.0, 10.0)}),))
    assert any("leaves the sheet by 180 mm at the right" in t.message for t in compose(clean, {}, SheetContext(), {}).notices)
